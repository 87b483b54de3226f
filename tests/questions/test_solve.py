"""The command line and the answers: balances, identities, exit status."""

from __future__ import annotations

import json
import re
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest

from ask import command
from cryonome.constants import R
from cryonome.demo import demo_document
from cryonome.document import Document, parse_document
from cryonome.document.edits import update_fluid, update_sample
from cryonome.questions import solve
from cryonome.results import Evaluator

ROOT = Path(__file__).parents[2]


def test_every_demo_study_is_answered(demo_answers):
    answers = demo_answers
    assert all(a["ok"] for a in answers.values())
    assert set(answers) == {s.name for s in demo_document().studies}


def test_the_reports_of_the_demo_are_checked_and_its_matches_keep_their_envelopes(demo_answers):
    found = {(name, c["check"]): c["verdict"] for name, a in demo_answers.items() for c in a.get("checks", ())}
    # A depletion that begins at its saturation point is balanced from there, whatever the model's own is.
    assert found["Quillmoor depletion", "depletion_balance"] == "good"
    assert found["Quillmoor depletion", "hoffmann_crump"] == "good"
    assert found["Varnholt expansion", "y_function"] == "bad"
    assert [k for k, v in found.items() if v == "bad"] == [("Varnholt expansion", "y_function")]
    for name in ("Quillmoor match", "Varnholt match"):
        elsewhere = {e["key"]: e["after"] for e in demo_answers[name]["elsewhere"]}
        # Two liquids far below may part at any pressure: that takes no cricondenbar from vapour and liquid.
        assert 150e5 < elsewhere["cricondenbar_Pa"] < 400e5
        assert all(d["after"] < d["before"] for d in demo_answers[name]["deviations"].values() if not d["held_out"])
    blend = demo_answers["butane for the export"]
    assert blend["answer"]["RVP_Pa"] == pytest.approx(7.0 * 6894.757, rel=1e-6)


def test_characterization_balances_and_shows_its_curve(demo_answers):
    answers = demo_answers
    a = answers["Varnholt cuts"]
    for key in ("mole_fraction", "mass_fraction", "volume_fraction"):
        assert sum(c[key] for c in a["components"]) == pytest.approx(1.0, abs=1e-10)
    assert a["bulk"]["api"] == pytest.approx(33.1, abs=1e-9)
    mass = sum(c["mole_fraction"] * c["molar_mass_g_mol"] for c in a["components"])
    assert mass == pytest.approx(a["bulk"]["molar_mass_g_mol"], rel=1e-10)
    points = dict(a["curves"]["TBP"]["points"])
    assert set(points) == set(range(0, 101, 5))
    assert points[50] == pytest.approx((606 + 459.67) / 1.8, abs=1e-9)
    assert {c["kind"] for c in a["components"]} == {"cut"}


def test_flash_phases_add_up_to_the_fluid(demo_answers):
    answers = demo_answers
    a = answers["first separator"]
    assert [p["kind"] for p in a["phases"]] == ["vapour", "liquid"]
    assert sum(p["fraction"] for p in a["phases"]) == pytest.approx(1.0, abs=1e-12)
    assert sum(p["mass_fraction"] for p in a["phases"]) == pytest.approx(1.0, abs=1e-12)
    total = sum(p["fraction"] * p["molar_mass_g_mol"] for p in a["phases"])
    assert total == pytest.approx(a["molar_mass_g_mol"], rel=1e-12)
    for p in a["phases"]:
        density = p["molar_mass_g_mol"] / 1e3 * a["pressure_Pa"] / (p["Z"] * R * a["temperature_K"])
        assert p["density_kg_m3"] == pytest.approx(density, rel=1e-12)
        assert sum(p["composition"].values()) == pytest.approx(1.0, abs=1e-12)
    light, heavy = a["phases"]
    assert light["density_kg_m3"] < heavy["density_kg_m3"]


def test_saturation_lies_on_the_envelope_and_divides_the_flash(demo_answers):
    answers = demo_answers
    point = answers["reservoir saturation"]["points"][0]
    assert point["kind"] == "bubble"
    assert point["temperature_K"] == pytest.approx(365.15, abs=1e-9)
    line = next(x for x in answers["phase envelope"]["lines"] if x["vapour_fraction"] == 0)
    T, P = np.array(line["temperature_K"]), np.array(line["pressure_Pa"])
    order = np.argsort(T)
    assert point["pressure_Pa"] == pytest.approx(np.interp(365.15, T[order], P[order]), rel=5e-3)
    for factor, phases in ((0.999, 2), (1.001, 1)):
        text = json.dumps(
            {
                "name": "x",
                "kind": "flash",
                "fluid": "Varnholt recombined",
                "temperature": 365.15,
                "pressure": factor * point["pressure_Pa"],
            }
        )
        document = parse_document(
            json.dumps({**json.loads(demo_document().model_dump_json()), "studies": [json.loads(text)]})
        )
        assert len(solve(document)["answers"]["x"]["phases"]) == phases


