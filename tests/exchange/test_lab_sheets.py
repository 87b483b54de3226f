"""Lab sheets as laboratories send them: read as meant, or listed with the cell that was not understood."""

from __future__ import annotations

import time
import zipfile

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ask import lab_of
from cryonome.document import Sample
from cryonome.document.model import Curves, Distillation, Quantity
from cryonome.exchange import ExchangeError, read_file, read_rows, read_text
from cryonome.exchange.writing import write_samples

POINTS = [["0", "62"], ["10", "234"], ["30", "431"], ["50", "606"], ["70", "803"]]
"""A boiling curve in °F."""


def read(*rows: list[str]):
    return read_rows([list(r) for r in rows], "sheet")


@pytest.mark.parametrize(
    ("header", "unit"),
    [
        ("TBP (ºF)", "degF"), ("TBP°F", "degF"), ("TBP_F", "degF"), ("TBP, F", "degF"), ("TBP [deg F]", "degF"), ("Temp. (°K)", "K"),
        ("T (oC)", "degC"), ("Boiling point, °C", "degC"), ("Temperature deg C", "degC"), ("TBP ℃", "degC"),
    ],
)  # fmt: skip
def test_a_headers_unit_is_found_however_it_is_written(header, unit):
    (sample,) = read(["percent", header], *POINTS).samples
    assert sample.distillation.points[1] == (10.0, f"234 {unit}")


@pytest.mark.parametrize(
    ("header", "method", "basis"),
    [
        (["wt% distilled", "D2887 (F)"], "D2887", None), (["vol% off", "ASTM D-86 (F)"], "D86", None),
        (["vol% distilled", "SimDist (F)"], "D2887", "volume"), (["wt%", "TBP (F)"], "TBP", "mass"), (["%", "D1160 (F)"], "D1160", None),
    ],
)  # fmt: skip
def test_a_header_names_method_and_basis(header, method, basis):
    (sample,) = read(header, *POINTS).samples
    assert (sample.distillation.method, sample.distillation.basis) == (method, basis)


def test_the_lines_of_a_report_go_where_they_belong():
    found = read(
        ["API", "33.1"], ["MW", "215"], ["Viscosity @ 104 F", "5 cSt"], ["IBP", "60 F"], ["FBP", "1200 F"], ["whole sample S (wt%)", "1.9"],
        [], ["percent", "TBP (F)"], *POINTS,
    )  # fmt: skip
    lab = lab_of(found.samples[0])
    assert lab.density == pytest.approx(141.5 / (33.1 + 131.5) * 999.016)
    assert lab.molar_mass == pytest.approx(0.215)
    assert lab.viscosity[0].temperature == pytest.approx(313.15)
    assert lab.initial == pytest.approx((60 + 459.67) / 1.8)
    assert found.samples[0].distillation.final == "1200 degF"
    assert (lab.quantities[0].name, lab.quantities[0].unit, lab.quantities[0].bulk) == ("S", "wt%", 1.9)
    assert not found.notes


@pytest.mark.parametrize(
    ("line", "cell", "words"),
    [
        (["pressure", "10"], "B1", "no unit"), (["viscosity at 104 F", "5"], "B1", "5 cSt or 5 cP"), (["viscosity", "5 cSt"], "A1", "temperature"),
        (["density", "33.1"], "B1", "no unit"), (["density at 20 C", "0.85 g/cc"], "A1", "15 °C or 60 °F"), (["colour", "dark"], "A1", "not known"),
        (["method", "magic"], "B1", "not a method"),
    ],
)  # fmt: skip
def test_what_is_not_understood_is_listed_with_its_cell(line, cell, words):
    found = read(line, [], ["percent", "TBP (F)"], *POINTS)
    assert len(found.samples) == 1
    (note,) = found.notes
    assert (note.place, note.assumed) == (f"sheet, {cell}", False)
    assert words in note.text
    lab = lab_of(found.samples[0])
    assert (lab.pressure, lab.density, lab.viscosity) == (101325.0, None, ())


def test_what_is_assumed_is_told():
    found = read(["density", "0.86"], [], ["fraction off", "TBP"], *[[str(float(p) / 100), t] for p, t in POINTS])
    lab = lab_of(found.samples[0])
    assert lab.percent == (0.0, 10.0, 30.0, 50.0, 70.0)
    assert lab.density == pytest.approx(0.86 * 999.016)
    assert lab.temperature[0] == pytest.approx(62 + 273.15)
    assert [n.assumed for n in found.notes] == [True, True, True]
    assert {n.place for n in found.notes} == {"sheet, B1", "sheet, A3", "sheet, B3"}


def test_a_row_of_units_below_the_titles_belongs_to_them():
    (sample,) = read(
        ["Distilled", "TBP", "Density"], ["wt%", "°F", "g/cm3"], ["10", "234", "0.74"], ["50", "606", "0.86"]
    ).samples
    assert sample.distillation.basis == "mass"
    assert sample.distillation.points == ((10.0, "234 degF"), (50.0, "606 degF"))
    assert sample.curves.density == ((10.0, "0.74 g/cm**3"), (50.0, "0.86 g/cm**3"))


