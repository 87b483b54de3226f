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

    ``gas`` and ``liquid`` m3 of each; ``gas_oil_ratio`` m3/m3; ``api`` of the liquid; ``gravity`` of the gas to air; its ``gross``
    and ``net`` heating values and ``wobbe`` index, J/m3 of ideal gas at 60 degF and 1 atm, burnt at 25 degC.
    """

    gas: float
    liquid: float
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
    api = gravity = gross = net = wobbe = None
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
            api = 141.5 * WATER_DENSITY_60F / float(volume["density"][0, place]) - 131.5
    return Standard(gas, liquid, gas / liquid if liquid > 0.0 else None, api, gravity, gross, net, wobbe)


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
