"""Boiling temperatures at other pressures, and the corrections of a distillation read in the open."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..constants import ATM
from ..errors import DomainError

Array = NDArray[np.float64]

MMHG = ATM / 760.0
MAXWELL_BONNELL = "Maxwell and Bonnell, Ind. Eng. Chem. 49, 1187 (1957); Riazi, ASTM MNL50 (2005), eqs. 3.29 and 3.30"
LOWEST, HIGHEST = 1e-3 * MMHG, 1e7
"""Pa. Pressures between which the correlation is evaluated; its data end at 0.001 mmHg."""

BAROMETRIC = "Sydney Young's equation, as used by ASTM D86"
CRACKING = "API Technical Data Book, procedure 3A1 (before 1994); Riazi, ASTM MNL50 (2005), section 3.1"
CRACKING_FROM = (475.0 + 459.67) / 1.8
"""K. Reported temperatures above this are corrected."""
CRACKING_TO = 400.0 + 273.15
"""K. A D86 is not run hotter; from there the exponential correction is held."""


def _x(P: float) -> float:
    log = np.log10(P / MMHG)
    if P < 2.0 * MMHG:
        return float((6.761560 - 0.987672 * log) / (3000.538 - 43.0 * log))
    if P <= ATM:
        return float((5.994296 - 0.972546 * log) / (2663.129 - 95.76 * log))
    return float((6.412631 - 0.989679 * log) / (2770.085 - 36.0 * log))


def _watson_shift(nbp: Array, watson_k: ArrayLike, P: float) -> Array:
    weight = np.clip(-3.2985 + 0.009 * nbp, 0.0, 1.0)
    return np.asarray(1.3889 * weight * (np.asarray(watson_k) - 12.0) * np.log10(P / ATM))


def normal_boiling_point(T: ArrayLike, P: float, watson_k: ArrayLike = 12.0) -> Array:
    """Return the normal boiling points (...) K of fractions that boil at T (...) K under P Pa.

    Maxwell and Bonnell (1957), with the correction for the Watson factor. At 1 atm the temperatures themselves.
    Raises ValueError for a pressure outside 0.001 mmHg to 100 bar.
    """
    T = np.asarray(T, float)
    if abs(P / ATM - 1.0) < 1e-6:
        return T.copy()
    _check(P)
    x = _x(P)
    at_12 = 748.1 * x * T / (1.0 + T * (0.3861 * x - 0.00051606))
    nbp = at_12
    for _ in range(30):
        nbp = at_12 + _watson_shift(nbp, watson_k, P)
    return np.asarray(nbp)


def boiling_point_at(nbp: ArrayLike, P: float, watson_k: ArrayLike = 12.0) -> Array:
    """Return the temperatures (...) K at which fractions of normal boiling points nbp (...) K boil under P Pa.

    The inverse of :func:`normal_boiling_point`.
    """
    nbp = np.asarray(nbp, float)
    if abs(P / ATM - 1.0) < 1e-6:
        return nbp.copy()
    _check(P)
    x = _x(P)
    at_12 = nbp - _watson_shift(nbp, watson_k, P)
    return np.asarray(at_12 / (748.1 * x - at_12 * (0.3861 * x - 0.00051606)))


def _check(P: float) -> None:
    if not LOWEST <= P <= HIGHEST:
        raise DomainError(f"boiling points are converted between 0.001 mmHg and 100 bar; {P:.4g} Pa is outside")


def to_standard_barometer(T: ArrayLike, P: float) -> Array:
    """Return temperatures (...) K read in the open at a barometer of P Pa as at 1 atm; Sydney Young."""
    T = np.asarray(T, float)
    return np.asarray(T + 0.00012 * (760.0 - P / MMHG) * T)


def cracking_corrected(T: ArrayLike) -> Array:
    """Return reported temperatures (...) K with the correction for thermal cracking added above 475 degF.

    log10 of the correction in degF = -1.587 + 0.004735 T(degF), held from 400 degC on.
    """
    T = np.asarray(T, float)
    fahrenheit = np.minimum(1.8 * T - 459.67, CRACKING_TO * 1.8 - 459.67)
    return np.asarray(np.where(T > CRACKING_FROM, T + 10.0 ** (-1.587 + 0.004735 * fahrenheit) / 1.8, T))
