"""From the document, as entered, to the physics, in SI."""

from __future__ import annotations

import json

import numpy as np
import pytest

from ask import cuts_of, fluid_of, lab_of, told
from cryonome.document import check_document, parse_document
from cryonome.eos.building import Interaction, equation_of
from cryonome.equilibrium.pure import saturation_pressure
from cryonome.questions import solve

POINTS = [[0, "60 degF"], [10, "200 degF"], [30, "400 degF"], [50, "580 degF"], [70, "790 degF"], [90, "1080 degF"]]


def document(sample: dict | None = None, fluid: dict | None = None, studies: list | None = None):
    base = {"name": "S", "distillation": {"points": POINTS}, "bulk": {"density": "32 degAPI"}}
    made = {"name": "F", "parts": [{"sample": "S", "amount": 1}]}
    data = {"format": "cryonome/1", "samples": [{**base, **(sample or {})}], "fluids": [{**made, **(fluid or {})}]}
    return parse_document(json.dumps({**data, "studies": studies or []}))


def test_cut_regions_boundaries_and_products_in_any_unit():
    doc = document(
        {
            "cuts": {
                "regions": [["350 degC", "27 degF"], [None, "60 K"]],
                "products": [{"name": "light", "end": "200 degC"}, {"name": "rest"}],
            }
        }
    )
    lab = lab_of(doc.samples[0])
    assert lab.cuts.regions[0] == pytest.approx((623.15, 15.0))
    assert lab.cuts.regions[1] == (np.inf, 60.0)
    result = cuts_of(doc.samples[0])
    assert [y.name for y in result.yields] == ["light", "rest"]
    inner = np.diff(result.edge_temperatures)[1:-1]
    assert inner[:10] == pytest.approx([15.0] * 10)
    own = document({"cuts": {"boundaries": ["500 degF", 400, "650 degF"]}})
    assert cuts_of(own.samples[0]).edge_temperatures[1:-1] == pytest.approx([400.0, 533.15, 616.483], abs=1e-3)


def test_a_chosen_correlation_acts_on_its_property_alone():
    first = cuts_of(document().samples[0])
    second = cuts_of(document({"correlations": {"molar_mass": "lee-kesler"}}).samples[0])
    assert second.molar_mass != pytest.approx(first.molar_mass, rel=1e-3)
    np.testing.assert_allclose([c.Tc for c in second.components], [c.Tc for c in first.components], rtol=1e-12)
    assert second.density == pytest.approx(first.density)
    assert any("Kesler–Lee 1976" in s for s in told(r for r in second.remarks if r.place == "molar_mass"))


def test_faulty_points_are_left_out_of_the_curve_only():
    points = [*POINTS[:3], [40, "12 degF"], [45, "cold"], *POINTS[3:]]
    lab = lab_of(document({"distillation": {"points": points}}).samples[0])
    assert lab.percent == (0, 10, 30, 50, 70, 90)


def test_parts_by_alias_pseudo_and_sample_make_one_fluid():
    doc = document(
        fluid={
            "parts": [
                {"component": "C1", "amount": 30},
                {"component": "ethane", "amount": 0},
                {"pseudo": {"name": "X", "nbp": "300 degF", "specific_gravity": "48 degAPI"}, "amount": 20},
                {"sample": "S", "amount": 50},
            ],
            "model": {"kij_pairs": [["C1", "X", 0.05], ["methane", "S 75 to 90 °C", "0.06"]]},
        }
    )
    model = fluid_of(doc)
    assert model.names[:2] == ("methane", "X")
    assert model.z.sum() == pytest.approx(1.0)
    assert model.z[:2] == pytest.approx([0.3, 0.2])
    assert model.eos.kij[0, 1] == model.eos.kij[1, 0] == 0.05
    assert model.eos.kij[0, model.names.index("S 75 to 90 °C")] == 0.06
    assert model.components[1].specific_gravity == pytest.approx(141.5 / 179.5)
    assert any("X: " in s for s in told(model.remarks))


def test_a_sample_amount_means_the_same_on_every_basis():
    doc = document()
    s = cuts_of(doc.samples[0])
    per = {"mole": 1.0, "mass": s.molar_mass, "volume": s.molar_mass / s.density}
    found = []
    for basis, factor in per.items():
        from cryonome.components import find

        c = find("propane")
        own = {"mole": 1.0, "mass": c.molar_mass, "volume": c.standard_liquid_volume}[basis]
        made = document(
            fluid={"basis": basis, "parts": [{"component": "C3", "amount": own}, {"sample": "S", "amount": 3 * factor}]}
        )
        found.append(fluid_of(made).z)
    assert found[0][0] == pytest.approx(0.25)
    np.testing.assert_allclose(found[1], found[0], rtol=1e-9)
    np.testing.assert_allclose(found[2], found[0], rtol=1e-9)


def test_a_pair_of_a_vanished_cut_is_said_not_raised():
    doc = document(fluid={"model": {"kij_pairs": [["S 1 to 2 °C", "S 75 to 90 °C", 0.1]]}})
    model = fluid_of(doc)
    assert any("has no effect" in s for s in told(model.remarks))


