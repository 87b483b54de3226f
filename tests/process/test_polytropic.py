"""Paths of compressions and expansions: published examples, a path of many small steps, and other formulas for the
head."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cryonome.process import KINDS
from cryonome.process.polytropic import follow
from cryonome.process.steps import Doing
from plant import GAS, WET, medium, step, stream


def _machine(m, inlet, kind="compressor", **given):
    words = {"efficiency_kind": given.pop("by", "polytropic")}
    return KINDS[kind].run(step("K", kind, "a", "b", words=words, **given), [inlet], Doing(m))


def test_methane_compressed_as_an_ideal_gas():
    """Smith, Van Ness and Abbott, Introduction to Chemical Engineering Thermodynamics (2001), example 7.9: methane from
    20 degC and 140 kPa to 560 kPa at an isentropic efficiency of 0.75 leaves at 428.65 K, takes 5288.2 J/mol, 3966.2
    at best and then leaves at 397.37 K."""
    m = medium((("methane", 1.0),), "ideal")
    out = _machine(m, stream(m, (("methane", 1.0),), 293.15, 140e3), pressure=560e3, efficiency=0.75, by="isentropic")
    mass = 16.043e-3
    assert out.numbers["isentropic_head_J_kg"][0] * mass == pytest.approx(3966.2, rel=3e-3)
    assert out.work[0] == pytest.approx(5288.2, rel=3e-3)
    # The book's heat capacity is 2 % above the measured one at 400 K.
    assert out.streams[0].T[0] == pytest.approx(428.65, abs=2.0)


def _by_small_steps(m, inlet, P2, factor, count):
    """The path by steps of the mean volume, as Huntington (1985) integrates it."""
    P = np.geomspace(inlet.P[0], P2, count + 1)
    at, head = inlet, 0.0
    for a, b in itertools.pairwise(P):
        v = at.v[0]
        for _ in range(4):
            done = 0.5 * (at.v[0] * a + v * b) * np.log(b / a)
            new = m.with_enthalpy(np.array([b]), at.h + factor * done, at.z, at.flow, at.T)
            v = new.v[0]
        head += 0.5 * (at.v[0] * a + new.v[0] * b) * np.log(b / a)
        at = new
    return at, head


@pytest.mark.parametrize(
    ("parts", "T", "P1", "P2", "factor", "within"),
    [
        (GAS, 310.0, 11e5, 60e5, 1 / 0.75, 2e-5),
        (GAS, 250.0, 60e5, 15e5, 0.8, 3e-4),
        (WET, 300.0, 60e5, 20e5, 0.8, 3e-4),
    ],
)
def test_the_path_is_that_of_many_small_steps(parts, T, P1, P2, factor, within):
    m = medium(parts)
    inlet = stream(m, parts, T, P1)
    path = follow(m, inlet, np.array([P2]), np.array([factor]))
    outlet, head = _by_small_steps(m, inlet, P2, factor, 60)
    assert path.found[0]
    assert path.head[0] == pytest.approx(head, rel=within)
    assert path.outlet.T[0] == pytest.approx(outlet.T[0], rel=within)


def test_the_usual_formulas_for_the_head_come_near():
    """Schultz (1962, J. Eng. Power 84, 69) takes the path as P v^n = const, with his factor f; Huntington finds it
    within a percent of the path by steps, and so is it here."""
    m = medium()
    inlet = stream(m, GAS, 310.0, 30e5)
    eta = 0.78
    out = _machine(m, inlet, pressure=90e5, efficiency=eta)
    outlet, ideal = out.streams[0], m.with_entropy(np.array([90e5]), inlet.s, inlet.z, inlet.flow)
    n, k = (np.log(3.0) / np.log(inlet.v[0] / s.v[0]) for s in (outlet, ideal))

    def between(x, end):
        return x / (x - 1.0) * (90e5 * end.v[0] - 30e5 * inlet.v[0])

    f = (ideal.h[0] - inlet.h[0]) / between(k, ideal)
    schultz = f * between(n, outlet)
    assert out.numbers["polytropic_head_J_kg"][0] * m.mass(inlet.z)[0] == pytest.approx(schultz, rel=2e-3)


@settings(max_examples=15)
@given(st.floats(0.3, 1.0), st.floats(1.05, 6.0), st.floats(280.0, 360.0), st.booleans())
def test_efficiencies_heads_and_the_second_law_agree(eta, ratio, T, expanding):
    m = medium()
    inlet = stream(m, GAS, T, 20e5)
    kind = "expander" if expanding else "compressor"
    out = _machine(m, inlet, kind, ratio=ratio, efficiency=eta, mechanical_efficiency=0.97)
    n = {k: v[0] for k, v in out.numbers.items()}
    per_kg = n["power_W"] / m.mass(inlet.z)[0]
    assert out.streams[0].h[0] - inlet.h[0] == pytest.approx(n["power_W"], rel=1e-9)
    head = n["polytropic_head_J_kg"]
    assert per_kg == pytest.approx(head * eta if expanding else head / eta, rel=1e-8)
    assert n["shaft_power_W"] == pytest.approx(n["power_W"] * (0.97 if expanding else 1 / 0.97), rel=1e-12)
    assert out.streams[0].s[0] >= inlet.s[0] - 1e-9
    # The same machine by its isentropic efficiency, and by its power, is the same machine.
    again = _machine(m, inlet, kind, ratio=ratio, efficiency=n["isentropic_efficiency"], by="isentropic")
    assert again.numbers["polytropic_efficiency"][0] == pytest.approx(eta, rel=1e-6)
    told = _machine(m, inlet, kind, power=abs(n["shaft_power_W"]), efficiency=eta, mechanical_efficiency=0.97)
    assert told.streams[0].P[0] == pytest.approx(out.streams[0].P[0], rel=1e-8)


def test_one_component_through_its_dome():
    """Boiling propane let down in an expander: the temperature is that of boiling, and energy and entropy are those
    of the shares."""
    m = medium((("propane", 1.0),))
    inlet = stream(m, (("propane", 1.0),), 330.0, 20e5)
    out = _machine(m, inlet, "expander", pressure=5e5, efficiency=0.8, by="isentropic").streams[0]
    assert 0.3 < out.share(0)[0] < 0.5
    boiling = m.with_vapour(np.array([5e5]), np.array([0.5]), out.z, out.flow)
    assert out.T[0] == pytest.approx(boiling.T[0], rel=1e-9)


def test_stages_take_less_and_end_where_they_should():
    m = medium()
    inlet = stream(m, GAS, 300.0, 10e5)
    one = _machine(m, inlet, pressure=90e5)
    three = _machine(m, inlet, pressure=90e5, stages=3, stage_temperature=305.0, stage_drop=0.2e5)
    assert three.streams[0].P[0] == pytest.approx(90e5)
    assert three.work[0] < 0.9 * one.work[0]
    assert three.work[0] + three.heat[0] == pytest.approx(three.streams[0].h[0] - inlet.h[0], rel=1e-9)
    assert three.series["stage_power_W"].sum() == pytest.approx(three.work[0])
