"""From a sample of the document, quantities as entered, to lab data in SI."""

from __future__ import annotations

import numpy as np

from ..characterization import LabSample
from ..characterization.carbon_analysis import CarbonAnalysis, PlusFraction
from ..characterization.cuts import PRODUCTS, REGIONS, ProductRange
from ..characterization.lab_sample import CutChoice, LightEnds, Quantity, Tail, ViscosityCurve, ViscosityPoint
from ..characterization.methods import METHODS
from ..characterization.property_curves import PropertyPoints
from ..document.cells import EMPTY
from ..document.model import Cell, Cuts, Sample
from ..document.sample_checks import CARBON, TWO_PART, light_ends
from ..document.sample_points import (
    Points,
    boiling_points,
    carbon_rows,
    property_points,
    quantity_points,
    tail_points,
    viscosity,
    viscosity_points,
)
from ..units import QuantityError, from_si, parse, split


def plain_number(cell: Cell) -> float:
    """Return a cell that holds a plain number, or a percentage as its number."""
    if isinstance(cell, str):
        return split(cell)[0]
    if cell is None:
        raise QuantityError("a number is wanted")
    return float(cell)


def given(cell: Cell, kind: str, default_unit: str | None = None) -> float | None:
    """Return a cell in SI, None where it is empty."""
    return None if cell in EMPTY else parse(cell, kind, default_unit)


def _number(cell: Cell) -> float | None:
    return None if cell in EMPTY else plain_number(cell)


def lab_sample(sample: Sample) -> LabSample:
    """Return the lab data of a sample in SI; faulty points of the curves are left out."""
    curve, bulk = sample.distillation, sample.bulk
    points = boiling_points(sample) if curve.method != CARBON else Points()
    pressure = given(curve.pressure, "pressure")
    return LabSample(
        name=sample.name,
        percent=tuple(points.percents),
        temperature=tuple(points.values),
        density=given(bulk.density, "density"),
        molar_mass=given(bulk.molar_mass, "molar_mass"),
        watson_k=_number(bulk.watson_k),
        method=curve.method,
        basis=curve.basis,
        pressure=METHODS[curve.method].pressure if pressure is None else pressure,
        cracking=curve.cracking,
        conversion=curve.conversion,
        tail=_tail(sample) if curve.method == TWO_PART else None,
        interpolation=curve.interpolation,
        ends=curve.ends,
        initial=given(curve.initial, "temperature"),
        final=given(curve.final, "temperature"),
        viscosity=_bulk_viscosity(sample),
        density_curve=_curve(property_points(sample, "density")),
        molar_mass_curve=_curve(property_points(sample, "molar_mass")),
        viscosity_curves=_viscosity_curves(sample),
        quantities=tuple(
            Quantity(q.name, q.unit, _curve(quantity_points(sample, i)), q.basis, _number(q.bulk))
            for i, q in enumerate(sample.curves.quantities)
        ),
        keep=frozenset(sample.curves.keep),
        light_ends=_light_ends(sample),
        carbon=_carbon(sample) if curve.method == CARBON else None,
        cuts=_cut_choice(sample.cuts),
        correlations=dict(sample.correlations),
        conversions=dict(sample.conversions),
        products=_products(sample.cuts),
    )


def _curve(points: Points) -> PropertyPoints:
    return PropertyPoints(tuple(points.percents), tuple(points.values))


def _tail(sample: Sample) -> Tail | None:
    tail = sample.distillation.tail
    if tail is None:
        return None
    points = tail_points(sample)
    return Tail(tuple(points.percents), tuple(points.values), parse(tail.pressure, "pressure"))  # type: ignore[arg-type]


def _bulk_viscosity(sample: Sample) -> tuple[ViscosityPoint, ...]:
    out = []
    for T, cell in sample.bulk.viscosity:
        found = None if cell in EMPTY or T in EMPTY else viscosity(cell, (), [])
        if found is not None:
            out.append(ViscosityPoint(parse(T, "temperature"), *found))  # type: ignore[arg-type]
    return tuple(out[:2])


def _viscosity_curves(sample: Sample) -> tuple[ViscosityCurve, ...]:
    out = []
    for i, curve in enumerate(sample.curves.viscosity):
        points, dynamic = viscosity_points(sample, i)
        if points.percents:
            out.append(ViscosityCurve(parse(curve.at, "temperature"), _curve(points), dynamic))  # type: ignore[arg-type]
    return tuple(out[:2])


def _light_ends(sample: Sample) -> LightEnds | None:
    found = light_ends(sample, (), [])
    if not found:
        return None
    ends = sample.light_ends
    percent = tuple(p for _, p in found if p is not None) if ends.mode == "measured" else None
    return LightEnds(tuple(c for c, _ in found), percent, ends.basis, ends.curve == "whole")


def _carbon(sample: Sample) -> CarbonAnalysis:
    curve, rows = sample.distillation, carbon_rows(sample)
    plus = None
    if rows.plus is not None:
        number, percent, own_mass, own_sg = rows.plus
        mass = given(curve.plus.molar_mass, "molar_mass")
        density = given(curve.plus.density, "density")
        sg = own_sg if density is None else from_si(density, "SG", "density")
        mass = own_mass if mass is None else mass
        if mass is None or sg is None:
            raise ValueError(f"molar mass and density of C{number}+ are needed")
        plus = PlusFraction(number, percent, mass, sg)
    last, lumps = _number(curve.split.last), _number(curve.lumping.number)
    return CarbonAnalysis(
        components=tuple(c for c, _ in rows.components),
        percent=tuple(p for _, p in rows.components),
        groups=tuple(rows.groups),
        plus=plus,
        basis=curve.basis or METHODS[CARBON].basis,
        split=curve.split.model,
        shape=_number(curve.split.shape) or 1.0,
        last=None if last is None else int(last),
        lumping=curve.lumping.rule,
        lumps=None if lumps is None else int(lumps),
    )


def _cut_choice(cuts: Cuts) -> CutChoice:
    regions = REGIONS
    if cuts.regions:
        regions = tuple(
            (np.inf if end in EMPTY else parse(end, "temperature"), parse(width, "temperature_difference"))  # type: ignore[arg-type]
            for end, width in cuts.regions
        )
        if np.isfinite(regions[-1][0]):
            regions = (*regions, (np.inf, regions[-1][1]))
    boundaries = None
    if cuts.boundaries is not None:
        boundaries = tuple(sorted(parse(b, "temperature") for b in cuts.boundaries if b is not None))
    number = _number(cuts.number)
    return CutChoice(
        boundaries, None if number is None else int(number), cuts.equal, regions, tuple(cuts.names.items())
    )


def _products(cuts: Cuts) -> tuple[ProductRange, ...]:
    if not cuts.products:
        return PRODUCTS
    return tuple(ProductRange(p.name, np.inf if p.end in EMPTY else parse(p.end, "temperature")) for p in cuts.products)
