"""What a step does, in words: every number of every kind is said and read back, and what is not understood is told."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.process import KINDS
from cryonome.questions.chains.model import NUMBERS, Feed, Step
from cryonome.telling.sentences import Units
from cryonome.wording.step_words import (
    CHOICES,
    does,
    fed,
    feed_understood,
    renamed,
    streams_said,
    streams_taken,
    understood,
)

UNITS = {
    "pressure": "bar",
    "power": "kW",
    "temperature": "degC",
    "temperature_difference": "K",
    "pressure_difference": "bar",
    "conductance": "kW/K",
    "fraction": "%",
}
METRIC = Units.of("metric")


def _cells(kind, data):
    own = KINDS[kind]
    keys = [data.draw(st.sampled_from(own.needs))] if own.needs else []
    keys += [k for k in own.may if data.draw(st.booleans())]
    value = st.integers(1, 90)
    cells = {k: data.draw(value) if not NUMBERS[k] else f"{data.draw(value)} {UNITS[NUMBERS[k]]}" for k in keys}
    cells |= {
        k: data.draw(st.sampled_from(CHOICES[k])) for k in own.words if k != "efficiency_kind" or "efficiency" in cells
    }
    return cells


@given(st.sampled_from(sorted(KINDS)), st.data())
def test_what_is_said_is_read_back(kind, data):
    step = Step(name="S", step=kind, **_cells(kind, data))
    found, odd = understood(does(step, METRIC), kind, METRIC)
    assert odd == []
    again = Step(name="S", step=kind, **{k: v for k, v in found.items() if v is not None})
    assert does(again, METRIC) == does(step, METRIC)
    for key in NUMBERS:
        assert (getattr(step, key) is None) == (getattr(again, key) is None), key


@pytest.mark.parametrize(
    ("kind", "text", "meant"),
    [
        ("compressor", "31", {"pressure": "31 bar"}),
        ("compressor", "compress to 450 psia, 0.8, ratio 3", {"pressure": "450 psia", "efficiency": 0.8, "ratio": 3.0}),
        (
            "compressor",
            "with 370 hp, 76 % isentropic",
            {"power": "370 hp", "efficiency": "76 %", "efficiency_kind": "isentropic"},
        ),
        ("cooler", "40, drop 5 psi", {"temperature": "40 degC", "pressure_drop": "5 psi"}),
        ("heater", "duty 1 MMBtu/h", {"duty": "1 MMBtu/h"}),
        ("exchanger", "approach 5 degF, co-current", {"least_approach": "5 degF", "arrangement": "co"}),
    ],
)
def test_words_as_people_type_them(kind, text, meant):
    found, odd = understood(text, kind, METRIC)
    assert odd == []
    assert {k: v for k, v in found.items() if v is not None and v != CHOICES.get(k, ("",))[0]} == meant


@pytest.mark.parametrize(
    ("kind", "text"), [("valve", "to 31 furlong"), ("pump", "quickly"), ("cooler", "to 3 kg"), ("mixer", "75 %")]
)
def test_what_is_not_understood_is_told(kind, text):
    assert understood(text, kind, METRIC)[1] == [text]


def test_feeds_and_streams_are_said_and_taken():
    feed = Feed(fluid="F", temperature="38 degC", pressure="11 bar", rate="5 MMscf/day")
    found, odd = feed_understood(fed(feed, METRIC), METRIC)
    assert odd == []
    assert Feed(fluid="F", **{k: v for k, v in found.items() if v is not None}).temperature == "38 °C"
    assert (
        feed_understood("40 % vapour, 20 bar, 850 bbl/day standard liquid", METRIC)[0]["rate_by"] == "standard liquid"
    )
    assert feed_understood("40 furlong", METRIC)[1] == ["40 furlong"]
    for kind, side, text in (
        ("exchanger", "from", "hot, cold"), ("mixer", "from", "a, b, c"), ("separator", "to", "gas, oil, water"),
        ("splitter", "to", "a 60 %, b"), ("valve", "to", "out"),
    ):  # fmt: skip
        step = Step(name="S", step=kind).model_copy(update=streams_taken(text, kind, side))
        assert streams_said(step, side) == text
    steps = (
        Step(name="A", step="mixer", takes=("x", "y")),
        Step(name="B", step="exchanger", hot_from="x", cold_from="z"),
    )
    assert [streams_said(s, "from") for s in renamed(steps, "x", "new")] == ["new, y", "new, z"]
