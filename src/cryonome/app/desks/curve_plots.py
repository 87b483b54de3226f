"""The pictures of a sample: boiling curve with its cuts, and property curves with what the cuts give back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import Qt

from ...characterization import BoilingCurve, CharacterizedSample
from ...characterization.correlations import TEST_TEMPERATURES
from ...characterization.viscosity import at_temperature
from ...constants import WATER_DENSITY_60F
from ...document import Sample
from ...document.model import Cell
from ...document.sample_points import (
    boiling_points,
    property_points,
    quantity_points,
    tail_points,
    viscosity_points,
)
from ...units import KINDS, QuantityError, from_si, label, parse
from ..plot import Plot, Table, pen
from ..theme import Theme

Array = NDArray[np.float64]
Pairs = list[tuple[float, float]]


def entered_points(sample: Sample) -> tuple[Pairs, Pairs]:
    """Return the good and the faulty points of the boiling curve that can be drawn, percent and K."""
    points = boiling_points(sample)
    good = list(zip(points.percents, points.values))
    bad: Pairs = []
    for row in {f.path[-2] for f in points.faults if isinstance(f.path[-1], int)} - set(points.rows):
        cells = sample.distillation.points[row] if isinstance(row, int) else (None, None)
        lonely = sample.model_copy(update={"distillation": sample.distillation.model_copy(update={"points": (cells,)})})
        alone = boiling_points(lonely)
        bad += list(zip(alone.percents, alone.values))
    return good, bad


def draw_line(plot: Plot, curve: BoilingCurve, unit: str, colour: str, width: float = 2.0) -> None:
    """Draw a closed curve, its continued ends dashed."""
    x = np.linspace(0.0, 1.0, 401)
    y = np.array([from_si(v, unit, "temperature") for v in curve.at(x)])
    first = curve.fraction[1] if curve.closed_low else 0.0
    last = curve.fraction[-2] if curve.closed_high else 1.0
    inner = (x >= first - 1e-9) & (x <= last + 1e-9)
    plot.item.plot(100 * x[inner], y[inner], pen=pen(colour, width))
    for outer in (x <= first, x >= last):
        if outer.sum() > 1:
            plot.item.plot(100 * x[outer], y[outer], pen=pen(colour, 0.8 * width, Qt.PenStyle.DashLine))


def draw_curve(plot: Plot, result: CharacterizedSample, unit: str, t: Theme, old: bool) -> None:
    """Draw the TBP curve by volume; muted where the result is old."""
    draw_line(plot, result.curve, unit, t.mute if old else t.ink)


def draw_points(plot: Plot, sample: Sample, unit: str, t: Theme) -> None:
    """Draw the entered points, faulty ones as diamonds."""
    good, bad = entered_points(sample)
    for points, colour in ((good, t.ink), (bad, t.fault)):
        if points:
            x, y = zip(*points)
            plot.item.plot(
                x, [from_si(v, unit, "temperature") for v in y], pen=None, symbol="o" if colour == t.ink else "d",
                symbolSize=8 if colour == t.ink else 11, symbolBrush=t.surface, symbolPen=pen(colour, 1.6),
            )  # fmt: skip


def draw_tail(plot: Plot, sample: Sample, unit: str, t: Theme) -> None:
    """Draw the points of a sub-atmospheric tail as measured, as squares."""
    tail = tail_points(sample)
    if tail.percents:
        plot.item.plot(
            tail.percents, [from_si(v, unit, "temperature") for v in tail.values], pen=None, symbol="s", symbolSize=7,
            symbolBrush=t.surface, symbolPen=pen(t.mute, 1.4),
        )  # fmt: skip


def draw_cuts(plot: Plot, result: CharacterizedSample, unit: str, t: Theme) -> None:
    """Draw the cuts as alternating steps up to their mean boiling point, light ends in the liquid's colour."""
    floor = from_si(float(result.edge_temperatures[0]), unit, "temperature")
    bottom = floor - 0.08 * (from_si(float(result.edge_temperatures[-1]), unit, "temperature") - floor)
    if result.light:
        lightest = min(c.nbp for c in result.components[: result.light])
        bottom = min(bottom, from_si(lightest, unit, "temperature") - 8.0)
    tops = np.array([from_si(c.nbp, unit, "temperature") for c in result.cuts])
    edges = 100 * result.edges
    for offset, alpha in ((0, 58), (1, 30)):
        colour = pg.mkColor(t.accent)
        colour.setAlpha(alpha)
        pick = slice(offset, None, 2)
        bars = pg.BarGraphItem(
            x0=edges[:-1][pick], x1=edges[1:][pick], y0=np.full(tops[pick].shape, bottom), y1=tops[pick], pen=None,
            brush=colour,
        )  # fmt: skip
        plot.item.addItem(bars, ignoreBounds=True)
    if result.light:
        order = np.argsort([c.nbp for c in result.components[: result.light]])
        share = 100 * result.volume_fraction[: result.light][order]
        ends = np.cumsum(share)
        tops = np.array([from_si(result.components[i].nbp, unit, "temperature") for i in order])
        colour = pg.mkColor(t.liquid)
        colour.setAlpha(110)
        bars = pg.BarGraphItem(
            x0=ends - share, x1=ends, y0=np.full(tops.shape, bottom), y1=tops, pen=None, brush=colour
        )
        plot.item.addItem(bars, ignoreBounds=True)


def label_products(plot: Plot, result: CharacterizedSample, unit: str, t: Theme) -> None:
    """Draw the product limits as lines and name the ranges at the left edge."""
    for product in result.yields:
        low, high = (from_si(v, unit, "temperature") for v in (product.start, product.end))
        if product is not result.yields[-1]:
            plot.item.addItem(pg.InfiniteLine(high, angle=0, pen=pen(t.hair, 1.0)), ignoreBounds=True)
        if product.volume > 0.0 and product.name != "light ends":
            ground = pg.mkColor(t.surface)
            ground.setAlpha(150)
            text = pg.TextItem(product.name, color=t.mute, anchor=(0, 0.5), fill=ground)
            top = float(plot.box.viewRange()[1][1])
            text.setPos(1.0, 0.5 * (low + max(min(high, top), low)))
            text.setZValue(-5)
            plot.item.addItem(text, ignoreBounds=True)


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
    plot.item.setLogMode(y=shown.logarithmic)
    x = np.repeat(shown.edges, 2)[1:-1]
    plot.item.plot(x, np.repeat(shown.steps, 2), pen=pen(t.accent, 1.2))
    style = Qt.PenStyle.SolidLine if shown.measured else Qt.PenStyle.DashLine
    plot.item.plot(*shown.smooth, pen=pen(t.ink if shown.measured else t.mute, 1.6, style))
    if shown.points:
        px, py = zip(*shown.points)
        plot.item.plot(px, py, pen=None, symbol="o", symbolSize=7, symbolBrush=t.surface, symbolPen=pen(t.ink, 1.4))


def property_tables(shown: Property) -> list[Table]:
    """Return a property's data for copying."""
    middle = 0.5 * (shown.edges[1:] + shown.edges[:-1])
    tables: list[Table] = [(f"{shown.title}, cuts", ["vol%", shown.unit], [middle.tolist(), shown.steps.tolist()])]
    if shown.points:
        x, y = zip(*shown.points)
        tables.insert(0, (f"{shown.title}, measured", ["%", shown.unit], [list(x), list(y)]))
    return tables
