"""The columns of a laboratory test: their unit, by header, cells or footnote, and their values."""

from __future__ import annotations

import re

from ..components import named
from ..document.field_types import Cell
from ..units.endings import kind_of_key
from .context import Context
from .entries import Entry, folded
from .fact import cell_of
from .found import UNREAD, Test
from .offers import words_of
from .report_words import GAS_FACTOR, RATIOS, SHARES
from .rows import Row
from .sentences import temperature_in
from .words import TEMPERATURE, as_unit, unit_in


def read_column(
    ctx: Context, test: Test, kind: str, column: int, key: str, rows: list[Row], taken: dict[str, int]
) -> None:
    head = ctx.table.head(column)
    cells = [ctx.entry(r, column) for r in rows]
    if key == "stage" or not any(e.fills for e in cells) or (not head and not key):
        if any(e.is_number for e in cells) and not head:
            ctx.note(ctx.head_row(), column, "a column without a header is not read")
        return
    if re.match(r"^(?:total|sum|summe)\b", folded(head)) and not key:
        return
    readable = (
        key
        and key not in ("ratio", "gas", "fvf", "sep_fvf", "tank", "viscosity", "gas_oil_ratio")
        and not (kind == "swelling" and key == "density_kg_m3")
    )
    if not readable or key in taken:
        ctx.read(column, UNREAD)
        second = f"; '{ctx.table.head(taken[key])}' is" if key in taken else ""
        ctx.note(ctx.head_row(), column, f"'{head}' is not read{second}")
        return
    unit = _unit(ctx, key, head, column, cells)
    if unit is None:
        ctx.read(column, UNREAD)
        return
    taken[key] = column
    values = [value_of(ctx, r, column, e, key, unit) for r, e in zip(rows, cells)]
    test.columns[key] = values
    ctx.read(column, key, unit, sample=temperature_in(head, ctx.style))


def _unit(ctx: Context, key: str, head: str, column: int, cells: list[Entry]) -> str | None:
    """Return the unit of a column, None where the column cannot be read without one."""
    chosen = ctx.choice(column).unit
    if chosen:
        return chosen
    if key.split(".", maxsplit=1)[0] in SHARES:
        return _share_unit(ctx, key, head, column, cells)
    if key == "gas_volume_factor":
        words = folded(head).replace(" ", "")
        return next((u for u in GAS_FACTOR if u in words), "")
    if key in RATIOS:
        values = [e.value for e in cells if e.is_number]
        if re.search(r"%|percent", folded(head)) and values and max(values) > 2.5:
            return "%"
        return ""
    kind = "temperature" if key == "temperature" else "gas_oil_ratio" if key == "liberated" else kind_of_key(key)[0]
    bare = head if key == "temperature" else re.sub(TEMPERATURE, " ", head)
    unit = unit_in(bare, kind) or next((u for e in cells if (u := as_unit(e.unit, kind))), "")
    if not unit and kind == "gas_oil_ratio":
        unit = _by_footnote(ctx, head)
    if unit or not kind:
        return unit
    if kind == "density":
        values = [e.value for e in cells if e.is_number]
        words = folded(head)
        if "api" in words:
            return "degAPI"
        if values and (max(values) < 2.0 or min(values) > 200.0):
            unit = "g/cm**3" if max(values) < 2.0 else "kg/m**3"
            ctx.note(
                ctx.head_row(),
                column,
                f"'{head}' names no unit; its values are read as {'g/cm³' if max(values) < 2 else 'kg/m³'}",
                True,
            )
            return unit
    ctx.note(
        ctx.head_row(),
        column,
        f"'{head}': {words_of(key)} needs its unit; write it in the header. The column is not read",
    )
    return None


_GAS_BY_OIL = (
    ("scf/bbl", r"(?:cubic f(?:ee|oo)t|cu\.? ?ft|scf)\b.*\bper\b.*\b(?:barrel|bbl|stb)"),
    ("sm3/m**3", r"(?:cubic met\w+|m3|sm3)\b.*\bper\b.*(?:cubic met\w+|m3|sm3)"),
)


def _by_footnote(ctx: Context, head: str) -> str:
    """Return the unit of a gas-oil ratio that a footnote of its header spells out."""
    for mark in re.findall(r"\((\d|[a-z]|\*+)\)", head):
        words = folded(ctx.footnotes.get(mark, ""))
        unit = next((u for u, pattern in _GAS_BY_OIL if re.search(pattern, words)), "")
        if unit:
            return unit
    return ""


def _share_unit(ctx: Context, key: str, head: str, column: int, cells: list[Entry]) -> str | None:
    words = folded(head)
    values = [e.value for e in cells if e.is_number]
    if re.search(r"%|percent|prozent|pourcent|porcent|\bpct\b", words) or any(e.unit.startswith("%") for e in cells):
        return "%"
    if key.startswith("gas."):
        basis = ctx.last("basis")
        if basis is not None and re.search(r"%|percent", folded(basis.text)):
            return "%"
        if values and max(values) > 1.0:
            ctx.note(
                ctx.head_row(),
                column,
                f"'{head}' names no unit; its values are above 1 and are read as mole percents",
                True,
            )
            return "%"
        others = [
            ctx.entry(r, j).value
            for r in ctx.table.body[:1]
            for j in ctx.table.columns
            if ctx.entry(r, j).is_number and named(ctx.table.head(j)) is not None
        ]
        return "%" if others and sum(others) > 2.0 else ""
    if values and max(values) > 1.0:
        ctx.note(
            ctx.head_row(), column, f"'{head}' names no unit; its values are above 1 and are read as percents", True
        )
        return "%"
    if not re.search(r"frac|np/n|/v|mole?/mole?|ratio|\bsl\b", words) and values and max(values) > 0.0:
        ctx.note(ctx.head_row(), column, f"'{head}' names no unit; its values are read as fractions", True)
    return ""


def value_of(ctx: Context, row: Row, column: int, one: Entry, key: str, unit: str) -> Cell:
    if one.kind in ("empty", "absent") or ctx.doubt(row, column):
        return None
    if not one.is_number:
        ctx.note(row[0], column, f"'{one.text[:40]}' is no value of {words_of(key)} and is not read")
        return None
    if key.split(".", maxsplit=1)[0] in SHARES or (key in RATIOS and unit == "%"):
        return float(f"{one.value / 100.0:.12g}") if unit == "%" or one.unit == "%" else one.value
    if key == "gas_volume_factor" and unit:
        return float(f"{one.value * GAS_FACTOR[unit]:.9g}")
    if key in RATIOS or key == "gas_volume_factor":
        return one.value
    kind = "temperature" if key == "temperature" else "gas_oil_ratio" if key == "liberated" else kind_of_key(key)[0]
    own = as_unit(one.unit, kind) if kind else ""
    return cell_of(one.value, own or unit)
