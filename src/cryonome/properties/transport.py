"""Viscosity, thermal conductivity and surface tension from density and composition. Arrays: M phases, nc components.

Everything is sums over pairs of constants with the composition, so that many phases are a few matrix products.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ..constants import ATM, R
from . import methane
from .substance import Substance

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

FITTED, PUBLISHED, LBC = "fitted-states", "corresponding-states", "lbc"
VISCOSITIES = {
    FITTED: "corresponding states with methane; coupling fitted here to n-alkanes from pentane to eicosane, 25 to 100 °C, to 1000 bar; of light fluids by their density",
    PUBLISHED: "Pedersen and Fredenslund, Chem. Eng. Sci. 42, 182 (1987), methane as reference",
    LBC: "Lohrenz, Bray and Clark, J. Pet. Technol. 16, 1171 (1964)",
}
"""The methods of viscosity, with their source."""


class Constants(Protocol):
    """What viscosities need of the components: molar masses kg/mol, Tc K, Pc Pa, Vc m3/mol, each (nc,) or (M, nc)."""

    @property
    def molar_mass(self) -> Array: ...

    @property
    def Tc(self) -> Array: ...

    @property
    def Pc(self) -> Array: ...

    @property
    def Vc(self) -> Array: ...


def _pair(x: Array, values: Array) -> Array:
    """Return sum_i sum_j x_i x_j values_ij of compositions x (M, nc), (M,); values (nc, nc) or (M, nc, nc)."""
    if values.ndim == 2:
        return np.asarray(np.einsum("ij,ij->i", x @ values, x))
    return np.asarray(np.vecdot((x[:, None, :] @ values)[:, 0, :], x))


def thin_gas(substance: Constants, T: Array) -> Array:
    """Return the viscosities (M, nc) Pa s of the pure components as thin gases; Stiel and Thodos, AIChE J. 7, 611
    (1961)."""
    Tr = T[:, None] / substance.Tc
    xi = substance.Tc ** (1 / 6) / (np.sqrt(1e3 * substance.molar_mass) * (substance.Pc / ATM) ** (2 / 3))
    cold = 34e-5 * Tr**0.94
    hot = 17.78e-5 * np.maximum(4.58 * Tr - 1.67, 0.0) ** 0.625
    return np.asarray(1e-3 * np.where(Tr <= 1.5, cold, hot) / xi)


def lohrenz_bray_clark(substance: Constants, T: Array, x: Array, volume: Array) -> Array:
    """Return viscosities (M,) Pa s of phases x (M, nc) at T (M,) K with molar volumes (M,) m3/mol.

    Lohrenz, Bray and Clark (1964), eqs. 1 to 9, after Jossi, Stiel and Thodos. The fourth power of the reduced
    density makes it lean on critical volumes: of heavy oils it is a guess until matched."""
    mass = 1e3 * substance.molar_mass
    root = np.sqrt(mass)
    thin = np.vecdot(x * thin_gas(substance, T), root) / np.vecdot(x, root)
    Tc, Pc = np.vecdot(x, substance.Tc), np.vecdot(x, substance.Pc / ATM)
    xi = Tc ** (1 / 6) / (np.sqrt(np.vecdot(x, mass)) * Pc ** (2 / 3))
    reduced = np.vecdot(x, substance.Vc) / volume
    poly = 0.1023 + reduced * (0.023364 + reduced * (0.058533 + reduced * (-0.040758 + reduced * 0.0093324)))
    return np.asarray(thin + 1e-3 * (poly**4 - 1e-4) / xi)


@dataclass(frozen=True)
class Mixture:
    """M mixtures as one fluid: critical temperature K and pressure Pa (M,), the molar mass the coupling takes and the
    mean one, g/mol (M,)."""

    Tc: Array
    Pc: Array
    mixed: Array
    number: Array

    @staticmethod
    def of(substance: Constants, x: Array) -> Mixture:
        """Return the one fluid of compositions x (M, nc): Pedersen, Fredenslund, Christensen and Thomassen, Chem.
        Eng. Sci. 39, 1011 (1984), eqs. 10 to 16."""
        mass = 1e3 * substance.molar_mass
        size = np.cbrt(substance.Tc / substance.Pc)
        cubes = (size[..., :, None] + size[..., None, :]) ** 3
        energy = cubes * np.sqrt(substance.Tc[..., :, None] * substance.Tc[..., None, :])
        total, weighted = _pair(x, cubes), _pair(x, energy)
        number = np.vecdot(x, mass)
        by_mass = np.vecdot(x, mass**2) / number
        mixed = 1.304e-4 * (by_mass**2.303 - number**2.303) + number
        return Mixture(weighted / total, 8.0 * weighted / total**2, mixed, number)

    def scaled(self, ratio: Array, there: Array, rho: Array) -> Array:
        """Return viscosities (M,) Pa s from methane's at T ``there`` K and ``rho`` mol/L; ``ratio`` of its coupling
        to the mixture's."""
        scale = (self.Tc / methane.T_CRITICAL) ** (-1 / 6) * (self.Pc / methane.P_CRITICAL) ** (2 / 3)
        scale *= np.sqrt(self.mixed / (1e3 * methane.MOLAR_MASS)) / ratio
        return np.asarray(scale * methane.viscosity(there, rho))

    def by_pressure(self, T: Array, P: Array, liquid: Mask, own: Callable[[Array], Array]) -> Array:
        """Return viscosities (M,) Pa s by methane's at the corresponding temperature and pressure, ``own`` the
        coupling by reduced density."""
        at = T * methane.T_CRITICAL / self.Tc, P * methane.P_CRITICAL / self.Pc
        reduced = methane.density(*at, liquid) / methane.RHO_CRITICAL
        ratio = (1.0 + 0.031 * reduced**1.847) / own(reduced)
        there, push = at[0] * ratio, at[1] * ratio
        # What is above its critical temperature may correspond to a colder methane: there its pressure tells the
        # branch.
        dense = np.where(at[0] > methane.T_CRITICAL, push > methane.vapour_pressure(there), liquid)
        return self.scaled(ratio, there, methane.density(there, push, dense))


