"""What a plot tells of itself: the values under the pointer with the nearest line by name, and values typed on an
axis with where lines cross them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QObject, QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QInputDialog, QLabel, QMenu, QWidget

from ...units import QuantityError, format_number, label, split
from ...wording.scan import unit_of

Array = NDArray[np.float64]

NEAR = 26.0
"""Pixels within which a line is the nearest one."""

MOST_CROSSINGS = 8


@dataclass(frozen=True)
class Mark:
    """A value typed on an axis: ``upright`` of the horizontal one, in the plot's coordinates, and its words."""

    upright: bool
    value: float
    words: str


@dataclass(frozen=True)
class Crossing:
    """Where a line crosses a mark: the name of the line and the place."""

    name: str
    x: float
    y: float


class Pointer(QObject):
    """Reads a plot out. ``plot`` gives its ``view``, ``box``, ``item``, titles and named lines."""

    def __init__(self, plot: Any) -> None:
        super().__init__(plot)
        self._plot = plot
        self.marks: list[Mark] = []
        self._lines: list[pg.InfiniteLine] = []
        self._dots = pg.ScatterPlotItem(size=8, symbol="o")
        self._dots.setZValue(9.0)
        plot.box.addItem(self._dots, ignoreBounds=True)
        self.told = self._label(plot.view)
        self.listed = self._label(plot.view)
        self.listed.hide()
        self.told.hide()
        plot.view.setMouseTracking(True)
        plot.view.viewport().setMouseTracking(True)
        plot.view.viewport().installEventFilter(self)
        plot.view.scene().sigMouseClicked.connect(self._clicked)

    @staticmethod
    def _label(parent: QWidget) -> QLabel:
        out = QLabel(parent)
        out.setObjectName("readout")
        out.setTextFormat(Qt.TextFormat.PlainText)
        out.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        return out

    # -- under the pointer -----------------------------------------------------------------------------------------

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.MouseMove and self._plot.reads_out:
            self.point_at(event.position())  # type: ignore[attr-defined]
        elif event.type() == QEvent.Type.Leave:
            self.told.hide()
        return False

    def point_at(self, at: QPointF) -> None:
        """Tell what is at a place of the view, in its pixels."""
        plot = self._plot
        scene = plot.view.mapToScene(at.toPoint())
        if not plot.box.sceneBoundingRect().contains(scene) or not plot.framed():
            self.told.hide()
            return
        here = plot.box.mapSceneToView(scene)
        x, y = float(here.x()), float(here.y())
        name = self._nearest(x, y)
        text = f"{self._value(x, False)}   {self._value(y, True)}" + (f"\n{name}" if name else "")
        self.told.setText(text)
        self.told.adjustSize()
        room = plot.view.size()
        left = at.x() + 14 if at.x() + 14 + self.told.width() < room.width() else at.x() - 14 - self.told.width()
        top = at.y() + 12 if at.y() + 12 + self.told.height() < room.height() else at.y() - 12 - self.told.height()
        self.told.move(int(max(left, 0)), int(max(top, 0)))
        self.told.show()

    def _value(self, value: float, vertical: bool) -> str:
        """Return a coordinate in the unit that stands in the title of its axis."""
        axis = self._plot.item.getAxis("left" if vertical else "bottom")
        plain = 10.0**value if axis.logMode else value
        unit = self._unit(vertical)
        return f"{format_number(plain, 4)} {unit}".strip()

    def _unit(self, vertical: bool) -> str:
        title = (self._plot.y_title if vertical else self._plot.x_title).text()
        return title.rpartition(", ")[2] if ", " in title else ""

    def _nearest(self, x: float, y: float) -> str:
        """Return the name of the line that is nearest to a place, "" where none is near."""
        best, name = NEAR, ""
        px, py = self._pixels(np.array([x]), np.array([y]))
        for own, xs, ys in self._plot.named_lines():
            ax, ay = self._pixels(xs, ys)
            distance = _distance(float(px[0]), float(py[0]), ax, ay)
            if distance < best:
                best, name = distance, own
        return name

    def _pixels(self, x: Array, y: Array) -> tuple[Array, Array]:
        (x0, x1), (y0, y1) = self._plot.box.viewRange()
        size = self._plot.box.size()
        return (x - x0) / (x1 - x0) * size.width(), (y1 - y) / (y1 - y0) * size.height()

    # -- values typed on an axis -------------------------------------------------------------------------------------

    def _clicked(self, event: Any) -> None:
        if event.double() and self._plot.reads_out:
            self._plot.show_all()

    def add_to(self, menu: QMenu) -> None:
        """Offer to mark a value on either axis, and to take marks away."""
        menu.addAction("Mark a value on the horizontal axis…", lambda: self.ask(True))
        menu.addAction("Mark a value on the vertical axis…", lambda: self.ask(False))
        if self.marks:
            menu.addAction("Remove the marks", self.clear)

    def ask(self, upright: bool) -> None:
        """Ask for a value and mark it."""
        title = (self._plot.x_title if upright else self._plot.y_title).text()
        text, good = QInputDialog.getText(self._plot, "Mark a value", f"{title}:")
        if good and text.strip():
            try:
                self.mark(text, upright)
            except QuantityError as error:
                self._plot.saved.emit(str(error))

    def mark(self, text: str, upright: bool) -> None:
        """Keep a typed value as a line; a bare number is in the unit of its axis. Raises QuantityError."""
        number, unit = split(text)
        own = self._unit(not upright)
        if unit and label(unit_of(unit) or unit) != own:
            number = self._converted(number, unit, own)
        axis = self._plot.item.getAxis("bottom" if upright else "left")
        if axis.logMode and number <= 0.0:
            raise QuantityError(f"{text} is not on a logarithmic axis; write a value above zero")
        value = float(np.log10(number)) if axis.logMode else number
        self.marks.append(Mark(upright, value, f"{format_number(number, 4)} {own}".strip()))
        self.refresh()

    @staticmethod
    def _converted(number: float, unit: str, own: str) -> float:
        """Return a number of one unit in that which an axis shows. Raises QuantityError."""
        from ...units import KINDS, fits, from_si, to_si

        for kind, entry in KINDS.items():
            shown = next((u for u in entry.units if label(u) == own), "")
            if shown and fits(unit, kind):
                return float(from_si(to_si(number, unit, kind), shown, kind))
        raise QuantityError(f"{unit} is no unit of this axis, which is in {own or 'plain numbers'}")

    def clear(self) -> None:
        """Take every mark away."""
        self.marks = []
        self.refresh()

    def crossings(self, mark: Mark) -> list[Crossing]:
        """Return where named lines cross a mark, in the plot's coordinates."""
        out = []
        for name, xs, ys in self._plot.named_lines():
            along, across = (xs, ys) if mark.upright else (ys, xs)
            side = along - mark.value
            for i in np.flatnonzero((side[:-1] * side[1:] <= 0.0) & (side[:-1] != side[1:])):
                share = side[i] / (side[i] - side[i + 1])
                other = float(across[i] + share * (across[i + 1] - across[i]))
                out.append(Crossing(name, mark.value, other) if mark.upright else Crossing(name, other, mark.value))
        return out

    def refresh(self) -> None:
        """Draw the marks and list where lines cross them."""
        plot = self._plot
        for line in self._lines:
            plot.box.removeItem(line)
        self._lines = []
        told, xs, ys = [], [], []
        for mark in self.marks:
            line = pg.InfiniteLine(angle=90 if mark.upright else 0, pos=mark.value)
            line.setPen(pg.mkPen(QColor(plot.theme.accent), width=1.2, style=Qt.PenStyle.DashLine))
            line.setZValue(7.0)
            plot.box.addItem(line, ignoreBounds=True)
            self._lines.append(line)
            found = self.crossings(mark)
            told.append(f"at {mark.words}" + ("" if found else ": no line"))
            for c in found[:MOST_CROSSINGS]:
                told.append(f"  {c.name}  {self._value(c.y if mark.upright else c.x, mark.upright)}")
                xs.append(c.x)
                ys.append(c.y)
        self._dots.setData(xs, ys, pen=pg.mkPen(plot.theme.accent, width=1.6), brush=pg.mkBrush(plot.theme.surface))
        self.listed.setText("\n".join(told))
        self.listed.adjustSize()
        self.listed.move(max(plot.view.width() - self.listed.width() - 10, 0), 10)
        self.listed.setVisible(bool(told))


def _distance(px: float, py: float, ax: Array, ay: Array) -> float:
    """Return how far a place is from a line of segments, all in pixels."""
    if ax.size < 2:
        return float("inf")
    dx, dy = np.diff(ax), np.diff(ay)
    long = np.maximum(dx * dx + dy * dy, 1e-12)
    share = np.clip(((px - ax[:-1]) * dx + (py - ay[:-1]) * dy) / long, 0.0, 1.0)
    found = np.hypot(ax[:-1] + share * dx - px, ay[:-1] + share * dy - py)
    return float(np.nanmin(found)) if np.isfinite(found).any() else float("inf")
