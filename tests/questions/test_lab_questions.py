"""Lab tests, matches, black-oil tables, best separators and lumping as questions of a document."""

from __future__ import annotations

import json
import re
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import openpyxl
import pytest
from typer.testing import CliRunner

from cryonome.cli import app
from cryonome.document import check_document, parse_document
from cryonome.document.edits import removed, renamed
from cryonome.exchange import read_text
from cryonome.exchange.taking import with_tests
from cryonome.labtests.black_oil import black_oil, compressibilities, refusals
from cryonome.labtests.optimum import optimum
from cryonome.labtests.separation import separate
from cryonome.questions import solve
from cryonome.results import Evaluator
from cryonome.results.simulated_tests import lab_fluid
from lab_fluids import condensate, oil

OIL = {
    "name": "Oil",
    "parts": [
        {"component": "nitrogen", "amount": 1}, {"component": "methane", "amount": 40}, {"component": "ethane", "amount": 7}, {"component": "propane", "amount": 5},
        {"component": "n-butane", "amount": 4}, {"component": "n-hexane", "amount": 6}, {"pseudo": {"name": "H1", "molar_mass": 150, "specific_gravity": 0.79}, "amount": 20},
        {"pseudo": {"name": "H2", "molar_mass": 320, "specific_gravity": 0.88}, "amount": 17},
    ],
}  # fmt: skip
GAS = {
    "name": "Gas",
    "parts": [
        {"component": "methane", "amount": 80},
        {"component": "ethane", "amount": 15},
        {"component": "CO2", "amount": 5},
    ],
}
P = ["300 bar", "200 bar", "150 bar", "100 bar", "60 bar"]
EXPANSION = {
    "name": "e",
    "kind": "expansion",
    "fluid": "Oil",
    "temperature": "90 degC",
    "pressures": P,
    "measured": {"relative_volume": [0.976, 0.991, 1.08, 1.37, 2.03], "saturation.pressure_Pa": "197 bar"},
}
LIBERATION = {
    "name": "l",
    "kind": "liberation",
    "fluid": "Oil",
    "temperature": "90 degC",
    "pressures": [*P, "1 atm"],
    "measured": {"oil_volume_factor": [1.44, 1.46, 1.4, 1.32, 1.25, 1.05]},
}
SEPARATORS = {
    "name": "s",
    "kind": "separators",
    "fluid": "Oil",
    "temperature": "90 degC",
    "stages": [{"temperature": "40 degC", "pressure": "30 bar"}, {"temperature": "60 degF", "pressure": "1 atm"}],
    "measured": {"api": 39.0},
}


def document(*studies: dict[str, Any], fluid: dict[str, Any] = OIL) -> Any:
    return parse_document(json.dumps({"format": "cryonome/1", "fluids": [fluid, GAS], "studies": list(studies)}))


def answer(*studies: dict[str, Any], fluid: dict[str, Any] = OIL, of: str = "") -> dict[str, Any]:
    return solve(document(*studies, fluid=fluid))["answers"][of or studies[-1]["name"]]


