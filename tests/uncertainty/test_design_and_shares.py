"""Samples and shares against what is exact: strata, correlations, linear answers, published test functions."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import ndtr

from cryonome.uncertainty.across import band
from cryonome.uncertainty.design import in_order, scores, uniform
from cryonome.uncertainty.gathered import Gathered, chance
from cryonome.uncertainty.shares import shares_of, sobol


@settings(max_examples=25, deadline=None)
@given(n=st.integers(30, 400), d=st.integers(1, 8), seed=st.integers(0, 2**31))
def test_every_stratum_of_every_score_holds_one_sample_and_none_go_together(n, d, seed):
    z = scores(n, d, seed)
    strata = np.floor(ndtr(z) * n).astype(int)
    assert (np.sort(strata, axis=0) == np.arange(n)[:, None]).all()
    if d > 1 and n >= 60:
        off = np.corrcoef(z, rowvar=False) - np.eye(d)
        # By chance they would come to some 1/root n, up to three times that.
        assert np.abs(off).max() < 0.4 / np.sqrt(n)
    assert np.array_equal(z, scores(n, d, seed))
    assert not np.array_equal(z, scores(n, d, seed + 1))


def test_correlations_asked_for_are_there():
    wanted = np.array([[1.0, 0.9, 0.0], [0.9, 1.0, -0.3], [0.0, -0.3, 1.0]])
    assert np.corrcoef(scores(1000, 3, 4, 0, wanted), rowvar=False) == pytest.approx(wanted, abs=0.02)
    # One that is certain of another is drawn as that.
    same = scores(500, 2, 4, 0, np.ones((2, 2)))
    assert np.corrcoef(same, rowvar=False)[0, 1] > 0.999


@settings(max_examples=25, deadline=None)
@given(
    a=st.lists(st.floats(-5, 5), min_size=2, max_size=6).filter(lambda v: max(map(abs, v)) > 0.1),
    seed=st.integers(0, 999),
)
def test_a_linear_answer_has_its_exact_deviation_and_shares(a, seed):
    a = np.array(a)
    z = scores(300, a.size, seed)
    y = 7.0 + z @ a
    found = shares_of(z, y)
    assert found.shares == pytest.approx(a**2 / (a @ a), abs=1e-9)
    assert (found.told, found.ranks, found.correlated) == (pytest.approx(1.0), False, False)
    assert y.mean() == pytest.approx(7.0, abs=0.01 * np.abs(a).sum())
    assert y.std(ddof=1) == pytest.approx(np.sqrt(a @ a), rel=0.03)


def test_an_answer_that_bends_is_told_by_ranks_and_noise_gets_no_share():
    z = scores(400, 12, 3)
    found = shares_of(z, np.exp(3.0 * z[:, 0]) + 0.01 * z[:, 1])
    assert found.ranks
    assert found.shares[0] > 0.95
    assert found.shares[2:].sum() < 0.02
    noise = shares_of(z, np.random.default_rng(1).normal(size=400))
    assert noise.told < 0.1


def test_shares_of_inputs_that_go_together_add_up_to_what_they_tell():
    wanted = np.array([[1.0, 0.8], [0.8, 1.0]])
    z = scores(2000, 2, 8, 0, wanted)
    found = shares_of(z, z[:, 0] + z[:, 1], wanted)
    assert found.correlated
    assert found.shares == pytest.approx([0.5, 0.5], abs=0.01)
    assert found.told == pytest.approx(1.0, abs=1e-6)


def test_sobol_indices_are_those_of_ishigami():
    """Ishigami and Homma (1990): a = 7, b = 0.1; indices in closed form, Saltelli et al. (2008), eq. 4.34."""

    def ishigami(z):
        x = np.pi * (2.0 * ndtr(z) - 1.0)
        return np.sin(x[0]) + 7.0 * np.sin(x[1]) ** 2 + 0.1 * x[2] ** 4 * np.sin(x[0])

    first, total = sobol(2048, 3, ishigami, 1)
    assert first == pytest.approx([0.3139, 0.4424, 0.0], abs=0.03)
    assert total == pytest.approx([0.5576, 0.4424, 0.2437], abs=0.03)


def test_uniform_scores_have_a_deviation_of_one_and_curves_keep_their_order():
    z = scores(2000, 1, 5)[:, 0]
    u = uniform(z)
    assert np.abs(u).max() <= np.sqrt(3.0)
    assert u.std() == pytest.approx(1.0, abs=1e-3)
    curve = np.arange(5.0) + np.random.default_rng(2).normal(size=(50, 5))
    found = in_order(curve)
    assert (np.diff(found, axis=1) > 0.0).all()
    assert np.sort(curve.ravel()) == pytest.approx(np.sort(found.ravel()))


@pytest.mark.parametrize("sizes", [(1000,), (1, 20, 79, 400, 500)])
def test_blocks_of_any_size_give_the_same_moments_and_percentiles(sizes):
    values = np.random.default_rng(3).normal(5.0, 2.0, (1000, 3))
    values[::7, 2] = np.nan
    own, at = Gathered(1), 0
    for size in sizes:
        own.add(values[at : at + size], at)
        at += size
    assert own.mean == pytest.approx(np.nanmean(values, axis=0))
    assert own.deviation == pytest.approx(np.nanstd(values, axis=0, ddof=1))
    assert own.percentiles(np.array([5.0, 95.0])) == pytest.approx(np.nanpercentile(values, [5, 95], axis=0))
    assert own.whole
    assert own.number.tolist() == [1000, 1000, 857]


def test_a_sketch_of_many_keeps_their_percentiles():
    own = Gathered(1, most=2000)
    for first in range(0, 100_000, 1000):
        own.add((np.arange(first, first + 1000) / 1e5)[:, None], first)
    assert not own.whole
    assert own.mean == pytest.approx([0.499995])
    # The statement of KEPT, for half as many: four standard errors of a share of 5 % among 2000.
    assert own.percentiles(np.array([5.0, 95.0])).ravel() == pytest.approx([0.05, 0.95], abs=4 * 0.0049)


def test_the_chance_of_a_broken_limit_lies_where_clopper_and_pearson_say():
    assert chance(5, 100) == pytest.approx((0.05, 0.016432, 0.112835), abs=1e-5)
    assert chance(0, 300)[1:] == pytest.approx((0.0, 0.01222), abs=1e-5)


def test_a_band_lies_across_a_line_that_turns_back():
    t = np.linspace(0.0, np.pi, 60)
    circle = np.cos(t), np.sin(t)
    rng = np.random.default_rng(5)
    samples = []
    for r in 1.0 + 0.05 * rng.normal(size=400):
        s = np.sort(rng.uniform(-0.2, np.pi + 0.2, 80))
        samples.append((r * np.cos(s), r * np.sin(s)))
    found = band(circle, samples, (5.0, 95.0))
    inner, outer = np.hypot(found.low_x, found.low_y), np.hypot(found.high_x, found.high_y)
    assert np.median(inner) == pytest.approx(1.0 - 1.645 * 0.05, abs=0.01)
    assert np.median(outer) == pytest.approx(1.0 + 1.645 * 0.05, abs=0.01)
    # Over a common abscissa it is the percentile at each.
    x = np.linspace(0.0, 1.0, 4)
    plain = band((x, x), [(x, x + d) for d in np.linspace(-1.0, 1.0, 101)], (5.0, 95.0))
    assert plain.low_y - x == pytest.approx(np.full(4, -0.9))
    assert plain.high_y - x == pytest.approx(np.full(4, 0.9))
