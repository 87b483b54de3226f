"""Laboratory tests that have no steps of pressure: saturation pressures by temperature, and swelling by the gas that
is added."""

from __future__ import annotations

import re

from ..document.field_types import Cell
from .context import Context
from .entries import folded
from .fact import cell_of
from .found import UNREAD, Test
from .report_ends import conditions
from .report_values import read_column, value_of
from .report_words import match_key
from .words import as_unit, means, unit_in


def saturations(ctx: Context) -> list[Test]:
    """Return a saturation pressure for each row of temperatures and pressures."""
    table = ctx.table
    columns = [table.axis, *table.columns]
    at = next((j for j in columns if re.search(r"temp|^t\b", folded(table.head(j)))), None)
    pressure = next(
        (j for j in columns if j != at and (means(table.head(j), "pressure") or means(table.head(j), "saturated"))),
        None,
    )
    if at is None or pressure is None:
        return []
    units = {
        j: ctx.choice(j).unit or unit_in(table.head(j), kind)
        for j, kind in ((at, "temperature"), (pressure, "pressure"))
    }
    if not all(units.values()):
        ctx.note(ctx.head_row(), pressure, "pressure needs its unit; write it in the header, as the temperature does")
        return []
    ctx.read(at, "temperature", units[at])
    ctx.read(pressure, "pressure", units[pressure])
    dew = (
        re.search(r"\bdew|rosee|rocio|taupunkt|orvalho", folded(table.head(pressure) + " " + " ".join(ctx.titles)))
        is not None
    )
    out = []
    for row in table.body:
        t, p = ctx.entry(row, at), ctx.entry(row, pressure)
        if t.is_number and p.is_number:
            own = as_unit(p.unit, "pressure") or units[pressure]
            out.append(
                Test("saturation", "", cell_of(t.value, units[at]), {"pressure": cell_of(p.value, own)}, dew=dew)
            )
    return out


def swelling(ctx: Context) -> list[Test]:
    table = ctx.table
    columns = [table.axis, *table.columns]
    gas = next((j for j in columns if means(table.head(j), "injected") and not means(table.head(j), "pressure")), None)
    pressure = next(
        (
            j
            for j in columns
            if means(table.head(j), "pressure")
            or (means(table.head(j), "saturated") and unit_in(table.head(j), "pressure"))
        ),
        None,
    )
    if gas is None or pressure is None:
        return []
    head = table.head(gas)
    words = folded(head)
    mixture = re.search(
        r"mixture|of total|total|gemisch|melange|mezcla|%|percent|frac", words
    ) is not None and not re.search(
        r"per mol\w* (?:of )?(?:oil|original|fluid|res)|of (?:original|initial|reservoir) (?:oil|fluid)", words
    )
    if unit_in(head, "gas_oil_ratio") and "mol" not in words:
        ctx.read(gas, UNREAD)
        ctx.note(
            ctx.head_row(),
            gas,
            f"'{head}' is a volume of gas; the moles it is of cannot be told without the oil's molar volume, so the test is not read. Write mol of gas per mol of oil",
        )
        return []
    rows = [r for r in table.body if ctx.entry(r, gas).is_number]
    values = [ctx.entry(r, gas).value for r in rows]
    percent = re.search(r"%|percent|prozent", words) is not None or (mixture and max(values, default=0.0) > 1.0)
    moles: list[Cell] = []
    for value in values:
        share = value / 100.0 if percent else value
        moles.append(float(f"{share / (1.0 - share):.8g}") if mixture and share < 1.0 else float(f"{share:.10g}"))
    ctx.read(gas, "gas of the mixture" if mixture else "gas per mole of fluid", "%" if percent else "mol/mol")
    if mixture:
        ctx.note(
            ctx.head_row(), gas, f"'{head}' is of the mixture; x/(1 - x) moles of gas a mole of fluid are taken", True
        )
    elif not re.search(r"per|/|mol", words):
        ctx.note(ctx.head_row(), gas, f"'{head}' is read as moles of gas a mole of fluid", True)
    test = Test("swelling", ctx.titles[-1] if ctx.titles else "")
    unit = ctx.choice(pressure).unit or unit_in(table.head(pressure), "pressure")
    if not unit:
        ctx.note(
            ctx.head_row(),
            pressure,
            "pressure needs its unit; write it in the header, for example Saturation pressure (psia)",
        )
        return []
    ctx.read(pressure, "saturation_pressure_Pa", unit)
    test.columns = {"gas_moles": moles, "pressure": [""] * len(rows)}
    test.columns["saturation_pressure_Pa"] = [
        value_of(ctx, r, pressure, ctx.entry(r, pressure), "saturation_pressure_Pa", unit) for r in rows
    ]
    taken: dict[str, int] = {}
    for j in columns:
        if j not in (gas, pressure):
            read_column(ctx, test, "swelling", j, match_key("swelling", table.head(j)), rows, taken)
    conditions(ctx, test, "", [])
    del test.columns["pressure"]
    return [test]
