"""The studies isotherms, roots and advice."""

from __future__ import annotations

import json

import numpy as np
import pytest

from cryonome.components.saturation_data import SATURATION
from cryonome.document import Document, check_document, parse_document
from cryonome.questions import solve

R = 8.31446261815324


def document(parts: dict[str, float], *studies: dict, model: dict | None = None) -> Document:
    fluid = {"name": "F", "parts": [{"component": n, "amount": a} for n, a in parts.items()], "model": model or {}}
    listed = [{"name": f"{i}", "fluid": "F", **s} for i, s in enumerate(studies)]
    return parse_document(json.dumps({"format": "cryonome/1", "fluids": [fluid], "studies": listed}))


def ask(parts: dict[str, float], study: dict, model: dict | None = None) -> dict:
    return solve(document(parts, study, model=model))["answers"]["0"]


@pytest.mark.parametrize(
    ("name", "T", "P", "liquid", "vapour"),
    [
        ("carbon dioxide", 250.0, 1.785e6, 1046.0, 46.64), ("carbon dioxide", 273.15, 3.485e6, 927.4, 97.65),
        ("methane", 150.0, 1.040e6, 357.9, 16.33), ("nitrogen", 77.355, 101325.0, 806.1, 4.61), ("nitrogen", 100.0, 0.778e6, 689.4, 31.96),
        ("ethane", 184.57, 101325.0, 543.8, 2.054), ("water", 373.124, 101325.0, 958.35, 0.598), ("water", 573.15, 8.588e6, 712.1, 46.17),
        # Normal boiling points, and the triple point of argon: Tegeler et al. (1999), Schmidt and Wagner (1985), Lemmon and Span (2006).
        ("argon", 83.8058, 68891.0, 1416.8, 4.0546), ("argon", 87.302, 101325.0, 1395.4, 5.772), ("argon", 120.0, 1.2130e6, 1162.8, 60.14),
        ("oxygen", 90.1878, 101325.0, 1141.2, 4.467), ("oxygen", 120.0, 1.0223e6, 973.85, 39.31), ("isopentane", 300.98, 101325.0, 612.0, 3.057),
    ],
)  # fmt: skip
def test_built_in_saturation_is_the_published_one(name, T, P, liquid, vapour):
    data = SATURATION[name]
    found = data.at(T)
    assert found[0] == pytest.approx(P, rel=2e-3)
    assert data.molar_mass / found[1] == pytest.approx(liquid, rel=1e-3)
    assert data.molar_mass / found[2] == pytest.approx(vapour, rel=2e-3)
    assert np.isnan(data.at(data.Tc + 1.0)[0])


def test_isotherms_of_carbon_dioxide_by_several_equations():
    study = {
        "kind": "isotherms",
        "temperatures": ["0 degC", "60 degC"],
        "equations": ["PR78", "SRK", "VDW", "PC-SAFT", "ideal"],
    }
    answer = ask({"CO2": 1}, study)
    by = {e["equation"]: e for e in answer["equations"]}
    # Critical compressibilities of the forms: 0.3074, 1/3 and 3/8.
    for name, Zc in (("PR78", 0.30740), ("SRK", 1 / 3), ("VDW", 0.375)):
        c = by[name]["critical"]
        assert c["pressure_Pa"] * c["molar_volume_m3_mol"] / (R * c["temperature_K"]) == pytest.approx(Zc, rel=1e-4)
    assert by["ideal"]["critical"] is None
    assert by["PR78"]["deviations_percent"]["pressure"]["average"] < 0.7
    assert by["VDW"]["deviations_percent"]["pressure"]["average"] > 50.0
    assert (
        by["SRK"]["deviations_percent"]["liquid"]["average"] > 2 * by["PR78"]["deviations_percent"]["liquid"]["average"]
    )
    for name in ("PR78", "SRK", "PC-SAFT"):
        cold, hot = by[name]["isotherms"]
        assert hot["saturation"] is None
        s = cold["saturation"]
        V, P = np.array(cold["molar_volume_m3_mol"]), np.array(cold["pressure_Pa"])
        # Maxwell's equal areas between the volumes of liquid and vapour, which lie on the isotherm.
        inside = (s["liquid_m3_mol"] * (1 - 1e-12) <= V) & (s["vapour_m3_mol"] * (1 + 1e-12) >= V)
        area = np.trapezoid(P[inside] - s["pressure_Pa"], V[inside])
        whole = np.trapezoid(np.abs(P[inside] - s["pressure_Pa"]), V[inside])
        assert abs(area) < 0.02 * whole
        for end in ("liquid_m3_mol", "vapour_m3_mol"):
            assert np.interp(s[end], V, P) == pytest.approx(s["pressure_Pa"], rel=1e-6)
        dome = by[name]["saturation_line"]
        assert dome["liquid_m3_mol"][-1] == pytest.approx(by[name]["critical"]["molar_volume_m3_mol"], rel=0.1)
    np.testing.assert_allclose(
        np.array(by["ideal"]["isotherms"][0]["molar_volume_m3_mol"]) * by["ideal"]["isotherms"][0]["pressure_Pa"],
        R * 273.15,
        rtol=1e-12,
    )
    assert "Span and Wagner" in " ".join(answer["notes"])


