"""Numbers from elsewhere that an answer is held against, read with their units."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import get_args

from typing_extensions import get_type_hints

from ..units import KINDS, QuantityError, split
from ..units.endings import kind_of_key, parse_as
from .faults import did_you_mean
from .field_types import Cell
from .model import Measured, Study
from .reader import EMPTY, Reader


def read_references(given: Mapping[str, Cell | Sequence[Cell]], reader: Reader) -> dict[str, float]:
    """Return the values by their path in the answer, in the unit of the key there; a list stands for the items of one.

    Empty cells are left out; what is no quantity of the kind is noted at its place.
    """
    found: dict[str, float] = {}
    for path, cells in given.items():
        several = isinstance(cells, (list, tuple))
        for i, cell in enumerate(cells if isinstance(cells, (list, tuple)) else (cells,)):
            if cell in EMPTY or cell is None:
                continue
            try:
                value = parse_as(path, cell)
                if value != 0.0 and not LEAST <= abs(value) <= MOST:
                    raise QuantityError(f"{value:g} is no number to compare with; check it, or leave the cell empty")
                found[f"{path}[{i}]" if several else path] = value
            except QuantityError as error:
                (reader.at(path, i) if several else reader.at(path)).fault(str(error))
    return found


@dataclass(frozen=True)
class MeasuredValues:
    """What was measured of one key of an answer, in the unit of the key: ``values``, None where nothing was, and
    whether they are a ``list`` in the order of the answer's rows; ``relative`` or ``absolute`` is their uncertainty
    where one is given."""

    key: str
    values: tuple[float | None, ...]
    rows: bool
    relative: float | None = None
    absolute: float | None = None


@cache
def _keys(answer: type) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the keys of an answer, and of its rows, by its shape."""
    hints = get_type_hints(answer)
    rows = [get_type_hints(a) for a in get_args(hints.get("rows")) if isinstance(a, type)]
    return tuple(hints), tuple(k for r in rows for k in r)


def _is_known(key: str, rows: bool, answer: type, here: Reader) -> bool:
    """Tell whether an answer can have a value under a key; a fault names the nearest."""
    whole, own = _keys(answer)
    known = own if rows and own else whole
    return here.known(re.split(r"[.\[]", key)[0], known, "value of this test")


def read_measured(study: Study, answer: type, reader: Reader) -> dict[str, MeasuredValues]:
    """Return what a study says was measured, by key; what is no quantity of the key's kind, or no key of the
    ``answer``, is noted at its place."""
    if not isinstance(study, Measured):
        return {}
    out: dict[str, MeasuredValues] = {}
    for key in study.uncertainty:
        if key not in study.measured:
            hint = did_you_mean(key, list(study.measured))
            reader.at("uncertainty", key).fault(f"nothing is measured under '{key}'{hint}")
    for key, cells in study.measured.items():
        rows = isinstance(cells, (list, tuple))
        if not _is_known(key, rows, answer, reader.at("measured", key)):
            continue
        values: list[float | None] = []
        for i, cell in enumerate(cells if isinstance(cells, (list, tuple)) else (cells,)):
            here = reader.at("measured", key, i) if rows else reader.at("measured", key)
            try:
                value = None if cell in EMPTY or cell is None else parse_as(key, cell)
            except QuantityError as error:
                here.fault(str(error))
                value = None
            values.append(_believable(key, value, here))
        relative, absolute = _uncertainty(key, study.uncertainty.get(key), reader.at("uncertainty", key))
        out[key] = MeasuredValues(key, tuple(values), rows, relative, absolute)
    return out


LEAST, MOST = 1e-30, 1e30
"""Size of a number that can have been measured, in the units of answers."""

ABOVE_ZERO = (
    "pressure",
    "temperature",
    "density",
    "molar_mass",
    "dynamic_viscosity",
    "kinematic_viscosity",
    "molar_volume",
)
"""Kinds of quantities that nothing has at or below zero."""


def _believable(key: str, value: float | None, here: Reader) -> float | None:
    """Return a value that can have been measured, None with a fault."""
    if value is None:
        return None
    kind, _ = kind_of_key(key)
    if value <= 0.0 and kind in ABOVE_ZERO:
        here.fault(
            f"{value:g} is not {KINDS[kind].title} that can be measured: it must be above zero; leave the cell empty where nothing was"
        )
        return None
    if value != 0.0 and not LEAST <= abs(value) <= MOST:
        here.fault(f"{value:g} is no number that can be measured; check it, or leave the cell empty")
        return None
    return value


def _uncertainty(key: str, cell: Cell, here: Reader) -> tuple[float | None, float | None]:
    """Return a relative and an absolute uncertainty, one of them or neither given."""
    if cell in EMPTY or cell is None:
        return None, None
    try:
        value, unit = split(cell) if isinstance(cell, str) else (float(cell), "")
        if unit in ("", "%"):
            relative = value / 100.0 if unit == "%" else value
            if not 0.0 < relative <= 1.0:
                here.fault(f"a relative uncertainty of {relative:g} is outside 0 to 1; write 0.01 or 1 %")
                return None, None
            return relative, None
        kind, factor = kind_of_key(key)
        # Differences of temperature have no zero of their own.
        absolute = here.quantity(cell, "temperature_difference" if kind == "temperature" else kind or "fraction")
        if absolute is not None and absolute <= 0.0:
            here.fault("an uncertainty must be above zero")
            return None, None
        return None, None if absolute is None else absolute / factor
    except QuantityError as error:
        here.fault(str(error))
        return None, None
