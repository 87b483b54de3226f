"""Where the tables of a sheet stand: each under its header rows, along an axis of names, percents, ranges or numbers,
in either direction.

A table is found by its *axis*, a column whose cells are components, points of a distillation, boiling ranges or,
under a header that names a pressure, numbers. A stretch of rows in which no column is an axis is tried with rows and
columns exchanged. Rows of a table that are not of its axis (densities below a distillation, a saturation pressure
below the steps) stay with it as its *sides*; all else is lines."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence

from ..components import named
from .axes import AXES, above, filled_beside, heads_curve, is_axis, is_steps, may_be, number_rows
from .entries import Style, entry_of, folded, point_of
from .raw import Layout, Raw, cell_at
from .rows import Row, prepared
from .words import is_unit_row, is_unit_word, line_word, means, names_temperature


def layout_of(rows: Sequence[Sequence[str]], style: Style) -> Layout:
    """Return where the tables of a sheet stand."""
    out = Layout()
    stretches = [part for s in _joined(_stretches(prepared(rows, style)), style) for part in _split(s, style)]
    for stretch in stretches:
        tables = _tables(stretch, style)
        used = {r for t in tables for r in _rows_of(t)}
        for table in tables:
            previous = out.tables[-1] if out.tables else None
            if previous is not None and _continues(previous, table, style):
                previous.body += table.body
                previous.sides += table.sides
                previous.bottom = table.bottom
            else:
                out.tables.append(table)
        out.lines += [row for row in stretch if row[0] not in used]
    out.lines.sort(key=lambda r: r[0])
    return out


def _stretches(rows: list[Row]) -> list[list[Row]]:
    out: list[list[Row]] = [[]]
    for row in rows:
        if any(c.strip() for c in row[1]):
            out[-1].append(row)
        elif out[-1]:
            out.append([])
    return [s for s in out if s]


def _split(stretch: list[Row], style: Style) -> list[list[Row]]:
    """Part a stretch in which a distillation and a list of components stand below one another without a blank row
    between."""
    kinds = []
    for _, cells in stretch:
        text = next((c for c in cells if c.strip()), "")
        found = named(text)
        filled = any(entry_of(c, style).fills for c in cells[1:] if c.strip())
        kinds.append(
            ""
            if not filled
            else "names"
            if found is not None and not found.total
            else "points"
            if point_of(text, style) is not None
            else ""
        )
    for first, second in (("points", "names"), ("names", "points")):
        one, two = (
            [k for k, kind in enumerate(kinds) if kind == first],
            [k for k, kind in enumerate(kinds) if kind == second],
        )
        if len(one) >= 3 and len(two) >= 2 and one[-1] < two[0]:
            cut = two[0]
            while cut - 1 > one[-1] and not any(entry_of(c, style).is_number for c in stretch[cut - 1][1]):
                cut -= 1
            return [stretch[:cut], *_split(stretch[cut:], style)]
    return [stretch]


def _filled(row: Sequence[str], style: Style) -> list[int]:
    """Return the columns behind the first word of a row that hold numbers or stand for them."""
    first = next((j for j, c in enumerate(row) if c.strip()), 0)
    return [j for j in range(first + 1, len(row)) if row[j].strip() and entry_of(row[j], style).fills]


def _joined(stretches: list[list[Row]], style: Style) -> list[list[Row]]:
    """Join a stretch of labelled rows without a header of its own to the one above whose columns it fills: properties
    below the steps of a depletion, or densities below distillations side by side."""
    out: list[list[Row]] = []
    for stretch in stretches:
        above = out[-1] if out else []
        wide = [set(_filled(cells, style)) for _, cells in above]
        most = max(wide, key=len, default=set())
        fits = [
            len(cells) > 0
            and cells[0].strip() != ""
            and not entry_of(cells[0], style).fills
            and len(f := _filled(cells, style)) >= 2
            and set(f) <= most
            for _, cells in stretch
        ]
        if len(most) >= 2 and all(fits):
            above += stretch
        else:
            out.append(list(stretch))
    return out


def _tables(stretch: list[Row], style: Style) -> list[Raw]:
    """Return the tables of a stretch, as it stands or with rows and columns exchanged, whichever is understood."""
    down = _down(stretch, style)
    if down and not _has_steps_across(stretch, down, style) and all(_is_orderly(t, style) for t in down):
        return down
    wide = [row for row in stretch if len([c for c in row[1] if c.strip()]) >= 3]
    if len(wide) < 2:
        return down
    wide = _with_label(stretch, wide, style)
    first = min(next(j for j, c in enumerate(cells) if c.strip()) for _, cells in wide)
    width = max(len(cells) for _, cells in wide)
    turned = [(j - first, [cell_at(cells, j) for _, cells in wide]) for j in range(first, width)]
    across = [t for t in _down([row for row in turned if any(row[1])], style) if len(t.body) >= 2]
    for table in across:
        table.across = True
        table.left = first
        table.top, table.bottom = wide[0][0], wide[-1][0]
    return across or down


def _is_orderly(table: Raw, style: Style) -> bool:
    """Tell whether the numbers of an axis rise or fall all along."""
    if table.kind != "numbers":
        return True
    values = [entry_of(cell_at(c, table.axis), style).value for _, c in table.body]
    steps = [b - a for a, b in itertools.pairwise(values)]
    return all(s <= 0.0 for s in steps) or all(s >= 0.0 for s in steps)


def _with_label(stretch: list[Row], wide: list[Row], style: Style) -> list[Row]:
    """Return rows whose first, of numbers alone, bears the word for pressures that stands above it."""
    number, cells = wide[0]
    above = next((c for n, c in stretch if n == number - 1), [])
    word = next((c for c in above if means(c, "pressure")), "")
    numbers = [c for c in cells[1:] if c.strip()]
    if word and not means(cells[0], "pressure") and numbers and all(entry_of(c, style).is_number for c in numbers):
        return [(number, [word, *cells[1:]]), *wide[1:]]
    return wide


def _rows_of(table: Raw) -> set[int]:
    if table.across:
        return set(range(table.top, table.bottom + 1))
    inside = {r for r, _ in table.body} | {r for r, _ in table.sides}
    return inside | set(range(table.top, table.bottom + 1))


def _has_steps_across(stretch: list[Row], tables: list[Raw], style: Style) -> bool:
    """Tell whether names stand below a row of pressures: steps of a test and no samples."""
    if not any(t.kind == "names" for t in tables):
        return False
    return any(
        means(cells[0] if cells else "", "pressure") and sum(entry_of(c, style).is_number for c in cells[1:]) >= 2
        for _, cells in stretch
    )


def _down(stretch: list[Row], style: Style) -> list[Raw]:
    """Return the tables whose axis runs down a column."""
    width = max(len(cells) for _, cells in stretch)
    found: list[tuple[int, str, list[int]]] = []
    for column in range(width):
        texts = [cell_at(cells, column).strip() for _, cells in stretch]
        for kind, is_place in AXES:
            if not may_be(kind, texts, is_place, style):
                continue
            rows = [k for k, text in enumerate(texts) if text and is_place(text, style)]
            right = [k for k in rows if filled_beside(stretch[k][1], column, style, False)]
            rows = (
                right
                if 2 * len(right) >= len(rows) and kind != "points"
                else [k for k in rows if filled_beside(stretch[k][1], column, style, True)]
            )
            if is_axis(kind, rows, texts, stretch, column, style):
                found.append((column, kind, rows))
                break
        else:
            rows = number_rows(texts, stretch, column, style)
            if rows:
                found.append((column, "numbers", rows))
    kinds = {kind for _, kind, _ in found}
    if "ions" in kinds:
        found = [f for f in found if f[1] == "ions"]
    elif "names" in kinds or "spans" in kinds:
        found = [
            f
            for f in found
            if f[1] in ("names", "spans") or (f[1] == "points" and "spans" not in kinds and heads_curve(stretch, f))
        ]
    elif "points" in kinds and not ("numbers" in kinds and is_steps(stretch, found, style)):
        found = [f for f in found if f[1] == "points"]
        # Another column of percents is a second axis only where it is headed like the first: blocks side by side.
        found = [f for f in found if above(stretch, f) == above(stretch, found[0])]
    else:
        found = [f for f in found if f[1] == "numbers"][:1]
    tables = []
    for number, (column, kind, rows) in enumerate(found):
        until = found[number + 1][0] if number + 1 < len(found) else width
        table = _table(stretch, style, kind, column, rows, column + 1, until, alone=len(found) == 1)
        if table is not None:
            tables.append(table)
    return tables


def _table(
    stretch: list[Row], style: Style, kind: str, axis: int, rows: list[int], start: int, until: int, alone: bool
) -> Raw | None:
    first, last = rows[0], rows[-1]
    columns = [j for j in range(start, until) if any(cell_at(stretch[k][1], j).strip() for k in rows)]
    if kind == "numbers" or (alone and (kind == "points" or not columns)):
        columns = [
            j
            for j in range(max(len(c) for _, c in stretch))
            if j != axis and any(cell_at(stretch[k][1], j).strip() for k in rows)
        ]
    if not columns:
        return None
    if kind == "spans":
        # A cut before the first range, such as the gas, counts in what is cumulated.
        while first > 0 and sum(entry_of(cell_at(stretch[first - 1][1], j), style).is_number for j in columns) >= 1:
            first -= 1
            rows = [first, *rows]
    taken = set(rows)
    tops: list[int] = []
    at = first - 1
    early: list[int] = []
    while at >= 0 and len(tops) < 4:
        if _is_head(stretch, at, axis, columns, tops, style):
            tops.insert(0, at)
        elif not tops and kind != "numbers" and _is_values(stretch[at][1], axis, columns, style):
            early.insert(0, at)  # a value of each column between the header and the body: densities of samples
        else:
            break
        at -= 1
    heads = {j: [cell_at(stretch[k][1], j).strip() for k in tops] for j in (axis, *columns)}
    groups = _groups(stretch, tops, axis, columns)
    for j, title in groups.items():
        if heads[j] and not heads[j][0]:
            heads[j] = [title, *heads[j][1:]]
    sides = [stretch[k] for k in early]
    bottom = last
    between: list[Row] = []
    for k in range(first, len(stretch)):
        if k in taken:
            continue
        cells = stretch[k][1]
        here = [j for j in columns if cell_at(cells, j).strip()]
        label = cell_at(cells, axis).strip() or next((c for c in cells if c.strip()), "")
        if k < last or (alone and here and _is_side(cells, here, columns, label, kind, style)):
            # Lines between the body and a row of it further down would be lost with it.
            sides += [*between, stretch[k]] if kind == "numbers" else [stretch[k]]
            bottom, between = max(bottom, k), []
        elif label:
            between.append(stretch[k])
    # A row of values between the header and the body belongs to it as well: a date, a density of each sample.
    return Raw(
        kind, axis, columns, heads, groups, [stretch[k] for k in rows], sides, False, stretch[tops[0] if tops else first][0], stretch[bottom][0],
    )  # fmt: skip


def _is_values(cells: Sequence[str], axis: int, columns: list[int], style: Style) -> bool:
    """Tell whether a row holds a word and numbers in several columns of a table."""
    there = sum(entry_of(cell_at(cells, j), style).is_number for j in columns)
    return there >= 2 and cell_at(cells, axis).strip() != "" and not entry_of(cell_at(cells, axis), style).fills


def _is_side(cells: Sequence[str], here: list[int], columns: list[int], label: str, kind: str, style: Style) -> bool:
    """Tell whether a row below a body is one of the table: a total, or values in several of its columns."""
    found = named(label) if label else None
    if kind == "names" and ((found is not None) or not label or not cells[0].strip()):
        return True
    if kind == "ions" and re.search(r"\btds\b|dissolved|total|abdampf|solid|\bph\b|density|dichte", folded(label)):
        return True
    if kind == "numbers" and re.match(r"total|sum|stock", folded(label)):
        return True
    return len(here) >= 2 and sum(entry_of(cell_at(cells, j), style).fills for j in here) >= 2


def _is_head(stretch: list[Row], at: int, axis: int, columns: list[int], below: list[int], style: Style) -> bool:
    cells = stretch[at][1]
    full = [j for j, c in enumerate(cells) if c.strip()]
    others = [j for j in full if j != axis]
    if any(re.search(r"=\s*[-−]?\d[\d.,]*\s*[A-Za-z°]", cells[j]) for j in full):
        return False
    heading = (
        means(cells[axis] if axis < len(cells) else "", "name") and len(others) >= 2
    )  # Component, 4780, 4000: amounts at steps
    if (any(_is_value(cells[j], style) for j in others) and not heading) or (
        axis in full and entry_of(cells[axis], style).is_number
    ):
        return False
    if not others:
        # A unit or a word right above the axis alone.
        return (
            len(cells[axis].strip()) <= 24
            and not below
            and (len(columns) == 1 or means(cells[axis], "percent") or means(cells[axis], "name"))
        )
    inside = [j for j in others if j in columns or min(columns) <= j <= max(columns)]
    if not inside:
        return False
    if not below:
        return (
            len(full) >= 3
            or not line_word(cells[full[0]])
            or means(cells[full[0]], "percent")
            or means(cells[full[0]], "pressure")
            or means(cells[full[0]], "name")
        )
    if axis not in full:
        # A lone text above the header of the first column is a title of the table.
        own = cell_at(stretch[below[0]][1], full[0]).strip()
        title = full[0] <= min(axis, *columns) and own != "" and not is_unit_word(own)
        return len(full) > 1 or (len(cells[full[0]].strip()) <= 30 and not title)
    if len(full) >= 3:
        return not line_word(cells[full[0]]) or len(inside) == len(columns)
    return (
        is_unit_row([cells2 for cells2 in stretch[below[0]][1] if cells2.strip()])
        and (len(below) == 1)
        and not (line_word(cells[axis]) and not means(cells[axis], "percent"))
    )


def _is_value(text: str, style: Style) -> bool:
    one = entry_of(text, style)
    return (one.is_number or one.kind in ("below", "doubt")) and not names_temperature(text)


def _groups(stretch: list[Row], tops: list[int], axis: int, columns: list[int]) -> dict[int, str]:
    """Return the title that spans several columns, by column: one is written over the first of them only."""
    out: dict[int, str] = {}
    if len(tops) < 2:
        return out
    cells = stretch[tops[0]][1]
    spanning = [j for j in columns if cell_at(cells, j).strip()]
    if len(spanning) < 2 or len(spanning) == len(columns) or cell_at(cells, axis).strip():
        return out
    current = ""
    for j in range(min(columns), max(columns) + 1):
        current = cell_at(cells, j).strip() or current
        if j in columns:
            out[j] = current
    return out


def _continues(above: Raw, table: Raw, style: Style) -> bool:
    """Tell whether a table goes on with the one beside it: the same headers, other names, or percents that follow."""
    if above.kind != table.kind or above.across != table.across or len(above.columns) != len(table.columns):
        return False
    if abs(above.top - table.top) > 1 and above.kind != "names":
        return False
    heads = [folded(above.head(j)) for j in (above.axis, *above.columns)]
    same = heads == [folded(table.head(j)) for j in (table.axis, *table.columns)]
    if not same or above.top != table.top:
        return False
    if table.kind == "points":
        last, first = (
            point_of(cell_at(above.body[-1][1], above.axis), style),
            point_of(cell_at(table.body[0][1], table.axis), style),
        )
        if last is None or first is None or first < last:
            return False
    elif table.kind == "names":
        mine = {folded(cell_at(c, above.axis)) for _, c in above.body}
        if mine & {folded(cell_at(c, table.axis)) for _, c in table.body}:
            return False
    else:
        return False
    # The cells move to the columns of the first.
    shift = dict(zip((table.axis, *table.columns), (above.axis, *above.columns)))
    width = max(above.axis, *above.columns) + 1

    def moved(rows: list[Row]) -> list[Row]:
        out = []
        for number, cells in rows:
            line = [""] * width
            for source, target in shift.items():
                line[target] = cell_at(cells, source)
            out.append((number, line))
        return out

    table.body, table.sides = moved(table.body), moved(table.sides)
    return True
