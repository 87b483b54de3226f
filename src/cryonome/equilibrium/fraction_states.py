"""States of a vapour fraction at a temperature or a pressure, among up to three phases, the lowest of several: the
one way to all of them.

Newton's method from Wilson's ratios finds the points of two phases. Where the traced lines tell that there may be
several, or none, they are looked up there; and a point that a third phase upsets is none: the state is then looked
for among all phases."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .fraction_flash import flash_fraction
from .line_points import METASTABLE, SaturationPoint
from .line_states import two_phases
from .measured import Fluids, gather
from .multiphase import with_third
from .one_known import Found, solve_one
from .phase_map import PhaseMap, phase_map
from .phases import Phases
from .stability import stability

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Rows = NDArray[np.intp]

SAME = 1e-9
"""Difference of vapour fractions up to which a third phase has not upset a point of a line."""
EDGE = 1e-7
"""Vapour fraction that stands for none, and its complement for all."""


def fraction_states(
    eos: Equation, z: Array, beta: Array, T: Array | None, P: Array | None, watch: Watch = UNWATCHED
) -> Found:
    """Return the states of feeds z (N, nc), normalised, of vapour fractions ``beta`` (N,) at T (N,) K or at P (N,)
    Pa, whichever is given; of several the one of the lowest pressure or temperature. Raises Cancelled."""
    n = beta.size
    two = flash_fraction(eos, z, beta, T, P, watch.part(0.0, 0.4))
    if z.shape[1] == 1:
        return Found(two, ((),) * n)
    known = np.asarray(P if T is None else T)
    two = _lowest(eos, z, beta, known, T is not None, two, watch.part(0.4, 0.7))
    upset = np.flatnonzero(~two.converged | ~not_upset(eos, two, beta))
    others: list[tuple[tuple[float, float], ...]] = [()] * n
    if upset.size == 0:
        return Found(two, tuple(others))
    found = among_three(eos.take(upset), z[upset], beta[upset], known[upset], T is not None, watch.part(0.7, 1.0))
    for row, more in zip(upset.tolist(), found.others):
        others[row] = more
    rest = np.setdiff1d(np.arange(n), upset)
    parts = [(upset, found.phases), *([(rest, two.take(rest))] if rest.size else [])]
    return Found(gather(n, parts), tuple(others))


def not_upset(eos: Equation, two: Phases, beta: Array) -> Mask:
    """Tell which states (N,) of two phases and a vapour fraction no third phase upsets."""
    out = np.zeros(beta.size, dtype=bool)
    rows = np.flatnonzero(two.converged)
    if rows.size == 0:
        return out
    there = with_third(eos.take(rows), two.take(rows))
    good = there.converged & (np.abs(there.vapour_fraction - two.take(rows).vapour_fraction) < SAME)
    # Where vapour begins or ends, its fraction does not tell that another phase came first.
    ends = np.flatnonzero(good & ((beta[rows] == 0.0) | (beta[rows] == 1.0)))
    if ends.size:
        at = rows[ends]
        test = stability(eos.take(at), two.T[at], two.P[at], two.z[at], every_trial=True)
        good[ends[test.tm < METASTABLE]] = False
    out[rows] = good
    return out


def among_three(eos: Equation, z: Array, beta: Array, known: Array, at_T: bool, watch: Watch = UNWATCHED) -> Found:
    """Return the states of vapour fractions (N,) at ``known`` T or P (N,) where up to three phases may be, and the
    others there are."""

    def whole(phases: Phases, keys: Sequence[str]) -> Mapping[str, Array]:
        return {"vapour_fraction": phases.vapour_fraction}

    # Vapour begins and ends at a point where its fraction has a corner: a hair inside is as good.
    target = np.clip(beta, EDGE, 1.0 - EDGE)
    return solve_one(Fluids(eos, z, whole), "T" if at_T else "P", known, "vapour_fraction", target, watch=watch)


def at_points(eos: Equation, z: Array, points: Sequence[SaturationPoint]) -> Phases:
    """Return points of traced lines as states (n,) of two phases."""
    T, P, beta = (np.array([getattr(p, k) for p in points]) for k in ("T", "P", "beta"))
    x, y = (np.array([getattr(p, k) for p in points]).reshape(len(points), z.size) for k in ("x", "y"))
    return two_phases(eos, z, T, P, beta, x, y)


def _lowest(eos: Equation, z: Array, beta: Array, known: Array, at_T: bool, two: Phases, watch: Watch) -> Phases:
    """Return the states with those that may have rivals looked up on the traced lines."""
    sets = np.arange(beta.size) if eos.batched else np.zeros(beta.size)
    feeds, group = np.unique(np.column_stack([z, sets]), axis=0, return_inverse=True)
    # A feed of its own for each state is asked for its one point, as Newton's method has it.
    if len(feeds) > 1 and len(feeds) > beta.size // 2:
        return two
    for number, feed in enumerate(feeds):
        part = watch.part(number / len(feeds), (number + 1) / len(feeds))
        rows, one = np.flatnonzero(group.ravel() == number), eos.single(int(feed[-1]))
        whole = phase_map(one, feed[:-1], watch=part.part(0.0, 0.5))
        doubtful = rows[_rivals(whole, beta[rows], known[rows], at_T) | ~two.converged[rows]]
        for fraction in np.unique(beta[doubtful]).tolist():
            inner = (fraction,) if 0.0 < fraction < 1.0 else ()
            lines = phase_map(one, feed[:-1], inner, part.part(0.5, 1.0)) if inner else whole
            for row in doubtful[beta[doubtful] == fraction].tolist():
                points = lines.crossings([fraction], **{"T" if at_T else "P": float(known[row])})
                if points:
                    low = min(points, key=lambda p: p.P if at_T else p.T)
                    two = two.with_rows(np.array([row]), at_points(one, feed[:-1], [low]))
    return two


def _rivals(whole: PhaseMap, beta: Array, known: Array, at_T: bool) -> Mask:
    """Tell where a fraction may be met more than once, or never: not where a line from liquid to vapour passes both
    phase boundaries once."""
    bubble, dew = (_passed(whole, b, known, at_T) for b in (0.0, 1.0))
    both = (bubble == 1) & (dew == 1)
    return np.asarray(np.where(beta == 0.0, bubble != 1, np.where(beta == 1.0, dew != 1, ~both)))


def _passed(whole: PhaseMap, beta: float, known: Array, at_T: bool) -> NDArray[np.intp]:
    """Return how often the line of a fraction passes each of ``known`` (N,) T or P; once where it begins above it in
    the cold."""
    out = np.zeros(known.size, dtype=np.intp)
    least = np.inf
    for part in whole.parts:
        if abs(part.beta - beta) > 1e-12 or not len(part.u):
            continue
        along = part.u[:, -2 if at_T else -1]
        least = min(least, float(along.min()))
        above = along > np.log(known)[:, None]
        out += (above[:, 1:] != above[:, :-1]).sum(axis=1)
    return np.where((out == 0) & (np.log(known) < least), 1, out)
