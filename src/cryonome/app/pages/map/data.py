"""The map as numbers: its lines and points, to be copied and saved."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from ....equilibrium.extremes import with_stable_extremes
from ....equilibrium.phases import Kind
from ....fluids.map_lines import curves
from ....units import from_si, label
from ...shell.live import Live
from ...widgets.plot import Plot, Table
from ..shared.map_picture import Frame, name_of
from .layers import Layers


def map_data(live: Live, layers: Layers, plot: Plot, frame: Frame) -> list[Table]:
    """Return the lines and points of the map as tables, in the units it is drawn in."""
    whole = live.envelope()
    if whole is None:
        return []
    t_unit, p_unit = frame.temperature, frame.pressure
    names = [label(t_unit), label(p_unit)]

    def columns(T: ArrayLike, P: ArrayLike) -> list[Sequence[float]]:
        pairs = ((T, t_unit, "temperature"), (P, p_unit, "pressure"))
        return [[from_si(float(v), unit, kind) for v in np.atleast_1d(v_all)] for v_all, unit, kind in pairs]

    out: list[Table] = []
    for beta, T, P in curves(whole, [0.0, 1.0, *live.document.display.map.quality]):
        title = {0.0: "bubble", 1.0: "dew"}.get(beta, f"vapour fraction {beta:g}")
        out.append((title, names, columns(T, P)))
    for line in live.volume_lines():
        out.append((f"vapour by volume {line.share:g}", names, columns(line.states.T, line.states.P)))
    for point in whole.critical_points:
        out.append(("critical", names, columns(point.T, point.P)))
    found = layers.regions()
    for b in found.bounds if found is not None else ():
        if b.gone in (Kind.VAPOUR, Kind.LIQUID):
            out.append(("bubble" if b.gone == Kind.VAPOUR else "dew", names, columns(b.T, b.P)))
    for fraction, states in found.quality if found is not None else ():
        out.append((f"vapour fraction {fraction:g}", names, columns(states.T, states.P)))
    whole = with_stable_extremes(whole, found)
    for title, extreme in (("cricondentherm", whole.cricondentherm), ("cricondenbar", whole.cricondenbar)):
        if extreme is not None:
            out.append((title, names, columns(extreme.T, extreme.P)))
    # The layers, as they are drawn.
    main = {name_of(beta) for beta in (0.0, 1.0, *live.document.display.map.quality)}
    for title, x, y in plot.named_lines():
        if title not in main and not title.endswith("vapour by volume"):
            value = 10.0**y if frame.logarithmic else y
            out.append((title, names, [x.tolist(), value.tolist()]))
    return out
