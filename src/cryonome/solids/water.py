"""Water as ice and as a liquid that would freeze.

Ice: enthalpy of fusion 6009.5 J/mol and 37.3 J/(mol K) between the heat capacities of the liquid and of ice at 273.15
K (Feistel and Wagner, J. Phys. Chem. Ref. Data 35, 1021, 2006), both volumes and the liquid's compressibility as
there and in Wagner and Pruß (2002). From 233 to 330 K and to 100 MPa. The vapour pressures of ice and of supercooled
water of Murphy and Koop, Q. J. R. Meteorol. Soc. 131, 1539 (2005), are met within 1 % down to 240 K."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..constants import R

Array = NDArray[np.float64]

ICE_POINT = 273.15
MOLAR_MASS = 18.01528e-3
FUSION, FUSION_CP = 6009.5, 37.3
ICE_VOLUME, ICE_EXPANSION = 19.65e-6, 1.6e-4
"""m3/mol at 273.15 K, and 1/K."""


def water_over_ice(T: Array, P: Array | float = 0.0) -> Array:
    """Return (mu_water - mu_ice)/(R T) of pure liquid water at T K and P Pa: water of the activity exp(-this)
    freezes."""
    ratio = ICE_POINT / np.asarray(T)
    heat = FUSION / (R * ICE_POINT) * (ratio - 1.0) - FUSION_CP / R * (ratio - 1.0 - np.log(ratio))
    return np.asarray(heat + (water_work(T, P) - ice_work(T, P)) / (R * np.asarray(T)))


def water_work(T: Array, P: Array | float) -> Array:
    """Return the integral of the molar volume of liquid water from nothing to P (...) Pa at T (...) K, J/mol."""
    t = np.asarray(T) - ICE_POINT
    density = 999.84 + (0.0633 + (-0.00853 + 6.5e-5 * t) * t) * t
    soft = 5.09e-10 + (-3.7e-12 + 3.6e-14 * t) * t
    return np.asarray(MOLAR_MASS / density * P * (1.0 - 0.5 * soft * P + 1.1 * (soft * P) ** 2))


def ice_work(T: Array, P: Array | float) -> Array:
    """Return the same of ice, J/mol (...)."""
    return np.asarray(ICE_VOLUME * (1.0 + ICE_EXPANSION * (np.asarray(T) - ICE_POINT)) * P)
