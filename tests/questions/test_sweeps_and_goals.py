"""Sweeps, goals and numbers from elsewhere: against the studies they ask, and what is refused."""

from __future__ import annotations

import json

import pytest

from ask import answers, faults
from cryonome.errors import DomainError
from cryonome.exchange.pasted import read_pasted
from cryonome.telling.sentences import Units
from cryonome.telling.table_blocks import sweep_block
from cryonome.watch import Cancelled, Watch

FLUIDS = [
    {
        "name": "F",
        "parts": [{"component": c, "amount": a} for c, a in (("methane", 70), ("ethane", 10), ("n-butane", 20))],
    },
    {"name": "P", "parts": [{"component": "propane", "amount": 1}]},
]
FLASH = {"name": "flash", "kind": "flash", "fluid": "F", "temperature": "20 degC", "pressure": "40 bar"}
READ = ["vapour_fraction", "phases.liquid.density_kg_m3"]


def document(*studies, flash=FLASH):
    return {"format": "cryonome/1", "fluids": FLUIDS, "studies": [flash, *studies]}


def sweep(vary, read=READ, of="flash", **more):
    return {"name": "asked", "kind": "sweep", "of": of, "vary": vary, "read": read, **more}


def goal(path, between, read, target, of="flash"):
    return {
        "name": "asked",
        "kind": "goal",
        "of": of,
        "vary": {"path": path, "between": between},
        "read": read,
        "target": target,
    }


def test_a_sweep_of_conditions_in_one_batch_is_the_flashes_one_by_one():
    vary = [
        {"path": "studies[0].temperature", "from": "0 degC", "to": "60 degC", "step": "20 degC"},
        {"path": "studies[flash].pressure", "values": ["10 bar", "60 bar"]},
    ]
    rows = answers(document(sweep(vary)))["asked"]["rows"]
    assert [r["vary"] for r in rows] == [[T + 273.15, p] for T in (0, 20, 40, 60) for p in (1e6, 6e6)]
    # A path that no batch knows goes through the flash itself.
    slow = answers(document(sweep(vary, [*READ, "standard.gas_m3_mol"])))["asked"]["rows"]
    for row, other in zip(rows, slow):
        assert row["ok"] == other["ok"]
        for ours, theirs in zip(row["read"], other["read"]):
            assert ours == (None if theirs is None else pytest.approx(theirs, rel=1e-9))
        one = answers(document(flash={**FLASH, "temperature": row["vary"][0], "pressure": row["vary"][1]}))["flash"]
        assert row["read"][0] == pytest.approx(one["vapour_fraction"], abs=1e-10)


def test_any_input_may_be_varied_and_what_fails_says_why():
    rows = answers(document(sweep({"path": "fluids[0].parts[2].amount", "values": [10, 0, -5]})))["asked"]["rows"]
    assert [r["vary"] for r in rows] == [10, 0, -5]
    assert rows[0]["ok"]
    assert not rows[1]["ok"]  # without butane it is all gas
    assert rows[1]["read"][0] == 1.0
    assert "liquid" in rows[1]["error"]
    assert rows[2]["read"] == [None, None]
    assert "amount" in rows[2]["error"] or "zero" in rows[2]["error"]


def test_the_boiling_line_of_a_pure_fluid():
    boiling = {"name": "flash", "kind": "flash", "fluid": "P", "temperature": "0 degC", "vapour_fraction": 0}
    vary = {"path": "studies[0].temperature", "from": "231 K", "to": "380 K", "steps": 10}
    rows = answers(document(sweep(vary, ["pressure_Pa"]), flash=boiling))["asked"]["rows"]
    pressures = [r["read"][0] for r in rows if r["ok"]]
    assert pressures == sorted(pressures)
    assert pressures[0] == pytest.approx(101325.0, rel=0.02)  # propane boils at 231.0 K
    assert not rows[-1]["ok"]  # above its critical temperature, 369.83 K


def test_a_goal_is_met_by_the_study_asked():
    found = answers(document(goal("studies[0].temperature", ["-60 degC", "80 degC"], "vapour_fraction", "50 %")))[
        "asked"
    ]
    assert found["reached"] == pytest.approx(0.5, abs=1e-9)
    again = answers(document(flash={**FLASH, "temperature": found["value"]}))["flash"]
    assert again["vapour_fraction"] == pytest.approx(0.5, abs=1e-9)
    assert found["answer"]["temperature_K"] == pytest.approx(found["value"])
    # An amount, by a target with a unit.
    butane = answers(document(goal("fluids[F].parts[2].amount", [1, 60], "phases.vapour.density_kg_m3", "40.5 kg/m3")))[
        "asked"
    ]
    assert butane["answer"]["phases"][0]["density_kg_m3"] == pytest.approx(40.5, rel=1e-8)


