"""The studies of limits: hydrates, doses and paths, with each other and with what a flash says."""

import json

import numpy as np
import pytest

from ask import answers, faults
from cryonome.document import parse_document
from cryonome.results import Evaluator, hydrates
from cryonome.results.hydrates import hydrate_lines
from cryonome.solids.formation import temperatures

GAS = {"methane": 84, "ethane": 6, "propane": 4, "n-heptane": 3, "carbon dioxide": 3}
STATIONS = [
    {"name": "Wellhead", "temperature": "70 degC", "pressure": "180 bar"},
    {"name": "Riser base", "temperature": "6 degC", "pressure": "110 bar"},
    {"name": "Separator", "temperature": "20 degC", "pressure": "50 bar"},
]


def document(*studies, parts=GAS, **model):
    fluid = {
        "name": "F",
        "parts": [{"component": n, "amount": a} for n, a in parts.items()],
        **({"model": model} if model else {}),
    }
    named = [{"name": f"s{i}", "fluid": "F", **s} for i, s in enumerate(studies)]
    return {"format": "cryonome/1", "fluids": [fluid], "studies": named}


def hydrate(**asked):
    return {"kind": "hydrate", **asked}


def dose(**asked):
    return {"kind": "inhibitor_dose", "temperature": "4 degC", "pressure": "100 bar", **asked}


def test_a_dose_brings_the_limit_to_the_temperature_less_the_margin():
    found = answers(
        document(dose(inhibitor="methanol", margin="2 K"), dose(inhibitor="MEG", inhibitors={"NaCl": "4 wt%"}))
    )
    for name, extra, T in (("methanol", {}, 275.15), ("ethylene glycol", {"NaCl": "4 wt%"}, 277.15)):
        percent = found["s0" if name == "methanol" else "s1"]["aqueous_mass_percent"]
        again = answers(document(hydrate(pressures=["100 bar"], inhibitors={name: f"{percent!r} wt%", **extra})))["s0"]
        first = next(p for p in again["points"] if p["stable"])
        assert first["temperature_K"] == pytest.approx(T, abs=1e-5)
        assert max(p["temperature_K"] for p in again["points"]) == first["temperature_K"]
    assert answers(document(dose(temperature="50 degC")))["s0"]["aqueous_mass_percent"] == 0.0


@pytest.mark.parametrize("salinity", [4, 10, 20])
@pytest.mark.parametrize("inhibitor", ["ethylene glycol", "methanol", "CaCl2"])
def test_a_dose_into_brine_thins_its_salt_and_is_put_back(salinity, inhibitor):
    parts, model = {"methane": 90, "ethane": 5, "propane": 5, "water": 20}, {"salinity": f"{salinity} %"}
    one = answers(document(dose(inhibitor=inhibitor), parts=parts, **model))["s0"]
    assert one["inhibited_temperature_K"] == pytest.approx(277.15, abs=1e-4)
    held = {inhibitor: f"{one['aqueous_mass_percent']!r} wt%"}
    back = answers(document(hydrate(pressures=["100 bar"], inhibitors=held), parts=parts, **model))["s0"]
    assert back["points"][0]["temperature_K"] == pytest.approx(277.15, abs=1e-4)
    assert any("thinned by the dose" in n for n in one["notes"])


def test_every_dose_answers_and_lowers_the_limit():
    """Limits that leave the range of the lattice's constants are no states to ask the fluid about."""
    shares = [*range(30, 38), *range(46, 56)]
    asked = [hydrate(pressures=["20 bar", "100 bar"], inhibitors={"MEG": f"{w} wt%"}) for w in shares]
    found = answers(document(*asked, parts={"methane": 90, "ethane": 5, "propane": 5}))
    T = [found[f"s{i}"]["points"][-1]["temperature_K"] for i in range(len(shares))]
    assert (np.diff(T) < 0.0).all()


