"""Quantities at the border: text with a unit to SI floats and back.

pint knows the units; the trade's own are added here. What pint cannot express (degAPI is the inverse of a density,
psig an offset of a pressure) is converted here. Inside the program only SI floats travel; molar mass is kg/mol there
and g/mol at the border.
"""

from __future__ import annotations

import difflib
import math
import re
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Any

from .constants import ATM, T_60F, WATER_DENSITY_60F, R

_NUMBER = re.compile(r"^\s*([+\-−]?(?:\d[\d\s ]*(?:[.,]\d+)?|[.,]\d+)(?:[eE][+\-]?\d+)?)\s*(.*)$")


class QuantityError(ValueError):
    """A text that is not a quantity of the wanted kind; the message says what would be."""


@dataclass(frozen=True)
class Kind:
    """What a quantity measures: its name in sentences, the SI unit, a plain example and display units."""

    name: str
    title: str
    si: str
    bare: str
    example: str
    units: tuple[str, ...]


KINDS: dict[str, Kind] = {
    k.name: k
    for k in (
        Kind("temperature", "a temperature", "K", "K", "140 degF", ("K", "degC", "degF", "degR")),
        Kind("temperature_difference", "a temperature difference", "K", "K", "15 K", ("K", "degC", "degF")),
        Kind(
            "pressure",
            "a pressure",
            "Pa",
            "Pa",
            "2000 psia",
            ("Pa", "kPa", "MPa", "bar", "barg", "psia", "psig", "atm", "mmHg"),
        ),
        Kind(
            "density",
            "a density",
            "kg/m**3",
            "kg/m**3",
            "33.1 degAPI",
            ("kg/m**3", "g/cm**3", "degAPI", "SG", "lb/ft**3"),
        ),
        Kind("molar_mass", "a molar mass", "kg/mol", "g/mol", "215 g/mol", ("g/mol", "kg/kmol", "lb/lbmol")),
        Kind("dynamic_viscosity", "a dynamic viscosity", "Pa*s", "Pa*s", "0.34 cP", ("Pa*s", "mPa*s", "cP")),
        Kind(
            "kinematic_viscosity", "a kinematic viscosity", "m**2/s", "m**2/s", "12 cSt", ("m**2/s", "mm**2/s", "cSt")
        ),
        Kind(
            "molar_volume",
            "a molar volume",
            "m**3/mol",
            "m**3/mol",
            "99 cm**3/mol",
            ("m**3/mol", "cm**3/mol", "ft**3/lbmol"),
        ),
        Kind("enthalpy", "a molar enthalpy", "J/mol", "J/mol", "-12 kJ/mol", ("J/mol", "kJ/mol", "Btu/lbmol")),
        Kind("entropy", "a molar entropy", "J/mol/K", "J/mol/K", "45 J/mol/K", ("J/mol/K", "Btu/lbmol/degR")),
        Kind("fraction", "a fraction", "", "", "0.4 or 40 %", ("", "%")),
        Kind(
            "amount",
            "an amount of substance",
            "mol",
            "mol",
            "12 MMscf",
            ("mol", "kmol", "lbmol", "scf", "Mscf", "MMscf"),
        ),
        Kind(
            "molar_rate",
            "a molar rate",
            "mol/s",
            "mol/s",
            "12 MMscf/day",
            ("mol/s", "kmol/hour", "lbmol/hour", "MMscf/day"),
        ),
        Kind("mass_rate", "a mass rate", "kg/s", "kg/s", "10 t/day", ("kg/s", "kg/hour", "t/day", "lb/hour")),
        Kind("volume_rate", "a volume rate", "m**3/s", "m**3/s", "850 bbl/day", ("m**3/s", "m**3/day", "bbl/day")),
        Kind("gas_oil_ratio", "a gas-oil ratio", "mol/m**3", "mol/m**3", "600 scf/bbl", ("sm3/m**3", "scf/bbl")),
        Kind("mass", "a mass", "kg", "kg", "3 lb", ("kg", "t", "lb")),
        Kind("volume", "a volume", "m**3", "m**3", "850 bbl", ("m**3", "l", "bbl", "gal")),
    )
}

LABELS = {
    "degC": "°C", "degF": "°F", "degR": "°R", "degAPI": "°API", "kg/m**3": "kg/m³", "g/cm**3": "g/cm³", "lb/ft**3": "lb/ft³",
    "Pa*s": "Pa·s", "mPa*s": "mPa·s", "m**2/s": "m²/s", "mm**2/s": "mm²/s", "J/mol/K": "J/(mol·K)", "": "–", "SG": "SG 60/60",
    "m**3/mol": "m³/mol", "sm3/m**3": "Sm³/m³", "cm**3/mol": "cm³/mol", "ft**3/lbmol": "ft³/lbmol", "Btu/lbmol/degR": "Btu/(lbmol·°R)", "m**3": "m³",
}  # fmt: skip

