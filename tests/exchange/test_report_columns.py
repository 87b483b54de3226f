"""The columns of laboratory tests: each quantity in each unit and layout it is told in, and what is said where none is."""

from __future__ import annotations

import pytest

from cryonome.exchange import Choice, read_rows, read_text

STEPS = (250.0, 186.3, 140.0, 80.0)


def table(title, heads, *columns, units=None):
    """Return a sheet of a test: pressures in bar, and the columns given."""
    rows = [[f"{p:g}", *(str(c[k]) for c in columns)] for k, p in enumerate(STEPS)]
    lines = [title, ";".join(("Pressure (bar)", *heads)), *((";".join(("", *units)),) if units else ())]
    return "\n".join([*lines, *(";".join(r) for r in rows)]) + "\n"


def read(text):
    found = read_text(text, "report")
    assert len(found.tests) == 1, found.notes
    return found.tests[0], [n.text for n in found.notes]


EXPANSION, LIBERATION, DEPLETION = (
    "Constant composition expansion at 92 °C",
    "Differential liberation at 92 °C",
    "Constant volume depletion at 150 °C",
)
VOLUMES = (0.985, 1.0, 1.12, 1.6)


@pytest.mark.parametrize(
    ("title", "head", "values", "key", "cells"),
    [
        (EXPANSION, "Density (g/cc)", (0.75, 0.74, 0.7, 0.6), "density_kg_m3", ["0.75 g/cm**3", "0.74 g/cm**3", "0.7 g/cm**3", "0.6 g/cm**3"]),
        (EXPANSION, "Density, lb/ft3", (46.8, 46.2, 43.7, 37.5), "density_kg_m3", ["46.8 lb/ft**3", "46.2 lb/ft**3", "43.7 lb/ft**3", "37.5 lb/ft**3"]),
        (EXPANSION, "Viscosity [mPa·s]", (0.42, 0.4, "", ""), "viscosity_Pa_s", ["0.42 mPa*s", "0.4 mPa*s", None, None]),
        (EXPANSION, "Y function", ("", "", 2.1, 2.4), "Y", [None, None, 2.1, 2.4]),
        (EXPANSION, "Liquid volume %", (100, 100, 82, 55), "liquid_volume_fraction", [1.0, 1.0, 0.82, 0.55]),
        (EXPANSION, "Liquid dropout, fraction", (0, 0.05, 0.1, 0.02), "liquid_volume_fraction", [0.0, 0.05, 0.1, 0.02]),
        (EXPANSION, "Z factor", (0.9, 0.85, "n.d.", "-"), "Z", [0.9, 0.85, None, None]),
        (LIBERATION, "Oil formation volume factor (bbl/STB)", (1.40, 1.412, 1.33, 1.24), "oil_volume_factor", [1.4, 1.412, 1.33, 1.24]),
        (LIBERATION, "Solution gas-oil ratio (scf/STB)", (680, 680, 520, 300), "solution_gas_m3_m3", ["680 scf/bbl", "680 scf/bbl", "520 scf/bbl", "300 scf/bbl"]),
        (LIBERATION, "Gas FVF (rb/Mscf)", ("", "", 1.1, 2.0), "gas_volume_factor", [None, None, pytest.approx(1.1 * 5.614583e-3), pytest.approx(2.0 * 5.614583e-3)]),
        (LIBERATION, "Gas FVF (bbl/scf)", ("", "", 0.0011, 0.002), "gas_volume_factor", [None, None, pytest.approx(0.0011 * 5.614583), pytest.approx(0.002 * 5.614583)]),
        (LIBERATION, "Bg (m3/Sm3)", ("", "", 0.0062, 0.011), "gas_volume_factor", [None, None, 0.0062, 0.011]),
        (LIBERATION, "Incremental gas gravity (air = 1)", ("", "", 0.81, 0.79), "gas_gravity", [None, None, 0.81, 0.79]),
        (LIBERATION, "Oil viscosity (cP)", (0.5, 0.42, 0.51, 0.7), "oil_viscosity_Pa_s", ["0.5 cP", "0.42 cP", "0.51 cP", "0.7 cP"]),
        (LIBERATION, "Gas viscosity (cP)", ("", "", 0.018, 0.015), "gas_viscosity_Pa_s", [None, None, "0.018 cP", "0.015 cP"]),
        (LIBERATION, "Total volume factor", (1.40, 1.412, 1.5, 2.1), "total_volume_factor", [1.4, 1.412, 1.5, 2.1]),
        (LIBERATION, "Deviation factor Z", ("", "", 0.87, 0.9), "gas_Z", [None, None, 0.87, 0.9]),
        (DEPLETION, "Two-phase Z", (1.1, 1.0, 0.9, 0.8), "Z_two_phase", [1.1, 1.0, 0.9, 0.8]),
        (DEPLETION, "Z gas", (1.1, 1.0, 0.92, 0.88), "Z_gas", [1.1, 1.0, 0.92, 0.88]),
        (DEPLETION, "Cumulative produced gas, % of initial", (0, 0, 12.1, 38), "produced_mole_fraction", [0.0, 0.0, 0.121, 0.38]),
        (DEPLETION, "Gas produced (mol/mol)", (0, 0, 0.121, 0.38), "produced_mole_fraction", [0.0, 0.0, 0.121, 0.38]),
        (DEPLETION, "Gas gravity", (0.9, 0.9, 0.81, 0.79), "gas_gravity", [0.9, 0.9, 0.81, 0.79]),
        (DEPLETION, "Methane, mol%", (70, 71, 74, 76), "gas.methane", [0.7, 0.71, 0.74, 0.76]),
    ],
)  # fmt: skip
def test_a_quantity_is_read_with_the_unit_of_its_header(title, head, values, key, cells):
    beside = ("Relative volume", VOLUMES) if title == EXPANSION else ("Liquid, vol%", (0, 0, 8, 14))
    beside = ("Oil density (kg/m3)", (720, 718, 740, 780)) if title == LIBERATION else beside
    head_beside = () if key in ("liquid_volume_fraction",) and title == DEPLETION else (beside,)
    heads, columns = [head, *(b[0] for b in head_beside)], [values, *(b[1] for b in head_beside)]
    test, told = read(table(title, heads, *columns))
    assert test.columns[key] == cells
    assert not [t for t in told if head in t], told
    # The unit may as well stand in a row of its own, and a column may come first or last.
    turned, _ = read(table(title, heads[::-1], *columns[::-1]))
    assert turned.columns[key] == cells


