"""Solving a document: every study by its kind, each answer with ``ok``, ``notes`` and its results or ``error``."""

from __future__ import annotations

import logging
import math
from collections.abc import Hashable, Iterable, Sequence
from dataclasses import replace
from typing import Any

from ..document import Document, Fault, Sample, StudyReading
from ..document.checks import unique_names
from ..document.drafts import drafts_below
from ..document.faults import DocumentError, PathParts, did_you_mean, errors, format_path
from ..document.field_types import FLUIDS, SAMPLES, STUDIES
from ..document.kinds import study_kinds
from ..document.model import Measured, Study
from ..errors import DomainError
from ..matching.measured import beside
from ..results.context import Answer, Context, NoAnswerError
from ..results.evaluator import Evaluator, Project, placed
from ..results.frozen import frozen
from ..results.references import compared
from ..telling.sentences import Units
from ..telling.worded import worded
from ..watch import UNWATCHED, Cancelled, Watch
from .named_values import values_of

log = logging.getLogger(__name__)

ANSWERS_FORMAT = "cryonome-answers/1"


def solve_study(study: Study, project: Project, watch: Watch = UNWATCHED) -> Answer:
    """Return the answer of one question, remembered by its content and frozen, its remarks as data. Raises Cancelled;
    what is no domain error is a fault of the program."""
    reading, key = project.read_study(study), answer_key(study, project)
    keep = study_kinds()[study.kind].keep
    known = project.evaluator.answers.peek(key)
    if isinstance(known, dict) and not keep(known):
        project.evaluator.answers.forget(key)
    return project.evaluator.answers.get(key, lambda: frozen(_solved(study, reading, project, watch)), watch)


def solve_sooner(study: Study, project: Project, watch: Watch = UNWATCHED) -> Answer:
    """Return what of an answer is there first, for who looks on: all of it where it is known, else what its kind gives
    sooner. Raises Cancelled."""
    known = project.evaluator.answers.peek(answer_key(study, project))
    kind, reading = study_kinds()[study.kind], project.read_study(study)
    if isinstance(known, dict) or kind.sooner is None:
        return solve_study(study, project, watch)
    first: Answer = frozen(_solved(study, replace(reading, asked=kind.sooner(reading.asked)), project, watch))
    return first


def answer_key(study: Study, project: Project) -> Hashable:
    """Return what an answer is remembered by: all that it depends on."""
    asked = project.read_study(study).asked
    return ("answer", project.content(study), _as_key(asked), project.content_of(study))


def _as_key(asked: Any) -> Any:
    """Return what is asked where it can be part of a key: it may hold what the question's text does not, as the
    places that paths lead to."""
    try:
        hash(asked)
    except TypeError:
        return None
    return asked


def _solved(study: Study, reading: StudyReading, project: Project, watch: Watch) -> Answer:
    narrow = project.evaluator.at(project.narrowed(study, names=False))
    try:
        answer = {"ok": True, **study_kinds()[study.kind].solve(reading.asked, Context(narrow, watch))}
    except NoAnswerError as error:
        return {"ok": False, "error": list(error.remarks), "notes": []}
    except DomainError as error:
        return {"ok": False, "error": str(error), "notes": []}
    except Cancelled:
        raise
    except Exception as error:
        # A fault of the program ends this question alone, and never passes for "there is no such state".
        log.exception("the question '%s' failed", study.name)
        told = f"{type(error).__name__}: {error}".rstrip(": ")
        return {
            "ok": False,
            "error": f"the program failed on this question ({told}); its numbers are not to blame",
            "notes": [],
        }
    if reading.measured and isinstance(study, Measured):
        answer |= beside(reading.measured, answer, study, reading.asked, narrow)
    if reading.references:
        answer["reference"] = compared(answer, reading.references)
    place = _not_finite(answer)
    if place:
        return {"ok": False, "error": f"the computation gave a number that is not finite, {place}", "notes": []}
    return answer


def _place(document: Document, group: str, part: Any) -> PathParts:
    """Return where a part stands in the document; a fluid that a sample is by default stands at its sample."""
    found = next((i for i, t in enumerate(getattr(document, group)) if t is part), None)
    if found is not None:
        return (group, found)
    return ("samples", next(i for i, s in enumerate(document.samples) if s.name == getattr(part, "name", "")))


