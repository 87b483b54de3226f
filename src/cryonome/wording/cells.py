"""The cells of a question: what each shows, the unit that a bare number means there, what may be picked, and what a
typed text becomes."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import BaseModel

from ..document import Document, Study
from ..document.cell_kinds import kind_at
from ..document.cell_paths import NoPathError, resolved
from ..document.conditions import CONDITIONS
from ..document.drafts import draft_of, typed
from ..document.edits import get_at, study_path
from ..document.faults import PathParts
from ..document.field_types import ANSWER, CELL, FLUIDS, SAMPLES, SHARE, STUDIES, Cell, Names, OneOf, Suggested
from ..document.reader import cell_text, plain_cell
from ..document.references import asks_another, marks
from ..eos.building import EQUATIONS
from ..fluids.columns import OF_PHASE, OF_WHOLE
from ..fluids.property_choice import OWN, title_of
from ..questions.asking import input_words
from ..telling.sentences import Units
from ..telling.table_blocks import of_key
from .entry import entry_of, in_unit, taken, taken_as, units_offered, usual_unit

WORDED = ("variable", "path", "of", "read", "compact", "scale", "rate_by", "water", "inhibitor", "name", "feed")
"""Keys whose cells are words, whatever they look like."""

SAID: dict[str, dict[str, str]] = {
    "water": {"free": "free water", "as given": "the water it has"},
    "scale": {"linear": "equal", "logarithmic": "logarithmic"},
    "container": {
        "by rule": "the container that the rule asks for",
        "live": "a floating piston cylinder",
        "dead": "an open container",
    },
    "air": {"yes": "saturated with air", "no": "free of air"},
    "feed": {"saturated": "saturated"},
    "equation": {"": "its equation"},
    "variable": {k: c.title for k, c in CONDITIONS.items()},
}
"""What a choice is called in a sentence, by its key; others are called as they are written."""

YES, NO = "yes", "no"
ANSWERS = {YES: True, "true": True, "1": True, NO: False, "false": False, "0": False}
"""What a cell that is on or off may say."""


@dataclass(frozen=True)
class Shown:
    """A cell as it is shown, the unit beside it, and whether it is what was typed and cannot stand there."""

    text: str
    unit: str = ""
    draft: bool = False


@dataclass(frozen=True)
class Cells:
    """The cells of one question of a document, in the reader's units; paths are those within the question."""

    study: Study
    document: Document
    units: Units

    def place(self, path: PathParts) -> PathParts:
        """Return the path in the document of a cell."""
        return (*study_path(self.document, self.study.name), *path)

    def value(self, path: PathParts) -> object:
        """Return what stands in a cell, None where nothing does."""
        try:
            return get_at(self.study, path)
        except (KeyError, IndexError, AttributeError, TypeError):
            return None

    def kind(self, path: PathParts) -> str | None:
        """Return what a cell measures."""
        return kind_at(self.study, path, self.document)

    def mark(self, path: PathParts) -> OneOf | Names | Suggested | None:
        """Return what the field of a cell says of its text."""
        return next((m.mark for m in marks(self.study) if m.path == path and not m.key), None)

    def _extra(self, path: PathParts, key: str) -> object:
        """Return what the field of a list says of it beside its type."""
        field = type(self.study).model_fields.get(str(path[0]))
        extra = field.json_schema_extra if field is not None else None
        return extra.get(key) if len(path) == 1 and isinstance(extra, dict) else None

    def is_ends(self, path: PathParts) -> bool:
        """Tell whether a list is the two ends of a range."""
        return bool(self._extra(path, "ends"))

    def switches(self, path: PathParts) -> bool:
        """Tell whether a cell is on or off."""
        field = type(self.study).model_fields.get(str(path[0]))
        return len(path) == 1 and field is not None and isinstance(field.default, bool)

    # -- shown -------------------------------------------------------------------------------------------------------

    def shown(self, path: PathParts) -> Shown:
        """Return what a cell shows."""
        draft = draft_of(self.document, self.place(path)) if self.document.drafts else None
        if draft is not None:
            return Shown(draft, "", True)
        value, kind = self.value(path), self.kind(path)
        if isinstance(value, tuple):
            return self._list(value, kind, path)
        if isinstance(value, Mapping):
            return Shown(", ".join(f"{name} {cell_text(v)}" for name, v in value.items()), usual_unit(kind, self.units))
        if isinstance(value, bool):
            return Shown(self._said(path, YES if value else NO))
        if kind is None:
            return Shown(self._worded(path, cell_text(value)))  # type: ignore[arg-type]
        entry = entry_of(value, kind, self.units)  # type: ignore[arg-type]
        return Shown(entry.text, entry.unit)

    def _said(self, path: PathParts, key: str) -> str:
        return SAID.get(str(path[-1]), {}).get(key, key)

    def _worded(self, path: PathParts, text: str) -> str:
        """Return a text as a sentence says it: a path as what it leads to, a choice by its words."""
        mark = self.mark(path)
        if isinstance(mark, Names) and mark.what == CELL and text:
            try:
                return input_words(resolved(text, self.document), self.document)
            except NoPathError:
                return text
        if isinstance(mark, Names) and mark.what == ANSWER and text:
            return answer_words(text)
        return self._said(path, text)

    def _list(self, value: tuple[object, ...], kind: str | None, path: PathParts) -> Shown:
        """Return a list in one line, with its unit beside it where all have the same."""
        if not value and self._extra(path, "empty"):
            return Shown(str(self._extra(path, "empty")))
        plain = [v for v in value if not isinstance(v, (tuple, BaseModel))]
        if plain and (*path, 0) in self._answer_places():
            return Shown(", ".join(answer_words(str(v)) for v in plain))
        ends = " to " if self.is_ends(path) and len(value) == 2 else ", "
        entries = [entry_of(v, kind, self.units) for v in plain]  # type: ignore[arg-type]
        if kind and len(entries) == len(value) and len({e.unit for e in entries}) == 1:
            return Shown(ends.join(e.text for e in entries), entries[0].unit)
        if kind and not value:
            return Shown("", usual_unit(kind, self.units))
        told = [" + ".join(map(str, v)) if isinstance(v, tuple) else cell_text(v) for v in value]  # type: ignore[arg-type]
        # Names may hold commas; groups of names stand apart by semicolons.
        apart = "; " if any("," in t for t in told) or any(isinstance(v, tuple) for v in value) else ", "
        return Shown(apart.join(told))

    def _answer_places(self) -> set[PathParts]:
        return {m.path for m in marks(self.study) if isinstance(m.mark, Names) and m.mark.what == ANSWER}

    # -- picked --------------------------------------------------------------------------------------------------------

    def choices(self, path: PathParts) -> dict[str, str]:
        """Return what may be picked in a cell: what is stored, and its words."""
        found = self._choices(path)
        return {key: self._said(path, key) for key in found}

    def _choices(self, path: PathParts) -> list[str]:
        document, mark = self.document, self.mark(path)
        if isinstance(mark, (OneOf, Suggested)):
            return list(mark.choices)
        if isinstance(mark, Names):
            groups = {FLUIDS: document.every_fluid, SAMPLES: document.samples}
            if mark.what in groups:
                return [t.name for t in groups[mark.what]]  # type: ignore[attr-defined]
            if mark.what == STUDIES:
                return [s.name for s in document.studies if not asks_another(s)]
        if path[-1] == "equations":
            return list(EQUATIONS)
        if path[-1] == "feed":
            return ["saturated"]
        return [YES, NO] if self.switches(path) else []

    def closed(self, path: PathParts) -> bool:
        """Tell whether a cell is picked from its choices and takes nothing else."""
        return bool(self._choices(path)) and not isinstance(self.mark(path), Suggested) and path[-1] != "feed"

    def units_offered(self, path: PathParts) -> list[str]:
        """Return the units that a cell may be shown in."""
        value = self.value(path)
        return units_offered(self.kind(path), None if isinstance(value, (tuple, Mapping)) else value)  # type: ignore[arg-type]

    # -- typed ---------------------------------------------------------------------------------------------------------

    def read(self, path: PathParts, text: str) -> object:
        """Return what was typed in a cell as it holds it."""
        now, kind, units = self.value(path), self.kind(path), self.units
        if self.switches(path):
            # What says neither stays as it was typed, and is a fault.
            return ANSWERS.get(text.strip().casefold(), text)
        if isinstance(now, Mapping):
            return named_cells(text, usual_unit(kind, units) if kind == SHARE else "")
        if isinstance(now, tuple):
            if now and all(isinstance(v, BaseModel) for v in now):
                return text
            if text.strip() == self._extra(path, "empty"):
                return ()
            names = [s.name for s in self.document.studies]
            unit = self.shown(path).unit or usual_unit(kind, units)
            if self.is_ends(path):
                text = re.sub(r"\s+to\s+|\s*\.\.+\s*", ", ", text)
            return _listed(text, path[-1] == "groups", names, unit if kind else "")
        if self.mark(path) is not None or (isinstance(now, str) and path[-1] in WORDED):
            return text.strip()
        return plain_cell(text) if kind is None else taken_as(text, now, kind, units)  # type: ignore[arg-type]

    def stored(self, path: PathParts, value: object, text: str) -> Document:
        """Return the document with a cell set, what cannot stand there kept as the ``text`` that was typed."""
        return typed(self.document, self.place(path), value, text)

    def converted(self, path: PathParts, unit: str) -> object:
        """Return what stands in a cell in another unit of its kind."""
        value, kind = self.value(path), self.kind(path) or ""
        if isinstance(value, tuple):
            return tuple(in_unit(v, kind, unit) for v in value)
        if isinstance(value, Mapping):
            return {k: in_unit(v, kind, unit) for k, v in value.items()}
        return in_unit(value, kind, unit)  # type: ignore[arg-type]


