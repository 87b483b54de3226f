"""Where hydrates form: temperatures at given pressures, pressures at given temperatures, and the activity of water that keeps them away.

A :class:`Chart` holds what the fluid does over temperature and pressure; every line is first read off it and then brought in by Newton steps on
the fluid itself, many pressures, structures and doses in one batch, with slopes that each step corrects. What does not come in so is bracketed
(Chandrupatla, Adv. Eng. Softw. 28, 145, 1997). At a given pressure a structure is stable below one temperature; at a given temperature it may be stable
between pressures (a liquid can leave the hydrate again when it is compressed), of which the lowest is told.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import RegularGridInterpolator
from scipy.optimize.elementwise import find_root

from ..watch import UNWATCHED, Watch
from .activity import Doses, ln_activity
from .lattice import STRUCTURES, lowering
from .surroundings import Host, Surroundings
from .water import ICE_POINT, water_over_ice

Array = NDArray[np.float64]
Places = NDArray[np.intp]

COLDEST, HOTTEST = 233.15, 325.0
"""K, between which the lattice's constants hold."""
LOWEST, HIGHEST = 5e3, 100e6
"""Pa, between which pressures at given temperatures are looked for."""
ROWS, COLUMNS = 30, 9
FINE = 201
"""Temperatures at which a chart is read."""
TOLERANCE = 1e-7
"""Of T in K; of pressures the same in ln P times 100 K."""
NEWTON_STEPS = 7
FAR = 12.0
"""K; a step of Newton's that leads farther is left to bracketing."""


def stability(host: Host, T: Array, P: Array, structure: int, dose: Array, seen: Surroundings | None = None) -> Array:
    """Return by how much the hydrate's water is lower than the water beside it, in R T, (N,): positive where the hydrate is stable.

    ``dose`` (N,) is ln of the activity that inhibitors give to water. Water is a liquid or ice, whichever is lower; nan where the fluid's
    state was not found.
    """
    seen = host.around(T, P) if seen is None else seen
    return lowering(structure, T, seen.f, host.names) - empty_over_water(T, P, structure, seen.ln_activity + dose)


def empty_over_water(T: Array, P: Array, structure: int, ln_a: Array) -> Array:
    """Return (mu_empty - mu_water)/(R T) of water at activities ``ln_a`` (N,), as ice where it would freeze."""
    own = STRUCTURES[structure]
    frozen = -water_over_ice(T, P)
    ice = (frozen < 0.0) & (frozen < ln_a)
    return np.where(ice, own.above_ice(T, P), own.above_water(T, P) - ln_a)


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

    def temperatures(self, asked: Wanted, doses: Sequence[Doses]) -> tuple[Array, Array]:
        """Return about where structures begin at given pressures, K (N,), nan where none does, and the slope of their stability there."""
        T = np.linspace(COLDEST, HOTTEST, FINE)
        n = asked.value.size
        if not n:
            return np.zeros(0), np.zeros(0)
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
        return np.where(over.any(axis=-1), T[at] - left / slope, np.nan), slope


def _filled(values: Array) -> Array:
    """Return values (rows, columns, n) with what was not found taken from the nearest row, a start is all it serves for."""
    for row in range(1, len(values)):
        values[row] = np.where(np.isfinite(values[row]), values[row], values[row - 1])
    for row in range(len(values) - 2, -1, -1):
        values[row] = np.where(np.isfinite(values[row]), values[row], values[row + 1])
    return np.nan_to_num(values, nan=-50.0, neginf=-50.0)


def given(T: Array, dose: Doses) -> Array:
    """Return ln of the activity that a dose gives to water at T (N,) K."""
    return ln_activity(T, dose) if dose else np.zeros(T.size)


def temperatures(chart: Chart, asked: Wanted, doses: Sequence[Doses], watch: Watch = UNWATCHED) -> Array:
    """Return the temperatures below which a structure is stable at given pressures, K (N,).

    nan where there is none between :data:`COLDEST` and :data:`HOTTEST`, or where the fluid's state there was not found. Raises Cancelled.
    """
    start, slope = chart.temperatures(asked, doses)
    rows = np.flatnonzero(np.isfinite(start))

    def difference(T: Array, part: Wanted) -> Array:
        return _each(chart.host, T, part.value, part, doses)

    out = np.full(asked.value.size, np.nan)
    ends = np.full(rows.size, COLDEST), np.full(rows.size, HOTTEST)
    out[rows] = _brought_in(difference, asked.take(rows), start[rows], slope[rows], ends, 1.0, watch)
    return out