def test_a_tuned_document_gives_what_the_fit_said_it_would() -> None:
    """The fit simulates many sets at once; the document makes one fluid. Both are the same fluid, to the last digits that saturation is solved to."""
    swell = {
        "name": "w",
        "kind": "swelling",
        "fluid": "Oil",
        "gas": "Gas",
        "temperature": "90 degC",
        "gas_moles": [0.1, 0.4],
        "measured": {"swelling_factor": [1.05, 1.2]},
    }
    flash = {
        "name": "f",
        "kind": "flash",
        "fluid": "Oil",
        "temperature": "50 degC",
        "pressure": "40 bar",
        "measured": {"phases.liquid.density_kg_m3": "770 kg/m3", "standard.api": 38},
    }
    point = {
        "name": "p",
        "kind": "saturation",
        "fluid": "Oil",
        "temperature": "50 degC",
        "measured": {"points.bubble.pressure_Pa": "177 bar"},
    }
    cold = {
        "name": "c",
        "kind": "saturation",
        "fluid": "Oil",
        "pressure": "100 bar",
        "measured": {"points.bubble.temperature_K": "-20 degC"},
    }
    tests = [EXPANSION, LIBERATION, SEPARATORS, swell, flash, point, cold]
    parameters = [
        {"property": "Tc", "between": [0.9, 1.1]}, {"property": "shift", "components": ["H1", "H2"]}, {"property": "kij_factor", "with": "methane"},
        {"property": "molar_mass", "components": "H2"}, {"property": "a", "components": "H1", "prior": 0.02}, {"property": "viscosity", "prior": 0.5},
    ]  # fmt: skip
    match = {
        "name": "m",
        "kind": "match",
        "fluid": "Oil",
        "tests": [t["name"] for t in tests],
        "held_out": ["w"],
        "parameters": parameters,
    }
    found = solve(document(*tests, match))["answers"]["m"]
    assert found["ok"], found
    assert found["deviations"]["w"]["held_out"]
    after = {(p["test"], p["key"], p["row"]): p["after"] for p in found["points"]}
    before = {(p["test"], p["key"], p["row"]): p["before"] for p in found["points"]}
    tuned = {**OIL, "model": {"tuned": found["tuned"]}}
    for own, told in ((OIL, before), (tuned, after)):
        for name, one in solve(document(*tests, fluid=own))["answers"].items():
            for m in one["measured"]:
                assert m["ours"] == pytest.approx(told[name, m["key"], m["row"]], rel=2e-6), (name, m["key"])
    assert not any("tuning was made for" in n for n in solve(document(EXPANSION, fluid=tuned))["answers"]["e"]["notes"])
    # Heavier H2 from below is another fluid: it is told, and still answered.
    moved = json.loads(json.dumps(tuned))
    moved["parts"][7]["pseudo"]["molar_mass"] = 340
    assert any("has changed since" in n for n in solve(document(EXPANSION, fluid=moved))["answers"]["e"]["notes"])
    gone = json.loads(json.dumps(tuned))
    del gone["parts"][7]
    assert any(
        "not in the fluid any more: h2" in n for n in solve(document(EXPANSION, fluid=gone))["answers"]["e"]["notes"]
    )


def test_a_factor_on_the_exponent_of_the_rule_is_the_rule_with_that_exponent() -> None:
    point = {"name": "p", "kind": "saturation", "fluid": "Oil", "temperature": "90 degC"}
    change = {"property": "kij_exponent", "components": ["h1", "h2"], "with": ["methane"], "value": 1.5}
    tuned = {**OIL, "model": {"tuned": {"changes": [change]}}}
    other = {**OIL, "model": {"kij_rule": {"exponent": 9}}}
    ours, rule, plain = (answer(point, fluid=f)["points"][-1]["pressure_Pa"] for f in (tuned, other, OIL))
    assert ours == pytest.approx(rule, rel=1e-10)
    assert ours > 1.01 * plain


def test_a_viscosity_is_pasted_and_fitted() -> None:
    text = "Viscosity at 90 °C\nPressure (bar)\tViscosity (cP)\n300\t0.61\n200\t0.56\n100\t0.72\n60\t0.83"
    found = read_text(text, "sheet")
    (test,) = found.tests
    assert (test.kind, test.temperature, found.notes) == ("viscosity", "90 degC", ())
    made = with_tests(document(), "Oil", [test])
    bare = read_text(text.split("\n", 1)[1], "sheet")
    assert [b.kind for b in bare.tests] == ["viscosity"]
    match = {"name": "m", "kind": "match", "fluid": "Oil", "parameters": [{"property": "viscosity"}]}
    whole = json.loads(made.model_dump_json(by_alias=True, exclude_none=True))
    whole["studies"] = [s for s in whole["studies"] if s["kind"] != "match"] + [match]
    found = solve(parse_document(json.dumps(whole)))["answers"]
    (deviation,) = found["m"]["deviations"].values()
    assert deviation["after"] < 0.3 * deviation["before"]
    assert len(found["Viscosity of Oil"]["rows"]) == 4
    # A gas that never parts has viscosities, those that a flash tells, and no saturation point.
    lone = {"name": "Gas", "parts": [{"component": "methane", "amount": 1}]}
    asked = {
        "name": "v",
        "kind": "viscosity",
        "fluid": "Gas",
        "temperature": "60 degC",
        "pressures": ["80 bar", "20 bar"],
    }
    flash = {"name": "f", "kind": "flash", "fluid": "Gas", "temperature": "60 degC", "pressure": "80 bar"}
    raw = {"format": "cryonome/1", "fluids": [lone], "studies": [asked, flash]}
    both = solve(parse_document(json.dumps(raw)))["answers"]
    assert both["v"]["rows"][0]["viscosity_Pa_s"] == pytest.approx(both["f"]["phases"][0]["viscosity_Pa_s"], rel=1e-9)
    assert "saturation" not in both["v"]


