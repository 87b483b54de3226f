"""A typed question answered: its sentence, its answer as a sentence, and the data."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..document import Document, Study
from ..document.edits import add_study
from ..document.kinds import study_kinds
from ..fluids.columns import AT_STANDARD
from ..questions.solving import solve
from ..results.evaluator import Evaluator
from ..telling.sentences import Units
from ..telling.table_blocks import of_key
from .cells import answer_words
from .spoken import spoken
from .typed_pieces import Understood


@dataclass(frozen=True)
class Answered:
    """The question as a sentence and as a document holds it, its answer as a sentence and as data."""

    sentence: str
    study: dict[str, Any]
    says: str
    answer: dict[str, Any]


def answered(
    study: Study, document: Document, wanted: tuple[str, ...] = (), evaluator: Evaluator | None = None
) -> Answered:
    """Return the answer of a question that stands in no document; ``wanted`` properties of a state are told first.
    Raises DocumentError."""
    evaluator = evaluator or Evaluator()
    whole = add_study(document, study)
    asked = whole.studies[-1]
    answer = solve(whole, [asked.name], evaluator)["answers"][asked.name]
    units = Units.of(document.display.units).of_states()
    return Answered(
        spoken(asked, whole, units).text,
        asked.model_dump(mode="json", by_alias=True, exclude_defaults=True) | {"kind": asked.kind},
        f"{properties_said(answer, wanted, units)}{said(asked, answer, whole, units, evaluator)}",
        answer,
    )


def properties_said(answer: dict[str, Any], wanted: tuple[str, ...], units: Units) -> str:
    """Return the properties of a state that were asked for, of the whole or of each phase there is."""
    told = []
    for key in wanted if answer["ok"] else ():
        phase, dot, own = key.partition(".")
        found: list[tuple[str, Any]] = []
        if not dot and answer.get(key) is not None:
            found = [("", answer[key])]
        elif dot and phase == AT_STANDARD:
            found = [("", (answer.get("standard") or {}).get(own))]
        else:
            name = own if dot else key
            found = [(p["kind"], p.get(name)) for p in answer["phases"] if not dot or p["kind"] == phase]
        own_key = own if dot else key
        shown = of_key(own_key, units)
        words = answer_words(own_key)
        if not any(v is not None for _, v in found):
            told.append(f"no {phase if dot else 'phase'} has a {words} there")
        for kind, value in found:
            if value is not None:
                told.append(f"{words}{f' of the {kind}' if kind else ''} {shown.short(value)} {shown.head[1]}".strip())
    text = ", ".join(told)
    return f"{text[:1].upper()}{text[1:]}. " if text else ""


def said(study: Study, answer: dict[str, Any], document: Document, units: Units, evaluator: Evaluator) -> str:
    """Return an answer as a sentence; of none why there is none."""
    if not answer["ok"]:
        told = str(answer["error"])
        return told[:1].upper() + told[1:] + ("" if told[-1:] in ".?!" else ".")
    kind = study_kinds()[study.kind]
    reading = evaluator.at(document).read_study(study)
    if kind.says is not None and reading.asked is not None:
        return kind.says(reading.asked, answer, units)
    told = kind.line(answer, units)
    return told[:1].upper() + told[1:] + "."


def underlined(text: str, found: Understood) -> str:
    """Return what was typed with what is not understood underlined, and why, for a terminal."""
    marks = [" "] * (len(text) + 1)
    for u in found.unclear:
        for i in range(u.start, max(u.end, u.start + 1)):
            marks[min(i, len(text))] = "~"
    reasons = "\n".join(u.message for u in found.unclear)
    return f"{text}\n{''.join(marks).rstrip()}\n{reasons}"
