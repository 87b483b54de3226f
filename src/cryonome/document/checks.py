"""The judgement of a document's contents: quantities, names, amounts, conditions.

Every check looks at one thing and yields faults at the path where it stands; the window marks them there and the
command line prints them. A document without errors can be computed.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..components import UnknownComponentError, find
from ..eos import FORMS
from ..units import QuantityError, fits, split
from .cells import number, quantity, specific_gravity
from .faults import Fault, PathParts, did_you_mean
from .model import (
    Cell,
    CharacterizationStudy,
    Document,
    EnvelopeStudy,
    FlashStudy,
    Fluid,
    Pseudo,
    SaturationStudy,
    Series,
    Study,
)
from .sample_checks import check_sample

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


AMOUNTS = {
    "mole": ("amount", "molar_rate"),
    "mass": ("mass", "mass_rate"),
    "volume": ("volume", "volume_rate"),
}
"""Kinds of an amount with a unit: in all, or a rate."""


def amount_kind(cell: Cell) -> tuple[str, bool] | None:
    """Return the basis an amount's own unit puts it on and whether it is a rate; None for a plain number.

    Raises QuantityError where the unit is none of an amount.
    """
    if not isinstance(cell, str):
        return None
    try:
        unit = split(cell)[1]
    except QuantityError:
        return None
    if unit in ("", "%"):
        return None
    for basis, kinds in AMOUNTS.items():
        for kind in kinds:
            if fits(unit, kind):
                return basis, kind.endswith("rate")
    raise QuantityError(
        f"'{unit}' is no unit of an amount; write a plain number, or for example 850 bbl/day, 12 MMscf/day or 3 t"
    )


def check_fluid(fluid: Fluid, document: Document, path: PathParts) -> list[Fault]:
    """Return the faults of a fluid."""
    faults: list[Fault] = []
    known: list[str] = []
    if fluid.grid not in ("common", "own"):
        faults.append(Fault((*path, "grid"), f"'{fluid.grid}' is no grid of cuts; use common or own"))
    if fluid.recombination is not None:
        faults += _check_recombination(fluid, document, path)
        if fluid.parts:
            faults.append(
                Fault((*path, "parts"), "a recombined fluid has no parts of its own; leave parts or recombination out")
            )
        return faults + _check_model(fluid, document, known, (*path, "model"))
    total = 0.0
    rates: set[bool] = set()
    seen: dict[str, int] = {}
    for i, part in enumerate(fluid.parts):
        at = (*path, "parts", i)
        given = [k for k in ("component", "pseudo", "series", "sample", "fluid") if getattr(part, k) is not None]
        if len(given) != 1:
            faults.append(Fault(at, "a part names exactly one of component, pseudo, series, sample and fluid"))
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
        if part.series is not None:
            name = f"series {part.series.name}"
            faults += _check_series(part.series, (*at, "series"))
        if part.sample is not None:
            name = f"sample {part.sample}"
            if document.sample(part.sample) is None:
                names = [s.name for s in document.samples]
                faults.append(
                    Fault((*at, "sample"), f"unknown sample '{part.sample}'{did_you_mean(part.sample, names)}")
                )
        if part.fluid is not None:
            name = f"fluid {part.fluid}"
            faults += _check_inner(part.fluid, fluid, document, (*at, "fluid"))
        if name and name in seen:
            faults.append(Fault(at, f"'{name}' is given twice, first at parts[{seen[name]}]; join the amounts"))
        seen.setdefault(name, i)
        amount = _amount(part.amount, (*at, "amount"), faults, rates)
        if amount is not None:
            if amount < 0.0:
                faults.append(Fault((*at, "amount"), f"an amount must be zero or more; this one is {amount:g}"))
            total += max(amount, 0.0)
    if not fluid.parts:
        faults.append(Fault((*path, "parts"), "the fluid is empty; add at least one part"))
    elif total <= 0.0 and not faults:
        faults.append(Fault((*path, "parts"), "every amount is zero; give at least one part an amount above zero"))
    if len(rates) > 1:
        faults.append(
            Fault((*path, "parts"), "rates stand beside amounts that are none; give all parts as rates, or none")
        )
    return faults + _check_model(fluid, document, known, (*path, "model"))


def _amount(cell: Cell, at: PathParts, faults: list[Fault], rates: set[bool]) -> float | None:
    try:
        kind = amount_kind(cell)
    except QuantityError as error:
        faults.append(Fault(at, str(error)))
        return None
    if kind is None:
        value = number(cell, at, faults, "an amount")
        if value:
            rates.add(False)
        return value
    rates.add(kind[1])
    return quantity(cell, AMOUNTS[kind[0]][kind[1]], at, faults)


def _check_inner(name: str, outer: Fluid, document: Document, at: PathParts) -> list[Fault]:
    inner = document.fluid(name)
    if inner is None:
        names = [f.name for f in document.fluids if f.name != outer.name]
        return [Fault(at, f"unknown fluid '{name}'{did_you_mean(name, names)}")]
    if outer.name in inner_names(inner, document) | {name}:
        return [Fault(at, f"'{name}' is made of '{outer.name}' itself; a fluid cannot hold itself")]
    return []


def inner_names(fluid: Fluid, document: Document) -> set[str]:
    """Return the names of all fluids a fluid is made of, however deep."""
    out: set[str] = set()
    waiting = [fluid]
    while waiting:
        current = waiting.pop()
        direct = {p.fluid for p in current.parts if p.fluid is not None}
        if current.recombination is not None:
            direct |= {current.recombination.liquid, current.recombination.gas}
        for name in direct - out:
            out.add(name)
            inner = document.fluid(name)
            if inner is not None:
                waiting.append(inner)
    return out


def _check_recombination(fluid: Fluid, document: Document, path: PathParts) -> list[Fault]:
    made, at = fluid.recombination, (*path, "recombination")
    assert made is not None
    faults: list[Fault] = []
    for key in ("liquid", "gas"):
        faults += _check_inner(getattr(made, key), fluid, document, (*at, key))
    ratio = quantity(made.gas_oil_ratio, "gas_oil_ratio", (*at, "gas_oil_ratio"), faults)
    if ratio is not None and ratio < 0.0:
        faults.append(Fault((*at, "gas_oil_ratio"), "a gas-oil ratio is zero or more"))
    if made.liquid_volume not in ("separator", "stock tank"):
        faults.append(
            Fault(
                (*at, "liquid_volume"),
                f"'{made.liquid_volume}' is no place of the liquid's volume; use separator or stock tank",
            )
        )
    if made.temperature is not None or made.liquid_volume == "separator":
        quantity(made.temperature, "temperature", (*at, "temperature"), faults)
    if made.pressure is not None:
        quantity(made.pressure, "pressure", (*at, "pressure"), faults)
    return faults


def _check_series(series: Series, at: PathParts) -> list[Fault]:
    faults: list[Fault] = []
    if not series.name.strip():
        faults.append(Fault((*at, "name"), "the name is empty; give it one"))
    start = quantity(series.start, "temperature", (*at, "start"), faults)
    end = quantity(series.end, "temperature", (*at, "end"), faults)
    step = quantity(series.step, "temperature_difference", (*at, "step"), faults)
    if start is not None and end is not None and end <= start:
        faults.append(Fault((*at, "end"), "a series ends above where it starts"))
    elif (
        start is not None and end is not None and step is not None and not (end - start) / 100.0 <= step <= end - start
    ):
        faults.append(Fault((*at, "step"), "the step makes between 1 and 100 pseudo-components of the range"))
    if series.watson_k is not None:
        watson = number(series.watson_k, (*at, "watson_k"), faults, "a Watson K")
        if watson is not None and not 8.0 <= watson <= 15.0:
            faults.append(Fault((*at, "watson_k"), f"a Watson K of {watson:g} is outside 8 to 15"))
    return faults


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
    # Names of cuts and of what is inside other fluids are known only once the fluid is made.
    open_ended = fluid.recombination is not None or any(
        p.sample is not None or p.fluid is not None or p.series is not None for p in fluid.parts
    )
    for i, (one, other, value) in enumerate(model.kij_pairs):
        names = []
        for k, name in enumerate((one, other)):
            try:
                resolved = name if name in known else find(name).name
            except UnknownComponentError:
                resolved = name
            names.append(resolved)
            if resolved not in known and not (open_ended and _may_be_inside(name, fluid, document)):
                faults.append(
                    Fault((*at, "kij_pairs", i, k), f"'{name}' is not in the fluid{did_you_mean(name, known)}")
                )
        if names[0] == names[1]:
            faults.append(Fault((*at, "kij_pairs", i), f"'{one}' is paired with itself"))
        kij = number(value, (*at, "kij_pairs", i, 2), faults, "an interaction parameter")
        if kij is not None and not -1.0 < kij < 1.0:
            faults.append(Fault((*at, "kij_pairs", i, 2), f"an interaction parameter of {kij:g} is outside -1 to 1"))
    return faults


def _may_be_inside(name: str, fluid: Fluid, document: Document) -> bool:
    """Tell whether a name can be that of a cut or of a component inside another part."""
    owners = [s.name for s in document.samples] + [f.name for f in document.fluids]
    owners += [p.series.name for p in fluid.parts if p.series is not None]
    if any(name.startswith(f"{o} ") for o in owners):
        return True
    nested = fluid.recombination is not None or any(p.fluid is not None for p in fluid.parts)
    ends = any(p.sample is not None for p in fluid.parts)
    try:
        find(name)
    except UnknownComponentError:
        return nested
    return nested or ends


def check_study(study: Study, document: Document, path: PathParts) -> list[Fault]:
    """Return the faults of a study."""
    faults: list[Fault] = []
    if isinstance(study, CharacterizationStudy):
        if document.sample(study.sample) is None:
            names = [s.name for s in document.samples]
            faults.append(
                Fault((*path, "sample"), f"unknown sample '{study.sample}'{did_you_mean(study.sample, names)}")
            )
        if study.temperature is not None:
            quantity(study.temperature, "temperature", (*path, "temperature"), faults)
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