def test_a_feed_may_be_told_in_three_ways() -> None:
    plain = answer(SEPARATORS)
    for feed in ({"feed": "saturated"}, {"feed": {"temperature": "90 degC", "pressure": "saturated"}}):
        assert answer({**SEPARATORS, **feed})["oil_volume_factor"] == plain["oil_volume_factor"]
    pressed = answer({**SEPARATORS, "feed": {"temperature": "90 degC", "pressure": plain["saturation"]["pressure_Pa"]}})
    assert pressed["oil_volume_factor"] == pytest.approx(plain["oil_volume_factor"], rel=1e-9)
    assert sum(r["gas_oil_ratio_m3_m3"] for r in plain["rows"]) == pytest.approx(
        plain["gas_oil_ratio_m3_m3"], rel=1e-12
    )


@pytest.mark.parametrize(
    ("study", "place", "words"),
    [
        ({**EXPANSION, "pressures": []}, "studies[0].pressures", "no pressure yet"),
        ({**LIBERATION, "pressures": ["100 bar", "150 bar"], "measured": {}}, "studies[0].pressures[1]", "must fall"),
        ({**EXPANSION, "measured": {"relative_volum": [1]}}, "studies[0].measured.relative_volum", "did you mean relative_volume"),
        ({**EXPANSION, "measured": {"density_kg_m3": ["600 psia"]}}, "studies[0].measured.density_kg_m3[0]", "density"),
        ({**SEPARATORS, "measured": {"gas_oil_ratio_m3_m3": ["600 scf/bbl", "20 bar"]}}, "studies[0].measured.gas_oil_ratio_m3_m3[1]", "gas-oil ratio"),
        ({**EXPANSION, "uncertainty": {"Z": "1 %"}}, "studies[0].uncertainty.Z", "nothing is measured"),
        ({**EXPANSION, "uncertainty": {"relative_volume": "-1 %"}}, "studies[0].uncertainty.relative_volume", "outside 0 to 1"),
        ({**SEPARATORS, "stages": []}, "studies[0].stages", "no stage yet"),
        ({**SEPARATORS, "stages": SEPARATORS["stages"][::-1]}, "studies[0].stages[1].pressure", "must not rise"),
        ({"name": "w", "kind": "swelling", "fluid": "Oil", "gas": "Gass", "temperature": "90 degC", "gas_moles": [0.1]}, "studies[0].gas", "did you mean Gas"),
        ({"name": "m", "kind": "match", "fluid": "Oil", "tests": ["x"]}, "studies[0].tests[0]", "unknown study 'x'"),
        ({"name": "m", "kind": "match", "fluid": "Oil", "tests": [], "parameters": [{"property": "Tcc"}]}, "studies[0].parameters[0].property", "did you mean Tc"),
        ({"name": "m", "kind": "match", "fluid": "Oil", "parameters": [{"property": "kij"}]}, "studies[0].parameters[0].with", "is with other components"),
        ({"name": "m", "kind": "match", "fluid": "Oil", "parameters": [{"property": "Tc", "between": [1.1, 0.9]}]}, "studies[0].parameters[0].between", "leave no room"),
        ({"name": "m", "kind": "match", "fluid": "Oil", "parameters": [{"property": "Tc", "start": 2}]}, "studies[0].parameters[0].start", "outside the bounds"),
        ({"name": "b", "kind": "black_oil", "fluid": "Oil", "temperature": "0 K", "pressures": ["10 bar"]}, "studies[0].temperature", "absolute zero"),
        ({"name": "o", "kind": "separator_optimum", "fluid": "Oil", "temperatures": ["40 degC"], "between": ["50 bar", "2 bar"]}, "studies[0].between", "leave no room"),
        ({"name": "u", "kind": "lumping", "fluid": "Oil"}, "studies[0].components", "either the number"),
        ({"name": "u", "kind": "lumping", "fluid": "Oil", "groups": [["H1", "H2"], ["H2"]]}, "studies[0].groups[1][0]", "in two groups"),
    ],
)  # fmt: skip
def test_bad_input_is_told_at_its_place(study: dict[str, Any], place: str, words: str) -> None:
    faults = [str(f) for f in check_document(document(study))]
    assert any(f.startswith(f"{place}: ") and words in f for f in faults), faults


