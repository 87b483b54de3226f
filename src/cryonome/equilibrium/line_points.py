"""Points of traced lines: where a line meets a temperature or pressure, where it turns, and where it ends.

Between two traced points a line is a cubic through both with their tangents, made exact by the equations of the
line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from .envelope import Line
from .line_starts import P_MIN
from .pure import boiling_temperature, saturation_pressure
from .quality import TRIVIAL, correct
from .stability import stability
from .wilson import wilson_point

if TYPE_CHECKING:
    from .phase_map import PhaseMap

Array = NDArray[np.float64]

METASTABLE = -1e-6
"""Tangent plane distance of the feed on its own line below which another phase has formed already."""


@dataclass(frozen=True)
class SaturationPoint:
    """A point of given vapour fraction: T K, P Pa, x and y (nc,) normalised."""

    beta: float
    T: float
    P: float
    x: Array
    y: Array


FAR_ABOVE = 30.0
OFFSETS = np.array([0.0, -1.0, -2.0, 1.0, -3.0, -4.5, -6.0, -8.0, -10.0])
"""In ln P, where a point at the lowest pressures is looked for about its estimate."""

LEAST_PRESSURE = 1e-6
"""Pa. A saturation pressure below this is of no use to anyone."""


def below_the_trace(whole: PhaseMap, betas: Sequence[float], T: float | None, P: float | None) -> list[SaturationPoint]:
    """Return the points below the pressure the lines start at, where Wilson's ratios are a good start."""
    if P is not None and P > P_MIN:
        return []
    eos, z, n = whole.eos, whole.z, len(betas)
    at_T = T is not None
    known = np.full(n, T if T is not None else P, dtype=float)
    feeds, fractions = np.broadcast_to(z, (n, z.size)), np.array(betas, float)
    start = wilson_point(eos, feeds, fractions, known, at_T)
    # At such pressures the estimate errs little: what it puts far above them does not lie there.
    low_ones = np.flatnonzero(start[:, -1] < np.log(FAR_ABOVE * P_MIN))
    if low_ones.size == 0:
        return []
    # Both phases are stable within a narrow range about the point alone: of heavy components the estimate may lie
    # outside it.
    column = -1 if at_T else -2
    tries = np.repeat(start[low_ones], OFFSETS.size, axis=0)
    tries[:, column] += np.tile(OFFSETS if at_T else 0.012 * OFFSETS, low_ones.size)
    own = np.repeat(fractions[low_ones], OFFSETS.size)
    spec = np.full(own.size, z.size if at_T else z.size + 1)
    points = correct(eos, np.broadcast_to(z, (own.size, z.size)), own, tries, spec, 40, 2.0)
    good = points.converged & (points.volume > 0.5) & (points.u[:, -1] <= np.log(P_MIN))
    good &= points.u[:, -1] > np.log(LEAST_PRESSURE)
    out = []
    for beta in dict.fromkeys(own.tolist()):
        rows = np.flatnonzero(good & (own == beta))
        if rows.size:
            i = int(rows[0])
            out.append(Node(points.u[i], float(points.volume[i]), 1.0).point(z, beta))
    return out


def among(beta: float, betas: Sequence[float]) -> bool:
    """Tell whether a vapour fraction is one of several, but for its last digits."""
    return any(abs(beta - b) < 1e-12 for b in betas)


@dataclass(frozen=True)
class Node:
    """A point of a line: unknowns u (nc + 2,), ``volume`` and ``side`` as in :class:`Line`."""

    u: Array
    volume: float
    side: float

    def point(self, z: Array, beta: float) -> SaturationPoint:
        """Return the point of a line of fraction beta; beyond a critical point the phases have changed roles."""
        K = np.exp(self.u[:-2])
        x = z / (1.0 + beta * (K - 1.0))
        y = K * x
        x, y = x / x.sum(), y / y.sum()
        T, P = (float(v) for v in np.exp(self.u[-2:]))
        return SaturationPoint(beta, T, P, x, y) if self.side > 0.0 else SaturationPoint(1.0 - beta, T, P, y, x)


def _nodes(line: Line) -> list[Node]:
    return [Node(u, float(v), float(s)) for u, v, s in zip(line.u, line.volume, line.side)]


def _hermite(t: float, left: Array, right: Array, slope_left: Array, slope_right: Array) -> tuple[Array, Array]:
    """Return the cubic through two points with their slopes at t, 0 at the left and 1 at the right one, and its
    derivative in t."""
    u = 1.0 - t
    value = (1.0 + 2.0 * t) * u * u * left + t * u * u * slope_left
    value += t * t * (1.0 + 2.0 * u) * right - t * t * u * slope_right
    rise = 6.0 * t * u * (right - left) + u * (1.0 - 3.0 * t) * slope_left + t * (3.0 * t - 2.0) * slope_right
    return value, rise


