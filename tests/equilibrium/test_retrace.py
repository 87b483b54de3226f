"""An envelope moved to a fluid that changed a little is the one traced anew; where it cannot be, nothing is returned."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.retrace import retraced, with_moved_fractions
from mixtures import NAMES, mixture

INNER = (0.25, 0.75)
FOLLOWED = {"lean gas", "condensate", "liquefied gas", "close binary", "crude"}
"""Mixtures all of whose changes are followed; lines of the others may end in the cold or where a second liquid forms."""


def changes(eos, z):
    """Return three small changes of a fluid: an interaction parameter, an amount, critical temperatures."""
    pair = np.zeros_like(eos.kij)
    pair[0, -1] = pair[-1, 0] = 0.01
    more = np.where(np.arange(z.size) == 1, 1.01, 1.0) * z
    return (
        (replace(eos, kij=eos.kij + pair), z),
        (eos, more / more.sum()),
        (replace(eos, Tc=eos.Tc * np.where(eos.Tc > np.median(eos.Tc), 1.01, 1.0)), z),
    )


@pytest.fixture(scope="module")
def moved():
    """Every mixture with its envelope, and each of its changes moved and traced anew."""
    out = []
    for name in NAMES:
        eos, z = mixture(name)
        old = phase_map(eos, z, INNER)
        out += [(name, old, e, x, retraced(e, x, old), phase_map(e, x)) for e, x in changes(eos, z)]
    return out


def test_a_moved_envelope_is_the_traced_one(moved):
    there = [(name, old, new, fresh) for name, old, _, _, new, fresh in moved if new is not None]
    assert not {name for name, _, _, _, new, _ in moved if new is None} & FOLLOWED
    for name, _old, new, fresh in there:
        assert len(new.critical_points) == len(fresh.critical_points), name
        for a, b in zip(new.critical_points, fresh.critical_points):
            assert pytest.approx((b.T, b.P), rel=1e-7) == (a.T, a.P)
        for a, b in ((new.cricondentherm, fresh.cricondentherm), (new.cricondenbar, fresh.cricondenbar)):
            assert (a is None) == (b is None), name
            if a is not None:
                assert pytest.approx((b.T, b.P), rel=1e-7) == (a.T, a.P)
        # Temperatures the lines meet: the same pressures, whichever lines they are found on.
        for T in np.linspace(0.6, 0.95, 4) * fresh.critical_points[0].T:
            ours, theirs = (sorted(p.P for p in m.crossings([0.0, 1.0], T=float(T)) if p.P > 1e4) for m in (new, fresh))
            assert pytest.approx(theirs, rel=1e-8) == ours, (name, T)


def test_moved_quality_lines_keep_their_fraction(moved):
    for name, old, eos, z, new, _ in moved:
        if name not in FOLLOWED - {"liquefied gas"}:
            continue
        both = with_moved_fractions(new, old, INNER)
        lines = [line for line in both.lines if line.beta in INNER]
        assert len(lines) == len(INNER)
        for line in lines:
            rows = np.arange(1, len(line.u) - 4, 6)
            state = flash_pt(eos, line.T[rows], line.P[rows], z)
            assert np.abs(state.light_fraction - line.beta).max() < 1e-7


def test_another_fluid_is_not_followed():
    eos, z = mixture("condensate")
    old = phase_map(eos, z)
    assert retraced(replace(eos, Tc=1.3 * eos.Tc), z, old) is None
    assert retraced(eos, np.where(z == z.max(), 0.0, z), old) is None
    assert retraced(eos.of(np.arange(3)), z[:3], old) is None