def corresponding_states(substance: Constants, T: Array, P: Array, x: Array, liquid: Mask) -> Array:
    """Return viscosities (M,) Pa s of phases x (M, nc) at T (M,) K and P (M,) Pa, by methane's at the corresponding
    state.

    Pedersen, Fredenslund, Christensen and Thomassen, Chem. Eng. Sci. 39, 1011 (1984), eqs. 10 to 21, with the
    constants of Pedersen and Fredenslund (1987). Tested on gases and oils to some 10 mPa s; n-alkanes beyond C14 come
    out half as thick again and more, naphthenes half as thick as they are. ``liquid`` (M,) picks the branch of
    methane."""
    one = Mixture.of(substance, x)
    return one.by_pressure(T, P, liquid, lambda r: 1.0 + 7.378e-3 * r**1.847 * one.mixed**0.5173)


COUPLING = (1.32310e-5, 0.770555, 2.925065, 37.51139)
"""a, b, c and d of alpha = 1 + a rho^b m^c, m = M/(1 + M/d): with it viscosities of the liquid n-alkanes from C5 to
C20 at 25 to 100 degC, and of five at 500 and 1000 bar (``scripts/viscosity_coupling.py``), are met within 6 % on
average, 18 % at worst."""


def coupled(constants: Sequence[float], reduced: Array, mass: Array) -> Array:
    """Return alpha (M,) by four constants as of :data:`COUPLING`, at reduced densities and molar masses g/mol (M,)."""
    a, b, c, d = constants
    return np.asarray(1.0 + a * reduced**b * (mass / (1.0 + mass / d)) ** c)


LIGHT = (55.0, 75.0)
"""Mean molar masses, g/mol, between which a fluid goes over from methane's viscosity at its own density to that at
its pressure."""


HOT = (700.0, 1200.0)
"""Corresponding temperatures of methane, K, between which light fluids go over to Lohrenz, Bray and Clark."""


def fitted_states(substance: Constants, T: Array, P: Array, x: Array, volume: Array, liquid: Mask) -> Array:
    """Return viscosities (M,) Pa s of phases x (M, nc) at T (M,) K, P (M,) Pa and molar volumes (M,) m3/mol, by
    methane's at a corresponding state.

    As :func:`corresponding_states`, with another coupling of heavy molecules (:data:`COUPLING`), which thickens less
    with cold and pressure; light fluids go by methane's viscosity at their own reduced density, since a fluid of
    another acentric factor is not packed as methane is at its pressure."""
    one = Mixture.of(substance, x)
    weight = _passage(one.number, LIGHT)
    out = np.zeros_like(T)
    light, heavy = weight < 1.0, weight > 0.0
    if light.any():
        reduced = np.minimum(np.vecdot(x, substance.Vc) / volume, methane.MOST_RHO / methane.RHO_CRITICAL)
        ratio = (1.0 + 0.031 * reduced**1.847) / (1.0 + 7.378e-3 * reduced**1.847 * one.mixed**0.5173)
        there = T * methane.T_CRITICAL / one.Tc * ratio
        # Helium and hydrogen correspond to a methane hotter than any: there the other method serves.
        hot = _passage(there, HOT)
        thin = one.scaled(ratio, np.minimum(there, HOT[1]), reduced * methane.RHO_CRITICAL)
        if (hot > 0.0).any():
            thin = (1.0 - hot) * thin + hot * lohrenz_bray_clark(substance, T, x, volume)
        out = out + (1.0 - weight) * np.log(np.where(light, thin, 1.0))
    if heavy.any():
        thick = one.by_pressure(T, P, liquid, lambda r: coupled(COUPLING, r, one.mixed))
        out = out + weight * np.log(np.where(heavy, thick, 1.0))
    return np.asarray(np.exp(out))


