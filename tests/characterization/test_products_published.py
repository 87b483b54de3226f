"""Tests of products within their published ranges, and products of blends against what their stocks give apart."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

import cryonome.questions  # noqa: F401  # gives the document its kinds
from cryonome.characterization.correlations import TEST_TEMPERATURES
from cryonome.characterization.cuts import ProductRange
from cryonome.characterization.methods import CONVERSIONS, DEFAULT_CONVERSIONS, Context, from_tbp
from cryonome.characterization.product_tests import FARTHEST, TESTS, Distillate, cetane_index
from cryonome.characterization.products import products_of
from cryonome.characterization.viscosity import from_index
from cryonome.components import find
from cryonome.components.oil_density import expanded_density
from cryonome.constants import WATER_DENSITY_60F
from cryonome.demo import collection, demo_document
from cryonome.errors import DomainError
from cryonome.results import Evaluator

C0 = 273.15
ONE = Evaluator().at(demo_document()).characterized(demo_document().sample("Varnholt crude")).stock
TWO = Evaluator().at(collection()).characterized(collection().sample("Tarn light")).stock  # fmt: skip
WHOLE = (ProductRange("all", np.inf),)
MIDDLE = (ProductRange("light", 450.0), ProductRange("middle", 620.0), ProductRange("heavy", np.inf))
GOOD = Distillate((480.0, 530.0, 590.0), 500.0, 0.84, 845.0, 11.8)


# Riazi and Daubert (1987): 65 to 590 °C. API 2B11.1 and 2B10.1 as in MNL50 (2005), ch. 3. ASTM D4737 (2010), table 1.
RANGES = {
    "flash_point_K": {"nbp_K": (338.0, 863.0)},
    "freezing_point_K": {"specific_gravity": (0.74, 0.90), "nbp_K": (402.8, 627.8), "watson_k": (11.2, 12.6)},
    "smoke_point_mm": {"specific_gravity": (0.70, 0.86), "nbp_K": (366.15, 561.15), "smoke_point_mm": (15.0, 42.0)},
    "cetane_index": {
        "density_kg_m3": (805.0, 895.0), "T10_K": (171 + C0, 259 + C0), "T50_K": (212 + C0, 308 + C0), "T90_K": (251 + C0, 363 + C0),
        "cetane_index": (32.5, 56.5),
    },
}  # fmt: skip


def test_ranges_are_those_that_were_published():
    assert [t.key for t in TESTS] == list(RANGES)
    for test in TESTS:
        own = {b.key: (b.low, b.high) for b in test.bounds}
        assert own.keys() == RANGES[test.key].keys()
        for key, ends in RANGES[test.key].items():
            assert own[key] == pytest.approx(ends, abs=0.05), (test.key, key)


@pytest.mark.parametrize(
    ("key", "change", "widths"),
    [
        ("flash_point_K", {"nbp": 338.0}, 0.0),
        ("flash_point_K", {"nbp": 338.0 - 52.5}, 0.1),
        ("flash_point_K", {"nbp": 863.0 + 105.0}, 0.2),
        ("freezing_point_K", {"watson_k": 12.88}, 0.2),
        ("freezing_point_K", {"specific_gravity": 0.70}, 0.25),
        ("smoke_point_mm", {"specific_gravity": 0.94}, 0.5),
        ("cetane_index", {"density_15C": 796.0}, 0.1),
        ("flash_point_K", {"nbp": float("nan")}, float("inf")),
    ],
)
def test_how_far_outside_its_range_a_product_lies_is_told_in_widths_of_it(key, change, widths):
    (test,) = (t for t in TESTS if t.key == key)
    assert test.off(GOOD) == 0.0 or key != "flash_point_K"
    found = test.off(replace(GOOD, **change))
    assert found >= widths - 1e-9
    if key in ("flash_point_K", "freezing_point_K"):
        assert found == pytest.approx(widths, abs=1e-9)


def test_a_test_far_outside_its_range_is_left_out_and_one_near_it_named():
    for product in products_of([(1.0, ONE)], (), MIDDLE):
        made = Distillate(product.d86, product.nbp, product.density / WATER_DENSITY_60F, 0.0, product.watson_k)
        for test in TESTS[:3]:
            off = test.off(replace(made, density_15C=product.density))
            assert (test.key in product.tests) == (off <= FARTHEST)
            assert (test.key in product.beyond) == (off > 0.0)
            if test.key in product.tests:
                assert product.tests[test.key] == pytest.approx(test.function(made))
    light, middle, heavy = products_of([(1.0, ONE)], (), MIDDLE)
    assert "cetane_index" in middle.tests
    at_15 = float(expanded_density(middle.density / WATER_DENSITY_60F, 288.15))
    assert middle.tests["cetane_index"] == pytest.approx(cetane_index(Distillate(middle.d86, 0.0, 0.0, at_15, 0.0)))
    assert "flash_point_K" not in heavy.tests or "flash_point_K" in heavy.beyond or heavy.nbp < 863.0
    assert light.tests["flash_point_K"] < middle.tests["flash_point_K"]


def test_d86_of_a_product_is_that_of_its_own_curve():
    """By the conversion of API 1994 from the slice of the curve that it is."""
    _, middle, _ = products_of([(1.0, ONE)], (), MIDDLE)
    low, high = (float(ONE.below(np.array(T))) for T in (450.0, 620.0))
    context = Context(middle.density / WATER_DENSITY_60F, middle.watson_k)
    tbp = lambda x: ONE.curve.at(low + np.asarray(x) * (high - low))  # noqa: E731
    wanted = from_tbp(tbp, CONVERSIONS["D86"][DEFAULT_CONVERSIONS["D86"]], np.array([0.1, 0.5, 0.9]), context)
    assert middle.d86 == pytest.approx(tuple(wanted), abs=0.8)
    assert 450.0 - 5.0 < middle.d86[0] < middle.d86[1] < middle.d86[2] < 620.0


def test_a_blend_adds_volumes_masses_and_moles_and_viscosities_by_their_index():
    shares = (0.3, 0.7)
    ranges = MIDDLE
    alone = [products_of([(m, s)], (), ranges) for m, s in zip(shares, (ONE, TWO))]
    both = products_of([(shares[0], ONE), (shares[1], TWO)], (), ranges)
    masses = [m * (s.amounts["mass"].sum() + sum(s.light_mass)) for m, s in zip(shares, (ONE, TWO))]
    for own, first, second in zip(both[-3:], alone[0][-3:], alone[1][-3:]):
        mass = [w * p.fractions["mass"] for w, p in zip(masses, (first, second))]
        volume = [w / p.density for w, p in zip(mass, (first, second))]
        moles = [w / p.molar_mass for w, p in zip(mass, (first, second))]
        assert own.density == pytest.approx(sum(mass) / sum(volume), rel=1e-9)
        assert own.molar_mass == pytest.approx(sum(mass) / sum(moles), rel=1e-9)
        lo, hi = sorted((first.nbp, second.nbp))
        assert lo - 1e-6 <= own.nbp <= hi + 1e-6
        for k in range(3):
            lo, hi = sorted((first.d86[k], second.d86[k]))
            assert lo - 6.0 <= own.d86[k] <= hi + 6.0
        limits = [np.array([s.below(np.array(first.start)), s.below(np.array(first.end))]) for s in (ONE, TWO)]
        if np.isfinite(first.end) and first.name == "middle":
            index = sum(m * s.between(s.index * s.amounts["mass"][:, None], x)[0] for m, s, x in zip(shares, (ONE, TWO), limits))  # fmt: skip
            assert own.viscosity == pytest.approx(tuple(from_index(index / sum(mass))), rel=1e-6)
            for nu, a, b in zip(own.viscosity, first.viscosity, second.viscosity):
                assert min(a, b) < nu < max(a, b)
    assert len(TEST_TEMPERATURES) == len(both[-1].viscosity)


def test_single_components_go_where_they_boil_and_thin_only_what_is_mostly_oil():
    toluene, octane = find("toluene"), find("n-octane")
    light, middle, heavy = products_of([(1.0, ONE)], [(0.05, toluene)], MIDDLE)[-3:]
    plain = products_of([(1.0, ONE)], (), MIDDLE)[-3:]
    mass = sum(ONE.amounts["mass"])
    assert light.fractions["mass"] == pytest.approx(
        (plain[0].fractions["mass"] * mass + 0.05) / (mass + 0.05), rel=1e-9
    )
    assert middle.fractions["mass"] == pytest.approx(plain[1].fractions["mass"] * mass / (mass + 0.05), rel=1e-9)
    assert heavy.density == pytest.approx(plain[2].density, rel=1e-9)
    # Mostly single components: no viscosity of the oil stands for it.
    drowned = products_of([(1.0, ONE)], [(50.0, octane)], MIDDLE)[-3:]
    assert drowned[0].viscosity == ()
    assert drowned[1].viscosity != ()
    alone = products_of([], [(1.0, octane), (1.0, toluene)], WHOLE)
    (only,) = [p for p in alone if p.fractions["volume"] > 0.0]
    assert only.density == pytest.approx(2.0 / sum(1.0 / c.molar_mass * c.standard_liquid_volume for c in (octane, toluene)))  # fmt: skip
    assert only.tests == {}
    with pytest.raises(DomainError, match="there is nothing to cut"):
        products_of([], [(0.0, octane)], WHOLE)


def test_a_quantity_is_told_only_where_every_stock_has_it_alike():
    held = products_of([(1.0, ONE)], (), WHOLE)[-1].quantities
    assert "sulphur" in held
    none = replace(ONE, quantities={})
    assert products_of([(0.5, ONE), (0.5, none)], (), WHOLE)[-1].quantities == {}
    values, basis, unit = ONE.quantities["sulphur"]
    richer = replace(ONE, quantities={"sulphur": (2.0 * values, basis, unit)})
    mixed = products_of([(0.5, ONE), (0.5, richer)], (), WHOLE)[-1].quantities["sulphur"]
    assert mixed[0] == pytest.approx(1.5 * held["sulphur"][0], rel=1e-9)
    other = replace(ONE, quantities={"sulphur": (values, "volume", unit)})
    assert products_of([(0.5, ONE), (0.5, other)], (), WHOLE)[-1].quantities == {}
    thinned = products_of([(1.0, ONE)], [(1.0, find("n-octane"))], WHOLE)[-1].quantities["sulphur"][0]
    oil = float(ONE.amounts["mass"].sum())
    assert thinned == pytest.approx(held["sulphur"][0] * oil / (oil + 1.0), rel=0.03)
