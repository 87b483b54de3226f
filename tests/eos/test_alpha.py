"""Alpha functions: their derivatives, their ends, and the vapour pressures they were fitted to."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from cryonome.components import find
from cryonome.eos.alpha import MathiasCopeman, Smooth, Soave, Twu
from cryonome.eos.alpha_library import alpha_library
from cryonome.eos.building import Interaction, equation_of
from cryonome.equilibrium.pure import saturation_pressure

FUNCTIONS = [
    Soave(np.array([0.02, 0.4, 1.2, -0.2])),
    Smooth(np.array([0.02, 0.4, 1.2, -0.2])),
    MathiasCopeman(*np.array([[0.92, -0.38, 0.43], [1.21, -0.14, -0.80]]).T),
    Twu(*np.array([[0.08, 0.918, 2.704], [0.059, 0.883, 4.174], [0.1, 1.0, 1.0]]).T),
]


@pytest.mark.parametrize("function", FUNCTIONS, ids=lambda f: type(f).__name__)
@given(st.floats(0.3, 12.0))
def test_derivatives_are_those_of_the_value(function, Tr):
    n = len(next(iter(function.__dict__.values())))
    h = 1e-4 * Tr
    if abs(Tr - 1.0) < 2 * h:
        Tr = 1.01
    low, here, high = (function.root(np.full((1, n), t)) for t in (Tr - h, Tr, Tr + h))
    # Where a polynomial turns negative the root of its square has a corner.
    assume((here[0] > 0.01).all())
    np.testing.assert_allclose(here[1], Tr * (high[0] - low[0]) / (2 * h), rtol=1e-5, atol=1e-8)
    np.testing.assert_allclose(here[2], Tr * (high[1] - low[1]) / (2 * h) - here[1], rtol=1e-4, atol=1e-6)


@pytest.mark.parametrize("function", FUNCTIONS, ids=lambda f: type(f).__name__)
def test_nothing_steps_at_the_critical_temperature_and_all_stay_positive(function):
    n = len(next(iter(function.__dict__.values())))
    below, above = (function.root(np.full((1, n), t)) for t in (1.0 - 1e-9, 1.0 + 1e-9))
    # Mathias and Copeman's goes on with its slope alone.
    for b, a in zip(below[: 2 if isinstance(function, MathiasCopeman) else 3], above):
        np.testing.assert_allclose(a, b, atol=1e-7)
    far = function.root(np.linspace(1.0, 15.0, 100)[:, None] * np.ones(n))[0]
    assert (far > 0.0).all()
    assert np.isfinite(far).all()


def test_the_equations_own_function_is_the_published_one_at_every_temperature():
    """Soave (1972), eq. 9 with 15: nitrogen at 360 K by hand, and what the exponential makes of it."""
    eos, smooth = (equation_of("SRK", [find("nitrogen")], Interaction(np.zeros((1, 1))), a) for a in ("own", "smooth"))
    omega, Tr = float(eos.omega[0]), 360.0 / float(eos.Tc[0])
    by_hand = 1.0 + (0.480 + 1.574 * omega - 0.176 * omega**2) * (1.0 - Tr**0.5)
    assert eos.alpha.root(np.array([[Tr]]))[0][0, 0] == pytest.approx(by_hand, rel=1e-12)
    assert smooth.alpha.root(np.array([[Tr]]))[0][0, 0] > by_hand + 5e-3
    assert smooth.alpha.root(np.array([[0.9]]))[0] == eos.alpha.root(np.array([[0.9]]))[0]


@pytest.mark.parametrize("form", ["PR78", "SRK"])
@pytest.mark.parametrize(
    ("name", "T", "P"),
    [
        ("methane", 150.0, 1.040e6), ("propane", 300.0, 0.998e6), ("n-butane", 300.0, 0.2576e6), ("carbon dioxide", 250.0, 1.785e6),
        ("carbon dioxide", 273.15, 3.485e6), ("nitrogen", 100.0, 0.778e6), ("water", 373.15, 101325.0), ("water", 323.55, 12.6e3),
        ("methanol", 337.69, 101325.0), ("benzene", 353.24, 101325.0), ("hydrogen sulfide", 273.15, 1.0296e6), ("ethane", 200.0, 0.2174e6),
    ],
)  # fmt: skip
def test_published_functions_meet_reference_vapour_pressures(name, T, P, form):
    """Reference equations of state of each fluid, rounded as published tables are."""
    eos = equation_of(form, [find(name)], Interaction(np.zeros((1, 1))), "published")
    assert saturation_pressure(eos, np.array([T]))[0] == pytest.approx(P, rel=6e-3)


def test_hydrogen_and_helium_take_the_fitted_function_unless_the_own_is_asked():
    pair = [find("hydrogen"), find("methane")]
    for alpha, fitted in (("own", False), ("smooth", True), ("published", True)):
        eos = equation_of("PR78", pair, Interaction(np.zeros((2, 2))), alpha)
        own = eos.form.own_alpha(eos.omega).root(300.0 / eos.Tc[None])[0][0]
        used = eos.alpha.root(300.0 / eos.Tc[None])[0][0]
        assert (used[0] < own[0] - 0.1) == fitted
    T = np.linspace(40.0, 1500.0, 60)
    for name in ("hydrogen", "helium"):
        entry = alpha_library("PR")[name]
        value = Twu(*(np.array([p]) for p in entry.parameters)).root(T[:, None] / find(name).Tc)[0]
        assert (np.diff(value[:, 0]) < 0).all()
