"""Answers in words: the remarks in an answer as sentences of the reader's units, made where they are shown."""

from __future__ import annotations

from typing import Any

from ..remarks import Remark
from .sentences import Units, sentence


def worded(answer: dict[str, Any], units: Units) -> dict[str, Any]:
    """Return an answer with its remarks as sentences; what holds none is shared."""
    found: dict[str, Any] = _worded(answer, units)
    return found


def _worded(value: Any, units: Units) -> Any:
    if isinstance(value, Remark):
        return sentence(value, units)
    if isinstance(value, dict):
        new = {k: _error(v, units) if k == "error" else _worded(v, units) for k, v in value.items()}
        return new if any(new[k] is not v for k, v in value.items()) else value
    if isinstance(value, (list, tuple)) and value and not isinstance(value[0], (int, float, type(None))):
        items = [_worded(v, units) for v in value]
        return items if any(a is not b for a, b in zip(items, value)) else value
    return value


def _error(value: Any, units: Units) -> Any:
    """Return why there is no answer, as one text."""
    if isinstance(value, (list, tuple)):
        return " ".join(str(_worded(v, units)) for v in value)
    return _worded(value, units)
