"""Tables of laboratory tests: expansions, depletions, liberations, separators, swelling and viscosities, in every
usual layout.

Which test a table is, its title says, else its columns. A column is read only where its header names one quantity of
the test and its unit fits that quantity; all others are listed as not read."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from ..document.field_types import Cell
from .context import Context
from .entries import folded
from .fact import cell_of
from .found import Test
from .report_ends import conditions, liberated, of_total, side, total
from .report_others import saturations, swelling
from .report_values import read_column
from .report_words import COLUMNS, key_of_column, kind_by_words, match_key
from .rows import Row
from .sentences import temperature_in
from .words import as_unit, means, unit_in


def read_tests(ctx: Context) -> list[Test]:
    """Return the tests of a table of numbers: one, or several at temperatures side by side."""
    kind = _kind(ctx)
    if not kind or kind == "saturation":
        return saturations(ctx) if kind else []
    if kind == "swelling":
        return swelling(ctx)
    axis, unit = _axis(ctx, kind)
    if axis is None:
        return []
    heads = {j: key_of_column(ctx, kind, j) for j in ctx.table.columns if j != axis}
    temperatures = {
        j: t
        for j in heads
        if (t := temperature_in(ctx.table.head(j), ctx.style))
        and heads[j] not in ("temperature", "density_kg_m3", "oil_density_kg_m3")
    }
    groups: list[tuple[str, list[int]]]
    if len(set(temperatures.values())) > 1:
        groups = [(t, [j for j in heads if temperatures.get(j) == t]) for t in dict.fromkeys(temperatures.values())]
    else:
        groups = [(next(iter(temperatures.values()), ""), list(heads))]
    tests = [_test(ctx, kind, axis, unit, columns, heads, t) for t, columns in groups]
    return [t for t in tests if t.columns.get("pressure")]


def _kind(ctx: Context) -> str:
    table = ctx.table
    own = ctx.choice(table.axis).meaning
    if own in COLUMNS:
        return own
    scores = {kind: len({k for j in table.columns if (k := match_key(kind, table.head(j)))}) for kind in COLUMNS}
    heads = " ".join(folded(table.head(j)) for j in (table.axis, *table.columns))
    named_ = kind_by_words(ctx.titles)
    # A title whose columns are there says more than a word of theirs.
    titled = named_ not in ("", "swelling") and scores.get(named_, 0) >= 2
    if not titled and means(heads, "injected") and re.search(r"swell|satur|volume", heads):
        return "swelling"
    columns = [folded(table.head(j)) for j in (table.axis, *table.columns)]
    if (
        len(columns) >= 2
        and (named_ == "saturation" or any(means(c, "saturated") for c in columns))
        and any(re.search(r"temp|^t\b", c) for c in columns)
        and not any(scores.values())
    ):
        return "saturation"
    if named_ == "saturation":
        named_ = ""
    if re.search(r"stage|stufe|etapa|etage", heads) or (
        re.search(r"\bgor\b|gas.?[/-]?oil", heads) and re.search(r"temp|\bt\b", heads)
    ):
        named_ = named_ if named_ == "separators" else "separators" if scores["separators"] else named_
    if named_ and (scores.get(named_, 0) or named_ in ("depletion",)):
        return named_
    by_sheet = kind_by_words([ctx.sheet, ctx.name])
    if by_sheet and scores.get(by_sheet, 0):
        return by_sheet
    guess = max(scores, key=lambda k: scores[k])
    if not scores[guess]:
        return ""
    keys = {k for j in table.columns if (k := match_key(guess, table.head(j)))}
    if {"viscosity_Pa_s"} >= keys - {"ratio", "gas"}:
        guess = "viscosity"
    if scores[guess] < 2 and keys <= {"density_kg_m3", "oil_density_kg_m3", "ratio", "gas"}:
        return ""
    ctx.note(ctx.head_row(), table.axis, f"no line names the test; its columns are those of a test of {guess}", True)
    return guess


def _axis(ctx: Context, kind: str) -> tuple[int | None, str]:
    """Return the column of pressures and their unit; "" is told where the sheet names none."""
    table = ctx.table
    column = table.axis
    if not means(table.head(column), "pressure"):
        found = next((j for j in table.columns if means(table.head(j), "pressure")), None)
        if found is None:
            return None, ""
        column = found
    unit = ctx.choice(column).unit or unit_in(table.head(column), "pressure")
    if not unit:
        unit = next((u for r in table.body if (u := as_unit(ctx.entry(r, column).unit, "pressure"))), "")
    if not unit:
        unit = next((u for t in reversed(ctx.titles) if (u := unit_in(t, "pressure"))), "")
        if unit:
            ctx.note(
                ctx.head_row(),
                column,
                f"the pressures have no unit of their own; {unit}, which a line above names, is assumed",
                True,
            )
    if not unit:
        ctx.note(ctx.head_row(), column, "pressure needs its unit; write it in the header, for example Pressure (psia)")
    ctx.read(column, "pressure", unit, assumed=not unit)
    return (column, unit) if unit else (None, "")


def _test(
    ctx: Context, kind: str, axis: int, unit: str, columns: list[int], heads: dict[int, str], temperature: str
) -> Test:
    test = Test(kind, ctx.titles[-1] if ctx.titles else "")
    sides = [r for r in ctx.table.sides if not _is_total(r)]
    rows = [r for r in ctx.table.body if not ctx.doubt(r, axis)]
    pressures: list[Cell] = []
    marked: list[int] = []
    for k, row in enumerate(rows):
        one = ctx.entry(row, axis)
        own = as_unit(one.unit, "pressure") or unit
        pressures.append(cell_of(one.value, own))
        remark = " ".join((one.lead, one.mark, "" if as_unit(one.unit, "pressure") else one.unit))
        if means(remark, "saturated") or (one.mark.startswith("*") and kind == "expansion"):
            marked.append(k)
        test.dew = test.dew or bool(re.search(r"dew|rosee|rocio|tau", folded(remark)))
    test.columns["pressure"] = pressures
    taken: dict[str, int] = {}
    # Of two gas-oil ratios the one by stock-tank oil is the test's.
    by_tank = [
        j
        for j in columns
        if heads[j] == "gas_oil_ratio_m3_m3" and re.search(r"stb|stock|tank|sto\b|residual", folded(ctx.table.head(j)))
    ]
    for j in sorted(columns, key=lambda j: (j not in by_tank, j)):
        if kind == "separators" and heads[j] in ("tank", "fvf") and _whole_of_column(ctx, test, j, heads[j], rows):
            continue
        read_column(ctx, test, kind, j, heads[j], rows, taken)
    liberated(ctx, test)
    of_total(ctx, test)
    for row in sides:
        side(ctx, test, row, columns, axis)
    for row in ctx.table.sides:
        if _is_total(row) and kind == "separators":
            total(ctx, test, row, heads)
    conditions(ctx, test, temperature, marked)
    return test


def _whole_of_column(ctx: Context, test: Test, column: int, key: str, rows: list[Row]) -> bool:
    """Take the single value of a column of separators, the tank's oil or the volume factor of all stages; tell
    whether there was one."""
    values = [e for r in rows for e in (ctx.entry(r, column),) if e.is_number]
    if len(values) != 1:
        return False
    if key == "fvf":
        test.singles["oil_volume_factor"] = values[0].value
        ctx.read(column, "volume factor of the oil")
        return True
    unit = (
        "degAPI"
        if "api" in folded(ctx.table.head(column))
        else unit_in(ctx.table.head(column), "density") or as_unit(values[0].unit, "density")
    )
    if unit == "degAPI":
        test.singles["api"] = values[0].value
    elif unit:
        test.singles["tank_density_kg_m3"] = cell_of(values[0].value, unit)
    ctx.read(column, "density of the tank's oil", unit)
    return bool(unit)


def _is_total(row: Row) -> bool:
    return any(re.match(r"(?:total|sum|summe|somme|suma)\b", folded(c)) for c in row[1][:2])


def with_temperature(tests: Sequence[Test]) -> list[Test]:
    """Return tests with a temperature where one of the same report has one."""
    known = next((t.temperature for t in tests if t.temperature), None)
    return [t if t.temperature else replace(t, temperature=known) for t in tests]