def viscosity(method: str, substance: Constants, T: Array, P: Array, x: Array, volume: Array, liquid: Mask) -> Array:
    """Return viscosities (M,) Pa s by a method of :data:`VISCOSITIES`."""
    if method == LBC:
        return lohrenz_bray_clark(substance, T, x, volume)
    if method == PUBLISHED:
        return corresponding_states(substance, T, P, x, liquid)
    return fitted_states(substance, T, P, x, volume, liquid)


_CHUNG = np.array(
    [
        [2.4166, 0.74824],
        [-0.50924, -1.5094],
        [6.6107, 5.6207],
        [14.543, -8.9139],
        [0.79274, 0.82019],
        [-5.8634, 12.801],
        [91.089, 128.11],
    ]
)
"""a and b of the seven B = a + b omega, for fluids that neither are polar nor associate."""


DENSE = (1.2, 2.2)
HEAVY = (70.0, 140.0)
"""Reduced densities, and molar masses in g/mol, between which the conductivity goes over from the method of gases to
that of liquids: the former holds for light liquids too and is 20 to 40 % high for heavier ones, the latter is low for
light ones."""


POLAR = ("alcohol",)
"""Families whose light liquids go by the method of liquids too, as water does."""

MOST_PACKED = 4.0
"""Reduced density beyond which the method of gases is not evaluated."""


def _passage(value: Array, ends: tuple[float, float]) -> Array:
    s = np.clip((value - ends[0]) / (ends[1] - ends[0]), 0.0, 1.0)
    return np.asarray(s * s * (3.0 - 2.0 * s))


def conductivity(substance: Substance, T: Array, x: Array, volume: Array, cv_ideal: Array) -> Array:
    """Return thermal conductivities (M,) W/(m K) of phases x (M, nc) at T (M,) K with molar volumes (M,) m3/mol and
    ideal-gas heat capacities at constant volume (M,) J/(mol K): :func:`gas_conductivity` of thin phases,
    :func:`liquid_conductivity` of dense ones that are heavy or polar, and a smooth passage between."""
    mass = 1e3 * x @ substance.molar_mass
    weight = _passage(x @ substance.Vc / volume, DENSE) * _passage(mass, HEAVY)
    # Polar liquids are no method of gases' however light: methanol by it is three times too high.
    watery = np.array([c.formula == "H2O" or c.family in POLAR for c in substance.components]) @ x.T
    weight = np.maximum(weight, _passage(x @ substance.Vc / volume, DENSE) * _passage(watery, (0.3, 0.7)))
    # What is only a liquid may be packed too densely for the gas method.
    thin = gas_conductivity(substance, T, x, np.maximum(volume, x @ substance.Vc / MOST_PACKED), cv_ideal)
    return np.asarray((1.0 - weight) * thin + weight * liquid_conductivity(substance, T, x))


_LATINI = {"olefin": (0.0361, 1.0), "naphthene": (0.0310, 1.0), "aromatic": (0.0346, 1.0), "alcohol": (0.00339, 0.5)}
_SATURATED = (0.0035, 0.5)
"""A and the power of the molar mass, by family; Latini and Baroncini."""