SETS: dict[str, dict[str, str]] = {
    "SI": {"temperature": "K", "temperature_difference": "K", "pressure": "MPa", "density": "kg/m**3",
           "molar_mass": "g/mol", "enthalpy": "J/mol", "entropy": "J/mol/K", "dynamic_viscosity": "mPa*s"},
    "metric": {"temperature": "degC", "temperature_difference": "K", "pressure": "bar", "density": "kg/m**3",
               "molar_mass": "g/mol", "enthalpy": "kJ/mol", "entropy": "J/mol/K", "dynamic_viscosity": "cP"},
    "field": {"temperature": "degF", "temperature_difference": "degF", "pressure": "psia", "density": "degAPI",
              "molar_mass": "lb/lbmol", "enthalpy": "Btu/lbmol", "entropy": "Btu/lbmol/degR", "dynamic_viscosity": "cP"},
}  # fmt: skip
"""Display unit by kind in the three starting sets."""

_ALIASES = {
    "°c": "degC", "c": "degC", "degc": "degC", "celsius": "degC", "°f": "degF", "f": "degF", "degf": "degF", "fahrenheit": "degF",
    "k": "K", "kelvin": "K", "degk": "K", "°r": "degR", "r": "degR", "rankine": "degR", "degr": "degR",
    "api": "degAPI", "°api": "degAPI", "degapi": "degAPI", "deg api": "degAPI", "sg": "SG", "sg 60/60": "SG", "sp.gr.": "SG", "spgr": "SG",
    "psi": "psia", "psi(a)": "psia", "psi(g)": "psig", "bara": "bar", "bar(a)": "bar", "bar(g)": "barg", "kpa": "kPa", "mpa": "MPa",
    "pa": "Pa", "mmhg": "mmHg", "torr": "mmHg", "cp": "cP", "cst": "cSt", "g/cc": "g/cm**3", "g/ml": "g/cm**3", "kg/m3": "kg/m**3",
    "kg/m³": "kg/m**3", "g/cm3": "g/cm**3", "g/cm³": "g/cm**3", "lb/ft3": "lb/ft**3", "lb/ft³": "lb/ft**3", "lbm/ft3": "lb/ft**3",
    "lb-mol": "lbmol", "lbmole": "lbmol", "lb/lb-mol": "lb/lbmol", "lb/lbmol": "lb/lbmol", "kg/kmol": "kg/kmol", "percent": "%",
    "frac": "", "fraction": "", "-": "", "–": "", "mpa·s": "mPa*s", "mpa.s": "mPa*s", "pa·s": "Pa*s", "mm2/s": "mm**2/s",
    "mm²/s": "mm**2/s", "m2/s": "m**2/s", "m²/s": "m**2/s", "sm3/m3": "sm3/m**3", "sm3/sm3": "sm3/m**3", "m3/m3": "sm3/m**3", "m**3/m**3": "sm3/m**3", "sm³/m³": "sm3/m**3",
    "scf/stb": "scf/bbl", "m3/day": "m**3/day", "m3/d": "m**3/day", "bbl/d": "bbl/day", "mmscf/d": "MMscf/day", "kg/h": "kg/hour",
    "t/d": "t/day", "m3": "m**3", "m³": "m**3", "delta_degf": "delta_degF", "delta_degc": "delta_degC",
}  # fmt: skip


@cache
def _registry() -> Any:
    """Return pint's registry with the trade's units; built on first need, since that takes a while."""
    import pint

    registry: Any = pint.UnitRegistry(autoconvert_offset_to_baseunit=True, on_redefinition="ignore")
    scf = ATM * 0.3048**3 / (R * T_60F)
    for definition in (
        f"standard_cubic_foot = {scf!r} mol = scf",
        f"sm3 = {ATM / (R * T_60F)!r} mol",
        "Mscf = 1000 * scf",
        "MMscf = 1000000 * scf",
        "lbmol = 453.59237 * mol = lb_mol",
        "bbl = 42 * gallon",
        "psia = psi",
    ):
        registry.define(definition)
    return registry


@lru_cache(maxsize=512)
def _linear(unit: str, kind: str) -> tuple[float, float]:
    """Return factor and offset with SI = factor * value + offset; raises QuantityError for a foreign unit."""
    known = KINDS[kind]
    if kind == "pressure" and unit in ("psig", "barg"):
        return _linear("psia" if unit == "psig" else "bar", kind)[0], ATM
    if kind == "temperature":
        # Spelled out: the four scales are all there is, and offsets invite slips.
        scales = {
            "K": (1.0, 0.0),
            "degC": (1.0, 273.15),
            "degF": (5.0 / 9.0, 459.67 * 5.0 / 9.0),
            "degR": (5.0 / 9.0, 0.0),
        }
        if unit in scales:
            return scales[unit]
    if kind == "temperature_difference":
        steps = {
            "K": 1.0,
            "degC": 1.0,
            "delta_degC": 1.0,
            "degF": 5.0 / 9.0,
            "degR": 5.0 / 9.0,
            "delta_degF": 5.0 / 9.0,
        }
        if unit in steps:
            return steps[unit], 0.0
    if kind == "fraction":
        if unit in ("", "%"):
            return (1.0 if unit == "" else 0.01), 0.0
        raise QuantityError(f"'{unit}' is not a unit of {known.title}; write for example {known.example}")
    try:
        registry = _registry()
        return float(registry.Quantity(1.0, registry.Unit(unit)).to(known.si).magnitude), 0.0
    except Exception as error:  # pint raises many kinds; all mean that the unit does not fit
        raise QuantityError(_unit_fault(unit, kind)) from error


