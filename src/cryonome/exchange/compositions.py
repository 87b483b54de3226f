"""Tables of component names and amounts: fluids, or carbon-number samples where they have a heavy end.

The basis of the amounts is what the header, the units row, the title or the cell says; where nothing says it, it is assumed and told.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace

from ..characterization.carbon_analysis import Group, group_properties
from ..characterization.methods import CARBON
from ..components import Named, find, named
from ..constants import WATER_DENSITY_60F
from ..document import Fluid, FluidPart, Sample
from ..document.field_types import Cell
from ..document.model import Bulk, Distillation, LightEnds, PlusFraction, Pseudo
from ..units import QuantityError, parse
from .context import Context, joined
from .entries import folded
from .facts import cell_of
from .found import UNREAD
from .grids import cell_at
from .rows import Row
from .words import AMOUNT, NO_AMOUNT, as_unit, basis_of, means, says_liquid, unit_in

BASES = {"mole": "mol %", "mass": "mass %", "volume": "liquid volume %"}
_PPM = re.compile(r"ppb|ppm|\bmg/kg")


@dataclass
class Line:
    """A row of a composition: its name as written and what it means."""

    row: Row
    text: str
    name: Named | None


@dataclass
class Amounts:
    """A column of amounts: its basis (``told`` where the sheet says it), the sample it belongs to, and the percents by line, None where nothing stands."""

    column: int
    basis: str
    told: bool
    title: str = ""
    percents: list[float | None] = field(default_factory=list)
    factor: float = 1.0

    def total(self) -> float:
        """Return the sum."""
        return sum(p for p in self.percents if p is not None)


@dataclass
class Composition:
    """What a table says of one sample."""

    title: str
    amounts: Amounts
    lines: list[Line]
    beside: list[int] = field(default_factory=list)
    """Columns of the amounts of all samples side by side."""
    mass: dict[int, Cell] = field(default_factory=dict)
    density: dict[int, Cell] = field(default_factory=dict)


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
    columns = _amount_columns(ctx, lines, unit_column)
    _percents(ctx, lines, columns, unit_column)
    leaves = _leaves(ctx, lines, columns)
    found = _samples(ctx, lines, columns, leaves)
    _properties(ctx, lines, columns, found, unit_column)
    return found


def _is_line(row: Row, ctx: Context) -> bool:
    """Tell whether a side row of the table is a line of it: a name that is not known, or a total."""
    first, last = ctx.table.body[0][0], ctx.table.body[-1][0]
    label = cell_at(row[1], ctx.table.axis).strip()
    known = named(label) if label else None
    filled = any(ctx.entry(row, j).fills for j in ctx.table.columns)
    return filled and (first < row[0] < last or (known is not None and known.total) or not label)


def _holds_units(ctx: Context, column: int) -> bool:
    texts = [cell_at(c, column) for _, c in ctx.table.body if cell_at(c, column).strip()]
    united = sum(
        bool(basis_of(t) or _PPM.search(folded(t)) or "%" in t) and not any(c.isdigit() for c in t) for t in texts
    )
    return len(texts) >= 2 and (united >= 0.6 * len(texts) or (means(ctx.table.head(column), "unit") and united > 0))


# -- amounts ------------------------------------------------------------------------------------------------------------


def _amount_columns(ctx: Context, lines: list[Line], unit_column: int | None) -> list[Amounts]:
    table = ctx.table
    found: list[Amounts] = []
    numeric = [j for j in table.columns if j != unit_column and any(ctx.entry(x.row, j).fills for x in lines)]
    for j in numeric:
        head = table.head(j)
        chosen = ctx.choice(j)
        if chosen.meaning and chosen.meaning != "amount":
            continue
        total = sum(
            e.value for x in lines if x.name is None or not x.name.total for e in (ctx.entry(x.row, j),) if e.is_number
        )
        closes = 97.0 <= total <= 103.0 or 0.97 <= total <= 1.03
        basis = basis_of(head)
        words = folded(head)
        other = means(head, "molar_mass") or (means(head, "density") and not basis) or NO_AMOUNT.search(words)
        amount = bool(basis or AMOUNT.search(words)) and not other
        bare = not head and len(numeric) == 1
        if (
            chosen.meaning == "amount"
            or amount
            or bare
            or (closes and not other)
            or (not head and j == numeric[0])
            or (not other and _beside_amounts(ctx, j, numeric))
        ):
            told = bool(basis)
            if chosen.basis:
                basis, told = chosen.basis, True
            found.append(Amounts(j, basis, told, table.groups.get(j, "")))
    if not found:
        # One column of numbers that names nothing else can only be the amounts.
        rest = [
            j
            for j in numeric
            if not means(table.head(j), "molar_mass")
            and not means(table.head(j), "density")
            and not NO_AMOUNT.search(folded(table.head(j)))
        ]
        found = [Amounts(rest[0], "", False)] if rest else []
    return found


def _beside_amounts(ctx: Context, column: int, numeric: list[int]) -> bool:
    """Tell whether a column without words of its own stands among samples side by side: titles of samples, and a basis in the title."""
    head = ctx.table.head(column)
    return (
        bool(head)
        and len(numeric) >= 2
        and not means(head, "density")
        and not means(head, "molar_mass")
        and ctx.last("basis") is not None
        and not any(c in head for c in "%")
    )


def _percents(ctx: Context, lines: list[Line], columns: list[Amounts], unit_column: int | None) -> None:
    """Read the amounts as percents of the basis of their column."""
    outer = ctx.last("basis")
    outer_basis = basis_of(ctx.table.head(ctx.table.axis)) or (outer.value if outer is not None else "")
    for own in columns:
        head = ctx.table.head(own.column)
        if not own.basis and unit_column is not None:
            units = [basis_of(cell_at(x.row[1], unit_column)) for x in lines if cell_at(x.row[1], unit_column).strip()]
            own.basis = max({u for u in units if u}, key=units.count, default="")
            own.told = bool(own.basis)
        if not own.basis:
            cells = [basis_of(ctx.entry(x.row, own.column).unit) for x in lines]
            own.basis = next((b for b in cells if b), "")
            own.told = bool(own.basis)
        if not own.basis and outer_basis:
            own.basis, own.told = outer_basis, True
        own.percents = [_percent(ctx, x, own, unit_column) for x in lines]
        leaves = [p for p, x in zip(own.percents, lines) if p is not None and (x.name is None or not x.name.total)]
        total = sum(leaves)
        says_percent = (
            "%" in head
            or re.search(r"percent|prozent|pourcent|porcent", folded(head))
            or any(ctx.entry(x.row, own.column).unit for x in lines)
        )
        if _PPM.search(folded(head)):
            own.factor = 1e-7 if "ppb" in folded(head) else 1e-4
        elif (
            leaves
            and max(leaves) <= 1.0
            and not (says_percent and total > 1.2)
            and 0.5 <= total <= 1.2
            and len(leaves) > 1
        ):
            own.factor = 100.0
            if says_percent or not re.search(r"fra[ck][ct]?|\b[xyz]i?\b|anteil", folded(head)):
                ctx.note(
                    ctx.head_row(), own.column, "amounts that add up to 1 are read as fractions of the whole", True
                )
        own.percents = [None if p is None else float(f"{own.factor * p:.12g}") for p in own.percents]
    for own in columns:
        _basis(ctx, lines, own, [c for c in columns if c is not own])


def _basis(ctx: Context, lines: list[Line], own: Amounts, others: list[Amounts]) -> None:
    """Say on which basis amounts are where nothing says it, and that volumes of a gas are moles."""
    share = {x.name.label: p or 0.0 for x, p in zip(lines, own.percents) if x.name is not None and not x.name.total}
    heavy = sum(
        p
        for x, p in zip(lines, own.percents)
        if p and x.name is not None and not x.name.total and x.name.number >= 6 and not x.name.component
    )
    light = sum(share.get(n, 0.0) for n in ("methane", "nitrogen", "carbon dioxide", "hydrogen", "ethane"))
    words = " ".join((ctx.table.head(own.column), *ctx.titles))
    gas = light > 50.0 or (re.search(r"\bgas(?:es)?\b|\bgaz\b|erdgas", folded(words)) is not None and heavy < 10.0)
    liquid = says_liquid(ctx.table.head(own.column)) or any(
        says_liquid(t) and basis_of(t) == "volume" for t in ctx.titles
    )
    if own.basis == "volume" and gas and not liquid and not ctx.choice(own.column).basis:
        own.basis = "mole"
        ctx.note(ctx.head_row(), own.column, "volume percents of a gas are read as mole percents", True)
    if own.basis:
        return
    known = {o.basis for o in others if o.basis and o.told}
    if len(known) == 1 and not any(o.title == own.title for o in others):
        own.basis = known.pop()
        return
    own.basis = "mole" if light > 0.0 or gas or not heavy else "mass"
    ctx.note(
        ctx.head_row(), own.column, f"nothing says on which basis the amounts are; {BASES[own.basis]} is assumed", True
    )


def _percent(ctx: Context, line: Line, own: Amounts, unit_column: int | None) -> float | None:
    one = ctx.entry(line.row, own.column)
    if ctx.doubt(line.row, own.column):
        return None
    if one.kind == "below":
        ctx.note(line.row[0], own.column, f"{line.text}: '{one.text}' is below what can be told, and is left out", True)
        return None
    if one.kind == "absent":
        if line.name is not None and not line.name.total and folded(one.text) not in ("nil", "none", "null"):
            ctx.note(line.row[0], own.column, f"{line.text}: '{one.text}' is read as none", True)
        return None
    if one.kind == "words":
        if line.name is not None and not line.name.total:
            ctx.note(line.row[0], own.column, f"{line.text}: '{one.text[:40]}' is no amount and is not read")
        return None
    if one.kind == "empty":
        return None
    unit = one.unit or (cell_at(line.row[1], unit_column) if unit_column is not None else "")
    words = folded(unit)
    if unit and not one.unit.startswith("*"):
        basis = basis_of(unit)
        if not (basis or "%" in unit or _PPM.search(words) or words in ("fraction", "-", "mol/mol")):
            if line.name is None:
                return None
            ctx.note(line.row[0], own.column, f"{line.text}: '{unit}' is no unit of an amount; the row is not read")
            return None
        if basis and own.basis and basis != own.basis and not (basis == "volume" and own.basis == "mole"):
            ctx.note(
                line.row[0], own.column, f"{line.text}: {unit} stands among {BASES[own.basis]}; the row is not read"
            )
            return None
        factor = 1e-7 if "ppb" in words else 1e-4 if _PPM.search(words) else 1.0
        return one.value * factor
    return one.value


# -- what the rows are ----------------------------------------------------------------------------------------------------


def _leaves(ctx: Context, lines: list[Line], columns: list[Amounts]) -> list[bool]:
    """Tell which lines are components and groups of their own, no totals of others; totals are checked."""
    leaf = [x.name is not None and not x.name.total for x in lines]
    if not columns:
        return leaf
    main = columns[0]
    carbons = {k: _carbon(x.name) for k, x in enumerate(lines) if x.name is not None and leaf[k]}
    for k, x in enumerate(lines):
        if (
            x.name is not None
            and x.name.total
            and x.name.number
            and not x.name.plus
            and "total" not in folded(x.text)[:5]
        ):
            # Butanes (total) with nothing below it is the group itself.
            if not any(n == x.name.number for n in carbons.values()):
                again = named(re.sub(r"[\s(]*\b(total|sum|summe|suma|soma|somme)\b\)?", "", folded(x.text)))
                if again is not None and not again.total:
                    lines[k].name = again
                    leaf[k] = True
        elif not x.text and x.name is None:
            own = [p for c in columns for p in (c.percents[k],) if p is not None]
            sums = [
                sum(p for p, kept in zip(c.percents, leaf) if p and kept) for c in columns if c.percents[k] is not None
            ]
            if own and not all(abs(a - b) <= 0.02 * max(b, 1e-9) for a, b in zip(own, sums)):
                ctx.note(x.row[0], main.column, "an amount without a name is not read")
    plus = [(x.name.number, k) for k, x in enumerate(lines) if leaf[k] and x.name is not None and x.name.plus]
    for number, k in plus:
        inside = [
            j
            for j, x in enumerate(lines)
            if leaf[j]
            and j != k
            and x.name is not None
            and _carbon(x.name) >= number
            and (x.name.plus or not x.name.component)
        ]
        held = sum(main.percents[j] or 0.0 for j in inside)
        if inside and abs(held - (main.percents[k] or 0.0)) <= 0.02 * max(held, 0.1):
            leaf[k] = False
            ctx.note(
                lines[k].row[0],
                main.column,
                f"{lines[k].text} is the sum of the rows from C{number} on and is left out",
                True,
            )
    for k, x in enumerate(lines):
        if x.name is None and x.text and any(c.percents[k] is not None for c in columns):
            shown = cell_at(x.row[1], main.column)
            ctx.note(
                x.row[0],
                ctx.table.axis,
                f"'{x.text[:40]}' with {shown} is not read; no component or carbon group of that name is known",
            )
        elif x.name is not None and x.name.said and leaf[k] and any(c.percents[k] for c in columns):
            ctx.note(x.row[0], ctx.table.axis, f"'{x.text}': {x.name.said}", True)
    for c in columns:
        total = next(
            (
                p
                for p, x in zip(c.percents, lines)
                if p is not None and x.name is not None and x.name.total and not x.name.number and not x.name.plus
            ),
            None,
        )
        own_sum = sum(p for p, kept in zip(c.percents, leaf) if p and kept)
        if total is not None and own_sum > 0.0 and abs(total - own_sum) > 0.006 * max(total, 1.0):
            ctx.note(
                ctx.head_row(),
                c.column,
                f"the rows that are read add up to {own_sum:.5g} %, the sheet's total is {total:.5g} %",
                True,
            )
    return leaf


def _carbon(name: Named) -> int:
    if name.number:
        return name.number
    found = re.match(r"C(\d*)H", find(name.component).formula) if name.component else None
    return int(found.group(1) or 1) if found else 0


# -- samples side by side -------------------------------------------------------------------------------------------------

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
    mole, mass = (main, other) if main.basis == "mole" else (other, main)
    known = [
        (x, w, m) for line, own, x, w in zip(lines, leaf, mole.percents, mass.percents)
        if own and x and w and line.name is not None and line.name.component and (m := _mass_of(line))
    ]  # fmt: skip
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


# -- what is made of it ---------------------------------------------------------------------------------------------------


def heavy_end(one: Composition) -> bool:
    """Tell whether a composition has a heavy end that makes it a carbon-number sample rather than a gas."""
    groups = [
        (x.name, p)
        for x, p in zip(one.lines, one.amounts.percents)
        if x.name is not None and p and not x.name.component
    ]
    able = all(n.number >= 6 for n, _ in groups)
    share = sum(p for n, p in groups if n.number >= 7 or (n.plus and n.number >= 6))
    measured = any(one.mass.get(k) and x.name is not None and x.name.plus for k, x in enumerate(one.lines))
    return able and bool(groups) and (share > 1.5 or (len(groups) >= 3 and share > 1.0) or (measured and share > 0.6))


def made(ctx: Context, one: Composition, name: str, alone: bool) -> Sample | Fluid:
    """Return the sample or the fluid of a composition."""
    _note_sum(ctx, one)
    said = ctx.last("method")
    carbon = heavy_end(one) or (said is not None and said.value == CARBON)
    return _sample(ctx, one, name, alone) if carbon else _fluid(ctx, one, name)


def _note_sum(ctx: Context, one: Composition) -> None:
    total = one.amounts.total()
    if total and not 98.0 <= total <= 102.0:
        ctx.note(ctx.head_row(), one.amounts.column, f"the amounts add up to {total:.5g} %", True)


def _joined_rows(one: Composition) -> list[tuple[Named, float, int]]:
    """Return name, percent and place of every line, those of one name added."""
    out: dict[str, tuple[Named, float, int]] = {}
    for k, (line, percent) in enumerate(zip(one.lines, one.amounts.percents)):
        assert line.name is not None
        assert percent is not None
        label = line.name.label
        before = out.get(label)
        out[label] = (line.name, float(f"{before[1] + percent:.12g}"), before[2]) if before else (line.name, percent, k)
    return list(out.values())


def _sample(ctx: Context, one: Composition, name: str, alone: bool) -> Sample:
    rows: list[tuple[Cell, ...]] = []
    heads = [r for r in _joined_rows(one) if not r[0].plus] + [r for r in _joined_rows(one) if r[0].plus]
    for named_, percent, k in heads:
        row: list[Cell] = [named_.label, percent, one.mass.get(k), one.density.get(k)]
        while len(row) > 2 and row[-1] is None:
            row.pop()
        rows.append(tuple(row))
    mass, density = (ctx.near(w, True, one.amounts.column, one.beside) for w in ("molar_mass", "density"))
    plus = PlusFraction(molar_mass=mass.value if mass else None, density=density.value if density else None)
    for fact in (mass, density):
        if fact is not None:
            ctx.note_fact(fact, f"'{fact.text[:60]}' is read as the plus fraction's {fact.value}", True)
    bulk = Bulk()
    if alone:
        whole = {w: ctx.last(w) for w in ("density", "molar_mass", "watson_k")}
        for fact in whole.values():
            if fact is not None and fact.assumed:
                ctx.note_fact(fact, fact.assumed, True)
        bulk = Bulk(
            **{w: f.value for w, f in whole.items() if f is not None and _is(f.value, w)},
            viscosity=tuple((f.at, f.value) for f in ctx.all("viscosity")),
        )
    line = ctx.last("basis")
    kept = line is not None and line.text == line.value == one.amounts.basis
    basis = None if one.amounts.basis == "mass" and not kept else one.amounts.basis
    return Sample(
        name=name, distillation=Distillation(method=CARBON, basis=basis, amounts=tuple(rows), plus=plus), bulk=bulk
    )


def _is(value: str, kind: str) -> bool:
    if kind == "watson_k":
        return True
    try:
        return parse(value, kind) > 0.0
    except QuantityError:
        return False


def _fluid(ctx: Context, one: Composition, name: str) -> Fluid:
    parts = []
    supplied: list[str] = []
    mass, density = (ctx.near(w, True, one.amounts.column, one.beside) for w in ("molar_mass", "density"))
    for named_, percent, k in _joined_rows(one):
        if named_.component:
            parts.append(FluidPart(component=named_.component, amount=percent))
            continue
        cells = {"molar_mass": one.mass.get(k), "specific_gravity": one.density.get(k)}
        if named_.plus:
            cells = {
                "molar_mass": cells["molar_mass"] or (mass.value if mass else None),
                "specific_gravity": cells["specific_gravity"] or (density.value if density else None),
            }
        if cells["molar_mass"] is None:
            own_mass = usual(named_)
            supplied.append(f"{named_.label} {own_mass:.4g} g/mol")
            cells["molar_mass"] = float(f"{own_mass:.4g}")
        cells["specific_gravity"] = _gravity(cells["specific_gravity"])
        parts.append(FluidPart(pseudo=Pseudo(name=named_.label, **cells), amount=percent))
    if supplied:
        ctx.note(
            ctx.head_row(), ctx.table.axis,
            f"nothing is said of {joined(s.split()[0] for s in supplied)}: the molar mass is that of the carbon groups ({', '.join(supplied)}; of a plus fraction as "
            "60, 30 and 10 mol % of its first three)", True,
        )  # fmt: skip
    return Fluid(name=name, basis=one.amounts.basis, parts=tuple(parts))


def _gravity(cell: Cell) -> Cell:
    try:
        return float(f"{parse(cell, 'density') / WATER_DENSITY_60F:.6g}") if cell is not None else None
    except QuantityError:
        return cell


def usual(name: Named) -> float:
    """Return the molar mass g/mol of a carbon group; of a plus fraction of a gas those of its first three groups by 60, 30
    and 10 mol %, the split that gas chromatographs which end at hexanes plus usually report. C2 to C5 as the straight chain."""
    shares = ((0, 0.6), (1, 0.3), (2, 0.1)) if name.plus else ((0, 1.0),)
    mass = 0.0
    for step, share in shares:
        number = name.number + step
        if number < 6:
            pure = find({2: "ethane", 3: "propane", 4: "n-butane", 5: "n-pentane"}[number])
            own = pure.molar_mass
        else:
            own = group_properties(Group(number, 1.0))[2]
        mass += share * own
    return 1e3 * mass


def light_ends(ctx: Context, one: Composition) -> LightEnds:
    """Return a composition as the light ends of a sample whose boiling curve stands beside it."""
    amounts: dict[str, Cell] = {n.label: p for n, p, _ in _joined_rows(one) if n.component}
    basis, curve = ctx.last("light_basis"), ctx.last("light_curve")
    by = basis.value if basis is not None and basis.value in BASES else one.amounts.basis
    return LightEnds(mode="measured", basis=by, amounts=amounts, curve=curve.value if curve is not None else "whole")
