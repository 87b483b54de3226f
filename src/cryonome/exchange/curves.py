"""Tables of percents and temperatures: boiling curves with what stands beside them, one sample or several side by
side, and assays by ranges."""

from __future__ import annotations

import itertools
import re

from ..document.field_types import Cell
from ..units import QuantityError, parse
from .context import Context
from .curve_properties import read_property
from .entries import entry_of, folded, point_of
from .fact import cell_of
from .facts import labelled
from .found import UNREAD
from .gathered import Gathered, complete, pressure, take
from .raw import cell_at
from .words import ATMOSPHERIC, TEMPERATURE, as_unit, basis_of, means, method_of, unit_in


def read_curves(ctx: Context) -> list[Gathered]:
    """Return the samples of a table along percents."""
    table = ctx.table
    percents = _percents(ctx)
    ctx.unit_column = next((j for j in table.columns if _holds_units(ctx, j)), None)
    temperatures = [j for j in table.columns if _is_temperature(ctx, j)]
    titled = _titles(ctx, temperatures)
    out: dict[str, Gathered] = {}
    taken: dict[str, tuple[int, str]] = {}
    for j in temperatures:
        title = titled.get(j, "")
        head = table.head(j)
        unit, assumed = _temperature_unit(ctx, j)
        if re.search(r"\btail\b|vacuum", folded(head)) and title in taken:
            one = out[title]
            one.tail = _points(ctx, j, percents, unit, "temperature")
            ctx.read(j, "temperature under vacuum", unit, assumed=assumed, sample=title)
            continue
        if title in taken:
            told = _second(ctx, j, taken[title], unit)
            ctx.read(j, UNREAD)
            ctx.note(ctx.head_row(), j, told, True)
            continue
        taken[title] = (j, unit)
        one = out.setdefault(title, Gathered(title))
        one.method = method_of(head) or method_of(title)
        if ATMOSPHERIC.search(folded(head)):
            one.pressure = "1 atm"
        elif found := re.search(r"\d+(?:[.,]\d+)?\s*(?:mm\s?hg|torr|mbar|kpa|hpa)", head, re.IGNORECASE):
            one.pressure = pressure(found.group(), ctx)
        one.points = _points(ctx, j, percents, unit, "temperature")
        ctx.read(j, "temperature", unit, assumed=assumed, sample=title)
    _basis(ctx, list(out.values()))
    if not temperatures:
        out[""] = Gathered()
        _basis(ctx, [out[""]])
    shared = next(iter(out.values()))
    for j in table.columns:
        if j not in temperatures:
            read_property(ctx, j, percents, shared)
    _sides(ctx, list(out.values()), {taken[t][0]: one for t, one in out.items() if t in taken})
    for one in out.values():
        if one.tail and not one.points:
            one.points, one.tail = one.tail, []
        complete(ctx, one, len(out) == 1)
    return [one for one in out.values() if one.points or one.curves]


def _holds_units(ctx: Context, column: int) -> bool:
    """Tell whether a column holds units of temperatures, one a row."""
    texts = [t for _, c in ctx.table.body if (t := cell_at(c, column).strip())]
    return bool(texts) and all(as_unit(t, "temperature") for t in texts)


def _percents(ctx: Context) -> list[float | None]:
    """Return the percents of the rows; fractions between 0 and 1 as percents over a hundred."""
    table = ctx.table
    texts = [cell_at(c, table.axis) for _, c in table.body]
    out = [point_of(t, ctx.style) for t in texts]
    for k, text in enumerate(texts):
        if out[k] == 100.0 and re.search(r"crack|decomp|zersetz", folded(text)):
            ctx.note(
                table.body[k][0],
                table.axis,
                f"'{text.strip()}' is where cracking began and no end of the curve; the point is not read",
                True,
            )
            out[k] = None
    numbers = [p for p, t in zip(out, texts) if p is not None and entry_of(t, ctx.style).is_number]
    marked = any("%" in t for t in texts)
    head = folded(table.head(table.axis))
    says_percent = "%" in head or "percent" in head
    if len(numbers) >= 3 and not marked and not says_percent and 0.3 <= max(numbers) <= 1.0:
        ctx.note(
            ctx.head_row(),
            table.axis,
            "percents between 0 and 1 are read as fractions of the whole, times a hundred",
            True,
        )
        out = [
            float(f"{100.0 * p:.12g}") if p is not None and entry_of(t, ctx.style).is_number else p
            for p, t in zip(out, texts)
        ]
    return out


