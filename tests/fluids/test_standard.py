"""Standard volumes, heating values and flow rates as a flash answers them."""

from __future__ import annotations

import json

import numpy as np
import pytest

from cryonome.document import Document, check_document, parse_document
from cryonome.questions import solve


def document(**parts) -> Document:
    return parse_document(json.dumps({"format": "cryonome/1", **parts}))


def ask(parts: dict[str, float], **study) -> dict:
    fluid = {"name": "F", "parts": [{"component": n, "amount": a} for n, a in parts.items()]}
    doc = document(fluids=[fluid], studies=[{"name": "a", "kind": "flash", "fluid": "F", **study}])
    return solve(doc)["answers"]["a"]


def test_heating_values_are_those_of_the_standards():
    """GPA 2145: methane 1010.0 Btu/ft3 of ideal gas at 60 degF; ISO 6976 (2016): methane 39.733 MJ/m3 burnt at 25, metered at 0 degC."""
    here = {"temperature": "300 K", "pressure": "1 bar"}
    methane = ask({"methane": 1}, **here)["standard"]
    assert methane["gross_heating_value_J_m3"] * 0.028316846592 / 1055.05585262 == pytest.approx(1010.0, abs=0.1)
    assert methane["gas_gravity"] == pytest.approx(16.043 / 28.9647, rel=1e-5)
    assert methane["gross_heating_value_real_J_m3"] / methane["gross_heating_value_J_m3"] == pytest.approx(
        1 / 0.9980, abs=6e-4
    )
    german = ask({"methane": 1}, heating={"burnt": "25 degC", "metered": "0 degC"}, **here)["standard"]
    assert german["gross_heating_value_J_m3"] == pytest.approx(39.733e6, rel=1e-4)
    assert german["wobbe_index_J_m3"] == pytest.approx(39.733e6 / (16.043 / 28.9647) ** 0.5, rel=1e-4)
    volume = 8.31446261815324 * 298.15 / 101325.0
    mixed = ask({"methane": 90, "ethane": 10}, heating={"burnt": "25 degC", "metered": "25 degC"}, **here)["standard"]
    assert mixed["gross_heating_value_J_m3"] == pytest.approx((0.9 * 890.58e3 + 0.1 * 1560.69e3) / volume, rel=1e-4)
    assert "api" not in mixed


def test_water_is_no_part_of_the_standard_oil_and_gas():
    """An oil's own phases at 60 degF, by an equation written anew: 61.9 degAPI, 739 m3/m3, gravity 0.715."""
    parts = {"methane": 50, "propane": 10, "n-decane": 10, "water": 30}
    found = ask(parts, temperature="300 K", pressure="10 bar")["standard"]
    assert found["api"] == pytest.approx(61.9, abs=0.05)
    assert found["gas_oil_ratio_m3_m3"] == pytest.approx(739, abs=0.5)
    assert found["gas_gravity"] == pytest.approx(0.715, abs=5e-4)
    # What leaves as vapour is a hundredth of it: the rest of the 0.3 mol stands as liquid water.
    assert found["water_m3_mol"] == pytest.approx(0.3 * 18.015e-3 / 999.0, rel=0.04)
    for other in ("gas", "liquid"):
        ratio = found["water_oil_ratio_m3_m3" if other == "liquid" else "water_gas_ratio_m3_m3"]
        assert ratio == pytest.approx(found["water_m3_mol"] / found[f"{other}_m3_mol"], rel=1e-12)
    water, oil = found["water_m3_mol"], found["liquid_m3_mol"]
    assert found["water_cut"] == pytest.approx(water / (water + oil), rel=1e-12)


