"""Mixtures whose composition is known come back from their curves."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
import pytest

sys.path.insert(0, str(Path(__file__).parents[2] / "benchmarks"))

from cryonome.characterization import characterize
from synthetic import answers, deviations, measured, mixture


@pytest.mark.parametrize("seed", [0, 3, 20])
@pytest.mark.parametrize("curves", [True, False])
def test_a_known_mixture_is_found_again(seed, curves):
    truth = mixture(seed)
    assert 15 <= len(truth.components) <= 25
    off = np.abs(deviations(truth, characterize(measured(truth, curves, {})), answers(truth.components, truth.z)))
    assert off[7] < 0.1  # density
    assert off[8] < 0.1  # molar mass
    assert off[:2].max() < (3.5 if curves else 6.0)  # bubble pressures, %
    assert off[2:7].mean() < (0.6 if curves else 3.0)  # vapour fractions, points of percent


def test_the_table_of_correlations_in_the_docs_is_the_present_one():
    import tables

    assert (tables.DOCS / "correlations.md").read_text(encoding="utf-8") == tables.correlations_page()


@pytest.mark.parametrize("prop", ["molar_mass", "Tc", "Pc", "omega", "Vc", "cp"])
def test_the_usual_choice_is_good_for_every_family(prop):
    import tables
    from cryonome.characterization.correlations import DEFAULTS

    limits = {"molar_mass": 2.5, "Tc": 1.2, "Pc": 5.5, "omega": 2.0, "Vc": 9.0, "cp": 6.5}
    for family in tables.FAMILIES:
        off = np.abs(tables.deviations(prop, DEFAULTS[prop], tables.pure(family)))
        assert off.mean() < limits[prop], (family, off.mean())
