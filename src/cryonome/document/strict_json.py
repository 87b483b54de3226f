"""JSON as documents use it: one object, each key once, finite numbers, text that can be saved; everything else is a
sentence."""

from __future__ import annotations

import json
import math
import re
from collections import Counter
from typing import Any

from .faults import DocumentError, Fault

LONGEST_NUMBER = 40
"""Digits of the longest number that is read; no quantity has more."""

MOST_TEXT = 50_000_000
"""Characters of the longest text that is read as a document."""

_HALF = re.compile(r"\\u[dD][89a-fA-F][0-9a-fA-F]{2}|[\ud800-\udfff]")


def read_object(text: str) -> dict[str, Any]:
    """Return the object of a JSON text. Raises DocumentError with a fault for each thing wrong."""
    if len(text) > MOST_TEXT:
        raise DocumentError(
            [Fault((), f"the text has {len(text) / 1e6:.0f} million characters; a document has far fewer")]
        )
    wrong: list[Fault] = []

    def unique(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        for key, count in Counter(k for k, _ in pairs).items():
            if count > 1:
                wrong.append(Fault((), f"the key '{_short(key)}' is given {count} times in one object; keep one"))
        return dict(pairs)

    def constant(name: str) -> Any:
        wrong.append(Fault((), f"{name} is not a number JSON knows; write a finite number"))
        return 0.0

    def whole(digits: str) -> int:
        if len(digits) > LONGEST_NUMBER:
            wrong.append(
                Fault(
                    (),
                    f"a number of {len(digits)} digits is more than any quantity needs; write it with a power of ten",
                )
            )
            return 0
        return int(digits)

    def decimal(digits: str) -> float:
        value = float(digits)
        if not math.isfinite(value):
            wrong.append(Fault((), f"{_short(digits)} is not a finite number"))
            return 0.0
        return value

    try:
        data = json.loads(text, object_pairs_hook=unique, parse_constant=constant, parse_int=whole, parse_float=decimal)
    except json.JSONDecodeError as error:
        raise DocumentError([Fault((), _not_json(text, error))]) from None
    except RecursionError:
        raise DocumentError([Fault((), "the text is nested too deeply to be a document")]) from None
    if wrong:
        raise DocumentError(wrong)
    if not isinstance(data, dict):
        raise DocumentError([Fault((), "a document is one JSON object, beginning with { and ending with }")])
    if _HALF.search(text):
        _refuse_halves(data)
    return data


def _short(text: str) -> str:
    return text if len(text) <= 40 else f"{text[:39]}…"


def _not_json(text: str, error: json.JSONDecodeError) -> str:
    whole = text.rstrip()
    if not whole:
        return "the file is empty; a document is one JSON object"
    cut = whole.lstrip().startswith("{") and (error.pos >= len(whole) or whole[-1] not in "}]")
    what = "the file is cut off" if cut else "the text is not JSON"
    return f"{what} at line {error.lineno}, column {error.colno} ({error.msg}); a document is one JSON object"


def halves(value: object) -> bool:
    """Tell whether a text holds half of a pair of UTF-16, which no file in UTF-8 can hold."""
    return isinstance(value, str) and any("\ud800" <= c <= "\udfff" for c in value)


def _refuse_halves(data: Any) -> None:
    faults: list[Fault] = []

    def look(value: Any, path: tuple[str | int, ...]) -> None:
        if isinstance(value, dict):
            for key, inner in value.items():
                if halves(key):
                    faults.append(Fault(path, "a key holds half of a character, which no file can hold"))
                else:
                    look(inner, (*path, key))
        elif isinstance(value, list):
            for i, inner in enumerate(value):
                look(inner, (*path, i))
        elif halves(value):
            faults.append(
                Fault(
                    path, "the text holds half of a character (a lone surrogate), which no file can hold; type it again"
                )
            )

    look(data, ())
    if faults:
        raise DocumentError(faults)
