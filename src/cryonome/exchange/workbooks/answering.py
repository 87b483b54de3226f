"""Answering a workbook: its ranges read, all states of a range solved as one batch, the answers written."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

import numpy as np

from ...document import Document, DocumentError
from ...document.files import Signature, signature
from ...errors import DomainError
from ...fluids.building import FluidModel
from ...fluids.columns import Column, values_of
from ...fluids.grid_states import states_at
from ...fluids.property_choice import title_of
from ...results import Evaluator, Project
from ...telling.sentences import Units
from ...telling.table_blocks import Shown, of_key
from ...units import from_si, label
from ...watch import UNWATCHED, Watch
from ..cells import ExchangeError
from .asked import answer_cells
from .feeds import feed_cells
from .inputs import AskedStates, Beside, beside_of, columns_of, fluids_of, states_of
from .keywords import expanded
from .ranges import NamedRange, read_ranges
from .writing import Cells, Patches, write_results

FILL_ERRORS = (ExchangeError, DomainError, DocumentError, OSError)
"""What filling may raise: each tells a reader what is wrong."""


NOTHING_ASKED = (
    "{book} has no range named states: name the cells with the conditions 'states', and those with components and amounts "
    "'composition'; or name those with questions of a document 'answers'"
)


@dataclass(frozen=True)
class Filled:
    """What was done: where the answers stand, how many states were asked, how many have no answer, what is to be
    said, and the workbook as it was left."""

    output: Path
    states: int
    failed: int
    told: list[str] = field(default_factory=list)
    signature: Signature | None = None

    def __str__(self) -> str:
        missing = f", {self.failed} without an answer" if self.failed else ""
        good = self.states - self.failed
        return f"{good} state{'' if good == 1 else 's'} answered in {self.output.name}{missing}"


def fill(
    book: Path,
    document: Document | None = None,
    units: str = "metric",
    watch: Watch = UNWATCHED,
    now: datetime | None = None,
) -> Filled:
    """Answer the named ranges of a workbook or CSV file and write the results; fluids may come from a ``document`` too.

    A workbook gets a sheet of results, all its other parts as they were; where it is open in another program, or is a
    CSV file, the results go to a file beside it. Raises one of :data:`FILL_ERRORS`, Cancelled."""
    known = signature(book)
    ranges = read_ranges(book)
    asked_ranges = [r for r in ranges if r.kind == "states"]
    named = [r for r in ranges if r.kind == "answers"]
    if not asked_ranges and not named:
        raise ExchangeError(NOTHING_ASKED.format(book=book.name))
    whole = fluids_of(ranges, document or Document())
    columns = columns_of(ranges)
    asked = [states_of(r, whole, columns) for r in asked_ranges]
    project, told = Evaluator().at(whole), Units.of(units)
    stamp = (now or datetime.now().astimezone()).isoformat(timespec="seconds")
    cells: Cells = [["Cryonome results", stamp], ["answers of", book.name], []]
    count = failed = 0
    beside: Patches = {}
    blocks, missing_answers = answer_cells(named, project, told)
    for k, each in enumerate(asked):
        fluid = whole.fluid(each.fluid)
        assert fluid is not None
        model = project.fluid(fluid)
        block, missing = _answered(
            each, model, told, watch.part(k / len(asked), (k + 1) / len(asked)), beside_of(ranges, each), beside
        )
        cells += [*block, []]
        count += sum(row is not None for row in each.rows) + len(each.faults)
        failed += missing
    cells += [*_feeds(ranges, project), *blocks]
    output = write_results(book, cells, known, beside)
    notes = [*(f for each in asked for f in each.faults.values()), *missing_answers]
    failed += len(missing_answers)
    count += sum(bool(cell) for r in named for row in r.rows for cell in row)
    if beside and output != book:
        notes.append("the cells of 'beside' stay as they are; the answers are in the other file alone")
    if output != book and book.suffix.lower() != ".csv":
        notes.append(f"{book.name} is open in another program, so the results are in {output.name}")
    return Filled(output, count, failed, notes, known if output != book else signature(book))


def _feeds(ranges: Sequence[NamedRange], project: Project) -> Cells:
    """Return a block for every composition of the workbook."""
    cells: Cells = []
    for given in (r for r in ranges if r.kind == "composition"):
        own = project.document.fluid(given.name or "fluid")
        assert own is not None
        amounts = [float(p.amount) for p in own.parts if isinstance(p.amount, (int, float))]
        cells += [*feed_cells(given, amounts, own.basis, project.fluid(own)), []]
    return cells


def _answered(
    asked: AskedStates, model: FluidModel, units: Units, watch: Watch, beside: Sequence[Beside], patches: Patches
) -> tuple[Cells, int]:
    """Return a block of the results sheet and how many of its states have no answer; what goes ``beside`` the states
    is added to ``patches``."""
    own = expanded(asked.columns, model)
    others = [found[0] for each in beside for found in each.columns if found is not None]
    every = list({c.key: c for c in (*own, *others)}.values())
    values, reached = _computed(asked, model, every, watch)
    for each in beside:
        _put_beside(each, values, units, len(asked.rows), patches)
    shown = {c.key: of_key(c.key, units.of_states()) for c in own}
    heads = [f"{title_of(k)} ({label(s.unit)})" if s.unit else title_of(k) for k, s in shown.items()]
    cells: Cells = [[f"fluid: {asked.fluid}", asked.range.place(0, 0)]]
    cells.append([*(asked.range.rows[0][p] for p in asked.places), *heads, "note"])
    missing = 0
    for i, row in enumerate(asked.rows):
        if row is None and i + 1 not in asked.faults:
            cells.append([])
            continue
        note = asked.faults.get(i + 1, "" if reached[i] else "there is no such state, or it was not found")
        missing += bool(note)
        source = asked.range.rows[i + 1]
        told = [_told(float(values[k][i]), s) for k, s in shown.items()]
        cells.append([*(_number(source[p]) for p in asked.places), *told, note])
    return cells, missing


def _computed(
    asked: AskedStates, model: FluidModel, columns: Sequence[Column], watch: Watch
) -> tuple[dict[str, np.ndarray], np.ndarray]:
    """Return the values of columns by key, (rows,) each and nan where there is none, and which states were found."""
    mass = float(model.z @ model.molar_mass)
    known = {i: row for i, row in enumerate(asked.rows) if row is not None}
    values = {c.key: np.full(len(asked.rows), np.nan) for c in columns}
    reached = np.zeros(len(asked.rows), dtype=bool)
    if known:
        good = list(known)
        given = {key: np.array([row[k].by_mole(mass) for row in known.values()]) for k, key in enumerate(asked.keys)}
        states = states_at(model, given, [c.needs for c in columns if c.needs], watch)
        reached[good] = states.phases.converged
        for column in columns:
            values[column.key][good] = values_of(column, states)[0]
    return values, reached


def _told(value: float, shown: Shown, unit: str = "") -> float | str:
    """Return a value in a unit, else in that of the chosen set; nothing where there is none."""
    if not np.isfinite(value):
        return ""
    return float(from_si(value * shown.factor, unit or shown.unit, shown.kind)) if shown.kind else value


def _put_beside(beside: Beside, values: dict[str, np.ndarray], units: Units, count: int, patches: Patches) -> None:
    """Add the cells of a range beside the states; nothing where a state has no answer."""
    given = beside.range
    for j, found in enumerate(beside.columns):
        if found is None:
            continue
        column, unit = found
        shown, own = of_key(column.key, units.of_states()), values[column.key]
        for i in range(len(given.rows) - 1):
            cell = _told(float(own[i]), shown, unit) if i < count else ""
            patches.setdefault(given.sheet, {})[given.row + 1 + i, given.column + j] = cell


def _number(text: str) -> float | str:
    try:
        return float(text)
    except ValueError:
        return text
