"""One pass from cell to SI: a value, or None with a fault at the cell's own place."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.demo import demo_document
from cryonome.document import Document, read_document, read_sample
from cryonome.document.checks import Remembered
from cryonome.document.files import parse_document
from cryonome.document.reader import Reader, cell_text, plain_cell, united_cell

CELLS = st.one_of(
    st.none(), st.booleans(), st.integers(-10, 10_000), st.floats(allow_nan=False, allow_infinity=False, width=32),
    st.text(max_size=12), st.sampled_from(["140 degF", "2000 psia", "35 psig", "33.1 API", "40 %", "1,5 bar", "0 K", "−5 °C"]),
)  # fmt: skip


@given(CELLS, st.sampled_from(["temperature", "pressure", "density", "molar_mass", "fraction"]))
def test_a_cell_gives_a_value_or_a_fault_and_never_both_or_neither(cell, kind):
    reader = Reader(("samples", 0))
    value = reader.at("x", 3).quantity(cell, kind)
    assert (value is None) == bool(reader.faults)
    if reader.faults:
        assert reader.faults[0].path == ("samples", 0, "x", 3)
        assert len(reader.faults[0].message) > 8
        assert reader.bad
    else:
        assert math.isfinite(value)


@given(CELLS)
def test_bounded_readings_are_inside_their_bounds_or_told(cell):
    reader = Reader()
    pressure, fraction = reader.pressure(cell), reader.fraction(cell)
    assert pressure is None or pressure > 0.0
    assert fraction is None or 0.0 <= fraction <= 1.0
    assert len(reader.faults) == (pressure is None) + (fraction is None)
    assert Reader().given("", "pressure") is None


@given(st.one_of(st.integers(-999, 999), st.floats(-1e6, 1e6)), st.sampled_from(["degF", "kg/m**3", "g/mol", ""]))
def test_typed_numbers_come_back_as_they_were_typed(number, unit):
    text = f"{number:g}"
    cell = plain_cell(text)
    assert float(cell_text(cell)) == pytest.approx(float(text), rel=1e-5)
    united = united_cell(text, unit)
    assert united_cell(str(united), unit) == united
    assert united == f"{float(text):.10g} {unit}".strip()


def test_words_stay_words_and_empty_is_empty():
    assert plain_cell("  ") is None
    assert plain_cell("n/a") == "n/a"
    assert plain_cell("12 %") == 12
    assert plain_cell("12 bar") == "12 bar"
    assert united_cell("29 API", "kg/m**3") == "29 API"
    assert cell_text(None) == ""
    reader = Reader()
    assert reader.number("twelve", "a percent") is None
    assert reader.number("", "a percent") is None
    assert [f.message for f in reader.faults] == [
        "'twelve' is not a percent; write a plain number", "an empty cell is not a percent; write a plain number",
    ]  # fmt: skip
    assert not reader.known("methan", ["methane", "ethane"], "component")
    assert "methane" in reader.faults[-1].message


def test_the_demo_is_read_without_a_fault_and_once():
    document = demo_document()
    reading = read_document(document)
    assert not reading.faults
    assert len(reading.studies) == len(document.studies)
    assert all(s.asked is not None for s in reading.studies)
    lab = read_sample(document.samples[0]).lab
    assert lab.density == pytest.approx(859.0, abs=1.5)
    assert read_document(Document()).faults == ()


def test_every_fault_of_a_bad_document_has_its_own_place():
    bad = parse_document(
        '{"format": "cryonome/1", "samples": [{"name": "S", "distillation": {"points": [[0, "x"], [5, "80 degC"]]},'
        ' "bulk": {"density": "-3 kg/m3"}}], "fluids": [{"name": "F", "parts": [{"component": "methann", "amount": -1}],'
        ' "model": {"eos": "PR79"}}], "studies": [{"name": "a", "kind": "flash", "fluid": "G", "temperature": "cold"}]}'
    )
    places = {f.path for f in read_document(bad).faults}
    assert {("samples", 0, "distillation", "points", 0, 1), ("samples", 0, "bulk", "density")} <= places
    assert {
        ("fluids", 0, "parts", 0, "component"),
        ("fluids", 0, "parts", 0, "amount"),
        ("fluids", 0, "model", "eos"),
    } <= places
    assert {("studies", 0, "fluid"), ("studies", 0, "temperature")} <= places


def test_what_is_remembered_is_by_identity_and_bounded():
    known, made = Remembered(size=2), []

    def compute(name):
        return lambda: made.append(name) or name

    a, b, c = object(), object(), object()
    for key in (a, b, a, c, a, b):
        known.get((key,), compute(key))
    assert made.count(a) == 1
    assert made.count(b) == 2
    assert known.get((a,), compute(a)) is a
