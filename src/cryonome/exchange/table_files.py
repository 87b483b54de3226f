"""Property tables and sweeps as files: CSV and XLSX in the reader's units, and an interpolation table in SI for other
programs.

An interpolation table is JSON: ``format`` "cryonome-table/1"; ``axes``, each with ``variable``, ``unit`` and rising
``values``; and ``properties``, each with ``key``, ``unit`` and ``values`` nested over the axes in their order, null
where there is none."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from ..document.field_types import Cell
from ..document.files import write_atomic
from ..errors import DomainError
from ..fluids.property_choice import title_of
from ..questions.tabulate import nested
from ..telling.point_tables import point_tables
from ..telling.sentences import Units
from ..telling.table_blocks import axes_of, inputs_of, of_input, of_key, varied_of
from ..units import KINDS, label
from ..units.endings import SPELLED, kind_of_key
from .spread_sheets import spread_sheets
from .writing import csv_text, workbook

Rows = list[list[Cell]]
INTERPOLATION = "cryonome-table/1"
KINDS_OF_FILES = {".csv": "CSV", ".xlsx": "workbook", ".json": "interpolation table"}
"""Endings of the files a table can be written to."""


def write_answer(path: Path, answer: Mapping[str, Any], units: Units) -> None:
    """Write the answer of a table or a sweep by the file's ending. Raises DomainError for another kind or ending,
    OSError."""
    suffix = path.suffix.lower()
    if suffix not in KINDS_OF_FILES:
        raise DomainError(f"'{path.suffix}' is no file a table is written to; there is {', '.join(KINDS_OF_FILES)}")
    if suffix == ".json":
        if "axes" not in answer:
            raise DomainError("an interpolation table is of a property table; a sweep is written as .csv or .xlsx")
        write_atomic(path, interpolation_text(answer))
        return
    sheets = answer_sheets(answer, units)
    if suffix == ".csv":
        write_atomic(path, csv_of(sheets, "axes" in answer))
    else:
        write_atomic(path, workbook(sheets.items()))


def answer_sheets(answer: Mapping[str, Any], units: Units) -> dict[str, Rows]:
    """Return a table or a sweep as sheets by their name: all states in rows first, then a table for each property
    over two axes, its formula, and values from elsewhere."""
    units = units.of_states()
    if "axes" in answer and "properties" in answer:
        sheets = _table_sheets(answer, units)
    elif "reads" in answer and "shares" in answer:
        sheets = spread_sheets(answer, units)
    elif "rows" in answer and "paths" in answer:
        sheets = {"sweep": _sweep_rows(answer, units)}
    elif "reached" in answer and isinstance(answer.get("answer"), Mapping):
        inner = answer_sheets(answer["answer"], units)
        sheets = {"found": _goal_rows(answer, units)}
        sheets |= {title: rows for title, rows in inner.items() if title not in ("compared, SI", "notes")}
        if answer.get("notes"):
            sheets["notes"] = [[note] for note in answer["notes"]]
    elif answer.get("rows") and isinstance(answer["rows"][0], Mapping):
        sheets = {"rows": _plain_rows(answer["rows"], units)}
        if answer.get("branches"):
            sheets["branches"] = _plain_rows(_unfolded(answer["branches"]), units)
        if answer.get("above"):
            sheets["above saturation"] = _plain_rows(answer["above"], units)
        if answer.get("lean_gas"):
            sheets["lean gas"] = _plain_rows(_unfolded(answer["lean_gas"]), units)
        values = _single_values(answer, units)
        if values:
            sheets["values"] = values
        if answer.get("notes"):
            sheets["notes"] = [[note] for note in answer["notes"]]
    else:
        sheets = _point_sheets(answer, units)
    if answer.get("reference"):
        head: list[Cell] = ["path", "ours", "theirs", "absolute", "relative"]
        sheets["compared, SI"] = [
            head,
            *([r[k] for k in ("path", "ours", "theirs", "absolute", "relative")] for r in answer["reference"]),
        ]
    return sheets


def _point_sheets(answer: Mapping[str, Any], units: Units) -> dict[str, Rows]:
    """Return any other answer: its lists and lines each as a sheet, and its single values as one. Raises DomainError
    where there is nothing to tabulate."""
    sheets: dict[str, Rows] = {}
    for found in point_tables(answer):
        heads: list[Cell] = [_head(s.name, s.unit) for s in found.shown(units)]
        rows: Rows = [heads, *found.plain(units)]
        sheets[found.title[:31]] = rows
    values = _single_values(answer, units)
    if values:
        sheets["values"] = values
    if not sheets:
        raise DomainError("this answer has no numbers that could be written as a table")
    if answer.get("notes"):
        sheets["notes"] = [[note] for note in answer["notes"]]
    return sheets


def _single_values(answer: Mapping[str, Any], units: Units) -> Rows:
    """Return the single numbers of an answer as a sheet, with the saturation pressure of a test; nothing where there
    is none."""
    single = {k: v for k, v in answer.items() if isinstance(v, (int, float)) and not isinstance(v, bool)}
    at = answer.get("saturation")
    if isinstance(at, Mapping):
        single = {f"{at['kind']}.{k}": v for k, v in at.items() if isinstance(v, float)} | single
    shown = {k: of_key(k, units) for k in single}
    rows: Rows = [[s.name, s.plain(single[k]), s.head[1]] for k, s in shown.items()]
    return [["value", "", "unit"], *rows] if rows else []


def csv_of(sheets: Mapping[str, Rows], states_alone: bool = False) -> str:
    """Return sheets as one CSV: the first as it is, so that its header is the first line; then the others, each below
    its title with an empty row before. Of a property table the ``states_alone``, which hold all of it; notes are told
    where there is more than one sheet."""
    plain = [title for title in sheets if title != "notes"]
    if states_alone or len(plain) == 1:
        return csv_text(sheets[plain[0]])
    rows: Rows = []
    for title, own in sheets.items():
        if rows:
            rows += [[], [title]]
        rows += own
    return csv_text(rows)


def _head(shown_name: str, unit: str) -> str:
    return f"{shown_name} ({label(unit)})" if unit else shown_name


def _table_sheets(answer: Mapping[str, Any], units: Units) -> dict[str, Rows]:
    axes = axes_of(answer, units)
    values = [[s.plain(v) for v in own] for s, own in zip(axes, answer["axes"])]
    shown = {key: of_key(key, units) for key in answer["properties"]}
    grids = {k: np.array(v, dtype=float) for k, v in answer["properties"].items()}
    told = {k: np.vectorize(shown[k].plain)(g) if g.size else g for k, g in grids.items()}
    rows: Rows = [[*(_head(s.name, s.unit) for s in axes), *(_head(title_of(k), shown[k].unit) for k in told)]]
    for place in np.ndindex(*(len(v) for v in values)):
        at = [own[i] for own, i in zip(values, place)]
        rows.append([*at, *(_number(g[place]) for g in told.values())])
    sheets = {"states": rows}
    if len(axes) > 1:
        for k, grid in told.items():
            corner = f"{_head(axes[0].name, axes[0].unit)} \\ {_head(axes[1].name, axes[1].unit)}"
            head: list[Cell] = [corner, *values[1]]
            title = _head(title_of(k), shown[k].unit)
            sheets[title_of(k)] = [
                [title],
                head,
                *([v, *map(_number, line)] for v, line in zip(values[0], grid)),
            ]
    compact = answer.get("compact")
    if compact:
        sheets["formula"] = [
            ["property", compact["property"]],
            ["holds for, in SI", "; ".join(f"{v} {low:.6g} to {high:.6g}" for v, (low, high) in zip(compact["variables"], compact["ranges"]))],
            ["average error, %", 100.0 * compact["average_error"]], ["worst error, %", 100.0 * compact["worst_error"]],
            ["for a spreadsheet", compact["formula"]], ["as Python", compact["python"]],
        ]  # fmt: skip
    if answer.get("notes"):
        sheets["notes"] = [[note] for note in answer["notes"]]
    return sheets


def _sweep_rows(answer: Mapping[str, Any], units: Units) -> Rows:
    varied = inputs_of(answer, units)
    read = [of_key(p, units) for p in answer["paths"]]
    rows: Rows = [[*(_head(s.name, s.unit) for s in varied), *(_head(s.name, s.unit) for s in read), "why not"]]
    for row in answer["rows"]:
        values = [None if v is None else s.plain(v) for s, v in zip(read, row["read"])]
        rows.append([*(s.plain(v) for s, v in zip(varied, varied_of(row))), *values, row.get("error", "")])
    return rows


def _goal_rows(answer: Mapping[str, Any], units: Units) -> Rows:
    """Return what a goal found: the input, where else it is met, and what is reached."""
    varied, read = of_input(answer["varied"], answer["varied_kind"], units), of_key(answer["path"], units)
    rows: Rows = [["value", "", "unit"], [varied.name, varied.plain(answer["value"]), varied.head[1]]]
    rows += [["also met at", varied.plain(v), varied.head[1]] for v in answer["others"]]
    return [*rows, [read.name, read.plain(answer["reached"]), read.head[1]]]


def _plain_rows(rows: Sequence[Mapping[str, Any]], units: Units) -> Rows:
    """Return rows of an answer with their keys as columns; what stands by name within one gets a column each."""
    flat = [{f"{k}.{n}" if n else k: v for k, own in row.items() for n, v in _each(own)} for row in rows]
    keys = list(dict.fromkeys(k for row in flat for k in row))
    shown = {k: of_key(k, units) for k in keys}
    out: Rows = [[_head(shown[k].name, shown[k].unit) for k in keys]]
    for row in flat:
        values = [row.get(k) for k in keys]
        out.append([shown[k].plain(v) if isinstance(v, float) else v for k, v in zip(keys, values)])
    return out


def _each(value: Any) -> list[tuple[str, Any]]:
    return list(value.items()) if isinstance(value, Mapping) else [("", value)]


def _unfolded(branches: Sequence[Mapping[str, Any]]) -> list[dict[str, Any]]:
    """Return a row for each pressure of each branch."""
    out = []
    for branch in branches:
        lists = {k: v for k, v in branch.items() if isinstance(v, list)}
        single = {k: v for k, v in branch.items() if not isinstance(v, list)}
        out += [{**single, **dict(zip(lists, values))} for values in zip(*lists.values())]
    return out


def _number(value: Any) -> Cell:
    return float(value) if np.isfinite(value) else None


def interpolation_text(answer: Mapping[str, Any]) -> str:
    """Return a table's answer as an interpolation table, rising along every axis."""
    order = [np.argsort(axis, kind="stable") for axis in answer["axes"]]
    axes = [
        {"variable": v, "unit": KINDS[kind].si, "values": [axis[i] for i in own]}
        for v, kind, axis, own in zip(answer["variables"], answer["axis_kinds"], answer["axes"], order)
    ]
    properties = []
    for key, values in answer["properties"].items():
        grid = np.array(values, dtype=float)[np.ix_(*order)]
        properties.append({"key": key, "unit": unit_of_key(key), "values": nested(grid)})
    return json.dumps({"format": INTERPOLATION, "axes": axes, "properties": properties}, indent=1) + "\n"


def unit_of_key(key: str) -> str:
    """Return the unit that a value under a key has, "" for a plain number."""
    kind, _ = kind_of_key(key)
    return SPELLED.get(kind, KINDS[kind].si) if kind else ""
