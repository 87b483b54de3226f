"""One rule names phases, for one, two and three of them."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.constants import R
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.phases import Kind
from mixtures import equation


def phases(names, z, T, P):
    found = flash_all(equation([find(n) for n in names]), [T], [P], np.array(z))
    assert found.converged[0]
    return [(Kind(int(k)).name, x) for k, x in zip(found.kind[0], found.composition[0]) if k != Kind.ABSENT], found


@pytest.mark.parametrize(
    ("name", "T", "P"), [("carbon dioxide", 280.0, 8e6), ("ethane", 280.0, 5e6), ("propane", 300.0, 2e6)]
)
def test_a_liquid_keeps_its_name_beside_water_and_oil(name, T, P):
    """Alone, beside water, beside oil and beside both: each time it is the same liquid, below its critical temperature and dense."""
    alone, _ = phases([name], [1.0], T, P)
    assert [k for k, _ in alone] == ["LIQUID"]
    wet, _ = phases([name, "water"], [0.5, 0.5], T, P)
    assert [k for k, _ in wet] == ["LIQUID", "LIQUID"]
    heavy, _ = phases([name, "n-triacontane"], [0.95, 0.05], T, P)
    assert "VAPOUR" not in [k for k, _ in heavy]
    both, _ = phases([name, "n-decane", "water"], [0.6, 0.1, 0.3], T, P)
    assert "VAPOUR" not in [k for k, _ in both]


def test_of_two_that_are_one_by_the_rule_the_lighter_is_the_vapour():
    """Near a critical point of methane and n-pentane both phases are above the critical temperature of their one fluid."""
    (vapour, liquid), found = phases(["methane", "n-pentane"], [0.6, 0.4], 300.0, 8e6)
    assert (vapour[0], liquid[0]) == ("VAPOUR", "LIQUID")
    volume = found.Z[0] * R * 300.0 / 8e6
    assert volume[0] > volume[1]


def test_a_trace_of_water_changes_no_name():
    names, P = ["methane", "propane", "n-decane", "water"], 5e6
    eos = equation([find(n) for n in names])
    T = np.linspace(250.0, 650.0, 41)
    dry = flash_pt(eos, T, P, np.array([0.6, 0.2, 0.2, 0.0]))
    damp = flash_all(eos, T, P, np.array([0.6, 0.2, 0.2, 1e-7]))
    assert damp.vapour_fraction == pytest.approx(dry.vapour_fraction, abs=1e-5)
