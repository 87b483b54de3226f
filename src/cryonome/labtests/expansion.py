"""Constant-composition expansion: a fixed amount in a cell whose pressure is brought down."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from ..equilibrium.saturation import Saturation
from ..watch import UNWATCHED, Watch
from .fluid import LabFluid

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Expansion:
    """M sets at n pressures, each (M, n): ``relative_volume`` to that at saturation, ``liquid_volume_fraction`` of
    the volume at saturation, ``Z`` of the whole, ``density`` kg/m3, ``viscosity`` Pa s of the single phase above
    saturation (nan below), ``Y``, nan at and above saturation; ``saturation`` and the molar volume there,
    ``saturated_volume`` (M,) m3/mol."""

    saturation: Saturation
    saturated_volume: Array
    relative_volume: Array
    liquid_volume_fraction: Array
    Z: Array
    density: Array
    viscosity: Array
    Y: Array


def expand(fluid: LabFluid, T: float, P: Array, near: Saturation | None = None, watch: Watch = UNWATCHED) -> Expansion:
    """Expand ``fluid`` of M sets at T K over pressures P (n,) Pa, in any order. Raises Cancelled.

    Y is that of Standing, *Volumetric and Phase Behavior of Oil Field Hydrocarbon Systems* (1952): (P_sat - P)/(P
    (V/V_sat - 1))."""
    m, n = fluid.size, P.size
    start = fluid.saturation(T, near, watch.part(0.0, 0.5))
    temperature = np.full(m * n, T)
    pressures = np.broadcast_to(P, (m, n)).reshape(-1)
    each = fluid.repeated(n)
    saturated = fluid.one_phase(np.full(m, T), start.P)
    above = start.P[:, None] <= P
    # Above saturation there is one phase: of a fluid with a bubble point a liquid, of one with a dew point none,
    # whatever its density.
    V, liquid, mu = (np.full(m * n, np.nan) for _ in range(3))
    one = np.flatnonzero(above)
    if one.size:
        part, bubble = each.take(one), np.repeat(start.bubble, n)[one]
        V[one] = part.one_phase(temperature[one], pressures[one])
        liquid[one] = np.where(bubble, V[one], 0.0)
        mu[one] = part.viscosity(temperature[one], pressures[one], part.z, V[one], bubble)
    two = np.flatnonzero(~above.reshape(-1) & np.repeat(start.found, n))
    if two.size:
        found = each.take(two).parted(temperature[two], pressures[two])
        V[two] = found.volume
        lone = ~found.split
        # Next to saturation what is still one phase is what it was there; far below it is told by its density.
        same = lone & (pressures[two] > 0.5 * np.repeat(start.P, n)[two])
        as_liquid = np.where(same, np.repeat(start.bubble, n)[two], ~found.vapour)
        liquid[two] = np.where(lone, np.where(as_liquid, found.volume, 0.0), found.liquid_volume)
    watch.at(0.9)
    volume, liquid_volume, viscosity = (v.reshape(m, n) for v in (V, liquid, mu))
    relative = volume / saturated[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        Y = np.where(above, np.nan, (start.P[:, None] - P) / (P * (relative - 1.0)))
    mass = fluid.mass(fluid.z)[:, None]
    shares = liquid_volume / saturated[:, None]
    Z, density = P * volume / (R * T), mass / volume
    return Expansion(start, saturated, relative, shares, Z, density, viscosity, np.where(np.isfinite(Y), Y, np.nan))
