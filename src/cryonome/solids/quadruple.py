"""Quadruple points: where ice joins water, hydrate and fluid, and where the fluid beside hydrate and water becomes
another phase."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.flash import flash_pt
from ..equilibrium.phases import Kind
from ..watch import UNWATCHED, Watch
from .activity import Doses
from .formation import Chart, Wanted, temperatures
from .lattice import STRUCTURES
from .potentials import HIGHEST, LOWEST, given
from .surroundings import Surroundings
from .water import water_over_ice

Array = NDArray[np.float64]

Limit = Callable[[Array], Array]
COUNT = 40
PARTS = 12
"""Parts that a stretch is divided into, all at once."""
ICE_ROUNDS, ROUNDS = 2, 4
"""Times a stretch is divided: where ice begins the rest of the way is read off, where a vapour ends it is not."""


@dataclass(frozen=True)
class Quadruple:
    """A point of four phases: ``kind`` is ``ice``, or ``two fluids`` where vapour ends and liquid begins beside the
    hydrate."""

    kind: str
    T: float
    P: float


def quadruple_points(chart: Chart, dose: Doses, watch: Watch = UNWATCHED) -> list[Quadruple]:
    """Return the quadruple points along the limit of the structure that forms first, by rising pressure. Raises
    Cancelled."""

    def limit(P: Array) -> Array:
        out = temperatures(chart, Wanted.grid(P), [dose], watch)
        return np.asarray(np.fmax.reduce(out.reshape(len(STRUCTURES), -1), axis=0))

    # The chart tells about where; the fluid itself is asked there alone.
    P = np.geomspace(LOWEST, HIGHEST, COUNT)
    T = np.fmax.reduce(chart.temperatures(Wanted.grid(P), [dose])[0].reshape(len(STRUCTURES), -1), axis=0)
    found = [*_ice(chart, dose, limit, P, T), *_fluids(chart, limit, P, T)]
    return sorted(found, key=lambda q: q.P)


def _about(P: Array, k: int) -> tuple[float, float]:
    """Return ln P a step below and above the places k and k + 1."""
    return float(np.log(P[max(k - 1, 0)])), float(np.log(P[min(k + 2, P.size - 1)]))


def _ice(chart: Chart, dose: Doses, limit: Limit, P: Array, T: Array) -> list[Quadruple]:
    def over(T: Array, P: Array, seen: Surroundings) -> Array:
        """Return by how much the water is above ice, in R T."""
        return np.asarray(water_over_ice(T, P) + seen.ln_activity + given(T, dose))

    rows = np.flatnonzero(np.isfinite(T))
    side = np.full(P.size, np.nan)
    side[rows] = over(T[rows], P[rows], chart.seen(T[rows], P[rows]))
    out = []
    for k in np.flatnonzero((side[:-1] > 0.0) & (side[1:] <= 0.0)):
        low, high = _about(P, int(k))
        for _ in range(ICE_ROUNDS):
            lnP = np.linspace(low, high, PARTS + 1)
            p = np.exp(lnP)
            t = limit(p)
            value = over(t, p, chart.host.around(t, p))
            i = int(np.argmax((value[:-1] > 0.0) & (value[1:] <= 0.0)))
            low, high = lnP[i], lnP[i + 1]
        if not (value[i] > 0.0 and value[i + 1] <= 0.0):
            continue
        # The limit has a corner where ice begins: it is followed to there from the side of the liquid.
        j = min(i + 1, PARTS - 1)
        at = lnP[j] - value[j] * (lnP[j + 1] - lnP[j]) / (value[j + 1] - value[j])
        there = np.exp(np.clip(at, lnP[i], lnP[i + 1]))
        out.append(Quadruple("ice", float(limit(np.array([there]))[0]), float(there)))
    return out


def _fluids(chart: Chart, limit: Limit, P: Array, T: Array) -> list[Quadruple]:
    host = chart.host
    rest = np.flatnonzero(np.arange(host.z.size) != host.water)
    eos, z = host.eos.of(rest), host.z[rest] / host.z[rest].sum()

    def vapour(T: Array, P: Array) -> NDArray[np.bool_]:
        """Tell where there is a vapour."""
        return np.asarray((flash_pt(eos, T, P, z).kind == Kind.VAPOUR).any(axis=-1))

    rows = np.flatnonzero(np.isfinite(T))
    there = vapour(T[rows], P[rows])
    out = []
    for k in np.flatnonzero(there[:-1] & ~there[1:]):
        low, high = _about(P, int(rows[k]))
        for _ in range(ROUNDS):
            lnP = np.linspace(low, high, PARTS + 1)
            t = limit(np.exp(lnP))
            i = max(int(np.argmin(vapour(t, np.exp(lnP)))) - 1, 0)
            low, high = lnP[i], lnP[i + 1]
        if not np.isfinite(t[i] + t[i + 1]):
            continue
        out.append(Quadruple("two fluids", float(0.5 * (t[i] + t[i + 1])), float(np.exp(0.5 * (low + high)))))
    return out