def _unit_fault(unit: str, kind: str) -> str:
    known = KINDS[kind]
    other = [k.title for k in KINDS.values() if unit in k.units and k.name != kind]
    near = difflib.get_close_matches(unit, known.units, n=1, cutoff=0.5)
    if other:
        return f"'{unit}' is the unit of {other[0]}, where {known.title} belongs; write for example {known.example}"
    hint = f"did you mean {near[0]}, or" if near else "write"
    return f"'{unit}' is not a unit of {known.title}; {hint} for example {known.example}"


@lru_cache(maxsize=512)
def fits(unit: str, kind: str) -> bool:
    """Tell whether a unit, as people write it, measures a kind of quantity; remembered, since asking pint is slow."""
    try:
        to_si(300.0, unit, kind)
    except QuantityError:
        return False
    return True


def normal_unit(text: str) -> str:
    """Return the program's spelling of a unit as people write it."""
    text = text.strip()
    found = _ALIASES.get(text.casefold())
    return text if found is None else found


def to_si(value: float, unit: str, kind: str) -> float:
    """Return a value in ``unit`` as an SI float (kg/mol for molar mass). Raises QuantityError."""
    unit = normal_unit(unit)
    if kind == "density" and unit == "degAPI":
        if value <= -131.5:
            raise QuantityError("a density in degAPI must be above -131.5")
        return 141.5 / (value + 131.5) * WATER_DENSITY_60F
    if kind == "density" and unit == "SG":
        return value * WATER_DENSITY_60F
    factor, offset = _linear(unit, kind)
    return factor * value + offset


def from_si(value: float, unit: str, kind: str) -> float:
    """Return an SI float in ``unit``; the inverse of :func:`to_si`."""
    if kind == "density" and unit == "degAPI":
        return 141.5 * WATER_DENSITY_60F / value - 131.5
    if kind == "density" and unit == "SG":
        return value / WATER_DENSITY_60F
    factor, offset = _linear(unit, kind)
    return (value - offset) / factor


def split(text: str) -> tuple[float, str]:
    """Return number and unit of a text; a decimal comma counts as a point. Raises QuantityError."""
    match = _NUMBER.match(text)
    if match is None:
        raise QuantityError(f"'{text}' is not a number")
    digits = re.sub(r"[\s ]", "", match.group(1)).replace(",", ".").replace("−", "-")
    return float(digits), match.group(2).strip()


def parse(value: float | int | str, kind: str, default_unit: str | None = None) -> float:
    """Return a quantity as an SI float.

    A bare number is in ``default_unit``, else in the document's unit for the kind (SI; g/mol for molar mass).
    Raises QuantityError, whose message is a sentence about what is wrong and what would be right.
    """
    known = KINDS[kind]
    if isinstance(value, bool) or value is None:
        raise QuantityError(f"{known.title} is wanted, for example {known.example}")
    if isinstance(value, (int, float)):
        number, unit = float(value), ""
    else:
        if not value.strip():
            raise QuantityError(f"{known.title} is wanted, for example {known.example}")
        try:
            number, unit = split(value)
        except QuantityError:
            raise QuantityError(f"'{value}' is not {known.title}; write for example {known.example}") from None
    if not math.isfinite(number):
        raise QuantityError(f"{known.title} must be a finite number")
    if not unit:
        unit = known.bare if default_unit is None else default_unit
    result = to_si(number, unit, kind)
    if kind == "temperature" and result <= 0.0:
        raise QuantityError(f"'{value}' is at or below absolute zero; a temperature must be above 0 K")
    if kind in ("density", "molar_mass") and result <= 0.0:
        raise QuantityError(f"'{value}' is not {known.title}: it must be above zero")
    return result


def label(unit: str) -> str:
    """Return a unit as it is printed."""
    return LABELS.get(unit, unit)


def format_number(value: float, digits: int = 4) -> str:
    """Return a number with sensible significant digits, a true minus and no exponent in the usual range."""
    if not math.isfinite(value):
        return "–"
    if value == 0.0:
        return "0"
    size = int(f"{value:.{digits - 1}e}".partition("e")[2])
    if -4 <= size < 7:
        text = f"{value:.{max(0, digits - 1 - size)}f}"
    else:
        text = f"{value:.{digits - 1}e}"
    return text.replace("-", "−")
