"""Correlations of single authors: Goossens, Cavett, Sim and Daubert, Hall and Yarborough, Abbott."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...constants import CUBIC_FOOT_PER_POUND_MOLE, PSI
from .registry import Fraction, entry

Array = NDArray[np.float64]


@entry(
    "goossens",
    "molar_mass",
    "Goossens 1996",
    "Goossens, Ind. Eng. Chem. Res. 35, 985 (1996)",
    "0.01077 Tb^b / d20, b = 1.52869 + 0.06486 ln(Tb/(1078 − Tb))",
    {"nbp": (306.0, 1013.0), "sg": (0.63, 1.08)},
)
def _m_goossens(f: Fraction) -> Array:
    T = np.minimum(f.nbp, 1060.0)
    d20 = f.sg - 4.5e-3 * (2.34 - 1.9 * f.sg)
    return np.asarray(1e-3 * 0.010770 * T ** (1.52869 + 0.06486 * np.log(T / (1078.0 - T))) / d20)


_SD = "Sim and Daubert, Ind. Eng. Chem. Process Des. Dev. 19, 386 (1980)"
_SD_RANGE = {"nbp": (305.0, 810.0), "sg": (0.60, 1.00)}


@entry("sim-daubert", "molar_mass", "Sim–Daubert 1980", _SD, "5.805e-5 Tb^2.3776 SG^−0.9371", _SD_RANGE)
def _m_sim_daubert(f: Fraction) -> Array:
    return np.asarray(5.805e-8 * f.nbp**2.3776 * f.sg**-0.9371)


@entry("sim-daubert", "Tc", "Sim–Daubert 1980", _SD, "exp(4.2009 Tb^0.08615 SG^0.04614)/1.8", _SD_RANGE)
def _tc_sim_daubert(f: Fraction) -> Array:
    return np.asarray(np.exp(4.2009 * f.nbp**0.08615 * f.sg**0.04614) / 1.8)


@entry("sim-daubert", "Pc", "Sim–Daubert 1980", _SD, "6.1483e12 Tb^−2.3177 SG^2.4853", _SD_RANGE)
def _pc_sim_daubert(f: Fraction) -> Array:
    return np.asarray(6.1483e12 * f.nbp**-2.3177 * f.sg**2.4853)


_CAVETT = "Cavett, 27th API midyear meeting, San Francisco (1962); Riazi, ASTM MNL50 (2005), section 2.5.1.2"
_CAVETT_FORM = "polynomial in Tb (°F) and API gravity"
_CAVETT_RANGE = {"nbp": (300.0, 750.0), "sg": (0.60, 1.00)}


def _fahrenheit(f: Fraction) -> tuple[Array, Array]:
    return 1.8 * f.nbp - 459.67, 141.5 / f.sg - 131.5


@entry("cavett", "Tc", "Cavett 1962", _CAVETT, _CAVETT_FORM, _CAVETT_RANGE)
def _tc_cavett(f: Fraction) -> Array:
    t, api = _fahrenheit(f)
    rankine = 768.07121 + 1.7133693 * t - 1.0834003e-3 * t**2 - 8.9212579e-3 * api * t + 3.8890584e-7 * t**3
    return np.asarray((rankine + 5.3094920e-6 * api * t**2 + 3.2711600e-8 * api**2 * t**2) / 1.8)


@entry("cavett", "Pc", "Cavett 1962", _CAVETT, _CAVETT_FORM, _CAVETT_RANGE)
def _pc_cavett(f: Fraction) -> Array:
    t, api = _fahrenheit(f)
    log = 2.8290406 + 9.4120109e-4 * t - 3.0474749e-6 * t**2 - 2.0876110e-5 * api * t + 1.5184103e-9 * t**3
    log = log + 1.1047899e-8 * api * t**2 - 4.8271599e-8 * api**2 * t + 1.3949619e-10 * api**2 * t**2
    return np.asarray(10.0**log * PSI)


@entry(
    "hall-yarborough",
    "Vc",
    "Hall–Yarborough 1971",
    "Hall and Yarborough, Chem. Eng. 78(25), 76 (1971)",
    "0.025 M^1.15 SG^−0.7935, ft³/lbmol",
    {},
)
def _vc_hall(f: Fraction) -> Array:
    mass = 1e3 * f.known["molar_mass"]
    return np.asarray(0.025 * mass**1.15 * f.sg**-0.7935 * CUBIC_FOOT_PER_POUND_MOLE)


@entry(
    "abbott",
    "viscosity",
    "Abbott 1971",
    "Abbott, Kaufmann and Domash, Can. J. Chem. Eng. 49, 379 (1971); Riazi, ASTM MNL50 (2005), eq. 2.128",
    "log10 of the viscosity in Watson K and API gravity",
    {"watson_k": (10.0, 12.5), "sg": (0.74, 1.00)},
)
def _viscosity_abbott(f: Fraction) -> Array:
    """Return kinematic viscosities (n, 2), m2/s, at 100 and 210 degF."""
    k = f.watson_k
    # Light and very heavy fractions lie beyond the poles of the two quotients; they are told to be outside.
    a = np.clip(141.5 / f.sg - 131.5, 4.0, 70.0)
    low = 4.39371 - 1.94733 * k + 0.127690 * k**2 + 3.2629e-4 * a**2 - 1.18246e-2 * k * a
    low = low + (0.171617 * k**2 + 10.9943 * a + 9.50663e-2 * a**2 - 0.860218 * k * a) / np.maximum(
        a + 50.3642 - 4.78231 * k, 2.0
    )
    high = -0.463634 - 0.166532 * a + 5.13447e-4 * a**2 - 8.48995e-3 * k * a
    high = high + (8.0325e-2 * k + 1.24899 * a + 0.19768 * a**2) / np.maximum(a + 26.786 - 2.6296 * k, 2.0)
    return np.asarray(10.0 ** np.clip(np.stack([low, high], axis=-1), -1.3, 12.0) * 1e-6)


@entry(
    "firoozabadi",
    "parachor",
    "Firoozabadi 1988",
    "Firoozabadi, Katz, Soroosh and Sajjadian, SPE Reserv. Eng. 3, 265 (1988)",
    "−11.4 + 3.23 M − 0.0022 M²",
    {"molar_mass": (0.070, 0.500)},
)
def _parachor_firoozabadi(f: Fraction) -> Array:
    # The parabola has its top at 734 g/mol; from there the parachor is held.
    mass = np.minimum(1e3 * f.known["molar_mass"], 734.0)
    return np.asarray(-11.4 + 3.23 * mass - 0.0022 * mass**2)


@entry(
    "whitson-brule",
    "parachor",
    "Whitson–Brulé 2000",
    "Whitson and Brulé, Phase Behavior, SPE Monograph 20 (2000), section 3.3.7",
    "25.2 + 2.86 M",
    {},
)
def _parachor_line(f: Fraction) -> Array:
    return np.asarray(25.2 + 2860.0 * f.known["molar_mass"])
