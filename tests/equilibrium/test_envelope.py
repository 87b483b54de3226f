"""Envelopes, critical points, extremes and saturation points against flashes, identities and published values."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.equilibrium.critical import critical_point
from cryonome.equilibrium.envelope import MET, trace
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.fraction_flash import flash_fraction
from cryonome.equilibrium.line_starts import STARTS, dew_starts
from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.quality import compositions, correct
from cryonome.equilibrium.stability import stability
from cryonome.fluids.map_lines import smooth
from cryonome.watch import Cancelled, Watch
from mixtures import NAMES, equation, mixture


@pytest.mark.parametrize("name", NAMES)
def test_lines_part_one_phase_from_two(name):
    eos, z = mixture(name)
    whole = phase_map(eos, z, (0.5,))
    assert whole.critical_points
    wrong, points = 0, 0
    for part, stable in zip(whole.parts, whole.stable):
        rows = np.arange(0, len(part.u), 3)
        spread = np.abs(part.u[rows, :-2]).max(axis=1)
        rows = rows[(spread > 0.3) & (part.P[rows] > 2e4) & (part.P[rows] < 1e8)]
        T, P, good = part.T[rows], part.P[rows], stable[rows]
        if not rows.size:
            continue
        if part.beta == 0.5:
            off = np.flatnonzero(np.abs(flash_pt(eos, T, P, z).light_fraction - 0.5) > 1e-8)
            if off.size:
                # The flash may find another pair only where the line's own phases are unstable: a second liquid forms.
                light, heavy = compositions(part.u[rows[off]], z, np.full(off.size, 0.5))
                either = [stability(eos, T[off], P[off], x).unstable for x in (light, heavy)]
                assert np.any(either, axis=0).all()
            continue
        around = [flash_pt(eos, T * a, P * b, z).split for a, b in ((1.001, 1), (0.999, 1), (1, 1.003), (1, 0.997))]
        everywhere = np.all(around, axis=0)
        # A stable point parts one phase from two; at a metastable one the feed has split already.
        here = flash_pt(eos, T, P, z).split
        wrong += int((~np.where(good, np.any(around, axis=0) & ~everywhere, here)).sum())
        points += rows.size
    assert points > 10
    assert wrong == 0


APART = {"condensate", "carbon dioxide flood", "hydrogen"}
"""Mixtures whose dew and bubble line do not meet."""


def off_the_line(points, line):
    """Return how far points (n, 2) of ln T and ln P lie off a smooth line through others (m, 2), in usual steps."""
    scale = np.array([40.0, 4.0])
    line = np.log(np.column_stack(smooth(*np.exp(line).T, between=8)))
    a, b = line[:-1] * scale, line[1:] * scale
    away = []
    for point in points * scale:
        along = np.clip(((point - a) * (b - a)).sum(axis=1) / ((b - a) ** 2).sum(axis=1), 0.0, 1.0)
        away.append(np.linalg.norm(a + along[:, None] * (b - a) - point, axis=1).min())
    return np.array(away)


@pytest.mark.parametrize("name", NAMES)
def test_a_line_traced_from_both_ends_is_the_one_traced_from_the_dew_side(name):
    eos, z = mixture(name)
    z = z / z.sum()
    dews = dew_starts(eos, z, STARTS)[:1]
    both, rest = trace(eos, z, np.array([1.0, 0.0]), np.zeros(2, dtype=bool), dews=dews)
    (alone,) = trace(eos, z, np.array([1.0]), np.zeros(1, dtype=bool))
    assert (rest.reason == MET) == (name not in APART)
    if name in APART:
        assert len(both.u) == len(alone.u)  # the dew line is traced as if there were no other
        return
    assert len(rest.u) == 0
    assert (both.side[0], both.side[-1]) == (alone.side[0], -1.0)
    # Beside the critical point a line bends too sharply to be compared between its points.
    for one, other in ((both, alone), (alone, both)):
        compared = one.u[(other.P[-1] < one.P) & (np.abs(one.u[:, :-2]).max(axis=1) > 0.5)]
        assert off_the_line(compared[:, -2:], other.u[:, -2:]).max() < 0.05
    # Every point satisfies the equations of the line of fraction one.
    again = correct(eos, np.tile(z, (len(both.u), 1)), np.ones(len(both.u)), both.u, np.full(len(both.u), z.size), 2,
                    light=both.volume)  # fmt: skip
    far = np.abs(both.u[:, :-2]).max(axis=1) > 0.3
    assert np.abs(again.u - both.u)[far].max() < 1e-7


@pytest.mark.parametrize("name", NAMES)
def test_extremes_are_turning_points_and_nothing_lies_beyond(name):
    eos, z = mixture(name)
    whole = phase_map(eos, z)
    therm = whole.cricondentherm
    assert max(p.T.max() for p in whole.parts if len(p.u)) - 1e-6 <= therm.T
    beyond = flash_pt(eos, therm.T * (1 + 1e-6), therm.P * np.geomspace(0.5, 2.0, 41), z)
    assert not beyond.split.any()
    assert flash_pt(eos, therm.T * (1 - 1e-5), therm.P, z).split
    pairs = whole.crossings([0.0, 1.0], T=therm.T * (1 - 1e-6))
    assert len(pairs) >= 2
    bar = whole.cricondenbar
    if bar is not None and not any(r.code == "map.pressure_limit" for r in whole.remarks):
        assert not flash_pt(eos, bar.T, bar.P * (1 + 1e-6), z).split
        assert flash_pt(eos, bar.T, bar.P * (1 - 1e-5), z).split


def test_published_critical_point_of_a_natural_gas():
    """Seven components with the SRK equation, Michelsen, Fluid Phase Equilib. 4, 1 (1980): 203.13 K, 58.11 atm.

    His pure constants are of older tables, hence the tolerance.
    """
    names = ("methane", "ethane", "propane", "n-butane", "n-pentane", "n-hexane", "nitrogen")
    eos = equation([find(n) for n in names], "SRK")
    eos = type(eos)(eos.form, eos.Tc, eos.Pc, eos.omega, np.zeros_like(eos.kij))
    z = np.array([0.9430, 0.0270, 0.0074, 0.0049, 0.0027, 0.0010, 0.0140])
    point = phase_map(eos, z).critical_points[0]
    assert pytest.approx(203.13, abs=0.25) == point.T
    assert pytest.approx(58.11, abs=0.25) == point.P / 101325.0


def test_a_binary_tends_to_its_pure_critical_points():
    eos = equation([find("ethane"), find("n-butane")])
    for i, c in enumerate((find("ethane"), find("n-butane"))):
        z = np.full(2, 1e-6)
        z[i] = 1 - 1e-6
        point = critical_point(eos, z, c.Tc * 1.01, c.Pc * 1.01)
        assert point is not None
        assert pytest.approx(c.Tc, rel=1e-5) == point.T
        assert pytest.approx(c.Pc, rel=1e-4) == point.P


def test_saturation_next_to_the_critical_point_meets_it():
    eos, z = mixture("close binary")
    whole = phase_map(eos, z)
    c = whole.critical_points[0]
    for dT in (-0.02, -1e-3, 1e-3, 0.02):
        upper = whole.crossings([0.0, 1.0], T=c.T + dT)[-1]
        assert pytest.approx(c.P, rel=2e-4) == upper.P
        assert upper.beta == (0.0 if dT < 0 else 1.0)


@pytest.mark.parametrize("fraction", [0.0, 0.35, 1.0])
@pytest.mark.parametrize("name", ["sour gas", "aromatic", "crude"])
def test_flash_at_a_fraction_agrees_with_flash_at_pressure(name, fraction):
    eos, z = mixture(name)
    whole = phase_map(eos, z, (fraction,))
    T = np.linspace(0.68, 0.84, 6) * whole.cricondentherm.T
    r = flash_fraction(eos, z, fraction, T=T[:, None])
    assert r.P.shape == (6, 1)
    there = np.array([bool(whole.crossings([fraction], T=t)) for t in T])
    assert there.sum() >= 5
    np.testing.assert_array_equal(r.converged[:, 0], there)
    # A little inside the envelope, where the flash at pressure has two phases; near the critical point that is much.
    inside = 1.0 + 1e-6 * ((fraction == 1.0) - (fraction == 0.0))
    bound = 1e-9 if fraction == 0.35 else 1e-4
    P = r.P[there, 0]
    assert np.abs(flash_pt(eos, T[there], P * inside, z).light_fraction - fraction).max() < bound
    back = flash_fraction(eos, z, fraction, P=P)
    assert back.converged.all()
    # A pressure may have two temperatures of this fraction: what comes back is one of them.
    assert np.abs(flash_pt(eos, back.T, P * inside, z).light_fraction - fraction).max() < bound


def test_pure_fluid_has_its_vapour_pressure_curve():
    eos = equation([find("propane")])
    whole = phase_map(eos, np.ones(1))
    assert whole.critical_points[0].T == 369.83
    point = whole.crossings([0.0], T=300.0)[0]
    assert pytest.approx(0.998e6, rel=0.015) == point.P
    assert whole.crossings([0.0, 1.0], T=400.0) == []
    assert pytest.approx(find("propane").nbp, abs=0.3) == whole.crossings([1.0], P=101325.0)[0].T


def test_cancelling_stops_the_trace():
    eos, z = mixture("crude")
    asked = []
    for limit in (0, 3, 12):
        asked.clear()
        with pytest.raises(Cancelled):
            phase_map(eos, z, (0.5,), Watch(lambda most=limit: asked.append(1) or len(asked) > most))
        assert len(asked) == limit + 1
    told = []
    phase_map(eos, z, (0.5,), Watch(tell=told.append))
    assert told == sorted(told)
    assert 0.9 < told[-1] <= 1.0
