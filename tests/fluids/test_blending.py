"""Fluids made of samples, components, other fluids and separator streams."""

from __future__ import annotations

import json

import numpy as np
import pytest

from ask import cuts_of, fluid_of, told
from cryonome.components import find
from cryonome.constants import WATER_DENSITY_60F
from cryonome.document import check_document, errors, parse_document
from cryonome.document.edits import removed, renamed
from cryonome.document.faults import format_path
from cryonome.fluids.states import full_states

A = {"name": "A", "distillation": {"points": [[0, 290], [10, 385], [30, 495], [50, 592], [70, 701], [90, 863]]},
     "bulk": {"density": "33 degAPI"}, "light_ends": {"mode": "measured", "amounts": {"propane": 0.5, "n-butane": 1}}}  # fmt: skip
B = {"name": "B", "distillation": {"method": "D86", "points": [[0, 330], [10, 380], [30, 440], [50, 500], [70, 560], [90, 650]]},
     "bulk": {"density": "44 degAPI"}}  # fmt: skip


def document(*fluids):
    return parse_document(json.dumps({"format": "cryonome/1", "samples": [A, B], "fluids": list(fluids)}))


def model(*fluids):
    doc = document(*fluids)
    assert errors(check_document(doc)) == []
    return fluid_of(doc)


def blend(a=50, b=50, **changes):
    return {"name": "M", "parts": [{"sample": "A", "amount": a}, {"sample": "B", "amount": b}], **changes}


@pytest.mark.parametrize("basis", ["mole", "mass", "volume"])
def test_a_blend_shares_one_grid_and_loses_nothing(basis):
    whole, own = model(blend(30, 70, basis=basis)), model(blend(30, 70, basis=basis, grid="own"))
    cuts = lambda m: [c for c in m.components if c.kind == "cut"]  # noqa: E731
    assert len(cuts(whole)) < 0.65 * len(cuts(own))
    assert whole.z.sum() == pytest.approx(1.0)
    assert whole.z @ whole.molar_mass == pytest.approx(own.z @ own.molar_mass, rel=1e-3)
    density = [m.z @ m.molar_mass / (m.z @ [c.standard_liquid_volume for c in m.components]) for m in (whole, own)]
    assert density[0] == pytest.approx(density[1], rel=1e-6)
    assert len(set(whole.names)) == len(whole.names)
    assert sum(n == "propane" for n in whole.names) == 1
    # The grid changes the phase behaviour little.
    fractions = [float(full_states(m, 480.0, 2e5).phases.vapour_fraction) for m in (whole, own)]
    assert fractions[0] == pytest.approx(fractions[1], abs=0.01)


def test_rates_stand_for_amounts():
    rates = model(blend("1000 bbl/day", "500 bbl/day"))
    volumes = model(blend(2, 1, basis="volume"))
    np.testing.assert_allclose(rates.z, volumes.z, rtol=1e-9)
    propane = {"component": "propane", "amount": "10 t/day"}
    mixed = model({"name": "M", "parts": [{"component": "methane", "amount": "1 MMscf/day"}, propane]})
    moles = np.array([1e6 * 101325 * 0.3048**3 / (8.31446261815324 * 288.7056), 1e7 / 44.0956])
    np.testing.assert_allclose(mixed.z, moles / moles.sum(), rtol=1e-4)


def test_a_fluid_of_a_fluid_is_the_same_fluid():
    inner = {"name": "I", "parts": [{"component": "methane", "amount": 3}, {"component": "ethane", "amount": 1}]}
    outer = {"name": "O", "parts": [{"fluid": "I", "amount": 80}, {"component": "methane", "amount": 20}]}
    made = model(inner, outer)
    assert made.names == ("methane", "ethane")
    np.testing.assert_allclose(made.z, [0.8, 0.2])
    twice = {"name": "T", "parts": [{"sample": "A", "amount": 1}]}
    thrice = {"name": "U", "parts": [{"fluid": "T", "amount": 1}, {"sample": "A", "amount": 3}]}
    np.testing.assert_allclose(model(twice, thrice).z, model(twice).z, rtol=1e-12)


