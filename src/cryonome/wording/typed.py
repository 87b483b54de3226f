"""A typed line as a question: "hydrates of Selden gas at 80 bar with 20 % methanol".

Words of a kind, names of what the project holds, quantities with their units and a few words that tell which of them is meant may come in any order. What is not
understood is told with its place, and then nothing is asked: no word is ever guessed at.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ..components.lookup import UnknownComponentError, find
from ..components.names import known
from ..document import Document, Study
from ..document.cell_kinds import kind_at
from ..document.edits import free_name, set_at
from ..document.faults import PathParts, did_you_mean
from ..document.field_types import SHARE, Cell
from ..document.kinds import StudyKind, study_kinds
from ..document.references import asks_another, is_about
from ..studies.beginning import begun
from ..studies.columns import OF_PHASE, OF_WHOLE
from ..studies.conditions import CONDITIONS
from ..studies.hydrates import own_name
from ..studies.kinds.sweep import Variation
from ..studies.kinds.table import TableAxis
from ..studies.ranges import Range
from ..studies.sentences import Units
from ..units import KINDS, fits
from .entry import kinds_of
from .scan import Token, scanned
from .spoken import sentence_of
from .template import Clause, Each, Piece, Rows, Slot, parts_of
from .vocabulary import PHASES, SILENT, condition_words, equation_words, folded, kind_words, property_words

LONGEST = 7
"""Words of the longest phrase."""

NO_DEFAULT = ("flash", "saturation", "roots")
"""Kinds whose conditions are all typed: there is no usual state."""

ASKING = frozenset(["sweep", "vary", "varies", "varied", "goal", "change", "changes", "makes"])
"""Words of questions that ask another one, which is then named."""

STEPS = ("steps", "step", "values", "points", "intervals")
SIZES = ("every", "by", "step")


@dataclass(frozen=True)
class Unclear:
    """A stretch of what was typed that is not understood, and why."""

    start: int
    end: int
    message: str


@dataclass(frozen=True)
class Understood:
    """The question that was typed, or what stands in its way."""

    study: Study | None
    unclear: tuple[Unclear, ...] = ()
    wanted: tuple[str, ...] = ()
    """Properties of a state that were asked for, as a table names them."""


def understood(text: str, document: Document, fluid: str = "", sample: str = "") -> Understood:
    """Return the question of a typed line about a document; ``fluid`` and ``sample`` are what it is about where the line names none."""
    return _Reader(text, document, fluid, sample).read()


def words_known(document: Document) -> list[str]:
    """Return every word and name that a line may have, for completion."""
    names = [
        *(f.name for f in document.every_fluid),
        *(s.name for s in document.samples),
        *(s.name for s in document.studies if not s.draft),
    ]
    return [*dict.fromkeys([*kind_words(), *names, *property_words(), *equation_words()])]


class _UnclearError(Exception):
    def __init__(self, *found: Unclear) -> None:
        super().__init__()
        self.found = found


@dataclass
class _Piece:
    """A token with what became of it."""

    token: Token
    used: bool = False

    @property
    def word(self) -> str:
        return folded(self.token.text) if self.token.what == "word" else ""


@dataclass
class _Reader:
    text: str
    document: Document
    fluid: str
    sample: str
    pieces: list[_Piece] = field(default_factory=list)
    names: dict[str, list[str]] = field(default_factory=dict)
    """What was named, by what it is: fluids, samples, studies."""
    properties: list[str] = field(default_factory=list)

    def read(self) -> Understood:
        self.pieces = [_Piece(t) for t in scanned(self.text)]
        try:
            self._names()
            kind = self._kind()
            study = self._study(kind)
            return Understood(study, (), tuple(self.properties) if kind == "flash" else ())
        except _UnclearError as error:
            return Understood(None, error.found)

    # -- names -------------------------------------------------------------------------------------------------------

    def _names(self) -> None:
        """Find what the project calls by name: whole names first, then a beginning of one that no other has."""
        document = self.document
        groups = {
            "fluids": [f.name for f in document.every_fluid],
            "samples": [s.name for s in document.samples],
        }
        if any(p.word in ASKING for p in self.pieces):
            groups["studies"] = [s.name for s in document.studies if not s.draft]
        every = sorted({n for names in groups.values() for n in names}, key=lambda n: -len(n))
        for name in every:
            while self._take_name(name, name, groups):
                pass
        for i, piece in enumerate(self.pieces):
            if piece.used or not piece.word or len(piece.word) < 4 or piece.word in SILENT:
                continue
            for count in range(min(3, len(self.pieces) - i), 0, -1):
                run = self.pieces[i : i + count]
                if any(p.used or not p.word for p in run):
                    continue
                words = " ".join(p.word for p in run)
                found = [n for n in every if folded(n) == words or folded(n).startswith(words + " ")]
                known = words in kind_words() or words in property_words() or words in SILENT
                found = [n for n in found if n not in groups.get("studies", ())]
                if len(found) == 1 and not known and not own_name(words):
                    self._mark(run, found[0], groups)
                    break

    def _take_name(self, name: str, words: str, groups: Mapping[str, list[str]]) -> bool:
        wanted = [t.text.casefold() if t.what in ("word", "mark") else t.text for t in scanned(words)]
        pattern = re.compile(rf"(?<!\w){re.escape(words)}(?!\w)", re.IGNORECASE)
        for found in pattern.finditer(self.text):
            run = [p for p in self.pieces if p.token.start >= found.start() and p.token.end <= found.end()]
            if run and wanted and not any(p.used for p in run):
                self._mark(run, name, groups)
                return True
        return False

    def _mark(self, run: Iterable[_Piece], name: str, groups: Mapping[str, list[str]]) -> None:
        for piece in run:
            piece.used = True
        for group, names in groups.items():
            if name in names:
                self.names.setdefault(group, []).append(name)

    # -- the kind ----------------------------------------------------------------------------------------------------

    def _kind(self) -> str:
        """Return the kind that is asked, by the words that name it."""
        known = kind_words()
        score: dict[str, int] = {}
        places: dict[str, list[_Piece]] = {}
        for count in range(LONGEST, 0, -1):
            for i in range(len(self.pieces) - count + 1):
                run = self.pieces[i : i + count]
                if any(p.used or not p.word for p in run):
                    continue
                words = " ".join(p.word for p in run)
                kind = known.get(words) or known.get(words.rstrip("s"))
                if kind is not None:
                    score[kind] = score.get(kind, 0) + len(words)
                    places.setdefault(kind, []).extend(run)
                    for piece in run:
                        piece.used = True
        self.properties = self._properties()
        ranged = sum(p.token.what == "range" for p in self.pieces)
        listed = sum(p.token.what == "list" for p in self.pieces)
        if not score:
            if self.properties:
                return "table" if ranged or listed else "flash"
            if "studies" in self.names and ("fluids" not in self.names):
                score["sweep" if ranged else ""] = 1
            quantities = sum(p.token.what == "number" and bool(p.token.unit) for p in self.pieces)
            if not ranged and quantities >= 2:
                return "flash"
            raise _UnclearError(
                Unclear(
                    0,
                    len(self.text),
                    "what is asked is not said; begin with hydrates, dew point, table, density or another question",
                )
            )
        # A word of one kind may stand in a question of another ("lump to 12 components").
        leading = [k for k in score if not any(k in RELATED.get(j, ()) and j not in RELATED.get(k, ()) for j in score)]
        best = max(leading or score, key=lambda k: score[k])
        if best == "flash" and self.properties and (ranged or listed):
            best = "table"
        if best == "viscosity" and self.properties and not any(p.word in ("test", "curve") for p in self.pieces):
            best = "table" if ranged else "flash"
        others = [k for k in score if k != best and 2 * score[k] > score[best] and k not in RELATED.get(best, ())]
        if others:
            piece = places[others[0]][0].token
            told = f"{study_kinds()[best].title.lower()} and {study_kinds()[others[0]].title.lower()} are two questions; ask one at a time"
            raise _UnclearError(Unclear(piece.start, piece.end, told))
        return best

    def _properties(self) -> list[str]:
        """Return the properties named, each by its key; of a phase that stands beside it."""
        known, out = property_words(), []
        for count in range(4, 0, -1):
            for i in range(len(self.pieces) - count + 1):
                run = self.pieces[i : i + count]
                if any(p.used or not p.word for p in run):
                    continue
                key = known.get(" ".join(p.word for p in run))
                if key is None:
                    continue
                for piece in run:
                    piece.used = True
                out.append((i, self._of_phase(key, i, i + count)))
        return [key for _, key in sorted(out)]

    def _of_phase(self, key: str, first: int, after: int) -> str:
        """Return a property with the phase said before it ("liquid density") or after it ("density of the liquid")."""
        if key.startswith("standard."):
            return key
        places = [first - 1] if first else []
        j = after
        while j < len(self.pieces) and self.pieces[j].word in ("of", "the", "in"):
            j += 1
        places += [j] if j > after or (j < len(self.pieces) and self.pieces[j].word == "phase") else []
        for j in places:
            if 0 <= j < len(self.pieces) and not self.pieces[j].used and self.pieces[j].word in PHASES:
                self.pieces[j].used = True
                if j + 1 < len(self.pieces) and self.pieces[j + 1].word == "phase":
                    self.pieces[j + 1].used = True
                return f"{PHASES[self.pieces[j].word]}.{key}"
        return key

    # -- the question ------------------------------------------------------------------------------------------------

    def _study(self, kind_name: str) -> Study:
        kind = study_kinds()[kind_name]
        try:
            subject = self._subject(kind)
        except _UnclearError:
            # A word that is not understood may be the name that is missed.
            _Filler(self, kind, begun(kind, "", None, Units.of("metric"))).check_words()
            raise
        units = Units.of(self.document.display.units)
        study = begun(kind, subject, None, units)
        study = study.model_copy(update={"name": free_name(self.document, study.name)})
        if kind_name == "vapour_pressure":
            # The lists of a draft are for its picture; who types a question says what is wanted.
            study = study.model_copy(update={"ratios": (4,), "temperatures": ()})
        if kind_name in NO_DEFAULT:
            study = study.model_copy(update={k: None for k in ("temperature", "pressure") if hasattr(study, k)})
        filler = _Filler(self, kind, study)
        return filler.filled()

    def _subject(self, kind: StudyKind[Any, Any]) -> str:
        """Return what is asked about: what was named, else what is chosen, else the only one there is."""
        group = {"fluid": "fluids", "sample": "samples", "study": "studies"}[kind.subject]
        named = list(dict.fromkeys(self.names.get(group, ())))
        if len(named) > 1 and kind.name != "swelling":
            raise _UnclearError(self._at_name(named[1], f"two are named, {named[0]} and {named[1]}; ask about one"))
        if named:
            return named[0]
        if kind.name == "components" and any(self._is_component(p) for p in self.pieces):
            return ""
        chosen = {"fluids": self.fluid, "samples": self.sample, "studies": ""}[group]
        if group == "studies":
            states = [
                s.name
                for s in self.document.studies
                if s.kind == "flash" and not s.draft and (not self.fluid or is_about(s, self.fluid))
            ]
            there = states or [s.name for s in self.document.studies if not asks_another(s) and not s.draft]
        else:
            there = [t.name for t in (self.document.every_fluid if group == "fluids" else self.document.samples)]
        if chosen:
            return chosen
        if len(there) == 1:
            return there[0]
        what = {"fluids": "fluid", "samples": "sample", "studies": "question"}[group]
        told = f"name the {what}: there is {', '.join(there[:6])}" if there else f"the project has no {what}"
        raise _UnclearError(Unclear(len(self.text), len(self.text), told))

    @staticmethod
    def _is_component(piece: _Piece) -> bool:
        return not piece.used and bool(piece.word) and piece.word not in SILENT and known(piece.token.text) is not None

    def _at_name(self, name: str, told: str) -> Unclear:
        at = self.text.casefold().find(name.casefold())
        return Unclear(max(at, 0), max(at, 0) + len(name), told)


RELATED: dict[str, tuple[str, ...]] = {
    "inhibitor_dose": ("hydrate", "flash", "water_content", "goal"), "water_content": ("hydrate", "flash", "saturation", "inhibitor_dose"),
    "hydrate": ("flash", "inhibitor_dose"), "table": ("flash", "viscosity"), "saturation": ("flash", "envelope"),
    "envelope": ("saturation", "flash"), "separator_optimum": ("separators", "flash"), "separators": ("flash",), "black_oil": ("separators", "flash"),
    "advice": ("flash", "roots"), "roots": ("flash", "advice", "isotherms"), "isotherms": ("flash",), "vapour_pressure": ("flash", "saturation"),
    "liberation": ("flash",), "depletion": ("flash",), "expansion": ("flash",), "swelling": ("saturation", "flash"), "lumping": ("flash", "components"),
    "characterization": ("flash", "components"), "components": ("flash", "characterization"), "sweep": ("flash", "separators", "saturation"),
    "goal": ("flash", "sweep"), "path": ("hydrate", "flash"), "match": ("flash",), "viscosity": ("flash", "table"),
}  # fmt: skip
"""Kinds whose words may stand in a question of another kind without asking for it."""


@dataclass
class _Filler:
    """Puts what was typed into the blanks of a question."""

    reader: _Reader
    kind: StudyKind[Any, Any]
    study: Study
    filled_paths: set[PathParts] = field(default_factory=set)
    steps: list[tuple[int, int]] = field(default_factory=list)
    sizes: list[tuple[int, Token]] = field(default_factory=list)

    @property
    def pieces(self) -> list[_Piece]:
        """What was typed."""
        return self.reader.pieces

    def filled(self) -> Study:
        """Return the question with everything that was typed. Raises _UnclearError."""
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
        self._leftover()
        self._missing()
        return self.study

    def check_words(self) -> None:
        """Take the words that need no quantity, and raise where others are not understood."""
        self._inhibitors()
        self._equations()
        self._counts()
        self._choices()
        if self.kind.name == "components":
            self._component_names()
        self._leftover(words=True)

    def _set(self, path: PathParts, value: object) -> None:
        self.study = set_at(self.study, path, value)
        self.filled_paths.add(path)

    def _fail(self, piece: Token, message: str) -> _UnclearError:
        return _UnclearError(Unclear(piece.start, piece.end, message))

    # -- special words -----------------------------------------------------------------------------------------------

    def _second_fluid(self) -> None:
        named = list(dict.fromkeys(self.reader.names.get("fluids", ())))
        if self.kind.name == "swelling":
            if len(named) > 2:
                raise _UnclearError(self.reader._at_name(named[2], "swelling is of one fluid by one gas"))
            if len(named) == 2:
                self._set(("fluid",), named[0])
                self._set(("gas",), named[1])

    def _inhibitors(self) -> None:
        """Take doses: an amount beside the name of what is dosed."""
        fields = type(self.study).model_fields
        dosed: dict[str, Cell] = {}
        asked = ""
        for i, piece in enumerate(self.pieces):
            if piece.used or not piece.word:
                continue
            name, count = self._inhibitor_at(i)
            if not name:
                continue
            run = self.pieces[i : i + count]
            amount = self._amount_beside(i, count)
            if amount is not None and "inhibitors" in fields:
                amount.used = True
                token = amount.token
                if token.unit not in ("%", "wt%"):
                    raise self._fail(token, f"a dose is percent by mass of the aqueous liquid, as 20 wt% {name}")
                dosed[name] = f"{token.numbers[0]:.10g} wt%"
            elif "inhibitor" in fields and not asked:
                asked = name
            elif "inhibitors" in fields:
                raise self._fail(
                    run[0].token, f"how much {name}? Write its share of the aqueous liquid, as 20 wt% {name}"
                )
            else:
                continue
            for p in run:
                p.used = True
        if asked:
            self._set(("inhibitor",), asked)
        if dosed:
            self._set(("inhibitors",), dosed)

    def _inhibitor_at(self, i: int) -> tuple[str, int]:
        for count in (2, 1):
            run = self.pieces[i : i + count]
            if len(run) < count or any(p.used or not p.word for p in run):
                continue
            words = " ".join(p.token.text for p in run)
            if folded(words) in SILENT or folded(words) in PHASES:
                continue
            name = own_name(words)
            if name:
                return name, count
        return "", 0

    def _amount_beside(self, i: int, count: int) -> _Piece | None:
        before = [p for p in self.pieces[max(i - 2, 0) : i] if p.word not in ("of",)]
        if (
            before
            and not before[-1].used
            and before[-1].token.what == "number"
            and before[-1].token.unit in ("%", "wt%", "mol%", "vol%")
        ):
            return before[-1]
        after = self.pieces[i + count : i + count + 1]
        if (
            after
            and not after[0].used
            and after[0].token.what == "number"
            and after[0].token.unit in ("%", "wt%", "mol%", "vol%")
        ):
            return after[0]
        return None

    def _equations(self) -> None:
        fields = type(self.study).model_fields
        known = equation_words()
        found: list[tuple[int, str]] = []
        for count in (3, 2, 1):
            for i in range(len(self.pieces) - count + 1):
                run = self.pieces[i : i + count]
                if any(p.used or not p.word for p in run):
                    continue
                name = known.get(" ".join(p.word for p in run)) or known.get(
                    "".join(p.token.text.casefold() for p in run)
                )
                if name and ("equations" in fields or "equation" in fields):
                    found.append((i, name))
                    for p in run:
                        p.used = True
        names = tuple(dict.fromkeys(name for _, name in sorted(found)))
        if names and "equations" in fields:
            self._set(("equations",), names)
        elif names:
            self._set(("equation",), names[0])

    def _counts(self) -> None:
        """Keep numbers of steps and their sizes for the range before them."""
        for i, piece in enumerate(self.pieces):
            token = piece.token
            if piece.used or token.what != "number":
                continue
            after = self.pieces[i + 1] if i + 1 < len(self.pieces) else None
            before = self.pieces[i - 1] if i else None
            if not token.unit and after is not None and after.word in STEPS:
                count = round(token.numbers[0]) - (1 if after.word in ("values", "points") else 0)
                if count < 1 or abs(token.numbers[0] - round(token.numbers[0])) > 1e-9:
                    raise self._fail(token, f"'{token.text}' is no number of {after.word}")
                self.steps.append((i, count))
                piece.used = after.used = True
            elif token.unit and after is not None and after.word in ("step", "steps"):
                self.sizes.append((i, token))
                piece.used = after.used = True
            elif (
                before is not None
                and before.word in SIZES
                and not before.used
                and any(p.token.what == "range" for p in self.pieces[:i])
            ):
                self.sizes.append((i, token))
                piece.used = before.used = True

    def _stepped(self, i: int, token: Token) -> dict[str, Any]:
        """Return the steps of a range at a place: those said next behind it, else ten."""
        following = next(
            (j for j in range(i + 1, len(self.pieces)) if self.pieces[j].token.what == "range"), len(self.pieces)
        )
        for place, count in self.steps:
            if i < place < following:
                return {"steps": count}
        for place, size in self.sizes:
            if i < place < following:
                unit = size.unit or token.unit
                difference = {"degC": "K", "degF": "degF", "K": "K"}.get(unit, unit)
                return {"step": f"{size.numbers[0]:.10g} {difference}" if difference else size.numbers[0]}
        return {"steps": 10}

    def _results(self) -> None:
        """Take the properties named: of a table those tabulated, of a sweep or goal what is read."""
        keys = self.reader.properties
        if not keys:
            return
        if self.kind.name == "table":
            self._set(("properties",), tuple(dict.fromkeys(k for key in keys for k in of_phases(key))))
        elif self.kind.name == "sweep":
            self._set(("read",), tuple(dict.fromkeys(_read_path(k) for key in keys for k in of_phases(key))))
        elif self.kind.name == "goal":
            self._set(("read",), _read_path(keys[0]))
        elif self.kind.name not in ("flash", "viscosity", "components", "characterization"):
            word = keys[0].rpartition(".")[2].split("_")[0]
            raise _UnclearError(
                Unclear(
                    0,
                    len(self.reader.text),
                    f"{self.kind.title} is not asked by a property such as {word}; ask for a table, or leave it out",
                )
            )

    # -- what is varied ----------------------------------------------------------------------------------------------

    def _varied(self) -> None:
        """Find the input of a sweep or a goal: a condition of the question that is asked."""
        of = getattr(self.study, "of", "")
        subject = self.reader.document.study(of)
        words = condition_words()
        found = ""
        for count in (3, 2, 1):
            for i in range(len(self.pieces) - count + 1):
                run = self.pieces[i : i + count]
                text = " ".join(p.word for p in run)
                if (
                    not found
                    and text in words
                    and all(p.word for p in run)
                    and (not any(p.used for p in run))
                    and hasattr(subject, words[text])
                ):
                    found = words[text]
                    for p in run:
                        p.used = True
        if not found:
            # The unit of the range tells.
            for piece in self.pieces:
                if piece.token.what == "range" and not found:
                    found = next(
                        (
                            k
                            for k, c in CONDITIONS.items()
                            if c.kind in piece.token.kinds and getattr(subject, k, None) is not None
                        ),
                        "",
                    )
        if not found:
            raise _UnclearError(
                Unclear(
                    0,
                    len(self.reader.text),
                    f"which input of {of} is varied? Say its temperature or pressure, with a range",
                )
            )
        path = f"studies[{of}].{found}"
        kind = CONDITIONS[found].kind
        for i, piece in enumerate(self.pieces):
            token = piece.token
            if (
                piece.used
                or token.what != "range"
                or (token.unit and kind not in token.kinds and not (kind == "fraction" and token.unit == "%"))
            ):
                continue
            piece.used = True
            if self.kind.name == "sweep":
                self._set(
                    ("vary",), Variation(path=path, begin=token.cell(0), end=token.cell(1), **self._stepped(i, token))
                )
            else:
                self._set(("vary", "path"), path)
                self._set(("vary", "between"), (token.cell(0), token.cell(1)))
            break
        else:
            if self.kind.name == "sweep":
                raise _UnclearError(
                    Unclear(
                        len(self.reader.text),
                        len(self.reader.text),
                        f"over which {CONDITIONS[found].title}? Write a range, as 5..60 bar",
                    )
                )
            self._set(("vary", "path"), path)
        if self.kind.name == "goal":
            self._target()

    def _target(self) -> None:
        for piece in self.pieces:
            if not piece.used and piece.token.what == "number":
                piece.used = True
                token = piece.token
                self._set(("target",), f"{token.numbers[0]:.10g} {token.unit}" if token.unit else token.numbers[0])
                return
        raise _UnclearError(
            Unclear(len(self.reader.text), len(self.reader.text), "what is it to be? Write the value wanted, as 50 %")
        )

    def _component_names(self) -> None:
        names: list[str] = []
        for i, piece in enumerate(self.pieces):
            if piece.used or not piece.word or piece.word in SILENT:
                continue
            for count in (3, 2, 1):
                run = self.pieces[i : i + count]
                if len(run) < count or any(p.used or not p.word for p in run):
                    continue
                try:
                    names.append(find(" ".join(p.token.text for p in run)).name)
                except UnknownComponentError:
                    continue
                for p in run:
                    p.used = True
                break
        if names:
            self._set(("names",), tuple(dict.fromkeys(names)))
            self._set(("fluid",), "")

    def _stages(self) -> None:
        """Take pairs of a temperature and a pressure, one behind the other, as the stages of a train."""
        found = [
            p
            for p in self.pieces
            if not p.used and p.token.what == "number" and p.token.kinds & {"temperature", "pressure"}
        ]
        pairs: list[tuple[_Piece, _Piece]] = []
        i = 0
        while i + 1 < len(found):
            one, other = found[i], found[i + 1]
            kinds = [("temperature" in p.token.kinds, "pressure" in p.token.kinds) for p in (one, other)]
            if kinds[0][0] and kinds[1][1]:
                pairs.append((one, other))
                i += 2
            elif kinds[0][1] and kinds[1][0]:
                pairs.append((other, one))
                i += 2
            else:
                i += 1
        if self.kind.name == "black_oil" and len(pairs) < 2:
            return
        if pairs:
            stage = type(self.study.stages[0])  # type: ignore[attr-defined]
            self._set(("stages",), tuple(stage(temperature=t.token.cell(), pressure=p.token.cell()) for t, p in pairs))
            for t, p in pairs:
                t.used = p.used = True

    def _axes(self) -> None:
        """Take ranges and lists of conditions as the axes of a table, a single value as what is held."""
        axes: list[TableAxis] = []
        for i, piece in enumerate(self.pieces):
            token = piece.token
            if piece.used or token.what not in ("range", "list"):
                continue
            key = self._condition_of(token, [a.variable for a in axes])
            piece.used = True
            if token.what == "range":
                axes.append(TableAxis(variable=key, begin=token.cell(0), end=token.cell(1), **self._stepped(i, token)))
            else:
                axes.append(TableAxis(variable=key, values=tuple(token.cell(k) for k in range(len(token.numbers)))))
        for piece in self.pieces:
            token = piece.token
            if piece.used or token.what != "number" or not token.unit:
                continue
            names = [a.variable for a in axes]
            key = self._condition_of(token, names)
            piece.used = True
            if len(axes) == 2:
                raise self._fail(token, "two ranges are two axes; a condition held beside them is one too many")
            self._set((key,), token.cell())
        if not axes:
            if any(p != ("properties",) for p in self.filled_paths):
                axes = [a for a in self.study.axes if (a.variable,) not in self.filled_paths]  # type: ignore[attr-defined]
            else:
                return
        held = [k for k in CONDITIONS if (k,) in self.filled_paths]
        if len(axes) == 1 and not held:
            other = next(a for a in self.study.axes if a.variable != axes[0].variable)  # type: ignore[attr-defined]
            missing = CONDITIONS[other.variable].title
            raise _UnclearError(
                Unclear(
                    len(self.reader.text),
                    len(self.reader.text),
                    f"at which {missing}? A table over {CONDITIONS[axes[0].variable].title} holds another condition, or has a second range",
                )
            )
        if len(axes) > 2:
            raise _UnclearError(
                Unclear(0, len(self.reader.text), "a table has one or two axes; three ranges are given")
            )
        self._set(("axes",), tuple(axes))

    def _condition_of(self, token: Token, taken: list[str]) -> str:
        found = [
            k
            for k, c in CONDITIONS.items()
            if (
                c.kind in token.kinds
                or (c.by_mass or "") in token.kinds
                or (c.kind == "fraction" and token.unit == "%")
            )
            and k not in taken
        ]
        if not token.unit:
            raise self._fail(token, f"{self._text(token)} needs its unit: temperature or pressure?")
        if not found:
            raise self._fail(token, f"{self._text(token)} is no condition of a state that is still free")
        return found[0]

    def _text(self, token: Token) -> str:
        return self.reader.text[token.start : token.end]

    # -- quantities --------------------------------------------------------------------------------------------------

    def _cells(self) -> list[PathParts]:
        """Return the cells of the sentence that take quantities, in its order."""
        out: list[PathParts] = []

        def walk(parts: tuple[Piece, ...]) -> None:
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
        if kind is None or kind == SHARE:
            return ()
        if kind in ("enthalpy", "entropy"):
            return (kind, f"specific_{kind}")
        return ("",) if kind == "" else kinds_of(kind)

    def _fits(self, token: Token, path: PathParts) -> bool:
        kinds = self._kinds(path)
        if not kinds:
            return False
        if not token.unit:
            return kinds in (("",), ("fraction",))
        if token.unit == "%":
            return kinds in (("fraction",), ("",))
        return any(k in KINDS and fits(token.unit, k) for k in kinds if k)

    def _takes(self, token: Token, path: PathParts) -> bool:
        """Tell whether a cell takes one value, a list or a range."""
        hint = str(type(self.study).model_fields[str(path[0])].annotation)
        if len(path) > 1:
            return token.what == "number"
        several = "tuple" in hint
        if token.what == "range":
            return "Range" in hint or (several and self._is_ends(path))
        return several or token.what == "number"

    def _is_ends(self, path: PathParts) -> bool:
        extra = type(self.study).model_fields[str(path[0])].json_schema_extra
        return isinstance(extra, dict) and bool(extra.get("ends"))

    def _quantities(self) -> None:
        cells = self._cells()
        pending: list[tuple[int, _Piece]] = [
            (i, p) for i, p in enumerate(self.pieces) if not p.used and p.token.what in ("number", "list", "range")
        ]
        # Those that a word beside them is meant for go first.
        for i, piece in list(pending):
            path = self._clued(i, piece.token)
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
        if self.kind.name == "flash" and path[0] in CONDITIONS:
            return sum((k,) in self.filled_paths for k in CONDITIONS) >= 2
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

    def _put(self, path: PathParts, i: int, piece: _Piece) -> None:
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
        if token.what == "range" and not self._is_ends(path):
            logarithmic = (
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

    # -- what is left ------------------------------------------------------------------------------------------------

    def _choices(self) -> None:
        """Take words that pick: the water as given, a container, no air."""
        text = folded(self.reader.text)
        for words, path, value in (
            ("water as given", ("water",), "as given"), ("own water", ("water",), "as given"), ("free water", ("water",), "free"),
            ("without air", ("air",), False), ("air free", ("air",), False), ("dead", ("container",), "dead"), ("live", ("container",), "live"),
        ):  # fmt: skip
            if words in text and path[0] in type(self.study).model_fields:
                wanted = words.split()
                for i in range(len(self.pieces) - len(wanted) + 1):
                    run = self.pieces[i : i + len(wanted)]
                    if [p.word for p in run] == wanted:
                        for p in run:
                            p.used = True
                        self._set(path, value)
                        break

    def _leftover(self, words: bool = False) -> None:
        """Raise where a word or a number was not understood; of ``words`` alone while quantities wait."""
        names = [n for group in self._names_there() for n in group]
        own = {w for said in (*self.kind.clues.values(), self.kind.phrases) for clue in said for w in clue.split()}
        if self.kind.subject == "study":
            own |= {w for said in (*condition_words(), *property_words()) for w in said.split()}
        out: list[Unclear] = []
        for piece in self.pieces:
            word, token = piece.word, piece.token
            if piece.used or token.what == "mark" or word in SILENT or (word and word in own) or (words and not word):
                continue
            if out and word and not self.reader.text[out[-1].end : token.start].strip():
                out[-1] = Unclear(out[-1].start, token.end, "")
            else:
                out.append(Unclear(token.start, token.end, ""))
        if out:
            known = [*names, *kind_words(), *property_words()]
            raise _UnclearError(*(self._told(u, known) for u in out))

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
            held = [k for k in CONDITIONS if getattr(self.study, k) is not None]
            if len(held) < 2:
                told = f"at which {'pressure' if held == ['temperature'] else 'temperature' if held == ['pressure'] else 'temperature and pressure'}? A state takes two conditions, and none is assumed"
                raise _UnclearError(Unclear(end, end, told))
        if self.kind.name == "saturation" and self.study.temperature is None and self.study.pressure is None:  # type: ignore[attr-defined]
            raise _UnclearError(Unclear(end, end, "at which temperature or pressure? None is assumed"))
        if self.kind.name == "roots" and (
            self.study.temperature is None or (self.study.pressure is None and self.study.molar_volume is None)
        ):  # type: ignore[attr-defined]
            raise _UnclearError(Unclear(end, end, "at which temperature and pressure? None is assumed"))


def of_phases(key: str) -> tuple[str, ...]:
    """Return a property as it can be asked for: one that is of a phase and of no whole of both, vapour and liquid."""
    if "." in key or key in OF_WHOLE or key not in OF_PHASE:
        return (key,)
    return (f"vapour.{key}", f"liquid.{key}")


def _read_path(key: str) -> str:
    """Return the path in a flash's answer of a property of a phase."""
    phase, dot, own = key.partition(".")
    return f"phases.{phase}.{own}" if dot and phase in PHASES.values() else key
