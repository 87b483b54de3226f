"""What a question asks, a row a cell: its words, what stands there, and the unit that a bare number means."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping

from pydantic import BaseModel

from ...document import Study
from ...document.cell_kinds import kind_at
from ...document.drafts import draft_of, typed
from ...document.edits import get_at, study_path
from ...document.faults import PathParts
from ...document.field_types import FLUIDS, SAMPLES, SHARE, STUDIES, Cell, Names, OneOf, Suggested
from ...document.reader import cell_text, plain_cell
from ...document.references import asks_another, marks
from ...studies.asking import is_number
from ...units import label
from ...wording.entry import entry_of, in_unit, taken, taken_as, units_offered, usual_unit
from ..grid import GridModel, GridView
from ..live import Live

FIXED = ("name", "kind", "reference")

ABOUT = ("fluid", "sample", "of")
WORDED = ("variable", "path", "of", "read", "compact", "scale", "rate_by", "water", "inhibitor", "name")
"""Keys whose cells are words, whatever they look like."""

YES, NO = "yes", "no"
ANSWERS = {YES: True, "true": True, "1": True, NO: False, "false": False, "0": False}
"""What a cell that is on or off may say."""


def _switches(study: Study, path: PathParts) -> bool:
    """Tell whether a cell is on or off."""
    field = type(study).model_fields.get(str(path[0]))
    return len(path) == 1 and field is not None and isinstance(field.default, bool)


def _offered(study: BaseModel, key: str) -> bool:
    """Tell whether a key of a study is answered by now, or was entered nonetheless, and fits on a line."""
    extra = type(study).model_fields[key].json_schema_extra
    if isinstance(extra, dict) and extra.get("table"):
        return False
    return not (isinstance(extra, dict) and extra.get("later")) or getattr(study, key) is not None


class AsksModel(GridModel):
    """What a question asks: a row a key of its kind, editable as text. A number's unit stands beside it and is what a bare number means."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._study: Study | None = None
        self._faults: dict[str, str] = {}
        self._paths: dict[str, PathParts] = {}

    def show(self, study: Study | None, faults: dict[str, str], without: tuple[str, ...] = ()) -> None:
        """Show a question, ``without`` parts that stand elsewhere."""
        self._study, self._faults = study, faults
        leaves = sorted(_leaves(study), key=_order) if study is not None else []
        self._paths = {k: p for k, p in leaves if p[0] not in without}
        self.reload()

    def keys(self) -> list[str]:
        """Return the keys that can be set."""
        return list(self._paths)

    def titles(self) -> list[tuple[str, str]]:
        return [("asks", ""), ("", ""), ("unit", "")]

    def rows(self) -> int:
        return len(self.keys())

    def _place(self, row: int) -> PathParts:
        """Return the path in the document of a row's cell."""
        assert self._study is not None
        return (*study_path(self._live.document, self._study.name), *self._paths[self.keys()[row]])

    def kind(self, row: int) -> str | None:
        """Return what a row's cell measures."""
        if self._study is None:
            return None
        return kind_at(self._study, self._paths[self.keys()[row]], self._live.document)

    def _shown(self, row: int) -> tuple[str, str]:
        """Return what a row's cell shows, and the unit beside it."""
        study, key = self._study, self.keys()[row]
        assert study is not None
        draft = draft_of(self._live.document, self._place(row)) if self._live.document.drafts else None
        if draft is not None:
            return draft, ""
        value, kind, units = get_at(study, self._paths[key]), self.kind(row), self._live.units()
        if isinstance(value, tuple):
            return self._list(value, kind)
        if isinstance(value, Mapping):
            return ", ".join(f"{name} {cell_text(v)}" for name, v in value.items()), usual_unit(kind, units)
        if isinstance(value, bool):
            return YES if value else NO, ""
        if kind is None:
            return cell_text(value), ""
        entry = entry_of(value, kind, units)
        return entry.text, entry.unit

    def _list(self, value: tuple[object, ...], kind: str | None) -> tuple[str, str]:
        """Return a list in one line, with its unit beside it where all have the same."""
        entries = [entry_of(v, kind, self._live.units()) for v in value if not isinstance(v, (tuple, BaseModel))]  # type: ignore[arg-type]
        if kind and len(entries) == len(value) and len({e.unit for e in entries}) == 1:
            return ", ".join(e.text for e in entries), entries[0].unit
        if kind and not value:
            return "", usual_unit(kind, self._live.units())
        told = [" + ".join(map(str, v)) if isinstance(v, tuple) else cell_text(v) for v in value]  # type: ignore[arg-type]
        # Names may hold commas; groups of names stand apart by semicolons.
        apart = "; " if any("," in t for t in told) or any(isinstance(v, tuple) for v in value) else ", "
        return apart.join(told), ""

    def text(self, row: int, column: int) -> str:
        if row >= self.rows():
            return ""
        if column == 0:
            key = self.keys()[row]
            return re.sub(r"\[(\d+)\]", lambda m: f" {int(m.group(1)) + 1}", key).replace(".", ", ").replace("_", " ")
        text, unit = self._shown(row)
        return text if column == 1 else label(unit) if unit else ""

    def left_aligned(self, column: int) -> bool:
        return column in (0, 2)

    def muted(self, row: int, column: int) -> bool:
        return column != 1

    def editable(self, row: int, column: int) -> bool:
        return column == 1

    def _mark(self, row: int) -> OneOf | Names | Suggested | None:
        path = self._paths[self.keys()[row]]
        return next((m.mark for m in marks(self._study) if m.path == path), None) if self._study is not None else None

    def choices(self, row: int, column: int) -> list[str]:
        document, study = self._live.document, self._study
        if study is None or column != 1:
            return []
        mark = self._mark(row)
        if isinstance(mark, (OneOf, Suggested)):
            return list(mark.choices)
        if isinstance(mark, Names):
            groups = {FLUIDS: document.every_fluid, SAMPLES: document.samples}
            if mark.what in groups:
                return [t.name for t in groups[mark.what]]  # type: ignore[attr-defined]
            if mark.what == STUDIES:
                return [s.name for s in document.studies if not asks_another(s)]
        return [YES, NO] if _switches(study, self._paths[self.keys()[row]]) else []

    def closed(self, row: int, column: int) -> bool:
        """Tell whether a cell is picked from its choices."""
        return bool(self.choices(row, column)) and not isinstance(self._mark(row), Suggested)

    def unit_cell(self, row: int, column: int) -> bool:
        return column == 2

    def unit_of(self, row: int, column: int) -> tuple[list[str], str] | None:
        if column == 0 or self._study is None or row >= self.rows():
            return None
        value = get_at(self._study, self._paths[self.keys()[row]])
        offered = units_offered(self.kind(row), None if isinstance(value, (tuple, Mapping)) else value)
        return (offered, self._shown(row)[1]) if offered else None

    def set_unit(self, row: int, column: int, unit: str) -> None:
        study, kind = self._study, self.kind(row)
        if study is None or kind is None:
            return
        path = self._paths[self.keys()[row]]
        value = get_at(study, path)
        changed = (
            tuple(in_unit(v, kind, unit) for v in value) if isinstance(value, tuple) else in_unit(value, kind, unit)
        )
        self._set(row, changed, "", f"Change a unit of {study.name}")

    def fault(self, row: int, column: int) -> str:
        if column != 1:
            return ""
        key = self.keys()[row]
        # What is wrong with a part is told at its first cell.
        first = {
            k: m for k, m in self._faults.items() if key == next((n for n in self._paths if n.startswith(k)), None)
        }
        return self._faults.get(key) or next(iter(first.values()), "")

    def input_path(self, row: int, column: int) -> PathParts | None:
        study = self._study
        if study is None or column != 1 or row >= self.rows():
            return None
        return self._place(row) if is_number(get_at(study, self._paths[self.keys()[row]])) else None

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        study = self._study
        if study is None or self._live.document.study(study.name) is None:
            return
        for (row, column), value in cells.items():
            if column == 1 and row < self.rows():
                self._set(row, self._read(row, value), value, f"Change {study.name}")

    def _set(self, row: int, value: object, text: str, words: str) -> None:
        path = self._place(row)
        self._live.store.edit(words, lambda d: typed(d, path, value, text))

    def _read(self, row: int, text: str) -> object:
        """Return what was typed in a row as its cell holds it."""
        study, path, units = self._study, self._paths[self.keys()[row]], self._live.units()
        assert study is not None
        now, kind = get_at(study, path), self.kind(row)
        if _switches(study, path):
            # What says neither stays as it was typed, and is a fault.
            return ANSWERS.get(text.strip().casefold(), text)
        if isinstance(now, Mapping):
            return named_cells(text, usual_unit(kind, units) if kind == SHARE else "")
        if isinstance(now, tuple):
            if now and all(isinstance(v, BaseModel) for v in now):
                return text
            names = [s.name for s in self._live.document.studies]
            unit = self._list(now, kind)[1] or usual_unit(kind, units)
            return _listed(text, path[-1] == "groups", names, unit if kind else "")
        if self._mark(row) is not None or (isinstance(now, str) and path[-1] in WORDED):
            return text.strip()
        return plain_cell(text) if kind is None else taken_as(text, now, kind, units)


