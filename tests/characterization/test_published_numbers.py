"""Every correlation against a number from outside: a textbook's worked example, or what was measured of pure compounds.

The worked example is a fraction boiling at 198 degF with a specific gravity of 0.7365 (Ahmed, *Equations of State and PVT
Analysis*, 2007, chapter 2); it is computed there with an API gravity rounded to three digits, hence the tolerances.
"""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.characterization.correlations import REGISTRY
from cryonome.characterization.correlations.density import compressibility_factor
from cryonome.characterization.correlations.registry import Fraction
from cryonome.components import find

PSI = 6894.757293168
CUBIC_FOOT = 6.242796e-5
"""ft3/lbmol in m3/mol."""


def fraction(nbp: float, sg: float, **known: float) -> Fraction:
    """Return one fraction, K."""
    return Fraction(np.array([nbp]), np.array([sg]), {k: np.array([v]) for k, v in known.items()})


def pure(name: str) -> Fraction:
    """Return a pure compound as if it were a fraction."""
    c = find(name)
    keys = ("molar_mass", "Tc", "Pc", "omega", "Vc")
    return fraction(c.nbp, c.specific_gravity, **{k: getattr(c, k) for k in keys})


EXAMPLE = fraction(658.0 / 1.8, 0.7365)


@pytest.mark.parametrize(
    ("key", "Tc", "Pc", "digits"),
    [
        ("riazi-daubert-1987", 986.7, 465.83, 5e-5),
        ("cavett", 978.1, 466.1, 1.2e-3),
        ("lee-kesler", 980.0, 470.0, 1.2e-3),
        ("sim-daubert", 979.2, 478.6, 5e-5),
    ],
)
def test_critical_properties_of_the_worked_example(key, Tc, Pc, digits):
    assert 1.8 * float(REGISTRY["Tc"][key].function(EXAMPLE)[0]) == pytest.approx(Tc, rel=digits)
    assert float(REGISTRY["Pc"][key].function(EXAMPLE)[0]) / PSI == pytest.approx(Pc, rel=digits)


@pytest.mark.parametrize(
    ("key", "mass", "tolerance"),
    [("riazi-daubert-1987", 96.911, 2e-3), ("lee-kesler", 98.7, 4e-3)],
)
def test_molar_masses_of_the_worked_example(key, mass, tolerance):
    assert 1e3 * float(REGISTRY["molar_mass"][key].function(EXAMPLE)[0]) == pytest.approx(mass, rel=tolerance)


def test_edmister_and_hall_yarborough_of_a_heptanes_plus():
    """C7+ of M = 150 and 0.78: Tb 825.26 degR, Tc 1139.4 degR and Pc 320.3 psia give 0.5067 (Ahmed 2007); the volume is Hall
    and Yarborough's 0.025 M^1.15/0.78^0.7935, by hand."""
    plus = fraction(825.26 / 1.8, 0.78, molar_mass=0.150, Tc=1139.4 / 1.8, Pc=320.3 * PSI)
    assert float(REGISTRY["omega"]["edmister"].function(plus)[0]) == pytest.approx(0.5067, abs=2e-4)
    assert float(REGISTRY["Vc"]["hall-yarborough"].function(plus)[0]) / CUBIC_FOOT == pytest.approx(9.684, rel=1e-4)


@pytest.mark.parametrize(("name", "volume"), [("n-heptane", 428e-6), ("n-octane", 492e-6), ("n-decane", 624e-6)])
def test_critical_volumes_are_those_measured(name, volume):
    """Ambrose and Tsonopoulos, J. Chem. Eng. Data 40, 531 (1995); uncertain by some 2 to 3 %."""
    for key, entry in REGISTRY["Vc"].items():
        assert float(entry.function(pure(name))[0]) == pytest.approx(volume, rel=0.06), key


