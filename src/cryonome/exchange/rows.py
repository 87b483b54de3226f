"""What is done to the rows of a sheet before its tables are looked for: lines in one cell, one result a line, two
values in one cell."""

from __future__ import annotations

import re
from collections.abc import Sequence

from .entries import Style, entry_of, folded, point_of
from .words import as_unit, line_word, means, method_of, unit_in

Row = tuple[int, list[str]]
"""A row of a sheet with its number, from 0."""


def prepared(rows: Sequence[Sequence[str]], style: Style) -> list[Row]:
    """Return the rows with their numbers, each value in a cell of its own."""
    return _viscosities(_records(_paired(_parted(rows), style), style), style)


def _parted(rows: Sequence[Sequence[str]]) -> list[Row]:
    """Part a cell alone in its row that reads ``word: value``."""
    out: list[Row] = []
    for number, row in enumerate(rows):
        cells = list(row)
        full = [j for j, c in enumerate(cells) if c.strip()]
        if len(full) == 1 and ":" in cells[full[0]]:
            word, _, value = cells[full[0]].partition(":")
            plain = entry_of(value, "point").fills or not any(c.isdigit() for c in value) or line_word(word)
            if value.strip() and plain and len(word) <= 48 and not word.strip()[-1:].isdigit():
                cells = [*cells[: full[0]], word.strip(), value.strip()]
        out.append((number, cells))
    return out


_RESULT = re.compile(r"^(?:result|resultat|resultado|ergebnis|messwert|value|wert|valor|valeur|found)s?$")
_WHAT = re.compile(
    r"^(?:test|property|parameter|determination|analysis|analyse|ensayo|prufung|eigenschaft|propriete|propiedad|characteristic|item|description)s?$"
)


def _records(rows: list[Row], style: Style) -> list[Row]:
    """Write tables of one result a line (property, method, result, unit) as lines of a word, its value and its unit."""
    out: list[Row] = []
    at: dict[str, int] | None = None
    for number, cells in rows:
        words = [folded(c) if c[:1].isalpha() else c for c in cells]
        if sum(map(bool, words)) >= 2:
            head = {
                "what": next((j for j, w in enumerate(words) if _WHAT.match(w)), -1),
                "value": next((j for j, w in enumerate(words) if _RESULT.match(w)), -1),
            }
            if min(head.values()) >= 0 and head["what"] < head["value"]:
                head["unit"] = next((j for j, w in enumerate(words) if means(w, "unit")), -1)
                head["method"] = next((j for j, w in enumerate(words) if line_word(w) == "method"), -1)
                at = head
                out.append((number, []))
                continue
        if at is None or not any(words):
            at = at if any(words) else None
            out.append((number, cells))
            continue

        def cell(key: str, cells: list[str] = cells, at: dict[str, int] = at) -> str:
            return cells[at[key]].strip() if 0 <= at[key] < len(cells) else ""

        label, method = cell("what"), method_of(cell("method"))
        if method and point_of(label, style) is None and re.search(r"%|vol|recov|evap", folded(label)):
            label = f"{method} {label}"
        out.append((number, [label, cell("value"), cell("unit")]))
    return out


def _viscosities(rows: list[Row], style: Style) -> list[Row]:
    """Write a table of viscosities at temperatures, and nothing else, as lines: viscosity at 40 degC, 7.3 cSt."""
    out: list[Row] = []
    units: tuple[int, str, int, str] | None = None
    for number, cells in rows:
        full = [j for j, c in enumerate(cells) if c.strip()]
        if len(full) == 2 and not any(entry_of(cells[j], style).is_number for j in full):
            at = next((j for j in full if means(cells[j], "temperature") and unit_in(cells[j], "temperature")), None)
            value = next(
                (
                    j
                    for j in full
                    if means(cells[j], "viscosity") and unit_in(cells[j], "kinematic_viscosity", "dynamic_viscosity")
                ),
                None,
            )
            units = None
            if at is not None and value is not None and at != value:
                units = (
                    at,
                    unit_in(cells[at], "temperature"),
                    value,
                    unit_in(cells[value], "kinematic_viscosity", "dynamic_viscosity"),
                )
                out.append((number, []))
                continue
        if (
            units is not None
            and len(full) == 2
            and all(j < len(cells) and entry_of(cells[j], style).is_number for j in (units[0], units[2]))
        ):
            out.append(
                (
                    number,
                    [f"viscosity at {cells[units[0]].strip()} {units[1]}", f"{cells[units[2]].strip()} {units[3]}"],
                )
            )
            continue
        units = None
        out.append((number, cells))
    return out


_TWO = re.compile(r"^\s*(-?\d[\d.,]*)\s*/\s*(-?\d[\d.,]*)\s*$")


def _paired(rows: list[Row], style: Style) -> list[Row]:
    """Part a column of a pressure and a temperature in one cell, ``500 / 110`` under ``psig / °F``."""
    for k, (number, cells) in enumerate(rows):
        for j, text in enumerate(cells):
            units = [u.strip() for u in re.sub(r"^.*[(\[]|[)\]]", "", text).split("/")] if text.count("/") == 1 else []
            if len(units) != 2 or not as_unit(units[0], "pressure") or not as_unit(units[1], "temperature"):
                continue
            below = [r for r in rows[k + 1 :] if j < len(r[1]) and _TWO.match(r[1][j])]
            if not below:
                continue
            out: list[Row] = []
            for place, (line, own) in enumerate(rows):
                found = _TWO.match(own[j]) if j < len(own) else None
                if line == number:
                    pair = [f"Pressure ({units[0]})", f"Temperature ({units[1]})"]
                elif found is not None and place > k:
                    pair = [found.group(1), found.group(2)]
                else:
                    pair = [own[j] if j < len(own) else "", ""]
                out.append((line, [*own[:j], *pair, *own[j + 1 :]] if j < len(own) else own))
            return out
    return rows
