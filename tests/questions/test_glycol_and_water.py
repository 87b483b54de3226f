"""Drying by glycol, boiling with water, doses as they are injected, water held by gas when hot, and the margins to the
dew points of hydrocarbons and of water."""

from __future__ import annotations

import json

import numpy as np
import pytest

from cryonome.document import parse_document
from cryonome.document.faults import DocumentError
from cryonome.questions import solve
from cryonome.solids.salt_solubility import most_salt

LEAN_GAS = {"methane": 0.90, "ethane": 0.05, "propane": 0.03, "benzene": 0.002, "carbon dioxide": 0.018}
RICH_GAS = {
    "methane": 0.80,
    "ethane": 0.08,
    "propane": 0.05,
    "n-butane": 0.03,
    "n-hexane": 0.02,
    "n-octane": 0.01,
    "water": 0.01,
}


def document(parts: dict[str, float], *studies: dict, model: dict | None = None):
    fluid = {"name": "F", "parts": [{"component": n, "amount": a} for n, a in parts.items()], "model": model or {}}
    listed = [{"name": f"{i}", "fluid": "F", **s} for i, s in enumerate(studies)]
    return parse_document(json.dumps({"format": "cryonome/1", "fluids": [fluid], "studies": listed}))


def asked(parts: dict[str, float], *studies: dict, model: dict | None = None) -> list[dict]:
    return list(solve(document(parts, *studies, model=model))["answers"].values())


@pytest.fixture(scope="module")
def dried() -> list[dict]:
    contact = {"kind": "glycol_contact", "temperature": "100 degF", "pressure": "1000 psi"}
    given = [{**contact, "strength": s} for s in ("98 wt%", "99 wt%", "99.5 wt%")]
    return asked(LEAN_GAS, *given, {**contact, "dew_point": "-11.5 degC"}, model={"eos": "CPA"})


def test_gas_over_glycol_is_as_dry_as_the_published_charts(dried):
    # Parrish, Won and Baltatu (1986) at 100 °F: 30, 11 and -7 °F over 98, 99 and 99.5 wt% TEG, read to some 5 °F.
    for answer, fahrenheit in zip(dried, (30.0, 11.0, -7.0), strict=False):
        assert answer["dew_point_K"] == pytest.approx((fahrenheit + 459.67) / 1.8, abs=3.0)


def test_the_strength_for_a_dew_point_gives_that_dew_point(dried):
    assert dried[3]["dew_point_K"] == pytest.approx(261.65, abs=0.02)
    assert dried[3]["strength_mass_percent"] == pytest.approx(99.0, abs=0.1)
    points = [p["dew_point_K"] for p in dried[3]["curve"] if p["dew_point_K"] is not None]
    assert len(points) > 20
    assert (np.diff(points) < 0.0).all()


def test_aromatics_go_with_the_glycol_and_methane_hardly(dried):
    taken = {t["component"]: t["liquid_mole_fraction"] for t in dried[1]["taken"]}
    gas = {n: v / sum(LEAN_GAS.values()) for n, v in LEAN_GAS.items()}
    assert taken["benzene"] / gas["benzene"] > 50.0 * taken["methane"] / gas["methane"]
    # A standard cubic foot of methane in a gallon at 900 psia and 100 °F is usual.
    assert taken["methane"] == pytest.approx(0.043, rel=0.2)


def test_glycols_boil_with_water_where_they_were_measured():
    curve = {"kind": "boiling_curve", "pressures": ["1 atm"]}
    meg, teg = asked(
        {"methane": 1.0},
        {**curve, "solvent": "ethylene glycol"},
        {**curve, "solvent": "triethylene glycol"},
        model={"eos": "CPA"},
    )

    def boils(answer: dict, percent: float) -> float:
        points = answer["points"]
        return float(np.interp(percent, *zip(*[(p["mass_percent"], p["bubble_temperature_K"]) for p in points])))

    # Ethylene glycol and water: ASHRAE Handbook; pure ends by their normal boiling points.
    assert boils(meg, 50.0) == pytest.approx(380.35, abs=1.0)
    assert boils(meg, 0.0) == pytest.approx(373.15, abs=0.5)
    assert boils(meg, 100.0) == pytest.approx(470.5, abs=1.5)
    # What reboilers at 204 °C leave: 98.7 wt%. It boils 6 K colder here, 12 % in pressure.
    assert boils(teg, 98.7) == pytest.approx(477.0, abs=6.5)
    for p in meg["points"]:
        if p["dew_temperature_K"] is not None:
            assert p["dew_temperature_K"] >= p["bubble_temperature_K"] - 1e-6


DOSE = {
    "kind": "inhibitor_dose",
    "inhibitor": "ethylene glycol",
    "temperature": "4 degC",
    "pressure": "100 bar",
    "water_rate": "1000 kg/h",
}


