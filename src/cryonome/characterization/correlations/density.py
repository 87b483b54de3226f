"""Density of fractions: along the boiling curve at 60 degF, and as liquids at other temperatures."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ...components.oil_density import expanded_density
from ...constants import T_60F, TYPICAL_WATSON_K, WATER_DENSITY_60F, R
from ..carbon_groups import CARBON_GROUPS
from .registry import TEST_TEMPERATURES, Fraction, entry
from .riazi_daubert import molar_mass_riazi

Array = NDArray[np.float64]


@entry(
    "constant-watson",
    "density",
    "constant Watson K",
    "Watson, Nelson and Murphy, Ind. Eng. Chem. 27, 1460 (1935)",
    "SG = (1.8 Tb)^(1/3)/K with one K for the whole curve",
    {},
)
def _sg_watson(f: Fraction) -> Array:
    return np.asarray(np.cbrt(1.8 * f.nbp) / TYPICAL_WATSON_K)


@entry(
    "soreide",
    "density",
    "Søreide 1989",
    "Søreide, Dr.ing. thesis, NTH Trondheim (1989)",
    "SG = 0.2855 + 0.29 (M − 66)^0.13, M by Riazi–Daubert, scaled",
    {"nbp": (340.0, 1000.0)},
)
def _sg_soreide(f: Fraction) -> Array:
    sg = np.cbrt(1.8 * f.nbp) / TYPICAL_WATSON_K
    for _ in range(8):
        mass = 1e3 * molar_mass_riazi(Fraction(f.nbp, sg))
        sg = 0.2855 + 0.29 * np.maximum(mass - 66.0, 1.0) ** 0.13
    return np.asarray(sg)


@entry(
    "carbon-groups",
    "density",
    "Katz–Firoozabadi 1978",
    "Katz and Firoozabadi, J. Pet. Technol. 30, 1649 (1978)",
    "SG of the single-carbon-number groups over their boiling points, scaled",
    {"nbp": (337.0, 826.0)},
)
def _sg_groups(f: Fraction) -> Array:
    watson = np.cbrt(1.8 * CARBON_GROUPS.nbp) / CARBON_GROUPS.specific_gravity
    return np.asarray(np.cbrt(1.8 * f.nbp) / np.interp(f.nbp, CARBON_GROUPS.nbp, watson))


@entry(
    "spencer-danner",
    "liquid_density",
    "Spencer–Danner 1972",
    "Spencer and Danner, J. Chem. Eng. Data 17, 236 (1972)",
    "modified Rackett equation through the density at 60 °F",
    {},
)
def _density_rackett(f: Fraction) -> Array:
    """Return densities (n, 2), kg/m3, of the saturated liquid at 100 and 210 degF."""
    Tc, Pc, mass = (f.known[k][:, None] for k in ("Tc", "Pc", "molar_mass"))
    rho = f.sg[:, None] * WATER_DENSITY_60F

    def power(T: Array | float) -> Array:
        return np.asarray(1.0 + np.maximum(1.0 - T / Tc, 0.01) ** (2.0 / 7.0))

    ln_z = np.log(mass * Pc / (rho * R * Tc)) / power(T_60F)
    return np.asarray(mass * Pc / (R * Tc) / np.exp(ln_z * power(TEST_TEMPERATURES)))


@entry(
    "astm-d1250",
    "liquid_density",
    "ASTM D1250 1980",
    "API MPMS chapter 11.1 (1980), generalized crude oils",
    "ρ60 exp(−a dT (1 + 0.8 a dT)), a = 341.0957/ρ60², dT in °F",
    {"sg": (0.61, 1.076)},
)
def _density_expansion(f: Fraction) -> Array:
    """Return densities (n, 2), kg/m3, at 100 and 210 degF."""
    return expanded_density(f.sg[:, None], TEST_TEMPERATURES)


def compressibility_factor(sg: ArrayLike, T: ArrayLike) -> Array:
    """Return the isothermal compressibility (...) 1/Pa of oils of specific gravities (...) at T (...) K.

    API MPMS chapter 11.2.1M (1984), F = exp(-1.6208 + 0.00021592 t + 0.87096/r2 + 0.0042092 t/r2) 1e-6 1/kPa, t in
    degC, r2 the square of the density in kg/L; 638 to 1074 kg/m3, -30 to 90 degC. Temperatures beyond count as the
    nearest of the range.
    """
    t = np.clip(np.asarray(T, float) - 273.15, -30.0, 90.0)
    r2 = np.square(np.clip(np.asarray(sg, float) * WATER_DENSITY_60F / 1e3, 0.638, 1.074))
    return np.asarray(1e-9 * np.exp(-1.6208 + 0.00021592 * t + 0.87096 / r2 + 0.0042092 * t / r2))
