"""What a fluid gives at standard conditions, and flow rates from any one of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import AIR_MOLAR_MASS, ATM, T_60F, WATER_DENSITY_60F, R
from ..equilibrium.flash import flash_pt
from ..equilibrium.phases import Kind
from ..properties import evaluate
from .inputs import FluidModel

Array = NDArray[np.float64]

STANDARD_GAS = R * T_60F / ATM
"""Volume of a mole of ideal gas at 60 degF and 1 atm, m3/mol."""


@dataclass(frozen=True)
class Standard:
    """A mole of fluid flashed once to 60 degF and 1 atm, each value None where there is no such phase.

    ``gas`` and ``liquid`` m3 of each; ``density`` kg/m3 of the liquid; ``gas_oil_ratio`` m3/m3; ``api`` of the liquid; ``gravity`` of the gas to air; its ``gross``
    and ``net`` heating values and ``wobbe`` index, J/m3 of ideal gas at 60 degF and 1 atm, burnt at 25 degC.
    """

    gas: float
    liquid: float
    density: float | None
    gas_oil_ratio: float | None
    api: float | None
    gravity: float | None
    gross: float | None
    net: float | None
    wobbe: float | None


def standard_of(model: FluidModel) -> Standard | None:
    """Return what a fluid gives at standard conditions, None where the flash there was not found."""
    found = flash_pt(model.eos, [T_60F], [ATM], model.z)
    if not bool(found.converged[0]):
        return None
    volume = evaluate(model.substance, found, ("molar_volume", "density")).phase
    gas = liquid = 0.0
    density = api = gravity = gross = net = wobbe = None
    for place in range(found.kind.shape[-1]):
        kind, share = found.kind[0, place], float(found.fraction[0, place])
        x = found.composition[0, place]
        if kind == Kind.VAPOUR:
            gas += share * STANDARD_GAS
            gravity = float(x @ model.molar_mass) / AIR_MOLAR_MASS
            gross, net = (
                float(x @ heat) / STANDARD_GAS for heat in (model.substance.gross_heat, model.substance.net_heat)
            )
            wobbe = gross / float(np.sqrt(gravity))
        elif kind != Kind.ABSENT:
            liquid += share * float(volume["molar_volume"][0, place])
            density = float(volume["density"][0, place])
            api = 141.5 * WATER_DENSITY_60F / density - 131.5
    return Standard(gas, liquid, density, gas / liquid if liquid > 0.0 else None, api, gravity, gross, net, wobbe)


STANDARD = {
    "gas_m3_mol": ("Standard gas volume", "ideal gas at 60 °F and 1 atm per mole of the whole"),
    "liquid_m3_mol": ("Standard liquid volume", "liquid left at 60 °F and 1 atm per mole of the whole"),
    "liquid_density_kg_m3": ("Standard liquid density", "mass per volume of the liquid left at 60 °F and 1 atm, whatever the state"),
    "gas_oil_ratio_m3_m3": ("Gas–oil ratio", "gas to liquid after one flash to 60 °F and 1 atm"),
    "api": ("API gravity", "of the liquid left at 60 °F and 1 atm"),
    "gas_gravity": ("Gas gravity", "molar mass of the gas at 60 °F and 1 atm to that of air"),
    "gross_heating_value_J_m3": ("Gross heating value", "of the gas at 60 °F and 1 atm, its water condensed"),
    "net_heating_value_J_m3": ("Net heating value", "of the gas at 60 °F and 1 atm, its water as vapour"),
    "wobbe_index_J_m3": ("Wobbe index", "gross heating value by the root of the gas gravity"),
}  # fmt: skip
"""What a fluid gives at standard conditions, by its key in an answer: name and meaning."""


def standard_values(model: FluidModel) -> dict[str, float]:
    """Return what a mole gives at standard conditions by the keys of :data:`STANDARD`, without those there are none of."""
    found = standard_of(model)
    if found is None:
        return {}
    values = (
        found.gas, found.liquid, found.density, found.gas_oil_ratio, found.api, found.gravity, found.gross, found.net, found.wobbe,
    )  # fmt: skip
    return {key: value for key, value in zip(STANDARD, values) if value is not None}


@dataclass(frozen=True)
class Rates:
    """A flow by all its measures: ``mole`` mol/s, ``mass`` kg/s, ``actual`` m3/s at the state, ``gas`` m3/s as an ideal gas at 60
    degF and 1 atm, ``liquid`` m3/s as the components' liquids at 60 degF."""

    mole: float
    mass: float
    actual: float
    gas: float
    liquid: float


RATES = {
    "mole": "moles", "mass": "mass", "actual": "volume at the state", "gas": "standard volume as ideal gas",
    "liquid": "standard volume as liquid",
}  # fmt: skip
"""The measures of a flow."""


def rates(model: FluidModel, x: Array, volume: float, value: float, measure: str) -> Rates:
    """Return all rates of a stream of composition x (nc,) and molar volume m3/mol from one of :data:`RATES`, SI."""
    each = Rates(
        1.0, float(x @ model.molar_mass), volume, STANDARD_GAS, float(x @ model.substance.liquid_volume)
    )  # fmt: skip
    moles = value / getattr(each, measure)
    return Rates(*(moles * getattr(each, name) for name in RATES))
