"""Lines of a word and a value: what they say of the tables around them, and what they must not."""

from __future__ import annotations

import pytest

from cryonome.exchange import read_text
from cryonome.exchange.facts import facts_of

CURVE = "% distilled;TBP °C\n5;77\n10;112\n30;222\n50;319\n70;428\n90;590\n"
COMPOSITION = "Component;amount\nC1;50\nC3;20\nC6;10\nC7+;20\n"
EXPANSION = "Constant composition expansion\nPressure (bar);Relative volume\n250;0.98\n186;1\n100;1.4\n"


@pytest.mark.parametrize(
    ("line", "what", "value"),
    [
        ("Bubble point pressure;186.3;bar", "saturation", "186.3 bar"), ("Saturation pressure;2650 psig", "saturation", "2650 psig"), ("Presión de burbuja;186,3 bar", "saturation", "186.3 bar"),
        ("Pression de bulle;186,3 bar", "saturation", "186.3 bar"), ("Reservoir temperature;92 °C", "temperature", "92 degC"), ("Bubble point temperature;92 °C", "temperature", "92 degC"),
        ("Bubble point volume factor;1.41", "volume_factor", "1.41"), ("Oil formation volume factor;1.412", "volume_factor", "1.412"), ("GOR;120 Sm3/Sm3", "gas_oil_ratio", "120 sm3/m**3"),
        ("GOR, scf/STB;680", "gas_oil_ratio", "680 scf/bbl"), ("Density at 15 °C;0.8321;g/cm3", "density", "0.8321 g/cm**3"), ("API gravity;33.2", "density", "33.2 degAPI"),
        ("Specific gravity 60/60;0.85", "density", "0.85 SG"), ("Densité à 15 °C;832 kg/m3", "density", "832 kg/m**3"), ("Tank oil density;850 kg/m3", "density", "850 kg/m**3"),
        ("Residual oil density;846 kg/m3", "residual_density", "846 kg/m**3"), ("Gas gravity (air=1);0.72", "gas_gravity", "0.72"), ("Molecular weight;212", "molar_mass", "212 g/mol"),
        ("Watson K;11.9", "watson_k", "11.9"), ("UOP K;11.9", "watson_k", "11.9"), ("IBP;42 °C", "initial", "42 degC"), ("Siedeende;176 °C", "final", "176 degC"), ("FBP;176 °C", "final", "176 degC"),
        ("T90;171 °C", "point", "171 degC"), ("Loss;0.6", "loss", "0.6"), ("Verlust;0,6", "loss", "0.6"), ("Residue;1.2", "residue", "1.2"), ("Recovery;98", "recovery", "98"),
        ("Barometric pressure;751 mmHg", "pressure", "751 mmHg"), ("Method;ASTM D86", "method", "D86"), ("Basis;volume", "basis", "volume"), ("Sample;Varn 7", "name", "Varn 7"),
        ("Well;A-3", "place", "Well: A-3"), ("Comment;late", "note", "late"), ("tail pressure;10 mmHg", "tail_pressure", "10 mmHg"), ("light ends by;mole", "light_basis", "mole"),
        ("whole sample sulphur;1.2", "whole_quantity", "1.2"), ("Conditions;92 °C", "temperature", "92 degC"),
    ],
)  # fmt: skip
def test_a_line_says_one_thing(line, what, value):
    style = "comma" if "," in line and "." not in line and "/" not in line else "point"
    assert [(f.what, f.value) for f in facts_of((0, line.split(";")), style)] == [(what, value)]


def test_a_saturation_pressure_brings_the_temperature_of_its_word():
    for line in (
        "Dew point at 150 °C;322 bar",
        "Taupunkt bei 150 °C;322 bar",
        "Saturation pressure at 150 °C: 322 bar",
    ):
        told = {f.what: f.value for f in facts_of((0, line.split(";")), "point")}
        assert told == {"saturation": "322 bar", "temperature": "150 degC"}


