"""Starting the window."""

from __future__ import annotations

import gc
import logging
import sys
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QSettings
from PySide6.QtWidgets import QApplication

from ..demo import demo_document
from ..language import spoken
from ..logs import log_to_file
from .main_icon import icon
from .shell.mishaps import Mishaps
from .shell.window import MainWindow, screen_fits
from .widgets.letters import LETTERS, POINTS, base_font, remembered
from .widgets.spoken_texts import speak
from .widgets.theme import DARK, LIGHT


def make_application() -> QApplication:
    """Return the application object, made once."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        QCoreApplication.setOrganizationName("cryonome")
        QCoreApplication.setApplicationName("cryonome")
        app = QApplication(sys.argv[:1])
    app.setStyle("Fusion")
    app.setFont(base_font())
    app.setWindowIcon(icon())
    app.setDesktopFileName("cryonome")
    return app


def settle_memory() -> None:
    """Take what start-up made out of the garbage collector's rounds, which would else hold the interface now and
    then."""
    gc.collect()
    gc.freeze()


def run(path: Path | None) -> int:
    """Open the window on a document, or on the demo project, and run until it closes."""
    logging.basicConfig(level=logging.WARNING, format="%(levelname)s %(name)s: %(message)s")
    log_to_file()
    app = make_application()
    if spoken():
        speak()
    app.setFont(base_font(POINTS * remembered(QSettings().value(LETTERS))))
    window = MainWindow(demo_document() if path is None else None)
    window.set_theme(DARK if window.settings.value("theme") == "dark" else LIGHT)
    screen_fits(window)
    Mishaps(lambda: window.store.document, window.tell).install()
    # Not left to the last window: whatever else may stand open, the program ends with this one.
    window.closed.connect(app.quit)
    window.show()
    screen_fits(window)
    settle_memory()
    window.make_pages_ahead(settle_memory)
    if path is not None:
        window.open_path(path)
    else:
        window.offer_recovery()
        if not window.settings.value("welcomed"):
            window.show_welcome()
    return int(app.exec())
