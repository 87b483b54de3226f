"""Any input of a document varied: a path to a cell, values for it, and the answer of a study with each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from pydantic import BaseModel

from ..document import Document, Reader
from ..document.cell_paths import NoPathError, resolved
from ..document.edits import get_at, set_at
from ..document.faults import PathParts, errors
from ..document.field_types import Cell
from ..document.kinds import study_kinds
from ..document.model import Study
from ..document.reader import EMPTY
from ..document.references import asks_another
from ..errors import DomainError
from ..results.context import Answer, Context
from ..results.evaluator import Project
from ..units import KINDS, QuantityError, fits, from_si, parse, split
from ..watch import Watch

NOT_VARIED = ("name", "kind", "id")
"""Cells that are no inputs."""


def read_path(text: str, document: Document, reader: Reader) -> PathParts | None:
    """Return the path of a cell of the document that holds, or may hold, a number; None with a fault that names the
    nearest."""
    try:
        out = resolved(text, document)
    except NoPathError as error:
        reader.fault(str(error))
        return None
    thing = get_at(document, out)
    if isinstance(thing, (BaseModel, dict, tuple, list)) or (out[-1:] and out[-1] in NOT_VARIED):
        reader.fault(f"'{text}' is no number to vary; name one cell, for example fluids[0].parts[0].amount")
        return None
    if isinstance(thing, str) and thing not in EMPTY:
        try:
            split(thing)
        except QuantityError:
            reader.fault(f"'{text}' is text ('{thing}'), which cannot be varied")
            return None
    return out


@dataclass(frozen=True)
class Scale:
    """How the values of a varied cell are written and told: numbers in ``unit``, of a ``kind`` that SI is known of,
    "" for neither."""

    unit: str
    kind: str

    def cell(self, value: float) -> Cell:
        """Return a value in the unit as a cell."""
        return f"{value!r} {self.unit}" if self.unit else value

    def difference(self, cell: Cell, reader: Reader) -> float | None:
        """Return a difference of two values as a number in the unit, None with a fault."""
        try:
            number, unit = split(cell) if isinstance(cell, str) else (cell, "")
        except QuantityError as error:
            reader.fault(str(error))
            return None
        if unit in ("", self.unit):
            return reader.number(number, "the size of a step")
        kind = "temperature_difference" if self.kind == "temperature" else self.kind
        found = reader.quantity(cell, kind or "fraction")
        return None if found is None else self.number(self.si(0.0) + found) - self.number(self.si(0.0))

    def si(self, value: float) -> float:
        """Return a value in the unit in SI."""
        return parse(value, self.kind, self.unit) if self.kind else value

    def number(self, value_si: float) -> float:
        """Return an SI value in the unit."""
        return from_si(value_si, self.unit, self.kind) if self.kind else value_si


def scale_of_cells(cells: Sequence[Cell], reader: Reader) -> tuple[Scale, list[float]] | None:
    """Return the scale of cells in one unit, and their numbers; None with a fault."""
    numbers, units = [], []
    for cell in cells:
        if cell in EMPTY or cell is None:
            reader.fault("a value is missing; give from and to with steps, or values")
            return None
        if isinstance(cell, str):
            try:
                number, unit = split(cell)
            except QuantityError as error:
                reader.fault(str(error))
                return None
        else:
            number, unit = float(cell), ""
        numbers.append(number)
        units.append(unit)
    first = units[0]
    kind = next((k for k in KINDS if first and fits(first, k)), "")
    if first and not kind:
        reader.fault(f"'{first}' is not a unit")
        return None
    for i, unit in enumerate(units):
        if unit != first:
            if not (kind and unit and fits(unit, kind)):
                reader.fault(f"the values are in '{first}' and '{unit}'; write all in one unit")
                return None
            numbers[i] = from_si(parse(numbers[i], kind, unit), first, kind)
    return Scale(first, kind), numbers


def answered_with(
    study: str, changes: Sequence[tuple[PathParts, Cell]], context: Context, watch: Watch, reads: Sequence[str] = ()
) -> tuple[Answer, Project]:
    """Return the answer of a study of the document with cells changed, where paths are named what is ``reads`` of it
    at least, and the changed document it was given in. Raises DomainError with the reason where there is none."""
    document = context.project.document
    for path, cell in changes:
        document = set_at(document, path, cell)
    project = context.project.evaluator.at(document)
    asked = document.study(study)
    if asked is None:
        raise DomainError(f"unknown study '{study}'")
    reading = project.read_study(asked)
    wrong = errors(reading.faults)
    if wrong:
        raise DomainError(wrong[0].message)
    kind = study_kinds()[asked.kind]
    wanted = kind.narrowed(reading.asked, reads) if reads else reading.asked
    return {"ok": True, **kind.solve(wanted, Context(project, watch))}, project


def answered_together(
    study: str, changes: Sequence[Sequence[tuple[PathParts, Cell]]], context: Context, reads: Sequence[str]
) -> list[Answer | DomainError] | None:
    """Return the answers of a study with its own cells changed, all done together, of one that has none why; None
    where its kind does them no quicker so, or something else is changed."""
    document = context.project.document
    asked = document.study(study)
    many = study_kinds()[asked.kind].many if asked is not None else None
    if asked is None or many is None or len(changes) < 2:
        return None
    own = ("studies", document.studies.index(asked))
    if any(path[:2] != own for each in changes for path, _ in each):
        return None
    kind, wanted = study_kinds()[asked.kind], []
    out: list[Answer | DomainError] = [DomainError("")] * len(changes)
    for i, each in enumerate(changes):
        changed = document
        for path, cell in each:
            changed = set_at(changed, path, cell)
        one = changed.study(study)
        assert one is not None
        reading = context.project.evaluator.at(changed).read_study(one)
        wrong = errors(reading.faults)
        if wrong:
            out[i] = DomainError(wrong[0].message)
        else:
            wanted.append((i, kind.narrowed(reading.asked, reads)))
    shapes: dict[object, list[int]] = {}
    for place, (_, one_asked) in enumerate(wanted):
        shapes.setdefault(one_asked.shape, []).append(place)
    for number, places in enumerate(shapes.values()):
        watch = context.watch.part(number / len(shapes), (number + 1) / len(shapes))
        try:
            found = many([wanted[p][1] for p in places], Context(context.project, watch))
        except DomainError as error:
            found = [error] * len(places)
        for place, answer in zip(places, found):
            out[wanted[place][0]] = answer if isinstance(answer, DomainError) else {"ok": True, **answer}
    return out


def read_subject(name: str, own: Study, document: Document, reader: Reader) -> Study | None:
    """Return the study that a sweep, a goal or a spread asks, None with a fault: it must be there and ask nothing of
    others itself; a goal may be set for a spread."""
    spreads = not own.may_be_asked
    others = [
        s.name for s in document.studies if s.name != own.name and (not asks_another(s) or (s.may_be_asked and spreads))
    ]
    if name == own.name:
        reader.fault("a study cannot ask itself; name another one")
        return None
    found = document.study(name)
    if found is not None and name not in others:
        told = f"; name one that does not, for example {others[0]}" if others else ""
        reader.fault(f"'{name}' asks another question itself{told}")
        return None
    return found if reader.known(name, others, "study") else None


def is_number(cell: object) -> bool:
    """Tell whether a cell holds a number, with a unit or without."""
    if isinstance(cell, bool) or cell in EMPTY:
        return False
    if isinstance(cell, (int, float)):
        return True
    if not isinstance(cell, str) or not any(c.isdigit() for c in cell):
        return False
    try:
        split(cell)
    except QuantityError:
        return False
    return True


def around(cell: Cell, wide: float = 1.0) -> tuple[Cell, Cell]:
    """Return two values about a cell: 20 degrees of a temperature to both sides, half of anything else; farther where
    ``wide``."""
    number, unit = split(cell) if isinstance(cell, str) else (float(cell or 0.0), "")
    if unit and fits(unit, "temperature"):
        low, high = number - 20.0 * wide, number + 20.0 * wide
    elif number == 0.0:
        low, high = 0.0, 1.0
    else:
        low, high = sorted((0.5 / wide * number, (1.0 + 0.5 * wide**3) * number))
    return (f"{low:.6g} {unit}", f"{high:.6g} {unit}") if unit else (low, high)
