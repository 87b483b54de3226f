"""Samples that could not be answered together are answered one by one."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TypeVar

from ..errors import DomainError
from ..results.context import Answer, Context
from ..results.evaluator import Project
from ..watch import Watch

Asked = TypeVar("Asked")


def rest_alone(
    items: Sequence[tuple[Asked, Project]],
    found: Mapping[int, Answer],
    solve: Callable[[Asked, Context], Answer],
    watch: Watch,
) -> list[Answer | DomainError]:
    """Return the answers of all ``items``: those ``found``, by their place, and of the others by ``solve``; one that
    has no answer is the error that says why."""
    out: list[Answer | DomainError] = []
    for i, (asked, project) in enumerate(items):
        part = watch.part(i / len(items), (i + 1) / len(items))
        part.check()
        if i in found:
            out.append(found[i])
            continue
        try:
            out.append(solve(asked, Context(project, part)))
        except DomainError as error:
            out.append(error)
    return out
