"""A question as its sentence: plain words and blanks, in their order, for a window or a line of text."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from pydantic import BaseModel

from ..document import Document, Study
from ..document.conditions import CONDITIONS
from ..document.edits import get_at
from ..document.faults import PathParts
from ..document.field_types import Cell
from ..document.kinds import StudyKind, study_kinds
from ..document.ranges import Range
from ..document.reader import EMPTY
from ..language import said
from ..solids.inhibitors import INHIBITORS, SALTS
from ..telling.sentences import Units
from ..units import KINDS, label
from .cells import Cells, named_cells
from .entry import in_unit
from .template import Clause, Each, Phrase, Rows, Slot, Words, parts_of

Edit = dict[PathParts, object]
"""Cells of a question by their path in it, with what is to stand there."""

NOUNS = {
    "vapour_fraction": "a vapour share of",
    "vapour_volume_fraction": "a vapour share by volume of",
    "enthalpy": "an enthalpy of",
    "entropy": "an entropy of",
    "density": "a density of",
    "internal_energy": "an internal energy of",
    "molar_volume": "a molar volume of",
}
"""What is said before a condition that its unit does not tell."""

USUAL: dict[str, Cell] = {
    "temperature": "25 degC",
    "pressure": "50 bar",
    "fraction": 0.5,
    "density": "500 kg/m**3",
    "molar_volume": "200 cm**3/mol",
}
"""What stands in a blank that becomes another quantity, where the answer does not tell."""

SPANS: dict[str, tuple[str, str]] = {"temperature": ("0 degC", "25 degC"), "pressure": ("10 bar", "200 bar")}
"""The ends of a range that becomes one of another quantity."""

NONE = "0"
"""What the amount of something that is not there shows."""

LEAST = 2
"""Values of a list that a range is made of."""


@dataclass(frozen=True)
class Said:
    """Words of a sentence; quiet ones belong to a clause that nothing was typed in."""

    text: str
    quiet: bool = False


@dataclass(frozen=True)
class Below:
    """A list that is typed in rows below the sentence."""

    path: str
    text: str


@dataclass(frozen=True)
class Other:
    """Something else that a blank may become: its words and the cells that change."""

    words: str
    cells: Edit


@dataclass(frozen=True)
class Blank:
    """A field in a sentence: where its cell is, what it shows, the unit beside it, and what it may take."""

    path: PathParts
    text: str
    unit: str = ""
    kind: str | None = None
    quiet: bool = False
    fault: str = ""
    choices: Mapping[str, str] = field(default_factory=dict)
    closed: bool = False
    units: tuple[str, ...] = ()
    others: tuple[Other, ...] = ()
    write: Callable[[str], Edit] | None = None
    aside: bool = False
    """Whether it stands in a clause that is not said."""

    @property
    def whole(self) -> str:
        """What it shows with its unit."""
        return f"{self.text} {label(self.unit)}".strip() if self.unit and self.text else self.text

    @property
    def name(self) -> str:
        """What it is called."""
        words = [str(p) for p in self.path if not isinstance(p, int)]
        return " ".join(words).replace("_", " ").replace("begin", "from").replace("end", "to")


Part = Said | Blank | Below


@dataclass(frozen=True)
class Sentence:
    """The parts of a sentence, and whether clauses were left out that could be said."""

    parts: tuple[Part, ...]
    more: bool = False

    @property
    def text(self) -> str:
        """The sentence in one line, without clauses in which nothing stands."""
        told = [
            p for p in self.parts if not (isinstance(p, Said) and p.quiet) and not (isinstance(p, Blank) and p.aside)
        ]
        out = " ".join("".join(p.whole if isinstance(p, Blank) else p.text for p in told).split())
        out = out.replace(" ,", ",").replace(" ?", "?").replace(" .", ".")
        return out[:1].upper() + out[1:]

    def blanks(self) -> list[Blank]:
        """Return its blanks in their order."""
        return [p for p in self.parts if isinstance(p, Blank)]


def spoken(
    study: Study,
    document: Document,
    units: Units,
    faults: Mapping[str, str] | None = None,
    begun: Study | None = None,
    known: Mapping[str, Cell] | None = None,
    whole: bool = False,
) -> Sentence:
    """Return the sentence of a question. ``faults`` by the path in the question as a document writes it; ``begun``
    what a draft began with, so that what is still so is quiet; ``known`` values of the answer by the key of a cell,
    for a blank that becomes another quantity; ``whole``: with the clauses that are seldom said."""
    speaker = _Speaker(Cells(study, document, units), faults or {}, begun, known or {}, whole)
    parts = tuple(speaker.said(parts_of(said(sentence_of(study_kinds()[study.kind]))), (), {}))
    return Sentence(_joined(parts), speaker.more)


def sentence_of(kind: StudyKind[Any, Any]) -> str:
    """Return the sentence of a kind; of one that declares none all of its cells with their names."""
    if kind.sentence:
        return kind.sentence
    told = []
    for name, own in kind.model.model_fields.items():
        if name in ("name", "kind", "reference", "draft", "measured", "uncertainty") or name == kind.subject:
            continue
        words = name.replace("_", " ")
        rows = "tuple" in str(own.annotation) and "Cell" not in str(own.annotation) and "str" not in str(own.annotation)
        told.append(f"{{{name}#{words}}}" if rows else f"{words} {{{name}}}")
    subject = f" of {{{kind.subject if kind.subject != 'study' else 'of'}}}" if kind.subject else ""
    return f"{kind.title}{subject}{', with ' if told else ''}{', '.join(told)}."


def _joined(parts: tuple[Part, ...]) -> tuple[Part, ...]:
    """Return the parts with neighbouring words of one loudness joined."""
    out: list[Part] = []
    for part in parts:
        last = out[-1] if out else None
        if isinstance(part, Said) and isinstance(last, Said) and part.quiet == last.quiet:
            out[-1] = Said(last.text + part.text, part.quiet)
        else:
            out.append(part)
    return tuple(out)


@dataclass
class _Speaker:
    """Says the parts of one sentence."""

    cells: Cells
    faults: Mapping[str, str]
    begun: Study | None
    known: Mapping[str, Cell]
    whole: bool
    more: bool = False

    def said(self, parts: tuple[Phrase, ...], at: PathParts, taken: dict[tuple[str, ...], int]) -> Iterator[Part]:
        """Yield the parts of a piece of a sentence; ``at`` is the part of a list that is spoken of."""
        for part in parts:
            if isinstance(part, Words):
                yield Said(part.text)
            elif isinstance(part, Rows):
                rows = self.cells.value((part.path,))
                count = len(rows) if isinstance(rows, tuple) else 0
                yield Below(part.path, f"these {count} {part.words}" if count > 1 else f"these {part.words}")
            elif isinstance(part, Slot):
                yield from self._slot(part, at, taken)
            elif isinstance(part, Clause):
                yield from self._clause(part, at, taken)
            else:
                yield from self._each(part)

    def _clause(self, clause: Clause, at: PathParts, taken: dict[tuple[str, ...], int]) -> Iterator[Part]:
        seldom = bool(clause.parts) and isinstance(clause.parts[0], Words) and clause.parts[0].text.startswith("?")
        parts = clause.parts
        if seldom:
            first = clause.parts[0]
            assert isinstance(first, Words)
            parts = (Words(first.text[1:]), *clause.parts[1:])
        found = list(self.said(parts, at, taken))
        blanks = [p for p in found if isinstance(p, Blank)]
        quiet = all(b.quiet or not b.text for b in blanks) and not any(b.fault for b in blanks)
        if seldom and quiet and not self.whole:
            self.more = True
            return
        aside = bool(blanks) and quiet and (not blanks[0].text or blanks[0].text == NONE)
        for p in found:
            yield Said(p.text, aside) if isinstance(p, Said) else replace(p, aside=aside) if isinstance(p, Blank) else p

    # -- blanks ------------------------------------------------------------------------------------------------------

    def _slot(self, slot: Slot, at: PathParts, taken: dict[tuple[str, ...], int]) -> Iterator[Part]:
        paths = [self._path(p, at) for p in slot.paths]
        if len(paths) == 1:
            yield from self._cell(paths[0], ())
            return
        # The second blank with the same choice is the second cell that is filled.
        number = taken.get(slot.paths, 0)
        taken[slot.paths] = number + 1
        filled = [p for p in paths if self.cells.value(p) not in (*EMPTY, ())]
        over = {a.variable for a in getattr(self.cells.study, "axes", ())}
        free = [p for p in paths if p not in filled and p[-1] not in over]
        here = filled[number] if number < len(filled) else free[min(number - len(filled), len(free) - 1)]
        noun = NOUNS.get(str(here[-1]), "")
        if noun:
            yield Said(f"{noun} ")
        yield from self._cell(here, tuple(self._others(here, [p for p in paths if p not in filled and p != here])))

    def _path(self, written: str, at: PathParts) -> PathParts:
        steps = tuple(int(s) if s.isdigit() else s for s in written.lstrip(".").split(".") if s)
        return (*at, *steps) if written.startswith(".") else steps

    def _others(self, here: PathParts, free: list[PathParts]) -> Iterator[Other]:
        """Yield what a blank may become among cells that are free."""
        for path in free:
            key, kind = str(path[-1]), self.cells.kind(path) or ""
            words = CONDITIONS[key].title if key in CONDITIONS else key.replace("_", " ")
            if isinstance(self.cells.value(path), tuple):
                if kind in SPANS:
                    low, high = (self._in_units(v, kind) for v in SPANS[kind])
                    yield Other(f"a range of {kind}", {here: (), path: Range(begin=low, end=high, steps=10)})
                continue
            value = self.known.get(key)
            value = self._in_units(USUAL.get(kind), kind) if value is None else value
            if value is not None:
                yield Other(words, {here: None, path: value})

    def _in_units(self, cell: Cell, kind: str) -> Cell:
        if not isinstance(cell, str):
            return cell
        unit = self.cells.units.of_states().unit(kind) if kind in KINDS else ""
        return in_unit(cell, kind, unit) if unit else cell

    def _quiet(self, path: PathParts) -> bool:
        """Tell whether a cell still is what it was by default, or is what a draft began with."""
        value = self.cells.value(path)
        if self.begun is not None:
            try:
                return bool(get_at(self.begun, path) == value)
            except (KeyError, IndexError, AttributeError, TypeError):
                return False
        model = type(self.cells.study).model_fields.get(str(path[0]))
        if model is None or model.is_required():
            return value in EMPTY
        usual = model.get_default(call_default_factory=True)
        try:
            return bool(get_at(usual, path[1:]) == value) if len(path) > 1 else bool(usual == value)
        except (KeyError, IndexError, AttributeError, TypeError):
            return False

    def _cell(self, path: PathParts, others: tuple[Other, ...]) -> Iterator[Part]:
        value = self.cells.value(path)
        if isinstance(value, Range):
            yield from self._range(path, value, others)
        elif isinstance(value, BaseModel):
            yield from self._given(path, value)
        elif isinstance(value, tuple) and self._is_range(path):
            if value or self.cells.shown(path).draft:
                yield Said("at ")
            yield self._blank(path, (*others, *self._as_range(path, value)))
        else:
            yield self._blank(path, others)

    def _is_range(self, path: PathParts) -> bool:
        field = type(self.cells.study).model_fields.get(str(path[0]))
        return len(path) == 1 and field is not None and "Range" in str(field.annotation)

    def _as_range(self, path: PathParts, value: tuple[object, ...]) -> Iterator[Other]:
        if len(value) >= LEAST:
            first, last = value[0], value[-1]
            yield Other("a range", {path: Range(begin=first, end=last, steps=10)})

    def _range(self, path: PathParts, value: Range, others: tuple[Other, ...]) -> Iterator[Part]:
        """Yield a range as from, to and its steps; of a part that is one, the cells of the part."""
        whole = type(value) is Range
        if value.values is not None:
            yield Said("at ")
            ends = {
                "values": None,
                "begin": value.values[0] if value.values else None,
                "end": value.values[-1] if value.values else None,
                "steps": 10,
            }
            yield self._blank((*path, "values"), (*others, Other("a range", {(*path, k): v for k, v in ends.items()})))
            return
        listed = tuple(c for c in (value.begin, value.end) if c not in EMPTY)
        if whole:
            as_list = Other("a list", {path: listed})
        else:
            gone = dict.fromkeys(((*path, k) for k in ("begin", "end", "steps", "step")), None)
            as_list = Other("a list", {**gone, (*path, "values"): listed})
        yield Said("from ")
        yield self._blank((*path, "begin"), (*others, as_list))
        yield Said(" to ")
        yield self._blank((*path, "end"), (*others, as_list))
        if value.step not in EMPTY:
            yield Said(" by ")
            steps: Edit = {(*path, "step"): None, (*path, "steps"): 10}
            yield self._blank((*path, "step"), (Other("a number of steps", steps),))
            return
        yield Said(" in ")
        by_size: Edit = {(*path, "steps"): None, (*path, "step"): self._size(path, value)}
        logarithmic = value.scale == "logarithmic"
        scale = Other(
            "equal steps" if logarithmic else "logarithmic steps",
            {(*path, "scale"): "linear" if logarithmic else "logarithmic"},
        )
        yield self._blank((*path, "steps"), (Other("the size of a step", by_size), scale))
        yield Said(" logarithmic steps" if logarithmic else " steps")
        count = self._count(value)
        if count:
            yield Said(f" ({count} values)", True)

    @staticmethod
    def _count(value: Range) -> int:
        try:
            return int(str(value.steps)) + 1
        except ValueError:
            return 0

    def _size(self, path: PathParts, value: Range) -> Cell:
        kind = self.cells.kind((*path, "begin")) or ""
        unit = self.cells.shown((*path, "begin")).unit
        if kind == "temperature":
            return "5 degF" if unit == "degF" else "5 K"
        return f"10 {unit}".strip() if kind in KINDS else 10

    def _given(self, path: PathParts, value: BaseModel) -> Iterator[Part]:
        """Yield a part as its cells, one beside the other."""
        for i, key in enumerate(k for k in type(value).model_fields if k != "name"):
            if i:
                yield Said(" and ")
            yield self._blank((*path, key), (Other("saturated", {path: "saturated"}),) if path[-1] == "feed" else ())

    def _blank(self, path: PathParts, others: tuple[Other, ...]) -> Blank:
        shown = self.cells.shown(path)
        if path[-1] == "feed":
            feed = {
                "temperature": self._in_units("60 degC", "temperature"),
                "pressure": self._in_units("100 bar", "pressure"),
            }
            others = (*others, Other("at a temperature and pressure", {path: feed}))
        kind = study_kinds()[self.cells.study.kind]
        others = (
            *others,
            *(Other(words, cells) for words, cells in kind.offers(self.cells.study, path, self.cells.document)),
        )
        return Blank(
            path, shown.text, "" if shown.draft else shown.unit, self.cells.kind(path), self._quiet(path), self._fault(path),
            self.cells.choices(path), self.cells.closed(path), tuple(self.cells.units_offered(path)), others,
        )  # fmt: skip

    def _fault(self, path: PathParts) -> str:
        """Return what is wrong at a cell: its own fault, of what stands in no blank that of the part around it."""
        if not self.faults:
            return ""
        written = _written(path)
        return next(
            (m for p, m in self.faults.items() if p == written or p.startswith((f"{written}[", f"{written}."))), ""
        )

    # -- lists -------------------------------------------------------------------------------------------------------

    def _each(self, each: Each) -> Iterator[Part]:
        path = self._path(each.path, ())
        value = self.cells.value(path)
        if isinstance(value, Mapping) and not any(isinstance(v, BaseModel) for v in value.values()):
            yield from self._named(path, value, each)
            return
        if isinstance(value, Mapping):
            places = [(*path, name) for name in value]
        else:
            places = [path] if isinstance(value, BaseModel) else [(*path, i) for i in range(len(value or ()))]  # type: ignore[arg-type]
        for i, place in enumerate(places):
            if i:
                yield Said(each.joint)
            yield from self.said(each.parts, place, {})

    def _named(self, path: PathParts, value: Mapping[str, Cell], each: Each) -> Iterator[Part]:
        """Yield cells by name as pairs of an amount and a name; an empty pair where there is none."""
        draft = self.cells.shown(path)
        if draft.draft:
            yield self._blank(path, ())
            return
        for i, (name, cell) in enumerate([*value.items()] or [("methanol", None)]):
            if i:
                yield Said(each.joint)
            for part in each.parts:
                if isinstance(part, Slot):
                    yield self._pair(path, value, name, cell, part.paths[0] == ".key")
                elif isinstance(part, Words):
                    yield Said(part.text)

    def _pair(self, path: PathParts, value: Mapping[str, Cell], name: str, cell: Cell, is_name: bool) -> Blank:
        entry = Cells.shown(self.cells, (*path, name)) if name in value else None
        faults = self.faults.get(_written((*path, name)), "") or (self._fault(path) if not is_name else "")

        def amount(text: str) -> Edit:
            if not text.strip():
                return {path: {k: v for k, v in value.items() if k != name}}
            found = named_cells(text, "wt%")
            if any(v is not None for v in found.values()):
                return {path: found}
            return {path: {**value, name: named_cells(f"{name} {text}", "wt%").get(name, text)}}

        def other(text: str) -> Edit:
            text = text.strip()
            kept = {text if k == name else k: v for k, v in value.items()}
            return {path: kept if name in value else {text: "20 wt%"}}

        more = tuple(n for n in (*INHIBITORS, *SALTS) if n not in value)
        joined = (
            Other("and another", {path: {**value, more[0]: "10 wt%"}}),
            Other("none", {path: {k: v for k, v in value.items() if k != name}}),
        )
        quiet = name not in value or self._quiet(path)
        if is_name:
            choices = {n: n for n in (*INHIBITORS, *SALTS)}
            return Blank((*path, name, "key"), name, quiet=quiet, choices=choices, others=joined, write=other)
        text, unit = (entry.text, entry.unit) if entry is not None else (NONE, "wt%")
        return Blank(
            (*path, name),
            text,
            unit,
            "share",
            quiet,
            faults,
            others=joined if value else (),
            write=amount,
        )


def _written(path: PathParts) -> str:
    """Return the path of a cell as a document writes it."""
    names = {"begin": "from", "end": "to"}
    out = ""
    for step in path:
        out += f"[{step}]" if isinstance(step, int) else f".{names.get(step, step)}"
    return out.removeprefix(".")
