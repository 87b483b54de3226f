"""The library of interaction parameters."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.characterization import Known, complete
from cryonome.components import find
from cryonome.eos.interaction import library_kij


def kij(*names: str) -> np.ndarray:
    return library_kij([find(n) for n in names])


def test_the_matrix_is_symmetric_and_does_not_depend_on_order():
    names = ["methane", "carbon dioxide", "n-decane", "hydrogen sulfide", "water", "nitrogen", "methanol", "benzene"]
    k = kij(*names)
    assert (k == k.T).all()
    assert (np.diag(k) == 0).all()
    turned = kij(*reversed(names))
    np.testing.assert_array_equal(turned[::-1, ::-1], k)
    assert np.abs(k).max() < 1.0


def test_measured_pairs_and_the_rule_beside_them():
    assert kij("methane", "carbon dioxide")[0, 1] == 0.0919
    assert kij("nitrogen", "methane")[0, 1] == 0.0311
    # The rule for hydrocarbons, against the measured methane pairs it was fitted to.
    for name, measured in (("n-butane", 0.0133), ("n-pentane", 0.0230), ("n-heptane", 0.0352), ("n-decane", 0.0422)):
        assert kij("methane", name)[0, 1] == pytest.approx(measured, abs=0.008)
    assert kij("n-hexane", "n-heptane")[0, 1] < 1e-3


def test_cuts_and_pseudo_components_count_as_hydrocarbons():
    heavy = complete(Known("X", nbp=600.0, specific_gravity=0.86))
    k = library_kij([find("carbon dioxide"), find("methane"), heavy])
    assert k[0, 2] == 0.115
    assert 0.03 < k[1, 2] < 0.12
    impostor = complete(Known("carbon dioxide", nbp=600.0, specific_gravity=0.86))
    assert library_kij([impostor, find("methane")])[0, 1] < 0.12


def test_one_component_has_a_single_zero():
    assert kij("propane").tolist() == [[0.0]]
