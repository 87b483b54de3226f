"""Duty curves of an exchanger: temperatures of both streams over the duty."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from ....telling.sentences import Units
from ....telling.table_blocks import of_key
from ...widgets.plot import Plot, pen
from ...widgets.theme import Theme


def draw_duty(plot: Plot, curve: Mapping[str, Any], units: Units, theme: Theme) -> None:
    """Draw the hot stream above the cold one, and where they are nearest."""
    duty, hot, cold = (of_key(k, units) for k in ("duty_W", "hot_K", "cold_K"))
    x = np.array([duty.plain(v) for v in curve["duty_W"]])
    above, below = (np.array([s.plain(v) for v in curve[k]]) for s, k in ((hot, "hot_K"), (cold, "cold_K")))
    plot.set_titles(f"Duty, {duty.head[1]}", f"Temperature, {hot.head[1]}")
    plot.begin("duty")
    plot.line("hot", x, above, pen(theme.vapour, 2.0), cached=True, name="hot")
    plot.line("cold", x, below, pen(theme.liquid, 2.0), cached=True, name="cold")
    near = int(np.argmin(above - below))
    plot.line(
        "nearest",
        x[[near, near]],
        np.array([below[near], above[near]]),
        pen(theme.ink, 1.2),
        cached=True,
        name="least approach",
    )
    plot.end()
    wide = max(float(x.max()), 1e-9)
    room = 0.08 * max(float(above.max() - below.min()), 1e-6)
    plot.fit_x(-0.02 * wide, 1.02 * wide)
    plot.fit_y(float(below.min()) - room, float(above.max()) + room)
