"""Solving a document: every study by its kind, each answer with ``ok``, ``notes`` and its results or ``error``."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

from ..document import Document, Fault, StudyReading, read_document
from ..document.faults import DocumentError, did_you_mean, errors
from ..document.kinds import study_kinds
from ..document.model import Study
from ..errors import DomainError
from ..watch import UNWATCHED, Watch
from .context import Answer, Context, NoAnswerError
from .evaluator import Evaluator, Project
from .measured import beside
from .references import compared
from .sentences import Units, sentence

ANSWERS_FORMAT = "cryonome-answers/1"


def solve_study(study: Study, reading: StudyReading, project: Project, watch: Watch = UNWATCHED) -> Answer:
    """Return the answer of one valid study, remembered by its content. Raises Cancelled; what is no domain error is a fault of the program."""
    key = (study.model_dump_json(), project.content_of(study), project.document.display.units)
    answers = project.evaluator.answers
    known = answers.peek(key)
    if isinstance(known, dict):
        return dict(known)
    answer = _solved(study, reading, project, watch)
    if study_kinds()[study.kind].keep(answer):
        answers.put(key, answer)
    return dict(answer)


def _solved(study: Study, reading: StudyReading, project: Project, watch: Watch) -> Answer:
    units = Units.of(project.document.display.units)
    context = Context(project, watch, units)
    try:
        answer = {"ok": True, **study_kinds()[study.kind].solve(reading.asked, context)}
    except NoAnswerError as error:
        told = [sentence(r, units) for r in error.remarks]
        return {"ok": False, "error": " ".join(told), "notes": []}
    except DomainError as error:
        return {"ok": False, "error": str(error), "notes": []}
    if reading.measured:
        answer |= beside(reading.measured, answer, study, reading.asked, project, units)
    if reading.references:
        answer["reference"] = compared(answer, reading.references)
    if not _finite(answer):
        return {"ok": False, "error": "the computation gave a number that is not finite", "notes": []}
    return answer


def _finite(value: Any) -> bool:
    if isinstance(value, float):
        return math.isfinite(value)
    if isinstance(value, dict):
        return all(_finite(v) for v in value.values())
    if isinstance(value, (list, tuple)):
        return all(_finite(v) for v in value)
    return True


def solve(document: Document, names: Iterable[str] = (), evaluator: Evaluator | None = None) -> dict[str, Any]:
    """Return the answers of a document's studies, all or the named ones. Raises DocumentError where it is invalid."""
    reading = read_document(document)
    faults = errors(reading.faults)
    known = [s.name for s in document.studies]
    names = list(names)
    faults += [Fault(("studies",), f"unknown study '{n}'{did_you_mean(n, known)}") for n in names if n not in known]
    if faults:
        raise DocumentError(faults)
    project = (evaluator or Evaluator()).at(document)
    answers = {
        study.name: solve_study(study, read, project)
        for study, read in zip(document.studies, reading.studies)
        if not names or study.name in names
    }
    return {"format": ANSWERS_FORMAT, "answers": answers}
