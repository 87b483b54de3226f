"""Groups and splits of carbon-number analyses against what was published of them, and against integrals of their distributions."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.special import gamma

from cryonome.characterization.carbon_analysis import (
    Group,
    PlusFraction,
    boiling_points,
    gravities,
    group_properties,
    last_within_reach,
    lowest_mass,
    split_exponential,
    split_gamma,
    watson_gravity,
)
from cryonome.characterization.carbon_groups import CARBON_GROUPS
from cryonome.characterization.lumping import equal_groups, joined, summed, whitson_count, whitson_groups
from cryonome.errors import DomainError

# Katz and Firoozabadi (1978) as tabulated by Whitson (1983), table 1: carbon number, boiling point °R, specific
# gravity, molar mass.
PUBLISHED = """
6 607 .690 84|7 658 .727 96|8 702 .749 107|9 748 .768 121|10 791 .782 134|11 829 .793 147|12 867 .804 161|13 901 .815 175
14 936 .826 190|15 971 .836 206|16 1002 .843 222|17 1032 .851 237|18 1055 .856 251|19 1077 .861 263|20 1101 .866 275
21 1124 .871 291|22 1146 .876 300|23 1167 .881 312|24 1187 .885 324|25 1207 .888 337|26 1226 .892 349|27 1244 .896 360
28 1262 .899 372|29 1277 .902 382|30 1294 .905 394|31 1310 .909 404|32 1326 .912 415|33 1341 .915 426|34 1355 .917 437
35 1368 .920 445|36 1382 .922 456|37 1394 .925 464|38 1407 .927 475|39 1419 .929 484|40 1432 .931 495|41 1442 .933 502
42 1453 .934 512|43 1464 .936 521|44 1477 .938 531|45 1487 .940 539
"""


def test_the_groups_are_those_that_were_published():
    rows = [row.split() for line in PUBLISHED.strip().split("\n") for row in line.split("|")]
    table = np.array(rows, float)
    np.testing.assert_array_equal(CARBON_GROUPS.number, table[:, 0])
    np.testing.assert_allclose(CARBON_GROUPS.nbp, table[:, 1] / 1.8)
    np.testing.assert_allclose(CARBON_GROUPS.specific_gravity, table[:, 2])
    np.testing.assert_allclose(CARBON_GROUPS.molar_mass, table[:, 3] / 1000)
    for number, nbp, sg, mass in table:
        assert group_properties(Group(int(number), 1.0)) == pytest.approx((nbp / 1.8, sg, mass / 1000))
    # Their Watson factors lie where those of petroleum do, and fall from hexanes on.
    K = (CARBON_GROUPS.nbp * 1.8) ** (1 / 3) / CARBON_GROUPS.specific_gravity
    assert np.all((K > 11.7) & (K < 12.4))


def test_a_measured_group_keeps_what_was_measured_and_beyond_the_table_it_goes_on():
    nbp, sg, mass = group_properties(Group(8, 1.0, molar_mass=0.110, specific_gravity=0.751))
    assert (sg, mass) == (0.751, 0.110)
    assert nbp == pytest.approx(702 / 1.8)
    last, further = (group_properties(Group(n, 1.0)) for n in (45, 60))
    assert all(b > a for a, b in zip(last, further))
    # By the slope of its last five in ln n.
    slope = (0.539 - 0.502) / (np.log(45) - np.log(41))
    assert further[2] == pytest.approx(0.539 + slope * np.log(60 / 45), rel=1e-9)


@given(st.sampled_from([7, 10, 12, 20]), st.floats(1.15, 3.0), st.floats(0.6, 2.5), st.integers(25, 60))
def test_a_gamma_split_is_the_integral_of_its_density(number, heavier, shape, last):
    """Whitson, SPE J. 23, 683 (1983), eqs. 5 to 11: p(M) = (M - eta)^(a-1) exp(-(M - eta)/b)/(b^a Gamma(a))."""
    eta = (14.0 * number - 6.0) / 1000
    plus = PlusFraction(number, 10.0, heavier * eta, 0.85)
    split = split_gamma(plus, shape, last)
    beta = (plus.molar_mass - eta) / shape
    assert lowest_mass(number) == pytest.approx(eta)

    def density(m):
        return (m - eta) ** (shape - 1.0) * np.exp(-(m - eta) / beta) / (beta**shape * gamma(shape))

    for k in range(1, min(4, split.number.size - 1)):
        low, high = lowest_mass(split.number[k]), lowest_mass(split.number[k] + 1)
        share = quad(density, low, high, epsabs=1e-12)[0]
        assert split.mole[k] == pytest.approx(share, rel=1e-6, abs=1e-10)
        mean = quad(lambda m: m * density(m), low, high, epsabs=1e-14)[0] / share
        assert split.molar_mass[k] == pytest.approx(mean, rel=1e-6)
    assert split.number[0] == number
    assert split.number[-1] <= last


def test_an_exponential_split_ends_within_reach_of_its_molar_mass():
    plus = PlusFraction(7, 10.0, 0.200, 0.82)
    split = split_exponential(plus, 80)
    np.testing.assert_allclose(split.molar_mass, (14.0 * split.number - 4.0) / 1000)
    assert split.mole.sum() == pytest.approx(1.0)
    assert split.mole @ split.molar_mass == pytest.approx(0.200, rel=1e-9)
    assert (split.number[0], split.number[-1]) == (7.0, 80.0)
    for mass in (0.25, 0.4, 0.6):
        heavy = PlusFraction(7, 10.0, mass, 0.9)
        last = last_within_reach(heavy)
        assert split_exponential(heavy, last).mole @ split_exponential(heavy, last).molar_mass == pytest.approx(mass)
        # Equal amounts of all groups up to there are a sixth heavier than the fraction, or there are as many as usual.
        mean = np.mean(14.0 * np.arange(7, last + 1) - 4.0) / 1000
        assert mean >= mass * 7 / 6 * 0.97


def test_densities_by_soreide_and_by_one_watson_factor():
    plus = PlusFraction(7, 30.0, 0.218, 0.8515)
    split = split_gamma(plus, 1.0, 60)
    sg = gravities("soreide", split, plus, 0.69)
    # SG = 0.2855 + C (M - 66)^0.13 (Soreide, 1989): one C for all.
    factor = (sg - 0.2855) / (1e3 * split.molar_mass - 66.0) ** 0.13
    np.testing.assert_allclose(factor, factor[0], rtol=1e-10)
    assert 0.27 < factor[0] < 0.31
    watson = watson_gravity(split.mole, split.molar_mass, plus)
    # K = 4.5579 M^0.15178 SG^-0.84573 (Whitson 1983, eq. 19): one K for all.
    K = 4.5579 * (1e3 * split.molar_mass) ** 0.15178 * watson**-0.84573
    np.testing.assert_allclose(K, K[0], rtol=2e-4)
    assert 11.5 < K[0] < 12.2
    with pytest.raises(DomainError, match=r"no density distribution joins the 0\.950 before C7\+ to its 0\.250"):
        gravities("soreide", split, PlusFraction(7, 30.0, 0.218, 0.25), 0.95)


@pytest.mark.parametrize(("first", "last", "count"), [(7, 17, 4), (7, 45, 6), (11, 80, 7), (7, 8, 1), (20, 20, 1)])
def test_the_rule_of_the_number_of_groups(first, last, count):
    assert whitson_count(first, last) == count == max(1, int(1 + 3.3 * np.log10(max(last - first, 1))))


def test_groups_are_ranges_of_molar_mass_and_amounts():
    mass = np.array([96, 107, 121, 134, 147, 161, 175, 190, 206, 222, 300, 500.0])
    group = whitson_groups(mass, 3)
    bounds = 96 * (500 / 96) ** (np.arange(1, 3) / 3)
    np.testing.assert_array_equal(group, (mass[:, None] > bounds[None] * (1 + 1e-9)).sum(axis=1))
    tumbled = mass.copy()
    tumbled[5] = 90.0  # lighter than the one before it: it stays in its group
    assert (np.diff(whitson_groups(tumbled, 3)) >= 0).all()
    amount = np.array([5.0, 5.0, 5.0, 5.0, 20.0, 5.0, 5.0, 5.0, 5.0])
    sums = summed(amount, equal_groups(amount, 3))
    np.testing.assert_allclose(sums, [20.0, 20.0, 20.0])
    np.testing.assert_allclose(joined(mass, np.ones(12), np.repeat([0, 1], 6)), [mass[:6].mean(), mass[6:].mean()])
    rows = np.stack([mass, 2 * mass], axis=1)
    np.testing.assert_allclose(joined(rows, np.ones(12), np.zeros(12, np.intp)), [rows.mean(axis=0)])


def test_boiling_points_are_those_at_which_the_correlation_gives_the_mass():
    rule = lambda nbp, sg: 1e-3 * 42.965 * nbp**1.26007 * sg**4.98308 * np.exp(2.097e-4 * nbp - 7.78712 * sg + 2.08476e-3 * nbp * sg)  # noqa: E731  # fmt: skip
    sg = np.array([0.70, 0.80, 0.90])
    nbp = np.array([340.0, 480.0, 700.0])
    np.testing.assert_allclose(boiling_points(rule(nbp, sg), sg, rule), nbp, rtol=1e-7)
    none = boiling_points(np.array([1e-9, 1e9, 1.0]), sg, rule)
    assert none[0] == 150.0
    assert none[1] == 1300.0
