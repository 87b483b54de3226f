"""Correlations of Kesler and Lee, the acentric factor of Lee and Kesler among them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...constants import R
from .registry import Fraction, entry

Array = NDArray[np.float64]

_KL = "Kesler and Lee, Hydrocarbon Processing 55(3), 153 (1976)"


@entry(
    "lee-kesler",
    "molar_mass",
    "Kesler–Lee 1976",
    _KL,
    "polynomial in Tb and SG",
    {"nbp": (288.0, 750.0), "sg": (0.60, 1.0)},
)
def _m_lee_kesler(f: Fraction) -> Array:
    T, s = f.nbp, f.sg
    mass = -12272.6 + 9486.4 * s + (8.3741 - 5.9917 * s) * T
    mass = mass + (1.0 - 0.77084 * s - 0.02058 * s**2) * (0.7465 - 222.466 / T) * 1e7 / T
    mass = mass + (1.0 - 0.80882 * s + 0.02226 * s**2) * (0.3228 - 17.335 / T) * 1e12 / T**3
    return np.asarray(mass * 1e-3)


@entry(
    "lee-kesler",
    "Tc",
    "Kesler–Lee 1976",
    _KL,
    "189.8 + 450.6 SG + (0.4244 + 0.1174 SG) Tb + (14410 − 100688 SG)/Tb",
    {"nbp": (288.0, 920.0)},
)
def _tc_lee_kesler(f: Fraction) -> Array:
    T, s = f.nbp, f.sg
    return np.asarray(189.8 + 450.6 * s + (0.4244 + 0.1174 * s) * T + (14410.0 - 100688.0 * s) / T)


@entry(
    "lee-kesler",
    "Pc",
    "Kesler–Lee 1976",
    _KL,
    "ln Pc as a cubic in Tb with coefficients in 1/SG",
    {"nbp": (288.0, 920.0)},
)
def _pc_lee_kesler(f: Fraction) -> Array:
    T, s = f.nbp, f.sg
    ln_bar = 5.689 - 0.0566 / s - (0.43639 + 4.1216 / s + 0.21343 / s**2) * 1e-3 * T
    ln_bar = ln_bar + (0.47579 + 1.182 / s + 0.15302 / s**2) * 1e-6 * T**2
    ln_bar = ln_bar - (2.4505 + 9.9099 / s**2) * 1e-10 * T**3
    return np.asarray(np.exp(ln_bar) * 1e5)


@entry(
    "lee-kesler",
    "Vc",
    "Lee–Kesler 1975",
    "Lee and Kesler, AIChE J. 21, 510 (1975)",
    "(0.2905 − 0.085 omega) R Tc/Pc",
    {},
)
def _vc_lee_kesler(f: Fraction) -> Array:
    return np.asarray((0.2905 - 0.085 * f.known["omega"]) * R * f.known["Tc"] / f.known["Pc"])
