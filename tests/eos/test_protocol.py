"""Every equation behind the protocol the solvers know: the same identities for all of them, states taken out of a batch, and equations side by side."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cryonome.components import find
from cryonome.constants import R
from cryonome.eos.building import Interaction, equation_of, family_of, reference_equation
from cryonome.eos.interaction import library_kij
from cryonome.eos.reference_fluids import REFERENCE_FLUIDS
from cryonome.eos.stacked import stacked

MIXED = {"PR78": ("methane", "carbon dioxide", "n-hexane"), "SRK": ("methane", "carbon dioxide", "n-hexane"), "VDW": ("methane", "ethane", "propane"), "RK": ("methane", "ethane", "propane"),
         "PC-SAFT": ("methane", "n-pentane", "n-decane"), "CPA": ("methane", "methanol", "water")}  # fmt: skip


@cache
def mixed(name):
    """Return an equation of three components."""
    components = tuple(find(n) for n in MIXED[name])
    return equation_of(name, components, Interaction(library_kij(components, family_of(name))), "published")


@cache
def pure(name):
    return reference_equation([find(name)])


def pressure(eos, T, V, n):
    """Return P of n moles (nc,) in V m3 by the equation at a volume."""
    total = n.sum()
    return eos.at_temperature([T]).pressure(np.array([V / total]), (n / total)[None])[0]


states = st.tuples(st.floats(250.0, 450.0), st.floats(5.0, 7.3).map(lambda e: 10.0**e), st.integers(0, 10**6))


@pytest.mark.parametrize("name", MIXED)
@settings(max_examples=12)
@given(states)
def test_fugacities_obey_gibbs_and_duhem_and_the_volume_is_their_slope(name, given_state):
    T, P, seed = given_state
    eos = mixed(name)
    x = np.random.default_rng(seed).dirichlet(np.ones(3))[None]
    prepared = eos.prepare([T], [P])
    ln_phi, Z = prepared.ln_phi(x)
    own = prepared.derivatives(x)
    np.testing.assert_allclose(own.ln_phi, ln_phi, rtol=1e-9, atol=1e-10)
    jacobian = own.dln_phi_dn[0]
    np.testing.assert_allclose(x[0] @ jacobian, 0.0, atol=1e-7)  # Gibbs-Duhem
    np.testing.assert_allclose(jacobian, jacobian.T, atol=1e-7)  # a potential has symmetric second derivatives
    # V of the mixture is RT (1/P + sum x dlnphi/dP), by a difference of the whole.
    h = 1e-4 * P
    root = "liquid" if Z[0] < 0.4 else "vapour"
    up, down = (eos.prepare([T], [P + s]).ln_phi(x, root)[0] for s in (h, -h))
    slope = float(x[0] @ (up - down)[0]) / (2.0 * h)
    Z_own = eos.prepare([T], [P]).ln_phi(x, root)[1][0]
    assert P * slope + 1.0 == pytest.approx(Z_own, abs=2e-5)
    V = Z_own * R * T / P
    assert pressure(eos, T, V, x[0]) == pytest.approx(P, rel=1e-6)


@pytest.mark.parametrize("name", MIXED)
def test_enthalpy_is_the_slope_of_fugacities_in_temperature(name):
    """H - H_ideal = -R T^2 sum x dlnphi/dT at constant P and composition (Gibbs and Helmholtz)."""
    eos, x, T, P, h = mixed(name), np.array([[0.5, 0.2, 0.3]]), 320.0, 4e6, 0.02
    found = eos.prepare([T], [P]).response(x, "vapour")
    up, down = (eos.prepare([T + s], [P]).ln_phi(x, "vapour")[0] for s in (h, -h))
    slope = float(x[0] @ (up - down)[0]) / (2.0 * h)
    assert found.h_res[0] == pytest.approx(-T * slope, rel=1e-5)
    ln_phi = float(x[0] @ eos.prepare([T], [P]).ln_phi(x, "vapour")[0][0])
    assert found.h_res[0] - found.s_res[0] == pytest.approx(ln_phi, abs=1e-7)


@pytest.mark.parametrize("name", MIXED)
def test_a_state_taken_out_of_a_batch_is_that_state(name):
    eos = mixed(name)
    T, P = np.array([260.0, 300.0, 340.0, 420.0]), np.array([1e5, 4e6, 9e6, 2e7])
    x = np.random.default_rng(1).dirichlet(np.ones(3), 4)
    whole = eos.prepare(T, P).ln_phi(x)
    index = np.array([3, 1])
    some = eos.prepare(T, P).take(index).ln_phi(x[index])
    np.testing.assert_allclose(some[0], whole[0][index], rtol=1e-12)
    np.testing.assert_allclose(some[1], whole[1][index], rtol=1e-12)
    for k in range(4):
        np.testing.assert_allclose(eos.prepare(T[k], P[k]).ln_phi(x[k : k + 1])[0][0], whole[0][k], rtol=1e-12)


@pytest.mark.parametrize("name", [n for n in MIXED if n != "CPA"])
def test_a_component_left_out_had_no_part(name):
    eos = mixed(name)
    without = eos.of(np.array([True, False, True]))
    x = np.array([[0.6, 0.0, 0.4]])
    all_three, two = eos.prepare([330.0], [5e6]).ln_phi(x), without.prepare([330.0], [5e6]).ln_phi(x[:, [0, 2]])
    np.testing.assert_allclose(all_three[0][:, [0, 2]], two[0], rtol=1e-10)
    assert without.nc == 2
    assert all_three[1] == pytest.approx(two[1], rel=1e-12)


@pytest.mark.parametrize("name", MIXED)
def test_there_is_no_state_below_the_least_volume(name):
    eos, x = mixed(name), np.array([[0.5, 0.2, 0.3]])
    least = eos.least_volume(x)
    high = eos.at_temperature([350.0]).pressure(1.02 * least, x)[0]
    assert high > 1e8
    assert np.all(eos.prepare([350.0], [1e9]).ln_phi(x, "liquid")[1] * R * 350.0 / 1e9 > least)


def test_equations_side_by_side_are_each_alone():
    """Samples of one fluid: critical constants moved a little, one row each."""
    base = mixed("PR78")
    names = MIXED["PR78"]
    other = tuple(find(n) for n in ("methane", "hydrogen sulfide", "n-heptane"))
    second = equation_of("PR78", other, Interaction(library_kij(other, family_of("PR78"))), "published")
    both = stacked([base, second])
    T, P = np.array([300.0, 340.0]), np.array([3e6, 6e6])
    x = np.array([[0.5, 0.2, 0.3], [0.3, 0.3, 0.4]])
    together = both.prepare(T, P).ln_phi(x)
    for k, eos in enumerate((base, second)):
        alone = eos.prepare(T[k], P[k]).ln_phi(x[k : k + 1])
        np.testing.assert_allclose(together[0][k], alone[0][0], rtol=1e-12)
        assert together[1][k] == pytest.approx(alone[1][0], rel=1e-12)
        assert both.single(k) is eos
    np.testing.assert_allclose(both.Tc, [base.Tc, second.Tc])
    np.testing.assert_allclose(both.Pc, [base.Pc, second.Pc])
    np.testing.assert_allclose(both.omega, [base.omega, second.omega])
    turned = both.take(np.array([1, 0, 1]))
    np.testing.assert_allclose(turned.Tc, [second.Tc, base.Tc, second.Tc])
    assert turned.single(0) is second
    np.testing.assert_allclose(both.least_volume(x), [e.least_volume(x[k : k + 1])[0] for k, e in enumerate((base, second))])  # fmt: skip
    np.testing.assert_allclose(both.pure_critical()[0], [e.pure_critical()[0] for e in (base, second)])
    fewer = both.of(np.array([0, 2]))
    np.testing.assert_allclose(fewer.prepare(T, P).ln_phi(x[:, [0, 2]] / x[:, [0, 2]].sum(axis=1, keepdims=True))[0][1], second.of(np.array([0, 2])).prepare(T[1], P[1]).ln_phi(x[1:, [0, 2]] / x[1:, [0, 2]].sum())[0][0], rtol=1e-12)  # fmt: skip
    assert both.batched
    assert both.nc == len(names)
    with pytest.raises(NotImplementedError, match="by itself"):
        both.pure()
    assert stacked([base, mixed("PC-SAFT")]) is None  # of two families
    assert stacked([base, base.of(np.array([0, 1]))]) is None  # of other sizes
    assert stacked([pure("methane")]) is None  # no compiled solver takes it
    assert stacked([]) is None


# -- reference equations of pure fluids --------------------------------------------------------------------------------


@pytest.mark.parametrize("name", list(REFERENCE_FLUIDS))
def test_a_reference_equation_has_consistent_derivatives(name):
    """Pressure from the energy, its slope, second and third derivatives, by differences in the volume."""
    eos, one = pure(name), np.ones((1, 1))
    T = 1.1 * eos.Tc
    V = 1.7 / eos.fluid.rho_c
    at = eos.at_temperature(T)
    h = 1e-4 * V
    volume = np.array([V])
    up, down = at.pressure(volume + h, one), at.pressure(volume - h, one)
    assert at.pressure_slope(volume, one)[0] == pytest.approx(float((up - down)[0]) / (2 * h), rel=1e-5)
    P = at.pressure(volume, one)[0]
    prepared = eos.prepare(T, P)
    ln_phi, Z = prepared.ln_phi(one, "vapour")
    assert Z[0] * R * T[0] / P == pytest.approx(V, rel=1e-8)
    own = prepared.derivatives(one, "vapour")
    assert own.ln_phi[0, 0] == pytest.approx(ln_phi[0, 0])
    dP, dT = 1e-4 * P, 1e-4 * T[0]
    by_P = (eos.prepare(T, P + dP).ln_phi(one, "vapour")[0] - eos.prepare(T, P - dP).ln_phi(one, "vapour")[0])[0, 0] / (2 * dP)  # fmt: skip
    by_T = (eos.prepare(T + dT, P).ln_phi(one, "vapour")[0] - eos.prepare(T - dT, P).ln_phi(one, "vapour")[0])[0, 0] / (2 * dT)  # fmt: skip
    assert P * by_P == pytest.approx(Z[0] - 1.0, abs=1e-6)
    assert -T[0] * by_T == pytest.approx(prepared.response(one, "vapour").h_res[0], abs=1e-5)
    assert prepared.packing(one, Z)[0] == pytest.approx(1.0 / 1.7, rel=1e-8)
    assert not prepared.cold(one)[0]
    # F of n moles in V: d2F/dn2 and its own slope, by differences of n in a fixed volume.
    F = lambda n: at.hessian(np.array([V / n]), one)[0, 0, 0] / n  # noqa: E731
    third = at.third(volume, one, np.ones((1, 1)))[0]
    slope = (F(1 + 1e-4) - F(1 - 1e-4)) / 2e-4
    assert third == pytest.approx(slope, rel=1e-4, abs=1e-4)


def test_a_reference_equation_taken_apart_is_itself():
    eos = pure("propane")
    assert eos.of(np.array([0])) is eos
    assert not eos.batched
    wide = eos.pure()
    assert wide.batched
    assert wide.take(np.array([0])) is wide
    assert wide.single(0).Tc.shape == (1,)
    assert eos.single(0) is eos
    assert eos.unlikeness().tolist() == [0.0]
    with pytest.raises(NotImplementedError, match="one pure fluid"):
        _ = eos.packed
    T, P = np.array([280.0, 320.0, 380.0]), np.array([1e6, 1e6, 6e6])
    states = eos.prepare(T, P)
    one = np.ones((3, 1))
    before = states.take(np.array([2, 0])).ln_phi(one[:2])[1]
    whole = states.ln_phi(one)[1]
    after = states.take(np.array([2, 0])).ln_phi(one[:2])[1]  # its roots are known by now
    np.testing.assert_allclose(before, whole[[2, 0]])
    np.testing.assert_allclose(after, before)
    np.testing.assert_allclose(states.pure_ln_phi(), states.ln_phi(one, "liquid")[0])
    assert 1.0 / eos.least_volume(one)[0] == pytest.approx(3.6 * eos.fluid.rho_c)


def test_the_spinodal_of_a_reference_equation_bounds_its_vapour_pressure():
    eos = pure("carbon dioxide")
    T = np.array([230.0, 270.0, 300.0])
    liquid, vapour, dense, thin = eos.spinodal(T)
    assert np.all(dense < thin)
    one = np.ones((3, 1))
    for V in (dense, thin):
        slope = eos.at_temperature(T).pressure_slope(V, one) * V**2 / (R * T)
        np.testing.assert_allclose(slope, 0.0, atol=1e-4)
    # Span and Wagner (1996), table 34: 0.8929, 3.2033 and 6.7131 MPa at 230, 270 and 300 K.
    boiling = np.array([0.8929e6, 3.2033e6, 6.7131e6])
    assert np.all(liquid < boiling)
    assert np.all(boiling < vapour)
