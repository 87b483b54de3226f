"""What another version changed, as text: which numbers differ, by how much, and what the changelog says."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ..document import Document
from ..questions.changed import MEAN, Change, every_change, number, of_other_versions, reasons
from ..results import Evaluator
from ..telling.sentences import Units
from ..telling.table_blocks import of_key
from ..units import from_si, label
from ..units.endings import kind_of_key
from ..version import VERSION

HEAD = ("question", "value", "before", "now", "change")


SHOWN = 8
"""Numbers of a question that a page shows, those that changed most."""


def rows(changes: Sequence[Change], units: Units, most: int | None = None) -> list[tuple[str, ...]]:
    """Return changes as rows of :data:`HEAD`, in the reader's units, each question told once. Of more than ``most`` of a
    question, the largest are told, and how many there are besides."""
    out: list[tuple[str, ...]] = []
    for study in dict.fromkeys(change.study for change in changes):
        own = [change for change in changes if change.study == study]
        told = own if most is None else sorted(own, key=_size, reverse=True)[:most]
        lines = [_row(change, units) for change in told]
        if len(told) < len(own):
            lines.append((f"and {len(own) - len(told)} more values", "", "", ""))
        out += [(study if i == 0 else "", *line) for i, line in enumerate(lines)]
    return out


def _size(change: Change) -> float:
    """Return how large a change is, relative to the number before; what is gone comes first."""
    if change.now is None or change.before == 0.0:
        return math.inf
    return abs(change.now / change.before - 1.0)


def _row(change: Change, units: Units) -> tuple[str, ...]:
    shown = of_key(change.path, units)
    unit = f" {shown.head[1]}" if shown.head[1] else ""
    now = "none" if change.now is None else f"{shown.short(change.now)}{unit}"
    what = re.sub(r"\[(\d+)\]", lambda m: f" {int(m[1]) + 1}", shown.head[0])
    if MEAN in what:
        # Of a question's one table its name says nothing.
        what = f"{what.removeprefix(f'rows{MEAN} ').removeprefix(f'properties{MEAN} ').replace(MEAN, '')}, mean"
    return what, f"{shown.short(change.before)}{unit}", now, _by(change, units)


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


@dataclass(frozen=True)
class Held:
    """What came of holding a document against what other versions kept: the ``changes``, and the versions
    ``compared``, one for each answer."""

    changes: tuple[Change, ...]
    compared: tuple[str, ...]


def held_against(document: Document) -> Held:
    """Return the changes of a document, each of its questions answered."""
    project = Evaluator().at(document)
    compared = tuple(kept.version for _, kept in of_other_versions(document, project))
    return Held(tuple(every_change(document, project)), compared)


def as_text(found: Held, units: str) -> str:
    """Return changes as lines: each question with its values, then what the changelog says."""
    lines = [summary(found.changes, found.compared)]
    for name, value, before, now, by in rows(found.changes, Units.of(units), SHOWN):
        lines += [name] if name else []
        lines.append(f"    {value}: {before} → {now}{f' ({by})' if by else ''}" if now else f"    {value}")
    lines += [f"{version}: {text}" for version, text in (why(found.compared) if found.changes else [])]
    lines += [f"{v} is newer than this {VERSION}, which cannot say what it changed." for v in later(found.compared)]
    return "\n".join(lines) + "\n"


def as_data(found: Held) -> dict[str, Any]:
    """Return changes as data, in the units of their keys."""
    return {
        "format": "cryonome-changed/1",
        "version": VERSION,
        "compared": len(found.compared),
        "changes": [
            {"study": c.study, "version": c.version, "path": c.path, "before": c.before, "now": c.now}
            for c in found.changes
        ],
        "reasons": [{"version": v, "text": text} for v, text in (why(found.compared) if found.changes else [])],
    }
