"""Lumping of fractions into fewer pseudo-components."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def whitson_count(first: float, last: float) -> int:
    """Return the number of groups between carbon numbers, 1 + 3.3 log10(N - n); Whitson, SPE J. 23, 683 (1983)."""
    return max(1, int(1.0 + 3.3 * np.log10(max(last - first, 1.0))))


def whitson_groups(molar_mass: Array, count: int) -> NDArray[np.intp]:
    """Return the group (n,) of every fraction: bounds M_n (M_N/M_n)^(I/count) in molar mass; Whitson (1983)."""
    bounds = molar_mass[0] * (molar_mass[-1] / molar_mass[0]) ** (np.arange(1, count) / count)
    return np.asarray(np.searchsorted(bounds, molar_mass * (1.0 - 1e-12), side="left"))


def equal_groups(amount: Array, count: int) -> NDArray[np.intp]:
    """Return the group (n,) of every fraction so that the groups hold amounts as equal as whole fractions allow."""
    middle = np.cumsum(amount) - 0.5 * amount
    return np.asarray(np.minimum((middle / amount.sum() * count).astype(np.intp), count - 1))


def joined(values: Array, weight: Array, group: NDArray[np.intp]) -> Array:
    """Return the means (m, ...) of values (n, ...) over the groups (n,) present, by weight (n,)."""
    _, place = np.unique(group, return_inverse=True)
    size = int(place.max()) + 1
    total = np.zeros(size)
    np.add.at(total, place, weight)
    shape = (-1, *([1] * (values.ndim - 1)))
    out = np.zeros((size, *values.shape[1:]))
    np.add.at(out, place, values * weight.reshape(shape))
    return np.asarray(out / total.reshape(shape))


def summed(values: Array, group: NDArray[np.intp]) -> Array:
    """Return the sums (m,) of values (n,) over the groups (n,) present."""
    _, place = np.unique(group, return_inverse=True)
    out = np.zeros(int(place.max()) + 1)
    np.add.at(out, place, values)
    return out
