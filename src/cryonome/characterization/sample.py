"""From lab data to light ends and cuts with properties."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import WATER_DENSITY_60F
from ..remarks import Remark, Value, Word, kelvin
from .assay import Assay, build_assay
from .averages import FAHRENHEIT, GASSY, mean_average_boiling_point, watson_factor
from .carbon_sample import carbon_assay, carbon_names, lump
from .correlations import DEFAULTS, REGISTRY, TITLES, Estimated, Fraction, estimate
from .cuts import START, ZERO_F, automatic_boundaries, cut_edges, yields
from .lab_sample import CutChoice, LabSample
from .products import Stock
from .quantities import slice_quantities
from .result import CharacterizedSample
from .viscosities import measured_viscosities
from .viscosity import from_index, index

Array = NDArray[np.float64]

WATSON_RANGE = (9.5, 13.5)


def characterize(sample: LabSample) -> CharacterizedSample:
    """Cut the sample and give every cut its properties.

    Density and molar mass follow their curves where measured, else a correlation along the boiling curve, scaled so
    that the whole sample has the measured values. Raises ValueError with fewer than five points, or where the
    numbers cannot be met together.
    """
    remarks: list[Remark] = []
    if sample.carbon is not None:
        return _characterize_carbon(sample, remarks)
    assay = build_assay(sample, remarks)
    sample = assay.sample or sample
    edges = _cut_places(sample, assay, remarks)
    return _assemble(sample, assay, edges, remarks)


def _characterize_carbon(sample: LabSample, remarks: list[Remark]) -> CharacterizedSample:
    assay, groups = carbon_assay(sample, remarks)
    whole = _assemble(sample, assay, assay.along("volume"), remarks)
    return whole if groups is None else lump(whole, groups)


def _cut_places(sample: LabSample, assay: Assay, remarks: list[Remark]) -> Array:
    """Return the distilled fractions (m + 1,) by volume at the edges of the cuts."""
    choice, curve = sample.cuts, assay.curve
    start = float(assay.along("volume")[0])
    low, high = float(curve.at(np.array(start))), float(curve.temperature[-1])
    if choice.boundaries is not None:
        boundaries = np.array(choice.boundaries)
        outside = int(((boundaries <= low) | (boundaries >= high)).sum())
        if outside:
            code = "cuts.boundary_outside" if outside == 1 else "cuts.boundaries_outside"
            remarks.append(Remark("warning", code, "cuts", {"count": outside}))
        return cut_edges(curve, boundaries, start)
    if choice.number is not None:
        if choice.equal == "temperature":
            return cut_edges(curve, np.linspace(low, high, choice.number + 1)[1:-1], start)
        volume, amount = assay.along("volume"), assay.along(choice.equal)
        inner = np.linspace(amount[0], 1.0, choice.number + 1)
        return np.interp(inner, amount, volume)
    return cut_edges(
        curve, automatic_boundaries(low, high, choice.regions, ZERO_F if choice.unit == "degF" else START), start
    )


def _assemble(sample: LabSample, assay: Assay, edges: Array, remarks: list[Remark]) -> CharacterizedSample:
    """Gather the slices between the edges (m + 1,) into cuts."""
    along = assay.along("volume")
    temperatures = assay.curve.at(edges)

    def gathered(amount: Array) -> Array:
        below = np.concatenate([np.zeros((1, *amount.shape[1:])), np.cumsum(amount, axis=0)])
        if amount.ndim == 1:
            return np.diff(np.interp(edges, along, below))
        return np.stack([np.diff(np.interp(edges, along, column)) for column in below.T], axis=-1)

    volume, mass, mole = (gathered(assay.amounts(b)) for b in ("volume", "mass", "mole"))
    nbp = gathered(assay.amounts("volume") * assay.nbp) / volume
    sg = mass / volume / WATER_DENSITY_60F
    found = estimate(nbp, sg, sample.correlations, {"molar_mass": mass / mole}, factors=sample.factors)
    if sample.carbon is None and not sample.molar_mass_curve:
        key = sample.correlations.get("molar_mass", DEFAULTS["molar_mass"])
        found.used["molar_mass"] = REGISTRY["molar_mass"][key]
        found.outside["molar_mass"] = REGISTRY["molar_mass"][key].outside(Fraction(nbp, sg))
    remarks += _correlation_remarks(sample, found, temperatures)
    viscosity, whole_viscosity = measured_viscosities(sample, assay, remarks)
    light = {b: assay.light_amounts(b) for b in ("mole", "mass", "volume")}
    moles, weights, volumes = (
        np.concatenate([light[b], v]) for b, v in (("mole", mole), ("mass", mass), ("volume", volume))
    )
    density = float(weights.sum() / volumes.sum())
    names = (
        carbon_names(sample.name, assay.labels)
        if assay.labels
        else cut_names(sample.name, temperatures, sample.cuts.unit)
    )
    ids = carbon_names("", assay.labels) if assay.labels else cut_ids(sample.cuts, temperatures)
    keys = [f"{sample.key or sample.name}/{i.strip()}" for i in ids]
    found_quantities = slice_quantities(sample, assay, remarks)
    values = {
        name: gathered(own * assay.amounts(basis)) / gathered(assay.amounts(basis))
        for name, (own, basis, _) in found_quantities.items()
    }
    kilograms = float(weights.sum())
    stock = Stock(
        assay.curve,
        along,
        {b: assay.amounts(b) / kilograms for b in ("volume", "mass", "mole")},
        assay.nbp,
        index(viscosity),
        found_quantities,
        assay.light,
        tuple((light["mass"] / kilograms).tolist()),
    )
    return CharacterizedSample(
        name=sample.name,
        curve=assay.curve,
        entered=assay.reading.entered if assay.reading is not None else None,
        light=len(assay.light),
        edges=edges,
        edge_temperatures=temperatures,
        components=(*assay.light, *_components(sample, names, keys, nbp, sg, found)),
        labels=assay.labels,
        automatic_names=tuple(names),
        mole_fraction=moles / moles.sum(),
        mass_fraction=weights / weights.sum(),
        volume_fraction=volumes / volumes.sum(),
        density=density,
        molar_mass=float(weights.sum() / moles.sum()),
        watson_k=_watson(assay, sample, density, remarks),
        yields=tuple(
            yields(
                assay.curve,
                along,
                assay.along("mass"),
                sample.products,
                min((c.nbp for c in assay.light), default=None),
            )
        ),
        remarks=tuple(remarks),
        viscosity=whole_viscosity,
        cut_viscosity=from_index(gathered(index(viscosity) * assay.amounts("mass")[:, None]) / mass[:, None]),
        quantities=values,
        quantity_units={q.name: q.unit for q in sample.quantities},
        mass_along=(np.append(0.0, along), np.append(0.0, assay.along("mass"))),
        choices=sample,
        stock=stock,
    )


def _watson(assay: Assay, sample: LabSample, density: float, remarks: list[Remark]) -> float:
    """Return the Watson factor of the whole, from its mean average boiling point."""
    nbp = np.concatenate([[c.nbp for c in assay.light], assay.nbp])
    light = assay.light_amounts("volume")
    volume, mole = (np.concatenate([assay.light_amounts(b), assay.amounts(b)]) for b in ("volume", "mole"))
    watson = watson_factor(mean_average_boiling_point(nbp, volume, mole), density / WATER_DENSITY_60F)
    if sample.watson_k is not None and sample.density is not None and abs(sample.watson_k / watson - 1.0) > 0.01:
        percent = 100.0 * (sample.watson_k / watson - 1.0)
        values: dict[str, Value] = {"given": sample.watson_k, "off": percent, "own": watson}
        remarks.append(Remark("warning", "bulk.watson_differs", "watson_k", values))
    # Of a gas or a live oil the factor says nothing about the liquid it was made for.
    if light.sum() > GASSY * volume.sum():
        return watson
    if not WATSON_RANGE[0] <= watson <= WATSON_RANGE[1]:
        low, high = WATSON_RANGE
        remarks.append(Remark("warning", "bulk.watson_range", "density", {"own": watson, "low": low, "high": high}))
    return watson


def _correlation_remarks(sample: LabSample, found: Estimated, temperatures: Array) -> list[Remark]:
    out = []
    beyond: dict[tuple[str, tuple[Value, ...]], list[Value]] = {}
    titles: dict[str, Value] = {}
    for name, entry in found.used.items():
        if name == "viscosity" and sample.viscosity_curves:
            continue
        what = Word(f"property.{name}")
        out.append(Remark("estimate", "cuts.estimated", name, {"property": what, "by": entry.title}))
        outside = np.flatnonzero(found.outside[name])
        if outside.size:
            key = entry.title, _ranges(outside, temperatures)
            beyond.setdefault(key, []).append(what)
            titles[entry.title] = entry.limit_values()
    for (title, ranges), properties in beyond.items():
        values: dict[str, Value] = {
            "properties": tuple(properties),
            "ranges": ranges,
            "by": title,
            "limits": titles[title],
        }
        out.append(Remark("extrapolation", "cuts.beyond", "correlations", values))
    return out


def _ranges(index: NDArray[np.intp], temperatures: Array) -> tuple[Value, ...]:
    """Return the boiling ranges of neighbouring cuts, each as a pair."""
    groups = np.split(index, np.flatnonzero(np.diff(index) > 1) + 1)
    return tuple((kelvin(temperatures[g[0]], 0), kelvin(temperatures[g[-1] + 1], 0)) for g in groups)


def _components(
    sample: LabSample, names: Sequence[str], keys: Sequence[str], nbp: Array, sg: Array, found: Estimated
) -> tuple[Component, ...]:
    v = found.values
    # A name hangs on what the cut is known by; documents written by hand may name it by its range.
    given = {k: f"{sample.name} {n}" for k, n in sample.cuts.names}
    titles = tuple(f"{TITLES[k]} by {c.title}" for k, c in found.used.items())
    matched = found.used["omega"].key == "boiling-point"
    return tuple(
        Component(
            name=given.get(keys[i].rpartition("/")[2]) or given.get(names[i][len(sample.name) + 1 :]) or names[i],
            kind="cut",
            molar_mass=float(v["molar_mass"][i]),
            Tc=float(v["Tc"][i]),
            Pc=float(v["Pc"][i]),
            Vc=float(v["Vc"][i]),
            omega=float(v["omega"][i]),
            nbp=float(nbp[i]),
            specific_gravity=float(sg[i]),
            cp=tuple(float(c) for c in v["cp"][i]),
            parachor=float(v["parachor"][i]),
            omega_matched=matched,
            key=keys[i],
            estimates=titles,
        )
        for i in range(nbp.size)
    )


def cut_ids(choice: CutChoice, temperatures: Array) -> list[str]:
    """Return what the cuts between boundaries (m + 1,) K are known by: the boundary each begins at.

    An own boundary has an identity that stays when it is moved; an automatic one is its temperature; of a number of
    equal cuts each is its place."""
    inner = temperatures[1:-1]
    if choice.boundaries is not None and choice.ids:
        own = np.array(choice.boundaries)
        ids = [choice.ids[int(np.argmin(np.abs(own - T)))] for T in inner]
    elif choice.number is not None:
        ids = [f"{k + 2}" for k in range(inner.size)]
    else:
        ids = [f"{T:.2f}" for T in inner]
    return ["first", *ids]


def cut_names(sample: str, temperatures: Sequence[float] | Array, unit: str = "degC") -> list[str]:
    """Return the names of the cuts between boundaries (m + 1,) K: sample and range in degC or degF, unique."""
    own = np.asarray(temperatures, float)
    own, sign = (1.8 * own - FAHRENHEIT, "°F") if unit == "degF" else (own - START, "°C")
    for digits in (0, 1, 3):
        shown = [f"{t:.{digits}f}" for t in own]
        names = [f"{sample} {a} to {b} {sign}" for a, b in pairwise(shown)]
        if len(set(names)) == len(names):
            return names
    return [f"{name} ({i + 1})" for i, name in enumerate(names)]
