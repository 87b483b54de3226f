"""Tables of component names and amounts: fluids, or carbon-number samples where they have a heavy end.

The basis of the amounts is what the header, the units row, the title or the cell says; where nothing says it, it is
assumed and told."""

from __future__ import annotations

import re
from dataclasses import replace

from ..characterization.carbon_analysis import Group, group_properties
from ..components import find, named
from .amounts import BASES, PPM, Amounts, Composition, Line, amount_columns, leaf_rows, read_percents
from .context import Context
from .entries import folded
from .fact import cell_of
from .found import UNREAD
from .raw import cell_at
from .rows import Row
from .words import as_unit, basis_of, means, unit_in


def read_compositions(ctx: Context) -> list[Composition]:
    """Return the compositions of a table of names, those of samples side by side apart."""
    table = ctx.table
    german = any(
        re.search(r"stickstoff|methan\b|ethan\b|propan\b|kohlen", folded(cell_at(c, table.axis))) for _, c in table.body
    ) or re.search(r"komponente|bestandteil", folded(table.head(table.axis)))
    ctx.read(table.axis, "component")
    rows = sorted([*table.body, *[r for r in table.sides if _is_line(r, ctx)]], key=lambda r: r[0])
    lines = [
        Line(r, cell_at(r[1], table.axis).strip(), named(cell_at(r[1], table.axis).strip(), bool(german))) for r in rows
    ]
    unit_column = next((j for j in table.columns if _holds_units(ctx, j)), None)
    if unit_column is not None:
        ctx.read(unit_column, "unit of the row")
    columns = amount_columns(ctx, lines, unit_column)
    read_percents(ctx, lines, columns, unit_column)
    leaves = leaf_rows(ctx, lines, columns)
    found = _samples(ctx, lines, columns, leaves)
    _properties(ctx, lines, columns, found, unit_column)
    return found


def _is_line(row: Row, ctx: Context) -> bool:
    """Tell whether a side row of the table is a line of it: a name that is not known, or a total."""
    first, last = ctx.table.body[0][0], ctx.table.body[-1][0]
    label = cell_at(row[1], ctx.table.axis).strip()
    known = named(label) if label else None
    filled = any(ctx.entry(row, j).fills for j in ctx.table.columns)
    # A component whose amount is a word is told with its word, wherever it stands.
    worded = known is not None and any(cell_at(row[1], j).strip() for j in ctx.table.columns)
    return worded or (filled and (first < row[0] < last or (known is not None and known.total) or not label))


def _holds_units(ctx: Context, column: int) -> bool:
    texts = [cell_at(c, column) for _, c in ctx.table.body if cell_at(c, column).strip()]
    united = sum(
        # A letter alone is a mark of some kind, not a unit.
        bool((len(t.strip()) > 1 and basis_of(t)) or PPM.search(folded(t)) or "%" in t)
        and not any(c.isdigit() for c in t)
        for t in texts
    )
    return len(texts) >= 2 and (united >= 0.6 * len(texts) or (means(ctx.table.head(column), "unit") and united > 0))


_ORDER = ("mole", "mass", "volume")


_STRIP = re.compile(
    r"\(?(?:mol(?:e|ar)?|wt|weight|mass|vol(?:ume)?|gew|lv|liq(?:uid)?)?\.?\s?-?\s?(?:%|percent|fraction|frac\.?)\)?|\(.*?\)|\[.*?\]|,",
    re.IGNORECASE,
)