def test_measured_points_of_ones_own_replace_the_built_in_ones():
    study = {"kind": "isotherms", "temperatures": ["300 K"],
             "measured": [{"temperature": "300 K", "pressure": "10 bar", "liquid": "90 cm**3/mol"}]}  # fmt: skip
    answer = ask({"propane": 1}, study)
    off = answer["equations"][0]["deviations_percent"]
    assert off["pressure"]["worst"] < 1.0
    assert "vapour" not in off
    assert answer["measured"]["vapour_m3_mol"] == [None]


def test_saturation_that_is_not_built_in_comes_of_the_reference_equation_and_roots_at_it_are_told():
    study = {"kind": "isotherms", "temperatures": ["20 degC", "80 degC"], "equations": ["PR78", "VDW"]}
    for name, nbp in (("propane", 231.036), ("n-butane", 272.66), ("isobutane", 261.40), ("n-pentane", 309.21)):
        answer = ask({name: 1}, study)
        T, P = (np.array(answer["measured"][k]) for k in ("temperature_K", "pressure_Pa"))
        assert np.exp(np.interp(nbp, T, np.log(P))) == pytest.approx(101325.0, rel=0.01)
    propane = ask({"propane": 1}, study)
    assert any("reference equation" in n or "Lemmon" in n for n in propane["notes"])
    own, vdw = propane["equations"]
    cold = own["isotherms"][0]
    # Published at 20 degC: 8.365 bar, 500.1 kg/m3 (Lemmon, McLinden and Wagner 2009); the deviations are of that very isotherm.
    assert cold["at_measured"]["pressure_Pa"] == pytest.approx(8.365e5, rel=1e-3)
    published = 44.0956e-3 / 500.06
    assert cold["deviations_percent"]["liquid"] == pytest.approx(
        100 * abs(cold["saturation"]["liquid_m3_mol"] / published - 1), abs=0.1
    )
    assert own["deviations_percent"]["liquid"]["from_K"] < 200.0
    # Van der Waals' vapour pressure of argon is so high that below it there is no liquid root near the critical point.
    argon = ask({"argon": 1}, {"kind": "isotherms", "temperatures": ["150 K"], "equations": ["VDW"]})
    (near,) = argon["equations"][0]["isotherms"]
    assert near["at_measured"]["liquid_m3_mol"] is None
    assert near["saturation"] is not None
    assert vdw["isotherms"][0]["at_measured"]["liquid_m3_mol"] is not None


