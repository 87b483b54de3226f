"""Numbers from elsewhere, pasted: matched to the values of an answer by names, headings and order, in the units they
were written in.

What is pasted is a list of names and values (properties, or components of a phase), or a grid with a heading: over
the axis of a table, or over the values of a sweep. What was made of it is told in sentences."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..components import UnknownComponentError, find
from ..document.faults import did_you_mean
from ..document.field_types import Cell
from ..document.reader import EMPTY, plain_cell, united_cell
from ..errors import DomainError
from ..fluids.columns import PHASES
from ..fluids.property_choice import described, title_of
from ..results.answer_paths import key_words, value_at
from ..units import QuantityError, fits, split
from ..units.endings import kind_of_key, parse_as
from .entries import is_header, is_number, title_and_unit

Given = dict[str, Cell | tuple[Cell, ...]]


@dataclass
class Pasted:
    """References by their path in the answer, as a document keeps them; the ``values`` of the first input of a sweep
    where the grid has others; and what was made of the paste."""

    references: Given = field(default_factory=dict)
    values: tuple[Cell, ...] = ()
    told: list[str] = field(default_factory=list)


def read_pasted(text: str, answer: Mapping[str, Any], phase: str = "") -> Pasted:
    """Return the references in a pasted text for an answer; components without a phase belong to ``phase``, else to
    the only one.

    Raises DomainError with what is wrong and what would be right.
    """
    rows = [[c.strip() for c in re.split(r"\t|;", line)] for line in text.replace("\r", "").split("\n") if line.strip()]
    if not rows:
        raise DomainError("nothing was pasted; copy names and values, or a grid with a heading, from a sheet first")
    if "rows" in answer and "paths" in answer:
        return _sweep(rows, answer)
    if "axes" in answer and "properties" in answer:
        return _table(rows, answer)
    return _list(rows, answer, phase)


def _heading(text: str) -> tuple[str, str]:
    words, unit = title_and_unit(text)
    return words.lower().replace("_", " "), unit


def _matches(words: str, key: str) -> bool:
    """Tell whether a heading means a key: its own words, its name, or its name with the phase."""
    name, of, _ = described(key)
    own = (key.lower().replace("_", " "), key_words(key), f"{of} {name}", f"{name} of {of}", title_of(key))
    return words in [text.lower() for text in own] or (words == name.lower() and of not in PHASES)


def _cell(text: str, unit: str, key: str) -> Cell:
    """Return a pasted value as the document keeps it: with its unit where one was written, percents as the fractions
    they are."""
    kind, _ = kind_of_key(key)
    percent = unit.endswith("%") or (not unit and "%" in text)
    if unit and (not fits(unit, kind) if kind else not percent):
        raise DomainError(f"'{unit}' is no unit of {key_words(key)}")
    if kind and unit:
        return united_cell(text, unit)
    cell = plain_cell(text)
    return cell / 100.0 if percent and isinstance(cell, (int, float)) else cell


def _number(cell: Cell, key: str) -> float | None:
    """Return a pasted value as a number in the unit of a key, None for an empty one."""
    try:
        return None if cell in EMPTY or cell is None else parse_as(key, cell)
    except QuantityError as error:
        raise DomainError(str(error)) from None


def _list(rows: Sequence[Sequence[str]], answer: Mapping[str, Any], phase: str) -> Pasted:
    """Return references of names and values, a third cell being the unit."""
    out = Pasted()
    known = [k for k, v in answer.items() if isinstance(v, (int, float)) and not isinstance(v, bool)]
    kinds = [str(p["kind"]) for p in answer.get("phases", ())]
    for kind in dict.fromkeys(kinds):
        known += [f"phases.{kind}.{k}" for k, v in value_at(answer, f"phases.{kind}").items() if isinstance(v, float)]
    composition: list[tuple[str, float]] = []
    skipped: list[str] = []
    for row in rows:
        words, rest = row[0], [*row[1:], "", ""]
        name, unit = _heading(words)
        value, own = rest[0], rest[1] or unit
        if name in (f"[{k}]" for k in kinds) or (name in kinds and not value):
            phase = name.strip("[]")
            continue
        try:
            # A value may bring its unit in its own cell.
            amount, written = split(value)
        except QuantityError:
            skipped.append(words)
            continue
        if written not in ("", "%"):
            value, own = f"{amount!r}", written
        key = next((k for k in known if _matches(name, k)), None)
        if key is not None:
            out.references[key] = _cell(value, own, key)
            continue
        try:
            composition.append((find(words).name, amount))
        except UnknownComponentError:
            skipped.append(words)
    if composition:
        _composition(composition, answer, phase or (kinds[0] if len(kinds) == 1 else ""), kinds, out)
    if not out.references:
        raise DomainError(
            f"none of the {len(rows)} pasted rows gives a value of this answer, which is a name and a number in each{did_you_mean(rows[0][0], known)}"
        )
    if skipped:
        out.told.append(f"{len(skipped)} of {len(rows)} rows name nothing of this answer: {', '.join(skipped[:4])}")
    return out


def _composition(
    found: list[tuple[str, float]], answer: Mapping[str, Any], phase: str, kinds: list[str], out: Pasted
) -> None:
    if phase not in kinds:
        raise DomainError(
            f"the answer has {' and '.join(kinds)}; say which phase the composition is of by a line with its name above it"
        )
    mine = value_at(answer, f"phases.{phase}.composition")
    foreign = [n for n, _ in found if n not in mine]
    if foreign:
        raise DomainError(
            f"{', '.join(foreign)}: the fluid has no such component{did_you_mean(foreign[0], list(mine))}"
        )
    total = sum(v for _, v in found)
    if total <= 0.0:
        raise DomainError("the pasted composition adds up to nothing")
    for name, value in found:
        out.references[f"phases.{phase}.composition.{name}"] = value / total
    scale = "1" if abs(total - 1.0) < 0.2 else "100 %" if abs(total - 100.0) < 20.0 else f"{total:.6g}"
    out.told.append(
        f"the pasted composition of the {phase} adds up to {total:.6g}; it was entered to make {scale} and is normalised"
    )


def _columns(heads: Sequence[str], keys: Sequence[str]) -> dict[int, tuple[str, str]]:
    """Return key and unit of every column of a grid that means one."""
    out: dict[int, tuple[str, str]] = {}
    for j, head in enumerate(heads):
        words, unit = _heading(head)
        key = next((k for k in keys if _matches(words, k)), None)
        if key is not None:
            out[j] = key, unit
    return out


def _sweep(rows: Sequence[Sequence[str]], answer: Mapping[str, Any]) -> Pasted:
    heads, body = _headed(rows)
    paths = list(answer["paths"])
    varied = [p.rpartition(".")[2] for p in answer["varied"]]
    columns = _columns(heads, paths)
    if not columns and len(heads) - len(varied) == len(paths):
        columns = {j + len(varied): (p, "") for j, p in enumerate(paths)}
    if not columns:
        raise DomainError(
            f"no heading of the pasted grid names a result of the sweep ({', '.join(map(key_words, paths))})"
        )
    out = Pasted()
    input_at = next((j for j, h in enumerate(heads) if _heading(h)[0] == varied[0].replace("_", " ")), None)
    if input_at is not None and len(varied) == 1:
        cells = [row[input_at] if input_at < len(row) else "" for row in body]
        wrong = next((i for i, c in enumerate(cells) if not is_number(c)), None)
        if wrong is not None:
            raise DomainError(
                f"row {wrong + 2} of the pasted grid has '{cells[wrong]}' for {heads[input_at]}, which is no value"
            )
        out.values = tuple(united_cell(c, _heading(heads[input_at])[1]) for c in cells)
    elif len(body) != len(answer["rows"]):
        raise DomainError(
            f"the pasted grid has {len(body)} rows and the sweep {len(answer['rows'])}; paste as many, or a column of the varied input too"
        )
    for j, (key, unit) in columns.items():
        place = paths.index(key)
        for i, row in enumerate(body):
            value = _number(_cell(row[j] if j < len(row) else "", unit, key), key)
            if value is not None:
                out.references[f"rows[{i}].read[{place}]"] = value
    out.told.append(f"{len(body)} rows of {', '.join(key_words(k) for k, _ in columns.values())} stand beside ours")
    return out


def _table(rows: Sequence[Sequence[str]], answer: Mapping[str, Any]) -> Pasted:
    axes, keys = answer["axes"], list(answer["properties"])
    out = Pasted()
    if len(axes) == 1:
        heads, body = _headed(rows)
        if len(body) != len(axes[0]):
            raise DomainError(f"the pasted grid has {len(body)} rows and the table {len(axes[0])}; paste as many")
        columns = _columns(heads, keys)
        if not columns:
            raise DomainError(
                f"no heading of the pasted grid names a property of the table ({', '.join(map(key_words, keys))})"
            )
        for j, (key, unit) in columns.items():
            out.references[f"properties.{key}"] = tuple(_cell(r[j] if j < len(r) else "", unit, key) for r in body)
        out.told.append(f"{len(body)} rows of {', '.join(key_words(k) for k, _ in columns.values())} stand beside ours")
        return out
    n, m = len(axes[0]), len(axes[1])
    title, unit = _heading(rows[0][0])
    key = next((k for k in keys if _matches(title, k)), keys[0])
    body = [list(r) for r in rows]
    # A row and a column of the axes' values may frame the numbers.
    if len(body) == n + 1 or (len(body) > n and not is_number(body[0][0])):
        body = body[-n:]
    if any(len(r) == m + 1 for r in body):
        body = [r[-m:] for r in body]
    if len(body) != n or any(len(r) != m for r in body):
        raise DomainError(
            f"the pasted grid has {len(body)} × {max(map(len, body))} numbers and the table {n} × {m}; paste as many"
        )
    for i, row in enumerate(body):
        out.references[f"properties.{key}[{i}]"] = tuple(_cell(c, unit, key) for c in row)
    out.told.append(f"{n} × {m} values of {key_words(key)} stand beside ours")
    return out


def _headed(rows: Sequence[Sequence[str]]) -> tuple[Sequence[str], Sequence[Sequence[str]]]:
    if len(rows) < 2 or not is_header(list(rows[0])):
        raise DomainError("the first row of a pasted grid names its columns, for example 'pressure (bar)'")
    return rows[0], rows[1:]
