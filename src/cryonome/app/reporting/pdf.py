"""A report as PDF, and on a printer: Qt paints its pages on either."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF
from PySide6.QtGui import QPagedPaintDevice, QPageLayout, QPageSize, QPainter, QPdfWriter

from ...document.files import write_atomic
from ...reporting.parts import Content
from ...version import VERSION
from .pages import PAPERS, Pages, laid_out
from .type_setting import paint

DOTS = 1200
"""Dots per inch that places are rounded to; letters and lines stay what they are."""


def write_pdf(content: Content, path: Path, pages: Pages | None = None) -> Pages:
    """Write a report as PDF, whole or not at all; return its pages, which may be given. Raises OSError."""
    pages = pages or laid_out(content)
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(content.title)
    writer.setCreator(f"Cryonome {VERSION}")
    writer.setResolution(DOTS)
    paint_on(writer, pages, content.paper)
    buffer.close()
    write_atomic(path, bytes(buffer.data().data()))
    return pages


def paint_on(device: QPagedPaintDevice, pages: Pages, paper: str) -> None:
    """Paint pages on a paged device: a PDF or a printer. Raises OSError where it takes none."""
    device.setPageLayout(
        QPageLayout(QPageSize(PAPERS[paper]), QPageLayout.Orientation.Portrait, QMarginsF(0.0, 0.0, 0.0, 0.0))
    )
    painter = QPainter()
    if not painter.begin(device):
        raise OSError("the printer takes no pages")
    try:
        scale = painter.device().logicalDpiX() / 72.0
        for i, sheet in enumerate(pages.sheets):
            if i:
                device.newPage()
            painter.save()
            painter.scale(scale, scale)
            paint(painter, sheet)
            painter.restore()
    finally:
        painter.end()
