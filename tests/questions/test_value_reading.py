"""Named values read by sweeps and goals: followed into the question that is varied, refused where they cannot be."""

from __future__ import annotations

import pytest

from ask import answers, faults
from cryonome.document import format_path

GAS = {"name": "Gas", "parts": [{"component": "methane", "amount": 85}, {"component": "propane", "amount": 15}]}
STATE = {"name": "state", "kind": "flash", "fluid": "Gas", "temperature": "-30 degC", "pressure": "20 bar"}
OTHER = {"name": "other", "kind": "flash", "fluid": "Gas", "temperature": "20 degC", "pressure": "20 bar"}
PATH = "studies[state].temperature"


def document(*studies, values):
    return {"format": "cryonome/1", "fluids": [GAS], "studies": [STATE, OTHER, *studies], "values": values}


def named(name, expression, unit=""):
    return {"name": name, "expression": expression, **({"unit": unit} if unit else {})}


def sweep(read, values=("-40 degC", "-30 degC", "0 degC")):
    return {"name": "s", "kind": "sweep", "of": "state", "vary": {"path": PATH, "values": list(values)}, "read": [read]}


def goal(read, target):
    return {
        "name": "g",
        "kind": "goal",
        "of": "state",
        "vary": {"path": PATH, "between": ["-50 degC", "60 degC"]},
        "read": read,
        "target": target,
    }


HALF = named("half of the density", "0.5 * [state].density_kg_m3", "kg/m3")
RATIO = named("ratio", "[state].density_kg_m3 / [other].density_kg_m3")
DEEP = named("deep", "2 * [ratio]")


def test_a_sweep_reads_a_value_of_the_question_it_varies_and_of_others():
    found = answers(document(sweep("[half of the density]"), values=[HALF]))["s"]
    assert found["ok"], found
    for row, T in zip(found["rows"], (-40, -30, 0)):
        one = answers(document({**STATE, "name": "x", "temperature": f"{T} degC"}, values=[]))["x"]
        assert row["read"][0] == pytest.approx(0.5 * one["density_kg_m3"], rel=1e-9)
    whole = answers(document(sweep("[deep]"), values=[RATIO, DEEP]))
    at = whole["other"]["density_kg_m3"]
    for row, half in zip(whole["s"]["rows"], found["rows"]):
        assert row["read"][0] == pytest.approx(4.0 * half["read"][0] / at, rel=1e-9)


def test_a_goal_aims_at_a_value_in_its_own_unit():
    whole = answers(document(goal("[half of the density]", 9.0), values=[HALF]))
    assert whole["g"]["ok"], whole["g"]
    T = whole["g"]["answer"]["temperature_K"]
    check = answers(document({**STATE, "name": "x", "temperature": T}, values=[]))["x"]
    assert check["density_kg_m3"] == pytest.approx(18.0, rel=1e-6)
    other = answers(document(goal("[half of the density]", "0.561856 lb/ft3"), values=[HALF]))["g"]
    assert other["answer"]["temperature_K"] == pytest.approx(T, rel=1e-5)


@pytest.mark.parametrize(
    ("values", "read", "words"),
    [
        ([HALF], "[half of density]", "half of the density"),
        ([named("a", "[b] + 1"), named("b", "[a] + 1")], "[a]", "asks for itself"),
        ([named("bad", "2 * (")], "[bad]", "bad"),
    ],
)  # fmt: skip
def test_a_value_that_cannot_be_read_is_told_at_its_place(values, read, words):
    told = {format_path(f.path): f.message for f in faults(document(sweep(read), values=values))}
    assert any(words in message for message in told.values()), told
    assert any(path.startswith(("studies[2].read", "values")) for path in told), told


def test_a_value_of_another_question_without_an_answer_is_told_in_each_row():
    broken = {**OTHER, "name": "other", "pressure": "900 bar", "temperature": None, "vapour_fraction": 0.5}
    data = document(sweep("[ratio]"), values=[RATIO])
    data["studies"][1] = broken
    found = answers(data)["s"]
    assert not found["ok"]
    assert "'other' has no answer" in found["error"]


def test_a_unit_that_is_not_that_of_the_value_is_refused():
    wrong = named("wrong", "[state].density_kg_m3", "bar")
    found = answers(document(sweep("[wrong]"), values=[wrong]))["s"]
    assert not found["ok"]
    assert "The value is no pressure, as its unit says" in found["error"]
