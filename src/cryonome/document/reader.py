"""Reading cells once: a value in SI and, where it is none, a fault at the cell's place, in one pass.

A :class:`Reader` stands at a place of the document and gathers the faults of everything below it. What is read is
handed on in SI; nothing is parsed a second time."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass, field

from ..units import QuantityError, from_si, parse, split
from .faults import Fault, PathParts, did_you_mean
from .field_types import Cell

EMPTY = (None, "")
"""What an empty cell holds."""


@dataclass(frozen=True)
class Reader:
    """A place in the document, and the faults found below it so far."""

    path: PathParts = ()
    faults: list[Fault] = field(default_factory=list)

    def at(self, *parts: str | int) -> Reader:
        """Return a reader further down, which gathers into the same list."""
        return Reader((*self.path, *parts), self.faults)

    def fault(self, message: str, severity: str = "error", proposal: str | None = None) -> None:
        """Note that something is wrong here."""
        self.faults.append(Fault(self.path, message, severity, proposal))

    @property
    def bad(self) -> bool:
        """Whether a fault found so far forbids a computation."""
        return any(f.severity == "error" for f in self.faults)

    def quantity(self, cell: Cell, kind: str, default_unit: str | None = None) -> float | None:
        """Return a cell in SI, None with a fault where it is not a quantity of the kind."""
        try:
            return parse(cell if cell is not None else "", kind, default_unit)
        except QuantityError as error:
            self.fault(str(error))
            return None

    def given(self, cell: Cell, kind: str, default_unit: str | None = None) -> float | None:
        """Return a cell in SI, None where it is empty or, with a fault, not a quantity of the kind."""
        return None if cell in EMPTY else self.quantity(cell, kind, default_unit)

    def physical(
        self, value: float | None, low: float, high: float, what: str, unit: str, scale: float = 1.0
    ) -> float | None:
        """Return a value within the bounds of what is physical, all SI; else None with a fault, told in ``unit`` (SI
        times ``scale``)."""
        if value is None or low <= value <= high:
            return value
        shown = f"{value * scale:.4g}"
        self.fault(f"{what} of {shown} {unit} is outside {low * scale:g} to {high * scale:g} {unit}")
        return None

    def pressure(self, cell: Cell) -> float | None:
        """Return a pressure above zero in Pa."""
        value = self.quantity(cell, "pressure")
        if value is not None and value <= 0.0:
            self.fault(f"'{cell}' is not above zero; a pressure must be above 0 Pa absolute")
            return None
        return value

    def number(self, cell: Cell, what: str) -> float | None:
        """Return a plain number or a percentage's, None with a fault where it is none; ``what`` names it."""
        try:
            if cell is None or isinstance(cell, bool):
                raise QuantityError("")
            if not isinstance(cell, str):
                return float(cell)
            value, unit = split(cell)
            if unit not in ("", "%"):
                raise QuantityError("")
            return value
        except QuantityError:
            shown = "an empty cell" if cell in EMPTY else f"'{cell}'"
            self.fault(f"{shown} is not {what}; write a plain number")
            return None

    def between(self, cell: Cell, low: float, high: float, what: str) -> float | None:
        """Return a plain number within bounds."""
        value = self.number(cell, what)
        if value is not None and not low <= value <= high:
            self.fault(f"{what} lies between {low:g} and {high:g}; this one is {value:g}")
        return value

    def fraction(self, cell: Cell, what: str = "a vapour fraction") -> float | None:
        """Return a fraction of 0 to 1."""
        value = self.quantity(cell, "fraction")
        if value is not None and not 0.0 <= value <= 1.0:
            self.fault(f"{what} must lie between 0 and 1; this one is {value:g}")
            return None
        return value

    def specific_gravity(self, cell: Cell) -> float | None:
        """Return a specific gravity from a plain number or any density."""
        if isinstance(cell, str):
            density = self.quantity(cell, "density", "SG")
            return None if density is None else from_si(density, "SG", "density")
        return self.number(cell, "a specific gravity")

    def known(self, name: str, known: Iterable[str], what: str) -> bool:
        """Tell whether a name is a known one; a fault names the nearest."""
        names: Collection[str] = list(known)
        if name in names:
            return True
        self.fault(f"unknown {what} '{name}'{did_you_mean(name, names)}")
        return False


def plain_cell(text: str) -> Cell:
    """Return typed text as a cell: empty, a plain number where it is one (percent signs go), else as it was typed."""
    text = text.strip()
    if not text:
        return None
    try:
        value, unit = split(text)
    except QuantityError:
        return text
    return value if unit in ("", "%") else text


def united_cell(text: str, unit: str) -> Cell:
    """Return typed text as a cell of a column in ``unit``: a plain number gets it, everything else stays as typed."""
    text = text.strip()
    if not text:
        return None
    try:
        value, own = split(text)
    except QuantityError:
        return text
    return f"{value:.10g} {unit}".strip() if not own else text


def cell_text(cell: Cell) -> str:
    """Return a cell as plain text, as it is shown where no unit belongs to it."""
    return "" if cell is None else f"{cell:g}" if isinstance(cell, (int, float)) else cell
