"""Viscosity against temperature and of blends."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]

LEAST = 1e-7
"""m2/s. Below 0.1 cSt the double logarithms end; nothing liquid is there."""


def index(viscosity: ArrayLike) -> Array:
    """Return the blending index ln ln(v + 0.8), v in cSt, of kinematic viscosities (...) m2/s.

    The index of ASTM D7152 (procedure A) and of Refutas (2000): blends add up linearly in it by mass.
    """
    cst = np.maximum(np.asarray(viscosity, float), LEAST * 2.5) * 1e6
    return np.asarray(np.log(np.log(cst + 0.8)))


def from_index(value: ArrayLike) -> Array:
    """Return kinematic viscosities (...) m2/s of blending indices; the inverse of :func:`index`."""
    return np.asarray((np.exp(np.exp(np.minimum(value, 4.5))) - 0.8) * 1e-6)


def at_temperature(viscosity: Array, temperatures: Array, T: float) -> Array:
    """Return kinematic viscosities (n,) m2/s at T K from those (n, 2) at two temperatures (2,) K.

    Walther's equation, ln ln(v + 0.8) straight in ln T (ASTM D341).
    """
    at = index(viscosity)
    weight = np.log(T / temperatures[0]) / np.log(temperatures[1] / temperatures[0])
    return from_index(at[:, 0] + weight * (at[:, 1] - at[:, 0]))


def blend(viscosity: Array, mass_fraction: Array) -> float:
    """Return the kinematic viscosity m2/s of a blend of (n,) by mass fractions (n,)."""
    return float(from_index(index(viscosity) @ mass_fraction / mass_fraction.sum()))


BEYOND = 1.0
"""m2/s (a million cSt). No method for petroleum fractions was made for more: what an extrapolation gives there is no
number."""


def within_method(value: float) -> float | None:
    """Return a kinematic viscosity, m2/s, None where it is beyond any method."""
    return value if value <= BEYOND else None
