"""One reader for all tables: the sheets of a workbook, a CSV file or a pasted range to samples, fluids and laboratory
tests.

Sheets are parted into tables and lines (:mod:`grids`), lines into facts (:mod:`facts`); each table is then read as a
composition, a boiling curve or a test by the modules of these names, with the facts around it. What is made of it,
how each column was understood and what was assumed or left out stands in a :class:`~.found.Block`, so that it can be
shown and changed before anything is taken."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import replace
from pathlib import Path

from ..components import named
from ..document import Fluid, Sample
from ..watch import UNWATCHED, Watch
from .amounts import Composition
from .brines import Brine
from .cells import ExchangeError, Sheet, column_name, csv_sheet, read_sheets
from .composed import heavy_end, light_ends, made
from .compositions import read_compositions
from .context import Context
from .curves import read_curves
from .entries import Style, entry_of, folded, style_of
from .fact import Fact
from .facts import facts_of, heads_plus
from .fluid_tables import fluid_of_tables
from .found import Block, Choice, Choices, Found, Note, Test
from .gathered import Gathered, sample_of
from .grids import layout_of
from .joining import table_shown, with_curves, with_light_ends, with_step_compositions
from .lines_alone import Lines, curve_of_lines, saturations_of_lines
from .raw import Layout, Raw, cell_at
from .reports import read_tests, with_temperature
from .rows import Row
from .spans import read_spans
from .waters import read_waters
from .words import line_word

RESULTS = "results"
"""The first cell of a sheet that holds results and nothing that was measured."""

NOTHING: Choices = {}

_FOOTNOTE = re.compile(r"^\s*(\(?(?:\d|[a-z]|\*+)\)|\d\.)\s+(.+)$", re.IGNORECASE)


def read_file(path: Path, choices: Choices = NOTHING, watch: Watch = UNWATCHED) -> Found:
    """Return what a CSV or XLSX file holds. Raises ExchangeError, OSError, Cancelled."""
    return read_sheets_of(read_sheets(path, watch), path.stem, choices, watch)


def read_text(text: str, name: str, choices: Choices = NOTHING) -> Found:
    """Return what a pasted range holds, cells apart by tabs, or as in a CSV file."""
    try:
        return read_sheets_of([csv_sheet(text, name)], name, choices)
    except ExchangeError as error:
        return Found(told=(Note(name, str(error)),))


def read_rows(rows: Iterable[Sequence[str]], name: str, choices: Choices = NOTHING) -> Found:
    """Return what the rows of one sheet hold."""
    return read_sheets_of([Sheet(name, [[c.strip() for c in row] for row in rows])], name, choices)


def read_sheets_of(sheets: Sequence[Sheet], name: str, choices: Choices = NOTHING, watch: Watch = UNWATCHED) -> Found:
    """Return what sheets hold; ``name`` names what is not named there. Raises Cancelled."""
    whole = fluid_of_tables(sheets)
    if whole is not None:
        first = sheets[0]
        block = Block(
            first.name, "fluid tables", whole.name, f"{first.name}, row 1", fluids=(whole,), key=(first.name, 0, 0)
        )
        return Found((block,), tuple(Note(s.name, text) for s in sheets for text in s.told))
    blocks: list[Block] = []
    told: list[Note] = []
    for k, sheet in enumerate(sheets):
        watch.at(k / len(sheets))
        told += [Note(sheet.name, text) for text in sheet.told]
        own = (
            name
            if len(sheets) == 1
            or re.fullmatch(r"(?:sheet|tabelle|hoja|feuil|folha|planilha)\s?\d*", sheet.name.casefold())
            else sheet.name
        )
        found = _sheet(sheet, own, choices, watch)
        blocks += found.blocks
        told += found.told
    tests = with_temperature([t for b in blocks for t in b.tests])
    at = 0
    for k, block in enumerate(blocks):
        count = len(block.tests)
        blocks[k] = replace(block, tests=tuple(tests[at : at + count]))
        at += count
    return Found(tuple(blocks), tuple(told))


def _sheet(sheet: Sheet, name: str, choices: Choices, watch: Watch) -> Found:
    rows = sheet.rows
    if rows and rows[0] and rows[0][0].casefold() == RESULTS:
        return Found()
    styled = choices.get((sheet.name, -1, -1), Choice()).meaning
    style: Style = styled if styled in ("point", "comma") else style_of(c for row in rows for c in row)  # type: ignore[assignment]
    watch.check()
    told: list[Note] = []
    if not style and _adds_up_with_commas(rows):
        style = "comma"
        told.append(Note(sheet.name, "a comma stands before decimals: so the amounts add up to 100 %", True))
    found = _Sheet(sheet.name, name, style, layout_of(rows, style), choices, watch).read()
    return replace(found, told=(*told, *found.told))


def _adds_up_with_commas(rows: Sequence[Sequence[str]]) -> bool:
    """Tell whether numbers such as 8,701, which alone have two readings, are amounts that add up to 100 % with the
    comma before decimals."""
    if not any(entry_of(c, "").kind == "doubt" for row in rows for c in row):
        return False
    for table in layout_of(rows, "comma").tables:
        for j in table.columns if table.kind == "names" else ():
            total = sum(entry_of(cell_at(c, j), "comma").value for _, c in table.body)
            if 97.0 <= total <= 103.0 or 0.97 <= total <= 1.03:
                return True
    return False


Things = list[Composition] | list[Gathered] | list[Test] | list[Brine]


class _Sheet:
    """One sheet on its way to blocks."""

    def __init__(self, sheet: str, name: str, style: Style, layout: Layout, choices: Choices, watch: Watch) -> None:
        self.sheet, self.name, self.style, self.layout, self.choices, self.watch = (
            sheet,
            name,
            style,
            layout,
            choices,
            watch,
        )
        self.facts: dict[int, list[Fact]] = {}
        self.told: list[Note] = []
        self.used: set[Fact] = set()
        plus = False
        before = -2
        for row in layout.lines:
            plus = (plus and row[0] == before + 1) or heads_plus(row[1])
            before = row[0]
            self.facts[row[0]] = facts_of(row, style, plus)

    def read(self) -> Found:
        """Return the blocks of the sheet."""
        blocks: list[Block] = []
        read: list[tuple[Raw, Context, Things]] = []
        for number, table in enumerate(self.layout.tables):
            self.watch.check()
            ctx = self._context(number)
            own = self._of(ctx)
            if table.kind == "numbers" and not own:
                for row in [*table.body, *table.sides]:
                    self.facts[row[0]] = facts_of(row, self.style)
            read.append((table, ctx, own))
        with_step_compositions([own for _, _, own in read])
        lonely = curve_of_lines(self._lines_alone())
        curves = lonely is not None or any(own for table, _, own in read if table.kind in ("points", "spans"))
        before: Block | None = None
        count = sum(len(own) for _, _, own in read)
        for number, (table, ctx, own) in enumerate(read):
            block = self._block(number, table, ctx, own, curves, count, before)
            if block is None:
                continue
            if (
                table.kind in ("points",)
                and before is not None
                and before.samples
                and self._adds_to(before, block, table)
            ):
                blocks[blocks.index(before)] = before = with_curves(before, block)
                continue
            blocks.append(block)
            if block.kind == "light ends":
                continue
            before = block if block.samples else before
        if lonely is not None:
            blocks.insert(0, lonely)
        blocks += saturations_of_lines(self._lines_alone())
        blocks = with_light_ends(blocks)
        self._rest(blocks)
        return Found(tuple(blocks), tuple(self.told))

    def _lines_alone(self) -> Lines:
        return Lines(self.sheet, self.name, self.style, self.layout, self.facts, self.used, self.choices)

    def _context(self, number: int) -> Context:
        """Return a table with what surrounds it: the lines above it up to the last table, those of the head of the
        sheet, and the lines below it that name no other thing."""
        table = self.layout.tables[number]
        top = min(table.top, table.bottom)
        tables = self.layout.tables
        previous = max((t.bottom for t in tables if t.bottom < top), default=-1)
        following = min((t.top for t in tables if t.top > table.bottom), default=10**9)
        first = min(t.top for t in tables)
        names = [r[0] for r in self.layout.lines if r[0] < top and self._names(r)]
        if names:
            # What stands before the first sample's name is of all; from the last name on it is of this one.
            head = [r for r in self.layout.lines if r[0] < names[0]]
            above = [r for r in self.layout.lines if names[-1] <= r[0] < top]
        else:
            above = [r for r in self.layout.lines if previous < r[0] < top]
            head = [r for r in self.layout.lines if r[0] < first and r not in above]
            if previous >= 0:
                above = above[next((k for k, r in enumerate(above) if self._begins(r)), len(above)) :]
        below = [r for r in self.layout.lines if table.bottom < r[0] < following]
        # The nearest lines above a following table are that table's: from its title or its sample's name on.
        if following < 10**9:
            below = below[: next((k for k, r in enumerate(below) if self._begins(r)), len(below))]
        title_facts = [f for r in [*head, *above] for f in self.facts[r[0]]]
        below_facts = [f for r in below for f in self.facts[r[0]]]
        # What stands above a table counts before what stands below it, save where nothing above says it.
        titles = [" ".join(c for c in r[1] if c.strip()) for r in [*head, *above]]
        notes = {
            m.group(1).strip("() "): m.group(2) for r in self.layout.lines for c in r[1] if (m := _FOOTNOTE.match(c))
        }
        ctx = Context(self.sheet, self.style, table, [*below_facts, *title_facts], titles, self.choices, self.name)
        ctx.footnotes = notes
        ctx.lines_above = [*head, *above]
        return ctx

    @staticmethod
    def _names(row: Row) -> bool:
        full = [c for c in row[1] if c.strip()]
        return len(full) >= 2 and line_word(full[0]) == "name"

    def _begins(self, row: Row) -> bool:
        """Tell whether a line begins another part of the sheet: a title, or the name of a sample."""
        full = [c for c in row[1] if c.strip()]
        if len(full) == 1:
            text = full[0]
            return (
                not re.match(r"^\s*(\(?\d\)|\(?[a-z]\)|[*†])", text)
                and not (self.facts[row[0]] and any(f.of_plus for f in self.facts[row[0]]))
                and "=" not in text
            )
        return line_word(full[0]) in ("name", "method") if full else False

    def _of(self, ctx: Context) -> Things:
        kind = ctx.table.kind
        if kind == "names":
            return read_compositions(ctx)
        if kind == "points":
            return read_curves(ctx)
        if kind == "spans":
            return read_spans(ctx)
        if kind == "ions":
            return read_waters(ctx)
        return read_tests(ctx)

    def _title(self, ctx: Context) -> str:
        return next((t for t in reversed(ctx.titles) if t and not line_word(t.split(":")[0])), "") or ctx.table.head(
            ctx.table.axis
        )

    def _name(self, ctx: Context, title: str) -> str:
        fact = ctx.last("name")
        if title:
            return title
        if fact is not None:
            return fact.value
        generic = re.search(
            r"^pasted|composition|analysis|^cce|^cvd|^gas$|fluid$|d86|summary|result|data", self.name.casefold()
        )
        heads = []
        for number, cells in ctx.lines_above:
            first = next((j for j, c in enumerate(cells) if c.strip()), 0)
            own = [f for f in self.facts.get(number, []) if f.column == first or f.what in ("place", "name", "note")]
            if cells and len(cells[first]) <= 60 and not own and not line_word(cells[first]):
                heads.append(cells[first].strip())
        return heads[0] if generic and heads else self.name

    def _block(
        self, number: int, table: Raw, ctx: Context, own: Things, curves: bool, count: int, before: Block | None,
    ) -> Block | None:  # fmt: skip
        samples: list[Sample] = []
        fluids: list[Fluid] = []
        tests: list[Test] = []
        brines: list[Brine] = []
        kind = {"names": "composition", "points": "boiling curve", "spans": "assay by ranges"}.get(table.kind, "test")
        several = len(own) > 1
        for one in own:
            if isinstance(one, Composition):
                if (
                    curves
                    and not heavy_end(one)
                    and (one.amounts.total() < 90.0 or re.search(r"light end", folded(" ".join(ctx.titles[-2:]))))
                ):
                    kind = "light ends"
                    samples.append(Sample(name="", light_ends=light_ends(ctx, one)))
                    continue
                thing = made(ctx, one, self._name(ctx, one.title), not several)
                if isinstance(thing, Sample):
                    samples.append(thing)
                else:
                    fluids.append(thing)
            elif isinstance(one, Brine):
                brines.append(replace(one, name=self._name(ctx, one.name)))
                kind = "salts"
            elif isinstance(one, Gathered):
                samples.append(sample_of(one, self._name(ctx, one.title)))
            else:
                tests.append(one)
                kind = one.kind
        if not own and table.kind == "numbers":
            shown = ctx.table.head(table.axis)
            ctx.note(
                ctx.head_row(),
                table.axis,
                f"the table under '{shown[:40]}' is not read: no test with such columns is known",
            )
        note = self._note(ctx) if samples and not several else ""
        if note:
            samples = [s.model_copy(update={"note": note}) for s in samples]
        self.used |= ctx.used
        _top, left = table.place(table.top if not table.across else 0, table.axis)
        rows, columns = (table.top, table.bottom), (min(table.axis, *table.columns), max(table.axis, *table.columns))
        if table.across:
            columns = (table.left, table.left + max(r for r, _ in table.body))
        place = f"{column_name(columns[0])}{rows[0] + 1}:{column_name(columns[1])}{rows[1] + 1}"
        heads, keys, cells = table_shown(ctx)
        return Block(
            self.sheet, kind, self._title(ctx), place, tuple(ctx.columns), tuple(samples), tuple(fluids), tuple(tests), brines=tuple(brines),
            notes=tuple(ctx.notes), key=(self.sheet, table.top, left), heads=heads, keys=keys, rows=cells,
        )  # fmt: skip

    def _note(self, ctx: Context) -> str:
        """Return what the lines say of who, where and when, which a sample keeps as its note."""
        places = [f.value for f in ctx.facts if f.what in ("place", "note")]
        return "; ".join(dict.fromkeys(places))[:2000]

    def _adds_to(self, before: Block, block: Block, table: Raw) -> bool:
        """Tell whether a table of properties belongs to the curve above it: it has no temperatures of its own."""
        return (
            len(block.samples) == 1
            and not block.samples[0].distillation.points
            and len(before.samples) == 1
            and bool(before.samples[0].distillation.points)
        )

    # -- what only lines say
    # -------------------------------------------------------------------------------------------------

    def _rest(self, blocks: list[Block]) -> None:
        """Say which lines were not read, where they hold numbers or nothing was read at all."""
        anything = bool(blocks)
        inside = [
            (n, c)
            for t in self.layout.tables
            if t.kind == "numbers" and not t.across
            for n, c in t.body
            if n in self.facts
        ]
        for row in [*self.layout.lines, *inside]:
            facts = self.facts[row[0]]
            full = [c for c in row[1] if c.strip()]
            if not full:
                continue
            text = full[0]
            first = next(j for j, c in enumerate(row[1]) if c.strip())
            place = f"{self.sheet}, {column_name(first)}{row[0] + 1}"
            reasons = [f for f in facts if f.what == "unread" and f.assumed and f not in self.used]
            self.told += [Note(f"{self.sheet}, {column_name(max(f.column, 0))}{f.row + 1}", f.assumed) for f in reasons]
            if reasons:
                continue
            known = [f for f in facts if f.what not in ("place", "note", "name", "method", "basis", "absent")]
            if any(f in self.used for f in facts):
                continue
            if any(f.what in ("place", "name", "note", "method") for f in facts) and not known:
                continue
            if (
                len(full) == 1
                and (anything and (not any(f.what in ("density", "molar_mass") for f in known)))
                and not re.search(r"=\s*\d", text)
            ):
                continue  # a title, which says what the table below it says
            if not anything or len(full) <= 2 or any(entry_of(c, self.style).is_number for c in full[1:]):
                if re.match(r"^\s*(\(?\d\)|\(?[a-z]\)|[*†])", text) or (named(text) is not None and not anything):
                    continue
                shown = f"'{text[:48]}' with {full[1][:24]}" if len(full) > 1 else f"'{text[:60]}'"
                why = "" if facts or len(full) < 2 else "; its word is not known"
                self.told.append(Note(place, f"{shown} is not read{why}"))
