"""Which columns of a stretch of rows can be the axis of a table: names, ions, percents, boiling ranges, or the
numbers of a pressure."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence

from ..components import named
from .brines import ION_SIGNS, ion_of
from .entries import Style, entry_of, folded, point_of, span_of
from .raw import cell_at
from .rows import Row
from .words import as_unit, means, names_temperature

AXES: tuple[tuple[str, Callable[[str, Style], bool]], ...] = (
    ("ions", lambda text, style: text[:1].isalpha() and ion_of(text) is not None),
    ("names", lambda text, style: not text[:1].isdecimal() and (found := named(text)) is not None and not found.total),
    ("spans", lambda text, style: span_of(text, style) is not None),
    ("points", lambda text, style: point_of(text, style) is not None),
)


PROBED = 200
"""Rows at the top of a long stretch that tell whether a column can be an axis at all."""


def may_be(kind: str, texts: list[str], is_place: Callable[[str, Style], bool], style: Style) -> bool:
    """Tell whether a column of a long stretch can be an axis, by its first rows; a short one is looked at whole."""
    if len(texts) <= 2 * PROBED:
        return True
    there = [t for t in texts[:PROBED] if t and is_place(t, style)]
    if kind != "points":
        return bool(there)
    values = [point_of(t, style) or 0.0 for t in there]
    return len(values) >= 2 and all(b >= a for a, b in itertools.pairwise(values))


def heads_curve(stretch: list[Row], found: tuple[int, str, list[int]]) -> bool:
    """Tell whether temperatures stand right beside a column of percents: a distillation beside a list of components."""
    column, _, rows = found
    return any(means(cell_at(cells, column + 1), "temperature") for _, cells in stretch[max(0, rows[0] - 3) : rows[0]])


def above(stretch: list[Row], found: tuple[int, str, list[int]]) -> str:
    """Return what stands right above an axis, folded."""
    return folded(cell_at(stretch[found[2][0] - 1][1], found[0])) if found[2][0] else ""


def is_steps(stretch: list[Row], found: list[tuple[int, str, list[int]]], style: Style) -> bool:
    """Tell whether a column of percents is a result along pressures rather than the axis of a distillation."""
    column, _, rows = next(f for f in found if f[1] == "points")
    ends = any(not entry_of(cell_at(stretch[k][1], column), style).fills for k in rows)
    heads = [c for _, cells in stretch[max(0, rows[0] - 2) : rows[0]] if sum(map(bool, cells)) >= 2 for c in cells]
    return not ends and not any(means(h, "temperature") for h in heads)


def filled_beside(cells: Sequence[str], column: int, style: Style, left: bool) -> bool:
    """Tell whether a row has a number to the right of a column, or to the ``left`` as well."""
    return any(
        cells[j].strip() and entry_of(cells[j], style).fills
        for j in range(0 if left else column, len(cells))
        if j != column
    )


def _header_above(texts: list[str], rows: list[int], stretch: list[Row]) -> str:
    return " ".join(t for t in texts[max(0, rows[0] - 4) : rows[0]] if t) if rows else ""


def is_axis(kind: str, rows: list[int], texts: list[str], stretch: list[Row], column: int, style: Style) -> bool:
    if kind == "ions":
        return len(rows) >= 4 and any(ION_SIGNS.search(texts[k]) or len(texts[k]) > 3 for k in rows)
    if kind == "names":
        words = sum(bool(t) and not entry_of(t, style).fills for t in texts)
        return len(rows) >= 2 and (len(rows) >= 3 or len(rows) >= 0.5 * words)
    if kind == "spans":
        return len(rows) >= 3
    if len(rows) < 2:
        return False
    values = [point_of(texts[k], style) or 0.0 for k in rows]
    if not any(entry_of(texts[k], style).fills for k in rows):
        return False  # initial and final point alone are lines
    if any(b < a for a, b in itertools.pairwise(values)) or values[0] < 0.0 or values[-1] > 100.0:
        return False
    head = _header_above(texts, rows, stretch)
    ends = any(not entry_of(texts[k], style).fills for k in rows)
    if len(rows) < 3 and not any(
        means(c, "temperature") or means(c, "density")
        for k in range(max(0, rows[0] - 3), rows[0])
        for c in stretch[k][1]
    ):
        return False
    # Percents of a table without a header: the first column, and temperatures or densities beside it.
    bare = (
        not head
        and column == next(j for j, c in enumerate(stretch[rows[0]][1]) if c.strip())
        and len(rows) == len(stretch)
        and len(rows) >= 4
    )
    return ends or means(head, "percent") or bare


def number_rows(texts: list[str], stretch: list[Row], column: int, style: Style) -> list[int]:
    """Return the rows of a column of numbers under a header that names a pressure or an injected gas."""
    at = next(
        (
            k
            for k, t in enumerate(texts)
            if t
            and not t[:1].isdecimal()
            and (means(t, "pressure") or means(t, "injected"))
            and _heads_numbers(stretch[k][1], column, style)
        ),
        None,
    )
    if at is None:
        return []
    rows = [
        k
        for k in range(at + 1, len(texts))
        if texts[k] and _is_step(texts[k], style) and any(c.strip() for j, c in enumerate(stretch[k][1]) if j != column)
    ]
    return rows if rows and (len(rows) >= 2 or rows[0] == at + 1) else []


def _heads_numbers(cells: Sequence[str], column: int, style: Style) -> bool:
    """Tell whether a row is a header over columns, no title and no line of a word and its value."""
    if sum(bool(c.strip()) for c in cells) < 2 or entry_of(cells[column], style).is_number:
        return False
    return not any(
        entry_of(c, style).is_number
        for j, c in enumerate(cells)
        if j != column and c.strip() and not names_temperature(c)
    )


def _is_step(text: str, style: Style) -> bool:
    """Tell whether a cell is a value of a column of numbers, also one that words mark: Pb 2185, 2516*, 4,780 dew
    point."""
    one = entry_of(text, style)
    if (
        one.is_number
        and one.unit
        and not as_unit(one.unit, "pressure")
        and not means(one.unit, "saturated")
        and (len(one.unit) > 3 or as_unit(one.unit, "temperature"))
    ):
        return False  # a line of a word and another quantity
    return one.is_number or one.kind == "doubt" or (one.lead != "" and means(one.lead, "saturated"))
