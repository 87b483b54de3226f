"""References are declared by field types: renaming follows them, removing is told by what is left, and an answer depends on what they reach."""

from __future__ import annotations

import json
import random

import pytest

from cryonome.demo import demo_document
from cryonome.document import check_document, document_text, errors, parse_document
from cryonome.document import edits as change
from cryonome.document.following import followed
from cryonome.document.references import GROUPS, about, asks_another, reached, references, users
from cryonome.questions import solve
from cryonome.questions.solving import answer_key, faults_of, solve_study
from cryonome.results import Evaluator

DEMO = demo_document()
THINGS = [(group, t.name) for group in GROUPS for t in getattr(DEMO, group)]

OWN = {
    "format": "cryonome/1",
    "fluids": [
        {"name": "oil", "parts": [
            {"component": "methane", "amount": 40}, {"component": "propane", "amount": 10},
            {"pseudo": {"name": "C12", "Tc": "658 K", "Pc": "18.2 bar", "omega": 0.576, "molar_mass": 170}, "amount": 50}],
         "model": {"kij_pairs": [["methane", "C12", 0.04]]}},
        {"name": "gas", "parts": [{"component": "methane", "amount": 1}]},
        {"name": "rich", "parts": [{"fluid": "oil", "amount": 2}, {"fluid": "gas", "amount": 1}]},
        {"name": "off gas", "made_by": {"study": "state", "stream": "vapour"}},
    ],
    "studies": [
        {"name": "state", "kind": "flash", "fluid": "oil", "temperature": "40 degC", "pressure": "20 bar"},
        {"name": "over", "kind": "sweep", "of": "state", "read": ["phases.liquid.composition.C12"],
         "vary": {"path": "fluids[oil].parts[C12].amount", "from": 30, "to": 50, "steps": 2}},
        {"name": "by number", "kind": "sweep", "of": "state", "read": ["vapour_fraction"],
         "vary": {"path": "fluids[0].parts[2].amount", "values": [30, 50]}},
        {"name": "to", "kind": "goal", "of": "state", "read": "vapour_fraction", "target": 0.4,
         "vary": {"path": "studies[state].pressure", "between": ["5 bar", "60 bar"]}},
        {"name": "rich state", "kind": "flash", "fluid": "rich", "temperature": "40 degC", "pressure": "20 bar",
         "reference": {"phases.liquid.composition.C12": 0.4}},
        {"name": "off", "kind": "flash", "fluid": "off gas", "temperature": "0 degC", "pressure": "10 bar"},
        {"name": "swell", "kind": "swelling", "fluid": "oil", "gas": "gas", "temperature": "60 degC", "gas_moles": [0.2]},
        {"name": "few", "kind": "lumping", "fluid": "oil", "groups": [["propane", "C12"]]},
        {"name": "line", "kind": "path", "fluid": "gas", "stations": [
            {"name": "top", "temperature": "20 degC", "pressure": "90 bar"}, {"name": "end", "temperature": "10 degC", "pressure": "80 bar"}]},
        {"name": "colder", "kind": "sweep", "of": "line", "read": ["stations[1].density_kg_m3"],
         "vary": {"path": "studies[line].stations[end].temperature", "values": ["0 degC", "10 degC"]}},
    ],
}  # fmt: skip


def own():
    return parse_document(json.dumps(OWN))


def plain(answers, names):
    """Return answers as text with every new name put back, by the place of their question."""
    text = json.dumps(list(answers["answers"].values()), sort_keys=True)
    for old, new in names.items():
        text = text.replace(new, old)
    return json.loads(text)


@pytest.fixture(scope="module")
def before():
    return solve(own())


@pytest.mark.parametrize(("group", "name"), THINGS)
def test_whatever_of_the_demo_is_renamed_nothing_is_lost(group, name):
    document = change.renamed(DEMO, group, name, "Another, name (2)")
    assert not errors(check_document(document))
    assert f'"{name}"' not in document_text(document).replace(f'"title": "{name}"', "")
    back = change.renamed(document, group, "Another, name (2)", name)
    assert back == DEMO


@pytest.mark.parametrize(
    ("group", "name"),
    [*(("fluids", n) for n in ("oil", "gas", "rich", "off gas")), *(("studies", n) for n in ("state", "line", "over"))],
)
def test_a_renamed_part_gives_the_same_answers(before, group, name):
    document = change.renamed(own(), group, name, "Zq9")
    assert plain(solve(document), {name: "Zq9"}) == plain(before, {})


