"""What a chain or a spread cannot be is told at its cell, in one sentence that says what would be right."""

from __future__ import annotations

import pytest

from ask import answers, faults
from cryonome.document import DocumentError, format_path

GAS = {"name": "Gas", "parts": [{"component": "methane", "amount": 85}, {"component": "propane", "amount": 15}]}
FEED = {"fluid": "Gas", "temperature": "30 degC", "pressure": "10 bar", "rate": "1 kg/s"}
STATE = {"name": "state", "kind": "flash", "fluid": "Gas", "temperature": "-30 degC", "pressure": "20 bar"}
K = {"name": "K", "step": "compressor", "from": "feed", "to": "out", "pressure": "30 bar", "efficiency": "75 %"}


def chain(*steps, feed=None):
    data = {"name": "c", "kind": "process", "feeds": {"feed": {**FEED, **(feed or {})}}, "steps": list(steps)}
    return {"format": "cryonome/1", "fluids": [GAS], "studies": [data]}


def told_of(data):
    out: dict[str, str] = {}
    for f in faults(data):
        place = format_path(f.path)
        out[place] = f"{out[place]}; {f.message}" if place in out else f.message
    return out


@pytest.mark.parametrize(
    ("step", "place", "words"),
    [
        ({**K, "pressure": None}, "", "needs its"),
        ({**K, "ratio": 3}, "", "both"),
        ({**K, "ratio": -3, "pressure": None}, "ratio", "not above zero"),
        ({**K, "temperature": "40 degC"}, "temperature", "takes no temperature"),
        ({**K, "efficiency": 0.001}, "efficiency", "0.75 or 75 %"),
        ({**K, "stages": 2.5}, "stages", "whole"),
        ({**K, "stages": 40}, "stages", "number of stages"),
        ({**K, "to": ["a", "b"]}, "to", "one stream"),
        ({**K, "to": ""}, "to", "needs a name"),
        ({**K, "from": ["feed", "other"]}, "from", "Put a mixer before it"),
        ({**K, "hot_from": "feed"}, "hot_from", "has no hot from"),
        ({**K, "arrangement": "co"}, "arrangement", "has no arrangement"),
        ({**K, "step": "compresor"}, "step", "compressor"),
        ({"name": "C", "step": "cooler", "from": "feed", "to": "out", "duty": "-5 kW"}, "duty", "which way it goes"),
        ({"name": "C", "step": "cooler", "from": "feed", "to": "out", "temperature": "3000 K"}, "temperature", "temperature"),
        ({"name": "C", "step": "cooler", "from": "feed", "to": "out", "temperature": "10 degC", "pressure_drop": "-1 bar"}, "pressure_drop", "zero or more"),
        ({"name": "S", "step": "splitter", "from": "feed", "to": "a"}, "to", "by their share"),
        ({"name": "S", "step": "splitter", "from": "feed", "to": {"a": 0.6, "b": 0.6}}, "to", "add up to one"),
        ({"name": "S", "step": "splitter", "from": "feed", "to": {"a": None, "b": None}}, "to", "one may be left out"),
        ({"name": "D", "step": "separator", "from": "feed", "to": "a"}, "to", "by what they hold"),
        ({"name": "D", "step": "separator", "from": "feed", "to": {"vapour": "a"}}, "to", "liquid is missing"),
        ({"name": "D", "step": "separator", "from": "feed", "to": {"vapor": "a", "liquid": "b"}}, "to.vapor", "vapour"),
        ({"name": "D", "step": "separator", "from": "feed", "to": {"vapour": "a", "liquid": ""}}, "to.liquid", "needs the name"),
        ({"name": "D", "step": "separator", "from": "feed", "to": {"vapour": "a", "liquid": "b"}, "temperature": "5 degC", "duty": "5 kW"}, "duty", "both are given"),
        ({"name": "X", "step": "exchanger", "hot_from": "feed", "hot_to": "a", "cold_from": "", "cold_to": "b", "least_approach": "5 K"}, "cold_from", "name of a stream"),
        ({"name": "X", "step": "exchanger", "from": "feed", "hot_from": "feed", "hot_to": "a", "cold_from": "a", "cold_to": "b", "least_approach": "5 K"}, "from", "hot_from"),
        ({"name": "X", "step": "exchanger", "hot_from": "feed", "hot_to": "a", "cold_from": "a", "cold_to": "b", "ua": 0}, "ua", "above zero"),
    ],
)  # fmt: skip
def test_a_step_that_cannot_be_is_told_at_its_cell(step, place, words):
    told = told_of(chain(step))
    here = {p: m for p, m in told.items() if p.startswith("studies[0].steps[0]")}
    assert any(words in m and (not place or p.endswith(place)) for p, m in here.items()), told
    with pytest.raises(DocumentError):
        answers(chain(step))


