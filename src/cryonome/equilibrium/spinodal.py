"""The spinodal of a feed: where cooling at constant volume makes it unstable to the smallest fluctuation.

There the smallest eigenvalue of the quadratic form of the Helmholtz energy is zero (Heidemann and Khalil, AIChE J.
26, 769, 1980). Between it and the bubble and dew line the feed may linger in one phase; where it touches them is a
critical point, at which the cubic form changes its sign along the spinodal. So every critical point on it is found,
whatever lines were traced."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .critical import CriticalPoint, critical_at, forms, least_eigenvalue

Array = NDArray[np.float64]

VOLUMES = 90
TEMPERATURES = 18
DENSEST, THINNEST = 1.04, 60.0
"""Volumes looked at, in covolumes."""


@dataclass(frozen=True)
class Spinodal:
    """Points by rising molar volume: ``T`` K, ``V`` m3/mol and ``P`` Pa, each (n,), P negative where a liquid is
    under tension; and the critical points on it."""

    T: Array
    V: Array
    P: Array
    critical: tuple[CriticalPoint, ...]


def spinodal(eos: Equation, z: Array, watch: Watch = UNWATCHED) -> Spinodal:
    """Return the spinodal of z (nc,) with the critical points on it; without points for an ideal gas. Raises
    Cancelled."""
    from scipy.optimize.elementwise import find_root

    z = np.asarray(z, float)
    present = z > 0.0
    if not present.all():
        eos, z = eos.of(present), z[present]
    z = z / z.sum()
    Tc = eos.pure_critical()[0]
    none = np.empty(0)
    if not np.isfinite(Tc).all():
        return Spinodal(none, none, none, ())
    V = float(eos.least_volume(z)) * np.geomspace(DENSEST, THINNEST, VOLUMES)
    T = np.geomspace(1.5 * Tc.max(), max(0.2 * float(z @ Tc), 40.0), TEMPERATURES)
    grid = np.empty((VOLUMES, TEMPERATURES))
    for i in range(TEMPERATURES):
        watch.at(0.5 * i / TEMPERATURES)
        grid[:, i] = least_eigenvalue(eos, z, np.full(VOLUMES, T[i]), V)
    # The highest temperature at which the sign changes: what lies below is unstable already.
    falls = (grid[:, :-1] > 0.0) & (grid[:, 1:] <= 0.0)
    rows = np.flatnonzero(falls.any(axis=1))
    if rows.size == 0:
        return Spinodal(none, none, none, ())
    first = np.argmax(falls[rows], axis=1)

    def off(ln_T: Array, V: Array) -> Array:
        watch.check()
        return least_eigenvalue(eos, z, np.exp(ln_T), V)

    found = find_root(off, (np.log(T[first + 1]), np.log(T[first])), args=(V[rows],))
    ok = found.success
    T, V = np.exp(found.x[ok]), V[rows][ok]
    P = eos.at_temperature(T).pressure(V, np.broadcast_to(z, (T.size, z.size)))
    watch.at(0.9)
    return Spinodal(T, V, np.asarray(P), _critical(eos, z, T, V))


def _critical(eos: Equation, z: Array, T: Array, V: Array) -> tuple[CriticalPoint, ...]:
    """Return the critical points between points of the spinodal where the cubic form changes its sign."""
    _, vector, cubic = forms(eos, z, T, V)
    # The sign of a vector is free: each is turned the way of the one before.
    turns = np.sign(np.vecdot(vector[1:], vector[:-1]))
    cubic *= np.concatenate([[1.0], np.cumprod(np.where(turns == 0.0, 1.0, turns))])
    out: list[CriticalPoint] = []
    for i in np.flatnonzero(cubic[:-1] * cubic[1:] <= 0.0):
        part = cubic[i] / (cubic[i] - cubic[i + 1])
        at_T, at_V = (float(np.exp((1.0 - part) * np.log(v[i]) + part * np.log(v[i + 1]))) for v in (T, V))
        found = critical_at(eos, z, at_T, at_V)
        # Newton's method may end at a point of another branch; this one lies between its neighbours.
        if found is not None and 0.98 * V[i] < found.V < 1.02 * V[i + 1] and found.P > 0.0:
            out.append(found)
    return tuple(out)
