"""Tables of percents and temperatures: boiling curves with what stands beside them, one sample or several side by side, and assays by ranges."""

from __future__ import annotations

import itertools
import re
from dataclasses import dataclass, field

from ..characterization.methods import METHODS, TWO_PART
from ..constants import ATM
from ..document import Sample
from ..document.field_types import Cell
from ..document.model import Bulk, Curves, Distillation, Quantity, Tail, ViscosityCurve
from ..units import QuantityError, parse
from .context import Context
from .entries import Entry, entry_of, folded, point_of, span_of, title_and_unit
from .facts import Fact, cell_of, labelled, temperature_in
from .found import UNREAD
from .grids import cell_at
from .rows import Row
from .words import ATMOSPHERIC, TEMPERATURE, as_unit, basis_of, means, method_of, unit_in


@dataclass
class Gathered:
    """What is gathered of one sample."""

    title: str = ""
    method: str = ""
    basis: str = ""
    basis_kept: bool = False
    """Whether a line of its own gives the basis, so that it is kept also where it is the method's usual one."""
    pressure: str = ""
    points: list[tuple[Cell, Cell]] = field(default_factory=list)
    curves: dict[str, list[tuple[Cell, Cell]]] = field(default_factory=dict)
    units: dict[str, str] = field(default_factory=dict)
    whole: dict[str, Cell] = field(default_factory=dict)
    viscosity: list[tuple[Cell, Cell]] = field(default_factory=list)
    loss: float | None = None
    residue: float | None = None
    recovered: float | None = None
    tail: list[tuple[Cell, Cell]] = field(default_factory=list)
    tail_pressure: str = ""


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
            one.pressure = _pressure(found.group(), ctx)
        one.points = _points(ctx, j, percents, unit, "temperature")
        ctx.read(j, "temperature", unit, assumed=assumed, sample=title)
    _basis(ctx, list(out.values()))
    if not temperatures:
        out[""] = Gathered()
        _basis(ctx, [out[""]])
    shared = next(iter(out.values()))
    for j in table.columns:
        if j not in temperatures:
            _property(ctx, j, percents, shared)
    _sides(ctx, list(out.values()), {taken[t][0]: one for t, one in out.items() if t in taken})
    for one in out.values():
        if one.tail and not one.points:
            one.points, one.tail = one.tail, []
        _facts(ctx, one, len(out) == 1)
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
    # A column that only names its sample: the header of the percents, the title or the column beside says what it holds.
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


# -- properties beside the temperatures -------------------------------------------------------------------------------------


def _property(ctx: Context, column: int, percents: list[float | None], one: Gathered) -> None:
    head = ctx.table.head(column)
    chosen = ctx.choice(column)
    meaning = chosen.meaning or (
        "density"
        if means(head, "density")
        else "molar mass"
        if means(head, "molar_mass")
        else "viscosity"
        if means(head, "viscosity")
        else ""
    )
    texts = [cell_at(c, column) for _, c in ctx.table.body if cell_at(c, column).strip()]
    if texts and all(as_unit(t, "temperature") for t in texts):
        ctx.read(column, "unit of the row")
        return
    if not any(ctx.entry(r, column).is_number for r in ctx.table.body) or meaning == UNREAD:
        if head or meaning == UNREAD:
            ctx.read(column, UNREAD)
        for row in ctx.table.body if not meaning else ():
            text = cell_at(row[1], column).strip()
            if text and (not head or re.search(r"\d", text)):
                ctx.note(row[0], column, f"'{text[:40]}' is not read")
        return
    if not head and not meaning:
        ctx.read(column, UNREAD)
        ctx.note(ctx.head_row(), column, "a column without a header is not read")
        return
    if (
        not meaning
        and (means(head, "cumulative") or re.search(r"distill|recover|evapor", folded(head)))
        and (basis_of(head) or "%" in head)
    ):
        ctx.read(column, UNREAD)
        ctx.note(
            ctx.head_row(),
            column,
            f"'{head}' is a second column of percents and is not read; '{ctx.table.head(ctx.table.axis)}' is",
        )
        return
    key, unit, assumed = quantity_column(ctx, column, head, meaning, one)
    if not key:
        ctx.read(column, UNREAD)
        return
    if _of_cuts(ctx, head):
        percents = _middles(percents)
        ctx.note(
            ctx.head_row(),
            column,
            f"'{head}' is of the cut that ends at each row; its values stand at the middles of the cuts",
            True,
        )
    kind = {"density": "density", "molar mass": "molar_mass"}.get(meaning, "")
    points: list[tuple[Cell, Cell]] = []
    for row, percent in zip(ctx.table.body, percents):
        e = ctx.entry(row, column)
        if e.is_number and percent is not None and not ctx.doubt(row, column):
            own = as_unit(e.unit, kind) if kind and e.unit else ""
            points.append(
                (percent, cell_of(e.value, own or unit) if unit and not key.startswith("quantity") else e.value)
            )
    one.curves[key] = points
    ctx.read(column, meaning or "quantity", unit, assumed=assumed)


