"""Isotherms of a fluid by one equation of state, with what lies on them: saturation, spinodal, critical point.

Volumes are the equation's own: without a volume shift.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from ..eos import Equation
from ..equilibrium.pure import saturation_pressure, spinodal

Array = NDArray[np.float64]

POINTS = 240
CLOSEST, WIDEST = 1.02, 400.0
"""Ends of an isotherm: times the least volume, and times the critical volume."""


@dataclass(frozen=True)
class Saturated:
    """Vapour pressure P Pa and molar volumes m3/mol of liquid and vapour, (n,) each at T (n,) K."""

    T: Array
    P: Array
    liquid: Array
    vapour: Array


def isotherm(eos: Equation, z: Array, T: float, marks: tuple[float, ...] = ()) -> tuple[Array, Array]:
    """Return molar volumes (m,) m3/mol, spaced evenly in their logarithm with the ``marks`` among them, and pressures
    Pa (m,)."""
    least = float(eos.least_volume(z))
    critical = eos.pure_critical()[2]
    wide = WIDEST * float(np.nanmax(np.append(critical, least)))
    low = CLOSEST * least
    if least == 0.0:  # an ideal gas has no size: from 100 MPa to 10 kPa
        low, wide = R * T / 1e8, R * T / 1e4
    V = np.unique(np.concatenate([np.geomspace(low, wide, POINTS), [m for m in marks if m > low]]))
    states = eos.at_temperature(np.full(V.size, T))
    return V, states.pressure(V, np.tile(z, (V.size, 1)))


def saturated(eos: Equation, T: Array) -> Saturated:
    """Return the saturation of a one-component equation at T (n,) K; nan above its critical temperature."""
    P = saturation_pressure(eos, T[:, None])[:, 0]
    there = np.isfinite(P)
    liquid, vapour = np.full(T.size, np.nan), np.full(T.size, np.nan)
    if there.any():
        states = eos.prepare(T[there], P[there])
        one = np.ones((int(there.sum()), 1))
        for out, root in ((liquid, "liquid"), (vapour, "vapour")):
            out[there] = states.ln_phi(one, root)[1] * R * T[there] / P[there]  # type: ignore[arg-type]
    return Saturated(T, P, liquid, vapour)


def domes(eos: Equation, low: float, count: int = 60) -> tuple[Saturated, tuple[Array, Array]]:
    """Return saturation and spinodal (volumes, pressures) of a one-component equation from ``low`` K to its critical
    point."""
    Tc = float(eos.pure_critical()[0][0])
    start = min(max(low, 0.4 * Tc), 0.95 * Tc)
    T = Tc - (Tc - start) * np.linspace(1.0, 0.0, count, endpoint=False) ** 2
    P1, P2, V1, V2 = spinodal(eos.pure().take(np.zeros(count, dtype=np.intp)), T)
    return saturated(eos, T), (np.concatenate([V1, V2[::-1]]), np.concatenate([P1, P2[::-1]]))