def _samples(ctx: Context, lines: list[Line], columns: list[Amounts], leaf: list[bool]) -> list[Composition]:
    for own in columns:
        if not own.title and len(columns) > 1:
            own.title = re.sub(
                r"\s+",
                " ",
                _STRIP.sub(" ", ctx.table.heads.get(own.column, [""])[0] if ctx.table.heads.get(own.column) else ""),
            ).strip(" -:.")
            if re.fullmatch(
                r"(?:mole?|mass|wt|weight|vol|volume|gew|molar|z|x|y|mol|masse|peso|poids|amount|composition)?\W*",
                own.title,
                re.IGNORECASE,
            ) or basis_of(own.title):
                own.title = ""
    titles = list(dict.fromkeys(c.title for c in columns))
    if len(titles) > 1 and len({c.basis for c in columns}) == len(columns) and not ctx.table.groups:
        titles, columns = [""], [replace(c, title="") for c in columns]
    out = []
    for title in titles:
        mine = sorted((c for c in columns if c.title == title), key=lambda c: _ORDER.index(c.basis))
        if not any(p for p, kept in zip(mine[0].percents, leaf) if kept):
            continue
        main, rest = mine[0], mine[1:]
        for other in rest:
            if other.basis == main.basis:
                ctx.read(other.column, UNREAD, sample=title)
                ctx.note(
                    ctx.head_row(),
                    other.column,
                    f"'{ctx.table.head(other.column)}' is a second column of amounts and is not read",
                )
                continue
            _compare(ctx, lines, leaf, main, other)
            ctx.read(other.column, "amount, to compare", "%", other.basis, sample=title)
            ctx.note(
                ctx.head_row(),
                other.column,
                f"the amounts are taken in {BASES[main.basis]}; those in {BASES[other.basis]} are only compared with them",
                True,
            )
        ctx.read(main.column, "amount", "%", main.basis, assumed=not main.told, sample=title)
        kept = [k for k, own in enumerate(leaf) if own and main.percents[k] is not None]
        picked = replace(main, percents=[main.percents[k] for k in kept])
        one = Composition(title, picked, [lines[k] for k in kept])
        _plus_mass(ctx, one, kept, main, rest, lines, leaf)
        out.append(one)
    for one in out:
        one.beside = sorted(o.amounts.column for o in out)
    return out


def _mass_of(line: Line) -> float | None:
    """Return the molar mass of a line, g/mol, None for a plus fraction."""
    if line.name is None or line.name.plus:
        return None
    if line.name.component:
        return 1e3 * find(line.name.component).molar_mass
    return 1e3 * group_properties(Group(line.name.number, 1.0))[2] if line.name.number >= 6 else None


