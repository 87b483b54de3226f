"""Chains as questions: what is refused and where, streams as fluids, sweeps, several fluids, and lines."""

import copy

import pytest

from cryonome.document import Document
from cryonome.document.faults import format_path
from cryonome.questions import solve
from cryonome.results import Evaluator

GAS = {
    "name": "Gas",
    "parts": [
        {"component": c, "amount": a}
        for c, a in (("methane", 88), ("ethane", 6), ("propane", 3), ("n-butane", 2), ("n-hexane", 1))
    ],
}
OIL = {"name": "Oil", "parts": [{"component": "n-hexane", "amount": 40}, {"component": "n-decane", "amount": 60}]}
FEED = {"fluid": "Gas", "temperature": "38 degC", "pressure": "11 bar", "rate": "5 MMscf/day"}
STEPS = [
    {"name": "K", "step": "compressor", "from": "feed", "to": "hot", "pressure": "31 bar", "efficiency": "75 %"},
    {"name": "cool", "step": "cooler", "from": "hot", "to": "cold", "temperature": "-20 degC"},
    {"name": "drum", "step": "separator", "from": "cold", "to": {"vapour": "gas", "liquid": "liquid"}},
]


def _document(steps=STEPS, feeds=None, *more, fluids=(GAS, OIL)):
    chain = {"name": "train", "kind": "process", "feeds": feeds or {"feed": FEED}, "steps": steps}
    return Document.model_validate({"format": "cryonome/1", "fluids": list(fluids), "studies": [chain, *more]})


def _changed(place, **cells):
    steps = copy.deepcopy(STEPS)
    steps[place] |= cells
    return [{k: v for k, v in s.items() if v is not None} for s in steps]


@pytest.mark.parametrize(
    ("steps", "where", "told"),
    [
        (_changed(0, **{"from": "fed"}), "studies[0].steps[0].from", "did you mean feed?"),
        (_changed(1, **{"from": "feed"}), "studies[0].steps[1].from", "goes to 'K' already"),
        (_changed(1, to="hot"), "studies[0].steps[1].to", "comes from 'K' already"),
        (_changed(0, ratio=3), "studies[0].steps[0].ratio", "one of pressure or ratio or power"),
        (_changed(0, pressure=None), "studies[0].steps[0]", "needs its pressure or ratio or power"),
        (_changed(0, duty="3 kW"), "studies[0].steps[0].duty", "a compressor takes no duty"),
        (_changed(0, efficiency=75), "studies[0].steps[0].efficiency", "between 0 and 1"),
        (_changed(0, step="compresor"), "studies[0].steps[0].step", "compressor"),
        (_changed(1, temperature=None, duty="-3 kW"), "studies[0].steps[1].duty", "magnitude"),
        (_changed(2, to={"vapour": "gas", "oil": "liquid"}), "studies[0].steps[2].to.oil", "no outlet for 'oil'"),
        (_changed(2, to="gas"), "studies[0].steps[2].to", "what they hold"),
        (_changed(2, step="splitter", to={"a": 0.7, "b": 0.7}), "studies[0].steps[2].to", "add up to one"),
        (_changed(0, name="cool"), "studies[0].steps[1].name", "two steps named"),
    ],
)
def test_what_is_wrong_is_told_at_its_cell(steps, where, told):
    faults = Evaluator().at(_document(steps)).faults()
    at = {format_path(f.path): f.message for f in faults}
    assert where in at, at
    assert told in at[where]


def test_a_stream_is_a_fluid_and_a_chain_is_swept_as_one():
    flash = {"name": "inside", "kind": "flash", "fluid": "Cold gas", "temperature": "-20 degC", "pressure": "31 bar"}
    sweep = {
        "name": "swept", "kind": "sweep", "of": "train", "vary": {"path": "studies[train].steps[K].pressure", "values": ["25 bar", "31 bar", "5 bar"]},
        "read": ["steps.K.shaft_power_W", "streams.liquid.standard_liquid_m3_s", "streams.hot.temperature_K"],
    }  # fmt: skip
    made = {"name": "Cold gas", "made_by": {"study": "train", "stream": "gas"}}
    answers = solve(_document(STEPS, None, flash, sweep, fluids=(GAS, OIL, made)))["answers"]
    train = answers["train"]
    inside = answers["inside"]
    assert inside["phases"][0]["composition"] == pytest.approx(train["streams"]["gas"]["composition"], rel=1e-9)
    assert inside["vapour_fraction"] == pytest.approx(1.0, abs=1e-6)
    rows = answers["swept"]["rows"]
    assert rows[1]["read"][0] == pytest.approx(train["steps"]["K"]["shaft_power_W"], rel=1e-9)
    assert rows[0]["read"][0] < rows[1]["read"][0]
    assert not rows[2]["ok"]
    assert "below its inlet" in str(rows[2]["error"])


def test_the_answer_holds_every_measure_of_a_flow():
    train = solve(_document())["answers"]["train"]
    feed, gas, liquid = (train["streams"][n] for n in ("feed", "gas", "liquid"))
    assert feed["mole_mol_s"] == pytest.approx(5e6 * 1.19530 / 86400, rel=1e-4)
    assert feed["standard_gas_m3_s"] == pytest.approx(5e6 * 0.3048**3 / 86400, rel=1e-4)
    assert feed["mass_kg_s"] == pytest.approx(gas["mass_kg_s"] + liquid["mass_kg_s"], rel=1e-12)
    assert liquid["phases"][0]["kind"] == "liquid"
    assert 0.0 < liquid["flashed"]["liquid_m3_s"] < liquid["standard_liquid_m3_s"]
    # A drum's gas stands at its dew point.
    assert gas["margins"]["dew_margin_K"] == pytest.approx(0.0, abs=1e-4)
    assert liquid["margins"]["bubble_margin_Pa"] == pytest.approx(0.0, abs=5.0)
    assert gas["margins"]["hydrate_margin_K"] < 0.0
    assert train["balance"]["energy"] < 1e-9
    assert any("hydrate limit" in n for n in train["notes"])


