"""The columns of amounts of a composition: which they are, their basis and unit, and which rows count; totals are
checked."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from ..components import Named, find, named
from ..document.field_types import Cell
from .context import Context
from .entries import folded
from .raw import cell_at
from .rows import Row
from .words import AMOUNT, NO_AMOUNT, basis_of, means, says_liquid

BASES = {"mole": "mol %", "mass": "mass %", "volume": "liquid volume %"}


PPM = re.compile(r"ppb|ppm|\bmg/kg")


@dataclass
class Line:
    """A row of a composition: its name as written and what it means."""

    row: Row
    text: str
    name: Named | None


@dataclass
class Amounts:
    """A column of amounts: its basis (``told`` where the sheet says it), the sample it belongs to, and the percents
    by line, None where nothing stands."""

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


def amount_columns(ctx: Context, lines: list[Line], unit_column: int | None) -> list[Amounts]:
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
    """Tell whether a column without words of its own stands among samples side by side: titles of samples, and a
    basis in the title."""
    head = ctx.table.head(column)
    return (
        bool(head)
        and len(numeric) >= 2
        and not means(head, "density")
        and not means(head, "molar_mass")
        and ctx.last("basis") is not None
        and not any(c in head for c in "%")
    )


def read_percents(ctx: Context, lines: list[Line], columns: list[Amounts], unit_column: int | None) -> None:
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
        if PPM.search(folded(head)):
            own.factor = 1e-7 if "ppb" in folded(head) else 1e-4
        elif leaves and max(leaves) <= 1.0 and not says_percent and 0.5 <= total <= 1.2 and len(leaves) > 1:
            own.factor = 100.0
            if not re.search(r"fra[ck][ct]?|\b[xyz]i?\b|anteil", folded(head)):
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
        if not (basis or "%" in unit or PPM.search(words) or words in ("fraction", "-", "mol/mol")):
            if line.name is None:
                return None
            ctx.note(line.row[0], own.column, f"{line.text}: '{unit}' is no unit of an amount; the row is not read")
            return None
        if basis and own.basis and basis != own.basis and not (basis == "volume" and own.basis == "mole"):
            ctx.note(
                line.row[0], own.column, f"{line.text}: {unit} stands among {BASES[own.basis]}; the row is not read"
            )
            return None
        factor = 1e-7 if "ppb" in words else 1e-4 if PPM.search(words) else 1.0
        return one.value * factor
    return one.value


def leaf_rows(ctx: Context, lines: list[Line], columns: list[Amounts]) -> list[bool]:
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