def test_a_tuning_that_cannot_be_is_told() -> None:
    wrong = {
        "changes": [
            {"property": "Tc", "components": ["H1"], "value": 90},
            {"property": "kij", "components": ["H1"], "value": 0.1},
            {"property": "shift", "components": [], "value": 1},
        ]
    }
    faults = [str(f) for f in check_document(document(fluid={**OIL, "model": {"tuned": wrong}}))]
    assert [f.partition(": ")[0] for f in faults] == [
        f"fluids[0].model.tuned.changes[{i}].{k}" for i, k in ((0, "value"), (1, "with"), (2, "components"))
    ]
    saft = {**OIL, "model": {"eos": "PC-SAFT", "tuned": {"changes": []}}}
    assert any("cubic" in str(f) for f in check_document(document(fluid=saft)))


@pytest.mark.parametrize(
    ("study", "words"),
    [
        ({**EXPANSION, "temperature": "700 K", "fluid": "Gas", "measured": {}}, "no saturation point"),
        ({**LIBERATION, "fluid": "Gas", "temperature": "-60 degC", "measured": {}}, "nothing of the oil is left"),
        ({**SEPARATORS, "fluid": "Gas", "temperature": "-60 degC"}, "no liquid"),
        ({"name": "m", "kind": "match", "fluid": "Gas"}, "nothing to fit"),
        ({"name": "m", "kind": "match", "fluid": "Oil", "tests": ["s"], "parameters": [{"property": "Tc"}, {"property": "Pc"}]}, "do not tell 2 parameters"),
        ({"name": "m", "kind": "match", "fluid": "Oil", "tests": ["s"], "parameters": [{"property": "Tc", "components": ["H3"]}]}, "no component 'H3'"),
        ({"name": "u", "kind": "lumping", "fluid": "Oil", "components": 40}, "no fewer"),
    ],
)  # fmt: skip
def test_what_has_no_answer_says_why(study: dict[str, Any], words: str) -> None:
    own = [SEPARATORS] if study["kind"] == "match" and study["fluid"] == "Oil" else []
    found = answer(*own, study)
    assert not found["ok"]
    assert words in found["error"]


def test_a_dew_measured_against_a_bubble_modelled_is_said() -> None:
    found = answer(
        {
            "name": "p",
            "kind": "saturation",
            "fluid": "Oil",
            "temperature": "90 degC",
            "measured": {"points.dew.pressure_Pa": "200 bar"},
        }
    )
    assert found["measured"][0]["ours"] is None
    assert any("has a bubble point there, not a dew point" in n for n in found["notes"])
    low = answer(
        {
            "name": "p",
            "kind": "saturation",
            "fluid": "Oil",
            "temperature": "90 degC",
            "measured": {"points[0].pressure_Pa": "200 bar"},
        }
    )
    assert 0.8 < low["measured"][0]["ours"] / 200e5 < 1.2


