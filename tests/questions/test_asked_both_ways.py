"""Kinds of questions against each other: goals put back, saturations flashed, trains tried beside the best, groups that cost what their tests say."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ask import answers, faults
from cryonome.components import find

OIL = {
    "name": "Oil",
    "parts": [
        {"component": "nitrogen", "amount": 1}, {"component": "methane", "amount": 40}, {"component": "ethane", "amount": 7}, {"component": "propane", "amount": 5},
        {"component": "n-butane", "amount": 4}, {"component": "n-hexane", "amount": 6}, {"pseudo": {"name": "H1", "molar_mass": 150, "specific_gravity": 0.79}, "amount": 20},
        {"pseudo": {"name": "H2", "molar_mass": 320, "specific_gravity": 0.88}, "amount": 17},
    ],
}  # fmt: skip
WET = {"name": "Wet", "parts": [{"component": n, "amount": a} for n, a in (("methane", 85), ("ethane", 8), ("propane", 4), ("carbon dioxide", 3))]}  # fmt: skip
FLUIDS = [OIL, WET]


def ask(*studies, fluids=FLUIDS):
    """Return the answers in order, each of them good."""
    found = list(answers({"format": "cryonome/1", "fluids": fluids, "studies": list(studies)}).values())
    for answer in found:
        assert answer["ok"], answer
    return found


def told(study, *others):
    """Return the faults of the first question by their place within it."""
    found = faults({"format": "cryonome/1", "fluids": FLUIDS, "studies": [study, *others]})
    return [(".".join(str(p) for p in f.path[2:]), f.message) for f in found if f.path[:2] == ("studies", 0)]


def flash(name="state", fluid="Oil", **given):
    return {
        "name": name,
        "kind": "flash",
        "fluid": fluid,
        **(given or {"temperature": "60 degC", "pressure": "40 bar"}),
    }


# -- saturation --------------------------------------------------------------------------------------------------------


@settings(max_examples=12)
@given(st.floats(290.0, 420.0))
def test_a_bubble_point_is_where_the_first_gas_is_in_equilibrium(T):
    (found,) = ask({"name": "s", "kind": "saturation", "fluid": "Oil", "temperature": f"{T} K"})
    points = [p for p in found["points"] if p["kind"] == "bubble"]
    P = max(p["pressure_Pa"] for p in points)
    above, below = ask(flash("a", temperature=f"{T} K", pressure=f"{P * 1.0001} Pa"), flash("b", temperature=f"{T} K", pressure=f"{P * 0.9999} Pa"))  # fmt: skip
    assert above["vapour_fraction"] == 0.0
    assert 0.0 < below["vapour_fraction"] < 1e-3
    liquid, vapour = (next(p for p in below["phases"] if p["kind"] == k) for k in ("liquid", "vapour"))
    ratio = {n: liquid["fugacity_Pa"][n] / vapour["fugacity_Pa"][n] for n in liquid["composition"]}
    assert ratio == pytest.approx(dict.fromkeys(ratio, 1.0), abs=1e-7)


def test_a_mixture_with_one_volatile_part_boils_nearly_as_raoult_says():
    """n-hexane and n-heptane at 60 °C: P = sum x_i P_i, within two percent for such alike components."""
    both = {"name": "M", "parts": [{"component": "n-hexane", "amount": 40}, {"component": "n-heptane", "amount": 60}]}
    pure = [{"name": n, "parts": [{"component": n, "amount": 1}]} for n in ("n-hexane", "n-heptane")]
    found = ask(*({"name": f["name"] + " s", "kind": "saturation", "fluid": f["name"], "temperature": "60 degC"} for f in (both, *pure)), fluids=[both, *pure])  # fmt: skip
    P = [min(p["pressure_Pa"] for p in a["points"]) if k else max(p["pressure_Pa"] for p in a["points"]) for k, a in enumerate(found)]  # fmt: skip
    assert P[0] == pytest.approx(0.4 * P[1] + 0.6 * P[2], rel=0.02)
    # Vapour pressures at 60 °C: 76.4 and 28.1 kPa (Poling, Prausnitz and O'Connell, 2001, appendix A).
    assert P[1] == pytest.approx(76.4e3, rel=0.02)
    assert P[2] == pytest.approx(28.1e3, rel=0.03)


# -- goals -------------------------------------------------------------------------------------------------------------


def goal(path, low, high, read, target, name="goal", of="state"):
    return {"name": name, "kind": "goal", "of": of, "vary": {"path": path, "between": [low, high]}, "read": read, "target": target}  # fmt: skip


@pytest.mark.parametrize(
    ("path", "low", "high", "read", "target"),
    [
        ("studies[state].pressure", "5 bar", "150 bar", "vapour_fraction", 0.3),
        ("studies[state].temperature", "0 degC", "200 degC", "phases.liquid.density_kg_m3", "720 kg/m3"),
        ("fluids[Oil].parts[methane].amount", 5, 60, "vapour_fraction", 0.4),
        ("studies[state].pressure", "5 bar", "150 bar", "phases.vapour.composition.methane", 0.85),
    ],
)
def test_a_goals_value_put_back_gives_its_target(path, low, high, read, target):
    (_, found) = ask(flash(), goal(path, low, high, read, target))
    wanted = float(str(target).split()[0])
    assert found["reached"] == pytest.approx(wanted, rel=1e-5)
    unit = {"pressure": " Pa", "temperature": " K"}.get(path.rpartition(".")[2], "")
    document = {"format": "cryonome/1", "fluids": [dict(f, parts=[dict(p) for p in f["parts"]]) for f in FLUIDS], "studies": [flash()]}  # fmt: skip
    if unit:
        document["studies"][0][path.rpartition(".")[2]] = f"{found['value']!r}{unit}"
    else:
        next(p for p in document["fluids"][0]["parts"] if p.get("component") == "methane")["amount"] = found["value"]
    (again,) = answers(document).values()
    if read.startswith("phases."):
        _, kind, *rest = read.split(".")
        value = next(p for p in again["phases"] if p["kind"] == kind)
        for key in rest:
            value = value[key]
    else:
        value = again[read]
    assert value == pytest.approx(wanted, rel=1e-5)


def test_a_goal_tells_every_value_that_reaches_it_or_what_can_be_reached():
    # The share of methane in the gas goes through a maximum with pressure.
    (_, found) = ask(flash(), goal("studies[state].pressure", "2 bar", "150 bar", "phases.vapour.composition.methane", 0.80))  # fmt: skip
    every = [found["value"], *found["others"]]
    rows = ask(*(flash(str(k), temperature="60 degC", pressure=f"{p!r} Pa") for k, p in enumerate(every)))
    for row in rows:
        assert next(p for p in row["phases"] if p["kind"] == "vapour")["composition"]["methane"] == pytest.approx(0.80, rel=1e-4)  # fmt: skip
    _, none = answers({"format": "cryonome/1", "fluids": FLUIDS, "studies": [flash(), goal("studies[state].pressure", "5 bar", "150 bar", "vapour_fraction", 0.95)]}).values()  # fmt: skip
    assert not none["ok"]
    assert "out of reach" in none["error"]


@pytest.mark.parametrize(
    ("study", "place", "words"),
    [
        (goal("studies[state].pressure", "50 bar", "5 bar", "vapour_fraction", 0.3), "vary.between", ""),
        (goal("studies[state].pressure", "5 bar", "high", "vapour_fraction", 0.3), "vary.between", "high"),
        (goal("studies[state].presure", "5 bar", "50 bar", "vapour_fraction", 0.3), "vary.path", "did you mean pressure"),
        (goal("studies[nobody].pressure", "5 bar", "50 bar", "vapour_fraction", 0.3), "vary.path", "nobody"),
        (goal("studies[state].pressure", "5 bar", "50 bar", "vapour_fraction", "lots"), "target", "lots"),
        (goal("studies[state].pressure", "5 bar", "50 bar", "density_kg_m3", "5 bar"), "target", "bar"),
        (goal("studies[state].pressure", "5 bar", "50 bar", "vapour_fraction", 0.3, of="none"), "of", "none"),
        (goal("studies[state].pressure", "5 bar", "50 bar", "vapour_fraction", 0.3, name="state", of="state"), "name", ""),
    ],
)  # fmt: skip
def test_what_is_no_goal_is_told_at_its_cell(study, place, words):
    found = told(study, flash())
    if place == "name":
        assert found or faults({"format": "cryonome/1", "fluids": FLUIDS, "studies": [study, flash()]})
    else:
        assert any(p.startswith(place) and words in m for p, m in found), found


# -- separators --------------------------------------------------------------------------------------------------------


def train(name, *pressures):
    return {"name": name, "kind": "separators", "fluid": "Oil", "temperature": "90 degC", "stages": [{"temperature": "50 degC", "pressure": p} for p in pressures] + [{"temperature": "60 degF", "pressure": "1 atm"}]}  # fmt: skip


def test_no_train_beside_the_best_gives_more_oil():
    (best,) = ask({"name": "o", "kind": "separator_optimum", "fluid": "Oil", "temperatures": ["50 degC"], "between": ["2 bar", "60 bar"]})  # fmt: skip
    P = best["stages"][0]["pressure_Pa"]
    trains = ask(*(train(f"{f}", f"{f * P!r} Pa") for f in (0.5, 0.9, 1.0, 1.1, 2.0)))
    ratio = [a["gas_oil_ratio_m3_m3"] for a in trains]
    assert ratio[2] == pytest.approx(best["gas_oil_ratio_m3_m3"], rel=1e-6)
    assert min(ratio) == ratio[2]  # the least gas goes with the most oil
    assert ratio[0] > ratio[1] > ratio[2] < ratio[3] < ratio[4]
    (curve,) = best["curves"]
    shares = np.array(curve["relative_liquid"], float)
    assert shares.max() == pytest.approx(1.0, abs=1e-6)
    assert curve["pressure_Pa"][int(shares.argmax())] == pytest.approx(P, rel=0.15)


@pytest.mark.parametrize(
    ("cells", "place", "words"),
    [
        ({"temperatures": []}, "temperatures", "no separator is given"),
        ({"temperatures": ["50 degC"] * 5}, "temperatures", "5 separators are too many; give at most 4"),
        ({"between": ["60 bar", "2 bar"]}, "between", "give the lower one first"),
        ({"between": ["0.2 bar", "60 bar"]}, "between.0", "begin at it or above"),
        ({"temperatures": ["warm"]}, "temperatures.0", "warm"),
    ],
)
def test_what_is_no_best_train_is_told(cells, place, words):
    base = {"name": "o", "kind": "separator_optimum", "fluid": "Oil", "temperatures": ["50 degC"], "between": ["2 bar", "60 bar"]}  # fmt: skip
    found = told({**base, **cells})
    assert any(p == place and words in m for p, m in found), found


# -- lumping -----------------------------------------------------------------------------------------------------------


def test_components_joined_add_up_and_as_many_as_there_are_cost_nothing():
    few = {"name": "few", "kind": "lumping", "fluid": "Oil", "components": 4}
    named = {"name": "named", "kind": "lumping", "fluid": "Oil", "groups": [["methane", "nitrogen"], ["propane", "n-butane"]]}  # fmt: skip
    (found, own) = ask(few, named)
    for answer, count in ((found, 4), (own, 6)):
        assert len(answer["groups"]) == count
        assert sum(g["mole_fraction"] for g in answer["groups"]) == pytest.approx(1.0)
        parts = [c for g in answer["groups"] for c in g["components"]]
        assert sorted(parts) == sorted(["nitrogen", "methane", "ethane", "propane", "n-butane", "n-hexane", "H1", "H2"])
    pair = next(g for g in own["groups"] if set(g["components"]) == {"propane", "n-butane"})
    assert pair["mole_fraction"] == pytest.approx(0.09)
    both = {"name": "L", **{k: v for k, v in own["fluid"].items() if k != "name"}}
    (state, lumped) = ask(flash(), flash("l", fluid="L", temperature="60 degC", pressure="40 bar"), fluids=[*FLUIDS, both])  # fmt: skip
    assert lumped["molar_mass_g_mol"] == pytest.approx(state["molar_mass_g_mol"], rel=1e-6)
    assert lumped["vapour_fraction"] == pytest.approx(state["vapour_fraction"], abs=0.03)


@pytest.mark.parametrize(
    ("cells", "place", "words"),
    [
        ({}, "components", "give either the number of components or groups"),
        ({"components": 3, "groups": [["methane", "nitrogen"]]}, "components", "give either"),
        ({"components": 2.5}, "components", "2.5 is no number of components"),
        ({"components": 0}, "components", "whole number from 1 on"),
        ({"groups": [["methane", "nitrogen"], ["methane", "ethane"]]}, "groups.1.0", "'methane' is in two groups"),
        ({"components": 3, "tests": ["nothing"]}, "tests.0", "nothing"),
    ],
)
def test_what_is_no_lumping_is_told(cells, place, words):
    found = told({"name": "l", "kind": "lumping", "fluid": "Oil", **cells})
    assert any(p == place and words in m for p, m in found), found


# -- water -------------------------------------------------------------------------------------------------------------


def test_water_in_a_gas_is_what_its_saturated_vapour_holds():
    """At 1 atm the share of water is its vapour pressure over the whole: 2.339 kPa at 20 °C, 19.95 at 60 (IAPWS, 1997)."""
    (found,) = ask(
        {
            "name": "w",
            "kind": "water_content",
            "fluid": "Wet",
            "temperatures": ["20 degC", "60 degC"],
            "pressures": ["1 atm"],
        }
    )
    cold, warm = found["rows"]
    assert (cold["beside"], warm["beside"]) == ("water", "water")
    assert cold["vapour_water_mole_fraction"] == pytest.approx(2.339e3 / 101325, rel=0.01)
    assert warm["vapour_water_mole_fraction"] == pytest.approx(19.95e3 / 101325, rel=0.01)
    share = warm["vapour_water_mole_fraction"]
    assert warm["vapour_water_kg_mol"] == pytest.approx(0.018015 * share / (1.0 - share), rel=1e-3)
    assert cold["over_liquid_water_kg_mol"] == pytest.approx(cold["vapour_water_kg_mol"], rel=1e-9)


def test_a_cut_of_components_says_what_the_databank_does():
    (found,) = ask({"name": "c", "kind": "components", "fluid": "Wet"})
    rows = {c["name"]: c for c in found["components"]}
    for name in ("methane", "carbon dioxide"):
        own = find(name)
        assert rows[name]["molar_mass_g_mol"] == pytest.approx(1e3 * own.molar_mass)
        assert rows[name]["Tc_K"] == pytest.approx(own.Tc)
        assert rows[name]["Pc_Pa"] == pytest.approx(own.Pc)
    assert sum(c["mole_fraction"] for c in found["components"]) == pytest.approx(1.0)
