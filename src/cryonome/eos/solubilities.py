"""What hydrocarbons and water dissolve of each other: the measurements that parameters of pairs are brought to.

Hydrocarbons in water along the line where both liquids boil, 0 to 200 °C, as mole fractions

    ln x = A + B/T + C ln T

of Tsonopoulos and Wilson, AIChE J. 29, 990 (1983) (benzene, cyclohexane, n-hexane), and of Heidman, Tsonopoulos, Brady
and Wilson, AIChE J. 31, 376 (1985) (n-octane, ethylbenzene). Others of a family follow by carbon number, which is how
ln x of n-hexane and n-octane, benzene and ethylbenzene lie; what was measured at 25 °C moves its own line. Water in
hydrocarbons by Hibbard and Schalla, NACA RM E52D24 (1952),

    log10 x = -(4200 (H/C) + 1050) (1/T - 0.0016),

H/C by mass: 0 to 100 °C. Naphthenes hold half as much as it says (cyclohexane at 25 °C 0.04 mol%) and count as
alkanes of their carbon number."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ..components import Component

Array = NDArray[np.float64]

ROOM = 298.15
WATER_MOLES = 55.35
"""Moles in a litre of water at 25 °C."""

LINES: dict[str, tuple[float, float, float]] = {
    "n-hexane": (-374.90804, 16327.128, 53.89582),
    "cyclohexane": (-209.11689, 8325.49, 29.8231),
    "benzene": (-170.04018, 6922.912, 24.398795),
    "n-octane": (-343.1497, 13862.49, 49.24609),
    "ethylbenzene": (-185.1695, 7348.55, 26.34525),
}
"""A, B and C of hydrocarbons in water."""

LIQUIDS: dict[str, float] = {
    "n-pentane": 38.5, "isopentane": 47.8, "n-hexane": 9.5, "2-methylpentane": 13.8, "n-heptane": 2.93, "n-octane": 0.66,
    "cyclopentane": 156.0, "methylcyclopentane": 42.0, "cyclohexane": 55.0, "methylcyclohexane": 14.0, "benzene": 1780.0,
    "toluene": 515.0, "ethylbenzene": 152.0, "o-xylene": 175.0, "m-xylene": 146.0, "p-xylene": 156.0,
}  # fmt: skip
"""Solubility of the liquid in water at 25 °C, mg/l; McAuliffe, J. Phys. Chem. 70, 1267 (1966), xylenes and
ethylbenzene Sutton and Calder, J. Chem. Eng. Data 20, 320 (1975)."""

GASES: dict[str, float] = {"propane": 62.4, "n-butane": 61.4, "isobutane": 48.9, "ethylene": 131.0, "propylene": 200.0,
                           "1-butene": 222.0}  # fmt: skip
"""Solubility of the gas in water at 25 °C and 1 atm of it, mg/l; McAuliffe (1966)."""

PER_RING = 1.52
"""How much ln x of a naphthene falls for each further carbon atom at 25 °C: cyclohexane and methylcyclohexane."""
OLEFIN = math.log(4.6)
"""How far above its alkane's an olefin's ln x lies: 1-hexene 50 and 1-octene 2.7 mg/l at 25 °C; McAuliffe (1966)."""


def _line(name: str, T: Array) -> Array:
    A, B, C = LINES[name]
    return np.asarray(A + B / T + C * np.log(T))


def carbons(component: Component) -> float:
    """Return the carbon number of a hydrocarbon, by molar mass, for each family its own hydrogen."""
    hydrogen = {"naphthene": 0.0, "olefin": 0.0, "aromatic": -6.0}.get(component.family, 2.0)
    return (1e3 * component.molar_mass - 1.008 * hydrogen) / 14.027


def in_water(component: Component, T: Array) -> Array:
    """Return the mole fraction of a liquid hydrocarbon, from pentane on, in water at T (n,) K beside its own liquid;
    273 to 473 K."""
    n, family = carbons(component), component.family
    per_alkane = 0.5 * (_line("n-octane", T) - _line("n-hexane", T))
    if family == "aromatic":
        per = 0.5 * (_line("ethylbenzene", T) - _line("benzene", T))
        ln_x = _line("benzene", T) + (n - 6.0) * per
    elif family == "naphthene":
        at_room = 0.5 * (_line("n-octane", np.array(ROOM)) - _line("n-hexane", np.array(ROOM)))
        ln_x = _line("cyclohexane", T) + (n - 6.0) * PER_RING * per_alkane / -at_room
    else:
        ln_x = _line("n-hexane", T) + (n - 6.0) * per_alkane + (OLEFIN if family == "olefin" else 0.0)
    if component.kind == "pure" and component.name in LIQUIDS and component.name not in LINES:
        measured = LIQUIDS[component.name] * 1e-6 / component.molar_mass / WATER_MOLES
        ln_x = ln_x + math.log(measured) - np.interp(ROOM, T, ln_x)
    return np.exp(ln_x)


def of_water(component: Component, T: Array) -> Array:
    """Return the mole fraction of water in a liquid hydrocarbon at T (n,) K beside water; 273 to 373 K."""
    n = max(carbons(component), 1.0)
    hydrogen = {"aromatic": 2.0 * n - 6.0, "olefin": 2.0 * n}.get(component.family, 2.0 * n + 2.0)
    ratio = 1.008 * hydrogen / (12.011 * n)
    return np.asarray(10.0 ** (-(4200.0 * ratio + 1050.0) * (1.0 / T - 0.0016)))
