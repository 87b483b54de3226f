"""The picture of a test: measured values with their uncertainty, the untuned model dashed, the tuned one full."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np
from PySide6.QtCore import Qt

from ....matching.match_view import Panel
from ....telling.sentences import Units
from ....telling.table_blocks import of_key
from ....units import from_si, label
from ...widgets.plot import Plot, Table, pen


def converted(values: object, key: str, units: Units) -> np.ndarray:
    """Return values of a key as they are shown."""
    shown = of_key(key, units.of_states())
    values = np.asarray(values, float)
    return np.asarray(from_si(values * shown.factor, shown.unit, shown.kind)) if shown.kind else values  # type: ignore[arg-type]


def draw_panel(plot: Plot, panel: Panel, units: Units, bad: Collection[int] = (), titles: bool = True) -> None:
    """Draw a panel; rows of the answer in ``bad`` are marked."""
    t = plot.theme
    x, at = converted(panel.x, panel.x_key, units), converted(panel.at, panel.x_key, units)
    order = np.argsort(x)
    y = converted(panel.measured, panel.key, units)
    half = converted(panel.measured + panel.sigma, panel.key, units) - y
    lines = [("before", panel.before), ("after", panel.after)]
    shown = [(k, converted(v, panel.key, units)[order]) for k, v in lines if v is not None]
    # Where something was measured the picture is of that range.
    ends = (float(at.min()), float(at.max())) if at.size > 1 else (float(x.min()), float(x.max()))
    wide = 0.06 * (ends[1] - ends[0])
    seen = (x[order] >= ends[0] - wide) & (x[order] <= ends[1] + wide)
    everything = np.concatenate([y - np.abs(half), y + np.abs(half), *(v[seen] for _, v in shown)])
    good = everything[np.isfinite(everything)]
    if good.size == 0:
        plot.begin("panel")
        plot.end()
        return
    low, high = float(good.min()), float(good.max())
    room = 0.08 * (high - low) or 0.05 * abs(high) or 1.0
    span = ends[1] - ends[0] or max(abs(float(x[0])), 1.0) * 0.2
    plot.fit_x(ends[0] - 0.06 * span, ends[1] + 0.06 * span)
    plot.fit_y(low - room, high + room)
    if titles:
        name, unit = of_key(panel.x_key, units.of_states()).head
        plot.set_titles(f"{name[:1].upper()}{name[1:]}{', ' + unit if unit else ''}", "")
    plot.begin("panel")
    for key, values in shown:
        old = key == "before" and panel.after is not None
        look = pen(
            t.mute if old else t.phase(0.0), 1.3 if old else 2.0, Qt.PenStyle.DashLine if old else Qt.PenStyle.SolidLine
        )
        keep = np.isfinite(values)
        if keep.sum() > 1:
            plot.line(key, x[order][keep], values[keep], look, name=key)
        elif keep.any():
            plot.dots(f"one {key}", x[order][keep], values[keep], look, "+", 10.0, t.surface)
    if at.size:
        for i, (a, v, h) in enumerate(zip(at, y, np.abs(half))):
            plot.line(f"width {i}", [a, a], [v - h, v + h], pen(t.ink, 1.0))
        marked = np.array([r in bad for r in panel.rows] or [False] * at.size, bool)
        symbol = "s" if panel.held else "o"
        for name, rows, colour in (("good", ~marked, t.ink), ("bad", marked, t.fault)):
            if rows.any():
                plot.dots(
                    name,
                    at[rows],
                    y[rows],
                    pen(colour, 1.5),
                    symbol if name == "good" else "d",
                    8.0 if name == "good" else 10.0,
                    t.surface,
                )
    plot.end()


def titled(panel: Panel, units: Units) -> str:
    """Return what a picture is of, with its unit."""
    shown = of_key(panel.key, units.of_states())
    return f"{panel.name}{', ' + label(shown.unit) if shown.unit else ''}"


def told(panel: Panel, short: bool = False) -> str:
    """Return how far the model is from what was measured, before and after."""
    before, after = panel.deviation(panel.before), panel.deviation(panel.after)
    words = []
    if before is not None and not (short and after is not None):
        words.append(f"before {before:.1f} %" if after is not None else f"{before:.1f} % off")
    if after is not None:
        words.append(f"{'' if short else 'after '}{after:.1f} %")
    if panel.held and not short:
        words.append("held out")
    return "   ".join(words)


def panel_data(panel: Panel, units: Units) -> list[Table]:
    """Return what a picture shows as tables."""
    x_head = ", ".join(h for h in of_key(panel.x_key, units.of_states()).head if h)
    y_head = ", ".join(h for h in of_key(panel.key, units.of_states()).head if h)
    x = converted(panel.x, panel.x_key, units).tolist()
    out: list[Table] = [("untuned", [x_head, y_head], [x, converted(panel.before, panel.key, units).tolist()])]
    if panel.after is not None:
        out.append(("tuned", [x_head, y_head], [x, converted(panel.after, panel.key, units).tolist()]))
    measured = [converted(panel.at, panel.x_key, units).tolist(), converted(panel.measured, panel.key, units).tolist()]
    return [("measured", [x_head, y_head], measured), *out]