def test_any_rate_gives_all_the_others():
    parts = {"methane": 60, "n-decane": 40}
    one = ask(parts, temperature="320 K", pressure="30 bar", rate="12 kmol/h")
    whole = one["rates"]
    assert whole["mole_mol_s"] == pytest.approx(12e3 / 3600)
    assert whole["mass_kg_s"] == pytest.approx(whole["mole_mol_s"] * one["molar_mass_g_mol"] / 1e3)
    assert whole["actual_m3_s"] == pytest.approx(whole["mass_kg_s"] / one["density_kg_m3"])
    for key in ("mole_mol_s", "mass_kg_s", "actual_m3_s", "standard_gas_m3_s", "standard_liquid_m3_s"):
        assert sum(p["rates"][key] for p in one["phases"]) == pytest.approx(whole[key], rel=1e-9), key
    again = {
        "mass_kg_s": {"rate": f"{whole['mass_kg_s']} kg/s"},
        "actual_m3_s": {"rate": f"{whole['actual_m3_s']} m3/s"},
        "standard_liquid_m3_s": {"rate": f"{whole['standard_liquid_m3_s']} m3/s", "rate_by": "standard liquid"},
        "standard_gas_m3_s": {"rate": f"{whole['standard_gas_m3_s']} m3/s", "rate_by": "standard gas"},
        "mole_mol_s": {"rate": f"{whole['standard_gas_m3_s'] * 86400 / 0.028316846592 / 1e6} MMscf/day"},
    }
    for asked in again.values():
        other = ask(parts, temperature="320 K", pressure="30 bar", **asked)["rates"]
        np.testing.assert_allclose(list(other.values()), list(whole.values()), rtol=1e-6)


def test_a_rate_without_a_unit_of_flow_is_refused():
    fluid = {"name": "F", "parts": [{"component": "methane", "amount": 1}]}
    for rate, words in (
        ("12", "a rate has a unit"),
        ("5 bar", "a rate has a unit"),
        ("0 kg/h", "above zero"),
        ("-2 kg/h", "above zero"),
    ):
        study = {"name": "a", "kind": "flash", "fluid": "F", "temperature": "300 K", "pressure": "1 bar", "rate": rate}
        faults = check_document(document(fluids=[fluid], studies=[study]))
        assert any(words in f.message for f in faults), rate


def test_measured_viscosities_are_met():
    points = [[0, "35 degC"], [10, "110 degC"], [30, "220 degC"], [50, "320 degC"], [70, "430 degC"], [90, "560 degC"]]
    sample = {"name": "S", "distillation": {"points": points},
              "bulk": {"density": "32 degAPI", "viscosity": [["20 degC", "14 cSt"], ["60 degC", "5.1 cSt"]]}}  # fmt: skip
    fluid = {"name": "F", "parts": [{"sample": "S", "amount": 1}]}
    studies = [
        {"name": f"{t}", "kind": "flash", "fluid": "F", "temperature": f"{t} degC", "pressure": "1 atm"}
        for t in (20, 60)
    ]
    answers = solve(document(samples=[sample], fluids=[fluid], studies=studies))["answers"]
    for name, measured in (("20", 14e-6), ("60", 5.1e-6)):
        liquid = answers[name]["phases"][-1]
        assert liquid["viscosity_Pa_s"] / liquid["density_kg_m3"] == pytest.approx(measured, rel=2e-3)
    assert any("Liquid viscosities are brought to those measured of S (2)" in n for n in answers["20"]["notes"])


