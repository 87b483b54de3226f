"""The answer of a spread as sheets: what was read, where its spread comes from, bands, and what is uncertain."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..document.field_types import Cell
from ..telling.sentences import Units
from ..telling.spread_words import difference, of_read
from ..telling.table_blocks import of_key
from ..units import label

Rows = list[list[Cell]]


def _items(told: Any) -> list[Any]:
    """Return the numbers of a read one below the other."""
    if not isinstance(told, (list, tuple)):
        return [told]
    return [v for part in told for v in _items(part)]


def spread_sheets(answer: Mapping[str, Any], units: Units) -> dict[str, Rows]:
    """Return a spread as sheets by their name, numbers in the reader's units."""
    percents = list(next(iter(answer["reads"].values()))["percentiles"]) if answer["reads"] else []
    reads: Rows = [
        ["read", "place", "unit", "as it stands", "mean", "standard deviation", *(f"{p} %" for p in percents)]
    ]
    for path, told in answer["reads"].items():
        shown = of_read(path, units)
        columns = [_items(told[k]) for k in ("base", "mean")] + [_items(told["percentiles"][p]) for p in percents]
        for i, wide in enumerate(_items(told["standard_deviation"])):
            base, mean, *levels = (None if c[i] is None else shown.plain(c[i]) for c in columns)
            at = _items(told["mean"])[i]
            deviation = None if wide is None or at is None else float(difference(shown, wide, at, 12).replace("−", "-"))
            reads.append([path, i + 1, label(shown.unit) if shown.unit else "", base, mean, deviation, *levels])
    sheets = {"reads": reads}
    if answer["shares"]:
        shares: Rows = [["read", "place", "input", "share of the variance"]]
        for path, own in answer["shares"].items():
            for name, share in own.items():
                shares += [[path, i + 1, name, v] for i, v in enumerate(_items(share))]
        sheets["shares"] = shares
    if answer["limits"]:
        heads: list[Cell] = ["read", "limit", "value", "chance that it is broken", "from", "to"]
        sheets["limits"] = [heads] + [
            [
                v["read"],
                key.replace("_", " "),
                of_read(v["read"], units).plain(v[key]),
                v["chance_broken"],
                *v["between"],
            ]
            for v in answer["limits"]
            for key in ("at_least", "at_most")
            if key in v
        ]
    for panel in sorted({b["panel"] for b in answer["bands"]}):
        own_bands = [b for b in answer["bands"] if b["panel"] == panel]
        x, y = of_key(own_bands[0]["x"], units), of_key(own_bands[0]["y"], units)
        names = [f"{s.name} ({s.head[1]})" if s.head[1] else s.name for s in (x, y)]
        rows: Rows = [["curve", *(f"{where}{n}" for where in ("", "low ", "high ") for n in names)]]
        for b in own_bands:
            for points in zip(*(b[side][axis] for side in ("line", "low", "high") for axis in ("x", "y"))):
                plain = [None if v is None else (x, y)[k % 2].plain(v) for k, v in enumerate(points)]
                rows.append([b["name"], *plain])
        sheets[f"bands {panel + 1}"] = rows
    sheets["uncertain"] = [
        ["input", "cells", "value (SI)", "standard deviation (SI)", "from"],
        *([v["words"], v["cells"], v["value"], v["standard_deviation"], v["source"]] for v in answer["uncertain"]),
    ]
    return sheets
