"""Heats of combustion, from the heats of formation; of petroleum fractions from their gravity."""

from __future__ import annotations

import re

from ..components import Component

FORMED = {"C": -393.51e3, "H": -0.5 * 285.83e3, "S": -296.81e3, "N": 0.0, "O": 0.0}
"""J/mol: what an atom leaves as carbon dioxide, liquid water, sulfur dioxide and nitrogen at 25 degC; CODATA (1989)."""
EVAPORATION = 44.016e3
"""J/mol of water at 25 degC; ISO 6976 (2016)."""
BTU_PER_POUND = 2326.0
"""J/kg."""


def atoms(formula: str) -> dict[str, int]:
    """Return the atoms of a formula of C, H, O, N, S, Ar and He."""
    out: dict[str, int] = {}
    for symbol, count in re.findall(r"(Ar|He|[CHONS])(\d*)", formula):
        out[symbol] = out.get(symbol, 0) + int(count or 1)
    return out


def gross_heat(component: Component) -> float:
    """Return the heat of combustion, J/mol, to liquid water at 25 degC; zero of what does not burn.

    Hess's law where the heat of formation is known; else by API gravity, API Technical Data Book, procedure 14A1.3:
    17672 + 66.6 A - 0.316 A2 - 0.0014 A3 Btu/lb, made for 0 to 60 degAPI.
    """
    if component.formation is None:
        a = _api(component)
        return component.molar_mass * BTU_PER_POUND * (17672.0 + a * (66.6 + a * (-0.316 - 0.0014 * a)))
    burnt = sum(n * FORMED.get(symbol, 0.0) for symbol, n in atoms(component.formula).items())
    return max(component.formation[0] - burnt, 0.0) if _burns(component) else 0.0


def net_heat(component: Component) -> float:
    """Return the heat of combustion, J/mol, to water vapour at 25 degC; of fractions 16796 + 54.5 A - 0.217 A2 - 0.0019 A3
    Btu/lb of the same procedure."""
    if component.formation is None:
        a = _api(component)
        return component.molar_mass * BTU_PER_POUND * (16796.0 + a * (54.5 + a * (-0.217 - 0.0019 * a)))
    return max(gross_heat(component) - 0.5 * atoms(component.formula).get("H", 0) * EVAPORATION, 0.0)


def _burns(component: Component) -> bool:
    own = atoms(component.formula)
    return component.formula not in ("H2O", "CO2", "SO2", "N2", "O2") and bool(own.keys() & {"C", "H", "S"})


def _api(component: Component) -> float:
    return min(max(141.5 / component.specific_gravity - 131.5, 0.0), 60.0)


def formation_of_fraction(component: Component) -> tuple[float, float]:
    """Return enthalpy and Gibbs energy of formation, J/mol, of a fraction without either, as of CH_h burning with its heats.

    The hydrogen follows from the difference of gross and net heat; the entropy of formation is that of n-alkanes by mass,
    -97.4 J/(mol K) a CH2 group.
    """
    gross, net = gross_heat(component), net_heat(component)
    hydrogen = max(2.0 * (gross - net) / EVAPORATION, 0.0)
    carbon = max((1e3 * component.molar_mass - 1.008 * hydrogen) / 12.011, 0.0)
    enthalpy = gross + carbon * FORMED["C"] + hydrogen * FORMED["H"]
    return enthalpy, enthalpy + 298.15 * 97.4 * 1e3 * component.molar_mass / 14.027
