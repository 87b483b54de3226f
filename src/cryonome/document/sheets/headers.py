"""Reading the header row of a spreadsheet range: which column is which, by which method, and in which unit."""

from __future__ import annotations

import re

from ...units import KINDS, QuantityError, fits, normal_unit, split
from ...units.numbers import plain

WORDS: tuple[tuple[str, tuple[str, ...]], ...] = (
    (
        "percent",
        (
            "distilled",
            "percent",
            "vol%",
            "wt%",
            "mass%",
            "mol%",
            "lv%",
            "%",
            "recovered",
            "cumulative",
            "off",
            "evaporated",
        ),
    ),
    ("tail", ("vacuum", "tail")),
    ("temperature", ("boiling", "temperature", "temp", "tbp", "d86", "d1160", "d2887", "efv", "simdist", "t")),
    ("density", ("density", "gravity", "api", "sg", "dens")),
    ("molar_mass", ("molar", "molecular", "mol.wt", "mw", "molwt", "mole weight", "mol.wt.")),
    ("viscosity", ("viscosity", "visc", "kv")),
    ("name", ("component", "components", "group", "carbon", "species", "name", "fraction", "compound")),
    ("amount", ("amount", "share", "mole", "mass", "weight", "mol")),
)
"""Words of a header by the column they mean; the first that fits counts."""

UNIT_KINDS = ("temperature", "density", "molar_mass", "kinematic_viscosity", "dynamic_viscosity")

METHOD_WORDS = (
    ("d1160", "D1160"),
    ("d2887", "D2887"),
    ("simdist", "D2887"),
    ("d86", "D86"),
    ("efv", "EFV"),
    ("tbp", "TBP"),
)
"""Words of a header or a line by the method they mean."""


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


_TITLE = re.compile(r"^\s*([^(\[]+?)\s*(?:[(\[,]\s*([^)\]]*?)\s*[)\]]?)?\s*$")


def title_and_unit(text: str) -> tuple[str, str]:
    """Return the words of a title and the unit behind them, in brackets or after a comma: "Pressure (bar)", "T, degC"."""
    found = _TITLE.match(text)
    return (found.group(1).strip(), (found.group(2) or "").strip()) if found else (text.strip(), "")


def method_in(text: str) -> str | None:
    """Return the method a title names."""
    squeezed = re.sub(r"[\s\-_.]", "", plain(text).casefold())
    return next((method for word, method in METHOD_WORDS if word in squeezed), None)


def basis_in(text: str) -> str | None:
    """Return the basis of percents a title names."""
    squeezed = f" {plain(text).casefold()} "
    for basis, pattern in (
        ("mass", r"\b(wt|weight|mass)\b|m%"), ("volume", r"\b(vol|volume|lv|liq)\b|v%"), ("mole", r"\b(mol|mole|molar)\b"),
    ):  # fmt: skip
        if re.search(pattern, squeezed.replace("%", " % ")) or re.search(pattern, squeezed):
            return basis
    return None


def meaning(cell: str) -> str | None:
    """Return what a header's column holds, None where no word is known."""
    cell = plain(cell)
    outside = re.sub(r"[\[(].*?[\])]", " ", cell)
    # A unit in brackets tells nothing of the column where there is a word before it: sulphur (wt%).
    text = f" {(outside if outside.strip() else cell).casefold()} "
    words = set(re.split(r"[^a-z0-9%.]+", text))
    squeezed = re.sub(r"[\s\-]", "", text)
    if method_in(text) is not None and "%" not in text and "distilled" not in squeezed:
        return "temperature"
    for name, known in WORDS:
        if any(k in words or (len(k) > 4 and k in text) for k in known):
            return name
    unit = unit_of(cell)
    return None if unit is None else unit[1]


_DEGREES = re.compile(r"(?:°|\b(?:deg(?:rees?)?\.?|o))\s*([CFKR])\b|°\s*([CFKR])", re.IGNORECASE)
_LETTER = re.compile(r"[\s_,(\[]([CFKR])\s*[)\]]?\s*$")


def unit_of(cell: str) -> tuple[str, str] | None:
    """Return the unit named in a header and what it measures, if one is."""
    cell = plain(cell)
    inside = re.findall(r"[\[(]([^\])]*)[\])]?", cell)
    # A bracket may stand in another, as in Btu/(lbmol R): the longest piece comes first.
    brackets = [cell[cell.index("(") + 1 :].rstrip(") ")] if "(" in cell else []
    pieces = [*brackets, *reversed(inside), cell.rpartition(",")[2], *re.split(r"[,\s_;]+", cell)]
    for piece in pieces:
        text = piece.strip("()[] ")
        unit = normal_unit(text) if text else ""
        for kind in UNIT_KINDS:
            if unit and (unit in KINDS[kind].units or _fits(text, kind)):
                return unit, _measured(kind)
    degrees = _DEGREES.search(cell)
    if degrees is not None:
        return normal_unit(f"deg{(degrees.group(1) or degrees.group(2)).upper()}"), "temperature"
    letter = _LETTER.search(cell)
    if letter is not None:
        return normal_unit(letter.group(1)), "temperature"
    # A specific gravity names its unit by its own name.
    return ("SG", "density") if "gravity" in cell.casefold() and "api" not in cell.casefold() else None


def _measured(kind: str) -> str:
    return {"kinematic_viscosity": "viscosity", "dynamic_viscosity": "viscosity"}.get(kind, kind)


def _fits(unit: str, kind: str) -> bool:
    return bool(re.search(r"[/*^]", unit)) and fits(unit, kind)
