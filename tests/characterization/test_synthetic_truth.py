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
