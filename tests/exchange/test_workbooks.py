"""Workbooks answered by their named ranges: the numbers, what stays as it was, and every bad cell in a sentence."""

from __future__ import annotations

import json
import zipfile

import openpyxl
import pytest
from openpyxl.chart import LineChart, Reference
from openpyxl.workbook.defined_name import DefinedName
from typer.testing import CliRunner

from cryonome.cli import app
from cryonome.document import parse_document
from cryonome.exchange.cells import ExchangeError
from cryonome.exchange.workbooks import fill, writing
from cryonome.exchange.workbooks.ranges import read_ranges
from cryonome.exchange.workbooks.writing import PART, SHEET
from cryonome.questions import solve

PARTS = [["component", "wt%"], ["methane", 60], ["C3", 20], ["nC4", 10], ["n-decane", 10]]
STATES = [["temperature (degC)", "remark", "pressure (bar)"], [20, "inlet", 30], [40, "", 60], [400, "hot", 10]]


def book(path, parts=PARTS, states=STATES, names=("composition_oil", "states_oil"), chart=False):
    """Write a workbook with its ranges named and return its path."""
    whole = openpyxl.Workbook()
    sheet = whole.active
    sheet.title = "Input"
    for i, row in enumerate(parts, 1):
        for j, cell in enumerate(row, 1):
            sheet.cell(i, j, cell)
    for i, row in enumerate(states, 1):
        for j, cell in enumerate(row, 4):
            sheet.cell(i, j, cell)
    places = (f"Input!$A$1:$B${len(parts)}", f"Input!$D$1:$F${len(states)}")
    for name, where in zip(names, places):
        whole.defined_names[name] = DefinedName(name, attr_text=where)
    if chart:
        picture = LineChart()
        picture.add_data(Reference(sheet, min_col=4, min_row=1, max_row=4))
        sheet.add_chart(picture, "H2")
    whole.save(path)
    return path


def results(path) -> list[list]:
    return [list(row) for row in openpyxl.load_workbook(path)[SHEET].iter_rows(values_only=True)]


def test_answers_are_those_of_the_command_line_and_every_other_part_is_as_it_was(tmp_path):
    path = book(tmp_path / "field.xlsx", chart=True)
    before = {n: zipfile.ZipFile(path).read(n) for n in zipfile.ZipFile(path).namelist()}
    assert (fill(path).states, fill(path).failed) == (3, 0)
    after = zipfile.ZipFile(path)
    assert after.testzip() is None
    assert [n for n in after.namelist() if n not in before] == [PART]
    listed = {"xl/workbook.xml", "xl/_rels/workbook.xml.rels", "[Content_Types].xml"}
    assert all(after.read(n) == data for n, data in before.items() if n not in listed)
    head, *rows = results(path)[4:8]
    assert results(path)[0][0] == "Cryonome results"
    parts = [{"component": c, "amount": a} for c, a in PARTS[1:]]
    asked = {"format": "cryonome/1", "fluids": [{"name": "oil", "basis": "mass", "parts": parts}], "studies": [
        {"name": str(t), "kind": "flash", "fluid": "oil", "temperature": f"{t} degC", "pressure": f"{p} bar"}
        for t, _, p in STATES[1:]]}  # fmt: skip
    answers = solve(parse_document(json.dumps(asked)))["answers"]
    for row, (t, _, p) in zip(rows, STATES[1:]):
        told, ours = dict(zip(head, row)), answers[str(t)]
        assert (told["temperature (degC)"], told["pressure (bar)"]) == (t, p)
        assert told["Density (kg/m³)"] == pytest.approx(ours["density_kg_m3"], rel=1e-10)
        assert told["Vapour fraction"] == pytest.approx(ours["vapour_fraction"], rel=1e-10)
        assert told["Enthalpy (kJ/mol)"] == pytest.approx(ours["enthalpy_J_mol"] / 1e3, rel=1e-10)
        # Where there is no liquid its cell is empty.
        assert (told["Density of the liquid (kg/m³)"] is None) == (len(ours["phases"]) == 1)


def test_results_go_to_their_sheet_after_another_program_saved_it_and_beside_an_open_workbook(tmp_path):
    path = book(tmp_path / "field.xlsx")
    fill(path)
    again = openpyxl.load_workbook(path)
    again["Input"]["D2"] = 30
    again.save(path)
    fill(path)
    assert openpyxl.load_workbook(path).sheetnames == ["Input", SHEET]
    assert results(path)[5][0] == 30
    data = path.read_bytes()
    (tmp_path / "~$field.xlsx").touch()
    found = fill(path)
    assert found.output == tmp_path / "field results.xlsx"
    assert path.read_bytes() == data
    assert any("open in another program" in t for t in found.told)
    assert results(found.output)[5][0] == 30


