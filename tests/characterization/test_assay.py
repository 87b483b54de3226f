"""Whole-sample numbers, curves and light ends are met together, and every estimate and clash is said."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ask import told
from cryonome.characterization import LabSample, characterize
from cryonome.characterization.assay import IN_CRUDES
from cryonome.characterization.correlations import REGISTRY, Fraction
from cryonome.characterization.lab_sample import (
    CutChoice,
    LightEnds,
    Quantity,
    ViscosityCurve,
    ViscosityPoint,
)
from cryonome.characterization.property_curves import PropertyPoints
from cryonome.components import find
from cryonome.components.oil_density import expanded_density
from cryonome.constants import WATER_DENSITY_60F
from mixtures import TBP

ENDS = tuple(find(n) for n in ("propane", "n-butane", "n-pentane"))
DENSITY = PropertyPoints((10.0, 30.0, 50.0, 70.0, 90.0), (742.0, 812.0, 861.0, 907.0, 972.0))
MASS = PropertyPoints((10.0, 50.0, 80.0), (0.100, 0.245, 0.470))


def lab(**changes) -> LabSample:
    return LabSample("S", *TBP, **{"density": 859.0, **changes})


def texts(result, kind):
    return told(r for r in result.remarks if r.kind == kind)


@settings(max_examples=30)
@given(
    basis=st.sampled_from(["volume", "mass", "mole"]),
    of_ends=st.sampled_from(["volume", "mass", "mole"]),
    amounts=st.tuples(*[st.floats(0.05, 3.0)] * 3),
    included=st.booleans(),
    curves=st.booleans(),
    molar_mass=st.one_of(st.none(), st.floats(0.17, 0.24)),
    density=st.floats(820.0, 890.0),
)
def test_density_molar_mass_and_light_ends_are_met_together(
    basis, of_ends, amounts, included, curves, molar_mass, density
):
    ends = LightEnds(ENDS, amounts, of_ends, included)
    more = {"density_curve": DENSITY, "molar_mass_curve": MASS} if curves else {}
    result = characterize(lab(basis=basis, light_ends=ends, density=density, molar_mass=molar_mass, **more))
    sg = np.array([c.specific_gravity for c in result.components])
    mass = np.array([c.molar_mass for c in result.components])
    assert result.volume_fraction @ sg * WATER_DENSITY_60F == pytest.approx(density, rel=1e-9)
    assert result.mole_fraction @ mass == pytest.approx(result.molar_mass, rel=1e-9)
    if molar_mass is not None:
        assert result.molar_mass == pytest.approx(molar_mass, rel=1e-9)
    fraction = {"volume": result.volume_fraction, "mass": result.mass_fraction, "mole": result.mole_fraction}[of_ends]
    np.testing.assert_allclose(100 * fraction[:3], amounts, rtol=1e-8)
    # The three ways of counting agree with each other.
    np.testing.assert_allclose(result.mass_fraction, result.mole_fraction * mass / result.molar_mass, rtol=1e-9)
    for f in (result.mole_fraction, result.mass_fraction, result.volume_fraction):
        assert f.sum() == pytest.approx(1.0, abs=1e-12)
    assert sum(y.volume for y in result.yields) == pytest.approx(1.0, abs=1e-9)
    assert sum(y.mass for y in result.yields) == pytest.approx(1.0, abs=1e-9)


def test_a_curve_by_mass_holds_its_masses():
    percent, T = np.array(TBP[0]), np.array(TBP[1])
    result = characterize(lab(basis="mass", cuts=CutChoice(boundaries=tuple(T[3:-1].tolist()))))
    np.testing.assert_allclose(100 * np.cumsum(result.mass_fraction)[:-1], percent[3:-1], atol=0.02)


def test_curves_move_with_the_percents_of_another_basis():
    by_volume = characterize(lab(method="D86", density_curve=DENSITY, density=None))
    # The same sheet by mass: percents rise faster with the heavy end, for points and densities alike.
    x = np.linspace(0.0, 1.0, 2001)
    sg = np.cbrt(1.8 * by_volume.entered.at(x)) / by_volume.watson_k
    mass = np.concatenate([[0.0], np.cumsum(0.5 * (sg[1:] + sg[:-1]))])
    to_mass = lambda p: tuple(np.interp(np.array(p) / 100, x, 100 * mass / mass[-1]).tolist())  # noqa: E731
    sheet = LabSample(
        "S", to_mass(TBP[0]), TBP[1], method="D86", basis="mass", watson_k=by_volume.watson_k,
        density_curve=PropertyPoints(to_mass(DENSITY.percent), DENSITY.value),
    )  # fmt: skip
    again = characterize(sheet)
    assert again.density == pytest.approx(by_volume.density, rel=1e-3)
    middle = np.linspace(0.05, 0.95, 19)
    assert np.abs(again.curve.at(middle) - by_volume.curve.at(middle)).max() < 2.0


def test_a_measured_curve_wins_and_is_scaled_or_kept():
    scaled = characterize(lab(density_curve=DENSITY, density=870.0))
    assert scaled.density == pytest.approx(870.0, rel=1e-9)
    assert any("density curve adds up to" in t and "scaled" in t for t in texts(scaled, "warning"))
    kept = characterize(lab(density_curve=DENSITY, density=870.0, keep=frozenset({"density"})))
    assert kept.density != pytest.approx(870.0, rel=2e-3)
    assert any("kept, as chosen" in t for t in texts(kept, "warning"))
    alone = characterize(lab(density_curve=DENSITY, density=None))
    assert alone.density == pytest.approx(kept.density, rel=1e-9)
    # Fine cuts give the curve back at its points.
    fine = characterize(lab(density_curve=DENSITY, density=None, cuts=CutChoice(number=150, equal="volume")))
    middle = 50 * (fine.edges[1:] + fine.edges[:-1])
    rho = np.array([c.specific_gravity for c in fine.components]) * WATER_DENSITY_60F
    np.testing.assert_allclose(np.interp(DENSITY.percent, middle, rho), DENSITY.value, rtol=2e-3)
    assert any("continued below 10 % and above 90 %" in t for t in texts(fine, "extrapolation"))


def test_curves_that_contradict_each_other_are_told():
    wrong = PropertyPoints((10.0, 50.0, 80.0), (0.180, 0.420, 0.800))
    assert any("contradicts" in t for t in texts(characterize(lab(molar_mass_curve=wrong)), "warning"))
    assert not any("contradicts" in t for t in texts(characterize(lab(molar_mass_curve=MASS)), "warning"))


def test_light_ends_larger_than_the_front_allows():
    huge = characterize(lab(light_ends=LightEnds(ENDS, (4.0, 6.0, 10.0), "volume")))
    assert any("larger than the front" in t for t in texts(huge, "warning"))
    small = characterize(lab(light_ends=LightEnds(ENDS, (0.1, 0.3, 0.8), "volume")))
    assert not any("larger than the front" in t for t in texts(small, "warning"))
    with pytest.raises(ValueError, match="nothing is left"):
        characterize(lab(light_ends=LightEnds(ENDS, (40.0, 40.0, 19.5), "volume")))
    with pytest.raises(ValueError, match="light ends"):
        characterize(lab(light_ends=LightEnds(ENDS, (30.0, 30.0, 30.0), "mole"), molar_mass=0.5))


def test_estimated_light_ends_take_their_part_of_the_front_whatever_else_is_listed():
    def amounts(*names):
        found = characterize(lab(light_ends=LightEnds(tuple(find(n) for n in names))))
        return dict(zip((c.name for c in found.components), found.volume_fraction.tolist())), found

    plain = characterize(lab())
    every, whole = amounts(*IN_CRUDES)
    # n-pentane lies between isopentane and cyclopentane, and takes what boils nearest to it.
    near = 0.5 * (find("n-pentane").nbp + np.array([find(n).nbp for n in ("isopentane", "cyclopentane")]))
    assert every["n-pentane"] == pytest.approx(float(np.diff(plain.curve.distilled(near))[0]), rel=1e-9)
    for listed in (("n-pentane",), ("isopentane", "n-pentane", "n-hexane"), ("propane", "n-pentane", "cyclohexane")):
        few, _ = amounts(*listed)
        assert all(few[n] == pytest.approx(every[n], rel=1e-9) for n in listed)
    # All of them together are the front, up to as far above cyclohexane as its border lies below.
    last = 1.5 * find("cyclohexane").nbp - 0.5 * find("benzene").nbp
    assert sum(every[n] for n in IN_CRUDES) == pytest.approx(plain.curve.distilled(np.array([last]))[0], rel=1e-9)
    assert whole.curve.at(np.array([0.3]))[0] == pytest.approx(plain.curve.at(np.array([0.3]))[0])
    sour, result = amounts("propane", "n-pentane", "hydrogen sulfide")
    assert sour["n-pentane"] == pytest.approx(every["n-pentane"])
    assert not sour.get("hydrogen sulfide")
    assert any("Hydrogen sulfide: no hydrocarbons" in s for s in texts(result, "warning"))


def test_a_gap_between_light_ends_and_the_first_cut_is_told():
    """The curve reaches 26 degC at 0.5 %: n-butane ends at 14 degC, and nothing is listed between."""
    gap = characterize(lab(light_ends=LightEnds((find("n-butane"),), (0.5,), "volume")))
    assert any("nothing boils between" in s for s in texts(gap, "warning"))
    close = characterize(lab(light_ends=LightEnds((find("n-butane"), find("n-pentane")), (0.2, 1.3), "volume")))
    assert not any("nothing boils between" in s for s in texts(close, "warning"))


def test_cuts_by_number_and_by_equal_amounts():
    for equal, attribute in (("volume", "volume_fraction"), ("mass", "mass_fraction"), ("mole", "mole_fraction")):
        result = characterize(lab(cuts=CutChoice(number=12, equal=equal)))
        np.testing.assert_allclose(getattr(result, attribute), 1 / 12, rtol=1e-9)
    widths = np.diff(characterize(lab(cuts=CutChoice(number=10))).edge_temperatures)
    np.testing.assert_allclose(widths, widths[0], rtol=1e-6)
    named = characterize(lab(cuts=CutChoice(boundaries=(400.0, 600.0), names=(("127 to 327 °C", "middle"),))))
    assert [c.name for c in named.components][1] == "S middle"


@pytest.mark.parametrize("dynamic", [False, True])
def test_viscosities_are_met_at_one_and_two_temperatures(dynamic):
    points = (
        ViscosityPoint(310.0, 7e-3 if dynamic else 8e-6, dynamic),
        ViscosityPoint(350.0, 2.6e-3 if dynamic else 3.2e-6, dynamic),
    )
    for count in (1, 2):
        result = characterize(lab(viscosity=points[:count]))
        assert len(result.viscosity) == count
        if not dynamic:
            assert [v for _, v in result.viscosity] == pytest.approx([p.value for p in points[:count]], rel=1e-9)
        assert (np.diff(result.cut_viscosity[:, 0]) > 0).all()
        assert (result.cut_viscosity[:, 0] > result.cut_viscosity[:, 1]).all()


def test_a_viscosity_curve_is_followed():
    curve = ViscosityCurve(310.9277777777778, PropertyPoints((30.0, 50.0, 70.0), (1.6e-6, 5e-6, 35e-6)))
    result = characterize(lab(viscosity_curves=(curve,), cuts=CutChoice(number=100, equal="volume")))
    middle = 50 * (result.edges[1:] + result.edges[:-1])
    found = np.exp(np.interp([30.0, 50.0, 70.0], middle, np.log(result.cut_viscosity[:, 0])))
    np.testing.assert_allclose(found, curve.points.value, rtol=0.02)


def test_an_additive_quantity_adds_up():
    sulphur = Quantity("sulphur", "mass%", PropertyPoints((10.0, 50.0, 90.0), (0.1, 0.9, 2.4)), "mass", 1.3)
    result = characterize(lab(quantities=(sulphur,)))
    assert result.quantities["sulphur"] @ result.mass_fraction == pytest.approx(1.3, rel=1e-9)
    kept = characterize(lab(quantities=(sulphur,), keep=frozenset({"sulphur"})))
    assert kept.quantities["sulphur"] @ kept.mass_fraction == pytest.approx(1.05, abs=0.15)
    assert any("sulphur" in t for t in texts(kept, "warning"))


def test_two_ways_to_the_density_of_a_warm_liquid():
    # ASTM table 6A: a crude of 33 degAPI at 120 degF shrinks to 60 degF by 0.972.
    sg = 141.5 / (33.0 + 131.5)
    ratio = expanded_density(sg, (120 + 459.67) / 1.8) / (sg * WATER_DENSITY_60F)
    assert float(ratio) == pytest.approx(0.972, abs=0.001)
    cuts = [find(n) for n in ("n-octane", "n-dodecane", "n-hexadecane", "toluene", "methylcyclohexane")]
    arrays = {k: np.array([getattr(c, k) for c in cuts]) for k in ("Tc", "Pc", "molar_mass")}
    fraction = Fraction(*(np.array([getattr(c, k) for c in cuts]) for k in ("nbp", "specific_gravity")), arrays)
    both = [e.function(fraction) for e in REGISTRY["liquid_density"].values()]
    np.testing.assert_allclose(both[0], both[1], rtol=0.025)
