"""Units as people write them: what each spelling means, what is refused, and that no other number comes out."""

from __future__ import annotations

import csv
import math
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.units import KINDS, QuantityError, fits, from_si, label, normal_unit, parse

TABLE = Path(__file__).with_name("spellings.csv").read_text(encoding="utf-8")
SPELLINGS = [tuple(row) for row in csv.reader(TABLE.splitlines())][1:]


def test_no_usual_spelling_is_misread_and_nine_of_ten_are_read():
    read = 0
    for kind, text, si in SPELLINGS:
        try:
            value = parse(text, kind)
        except QuantityError:
            continue
        # Some texts are themselves rounded to five digits.
        assert math.isclose(value, float(si), rel_tol=2e-5), (kind, text)
        read += 1
    assert read >= 0.95 * len(SPELLINGS)


@pytest.mark.parametrize(
    ("text", "kind", "words"),
    [
        ("5- bar", "pressure", "not a unit"), ("5 bar/", "pressure", "not a unit"), ("12 mSCF/d", "molar_rate", "two readings"),
        ("3 MG", "mass", "megagram or milligram"), ("12 mscf/d", "molar_rate", "Mscf for a thousand or MMscf for a million"), ("3 ton", "mass", "t (1000 kg), short ton or long ton"),
        ("2 mbbl", "volume", "Mbbl"), ("5 mPa", "pressure", "megapascal or millipascal"), ("215 lb/mol", "molar_mass", "lb/lbmol"),
        ("0.34 MPa s", "dynamic_viscosity", "mPa*s or cP"), ("5 % bar", "pressure", "not a unit"), ("5±1 bar", "pressure", "not a unit"),
        ("5 K**9**9**9**9", "temperature", "not a unit"), ("10 234 degF", "temperature", "beyond any temperature"),
        ("215 kg/mol", "molar_mass", "beyond any molar mass"), (600, "gas_oil_ratio", "needs its unit"), ("5 m3", "amount", "not a unit"),
        ("5 bar bar", "pressure", "not a unit"), ("5 cSt", "dynamic_viscosity", "unit of a kinematic viscosity"),
        ("5 /bar", "pressure", "not a unit"), ("5 bar^1000", "pressure", "not a unit"), ("5 (((bar", "pressure", "not a unit"),
    ],
)  # fmt: skip
def test_what_has_two_readings_or_none_is_refused_with_what_would_be_right(text, kind, words):
    with pytest.raises(QuantityError) as error:
        parse(text, kind)
    assert words in str(error.value)


@pytest.mark.parametrize(
    ("text", "kind", "other"),
    [
        ("12 Mscf/d", "molar_rate", "12000 scf/day"), ("2 Mbbl", "volume", "2000 bbl"), ("2 MMbbl", "volume", "2e6 bbl"),
        ("3 Mlb", "mass", "3000 lb"), ("3 mt", "mass", "3000 kg"), ("850 barrels", "volume", "35700 gal"),
        ("60 degreeC", "temperature", "333.15 K"), ("333 ° K", "temperature", "333 K"), ("0.86 gr/cc", "density", "860 kg/m3"),
        ("1 MSm3/d", "molar_rate", "1e6 sm3/day"), ("51.4 pcf", "density", "51.4 lb/ft3"), ("24 gpm", "volume_rate", "34560 gal/day"),
        ("45 J/mol K", "entropy", "45 J/(mol·K)"), ("45 J·mol⁻¹·K⁻¹", "entropy", "45 J/mol/K"),
        ("5 lb/in2", "pressure", "5 psia"), ("2000 pounds per square inch", "pressure", "2000 psi"), ("SG = 0.86", "density", "0.86 SG"),
    ],
)  # fmt: skip
def test_spellings_of_the_same_are_the_same(text, kind, other):
    assert parse(text, kind) == pytest.approx(parse(other, kind), rel=1e-12)


def test_standard_cubic_metres_are_at_15_degrees_and_feet_at_60():
    """R T/P at 288.15 K and at 519.67 °R, both at 1 atm."""
    assert parse("1 sm3", "amount") == pytest.approx(101325.0 / (8.31446261815324 * 288.15), rel=1e-12)
    assert parse("1 scf", "amount") == pytest.approx(101325.0 * 0.3048**3 / (8.31446261815324 * 519.67 / 1.8), rel=1e-9)
    # A cubic foot of gas at 60 °F and 14.696 psia is a 379.48th of a pound-mole.
    assert parse("379.48 scf", "amount") == pytest.approx(parse("1 lbmol", "amount"), rel=2e-5)


def test_every_unit_is_read_as_it_is_printed():
    for kind in KINDS.values():
        for unit in kind.units:
            assert parse(f"3 {label(unit)}", kind.name) == pytest.approx(parse(f"3 {unit}", kind.name), rel=1e-12), unit
            assert from_si(
                parse(f"3 {unit}", kind.name), normal_unit(label(unit), kind.name), kind.name
            ) == pytest.approx(3.0, rel=1e-9), unit


@given(st.sampled_from(sorted(KINDS)), st.text(alphabet="abcdefgiklmopsFCKRMPT/*^.-()23 °%", max_size=14))
def test_any_unit_fits_or_does_not(kind, unit):
    assert fits(unit, kind) in (True, False)
    if fits(unit, kind):
        assert math.isfinite(from_si(1.0, unit, kind))
