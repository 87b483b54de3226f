"""Answering a workbook: its ranges read, all states of a range solved as one batch, the answers written."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

import numpy as np

from ..document import Document, DocumentError
from ..document.files import Signature, signature
from ..errors import DomainError
from ..exchange.cells import ExchangeError
from ..studies import Evaluator
from ..studies.columns import values_of
from ..studies.grid_states import states_at
from ..studies.inputs import FluidModel
from ..studies.property_choice import title_of
from ..studies.sentences import Units
from ..studies.table_blocks import of_key
from ..units import from_si, label
from ..watch import UNWATCHED, Watch
from .inputs import AskedStates, columns_of, fluids_of, states_of
from .ranges import read_ranges
from .writing import Cells, write_results

FILL_ERRORS = (ExchangeError, DomainError, DocumentError, OSError)
"""What filling may raise: each tells a reader what is wrong."""


@dataclass(frozen=True)
class Filled:
    """What was done: where the answers stand, how many states were asked, how many have no answer, what is to be said, and the workbook as
    it was left."""

    output: Path
    states: int
    failed: int
    told: list[str] = field(default_factory=list)
    signature: Signature | None = None

    def __str__(self) -> str:
        missing = f", {self.failed} without an answer" if self.failed else ""
        return f"{self.states} states answered in {self.output.name}{missing}"


def fill(
    book: Path, document: Document | None = None, units: str = "metric", watch: Watch = UNWATCHED, now: datetime | None = None
) -> Filled:  # fmt: skip
    """Answer the named ranges of a workbook or CSV file and write the results; fluids may come from a ``document`` too.

    A workbook gets a sheet of results, all its other parts as they were; where it is open in another program, or is a CSV file, the
    results go to a file beside it. Raises one of :data:`FILL_ERRORS`, Cancelled.
    """
    known = signature(book)
    ranges = read_ranges(book)
    asked_ranges = [r for r in ranges if r.kind == "states"]
    if not asked_ranges:
        raise ExchangeError(
            f"{book.name} has no range named states: name the cells with the conditions 'states', and those with components and amounts "
            "'composition'"
        )
    whole = fluids_of(ranges, document or Document())
    columns = columns_of(ranges)
    asked = [states_of(r, whole, columns) for r in asked_ranges]
    project, told = Evaluator().at(whole), Units.of(units)
    stamp = (now or datetime.now().astimezone()).isoformat(timespec="seconds")
    cells: Cells = [["Cryonome results", stamp], ["answers of", book.name], []]
    count = failed = 0
    for k, each in enumerate(asked):
        fluid = whole.fluid(each.fluid)
        assert fluid is not None
        model = project.fluid(fluid)
        block, missing = _answered(each, model, told, watch.part(k / len(asked), (k + 1) / len(asked)))
        cells += [*block, []]
        count += sum(row is not None for row in each.rows) + len(each.faults)
        failed += missing
    output = write_results(book, cells, known)
    notes = [f for each in asked for f in each.faults.values()]
    if output != book and book.suffix.lower() != ".csv":
        notes.append(f"{book.name} is open in another program, so the results are in {output.name}")
    return Filled(output, count, failed, notes, known if output != book else signature(book))


def _answered(asked: AskedStates, model: FluidModel, units: Units, watch: Watch) -> tuple[Cells, int]:
    """Return a block of the results sheet and how many of its states have no answer."""
    mass = float(model.z @ model.molar_mass)
    known = {i: row for i, row in enumerate(asked.rows) if row is not None}
    good = list(known)
    given = {
        key: np.array([row[place].by_mole(mass) for row in known.values()]) for place, key in enumerate(asked.keys)
    }
    columns = asked.columns
    values: list[np.ndarray] = [np.full(len(asked.rows), np.nan) for _ in columns]
    reached = np.zeros(len(asked.rows), dtype=bool)
    if good:
        states = states_at(model, given, [c.needs for c in columns if c.needs], watch)
        reached[good] = states.phases.converged
        for own, column in zip(values, columns):
            own[good] = values_of(column, states)[0]
    shown = [of_key(c.key, units.of_states()) for c in columns]
    heads = [f"{title_of(c.key)} ({label(s.unit)})" if s.unit else title_of(c.key) for c, s in zip(columns, shown)]
    cells: Cells = [[f"fluid: {asked.fluid}", asked.range.place(0, 0)]]
    cells.append([*(asked.range.rows[0][p] for p in asked.places), *heads, "note"])
    missing = 0
    for i in range(len(asked.rows)):
        source = asked.range.rows[i + 1]
        row = asked.rows[i]
        if row is None and i + 1 not in asked.faults:
            cells.append([])
            continue
        note = asked.faults.get(i + 1, "" if reached[i] else "there is no such state, or it was not found")
        missing += bool(note)
        told: Sequence[float | str] = [
            "" if not np.isfinite(v[i]) else float(from_si(v[i] * s.factor, s.unit, s.kind) if s.kind else v[i])
            for v, s in zip(values, shown)
        ]
        cells.append([*(_number(source[p]) for p in asked.places), *told, note])
    return cells, missing


def _number(text: str) -> float | str:
    try:
        return float(text)
    except ValueError:
        return text
