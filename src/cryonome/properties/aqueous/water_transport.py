"""Viscosity, thermal conductivity and surface tension of water. Array shapes: N states.

Viscosity: IAPWS R12-08; Huber et al., J. Phys. Chem. Ref. Data 38, 101 (2009), eqs. 10 to 12 without the critical
enhancement, which is felt within 1 % of the critical point. Conductivity: IAPWS R15-11; Huber et al., J. Phys. Chem.
Ref. Data 41, 033102 (2012), eqs. 15 to 17, the enhancement left out too: below 1 % of a liquid up to 520 K. Surface
tension: IAPWS R1-76(2014).

Below :data:`COLDEST` viscosity and conductivity are held: the formulations continue smoothly into supercooled water,
but their powers of 1/T run away from there, and no liquid water was ever measured."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

T_CRITICAL, RHO_CRITICAL = 647.096, 322.0
COLDEST = 223.15
"""K, as cold as solutions of water are met: the end of what is said of the water in them."""

_THICK = np.array([
    [5.20094e-1, 2.22531e-1, -2.81378e-1, 1.61913e-1, -3.25372e-2, 0.0, 0.0],
    [8.50895e-2, 9.99115e-1, -9.06851e-1, 2.57399e-1, 0.0, 0.0, 0.0],
    [-1.08374, 1.88797, -7.72479e-1, 0.0, 0.0, 0.0, 0.0],
    [-2.89555e-1, 1.26613, -4.89837e-1, 0.0, 6.98452e-2, 0.0, -4.35673e-3],
    [0.0, 0.0, -2.57040e-1, 0.0, 0.0, 8.72102e-3, 0.0],
    [0.0, 1.20573e-1, 0.0, 0.0, 0.0, 0.0, -5.93264e-4],
])  # fmt: skip
_LEADS = np.array([
    [1.60397357, -0.646013523, 0.111443906, 0.102997357, -0.0504123634, 0.00609859258],
    [2.33771842, -2.78843778, 1.53616167, -0.463045512, 0.0832827019, -0.00719201245],
    [2.19650529, -4.54580785, 3.55777244, -1.40944978, 0.275418278, -0.0205938816],
    [-1.21051378, 1.60812989, -0.621178141, 0.0716373224, 0.0, 0.0],
    [-2.7203370, 4.57586331, -3.18369245, 1.1168348, -0.19268305, 0.012913842],
])  # fmt: skip


def _dense(T: Array, rho: Array, table: Array) -> Array:
    """Return exp(rho sum_ij (1/T - 1)^i H_ij (rho - 1)^j) of reduced temperatures and densities (N,)."""
    colder, denser = 1.0 / T - 1.0, rho - 1.0
    by_T = colder[:, None] ** np.arange(table.shape[0])
    by_rho = denser[:, None] ** np.arange(table.shape[1])
    return np.asarray(np.exp(rho * np.vecdot(by_T @ table, by_rho)))


def viscosity(T: Array, rho: Array) -> Array:
    """Return the viscosity, Pa s (N,), at T K, from :data:`COLDEST` on, and density kg/m3 (N,)."""
    t = np.maximum(T, COLDEST) / T_CRITICAL
    thin = 1e-4 * np.sqrt(t) / (1.67752 + (2.20462 + (0.6366564 - 0.241605 / t) / t) / t)
    return np.asarray(thin * _dense(t, np.asarray(rho) / RHO_CRITICAL, _THICK))


def conductivity(T: Array, rho: Array) -> Array:
    """Return the thermal conductivity, W/(m K) (N,), at T K, from :data:`COLDEST` on, and density kg/m3 (N,)."""
    t = np.maximum(T, COLDEST) / T_CRITICAL
    below = 2.443221e-3 + (1.323095e-2 + (6.770357e-3 + (-3.454586e-3 + 4.096266e-4 / t) / t) / t) / t
    return np.asarray(1e-3 * np.sqrt(t) / below * _dense(t, np.asarray(rho) / RHO_CRITICAL, _LEADS))


def surface_tension(T: Array) -> Array:
    """Return the tension of water with its vapour, N/m (N,), at T K up to the critical point."""
    v = np.clip(1.0 - np.asarray(T) / T_CRITICAL, 0.0, None)
    return np.asarray(0.2358 * v**1.256 * (1.0 - 0.625 * v))
