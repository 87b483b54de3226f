"""Two conditions that fix a state: read from cells in any unit, and how a condition is told."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..remarks import Measure, Value
from ..units import QuantityError, fits, split
from . import Study
from .field_types import Cell, Density, Enthalpy, Entropy, Fraction, Pressure, Temperature
from .reader import EMPTY, Reader


@dataclass(frozen=True)
class Condition:
    """What a state may be asked by: its ``title`` in sentences, its kind of quantity by mole (or its only one), and
    by mass."""

    title: str
    kind: str
    by_mass: str | None = None

    def kind_of(self, by_mass: bool) -> str:
        """Return its kind of quantity by mass or by mole."""
        return self.by_mass if by_mass and self.by_mass else self.kind


CONDITIONS: dict[str, Condition] = {
    "temperature": Condition("temperature", "temperature"),
    "pressure": Condition("pressure", "pressure"),
    "vapour_fraction": Condition("vapour fraction", "fraction"),
    "vapour_volume_fraction": Condition("vapour by volume", "fraction"),
    "enthalpy": Condition("enthalpy", "enthalpy", "specific_enthalpy"),
    "entropy": Condition("entropy", "entropy", "specific_entropy"),
    "density": Condition("density", "density"),
    "internal_energy": Condition("internal energy", "enthalpy", "specific_enthalpy"),
}
"""Every condition by its key in a document, which is the flash's as well."""

CHOICE = f"two of {', '.join(CONDITIONS)}"


class Conditioned(Study):
    """A study of states at given conditions."""

    temperature: Temperature = None
    pressure: Pressure = None
    vapour_fraction: Fraction = None
    vapour_volume_fraction: Fraction = None
    enthalpy: Enthalpy = None
    entropy: Entropy = None
    density: Density = None
    internal_energy: Enthalpy = None


@dataclass(frozen=True)
class Given:
    """A condition's value in SI, by mole or, as ``by_mass`` says, by mass."""

    value: float
    by_mass: bool = False

    def by_mole(self, molar_mass: float) -> float:
        """Return the value by mole of a fluid of a molar mass (kg/mol)."""
        return self.value * molar_mass if self.by_mass else self.value

    def told(self, key: str, by_mole: float | None = None, molar_mass: float = 1.0) -> Value:
        """Return the value, or another one of the same condition given ``by_mole``, as a remark says it."""
        own = CONDITIONS[key]
        value = self.value if by_mole is None else by_mole / molar_mass if self.by_mass else by_mole
        if own.kind == "fraction":
            return value
        kind = own.by_mass if self.by_mass and own.by_mass else own.kind
        return Measure(value, kind, 2 if kind == "temperature" else None)


def read_conditions(study: Study, reader: Reader, names: Iterable[str], wanted: int, possible: str) -> list[str]:
    """Say where not exactly ``wanted`` of the conditions ``names`` are given; return those that are."""
    given = [n for n in names if getattr(study, n, None) not in EMPTY]
    if len(given) != wanted:
        told = f"{', '.join(given)} given" if given else "none given"
        reader.fault(f"a {study.kind} takes exactly {possible}; {told}")
    return given


def read_condition(key: str, cell: Cell, reader: Reader) -> Given | None:
    """Return a condition's cell in SI; None where it is empty or, with a fault, no such quantity."""
    if cell in EMPTY:
        return None
    own = CONDITIONS[key]
    if key == "pressure":
        value = reader.pressure(cell)
    elif own.kind == "fraction":
        value = reader.fraction(cell, f"a {own.title}")
    else:
        by_mass = own.by_mass is not None and isinstance(cell, str) and _measures(cell, own.by_mass)
        value = reader.quantity(cell, own.by_mass if by_mass and own.by_mass else own.kind)
        return None if value is None else Given(value, by_mass)
    return None if value is None else Given(value)


def _measures(cell: str, kind: str) -> bool:
    """Tell whether a cell has a unit of a kind."""
    try:
        unit = split(cell)[1]
    except QuantityError:
        return False
    return bool(unit) and fits(unit, kind)
