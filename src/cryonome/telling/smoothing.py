"""Lines through points as they are drawn."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def smoothed(x: Array, y: Array, corners: Iterable[float] = ()) -> tuple[Array, Array]:
    """Return a line through points (n,) as a curve without corners but those at ``corners`` of x, where it stays
    straight from point to point: a monotone cubic, as it is where x turns back or there are few points."""
    steps = np.diff(x)
    if not ((steps > 0.0).all() or (steps < 0.0).all()):
        return x, y
    up = slice(None) if x[0] <= x[-1] else slice(None, None, -1)
    x, y = x[up], y[up]
    out, begin = [], 0
    for corner in sorted(c for c in corners if x[0] < c < x[-1]):
        # A point at the corner ends the one side and begins the other.
        at = int(np.searchsorted(x, corner * (1.0 - 1e-9 * np.sign(corner))))
        on = abs(x[at] - corner) <= 1e-9 * abs(corner)
        out.append(_cubic(x[begin : at + on], y[begin : at + on]))
        begin = at
    out.append(_cubic(x[begin:], y[begin:]))
    return np.concatenate([p[0] for p in out]), np.concatenate([p[1] for p in out])


def _cubic(x: Array, y: Array) -> tuple[Array, Array]:
    """Return a monotone cubic through points (n,) of rising x; the points themselves where they are few."""
    from scipy.interpolate import PchipInterpolator

    if len(x) < 4:
        return x, y
    fine = np.interp(np.linspace(0.0, len(x) - 1.0, 12 * len(x)), np.arange(len(x)), x)
    return fine, PchipInterpolator(x, y)(fine)
