"""Sheets written at random, and the sheets of many laboratories: what is read is what is written, or a word is said about it."""

from __future__ import annotations

import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cryonome.characterization.recovered import corrected_loss, evaporated
from cryonome.components import find, named, search
from cryonome.document import Document
from cryonome.exchange import Choice, read_rows, read_text
from cryonome.exchange.brines import brine_of, ion_of
from cryonome.exchange.entries import entry_of, point_of, span_of, style_of
from cryonome.exchange.sentences import temperature_in
from cryonome.exchange.taking import taken
from cryonome.exchange.words import basis_of, unit_in
from sheet_writer import any_sheet, differences


@settings(max_examples=300, deadline=None)
@given(st.integers(0, 10**9))
def test_what_is_read_is_what_was_written(seed):
    truth, rows = any_sheet(random.Random(seed))
    assert differences(truth, read_rows(rows, "sheet")) == []


@pytest.mark.parametrize(
    ("text", "label"),
    [
        ("Hexanes", "C6"), ("C6s", "C6"), ("FC6", "C6"), ("SCN 7", "C7"), ("Heptanes plus", "C7+"), ("C7+", "C7+"), ("neo-C5", "neopentane"), ("MCP", "methylcyclopentane"),
        ("Me-cyclohexane", "methylcyclohexane"), ("m&p-xylene", "m-xylene"), ("C6 paraffins", "n-hexane"), ("i-C4", "isobutane"), ("CO₂", "carbon dioxide"), ("C₂₀₊", "C20+"), ("Heptanos y superiores", "C7+"),
        ("Kohlendioxid", "carbon dioxide"), ("Éthane", "ethane"), ("Nitrogênio", "nitrogen"), ("азот", "nitrogen"), ("n-C4H10", "n-butane"), ("Decane+", "C10+"), ("Methane (C1)", "methane"), ("Eicosanes plus", "C20+"),
        ("Hexane", "n-hexane"), ("C1-C4", None), ("Gas", None), ("Naphtha", None), ("Mercury", None), ("C6 - C7", None), ("T", None),
    ],
)  # fmt: skip
def test_every_usual_way_to_write_a_component(text, label):
    found = named(text)
    assert (found.label if found else None) == label


def test_totals_are_no_components_and_searching_ignores_hyphens():
    assert all(named(t).total for t in ("Total", "Summe", "Butanes (total)", "Total C7+"))
    assert find("Hydrogen sulphide").name == find("H2S").name == "hydrogen sulfide"
    assert [c.name for c in search("i-c4")][:1] == ["isobutane"]
    assert [c.name for c in search("124-38-9")] == ["carbon dioxide"]
    assert [c.name for c in search("neoc5")] == ["neopentane"]


@pytest.mark.parametrize(
    ("cells", "style"),
    [
        (["6,000", "0.9569"], "point"), (["12,5", "2,650"], "comma"), (["2,650", "3,100"], ""), (["3.000,5", "2.500"], "comma"), (["1,234,567"], "point"), (["12.05.2020", "OFL-2291/b"], ""), (["0,431"], "comma"),
    ],
)  # fmt: skip
def test_one_cell_proves_the_style_of_a_sheet(cells, style):
    assert style_of(cells) == style


@pytest.mark.parametrize(
    ("text", "kind", "value", "unit", "mark"),
    [
        ("2650*", "number", 2650.0, "", "*"), ("<0.01", "below", 0.01, "", ""), ("n.d.", "absent", 0.0, "", ""), ("–", "absent", 0.0, "", ""), ("2,650", "number", 2650.0, "", ""), ("4265 <- dew pt", "number", 4265.0, "", "dew pt"),
        ("712 mmHg", "number", 712.0, "mmHg", ""), ("12.05.2020", "words", 0.0, "", ""), ("−20", "number", -20.0, "", ""), ("8.74E-06", "number", 8.74e-6, "", ""), ("1 234,5", "words", 0.0, "", ""),
    ],
)  # fmt: skip
def test_a_cell_is_a_number_a_limit_nothing_or_words(text, kind, value, unit, mark):
    found = entry_of(text, "point")
    if kind != "words":
        assert (found.kind, found.unit, found.mark) == (kind, unit, mark)
        assert found.value == pytest.approx(value)
    else:
        assert text == "1 234,5" or found.kind == "words"


