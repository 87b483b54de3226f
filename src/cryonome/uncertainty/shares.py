"""Which input an answer's spread comes from: shares of its variance, from the sample itself.

Shapes: n samples, d inputs."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

STRAIGHT = 0.95
"""Share of the variance that a straight regression must tell; below it ranks are looked at as well."""
CORRELATED = 1e-9
"""Correlation of the inputs, as designed, from which on they count as correlated."""


@dataclass(frozen=True)
class Shares:
    """Shares (d,) of an answer's variance by input, and ``told``, what all of them tell of it together; the rest is
    neither. ``ranks``: of ranks, since the answer bends; ``correlated``: inputs go together, so that a share is a
    part that is weighed out among them."""

    shares: Array
    told: float
    ranks: bool
    correlated: bool


def shares_of(inputs: Array, answer: Array, correlation: Array | None = None) -> Shares:
    """Return the shares of the inputs (n, d), of standard deviation one by design, in the variance of an answer (n,),
    both finite.

    The squared standardized coefficients of a linear regression, on ranks where a straight one tells less than 95 %
    and ranks tell more (Saltelli, Chan and Scott, Sensitivity Analysis, 2000, ch. 6); standard deviations are those
    of the design, so that a linear answer of independent inputs has its exact shares. Of correlated inputs
    (``correlation`` (d, d) as designed) Johnson's relative weights (Multivariate Behavioral Research 35, 1, 2000).
    What so many inputs would seem to tell by chance is taken off (Ezekiel's adjusted R2, 1930)."""
    n, d = inputs.shape
    spread = float(answer.std())
    moving = inputs.std(axis=0) > 0.0
    if n < 4 or not moving.any() or not spread > 1e-12 * max(float(np.abs(answer).max()), 1e-300):
        return Shares(np.zeros(d), 0.0, False, False)
    corr = np.eye(d) if correlation is None else correlation
    tied = bool((np.abs(corr - np.diag(np.diag(corr))) > CORRELATED).any())
    ones = np.ones(int(moving.sum()))
    straight = _weights(inputs[:, moving], answer, ones, tied)
    best, ranks = straight, False
    if straight[1] < STRAIGHT:
        ranks_of = np.apply_along_axis(_rank, 0, inputs[:, moving])
        ranked = _weights(ranks_of, _rank(answer), ranks_of.std(axis=0), tied)
        if ranked[1] > straight[1] + 0.01:
            best, ranks = ranked, True
    out = np.zeros(d)
    out[moving] = best[0]
    return Shares(out, best[1], ranks, tied)


def _rank(values: Array) -> Array:
    from scipy.stats import rankdata

    return np.asarray(rankdata(values), dtype=float)


def _weights(inputs: Array, answer: Array, design: Array, tied: bool) -> tuple[Array, float]:
    """Return shares (d,) and how much of the variance they tell, of inputs with standard deviations ``design`` (d,)."""
    n, d = inputs.shape
    x = (inputs - inputs.mean(axis=0)) / inputs.std(axis=0)
    y = (answer - answer.mean()) / answer.std()
    beta, *_ = np.linalg.lstsq(x, y, rcond=None)
    rest = float(np.mean((y - x @ beta) ** 2))
    free = n - d - 1
    if free <= 0:
        return np.zeros(d), 0.0
    noise = rest / free
    if not tied:
        # Coefficients are free of the correlations that came by chance, and so is the sum of their squares.
        scale = design / inputs.std(axis=0)
        own = np.maximum(beta**2 - noise, 0.0) * scale**2
        whole = float(own.sum()) + rest * n / free
        return own / whole, float(own.sum()) / whole
    values, vectors = np.linalg.eigh(np.corrcoef(x, rowvar=False))
    root = np.sqrt(np.maximum(values, 0.0))
    Lambda = vectors * root @ vectors.T
    middle, *_ = np.linalg.lstsq(Lambda, x.T @ y / n, rcond=None)
    own = np.maximum(Lambda**2 @ middle**2 - noise, 0.0)
    return own, float(min(own.sum(), 1.0))


def sobol(count: int, inputs: int, answer: Callable[[Array], Array], seed: int) -> tuple[Array, Array]:
    """Return first-order and total Sobol indices (inputs,) of ``answer``, a function of standard normal scores
    (inputs, m) that returns (m,); it is asked at ``count`` (inputs + 2) scores of a design of its own, ``count`` a
    power of two.

    Saltelli et al., Comput. Phys. Commun. 181, 259 (2010), by SciPy. Raises ValueError for another ``count``."""
    from scipy.stats import norm, sobol_indices

    one: Any = norm()
    found = sobol_indices(func=answer, n=count, dists=[one] * inputs, rng=np.random.default_rng([seed, 0x50B01]))
    return np.ravel(found.first_order), np.ravel(found.total_order)
