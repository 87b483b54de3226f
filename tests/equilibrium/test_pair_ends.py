"""Pairs of conditions at their ends and edges: no vapour and nothing else by volume, components that are not there, and what cannot be asked."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.eos.building import Interaction, equation_of, family_of, volume_shift
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.pair_flash import CONDITIONS, flash_pair
from cryonome.equilibrium.phases import Reason
from cryonome.properties import Substance, evaluate

NAMES = ("methane", "propane", "n-hexane")
COMPONENTS = tuple(map(find, NAMES))
EOS = equation_of("PR78", COMPONENTS, Interaction(library_kij(COMPONENTS, family_of("PR78"))), "published")
SUBSTANCE = Substance(EOS, COMPONENTS, volume_shift("density", "PR78", COMPONENTS, EOS))
Z = np.array([0.5, 0.3, 0.2])


def whole(phases, keys):
    return evaluate(SUBSTANCE, phases, keys).whole


def pair(z=Z, **conditions):
    return flash_pair(EOS, z, conditions, whole)


def test_the_ends_of_a_share_by_volume_are_those_by_mole_and_others_lie_between():
    shares = np.array([0.0, 0.3, 1.0, 0.7])
    found = pair(temperature=np.full(4, 300.0), vapour_volume_fraction=shares).phases
    assert found.converged.all()
    for row, beta in ((0, 0.0), (2, 1.0)):
        other = pair(temperature=300.0, vapour_fraction=beta).phases
        assert found.P[row] == pytest.approx(other.P[0], rel=1e-9)
        assert found.vapour_fraction[row] == pytest.approx(beta, abs=1e-9)
    assert found.P[0] > found.P[1] > found.P[3] > found.P[2]
    np.testing.assert_allclose(whole(found.take(np.array([1, 3])), ("vapour_volume_fraction",))["vapour_volume_fraction"], [0.3, 0.7], atol=1e-9)  # fmt: skip
    alone = pair(temperature=300.0, vapour_volume_fraction=0.3).phases
    assert alone.P[0] == pytest.approx(found.P[1], rel=1e-8)
    by_pressure = pair(pressure=found.P[[0, 1, 2]], vapour_volume_fraction=shares[:3]).phases
    np.testing.assert_allclose(by_pressure.T, 300.0, rtol=1e-6)


def test_components_that_are_not_there_have_no_part_in_the_state():
    only = np.array([0.0, 1.0, 0.0])
    found = pair(only, temperature=300.0, vapour_fraction=0.4).phases
    propane = (COMPONENTS[1],)
    eos = equation_of("PR78", propane, Interaction(np.zeros((1, 1))), "published")
    substance = Substance(eos, propane, volume_shift("density", "PR78", propane, eos))
    alone = flash_pair(eos, [1.0], {"temperature": 300.0, "vapour_fraction": 0.4}, lambda p, k: evaluate(substance, p, k).whole).phases  # fmt: skip
    assert found.P[0] == pytest.approx(alone.P[0], rel=1e-9)
    assert found.composition.shape[-1] == 3
    there = found.composition[0][found.fraction[0] > 0.0]
    np.testing.assert_allclose(there, np.broadcast_to(only, there.shape), atol=1e-12)
    H = whole(found, ("enthalpy",))["enthalpy"][0]
    again = pair(only, pressure=found.P[0], enthalpy=H).phases
    assert again.vapour_fraction[0] == pytest.approx(0.4, abs=1e-6)


def test_feeds_and_conditions_are_broadcast_and_feeds_normalised():
    rows = np.array([[5.0, 3.0, 2.0], [10.0, 6.0, 4.0]])
    found = pair(rows, temperature=300.0, pressure=np.array([2e6, 3e6])).phases
    plain = flash_pt(EOS, [300.0, 300.0], [2e6, 3e6], Z)
    np.testing.assert_allclose(found.vapour_fraction, plain.vapour_fraction, atol=1e-10)
    grid = pair(np.tile(Z, (2, 3, 1)), temperature=np.array([[290.0], [310.0]]), pressure=np.array([1e6, 2e6, 3e6])).phases  # fmt: skip
    assert grid.T.shape == (6,)
    assert grid.T.tolist() == [290.0] * 3 + [310.0] * 3


@pytest.mark.parametrize(
    ("conditions", "words"),
    [
        ({"temperature": 300.0}, "give two of"),
        ({"temperature": 300.0, "pressure": 1e6, "density": 5.0}, "give two of"),
        ({"temperature": 300.0, "colour": 1.0}, "give two of"),
        ({"temperature": 300.0, "vapour_fraction": 1.2}, "the vapour fraction must lie between 0 and 1"),
        ({"temperature": 300.0, "vapour_volume_fraction": -0.1}, "the vapour volume fraction must lie"),
        ({"temperature": -5.0, "pressure": 1e6}, "positive|above"),
        ({"temperature": 300.0, "pressure": 0.0}, "positive|above"),
    ],
)
def test_what_is_no_pair_is_refused(conditions, words):
    with pytest.raises(ValueError, match=words):
        pair(**conditions)
    assert len(CONDITIONS) == len(set(CONDITIONS)) == 8


def test_what_no_state_has_is_said_row_by_row():
    start = flash_pt(EOS, [300.0], [2e6], Z)
    H = float(whole(start, ("enthalpy",))["enthalpy"][0])
    found = pair(pressure=np.array([2e6, 2e6]), enthalpy=np.array([H, 1e8])).phases
    assert found.converged.tolist() == [True, False]
    assert found.reason[1] == Reason.NO_SUCH_STATE
    assert found.T[0] == pytest.approx(300.0, rel=1e-8)
