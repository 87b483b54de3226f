"""Numbers put into cells of a sheet of a workbook, everything else of the sheet as it was: its text is changed, not
read and written anew."""

from __future__ import annotations

import re
from collections.abc import Mapping
from html import escape

from ..cells import ExchangeError, column_name

Place = tuple[int, int]
"""Row and column, from 0."""

_ROW = re.compile(r"<((?:\w+:)?)row\b([^>]*?)(/>|>(.*?)</(?:\w+:)?row>)", re.DOTALL)
_CELL = re.compile(r"<((?:\w+:)?)c\b([^>]*?)(?:/>|>(.*?)</(?:\w+:)?c>)", re.DOTALL)
_AT = re.compile(r'\br="([A-Z]*)(\d+)"')


def patched(sheet: str, values: Mapping[Place, float | str]) -> str:
    """Return the text of a worksheet with values in cells, of which each keeps its looks. A cell that holds a formula
    is refused, with its place. Raises ExchangeError."""
    waiting: dict[int, dict[int, float | str]] = {}
    for (row, column), value in values.items():
        waiting.setdefault(row, {})[column] = value
    own = re.search(r"<((?:\w+:)?)sheetData\b[^>]*?(/>|>)", sheet)
    if own is None:
        raise ExchangeError("the sheet is not one that answers can be written to; save the workbook as .xlsx again")
    prefix = own.group(1)
    if own.group(2) == "/>":
        sheet = f"{sheet[: own.start()]}<{prefix}sheetData></{prefix}sheetData>{sheet[own.end() :]}"
    begin = sheet.index(">", own.start()) + 1
    end = sheet.index(f"</{prefix}sheetData>", begin)
    body, out, last, at = sheet[begin:end], [], 0, -1
    for found in _ROW.finditer(body):
        number = _AT.search(found.group(2))
        at = int(number.group(2)) - 1 if number is not None else at + 1
        out.append(body[last : found.start()])
        for row in sorted(r for r in waiting if r < at):
            out.append(_row(prefix, row, waiting.pop(row)))
        inside = found.group(4) or ""
        if at in waiting:
            inside = _with_cells(inside, prefix, at, waiting.pop(at))
            out.append(f"<{prefix}row{found.group(2)}>{inside}</{prefix}row>")
        else:
            out.append(found.group(0))
        last = found.end()
    for row in sorted(waiting):
        out.append(_row(prefix, row, waiting[row]))
    out.append(body[last:])
    # A stated size would be too small for new cells; it may be left out.
    head = re.sub(r"<(?:\w+:)?dimension\b[^>]*/>", "", sheet[:begin])
    return head + "".join(out) + sheet[end:]


def _row(prefix: str, row: int, cells: Mapping[int, float | str]) -> str:
    inside = "".join(_cell(prefix, row, c, cells[c], "") for c in sorted(cells))
    return f'<{prefix}row r="{row + 1}">{inside}</{prefix}row>'


def _with_cells(inside: str, prefix: str, row: int, cells: dict[int, float | str]) -> str:
    out, last, at = [], 0, -1
    waiting = dict(cells)
    for found in _CELL.finditer(inside):
        place = _AT.search(found.group(2))
        at = _number(place.group(1)) if place is not None and place.group(1) else at + 1
        out.append(inside[last : found.start()])
        for column in sorted(c for c in waiting if c < at):
            out.append(_cell(prefix, row, column, waiting.pop(column), ""))
        if at in waiting:
            if re.search(r"<(?:\w+:)?f\b", found.group(3) or ""):
                raise ExchangeError(
                    f"{column_name(at)}{row + 1} holds a formula; answers are written beside it only where the cells are free"
                )
            style = re.search(r'\bs="\d+"', found.group(2))
            out.append(_cell(prefix, row, at, waiting.pop(at), f" {style.group(0)}" if style is not None else ""))
        else:
            out.append(found.group(0))
        last = found.end()
    for column in sorted(waiting):
        out.append(_cell(prefix, row, column, waiting[column], ""))
    return "".join(out) + inside[last:]


def _number(letters: str) -> int:
    out = 0
    for letter in letters:
        out = 26 * out + ord(letter) - 64
    return out - 1


def _cell(prefix: str, row: int, column: int, value: float | str, style: str) -> str:
    at = f"{column_name(column)}{row + 1}"
    if value == "":
        return f'<{prefix}c r="{at}"{style}/>'
    if isinstance(value, str):
        text = f'<{prefix}is><{prefix}t xml:space="preserve">{escape(value)}</{prefix}t></{prefix}is>'
        return f'<{prefix}c r="{at}"{style} t="inlineStr">{text}</{prefix}c>'
    return f'<{prefix}c r="{at}"{style}><{prefix}v>{value!r}</{prefix}v></{prefix}c>'
