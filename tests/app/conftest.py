"""The real window, offscreen, on the demo project."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtWidgets import QMessageBox

from cryonome.app.main import make_application
from cryonome.app.shell import live
from cryonome.app.shell.window import MainWindow
from cryonome.app.widgets.theme import LIGHT
from cryonome.demo import demo_document as whole
from cryonome.results import Evaluator
from window_demo import demo_document

SHARED = Evaluator()
"""Results are remembered by their content, so that tests of the window need not compute the demo again and again."""
SHARED.cache._size = 4096


@pytest.fixture(scope="session")
def qapp():
    return make_application()


def _shown(monkeypatch, document):
    """Return a settled window that shows the recombined crude; every message box is answered with Discard."""
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    monkeypatch.setattr(live, "Evaluator", lambda: SHARED)
    w = MainWindow(document)
    w.live.select_fluid("Varnholt recombined")
    w.set_theme(LIGHT)
    w.show()
    w.live.come_to_rest()
    return w


def _gone(w):
    w.close()
    w.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture
def window(qapp, qtbot, monkeypatch):
    """Return a window on the demo project without its lab reports."""
    w = _shown(monkeypatch, demo_document())
    yield w
    _gone(w)


@pytest.fixture
def whole_window(qapp, qtbot, monkeypatch):
    """Return a window on the whole demo project."""
    w = _shown(monkeypatch, whole())
    yield w
    _gone(w)
