"""Mixtures that trap an envelope tracer: isomers, azeotropes, nearly pure fluids, second liquids."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.optimize import brentq

from cryonome.components import find
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.phase_map import phase_map, with_fractions
from cryonome.equilibrium.pure import saturation_pressure
from mixtures import equation


def fluid(**amounts: float):
    names = [n.replace("_", "-") if n.startswith(("n_", "o_", "m_", "p_")) else n.replace("_", " ") for n in amounts]
    z = np.array(list(amounts.values()), float)
    return equation([find(n) for n in names]), z / z.sum()


def test_isomers_have_an_envelope_up_to_their_critical_point():
    """Their K values are near one everywhere, so nothing but the volumes tells where the critical point is."""
    eos, z = fluid(o_xylene=50, m_xylene=25, p_xylene=25)
    whole = phase_map(eos, z)
    c = whole.critical_points[0]
    assert 617 < c.T < 631
    assert {p.beta for p in whole.parts} == {0.0, 1.0}
    for T in (400.0, 500.0, 600.0):
        bubble, dew = whole.crossings([0.0], T=T)[0], whole.crossings([1.0], T=T)[0]
        pure = saturation_pressure(eos, [T])
        assert pure.min() < dew.P < bubble.P < pure.max()


def test_an_azeotrope_is_no_critical_point():
    """Ethane and carbon dioxide form one: all K values pass through one while the phases differ in volume."""
    eos = equation([find("ethane"), find("carbon dioxide")])
    shares = np.linspace(0.05, 0.95, 7)
    touching = []
    for x in shares:
        whole = phase_map(eos, np.array([1 - x, x]))
        assert len(whole.critical_points) == 1
        bubble, dew = whole.crossings([0.0], T=250.0), whole.crossings([1.0], T=250.0)
        assert len(bubble) == len(dew) == 1
        touching.append(bubble[0].P - dew[0].P)
    assert min(touching) > -1.0
    assert np.argmin(touching) not in (0, len(shares) - 1)
    highest = max(saturation_pressure(eos, [250.0]))
    azeotrope = shares[int(np.argmin(touching))]
    assert highest < phase_map(eos, np.array([1 - azeotrope, azeotrope])).crossings([0.0], T=250.0)[0].P


def test_a_nearly_pure_fluid_behaves_as_the_pure_one():
    eos, z = fluid(propane=1.0, n_butane=1e-6)
    pure = saturation_pressure(eos, [300.0])[0]
    whole = phase_map(eos, z)
    assert pytest.approx(pure, rel=1e-4) == whole.crossings([0.0], T=300.0)[0].P
    assert pytest.approx(369.83, abs=0.01) == whole.critical_points[0].T


def test_a_line_inside_a_second_liquid_is_told():
    eos, z = fluid(methane=40, n_decane=30, water=30)
    whole = phase_map(eos, z)
    assert {r.code for r in whole.remarks} & {"map.metastable", "map.stuck"}
    seen = 0
    for part, good in zip(whole.parts, whole.stable):
        bad = ~good & (np.abs(part.u[:, :-2]).max(axis=1) > 0.5) & (part.P > 1e4)
        if bad.any():
            seen += int(bad.sum())
            assert flash_pt(eos, part.T[bad], part.P[bad] * 1.001, z).split.all()
    assert seen > 3


def test_lines_added_later_are_those_traced_at_once():
    eos, z = fluid(methane=70, propane=20, n_pentane=10)
    bare = phase_map(eos, z)
    later, at_once = with_fractions(bare, (0.3, 0.6)), phase_map(eos, z, (0.3, 0.6))
    assert with_fractions(later, (0.3,)) is later
    for T in (240.0, 280.0):
        a, b = later.crossings([0.3], T=T), at_once.crossings([0.3], T=T)
        assert [p.P for p in a] == pytest.approx([p.P for p in b], rel=1e-9)
    assert [len(p.u) for p in later.parts] == [len(p.u) for p in at_once.parts]


def test_the_upper_dew_point_of_a_liquid_of_its_own_is_found():
    """Methanol in a gas condenses again at high pressure, from a line that begins where it condenses alone."""
    eos, z = fluid(methane=94, ethane=3, n_hexane=2, methanol=1)
    points = phase_map(eos, z).crossings([1.0], T=280.0)
    assert points[-1].P > 150e5
    assert points[-1].x[-1] > 0.3
    assert not flash_pt(eos, 280.0, points[-1].P * 1.001, z).split
    assert flash_pt(eos, 280.0, points[-1].P * 0.999, z).split


def test_a_liquid_of_its_own_has_its_dew_line_and_extremes_are_of_the_whole():
    """What does not mix with oil condenses alone: by the equality of its fugacities, found without the tracer."""
    eos, z = fluid(methane=94, ethane=3, propane=1.5, n_octane=0.5, water=1)
    whole = phase_map(eos, z)
    T = 320.0
    lowest = whole.crossings([1.0], T=T)[0]
    assert lowest.x[-1] > 0.95
    pure = np.eye(z.size)[-1:]

    def excess(P):
        state = eos.prepare(np.array([T]), np.array([P]))
        vapour, liquid = state.ln_phi(z[None], "vapour")[0], state.ln_phi(pure, "liquid")[0]
        return float(np.log(z[-1]) + vapour[0, -1] - liquid[0, -1])

    # The liquid holds a little of the others, so that it forms a little earlier than the pure one.
    assert brentq(excess, 0.5 * lowest.P, 2.0 * lowest.P) == pytest.approx(lowest.P, rel=0.02)
    assert not flash_pt(eos, T, lowest.P * 0.999, z).split
    assert flash_pt(eos, T, lowest.P * 1.001, z).split
    hottest = max(line.T.max() for line in whole.lines if len(line.u))
    assert whole.cricondentherm is None or hottest - 1e-6 <= whole.cricondentherm.T