def test_recombination_at_a_gas_oil_ratio():
    oil = {"name": "oil", "parts": [{"sample": "B", "amount": 1}]}
    gas = {"name": "gas", "parts": [{"component": "methane", "amount": 9}, {"component": "propane", "amount": 1}]}
    recombined = {"liquid": "oil", "gas": "gas", "gas_oil_ratio": "100 m3/m3", "liquid_volume": "stock tank"}
    made = model(oil, gas, {"name": "live", "recombination": recombined})
    stock = model(oil)
    mass = float(stock.z @ stock.molar_mass)
    density = 141.5 / (44 + 131.5) * WATER_DENSITY_60F
    gas_moles, oil_moles = 100 * 101325 / (8.31446261815324 * 288.7056), density / mass
    share = gas_moles / (gas_moles + oil_moles)
    methane, propane = (made.z[made.names.index(n)] for n in ("methane", "propane"))
    assert methane + propane == pytest.approx(share, rel=1e-4)
    assert methane / propane == pytest.approx(9.0, rel=1e-9)
    # At the separator the liquid is lighter, so a volume of it holds fewer moles.
    warm = {**recombined, "liquid_volume": "separator", "temperature": "60 degC", "pressure": "20 bar"}
    at_separator = model(oil, gas, {"name": "live", "recombination": warm})
    assert at_separator.z[at_separator.names.index("methane")] > methane
    # Pressed, it is denser, by about 0.1 % a megapascal.
    pressed = model(oil, gas, {"name": "live", "recombination": {**warm, "pressure": "120 bar"}})
    i = pressed.names.index("methane")
    moles = [m.z[i] / (1.0 - m.z[i]) for m in (at_separator, pressed)]
    assert 1e-2 * 0.8 < moles[0] / moles[1] - 1.0 < 1e-2 * 1.3
    field = {**recombined, "gas_oil_ratio": f"{100 * 5.614583:.6f} scf/bbl"}
    np.testing.assert_allclose(model(oil, gas, {"name": "live", "recombination": field}).z, made.z, rtol=1e-6)


def test_a_series_over_a_boiling_range():
    series = {"name": "H", "start": "350 degC", "end": "720 degC", "step": "35 K"}
    made = model({"name": "F", "parts": [{"series": series, "amount": 1}]})
    assert len(made.components) == 11
    assert made.components[0].name == "H 350 to 385 °C"
    assert made.components[-1].name == "H 700 to 720 °C"
    assert made.components[0].nbp == pytest.approx(273.15 + 367.5)
    np.testing.assert_allclose(made.z, 1 / 11)
    heavy = model({"name": "F", "parts": [{"series": {**series, "watson_k": 11.2}, "amount": 1}]})
    assert heavy.components[3].specific_gravity > made.components[3].specific_gravity


def test_a_matched_acentric_factor_follows_the_equation():
    by = {e: model(blend(1, 0, model={"eos": e})) for e in ("PR78", "SRK")}
    cut = by["PR78"].names.index("A 150 to 170 °C")
    assert by["PR78"].components[cut].omega != by["SRK"].components[cut].omega
    for m in by.values():
        alone = m.components[cut]
        assert alone.omega == pytest.approx(0.38, abs=0.02)


@pytest.mark.parametrize(
    ("fluids", "place", "words"),
    [
        ([blend("1000 bbl/day", 5)], "fluids[0].parts", "rates stand beside amounts"),
        ([blend("5 psi", 5)], "fluids[0].parts[0].amount", "no unit of an amount"),
        ([{"name": "F", "parts": [{"fluid": "F", "amount": 1}]}], "fluids[0].parts[0].fluid", "cannot hold itself"),
        ([{"name": "F", "parts": [{"fluid": "G", "amount": 1}]}, {"name": "G", "parts": [{"fluid": "F", "amount": 1}]}],
         "fluids[0].parts[0].fluid", "cannot hold itself"),
        ([{"name": "F", "parts": [{"fluid": "X", "amount": 1}]}], "fluids[0].parts[0].fluid", "unknown fluid"),
        ([{"name": "F", "recombination": {"liquid": "X", "gas": "Y"}}], "fluids[0].recombination.gas_oil_ratio", "gas-oil ratio"),
        ([{"name": "F", "parts": [{"series": {"name": "H", "start": "350 degC", "end": "300 degC", "step": 10}, "amount": 1}]}],
         "fluids[0].parts[0].series.end", "above where it starts"),
        ([{"name": "F", "parts": [{"series": {"name": "H", "start": "300 degC", "end": "350 degC", "step": 0.1}, "amount": 1}]}],
         "fluids[0].parts[0].series.step", "between 1 and 100"),
        ([blend(grid="hexagonal")], "fluids[0].grid", "common, own"),
    ],
)  # fmt: skip
def test_faults_of_fluids(fluids, place, words):
    found = {format_path(f.path): f.message for f in errors(check_document(document(*fluids)))}
    assert words in found.get(place, ""), found


