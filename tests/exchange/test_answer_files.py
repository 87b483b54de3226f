"""Answers as files: what a CSV or a workbook holds, read back by its heads and units, is the answer."""

from __future__ import annotations

import csv
import io
import json
import re

import numpy as np
import openpyxl
import pytest

from cryonome import open as open_text
from cryonome import open_demo
from cryonome.errors import DomainError
from cryonome.exchange.table_files import answer_sheets, csv_of, interpolation_text, write_answer
from cryonome.telling import Units
from cryonome.units import parse
from cryonome.units.endings import kind_of_key, without_unit

TESTS = ("Varnholt expansion", "Varnholt liberation", "Varnholt separators", "Varnholt swelling")


@pytest.fixture(scope="module")
def hub():
    return open_demo()


def head_of(text: str) -> tuple[str, str]:
    """Return name and unit of a column's head."""
    name, _, unit = text.partition(" (")
    return name, unit.removesuffix(")")


def read_back(value: object, unit: str, key: str) -> float:
    """Return a number of a file in the unit of a key of the answer."""
    kind, factor = kind_of_key(key)
    return float(value) if not kind or not unit else parse(f"{float(value)!r} {unit}", kind) / factor


@pytest.mark.parametrize("units", ["SI", "metric", "field"])
@pytest.mark.parametrize("name", TESTS)
def test_rows_read_back_by_their_heads_are_those_of_the_answer(hub, name, units):
    answer = hub.answer(name)
    heads, *rows = answer_sheets(answer, Units.of(units))["rows"]
    assert len(rows) == len(answer["rows"])
    columns = [head_of(h) for h in heads]
    checked = 0
    for told, row in zip(rows, answer["rows"]):
        for key, value in row.items():
            if not isinstance(value, float):
                continue
            own = without_unit(key).replace("_", " ")
            at = next(i for i, (n, _) in enumerate(columns) if n == own)
            assert read_back(told[at], columns[at][1], key) == pytest.approx(value, rel=1e-9), (key, columns[at])
            checked += 1
    assert checked >= 3 * len(rows)


@pytest.mark.parametrize("name", TESTS)
def test_single_numbers_stand_with_their_units_and_notes_at_the_end(hub, name):
    answer = hub.answer(name)
    sheets = answer_sheets(answer, Units.of("field"))
    assert list(sheets)[-1] == "notes"
    assert [row[0] for row in sheets["notes"]] == answer["notes"]
    told = {row[0]: row[1:] for row in sheets["values"][1:]}
    singles = {k: v for k, v in answer.items() if isinstance(v, float)}
    assert singles
    for key, value in singles.items():
        shown, unit = told[without_unit(key).replace("_", " ")]
        assert read_back(shown, unit, key) == pytest.approx(value, rel=1e-9), key


def test_a_workbook_and_a_csv_hold_the_same_cells(hub, tmp_path):
    answer = hub.answer("Varnholt liberation")
    for ending in (".csv", ".xlsx"):
        write_answer(tmp_path / f"a{ending}", answer, Units.of("metric"))
    book = openpyxl.load_workbook(tmp_path / "a.xlsx")
    lines = list(csv.reader(io.StringIO((tmp_path / "a.csv").read_text("utf-8-sig"))))
    at = 0
    for sheet in book.worksheets:
        if at:
            # Every table but the first stands below its title, with an empty row before.
            assert not any(lines[at])
            assert lines[at + 1][0] == sheet.title
            at += 2
        for row in sheet.iter_rows(values_only=True):
            for cell, text in zip(row, [*lines[at], *[""] * len(row)]):
                if isinstance(cell, (int, float)):
                    assert float(text) == pytest.approx(cell, rel=1e-12)
                else:
                    assert (cell or "") == text
            at += 1
    assert at == len(lines)


@pytest.fixture(scope="module")
def table():
    asked = {
        "name": "t", "kind": "table", "fluid": "gas", "properties": ["density_kg_m3", "liquid.fraction"],
        "axes": [{"variable": "temperature", "values": ["300 K", "290 K", "280 K"]}, {"variable": "pressure", "values": ["20 bar", "70 bar"]}],
    }  # fmt: skip
    parts = [{"component": c, "amount": a} for c, a in (("methane", 80), ("propane", 15), ("n-hexane", 5))]
    text = json.dumps({"format": "cryonome/1", "fluids": [{"name": "gas", "parts": parts}], "studies": [asked]})
    return open_text(text).answer("t")


def test_a_table_has_a_row_for_each_state_and_a_sheet_for_each_property(table):
    sheets = answer_sheets(table, Units.of("field"))
    heads, *rows = sheets["states"]
    assert len(rows) == 6
    grid = np.array(table["properties"]["density_kg_m3"], float)
    density = next(i for i, h in enumerate(heads) if h.lower().startswith("density"))
    unit = head_of(heads[density])[1]
    assert [read_back(r[density], unit, "density_kg_m3") for r in rows] == pytest.approx(grid.ravel().tolist(), rel=1e-9)  # fmt: skip
    (title,), corner, *lines = next(s for n, s in sheets.items() if n.lower().startswith("density"))
    assert title.endswith(f"({unit})")
    pressures = [parse(f"{p!r} psia", "pressure") for p in corner[1:]]
    assert pressures == pytest.approx(table["axes"][1], rel=1e-9)
    assert [[read_back(v, unit, "density_kg_m3") for v in line[1:]] for line in lines] == [pytest.approx(g, rel=1e-9) for g in grid.tolist()]  # fmt: skip
    # The states alone are the whole of a table: that is its CSV.
    assert csv_of(sheets, states_alone=True).count("\n") == 7
    # Where a phase is not there, a cell is empty.
    absent = [r for r in rows if None in r]
    assert len(absent) == int(np.isnan(np.array(table["properties"]["liquid.fraction"], float)).sum())


def test_an_interpolation_table_rises_along_its_axes_and_says_its_units(table):
    told = json.loads(interpolation_text(table))
    assert told["format"] == "cryonome-table/1"
    T, P = told["axes"]
    assert (T["unit"], P["unit"]) == ("K", "Pa")
    assert T["values"] == pytest.approx([280.0, 290.0, 300.0])
    found = {p["key"]: p for p in told["properties"]}
    assert found["density_kg_m3"]["unit"] == "kg/m**3"
    assert found["liquid.fraction"]["unit"] == ""
    turned = np.array(table["properties"]["density_kg_m3"], float)[::-1]
    assert np.array(found["density_kg_m3"]["values"], float) == pytest.approx(turned)


def test_what_cannot_be_written_is_told(hub, table, tmp_path):
    for name, answer, why in (
        ("a.txt", table, r"'\.txt' is no file a table is written to; there is \.csv, \.xlsx, \.json"),
        ("a.json", hub.answer("Varnholt expansion"), "an interpolation table is of a property table"),
        ("a.csv", {"ok": True, "notes": []}, "no numbers that could be written"),
    ):
        with pytest.raises(DomainError, match=why):
            write_answer(tmp_path / name, answer, Units.of("metric"))
        assert not (tmp_path / name).exists()
    assert re.search(r"Z", csv_of(answer_sheets(hub.answer("Varnholt expansion"), Units.of("metric"))))