def test_black_oil_tables_begin_at_the_separator_test_and_are_sound() -> None:
    fluid = oil()
    T, stages = 370.0, (np.array([320.0, 288.7]), np.array([30e5, 101325.0]))
    pressures = np.array([150e5, 110e5, 70e5, 40e5, 20e5, 8e5])
    table = black_oil(fluid, T, pressures, stages, np.array([200e5, 260e5, 350e5]))
    train = separate(fluid, *stages)
    feed = fluid.one_phase(np.array([T]), fluid.saturation(T).P)
    assert table.Bo[0] == pytest.approx(float(feed[0] / train.tank_volume[0]), rel=1e-9)
    assert table.Rs[0] == pytest.approx(float(train.gas_oil_ratio[0]), rel=1e-9)
    assert not refusals(table)
    assert {c for c, _ in refusals(replace(table, Rs=0.0 * table.Rs))} == {"compressibility"}
    assert {c for c, _ in refusals(replace(table, branch_B=table.branch_B[::-1].copy()))} >= {"crossing"}
    # Gas of an oil carries some, less as it falls; taken through the train it is what a lab would measure of that gas.
    assert (table.Rv > 0.0).all()
    assert np.isfinite(table.Bg).all()
    first = fluid.saturation(T).incipient
    bubble = separate(fluid, *stages, first)
    assert table.Rv[0] == pytest.approx(1.0 / float(bubble.gas_oil_ratio[0]), rel=1e-9)
    gas = black_oil(condensate(), T, np.array([300e5, 220e5, 120e5]), stages, np.array([400e5]))
    assert not gas.oil
    at = gas.above
    assert (np.diff(gas.Rv) < 0.0).all()
    # All of the fluid's oil is in its gas at the dew point.
    whole = separate(condensate(), *stages)
    assert gas.Rv[at] == pytest.approx(1.0 / float(whole.gas_oil_ratio[0]), rel=1e-8)
    # The oil at the dew point is the first drop, as the train makes of it.
    drop = separate(condensate(), *stages, condensate().saturation(T).incipient)
    assert gas.Rs[at] == pytest.approx(float(drop.gas_oil_ratio[0]), rel=1e-9)


@pytest.mark.parametrize(("make", "T"), [(oil, 370.0), (condensate, 370.0), (condensate, 400.0)])
def test_black_oil_tables_have_both_phases_above_saturation_and_the_compressibility_of_the_fluid(
    make: Any, T: float
) -> None:
    fluid = make()
    at = float(fluid.saturation(T).P[0])
    stages = (np.array([320.0, 288.7]), np.array([30e5, 101325.0]))
    P = at * np.array([1.2, 1.05, 0.99, 0.98])
    table = black_oil(fluid, T, P, stages, P[:2])
    assert table.above == 2
    for columns in (table.Bo, table.Bg, table.Rs, table.Rv, table.mu_o, table.mu_g):
        assert np.isfinite(columns).all()
    # What is there above saturation is the branch of the first row; what dissolves or evaporates stays as it was.
    main = table.Bo if table.oil else table.Bg
    assert main[:2] == pytest.approx(table.branch_B[0], rel=1e-12)
    for kept in (table.Rs, table.Rv):
        assert kept[:2] == pytest.approx(kept[2], rel=1e-12)
    # A little below saturation the whole shrinks and swells as the two phases of a constant mass do.
    below = table.P[2:]
    split = fluid.repeated(below.size).parted(np.full(below.size, T), below)
    V = split.light * split.y_volume + (1.0 - split.light) * split.x_volume
    V[0] = fluid.one_phase(np.array([T]), np.array([at]))[0]
    own = -np.diff(V)[0] / np.diff(below)[0] / V[:2].mean()
    told = compressibilities(table)[0 if table.oil else 1][0]
    assert told == pytest.approx(own, rel=0.01)
    # Lean gas without its oil is drier, and lies beside the saturated gas.
    assert (table.lean_Rv[:, -1] == 0.0).all()
    assert table.lean_B[:, -1] == pytest.approx(table.Bg[2:], rel=0.2)


def test_no_train_gives_more_oil_than_the_best() -> None:
    fluid = oil()
    T = np.array([320.0, 305.0, 288.7])
    best = optimum(fluid, T, 101325.0, 1.2e5, 80e5)
    rng = np.random.default_rng(3)
    tried = np.sort(np.exp(rng.uniform(np.log(1.2e5), np.log(80e5), (200, 2))), axis=1)[:, ::-1]
    many = separate(
        fluid.take(np.zeros(200, np.intp)), np.tile(T, (200, 1)), np.column_stack([tried, np.full(200, 101325.0)])
    )
    assert best.train.tank_volume[0] >= many.tank_volume.max()
    assert np.nanmax(best.curve_liquid) <= best.train.tank_volume[0] * (1.0 + 1e-6)
    # The top of every curve is where the train is.
    for P, curve, own in zip(best.curve_P, best.curve_liquid, best.P):
        assert P[int(np.nanargmax(curve))] == pytest.approx(own, rel=0.12)


