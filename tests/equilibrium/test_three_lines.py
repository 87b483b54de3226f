"""Lines of three phases: equal fugacities, the right number of phases on both sides, critical end points, and the vapour
fraction that they say."""

import numpy as np
import pytest
from wet_maps import drawn, random_fluid

from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.phases import Kind

CONDENSATE = ["methane", "ethane", "propane", "n-pentane", "n-heptane", "n-decane", "water"]


@pytest.fixture(scope="module", params=["PR78", "CPA"])
def condensate(request):
    return drawn(CONDENSATE, np.array([70.0, 8.0, 6.0, 4.0, 4.0, 3.0, 5.0]), request.param, (0.5, 0.9))


def test_boundaries_are_states_of_three_phases_of_which_one_is_gone(condensate):
    assert {b.gone for b in condensate.found.bounds} == {Kind.VAPOUR, Kind.LIQUID, Kind.AQUEOUS}
    for b in condensate.found.bounds:
        at = condensate.eos.prepare(b.T, b.P)
        ln_f = [at.ln_phi(b.states.composition[:, k])[0] + np.log(b.states.composition[:, k]) for k in range(3)]
        for k in (1, 2):
            np.testing.assert_allclose(ln_f[k], ln_f[0], atol=2e-7)
        share = np.where(b.states.kind == b.gone, b.states.fraction, np.nan)
        assert np.nanmax(share) < 1e-9 or b.T.size < 3
        whole = (b.states.fraction[..., None] * b.states.composition).sum(axis=1)
        np.testing.assert_allclose(whole, np.tile(condensate.z, (b.T.size, 1)), atol=1e-8)


def test_lines_go_on_from_one_another_at_corners_and_critical_end_points(condensate):
    (corner,), (end,) = condensate.found.corners, condensate.found.ends
    ends = {b.gone: [(b.T[k], b.P[k]) for k in (0, -1)] for b in condensate.found.bounds if b.gone != Kind.VAPOUR}
    for gone in (Kind.LIQUID, Kind.AQUEOUS):
        assert min(abs(T / corner[0] - 1.0) + abs(P / corner[1] - 1.0) for T, P in ends[gone]) < 1e-9
    # There the feed is on its dew line with both liquids at once.
    found = flash_all(condensate.eos, [corner[0] * 1.001], [corner[1]], condensate.z)
    assert found.count[0] == 1
    oil = next(b for b in condensate.found.bounds if b.gone == Kind.LIQUID)
    # Oil and vapour are one at the critical end point: what is gone has the composition of what is there.
    k = int(np.argmin(np.abs(oil.T - end[0])))
    x = oil.states.composition[k]
    assert np.abs(np.log(x[0] / x[1])[:6]).max() < 0.3


def test_lines_of_one_vapour_fraction_go_through_three_phases(condensate):
    assert {f for f, _ in condensate.found.quality} == {0.5, 0.9}
    for fraction, states in condensate.found.quality:
        # Next to the critical end point a flash sees vapour and oil as one.
        apart = np.abs(np.log(states.composition[:, 0] / states.composition[:, 1])).max(axis=1) > 0.15
        rows = np.flatnonzero((states.T > 235.0) & (states.P > 1e5) & apart)[::6]
        found = flash_all(condensate.eos, states.T[rows], states.P[rows], condensate.z)
        np.testing.assert_allclose(found.vapour_fraction, fraction, atol=2e-6)
        assert (found.count == 3).all()


def test_on_both_sides_of_every_line_of_wet_fluids_the_number_of_phases_differs():
    rng = np.random.default_rng(11)
    for k in range(6):
        names, z = random_fluid(rng)
        bad, count = drawn(names, z, "CPA" if k % 2 else "PR78").wrong(8)
        assert not bad, (names, z.tolist(), bad)
        assert count > 6


def test_liquids_that_part_in_the_cold_have_their_region_however_thin():
    """Methane, ethane and n-octane: Kohn and Luks' measurements have three phases between 190 and 200 K."""
    cold = drawn(["methane", "ethane", "n-octane"], np.array([93.0, 4.0, 3.0]), "PR78")
    assert any(193.0 < T < 201.0 and 4.6e6 < P < 5.6e6 for T, P in cold.found.ends)
    bounds = [b for b in cold.found.bounds if b.T.max() > 190.0]
    assert {b.gone for b in bounds} == {Kind.VAPOUR, Kind.LIQUID}
    # Between the two boundaries there are three phases.
    T, gas, oil = 194.0, *(next(b for b in bounds if b.gone == k) for k in (Kind.VAPOUR, Kind.LIQUID))
    P = [float(np.interp(T, b.T[np.argsort(b.T)], b.P[np.argsort(b.T)])) for b in (gas, oil)]
    assert flash_all(cold.eos, [T], [float(np.mean(P))], cold.z).count[0] == 3
    flood = drawn(
        ["carbon dioxide", "methane", "n-butane", "n-decane", "n-hexadecane"], np.array([75.0, 5, 5, 10, 5]), "PR78"
    )
    assert not flood.wrong(8)[0]
    assert len(flood.found.corners) == 1
