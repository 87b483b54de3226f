"""Products: they add up to the whole, are the same however the whole was made, and show tests near what is measured."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.characterization.cuts import PRODUCTS, ProductRange
from cryonome.characterization.product_tests import (
    Distillate,
    cetane_index,
    flash_point,
    freezing_point,
    smoke_point,
)
from cryonome.characterization.products import products_of
from cryonome.components import find
from cryonome.demo import demo_document
from cryonome.document.edits import add_study
from cryonome.document.model import validate_study
from cryonome.questions import solve
from cryonome.results import Evaluator

C0 = 273.15
DEMO = demo_document()
CRUDE = Evaluator().at(DEMO).characterized(DEMO.sample("Varnholt crude"))


def distillate(T10=480.0, T50=530.0, T90=590.0, density=845.0, nbp=500.0, sg=0.81, watson=11.8) -> Distillate:
    """Return a product, K and kg/m3."""
    return Distillate((T10, T50, T90), nbp, sg, density, watson)


@pytest.mark.parametrize(("name", "closed_cup"), [("n-decane", 46.0), ("n-dodecane", 74.0), ("n-tetradecane", 99.0)])
def test_flash_points_of_paraffins_are_those_measured(name: str, closed_cup: float) -> None:
    T = find(name).nbp
    found = flash_point(distillate(T10=T))
    assert found - C0 == pytest.approx(closed_cup, abs=8.0)
    # The same in degrees Rankine as it was first published.
    R = 1.8 * T
    assert 1.8 * found == pytest.approx(1.0 / (-0.014568 + 2.84947 / R + 1.903e-3 * np.log(R)), rel=2e-3)


def test_cetane_index_against_the_two_variable_method() -> None:
    # At the centre of the equation all terms but the first vanish.
    centre = distillate(215.0 + C0, 260.0 + C0, 310.0 + C0, 850.0)
    assert cetane_index(centre) == pytest.approx(45.2, abs=1e-12)
    own = distillate(215.0 + C0, 265.0 + C0, 320.0 + C0, 845.0)
    D, B = 0.845, 265.0
    D976 = 454.74 - 1641.416 * D + 774.74 * D**2 - 0.554 * B + 97.803 * np.log10(B) ** 2
    assert cetane_index(own) == pytest.approx(D976, abs=0.5)


def test_kerosene_freezes_and_smokes_as_jet_fuel_does() -> None:
    jet = distillate(nbp=480.0, sg=0.81, watson=np.cbrt(1.8 * 480.0) / 0.81)
    assert -60.0 < freezing_point(jet) - C0 < -40.0
    # Albahri et al. (2002): 0.839 API + 0.0182634 Tb - 22.97, Tb in K.
    assert smoke_point(jet) == pytest.approx(0.839 * (141.5 / 0.81 - 131.5) + 0.0182634 * 480.0 - 22.97, abs=2.5)


ENDS = st.lists(st.floats(330.0, 1000.0), min_size=1, max_size=6, unique=True).map(sorted)


@given(ENDS, st.floats(0.0, 3.0))
def test_products_add_up_to_the_whole(ends: list[float], toluene: float) -> None:
    ranges = [*(ProductRange(f"{T:.6g}", T) for T in ends), ProductRange("rest", np.inf)]
    pures = ((toluene, find("toluene")), (0.02, find("n-butane")))
    made = products_of([(1.0, CRUDE.stock)], pures, ranges)
    for basis in ("volume", "mass", "mole"):
        assert sum(p.fractions[basis] for p in made) == pytest.approx(1.0, abs=1e-12)
    there = [p for p in made if p.fractions["volume"] > 1e-9]
    volume, mass = (np.array([p.fractions[b] for p in there]) for b in ("volume", "mass"))
    density = np.array([p.density for p in there])
    assert mass / volume == pytest.approx(density * (mass @ (1.0 / density)), rel=1e-9)
    assert [p.start for p in made[1:]] == pytest.approx([p.end for p in made[:-1]])


def test_a_sample_divided_and_blended_again_yields_the_same() -> None:
    one = products_of([(1.0, CRUDE.stock)], (), PRODUCTS)
    two = products_of([(0.3, CRUDE.stock), (0.7, CRUDE.stock)], (), PRODUCTS)
    for a, b in zip(one, two, strict=True):
        assert b.fractions == pytest.approx(a.fractions)
        assert b.d86 == pytest.approx(a.d86, nan_ok=True)
        assert (b.density, b.viscosity) == (pytest.approx(a.density), pytest.approx(a.viscosity))
        assert b.quantities["sulphur"][0] == pytest.approx(a.quantities["sulphur"][0])
    # Sulphur by mass adds up to that of the whole.
    held = sum(p.fractions["mass"] * p.quantities["sulphur"][0] for p in one)
    quantity = next(q for q in CRUDE.choices.quantities if q.name == "sulphur")
    assert held == pytest.approx(quantity.bulk, rel=1e-9)


def test_yields_of_a_blend_are_asked_of_the_document() -> None:
    asked = {"name": "cut", "kind": "yields", "fluid": "Export blend", "cut_at": ["200 degF", "350 degF", "650 degF"]}
    wrong = {"name": "gas", "kind": "yields", "fluid": "Selden gas"}
    document = add_study(add_study(DEMO, validate_study(asked)), validate_study(wrong))
    answers = solve(document, ["cut", "gas"])["answers"]
    rows = answers["cut"]["yields"]
    assert [r["name"] for r in rows] == ["light ends", "to 200 °F", "200 to 350 °F", "350 to 650 °F", "above 650 °F"]
    assert sum(r["volume_fraction"] for r in rows) == pytest.approx(1.0)
    assert "has no sample in it" in answers["gas"]["error"]
