"""The judgement of a document's contents: quantities, names, amounts, conditions.

Every check looks at one thing and yields faults at the path where it stands; the window marks them there and the
command line prints them. A document without errors can be computed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from ..characterization.correlations import REGISTRY
from ..characterization.curve import LEAST_POINTS, check_points
from ..components import UnknownComponentError, find
from ..eos import FORMS
from ..units import QuantityError, from_si, label, normal_unit, parse, split
from .faults import Fault, PathParts, did_you_mean
from .model import (
    Cell,
    CharacterizationStudy,
    Document,
    EnvelopeStudy,
    FlashStudy,
    Fluid,
    Pseudo,
    Sample,
    SaturationStudy,
    Study,
)

LATER_EOS = ("ideal", "VDW", "RK", "PC-SAFT")


def check_document(document: Document) -> list[Fault]:
    """Return every fault of the document, in its order."""
    faults = list(_unique_names(document))
    for i, sample in enumerate(document.samples):
        faults += check_sample(sample, ("samples", i))
    for i, fluid in enumerate(document.fluids):
        faults += check_fluid(fluid, document, ("fluids", i))
    for i, study in enumerate(document.studies):
        faults += check_study(study, document, ("studies", i))
    return faults


def errors(faults: Sequence[Fault]) -> list[Fault]:
    """Return the faults that forbid a computation."""
    return [f for f in faults if f.severity == "error"]


def _unique_names(document: Document) -> Iterator[Fault]:
    for group in ("samples", "fluids", "studies"):
        seen: dict[str, int] = {}
        for i, item in enumerate(getattr(document, group)):
            if not item.name.strip():
                yield Fault((group, i, "name"), "the name is empty; give it one")
            elif item.name in seen:
                yield Fault(
                    (group, i, "name"), f"the name '{item.name}' is given twice, first at {group}[{seen[item.name]}]"
                )
            seen.setdefault(item.name, i)


def quantity(
    value: Cell, kind: str, path: PathParts, faults: list[Fault], default_unit: str | None = None
) -> float | None:
    """Return a cell in SI, or None with a fault added where it is not a quantity of the kind."""
    try:
        return parse(value if value is not None else "", kind, default_unit)
    except QuantityError as error:
        faults.append(Fault(path, str(error)))
        return None


def number(value: Cell, path: PathParts, faults: list[Fault], what: str) -> float | None:
    """Return a plain number, or None with a fault added."""
    try:
        if value is None or isinstance(value, bool):
            raise QuantityError("")
        if isinstance(value, str):
            result, unit = split(value)
            if unit and unit != "%":
                raise QuantityError("")
            return result
        return float(value)
    except QuantityError:
        shown = "an empty cell" if value is None or value == "" else f"'{value}'"
        faults.append(Fault(path, f"{shown} is not {what}; write a plain number"))
        return None


def temperature_writer(sample: Sample) -> Callable[[float], str]:
    """Return a function that writes a temperature (K) in the unit the sample's curve is shown in."""
    unit = temperature_unit(sample)
    return lambda kelvin: f"{round(from_si(kelvin, unit, 'temperature'), 1):g} {label(unit)}".replace("-", "−")


def temperature_unit(sample: Sample) -> str:
    """Return the unit of a sample's temperature column: chosen, else the first one entered, else degC."""
    if sample.display.temperature:
        return sample.display.temperature
    for _, cell in sample.distillation.points:
        if isinstance(cell, str):
            try:
                unit = normal_unit(split(cell)[1])
            except QuantityError:
                continue
            if unit in ("degC", "degF", "K", "degR"):
                return unit
    return "degC"


def curve_points(sample: Sample, path: PathParts = ()) -> tuple[list[int], list[float], list[float], list[Fault]]:
    """Return rows, percents and temperatures (K) of the valid points, and the faults of the others.

    Rows with both cells empty are skipped silently, as they are while a grid is filled in.
    """
    faults: list[Fault] = []
    rows, percents, temperatures = [], [], []
    at = (*path, "distillation", "points")
    for i, (percent, temperature) in enumerate(sample.distillation.points):
        if percent in (None, "") and temperature in (None, ""):
            continue
        p = number(percent, (*at, i, 0), faults, "a percentage")
        t = quantity(temperature, "temperature", (*at, i, 1), faults)
        if p is not None and t is not None:
            rows.append(i)
            percents.append(p)
            temperatures.append(t)
    show = temperature_writer(sample)
    bad = set()
    for fault in check_points(percents, temperatures, show):
        proposal = None if fault.proposal is None else show(fault.proposal)
        hint = "" if proposal is None else f" {proposal}?"
        column = 0 if fault.column == "percent" else 1
        faults.append(Fault((*at, rows[fault.index], column), fault.message + hint, "error", proposal))
        bad.add(fault.index)
    keep = [k for k in range(len(rows)) if k not in bad]
    return [rows[k] for k in keep], [percents[k] for k in keep], [temperatures[k] for k in keep], faults


