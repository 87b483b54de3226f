"""Friction in pipes and what flows too fast: Darcy's friction factor, erosional velocity."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.special import wrightomega

Array = NDArray[np.float64]

LAMINAR, TURBULENT = 2000.0, 4000.0
"""Reynolds numbers up to which a flow is laminar and from which it is turbulent; between them the friction factor goes
straight from one to the other."""
FOOT, POUND_PER_CUBIC_FOOT = 0.3048, 16.018463373960142


def colebrook(Re: ArrayLike, relative_roughness: ArrayLike) -> Array:
    """Return Darcy's friction factor of turbulent flow, of any shape.

    Colebrook, J. Inst. Civ. Eng. 11, 133 (1939): 1/sqrt(f) = -2 log10(k/(3.7 D) + 2.51/(Re sqrt(f))), solved in closed
    form by Wright's omega function (Sonnad and Goudar, Ind. Eng. Chem. Res. 46, 2593, 2007) and one Newton step. Holds
    for Re above 4000 and k/D up to 0.05."""
    reynolds, k = np.asarray(Re, float), np.asarray(relative_roughness, float)
    a, b, half = k / 3.7, 2.51 / reynolds, 0.5 * np.log(10.0)
    omega: Array = wrightomega(half * a / b + np.log(half / b))
    y = np.asarray(omega) / half - a / b
    # Where the roughness rules, the difference above loses digits.
    y = y - (y + np.log(a + b * y) / half) / (1.0 + b / (half * (a + b * y)))
    return np.asarray(1.0 / y**2)


def friction_factor(Re: ArrayLike, relative_roughness: ArrayLike) -> Array:
    """Return Darcy's friction factor (...) at any Reynolds number: 64/Re in laminar flow, Colebrook's in turbulent, straight
    between them."""
    number = np.maximum(np.asarray(Re, float), 1e-12)
    fast = colebrook(np.maximum(number, TURBULENT), relative_roughness)
    slow = 64.0 / np.minimum(number, LAMINAR)
    share = np.clip((number - LAMINAR) / (TURBULENT - LAMINAR), 0.0, 1.0)
    return np.asarray((1.0 - share) * slow + share * fast)


def erosional_velocity(density: ArrayLike, constant: float = 100.0) -> Array:
    """Return the velocity m/s above which a fluid of a density kg/m3 wears its pipe: C/sqrt(rho) with C in ft/s and
    (lb/ft3)^(1/2), API RP 14E (1991), eq. 2.14."""
    return np.asarray(constant * FOOT / np.sqrt(np.asarray(density, float) / POUND_PER_CUBIC_FOOT))
