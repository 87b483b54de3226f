"""Numbers put into a sheet as text: read back by another program's reader, everything else of the sheet is as it was."""

from __future__ import annotations

import io
import zipfile

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.exchange.cells import ExchangeError
from cryonome.exchange.workbooks.patching import patched

PLACE = st.tuples(st.integers(0, 40), st.integers(0, 60))
CELL = st.one_of(
    st.integers(-99, 99), st.floats(-1e9, 1e9), st.text("abc <&>\"'é", min_size=1, max_size=8), st.booleans()
)
SHEET = "xl/worksheets/sheet1.xml"


def saved(cells: dict[tuple[int, int], object], bold: bool = False) -> bytes:
    """Return a workbook with cells, row and column from 0."""
    book = openpyxl.Workbook()
    for (row, column), value in cells.items():
        cell = book.active.cell(row + 1, column + 1, value)
        cell.font = openpyxl.styles.Font(bold=bold)
    stream = io.BytesIO()
    book.save(stream)
    return stream.getvalue()


def changed(data: bytes, values: dict[tuple[int, int], float | str]) -> bytes:
    """Return a workbook with values patched into its sheet."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            part = old.read(name)
            new.writestr(name, patched(part.decode(), values) if name == SHEET else part)
    return out.getvalue()


def read(data: bytes) -> dict[tuple[int, int], object]:
    """Return the filled cells of a workbook."""
    sheet = openpyxl.load_workbook(io.BytesIO(data)).active
    return {(c.row - 1, c.column - 1): c.value for row in sheet.iter_rows() for c in row if c.value is not None}


@given(
    st.dictionaries(PLACE, CELL, max_size=12),
    st.dictionaries(PLACE, st.one_of(st.floats(-1e9, 1e9), st.just("")), max_size=12),
)
def test_what_is_put_in_is_there_and_the_rest_as_it_was(cells, values):
    cells = {k: v for k, v in cells.items() if not (isinstance(v, str) and v.startswith("="))}
    before = read(saved(cells))
    after = read(changed(saved(cells), values))
    assert after == {k: v for k, v in {**before, **values}.items() if v != ""}
    # Once more changes nothing.
    assert read(changed(changed(saved(cells), values), values)) == after


def test_looks_stay_and_formulas_are_refused():
    data = changed(saved({(1, 1): 5.0}, bold=True), {(1, 1): 7.0})
    cell = openpyxl.load_workbook(io.BytesIO(data)).active.cell(2, 2)
    assert (cell.value, cell.font.bold) == (7.0, True)
    with pytest.raises(ExchangeError, match="B2 holds a formula"):
        changed(saved({(1, 1): "=A1+1"}), {(1, 1): 7.0})
