"""Each step of a chain against flashes of its streams: enthalpy kept or changed by what is told, entropy never lost, and what leaves is what came in."""

from __future__ import annotations

import pytest

from ask import answers
from cryonome.components import find

PARTS = [("methane", 80), ("ethane", 8), ("propane", 6), ("n-butane", 4), ("n-hexane", 2)]
GAS = {"name": "Gas", "parts": [{"component": n, "amount": a} for n, a in PARTS]}
MOLAR_MASS = sum(a * find(n).molar_mass for n, a in PARTS) / 100
FLOW = 100.0


def chain(*steps, **feeds):
    """Return the answer of a chain fed with 100 mol/s at 40 °C and 40 bar."""
    feed = {"fluid": "Gas", "temperature": "40 degC", "pressure": "40 bar", "rate": f"{FLOW} mol/s"}
    study = {"name": "train", "kind": "process", "feeds": {"feed": feed, **feeds}, "steps": list(steps)}
    found = answers({"format": "cryonome/1", "fluids": [GAS], "studies": [study]})["train"]
    assert found["ok"], found
    assert abs(found["balance"]["energy"]) < 1e-8
    return found


def step(name, kind, takes, gives, **more):
    return {"name": name, "step": kind, "from": takes, "to": gives, **more}


def state(stream, composition=None):
    """Return the state of a stream by a flash of its own."""
    parts = [{"component": n, "amount": x} for n, x in stream["composition"].items() if x > 0.0]
    fluid = {"name": "S", "parts": parts}
    asked = {"name": "s", "kind": "flash", "fluid": "S", "temperature": f"{stream['temperature_K']!r} K", "pressure": f"{stream['pressure_Pa']!r} Pa"}  # fmt: skip
    return answers({"format": "cryonome/1", "fluids": [fluid], "studies": [asked]})["s"]


def flows(found, *names):
    """Return enthalpy and entropy that flow with streams together, W and W/K."""
    H = S = 0.0
    for name in names:
        stream = found["streams"][name]
        own = state(stream)
        H += stream["mole_mol_s"] * own["enthalpy_J_mol"]
        S += stream["mole_mol_s"] * own["entropy_J_mol_K"]
    return H, S


def test_a_valve_keeps_the_enthalpy_and_makes_entropy():
    found = chain(step("V", "valve", "feed", "out", pressure="10 bar"))
    (H1, S1), (H2, S2) = flows(found, "feed"), flows(found, "out")
    assert pytest.approx(H1, abs=0.5) == H2
    assert S2 > S1
    assert found["streams"]["out"]["pressure_Pa"] == pytest.approx(1e6)
    assert found["steps"]["V"]["pressure_drop_Pa"] == pytest.approx(3e6)
    by_drop = chain(step("V", "valve", "feed", "out", pressure_drop="30 bar"))
    assert by_drop["streams"]["out"]["temperature_K"] == pytest.approx(found["streams"]["out"]["temperature_K"], rel=1e-9)  # fmt: skip
    assert found["steps"]["V"]["temperature_change_K"] == pytest.approx(found["streams"]["out"]["temperature_K"] - 313.15)  # fmt: skip


@pytest.mark.parametrize(("kind", "T", "sign"), [("cooler", "-30 degC", -1.0), ("heater", "90 degC", 1.0)])
def test_a_duty_is_what_the_enthalpy_changes_by(kind, T, sign):
    found = chain(step("E", kind, "feed", "out", temperature=T))
    (H1, _), (H2, _) = flows(found, "feed"), flows(found, "out")
    duty = found["steps"]["E"]["duty_W"]
    assert sign * (H2 - H1) == pytest.approx(abs(duty), rel=1e-7)
    back = chain(step("E", kind, "feed", "out", duty=f"{abs(duty)!r} W"))
    assert back["streams"]["out"]["temperature_K"] == pytest.approx(found["streams"]["out"]["temperature_K"], abs=1e-5)


@pytest.mark.parametrize("by", ["polytropic", "isentropic"])
def test_a_compressor_puts_its_power_into_the_gas(by):
    found = chain(step("K", "compressor", "feed", "out", pressure="90 bar", efficiency="75 %", efficiency_kind=by, mechanical_efficiency="96 %"))  # fmt: skip
    (H1, S1), (H2, S2) = flows(found, "feed"), flows(found, "out")
    own = found["steps"]["K"]
    assert own["power_W"] == pytest.approx(H2 - H1, rel=1e-6)
    assert own["shaft_power_W"] == pytest.approx(own["power_W"] / 0.96, rel=1e-9)
    assert S2 > S1
    assert own[f"{by}_efficiency"] == pytest.approx(0.75, rel=1e-6)
    # The isentropic end by a flash at the inlet's entropy.
    inlet = state(found["streams"]["feed"])
    ideal = answers({"format": "cryonome/1", "fluids": [GAS], "studies": [{"name": "s", "kind": "flash", "fluid": "Gas", "pressure": "90 bar", "entropy": f"{inlet['entropy_J_mol_K']!r} J/mol/K"}]})["s"]  # fmt: skip
    head = (ideal["enthalpy_J_mol"] - inlet["enthalpy_J_mol"]) / MOLAR_MASS
    assert own["isentropic_head_J_kg"] == pytest.approx(head, rel=1e-6)
    assert own["isentropic_efficiency"] == pytest.approx(head * MOLAR_MASS * FLOW / own["power_W"], rel=1e-6)
    assert own["polytropic_efficiency"] > own["isentropic_efficiency"]
    assert own["ratio"] == pytest.approx(2.25)


