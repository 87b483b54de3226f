"""A typed question answered: the property asked for comes first, in the reader's units, and what is missing in the question is asked back."""

from __future__ import annotations

import re

import pytest

from cryonome.demo import demo_document
from cryonome.document.edits import set_at
from cryonome.results import Evaluator
from cryonome.wording.asked import answered, underlined
from cryonome.wording.typed import understood

DEMO = demo_document()
SHARED = Evaluator()


def ask(text, document=DEMO, fluid=""):
    """Return what is answered to a typed question."""
    found = understood(text, document, fluid)
    assert found.study is not None, [u.message for u in found.unclear]
    return answered(found.study, document, found.wanted, SHARED)


def state(told, kind=""):
    """Return the state of an answer, or one of its phases."""
    return next(p for p in told.answer["phases"] if p["kind"] == kind) if kind else told.answer


def first_number(text):
    return float(re.search(r"-?\d+(\.\d+)?", text.replace("−", "-")).group())


@pytest.mark.parametrize(
    ("text", "begins", "key", "kind", "factor"),
    [
        ("density of Selden gas at 30 C and 80 bar", "Density ", "density_kg_m3", "", 1.0),
        ("viscosity of the liquid of Varnholt recombined at 92 C and 150 bar", "Viscosity of the liquid ", "viscosity_Pa_s", "liquid", 1e3),
        ("molar mass of Selden gas at 30 C and 80 bar", "Molar mass ", "molar_mass_g_mol", "", 1.0),
        ("speed of sound of Selden gas at 30 C and 80 bar", "Speed of sound ", "speed_of_sound_m_s", "", 1.0),
        ("Z of the vapour of Varnholt recombined at 92 C and 100 bar", "Z of the vapour ", "Z", "vapour", 1.0),
    ],
)  # fmt: skip
def test_a_property_that_is_asked_for_is_told_first(text, begins, key, kind, factor):
    told = ask(text)
    assert told.says.startswith(begins), told.says
    assert first_number(told.says[len(begins) :]) == pytest.approx(factor * state(told, kind)[key], rel=2e-3)
    assert told.study["kind"] == "flash"
    assert told.sentence.endswith("?")
    assert told.answer["ok"]


def test_a_phase_that_is_not_there_is_said_to_be_none():
    told = ask("viscosity of the liquid of Selden gas at 30 C and 80 bar")
    assert told.says.startswith("No liquid has a viscosity there. ")
    both = ask("viscosity of Varnholt recombined at 92 C and 100 bar")
    assert both.says.index("Viscosity of the vapour") < both.says.index("viscosity of the liquid")


def test_the_answer_is_in_the_units_of_the_document():
    field = set_at(DEMO, ("display", "units"), "field")
    metric, other = (
        ask("density of Selden gas at 30 C and 80 bar"),
        ask("density of Selden gas at 30 C and 80 bar", field),
    )
    assert "kg/m³" in metric.says
    assert "lb/ft³" in other.says
    ratio = first_number(metric.says) / first_number(other.says)
    assert ratio == pytest.approx(16.0185, rel=2e-3)


def test_why_there_is_no_answer_is_a_sentence():
    told = ask("dew point of Selden gas at 300 bar")
    assert not told.answer["ok"]
    assert told.says[0].isupper()
    assert told.says[-1] in ".?!"
    assert "Selden gas" in told.sentence


@pytest.mark.parametrize(
    ("text", "asked_back"),
    [
        ("density of Selden gas over 10..40 C", "at which pressure? A table over temperature holds another condition"),
        ("table density Selden gas 10..40 20..120 bar", "10..40 needs its unit: temperature or pressure?"),
        ("table density Selden gas 10..40 C 20..120 bar 3..5 kJ/mol", "a table has one or two axes; three ranges are given"),
        ("table density Selden gas 10..40 C 20..120 bar at 3 kJ/mol", "a condition held beside them is one too many"),
        ("sweep of first separator", "which input of first separator is varied?"),
        ("sweep of first separator with pressure", "over which pressure? Write a range, as 5..60 bar"),
        ("goal first separator pressure vapour fraction", "what is it to be? Write the value wanted, as 50 %"),
    ],
)  # fmt: skip
def test_what_is_missing_is_asked_back(text, asked_back):
    found = understood(text, DEMO)
    assert found.study is None
    assert any(asked_back in u.message for u in found.unclear), found.unclear
    shown = underlined(text, found)
    assert shown.split("\n")[0] == text
    assert shown.endswith(found.unclear[-1].message)


def test_a_sweep_and_a_goal_vary_what_is_said_or_what_the_unit_tells():
    for text, varied, ends in (
        ("sweep of first separator with pressure from 5 to 60 bar", "pressure", ("5 bar", "60 bar")),
        ("sweep first separator over 5..60 bar", "pressure", ("5 bar", "60 bar")),
        ("sweep of first separator from 40 to 80 °C", "temperature", ("40 degC", "80 degC")),
    ):
        sweep = understood(text, DEMO).study
        assert (sweep.kind, sweep.of) == ("sweep", "first separator")
        assert sweep.vary.path == f"studies[first separator].{varied}"
        assert (sweep.vary.begin, sweep.vary.end) == ends
    goal = understood("which pressure makes vapour fraction of first separator 50 % between 5 and 60 bar", DEMO).study
    assert (goal.kind, goal.of, goal.read, goal.target) == ("goal", "first separator", "vapour_fraction", "50 %")
    assert (goal.vary.path, goal.vary.between) == ("studies[first separator].pressure", ("5 bar", "60 bar"))
    told = ask("which pressure makes vapour fraction of first separator 50 % between 5 and 60 bar")
    assert told.answer["reached"] == pytest.approx(0.5, abs=1e-9)


def test_marks_stand_below_what_is_not_understood():
    text = "hydrates of Sleden gas at 80 bar"
    found = understood(text, DEMO)
    line, marks, *reasons = underlined(text, found).split("\n")
    assert line == text
    assert text[marks.index("~") : marks.rindex("~") + 1] == "Sleden gas"
    assert any("Selden gas" in r for r in reasons)
