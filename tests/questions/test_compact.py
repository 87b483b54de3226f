"""Formulas of a table: exact where a polynomial is, handed over in three forms that agree, honest about their error, and refused over a boundary."""

from __future__ import annotations

import math
import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.errors import DomainError
from cryonome.questions.compact import FEWEST, MOST_ORDER, OtherRegionError, fit_table, relative_size
from cryonome.watch import Cancelled, Watch

T = np.linspace(280.0, 360.0, 9)
NARROW = np.linspace(5e6, 9e6, 8)
WIDE = np.geomspace(1e5, 1e7, 10)


def fitted(values, axes, variables=("temperature", "pressure"), kinds=None, watch=None):
    """Fit values over axes; one kind of state everywhere unless told."""
    units = {"temperature": "K", "pressure": "Pa", "density": "kg/m3", "enthalpy": "J/mol"}
    kinds = np.zeros((*values.shape, 1), np.int8) if kinds is None else kinds
    more = {} if watch is None else {"watch": watch}
    return fit_table(
        "x", variables[: len(axes)], [units[v] for v in variables[: len(axes)]], axes, values, kinds, **more
    )


def by_text(made, *values):
    """Return what the text of the formula gives, as Python and as a spreadsheet's."""
    space: dict = {}
    exec(made.python(), space)
    names = dict(zip(re.search(r"compact\((.*?)\)", made.python()).group(1).split(", "), values))
    sheet = made.formula()
    assert sheet.startswith("=")
    typed = eval(sheet[1:], {"EXP": math.exp, "LN": math.log}, names)
    return space["compact"](*values), typed


@given(st.lists(st.floats(-3.0, 3.0), min_size=1, max_size=5), st.floats(280.0, 360.0))
def test_a_polynomial_is_found_exactly_and_the_three_forms_agree(coefficients, at):
    truth = lambda t: sum(c * ((t - 320.0) / 40.0) ** k for k, c in enumerate(coefficients)) + 20.0  # noqa: E731
    made = fitted(truth(T), [T])
    assert float(made(at)) == pytest.approx(truth(at), rel=1e-9)
    assert by_text(made, at) == pytest.approx((float(made(at)),) * 2, rel=1e-12)
    assert made.worst_error < 1e-9
    assert made.orders[0] <= max(len(coefficients) - 1, 0) + 0  # no more than there is
    assert made.ranges == ((280.0, 360.0),)


def test_two_conditions_enter_each_by_its_own_scale():
    t, p = np.meshgrid(T, NARROW, indexing="ij")

    def truth(t, p):
        return 50.0 + 0.1 * (t - 320) - 4e-6 * (p - 7e6) + 3e-8 * (t - 320) * (p - 7e6) + 1e-3 * (t - 320) ** 2

    made = fitted(truth(t, p), [T, NARROW])
    assert made.by_logarithm == (False, False)
    assert not made.logarithm
    assert (made.middles, made.halves) == ((320.0, 7e6), (40.0, 2e6))
    some = np.array([281.0, 333.0, 359.0]), np.array([5.1e6, 7.7e6, 8.9e6])
    np.testing.assert_allclose(made(*some), truth(*some), rtol=1e-10)
    np.testing.assert_allclose(
        made(some[0][:, None], some[1][None]), truth(some[0][:, None], some[1][None]), rtol=1e-10
    )
    for pair in zip(*some):
        assert by_text(made, *pair) == pytest.approx((truth(*pair),) * 2, rel=1e-10)
    assert made.orders == (2, 1)


def test_wide_pressures_and_values_enter_by_their_logarithm():
    t, p = np.meshgrid(T, WIDE, indexing="ij")
    truth = lambda t, p: np.exp(2.0 + 0.9 * np.log(p / 1e6) - 0.004 * (t - 320.0))  # noqa: E731
    made = fitted(truth(t, p), [T, WIDE])
    assert made.by_logarithm == (False, True)
    assert made.logarithm
    assert made.orders == (1, 1)
    assert made.formula().startswith("=EXP(")
    assert "LN(P)" in made.formula()
    assert "return exp(" in made.python()
    for pair in ((300.0, 2e5), (350.0, 9e6)):
        assert float(made(*pair)) == pytest.approx(truth(*pair), rel=1e-10)
        assert by_text(made, *pair) == pytest.approx((truth(*pair),) * 2, rel=1e-10)
    # The same range of temperatures, or of something that may be negative, stays plain.
    wide = np.geomspace(100.0, 400.0, 9)
    assert fitted(wide**0.5, [wide]).by_logarithm == (False,)
    assert fitted(np.linspace(1.0, 2.0, 9), [np.linspace(-3e3, 9e3, 9)], ("enthalpy",)).by_logarithm == (False,)
    assert fitted(wide**0.5, [wide], ("density",)).by_logarithm == (True,)


