"""Acentric factors."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...constants import ATM
from ...eos import FORMS
from ...eos.matching import matched_omega
from .registry import Fraction, entry

Array = NDArray[np.float64]


@entry(
    "lee-kesler",
    "omega",
    "Lee–Kesler, Kesler–Lee above Tbr 0.8",
    "Lee and Kesler, AIChE J. 21, 510 (1975), eq. 23; Kesler and Lee (1976), eq. 15",
    "vapour pressure equation at the boiling point; above Tb/Tc = 0.8 a function of Watson K",
    {"nbp": (230.0, 1000.0)},
)
def _omega_lee_kesler(f: Fraction) -> Array:
    t = f.nbp / f.known["Tc"]
    ln_p = np.log(f.known["Pc"] / ATM)
    low = (-ln_p - 5.92714 + 6.09648 / t + 1.28862 * np.log(t) - 0.169347 * t**6) / (
        15.2518 - 15.6875 / t - 13.4721 * np.log(t) + 0.43577 * t**6
    )
    k = f.watson_k
    high = -7.904 + 0.1352 * k - 0.007465 * k**2 + 8.359 * t + (1.408 - 0.01063 * k) / t
    return np.asarray(np.where(t <= 0.8, low, high))


@entry(
    "edmister",
    "omega",
    "Edmister",
    "Edmister, Petroleum Refiner 37(4), 173 (1958)",
    "3/7 log10(Pc/atm) / (Tc/Tb − 1) − 1",
    {"nbp": (230.0, 700.0)},
)
def _omega_edmister(f: Fraction) -> Array:
    return np.asarray(3.0 / 7.0 * np.log10(f.known["Pc"] / ATM) / (f.known["Tc"] / f.nbp - 1.0) - 1.0)


@entry(
    "boiling-point",
    "omega",
    "boiling point matched",
    "equal fugacities at the boiling point and 1 atm",
    "the omega at which the chosen equation of state boils the cut at its boiling point",
    {},
)
def _omega_matched(f: Fraction) -> Array:
    matched = matched_omega(FORMS[f.form], f.known["Tc"], f.known["Pc"], f.nbp)
    return np.where(np.isnan(matched), _omega_lee_kesler(f), matched)
