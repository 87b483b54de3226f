"""What a fluid gives at standard conditions, and flow rates from any one of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import AIR_MOLAR_MASS, ATM, T_60F, WATER_DENSITY_60F, R
from ..equilibrium.phases import Kind
from .building import FluidModel
from .states import full_states

Array = NDArray[np.float64]

STANDARD_GAS = R * T_60F / ATM
"""Volume of a mole of ideal gas at 60 degF and 1 atm, m3/mol."""


@dataclass(frozen=True)
class Heating:
    """Temperatures K at which a gas is ``burnt`` and ``metered``, the latter at 1 atm."""

    burnt: float = T_60F
    metered: float = T_60F


USUAL = Heating()
"""Burnt and metered at 60 degF."""

STANDARD = {
    "gas_m3_mol": ("Standard gas volume", "ideal gas at 60 °F and 1 atm per mole of the whole"),
    "liquid_m3_mol": ("Standard liquid volume", "liquid left at 60 °F and 1 atm per mole of the whole, without its water"),
    "liquid_density_kg_m3": ("Standard liquid density", "mass per volume of the liquid left at 60 °F and 1 atm, whatever the state, without its water"),
    "water_m3_mol": ("Standard water volume", "liquid water left at 60 °F and 1 atm per mole of the whole"),
    "gas_oil_ratio_m3_m3": ("Gas–oil ratio", "gas to liquid after one flash to 60 °F and 1 atm, water aside"),
    "water_gas_ratio_m3_m3": ("Water–gas ratio", "liquid water to gas after one flash to 60 °F and 1 atm"),
    "water_oil_ratio_m3_m3": ("Water–oil ratio", "liquid water to the other liquid after one flash to 60 °F and 1 atm"),
    "water_cut": ("Water cut", "volume of liquid water by that of all liquid after one flash to 60 °F and 1 atm"),
    "api": ("API gravity", "of the liquid left at 60 °F and 1 atm, without its water"),
    "gas_gravity": ("Gas gravity", "molar mass of the gas at 60 °F and 1 atm to that of air"),
    "gross_heating_value_J_m3": ("Gross heating value", "of the gas at 60 °F and 1 atm as an ideal gas, its water condensed"),
    "net_heating_value_J_m3": ("Net heating value", "of the gas at 60 °F and 1 atm as an ideal gas, its water as vapour"),
    "wobbe_index_J_m3": ("Wobbe index", "gross heating value by the root of the gas gravity, as of an ideal gas"),
    "gas_Z": ("Metered gas, Z", "compressibility factor of the gas as metered, by the fluid's equation"),
    "gross_heating_value_real_J_m3": ("Gross heating value, real gas", "that of the ideal gas over the compressibility factor as metered"),
    "net_heating_value_real_J_m3": ("Net heating value, real gas", "that of the ideal gas over the compressibility factor as metered"),
    "wobbe_index_real_J_m3": ("Wobbe index, real gas", "gross heating value by the root of the relative density, both of the real gas"),
}  # fmt: skip
"""What a fluid gives at standard conditions, by its key in an answer: name and meaning."""


def standard_values(model: FluidModel, heating: Heating = USUAL) -> dict[str, float]:
    """Return what a mole gives, flashed once into as many phases as there are at 60 degF and 1 atm, by the keys of
    :data:`STANDARD`.

    What there is no such phase for is left out; nothing is given where the flash was not found.
    """
    found = full_states(model, [T_60F], [ATM], ("molar_volume",))
    if not bool(found.phases.converged[0]):
        return {}
    kind, share, each = found.phases.kind[0], found.phases.fraction[0], found.phases.composition[0]
    moles = {k: np.where(kind == k, share, 0.0) for k in (Kind.VAPOUR, Kind.LIQUID, Kind.AQUEOUS)}
    volumes = np.where(kind != Kind.ABSENT, found.values.phase["molar_volume"][0], 0.0)
    gas = float(moles[Kind.VAPOUR].sum()) * STANDARD_GAS
    oil, water = (float(moles[k] @ volumes) for k in (Kind.LIQUID, Kind.AQUEOUS))
    out = {"gas_m3_mol": gas, "liquid_m3_mol": oil}
    if oil > 0.0:
        mass = float(moles[Kind.LIQUID] @ np.where(kind[:, None] == Kind.LIQUID, each, 0.0) @ model.molar_mass)
        out["liquid_density_kg_m3"] = mass / oil
        out["gas_oil_ratio_m3_m3"] = gas / oil
        out["api"] = 141.5 * WATER_DENSITY_60F / out["liquid_density_kg_m3"] - 131.5
    if water > 0.0:
        out["water_m3_mol"] = water
        out |= {f"water_{name}_ratio_m3_m3": water / v for name, v in (("gas", gas), ("oil", oil)) if v > 0.0}
        out["water_cut"] = water / (water + oil)
    if gas > 0.0:
        y = each[int(np.argmax(moles[Kind.VAPOUR]))]
        out |= _of_gas(model, y / y.sum(), heating)
    return {key: out[key] for key in STANDARD if key in out}


def _of_gas(model: FluidModel, y: Array, heating: Heating) -> dict[str, float]:
    """Return gravity and heating values of a gas y (nc,): GPA 2172 and ISO 6976, ideal molar heats over the molar
    volume, real ones over its Z too."""
    gravity = float(y @ model.molar_mass) / AIR_MOLAR_MASS
    volume = R * heating.metered / ATM
    gross, net = (float(y @ heat) / volume for heat in model.substance.heats(heating.burnt))
    Z = float(model.eos.prepare(np.array([heating.metered]), np.array([ATM])).ln_phi(y[None], "vapour")[1][0])
    relative = gravity * air_factor(heating.metered) / Z
    return {
        "gas_gravity": gravity,
        "gross_heating_value_J_m3": gross,
        "net_heating_value_J_m3": net,
        "wobbe_index_J_m3": gross / gravity**0.5,
        "gas_Z": Z,
        "gross_heating_value_real_J_m3": gross / Z,
        "net_heating_value_real_J_m3": net / Z,
        "wobbe_index_real_J_m3": gross / Z / relative**0.5,
    }


def air_factor(T: float) -> float:
    """Return the compressibility factor of dry air at T K and 1 atm, by a line through those of ISO 6976 (2016):
    0.999419 at 0 degC, 0.999645 at 20 degC."""
    return 0.999419 + (0.999645 - 0.999419) / 20.0 * (T - 273.15)


@dataclass(frozen=True)
class Rates:
    """A flow by all its measures: ``mole`` mol/s, ``mass`` kg/s, ``actual`` m3/s at the state, ``gas`` m3/s as an
    ideal gas at 60 degF and 1 atm, ``liquid`` m3/s as the components' liquids at 60 degF."""

    mole: float
    mass: float
    actual: float
    gas: float
    liquid: float


RATES = {
    "mole": "moles",
    "mass": "mass",
    "actual": "volume at the state",
    "gas": "standard volume as ideal gas",
    "liquid": "standard volume as liquid",
}
"""The measures of a flow."""


def rates(model: FluidModel, x: Array, volume: float, value: float, measure: str) -> Rates:
    """Return all rates of a stream of composition x (nc,) and molar volume m3/mol from one of :data:`RATES`, SI."""
    each = Rates(1.0, float(x @ model.molar_mass), volume, STANDARD_GAS, float(x @ model.substance.liquid_volume))
    moles = value / getattr(each, measure)
    return Rates(*(moles * getattr(each, name) for name in RATES))
