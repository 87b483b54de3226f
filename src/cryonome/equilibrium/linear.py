"""Batched linear algebra: solves that survive a singular member, cubics through two points with their slopes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def solve_each(matrix: Array, rhs: Array) -> Array:
    """Solve matrix (N, m, m) x = rhs (N, m) for each of N; a singular member gets the least-squares x.

    Rows that are not finite give zeros, which callers see as a step that leads nowhere.
    """
    try:
        x = np.linalg.solve(matrix, rhs[..., None])[..., 0]
        if np.isfinite(x).all():
            return np.asarray(x)
    except np.linalg.LinAlgError:
        x = np.full(rhs.shape, np.nan)
        for i in range(rhs.shape[0]):  # only after a singular member: rare, and each needs its own verdict
            if np.isfinite(matrix[i]).all() and np.isfinite(rhs[i]).all():
                try:
                    x[i] = np.linalg.solve(matrix[i], rhs[i])
                except np.linalg.LinAlgError:
                    x[i] = np.linalg.lstsq(matrix[i], rhs[i], rcond=None)[0]
    return np.where(np.isfinite(x).all(axis=-1, keepdims=True), x, 0.0)


def solve_columns(matrix: Array, rhs: Array) -> Array:
    """Solve matrix (N, m, m) x = rhs (N, m, k) for each of N, as :func:`solve_each` does."""
    try:
        x = np.linalg.solve(matrix, rhs)
        if np.isfinite(x).all():
            return np.asarray(x)
    except np.linalg.LinAlgError:
        pass
    return np.stack([solve_each(matrix, rhs[..., k]) for k in range(rhs.shape[-1])], axis=-1)


def hermite(t: float, left: Array, right: Array, slope_left: Array, slope_right: Array) -> tuple[Array, Array]:
    """Return the cubic through two points with their slopes at t, 0 at the left and 1 at the right one, and its derivative in t."""
    u = 1.0 - t
    value = (1.0 + 2.0 * t) * u * u * left + t * u * u * slope_left
    value += t * t * (1.0 + 2.0 * u) * right - t * t * u * slope_right
    rise = 6.0 * t * u * (right - left) + u * (1.0 - 3.0 * t) * slope_left + t * (3.0 * t - 2.0) * slope_right
    return value, rise
