"""The pictures of a property table: curves, and contours with the envelope over them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import contourpy
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainterPath, QPolygonF

from ....document.conditions import CONDITIONS
from ....equilibrium.phase_map import PhaseMap
from ....fluids.map_lines import drawn
from ....fluids.property_choice import title_of
from ....questions.tabulate import PropertyTable
from ....telling.sentences import Units
from ....telling.table_blocks import of_key, of_kind
from ....units import from_si
from ...widgets.heat import heat
from ...widgets.plot import Plot, Table, pen
from ...widgets.surface import SurfaceData
from ...widgets.theme import Theme
from ..shared.map_picture import Labels, name_of

Array = NDArray[np.float64]

FAMILY = 7
"""Curves of a family that are drawn."""
LEVELS = 11


@dataclass(frozen=True)
class Scaled:
    """Values in the reader's unit with their name and the label of the unit."""

    name: str
    unit: str
    values: Array

    @property
    def title(self) -> str:
        """Name and unit."""
        return f"{self.name}, {self.unit}" if self.unit else self.name

    def text(self, value: float) -> str:
        """Return a value that was chosen, without digits that mean nothing."""
        return f"{value:.6g}".replace("-", "−")


def axis_of(table: PropertyTable, place: int, units: Units) -> Scaled:
    """Return an axis of a table."""
    title = CONDITIONS[table.variables[place]].title
    shown = of_kind(title[:1].upper() + title[1:], table.axis_kinds[place], units)
    return Scaled(*shown.head, np.asarray(shown.plain(table.axes[place])))  # type: ignore[arg-type]


def property_of(table: PropertyTable, key: str, units: Units) -> Scaled:
    """Return a property of a table."""
    return scaled_property(key, table.values[key], units)


def scaled_property(key: str, values: Array, units: Units) -> Scaled:
    """Return values of a property, in the unit of its key, in the reader's."""
    shown = of_key(key, units)
    return Scaled(title_of(key), shown.head[1], np.asarray(shown.plain(values)))  # type: ignore[arg-type]


def _logarithmic(values: Array) -> bool:
    """Tell whether equal steps of values are steps of their logarithm."""
    if values.size < 3 or values.min() <= 0.0:
        return False
    steps, ratios = np.diff(values), np.diff(np.log(values))
    return bool(np.ptp(ratios) < 1e-6 * abs(ratios.mean()) and np.ptp(steps) > 1e-3 * abs(steps.mean()))


def spread(values: Array) -> tuple[float, float]:
    """Return the range of the values there are, with some room where they are all the same."""
    there = values[np.isfinite(values)]
    if there.size == 0:
        return 0.0, 1.0
    low, high = float(there.min()), float(there.max())
    return (low, high) if high > low else (low - 0.5 * abs(low) - 0.5, high + 0.5 * abs(high) + 0.5)


def draw_curves(plot: Plot, theme: Theme, table: PropertyTable, key: str, along: int, units: Units) -> None:
    """Draw a property over one axis, a curve for each of some values of the other."""
    x, shown = axis_of(table, along, units), property_of(table, key, units)
    values = np.atleast_2d(shown.values if along == len(table.axes) - 1 else shown.values.T)
    plot.set_titles(x.title, shown.title)
    plot.set_logarithmic(False)
    plot.fit_x(*spread(x.values))
    plot.fit_y(*spread(values), padding=0.06)
    rows = np.unique(np.linspace(0, len(values) - 1, min(len(values), FAMILY)).round().astype(int))
    other = axis_of(table, 1 - along, units) if len(table.axes) > 1 else None
    plot.begin("curves")
    labels = Labels(plot)
    for number, row in enumerate(rows.tolist()):
        colour = heat(theme, 0.35 + 0.65 * (number + 1) / rows.size, 1.0)
        there = np.isfinite(values[row])
        said = f"{other.text(other.values[row])} {other.unit}" if other is not None else x.name
        for part, run in enumerate(np.split(np.arange(there.size), np.flatnonzero(np.diff(there.astype(int))) + 1)):
            if there[run[0]]:
                plot.line(
                    f"curve {number} {part}", x.values[run], values[row][run], pen(colour, 1.8), cached=True, name=said
                )
                if run.size == 1:
                    plot.dots(f"curve {number} {part}", x.values[run], values[row][run], pen(colour), "o", 5.0, colour)
        if other is not None and there.any():
            text = f"{other.text(float(other.values[row]))} {other.unit}".strip()
            labels.on_line(f"curve {number}", text, x.values[there], values[row][there], colour.name(), 0.82)
    plot.end()


