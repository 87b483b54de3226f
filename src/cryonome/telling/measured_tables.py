"""What was measured beside the model, in the reader's units, and what checks of it found, as tables."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..units import format_number
from .read_words import read_words
from .sentences import Units
from .table_blocks import Block, Shown, of_key


def is_measured(answer: Mapping[str, Any]) -> bool:
    """Tell whether an answer holds measured values beside its own."""
    found = answer.get("measured")
    return isinstance(found, list) and bool(found) and isinstance(found[0], Mapping) and "theirs" in found[0]


def measured_block(answer: Mapping[str, Any], units: Units) -> Block:
    """Return each measured value beside the model's: what it is, at which pressure (of a swelling at which amount of
    gas), both values, how far they are apart in percent, and the standard deviation of the measured one."""
    units = units.of_states()
    rows = answer.get("rows") or [{}]
    axis = "pressure_Pa" if "pressure_Pa" in rows[0] else next(iter(rows[0]), "")
    place = of_key(axis, units) if axis else Shown("", "", "")
    told, paths = [], []
    for i, m in enumerate(answer["measured"]):
        shown = of_key(m["key"], units)
        at = m["row"] is not None and m["row"] < len(rows)
        spread = shown.plain(m["theirs"] + m["uncertainty"]) - shown.plain(m["theirs"])
        off = m["deviation_percent"]
        told.append(
            [
                read_words(m["key"]),
                place.text(rows[m["row"]].get(axis)) if at else "",
                shown.text(m["ours"]) or "none",
                shown.text(m["theirs"]),
                shown.head[1],
                "" if off is None else format_number(off, 3),
                format_number(abs(spread), 2),
            ]
        )
        here = f"measured[{i}]"
        paths.append(["", "", f"{here}.ours" if m["ours"] is not None else "", f"{here}.theirs", "", f"{here}.deviation_percent", ""])  # fmt: skip
    heads = [("value", ""), place.head, ("model", ""), ("measured", ""), ("unit", ""), ("off by", "%"), ("standard deviation", "")]  # fmt: skip
    return Block("measured", heads, told, paths)


def checks_block(answer: Mapping[str, Any]) -> Block:
    """Return the checks of a report: what was checked, the verdict, and the sentence."""
    found = [[c["check"].replace("_", " "), c["verdict"], c["sentence"]] for c in answer["checks"]]
    return Block("checks", [("check", ""), ("verdict", ""), ("", "")], found)
