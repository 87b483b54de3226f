"""Differential liberation: at each pressure all gas is driven off, and what is left at the end is cooled to 60 degF."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import ATM, T_60F, R
from ..equilibrium.saturation import Saturation
from ..watch import UNWATCHED, Watch
from .fluid import STANDARD_GAS, LabFluid

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Liberation:
    """M sets at n pressures, each (M, n): ``oil_volume_factor`` oil volume to that of the residue at 60 degF,
    ``solution_gas`` standard gas still dissolved to that volume, ``total_volume_factor`` with the gas driven off so
    far, ``gas_Z``, ``gas_gravity``, ``gas_volume_factor`` and ``gas_viscosity`` Pa s of the gas of the step, nan at
    and above saturation; ``oil_density`` kg/m3, ``oil_viscosity`` Pa s. ``saturated_factor`` and ``saturated_gas``
    (M,) are the first two at saturation, ``residual_density`` (M,) kg/m3 at 60 degF; ``oil`` (M, n, nc) its
    composition, ``oil_left`` (M, n) moles of it per mole of fluid."""

    saturation: Saturation
    oil_volume_factor: Array
    solution_gas: Array
    total_volume_factor: Array
    gas_Z: Array
    gas_gravity: Array
    gas_volume_factor: Array
    gas_viscosity: Array
    oil_density: Array
    oil_viscosity: Array
    saturated_factor: Array
    saturated_gas: Array
    residual_density: Array
    oil: Array
    gas: Array
    oil_left: Array


def liberate(
    fluid: LabFluid, T: float, P: Array, near: Saturation | None = None, watch: Watch = UNWATCHED
) -> Liberation:
    """Liberate gas from ``fluid`` of M sets at T K over falling pressures P (n,) Pa; the oil of the last, cooled, is
    the residue.

    Sets with a dew point give nan. The procedure of Moses, J. Pet. Technol. 38, 715 (1986). Raises Cancelled.
    """
    m, n, nc = fluid.size, P.size, fluid.z.shape[1]
    start = fluid.saturation(T, near, watch.part(0.0, 0.3))
    temperature = np.full(m, T)
    oil_volume, freed, Z, gravity, density, thin_volume, thick_volume = (np.full((m, n), np.nan) for _ in range(7))
    oil, gas, left = np.full((m, n, nc), np.nan), np.full((m, n, nc), np.nan), np.full((m, n), np.nan)
    found = None
    x, amount = fluid.z, np.where(start.bubble, 1.0, np.nan)
    for k, p in enumerate(P.tolist()):
        watch.at(0.3 + 0.7 * k / n)
        pressure = np.full(m, p)
        found = fluid.parted(temperature, pressure, x, found)
        gone = np.where(found.split & (p < start.P), found.light, 0.0)
        # Nothing is left of an oil that has boiled away.
        amount = np.where(~found.split & found.vapour & (p < 0.5 * start.P), np.nan, amount)
        some = gone > 0.0
        freed[:, k] = amount * gone
        Z[:, k] = np.where(some, p * found.y_volume / (R * T), np.nan)
        gravity[:, k] = np.where(some, fluid.gravity(found.y), np.nan)
        thin_volume[:, k] = np.where(some, found.y_volume, np.nan)
        x = np.where(some[:, None], found.x, x)
        amount = amount * (1.0 - gone)
        V = np.where(some, found.x_volume, found.volume)
        oil_volume[:, k] = amount * V
        density[:, k] = fluid.mass(x) / V
        thick_volume[:, k] = V
        oil[:, k], gas[:, k], left[:, k] = x, np.where(some[:, None], found.y, np.nan), amount
    each, states = fluid.repeated(n), (np.full(m * n, T), np.tile(P, m))
    mu, thin = (
        each.viscosity(*states, y.reshape(m * n, nc), v.reshape(-1), np.full(m * n, heavy)).reshape(m, n)
        for y, v, heavy in ((oil, thick_volume, True), (gas, thin_volume, False))
    )
    rest = amount * fluid.liquid_volume(x)
    later = (freed.sum(axis=1, keepdims=True) - np.cumsum(freed, axis=1)) * STANDARD_GAS / rest[:, None]
    all_gas = freed.sum(axis=1) * STANDARD_GAS / rest
    saturated = np.where(start.bubble, fluid.one_phase(temperature, start.P), np.nan)
    Bg = Z * T / T_60F * ATM / P
    Bo = oil_volume / rest[:, None]
    gas_now = np.where(np.isfinite(Bg), Bg, 0.0)
    return Liberation(
        start, Bo, later, Bo + gas_now * (all_gas[:, None] - later), Z, gravity, Bg, thin, density, mu, saturated / rest, all_gas,
        np.where(np.isnan(amount), np.nan, fluid.mass(x) / fluid.liquid_volume(x)), oil, gas, left,
    )  # fmt: skip
