"""Methanol, ethanol and glycols as liquids, alone and with water: densities, viscosities, conductivities.

Densities are lines with a bend in temperature and excess volumes of Redlich and Kister's form, brought to the tables of
aqueous solutions at 20 °C of the CRC Handbook of Chemistry and Physics (methanol, ethanol and ethylene glycol within
0.25 %); of di- and triethylene glycol two known densities each. Viscosities by Vogel's equation, mixed after Grunberg
and Nissan, Nature 164, 799 (1949), in mass fractions,

    ln eta = sum w_i ln eta_i + w_w sum w_i G_i (293.15 K/T)^n_i,

G and n from the same tables at 20 and 50 °C, within 10 %. Conductivities mixed after Filippov, Vest. Mosk. Univ. 8, 67
(1955): pair by pair less 0.72 w_i w_j |lambda_i - lambda_j|; some 5 %. From 250 to 400 K. Array shapes: M states, ns
solvents, water first."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .water_transport import COLDEST

Array = NDArray[np.float64]

T_ZERO, T_TABLES = 273.15, 293.15
FILIPPOV = 0.72


@dataclass(frozen=True)
class Organic:
    """A liquid: density in kg/m3 as a + b t + c t^2 (t °C), compressibility 1/Pa, Vogel's A, B K and C K of ln(eta/mPa
    s), conductivity at 25 °C W/(m K) with its slope, and with water the excess volume's two constants, cm3/mol, and G
    and n of the viscosity."""

    density: tuple[float, float, float]
    soft: float
    vogel: tuple[float, float, float]
    conducts: tuple[float, float]
    excess: tuple[float, float]
    thick: tuple[float, float]


ORGANICS: dict[str, Organic] = {
    "methanol": Organic((810.0, -0.925, -3e-4), 1.23e-9, (-5.053, 1325.0, 0.0), (0.200, -2.8e-4), (-3.99, 0.10), (3.3, 3.2)),
    "ethanol": Organic((806.3, -0.845, -4e-4), 1.15e-9, (-5.486, 1657.0, 0.0), (0.167, -2.6e-4), (-4.54, -1.33), (3.9, 4.3)),
    "ethylene glycol": Organic((1127.5, -0.70, -2.5e-4), 3.7e-10, (-4.028, 1136.1, 132.4), (0.254, 5e-5), (-1.52, -0.02), (-0.6, 0.0)),
    "diethylene glycol": Organic((1131.5, -0.73, -2e-4), 3.9e-10, (-3.507, 1030.1, 147.7), (0.204, -2e-5), (-2.6, -1.2), (-0.3, 0.0)),
    "triethylene glycol": Organic((1140.3, -0.78, -1e-4), 4.0e-10, (-3.145, 961.3, 156.2), (0.194, -5e-5), (-3.6, -2.0), (0.0, 0.0)),
}  # fmt: skip


def volume(
    name: str, molar_mass: float, T: Array, P: Array, excess_pressure: float = 1e5
) -> tuple[Array, Array, Array]:
    """Return the molar volume of a pure liquid, m3/mol, with its derivatives by T and P, (M,), at T K and P Pa."""
    own = ORGANICS[name]
    a, b, c = own.density
    t = np.clip(np.asarray(T) - T_ZERO, -60.0, 200.0)
    rho = a + (b + c * t) * t
    press = 1.0 - own.soft * (np.clip(P, 0.0, 2e8) - excess_pressure)
    value = molar_mass / rho * press
    return value, -value * (b + 2.0 * c * t) / rho, -own.soft * molar_mass / rho


def excess_volume(names: tuple[str, ...], x: Array) -> Array:
    """Return the excess volume with water, m3/mol (M,), of mole fractions x (M, ns), water first."""
    out = np.zeros(len(x))
    for k, name in enumerate(names, start=1):
        a, b = ORGANICS[name].excess
        out += x[:, 0] * x[:, k] * (a + b * (x[:, 0] - x[:, k]))
    return 1e-6 * out


def viscosity(name: str, T: Array) -> Array:
    """Return the viscosity of a pure liquid, Pa s (M,), at T K."""
    A, B, C = ORGANICS[name].vogel
    return np.asarray(1e-3 * np.exp(A + B / (np.maximum(T, C + 70.0) - C)))


def mixed_viscosity(names: tuple[str, ...], w: Array, T: Array, water: Array) -> Array:
    """Return the viscosity of a mixture, Pa s (M,), of mass fractions w (M, ns), water first with its viscosity."""
    out = w[:, 0] * np.log(water)
    for k, name in enumerate(names, start=1):
        G, n = ORGANICS[name].thick
        out = out + w[:, k] * (np.log(viscosity(name, T)) + w[:, 0] * G * (T_TABLES / np.maximum(T, COLDEST)) ** n)
    return np.exp(out)


def mixed_conductivity(names: tuple[str, ...], w: Array, T: Array, water: Array) -> Array:
    """Return the conductivity of a mixture, W/(m K) (M,), of mass fractions w (M, ns), water first with its own."""
    own = [water]
    for name in names:
        at, slope = ORGANICS[name].conducts
        own.append(at + slope * (T - T_ZERO - 25.0))
    each = np.stack(own, axis=1)
    out = np.vecdot(w, each)
    for i in range(each.shape[1]):
        for j in range(i):
            out = out - FILIPPOV * w[:, i] * w[:, j] * np.abs(each[:, i] - each[:, j])
    return np.asarray(out)
