"""Flashes of every pair of conditions: there and back again, one component, several solutions, what cannot be."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.components import find
from cryonome.eos.building import Interaction, equation_of, family_of, volume_shift
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.pair_flash import CONDITIONS, flash_pair
from cryonome.equilibrium.phases import Phases, Reason
from cryonome.equilibrium.pure import saturation_pressure
from cryonome.properties import Substance, evaluate

MIXTURES = {
    "gas and oil, PR78": ("PR78", ("methane", "carbon dioxide", "n-butane", "n-decane"), (0.5, 0.1, 0.2, 0.2)),
    "gas and oil, PC-SAFT": ("PC-SAFT", ("methane", "n-pentane", "n-decane"), (0.5, 0.3, 0.2)),
    "gas, oil and water, SRK": ("SRK", ("methane", "n-butane", "n-decane", "water"), (0.4, 0.2, 0.2, 0.2)),
    "two, SRK": ("SRK", ("methane", "propane"), (0.6, 0.4)),
    "one, PR78": ("PR78", ("propane",), (1.0,)),
}
SLOW = (
    ("temperature", "vapour_fraction"), ("temperature", "density"), ("temperature", "enthalpy"), ("pressure", "enthalpy"),
    ("pressure", "entropy"), ("pressure", "vapour_fraction"),
)  # fmt: skip
"""The pairs tried where every flash takes long; `./run bench pairs` has them all."""
MEASURED = ("enthalpy", "entropy", "density", "internal_energy", "vapour_volume_fraction")


class Mixture:
    """A mixture, its feed and how it is measured."""

    def __init__(self, name: str) -> None:
        eos, parts, z = MIXTURES[name]
        components = tuple(find(n) for n in parts)
        self.eos = equation_of(eos, components, Interaction(library_kij(components, family_of(eos))), "published")
        self.substance = Substance(self.eos, components, volume_shift("density", eos, components, self.eos))
        self.z = np.array(z)
        self.slow = eos == "PC-SAFT"

    def whole(self, phases: Phases, keys):
        return evaluate(self.substance, phases, keys).whole

    def conditions(self, phases: Phases) -> dict[str, np.ndarray]:
        own = {"temperature": phases.T, "pressure": phases.P, "vapour_fraction": phases.vapour_fraction}
        return {**own, **self.whole(phases, MEASURED)}


@pytest.fixture(scope="module", params=[name for name in MIXTURES if "water" not in name])
def mixture(request) -> Mixture:
    return Mixture(request.param)


def pairs(mixture: Mixture, split: bool):
    """Return the pairs that fix a state of this kind."""
    shares = {"vapour_fraction", "vapour_volume_fraction"}
    for pair in combinations(CONDITIONS, 2):
        if mixture.slow and (not split or pair not in SLOW):
            continue
        if (set(pair) & shares and not split) or (
            mixture.eos.nc == 1 and split and {"temperature", "pressure"} == set(pair)
        ):
            continue
        yield pair


# One state of each kind: two phases, a gas, a liquid.
@pytest.mark.parametrize(("T", "P", "split"), [(280.0, 2e6, True), (440.0, 1.2e5, False), (230.0, 3e7, False)])
def test_there_and_back_again_by_every_pair(mixture: Mixture, T, P, split):
    if mixture.eos.nc == 1 and split:
        start = flash_pair(mixture.eos, mixture.z, {"temperature": T, "vapour_fraction": 0.4}, mixture.whole).phases
    else:
        start = flash_pt(mixture.eos, [T], [P], mixture.z)
    assert bool(start.split[0]) == split
    values = mixture.conditions(start)
    for pair in pairs(mixture, split):
        found = flash_pair(mixture.eos, mixture.z, {k: values[k] for k in pair}, mixture.whole)
        assert found.phases.converged.all(), pair
        every = [(found.phases.T[0], found.phases.P[0]), *found.others[0]]
        off = min(max(abs(t / start.T[0] - 1), abs(p / start.P[0] - 1)) for t, p in every)
        assert off < 1e-7, (pair, every)
        again = mixture.conditions(found.phases)
        for key in pair:
            assert again[key][0] == pytest.approx(values[key][0], rel=1e-8, abs=1e-8), pair


@given(T=st.floats(200.0, 500.0), P=st.floats(5.0, 7.6).map(lambda x: 10.0**x))
def test_pressure_and_what_grows_with_temperature_fix_one_state(T, P):
    mixture = Mixture("two, SRK")
    start = flash_pt(mixture.eos, [T], [P], mixture.z)
    values = mixture.conditions(start)
    for key in ("enthalpy", "entropy", "density", "internal_energy"):
        found = flash_pair(mixture.eos, mixture.z, {"pressure": P, key: values[key]}, mixture.whole).phases
        assert found.converged.all()
        assert found.T[0] == pytest.approx(T, rel=1e-7)
        assert found.vapour_fraction[0] == pytest.approx(start.vapour_fraction[0], abs=1e-6)


def test_a_batch_is_its_states_one_by_one():
    mixture = Mixture("gas and oil, PR78")
    rng = np.random.default_rng(5)
    start = flash_pt(mixture.eos, rng.uniform(220, 480, 12), 10 ** rng.uniform(5, 7.5, 12), mixture.z)
    values = mixture.conditions(start)
    both = {k: values[k] for k in ("entropy", "density")}
    found = flash_pair(mixture.eos, np.tile(mixture.z, (12, 1)), both, mixture.whole).phases
    for row in range(12):
        one = flash_pair(mixture.eos, mixture.z, {k: v[row] for k, v in both.items()}, mixture.whole).phases
        assert one.T[0] == pytest.approx(found.T[row], rel=1e-9)
        assert one.P[0] == pytest.approx(found.P[row], rel=1e-8)


@pytest.mark.parametrize("wet", [False, True])
@pytest.mark.parametrize("pair", [("pressure", "enthalpy"), ("pressure", "entropy"), ("temperature", "density")])
def test_many_states_of_one_feed_are_found_from_a_chart(wet, pair):
    mixture = Mixture("gas, oil and water, SRK" if wet else "gas and oil, PR78")
    rng = np.random.default_rng(7)
    n = 300
    start = flash_all(mixture.eos, rng.uniform(250, 520, n), 10 ** rng.uniform(5, 7.5, n), mixture.z)
    assert set(start.count) == ({1, 2, 3} if wet else {1, 2})
    values = mixture.conditions(start)
    found = flash_pair(mixture.eos, mixture.z, {k: values[k] for k in pair}, mixture.whole).phases
    assert found.converged.all()
    assert np.abs(found.T / start.T - 1.0).max() < 1e-8
    # A liquid's density hardly answers to pressure: what it fixes to 1e-11 leaves pressure open to less.
    assert np.abs(found.P / start.P - 1.0).max() < 1e-7
    assert np.abs(found.vapour_fraction - start.vapour_fraction).max() < 1e-7


def test_one_component_inside_its_dome():
    mixture = Mixture("one, PR78")
    P = float(saturation_pressure(mixture.eos, np.array([[300.0]]))[0, 0])
    for key, value in (("vapour_fraction", 0.3), ("vapour_volume_fraction", 0.3)):
        assert flash_pair(mixture.eos, [1.0], {"temperature": 300.0, key: value}, mixture.whole).phases.P[
            0
        ] == pytest.approx(P, rel=1e-9)
    ends = flash_pair(
        mixture.eos, np.ones((2, 1)), {"pressure": P, "vapour_fraction": [0.0, 1.0]}, mixture.whole
    ).phases
    low, high = mixture.whole(ends, ("enthalpy",))["enthalpy"]
    # The lever rule: a quarter of the heat of vaporization above the liquid.
    found = flash_pair(mixture.eos, [1.0], {"pressure": P, "enthalpy": low + 0.25 * (high - low)}, mixture.whole).phases
    assert found.vapour_fraction[0] == pytest.approx(0.25, abs=1e-9)
    assert found.T[0] == pytest.approx(300.0, rel=1e-9)


def test_a_pair_met_twice_tells_both_and_one_that_cannot_be_says_so():
    mixture = Mixture("two, SRK")
    T = 300.0
    states = flash_pt(mixture.eos, np.full(2, T), [2e6, 2.5e6], mixture.z)
    H = mixture.whole(states, ("enthalpy",))["enthalpy"][0]
    found = flash_pair(mixture.eos, mixture.z, {"temperature": T, "enthalpy": H}, mixture.whole)
    # At low pressure enthalpy falls with pressure, in a dense fluid it rises again.
    assert len(found.others[0]) == 1
    other = flash_pt(mixture.eos, [T], [found.others[0][0][1]], mixture.z)
    assert mixture.whole(other, ("enthalpy",))["enthalpy"][0] == pytest.approx(H, rel=1e-8)
    for conditions in (
        {"pressure": 1e6, "enthalpy": 1e7},
        {"temperature": T, "density": 5000.0},
        {"enthalpy": -1e3, "entropy": 900.0},
    ):
        none = flash_pair(mixture.eos, mixture.z, conditions, mixture.whole).phases
        assert none.reason[0] == Reason.NO_SUCH_STATE
