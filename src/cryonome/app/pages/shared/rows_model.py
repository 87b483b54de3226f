"""Lists of a question as tables, made from the fields of what they are lists of: stations, stages, axes, parameters,
feeds.

A column a field, with the unit that a bare number means in its header where all rows share it; the row below the last
begins a new one, a row that is emptied goes. No kind of question needs a table of its own for that."""

from __future__ import annotations

import types
from functools import cache
from typing import Annotated, Any, Union, get_args, get_origin, get_type_hints

from pydantic import BaseModel

from ....document import Study
from ....document.cell_kinds import kind_at
from ....document.drafts import draft_of, typed
from ....document.edits import study_path
from ....document.faults import PathParts
from ....document.field_types import FLUIDS, SAMPLES, STUDIES, Cell, Names, OneOf
from ....document.part import Part
from ....document.reader import cell_text, plain_cell
from ....document.references import asks_another, marks
from ....units import label
from ....wording.entry import entry_of, taken, taken_as, usual_unit
from ...shell.live import Live
from ...widgets.grid import GridModel


@cache
def lists_of(model: type[BaseModel]) -> tuple[tuple[str, type[Part]], ...]:
    """Return the fields of a question that are lists of parts, with what they are lists of."""
    hints = get_type_hints(model, include_extras=True)
    found = [(name, _part_in(hints[name])) for name in model.model_fields]
    return tuple((name, part) for name, part in found if part is not None)


def _part_in(hint: Any) -> type[Part] | None:
    """Return the part that a type is a list of, None where it is none."""
    if get_origin(hint) is Annotated:
        return _part_in(get_args(hint)[0])
    if get_origin(hint) in (Union, types.UnionType):
        return None
    inner = get_args(hint)
    if get_origin(hint) is tuple and len(inner) == 2 and inner[1] is Ellipsis:
        return inner[0] if isinstance(inner[0], type) and issubclass(inner[0], Part) else None
    return None


