"""Equations of some of their components: the same as of these alone, and made once."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.eos.building import Interaction, equation_of

PAIRS = Interaction(np.full((4, 4), 0.05) - np.diag(np.full(4, 0.05)), salt=0.0)
PARTS = [find(n) for n in ("methane", "n-hexane", "methanol", "water")]
T, P = np.array([300.0, 350.0]), np.array([5e6, 2e5])


@pytest.mark.parametrize("name", ["PR78", "SRK", "CPA", "PC-SAFT"])
def test_a_subset_is_the_equation_of_its_components_and_is_remembered(name):
    eos, keep = equation_of(name, PARTS, PAIRS), np.array([0, 3])
    part = eos.of(keep)
    assert part is eos.of(np.array([True, False, False, True]))
    assert part is not eos.of(keep[::-1])
    assert type(part) is type(eos)
    x = np.array([[0.3, 0.7], [0.9, 0.1]])
    full = np.zeros((2, 4))
    full[:, keep] = x
    np.testing.assert_allclose(part.prepare(T, P).ln_phi(x)[0], eos.prepare(T, P).ln_phi(full)[0][:, keep], rtol=1e-10)


@pytest.mark.parametrize("name", ["PR78", "CPA", "PC-SAFT"])
def test_with_a_batch_axis_a_subset_is_made_anew(name):
    eos = equation_of(name, PARTS, PAIRS)
    batch = eos.pure()
    assert batch.batched
    assert batch.of(np.array([0])) is not batch.of(np.array([0]))
