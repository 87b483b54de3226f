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

    live = np.arange(rows.size)
    for _ in range(MAX_ITERATIONS):
        r = ca / (1.0 + b[live][:, None] * ca)
        zr = za * r
        f = zr.sum(axis=-1)
        slope = np.einsum("ij,ij->i", zr, r)
        # f falls monotonically between the poles, so its sign tells the side of the root.
        lo[live] = np.where(f > 0.0, b[live], lo[live])
        hi[live] = np.where(f < 0.0, b[live], hi[live])
        step = f / slope
        new = b[live] + step
        out = (new <= lo[live]) | (new >= hi[live])
        new = np.where(out & (f != 0.0), 0.5 * (lo[live] + hi[live]), new)
        b[live] = new
        going = (np.abs(step) > 1e-15 * (1.0 + np.abs(new))) & (hi[live] - lo[live] > 4e-16)
        going &= np.abs(f) > 1e-16
        # A Newton step below 1e-9 squares to round-off: one more evaluation would change nothing.
        going &= out | (np.abs(step) > 1e-9)
        if not going.any():
            break
        if not going.all():
            live = live[going]
            ca, za = ca[going], za[going]
    beta[rows] = b
    return beta, exists
