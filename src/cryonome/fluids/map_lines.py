"""The lines of an envelope as they are drawn and answered."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.envelope import Line
from ..equilibrium.line_states import two_phases
from ..equilibrium.phase_map import PhaseMap
from ..equilibrium.phases import Phases
from ..equilibrium.quality import compositions

Array = NDArray[np.float64]


def metastable(whole: PhaseMap) -> list[tuple[float, Array, Array]]:
    """Return (vapour fraction, T, P) of the stretches of bubble and dew lines where another phase has formed."""
    out = []
    for part, good in zip(whole.parts, whole.stable, strict=True):
        bad = np.flatnonzero(~good)
        for run in np.split(bad, np.flatnonzero(np.diff(bad) > 1) + 1):
            if run.size > 1:
                out.append((part.beta, part.T[run], part.P[run]))
    return out


def curves(whole: PhaseMap, fractions: list[float]) -> list[tuple[float, Array, Array]]:
    """Return (vapour fraction, T, P) of the stretches of traced parts of the given fractions that no further phase
    upsets, joined to the critical points."""
    return _chosen(_joined(whole), fractions)


def runs_of(good: NDArray[np.bool_]) -> list[NDArray[np.intp]]:
    """Return the runs of two or more places that are true."""
    runs = np.split(np.arange(good.size), np.flatnonzero(np.diff(good)) + 1)
    return [run for run in runs if run.size > 1 and good[run[0]]]


def _stretches(whole: PhaseMap) -> list[tuple[Line, Array, NDArray[np.bool_]]]:
    """Return every traced part with its unknowns joined to the critical points, and which of them are stable."""
    flags = [good for part, good in zip(whole.parts, whole.stable, strict=True) if len(part.u)]
    out = []
    for (part, u), good in zip(_points(whole), flags, strict=True):
        more = len(u) - len(good)
        if more:
            # What was joined at an end is as stable as its neighbour.
            first = int(not np.array_equal(u[0], part.u[0]))
            good = np.concatenate([np.repeat(good[:1], first), good, np.repeat(good[-1:], more - first)])
        out.append((part, u, good))
    return out


def drawn(whole: PhaseMap, fractions: list[float]) -> list[tuple[float, Array, Array]]:
    """Return the same smoothed for drawing; remembered for the maps last drawn, since it takes a while."""
    return _chosen(_smoothed(_Same(whole)), fractions)


def _chosen(lines: list[tuple[float, Array, Array]], fractions: list[float]) -> list[tuple[float, Array, Array]]:
    return [line for line in lines if any(abs(line[0] - f) < 1e-12 for f in fractions)]


@dataclass(frozen=True, eq=False)
class _Same:
    """A map by its identity: it has no other that could be remembered."""

    whole: PhaseMap

    def __hash__(self) -> int:
        return id(self.whole)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.whole is self.whole


@lru_cache(maxsize=16)
def _smoothed(same: _Same) -> list[tuple[float, Array, Array]]:
    return [(beta, *smooth(T, P)) for beta, T, P in _joined(same.whole)]


def _joined(whole: PhaseMap) -> list[tuple[float, Array, Array]]:
    return [
        (part.beta, np.exp(u[run, -2]), np.exp(u[run, -1]))
        for part, u, good in _stretches(whole)
        for run in runs_of(good)
    ]


def _points(whole: PhaseMap) -> list[tuple[Line, Array]]:
    """Return every traced part with its unknowns (n, nc + 2) joined to the critical points."""
    out = []
    for part in whole.parts:
        if len(part.u) == 0:
            continue
        u = part.u
        for c in whole.critical_points:
            # A part that ends beside a critical point was cut there; the point itself belongs to it.
            for end in (0, -1):
                near = abs(np.exp(u[end, -2]) / c.T - 1.0) < 0.03 and abs(np.exp(u[end, -1]) / c.P - 1.0) < 0.1
                if near and whole.z.size > 1 and np.abs(part.u[end, :-2]).max() < 0.5:
                    point = np.concatenate([np.zeros(whole.z.size), np.log([c.T, c.P])])
                    u = np.insert(u, 0, point, axis=0) if end == 0 else np.vstack([u, point])
        out.append((part, u))
    return out


def line_phases(whole: PhaseMap, fraction: float, stable: bool = True) -> list[Phases]:
    """Return the states (n,) along every traced part of a vapour fraction, joined to the critical points: the stretches
    that no further phase upsets, or, where not ``stable``, the others."""
    out = []
    for part, every, good in _stretches(whole):
        if abs(part.beta - fraction) >= 1e-12:
            continue
        for u in (every[run] for run in runs_of(good if stable else ~good)):
            n = len(u)
            # Beyond a critical point the phases have changed roles: the unknowns are still those of the line.
            turned = part.side[0] < 0.0
            traced = np.full(n, 1.0 - part.beta if turned else part.beta)
            first, second = compositions(u, np.tile(whole.z, (n, 1)), traced)
            first, second = (v / v.sum(axis=-1, keepdims=True) for v in (first, second))
            x, y = (second, first) if turned else (first, second)
            T, P = np.exp(u[:, -2]), np.exp(u[:, -1])
            out.append(two_phases(whole.eos, whole.z, T, P, np.full(n, part.beta), x, y))
    return out


def smooth(T: Array, P: Array, between: int = 3) -> tuple[Array, Array]:
    """Return a traced line with points set ``between`` its own, for drawing only.

    A cubic spline in ln T and ln P over the chord length; the traced points stay on it.
    """
    from scipy.interpolate import CubicSpline

    if T.size < 4:
        return T, P
    u = np.column_stack([np.log(T), np.log(P)])
    chord = np.hypot(4.0 * np.diff(u[:, 0]), np.diff(u[:, 1]))
    u = u[np.concatenate([[True], chord > 1e-9])]
    if len(u) < 4:
        return T, P
    s = np.concatenate([[0.0], np.cumsum(np.hypot(4.0 * np.diff(u[:, 0]), np.diff(u[:, 1])))])
    steps = np.arange(between * (s.size - 1) + 1) / between
    fine = np.interp(steps, np.arange(s.size), s)
    out = CubicSpline(s, u)(fine)
    return np.exp(out[:, 0]), np.exp(out[:, 1])
