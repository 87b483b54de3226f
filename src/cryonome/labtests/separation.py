"""A train of separators: each takes the liquid of the one before; the last is the stock tank."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..watch import UNWATCHED, Watch
from .fluid import STANDARD_GAS, LabFluid, api

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Separation:
    """M sets through n stages, each (M, n): ``gas`` standard gas of the stage to the volume of stock-tank oil at 60
    degF, ``gas_gravity``, ``oil_density`` kg/m3 at the stage's state, ``vapour`` and ``liquid`` moles per mole of
    feed; compositions ``y`` and ``x`` (M, n, nc). ``tank_volume`` (M,) m3 of stock-tank oil at 60 degF per mole of
    feed, ``tank_density`` kg/m3 there, ``api``."""

    gas: Array
    gas_gravity: Array
    oil_density: Array
    vapour: Array
    liquid: Array
    y: Array
    x: Array
    tank_volume: Array
    tank_density: Array
    api: Array

    @property
    def gas_oil_ratio(self) -> Array:
        """All gas to stock-tank oil, (M,) m3/m3."""
        return np.asarray(self.gas.sum(axis=-1))


def separate(
    fluid: LabFluid, T: Array, P: Array, z: Array | None = None, watch: Watch = UNWATCHED, most: Array | None = None
) -> Separation:
    """Take ``fluid`` of M sets, or compositions z (M, nc), through stages at T K and P Pa, each (n,) or (M, n).
    Raises Cancelled.

    A stage without liquid ends the train with nan. Stages above the pressures ``most`` (M,) Pa, which nothing comes
    to by itself, are left out: what goes in comes out."""
    m, nc = fluid.z.shape
    T, P = (np.broadcast_to(v, (m, np.shape(v)[-1])) for v in (T, P))
    n = T.shape[1]
    freed, gravity, density, rest = (np.full((m, n), np.nan) for _ in range(4))
    ys, xs = np.full((m, n, nc), np.nan), np.full((m, n, nc), np.nan)
    x, amount = fluid.z if z is None else z, np.ones(m)
    for k in range(n):
        watch.at(k / n)
        out = np.zeros(m, dtype=bool) if most is None else P[:, k] > most * (1.0 + 1e-9)
        found = fluid.parted(T[:, k], P[:, k], x)
        vapour = np.where(found.split, found.light, np.where(found.vapour, 1.0, 0.0))
        vapour = np.where(np.isnan(found.light), np.nan, vapour)
        vapour = np.where(out, 0.0, vapour)
        freed[:, k] = amount * vapour
        ys[:, k], xs[:, k] = found.y, found.x
        gravity[:, k] = np.where(vapour > 0.0, fluid.gravity(found.y), np.nan)
        amount = np.where(vapour < 1.0, amount * (1.0 - vapour), np.nan)
        density[:, k] = np.where(vapour < 1.0, fluid.mass(found.x) / found.x_volume, np.nan)
        rest[:, k] = amount
        x = np.where(out[:, None], x, found.x)
    molar = fluid.liquid_volume(x)
    tank = amount * molar
    rho = np.where(np.isnan(tank), np.nan, fluid.mass(x) / molar)
    return Separation(freed * STANDARD_GAS / tank[:, None], gravity, density, freed, rest, ys, xs, tank, rho, api(rho))