def test_several_solutions_are_told_and_none_is_explained():
    # Along the dew line of this gas a pressure is met twice.
    dew = {"name": "flash", "kind": "flash", "fluid": "F", "pressure": "30 bar", "vapour_fraction": 1}
    read = answers(document(goal("studies[0].pressure", ["2 bar", "124 bar"], "temperature_K", "40 degC"), flash=dew))[
        "asked"
    ]
    assert len(read["others"]) == 1
    values = [read["value"], *read["others"]]
    for value in values:
        one = answers(document(flash={**dew, "pressure": value}))["flash"]
        assert one["temperature_K"] == pytest.approx(313.15, abs=1e-5)
    none = answers(document(goal("studies[0].pressure", ["1 bar", "80 bar"], "density_kg_m3", "900 kg/m3")))["asked"]
    assert not none["ok"]
    assert "out of reach" in none["error"]
    assert "kg/m³ to" in none["error"]


@pytest.mark.parametrize(
    ("study", "place", "told"),
    [
        (sweep({"path": "studies[0].temperture", "from": 280, "to": 300, "steps": 2}), "vary.path", "temperature"),
        (sweep({"path": "fluids[0].parts[7].amount", "values": [1]}), "vary.path", "3 items"),
        (sweep({"path": "fluids[G].parts[0].amount", "values": [1]}), "vary.path", "no 'G'"),
        (sweep({"path": "fluids[0].name", "values": [1]}), "vary.path", "no number"),
        (sweep({"path": "fluids[0].parts[0].component", "values": [1]}), "vary.path", "text"),
        (sweep({"path": "fluids[0].parts", "values": [1]}), "vary.path", "no number"),
        (sweep({"path": "studies[0].temperature", "from": "60 degC", "to": "0 degC", "steps": 3}), "vary", "reversed"),
        (sweep({"path": "studies[0].temperature", "from": "0 degC", "to": "1 bar", "steps": 3}), "vary", "one unit"),
        (sweep({"path": "studies[0].temperature", "from": "0 degC", "to": "60 degC", "steps": 0}), "vary.steps", "whole number"),
        (sweep({"path": "studies[0].temperature", "values": []}), "vary.values", "empty"),
        (sweep({"path": "studies[0].temperature", "from": 280, "to": 300, "steps": 4000}), "vary", "too many"),
        (sweep({"path": "studies[0].temperature", "values": [300]}, []), "read", "empty"),
        (sweep({"path": "studies[0].temperature", "values": [300]}, of="flush"), "of", "did you mean flash"),
        (sweep({"path": "studies[0].temperature", "values": [300]}, of="asked"), "of", "itself"),
        (goal("studies[0].pressure", ["80 bar", "1 bar"], "vapour_fraction", 0.5), "vary.between", "reversed"),
        (goal("studies[0].pressure", ["1 bar", "80 bar"], "density_kg_m3", "3 bar"), "target", "density"),
        (goal("studies[0].pressure", ["1 bar", "80 bar"], "density_kg_m3", None), "target", "wanted"),
    ],
)  # fmt: skip
def test_what_cannot_be_asked_is_told(study, place, told):
    found = faults(document(study))
    assert any(f"studies[1].{place}" in str(f) and told in f.message for f in found), [str(f) for f in found]


def test_numbers_from_elsewhere_stand_beside_ours():
    theirs = {
        "vapour_fraction": "81 %", "phases.liquid.density_kg_m3": "0.5 g/cm3", "phases[1].composition.n-butane": 0.7, "temperature_K": "20 degC",
        "molar_mass_g_mol": "25 kg/kmol", "phases.aqueous.Z": 0.04, "compositions": 1,
    }  # fmt: skip
    found = answers(document(flash={**FLASH, "reference": theirs}))["flash"]
    rows = {r["path"]: r for r in found["reference"]}
    assert rows["vapour_fraction"]["theirs"] == 0.81
    assert rows["temperature_K"]["absolute"] == pytest.approx(0.0, abs=1e-9)
    liquid = rows["phases.liquid.density_kg_m3"]
    assert liquid["relative"] == pytest.approx(found["phases"][1]["density_kg_m3"] / 500.0 - 1.0)
    assert rows["molar_mass_g_mol"]["absolute"] == pytest.approx(found["molar_mass_g_mol"] - 25.0)
    assert rows["phases.aqueous.Z"]["ours"] is None
    assert "vapour, liquid" in rows["phases.aqueous.Z"]["error"]
    assert "there is" in rows["compositions"]["error"]
    wrong = faults(document(flash={**FLASH, "reference": {"temperature_K": "3 bar"}}))
    assert "studies[0].reference.temperature_K" in str(wrong[0])
    # A pasted column beside the rows of a table.
    rows = {"name": "asked", "kind": "table", "fluid": "F", "axes": [{"variable": "pressure", "values": ["10 bar", "20 bar"]}], "temperature": "20 degC",
            "properties": ["density_kg_m3"], "reference": {"properties.density_kg_m3": ["11 kg/m3", "25 kg/m3", 30]}}  # fmt: skip
    many = answers(document(rows))["asked"]["reference"]
    assert [r["path"] for r in many] == [f"properties.density_kg_m3[{i}]" for i in range(3)]
    assert many[1]["theirs"] == 25.0
    assert "2 items" in many[2]["error"]


