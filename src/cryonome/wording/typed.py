"""A typed line as a question: "hydrates of Selden gas at 80 bar with 20 % methanol".

Words of a kind, names of what the project holds, quantities with their units and a few words that tell which of them
is meant may come in any order. What is not understood is told with its place, and then nothing is asked: no word is
ever guessed at."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..components.databank import all_components
from ..components.names import known
from ..document import Document, Study
from ..document.edits import free_name
from ..document.kinds import StudyKind, study_kinds
from ..document.references import asks_another, is_about
from ..questions.beginning import begun
from ..results.hydrates import own_name
from ..solids.inhibitors import INHIBITORS, SALTS
from ..telling.sentences import Units
from .own_voice import Heard, heard, told_by
from .scan import scanned
from .typed_blanks import Filler
from .typed_pieces import (
    ASKING,
    LONGEST,
    NO_DEFAULT,
    RELATED,
    SIZES,
    STEPS,
    Piece,
    Typed,
    Unclear,
    UnclearError,
    Understood,
)
from .vocabulary import PHASES, SILENT, equation_words, folded, kind_words, property_words

DRAWING = frozenset(["draw", "draws", "drawn"])


def understood(text: str, document: Document, fluid: str = "", sample: str = "") -> Understood:
    """Return the question of a typed line about a document; ``fluid`` and ``sample`` are what it is about where the
    line names none."""
    return Reader(text, document, fluid, sample).read()


def words_known(document: Document) -> list[str]:
    """Return every word and name that a line may have, for completion."""
    names = [
        *(f.name for f in document.every_fluid),
        *(s.name for s in document.samples),
        *(s.name for s in document.studies if not s.draft),
    ]
    dosed = [*INHIBITORS, *SALTS]
    components = [c.name for c in all_components()]
    return [*dict.fromkeys([*kind_words(), *names, *dosed, *property_words(), *equation_words(), *components])]


@dataclass
class Reader(Typed):
    """Reads one line."""

    def read(self) -> Understood:
        self.pieces = [Piece(t) for t in scanned(self.text)]
        try:
            self._names()
            kind = self._kind()
            study = self._study(kind)
            return Understood(study, (), tuple(self.properties) if kind == "flash" else ())
        except UnclearError as error:
            return Understood(None, error.found)

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
        pattern = re.compile(rf"(?<!\w){re.escape(words)}(?!\w)".replace("\\ ", r"\s+"), re.IGNORECASE)
        for found in pattern.finditer(self.text):
            run = [p for p in self.pieces if p.token.start >= found.start() and p.token.end <= found.end()]
            if run and wanted and not any(p.used for p in run):
                self._mark(run, name, groups)
                return True
        return False

    def _mark(self, run: Sequence[Piece], name: str, groups: Mapping[str, list[str]]) -> None:
        for piece in run:
            piece.used = True
        start = min(piece.token.start for piece in run)
        for group, names in groups.items():
            if name in names:
                self.found.append((start, group, name))
                self.names[group] = [n for _, g, n in sorted(self.found) if g == group]

    def _kind(self) -> str:
        """Return the kind that is asked, by the words that name it."""
        told = told_by(self.text, self._is_name)
        if told is not None:
            self._hear(told)
            self.properties = self._properties() if told.kind in ("flash", "table") else []
            return told.kind
        kind = self._kind_by_words()
        said = heard(self.text, kind)
        if said is not None:
            self._hear(said)
        return kind

    def _is_name(self, start: int, end: int) -> bool:
        """Tell whether a stretch is a name of the project and nothing else."""
        inside = [p for p in self.pieces if p.token.start >= start and p.token.end <= end]
        return bool(inside) and all(p.used for p in inside)

    def _hear(self, told: Heard) -> None:
        """Take the words of a sentence that is the kind's own, and note which blank each quantity stands in."""
        self.heard = told
        # Two values that belong in two blanks are no list, and no range, for one of them.
        split: list[Piece] = []
        for piece in self.pieces:
            token = piece.token
            over = [(a, b) for _, a, b in told.blanks if a < token.end and token.start < b]
            whole = not over or (over[0][0] <= token.start and token.end <= over[0][1])
            if token.what in ("word", "mark") or piece.used or whole:
                split.append(piece)
                continue
            for a, b in over:
                first, last = max(a, token.start), min(b, token.end)
                own = scanned(self.text[first:last])
                split += [Piece(replace(t, start=t.start + first, end=t.end + first)) for t in own]
        self.pieces = split
        for i, piece in enumerate(self.pieces):
            inside = any(a <= piece.token.start and piece.token.end <= b for a, b in told.words)
            counts = piece.word in (*STEPS, *SIZES) and i > 0 and self.pieces[i - 1].token.what == "number"
            if inside and piece.word and piece.word not in SILENT and not counts:
                piece.used = True

    def property_in(self, words: str) -> str:
        """Return the property that words name, by its key; "" for none."""
        other = Reader(words, self.document)
        other.pieces = [Piece(t) for t in scanned(words)]
        found = other._properties()
        rest = [p for p in other.pieces if p.word and not p.used and p.word not in SILENT]
        return found[0] if len(found) == 1 and not rest else ""

    def _kind_by_words(self) -> str:
        """Return the kind that is asked, by the words that name it."""
        score, places = self._scores()
        self.properties = self._properties()
        ranged, listed = (any(p.token.what == what for p in self.pieces) for what in ("range", "list"))
        left = {p.word for p in self.pieces if not p.used}
        if set(score) <= {"sweep"} and left & DRAWING and any(w in equation_words() for w in left):
            return "isotherms"
        if not score:
            return self._kind_of_quantities(ranged, listed)
        # A word of one kind may stand in a question of another ("lump to 12 components").
        leading = [k for k in score if not any(k in RELATED.get(j, ()) and j not in RELATED.get(k, ()) for j in score)]
        best = self._meant(max(leading or score, key=lambda k: score[k]), ranged, listed)
        others = [
            k for k in score if k != best and 2 * score[k] > score.get(best, 0) and k not in RELATED.get(best, ())
        ]
        if others and best in score:
            token = places[others[0]][0].token
            titles = " and ".join(study_kinds()[k].title.lower() for k in (best, others[0]))
            raise UnclearError(Unclear(token.start, token.end, f"{titles} are two questions; ask one at a time"))
        return best

    def _scores(self) -> tuple[dict[str, int], dict[str, list[Piece]]]:
        """Return how many letters of the line name each kind, the longest phrases first, and where."""
        known = kind_words()
        score: dict[str, int] = {}
        places: dict[str, list[Piece]] = {}
        for run in self._runs(LONGEST):
            words = " ".join(p.word for p in run)
            kind = known.get(words) or known.get(words.rstrip("s"))
            if kind is not None:
                score[kind] = score.get(kind, 0) + len(words)
                places.setdefault(kind, []).extend(run)
                for piece in run:
                    piece.used = True
        return score, places

    def _runs(self, longest: int) -> Iterator[list[Piece]]:
        """Yield stretches of words that mean nothing yet, the longest first."""
        for count in range(longest, 0, -1):
            for i in range(len(self.pieces) - count + 1):
                run = self.pieces[i : i + count]
                if all(p.word and not p.used for p in run):
                    yield run

    def _kind_of_quantities(self, ranged: bool, listed: bool) -> str:
        """Return the kind of a line that names none: a table or a state of properties, a state of two quantities."""
        if self.properties:
            return "table" if ranged or listed else "flash"
        quantities = sum(p.token.what == "number" and bool(p.token.unit) for p in self.pieces)
        if not ranged and quantities >= 2:
            return "flash"
        told = "what is asked is not said; begin with hydrates, dew point, table, density or another question"
        raise UnclearError(Unclear(0, len(self.text), told))

    def _meant(self, best: str, ranged: bool, listed: bool) -> str:
        """Return the kind that is meant by words of one that stand beside properties or a sample."""
        if best == "flash" and self.properties and (ranged or listed):
            return "table"
        if best == "viscosity" and self.properties and not any(p.word in ("test", "curve") for p in self.pieces):
            return "table" if ranged else "flash"
        # Yields of a sample stand with its cuts.
        alone = best == "yields" and "samples" in self.names and not (ranged or listed)
        return "characterization" if alone else best

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

    def _study(self, kind_name: str) -> Study:
        kind = study_kinds()[kind_name]
        try:
            subject = self._subject(kind)
        except UnclearError:
            # A word that is not understood may be the name that is missed.
            Filler(self, kind, begun(kind, "", None, Units.of("metric"))).check_words()
            raise
        units = Units.of(self.document.display.units)
        study = begun(kind, subject, None, units)
        study = study.model_copy(update={"name": free_name(self.document, study.name)})
        if kind_name == "vapour_pressure":
            # The lists of a draft are for its picture; who types a question says what is wanted.
            study = study.model_copy(update={"ratios": (4,), "temperatures": ()})
        if kind_name in NO_DEFAULT:
            study = study.model_copy(update={k: None for k in ("temperature", "pressure") if hasattr(study, k)})
        filler = Filler(self, kind, study)
        return filler.filled()

    def _subject(self, kind: StudyKind[Any, Any]) -> str:
        """Return what is asked about: what was named, else what is chosen, else the only one there is."""
        group = {"fluid": "fluids", "sample": "samples", "study": "studies"}[kind.subject]
        said = self.heard.blank("of", self.text) if self.heard is not None and group == "studies" else ""
        # A fluid may be called as a question is.
        alike = [s.name for s in self.document.studies if said and folded(s.name) == folded(said)]
        if alike:
            return said if said in alike else alike[0]
        named = list(dict.fromkeys(self.names.get(group, ())))
        if len(named) > 1 and kind.name != "swelling":
            raise UnclearError(self.at_name(named[1], f"two are named, {named[0]} and {named[1]}; ask about one"))
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
        raise UnclearError(Unclear(len(self.text), len(self.text), told))

    @staticmethod
    def _is_component(piece: Piece) -> bool:
        return not piece.used and bool(piece.word) and piece.word not in SILENT and known(piece.token.text) is not None
