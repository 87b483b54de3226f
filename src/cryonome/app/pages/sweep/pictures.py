"""The pictures of sweeps and goals: results over the input varied, and what a goal finds or can reach."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt

from ....questions.kinds.goal import Asked, GoalCurve
from ....results.answer_paths import key_words
from ....telling.sentences import Units
from ....telling.table_blocks import Shown, of_key
from ....units import from_si, label
from ...widgets.heat import heat
from ...widgets.plot import Plot, pen
from ...widgets.theme import Theme
from ..shared.map_picture import Labels
from ..table.views import FAMILY, spread

Array = NDArray[np.float64]


def draw_sweep(
    plots: Sequence[Plot], theme: Theme, answer: Mapping[str, Any], rows: tuple[Array, Array, str], units: Units
) -> None:
    """Draw each result of a sweep on a plot of its own: ``rows`` are the values varied (n, inputs), what was read (n,
    results) and the unit of the first input."""
    x, read, unit = rows
    words = key_words(answer["varied"][0].rpartition(".")[2])
    for i, plot in enumerate(plots):
        shown = of_key(answer["paths"][i], units)
        title = _title(words, label(unit) if unit else "") if i == len(plots) - 1 else ""
        _curves(plot, theme, x, _scaled(read[:, i], shown), title, _title(*shown.head))


def draw_goal(
    plot: Plot, theme: Theme, asked: Asked, found: GoalCurve, answer: Mapping[str, Any] | None, units: Units
) -> None:
    """Draw what a goal reads over its range, the target, and the solutions of its ``answer`` where it has one."""
    shown = of_key(asked.read.key, units)
    y, target = _scaled(found.read, shown), float(_scaled(np.array(asked.target), shown))
    plot.set_titles(
        _title(key_words(str(asked.input.path[-1])), label(found.unit) if found.unit else ""), _title(*shown.head)
    )
    plot.fit_x(*spread(found.values))
    plot.fit_y(*spread(np.append(y, target)), padding=0.1)
    plot.begin("sweep")
    good = np.isfinite(y)
    plot.line("0", found.values[good], y[good], pen(theme.accent, 1.8), name=shown.name)
    plot.level("target", target, pen(theme.good, 1.4, Qt.PenStyle.DashLine))
    if answer is not None:
        at = [asked.input.scale.number(v) for v in (answer["value"], *answer["others"])]
        plot.dots("found", at, [target] * len(at), pen(theme.ink, 1.6), "o", 10.0, theme.surface)
    plot.end()


def _scaled(values: Array, shown: Shown) -> Array:
    """Return values of an answer in the unit they are shown in."""
    return np.asarray(from_si(values * shown.factor, shown.unit, shown.kind) if shown.kind else values)  # type: ignore[arg-type]


def _title(words: str, unit: str) -> str:
    text = f"{words}, {unit}" if unit else words
    return text[:1].upper() + text[1:]


def _curves(plot: Plot, theme: Theme, x: np.ndarray, y: np.ndarray, title: str, name: str) -> None:
    plot.set_titles(title, name)
    plot.fit_x(*spread(x[:, 0]))
    plot.fit_y(*spread(y), padding=0.08)
    plot.begin("sweep")
    labels = Labels(plot)
    families = [np.arange(len(x))] if x.shape[1] == 1 else [np.flatnonzero(x[:, 1] == v) for v in np.unique(x[:, 1])]
    step = max(1, -(-len(families) // FAMILY))
    for number, rows in enumerate(families[::step]):
        colour = heat(theme, 0.35 + 0.65 * (number + 1) / len(families[::step]), 1.0)
        good = np.isfinite(y[rows])
        order = rows[good][np.argsort(x[rows][good][:, 0], kind="stable")]
        said = f"{name.rpartition(', ')[0] or name}" if x.shape[1] == 1 else f"{x[rows[0], 1]:.4g}"
        plot.line(f"{number}", x[order, 0], y[order], pen(colour, 1.8), name=said)
        if order.size <= 60:
            plot.dots(f"{number}", x[order, 0], y[order], pen(colour, 1.2), "o", 4.5, colour)
        bad = rows[~good]
        if bad.size:
            # Failed points stand at the foot, so that they are seen.
            foot = np.full(bad.size, plot.box.viewRange()[1][0])
            plot.dots(f"bad {number}", x[bad, 0], foot, pen(theme.fault, 1.4), "x", 8.0, theme.fault)
        if x.shape[1] > 1 and order.size:
            labels.on_line(f"{number}", f"{x[rows[0], 1]:.5g}", x[order, 0], y[order], colour.name(), 0.85)
    plot.end()