def test_flash_at_a_fraction_says_when_there_is_another():
    gas = {
        "name": "G",
        "parts": [{"component": c, "amount": a} for c, a in (("C1", 80), ("C2", 10), ("C3", 6), ("nC5", 4))],
    }
    studies = [
        {"name": "wet", "kind": "flash", "fluid": "G", "temperature": "290 K", "vapour_fraction": 1},
        {"name": "all", "kind": "saturation", "fluid": "G", "temperature": "290 K"},
        {"name": "none", "kind": "saturation", "fluid": "G", "temperature": "400 K"},
        {"name": "cold", "kind": "flash", "fluid": "G", "pressure": "20 bar", "vapour_fraction": "50 %"},
    ]
    a = solve(parse_document(json.dumps({"format": "cryonome/1", "fluids": [gas], "studies": studies})))["answers"]
    dew = [p["pressure_Pa"] for p in a["all"]["points"]]
    assert [p["kind"] for p in a["all"]["points"]] == ["dew", "dew"]
    assert a["wet"]["pressure_Pa"] == pytest.approx(min(dew), rel=1e-9)
    assert any("more than once" in n for n in a["wet"]["notes"])
    assert a["cold"]["vapour_fraction"] == 0.5
    assert not a["none"]["ok"]
    assert "no bubble or dew point at 126.85 °C" in a["none"]["error"]


def test_amounts_by_mass_and_volume_mean_the_same_fluid():
    from cryonome.components import find

    c1, c10 = find("methane"), find("n-decane")
    bases = {
        "mole": (1.0, 1.0),
        "mass": (c1.molar_mass, c10.molar_mass),
        "volume": (c1.standard_liquid_volume, c10.standard_liquid_volume),
    }
    found = []
    for basis, (a, b) in bases.items():
        parts = [{"component": "methane", "amount": 3 * a}, {"component": "n-decane", "amount": 2 * b}]
        fluid = {"name": "F", "basis": basis, "parts": parts}
        study = {"name": "s", "kind": "flash", "fluid": "F", "temperature": 350, "pressure": 1e6}
        answer = solve(parse_document(json.dumps({"format": "cryonome/1", "fluids": [fluid], "studies": [study]})))
        found.append(answer["answers"]["s"]["vapour_fraction"])
    assert found == pytest.approx([found[0]] * 3, abs=1e-12)


def test_enthalpy_and_entropy_are_consistent():
    """dH = T dS + V dP along a path of one phase, by central differences of the answers."""
    fluid = {"name": "F", "parts": [{"component": "methane", "amount": 70}, {"component": "propane", "amount": 30}]}
    states = {"T+": (401.0, 3e6), "T-": (399.0, 3e6), "P+": (400.0, 3.03e6), "P-": (400.0, 2.97e6), "0": (400.0, 3e6)}
    studies = [
        {"name": k, "kind": "flash", "fluid": "F", "temperature": T, "pressure": P} for k, (T, P) in states.items()
    ]
    a = solve(parse_document(json.dumps({"format": "cryonome/1", "fluids": [fluid], "studies": studies})))["answers"]
    dH, dS = (a["T+"][k] - a["T-"][k] for k in ("enthalpy_J_mol", "entropy_J_mol_K"))
    assert dH == pytest.approx(400.0 * dS, rel=1e-4)
    dH, dS = (a["P+"][k] - a["P-"][k] for k in ("enthalpy_J_mol", "entropy_J_mol_K"))
    assert dH - 400.0 * dS == pytest.approx(a["0"]["molar_volume_m3_mol"] * 6e4, rel=1e-3)


def test_results_are_remembered_by_content_and_recomputed_only_where_needed():
    evaluator = Evaluator()

    def made(d, name):
        return evaluator.at(d).fluid(d.fluid(name))

    document = demo_document()
    fluid = document.fluid("Varnholt recombined")
    first = made(document, fluid.name)
    count = evaluator.cache.computed
    note = update_sample(document, "Varnholt crude", lambda s: s.model_copy(update={"note": "other"}))
    assert made(note, fluid.name) is first
    other = update_fluid(document, "Varnholt stock-tank oil", lambda f: f.model_copy(update={"parts": f.parts[:1] * 1}))
    assert made(other, fluid.name) is first
    assert evaluator.cache.computed == count
    bulk = document.samples[0].bulk.model_copy(update={"density": "32 degAPI"})
    edited = update_sample(document, "Varnholt crude", lambda s: s.model_copy(update={"bulk": bulk}))
    assert made(edited, fluid.name) is not first
    assert made(document, fluid.name) is first  # undo finds the old result