def answer_words(path: str) -> str:
    """Return what a value of an answer is called, by its path."""
    path = path.replace("[*]", "")
    bare = path.removeprefix("phases.").rpartition(".")[2]
    known = bare in OF_WHOLE or bare in OF_PHASE or bare in OWN or ".composition." in path
    if known and bare == path and bare in OF_PHASE and bare not in OF_WHOLE:
        told = OF_PHASE[bare].name
    else:
        told = title_of(path) if known else of_key(path, Units.of("SI")).name
    return told[:1].lower() + told[1:] if told[1:2].islower() else told


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
    """Return cells by name from a line as ``methanol 20 wt%, NaCl 5 wt%`` or ``20 wt% methanol``, a bare number in
    ``unit``; what has no number keeps an empty cell, which says so."""
    out: dict[str, Cell] = {}
    for item in re.split(r"[;,\n]", text):
        found = re.match(r"\s*(.*?\S)\s*[:=]?\s+([\d.][^\n]*)$", item)
        other = re.match(r"\s*([\d.]+\s*(?:wt\s*%|mass\s*%|%)?)\s+(\S.*?)\s*$", item)
        name, cell = (
            (found.group(1), found.group(2)) if found else (other.group(2), other.group(1)) if other else ("", "")
        )
        if name:
            out[name.strip()] = taken(cell, unit) if unit else plain_cell(cell)
        elif item.strip():
            out[item.strip()] = None
    return out
