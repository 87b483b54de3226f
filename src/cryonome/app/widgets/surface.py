"""A surface over two axes that turns with the mouse, painted without graphics hardware.

Cells are painted from the farthest to the nearest, so that what stands before hides what is behind.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import (
    QColor,
    QFont,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from .heat import heat
from .letters import point_size
from .theme import LIGHT, Theme

Array = NDArray[np.float64]

MOST = 56
"""Points of an axis that are painted; of more, some are left out."""

SHADES = 24
"""Colours of a surface."""

CORNERS = ((-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0))


@dataclass(frozen=True)
class SurfaceData:
    """Values (n, m) over ``x`` (n,) and ``y`` (m,), nan where there is none, with the words on the three axes."""

    x: Array
    y: Array
    values: Array
    titles: tuple[str, str, str]


class Surface(QWidget):
    """The surface. Dragging turns it, the wheel brings it nearer, the arrow keys turn it too."""

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 200)
        self.theme: Theme = LIGHT
        self.turn, self.tilt, self.near = -0.85, 0.5, 1.0
        self._data: SurfaceData | None = None
        self._unit: tuple[Array, Array, Array] = (np.empty(0), np.empty(0), np.empty((0, 0)))
        self._from: QPointF | None = None

    def show_data(self, data: SurfaceData | None) -> None:
        """Show a surface, or none; a table without a single value is none."""
        if data is not None and not np.isfinite(data.values).any():
            data = None
        if data is not self._data:
            self._data = data
            if data is not None:
                rows, columns = _some(data.x.size), _some(data.y.size)
                x, y, z = data.x[rows], data.y[columns], data.values[np.ix_(rows, columns)]
                self._unit = _unit(x), _unit(y), _unit(z)
            self.update()

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.update()

    # -- turning -------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None:
            moved = event.position() - self._from
            self._from = event.position()
            self.rotate(0.01 * moved.x(), 0.01 * moved.y())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.near = float(np.clip(self.near * 1.0015 ** event.angleDelta().y(), 0.5, 4.0))
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (-0.1, 0.0),
            Qt.Key.Key_Right: (0.1, 0.0),
            Qt.Key.Key_Up: (0.0, -0.1),
            Qt.Key.Key_Down: (0.0, 0.1),
        }
        step = steps.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self.rotate(*step)

    def rotate(self, turn: float, tilt: float) -> None:
        """Turn about the upright axis and tilt, in radians."""
        self.turn += turn
        self.tilt = float(np.clip(self.tilt + tilt, 0.05, 1.5))
        self.update()

    # -- painting ------------------------------------------------------------------------------------------------

    def _project(self, x: Array, y: Array, z: Array) -> tuple[Array, Array, Array]:
        """Return pixels right and down, and the depth, of points in the box -1..1."""
        c, s = np.cos(self.turn), np.sin(self.turn)
        right, away = c * x - s * y, s * x + c * y
        up = np.cos(self.tilt) * 0.62 * z + np.sin(self.tilt) * away
        depth = np.cos(self.tilt) * away - np.sin(self.tilt) * 0.62 * z
        size = 0.29 * self.near * min(self.width(), 1.25 * self.height())
        return 0.5 * self.width() + size * right, 0.5 * self.height() - size * up, depth

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(self.theme.surface))
        if self._data is not None and min(self._unit[2].shape, default=0) > 1:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_box(painter)
            self._paint_cells(painter)
            self._paint_axes(painter, self._data)
        painter.end()

    def _paint_cells(self, painter: QPainter) -> None:
        x, y, z = self._unit
        px, py, depth = self._project(*np.broadcast_arrays(x[:, None], y[None, :], z))
        around = [
            (slice(None, -1), slice(None, -1)),
            (slice(1, None), slice(None, -1)),
            (slice(1, None), slice(1, None)),
            (slice(None, -1), slice(1, None)),
        ]
        corners = np.stack([np.stack([px[k], py[k]], axis=-1) for k in around], axis=2)
        height = np.mean([z[k] for k in around], axis=0)
        far = np.mean([depth[k] for k in around], axis=0)
        there = np.isfinite(corners).all(axis=(2, 3))
        i, j = np.nonzero(there)
        order = np.argsort(-far[i, j], kind="stable")
        colours = [heat(self.theme, (k + 0.5) / SHADES) for k in range(SHADES)]
        shade = np.clip(np.nan_to_num(height + 1.0) * 0.5 * SHADES, 0, SHADES - 1)
        edge = QColor(self.theme.ink)
        edge.setAlphaF(0.14)
        painter.setPen(QPen(edge, 0.5))
        last = -1
        for k in order.tolist():
            tone = int(shade[i[k], j[k]])
            if tone != last:
                painter.setBrush(colours[tone])
                last = tone
            painter.drawPolygon(QPolygonF([QPointF(float(a), float(b)) for a, b in corners[i[k], j[k]]]))

    def _paint_box(self, painter: QPainter) -> None:
        """Paint the floor and the upright edges behind."""
        painter.setPen(QPen(QColor(self.theme.hair), 1.0))
        cx, cy, far = self._project(*(np.array(v) for v in zip(*[(a, b, -1.0) for a, b in CORNERS])))
        tx, ty, _ = self._project(*(np.array(v) for v in zip(*[(a, b, 1.0) for a, b in CORNERS])))
        painter.setBrush(QColor(self.theme.paper))
        painter.drawPolygon(QPolygonF([QPointF(float(a), float(b)) for a, b in zip(cx, cy)]))
        nearest = int(np.argmin(far))
        for k in range(4):
            if k != nearest:
                painter.drawLine(QPointF(cx[k], cy[k]), QPointF(tx[k], ty[k]))

    def _paint_axes(self, painter: QPainter, data: SurfaceData) -> None:
        """Write the ends of every axis and its name along the edges in front."""
        font = QFont(self.font())
        font.setPointSizeF(point_size(8.5))
        painter.setFont(font)
        finite = data.values[np.isfinite(data.values)]
        _, _, far = self._project(*(np.array(v) for v in zip(*[(a, b, -1.0) for a, b in CORNERS])))
        a, b = CORNERS[int(np.argmin(far))]
        self._along(painter, [(-1.0, b, -1.0), (1.0, b, -1.0)], (data.x[0], data.x[-1]), data.titles[0], (0.0, b))
        self._along(painter, [(a, -1.0, -1.0), (a, 1.0, -1.0)], (data.y[0], data.y[-1]), data.titles[1], (a, 0.0))
        # The upright axis stands at the corner farthest to the left.
        cx, _, _ = self._project(*(np.array(v) for v in zip(*[(p, q, 0.0) for p, q in CORNERS])))
        u, v = CORNERS[int(np.argmin(cx))]
        ends = [(u, v, -1.0), (u, v, 1.0)]
        self._along(painter, ends, (finite.min(), finite.max()), data.titles[2], (u, v))

    def _along(
        self,
        painter: QPainter,
        ends: Sequence[tuple[float, float, float]],
        values: tuple[float, float],
        title: str,
        out: tuple[float, float],
    ) -> None:
        push = 0.16
        points = np.array([*ends, np.mean(ends, axis=0)])
        # A little inwards, so that the ends of two axes do not lie on each other.
        points[:2] = 0.9 * points[:2] + 0.1 * points[2]
        points[:, 0] += push * out[0]
        points[:, 1] += push * out[1]
        px, py, _ = self._project(*points.T)
        told = [*(f"{float(v):.4g}".replace("-", "−") for v in values), title]
        upright = ends[0][2] != ends[1][2]
        for k, text in enumerate(told):
            lines = text.split("\n")
            wide = max(painter.fontMetrics().horizontalAdvance(s) for s in lines)
            painter.setPen(QColor(self.theme.ink if k == 2 else self.theme.mute))
            left = px[k] - wide - 6.0 if upright else px[k] - wide / 2.0
            left = min(max(left, 4.0), self.width() - wide - 4.0)
            y = py[k] + (18.0 if k == 2 and not upright else 4.0)
            for number, line in enumerate(lines):
                painter.drawText(QPointF(left, y + 14.0 * number), line)

    def picture(self, scale: float = 2.0) -> QImage:
        """Return the surface as an image."""
        image = QImage(self.size() * scale, QImage.Format.Format_ARGB32)
        image.setDevicePixelRatio(scale)
        image.fill(QColor(self.theme.surface))
        painter = QPainter(image)
        self.render(painter, QPoint(0, 0))
        painter.end()
        return image


def _some(n: int) -> NDArray[np.intp]:
    """Return which of n points are painted, both ends among them."""
    return np.unique(np.linspace(0, n - 1, min(n, MOST)).round().astype(np.intp))


def _unit(v: Array) -> Array:
    """Return values scaled to -1..1; equal ones in the middle."""
    low, high = np.nanmin(v), np.nanmax(v)
    return np.zeros_like(v) if high <= low else 2.0 * (v - low) / (high - low) - 1.0
