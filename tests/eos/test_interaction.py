"""The library of interaction parameters."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.characterization import Known, complete
from cryonome.components import find
from cryonome.eos.building import Interaction, equation_of, family_of
from cryonome.eos.interaction import MethaneRule, library_kij, library_pairs
from cryonome.equilibrium.saturation import saturation


def kij(*names: str) -> np.ndarray:
    return library_kij([find(n) for n in names])


def test_the_matrix_is_symmetric_and_does_not_depend_on_order():
    names = ["methane", "carbon dioxide", "n-decane", "hydrogen sulfide", "water", "nitrogen", "methanol", "benzene"]
    k = kij(*names)
    assert (k == k.T).all()
    assert (np.diag(k) == 0).all()
    turned = kij(*reversed(names))
    np.testing.assert_array_equal(turned[::-1, ::-1], k)
    assert np.abs(k).max() < 1.0


def test_a_pair_comes_before_a_family_and_the_rule_serves_methane_alone():
    assert kij("methane", "carbon dioxide")[0, 1] == 0.0919
    assert library_kij([find("methane"), find("carbon dioxide")], "RK")[0, 1] == 0.0933
    assert kij("oxygen", "toluene")[0, 1] != kij("oxygen", "ethylbenzene")[0, 1] != kij("oxygen", "n-nonane")[0, 1]
    # Chueh and Prausnitz (1967) by hand: r from 98.6 and 1034 cm3/mol.
    r1, r2 = 98.6 ** (1 / 3), 1034.0 ** (1 / 3)
    expected = 0.16 * (1 - (2 * (r1 * r2) ** 0.5 / (r1 + r2)) ** 6)
    assert kij("methane", "n-hexadecane")[0, 1] == pytest.approx(expected, rel=1e-6)
    assert kij("propane", "n-hexadecane")[0, 1] == 0.0
    steeper = library_kij([find("methane"), find("n-hexadecane")], rule=MethaneRule(0.32, 6.0))
    assert steeper[0, 1] == pytest.approx(2 * expected, rel=1e-6)


def test_what_the_library_has_no_word_on_is_told():
    names = ["helium", "argon", "methane", "n-decane"]
    missing = library_pairs([find(n) for n in names]).missing
    assert {(names[i], names[j]) for i, j in missing} == {("helium", "argon")}


SOLUBILITIES = {
    ("methane", "benzene"): 20.9, ("methane", "n-hexane"): 50.4, ("ethane", "benzene"): 149.0,
    ("carbon dioxide", "ethanol"): 64.0, ("hydrogen", "benzene"): 2.58,
    ("hydrogen", "n-hexane"): 6.63, ("oxygen", "toluene"): 9.2, ("argon", "n-decane"): 24.8, ("carbon monoxide", "benzene"): 6.65,
    ("oxygen", "n-nonane"): 21.2,
}  # fmt: skip
"""1e4 times the mole fraction of a gas at 298.15 K and 1 atm; Wilhelm and Battino, Chem. Rev. 73, 1 (1973)."""


@pytest.mark.parametrize("form", ["PR78", "SRK"])
def test_gases_dissolve_as_measured(form):
    for (gas, solvent), measured in SOLUBILITIES.items():
        pair = [find(gas), find(solvent)]
        eos = equation_of(form, pair, Interaction(library_kij(pair, family_of(form))))
        dilute, pure = np.array([[1e-9, 1 - 1e-9]]), np.array([[1 - 1e-9, 1e-9]])
        in_liquid, in_gas = (
            eos.prepare([298.15], [101325.0]).ln_phi(x, root)[0][0, 0]
            for x, root in ((dilute, "liquid"), (pure, "vapour"))
        )
        within = 0.11 if "n-nonane" in solvent else 0.015
        assert 1e4 * np.exp(in_gas - in_liquid) == pytest.approx(measured, rel=within), (gas, solvent)


def test_paraffins_of_different_length_mix_nearly_ideally():
    """Activity of n-hexane at infinite dilution in n-hexadecane at 298 K: measured 0.90; the cubic without k_ij is near it."""
    pair = [find("n-hexane"), find("n-hexadecane")]
    eos = equation_of("PR78", pair, Interaction(library_kij(pair)))
    x = np.array([[1e-9, 1 - 1e-9], [1 - 1e-9, 1e-9]])
    ln_phi = eos.prepare([298.15] * 2, [101325.0] * 2).ln_phi(x, "liquid")[0][:, 0]
    assert np.exp(ln_phi[0] - ln_phi[1]) == pytest.approx(0.90, rel=0.17)


def test_a_parameter_that_depends_on_temperature_keeps_every_identity():
    pair = [find("carbon dioxide"), find("n-decane")]
    slope = np.array([[0.0, 4e-4], [4e-4, 0.0]])
    eos = equation_of("PR78", pair, Interaction(library_kij(pair), slope))
    there = equation_of("PR78", pair, Interaction(library_kij(pair) + slope * 50.0))
    T, P, x = np.array([348.15]), np.array([5e6]), np.array([[0.4, 0.6]])
    np.testing.assert_allclose(eos.prepare(T, P).ln_phi(x)[0], there.prepare(T, P).ln_phi(x)[0], rtol=1e-13)
    h = 1e-3
    high, low = (eos.prepare(T + s, P) for s in (h, -h))
    numeric = T * (high.ln_phi(x)[0] - low.ln_phi(x)[0]) / (2 * h)
    np.testing.assert_allclose(eos.prepare(T, P).derivatives(x).dln_phi_dlnT, numeric, rtol=1e-6)
    # Gibbs-Helmholtz, and the heat capacity as the slope of the enthalpy.
    now = eos.prepare(T, P).response(x)
    np.testing.assert_allclose(now.h_res, -(x * numeric).sum(axis=-1), rtol=1e-6)
    rise = ((T + h) * high.response(x).h_res - (T - h) * low.response(x).h_res) / (2 * h)
    np.testing.assert_allclose(now.cp_res, rise, rtol=1e-5)


def test_cuts_and_pseudo_components_count_as_hydrocarbons():
    heavy = complete(Known("X", nbp=600.0, specific_gravity=0.86))
    k = library_kij([find("carbon dioxide"), find("methane"), heavy])
    # Carbon dioxide with heavy ends by size: between n-decane's and n-hexadecane's.
    assert 0.095 <= k[0, 2] < 0.1141
    assert 0.02 < k[1, 2] < 0.08
    impostor = complete(Known("carbon dioxide", nbp=600.0, specific_gravity=0.86))
    assert library_kij([impostor, find("methane")])[0, 1] < 0.12


def test_nitrogen_with_heavy_ends_falls_with_temperature_as_at_high_pressures():
    """0.1122 is the mean over 311 to 411 K of Knapp et al. (1982) for n-decane; one state at 1 atm would give 0.23."""
    pair = [find("nitrogen"), find("n-decane")]
    found = library_pairs(pair)
    T = np.linspace(310.9, 410.9, 11)
    assert np.mean(found.kij[0, 1] + found.slope[0, 1] * (T - 298.15)) == pytest.approx(0.1122, abs=0.004)
    # Soave's equation boils where Peng and Robinson's does.
    there = [
        saturation(equation_of(f, pair, Interaction(p.kij, p.slope)), np.array([360.0]), np.array([[0.2, 0.8]])).P[0]
        for f, p in (("PR78", found), ("SRK", library_pairs(pair, "RK")))
    ]
    assert there[0] == pytest.approx(there[1], rel=0.005)


def test_hydrogen_sulfide_with_water_follows_its_published_line():
    """Søreide and Whitson (1992), table 5: 0.19031 - 0.05965 Tr in the non-aqueous phase."""
    found = library_pairs([find("hydrogen sulfide"), find("water")])
    for T in (300.0, 400.0):
        assert found.kij[0, 1] + found.slope[0, 1] * (T - 298.15) == pytest.approx(
            0.19031 - 0.05965 * T / 373.1, abs=2e-4
        )


def test_one_component_has_a_single_zero():
    assert kij("propane").tolist() == [[0.0]]
