"""Spreadsheet files as rows of text, whatever was done to the file: bounded in size, and said in a sentence where it
cannot be."""

from __future__ import annotations

import codecs
import csv
import io
import re
import zipfile
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ..watch import UNWATCHED, Cancelled, Watch

Rows = list[list[str]]

MOST_BYTES = 20_000_000
"""Bytes of the largest file that is read."""

MOST_XML = 16_000_000
"""Bytes of the cells of a workbook, unpacked: beyond that nobody wrote a lab sheet."""

MOST_ROWS, MOST_COLUMNS = 20_000, 256
"""Rows and columns of a sheet that are read; what stands further off is told."""

FORMULA = ("=", "+", "-", "@", "\t")
"""What a spreadsheet takes for the beginning of a formula; text that begins so has an apostrophe before it in a CSV
file."""

OTHERS = {
    ".xls": "an old workbook",
    ".ods": "an OpenDocument sheet",
    ".pdf": "a PDF",
    ".doc": "a text document",
    ".docx": "a text document",
}


class Exact(str):
    """The text of a number that a workbook holds as a number: no style of writing applies to it."""


class ExchangeError(ValueError):
    """A file that holds nothing that is read; the message says why."""


@dataclass
class Sheet:
    """A sheet: its name, its rows, and the sentences about what could not be read of it."""

    name: str
    rows: Rows = field(default_factory=list)
    told: list[str] = field(default_factory=list)


def read_sheets(path: Path, watch: Watch = UNWATCHED) -> list[Sheet]:
    """Return the sheets of a CSV or XLSX file. Raises ExchangeError, OSError, Cancelled."""
    size = path.stat().st_size
    if size > MOST_BYTES:
        raise ExchangeError(f"{path.name} has {size / 1e6:.0f} MB; a lab sheet has less than {MOST_BYTES / 1e6:.0f} MB")
    suffix = path.suffix.lower()
    if suffix in OTHERS:
        raise ExchangeError(f"{path.name} is {OTHERS[suffix]}; save it as .xlsx or .csv")
    data = path.read_bytes()
    if suffix in (".xlsx", ".xlsm") or data[:4] == b"PK\x03\x04":
        return _workbook(path.name, data, watch)
    return [csv_sheet(data, path.stem)]


# -- text
# ---------------------------------------------------------------------------------------------------------------

_MARKS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))


def _decoded(data: bytes, name: str) -> str:
    for mark, encoding in _MARKS:
        if data.startswith(mark):
            return data.decode(encoding, errors="replace")
    head = data[:4000]
    if head.count(0) > len(head) // 4:
        # Every other byte of plain text in UTF-16 is zero.
        return data.decode("utf-16-le" if head[1::2].count(0) > head[::2].count(0) else "utf-16-be", errors="replace")
    strange = sum(b < 32 and b not in (9, 10, 11, 12, 13) for b in head)
    if strange > len(head) // 20:
        raise ExchangeError(f"{name} is not a text; save the sheet as .xlsx or .csv")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")


def csv_sheet(data: bytes | str, name: str) -> Sheet:
    """Return comma-, semicolon- or tab-separated text as a sheet. Raises ExchangeError."""
    text = _decoded(data, name) if isinstance(data, bytes) else data
    text = text.replace("\r\n", "\n").replace("\r", "\n").replace("\x00", "")
    sheet = Sheet(name)
    head = text.split("\n", 80)[:80]
    # A comma may be a decimal one where semicolons part the cells.
    filled = sum(bool(s.strip()) for s in head)
    mark = next((m for m in ("\t", ";", "|") if sum(m in line for line in head) >= 0.3 * filled), ",")
    if mark == "," and sum(bool(_GAP.search(line)) for line in head) >= max(2.0, 0.5 * filled):
        for row in aligned(text.split("\n")[:MOST_ROWS]):
            _keep(sheet, len(sheet.rows), row)
        return sheet
    quoted = text.count('"') % 2 == 0
    if not quoted:
        sheet.told.append("a quotation mark is opened and never closed; quotation marks are read as they stand")
    stream = io.StringIO(text, newline="")
    try:
        plain = (
            csv.reader(stream, delimiter=mark) if quoted else csv.reader(stream, delimiter=mark, quoting=csv.QUOTE_NONE)
        )
        for row in plain:
            _keep(sheet, len(sheet.rows), [_unguarded(c.strip()) for c in row])
            if len(sheet.rows) >= MOST_ROWS:
                sheet.told.append(f"only the first {MOST_ROWS} rows are read")
                break
    except csv.Error as error:
        raise ExchangeError(f"{name}, line {len(sheet.rows) + 1}: {error}") from None
    return sheet


_GAP = re.compile(r"\S {2,}\S")


