"""States of a given vapour fraction and a measured quantity: looked for along the traced line of the fraction, batched.

A line may meet the quantity several times; every solution is found between two traced points and refined there with the
equations of the line.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .line_states import two_phases
from .measured import ACCEPTED, Fluids, deviation, gather
from .one_known import Found
from .phase_map import PhaseMap, phase_map
from .phases import Phases
from .pure_line import nowhere, on_pure_line
from .quality import compositions, correct

Array = NDArray[np.float64]
Rows = NDArray[np.intp]


@dataclass(frozen=True)
class _Stretches:
    """Stretches between neighbours of traced lines: unknowns at both ends (M, nc + 2), fraction the line was traced
    with and that of its states (M,), and the lean of the phases there (M,)."""

    first: Array
    second: Array
    traced: Array
    beta: Array
    lean: Array


def solve_on_fraction(fluids: Fluids, fraction: Array, key: str, target: Array, watch: Watch = UNWATCHED) -> Found:
    """Return the states of vapour ``fraction`` (N,) where the quantity ``key`` is ``target`` (N,); of several the
    coldest.

    One line is traced for each distinct feed, fraction and set of parameters.
    """
    n = fraction.size
    if fluids.z.shape[1] == 1:
        return on_pure_line(fluids, {"vapour_fraction": fraction, key: target})
    sets = np.arange(n) if fluids.eos.batched else np.zeros(n)
    feeds, group = np.unique(np.column_stack([fluids.z, fraction, sets]), axis=0, return_inverse=True)
    parts: list[tuple[Rows, Phases]] = []
    others: list[tuple[tuple[float, float], ...]] = [()] * n
    for number, feed in enumerate(feeds):
        rows = np.flatnonzero(group.ravel() == number)
        one, z, beta = fluids.eos.single(int(feed[-1])), feed[:-2], float(feed[-2])
        here = Fluids(one, z[None], fluids.whole)
        part = watch.part(number / len(feeds), (number + 1) / len(feeds))
        inner = (beta,) if 0.0 < beta < 1.0 else ()
        found = _on_lines(here, phase_map(one, z, inner, part.part(0.0, 0.8)), beta, key, target[rows])
        parts.append((rows, found.phases))
        for row, more in zip(rows.tolist(), found.others):
            others[row] = more
    return Found(gather(n, parts), tuple(others))


def _state(eos: Equation, z: Array, u: Array, traced: Array, beta: Array) -> Phases:
    """Return the states of unknowns u (M, nc + 2) traced with a fraction (M,), their phases in order."""
    first, second = compositions(u, np.broadcast_to(z, (len(u), z.size)), traced)
    first, second = (v / v.sum(axis=-1, keepdims=True) for v in (first, second))
    turned = (traced != beta)[:, None]
    x, y = np.where(turned, second, first), np.where(turned, first, second)
    return two_phases(eos, z, np.exp(u[:, -2]), np.exp(u[:, -1]), beta, x, y)


@dataclass(frozen=True)
class _Along:
    """A quantity ``key`` along a line of the fraction ``beta`` that was traced with the fraction ``traced``."""

    fluids: Fluids
    eos: Equation
    z: Array
    traced: float
    beta: float
    key: str

    def at(self, u: Array) -> Array:
        """Return the quantity at points u (M, nc + 2) of the line, (M,)."""
        m = len(u)
        state = _state(self.eos, self.z, u, np.full(m, self.traced), np.full(m, self.beta))
        return self.fluids.whole(state, (self.key,))[self.key]

    def corrected(self, u: Array, column: int, lean: float) -> Array | None:
        """Return the point of the line near u (nc + 2,) with its unknown ``column`` held, None where there is none."""
        spec = np.array([column])
        found = correct(self.eos, self.z[None], np.array([self.traced]), u[None], spec, 12, 0.1, np.array([lean]))
        return found.u[0] if found.converged[0] and np.abs(found.u[0] - u).max() < 0.3 else None


def _with_summits(line: _Along, u: Array, volume: Array, target: Array) -> tuple[Array, Array, Array]:
    """Return points (n, nc + 2), leans (n,) and values (n,) of a line with the turning points of the quantity among
    them that a target may lie beside: between two traced points it rises above both."""
    w = line.at(u)
    turns = np.flatnonzero((w[1:-1] - w[:-2]) * (w[2:] - w[1:-1]) < 0.0) + 1
    tops: list[tuple[int, Array, float, float]] = []
    for i in turns.tolist():
        up = 1.0 if w[i] > w[i - 1] else -1.0
        # A parabola through three points tops the highest of them by at most an eighth of the larger drop.
        reach = 0.3 * max(abs(w[i] - w[i - 1]), abs(w[i] - w[i + 1]))
        beyond = up * (target - w[i])
        top = (
            _summit(line, u[i - 1 : i + 2], float(volume[i]), up) if ((beyond > 0.0) & (beyond < reach)).any() else None
        )
        if top is not None:
            place = i if (top[0] - u[i]) @ (u[i - 1] - u[i]) > 0.0 else i + 1
            tops.append((place, top[0], float(volume[i]), top[1]))
    for place, point, lean, value in reversed(tops):
        u, volume, w = np.insert(u, place, point, axis=0), np.insert(volume, place, lean), np.insert(w, place, value)
    return u, volume, w


def _summit(line: _Along, around: Array, lean: float, up: float) -> tuple[Array, float] | None:
    """Return the point between three of a line (3, nc + 2) where the quantity turns, and its value there."""
    from scipy.optimize import minimize_scalar

    steps = np.diff(around, axis=0)
    size = np.abs(around[2] - around[0]) / (0.1 + np.abs(around[1]))
    column = int(np.argmax(np.where(steps[0] * steps[1] > 0.0, size, -1.0)))
    x = around[:, column]
    best: dict[str, tuple[Array, float]] = {}

    def fall(v: float) -> float:
        weights = [np.prod([(v - x[j]) / (x[i] - x[j]) for j in range(3) if j != i]) for i in range(3)]
        point = line.corrected(np.array(weights) @ around, column, lean)
        if point is None:
            return np.inf
        value = float(line.at(point[None])[0])
        if "top" not in best or up * value > up * best["top"][1]:
            best["top"] = point, value
        return -up * value

    minimize_scalar(fall, bounds=(min(x[0], x[2]), max(x[0], x[2])), method="bounded", options={"xatol": 1e-9})
    return best.get("top")


def _on_lines(fluids: Fluids, whole: PhaseMap, beta: float, key: str, target: Array) -> Found:
    from scipy.optimize.elementwise import find_root

    eos, z = whole.eos, whole.z
    pieces: list[_Stretches] = []
    values: list[Array] = []
    for part in whole.parts:
        if abs(part.beta - beta) > 1e-12 or len(part.u) < 2:
            continue
        traced = 1.0 - beta if part.side[0] < 0.0 else beta
        u, volume, w = _with_summits(_Along(fluids, eos, z, traced, beta, key), part.u, part.volume, target)
        values.append(np.stack([w[:-1], w[1:]], axis=-1))
        m = len(u) - 1
        pieces.append(_Stretches(u[:-1], u[1:], np.full(m, traced), np.full(m, beta), volume[1:]))
    if not pieces:
        return _found(fluids, z, np.empty((0, z.size + 2)), np.empty(0), np.empty(0), np.empty(0, np.intp), target.size)
    s = _Stretches(*(np.concatenate([getattr(p, k) for p in pieces]) for k in _Stretches.__dataclass_fields__))
    ends = np.concatenate(values)
    with np.errstate(invalid="ignore"):
        owner, place = np.nonzero((ends[:, 0] - target[:, None]) * (ends[:, 1] - target[:, None]) <= 0.0)
    u0, u1 = s.first[place], s.second[place]
    # The unknown that changes most along the stretch is the one to search in.
    column = np.argmax(np.abs(u1 - u0) / (0.1 + np.abs(u0)), axis=-1)
    pick = np.arange(place.size)
    out = np.full(u0.shape, np.nan)

    def off(v: Array, k: Rows) -> Array:
        row = k.astype(np.intp)
        j = column[row]
        a, b = u0[row], u1[row]
        i = np.arange(row.size)
        share = (v - a[i, j]) / (b[i, j] - a[i, j])
        guess = a + share[:, None] * (b - a)
        guess[i, j] = v
        zz = np.broadcast_to(z, (row.size, z.size))
        at = place[row]
        points = correct(eos, zz, s.traced[at], guess, j, 12, 0.1, light=s.lean[at])
        # Beside a critical point Newton's matrix is singular: there the chord of two near points stands.
        good = points.converged & (np.abs(points.u - guess).max(axis=-1) < 0.3)
        u = np.where(good[:, None], points.u, guess)
        out[row] = u
        state = _state(eos, z, u, s.traced[at], s.beta[at])
        return deviation(key, fluids.whole(state, (key,))[key], target[owner[row]], state.T)

    if place.size:
        found = find_root(
            off, (u0[pick, column], u1[pick, column]), args=(pick,), tolerances={"xatol": 1e-14, "xrtol": 1e-14}
        )
        x = found.x
        # A state that is a traced point itself has no change of sign beside it, to the last digit.
        for end in (u0[pick, column], u1[pick, column]):
            lost = ~(np.abs(off(x, pick)) < ACCEPTED)
            x = np.where(lost, end, x)
        good = np.abs(off(x, pick)) < ACCEPTED
        out, owner, place = out[good], owner[good], place[good]
    return _found(fluids, z, out, s.traced[place], s.beta[place], owner, target.size)


def _found(fluids: Fluids, z: Array, u: Array, traced: Array, beta: Array, owner: Rows, n: int) -> Found:
    """Return for each of n wanted states the coldest of the points u (M, nc + 2) that belong to it by ``owner``."""
    order = np.lexsort((u[:, -2], owner))
    u, traced, beta, owner = u[order], traced[order], beta[order], owner[order]
    first = np.full(n, -1)
    others: list[tuple[tuple[float, float], ...]] = [()] * n
    for row in np.unique(owner).tolist():
        own = np.flatnonzero(owner == row)
        first[row] = own[0]
        rest = [i for i in own[1:] if np.abs(u[i, -2:] - u[own[0], -2:]).max() > 1e-7]
        others[row] = tuple((float(np.exp(u[i, -2])), float(np.exp(u[i, -1]))) for i in rest)
    parts: list[tuple[Rows, Phases]] = []
    there, lost = np.flatnonzero(first >= 0), np.flatnonzero(first < 0)
    if there.size:
        take = first[there]
        parts.append((there, _state(fluids.eos, z, u[take], traced[take], beta[take])))
    if lost.size:
        parts.append((lost, nowhere(z, lost.size)))
    return Found(gather(n, parts), tuple(others))