def test_names_are_followed_into_other_fluids():
    doc = document(
        blend(), {"name": "O", "parts": [{"fluid": "M", "amount": 1}, {"component": "methane", "amount": 1}]}
    )
    other = renamed(doc, "fluids", "M", "N")
    assert other.fluids[1].parts[0].fluid == "N"
    assert "unknown fluid 'M'" in str(check_document(removed(doc, "fluids", "M"))[0])
    assert find("methane").name in fluid_of(other, 1).names


def test_the_bare_density_of_a_plus_fraction_is_in_si_like_any_other():
    def groups(density):
        plus = {"molar_mass": 250, "density": density}
        rows = [["methane", 60], ["C7", 10, 96, "0.727 SG"], ["C8+", 30]]
        curve = {"method": "carbon-number", "basis": "mole", "amounts": rows, "plus": plus}
        doc = parse_document(json.dumps({"format": "cryonome/1", "samples": [{"name": "S", "distillation": curve}]}))
        assert errors(check_document(doc)) == []
        return cuts_of(doc.samples[0])

    assert groups(850).density == pytest.approx(groups("850 kg/m3").density)


@pytest.mark.parametrize(
    ("pressure", "word"), [("2 bar", "below its bubble point"), ("20 bar", ""), ("90 bar", "above its bubble point")]
)
def test_a_separators_liquid_far_from_its_bubble_point_is_told(pressure, word):
    """10 % of methane in decane boils near 20 bar at 300 K by the equation itself."""
    liquid = {
        "name": "L",
        "parts": [{"component": "methane", "amount": 8.2}, {"component": "n-decane", "amount": 91.8}],
    }
    gas = {"name": "G", "parts": [{"component": "methane", "amount": 1}]}
    made = {
        "name": "R",
        "recombination": {
            "liquid": "L",
            "gas": "G",
            "gas_oil_ratio": "80 sm3/m3",
            "temperature": "300 K",
            "pressure": pressure,
        },
    }
    model = fluid_of(parse_document(json.dumps({"format": "cryonome/1", "fluids": [liquid, gas, made]})))
    said = [line for line in told(model.remarks) if "bubble point" in line]
    assert [word in line for line in said] == ([True] if word else [])


def viscosities(samples, share, T=310.93):
    """Return kinematic viscosities in cSt of blends of A and B by mass percents of A."""
    out = []
    for w in share:
        parts = [{"sample": n, "amount": a} for n, a in (("A", w), ("B", 100.0 - w)) if a]
        fluid = {"name": "M", "basis": "mass", "parts": parts}
        doc = parse_document(json.dumps({"format": "cryonome/1", "samples": samples, "fluids": [fluid]}))
        states = full_states(fluid_of(doc), T, 101325.0, ("kinematic_viscosity",))
        out.append(float(np.nanmax(states.values.phase["kinematic_viscosity"])) * 1e6)
    return np.array(out)


def test_blends_keep_each_samples_viscosity_and_go_by_the_double_logarithm():
    """One sample's correction must not fall on the other's cuts: with 1 % of crude a condensate of 0.9 cSt was thinner than either."""
    share = np.array([0.0, 1.0, 10.0, 50.0, 90.0, 99.0, 100.0])
    crude = {
        **A,
        "light_ends": {"mode": "absent"},
        "bulk": {"density": "28 degAPI", "viscosity": [["37.78 degC", "25 cSt"], ["98.89 degC", "4.5 cSt"]]},
    }
    thin = {**B, "bulk": {"density": "50 degAPI", "viscosity": [["37.78 degC", "0.95 cSt"]]}}
    for other in (thin, {**thin, "bulk": {"density": "50 degAPI"}}):
        v = viscosities([crude, other], share)
        assert v[-1] == pytest.approx(25.0, rel=2e-3)
        if "viscosity" in other["bulk"]:
            assert v[0] == pytest.approx(0.95, rel=2e-3)
        assert (np.diff(v) > 0.0).all()
        ends = np.log(np.log(v[[0, -1]] + 0.8))
        rule = np.exp(np.exp(ends[0] + share / 100.0 * (ends[1] - ends[0]))) - 0.8
        assert v == pytest.approx(rule, rel=0.02)
    doc = parse_document(json.dumps({"format": "cryonome/1", "samples": [crude, thin], "fluids": [blend()]}))
    assert any("ASTM D7152" in t for t in told(fluid_of(doc).remarks))
