"""Water held by gas and oil: against published values, against flashes, and where two forms of water meet."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ask import answers, faults
from cryonome.solids.activity import ln_activity
from cryonome.solids.formation import stability
from cryonome.solids.water_content import FORMS, water_content
from hydrate_accuracy import chart_of
from hydrate_points import BUKACEK, POUND_PER_MILLION, WATER_HELD, bukacek, ice_pressure

GAS = {"methane": 88, "ethane": 7, "propane": 3.5, "n-butane": 1.5}


def document(*studies, parts=GAS):
    fluid = {"name": "F", "parts": [{"component": n, "amount": a} for n, a in parts.items()]}
    return {
        "format": "cryonome/1",
        "fluids": [fluid],
        "studies": [{"name": f"s{i}", "fluid": "F", **s} for i, s in enumerate(studies)],
    }


def test_ice_and_water_give_the_published_contents():
    nitrogen = chart_of({"nitrogen": 1.0}).host
    T = np.array([263.15, 253.15, 243.15])
    held = water_content(nitrogen, T, np.full(3, 101325.0), {})
    assert [FORMS[i] for i in held.beside] == ["ice"] * 3
    # Buck, J. Appl. Meteorol. 20, 1527 (1981): air at one atmosphere holds 0.4 % more than the vapour pressure of ice.
    assert held.vapour * 101325.0 == pytest.approx(1.004 * ice_pressure(T), rel=0.03)
    assert ice_pressure(263.15) == pytest.approx(259.9, abs=0.1)
    gas = chart_of(GAS).host
    for _, T, P, kilogram_per_mole in WATER_HELD:
        held = water_content(gas, np.array([T]), np.array([P]), {})
        assert held.vapour_over_water[0] * 18.01528e-3 == pytest.approx(kilogram_per_mole, rel=0.08)
    for fahrenheit, psia, vapour_pressure in BUKACEK:
        held = water_content(gas, np.array([(fahrenheit + 459.67) / 1.8]), np.array([psia * 6894.757]), {})
        pounds = held.vapour_over_water[0] * 18.01528e-3 / POUND_PER_MILLION
        assert pounds == pytest.approx(bukacek(fahrenheit, psia, vapour_pressure), rel=0.08)


def test_beside_liquid_water_a_gas_holds_what_the_flash_of_both_says():
    found = answers(
        document({"kind": "water_content", "temperatures": ["40 degC"], "pressures": ["20 bar", "100 bar"]})
    )["s0"]
    for row in found["rows"]:
        wet = document(
            {"kind": "flash", "temperature": "40 degC", "pressure": row["pressure_Pa"]}, parts={**GAS, "water": 20}
        )
        vapour = answers(wet)["s0"]["phases"][0]
        assert row["beside"] == "water"
        assert row["vapour_water_mole_fraction"] == pytest.approx(vapour["composition"]["water"], rel=2e-3)


def test_forms_of_water_meet_where_limits_say_and_hydrate_holds_less_than_water():
    limit = answers(document({"kind": "hydrate", "pressures": ["60 bar"]}))["s0"]["points"][0]["temperature_K"]
    there = [limit - 8.0, limit - 0.01, limit + 0.01]
    rows = answers(document({"kind": "water_content", "temperatures": there, "pressures": ["60 bar"]}))["s0"]["rows"]
    assert [r["beside"] for r in rows] == ["II", "II", "water"]
    below, at, _ = (r["vapour_water_kg_mol"] / r["over_liquid_water_kg_mol"] for r in rows)
    assert at == pytest.approx(1.0, abs=1e-3)
    assert 0.7 < below < 0.95
    # Methanol in the water takes it back to liquid, which then holds less than pure water does.
    asked = {"kind": "water_content", "temperatures": [limit - 3.0], "pressures": ["60 bar"]}
    plain, dosed = answers(document(asked, {**asked, "inhibitors": {"methanol": "30 wt%"}})).values()
    assert dosed["rows"][0]["beside"] == "water"
    assert dosed["rows"][0]["vapour_water_kg_mol"] < 0.9 * plain["rows"][0]["over_liquid_water_kg_mol"]


HOST = chart_of(
    {"methane": 0.82, "ethane": 0.08, "propane": 0.04, "methylcyclohexane": 0.03, "carbon dioxide": 0.03}
).host


@settings(max_examples=30, deadline=None)
@given(T=st.floats(236.0, 320.0), P=st.floats(3e5, 4e7), methanol=st.sampled_from([0.0, 0.2]))
def test_what_forms_is_what_holds_the_least(T, P, methanol):
    dose = {"methanol": np.array([methanol])} if methanol else {}
    held = water_content(HOST, np.array([T, T + 0.5]), np.array([P, P]), dose)
    form = FORMS[held.beside[0]]
    own, over = held.vapour, held.vapour_over_water
    if np.isfinite(own).all():
        # Nothing stable holds more than the liquid does, and warmer gas always holds more.
        assert own[0] <= over[0] * (1.0 + 1e-12)
        assert (own[0] == over[0]) == (form == "water")
        assert over[1] > over[0]
        assert own[1] > own[0]
    # What forms is the structure whose limit lies above, as the limits themselves say.
    for s, name in enumerate(FORMS[2:]):
        more = ln_activity(np.array([T]), dose) if dose else np.zeros(1)
        if name == form:
            assert stability(HOST, np.array([T]), np.array([P]), s, more)[0] > -1e-12


def test_an_oil_without_hydrate_formers_holds_water_and_what_is_wrong_is_told():
    oil = answers(
        document({"kind": "water_content", "temperatures": ["25 degC"], "pressures": ["1 atm"]}, parts={"n-heptane": 1})
    )
    (row,) = oil["s0"]["rows"]
    # Some 5e-4 is measured (Maczynski et al., J. Phys. Chem. Ref. Data 34, 657, 2005).
    assert row["liquid_water_mole_fraction"] == pytest.approx(5e-4, rel=0.25)
    assert row["vapour_water_mole_fraction"] is None
    wrong = faults(document({"kind": "water_content", "temperatures": ["210 degC"]}))
    assert {f.path[-1] for f in wrong} == {0, "pressures"}
