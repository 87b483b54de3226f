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
    """M sets at n pressures, each (M, n): ``relative_volume`` to that at saturation, ``liquid_volume_fraction`` of the volume at saturation, ``Z`` of the
    whole, ``density`` kg/m3, ``viscosity`` Pa s of the single phase above saturation (nan below), ``Y``, nan at and above saturation; ``saturation``
    and the molar volume there, ``saturated_volume`` (M,) m3/mol."""

    saturation: Saturation
    saturated_volume: Array
    relative_volume: Array
    liquid_volume_fraction: Array
    Z: Array
    density: Array
    viscosity: Array
    Y: Array


def expand(
    fluid: LabFluid, T: float, P: Array, near: Saturation | None = None, watch: Watch = UNWATCHED
) -> Expansion:
    """Expand ``fluid`` of M sets at T K over pressures P (n,) Pa, in any order. Raises Cancelled.

    Y is that of Standing, *Volumetric and Phase Behavior of Oil Field Hydrocarbon Systems* (1952): (P_sat - P)/(P (V/V_sat - 1)).
    """
    m, n = fluid.size, P.size
    start = fluid.saturation(T, near, watch.part(0.0, 0.5))
    pressures = np.concatenate([np.broadcast_to(P, (m, n)), start.P[:, None]], axis=1)
    each = fluid.repeated(n + 1)
    flat = pressures.reshape(-1)
    temperature = np.full(flat.size, T)
    found = each.parted(temperature, flat)
    watch.at(0.9)
    V = found.volume.reshape(m, n + 1)
    saturated = V[:, -1]
    V = V[:, :-1]
    above = P >= start.P[:, None]
    alone = ~found.split.reshape(m, n + 1)[:, :-1]
    liquid = found.liquid_volume.reshape(m, n + 1)[:, :-1]
    # Above saturation a fluid with a bubble point is a liquid and one with a dew point none, whatever its density.
    liquid = np.where(above & alone, np.where(start.bubble[:, None], V, 0.0), liquid)
    is_liquid = np.where(above, start.bubble[:, None], ~found.vapour.reshape(m, n + 1)[:, :-1])
    mu = each.viscosity(temperature, flat, each.z, found.volume, np.append(is_liquid, start.bubble[:, None], axis=1).reshape(-1))
    mu = np.where(alone, mu.reshape(m, n + 1)[:, :-1], np.nan)
    relative = V / saturated[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        Y = np.where(above, np.nan, (start.P[:, None] - P) / (P * (relative - 1.0)))
    mass = fluid.mass(fluid.z)[:, None]
    return Expansion(
        start, saturated, relative, liquid / saturated[:, None], P * V / (R * T), mass / V, mu, np.where(np.isfinite(Y), Y, np.nan)
    )  # fmt: skip
