"""Constant-volume depletion: gas drawn off at each pressure until the cell has its volume at saturation again."""

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
class Depletion:
    """M sets at n pressures, each (M, n) or (M, n, nc): ``liquid_volume_fraction`` of the volume at saturation,
    ``produced`` cumulative moles of gas drawn per mole of fluid, ``Z_gas``, ``Z_two_phase``, ``gas`` and ``liquid``
    compositions, ``gas_viscosity`` Pa s, ``gas_gravity``; ``left`` (M, n, nc) moles in the cell after each step;
    ``saturated_volume`` (M,) m3/mol."""

    saturation: Saturation
    saturated_volume: Array
    liquid_volume_fraction: Array
    produced: Array
    Z_gas: Array
    Z_two_phase: Array
    gas: Array
    liquid: Array
    gas_viscosity: Array
    gas_gravity: Array
    left: Array


def deplete(fluid: LabFluid, T: float, P: Array, near: Saturation | None = None, watch: Watch = UNWATCHED) -> Depletion:
    """Deplete ``fluid`` of M sets at T K over falling pressures P (n,) Pa. Raises Cancelled.

    The cell begins at saturation; at a pressure above it nothing is drawn. The procedure of Whitson and Torp, J. Pet.
    Technol. 35, 610 (1983)."""
    m, n, nc = fluid.size, P.size, fluid.z.shape[1]
    start = fluid.saturation(T, near, watch.part(0.0, 0.3))
    temperature = np.full(m, T)
    cell = fluid.one_phase(temperature, start.P)
    found = None
    amounts = fluid.z.copy()
    drawn = np.zeros(m)
    out = {k: np.full((m, n), np.nan) for k in ("liquid", "produced", "Z_gas", "Z_two", "viscosity", "gravity")}
    volume = np.full((m, n), np.nan)
    gas, oil, left = (np.full((m, n, nc), np.nan) for _ in range(3))
    for k, p in enumerate(P.tolist()):
        watch.at(0.3 + 0.7 * k / n)
        total = amounts.sum(axis=-1)
        found = fluid.parted(temperature, np.full(m, p), amounts / total[:, None], found)
        lone = ~found.split
        # A lone phase is all there is of either kind: a liquid below a bubble point, else a gas.
        liquid_alone = lone & (start.bubble if p >= 0.5 * np.nanmax(start.P, initial=0.0) else ~found.vapour)
        V = total * found.volume
        excess = np.maximum(V - cell, 0.0)
        liquid = np.where(lone, np.where(liquid_alone, V, 0.0), total * found.liquid_volume)
        vapour = np.where(lone, np.where(liquid_alone, 0.0, total), total * found.light)
        removed = np.minimum(excess / found.y_volume, vapour)
        out["liquid"][:, k] = liquid / cell
        amounts = np.maximum(amounts - removed[:, None] * found.y, 0.0)
        drawn = drawn + removed
        out["produced"][:, k] = drawn
        out["Z_gas"][:, k] = np.where(liquid_alone, np.nan, p * found.y_volume / (R * T))
        out["Z_two"][:, k] = p * np.minimum(cell, V) / (amounts.sum(axis=-1) * R * T)
        out["gravity"][:, k] = np.where(liquid_alone, np.nan, fluid.gravity(found.y))
        volume[:, k] = np.where(liquid_alone, np.nan, found.y_volume)
        gas[:, k] = np.where(liquid_alone[:, None], np.nan, found.y)
        oil[:, k] = np.where((lone & ~liquid_alone)[:, None], np.nan, found.x)
        left[:, k] = amounts
    out["viscosity"] = (
        fluid.repeated(n)
        .viscosity(np.full(m * n, T), np.tile(P, m), gas.reshape(m * n, nc), volume.reshape(-1), np.zeros(m * n, bool))
        .reshape(m, n)
    )
    return Depletion(
        start, cell, out["liquid"], out["produced"], out["Z_gas"], out["Z_two"], gas, oil, out["viscosity"], out["gravity"], left
    )  # fmt: skip
