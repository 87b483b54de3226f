"""The cubic core against complex-step derivatives, identities and published values."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.components import find
from cryonome.constants import R
from cryonome.eos import FORMS
from cryonome.eos.cubic_forms import kappa_pr76, kappa_pr78
from cryonome.eos.roots import extreme_roots
from cryonome.equilibrium.pure import boiling_temperature, saturation_pressure
from mixtures import NAMES, equation, mixture
from reference import ln_phi

STEP = 1e-30


@given(
    name=st.sampled_from(NAMES),
    form=st.sampled_from(sorted(FORMS)),
    T=st.floats(180.0, 900.0),
    log_p=st.floats(3.5, 8.0),
    seed=st.integers(0, 2**31),
)
def test_derivatives_equal_complex_step_and_obey_gibbs_duhem(name, form, T, log_p, seed):
    eos, z = mixture(name, form)
    P = 10.0**log_p
    n = z * np.random.default_rng(seed).uniform(0.05, 2.0, z.size)
    n /= n.sum()
    phase = eos.prepare([T], [P]).derivatives(n[None])
    Z = float(phase.Z[0])
    value, _ = ln_phi(eos, T, P, n, near=Z)
    scale = 1.0 + np.abs(value)
    np.testing.assert_allclose(phase.ln_phi[0], value.real, rtol=0, atol=1e-9 * scale.max())

    by_t = T * ln_phi(eos, T + 1j * STEP, P, n, near=Z)[0].imag / STEP
    by_p = P * ln_phi(eos, T, P + 1j * STEP, n, near=Z)[0].imag / STEP
    by_n = np.empty((n.size, n.size))
    for j in range(n.size):
        m = n.astype(complex)
        m[j] += 1j * STEP
        by_n[:, j] = ln_phi(eos, T, P, m, near=Z)[0].imag / STEP
    # Close to a spinodal the derivatives grow without bound and lose digits with dZ, in both formulations.
    for mine, other in ((phase.dln_phi_dlnT[0], by_t), (phase.dln_phi_dlnP[0], by_p), (phase.dln_phi_dn[0], by_n)):
        np.testing.assert_allclose(mine, other, rtol=1e-9, atol=1e-9 * max(1.0, np.abs(other).max()))

    size = max(1.0, np.abs(phase.dln_phi_dn).max())
    assert np.abs(n @ phase.dln_phi_dn[0]).max() < 1e-10 * size  # Gibbs-Duhem at constant T and P
    assert abs(n @ phase.dln_phi_dlnP[0] - (Z - 1.0)) < 1e-10 * size
    # Gibbs-Helmholtz: the residual enthalpy from the temperature derivative, the Gibbs energy from both.
    response = eos.prepare([T], [P]).response(n[None])
    h_res, s_res = float(response.h_res[0]), float(response.s_res[0])
    assert h_res == pytest.approx(-(n @ phase.dln_phi_dlnT[0]), abs=1e-10 * size)
    assert h_res - s_res == pytest.approx(n @ phase.ln_phi[0], abs=1e-10 * size)

    # Second derivatives: Cp_res is the slope of H_res along the isobar, p_V and p_T those of the volume.
    def enthalpy(t):
        value, z = ln_phi(eos, t, P, n, near=Z)
        up = t * (1 + 1e-20j)
        del value
        return -(n @ ln_phi(eos, up, P, n, near=Z)[0].imag / 1e-20) * R * t, z.real * R * t / P

    step = 1e-4
    (h_up, v_up), (h_down, v_down) = enthalpy(T * (1 + step)), enthalpy(T * (1 - step))
    V = Z * R * T / P
    cp_res, p_v = float(response.cp_res[0]), float(response.p_V[0])
    if abs(v_up - v_down) < 1e-2 * V and abs(p_v) > 1e-2:  # away from a spinodal, where differences mean something
        assert cp_res == pytest.approx((h_up - h_down) / (2 * step * T) / R, rel=1e-5, abs=1e-4)
        expansion = (v_up - v_down) / (2 * step) / V
        assert -float(response.p_T[0]) / p_v == pytest.approx(expansion, rel=1e-5, abs=1e-6)


@given(st.lists(st.floats(1e-7, 3.0), min_size=3, max_size=3))
def test_extreme_roots_of_a_cubic_with_known_roots(roots):
    a, b, c = sorted(roots)
    one = np.ones(1)
    low, high = extreme_roots(-(a + b + c) * one, (a * b + b * c + c * a) * one, -a * b * c * one, 0.0 * one)
    poly = np.poly([a, b, c])
    for z in (low[0], high[0]):
        assert abs(np.polyval(poly, z)) < 1e-13
    if min(b - a, c - b) > 1e-2 * c:
        assert high[0] == pytest.approx(c, rel=1e-9)
        assert low[0] == pytest.approx(a, rel=1e-9)


# Reference equations of state, by the standard of each fluid; the cubic equations are within 1.5 %.
@pytest.mark.parametrize(
    ("name", "T", "P"),
    [
        ("methane", 150.0, 1.040e6),
        ("propane", 300.0, 0.998e6),
        ("n-butane", 300.0, 0.2576e6),
        ("carbon dioxide", 250.0, 1.785e6),
        ("carbon dioxide", 273.15, 3.485e6),
        ("nitrogen", 100.0, 0.778e6),
    ],
)
@pytest.mark.parametrize("form", ["PR76", "PR78", "SRK"])
def test_published_vapour_pressures(name, T, P, form):
    eos = equation([find(name)], form)
    assert saturation_pressure(eos, [T])[0] == pytest.approx(P, rel=0.015)


@pytest.mark.parametrize("form", [f for f in FORMS.values() if f.omega_b], ids=lambda f: f.name)
def test_critical_constants_make_a_triple_root(form):
    c = find("propane")
    eos = equation([c], form.name)
    Z = eos.prepare([c.Tc], [c.Pc]).ln_phi(np.ones((1, 1)))[1][0]
    assert pytest.approx(form.critical_volume_ratio * form.omega_b, abs=2e-5) == Z
    V = np.array([form.critical_volume_ratio * float(eos.b[0])])
    states, one = eos.at_temperature([c.Tc]), np.ones((1, 1))
    assert float(states.pressure(V, one)[0]) == pytest.approx(c.Pc, rel=1e-10)
    assert abs(float(states.pressure_slope(V, one)[0]) * float(V[0]) / c.Pc) < 1e-9


def test_the_1978_form_is_the_1976_form_up_to_omega_049():
    omega = np.array([0.0, 0.3, 0.49, 0.491, 1.0])
    same = np.isclose(kappa_pr76(omega), kappa_pr78(omega), rtol=0, atol=1e-15)
    assert same.tolist() == [True, True, True, False, False]


def test_boiling_temperature_inverts_saturation_pressure_up_to_the_critical_point():
    eos = equation([find("propane"), find("n-decane")])
    T = np.array([[180.0], [300.0], [369.0]])
    P = saturation_pressure(eos, T)
    np.testing.assert_allclose(boiling_temperature(eos, P), np.broadcast_to(T, P.shape), rtol=1e-10)
    assert np.isnan(saturation_pressure(eos, [400.0])[0])


def test_parameters_with_a_batch_axis_give_what_single_ones_give():
    eos, z = mixture("condensate")
    shift = np.array([0.98, 1.0, 1.03])[:, None]
    many = type(eos)(eos.form, eos.Tc * shift, eos.Pc * np.ones((3, 1)), eos.omega * shift, np.stack([eos.kij] * 3))
    T, P = np.full(3, 320.0), np.full(3, 8e6)
    all_at_once = many.prepare(T, P).derivatives(np.stack([z] * 3))
    for i in range(3):
        one = type(eos)(eos.form, many.Tc[i], many.Pc[i], many.omega[i], many.kij[i])
        alone = one.prepare(T[:1], P[:1]).derivatives(z[None])
        np.testing.assert_allclose(all_at_once.ln_phi[i], alone.ln_phi[0], rtol=1e-12)
        np.testing.assert_allclose(all_at_once.dln_phi_dn[i], alone.dln_phi_dn[0], rtol=1e-10, atol=1e-12)
