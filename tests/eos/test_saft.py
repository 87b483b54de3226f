"""PC-SAFT: published vapour pressures and densities, every derivative, roots, and the solvers on it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.characterization import Known, complete
from cryonome.components import find
from cryonome.constants import ATM, WATER_DENSITY_60F, R
from cryonome.eos.building import Interaction, equation_of
from cryonome.eos.interaction import library_kij
from cryonome.eos.saft import SaftEos
from cryonome.eos.saft_energy import AVOGADRO, energy, roots_everywhere
from cryonome.eos.saft_parameters import published, saft_sets
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.pure import saturation_pressure
from mixtures import LISTS

# Gross and Sadowski (2001), table 1.
A0 = (0.9105631445, 0.6361281449, 2.6861347891, -26.547362491, 97.759208784, -159.59154087, 91.297774084)
A1 = (-0.3084016918, 0.1860531159, -2.5030047259, 21.419793629, -65.255885330, 83.318680481, -33.746922930)
A2 = (-0.0906148351, 0.4527842806, 0.5962700728, -1.7241829131, -4.1302112531, 13.776631870, -8.6728470368)
B0 = (0.7240946941, 2.2382791861, -4.0025849485, -21.003576815, 26.855641363, 206.55133841, -355.60235612)
B1 = (-0.5755498075, 0.6995095521, 3.8925673390, -17.215471648, 192.67226447, -161.82646165, -165.20769346)
B2 = (0.0976883116, -0.2557574982, -9.1558561530, 20.642075974, -38.804430052, 93.626774077, -29.666905585)


def saft(*names: str) -> SaftEos:
    parts = [find(n) for n in names]
    eos = equation_of("PC-SAFT", parts, Interaction(library_kij(parts, "PC-SAFT")))
    assert isinstance(eos, SaftEos)
    return eos


CONDENSATE = saft(*LISTS["condensate"])
FEED = np.array(list(LISTS["condensate"].values())) / sum(LISTS["condensate"].values())


@pytest.mark.parametrize(
    ("name", "T", "P", "within"),
    [
        ("methane", 150.0, 1.040e6, 0.004), ("propane", 300.0, 0.998e6, 0.004), ("n-butane", 300.0, 0.2576e6, 0.006),
        ("nitrogen", 100.0, 0.778e6, 0.006), ("carbon dioxide", 250.0, 1.785e6, 0.028), ("benzene", 353.24, ATM, 0.01),
        ("n-hexane", 341.88, ATM, 0.005), ("toluene", 383.79, ATM, 0.01),
    ],
)  # fmt: skip
def test_vapour_pressures_with_the_papers_parameters(name, T, P, within):
    """Reference equations of state; the paper reports some 1 % average deviation."""
    assert saturation_pressure(saft(name), np.array([T]))[0] == pytest.approx(P, rel=within)


def test_saturated_liquid_densities_with_the_papers_parameters():
    for name in ("propane", "n-hexane", "n-decane", "toluene", "cyclohexane"):
        eos, c = saft(name), find(name)
        P = max(float(saturation_pressure(eos, np.array([288.7056]))[0]), ATM)
        Z = eos.prepare([288.7056], [P]).ln_phi(np.ones((1, 1)), "liquid")[1][0]
        assert P / (Z * R * 288.7056) * c.molar_mass == pytest.approx(c.specific_gravity * WATER_DENSITY_60F, rel=0.016)


def plain_energy(eos: SaftEos, T: float, V: complex, n: np.ndarray) -> complex:
    """A_res/(R T) of n (nc,) moles in V m3, written once more from the paper's appendix, eqs. A.3 to A.20, pair by pair."""
    total = n.sum()
    x = n / total
    rho = total / V * AVOGADRO
    m, sigma, eps = eos.m, eos.sigma, eos.epsilon
    d = sigma * (1 - 0.12 * np.exp(-3 * eps / T))
    zeta = [np.pi / 6 * rho * (x * m * d**k).sum() for k in range(4)]
    mean = (x * m).sum()
    z0, z1, z2, z3 = zeta
    hard = (3 * z1 * z2 / (1 - z3) + z2**3 / (z3 * (1 - z3) ** 2) + (z2**3 / z3**2 - z0) * np.log(1 - z3)) / z0
    contact = 1 / (1 - z3) + d / 2 * 3 * z2 / (1 - z3) ** 2 + (d / 2) ** 2 * 2 * z2**2 / (1 - z3) ** 3
    chain = mean * hard - (x * (m - 1) * np.log(contact)).sum()

    def integral(rows):
        a = [r0 + (mean - 1) / mean * r1 + (mean - 1) / mean * (mean - 2) / mean * r2 for r0, r1, r2 in zip(*rows)]
        return sum(c * z3**k for k, c in enumerate(a))

    shape = mean * (8 * z3 - 2 * z3**2) / (1 - z3) ** 4
    shape += (1 - mean) * (20 * z3 - 27 * z3**2 + 12 * z3**3 - 2 * z3**4) / ((1 - z3) * (2 - z3)) ** 2
    first = second = 0
    for i, j in np.ndindex(n.size, n.size):
        depth = np.sqrt(eps[i] * eps[j]) * (1 - eos.kij[i, j])
        pair = x[i] * x[j] * m[i] * m[j] * ((sigma[i] + sigma[j]) / 2) ** 3
        first, second = first + pair * depth / T, second + pair * (depth / T) ** 2
    dispersion = -2 * np.pi * rho * integral((A0, A1, A2)) * first
    dispersion -= np.pi * rho * mean / (1 + shape) * integral((B0, B1, B2)) * second
    return total * (chain + dispersion)


