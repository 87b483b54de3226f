"""States at two measured quantities, neither temperature nor pressure given, batched.

Newton's method in ln T and ln P from every cell of a chart of the feed where both may be met; what it does not find
is looked for by nesting: at every pressure the temperature that meets the first quantity, along those pressures every
change of sign of the second."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..watch import UNWATCHED, Watch
from .every_root import every_root, first_of
from .measured import ACCEPTED, P_RANGE, RESPONSES, T_RANGE, TOLERANCE, Fluids, deviation, gather, slopes
from .one_known import MONOTONE, Found, monotone
from .phases import Phases, Reason
from .pure_line import on_pure_line

Array = NDArray[np.float64]
Rows = NDArray[np.intp]

CHART = (24, 26)
"""States of a chart in T and in P."""
CHART_P = (1e2, 1e9)
STEPS = 40
CELLS = 8
"""Cells of the chart that are tried at the most for a state."""
APART = 1e-6
"""Difference of ln T or ln P from which on two solutions are different ones."""
SHARE = "vapour_volume_fraction"
HAIR = 1e-6
"""Half the difference of logarithms that the share's slope is taken over."""
NEST = 30
"""Pressures at which the first quantity is met, to look for the second between."""
INNER = ("entropy", "enthalpy", "internal_energy", "density")
"""Which quantity is met first, by temperature at every pressure: entropy leaves the second one way."""


def solve_two(fluids: Fluids, targets: dict[str, Array], watch: Watch = UNWATCHED) -> Found:
    """Return the states where both quantities of ``targets``, by name and (N,) each, have their values.

    What is not found has a reason; of several solutions the coldest of pressures within
    :data:`CHART_P` is meant.
    """
    n = fluids.z.shape[0]
    if fluids.z.shape[1] == 1:
        # Where one component is in two phases, a step of temperature or pressure alone leaves that state.
        line = on_pure_line(fluids, targets)
        off = np.flatnonzero(~line.phases.converged)
        if SHARE in targets or off.size == 0:
            return line
        rest = _off_the_line(fluids.take(off), {k: v[off] for k, v in targets.items()}, watch)
        on = np.flatnonzero(line.phases.converged)
        beside = dict(zip(off.tolist(), rest.others))
        both = gather(n, [(on, line.phases.take(on)), (off, rest.phases)])
        return Found(both, tuple(beside.get(row, line.others[row]) for row in range(n)))
    return _off_the_line(fluids, targets, watch)


def _off_the_line(fluids: Fluids, targets: dict[str, Array], watch: Watch) -> Found:
    """Return the states that Newton's method finds, else nesting."""
    n = fluids.z.shape[0]
    owner, T, P = _starts(fluids, targets)
    tried = _newton(fluids.take(owner), {k: v[owner] for k, v in targets.items()}, T, P, watch.part(0.0, 0.5))
    parts: list[tuple[Rows, Phases]] = []
    others: list[tuple[tuple[float, float], ...]] = [()] * n
    good = np.flatnonzero(tried.converged)
    usual = (tried.P[good] >= CHART_P[0]) & (tried.P[good] <= CHART_P[1])
    good = good[np.lexsort((tried.T[good], ~usual, owner[good]))]
    first = np.full(n, -1)
    for row in np.unique(owner[good]).tolist():
        own = good[owner[good] == row]
        first[row] = own[0]
        others[row] = _distinct(tried.T[own], tried.P[own])
    there, lost = np.flatnonzero(first >= 0), np.flatnonzero(first < 0)
    if there.size:
        parts.append((there, tried.take(first[there])))
    if lost.size:
        found = nested(fluids.take(lost), {k: v[lost] for k, v in targets.items()}, watch.part(0.5, 1.0))
        parts.append((lost, found.phases))
        for row, rest in zip(lost.tolist(), found.others):
            others[row] = rest
    return Found(gather(n, parts), tuple(others))


def _distinct(T: Array, P: Array) -> tuple[tuple[float, float], ...]:
    """Return which of states (M,) are others than the first, each once."""
    kept = [0]
    for i in range(1, T.size):
        if all(abs(np.log(T[i] / T[j])) > APART or abs(np.log(P[i] / P[j])) > APART for j in kept):
            kept.append(i)
    return tuple((float(T[i]), float(P[i])) for i in kept[1:])


