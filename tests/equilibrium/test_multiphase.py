"""Three phases: what they must obey, known systems, and the regions' boundaries."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.eos.building import Interaction, equation_of, family_of
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.phases import Kind
from cryonome.equilibrium.regions import regions
from cryonome.equilibrium.stability import stability

MIXTURES = {
    "oil and water": (("methane", "ethane", "propane", "n-hexane", "n-decane", "carbon dioxide", "water"), (230, 500)),
    "carbon dioxide": (("methane", "carbon dioxide", "hydrogen sulfide", "n-pentane", "n-hexadecane"), (200, 400)),
    "glycol": (("methane", "n-butane", "water", "methanol", "triethylene glycol"), (230, 450)),
    "cold": (("nitrogen", "methane", "ethane", "propane", "n-hexane"), (110, 250)),
}


def made(names, form="PR78"):
    parts = [find(n) for n in names]
    return equation_of(form, parts, Interaction(library_kij(parts, family_of(form)), salt=0.0))


@pytest.mark.parametrize("name", MIXTURES)
def test_random_states_obey_what_an_equilibrium_must(name):
    names, (cold, hot) = MIXTURES[name]
    eos = made(names)
    n, rng = 500, np.random.default_rng(3)
    T, P = rng.uniform(cold, hot, n), 10 ** rng.uniform(5, 7.7, n)
    z = rng.dirichlet(np.full(len(names), 0.7), n)
    found = flash_all(eos, T, P, z)
    assert found.converged.all()
    assert np.einsum("nk,nki->ni", found.fraction, found.composition) == pytest.approx(z, abs=1e-12)
    assert found.residual.max() < 1e-9
    assert (found.count == 3).any()
    # Fugacities anew, phase by phase.
    state = eos.prepare(T, P)
    ln_f = np.stack([np.log(np.maximum(x, 1e-300)) + state.ln_phi(x)[0] for x in np.where(
        found.present[:, :, None], found.composition, found.composition[:, :1]).swapaxes(0, 1)])  # fmt: skip
    assert np.where(z > 1e-200, ln_f.max(axis=0) - ln_f.min(axis=0), 0.0).max() < 1e-8
    # No phase that could join would lower the Gibbs energy.
    largest = found.composition[np.arange(n), np.argmax(found.fraction, axis=1)]
    assert stability(eos, T, P, largest, every_trial=True).tm.min() > -1e-8
    # Where two phases are enough they are those of the two-phase flash, and what changed has less Gibbs energy.
    two = flash_pt(eos, T, P, z)
    same = (found.count == two.count) & (np.abs(found.fraction[:, 0] - two.fraction[:, 0]) < 1e-8)
    other = np.flatnonzero(~same & two.converged)
    assert (gibbs(eos, found, other) < gibbs(eos, two, other) + 1e-10).all()


def gibbs(eos, phases, rows):
    """Return the Gibbs energy over R T but for the pure components' (n,)."""
    out = np.zeros(rows.size)
    state = eos.prepare(phases.T[rows], phases.P[rows])
    for k in range(phases.kind.shape[-1]):
        x = np.where(phases.present[rows, k, None], phases.composition[rows, k], phases.z[rows])
        share = np.where(phases.present[rows, k], phases.fraction[rows, k], 0.0)
        out += share * (x * (np.log(np.maximum(x, 1e-300)) + state.ln_phi(x)[0])).sum(axis=-1)
    return out


def test_known_kinds_of_equilibria():
    eos = made(("methane", "n-decane", "water"))
    for z, T, P, kinds in (
        ((0.5, 0.3, 0.2), 300.0, 5e6, "VLA"), ((0.5, 0.3, 0.2), 300.0, 6e7, "LA"), ((0.8, 0.0, 0.2), 300.0, 5e6, "VA"),
        ((0.0, 0.8, 0.2), 300.0, 1e5, "LA"), ((0.5, 0.3, 0.2), 600.0, 1e5, "V"), ((0.5, 0.49999, 1e-5), 330.0, 5e6, "VL"),
    ):  # fmt: skip
        found = flash_all(eos, [T], [P], z)
        water = (found.composition[0, :, 2] > 0.5) & (found.kind[0] == Kind.LIQUID)
        told = "".join("A" if w else "VL"[k] for k, w in zip(found.kind[0], water) if k != Kind.ABSENT)
        assert sorted(told) == sorted(kinds), (z, T, P)


