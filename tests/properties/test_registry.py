"""Properties of phases and of the whole: measured heats, thermodynamic identities, sums."""

from __future__ import annotations

import numpy as np
import pytest

from ask import fluid_of
from cryonome.components import find
from cryonome.demo import demo_document
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.pure import boiling_temperature
from cryonome.fluids.states import full_states
from cryonome.properties import PROPERTIES, Substance, evaluate
from cryonome.units import KINDS
from cryonome.units.endings import kind_of_key
from mixtures import equation


def substance(name: str) -> Substance:
    """Return a pure component."""
    c = find(name)
    return Substance(equation([c]), [c], np.zeros(1))


@pytest.fixture(scope="module")
def crude():
    return fluid_of(demo_document(), 2)


@pytest.mark.parametrize(
    ("name", "heat"), [("propane", 18.77e3), ("n-hexane", 28.85e3), ("benzene", 30.72e3), ("n-octane", 34.41e3)]
)
def test_heats_of_vaporization_are_those_measured(name, heat):
    """Majer and Svoboda, *Enthalpies of Vaporization of Organic Compounds* (1985), J/mol at 1 atm."""
    own = substance(name)
    T = float(boiling_temperature(own.eos, 101325.0)[0])
    phases = flash_pt(own.eos, np.array([T - 1e-5, T + 1e-5]), 101325.0, np.ones(1))
    values = evaluate(own, phases, ("enthalpy", "entropy"))
    h, s = values.whole["enthalpy"], values.whole["entropy"]
    assert h[1] - h[0] == pytest.approx(heat, rel=0.025)
    # Equal Gibbs energies at the boiling point.
    assert T * (s[1] - s[0]) == pytest.approx(h[1] - h[0], rel=1e-5)


@pytest.mark.parametrize(("name", "rise"), [("methane", 3861.0), ("nitrogen", 2971.0), ("carbon dioxide", 4003.0)])
def test_enthalpy_of_a_thin_gas_above_the_reference_is_the_tables(name, rise):
    """From 298.15 to 400 K, J/mol (Chase, NIST-JANAF tables, 4th edition, 1998); zero at the reference. The
    heat capacities are polynomials good to some 1.5 %."""
    own = substance(name)
    phases = flash_pt(own.eos, np.array([298.15, 400.0]), 1.0, np.ones(1))
    h = evaluate(own, phases, ("enthalpy",)).whole["enthalpy"]
    assert h[0] == pytest.approx(0.0, abs=0.5)
    assert h[1] - h[0] == pytest.approx(rise, rel=0.015)


def test_the_key_of_every_property_tells_its_kind():
    """Tables and readers know a unit by the ending of the key alone: N/m is not m."""
    for entry in PROPERTIES.values():
        if entry.suffix:
            kind, factor = kind_of_key(entry.answer_key)
            # Heat capacities end as entropies do, and have their units.
            assert kind == ("entropy" if entry.kind == "heat_capacity" else entry.kind), entry.answer_key
            assert factor == pytest.approx(1.0 / entry.factor), entry.answer_key


def test_every_property_is_of_a_known_kind_and_is_told(crude):
    values = full_states(crude, [300.0, 420.0], [2e7, 2e6]).values
    for key, entry in PROPERTIES.items():
        assert entry.name
        assert len(entry.meaning) > 8, key
        assert entry.kind == "" or entry.kind in KINDS, key
        if entry.function is None:
            assert key in values.whole
            continue
        assert values.phase[key].shape == (2, 3)
        assert np.isfinite(values.phase[key][1, :2]).all(), key
        assert np.isnan(values.phase[key][0, 1]), key
    assert len({e.answer_key for e in PROPERTIES.values()}) == len(PROPERTIES)


def test_enthalpy_entropy_and_volume_obey_the_second_law(crude):
    """In the single phase: (dh/dT)_P = T (ds/dT)_P and (dh/dP)_T = V - T (dV/dT)_P."""
    T, P, dT, dP = 450.0, 4e7, 0.02, 2e3
    there = full_states(crude, [T, T - dT, T + dT, T, T], [P, P, P, P - dP, P + dP])
    assert not there.phases.split.any()
    h, s, v = (there.values.phase[k][:, 0] for k in ("enthalpy", "entropy", "molar_volume"))
    assert (h[2] - h[1]) == pytest.approx(T * (s[2] - s[1]), rel=1e-6)
    slope = (v[2] - v[1]) / (2 * dT)
    assert (h[4] - h[3]) / (2 * dP) == pytest.approx(v[0] - T * slope, rel=1e-5)


def test_the_whole_is_the_sum_of_its_phases(crude):
    there = full_states(crude, [420.0], [2e6])
    fraction = there.phases.fraction[0]
    for key in ("enthalpy", "entropy", "molar_volume", "molar_mass"):
        total = float(np.nansum(fraction * there.values.phase[key][0]))
        assert there.values.whole[key][0] == pytest.approx(total, rel=1e-12), key
    density = there.values.whole["molar_mass"][0] / there.values.whole["molar_volume"][0]
    assert there.values.whole["density"][0] == pytest.approx(density, rel=1e-12)