def _chart(fluids: Fluids, keys: tuple[str, ...]) -> tuple[Array, Array, dict[str, Array]]:
    """Return T and P of a chart (M,) of the first feed and its quantities there."""
    T = np.geomspace(1.8 * float(fluids.coldest[0]), T_RANGE[1], CHART[0])
    P = np.geomspace(*CHART_P, CHART[1])
    grid_T, grid_P = (v.ravel() for v in np.meshgrid(T, P, indexing="ij"))
    first = fluids.take(np.zeros(grid_T.size, dtype=np.intp))
    return grid_T, grid_P, dict(fluids.whole(first.at(grid_T, grid_P), keys))


def _starts(fluids: Fluids, targets: dict[str, Array]) -> tuple[Rows, Array, Array]:
    """Return where Newton's method begins: the state it is for (M,), T and P (M,).

    Of a chart the nearest state, each quantity weighed by its spread, and the cells where both quantities pass their
    values."""
    n = fluids.z.shape[0]
    grid_T, grid_P, values = _chart(fluids, tuple(targets))
    distance = np.zeros((n, grid_T.size))
    passed = np.ones((n, CHART[0] - 1, CHART[1] - 1), dtype=bool)
    for name, target in targets.items():
        charted, wanted = values[name], target[:, None]
        if name == "density":
            with np.errstate(invalid="ignore", divide="ignore"):
                charted, wanted = np.log(charted), np.log(wanted)
        off = charted - wanted
        distance += np.nan_to_num((off / np.nanstd(charted)) ** 2, nan=1e9)
        above = (off > 0.0).reshape(n, *CHART)
        corners = np.stack([above[:, i : CHART[0] - 1 + i, j : CHART[1] - 1 + j] for i in (0, 1) for j in (0, 1)])
        passed &= corners.any(axis=0) & ~corners.all(axis=0)
        if name == SHARE:
            distance[:, (charted <= 0.0) | (charted >= 1.0)] += 1e6  # there it has no slope
    nearest = np.argmin(distance, axis=-1)
    # Of a cell its corner nearest to the values.
    places = np.arange(grid_T.size).reshape(CHART)
    corner = np.stack([places[i : CHART[0] - 1 + i, j : CHART[1] - 1 + j] for i in (0, 1) for j in (0, 1)])
    best = np.take_along_axis(
        np.broadcast_to(corner.reshape(4, -1).T, (n, corner[0].size, 4)),
        np.argmin(distance[:, corner.reshape(4, -1).T], axis=-1)[..., None],
        axis=-1,
    )[..., 0]
    size = np.where(passed.reshape(n, -1), np.take_along_axis(distance, best, axis=-1), np.inf)
    order = np.argsort(size, axis=-1, kind="stable")[:, :CELLS]
    row, column = np.nonzero(np.isfinite(np.take_along_axis(size, order, axis=-1)))
    cells = best[row, order[row, column]]
    pairs = np.unique(np.stack([np.concatenate([np.arange(n), row]), np.concatenate([nearest, cells])]), axis=1)
    return pairs[0], grid_T[pairs[1]], grid_P[pairs[1]]


