"""Numbers from elsewhere held against an answer, value by value."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NotRequired

from typing_extensions import TypedDict

from ..errors import DomainError
from .answer_paths import number_at


class ReferenceAnswer(TypedDict):
    """One value of ours beside theirs, in the unit of the answer's key; ``relative`` is ours over theirs less one.
    What is missing is null, and says why. Where their own temperature or pressure is among them and is not the
    answer's, the others are of ``other_state`` and have no deviation."""

    path: str
    ours: float | None
    theirs: float | None
    absolute: float | None
    relative: float | None
    error: NotRequired[str]
    other_state: NotRequired[bool]


STATE = {"temperature_K": 0.05, "pressure_Pa": 1e-3}
"""What a state is told by, and how far theirs may be off ours: K, and a share."""


def _elsewhere(answer: Mapping[str, Any], theirs: Mapping[str, float]) -> bool:
    """Tell whether their values are of another state than the answer."""
    for key, tolerance in STATE.items():
        ours = answer.get(key)
        if key in theirs and isinstance(ours, (int, float)):
            off = abs(ours - theirs[key])
            if off > (tolerance if key == "temperature_K" else tolerance * abs(ours)):
                return True
    return False


def compared(answer: Mapping[str, Any], theirs: Mapping[str, float]) -> list[ReferenceAnswer]:
    """Return every value beside the answer's."""
    out: list[ReferenceAnswer] = []
    elsewhere = _elsewhere(answer, theirs)
    for path, value in theirs.items():
        try:
            ours = number_at(answer, path)
        except DomainError as error:
            out.append(
                {"path": path, "ours": None, "theirs": value, "absolute": None, "relative": None, "error": str(error)}
            )
            continue
        if elsewhere and path not in STATE:
            out.append(
                {"path": path, "ours": ours, "theirs": value, "absolute": None, "relative": None, "other_state": True}
            )
            continue
        relative = ours / value - 1.0 if value != 0.0 else None
        out.append({"path": path, "ours": ours, "theirs": value, "absolute": ours - value, "relative": relative})
    return out
