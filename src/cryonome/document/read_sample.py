"""Reading a lab sample once: lab data in SI for the characterization, and every fault at its cell, in one pass."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..characterization import LabSample
from ..characterization.carbon_analysis import DENSITIES, LUMPINGS, SPLITS, CarbonAnalysis, PlusFraction
from ..characterization.correlations import REGISTRY, TITLES
from ..characterization.curve import ENDS, INTERPOLATIONS, LEAST_POINTS
from ..characterization.cuts import IN_FAHRENHEIT, PRODUCTS, REGIONS, ProductRange
from ..characterization.lab_sample import FACTORED, CutChoice, LightEnds, Quantity, Tail, ViscosityCurve, ViscosityPoint
from ..characterization.methods import CARBON, CONVERSIONS, METHODS, TWO_PART
from ..characterization.property_curves import PropertyPoints
from ..characterization.recovered import corrected_loss, evaporated
from ..components import Component, UnknownComponentError, find
from ..constants import ATM
from ..units import from_si
from .faults import Fault, PathParts, errors
from .model import Product, Sample
from .reader import EMPTY, Reader
from .sample_points import (
    LEAST_PERCENT,
    CarbonRows,
    Points,
    boiling_points,
    carbon_rows,
    property_points,
    quantity_points,
    tail_points,
    viscosity,
    viscosity_points,
)

BASES = ("volume", "mass", "mole")


@dataclass(frozen=True)
class SampleReading:
    """What a sample says: ``lab`` in SI, faulty points of its curves left out, None where a fault forbids any
    computation; and the ``faults``."""

    lab: LabSample | None
    faults: tuple[Fault, ...]

    @property
    def blocking(self) -> list[Fault]:
        """The faults that forbid a computation: a curve goes on without its faulty points."""
        return [f for f in errors(self.faults) if not is_point(f)]


def is_point(fault: Fault) -> bool:
    """Tell whether a fault is of a point of a curve, which may be left out."""
    inside = fault.path[2:] if fault.path[:1] == ("samples",) else fault.path
    if inside[:2] == ("distillation", "points") or inside[:3] == ("distillation", "tail", "points"):
        return len(inside) > (2 if inside[1] == "points" else 3)
    return (inside[:1] == ("curves",) and "points" in inside) or (len(inside) == 4 and inside[0] == "curves")


def read_sample(sample: Sample, path: PathParts = ()) -> SampleReading:
    """Return what a sample at ``path`` of the document says, and what is wrong with it."""
    reader = Reader(path)
    method, points, tail, carbon = _distillation(sample, reader)
    density, molar_mass, watson, viscosities = _bulk(sample, reader.at("bulk"))
    density_curve, mass_curve, viscosity_curves, quantities = _curves(sample, reader)
    light_ends = _light_ends(sample, reader.at("light_ends"))
    cuts, products = _cuts(sample, reader.at("cuts"))
    factors = _choices(sample, reader)
    curve = sample.distillation
    pressure, initial, final = method
    percents, loss = _evaporated(sample, points, pressure, reader)
    reading = SampleReading(None, tuple(reader.faults))
    if reading.blocking:
        return reading
    lab = LabSample(
        name=sample.name,
        key=sample.id or sample.name,
        percent=percents,
        loss=loss,
        temperature=tuple(points.values),
        density=density,
        molar_mass=molar_mass,
        watson_k=watson,
        method=curve.method,
        basis=curve.basis,
        pressure=METHODS[curve.method].pressure if pressure is None else pressure,
        cracking=curve.cracking,
        conversion=curve.conversion,
        tail=tail,
        interpolation=curve.interpolation,
        ends=curve.ends,
        initial=initial,
        final=final,
        viscosity=viscosities,
        density_curve=density_curve,
        molar_mass_curve=mass_curve,
        viscosity_curves=viscosity_curves,
        quantities=quantities,
        keep=frozenset(sample.curves.keep),
        light_ends=light_ends,
        carbon=carbon,
        cuts=cuts,
        correlations=dict(sample.correlations),
        conversions=dict(sample.conversions),
        factors=factors,
        products=products,
    )
    return SampleReading(lab, reading.faults)


def _choices(sample: Sample, reader: Reader) -> dict[str, float]:
    """Check the correlations and conversions chosen, and return the factors on estimates."""
    for prop, key in sample.correlations.items():
        here = reader.at("correlations", prop)
        if here.known(prop, REGISTRY, "property"):
            here.known(key, REGISTRY[prop], "correlation")
    for method, key in sample.conversions.items():
        here = reader.at("conversions", method)
        if here.known(method, CONVERSIONS, "method"):
            here.known(key, CONVERSIONS[method], "conversion")
    factors = {}
    for prop, cell in sample.factors.items():
        here = reader.at("factors", prop)
        if here.known(prop, FACTORED, "property with a factor") and cell not in EMPTY:
            value = here.between(cell, 0.5, 2.0, f"a factor on the {TITLES[prop].lower()}")
            if value is not None:
                factors[prop] = value
    return factors


_Method = tuple[float | None, float | None, float | None]
"""Pressure Pa, initial and final point K, each where given."""


def _distillation(sample: Sample, reader: Reader) -> tuple[_Method, Points, Tail | None, CarbonAnalysis | None]:
    curve, here = sample.distillation, reader.at("distillation")
    known = here.at("method").known(curve.method, METHODS, "method")
    if curve.basis is not None:
        here.at("basis").known(curve.basis, BASES, "basis")
    here.at("interpolation").known(curve.interpolation, INTERPOLATIONS, "interpolation")
    here.at("ends").known(curve.ends, ENDS, "way of closing the ends")
    if curve.conversion is not None and known and curve.method in CONVERSIONS:
        here.at("conversion").known(curve.conversion, CONVERSIONS[curve.method], "conversion")
    pressure = None if curve.pressure in EMPTY else here.at("pressure").pressure(curve.pressure)
    if pressure is not None and known:
        _check_pressure(curve.method, pressure, here.at("pressure"))
    if known and curve.method == CARBON:
        return (pressure, None, None), Points(), None, _carbon(sample, reader)
    points = boiling_points(sample, reader.path)
    reader.faults.extend(points.faults)
    tail, count = _tail(sample, points, reader) if known else (None, len(points.rows))
    if count < LEAST_POINTS:
        if curve.method == TWO_PART:
            text = f"front and tail together need at least {LEAST_POINTS} valid points; there are {count}"
        else:
            text = f"a boiling-point curve needs at least {LEAST_POINTS} valid points; this one has {count}"
        here.at("points").fault(text)
    initial, final = _ends(sample, points, here)
    return (pressure, initial, final), points, tail, None


def _evaporated(
    sample: Sample, points: Points, pressure: float | None, reader: Reader
) -> tuple[tuple[float, ...], float | None]:
    """Return the percents of a curve, of D86 with a loss those evaporated, and the loss that was added, None where
    none was given."""
    curve, here = sample.distillation, reader.at("distillation")
    plain = tuple(points.percents)
    found: dict[str, float | None] = {}
    for key in ("loss", "residue"):
        cell = getattr(curve, key)
        value = None if cell in EMPTY else here.at(key).number(cell, f"a {key} in percent")
        found[key] = here.at(key).physical(value, 0.0, 20.0, f"a {key}", "%")
    if found["loss"] is None and found["residue"] is None:
        return plain, None
    if curve.method != "D86":
        here.at("loss").fault(f"loss and residue have no effect on a {curve.method}; they belong to D86", "warning")
        return plain, None
    loss = found["loss"] or 0.0
    if found["loss"] is not None and pressure is not None:
        loss = corrected_loss(loss, pressure)
    try:
        return tuple(evaporated(plain, loss, found["residue"])), loss
    except ValueError as error:
        here.at("loss").fault(str(error))
        return plain, None


def _tail(sample: Sample, points: Points, reader: Reader) -> tuple[Tail | None, int]:
    """Return the sub-atmospheric tail and the number of valid points of front and tail together."""
    curve, here = sample.distillation, reader.at("distillation")
    if curve.method != TWO_PART:
        if curve.tail is not None:
            text = f"the tail has no effect on a {curve.method}; it belongs to the method {TWO_PART}"
            here.at("tail").fault(text, "warning")
        return None, len(points.rows)
    found = tail_points(sample, reader.path)
    reader.faults.extend(found.faults)
    pressure = None
    if curve.tail is None:
        here.at("tail").fault("a D86 front with a D1160 tail needs the tail: its pressure and points")
    else:
        pressure = here.at("tail", "pressure").quantity(curve.tail.pressure, "pressure")
        if pressure is not None and not 1.0 <= pressure <= ATM:
            here.at("tail", "pressure").fault("the tail is distilled between 0.01 mmHg and 1 atm")
        if found.percents and points.percents and found.percents[0] <= points.percents[-1]:
            text = (
                f"the tail begins at {found.percents[0]:g} %, where the front reaches {points.percents[-1]:g} %; "
                "give the tail above the front"
            )
            here.at("tail", "points").fault(text)
        if not found.rows:
            here.at("tail", "points").fault("the tail has no valid point; give it some, or choose another method")
    if not points.rows:
        here.at("points").fault("the front has no valid point; give it some, or choose another method")
    tail = None if pressure is None else Tail(tuple(found.percents), tuple(found.values), pressure)
    return tail, len(points.rows) + len(found.rows)


def _check_pressure(method: str, pressure: float, here: Reader) -> None:
    if METHODS[method].sub_atmospheric:
        if not 0.13 <= pressure <= 1.2e5:
            here.fault(f"a {method} is distilled between 0.001 mmHg and 1 atm; this is {pressure:.4g} Pa")
    elif not 60e3 <= pressure <= 110e3:
        text = f"a {method} is read in the open, at 600 to 1100 mbar; this is {pressure / 100:.4g} mbar; use D1160 or TBP under vacuum"
        here.fault(text)


def _ends(sample: Sample, points: Points, here: Reader) -> tuple[float | None, float | None]:
    curve, percents, T = sample.distillation, points.percents, points.values
    initial = here.at("initial").given(curve.initial, "temperature")
    final = here.at("final").given(curve.final, "temperature")
    if initial is not None and T and percents[0] > 0.0 and initial >= T[0]:
        here.at("initial").fault("the initial point must lie below the first point of the curve")
    if final is not None and T and curve.method != TWO_PART and percents[-1] < 100.0 and final <= T[-1]:
        here.at("final").fault("the final point must lie above the last point of the curve")
    if curve.ends == "given" and curve.initial in EMPTY and curve.final in EMPTY:
        here.at("ends").fault("give an initial or a final point, or choose another way of closing the ends")
    return initial, final


def _carbon(sample: Sample, reader: Reader) -> CarbonAnalysis | None:
    curve, here = sample.distillation, reader.at("distillation")
    rows = carbon_rows(sample, reader.path)
    reader.faults.extend(rows.faults)
    if not rows.groups and rows.plus is None:
        text = "a carbon-number analysis needs groups above C5: C6, C7 and so on, or a plus fraction"
        here.at("amounts").fault(text)
    plus = None if rows.plus is None else _plus(sample, rows, here.at("plus"))
    split, lumping = here.at("split"), here.at("lumping")
    split.at("model").known(curve.split.model, SPLITS, "distribution")
    split.at("density").known(curve.split.density, DENSITIES, "rule of densities")
    lumping.at("rule").known(curve.lumping.rule, LUMPINGS, "rule of lumping")
    shape = split.at("shape").between(curve.split.shape, 0.3, 10.0, "the shape of a gamma distribution")
    last = lumps = None
    if curve.split.last not in EMPTY:
        last = split.at("last").between(curve.split.last, 7, 200, "a last carbon number")
    if curve.lumping.number not in EMPTY:
        lumps = lumping.at("number").between(curve.lumping.number, 1, 60, "a number of pseudo-components")
    return CarbonAnalysis(
        components=tuple(c for c, _ in rows.components),
        percent=tuple(p for _, p in rows.components),
        groups=tuple(rows.groups),
        plus=plus,
        basis=curve.basis or METHODS[CARBON].basis,
        split=curve.split.model,
        shape=shape or 1.0,
        density=curve.split.density,
        last=None if last is None else int(last),
        lumping=curve.lumping.rule,
        lumps=None if lumps is None else int(lumps),
    )


def _plus(sample: Sample, rows: CarbonRows, here: Reader) -> PlusFraction | None:
    """Return the plus fraction; its own fields go before what its row says."""
    assert rows.plus is not None
    number, percent, row_mass, row_sg = rows.plus
    cells = sample.distillation.plus
    mass = here.at("molar_mass").given(cells.molar_mass, "molar_mass")
    density = here.at("density").given(cells.density, "density")
    for key, cell, own, row, bounds, text in (
        ("molar_mass", cells.molar_mass, mass, row_mass, (0.07, 3.0), "70 to 3000 g/mol"),
        ("density", cells.density, density, row_sg, (500.0, 1300.0), "500 to 1300 kg/m³"),
    ):
        if cell in EMPTY and row is None:
            here.at(key).fault(f"the {key.replace('_', ' ')} of C{number}+ is needed")
        elif own is not None and not bounds[0] <= own <= bounds[1]:
            here.at(key).fault(f"'{cell}' is outside {text}, what a plus fraction can have")
    mass = row_mass if mass is None else mass
    sg = row_sg if density is None else from_si(density, "SG", "density")
    return None if mass is None or sg is None else PlusFraction(number, percent, mass, sg)


def _bulk(sample: Sample, here: Reader) -> tuple[float | None, float | None, float | None, tuple[ViscosityPoint, ...]]:
    bulk = sample.bulk
    density = here.at("density").given(bulk.density, "density")
    if density is not None and not 400.0 <= density <= 1300.0:
        text = f"{density:.0f} kg/m³ is outside 400 to 1300 kg/m³, the range of petroleum liquids"
        here.at("density").fault(text)
    mass = here.at("molar_mass").given(bulk.molar_mass, "molar_mass")
    if mass is not None and not 0.03 <= mass <= 2.0:
        text = f"{mass * 1e3:.4g} g/mol is outside 30 to 2000 g/mol, the range of petroleum liquids"
        here.at("molar_mass").fault(text)
    watson = None
    if bulk.watson_k not in EMPTY:
        watson = here.at("watson_k").number(bulk.watson_k, "a Watson K")
        if watson is not None and not 8.0 <= watson <= 15.0:
            here.at("watson_k").fault(f"a Watson K of {watson:g} is outside 8 to 15")
    known: list[ViscosityPoint] = []
    for i, (temperature, cell) in enumerate(bulk.viscosity):
        if temperature in EMPTY and cell in EMPTY:
            continue
        row = here.at("viscosity", i)
        T = row.at(0).quantity(temperature, "temperature")
        found = viscosity(cell, row.at(1))
        if T is None or found is None:
            continue
        if len(known) == 2:
            row.fault("viscosities are taken at up to two temperatures; this is the third")
            continue
        for other in known:
            if abs(other.temperature - T) < 0.5:
                row.at(0).fault("both viscosities are at the same temperature; give two different ones")
            elif other.dynamic == found[1] and (T - other.temperature) * (found[0] - other.value) >= 0.0:
                row.at(1).fault("the viscosity rises with temperature; check values and temperatures")
        known.append(ViscosityPoint(T, *found))
    return density, mass, watson, tuple(known)


def _curves(
    sample: Sample, reader: Reader
) -> tuple[PropertyPoints, PropertyPoints, tuple[ViscosityCurve, ...], tuple[Quantity, ...]]:
    here = reader.at("curves")

    def curve(points: Points) -> PropertyPoints:
        reader.faults.extend(points.faults)
        return PropertyPoints(tuple(points.percents), tuple(points.values))

    density, mass = (curve(property_points(sample, name, reader.path)) for name in ("density", "molar_mass"))
    viscosities: list[ViscosityCurve] = []
    for i, entered in enumerate(sample.curves.viscosity):
        points, dynamic = viscosity_points(sample, i, reader.path)
        read = curve(points)
        T = here.at("viscosity", i, "at").quantity(entered.at, "temperature")
        if i == 2:
            text = "viscosity curves are taken at up to two temperatures; this is the third"
            here.at("viscosity", i).fault(text)
        elif T is not None and points.percents:
            viscosities.append(ViscosityCurve(T, read, dynamic))
    if len(viscosities) == 2 and viscosities[0].dynamic == viscosities[1].dynamic:
        _compare(viscosities[0], viscosities[1], here.at("viscosity", 1))
    quantities = []
    names: list[str] = []
    for i, named in enumerate(sample.curves.quantities):
        own = here.at("quantities", i)
        if not named.name.strip():
            own.at("name").fault("the name is empty; give it one")
        elif named.name in (*names, "density", "molar_mass", "viscosity"):
            own.at("name").fault(f"the name '{named.name}' is taken")
        names.append(named.name)
        own.at("basis").known(named.basis, BASES, "basis")
        read = curve(quantity_points(sample, i, reader.path))
        value = None
        if named.bulk not in EMPTY:
            value = own.at("bulk").number(named.bulk, f"an amount in {named.unit}")
            if value is not None and value < 0.0:
                own.at("bulk").fault("an amount is zero or more")
        quantities.append(Quantity(named.name, named.unit, read, named.basis, value))
    for i, name in enumerate(sample.curves.keep):
        here.at("keep", i).known(name, ("density", "molar_mass", "viscosity", *names), "curve")
    return density, mass, tuple(viscosities), tuple(quantities)


def _compare(first: ViscosityCurve, second: ViscosityCurve, here: Reader) -> None:
    """Compare two viscosity curves: the hotter one is the thinner one."""
    if abs(first.temperature - second.temperature) < 0.5:
        here.at("at").fault("both viscosity curves are at the same temperature")
        return
    x1, x2 = first.points.percent, second.points.percent
    common = [x for x in x2 if x1[0] <= x <= x1[-1]]
    if not common:
        return
    low, high = np.interp(common, x1, first.points.value), np.interp(common, x2, second.points.value)
    wrong = np.flatnonzero((second.temperature - first.temperature) * (high - low) >= 0.0)
    if wrong.size:
        percent = common[int(wrong[0])]
        text = f"at {percent:g} % the viscosity rises with temperature; check the two viscosity curves"
        here.at("points", x2.index(percent), 1).fault(text)


def _light_ends(sample: Sample, here: Reader) -> LightEnds | None:
    ends = sample.light_ends
    if not here.at("mode").known(ends.mode, ("absent", "measured", "estimated"), "mode") or ends.mode == "absent":
        return None
    here.at("basis").known(ends.basis, BASES, "basis")
    here.at("curve").known(ends.curve, ("whole", "rest"), "kind of curve")
    if sample.distillation.method == CARBON:
        here.at("mode").fault("a carbon-number analysis holds its light ends itself; set the mode to absent")
        return None
    measured = ends.mode == "measured"
    key = "amounts" if measured else "species"
    names: Sequence[str] = list(ends.amounts) if measured else ends.species
    if not measured and ends.curve == "rest":
        text = "light ends are estimated from the front of a curve of the whole sample; this one is of the rest"
        here.at("curve").fault(text)
    if not names:
        here.at(key).fault("the list is empty; name at least one component")
    found: list[tuple[Component, float]] = []
    seen: set[str] = set()
    for i, name in enumerate(names):
        place = here.at(key, name if measured else i)
        try:
            component = find(name)
        except UnknownComponentError as error:
            place.fault(str(error))
            continue
        if component.name in seen:
            place.fault(f"'{component.name}' is given twice; join the amounts")
            continue
        seen.add(component.name)
        share = 0.0
        if measured:
            if ends.amounts[name] in EMPTY:
                continue  # not filled in yet
            entered = place.number(ends.amounts[name], "a percentage")
            if entered is None:
                continue
            share = entered
            if not 0.0 <= share <= 100.0:
                place.fault(f"{name}: {share:g} % lies outside 0 to 100 %")
                continue
            if 0.0 < share < LEAST_PERCENT:
                place.fault(f"{name}: {share:g} % is less than can be told from nothing; write 0 or leave it out")
                continue
        found.append((component, share))
    total = sum(p for _, p in found)
    if total >= 99.0:
        here.at(key).fault(f"the light ends add up to {total:.4g} %; nothing is left to cut")
    if not found:
        return None
    percent = tuple(p for _, p in found) if measured else None
    return LightEnds(tuple(c for c, _ in found), percent, ends.basis, ends.curve == "whole")


def _cuts(sample: Sample, here: Reader) -> tuple[CutChoice, tuple[ProductRange, ...]]:
    cuts = sample.cuts
    given = [k for k in ("regions", "boundaries") if getattr(cuts, k) is not None]
    given += [] if cuts.number in EMPTY else ["number"]
    if len(given) > 1:
        here.fault(f"give one of regions, boundaries and number, not {' and '.join(given)}")
    here.at("unit").known(cuts.unit, ("degC", "degF"), "unit of cuts")
    here.at("equal").known(cuts.equal, ("temperature", *BASES), "measure of equal cuts")
    number = None
    if cuts.number not in EMPTY:
        number = here.at("number").between(cuts.number, 1, 200, "a number of cuts")
    regions: list[tuple[float, float]] = []
    previous = 0.0
    for i, (end, width) in enumerate(cuts.regions or ()):
        last = end in EMPTY and i == len(cuts.regions or ()) - 1
        row = here.at("regions", i)
        top = np.inf if last else row.at(0).quantity(end, "temperature")
        step = row.at(1).quantity(width, "temperature_difference")
        if step is not None and not 1.0 <= step <= 500.0:
            row.at(1).fault(f"a width of {step:g} K is outside 1 to 500 K")
        if top is not None and top <= previous:
            row.at(0).fault("the regions must end at rising temperatures")
        previous = top if top is not None else previous
        if top is not None and step is not None:
            regions.append((float(top), step))
    if regions and np.isfinite(regions[-1][0]):
        regions.append((np.inf, regions[-1][1]))
    boundaries: tuple[float, ...] | None = None
    keys: tuple[str, ...] = ()
    if cuts.boundaries is not None:
        ids = cuts.ids if len(cuts.ids) == len(cuts.boundaries) else [f"b{i + 1}" for i in range(len(cuts.boundaries))]
        read = [here.at("boundaries", i).quantity(b, "temperature") for i, b in enumerate(cuts.boundaries)]
        pairs = sorted((b, k) for b, k in zip(read, ids) if b is not None)
        boundaries, keys = tuple(b for b, _ in pairs), tuple(k for _, k in pairs)
    choice = CutChoice(
        boundaries,
        None if number is None else int(number),
        cuts.equal,
        tuple(regions) or (IN_FAHRENHEIT if cuts.unit == "degF" else REGIONS),
        tuple(cuts.names.items()),
        keys,
        cuts.unit,
    )
    return choice, _products(sample.cuts.products or (), here)


def _products(products: Sequence[Product], here: Reader) -> tuple[ProductRange, ...]:
    """Return product ranges by rising end, the usual ones where none is given; faults at ``products`` below the
    reader."""
    out: list[ProductRange] = []
    previous = 0.0
    for i, product in enumerate(products):
        row = here.at("products", i)
        if not product.name.strip():
            row.at("name").fault("the name is empty; give it one")
        if product.end in EMPTY and i == len(products) - 1:
            out.append(ProductRange(product.name, np.inf))
            continue
        end = row.at("end").quantity(product.end, "temperature")
        if end is not None and end <= previous:
            row.at("end").fault("the products must end at rising temperatures")
        previous = end if end is not None else previous
        out.append(ProductRange(product.name, np.inf if end is None else end))
    return tuple(out) or PRODUCTS