def fit_asks(grid: GridView) -> None:
    """Give words and values the room, and the unit what it needs."""
    header = grid.horizontalHeader()
    for column in range(header.count()):
        header.setSectionResizeMode(column, header.ResizeMode.Stretch if column < 2 else header.ResizeMode.Fixed)
    if header.count() > 2:
        header.resizeSection(2, 64)


def _listed(text: str, groups: bool, names: list[str], unit: str) -> tuple[object, ...]:
    """Return a line as a list of cells, of names with commas where semicolons part them, or of groups of names."""
    if groups:
        return tuple(
            tuple(n.strip() for n in group.split(" + ") if n.strip()) for group in text.split(";") if group.strip()
        )
    if text.strip() in names:
        return (text.strip(),)
    items = [v for v in text.split(";" if ";" in text else ",") if v.strip()]
    return tuple(taken(v, unit) if unit else plain_cell(v) for v in items)


def named_cells(text: str, unit: str = "") -> dict[str, Cell]:
    """Return cells by name from a line as ``methanol 20 wt%, NaCl 5 wt%``, a bare number in ``unit``; what has no number keeps an empty cell, which says so."""
    out: dict[str, Cell] = {}
    for item in re.split(r"[;,\n]", text):
        found = re.match(r"\s*(.*?\S)\s*[:=]?\s+([\d.][^\n]*)$", item)
        if found:
            out[found.group(1).strip()] = taken(found.group(2), unit) if unit else plain_cell(found.group(2))
        elif item.strip():
            out[item.strip()] = None
    return out


def _leaves(part: BaseModel, own: PathParts = (), told: str = "") -> Iterator[tuple[str, PathParts]]:
    """Return the cells of a question, each by its name as the document writes it and its path."""
    for name, field in type(part).model_fields.items():
        value = getattr(part, name)
        key = f"{told}.{field.alias or name}" if told else field.alias or name
        if not own and (name in FIXED or not _offered(part, name)):
            continue
        if isinstance(value, BaseModel):
            yield from _leaves(value, (*own, name), key)
        elif isinstance(value, tuple) and value and all(isinstance(v, BaseModel) for v in value):
            for i, item in enumerate(value):
                yield from _leaves(item, (*own, name, i), f"{key}[{i}]")
        elif not own or value is not None:
            yield key, (*own, name)


def _order(leaf: tuple[str, PathParts]) -> tuple[int, str, bool]:
    """Return where a cell stands: what the question is about first, then its parts, each by what names it, then the rest."""
    key, path = leaf
    if path[0] in ABOUT:
        return 0, "", False
    if len(path) > 1:
        return 1, key.rpartition(".")[0], path[-1] not in ("variable", "path")
    return 2, "", False
