"""The trail: the path of the chosen fluid from lab data to answers, a card a step; it is the navigation."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFocusEvent, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QFrame, QHBoxLayout, QWidget

from .theme import LIGHT, Theme


@dataclass(frozen=True)
class CardState:
    """What a card shows: its mark ("done", "look", "open", "work") and one line."""

    mark: str
    line: str


class Card(QWidget):
    """One step: a round mark (complete), a triangle (look here), an open ring (nothing yet), a turning arc (working)."""

    chosen = Signal(int)

    def __init__(self, index: int, title: str, last: bool) -> None:
        super().__init__()
        self.index, self.title, self.last = index, title, last
        self.state = CardState("open", "")
        self.current = False
        self.theme = LIGHT
        self._angle = 0
        self._by_keyboard = False
        self._turn = QTimer(self)
        self._turn.setInterval(60)
        self._turn.timeout.connect(self._step)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMinimumSize(150, 58)
        self.setAccessibleName(title)

    def sizeHint(self) -> QSize:
        return QSize(200, 58)

    def show_state(self, state: CardState) -> None:
        """Show a state."""
        self.state = state
        self.setToolTip(state.line)
        self.setAccessibleDescription(f"{state.line} ({state.mark})")
        if state.mark == "work":
            self._turn.start()
        else:
            self._turn.stop()
        self.update()

    def _step(self) -> None:
        self._angle = (self._angle + 24) % 360
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.chosen.emit(self.index)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._by_keyboard = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space, Qt.Key.Key_Enter):
            self.chosen.emit(self.index)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = self.theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width = self.width() - (14 if not self.last else 0)
        body = QRectF(0, 4, width - 6, self.height() - 8)
        if self.current:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.tint))
            painter.drawRoundedRect(body, 5, 5)
            painter.setBrush(QColor(t.accent))
            painter.drawRect(QRectF(body.left() + 6, body.bottom() - 3, body.width() - 12, 3))
        if self.hasFocus() and self._by_keyboard:
            painter.setPen(QColor(t.accent))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(body, 5, 5)
        self._paint_mark(painter, QPointF(body.left() + 13, body.top() + 16))
        font = QFont(self.font())
        font.setWeight(QFont.Weight.DemiBold)
        font.setPointSizeF(10.0)
        painter.setFont(font)
        painter.setPen(QColor(t.ink))
        left = body.left() + 24
        painter.drawText(QRectF(left, body.top() + 6, body.width() - 28, 20), Qt.AlignmentFlag.AlignVCenter, self.title)
        font.setWeight(QFont.Weight.Normal)
        font.setPointSizeF(8.5)
        painter.setFont(font)
        painter.setPen(QColor(t.mute))
        line = painter.fontMetrics().elidedText(self.state.line, Qt.TextElideMode.ElideRight, int(body.width() - 16))
        painter.drawText(
            QRectF(body.left() + 8, body.top() + 27, body.width() - 12, 18), Qt.AlignmentFlag.AlignVCenter, line
        )
        if not self.last:
            painter.setPen(QColor(t.hair))
            x, y = self.width() - 14.0, self.height() / 2.0
            painter.drawPolyline(QPolygonF([QPointF(x, y - 8), QPointF(x + 5, y), QPointF(x, y + 8)]))

    def _paint_mark(self, painter: QPainter, at: QPointF) -> None:
        t, mark = self.theme, self.state.mark
        painter.setPen(Qt.PenStyle.NoPen)
        if mark == "done":
            painter.setBrush(QColor(t.good))
            painter.drawEllipse(at, 4, 4)
        elif mark == "look":
            painter.setBrush(QColor(t.fault))
            painter.drawPolygon(QPolygonF([at + QPointF(0, -5), at + QPointF(5, 4), at + QPointF(-5, 4)]))
        else:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            pen = painter.pen()
            pen.setStyle(Qt.PenStyle.SolidLine)
            pen.setColor(QColor(t.mute if mark == "open" else t.accent))
            pen.setWidthF(1.6)
            painter.setPen(pen)
            box = QRectF(at.x() - 4, at.y() - 4, 8, 8)
            if mark == "open":
                painter.drawEllipse(box)
            else:
                painter.drawArc(box, -self._angle * 16, 250 * 16)


class Trail(QFrame):
    """The row of cards."""

    chosen = Signal(int)

    def __init__(self, titles: list[str]) -> None:
        super().__init__()
        self.setObjectName("trail")
        self.setFixedHeight(64)
        self.cards = [Card(i, title, i == len(titles) - 1) for i, title in enumerate(titles)]
        layout = QHBoxLayout(self)
        layout.setContentsMargins(8, 2, 8, 3)
        layout.setSpacing(4)
        for card in self.cards:
            card.chosen.connect(self.chosen)
            layout.addWidget(card, 1)
        layout.addStretch(1)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        for card in self.cards:
            card.theme = theme
            card.update()

    def set_current(self, index: int) -> None:
        """Mark the card of the open desk."""
        for card in self.cards:
            card.current = card.index == index
            card.update()
