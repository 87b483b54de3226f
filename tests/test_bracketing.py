"""Roots of many functions at once, and monotone cubics, against SciPy's own."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from cryonome.bracketing import bracketed
from cryonome.characterization.monotone import Monotone


@settings(max_examples=40, deadline=None)
@given(c=arrays(float, 7, elements=st.floats(-0.9, 3.0)))
def test_every_root_between_the_ends_is_found_and_no_other(c):
    def miss(x):
        return np.exp(x) - x**2 - 2.0 - c

    found = bracketed(miss, c.shape, (-1.0, 2.0))
    for k, value in enumerate(c):
        one = lambda x, v=value: np.exp(x) - x**2 - 2.0 - v  # noqa: E731
        if one(-1.0) * one(2.0) > 0.0:
            assert np.isnan(found[k])
        else:
            assert found[k] == pytest.approx(brentq(one, -1.0, 2.0, xtol=1e-14), abs=1e-12)


def test_a_function_that_jumps_is_halved_to_its_jump():
    found = bracketed(lambda x: np.where(x < 0.3, -1.0, 1.0), (1,), (0.0, 1.0))
    assert found == pytest.approx([0.3], abs=1e-12)


@settings(max_examples=60, deadline=None)
@given(
    h=st.lists(st.floats(0.01, 5.0), min_size=1, max_size=8),
    rise=st.lists(st.floats(-3.0, 6.0), min_size=8, max_size=8),
)
def test_a_monotone_cubic_is_that_of_fritsch_and_butland(h, rise):
    x = np.concatenate([[0.0], np.cumsum(h)])
    y = np.concatenate([[1.0], 1.0 + np.cumsum(rise[: len(h)])])
    own, theirs = Monotone(x, y), PchipInterpolator(x, y)
    at = np.linspace(x[0] - 0.1, x[-1] + 0.1, 57)
    assert own(at) == pytest.approx(theirs(at), rel=1e-10, abs=1e-10)
    whole = theirs.antiderivative()
    assert own.integral(at) == pytest.approx(whole(at) - whole(0.0), rel=1e-10, abs=1e-9)
