"""Batched linear algebra: solves that survive a singular member, extrapolation of fixed-point iterations."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


PIECE = 16
"""Eigenvalue problems taken at once: one call keeps the interpreter, and with it the window, for its whole length."""


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


def extrapolate(step: Array, history: list[Array]) -> Array:
    """Return the extra step of the general dominant eigenvalue method with two eigenvalues, (N, nc).

    Crowe and Nishio, AIChE J. 21, 528 (1975). ``step`` is the newest change of a linearly converging
    iteration, ``history`` the one or two before it, newest first. Zero where the extrapolation would be wild.
    """
    if len(history) < 2:
        return np.zeros_like(step)
    old, older = history
    b01 = np.vecdot(step, old)
    b02 = np.vecdot(step, older)
    b11 = np.vecdot(old, old)
    b12 = np.vecdot(old, older)
    b22 = np.vecdot(older, older)
    det = b11 * b22 - b12 * b12
    with np.errstate(divide="ignore", invalid="ignore"):
        mu1 = (b02 * b12 - b01 * b22) / det
        mu2 = (b01 * b12 - b02 * b11) / det
        total = 1.0 + mu1 + mu2
        extra = (step - mu2[:, None] * old) / total[:, None] - step
        # Where the steps are parallel one eigenvalue is all there is.
        ratio = b01 / b11
        single = (ratio / (1.0 - ratio))[:, None] * step
        ok_single = (ratio > 0.0) & (ratio < 0.99)
    good = np.isfinite(extra).all(axis=-1) & (det > 1e-8 * b11 * b22) & (np.abs(total) > 1e-3)
    extra = np.where(good[:, None], extra, np.where(ok_single[:, None], single, 0.0))
    # A jump far beyond the latest step is more likely noise than insight.
    with np.errstate(divide="ignore", invalid="ignore"):
        limit = np.minimum(1.0, 4.0 / np.abs(extra).max(axis=-1))
    return np.asarray(np.where(np.isfinite(limit)[:, None], limit[:, None] * extra, 0.0))


FARTHEST = 3.0
"""Largest change that :func:`accelerate` adds: what lies far beyond the latest steps is more likely noise than insight."""


DOWNHILL = 2.0
"""What is added to a step that is longer than the one before, in its lengths."""


def accelerate(x: Array, step: Array, before: tuple[Array, Array], weight: Array) -> Array:
    """Return the extra step (N, nc) of a fixed-point iteration whose point and step were ``before`` and are ``x`` and ``step``.

    Anderson, J. ACM 12, 547 (1965), with one point of memory: where the two steps combined cancel best in the norm of ``weight``
    (N, nc). One point does better here than two or three, whose combinations are spoilt by curvature.
    """
    df = step - before[1]
    wdf = weight * df
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.vecdot(wdf, step) / np.vecdot(wdf, df)
    # Steps that grow go down from a ridge: their combination would lead back to it.
    growing = (share >= 0.0) & (np.vecdot(weight * step, before[1]) > 0.0)
    extra = np.where(growing[:, None], DOWNHILL * step, (x - before[0] + df) * -share[:, None])
    most = np.sqrt(np.vecdot(extra, extra))
    with np.errstate(divide="ignore", invalid="ignore"):
        limit = np.minimum(1.0, FARTHEST / most)
    return np.asarray(np.where(np.isfinite(limit)[:, None], limit[:, None] * extra, 0.0))


def damped_step(hessian: Array, gradient: Array) -> Array:
    """Return steps (N, m) that go downhill, for symmetric Hessians (N, m, m) that are near the identity where all is ideal.

    Where the plain step does not, the diagonal is raised until it does (Levenberg, Quart. Appl. Math. 2, 164, 1944): much
    cheaper than eigenvalues, but blind to a saddle point.
    """
    step = -solve_each(hessian, gradient)
    rows = np.flatnonzero(np.vecdot(step, gradient) >= 0.0)
    index = np.arange(gradient.shape[1])
    raised = 0.5
    while rows.size and raised < 1e6:
        some = hessian[rows]
        some[:, index, index] += raised
        step[rows] = -solve_each(some, gradient[rows])
        rows = rows[(np.vecdot(step[rows], gradient[rows]) >= 0.0) & (gradient[rows] != 0.0).any(axis=-1)]
        raised *= 2.0
    return step


def descent_step(hessian: Array, gradient: Array) -> Array:
    """Return Newton steps (N, m) that go downhill, for symmetric Hessians (N, m, m).

    Where the plain step does not, the eigenvalues are replaced by their magnitudes (floored), which also leaves
    saddle points along their negative direction.
    """
    step = -solve_each(hessian, gradient)
    slope = np.vecdot(step, gradient)
    size = np.vecdot(gradient, gradient)
    uphill = np.flatnonzero((slope >= 0.0) & (size > 0.0))
    for start in range(0, uphill.size, PIECE):
        rows = uphill[start : start + PIECE]
        values, vectors = np.linalg.eigh(hessian[rows])
        along = np.einsum("nij,ni->nj", vectors, gradient[rows])
        step[rows] = -np.einsum("nij,nj->ni", vectors, along / np.maximum(np.abs(values), 1e-9))
    return step
