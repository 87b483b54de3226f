"""Answers as plain tables: a list of things is a row each, a line is its points, whatever the kind of question.

Lists of numbers inside a thing are columns of their own; what the thing says once (its equation, its temperature)
stands in every row. So an envelope is one table of points with the name of the line beside each, and a spreadsheet
can filter it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from .sentences import Units
from .table_blocks import Block, Shown, of_key, told

PARTS = ("ok", "notes", "error", "fluid", "tuned", "reference", "checks", "measured_rows")
"""Keys of an answer that are no numbers to tabulate."""

LINE = "line"

MARKS = ("critical_points", "cricondentherm", "cricondenbar", "other_extremes")
"""Keys of the points of an envelope."""


@dataclass(frozen=True)
class PointTable:
    """A table of an answer: its title, the key of each column, and the values in the units of their keys."""

    title: str
    keys: tuple[str, ...]
    rows: tuple[tuple[Any, ...], ...]

    def shown(self, units: Units) -> list[Shown]:
        """Return how each column is shown."""
        return [of_key(k, units) for k in self.keys]

    def block(self, units: Units, title: str = "") -> Block:
        """Return the table in the reader's units."""
        shown = self.shown(units.of_states())
        rows = [[_text(s, v) for s, v in zip(shown, row)] for row in self.rows]
        return Block(title or self.title, [s.head for s in shown], rows)

    def plain(self, units: Units) -> list[list[Any]]:
        """Return the rows as numbers in the reader's units, for a file."""
        shown = self.shown(units.of_states())
        return [
            [s.plain(v) if isinstance(v, (int, float)) and not isinstance(v, bool) else v for s, v in zip(shown, row)]
            for row in self.rows
        ]


def _text(shown: Shown, value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int) and not shown.kind:
        return str(value)
    if isinstance(value, (int, float)):
        return shown.text(value)
    return "" if value is None else str(value)


def tables_of(title: str, things: Sequence[Mapping[str, Any]]) -> list[PointTable]:
    """Return a list of things as tables, with what is inside of them."""
    return _stacked(title, things, {})


def point_tables(answer: Mapping[str, Any]) -> list[PointTable]:
    """Return everything of an answer that is a list of things, or a line of points, as tables."""
    out: list[PointTable] = []
    marks = marks_of(answer)
    if marks is not None:
        out.append(marks)
    for key, value in answer.items():
        if key in PARTS or (marks is not None and key in MARKS):
            continue
        if is_things(value):
            out += _stacked(key.replace("_", " "), value, {})
        elif isinstance(value, Mapping) and columns_of(value):
            out += _stacked(key.replace("_", " "), [value], {})
        elif isinstance(value, Mapping) and value and all(isinstance(v, Mapping) for v in value.values()):
            out += _stacked(key.replace("_", " "), [{"name": n, **v} for n, v in value.items()], {})
    return out


def marks_of(answer: Mapping[str, Any]) -> PointTable | None:
    """Return the critical points and extremes of an envelope as one table, None of another answer."""
    if "cricondentherm" not in answer:
        return None
    rows = [("critical", c["temperature_K"], c["pressure_Pa"]) for c in answer.get("critical_points", ())]
    for key in ("cricondentherm", "cricondenbar"):
        if answer.get(key):
            rows.append((key, answer[key]["temperature_K"], answer[key]["pressure_Pa"]))
    rows += [
        (str(o.get("kind", "turn")), o["temperature_K"], o["pressure_Pa"]) for o in answer.get("other_extremes", ())
    ]
    return PointTable("points", ("point", "temperature_K", "pressure_Pa"), tuple(rows))


def is_things(value: Any) -> bool:
    """Tell whether a value is a list of things with keys of their own."""
    return isinstance(value, (list, tuple)) and bool(value) and all(isinstance(v, Mapping) for v in value)


def columns_of(thing: Mapping[str, Any]) -> list[str]:
    """Return the keys of a thing that hold lists of numbers, all as long as the longest."""
    found = {k: len(v) for k, v in thing.items() if _is_numbers(v)}
    most = max(found.values(), default=0)
    return [k for k, n in found.items() if n == most and n > 1]


def _is_numbers(value: Any) -> bool:
    return (
        isinstance(value, (list, tuple))
        and bool(value)
        and all(v is None or (isinstance(v, (int, float)) and not isinstance(v, bool)) for v in value)
    )


def _stacked(title: str, things: Sequence[Mapping[str, Any]], said: Mapping[str, Any]) -> list[PointTable]:
    """Return the tables of a list of things; ``said`` is what stands around them, in every row."""
    rows: list[dict[str, Any]] = []
    below: dict[str, list[PointTable]] = {}
    for thing in things:
        once = {**said, **_line_name(thing), **_scalars(thing)}
        columns = columns_of(thing)
        if columns:
            rows += [{**once, **{k: thing[k][i] for k in columns}} for i in range(len(thing[columns[0]]))]
        else:
            rows.append(once)
        for key, value in thing.items():
            words = f"{title}, {key.replace('_', ' ')}"
            if is_things(value):
                below.setdefault(key, []).extend(_stacked(words, value, _around(once)))
            elif isinstance(value, Mapping) and columns_of(value):
                below.setdefault(key, []).extend(_stacked(words, [value], _around(once)))
    joined = [_joined(tables) for tables in below.values()]
    inner = [t for group in joined for t in group]
    return [_table(title, rows), *inner] if any(len(r) > len(said) for r in rows) else inner


def _around(once: Mapping[str, Any]) -> dict[str, Any]:
    """Return what of a thing is told beside what is inside of it."""
    return {
        k: v
        for k, v in once.items()
        if k in ("equation", "name", "structure", "stage", LINE) or k.startswith("temperature")
    }


def _joined(tables: Sequence[PointTable]) -> list[PointTable]:
    """Return tables of one title as one."""
    out: dict[str, list[dict[str, Any]]] = {}
    for t in tables:
        out.setdefault(t.title, []).extend(dict(zip(t.keys, row)) for row in t.rows)
    return [_table(title, rows) for title, rows in out.items()]


def _table(title: str, rows: Sequence[Mapping[str, Any]]) -> PointTable:
    keys = tuple(dict.fromkeys(k for row in rows for k in row))
    return PointTable(title, keys, tuple(tuple(row.get(k) for k in keys) for row in rows))


def _scalars(thing: Mapping[str, Any], before: str = "") -> dict[str, Any]:
    """Return what a thing says once, what stands by name inside of it under the joined key."""
    out: dict[str, Any] = {}
    for key, value in thing.items():
        if isinstance(value, Mapping):
            if not columns_of(value):
                out |= _scalars(value, f"{before}{key}.")
        elif not isinstance(value, (list, tuple)):
            out[f"{before}{key}"] = value
        elif value and not is_things(value) and not _is_numbers(value) and all(isinstance(v, str) for v in value):
            out[f"{before}{key}"] = ", ".join(value)
    return out


def _line_name(thing: Mapping[str, Any]) -> dict[str, str]:
    """Return the name of a line of an envelope."""
    if "vapour_volume_fraction" in thing and "temperature_K" in thing and columns_of(thing):
        return {LINE: f"{told(100 * thing['vapour_volume_fraction'], 3)} % vapour by volume"}
    fraction = thing.get("vapour_fraction")
    if isinstance(fraction, (int, float)) and "temperature_K" in thing and columns_of(thing):
        known = {0.0: "bubble line", 1.0: "dew line"}
        return {LINE: known.get(float(fraction)) or f"{told(100 * fraction, 3)} % vapour"}
    return {}
