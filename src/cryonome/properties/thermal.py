"""Volumes, heats and the derivatives of both: what follows from the equation of state and the ideal-gas heat
capacity."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..components import ideal_gas
from ..constants import R
from ..equilibrium.phases import Kind
from .registry import Sheet, phase_property, whole_of, whole_property

Array = NDArray[np.float64]

MODELS = "Michelsen and Mollerup, Thermodynamic Models (2007), chapter 2"


@phase_property("Mass share", "mass of the phase per mass of the whole", "fraction")
def mass_fraction(sheet: Sheet) -> Array:
    mass = np.where(sheet.present, sheet["molar_mass"] * sheet.phases.fraction, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(sheet.present, mass / mass.sum(axis=-1, keepdims=True), np.nan)


@phase_property("Volume share", "volume of the phase per volume of the whole", "fraction")
def volume_fraction(sheet: Sheet) -> Array:
    volume = np.where(sheet.present, sheet["molar_volume"] * sheet.phases.fraction, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(sheet.present, volume / volume.sum(axis=-1, keepdims=True), np.nan)


@whole_property("Vapour share by volume", "volume of vapour per volume of the whole", "fraction")
def vapour_volume_fraction(sheet: Sheet) -> Array:
    vapour = sheet.present & (sheet.phases.kind == Kind.VAPOUR)
    return np.asarray(np.where(vapour, sheet["volume_fraction"], 0.0).sum(axis=-1))


@whole_property("Vapour share by mass", "mass of vapour per mass of the whole", "fraction")
def vapour_mass_fraction(sheet: Sheet) -> Array:
    vapour = sheet.present & (sheet.phases.kind == Kind.VAPOUR)
    return np.asarray(np.where(vapour, sheet["mass_fraction"], 0.0).sum(axis=-1))


@phase_property("Density", "mass per volume at this temperature and pressure", "density", "_kg_m3")
def density(sheet: Sheet) -> Array:
    return sheet.mass / sheet["molar_volume"]


@whole_of("density")
def _density_of_whole(sheet: Sheet) -> Array:
    with np.errstate(invalid="ignore", divide="ignore"):
        return _mass_of_whole(sheet) / sheet.by_mole("molar_volume")


def _mass_of_whole(sheet: Sheet) -> Array:
    """Return the mass of a mole of the whole, salt counted, kg/mol (N,)."""
    return np.asarray((np.where(sheet.present, sheet.mass, 0.0) * sheet.phases.fraction).sum(axis=-1))


@phase_property("Molar mass", "mass per amount of substance", "molar_mass", "_g_mol", whole="mole", factor=1e3)
def molar_mass(sheet: Sheet) -> Array:
    state, place = np.nonzero(sheet.present)
    return sheet.spread(sheet.phases.composition[state, place] @ sheet.substance.molar_mass)


@phase_property("Z", "compressibility factor P V/(R T)")
def Z(sheet: Sheet) -> Array:
    return sheet["molar_volume"] * sheet.P / (R * sheet.T)


@phase_property("Molar volume", "volume per amount of substance", "molar_volume", "_m3_mol", whole="mole")
def molar_volume(sheet: Sheet) -> Array:
    own = sheet.spread(sheet.response.Z) * R * sheet.T / sheet.P - sheet.volume_shift
    return sheet.corrected(own, lambda a: a.volumes.V)


@phase_property("Enthalpy", "molar enthalpy above the reference state", "enthalpy", "_J_mol", whole="mole")
def enthalpy(sheet: Sheet) -> Array:
    state, place = np.nonzero(sheet.present)
    pure = ideal_gas.enthalpy(sheet.substance.cp, sheet.phases.T) + sheet.substance.datum[0]
    ideal = np.einsum("ij,ij->i", sheet.phases.composition[state, place], pure[state])
    return sheet.spread(ideal) + sheet["enthalpy_departure"]


@phase_property("Entropy", "molar entropy above the reference state", "entropy", "_J_mol_K", whole="mole")
def entropy(sheet: Sheet) -> Array:
    state, place = np.nonzero(sheet.present)
    x = sheet.phases.composition[state, place]
    ideal = ideal_gas.entropy(sheet.substance.cp, sheet.phases.T[state], sheet.phases.P[state], x)
    return sheet.spread(ideal + x @ sheet.substance.datum[1]) + sheet["entropy_departure"]


@phase_property("Enthalpy departure", "enthalpy above the ideal gas at the same state", "enthalpy", "_J_mol")
def enthalpy_departure(sheet: Sheet) -> Array:
    # A shift c takes c P from the Gibbs energy, and so (c - T dc/dT) P from enthalpy.
    shifted = (sheet.volume_shift - sheet.T * sheet.shift_rise) * sheet.P
    return sheet.corrected(sheet.spread(sheet.response.h_res) * R * sheet.T - shifted, lambda a: a.heats[0])


@phase_property("Entropy departure", "entropy above the ideal gas at the same state", "entropy", "_J_mol_K")
def entropy_departure(sheet: Sheet) -> Array:
    return sheet.corrected(sheet.spread(sheet.response.s_res) * R + sheet.shift_rise * sheet.P, lambda a: a.heats[1])


@phase_property("Gibbs energy", "molar enthalpy less T times molar entropy", "enthalpy", "_J_mol", whole="mole")
def gibbs(sheet: Sheet) -> Array:
    return sheet["enthalpy"] - sheet.T * sheet["entropy"]


@phase_property("Internal energy", "molar enthalpy less P times molar volume", "enthalpy", "_J_mol", whole="mole")
def internal_energy(sheet: Sheet) -> Array:
    return sheet["enthalpy"] - sheet.P * sheet["molar_volume"]


def _ideal_cp(sheet: Sheet) -> Array:
    """Return the ideal-gas heat capacity of every phase at constant pressure, J/(mol K) (N, p)."""
    state, place = np.nonzero(sheet.present)
    pure = ideal_gas.heat_capacity(sheet.substance.cp, sheet.phases.T)
    return sheet.spread(np.einsum("ij,ij->i", sheet.phases.composition[state, place], pure[state]))


@phase_property("Heat capacity Cp", "at constant pressure and composition", "heat_capacity", "_J_mol_K", MODELS)
def heat_capacity_p(sheet: Sheet) -> Array:
    own = _ideal_cp(sheet) + R * sheet.spread(sheet.response.cp_res) + sheet.T * sheet.shift_bend * sheet.P
    return sheet.corrected(own, lambda a: a.heats[2])


@phase_property("Heat capacity Cv", "at constant volume and composition", "heat_capacity", "_J_mol_K", MODELS)
def heat_capacity_v(sheet: Sheet) -> Array:
    # Cp less -T (dV/dT)2 dP/dV, of which only dV/dT and Cp have to do with a shift.
    push = -sheet.spread(sheet.response.p_V) * sheet.P**2 / (sheet.spread(sheet.response.Z) * R * sheet.T)
    own = sheet.spread(-sheet.response.p_T / sheet.response.p_V * sheet.response.Z) * R / sheet.P
    shifted = own - sheet.shift_rise
    plain = _ideal_cp(sheet) - R + R * sheet.spread(sheet.response.cv_res)
    out = plain + sheet.T * (sheet.shift_bend * sheet.P + push * (own**2 - shifted**2))
    if sheet.aqueous is not None:
        at = sheet.aqueous.state, sheet.aqueous.place
        V, alpha, kappa = (sheet[k][at] for k in ("molar_volume", "thermal_expansion", "isothermal_compressibility"))
        out[at] = sheet["heat_capacity_p"][at] - sheet.aqueous.T * V * alpha**2 / kappa
    return out


def _stiffness(sheet: Sheet) -> Array:
    """Return -V (dP/dV)/P of every phase at constant T, with the shifted V (N, p)."""
    own = sheet.spread(sheet.response.Z) * R * sheet.T / sheet.P
    V_P = sheet.corrected(own / (sheet.P * sheet.spread(sheet.response.p_V)), lambda a: a.volumes.V_P)
    return -sheet["molar_volume"] / (sheet.P * V_P)


@phase_property(
    "Joule–Thomson coefficient", "temperature change by pressure at constant enthalpy", "joule_thomson", "_K_Pa", MODELS
)
def joule_thomson(sheet: Sheet) -> Array:
    rise = sheet.T * sheet["thermal_expansion"] - 1.0
    return sheet["molar_volume"] * rise / sheet["heat_capacity_p"]


@phase_property("Speed of sound", "in the phase, at low frequency", "velocity", "_m_s", MODELS)
def speed_of_sound(sheet: Sheet) -> Array:
    ratio = sheet["heat_capacity_p"] / sheet["heat_capacity_v"]
    with np.errstate(invalid="ignore"):
        return np.sqrt(_stiffness(sheet) * sheet.P * ratio / sheet["density"])


@phase_property(
    "Isothermal compressibility", "-(1/V) dV/dP at constant temperature", "compressibility", "_1_Pa", MODELS
)
def isothermal_compressibility(sheet: Sheet) -> Array:
    return 1.0 / (sheet.P * _stiffness(sheet))


@phase_property("Thermal expansion", "(1/V) dV/dT at constant pressure", "thermal_expansion", "_1_K", MODELS)
def thermal_expansion(sheet: Sheet) -> Array:
    own = sheet.spread(-sheet.response.p_T / sheet.response.p_V * sheet.response.Z) * R / sheet.P - sheet.shift_rise
    return sheet.corrected(own, lambda a: a.volumes.V_T) / sheet["molar_volume"]


@phase_property(
    "Density by temperature",
    "change of density with temperature at constant pressure and composition",
    "density_by_temperature",
    "_kg_m3_K",
    MODELS,
)
def density_by_temperature(sheet: Sheet) -> Array:
    return -sheet["density"] * sheet["thermal_expansion"]


@phase_property(
    "Density by pressure",
    "change of density with pressure at constant temperature and composition",
    "density_by_pressure",
    "_kg_m3_Pa",
    MODELS,
)
def density_by_pressure(sheet: Sheet) -> Array:
    return sheet["density"] * sheet["isothermal_compressibility"]


@phase_property(
    "Enthalpy by pressure",
    "change of molar enthalpy with pressure at constant temperature and composition",
    "enthalpy_by_pressure",
    "_J_mol_Pa",
    MODELS,
)
def enthalpy_by_pressure(sheet: Sheet) -> Array:
    return sheet["molar_volume"] * (1.0 - sheet.T * sheet["thermal_expansion"])


# -- the whole: phases in equilibrium exchange matter as temperature and pressure change
# --------------------------------


def _whole_cp(sheet: Sheet) -> Array:
    """Return the heat capacity of the whole at constant pressure over R (N,), infinite for a pure fluid of two
    phases."""
    return sheet.by_mole("heat_capacity_p") / R + sheet.exchange.cp


def _whole_expansion(sheet: Sheet) -> Array:
    """Return (P/R) (dV/dT) of the whole (N,)."""
    own = np.where(sheet.present, sheet["thermal_expansion"] * sheet["molar_volume"], 0.0)
    return np.asarray((own * sheet.phases.fraction).sum(axis=-1) * sheet.phases.P / R + sheet.exchange.expansion)


def _whole_compression(sheet: Sheet) -> Array:
    """Return -(P^2/(R T)) (dV/dP) of the whole (N,)."""
    own = np.where(sheet.present, sheet["isothermal_compressibility"] * sheet["molar_volume"], 0.0)
    scale = sheet.phases.P**2 / (R * sheet.phases.T)
    return np.asarray((own * sheet.phases.fraction).sum(axis=-1) * scale + sheet.exchange.compression)


def _finite(values: Array) -> Array:
    return np.where(np.isfinite(values), values, np.nan)


@whole_of("heat_capacity_p")
def _cp_of_whole(sheet: Sheet) -> Array:
    return _finite(R * _whole_cp(sheet))


def _whole_cv(sheet: Sheet) -> Array:
    with np.errstate(invalid="ignore", divide="ignore"):
        return _whole_cp(sheet) - _whole_expansion(sheet) ** 2 / _whole_compression(sheet)


@whole_of("heat_capacity_v")
def _cv_of_whole(sheet: Sheet) -> Array:
    return _finite(R * _whole_cv(sheet))


@whole_of("joule_thomson")
def _joule_thomson_of_whole(sheet: Sheet) -> Array:
    T, P = sheet.phases.T, sheet.phases.P
    with np.errstate(invalid="ignore", divide="ignore"):
        rise = T * R / P * _whole_expansion(sheet) - sheet.by_mole("molar_volume")
        return _finite(rise / (R * _whole_cp(sheet)))


@whole_of("speed_of_sound")
def _sound_of_whole(sheet: Sheet) -> Array:
    T, P = sheet.phases.T, sheet.phases.P
    with np.errstate(invalid="ignore", divide="ignore"):
        slope = _whole_compression(sheet) * R * T / P**2
        volume, mass = sheet.by_mole("molar_volume"), _mass_of_whole(sheet)
        return _finite(volume * np.sqrt(_whole_cp(sheet) / _whole_cv(sheet) / (slope * mass)))


@whole_of("isothermal_compressibility")
def _compressibility_of_whole(sheet: Sheet) -> Array:
    scale = R * sheet.phases.T / sheet.phases.P**2
    with np.errstate(invalid="ignore"):
        return _finite(scale * _whole_compression(sheet) / sheet.by_mole("molar_volume"))


@whole_of("thermal_expansion")
def _expansion_of_whole(sheet: Sheet) -> Array:
    with np.errstate(invalid="ignore"):
        return _finite(R / sheet.phases.P * _whole_expansion(sheet) / sheet.by_mole("molar_volume"))


@whole_of("density_by_temperature")
def _density_by_temperature_of_whole(sheet: Sheet) -> Array:
    return -_density_of_whole(sheet) * _expansion_of_whole(sheet)


@whole_of("density_by_pressure")
def _density_by_pressure_of_whole(sheet: Sheet) -> Array:
    return _density_of_whole(sheet) * _compressibility_of_whole(sheet)


@whole_of("enthalpy_by_pressure")
def _enthalpy_by_pressure_of_whole(sheet: Sheet) -> Array:
    with np.errstate(invalid="ignore"):
        own = sheet.by_mole("molar_volume") - sheet.phases.T * R / sheet.phases.P * _whole_expansion(sheet)
        return _finite(own)