def test_what_is_lost_follows_the_rates_and_the_fugacity():
    asked = dose(inhibitor="methanol", water_rate="1 kg/s", fluid_rate="1000 mol/s")
    one, two = answers(document(asked, {**asked, "fluid_rate": "2000 mol/s"})).values()
    assert one["total_kg_s"] == pytest.approx(
        sum(one[k] for k in ("in_water_kg_s", "lost_to_vapour_kg_s", "lost_to_condensate_kg_s"))
    )
    assert two["lost_to_vapour_kg_s"] == pytest.approx(2.0 * one["lost_to_vapour_kg_s"])
    assert two["in_water_kg_s"] == one["in_water_kg_s"]
    share = 0.01 * one["aqueous_mass_percent"]
    assert one["in_water_kg_s"] == pytest.approx(share / (1.0 - share))
    # 4 degC and 1450 psia: vapour charts give some 1.0 to 1.5 lb per million cubic feet for each percent in the water.
    pounds = one["vapour_mole_fraction"] * 32.042 * 2635.0
    assert 1.0 < pounds / one["aqueous_mass_percent"] < 1.7
    # Liquid-liquid data with heptane put 0.1 to 0.3 mol% of it into condensate beside water with a third of methanol.
    assert 1e-3 < one["condensate_mole_fraction"] < 3e-3


def test_hydrates_over_temperatures_and_pressures_are_one_line():
    there = answers(document(hydrate(temperatures={"from": "2 degC", "to": "20 degC", "steps": 3})))["s0"]
    first = [p for p in there["points"] if p["stable"]]
    assert [p["temperature_K"] for p in first] == pytest.approx([275.15, 281.15, 287.15, 293.15])
    back = answers(document(hydrate(pressures=[p["pressure_Pa"] for p in first])))["s0"]
    assert [p["temperature_K"] for p in back["points"] if p["stable"]] == pytest.approx(
        [275.15, 281.15, 287.15, 293.15], abs=1e-5
    )
    for point in first:
        cages = point["occupancy"]
        assert 0.0 < sum(cages["small"].values()) < 1.0
        assert 0.5 < sum(cages["large"].values()) < 1.0
    assert there["quadruple_points"][0]["kind"] == "ice"


def test_the_fluids_own_brine_counts():
    salty, plain, typed = (
        answers(document(hydrate(pressures=["80 bar"], **more), parts={**GAS, "water": 5}, **model))["s0"]
        for more, model in (({}, {"salinity": "10 %"}), ({}, {}), ({"inhibitors": {"NaCl": "10 wt%"}}, {}))
    )
    T = [a["points"][0]["temperature_K"] for a in (salty, plain, typed)]
    assert T[0] == pytest.approx(T[2], abs=0.2)
    assert T[1] - T[0] == pytest.approx(4.3, abs=0.8)
    assert any("10 wt% NaCl" in n for n in salty["notes"])


def test_margins_of_a_path_are_those_of_its_limits():
    path = {"kind": "path", "stations": STATIONS, "inhibitors": {"methanol": "15 wt%"}}
    line = hydrate(pressures=["180 bar", "110 bar", "50 bar"], inhibitors={"methanol": "15 wt%"})
    found = answers(document(path, line, {"kind": "flash", "temperature": "6 degC", "pressure": "110 bar"}))
    limits = [p["temperature_K"] for p in found["s1"]["points"] if p["stable"]]
    assert any("Free water" in n for n in found["s0"]["notes"])
    for station, limit, ice in zip(found["s0"]["stations"], limits, found["s1"]["ice"]):
        assert station["margins"]["hydrate_margin_K"] == pytest.approx(station["temperature_K"] - limit, abs=1e-4)
        assert station["margins"]["ice_margin_K"] == pytest.approx(
            station["temperature_K"] - ice["temperature_K"], abs=1e-6
        )
    state, flash = found["s0"]["stations"][1], found["s2"]
    assert state["density_kg_m3"] == pytest.approx(flash["density_kg_m3"], rel=1e-9)
    assert state["liquid_volume_fraction"] == pytest.approx(1.0 - flash["vapour_volume_fraction"], abs=1e-9)
    worst = found["s0"]["least"][0]
    assert worst["limit"] == "hydrate"
    assert worst["margin_K"] <= min(s["margins"]["hydrate_margin_K"] for s in found["s0"]["stations"])
    assert any("hydrate limit is passed" in n for n in found["s0"]["notes"])


def test_a_path_tells_how_far_a_liquid_is_from_boiling():
    oil = {"n-pentane": 30, "n-decane": 70}
    path = {"kind": "path", "stations": [{"name": "Tank", "temperature": "40 degC", "pressure": "1 bar"}]}
    found = answers(document(path, {"kind": "saturation", "temperature": "40 degC"}, parts=oil))
    margins = found["s0"]["stations"][0]["margins"]
    bubble = next(p["pressure_Pa"] for p in found["s1"]["points"] if p["kind"] == "bubble")
    assert margins["bubble_margin_Pa"] == pytest.approx(1e5 - bubble, abs=300.0)
    assert margins["hydrate_margin_K"] is None
    assert any("No component forms a hydrate" in n for n in found["s0"]["notes"])


