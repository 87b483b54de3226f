"""Where hydrates form first on the way down from warm to cold: the limits of maps and paths, many pressures,
structures and doses at once.

A :class:`Chart` holds what the fluid does over temperature and pressure; every line is first read off it and then
brought in by Newton steps on the fluid itself, many pressures, structures and doses in one batch, with slopes that
each step corrects. What does not come in so, or is so near to a hydrate on the chart that it may have been missed, is
scanned by :mod:`.branches`."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ..watch import UNWATCHED, Watch
from .activity import Doses
from .branches import every_temperature
from .lattice import STRUCTURES, lowering
from .potentials import COLDEST, HIGHEST, HOTTEST, LOWEST, empty_over_water, given, stability
from .surroundings import Host, Surroundings
from .water import ICE_POINT, water_over_ice

if TYPE_CHECKING:
    from scipy.interpolate import RegularGridInterpolator

Array = NDArray[np.float64]
Places = NDArray[np.intp]

ROWS, COLUMNS = 30, 9
FINE = 201
"""Temperatures at which a chart is read."""
TOLERANCE = 1e-7
"""Of T in K."""
NEWTON_STEPS = 7
FAR = 12.0
"""K; a step of Newton's that leads farther is left to scanning."""
MISSED = -0.015
"""Stability, in R T, from which on a chart that shows no limit may have missed one."""


@dataclass(frozen=True)
class Wanted:
    """A batch of questions: pressure or temperature, structure and place of the dose of each, (N,)."""

    value: Array
    structure: Places
    dose: Places

    @staticmethod
    def grid(values: Array, doses: int = 1) -> Wanted:
        """Return every combination, (structures, doses, values) flattened."""
        s, d, v = np.meshgrid(np.arange(len(STRUCTURES)), np.arange(doses), values, indexing="ij")
        return Wanted(v.ravel(), s.ravel(), d.ravel())

    def take(self, rows: Places) -> Wanted:
        """Return those of ``rows``."""
        return Wanted(self.value[rows], self.structure[rows], self.dose[rows])


@dataclass(frozen=True)
class Chart:
    """What a hydrate sees of ``host`` over ln P and T: a start for every question about it."""

    host: Host
    grid: RegularGridInterpolator

    @staticmethod
    def of(host: Host, watch: Watch = UNWATCHED) -> Chart:
        """Return the chart of a host. Raises Cancelled."""
        from scipy.interpolate import RegularGridInterpolator

        lnP, T = np.linspace(np.log(LOWEST), np.log(HIGHEST), ROWS), np.linspace(COLDEST, HOTTEST, COLUMNS)
        a, b = (v.ravel() for v in np.meshgrid(lnP, T, indexing="ij"))
        seen = host.around(b, np.exp(a), watch)
        with np.errstate(divide="ignore"):
            values = np.column_stack([np.log(seen.f) - a[:, None], seen.ln_activity])
        whole = _filled(values.reshape(ROWS, COLUMNS, -1))
        return Chart(host, RegularGridInterpolator((lnP, T), whole, bounds_error=False, fill_value=None))

    def seen(self, T: Array, P: Array) -> Surroundings:
        """Return what a hydrate sees about T and P, read off the chart."""
        read = self.grid(np.column_stack([np.log(P), T]))
        return Surroundings(np.exp(read[:, :-1]) * P[:, None], read[:, -1], np.full(T.size, np.nan))

    def temperatures(self, asked: Wanted, doses: Sequence[Doses]) -> tuple[Array, Array, Array]:
        """Return about where structures begin at given pressures, K (N,), nan where none does, the slope of their
        stability there, and the most that it comes to (N,)."""
        T = np.linspace(COLDEST, HOTTEST, FINE)
        n = asked.value.size
        if not n:
            return np.zeros(0), np.zeros(0), np.zeros(0)
        each, back = np.unique(np.log(asked.value), return_inverse=True)
        P = np.exp(np.repeat(each, FINE))
        seen = self.seen(np.tile(T, each.size), P)
        out = np.full((n, FINE), np.nan)
        for s in range(len(STRUCTURES)):
            down = lowering(s, np.tile(T, each.size), seen.f, self.host.names).reshape(-1, FINE)
            for d, dose in enumerate(doses):
                rows = np.flatnonzero((asked.structure == s) & (asked.dose == d))
                if rows.size:
                    a = seen.ln_activity + np.tile(given(T, dose), each.size)
                    up = empty_over_water(np.tile(T, each.size), P, s, a).reshape(-1, FINE)
                    out[rows] = (down - up)[back[rows]]
        # The last change of sign on the way down from warm to cold.
        over = (out[:, :-1] > 0.0) & (out[:, 1:] <= 0.0)
        at = FINE - 2 - np.argmax(over[:, ::-1], axis=-1)
        rows = np.arange(n)
        left, right = out[rows, at], out[rows, at + 1]
        step = T[1] - T[0]
        slope = (right - left) / step
        return np.where(over.any(axis=-1), T[at] - left / slope, np.nan), slope, out.max(axis=-1)


