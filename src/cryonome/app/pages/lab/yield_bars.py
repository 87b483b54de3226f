"""The yields by product range as bars with their numbers."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from ...shell.live import Live
from ...widgets.theme import LIGHT, Theme


class YieldBars(QWidget):
    """One bar a product: name, bar, percent by volume."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        self.theme = LIGHT
        self.setMinimumHeight(110)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.update()

    def refresh(self) -> None:
        """Show the selected sample's yields."""
        result = self._live.characterized()
        lines = [f"{y.name} {100 * y.volume:.1f} vol%" for y in result.yields] if result else []
        self.setAccessibleName("Yields: " + ", ".join(lines))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        result, t = self._live.characterized(), self.theme
        bold = QFont(self.font())
        bold.setWeight(QFont.Weight.DemiBold)
        painter.setFont(bold)
        painter.setPen(QColor(t.ink))
        painter.drawText(
            QRectF(0, 0, self.width(), 20), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, "Yields, vol%"
        )
        if result is None or not result.yields:
            return
        names = painter.fontMetrics().horizontalAdvance("kerosene") + 14
        most = max(y.volume for y in result.yields) or 1.0
        step = min(26.0, (self.height() - 28) / len(result.yields))
        room = self.width() - names - 56
        for i, product in enumerate(result.yields):
            top = 26 + i * step
            middle = Qt.AlignmentFlag.AlignVCenter
            painter.setFont(self.font())
            painter.setPen(QColor(t.mute))
            name = painter.fontMetrics().elidedText(product.name, Qt.TextElideMode.ElideRight, names - 10)
            painter.drawText(QRectF(0, top, names - 8, step), Qt.AlignmentFlag.AlignRight | middle, name)
            colour = QColor(t.accent)
            colour.setAlpha(120)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            width = max(room * product.volume / most, 1.0)
            painter.drawRoundedRect(QRectF(names, top + 0.22 * step, width, 0.56 * step), 2, 2)
            painter.setFont(bold)
            painter.setPen(QColor(t.ink))
            painter.drawText(
                QRectF(names + width + 6, top, 50, step),
                Qt.AlignmentFlag.AlignLeft | middle,
                f"{100 * product.volume:.1f}",
            )
