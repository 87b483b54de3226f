"""Quantities of typed questions put into their blanks, and what is left over."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from ..document import Study
from ..document.cell_kinds import kind_at
from ..document.conditions import CONDITIONS
from ..document.edits import add_study, get_at, set_at
from ..document.faults import PathParts, did_you_mean
from ..document.field_types import SHARE, Cell
from ..document.kinds import study_kinds
from ..document.ranges import Range
from ..telling.sentences import Units
from ..units import KINDS, fits
from .cells import Cells
from .entry import kinds_of
from .own_voice import SUBJECTS
from .scan import Token
from .spoken import sentence_of
from .template import Clause, Each, Phrase, Rows, Slot, parts_of
from .typed_conditions import Conditions
from .typed_pieces import Piece, Unclear, UnclearError
from .vocabulary import SILENT, condition_words, folded, kind_words, property_words


def lists_of_rows(study: Study) -> list[str]:
    """Return the lists of a question that its sentence says as rows."""
    kind = study_kinds()[study.kind]
    return [p.path for p in parts_of(sentence_of(kind)) if isinstance(p, Rows)]


def _picked(text: str, cells: Cells, path: PathParts) -> object:
    """Return what a text picks in a cell, None where it is none of its choices: a word, a name, a list of names, or the words for nothing."""
    said = folded(text)
    for key, words in cells.choices(path).items():
        if said in (folded(key), folded(words)):
            return key
    now = cells.value(path)
    if isinstance(now, (tuple, str)) and said == folded(cells.shown(path).text):
        return now
    if isinstance(now, tuple):
        known = {folded(s.name): s.name for s in cells.document.studies}
        names = [known.get(folded(n)) for n in re.split(r";" if ";" in text else r",", text)]
        return tuple(n for n in names if n) if names and all(names) else None
    return None


@dataclass
class Filler(Conditions):
    """Puts what was typed into the blanks of a question."""

    def filled(self) -> Study:
        """Return the question with everything that was typed. Raises UnclearError."""
        if self.kind.name in ("sweep", "goal") and self.asked_as_said():
            return self.study
        self._second_fluid()
        self.check_words()
        self._results()
        if self.kind.name in ("sweep", "goal"):
            self._varied()
        if self.kind.name in ("separators", "black_oil"):
            self._stages()
        if self.kind.name == "table":
            self._axes()
        self._quantities()
        self._give_way()
        self._leftover()
        self._missing()
        return self.study

    def _give_way(self) -> None:
        """Empty the cells whose place was taken by those that were typed."""
        for path in sorted(self.filled_paths, key=str):
            for other, value in self.kind.follows(
                self.study, path, get_at(self.study, path), self.reader.document
            ).items():
                if value is None and other not in self.filled_paths:
                    self.study = set_at(self.study, other, None)

    def check_words(self) -> None:
        """Take the words that need no quantity, and raise where others are not understood."""
        self._heard_words()
        self._inhibitors()
        self._equations()
        self._counts()
        self._choices()
        if self.kind.name == "components":
            self._component_names()
        self._leftover(words=True)

    def _cells(self) -> list[PathParts]:
        """Return the cells of the sentence that take quantities, in its order."""
        out: list[PathParts] = []

        def walk(parts: tuple[Phrase, ...]) -> None:
            for part in parts:
                if isinstance(part, Slot):
                    out.extend(
                        tuple(int(s) if s.isdigit() else s for s in p.split("."))
                        for p in part.paths
                        if not p.startswith(".")
                    )
                elif isinstance(part, Clause):
                    walk(part.parts)
                elif isinstance(part, (Each, Rows)):
                    continue

        walk(parts_of(sentence_of(self.kind)))
        return list(dict.fromkeys(out))

    def _kinds(self, path: PathParts) -> tuple[str, ...]:
        kind = kind_at(self.study, path, self.reader.document)
        if kind is None:
            return ()
        if kind == SHARE:
            # Shares by name are doses, which have their own words.
            return () if len(path) > 1 or isinstance(getattr(self.study, str(path[0])), Mapping) else (SHARE,)
        if kind in ("enthalpy", "entropy"):
            return (kind, f"specific_{kind}")
        return ("",) if kind == "" else kinds_of(kind)

    def _fits(self, token: Token, path: PathParts) -> bool:
        kinds = self._kinds(path)
        if not kinds:
            return False
        if not token.unit:
            return kinds in (("",), ("fraction",))
        if token.unit in ("%", "wt%"):
            return kinds in ((SHARE,), *((("fraction",), ("",)) if token.unit == "%" else ()))
        return any(k in KINDS and fits(token.unit, k) for k in kinds if k)

    def _takes(self, token: Token, path: PathParts) -> bool:
        """Tell whether a cell takes one value, a list or a range."""
        hint = str(type(self.study).model_fields[str(path[0])].annotation)
        if len(path) > 1:
            return token.what == "number"
        several = "tuple" in hint
        if token.what == "range":
            return "Range" in hint or several
        return several or token.what == "number"

    def _is_ends(self, path: PathParts) -> bool:
        extra = type(self.study).model_fields[str(path[0])].json_schema_extra
        return isinstance(extra, dict) and bool(extra.get("ends"))

    def _quantities(self) -> None:
        cells = self._cells()
        pending: list[tuple[int, Piece]] = [
            (i, p) for i, p in enumerate(self.pieces) if not p.used and p.token.what in ("number", "list", "range")
        ]
        # Those that stand in a blank of their own, or that a word beside them is meant for, go first.
        for i, piece in list(pending):
            path = self._placed(piece.token) or self._clued(i, piece.token)
            if path is not None:
                self._put(path, i, piece)
                pending.remove((i, piece))
        for i, piece in list(pending):
            token = piece.token
            free = [c for c in cells if c not in self.filled_paths and self._fits(token, c) and not self._shut(c)]
            # A difference of temperatures is meant by a word beside it alone.
            plain = [
                c
                for c in free
                if kind_at(self.study, c, self.reader.document) not in ("temperature_difference", "pressure_difference")
            ]
            whole = [c for c in plain if self._takes(token, c)]
            if not token.unit:
                self._bare(token, cells)
            if not whole:
                raise self._fail(token, self._why_not(token, plain))
            self._put(whole[0], i, piece)
            pending.remove((i, piece))

    def _shut(self, path: PathParts) -> bool:
        """Tell whether a cell is one of several of which enough are filled."""
        if self.kind.name == "flash" and path[0] in (*CONDITIONS, "molar_volume"):
            return sum((k,) in self.filled_paths for k in (*CONDITIONS, "molar_volume")) >= 2
        if self.kind.name == "saturation" and path[0] in ("temperature", "pressure"):
            return bool({("temperature",), ("pressure",)} & self.filled_paths)
        if self.kind.name == "hydrate" and path[0] in ("temperatures", "pressures"):
            return bool({("temperatures",), ("pressures",)} & self.filled_paths)
        return False

    def _bare(self, token: Token, cells: list[PathParts]) -> None:
        """Raise where a number without a unit could be of several quantities."""
        kinds = {k for c in cells if c not in self.filled_paths and not self._shut(c) for k in self._kinds(c)[:1] if k}
        told = " or ".join(sorted(kinds & {"temperature", "pressure"})) or "which quantity it is"
        raise self._fail(token, f"{self._text(token)} needs its unit: {told}?")

    def _why_not(self, token: Token, free: list[PathParts]) -> str:
        text = self._text(token)
        if self._shut_kinds(token):
            return f"{text} is one condition too many: {self.kind.title.lower()} takes {'two' if self.kind.name == 'flash' else 'one'}"
        if free:
            return f"{self.kind.title} takes a single value here, not {text}"
        return f"{self.kind.title} has no place for {text}"

    def _shut_kinds(self, token: Token) -> bool:
        return any(self._fits(token, c) and self._shut(c) and c not in self.filled_paths for c in self._cells())

    def _placed(self, token: Token) -> PathParts | None:
        """Return the cell whose blank in the kind's own sentence a quantity stands in."""
        told = self.reader.heard
        for paths, start, end in told.blanks if told is not None else ():
            if start <= token.start and token.end <= end:
                for written in paths:
                    path = tuple(int(s) if s.isdigit() else s for s in written.split("."))
                    known = not written.startswith(".") and str(path[0]) in type(self.study).model_fields
                    if known and path not in self.filled_paths and self._fits(token, path) and self._takes(token, path):
                        return path
        return None

    def _heard_words(self) -> None:
        """Take what is picked or named in a blank of the kind's own sentence."""
        told = self.reader.heard
        if told is None:
            return
        document = add_study(self.reader.document, self.study)
        cells = Cells(document.studies[-1], document, Units.of("metric"))
        for paths, start, end in told.blanks:
            inside = [p for p in self.pieces if p.token.start >= start and p.token.end <= end]
            text = self.reader.text[start:end].strip()
            if not paths:
                self._rows(text, inside)
                continue
            if paths[0] == "compact" and self.reader.property_in(text):
                self._set(("compact",), self.reader.property_in(text))
                for piece in inside:
                    piece.used = True
                continue
            path: PathParts = tuple(paths[0].split("."))
            if (
                len(paths) > 1
                or path in self.filled_paths
                or any(not k.isidentifier() for k in paths[0].split("."))
                or len(path) > 1
            ):
                continue
            if str(path[0]) not in type(self.study).model_fields or path[0] in (*SUBJECTS, "read"):
                continue
            value = _picked(text, cells, path)
            if value is not None:
                self._set(path, value)
                for piece in inside:
                    piece.used = True

    def _logarithmic(self) -> bool:
        """Tell whether logarithmic steps are said."""
        return any(p.word in ("logarithmic", "log") for p in self.pieces)

    def _rows(self, text: str, inside: list[Piece]) -> None:
        """Take "these 2 stations" where there are as many to begin with; they are typed below the sentence. Raises UnclearError."""
        said = re.fullmatch(r"these\s+(?:(\d+)\s+)?(\w+)", text)
        if said is None:
            return
        there = len(next((v for k, v in self.study if isinstance(v, tuple) and k in lists_of_rows(self.study)), ()))
        if said[1] and int(said[1]) != there:
            raise self._fail(
                inside[0].token, f"what the {said[1]} {said[2]} are is not said; they are typed below the sentence"
            )
        for piece in inside:
            piece.used = True

    def _clued(self, i: int, token: Token) -> PathParts | None:
        """Return the cell that a word beside a quantity says it is meant for."""
        for key, clues in self.kind.clues.items():
            path = tuple(key.split("."))
            if path in self.filled_paths or not (self._fits(token, path) and self._takes(token, path)):
                continue
            for clue in sorted(clues, key=lambda c: -len(c)):
                words = clue.split()
                for start in (
                    *range(i + 1, min(i + 3, len(self.pieces))),
                    *range(max(i - len(words) - 2, 0), i - len(words) + 1),
                ):
                    run = self.pieces[start : start + len(words)]
                    between = self.pieces[i + 1 : start] if start > i else self.pieces[start + len(words) : i]
                    near = all(p.word in ("of", "is", "at", "to", "a", "an", "the", "with") for p in between)
                    if near and [p.word for p in run] == words:
                        for p in run:
                            p.used = True
                        return path
        return None

    def _put(self, path: PathParts, i: int, piece: Piece) -> None:
        token = piece.token
        piece.used = True
        hint = str(type(self.study).model_fields[str(path[0])].annotation)
        several = "tuple" in hint and len(path) == 1
        cells = tuple(self._cell(token, k, path) for k in range(len(token.numbers)))
        for other in self._exclusive(path):
            self.study = set_at(
                self.study,
                other,
                () if "tuple" in str(type(self.study).model_fields[str(other[0])].annotation) else None,
            )
        if token.what == "range" and several and "Range" not in hint and not self._is_ends(path):
            # A list takes the values of a range.
            count = int(self._stepped(i, token).get("steps", 10))
            low, high = token.numbers
            values = [low + (high - low) * k / count for k in range(count + 1)]
            cells = tuple(f"{v:.10g} {token.unit}" if token.unit else v for v in values)
            self._set(path, cells)
            return
        if token.what == "range" and not self._is_ends(path):
            logarithmic = self._logarithmic() or (
                self.kind.name == "hydrate"
                and path == ("pressures",)
                and not any(i < place for place, _ in (*self.steps, *self.sizes))
            )
            scale = {"scale": "logarithmic"} if logarithmic and token.numbers[0] > 0 else {}
            value: object = Range(begin=cells[0], end=cells[1], **self._stepped(i, token), **scale)
        else:
            value = cells if several else cells[0]
        self._set(path, value)

    def _cell(self, token: Token, k: int, path: PathParts) -> Cell:
        kind = kind_at(self.study, path, self.reader.document)
        number = token.numbers[k]
        if kind == "temperature_difference":
            unit = {"degC": "K", "K": "K", "degF": "degF"}.get(token.unit, token.unit)
            return f"{number:.10g} {unit}"
        if kind == "fraction" and token.unit == "%":
            return f"{number:.10g} %"
        return token.cell(k)

    def _exclusive(self, path: PathParts) -> list[PathParts]:
        """Return the cells that are empty where another of the same choice is filled."""
        pairs = {
            "hydrate": ("temperatures", "pressures"),
            "saturation": ("temperature", "pressure"),
            "roots": ("pressure", "molar_volume"),
        }
        own = pairs.get(self.kind.name, ())
        return [(k,) for k in own if path == (next((o for o in own if o == path[0]), ""),) and k != path[0]]

    def _leftover(self, words: bool = False) -> None:
        """Raise where a word or a number was not understood; of ``words`` alone while quantities wait."""
        names = [n for group in self._names_there() for n in group]
        own = {w for said in (*self.kind.clues.values(), self.kind.phrases) for clue in said for w in clue.split()}
        if self.kind.subject == "study":
            own |= {w for said in (*condition_words(), *property_words()) for w in said.split()}
        out: list[Unclear] = []
        for piece in self.pieces:
            word, token = piece.word, piece.token
            if (
                piece.used
                or token.what == "mark"
                or word in SILENT
                or word in ("logarithmic", "log")
                or (word and word in own)
                or (words and not word)
            ):
                continue
            if out and word and not self.reader.text[out[-1].end : token.start].strip():
                out[-1] = Unclear(out[-1].start, token.end, "")
            else:
                out.append(Unclear(token.start, token.end, ""))
        if out:
            known = [*names, *kind_words(), *property_words()]
            raise UnclearError(*(self._told(u, known) for u in out))

    def _told(self, found: Unclear, known: list[str]) -> Unclear:
        text = self.reader.text[found.start : found.end]
        before = next((p for p in reversed(self.pieces) if p.token.end <= found.start), None)
        if before is not None and before.token.unit in ("%", "wt%") and "inhibitors" in type(self.study).model_fields:
            return Unclear(
                found.start,
                found.end,
                f"no activities of water with '{text}' are known; dose methanol, a glycol or a chloride",
            )
        return Unclear(found.start, found.end, f"'{text}' is not understood{did_you_mean(text, known)}")

    def _names_there(self) -> list[list[str]]:
        document = self.reader.document
        return [[f.name for f in document.every_fluid], [s.name for s in document.studies if not s.draft]]

    def _missing(self) -> None:
        """Raise where a condition has no default and was not typed."""
        end = len(self.reader.text)
        if self.kind.name == "flash":
            held = [k for k in (*CONDITIONS, "molar_volume") if getattr(self.study, k) is not None]
            if len(held) < 2:
                told = f"at which {'pressure' if held == ['temperature'] else 'temperature' if held == ['pressure'] else 'temperature and pressure'}? A state takes two conditions, and none is assumed"
                raise UnclearError(Unclear(end, end, told))
        held = [k for k in ("temperature", "pressure", "molar_volume") if getattr(self.study, k, None) is not None]
        if self.kind.name == "saturation" and not held:
            raise UnclearError(Unclear(end, end, "at which temperature or pressure? None is assumed"))
        if self.kind.name == "roots" and ("temperature" not in held or len(held) < 2):
            raise UnclearError(Unclear(end, end, "at which temperature and pressure? None is assumed"))