def test_ice_meets_hydrate_where_the_quadruple_point_is():
    """Carbon dioxide dissolved in water lowers its freezing point by more than a kelvin."""
    gas = {"carbon dioxide": 1}
    point = answers(document(hydrate(temperatures=["4 degC"]), parts=gas))["s0"]["quadruple_points"][0]
    there = answers(document(hydrate(pressures=[point["pressure_Pa"]]), parts=gas))["s0"]
    assert there["ice"][0]["temperature_K"] == pytest.approx(point["temperature_K"], abs=2e-3)
    assert there["points"][0]["temperature_K"] == pytest.approx(point["temperature_K"], abs=1e-3)
    assert there["ice"][0]["temperature_K"] < 272.2


def test_bad_input_is_told_where_it_stands():
    told = {
        "no activities of water with 'sugar'": hydrate(pressures=["1 bar"], inhibitors={"sugar": "10 wt%"}),
        "up to 60 wt%": hydrate(pressures=["1 bar"], inhibitors={"methanol": "70 wt%"}),
        "saturates cold water": hydrate(pressures=["1 bar"], inhibitors={"NaCl": "30 wt%"}),
        "no share by mass": hydrate(pressures=["1 bar"], inhibitors={"methanol": "20 mol%"}),
        "give either temperatures": hydrate(),
        "above 0 Pa": hydrate(pressures=["-3 bar"]),
        "margin below zero": dose(margin="-2 K"),
        "leave it out": dose(inhibitor="methanol", inhibitors={"MeOH": "3 wt%"}),
        "two stations named 'Wellhead'": {"kind": "path", "stations": [STATIONS[0], STATIONS[0]]},
        "no station yet": {"kind": "path"},
        "absolute zero": {"kind": "path", "stations": [{**STATIONS[0], "temperature": "0 K"}]},
        "outside 50 to 1500 K": {"kind": "path", "stations": [{**STATIONS[0], "temperature": "2000 K"}]},
    }
    for words, study in told.items():
        assert any(words in f.message for f in faults(document(study))), words


def test_what_has_no_answer_says_why():
    dry = answers(document(hydrate(pressures=["50 bar"], water="as given")))["s0"]
    assert "no water" in dry["error"]
    none = answers(document(hydrate(pressures=["50 bar"]), parts={"n-octane": 1}))["s0"]
    assert "methane" in none["error"]
    hot = answers(document(hydrate(temperatures=["60 degC"])))["s0"]
    assert "No hydrate forms" in hot["error"]
    far = answers(document(dose(inhibitor="TEG", temperature="-40 degC")))["s0"]
    assert "Not even 55 wt%" in far["error"]
    mixed = answers(document(hydrate(pressures=["50 bar"]), parts={"methane": 9, "methylcyclohexane": 1}))["s0"]
    assert [p["structure"] for p in mixed["points"] if p["stable"]] == ["H"]
    assert set(mixed["points"][0]["occupancy"]) == {"small", "medium", "large"}


def test_a_limit_of_the_vapour_pressure_gives_the_temperature_that_keeps_it():
    oil = {"n-butane": 5, "n-hexane": 45, "n-decane": 50}
    found = answers(document({"kind": "vapour_pressure", "limit": "0.8 bar"}, parts=oil))["s0"]
    there = answers(document({"kind": "vapour_pressure", "temperature": found["limit_temperature_K"]}, parts=oil))["s0"]
    assert there["TVP_Pa"] == pytest.approx(0.8e5, rel=1e-7)
    assert np.isfinite([p["reproducibility_Pa"] for p in found["precision"]]).all()


