"""Reading single cells: a value in SI, or a fault at the cell's path."""

from __future__ import annotations

from ..units import QuantityError, from_si, parse, split
from .faults import Fault, PathParts
from .model import Cell

EMPTY = (None, "")


def quantity(
    value: Cell, kind: str, path: PathParts, faults: list[Fault], default_unit: str | None = None
) -> float | None:
    """Return a cell in SI, or None with a fault added where it is not a quantity of the kind."""
    try:
        return parse(value if value is not None else "", kind, default_unit)
    except QuantityError as error:
        faults.append(Fault(path, str(error)))
        return None


def number(value: Cell, path: PathParts, faults: list[Fault], what: str) -> float | None:
    """Return a plain number, or None with a fault added."""
    try:
        if value is None or isinstance(value, bool):
            raise QuantityError("")
        if isinstance(value, str):
            result, unit = split(value)
            if unit and unit != "%":
                raise QuantityError("")
            return result
        return float(value)
    except QuantityError:
        shown = "an empty cell" if value is None or value == "" else f"'{value}'"
        faults.append(Fault(path, f"{shown} is not {what}; write a plain number"))
        return None


def specific_gravity(value: Cell, path: PathParts, faults: list[Fault]) -> float | None:
    """Return a specific gravity from a plain number or any density."""
    if isinstance(value, str):
        density = quantity(value, "density", path, faults, "SG")
        return None if density is None else from_si(density, "SG", "density")
    return number(value, path, faults, "a specific gravity")
