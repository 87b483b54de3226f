"""Critical points of pure PC-SAFT chains: in units of segment energy and size they depend on the segment number
alone."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from .saft_energy import K, chain_pressures

Array = NDArray[np.float64]

STEP = 1e-5

_PACKING = (0.001326, -0.018320, 0.006594, -0.072462, -1.968468)
_TEMPERATURE = (0.003600, -0.024421, -0.020054, 0.538396, 0.234677)
"""Polynomials in ln m of the logarithms of critical packing and reduced temperature, fitted here for m of 1 to 60
within 2 %."""


def _slopes(eta: Array, T: Array, m: Array) -> tuple[Array, Array]:
    """Return eta^2/P0 and eta^3/P0 times slope and curvature of the pressure in the packing, of pure chains of sigma
    = 1 and eps/k = 1 at packings eta and reduced temperatures T (n,); P0 is the ideal pressure over eta."""
    at = (chain_pressures(m, T, eta + k * STEP) for k in (-1, 0, 1))
    low, here, high = (slope / density for _, slope, density in at)
    return here * m, (high - low) / (2.0 * STEP) * eta * m


def reduced_temperature(m: Array) -> Array:
    """Return the critical temperature over the segment energy (n,) of chains of m segments, within 1 %."""
    return np.asarray(np.exp(np.polyval(_TEMPERATURE, np.log(np.clip(m, 0.7, 60.0)))))


def critical_points(m: Array, sigma: Array, epsilon: Array) -> tuple[Array, Array, Array]:
    """Return T K, P Pa and V m3/mol (..., nc) where slope and curvature of the pressure in the density vanish.

    Newton's method by differences, from a fit of the critical packing and temperature in m.
    """
    shape = np.broadcast_shapes(m.shape, sigma.shape, epsilon.shape)
    m, sigma, epsilon = (np.broadcast_to(v, shape).reshape(-1).astype(float) for v in (m, sigma, epsilon))
    eta, T = np.exp(np.polyval(_PACKING, np.log(np.clip(m, 0.7, 60.0)))), reduced_temperature(m)

    def goals(eta: Array, T: Array) -> Array:
        return np.stack(_slopes(eta, T, m))

    for _ in range(60):
        now = goals(eta, T)
        h, k = 1e-5 * eta, 1e-5 * T
        by_eta = (goals(eta + h, T) - goals(eta - h, T)) / (2.0 * h)
        by_T = (goals(eta, T + k) - goals(eta, T - k)) / (2.0 * k)
        det = by_eta[0] * by_T[1] - by_eta[1] * by_T[0]
        step_eta = (now[0] * by_T[1] - now[1] * by_T[0]) / det
        step_T = (by_eta[0] * now[1] - by_eta[1] * now[0]) / det
        eta = eta - np.clip(step_eta, -0.02, 0.02)
        T = np.maximum(T - np.clip(step_T, -0.2, 0.2), 0.3)
        if max(np.abs(step_eta).max(), np.abs(step_T).max()) < 1e-8:
            break
    d = 1.0 - 0.12 * np.exp(-3.0 / T)
    density = eta / (K * m * d**3) / sigma**3
    P = chain_pressures(m, T, eta)[0] / sigma**3 * R * T * epsilon
    return (T * epsilon).reshape(shape), P.reshape(shape), (1.0 / density).reshape(shape)
