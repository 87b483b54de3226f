"""Where in temperature and pressure a fluid has an aqueous phase, and where three phases: the boundaries of both
regions, and the lines of one vapour fraction through the latter.

The states of a grid are flashed in one batch. They tell where regions are; their boundaries are followed with all three
phases (:mod:`.three_lines`), each edge of the grid that none of those explains being looked at by itself: it is halved,
its three-phase state starts another boundary, and what leads nowhere stays as found by halving. Where one phase meets
an aqueous one the boundary is a bubble or dew line of the feed, taken from its map."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .line_points import METASTABLE
from .multiphase import flash_all
from .naming import RICH
from .phase_map import PhaseMap, incipient
from .phases import Kind, Phases
from .region_cells import Boundary, Cells, told
from .stability import stability
from .three_lines import ThreeLine, boundary, of_fraction
from .three_points import compositions, solve

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

GRID = (30, 28)
"""States of the grid in T and in P."""
COLDEST, HOTTEST = 230.0, 640.0
"""K. Water freezes on the way down; the equation goes on with it as a liquid."""
LEAST_PART = 0.6
"""Of the mean critical temperature, from where a fluid without water is looked at: liquids part in the cold."""
P_RANGE = (2e4, 1e8)
HALVINGS = 9
BESIDE = 0.8
"""Widths of a cell within which a line explains an edge of the grid."""
MOST_SEEDS = 40

Edge = tuple[tuple[int, int], tuple[int, int]]
"""Two neighbours of a grid by their places."""
Lines = tuple[tuple[Array, Array], ...]
"""Lines as T K and P Pa (n,) each."""


@dataclass(frozen=True)
class Regions:
    """Boundaries of the region with a phase of water, ``aqueous``, and of that with three phases, ``three``, of which
    ``bounds`` tells the phase that is gone; ``corners`` where but one phase is left and ``ends`` where two phases become
    one, ``fourth`` where another phase would form, as T K and P Pa; ``quality`` the lines of one vapour fraction
    through the three-phase region, with their fraction."""

    aqueous: Lines
    three: Lines
    bounds: tuple[Boundary, ...] = ()
    corners: tuple[tuple[float, float], ...] = ()
    ends: tuple[tuple[float, float], ...] = ()
    fourth: tuple[tuple[float, float], ...] = ()
    quality: tuple[tuple[float, Phases], ...] = ()


def regions(
    eos: Equation, z: Array, water: int | None, watch: Watch = UNWATCHED, whole: PhaseMap | None = None,
    fractions: Sequence[float] = (),
) -> Regions:  # fmt: skip
    """Return the boundaries for a feed z (nc,), normalised; ``water`` is the place of water, ``whole`` its map, and
    ``fractions`` the inner vapour fractions of lines. Raises Cancelled."""
    cold = (
        COLDEST
        if water is not None
        else float(np.clip(LEAST_PART * (z @ np.nan_to_num(eos.pure_critical()[0])), 80.0, COLDEST))
    )
    x, y = np.log(np.geomspace(cold, HOTTEST, GRID[0])), np.log(np.geomspace(*P_RANGE, GRID[1]))
    grid_x, grid_y = np.meshgrid(x, y, indexing="ij")
    found = flash_all(eos, np.exp(grid_x.ravel()), np.exp(grid_y.ravel()), z, watch.part(0.0, 0.3))
    cells = Cells(eos, z, water, x, y, found)
    masks = [(amount > 0.0).reshape(GRID) for amount in _amounts(found, water).T]
    lines = _three_lines(cells, _edges(masks[1]), watch.part(0.3, 0.6))
    lines = [*lines, *_beside_flips(cells, whole, lines)]
    bounds = _stable(cells, [b for line in lines for b in cells.named(line)])
    exact = [(b.T, b.P) for b in bounds[0]]
    corners = _apart(
        {told(line.u[k]) for line in lines for k, end in ((0, line.ends[0]), (-1, line.ends[1])) if end == "corner"}
    )
    wet = [(b.T, b.P) for b in bounds[0] if b.gone == Kind.AQUEOUS]
    wet += [to_corners(T, P, corners) for T, P in _on_the_map(whole, water)]
    three = (*exact, *_left(cells, _edges(masks[1]), exact, 1, watch.part(0.6, 0.8)))
    left = _left(cells, _edges(masks[0]), [*wet, *exact], 0, watch.part(0.8, 0.9))
    aqueous = (*wet, *(to_corners(T, P, corners) for T, P in left))
    quality = _quality(cells, lines, fractions, watch.part(0.9, 1.0))
    return Regions(aqueous, three, tuple(bounds[0]), corners, _apart(set(cells.ends)), _apart(set(bounds[1])), quality)


NEAR_CORNER = 0.6
"""Distance, in ln P and eight times ln T, within which the end of a stable stretch goes on to a corner."""


def to_corners(T: Array, P: Array, corners: Sequence[tuple[float, float]]) -> tuple[Array, Array]:
    """Return a stretch of a line, T (n,) K and P (n,) Pa, with the corners that it ends at: its last traced point lies short of them."""
    if not corners or not T.size:
        return T, P
    t, p = np.array(corners).T
    for end in (0, -1):
        away = np.hypot(8.0 * np.log(T[end] / t), np.log(P[end] / p))
        k = int(np.argmin(away))
        if 1e-9 < away[k] < NEAR_CORNER:
            T, P = (np.insert(v, 0 if end == 0 else v.size, c[k]) for v, c in ((T, t), (P, p)))
    return T, P


def _apart(points: set[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """Return points without those that stand on another."""
    out: list[tuple[float, float]] = []
    for T, P in sorted(points):
        if all(abs(T / t - 1.0) > 1e-4 or abs(P / p - 1.0) > 1e-3 for t, p in out):
            out.append((T, P))
    return tuple(out)


def _amounts(found: Phases, water: int | None) -> Array:
    """Return the share of the aqueous phase, and of the least of three phases, of states (n,): (n, 2), zero without."""
    out = np.zeros((found.count.size, 2))
    out[:, 1] = np.where(found.count == 3, found.fraction.min(axis=-1), 0.0)
    if water is not None:
        own = (found.composition[..., water] > RICH) & (found.kind > 0)
        out[:, 0] = np.where(own, found.fraction, 0.0).sum(axis=-1)
    return out


def _three_lines(cells: Cells, edges: list[Edge], watch: Watch) -> list[ThreeLine]:
    """Return the boundaries of the three-phase region, followed from the edges of the grid that none explains yet."""
    out: list[ThreeLine] = []
    tried = 0
    for k, (inside, outside) in enumerate(edges):
        if tried > MOST_SEEDS:
            break
        ends = np.array([[cells.x[i], cells.y[j]] for i, j in (inside, outside)])
        if _explained(cells, ends.mean(axis=0), [(line.T, line.P) for line in out]):
            continue
        tried += 1
        watch.at(k / len(edges))
        start = _seed(cells, ends[0], ends[1], inside[0] == outside[0])
        if start is not None:
            out += boundary(cells.eos, cells.z, *start, watch=watch.silent())
    return out


RING = np.array([0.0015, 0.005, 0.015, 0.04])
"""Distances, in ln P and eight times ln T, at which three phases are looked for about where a line loses its
stability."""


def _beside_flips(cells: Cells, whole: PhaseMap | None, known: list[ThreeLine]) -> list[ThreeLine]:
    """Return boundaries of three-phase regions that are too thin for the grid: where a bubble or dew line ceases to be
    stable one begins."""
    out: list[ThreeLine] = []
    for part, good in zip(whole.parts, whole.stable, strict=True) if whole is not None else ():
        for k in np.flatnonzero(np.diff(good)) if part.beta in (0.0, 1.0) else ():
            x, y = (0.5 * (v[k] + v[k + 1]) for v in (part.u[:, -2], part.u[:, -1]))
            if _explained(cells, np.array([x, y]), [(line.T, line.P) for line in (*known, *out)], 0.1):
                continue
            angle, radius = np.meshgrid(np.linspace(0.0, 2.0 * np.pi, 24, endpoint=False), RING)
            T = np.exp(x + (radius * np.cos(angle)).ravel() / 8.0)
            P = np.exp(y + (radius * np.sin(angle)).ravel())
            found = cells.at(T, P)
            three = np.flatnonzero(found.count == 3)
            if three.size == 0:
                continue
            row = int(three[np.argmin(found.fraction[three].min(axis=1))])
            u, kinds, share = cells.seed(found, row)
            start = _at_nothing(cells, u, share, (u.size - 1, u.size - 2))
            if start is not None:
                out += boundary(cells.eos, cells.z, start[0], kinds, start[1])
    return out


def _at_nothing(cells: Cells, u: Array, share: Array, specs: Sequence[int]) -> tuple[Array, int] | None:
    """Return the boundary next to a three-phase state, with one of some unknowns held, and the phase that is gone
    there."""
    for given in np.argsort(share).tolist():
        for spec in specs:
            solved = solve(cells.eos, cells.z, u[None], np.array([given]), np.zeros(1), np.array([spec]), rounds=20)
            near = np.abs((solved.u[0] - u)[-2:] * [8.0, 1.0]).max() < 0.5
            if solved.converged[0] and near and (compositions(solved.u, cells.z)[1] > -1e-8).all():
                return solved.u[0], int(given)
    return None


def _seed(
    cells: Cells, inside: Array, outside: Array, upright: bool
) -> tuple[Array, tuple[Kind, Kind, Kind], int] | None:
    """Return a point on the boundary of the three-phase region that crosses an edge, with its kinds and which phase is
    gone there; None where Newton's method finds none between its ends."""
    for _ in range(4):
        middle = 0.5 * (inside + outside)
        found = cells.at(np.exp(middle[:1]), np.exp(middle[1:]))
        inside, outside = (middle, outside) if found.count[0] == 3 else (inside, middle)
    found = cells.at(np.exp(inside[:1]), np.exp(inside[1:]))
    if found.count[0] != 3:
        return None
    u, kinds, share = cells.seed(found, 0)
    start = _at_nothing(cells, u, share, (u.size - 2 if upright else u.size - 1,))
    return None if start is None else (start[0], kinds, start[1])


