"""Flashes at a given vapour fraction and a given temperature or pressure, batched; bubble and dew points.

The equations of :mod:`quality` are solved by Newton's method from Wilson's ratios. A state where that fails or
finds the trivial solution is looked up on the traced line of its vapour fraction instead, which finds every
solution there is.
"""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos import Equation
from ..eos.equation import Rows
from ..errors import DomainError
from ..watch import UNWATCHED, Watch
from .flash import check_state
from .line_states import two_phases
from .phase_map import phase_map
from .phases import Phases
from .pure import boiling_temperature, saturation_pressure
from .quality import TRIVIAL, compositions, correct
from .wilson import wilson_point

Array = NDArray[np.float64]


def flash_fraction(
    eos: Equation,
    z: ArrayLike,
    vapour_fraction: ArrayLike,
    T: ArrayLike | None = None,
    P: ArrayLike | None = None,
    watch: Watch = UNWATCHED,
) -> Phases:
    """Return the state of a given vapour fraction at T (...) K, or at P (...) Pa; exactly one is given.

    z (..., nc) mole numbers and ``vapour_fraction`` (...) in 0..1 broadcast with it; parameters of ``eos`` with a
    batch axis go with a single leading axis. Both phases of a bubble or dew point are there, one with fraction zero.
    Where a line has several solutions (retrograde condensation) the one at the lowest pressure (T given) or
    temperature (P given) is meant; use :meth:`PhaseMap.crossings` for all. Raises ValueError unless one of T and P is given, DomainError for unphysical input,
    Cancelled where ``watch`` says so."""
    if (T is None) == (P is None):
        raise ValueError("give exactly one of temperature and pressure")
    at_T = T is not None
    known = np.asarray(T if at_T else P, float)
    z = np.asarray(z, float)
    fraction = np.asarray(vapour_fraction, float)
    if not ((fraction >= 0.0) & (fraction <= 1.0)).all():
        raise DomainError("the vapour fraction must lie between 0 and 1")
    one = np.ones(())
    check_state(known if at_T else one, one if at_T else known, z, eos.nc)
    shape = np.broadcast_shapes(known.shape, fraction.shape, z.shape[:-1])
    nc = eos.nc
    known1 = np.broadcast_to(known, shape).reshape(-1)
    beta1 = np.broadcast_to(fraction, shape).reshape(-1)
    z1 = np.broadcast_to(z / z.sum(axis=-1, keepdims=True), (*shape, nc)).reshape(-1, nc)

    n = known1.size
    found = _Points(
        np.full(n, np.nan), np.full(n, np.nan), np.full((n, nc), np.nan), np.full((n, nc), np.nan), np.zeros(n, bool)
    )
    iterations = np.zeros(n, dtype=np.int64)
    residual = np.zeros(n)
    if nc > 1:
        start = wilson_point(eos, z1, beta1, known1, at_T)
        points = correct(eos, z1, beta1, start, np.full(n, nc if at_T else nc + 1), 25, 0.7, watch=watch.part(0.0, 0.5))
        iterations += points.iterations
        with np.errstate(invalid="ignore"):
            apart = np.maximum(np.abs(points.u[:, :nc]).max(axis=-1), np.abs(points.volume))
            # With a light phase taken for the heavy one the solution is of the other line.
            ok = points.converged & (apart > 1e3 * TRIVIAL) & (points.volume > 0.0)
        good = np.flatnonzero(ok)
        xs, ys = compositions(points.u[good], z1[good], beta1[good])
        x, y = xs / xs.sum(axis=-1, keepdims=True), ys / ys.sum(axis=-1, keepdims=True)
        found.put(good, _Points(np.exp(points.u[good, nc]), np.exp(points.u[good, nc + 1]), x, y, ok[good]))
        residual[good] = points.residual[good]
    else:
        other = (saturation_pressure if at_T else boiling_temperature)(eos, known1[:, None])[:, 0]
        there = np.flatnonzero(np.isfinite(other))
        T1, P1 = (known1, other) if at_T else (other, known1)
        one1 = np.ones((there.size, 1))
        found.put(there, _Points(T1[there], P1[there], one1, one1, np.ones(there.size, bool)))
    if nc > 1:
        _by_tracing(eos, z1, beta1, known1, at_T, found, watch.part(0.5, 1.0))
    return two_phases(eos, z1, found.T, found.P, beta1, found.x, found.y, found.ok, residual, iterations).reshape(
        *shape
    )


@dataclass
class _Points:
    """Points of given fraction: T K, P Pa (N,), x and y (N, nc), and which were found (N,)."""

    T: Array
    P: Array
    x: Array
    y: Array
    ok: NDArray[np.bool_]

    def put(self, rows: Rows, other: _Points) -> None:
        """Overwrite the points ``rows`` by those of ``other``."""
        for f in fields(self):
            getattr(self, f.name)[rows] = getattr(other, f.name)


def _by_tracing(eos: Equation, z: Array, beta: Array, known: Array, at_T: bool, found: _Points, watch: Watch) -> None:
    """Fill the points not found yet from traced lines, one trace per distinct feed, fraction and set of parameters."""
    waiting = np.flatnonzero(~found.ok)
    if waiting.size == 0:
        return
    sets = waiting if eos.batched else np.zeros(waiting.size)
    feeds, group = np.unique(np.column_stack([z[waiting], beta[waiting], sets]), axis=0, return_inverse=True)
    for number, feed in enumerate(feeds):
        fraction = float(feed[-2])
        one = eos.single(int(feed[-1]))
        inner = (fraction,) if 0.0 < fraction < 1.0 else ()
        whole = phase_map(one, feed[:-2], inner, watch.part(number / len(feeds), (number + 1) / len(feeds)))
        for row in waiting[group.ravel() == number]:
            hits = whole.crossings([fraction], **{"T" if at_T else "P": float(known[row])})
            if hits:
                hit = min(hits, key=lambda p: p.P if at_T else p.T)
                found.T[row], found.P[row], found.x[row], found.y[row] = hit.T, hit.P, hit.x, hit.y
                found.ok[row] = True
