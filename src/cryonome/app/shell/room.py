"""The place of a page: it fills what there is, and scrolls where the page needs more."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QScrollArea, QWidget

from ..widgets.letters import pixels

TALLEST = 540
"""Pixels, beside letters of the usual size, that a page is given at least, whatever it asks for: tables and plots give way before a page scrolls."""


class Room(QScrollArea):
    """A page in its place. It is not Qt's own resizing, which would give a page with wrapped words all the height it
    would like."""

    def __init__(self, page: QWidget) -> None:
        super().__init__()
        self._page = page
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidget(page)
        page.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._page and event.type() == QEvent.Type.LayoutRequest:
            self._fit()
        return super().eventFilter(watched, event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """Give the page the room there is, at least what it needs."""
        least, room = self._page.minimumSizeHint(), self.maximumViewportSize()
        width, height = max(least.width(), room.width()), max(min(least.height(), pixels(TALLEST)), room.height())
        # A bar at one side takes from the other.
        bar = self.verticalScrollBar().sizeHint().width()
        if height > room.height():
            width = max(least.width(), room.width() - bar)
        if width > room.width():
            height = max(min(least.height(), pixels(TALLEST)), room.height() - bar)
        if (width, height) != (self._page.width(), self._page.height()):
            self._page.resize(width, height)
