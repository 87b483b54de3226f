"""The judgement of a lab sample."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from ..characterization.carbon_analysis import LUMPINGS, SPLITS
from ..characterization.correlations import REGISTRY
from ..characterization.curve import ENDS, INTERPOLATIONS, LEAST_POINTS
from ..characterization.methods import CONVERSIONS, METHODS
from ..components import Component, UnknownComponentError, find
from .cells import EMPTY, number, quantity
from .faults import Fault, PathParts, did_you_mean
from .model import Cell, Sample
from .sample_points import (
    boiling_points,
    carbon_rows,
    property_points,
    quantity_points,
    tail_points,
    viscosity,
    viscosity_points,
)

BASES = ("volume", "mass", "mole")
CARBON = "carbon-number"
TWO_PART = "D86+D1160"


def check_sample(sample: Sample, path: PathParts) -> list[Fault]:
    """Return the faults of a sample."""
    faults: list[Fault] = []
    _check_distillation(sample, (*path, "distillation"), path, faults)
    _check_bulk(sample, (*path, "bulk"), faults)
    _check_curves(sample, path, faults)
    light_ends(sample, path, faults)
    _check_cuts(sample, (*path, "cuts"), faults)
    for prop, key in sample.correlations.items():
        at = (*path, "correlations", prop)
        if _known(prop, REGISTRY, at, "property", faults):
            _known(key, REGISTRY[prop], at, "correlation", faults)
    for method, key in sample.conversions.items():
        at = (*path, "conversions", method)
        if _known(method, CONVERSIONS, at, "method", faults):
            _known(key, CONVERSIONS[method], at, "conversion", faults)
    return faults


def _known(name: str, known: Iterable[str], at: PathParts, what: str, faults: list[Fault]) -> bool:
    known = list(known)
    if name in known:
        return True
    faults.append(Fault(at, f"unknown {what} '{name}'{did_you_mean(name, known)}"))
    return False


def _check_distillation(sample: Sample, at: PathParts, path: PathParts, faults: list[Fault]) -> None:
    curve = sample.distillation
    known = _known(curve.method, METHODS, (*at, "method"), "method", faults)
    if curve.basis is not None:
        _known(curve.basis, BASES, (*at, "basis"), "basis", faults)
    _known(curve.interpolation, INTERPOLATIONS, (*at, "interpolation"), "interpolation", faults)
    _known(curve.ends, ENDS, (*at, "ends"), "way of closing the ends", faults)
    if curve.conversion is not None and known and curve.method in CONVERSIONS:
        _known(curve.conversion, CONVERSIONS[curve.method], (*at, "conversion"), "conversion", faults)
    if curve.pressure not in EMPTY:
        pressure = quantity(curve.pressure, "pressure", (*at, "pressure"), faults)
        if pressure is not None and pressure <= 0.0:
            faults.append(
                Fault(
                    (*at, "pressure"), f"'{curve.pressure}' is not above zero; a pressure must be above 0 Pa absolute"
                )
            )
        elif pressure is not None and known:
            _check_pressure(curve.method, pressure, (*at, "pressure"), faults)
    if known and curve.method == CARBON:
        _check_carbon(sample, at, path, faults)
        return
    points = boiling_points(sample, path)
    faults += points.faults
    count, what = len(points.rows), "a boiling-point curve"
    if curve.method == TWO_PART:
        tail = tail_points(sample, path)
        faults += tail.faults
        if curve.tail is None:
            faults.append(Fault((*at, "tail"), "a D86 front with a D1160 tail needs the tail: its pressure and points"))
        else:
            pressure = quantity(curve.tail.pressure, "pressure", (*at, "tail", "pressure"), faults)
            if pressure is not None and not 1.0 <= pressure <= 101325.0:
                faults.append(Fault((*at, "tail", "pressure"), "the tail is distilled between 0.01 mmHg and 1 atm"))
            if tail.percents and points.percents and tail.percents[0] <= points.percents[-1]:
                text = f"the tail begins at {tail.percents[0]:g} %, where the front reaches {points.percents[-1]:g} %; give the tail above the front"
                faults.append(Fault((*at, "tail", "points"), text))
        for rows, part, place in ((points.rows, "front", "points"), (tail.rows, "tail", "tail")):
            if not rows and (part == "front" or curve.tail is not None):
                where = (*at, place, "points") if part == "tail" else (*at, place)
                faults.append(Fault(where, f"the {part} has no valid point; give it some, or choose another method"))
        count, what = count + len(tail.rows), "front and tail together"
    elif curve.tail is not None and known:
        text = f"the tail has no effect on a {curve.method}; it belongs to the method {TWO_PART}"
        faults.append(Fault((*at, "tail"), text, "warning"))
    if count < LEAST_POINTS:
        needs = "need" if curve.method == TWO_PART else "needs"
        text = f"{what} {needs} at least {LEAST_POINTS} valid points; this one has {count}"
        faults.append(Fault((*at, "points"), text.replace("this one has", "there are") if needs == "need" else text))
    _check_ends(sample, points.percents, points.values, at, faults)


def _check_pressure(method: str, pressure: float, at: PathParts, faults: list[Fault]) -> None:
    if METHODS[method].sub_atmospheric:
        if not 0.13 <= pressure <= 1.2e5:
            faults.append(Fault(at, f"a {method} is distilled between 0.001 mmHg and 1 atm; this is {pressure:.4g} Pa"))
    elif not 60e3 <= pressure <= 110e3:
        text = f"a {method} is read in the open, at 600 to 1100 mbar; this is {pressure / 100:.4g} mbar; use D1160 or TBP under vacuum"
        faults.append(Fault(at, text))


def _check_ends(sample: Sample, percents: list[float], T: list[float], at: PathParts, faults: list[Fault]) -> None:
    curve = sample.distillation
    for key, cell, inner in (("initial", curve.initial, T[:1]), ("final", curve.final, T[-1:])):
        if cell in EMPTY:
            continue
        value = quantity(cell, "temperature", (*at, key), faults)
        two_part = key == "final" and curve.method == TWO_PART
        if value is None or not inner or two_part:
            continue
        if key == "initial" and percents[0] > 0.0 and value >= inner[0]:
            faults.append(Fault((*at, key), "the initial point must lie below the first point of the curve"))
        if key == "final" and percents[-1] < 100.0 and value <= inner[0]:
            faults.append(Fault((*at, key), "the final point must lie above the last point of the curve"))
    if curve.ends == "given" and curve.initial in EMPTY and curve.final in EMPTY:
        faults.append(
            Fault((*at, "ends"), "give an initial or a final point, or choose another way of closing the ends")
        )


def _check_carbon(sample: Sample, at: PathParts, path: PathParts, faults: list[Fault]) -> None:
    curve = sample.distillation
    rows = carbon_rows(sample, path)
    faults += rows.faults
    if not rows.groups and rows.plus is None:
        faults.append(
            Fault(
                (*at, "amounts"), "a carbon-number analysis needs groups above C5: C6, C7 and so on, or a plus fraction"
            )
        )
    if rows.plus is not None:
        for key, kind, given, bounds, text in (
            ("molar_mass", "molar_mass", rows.plus[2], (0.07, 3.0), "70 to 3000 g/mol"),
            ("density", "density", rows.plus[3], (500.0, 1300.0), "500 to 1300 kg/m³"),
        ):
            cell: Cell = getattr(curve.plus, key)
            if cell in EMPTY and given is None:
                what = "molar mass" if key == "molar_mass" else "density"
                faults.append(Fault((*at, "plus", key), f"the {what} of C{rows.plus[0]}+ is needed"))
            elif cell not in EMPTY:
                value = quantity(cell, kind, (*at, "plus", key), faults)
                if value is not None and not bounds[0] <= value <= bounds[1]:
                    faults.append(
                        Fault((*at, "plus", key), f"'{cell}' is outside {text}, what a plus fraction can have")
                    )
    _known(curve.split.model, SPLITS, (*at, "split", "model"), "distribution", faults)
    _known(curve.lumping.rule, LUMPINGS, (*at, "lumping", "rule"), "rule of lumping", faults)
    _between(curve.split.shape, 0.3, 10.0, (*at, "split", "shape"), "the shape of a gamma distribution", faults)
    if curve.split.last not in EMPTY:
        _between(curve.split.last, 7, 200, (*at, "split", "last"), "a last carbon number", faults)
    if curve.lumping.number not in EMPTY:
        _between(curve.lumping.number, 1, 60, (*at, "lumping", "number"), "a number of pseudo-components", faults)


def _between(cell: Cell, low: float, high: float, at: PathParts, what: str, faults: list[Fault]) -> None:
    value = number(cell, at, faults, what)
    if value is not None and not low <= value <= high:
        faults.append(Fault(at, f"{what} lies between {low:g} and {high:g}; this one is {value:g}"))


def _check_bulk(sample: Sample, at: PathParts, faults: list[Fault]) -> None:
    bulk = sample.bulk
    if bulk.density not in EMPTY:
        density = quantity(bulk.density, "density", (*at, "density"), faults)
        if density is not None and not 400.0 <= density <= 1300.0:
            text = f"{density:.0f} kg/m³ is outside 400 to 1300 kg/m³, the range of petroleum liquids"
            faults.append(Fault((*at, "density"), text))
    if bulk.molar_mass not in EMPTY:
        mass = quantity(bulk.molar_mass, "molar_mass", (*at, "molar_mass"), faults)
        if mass is not None and not 0.03 <= mass <= 2.0:
            text = f"{mass * 1e3:.4g} g/mol is outside 30 to 2000 g/mol, the range of petroleum liquids"
            faults.append(Fault((*at, "molar_mass"), text))
    if bulk.watson_k not in EMPTY:
        watson = number(bulk.watson_k, (*at, "watson_k"), faults, "a Watson K")
        if watson is not None and not 8.0 <= watson <= 15.0:
            faults.append(Fault((*at, "watson_k"), f"a Watson K of {watson:g} is outside 8 to 15"))
    known: list[tuple[float, float, bool]] = []
    for i, (temperature, cell) in enumerate(bulk.viscosity):
        if temperature in EMPTY and cell in EMPTY:
            continue
        T = quantity(temperature, "temperature", (*at, "viscosity", i, 0), faults)
        found = viscosity(cell, (*at, "viscosity", i, 1), faults)
        if T is None or found is None:
            continue
        if len(known) == 2:
            faults.append(
                Fault((*at, "viscosity", i), "viscosities are taken at up to two temperatures; this is the third")
            )
            continue
        for other, value, dynamic in known:
            if abs(other - T) < 0.5:
                faults.append(
                    Fault(
                        (*at, "viscosity", i, 0),
                        "both viscosities are at the same temperature; give two different ones",
                    )
                )
            elif dynamic == found[1] and (T - other) * (found[0] - value) >= 0.0:
                faults.append(
                    Fault(
                        (*at, "viscosity", i, 1), "the viscosity rises with temperature; check values and temperatures"
                    )
                )
        known.append((T, *found))


def _check_curves(sample: Sample, path: PathParts, faults: list[Fault]) -> None:
    for name in ("density", "molar_mass"):
        faults += property_points(sample, name, path).faults
    at = (*path, "curves")
    read: list[tuple[float, list[float], list[float], bool]] = []
    for i, curve in enumerate(sample.curves.viscosity):
        points, dynamic = viscosity_points(sample, i, path)
        faults += points.faults
        T = quantity(curve.at, "temperature", (*at, "viscosity", i, "at"), faults)
        if i == 2:
            faults.append(
                Fault((*at, "viscosity", i), "viscosity curves are taken at up to two temperatures; this is the third")
            )
        if T is not None and points.percents:
            read.append((T, points.percents, points.values, dynamic))
    if len(read) == 2 and read[0][3] == read[1][3]:
        (T1, x1, v1, _), (T2, x2, v2, _) = read
        if abs(T1 - T2) < 0.5:
            faults.append(Fault((*at, "viscosity", 1, "at"), "both viscosity curves are at the same temperature"))
        else:
            common = [x for x in x2 if x1[0] <= x <= x1[-1]]
            low, high = np.interp(common, x1, v1), np.interp(common, x2, v2)
            wrong = np.flatnonzero((T2 - T1) * (high - low) >= 0.0) if common else np.zeros(0)
            if wrong.size:
                text = f"at {common[int(wrong[0])]:g} % the viscosity rises with temperature; check the two viscosity curves"
                faults.append(Fault((*at, "viscosity", 1, "points", x2.index(common[int(wrong[0])]), 1), text))
    names: list[str] = []
    for i, named in enumerate(sample.curves.quantities):
        here = (*at, "quantities", i)
        if not named.name.strip():
            faults.append(Fault((*here, "name"), "the name is empty; give it one"))
        elif named.name in (*names, "density", "molar_mass", "viscosity"):
            faults.append(Fault((*here, "name"), f"the name '{named.name}' is taken"))
        names.append(named.name)
        _known(named.basis, BASES, (*here, "basis"), "basis", faults)
        faults += quantity_points(sample, i, path).faults
        if named.bulk not in EMPTY:
            value = number(named.bulk, (*here, "bulk"), faults, f"an amount in {named.unit}")
            if value is not None and value < 0.0:
                faults.append(Fault((*here, "bulk"), "an amount is zero or more"))
    for i, name in enumerate(sample.curves.keep):
        _known(name, ("density", "molar_mass", "viscosity", *names), (*at, "keep", i), "curve", faults)


def light_ends(sample: Sample, path: PathParts, faults: list[Fault]) -> list[tuple[Component, float | None]]:
    """Return the light ends with their percents (None where estimated); faults are added at their places."""
    ends, at = sample.light_ends, (*path, "light_ends")
    out: list[tuple[Component, float | None]] = []
    if (
        not _known(ends.mode, ("absent", "measured", "estimated"), (*at, "mode"), "mode", faults)
        or ends.mode == "absent"
    ):
        return out
    _known(ends.basis, BASES, (*at, "basis"), "basis", faults)
    _known(ends.curve, ("whole", "rest"), (*at, "curve"), "kind of curve", faults)
    if sample.distillation.method == CARBON:
        faults.append(
            Fault((*at, "mode"), "a carbon-number analysis holds its light ends itself; set the mode to absent")
        )
        return out
    names: Sequence[str] = list(ends.amounts) if ends.mode == "measured" else ends.species
    key = "amounts" if ends.mode == "measured" else "species"
    if ends.mode == "estimated" and ends.curve == "rest":
        faults.append(
            Fault(
                (*at, "curve"),
                "light ends are estimated from the front of a curve of the whole sample; this one is of the rest",
            )
        )
    if not names:
        faults.append(Fault((*at, key), "the list is empty; name at least one component"))
    seen: set[str] = set()
    total = 0.0
    for i, name in enumerate(names):
        place = (*at, key, name if key == "amounts" else i)
        try:
            component = find(name)
        except UnknownComponentError as error:
            faults.append(Fault(place, str(error)))
            continue
        if component.name in seen:
            faults.append(Fault(place, f"'{component.name}' is given twice; join the amounts"))
            continue
        seen.add(component.name)
        share: float | None = None
        if key == "amounts":
            if ends.amounts[name] in EMPTY:
                # Not filled in yet.
                continue
            share = number(ends.amounts[name], place, faults, "a percentage")
            if share is None:
                continue
            if not 0.0 <= share <= 100.0:
                faults.append(Fault(place, f"{name}: {share:g} % lies outside 0 to 100 %"))
                continue
            total += share
        out.append((component, share))
    if total >= 99.0:
        faults.append(Fault((*at, key), f"the light ends add up to {total:.4g} %; nothing is left to cut"))
    return out


def _check_cuts(sample: Sample, at: PathParts, faults: list[Fault]) -> None:
    cuts = sample.cuts
    given = [k for k in ("regions", "boundaries") if getattr(cuts, k) is not None]
    given += [] if cuts.number in EMPTY else ["number"]
    if len(given) > 1:
        faults.append(Fault(at, f"give one of regions, boundaries and number, not {' and '.join(given)}"))
    _known(cuts.equal, ("temperature", *BASES), (*at, "equal"), "measure of equal cuts", faults)
    if cuts.number not in EMPTY:
        _between(cuts.number, 1, 200, (*at, "number"), "a number of cuts", faults)
    previous = 0.0
    for i, (end, width) in enumerate(cuts.regions or ()):
        last = end in EMPTY and i == len(cuts.regions or ()) - 1
        top = None if last else quantity(end, "temperature", (*at, "regions", i, 0), faults)
        step = quantity(width, "temperature_difference", (*at, "regions", i, 1), faults)
        if step is not None and not 1.0 <= step <= 500.0:
            faults.append(Fault((*at, "regions", i, 1), f"a width of {step:g} K is outside 1 to 500 K"))
        if top is not None and top <= previous:
            faults.append(Fault((*at, "regions", i, 0), "the regions must end at rising temperatures"))
        previous = top if top is not None else previous
    for i, boundary in enumerate(cuts.boundaries or ()):
        quantity(boundary, "temperature", (*at, "boundaries", i), faults)
    previous = 0.0
    products = cuts.products or ()
    for i, product in enumerate(products):
        if not product.name.strip():
            faults.append(Fault((*at, "products", i, "name"), "the name is empty; give it one"))
        if i == len(products) - 1 and product.end in EMPTY:
            continue
        end_t = quantity(product.end, "temperature", (*at, "products", i, "end"), faults)
        if end_t is not None and end_t <= previous:
            faults.append(Fault((*at, "products", i, "end"), "the products must end at rising temperatures"))
        previous = end_t if end_t is not None else previous