def _of_cuts(ctx: Context, head: str) -> bool:
    """Tell whether a property is that of the cut between two rows rather than of the point."""
    return re.search(
        r"of (?:the )?cut|\bcut (?:dens|sg|api|grav)|per cut|fraction (?:dens|sg)|of (?:the )?fraction|der fraktion|de la coupe",
        folded(head),
    ) is not None and not means(ctx.table.head(ctx.table.axis), "mid")


def _middles(percents: list[float | None]) -> list[float | None]:
    """Return the middles between each percent and the one before it, the first from nothing."""
    out: list[float | None] = []
    before = 0.0
    for percent in percents:
        out.append(None if percent is None else float(f"{0.5 * (before + percent):.10g}"))
        before = before if percent is None else percent
    return out


def quantity_column(ctx: Context, column: int, head: str, meaning: str, one: Gathered) -> tuple[str, str, bool]:
    """Return where a property column goes, its unit, and whether that is assumed; "" where it is not read."""
    bare = re.sub(TEMPERATURE, " ", head)
    chosen = ctx.choice(column).unit
    if meaning == "density":
        unit = chosen or unit_in(bare, "density")
        words = folded(head)
        if not unit:
            values = [ctx.entry(r, column).value for r in ctx.table.body if ctx.entry(r, column).is_number]
            if "api" in words:
                unit = "degAPI"
            elif re.search(r"specific|\bs\.?g\b|sp\.? ?gr|relative", words):
                unit = "SG"
            else:
                unit = "kg/m**3" if max(values) > 150 else "g/cm**3"
                ctx.note(
                    ctx.head_row(),
                    column,
                    f"'{head}' names no unit; bare numbers are read as {'kg/m³' if unit == 'kg/m**3' else 'g/cm³'}",
                    True,
                )
                return "density", unit, True
        return "density", unit, False
    if meaning == "molar mass":
        return "molar_mass", chosen or unit_in(bare, "molar_mass") or "g/mol", False
    if meaning == "viscosity":
        unit = chosen or unit_in(bare, "kinematic_viscosity", "dynamic_viscosity")
        at = temperature_in(head, "point")
        if not unit:
            unit = "cSt"
            ctx.note(ctx.head_row(), column, f"'{head}' names no unit; bare numbers are read as cSt", True)
        if not at:
            at = "40 degC"
            ctx.note(ctx.head_row(), column, f"'{head}' names no temperature; it is taken as at 40 °C", True)
        return f"viscosity {at}", unit, not at
    inside = re.search(r"[(\[]([^()\[\]]*)[)\]]\s*$", head)
    unit = inside.group(1).strip() if inside else ""
    name = head[: inside.start()].strip() if inside else head
    told = re.search(r",?\s+(wt\.? ?%|mass ?%|vol\.? ?%|mol ?%|% ?m/m|ppm\w*|mg/kg|%)$", name, re.IGNORECASE)
    if not unit and told:
        unit, name = told.group(1), name[: told.start()].strip(" ,")
    assumed = not unit
    if assumed:
        unit = "mass%"
        ctx.note(ctx.head_row(), column, f"'{head}' is read as a quantity in mass%", True)
    one.units[name] = {"% m/m": "mass%", "%": "mass%"}.get(unit.casefold(), unit)
    return f"quantity {name}", one.units[name], assumed


# -- lines and sides ------------------------------------------------------------------------------------------------------


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
            elif fact.what == "name":
                one.title = fact.value
            else:
                _take(ctx, one, fact)
    # Rows between the header and the first percent, of a table whose rows are samples.
    heads = ctx.table.heads
    axis = heads.get(ctx.table.axis, [])
    for k, label in enumerate(axis):
        for j, one in by_column.items():
            text = heads.get(j, [""] * len(axis))[k] if k < len(heads.get(j, [])) else ""
            if text and label and entry_of(text, ctx.style).is_number and text != one.title:
                fact = labelled(label, text, "", ctx.style, 0, j)
                if fact is not None:
                    _take(ctx, one, fact)


def _take(ctx: Context, one: Gathered, fact: Fact) -> None:
    """Put a fact into a sample."""
    if fact.assumed:
        ctx.note_fact(fact, fact.assumed, True)
    if fact.what in ("density", "molar_mass", "watson_k"):
        if fact.what == "watson_k" or _valid(fact.value, fact.what):
            one.whole[fact.what] = float(fact.value) if fact.what == "watson_k" else fact.value
    elif fact.what == "viscosity":
        one.viscosity.append((fact.at, fact.value))
    elif fact.what in ("initial", "final"):
        if _valid(fact.value, "temperature"):
            one.whole[fact.what] = fact.value
    elif fact.what in ("loss", "residue", "recovery"):
        value = entry_of(fact.value, "point").value
        if fact.what == "loss":
            one.loss = value
        elif fact.what == "residue":
            one.residue = value
        else:
            one.recovered = value
    elif fact.what == "method":
        one.method = one.method or fact.value
    elif fact.what == "basis":
        one.basis = one.basis or fact.value
    elif fact.what == "pressure":
        one.pressure = one.pressure or _near_atmosphere(fact.value)


