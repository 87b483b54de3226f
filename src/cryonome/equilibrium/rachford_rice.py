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


def solve_fraction(K: Array, z: Array, guess: Array | None = None) -> tuple[Array, NDArray[np.bool_]]:
    """Return the vapour fraction (N,) and whether it exists (N,), for K and z (N, nc).

    It exists where K has values on both sides of one. Where it does not, the fraction returned is 0 when
    every K is below one and 1 when every K is above. ``guess`` (N,) starts the iteration.
    """
    c = K - 1.0
    c_max, c_min = c.max(axis=-1), c.min(axis=-1)
    exists = (c_max > 0.0) & (c_min < 0.0)
    beta = np.where(c_max <= 0.0, 0.0, 1.0)
    rows = np.flatnonzero(exists)
    if rows.size == 0:
        return beta, exists
    whole = rows.size == K.shape[0]
    ca, za = (c, z) if whole else (c[rows], z[rows])
    lo, hi = -1.0 / c_max[rows], -1.0 / c_min[rows]
    b = np.full(rows.size, 0.5) if guess is None else guess[rows].copy()
    inside = (b > lo) & (b < hi)
    b = np.where(inside, b, np.clip(0.5, lo + 0.1 * (hi - lo), hi - 0.1 * (hi - lo)))

    # Newton's method on h = (beta - lo)(hi - beta) f, which is nearly linear where f has its poles (Leibovici and
    # Neoschil, Fluid Phase Equilib. 74, 303, 1992), inside a bracket that f's sign keeps closing.
    live = np.arange(rows.size)
    low_pole, high_pole = lo.copy(), hi.copy()
    for _ in range(MAX_ITERATIONS):
        now = b[live]
        r = ca / (1.0 + now[:, None] * ca)
        zr = za * r
        f = zr.sum(axis=-1)
        slope = np.einsum("ij,ij->i", zr, r)
        # f falls monotonically between the poles, so its sign tells the side of the root.
        lo[live] = np.where(f > 0.0, now, lo[live])
        hi[live] = np.where(f < 0.0, now, hi[live])
        left, right = now - low_pole[live], high_pole[live] - now
        step = f / (slope - f * (right - left) / (left * right))
        new = now + step
        out = ~((new > lo[live]) & (new < hi[live])) & (f != 0.0)
        new = np.where(out, 0.5 * (lo[live] + hi[live]), new)
        b[live] = new
        # A step below 1e-9 of the way to a pole squares to round-off: one more evaluation would change nothing.
        going = (out | (np.abs(step) > 1e-9 * np.minimum(left, right))) & (
            hi[live] - lo[live] > 1e-15 * (1.0 + np.abs(new))
        )
        if not going.any():
            break
        if not going.all():
            live = live[going]
            ca, za = ca[going], za[going]
    beta[rows] = b
    return beta, exists
