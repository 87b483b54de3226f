"""Lines run into their critical points, and what is drawn of them lies on the true line."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.equilibrium.phase_map import phase_map
from cryonome.fluids.map_lines import curves, drawn
from mixtures import equation, mixture

INNER = (0.1, 0.25, 0.5, 0.75, 0.9)
PLAIN = {
    "propane, n-butane": (0.5, 0.5), "methane, n-butane": (0.7, 0.3), "ethane, n-hexane": (0.5, 0.5), "nitrogen, methane": (0.3, 0.7),
    "methane, propane, n-pentane": (0.5, 0.3, 0.2), "carbon dioxide, n-butane": (0.6, 0.4),
}  # fmt: skip


def made(name):
    return equation([find(n) for n in name.split(", ")]), np.array(PLAIN[name])


@pytest.mark.parametrize("name", [*PLAIN, "lean gas", "close binary", "condensate"])
def test_lines_run_into_the_critical_point_and_are_drawn_where_they_are(name):
    eos, z = made(name) if name in PLAIN else mixture(name)
    whole = phase_map(eos, z, INNER)
    (point,) = whole.critical_points
    for beta in INNER:
        (line,) = curves(whole, [beta])
        assert (line[1][-1], line[2][-1]) == pytest.approx((point.T, point.P), rel=1e-9), beta
        # The last point that was solved for lies beside it.
        assert abs(line[1][-2] - point.T) < 2.0, beta
    # A picture of 700 pixels from nothing to the cricondenbar.
    assert whole.cricondenbar is not None
    pixel = whole.cricondenbar.P / 700.0
    for beta in (0.0, 1.0):
        worst = 0.0
        for _, T, P in drawn(whole, [beta]):
            for i in range(5, len(T) - 5, 9):
                if P[i] > whole.cricondenbar.P:
                    continue
                near = [abs(p.P - P[i]) for p in whole.crossings([beta], T=float(T[i]))]
                # Where the line is steep its temperature tells better.
                level = [abs(p.T - T[i]) for p in whole.crossings([beta], P=float(P[i]))]
                worst = max(worst, min([*(d / pixel for d in near), *(700.0 * d / point.T for d in level)]))
        assert worst < 0.5
