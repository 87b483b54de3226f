"""Lines, hydrates, doses and products: asked one way and the other they agree, and what cannot be asked is told at its cell."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ask import answers, faults
from cryonome.components import find
from cryonome.constants import R
from cryonome.demo import collection

GAS = [("nitrogen", 1), ("carbon dioxide", 2), ("methane", 88), ("ethane", 6), ("propane", 3)]
FLUID = {"name": "Gas", "parts": [{"component": n, "amount": a} for n, a in GAS]}
MOLAR_MASS = sum(a * find(n).molar_mass for n, a in GAS) / 100


def document(*studies, **more):
    return {"format": "cryonome/1", "fluids": [FLUID], "studies": list(studies), **more}


def ask(*studies, **more):
    """Return the answers in order, each of them good."""
    found = list(answers(document(*studies, **more)).values())
    for answer in found:
        assert answer["ok"], answer
    return found


def told(study):
    """Return the faults of a question by their place within it."""
    return [(".".join(str(p) for p in f.path[2:]), f.message) for f in faults(document(study))]


# -- lines -------------------------------------------------------------------------------------------------------------


def line(name="line", **cells):
    leg = {"name": "base", "length": "10 km", "rise": 0, "ambient": "15 degC", "overall_heat_transfer": 0}
    base = {
        "name": name, "kind": "line_profile", "fluid": "Gas", "rate": "12 kg/s", "inlet": {"temperature": "40 degC", "pressure": "90 bar"},
        "inside_diameter": "202.7 mm", "roughness": "0.0457 mm", "legs": [leg],
    }  # fmt: skip
    return {**base, **cells}


def legs(**cells):
    return [{"name": "base", "length": "10 km", "rise": 0, "ambient": "15 degC", "overall_heat_transfer": 0, **cells}]


def test_a_level_line_of_gas_loses_what_darcy_and_colebrook_say():
    """By the mean density and viscosity of its points, dP = f L/D rho v^2/2; the acceleration of a gas adds a little."""
    (found,) = ask(line())
    points = found["points"]
    T, P = (np.array([p[k] for p in points]) for k in ("temperature_K", "pressure_Pa"))
    states = ask(*({"name": str(k), "kind": "flash", "fluid": "Gas", "temperature": f"{t} K", "pressure": f"{p} Pa"} for k, (t, p) in enumerate(zip(T, P))))  # fmt: skip
    density = np.array([s["density_kg_m3"] for s in states])
    viscosity = np.array([s["phases"][0]["viscosity_Pa_s"] for s in states])
    D, G = 0.2027, 12.0 / (math.pi / 4 * 0.2027**2)
    np.testing.assert_allclose([p["velocity_m_s"] for p in points], G / density, rtol=1e-6)
    f = np.full(T.size, 0.02)
    for _ in range(50):
        f = (-2.0 * np.log10(0.0457e-3 / D / 3.7 + 2.51 / (G * D / viscosity) / np.sqrt(f))) ** -2
    gradient = f / D * G**2 / (2.0 * density)
    x = np.array([p["distance_m"] for p in points])
    lost = np.trapezoid(gradient, x) + G**2 * (1 / density[-1] - 1 / density[0])
    assert P[0] - P[-1] == pytest.approx(lost, rel=2e-3)
    assert found["heat_lost_W"] == pytest.approx(0.0, abs=1e-3)
    # Without heat its enthalpy goes into speed alone: it cools as it expands.
    energy = [s["enthalpy_J_mol"] / MOLAR_MASS + (G / d) ** 2 / 2 for s, d in zip(states, density)]
    np.testing.assert_allclose(np.array(energy) - energy[0], 0.0, atol=0.02 * abs(states[0]["enthalpy_J_mol"] - states[-1]["enthalpy_J_mol"]) / MOLAR_MASS + 20.0)  # fmt: skip
    assert all(p["regime"] == points[0]["regime"] and p["holdup"] is None for p in points)


def test_a_line_asked_back_from_its_outlet_has_the_same_inlet():
    (there,) = ask(line(legs=legs(overall_heat_transfer=4, rise="-100 m")))
    end = there["stations"][-1]["pressure_Pa"]
    back = line("back", inlet={"temperature": "40 degC"}, outlet={"pressure": f"{end!r} Pa"}, legs=legs(overall_heat_transfer=4, rise="-100 m"))  # fmt: skip
    (found,) = ask(back)
    assert found["stations"][0]["pressure_Pa"] == pytest.approx(90e5, rel=1e-5)
    assert found["stations"][-1]["temperature_K"] == pytest.approx(there["stations"][-1]["temperature_K"], abs=2e-3)


def test_one_rate_in_any_measure_is_one_line():
    moles = 12.0 / MOLAR_MASS
    (state,) = ask({"name": "s", "kind": "flash", "fluid": "Gas", "temperature": "40 degC", "pressure": "90 bar", "rate": "12 kg/s"})  # fmt: skip
    rates = [
        {"rate": f"{moles!r} mol/s"},
        {"rate": f"{state['rates']['actual_m3_s']!r} m3/s"},
        {"rate": f"{state['rates']['standard_gas_m3_s']!r} m3/s", "rate_by": "standard gas"},
        {"rate": f"{state['rates']['standard_liquid_m3_s']!r} m3/s", "rate_by": "standard liquid"},
        {"rate": f"{moles * R * 288.706 / 101325 / 0.3048**3 * 86400 / 1e6!r} MMscf/day"},
    ]
    first, *others = ask(line(), *(line(str(k), **r) for k, r in enumerate(rates)))
    for other in others:
        assert other["stations"][-1]["pressure_Pa"] == pytest.approx(first["stations"][-1]["pressure_Pa"], rel=2e-5)


def test_a_long_line_with_heat_comes_to_its_surroundings_and_loses_that_heat():
    (found,) = ask(line(legs=legs(length="60 km", overall_heat_transfer=30), rate="3 kg/s"))
    assert found["stations"][-1]["temperature_K"] == pytest.approx(288.15, abs=0.6)
    ends = ask(*({"name": k, "kind": "flash", "fluid": "Gas", "temperature": f"{s['temperature_K']} K", "pressure": f"{s['pressure_Pa']} Pa"} for k, s in (("a", found["stations"][0]), ("b", found["stations"][-1]))))  # fmt: skip
    lost = 3.0 / MOLAR_MASS * (ends[0]["enthalpy_J_mol"] - ends[1]["enthalpy_J_mol"])
    assert found["heat_lost_W"] == pytest.approx(lost, rel=0.01)


def test_a_standing_column_weighs_what_it_weighs():
    (found,) = ask(line(legs=legs(length="500 m", rise="500 m"), rate="0.05 kg/s"))
    (state,) = ask({"name": "s", "kind": "flash", "fluid": "Gas", "temperature": "40 degC", "pressure": "90 bar"})
    drop = found["stations"][0]["pressure_Pa"] - found["stations"][-1]["pressure_Pa"]
    assert drop == pytest.approx(state["density_kg_m3"] * 9.80665 * 500.0, rel=0.03)
    assert found["points"][-1]["elevation_m"] == pytest.approx(500.0)


@pytest.mark.parametrize(
    ("cells", "place", "words"),
    [
        ({"rate": None}, "rate", "a line needs its rate, for example 12 kg/s"),
        ({"inlet": {"temperature": "40 degC"}}, "inlet.pressure", "not neither"),
        ({"outlet": {"pressure": "50 bar"}}, "inlet.pressure", "not both"),
        ({"outlet": {"temperature": "10 degC"}}, "outlet.temperature", "is what follows; give that of the inlet"),
        ({"inlet": {"temperature": "900 degC", "pressure": "90 bar"}}, "inlet.temperature", "temperature"),
        ({"nominal": "8"}, "nominal", "both are given"),
        ({"inside_diameter": None}, "inside_diameter", "a pipe needs its inside diameter, or a nominal size"),
        ({"inside_diameter": None, "nominal": "7.7"}, "nominal", "7.7"),
        ({"inside_diameter": None, "nominal": "8", "schedule": "41"}, "schedule", "41"),
        ({"inside_diameter": None, "nominal": "1/2", "schedule": "20"}, "schedule", "there is no 1/2 in pipe of schedule 20; there is"),
        ({"inside_diameter": "20 m"}, "inside_diameter", "an inside diameter"),
        ({"legs": []}, "legs", "a line has no leg yet"),
        ({"legs": legs() * 61}, "legs", "61 legs are too many; give at most 60"),
        ({"legs": legs(length="0 m")}, "legs.0.length", "a length is above zero"),
        ({"legs": legs(length="100 m", rise="150 m")}, "legs.0.rise", "a leg of 100 m cannot rise or fall by 150 m"),
        ({"legs": legs(overall_heat_transfer=-1)}, "legs.0.overall_heat_transfer", "not below zero"),
        ({"legs": legs(ambient="500 degC")}, "legs.0.ambient", "a temperature around a pipe"),
        ({"method": "guess"}, "method", "guess"),
        ({"roughness": "3 m"}, "roughness", ""),
    ],
)  # fmt: skip
def test_what_is_no_line_is_told_at_its_cell(cells, place, words):
    found = told(line(**cells))
    assert any(p == place and words in m for p, m in found), found


def test_a_line_that_cannot_carry_its_rate_says_where_it_ends():
    (found,) = answers(document(line(rate="60 kg/s"))).values()
    assert not found["ok"]
    assert "base" in found["error"]
    assert "km" in found["error"] or " m" in found["error"]
    (actual,) = answers(document(line(rate="0.2 m3/s", inlet={"temperature": "40 degC"}, outlet={"pressure": "40 bar"}))).values()  # fmt: skip
    assert not actual["ok"]
    assert "inlet" in actual["error"]


# -- hydrates ----------------------------------------------------------------------------------------------------------


def test_pressures_at_temperatures_and_temperatures_at_pressures_are_one_line():
    (by_T,) = ask({"name": "h", "kind": "hydrate", "fluid": "Gas", "temperatures": ["2 degC", "8 degC", "14 degC"]})
    stable = [p for p in by_T["points"] if p["stable"]]
    assert [p["temperature_K"] for p in stable] == pytest.approx([275.15, 281.15, 287.15])
    assert np.all(np.diff([p["pressure_Pa"] for p in stable]) > 0.0)
    (by_P,) = ask({"name": "h", "kind": "hydrate", "fluid": "Gas", "pressures": [f"{p['pressure_Pa']!r} Pa" for p in stable]})  # fmt: skip
    warm = [p for p in by_P["points"] if p["stable"]]
    assert [p["temperature_K"] for p in warm] == pytest.approx([275.15, 281.15, 287.15], abs=1e-4)
    for p in stable:
        assert p["structure"] == "II"  # propane fills its large cages
        for cages in ("small", "large"):
            assert 0.0 < sum(p["occupancy"][cages].values()) <= 1.0
        assert 5.66 <= p["hydration_number"] < 8.0
        assert p["hydrate_side"] == "above"
    for ice in by_P["ice"]:
        assert 272.0 < ice["temperature_K"] < 273.2


def test_more_inhibitor_moves_the_limit_further_and_a_dose_is_put_back():
    asked = [{"name": str(w), "kind": "hydrate", "fluid": "Gas", "pressures": ["80 bar"], "inhibitors": {"methanol": f"{w} wt%"}} for w in (0.001, 10, 20, 30)]  # fmt: skip
    limits = [max(p["temperature_K"] for p in a["points"] if p["stable"]) for a in ask(*asked)]
    assert np.all(np.diff(limits) < -2.0)
    # Hammerschmidt (1934): dT = 1297 w/(M (100 - w)), within a kelvin for so little methanol.
    assert limits[0] - limits[1] == pytest.approx(1297 * 10 / (32.04 * 90), abs=1.2)
    dose = {"name": "d", "kind": "inhibitor_dose", "fluid": "Gas", "temperature": "4 degC", "pressure": "80 bar", "margin": "2 K", "water_rate": "100 kg/day"}  # fmt: skip
    (found,) = ask(dose)
    percent = found["aqueous_mass_percent"]
    (back,) = ask({"name": "h", "kind": "hydrate", "fluid": "Gas", "pressures": ["80 bar"], "inhibitors": {"methanol": f"{percent} wt%"}})  # fmt: skip
    assert max(p["temperature_K"] for p in back["points"] if p["stable"]) == pytest.approx(275.15, abs=0.01)
    water = 100.0 / 86400.0
    assert found["in_water_kg_s"] == pytest.approx(water * percent / (100.0 - percent), rel=1e-9)
    (none,) = ask({**dose, "temperature": "40 degC"})
    assert none["aqueous_mass_percent"] == 0.0


@pytest.mark.parametrize(
    ("study", "place", "words"),
    [
        ({"kind": "hydrate"}, "temperatures", "give either temperatures"),
        ({"kind": "hydrate", "temperatures": ["2 degC"], "pressures": ["20 bar"]}, "temperatures", "give either"),
        ({"kind": "hydrate", "temperatures": ["2000 K"]}, "temperatures.0", "no temperature that water could freeze at"),
        ({"kind": "hydrate", "temperatures": ["cold"]}, "temperatures.0", "cold"),
        ({"kind": "hydrate", "pressures": ["20 bar"], "inhibitors": {"honey": "5 wt%"}}, "inhibitors.honey", "honey"),
        ({"kind": "hydrate", "pressures": ["20 bar"], "inhibitors": {"methanol": "-5 wt%"}}, "inhibitors.methanol", ""),
        ({"kind": "hydrate", "pressures": ["20 bar"], "water": "some"}, "water", "some"),
        ({"kind": "inhibitor_dose", "temperature": "4 degC", "pressure": "80 bar", "margin": "-1 K"}, "margin", "would let hydrates form"),
        ({"kind": "inhibitor_dose", "temperature": "4 degC", "pressure": "80 bar", "inhibitors": {"methanol": "5 wt%"}}, "inhibitors", "leave it out"),
        ({"kind": "inhibitor_dose", "temperature": "4 degC", "pressure": "80 bar", "water_rate": "-3 kg/s"}, "water_rate", "below zero"),
        ({"kind": "inhibitor_dose", "temperature": "4 degC", "pressure": "80 bar", "water_rate": "3 bar"}, "water_rate", ""),
        ({"kind": "inhibitor_dose", "temperature": "4 degC", "pressure": "80 bar", "inhibitor": "honey"}, "inhibitor", "honey"),
    ],
)  # fmt: skip
def test_what_is_no_question_of_hydrates_is_told_at_its_cell(study, place, words):
    found = told({"name": "q", "fluid": "Gas", **study})
    assert any(p == place and words in m for p, m in found), found


# -- products ----------------------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def crude():
    """Return a document of one sample of the collection."""
    sample = next(s for s in collection().samples if s.distillation.method == "TBP")
    return {"format": "cryonome/1", "samples": [sample.model_dump(mode="json", by_alias=True, exclude_defaults=True)]}


def test_products_between_temperatures_share_out_the_whole(crude):
    name = crude["samples"][0]["name"]
    studies = [
        {"name": "one", "kind": "yields", "fluid": name, "cut_at": ["180 degC", "350 degC"]},
        {"name": "two", "kind": "yields", "fluid": name, "cut_at": ["180 degC", "260 degC", "350 degC"]},
    ]
    one, two = (a["yields"] for a in answers({**crude, "studies": studies}).values())
    for products in (one, two):
        for basis in ("volume", "mass", "mole"):
            assert sum(p[f"{basis}_fraction"] for p in products) == pytest.approx(1.0, abs=1e-9)
        bounds = [p for p in products if p["density_kg_m3"] is not None]
        assert np.all(np.diff([p["density_kg_m3"] for p in bounds]) > 0.0)
        assert np.all(np.diff([p["molar_mass_g_mol"] for p in bounds]) > 0.0)
    assert [p["name"] for p in one if p["from_K"] > 400] == ["180 to 350 °C", "above 350 °C"]
    middle = next(p for p in one if p["name"] == "180 to 350 °C")
    parts = [p for p in two if p["name"] in ("180 to 260 °C", "260 to 350 °C")]
    for basis in ("volume", "mass", "mole"):
        assert sum(p[f"{basis}_fraction"] for p in parts) == pytest.approx(middle[f"{basis}_fraction"], rel=1e-6)
    density = sum(p["mass_fraction"] for p in parts) / sum(p["mass_fraction"] / p["density_kg_m3"] for p in parts)
    assert density == pytest.approx(middle["density_kg_m3"], rel=1e-6)
    assert middle["api"] == pytest.approx(141.5 / (middle["density_kg_m3"] / 999.016) - 131.5, abs=0.01)
    assert middle["d86_10_K"] < middle["d86_50_K"] < middle["d86_90_K"]


@pytest.mark.parametrize(
    ("cut_at", "words"),
    [
        (["350 degC", "180 degC"], "the temperatures must rise"),
        (["180 degC", "180 degC"], "the temperatures must rise"),
        (["hot"], "hot"),
        ([f"{t} degC" for t in range(100, 500, 5)], "80 temperatures are too many; cut at most at 60"),
    ],
)
def test_what_is_no_cut_is_told(crude, cut_at, words):
    study = {"name": "q", "kind": "yields", "fluid": crude["samples"][0]["name"], "cut_at": cut_at}
    assert any(words in f.message for f in faults({**crude, "studies": [study]}))
    (made,) = answers(document({"name": "q", "kind": "yields", "fluid": "Gas"})).values()
    assert not made["ok"]  # a gas is of no sample
