"""Monotone cubics through points, made many times over: for every sample of a curve, in every round of its solution."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Monotone:
    """The monotone piecewise cubic through y (n,) at rising x (n,), n at least two; its outer pieces go on beyond.

    Slopes are weighted harmonic means of the neighbours' (Fritsch and Butland, SIAM J. Sci. Stat. Comput. 5, 300,
    1984), at the ends those of a parabola held to the shape; SciPy's ``PchipInterpolator``, without what that costs
    to make."""

    def __init__(self, x: Array, y: Array) -> None:
        self.x, self.y = np.asarray(x, float), np.asarray(y, float)
        h = np.diff(self.x)
        rise = np.diff(self.y) / h
        self._slope = _slopes(h, rise)
        self._inner = self.x[1:-1]
        first, last = self._slope[:-1], self._slope[1:]
        self._square = (3.0 * rise - 2.0 * first - last) / h
        self._cube = (first + last - 2.0 * rise) / h**2

    def __call__(self, at: Array) -> Array:
        """Return values at points of any shape."""
        at = np.asarray(at, float)
        k = np.searchsorted(self._inner, at, side="right")
        s = at - self.x[k]
        return np.asarray(self.y[k] + s * (self._slope[k] + s * (self._square[k] + s * self._cube[k])))

    def integral(self, at: Array) -> Array:
        """Return the integral from the first point to points of any shape."""
        whole = self._within(np.diff(self.x), np.arange(self.x.size - 1))
        below = np.concatenate([[0.0], np.cumsum(whole)])
        k = np.searchsorted(self._inner, at, side="right")
        return np.asarray(below[k] + self._within(at - self.x[k], k))

    def _within(self, s: Array, k: NDArray[np.intp]) -> Array:
        return np.asarray(
            s * (self.y[k] + s * (self._slope[k] / 2.0 + s * (self._square[k] / 3.0 + s * self._cube[k] / 4.0)))
        )


def _slopes(h: Array, rise: Array) -> Array:
    """Return the slopes (n,) at the points of intervals h (n - 1,) with mean slopes ``rise``."""
    if h.size == 1:
        return np.array([rise[0], rise[0]])
    out = np.zeros(h.size + 1)
    w1, w2 = 2.0 * h[1:] + h[:-1], h[1:] + 2.0 * h[:-1]
    same = rise[1:] * rise[:-1] > 0.0
    with np.errstate(divide="ignore", invalid="ignore"):
        mean = (w1 + w2) / (w1 / rise[:-1] + w2 / rise[1:])
    out[1:-1] = np.where(same, mean, 0.0)
    out[0] = _end(h[0], h[1], rise[0], rise[1])
    out[-1] = _end(h[-1], h[-2], rise[-1], rise[-2])
    return out


def _end(h0: float, h1: float, m0: float, m1: float) -> float:
    slope = ((2.0 * h0 + h1) * m0 - h0 * m1) / (h0 + h1)
    if np.sign(slope) != np.sign(m0):
        return 0.0
    if np.sign(m0) != np.sign(m1) and abs(slope) > 3.0 * abs(m0):
        return 3.0 * m0
    return float(slope)
