"""Ideal-gas properties and mixtures of them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.components import find, ideal_gas
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


def test_published_heat_capacities_at_298_K():
    """J/(mol K): NIST Chemistry WebBook, ideal gas at 298.15 K."""
    for name, value in (
        ("methane", 35.7),
        ("propane", 73.6),
        ("n-butane", 98.5),
        ("carbon dioxide", 37.1),
        ("benzene", 82.4),
        ("water", 33.6),
    ):
        cp = np.array([find(name).cp])
        assert ideal_gas.heat_capacity(cp, np.array([298.15]))[0, 0] == pytest.approx(value, rel=0.02), name
