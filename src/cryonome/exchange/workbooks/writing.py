"""Writing the results of a workbook: as a sheet put into it, every other part byte for byte as it was, or as a file
beside it."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from pathlib import Path
from xml.sax.saxutils import escape

from ...document.files import Signature, signature, write_atomic
from ..cells import ExchangeError, column_name
from ..writing import guarded, workbook
from .patching import Place, patched

Cells = list[list[float | str]]
Patches = dict[str, dict[Place, float | str]]
"""Values to put into cells of sheets, by the title of the sheet, row and column from 0."""

WORKBOOKS = (".xlsx", ".xlsm")
SHEET = "Cryonome results"
MARK = b"answered by Cryonome"
"""Stands in the foot of the sheet of results, so that a sheet of the user's own that is called so is never taken for
it."""
PART = "xl/worksheets/cryonome-results.xml"
_RELATION = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet"
_TYPE = "application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"
_MAIN = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
_IDENTITY = "rIdCryonomeResults"


def write_results(book: Path, cells: Cells, known: Signature | None, patches: Patches | None = None) -> Path:
    """Write the results of a workbook, with ``patches`` in cells of its own sheets, and return where they are;
    ``known`` is the workbook as it was read, which nobody may have saved since. Raises ExchangeError, OSError."""
    if book.suffix.lower() not in WORKBOOKS:
        return _beside(book, ".csv", _text(cells).encode("utf-8"))
    if is_open_elsewhere(book):
        return _beside(book, ".xlsx", workbook([(SHEET, cells)]))
    filled = with_sheet(book.read_bytes(), cells, patches or {})
    if signature(book) != known:
        raise ExchangeError(f"{book.name} was saved while it was answered; it may be being written by another program")
    write_atomic(book, filled)
    return book


def is_open_elsewhere(book: Path) -> bool:
    """Tell whether another program keeps the workbook open, by the marks such programs leave beside it."""
    return any((book.parent / mark).exists() for mark in (f"~${book.name}", f".~lock.{book.name}#"))


def _beside(book: Path, suffix: str, data: bytes) -> Path:
    target = book.with_name(f"{book.stem} results{suffix}")
    write_atomic(target, data)
    return target


def _text(cells: Cells) -> str:
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\n")
    for row in cells:
        writer.writerow([guarded(c) for c in row])
    return stream.getvalue()


def _sheet(cells: Cells) -> bytes:
    """Return the part of a worksheet; texts stand in it as texts, whatever they look like."""
    rows = []
    for r, row in enumerate(cells, start=1):
        told = []
        for c, value in enumerate(row):
            at = f"{column_name(c)}{r}"
            if isinstance(value, str):
                if value:
                    told.append(f'<c r="{at}" t="inlineStr"><is><t xml:space="preserve">{escape(value)}</t></is></c>')
            else:
                told.append(f'<c r="{at}"><v>{value!r}</v></c>')
        rows.append(f'<row r="{r}">{"".join(told)}</row>')
    head = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n'
    rows_text = "".join(rows)
    whose = f"<headerFooter><oddFooter>&amp;C{MARK.decode()}</oddFooter></headerFooter>"
    return f'{head}<worksheet xmlns="{_MAIN}"><sheetData>{rows_text}</sheetData>{whose}</worksheet>'.encode()


def with_sheet(data: bytes, cells: Cells, patches: Patches) -> bytes:
    """Return a workbook with the sheet of results in it, new or in the place of the last one, and ``patches`` in
    cells of its own sheets. Raises ExchangeError."""
    try:
        packed = zipfile.ZipFile(io.BytesIO(data))
        names = packed.namelist()
        book, relations, types = (
            packed.read(n).decode("utf-8")
            for n in ("xl/workbook.xml", "xl/_rels/workbook.xml.rels", "[Content_Types].xml")
        )
    except (KeyError, zipfile.BadZipFile, UnicodeDecodeError) as error:
        raise ExchangeError("the workbook is not one that results can be written to; save it as .xlsx again") from error
    changed: dict[str, str] = {}
    for sheet, values in patches.items():
        own = _part_of_sheet(sheet, book, relations)
        if own is None or own not in names:
            raise ExchangeError(f"the sheet '{sheet}' is not one that answers can be written to")
        changed[own] = patched(packed.read(own).decode("utf-8"), values)
    part = _part_of_sheet(SHEET, book, relations)
    if part is not None and part in names and part != PART and MARK not in packed.read(part):
        raise ExchangeError(f"a sheet is called '{SHEET}' and was not written by this program; give it another name")
    if part is None or part not in names:
        part = PART
        identity = 1 + max(map(int, re.findall(r'sheetId="(\d+)"', book)), default=0)
        prefix = _prefix(book)
        entry = f'<{_own(book)}sheet name="{SHEET}" sheetId="{identity}" {prefix}:id="{_IDENTITY}"/>'
        changed["xl/workbook.xml"] = _before(book, f"</{_own(book)}sheets>", entry)
        changed["xl/_rels/workbook.xml.rels"] = _before(
            relations, "</Relationships>", f'<Relationship Id="{_IDENTITY}" Type="{_RELATION}" Target="/{PART}"/>'
        )
        changed["[Content_Types].xml"] = _before(
            types, "</Types>", f'<Override PartName="/{PART}" ContentType="{_TYPE}"/>'
        )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
        for info in packed.infolist():
            if info.filename != part:
                target.writestr(info, changed.get(info.filename) or packed.read(info.filename))
        target.writestr(part, _sheet(cells))
    return out.getvalue()


def _part_of_sheet(title: str, book: str, relations: str) -> str | None:
    """Return the part of a sheet by its title, whatever another program called it, None without one."""
    # Names of sheets do not tell capitals apart.
    written = re.escape(escape(title, {'"': "&quot;"}))
    sheet = re.search(rf'<(?:\w+:)?sheet [^>]*name="{written}"[^>]*>', book, re.IGNORECASE)
    identity = re.search(r'\w+:id="([^"]+)"', sheet.group(0)) if sheet is not None else None
    if identity is None:
        return None
    for relation in re.findall(r"<Relationship [^>]*>", relations):
        if f'Id="{identity.group(1)}"' in relation:
            target = re.search(r'Target="([^"]+)"', relation)
            if target is not None:
                found = target.group(1)
                return found.removeprefix("/") if found.startswith("/") else f"xl/{found}"
    return None


def _own(book: str) -> str:
    """Return the prefix that the workbook's own elements have, with its colon; none is usual."""
    found = re.search(r"<(\w+:)?workbook\b", book)
    return (found.group(1) or "") if found else ""


def _prefix(book: str) -> str:
    """Return the prefix of relationships in a workbook, declaring nothing new."""
    found = re.search(r'xmlns:(\w+)="http://schemas.openxmlformats.org/officeDocument/2006/relationships"', book)
    if found is None:
        raise ExchangeError("the workbook names its sheets in a way that is not known here; save it as .xlsx again")
    return found.group(1)


def _before(text: str, mark: str, entry: str) -> str:
    at = text.rfind(mark)
    if at < 0:
        raise ExchangeError("the workbook is not one that results can be written to; save it as .xlsx again")
    return text[:at] + entry + text[at:]
