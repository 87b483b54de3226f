"""How sure an answer is: linear problems, an own Monte Carlo, what methods state, limits, goals, and refusals."""

from __future__ import annotations

import json

import numpy as np
import pytest

from cryonome.demo import demo_document
from cryonome.document import DocumentError, parse_document
from cryonome.document.edits import set_each
from cryonome.exchange.table_files import answer_sheets, write_answer
from cryonome.questions import solve
from cryonome.questions.solving import solve_sooner, solve_study
from cryonome.questions.spreading.groups import Drawing
from cryonome.questions.spreading.inputs import OF_TESTS, groups_of
from cryonome.results import Evaluator
from cryonome.telling import Units
from cryonome.telling.answers import tables
from cryonome.telling.spread_words import spread_says

GAS = [
    {"component": "methane", "amount": 88},
    {"component": "propane", "amount": 8},
    {"component": "n-butane", "amount": 4},
]
FLUID = {"name": "G", "parts": GAS}
STATE = {"name": "state", "kind": "flash", "fluid": "G", "temperature": "300 K", "pressure": "10 bar"}
TWO = [
    {"path": "studies[state].temperature", "standard_deviation": "2 K"},
    {"path": "studies[state].pressure", "standard_deviation": "1 %", "distribution": "uniform"},
]


def asked(spread: dict, studies=(STATE,), fluids=(FLUID,), **more):
    data = {"format": "cryonome/1", "fluids": list(fluids), **more}
    return parse_document(json.dumps(data | {"studies": [*studies, {"name": "S", "kind": "spread", **spread}]}))


def answer_of(spread: dict, studies=(STATE,), fluids=(FLUID,), **more):
    return solve(asked(spread, studies, fluids, **more), ["S"])["answers"]["S"]


MIX = [
    {"name": "mix", "expression": "[state].temperature_K / (1 K) + 4 * [state].pressure_Pa / (10000 Pa)", "unit": ""}
]


def test_a_linear_problem_has_its_exact_mean_deviation_and_shares():
    found = answer_of({"of": "state", "read": ["[mix]"], "uncertain": TWO, "samples": 400}, values=MIX)
    told = found["reads"]["mix"]
    # T + 4e-4 P: deviations of 2, and of 4e-4 times 10 kPa.
    assert told["base"] == pytest.approx(700.0)
    assert told["mean"] == pytest.approx(700.0, abs=0.02)
    assert told["standard_deviation"] == pytest.approx(np.hypot(2.0, 4.0), rel=0.01)
    shares = found["shares"]["mix"]
    assert shares["studies[state].temperature"] == pytest.approx(0.2, abs=0.003)
    assert shares["studies[state].pressure"] == pytest.approx(0.8, abs=0.01)
    alone = answer_of({"of": "state", "read": ["temperature_K", "pressure_Pa"], "uncertain": TWO, "samples": 400})
    T, P = (alone["reads"][k] for k in ("temperature_K", "pressure_Pa"))
    assert T["percentiles"]["5"] == pytest.approx(300.0 - 1.645 * 2.0, abs=0.1)
    assert P["percentiles"]["95"] == pytest.approx(1e6 * (1.0 + 0.9 * np.sqrt(3.0) * 0.01), rel=2e-4)
    assert alone["shares"]["temperature_K"]["studies[state].temperature"] == pytest.approx(1.0)


def test_a_seed_gives_the_same_numbers_and_another_one_others():
    one, same, other = (answer_of({"of": "state", "uncertain": TWO, "samples": 40, "seed": s}) for s in (1, 1, 2))
    assert json.dumps(one) == json.dumps(same)
    assert one["reads"]["density_kg_m3"]["mean"] != other["reads"]["density_kg_m3"]["mean"]


def test_who_looks_on_sees_twenty_samples_first():
    document = asked({"of": "state", "uncertain": TWO, "samples": 60})
    project = Evaluator().at(document)
    first = solve_sooner(document.study("S"), project)
    assert (first["samples"], solve_study(document.study("S"), project)["samples"]) == (20, 60)
    assert first["reads"].keys() == solve_sooner(document.study("S"), project)["reads"].keys()