@pytest.mark.parametrize(
    ("feed", "place", "words"),
    [
        ({"rate": None}, "rate", "needs its rate"), ({"rate": "5 bar"}, "rate", "by time"), ({"pressure": None}, "", "exactly"),
        ({"enthalpy": "1 kJ/mol"}, "", "exactly"), ({"fluid": "Gass"}, "fluid", "Gas"), ({"temperature": "cold"}, "temperature", "cold"),
    ],
)  # fmt: skip
def test_a_feed_that_cannot_be_is_told_at_its_cell(feed, place, words):
    told = told_of(chain(K, feed=feed))
    assert any(words in m and p.startswith("studies[0].feeds.feed") and p.endswith(place) for p, m in told.items()), (
        told
    )


def test_a_chain_without_feeds_or_steps_says_what_it_needs():
    data = chain()
    data["studies"][0]["feeds"] = {}
    told = told_of(data)
    assert "no feed yet" in told["studies[0].feeds"]
    assert "no step yet" in told["studies[0].steps"]


def spread(*uncertain, **more):
    study = {"name": "s", "kind": "spread", "of": "state", "samples": 20, "uncertain": list(uncertain), **more}
    return {"format": "cryonome/1", "fluids": [GAS], "studies": [STATE, study]}


T = {"path": "studies[state].temperature", "standard_deviation": "2 K"}


@pytest.mark.parametrize(
    ("item", "place", "words"),
    [
        ({}, "", "names nothing"),
        ({**T, "fluid": "Gas"}, "", "path and fluid"),
        ({**T, "path": "studies[state].temprature"}, "path", "temperature"),
        ({**T, "path": "studies[state].enthalpy"}, "path", "is empty"),
        ({**T, "path": "studies[state].fluid"}, "path", "cannot be varied"),
        ({**T, "standard_deviation": "2 bar"}, "standard_deviation", "bar"),
        ({**T, "standard_deviation": None}, "", ""),
        ({**T, "distribution": "lognormal"}, "distribution", "normal"),
        ({"path": "studies[state].pressure", "standard_deviation": "15 bar", "distribution": "uniform"}, "standard_deviation", "zero and below"),
        ({"fluid": "Gas", "standard_deviation": "2 %"}, "standard_deviation", "follow from its methods"),
        ({"match": "state"}, "match", "name a match"),
    ],
)  # fmt: skip
def test_an_input_that_cannot_be_uncertain_is_told_at_its_cell(item, place, words):
    told = told_of(spread(item))
    here = {p: m for p, m in told.items() if p.startswith("studies[1].uncertain")}
    assert here, told
    assert any(words in m and (not place or p.endswith(place)) for p, m in here.items()), here


def test_a_cell_is_uncertain_once():
    told = told_of(spread(T, {**T, "standard_deviation": "3 K"}))
    assert "already, by uncertain[0]" in told["studies[1].uncertain[1].path"]
    assert answers(spread(T))["s"]["ok"]
