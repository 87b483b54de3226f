"""New questions: begun with round values in the reader's units."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from types import MappingProxyType
from typing import Any, TypeVar

from pydantic import BaseModel

from ..document import Document, Study
from ..document.cell_kinds import kind_at
from ..document.edits import set_at
from ..document.faults import PathParts
from ..document.kinds import StudyKind
from ..telling.sentences import Units
from ..units import KINDS, QuantityError, fits, from_si, parse, split

Part = TypeVar("Part", bound=BaseModel)

STANDARD = ("1 atm", "60 degF", "37.8 degC", "100 degF", "0.0018 in")
"""Values that are meant as they stand."""


def begun(kind: StudyKind[Any, Any], subject: str, at: tuple[float, float] | None, units: Units) -> Study:
    """Return a new question of a kind about a subject, near a state (T K, P Pa) where one is given: in the reader's
    units, round unless it is that very state."""
    made: Study = kind.begin(subject, at)
    usual = dict(_cells(kind.begin(subject, None), ()))
    return in_reader_units(made, units, {p: c for p, c in _cells(made, ()) if usual.get(p) != c})


def in_reader_units(part: Part, units: Units, exact: Mapping[PathParts, str] = MappingProxyType({})) -> Part:
    """Return a part with its quantities in the reader's units, rounded to what a person would write; cells that are
    ``exact`` keep four digits."""
    for path, cell in list(_cells(part, ())):
        kind = kind_at(part, path, Document())
        if kind not in KINDS or not isinstance(cell, str) or cell in STANDARD:
            continue
        unit = units.of_states().unit(kind)
        try:
            own = split(cell)[1]
            if not unit or not own or not fits(own, kind) or own == unit:
                continue
            value = from_si(parse(cell, kind), unit, kind)
        except QuantityError:
            continue
        part = set_at(part, path, f"{_round(value, kind, path in exact):.10g} {unit}")
    return part


def _cells(part: Any, path: PathParts) -> Iterator[tuple[PathParts, str]]:
    if isinstance(part, BaseModel):
        for name in type(part).model_fields:
            yield from _cells(getattr(part, name), (*path, name))
    elif isinstance(part, Mapping):
        for key, item in part.items():
            yield from _cells(item, (*path, key))
    elif isinstance(part, tuple):
        for i, item in enumerate(part):
            yield from _cells(item, (*path, i))
    elif isinstance(part, str):
        yield path, part


def _round(value: float, kind: str, exact: bool) -> float:
    if exact:
        return float(f"{value:.4g}")
    if kind == "temperature":
        return 5.0 * round(value / 5.0)
    if kind == "temperature_difference":
        return max(1.0, float(round(value)))
    if value == 0.0:
        return 0.0
    size = 10.0 ** (math.floor(math.log10(abs(value))) - 1)
    return round(value / size) * size
