"""The study ``sweep``: one or two inputs of the document varied, and what an answer makes of it."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product
from typing import Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.cell_kinds import kind_of_cell
from ...document.edits import get_at
from ...document.faults import PathParts
from ...document.field_types import AnswerPath, Cell, CellPath, StudyRef
from ...document.kinds import StudyKind, register
from ...document.ranges import Range, read_range
from ...errors import DomainError
from ...remarks import Remark, said
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError, reason_of
from ...results.evaluator import Project
from ...telling.sentences import Units
from ...telling.table_blocks import of_key
from ...units import QuantityError
from ...watch import Watch
from ..state_batches import StateBatch, batch_of
from ..value_reading import Read, needed, number_read, read_what
from ..varying import (
    Scale,
    answered_together,
    answered_with,
    around,
    is_number,
    read_path,
    read_subject,
    scale_of_cells,
)

MOST = 2000
"""Answers of one sweep."""


class Variation(Range):
    """An input by its path in the document and the values it takes."""

    path: CellPath

    def cell_kind(self, document: Document) -> str | None:
        """Return what its values measure: the cell it varies."""
        return kind_of_cell(self.path, document)


class SweepStudy(Study):
    """Asks a study of the document again and again, with one or two inputs varied; ``read`` are paths in its answer."""

    kind: Literal["sweep"]
    of: StudyRef
    vary: Variation | tuple[Variation, ...]
    read: tuple[AnswerPath, ...]

    def implied(self, document: Document) -> tuple[str, ...]:
        """Return the questions that named values which are read ask for."""
        return needed(self.read, document)


class RowAnswer(TypedDict):
    """One answer: the varied input in SI (two in a list), what was read, null where it could not be, and why not."""

    vary: float | list[float]
    read: list[float | None]
    ok: bool
    error: NotRequired[str]


class SweepAnswer(Common):
    """What was read, in the order of the values; of two inputs the second varies faster. ``varied`` and ``paths`` are
    the paths of the question, in the order of a row's; ``varied_kinds`` what the inputs measure, "" for plain
    numbers."""

    varied: NotRequired[list[str]]
    varied_kinds: NotRequired[list[str]]
    paths: NotRequired[list[str]]
    rows: NotRequired[list[RowAnswer]]


@dataclass(frozen=True)
class Input:
    """A varied cell: its path, how it is written, and its values, in its unit."""

    path: PathParts
    scale: Scale
    values: tuple[float, ...]


@dataclass(frozen=True)
class Asked:
    """The study asked, the inputs and their paths as written, the paths to read; ``flash`` holds its other conditions
    where all is one batch of states."""

    of: str
    inputs: tuple[Input, ...]
    named: tuple[str, ...]
    read: tuple[Read, ...]
    batch: StateBatch | None = None


def read(study: SweepStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    subject = read_subject(study.of, study, document, reader.at("of"))
    several = isinstance(study.vary, tuple)
    vary = study.vary if isinstance(study.vary, tuple) else (study.vary,)
    if len(vary) not in (1, 2):
        reader.at("vary").fault(f"one or two inputs are varied at once; {len(vary)} given")
        return None
    inputs = [
        read_input(v, document, reader.at("vary", i) if several else reader.at("vary")) for i, v in enumerate(vary)
    ]
    if not study.read:
        reader.at("read").fault("the list is empty; give at least one path in the answer, for example vapour_fraction")
    if len(vary) == 2 and inputs[0] is not None and inputs[1] is not None and inputs[0].path == inputs[1].path:
        reader.at("vary", 1, "path").fault("the same input is varied twice; name another one")
    wanted = tuple(read_what(path, document, reader.at("read", i)) for i, path in enumerate(study.read))
    count = int(np.prod([len(v.values) for v in inputs if v is not None], dtype=float))
    if count > MOST:
        reader.at("vary").fault(f"{count} answers are too many; ask for at most {MOST}")
    if reader.bad or subject is None or any(v is None for v in inputs):
        return None
    found = tuple(v for v in inputs if v is not None)
    ends = [(min(v.values), max(v.values)) for v in found]
    batch = batch_of(subject, [v.path for v in found], [v.scale for v in found], ends, study.read, document)
    return Asked(study.of, found, tuple(v.path for v in vary), tuple(w for w in wanted if w is not None), batch)


def read_input(given: Variation, document: Document, reader: Reader) -> Input | None:
    """Return a varied cell with its values; None with a fault."""
    path = read_path(given.path, document, reader.at("path"))
    cells = list(given.values) if given.values is not None else [given.begin, given.end]
    if given.values is not None and not cells:
        reader.at("values").fault("the list is empty; give at least one value")
        return None
    found = scale_of_cells(cells, reader)
    if path is None or found is None:
        return None
    scale, numbers = found
    # Steps are equal in the unit the ends are written in.
    if given.values is None:
        plain = given.model_copy(update={"begin": numbers[0], "end": numbers[1]})
    else:
        plain = given.model_copy(update={"values": tuple(numbers)})
    values = read_range(plain, reader, lambda cell, here: here.number(cell, "a number"), scale.difference)
    if values is None:
        return None
    for i, value in enumerate(values):
        try:
            scale.si(value)
        except QuantityError as error:
            place = ("values", i) if given.values is not None else ("from",) if i == 0 else ("to",)
            reader.at(*place).fault(str(error))
            return None
    return Input(path, scale, values)


def solve(asked: Asked, context: Context) -> Answer:
    """Return what was read with every value; answers that fail are kept with their reason."""
    points = list(product(*(v.values for v in asked.inputs)))
    together = (
        None
        if asked.batch is not None
        else answered_together(asked.of, [_changes(asked, p) for p in points], context, _reads(asked))
    )
    if asked.batch is not None:
        rows = _in_one(asked, asked.batch, context)
    elif together is not None:
        rows = [_row_of(asked, p, found, context.project) for p, found in zip(points, together)]
    else:
        parts = [context.watch.part(i / len(points), (i + 1) / len(points)) for i in range(len(points))]
        rows = [_row(asked, point, context, part) for point, part in zip(points, parts)]
    failed = sum(not row["ok"] for row in rows)
    notes = [f"{failed} of {len(rows)} answers could not be given; each says why"] if failed else []
    if failed == len(rows):
        first = rows[0]["error"]
        raise NoAnswerError(
            Remark("warning", "sweep.none", values={"count": len(rows)}),
            *(first if isinstance(first, list) else [said(first)]),
        )
    kinds = [v.scale.kind for v in asked.inputs]
    return {
        "varied": list(asked.named),
        "varied_kinds": kinds,
        "paths": [r.key for r in asked.read],
        "rows": rows,
        "notes": notes,
    }


def _vary(asked: Asked, point: tuple[float, ...]) -> float | list[float]:
    found = [v.scale.si(value) for v, value in zip(asked.inputs, point)]
    return found[0] if len(found) == 1 else found


def _changes(asked: Asked, point: tuple[float, ...]) -> list[tuple[PathParts, Cell]]:
    return [(v.path, v.scale.cell(value)) for v, value in zip(asked.inputs, point)]


def _reads(asked: Asked) -> tuple[str, ...]:
    return () if any(r.tree for r in asked.read) else tuple(r.key for r in asked.read)


def _row(asked: Asked, point: tuple[float, ...], context: Context, watch: Watch) -> Answer:
    try:
        answer, project = answered_with(asked.of, _changes(asked, point), context, watch, _reads(asked))
    except DomainError as error:
        return _row_of(asked, point, error, context.project)
    return _row_of(asked, point, answer, project)


def _row_of(asked: Asked, point: tuple[float, ...], answer: Answer | DomainError, project: Project) -> Answer:
    """Return what was read of an answer."""
    told = _vary(asked, point)
    if isinstance(answer, DomainError):
        return {"vary": told, "read": [None] * len(asked.read), "ok": False, "error": reason_of(answer)}
    values: list[float | None] = []
    wrong = []
    for read in asked.read:
        try:
            values.append(number_read(read, answer, asked.of, project))
        except DomainError as error:
            values.append(None)
            wrong.append(str(error))
    return {"vary": told, "read": values, "ok": not wrong, **({"error": "; ".join(wrong)} if wrong else {})}


def _in_one(asked: Asked, batch: StateBatch, context: Context) -> list[Answer]:
    """Return the rows of a sweep of conditions, all states in one batch."""
    points = list(product(*(v.values for v in asked.inputs)))
    columns, there = batch.read(points, context)
    rows: list[Answer] = []
    for i, point in enumerate(points):
        if not there[i]:
            # A value that failed in the batch is asked alone, which tells why.
            rows.append(_row(asked, point, context, Watch(context.watch.cancelled)))
            continue
        values = [float(c[i]) if np.isfinite(c[i]) else None for c in columns]
        missing = [c.key for c, v in zip(batch.columns, values) if v is None]
        told = {"error": f"there is no {', '.join(missing)} at this state"} if missing else {}
        rows.append({"vary": _vary(asked, point), "read": values, "ok": not missing, **told})
    return rows


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    good = sum(row["ok"] for row in answer["rows"])
    return f"{good} of {len(answer['rows'])} answers" if good < len(answer["rows"]) else f"{good} answers, all given"


def begin(study: str, at: tuple[float, float] | None) -> SweepStudy:
    """Return a new question about a state of the document."""
    return SweepStudy(
        name=f"Sweep of {study}",
        kind="sweep",
        of=study,
        vary=Variation(path=f"studies[{study}].temperature", begin="0 degC", end="100 degC", steps=10),
        read=("vapour_fraction",),
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: from where to where the first result goes."""
    rows, key = answer["rows"], answer["paths"][0]
    good = [r for r in rows if r["ok"] and r["read"][0] is not None]
    missing = (
        f"; {len(rows) - sum(r['ok'] for r in rows)} of {len(rows)} have no answer"
        if not all(r["ok"] for r in rows)
        else ""
    )
    if not good:
        return "None of the answers could be given."
    shown, (first, last) = of_key(key, units), (good[0]["read"][0], good[-1]["read"][0])
    name, unit = shown.head
    if first == last:
        return f"{name[:1].upper()}{name[1:]} stays at {shown.short(first)} {unit}".rstrip() + f"{missing}."
    verb = "falls" if last < first else "rises"
    return (
        f"{name[:1].upper()}{name[1:]} {verb} from {shown.short(first)} to {shown.short(last)} {unit}".rstrip()
        + f"{missing}."
    )