def test_alike_components_are_lumped_at_no_cost() -> None:
    twin = {"name": "H1b", "molar_mass": 150, "specific_gravity": 0.79}
    fluid = {**OIL, "parts": [*OIL["parts"], {"pseudo": twin, "amount": 5}]}
    tests = [EXPANSION, {**SEPARATORS, "measured": {}}]
    found = answer(*tests, {"name": "u", "kind": "lumping", "fluid": "Oil", "groups": [["H1", "H1b"]]}, fluid=fluid)
    assert found["ok"], found
    assert all(c["difference_percent"] < 1e-6 for c in found["tests"].values())
    fewer = answer(*tests, {"name": "u", "kind": "lumping", "fluid": "Oil", "components": 5}, fluid=fluid)
    assert len(fewer["groups"]) == 5
    assert sum(g["mole_fraction"] for g in fewer["groups"]) == pytest.approx(1.0)
    assert fewer["tests"]["e"]["difference_percent"] > 0.01
    # What the answer gives is a fluid that answers as it was told.
    made = fewer["fluid"]
    again = solve(
        parse_document(
            json.dumps({"format": "cryonome/1", "fluids": [made], "studies": [{**EXPANSION, "fluid": made["name"]}]})
        )
    )["answers"]["e"]
    assert again["average_deviation_percent"] == pytest.approx(
        fewer["tests"]["e"]["lumped_deviation_percent"], rel=1e-6
    )


def test_water_is_left_out_of_a_test() -> None:
    wet = {**OIL, "parts": [*OIL["parts"], {"component": "water", "amount": 12}]}
    dry, damp = answer(EXPANSION), answer(EXPANSION, fluid=wet)
    assert damp["rows"][2]["relative_volume"] == pytest.approx(dry["rows"][2]["relative_volume"], rel=1e-9)
    assert any("without its water" in n for n in damp["notes"])


REPORT = """Differential liberation, 198 °F\t\t\t
Pressure\tBo\tRs\tOil viscosity
psia\t\tscf/stb\tcP
15\t1.06\t0\t1.9
2000\t1.38\t560\t0.61
4000\t1.45\t720\t0.52
Residual oil density\t0.861 g/cm3

Constant volume depletion at 90 °C
Pressure (bar)\tLiquid (%)\tCumulative produced (mol%)\tGas Z\tmethane (%)\tC3 (%)
250\t1.2\t5.1\t0.87\t81.2\t4.1
150\t9.8\t28.4\t0.85\t82.9\t3.9

Separator test
Pressure, psig\tTemperature, degF\tGOR, scf/stb\tGas gravity
300\t110\t520\t0.71
0\t60\t95\t1.21
API gravity\t35.2

Bubble points
Temperature, degC\tSaturation pressure, bar
60\t171
90\t190
"""


def test_a_report_of_several_tests_is_read_whole() -> None:
    read = read_text(REPORT, "report")
    found = read.tests
    assert not [n for n in read.notes if not n.assumed]
    assert [b.kind for b in found] == ["liberation", "depletion", "separators", "saturation", "saturation"]
    made = with_tests(document(), "Oil", found)
    assert not check_document(made)
    liberation, depletion, separators, first, second, match = made.studies
    # Steps that rise are turned about, each value with its pressure.
    assert liberation.pressures == ("4000 psia", "2000 psia", "15 psia")
    assert liberation.measured["oil_viscosity_Pa_s"] == ("0.52 cP", "0.61 cP", "1.9 cP")
    assert liberation.measured["residual_density_kg_m3"] == "0.861 g/cm**3"
    assert liberation.temperature == "198 degF"
    assert depletion.measured["gas.propane"] == (0.041, 0.039)
    assert depletion.measured["produced_mole_fraction"] == (0.051, 0.284)
    assert separators.measured == {
        "gas_oil_ratio_m3_m3": ("520 scf/bbl", "95 scf/bbl"),
        "gas_gravity": (0.71, 1.21),
        "api": 35.2,
    }
    assert (first.temperature, first.measured) == ("60 degC", {"points.bubble.pressure_Pa": "171 bar"})
    assert (second.temperature, match.kind) == ("90 degC", "match")
    bare = read_text("Constant composition expansion\nPressure\tRelative volume\n200\t1\n100\t1.4\n", "sheet")
    assert not bare.tests
    assert any("pressure needs its unit" in n.text for n in bare.notes)
    assert not read_text("a\tb\n1\t2\n", "sheet").holds