SINGLE = [
    ("phase envelope", {"read": ["cricondentherm.temperature_K", "cricondenbar.pressure_Pa"]}),
    ("cold line hydrates", {"read": ["points[*].temperature_K"]}),
    ("export vapour pressure", {"read": ["TVP_Pa"], "bands": False}),
    ("Quillmoor dew point", {}),
    ("cold line, normal", {}),
]


@pytest.mark.parametrize(("of", "more"), SINGLE)
def test_samples_that_advance_together_are_those_of_single_questions(of, more):
    """An own Monte Carlo: the same samples, each a document of its own, asked one by one."""
    document = demo_document()
    study = document.study(of)
    project = Evaluator().at(document)
    groups = groups_of((), (), study, "reproducibility", project, [])
    drawing = Drawing(groups, 6, 3)
    spread = {"name": "S", "kind": "spread", "of": of, "samples": 6, "seed": 3, **more}
    data = json.loads(document.model_dump_json(by_alias=True))
    data["studies"].append(spread)
    found = solve(parse_document(json.dumps(data)), ["S"])["answers"]["S"]
    changes = drawing.changes(drawing.scores(0, 6))
    singles = [solve(set_each(document, c), [of])["answers"][of] for c in changes]
    for path, told in found["reads"].items():
        own = np.array([_value(path, a) for a in singles])
        assert np.array(told["mean"]) == pytest.approx(own.mean(axis=0), rel=1e-8), path
        assert np.array(told["standard_deviation"]) == pytest.approx(own.std(axis=0, ddof=1), rel=1e-5, abs=1e-9)
    assert found["failed"] == 0


def _value(path: str, answer):
    from cryonome.questions.spreading.reads import value_of

    return value_of(path, answer)


def test_what_methods_state_is_uncertain_by_default():
    found = answer_of(
        {"of": "cuts", "samples": 30},
        [{"name": "cuts", "kind": "characterization", "sample": "A"}],
        [],
        samples=[_sample()],
    )
    inputs = {v["name"]: v for v in found["uncertain"]}
    curve, density, ends = inputs["A: boiling curve"], inputs["A: density"], inputs["A: light ends"]
    assert (curve["cells"], curve["source"]) == (5, "reproducibility of ASTM D86")
    assert density["standard_deviation"] == pytest.approx(0.5 / 2.772, rel=1e-3)
    assert ends["standard_deviation"] == pytest.approx(100 * 0.001 / 2.772, rel=1e-3)
    assert "R/2.77" in " ".join(found["notes"])
    assert found["failed"] == 0
    inner = answer_of(
        {"of": "cuts", "samples": 30, "precision": "repeatability", "uncertain": [{"sample": "A"}]},
        [{"name": "cuts", "kind": "characterization", "sample": "A"}], [], samples=[_sample()],
    )  # fmt: skip
    assert next(v for v in inner["uncertain"] if v["name"] == "A: density")["standard_deviation"] < 0.05


def _sample(**more):
    points = [[5, "60 degC"], [10, "70 degC"], [50, "110 degC"], [70, "111.5 degC"], [90, "170 degC"]]
    return {
        "name": "A",
        "distillation": {"method": "D86", "points": points},
        "bulk": {"density": "0.74 g/cm**3"},
        "light_ends": {"mode": "measured", "basis": "volume", "amounts": {"n-butane": 3.0}},
        **more,
    }


def test_curves_stay_monotone_and_a_laboratory_shares_its_error():
    document = asked(
        {"of": "cuts"}, [{"name": "cuts", "kind": "characterization", "sample": "A"}], [], samples=[_sample()]
    )
    groups = groups_of((), (), document.study("cuts"), "reproducibility", Evaluator().at(document), [])
    curve = next(g for g in groups if g.name == "A: boiling curve")
    drawing = Drawing((curve,), 400, 1)
    values = curve.values(drawing.block(0))
    # Points 1.5 K apart with deviations of one would cross now and then.
    assert (np.diff(values, axis=1) > 0.0).all()
    assert curve.shared
    together = np.corrcoef(values[:, 0], values[:, 4])[0, 1]
    assert 0.5 < together < 0.95
    assert values.std(axis=0) == pytest.approx(np.array(curve.deviation), rel=0.2)


