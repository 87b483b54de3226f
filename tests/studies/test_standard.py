"""Standard volumes, heating values and flow rates as a flash answers them."""

from __future__ import annotations

import json

import numpy as np
import pytest

from cryonome.document import Document, check_document, parse_document
from cryonome.studies import solve


def document(**parts) -> Document:
    return parse_document(json.dumps({"format": "cryonome/1", **parts}))


def ask(parts: dict[str, float], **study) -> dict:
    fluid = {"name": "F", "parts": [{"component": n, "amount": a} for n, a in parts.items()]}
    doc = document(fluids=[fluid], studies=[{"name": "a", "kind": "flash", "fluid": "F", **study}])
    return solve(doc)["answers"]["a"]


def test_heating_values_are_those_of_the_standard():
    """ISO 6976 (2016), J/mol at 25 degC, over the ideal molar volume at 60 degF: methane, and a mixture of it with ethane."""
    volume = 8.31446261815324 * 288.70555555555556 / 101325.0
    methane = ask({"methane": 1}, temperature="300 K", pressure="1 bar")["standard"]
    assert methane["gross_heating_value_J_m3"] == pytest.approx(890.58e3 / volume, rel=1e-4)
    assert methane["net_heating_value_J_m3"] == pytest.approx(802.55e3 / volume, rel=1e-4)
    assert methane["gas_gravity"] == pytest.approx(16.043 / 28.9647, rel=1e-5)
    assert methane["wobbe_index_J_m3"] == pytest.approx(890.58e3 / volume / (16.043 / 28.9647) ** 0.5, rel=1e-4)
    mixed = ask({"methane": 90, "ethane": 10}, temperature="300 K", pressure="1 bar")["standard"]
    assert mixed["gross_heating_value_J_m3"] == pytest.approx((0.9 * 890.58e3 + 0.1 * 1560.69e3) / volume, rel=1e-4)
    assert "api" not in mixed


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
