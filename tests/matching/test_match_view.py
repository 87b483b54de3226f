"""What is to be seen of a match: the measured points as they were entered, the lines of the model before and after."""

from __future__ import annotations

import json

import numpy as np
import pytest

from cryonome.document import parse_document
from cryonome.matching.fitting import fitted_parameters
from cryonome.matching.match_view import match_view
from cryonome.questions.solving import solve_study
from cryonome.results import Evaluator

OIL = {
    "name": "Oil",
    "parts": [
        {"component": "nitrogen", "amount": 1}, {"component": "methane", "amount": 40}, {"component": "ethane", "amount": 7}, {"component": "propane", "amount": 5},
        {"component": "n-butane", "amount": 4}, {"component": "n-hexane", "amount": 6}, {"pseudo": {"name": "H1", "molar_mass": 150, "specific_gravity": 0.79}, "amount": 20},
        {"pseudo": {"name": "H2", "molar_mass": 320, "specific_gravity": 0.88}, "amount": 17},
    ],
}  # fmt: skip
P = ["300 bar", "200 bar", "150 bar", "100 bar", "60 bar"]
TESTS = [
    {"name": "e", "kind": "expansion", "fluid": "Oil", "temperature": "90 degC", "pressures": P,
     "measured": {"relative_volume": [0.976, 0.991, 1.08, 1.37, 2.03], "saturation.pressure_Pa": "197 bar"}},
    {"name": "e cold", "kind": "expansion", "fluid": "Oil", "temperature": "50 degC", "pressures": P, "measured": {"saturation.pressure_Pa": "172 bar"}},
    {"name": "l", "kind": "liberation", "fluid": "Oil", "temperature": "90 degC", "pressures": [*P, "1 atm"],
     "measured": {"oil_volume_factor": [1.44, 1.46, 1.4, 1.32, 1.25, 1.05]}},
]  # fmt: skip
MATCH = {
    "name": "m", "kind": "match", "fluid": "Oil", "tests": ["e", "e cold", "l"],
    "parameters": [{"property": "kij", "components": ["methane"], "with": ["H2"]}, {"property": "Tc", "components": ["H2"]}],
}  # fmt: skip


@pytest.fixture(scope="module")
def project():
    data = {"format": "cryonome/1", "fluids": [OIL], "studies": [*TESTS, MATCH]}
    return Evaluator().at(parse_document(json.dumps(data)))


@pytest.fixture(scope="module")
def asked(project):
    return project.read_study(project.document.study("m")).asked


def test_points_are_as_they_were_entered_and_lines_are_the_tests_answers(project, asked):
    view = match_view(asked, project, (), None)
    assert (view.tests, view.points) == (3, 13)
    expansion = next(p for p in view.panels if p.key == "relative_volume" and p.tests == ("e",))
    assert expansion.after is None
    assert expansion.at == pytest.approx([3e7, 2e7, 1.5e7, 1e7, 6e6])
    assert expansion.measured == pytest.approx([0.976, 0.991, 1.08, 1.37, 2.03])
    assert expansion.rows == (0, 1, 2, 3, 4)
    # The line goes through what the test itself answers, at more places than were measured.
    assert expansion.x.size > 5
    answer = solve_study(project.document.study("e"), project)
    rows = {r["pressure_Pa"]: r["relative_volume"] for r in answer["rows"]}
    order = np.argsort(expansion.x)
    for pressure, own in rows.items():
        assert np.interp(pressure, expansion.x[order], expansion.before[order]) == pytest.approx(own, rel=5e-3)
    off = expansion.deviation(expansion.before)
    assert off is not None
    assert 0.0 < off < 30.0
    assert expansion.deviation(None) is None


def test_saturation_pressures_of_several_tests_are_one_picture_over_temperature(project, asked):
    view = match_view(asked, project, (), None)
    saturation = view.panels[0]
    assert saturation.name == "Saturation pressure"
    assert saturation.x_key == "temperature_K"
    assert saturation.x == pytest.approx([323.15, 363.15])
    assert saturation.measured == pytest.approx([172e5, 197e5])
    assert set(saturation.tests) == {"e", "e cold"}
    singles = {(s.test, s.key): s for s in view.singles}
    own = singles["e", "saturation.pressure_Pa"]
    assert own.measured == pytest.approx(197e5)
    assert own.before == pytest.approx(
        solve_study(project.document.study("e"), project)["saturation"]["pressure_Pa"], rel=1e-6
    )
    assert own.after is None


def test_a_fit_moves_the_lines_towards_the_points(project, asked):
    answer = solve_study(project.document.study("m"), project)
    assert answer["ok"], answer
    wanted, values = fitted_parameters(answer)
    view = match_view(asked, project, wanted, values)
    before = after = 0.0
    for panel in view.panels:
        assert panel.after is not None
        assert panel.after.shape == panel.before.shape
        before += panel.deviation(panel.before) or 0.0
        after += panel.deviation(panel.after) or 0.0
    assert after < before
    for single in view.singles:
        assert single.after is not None
        assert abs(single.after / single.measured - 1.0) < abs(single.before / single.measured - 1.0) + 0.02
