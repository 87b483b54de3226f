"""Exchangers: the logarithmic mean of a textbook, zones, and every way to ask for a duty."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cryonome.process import StepFault, exchanger
from cryonome.process.exchanger import log_mean
from cryonome.process.steps import Doing
from plant import GAS, medium, step, stream

F = 5.0 / 9.0


def test_the_logarithmic_mean_of_a_textbook():
    """Kern, Process Heat Transfer (1950), example 5.1: from 300 to 200 degF against 100 to 150 degF the mean is 123.5
    degF in counterflow, 108 in parallel."""
    counter, parallel = log_mean(np.array([150.0 * F, 200.0 * F]), np.array([100.0 * F, 50.0 * F]))
    assert counter / F == pytest.approx(123.5, abs=0.3)
    assert parallel / F == pytest.approx(108.0, abs=0.3)


@given(st.floats(1e-3, 300.0), st.floats(1e-3, 300.0))
def test_the_logarithmic_mean_lies_between_the_others(a, b):
    mean = float(log_mean(np.array(a), np.array(b)))
    assert np.sqrt(a * b) * (1 - 1e-12) <= mean <= 0.5 * (a + b) * (1 + 1e-12)
    assert float(log_mean(np.array(a), np.array(a * (1 + 1e-7)))) == pytest.approx(a, rel=1e-6)


def _exchange(counter=True, hot=(330.0, 40e5, 2.0), cold=(260.0, 40e5, 1.8), **given):
    m = medium()
    streams = [stream(m, GAS, T, P, flow) for T, P, flow in (hot, cold)]
    words = {"arrangement": "counter" if counter else "co"}
    return exchanger.run(step("E", "exchanger", "a b", "c d", words=words, **given), streams, Doing(m)), streams


@pytest.mark.parametrize("counter", [True, False])
def test_every_way_to_ask_gives_the_same_exchanger(counter):
    duty = 3000.0 if counter else 1500.0
    first, streams = _exchange(counter, duty=duty, hot_pressure_drop=0.3e5)
    n = {k: v[0] for k, v in first.numbers.items()}
    for key, value in (
        ("least_approach", n["least_approach_K"]), ("ua", n["ua_W_K"]),
        ("hot_temperature", n["hot_outlet_K"]), ("cold_temperature", n["cold_outlet_K"]),
    ):  # fmt: skip
        again, _ = _exchange(counter, **{key: value}, hot_pressure_drop=0.3e5)
        assert again.numbers["duty_W"][0] == pytest.approx(duty, rel=1e-7), key
        assert again.numbers["ua_W_K"][0] == pytest.approx(n["ua_W_K"], rel=1e-6), key
    hot, cold = first.streams
    assert (streams[0].h[0] - hot.h[0]) * 2.0 == pytest.approx(duty, rel=1e-8)
    assert (cold.h[0] - streams[1].h[0]) * 1.8 == pytest.approx(duty, rel=1e-8)


def test_zones_that_condense_have_their_own_mean():
    """A stream that condenses first and cools after: against an integral of 400 flashes the mean over zones is right
    to a thousandth, where that of the ends alone is far off."""
    done, streams = _exchange(hot=(310.0, 60e5, 1.0), cold=(205.0, 20e5, 3.0), hot_temperature=212.0)
    n = {k: v[0] for k, v in done.numbers.items()}
    m, Q = medium(), n["duty_W"]
    share = np.linspace(0.0, 1.0, 401)
    hot = m.with_enthalpy(
        np.full(401, 60e5), streams[0].h[0] - Q * (1.0 - share), np.tile(streams[0].z, (401, 1)), np.ones(401)
    )
    cold = m.with_enthalpy(
        np.full(401, 20e5), streams[1].h[0] + Q * share / 3.0, np.tile(streams[1].z, (401, 1)), np.ones(401)
    )
    mean = 1.0 / np.trapezoid(1.0 / (hot.T - cold.T), share)
    assert n["mean_difference_K"] == pytest.approx(mean, rel=1e-3)
    assert abs(n["lmtd_K"] / mean - 1.0) > 0.02
    assert n["least_approach_K"] == pytest.approx((hot.T - cold.T).min(), abs=0.05)


def test_what_cannot_be_is_refused_with_its_place():
    with pytest.raises(StepFault) as crossing:
        _exchange(duty=9000.0)
    assert crossing.value.told.code == "process.crossing"
    with pytest.raises(StepFault) as inlets:
        _exchange(hot=(250.0, 40e5, 1.0), least_approach=5.0)
    assert inlets.value.told.code == "process.exchanger_inlets"
    with pytest.raises(StepFault) as wrong:
        _exchange(hot_temperature=340.0)
    assert wrong.value.told.code == "process.exchanger_hot_wrong"


@settings(max_examples=15)
@given(st.floats(0.2, 30.0))
def test_a_least_approach_is_met(least):
    done, _ = _exchange(least_approach=least)
    assert done.numbers["least_approach_K"][0] == pytest.approx(least, abs=1e-7)
