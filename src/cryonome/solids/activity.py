"""Activity of water that holds alcohols, glycols and salts, batched over temperatures and doses.

Alcohols and glycols: Redlich and Kister, Ind. Eng. Chem. 40, 345 (1948), each paired with water,

    G/(R T) = sum_i x_w x_i sum_k (a_k + b_k (1000/T - 1000/298.15)) (x_w - x_i)^k

from freezing points, limiting activity coefficients and heats of mixing (``scripts/inhibitor_parameters.py``).
Chlorides: Pitzer, J. Phys. Chem. 77, 268 (1973), with the mixing terms of Harvie, Møller and Weare, Geochim.
Cosmochim. Acta 48, 723 (1984), and the temperatures of Silvester and Pitzer, J. Phys. Chem. 81, 1822 (1977) and J.
Solution Chem. 7, 327 (1978). Both kinds together multiply; the salt's molality counts on the water alone."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from ..constants import T_REF
from .inhibitors import INHIBITORS, SALTS
from .water import MOLAR_MASS

Array = NDArray[np.float64]
Doses = Mapping[str, Array]
"""Mass fractions of the aqueous liquid, water and all in it, by name, (N,) each."""

B_ION, ALPHA = 1.2, 2.0
THETA = {("KCl", "NaCl"): (-0.012, -0.0018), ("CaCl2", "NaCl"): (0.07, -0.007), ("CaCl2", "KCl"): (0.032, -0.025)}
"""theta of two cations and psi of these with chloride; Harvie, Møller and Weare (1984), tables 2 and 3."""


def mole_fractions(doses: Doses) -> tuple[Array, dict[str, Array]]:
    """Return the mole fractions of water and of each alcohol or glycol, salts left out, (N,)."""
    water = 1.0 - sum(doses.values()) if doses else np.ones(1)
    moles = {n: w / INHIBITORS[n].molar_mass for n, w in doses.items() if n not in SALTS}
    total = water / MOLAR_MASS + sum(moles.values())
    return np.asarray(water / MOLAR_MASS / total), {n: m / total for n, m in moles.items()}


def ln_activity(T: Array, doses: Doses) -> Array:
    """Return ln of the activity of water at T (N,) K, on pure liquid water at T."""
    out = np.log(mole_fractions(doses)[0]) + ln_gamma(T, doses)[0]
    water = 1.0 - sum(doses.values()) if doses else np.ones(1)
    salts = {n: w / water / SALTS[n].molar_mass for n, w in doses.items() if n in SALTS}
    return np.asarray(out + np.zeros_like(T) + (_salted(T, salts) if salts else 0.0))


def ln_gamma(T: Array, doses: Doses) -> tuple[Array, dict[str, Array]]:
    """Return ln of the activity coefficients of water and of each alcohol or glycol, (N,), on the pure liquids."""
    T = np.asarray(T)
    x_w, x = mole_fractions(doses)
    whole, by_water, slopes = np.zeros_like(T * x_w), np.zeros_like(T * x_w), {}
    for name, x_i in x.items():
        own = INHIBITORS[name]
        c = np.array(own.a)[:, None] + np.array(own.b)[:, None] * (1000.0 / T - 1000.0 / T_REF)
        d = x_w - x_i
        value = sum(c[k] * d**k for k in range(len(c)))
        slope = sum(k * c[k] * d ** (k - 1) for k in range(1, len(c)))
        whole = whole + x_w * x_i * value
        by_water = by_water + x_i * value + x_w * x_i * slope
        slopes[name] = x_w * value - x_w * x_i * slope
    common = x_w * by_water + sum(x[n] * s for n, s in slopes.items())
    return np.asarray(whole + by_water - common), {n: np.asarray(whole + s - common) for n, s in slopes.items()}


def _salted(T: Array, salts: Mapping[str, Array]) -> Array:
    """Return ln of the activity of water with chlorides at molalities ``salts``, the osmotic coefficient of Pitzer's
    eq. for mixtures."""
    ions = sum(m * (1.0 + SALTS[n].charge) for n, m in salts.items())
    chloride = sum(m * SALTS[n].charge for n, m in salts.items())
    strength = 0.5 * (chloride + sum(m * SALTS[n].charge ** 2 for n, m in salts.items()))
    root = np.sqrt(strength)
    total = -debye_hueckel(T) * strength * root / (1.0 + B_ION * root)
    equivalents = 2.0 * chloride
    powers = np.stack([np.ones_like(T), 1.0 / T - 1.0 / T_REF, np.log(T / T_REF), T - T_REF, T * T - T_REF**2])
    for n, m in salts.items():
        own = SALTS[n]
        beta0, beta1, c_phi = (np.array(q) @ powers for q in (own.beta0, own.beta1, own.c_phi))
        virial = beta0 + beta1 * np.exp(-ALPHA * root)
        total = total + m * chloride * (virial + equivalents * c_phi / (2.0 * np.sqrt(own.charge)))
    names = sorted(salts)
    for i, one in enumerate(names):
        for two in names[i + 1 :]:
            theta, psi = THETA[one, two]
            total = total + salts[one] * salts[two] * (theta + chloride * psi)
    return np.asarray(-MOLAR_MASS * (ions + 2.0 * total))


def debye_hueckel(T: Array) -> Array:
    """Return the slope A_phi of the osmotic coefficient, (kg/mol)^0.5: a parabola through 0.3768 at 0 degC and 0.3915
    at 25 degC, the values of Clarke and Glew, J. Chem. Soc. Faraday Trans. 76, 1911 (1980)."""
    t = T - T_REF
    return np.asarray(0.3915 + 6.3e-4 * t + 1.7e-6 * t * t)
