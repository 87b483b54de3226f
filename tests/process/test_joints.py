"""Heaters, coolers, valves, mixers, splitters and separators: each is a balance and a flash, whatever it is asked by."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.equilibrium.phases import Kind
from cryonome.process import KINDS, StepFault
from cryonome.process.steps import Doing, Each, Told
from plant import GAS, WET, medium, step, stream

STATES = st.tuples(st.floats(235.0, 360.0), st.floats(5e5, 90e5))


def _run(kind, inlets, *outlets, parts=WET, gives="x y z", **numbers):
    m = medium(parts)
    names = " ".join(gives.split()[: max(len(outlets), 1)])
    return KINDS[kind].run(step("S", kind, "a b", names, *outlets, **numbers), inlets, Doing(m))


def _amounts(streams):
    return sum(s.flow[:, None] * s.z for s in streams)


def _enthalpy(streams):
    return sum(s.flow * s.h for s in streams if s.flow[0] > 0.0)


@given(STATES, st.floats(0.0, 3e5))
def test_a_separator_keeps_what_comes_in(state, drop):
    m = medium(WET)
    inlet = stream(m, WET, *state, 7.0)
    out = _run("separator", [inlet], "vapour", "liquid", "aqueous", pressure_drop=drop)
    np.testing.assert_allclose(_amounts(out.streams), _amounts([inlet]), rtol=1e-10, atol=1e-13)
    assert _enthalpy(out.streams)[0] == pytest.approx(_enthalpy([inlet])[0], rel=1e-8, abs=1e-4)
    for kind, s in zip((Kind.VAPOUR, Kind.LIQUID, Kind.AQUEOUS), out.streams):
        if s.flow[0] > 1e-9:
            assert set(s.phases.kind[0].tolist()) <= {int(kind), int(Kind.ABSENT)}
            # What leaves is at equilibrium by itself: flashed again it is one phase.
            again = m.at(s.T, s.P, s.z, s.flow)
            assert again.h[0] == pytest.approx(s.h[0], rel=1e-6, abs=1e-3)


@given(STATES)
def test_without_an_outlet_of_its_own_water_goes_with_the_liquid(state):
    inlet = stream(medium(WET), WET, *state, 7.0)
    three = _run("separator", [inlet], "vapour", "liquid", "aqueous").streams
    two = _run("separator", [inlet], "vapour", "liquid").streams
    assert two[0].flow[0] == pytest.approx(three[0].flow[0], rel=1e-12)
    np.testing.assert_allclose(_amounts(two[1:]), _amounts(three[1:]), rtol=1e-9, atol=1e-12)


@given(STATES, STATES, st.floats(0.1, 10.0))
def test_a_mixer_mixes_at_the_lowest_pressure_and_keeps_enthalpy(one, other, flow):
    m = medium(WET)
    a, b = stream(m, WET, *one, 2.0), stream(m, WET, *other, flow)
    (out,) = _run("mixer", [a, b]).streams
    assert out.P[0] == min(a.P[0], b.P[0])
    assert out.flow[0] == pytest.approx(2.0 + flow)
    assert _enthalpy([out])[0] == pytest.approx(_enthalpy([a, b])[0], rel=1e-8, abs=1e-3)
    assert out.s[0] * out.flow[0] >= a.s[0] * 2.0 + b.s[0] * flow - 1e-6


@given(STATES, st.floats(1e5, 4.9e5))
def test_a_valve_keeps_enthalpy_and_makes_entropy(state, P):
    inlet = stream(medium(WET), WET, *state)
    (out,) = _run("valve", [inlet], pressure=P).streams
    assert out.h[0] == pytest.approx(inlet.h[0], rel=1e-8, abs=1e-4)
    assert out.s[0] >= inlet.s[0] - 1e-9
    (same,) = _run("valve", [inlet], pressure_drop=inlet.P[0] - P).streams
    assert same.T[0] == pytest.approx(out.T[0], abs=1e-6)


@given(st.floats(245.0, 300.0), st.floats(1.0, 50.0), st.booleans())
def test_a_heater_by_its_temperature_is_one_by_its_duty(T, by, heats):
    inlet = stream(medium(GAS), GAS, T, 30e5, 3.0)
    kind, end = ("heater", T + by) if heats else ("cooler", T - by)
    done = _run(kind, [inlet], parts=GAS, temperature=end, pressure_drop=0.5e5)
    assert (done.heat[0] > 0.0) == heats
    again = _run(kind, [inlet], parts=GAS, duty=abs(done.heat[0]), pressure_drop=0.5e5)
    assert again.streams[0].T[0] == pytest.approx(end, abs=1e-5)
    assert again.numbers["duty_W"][0] == pytest.approx(done.heat[0], rel=1e-9)
    with pytest.raises(StepFault):
        _run("cooler" if heats else "heater", [inlet], parts=GAS, temperature=end, pressure_drop=0.5e5)


def test_superheat_and_subcooling_are_counted_from_dew_and_bubble_point():
    m = medium(GAS)
    cold = stream(m, GAS, 200.0, 30e5)
    dew = _run("heater", [cold], parts=GAS, vapour_fraction=1.0).streams[0]
    above = _run("heater", [cold], parts=GAS, superheat=7.0).streams[0]
    assert above.T[0] == pytest.approx(dew.T[0] + 7.0, abs=1e-6)
    warm = stream(m, GAS, 320.0, 30e5)
    bubble = _run("cooler", [warm], parts=GAS, vapour_fraction=0.0).streams[0]
    below = _run("cooler", [warm], parts=GAS, subcooling=4.0).streams[0]
    assert below.T[0] == pytest.approx(bubble.T[0] - 4.0, abs=1e-6)
    assert below.share(Kind.VAPOUR)[0] == 0.0


def test_an_empty_stream_goes_through_every_step_and_does_nothing():
    inlet = stream(medium(GAS), GAS, 320.0, 20e5, 4.0)
    _, empty = _run("separator", [inlet], "vapour", "liquid", parts=GAS).streams
    assert empty.flow[0] == 0.0
    for kind, numbers in (
        ("pump", {"pressure": 40e5}),
        ("heater", {"duty": 5e3}),
        ("valve", {"pressure": 5e5}),
        ("compressor", {"ratio": 2.0}),
    ):
        out = _run(kind, [empty], parts=GAS, **numbers)
        assert out.streams[0].flow[0] == 0.0, kind
        assert out.work[0] == 0.0, kind
        assert out.heat[0] == 0.0, kind
    (mixed,) = _run("mixer", [empty, inlet], parts=GAS).streams
    assert mixed.T[0] == pytest.approx(inlet.T[0], abs=1e-7)


def test_liquid_at_a_compressor_and_vapour_at_a_pump_are_told():
    m = medium(GAS)
    wet = stream(m, GAS, 240.0, 30e5)
    done = KINDS["compressor"].run(step("K", "compressor", "a", "b", pressure=40e5), [wet], Doing(m))
    told = {t.code: t.of(0) for t in done.told}
    assert told["process.suction_liquid"] is not None
    assert told["process.discharge_hot"] is None
    hot = KINDS["compressor"].run(step("K", "compressor", "a", "b", ratio=6.0), [stream(m, GAS, 320.0, 10e5)], Doing(m))
    assert next(t for t in hot.told if t.code == "process.discharge_hot").of(0) is not None
    pumped = KINDS["pump"].run(step("P", "pump", "a", "b", pressure=40e5), [wet], Doing(m))
    assert pumped.told[0].of(0) is not None


def test_what_is_told_of_variants_is_told_of_those_it_holds_for():
    told = Told(
        "warning", "x", np.array([True, False]), {"T": Each(np.array([300.0, 310.0]), "temperature", 1), "name": "K"}
    )
    remark = told.of(0)
    assert remark is not None
    assert remark.values["T"].value == 300.0
    assert told.of(1) is None