def test_an_expander_gives_back_less_than_it_could():
    found = chain(step("X", "expander", "feed", "out", pressure="12 bar", efficiency="80 %"))
    (H1, S1), (H2, S2) = flows(found, "feed"), flows(found, "out")
    assert H2 < H1
    assert S2 > S1
    assert abs(found["steps"]["X"]["power_W"]) == pytest.approx(H1 - H2, rel=1e-6)
    valve = chain(step("V", "valve", "feed", "out", pressure="12 bar"))
    assert found["streams"]["out"]["temperature_K"] < valve["streams"]["out"]["temperature_K"] - 10.0


def test_a_separator_parts_a_stream_at_equilibrium():
    found = chain(
        step("E", "cooler", "feed", "cold", temperature="-40 degC"),
        step("D", "separator", "cold", {"vapour": "gas", "liquid": "oil"}),
    )
    cold, gas, oil = (found["streams"][n] for n in ("cold", "gas", "oil"))
    whole = state(cold)
    assert gas["mole_mol_s"] / cold["mole_mol_s"] == pytest.approx(whole["vapour_fraction"], rel=1e-8)
    phases = {p["kind"]: p for p in whole["phases"]}
    assert gas["composition"] == pytest.approx(phases["vapour"]["composition"], rel=1e-7)
    assert oil["composition"] == pytest.approx(phases["liquid"]["composition"], rel=1e-7)
    (H1, S1), (H2, S2) = flows(found, "cold"), flows(found, "gas", "oil")
    assert pytest.approx(H1, rel=1e-6) == H2
    assert pytest.approx(S1, rel=1e-6) == S2  # nothing is mixed or unmixed by parting phases
    assert found["steps"]["D"]["vapour_fraction"] == pytest.approx(whole["vapour_fraction"], rel=1e-8)


def test_streams_that_meet_mix_their_enthalpies_at_the_lower_pressure():
    other = {"fluid": "Gas", "temperature": "-20 degC", "pressure": "35 bar", "rate": "50 mol/s"}
    found = chain(step("M", "mixer", ["feed", "other"], "both"), other=other)
    both = found["streams"]["both"]
    assert both["mole_mol_s"] == pytest.approx(150.0)
    assert both["pressure_Pa"] == pytest.approx(35e5)
    (H1, S1), (H2, S2) = flows(found, "feed", "other"), flows(found, "both")
    assert pytest.approx(H1, rel=1e-6) == H2
    assert S2 > S1
    assert both["composition"] == pytest.approx({n: a / 100 for n, a in PARTS})


def test_a_splitter_shares_out_one_state():
    found = chain(step("S", "splitter", "feed", {"a": 0.25, "b": 0.75}))
    for name, share in (("a", 0.25), ("b", 0.75)):
        part = found["streams"][name]
        assert part["mole_mol_s"] == pytest.approx(share * FLOW)
        assert part["temperature_K"] == pytest.approx(313.15)
        assert part["composition"] == pytest.approx({n: a / 100 for n, a in PARTS})


def test_an_exchanger_gives_one_stream_what_it_takes_from_the_other():
    cold = {"fluid": "Gas", "temperature": "-30 degC", "pressure": "30 bar", "rate": "80 mol/s"}
    exchange = {"name": "X", "step": "exchanger", "hot_from": "feed", "hot_to": "hot out", "cold_from": "cold", "cold_to": "cold out", "least_approach": "6 K"}  # fmt: skip
    found = chain(exchange, cold=cold)
    own = found["steps"]["X"]
    (Hh1, Sh1), (Hh2, Sh2) = flows(found, "feed"), flows(found, "hot out")
    (Hc1, Sc1), (Hc2, Sc2) = flows(found, "cold"), flows(found, "cold out")
    assert Hh1 - Hh2 == pytest.approx(own["duty_W"], rel=1e-6)
    assert Hc2 - Hc1 == pytest.approx(own["duty_W"], rel=1e-6)
    assert Sh2 + Sc2 > Sh1 + Sc1
    assert own["least_approach_K"] == pytest.approx(6.0, abs=1e-3)
    curve = own["curve"]
    apart = [h - c for h, c in zip(curve["hot_K"], curve["cold_K"])]
    assert min(apart) == pytest.approx(6.0, abs=0.05)
    assert own["hot_outlet_K"] == pytest.approx(found["streams"]["hot out"]["temperature_K"])
    assert own["ua_W_K"] * own["mean_difference_K"] == pytest.approx(own["duty_W"], rel=1e-6)


def test_a_pump_lifts_a_liquid_by_little_more_than_its_volume_times_the_pressure():
    found = chain(
        step("E", "cooler", "feed", "cold", temperature="-60 degC"),
        step("D", "separator", "cold", {"vapour": "gas", "liquid": "oil"}),
        step("P", "pump", "oil", "lifted", pressure="100 bar", efficiency="70 %"),
    )
    oil = found["streams"]["oil"]
    volume = oil["mole_mol_s"] * state(oil)["molar_volume_m3_mol"]
    ideal = volume * (1e7 - oil["pressure_Pa"])
    assert found["steps"]["P"]["power_W"] == pytest.approx(ideal / 0.70, rel=0.05)
    assert state(found["streams"]["lifted"])["vapour_fraction"] == 0.0