def test_what_is_injected_makes_the_rich_liquid_by_mass():
    lean = {**DOSE, "lean_strength": "80 wt%", "water_salts": {"NaCl": "3 wt%"}}
    plain, salty = asked(LEAN_GAS, {**DOSE, "lean_strength": "80 wt%"}, lean)
    w = plain["aqueous_mass_percent"] / 100.0
    # Of a kilogram of water and m of lean: 0.8 m of glycol in 1 + m.
    m = plain["lean_kg_kg"]
    assert 0.8 * m / (1.0 + m) == pytest.approx(w, rel=0.01)
    assert plain["rich_mass_percent"] == pytest.approx(100.0 * w, rel=1e-6)
    assert plain["lean_kg_s"] == pytest.approx(m * 1000.0 / 3600.0, rel=1e-9)
    # Ethylene glycol of 80 wt% weighs 1.098 at 15.6 °C (handbooks of makers).
    assert m / plain["lean_m3_kg"] == pytest.approx(1098.0, rel=0.004)
    assert salty["lean_kg_kg"] < m
    diluted = salty["salts_mass_percent"]["NaCl"]
    assert diluted == pytest.approx(3.0 / (1.0 + salty["lean_kg_kg"]), rel=0.02)
    assert salty["salt_drops_out"] is False


def test_salt_drops_out_of_strong_glycol_and_a_weak_dose_is_refused():
    strong = {
        **DOSE,
        "temperature": "-40 degC",
        "lean_strength": "85 wt%",
        "lean_salts": {"NaCl": "10 wt%"},
        "water_salts": {"NaCl": "20 wt%"},
    }
    weak = {**DOSE, "temperature": "-5 degC", "lean_strength": "20 wt%"}
    dropped, refused = asked(LEAN_GAS, strong, weak)
    assert dropped["salt_drops_out"] is True
    assert dropped["salts_mass_percent"]["NaCl"] > dropped["most_salt_mass_percent"]
    assert "injected at 20 wt% cannot make 54.3 wt%" in refused["error"]
    assert most_salt("ethylene glycol", 0.0) == pytest.approx(0.3596 / 1.3596)
    assert most_salt("ethanol", 0.5) is None


def test_hot_gas_holds_the_water_that_was_measured():
    rows = asked(
        {"methane": 1.0},
        {"kind": "water_content", "temperatures": ["220 degF", "280 degF", "340 degF"], "pressures": ["1000 psi"]},
    )[0]["rows"]
    dry = [r["over_liquid_water_kg_mol"] / 18.01528e-3 for r in rows]
    held = [y / (1.0 + y) for y in dry]
    # Olds, Sage and Lacey (1942) at 220 °F; the others within what Bukacek (1955) states for his formula.
    assert held[0] == pytest.approx(0.0194, rel=0.06)
    for y, fahrenheit, pressure in zip(held[1:], (280.0, 340.0), (49.20, 118.0), strict=True):
        pounds = 47484.0 * pressure / 1000.0 + 10.0 ** (6.69449 - 3083.87 / (459.67 + fahrenheit))
        # A million standard cubic feet are 2635 pound moles.
        assert y == pytest.approx(pounds / (18.01528 * 2635.2), rel=0.06)


def test_a_path_has_margins_to_hydrocarbons_and_to_water_apart():
    stations = [
        {"name": "a", "temperature": "120 degC", "pressure": "60 bar"},
        {"name": "b", "temperature": "60 degC", "pressure": "50 bar"},
    ]
    path = asked(RICH_GAS, {"kind": "path", "stations": stations})[0]
    first = path["stations"][0]["margins"]
    assert first["dew_margin_K"] != first["water_margin_K"]
    state = {"kind": "flash", "pressure": "60 bar"}
    over, under = ({**state, "temperature": f"{393.15 - first['water_margin_K'] + d} K"} for d in (0.3, -0.3))
    found = asked(RICH_GAS, over, under)
    assert [any(p["kind"] == "aqueous" for p in a["phases"]) for a in found] == [False, True]


@pytest.mark.parametrize(
    ("model", "study", "words"),
    [
        ({"aqueous": "tables"}, None, "aqueous"),
        ({"eos": "CPA"}, {"kind": "glycol_contact", "temperature": "30 degC", "pressure": "60 bar", "glycol": "methanol", "strength": "99 wt%"}, "glycol"),
        ({"eos": "CPA"}, {"kind": "glycol_contact", "temperature": "30 degC", "pressure": "60 bar", "strength": "120 wt%"}, "strength"),
        ({}, {**DOSE, "lean_salts": {"NaCl": "3 wt%"}}, "85 wt%"),
    ],
)  # fmt: skip
def test_what_cannot_be_asked_is_refused_with_its_place(model, study, words):
    given = study or {"kind": "flash", "temperature": "0 degC", "pressure": "1 bar"}
    with pytest.raises(DocumentError, match=words):
        solve(document(LEAN_GAS, given, model=model))