def check_sample(sample: Sample, path: PathParts) -> list[Fault]:
    """Return the faults of a sample."""
    faults: list[Fault] = []
    curve = sample.distillation
    if curve.method != "TBP":
        faults.append(
            Fault(
                (*path, "distillation", "method"), f"the method '{curve.method}' is not read by this version; use TBP"
            )
        )
    if curve.basis != "volume":
        faults.append(
            Fault(
                (*path, "distillation", "basis"), f"the basis '{curve.basis}' is not read by this version; use volume"
            )
        )
    pressure = quantity(curve.pressure, "pressure", (*path, "distillation", "pressure"), faults)
    if pressure is not None and abs(pressure / 101325.0 - 1.0) > 0.02:
        faults.append(
            Fault(
                (*path, "distillation", "pressure"),
                "a TBP curve is read at 1 atm only; give the temperatures corrected to 1 atm",
            )
        )
    rows, _, _, point_faults = curve_points(sample, path)
    faults += point_faults
    if len(rows) < LEAST_POINTS:
        text = f"a boiling-point curve needs at least {LEAST_POINTS} valid points; this one has {len(rows)}"
        faults.append(Fault((*path, "distillation", "points"), text))
    faults += _check_bulk(sample, path)
    if sample.curves:
        faults.append(Fault((*path, "curves"), "property curves are not read by this version; leave the key out"))
    if sample.light_ends.mode != "absent":
        faults.append(
            Fault(
                (*path, "light_ends", "mode"),
                "light ends of a sample are not read by this version; use absent and add the components to the fluid",
            )
        )
    faults += _check_cuts(sample, path)
    for prop, key in sample.correlations.items():
        if prop not in REGISTRY:
            faults.append(
                Fault((*path, "correlations", prop), f"unknown property '{prop}'{did_you_mean(prop, REGISTRY)}")
            )
        elif key not in REGISTRY[prop]:
            faults.append(
                Fault((*path, "correlations", prop), f"unknown correlation '{key}'{did_you_mean(key, REGISTRY[prop])}")
            )
    return faults


def _check_bulk(sample: Sample, path: PathParts) -> list[Fault]:
    faults: list[Fault] = []
    bulk, at = sample.bulk, (*path, "bulk")
    empty = (None, "")
    if bulk.density in empty and bulk.watson_k in empty:
        faults.append(Fault((*at, "density"), "a density or a Watson K of the whole sample is needed"))
    if bulk.density not in empty:
        density = quantity(bulk.density, "density", (*at, "density"), faults)
        if density is not None and not 400.0 <= density <= 1300.0:
            faults.append(
                Fault(
                    (*at, "density"),
                    f"{density:.0f} kg/m³ is outside 400 to 1300 kg/m³, the range of petroleum liquids",
                )
            )
    if bulk.molar_mass not in empty:
        mass = quantity(bulk.molar_mass, "molar_mass", (*at, "molar_mass"), faults)
        if mass is not None and not 0.03 <= mass <= 2.0:
            faults.append(
                Fault(
                    (*at, "molar_mass"),
                    f"{mass * 1e3:.4g} g/mol is outside 30 to 2000 g/mol, the range of petroleum liquids",
                )
            )
    if bulk.watson_k not in empty:
        watson = number(bulk.watson_k, (*at, "watson_k"), faults, "a Watson K")
        if watson is not None and not 8.0 <= watson <= 15.0:
            faults.append(Fault((*at, "watson_k"), f"a Watson K of {watson:g} is outside 8 to 15"))
    for i, (temperature, viscosity) in enumerate(bulk.viscosity):
        quantity(temperature, "temperature", (*at, "viscosity", i, 0), faults)
        trial: list[Fault] = []
        if quantity(viscosity, "kinematic_viscosity", (*at, "viscosity", i, 1), trial) is None:
            trial2: list[Fault] = []
            if quantity(viscosity, "dynamic_viscosity", (*at, "viscosity", i, 1), trial2) is None:
                faults += trial
    return faults


