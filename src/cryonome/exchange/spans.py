"""Assays by boiling ranges: yields to points at the ends of the ranges, properties at their middles."""

from __future__ import annotations

import itertools
import re

from ..document.field_types import Cell
from .context import Context
from .curve_properties import quantity_column
from .entries import Entry, folded, span_of
from .fact import cell_of
from .found import UNREAD
from .gathered import Gathered, complete
from .raw import cell_at
from .rows import Row
from .words import as_unit, basis_of, means, unit_in


def read_spans(ctx: Context) -> list[Gathered]:
    """Return the sample of a table of boiling ranges with their yields; the points stand at the ends of the ranges,
    properties at their middles."""
    table = ctx.table
    rows = sorted([*table.body, *[r for r in table.sides if r[0] < table.body[-1][0]]], key=lambda r: r[0])
    shares = [j for j in table.columns if _is_share(ctx, j)]
    cumulative = next((j for j in shares if means(table.head(j), "cumulative") or _rises_to_100(ctx, j)), None)
    single = next((j for j in shares if j != cumulative), None)
    if cumulative is None and single is None:
        return []
    one = Gathered()
    unit = unit_in(table.head(table.axis), "temperature") or next(
        (u for t in reversed(ctx.titles) if (u := unit_in(t, "temperature"))), ""
    )
    if not unit:
        unit = "degC"
        ctx.note(
            ctx.head_row(), table.axis, f"'{table.head(table.axis)}' names no unit; the ranges are read as °C", True
        )
    ctx.read(table.axis, "boiling range", unit)
    ends = _cumulated(ctx, rows, cumulative, single)
    source = cumulative if cumulative is not None else single
    assert source is not None
    one.basis = (
        ctx.choice(source).basis or basis_of(table.head(source)) or (f.value if (f := ctx.last("basis")) else "")
    )
    for j in (cumulative, single):
        if j is not None:
            ctx.read(
                j, "cumulative yield" if j == cumulative else "yield of the cut", "%", one.basis, assumed=not one.basis
            )
    if not one.basis:
        one.basis = "mass"
        ctx.note(ctx.head_row(), source, "nothing says on which basis the yields are; mass % is assumed", True)
    before = 0.0
    middles: list[tuple[Row, float]] = []
    for row, end in zip(rows, ends):
        span = span_of(cell_at(row[1], table.axis), ctx.style)
        if end is None:
            continue
        if span is not None:
            own = as_unit(span.unit, "temperature") or unit
            if span.low is not None and not one.points:
                one.points.append((before, cell_of(span.low, own)))
            if span.high is not None and end < 100.0 + 1e-9:
                one.points.append((end, cell_of(span.high, own)))
            middles.append((row, float(f"{0.5 * (before + end):.10g}")))
        before = end
    for j in table.columns:
        if j in (cumulative, single):
            continue
        _span_property(ctx, j, middles, one)
    complete(ctx, one, True)
    one.method = one.method or "TBP"
    return [one] if len(one.points) >= 2 else []


def _is_share(ctx: Context, column: int) -> bool:
    head = ctx.table.head(column)
    if ctx.choice(column).meaning:
        return "yield" in ctx.choice(column).meaning
    if (
        means(head, "density")
        or means(head, "molar_mass")
        or re.search(r"sulph|sulf|nitrog|ppm|wax|ccr|residue", folded(head))
    ):
        return False
    return (means(head, "yield") or means(head, "cumulative") or bool(basis_of(head)) or "%" in head) and any(
        ctx.entry(r, column).is_number for r in ctx.table.body
    )


def _rises_to_100(ctx: Context, column: int) -> bool:
    values = [e.value for r in ctx.table.body for e in (ctx.entry(r, column),) if e.is_number]
    return len(values) >= 3 and all(b >= a for a, b in itertools.pairwise(values)) and 95.0 <= values[-1] <= 101.0


def _cumulated(ctx: Context, rows: list[Row], cumulative: int | None, single: int | None) -> list[float | None]:
    out: list[float | None] = []
    total = 0.0
    for row in rows:
        if cumulative is not None:
            one = ctx.entry(row, cumulative)
            out.append(one.value if one.is_number else None)
            continue
        assert single is not None
        one = ctx.entry(row, single)
        total += one.value if one.is_number else 0.0
        out.append(float(f"{total:.10g}") if one.is_number else None)
    return out


def _span_property(ctx: Context, column: int, middles: list[tuple[Row, float]], one: Gathered) -> None:
    head = ctx.table.head(column)
    chosen = ctx.choice(column).meaning
    if chosen == UNREAD or not head or not any(ctx.entry(r, column).is_number for r, _ in middles):
        if head:
            ctx.read(column, UNREAD)
        return
    meaning = chosen or (
        "density"
        if means(head, "density")
        else "molar mass"
        if means(head, "molar_mass")
        else "viscosity"
        if means(head, "viscosity")
        else "quantity"
    )
    key, unit, assumed = quantity_column(ctx, column, head, meaning if meaning != "quantity" else "", one)
    points: list[tuple[Cell, Cell]] = []
    for row, middle in middles:
        e: Entry = ctx.entry(row, column)
        if e.is_number:
            points.append((middle, e.value if key.startswith("quantity") else cell_of(e.value, unit)))
    one.curves[key] = points
    ctx.read(column, f"{meaning} of the cut", unit, assumed=assumed)
