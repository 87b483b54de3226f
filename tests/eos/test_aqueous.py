"""Water's interaction parameters: consistent derivatives, and what is known of dissolved gases, hydrocarbons and wet gas."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.eos import Equation
from cryonome.eos.aqueous_library import henry_constant
from cryonome.eos.building import Interaction, equation_of, family_of
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.pure import saturation_pressure


def wet(form: str, *names: str, salt: float = 0.0) -> Equation:
    parts = [find(n) for n in (*names, "water")]
    return equation_of(form, parts, Interaction(library_kij(parts, family_of(form)), salt=salt))


@pytest.mark.parametrize(("form", "salt"), [("PR78", 0.8), ("SRK", 0.0)])
def test_fugacities_and_all_derivatives_come_from_one_energy(form, salt):
    eos = wet(form, "methane", "carbon dioxide", "n-pentane", "methanol", salt=salt)
    rng = np.random.default_rng(2)
    n, nc, h = 20, 5, 1e-5
    T, P, x = rng.uniform(280, 420, n), 10 ** rng.uniform(5, 7.5, n), rng.dirichlet(np.ones(nc), n)
    found = eos.prepare(T, P).derivatives(x)
    # Gibbs-Duhem and the symmetry of second derivatives hold exactly only where ln phi is a gradient.
    assert np.einsum("ni,nij->nj", x, found.dln_phi_dn) == pytest.approx(0.0, abs=1e-12)
    assert found.dln_phi_dn == pytest.approx(found.dln_phi_dn.swapaxes(1, 2), abs=1e-12)

    def slope(by):
        up, down = (eos.prepare(*by(s)) for s in (h, -h))
        return (up.ln_phi(x)[0] - down.ln_phi(x)[0]) / (2 * h)

    assert found.dln_phi_dlnT == pytest.approx(slope(lambda s: (T * np.exp(s), P)), abs=3e-7)
    assert found.dln_phi_dlnP == pytest.approx(slope(lambda s: (T, P * np.exp(s))), abs=3e-7)
    # H_res/(R T) = -sum x_i d ln phi_i/d ln T
    response = eos.prepare(T, P).response(x)
    assert response.h_res == pytest.approx(-np.einsum("ni,ni->n", x, found.dln_phi_dlnT), abs=1e-12)
    # Along a direction the third derivative is the slope of the second, at constant volume.
    V, dn = response.Z * 8.314462618 * T / P, rng.normal(size=(n, nc)) * 0.1
    at = eos.at_temperature(T)

    def second(t):
        moved = x + t * dn
        total = moved.sum(axis=1)
        return np.einsum("ni,nij,nj->n", dn, at.hessian(V / total, moved / total[:, None]) / total[:, None, None], dn)

    assert at.third(V, x, dn) == pytest.approx((second(1e-4) - second(-1e-4)) / 2e-4, rel=1e-6, abs=1e-8)


@pytest.mark.parametrize(("name", "value"), [("nitrogen", 2.1716), ("carbon dioxide", -1.7508), ("methane", 1.4034)])
def test_henrys_constants_of_the_guideline(name, value):
    """ln(k/GPa) at 300 K, of the check table of IAPWS G7-04."""
    found = henry_constant(name, np.array([300.0]), np.array([3536.8]))
    assert np.log(found[0] / 1e9) == pytest.approx(value, abs=2e-4)


@pytest.mark.parametrize(
    ("gas", "T", "P", "measured", "within"),
    [
        # Mole fraction of the gas in water. CO2: Wiebe and Gaddy (1939, 1940), Bamberger et al. (2000); methane: Culberson and McKetta (1951).
        ("carbon dioxide", 323.15, 1.01e7, 0.0205, 0.03), ("carbon dioxide", 323.15, 5.06e6, 0.0137, 0.04),
        ("carbon dioxide", 348.15, 1.013e7, 0.0164, 0.03), ("carbon dioxide", 373.15, 1.013e7, 0.0143, 0.03),
        ("methane", 298.15, 5.17e6, 1.10e-3, 0.05), ("methane", 310.93, 3.447e7, 3.3e-3, 0.06),
    ],
)  # fmt: skip
def test_gases_in_water(gas, T, P, measured, within):
    for form, more in (("PR78", 0.0), ("SRK", 0.02)):
        eos = wet(form, gas)
        found = flash_pt(eos, [T], [P], [0.5, 0.5])
        assert found.composition[0, 1, 0] == pytest.approx(measured, rel=within + more), form


@pytest.mark.parametrize(
    ("gas", "T", "P", "measured", "within"),
    [
        # Mole fraction of water in the gas: Olds, Sage and Lacey (1942) with methane, Wiebe and Gaddy (1941) with carbon dioxide.
        ("methane", 310.93, 6.895e6, 1.27e-3, 0.04), ("methane", 344.26, 6.895e6, 5.9e-3, 0.03), ("methane", 377.59, 6.895e6, 0.0194, 0.07),
    ],
)  # fmt: skip
def test_water_in_gas(gas, T, P, measured, within):
    found = flash_pt(wet("PR78", gas), [T], [P], [0.5, 0.5])
    assert found.composition[0, 0, 1] == pytest.approx(measured, rel=within)


def test_hydrocarbons_in_water_are_of_the_measured_order():
    """mg/l at 25 °C: benzene 1780, toluene 515, n-hexane 9.5; McAuliffe (1966)."""
    for name, x in (("benzene", 4.1e-4), ("toluene", 1.01e-4), ("n-hexane", 2.0e-6)):
        found = flash_pt(wet("PR78", name), [298.15], [1.01325e5], [0.5, 0.5])
        assert min(found.composition[0, :, 0]) == pytest.approx(x, rel=0.15), name


def test_salt_lowers_waters_pressure_and_salts_gases_out():
    """Activity of water in 3 mol/kg NaCl at 25 °C 0.893 (Robinson and Stokes 1959); methane by Setschenow with 0.12 to
    0.14 kg/mol 0.38 to 0.44 times as soluble."""
    fresh, salty = (
        float(saturation_pressure(wet("PR78", "methane", salt=s).of(np.array([1])), np.array([[298.15]]))[0, 0])
        for s in (0.0, 3.0)
    )
    assert fresh == pytest.approx(3169.9, rel=2e-3)
    assert salty / fresh == pytest.approx(0.893, abs=0.02)
    gas = [
        flash_pt(wet("PR78", "methane", salt=s), [298.15], [5e6], [0.5, 0.5]).composition[0, 1, 0] for s in (0.0, 3.0)
    ]
    assert 0.36 < gas[1] / gas[0] < 0.46
