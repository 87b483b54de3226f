"""Reading the header row of a pasted spreadsheet range: which column is which, and in which unit."""

from __future__ import annotations

import re

from ..units import KINDS, QuantityError, fits, normal_unit, split

WORDS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("percent", ("distilled", "percent", "vol%", "wt%", "mass%", "mol%", "%", "recovered", "cumulative", "off")),
    ("tail", ("vacuum", "tail")),
    ("temperature", ("boiling", "temperature", "temp", "tbp", "d86", "d1160", "d2887", "efv")),
    ("density", ("density", "gravity", "api", "sg", "dens")),
    ("molar_mass", ("molar", "molecular", "mol.wt", "mw", "molwt", "mole weight")),
    ("viscosity", ("viscosity", "visc", "kv")),
    ("name", ("component", "group", "carbon", "species", "name", "fraction")),
    ("amount", ("amount", "share", "mole", "mass", "weight")),
)
"""Words of a header by the column they mean; the first that fits counts."""

UNIT_KINDS = ("temperature", "density", "molar_mass", "kinematic_viscosity", "dynamic_viscosity")


def is_number(text: str) -> bool:
    """Tell whether a cell holds a number, with or without a unit."""
    try:
        split(text)
    except QuantityError:
        return False
    return True


def is_header(cells: list[str]) -> bool:
    """Tell whether a row of cells is a header: words, and no number."""
    return any(c.strip() for c in cells) and not any(is_number(c) for c in cells)


def meaning(cell: str) -> str | None:
    """Return what a header's column holds, None where no word is known."""
    outside = re.sub(r"[\[(].*?[\])]", " ", cell)
    # A unit in brackets tells nothing of the column where there is a word before it: sulphur (wt%).
    text = f" {(outside if outside.strip() else cell).casefold()} "
    words = set(re.split(r"[^a-z0-9%.]+", text))
    for name, known in WORDS:
        if any(k in words or (len(k) > 4 and k in text) for k in known):
            return name
    unit = unit_of(cell)
    return None if unit is None else unit[1]


def unit_of(cell: str) -> tuple[str, str] | None:
    """Return the unit named in a header and what it measures, if one is."""
    inside = cell.replace("[", "(").replace("]", ")").split("(")
    pieces = [inside[-1].rstrip(") "), *re.split(r"[,\s]+", cell)]
    for piece in pieces:
        unit = normal_unit(piece.strip("()[] "))
        for kind in UNIT_KINDS:
            if unit and (unit in KINDS[kind].units or _fits(unit, kind)):
                return unit, {"kinematic_viscosity": "viscosity", "dynamic_viscosity": "viscosity"}.get(kind, kind)
    # A specific gravity names its unit by its own name.
    return ("SG", "density") if "gravity" in cell.casefold() else None


def _fits(unit: str, kind: str) -> bool:
    return bool(re.search(r"[/*]", unit)) and fits(unit, kind)
