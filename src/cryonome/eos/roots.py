"""The real roots of many cubics at once: the only such routine of the program."""

from __future__ import annotations

from math import acos, cbrt, copysign, cos, sqrt

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def extreme_roots(c2: Array, c1: Array, c0: Array, lower: Array) -> tuple[Array, Array]:
    """Return the smallest root above ``lower`` and the largest root of z3 + c2 z2 + c1 z + c0, each (N,).

    Closed form (Cardano; Viete for three real roots), then two Newton steps each, because the closed form
    loses digits when the roots differ by orders of magnitude.
    """
    third = c2 / 3.0
    p = c1 - c2 * third
    q = third * (2.0 * third * third - c1) + c0
    p3 = p / 3.0
    disc = 0.25 * q * q + p3 * p3 * p3
    three = disc < 0.0
    some = np.count_nonzero(three)
    if some == three.size:
        roots = _three_real(p3, q)
    else:
        # One real root; the sign keeps both cube roots from cancelling.
        big = np.cbrt(-0.5 * q - np.copysign(np.sqrt(np.abs(disc)), q))
        single = big - p3 / (big + np.copysign(1e-150, big))
        if some == 0:
            high = _polish(single - third, c2, c1, c0)
            return high, high
        roots = np.stack([single, single])
        index = np.flatnonzero(three)
        roots[:, index] = _three_real(p3[index], q[index])
    roots -= third
    low, high = _polish(roots, c2, c1, c0)
    return np.where(low > lower, low, high), high


def _three_real(p3: Array, q: Array) -> Array:
    """Return the smallest and the largest root of t3 + 3 p3 t + q with three real roots, (2, N)."""
    half = np.sqrt(-p3)
    angle = np.arccos(np.clip(0.5 * q / (p3 * half), -1.0, 1.0)) / 3.0
    return np.asarray(2.0 * half * np.cos(np.stack([angle + 2.0943951023931953, angle])))


def _polish(z: Array, c2: Array, c1: Array, c0: Array) -> Array:
    """Return z after two Newton steps; damped where the slope vanishes, as at a double root."""
    damping = 1e-16 * c1 * c1 + 1e-300
    for _ in range(2):
        slope = (3.0 * z + 2.0 * c2) * z + c1
        value = ((z + c2) * z + c1) * z + c0
        z = z - value * slope / (slope * slope + damping)
    return z


def extreme_roots_of_one(c2: float, c1: float, c0: float, lower: float) -> tuple[float, float]:
    """Return what :func:`extreme_roots` does, of one cubic in plain numbers: faster than arrays of a few."""
    third = c2 / 3.0
    q = third * (2.0 * third * third - c1) + c0
    p3 = (c1 - c2 * third) / 3.0
    disc = 0.25 * q * q + p3 * p3 * p3
    if disc < 0.0:
        half = sqrt(-p3)
        angle = acos(min(1.0, max(-1.0, 0.5 * q / (p3 * half)))) / 3.0
        low = _polished(2.0 * half * cos(angle + 2.0943951023931953) - third, c2, c1, c0)
        high = _polished(2.0 * half * cos(angle) - third, c2, c1, c0)
        return (low if low > lower else high), high
    big = cbrt(-0.5 * q - copysign(sqrt(abs(disc)), q))
    high = _polished(big - p3 / (big + copysign(1e-150, big)) - third, c2, c1, c0)
    return high, high


def _polished(z: float, c2: float, c1: float, c0: float) -> float:
    damping = 1e-16 * c1 * c1 + 1e-300
    for _ in range(2):
        slope = (3.0 * z + 2.0 * c2) * z + c1
        value = ((z + c2) * z + c1) * z + c0
        z -= value * slope / (slope * slope + damping)
    return z
