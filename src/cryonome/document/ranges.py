"""Ranges and lists of values in a document: from, to and the number or size of steps, or the values themselves."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

import numpy as np
from pydantic import ConfigDict, Field

from .field_types import STEP, Cell, OfKind, OneOf, Plain
from .part import Part
from .reader import EMPTY, Reader

MOST = 5000
"""Points of one range."""

ReadValue = Callable[[Cell, Reader], float | None]
"""Reads one cell in SI, None with a fault."""


class Range(Part):
    """Values ``from`` one ``to`` another, in so many ``steps`` between them or by a ``step`` of a size, or
    ``values``; steps are equal, or equal in the logarithm."""

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)

    begin: Cell = Field(default=None, alias="from")
    end: Cell = Field(default=None, alias="to")
    steps: Plain = None
    step: Annotated[Cell, OfKind(STEP)] = None
    values: tuple[Cell, ...] | None = None
    scale: Annotated[str, OneOf(("linear", "logarithmic"))] = "linear"


def read_range(given: Range, reader: Reader, value: ReadValue, step: ReadValue) -> tuple[float, ...] | None:
    """Return the values in SI, None with a fault; ``value`` and ``step`` read one of them and a difference of two."""
    if given.values is not None:
        if any(c not in EMPTY for c in (given.begin, given.end, given.steps, given.step)):
            reader.fault("give either values or from and to, not both")
            return None
        if not given.values:
            reader.at("values").fault("the list is empty; give at least one value")
            return None
        if len(given.values) > MOST:
            reader.at("values").fault(f"{len(given.values)} values are too many; give at most {MOST}")
            return None
        found = [value(cell, reader.at("values", i)) for i, cell in enumerate(given.values)]
        return None if any(v is None for v in found) else tuple(float(v) for v in found if v is not None)
    low, high = value(given.begin, reader.at("from")), value(given.end, reader.at("to"))
    if low is None or high is None:
        return None
    if low > high:
        reader.fault("the range is reversed: from lies above to; exchange them")
        return None
    count = _steps(given, reader, low, high, step)
    if count is None:
        return None
    if given.scale == "logarithmic":
        if low <= 0.0:
            reader.at("from").fault("a logarithmic range begins above zero")
            return None
        return tuple(np.geomspace(low, high, count + 1).tolist())
    return tuple(np.linspace(low, high, count + 1).tolist())


def _steps(given: Range, reader: Reader, low: float, high: float, step: ReadValue) -> int | None:
    """Return the number of steps, None with a fault."""
    if given.step not in EMPTY:
        if given.steps not in EMPTY:
            reader.fault("give either the number of steps or the size of a step, not both")
            return None
        if given.scale == "logarithmic":
            reader.at("step").fault("a logarithmic range has a number of steps, not a size; give steps")
            return None
        size = step(given.step, reader.at("step"))
        if size is None:
            return None
        if size <= 0.0:
            reader.at("step").fault("a step must be above zero")
            return None
        if size > (high - low) * (1.0 + 1e-9):
            reader.at("step").fault("the step is larger than the range; give a smaller one, or a list of values")
            return None
        count = round((high - low) / size)
        if abs(count * size - (high - low)) > 1e-6 * (high - low):
            reader.at("step").fault(f"the range is not a whole number of these steps; {count} steps come nearest")
            return None
    else:
        here = reader.at("steps")
        number = here.number(given.steps, "a number of steps")
        if number is None:
            return None
        if number != int(number) or number < 1:
            here.fault(f"{number:g} is no number of steps; give a whole number from 1 on")
            return None
        if low == high:
            reader.fault("the range is empty: from and to are the same; give values, or another end")
            return None
        count = int(number)
    if count + 1 > MOST:
        reader.at("steps").fault(f"{count + 1} points are too many; give at most {MOST}")
        return None
    return count


def read_values(given: tuple[Cell, ...] | Range, here: Reader, kind: str, most: int = MOST) -> tuple[float, ...] | None:
    """Return a list or a range of temperatures or pressures in SI, nothing where none is given, None with a fault."""

    def value(cell: Cell, at: Reader) -> float | None:
        return at.pressure(cell) if kind == "pressure" else at.quantity(cell, kind)

    def step(cell: Cell, at: Reader) -> float | None:
        return at.quantity(cell, "pressure" if kind == "pressure" else "temperature_difference")

    if isinstance(given, Range):
        if all(c in EMPTY for c in (given.begin, given.end, given.steps, given.step, given.values)):
            return ()
        found = read_range(given, here, value, step)
        out = None if found is None else list(found)
    else:
        out = [v for i, cell in enumerate(given) if (v := value(cell, here.at(i))) is not None]
    if out is not None and len(out) > most:
        here.fault(f"{len(out)} values are too many; give at most {most}")
    return None if out is None else tuple(out)