def _basis(ctx: Context, samples: list[Gathered]) -> None:
    table = ctx.table
    head = table.head(table.axis)
    basis = (
        ctx.choice(table.axis).basis
        or basis_of(head)
        or next(
            (b for j in table.columns if (b := basis_of(table.head(j)) if means(table.head(j), "temperature") else "")),
            "",
        )
    )
    fact = ctx.last("basis") if not basis else None
    for one in samples:
        one.basis = basis or (fact.value if fact is not None else "")
        one.basis_kept = not basis and fact is not None and fact.text == fact.value
    # A method has its own basis, which a sheet need not say.
    named_method = (
        any(method_of(t) for t in (head, *ctx.titles, *(table.head(j) for j in table.columns)))
        or ctx.last("method") is not None
    )
    ctx.read(
        table.axis,
        "percent distilled",
        "%",
        basis or (fact.value if fact else ""),
        assumed=not basis and fact is None and not named_method,
    )


def _is_temperature(ctx: Context, column: int) -> bool:
    head = ctx.table.head(column)
    chosen = ctx.choice(column).meaning
    if chosen:
        return chosen == "temperature"
    if not any(ctx.entry(r, column).is_number for r in ctx.table.body):
        return False
    if (
        means(head, "density")
        or means(head, "molar_mass")
        or means(head, "viscosity")
        or re.search(r"sulph|sulf|wt\s?%|mass\s?%|ppm|nitrogen|nickel|vanad|yield|watson", folded(head))
    ):
        return False
    if means(head, "temperature") or unit_in(head, "temperature") or ATMOSPHERIC.search(folded(head)):
        return True
    # A column that only names its sample: the header of the percents, the title or the column beside says what it
    # holds.
    if re.search(r"remark|analyst|note|method|limit|spec|repeat", folded(head)):
        return False
    axis = ctx.table.head(ctx.table.axis)
    said = (
        ctx.unit_column is not None
        or bool(unit_in(axis, "temperature") or method_of(axis))
        or any(method_of(t) for t in ctx.titles)
        or not head
        or ctx.last("method") is not None
    )
    values = [e.value for r in ctx.table.body for e in (ctx.entry(r, column),) if e.is_number]
    return said and len(values) >= 2 and all(b >= a for a, b in itertools.pairwise(values))


def _titles(ctx: Context, temperatures: list[int]) -> dict[int, str]:
    """Return the sample each temperature column belongs to, where its header or the one above names one."""
    out: dict[int, str] = {}
    for j in temperatures:
        title = ctx.table.groups.get(j, "")
        if not title:
            for text in ctx.table.heads.get(j, []):
                if (
                    text
                    and not means(text, "temperature")
                    and not unit_in(text, "temperature")
                    and not basis_of(text)
                    and not method_of(text)
                    and not ATMOSPHERIC.search(folded(text))
                ):
                    title = text
                    break
        if not title and len(temperatures) > 1:
            rest = re.sub(
                r"[(\[].*?[)\]]|@?\s*\d+(?:[.,]\d+)?\s*(?:mm ?hg|torr|kpa|mbar)|\b(?:temp\w*\.?|boiling|point|deg\.?|astm|tbp|at|observed|reading|mm ?hg)\b|d-?\d+|[°º]\s*[CFK]\b|,|\b[CFKT]\b",
                " ",
                ctx.table.head(j),
                flags=re.IGNORECASE,
            )
            rest = re.sub(r"\s+", " ", rest).strip(" -:.")
            title = (
                rest
                if re.search(r"[A-Za-z]{3}|\b[A-Z]\b|\d", rest)
                and not re.search(r"vapou?r|liquid|aet|equiv|760|vacuum", rest, re.IGNORECASE)
                else ""
            )
        out[j] = title
    return out


