"""Ideal-gas heat capacity, enthalpy and entropy from sums of harmonic oscillators.

    cp/R = c0 + sum_k w_k E(theta_k/T),   E(u) = (u/2 / sinh(u/2))^2

c0 is the part of translation and rotation, E the heat capacity of a harmonic oscillator (Einstein, Ann. Phys. 327,
180, 1907). The characteristic temperatures are the same for all components, so that many states of many components
are one matrix product. The form has the right limits at low and at high temperature and is positive whatever the
weights; it is meant for 50 to 1500 K. Coefficients (nc, 1 + k) are R times c0 and the weights, J/(mol K)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..constants import P_REF, T_REF, R

Array = NDArray[np.float64]

THETA = np.array([90.0, 180.0, 330.0, 550.0, 850.0, 1250.0, 1750.0, 2300.0, 3000.0, 4300.0, 6200.0])
"""Characteristic temperatures of the oscillators, K."""

_MOST = 600.0
"""Reduced temperature beyond which an oscillator is frozen."""


def oscillator(u: Array) -> Array:
    """Return the heat capacity over R of oscillators at u = theta/T (...)."""
    half = 0.5 * np.minimum(u, _MOST)
    return np.asarray((half / np.sinh(half)) ** 2)


def _energy(T: Array) -> Array:
    """Return the energies over R, K, of the oscillators (..., k) at T (...)."""
    return np.asarray(THETA / np.expm1(np.minimum(THETA / T[..., None], _MOST)))


def _entropy(T: Array) -> Array:
    u = np.minimum(THETA / T[..., None], _MOST)
    return np.asarray(u / np.expm1(u) - np.log1p(-np.exp(-u)))


_ENERGY_REF = _energy(np.array(T_REF))
_ENTROPY_REF = _entropy(np.array(T_REF))


def heat_capacity(cp: Array, T: Array) -> Array:
    """Return cp (..., nc), J/(mol K), from coefficients (nc, 1 + k) at T (...) K."""
    T = np.asarray(T, float)
    return np.asarray(oscillator(THETA / T[..., None]) @ cp[:, 1:].T + cp[:, 0])


def enthalpy(cp: Array, T: Array) -> Array:
    """Return H_ig(T) - H_ig(298.15 K) of each component (..., nc), J/mol."""
    return np.asarray((_energy(T) - _ENERGY_REF) @ cp[:, 1:].T + (T[..., None] - T_REF) * cp[:, 0])


def pure_entropy(cp: Array, T: Array) -> Array:
    """Return S_ig(T) - S_ig(298.15 K) of each component at one pressure (..., nc), J/(mol K)."""
    return np.asarray((_entropy(T) - _ENTROPY_REF) @ cp[:, 1:].T + np.log(T[..., None] / T_REF) * cp[:, 0])


def entropy(cp: Array, T: Array, P: Array, x: Array) -> Array:
    """Return the molar entropy (...) of the ideal-gas mixture x (..., nc) at T, P, J/(mol K).

    Zero for each pure ideal gas at 298.15 K and 101325 Pa; the entropy of mixing is included.
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        mixing = np.where(x > 0.0, x * np.log(x), 0.0).sum(axis=-1)
    return np.asarray((x * pure_entropy(cp, T)).sum(axis=-1) - R * (np.log(P / P_REF) + mixing))


def fitted(rigid: float, T: Array, cp: Array, prior: Array | None = None, hold: float = 0.02) -> Array:
    """Return weights (k,), zero or more, that with the part ``rigid`` give cp (n,) over R at T (n,) K.

    Where the data leave them free they stay near the ``prior`` (k,), which ``hold`` weighs against the data.
    """
    from scipy.optimize import nnls

    A, b = oscillator(THETA / T[:, None]) / cp[:, None], (cp - rigid) / cp
    if prior is not None:
        scale = hold / (prior + 0.05 * prior.max())
        A, b = np.vstack([A, np.diag(scale)]), np.concatenate([b, scale * prior])
    return np.asarray(nnls(A, b)[0])
