"""Sweeps and goals typed in their own sentence: inputs by their words, results by theirs."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..document import Document, Study
from ..document.cell_paths import named_path
from ..document.kinds import study_kinds
from ..questions.asking import input_words, inputs_of
from ..questions.kinds.sweep import Variation
from .cells import answer_words
from .own_voice import Heard
from .scan import scanned
from .typed_pieces import Piece
from .typed_special import SpecialWords, read_path
from .vocabulary import folded


def input_named(words: str, document: Document) -> str:
    """Return the path of the input that is called so ("amount of n-butane in Export blend"), "" for none."""
    said = folded(words)
    found = (p for p in inputs_of(document) if folded(input_words(p, document)) == said)
    parts = next(found, None)
    return "" if parts is None else named_path(parts, document)


def result_named(words: str, study: Study) -> str:
    """Return the path in the answer of a question of what is called so, by the keys of its kind's answers; "" for none."""
    said = folded(words)
    keys = study_kinds()[study.kind].answer.__annotations__
    return next((k for k in keys if folded(answer_words(k)) == said), "")


@dataclass
class Asking(SpecialWords):
    """What a sweep or a goal says of the question that it asks."""

    def asked_as_said(self) -> bool:
        """Fill a sweep or a goal from its own sentence; tell whether that could be done."""
        told = self.reader.heard
        if told is None or told.kind != self.kind.name:
            return False
        blanks = {paths[0]: (start, end) for paths, start, end in told.blanks if paths}
        subject = self.reader.document.study(getattr(self.study, "of", ""))
        if subject is None:
            return False
        read = self._read_in(blanks.get("read"), subject)
        done = bool(read) and (
            self._swept(told, read) if self.kind.name == "sweep" else self._made_equal(blanks, read[0])
        )
        if done:
            for piece in self.pieces:
                piece.used = True
        return done

    def _read_in(self, span: tuple[int, int] | None, subject: Study) -> tuple[str, ...]:
        if span is None:
            return ()
        out: list[str] = []
        for words in self.reader.text[slice(*span)].split(","):
            key = result_named(words, subject)
            if not key and subject.kind == "flash":
                named = self.reader.property_in(words)
                key = read_path(named) if named else ""
            if not key:
                return ()
            out.append(key)
        return tuple(out)

    def _swept(self, told: Heard, read: tuple[str, ...]) -> bool:
        start, end = next((a, b) for paths, a, b in told.blanks if not paths)
        inputs: list[Variation] = []
        for part in re.split(r"\s+and\s+(?=.+\sgoes\s)", self.reader.text[start:end]):
            words, goes, values = part.partition(" goes ")
            path = input_named(words, self.reader.document) if goes else ""
            tokens = [Piece(t) for t in scanned(values)]
            span = next((p.token for p in tokens if p.token.what == "range"), None)
            counts = [p.token for p in tokens if p.token.what == "number" and not p.token.unit]
            if not path or span is None or len(counts) > 2:
                return False
            steps = round(counts[0].numbers[0]) if counts else 10
            inputs.append(Variation(path=path, begin=span.cell(0), end=span.cell(1), steps=steps))
        self._set(("vary",), inputs[0] if len(inputs) == 1 else tuple(inputs))
        self._set(("read",), read)
        return True

    def _made_equal(self, blanks: dict[str, tuple[int, int]], read: str) -> bool:
        cells = []
        for key in ("vary.between.0", "vary.between.1", "target"):
            tokens = scanned(self.reader.text[slice(*blanks.get(key, (0, 0)))])
            if len(tokens) != 1 or tokens[0].what != "number":
                return False
            cells.append(tokens[0].cell())
        path = input_named(self.reader.text[slice(*blanks["vary.path"])], self.reader.document)
        if not path:
            return False
        self._set(("vary", "path"), path)
        self._set(("vary", "between"), (cells[0], cells[1]))
        self._set(("target",), cells[2])
        self._set(("read",), read)
        return True
