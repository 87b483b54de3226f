"""Bounded least squares on residuals in standard deviations, every sensitivity from one batched call."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import DomainError
from ..watch import UNWATCHED, Cancelled, Watch

Array = NDArray[np.float64]

STEP = 2e-4
"""Difference for a derivative, of a parameter's scale."""
LOST = 60.0
"""Standard deviations that a point counts where a trial has no value of it: a bad trial is turned down, it ends
nothing."""
STOPPED = "stopped"
CONFIDENCE = 0.95
AT_BOUND = 1e-3
"""Distance from a bound, of the range, within which a parameter counts as being there."""

Residuals = Callable[[Array], Array]
"""Residuals (M, n) of M sets of values (M, p); nan where a set has none."""
Told = Callable[[Array, Array, int], None]
"""Told of the best values (p,), their residuals (n,) and the number of steps, as the fit goes on."""


@dataclass(frozen=True)
class Fit:
    """How a fit ended: values (p,), residuals (n,) before and after (nan where the start had none), the Jacobian (n,
    p) of the latter, the likely range (p, 2) at 95 %, standard deviations (p,), correlations (p, p), which ended at a bound (p,), ``reason``
    and the number of ``steps``; ``scatter`` is the root of chi-square by degree of freedom."""

    values: Array
    before: Array
    after: Array
    jacobian: Array
    interval: Array
    deviation: Array
    correlation: Array
    at_bound: NDArray[np.bool_]
    reason: str
    steps: int
    scatter: float


def fit(
    residuals: Residuals, start: Array, low: Array, high: Array, scale: Array, prior: Array, watch: Watch = UNWATCHED,
    told: Told | None = None, most: int = 40,
) -> Fit:  # fmt: skip
    """Fit p parameters from ``start`` within ``low`` and ``high``; ``scale`` is a telling step of each, ``prior`` a
    width that draws it to its start (infinite for none), each (p,). Where ``watch`` cancels, what was best so far is
    kept. Raises DomainError where the start has no residual.

    Trust-region reflective steps: Branch, Coleman and Li, SIAM J. Sci. Comput. 21, 1 (1999). The range of a parameter
    is linear, from (J'J)^-1 times the scatter of the residuals, with Student's t of the degrees of freedom (Draper
    and Smith, Applied Regression Analysis, 1998, ch. 24); of a parameter at a bound it holds with that parameter
    free."""
    from scipy.optimize import least_squares

    p = start.size
    start = np.clip(start, low + 1e-6 * (high - low), high - 1e-6 * (high - low))
    before = residuals(start[None, :])[0]
    there = np.isfinite(before)
    if not there.any():
        raise DomainError("the model has none of the measured values where the fit would begin")
    drawn = np.isfinite(prior)
    best: list[tuple[float, Array, Array]] = []
    steps = [0]

    def full(values: Array) -> Array:
        r = residuals(values)[:, there]
        pull = (values[:, drawn] - start[drawn]) / prior[drawn]
        return np.concatenate([np.where(np.isfinite(r), r, np.nan), pull], axis=1)

    def keep(x: Array, r: Array) -> None:
        cost = float(r @ r)
        if not best or cost < best[0][0]:
            best[:] = [(cost, x.copy(), r.copy())]
            if told is not None:
                told(x, r[: there.sum()], steps[0])

    def fun(u: Array) -> Array:
        watch.check()
        x = np.clip(u * scale, low, high)
        r = full(x[None, :])[0]
        r = np.where(np.isfinite(r), r, LOST)
        steps[0] += 1
        keep(x, r)
        watch.at(min(steps[0] / most, 0.99))
        return r

    def jac(u: Array) -> Array:
        return derivatives(full, np.clip(u * scale, low, high), low, high, scale) * scale

    try:
        found = least_squares(
            fun, start / scale, jac, (low / scale, high / scale), method="trf", x_scale=1.0, ftol=1e-7, xtol=1e-7, gtol=1e-7,
            max_nfev=most,
        )  # fmt: skip
        reason = {
            0: "too many steps",
            1: "no slope left",
            2: "no further gain",
            3: "no further step",
            4: "no further gain",
        }[int(found.status)]
    except Cancelled:
        reason = STOPPED
        if not best:
            raise
    cost, x, _ = best[0]
    J = derivatives(full, x, low, high, scale)
    after = residuals(x[None, :])[0]
    n = int(there.sum())
    free = n + int(drawn.sum()) - p
    scatter = float(np.sqrt(cost / free)) if free > 0 else np.nan
    interval, deviation, correlation = _uncertainty(J, scale, x, scatter, free)
    span = high - low
    jacobian = np.full((before.size, p), np.nan)
    jacobian[there] = J[:n]
    bound = (x - low < AT_BOUND * span) | (high - x < AT_BOUND * span)
    return Fit(x, before, after, jacobian, interval, deviation, correlation, bound, reason, steps[0], scatter)


def derivatives(residuals: Residuals, x: Array, low: Array, high: Array, scale: Array) -> Array:
    """Return the derivatives (n, p) of residuals at x (p,), by differences inwards from the bounds, in one call; zero
    where there is none."""
    p = x.size
    h = STEP * scale
    h = np.where(x + h > high, -h, h)
    sets = np.concatenate([x[None, :], x + np.diag(h), np.clip(x - np.diag(h), low, high)])
    r = residuals(sets)
    up, down = r[1 : p + 1], r[p + 1 :]
    moved = np.diagonal(sets[1 : p + 1] - sets[p + 1 :])
    both = (up - down) / moved[:, None]
    single = (up - r[0]) / h[:, None]
    back = np.diagonal(x - sets[p + 1 :])
    with np.errstate(invalid="ignore", divide="ignore"):
        other = (r[0] - down) / back[:, None]
        out = np.where(np.isfinite(both), both, np.where(np.isfinite(single), single, other))
    return np.where(np.isfinite(out), out, 0.0).T


def _uncertainty(J: Array, scale: Array, x: Array, scatter: float, free: int) -> tuple[Array, Array, Array]:
    """Return likely ranges (p, 2) and standard deviations (p,), infinite where nothing tells a parameter, and
    correlations (p, p)."""
    from scipy.stats import t as student

    p = x.size
    if not np.isfinite(scatter):
        return np.column_stack([np.full(p, -np.inf), np.full(p, np.inf)]), np.full(p, np.inf), np.eye(p)
    _, s, vt = np.linalg.svd(J * scale, full_matrices=False)
    weak = s < 1e-9 * max(s.max(initial=0.0), 1e-30)
    inverse = np.where(weak, 1e12, 1.0 / np.maximum(s, 1e-300))
    covariance = (vt.T * inverse**2) @ vt
    sd = np.sqrt(np.diagonal(covariance))
    deviation = scatter * sd * scale
    half = float(student.ppf(0.5 + 0.5 * CONFIDENCE, free)) * deviation
    return np.column_stack([x - half, x + half]), deviation, covariance / np.outer(sd, sd)
