"""How an oil's density changes with temperature."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..constants import T_60F, WATER_DENSITY_60F

Array = NDArray[np.float64]


def expanded_density(sg: ArrayLike, T: ArrayLike) -> Array:
    """Return densities (...) kg/m3 at T (...) K of oils of specific gravities (...); ASTM D1250 (1980), crude oils.

    The constant 341.0957 belongs to kg/m3 and degF.
    """
    rho = np.asarray(sg, float) * WATER_DENSITY_60F
    expansion = 341.0957 / rho**2 * 1.8 * (np.asarray(T, float) - T_60F)
    return np.asarray(rho * np.exp(-expansion * (1.0 + 0.8 * expansion)))