def test_a_report_in_a_workbook_is_that_which_is_pasted(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    book.remove(book.active)
    # A sheet a test, the last without a line that names it: the sheet's name does.
    for part in REPORT.split("\n\n"):
        lines = part.strip("\n").split("\n")
        sheet = book.create_sheet("Separator test" if lines[0] == "Separator test" else "Sheet")
        for line in lines[1:] if sheet.title == "Separator test" else lines:
            sheet.append([float(c) if re.fullmatch(r"-?[0-9.]+", c) else c for c in line.split("\t")])
    path, there = tmp_path / "report.xlsx", tmp_path / "oil.cryo"
    book.save(path)
    there.write_text(document().model_dump_json(by_alias=True, exclude_none=True), encoding="utf-8")
    done = CliRunner().invoke(app, ["import", str(path), "--document", str(there), "--report-of", "Oil"])
    assert done.exit_code == 0, done.output
    pasted = with_tests(document(), "Oil", read_text(REPORT, "report").tests)
    assert parse_document(done.stdout).studies == pasted.studies
    for name, wrong in (("Oli", "did you mean Oil"), ("Oil", "no lab test that is known")):
        file = path if name == "Oli" else tmp_path / "empty.csv"
        (tmp_path / "empty.csv").write_text("nothing,here\n", encoding="utf-8")
        done = CliRunner().invoke(app, ["import", str(file), "--document", str(there), "--report-of", name])
        assert (done.exit_code, wrong in done.stderr) == (2, True), done.stderr


def test_many_sets_are_made_as_one_fluid_is() -> None:
    project = Evaluator().at(document())
    model = project.fluid(project.document.fluids[0])
    own = lab_fluid(model)
    assert own.shift[0] == pytest.approx(model.substance.shift)
    assert own.size == 1


def test_groups_are_chosen_by_what_they_spoil_and_give_their_components_back() -> None:
    """By constants weighed with moles the heavy ends would be one group, and take 50 K off the cricondentherm."""
    gas = {
        "nitrogen": 1,
        "carbon dioxide": 2,
        "methane": 72,
        "ethane": 8,
        "propane": 5,
        "isobutane": 1,
        "n-butane": 2.5,
        "n-pentane": 2,
        "n-hexane": 1.5,
    }
    cuts = [
        ("C7", 105, 0.74, 2.2),
        ("C10", 140, 0.785, 1.4),
        ("C15", 206, 0.83, 0.8),
        ("C22", 300, 0.87, 0.3),
        ("C34", 470, 0.91, 0.06),
    ]
    parts = [{"component": n, "amount": a} for n, a in gas.items()]
    parts += [{"pseudo": {"name": n, "molar_mass": m, "specific_gravity": s}, "amount": a} for n, m, s, a in cuts]
    source = {"name": "Gas", "parts": parts}
    lump = {"name": "u", "kind": "lumping", "fluid": "Gas", "components": 8}
    found = solve(parse_document(json.dumps({"format": "cryonome/1", "fluids": [source], "studies": [lump]})))[
        "answers"
    ]["u"]
    by = {row["key"]: row for row in found["elsewhere"]}
    assert len(found["groups"]) == 8
    assert abs(by["cricondentherm_K"]["after"] - by["cricondentherm_K"]["before"]) < 6.0
    assert sum(set(g["components"]) <= {n for n, *_ in cuts} for g in found["groups"]) >= 3
    made = found["fluid"]
    asked = [
        {"name": f"{kind} {i}", "kind": kind, "fluid": name, **more}
        for i, name in enumerate(("Gas", made["name"]))
        for kind, more in (("hydrate", {"pressures": ["80 bar"]}), ("flash", {"temperature": "10 degC", "pressure": "50 bar"}))
    ]  # fmt: skip
    document = parse_document(json.dumps({"format": "cryonome/1", "fluids": [source, made], "studies": asked}))
    a = solve(document)["answers"]
    T = [a[f"hydrate {i}"]["points"][0]["temperature_K"] for i in (0, 1)]
    assert T[0] == pytest.approx(T[1], abs=1e-3)
    assert any("was lumped from" in n for n in a["hydrate 1"]["notes"])
    for own, lumped in zip(a["flash 0"]["phases"], a["flash 1"]["phases"]):
        assert sum(lumped["detailed"].values()) == pytest.approx(1.0)
        for name, x in own["composition"].items():
            assert lumped["detailed"][name] == pytest.approx(x, rel=0.06, abs=2e-5), name
    assert renamed(document, "fluids", "Gas", "Other").fluids[1].detail.fluid == "Other"
    assert not any(f.path[:1] == ("fluids",) for f in check_document(removed(document, "fluids", "Gas")))
    alone = solve(parse_document(json.dumps({"format": "cryonome/1", "fluids": [made], "studies": asked[2:3]})))
    told = alone["answers"]["hydrate 1"]
    assert "not told apart" in " ".join([*told["notes"], told.get("error", "")])


def test_stages_above_the_pressure_of_a_row_are_left_out_and_told() -> None:
    stages = [{"temperature": "40 degC", "pressure": "60 bar"}, {"temperature": "60 degF", "pressure": "1 atm"}]
    asked = {
        "name": "b",
        "kind": "black_oil",
        "fluid": "Oil",
        "temperature": "90 degC",
        "pressures": ["80 bar", "40 bar", "20 bar"],
    }
    train = answer({**asked, "stages": stages})
    flashed = answer({**asked, "stages": stages[1:]})
    assert any("In 2 rows, from 40.00 bar down" in n for n in train["notes"])
    assert not any("left out" in n for n in flashed["notes"])
    # Below the first stage's pressure the gas goes through the tank alone.
    rows = [[r["oil_gas_volume_ratio"] for r in a["rows"]] for a in (train, flashed)]
    assert rows[0][-2:] == pytest.approx(rows[1][-2:], rel=1e-9)
    assert rows[0][0] != pytest.approx(rows[1][0], rel=1e-3)


def _black_oil_of(parts: dict[str, float], temperature: str, pressures: list[str]) -> dict[str, Any]:
    fluid = {"name": "F", "parts": [{"component": n, "amount": a} for n, a in parts.items()]}
    asked = {"name": "b", "kind": "black_oil", "fluid": "F", "temperature": temperature, "pressures": pressures, "stages": [{"temperature": "15 degC", "pressure": "1 atm"}]}  # fmt: skip
    data = {"format": "cryonome/1", "fluids": [fluid], "studies": [asked]}
    return solve(parse_document(json.dumps(data)))["answers"]["b"]  # type: ignore[no-any-return]


def test_a_gas_of_which_none_is_left_at_standard_conditions_has_no_ratios_and_is_told() -> None:
    answer = _black_oil_of({"n-hexane": 60, "n-eicosane": 40}, "400 K", ["2 bar", "1.5 bar", "1.1 bar"])
    assert answer["ok"], answer.get("error")
    assert all(row["oil_gas_volume_ratio"] is None for row in answer["rows"])
    assert all(row["oil_volume_factor"] > 0.0 for row in answer["rows"])
    assert answer["lean_gas"] == []
    (told,) = [note for note in answer["notes"] if "nothing is gas in the end" in note]
    assert f"in {len(answer['rows'])} rows" in told
    # What evaporates whole on the way down has no residue that factors are told by.
    refused = _black_oil_of({"carbon dioxide": 14, "toluene": 73, "n-hexane": 13}, "390 K", ["8 bar", "6 bar", "5 bar"])
    assert not refused["ok"]
    assert "leaves no oil at its temperature" in refused["error"]