def _solve_between(
    whole: PhaseMap, beta: float, first: Node, second: Node, goal: Callable[[Array, Array], float]
) -> Node | None:
    """Return the point between two neighbours of a line where ``goal(u, du/dS)`` is zero.

    S is the unknown that changes most from one to the other; the goal must change sign between them. A critical point
    that lies between them steadies the interpolation where Newton's method cannot work.
    """
    from scipy.optimize import brentq

    eos, z = whole.eos, whole.z
    u0, u1 = first.u, second.u
    crossing = first.side != second.side
    spread = max(np.abs(u0[:-2]).max(), np.abs(u1[:-2]).max())
    if crossing or (spread < 0.4 and max(abs(first.volume), abs(second.volume)) < 1.5):
        change = np.abs(u1[:-2] - u0[:-2])  # next to a critical point only the K values are monotone
    else:
        change = np.abs(u1 - u0) / (0.3 + np.abs(u0))
        change[-2] *= 12.0
    column = int(np.argmax(change))
    j = np.array([column])
    h = float(u1[column] - u0[column])
    pair = np.array([beta, beta])
    light = np.array([first.volume, second.volume])
    ends = correct(eos, np.stack([z, z]), pair, np.stack([u0, u1]), np.repeat(j, 2), 1, light=light)
    s0, s1 = ends.slope
    last: dict[str, Node] = {}

    def between(s: float) -> tuple[Array, Array]:
        value, rise = _hermite((s - u0[column]) / h, u0, u1, h * s0, h * s1)
        return value, rise / h

    bend = np.zeros_like(u0)
    if column < z.size and crossing:
        middle, _ = between(0.0)
        for point in whole.joints:
            exact = np.concatenate([np.zeros(z.size), np.log([point.T, point.P])])
            if np.abs(exact - middle)[-2:].max() < 0.05:
                bend = (exact - middle) / (u0[column] * u1[column]) ** 2

    def at(s: float) -> float:
        guess, slope = between(s)
        left, right = s - u0[column], s - u1[column]
        guess = guess + bend * (left * right) ** 2
        slope = slope + bend * 2.0 * left * right * (left + right)
        guess[column] = s
        side = second.side if crossing and s * u0[column] < 0.0 else first.side
        volume = first.volume + (second.volume - first.volume) * (s - u0[column]) / h
        lean = np.array([volume])
        # A guess that leads nowhere is judged below.
        with np.errstate(all="ignore"):
            points = correct(eos, z[None], pair[:1], guess[None], j, max_iterations=12, largest_step=0.1, light=lean)
        if points.converged[0] and np.abs(points.u[0] - guess).max() < 0.3:
            last["node"] = Node(points.u[0], float(points.volume[0]), side)
            return goal(points.u[0], points.slope[0])
        if np.abs(guess[:-2]).max() > 0.05 or not crossing:
            raise ArithmeticError
        # Beside the critical point Newton's matrix is singular; the polynomial through both sides and the point stands.
        last["node"] = Node(guess, volume, side)
        return goal(guess, slope)

    try:
        root = brentq(at, float(u0[column]), float(u1[column]), xtol=1e-12, rtol=1e-12, maxiter=60)
        # The root need not be what was tried last: it may be one of the ends.
        at(root)
    except (ArithmeticError, ValueError, RuntimeError):
        return None
    return last["node"]


def extremes(whole: PhaseMap, column: int) -> tuple[SaturationPoint, ...]:
    """Return every point at which a line turns back from the highest temperature (column -2) or pressure (-1) about,
    the highest first; what another phase upsets only where there is nothing else, and then the highest alone."""
    found: list[SaturationPoint] = []
    for line in whole.lines:
        v = line.u[:, column] if len(line.u) else np.empty(0)
        for i in (np.flatnonzero((v[1:-1] >= v[:-2]) & (v[1:-1] > v[2:])) + 1).tolist():
            nodes = [Node(line.u[k], float(line.volume[k]), float(line.side[k])) for k in (i - 1, i, i + 1)]
            for a, b in ((0, 1), (1, 2), (0, 2)):
                top = _solve_between(whole, line.beta, nodes[a], nodes[b], lambda _u, s: float(s[column]))
                if top is not None and top.u[column] >= float(v[i]) - 1e-9:
                    found.append(top.point(whole.z, line.beta))
                    break
    if not found:
        return ()
    unique: list[SaturationPoint] = []
    for point in sorted(found, key=lambda p: -(p.T if column == -2 else p.P)):
        if all(abs(point.T / q.T - 1.0) > 1e-4 or abs(point.P / q.P - 1.0) > 1e-3 for q in unique):
            unique.append(point)
    T, P = np.array([p.T for p in unique]), np.array([p.P for p in unique])
    upset = stability(whole.eos, T, P, np.tile(whole.z, (T.size, 1)), every_trial=True).tm < METASTABLE
    return tuple(p for p, u in zip(unique, upset) if not u) or (unique[0],)