@pytest.mark.parametrize(
    ("names", "T", "P", "z", "count"),
    [
        # A trial in a phase other than the largest, and two of three phases next to their critical point.
        (
            ("triethylene glycol", "water", "n-pentane", "benzene", "n-decane"),
            208.735,
            8.29764e6,
            (0.006, 0.1316, 0.3033, 0.1902, 0.3689),
            2,
        ),
        (
            ("n-hexadecane", "methane", "propane", "water"),
            482.4294,
            1.149085e7,
            (0.02203, 0.01819, 0.10204, 0.85774),
            3,
        ),
        (("n-hexadecane", "methane", "propane", "water"), 274.895, 7.27583e5, (0.02034, 0.13055, 0.0279, 0.82121), 3),
    ],
)
def test_phases_that_hide_are_found(names, T, P, z, count):
    eos = made(names)
    found = flash_all(eos, [T], [P], z)
    assert found.converged.all()
    assert found.count[0] == count
    largest = found.composition[:, np.argmax(found.fraction[0])]
    assert stability(eos, np.array([T]), np.array([P]), largest, every_trial=True).tm[0] > -1e-9


def test_water_does_not_hide_the_oil_it_boils_above():
    """Beside its vapour and free water, an oil lighter than water still condenses where its own dew point is passed."""
    eos = made(("n-butane", "n-hexane", "n-heptane", "toluene", "n-octane", "water"))
    oil = np.array([0.12, 0.22, 0.13, 0.30, 0.23])
    T, P = np.full(30, 310.95), np.geomspace(12e3, 90e3, 30)
    found = flash_all(eos, T, P, np.append(0.5 * oil, 0.5))
    # Immiscible liquids, each by its own two-phase flash at the pressure the vapour leaves it.
    vapour = found.composition[:, 0]
    alone = flash_pt(eos, T, P * (1.0 - vapour[:, -1]), np.append(oil, 0.0))
    wet = found.present[:, 0] & (found.fraction[:, 0] < 1.0)
    assert ((found.count == 3) == (alone.split & wet))[wet & (vapour[:, -1] < 0.4)].all()
    both = (found.count == 3) & alone.split
    assert both.sum() > 10
    gone = found.fraction[:, 0] * (1.0 - vapour[:, -1]) / 0.5
    assert gone[both] == pytest.approx(alone.vapour_fraction[both], abs=4e-3)


def test_a_batch_is_its_states_one_by_one():
    eos = made(MIXTURES["oil and water"][0])
    rng = np.random.default_rng(8)
    T, P, z = rng.uniform(280, 420, 15), 10 ** rng.uniform(5.5, 7.2, 15), rng.dirichlet(np.ones(7), 15)
    found = flash_all(eos, T, P, z)
    for row in range(15):
        one = flash_all(eos, T[row], P[row], z[row])
        assert one.fraction == pytest.approx(found.fraction[row], abs=1e-8)


def test_the_boundaries_of_regions_are_where_a_phase_begins():
    eos, z = made(("methane", "n-hexane", "water")), np.array([0.6, 0.25, 0.15])
    found = regions(eos, z, 2)
    assert found.aqueous
    assert found.three
    for lines, kinds in ((found.aqueous, "aqueous"), (found.three, "three")):
        T, P = (np.concatenate([line[k] for line in lines]) for k in (0, 1))
        inner = (T > 235.0) & (T < 630.0) & (P > 2.2e4) & (P < 9e7)
        T, P = T[inner], P[inner]
        # Beside the line the phase is there on one side, and not on the other.
        sides = []
        for dT, dP in ((1e-3, 0.0), (-1e-3, 0.0), (0.0, 3e-3), (0.0, -3e-3)):
            state = flash_all(eos, T * (1 + dT), P * np.exp(dP), z)
            water = ((state.composition[:, :, 2] > 0.5) & (state.kind == Kind.LIQUID)).any(axis=1)
            sides.append(water if kinds == "aqueous" else state.count == 3)
        mixed = np.any(sides, axis=0) & ~np.all(sides, axis=0)
        assert mixed.all()
