"""Tension between water and gas or oil.

Sutton, SPE Prod. Oper. 24, 446 (2009), for both,

    sigma = ((1.53988 (rho_w - rho_h) + 2.08339) / (T/Tc)^n)^3.66667,   n = 0.821976 - 1.83785e-3 T + 1.34016e-6 T^2

in mN/m, g/cm3 and °R, Tc of the hydrocarbon phase; some 10 % from 20 to 200 °C. Salt adds 1.64 mN/m for each mol/L of
NaCl: Weissenborn and Pugh, J. Colloid Interface Sci. 184, 550 (1996). Array shapes: M states."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

SALT = 1.64e-3
"""N/m for each mol/L."""
LEAST_PART = 1e-3
"""g/cm3, density difference below which there are no two phases to speak of."""


def with_water(T: Array, Tc: Array, rho_water: Array, rho_other: Array, molality: float = 0.0) -> Array:
    """Return the tension, N/m (M,), of water and a gas or oil at T K; ``Tc`` K of the gas or oil; densities kg/m3."""
    rankine = 1.8 * np.asarray(T)
    n = 0.821976 + (-1.83785e-3 + 1.34016e-6 * rankine) * rankine
    part = np.maximum(1e-3 * (rho_water - rho_other), LEAST_PART)
    plain = ((1.53988 * part + 2.08339) / (T / Tc) ** n) ** 3.66667
    return np.asarray(1e-3 * plain + SALT * molality * 1e-3 * rho_water / (1.0 + 0.0584428 * molality))
