"""A layout that sets its parts one after the other, in as many lines as they need."""

from __future__ import annotations

from PySide6.QtCore import QMargins, QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QSizePolicy, QWidget

CLOSING = "tight"
"""Property of a part that stands close to the one before it, as a comma does."""


class FlowLayout(QLayout):
    """Parts in lines, the parts of a line centred on it."""

    def __init__(self, parent: QWidget | None = None, gap: int = 6, leading: int = 6) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._gap, self._leading = gap, leading
        self.setContentsMargins(QMargins(0, 0, 0, 0))

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def take_all(self) -> list[QWidget]:
        """Take every part out; return them in their order."""
        found = [w for item in self._items if (w := item.widget()) is not None]
        self._items.clear()
        return found

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._arranged(QRect(0, 0, width, 0), False)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        size = QSize()
        for item in self._items:
            size = size.expandedTo(item.minimumSize())
        return size

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._arranged(rect, True)

    def _arranged(self, rect: QRect, place: bool) -> int:
        """Set the parts into a place; return the height they need."""
        y, width = rect.y(), 0
        line: list[tuple[QLayoutItem, int, QSize]] = []
        placed: list[tuple[QLayoutItem, int, QSize]] = []

        def end(line: list[tuple[QLayoutItem, int, QSize]], top: int) -> int:
            high = max((s.height() for _, _, s in line), default=0)
            if place:
                for item, x, size in line:
                    item.setGeometry(QRect(QPoint(rect.x() + x, top + (high - size.height()) // 2), size))
            return top + high + self._leading

        for item in self._items:
            widget = item.widget()
            if widget is not None and widget.isHidden():
                continue
            size = item.sizeHint().boundedTo(QSize(max(rect.width(), 1), 10_000))
            tight = widget is not None and bool(widget.property(CLOSING))
            gap = (0 if tight else self._gap) if line else 0
            if line and width + gap + size.width() > rect.width() and not tight:
                y, line, width, gap = end(line, y), [], 0, 0
            line.append((item, width + gap, size))
            placed.append(line[-1])
            width += gap + size.width()
        if line:
            y = end(line, y)
        return max(y - rect.y() - (self._leading if placed else 0), 0)


class FlowBox(QWidget):
    """A widget that is as high as its flow needs at its width."""

    def __init__(self, parent: QWidget | None = None, gap: int = 6) -> None:
        super().__init__(parent)
        self.flow = FlowLayout(self, gap)
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