@pytest.mark.parametrize(
    ("line", "assumed"),
    [
        ("Density;0.8321", "0.8321 is read as a specific gravity"),
        ("Density at 15 °C;0.8321", "0.8321 is read as g/cm³"),
        ("Density;860", "860 is read as kg/m³"),
        ("Density;52", "52 has no unit; write for example 52 kg/m3"),
        ("Pressure;14.7", "14.7 has no unit; write for example 14.7 mmHg"),
        ("Temperature;92", "92 has no unit; write for example 92 degC"),
        ("Viscosity;5.2 cSt", "a viscosity needs its temperature; write viscosity at 40 degC"),
        ("Viscosity at 100 °F;3", "3 has no unit; write 3 cSt or 3 cP"),
        ("Method;guess", "'guess' is not a method that is known"),
        ("Density at 20 °C;0.83 g/cm3", "give the density at 15 °C or 60 °F"),
    ],
)
def test_what_is_assumed_or_missing_is_said_with_the_line(line, assumed):
    (fact,) = facts_of((0, line.split(";")), "point")
    assert assumed in fact.assumed
    assert (fact.what == "unread") == ("is read as" not in assumed)


@pytest.mark.parametrize(
    "line",
    ["Sulphur;1.2 wt%", "Sulphur: 1.2 wt%", "Wax content;3 mass%", "Water content;0.2 vol%", "Salt;12 ppm", "Asphaltenes;0.4 wt%"],
)  # fmt: skip
@pytest.mark.parametrize("table", [CURVE, COMPOSITION])
def test_a_share_of_something_else_is_no_basis_of_a_table(line, table):
    """Amounts of sulphur by mass stand above nearly every curve: they say nothing of the basis of its percents."""
    alone, beside = read_text(table, "sheet"), read_text(f"{line}\n{table}", "sheet")
    assert beside.samples[0].distillation == alone.samples[0].distillation
    assert any(f"'{line.split(';')[0].split(':')[0]}' with" in n.text and "is not read" in n.text for n in beside.notes)


@pytest.mark.parametrize("line", ["Flash point;42 °C", "Flash point: 42 °C", "Pour point;-12 °C", "Cloud point;3 °C"])
def test_a_temperature_of_something_else_is_not_that_of_a_test(line):
    (test,) = read_text(f"{line}\n{EXPANSION}", "sheet").tests
    assert test.temperature is None
    (test,) = read_text(f"{line}\nReservoir temperature;92 °C\n{EXPANSION}", "sheet").tests
    assert test.temperature == "92 degC"


@pytest.mark.parametrize("words", ["Bubble point density", "Density at bubble point", "Reservoir fluid density"])
def test_a_density_at_pressure_is_not_that_of_the_sample(words):
    found = read_text(f"{words};0.71 g/cc\n{COMPOSITION}", "sheet")
    assert found.samples[0].bulk.density is None
    assert any(f"'{words}' with 0.71 g/cc is not read; give the density at 15 °C" in n.text for n in found.notes)
    own = read_text(f"{words};0.71 g/cc\nDensity at 15 °C;0.85 g/cm3\n{COMPOSITION}", "sheet")
    assert own.samples[0].bulk.density == "0.85 g/cm**3"


def test_a_pressure_of_the_plant_is_not_that_of_a_distillation():
    for line in ("Separator pressure;19 bar", "Reservoir pressure;190 bar"):
        (sample,) = read_text(f"{line}\n{CURVE}", "sheet").samples
        assert sample.distillation.pressure is None
        assert not sample.distillation.basis


def test_properties_under_a_heading_of_the_plus_fraction_are_its_own():
    text = (
        f"Molecular weight;140\n{COMPOSITION}\nProperties of heptanes plus\nMolecular weight;210\nDensity;0.84 g/cm3\n"
    )
    (sample,) = read_text(text, "sheet").samples
    assert (sample.distillation.plus.molar_mass, sample.distillation.plus.density) == ("210 g/mol", "0.84 g/cm**3")
    assert (sample.bulk.molar_mass, sample.bulk.density) == ("140 g/mol", None)
