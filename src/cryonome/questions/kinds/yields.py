"""The study ``yields``: the products of a sample or a blend of samples, with their properties and tests."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal, NotRequired

import numpy as np
from pydantic import Field
from typing_extensions import TypedDict

from ...characterization.correlations import TEST_TEMPERATURES
from ...characterization.cuts import PRODUCTS, ProductRange
from ...characterization.product_tests import TESTS
from ...characterization.products import Product, products_of
from ...characterization.viscosity import within_method
from ...constants import WATER_DENSITY_60F
from ...document import Document, Reader, Study
from ...document.field_types import Cell, FluidRef, OfKind
from ...document.inner_fluids import used_samples
from ...document.kinds import StudyKind, register
from ...remarks import Remark
from ...results.blend_stocks import stocks_of
from ...results.common import Common
from ...results.context import Answer, Context
from ...telling.sentences import Units
from ...units import QuantityError, from_si, label, split

MOST = 60
"""Temperatures to cut at."""


class YieldsStudy(Study):
    """Asks for the products of a fluid that is made of samples: ``cut_at`` rising temperatures, without any the
    product ranges of its first sample."""

    kind: Literal["yields"]
    fluid: FluidRef
    cut_at: Annotated[tuple[Cell, ...], OfKind("temperature"), Field(json_schema_extra={"empty": "its products"})] = ()


class ProductAnswer(TypedDict):
    """A product: what it holds, and what of it is known; ``beyond`` are the keys of tests outside whose published
    range it lies, far beyond they are null."""

    name: str
    from_K: float
    to_K: float
    volume_fraction: float
    mass_fraction: float
    mole_fraction: float
    density_kg_m3: float | None
    api: float | None
    molar_mass_g_mol: float | None
    watson_k: float | None
    nbp_K: float | None
    kinematic_viscosity: list[dict[str, float | None]]
    d86_10_K: float | None
    d86_50_K: float | None
    d86_90_K: float | None
    flash_point_K: float | None
    freezing_point_K: float | None
    smoke_point_mm: float | None
    cetane_index: float | None
    beyond: list[str]
    quantities: dict[str, dict[str, Any]]


class YieldsAnswer(Common):
    """The products by rising temperature, light ends before them."""

    yields: NotRequired[list[ProductAnswer]]


@dataclass(frozen=True)
class Asked:
    """The fluid and its product ranges; none for those of its first sample."""

    fluid: str
    ranges: tuple[ProductRange, ...]


def read(study: YieldsStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    ranges = _cuts(study.cut_at, reader.at("cut_at")) if study.cut_at else ()
    return None if reader.bad else Asked(study.fluid, ranges)


def _cuts(cells: tuple[Cell, ...], reader: Reader) -> tuple[ProductRange, ...]:
    """Return the ranges between temperatures, called by them in the unit they were typed in."""
    if len(cells) > MOST:
        reader.fault(f"{len(cells)} temperatures are too many; cut at most at {MOST}")
        return ()
    out: list[ProductRange] = []
    before, previous, unit = "", -np.inf, ""
    for i, cell in enumerate(cells):
        T = reader.at(i).quantity(cell, "temperature")
        if T is None:
            return ()
        if previous >= T:
            reader.at(i).fault("the temperatures must rise")
            return ()
        previous = T
        try:
            unit = (split(cell)[1] if isinstance(cell, str) else "") or unit or "K"
        except QuantityError:
            unit = "K"
        words = f"{from_si(T, unit, 'temperature'):.6g}".replace("-", "\u2212")
        out.append(ProductRange(f"{before} to {words} {label(unit)}" if before else f"to {words} {label(unit)}", T))
        before = words
    return (*out, ProductRange(f"above {before} {label(unit)}", float("inf")))


def solve(asked: Asked, context: Context) -> Answer:
    """Return the products of the fluid. Raises DomainError where it is not made of samples."""
    project, fluid = context.project, context.fluid(asked.fluid)
    stocks, pures = stocks_of(project, fluid)
    ranges = asked.ranges
    if not ranges:
        own = [s for s in (project.document.sample(n) for n in used_samples(fluid, project.document)) if s is not None]
        ranges = project.characterized(own[0]).choices.products if own else PRODUCTS
    made = products_of(stocks, pures, ranges)
    return {"yields": [product_answer(p) for p in made], "notes": list(_remarks(made))}


def product_answer(p: Product) -> Answer:
    """Return a product as data."""
    there = bool(np.isfinite(p.density))

    def told(value: float) -> float | None:
        return float(value) if np.isfinite(value) else None

    return {
        "name": p.name, "from_K": p.start, "to_K": p.end, **{f"{b}_fraction": p.fractions[b] for b in ("volume", "mass", "mole")},
        "density_kg_m3": told(p.density), "api": 141.5 / (p.density / WATER_DENSITY_60F) - 131.5 if there else None,
        "molar_mass_g_mol": told(1e3 * p.molar_mass), "watson_k": told(p.watson_k), "nbp_K": told(p.nbp),
        "kinematic_viscosity": [
            {"temperature_K": float(T), "kinematic_viscosity_m2_s": within_method(v)} for T, v in zip(TEST_TEMPERATURES, p.viscosity)
        ],
        **{f"d86_{k}_K": told(T) for k, T in zip((10, 50, 90), p.d86)},
        **{t.key: p.tests.get(t.key) for t in TESTS}, "beyond": list(p.beyond),
        "quantities": {name: {"value": value, "unit": unit} for name, (value, unit) in p.quantities.items()},
    }  # fmt: skip


def _remarks(made: tuple[Product, ...]) -> list[Remark]:
    """Say by what each test was estimated, and of which products that is beyond its range."""
    out = []
    for test in TESTS:
        told = [p for p in made if test.key in p.tests]
        if not told:
            continue
        out.append(Remark("estimate", "yields.by", "", {"what": test.title, "by": test.source}))
        beyond = tuple(p.name for p in told if test.key in p.beyond)
        if beyond:
            values = {"what": test.title, "by": test.source, "names": beyond}
            out.append(Remark("extrapolation", "yields.beyond", "", values))  # type: ignore[arg-type]
    return out


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    most = max(answer["yields"], key=lambda y: y["volume_fraction"])
    return f"{most['name']} {100 * most['volume_fraction']:.3g} vol%, {len(answer['yields'])} products"


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the largest products by volume."""
    rows = sorted(answer["yields"], key=lambda y: -y["volume_fraction"])[:3]
    names = [f"{100 * y['volume_fraction']:.3g} vol% {y['name']}" for y in rows]
    return f"{', '.join(names)}."


def begin(fluid: str, at: tuple[float, float] | None) -> YieldsStudy:
    """Return a new question about a fluid."""
    return YieldsStudy(name=f"Yields of {fluid}", kind="yields", fluid=fluid)


register(
    StudyKind(
        name="yields", title="Yields", meaning="the products of a sample or blend, with their properties and tests", model=YieldsStudy,
        answer=YieldsAnswer, read=read, solve=solve, line=line, begin=begin, order=42,
        sentence="What does {fluid} yield, cut at {cut_at}?",
        phrases=("yields", "yield", "products", "product yields", "cut at", "fractions"),
        says=says,
    )
)  # fmt: skip
