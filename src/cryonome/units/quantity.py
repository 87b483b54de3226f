"""Quantities at the border: text with a unit to SI floats and back."""

from __future__ import annotations

import difflib
import math
import re
from functools import lru_cache

from ..constants import WATER_DENSITY_60F
from .errors import QuantityError
from .kinds import KINDS, LABELS
from .numbers import plain, read_number, read_share
from .spelling import Scale, scale_of


def _scale(unit: str, kind: str) -> Scale:
    try:
        return scale_of(unit, kind)
    except QuantityError as error:
        known = KINDS[kind]
        told = str(error)
        raise QuantityError(told if told else _unit_fault(unit, kind, known.title, known.example)) from None


def _unit_fault(unit: str, kind: str, title: str, example: str) -> str:
    other = [k.title for k in KINDS.values() if k.name != kind and unit in k.units]
    near = difflib.get_close_matches(unit, [u for u in KINDS[kind].units if u], n=1, cutoff=0.5)
    shown = unit if len(unit) <= 40 else f"{unit[:39]}…"
    if other:
        return f"'{shown}' is the unit of {other[0]}, where {title} belongs; write for example {example}"
    hint = f"did you mean {near[0]}? Write" if near else "write"
    return f"'{shown}' is not a unit of {title}; {hint} for example {example}"


@lru_cache(maxsize=512)
def fits(unit: str, kind: str) -> bool:
    """Tell whether a unit, as people write it, measures a kind of quantity."""
    try:
        scale_of(unit, kind)
    except QuantityError:
        return False
    return True


@lru_cache(maxsize=512)
def normal_unit(text: str, kind_of: str = "") -> str:
    """Return the program's spelling of a unit as people write it, of one kind or of any; the text itself where the
    program shows no such unit."""
    text = text.strip()
    kinds = [KINDS[kind_of]] if kind_of in KINDS else list(KINDS.values())
    for kind in kinds:
        if text in kind.units:
            return text
    for kind in kinds:
        if not fits(text, kind.name):
            continue
        scale = scale_of(text, kind.name)
        for unit in kind.units:
            own = scale_of(unit, kind.name)
            alike = math.isclose(own.factor, scale.factor, rel_tol=1e-9) and own.inverse == scale.inverse
            if alike and math.isclose(own.offset, scale.offset, rel_tol=1e-9, abs_tol=1e-9):
                return unit
    return text


def to_si(value: float, unit: str, kind: str) -> float:
    """Return a value in ``unit`` as an SI float (kg/mol for molar mass). Raises QuantityError."""
    scale = _scale(unit, kind)
    if scale.inverse:
        if value <= -131.5:
            raise QuantityError("a density in degAPI must be above -131.5")
        return 141.5 / (value + 131.5) * scale.factor
    return scale.factor * value + scale.offset


def from_si(value: float, unit: str, kind: str) -> float:
    """Return an SI float in ``unit``; the inverse of :func:`to_si`."""
    scale = _scale(unit, kind)
    if scale.inverse:
        return 141.5 * WATER_DENSITY_60F / value - 131.5
    return (value - scale.offset) / scale.factor


def split(text: str) -> tuple[float, str]:
    """Return number and unit of a text. Raises QuantityError."""
    return read_number(text)


def parse(value: float | int | str, kind: str, default_unit: str | None = None) -> float:
    """Return a quantity as an SI float.

    A bare number is in ``default_unit``, else in the document's unit for the kind (SI; g/mol for molar mass).
    Raises QuantityError, whose message is a sentence about what is wrong and what would be right.
    """
    known = KINDS[kind]
    wanted = f"{known.title} is wanted, for example {known.example}"
    if isinstance(value, bool) or value is None:
        raise QuantityError(wanted)
    if isinstance(value, (int, float)):
        try:
            number, unit = float(value), ""
        except OverflowError:
            raise QuantityError(f"{known.title} must be a finite number") from None
    else:
        if not value.strip():
            raise QuantityError(wanted)
        number, unit = _read(value, kind)
    if not math.isfinite(number):
        raise QuantityError(f"{known.title} must be a finite number")
    if not unit:
        unit = default_unit if default_unit is not None else known.bare if known.bare is not None else "?"
        if unit == "?":
            raise QuantityError(f"{known.title} needs its unit; write for example {known.example}")
    result = to_si(number, unit, kind)
    if kind == "temperature" and result <= 0.0:
        raise QuantityError(f"'{value}' is at or below absolute zero; a temperature must be above 0 K")
    if kind in ("density", "molar_mass") and result <= 0.0:
        raise QuantityError(f"'{value}' is not {known.title}: it must be above zero")
    if 0.0 < abs(result) < known.least:
        shown = f"{known.least:g} {known.si}"
        raise QuantityError(
            f"'{value}' is nearer to nothing than any {known.title.partition(' ')[2]} here; they begin at {shown}"
        )
    if not math.isfinite(result) or abs(result) > known.most:
        raise QuantityError(f"'{value}' is beyond any {known.title.partition(' ')[2]}; check number and unit")
    return result


_UNDER_ONE = re.compile(r"^(?P<number>.*\S)\s+(?P<unit>1\s*/\s*[^\d\s].*)$")
"""A number with a unit of one over something."""


def _read(text: str, kind: str) -> tuple[float, str]:
    """Return number and unit of a text of a kind. Raises QuantityError."""
    known = KINDS[kind]
    if kind == "fraction":
        share = read_share(text)
        if share is not None:
            return share, ""
    if kind == "density":
        # "API 33.1" names its unit first.
        words = plain(text).casefold()
        for lead in ("°api", "api", "sg", "s.g."):
            if words.startswith(lead) and len(words) > len(lead) and words[len(lead)] in " :=0123456789":
                return read_number(words[len(lead) :].lstrip(" :="))[0], "degAPI" if "api" in lead else "SG"
    under = _UNDER_ONE.match(text)
    try:
        return (read_number(under["number"])[0], under["unit"]) if under else read_number(text)
    except QuantityError as error:
        shown = text if len(text) <= 60 else f"{text[:59]}…"
        if "is not a number" in str(error):
            raise QuantityError(f"'{shown}' is not {known.title}; write for example {known.example}") from None
        raise


def label(unit: str) -> str:
    """Return a unit as it is printed."""
    return LABELS.get(unit, unit)


class Numeral(str):
    """The text of a number that is shown with few digits; ``value`` is the number itself, which a copy takes."""

    value: float

    def __new__(cls, text: str, value: float) -> Numeral:
        made = super().__new__(cls, text)
        made.value = value
        return made


def fixed(value: float, decimals: int) -> Numeral:
    """Return a number with a fixed number of decimals and a true minus; the text knows its :attr:`Numeral.value`."""
    return Numeral(f"{value:.{decimals}f}".replace("-", "−"), value)


def exact(text: str) -> str:
    """Return a shown number with all its digits, any other text as it is."""
    return f"{text.value:.12g}" if isinstance(text, Numeral) else text


def format_number(value: float, digits: int = 4) -> str:
    """Return a number with sensible significant digits, a true minus and no exponent in the usual range; the text
    knows its :attr:`Numeral.value`."""
    if not math.isfinite(value):
        return "–"
    if value == 0.0:
        return "0"
    size = int(f"{value:.{digits - 1}e}".partition("e")[2])
    if -4 <= size < 7:
        text = f"{value:.{max(0, digits - 1 - size)}f}"
    else:
        text = f"{value:.{digits - 1}e}"
    return Numeral(text.replace("-", "−"), value)
