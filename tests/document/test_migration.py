"""Documents of earlier versions, and the identities things hang on: nothing is lost by opening, moving or renaming."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from cryonome.demo import demo_document
from cryonome.document import Document, load, save
from cryonome.document import edits as change
from cryonome.document.files import parse_document
from cryonome.document.migrate import changed_numbers, migrated, with_ids
from cryonome.document.model import EDITION
from cryonome.questions import solve
from cryonome.results import Evaluator
from cryonome.results.opening import with_identities

OLD = Path(__file__).parent / "varnholt-hub-0.2.cryo"


@pytest.fixture(scope="module")
def old() -> Document:
    return load(OLD)


def test_an_old_document_opens_with_its_pins_as_questions(old):
    data = json.loads(OLD.read_text())
    pinned = {p["name"]: p for p in data["pins"]}
    assert set(pinned) == {"reservoir", "separator"}
    for name, pin in pinned.items():
        study = old.study(name)
        assert (study.kind, study.fluid) == ("flash", pin["fluid"])
        assert (study.temperature, study.pressure) == (pin["temperature"], pin["pressure"])
    assert [s.name for s in old.studies][: len(data["studies"])] == [s["name"] for s in data["studies"]]
    assert not hasattr(old, "pins")


def test_an_old_document_has_the_answers_it_had(old):
    """Its studies answer what the same questions of the demo of today answer: the samples are the same."""
    names = ["reservoir saturation", "tank", "Quillmoor dew point"]
    mine, today = solve(old, names)["answers"], solve(demo_document(), names)["answers"]
    for name in names:
        assert mine[name]["ok"]
        for key, value in mine[name].items():
            if isinstance(value, float):
                assert value == pytest.approx(today[name][key], rel=1e-7), (name, key)


def test_migration_leaves_its_input_alone_and_keeps_ghosts_and_names_apart():
    data = {
        "format": "cryonome/1",
        "studies": [{"name": "a", "kind": "flash", "fluid": "F", "temperature": 300, "pressure": 1e5}],
        "pins": [
            {"name": "a", "fluid": "F", "temperature": "20 degC", "pressure": "2 bar"},
            {"name": "kept", "frozen_fluid": {"name": "F"}, "frozen_samples": []},
            "not a pin",
        ],
    }
    before = json.dumps(data)
    found = migrated(data)
    assert json.dumps(data) == before
    assert [s["name"] for s in found["studies"]] == ["a", "a 2"]
    assert found["ghosts"] == [{"name": "kept", "fluid": {"name": "F"}, "samples": []}]
    assert "pins" not in found
    assert migrated(found) == found


def test_identities_are_made_once_and_come_back_from_a_file(old, tmp_path):
    named = with_ids(old)
    ids = [t.id for t in (*named.samples, *named.fluids)]
    assert all(ids)
    assert len(set(ids)) == len(ids)
    assert with_ids(named) is named
    save(tmp_path / "again.cryo", named)
    assert load(tmp_path / "again.cryo") == named


PAIRED = {
    "format": "cryonome/1",
    "samples": [
        {
            "name": "Tarn", "bulk": {"density": "31 API"},
            "distillation": {
                "points": [[0, "40 degC"], [10, "110 degC"], [30, "200 degC"], [50, "300 degC"], [70, "410 degC"],
                           [90, "560 degC"]],
            },
            "cuts": {"boundaries": ["100 degC", "200 degC", "300 degC", "400 degC"]},
        }
    ],
    "fluids": [
        {
            "name": "oil", "parts": [{"component": "methane", "amount": 40}, {"sample": "Tarn", "amount": 60}],
            "model": {"eos": "PR78", "kij": "library"},
        }
    ],
}  # fmt: skip


def with_pair(value: float = 0.08) -> Document:
    """Return a document whose fluid has a pair written by hand, with the name of a cut."""
    document = with_ids(parse_document(json.dumps(PAIRED)))
    cut = Evaluator().at(document).fluid(document.fluids[0]).components[3]
    pairs = (("methane", cut.name, value),)
    return change.set_at(document, ("fluids", 0, "model", "kij_pairs"), pairs)


def pair_value(document: Document, identity: str) -> float:
    """Return k_ij of methane with the component of that identity, as the model has it."""
    model = Evaluator().at(document).fluid(document.fluids[0])
    place = [c.identity for c in model.components].index(identity)
    assert not [r for r in model.remarks if r.code == "model.pair_without_effect"]
    return float(model.eos.kij[0, place])


def test_a_pair_stays_on_its_cut_when_a_boundary_moves_or_the_sample_is_renamed():
    document = with_identities(with_pair())
    _, key, value = document.fluids[0].model.kij_pairs[0]
    assert value == 0.08
    assert pair_value(document, key) == 0.08
    cuts = document.samples[0].cuts
    boundaries = [(f"b{i + 1}", cell) for i, cell in enumerate(cuts.boundaries)]
    model = Evaluator().at(document)
    place = [c.identity for c in model.fluid(document.fluids[0]).components].index(key)
    names = [c.name for c in model.fluid(document.fluids[0]).components]

    boundaries[1] = (boundaries[1][0], "215 degC")
    boundaries[2] = (boundaries[2][0], "290 degC")
    moved = change.set_at(document, ("samples", 0, "cuts"), change.with_boundaries(cuts, boundaries))
    assert Evaluator().at(moved).fluid(moved.fluids[0]).components[place].name != names[place]
    assert pair_value(moved, key) == 0.08

    renamed = change.renamed(moved, "samples", "Tarn", "Fell")
    assert Evaluator().at(renamed).fluid(renamed.fluids[0]).components[place].name.startswith("Fell")
    assert pair_value(renamed, key) == 0.08


def test_a_pair_by_name_works_without_identities_and_follows_a_renaming():
    document = with_pair()
    names = [c.name for c in Evaluator().at(document).fluid(document.fluids[0]).components]
    renamed = change.renamed(document, "samples", "Tarn", "Fell")
    told = renamed.fluids[0].model.kij_pairs[0][1]
    assert told == names[3].replace("Tarn", "Fell")
    model = Evaluator().at(renamed).fluid(renamed.fluids[0])
    assert model.eos.kij[0, [c.name for c in model.components].index(told)] == 0.08


def test_a_fluid_tuned_before_keeps_the_smooth_alpha_and_both_are_told():
    """Editions before the second had an exponential above Tc under the name of the equation's own function."""
    parts = [{"component": "methane", "amount": 1}]
    tuned = {"changes": [{"components": ["methane"], "property": "Tc", "value": 1.01}]}
    data = {
        "format": "cryonome/1",
        "fluids": [
            {"name": "Plain", "id": "plain", "parts": parts},
            {"name": "Tuned", "id": "tuned", "parts": parts, "model": {"tuned": tuned}},
            {"name": "By hand", "parts": parts, "model": {"tuned": tuned}},
        ],
    }
    found = parse_document(json.dumps(data))
    assert [f.model.alpha for f in found.fluids] == ["own", "smooth", "own"]
    told = changed_numbers(data)
    assert "published alpha function" in told
    assert "Tuned, tuned before, kept the smooth one" in told
    assert found.edition == EDITION
    assert not changed_numbers(json.loads(found.model_dump_json()))