def test_a_correlation_and_a_composition_may_be_off():
    cuts = [{"name": "cuts", "kind": "characterization", "sample": "A"}]
    spread = {"of": "cuts", "samples": 200, "read": ["bulk.molar_mass_g_mol", "components[*].Tc_K"], "bands": False}
    found = answer_of(
        spread | {"uncertain": [{"sample": "A", "correlation": "molar_mass"}]}, cuts, [], samples=[_sample()]
    )
    told = found["reads"]["bulk.molar_mass_g_mol"]
    # Twu's molar masses are 5.0 % off on average: of a normal law 6.3 %; the light ends keep theirs.
    assert told["standard_deviation"] / told["base"] == pytest.approx(0.0627, rel=0.05)
    assert "table 2.16" in found["uncertain"][0]["source"]
    gas = answer_of({"of": "state", "samples": 60, "uncertain": [{"fluid": "G"}]})
    assert gas["uncertain"][0]["cells"] == 3
    assert "D1945" in gas["uncertain"][0]["source"]


def test_the_chance_of_a_broken_limit_and_the_pressure_that_keeps_it():
    limit = [{"read": "temperature_K", "at_most": "302 K"}, {"read": "pressure_Pa", "at_least": "9 bar"}]
    found = answer_of({"of": "state", "samples": 300, "uncertain": TWO, "limits": limit})
    hot, low = found["limits"]
    assert hot["chance_broken"] == pytest.approx(0.1587, abs=0.004)
    assert hot["between"][0] < 0.1587 < hot["between"][1]
    assert (low["chance_broken"], low["at_least"]) == (0.0, 9e5)
    assert "temperature comes above" in spread_says(found, Units.of("SI")).lower()
    spread = {"name": "S", "kind": "spread", "of": "state", "samples": 40, "uncertain": TWO, "bands": False}
    goal = {
        "name": "keeps", "kind": "goal", "of": "S", "read": "reads.density_kg_m3.percentiles.95", "target": "9 kg/m**3",
        "vary": {"path": "studies[state].pressure", "between": ["5 bar", "15 bar"]},
    }  # fmt: skip
    data = {"format": "cryonome/1", "fluids": [FLUID], "studies": [STATE, spread | {"read": ["density_kg_m3"]}, goal]}
    reached = solve(parse_document(json.dumps(data)), ["keeps"])["answers"]["keeps"]
    assert reached["ok"], reached
    assert reached["reached"] == pytest.approx(9.0, rel=1e-5)
    data["studies"][0] = STATE | {"pressure": reached["value"]}
    put_back = solve(parse_document(json.dumps(data)), ["S"])["answers"]["S"]
    assert put_back["reads"]["density_kg_m3"]["percentiles"]["95"] == pytest.approx(9.0, rel=1e-5)


def test_a_fit_is_sampled_by_its_covariance_within_its_bounds():
    document = demo_document()
    tuned = solve(document, ["Quillmoor match"])["answers"]["Quillmoor match"]["tuned"]
    place = [f.name for f in document.fluids].index("Quillmoor reservoir gas")
    data = json.loads(document.model_dump_json(by_alias=True))
    data["fluids"][place]["model"]["tuned"] = tuned
    spread = {"of": "Quillmoor dew point", "samples": 60, "uncertain": [{"match": "Quillmoor match"}], "bands": False}
    data["studies"].append({"name": "S", "kind": "spread", **spread})
    found = solve(parse_document(json.dumps(data)), ["S"])["answers"]["S"]
    assert found["ok"], found
    assert found["uncertain"][0]["source"].startswith("covariance of the fit")
    told = next(iter(found["reads"].values()))
    assert np.min(told["standard_deviation"]) > 0.0
    assert found["failed"] == 0
    assert any("weights" in note for note in found["notes"])


