"""Limits of hydrates of many fluids moved from those of one: samples of a fluid about the fluid as it stands.

The limit of each structure is brought in for every fluid from where the base has it, by Newton's steps whose slopes
are corrected on the way, all of them in one batch; what goes elsewhere is left to be looked for by itself. Shapes: N
limits, each of a fluid, a structure, a dose and a temperature or pressure of its own."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..watch import UNWATCHED, Watch
from .activity import Doses
from .lattice import STRUCTURES
from .potentials import COLDEST, HIGHEST, HOTTEST, LOWEST, given, stability
from .surroundings import Host

Array = NDArray[np.float64]
Places = NDArray[np.intp]

STEPS = 14
CLOSE = {True: 1e-9, False: 1e-7}
"""Of ln P, and of T in K, at which a limit has come in."""
FARTHEST = {True: 1.2, False: 12.0}
"""How far, in ln P or in K, a limit may lie from the base's."""
APART = {True: 2e-3, False: 0.05}
"""Difference that the first slope is taken over."""


@dataclass(frozen=True)
class Sought:
    """Limits that are looked for: ``held`` temperatures K or pressures Pa, the place of each ``structure``, the
    ``dose`` by name as arrays, and where the base has them (``start``: pressures or temperatures), (N,) each;
    ``by_T`` where temperatures are held."""

    held: Array
    structure: Places
    dose: Doses
    start: Array
    by_T: bool

    def take(self, rows: Places) -> Sought:
        """Return the limits ``rows``."""
        dose = {n: w[rows] for n, w in self.dose.items()}
        return replace(self, held=self.held[rows], structure=self.structure[rows], dose=dose, start=self.start[rows])

    def states(self, x: Array) -> tuple[Array, Array]:
        """Return T and P at x, ln P or T."""
        return (self.held, np.exp(x)) if self.by_T else (x, self.held)


def _stabilities(host: Host, T: Array, P: Array, dose: Doses) -> Array:
    """Return the stability of every structure at each state, (structures, N)."""
    seen, ln_a = host.around(T, P), given(T, dose)
    return np.array([stability(host, T, P, s, ln_a, seen) for s in range(len(STRUCTURES))])


def moved_limits(host: Host, sought: Sought, watch: Watch = UNWATCHED) -> tuple[Array, NDArray[np.bool_]]:
    """Return the pressures Pa or temperatures K of limits (N,), each of the fluid of its own row of ``host``, nan where
    one was not found near the base's; and whether no other structure is stable there, (N,). Raises Cancelled."""
    by_T = sought.by_T
    x = np.log(sought.start) if by_T else sought.start.copy()
    begin, n = x.copy(), x.size
    rows = np.arange(n)
    first, slope = _slope(host, sought, x)
    value, done = first, np.zeros(n, bool)
    alone = np.zeros(n, bool)
    for step in range(STEPS):
        watch.at(step / STEPS)
        move = np.clip(-value[rows] / slope[rows], -0.3 * FARTHEST[by_T], 0.3 * FARTHEST[by_T])
        good = np.isfinite(move) & (np.abs(x[rows] + move - begin[rows]) < FARTHEST[by_T])
        x[rows[~good]] = np.nan
        rows, move = rows[good], move[good]
        if not rows.size:
            break
        x[rows] += move
        part = sought.take(rows)
        every = _stabilities(host.take(rows), *part.states(x[rows]), part.dose)
        own = every[part.structure, np.arange(rows.size)]
        others = np.where(np.arange(len(STRUCTURES))[:, None] == part.structure, -np.inf, every)
        alone[rows] = ~(others > 0.0).any(axis=0)
        with np.errstate(divide="ignore", invalid="ignore"):
            secant = (own - value[rows]) / move
        better = np.isfinite(secant) & (secant * slope[rows] > 0.0) & (np.abs(move) > CLOSE[by_T])
        slope[rows] = np.where(better, secant, slope[rows])
        value[rows] = own
        settled = np.abs(move) < CLOSE[by_T]
        done[rows[settled]] = True
        rows = rows[~settled]
        if not rows.size:
            break
    out = np.exp(x) if by_T else x
    inside = (out >= LOWEST) & (out <= HIGHEST) if by_T else (out >= COLDEST) & (out <= HOTTEST)
    return np.where(done & inside, out, np.nan), alone


def _slope(host: Host, sought: Sought, x: Array) -> tuple[Array, Array]:
    """Return the stability of each limit's structure at x (N,), and how it follows x."""
    at = np.arange(x.size)
    h = APART[sought.by_T]
    here, there = (_stabilities(host, *sought.states(v), sought.dose)[sought.structure, at] for v in (x, x + h))
    return here, (there - here) / h
