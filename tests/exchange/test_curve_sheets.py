"""Sheets of boiling curves: percents, temperatures and what stands beside them, in every layout a laboratory uses."""

from __future__ import annotations

import pytest

from cryonome.exchange import Choice, read_rows, read_text
from cryonome.units import parse

PERCENTS = (5, 10, 30, 50, 70, 90)
BOIL = (77.0, 112.0, 222.0, 319.0, 428.0, 590.0)
DENSITY = (716, 746, 814, 864, 912, 978)


def sheet(*heads, columns=(BOIL,), percents=PERCENTS, above="", below=""):
    """Return a sheet: percents and columns under their heads, with lines above and below."""
    rows = [";".join(str(c) for c in row) for row in zip(percents, *columns)]
    return "\n".join(filter(None, [above, ";".join(heads), *rows, below])) + "\n"


def read(text):
    """Return the one sample of a sheet and the notes."""
    found = read_text(text, "sheet")
    (sample,) = found.samples
    return sample, [n.text for n in found.notes]


def kelvin(sample):
    return [parse(t, "temperature") for _, t in sample.distillation.points]


@pytest.mark.parametrize(
    ("head", "factor", "said"),
    [
        ("vol %", 1.0, ""), ("% distilled", 1.0, ""), ("Recovered (vol%)", 1.0, ""), ("Distilled, fraction", 0.01, "read as fractions of the whole, times a hundred"),
        ("LV%", 1.0, ""), ("Cumulative wt%", 1.0, ""), ("Massen-%", 1.0, ""), ("% evaporado", 1.0, ""),
    ],
)  # fmt: skip
def test_percents_are_percents_and_fractions_are_told(head, factor, said):
    sample, notes = read(sheet(head, "TBP °C", percents=[f"{factor * p:.10g}" for p in PERCENTS]))
    assert [p for p, _ in sample.distillation.points] == pytest.approx(PERCENTS)
    mass = "wt" in head or "Mass" in head
    assert sample.distillation.basis == ("mass" if mass else None)  # by volume is what a TBP curve is
    assert any(said in n for n in notes) if said else not any("fraction" in n for n in notes)


@pytest.mark.parametrize(
    ("heads", "above", "values", "said"),
    [
        (("vol%", "TBP, °C"), "", BOIL, ""),
        (("vol%", "TBP (°F)"), "", [1.8 * t + 32 for t in BOIL], ""),
        (("vol%", "TBP [K]"), "", [t + 273.15 for t in BOIL], ""),
        (("vol%", "Temperature"), "TBP distillation, temperatures in °F", [1.8 * t + 32 for t in BOIL], ""),
        (("vol%", "TBP"), "", [f"{t} °C" for t in BOIL], ""),
        (("vol%", "TBP"), "", BOIL, "'TBP' names no unit; bare numbers are read as °C"),
    ],
)
def test_temperatures_have_the_unit_of_their_header_title_or_cells(heads, above, values, said):
    sample, notes = read(sheet(*heads, columns=(values,), above=above))
    assert kelvin(sample) == pytest.approx([t + 273.15 for t in BOIL], abs=0.01)
    assert (said in notes) if said else not any("names no unit" in n for n in notes)


def test_a_unit_in_a_column_of_its_own_is_that_of_its_row():
    sample, _ = read(sheet("vol%", "TBP", "Unit", columns=([1.8 * t + 32 for t in BOIL], ["°F"] * 6)))
    assert kelvin(sample) == pytest.approx([t + 273.15 for t in BOIL], abs=0.01)


@pytest.mark.parametrize(
    ("second", "values", "said"),
    [
        ("TBP, °F", [1.8 * t + 32 for t in BOIL], "'TBP, °F' holds the same temperatures in another unit; those of 'TBP, °C' are read"),
        ("TBP, °F", [1.8 * t + 52 for t in BOIL], "'TBP, °F' is a second column of temperatures of the same sample and is not read; 'TBP, °C' is"),
    ],
)  # fmt: skip
def test_a_second_column_of_temperatures_is_compared(second, values, said):
    sample, notes = read(sheet("vol%", "TBP, °C", second, columns=(BOIL, values)))
    assert kelvin(sample) == pytest.approx([t + 273.15 for t in BOIL], abs=0.01)
    assert said in notes


