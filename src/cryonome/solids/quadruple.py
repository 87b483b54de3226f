"""Quadruple points: where ice joins water, hydrate and fluid, and where the fluid beside hydrate and water becomes another phase."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.flash import flash_pt
from ..equilibrium.phases import Kind
from ..watch import UNWATCHED, Watch
from .activity import Doses
from .formation import HIGHEST, LOWEST, Chart, Wanted, given, temperatures
from .lattice import STRUCTURES
from .water import water_over_ice

Array = NDArray[np.float64]

Limit = Callable[[Array], Array]
COUNT = 40
PARTS = 12
"""Parts that a stretch is divided into, all at once."""
ROUNDS = 4


@dataclass(frozen=True)
class Quadruple:
    """A point of four phases: ``kind`` is ``ice``, or ``two fluids`` where vapour ends and liquid begins beside the hydrate."""

    kind: str
    T: float
    P: float


def quadruple_points(chart: Chart, dose: Doses, watch: Watch = UNWATCHED) -> list[Quadruple]:
    """Return the quadruple points along the limit of the structure that forms first, by rising pressure. Raises Cancelled."""

    def limit(P: Array) -> Array:
        out = temperatures(chart, Wanted.grid(P), [dose], watch)
        return np.asarray(np.fmax.reduce(out.reshape(len(STRUCTURES), -1), axis=0))

    P = np.geomspace(LOWEST, HIGHEST, COUNT)
    T = limit(P)
    found = [*_ice(chart, dose, limit, P, T), *_fluids(chart, limit, P, T)]
    return sorted(found, key=lambda q: q.P)


def _ice(chart: Chart, dose: Doses, limit: Limit, P: Array, T: Array) -> list[Quadruple]:
    def over(T: Array, P: Array) -> Array:
        """Return by how much the water is above ice, in R T."""
        return np.asarray(water_over_ice(T, P) + chart.host.around(T, P).ln_activity + given(T, dose))

    rows = np.flatnonzero(np.isfinite(T))
    side = np.full(P.size, np.nan)
    side[rows] = over(T[rows], P[rows])
    out = []
    for k in np.flatnonzero((side[:-1] > 0.0) & (side[1:] <= 0.0)):
        low, high = np.log(P[k]), np.log(P[k + 1])
        for _ in range(ROUNDS - 1):
            lnP = np.linspace(low, high, PARTS + 1)
            t = limit(np.exp(lnP))
            value = over(t, np.exp(lnP))
            i = int(np.argmax((value[:-1] > 0.0) & (value[1:] <= 0.0)))
            low, high = lnP[i], lnP[i + 1]
        share = value[i] / (value[i] - value[i + 1])
        p = float(np.exp(low + share * (high - low)))
        if np.isfinite(p):
            out.append(Quadruple("ice", float(limit(np.array([p]))[0]), p))
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
        low, high = np.log(P[rows[k]]), np.log(P[rows[k + 1]])
        for _ in range(ROUNDS):
            lnP = np.linspace(low, high, PARTS + 1)
            t = limit(np.exp(lnP))
            i = max(int(np.argmin(vapour(t, np.exp(lnP)))) - 1, 0)
            low, high = lnP[i], lnP[i + 1]
        if not np.isfinite(t[i] + t[i + 1]):
            continue
        out.append(Quadruple("two fluids", float(0.5 * (t[i] + t[i + 1])), float(np.exp(0.5 * (low + high)))))
    return out
