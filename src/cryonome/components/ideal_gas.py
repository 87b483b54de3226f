"""Ideal-gas enthalpy and entropy from heat-capacity polynomials."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..constants import P_REF, T_REF, R

Array = NDArray[np.float64]


def heat_capacity(cp: Array, T: Array) -> Array:
    """Return cp (..., nc), J/(mol K), from coefficients (nc, k) of rising powers at T (...) K."""
    return np.asarray(_powers(T, cp.shape[-1]) @ cp.T)


def _powers(T: Array, count: int) -> Array:
    return np.stack([T**k for k in range(count)], axis=-1)


def enthalpy(cp: Array, T: Array) -> Array:
    """Return H_ig(T) - H_ig(298.15 K) of each component (..., nc), J/mol."""
    k = np.arange(1, cp.shape[-1] + 1)
    rise = (_powers(T, k.size) * T[..., None]) - T_REF**k
    return np.asarray(rise @ (cp / k).T)


def entropy(cp: Array, T: Array, P: Array, x: Array) -> Array:
    """Return the molar entropy (...) of the ideal-gas mixture x (..., nc) at T, P, J/(mol K).

    Zero for each pure ideal gas at 298.15 K and 101325 Pa; the entropy of mixing is included.
    """
    k = np.arange(1, cp.shape[-1])
    rise = np.concatenate([np.log(T / T_REF)[..., None], (T[..., None] ** k - T_REF**k) / k], axis=-1)
    with np.errstate(divide="ignore", invalid="ignore"):
        mixing = np.where(x > 0.0, x * np.log(x), 0.0).sum(axis=-1)
    return np.asarray((x * (rise @ cp.T)).sum(axis=-1) - R * (np.log(P / P_REF) + mixing))