def test_marks_of_a_mixture_are_its_bubble_and_dew_points():
    parts = {"methane": 60, "n-butane": 40}
    (found,) = ask(parts, {"kind": "isotherms", "temperatures": ["20 degC"], "equations": ["PR78"]})["equations"]
    marks = {m["kind"]: m for m in found["isotherms"][0]["marks"]}
    points = ask(parts, {"kind": "saturation", "temperature": "20 degC"})["points"]
    for p in points:
        assert marks[p["kind"]]["pressure_Pa"] == pytest.approx(p["pressure_Pa"], rel=1e-6)
        V, P = (np.array(found["isotherms"][0][k]) for k in ("molar_volume_m3_mol", "pressure_Pa"))
        assert np.interp(marks[p["kind"]]["molar_volume_m3_mol"], V, P) == pytest.approx(p["pressure_Pa"], rel=0.02)


def test_isotherms_of_a_mixture_end_at_its_own_critical_point():
    answer = ask({"methane": 70, "propane": 30}, {"kind": "isotherms", "temperatures": ["300 K"], "equations": ["SRK"]})
    (found,) = answer["equations"]
    envelope = ask({"methane": 70, "propane": 30}, {"kind": "envelope"}, {"eos": "SRK"})["critical_points"][0]
    assert found["critical"]["temperature_K"] == pytest.approx(envelope["temperature_K"], rel=1e-9)
    assert found["isotherms"][0]["saturation"] is None
    # Its lines carry the volume of the whole: a flash there finds one phase of it, just beginning to split.
    for side, place in (("bubble_lines", 1), ("dew_lines", 0)):
        line = found[side][0]
        i = len(line["pressure_Pa"]) // 3
        state = {"kind": "flash", "temperature": line["temperature_K"][i], "vapour_fraction": 1 - place}
        answer = ask({"methane": 70, "propane": 30}, state, {"eos": "SRK", "volume_shift": "none"})
        if answer["pressure_Pa"] == pytest.approx(line["pressure_Pa"][i], rel=1e-6):
            assert answer["molar_volume_m3_mol"] == pytest.approx(line["molar_volume_m3_mol"][i], rel=1e-6)
        else:  # retrograde: the other point at that temperature
            assert place == 0


@pytest.mark.parametrize("eos", ["PR78", "PR76", "SRK", "RK", "VDW"])
def test_roots_solve_their_cubic_and_the_stable_one_has_the_least_fugacity(eos):
    answer = ask({"CO2": 1}, {"kind": "roots", "temperature": "250 K", "pressure": "15 bar"}, {"eos": eos})
    for root in answer["roots"]:
        z = root["Z_real"] + 1j * root["Z_imaginary"]
        assert abs(np.polyval(answer["coefficients"], z)) < 1e-12
    real = [r for r in answer["roots"] if "fugacity_Pa" in r]
    stable = [r for r in real if r["stable"]]
    assert len(stable) == 1
    assert stable[0]["fugacity_Pa"] == min(r["fugacity_Pa"] for r in real)
    for r in real:
        # G departure = H - T S departures.
        gibbs = r["enthalpy_departure_J_mol"] - 250.0 * r["entropy_departure_J_mol_K"]
        assert R * 250.0 * np.log(r["fugacity_Pa"] / answer["pressure_Pa"]) == pytest.approx(gibbs, rel=1e-9)
    # A volume leads back to the pressure it came from.
    volume = f"{stable[0]['molar_volume_m3_mol'] * 1e6!r} cm**3/mol"
    back = ask({"CO2": 1}, {"kind": "roots", "temperature": "250 K", "molar_volume": volume}, {"eos": eos})
    assert back["pressure_Pa"] == pytest.approx(1.5e6, rel=1e-8)


def test_roots_at_saturation_have_equal_fugacities_and_saft_has_no_cubic():
    dome = ask({"CO2": 1}, {"kind": "saturation", "temperature": "250 K"}, {"eos": "PC-SAFT"})["points"][0]
    answer = ask(
        {"CO2": 1}, {"kind": "roots", "temperature": "250 K", "pressure": dome["pressure_Pa"]}, {"eos": "PC-SAFT"}
    )
    assert "coefficients" not in answer
    first, second = answer["roots"]
    assert first["fugacity_Pa"] == pytest.approx(second["fugacity_Pa"], rel=1e-8)


