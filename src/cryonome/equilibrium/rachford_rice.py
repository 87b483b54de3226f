"""The phase-fraction equation of Rachford and Rice, batched and safeguarded.

    sum_i z_i (K_i - 1) / (1 + beta (K_i - 1)) = 0

Rachford and Rice, J. Pet. Technol. 4(10), 19 (1952). The root between the two poles that keeps every
composition positive is found, inside 0..1 or not (the negative flash of Whitson and Michelsen, Fluid Phase
Equilib. 53, 51, 1989), by ``kernels/source/rachford_rice.py``.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..kernels import kernel

Array = NDArray[np.float64]

SETTLED = 1e-9
"""Step, relative to the way to the nearer pole, whose square is round-off: one more evaluation would change nothing."""


def solve_fraction(
    K: Array, z: Array, guess: Array | None = None, settled: float = SETTLED
) -> tuple[Array, NDArray[np.bool_]]:
    """Return the vapour fraction (N,) and whether it exists (N,), for K and z (N, nc).

    It exists where K has values on both sides of one. Where it does not, the fraction returned is 0 when every K is
    below one and 1 when every K is above. ``guess`` (N,) starts the iteration; a larger ``settled`` ends it early.
    """
    n, nc = K.shape
    beta, exists = np.empty(n), np.empty(n, np.int64)
    start = np.full(n, 0.5) if guess is None else np.ascontiguousarray(guess, dtype=float)
    given = (
        np.ascontiguousarray(K, dtype=float),
        np.ascontiguousarray(np.broadcast_to(z, K.shape), dtype=float),
        start,
        settled,
        beta,
        exists,
    )
    kernel("fractions").over(n, nc, given, block=256)
    return beta, exists > 0
