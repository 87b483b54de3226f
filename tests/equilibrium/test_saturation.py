"""Saturation pressures as a laboratory sees them, against traced envelopes."""

import numpy as np
import pytest

from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.saturation import saturation
from mixtures import NAMES, mixture

TRACED = 2.4e8
"""Pa up to which the line of the mixture with hydrogen, whose pressure rises without end in the cold, is followed."""


@pytest.mark.parametrize("name", NAMES)
def test_it_is_the_topmost_point_of_the_envelope(name: str) -> None:
    eos, z = mixture(name)
    whole = phase_map(eos, z)
    assert whole.cricondentherm is not None
    T = np.linspace(0.6, 1.02, 16) * whole.cricondentherm.T
    found = saturation(eos, T, np.tile(z, (T.size, 1)))
    for i, t in enumerate(T):
        points = whole.crossings([0.0, 1.0], T=float(t))
        if not points:
            assert not found.found[i]
            continue
        top = max(points, key=lambda p: p.P)
        if found.endless[i]:
            # Two liquids up to any pressure: the envelope says so too, by a line that rises beyond it.
            assert name in ("carbon dioxide flood", "sour gas", "hydrogen")
            continue
        if name == "hydrogen" and found.P[i] > TRACED:
            # Lines are followed up to here; the points beyond lie on, from one temperature to the next.
            assert found.bubble[i]
            assert found.P[i + 1] < found.P[i]
            continue
        assert found.P[i] == pytest.approx(top.P, rel=1e-7)
        assert found.bubble[i] == (top.beta == 0.0)
        assert found.incipient[i] == pytest.approx(top.y if top.beta == 0.0 else top.x, abs=1e-6)


def test_points_near_others_begin_there() -> None:
    eos, z = mixture("condensate")
    T = np.linspace(330.0, 400.0, 9)
    feeds = np.tile(z, (T.size, 1))
    cold = saturation(eos, T, feeds)
    warm = saturation(eos, T + 1.0, feeds, cold)
    assert pytest.approx(saturation(eos, T + 1.0, feeds).P, rel=1e-8) == warm.P
