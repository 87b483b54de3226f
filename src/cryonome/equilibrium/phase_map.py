"""The phase envelope of a feed as a whole: lines, critical points, extremes, and where a T or P meets them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..remarks import Remark, Value, kelvin, pascal
from ..watch import UNWATCHED, Watch
from .critical import CriticalPoint, critical_point
from .envelope import (
    LOW_PRESSURE,
    LOW_TEMPERATURE,
    NO_START,
    NOT_NEEDED,
    PRESSURE_LIMIT,
    STUCK,
    Line,
    split_at_critical,
    trace,
)
from .line_starts import P_MIN, STARTS, dew_starts
from .pure import boiling_temperature, saturation_pressure
from .quality import TRIVIAL, compositions, correct
from .refined import refined
from .stability import KnownPhase, stability
from .wilson import wilson_point

Array = NDArray[np.float64]


@dataclass(frozen=True)
class SaturationPoint:
    """A point of given vapour fraction: T K, P Pa, x and y (nc,) normalised."""

    beta: float
    T: float
    P: float
    x: Array
    y: Array


@dataclass(frozen=True)
class PhaseMap:
    """The traced lines of one feed.

    ``lines`` as traced; ``parts`` the same cut at critical points, each of one vapour fraction; ``stable`` for each
    part which of its points no third phase upsets (bubble and dew lines; all true for the others);
    ``critical_points`` where no other phase has formed; ``cricondentherm`` and ``cricondenbar`` solved for, None
    where the envelope has none, and ``others`` where a line turns as well; ``joints`` every point at which two traced
    phases become one, critical or not; ``remarks`` what a reader must know. A ``bare`` map has nothing but its lines:
    crossings can be asked of it, away from critical points."""

    eos: Equation
    z: Array
    lines: tuple[Line, ...]
    parts: tuple[Line, ...]
    stable: tuple[NDArray[np.bool_], ...]
    critical_points: tuple[CriticalPoint, ...]
    cricondentherm: SaturationPoint | None
    cricondenbar: SaturationPoint | None
    remarks: tuple[Remark, ...]
    bare: bool = False
    others: tuple[tuple[str, SaturationPoint], ...] = ()
    joints: tuple[CriticalPoint, ...] = ()

    def crossings(
        self, betas: Sequence[float], T: float | None = None, P: float | None = None
    ) -> list[SaturationPoint]:
        """Return every point of the given fractions at temperature T or at pressure P, by rising P or T."""
        if self.z.size == 1:
            return _pure_crossing(self.eos, betas, T, P)
        column, value = (-2, np.log(T)) if T is not None else (-1, np.log(P if P is not None else np.nan))
        found: list[SaturationPoint] = []
        for line in self.lines:
            found += [p for p in _line_crossings(self, line, column, float(value)) if _among(p.beta, betas)]
        found += _below_the_trace(self, betas, T, P)
        unique: list[SaturationPoint] = []
        for point in sorted(found, key=lambda p: (p.P, p.T)):
            same = any(
                _among(point.beta, [q.beta]) and abs(point.T - q.T) < 1e-4 * q.T and abs(point.P - q.P) < 1e-4 * q.P
                for q in unique
            )
            if not same:
                unique.append(point)
        return unique

    def with_lines(self, lines: Sequence[Line]) -> PhaseMap:
        """Return the map with the ``lines`` of inner fractions beside its own."""
        # A line stopped just beyond the critical point keeps that one point out of its plot.
        parts = [split_at_critical(line)[0] for line in lines]
        if not self.bare:
            parts = [part for part, _ in refined(self.eos, self.z, parts, self.joints)]
        return replace(
            self,
            lines=(*self.lines, *lines),
            parts=(*self.parts, *parts),
            stable=(*self.stable, *_stable_inner(self.eos, self.z, parts)),
            remarks=(*self.remarks, *_ends(lines)),
        )


FAR_ABOVE = 30.0
OFFSETS = np.array([0.0, -1.0, -2.0, 1.0, -3.0, -4.5, -6.0, -8.0, -10.0])
"""In ln P, where a point at the lowest pressures is looked for about its estimate."""

LEAST_PRESSURE = 1e-6
"""Pa. A saturation pressure below this is of no use to anyone."""


def _below_the_trace(
    whole: PhaseMap, betas: Sequence[float], T: float | None, P: float | None
) -> list[SaturationPoint]:
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
            out.append(_Node(points.u[i], float(points.volume[i]), 1.0).point(z, beta))
    return out


def _among(beta: float, betas: Sequence[float]) -> bool:
    return any(abs(beta - b) < 1e-12 for b in betas)


def phase_map(eos: Equation, z: Array, fractions: Sequence[float] = (0.0, 1.0), watch: Watch = UNWATCHED) -> PhaseMap:
    """Trace the envelope of z (nc,) and the lines of the inner ``fractions``, all in one batch.

    Bubble and dew line come from one trace from the dew side through the critical point; where that ends before the
    bubble side, another starts there. Every critical point crossed is solved for. ``eos`` is of this one feed, so its
    parameters carry no batch axis. Raises ValueError where they carry one, Cancelled where ``watch`` says so."""
    z = np.asarray(z, float) / np.sum(z)
    if eos.batched:
        raise ValueError("an envelope is of one fluid: take one set of parameters (Equation.single)")
    if z.size == 1:
        return _pure_map(eos, z)
    inner = sorted({f for f in fractions if 0.0 < f < 1.0})
    lines, quality = _envelope_lines(eos, z, inner, watch.part(0.0, 0.8))
    return completed(eos, z, lines, watch.part(0.8, 1.0)).with_lines(quality)


def completed(eos: Equation, z: Array, lines: Sequence[Line], watch: Watch = UNWATCHED) -> PhaseMap:
    """Return the map of z (nc,) from its traced bubble and dew ``lines``: critical points and extremes solved,
    stability tested."""
    parts: list[Line] = []
    estimates: list[tuple[float, float]] = []
    for line in lines:
        pieces = split_at_critical(line)
        for before, after in pairwise(pieces):
            weight = np.abs(before.u[-1, :-2]).max()
            other = np.abs(after.u[0, :-2]).max()
            middle = (before.u[-1] * other + after.u[0] * weight) / (weight + other)
            estimates.append((float(np.exp(middle[-2])), float(np.exp(middle[-1]))))
        parts += pieces
    critical = _distinct(critical_point(eos, z, *estimate) for estimate in estimates)
    if not critical:
        guess = _hottest(lines)
        direct = critical_point(eos, z, *guess) if guess else None
        if direct and direct.P > 0.0:
            critical = [direct]
    stable = _stable_points(eos, z, parts, watch)
    joints = tuple(critical)
    critical, upset = _stable_critical(eos, z, critical)
    whole = PhaseMap(eos, z, tuple(lines), tuple(parts), tuple(stable), tuple(critical), None, None, (), joints=joints)
    remarks = [*_ends(lines), *_metastable_remarks(parts, stable)]
    if not critical:
        remarks.append(Remark("warning", "map.no_critical", "map"))
    for point in upset:
        values: dict[str, Value] = {"T": kelvin(point.T), "P": pascal(point.P)}
        remarks.append(Remark("warning", "map.false_critical", "map", values))
    best: list[SaturationPoint | None] = []
    more: list[tuple[str, SaturationPoint]] = []
    for column, name in ((-2, "cricondentherm"), (-1, "cricondenbar")):
        turns = _extremes(whole, column)
        # A line that is cut while it still rises leaves the extreme unknown, unless it rises beyond it only where it
        # is colder: there liquids part in the cold,
        # and the turn of vapour and liquid is the one to go by.
        first = next((p for p in turns if not _surpassed(whole, column, p)), None)
        tail = _tail(whole, column, first) if first is not None else None
        best.append(first)
        more += [(name, p) for p in turns if p is not first]
        if first is None:
            remarks.append(Remark("warning", f"map.no_{name}", "map"))
        elif tail is not None:
            told: dict[str, Value] = {
                "P": pascal(first.P),
                "T": kelvin(first.T),
                "end_P": pascal(tail.P),
                "end_T": kelvin(tail.T),
            }
            remarks.append(Remark("warning", "map.tail", "map", told))
    for name, p in more:
        remarks.append(Remark("estimate", f"map.other_{name}", "map", {"T": kelvin(p.T), "P": pascal(p.P)}))
    finer = refined(eos, z, parts, joints, watch)
    # A point between two is stable where both are.
    known = [g[np.floor(at).astype(int)] & g[np.ceil(at).astype(int)] for g, (_, at) in zip(stable, finer)]
    return replace(
        whole,
        parts=tuple(part for part, _ in finer),
        stable=tuple(known),
        cricondentherm=best[0],
        cricondenbar=best[1],
        others=tuple(more),
        remarks=tuple(remarks),
    )


def _stable_critical(
    eos: Equation, z: Array, points: list[CriticalPoint]
) -> tuple[list[CriticalPoint], list[CriticalPoint]]:
    """Return the critical points at which no other phase has formed, and the others."""
    if not points or z.size == 1:
        return points, []
    T, P = (np.array([getattr(p, k) for p in points]) for k in ("T", "P"))
    test = stability(eos, T, P, np.tile(z, (T.size, 1)), every_trial=True)
    good = test.tm >= METASTABLE
    return [p for p, g in zip(points, good) if g], [p for p, g in zip(points, good) if not g]


def _envelope_lines(eos: Equation, z: Array, inner: list[float], watch: Watch) -> tuple[list[Line], list[Line]]:
    """Trace dew and bubble line towards each other with the ``inner`` lines beside them; return envelope and inner
    lines.

    Where the two do not meet and the dew line does not lead to the bubble side by itself, the bubble line is one of
    its own. A start of the dew line in the cold may lie on the limit of two liquids and lead nowhere; then a start at
    higher pressure is tried."""
    dews = dew_starts(eos, z, STARTS, watch)
    count = max(len(dews), 1)
    betas = np.array([*[1.0] * count, 0.0, *inner])
    # An inner line is followed up to the critical point only.
    found = trace(eos, z, betas, np.arange(betas.size) > count, watch.part(0.0, 0.6), dews=dews)
    lines, bubble, quality = found[:count], found[count], found[count + 1 :]
    # The line through the critical point comes first; of others the hottest.
    lines.sort(key=lambda line: not _passed(line))
    if not _passed(lines[0]) and not any(line.reason == PRESSURE_LIMIT for line in lines):
        for start in (2.0e5, 1.0e6):
            line = trace(eos, z, np.ones(1), np.zeros(1, dtype=bool), watch.part(0.0, 0.6), (start,))[0]
            if _passed(line) or line.reason == PRESSURE_LIMIT:
                # What the first start found stays: it holds the low pressures.
                lines = [line, *lines]
                break
    if not (_passed(lines[0]) and lines[0].reason in (LOW_PRESSURE, LOW_TEMPERATURE)):
        if bubble.reason in (NO_START, NOT_NEEDED):
            bubble = trace(eos, z, np.zeros(1), np.zeros(1, dtype=bool), watch.part(0.6, 1.0))[0]
        lines += [bubble] if len(bubble.u) > 1 else []
    return lines, quality


def _passed(line: Line) -> bool:
    """Tell whether a line was followed through a critical point."""
    return bool((line.side < 0.0).any())


def with_fractions(whole: PhaseMap, fractions: Sequence[float], watch: Watch = UNWATCHED) -> PhaseMap:
    """Return the map with the lines of the inner ``fractions`` traced as well, each up to the critical point."""
    inner = sorted({f for f in fractions if 0.0 < f < 1.0} - {line.beta for line in whole.lines})
    if not inner or whole.z.size == 1:
        return whole
    return whole.with_lines(trace(whole.eos, whole.z, np.array(inner), np.ones(len(inner), dtype=bool), watch))


def _ends(lines: Sequence[Line]) -> list[Remark]:
    """Return a remark about every line that ended where a reader would not expect it."""
    out = []
    for line in lines:
        if line.reason == NO_START:
            out.append(Remark("warning", "map.no_start", "map", {"fraction": line.beta}))
        elif line.reason in (STUCK, PRESSURE_LIMIT):
            code = "map.stuck" if line.reason == STUCK else "map.pressure_limit"
            where: dict[str, Value] = {"fraction": line.beta, "T": kelvin(line.T[-1]), "P": pascal(line.P[-1])}
            out.append(Remark("warning", code, "map", where))
    return out


METASTABLE = -1e-6
"""Tangent plane distance of the feed on its own line below which another phase has formed already."""


def _stable_points(eos: Equation, z: Array, parts: list[Line], watch: Watch) -> list[NDArray[np.bool_]]:
    """Tell for every part of the bubble and dew lines which points are stable, in one test of them all."""
    if not any(len(p.u) for p in parts):
        return [np.ones(len(p.u), dtype=bool) for p in parts]
    T, P = np.concatenate([p.T for p in parts]), np.concatenate([p.P for p in parts])
    # The incipient phase itself lies at no distance: what is looked for lies deeper.
    feeds = np.ascontiguousarray(np.broadcast_to(z, (T.size, z.size)))
    state = eos.prepare(T, P)
    forming = np.concatenate([incipient(part, z) for part in parts if len(part.u)])
    known = KnownPhase(forming, state.ln_phi(forming)[1])
    test = stability(eos, T, P, feeds, watch=watch, below=METASTABLE, known=[known])
    return np.split(test.tm > METASTABLE, np.cumsum([len(p.u) for p in parts])[:-1])


UNLIKE = 0.06
"""Interaction parameter with most others from which on a component may have a liquid of its own."""


def _stable_inner(eos: Equation, z: Array, parts: Sequence[Line]) -> list[NDArray[np.bool_]]:
    """Tell for every part of lines between bubble and dew lines which points no third phase upsets; none where all
    components are alike."""
    if z.size < 3 or not (eos.unlikeness()[z > 0.0] > UNLIKE).any() or not any(len(p.u) for p in parts):
        return [np.ones(len(p.u), dtype=bool) for p in parts]
    T, P = np.concatenate([p.T for p in parts]), np.concatenate([p.P for p in parts])
    both = [compositions(p.u, z, np.full(len(p.u), p.beta)) for p in parts if len(p.u)]
    x, y = (np.concatenate([b[k] / b[k].sum(axis=-1, keepdims=True) for b in both]) for k in (0, 1))
    known = KnownPhase(y, eos.prepare(T, P).ln_phi(y)[1])
    test = stability(eos, T, P, np.ascontiguousarray(x), below=METASTABLE, known=[known])
    return np.split(test.tm > METASTABLE, np.cumsum([len(p.u) for p in parts])[:-1])


def incipient(part: Line, z: Array) -> Array:
    """Return the phase that just forms at every point of a bubble or dew line, (n, nc)."""
    # Beyond a critical point the traced line keeps the fraction it began with.
    beta = part.beta if part.side[0] > 0.0 else 1.0 - part.beta
    x, y = compositions(part.u, z, np.full(len(part.u), beta))
    forming = y if beta == 0.0 else x
    return np.asarray(forming / forming.sum(axis=-1, keepdims=True))


def _metastable_remarks(parts: list[Line], stable: list[NDArray[np.bool_]]) -> list[Remark]:
    out = []
    for part, good in zip(parts, stable):
        if not good.all():
            T = part.T[~good]
            values: dict[str, Value] = {"fraction": part.beta, "low": kelvin(T.min(), 0), "high": kelvin(T.max(), 0)}
            out.append(Remark("warning", "map.metastable", "map", values))
    return out


def _hottest(lines: Sequence[Line]) -> tuple[float, float] | None:
    """Return T, P of the traced point whose phases are most alike: the best guess of a critical point."""
    best, least = None, 1.5
    for line in lines:
        if len(line.u):
            spread = np.abs(line.u[:, :-2]).max(axis=1)
            i = int(np.argmin(spread))
            if spread[i] < least:
                least, best = float(spread[i]), (float(line.T[i]), float(line.P[i]))
    return best


def _distinct(points: object) -> list[CriticalPoint]:
    kept: list[CriticalPoint] = []
    for point in points:  # type: ignore[attr-defined]
        if (
            point
            and point.P > 0.0
            and all(abs(point.T - k.T) > 1e-4 * k.T or abs(point.P - k.P) > 1e-4 * k.P for k in kept)
        ):
            kept.append(point)
    return kept


@dataclass(frozen=True)
class _Node:
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


def _nodes(line: Line) -> list[_Node]:
    return [_Node(u, float(v), float(s)) for u, v, s in zip(line.u, line.volume, line.side)]


def _hermite(t: float, left: Array, right: Array, slope_left: Array, slope_right: Array) -> tuple[Array, Array]:
    """Return the cubic through two points with their slopes at t, 0 at the left and 1 at the right one, and its
    derivative in t."""
    u = 1.0 - t
    value = (1.0 + 2.0 * t) * u * u * left + t * u * u * slope_left
    value += t * t * (1.0 + 2.0 * u) * right - t * t * u * slope_right
    rise = 6.0 * t * u * (right - left) + u * (1.0 - 3.0 * t) * slope_left + t * (3.0 * t - 2.0) * slope_right
    return value, rise


def _solve_between(
    whole: PhaseMap, beta: float, first: _Node, second: _Node, goal: Callable[[Array, Array], float]
) -> _Node | None:
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
    last: dict[str, _Node] = {}

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
            last["node"] = _Node(points.u[0], float(points.volume[0]), side)
            return goal(points.u[0], points.slope[0])
        if np.abs(guess[:-2]).max() > 0.05 or not crossing:
            raise ArithmeticError
        # Beside the critical point Newton's matrix is singular; the polynomial through both sides and the point stands.
        last["node"] = _Node(guess, volume, side)
        return goal(guess, slope)

    try:
        root = brentq(at, float(u0[column]), float(u1[column]), xtol=1e-12, rtol=1e-12, maxiter=60)
        # The root need not be what was tried last: it may be one of the ends.
        at(root)
    except (ArithmeticError, ValueError, RuntimeError):
        return None
    return last["node"]


def _extremes(whole: PhaseMap, column: int) -> tuple[SaturationPoint, ...]:
    """Return every point at which a line turns back from the highest temperature (column -2) or pressure (-1) about,
    the highest first; what another phase upsets only where there is nothing else, and then the highest alone."""
    found: list[SaturationPoint] = []
    for line in whole.lines:
        v = line.u[:, column] if len(line.u) else np.empty(0)
        for i in (np.flatnonzero((v[1:-1] >= v[:-2]) & (v[1:-1] > v[2:])) + 1).tolist():
            nodes = [_Node(line.u[k], float(line.volume[k]), float(line.side[k])) for k in (i - 1, i, i + 1)]
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


def _surpassed(whole: PhaseMap, column: int, top: SaturationPoint) -> bool:
    """Tell whether any line lies beyond an extreme: at no lower temperature, where that of pressure is meant."""
    height, edge = np.log(top.T if column == -2 else top.P), np.log(top.T)
    for line in whole.lines:
        if len(line.u):
            beyond = line.u[:, column] > height + 1e-6
            if (beyond if column == -2 else beyond & (line.u[:, -2] > edge - 1e-6)).any():
                return True
    return False


def _tail(whole: PhaseMap, column: int, top: SaturationPoint) -> SaturationPoint | None:
    """Return the end of a line, cut while it rises, that lies beyond ``top``, the highest; None where there is none."""
    height = np.log(top.T if column == -2 else top.P)
    ends = [(line, int(np.argmax(line.u[:, column]))) for line in whole.lines if len(line.u)]
    beyond = [(line, i) for line, i in ends if line.u[i, column] > height + 1e-9]
    if not beyond:
        return None
    line, i = max(beyond, key=lambda b: float(b[0].u[b[1], column]))
    return _Node(line.u[i], float(line.volume[i]), float(line.side[i])).point(whole.z, line.beta)


def _line_crossings(whole: PhaseMap, line: Line, column: int, value: float) -> list[SaturationPoint]:
    found: list[SaturationPoint] = []
    for first, second in pairwise(_nodes(line)):
        v0, v1 = first.u[column], second.u[column]
        hits: list[_Node | None] = []
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
    whole: PhaseMap, line: Line, first: _Node, second: _Node, column: int, value: float
) -> list[_Node | None]:
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


def _pure_crossing(eos: Equation, betas: Sequence[float], T: float | None, P: float | None) -> list[SaturationPoint]:
    one = np.ones(1)
    if T is not None:
        P = float(saturation_pressure(eos, np.array([T]))[0])
    else:
        assert P is not None
        T = float(boiling_temperature(eos, np.array([P]))[0])
    if not (np.isfinite(P) and np.isfinite(T)):
        return []
    return [SaturationPoint(float(b), float(T), float(P), one, one) for b in betas]


def _pure_map(eos: Equation, z: Array) -> PhaseMap:
    """Return the map of a pure fluid: its vapour pressure curve as bubble and dew line at once."""
    Tc, Pc, V = (float(v[0]) for v in eos.pure_critical())
    if not np.isfinite(Tc):
        return PhaseMap(eos, z, (), (), (), (), None, None, (Remark("warning", "map.no_critical", "map"),))
    T = Tc * (1.0 - np.geomspace(1e-6, 0.55, 80)[::-1])
    P = saturation_pressure(eos, T[:, None])[:, 0]
    keep = P > 1.0
    u = np.stack([np.zeros(80), np.log(T), np.log(P)], axis=1)[keep]
    parts = tuple(Line(beta, u, np.ones(len(u)), np.ones(len(u)), "critical point") for beta in (1.0, 0.0))
    one = np.ones(1)
    end = SaturationPoint(0.0, Tc, Pc, one, one)
    remark = Remark("estimate", "map.pure", "map")
    stable = tuple(np.ones(len(u), dtype=bool) for _ in parts)
    return PhaseMap(eos, z, parts, parts, stable, (CriticalPoint(Tc, Pc, V, 0.0),), end, end, (remark,))