def test_roots_by_another_equation_are_those_of_a_fluid_with_it():
    study = {"kind": "roots", "temperature": "0 degC", "pressure": "35 bar"}
    named = ask({"CO2": 1}, {**study, "equation": "SRK"})
    assert named["roots"] == ask({"CO2": 1}, study, {"eos": "SRK"})["roots"]
    V, P = (np.array(named["isotherm"][k]) for k in ("molar_volume_m3_mol", "pressure_Pa"))
    for root in named["roots"]:
        assert np.interp(root["molar_volume_m3_mol"], V, P) == pytest.approx(35e5, rel=1e-6)


def test_component_cards_hold_the_constants_of_databank_and_fluid():
    answers = solve(document({"methane": 80, "n-butane": 20}, {"kind": "components", "temperature": "20 degC"}))[
        "answers"
    ]["0"]
    methane, butane = answers["components"]
    assert methane["vapour_pressure_Pa"] is None  # above its critical temperature, which a note says
    assert any("methane" in n for n in answers["notes"])
    # 2.076 bar at 20 degC (Bücker and Wagner 2006); kappa of Peng and Robinson for omega 0.2002.
    assert butane["vapour_pressure_Pa"] == pytest.approx(2.076e5, rel=5e-3)
    assert butane["kappa"] == pytest.approx(0.37464 + 1.54226 * 0.2002 - 0.26992 * 0.2002**2, rel=1e-9)
    assert (methane["mole_fraction"], methane["mass_fraction"]) == (
        0.8,
        pytest.approx(0.8 * 16.043 / (0.8 * 16.043 + 0.2 * 58.124), rel=1e-4),
    )
    data = {"format": "cryonome/1", "studies": [{"name": "0", "kind": "components", "names": ["butane", "H2O"]}]}
    cards = solve(parse_document(json.dumps(data)))["answers"]["0"]["components"]
    assert [(c["name"], c["formula"], c["cas"]) for c in cards] == [
        ("n-butane", "C4H10", "106-97-8"),
        ("water", "H2O", "7732-18-5"),
    ]
    assert "mole_fraction" not in cards[0]


def test_fugacities_are_equal_in_every_phase_and_a_molar_volume_is_a_condition():
    parts = {"methane": 80, "n-decane": 20, "water": 10}
    state = ask(parts, {"kind": "flash", "temperature": "40 degC", "pressure": "50 bar"})
    first, *others = state["phases"]
    assert len(others) == 2
    for phase in others:
        for name, value in first["fugacity_Pa"].items():
            assert phase["fugacity_Pa"][name] == pytest.approx(value, rel=1e-8)
    x, phi = first["composition"]["methane"], first["fugacity_coefficient"]["methane"]
    assert first["fugacity_Pa"]["methane"] == pytest.approx(x * phi * 50e5, rel=1e-12)
    held = ask(parts, {"kind": "flash", "temperature": "40 degC", "molar_volume": state["molar_volume_m3_mol"]})
    assert held["pressure_Pa"] == pytest.approx(50e5, rel=1e-6)


def test_bad_questions_are_told():
    asked = document(
        {"CO2": 1}, {"kind": "roots", "temperature": "250 K"},
        {"kind": "roots", "temperature": "250 K", "pressure": "1 bar", "molar_volume": "1 m3/mol"},
        {"kind": "isotherms"}, {"kind": "isotherms", "temperatures": ["-10 K"]},
        {"kind": "isotherms", "temperatures": ["300 K"], "equations": ["PR98"]},
    )  # fmt: skip
    faults = [f.message for f in check_document(asked)]
    assert len(faults) == 5
    assert any("PR78" in f for f in faults)
    least = ask({"CO2": 1}, {"kind": "roots", "temperature": "250 K", "molar_volume": "20 cm**3/mol"})
    assert "the least this fluid can have" in least["error"]
    torn = ask({"CO2": 1}, {"kind": "roots", "temperature": "250 K", "molar_volume": "60 cm**3/mol"})
    assert "stretched liquid" in torn["error"]


