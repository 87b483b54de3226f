"""Words of a ``properties`` range that stand for many columns: whole compositions, all phases, everything."""

from __future__ import annotations

from collections.abc import Sequence

from ...fluids.building import FluidModel
from ...fluids.columns import OF_PHASE, OF_WHOLE, PHASES, Column, column_of

OF_ALL_PHASES = (
    "fraction", "density_kg_m3", "molar_mass_g_mol", "Z", "enthalpy_J_mol", "entropy_J_mol_K", "heat_capacity_p_J_mol_K", "viscosity_Pa_s", "conductivity_W_m_K",
)  # fmt: skip
"""What ``phases`` tells of each phase."""

KEYWORDS = ("composition", "phases", "all", *(f"{p} composition" for p in PHASES))
"""Words for many columns: compositions of all phases or of one, the usual properties of all phases, all properties of
the whole and of all phases."""


def keyword_of(text: str) -> str:
    """Return the keyword that a text is, "" for none."""
    plain = text.strip().lower().replace(".", " ").replace("_", " ")
    plain = {"compositions": "composition", "all phases": "phases", "everything": "all"}.get(plain, plain)
    return plain if plain in KEYWORDS else ""


def expanded(wanted: Sequence[Column | str], model: FluidModel) -> list[Column]:
    """Return the columns that are wanted of a fluid, keywords written out; each once."""
    phases = [p for p in PHASES if p != "aqueous" or model.water is not None]
    out: dict[str, Column] = {}
    for each in wanted:
        for key in [each.key] if isinstance(each, Column) else _keys(each, phases, model.names):
            found = column_of(key)
            if isinstance(found, Column):
                out[key] = found
    return list(out.values())


def _keys(keyword: str, phases: Sequence[str], names: Sequence[str]) -> list[str]:
    if keyword.endswith("composition"):
        own = [keyword.partition(" ")[0]] if " " in keyword else list(phases)
        return [f"{p}.composition.{name}" for p in own for name in names]
    if keyword == "phases":
        return [f"{p}.{key}" for p in phases for key in OF_ALL_PHASES if key == "fraction" or key in OF_PHASE]
    return ["vapour_fraction", *OF_WHOLE, *(f"{p}.{key}" for p in phases for key in ("fraction", *OF_PHASE))]