def follows(study: SweepStudy, path: PathParts, value: object, document: Document) -> dict[PathParts, object]:
    """Return what changes with a cell: another input is varied about its present value."""
    if path[0] != "vary" or path[-1] != "path":
        return {path: value}
    return {path[:-1]: about_present(str(value), document)}


def offers(study: SweepStudy, path: PathParts, document: Document) -> list[tuple[str, dict[PathParts, object]]]:
    """Return what else the inputs may become: two of them, or one."""
    if path[0] != "vary" or path[-1] != "path":
        return []
    if isinstance(study.vary, tuple) and len(study.vary) > 1:
        place = int(path[1])
        return [("this input alone", {("vary",): study.vary[place]})]
    first = study.vary[0] if isinstance(study.vary, tuple) else study.vary
    return [("and another input", {("vary",): (first, first.model_copy())})]


def about_present(path: str, document: Document) -> Variation:
    """Return an input varied about the value that it has."""
    parts = read_path(path, document, Reader())
    present = get_at(document, parts) if parts is not None else None
    low, high = around(present) if is_number(present) else (None, None)
    return Variation(path=path, begin=low, end=high, steps=10)


register(
    StudyKind(
        name="sweep", title="Sweep", meaning="an input varied over a range, and what an answer makes of it", model=SweepStudy,
        answer=SweepAnswer, read=read, solve=solve, line=line, begin=begin, subject="study", order=80,
        follows=follows, offers=offers, sentence="What becomes of {read} of {of} as <vary| and |{.path} goes {.}>?",
        phrases=("sweep", "vary", "how does", "how do"),
        says=says,
    )
)  # fmt: skip
