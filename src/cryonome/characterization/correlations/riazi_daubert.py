"""Correlations of Riazi and Daubert."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .registry import Fraction, entry

Array = NDArray[np.float64]

_RD = "Riazi and Daubert, Ind. Eng. Chem. Res. 26, 755 (1987); Riazi, ASTM MNL50 (2005), eqs. 2.46, 2.50 and tables"
_RD_FORM = "a exp(b Tb + c SG + d Tb SG) Tb^e SG^f"
_RD_RANGE = {"nbp": (300.0, 620.0), "sg": (0.60, 0.97)}


def _riazi(f: Fraction, a: float, b: float, c: float, d: float, e: float, g: float) -> Array:
    T, s = f.nbp, f.sg
    return np.asarray(a * np.exp(b * T + c * s + d * T * s) * T**e * s**g)


@entry(
    "riazi-daubert-1987", "molar_mass", "Riazi–Daubert 1987", _RD, _RD_FORM, {"nbp": (300.0, 850.0), "sg": (0.60, 0.97)}
)
def molar_mass_riazi(f: Fraction) -> Array:
    """Return molar masses (n,), kg/mol."""
    return _riazi(f, 42.965e-3, 2.097e-4, -7.78712, 2.08476e-3, 1.26007, 4.98308)


@entry("riazi-daubert-1987", "Tc", "Riazi–Daubert 1987", _RD, _RD_FORM, _RD_RANGE)
def _tc_riazi(f: Fraction) -> Array:
    return _riazi(f, 9.5233, -9.314e-4, -0.544442, 6.4791e-4, 0.81067, 0.53691)


@entry("riazi-daubert-1987", "Pc", "Riazi–Daubert 1987", _RD, _RD_FORM, _RD_RANGE)
def _pc_riazi(f: Fraction) -> Array:
    return _riazi(f, 3.1958e10, -8.505e-3, -4.8014, 5.749e-3, -0.4844, 4.0846)


@entry("riazi-daubert-1987", "Vc", "Riazi–Daubert 1987", _RD, _RD_FORM + " (per mass, times M)", _RD_RANGE)
def _vc_riazi(f: Fraction) -> Array:
    per_mass = _riazi(f, 6.049e-2, -2.6422e-3, -0.26404, 1.971e-3, 0.7506, -1.2028)
    return np.asarray(per_mass * 1e-3 * f.known["molar_mass"])