def _explained(cells: Cells, point: Array, lines: Sequence[tuple[Array, Array]], within: float = BESIDE) -> bool:
    """Tell whether a point in ln T and ln P lies beside one of some lines, in widths of a cell."""
    width, height = cells.x[1] - cells.x[0], cells.y[1] - cells.y[0]
    for T, P in lines:
        a, b = (np.log(T) - point[0]) / width, (np.log(P) - point[1]) / height
        if a.size < 2:
            continue
        da, db = np.diff(a), np.diff(b)
        t = np.clip(-(a[:-1] * da + b[:-1] * db) / np.maximum(da * da + db * db, 1e-300), 0.0, 1.0)
        if np.hypot(a[:-1] + t * da, b[:-1] + t * db).min() < within:
            return True
    return False


def _stable(cells: Cells, bounds: list[Boundary]) -> tuple[list[Boundary], list[tuple[float, float]]]:
    """Return the boundaries without what a fourth phase upsets, and the points where that begins."""
    out, begins = [], []
    for b in bounds:
        share = b.states.fraction
        main = b.states.composition[np.arange(b.T.size), np.argmax(share, axis=1)]
        good = stability(cells.eos, b.T, b.P, main, every_trial=True).tm > 10.0 * METASTABLE
        for run in np.split(np.arange(b.T.size), np.flatnonzero(np.diff(good)) + 1):
            if good[run[0]] and run.size > 1:
                out.append(Boundary(b.gone, b.T[run], b.P[run], b.states.take(run)))
            if run[0] > 0:
                begins.append((float(b.T[run[0]]), float(b.P[run[0]])))
    return out, begins


