"""States at a given temperature or pressure and a measured quantity, many of one feed at once.

A search by flashes of its own spends most of its time on proving again and again which phases there are. Here a
coarse chart of the feed tells where each state lies and which phases are there; they are followed without proof while
the quantity is met, and proved once, at the end. What is not found so, or does not stand the proof, is left to the
search that flashes at every step."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..watch import Watch
from .flash import flash_near
from .measured import Fluids, deviation
from .multiphase import PLACES, with_third
from .phases import Phases
from .stability import stability

Array = NDArray[np.float64]
Rows = NDArray[np.intp]

FEWEST = 100
"""States from which on a chart pays."""
KNOWN, SOUGHT = 16, 48
"""Points of the chart along what is given and along what is sought."""
STEPS = 10
LONGEST = 0.05
"""Largest step in the logarithm of what is sought."""
TOLERANCE = 1e-11


def near_states(
    fluids: Fluids,
    known: str,
    value: Array,
    key: str,
    target: Array,
    sense: float,
    box: tuple[Array, Array],
    watch: Watch,
) -> tuple[Rows, Phases | None, Array]:
    """Return which states (of N) were found, those, and where to begin the search for the others (N,), nan where
    nothing is known.

    Arguments as of :func:`cryonome.equilibrium.one_known.monotone`; ``box`` are the least and the most of what is
    sought."""
    n = value.size
    start = np.full(n, np.nan)
    none = np.empty(0, dtype=np.intp)
    if n < FEWEST or fluids.z.shape[1] == 1 or fluids.eos.batched or (fluids.z != fluids.z[0]).any():
        return none, None, start
    chart = _Chart.of(fluids, known, value, key, (float(box[0].min()), float(box[1].max())), watch.part(0.0, 0.2))
    x, slope, near, mixed = chart.place(key, value, target, sense)
    start[:] = np.exp(x)
    live = np.flatnonzero(np.isfinite(x))
    phases = near.take(live)
    x, slope, mixed = x[live], slope[live], mixed[live]
    values, targets, here = value[live], target[live], fluids.take(live)

    def at(x: Array, rows: Rows | slice) -> tuple[Array, Array]:
        known_here, sought = values[rows], np.exp(x)
        return (known_here, sought) if known == "T" else (sought, known_here)

    # Where the corners of the chart disagree, a flash tells which phases are there.
    rows = np.flatnonzero(mixed)
    if rows.size:
        first = here.take(rows).at(*at(x[rows], rows), watch.part(0.2, 0.4))
        phases = _put(phases.widened(PLACES), rows, first)
    f = np.full(live.size, np.inf)
    going = np.arange(live.size)
    before: tuple[Array, Array] | None = None
    for number in range(STEPS):
        watch.at(0.4 + 0.4 * number / STEPS)
        T, P = at(x[going], going)
        part = here.take(going)
        found = flash_near(fluids.eos, T, P, part.z, phases.take(going))
        phases = _put(phases, going, found)
        measured = part.whole(found, (key,))[key]
        now = sense * deviation(key, measured, targets[going], T)
        f[going] = now
        if before is not None:
            with np.errstate(divide="ignore", invalid="ignore"):
                secant = (now - before[1]) / (x[going] - before[0])
                # A slope unlike the one before is that of a change of phases on the way.
                like = (secant > 0.2 * slope[going]) & (secant < 5.0 * slope[going])
            slope[going] = np.where(like, secant, slope[going])
        keep = (np.abs(now) >= TOLERANCE) & found.converged
        if not keep.any():
            break
        going, now = going[keep], now[keep]
        before = x[going], now
        x[going] = x[going] - np.clip(now / slope[going], -LONGEST, LONGEST)
    met = np.flatnonzero((np.abs(f) < TOLERANCE) & phases.converged)
    proved = met[_proved(here.take(met), phases.take(met), watch.part(0.8, 1.0))]
    start[live] = np.exp(x)
    return live[proved], phases.take(proved), start


def _put(phases: Phases, rows: Rows, part: Phases) -> Phases:
    """Return states with the ``rows`` replaced."""
    wide = part.widened(phases.kind.shape[-1])
    fields = {}
    for name in phases.__dataclass_fields__:
        values = getattr(phases, name).copy()
        values[rows] = getattr(wide, name)
        fields[name] = values
    return Phases(**fields)


def _proved(fluids: Fluids, phases: Phases, watch: Watch) -> NDArray[np.bool_]:
    """Tell which states (N,) are the stable ones."""
    stable = np.ones(phases.T.size, dtype=bool)
    one, two = np.flatnonzero(phases.count == 1), np.flatnonzero(phases.count == 2)
    if one.size:
        part = phases.take(one)
        test = stability(fluids.eos, part.T, part.P, part.z, watch=watch)
        stable[one] = test.converged & ~test.unstable
    if two.size:
        part = phases.take(two)
        proved = with_third(fluids.eos, part, watch)
        stable[two] = (proved.count == 2) & (np.abs(proved.fraction[:, 0] - part.fraction[:, 0]) < 1e-10)
    return stable


@dataclass(frozen=True)
class _Chart:
    """A feed's states over what is ``given`` (k,) and what is ``sought`` (m,), logarithms both: ``phases`` and
    ``values`` (k, m)."""

    given: Array
    sought: Array
    known: str
    phases: Phases
    values: Array

    @classmethod
    def of(cls, fluids: Fluids, known: str, value: Array, key: str, ends: tuple[float, float], watch: Watch) -> _Chart:
        """Flash the feed over the range of ``value`` and ``ends``."""
        given = np.linspace(np.log(value.min()), np.log(value.max()) + 1e-9, KNOWN)
        sought = np.linspace(np.log(ends[0]), np.log(ends[1]), SOUGHT)
        a, b = (v.reshape(-1) for v in np.exp(np.meshgrid(given, sought, indexing="ij")))
        T, P = (a, b) if known == "T" else (b, a)
        feed = Fluids(
            fluids.eos, np.ascontiguousarray(np.broadcast_to(fluids.z[0], (T.size, fluids.z.shape[1]))), fluids.whole
        )
        phases = feed.at(T, P, watch)
        values = np.where(phases.converged, feed.whole(phases, (key,))[key], np.nan)
        return cls(given, sought, known, phases, values.reshape(KNOWN, SOUGHT))

    def place(
        self, key: str, value: Array, target: Array, sense: float
    ) -> tuple[Array, Array, Phases, NDArray[np.bool_]]:
        """Return for N states where they lie along what is sought (N,), nan where the chart does not tell, the slope
        of the deviation there (N,), the phases of the nearest point of the chart, and whether the points around
        disagree on them."""
        n = value.size
        each = np.arange(n)
        rise = (np.log(value) - self.given[0]) / (self.given[1] - self.given[0])
        i = np.clip(rise.astype(np.intp), 0, KNOWN - 2)
        a = np.clip(rise - i, 0.0, 1.0)
        # Densities change by orders: their logarithm is what is straight.
        chart = np.log(self.values) if key == "density" else self.values
        along = (1.0 - a)[:, None] * chart[i] + a[:, None] * chart[i + 1]
        along = np.exp(along) if key == "density" else along
        T = np.exp(self.sought)[None, :] if self.known == "P" else value[:, None]
        off = sense * deviation(key, along, target[:, None], np.broadcast_to(T, along.shape))
        crosses = (off[:, :-1] <= 0.0) & (off[:, 1:] > 0.0)
        j = np.argmax(crosses, axis=1)
        low, high = off[each, j], off[each, j + 1]
        b = low / (low - high)
        step = self.sought[1] - self.sought[0]
        x = np.where(crosses.any(axis=1), self.sought[j] + b * step, np.nan)
        corners = np.stack([(i + p) * SOUGHT + j + q for p in (0, 1) for q in (0, 1)], axis=1)
        count = np.where(self.phases.converged, self.phases.count, 0)[corners]
        kind = self.phases.kind[:, 0][corners]
        mixed = (count != count[:, :1]).any(axis=1) | (count[:, 0] != 2) & (kind != kind[:, :1]).any(axis=1)
        mixed |= (count == 0).any(axis=1) | (count > 2).any(axis=1)
        nearest = (i + (a > 0.5)) * SOUGHT + j + (b > 0.5)
        return x, (high - low) / step, self.phases.take(nearest), mixed
