"""The PDF of a report without a window."""

from __future__ import annotations

import logging
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QRectF, qInstallMessageHandler
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtSvg import QSvgRenderer

from ...document.files import write_atomic
from ...reporting.parts import Content
from ..main import make_application
from .pdf import write_pdf

log = logging.getLogger(__name__)


def pdf_without_window(content: Content, path: Path) -> int:
    """Write a report as PDF where no window is open; return the number of its pages. Raises OSError."""
    qInstallMessageHandler(_message)
    make_application()
    return len(write_pdf(content, path).sheets)


def png_without_window(svg: str, path: Path, width: int, height: int, dpi: float) -> None:
    """Write a picture given as SVG as PNG of so many pixels, which says how many are an inch. Raises OSError."""
    qInstallMessageHandler(_message)
    make_application()
    image = QImage(width, height, QImage.Format.Format_RGB32)
    if image.isNull():
        raise OSError("the picture is too large")
    image.fill(QColor("white"))
    dots = round(dpi / 0.0254)
    image.setDotsPerMeterX(dots)
    image.setDotsPerMeterY(dots)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    QSvgRenderer(QByteArray(svg.encode())).render(painter, QRectF(0.0, 0.0, width, height))
    painter.end()
    packed = QBuffer()
    packed.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(packed, "PNG")  # type: ignore[call-overload]  # the format's name may be text
    write_atomic(path, bytes(packed.data().data()))


def _message(_kind: object, _context: object, text: str) -> None:
    # Qt's offscreen platform remarks on every window that it has no screen.
    if "propagateSizeHints" not in text:
        log.warning("%s", text)
