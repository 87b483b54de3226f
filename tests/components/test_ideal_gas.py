"""Ideal-gas properties and mixtures of them."""

from __future__ import annotations

import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.components import all_components, find, ideal_gas
from cryonome.constants import R

NAMES = ("methane", "propane", "n-decane", "carbon dioxide")
CP = np.array([find(n).cp for n in NAMES])


@given(st.floats(250.0, 900.0), st.floats(4.0, 7.5))
def test_enthalpy_and_entropy_integrate_the_heat_capacity(T, log_p):
    T, P, h = np.array([T]), np.array([10.0**log_p]), 0.01
    x = np.array([[0.4, 0.3, 0.2, 0.1]])
    slope = (ideal_gas.enthalpy(CP, T + h) - ideal_gas.enthalpy(CP, T - h)) / (2 * h)
    np.testing.assert_allclose(slope, ideal_gas.heat_capacity(CP, T), rtol=1e-7)
    rise = (ideal_gas.entropy(CP, T + h, P, x) - ideal_gas.entropy(CP, T - h, P, x)) / (2 * h)
    assert rise[0] * T[0] == pytest.approx((x @ ideal_gas.heat_capacity(CP, T)[0])[0], rel=1e-7)
    fall = ideal_gas.entropy(CP, T, 2 * P, x) - ideal_gas.entropy(CP, T, P, x)
    assert fall[0] == pytest.approx(-R * np.log(2.0), rel=1e-9)


def test_the_reference_state_is_zero_and_mixing_adds_entropy():
    T, P = np.array([298.15]), np.array([101325.0])
    assert np.abs(ideal_gas.enthalpy(CP, T)).max() < 1e-12
    assert ideal_gas.entropy(CP, T, P, np.eye(4)[:1])[0] == pytest.approx(0.0, abs=1e-12)
    half = ideal_gas.entropy(CP, T, P, np.array([[0.5, 0.5, 0.0, 0.0]]))
    assert half[0] == pytest.approx(R * np.log(2.0), rel=1e-12)


@pytest.mark.parametrize(
    ("name", "T", "values", "within"),
    [
        ("nitrogen", [300, 500, 1000, 1500], [29.125, 29.580, 32.697, 34.843], 0.005),
        ("carbon monoxide", [298.15, 500, 1000, 1500], [29.142, 29.794, 33.183, 35.217], 0.006),
        ("oxygen", [298.15, 500, 1000, 1500], [29.376, 31.091, 34.870, 36.544], 0.005),
        ("carbon dioxide", [200, 298.15, 500, 1000, 1500], [32.359, 37.129, 44.627, 54.308, 58.379], 0.002),
        ("hydrogen", [200, 298.15, 500, 1000, 1500], [27.447, 28.836, 29.260, 30.205, 32.298], 0.025),
        ("water", [298.15, 500, 1000, 1500], [33.590, 35.226, 41.268, 47.090], 0.003),
        ("methane", [100, 200, 298.15, 500, 1000, 1500], [33.258, 33.473, 35.639, 46.342, 71.795, 86.556], 0.0015),
        ("ethylene", [298.15, 500, 1000], [42.886, 62.477, 93.899], 0.002),
        ("sulfur dioxide", [298.15, 500, 1000], [39.842, 46.490, 54.484], 0.011),
        ("benzene", [200, 298.15, 400, 500, 1000], [53.17, 82.44, 113.52, 139.35, 211.41], 0.008),
        ("cyclohexane", [298.15, 400, 500, 600, 1000], [105.3, 149.9, 190.2, 225.2, 317.2], 0.01),
        ("n-eicosane", [298.15, 400, 600, 1000], [463.3, 587.0, 797.1, 1054.0], 0.025),
    ],
)  # fmt: skip
def test_published_heat_capacities(name, T, values, within):
    """J/(mol K). JANAF tables (1998) of the small molecules, API Research Project 44 of the hydrocarbons."""
    found = ideal_gas.heat_capacity(np.array([find(name).cp]), np.array(T, float))[:, 0]
    np.testing.assert_allclose(found, values, rtol=within)


def test_heat_capacities_have_the_right_ends_and_always_rise():
    T = np.geomspace(20.0, 3000.0, 120)
    for c in all_components():
        cp = ideal_gas.heat_capacity(np.array([c.cp]), T)[:, 0] / R
        assert (np.diff(cp) >= -1e-12).all(), c.name
        assert min(abs(cp[0] - rigid) for rigid in (2.5, 3.5, 4.0)) < 0.35, c.name
        atoms = sum(int(k or 1) for _, k in re.findall(r"(Ar|He|[CHONS])(\d*)", c.formula))
        # Every vibration and inner rotation counts at most one R.
        assert cp[-1] < 4.0 + 3 * atoms, c.name