def _filled(values: Array) -> Array:
    """Return values (rows, columns, n) with what was not found taken from the nearest row, a start is all it serves
    for."""
    for row in range(1, len(values)):
        values[row] = np.where(np.isfinite(values[row]), values[row], values[row - 1])
    for row in range(len(values) - 2, -1, -1):
        values[row] = np.where(np.isfinite(values[row]), values[row], values[row + 1])
    return np.nan_to_num(values, nan=-50.0, neginf=-50.0)


def temperatures(chart: Chart, asked: Wanted, doses: Sequence[Doses], watch: Watch = UNWATCHED) -> Array:
    """Return the temperatures below which a structure is stable at given pressures, K (N,).

    nan where there is none between :data:`COLDEST` and :data:`HOTTEST`, or where the fluid's state there was not
    found. Raises Cancelled."""
    out, slope, top = chart.temperatures(asked, doses)
    rows = np.flatnonzero(np.isfinite(out))
    near = np.isnan(out) & (top > MISSED)
    out[rows] = _brought_in(chart.host, asked.take(rows), doses, out[rows], slope[rows], watch)
    lost = np.flatnonzero(near | np.isin(np.arange(out.size), rows[np.isnan(out[rows])]))
    if lost.size:
        out[lost] = _warmest(chart.host, asked.take(lost), doses, watch.part(0.8, 1.0))
    return out


def _brought_in(host: Host, asked: Wanted, doses: Sequence[Doses], start: Array, slope: Array, watch: Watch) -> Array:
    """Return where stabilities vanish, by Newton's steps from ``start`` with slopes that are corrected along the way;
    nan where they lead elsewhere."""
    x, slope = start.copy(), slope.copy()
    value, moved = np.zeros(x.size), np.zeros(x.size)
    rows = np.arange(x.size)
    for step in range(NEWTON_STEPS):
        if not rows.size:
            break
        watch.at(step / (NEWTON_STEPS + 3))
        part = asked.take(rows)
        new = _each(host, x[rows], part.value, part, doses)
        if step:
            secant = (new - value[rows]) / moved[rows]
            slope[rows] = np.where(secant * slope[rows] > 0.0, secant, slope[rows])
        move = -new / slope[rows]
        # A limit on the way from unstable to stable is none.
        good = (np.abs(x[rows] + move - start[rows]) < FAR) & (slope[rows] < 0.0)
        value[rows], moved[rows] = new, move
        x[rows] = np.where(good, x[rows] + move, np.nan)
        rows = rows[good & (np.abs(move) >= TOLERANCE)]
    x[rows] = np.nan
    return x


def _warmest(host: Host, asked: Wanted, doses: Sequence[Doses], watch: Watch) -> Array:
    """Return the warmest limits by a scan of each pressure, K (N,), nan where there is none."""
    out = np.full(asked.value.size, np.nan)
    P, back = np.unique(asked.value, return_inverse=True)
    there = np.unique(asked.dose)
    found = every_temperature(host, P, [doses[d] for d in there], watch)
    for k in range(out.size):
        mine = (found.row == back[k]) & (found.structure == asked.structure[k]) & (there[found.dose] == asked.dose[k])
        limits = found.value[mine & ~found.above]
        if limits.size:
            out[k] = limits.max()
    return out


def _each(host: Host, T: Array, P: Array, asked: Wanted, doses: Sequence[Doses]) -> Array:
    """Return :func:`stability` of states that each have their own structure and dose."""
    seen = host.around(T, P)
    out, dose = np.full(T.size, np.nan), np.zeros(T.size)
    for d, mass in enumerate(doses):
        rows = np.flatnonzero(asked.dose == d)
        dose[rows] = given(T[rows], mass)
    for s in range(len(STRUCTURES)):
        rows = np.flatnonzero(asked.structure == s)
        if rows.size:
            out[rows] = stability(host, T[rows], P[rows], s, dose[rows], seen.take(rows))
    return out


def ice_temperatures(chart: Chart, P: Array, dose: Doses) -> Array:
    """Return the temperatures at which the water beside the fluid freezes with a ``dose`` at P (N,) Pa, K; nan below
    :data:`COLDEST`.

    What the gas dissolved in it does to its activity is read off the chart, which is then moved to what the fluid
    says where that freezes."""
    from scipy.optimize.elementwise import find_root

    P = np.asarray(P, dtype=float)

    def frozen(shift: Array) -> Array:
        def difference(T: Array, index: Array) -> Array:
            t, rows = T.ravel(), index.ravel().astype(np.intp)
            activity = given(t, dose) + chart.seen(t, P[rows]).ln_activity + shift[rows]
            return (activity + water_over_ice(t, P[rows])).reshape(T.shape)

        ends = np.full(P.size, COLDEST), np.full(P.size, ICE_POINT + 0.5)
        found = find_root(difference, ends, args=(np.arange(P.size, dtype=float),), tolerances={"xatol": TOLERANCE})
        return np.where(found.success, found.x, np.nan)

    shift = np.zeros(P.size)
    about = frozen(shift)
    rows = np.flatnonzero(np.isfinite(about))
    if rows.size:
        t, p = about[rows], P[rows]
        shift[rows] = chart.host.around(t, p).ln_activity - chart.seen(t, p).ln_activity
    return frozen(shift)
