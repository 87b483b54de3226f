"""Named values in words, for the shelf and their page."""

from __future__ import annotations

from ...questions.named_values import ValueAnswer
from ...units import format_number, label


def told(answer: ValueAnswer) -> str:
    """Return a named value as it is shown: number and unit, or why it has none."""
    if not answer["ok"]:
        return answer["error"]
    unit = answer["unit"]
    return f"{format_number(answer['value'], 4)} {label(unit) if unit else ''}".rstrip()