def test_exit_status_and_streams(tmp_path):
    good = {"format": "cryonome/1", "fluids": [{"name": "P", "parts": [{"component": "propane", "amount": 1}]}]}
    ask = lambda T: {**good, "studies": [{"name": "s", "kind": "saturation", "fluid": "P", "temperature": T}]}  # noqa: E731
    done = command("solve", "-", stdin=json.dumps(ask("300 K")))
    assert done.returncode == 0
    assert json.loads(done.stdout)["format"] == "cryonome-answers/1"
    done = command("solve", "-", stdin=json.dumps(ask("500 K")))
    assert done.returncode == 1
    assert json.loads(done.stdout)["answers"]["s"]["ok"] is False
    done = command("solve", "-", stdin=json.dumps(ask("500 psig")))
    assert (done.returncode, done.stdout) == (2, "")
    assert done.stderr.startswith("studies[0].temperature: ")
    done = command("solve", "-", "--study", "q", stdin=json.dumps(ask("300 K")))
    assert (done.returncode, done.stdout) == (2, "")
    assert "unknown study 'q'" in done.stderr
    done = command("solve", str(tmp_path / "missing.cryo"))
    assert (done.returncode, done.stdout) == (2, "")
    assert "Traceback" not in done.stderr
    path = tmp_path / "out.json"
    done = command("solve", "-", "--output", str(path), stdin=json.dumps(ask("300 K")))
    assert (done.returncode, done.stdout) == (0, "")
    assert json.loads(path.read_text())["answers"]["s"]["ok"]


def test_the_examples_of_the_format_description_work():
    blocks = re.findall(r"```json\n(.*?)```", (ROOT / "docs" / "format.md").read_text(), re.S)
    documents = [b for b in blocks if '"format": "cryonome/1"' in b]
    assert len(documents) >= 3
    for block in documents:
        result = solve(parse_document(block))
        assert all(a["ok"] for a in result["answers"].values()), result
    assert Document().format in blocks[0]


def test_the_schema_names_every_key_of_the_demo():
    done = command("schema")
    assert done.returncode == 0
    schema = json.loads(done.stdout)
    text = json.dumps(schema)
    demo = json.loads((ROOT / "src" / "cryonome" / "demo" / "varnholt-hub.cryo").read_text())

    def keys(value):
        if isinstance(value, dict):
            for key, item in value.items():
                yield key
                # What is measured stands under paths of the answer.
                yield from keys(item) if key not in ("measured", "uncertainty") else ()
        elif isinstance(value, list):
            for item in value:
                yield from keys(item)

    assert all(f'"{key}"' in text for key in keys(demo))
    assert set(schema["properties"]) >= {"samples", "fluids", "studies"}


@pytest.mark.parametrize("method", ["TBP", "D86", "D1160", "D2887", "EFV"])
def test_the_answered_curve_of_a_samples_own_method_is_what_was_entered(method):
    points = [
        [5, 352],
        [10, 380],
        [20, 431],
        [30, 477],
        [40, 520],
        [50, 562],
        [60, 604],
        [70, 650],
        [80, 701],
        [90, 769],
    ]
    if method == "D1160":
        points = [[p, t - 130] for p, t in points]
    document = {
        "format": "cryonome/1",
        "samples": [
            {"name": "S", "distillation": {"method": method, "points": points}, "bulk": {"density": "36 degAPI"}}
        ],
        "studies": [{"name": "a", "kind": "characterization", "sample": "S"}],
    }
    answer = solve(parse_document(json.dumps(document)))["answers"]["a"]
    assert answer["ok"], answer
    curves = answer["curves"]
    assert set(curves) == {"TBP", "D86", "D1160", "D2887", "EFV"}
    for curve in curves.values():
        percents, temperatures = zip(*curve["points"])
        assert list(percents) == list(range(0, 101, 5))
        there = [t for t in temperatures if t is not None]
        assert len(there) >= 19
        assert all(b >= a for a, b in pairwise(there))
        # No test reports boiling points above 720 degC.
        assert curve is curves["TBP"] or max(there) <= 993.2
    own = dict(curves[method]["points"])
    assert all(abs(own[p] - t) < 2.0 for p, t in points), [(p, own[p] - t) for p, t in points]
    assert curves["D2887"]["basis"] == "mass"
    assert curves["D1160"]["pressure_Pa"] == pytest.approx(1333.22, rel=1e-4)


def test_spreadsheets_go_in_and_out_by_the_command_line(tmp_path):
    book = tmp_path / "assays.xlsx"
    done = command("export", str(ROOT / "src" / "cryonome" / "demo" / "collection.cryo"), str(book))
    assert done.returncode == 0, done.stderr
    done = command("import", str(book))
    assert done.returncode == 0, done.stderr
    assert len(parse_document(done.stdout).samples) == 6
    broken = tmp_path / "broken.csv"
    broken.write_text("nothing here")
    done = command("import", str(broken), "--output", str(tmp_path / "x.cryo"))
    assert done.returncode == 2
    assert "no sample, composition or lab test" in done.stderr
    assert not (tmp_path / "x.cryo").exists()
    messy = tmp_path / "messy.csv"
    messy.write_text("pressure,10\n\npercent,TBP\n0,20\n10,95\n30,180\n50,270\n70,380\n")
    done = command("import", str(messy))
    assert done.returncode == 0
    assert "not read: messy.csv, messy, B1: 10 has no unit" in done.stderr
    assert "assumed: messy.csv, messy, B3" in done.stderr
    nothing = tmp_path / "nothing.cryo"
    nothing.write_text('{"format": "cryonome/1"}')
    done = command("export", str(nothing), str(tmp_path / "y.xlsx"))
    assert done.returncode == 2
    assert not (tmp_path / "y.xlsx").exists()
