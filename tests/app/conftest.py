"""The real window, offscreen, on the demo project."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtWidgets import QMessageBox

from cryonome.app.main import make_application
from cryonome.app.offscreen import settle
from cryonome.app.theme import LIGHT
from cryonome.app.window import MainWindow
from cryonome.demo import demo_document


@pytest.fixture(scope="session")
def qapp():
    return make_application()


@pytest.fixture
def window(qapp, qtbot, monkeypatch):
    """Return a settled window; every message box is answered with Discard."""
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    w = MainWindow(demo_document())
    w.set_theme(LIGHT)
    w.show()
    settle(w)
    yield w
    w.close()
    w.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
