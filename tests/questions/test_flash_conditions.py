"""The state of a fluid by any two conditions: the same state whichever two are typed and in whatever unit, and the sentence where there is none."""

from __future__ import annotations

from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ask import answers, faults
from cryonome.components import find
from cryonome.telling import Units
from cryonome.telling.answers import BEYOND, tables

GAS = [("methane", 60), ("propane", 25), ("n-hexane", 15)]
MOLAR_MASS = sum(a * find(n).molar_mass for n, a in GAS) / 100


def document(*asked, parts=GAS, eos="PR78", **more):
    """Return a document that asks for states of one fluid, each of its conditions."""
    return {
        "format": "cryonome/1",
        "fluids": [{"name": "F", "parts": [{"component": n, "amount": a} for n, a in parts], "model": {"eos": eos}}],
        "studies": [{"name": str(k), "kind": "flash", "fluid": "F", **given, **more} for k, given in enumerate(asked)],
    }


def ask(*asked, **more):
    """Return the answers in order."""
    return list(answers(document(*asked, **more)).values())


def refused(given, **more):
    """Return why there is no state, in a sentence or several."""
    (answer,) = ask(given, **more)
    assert not answer["ok"]
    return " ".join((answer["error"], *answer.get("notes", ())))


def units_of(answer):
    """Return the conditions of a state as cells in unusual units, of molar and of specific quantities."""
    return {
        "temperature": f"{answer['temperature_K'] * 1.8 - 459.67:.12f} degF",
        "pressure": f"{answer['pressure_Pa'] / 6894.757293168 - 14.695948775:.12f} psig",
        "vapour_fraction": f"{100 * answer['vapour_fraction']:.12f} %",
        "enthalpy": f"{answer['enthalpy_J_mol'] / MOLAR_MASS / 1000:.12f} kJ/kg",
        "entropy": f"{answer['entropy_J_mol_K'] / MOLAR_MASS / 4186.8:.14f} Btu/lb/degR",
        "density": f"{answer['density_kg_m3'] / 16.01846337396:.14f} lb/ft3",
        "molar_volume": f"{1000 * MOLAR_MASS / answer['density_kg_m3'] / 1000:.15f} m3/mol",
        "internal_energy": f"{answer['internal_energy_J_mol']:.12f} J/mol",
    }


def test_two_phases_are_found_by_every_pair_in_every_unit():
    (start,) = ask({"temperature": "20 degC", "pressure": "20 bar"})
    assert 0.5 < start["vapour_fraction"] < 0.9
    cells = units_of(start)
    pairs = [p for p in combinations(cells, 2) if set(p) != {"density", "molar_volume"}]
    assert len(pairs) == 27
    for pair, found in zip(pairs, ask(*({k: cells[k] for k in p} for p in pairs)), strict=True):
        assert found["ok"], (pair, found)
        several = [n for n in found["notes"] if "More than one state" in n or "occurs more than once" in n]
        if not several:
            for key in ("temperature_K", "pressure_Pa", "vapour_fraction", "density_kg_m3"):
                assert found[key] == pytest.approx(start[key], rel=1e-6), pair


@settings(max_examples=25)
@given(T=st.floats(220.0, 480.0), P=st.floats(1e5, 4e7))
def test_a_single_phase_comes_back_by_what_it_holds(T, P):
    (start,) = ask({"temperature": f"{T} K", "pressure": f"{P} Pa"})
    cells = units_of(start)
    by = [("pressure", "enthalpy"), ("pressure", "entropy"), ("temperature", "density"), ("entropy", "internal_energy"), ("density", "internal_energy")]  # fmt: skip
    for pair, found in zip(by, ask(*({k: cells[k] for k in p} for p in by))):
        assert found["ok"], (pair, found)
        assert found["temperature_K"] == pytest.approx(T, rel=2e-6), pair
        assert found["pressure_Pa"] == pytest.approx(P, rel=2e-5), pair


def test_a_molar_volume_is_a_density_and_both_are_one_too_many():
    (one,) = ask({"temperature": "300 K", "density": "40 kg/m3"})
    (other,) = ask({"temperature": "300 K", "molar_volume": f"{MOLAR_MASS / 40:.15g} m3/mol"})
    assert other["pressure_Pa"] == pytest.approx(one["pressure_Pa"], rel=1e-9)
    told = [f.message for f in faults(document({"density": "40 kg/m3", "molar_volume": "1 m3/mol"}))]
    assert told


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({}, "none given"),
        ({"temperature": "300 K"}, "temperature given"),
        ({"temperature": "300 K", "pressure": "1 bar", "density": "3 kg/m3"}, "temperature, pressure, density given"),
        ({"temperature": "300", "pressure": "1 bar"}, None),
        ({"temperature": "300 bar", "pressure": "1 bar"}, "where a temperature belongs"),
        ({"temperature": "-5 K", "pressure": "1 bar"}, "-5 K"),
        ({"temperature": "300 K", "pressure": "-2 barg"}, "-2 barg"),
        ({"temperature": "300 K", "vapour_fraction": 1.2}, "between 0 and 1"),
        ({"temperature": "300 K", "vapour_fraction": "50 bar"}, "where a fraction belongs"),
        ({"temperature": "300 K", "enthalpy": "5 m"}, "where a molar enthalpy belongs"),
        ({"temperature": "300 K", "density": 0}, "0"),
    ],
)
def test_what_cannot_be_two_conditions_is_told_at_its_cell(given, words):
    found = faults(document(given))
    if words is None:
        assert not found  # a bare number is kelvin, as everywhere in a document
    else:
        assert found
        assert found[0].path[:2] == ("studies", 0)
        assert words in found[0].message