def test_the_tests_of_a_match_are_uncertain_by_their_own_uncertainty():
    document = demo_document()
    of = document.study("Quillmoor match")
    groups = groups_of((), (), of, "reproducibility", Evaluator().at(document), [])
    found = {g.name: g for g in groups if g.source == OF_TESTS}
    dew = found["Quillmoor dew points: points dew pressure"]
    assert (dew.kind, dew.centre[0], dew.deviation[0]) == ("pressure", pytest.approx(313.2e5), pytest.approx(3.132e5))
    assert of.held_out == ("Quillmoor separators",)
    assert not any(name.startswith("Quillmoor sep") for name in found)
    assert {g.name.split(":")[0] for g in groups} >= {"Quillmoor condensate", "Quillmoor expansion"}


def test_a_truth_lies_within_the_band_of_nine_laboratories_in_ten():
    """Fifty laboratories measure a true mixture, each with the error that its method states; of each the spread
    is asked."""
    true = np.array([80.0, 12.0, 8.0])
    rng = np.random.default_rng(11)
    point = {"name": "state", "kind": "flash", "fluid": "G", "temperature": "250 K", "pressure": "20 bar"}
    inside = 0
    truth = _dew(true, point)
    for _ in range(50):
        measured = true + rng.normal(size=3) * np.array([0.5, 0.3, 0.3])
        parts = [{"component": c["component"], "amount": float(v)} for c, v in zip(GAS, measured)]
        uncertain = [
            {"path": f"fluids[G].parts[{i}].amount", "standard_deviation": s} for i, s in enumerate((0.5, 0.3, 0.3))
        ]
        spread = {"of": "state", "read": ["vapour_fraction"], "samples": 30, "uncertain": uncertain, "bands": False}
        found = answer_of(spread, [point], [{"name": "G", "parts": parts}])
        told = found["reads"]["vapour_fraction"]["percentiles"]
        inside += told["5"] <= truth <= told["95"]
    assert 40 <= inside <= 48


def _dew(amounts, point) -> float:
    parts = [{"component": c["component"], "amount": float(v)} for c, v in zip(GAS, amounts)]
    data = {"format": "cryonome/1", "fluids": [{"name": "G", "parts": parts}], "studies": [point]}
    return solve(parse_document(json.dumps(data)))["answers"]["state"]["vapour_fraction"]


def test_samples_without_an_answer_are_counted_and_told():
    study = {"name": "sat", "kind": "saturation", "fluid": "G", "temperature": "278 K"}
    spread = {
        "of": "sat",
        "samples": 60,
        "uncertain": [{"path": "studies[sat].temperature", "standard_deviation": "8 K"}],
    }
    found = answer_of(spread, [study])
    assert 0 < found["failed"] < 60
    assert found["failures"][0]["samples"] == found["failed"]
    assert any(f"{found['failed']} of 60 samples" in note for note in found["notes"])
    assert all(told["missing"] >= found["failed"] for told in found["reads"].values())


