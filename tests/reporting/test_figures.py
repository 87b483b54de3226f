"""The picture of each kind of answer: it draws the numbers of the answer, in the reader's units, and nothing else."""

from __future__ import annotations

import json

import pytest

from cryonome.document import parse_document
from cryonome.questions.solving import solve_study
from cryonome.reporting.figures import CURVES, MOST, Told, figures_of
from cryonome.reporting.svg import draw
from cryonome.results import Evaluator
from cryonome.telling.sentences import Units

GAS = {
    "name": "Gas",
    "parts": [
        {"component": n, "amount": a} for n, a in (("methane", 88), ("propane", 9), ("water", 0.4), ("n-hexane", 2.6))
    ],
}
CO2 = {"name": "CO2", "parts": [{"component": "carbon dioxide", "amount": 1}]}
STUDIES = [
    {"name": "state", "kind": "flash", "fluid": "Gas", "temperature": "10 degC", "pressure": "40 bar"},
    {"name": "points", "kind": "saturation", "fluid": "Gas", "temperature": "0 degC"},
    {"name": "map", "kind": "envelope", "fluid": "Gas", "vapour_fractions": [0, 0.5, 1]},
    {"name": "table", "kind": "table", "fluid": "Gas", "properties": ["density_kg_m3", "vapour.viscosity_Pa_s"],
     "axes": [{"variable": "temperature", "from": "0 degC", "to": "60 degC", "steps": 3}, {"variable": "pressure", "from": "10 bar", "to": "100 bar", "steps": 8}]},
    {"name": "sweep", "kind": "sweep", "of": "state", "vary": {"path": "studies[state].pressure", "from": "10 bar", "to": "90 bar", "steps": 8}, "read": ["vapour_fraction"]},
    {"name": "family", "kind": "sweep", "of": "state", "read": ["density_kg_m3"], "vary": [{"path": "studies[state].pressure", "from": "10 bar", "to": "90 bar", "steps": 4}, {"path": "studies[state].temperature", "values": ["0 degC", "40 degC"]}]},
    {"name": "goal", "kind": "goal", "of": "state", "vary": {"path": "studies[state].temperature", "between": ["-60 degC", "60 degC"]}, "read": "vapour_fraction", "target": "95 %"},
    {"name": "hydrate", "kind": "hydrate", "fluid": "Gas", "pressures": ["20 bar", "40 bar", "80 bar"]},
    {"name": "dry", "kind": "water_content", "fluid": "Gas", "temperatures": {"from": "0 degC", "to": "40 degC", "steps": 4}, "pressures": ["30 bar", "90 bar"]},
    {"name": "line", "kind": "path", "fluid": "Gas", "stations": [
        {"name": "Well", "temperature": "60 degC", "pressure": "110 bar"}, {"name": "Riser", "temperature": "9 degC", "pressure": "70 bar"}]},
    {"name": "isotherms", "kind": "isotherms", "fluid": "CO2", "temperatures": ["0 degC", "40 degC"], "equations": ["PR78", "SRK"]},
    {"name": "roots", "kind": "roots", "fluid": "CO2", "temperature": "0 degC", "pressure": "30 bar"},
    {"name": "train", "kind": "process", "feeds": {"feed": {"fluid": "Gas", "temperature": "30 degC", "pressure": "11 bar", "rate": "1 kg/s"}},
     "steps": [{"name": "K", "step": "compressor", "from": "feed", "to": "hot", "pressure": "30 bar", "efficiency": "75 %"},
               {"name": "C", "step": "cooler", "from": "hot", "to": "cool", "temperature": "35 degC"}]},
    {"name": "sure", "kind": "spread", "of": "state", "samples": 20, "read": ["vapour_fraction"], "uncertain": [
        {"path": "studies[state].temperature", "standard_deviation": "2 K"}, {"path": "studies[state].pressure", "standard_deviation": "1 bar"}]},
]  # fmt: skip
NAMES = [s["name"] for s in STUDIES]


@pytest.fixture(scope="module")
def project():
    return Evaluator().at(
        parse_document(json.dumps({"format": "cryonome/1", "fluids": [GAS, CO2], "studies": STUDIES}))
    )


def told(project, name, units="metric"):
    study = project.document.study(name)
    answer = solve_study(study, project)
    assert answer["ok"], (name, answer)
    return Told(study, answer, project, Units.of(units)), answer


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("units", ["metric", "field"])
def test_each_kind_has_a_picture_that_can_be_drawn_in_any_units(project, name, units):
    own, _ = told(project, name, units)
    figures = figures_of(own)
    assert 1 <= len(figures) <= MOST
    for figure in figures:
        assert not figure.empty
        text = draw(figure)
        assert text.startswith("<svg")
        assert "nan" not in text
        assert figure.x_title or figure.columns