@pytest.mark.parametrize(
    ("head", "values", "key", "first", "said"),
    [
        ("Density, kg/m3", DENSITY, "density", "716 kg/m**3", ""),
        ("Density (g/cm3)", [d / 1000 for d in DENSITY], "density", "0.716 g/cm**3", ""),
        ("SG", [d / 999 for d in DENSITY], "density", f"{716 / 999} SG", ""),
        ("°API", (66, 58, 42, 32, 24, 13), "density", "66 degAPI", ""),
        ("Density", DENSITY, "density", "716 kg/m**3", "names no unit; bare numbers are read as kg/m³"),
        ("Density", [d / 1000 for d in DENSITY], "density", "0.716 g/cm**3", "names no unit; bare numbers are read as g/cm³"),
        ("Molecular weight", (90, 105, 160, 220, 320, 560), "molar_mass", "90 g/mol", ""),
        ("Molar mass, kg/kmol", (90, 105, 160, 220, 320, 560), "molar_mass", "90 kg/kmol", ""),
    ],
)  # fmt: skip
def test_properties_stand_at_the_percents_of_the_curve(head, values, key, first, said):
    sample, notes = read(sheet("vol%", "TBP, °C", head, columns=(BOIL, values)))
    points = getattr(sample.curves, key)
    assert [p for p, _ in points] == list(PERCENTS)
    kind = "density" if key == "density" else "molar_mass"
    assert parse(points[0][1], kind) == pytest.approx(parse(first, kind), rel=1e-9)
    assert any(head in n and said in n for n in notes) if said else not notes


def test_viscosities_and_amounts_are_named_by_their_header():
    columns = (BOIL, (0.5, 0.7, 1.6, 4.1, 15, 300), (0.01, 0.02, 0.1, 0.6, 1.2, 2.4), (1, 2, 5, 30, 80, 400))
    sample, notes = read(sheet("vol%", "TBP, °C", "Viscosity at 50 °C (cSt)", "Sulphur, wt%", "Nickel (ppm)", columns=columns))  # fmt: skip
    (viscosity,) = sample.curves.viscosity
    assert (viscosity.at, viscosity.points[0]) == ("50 degC", (5, "0.5 cSt"))
    sulphur, nickel = sample.curves.quantities
    assert [(q.name, q.unit, q.points[-1]) for q in (sulphur, nickel)] == [
        ("Sulphur", "wt%", (90, 2.4)),
        ("Nickel", "ppm", (90, 400)),
    ]
    bare, notes = read(sheet("vol%", "TBP, °C", "Viscosity", "Wax", columns=columns[:3]))
    assert bare.curves.viscosity[0].at == "40 degC"
    assert "'Viscosity' names no unit; bare numbers are read as cSt" in notes
    assert "'Viscosity' names no temperature; it is taken as at 40 °C" in notes
    assert "'Wax' is read as a quantity in mass%" in notes


def test_a_second_column_of_percents_a_mark_and_a_nameless_column_are_told():
    columns = (BOIL, [p * 0.9 for p in PERCENTS], ("", "", "", "plateau", "", ""), (1, 2, 3, 2, 5, 6))
    sample, notes = read(sheet("vol%", "TBP, °C", "Cumulative wt%", "Remark", "", columns=columns))
    assert sample.distillation.basis is None
    assert "'Cumulative wt%' is a second column of percents and is not read; 'vol%' is" in notes
    assert "a column without a header is not read" in notes
    assert not sample.curves.quantities


def test_samples_side_by_side_have_their_own_rows_below():
    text = sheet("vol%", "Brennock, °C", "Tarn, °C", columns=(BOIL, [t - 20 for t in BOIL]), above="TBP distillation", below="Density, kg/m3;842;818")  # fmt: skip
    found = read_text(text, "sheet")
    assert [s.name for s in found.samples] == ["Brennock", "Tarn"]
    assert [s.bulk.density for s in found.samples] == ["842 kg/m**3", "818 kg/m**3"]
    first, second = (kelvin(s) for s in found.samples)
    assert [a - b for a, b in zip(first, second)] == pytest.approx([20.0] * 6)


@pytest.mark.parametrize(
    ("cell", "row", "said"),
    [
        ("cloudy", None, "'cloudy' is no temperature and is not read"),
        ("n.d.", None, ""),
        ("319*", (50, "319 degC"), ""),
        ("606 °F", (50, "606 degF"), ""),
        ("<319", None, "'<319' is no temperature and is not read"),
    ],
)
def test_a_cell_that_is_no_temperature_is_told_and_the_rest_is_read(cell, row, said):
    values = [cell if t == 319.0 else t for t in BOIL]
    sample, notes = read(sheet("vol%", "TBP, °C", columns=(values,)))
    points = dict(sample.distillation.points)
    assert points.get(50) == (row[1] if row else None)
    assert len(points) == (6 if row else 5)
    assert (said in notes) if said else not notes


