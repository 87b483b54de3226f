"""Where in temperature and pressure a fluid has an aqueous phase, and where three phases: the boundaries of both
regions.

The states of a grid are flashed in one batch. Every edge of the grid between a state inside a region and one outside
is halved, all edges at once, and the share of the phase that begins there tells the rest; neighbouring crossings are
joined to lines cell by cell."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .multiphase import flash_all

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

GRID = (30, 28)
"""States of the grid in T and in P."""
COLDEST, HOTTEST = 230.0, 640.0
"""K. Water freezes on the way down; the equation goes on with it as a liquid."""
P_RANGE = (2e4, 1e8)
HALVINGS = 9
RICH = 0.5
"""Mole fraction of water above which a phase is one of water."""

Edge = tuple[tuple[int, int], tuple[int, int]]
"""Two neighbours of a grid by their places."""
Lines = tuple[tuple[Array, Array], ...]
"""Lines as T K and P Pa (n,) each."""


@dataclass(frozen=True)
class Regions:
    """Boundaries of the region with a phase of water, ``aqueous``, and of that with three phases, ``three``."""

    aqueous: Lines
    three: Lines


def regions(eos: Equation, z: Array, water: int | None, watch: Watch = UNWATCHED) -> Regions:
    """Return the boundaries for a feed z (nc,), normalised; ``water`` is the place of water. Raises Cancelled."""
    x, y = np.log(np.geomspace(COLDEST, HOTTEST, GRID[0])), np.log(np.geomspace(*P_RANGE, GRID[1]))
    grid_x, grid_y = np.meshgrid(x, y, indexing="ij")
    amount = _amounts(eos, z, water, grid_x.ravel(), grid_y.ravel(), watch.part(0.0, 0.4))
    masks = [(amount[:, k] > 0.0).reshape(GRID) for k in range(2)]
    edges = [_edges(mask) for mask in masks]
    starts = [np.array([[x[i], y[j]] for (i, j), _ in own]).reshape(-1, 2) for own in edges]
    ends = [np.array([[x[i], y[j]] for _, (i, j) in own]).reshape(-1, 2) for own in edges]
    which = np.repeat([0, 1], [len(e) for e in edges])
    if which.size == 0:
        return Regions((), ())
    points = _crossings(eos, z, water, np.concatenate(starts), np.concatenate(ends), which, watch.part(0.4, 1.0))
    out: list[Lines] = []
    for k, own in enumerate(edges):
        at = np.exp(points[which == k])
        place = {edge: number for number, edge in enumerate(own)}
        out.append(tuple((at[line, 0], at[line, 1]) for line in _linked(_segments(place, GRID))))
    return Regions(*out)


def _amounts(eos: Equation, z: Array, water: int | None, x: Array, y: Array, watch: Watch) -> Array:
    """Return the share of the aqueous phase, and of the least of three phases, at ln T and ln P (n,): (n, 2), zero
    without."""
    found = flash_all(eos, np.exp(x), np.exp(y), z, watch)
    out = np.zeros((x.size, 2))
    out[:, 1] = np.where(found.count == 3, found.fraction.min(axis=-1), 0.0)
    if water is not None:
        own = (found.composition[..., water] > RICH) & (found.kind > 0)
        out[:, 0] = np.where(own, found.fraction, 0.0).sum(axis=-1)
    return out


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


def _crossings(
    eos: Equation, z: Array, water: int | None, inside: Array, outside: Array, which: NDArray[np.intp], watch: Watch
) -> Array:
    """Return where the boundaries cross edges, (m, 2): halved, then by the share that goes to zero there."""
    rows = np.arange(which.size)
    far, far_amount = inside.copy(), np.full(which.size, np.nan)
    near_amount = np.full(which.size, np.nan)
    for halving in range(HALVINGS):
        middle = 0.5 * (inside + outside)
        here = watch.part(halving / HALVINGS, (halving + 1) / HALVINGS)
        amount = _amounts(eos, z, water, middle[:, 0], middle[:, 1], here)[rows, which]
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