def test_a_table_is_lines_of_its_own_values_some_of_many(project):
    own, answer = told(project, "table")
    density, viscosity = figures_of(own)
    assert density.x_title == "Temperature, °C"
    assert density.y_title.lower() == "density, kg/m³"
    assert len(density.strokes) <= CURVES + 1
    first, last = density.strokes[0], density.strokes[-1]
    assert (first.name, last.name) == ("10 bar", "100 bar")
    rows = answer["properties"]["density_kg_m3"]
    assert first.y == pytest.approx([r[0] for r in rows])
    assert last.y == pytest.approx([r[-1] for r in rows])
    assert first.x == pytest.approx([0, 20, 40, 60])
    assert "viscosity" in viscosity.y_title.lower()
    assert "cP" in viscosity.y_title


def test_a_sweep_is_its_rows_and_a_second_input_a_family(project):
    own, answer = told(project, "sweep")
    (figure,) = figures_of(own)
    line, dots = figure.strokes
    assert line.x == dots.x == pytest.approx([10 * k for k in range(1, 10)])
    assert line.y == pytest.approx([r["read"][0] for r in answer["rows"]])
    assert (line.marker, dots.marker) == ("", "o")
    own, answer = told(project, "family")
    (figure,) = figures_of(own)
    assert sorted(s.name for s in figure.strokes) == ["0 °C", "40 °C"]
    assert sum(len(s.y) for s in figure.strokes) == len(answer["rows"])


def test_a_state_and_a_path_stand_on_the_map_of_their_fluid(project):
    own, answer = told(project, "state")
    (figure,) = figures_of(own)
    (mark,) = figure.marks
    assert (mark.x, mark.y) == (
        pytest.approx(answer["temperature_K"] - 273.15),
        pytest.approx(answer["pressure_Pa"] / 1e5),
    )
    assert {"bubble", "dew"} & {s.name for s in figure.strokes}
    own, answer = told(project, "line")
    figures = figures_of(own)
    path = next(s for s in figures[0].strokes if s.name == "path")
    assert path.x == pytest.approx([60, 9])
    assert path.y == pytest.approx([110, 70])
    assert [m.text for m in figures[0].marks][:2] == ["Well", "Riser"]
    assert figures[1].columns == ("Well", "Riser")


def test_isotherms_have_their_critical_point_and_roots_their_isotherm(project):
    own, answer = told(project, "isotherms")
    figures = figures_of(own)
    assert [f.title for f in figures] == [e["equation"] for e in answer["equations"]]
    for figure, equation in zip(figures, answer["equations"]):
        assert figure.x_log
        (critical,) = figure.marks
        assert critical.y == pytest.approx(equation["critical"]["pressure_Pa"] / 1e5)
        assert figure.y_range == (0.0, pytest.approx(2.2 * critical.y))
        assert {0.0, 40.0} == {float(s.name.split()[0]) for s in figure.strokes if s.name[0].isdigit()}
        assert "saturation" in {s.name for s in figure.strokes}
    own, answer = told(project, "roots")
    (figure,) = figures_of(own)
    assert figure.level == (("asked", pytest.approx(30.0)),)
    assert [m.y for m in figure.marks] == pytest.approx([30.0] * 3)
    assert sum("stable" in (m.name if hasattr(m, "name") else m.text) for m in figure.marks) == 1


def test_a_goal_shows_the_state_that_it_found(project):
    own, answer = told(project, "goal")
    (figure,) = figures_of(own)
    assert figure.marks[0].x == pytest.approx(answer["answer"]["temperature_K"] - 273.15)
    assert answer["answer"]["vapour_fraction"] == pytest.approx(0.95, abs=1e-6)


def test_a_train_has_its_streams_and_a_spread_what_it_comes_from(project):
    own, answer = told(project, "train")
    (figure,) = figures_of(own)
    assert len(figure.marks) == len(answer["streams"]) == 3
    own, answer = told(project, "sure")
    figures = figures_of(own)
    shares = next(f for f in figures if f.rows)
    (stroke,) = shares.strokes
    assert list(stroke.x) == sorted(stroke.x, reverse=True)
    assert sum(stroke.x) <= 100.0 + 1e-9
    assert len(shares.rows) == 2


def test_what_has_no_answer_has_no_picture(project):
    study = project.document.study("state")
    assert figures_of(Told(study, {"ok": False, "error": "no such state"}, project, Units.of("SI"))) == []
