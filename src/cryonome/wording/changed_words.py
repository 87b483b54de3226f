"""What another version changed, as text: which numbers differ, by how much, and what the changelog says."""

from __future__ import annotations

import re
from collections.abc import Sequence

from ..questions.changed import Change, number, reasons
from ..telling.sentences import Units
from ..telling.table_blocks import of_key
from ..units import from_si, label
from ..units.endings import kind_of_key
from ..version import VERSION

HEAD = ("question", "value", "before", "now", "change")


def rows(changes: Sequence[Change], units: Units) -> list[tuple[str, ...]]:
    """Return changes as rows of :data:`HEAD`, in the reader's units, each question told once."""
    out: list[tuple[str, ...]] = []
    last = ""
    for change in changes:
        shown = of_key(change.path, units)
        unit = f" {shown.head[1]}" if shown.head[1] else ""
        now = "none" if change.now is None else f"{shown.short(change.now)}{unit}"
        what = re.sub(r"\[(\d+)\]", lambda m: f" {int(m[1]) + 1}", shown.head[0])
        name = change.study if change.study != last else ""
        out.append((name, what, f"{shown.short(change.before)}{unit}", now, _by(change, units)))
        last = change.study
    return out


def _by(change: Change, units: Units) -> str:
    """Return how much a number changed: percent, of a temperature kelvins or degrees."""
    if change.now is not None and kind_of_key(change.path)[0] == "temperature":
        unit = units.unit("temperature_difference")
        by = from_si(change.now - change.before, unit, "temperature_difference")
        return f"{by:+.2g} {label(unit)}".replace("-", "−")
    return "" if change.percent is None else f"{change.percent:+.2g} %".replace("-", "−")


def summary(changes: Sequence[Change], compared: Sequence[str]) -> str:
    """Return in a sentence how many answers of versions ``compared`` differ."""
    if not compared:
        return f"No answers of another version are kept in this document; {VERSION} keeps its own when it is saved."
    versions = sorted(set(compared), key=number)
    given = f"{len(compared)} answer{'s' if len(compared) > 1 else ''} of {', '.join(versions)}"
    differing = len({c.study for c in changes})
    if not differing:
        return f"{given}: {VERSION} gives the same."
    return f"{given}: {differing} differ{'s' if differing == 1 else ''} by {VERSION}."


def why(compared: Sequence[str]) -> list[tuple[str, str]]:
    """Return what the changelog says of changed numbers since the oldest version compared."""
    return reasons(min(compared, key=number)) if compared else []


def later(compared: Sequence[str]) -> list[str]:
    """Return the versions compared that are newer than this one, whose reasons it cannot know."""
    return sorted({v for v in compared if number(v) > number(VERSION)}, key=number)
