"""The phase-fraction equation of Rachford and Rice, batched and safeguarded.

    sum_i z_i (K_i - 1) / (1 + beta (K_i - 1)) = 0

Rachford and Rice, J. Pet. Technol. 4(10), 19 (1952). The root between the two poles that keeps every
composition positive is found, inside 0..1 or not (the negative flash of Whitson and Michelsen, Fluid Phase
Equilib. 53, 51, 1989).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

MAX_ITERATIONS = 60


FEW = 6
"""Up to this number of states each is solved by itself, which is faster than arrays of them."""

SETTLED = 1e-9
"""Step, relative to the way to the nearer pole, whose square is round-off: one more evaluation would change nothing."""


def solve_fraction(
    K: Array, z: Array, guess: Array | None = None, settled: float = SETTLED
) -> tuple[Array, NDArray[np.bool_]]:
    """Return the vapour fraction (N,) and whether it exists (N,), for K and z (N, nc).

    It exists where K has values on both sides of one. Where it does not, the fraction returned is 0 when
    every K is below one and 1 when every K is above. ``guess`` (N,) starts the iteration; a larger ``settled`` ends it early.
    """
    c = K - 1.0
    c_max, c_min = c.max(axis=-1), c.min(axis=-1)
    exists = (c_max > 0.0) & (c_min < 0.0)
    beta = np.where(c_max <= 0.0, 0.0, 1.0)
    if len(c) <= FEW:
        for row in np.flatnonzero(exists).tolist():
            start = 0.5 if guess is None else float(guess[row])
            beta[row] = _of_one(c[row], z[row], start, -1.0 / float(c_max[row]), -1.0 / float(c_min[row]), settled)
        return beta, exists
    rows = np.flatnonzero(exists)
    if rows.size == 0:
        return beta, exists
    if rows.size < len(c):
        c, z = c[rows], z[rows]
    lo, hi = -1.0 / c_max[rows], -1.0 / c_min[rows]
    b = np.full(rows.size, 0.5) if guess is None else guess[rows].copy()
    inside = (b > lo) & (b < hi)
    b = np.where(inside, b, np.clip(0.5, lo + 0.1 * (hi - lo), hi - 0.1 * (hi - lo)))

    # Newton's method on h = (beta - lo)(hi - beta) f, which is nearly linear where f has its poles (Leibovici and
    # Neoschil, Fluid Phase Equilib. 74, 303, 1992), inside a bracket that f's sign keeps closing.
    live = rows
    low_pole, high_pole = lo, hi
    r, zr = np.empty_like(c), np.empty_like(c)
    for _ in range(MAX_ITERATIONS):
        np.multiply(c, b[:, None], out=r)
        r += 1.0
        np.divide(c, r, out=r)
        np.multiply(z, r, out=zr)
        f = np.einsum("ij->i", zr)
        slope = np.einsum("ij,ij->i", zr, r)
        # f falls monotonically between the poles, so its sign tells the side of the root.
        lo = np.where(f > 0.0, b, lo)
        hi = np.where(f < 0.0, b, hi)
        left, right = b - low_pole, high_pole - b
        step = f / (slope - f * (right - left) / (left * right))
        new = b + step
        # A step as small as that is not worth a bisection, though round-off may lead it out of the bracket.
        going = ~(np.abs(step) <= settled * np.minimum(left, right))
        b = np.where(going & ~((new > lo) & (new < hi)), 0.5 * (lo + hi), new)
        going &= hi - lo > 1e-15 * (1.0 + np.abs(b))
        count = int(np.count_nonzero(going))
        if count == 0:
            break
        if 4 * count < 3 * b.size:
            beta[live[~going]] = b[~going]
            live, b, lo, hi = live[going], b[going], lo[going], hi[going]
            c, z, low_pole, high_pole = c[going], z[going], low_pole[going], high_pole[going]
            r, zr = r[:count], zr[:count]
    beta[live] = b
    return beta, exists


def _of_one(c: Array, z: Array, b: float, low_pole: float, high_pole: float, settled: float) -> float:
    """Return the fraction of one state, c = K - 1 and z (nc,), in plain numbers; the iteration is that of the batch."""
    lo, hi = low_pole, high_pole
    if not lo < b < hi:
        b = min(max(0.5, lo + 0.1 * (hi - lo)), hi - 0.1 * (hi - lo))
    for _ in range(MAX_ITERATIONS):
        r = c / (1.0 + b * c)
        zr = z * r
        f, slope = float(zr.sum()), float(zr.dot(r))
        if f > 0.0:
            lo = b
        elif f < 0.0:
            hi = b
        else:
            return b
        left, right = b - low_pole, high_pole - b
        bend = left * right
        bent = slope - f * (right - left) / bend if bend else 0.0
        step = f / bent if bent else np.inf
        if abs(step) <= settled * min(left, right):
            return b + step
        new = b + step
        b = new if lo < new < hi else 0.5 * (lo + hi)
        if not hi - lo > 1e-15 * (1.0 + abs(b)):
            return b
    return b
