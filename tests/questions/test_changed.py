"""Answers that another version kept: what is kept, what counts as a change, and what the changelog says of it."""

from __future__ import annotations

import json

import pytest

from ask import command
from cryonome.document import document_text, parse_document
from cryonome.document.edits import removed, renamed
from cryonome.document.kept import KeptAnswer
from cryonome.questions import changed
from cryonome.questions.solving import solve_study
from cryonome.results import Evaluator
from cryonome.telling.sentences import Units
from cryonome.version import VERSION
from cryonome.wording.changed_words import later, rows, summary, why

FLUID = {"name": "Gas", "parts": [{"component": "methane", "amount": 90}, {"component": "n-butane", "amount": 10}]}
STATE = {"name": "state", "kind": "flash", "fluid": "Gas", "temperature": "-20 degC", "pressure": "20 bar"}
DEW = {"name": "dew", "kind": "saturation", "fluid": "Gas", "temperature": "-20 degC"}


def document(**more):
    return parse_document(json.dumps({"format": "cryonome/1", "fluids": [FLUID], "studies": [STATE, DEW], **more}))


def kept(doc):
    return changed.keeping(doc, Evaluator().at(doc), solve=True)


def by(doc, version, factor=1.0, of="state", path="density_kg_m3"):
    """Return the document as another version would have saved it, one number of it other."""
    own = []
    for entry in doc.answered:
        values = {k: v * (factor if entry.study == of and k == path else 1.0) for k, v in entry.values.items()}
        own.append(entry.model_copy(update={"version": version, "values": values}))
    return doc.model_copy(update={"answered": tuple(own)})


def differing(doc):
    return changed.every_change(doc, Evaluator().at(doc))


def test_numbers_are_kept_and_come_back_with_the_file():
    doc = kept(document())
    assert [(k.study, k.version) for k in doc.answered] == [("state", VERSION), ("dew", VERSION)]
    answer = solve_study(doc.studies[0], Evaluator().at(doc))
    assert doc.answered[0].values["density_kg_m3"] == pytest.approx(answer["density_kg_m3"], rel=1e-8)
    again = parse_document(document_text(doc))
    assert again == doc
    # What the same version kept is compared with nothing.
    assert differing(again) == []


def test_a_number_that_differs_is_told_by_how_much_and_why():
    doc = by(kept(document()), "0.18.0", 1.01)
    (change,) = differing(doc)
    assert (change.study, change.path) == ("state", "density_kg_m3")
    assert change.percent == pytest.approx(-100.0 / 101.0, rel=1e-6)
    ((name, what, before, now, told),) = rows([change], Units.of("metric"))
    assert (name, what, told) == ("state", "density", "−0.99 %")
    assert before.endswith("kg/m³")
    assert before != now
    assert summary([change], ["0.18.0", "0.18.0"]) == f"2 answers of 0.18.0: 1 differs by {VERSION}."
    versions = [v for v, _ in why(["0.18.0"])]
    assert "0.19.0" in versions
    assert "0.18.0" not in versions
    assert why([VERSION]) == []
    assert later(["0.18.0", "99.0.0"]) == ["99.0.0"]


TABLE = {
    "name": "table", "kind": "table", "fluid": "Gas", "properties": ["density_kg_m3", "vapour.Z"],
    "axes": [{"variable": "temperature", "from": "-20 degC", "to": "20 degC", "steps": 3}, {"variable": "pressure", "values": ["10 bar", "40 bar"]}],
}  # fmt: skip
SWEEP = {
    "name": "sweep", "kind": "sweep", "of": "state", "read": ["density_kg_m3"],
    "vary": {"path": "studies[state].pressure", "from": "10 bar", "to": "30 bar", "steps": 5},
}  # fmt: skip


def test_tables_are_held_against_each_other_by_the_means_of_their_columns():
    doc = kept(document(studies=[STATE, TABLE, SWEEP]))
    project = Evaluator().at(doc)
    values = {entry.study: entry.values for entry in doc.answered}
    answer = solve_study(doc.studies[1], project)
    for name in ("density_kg_m3", "vapour.Z"):
        cells = [v for line in answer["properties"][name] for v in line if v is not None]
        assert values["table"][f"properties[mean].{name}"] == pytest.approx(sum(cells) / len(cells), rel=1e-8)
    read = [row["read"][0] for row in solve_study(doc.studies[2], project)["rows"]]
    assert values["sweep"] == {"rows[mean].density_kg_m3": pytest.approx(sum(read) / len(read), rel=1e-8)}
    (change,) = differing(by(doc, "0.18.0", 0.98, "table", "properties[mean].density_kg_m3"))
    assert rows([change], Units.of("metric"))[0][1] == "density, mean"