def test_the_ends_loss_and_residue_of_a_laboratory_distillation():
    points = ("IBP", 5, 10, 30, 50, 70, 90, 95, "FBP")
    temperatures = (38, 51, 58, 79, 101, 126, 158, 170, 189)
    above = "ASTM D86\nBarometric pressure;98.2 kPa\nLoss;1.1\nResidue;0.9"
    sample, notes = read(sheet("% recovered", "°C", columns=(temperatures,), percents=points, above=above))
    own = sample.distillation
    assert (own.method, own.pressure, own.loss, own.residue) == ("D86", "98.2 kPa", 1.1, 0.9)
    assert (own.points[0], own.points[-1]) == ((0.0, "38 degC"), (100.0, "189 degC"))
    assert not notes
    cracked, notes = read(sheet("% recovered", "°C", columns=(temperatures,), percents=(*points[:-1], "FBP (cracking)"), above="ASTM D86"))  # fmt: skip
    assert len(cracked.distillation.points) == 8
    assert any("is where cracking began and no end of the curve" in n for n in notes)


def test_a_residue_measured_under_vacuum_is_the_tail_of_its_curve():
    columns = ((*BOIL[:4], "", ""), ("", "", "", "", 210, 331))
    text = sheet("vol%", "D86, °C", "Tail under vacuum, °C", columns=columns, above="tail pressure;10 mmHg")
    sample, _ = read(text)
    own = sample.distillation
    assert own.tail.pressure == "10 mmHg"
    assert own.tail.points == ((70, "210 degC"), (90, "331 degC"))
    assert [p for p, _ in own.points] == [5, 10, 30, 50]


@pytest.mark.parametrize(
    ("above", "head", "method", "said"),
    [
        ("", "ASTM D2887, °C", "D2887", False),
        ("Simulated distillation (ASTM D2887)", "°C", "D2887", False),
        ("", "Observed °C @ 10 mmHg", "D1160", True),
        ("Loss;1.1", "Temperature, °C", "D86", True),
        ("", "Temperature, °C", "TBP", True),
        ("Method;D1160\nPressure;10 mmHg", "°C", "D1160", False),
    ],
)
def test_a_method_is_named_or_taken_from_what_was_measured_aloud(above, head, method, said):
    sample, notes = read(sheet("vol% off", head, above=above))
    assert sample.distillation.method == method
    assert any(f"no method is named; the curve is read as {method}" in n for n in notes) == said


def test_a_curve_of_one_point_a_line_and_its_whole_sample_numbers():
    lines = "Kerosene\nIBP;152 °C\nDistillation 10 %;171 °C\nDistillation 50 %;199 °C\nDistillation 90 %;240 °C\nFBP;259 °C\nDensity at 15 °C;801.2 kg/m3\nLoss;0.5\n"
    sample, notes = read(lines)
    own = sample.distillation
    assert [(p, t) for p, t in own.points] == [(0.0, "152 degC"), (10.0, "171 degC"), (50.0, "199 degC"), (90.0, "240 degC"), (100.0, "259 degC")]  # fmt: skip
    assert (own.method, own.loss, sample.bulk.density) == ("D86", 0.5, "801.2 kg/m**3")
    assert "no method is named; the curve is read as D86" in notes


def test_saturation_pressures_in_sentences_are_tests():
    found = read_text("Bubble point pressure 186.3 bar at 92 °C\nDew point pressure: 322 bar at 150 °C\n", "sheet")
    assert [(t.temperature, t.singles["pressure"], t.dew) for t in found.tests] == [("92 degC", "186.3 bar", False), ("150 degC", "322 bar", True)]  # fmt: skip


def test_what_a_column_is_taken_for_can_be_chosen():
    rows = [["vol%", "TBP, °C", "Reading"], *([str(p), str(t), str(d)] for p, t, d in zip(PERCENTS, BOIL, DENSITY))]
    first = read_rows(rows, "sheet")
    (block,) = first.blocks
    keys = dict(zip(block.heads, block.keys))
    assert "Reading" in first.samples[0].curves.quantities[0].name
    chosen = {keys["Reading"]: Choice("density", "kg/m**3"), keys["TBP, °C"]: Choice(unit="degF")}
    other = read_rows(rows, "sheet", chosen).samples[0]
    assert other.curves.density[0] == (5, "716 kg/m**3")
    assert other.distillation.points[0] == (5, "77 degF")
    none = read_rows(rows, "sheet", {keys["Reading"]: Choice("not read")}).samples[0]
    assert not none.curves.quantities
