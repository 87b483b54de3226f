"""What test methods state, against numbers of their tables."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.uncertainty.precision import CURVES, PRECISIONS, TO_DEVIATION

C = 273.15


def test_single_numbers_have_the_statement_of_their_method():
    stated = {
        ("D4052", 850.0): (0.1, 0.5),
        ("D445", 10e-6): (0.17e-6, 0.74e-6),
        ("D445 hot", 12e-6): (0.22e-6, 0.76e-6),
        ("D2503", 0.300): (0.005, 0.014),
        ("D2503", 0.500): (0.012, 0.032),
        ("D1945", 0.88): (0.0010, 0.0015),
        ("D1945", 0.0005): (0.0001, 0.0002),
        ("D323", 60e3): (3.2e3, 5.2e3),
        ("D323", 20e3): (0.7e3, 2.4e3),
        ("D6377", 70e3): (2.48e3, 5.61e3),
    }
    for (method, value), (r, R) in stated.items():
        found = PRECISIONS[method].of(np.array([value]))
        assert (found[0][0], found[1][0]) == pytest.approx((r, R)), (method, value)
    # 2.77, as ASTM E177 has it.
    assert pytest.approx(2.77, abs=0.003) == TO_DEVIATION


def test_curves_have_it_at_the_percents_that_are_stated_and_between():
    percent = np.array([0.0, 5.0, 10.0, 30.0, 50.0, 90.0, 95.0, 100.0])
    light = np.array([40.0, 50.0, 60.0, 85.0, 105.0, 160.0, 175.0, 200.0]) + C
    r, R = CURVES["D86"].of(percent, light)
    assert r[[0, 2, 4, 5, 7]] == pytest.approx([0.0295 * 91.19, 1.33, 0.74, 0.00755 * 219.77, 3.33])
    assert R[[2, 4, 5]] == pytest.approx([3.20, 1.88, 0.019 * 219.77])
    assert r[3] == pytest.approx(0.5 * (1.33 + 0.74))
    heavy = light + 150.0
    assert CURVES["D86"].of(percent, heavy)[1][[2, 4]] == pytest.approx([0.022 * 210.0, 2.97])
    r, R = CURVES["D2887"].of(percent, heavy)
    assert r[[2, 3, 4, 6, 7]] == pytest.approx([0.8, 0.8, 1.0, 1.2, 3.2])
    assert R[[1, 4, 7]] == pytest.approx([0.015 * 300.0, 4.3, 11.8])
    # One degree per percent, of a vacuum distillation.
    r, R = CURVES["D1160"].of(np.arange(5.0, 96.0), 500.0 + np.arange(5.0, 96.0))
    assert (r[0], R[0], r[-6], R[-6]) == pytest.approx((2.9, 10.0, 3.0, 6.0))


def test_a_laboratory_repeats_itself_better_than_it_agrees_with_another():
    for method in PRECISIONS.values():
        r, R = method.of(np.array([1e-5, 0.3, 850.0, 60e3]))
        assert (r < R).all()
    percent = np.linspace(0.0, 100.0, 41)
    for curve in CURVES.values():
        r, R = curve.of(percent, 350.0 + 3.0 * percent)
        assert ((r > 0.0) & (r < R)).all(), curve.key
