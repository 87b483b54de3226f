"""What can be measured, and the units it is shown in."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Kind:
    """What a quantity measures: its name in sentences, the SI unit, the ``bare`` unit of a plain number (None where
    it needs one), an example, display units, and the ``most`` in SI beyond which a number was not meant, and the
    ``least`` above zero below which none was."""

    name: str
    title: str
    si: str
    bare: str | None
    example: str
    units: tuple[str, ...]
    most: float = float("inf")
    least: float = 0.0


KINDS: dict[str, Kind] = {
    k.name: k
    for k in (
        Kind("temperature", "a temperature", "K", "K", "140 degF", ("K", "degC", "degF", "degR"), 5000.0, 1.0),
        Kind("temperature_difference", "a temperature difference", "K", "K", "15 K", ("K", "degC", "degF")),
        Kind(
            "pressure",
            "a pressure",
            "Pa",
            "Pa",
            "2000 psia",
            ("Pa", "kPa", "MPa", "bar", "barg", "psia", "psig", "atm", "kgf/cm**2", "mmHg", "inHg"),
            2e9,
            1e-6,
        ),
        Kind(
            "density",
            "a density",
            "kg/m**3",
            "kg/m**3",
            "33.1 degAPI",
            ("kg/m**3", "g/cm**3", "degAPI", "SG", "lb/ft**3"),
            5e4,
            1e-12,
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
        Kind("enthalpy", "a molar enthalpy", "J/mol", "J/mol", "-12 kJ/mol", ("J/mol", "kJ/mol", "Btu/lbmol"), 1e09),
        Kind("entropy", "a molar entropy", "J/mol/K", "J/mol/K", "45 J/mol/K", ("J/mol/K", "Btu/lbmol/degR"), 1e06),
        Kind(
            "specific_enthalpy", "a specific enthalpy", "J/kg", "J/kg", "-120 kJ/kg", ("J/kg", "kJ/kg", "Btu/lb"), 1e10
        ),
        Kind(
            "specific_entropy",
            "a specific entropy",
            "J/kg/K",
            "J/kg/K",
            "2.1 kJ/kg/K",
            ("J/kg/K", "kJ/kg/K", "Btu/lb/degR"),
            1e07,
        ),
        Kind(
            "heat_capacity", "a molar heat capacity", "J/mol/K", "J/mol/K", "75 J/mol/K", ("J/mol/K", "Btu/lbmol/degR")
        ),
        Kind("velocity", "a velocity", "m/s", "m/s", "340 m/s", ("m/s", "ft/s")),
        Kind(
            "compressibility", "a compressibility", "1/Pa", "1/Pa", "1.2e-4 1/bar", ("1/Pa", "1/MPa", "1/bar", "1/psi")
        ),
        Kind("thermal_expansion", "a thermal expansion", "1/K", "1/K", "9e-4 1/K", ("1/K", "1/degR")),
        Kind(
            "joule_thomson",
            "a Joule-Thomson coefficient",
            "K/Pa",
            "K/Pa",
            "0.4 K/bar",
            ("K/Pa", "K/MPa", "K/bar", "degR/psi"),
        ),
        Kind(
            "density_by_temperature",
            "a change of density with temperature",
            "kg/m**3/K",
            "kg/m**3/K",
            "-0.7 kg/m**3/K",
            ("kg/m**3/K", "lb/ft**3/degR"),
        ),
        Kind(
            "density_by_pressure",
            "a change of density with pressure",
            "kg/m**3/Pa",
            "kg/m**3/Pa",
            "0.9 kg/m**3/bar",
            ("kg/m**3/Pa", "kg/m**3/MPa", "kg/m**3/bar", "lb/ft**3/psi"),
        ),
        Kind(
            "enthalpy_by_pressure",
            "a change of enthalpy with pressure",
            "J/mol/Pa",
            "J/mol/Pa",
            "-12 J/mol/bar",
            ("J/mol/Pa", "J/mol/MPa", "J/mol/bar", "Btu/lbmol/psi"),
        ),
        Kind(
            "conductivity",
            "a thermal conductivity",
            "W/m/K",
            "W/m/K",
            "0.12 W/m/K",
            ("W/m/K", "mW/m/K", "Btu/hour/ft/degR"),
        ),
        Kind("surface_tension", "a surface tension", "N/m", "N/m", "12 mN/m", ("N/m", "mN/m", "dyn/cm")),
        Kind("heating_value", "a heating value", "J/m**3", "J/m**3", "38 MJ/m**3", ("J/m**3", "MJ/m**3", "Btu/ft**3")),
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
            ("mol/s", "kmol/hour", "lbmol/hour", "sm3/day", "Mscf/day", "MMscf/day"),
        ),
        Kind("mass_rate", "a mass rate", "kg/s", "kg/s", "10 t/day", ("kg/s", "kg/hour", "t/day", "lb/hour")),
        Kind(
            "volume_rate",
            "a volume rate",
            "m**3/s",
            "m**3/s",
            "850 bbl/day",
            ("m**3/s", "m**3/hour", "m**3/day", "bbl/day", "gal/min", "ft**3/day"),
        ),
        Kind(
            "actual_rate",
            "an actual volume rate",
            "m**3/s",
            "m**3/s",
            "1200 m**3/hour",
            ("m**3/s", "m**3/hour", "m**3/day", "ft**3/min", "ft**3/day", "bbl/day", "gal/min"),
        ),
        Kind(
            "gas_rate",
            "a standard gas rate",
            "mol/s",
            "mol/s",
            "12 MMscf/day",
            ("sm3/s", "sm3/hour", "sm3/day", "Mscf/day", "MMscf/day"),
        ),
        Kind(
            "pressure_difference",
            "a pressure difference",
            "Pa",
            "Pa",
            "1.2 bar",
            ("Pa", "kPa", "MPa", "bar", "psi", "mmHg"),
            2e9,
            -2e9,
        ),
        Kind("water_gas_ratio", "a water-gas ratio", "m**3/mol", None, "12 bbl/MMscf", ("m**3/sm3", "bbl/MMscf")),
        Kind("gas_oil_ratio", "a gas-oil ratio", "mol/m**3", None, "600 scf/bbl", ("sm3/m**3", "scf/bbl")),
        Kind(
            "water_content",
            "a water content",
            "kg/mol",
            None,
            "7 lb/MMscf",
            ("mg/sm3", "lb/MMscf"),
        ),
        Kind("mass", "a mass", "kg", "kg", "3 lb", ("kg", "t", "lb")),
        Kind("power", "a power", "W", "W", "270 kW", ("W", "kW", "MW", "hp", "Btu/hour", "MMBtu/hour"), 1e13),
        Kind("length", "a length", "m", "m", "12 km", ("m", "km", "ft", "mi"), 1e8),
        Kind("elevation", "an elevation", "m", "m", "150 m", ("m", "ft", "km"), 1e7, -1e7),
        Kind("diameter", "a diameter", "m", "m", "8 in", ("m", "mm", "in", "cm"), 100.0),
        Kind(
            "pressure_gradient",
            "a pressure gradient",
            "Pa/m",
            "Pa/m",
            "0.5 bar/km",
            ("Pa/m", "kPa/m", "bar/km", "psi/ft", "psi/100ft", "psi/mi"),
            1e9,
        ),
        Kind(
            "heat_transfer",
            "a heat transfer coefficient",
            "W/m**2/K",
            "W/m**2/K",
            "5 W/m**2/K",
            ("W/m**2/K", "Btu/hour/ft**2/degR"),
            1e7,
        ),
        Kind("conductance", "a conductance", "W/K", "W/K", "12 kW/K", ("W/K", "kW/K", "Btu/hour/degR"), 1e12),
        Kind("momentum", "a momentum flux", "Pa", "Pa", "15000 kg/m/s**2", ("Pa", "kg/m/s**2", "lb/ft/s**2"), 1e12),
        Kind("volume", "a volume", "m**3", "m**3", "850 bbl", ("m**3", "l", "bbl", "gal")),
    )
}

LABELS = {
    "mg/sm3": "mg/Sm³", "kgf/cm**2": "kgf/cm²", "sm3/s": "Sm³/s", "sm3/hour": "Sm³/h", "sm3/day": "Sm³/d", "Mscf/day": "Mscf/d", "MMscf/day": "MMscf/d", "bbl/day": "bbl/d",
    "m**3/hour": "m³/h", "ft**3/min": "ft³/min", "ft**3/day": "ft³/d", "kmol/hour": "kmol/h", "lbmol/hour": "lbmol/h", "kg/hour": "kg/h", "t/day": "t/d", "lb/hour": "lb/h",
    "degC": "°C", "degF": "°F", "degR": "°R", "degAPI": "°API", "kg/m**3": "kg/m³", "g/cm**3": "g/cm³", "lb/ft**3": "lb/ft³",
    "Pa*s": "Pa·s", "mPa*s": "mPa·s", "m**2/s": "m²/s", "mm**2/s": "mm²/s", "J/mol/K": "J/(mol·K)", "": "–", "SG": "SG 60/60",
    "m**3/mol": "m³/mol", "m**3/sm3": "m³/Sm³", "sm3/m**3": "Sm³/m³", "cm**3/mol": "cm³/mol", "ft**3/lbmol": "ft³/lbmol", "Btu/lbmol/degR": "Btu/(lbmol·°R)", "m**3": "m³", "m**3/s": "m³/s", "m**3/day": "m³/d",
    "W/m/K": "W/(m·K)", "mW/m/K": "mW/(m·K)", "Btu/hour/ft/degR": "Btu/(h·ft·°F)", "degR/psi": "°F/psi", "1/degR": "1/°F",
    "MMBtu/hour": "MMBtu/h", "Btu/hour": "Btu/h", "W/m**2/K": "W/(m²·K)", "Btu/hour/ft**2/degR": "Btu/(h·ft²·°F)", "Btu/hour/degR": "Btu/(h·°F)", "kg/m/s**2": "kg/(m·s²)", "lb/ft/s**2": "lb/(ft·s²)", "psi/100ft": "psi/100 ft",
    "J/kg/K": "J/(kg·K)", "kJ/kg/K": "kJ/(kg·K)", "Btu/lb/degR": "Btu/(lb·°R)", "J/m**3": "J/m³", "MJ/m**3": "MJ/m³", "Btu/ft**3": "Btu/ft³",
    "kg/m**3/K": "kg/(m³·K)", "lb/ft**3/degR": "lb/(ft³·°F)", "kg/m**3/Pa": "kg/(m³·Pa)", "kg/m**3/MPa": "kg/(m³·MPa)", "kg/m**3/bar": "kg/(m³·bar)",
    "lb/ft**3/psi": "lb/(ft³·psi)", "J/mol/Pa": "J/(mol·Pa)", "J/mol/MPa": "J/(mol·MPa)", "J/mol/bar": "J/(mol·bar)", "Btu/lbmol/psi": "Btu/(lbmol·psi)",
}  # fmt: skip

SETS: dict[str, dict[str, str]] = {
    "SI": {"power": "kW", "length": "m", "elevation": "m", "diameter": "mm", "pressure_gradient": "Pa/m", "heat_transfer": "W/m**2/K", "conductance": "W/K", "momentum": "kg/m/s**2", "water_gas_ratio": "m**3/sm3", "pressure_difference": "MPa", "gas_rate": "sm3/s", "actual_rate": "m**3/s", "water_content": "mg/sm3", "gas_oil_ratio": "sm3/m**3", "molar_rate": "mol/s", "mass_rate": "kg/s", "volume_rate": "m**3/s", "temperature": "K", "temperature_difference": "K", "pressure": "MPa", "density": "kg/m**3",
           "molar_mass": "g/mol", "enthalpy": "J/mol", "entropy": "J/mol/K", "dynamic_viscosity": "mPa*s",
           "heat_capacity": "J/mol/K", "velocity": "m/s", "compressibility": "1/MPa", "thermal_expansion": "1/K",
           "density_by_temperature": "kg/m**3/K", "density_by_pressure": "kg/m**3/MPa", "enthalpy_by_pressure": "J/mol/MPa", "joule_thomson": "K/MPa", "conductivity": "W/m/K", "surface_tension": "mN/m", "heating_value": "MJ/m**3",
           "specific_enthalpy": "kJ/kg", "specific_entropy": "kJ/kg/K"},
    "metric": {"power": "kW", "length": "km", "elevation": "m", "diameter": "mm", "pressure_gradient": "bar/km", "heat_transfer": "W/m**2/K", "conductance": "kW/K", "momentum": "kg/m/s**2", "water_gas_ratio": "m**3/sm3", "pressure_difference": "bar", "gas_rate": "sm3/day", "actual_rate": "m**3/hour", "water_content": "mg/sm3", "gas_oil_ratio": "sm3/m**3", "molar_rate": "kmol/hour", "mass_rate": "kg/hour", "volume_rate": "m**3/day", "temperature": "degC", "temperature_difference": "K", "pressure": "bar", "density": "kg/m**3",
               "molar_mass": "g/mol", "enthalpy": "kJ/mol", "entropy": "J/mol/K", "dynamic_viscosity": "cP",
               "heat_capacity": "J/mol/K", "velocity": "m/s", "compressibility": "1/bar", "thermal_expansion": "1/K",
               "density_by_temperature": "kg/m**3/K", "density_by_pressure": "kg/m**3/bar", "enthalpy_by_pressure": "J/mol/bar", "joule_thomson": "K/bar", "conductivity": "W/m/K", "surface_tension": "mN/m", "heating_value": "MJ/m**3",
               "specific_enthalpy": "kJ/kg", "specific_entropy": "kJ/kg/K"},
    "field": {"power": "hp", "length": "ft", "elevation": "ft", "diameter": "in", "pressure_gradient": "psi/100ft", "heat_transfer": "Btu/hour/ft**2/degR", "conductance": "Btu/hour/degR", "momentum": "lb/ft/s**2", "water_gas_ratio": "bbl/MMscf", "pressure_difference": "psi", "gas_rate": "MMscf/day", "actual_rate": "ft**3/min", "water_content": "lb/MMscf", "gas_oil_ratio": "scf/bbl", "molar_rate": "lbmol/hour", "mass_rate": "lb/hour", "volume_rate": "bbl/day", "temperature": "degF", "temperature_difference": "degF", "pressure": "psia", "density": "degAPI",
              "molar_mass": "lb/lbmol", "enthalpy": "Btu/lbmol", "entropy": "Btu/lbmol/degR", "dynamic_viscosity": "cP",
              "heat_capacity": "Btu/lbmol/degR", "velocity": "ft/s", "compressibility": "1/psi", "thermal_expansion": "1/degR",
              "density_by_temperature": "lb/ft**3/degR", "density_by_pressure": "lb/ft**3/psi", "enthalpy_by_pressure": "Btu/lbmol/psi", "joule_thomson": "degR/psi", "conductivity": "Btu/hour/ft/degR", "surface_tension": "dyn/cm",
              "heating_value": "Btu/ft**3", "specific_enthalpy": "Btu/lb", "specific_entropy": "Btu/lb/degR"},
}  # fmt: skip
"""Display unit by kind in the three starting sets."""