def _check_cuts(sample: Sample, path: PathParts) -> list[Fault]:
    faults: list[Fault] = []
    at = (*path, "cuts")
    cuts = sample.cuts
    if cuts.regions is not None and cuts.boundaries is not None:
        faults.append(Fault(at, "give regions or boundaries, not both"))
    previous = 0.0
    for i, (end, width) in enumerate(cuts.regions or ()):
        last = end in (None, "") and i == len(cuts.regions or ()) - 1
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
        if i == len(products) - 1 and product.end in (None, ""):
            continue
        end_t = quantity(product.end, "temperature", (*at, "products", i, "end"), faults)
        if end_t is not None and end_t <= previous:
            faults.append(Fault((*at, "products", i, "end"), "the products must end at rising temperatures"))
        previous = end_t if end_t is not None else previous
    return faults


def check_fluid(fluid: Fluid, document: Document, path: PathParts) -> list[Fault]:
    """Return the faults of a fluid."""
    faults: list[Fault] = []
    total = 0.0
    known: list[str] = []
    seen: dict[str, int] = {}
    for i, part in enumerate(fluid.parts):
        at = (*path, "parts", i)
        given = [k for k in ("component", "pseudo", "sample") if getattr(part, k) is not None]
        if len(given) != 1:
            faults.append(Fault(at, "a part names exactly one of component, pseudo and sample"))
        name = ""
        if part.component is not None:
            try:
                name = find(part.component).name
                known.append(name)
            except UnknownComponentError as error:
                faults.append(Fault((*at, "component"), str(error)))
        if part.pseudo is not None:
            name = part.pseudo.name
            known.append(name)
            faults += _check_pseudo(part.pseudo, (*at, "pseudo"))
        if part.sample is not None:
            name = f"sample {part.sample}"
            if document.sample(part.sample) is None:
                names = [s.name for s in document.samples]
                faults.append(
                    Fault((*at, "sample"), f"unknown sample '{part.sample}'{did_you_mean(part.sample, names)}")
                )
        if name and name in seen:
            faults.append(Fault(at, f"'{name}' is given twice, first at parts[{seen[name]}]; join the amounts"))
        seen.setdefault(name, i)
        amount = number(part.amount, (*at, "amount"), faults, "an amount")
        if amount is not None:
            if amount < 0.0:
                faults.append(Fault((*at, "amount"), f"an amount must be zero or more; this one is {amount:g}"))
            total += max(amount, 0.0)
    if not fluid.parts:
        faults.append(Fault((*path, "parts"), "the fluid is empty; add at least one part"))
    elif total <= 0.0 and not faults:
        faults.append(Fault((*path, "parts"), "every amount is zero; give at least one part an amount above zero"))
    return faults + _check_model(fluid, document, known, (*path, "model"))


def _check_pseudo(pseudo: Pseudo, at: PathParts) -> list[Fault]:
    faults: list[Fault] = []
    if not pseudo.name.strip():
        faults.append(Fault((*at, "name"), "the name is empty; give it one"))
    kinds = {
        "Tc": "temperature",
        "Pc": "pressure",
        "molar_mass": "molar_mass",
        "Vc": "molar_volume",
        "nbp": "temperature",
    }
    values: dict[str, float | None] = {}
    for key, kind in kinds.items():
        cell = getattr(pseudo, key)
        if cell is not None:
            values[key] = quantity(cell, kind, (*at, key), faults)
    for key in ("Pc", "Vc"):
        value = values.get(key)
        if value is not None and value <= 0.0:
            faults.append(Fault((*at, key), f"{key} must be above zero"))
    if pseudo.omega is not None:
        omega = number(pseudo.omega, (*at, "omega"), faults, "an acentric factor")
        if omega is not None and not -1.0 < omega < 3.0:
            faults.append(Fault((*at, "omega"), f"an acentric factor of {omega:g} is outside -1 to 3"))
    if pseudo.specific_gravity is not None:
        sg = specific_gravity(pseudo.specific_gravity, (*at, "specific_gravity"), faults)
        if sg is not None and not 0.3 <= sg <= 1.5:
            faults.append(Fault((*at, "specific_gravity"), f"a specific gravity of {sg:.4g} is outside 0.3 to 1.5"))
    enough = any(getattr(pseudo, k) is not None for k in ("nbp", "specific_gravity", "molar_mass"))
    if not enough and any(getattr(pseudo, k) is None for k in ("Tc", "Pc", "omega")):
        faults.append(
            Fault(at, "give a normal boiling point, a specific gravity or a molar mass, or Tc, Pc and omega together")
        )
    return faults


def specific_gravity(value: Cell, path: PathParts, faults: list[Fault]) -> float | None:
    """Return a specific gravity from a plain number or any density."""
    if isinstance(value, str):
        density = quantity(value, "density", path, faults, "SG")
        return None if density is None else from_si(density, "SG", "density")
    return number(value, path, faults, "a specific gravity")


