"""Quality lines by volume: the share holds along them, flashes agree, and they end where the lines by mole do."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.constants import R
from cryonome.eos.volume_shift import Shifts
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.volume_lines import volume_lines
from mixtures import mixture

SHARES = (0.1, 0.5, 0.9, 0.99)


@pytest.mark.parametrize("name", ["lean gas", "condensate", "liquefied gas", "crude"])
def test_the_share_holds_and_flashes_agree(name):
    eos, z = mixture(name)
    # A shift that slopes with temperature, as those of cuts do.
    shift = Shifts(0.08 * eos.b, 2e-4 * eos.b)
    whole = phase_map(eos, z, (0.1,))
    lines = volume_lines(eos, z, SHARES, shift, whole.critical_points)
    assert [line.share for line in lines] == list(SHARES)
    critical = whole.critical_points[0]
    for line in lines:
        s = line.states
        # The critical point ends every line; there the roots come together as a cube root of round-off.
        assert pytest.approx((critical.T, critical.P), rel=1e-9) == (s.T[-1], s.P[-1])
        apart = np.abs(np.log(s.light / np.where(s.heavy > 0.0, s.heavy, 1.0))).max(axis=-1) > 0.1
        V = s.Z * (R * s.T / s.P)[:, None] - np.vecdot(s.composition, shift.at(s.T)[:, None, :])
        vapour, liquid = (s.fraction * V).T
        assert np.abs(vapour / (vapour + liquid) - line.share)[apart].max() < 1e-9
        # Where nothing else forms, a flash finds the same state.
        rows = np.flatnonzero(apart & (s.T > 200.0))[::4]
        found = flash_pt(eos, s.T[rows], s.P[rows], z)
        assert np.abs(found.light_fraction - s.fraction[rows, 0]).max() < 1e-6


def test_a_component_without_a_side_does_not_hide_the_critical_point():
    eos, z = mixture("liquefied gas")
    (inner,) = [p for p in phase_map(eos, z, (0.1,)).parts if 0.0 < p.beta < 1.0]
    assert inner.reason == "critical point"
