"""Carbon-number analyses: splitting and lumping lose nothing and follow the published distributions."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.characterization import LabSample, characterize
from cryonome.characterization.carbon_analysis import (
    DENSITIES,
    CarbonAnalysis,
    Group,
    PlusFraction,
    gravities,
    group_properties,
    last_within_reach,
    quadrature,
    split_exponential,
    split_gamma,
    watson_gravity,
)
from cryonome.characterization.carbon_groups import CARBON_GROUPS
from cryonome.characterization.lumping import equal_groups, whitson_count, whitson_groups
from cryonome.components import find


def analysis(**changes) -> CarbonAnalysis:
    base = {
        "components": tuple(find(n) for n in ("methane", "propane", "n-pentane")),
        "percent": (70.0, 8.0, 3.0),
        "groups": (Group(6, 1.5), Group(7, 3.0), Group(8, 3.2), Group(9, 2.3), Group(10, 2.0)),
        "plus": PlusFraction(11, 7.0, 0.230, 0.845),
    }
    return CarbonAnalysis(**{**base, **changes})


def sample(**changes) -> LabSample:
    return LabSample("Q", method="carbon-number", carbon=analysis(**changes))


PLUS = st.builds(
    PlusFraction, st.sampled_from([7, 10, 20]), st.just(10.0), st.floats(0.330, 0.500), st.floats(0.80, 0.98)
)


@given(plus=PLUS, shape=st.floats(0.5, 3.0), last=st.integers(30, 80), before=st.floats(0.72, 0.78))
def test_a_split_returns_molar_mass_and_density(plus, shape, last, before):
    made = [split_gamma(plus, shape, last), quadrature(plus, shape, 5)]
    if plus.number == 7:
        made.append(split_exponential(plus, 120))
    for split, rule in itertools.product(made, DENSITIES):
        sg = gravities(rule, split, plus, before)
        assert split.mole.sum() == pytest.approx(1.0, abs=1e-9)
        assert split.mole @ split.molar_mass == pytest.approx(plus.molar_mass, rel=1e-8)
        volume = (split.mole * split.molar_mass / sg).sum()
        assert plus.molar_mass / volume == pytest.approx(plus.specific_gravity, rel=1e-8)
        assert (np.diff(split.molar_mass) > 0).all()


def test_gaussian_quadrature_keeps_the_moments_of_the_distribution():
    plus, shape = PlusFraction(7, 10.0, 0.210, 0.83), 1.3
    split = quadrature(plus, shape, 4)
    eta = 0.092
    beta = (plus.molar_mass - eta) / shape
    y = (split.molar_mass - eta) / beta
    for k, moment in ((1, shape), (2, shape * (shape + 1)), (3, shape * (shape + 1) * (shape + 2))):
        assert split.mole @ y**k == pytest.approx(moment, rel=1e-9)


def test_an_exponential_split_is_a_straight_line_in_the_logarithm():
    plus = PlusFraction(7, 10.0, 0.200, 0.82)
    split = split_exponential(plus, 80)
    np.testing.assert_allclose(np.diff(np.log(split.mole)), np.diff(np.log(split.mole))[0], rtol=1e-9)
    slope = np.diff(gravities("logarithmic", split, plus, 0.70)) / np.diff(np.log(split.number))
    np.testing.assert_allclose(slope, slope[0], rtol=1e-9)
    with pytest.raises(ValueError, match="reaches molar masses"):
        split_exponential(PlusFraction(7, 10.0, 0.9, 0.82), 80)
    with pytest.raises(ValueError, match="above 274"):
        split_gamma(PlusFraction(20, 10.0, 0.2, 0.9), 1.0, 45)


def test_densities_of_a_split_bend_and_stay_below_waters():
    """The reading of the usual rule against the groups of Katz and Firoozabadi (1978), C10 to C30 of a C7+ of their kind."""
    plus = PlusFraction(7, 30.0, 0.218, 0.8515)
    split = split_gamma(plus, 1.0, 60)
    sg = gravities("soreide", split, plus, 0.69)
    assert (np.diff(sg) > 0).all()
    assert (np.diff(sg[:-1], 2) < 0).all()
    assert sg[-2] < 0.98
    assert sg[-2] < watson_gravity(split.mole, split.molar_mass, plus)[-2]
    groups = np.interp(split.number[3:24], CARBON_GROUPS.number, CARBON_GROUPS.specific_gravity)
    np.testing.assert_allclose(sg[3:24], groups, rtol=0.04)
    # What no group says is split to C30, further only where the molar mass asks for it.
    assert last_within_reach(plus) == 30
    heavy = PlusFraction(20, 10.0, 0.450, 0.93)
    assert split_exponential(heavy, last_within_reach(heavy)).mole[-1] < 0.05


def test_the_carbon_groups_rise_and_continue():
    for values in (CARBON_GROUPS.nbp, CARBON_GROUPS.specific_gravity, CARBON_GROUPS.molar_mass):
        assert (np.diff(values) > 0).all()
    # The boiling points lie between those of the n-alkanes before and at the number.
    for n in (7, 10, 16):
        nbp = group_properties(Group(n, 1.0))[0]
        assert find(f"C{n - 1}H{2 * n}").nbp < nbp < find(f"C{n}H{2 * n + 2}").nbp + 6.0
    assert group_properties(Group(60, 1.0))[0] > CARBON_GROUPS.nbp[-1]


def test_the_whole_analysis_adds_up():
    result = characterize(sample(basis="mole"))
    assert result.light == 3
    assert result.mole_fraction[:3] == pytest.approx([0.70, 0.08, 0.03])
    assert result.mole_fraction.sum() == pytest.approx(1.0)
    plus = result.mole_fraction[result.light + 5 :]
    mass = np.array([c.molar_mass for c in result.cuts[5:]])
    assert plus.sum() == pytest.approx(0.07)
    assert plus @ mass / plus.sum() == pytest.approx(0.230, rel=1e-8)
    by_mass = characterize(sample(basis="mass"))
    assert by_mass.mass_fraction[0] == pytest.approx(0.70)
    assert (np.diff(result.curve.temperature) > 0).all()
    assert result.labels[0] == "C6"
    assert result.labels[-1].endswith("+")


@pytest.mark.parametrize("rule", ["equal-mass", "whitson", "quadrature"])
@pytest.mark.parametrize("lumps", [None, 3, 6])
def test_lumping_loses_nothing(rule, lumps):
    whole = characterize(sample())
    lumped = characterize(sample(lumping=rule, lumps=lumps))
    assert len(lumped.cuts) < len(whole.cuts)
    assert lumped.density == pytest.approx(whole.density, rel=1e-9)
    assert lumped.molar_mass == pytest.approx(whole.molar_mass, rel=1e-9)
    mass = np.array([c.molar_mass for c in lumped.components])
    assert lumped.mole_fraction @ mass == pytest.approx(lumped.molar_mass, rel=1e-9)
    assert all(c.Tc > c.nbp for c in lumped.cuts)
    assert len({c.name for c in lumped.components}) == len(lumped.components)
    if rule != "quadrature":
        assert lumped.unlumped is not None
        assert len(lumped.unlumped.cuts) == len(whole.cuts)
        assert lumps is None or len(lumped.cuts) == lumps + 1  # C6 stays alone


def test_rules_of_lumping():
    assert whitson_count(7, 45) == 6  # 1 + 3.3 log10(38) = 6.2
    mass = np.linspace(0.1, 0.6, 40)
    group = whitson_groups(mass, 4)
    assert group[0] == 0
    assert group[-1] == 3
    assert (np.diff(group) >= 0).all()
    shares = np.array([1.0] * 40)
    assert np.bincount(equal_groups(shares, 5)).tolist() == [8] * 5
    with pytest.raises(ValueError, match="goes with the gamma"):
        characterize(
            sample(
                split="exponential", lumping="quadrature", plus=PlusFraction(7, 7.0, 0.2, 0.82), groups=(Group(6, 2.0),)
            )
        )
    with pytest.raises(ValueError, match="no group above C5"):
        characterize(sample(groups=(), plus=None))


def test_many_quadrature_nodes_and_unordered_groups_stay_finite_and_add_up():
    split = quadrature(PlusFraction(8, 20.0, 0.208, 0.8268), 1.0, 20)
    assert (split.mole > 0.0).all()
    assert split.mole.sum() == pytest.approx(1.0, abs=1e-12)
    assert float(split.mole @ split.molar_mass) == pytest.approx(0.208, rel=1e-9)
    mass = np.array([0.1, 0.3, 0.12, 0.2, 0.25])  # a measured one out of its order
    group = whitson_groups(mass, 3)
    assert (np.diff(group) >= 0).all()
    assert group.max() < 3
    assert whitson_groups(mass[::-1].copy(), 3).min() >= 0
