"""What the ending of a key of an answer measures: ``density_kg_m3`` is a density in kg/m3."""

from __future__ import annotations

import re

from ..constants import ATM, T_60F, R
from .quantity import parse

STANDARD_GAS = R * T_60F / ATM
"""Volume of a mole of ideal gas at 60 degF and 1 atm, m3/mol: a gas-oil ratio in moles is one in volumes by it."""

_ENDINGS: dict[str, tuple[str, float]] = {
    "_kg_m3_K": ("density_by_temperature", 1.0), "_kg_m3_Pa": ("density_by_pressure", 1.0), "_J_mol_Pa": ("enthalpy_by_pressure", 1.0),
    "_Pa_m": ("pressure_gradient", 1.0), "_W_K": ("conductance", 1.0), "_W_m2_K": ("heat_transfer", 1.0), "_W": ("power", 1.0), "_J_kg": ("specific_enthalpy", 1.0), "diameter_m": ("diameter", 1.0),
    "repeatability_Pa": ("pressure_difference", 1.0), "reproducibility_Pa": ("pressure_difference", 1.0), "change_K": ("temperature_difference", 1.0), "lmtd_K": ("temperature_difference", 1.0), "difference_K": ("temperature_difference", 1.0),
    "approach_K": ("temperature_difference", 1.0), "drop_Pa": ("pressure_difference", 1.0), "momentum_Pa": ("momentum", 1.0), "margin_Pa": ("pressure_difference", 1.0), "roughness_m": ("diameter", 1.0),
    "elevation_m": ("elevation", 1.0), "_m": ("length", 1.0),
    "_kg_mol": ("water_content", 1.0),
    "margin_K": ("temperature_difference", 1.0), "_W_m_K": ("conductivity", 1.0), "_kg_s": ("mass_rate", 1.0), "gas_m3_s": ("gas_rate", 1.0 / STANDARD_GAS), "actual_m3_s": ("actual_rate", 1.0), "_mol_s": ("molar_rate", 1.0), "_m3_s": ("volume_rate", 1.0),
    "_Pa_s": ("dynamic_viscosity", 1.0), "_m_s": ("velocity", 1.0), "_K_Pa": ("joule_thomson", 1.0), "_1_Pa": ("compressibility", 1.0),
    "_1_K": ("thermal_expansion", 1.0), "_N_m": ("surface_tension", 1.0), "_J_m3": ("heating_value", 1.0),
    "_J_mol_K": ("entropy", 1.0), "_J_mol": ("enthalpy", 1.0), "_m3_mol": ("molar_volume", 1.0), "_g_mol": ("molar_mass", 1e-3),
    "water_gas_ratio_m3_m3": ("water_gas_ratio", STANDARD_GAS), "water_oil_ratio_m3_m3": ("", 1.0), "_m3_m3": ("gas_oil_ratio", 1.0 / STANDARD_GAS),
    "_gauge_Pa": ("pressure_difference", 1.0), "_kg_m3": ("density", 1.0), "_m2_s": ("kinematic_viscosity", 1.0), "_Pa": ("pressure", 1.0), "_K": ("temperature", 1.0),
}  # fmt: skip
ENDINGS = dict(sorted(_ENDINGS.items(), key=lambda item: -len(item[0])))
"""What the ending of a key measures and the factor from there to SI; the longer endings come first, so that a tension
in N/m is no length."""

SPELLED = {"molar_mass": "g/mol"}
"""Units of answers that are not those of SI, by kind."""


_OF_SAMPLES = re.compile(r"^reads\.(?P<read>.+)\.(?P<what>base|mean|standard_deviation|percentiles\.[\d.]+)$")


def of_samples(path: str) -> tuple[str, str]:
    """Return the path that was read of samples and what is told of it, where a path leads into such an answer:
    ``reads.TVP_Pa.percentiles.95`` is percentile 95 of ``TVP_Pa``; else the path itself and nothing."""
    found = _OF_SAMPLES.match(re.sub(r"(\[\d+\])+$", "", path))
    return (path, "") if found is None else (found["read"], found["what"].replace("_", " ").replace("s.", " "))


def kind_of_key(path: str) -> tuple[str, float]:
    """Return what the value at a path of an answer measures, "" for a plain number, and the factor from there to SI."""
    inner, what = of_samples(path)
    if what:
        kind, factor = kind_of_key(inner)
        apart = kind in ("temperature", "pressure") and what == "standard deviation"
        return (f"{kind}_difference" if apart else kind), factor
    key = re.sub(r"(\[\d+\])+$", "", path)
    return next((found for end, found in ENDINGS.items() if key.endswith(end)), ("", 1.0))


def without_unit(key: str) -> str:
    """Return a key without its unit: ``density_kg_m3`` is a density; words that tell what a unit is of stay."""
    inner, what = of_samples(key)
    if what:
        return f"{without_unit(inner)}, {what}"
    end = next((e for e in ENDINGS if e.startswith("_") and key.endswith(e)), "")
    return key.removesuffix(end)


def last_key(path: str) -> str:
    """Return the key that a path of an answer ends with, without indices."""
    return re.sub(r"\[\d+\]", "", path).rpartition(".")[2]


def parse_as(path: str, cell: float | int | str) -> float:
    """Return a cell in the unit of the value at a path: a quantity of its kind, or a bare number in that unit.

    Raises QuantityError.
    """
    if not isinstance(cell, str):
        return float(cell)
    kind, factor = kind_of_key(path)
    return parse(cell, kind, SPELLED.get(kind)) / factor if kind else parse(cell, "fraction")
