"""Answers as plain rows, for tables and reports."""

from __future__ import annotations

from typing import Any

from ..document.faults import PathParts

LONGEST = 12
"""Lists of numbers up to this length are told in full; longer ones by their number and ends."""


def flattened(answer: dict[str, Any], path: PathParts = ()) -> list[tuple[PathParts, str]]:
    """Return every value of an answer as (path, text), without ``ok`` and ``notes``."""
    out: list[tuple[PathParts, str]] = []
    for key, value in answer.items():
        if not path and key in ("ok", "notes", "error"):
            continue
        out += _rows(value, (*path, key))
    return out


def _rows(value: Any, path: PathParts) -> list[tuple[PathParts, str]]:
    if isinstance(value, dict):
        return flattened(value, path) if path else []
    if isinstance(value, list) and value and all(isinstance(v, (int, float)) for v in value):
        if len(value) <= LONGEST:
            return [(path, ", ".join(plain(v) for v in value))]
        return [(path, f"{len(value)} values, {plain(value[0])} to {plain(value[-1])}")]
    if isinstance(value, (list, tuple)):
        return [row for i, v in enumerate(value) for row in _rows(v, (*path, i))]
    return [(path, plain(value))]


def plain(value: Any) -> str:
    """Return one value as text."""
    if value is None:
        return "none"
    return f"{value:.7g}".replace("-", "−") if isinstance(value, float) else str(value)
