"""What is typed, with the unit that is shown: one rule for every place where a number is entered.

A bare number means the unit shown beside it: that of the value that stands there, else the reader's own for what is
measured. It is stored with that unit, so that what a field shows it takes back."""

from __future__ import annotations

from dataclasses import dataclass

from ..document.field_types import RATE, SHARE, Cell
from ..document.reader import united_cell
from ..telling.sentences import Units
from ..units import KINDS, QuantityError, fits, from_si, label, normal_unit, parse, split

RATES = ("molar_rate", "mass_rate", "volume_rate")
"""What a rate may be of."""

PERCENT = ("fraction",)
"""Kinds that are shown in percent."""


@dataclass(frozen=True)
class Entry:
    """A cell as it is shown: its number or text, and the ``unit`` beside it, which a bare number would mean; "" for
    none."""

    text: str
    unit: str

    @property
    def whole(self) -> str:
        """Number and unit in one line."""
        return f"{self.text} {label(self.unit)}".strip() if self.unit and self.text else self.text


def kinds_of(kind: str | None) -> tuple[str, ...]:
    """Return the kinds of quantity that a cell's mark allows."""
    if kind == RATE:
        return RATES
    return (kind,) if kind in KINDS else ()


def usual_unit(kind: str | None, units: Units) -> str:
    """Return the unit that a bare number means in an empty cell of a kind, "" where it needs none."""
    if kind == SHARE:
        return "wt%"
    if kind in PERCENT:
        return "%"
    known = kinds_of(kind)
    return units.unit(known[0] if kind != RATE else "volume_rate") if known else ""


def entry_of(cell: Cell, kind: str | None, units: Units) -> Entry:
    """Return a cell as it is shown: in the unit it was entered in; a bare number of a document in the unit that means
    there."""
    usual = usual_unit(kind, units)
    if cell is None or cell == "":
        return Entry("", usual)
    known = kinds_of(kind)
    if isinstance(cell, (int, float)) and not isinstance(cell, bool):
        if kind in PERCENT:
            return Entry(number_text(100.0 * cell), "%")
        return Entry(number_text(cell), (KINDS[known[0]].bare or "") if known else "")
    try:
        number, unit = split(str(cell))
    except QuantityError:
        return Entry(str(cell), "")
    if kind in PERCENT and not unit:
        return Entry(number_text(100.0 * number), "%")
    if kind in (SHARE, *PERCENT) and unit:
        return Entry(number_text(number), unit)
    own = next((k for k in known if unit and fits(unit, k)), None)
    return Entry(number_text(number), normal_unit(unit, own)) if own else Entry(str(cell), "")


def number_text(value: float) -> str:
    """Return a number as it is entered: all its digits, no more."""
    text = f"{float(value):.10g}"
    return "0" if text == "-0" else text.replace("-", "−")


def taken(text: str, unit: str) -> Cell:
    """Return what was typed beside a ``unit`` as a cell: a bare number has that unit, everything else stays as it was
    typed."""
    if unit:
        return united_cell(text, unit)
    text = text.strip()
    try:
        number, own = split(text) if text else (0.0, "none")
    except QuantityError:
        return text
    return number if not own else text or None


def taken_as(text: str, cell: Cell, kind: str | None, units: Units) -> Cell:
    """Return what was typed where a ``cell`` stood."""
    return taken(text, entry_of(cell, kind, units).unit or usual_unit(kind, units))


def in_unit(cell: Cell, kind: str, unit: str) -> Cell:
    """Return a cell in another unit of its kind; what is no quantity stays."""
    own = next((k for k in kinds_of(kind) if fits(unit, k)), None)
    if own is None or cell is None or cell == "":
        return cell
    try:
        value = from_si(parse(cell, own), unit, own)
    except QuantityError:
        return cell
    return f"{value:.6g} {unit}"


def units_offered(kind: str | None, cell: Cell) -> list[str]:
    """Return the units a cell may be shown in: those of what stands there, of an empty one all that are possible."""
    known = kinds_of(kind)
    if kind == RATE and isinstance(cell, str):
        try:
            unit = split(cell)[1]
        except QuantityError:
            unit = ""
        known = tuple(k for k in known if unit and fits(unit, k)) or known
    return [u for k in known for u in KINDS[k].units if u]
