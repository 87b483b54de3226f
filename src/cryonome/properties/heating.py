"""Heats of combustion, from the heats of formation; of petroleum fractions from their gravity.

They are of 25 degC and are carried to another temperature by the heat capacities of what burns and of what it leaves
(Kirchhoff), as ISO 6976 (2016) does."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ..components import Component, all_components, ideal_gas
from ..constants import T_REF

Array = NDArray[np.float64]

FORMED = {"C": -393.51e3, "H": -0.5 * 285.83e3, "S": -296.81e3, "N": 0.0, "O": 0.0}
"""J/mol: what an atom leaves as carbon dioxide, liquid water, sulfur dioxide and nitrogen at 25 degC; CODATA (1989)."""
EVAPORATION = 44.016e3
"""J/mol of water at 25 degC; ISO 6976 (2016)."""
LIQUID_WATER = 75.5
"""J/(mol K): heat capacity of liquid water, its mean of 0 to 25 degC; Wagner and Pruss (2002)."""
BTU_PER_POUND = 2326.0
"""J/kg."""


def atoms(formula: str) -> dict[str, int]:
    """Return the atoms of a formula of C, H, O, N, S, Ar and He."""
    out: dict[str, int] = {}
    for symbol, count in re.findall(r"(Ar|He|[CHONS])(\d*)", formula):
        out[symbol] = out.get(symbol, 0) + int(count or 1)
    return out


def gross_heat(component: Component) -> float:
    """Return the heat of combustion of a gas, J/mol, to liquid water at 25 degC; zero of what does not burn, and of
    water vapour what it leaves when it condenses.

    Hess's law where the heat of formation is known; else by API gravity, API Technical Data Book, procedure 14A1.3:
    17672 + 66.6 A - 0.316 A2 - 0.0014 A3 Btu/lb, made for 0 to 60 degAPI.
    """
    if component.formation is None:
        a = _api(component)
        return component.molar_mass * BTU_PER_POUND * (17672.0 + a * (66.6 + a * (-0.316 - 0.0014 * a)))
    burnt = sum(n * FORMED.get(symbol, 0.0) for symbol, n in atoms(component.formula).items())
    return max(component.formation[0] - burnt, 0.0) if atoms(component.formula).keys() & {"C", "H", "S"} else 0.0


def net_heat(component: Component) -> float:
    """Return the heat of combustion, J/mol, to water vapour at 25 degC; of fractions 16796 + 54.5 A - 0.217 A2 -
    0.0019 A3 Btu/lb of the same procedure."""
    if component.formation is None:
        a = _api(component)
        return component.molar_mass * BTU_PER_POUND * (16796.0 + a * (54.5 + a * (-0.217 - 0.0019 * a)))
    return max(gross_heat(component) - 0.5 * atoms(component.formula).get("H", 0) * EVAPORATION, 0.0)


def _api(component: Component) -> float:
    return min(max(141.5 / component.specific_gravity - 131.5, 0.0), 60.0)


def heats_at(components: Sequence[Component], cp: Array, T: float) -> tuple[Array, Array]:
    """Return gross and net heats of combustion (nc,) of gases burnt at T K, J/mol, from ideal-gas coefficients ``cp``
    (nc, 1 + k).

    A fraction without a formula burns as CH_h of the hydrogen that its two heats tell. Meant for 0 to 30 degC.
    """
    left = {symbol: _warmed(symbol, T) for symbol in ("CO2", "H2O", "O2", "SO2", "N2")}
    own = ideal_gas.enthalpy(cp, np.array(T))
    gross, net = np.array([gross_heat(c) for c in components]), np.array([net_heat(c) for c in components])
    for i, component in enumerate(components):
        if gross[i] <= 0.0:
            continue
        made = _elements(component, gross[i] - net[i])
        carbon, hydrogen, sulfur, nitrogen = (made.get(symbol, 0.0) for symbol in "CHSN")
        oxygen = carbon + 0.25 * hydrogen + sulfur - 0.5 * made.get("O", 0.0)
        more = carbon * left["CO2"] + sulfur * left["SO2"] + 0.5 * nitrogen * left["N2"] - own[i] - oxygen * left["O2"]
        gross[i] -= more + 0.5 * hydrogen * LIQUID_WATER * (T - T_REF)
        if net[i] > 0.0:
            net[i] -= more + 0.5 * hydrogen * left["H2O"]
    return gross, net


@cache
def _warmed(formula: str, T: float) -> float:
    """Return H(T) - H(25 degC) of an ideal gas, J/mol."""
    gas = next(c for c in all_components() if c.formula == formula)
    return float(ideal_gas.enthalpy(np.array([gas.cp]), np.array(T))[0])


def _elements(component: Component, condensed: float) -> dict[str, float]:
    """Return moles of atoms in a mole, of a fraction those of its mass and of the water whose condensation gives
    J/mol."""
    if component.formation is not None:
        return {symbol: float(count) for symbol, count in atoms(component.formula).items()}
    hydrogen = max(2.0 * condensed / EVAPORATION, 0.0)
    return {"H": hydrogen, "C": max((1e3 * component.molar_mass - 1.008 * hydrogen) / 12.011, 0.0)}


def formation_of_fraction(component: Component) -> tuple[float, float]:
    """Return enthalpy and Gibbs energy of formation, J/mol, of a fraction without either, as of CH_h burning with its
    heats.

    The hydrogen follows from the difference of gross and net heat; the entropy of formation is that of n-alkanes by
    mass, -97.4 J/(mol K) a CH2 group."""
    gross = gross_heat(component)
    made = _elements(component, gross - net_heat(component))
    enthalpy = gross + made["C"] * FORMED["C"] + made["H"] * FORMED["H"]
    return enthalpy, enthalpy + 298.15 * 97.4 * 1e3 * component.molar_mass / 14.027
