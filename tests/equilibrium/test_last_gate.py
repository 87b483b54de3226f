"""No state passes for found that is none: random mixtures by every equation held against brute force, and the ways to a state against each other."""

import numpy as np
import pytest

import safety
from cryonome.components import find
from cryonome.constants import R
from cryonome.eos import FORMS, CubicEos
from cryonome.equilibrium.fraction_states import fraction_states
from cryonome.equilibrium.line_points import METASTABLE
from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.phases import Reason
from cryonome.equilibrium.stability import stability


def made(names, **kij):
    parts = [find(n) for n in names]
    arrays = [np.array([getattr(c, k) for c in parts]) for k in ("Tc", "Pc", "omega")]
    pairs = np.zeros((len(names), len(names)))
    for pair, value in kij.items():
        i, j = (int(k) for k in pair.strip("k").split("_"))
        pairs[i, j] = pairs[j, i] = value
    return CubicEos(FORMS["PR78"], *arrays, pairs)


@pytest.mark.parametrize("number", range(12))
def test_random_states_have_their_phases_and_no_other(number):
    rng = np.random.default_rng(100 + number)
    model = safety.mixture(rng, number)
    # PC-SAFT has no liquid of heavy molecules in the cold, and says that it found none.
    cold = 200.0 if safety.EQUATIONS[number % 6] == "PC-SAFT" else 100.0
    T, P = rng.uniform(cold, 650.0, 40), np.exp(rng.uniform(np.log(1e2), np.log(5e7), 40))
    found = flash_all(model.eos, T, P, model.z)
    assert (found.reason != Reason.NOT_CONVERGED).all()
    assert (found.count > 0).all()
    good = found.converged
    assert np.einsum("np,npi->ni", found.fraction, found.composition)[good] == pytest.approx(
        np.broadcast_to(model.z, (good.sum(), model.z.size)), abs=1e-9
    )
    assert (found.Z[found.present] > 0.0).all()
    for i in np.flatnonzero(good)[:3]:
        with np.errstate(all="ignore"):
            assert safety.lowest(model, T[i], P[i], found.take(slice(i, i + 1)), rng) > -1e-8


def test_what_hides_behind_trials_is_found():
    """Water in a gas whose pairs are all zero is like nothing else by no parameter; it is more active than pure water, which proves it."""
    eos = made(("methane", "hydrogen sulfide", "n-pentane", "water"))
    found = flash_all(eos, [241.0, 292.0], [3.2e5, 3.8e6], [0.9, 0.05, 0.03, 0.02])
    water = found.composition[:, :, 3] > 0.9
    assert (water & found.present).any(axis=1).all()
    # Liquids that hold but 1e-40 of one another are in equilibrium as far as that can be told.
    cold = flash_all(made(("n-butane", "n-hexadecane", "water")), [130.0], [2e5], [0.1, 0.85, 0.05])
    assert cold.converged[0]
    assert cold.count[0] == 2


def test_study_and_table_have_one_way_to_a_vapour_fraction():
    """Glycol and xylene are two liquids where hydrogen begins to leave them: the line of one liquid is no line of theirs."""
    eos = made(("ethylene glycol", "m-xylene", "hydrogen"), k0_1=0.12)
    z = np.array([0.677, 0.322, 0.001])
    beta, T = np.array([2e-4, 2e-4, 0.5]), np.array([335.0, 300.0, 420.0])
    found = fraction_states(eos, np.tile(z, (3, 1)), beta, T, None).phases
    assert found.converged.all()
    assert found.vapour_fraction == pytest.approx(beta, rel=1e-6)
    again = flash_all(eos, T, found.P, z)
    assert again.vapour_fraction == pytest.approx(beta, rel=1e-4)
    assert list(again.count[:2]) == [3, 3]


def test_of_two_dew_temperatures_the_colder_is_told_whoever_asks():
    eos = made(("methane", "n-pentane"))
    z = np.array([0.85, 0.15])
    whole = phase_map(eos, z)
    P = 0.5 * (whole.critical_points[0].P + whole.cricondenbar.P)
    cold, warm = sorted(p.T for p in whole.crossings([1.0], P=P))
    for beta in (np.array([1.0]), np.array([1.0, 1.0])):
        found = fraction_states(eos, np.tile(z, (beta.size, 1)), beta, None, np.full(beta.size, P)).phases
        assert pytest.approx(cold, rel=1e-7) == found.T
    assert warm > cold + 10.0


def test_critical_points_and_extremes_are_those_of_stable_phases():
    """A condensate with a heavy cut: in the cold its lines cross, but a liquid has formed there before."""
    parts = [find(n) for n in ("methane", "ethane", "propane", "n-butane", "n-hexane", "n-hexadecane")]
    arrays = [np.array([getattr(c, k) for c in parts]) for k in ("Tc", "Pc", "omega")]
    kij = np.zeros((6, 6))
    kij[0, 5] = kij[5, 0] = 0.06
    eos, z = CubicEos(FORMS["PR78"], *arrays, kij), np.array([0.86, 0.08, 0.025, 0.024, 0.003, 0.008])
    z /= z.sum()
    whole = phase_map(eos, z)
    for point in whole.critical_points:
        test = stability(eos, np.array([point.T]), np.array([point.P]), z[None], every_trial=True)
        assert test.tm[0] >= METASTABLE
    bar = whole.cricondenbar
    assert bar is not None
    T = np.linspace(bar.T - 25.0, bar.T + 25.0, 21)
    above = flash_all(eos, T, np.full(21, bar.P * 1.002), z)
    assert (above.count == 1).all()
    assert flash_all(eos, [bar.T], [bar.P * 0.998], z).count[0] == 2
    told = {r.code for r in whole.remarks}
    rising = [line for line in whole.lines if len(line.u) and line.P.max() > bar.P * 1.0001]
    assert ("map.tail" in told) == bool(rising)


def test_saft_has_its_liquid_in_the_cold():
    """At high packing the pressure of a cold chain falls again; the way down to the liquid begins below that."""
    model = safety.mixture(np.random.default_rng(3), 5)
    n = model.z.size
    state = model.eos.pure().prepare(np.full(n, 190.0), np.full(n, 5e4))
    heavy = np.array([c.Tc > 500.0 for c in model.components])
    dense, _ = state.roots(np.ones((n, 1)))
    volume = dense[heavy] * R * 190.0 / 5e4
    assert (volume < 1.2 * model.substance.liquid_volume[heavy]).all()
