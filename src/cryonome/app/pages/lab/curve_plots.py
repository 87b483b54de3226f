"""The pictures of a sample: boiling curve with its cuts, and property curves with what the cuts give back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor

from ....characterization import BoilingCurve, CharacterizedSample
from ....characterization.correlations import TEST_TEMPERATURES
from ....characterization.viscosity import BEYOND, at_temperature
from ....constants import WATER_DENSITY_60F
from ....document import Sample
from ....document.edits import set_at
from ....document.field_types import Cell
from ....document.sample_points import boiling_points, property_points, quantity_points, tail_points, viscosity_points
from ....units import KINDS, QuantityError, from_si, label, parse
from ...widgets.plot import Plot, Table, pen
from ...widgets.theme import Theme

Array = NDArray[np.float64]
Pairs = list[tuple[float, float]]


def entered_points(sample: Sample) -> tuple[Pairs, Pairs]:
    """Return the good and the faulty points of the boiling curve that can be drawn, percent and K."""
    points = boiling_points(sample)
    good = list(zip(points.percents, points.values))
    bad: Pairs = []
    for row in {f.path[-2] for f in points.faults if isinstance(f.path[-1], int)} - set(points.rows):
        cells = sample.distillation.points[row] if isinstance(row, int) else (None, None)
        alone = boiling_points(set_at(sample, ("distillation", "points"), (cells,)))
        bad += list(zip(alone.percents, alone.values))
    return good, bad


def draw_line(plot: Plot, key: str, curve: BoilingCurve, unit: str, colour: str, width: float = 2.0) -> None:
    """Draw a closed curve, its continued ends dashed."""
    x = np.linspace(0.0, 1.0, 401)
    y = shown_temperatures(curve.at(x), unit)
    first = curve.fraction[1] if curve.closed_low else 0.0
    last = curve.fraction[-2] if curve.closed_high else 1.0
    inner = (x >= first - 1e-9) & (x <= last + 1e-9)
    plot.line(key, 100 * x[inner], y[inner], pen(colour, width), name=key)
    for name, outer in (("low", x <= first), ("high", x >= last)):
        if outer.sum() > 1:
            look = pen(colour, 0.8 * width, Qt.PenStyle.DashLine)
            plot.line(f"{key} {name}", 100 * x[outer], y[outer], look)


def shown_temperatures(T: Array, unit: str) -> Array:
    """Return temperatures (n,) K in a unit; the scales are linear, so one call serves all."""
    return np.asarray(from_si(np.asarray(T, float), unit, "temperature"))  # type: ignore[arg-type]


def draw_points(plot: Plot, sample: Sample, unit: str, t: Theme) -> None:
    """Draw the entered points, faulty ones as diamonds."""
    good, bad = entered_points(sample)
    for name, points, colour in (("good", good, t.ink), ("bad", bad, t.fault)):
        if points:
            x, y = np.array(points).T
            symbol, size = ("o", 8) if name == "good" else ("d", 11)
            plot.dots(name, x, shown_temperatures(y, unit), pen(colour, 1.6), symbol, size)


def draw_tail(plot: Plot, sample: Sample, unit: str, t: Theme) -> None:
    """Draw the points of a sub-atmospheric tail as measured, as squares."""
    tail = tail_points(sample)
    if tail.percents:
        plot.dots("tail", tail.percents, shown_temperatures(np.array(tail.values), unit), pen(t.mute, 1.4), "s", 7)


def draw_cuts(plot: Plot, result: CharacterizedSample, unit: str, t: Theme) -> tuple[float, float]:
    """Draw the cuts as alternating steps up to their mean boiling point, light ends in the liquid's colour; return the
    lowest and highest temperature of curve and light ends in the unit."""
    low, high = shown_temperatures(result.edge_temperatures[[0, -1]], unit)
    bottom = low - 0.08 * (high - low)
    if result.light:
        lightest = min(c.nbp for c in result.components[: result.light])
        bottom = min(bottom, from_si(lightest, unit, "temperature") - 8.0)
    tops = shown_temperatures(np.array([c.nbp for c in result.cuts]), unit)
    edges = 100 * result.edges
    for offset, alpha in ((0, 58), (1, 30)):
        pick = slice(offset, None, 2)
        y0 = np.full(tops[pick].shape, bottom)
        plot.bars(
            f"cuts {offset}", _faint(t.accent, alpha), x0=edges[:-1][pick], x1=edges[1:][pick], y0=y0, y1=tops[pick]
        )
    if result.light:
        order = np.argsort([c.nbp for c in result.components[: result.light]])
        share = 100 * result.volume_fraction[: result.light][order]
        ends = np.cumsum(share)
        tops = shown_temperatures(np.array([result.components[i].nbp for i in order]), unit)
        y0 = np.full(tops.shape, bottom)
        plot.bars("light ends", _faint(t.liquid, 110), x0=ends - share, x1=ends, y0=y0, y1=tops)
    return float(bottom), float(high)


def _faint(colour: str, alpha: int) -> QColor:
    out = QColor(colour)
    out.setAlpha(alpha)
    return out


def label_products(plot: Plot, result: CharacterizedSample, unit: str, t: Theme) -> None:
    """Draw the product limits as lines and name the ranges at the right edge, below the curve."""
    top = float(plot.box.viewRange()[1][1])
    curve = shown_temperatures(result.curve.at(np.array([0.86])), unit)[0]
    for i, product in enumerate(result.yields):
        low, high = shown_temperatures(np.array([product.start, product.end]), unit)
        if product is not result.yields[-1]:
            plot.level(f"product {i}", high, pen(t.hair, 1.0))
        middle = 0.5 * (low + max(min(high, top), low))
        if product.volume > 0.0 and product.name != "light ends":
            # The curve rises to the right: above it there is room at the left, below it at the right.
            left = middle > curve
            anchor = (0.0, 0.5) if left else (1.0, 0.5)
            plot.text(f"product {i}", product.name, 1.0 if left else 99.0, middle, t.mute, anchor, depth=-5.0)


@dataclass(frozen=True)
class Property:
    """A property against the amount distilled: title and unit, the entered points (percent, value), and the steps the
    cuts give back; ``smooth`` the line between them. ``logarithmic`` for viscosities."""

    key: str
    title: str
    unit: str
    points: Pairs
    edges: Array
    steps: Array
    smooth: tuple[Array, Array]
    measured: bool
    logarithmic: bool = False


def properties(sample: Sample, result: CharacterizedSample, units: dict[str, str]) -> list[Property]:
    """Return every property curve of a sample that can be drawn."""
    edges = 100 * result.edges
    middle = 0.5 * (edges[1:] + edges[:-1])
    out: list[Property] = []

    def add(
        key: str, title: str, kind: str, unit: str, points: Pairs, steps: Sequence[float], log: bool = False
    ) -> None:
        shown = [(p, from_si(v, unit, kind) if kind in KINDS else v) for p, v in points]
        values = np.array([from_si(float(v), unit, kind) if kind in KINDS else float(v) for v in steps])
        out.append(Property(key, title, label(unit), shown, edges, values, (middle, values), bool(points), log))

    def read(name: str) -> Pairs:
        found = property_points(sample, name)
        return list(zip(found.percents, found.values))

    density = [c.specific_gravity * WATER_DENSITY_60F for c in result.cuts]
    add("density", "Density", "density", units["density"], read("density"), density)
    mass = [c.molar_mass for c in result.cuts]
    add("molar_mass", "Molar mass", "molar_mass", units["molar_mass"], read("molar_mass"), mass)
    read_at = [(_temperature(c.at), i) for i, c in enumerate(sample.curves.viscosity)]
    shown = [(T, i) for T, i in read_at if T is not None]
    for T, i in shown or [(float(TEST_TEMPERATURES[0]), -1)]:
        points: Pairs = []
        if i >= 0:
            found, dynamic = viscosity_points(sample, i)
            points = [] if dynamic else list(zip(found.percents, found.values))
        values = at_temperature(result.cut_viscosity, TEST_TEMPERATURES, T)
        values = np.where(values <= BEYOND, values, np.nan)
        at = f"{from_si(T, units['temperature'], 'temperature'):.4g} {label(units['temperature'])}"
        add(f"viscosity {i}", f"Viscosity at {at}", "kinematic_viscosity", "cSt", points, values.tolist(), True)
    for i, quantity in enumerate(sample.curves.quantities):
        if quantity.name in result.quantities:
            found = quantity_points(sample, i)
            steps = result.quantities[quantity.name].tolist()
            add(f"quantity {i}", quantity.name, "", quantity.unit, list(zip(found.percents, found.values)), steps)
    return out


def _temperature(cell: Cell) -> float | None:
    try:
        return parse(cell if cell is not None else "", "temperature")
    except QuantityError:
        return None


def draw_property(plot: Plot, shown: Property, t: Theme) -> None:
    """Draw a property: entered points, the line through the cuts, and the cuts as steps."""

    def scaled(values: Array) -> Array:
        return np.log10(np.maximum(values, 1e-12)) if shown.logarithmic else values

    plot.set_logarithmic(shown.logarithmic)
    x = np.repeat(shown.edges, 2)[1:-1]
    steps, (sx, sy) = scaled(shown.steps), shown.smooth
    # What is beyond the method is not drawn.
    there, along = np.isfinite(steps), np.isfinite(sy)
    plot.line("steps", x[np.repeat(there, 2)], np.repeat(steps[there], 2), pen(t.accent, 1.2))
    style = Qt.PenStyle.SolidLine if shown.measured else Qt.PenStyle.DashLine
    plot.line("smooth", sx[along], scaled(sy[along]), pen(t.ink if shown.measured else t.mute, 1.6, style))
    ends = [steps[there].min(initial=np.inf), steps[there].max(initial=-np.inf)]
    if shown.points:
        px, py = np.array(shown.points).T
        plot.dots("points", px, scaled(py), pen(t.ink, 1.4), "o", 7)
        ends += [scaled(py).min(), scaled(py).max()]
    if min(ends) <= max(ends):
        plot.fit_y(min(ends), max(ends), 0.06)


def property_tables(shown: Property) -> list[Table]:
    """Return a property's data for copying."""
    middle = 0.5 * (shown.edges[1:] + shown.edges[:-1])
    there = np.isfinite(shown.steps)
    cuts = [middle[there].tolist(), shown.steps[there].tolist()]
    tables: list[Table] = [(f"{shown.title}, cuts", ["vol%", shown.unit], cuts)]
    if shown.points:
        x, y = zip(*shown.points)
        tables.insert(0, (f"{shown.title}, measured", ["%", shown.unit], [list(x), list(y)]))
    return tables