def _newton(fluids: Fluids, targets: dict[str, Array], T: Array, P: Array, watch: Watch) -> Phases:
    """Return the states Newton's method comes to from T and P (N,); with a reason where it came to none."""
    n = T.size
    names = tuple(targets)
    x = np.log(np.stack([T, P], axis=-1))
    keys = tuple(dict.fromkeys((*names, *RESPONSES)))
    parts: list[tuple[Rows, Phases]] = []
    live = np.arange(n)
    best = np.full(n, np.inf)
    step = np.zeros((n, 2))
    low = np.log(np.stack([fluids.coldest, np.full(n, P_RANGE[0])], axis=-1))
    high = np.log([T_RANGE[1], P_RANGE[1]])
    for number in range(STEPS):
        watch.at(number / STEPS)
        here = fluids.take(live)
        T, P = np.exp(x[live, 0]), np.exp(x[live, 1])
        phases = here.at(T, P)
        w = here.whole(phases, keys)
        f = np.stack([deviation(k, w[k], targets[k][live], T) for k in names], axis=-1)
        with np.errstate(invalid="ignore"):
            size = np.abs(f).max(axis=-1)
        matrix = np.stack([np.stack(_slopes(here, k, w, T, P), axis=-1) for k in names], axis=-2)
        good = np.isfinite(f).all(axis=-1) & np.isfinite(matrix).all(axis=(-1, -2))
        worse = ~good | ~(size < best[live])
        if number == 0:
            worse &= ~good
        done = good & (size < TOLERANCE)
        with np.errstate(invalid="ignore"):
            done |= good & (size < ACCEPTED) & (np.abs(step[live]).max(axis=-1) < 1e-13) & (number > 0)
        lost = np.zeros(live.size, dtype=bool)
        if number == STEPS - 1:
            lost = ~done
        # Where a step did not help half of it is taken back; where that has become nothing Newton is at its end.
        shrunk = np.abs(step[live]).max(axis=-1) < 1e-12
        lost |= worse & shrunk & ~done & (number > 0)
        stop = done | lost
        if stop.any():
            reason = np.where(done[stop], phases.reason[stop], Reason.NOT_CONVERGED).astype(np.int8)
            parts.append((live[stop], replace(phases.take(stop), reason=reason)))
        keep = ~stop
        if not keep.any():
            break
        live, f, matrix, worse, size = live[keep], f[keep], matrix[keep], worse[keep], size[keep]
        back = live[worse]
        step[back] *= 0.4
        x[back] -= step[back] * 1.5  # 0.4/(1 - 0.4): from the full step to four tenths of it
        ahead = ~worse
        rows = live[ahead]
        best[rows] = size[ahead]
        m = matrix[ahead]
        det = m[:, 0, 0] * m[:, 1, 1] - m[:, 0, 1] * m[:, 1, 0]
        with np.errstate(invalid="ignore", divide="ignore"):
            new = np.stack(
                [
                    -(m[:, 1, 1] * f[ahead, 0] - m[:, 0, 1] * f[ahead, 1]) / det,
                    -(m[:, 0, 0] * f[ahead, 1] - m[:, 1, 0] * f[ahead, 0]) / det,
                ],
                axis=-1,
            )
        new = np.nan_to_num(new, nan=0.01, posinf=0.5, neginf=-0.5)
        reach = (np.abs(new) / np.array([0.25, 1.5])).max(axis=-1)
        new /= np.maximum(1.0, reach)[:, None]
        bounded = np.clip(x[rows] + new, low[rows], high)
        step[rows] = bounded - x[rows]
        x[rows] = bounded
    return gather(n, parts)


def _slopes(fluids: Fluids, key: str, w: Mapping[str, Array], T: Array, P: Array) -> tuple[Array, Array]:
    """Return derivatives by ln T and ln P (N,); of the vapour's share by volume differences over a hair."""
    if key != SHARE:
        return slopes(key, w, T, P)
    n = T.size
    fourfold = fluids.take(np.tile(np.arange(n), 4))
    by_T = np.concatenate([T * np.exp(HAIR), T * np.exp(-HAIR), T, T])
    by_P = np.concatenate([P, P, P * np.exp(HAIR), P * np.exp(-HAIR)])
    v = fourfold.whole(fourfold.at(by_T, by_P), (key,))[key].reshape(4, n)
    return (v[0] - v[1]) / (2.0 * HAIR), (v[2] - v[3]) / (2.0 * HAIR)


def nested(fluids: Fluids, targets: dict[str, Array], watch: Watch = UNWATCHED) -> Found:
    """Return the N states where both quantities, ``targets`` (N,) in SI by name, have their values, every pressure where they do being looked for."""
    n = fluids.z.shape[0]
    first = next(k for k in INNER if k in targets)
    second = next(k for k in targets if k != first)
    sense = MONOTONE["P", first]

    def at(x: Array, rows: Rows) -> tuple[Phases, Array]:
        """Return the states that meet the first quantity at pressures, and how far the second is off; nan beyond its
        reach."""
        here = fluids.take(rows)
        phases = monotone(here, "P", np.exp(x), first, targets[first][rows], sense)
        w = here.whole(phases, (second,))[second]
        off = deviation(second, w, targets[second][rows], phases.T)
        return phases, np.where(phases.converged, off, np.nan)

    base = np.linspace(np.log(CHART_P[0]), np.log(CHART_P[1]), NEST)
    roots, owner = every_root(lambda x, rows: at(x, rows)[1], base, n, watch)
    there, lowest, rest = first_of(roots, owner, n)
    phases, _ = at(np.where(there, lowest, base[NEST // 2]), np.arange(n))
    reason = np.where(there, phases.reason, Reason.NO_SUCH_STATE).astype(np.int8)
    others: list[tuple[tuple[float, float], ...]] = [()] * n
    for row, more in enumerate(rest):
        if more.size:
            states, _ = at(more, np.full(more.size, row))
            others[row] = tuple(zip(states.T.tolist(), states.P.tolist()))
    return Found(replace(phases, reason=reason), tuple(others))
