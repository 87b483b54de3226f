"""Samples of uncertain inputs: Latin hypercubes of normal scores, correlated where they are to be.

Shapes: n samples, d scores."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

BLOCK = 1000
"""Samples of one hypercube: of more than these each block is one of its own, so that a million need no more memory."""
ENOUGH = 3
"""Samples per score from which on correlations that came by chance are taken out."""


def blocks(count: int, size: int = BLOCK) -> Iterator[tuple[int, int]]:
    """Return the first sample and the number of samples of every block of ``count``."""
    for first in range(0, count, size):
        yield first, min(size, count - first)


def scores(count: int, scores_each: int, seed: int, block: int = 0, correlation: Array | None = None) -> Array:
    """Return standard normal scores (n, d) of a Latin hypercube: of every score each of n equally likely intervals
    holds one sample.

    McKay, Beckman and Conover, Technometrics 21, 239 (1979). The order of each column is then changed so that rank
    correlations are those of ``correlation`` (d, d), none where None is given (Iman and Conover, Commun. Stat. B 11,
    311, 1982), which leaves the intervals as they are; with fewer than three samples a score they stay as drawn, and
    what is correlated is mixed directly. The same seed and block give the same numbers to the last bit."""
    from scipy.special import ndtri
    from scipy.stats import qmc

    if not scores_each:
        return np.zeros((count, 0))
    own = np.random.default_rng([seed, block])
    unit = qmc.LatinHypercube(d=scores_each, rng=own).random(count)
    z = np.asarray(ndtri(np.clip(unit, 1e-12, 1.0 - 1e-12)))
    wanted = np.eye(scores_each) if correlation is None else correlation
    if count < ENOUGH * scores_each or count < 3:
        return z if correlation is None else np.asarray(z @ factor(wanted).T)
    there = np.corrcoef(z, rowvar=False).reshape(scores_each, scores_each)
    mixed = np.linalg.solve(np.linalg.cholesky(there), z.T).T @ factor(wanted).T
    # The sample's own values, in the order of the mixed ones.
    out = np.empty_like(z)
    rows = np.argsort(mixed, axis=0, kind="stable")
    np.put_along_axis(out, rows, np.sort(z, axis=0), axis=0)
    return out


def factor(correlation: Array) -> Array:
    """Return L (d, d) with L L' the correlation matrix, of one that is singular as well: the nearest that is none, by
    its eigenvalues."""
    values, vectors = np.linalg.eigh(correlation)
    return np.asarray(vectors * np.sqrt(np.maximum(values, 0.0)))


def uniform(score: Array) -> Array:
    """Return what is uniform with a standard deviation of one, by normal scores (...) of any shape."""
    from scipy.special import ndtr

    return np.asarray((2.0 * ndtr(score) - 1.0) * np.sqrt(3.0))


def in_order(values: Array) -> Array:
    """Return curves (n, k) whose values rise: each sample's own values in rising order, nothing lost and nothing added
    (the monotone rearrangement of Chernozhukov, Fernández-Val and Galichon, Biometrika 96, 559, 2009, which is never
    farther from a rising truth)."""
    return np.sort(values, axis=-1)