WRONG = [
    ({"of": "nothing"}, "S", "unknown study"),
    ({"of": "state", "samples": 2}, "samples", "whole number from 5"),
    ({"of": "state", "samples": "many"}, "samples", "many"),
    ({"of": "state", "percentiles": [5]}, "percentiles", "two percentiles"),
    ({"of": "state", "percentiles": [5, 120]}, "percentiles[1]", "between 0 and 100"),
    ({"of": "state", "uncertain": [{}]}, "uncertain[0]", "names one of"),
    ({"of": "state", "uncertain": [{"path": "studies[state].temperature"}]}, "standard_deviation", "missing"),
    ({"of": "state", "uncertain": [{"path": "studies[state].temperature", "standard_deviation": "3 bar"}]}, "standard_deviation", "bar"),
    ({"of": "state", "uncertain": [{"path": "studies[state].temperature", "standard_deviation": "-3 K"}]}, "standard_deviation", "above zero"),
    ({"of": "state", "uncertain": [{"path": "studies[state].enthalpy", "standard_deviation": "3 K"}]}, "path", "is empty"),
    ({"of": "state", "uncertain": [{"path": "fluids[H].name", "standard_deviation": 1}]}, "path", "does not exist"),
    ({"of": "state", "uncertain": [TWO[0], TWO[0]]}, "uncertain[1].path", "already"),
    ({"of": "state", "limits": [{"read": "temperature_K"}]}, "limits[0]", "at_least or at_most"),
    ({"of": "state", "limits": [{"read": "temperature_K", "at_most": "3 bar"}]}, "limits[0].at_most", "temperature"),
    ({"of": "state", "sobol": 60}, "sobol", "power of two"),
    ({"of": "S"}, "of", "itself"),
]  # fmt: skip


@pytest.mark.parametrize(("spread", "place", "text"), WRONG)
def test_what_is_wrong_is_told_at_its_place(spread, place, text):
    with pytest.raises(DocumentError) as error:
        solve(asked(spread), ["S"])
    told = str(error.value)
    assert place in told or place == "S", told
    assert text in told, told


def test_nothing_uncertain_is_refused_and_what_is_no_number_too():
    mixed = {"name": "M", "parts": [{"fluid": "G", "amount": 1}]}
    point = STATE | {"fluid": "M"}
    none = answer_of({"of": "state", "uncertain": [{"fluid": "M"}]}, [point], [FLUID, mixed])
    assert "component by component" in none["error"]
    rows = answer_of({"of": "state", "uncertain": TWO, "read": ["phases"], "samples": 10})
    assert "phases[*]." in rows["error"]
    gone = answer_of({"of": "state", "uncertain": TWO, "read": ["densitty_kg_m3"], "samples": 10})
    assert "density_kg_m3" in gone["error"]


def test_sobol_indices_by_a_design_of_their_own_and_tables_in_words():
    found = answer_of({"of": "state", "read": ["density_kg_m3"], "uncertain": TWO, "samples": 60, "sobol": 64})
    told = found["sobol"]["density_kg_m3"]
    assert told["first"] == pytest.approx(
        {k: v for k, v in found["shares"]["density_kg_m3"].items() if k in told["first"]}, abs=0.08
    )
    titles = [block.title for block in tables(found, Units.of("field"))]
    assert titles == [
        "What is read",
        "Where the spread comes from",
        "Sobol indices of the density",
        "What is uncertain",
    ]


def test_bands_of_every_picture_lie_about_the_curve(demo_answers):
    found = demo_answers["cold line, how sure"]
    for one in found["bands"]:
        y, low, high = (np.array(one[k]["x"], float) for k in ("line", "low", "high"))
        assert (low < y).all()
        assert (y < high).all()


def test_a_spread_is_written_as_sheets_in_the_units_of_the_reader(tmp_path):
    limit = [{"read": "temperature_K", "at_most": "302 K"}]
    found = answer_of({"of": "state", "samples": 30, "uncertain": TWO, "limits": limit})
    sheets = answer_sheets(found, Units.of("field"))
    assert list(sheets) == ["reads", "shares", "limits", "uncertain"]
    row = dict(zip(*sheets["reads"]))
    assert (row["read"], row["unit"]) == ("temperature_K", "°F")
    told = found["reads"]["temperature_K"]
    assert row["standard deviation"] == pytest.approx(1.8 * told["standard_deviation"])
    assert row["95 %"] == pytest.approx(1.8 * told["percentiles"]["95"] - 459.67)
    assert sheets["limits"][1][3] == found["limits"][0]["chance_broken"]
    write_answer(tmp_path / "spread.csv", found, Units.of("SI"))
    assert (tmp_path / "spread.csv").read_text(encoding="utf-8-sig").splitlines()[1].startswith("temperature_K,1,K,300")