def _on_the_map(whole: PhaseMap | None, water: int | None) -> list[tuple[Array, Array]]:
    """Return the stretches of bubble and dew lines at which an aqueous phase forms."""
    out: list[tuple[Array, Array]] = []
    if whole is None or water is None:
        return out
    for part, good in zip(whole.parts, whole.stable, strict=True):
        if part.beta in (0.0, 1.0) and len(part.u):
            wet = good & (incipient(part, whole.z)[:, water] > RICH)
            for run in np.split(np.arange(wet.size), np.flatnonzero(np.diff(wet)) + 1):
                if wet[run[0]] and run.size > 1:
                    out.append((part.T[run], part.P[run]))
    return out


def _left(cells: Cells, edges: list[Edge], known: Sequence[tuple[Array, Array]], which: int, watch: Watch) -> Lines:
    """Return boundaries where the grid's edges are explained by no line, joined cell by cell."""
    own = [
        e
        for e in edges
        if not _explained(cells, np.array([[cells.x[i], cells.y[j]] for i, j in e]).mean(axis=0), known)
    ]
    if not own:
        return ()
    starts, ends = (np.array([[cells.x[i], cells.y[j]] for i, j in (e[k] for e in own)]) for k in (0, 1))
    points = np.exp(_crossings(cells, starts, ends, which, watch))
    place = {edge: number for number, edge in enumerate(own)}
    return tuple((points[line, 0], points[line, 1]) for line in _linked(_segments(place, GRID)))


