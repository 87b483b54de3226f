"""The registry of study kinds and the solving of a document."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import Any

from ..document import Document, DocumentError, Fault, check_document, errors
from ..document.faults import did_you_mean
from ..document.model import Fluid, Study
from .evaluator import Evaluator

ANSWERS_FORMAT = "cryonome-answers/1"

Answer = dict[str, Any]
Solver = Callable[[Any, Document, Evaluator], Answer]

_KINDS: dict[str, Solver] = {}


class NoAnswerError(Exception):
    """A valid study that has no answer; the message says why."""


def kind(name: str) -> Callable[[Solver], Solver]:
    """Register the solver of a study kind."""

    def register(function: Solver) -> Solver:
        _KINDS[name] = function
        return function

    return register


def asked_fluid(name: str, document: Document) -> Fluid:
    """Return the fluid a study names."""
    fluid = document.fluid(name)
    if fluid is None:
        raise NoAnswerError(f"unknown fluid '{name}'")
    return fluid


def solve_study(study: Study, document: Document, evaluator: Evaluator) -> Answer:
    """Return the answer of one valid study: ``ok``, ``notes``, and its results or ``error``."""
    try:
        answer = {"ok": True, **_KINDS[study.kind](study, document, evaluator)}
    except (NoAnswerError, ValueError, ArithmeticError) as error:
        return {"ok": False, "error": str(error), "notes": []}
    return (
        answer
        if _finite(answer)
        else {"ok": False, "error": "the computation gave a number that is not finite", "notes": []}
    )


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
    faults = errors(check_document(document))
    known = [s.name for s in document.studies]
    names = list(names)
    faults += [Fault(("studies",), f"unknown study '{n}'{did_you_mean(n, known)}") for n in names if n not in known]
    if faults:
        raise DocumentError(faults)
    evaluator = evaluator or Evaluator()
    chosen = [s for s in document.studies if not names or s.name in names]
    return {"format": ANSWERS_FORMAT, "answers": {s.name: solve_study(s, document, evaluator) for s in chosen}}