@given(st.integers(0, 10**6), st.floats(150.0, 650.0), st.floats(0.0, 6.0), st.integers(0, 10))
def test_fugacities_are_the_complex_step_of_a_plain_energy(seed, T, ln_density, i):
    x = np.random.default_rng(seed).dirichlet(np.full(FEED.size, 0.7)) + 1e-6
    x /= x.sum()
    V = (x * CONDENSATE.m * CONDENSATE.sigma**3).sum() * AVOGADRO * np.pi / 6 / 0.45 * np.exp(ln_density)
    n = x.astype(complex)
    n[i] += 1e-30j
    potential = plain_energy(CONDENSATE, T, V, n).imag / 1e-30
    found = energy(CONDENSATE.at_temperature([T]), x[None] / V).by_c[0, i]
    assert found == pytest.approx(potential, rel=1e-10, abs=1e-10)
    P = float(CONDENSATE.at_temperature([T]).pressure(np.array([V]), x[None])[0])
    push = -plain_energy(CONDENSATE, T, V * (1 + 1e-30j), x).imag / 1e-30
    assert pytest.approx(1 + push, rel=1e-10, abs=1e-10) == P * V / (R * T)


@given(st.integers(0, 10**6), st.floats(150.0, 650.0), st.floats(0.0, 4.2))
def test_every_derivative_of_the_energy_is_that_of_its_value(seed, T, ln_density):
    x = np.random.default_rng(seed).dirichlet(np.full(FEED.size, 0.7))
    size = (x * CONDENSATE.m * CONDENSATE.sigma**3).sum() * 6.02214076e23 * np.pi / 6
    c = (x * 0.5 / size * np.exp(-ln_density))[None]
    at = CONDENSATE.at_temperature([T])
    found = energy(at, c)
    direction = np.random.default_rng(seed + 1).normal(size=c.shape) * c
    h = 1e-4
    plus, minus = (energy(at, c + s * h * direction) for s in (1, -1))
    scale = np.abs(found.value[0])
    assert (plus.value - minus.value)[0] / (2 * h) == pytest.approx(
        (found.by_c @ direction[0])[0], rel=1e-6, abs=1e-6 * scale
    )
    np.testing.assert_allclose(
        (plus.by_c - minus.by_c)[0] / (2 * h),
        found.by_cc[0] @ direction[0],
        rtol=1e-5,
        atol=1e-6 * np.abs(found.by_c).max(),
    )
    warm, cool = (energy(CONDENSATE.at_temperature([T + s]), c) for s in (0.01, -0.01))
    assert (warm.value - cool.value)[0] / 0.02 == pytest.approx(found.by_T[0], rel=1e-6)
    np.testing.assert_allclose((warm.by_c - cool.by_c)[0] / 0.02, found.by_cT[0], rtol=1e-5, atol=1e-8)
    assert (warm.by_T - cool.by_T)[0] / 0.02 == pytest.approx(found.by_TT[0], rel=1e-5)
    np.testing.assert_allclose(found.by_cc[0], found.by_cc[0].T, rtol=1e-10)