def test_progress_of_many_answers_only_rises_and_they_can_be_cancelled():
    from cryonome.document import parse_document
    from cryonome.questions.solving import solve_study
    from cryonome.results import Evaluator

    text = json.dumps(document(sweep({"path": "fluids[0].parts[2].amount", "values": [10, 20, 30, 40]})))
    asked = parse_document(text)
    shares: list[float] = []
    solve_study(asked.studies[1], Evaluator().at(asked), Watch(tell=shares.append))
    assert shares == sorted(shares)
    assert len(shares) > 4
    with pytest.raises(Cancelled):
        solve_study(asked.studies[1], Evaluator().at(asked), Watch(lambda: len(shares) > 0))


def test_saturation_points_of_a_sweep_are_those_of_fresh_projects():
    """Lines moved from one value to the next must not drift, nor lose a point: bubble and both dew points of a gas and an oil."""
    fluids = [
        {"name": "oil", "parts": [{"component": "methane", "amount": 40}, {"component": "n-butane", "amount": 20}, {"component": "n-decane", "amount": 40}]},
        {"name": "gas", "parts": [{"component": "methane", "amount": 90}, {"component": "n-butane", "amount": 7}, {"component": "n-decane", "amount": 3}]},
    ]  # fmt: skip
    for fluid, at in (
        ("oil", {"temperature": "80 degC"}),
        ("gas", {"pressure": "60 bar"}),
    ):
        place = [f["name"] for f in fluids].index(fluid)
        study = {"name": "s", "kind": "saturation", "fluid": fluid, **at}
        read = ["points[0].pressure_Pa", "points[1].pressure_Pa", "points[1].temperature_K"]
        sweep = {"name": "w", "kind": "sweep", "of": "s", "read": read,
                 "vary": {"path": f"fluids[{place}].parts[1].amount", "from": 5, "to": 25, "steps": 5}}  # fmt: skip
        document = {"format": "cryonome/1", "fluids": fluids, "studies": [study, sweep]}
        rows = answers(document)["w"]["rows"]
        assert len(rows) == 6
        for row in rows:
            changed = json.loads(json.dumps(document))
            changed["fluids"][place]["parts"][1]["amount"] = row["vary"]
            changed["studies"] = [study]
            points = answers(changed)["s"]["points"]
            alone = [
                points[0]["pressure_Pa"],
                *([points[1]["pressure_Pa"], points[1]["temperature_K"]] if len(points) > 1 else [None, None]),
            ]
            assert [v is None for v in alone] == [v is None for v in row["read"]]
            assert [v for v in row["read"] if v] == pytest.approx([v for v in alone if v], rel=1e-8)


def test_goals_that_vary_the_same_input_tell_of_each_other():
    first = goal("studies[flash].pressure", ["2 bar", "60 bar"], "vapour_fraction", 0.8)
    second = {**first, "name": "second", "target": 0.82}
    found = answers(document(first, second))
    assert any("'second' varies the same input" in note for note in found[first["name"]]["notes"])
    assert found["second"]["value"] != found[first["name"]]["value"]


def test_what_is_pasted_is_read_as_it_was_written():
    found = answers(document(sweep({"path": "studies[0].pressure", "values": ["10 bar", "60 bar"]})))["asked"]
    pasted = read_pasted("pressure (bar)\tvapour fraction (%)\n15\t95.5\n55\t82", found)
    assert pasted.values == ("15 bar", "55 bar")
    assert list(pasted.references.values()) == pytest.approx([0.955, 0.82])
    with pytest.raises(DomainError, match="row 3 of the pasted grid has 'off'"):
        read_pasted("pressure (bar)\tvapour fraction\n15\t0.9\noff\t0.8", found)
    one = answers(document())["flash"]
    again = read_pasted("vapour fraction\t88 mol%\ndensity\t60\tkg/m3", one).references
    assert again["density_kg_m3"] == "60 kg/m3"


def test_a_swept_point_of_a_boiling_curve_has_its_unit():
    points = [[0, "40 degC"], [10, "80 degC"], [50, "150 degC"], [90, "250 degC"], [100, "300 degC"]]
    data = {
        "format": "cryonome/1",
        "samples": [
            {"name": "S", "distillation": {"method": "D86", "points": points}, "bulk": {"density": "800 kg/m3"}}
        ],
        "fluids": [{"name": "F", "parts": [{"sample": "S", "amount": 1}]}],
        "studies": [
            {**FLASH, "fluid": "F"},
            sweep(
                {"path": "samples[0].distillation.points[2][1]", "values": ["150 degC", "160 degC"]}, ["density_kg_m3"]
            ),
        ],
    }
    found = answers(data)["asked"]
    block = sweep_block(found, Units.of("metric"))
    assert "°C" in str(block.columns[0])
    assert [row[0] for row in block.rows] == ["150", "160"]
