"""A layer of a picture as a small square in the colour and stroke of its lines, filled where it is shown."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton

from .theme import LIGHT, Theme

SIDE, GAP = 11, 6
"""Pixels of the square, and between it and its word."""

STROKES = {
    "line": Qt.PenStyle.SolidLine,
    "dash": Qt.PenStyle.DashLine,
    "dot": Qt.PenStyle.DotLine,
    "area": Qt.PenStyle.NoPen,
}


class LayerSquare(QAbstractButton):
    """A layer that is on or off. ``colour`` is the name of a colour of the theme, ``stroke`` one of :data:`STROKES`."""

    def __init__(self, words: str, colour: str, stroke: str, call: Callable[[bool], object], note: str = "") -> None:
        super().__init__()
        self.setText(words)
        self.setAccessibleName(words)
        self.setCheckable(True)
        self.setToolTip(note)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._colour, self._stroke = colour, stroke
        self.theme: Theme = LIGHT
        # Called by its one argument, whatever kind of callable it is.
        self.clicked.connect(lambda on: call(on))  # noqa: PLW0108

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.update()

    def sizeHint(self) -> QSize:
        metrics = self.fontMetrics()
        return QSize(SIDE + GAP + metrics.horizontalAdvance(self.text()) + 12, metrics.height() + 8)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent) -> None:
        t, on = self.theme, self.isChecked()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colour = QColor(getattr(t, self._colour))
        top = (self.height() - SIDE) / 2.0
        box = QRectF(1.0, top, SIDE, SIDE)
        ground = QColor(colour)
        ground.setAlpha(70 if on else 0)
        painter.setBrush(ground)
        painter.setPen(QPen(colour if on else QColor(t.mute), 1.2))
        painter.drawRoundedRect(box, 2, 2)
        if on and STROKES[self._stroke] != Qt.PenStyle.NoPen:
            pen = QPen(colour, 2.2, STROKES[self._stroke])
            pen.setDashPattern([1.6, 1.0]) if self._stroke == "dash" else None
            painter.setPen(pen)
            painter.drawLine(box.bottomLeft(), box.topRight())
        painter.setPen(QColor(t.ink if on else t.mute))
        painter.drawText(
            QRectF(SIDE + GAP, 0, self.width() - SIDE - GAP, self.height()),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft,
            self.text(),
        )
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.accent), 1.0, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(0.5, 0.5, self.width() - 1.0, self.height() - 1.0))
