"""Flashes at a given vapour fraction and a given temperature or pressure, batched; bubble and dew points.

The equations of :mod:`quality` are solved by Newton's method from Wilson's ratios. A state where that fails or
finds the trivial solution is looked up on the traced line of its vapour fraction instead, which finds every
solution there is.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos.cubic import CubicEos
from .flash import check_state
from .phase_map import phase_map
from .quality import TRIVIAL, compositions, correct
from .wilson import wilson_point

Array = NDArray[np.float64]


@dataclass(frozen=True)
class FractionResult:
    """States of given vapour fraction, of any leading shape.

    ``T`` K and ``P`` Pa (...), nan where there is none; ``x`` and ``y`` (..., nc); ``converged`` (...), false
    where no such state was found; ``iterations`` (...).
    """

    T: Array
    P: Array
    vapour_fraction: Array
    x: Array
    y: Array
    converged: NDArray[np.bool_]
    iterations: NDArray[np.int64]


def flash_fraction(
    eos: CubicEos, z: ArrayLike, vapour_fraction: ArrayLike, T: ArrayLike | None = None, P: ArrayLike | None = None
) -> FractionResult:
    """Return the state of a given vapour fraction at T (...) K, or at P (...) Pa; exactly one is given.

    z (..., nc) mole numbers and ``vapour_fraction`` (...) in 0..1 broadcast with it. Where a line has several
    solutions (retrograde condensation) the one at the lowest pressure (T given) or temperature (P given) is
    meant; use :meth:`PhaseMap.crossings` for all. Raises ValueError for unphysical input.
    """
    if (T is None) == (P is None):
        raise ValueError("give exactly one of temperature and pressure")
    at_T = T is not None
    known = np.asarray(T if at_T else P, float)
    z = np.asarray(z, float)
    fraction = np.asarray(vapour_fraction, float)
    if not ((fraction >= 0.0) & (fraction <= 1.0)).all():
        raise ValueError("the vapour fraction must lie between 0 and 1")
    one = np.ones(())
    check_state(known if at_T else one, one if at_T else known, z, eos.nc)
    shape = np.broadcast_shapes(known.shape, fraction.shape, z.shape[:-1])
    nc = eos.nc
    known1 = np.broadcast_to(known, shape).reshape(-1)
    beta1 = np.broadcast_to(fraction, shape).reshape(-1)
    z1 = np.broadcast_to(z / z.sum(axis=-1, keepdims=True), (*shape, nc)).reshape(-1, nc)

    n = known1.size
    out_t, out_p = np.full(n, np.nan), np.full(n, np.nan)
    x, y = np.full((n, nc), np.nan), np.full((n, nc), np.nan)
    converged = np.zeros(n, dtype=bool)
    iterations = np.zeros(n, dtype=np.int64)
    if nc > 1:
        start = wilson_point(eos, z1, beta1, known1, at_T)
        points = correct(eos, z1, beta1, start, np.full(n, nc if at_T else nc + 1), 25, 0.7)
        iterations += points.iterations
        with np.errstate(invalid="ignore"):
            apart = np.maximum(np.abs(points.u[:, :nc]).max(axis=-1), np.abs(points.volume))
            converged = points.converged & (apart > 1e3 * TRIVIAL)
            # With a light phase taken for the heavy one the solution is of the other line.
            converged &= points.volume > 0.0
        good = np.flatnonzero(converged)
        xs, ys = compositions(points.u[good], z1[good], beta1[good])
        x[good], y[good] = xs / xs.sum(axis=-1, keepdims=True), ys / ys.sum(axis=-1, keepdims=True)
        out_t[good], out_p[good] = np.exp(points.u[good, nc]), np.exp(points.u[good, nc + 1])
    _by_tracing(eos, z1, beta1, known1, at_T, (out_t, out_p, x, y, converged))

    return FractionResult(
        out_t.reshape(shape),
        out_p.reshape(shape),
        beta1.reshape(shape),
        x.reshape((*shape, nc)),
        y.reshape((*shape, nc)),
        converged.reshape(shape),
        iterations.reshape(shape),
    )


def _by_tracing(
    eos: CubicEos,
    z: Array,
    beta: Array,
    known: Array,
    at_T: bool,
    out: tuple[Array, Array, Array, Array, NDArray[np.bool_]],
) -> None:
    """Fill the states still unconverged in ``out`` from traced lines, one trace per distinct feed and fraction."""
    out_t, out_p, x, y, converged = out
    waiting = np.flatnonzero(~converged)
    if waiting.size == 0:
        return
    feeds, group = np.unique(np.column_stack([z[waiting], beta[waiting]]), axis=0, return_inverse=True)
    for number, feed in enumerate(feeds):
        fraction = float(feed[-1])
        whole = phase_map(eos, feed[:-1], (fraction,) if 0.0 < fraction < 1.0 else ())
        for row in waiting[group.ravel() == number]:
            hits = whole.crossings([fraction], **{"T" if at_T else "P": float(known[row])})
            if hits:
                hit = min(hits, key=lambda p: p.P if at_T else p.T)
                out_t[row], out_p[row], x[row], y[row] = hit.T, hit.P, hit.x, hit.y
                converged[row] = True