@pytest.mark.parametrize(
    ("parts", "ranges", "best", "unfit", "words"),
    [
        ({"methane": 90, "ethane": 10}, (["10 degC", "50 degC"], ["1 bar", "100 bar"]), {"PR78", "PR76"}, {"VDW"}, "reservoir fluids"),
        ({"methane": 60, "n-hexadecane": 20, "n-triacontane": 20}, (["50 degC"], ["1 bar", "300 bar"]), {"PC-SAFT"}, {"ideal"}, "chain equation"),
        ({"methane": 90, "water": 10}, (["10 degC", "50 degC"], ["1 bar", "100 bar"]), {"PR78", "PR76"}, {"PC-SAFT", "reference"}, "second parameter in phases of water"),
        ({"nitrogen": 1}, (["20 degC", "200 degC"], ["0.1 bar", "1 bar"]), {"reference"}, {"VDW"}, "reference equation of nitrogen"),
        ({"helium": 90, "methane": 10}, (["20 degC", "200 degC"], ["1 bar", "100 bar"]), {"ideal", "SRK", "PR78", "PR76", "PC-SAFT"}, set(), "take the smooth one"),
    ],
)  # fmt: skip
def test_the_adviser_ranks_equations_with_reasons(parts, ranges, best, unfit, words):
    answer = ask(parts, {"kind": "advice", "temperatures": ranges[0], "pressures": ranges[1]})
    ranked = answer["ranked"]
    assert ranked[0]["eos"] in best
    verdicts = {r["eos"]: r["verdict"] for r in ranked}
    assert all(verdicts[name] == "unfit" for name in unfit)
    assert words in " ".join(s for r in ranked for s in r["reasons"])
    assert all(r["reasons"] and r["source"] for r in ranked)
    order = ["fits", "with care", "unfit"]
    places = [order.index(r["verdict"]) for r in ranked]
    assert places == sorted(places)
    if "nitrogen" in parts:
        assert verdicts["ideal"] == "fits"


def test_a_published_name_gives_the_published_numbers():
    """The oil of the fifth comparative project of the Society of Petroleum Engineers, 160 degF: 2302.9 psia; SRK, nitrogen 3, methane 35, n-pentane 62 at 360 K:
    102.06 bar; both by equations written anew."""
    oil = [
        ("C1", 343.0, 667.8, 0.013, 50), ("C3", 665.7, 616.3, 0.1524, 3), ("C6", 913.4, 436.9, 0.3007, 7), ("C10", 1111.8, 304.0, 0.4885, 20),
        ("C15", 1270.0, 200.0, 0.65, 15), ("C20", 1380.0, 162.0, 0.85, 5),
    ]  # fmt: skip
    parts = [
        {"pseudo": {"name": n, "Tc": f"{T} degR", "Pc": f"{P} psia", "omega": w, "molar_mass": 100}, "amount": a}
        for n, T, P, w, a in oil
    ]
    pairs = [["C1", "C15", 0.05], ["C1", "C20", 0.05], ["C3", "C15", 0.005], ["C3", "C20", 0.005]]
    gas = [{"component": n, "amount": a} for n, a in (("nitrogen", 3), ("methane", 35), ("n-pentane", 62))]
    fluids = [
        {"name": "oil", "parts": parts, "model": {"kij": "zero", "kij_pairs": pairs}},
        {"name": "gas", "parts": gas, "model": {"eos": "SRK", "kij": "zero"}},
    ]
    studies = [
        {"name": "oil", "kind": "saturation", "fluid": "oil", "temperature": "160 degF"},
        {"name": "gas", "kind": "saturation", "fluid": "gas", "temperature": "360 K"},
    ]
    data = {"format": "cryonome/1", "fluids": fluids, "studies": studies}
    found = solve(parse_document(json.dumps(data)))["answers"]
    assert found["oil"]["points"][-1]["pressure_Pa"] == pytest.approx(2302.9 * 6894.757, rel=3e-5)
    assert found["gas"]["points"][-1]["pressure_Pa"] == pytest.approx(102.06e5, rel=1e-4)