def test_a_text_is_answered_beside_itself(tmp_path):
    path = tmp_path / "gas.csv"
    path.write_text(
        "[composition]\nmethane,90\nethane,10\n\n[properties]\ndensity_kg_m3\nvapour viscosity\n\n[states]\nT (degF),P (psia)\n68,500\n86,1000\n"
    )
    data = path.read_bytes()
    assert CliRunner().invoke(app, ["fill", str(path), "--units", "field"]).exit_code == 0
    assert path.read_bytes() == data
    lines = (tmp_path / "gas results.csv").read_text().splitlines()
    assert lines[4] == "T (degF),P (psia),Density (lb/ft³),Viscosity of the vapour (cP),note"
    asked = {"format": "cryonome/1", "fluids": [{"name": "g", "parts": [{"component": "methane", "amount": 90}, {"component": "ethane", "amount": 10}]}],
             "studies": [{"name": "s", "kind": "flash", "fluid": "g", "temperature": "68 degF", "pressure": "500 psia"}]}  # fmt: skip
    density = solve(parse_document(json.dumps(asked)))["answers"]["s"]["density_kg_m3"]
    assert float(lines[5].split(",")[2]) == pytest.approx(density / 16.018463373960138, rel=1e-9)


def test_bad_cells_are_told_by_their_place_and_the_rest_is_answered(tmp_path):
    states = [STATES[0], [20, "", 30], ["hot", "", 30], [30, "", "=10*2"], ["", "", ""], [20, "", -5]]
    path = book(tmp_path / "b.xlsx", states=states)
    found = fill(path)
    assert (found.states, found.failed) == (4, 3)
    assert [t.partition(":")[0] for t in found.told] == ["Input!D3", "Input!F4", "Input!F6"]
    assert "formula" in found.told[1]
    rows = results(path)[5:10]
    assert [bool(r[2]) for r in rows] == [True, False, False, False, False]


@pytest.mark.parametrize(
    ("parts", "states", "names", "told"),
    [
        (PARTS, STATES, ("composition_oil", "remarks"), "no range named states"),
        ([["component", "mol%"], ["metane", 3]], STATES, ("composition", "states"), "Input!A2: "),
        ([["component", "mol%"], ["methane", "some"]], STATES, ("composition", "states"), "'some' is no amount"),
        ([["component", "mol%"], ["methane", "=1+1"]], STATES, ("composition", "states"), "Input!B2: holds a formula"),
        (PARTS, [["temperature (degC)", "", "colour"], [1, 2, 3]], ("composition", "states"), "exactly two conditions"),
        (PARTS, STATES, ("composition_oil", "states_gas"), "unknown fluid 'gas'"),
        (PARTS, STATES, ("remarks", "states_gas"), "there is no fluid"),
    ],
)
def test_ranges_that_cannot_be_asked_are_refused(tmp_path, parts, states, names, told):
    path = book(tmp_path / "b.xlsx", parts, states, names)
    data = path.read_bytes()
    done = CliRunner().invoke(app, ["fill", str(path)])
    assert done.exit_code == 2
    assert told in done.stderr
    assert path.read_bytes() == data


def test_a_workbook_saved_while_it_is_answered_is_left_to_who_saved_it(tmp_path, monkeypatch):
    path = book(tmp_path / "b.xlsx")
    theirs = (tmp_path / "theirs.xlsx", [STATES[0], [99, "", 9]])
    book(theirs[0], states=theirs[1])
    made = writing.with_sheet

    def slow(data, cells, patches):
        path.write_bytes(theirs[0].read_bytes())
        return made(data, cells, patches)

    monkeypatch.setattr(writing, "with_sheet", slow)
    with pytest.raises(ExchangeError, match="being written"):
        fill(path)
    assert path.read_bytes() == theirs[0].read_bytes()


