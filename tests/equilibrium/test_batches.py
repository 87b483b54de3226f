"""Many states and many parameter sets in one call are the single calls, to rounding."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ask import fluid_of
from cryonome.demo import demo_document
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.fraction_flash import flash_fraction
from cryonome.equilibrium.phases import Kind, Phases, Reason
from cryonome.equilibrium.pure import boiling_temperature, saturation_pressure
from cryonome.equilibrium.stability import stability
from cryonome.fluids.states import full_states
from cryonome.properties import PROPERTIES
from mixtures import mixture


def own_parameters(name: str, n: int, seed: int):
    """Return an equation with n sets of parameters a little apart, and the feed."""
    eos, z = mixture(name)
    rng = np.random.default_rng(seed)
    spread = rng.uniform(0.97, 1.03, (n, 1))
    kij = np.stack([eos.kij] * n) * rng.uniform(0.8, 1.2, (n, 1, 1))
    return type(eos)(eos.form, eos.Tc * spread, eos.Pc * np.ones((n, 1)), eos.omega * spread, kij), z, rng


@pytest.fixture(scope="module")
def ten_thousand():
    """The demo's recombined crude at ten thousand states, in one call, with every property."""
    model = fluid_of(demo_document(), 2)
    T, P = np.meshgrid(np.linspace(270.0, 700.0, 100), np.geomspace(1e5, 4e7, 100))
    return model, full_states(model, T.ravel(), P.ravel())


def test_ten_thousand_full_states_are_the_single_ones(ten_thousand):
    model, many = ten_thousand
    assert many.phases.shape == (10_000,)
    assert many.phases.converged.all()
    kinds = many.phases.kind[:, 0]
    chosen = np.concatenate(
        [np.random.default_rng(3).choice(np.flatnonzero(many.phases.split), 30, replace=False),
         np.flatnonzero(~many.phases.split & (kinds == Kind.VAPOUR))[::400],
         np.flatnonzero(~many.phases.split & (kinds == Kind.LIQUID))[::400]]
    )  # fmt: skip
    for i in chosen:
        one = full_states(model, [many.phases.T[i]], [many.phases.P[i]])
        np.testing.assert_array_equal(one.phases.kind[0], many.phases.kind[i])
        for key, entry in PROPERTIES.items():
            if entry.function is not None:
                a, b = one.values.phase[key][0], many.values.phase[key][i]
                np.testing.assert_allclose(a, b, rtol=1e-8 if "conduct" in key else 1e-9, err_msg=key)
            if entry.whole is not None:
                np.testing.assert_allclose(one.values.whole[key][0], many.values.whole[key][i], rtol=1e-10, atol=1e-10)


def test_full_states_balance_and_have_equal_fugacities(ten_thousand):
    _, many = ten_thousand
    phases = many.phases
    balance = np.einsum("np,npj->nj", phases.fraction, np.where(phases.present[..., None], phases.composition, 0.0))
    np.testing.assert_allclose(balance, phases.z, atol=1e-12)
    np.testing.assert_allclose(phases.fraction.sum(axis=1), 1.0, atol=1e-13)
    two = phases.take(phases.split)
    assert two.residual.max() < 1e-8
    heavier = many.values.phase["density"][phases.split]
    assert (heavier[:, 1] > heavier[:, 0]).all()


def test_a_thousand_saturation_points_with_a_thousand_parameter_sets():
    eos, z, rng = own_parameters("aromatic", 1000, 5)
    T = rng.uniform(300.0, 420.0, 1000)
    many = flash_fraction(eos, z, 1.0, T=T)
    assert many.converged.all()
    for i in range(0, 1000, 25):
        one = flash_fraction(eos.take(np.array([i])), z, 1.0, T=T[i : i + 1])
        assert float(one.P[0]) == pytest.approx(many.P[i], rel=1e-10)
        np.testing.assert_allclose(one.heavy[0], many.heavy[i], rtol=1e-8, atol=1e-14)
    single = type(eos)(eos.form, eos.Tc[7], eos.Pc[7], eos.omega[7], eos.kij[7])
    assert float(flash_fraction(single, z, 1.0, T=T[7]).P) == pytest.approx(many.P[7], rel=1e-10)


@settings(max_examples=3)
@given(st.integers(0, 10_000), st.sampled_from(["aromatic", "close binary"]))
def test_every_solver_takes_parameters_of_their_own(seed, name):
    eos, z, rng = own_parameters(name, 4, seed)
    T, P = rng.uniform(250.0, 420.0, 4), rng.uniform(3e5, 8e6, 4)
    cold = rng.uniform(0.6, 0.7, 4) * (eos.Tc @ z)
    flash, test = flash_pt(eos, T, P, z), stability(eos, T, P, np.tile(z, (4, 1)))
    bubble = flash_fraction(eos, z, 0.0, T=cold)
    Tr = 0.7 * eos.Tc.min(axis=1)
    pure = saturation_pressure(eos, Tr[:, None])
    boiling = boiling_temperature(eos, np.full((4, 1), 2e5))
    assert bubble.converged.all()
    for i in range(4):
        one = eos.take(np.array([i]))
        row = slice(i, i + 1)
        alone = flash_pt(one, T[row], P[row], z)
        assert float(alone.vapour_fraction[0]) == pytest.approx(flash.vapour_fraction[i], abs=1e-10)
        assert bool(stability(one, T[row], P[row], z[None]).unstable[0]) == bool(test.unstable[i])
        assert float(flash_fraction(one, z, 0.0, T=cold[row]).P[0]) == pytest.approx(bubble.P[i], rel=1e-10)
        np.testing.assert_allclose(saturation_pressure(one, Tr[row, None])[0], pure[i], rtol=1e-10)
        np.testing.assert_allclose(boiling_temperature(one, np.array([[2e5]]))[0], boiling[i], rtol=1e-10)


def test_a_batch_of_phases_is_cut_joined_and_reshaped_without_loss():
    eos, z = mixture("sour gas")
    T = np.linspace(220.0, 380.0, 6)
    grid = flash_pt(eos, T.reshape(2, 3), 3e6, z)
    assert grid.shape == (2, 3)
    flat = grid.reshape(6)
    joined = Phases.join([flat.take(np.arange(2)), flat.take(np.arange(2, 6))])
    np.testing.assert_array_equal(joined.fraction, flat.fraction)
    np.testing.assert_array_equal(joined.composition, flat.composition)
    assert (flat.count == np.where(flat.split, 2, 1)).all()
    hot = flash_pt(eos, 1500.0, 3e6, z)
    assert hot.kind[..., 0] == Kind.VAPOUR
    assert hot.light_fraction == 1.0
    assert hot.reason == Reason.CONVERGED
