"""Lines of many fluids moved from those of one: samples of a fluid about the fluid as it stands, all in one batch.

The points of the base's lines are corrected for every sample as :mod:`.retrace` does for one. What does not come in,
or leaves its neighbours, is left to be traced by itself. Shapes: M fluids, nc components."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..bracketing import bracketed
from ..eos.stacked import Stacked
from ..watch import UNWATCHED, Watch
from .envelope import Line, split_at_critical
from .line_points import METASTABLE, SaturationPoint
from .phase_map import PhaseMap
from .quality import compositions, correct
from .retrace import ITERATIONS, followed, held, within
from .stability import KnownPhase, stability

Array = NDArray[np.float64]

TOGETHER = 4_000
"""Points corrected in one call: their parameters stand side by side, one set a point."""


def moved_maps(
    eos: Stacked, z: Array, old: PhaseMap, betas: Sequence[float], turns: Sequence[int], watch: Watch = UNWATCHED
) -> list[PhaseMap | None]:
    """Return for each of M fluids z (M, nc), normalised, the lines of ``betas`` moved from those of ``old``, as a map
    with nothing else but the highest temperature (-2) and pressure (-1) that ``turns`` ask for; None where they do not
    lead there. ``old`` must be of the same components, with no region of three phases. Raises Cancelled."""
    m = z.shape[0]
    lines = [within(line) for line in old.lines if any(abs(line.beta - b) < 1e-12 for b in betas) and len(line.u) > 1]
    if not lines or old.z.size != z.shape[1] or old.z.size < 2:
        return [None] * m
    found = _moved(eos, z, lines, watch.part(0.0, 0.6))
    flags = _stability_of(old, lines)
    tested = _tested(eos, z, found, flags, watch.part(0.6, 0.7))
    out: list[PhaseMap | None] = []
    for i, new in enumerate(found):
        if new is None:
            out.append(None)
            continue
        parts = [part for line, _ in new for part in split_at_critical(line)]
        ends = np.cumsum([len(p.u) for p in parts])[:-1]
        stable = tuple(np.split(np.concatenate(tested[i]), ends))
        moved = tuple(line for line, _ in new)
        out.append(PhaseMap(eos.single(i), z[i], moved, tuple(parts), stable, (), None, None, ()))
    for place, column in enumerate(turns):
        _turned(eos, z, out, old, column, watch.part(0.7 + 0.15 * place, 0.85 + 0.15 * place))
    return out


Moved = list[tuple[Line, NDArray[np.bool_]]]
"""Lines of a fluid, each with which points of the base's line are on it."""


def _stability_of(old: PhaseMap, lines: Sequence[Line]) -> list[NDArray[np.bool_]]:
    """Return which points of the traced lines no further phase upsets, as the map knows of its parts."""
    there = [(p, g) for p, g in zip(old.parts, old.stable, strict=True) if len(p.u)]
    u = np.concatenate([p.u for p, _ in there])
    good = np.concatenate([g for _, g in there])
    out = []
    for line in lines:
        apart = np.abs(line.u[:, None, -2:] - u[None, :, -2:]).sum(axis=-1)
        out.append(good[np.argmin(apart, axis=1)])
    return out


NEAR_FLIP = 4
"""Points on either side of where a line loses its stability that are tested anew for every fluid."""


def _tested(
    eos: Stacked, z: Array, found: Sequence[Moved | None], flags: Sequence[NDArray[np.bool_]], watch: Watch
) -> list[list[NDArray[np.bool_]]]:
    """Return for every fluid which points of its lines are stable: as those of the base, but about where that changes,
    which is tested."""
    out: list[list[NDArray[np.bool_]]] = []
    owners, points, betas, places = [], [], [], []
    for i, new in enumerate(found):
        own: list[NDArray[np.bool_]] = []
        for (line, kept), flag in zip(new or (), flags):
            mine = flag[kept].copy()
            flips = np.flatnonzero(np.diff(mine))
            near = np.zeros(mine.size, bool)
            for at in flips.tolist():
                near[max(0, at - NEAR_FLIP + 1) : at + 1 + NEAR_FLIP] = True
            rows = np.flatnonzero(near)
            if rows.size:
                owners.append(np.full(rows.size, i))
                points.append(line.u[rows])
                betas.append(np.full(rows.size, line.beta))
                places.append((i, len(own), rows))
            own.append(mine)
        out.append(own)
    if not owners:
        return out
    owner, u, beta = np.concatenate(owners), np.concatenate(points), np.concatenate(betas)
    x, y = (v / v.sum(axis=-1, keepdims=True) for v in compositions(u, z[owner], beta))
    inner = (beta > 0.0) & (beta < 1.0)
    feeds = np.where(inner[:, None], x, z[owner])
    forming = np.where(((beta == 0.0) | inner)[:, None], y, x)
    T, P = np.exp(u[:, -2]), np.exp(u[:, -1])
    each = eos.take(owner)
    known = KnownPhase(forming, each.prepare(T, P).ln_phi(forming)[1])
    good = stability(each, T, P, feeds, watch=watch, below=METASTABLE, known=[known]).tm > METASTABLE
    at = 0
    for i, line_at, rows in places:
        out[i][line_at][rows] = good[at : at + rows.size]
        at += rows.size
    return out


