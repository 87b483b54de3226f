"""Viscosity, thermal conductivity and surface tension of the phases."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from ..equilibrium.phases import Kind
from . import transport
from .aqueous import tension
from .aqueous.region1 import liquid_water
from .registry import Sheet, phase_property, whole_property
from .substance import Substance
from .thermal import _ideal_cp

Array = NDArray[np.float64]


@phase_property("Viscosity", "dynamic viscosity, by the method chosen in the model", "dynamic_viscosity", "_Pa_s")
def viscosity(sheet: Sheet) -> Array:
    substance = sheet.substance
    state, place = np.nonzero(sheet.present)
    x, T, P = sheet.phases.composition[state, place], sheet.phases.T[state], sheet.phases.P[state]
    volume, liquid = sheet["molar_volume"][state, place], sheet.phases.kind[state, place] != Kind.VAPOUR
    values = transport.viscosity(substance.viscosity, substance, T, P, x, volume, liquid)
    match = substance.match
    mass = x * substance.molar_mass
    if np.any(substance.thicker):
        values = values * np.exp((mass @ substance.thicker) / mass.sum(axis=-1))
    if match is not None:
        a, b = match.line
        values = values * np.exp((mass @ match.share) / mass.sum(axis=-1) * (a + b / T))
    return sheet.blended(sheet.spread(values), lambda a: a.viscosity)


@phase_property("Kinematic viscosity", "dynamic viscosity over density", "kinematic_viscosity", "_m2_s")
def kinematic_viscosity(sheet: Sheet) -> Array:
    return sheet["viscosity"] / sheet["density"]


@phase_property(
    "Thermal conductivity",
    "heat flow by temperature gradient",
    "conductivity",
    "_W_m_K",
    "gases: Chung et al., Ind. Eng. Chem. Res. 27, 671 (1988); liquids: Latini and Baroncini (1983)",
)
def thermal_conductivity(sheet: Sheet) -> Array:
    state, place = np.nonzero(sheet.present)
    x, T = sheet.phases.composition[state, place], sheet.phases.T[state]
    volume, cv = sheet["molar_volume"][state, place], _ideal_cp(sheet)[state, place] - R
    own = sheet.spread(transport.conductivity(sheet.substance, T, x, volume, cv))
    return sheet.blended(own, lambda a: a.conductivity)


@whole_property(
    "Surface tension",
    "between vapour and hydrocarbon liquid",
    "surface_tension",
    "_N_m",
    "parachors; Weinaug and Katz, Ind. Eng. Chem. 35, 239 (1943)",
)
def surface_tension(sheet: Sheet) -> Array:
    kind = np.where(sheet.present, sheet.phases.kind, Kind.ABSENT)
    out = np.full(kind.shape[0], np.nan)
    rows = np.flatnonzero((kind == Kind.VAPOUR).any(axis=-1) & (kind == Kind.LIQUID).any(axis=-1))
    if rows.size:
        thin, dense = (np.argmax(kind[rows] == k, axis=-1) for k in (Kind.VAPOUR, Kind.LIQUID))
        y, x = (sheet.phases.composition[rows, place] for place in (thin, dense))
        volume = sheet["molar_volume"]
        out[rows] = transport.surface_tension(sheet.substance, x, y, volume[rows, dense], volume[rows, thin])
    return out


def _with_water(sheet: Sheet, other: Kind) -> Array:
    """Return the tension of the aqueous liquid with the gas or the oil, N/m (N,)."""
    kind = np.where(sheet.present, sheet.phases.kind, Kind.ABSENT)
    out = np.full(kind.shape[0], np.nan)
    rows = np.flatnonzero((kind == Kind.AQUEOUS).any(axis=-1) & (kind == other).any(axis=-1))
    if rows.size:
        wet, oil = (np.argmax(kind[rows] == k, axis=-1) for k in (Kind.AQUEOUS, other))
        dense, light = (sheet["density"][rows, place] for place in (wet, oil))
        own = sheet.phases.composition[rows, oil]
        out[rows] = water_tension(sheet.substance, sheet.phases.T[rows], sheet.phases.P[rows], own, dense, light)
    return out


def water_tension(substance: Substance, T: Array, P: Array, x: Array, dense: Array, light: Array) -> Array:
    """Return the tension (M,) N/m of an aqueous liquid of density ``dense`` (M,) kg/m3 with a phase x (M, nc) of
    density ``light`` (M,), at T (M,) K and P (M,) Pa; Sutton, SPE Prod. Oper. 24, 446 (2009)."""
    if substance.salt > 0.0:
        dense = np.minimum(dense, liquid_water(T, P).density)
    return tension.with_water(T, x @ substance.Tc, dense, light, substance.salt)


@whole_property(
    "Gas–water tension",
    "between the gas and the aqueous liquid",
    "surface_tension",
    "_N_m",
    "Sutton, SPE Prod. Oper. 24, 446 (2009)",
)
def gas_water_tension(sheet: Sheet) -> Array:
    return _with_water(sheet, Kind.VAPOUR)


@whole_property(
    "Oil–water tension",
    "between the hydrocarbon liquid and the aqueous one",
    "surface_tension",
    "_N_m",
    "Sutton, SPE Prod. Oper. 24, 446 (2009)",
)
def oil_water_tension(sheet: Sheet) -> Array:
    return _with_water(sheet, Kind.LIQUID)
