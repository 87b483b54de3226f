"""Reports of laboratory tests: what stands beside the columns, and columns brought to what a test is told by."""

from __future__ import annotations

import pytest

from cryonome.exchange import read_text

LIBERATION = """Differential liberation at 92 °C
Saturation pressure;186.3 bar
Residual oil density;846 kg/m3
Pressure;Oil volume factor;{gas};Oil density
bar;;Sm3/m3;kg/m3
186.3;1.412;0;742
140;1.33;31.5;762
80;1.24;66.2;786
20;1.13;101;812
1.01325;1.05;121;826
"""
SEPARATORS = """Separator test
Stage;Temperature;Pressure;Gas-oil ratio
;°C;bar;Sm3/m3
1;55;19;90
2;15.6;1.01325;12
"""


def read(text):
    found = read_text(text, "report")
    (test,) = found.tests
    return test, [str(n) for n in found.notes]


def test_gas_liberated_since_saturation_is_what_is_no_more_in_solution():
    test, told = read(LIBERATION.format(gas="Gas liberated, cumulative"))
    assert (test.kind, test.temperature) == ("liberation", "92 degC")
    assert [float(c.split()[0]) for c in test.columns["solution_gas_m3_m3"]] == pytest.approx([121, 89.5, 54.8, 20, 0])
    assert test.singles == {"saturation.pressure_Pa": "186.3 bar", "residual_density_kg_m3": "846 kg/m**3"}
    assert any("what is left in solution is the last value less it" in t for t in told)


def test_gas_of_each_step_is_not_taken_for_gas_in_solution():
    test, told = read(LIBERATION.format(gas="Gas liberated, incremental"))
    assert "solution_gas_m3_m3" not in test.columns
    assert any("is gas liberated and no gas in solution; it is not read" in t for t in told)
    assert test.columns["oil_volume_factor"] == [1.412, 1.33, 1.24, 1.13, 1.05]


def test_saturation_is_where_the_relative_volume_is_one_and_said():
    text = "Constant composition expansion at 92 °C\nPressure;Relative volume\nbar;\n350;0.961\n250;0.985\n186.3;1.0000\n150;1.08\n"
    test, told = read(text)
    assert test.kind == "expansion"
    assert test.singles["saturation.pressure_Pa"] == "186.3 bar"
    assert any("taken from the row where the relative volume is 1" in t for t in told)
    other, _ = read(text.replace("\nPressure", "\nBubble point pressure;190 bar\nPressure", 1))
    assert other.singles["saturation.pressure_Pa"] == "190 bar"


@pytest.mark.parametrize("title", ["Depletion at 150 °C", "Constant volume depletion at 150 °C", "CVD study at 150 °C"])
@pytest.mark.parametrize("gas", ["Gas produced", "Produced gas", "Cumulative gas produced"])
@pytest.mark.parametrize("beside", ["", ";Relative volume"])
def test_a_depletion_is_one_by_its_title_whatever_stands_beside(title, gas, beside):
    rows = [(322, 0, 0, 1), (250, 8.5, 12.1, 1.1), (150, 14, 38.2, 1.5), (60, 9.9, 70.5, 2.8)]
    body = "\n".join(";".join(map(str, r if beside else r[:3])) for r in rows)
    test, told = read(
        f"{title}\nDew point pressure;322 bar\nPressure;Liquid;{gas}{beside}\nbar;% of Vsat;mol %{';' if beside else ''}\n{body}\n"
    )
    assert (test.kind, test.temperature, test.dew) == ("depletion", "150 degC", True)
    assert test.columns["produced_mole_fraction"] == pytest.approx([0, 0.121, 0.382, 0.705])
    assert test.columns["liquid_volume_fraction"] == pytest.approx([0, 0.085, 0.14, 0.099])
    assert any("Relative volume" in t for t in told) == bool(beside)


@pytest.mark.parametrize(
    ("line", "key", "value"),
    [
        ("Stock tank oil gravity;33 °API", "api", 33.0), ("Stock-tank oil gravity;33;°API", "api", 33.0), ("API gravity of tank oil;33", "api", 33.0),
        ("Tank oil gravity;33 °API", "api", 33.0), ("Tank oil density;860 kg/m3", "tank_density_kg_m3", "860 kg/m**3"),
    ],
)  # fmt: skip
def test_what_the_tank_holds_is_read_however_its_line_is_worded(line, key, value):
    for text in (f"{SEPARATORS}{line}\nOil volume factor;1.38\n", f"{SEPARATORS}Oil volume factor;1.38\n{line}\n"):
        test, _ = read(text)
        assert test.columns["gas_oil_ratio_m3_m3"] == ["90 sm3/m**3", "12 sm3/m**3"]
        assert test.singles[key] == value
        assert test.singles["oil_volume_factor"] == 1.38


def test_stages_that_do_not_add_up_are_told():
    _, told = read(f"{SEPARATORS}Total;;;125\n")
    assert any("do not add up to the total of 125" in t for t in told)
    _, told = read(f"{SEPARATORS}Total;;;102\n")
    assert not any("add up" in t for t in told)