def test_marked_points_ranges_conditions_and_headers():
    assert (point_of("IBP"), point_of("Siedeende"), point_of("5%"), point_of("FBP (dry)"), point_of("smoky")) == (
        0.0,
        100.0,
        5.0,
        100.0,
        None,
    )
    assert (span_of("IBP-80").high, span_of("80-160").low, span_of("550+").high, span_of("C1-C4")) == (
        80.0,
        80.0,
        None,
        None,
    )
    assert temperature_in("Expansion, well 3 C, 93.3 °C", "point") == "93.3 degC"
    assert temperature_in("D86 deg C", "point") == ""
    assert [
        unit_in(h, "pressure") for h in ("Presión (kg/cm² man)", "Pressure (MPa a)", "P [bara]", "Druck bar(ü)")
    ] == ["kg/cm2(g)", "MPa", "bar", "barg"]
    assert [basis_of(h) for h in ("Gew.-%", "% molar", "LV %", "ppm mol", "Mol. weight", "zi", "mg/kg")] == [
        "mass",
        "mole",
        "volume",
        "mole",
        "",
        "mole",
        "mass",
    ]


def test_a_basis_is_never_dropped_and_totals_are_checked():
    rows = [
        ["Component", "Vol %"],
        ["Methane", "90"],
        ["Ethane", "9"],
        ["H2S", "800 ppm"],
        ["N2", "nd"],
        ["Total", "98"],
    ]
    found = read_rows(rows, "gas")
    (fluid,) = found.fluids
    assert (fluid.basis, fluid.parts[2].amount) == ("mole", 0.08)
    told = " ".join(n.text for n in found.notes)
    assert "volume percents of a gas are read as mole percents" in told
    assert "'nd' is read as none" in told
    assert "add up to 99.08 %, the sheet's total is 98 %" in told


def test_a_choice_changes_what_a_column_is_taken_for():
    rows = [["Component", "A", "B"], ["Methane", "90", "16.04"], ["Ethane", "10", "30.07"]]
    amount, other = ("gas", 1, 1), ("gas", 1, 2)
    plain = read_rows(rows, "gas")
    assert plain.fluids[0].basis == "mole"
    chosen = read_rows(rows, "gas", {amount: Choice(basis="mass"), other: Choice(meaning="not read")})
    assert chosen.fluids[0].basis == "mass"
    assert [c.sure for c in chosen.blocks[0].columns if c.key == amount] == ["chosen"]


def test_a_report_brings_its_fluid_and_its_tests():
    text = (
        "Reservoir fluid\nComponent\tmol%\tMW\tSG\nCO2\t1.9\nMethane\t71\nPropane\t15\nC7+\t12.1\t150\t0.79\n\n"
        "Constant composition expansion at 121 °C\nDew point = 331 bara\nPressure (bara)\tRelative volume\n450\t0.86\n331\t1\n150\t1.81\n\n"
        "Formation water\nIon\tmg/L\nNa+\t28400\nCa++\t2900\nCl-\t50100\nSO4--\t25\n"
    )
    found = read_text(text, "report")
    document, told = taken(Document(), found)
    assert told == []
    (sample,) = document.samples
    assert [s.kind for s in document.studies] == ["hydrate", "expansion", "match"]
    assert all(s.fluid == sample.name for s in document.studies)
    assert document.fluid(sample.name).model.salinity == "1.509 mol/kg"


def test_a_brine_balances_and_d86_is_evaporated():
    salty = brine_of("", {"Na": 22990.0, "Cl": 35453.0}, False)
    assert salty.salts == (("NaCl", pytest.approx(5.844, abs=1e-3)),)
    assert salty.molality == pytest.approx(1.0 / (1.0 - 0.058443), rel=1e-3)
    assert salty.unbalanced < 1e-12
    assert (ion_of("Sulphate (SO4)"), ion_of("Ca²⁺"), ion_of("pH")) == ("SO4", "Ca", None)
    assert evaporated([0.0, 5.0, 95.0, 100.0], 0.6, 1.2) == pytest.approx([0.6, 5.6, 95.6, 98.8])
    # At 101.3 kPa the loss is that observed, at 84.5 kPa less of it is the sample's.
    assert corrected_loss(1.5, 101.3e3) == pytest.approx(1.5)
    assert corrected_loss(1.5, 84.5e3) == pytest.approx(0.5 + 1.0 / 3.1)
    with pytest.raises(ValueError, match="no room"):
        evaporated([0.0, 95.0, 100.0], 3.0, 4.0)