def _check_model(fluid: Fluid, document: Document, known: list[str], at: PathParts) -> list[Fault]:
    faults: list[Fault] = []
    model = fluid.model
    if model.eos in LATER_EOS:
        faults.append(
            Fault((*at, "eos"), f"the equation '{model.eos}' is not offered by this version; use {', '.join(FORMS)}")
        )
    elif model.eos not in FORMS:
        faults.append(Fault((*at, "eos"), f"unknown equation '{model.eos}'{did_you_mean(model.eos, FORMS)}"))
    if model.kij not in ("library", "zero"):
        faults.append(
            Fault((*at, "kij"), f"'{model.kij}' is not a source of interaction parameters; use library or zero")
        )
    if model.volume_shift != "none":
        faults.append(
            Fault(
                (*at, "volume_shift"),
                f"the volume shift '{model.volume_shift}' is not offered by this version; use none",
            )
        )
    with_sample = any(p.sample is not None for p in fluid.parts)
    for i, (one, other, value) in enumerate(model.kij_pairs):
        names = []
        for k, name in enumerate((one, other)):
            try:
                resolved = name if name in known else find(name).name
            except UnknownComponentError:
                resolved = name
            names.append(resolved)
            if resolved not in known and not (with_sample and _names_a_cut(name, document)):
                faults.append(
                    Fault((*at, "kij_pairs", i, k), f"'{name}' is not in the fluid{did_you_mean(name, known)}")
                )
        if names[0] == names[1]:
            faults.append(Fault((*at, "kij_pairs", i), f"'{one}' is paired with itself"))
        kij = number(value, (*at, "kij_pairs", i, 2), faults, "an interaction parameter")
        if kij is not None and not -1.0 < kij < 1.0:
            faults.append(Fault((*at, "kij_pairs", i, 2), f"an interaction parameter of {kij:g} is outside -1 to 1"))
    return faults


def _names_a_cut(name: str, document: Document) -> bool:
    return any(name.startswith(f"{s.name} ") for s in document.samples)


def check_study(study: Study, document: Document, path: PathParts) -> list[Fault]:
    """Return the faults of a study."""
    faults: list[Fault] = []
    if isinstance(study, CharacterizationStudy):
        if document.sample(study.sample) is None:
            names = [s.name for s in document.samples]
            faults.append(
                Fault((*path, "sample"), f"unknown sample '{study.sample}'{did_you_mean(study.sample, names)}")
            )
        return faults
    if document.fluid(study.fluid) is None:
        names = [f.name for f in document.fluids]
        faults.append(Fault((*path, "fluid"), f"unknown fluid '{study.fluid}'{did_you_mean(study.fluid, names)}"))
    if isinstance(study, EnvelopeStudy):
        if not study.vapour_fractions:
            faults.append(Fault((*path, "vapour_fractions"), "the list is empty; give at least one vapour fraction"))
        for i, cell in enumerate(study.vapour_fractions):
            _fraction(cell, (*path, "vapour_fractions", i), faults)
        return faults
    names = _conditions(study, path, faults)
    wanted = 2 if isinstance(study, FlashStudy) else 1
    if len(names) != wanted:
        possible = (
            "two of temperature, pressure and vapour_fraction" if wanted == 2 else "one of temperature and pressure"
        )
        told = f"{', '.join(names)} given" if names else "none given"
        faults.append(Fault(path, f"a {study.kind} takes exactly {possible}; {told}"))
    return faults


def _conditions(study: FlashStudy | SaturationStudy, path: PathParts, faults: list[Fault]) -> list[str]:
    names = []
    for name in ("temperature", "pressure"):
        cell = getattr(study, name)
        if cell is not None:
            names.append(name)
            value = quantity(cell, name, (*path, name), faults)
            if name == "pressure" and value is not None and value <= 0.0:
                faults.append(
                    Fault((*path, name), f"'{cell}' is not above zero; a pressure must be above 0 Pa absolute")
                )
    if isinstance(study, FlashStudy):
        if study.vapour_fraction is not None:
            names.append("vapour_fraction")
            _fraction(study.vapour_fraction, (*path, "vapour_fraction"), faults)
        for name in ("enthalpy", "entropy", "density"):
            if getattr(study, name) is not None:
                names.append(name)
                faults.append(
                    Fault(
                        (*path, name),
                        f"a flash by {name} is not offered by this version; give two of temperature, pressure and vapour_fraction",
                    )
                )
    return names


def _fraction(cell: Cell, path: PathParts, faults: list[Fault]) -> None:
    value = quantity(cell, "fraction", path, faults)
    if value is not None and not 0.0 <= value <= 1.0:
        faults.append(Fault(path, f"a vapour fraction must lie between 0 and 1; this one is {value:g}"))
