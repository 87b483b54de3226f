"""Remarks as data: what a computation wants to say, without the words.

Physics reports a code and values with the kind of unit they have; the sentence is made at the border, in the reader's
units (:mod:`cryonome.telling.sentences`)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

KINDS = ("fault", "warning", "extrapolation", "correction", "estimate")
"""Kinds of remarks, the gravest first."""


@dataclass(frozen=True)
class Measure:
    """A value in SI with the kind of quantity it is (a key of :data:`cryonome.units.KINDS`); ``digits`` after the
    point in the reader's unit, or None for four significant ones."""

    value: float
    kind: str
    digits: int | None = None


@dataclass(frozen=True)
class Word:
    """A part of a sentence that is chosen by the computation: the ``code`` of its wording."""

    code: str


Value = str | int | float | Measure | Word | tuple["Value", ...]
"""What a remark may carry: words of the user (names), numbers without a unit, measures, wordings, lists of these."""


@dataclass(frozen=True)
class Remark:
    """One thing to say: its ``kind`` (of :data:`KINDS`), the ``code`` of its sentence, the ``place`` it acts at, and
    values."""

    kind: str
    code: str
    place: str = ""
    values: Mapping[str, Value] = field(default_factory=dict)

    def __hash__(self) -> int:
        return hash((self.kind, self.code, self.place, tuple(self.values)))


def said(text: str) -> Remark:
    """Return a sentence that holds nothing in a unit as a remark."""
    return Remark("warning", "plain.said", values={"text": text})


def kelvin(T: float, digits: int = 1) -> Measure:
    """Return a temperature (K) as a measure."""
    return Measure(float(T), "temperature", digits)


def pascal(P: float, digits: int | None = None) -> Measure:
    """Return a pressure (Pa) as a measure."""
    return Measure(float(P), "pressure", digits)


def measure(value: float, kind: str, digits: int | None = None) -> Measure:
    """Return a value in SI of a kind of quantity as a measure."""
    return Measure(float(value), kind, digits)