@pytest.mark.parametrize(
    ("head", "values", "key", "first", "said"),
    [
        ("Density", (0.75, 0.74, 0.7, 0.6), "density_kg_m3", "0.75 g/cm**3", "names no unit; its values are read as g/cm³"),
        ("Density", (750, 740, 700, 600), "density_kg_m3", "750 kg/m**3", "names no unit; its values are read as kg/m³"),
        ("Density", (46.8, 46.2, 43.7, 37.5), "density_kg_m3", None, "'Density': density needs its unit"),
        ("Viscosity", (0.42, 0.4, 0.5, 0.6), "viscosity_Pa_s", None, "needs its unit; write it in the header"),
        ("Liquid", (100, 100, 82, 55), "liquid_volume_fraction", 1.0, "are above 1 and are read as percents"),
        ("Liquid", (1, 1, 0.82, 0.55), "liquid_volume_fraction", 1.0, "its values are read as fractions"),
    ],
)  # fmt: skip
def test_a_header_without_a_unit_is_read_by_its_values_aloud_or_not_at_all(head, values, key, first, said):
    test, told = read(table(EXPANSION, (head, "Relative volume"), values, VOLUMES))
    assert (test.columns[key][0] if key in test.columns else None) == first
    assert [t for t in told if head in t and said in t], told
    assert "relative_volume" in test.columns  # what is sure is not lost with it


def test_relative_volumes_in_percent_and_a_second_column_of_the_same():
    test, told = read(table(EXPANSION, ("Relative volume, %", "V/Vsat"), (98.5, 100, 112, 160), VOLUMES))
    assert test.columns["relative_volume"] == list(VOLUMES)
    assert "'V/Vsat' is not read; 'Relative volume, %' is" in told


def test_words_doubts_and_units_of_single_cells():
    test, told = read(
        table(EXPANSION, ("Relative volume", "Density (g/cm3)"), (0.985, "cloudy", 1.12, 1.6), (0.75, "740 kg/m3", 0.7, 0.6))
    )  # fmt: skip
    assert test.columns["relative_volume"] == [0.985, None, 1.12, 1.6]
    assert "'cloudy' is no value of relative volume and is not read" in told
    assert test.columns["density_kg_m3"] == ["0.75 g/cm**3", "740 kg/m**3", "0.7 g/cm**3", "0.6 g/cm**3"]


