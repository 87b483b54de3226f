"""The real roots of many cubics at once: the only such routine of the program."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..kernels import kernel

Array = NDArray[np.float64]


def extreme_roots(c2: ArrayLike, c1: ArrayLike, c0: ArrayLike, lower: ArrayLike) -> tuple[Array, Array]:
    """Return the smallest root above ``lower`` and the largest root of z3 + c2 z2 + c1 z + c0, each (N,)."""
    c2, c1, c0, lower = np.broadcast_arrays(*(np.asarray(v, float) for v in (c2, c1, c0, lower)))
    out = np.empty((c2.size, 2))
    given = np.ascontiguousarray(np.stack([c2, c1, c0], axis=-1).reshape(-1, 3))
    kernel("cubic_polynomial_roots").over(c2.size, 0, (given, np.ascontiguousarray(lower.ravel()), out), block=4096)
    return out[:, 0].reshape(c2.shape), out[:, 1].reshape(c2.shape)
