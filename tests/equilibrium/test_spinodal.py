"""The spinodal: closed form of a van der Waals fluid, zero slope of a pure isotherm, and the critical points of the lines."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.spinodal import spinodal
from mixtures import NAMES, equation, mixture


def test_a_van_der_waals_fluid_has_its_closed_form():
    eos = equation([find("propane")], "VDW")
    found = spinodal(eos, np.ones(1))
    v, t = found.V / (3.0 * eos.b[0]), found.T / eos.Tc[0]
    # van der Waals (1873) in reduced form: dp/dv = 0 at t = (3 v - 1)^2/(4 v^3), where p = (3 v - 2)/v^3.
    assert np.abs(t / ((3.0 * v - 1.0) ** 2 / (4.0 * v**3)) - 1.0).max() < 1e-9
    assert found.P / eos.Pc[0] == pytest.approx((3.0 * v - 2.0) / v**3, rel=1e-7, abs=1e-7)
    (critical,) = found.critical
    assert pytest.approx((eos.Tc[0], eos.Pc[0]), rel=1e-6) == (critical.T, critical.P)


@pytest.mark.parametrize("name", NAMES)
def test_it_touches_the_lines_at_their_critical_points(name):
    eos, z = mixture(name)
    found, lines = spinodal(eos, z), phase_map(eos, z)
    assert (np.diff(found.V) > 0.0).all()
    for point in lines.critical_points:
        same = [c for c in found.critical if abs(c.T / point.T - 1) < 1e-6 and abs(c.P / point.P - 1) < 1e-5]
        assert len(same) == 1, (name, point, found.critical)
