"""Quantities at the border."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.units import KINDS, SETS, QuantityError, format_number, from_si, parse, split, to_si


@pytest.mark.parametrize(
    ("text", "kind", "si"),
    [
        ("140 degF", "temperature", 333.15),
        ("−40 °C", "temperature", 233.15),
        ("2000 psia", "pressure", 2000 * 6894.757293168),
        ("35 psig", "pressure", 35 * 6894.757293168 + 101325),
        ("3 barg", "pressure", 401325.0),
        ("1 bar", "pressure", 1e5),
        ("14.6959488 psi", "pressure", 101325.0),
        ("33.1 degAPI", "density", 141.5 / 164.6 * 999.016),
        ("0.85 SG", "density", 0.85 * 999.016),
        ("51.4 lb/ft**3", "density", 51.4 * 16.01846337),
        ("51.4 lb/ft3", "density", 51.4 * 16.01846337),
        ("0.34 cP", "dynamic_viscosity", 3.4e-4),
        ("12 cSt", "kinematic_viscosity", 1.2e-5),
        ("1 scf", "amount", 1.19528694),
        ("12 MMscf/day", "molar_rate", 12e6 * 1.19528694 / 86400),
        ("850 bbl/day", "volume_rate", 850 * 0.158987294928 / 86400),
        ("2 lb-mol", "amount", 907.18474),
        (215, "molar_mass", 0.215),
        ("40 %", "fraction", 0.4),
        ("27 degF", "temperature_difference", 15.0),
        ("1 234,5 kPa", "pressure", 1234500.0),
    ],
)
def test_the_units_of_the_trade(text, kind, si):
    assert parse(text, kind) == pytest.approx(si, rel=1e-7)


@given(st.sampled_from([(k, u) for k in KINDS.values() for u in k.units]), st.floats(0.5, 900.0))
def test_every_display_unit_goes_there_and_back(pair, value):
    kind, unit = pair
    assert from_si(to_si(value, unit, kind.name), unit, kind.name) == pytest.approx(value, rel=1e-9)


def test_every_unit_of_the_starting_sets_is_offered():
    for units in SETS.values():
        for kind, unit in units.items():
            assert unit in KINDS[kind].units


@pytest.mark.parametrize(
    ("text", "kind", "words"),
    [
        ("35 psig", "temperature", "unit of a pressure, where a temperature belongs"),
        ("warm", "temperature", "'warm' is not a temperature"),
        ("12 barr", "pressure", "did you mean bar"),
        ("-300 degC", "temperature", "absolute zero"),
        ("0 K", "temperature", "above 0 K"),
        ("-131.5 degAPI", "density", "above -131.5"),
        ("", "density", "33.1 degAPI"),
        (True, "pressure", "a pressure is wanted"),
        (float("nan"), "pressure", "finite"),
    ],
)
def test_what_is_wrong_is_said_with_what_would_be_right(text, kind, words):
    with pytest.raises(QuantityError) as error:
        parse(text, kind)
    assert words in str(error.value)


def test_numbers_as_people_write_them():
    assert split("1,5e3 kPa") == (1500.0, "kPa")
    assert split(".5") == (0.5, "")
    assert format_number(-0.0123456, 3) == "−0.0123"
    assert format_number(123456.7) == "123457"
    assert format_number(float("nan")) == "–"