def surpassed(whole: PhaseMap, column: int, top: SaturationPoint) -> bool:
    """Tell whether any line lies beyond an extreme: at no lower temperature, where that of pressure is meant."""
    height, edge = np.log(top.T if column == -2 else top.P), np.log(top.T)
    for line in whole.lines:
        if len(line.u):
            beyond = line.u[:, column] > height + 1e-6
            if (beyond if column == -2 else beyond & (line.u[:, -2] > edge - 1e-6)).any():
                return True
    return False


def tail_beyond(whole: PhaseMap, column: int, top: SaturationPoint) -> SaturationPoint | None:
    """Return the end of a line, cut while it rises, that lies beyond ``top``, the highest; None where there is none."""
    height = np.log(top.T if column == -2 else top.P)
    ends = [(line, int(np.argmax(line.u[:, column]))) for line in whole.lines if len(line.u)]
    beyond = [(line, i) for line, i in ends if line.u[i, column] > height + 1e-9]
    if not beyond:
        return None
    line, i = max(beyond, key=lambda b: float(b[0].u[b[1], column]))
    return Node(line.u[i], float(line.volume[i]), float(line.side[i])).point(whole.z, line.beta)


def line_crossings(whole: PhaseMap, line: Line, column: int, value: float) -> list[SaturationPoint]:
    """Return the points at which a line has a ``value`` of ln T (column -2) or of ln P (-1), by the line. Raises nothing:
    where the equations of the line have no solution between two points there is none."""
    found: list[SaturationPoint] = []
    for first, second in pairwise(_nodes(line)):
        v0, v1 = first.u[column], second.u[column]
        hits: list[Node | None] = []
        if (v0 - value) * (v1 - value) <= 0.0 and v0 != v1:
            hits = [_solve_between(whole, line.beta, first, second, lambda p, _s: float(p[column] - value))]
        elif max(v0, v1) < value:
            hits = _crossings_over_the_top(whole, line, first, second, column, value)
        for hit in hits:
            if hit is not None and max(np.abs(hit.u[:-2]).max(), abs(hit.volume)) > TRIVIAL:
                found.append(hit.point(whole.z, line.beta))
    return found


SUMMIT = 0.01
"""How far, in ln T or ln P, the summit of a line may lie above the higher of the traced points beside it."""


def _crossings_over_the_top(
    whole: PhaseMap, line: Line, first: Node, second: Node, column: int, value: float
) -> list[Node | None]:
    """Return the two crossings of an interval that holds a solved extreme above ``value``, else nothing.

    The solved extremes are points of the line too; without them a pair of crossings near one would be missed.
    """
    if 0.0 < line.beta < 1.0 or whole.bare:
        # Of an inner line no extreme is known; one between two points lies little above the higher.
        if value - max(first.u[column], second.u[column]) > SUMMIT:
            return []
    else:
        top = whole.cricondentherm if column == -2 else whole.cricondenbar
        if top is None:
            return []
        peak = np.log(top.T if column == -2 else top.P)
        other = np.log(top.P if column == -2 else top.T)
        across = -1 if column == -2 else -2
        low, high = sorted((first.u[across], second.u[across]))
        if not (peak > value and low <= other <= high):
            return []
    summit = _solve_between(whole, line.beta, first, second, lambda _p, s: float(s[column]))
    if summit is None or summit.u[column] <= value:
        return []
    return [
        _solve_between(whole, line.beta, a, b, lambda p, _s: float(p[column] - value))
        for a, b in ((first, summit), (summit, second))
    ]


def pure_crossing(eos: Equation, betas: Sequence[float], T: float | None, P: float | None) -> list[SaturationPoint]:
    """Return the points of one component\'s vapour pressure at T K or at P Pa, one for each vapour fraction; none above
    the critical point."""
    one = np.ones(1)
    if T is not None:
        P = float(saturation_pressure(eos, np.array([T]))[0])
    else:
        assert P is not None
        T = float(boiling_temperature(eos, np.array([P]))[0])
    if not (np.isfinite(P) and np.isfinite(T)):
        return []
    return [SaturationPoint(float(b), float(T), float(P), one, one) for b in betas]