def test_solvers_derivatives_and_the_response_agree_with_differences():
    T, P = np.array([340.0, 420.0]), np.array([2.5e7, 1.5e6])
    x = np.stack([FEED, FEED[::-1]])
    here = CONDENSATE.prepare(T, P)
    found, response = here.derivatives(x), here.response(x)
    h = 1e-3
    hot, cold = (CONDENSATE.prepare(T + s, P) for s in (h, -h))
    numeric = (hot.ln_phi(x)[0] - cold.ln_phi(x)[0]) / (2 * h) * T[:, None]
    np.testing.assert_allclose(found.dln_phi_dlnT, numeric, rtol=1e-6, atol=1e-8)
    np.testing.assert_allclose(response.h_res, -(x * numeric).sum(axis=-1), rtol=1e-6)
    high, low = (CONDENSATE.prepare(T, P * (1 + s)) for s in (1e-5, -1e-5))
    np.testing.assert_allclose(found.dln_phi_dlnP, (high.ln_phi(x)[0] - low.ln_phi(x)[0]) / 2e-5, rtol=1e-6, atol=1e-7)
    rise = ((T + h) * hot.response(x).h_res - (T - h) * cold.response(x).h_res) / (2 * h)
    np.testing.assert_allclose(response.cp_res, rise, rtol=1e-5)
    # Gibbs-Duhem: the matrix in mole numbers is symmetric and does not move with the amount.
    np.testing.assert_allclose(found.dln_phi_dn, np.swapaxes(found.dln_phi_dn, 1, 2), atol=1e-9)
    assert np.abs(np.einsum("nij,nj->ni", found.dln_phi_dn, x)).max() < 1e-9
    gibbs = (x * found.ln_phi).sum(axis=-1)
    np.testing.assert_allclose(gibbs, response.h_res - response.s_res, rtol=1e-10)


def test_the_roots_are_those_found_by_looking_everywhere():
    rng = np.random.default_rng(4)
    n = 300
    T, P = rng.uniform(150, 650, n), np.exp(rng.uniform(np.log(1e2), np.log(1e8), n))
    x = rng.dirichlet(np.full(FEED.size, 0.4), n)
    here = CONDENSATE.prepare(T, P)
    low, high = here.roots(x)
    np.testing.assert_allclose((low, high), roots_everywhere(here, x), rtol=1e-8)
    assert 0.2 < (low != high).mean() < 0.6
    np.testing.assert_allclose(here.pressure(low * R * T / P, x), P, rtol=1e-7)


def test_pure_critical_points_have_no_slope_and_no_curvature():
    eos = saft("methane", "propane", "n-decane", "n-eicosane")
    T, P, V = eos.pure_critical()
    single = eos.pure().at_temperature(T)
    one = np.ones((4, 1))
    np.testing.assert_allclose(single.pressure(V, one), P, rtol=1e-8)
    assert (np.abs(single.pressure_slope(V, one) * V / P) < 1e-5).all()
    bend = (single.pressure_slope(V * 1.001, one) - single.pressure_slope(V * 0.999, one)) * V / 0.002 * V / P
    assert (np.abs(bend) < 1e-2).all()
    # The paper's parameters overshoot measured critical temperatures by up to 3 %.
    np.testing.assert_allclose(T, [190.56, 369.83, 617.7, 768.0], rtol=0.03)


