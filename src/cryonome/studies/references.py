"""Numbers from elsewhere held against an answer, value by value."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NotRequired

from typing_extensions import TypedDict

from ..errors import DomainError
from .answer_paths import number_at


class ReferenceAnswer(TypedDict):
    """One value of ours beside theirs, in the unit of the answer's key; ``relative`` is ours over theirs less one. What is missing
    is null, and says why."""

    path: str
    ours: float | None
    theirs: float | None
    absolute: float | None
    relative: float | None
    error: NotRequired[str]


def compared(answer: Mapping[str, Any], theirs: Mapping[str, float]) -> list[ReferenceAnswer]:
    """Return every value beside the answer's."""
    out: list[ReferenceAnswer] = []
    for path, value in theirs.items():
        try:
            ours = number_at(answer, path)
        except DomainError as error:
            out.append(
                {"path": path, "ours": None, "theirs": value, "absolute": None, "relative": None, "error": str(error)}
            )
            continue
        relative = ours / value - 1.0 if value != 0.0 else None
        out.append({"path": path, "ours": ours, "theirs": value, "absolute": ours - value, "relative": relative})
    return out