def _quality(
    cells: Cells, lines: list[ThreeLine], fractions: Sequence[float], watch: Watch
) -> tuple[tuple[float, Phases], ...]:
    """Return the lines of the inner ``fractions`` through the three-phase region: started where the grid's vapour
    passes them along a row or a column."""
    three = np.flatnonzero(cells.found.count == 3)
    vapour = (cells.found.kind[three] == Kind.VAPOUR).any(axis=1) if three.size else np.zeros(0, dtype=bool)
    three = three[vapour]
    if three.size == 0:
        return ()
    share = np.full(cells.found.count.size, np.nan)
    share[three] = cells.found.vapour_fraction[three]
    field = share.reshape(GRID)
    out: list[tuple[float, Phases]] = []
    for k, fraction in enumerate(f for f in fractions if 0.0 < f < 1.0):
        seeds = []
        for axis, stride in ((0, GRID[1]), (1, 1)):
            with np.errstate(invalid="ignore"):
                passes = np.diff(np.sign(field - fraction), axis=axis)
            for i, j in np.argwhere(np.abs(passes) == 2.0).tolist():
                row = i * GRID[1] + j
                near = min((row, row + stride), key=lambda r: abs(share[r] - fraction))
                u, _, _ = cells.seed(cells.found, near)
                kinds = cells.names(u[None])[0][0]
                seeds.append((u, (Kind(int(kinds[0])), Kind(int(kinds[1])), Kind(int(kinds[2])))))
        seeds = [s for s in seeds if Kind.VAPOUR in s[1]]
        for line in of_fraction(cells.eos, cells.z, seeds, fraction, watch.silent()):
            names, _ = cells.names(line.u)
            out.append((fraction, cells.states(line, np.arange(len(line.u)), names)))
        watch.at((k + 1) / max(len(fractions), 1))
    return tuple(out)


def _edges(mask: Mask) -> list[Edge]:
    """Return the edges between neighbours of a grid of which one is inside, that one first."""
    out: list[Edge] = []
    for step in ((1, 0), (0, 1)):
        first = mask[: mask.shape[0] - step[0], : mask.shape[1] - step[1]]
        other = mask[step[0] :, step[1] :]
        for i, j in np.argwhere(first != other).tolist():
            ends = ((i, j), (i + step[0], j + step[1]))
            out.append(ends if mask[i, j] else ends[::-1])
    return out


def _crossings(cells: Cells, inside: Array, outside: Array, which: int, watch: Watch) -> Array:
    """Return where the boundaries cross edges, (m, 2): halved, then by the share that goes to zero there."""
    n = len(inside)
    far, far_amount = inside.copy(), np.full(n, np.nan)
    near_amount = np.full(n, np.nan)
    for halving in range(HALVINGS):
        middle = 0.5 * (inside + outside)
        here = watch.part(halving / HALVINGS, (halving + 1) / HALVINGS)
        amount = _amounts(cells.at(np.exp(middle[:, 0]), np.exp(middle[:, 1]), here), cells.water)[:, which]
        hit = amount > 0.0
        far = np.where(hit[:, None], inside, far)
        far_amount, near_amount = np.where(hit, near_amount, far_amount), np.where(hit, amount, near_amount)
        inside = np.where(hit[:, None], middle, inside)
        outside = np.where(hit[:, None], outside, middle)
    with np.errstate(invalid="ignore", divide="ignore"):
        ahead = near_amount / (far_amount - near_amount)
        point = inside + ahead[:, None] * (inside - far)
    between = ((point - inside) * (point - outside) <= 0.0).all(axis=-1) & np.isfinite(ahead)
    return np.where(between[:, None], point, 0.5 * (inside + outside))


def _segments(place: dict[Edge, int], shape: tuple[int, ...]) -> list[tuple[int, int]]:
    """Return the pairs of crossings that belong together in a cell."""
    out = []
    for i in range(shape[0] - 1):
        for j in range(shape[1] - 1):
            around = (
                ((i, j), (i + 1, j)),
                ((i + 1, j), (i + 1, j + 1)),
                ((i, j + 1), (i + 1, j + 1)),
                ((i, j), (i, j + 1)),
            )
            met = [place[e] for first, second in around for e in ((first, second), (second, first)) if e in place]
            out += list(zip(met[::2], met[1::2]))
    return out


def _linked(segments: list[tuple[int, int]]) -> list[list[int]]:
    """Return lines of points from segments that share their ends."""
    beside: dict[int, list[int]] = {}
    for a, b in segments:
        beside.setdefault(a, []).append(b)
        beside.setdefault(b, []).append(a)
    out = []
    # Open lines are walked from an end, closed ones from anywhere.
    for start in sorted(beside, key=lambda k: len(beside[k])):
        if not beside[start]:
            continue
        line = [start]
        while beside[line[-1]]:
            there = beside[line[-1]].pop()
            beside[there].remove(line[-1])
            line.append(there)
        out.append(line)
    return out