@pytest.mark.parametrize(
    ("note", "unit"),
    [
        ("(1) Standard cubic feet of gas per barrel of residual oil", "scf/bbl"),
        ("(1) Standard cubic metres of gas per cubic metre of residual oil at 15 °C", "sm3/m**3"),
        ("(1) Gas at 60 °F", None),
    ],
)
def test_the_unit_of_a_gas_oil_ratio_may_stand_in_a_footnote(note, unit):
    text = table(LIBERATION, ("Solution GOR (1)", "Oil volume factor"), (120, 120, 90, 50), (1.4, 1.41, 1.3, 1.2))
    test, told = read(text + note + "\n")
    if unit is None:
        assert "solution_gas_m3_m3" not in test.columns
        assert any("'Solution GOR (1)': gas in solution needs its unit" in t for t in told)
    else:
        assert test.columns["solution_gas_m3_m3"][0] == f"120 {unit}"


def test_liquid_of_the_volume_at_each_pressure_is_brought_to_that_at_saturation():
    head = "Liquid, % of total volume"
    test, told = read(table(EXPANSION, ("Relative volume", head), VOLUMES, (0, 0, 10, 20)))
    assert test.columns["liquid_volume_fraction"] == pytest.approx([0.0, 0.0, 0.112, 0.32])
    assert any("times the relative volume it is of that at saturation" in t for t in told)
    test, told = read(table(EXPANSION, (head, "Z factor"), (0, 0, 10, 20), (0.9, 0.85, 0.8, 0.7)))
    assert "liquid_volume_fraction" not in test.columns
    assert any("no relative volumes stand beside it" in t for t in told)


def test_a_gas_is_told_in_percents_or_in_shares():
    percents = (table(DEPLETION, ("N2", "C1", "C2+", "Liquid, %"), (1, 1, 1, 1), (80, 82, 84, 86), (19, 17, 15, 13), (0, 0, 8, 9)))  # fmt: skip
    test, told = read(percents)
    assert test.columns["gas.methane"] == [0.8, 0.82, 0.84, 0.86]
    # Nothing says percent beside the 1 of nitrogen; its neighbours do.
    assert test.columns["gas.nitrogen"] == [0.01] * 4
    assert sum("values are above 1 and are read as mole percents" in t for t in told) == 2
    shares = table(DEPLETION, ("N2", "C1", "C2+", "Liquid, %"), (0.01,) * 4, (0.8, 0.82, 0.84, 0.86), (0.19, 0.17, 0.15, 0.13), (0, 0, 8, 9))  # fmt: skip
    test, told = read(shares)
    assert test.columns["gas.methane"] == [0.8, 0.82, 0.84, 0.86]
    assert test.columns["gas.nitrogen"] == [0.01] * 4


def test_what_stands_below_the_steps_and_in_lines_belongs_to_the_test():
    body = table(LIBERATION, ("Oil volume factor", "Oil density (kg/m3)"), (1.4, 1.412, 1.3, 1.2), (720, 718, 740, 780))
    test, _ = read(f"{body}Residual oil density;;846 kg/m3\nOil volume factor at bubble point;1.412\n")
    assert test.singles["residual_density_kg_m3"] == "846 kg/m**3"
    assert test.singles["saturated_oil_volume_factor"] == 1.412
    marked, _ = read(table(EXPANSION, ("Relative volume",), VOLUMES).replace("186.3;", "186.3*;"))
    assert marked.singles["saturation.pressure_Pa"] == "186.3 bar"
    dew, _ = read(table(EXPANSION, ("Relative volume",), VOLUMES).replace("186.3;", "186.3 dew point;"))
    assert dew.dew
    assert not marked.dew
    no_unit = read_text(
        "Bubble point pressure;186.3\n" + table(EXPANSION, ("Relative volume",), (0.98, 0.99, 1.1, 1.6)), "report"
    )
    assert any("a saturation pressure needs its unit" in n.text or "has no unit" in n.text for n in no_unit.notes)
    assert "saturation.pressure_Pa" not in no_unit.tests[0].singles


