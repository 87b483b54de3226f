"""Numbers as people write them: read as meant or refused, never another number."""

from __future__ import annotations

import math

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from cryonome.units import QuantityError, split


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("2,000.5", 2000.5), ("1 500,5", 1500.5), ("2'000", 2000.0), ("2’000,25", 2000.25), ("12.345.678", 12345678.0),
        ("12,345,678", 12345678.0), ("2\u00a0000", 2000.0), ("2\u202f000", 2000.0), ("2 000", 2000.0), ("0,860", 0.86),
        ("1234,567", 1234.567), ("1,5", 1.5), ("1,2345", 1.2345), (",5", 0.5), (".5", 0.5), ("5.", 5.0), ("2,000.", 2000.0),
        ("-5", -5.0), ("–5", -5.0), ("− 5", -5.0), ("minus 5", -5.0), ("+5", 5.0), ("1.5E+03", 1500.0), ("2x10^3", 2000.0),
        ("2 × 10³", 2000.0), ("1.2×10⁻⁵", 1.2e-5), ("2*10^3", 2000.0), ("100½", 100.5), ("100 1/2", 100.5), ("12 million", 12e6),
        ("２０００", 2000.0), ('"2000"', 2000.0), ("~2000", 2000.0),
    ],
)  # fmt: skip
def test_marks_of_thousands_and_decimals_are_told_apart(text, value):
    number, rest = split(text)
    assert number == pytest.approx(value, rel=1e-15)
    assert rest == ""


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("2,000", "2000 or as 2.000"), ("-12,345 psia", "12345 or as 12.345"), ("1,2,3", "mixes"), ("1.2.3", "mixes"),
        ("1,500,5", "mixes"), ("1.500.5", "mixes"), ("2'00", "mixes"), ("40 50 K", "more than one number"),
        ("12 34 567", "more than one number"), ("", "not a number"), ("warm", "not a number"), ("9" * 400, "400 characters"),
    ],
)  # fmt: skip
def test_what_could_be_two_numbers_is_refused(text, words):
    with pytest.raises(QuantityError, match=words):
        split(text)


@given(
    st.integers(0, 10**9),
    st.integers(0, 99),
    st.sampled_from([(",", "."), (".", ","), ("'", "."), (" ", ","), ("\u00a0", ".")]),
)
def test_a_number_written_with_any_marks_is_that_number(whole, hundredths, marks):
    thousands, decimal = marks
    text = f"{whole:,}".replace(",", thousands) + f"{decimal}{hundredths:02d}"
    assert split(text)[0] == pytest.approx(whole + hundredths / 100.0, rel=1e-15)


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_a_number_as_python_writes_it_comes_back(value):
    assert split(repr(value)) == (value, "")


@given(st.text(max_size=30))
@example("1e999")
@example("5 K**9**9**9**9")
def test_any_text_is_a_number_or_refused(text):
    try:
        number, rest = split(text)
    except QuantityError:
        return
    else:
        assert math.isfinite(number)
        assert any(c.isdigit() for c in text) or any(c.isnumeric() for c in text)
        assert isinstance(rest, str)