def _valid(value: str, kind: str) -> bool:
    try:
        parse(value, kind)
    except QuantityError:
        return False
    return not (kind == "density" and value.replace(".", "").isdigit())


def _near_atmosphere(value: str) -> str:
    """Return a pressure a distillation can have been made at, "" for any other."""
    try:
        return value if 1.0 <= parse(value, "pressure") <= 1.1 * ATM and any(c.isalpha() for c in value) else ""
    except QuantityError:
        return ""


def _pressure(text: str, ctx: Context) -> str:
    one = entry_of(text, ctx.style)
    unit = as_unit(one.unit, "pressure")
    return _near_atmosphere(cell_of(one.value, unit)) if unit else ""


def _facts(ctx: Context, one: Gathered, alone: bool) -> None:
    """Complete a sample by what the lines around its table say."""
    axis = ctx.table.head(ctx.table.axis)
    method = ctx.last("method")
    one.method = one.method or method_of(axis) or (method.value if method else "") or method_of(ctx.sheet)
    whats = (
        ("density", "molar_mass", "watson_k", "initial", "final", "loss", "residue", "recovery", "pressure")
        if alone
        else ("pressure",)
    )
    for what in whats:
        fact = ctx.last(what)
        if fact is not None and what not in one.whole:
            _take(ctx, one, fact)
    if alone:
        for fact in ctx.all("viscosity"):
            _take(ctx, one, fact)
    if alone:
        for fact in ctx.all("whole_quantity"):
            name, unit = title_and_unit(fact.text)
            one.whole[f"quantity {name}"] = float(fact.value)
            one.units.setdefault(name, unit or "mass%")
    if one.tail:
        vacuum = ctx.last("tail_pressure")
        one.tail_pressure = vacuum.value if vacuum is not None else "10 mmHg"
        one.method = TWO_PART if one.method in ("", "D86", "D1160", TWO_PART) else one.method
    if not one.method:
        reported = (
            one.loss is not None
            or one.residue is not None
            or any(
                re.search(r"recover|flash point|cetane", folded(t))
                for t in [axis, *ctx.titles, *[f.text for f in ctx.facts]]
            )
        )
        one.method = "D86" if reported else "D2887" if one.basis == "mass" and len(one.points) > 25 else "TBP"
        ctx.note(ctx.head_row(), ctx.table.axis, f"no method is named; the curve is read as {one.method}", True)
    if one.pressure and one.pressure != "1 atm" and one.method in ("D2887", "EFV"):
        one.pressure = ""
    if one.pressure and one.method in ("D86", "TBP") and abs(parse(one.pressure, "pressure") / ATM - 1.0) < 0.005:
        one.pressure = ""


# -- assays by ranges -----------------------------------------------------------------------------------------------------


def read_spans(ctx: Context) -> list[Gathered]:
    """Return the sample of a table of boiling ranges with their yields; the points stand at the ends of the ranges, properties at their middles."""
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
    _facts(ctx, one, True)
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


# -- samples --------------------------------------------------------------------------------------------------------------


def sample_of(one: Gathered, name: str) -> Sample:
    """Return a gathered sample as the document keeps it."""
    basis = one.basis or None
    if basis == METHODS[one.method].basis and not one.basis_kept:
        basis = None
    points = one.points
    if all(isinstance(p, (int, float)) for p, _ in points):
        points = sorted(points, key=lambda p: float(p[0] or 0.0))
    own = one.curves
    names = list(dict.fromkeys(k.removeprefix("quantity ") for k in (*own, *one.whole) if k.startswith("quantity ")))
    return Sample(
        name=name,
        distillation=Distillation(
            method=one.method, tail=Tail(pressure=one.tail_pressure, points=tuple(one.tail)) if one.tail else None, basis=basis, pressure=one.pressure or None, points=tuple(points), loss=one.loss,
            residue=one.residue, initial=one.whole.get("initial"), final=one.whole.get("final"),
        ),
        bulk=Bulk(
            density=one.whole.get("density"), molar_mass=one.whole.get("molar_mass"), watson_k=one.whole.get("watson_k"), viscosity=tuple(one.viscosity),
        ),
        curves=Curves(
            density=tuple(own.get("density", ())), molar_mass=tuple(own.get("molar_mass", ())),
            viscosity=tuple(ViscosityCurve(at=k.removeprefix("viscosity "), points=tuple(p)) for k, p in own.items() if k.startswith("viscosity ")),
            quantities=tuple(Quantity(name=n, unit=one.units.get(n, "mass%"), bulk=one.whole.get(f"quantity {n}"), points=tuple(own.get(f"quantity {n}", ()))) for n in names),
        ),
    )  # fmt: skip
