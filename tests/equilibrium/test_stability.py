"""The stability test, and the linear algebra under it."""

from __future__ import annotations

import numpy as np
import pytest

import cryonome
from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.stability import stability
from cryonome.equilibrium.wilson import wilson_ln_k
from mixtures import mixture
from reference import ln_phi


@pytest.mark.parametrize("name", ["lean gas", "sour gas", "wide binary", "crude"])
def test_a_feed_is_unstable_inside_its_envelope_only(name):
    eos, z = mixture(name)
    whole = phase_map(eos, z)
    c = whole.critical_points[0]
    therm = whole.cricondentherm
    T = np.array([therm.T * 1.01, therm.T * 0.99, c.T * 0.97, c.T * 0.97])
    top = whole.crossings([0.0], T=c.T * 0.97)[-1].P
    P = np.array([therm.P, therm.P, top * 1.02, top * 0.98])
    result = stability(eos, T, P, np.stack([z] * 4), every_trial=True)
    assert result.converged.all()
    assert result.unstable.tolist() == [False, True, False, True]
    assert (result.tm[[0, 2]] >= -1e-12).all()


def test_a_shallow_minimum_beside_the_feed_is_not_passed():
    """Close to its critical point a dense gas condensate is unstable by a millionth, and each state finds that."""
    fluid = cryonome.open_demo().fluid("Quillmoor reservoir gas")
    for T in (303.0, 320.0):
        dew = fluid.envelope().crossings([1.0], T=T)[-1].P
        P = dew * np.linspace(0.998, 0.9995, 601)
        result = stability(fluid.model.eos, np.full(P.size, T), P, np.tile(fluid.z, (P.size, 1)))
        assert result.unstable.all()
        # The distance is smooth along the isotherm: no state stops in another basin.
        assert np.abs(np.diff(result.tm, 2)).max() < 1e-9


def test_the_trial_found_is_a_stationary_point_of_the_distance():
    """ln W + ln phi(W) - d is the same for all components there, and tm follows from it (Michelsen 1982, eq. 24)."""
    eos, z = mixture("aromatic")
    c = phase_map(eos, z).critical_points[0]
    # So near the critical point that no descent stops early at a large negative distance.
    T, P = c.T * 0.9995, c.P * 0.998
    result = stability(eos, np.array([T]), np.array([P]), z[None], every_trial=True)
    W = result.W[0]
    d = np.log(z) + ln_phi(eos, T, P, z)[0].real
    height = np.log(W) + ln_phi(eos, T, P, W)[0].real - d
    assert np.abs(height).max() < 1e-6
    assert result.tm[0] == pytest.approx(1.0 - W.sum(), abs=1e-9)
    assert result.unstable[0]
    assert result.tm[0] < 0


def test_wilsons_ratios_are_one_at_the_critical_point_and_vapour_pressure_ratios_elsewhere():
    eos, _ = mixture("lean gas")
    at_critical = wilson_ln_k(eos.Tc[:1], eos.Pc[:1], eos.omega[:1], eos.Tc[:1], eos.Pc[:1])
    assert at_critical[0, 0] == pytest.approx(0.0, abs=1e-12)
    at_07 = wilson_ln_k(eos.Tc[:1], eos.Pc[:1], eos.omega[:1], 0.7 * eos.Tc[:1], eos.Pc[:1])
    assert at_07[0, 0] / np.log(10) == pytest.approx(-(1 + eos.omega[0]), rel=1e-3)