def test_a_pseudo_component_that_contradicts_itself_has_no_answer():
    doc = document(
        fluid={
            "parts": [
                {"pseudo": {"name": "X", "nbp": "500 degC", "Tc": "300 degC", "specific_gravity": 0.8}, "amount": 1}
            ]
        },
        studies=[{"name": "a", "kind": "flash", "fluid": "F", "temperature": 300, "pressure": 1e5}],
    )
    answer = solve(doc)["answers"]["a"]
    assert not answer["ok"]
    assert "must lie above the boiling point" in answer["error"]


def flash_of(parts: dict[str, float], T: float, P: float) -> dict:
    doc = document(
        fluid={"parts": [{"component": c, "amount": a} for c, a in parts.items()]},
        studies=[{"name": "a", "kind": "flash", "fluid": "F", "temperature": T, "pressure": P}],
    )
    return solve(doc)["answers"]["a"]


def test_a_second_liquid_is_found():
    answer = flash_of({"methane": 15, "carbon dioxide": 65, "n-hexadecane": 20}, 245.0, 25.7e5)
    assert [p["kind"] for p in answer["phases"]] == ["vapour", "liquid", "liquid"]


def test_water_separates_as_a_phase_of_its_own():
    wet = {"methane": 60, "n-decane": 30, "water": 10}
    cold = flash_of(wet, 300.0, 50e5)
    assert [p["kind"] for p in cold["phases"]] == ["vapour", "liquid", "aqueous"]
    assert cold["phases"][2]["composition"]["water"] > 0.998
    assert cold["phases"][1]["composition"]["water"] < 2e-3
    hot = flash_of(wet, 450.0, 20e5)
    assert [p["kind"] for p in hot["phases"]] == ["vapour", "liquid"]
    # Where water is one of the two phases the answer is whole: the gas holds what its fugacity allows.
    gas = flash_of({"methane": 99, "water": 1}, 300.0, 50e5)
    assert [p["kind"] for p in gas["phases"]] == ["vapour", "aqueous"]
    assert 3e-4 < gas["phases"][0]["composition"]["water"] < 1.5e-3  # 0.8 g/m3 at 27 degC and 50 bar


def test_what_is_there_in_no_amount_is_absent():
    with_zero = flash_of({"methane": 60, "n-decane": 40, "water": 0, "nitrogen": 0}, 300.0, 50e5)
    without = flash_of({"methane": 60, "n-decane": 40}, 300.0, 50e5)
    assert with_zero["phases"] == without["phases"]


def test_phases_come_lighter_first_and_compositions_add_up():
    for parts, T, P in (
        ({"methane": 1.0, "n-decane": 1e-9}, 120.69, 13.58),
        ({"methane": 50, "n-decane": 50}, 300.0, 20e5),
        ({"n-decane": 99, "water": 1}, 300.0, 50e5),
    ):
        phases = flash_of(parts, T, P)["phases"]
        assert len(phases) == 2
        assert phases[0]["density_kg_m3"] < phases[1]["density_kg_m3"]
        for phase in phases:
            assert sum(phase["composition"].values()) == pytest.approx(1.0, abs=1e-12)


@pytest.mark.parametrize(
    ("pseudo", "words"),
    [
        ({"nbp": "2000 K"}, "a normal boiling point of 2000 K is outside 4 to 1500 K"),
        ({"nbp": "400 K", "molar_mass": "5000 g/mol"}, "a molar mass of 5000 g/mol is outside"),
        ({"Tc": "500 K", "Pc": "1 Pa", "omega": 0.3}, "a critical pressure of 1e-05 bar is outside"),
    ],
)
def test_constants_beyond_physics_are_refused(pseudo, words):
    doc = document(fluid={"parts": [{"pseudo": {"name": "P", **pseudo}, "amount": 1}]})
    assert any(words in f.message for f in check_document(doc))


@pytest.mark.parametrize("name", ["PR78", "SRK", "PR76"])
def test_hand_made_components_and_series_boil_where_they_should_in_any_equation(name):
    parts = [{"pseudo": {"name": "P", "nbp": "420 K", "specific_gravity": 0.78}, "amount": 1},
             {"series": {"name": "Q", "start": "450 K", "end": "500 K", "step": "25 K"}, "amount": 1}]  # fmt: skip
    model = fluid_of(document(fluid={"parts": parts, "model": {"eos": name}}))
    for component in model.components:
        alone = equation_of(name, [component], Interaction(np.zeros((1, 1))))
        P = saturation_pressure(alone, [component.nbp])
        assert P[0] == pytest.approx(101325.0, rel=1e-4), component.name


def test_a_viscosity_beyond_any_method_is_no_number():
    heavy = {"distillation": {"points": [[0, 650], [10, 720], [30, 800], [50, 880], [70, 960], [90, 1080]]},
             "bulk": {"density": "1.05 SG"}}  # fmt: skip
    doc = document(heavy, studies=[{"name": "c", "kind": "characterization", "sample": "S"}])
    cuts = [c for c in solve(doc)["answers"]["c"]["components"] if c["kind"] == "cut"]
    cold = [c["kinematic_viscosity"][0]["kinematic_viscosity_m2_s"] for c in cuts]
    assert cold[-1] is None
    assert all(v is None or v <= 1.0 for v in cold)
    assert cold[0] is not None
