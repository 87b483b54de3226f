"""The phase envelope of a feed as a whole: lines, critical points, extremes, and where a T or P meets them."""

from __future__ import annotations

from collections.abc import Sequence
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
from .line_points import (
    METASTABLE,
    SaturationPoint,
    among,
    below_the_trace,
    extremes,
    line_crossings,
    pure_crossing,
    surpassed,
    tail_beyond,
)
from .line_starts import STARTS, dew_starts
from .pure import saturation_pressure
from .quality import compositions
from .refined import refined
from .stability import KnownPhase, stability

Array = NDArray[np.float64]


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
            return pure_crossing(self.eos, betas, T, P)
        column, value = (-2, np.log(T)) if T is not None else (-1, np.log(P if P is not None else np.nan))
        found: list[SaturationPoint] = []
        for line in self.lines:
            found += [p for p in line_crossings(self, line, column, float(value)) if among(p.beta, betas)]
        found += below_the_trace(self, betas, T, P)
        unique: list[SaturationPoint] = []
        for point in sorted(found, key=lambda p: (p.P, p.T)):
            same = any(
                among(point.beta, [q.beta]) and abs(point.T - q.T) < 1e-4 * q.T and abs(point.P - q.P) < 1e-4 * q.P
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
        turns = extremes(whole, column)
        # A line that is cut while it still rises leaves the extreme unknown, unless it rises beyond it only where it
        # is colder: there liquids part in the cold,
        # and the turn of vapour and liquid is the one to go by.
        first = next((p for p in turns if not surpassed(whole, column, p)), None)
        tail = tail_beyond(whole, column, first) if first is not None else None
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
