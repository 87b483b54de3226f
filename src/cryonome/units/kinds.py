"""What can be measured, and the units it is shown in."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Kind:
    """What a quantity measures: its name in sentences, the SI unit, the ``bare`` unit of a plain number (None where it needs
    one), an example, display units, and the ``most`` in SI beyond which a number was not meant."""

    name: str
    title: str
    si: str
    bare: str | None
    example: str
    units: tuple[str, ...]
    most: float = float("inf")


KINDS: dict[str, Kind] = {
    k.name: k
    for k in (
        Kind("temperature", "a temperature", "K", "K", "140 degF", ("K", "degC", "degF", "degR"), 5000.0),
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
        Kind("molar_mass", "a molar mass", "kg/mol", "g/mol", "215 g/mol", ("g/mol", "kg/kmol", "lb/lbmol"), 10.0),
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
        Kind("gas_oil_ratio", "a gas-oil ratio", "mol/m**3", None, "600 scf/bbl", ("sm3/m**3", "scf/bbl")),
        Kind("mass", "a mass", "kg", "kg", "3 lb", ("kg", "t", "lb")),
        Kind("volume", "a volume", "m**3", "m**3", "850 bbl", ("m**3", "l", "bbl", "gal")),
    )
}

LABELS = {
    "degC": "°C", "degF": "°F", "degR": "°R", "degAPI": "°API", "kg/m**3": "kg/m³", "g/cm**3": "g/cm³", "lb/ft**3": "lb/ft³",
    "Pa*s": "Pa·s", "mPa*s": "mPa·s", "m**2/s": "m²/s", "mm**2/s": "mm²/s", "J/mol/K": "J/(mol·K)", "": "–", "SG": "SG 60/60",
    "m**3/mol": "m³/mol", "sm3/m**3": "Sm³/m³", "cm**3/mol": "cm³/mol", "ft**3/lbmol": "ft³/lbmol", "Btu/lbmol/degR": "Btu/(lbmol·°R)", "m**3": "m³", "m**3/s": "m³/s", "m**3/day": "m³/day",
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