def _moved(eos: Stacked, z: Array, lines: Sequence[Line], watch: Watch) -> list[Moved | None]:
    """Return the lines of every fluid, None where a line did not follow."""
    u = np.concatenate([line.u for line in lines])
    beta = np.concatenate([np.full(len(line.u), line.beta) for line in lines])
    light = np.concatenate([line.volume for line in lines])
    spec = np.concatenate([held(line) for line in lines])
    n, m = len(u), z.shape[0]
    each = max(1, TOGETHER // n)
    ends = np.cumsum([len(line.u) for line in lines])[:-1]
    out: list[Moved | None] = []
    for first in range(0, m, each):
        rows = np.arange(first, min(first + each, m))
        own = np.repeat(rows, n)
        k = rows.size
        points = correct(
            eos.take(own), z[own], np.tile(beta, k), np.tile(u, (k, 1)), np.tile(spec, k), max_iterations=ITERATIONS,
            largest_step=30.0, light=np.tile(light, k), watch=watch.part(first / m, (first + k) / m),
        )  # fmt: skip
        for i in range(k):
            mine = slice(i * n, (i + 1) * n)
            good = points.converged[mine]
            new = followed(lines, u, points.u[mine], points.volume[mine], good, light)
            out.append(None if new is None else list(zip(new, np.split(good, ends), strict=True)))
    return out


def _turned(eos: Stacked, z: Array, maps: list[PhaseMap | None], old: PhaseMap, column: int, watch: Watch) -> None:
    """Put the highest temperature or pressure into every map, None in the place of one in which it is not found."""
    key = "cricondentherm" if column == -2 else "cricondenbar"
    there = getattr(old, key)
    rows, triples, betas, sides, volumes = [], [], [], [], []
    if there is None:
        return
    for i, one in enumerate(maps):
        if one is None:
            continue
        peak = _summit(one, column)
        if peak is None:
            maps[i] = None
            continue
        line, at = peak
        rows.append(i)
        triples.append(line.u[at - 1 : at + 2])
        betas.append(line.beta)
        sides.append(line.side[at])
        volumes.append(line.volume[at])
    if not rows:
        return
    where, nodes = np.array(rows), np.array(triples)
    u, good = _turn(eos.take(where), z[where], np.array(betas), nodes, np.array(volumes), column, watch)
    T, P = np.exp(u[:, -2]), np.exp(u[:, -1])
    safe = np.where(good, T, 300.0), np.where(good, P, 1e5)
    upset = stability(eos.take(where), *safe, z[where], every_trial=True).tm < METASTABLE
    for k, i in enumerate(rows):
        one = maps[i]
        if one is None or not good[k] or upset[k]:
            maps[i] = None
            continue
        first, second = compositions(u[k : k + 1], z[i : i + 1], np.array([betas[k]]))
        x, y = first[0] / first.sum(), second[0] / second.sum()
        turned = sides[k] < 0.0
        beta = 1.0 - betas[k] if turned else betas[k]
        point = SaturationPoint(beta, float(T[k]), float(P[k]), *((y, x) if turned else (x, y)))
        maps[i] = replace(one, cricondentherm=point) if column == -2 else replace(one, cricondenbar=point)


def _summit(whole: PhaseMap, column: int) -> tuple[Line, int] | None:
    """Return the line and the place of its traced point that lies highest, with a neighbour on both sides."""
    best: tuple[Line, int] | None = None
    height = -np.inf
    for line in whole.lines:
        if line.beta not in (0.0, 1.0):
            continue
        v = line.u[:, column]
        inner = np.flatnonzero((v[1:-1] >= v[:-2]) & (v[1:-1] > v[2:])) + 1
        for at in inner.tolist():
            if v[at] > height:
                best, height = (line, at), float(v[at])
    return best


def _turn(
    eos: Stacked, z: Array, beta: Array, nodes: Array, volume: Array, column: int, watch: Watch
) -> tuple[Array, NDArray[np.bool_]]:
    """Return the points (M, nc + 2) between the outer of three neighbours (M, 3, nc + 2) at which an unknown turns
    back, and which were found."""
    first, middle, last = nodes[:, 0], nodes[:, 1], nodes[:, 2]
    change = np.abs(last - first) / (0.3 + np.abs(first))
    change[:, -2] *= 12.0
    # The unknown that turns cannot be held.
    change[:, column] = 0.0
    spec = np.argmax(change, axis=1)
    at = np.arange(len(nodes))
    s0, s1, s2 = first[at, spec], middle[at, spec], last[at, spec]
    kept = [middle.copy(), np.zeros(len(nodes), bool)]

    def rise(t: Array) -> Array:
        watch.check()
        s = s0 + t * (s2 - s0)
        # A parabola through the three.
        a, b, c = (s - s1) * (s - s2), (s - s0) * (s - s2), (s - s0) * (s - s1)
        a, b, c = a / ((s0 - s1) * (s0 - s2)), b / ((s1 - s0) * (s1 - s2)), c / ((s2 - s0) * (s2 - s1))
        guess = a[:, None] * first + b[:, None] * middle + c[:, None] * last
        guess[at, spec] = s
        points = correct(eos, z, beta, guess, spec, max_iterations=12, largest_step=0.1, light=volume)
        kept[0], kept[1] = points.u, points.converged & (np.abs(points.u - guess).max(axis=1) < 0.3)
        return np.asarray(points.slope[:, column] * (s2 - s0))

    with np.errstate(all="ignore"):
        t = bracketed(rise, s0.shape, (0.0, 1.0), close=1e-11)
        good = np.isfinite(t)
        rise(np.where(good, t, 0.5))
    return kept[0], good & kept[1]