def faults_of(study: Study, project: Project, curves_whole: bool = True) -> list[Fault]:
    """Return what forbids an answer, with paths in the document: faults of the question, and of all that it depends
    on. A curve of a sample may go on without its faulty points unless it is to be ``curves_whole``."""
    document = project.document
    found: list[Fault] = []
    for group, part in ((STUDIES, study), *_reached(study, project)):
        path = _place(document, group, part)
        own = project.read(part) if curves_whole or not isinstance(part, Sample) else project.read_sample(part).blocking
        found += [*errors(placed(own, path)), *drafts_below(document, path)]
    return found


def _reached(study: Study, project: Project) -> list[tuple[str, Any]]:
    found = project.reached(study)
    # Other questions are read by what asks them, which says what it makes of their faults.
    return [*((SAMPLES, s) for s in found.samples), *((FLUIDS, f) for f in found.fluids)]


def _not_finite(value: Any, path: str = "") -> str:
    """Return the path of the first number that is not finite, none where all are."""
    if isinstance(value, float):
        return "" if math.isfinite(value) else path
    if isinstance(value, dict):
        parts = ((v, f"{path}.{k}" if path else str(k)) for k, v in value.items())
    elif isinstance(value, (list, tuple)):
        parts = ((v, f"{path}[{i}]") for i, v in enumerate(value))
    else:
        return ""
    return next((found for part, own in parts if (found := _not_finite(part, own))), "")


def solve(document: Document, names: Iterable[str] = (), evaluator: Evaluator | None = None) -> dict[str, Any]:
    """Return the answers of a document's studies, all or the named ones; a faulty cell silences what uses it alone,
    whose answer carries the ``faults``. Raises DocumentError where nothing can be answered for faults."""
    known = [s.name for s in document.studies]
    names = list(names)
    unknown = [Fault(("studies",), f"unknown study '{n}'{did_you_mean(n, known)}") for n in names if n not in known]
    if unknown:
        raise DocumentError(unknown)
    project = (evaluator or Evaluator()).at(document)
    wanted = [s for s in document.studies if (s.name in names if names else not s.draft)]
    twice = {f.path[:2]: f for f in unique_names(document)}
    units = Units.of(document.display.units)
    answers: dict[str, Answer] = {}
    good = False
    for study in wanted:
        place: PathParts = ("studies", next(i for i, s in enumerate(document.studies) if s is study))
        wrong = [*([twice[place]] if place in twice else []), *faults_of(study, project)]
        wrong += [f for p, f in twice.items() if p[0] != "studies" and _names_it(study, project, p)]
        good = good or not wrong
        answers[study.name] = refused(wrong) if wrong else worded(solve_study(study, project), units)
    if not good:
        found = project.faults()
        if found:
            raise DocumentError(found)
    if document.values and not names:
        return {"format": ANSWERS_FORMAT, "answers": answers, "values": named_values(project)}
    return {"format": ANSWERS_FORMAT, "answers": answers}


def answer_of(study: Study, project: Project, watch: Watch = UNWATCHED) -> Answer:
    """Return the answer of a question in the document's units, or why faults forbid one. Raises Cancelled."""
    wrong = faults_of(study, project)
    units = Units.of(project.document.display.units)
    return refused(wrong) if wrong else worded(solve_study(study, project, watch), units)


def named_values(project: Project) -> dict[str, Any]:
    """Return the named values of a document by their name, each from the answers it asks for."""
    document = project.document

    def answer(name: str) -> Answer | None:
        study = document.study(name)
        return None if study is None else answer_of(study, project)

    return dict(values_of(document.values, answer, [s.name for s in document.studies if not s.draft]))


def _names_it(study: Study, project: Project, place: PathParts) -> bool:
    """Tell whether a question depends on what is called as the thing at a place, whose name is given twice."""
    thing = getattr(project.document, str(place[0]))[int(place[1])]
    return any(p.name == thing.name for p in getattr(project.reached(study), str(place[0])))


def refused(faults: Sequence[Fault]) -> Answer:
    """Return the answer of a question that faults of the document forbid."""
    told = [{"path": format_path(f.path), "message": f.message} for f in faults]
    return {"ok": False, "error": "; ".join(str(f) for f in faults[:3]), "notes": [], "faults": told}
