"""The ranges of a workbook that mean something, as rows of text with their place: named in a workbook, under a title
in a CSV file.

Formulas are never evaluated: a workbook keeps the value its own program last computed beside them, and that is what
is read."""

from __future__ import annotations

import io
import re
from dataclasses import dataclass
from pathlib import Path

from ..cells import MOST_BYTES, MOST_COLUMNS, MOST_ROWS, ExchangeError, Rows, bounded, cell_text, column_name, csv_sheet
from .writing import WORKBOOKS

KINDS = ("composition", "states", "properties", "model", "answers", "beside")
"""What a range may be, by the beginning of its name: ``states_gas`` belongs to the fluid ``gas``."""

_TITLE = re.compile(r"^\[([A-Za-z][\w .-]*)\]$")


@dataclass(frozen=True)
class NamedRange:
    """A range: its ``kind`` of :data:`KINDS`, the fluid's ``name`` ("" where it names none), its rows of text, and
    where its first cell stands: sheet, row and column from 0. ``formulas`` are the cells that hold one without a
    value."""

    kind: str
    name: str
    rows: Rows
    sheet: str
    row: int
    column: int
    formulas: tuple[str, ...] = ()

    def place(self, row: int, column: int) -> str:
        """Return where a cell of the range stands, as a spreadsheet writes it."""
        at = f"{column_name(self.column + column)}{self.row + row + 1}"
        return f"{self.sheet}!{at}" if self.sheet else at


def kind_of(title: str) -> tuple[str, str] | None:
    """Return kind and fluid of a range's name, None where it means nothing here."""
    plain = title.strip()
    for kind in KINDS:
        if plain.lower() == kind:
            return kind, ""
        if plain.lower().startswith((f"{kind}_", f"{kind} ", f"{kind}.")):
            return kind, plain[len(kind) + 1 :].strip()
    return None


def read_ranges(path: Path) -> list[NamedRange]:
    """Return the ranges of a workbook or a CSV file. Raises ExchangeError, OSError."""
    size = path.stat().st_size
    if size > MOST_BYTES:
        raise ExchangeError(f"{path.name} has {size / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are read")
    data = path.read_bytes()
    if not data:
        raise ExchangeError(f"{path.name} is empty; it may be being written by another program")
    if data[:4] == b"PK\x03\x04":
        return _of_workbook(path.name, data)
    if path.suffix.lower() in WORKBOOKS:
        raise ExchangeError(f"{path.name} is not a whole workbook; it may be being written by another program")
    return _of_text(data, path.name)


def _of_workbook(name: str, data: bytes) -> list[NamedRange]:
    import openpyxl
    from openpyxl.utils import range_boundaries

    try:
        bounded(name, data)
        values = openpyxl.load_workbook(io.BytesIO(data), data_only=True)
        written = openpyxl.load_workbook(io.BytesIO(data), data_only=False)
    except ExchangeError:
        raise
    except Exception as error:  # openpyxl raises whatever it stumbles over in a damaged file
        raise ExchangeError(
            f"{name} is not a workbook that can be read; it may be being written by another program"
        ) from error
    named = [(title, defined) for title, defined in values.defined_names.items()]
    named += [pair for sheet in values.worksheets for pair in sheet.defined_names.items()]
    out: list[NamedRange] = []
    for title, defined in named:
        known = kind_of(str(title))
        if known is None:
            continue
        for sheet, where in defined.destinations:
            if sheet not in values.sheetnames:
                raise ExchangeError(f"{name}: the range {title} points to a sheet that is not there")
            left, top, right, bottom = range_boundaries(where.replace("$", ""))
            if None in (left, top, right, bottom) or bottom - top >= MOST_ROWS or right - left >= MOST_COLUMNS:
                raise ExchangeError(f"{name}: the range {title} has no end; name the cells that are filled")
            rows: Rows = []
            formulas: list[str] = []
            for r in range(top, bottom + 1):
                cells = []
                for c in range(left, right + 1):
                    value, source = values[sheet].cell(r, c), written[sheet].cell(r, c).value
                    if isinstance(source, str) and source.startswith("=") and value.value is None:
                        formulas.append(f"{sheet}!{column_name(c - 1)}{r}")
                    cells.append(cell_text(value.value, value.number_format if value.value is not None else ""))
                rows.append(cells)
            out.append(NamedRange(*known, rows, sheet, top - 1, left - 1, tuple(formulas)))
    return out


def _of_text(data: bytes, name: str) -> list[NamedRange]:
    """Return the ranges of a text: each begins below a line ``[states_gas]`` and ends before an empty one."""
    sheet = csv_sheet(data, name)
    out: list[NamedRange] = []
    at = 0
    while at < len(sheet.rows):
        row = sheet.rows[at]
        found = _TITLE.match(row[0].strip()) if row and not any(row[1:]) else None
        known = kind_of(found.group(1)) if found is not None else None
        at += 1
        if known is None:
            continue
        first = at
        while at < len(sheet.rows) and any(sheet.rows[at]) and not _TITLE.match(sheet.rows[at][0].strip()):
            at += 1
        rows = sheet.rows[first:at]
        width = max((len(r) for r in rows), default=0)
        out.append(NamedRange(*known, [r + [""] * (width - len(r)) for r in rows], "", first, 0))
    return out