def pressures(chart: Chart, asked: Wanted, doses: Sequence[Doses], watch: Watch = UNWATCHED) -> Array:
    """Return the lowest pressures at which a structure is stable at given temperatures, Pa (N,); nan where there is none from
    :data:`LOWEST` to :data:`HIGHEST`. Raises Cancelled."""
    lnP = np.linspace(np.log(LOWEST), np.log(HIGHEST), 2 * ROWS)
    shape = len(STRUCTURES), len(doses), lnP.size
    grid = Wanted.grid(np.exp(lnP), len(doses))
    T, slope = (v.reshape(shape) for v in chart.temperatures(grid, doses))
    n = asked.value.size
    start, rise, low, high = (np.full(n, np.nan) for _ in range(4))
    for k, (t, s, d) in enumerate(zip(asked.value, asked.structure, asked.dose)):
        line = T[s, d]
        over = np.flatnonzero((line[1:] >= t) & ~(line[:-1] >= t))
        if over.size:
            i = over[0]
            run = line[i + 1] - line[i]
            share = (t - line[i]) / run if np.isfinite(run) and run else 1.0
            start[k] = lnP[i] + share * (lnP[i + 1] - lnP[i])
            along = run / (lnP[i + 1] - lnP[i]) if np.isfinite(run) else 10.0
            rise[k] = -slope[s, d, i + 1] * max(along, 0.1)
            low[k], high[k] = lnP[max(i - 2, 0)], lnP[min(i + 3, lnP.size - 1)]
    rows = np.flatnonzero(np.isfinite(start))

    def difference(x: Array, part: Wanted) -> Array:
        return _each(chart.host, part.value, np.exp(x), part, doses)

    out = np.full(n, np.nan)
    ends = low[rows], high[rows]
    out[rows] = np.exp(_brought_in(difference, asked.take(rows), start[rows], rise[rows], ends, 0.01, watch))
    return out


def _brought_in(
    difference: Callable[[Array, Wanted], Array], asked: Wanted, start: Array, slope: Array, ends: tuple[Array, Array], scale: float,
    watch: Watch,
) -> Array:  # fmt: skip
    """Return where ``difference`` vanishes, by Newton's steps from ``start`` with slopes that are corrected along the way, or bracketed."""
    x, slope = start.copy(), slope.copy()
    value, moved = np.zeros(x.size), np.zeros(x.size)
    rows = np.arange(x.size)
    for step in range(NEWTON_STEPS):
        if not rows.size:
            break
        watch.at(step / (NEWTON_STEPS + 3))
        new = difference(x[rows], asked.take(rows))
        if step:
            secant = (new - value[rows]) / moved[rows]
            slope[rows] = np.where(secant * slope[rows] > 0.0, secant, slope[rows])
        move = -new / slope[rows]
        good = np.abs(x[rows] + move - start[rows]) < FAR * scale
        value[rows], moved[rows] = new, move
        x[rows] = np.where(good, x[rows] + move, np.nan)
        rows = rows[good & (np.abs(move) >= TOLERANCE * scale)]
    x[rows] = np.nan
    return _bracketed(difference, asked, x, np.flatnonzero(np.isnan(x)), ends, scale, watch)


def _bracketed(
    difference: Callable[[Array, Wanted], Array], asked: Wanted, x: Array, rows: Places, ends: tuple[Array, Array], scale: float,
    watch: Watch,
) -> Array:  # fmt: skip
    if not rows.size:
        return x

    def one(v: Array, index: Array) -> Array:
        watch.check()
        return difference(v.ravel(), asked.take(index.ravel().astype(np.intp))).reshape(v.shape)

    found = find_root(
        one, (ends[0][rows], ends[1][rows]), args=(rows.astype(float),), tolerances={"xatol": TOLERANCE * scale}, maxiter=60
    )  # fmt: skip
    out = x.copy()
    out[rows] = np.where(found.success, found.x, np.nan)
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
    """Return the temperatures at which the water beside the fluid freezes with a ``dose`` at P (N,) Pa, K; nan below :data:`COLDEST`.

    What the gas dissolved in it does to its activity is read off the chart, which is then moved to what the fluid says where that freezes.
    """
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


def wanted_activity(host: Host, T: Array, P: Array, watch: Watch = UNWATCHED) -> tuple[Array, Places]:
    """Return ln of the activity that inhibitors must give to water so that no structure is stable at T and P, (N,), 0 or more where none
    is needed, and the place of the structure that asks for it."""
    seen = host.around(T, P, watch)
    each = np.stack([
        own.above_water(T, P) - seen.ln_activity - lowering(s, T, seen.f, host.names) for s, own in enumerate(STRUCTURES)
    ])  # fmt: skip
    return np.asarray(each.min(axis=0)), np.asarray(each.argmin(axis=0))