def test_a_component_and_a_station_renamed_by_typing_are_followed(before):
    document = own()
    typed = change.set_at(document, ("fluids", 0, "parts", 2, "pseudo", "name"), "Heavy ends")
    made = followed(document, typed)
    assert made.studies[1].read == ("phases.liquid.composition.Heavy ends",)
    assert made.studies[1].vary.path == "fluids[oil].parts[Heavy ends].amount"
    assert made.studies[4].reference == {"phases.liquid.composition.Heavy ends": 0.4}
    assert made.studies[7].groups == (("propane", "Heavy ends"),)
    assert plain(solve(made), {"C12": "Heavy ends"}) == plain(before, {})
    typed = change.set_at(document, ("studies", 8, "stations", 1, "name"), "far end")
    made = followed(document, typed)
    assert made.studies[9].vary.path == "studies[line].stations[far end].temperature"
    assert followed(document, made) is made  # following twice is following once


def test_rows_taken_out_move_the_paths_that_count_them():
    document = own()
    fewer = change.set_at(document, ("fluids", 0, "parts"), document.fluids[0].parts[1:])
    made = followed(document, fewer)
    assert made.studies[2].vary.path == "fluids[0].parts[1].amount"
    gone = followed(document, change.set_at(document, ("fluids", 0, "parts"), document.fluids[0].parts[:2]))
    assert "C12" in gone.studies[2].vary.path  # by its name now, so that no other row is taken for it
    assert [f.path[:2] for f in errors(check_document(gone))].count(("studies", 2)) == 1
    first = change.removed(document, "fluids", "oil")
    assert first.studies[2].vary.path == "fluids[oil].parts[2].amount"
    assert change.removed(document, "fluids", "gas").studies[2].vary.path == "fluids[0].parts[2].amount"


@pytest.mark.parametrize(("group", "name"), THINGS)
def test_what_named_a_removed_thing_says_so_and_the_rest_goes_on(group, name):
    used = {t.name for t in users(DEMO, group, name)}
    document = change.removed(DEMO, group, name)
    assert sum(len(getattr(document, g)) for g in GROUPS) == len(THINGS) - 1
    project = Evaluator().at(document)
    told = {s.name for s in document.studies if faults_of(s, project)}
    told |= {f.name for f in document.fluids if errors(project.read_fluid(f).faults)}
    assert used <= told
    # Nothing else is silenced: what is told reaches the removed thing.
    for study in document.studies:
        if study.name in told:
            old = DEMO.study(study.name)
            assert any(p.name == name for p in reached(old, DEMO).parts), study.name


def test_what_a_question_is_about_and_asks_derives_from_its_declarations():
    document = own()
    assert [about(s) for s in document.studies[:5]] == ["oil", "", "", "", "rich"]
    assert [asks_another(s) for s in document.studies[:5]] == [False, True, True, True, False]
    assert {p.name for p in reached(document.studies[5], document).parts} == {"off gas", "state", "oil"}
    assert {r.name for r in references(document.studies[6])} == {"oil", "gas"}


def test_a_warm_project_never_shows_what_a_fresh_one_would_not():
    """Random edits of any number in the document: every key of an answer tells apart whatever tells its answers apart."""
    rng = random.Random(7)
    document, warm = own(), Evaluator()
    cells = [("fluids", 0, "parts", 0, "amount"), ("fluids", 0, "parts", 2, "amount"), ("fluids", 1, "parts", 0, "amount"),
             ("fluids", 2, "parts", 1, "amount"), ("fluids", 0, "parts", 2, "pseudo", "omega"), ("studies", 8, "stations", 1, "temperature"),
             ("studies", 0, "pressure"), ("studies", 0, "temperature"), ("fluids", 0, "note"), ("studies", 6, "gas_moles")]  # fmt: skip
    values = {"amount": (20, 35.0), "omega": (0.5, 0.6), "temperature": ("30 degC", "12 degC"), "pressure": ("25 bar", "18 bar"),
              "note": ("a", "b"), "gas_moles": ((0.2,), (0.3,))}  # fmt: skip
    names = [s.name for s in document.studies if s.kind not in ("lumping", "goal")]
    for _ in range(12):
        path = rng.choice(cells)
        document = change.set_at(document, path, rng.choice(values[str(path[-1])]))
        fresh = solve(document, names)["answers"]
        assert solve(document, names, warm)["answers"] == fresh, path
    # A note changes nothing that is computed.
    project, noted = warm.at(document), warm.at(change.set_at(document, ("fluids", 0, "note"), "something else"))
    for a, b in zip(project.document.studies, noted.document.studies):
        assert answer_key(a, project) == answer_key(b, noted)
    kept = solve_study(document.studies[0], project)
    with pytest.raises(TypeError, match="cannot be changed"):
        kept["phases"][0]["composition"]["methane"] = 1.0
    with pytest.raises(TypeError, match="cannot be changed"):
        kept["phases"].clear()