def test_short_rows_words_beside_and_initial_points_in_a_table():
    found = read(
        ["TBP (C)", "percent"], ["20", "IBP"], ["95"], ["180", "30"], ["270", "50", "", "smoky"], ["380", "FBP"]
    )
    assert found.samples[0].distillation.points == (
        (0.0, "20 degC"),
        (30.0, "180 degC"),
        (50.0, "270 degC"),
        (100.0, "380 degC"),
    )
    assert {n.place for n in found.notes} == {"sheet, A3", "sheet, D5"}


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"])
@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
@pytest.mark.parametrize("mark", [",", ";", "\t"])
def test_any_encoding_line_end_and_separator(tmp_path, encoding, end, mark):
    path = tmp_path / "a.csv"
    rows = [["percent", "TBP (°F)"], *POINTS]
    path.write_bytes(end.join(mark.join(r) for r in rows).encode(encoding))
    assert [p for p, _ in read_file(path).samples[0].distillation.points] == [0.0, 10.0, 30.0, 50.0, 70.0]


def test_semicolons_part_cells_with_decimal_commas(tmp_path):
    path = tmp_path / "a.csv"
    path.write_text("percent;TBP (C)\n0,5;20,25\n10,5;95,5\n30,5;180,75\n")
    assert read_file(path).samples[0].distillation.points[2] == (30.5, "180.75 degC")


def test_an_open_quote_is_told_and_swallows_nothing(tmp_path):
    path = tmp_path / "a.csv"
    path.write_text('note,"half\npercent,TBP (C)\n0,20\n10,95\n30,180\n')
    found = read_file(path)
    assert len(found.samples[0].distillation.points) == 3
    assert any("never closed" in n.text for n in found.notes)


def workbook(path, cells, formats=None):
    book = openpyxl.Workbook()
    for (row, column), value in cells.items():
        book.active.cell(row, column, value).number_format = (formats or {}).get((row, column), "General")
    book.save(path)
    return path


def test_a_column_formatted_as_percent_is_read_as_it_is_shown(tmp_path):
    cells = {(1, 1): "percent", (1, 2): "TBP (F)"}
    cells |= {(i + 2, j + 1): float(v) / (1 if j else 100) for i, row in enumerate(POINTS) for j, v in enumerate(row)}
    path = workbook(tmp_path / "a.xlsx", cells, {(i + 2, 1): "0%" for i in range(len(POINTS))})
    found = read_file(path)
    assert [p for p, _ in found.samples[0].distillation.points] == [0.0, 10.0, 30.0, 50.0, 70.0]
    assert not found.notes


def test_stray_cells_bombs_and_ruins_are_sentences_within_two_seconds(tmp_path):
    cells = {(1, 1): "percent", (1, 2): "TBP (F)"} | {
        (i + 2, j + 1): float(v) for i, r in enumerate(POINTS) for j, v in enumerate(r)
    }
    stray = workbook(tmp_path / "stray.xlsx", {**cells, (1048576, 16384): "x"})
    bomb = tmp_path / "bomb.xlsx"
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b" " * 40_000_000)
    whole = stray.read_bytes()
    half, old, junk = tmp_path / "half.xlsx", tmp_path / "old.xls", tmp_path / "junk.csv"
    half.write_bytes(whole[: len(whole) // 2])
    old.write_bytes(b"x")
    junk.write_bytes(bytes(range(32)) * 200)
    start = time.perf_counter()
    found = read_file(stray)
    assert len(found.samples[0].distillation.points) == 5
    assert "beyond row 20000 and column IV" in found.notes[0].text
    for path, words in (
        (bomb, "unpacks to"),
        (half, "not a workbook"),
        (old, "save it as .xlsx"),
        (junk, "not a text"),
    ):
        with pytest.raises(ExchangeError, match=words):
            read_file(path)
    assert time.perf_counter() - start < 10.0  # five files, each well within two seconds on a machine at rest


NAMES = (
    st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"]), min_size=1, max_size=12)
    .map(str.strip)
    .filter(bool)
)


@given(
    NAMES,
    st.sampled_from(["=1+1", "+SUM(A1)", "-x", "@cmd", "plain", "'quoted"]),
    st.floats(0.01, 5.0).map(lambda x: round(x, 9)),
)
def test_what_is_written_comes_back_whole_and_is_never_a_formula(tmp_path_factory, name, note, sulphur):
    points = tuple((float(p), f"{t} degF") for p, t in POINTS)
    sample = Sample(
        name=name, note=note, distillation=Distillation(points=points, initial="50 degF", final="1200 degF"),
        curves=Curves(quantities=(Quantity(name="sulphur", unit="wt%", bulk=sulphur, points=((50.0, 1.0),)),)),
    )  # fmt: skip
    for ending in ("csv", "xlsx"):
        path = tmp_path_factory.mktemp("sheets") / f"a.{ending}"
        write_samples(path, [sample])
        (back,) = read_file(path).samples
        assert back == sample
        if ending == "csv":
            cells = [c for line in path.read_text().splitlines() for c in line.split(",")]
            assert not [c for c in cells if c.startswith(("=", "+", "@"))]
        else:
            book = openpyxl.load_workbook(path)
            assert not [c for row in book.worksheets[0].iter_rows() for c in row if c.data_type == "f"]


def test_characters_no_sheet_can_hold_are_marked(tmp_path):
    sample = Sample(
        name="a\x01b\ud800c", distillation=Distillation(points=tuple((float(p), f"{t} degF") for p, t in POINTS))
    )
    for ending in ("csv", "xlsx"):
        path = tmp_path / f"a.{ending}"
        write_samples(path, [sample])
        assert read_file(path).samples[0].name == "a\ufffdb\ufffdc"


def test_a_pasted_range_tells_what_was_assumed():
    found = read_text("percent\tTBP\n0\t20\n10\t95\n30\t180\n", "pasted")
    assert found.samples[0].distillation.points[1] == (10.0, "95 degC")
    assert "names no unit" in found.notes[0].text