def test_one_component_that_boils_has_no_state_by_temperature_and_pressure_alone():
    propane = [("propane", 1)]
    (line,) = ask({"temperature": "300 K", "vapour_fraction": 0.3}, parts=propane)
    cells = {"temperature": "300 K", "pressure": f"{line['pressure_Pa']!r} Pa"}
    told = refused(cells, parts=propane)
    assert "Propane boils at" in told
    assert "they do not fix how much of it is vapour" in told
    above, below = ask(
        {"temperature": "300 K", "pressure": f"{1.001 * line['pressure_Pa']} Pa"},
        {"temperature": "300 K", "pressure": f"{0.999 * line['pressure_Pa']} Pa"},
        parts=propane,
    )
    assert (above["vapour_fraction"], below["vapour_fraction"]) == (0.0, 1.0)
    (by_energy,) = ask({"pressure": cells["pressure"], "enthalpy": f"{line['enthalpy_J_mol']!r} J/mol"}, parts=propane)
    assert by_energy["vapour_fraction"] == pytest.approx(0.3, abs=1e-6)
    assert by_energy["temperature_K"] == pytest.approx(300.0, rel=1e-6)


def test_what_is_out_of_reach_is_told_with_what_is_in_reach():
    told = refused({"temperature": "300 K", "density": "900 kg/m3"})
    assert "A density of 900.0 kg/m³ is above what this fluid can be packed to at 26.85 °C" in told
    told = refused({"pressure": "20 bar", "enthalpy": "5000 kJ/mol"})
    assert "No state of this fluid at a pressure of 20.00 bar has the enthalpy 5000 kJ/mol" in told
    told = refused({"vapour_fraction": 0.5, "enthalpy": "300 kJ/mol"})
    assert "at a vapour fraction of 0.5" in told
    told = refused({"enthalpy": "300 kJ/mol", "entropy": "-300 J/(mol K)"})
    assert "No state of this fluid has the given enthalpy and entropy at once" in told
    told = refused({"temperature": "600 K", "vapour_fraction": 0.5})
    assert "at 326.85 °C within the traced envelope" in told
    assert "runs from" in told


def test_a_retrograde_dew_point_occurs_twice_and_both_are_told():
    found, one = ask({"temperature": "100 degC", "vapour_fraction": 1.0}, {"temperature": "-40 degC", "vapour_fraction": 1.0})  # fmt: skip
    (note,) = (n for n in found["notes"] if "occurs more than once" in n)
    assert "also at" in note
    assert not any("occurs more than once" in n for n in one["notes"])
    (there,) = ask({"temperature": "100 degC", "pressure": f"{found['pressure_Pa'] * 0.999999} Pa"})
    assert abs(1.0 - there["vapour_fraction"]) < 1e-4


@pytest.mark.parametrize(
    ("rate", "by", "told"),
    [
        ("100 mol/s", "actual", "mole_mol_s"),
        ("2 kg/s", "actual", "mass_kg_s"),
        ("1 m3/s", "actual", "actual_m3_s"),
        ("1 m3/s", "standard gas", "standard_gas_m3_s"),
        ("1 m3/s", "standard liquid", "standard_liquid_m3_s"),
    ],
)
def test_a_rate_is_told_by_all_its_measures_and_phases_add_up(rate, by, told):
    (answer,) = ask({"temperature": "20 degC", "pressure": "20 bar"}, rate=rate, rate_by=by)
    rates = answer["rates"]
    assert rates[told] == pytest.approx(float(rate.split()[0]), rel=1e-12)
    assert rates["mass_kg_s"] == pytest.approx(rates["mole_mol_s"] * MOLAR_MASS, rel=1e-9)
    assert rates["actual_m3_s"] == pytest.approx(rates["mass_kg_s"] / answer["density_kg_m3"], rel=1e-9)
    for key in rates:
        if not key.startswith("standard_liquid"):
            assert sum(p["rates"][key] for p in answer["phases"]) == pytest.approx(rates[key], rel=1e-9), key
    # An ideal gas has 23.690 litres a mole at 1 atm and 60 degF.
    assert rates["standard_gas_m3_s"] / rates["mole_mol_s"] == pytest.approx(0.0236904, rel=1e-4)


