"""Water with sodium chloride: density, viscosity and the speed of sound relative to fresh water.

Batzle and Wang, Geophysics 57, 1396 (1992), eqs. 27b and 29: 20 to 350 °C, to 100 MPa, to 32 % by mass. Viscosity: Mao
and Duan, Int. J. Thermophys. 30, 1510 (2009), eq. 11 with table 4: 273 to 623 K, to 100 MPa, to 6 mol/kg. Array shapes:
N states; salt in mol NaCl per kg of water."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

NACL = 0.0584428
"""kg/mol."""


def mass_share(molality: Array | float) -> Array:
    """Return the mass of salt per mass of brine (...) of a molality (...), mol/kg of water."""
    m = np.asarray(molality, dtype=float) * NACL
    return np.asarray(m / (1.0 + m))


def denser(T: Array, P: Array, share: Array | float) -> tuple[Array, Array, Array]:
    """Return what salt adds to the density, kg/m3, with its derivatives by T and P, each (N,), at T K, P Pa and mass
    ``share`` of salt; Batzle and Wang (1992), eq. 27b."""
    t, p, S = np.asarray(T) - 273.15, 1e-6 * np.asarray(P), np.asarray(share)
    inside = 300.0 * p - 2400.0 * p * S + t * (80.0 + 3.0 * t - 3300.0 * S - 13.0 * p + 47.0 * p * S)
    by_t = 80.0 + 6.0 * t - 3300.0 * S - 13.0 * p + 47.0 * p * S
    by_p = 300.0 - 2400.0 * S + t * (-13.0 + 47.0 * S)
    value = 1e3 * S * (0.668 + 0.44 * S + 1e-6 * inside)
    return value, 1e-3 * S * by_t, 1e-9 * S * by_p


def thicker(T: Array, molality: Array | float) -> Array:
    """Return the viscosity relative to fresh water's, (N,), at T K; Mao and Duan (2009), eq. 11."""
    T, m = np.asarray(T, dtype=float), np.asarray(molality, dtype=float)
    A = -0.21319213 + (0.13651589e-2 - 0.12191756e-5 * T) * T
    B = 0.69161945e-1 + (-0.27292263e-3 + 0.20852448e-6 * T) * T
    C = -0.25988855e-2 + 0.77989227e-5 * T
    return np.asarray(np.exp(((C * m + B) * m + A) * m))
