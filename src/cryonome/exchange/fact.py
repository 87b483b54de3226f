"""A thing that a line of a sheet says."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..components import named


@dataclass(frozen=True)
class Fact:
    """Something a line says: ``what`` (see :data:`KINDS_OF`), its ``value`` as a document writes it, the temperature
    or percent ``at`` which, and where it stands; ``assumed`` is what was supplied, ``of_plus`` tells that it is the
    plus fraction's."""

    what: str
    value: str
    row: int
    column: int = 0
    at: str = ""
    assumed: str = ""
    of_plus: bool = False
    text: str = ""


KINDS_OF = {
    "density": "density", "molar_mass": "molar_mass", "temperature": "temperature", "pressure": "pressure", "saturation": "pressure",
    "initial": "temperature", "final": "temperature", "point": "temperature", "residual_density": "density",
}  # fmt: skip
"""What a fact tells, and the kind of its quantity."""


NEEDING = ("pressure", "temperature", "density")
"""Kinds of quantities that are nothing without a unit."""


GAS_GRAVITY = re.compile(r"air|gas|luft|aire|vapou?r|relative dens")


def cell_of(number: float, unit: str) -> str:
    """Return a number and its unit as a document writes them."""
    return f"{number:.15g} {unit}".strip()


def of_plus(label: str) -> bool:
    """Tell whether a label names a plus fraction: density of C7+, MW of heptanes plus."""
    words = re.sub(r"[():,;]", " ", label)
    pieces = [words, *re.split(r"\bof\b|\bde la\b|\bde\b|\bdes\b|\bder\b|\bdo\b|\bda\b", words, flags=re.IGNORECASE)]
    tokens = words.split()
    pieces += [" ".join(tokens[a:b]) for a in range(len(tokens)) for b in range(a + 1, min(a + 4, len(tokens)) + 1)]
    return any((n := named(p.strip())) is not None and n.plus and n.number >= 4 for p in pieces)
