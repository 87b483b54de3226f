"""The saturation pressure a laboratory sees: the highest pressure at which a fluid of given temperature begins to
part, batched.

A fluid is brought down from a pressure at which it is one phase; what appears first is a bubble or a drop. Stability
tests over pressure bracket that point, and Newton's method on the equations of :mod:`quality`, with the feed as one
phase and the first of the other at nothing, ends there. No line is traced, so that many sets of parameters are one
call."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..eos.equation import Rows
from ..watch import UNWATCHED, Watch
from .pure import saturation_pressure as pure_pressure
from .quality import TRIVIAL, correct
from .stability import log_safe, stability

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

LOWEST = 1e3
HIGHEST = 3e8
"""Pressures, Pa, between which the point is looked for."""

FIRST = 25
CLOSER = 140
LATER = 7
"""Pressures tested at first, again where no state of those parts (near the cricondentherm the two lines lie close),
and in each bracket that is narrowed."""

ROUNDS = 6
"""Times a bracket is narrowed, sevenfold each, before a point counts as not found."""


@dataclass(frozen=True)
class Saturation:
    """The points of N feeds at their temperatures: ``P`` (N,) Pa, nan without one; ``incipient`` (N, nc) the
    composition of what appears; ``bubble`` (N,) whether that is lighter than the feed; ``endless`` (N,) marks feeds
    of two phases up to :data:`HIGHEST`."""

    P: Array
    incipient: Array
    bubble: Mask
    endless: Mask

    def take(self, rows: Rows) -> Saturation:
        """Return the points ``rows``."""
        return Saturation(self.P[rows], self.incipient[rows], self.bubble[rows], self.endless[rows])

    @property
    def found(self) -> Mask:
        """Which points were found, (N,)."""
        return np.isfinite(self.P)


def saturation(
    eos: Equation, T: Array, z: Array, near: Saturation | None = None, watch: Watch = UNWATCHED
) -> Saturation:
    """Return the highest saturation pressures of feeds z (N, nc), normalised, at T (N,) K; parameters of ``eos`` may
    be batched.

    ``near`` are points of much the same feeds (of other parameters) to begin from. Raises Cancelled.
    """
    n = z.shape[0]
    if z.shape[1] == 1:
        # One component has no other composition to part into: its liquid boils.
        return Saturation(pure_pressure(eos, T[:, None])[:, 0], np.ones((n, 1)), np.ones(n, bool), np.zeros(n, bool))
    P, W = np.full(n, np.nan), z.copy()
    bubble, endless = np.zeros(n, bool), np.zeros(n, bool)
    with np.errstate(all="ignore"):
        if near is not None:
            rows = np.flatnonzero(near.found)
            _finish(
                eos,
                T,
                z,
                rows,
                near.P[rows],
                near.incipient[rows],
                (0.4 * near.P[rows], 2.5 * near.P[rows]),
                (P, W, bubble),
            )
        rows = np.flatnonzero(np.isnan(P))
        low, high = np.full(n, LOWEST), np.full(n, HIGHEST)
        parted = np.zeros(n, bool)
        for steps in (FIRST, CLOSER):
            waiting = rows[~parted[rows]]
            if waiting.size:
                there, _ = _narrow(eos, T, z, waiting, low, high, np.linspace(0.0, 1.0, steps))
                parted[waiting[there]] = True
        endless[rows] = parted[rows] & (low[rows] > (1.0 - 1e-9) * HIGHEST)
        rows = rows[parted[rows] & ~endless[rows]]
        for turn in range(ROUNDS):
            if rows.size == 0:
                break
            watch.at(turn / ROUNDS)
            there, found = _narrow(eos, T, z, rows, low, high, np.linspace(0.0, 1.0, LATER + 2)[1:-1])
            # Where none of the bracket parts, it does so next to its lower end.
            place = rows[there]
            _finish(eos, T, z, place, low[place], found, (0.9999 * low[place], 1.0001 * high[place]), (P, W, bubble))
            rows = rows[np.isnan(P[rows])]
    return Saturation(P, W, bubble, endless)


def _narrow(
    eos: Equation, T: Array, z: Array, rows: NDArray[np.intp], low: Array, high: Array, share: Array
) -> tuple[Mask, Array]:
    """Bring the brackets ``low`` and ``high`` (N,) of ``rows`` (M,) about the topmost of the pressures at ``share``
    (k,) of them that part.

    Return which have one, (M,), and the composition of the phase that appears there, (those, nc)."""
    k, nc = share.size, z.shape[1]
    grid = np.exp(np.log(low[rows])[:, None] + share * np.log(high[rows] / low[rows])[:, None])
    each = np.repeat(rows, k)
    test = stability(eos.take(each), T[each], grid.reshape(-1), z[each])
    split = test.unstable.reshape(-1, k)
    there = split.any(axis=1)
    seen = np.flatnonzero(there)
    top = k - 1 - np.argmax(split[seen, ::-1], axis=1)
    place = rows[seen]
    inner = top < k - 1
    low[place] = grid[seen, top]
    high[place[inner]] = grid[seen[inner], top[inner] + 1]
    if share[0] > 0.0:
        high[rows[~there]] = grid[~there, 0]
    W = test.W.reshape(-1, k, nc)[seen, top]
    return np.asarray(there), np.asarray(W / W.sum(axis=-1, keepdims=True))


def _finish(
    eos: Equation,
    T: Array,
    z: Array,
    rows: NDArray[np.intp],
    P0: Array,
    W: Array,
    between: tuple[Array, Array],
    out: tuple[Array, Array, Mask],
) -> None:
    """Put the points of ``rows`` (M,), from estimates P0 (M,) and compositions W (M, nc), that come in between two
    pressures (M,)."""
    if rows.size == 0:
        return
    nc = z.shape[1]
    own = eos.take(rows)
    state = own.prepare(T[rows], P0)
    feed, trial = z[rows], np.where(W > 0.0, W, 1e-300)
    thin = state.packing(trial, state.ln_phi(trial)[1]) < state.packing(feed, state.ln_phi(feed)[1])
    light = np.where(thin, 1.0, -1.0)
    u = np.column_stack([np.where(feed > 0.0, log_safe(trial) - log_safe(feed), 0.0), np.log(T[rows]), np.log(P0)])
    points = correct(own, feed, np.zeros(rows.size), u, np.full(rows.size, nc), 20, 0.5, light)
    found = np.exp(points.u[:, nc + 1])
    apart = np.maximum(np.abs(points.u[:, :nc]).max(axis=-1), np.abs(points.volume)) > 1e3 * TRIVIAL
    good = points.converged & apart & (found >= between[0]) & (found <= between[1])
    y = np.exp(points.u[good, :nc]) * feed[good]
    P, incipient, bubble = out
    place = rows[good]
    P[place], incipient[place] = found[good], y / y.sum(axis=-1, keepdims=True)
    bubble[place] = points.volume[good] > 0.0