def test_what_has_no_published_set_boils_and_weighs_as_it_should():
    heavy = complete(Known("X", nbp=720.0, specific_gravity=0.93))
    parts = [find("hydrogen sulfide"), find("cumene"), find("n-triacontane"), heavy]
    sets = saft_sets(parts)
    assert all(s.source == "" for s in sets)
    eos = equation_of("PC-SAFT", parts, Interaction(np.zeros((4, 4))))
    nbp = np.array([c.nbp for c in parts])
    np.testing.assert_allclose(saturation_pressure(eos, nbp), ATM, rtol=1e-6)
    liquid = [1, 3]
    Z = eos.of(np.array(liquid)).pure().prepare([288.7056] * 2, [ATM] * 2).ln_phi(np.ones((2, 1)), "liquid")[1]
    weighed = ATM / (Z * R * 288.7056) * np.array([parts[i].molar_mass for i in liquid])
    np.testing.assert_allclose(weighed, [parts[i].specific_gravity * WATER_DENSITY_60F for i in liquid], rtol=1e-6)
    given_by_hand = complete(Known("Y", Tc=617.7, Pc=21.1e5, omega=0.49, pc_saft=(4.66, 3.838, 243.9)))
    assert saft_sets([given_by_hand])[0].source == "given"
    assert len(published()) > 45


@pytest.mark.parametrize("name", ["condensate", "carbon dioxide flood", "aromatic", "hydrogen"])
def test_flashes_converge_to_equal_fugacities(name):
    parts = [find(n) for n in LISTS[name]]
    eos = equation_of("PC-SAFT", parts, Interaction(library_kij(parts, "PC-SAFT")))
    z = np.array(list(LISTS[name].values()))
    z = z / z.sum()
    rng = np.random.default_rng(7)
    T, P = rng.uniform(200, 550, 150), np.exp(rng.uniform(np.log(2e4), np.log(4e7), 150))
    found = flash_pt(eos, T, P, z)
    assert found.converged.all()
    split = np.flatnonzero(found.split)
    assert split.size > 10
    both = [eos.prepare(T[split], P[split]).ln_phi(found.composition[split, k])[0] for k in (0, 1)]
    ln_f = [np.log(found.composition[split, k]) + both[k] for k in (0, 1)]
    there = found.composition[split].min(axis=1) > 1e-14
    assert np.abs(np.where(there, ln_f[0] - ln_f[1], 0.0)).max() < 1e-7
    balance = (found.fraction[..., None] * found.composition).sum(axis=1)
    np.testing.assert_allclose(balance, np.broadcast_to(z, balance.shape), atol=1e-12)


def test_an_envelope_closes_with_a_critical_point():
    eos = saft("ethane", "n-butane")
    whole = phase_map(eos, np.array([0.5, 0.5]))
    (critical,) = whole.critical_points
    # Measured mixture: 386 K and 57 bar (Kay, 1938, as read from its figure).
    assert pytest.approx(388.0, rel=0.015) == critical.T
    assert pytest.approx(57.5e5, rel=0.05) == critical.P
    (bubble,) = whole.crossings([0.0], T=330.0)
    (dew,) = whole.crossings([1.0], T=330.0)
    assert bubble.P > dew.P
    light = flash_pt(eos, [330.0, 330.0], [bubble.P * 0.999999, dew.P * 1.000001], np.array([0.5, 0.5])).light_fraction
    np.testing.assert_allclose(light, [0.0, 1.0], atol=1e-4)
