"""What a value of an answer is called where its place in a list says nothing."""

from __future__ import annotations

import re

from ..units.endings import without_unit

LISTS = ("points", "rows", "components", "stations", "phases", "curve", "sizes")
"""Lists of answers whose name says nothing beside that of the key."""


def read_words(path: str) -> str:
    """Return a read in words: ``points[0].temperature_K`` is a temperature, ``rows[*].liquid_volume_fraction`` a
    liquid volume fraction."""
    plain = re.sub(r"\[(\*|\d+)\]", "", without_unit(path))
    parts = [p for p in plain.split(".") if p]
    if len(parts) > 1 and parts[0] in LISTS:
        parts = parts[1:]
    return " ".join(parts).replace("_", " ")
