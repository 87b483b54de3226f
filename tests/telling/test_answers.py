"""An answer in words: every number of it, in the reader's units, named as the trade names it."""

from __future__ import annotations

import pytest

from ask import answers
from cryonome.telling import Units
from cryonome.telling.answers import tables, words

STATE = {
    "ok": True, "notes": ["n"], "temperature_K": 310.9277777777778, "pressure_Pa": 6894757.293168361, "density_kg_m3": 160.18463,
    "molar_mass_g_mol": 30.0, "enthalpy_J_mol": -2326.0, "phases": [
        {"kind": "vapour", "fraction": 0.25, "composition": {"a_K": 0.9, "b": 0.1}, "Z": 0.8},
        {"kind": "liquid", "fraction": 0.75, "composition": {"a_K": 0.2, "b": 0.8}, "Z": 0.2},
    ],
}  # fmt: skip


def cell(block, name, column=1):
    return next(row for row in block.rows if row[0] == name)[column]


def test_a_state_is_told_in_field_units_with_its_phases_side_by_side():
    whole, phases = tables(STATE, Units.of("field"))
    assert cell(whole, "temperature") == "100"
    assert cell(whole, "temperature", 2) == "°F"
    assert cell(whole, "pressure") == "1000"
    # 2326 J/g are 1000 Btu/lb exactly (International Table); a density at a state is never told in °API.
    assert cell(whole, "enthalpy") == "−1000"
    assert (cell(whole, "density"), cell(whole, "density", 2)) == ("10.000", "lb/ft³")
    assert phases.rows[0] == ["kind", "vapour", "liquid", ""]
    assert cell(phases, "mole fraction", 2) == "0.75"
    # The name of a component is not a key: it keeps its letters, and its fraction is no temperature.
    assert cell(phases, "a_K") == "0.9"
    assert "notes" not in {row[0] for row in whole.rows}


def test_many_items_stand_one_below_the_other_and_values_at_temperatures_are_named_by_them():
    cuts = [
        {
            "name": f"cut {i}", "nbp_K": 373.15, "Pc_Pa": 2e6, "quantities": {"sulphur": {"value": 0.5, "unit": "mass%"}},
            "kinematic_viscosity": [{"temperature_K": 310.9277777777778, "kinematic_viscosity_m2_s": 2e-6}],
        }
        for i in range(6)
    ]  # fmt: skip
    (block,) = tables({"components": cuts}, Units.of("metric"))
    assert block.columns == [
        ("name", ""), ("boiling point", "°C"), ("critical pressure", "bar"), ("sulphur", "mass%"),
        ("kinematic viscosity at 37.778 °C", "cSt"),
    ]  # fmt: skip
    assert block.rows[5] == ["cut 5", "100", "20", "0.5", "2"]


def test_a_critical_point_is_a_point_and_a_curve_is_rows_of_percents():
    answer = {"critical_points": [{"temperature_K": 300.0, "pressure_Pa": 5e6}],
              "curves": {"TBP": {"basis": "volume", "points": [[0, 300.0], [50, 450.0]]}},
              "lines": [], "cricondenbar": None}  # fmt: skip
    found = {b.title: b for b in tables(answer, Units.of("SI"))}
    assert [r[1] for r in found["critical points"].rows] == ["300", "5"]
    assert found["curves, TBP, points"].rows == [["0", "300.0"], ["50", "450.0"]]
    assert {tuple(r[:2]) for r in found[""].rows} == {("lines", "none"), ("cricondenbar", "none")}


@pytest.mark.parametrize(
    ("key", "told"),
    [("entropy_departure_J_mol_K", "entropy departure"), ("Tc_K", "critical temperature"), ("api", "gravity, °API")],
)
def test_keys_become_words_without_their_unit(key, told):
    assert words(key) == told


def test_what_is_told_by_component_is_not_told_by_another_property():
    """Composition, fugacity coefficients and fugacities have the same words; each keeps its own numbers and unit."""
    gas = {"name": "G", "parts": [{"component": "methane", "amount": 90}, {"component": "propane", "amount": 10}]}
    data = {"format": "cryonome/1", "fluids": [gas], "studies": [{"name": "a", "kind": "flash", "fluid": "G", "temperature": "220 K", "pressure": "20 bar"}]}  # fmt: skip
    answer = answers(data)["a"]
    phases = answer["phases"]
    block = next(b for b in tables(answer, Units.of("metric")) if b.title == "phases")
    found = {path: (row[0], text, row[-1]) for row, paths in zip(block.rows, block.paths) for text, path in zip(row[1:], paths[1:]) if path}  # fmt: skip
    for i, phase in enumerate(phases):
        for name, value in phase["composition"].items():
            words, text, unit = found[f"phases[{i}].composition.{name}"]
            assert (words, float(text), unit) == (name, pytest.approx(value, rel=1e-4), "")
            _, text, unit = found[f"phases[{i}].fugacity_Pa.{name}"]
            assert (float(text), unit) == (pytest.approx(phase["fugacity_Pa"][name] / 1e5, rel=1e-4), "bar")