def _temperature_unit(ctx: Context, column: int) -> tuple[str, bool]:
    chosen = ctx.choice(column).unit
    if chosen:
        return chosen, False
    head = ctx.table.head(column)
    unit = unit_in(head, "temperature") or unit_in(ctx.table.head(ctx.table.axis), "temperature")
    if not unit and all(
        as_unit(ctx.entry(r, column).unit, "temperature") for r in ctx.table.body if ctx.entry(r, column).is_number
    ):
        return "degC", False
    if not unit and ctx.unit_column is not None:
        beside = {as_unit(cell_at(c, ctx.unit_column), "temperature") for _, c in ctx.table.body} - {""}
        if len(beside) == 1:
            return beside.pop(), False
    for title in reversed(ctx.titles):
        unit = unit or unit_in(re.sub(TEMPERATURE, " ", title), "temperature")
    if unit:
        return unit, False
    ctx.note(ctx.head_row(), column, f"'{head or 'the temperatures'}' names no unit; bare numbers are read as °C", True)
    return "degC", True


def _second(ctx: Context, column: int, first: tuple[int, str], unit: str) -> str:
    """Return the sentence about another column of temperatures of the same sample, which is not read."""
    head, other = ctx.table.head(column), ctx.table.head(first[0])
    if not head:
        return f"a column without a header holds rising numbers and is not read; '{other}' is"
    if ATMOSPHERIC.search(folded(head)):
        return f"'{head}' holds the same temperatures as at one atmosphere; those of '{other}' are read"
    pairs = [(ctx.entry(r, first[0]), ctx.entry(r, column)) for r in ctx.table.body]
    try:
        same = all(
            abs(parse(a.value, "temperature", first[1]) - parse(b.value, "temperature", unit)) < 1.2
            for a, b in pairs
            if a.is_number and b.is_number
        )
    except QuantityError:
        same = False
    if same:
        return f"'{head}' holds the same temperatures in another unit; those of '{other}' are read"
    return f"'{head}' is a second column of temperatures of the same sample and is not read; '{other}' is"


def _points(ctx: Context, column: int, percents: list[float | None], unit: str, kind: str) -> list[tuple[Cell, Cell]]:
    out: list[tuple[Cell, Cell]] = []
    for row, percent in zip(ctx.table.body, percents):
        one = ctx.entry(row, column)
        if one.kind == "empty" or ctx.doubt(row, column):
            continue
        if one.kind == "absent":
            continue
        if not one.is_number:
            ctx.note(row[0], column, f"'{one.text[:40]}' is no {kind} and is not read")
        elif percent is None:
            if point_of(cell_at(row[1], ctx.table.axis), ctx.style) is None:
                ctx.note(row[0], column, f"'{one.text}' has no percent beside it")
        else:
            own = as_unit(one.unit, kind) or unit
            out.append((percent, cell_of(one.value, own)))
    return out


def _sides(ctx: Context, samples: list[Gathered], by_column: dict[int, Gathered]) -> None:
    """Read the rows below the body: one value for each of the columns of temperatures, or one for all."""
    for row in ctx.table.sides:
        label = cell_at(row[1], ctx.table.axis).strip()
        values = {j: cell_at(row[1], j).strip() for j in ctx.table.columns if cell_at(row[1], j).strip()}
        if not label and values:
            j, text = next(iter(values.items()))
            ctx.note(row[0], j, f"{text} has no percent beside it")
            continue
        for j, text in values.items():
            one = by_column.get(j)
            if one is None:
                continue
            beside = cell_at(row[1], ctx.unit_column).strip() if ctx.unit_column is not None else ""
            fact = labelled(label, text, beside, ctx.style, row[0], j)
            if fact is None or fact.what in ("unread", "place", "note"):
                if entry_of(text, ctx.style).is_number:
                    ctx.note(row[0], j, f"'{label}' with {text} is not read")
                elif point_of(label, ctx.style) is not None and entry_of(text, ctx.style).kind == "words":
                    ctx.note(row[0], j, f"'{text[:40]}' is no temperature and is not read")
            elif fact.what == "name":
                one.title = fact.value
            else:
                take(ctx, one, fact)
    # Rows between the header and the first percent, of a table whose rows are samples.
    heads = ctx.table.heads
    axis = heads.get(ctx.table.axis, [])
    for k, label in enumerate(axis):
        for j, one in by_column.items():
            text = heads.get(j, [""] * len(axis))[k] if k < len(heads.get(j, [])) else ""
            if text and label and entry_of(text, ctx.style).is_number and text != one.title:
                fact = labelled(label, text, "", ctx.style, 0, j)
                if fact is not None:
                    take(ctx, one, fact)
