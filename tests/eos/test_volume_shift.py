"""Volume shifts: densities met, equilibrium untouched, the identities kept."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.characterization import Known, complete
from cryonome.components import all_components, find
from cryonome.constants import ATM, T_60F, WATER_DENSITY_60F
from cryonome.eos.building import Interaction, equation_of, volume_shift
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.pure import saturation_pressure
from cryonome.properties import Substance, evaluate


def substance(components, form="PR78", kind="density"):
    eos = equation_of(form, components, Interaction(np.zeros((len(components),) * 2)))
    return Substance(eos, components, volume_shift(kind, form, components, eos), aqueous="equation")


@pytest.mark.parametrize("form", ["PR78", "SRK", "VDW"])
def test_every_component_meets_its_liquid_density(form):
    cut = complete(Known("X", nbp=650.0, specific_gravity=0.89))
    for c in (*all_components(), cut):
        if 0.9 * c.Tc <= T_60F:
            continue
        made = substance([c], form)
        P = max(float(saturation_pressure(made.eos, np.array([T_60F]))[0]) * (1 + 1e-9), ATM)
        found = evaluate(made, flash_pt(made.eos, [T_60F], [P], np.ones((1, 1))), ("density",))
        assert found.whole["density"][0] == pytest.approx(c.specific_gravity * WATER_DENSITY_60F, rel=1e-6), c.name


@pytest.mark.parametrize(("name", "T", "P", "density"), [
    ("carbon dioxide", 250.0, 1.7851e6, 1046.0), ("ethane", 200.0, 0.2174e6, 523.98), ("methane", 130.0, 0.3673e6, 394.0),
])  # fmt: skip
def test_light_components_have_their_liquid_densities_in_the_cold(name, T, P, density):
    """Saturated liquids of the reference equations, kg/m3."""
    made = substance([find(name)])
    found = evaluate(made, flash_pt(made.eos, [T], [P * 1.05], np.ones((1, 1))), ("density",))
    assert found.whole["density"][0] == pytest.approx(density, rel=0.025)


def test_published_constants():
    """n-Hexane with Peng-Robinson: c/b of Jhaveri and Youngren's table, and methane's."""
    pair = [find("methane"), find("n-hexane"), find("n-decane")]
    made = substance(pair, "PR78", "jhaveri-youngren")
    b = made.eos.least_volume(np.eye(3))
    np.testing.assert_allclose(made.shift / b, [-0.1540, -0.01478, 1 - 2.258 / 142.286**0.1823], rtol=1e-6)
    # Peneloux for propane with SRK: 0.40768 (R Tc/Pc)(0.29441 - 0.2763), cm3/mol, with the usual Rackett parameter.
    assert 1e6 * substance([find("propane")], "SRK", "peneloux").shift[0] == pytest.approx(5.34, abs=0.15)


def test_a_shift_moves_no_equilibrium_and_keeps_the_gibbs_energy_consistent():
    parts = [find(n) for n in ("methane", "propane", "n-decane")]
    z, T, P = np.array([0.5, 0.2, 0.3]), np.array([320.0, 360.0]), np.array([3e6, 6e6])
    plain, moved = substance(parts, kind="none"), substance(parts)
    one, other = (flash_pt(s.eos, T, P, z) for s in (plain, moved))
    np.testing.assert_array_equal(one.composition, other.composition)
    a, b = (evaluate(s, one) for s in (plain, moved))
    by = (one.composition @ moved.shift) * P[:, None]
    np.testing.assert_allclose(a.phase["enthalpy"] - b.phase["enthalpy"], by, rtol=1e-9)
    np.testing.assert_allclose(a.phase["entropy"], b.phase["entropy"], rtol=1e-14)
    np.testing.assert_allclose(
        a.phase["molar_volume"] - b.phase["molar_volume"], one.composition @ moved.shift, rtol=1e-9
    )