def test_goossens_gives_the_molar_masses_of_paraffins():
    """Goossens, Ind. Eng. Chem. Res. 35, 985 (1996) claims 2 % on average; the masses themselves are exact."""
    names = ("n-octane", "n-decane", "n-dodecane", "n-hexadecane")
    off = [float(REGISTRY["molar_mass"]["goossens"].function(pure(n))[0]) / find(n).molar_mass - 1.0 for n in names]
    assert np.mean(np.abs(off)) < 0.02
    assert np.max(np.abs(off)) < 0.035


@pytest.mark.parametrize(("name", "warm"), [("n-decane", 0.99), ("n-hexadecane", 3.06)])
def test_viscosities_of_paraffins_are_those_measured(name, warm):
    """Kinematic viscosities at 100 degF, cSt, from measured dynamic viscosities and densities, to two or three digits."""
    assert 1e6 * float(REGISTRY["viscosity"]["twu-1985"].function(pure(name))[0, 0]) == pytest.approx(warm, rel=0.025)


def test_two_published_ways_to_the_viscosity_of_fractions_agree():
    cuts = Fraction(np.array([500.0, 600.0, 700.0]), np.array([0.80, 0.85, 0.90]))
    abbott, twu = (REGISTRY["viscosity"][k].function(cuts) for k in ("abbott", "twu-1985"))
    np.testing.assert_allclose(abbott, twu, rtol=0.12)
    np.testing.assert_allclose(abbott[:, 0], twu[:, 0], rtol=0.05)
    assert not np.allclose(abbott, twu, rtol=1e-3)


@pytest.mark.parametrize(("name", "parachor"), [("n-hexane", 271.0), ("n-heptane", 311.3), ("n-octane", 351.1)])
def test_parachors_are_those_measured(name, parachor):
    """Quayle, Chem. Rev. 53, 439 (1953). Firoozabadi's line was drawn through crude-oil cuts, which lie lower."""
    assert float(REGISTRY["parachor"]["whitson-brule"].function(pure(name))[0]) == pytest.approx(parachor, rel=5e-3)
    cut = float(REGISTRY["parachor"]["firoozabadi"].function(pure(name))[0])
    assert 0.92 * parachor < cut < parachor


@pytest.mark.parametrize(
    ("name", "warm", "hot"),
    [("n-octane", 688.0, 636.0), ("n-decane", 717.0, 669.0), ("n-hexadecane", 761.0, 719.0), ("toluene", 851.0, 792.0)],
)
def test_liquid_densities_are_those_measured(name, warm, hot):
    """Saturated liquid at 100 and 210 degF, kg/m3, rounded to whole numbers."""
    found = REGISTRY["liquid_density"]["spencer-danner"].function(pure(name))[0]
    np.testing.assert_allclose(found, [warm, hot], rtol=6e-3)


def test_the_density_shape_of_soreide_is_that_of_the_carbon_groups():
    """Two published shapes of the same thing, drawn apart: Soreide's and the groups of Katz and Firoozabadi (1978)."""
    cuts = Fraction(np.array([420.0, 500.0, 600.0, 700.0]), np.array([0.77, 0.81, 0.85, 0.88]))
    soreide, groups = (REGISTRY["density"][k].function(cuts) for k in ("soreide", "carbon-groups"))
    assert (np.diff(soreide) > 0).all()
    np.testing.assert_allclose(soreide / soreide[1], groups / groups[1], rtol=0.02)


def test_two_published_forms_of_the_compressibility_of_oils_agree():
    """API MPMS 11.2.1 in degF and psi, made from the same data and fitted apart."""
    sg, fahrenheit = np.array([0.7, 0.85, 1.0])[:, None], np.array([0.0, 60.0, 150.0])
    r2 = (sg * 0.999016) ** 2
    field = np.exp(-1.9947 + 0.00013427 * fahrenheit + 0.79392 / r2 + 0.002326 * fahrenheit / r2) * 1e-5 / PSI
    np.testing.assert_allclose(compressibility_factor(sg, (fahrenheit + 459.67) / 1.8), field, rtol=5e-3)
