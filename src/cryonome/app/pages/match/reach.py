"""What can move what: a row a parameter, a bar a kind of data; a click takes the parameter into the fit or out of
it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from ...widgets.fields import tip
from ...widgets.letters import pixels, point_size, sized
from ...widgets.theme import LIGHT, Theme

ROW = 21
HEAD = 20
NAMES = 208
"""Pixels of a row, of the line of kinds, and of the names."""
FULL = 4.0
"""Standard deviations at which a bar is some two thirds full."""


@dataclass(frozen=True)
class ReachRow:
    """A parameter: its label, whether it is fitted, and by kind how many standard deviations it moves the data."""

    label: str
    taken: bool
    reach: tuple[float, ...]


class Reach(QWidget):
    """The rows. The arrow keys go from row to row, the space bar takes a parameter in or out."""

    toggled = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("What can move what")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.theme: Theme = LIGHT
        self.rows: tuple[ReachRow, ...] = ()
        self.kinds: tuple[str, ...] = ()
        self._at = 0

    def show_rows(self, kinds: Sequence[str], rows: Sequence[ReachRow]) -> None:
        """Show parameters over kinds of data."""
        if (tuple(kinds), tuple(rows)) != (self.kinds, self.rows):
            self.kinds, self.rows = tuple(kinds), tuple(rows)
            self._at = min(self._at, max(len(self.rows) - 1, 0))
            sized(self, fixed_height=HEAD + ROW * len(self.rows) + 2)
            told = [f"{r.label}, {'fitted' if r.taken else 'not fitted'}" for r in self.rows]
            self.setAccessibleDescription("; ".join(told))
            self.update()

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(460, pixels(HEAD) + pixels(ROW) * len(self.rows))

    def _row_at(self, at: QPoint) -> int:
        row = (at.y() - pixels(HEAD)) // pixels(ROW)
        return row if 0 <= row < len(self.rows) else -1

    def _column(self) -> float:
        return (self.width() - pixels(NAMES)) / max(len(self.kinds), 1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = self._row_at(event.position().toPoint())
        if row >= 0:
            self._at = row
            self.toggled.emit(self.rows[row].label)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.rows:
            self._at = int(np.clip(self._at + (1 if key == Qt.Key.Key_Down else -1), 0, len(self.rows) - 1))
            self.update()
        elif key in (Qt.Key.Key_Space, Qt.Key.Key_Return) and self.rows:
            self.toggled.emit(self.rows[self._at].label)
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            row = self._row_at(event.pos())
            if row >= 0:
                told = [f"{k}: {v:.2g}" for k, v in zip(self.kinds, self.rows[row].reach)]
                words = f"{self.rows[row].label}, over its usual width, moves in standard deviations\n" + "\n".join(
                    told
                )
                QToolTip.showText(event.globalPos(), tip(words), self)
                return True
        return super().event(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = self.theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        font = QFont(self.font())
        font.setPointSizeF(point_size(8.0))
        painter.setFont(font)
        painter.setPen(QColor(t.mute))
        wide = self._column()
        for k, kind in enumerate(self.kinds):
            box = QRectF(pixels(NAMES) + k * wide, 0, wide - 4, pixels(HEAD) - 4)
            text = painter.fontMetrics().elidedText(kind, Qt.TextElideMode.ElideRight, int(box.width()))
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
        for i, row in enumerate(self.rows):
            self._paint_row(painter, i, row, wide)
        painter.end()

    def _paint_row(self, painter: QPainter, i: int, row: ReachRow, wide: float) -> None:
        t = self.theme
        top = pixels(HEAD) + i * pixels(ROW)
        square = QRectF(1, top + 3.5, 13, 13)
        painter.setPen(QPen(QColor(t.accent if row.taken else t.hair), 1.2))
        painter.setBrush(QColor(t.accent if row.taken else t.surface))
        painter.drawRoundedRect(square, 3, 3)
        if row.taken:
            painter.setPen(QPen(QColor(t.surface), 1.8))
            painter.drawPolyline([QPointF(4.0, top + 10), QPointF(6.5, top + 13), QPointF(11, top + 7)])
        font = QFont(self.font())
        font.setPointSizeF(point_size(9.0))
        font.setWeight(QFont.Weight.DemiBold if row.taken else QFont.Weight.Normal)
        painter.setFont(font)
        painter.setPen(QColor(t.ink))
        text = painter.fontMetrics().elidedText(row.label, Qt.TextElideMode.ElideRight, pixels(NAMES) - 30)
        painter.drawText(QRectF(22, top, pixels(NAMES) - 26, pixels(ROW)), Qt.AlignmentFlag.AlignVCenter, text)
        if self.hasFocus() and i == self._at:
            painter.setPen(QPen(QColor(t.accent), 1.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(0.5, top + 1.5, pixels(NAMES) - 8, pixels(ROW) - 4), 3, 3)
        painter.setPen(Qt.PenStyle.NoPen)
        for k, reach in enumerate(row.reach):
            ground = QRectF(pixels(NAMES) + k * wide, top + 3.5, wide - 6, pixels(ROW) - 8)
            painter.setBrush(QColor(t.sunk))
            painter.drawRoundedRect(ground, 2, 2)
            share = float(-np.expm1(-abs(reach) / FULL)) if np.isfinite(reach) else 0.0
            colour = QColor(t.accent if row.taken else t.mute)
            colour.setAlphaF(0.55)
            painter.setBrush(colour)
            if share > 0.01:
                painter.drawRoundedRect(
                    QRectF(ground.left(), ground.top(), share * ground.width(), ground.height()), 2, 2
                )
