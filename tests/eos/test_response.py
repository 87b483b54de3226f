"""The protocol beyond fugacities: responses and the equation at a volume, against differences and closed forms."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.components import find
from cryonome.constants import R
from cryonome.eos import FORMS, CubicEos
from cryonome.eos.building import EQUATIONS, Interaction, equation_of
from mixtures import equation, mixture

FORM_NAMES = sorted(FORMS)


def gas(form: str) -> tuple[CubicEos, np.ndarray]:
    """Return a mixture of three by any form."""
    return equation([find(n) for n in ("methane", "propane", "hydrogen sulfide")], form), np.array([0.6, 0.3, 0.1])


@pytest.mark.parametrize("form", FORM_NAMES)
@given(T=st.floats(250.0, 600.0), log_p=st.floats(4.0, 7.5))
def test_response_is_the_slope_of_what_it_answers_to(form, T, log_p):
    eos, z = gas(form)
    P, root = 10.0**log_p, "vapour"
    found = eos.prepare([T], [P]).response(z[None], root)
    V = float(found.Z[0]) * R * T / P
    step = 1e-5
    warm, cold = (eos.at_temperature([T * (1.0 + s)]) for s in (step, -step))
    slope_T = (warm.pressure(np.array([V]), z[None]) - cold.pressure(np.array([V]), z[None])) / (2 * step) / P
    assert found.p_T[0] == pytest.approx(slope_T[0], rel=1e-6, abs=1e-7)
    there = eos.at_temperature([T])
    volumes = V * np.array([1.0 + step, 1.0 - step])
    P_up, P_down = (there.pressure(np.array([v]), z[None])[0] for v in volumes)
    assert found.p_V[0] == pytest.approx((P_up - P_down) / (2 * step) / P, rel=1e-5, abs=1e-6)
    assert there.pressure(np.array([V]), z[None])[0] == pytest.approx(P, rel=1e-9)
    assert there.pressure_slope(np.array([V]), z[None])[0] * V / P == pytest.approx(found.p_V[0], rel=1e-8)


@pytest.mark.parametrize("form", FORM_NAMES)
def test_residual_heat_capacity_is_the_slope_of_the_residual_enthalpy(form):
    """Cp_res = d(H_res)/dT at constant P, by central differences in the vapour and in the liquid."""
    eos, z = gas(form)
    for T, P, root in ((420.0, 4e6, "vapour"), (250.0, 6e6, "liquid")):
        h = 1e-3
        around = eos.prepare([T - h, T + h], [P, P]).response(np.stack([z, z]), root)
        slope = (around.h_res[1] * (T + h) - around.h_res[0] * (T - h)) / (2 * h)
        assert eos.prepare([T], [P]).response(z[None], root).cp_res[0] == pytest.approx(slope, rel=1e-5, abs=1e-8)


def test_an_ideal_gas_departs_from_nothing():
    eos, z = gas("ideal")
    prepared = eos.prepare([300.0, 400.0], [1e5, 5e7])
    x = np.stack([z, z])
    ln_phi, Z = prepared.ln_phi(x)
    np.testing.assert_array_equal(ln_phi, 0.0)
    np.testing.assert_array_equal(Z, 1.0)
    found = prepared.response(x)
    for values in (found.h_res, found.s_res, found.cv_res, found.cp_res):
        np.testing.assert_allclose(values, 0.0, atol=1e-14)
    np.testing.assert_allclose(found.p_T, 1.0)
    np.testing.assert_allclose(found.p_V, -1.0)
    assert np.isnan(eos.pure_critical()[0]).all()


@pytest.mark.parametrize(
    ("form", "compressibility"),
    [("VDW", 3.0 / 8.0), ("RK", 1.0 / 3.0), ("SRK", 1.0 / 3.0), ("PR78", 0.307401308698703)],
)
def test_critical_points_of_pure_fluids_are_the_forms_own(form, compressibility):
    eos = equation([find("ethane"), find("n-octane")], form)
    T, P, V = eos.pure_critical()
    np.testing.assert_allclose(T, eos.Tc, rtol=1e-12)
    np.testing.assert_allclose(P, eos.Pc, rtol=1e-12)
    np.testing.assert_allclose(P * V / (R * T), compressibility, rtol=1e-9)
    for i in range(2):
        pure = eos.of(np.array([i]))
        there = pure.at_temperature(T[i : i + 1])
        x = np.ones((1, 1))
        assert there.pressure(V[i : i + 1], x)[0] == pytest.approx(P[i], rel=1e-10)
        assert there.pressure_slope(V[i : i + 1], x)[0] * V[i] / P[i] == pytest.approx(0.0, abs=1e-9)


def test_van_der_waals_follows_its_law_of_corresponding_states():
    """(p + 3/v^2)(3 v - 1) = 8 t, and ln phi = Z - 1 - ln(Z - B) - 2 A/Z for a pure fluid, by hand."""
    eos = equation([find("carbon dioxide")], "VDW")
    T, V = 1.15 * float(eos.Tc[0]), 2.4 * float(eos.pure_critical()[2][0])
    P = float(eos.at_temperature([T]).pressure(np.array([V]), np.ones((1, 1)))[0])
    t, v, p = 1.15, 2.4, P / float(eos.Pc[0])
    assert (p + 3.0 / v**2) * (3.0 * v - 1.0) == pytest.approx(8.0 * t, rel=1e-12)
    ln_phi, Z = eos.prepare([T], [P]).ln_phi(np.ones((1, 1)))
    A, B = 27.0 / 64.0 * p / t**2, p / t / 8.0
    assert ln_phi[0, 0] == pytest.approx(Z[0] - 1.0 - np.log(Z[0] - B) - A / Z[0], rel=1e-12)


def test_redlich_kwong_has_its_own_temperature_law():
    """a falls with T^-0.5: at 4 Tc half, so that the second virial coefficient is b - a/(R T) with that a."""
    eos = equation([find("nitrogen")], "RK")
    Tc, Pc = float(eos.Tc[0]), float(eos.Pc[0])
    T, P = 4.0 * Tc, 10.0
    ln_phi, _ = eos.prepare([T], [P]).ln_phi(np.ones((1, 1)))
    a, b = 0.427480233540341 * (R * Tc) ** 2 / Pc * 0.5, 0.0866403499649577 * R * Tc / Pc
    assert ln_phi[0, 0] == pytest.approx((b - a / (R * T)) * P / (R * T), rel=1e-6)


def test_equations_are_named_once_and_can_be_restricted():
    assert set(EQUATIONS) == {*FORMS, "PC-SAFT", "CPA", "reference"}
    assert all(len(source) > 10 for source in EQUATIONS.values())
    eos, z = mixture("sour gas")
    again = equation_of("PR78", [find(n) for n in ("hydrogen sulfide", "methane")], Interaction(np.zeros((2, 2))))
    assert again.nc == 2
    part = eos.of(np.array([0, 2]))
    np.testing.assert_array_equal(part.Tc, eos.Tc[[0, 2]])
    np.testing.assert_array_equal(part.kij, eos.kij[np.ix_([0, 2], [0, 2])])
    assert not part.batched
    pure = eos.pure()
    assert pure.batched
    assert pure.nc == 1
    assert z.size == eos.nc