def _compare(ctx: Context, lines: list[Line], leaf: list[bool], main: Amounts, other: Amounts) -> None:
    """Check amounts by mole against those by mass: their quotients are the molar masses, up to one factor."""
    if {main.basis, other.basis} != {"mole", "mass"}:
        return
    mole, mass = (main, other) if main.basis == "mole" else (other, main)
    ratios = [
        (w / x / m, line)
        for line, own, x, w in zip(lines, leaf, mole.percents, mass.percents)
        if own
        and x
        and w
        and x > 0.3
        and w > 0.3
        and line.name is not None
        and line.name.component
        and (m := _mass_of(line))
    ]
    if len(ratios) < 3:
        return
    middle = sorted(r for r, _ in ratios)[len(ratios) // 2]
    for ratio, line in ratios:
        if abs(ratio / middle - 1.0) > 0.08:
            ctx.note(
                line.row[0],
                other.column,
                f"{line.text}: its mole and mass percents disagree by {100 * abs(ratio / middle - 1):.0f} %",
                True,
            )


def _plus_mass(
    ctx: Context,
    one: Composition,
    kept: list[int],
    main: Amounts,
    rest: list[Amounts],
    lines: list[Line],
    leaf: list[bool],
) -> None:
    """Give a plus fraction the molar mass that its mole and mass percents tell."""
    other = next((c for c in rest if {c.basis, main.basis} == {"mole", "mass"}), None)
    place = next((j for j, x in enumerate(one.lines) if x.name is not None and x.name.plus), None)
    if other is None or place is None:
        return
    columns = [j for j in ctx.table.columns if means(ctx.table.head(j), "molar_mass")]
    if any(ctx.entry(one.lines[place].row, j).is_number for j in columns):
        return  # it is measured
    mole, mass = (main, other) if main.basis == "mole" else (other, main)
    known = [
        (x, w, m)
        for line, own, x, w in zip(lines, leaf, mole.percents, mass.percents)
        if own and x and w and line.name is not None and line.name.component and (m := _mass_of(line))
    ]
    x, w = mole.percents[kept[place]], mass.percents[kept[place]]
    moles, grams = sum(k[0] for k in known), sum(k[1] for k in known)
    if not x or not w or moles < 0.5 or grams < 0.3 or ctx.last("molar_mass", True) is not None:
        return
    mean = (
        sum(k[0] * k[2] for k in known) / grams
    )  # g of the whole a mole of the whole, by the components that are known
    value = mean * w / x
    light = sum(k[0] for k in known)
    if 60.0 < value < (250.0 if light > 90.0 else 800.0):
        one.mass[place] = f"{value:.4g} g/mol"
        ctx.note(
            one.lines[place].row[0],
            main.column,
            f"{one.lines[place].text}: its molar mass, {value:.4g} g/mol, follows from its mole and mass percents",
            True,
        )


def _properties(
    ctx: Context, lines: list[Line], columns: list[Amounts], found: list[Composition], unit_column: int | None
) -> None:
    """Read the columns of molar masses and densities, and list what is not read."""
    taken = {c.column for c in columns} | {unit_column}
    masses = [
        j
        for j in ctx.table.columns
        if j not in taken and (ctx.choice(j).meaning == "molar mass" or means(ctx.table.head(j), "molar_mass"))
    ]
    for j in [k for k in ctx.table.columns if k not in taken]:
        head = ctx.table.head(j)
        chosen = ctx.choice(j)
        if chosen.meaning == UNREAD:
            ctx.read(j, UNREAD)
            continue
        values = [ctx.entry(x.row, j) for x in lines]
        if not any(e.is_number for e in values):
            if any(e.kind == "words" for e in values) and head:
                ctx.read(j, UNREAD)
            continue
        density = chosen.meaning == "density" or (
            not chosen.meaning and j not in masses and means(head, "density") and _is_density(ctx, lines, j)
        )
        if not density and j not in masses:
            ctx.read(j, UNREAD)
            ctx.note(ctx.head_row(), j, f"'{head or 'a column without a header'}' is not read")
            continue
        kind = "density" if density else "molar_mass"
        unit = chosen.unit or unit_in(re.sub(r"(?:at|@|à|a|bei)?\s*\d+(?:[.,]\d+)?\s*°?\s*[CF]\b", " ", head), kind)
        assumed = not unit
        if density and not unit:
            unit = _density_unit(ctx, head, [e.value for e in values if e.is_number], j)
        ctx.read(j, "density" if density else "molar mass", unit or "g/mol", assumed=assumed and density)
        for one in found:
            for k, line in enumerate(one.lines):
                e = ctx.entry(line.row, j)
                if not e.is_number or (line.name is not None and line.name.component and not line.name.number):
                    continue
                own = as_unit(e.unit, kind) or unit or "g/mol"
                (one.density if density else one.mass)[k] = cell_of(e.value, own)


def _is_density(ctx: Context, lines: list[Line], column: int) -> bool:
    """Tell whether a column that calls itself a density is one of liquids, and no share of a gas's relative density."""
    values = [(x, ctx.entry(x.row, column).value) for x in lines if ctx.entry(x.row, column).is_number]
    heavy = [v for x, v in values if x.name is not None and x.name.number >= 6]
    light = [
        v
        for x, v in values
        if x.name is not None and x.name.component in ("propane", "n-butane", "isobutane", "n-pentane", "isopentane")
    ]
    probe = heavy or light
    return (
        bool(probe)
        and (0.45 <= max(probe) <= 1.3 or 450 <= max(probe) <= 1300 or 10.0 <= max(probe) <= 120.0)
        and min(probe) > 0.3
    )


def _density_unit(ctx: Context, head: str, values: list[float], column: int) -> str:
    words = folded(head)
    if "api" in words:
        return "degAPI"
    if re.search(r"specific|\bs\.?g\b|sp\.? ?gr|relative|\brd\b", words) and max(values) < 2.0:
        return "SG"
    unit = "kg/m**3" if max(values) > 150 else "g/cm**3" if max(values) < 2.0 else "degAPI"
    ctx.note(
        ctx.head_row(),
        column,
        f"'{head}' names no unit; its values are read as {'kg/m³' if unit == 'kg/m**3' else 'g/cm³' if unit == 'g/cm**3' else '°API'}",
        True,
    )
    return unit