def liquid_conductivity(substance: Substance, T: Array, x: Array) -> Array:
    """Return thermal conductivities (M,) W/(m K) of liquids x (M, nc) at T (M,) K.

    Latini and Baroncini, High Temp. High Press. 15, 407 (1983), as in Reid, Prausnitz and Poling (1987), eq. 10-9.2,
    A Tb^1.2 (1 - Tr)^0.38 / (M^b Tc^(1/6) Tr^(1/6)); some 10 %. Inorganic gases by Sato and Riedel (same book, eq.
    10-9.1), water by its polynomial of table 10-5; mixed by Vredeveld, lambda^-2 = sum w lambda_i^-2 in mass
    fractions. Above 0.95 Tc a component counts as at it."""
    mass = 1e3 * substance.molar_mass
    nbp = np.array([c.nbp for c in substance.components])
    family = [c.family for c in substance.components]
    a, b = np.array([_LATINI.get(f, _SATURATED) for f in family]).T
    Tr = np.minimum(T[:, None] / substance.Tc, 0.95)
    own = a * nbp**1.2 / (mass**b * substance.Tc ** (1 / 6)) * (1.0 - Tr) ** 0.38 / Tr ** (1 / 6)
    boiling = 3.0 + 20.0 * (1.0 - np.minimum(nbp / substance.Tc, 0.95)) ** (2 / 3)
    riedel = 1.11 / np.sqrt(mass) * (3.0 + 20.0 * (1.0 - Tr) ** (2 / 3)) / boiling
    own = np.where([f in ("inorganic", "sulfur") for f in family], riedel, own)
    water = -0.3838 + 5.254e-3 * T - 6.369e-6 * T**2
    own = np.where([c.formula == "H2O" for c in substance.components], np.maximum(water, 0.3)[:, None], own)
    share = x * mass
    return np.asarray(1.0 / np.sqrt((share / own**2).sum(axis=-1) / share.sum(axis=-1)))


def gas_conductivity(substance: Substance, T: Array, x: Array, volume: Array, cv_ideal: Array) -> Array:
    """Return thermal conductivities (M,) W/(m K) of gases, arguments as of :func:`conductivity`.

    Chung, Ajlan, Lee and Starling, Ind. Eng. Chem. Res. 27, 671 (1988), eqs. 13 to 31 with their mixing rules; gases,
    thin and dense, mostly within 10 %."""
    mass = 1e3 * substance.molar_mass
    sigma = 0.809 * np.cbrt(1e6 * substance.Vc)
    energy = substance.Tc / 1.2593
    s = np.sqrt(np.outer(sigma, sigma))
    e = np.sqrt(np.outer(energy, energy))
    m = 2.0 * np.outer(mass, mass) / (mass[:, None] + mass)
    w = 0.5 * (substance.omega[:, None] + substance.omega)
    cube = _pair(x, s**3)
    depth = _pair(x, e * s**3) / cube
    omega = _pair(x, w * s**3) / cube
    mixed = (_pair(x, e * s**2 * np.sqrt(m)) / (depth * cube ** (2 / 3))) ** 2
    Tc, Vc = 1.2593 * depth, cube / 0.809**3
    Tr, star = T / Tc, 1.2593 * T / Tc
    collision = 1.16145 * star**-0.14874 + 0.52487 * np.exp(-0.77320 * star) + 2.16178 * np.exp(-2.43787 * star)
    thin = 40.785e-7 * (1.0 - 0.2756 * omega) * np.sqrt(mixed * T) / (Vc ** (2 / 3) * collision)
    alpha = cv_ideal / R - 1.5
    beta = 0.7862 - 0.7109 * omega + 1.3168 * omega**2
    z = 2.0 + 10.5 * Tr**2
    psi = 1.0 + alpha * (0.215 + 0.28288 * alpha - 1.061 * beta + 0.26665 * z) / (
        0.6366 + beta * z + 1.061 * alpha * beta
    )
    B = _CHUNG[:, :1] + _CHUNG[:, 1:2] * omega
    y = Vc * 1e-6 / (6.0 * volume)
    G1 = (1.0 - 0.5 * y) / (1.0 - y) ** 3
    top = B[0] * -np.expm1(-B[3] * y) / y + B[1] * G1 * np.exp(B[4] * y) + B[2] * G1
    G2 = top / (B[0] * B[3] + B[1] + B[2])
    kilo = 1e-3 * mixed
    q = 3.586e-3 * np.sqrt(Tc / kilo) / Vc ** (2 / 3)
    dilute = 31.2 * thin * psi / kilo
    return np.asarray(dilute * (1.0 / G2 + B[5] * y) + q * B[6] * y**2 * np.sqrt(Tr) * G2)


def surface_tension(substance: Substance, x: Array, y: Array, volume_x: Array, volume_y: Array) -> Array:
    """Return surface tensions (M,) N/m between liquids x and vapours y (M, nc) of molar volumes (M,) m3/mol.

    Macleod and Sugden with Weinaug and Katz, Ind. Eng. Chem. 35, 239 (1943): sigma^(1/4) = sum P_i (x_i/V_x -
    y_i/V_y) in mN/m and mol/cm3."""
    difference = 1e-6 * ((x @ substance.parachor) / volume_x - (y @ substance.parachor) / volume_y)
    return np.asarray(1e-3 * np.maximum(difference, 0.0) ** 4)