class RowsModel(GridModel):
    """One list of a question as a table."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._study: Study | None = None
        self.key = ""
        self._part: type[Part] | None = None
        self._faults: dict[str, str] = {}

    def show(self, study: Study | None, key: str, part: type[Part] | None, faults: dict[str, str]) -> None:
        """Show the list ``key`` of a question; ``faults`` by their path in it."""
        self._study, self.key, self._part, self._faults = study, key, part, faults
        self.reload()

    def _rows(self) -> tuple[Any, ...]:
        found = getattr(self._study, self.key, ()) if self._study is not None else ()
        return found if isinstance(found, tuple) else ()

    def _fields(self) -> list[str]:
        return list(self._part.model_fields) if self._part is not None else []

    def _sample(self, row: int) -> Any:
        """Return a row's part, of the row below the last an empty one."""
        rows = self._rows()
        if row < len(rows):
            return rows[row]
        return self._part.model_construct() if self._part is not None else None

    def _kind(self, row: int, column: int) -> str | None:
        part = self._sample(row)
        return None if part is None else kind_at(part, (self._fields()[column],), self._live.document)

    def _unit(self, row: int, column: int) -> str:
        cell = getattr(self._sample(row), self._fields()[column], None)
        return entry_of(cell, self._kind(row, column), self._live.units()).unit if _is_cell(cell) else ""

    def titles(self) -> list[tuple[str, str]]:
        out = []
        for column, name in enumerate(self._fields()):
            units = {self._unit(r, column) for r in range(len(self._rows()))} or {
                usual_unit(self._kind(0, column), self._live.units())
            }
            out.append((name.replace("_", " "), label(next(iter(units))) if len(units) == 1 and units != {""} else ""))
        return out

    def rows(self) -> int:
        return len(self._rows()) + 1 if self._part is not None else 0

    def _path(self, row: int, column: int) -> PathParts:
        assert self._study is not None
        return (*study_path(self._live.document, self._study.name), self.key, row, self._fields()[column])

    def text(self, row: int, column: int) -> str:
        if row >= len(self._rows()):
            return ""
        draft = draft_of(self._live.document, self._path(row, column)) if self._live.document.drafts else None
        if draft is not None:
            return draft
        cell = getattr(self._rows()[row], self._fields()[column])
        if isinstance(cell, tuple):
            return ", ".join(entry_of(v, self._kind(row, column), self._live.units()).whole for v in cell)
        if not _is_cell(cell):
            return str(cell)
        entry = entry_of(cell, self._kind(row, column), self._live.units())
        same = self.titles()[column][1]
        return entry.text if same or not entry.unit else entry.whole

    def edit_text(self, row: int, column: int) -> str:
        cell = getattr(self._sample(row), self._fields()[column], None)
        if not _is_cell(cell) or self.titles()[column][1]:
            return self.text(row, column)
        return cell_text(cell)

    def editable(self, row: int, column: int) -> bool:
        return True

    def left_aligned(self, column: int) -> bool:
        return self._kind(0, column) is None

    def fault(self, row: int, column: int) -> str:
        key = self._fields()[column]
        field = self._part.model_fields[key] if self._part is not None else None
        written = (field.alias or key) if field is not None else key
        own = self._faults.get(f"{self.key}[{row}].{written}", "")
        return own or (self._faults.get(f"{self.key}[{row}]", "") if column == 0 else "")

    def choices(self, row: int, column: int) -> list[str]:
        document, part = self._live.document, self._sample(row)
        if not isinstance(part, BaseModel):
            return []
        for found in marks(part):
            if found.path != (self._fields()[column],):
                continue
            if isinstance(found.mark, OneOf):
                return list(found.mark.choices)
            if isinstance(found.mark, Names) and found.mark.what in (FLUIDS, SAMPLES):
                return [t.name for t in getattr(document, found.mark.what)]
            if isinstance(found.mark, Names) and found.mark.what == STUDIES:
                return [s.name for s in document.studies if not asks_another(s)]
        return []

    def closed(self, row: int, column: int) -> bool:
        return bool(self.choices(row, column))

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        study, part = self._study, self._part
        if study is None or part is None:
            return
        rows = [dict(r) for r in self._rows()]
        odd: dict[tuple[int, int], str] = {}
        for (row, column), value in sorted(cells.items()):
            if column >= len(self._fields()) or (row >= len(rows) and not value.strip()):
                continue
            name = self._fields()[column]
            while row >= len(rows):
                rows.append(_begun(part, len(rows) + 1))
            rows[row][name] = self._read(row, column, value, rows[row][name])
            odd[row, column] = value
        touched = {r for r, _ in odd}
        kept = [
            i
            for i, r in enumerate(rows)
            if i not in touched or any(_filled(v) for k, v in r.items() if k != "name") or r.get("name")
        ]
        if len(kept) == len(rows) and len(odd) == 1 and len(rows) == len(self._rows()):
            (row, column), value = next(iter(odd.items()))
            stored = rows[row][self._fields()[column]]
            self._live.store.edit(text, lambda d: typed(d, self._path(row, column), stored, value))
            return
        made = tuple(part.model_construct(**rows[i]) for i in kept)
        place = (*study_path(self._live.document, study.name), self.key)
        self._live.store.edit(text, lambda d: typed(d, place, made, ""))

    def _read(self, row: int, column: int, text: str, now: Any) -> Any:
        kind = self._kind(row, column)
        if isinstance(now, tuple) or "tuple" in _hint(self._part, self._fields()[column]):
            unit = usual_unit(kind, self._live.units()) if kind else ""
            return tuple(taken(v, unit) if unit else plain_cell(v) for v in text.split(",") if v.strip()) or None
        if kind is None:
            return text.strip() if _is_text(self._part, self._fields()[column]) else plain_cell(text)
        return taken_as(text, now if _is_cell(now) else None, kind, self._live.units())


def _is_cell(value: Any) -> bool:
    return value is None or isinstance(value, (str, int, float))


@cache
def _hint(part: type[BaseModel] | None, name: str) -> str:
    return str(get_type_hints(part).get(name)) if part is not None else ""


@cache
def _is_text(part: type[BaseModel] | None, name: str) -> bool:
    """Tell whether a field holds words rather than a cell."""
    hint = get_type_hints(part).get(name) if part is not None else None
    return hint is str


def _filled(value: Cell | Any) -> bool:
    return value not in (None, "", ())


def _begun(part: type[Part], number: int) -> dict[str, Any]:
    """Return a new row: what stands by default, and a name where it has one."""
    out: dict[str, Any] = {}
    for name, field in part.model_fields.items():
        out[name] = (
            f"Row {number}"
            if name == "name"
            else ""
            if field.is_required()
            else field.get_default(call_default_factory=True)
        )
    return out