def test_a_fan_of_doses_is_its_lines_one_by_one_and_computes_only_the_new_one(monkeypatch):
    computed = []

    def counted(chart, asked, given, watch):
        computed.append(len(given))
        return temperatures(chart, asked, given, watch)

    monkeypatch.setattr(hydrates, "temperatures", counted)
    parsed = parse_document(json.dumps(document(parts=GAS)))
    doses = ((), (("methanol", 0.1),), (("methanol", 0.2),))
    evaluator = Evaluator()
    fan = hydrate_lines(evaluator.at(parsed), parsed.fluids[0], doses)
    for i, dose in enumerate(doses):
        alone = hydrate_lines(Evaluator().at(parsed), parsed.fluids[0], (dose,))
        assert fan.T[:, i] == pytest.approx(alone.T[:, 0], abs=1e-5, nan_ok=True)
        assert fan.ice[i] == pytest.approx(alone.ice[0], abs=1e-9, nan_ok=True)
    moved = hydrate_lines(evaluator.at(parsed), parsed.fluids[0], ((("methanol", 0.15),), *doses))
    assert computed == [3, 1, 1, 1, 1]
    assert (moved.T[:, 1:] == fan.T)[np.isfinite(fan.T)].all()
    # Each dose of the fan keeps hydrates away further than the one before.
    assert (np.diff(np.fmax.reduce(moved.T, axis=0)[[1, 2, 0, 3]], axis=0)[:, -10:] < 0.0).all()


def water(**asked):
    return {"kind": "water_content", "temperatures": ["5 degC"], "pressures": ["50 bar"], **asked}


@pytest.mark.parametrize(
    ("asked", "path", "words"),
    [
        ({"temperatures": ["0 K"]}, ("temperatures", 0), "above 0 K"),
        ({"temperatures": ["210 degC"]}, ("temperatures", 0), "outside 233.15 to 473.15 K"),
        ({"temperatures": []}, ("temperatures",), "one or more"),
        ({"pressures": []}, ("pressures",), "one or more"),
        ({"pressures": ["-3 bar"]}, ("pressures", 0), "above 0 Pa"),
        ({"temperatures": {"from": "0 degC", "to": "30 degC", "steps": 400}}, ("temperatures",), "too many"),
        ({"inhibitors": {"sugar": "5 wt%"}}, ("inhibitors", "sugar"), "no activities of water with 'sugar'"),
        ({"inhibitors": {"NaCl": "40 wt%"}}, ("inhibitors", "NaCl"), "more than saturates"),
    ],
)
def test_a_water_content_that_cannot_be_asked_is_told_once_at_its_place(asked, path, words):
    (fault,) = faults(document(water(**asked)))
    assert fault.path == ("studies", 0, *path)
    assert words in fault.message


def test_fluids_that_hold_no_water_or_form_no_hydrate_say_so():
    alone = answers(document(water(), parts={"water": 1}))["s0"]
    assert "water alone" in alone["error"]
    ideal = answers(document(water(), eos="ideal"))["s0"]
    assert "ideal gas" in ideal["error"]
    helium = answers(document(water(), hydrate(pressures=["50 bar"]), parts={"helium": 1}))
    assert helium["s0"]["rows"][0]["beside"] == "water"
    assert "No component forms a hydrate" in helium["s1"]["error"]
    # The liquid of a large molecule alone has no gas for the smaller cages.
    lone = answers(document(hydrate(pressures=["50 bar"]), parts={"methylcyclohexane": 1}))["s0"]
    assert "No hydrate forms" in lone["error"]
    # Brine in the fluid's model counts as a salt that is given does: it holds the gas drier.
    plain, salty = (
        answers(document(water(temperatures=["25 degC"]), **m))["s0"]["rows"][0] for m in ({}, {"salinity": 2})
    )
    assert salty["vapour_water_kg_mol"] < 0.99 * plain["vapour_water_kg_mol"]


@pytest.mark.parametrize("dose", [None, {"methanol": "15 wt%"}])
def test_a_large_molecule_asks_for_the_dose_that_keeps_its_hydrate_away(dose):
    parts = {"methane": 60, "methylcyclohexane": 40}
    asked = {
        "kind": "inhibitor_dose",
        "temperature": "2 degC",
        "pressure": "50 bar",
        "inhibitor": "MEG",
        **({"inhibitors": dose} if dose else {}),
    }
    found = answers(document(asked, parts=parts))["s0"]
    assert found["structure"] == "H"
    percent = {**({"methanol": 15.0} if dose else {}), "ethylene glycol": found["aqueous_mass_percent"]}
    held = hydrate(pressures=["50 bar"], inhibitors={n: f"{w!r} wt%" for n, w in percent.items()})
    first = answers(document(held, parts=parts))["s0"]["points"][0]
    assert (first["structure"], first["temperature_K"]) == ("H", pytest.approx(275.15, abs=1e-5))
