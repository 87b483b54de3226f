"""The pages of a report on the screen, one below the other, as they will be on paper."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPicture, QResizeEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from ..widgets.theme import LIGHT, Theme
from .pages import Pages
from .type_setting import paint

GAP = 14
"""Pixels between pages."""
WIDEST = 980
"""Pixels a page is wide at most."""


class _Sheets(QWidget):
    def __init__(self) -> None:
        super().__init__()
        self.pages: Pages | None = None
        self.theme: Theme = LIGHT
        self._drawn: dict[int, QPicture] = {}

    def show_pages(self, pages: Pages | None) -> None:
        self.pages, self._drawn = pages, {}
        self.fit(self.width())

    def fit(self, width: int) -> None:
        """Take the height that the pages have at a width."""
        count = len(self.pages.sheets) if self.pages is not None else 0
        self.setFixedHeight(int(count * (self._height(width) + GAP) + GAP))
        self.update()

    def _scale(self, width: int) -> float:
        assert self.pages is not None
        return (min(width, WIDEST) - 2 * GAP) / self.pages.size[0]

    def _height(self, width: int) -> float:
        return self._scale(width) * self.pages.size[1] if self.pages is not None else 0.0

    def top_of(self, number: int) -> int:
        """Return where a page begins, from 1."""
        return int((number - 1) * (self._height(self.width()) + GAP))

    def sizeHint(self) -> QSize:
        return QSize(400, self.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(event.rect(), QColor(self.theme.sunk))
        if self.pages is None:
            return
        scale, height = self._scale(self.width()), self._height(self.width())
        left = (self.width() - scale * self.pages.size[0]) / 2.0
        for i, sheet in enumerate(self.pages.sheets):
            top = GAP + i * (height + GAP)
            if top > event.rect().bottom() or top + height < event.rect().top():
                continue
            painter.fillRect(QRectF(left, top, scale * self.pages.size[0], height), QColor("#FFFFFF"))
            if i not in self._drawn:
                # A page is painted once and kept, so that scrolling lays out no letters.
                picture = QPicture()
                inner = QPainter(picture)
                paint(inner, sheet)
                inner.end()
                self._drawn[i] = picture
            painter.save()
            painter.translate(left, top)
            painter.scale(scale, scale)
            painter.drawPicture(0, 0, self._drawn[i])
            painter.restore()


class SheetsView(QScrollArea):
    """Pages that scroll."""

    def __init__(self) -> None:
        super().__init__()
        self.sheets = _Sheets()
        self.setWidget(self.sheets)
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setAccessibleName("Pages of the report")

    def show_pages(self, pages: Pages | None) -> None:
        """Show other pages; what was looked at stays in sight."""
        at = self.verticalScrollBar().value()
        self.sheets.show_pages(pages)
        self.verticalScrollBar().setValue(at)

    def set_theme(self, theme: Theme) -> None:
        """Paint what is around the pages in a theme; paper is white."""
        self.sheets.theme = theme
        self.sheets.update()

    def show_page(self, number: int) -> None:
        """Scroll to a page, from 1."""
        self.verticalScrollBar().setValue(self.sheets.top_of(number))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.sheets.fit(self.viewport().width())
