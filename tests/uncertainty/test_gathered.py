"""Answers gathered in blocks: what is kept is a fair choice, the same however it came, and what is missing counts nowhere."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.uncertainty.across import band
from cryonome.uncertainty.design import scores
from cryonome.uncertainty.gathered import KEPT, Gathered, chance
from cryonome.uncertainty.shares import shares_of


def gathered(values, sizes, seed=1, most=KEPT):
    """Gather values (n, size) in blocks of sizes."""
    own, at = Gathered(seed, most), 0
    for size in sizes:
        own.add(values[at : at + size], at)
        at += size
    assert at == len(values)
    return own


def test_every_sample_has_the_same_chance_to_be_kept():
    """Of 1200 samples 100 are kept; over 400 seeds each is kept some 33 times, first and last alike (Vitter 1985)."""
    n, most, seeds = 1200, 100, 400
    counts = np.zeros(n)
    values = np.arange(float(n))[:, None]
    for seed in range(seeds):
        rows, kept = gathered(values, [150] * 8, seed, most).kept
        assert rows.size == most
        assert len(set(rows.tolist())) == most  # none twice
        np.testing.assert_array_equal(kept[:, 0], rows)
        counts[rows] += 1
    assert counts.sum() == most * seeds
    wanted = seeds * most / n
    for part in np.split(counts, 8):
        assert part.mean() == pytest.approx(wanted, rel=0.06)
    assert counts.std() == pytest.approx(np.sqrt(wanted * (1 - most / n)), rel=0.12)


def test_what_is_kept_hangs_on_the_seed_and_on_the_places_of_the_blocks_alone():
    values = np.random.default_rng(2).normal(size=(900, 2))
    first, again = (gathered(values, [300, 300, 300], 7, 50).kept for _ in range(2))
    np.testing.assert_array_equal(first[0], again[0])
    np.testing.assert_array_equal(first[1], again[1])
    other = gathered(values, [300, 300, 300], 8, 50).kept
    assert not np.array_equal(first[0], other[0])
    assert (np.diff(first[0]) > 0).all()


@given(st.lists(st.integers(1, 40), min_size=1, max_size=8), st.integers(0, 5))
def test_a_reservoir_that_is_not_full_holds_all_in_order(sizes, seed):
    n = sum(sizes)
    values = np.random.default_rng(seed).normal(size=(n, 1))
    own = gathered(values, sizes, seed, most=n)
    rows, kept = own.kept
    np.testing.assert_array_equal(rows, np.arange(n))
    np.testing.assert_array_equal(kept, values)
    assert own.whole
    assert own.count == n
    assert own.mean == pytest.approx(values.mean(axis=0), abs=1e-12)
    if n > 1:
        assert own.deviation == pytest.approx(values.std(axis=0, ddof=1), abs=1e-12)
        over = gathered(values, sizes, seed, most=n - 1)
        assert not over.whole
        assert over.kept[0].size == n - 1
        assert over.mean == pytest.approx(values.mean(axis=0), abs=1e-12)  # moments are of all


def test_what_is_missing_counts_in_no_moment():
    values = np.array([[1.0, np.nan, 5.0], [3.0, np.nan, np.nan], [8.0, np.nan, np.nan]])
    own = gathered(values, [1, 2])
    assert own.number.tolist() == [3, 0, 1]
    np.testing.assert_allclose(own.mean, [4.0, np.nan, 5.0])
    np.testing.assert_allclose(own.deviation, [np.sqrt(13.0), np.nan, np.nan])
    np.testing.assert_allclose(own.percentiles(np.array([0.0, 50.0, 100.0])), [[1.0, np.nan, 5.0], [3.0, np.nan, 5.0], [8.0, np.nan, 5.0]])  # fmt: skip


def test_large_and_small_values_keep_their_deviation():
    """A mean a million times the deviation: block by block it is still that of all at once."""
    values = 1e6 + np.random.default_rng(3).normal(size=(5000, 1))
    own = gathered(values, [7] * 714 + [2])
    assert own.deviation == pytest.approx(values.std(axis=0, ddof=1), rel=1e-8)


def test_a_chance_of_nothing_is_not_known():
    share, low, high = chance(0, 0)
    assert np.isnan(share)
    assert (low, high) == (0.0, 1.0)
    assert chance(7, 7)[0] == 1.0
    assert chance(7, 7)[2] == 1.0


def test_shares_of_few_still_or_constant_samples_are_none():
    z = scores(40, 3, 1)
    for answer in (np.full(40, 7.0), np.full(40, 7.0) + 1e-14 * z[:, 0]):
        found = shares_of(z, answer)
        assert (found.told, found.shares.tolist(), found.ranks, found.correlated) == (0.0, [0.0] * 3, False, False)
    assert shares_of(z[:3], z[:3, 0]).told == 0.0
    assert shares_of(np.zeros((40, 2)), z[:, 0]).told == 0.0
    # As many inputs as samples tell anything: they are given no share.
    wide = scores(12, 11, 1)
    assert shares_of(wide, wide[:, 0]).told == 0.0
    # An input that does not move has none, and the others keep theirs.
    still = z.copy()
    still[:, 1] = 0.0
    found = shares_of(still, 3.0 * z[:, 0] + 4.0 * z[:, 2])
    assert found.shares == pytest.approx([0.36, 0.0, 0.64], abs=1e-9)


@given(st.floats(-0.85, 0.85), st.floats(0.2, 3.0))
def test_relative_weights_of_two_inputs_are_johnsons(r, b):
    """Of y = x1 + b x2 with a correlation r the weights follow from the symmetric root of the correlation matrix
    (Johnson, Multivariate Behavioral Research 35, 1, 2000)."""
    wanted = np.array([[1.0, r], [r, 1.0]])
    z = scores(3000, 2, 5, 0, wanted)
    found = shares_of(z, z[:, 0] + b * z[:, 1], wanted)
    if abs(r) > 0.1:
        corr = np.corrcoef(z, rowvar=False)
        values, vectors = np.linalg.eigh(corr)
        root = vectors @ np.diag(np.sqrt(values)) @ vectors.T
        own = root @ (np.array([1.0, b]) * z.std(axis=0))
        weights = root**2 @ own**2
        assert found.shares == pytest.approx(weights / weights.sum(), abs=2e-3)
        assert found.correlated
    assert found.shares.sum() == pytest.approx(1.0, abs=2e-3)


def test_a_level_line_has_a_band_of_its_own_size():
    x = np.linspace(0.0, 1.0, 5)
    flat = band((x, np.zeros(5)), [(x, np.full(5, d)) for d in np.linspace(-2.0, 2.0, 81)], (5.0, 95.0))
    assert flat.low_y == pytest.approx(np.full(5, -1.8), abs=1e-9)
    assert flat.high_y == pytest.approx(np.full(5, 1.8), abs=1e-9)