def test_another_equation_answers_beside_with_its_own_numbers():
    (both,) = ask({"temperature": "20 degC", "pressure": "20 bar"}, equations=["SRK"])
    (srk,) = ask({"temperature": "20 degC", "pressure": "20 bar"}, eos="SRK")
    beside = both["compared"]["SRK"]
    assert beside["vapour_fraction"] == pytest.approx(srk["vapour_fraction"], rel=1e-9)
    assert beside["vapour_fraction"] != pytest.approx(both["vapour_fraction"], rel=1e-4)


def test_energies_and_derivatives_of_a_state_are_consistent():
    """By central differences of whole answers: density by T and P, enthalpy by P, and the energies of each phase."""
    T, P, dT, dP = 310.0, 5e6, 0.02, 500.0
    at = [{"temperature": f"{T + i * dT} K", "pressure": f"{P + j * dP} Pa"} for i, j in ((0, 0), (1, 0), (-1, 0), (0, 1), (0, -1))]  # fmt: skip
    here, warm, cold, high, low = ask(*at, parts=[("methane", 95), ("propane", 5)])
    (phase,) = here["phases"]
    assert phase["kind"] == "vapour"
    density = lambda a: a["density_kg_m3"]  # noqa: E731
    assert phase["density_by_temperature_kg_m3_K"] == pytest.approx(
        (density(warm) - density(cold)) / (2 * dT), rel=1e-5
    )
    assert phase["density_by_pressure_kg_m3_Pa"] == pytest.approx((density(high) - density(low)) / (2 * dP), rel=1e-5)
    rise = (high["enthalpy_J_mol"] - low["enthalpy_J_mol"]) / (2 * dP)
    assert phase["enthalpy_by_pressure_J_mol_Pa"] == pytest.approx(rise, rel=1e-4)
    cp = (warm["enthalpy_J_mol"] - cold["enthalpy_J_mol"]) / (2 * dT)
    assert phase["heat_capacity_p_J_mol_K"] == pytest.approx(cp, rel=1e-5)
    assert phase["joule_thomson_K_Pa"] == pytest.approx(-rise / cp, rel=1e-4)
    V = phase["molar_volume_m3_mol"]
    assert phase["internal_energy_J_mol"] == pytest.approx(phase["enthalpy_J_mol"] - P * V, rel=1e-9)
    assert phase["gibbs_J_mol"] == pytest.approx(phase["enthalpy_J_mol"] - T * phase["entropy_J_mol_K"], rel=1e-9)
    kappa, beta = phase["isothermal_compressibility_1_Pa"], phase["thermal_expansion_1_K"]
    cv = phase["heat_capacity_p_J_mol_K"] - T * V * beta**2 / kappa
    assert phase["heat_capacity_v_J_mol_K"] == pytest.approx(cv, rel=1e-8)
    sound = (phase["heat_capacity_p_J_mol_K"] / cv / (phase["density_kg_m3"] * kappa)) ** 0.5
    assert phase["speed_of_sound_m_s"] == pytest.approx(sound, rel=1e-8)


def test_an_aqueous_liquid_far_below_ice_has_an_answer_that_says_where_its_correlations_end():
    parts = [("methane", 10), ("n-hexane", 60), ("water", 30)]
    usual, cold, coldest = ask(*({"temperature": f"{T} K", "pressure": "5 bar"} for T in (290, 240, 110)), parts=parts)
    told = [[n for n in a["notes"] if "colder than its correlations go" in n] for a in (usual, cold, coldest)]
    assert [len(notes) for notes in told] == [0, 1, 1]
    assert "those at −20 °C" in told[1][0]
    thick = [next(p for p in a["phases"] if p["kind"] == "aqueous")["viscosity_Pa_s"] for a in (usual, cold, coldest)]
    assert thick[0] == pytest.approx(1.08e-3, rel=0.02)
    assert thick[1] == pytest.approx(10.4e-3, rel=0.01)
    assert thick[2] == pytest.approx(59.3e-3, rel=0.01)
    # By the equation's own properties nothing of the kind is said.
    own = document({"temperature": "240 K", "pressure": "5 bar"}, parts=parts)
    own["fluids"][0]["model"]["aqueous"] = "equation"
    assert not any("correlations go" in n for n in answers(own)["0"]["notes"])


def test_a_coefficient_beyond_any_number_is_told_as_such_and_takes_nothing_with_it():
    parts = [("water", 70.4), ("isopentane", 55.5), ("ethylene", 0.00135)]
    (answer,) = ask({"temperature": "25.44 K", "pressure": "0.23 bar"}, parts=parts)
    water, oil = (next(p for p in answer["phases"] if p["kind"] == kind) for kind in ("aqueous", "liquid"))
    assert water["fugacity_coefficient"]["isopentane"] is None
    assert water["fugacity_Pa"]["isopentane"] is None
    for name in ("water", "ethylene"):
        assert water["fugacity_Pa"][name] == pytest.approx(oil["fugacity_Pa"][name], rel=1e-6)
    blocks = tables(answer, Units.of("metric"))
    assert BEYOND in {cell for block in blocks for row in block.rows for cell in row}
