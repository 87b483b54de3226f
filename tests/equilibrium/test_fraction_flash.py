"""Flashes at a given vapour fraction: shapes, refusals, retrograde solutions, pure fluids."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.equilibrium.fraction_flash import flash_fraction
from cryonome.equilibrium.phase_map import phase_map
from mixtures import equation, mixture


def test_shapes_broadcast_and_feeds_may_differ():
    eos, z = mixture("lean gas")
    feeds = np.stack([z, np.roll(z, 1)])
    r = flash_fraction(eos, feeds[:, None, :], [0.2, 0.5, 0.8], P=2e6)
    assert r.T.shape == (2, 3)
    assert r.heavy.shape == (2, 3, z.size)
    assert r.converged.all()
    assert (np.diff(r.T, axis=1) > 0).all()  # more vapour needs more heat
    balance = np.einsum("abp,abpj->abj", r.fraction, r.composition)
    np.testing.assert_allclose(balance[0], np.broadcast_to(z, (3, z.size)), atol=1e-9)


def test_what_cannot_be_asked_is_refused():
    eos, z = mixture("lean gas")
    with pytest.raises(ValueError, match="exactly one"):
        flash_fraction(eos, z, 0.5)
    with pytest.raises(ValueError, match="exactly one"):
        flash_fraction(eos, z, 0.5, T=200.0, P=1e5)
    with pytest.raises(ValueError, match="between 0 and 1"):
        flash_fraction(eos, z, 1.5, T=200.0)
    with pytest.raises(ValueError, match="temperature"):
        flash_fraction(eos, z, 0.5, T=0.0)


def test_beyond_the_envelope_there_is_none_and_it_is_said():
    eos, z = mixture("lean gas")
    top = phase_map(eos, z).cricondentherm.T
    r = flash_fraction(eos, z, [0.0, 1.0], T=top + 1.0)
    assert not r.converged.any()
    assert np.isnan(r.P).all()


def test_of_two_dew_points_the_lower_is_meant_and_the_map_gives_both():
    eos, z = mixture("condensate")
    whole = phase_map(eos, z)
    T = 0.3 * whole.critical_points[0].T + 0.7 * whole.cricondentherm.T
    both = whole.crossings([1.0], T=T)
    assert len(both) == 2
    r = flash_fraction(eos, z, 1.0, T=T)
    assert float(r.P) == pytest.approx(both[0].P, rel=1e-8)


def test_a_pure_fluid_has_one_pressure_for_every_fraction():
    eos = equation([find("n-butane")])
    r = flash_fraction(eos, np.ones(1), [0.0, 0.4, 1.0], T=300.0)
    assert r.converged.all()
    assert pytest.approx(np.full(3, r.P[0])) == r.P
    assert r.P[0] == pytest.approx(0.2576e6, rel=0.015)


def test_dew_points_below_the_traced_pressures_are_found_too():
    eos, z = mixture("wide binary")
    whole = phase_map(eos, z)
    for T in (280.0, 310.0, 350.0):
        points = whole.crossings([0.0, 1.0], T=T)
        assert [p.beta for p in points] == [1.0, 0.0]
        dew = points[0]
        # Nearly ideal there: the decane alone is at its vapour pressure.
        from cryonome.equilibrium.pure import saturation_pressure

        assert dew.P * z[1] == pytest.approx(saturation_pressure(eos, [T])[1], rel=0.03)
        back = whole.crossings([1.0], P=dew.P)
        assert any(pytest.approx(T, rel=1e-8) == p.T for p in back)
