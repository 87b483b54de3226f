"""What a column of a block may be taken for instead, and in which units: the menus of the preview."""

from __future__ import annotations

from ..units import KINDS
from ..units.endings import kind_of_key
from .found import UNREAD, Block, ColumnRead
from .report_words import COLUMNS

TITLES = {
    "relative_volume": "relative volume", "Y": "Y function", "liquid_volume_fraction": "liquid, of the volume at saturation", "viscosity_Pa_s": "viscosity",
    "density_kg_m3": "density", "Z": "Z", "Z_gas": "Z of the gas", "Z_two_phase": "two-phase Z", "gas_viscosity_Pa_s": "viscosity of the gas", "gas_gravity": "gravity of the gas",
    "produced_mole_fraction": "produced, of the start", "total_volume_factor": "total volume factor", "gas_volume_factor": "volume factor of the gas", "oil_viscosity_Pa_s": "viscosity of the oil",
    "liberated": "gas liberated", "solution_gas_m3_m3": "gas in solution", "oil_volume_factor": "volume factor of the oil", "gas_Z": "Z of the gas", "oil_density_kg_m3": "density of the oil",
    "gas_oil_ratio_m3_m3": "gas-oil ratio", "swelling_factor": "swelling factor", "saturation_pressure_Pa": "saturation pressure",
}  # fmt: skip
"""Keys of tests in words."""

BASES = {"mole": "mol %", "mass": "mass %", "volume": "liquid volume %"}


def words_of(meaning: str) -> str:
    """Return a meaning in words."""
    return f"mole fraction of {meaning[4:]} in the gas" if meaning.startswith("gas.") else TITLES.get(meaning, meaning)


def meanings(block: Block, column: ColumnRead | None, place: int) -> list[str]:
    """Return what a column may be taken for; nothing where it is the axis of the block."""
    own = column.meaning if column is not None else UNREAD
    if block.kind in {"composition", "light ends"}:
        return [] if own in ("component", "unit of the row") else ["amount", "molar mass", "density", UNREAD]
    if block.kind == "boiling curve":
        return (
            []
            if own == "percent distilled"
            else ["temperature", "density", "molar mass", "viscosity", "quantity", UNREAD]
        )
    if block.kind == "assay by ranges":
        return (
            [] if own == "boiling range" else ["yield of the cut", "cumulative yield", "density", "molar mass", UNREAD]
        )
    if own == "pressure":
        return list(COLUMNS)
    if (own.startswith("gas ") and "mixture" in own) or own == "gas per mole of fluid":
        return []
    keys = [k for k, _ in COLUMNS.get(block.kind, ()) if k in TITLES]
    return [*keys, UNREAD]


def units(column: ColumnRead) -> list[str]:
    """Return the units the numbers of a column may be in."""
    named = {
        "temperature": "temperature", "temperature under vacuum": "temperature", "boiling range": "temperature", "density": "density", "density of the cut": "density", "molar mass": "molar_mass",
        "pressure": "pressure", "liberated": "gas_oil_ratio", "saturation_pressure_Pa": "pressure",
    }  # fmt: skip
    if column.meaning == "viscosity":
        return [*KINDS["kinematic_viscosity"].units, *KINDS["dynamic_viscosity"].units]
    kind = named.get(column.meaning) or (kind_of_key(column.meaning)[0] if column.meaning in TITLES else "")
    return list(KINDS[kind].units) if kind in KINDS and kind != "fraction" else []


def bases(column: ColumnRead) -> list[str]:
    """Return the bases the amounts of a column may be on."""
    return (
        list(BASES)
        if column.meaning
        in ("amount", "percent distilled", "yield of the cut", "cumulative yield", "amount, to compare")
        else []
    )
