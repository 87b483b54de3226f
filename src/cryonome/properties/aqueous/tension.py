"""Tension between water and gas or oil.

Sutton, SPE Prod. Oper. 24, 446 (2009), for both,

    sigma = ((1.53988 (rho_w - rho_h) + 2.08339) / (T/Tc)^n)^3.66667,   n = 0.821976 - 1.83785e-3 T + 1.34016e-6 T^2

in mN/m, g/cm3 and °R, Tc of the hydrocarbon phase, the density of water without salt; some 10 % from 20 to 200 °C. Gas
and oil lower the tension of water, so it is never more than that with water's own vapour (IAPWS R1-76), which the
correlation exceeds by a tenth for light gases when warm. Salt adds 1.64 mN/m for each mol/L of
NaCl: Weissenborn and Pugh, J. Colloid Interface Sci. 184, 550 (1996). Array shapes: M states."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .water_transport import surface_tension

Array = NDArray[np.float64]

SALT = 1.64e-3
"""N/m for each mol/L."""
LEAST_PART = 1e-3
"""g/cm3, density difference below which there are no two phases to speak of."""


def with_water(T: Array, Tc: Array, rho_water: Array, rho_other: Array, molality: float = 0.0) -> Array:
    """Return the tension, N/m (M,), of water and a gas or oil at T K; ``Tc`` K of the gas or oil; densities kg/m3, of
    the water without its salt, of which ``molality`` mol/kg is there."""
    rankine = 1.8 * np.asarray(T)
    n = 0.821976 + (-1.83785e-3 + 1.34016e-6 * rankine) * rankine
    part = np.maximum(1e-3 * (rho_water - rho_other), LEAST_PART)
    plain = ((1.53988 * part + 2.08339) / (T / Tc) ** n) ** 3.66667
    plain = np.minimum(1e-3 * plain, surface_tension(T))
    return np.asarray(plain + SALT * molality * 1e-3 * rho_water / (1.0 + 0.0584428 * molality))
