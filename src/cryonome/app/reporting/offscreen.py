"""The PDF of a report without a window."""

from __future__ import annotations

import logging
from pathlib import Path

from PySide6.QtCore import qInstallMessageHandler

from ...reporting.parts import Content
from ..main import make_application
from .pdf import write_pdf

log = logging.getLogger(__name__)


def pdf_without_window(content: Content, path: Path) -> int:
    """Write a report as PDF where no window is open; return the number of its pages. Raises OSError."""
    qInstallMessageHandler(_message)
    make_application()
    return len(write_pdf(content, path).sheets)


def _message(_kind: object, _context: object, text: str) -> None:
    # Qt's offscreen platform remarks on every window that it has no screen.
    if "propagateSizeHints" not in text:
        log.warning("%s", text)
