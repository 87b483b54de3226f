"""Panels of an answer drawn on plots, in the reader's units, each line named where it is."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainterPath, QPolygonF

from ....telling.panels import Panel
from ....telling.sentences import Units
from ....telling.smoothing import smoothed
from ....telling.table_blocks import of_key
from ...widgets.plot import Plot, Table, pen
from ...widgets.theme import Theme
from .map_picture import Labels

Array = NDArray[np.float64]

SHADE = 60
"""How dense a band is, of 255."""

LINE_PLACE = 0.62
"""Where on a line its name stands, as a share of its length."""


def draw_panel(plot: Plot, panel: Panel, units: Units, theme: Theme) -> None:
    """Draw a panel on a plot, and fit the axes where what is drawn leaves them or is another."""
    x, y = of_key(panel.x, units), of_key(panel.y, units)
    heads = [
        f"{title or shown.name}, {shown.head[1]}" if shown.head[1] else title or shown.name
        for title, shown in ((panel.x_title, x), (panel.y_title, y))
    ]
    plot.set_titles(*(h[:1].upper() + h[1:] for h in heads))
    drawn = [(c, np.array([x.plain(v) for v in c.x]), np.array([y.plain(v) for v in c.y])) for c in panel.curves if c.x]
    # Where a phase forms a line has a corner.
    corners = [x.plain(v) for v in panel.corners]
    plot.begin("panel")
    sides_drawn: list[Array] = []
    for shade in panel.shades:
        fill = QColor(theme.phase(shade.share).name() if shade.share is not None else theme.ink)
        fill.setAlpha(SHADE)
        sides = [
            np.column_stack([[x.plain(v) for v in side[0]], [y.plain(v) for v in side[1]]])
            for side in (shade.low, shade.high)
        ]
        plot.region(f"band {shade.name}", between(*sides), fill)
        sides_drawn += sides
    for i, (c, xs, ys) in enumerate(drawn):
        colour = theme.phase(c.share).name() if c.share is not None else theme.ink
        if c.dots:
            plot.dots(f"{i} {c.name}", xs, ys, pen(colour, 1.6), "s" if c.measured else "o", 8.0, theme.surface)
        else:
            plot.line(f"{i} {c.name}", *smoothed(xs, ys, corners), pen(colour, 2.0), name=c.name)
    for name, value in (panel.upright or {}).items():
        plot.upright(name, x.plain(value), pen(theme.mute, 1.2, Qt.PenStyle.DashLine))
    for name, value in (panel.levels or {}).items():
        plot.level(name, y.plain(value), pen(theme.fault, 1.4, Qt.PenStyle.DashLine))
    plot.end()
    every_x = np.concatenate(
        [xs for _, xs, _ in drawn]
        + [side[:, 0] for side in sides_drawn]
        + [np.array([x.plain(v) for v in (panel.upright or {}).values()])]
    )
    every_y = np.concatenate(
        [ys for _, _, ys in drawn]
        + [side[:, 1] for side in sides_drawn]
        + [np.array([y.plain(v) for v in (panel.levels or {}).values()])]
    )
    low = min(0.0, float(every_y.min())) if panel.from_zero else float(every_y.min())
    plot.fit_to((panel.x, panel.y, x.unit, y.unit), every_x, np.append(every_y, low))
    plot.data = lambda: data_of(panel, units)


def between(low: Array, high: Array) -> QPainterPath:
    """Return what lies between two lines of as many points (n, 2), in the plot's coordinates."""
    path = QPainterPath()
    corners = np.concatenate([low, high[::-1]])
    path.addPolygon(QPolygonF([QPointF(float(a), float(b)) for a, b in corners]))
    path.closeSubpath()
    path.setFillRule(Qt.FillRule.WindingFill)
    return path


def name_panel(plot: Plot, panel: Panel, units: Units, theme: Theme) -> None:
    """Write the names of lines where there is room for them now."""
    x, y = of_key(panel.x, units), of_key(panel.y, units)
    labels = Labels(plot)
    plot.begin("names")
    lines = [c for c in panel.curves if not c.dots and len(c.x) > 1]
    for c in panel.curves:
        if c.dots:
            for a, b in list(zip(c.x, c.y))[:200]:
                labels.reserve(x.plain(a), y.plain(b))
    for name in dict.fromkeys(c.name for c in lines) if len(lines) > 1 else ():
        c = next(c for c in lines if c.name == name)
        xs, ys = np.array([x.plain(v) for v in c.x]), np.array([y.plain(v) for v in c.y])
        colour = theme.phase(c.share).name() if c.share is not None else theme.ink
        fine = np.linspace(0.0, len(xs) - 1.0, 60)
        at = np.arange(len(xs))
        labels.on_line(f"name {name}", name, np.interp(fine, at, xs), np.interp(fine, at, ys), colour, LINE_PLACE)
    for c in lines:
        labels.avoid(np.array([x.plain(v) for v in c.x]), np.array([y.plain(v) for v in c.y]))
    top = plot.box.viewRange()[1]
    for name, value in (panel.upright or {}).items():
        labels.beside(f"upright {name}", name, x.plain(value), top[1] - 0.06 * (top[1] - top[0]), theme.mute)
    plot.end()


def data_of(panel: Panel, units: Units) -> list[Table]:
    """Return the numbers of a panel, in the units of its axes."""
    x, y = of_key(panel.x, units), of_key(panel.y, units)
    heads = [f"{s.name}, {s.head[1]}" if s.head[1] else s.name for s in (x, y)]
    lines = [(c.name, c.x, c.y) for c in panel.curves]
    for shade in panel.shades:
        lines += [(f"{shade.name}, {side}", *ends) for side, ends in (("low", shade.low), ("high", shade.high))]
    return [(name, heads, [[x.plain(v) for v in a], [y.plain(v) for v in b]]) for name, a, b in lines]
