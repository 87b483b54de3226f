"""Distillation methods: published numbers, round trips, corrections."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from ask import told
from cryonome.characterization import LabSample, characterize, close_curve
from cryonome.characterization.curve import ENDS, INTERPOLATIONS
from cryonome.characterization.lab_sample import Tail
from cryonome.characterization.methods import CONVERSIONS, METHODS, TEN_MMHG, Context, from_tbp, to_tbp
from cryonome.characterization.pressure import (
    boiling_point_at,
    cracking_corrected,
    normal_boiling_point,
    to_standard_barometer,
)
from cryonome.constants import ATM
from mixtures import TBP

CELSIUS = 273.15
WIDE = st.tuples(st.floats(290.0, 420.0), st.floats(120.0, 640.0), st.floats(0.7, 1.3), st.floats(0.72, 1.0))


def test_the_published_kerosene():
    """D86 of a kerosene to TBP: Riazi, ASTM MNL50 (2005), example 3.2, both procedures."""
    x = np.array([0.0, 0.1, 0.3, 0.5, 0.7, 0.9])
    d86 = np.array([165.6, 176.7, 193.3, 206.7, 222.8, 242.8]) + CELSIUS
    curve = lambda at: np.interp(at, [*x, 1.0], [*d86, 528.0])  # noqa: E731
    expected = {
        "riazi-daubert-1986": [134.1, 160.6, 188.2, 209.0, 230.2, 254.7],
        "api-1994": [133.1, 158.1, 189.2, 210.6, 232.9, 258.2],
    }
    for key, tbp in expected.items():
        mine = to_tbp(curve, CONVERSIONS["D86"][key], x, Context()) - CELSIUS
        np.testing.assert_allclose(mine, tbp, atol=0.15)


@pytest.mark.parametrize("method", list(CONVERSIONS))
@given(shape=WIDE)
def test_there_and_back_is_where_it_began(method, shape):
    start, width, bend, sg = shape
    tbp = lambda at: start + width * np.asarray(at) ** bend  # noqa: E731
    x = np.linspace(0.05, 0.95, 19)
    for conversion in CONVERSIONS[method].values():
        context = Context(sg)
        nodes = np.unique(np.round(np.concatenate([np.linspace(0.0, 1.0, 41), conversion.nodes]), 9))
        shown = from_tbp(tbp, conversion, nodes, context)
        assume(np.isfinite(shown).all())
        assert (np.diff(shown) >= 0.0).all()
        back = to_tbp(lambda at, s=shown, n=nodes: np.interp(at, n, s), conversion, nodes, context)
        # Where a wide sample's curve was held level the way back cannot know: hypothesis complains if that is the rule.
        assume((np.diff(shown) > 0.0).all())
        np.testing.assert_allclose(np.interp(x, nodes, back), np.interp(x, nodes, tbp(nodes)), atol=0.1)


@pytest.mark.parametrize("method", ["D86", "D1160", "D2887", "EFV"])
def test_a_sample_shown_as_a_method_and_read_back_is_the_same(method):
    first = characterize(LabSample("S", *TBP, density=859.0))
    percent = np.array([0, 5, 10, 20, 30, 40, 50, 60, 70, 80, 90, 95, 100.0])
    shown = first.shown_as(method, percent / 100.0)
    # The residue's end is beyond any test.
    there = np.isfinite(shown)
    assert there[:-1].all()
    percent, shown = percent[there], shown[there]
    sheet = LabSample(
        "S", tuple(percent), tuple(shown.tolist()), density=859.0, method=method, pressure=METHODS[method].pressure
    )
    second = characterize(sheet)
    x = np.linspace(0.05, 0.95, 91)
    assert np.abs(second.curve.at(x) - first.curve.at(x)).max() < 2.0
    assert second.molar_mass == pytest.approx(first.molar_mass, rel=0.01)


def test_maxwell_bonnell():
    # Water-white check points of the chart: 10 mmHg, Watson K 12.
    assert normal_boiling_point(600.0, TEN_MMHG) == pytest.approx(767.8, abs=0.1)
    # The equation returns the temperature itself at one atmosphere, to its own rounding.
    assert normal_boiling_point(500.0, ATM * 0.9999) == pytest.approx(500.0, abs=0.3)
    T = np.linspace(300.0, 700.0, 9)
    for P in (20.0, 267.0, 1333.2, 5e4, 3e5):
        for watson in (10.5, 12.0, 12.8):
            np.testing.assert_allclose(boiling_point_at(normal_boiling_point(T, P, watson), P, watson), T, atol=1e-6)
    assert (normal_boiling_point(T, 1333.2) > T).all()
    with pytest.raises(ValueError, match="between"):
        normal_boiling_point(500.0, 1e-6)


def test_n_hexadecane_under_vacuum():
    """n-Hexadecane boils at 286.9 degC; at 10 mmHg its vapour pressure curve gives 149.8 degC (Watson K 12.8)."""
    assert boiling_point_at(560.0, TEN_MMHG, 12.8) == pytest.approx(422.95, abs=0.2)


def test_corrections_of_a_reading_in_the_open():
    # ASTM D86: 0.9 K at 100 degC and 740 mmHg.
    assert to_standard_barometer(373.15, ATM * 740 / 760) - 373.15 == pytest.approx(0.9, abs=0.05)
    T = np.array([500.0, 520.0, 560.0, 640.0])
    added = cracking_corrected(T) - T
    assert added[0] == 0.0
    assert (np.diff(added) > 0).all()
    # log10 D = -1.587 + 0.004735 (600 degF) -> 17.9 degF
    assert added[2] == pytest.approx(10 ** (-1.587 + 0.004735 * (560 * 1.8 - 459.67)) / 1.8)


@pytest.mark.parametrize("interpolation", INTERPOLATIONS)
@pytest.mark.parametrize("ends", ENDS)
def test_every_way_of_drawing_goes_through_the_points_and_rises(interpolation, ends):
    percent, T = TBP[0][2:], TBP[1][2:]
    given_ends = (300.0, 1030.0) if ends == "given" else (None, None)
    curve = close_curve(percent, T, interpolation, ends, given_ends)
    np.testing.assert_allclose(curve.at(np.array(percent) / 100), T, rtol=1e-10)
    x = np.linspace(0.0, 1.0, 2001)
    assert (np.diff(curve.at(x)) > -1e-9).all()
    edges = np.linspace(0.0, 1.0, 41)
    exact = [np.trapezoid(curve.at(np.linspace(a, b, 401)), dx=1 / 400) for a, b in pairwise(edges)]
    np.testing.assert_allclose(curve.mean(edges), exact, rtol=2e-5)
    if ends == "given":
        assert (curve.temperature[0], curve.temperature[-1]) == (300.0, 1030.0)
        assert not curve.closed_low
    else:
        assert curve.temperature[0] < T[0]
        assert curve.temperature[-1] > T[-1]


def test_a_front_and_a_tail_make_one_curve():
    front = LabSample(
        "S", (0, 10, 20, 30), (369.0, 487.0, 556.0, 611.0), density=934.0, method="D86+D1160",
        tail=Tail((40, 60, 80), (512.0, 602.0, 704.0), TEN_MMHG),
    )  # fmt: skip
    result = characterize(front)
    tail = normal_boiling_point(np.array([602.0, 704.0]), TEN_MMHG, 11.5)
    # From 50 % on the tail is TBP, but for the pressure.
    np.testing.assert_allclose(result.curve.at(np.array([0.6, 0.8])), tail, atol=6.0)
    assert (np.diff(result.curve.temperature) > 0).all()
    with pytest.raises(ValueError, match="above the front"):
        characterize(LabSample(**{**front.__dict__, "tail": Tail((25, 60), (512.0, 602.0), TEN_MMHG)}))


def test_a_residue_that_cannot_be_extrapolated_is_said():
    steep = LabSample("S", (0, 10, 20, 30, 40), (350.0, 450.0, 560.0, 700.0, 900.0), density=900.0)
    assert any(
        "cannot be extrapolated" in s for s in told(r for r in characterize(steep).remarks if r.kind == "warning")
    )
    short = LabSample("S", (0, 10, 20, 30, 45), (350.0, 400.0, 440.0, 480.0, 540.0), density=860.0)
    assert any("rest on the extrapolation" in s for s in told(characterize(short).remarks))
    with pytest.raises(ValueError, match="in the open"):
        characterize(LabSample("S", *TBP, density=859.0, method="D86", pressure=2000.0))


def test_a_curve_that_would_fall_is_left_out_and_told():
    """Of a wide crude the published powers give EFV temperatures that fall from 0 to 10 %."""
    wide = LabSample(
        "S", (0, 5, 10, 30, 50, 70, 90, 95, 100), (300, 320, 340, 420, 520, 640, 800, 880, 1000), density=880.0
    )
    shown = characterize(wide).shown_as("EFV", np.arange(0.0, 1.01, 0.05))
    assert np.isnan(shown[:3]).all()
    assert (np.diff(shown[3:]) > 1.0).all()
    # An EFV that rises so unevenly that the D86 on the way to TBP would fall: straight there, not level.
    uneven = LabSample("S", (0, 10, 30, 50, 70, 90), (300, 320, 340, 360, 640, 660), density=860.0, method="EFV")
    read = characterize(uneven)
    assert [r.values["low"] for r in read.remarks if r.code == "curve.way_falls"] == [30.0]
    assert (np.diff(read.curve.at(np.arange(0.0, 1.01, 0.05))) > 1.0).all()