def test_every_table_of_an_answer_is_kept_and_what_an_earlier_version_kept_is_found():
    streams = {f"S{i}": {"temperature_K": 280.0 + i, "phases": [], "composition": {"methane": 1.0}} for i in range(5)}
    steps = [{"step": "cooler", "duty_W": 1e5 * i, **{f"n{j}": j for j in range(60)}} for i in range(4)]
    answer = {"ok": True, "streams": streams, "steps": steps, "power_W": 7.0}
    numbers = changed.numbers_kept(answer)
    assert numbers["streams[mean].temperature_K"] == 282.0
    assert numbers["steps[mean].duty_W"] == 1.5e5
    assert [k for k in numbers if "[mean]" not in k] == ["power_W"]
    # A row was kept by itself before means were.
    earlier = KeptAnswer(study="train", version="0.22.0", values={"streams.S1.temperature_K": 281.0})
    assert changed.changes(earlier, answer) == []
    (told,) = changed.changes(earlier, {**answer, "streams": {}})
    assert told.now is None
    # How often a loop went round is no answer.
    ring = {**answer, "recycles": {"ring": {"iterations": 3, "residual": 1e-9}}}
    assert changed.numbers_kept(ring) == numbers
    assert not changed.changes(earlier.model_copy(update={"values": {"recycles.ring.iterations": 2.0}}), ring)


def test_of_many_numbers_the_page_tells_those_that_changed_most():
    numbers = {f"n{i}_Pa": 1e5 * (1.0 + 0.01 * i) for i in range(12)}
    earlier = KeptAnswer(study="S", version="0.22.0", values=dict.fromkeys(numbers, 1e5))
    found = changed.changes(earlier, {"ok": True, **numbers})
    assert len(rows(found, Units.of("metric"))) == 11
    shown = rows(found, Units.of("metric"), 3)
    assert [row[4] for row in shown] == ["+11 %", "+10 %", "+9 %", ""]
    assert [row[0] for row in shown] == ["S", "", "", ""]
    assert shown[-1][1] == "and 8 more values"


def test_temperatures_change_by_degrees():
    doc = by(kept(document()), "0.18.0", 1.01, "dew", "points[0].pressure_Pa")
    path = differing(doc)[0].path
    assert path == "points[0].pressure_Pa"
    change = changed.Change("dew", "0.18.0", "points[0].temperature_K", 250.0, 251.5)
    assert rows([change], Units.of("metric"))[0][-1] == "+1.5 K"
    assert rows([change], Units.of("field"))[0][-1] == "+2.7 °F"
    assert rows([change], Units.of("metric"))[0][1] == "points 1 temperature"


@pytest.mark.parametrize("factor", [1.0, 1.0 + 1e-8])
def test_last_digits_are_no_change(factor):
    assert differing(by(kept(document()), "0.18.0", factor)) == []


def test_an_edit_is_no_change_of_the_program():
    doc = by(kept(document()), "0.18.0", 1.01)
    warmer = document(studies=[{**STATE, "temperature": "-10 degC"}, DEW]).model_copy(update={"answered": doc.answered})
    assert differing(warmer) == []
    other = {**FLUID, "parts": [{"component": "methane", "amount": 91}, {"component": "n-butane", "amount": 9}]}
    assert differing(document(fluids=[other]).model_copy(update={"answered": doc.answered})) == []
    # Nor is a named value that something may read.
    valued = document(values=[{"name": "v", "expression": "2"}])
    assert differing(valued.model_copy(update={"answered": doc.answered})) == []
    # How things are shown is no content.
    noted = document(display={"units": "field"})
    assert len(differing(noted.model_copy(update={"answered": doc.answered}))) == 1


def test_what_is_not_known_keeps_what_was_kept_and_names_follow():
    doc = by(kept(document()), "0.18.0", 1.01)
    evaluator = Evaluator()
    solve_study(doc.studies[1], evaluator.at(doc))
    saved = changed.keeping(doc, evaluator.at(doc))
    assert [(k.study, k.version) for k in saved.answered] == [("state", "0.18.0"), ("dew", VERSION)]
    assert [k.study for k in renamed(doc, "studies", "state", "cold state").answered] == ["cold state", "dew"]
    assert len(differing(renamed(doc, "studies", "state", "cold state"))) == 1
    gone = removed(doc, "studies", "state")
    assert differing(gone) == []
    assert [k.study for k in kept(gone).answered] == ["dew"]


def test_the_command_line_keeps_numbers_and_tells_changes(tmp_path):
    file = tmp_path / "gas.cryo"
    file.write_text(document_text(document()), encoding="utf-8")
    assert command("solve", str(file), "--keep", "--output", str(tmp_path / "a.json")).returncode == 0
    doc = parse_document(file.read_text(encoding="utf-8"))
    assert [k.version for k in doc.answered] == [VERSION] * 2
    file.write_text(document_text(by(doc, "0.18.0", 1.02)), encoding="utf-8")
    done = command("changed", str(file))
    assert done.returncode == 0
    assert "2 answers of 0.18.0: 1 differs" in done.stdout
    assert "−2 %" in done.stdout
    assert "0.19.0: " in done.stdout
    data = json.loads(command("changed", str(file), "--json").stdout)
    assert (data["compared"], len(data["changes"])) == (2, 1)
    assert command("solve", str(file), str(file), "--keep").returncode == 2
