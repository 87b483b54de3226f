"""Flashes: convergence, equal fugacities, balances and the right number of phases."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.rachford_rice import solve_fraction
from mixtures import NAMES, mixture
from reference import ln_phi, lowest_tangent_distance

STATES = 300


def random_states(name: str, count: int, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Return temperatures and pressures around the envelope, a quarter of them next to the critical point."""
    eos, z = mixture(name)
    whole = phase_map(eos, z)
    rng = np.random.default_rng(seed)
    top = whole.cricondentherm.T
    P_top = whole.cricondenbar.P if whole.cricondenbar else 3e7
    T = rng.uniform(0.45 * top, 1.1 * top, count)
    P = np.exp(rng.uniform(np.log(1e4), np.log(1.6 * P_top), count))
    c, k = whole.critical_points[0], count // 4
    near = 10.0 ** rng.uniform(-5, -1.5, (2, k)) * rng.normal(size=(2, k))
    T[:k], P[:k] = c.T * (1 + near[0]), c.P * (1 + near[1])
    return T, P


@pytest.mark.parametrize("name", NAMES)
def test_random_states_converge_to_equal_fugacities(name):
    eos, z = mixture(name)
    T, P = random_states(name, STATES, 11)
    r = flash_pt(eos, T, P, z)
    assert r.converged.all()
    assert 0.1 < r.split.mean() < 0.9  # the sample tells something only where both happen
    assert np.abs(z - np.einsum("ip,ipj->ij", r.fraction, r.composition)).max() < 1e-12
    assert np.abs(r.composition.sum(axis=-1)[r.present] - 1).max() < 1e-12
    assert np.abs(r.fraction.sum(axis=-1) - 1).max() < 1e-12
    assert (r.fraction >= 0).all()
    rng = np.random.default_rng(1)
    for i in rng.choice(np.flatnonzero(r.split), 12):
        f_x, f_y = (np.log(w) + ln_phi(eos, T[i], P[i], w)[0].real for w in r.composition[i])
        assert np.abs(f_x - f_y).max() < 1e-8
    for i in rng.choice(np.flatnonzero(~r.split), 2):
        lowest = lowest_tangent_distance(eos, T[i], P[i], z, trials=1, seed=int(i))
        assert lowest > -1e-9, f"called single at {T[i]} K, {P[i]} Pa, but a split lowers the Gibbs energy"


def test_a_batch_gives_what_single_calls_give_whatever_the_shape():
    eos, z = mixture("condensate")
    T = np.linspace(230.0, 420.0, 5)[:, None]
    P = np.geomspace(1e5, 4e7, 6)[None, :]
    grid = flash_pt(eos, T, P, z)
    assert grid.vapour_fraction.shape == (5, 6)
    assert grid.light.shape == (5, 6, z.size)
    for i in range(5):
        for j in range(6):
            one = flash_pt(eos, T[i, 0], P[0, j], 7.0 * z)  # amounts need not sum to one
            assert one.vapour_fraction.shape == ()
            assert int(one.count) == int(grid.count[i, j])
            assert float(one.vapour_fraction) == pytest.approx(float(grid.vapour_fraction[i, j]), abs=1e-9)


def test_absent_components_change_nothing():
    eos, z = mixture("condensate")
    padded = np.where(np.arange(z.size) == 3, 0.0, z)
    keep = padded > 0
    small = eos.of(keep)
    T, P = np.array([280.0, 320.0, 500.0]), np.array([2e6, 1.2e7, 2e6])
    with_zero, without = flash_pt(eos, T, P, padded), flash_pt(small, T, P, padded[keep])
    np.testing.assert_allclose(with_zero.vapour_fraction, without.vapour_fraction, atol=1e-10)
    np.testing.assert_allclose(with_zero.heavy[:, keep], without.heavy, atol=1e-9)
    assert (with_zero.light[:, 3] == 0.0).all()


def test_a_pure_fluid_changes_phase_at_its_vapour_pressure():
    from cryonome.equilibrium.pure import saturation_pressure
    from mixtures import equation

    eos = equation([find("propane")])
    P = saturation_pressure(eos, [300.0])[0]
    r = flash_pt(eos, 300.0, P * np.array([0.999, 1.001]), np.ones(1))
    assert r.vapour_fraction.tolist() == [1.0, 0.0]


@pytest.mark.parametrize(
    ("T", "P", "z", "word"),
    [
        (0.0, 1e5, 1.0, "temperature"),
        (300.0, 0.0, 1.0, "pressure"),
        (300.0, 1e5, -1.0, "mole numbers"),
        (300.0, np.nan, 1.0, "pressure"),
    ],
)
def test_unphysical_input_is_refused(T, P, z, word):
    eos, feed = mixture("lean gas")
    with pytest.raises(ValueError, match=word):
        flash_pt(eos, T, P, z * feed)
    with pytest.raises(ValueError, match="components"):
        flash_pt(eos, 300.0, 1e5, np.ones(3))


def test_the_phase_fraction_equation_keeps_its_poles_apart():
    rng = np.random.default_rng(0)
    z = rng.dirichlet(np.ones(8), 500)
    K = np.exp(rng.normal(0, 4, (500, 8)))
    K[:, 0], K[:, 1] = 3.0, 1.0 / 3.0
    beta, exists = solve_fraction(K, z)
    assert exists.all()
    denominator = 1 + beta[:, None] * (K - 1)
    assert (denominator > 0).all()
    x = z / denominator
    assert np.abs((K * x - x).sum(axis=1)).max() < 1e-9 * np.abs(x).max()
    none, exists = solve_fraction(np.full((1, 3), 0.5), np.full((1, 3), 1 / 3))
    assert not exists[0]
    assert none[0] == 0.0


def test_parameters_with_a_batch_axis_flash_as_single_ones():
    eos, z = mixture("condensate")
    shift = np.array([0.97, 1.0, 1.02, 1.04])[:, None]
    kij = np.stack([eos.kij * s for s in (0.5, 1.0, 1.2, 0.0)])
    many = type(eos)(eos.form, eos.Tc * shift, eos.Pc * np.ones((4, 1)), eos.omega * shift, kij)
    T, P = np.array([300.0, 330.0, 280.0, 600.0]), np.array([8e6, 2e6, 2.5e7, 5e6])
    together = flash_pt(many, T, P, z)
    for i in range(4):
        alone = flash_pt(type(eos)(eos.form, many.Tc[i], many.Pc[i], many.omega[i], kij[i]), T[i], P[i], z)
        assert int(alone.count) == int(together.count[i])
        assert float(alone.vapour_fraction) == pytest.approx(float(together.vapour_fraction[i]), abs=1e-9)
