"""The full example without a window on a screen: answers, pictures of every desk, and a report."""

from __future__ import annotations

import json
import logging
import time
from pathlib import Path

from jinja2 import Environment, PackageLoader
from PySide6.QtCore import QCoreApplication, QEvent, qInstallMessageHandler
from PySide6.QtWidgets import QApplication

from ..demo import demo_document
from ..document import Document
from ..studies import solve
from .main import make_application
from .theme import DARK, LIGHT, Theme
from .window import TITLES, MainWindow

log = logging.getLogger(__name__)

PATIENCE = 60.0
"""s to wait for the background work of a picture."""


def _message(_kind: object, _context: object, text: str) -> None:
    if "propagateSizeHints" not in text:
        log.warning("%s", text)


def settle(window: MainWindow) -> None:
    """Let the window work until nothing is computed any more."""
    end = time.monotonic() + PATIENCE
    quiet = 0
    while time.monotonic() < end and quiet < 3:
        QApplication.processEvents()
        time.sleep(0.02)
        busy = any(window.jobs.busy(slot) for slot in ("map", "probe", "margins", "lumping")) or window.live.pending()
        quiet = 0 if busy else quiet + 1


def pictures(window: MainWindow, folder: Path, themes: tuple[Theme, ...] = (LIGHT, DARK)) -> list[Path]:
    """Save a picture of every desk in the given themes."""
    out = []
    folder.mkdir(parents=True, exist_ok=True)
    window.resize(1280, 800)
    for theme in themes:
        window.set_theme(theme)
        for i, title in enumerate(TITLES):
            window.show_desk(i)
            if i == 3 and window.live.map.value is not None:
                window.map.place_probe(505.15, 36e5)
            settle(window)
            suffix = "" if theme is LIGHT else "-dark"
            path = folder / f"{title.lower().replace(' ', '-')}{suffix}.png"
            window.grab().save(str(path))
            out.append(path)
    return out


def write_report(document: Document | None, folder: Path) -> Path:
    """Write answers, pictures and a page that shows both; return the page. Raises OSError, DocumentError."""
    folder.mkdir(parents=True, exist_ok=True)
    document = document if document is not None else demo_document()
    answers = solve(document)
    (folder / "answers.json").write_text(json.dumps(answers, ensure_ascii=False, indent=1), encoding="utf-8")
    # Qt's offscreen platform remarks on every window that it has no screen.
    qInstallMessageHandler(_message)
    make_application()
    window = MainWindow(document)
    window.show()
    shots = pictures(window, folder)
    window.map.plot.save(folder / "phase-map.svg")
    window.map.plot.save(folder / "phase-map.csv")
    window.store.undo_stack.setClean()
    window.close()
    window.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    environment = Environment(loader=PackageLoader("cryonome.app", "templates"), autoescape=True)
    page = folder / "report.html"
    text = environment.get_template("report.html.j2").render(
        document=document,
        answers=answers["answers"],
        pictures=[p.name for p in shots],
        kinds={s.name: s.kind for s in document.studies},
    )
    page.write_text(text, encoding="utf-8")
    return page