def test_a_constant_is_a_constant():
    made = fitted(np.full(9, 3.25), [T])
    assert made.orders == (0,)
    assert made(300.0) == pytest.approx(3.25)
    assert by_text(made, 300.0) == pytest.approx((3.25, 3.25))


def test_the_error_is_that_at_points_left_out_and_falls_with_more_of_them():
    """It is measured where the formula was not fitted: on a finer grid it is about that."""
    fine = np.linspace(280.0, 360.0, 401)
    truth = lambda t: 1.0 / (1.0 + ((t - 320.0) / 12.0) ** 2)  # noqa: E731  # no polynomial
    few, many = fitted(truth(T), [T]), fitted(truth(np.linspace(280, 360, 40)), [np.linspace(280, 360, 40)])
    off = np.abs(few(fine) - truth(fine)) / truth(T).max()
    assert few.worst_error > 0.05
    assert off.max() < 3.0 * few.worst_error
    assert many.worst_error < 0.5 * few.worst_error
    assert 0.0 < many.average_error < many.worst_error
    assert max(few.orders) < T.size * 2 / 3
    assert max(many.orders) <= MOST_ORDER


def test_of_orders_about_as_good_the_simplest_is_taken():
    rng = np.random.default_rng(3)
    t, p = np.meshgrid(np.linspace(280, 360, 20), np.linspace(5e6, 9e6, 20), indexing="ij")
    noisy = 50.0 + 0.1 * (t - 320.0) + 0.05 * rng.normal(size=t.shape)
    made = fitted(noisy, [t[:, 0], p[0]])
    assert np.prod([o + 1 for o in made.orders]) <= 6


def test_a_large_table_is_fitted_with_all_its_points():
    t, p = np.meshgrid(np.linspace(280, 360, 60), np.linspace(5e6, 9e6, 50), indexing="ij")
    values = 10.0 + (t - 320.0) / 40.0 * (p - 7e6) / 2e6
    values[0, 0] += 1.0  # one odd point moves a fit of all by little
    made = fitted(values, [t[:, 0], p[0]])
    assert float(made(320.0, 7e6)) == pytest.approx(10.0, abs=0.02)
    assert made.worst_error > 0.05  # and is told


def test_deviations_are_relative_to_each_value_or_to_the_largest_near_zero():
    np.testing.assert_allclose(relative_size(np.array([2.0, -4.0, 8.0])), [2.0, 4.0, 8.0])
    np.testing.assert_allclose(relative_size(np.array([1e-9, -4.0, 8.0])), [8.0, 8.0, 8.0])
    np.testing.assert_allclose(relative_size(np.zeros(3)), [1.0, 1.0, 1.0])


def kinds_with(shape, *boxes):
    """Return kinds of states that differ in boxes of (rows, columns)."""
    kinds = np.zeros((*shape, 2), np.int8)
    for rows, columns in boxes:
        kinds[rows, columns] = 1
    return kinds


@pytest.mark.parametrize(
    ("boxes", "rows", "columns"),
    [
        ([(slice(0, 3), slice(None))], (3, 11), (0, 9)),
        ([(slice(None), slice(8, None))], (0, 11), (0, 7)),
        ([(slice(0, 2), slice(0, 2)), (slice(11, 12), slice(None))], (2, 10), (0, 9)),
        ([(slice(6, None), slice(None))], (0, 5), (0, 9)),
    ],
)
def test_a_boundary_is_refused_with_the_largest_part_of_one_kind(boxes, rows, columns):
    rows_axis, columns_axis = np.linspace(280.0, 390.0, 12), np.linspace(5e6, 9.5e6, 10)
    with pytest.raises(OtherRegionError) as error:
        fitted(np.ones((12, 10)), [rows_axis, columns_axis], kinds=kinds_with((12, 10), *boxes))
    (low, high), (bottom, top) = error.value.part
    assert (low, high) == (rows_axis[rows[0]], rows_axis[rows[1]])
    assert (bottom, top) == (columns_axis[columns[0]], columns_axis[columns[1]])
    assert f"temperature {low:.6g} to {high:.6g}, pressure {bottom:.6g} to {top:.6g} (SI)" in str(error.value)


def test_holes_few_points_and_a_cancelled_search():
    values = np.ones((9, 8))
    values[0] = np.nan
    with pytest.raises(OtherRegionError, match="x does not exist all over the table; a formula holds"):
        fitted(values, [T, NARROW])
    spotted = np.where(np.indices((9, 8)).sum(axis=0) % 2, np.nan, 1.0)
    with pytest.raises(OtherRegionError, match="no part of it is large enough") as error:
        fitted(spotted, [T, NARROW])
    assert error.value.part == ()
    with pytest.raises(DomainError, match=f"at least {FEWEST} values of pressure; give more steps"):
        fitted(np.ones((9, 5)), [T, NARROW[:5]])
    with pytest.raises(Cancelled):
        fitted(np.ones((9, 8)), [T, NARROW], watch=Watch(lambda: True))