def draw_contours(
    plot: Plot, theme: Theme, table: PropertyTable, key: str, units: Units, whole: PhaseMap | None, wide: bool = False
) -> None:
    """Draw a property as filled contours over both axes, temperature to the right and pressure upwards where it has
    both; the envelope of ``whole`` over it, all of it in view where ``wide``."""
    on_map = set(table.variables) == {"temperature", "pressure"}
    across = table.variables.index("temperature") if on_map else 0
    x, y = axis_of(table, across, units), axis_of(table, 1 - across, units)
    shown = property_of(table, key, units)
    values = shown.values.T if across == 0 else shown.values
    log = _logarithmic(y.values)
    plot.set_titles(x.title, y.title)
    plot.set_logarithmic(log)
    y_values = np.log10(y.values) if log else y.values
    over: list[tuple[float, Array, Array]] = []
    for beta, T, P in drawn(whole, [0.0, 1.0]) if whole is not None and on_map else ():
        t = np.asarray(from_si(T, units.unit("temperature"), "temperature"))  # type: ignore[arg-type]
        p = np.asarray(from_si(P, units.unit("pressure"), "pressure"))  # type: ignore[arg-type]
        over.append((beta, t, np.log10(np.maximum(p, 1e-12)) if log else p))
    shown_x = [x.values, *(line[1] for line in over)] if wide else [x.values]
    shown_y = [y_values, *(line[2] for line in over)] if wide else [y_values]
    plot.fit_x(*spread(np.concatenate(shown_x)))
    plot.fit_y(*spread(np.concatenate(shown_y)))
    levels = levels_of(values)
    plot.begin("contours")
    labels = Labels(plot)
    generator = contourpy.contour_generator(
        x.values, y_values, np.ma.masked_invalid(values), fill_type=contourpy.FillType.OuterOffset
    )
    for k, (low, high) in enumerate(pairwise(levels)):
        found: Any = generator.filled(low, high)
        plot.region(f"level {k}", _path(*found), heat(theme, (k + 0.5) / (len(levels) - 1), 0.8))
    for k, level in enumerate(levels[1:-1]):
        lines: Any = generator.lines(float(level))
        if lines:
            at = max(lines, key=len)
            labels.on_line(f"level {k}", shown.text(float(level)), at[:, 0], at[:, 1], theme.ink, 0.5)
    for i, (beta, u, v) in enumerate(over):
        plot.line(f"envelope {i}", u, v, pen(theme.phase(beta), 2.4), cached=True, name=name_of(beta))
    plot.end()


def levels_of(values: Array) -> Array:
    """Return round levels over the values there are."""
    low, high = spread(values)
    step = 10.0 ** np.floor(np.log10((high - low) / LEVELS))
    step *= next(k for k in (1.0, 2.0, 2.5, 5.0, 10.0) if (high - low) / (k * step) <= LEVELS)
    first = np.floor(low / step) * step
    return np.asarray(first + step * np.arange(int(np.ceil((high - first) / step - 1e-9)) + 1))


def _path(points: Sequence[Array], offsets: Sequence[Array]) -> QPainterPath:
    """Return polygons with their holes as one path."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for own, ends in zip(points, offsets):
        for start, stop in pairwise(ends):
            path.addPolygon(QPolygonF([QPointF(float(a), float(b)) for a, b in own[start:stop]]))
            path.closeSubpath()
    return path


def surface_of(table: PropertyTable, key: str, values: Array, units: Units, words: str = "") -> SurfaceData:
    """Return a surface of values over both axes: those of a property, or others under ``words``."""
    x, y = axis_of(table, 0, units), axis_of(table, 1, units)
    z = scaled_property(key, values, units) if not words else Scaled(words, "%", values)
    title = f"{z.name}\n{z.unit}" if z.unit else z.name
    return SurfaceData(x.values, y.values, z.values, (x.title, y.title, title))


def data_of(table: PropertyTable, units: Units) -> list[Table]:
    """Return the whole table as one data set: a column for each axis and property."""
    axes = [axis_of(table, i, units) for i in range(len(table.axes))]
    grid = [g.reshape(-1) for g in np.meshgrid(*(a.values for a in axes), indexing="ij")]
    shown = [property_of(table, key, units) for key in table.values]
    names = [a.title for a in axes] + [s.title for s in shown]
    columns: list[Sequence[float]] = [g.tolist() for g in grid]
    return [("table", names, columns + [s.values.reshape(-1).tolist() for s in shown])]
