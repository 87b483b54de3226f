"""The samples of a large spread, shared among workers.

A worker is sent the document, what is read and which samples; it makes the same base of it and gives back what is
read. So the numbers are those of one process, to the last bit."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor
from contextlib import contextmanager
from contextvars import ContextVar
from functools import lru_cache

from ...document import Document
from ...errors import DomainError
from ...results.evaluator import Evaluator, Project
from ...sharing import Lost, in_order
from ...watch import UNWATCHED, Watch
from ..value_reading import Read
from .groups import Drawing
from .running import Sampled, parts, run
from .sampled import Kept, keeping

LARGE = 2_000
"""Samples from which on a spread is shared."""

_EXECUTOR: ContextVar[Executor | None] = ContextVar("executor of samples", default=None)


@contextmanager
def sharing(executor: Executor | None) -> Iterator[None]:
    """Share the samples of large spreads among the workers of an executor, for as long as this lasts."""
    token = _EXECUTOR.set(executor)
    try:
        yield
    finally:
        _EXECUTOR.reset(token)


def has_large_spread(text: str) -> bool:
    """Tell whether a document's text holds a spread that is shared."""
    try:
        studies = json.loads(text).get("studies", ())
        return any(s.get("kind") == "spread" and float(s.get("samples") or 0) >= LARGE for s in studies)
    except (ValueError, AttributeError, TypeError):
        return False


def samples(
    asked: Sampled, drawing: Drawing, base: Project, reads: Sequence[Read], kind: str, watch: Watch
) -> Iterator[tuple[int, list[Kept | DomainError]]]:
    """Yield what is kept of each group of samples, computed here or, of a large spread, by the workers that there are.
    ``kind`` names the pictures that are kept too, "" for none."""
    executor = _EXECUTOR.get()
    if executor is None or drawing.count < LARGE:
        yield from run(asked, drawing, base, keeping(asked.of, reads, kind), watch)
        return
    text = base.document.model_dump_json(by_alias=True)
    groups = list(parts(0, drawing.count))
    tasks = ((text, asked, drawing, tuple(reads), kind, first, size) for first, size in groups)
    for place, ((first, size), found) in enumerate(zip(groups, in_order(group_of, tasks, executor))):
        watch.at(place / len(groups))
        yield first, [DomainError(found.reason)] * size if isinstance(found, Lost) else found


@lru_cache(2)
def _base(text: str, asked: Sampled) -> Project:
    document = Document.model_validate_json(text)
    return asked.base(Evaluator().at(document), UNWATCHED)[1]


def group_of(
    text: str, asked: Sampled, drawing: Drawing, reads: tuple[Read, ...], kind: str, first: int, size: int
) -> list[Kept | DomainError]:
    """Return what is kept of some samples of a document's text, of one without an answer why."""
    ((_, found),) = run(asked, drawing, _base(text, asked), keeping(asked.of, reads, kind), UNWATCHED, first, size)
    # An error travels as its sentence.
    return [DomainError(str(v)) if isinstance(v, DomainError) else v for v in found]