def aligned(lines: list[str]) -> Rows:
    """Return the cells of text whose columns stand below one another, apart by two spaces or more, also where a cell
    is left blank."""
    rows: Rows = []
    block: list[str] = []

    def close() -> None:
        width = max((len(line) for line in block), default=0)
        blank = [all(k >= len(line) or line[k] == " " for line in block) for k in range(width)]
        starts = [k for k in range(width) if not blank[k] and (k == 0 or (blank[k - 1] and (k == 1 or blank[k - 2])))]
        for line in block:
            rows.append([line[a:b].strip() for a, b in zip(starts, [*starts[1:], None])])
        block.clear()

    for line in (one.expandtabs(8).rstrip() for one in lines):
        if _GAP.search(line.strip()) or (block and line.startswith("   ") and line.strip()):
            block.append(line)
            continue
        close()
        rows.append([line.strip()] if line.strip() else [])
    close()
    return rows


def _unguarded(cell: str) -> str:
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(FORMULA) else cell


def _keep(sheet: Sheet, number: int, cells: list[str]) -> None:
    """Put a row of texts at its place; what stands too far to the right is told."""
    if len(cells) > MOST_COLUMNS:
        if any(cells[MOST_COLUMNS:]):
            sheet.told.append(
                f"row {number + 1} has cells beyond column {column_name(MOST_COLUMNS - 1)}, which are not read"
            )
        cells = cells[:MOST_COLUMNS]
    while cells and not cells[-1]:
        cells.pop()
    while len(sheet.rows) < number:
        sheet.rows.append([])
    sheet.rows.append([c if len(c) <= 1000 else f"{c[:999]}…" for c in cells])


# -- workbooks
# ------------------------------------------------------------------------------------------------------------


def _workbook(name: str, data: bytes, watch: Watch) -> list[Sheet]:
    damaged = ExchangeError(f"{name} is not a workbook that can be read; save it as .xlsx again")
    sheets: list[Sheet] = []
    try:
        far = bounded(name, data)
        import openpyxl

        book = openpyxl.load_workbook(io.BytesIO(data), data_only=True, read_only=True)
        for k, source in enumerate(book.worksheets):
            watch.at(k / len(book.worksheets))
            sheet = Sheet(str(source.title))
            sheets.append(sheet)
            for number, row in enumerate(source.iter_rows(max_row=MOST_ROWS, max_col=MOST_COLUMNS)):
                if not number % 500:
                    watch.check()
                if any(c.value is not None for c in row):
                    _keep(
                        sheet, number, [cell_text(c.value, c.number_format if c.value is not None else "") for c in row]
                    )
            if k < len(far) and far[k]:
                sheet.told.append(far[k])
        book.close()
    except (ExchangeError, Cancelled):
        raise
    except Exception as error:  # openpyxl raises whatever it stumbles over in a damaged file
        raise damaged from error
    return sheets


_REFERENCE = re.compile(rb'<c [^>]*?r="(?:[A-Z]{3}|[J-Z][A-Z]|I[W-Z])\d+"')
_LAST_ROW = re.compile(rb'<row [^>]*?r="(\d+)"')


def bounded(name: str, data: bytes) -> list[str]:
    """Look at a workbook before it is unpacked; return for every sheet a sentence where cells stand too far off to be
    read; sizes are looked at before anything is unpacked. Raises ExchangeError."""
    far: list[str] = []
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        parts = packed.infolist()
        cells = sum(
            p.file_size for p in parts if p.filename.startswith(("xl/worksheets/", "xl/sharedStrings", "xl/styles"))
        )
        if cells > MOST_XML or sum(p.file_size for p in parts) > 10 * MOST_XML or len(parts) > 2000:
            raise ExchangeError(
                f"{name} unpacks to {cells / 1e6:.0f} MB of cells; a lab sheet has less than {MOST_XML / 1e6:.0f} MB"
            )
        for part in parts:
            if part.filename.startswith("xl/worksheets/") and part.filename.endswith(".xml"):
                with packed.open(part) as stream:
                    text = stream.read(part.file_size + 1)
                if b"<!DOCTYPE" in text[:2000] or b"<!ENTITY" in text:
                    raise ExchangeError(f"{name} holds definitions that no workbook needs; save it as .xlsx again")
                rows = _LAST_ROW.findall(text[-20_000:])
                too_low, too_wide = bool(rows) and int(rows[-1]) > MOST_ROWS, bool(_REFERENCE.search(text))
                bounds = [f"row {MOST_ROWS}"] * too_low + [f"column {column_name(MOST_COLUMNS - 1)}"] * too_wide
                far.append(f"cells beyond {' and '.join(bounds)} are not read" if bounds else "")
    return far


def cell_text(value: Any, number_format: str = "") -> str:
    """Return the value of a workbook's cell as a person would write it: percentages as such, never a formula."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value)
    if isinstance(value, (int, float)):
        if "%" in number_format:
            return f"{100.0 * value:.12g} %"
        short = f"{value:.15g}"
        return Exact(short if float(short) == value else repr(float(value)))
    return str(value).strip()


def column_name(column: int) -> str:
    """Return the letters of a column, from 0."""
    name = ""
    column += 1
    while column:
        column, rest = divmod(column - 1, 26)
        name = chr(65 + rest) + name
    return name