def test_feeds_of_different_fluids_meet():
    oil = {"fluid": "Oil", "temperature": "20 degC", "pressure": "20 bar", "rate": "2 kg/s"}
    steps = [
        {"name": "mix", "step": "mixer", "from": ["feed", "oil"], "to": "both"},
        {"name": "drum", "step": "separator", "from": "both", "to": {"vapour": "gas", "liquid": "rich"}},
    ]
    train = solve(_document(steps, {"feed": {**FEED, "pressure": "20 bar"}, "oil": oil}))["answers"]["train"]
    both = train["streams"]["both"]
    assert set(both["composition"]) == {"methane", "ethane", "propane", "n-butane", "n-hexane", "n-decane"}
    assert both["mass_kg_s"] == pytest.approx(train["streams"]["feed"]["mass_kg_s"] + 2.0, rel=1e-12)
    assert train["streams"]["rich"]["composition"]["methane"] > 0.01
    assert train["balance"]["energy"] < 1e-9


def _line(**cells):
    base = {
        "name": "line", "kind": "line_profile", "fluid": "Gas", "rate": "12 kg/s", "inlet": {"temperature": "40 degC", "pressure": "90 bar"},
        "nominal": "8", "legs": [
            {"name": "base", "length": "12 km", "rise": "-50 m", "ambient": "4 degC", "overall_heat_transfer": 5},
            {"name": "top", "length": 400, "rise": 350, "ambient": "4 degC", "overall_heat_transfer": 5},
        ],
    }  # fmt: skip
    return {**base, **cells}


def _solved(*studies):
    return solve(Document.model_validate({"format": "cryonome/1", "fluids": [GAS], "studies": list(studies)}))[
        "answers"
    ]


def test_a_path_may_be_computed_and_tells_where_it_enters_a_limit():
    path = {"name": "path", "kind": "path", "fluid": "Gas", "from_profile": "line"}
    answers = _solved(_line(), path)
    line, path = answers["line"], answers["path"]
    assert [s["name"] for s in path["stations"]] == ["Inlet", "base", "top"]
    for a, b in zip(line["stations"], path["stations"]):
        assert b["temperature_K"] == a["temperature_K"]
        assert b["margins"]["hydrate_margin_K"] == pytest.approx(a["margins"]["hydrate_margin_K"], abs=0.05)
    (entry,) = [e for e in line["enters"] if e["limit"] == "hydrate"]
    there = [p for p in line["points"] if p["distance_m"] < entry["distance_m"]]
    assert all(p["margins"]["hydrate_margin_K"] >= 0.0 for p in there)
    assert entry["distance_m"] + entry["before_m"] == pytest.approx(12000.0 if entry["station"] == "base" else 12400.0)
    assert any("before base" in n or "before top" in n for n in line["notes"])
    assert len(line["points"]) >= 200


@pytest.mark.parametrize(
    ("cells", "told"),
    [
        ({"outlet": {"pressure": "60 bar"}}, "not both"),
        ({"inlet": {"temperature": "40 degC"}}, "not neither"),
        ({"nominal": "7"}, "unknown nominal size"),
        ({"nominal": "3-1/2", "schedule": "160"}, "no 3-1/2 in pipe of schedule 160"),
        ({"inside_diameter": "8 in"}, "both are given"),
        ({"legs": [{"length": "1 km", "rise": "2 km", "ambient": 280, "overall_heat_transfer": 5}]}, "cannot rise"),
        ({"rate": "12"}, "a rate has a unit"),
    ],
)
def test_what_is_wrong_with_a_line_is_told(cells, told):
    document = Document.model_validate({"format": "cryonome/1", "fluids": [GAS], "studies": [_line(**cells)]})
    assert any(told in f.message for f in Evaluator().at(document).faults())


def test_a_line_size_says_what_governs():
    size = {
        "name": "size", "kind": "line_size", "fluid": "Gas", "temperature": "27 degC", "pressure": "40 bar", "rate": "12 kg/s",
        "limits": {"gradient": "1.1 kPa/m", "velocity": "12 m/s"}, "length": "5 km",
    }  # fmt: skip
    slack = {**size, "name": "slack", "limits": {"momentum": "1e9 kg/m/s**2", "erosional_constant": 900}}
    answers = _solved(size, slack)
    found = answers["size"]
    at = next(i for i, s in enumerate(found["sizes"]) if s["nominal"] == found["least"])
    below, least = found["sizes"][at - 1], found["sizes"][at]
    assert least["passes"]
    assert least["velocity_m_s"] <= 12.0
    assert least["gradient_Pa_m"] <= 1100.0
    assert found["governing"] in below["fails"]
    assert below["fails"][0] == found["governing"]
    assert least["drop_Pa"] == pytest.approx(5000.0 * least["gradient_Pa_m"])
    assert any("chokes" in s["fails"] and s["gradient_Pa_m"] is None for s in found["sizes"])
    assert answers["slack"]["governing"] in ("choking", "erosional velocity")
