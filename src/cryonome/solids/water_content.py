"""How much water a fluid holds beside what water forms there: a liquid, ice, or hydrate.

The fugacity of water is that of the phase that holds it lowest. Of the liquid it follows from its activity; of ice
and hydrate from their potentials against the liquid (:mod:`cryonome.solids.water`, :mod:`cryonome.solids.lattice`).
In the fluid it is dilute, y = f/(phi P) with phi by the fluid's own equation."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..equilibrium.flash import flash_pt
from ..equilibrium.multiphase import flash_all
from ..equilibrium.phases import Kind
from ..equilibrium.pure import saturation_pressure
from ..watch import UNWATCHED, Watch
from .activity import Doses, ln_activity
from .lattice import STRUCTURES, lowering
from .potentials import HOTTEST, given
from .surroundings import Host
from .water import water_over_ice

Array = NDArray[np.float64]

FORMS = ("water", "ice", *(s.name for s in STRUCTURES))
"""What water may be beside a fluid, by place."""
SUBSTITUTIONS = 4
FREE, EXCESS = 0.3, 3.0
"""Moles of water beside a mole of a hot fluid, and how many times what its gas may hold more."""


@dataclass(frozen=True)
class WaterContent:
    """At N states: the place among :data:`FORMS` of what is ``beside`` the fluid (N,), mole fractions of water in its
    ``vapour`` and ``liquid`` (N,), nan without one, and the same over liquid water, supercooled where another is
    beside it, ``vapour_over_water`` (N,)."""

    beside: NDArray[np.intp]
    vapour: Array
    liquid: Array
    vapour_over_water: Array


def water_content(host: Host, T: ArrayLike, P: ArrayLike, dose: Doses, watch: Watch = UNWATCHED) -> WaterContent:
    """Return how much water the ``host``, whose own is not counted, holds at T (N,) K and P (N,) Pa beside water with
    a ``dose``.

    nan where the state was not found. Raises Cancelled.
    """
    T, P = np.asarray(T, dtype=float), np.asarray(P, dtype=float)
    hot = T > HOTTEST
    if hot.any():
        return _joined(host, T, P, dose, hot, watch)
    seen = host.around(T, P, watch.part(0.0, 0.5))
    forms = [-seen.ln_activity - given(T, dose), water_over_ice(T, P)]
    forms += [lowering(s, T, seen.f, host.names) - own.above_water(T, P) for s, own in enumerate(STRUCTURES)]
    below = np.stack(forms)
    beside = np.argmax(np.nan_to_num(below, nan=-np.inf), axis=0)
    pure = host.pure_water.prepare(T, P).ln_phi(np.ones((T.size, 1)), "liquid")[0][:, 0]
    rest = np.flatnonzero(np.arange(host.z.size) != host.water)
    dry = flash_pt(host.eos.of(rest), T, P, host.z[rest] / host.z[rest].sum(), watch.part(0.5, 0.9))
    vapour, liquid, over = (np.full(T.size, np.nan) for _ in range(3))
    with np.errstate(over="ignore", invalid="ignore"):
        for k in range(dry.kind.shape[1]):
            for kind, out in ((Kind.VAPOUR, vapour), (Kind.LIQUID, liquid)):
                rows = np.flatnonzero(dry.present[:, k] & dry.converged & (dry.kind[:, k] == kind))
                if rows.size:
                    part = _Fluid(host, T[rows], P[rows], rest, dry.composition[rows, k])
                    out[rows] = part.holds(pure[rows] - below[beside[rows], rows])
                    if kind == Kind.VAPOUR:
                        over[rows] = part.holds(pure[rows] - below[0, rows])
    return WaterContent(beside, vapour, liquid, over)


def _joined(host: Host, T: Array, P: Array, dose: Doses, hot: NDArray[np.bool_], watch: Watch) -> WaterContent:
    """Return the water held at states of which some are ``hot``: there the fluid is flashed with more water than it
    can hold, since so much of it is in the gas that it moves the other phases too."""
    out = WaterContent(np.zeros(T.size, dtype=np.intp), *(np.full(T.size, np.nan) for _ in range(3)))
    cold = np.flatnonzero(~hot)
    if cold.size:
        given_there = {n: w if w.size == 1 else w[cold] for n, w in dose.items()}
        part = water_content(host, T[cold], P[cold], given_there, watch.part(0.0, 0.4))
        for whole, own in zip(_fields(out), _fields(part)):
            whole[cold] = own
    rows = np.flatnonzero(hot)
    activity = ln_activity(T[rows], dose)
    boils = saturation_pressure(host.pure_water, T[rows]) * np.exp(activity)
    kept = boils < P[rows]
    rows, boils = rows[kept], boils[kept]
    if rows.size:
        dry = np.where(np.arange(host.z.size) == host.water, 0.0, host.z)
        feed = np.tile(dry / dry.sum(), (rows.size, 1))
        feed[:, host.water] = FREE + EXCESS * boils / (P[rows] - boils)
        found = flash_all(
            host.eos.take(rows), T[rows], P[rows], feed / feed.sum(axis=1, keepdims=True), watch.part(0.4, 1.0)
        )
        for kind, values in ((Kind.VAPOUR, out.vapour), (Kind.LIQUID, out.liquid)):
            place = np.argmax(found.kind == kind, axis=1)
            there = found.converged & (found.kind == kind).any(axis=1)
            held = found.composition[np.arange(rows.size), place, host.water]
            # A dose lowers what is held as it does the water's activity.
            values[rows[there]] = (held * np.exp(activity[kept]))[there]
        out.vapour_over_water[rows] = out.vapour[rows]
    return out


def _fields(of: WaterContent) -> tuple[NDArray[Any], ...]:
    return of.beside, of.vapour, of.liquid, of.vapour_over_water


class _Fluid:
    """Phases x (M, nc - 1) of the fluid without water at T and P (M,)."""

    def __init__(self, host: Host, T: Array, P: Array, rest: NDArray[np.intp], x: Array) -> None:
        self._state, self._x, self._rest, self._water = host.eos.prepare(T, P), x, rest, host.water
        self._nc = host.z.size

    def holds(self, ln_f: Array) -> Array:
        """Return the mole fractions of water (M,) that have the fugacity exp(ln_f) P."""
        held = np.zeros(ln_f.size)
        for _ in range(SUBSTITUTIONS):
            wet = np.empty((ln_f.size, self._nc))
            wet[:, self._rest] = (1.0 - held)[:, None] * self._x
            wet[:, self._water] = held
            held = np.minimum(np.exp(ln_f - self._state.ln_phi(wet)[0][:, self._water]), 0.5)
        return held
