"""The grid on which three phases are looked for, and what the phases of the lines found from it are called."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .multiphase import flash_all
from .naming import RICH
from .phases import Kind, Phases
from .three_lines import ThreeLine
from .three_points import compositions, in_order, unknowns

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Boundary:
    """A stretch of the three-phase region's boundary: T K and P Pa (n,), the phase that is ``gone`` there, and the
    points as states of three phases."""

    gone: Kind
    T: Array
    P: Array
    states: Phases


def where_alike(u: Array, apart: Array, cut: int) -> Array:
    """Return the point of a line u (n, m) between ``cut`` - 1 and ``cut`` where two phases become one: there what is
    ``apart`` (n,) between them passes through zero, about linearly, and the line is interpolated in it."""
    rows = np.arange(max(cut - 2, 0), min(cut + 2, len(u)))
    if rows.size < 4 or not ((np.diff(apart[rows]) > 0.0).all() or (np.diff(apart[rows]) < 0.0).all()):
        rows = np.array([cut - 1, cut])
    at = apart[rows]
    if len(set(at.tolist())) < at.size:
        return np.asarray(u[rows].mean(axis=0))
    weights = [np.prod([-b / (a - b) for j, b in enumerate(at) if j != i]) for i, a in enumerate(at)]
    return np.asarray(np.asarray(weights) @ u[rows])


ALIKE = 0.1
"""The most by which mole fractions of two phases differ between points of a line beside a critical end point."""


def steady(names: NDArray[np.int64], x: Array) -> NDArray[np.int64]:
    """Return the kinds of phases (n, 3) along a line, compositions x (n, 3, nc), changed only where two of them are
    alike; between such places all have the kinds of most of the points."""
    out, start = names.copy(), 0
    for cut in [*(np.flatnonzero((np.diff(names, axis=0) != 0).any(axis=1)) + 1).tolist(), len(names)]:
        if cut < len(names):
            a, b = np.flatnonzero(names[cut] != names[cut - 1])[[0, -1]]
            if np.abs(x[cut - 1 : cut + 1, a] - x[cut - 1 : cut + 1, b]).max(axis=-1).min() > ALIKE:
                continue
        kinds, often = np.unique(names[start:cut], axis=0, return_counts=True)
        out[start:cut] = kinds[np.argmax(often)]
        start = cut
    return out


def told(u: Array) -> tuple[float, float]:
    """Return T, K, and P, Pa, of unknowns (n,) that end in their logarithms."""
    return float(np.exp(u[-2])), float(np.exp(u[-1]))


class Cells:
    """The grid of a feed with its states, and what phases of three-phase states are called."""

    def __init__(self, eos: Equation, z: Array, water: int | None, x: Array, y: Array, found: Phases) -> None:
        self.eos, self.z, self.water, self.x, self.y, self.found = eos, z, water, x, y, found
        self.ends: list[tuple[float, float]] = []

    def at(self, T: Array, P: Array, watch: Watch = UNWATCHED) -> Phases:
        """Return the states at T K and P Pa (n,)."""
        return flash_all(self.eos, T, P, self.z, watch)

    def seed(self, found: Phases, row: int) -> tuple[Array, tuple[Kind, Kind, Kind], Array]:
        """Return a three-phase state as unknowns (m,), its kinds, and its shares (3,)."""
        order = list(in_order(found.composition[row]))
        x, share = found.composition[row, order], found.fraction[row, order]
        u = unknowns(x[None], share[None], found.T[row : row + 1], found.P[row : row + 1])[0]
        return u, self.kinds(x[None])[0], share

    def kinds(self, x: Array) -> list[tuple[Kind, Kind, Kind]]:
        """Return what the three phases of compositions x (n, 3, nc) are called, by the water in them and their volume."""
        out = []
        for row in x / x.sum(axis=-1, keepdims=True):
            names = [Kind.LIQUID] * 3
            if self.water is not None:
                names = [Kind.AQUEOUS if v > RICH else Kind.LIQUID for v in row[:, self.water]]
            out.append(names)
        return [(a[0], a[1], a[2]) for a in out]

    def named(self, line: ThreeLine) -> list[Boundary]:
        """Return a line in stretches of which each has one name for the phase that is gone: the thinnest phase is the
        vapour, which another is beyond a critical end point."""
        names, packing = self.names(line.u)
        gone = names[:, line.given]
        cuts = np.flatnonzero(np.diff(gone)) + 1
        for cut in cuts:
            before, after = (int(np.argmin(names[k])) for k in (cut - 1, cut))
            self.ends.append(told(where_alike(line.u, packing[:, before] - packing[:, after], int(cut))))
        out = []
        for run in np.split(np.arange(len(line.u)), cuts):
            # Neighbouring stretches meet at the critical end point.
            more = run if run[0] == 0 else np.concatenate([[run[0] - 1], run])
            states = self.states(line, more, names[run])
            if len(more) > 1:
                out.append(Boundary(Kind(int(gone[run[0]])), states.T, states.P, states))
        return out

    def names(self, u: Array) -> tuple[NDArray[np.int64], Array]:
        """Return the kinds of the phases of points u (n, m), and how densely they are packed, both (n, 3)."""
        x, _ = compositions(u, self.z)
        x = x / x.sum(axis=-1, keepdims=True)
        T, P = np.exp(u[:, -2]), np.exp(u[:, -1])
        state = self.eos.prepare(T, P)
        # By packing as flashes name them: a dense gas may have less volume a mole than an oil of large molecules.
        packing = np.stack([state.packing(x[:, k], state.ln_phi(x[:, k])[1]) for k in range(3)], axis=1)
        wet = x[..., self.water] > RICH if self.water is not None else np.zeros(packing.shape, dtype=bool)
        # Hot vapour may be mostly water too.
        thinnest = np.argmin(packing, axis=1)
        out = np.where(wet, int(Kind.AQUEOUS), int(Kind.LIQUID))
        out[np.arange(len(u)), thinnest] = int(Kind.VAPOUR)
        return steady(np.asarray(out, dtype=np.int64), x), packing

    def states(self, line: ThreeLine, rows: NDArray[np.intp], names: NDArray[np.int64]) -> Phases:
        """Return points of a line as states of three phases, the vapour first, water last."""
        x, share = compositions(line.u[rows], self.z)
        x = x / x.sum(axis=-1, keepdims=True)
        n = rows.size
        kinds = names if len(names) == n else np.concatenate([names[:1], names])
        order = np.argsort(kinds, axis=1, kind="stable")
        take = np.take_along_axis
        T, P = line.T[rows], line.P[rows]
        x = take(x, order[..., None], axis=1)
        state = self.eos.prepare(T, P)
        Z = np.stack([state.ln_phi(x[:, k])[1] for k in range(3)], axis=1)
        zero = np.zeros(n)
        return Phases(
            T, P, np.tile(self.z, (n, 1)), take(kinds, order, axis=1).astype(np.int8),
            np.clip(take(share, order, axis=1), 0.0, 1.0), x, Z, np.zeros((n, 3), dtype=np.int8),
            np.zeros(n, dtype=np.int8), zero, np.zeros(n, dtype=np.int64),
        )  # fmt: skip