def test_a_test_without_a_title_is_known_by_its_columns_aloud():
    test, told = read(table("Report 7", ("Relative volume", "Y function"), VOLUMES, ("", "", 2.1, 2.4)))
    assert test.kind == "expansion"
    assert "no line names the test; its columns are those of a test of expansion" in told
    test, told = read(table("Report 7", ("Oil volume factor", "Rs (scf/STB)"), (1.4, 1.41, 1.3, 1.2), (680, 680, 520, 300)))  # fmt: skip
    assert test.kind == "liberation"
    test, _ = read(table("Report 7", ("Viscosity (cP)",), (0.5, 0.42, 0.51, 0.7)))
    assert test.kind == "viscosity"


@pytest.mark.parametrize(
    ("head", "added", "moles"),
    [
        ("Gas added, mol per mol of oil", (0, 0.2, 0.5), [0.0, 0.2, 0.5]),
        ("Gas injected, mole % of mixture", (0, 20, 50), [0.0, 0.25, 1.0]),
        ("Injected gas, mole fraction of mixture", (0, 0.2, 0.5), [0.0, 0.25, 1.0]),
        ("Gas injected, % of original oil moles", (0, 20, 50), [0.0, 0.2, 0.5]),
        ("Gas injected", (0, 0.2, 0.5), [0.0, 0.2, 0.5]),
    ],
)
def test_injected_gas_is_moles_a_mole_of_the_fluid(head, added, moles):
    rows = "\n".join(f"{g};{p};{s}" for g, p, s in zip(added, (186.3, 240, 330), (1.0, 1.07, 1.2)))
    text = f"Swelling test at 92 °C\n{head};Saturation pressure (bar);Swelling factor\n{rows}\n"
    test, told = read(text)
    assert test.kind == "swelling"
    assert test.columns["gas_moles"] == pytest.approx(moles, rel=1e-7)
    assert test.columns["saturation_pressure_Pa"] == ["186.3 bar", "240 bar", "330 bar"]
    assert test.columns["swelling_factor"] == [1.0, 1.07, 1.2]
    mixture = "mixture" in head
    assert any("is of the mixture; x/(1 - x)" in t for t in told) == mixture
    assert any("is read as moles of gas a mole of fluid" in t for t in told) == (head == "Gas injected")
    none = read_text(text.replace("Saturation pressure (bar)", "Saturation pressure"), "report")
    assert none.tests == ()
    assert any("pressure needs its unit" in n.text for n in none.notes)


def test_saturation_pressures_by_temperature_are_a_test_each():
    text = "Dew point pressures\nTemperature (°F);Pressure (psig)\n150;4100\n212;4400\n302;n.d.\n"
    found = read_text(text, "report")
    assert [(t.kind, t.temperature, t.singles["pressure"], t.dew) for t in found.tests] == [
        ("saturation", "150 degF", "4100 psig", True),
        ("saturation", "212 degF", "4400 psig", True),
    ]
    bubble = read_text(text.replace("Dew", "Bubble").replace("4400", "4400 psia"), "report")
    assert [t.dew for t in bubble.tests] == [False, False]
    assert bubble.tests[1].singles["pressure"] == "4400 psia"
    none = read_text(text.replace("(psig)", ""), "report")
    assert none.tests == ()
    assert any("pressure needs its unit; write it in the header" in n.text for n in none.notes)


def test_a_column_is_taken_as_it_is_chosen():
    text = table("Report 7", ("Relative volume", "Liquid"), VOLUMES, (0, 0, 8, 14))
    rows = [line.split(";") for line in text.splitlines()]
    first = read_rows(rows, "report")
    (block,) = [b for b in first.blocks if b.tests]
    keys = dict(zip(block.heads, block.keys))
    other = read_rows(
        rows, "report", {keys["Liquid"]: Choice("Z", "", ""), keys["Pressure (bar)"]: Choice(unit="psia")}
    )
    (test,) = other.tests
    assert test.columns["Z"] == [0.0, 0.0, 8.0, 14.0]
    assert test.columns["pressure"][0] == "250 psia"
    gone = read_rows(rows, "report", {keys["Liquid"]: Choice("not read")})
    assert set(gone.tests[0].columns) == {"pressure", "relative_volume"}