def test_a_viscosity_curve_reaches_the_flash_and_a_dynamic_viscosity_is_met_as_such():
    points = [[0, "35 degC"], [10, "110 degC"], [30, "220 degC"], [50, "320 degC"], [70, "430 degC"], [90, "560 degC"]]
    ends = {
        "mode": "measured",
        "basis": "volume",
        "amounts": {"ethane": 1, "propane": 0.8, "n-butane": 2, "n-pentane": 2},
    }
    curve = {
        "at": "37.8 degC",
        "points": [[10, "0.8 cSt"], [30, "2 cSt"], [50, "5 cSt"], [70, "20 cSt"], [90, "200 cSt"]],
    }
    shared = {"distillation": {"points": points}, "light_ends": ends}
    samples = [
        {"name": "C", **shared, "bulk": {"density": "32 degAPI"}, "curves": {"viscosity": [curve]}},
        {"name": "D", **shared, "bulk": {"density": "32 degAPI", "viscosity": [["40 degC", "5.5 cP"]]}},
    ]
    studies = [
        {"name": "c", "kind": "flash", "fluid": "C", "temperature": "310.928 K", "pressure": "1 atm"},
        {"name": "d", "kind": "flash", "fluid": "D", "temperature": "40 degC", "pressure": "1 atm"},
        {"name": "made", "kind": "characterization", "sample": "C"},
    ]
    answers = solve(document(samples=samples, studies=studies))["answers"]
    whole = answers["made"]["bulk"]["viscosity"][0]["kinematic_viscosity_m2_s"]
    assert answers["c"]["phases"][-1]["kinematic_viscosity_m2_s"] == pytest.approx(whole, rel=2e-3)
    assert any("viscosity curves of C" in n for n in answers["c"]["notes"])
    # Light ends boil off on the way: the liquid that is left is the one measured.
    assert len(answers["d"]["phases"]) == 2
    assert answers["d"]["phases"][-1]["viscosity_Pa_s"] == pytest.approx(5.5e-3, rel=1e-6)


def test_a_pair_of_water_and_its_aqueous_parameter_are_two_values():
    """Carbon dioxide in water at 320 K, 80 bar: 1.9 mol%; a value for the other phases leaves it there, one for the water phase moves it alone."""
    parts = [{"component": "carbon dioxide", "amount": 1}, {"component": "water", "amount": 1}]
    models = {
        "library": {}, "gas": {"kij_pairs": [["carbon dioxide", "water", 0.25]]}, "water": {"aqueous_pairs": [["CO2", -0.05, 0.0004]]},
        "alone": {"kij": "zero", "aqueous_pairs": [["CO2", -0.05, 0.0004]]},
    }  # fmt: skip
    fluids = [{"name": n, "parts": parts, "model": m} for n, m in models.items()]
    studies = [{"name": n, "kind": "flash", "fluid": n, "temperature": "320 K", "pressure": "80 bar"} for n in models]
    answers = solve(document(fluids=fluids, studies=studies))["answers"]
    dissolved = {n: a["phases"][-1]["composition"]["carbon dioxide"] for n, a in answers.items()}
    evaporated = {n: a["phases"][0]["composition"]["water"] for n, a in answers.items()}
    assert dissolved["library"] == pytest.approx(0.0192, abs=1e-3)
    assert dissolved["gas"] == pytest.approx(dissolved["library"], rel=0.05)
    assert evaporated["gas"] < 0.9 * evaporated["library"]
    assert dissolved["water"] < 0.6 * dissolved["library"]
    assert evaporated["water"] == pytest.approx(evaporated["library"], rel=0.03)
    assert dissolved["alone"] == pytest.approx(dissolved["water"], rel=0.1)
    wrong = {"name": "W", "parts": parts, "model": {"aqueous_pairs": [["water", 0.1], ["methane", 0.1], ["CO2", 3]]}}
    told = " ".join(f.message for f in check_document(document(fluids=[wrong])))
    assert "no parameter with itself" in told
    assert "methane" in told
    assert "outside -1 to 1" in told


def test_the_density_is_held_against_the_reference_equation_of_what_is_nearly_pure():
    """Carbon dioxide at 35 degC, 100 bar: 713 kg/m3 (Span and Wagner, 1996), by PR78 a tenth less."""
    at = {"temperature": "35 degC", "pressure": "100 bar"}
    told = [n for n in ask({"carbon dioxide": 97, "nitrogen": 3}, **at)["notes"] if "reference equation" in n]
    assert len(told) == 1
    assert "638.1 kg/m³ by PR78, 712.9 kg/m³" in told[0]
    assert any("dense fluid" in n for n in ask({"carbon dioxide": 1}, **at)["notes"])
    assert not any("by its reference equation" in n for n in ask({"carbon dioxide": 90, "nitrogen": 10}, **at)["notes"])
