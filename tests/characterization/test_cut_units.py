"""Cuts in degrees Fahrenheit: round numbers there, names of them, and the same oil as in degrees Celsius."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ask import lab_of
from cryonome.characterization import characterize
from cryonome.characterization.cuts import IN_FAHRENHEIT, START, ZERO_F, automatic_boundaries
from cryonome.demo import demo_document
from cryonome.results.correlation_choices import UNTOLD, choice_values

LAB = lab_of(demo_document().sample("Varnholt crude"))


def test_boundaries_are_multiples_of_the_width():
    found = 1.8 * automatic_boundaries(290.0, 1000.0, IN_FAHRENHEIT, ZERO_F) - 459.67
    for low, high, width in ((-100.0, 300.0, 25.0), (300.0, 1000.0, 50.0), (1000.0, 2000.0, 100.0)):
        own = found[(found > low) & (found <= high)]
        assert own / width == pytest.approx(np.round(own / width), abs=1e-6)
        assert len(own) < 2 or np.diff(own).max() == pytest.approx(width)
    celsius = automatic_boundaries(290.0, 700.0) - START
    assert celsius == pytest.approx(np.round(celsius), abs=1e-6)


def test_the_oil_is_the_same_whatever_its_cuts_are_called():
    fahrenheit = characterize(replace(LAB, cuts=replace(LAB.cuts, unit="degF", regions=IN_FAHRENHEIT)))
    usual = characterize(LAB)
    assert all(name.endswith(" °F") for name in fahrenheit.automatic_names)
    assert fahrenheit.automatic_names[2] == "Varnholt crude 100 to 125 °F"
    for key in ("density", "molar_mass", "watson_k"):
        assert getattr(fahrenheit, key) == pytest.approx(getattr(usual, key), rel=1e-9)
    assert [y.volume for y in fahrenheit.yields] == pytest.approx([y.volume for y in usual.yields])


def test_narrow_fractions_add_up_to_the_whole():
    oil = characterize(LAB)
    percent = np.linspace(0.05, 99.95, 1000)
    density = oil.narrow(percent, "volume", "density")
    assert density.mean() == pytest.approx(oil.density, rel=2e-4)
    moles = density / oil.narrow(percent, "volume", "molar_mass")
    assert density.sum() / moles.sum() == pytest.approx(oil.molar_mass, rel=2e-3)
    assert np.all(np.diff(oil.narrow(percent, "volume", "viscosity", 310.95)) > 0.0)


def test_a_choice_of_correlation_is_told_before_it_is_made():
    told = choice_values(LAB)
    assert not set(UNTOLD) & set(told)
    for key, value in told["molar_mass"].items():
        found = characterize(replace(LAB, molar_mass=None, correlations={**LAB.correlations, "molar_mass": key}))
        assert value.value == found.molar_mass
    assert len({round(v.value, 6) for v in told["molar_mass"].values()}) == len(told["molar_mass"])
    assert {v.kind for v in told["Tc"].values()} == {"temperature"}
