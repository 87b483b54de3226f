"""The trail: the path of the chosen fluid from lab data to answers, a card a step; it is the navigation."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPolygonF,
    QResizeEvent,
)
from PySide6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from ..pages.shared.desk import DeskEntry, desk_entries
from ..widgets.fields import page_button, tip
from ..widgets.flow import FlowLayout
from ..widgets.letters import letter_scale, pixels, point_size, sized
from ..widgets.theme import LIGHT, Theme
from .live import Live

TOLD = frozenset({"selection", "sample", "fluid", "map", "lines", "lumping", "answer"})
"""Results that cards tell of; what follows the pointer is not among them."""


@dataclass(frozen=True)
class CardState:
    """What a card shows: its mark ("done", "look", "open", "work") and one line."""

    mark: str
    line: str


class Card(QWidget):
    """One step: a round mark (complete), a triangle (look here), an open ring (nothing yet), a turning arc
    (working)."""

    chosen = Signal(str)

    def __init__(self, key: str, title: str, last: bool) -> None:
        super().__init__()
        self.key, self.title, self.last = key, title, last
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
        sized(self, least_width=112, least_height=58)
        self.setAccessibleName(title)

    def sizeHint(self) -> QSize:
        return QSize(pixels(200), pixels(58))

    def show_state(self, state: CardState) -> None:
        """Show a state."""
        self.state = state
        self.setToolTip(tip(state.line))
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
        self.chosen.emit(self.key)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._by_keyboard = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space, Qt.Key.Key_Enter):
            self.chosen.emit(self.key)
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
        k = letter_scale()
        self._paint_mark(painter, QPointF(body.left() + 13, body.top() + 16 * k))
        font = QFont(self.font())
        font.setWeight(QFont.Weight.DemiBold)
        font.setPointSizeF(point_size(10.0))
        painter.setFont(font)
        painter.setPen(QColor(t.ink))
        left = body.left() + 24
        title = QRectF(left, body.top() + 6 * k, body.width() - 28, 20 * k)
        painter.drawText(title, Qt.AlignmentFlag.AlignVCenter, painter.fontMetrics().elidedText(self.title, Qt.TextElideMode.ElideRight, int(title.width())))  # fmt: skip
        font.setWeight(QFont.Weight.Normal)
        font.setPointSizeF(point_size(8.5))
        painter.setFont(font)
        painter.setPen(QColor(t.mute))
        line = painter.fontMetrics().elidedText(self.state.line, Qt.TextElideMode.ElideRight, int(body.width() - 16))
        painter.drawText(
            QRectF(body.left() + 8, body.top() + 27 * k, body.width() - 12, 18 * k), Qt.AlignmentFlag.AlignVCenter, line
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


APART = 9
"""Pixels between groups of pages."""

CARDS, ROW = 64, 30
"""Pixels that the cards are high, and a row of pages at least."""

INDENT = 213
"""Pixels that the row of pages begins to the right, past the shelf."""


class Trail(QFrame):
    """The row of cards, and below it the pages of the chosen card where it has several. Reads the registry of desks."""

    chosen = Signal(str)

    def __init__(self, live: Live) -> None:
        super().__init__()
        self.setObjectName("trail")
        self._live = live
        self._entries = desk_entries()
        self._current = ""
        keys = list(dict.fromkeys(e.card or e.key for e in self._entries))
        self.cards: dict[str, Card] = {}
        row = QHBoxLayout()
        row.setContentsMargins(8, 2, 8, 3)
        row.setSpacing(4)
        for i, key in enumerate(keys):
            first = next(e for e in self._entries if (e.card or e.key) == key)
            card = Card(key, first.card_title or first.title, i == len(keys) - 1)
            card.chosen.connect(self._card_chosen)
            self.cards[key] = card
            row.addWidget(card, 1)
        row.addStretch(1)
        self.pages = QWidget()
        self._flow = FlowLayout(self.pages, 0, 0)
        self.chips: dict[str, QToolButton] = {}
        self._gaps: dict[str, QWidget] = {}
        for entry in self._entries:
            if entry.card:
                self.chips[entry.key] = page_button(entry.title, lambda _on, k=entry.key: self.chosen.emit(k))
                if entry.apart:
                    gap = self._gaps[entry.key] = QWidget()
                    gap.setFixedSize(APART, 1)
                    self._flow.addWidget(gap)
                self._flow.addWidget(self.chips[entry.key])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(row)
        self._row = QHBoxLayout()
        self._row.addWidget(self.pages)
        layout.addLayout(self._row)
        again = live.after(self, TOLD, self.refresh)
        live.jobs.busy_changed.connect(again)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._indent()

    def _indent(self) -> None:
        """Begin the row of pages below the shelf's edge, or further left where there is no room for that; names that
        have none even so go on in a second line."""
        parts = [w for w in (*self.chips.values(), *self._gaps.values()) if not w.isHidden()]
        wide = sum(w.sizeHint().width() if isinstance(w, QToolButton) else APART for w in parts)
        left = max(min(INDENT, self.width() - wide - 8), 8)
        self._row.setContentsMargins(left, 0, 8, 0)
        high = self._flow.heightForWidth(self.width() - left - 8) if parts and not self.pages.isHidden() else 0
        self.pages.setFixedHeight(high)
        self.setFixedHeight(pixels(CARDS) + (max(high, pixels(ROW)) if high else 0))

    def _card_chosen(self, key: str) -> None:
        pages = self._pages(key)
        # A click on the card of the open page stays on that page.
        self.chosen.emit(self._current if self._current in [e.key for e in pages] else pages[0].key)

    def _pages(self, card: str) -> list[DeskEntry]:
        return [e for e in self._entries if (e.card or e.key) == card]

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        for card in self.cards.values():
            card.theme = theme
            card.updateGeometry()
            card.update()
        self._indent()

    def set_current(self, key: str) -> None:
        """Mark the card, and the page, of the open desk."""
        self._current = key
        entry = next(e for e in self._entries if e.key == key)
        for card in self.cards.values():
            card.current = card.key == (entry.card or entry.key)
            card.update()
        several = len(self._pages(entry.card)) > 1 if entry.card else False
        self.pages.setVisible(several)
        for page, chip in self.chips.items():
            chip.setChecked(page == key)
            own = next(e for e in self._entries if e.key == page)
            chip.setVisible(own.card == entry.card and own.there())
            if page in self._gaps:
                self._gaps[page].setVisible(own.card == entry.card and own.there())
        self._indent()

    def refresh(self) -> None:
        """Show the state of every card."""
        for key, card in self.cards.items():
            first = self._pages(key)[0]
            state = CardState(first.mark(self._live), first.line(self._live))
            if state != card.state:
                card.show_state(state)
