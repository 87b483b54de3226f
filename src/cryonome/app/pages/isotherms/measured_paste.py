"""Measured saturation pasted from a sheet: columns of temperature, pressure and the volumes or densities of the two
phases."""

from __future__ import annotations

import re

from ....questions.kinds.isotherms import MeasuredSaturation
from ....units import QuantityError, fits, parse

WORDS = {
    "temperature": r"^t$|temp",
    "pressure": r"^p$|press|p_?sat",
    "liquid": r"liq",
    "vapour": r"vap|gas",
}
KINDS = {"temperature": "temperature", "pressure": "pressure", "liquid": "molar_volume", "vapour": "molar_volume"}


def measured_of(text: str, molar_mass: float) -> tuple[MeasuredSaturation, ...]:
    """Return the points of a pasted range with a header of words and units, in any order of rows and columns.

    Volumes may be densities by mass: ``molar_mass`` kg/mol turns them. Raises QuantityError with a sentence.
    """
    lines = [[c.strip() for c in line.split("\t")] for line in text.splitlines() if line.strip()]
    if len(lines) < 2:
        raise QuantityError(
            "measured saturation is a header and rows: temperature, pressure, liquid, vapour, with their units"
        )
    columns = [_column(cell) for cell in lines[0]]
    names = [c[0] for c in columns]
    if "temperature" not in names or len(set(filter(None, names))) < 2:
        raise QuantityError(
            "the header names temperature and at least one of pressure, liquid and vapour, each with its unit, for example "
            "'temperature K', 'liquid cm3/mol'"
        )
    out = []
    for number, cells in enumerate(lines[1:], 2):
        found: dict[str, float] = {}
        for (name, unit), cell in zip(columns, cells):
            if name and cell:
                found[name] = _value(name, cell, unit, molar_mass, number)
        if "temperature" in found:
            out.append(MeasuredSaturation(**found))
    if not out:
        raise QuantityError("no row below the header holds a temperature")
    return tuple(out)


def _column(head: str) -> tuple[str, str]:
    """Return which column a header names, "" for another, and its unit."""
    words = re.sub(r"[()\[\],;]", " ", head).split()
    for name, pattern in WORDS.items():
        if words and re.search(pattern, words[0], re.IGNORECASE):
            rest = [
                w for w in words[1:] if w.lower() not in ("molar", "volume", "density", "vol", "saturation", "phase")
            ]
            return name, " ".join(rest)
    return "", ""


def _value(name: str, cell: str, unit: str, molar_mass: float, row: int) -> float:
    """Return a cell in SI. Raises QuantityError, which names the row."""
    kind = KINDS[name]
    try:
        if kind == "molar_volume" and unit and not fits(unit, kind):
            return molar_mass / parse(cell, "density", unit)
        if not unit and not re.search(r"[a-zA-Z°]", cell):
            raise QuantityError(f"the column {name} needs its unit")
        return parse(cell, kind, unit or None)
    except QuantityError as error:
        raise QuantityError(f"row {row}: {error}") from None
