"""From a boiling curve to cuts: checks, closing, balances, correlations."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ask import told
from cryonome.characterization import Known, LabSample, characterize, check_points, close_curve, complete
from cryonome.characterization.correlations import REGISTRY, Fraction, estimate
from cryonome.characterization.cuts import automatic_boundaries
from cryonome.characterization.lab_sample import CutChoice
from cryonome.characterization.pressure import boiling_point_at
from cryonome.components import find, ideal_gas
from cryonome.constants import WATER_DENSITY_60F
from mixtures import TBP


def lab(**changes) -> LabSample:
    percent, temperature = TBP
    return LabSample(**{"name": "S", "percent": percent, "temperature": temperature, "density": 859.0, **changes})


@given(
    steps=st.lists(st.floats(2.0, 60.0), min_size=5, max_size=15),
    start=st.floats(260.0, 380.0),
    density=st.floats(720.0, 960.0),
    seed=st.integers(0, 10**6),
)
def test_mass_mole_and_volume_balance(steps, start, density, seed):
    percent = np.sort(np.random.default_rng(seed).choice(np.arange(0, 99), len(steps), replace=False))
    result = characterize(
        LabSample("S", tuple(percent.astype(float)), tuple(start + np.cumsum(steps)), density=density)
    )
    sg = np.array([c.specific_gravity for c in result.components])
    mass = np.array([c.molar_mass for c in result.components])
    for fraction in (result.volume_fraction, result.mass_fraction, result.mole_fraction):
        assert fraction.sum() == pytest.approx(1.0, abs=1e-10)
        assert (fraction > 0).all()
    assert result.volume_fraction @ sg * WATER_DENSITY_60F == pytest.approx(density, rel=1e-10)
    assert result.mole_fraction @ mass == pytest.approx(result.molar_mass, rel=1e-10)
    np.testing.assert_allclose(
        result.volume_fraction * sg / sg.dot(result.volume_fraction), result.mass_fraction, rtol=1e-10
    )
    # The mean boiling point of the cuts is that of the curve: cutting loses nothing.
    x = np.linspace(0, 1, 20001)
    nbp = np.array([c.nbp for c in result.components])
    assert result.volume_fraction @ nbp == pytest.approx(np.trapezoid(result.curve.at(x), x), rel=1e-5)
    assert (np.diff(nbp) > 0).all()
    assert all(c.Tc > c.nbp for c in result.components)
    assert sum(y.volume for y in result.yields) == pytest.approx(1.0, abs=1e-10)
    assert sum(y.mass for y in result.yields) == pytest.approx(1.0, abs=1e-10)


def test_the_curve_goes_through_its_points_and_is_monotone():
    curve = close_curve(*TBP)
    np.testing.assert_allclose(curve.at(np.array(TBP[0]) / 100), TBP[1], rtol=1e-12)
    x = np.linspace(0, 1, 5001)
    assert (np.diff(curve.at(x)) > 0).all()
    np.testing.assert_allclose(curve.distilled(curve.at(x)), x, atol=1e-9)
    assert not curve.closed_low
    assert curve.closed_high
    assert 950.0 < curve.at(np.array([1.0]))[0] < 1200.0


def test_a_measured_molar_mass_is_met_exactly_and_said():
    result = characterize(lab(molar_mass=0.230))
    mass = np.array([c.molar_mass for c in result.components])
    assert result.mole_fraction @ mass == pytest.approx(0.230, rel=1e-10)
    assert any("230.0 g/mol" in s for s in told(r for r in result.remarks if r.kind == "correction"))


def test_the_watson_factor_is_that_of_the_mean_average_boiling_point():
    found = characterize(lab())
    nbp = np.array([c.nbp for c in found.components])
    # The published cubic average is of degrees Fahrenheit.
    cubic = (found.volume_fraction @ np.cbrt(1.8 * nbp - 459.67)) ** 3
    mean = 0.5 * (found.mole_fraction @ nbp + (cubic + 459.67) / 1.8)
    # The cuts are wide beside the slices the program adds up.
    assert found.watson_k == pytest.approx(np.cbrt(1.8 * mean) / (found.density / WATER_DENSITY_60F), rel=1e-3)
    # A vacuum curve is read with the same factor that the characterized whole has.
    under = boiling_point_at(np.array(TBP[1]), 1333.22, found.watson_k)
    vacuum = characterize(lab(pressure=1333.22, temperature=tuple(under)))
    read = next(r.values["watson"] for r in vacuum.remarks if r.code == "curve.from_vacuum")
    assert read == pytest.approx(vacuum.watson_k, rel=0.005)


def test_a_watson_factor_stands_in_for_the_density():
    first = characterize(lab())
    second = characterize(lab(density=None, watson_k=first.watson_k))
    assert second.density == pytest.approx(859.0, rel=1e-9)
    clash = characterize(lab(watson_k=12.6))
    assert clash.density == pytest.approx(859.0)
    assert any("12.60" in s for s in told(r for r in clash.remarks if r.kind == "warning"))
    unknown = characterize(lab(density=None))
    assert unknown.watson_k == pytest.approx(11.9, rel=1e-3)
    assert any("Nothing tells the density" in s for s in told(r for r in unknown.remarks if r.kind == "warning"))


def test_own_boundaries_and_automatic_ones():
    own = characterize(lab(cuts=CutChoice(boundaries=(400.0, 500.0, 600.0, 2000.0))))
    assert len(own.components) == 4
    np.testing.assert_allclose(own.edge_temperatures[1:-1], [400.0, 500.0, 600.0], rtol=1e-9)
    assert any("lies outside the curve" in s for s in told(own.remarks))
    widths = np.diff(automatic_boundaries(300.0, 1000.0))
    assert (np.diff(np.round(widths[:-1])) >= -11).all()
    assert widths[0] == pytest.approx(15.0)
    assert widths[-1] == pytest.approx(60.0)


@pytest.mark.parametrize(
    ("percent", "temperature", "wrong", "word"),
    [
        ([0, 10, 20, 30, 40, 50], [300, 320, 340, 335, 380, 400], [3], "below"),
        ([0, 10, 20, 30, 40, 50], [300, 320, 340, 340, 380, 400], None, "not above"),
        ([0, 10, 20, 130, 40, 50], [300, 320, 340, 360, 380, 400], [3], "0 to 100"),
        ([0, 10, 50, 20, 30, 40], [300, 320, 340, 360, 380, 400], [2], "row after"),
        ([0, 10, 10, 20, 30, 40], [300, 320, 340, 360, 380, 400], [2], "row before"),
        ([0, 10, 20, 30, 40, 50], [300, 320, 340, 36, 380, 400], [3], "range of boiling points"),
        ([0, 10, 20, 30, 40, 50], [300, 320, 340, 360, 380, 1400], [5], "range of boiling points"),
    ],
)
def test_faulty_points_are_found(percent, temperature, wrong, word):
    faults = check_points(percent, temperature)
    assert len(faults) == 1
    assert word in faults[0].message
    assert wrong is None or [f.index for f in faults] == wrong


def test_a_slip_of_one_digit_is_proposed():
    show = lambda kelvin: f"{kelvin * 1.8 - 459.67:.0f} °F"  # noqa: E731
    fahrenheit = [62, 171, 234, 338, 431, 518, 606, 597, 803, 927]
    faults = check_points([0, 5, 10, 20, 30, 40, 50, 60, 70, 80], [(f + 459.67) / 1.8 for f in fahrenheit], show)
    assert len(faults) == 1
    assert faults[0].message.startswith("60 %: 597 °F is below the 606 °F at 50 %")
    assert show(faults[0].proposal) == "697 °F"


def test_too_few_points_are_refused():
    with pytest.raises(ValueError, match="at least 5"):
        close_curve([0, 10, 20, 30], [300, 320, 340, 360])


@pytest.mark.parametrize(
    ("prop", "key", "average", "worst"),
    [
        ("molar_mass", "twu-1984", 0.01, 0.03),
        ("molar_mass", "riazi-daubert-1987", 0.035, 0.07),
        ("Tc", "twu-1984", 0.01, 0.02),
        ("Tc", "lee-kesler", 0.012, 0.025),
        ("Tc", "riazi-daubert-1987", 0.012, 0.02),
        ("Pc", "twu-1984", 0.03, 0.08),
        ("Pc", "lee-kesler", 0.04, 0.09),
        ("Pc", "riazi-daubert-1987", 0.05, 0.13),
        ("Vc", "twu-1984", 0.05, 0.11),
    ],
)
def test_correlations_give_pure_hydrocarbons_back(prop, key, average, worst):
    names = [f"C{n}H{2 * n + 2}" for n in (6, 8, 10, 12, 16, 20)]
    names += ["benzene", "toluene", "cyclohexane", "methylcyclohexane", "naphthalene", "o-xylene"]
    pure = [find(n) for n in names]
    found = estimate(np.array([c.nbp for c in pure]), np.array([c.specific_gravity for c in pure]), {prop: key})
    deviation = np.abs(found.values[prop] / np.array([getattr(c, prop) for c in pure]) - 1)
    assert deviation.mean() < average
    assert deviation.max() < worst


def test_acentric_factor_and_heat_capacity_of_pure_hydrocarbons():
    pure = [find(n) for n in ("n-hexane", "n-decane", "n-hexadecane", "toluene", "methylcyclohexane")]
    found = estimate(np.array([c.nbp for c in pure]), np.array([c.specific_gravity for c in pure]))
    for i, c in enumerate(pure):
        assert found.values["omega"][i] == pytest.approx(c.omega, abs=0.03)
        for T in (300.0, 600.0):
            mine, own = ideal_gas.heat_capacity(np.array([found.values["cp"][i], c.cp]), np.array([T]))[0]
            assert mine == pytest.approx(own, rel=0.06)


def test_every_correlation_is_described_and_stays_sane_over_a_crude():
    nbp = np.linspace(310.0, 1200.0, 60)
    sg = np.cbrt(1.8 * nbp) / 11.8
    for prop, entries in REGISTRY.items():
        for key, entry in entries.items():
            assert entry.source
            assert entry.formula
            choice = {} if prop == "density" else {prop: key}
            known = estimate(nbp, sg, choice).values
            values = entry.function(Fraction(nbp, sg, known)) if prop == "density" else known[prop]
            assert np.isfinite(values).all()
            if prop in ("molar_mass", "Tc", "Pc", "Vc") and key in ("twu-1984", "lee-kesler"):
                assert (np.diff(values[:45]) * (-1 if prop == "Pc" else 1) > 0).all(), (prop, key)


def test_pseudo_components_from_whatever_is_known():
    full = complete(Known("A", Tc=617.7, Pc=21.1e5, omega=0.49, molar_mass=0.1423))
    assert (full.Tc, full.Pc, full.omega, full.molar_mass) == (617.7, 21.1e5, 0.49, 0.1423)
    assert full.nbp == pytest.approx(find("n-decane").nbp, abs=2.0)
    decane = find("n-decane")
    two = complete(Known("B", nbp=decane.nbp, specific_gravity=decane.specific_gravity))
    assert two.molar_mass == pytest.approx(decane.molar_mass, rel=0.01)
    heavy = complete(Known("C", molar_mass=0.200, specific_gravity=0.83))
    again = complete(Known("D", nbp=heavy.nbp, specific_gravity=0.83))
    assert again.molar_mass == pytest.approx(0.200, rel=1e-9)
    assert any("boiling point" in s for s in heavy.estimates)
    with pytest.raises(ValueError, match="Tc, Pc and omega together"):
        complete(Known("E", Tc=600.0))
    with pytest.raises(ValueError, match="must lie above the boiling point"):
        complete(Known("F", nbp=700.0, Tc=600.0, specific_gravity=0.8))