def test_half_a_workbook_is_told_to_be_one(tmp_path):
    path = book(tmp_path / "b.xlsx")
    for size in (0, 100, len(path.read_bytes()) // 2):
        half = tmp_path / "half.xlsx"
        half.write_bytes(path.read_bytes()[:size])
        with pytest.raises(ExchangeError, match="being written"):
            read_ranges(half)


def named(path, sheet="Input", **ranges):
    """Name further ranges of a workbook and fill them with rows."""
    whole = openpyxl.load_workbook(path)
    for name, (at, rows) in ranges.items():
        first = whole[sheet][at]
        for i, row in enumerate(rows):
            for j, cell in enumerate(row):
                whole[sheet].cell(first.row + i, first.column + j, cell)
        last = whole[sheet].cell(first.row + len(rows) - 1, first.column + max(map(len, rows)) - 1).coordinate
        whole.defined_names[name] = DefinedName(name, attr_text=f"{sheet}!${at[0]}${at[1:]}:${last[0]}${last[1:]}")
    whole.save(path)
    return path


def test_one_word_writes_whole_compositions_and_all_phases(tmp_path):
    path = named(book(tmp_path / "words.xlsx"), properties=("H1", [["composition"], ["phases"]]))
    fill(path)
    rows = results(path)
    at = next(i for i, r in enumerate(rows) if r[0] == "fluid: oil")
    heads, first = rows[at + 1], rows[at + 2]
    vapour = [v for h, v in zip(heads, first) if h and h.startswith("Mole fraction of") and "vapour" in h]
    liquid = [v for h, v in zip(heads, first) if h and h.startswith("Mole fraction of") and "liquid" in h]
    assert (len(vapour), len(liquid)) == (4, 4) or len(vapour + liquid) == 8
    assert any("ensity" in str(h) for h in heads)
    # The feed as it was read, its sum, and what is computed with.
    feed = next(i for i, r in enumerate(rows) if r[0] == "feed: oil")
    total = next(r for r in rows[feed:] if r[0] == "sum")
    assert total[1:4] == pytest.approx([100.0, 100.0, 100.0])
    assert [r[3] for r in rows[feed + 2 : feed + 6]] == pytest.approx([60.0, 20.0, 10.0, 10.0])


def test_answers_stand_beside_their_inputs_in_the_units_of_their_headings(tmp_path):
    wanted = [["density (lb/ft3)", "vapour fraction", "liquid speed of sound"], [1, "old"], ["", ""], [7, 7]]
    path = named(book(tmp_path / "beside.xlsx", chart=True), beside_oil=("H1", wanted))
    before = {n: zipfile.ZipFile(path).read(n) for n in zipfile.ZipFile(path).namelist()}
    assert fill(path).failed == 0
    assert fill(path).failed == 0
    sheet = openpyxl.load_workbook(path)["Input"]
    rows = results(path)
    at = next(i for i, r in enumerate(rows) if r[0] == "fluid: oil")
    density = rows[at + 1].index("Density (kg/m³)")
    for k in range(3):
        assert sheet.cell(2 + k, 8).value == pytest.approx(rows[at + 2 + k][density] / 16.018463373960142, rel=1e-9)
        assert 0.0 <= sheet.cell(2 + k, 9).value <= 1.0
    # What is asked beside alone is beside alone: heads and numbers of the sheet of results stay together.
    assert len([c for c in rows[at + 1] if c is not None]) == 13
    assert all(len(r) == len(rows[at + 1]) for r in rows[at + 1 : at + 5])
    assert sheet.cell(2, 10).value > 100.0
    # Nothing else of that sheet has changed, and no other part.
    assert [[c.value for c in r[:6]] for r in sheet.iter_rows(max_row=4)][1:] == [
        [*(PARTS[i] if i < len(PARTS) else [None] * 2), None, *(s if s != "" else None for s in STATES[i])]
        for i in (1, 2, 3)
    ]
    after = zipfile.ZipFile(path)
    same = [n for n, data in before.items() if after.read(n) == data]
    assert {n for n in before if n not in same} <= {
        "xl/workbook.xml",
        "xl/_rels/workbook.xml.rels",
        "[Content_Types].xml",
        "xl/worksheets/sheet1.xml",
    }


def test_a_formula_beside_the_states_is_never_written_over(tmp_path):
    path = named(book(tmp_path / "formula.xlsx"), beside_oil=("H1", [["density"], [1], ["=1+1"], [3]]))
    before = path.read_bytes()
    with pytest.raises(ExchangeError, match="H3 holds a formula"):
        fill(path)
    assert path.read_bytes() == before


def test_questions_and_named_values_of_a_document_are_written_by_name(tmp_path):
    document = parse_document(
        json.dumps(
            {
                "format": "cryonome/1",
                "fluids": [
                    {
                        "name": "gas",
                        "parts": [{"component": "methane", "amount": 0.9}, {"component": "propane", "amount": 0.1}],
                    }
                ],
                "studies": [
                    {"name": "lines", "kind": "envelope", "fluid": "gas"},
                    {"name": "cold", "kind": "flash", "fluid": "gas", "temperature": "250 K", "pressure": "20 bar"},
                ],
                "values": [{"name": "twice", "expression": "2 * [cold].temperature_K - 300 K", "unit": "K"}],
            }
        )
    )
    path = named(book(tmp_path / "asked.xlsx"), answers=("H1", [["lines"], ["twice"]]))
    fill(path, document)
    rows = results(path)
    assert next(r[:3] for r in rows if r[0] == "value: twice") == ["value: twice", 200.0, "K"]
    at = next(i for i, r in enumerate(rows) if r[0] == "question: lines")
    numbers = [v for r in rows[at + 1 : at + 30] for v in r if isinstance(v, float)]
    assert len(numbers) > 20
    named(path, answers=("H1", [["lines"], ["twce"]]))
    with pytest.raises(ExchangeError, match="did you mean twice"):
        fill(path, document)
