"""Reading a fluid once: its parts, amounts and model in SI, and every fault at its cell, in one pass."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from ..characterization import Known
from ..components import Component, UnknownComponentError, find
from ..constants import T_REF
from ..eos.aqueous_library import MOST_SALT, WATER
from ..eos.building import ALPHAS, AQUEOUS_FAMILIES, EQUATIONS, PURE_FLUID, SAFT, family_of, shift_fits
from ..eos.interaction import RULE, MethaneRule
from ..eos.volume_shift import SHIFTS
from ..properties import VISCOSITIES
from ..units import QuantityError, fits, split
from .faults import Fault, PathParts, did_you_mean, errors
from .field_types import FLUIDS, Cell
from .kinds import study_kinds
from .model import Document, Fluid, FluidPart, Model, PairRule, Pseudo, SaftParameters, Series
from .read_tuning import TuningInput, read_tuning
from .reader import EMPTY, Reader
from .references import names_of, reached

AMOUNTS = {
    "mole": ("amount", "molar_rate"),
    "mass": ("mass", "mass_rate"),
    "volume": ("volume", "volume_rate"),
}
"""Kinds of an amount with a unit by basis: in all, or a rate."""

REFERENCES = ("ideal gas", "elements", "saturated liquid")
"""Where enthalpy and entropy may be zero."""

SPAN = 200.0
"""K from 25 degC within which a sloping interaction parameter must stay between -1 and 1."""

MOST_SLOPE = 0.01
"""1/K, the steepest an interaction parameter may change with temperature."""

NAMES = ("component", "pseudo", "series", "sample", "fluid")
"""What a part can be."""


@dataclass(frozen=True)
class SeriesInput:
    """Pseudo-components at equal steps: from and to K, step K, Watson factor or None."""

    name: str
    start: float
    end: float
    step: float
    watson_k: float | None


@dataclass(frozen=True)
class PartInput:
    """A part in SI: its ``key``, what it is, and its ``amount`` on ``basis`` (of its own unit, else the fluid's)."""

    key: str
    content: Component | Known | SeriesInput | str
    is_sample: bool
    basis: str
    amount: float


@dataclass(frozen=True)
class RecombinationInput:
    """Two fluids by name, standard moles of gas per m3 of liquid, where that volume is, T K and P Pa there."""

    liquid: str
    gas: str
    ratio: float
    place: str
    temperature: float | None
    pressure: float | None


@dataclass(frozen=True)
class ModelInput:
    """The equation and its parameters: ``pairs`` of component keys or names with a value at 298.15 K and a slope, 1/K;
    ``omegas`` own constants Omega_a and Omega_b by component key or name; ``reference`` one of :data:`REFERENCES`, at ``reference_T`` K where it is a saturated liquid; ``salt`` mol NaCl per kg of
    the water."""

    eos: str = "PR78"
    alpha: str = "own"
    kij: str = "library"
    rule: MethaneRule = RULE
    pairs: tuple[tuple[str, str, float, float], ...] = ()
    volume_shift: str = "density"
    viscosity: str = "fitted-states"
    reference: str = "ideal gas"
    reference_T: float = T_REF
    salt: float = 0.0
    tuned: TuningInput | None = None
    omegas: tuple[tuple[str, tuple[float, float]], ...] = ()
    aqueous: tuple[tuple[str, float, float], ...] = ()


@dataclass(frozen=True)
class FluidInput:
    """A fluid in SI."""

    key: str
    name: str
    parts: tuple[PartInput, ...]
    recombination: RecombinationInput | None
    grid: Literal["common", "own"]
    model: ModelInput
    made_by: tuple[str, str] | None = None


@dataclass(frozen=True)
class FluidReading:
    """What a fluid says, None where a fault forbids any computation, and its faults."""

    fluid: FluidInput | None
    faults: tuple[Fault, ...]


def read_fluid(fluid: Fluid, document: Document, path: PathParts = ()) -> FluidReading:
    """Return what a fluid at ``path`` of the document says, and what is wrong with it."""
    reader = Reader(path)
    reader.at("grid").known(fluid.grid, ("common", "own"), "grid of cuts")
    known: list[str] = []
    recombination: RecombinationInput | None = None
    parts: tuple[PartInput, ...] = ()
    if fluid.made_by is not None:
        return _made(fluid, document, reader)
    if fluid.recombination is not None:
        recombination = _recombination(fluid, document, reader.at("recombination"))
        if fluid.parts:
            text = "a recombined fluid has no parts of its own; leave parts or recombination out"
            reader.at("parts").fault(text)
    else:
        parts = _parts(fluid, document, reader, known)
    # What was lumped stands by itself where its source is gone; questions about its single components say so.
    if fluid.detail is not None and document.fluid(fluid.detail.fluid) is not None:
        _check_inner(fluid.detail.fluid, fluid, document, reader.at("detail", "fluid"))
    model = _model(fluid, document, known, reader.at("model"))
    faults = tuple(reader.faults)
    if errors(faults) or model is None:
        return FluidReading(None, faults)
    grid: Literal["common", "own"] = "own" if fluid.grid == "own" else "common"
    return FluidReading(FluidInput(fluid.id or fluid.name, fluid.name, parts, recombination, grid, model), faults)


def amount_kind(cell: Cell) -> tuple[str, str] | None:
    """Return the basis an amount's own unit puts it on and the kind of its quantity; None for a plain number.

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
                return basis, kind
    raise QuantityError(
        f"'{unit}' is no unit of an amount; write a plain number, or for example 850 bbl/day, 12 MMscf/day or 3 t"
    )


def _parts(fluid: Fluid, document: Document, reader: Reader, known: list[str]) -> tuple[PartInput, ...]:
    here = reader.at("parts")
    out: list[PartInput] = []
    total = 0.0
    rates: set[bool] = set()
    seen: dict[str, int] = {}
    before = len(reader.faults)
    for i, part in enumerate(fluid.parts):
        own = here.at(i)
        if sum(getattr(part, k) is not None for k in NAMES) != 1:
            own.fault("a part names exactly one of component, pseudo, series, sample and fluid")
        name, content = _content(part, fluid, document, own, known)
        if name and name in seen:
            own.fault(f"'{name}' is given twice, first at parts[{seen[name]}]; join the amounts")
        seen.setdefault(name, i)
        cell = part.amount
        if cell in EMPTY and len(fluid.parts) == 1:
            cell = 1.0  # alone it is all of the fluid, however much
        basis, amount = _amount(cell, own.at("amount"), rates)
        if amount is not None:
            if amount < 0.0:
                own.at("amount").fault(f"an amount must be zero or more; this one is {amount:g}")
            total += max(amount, 0.0)
            if content is not None:
                key = part.id or name
                out.append(PartInput(key, content, part.sample is not None, basis or fluid.basis, amount))
    if not fluid.parts:
        here.fault("the fluid is empty; add at least one part")
    elif total <= 0.0 and len(reader.faults) == before:
        here.fault("every amount is zero; give at least one part an amount above zero")
    if len(rates) > 1:
        here.fault("rates stand beside amounts that are none; give all parts as rates, or none")
    return tuple(out)


def _content(
    part: FluidPart, fluid: Fluid, document: Document, own: Reader, known: list[str]
) -> tuple[str, Component | Known | SeriesInput | str | None]:
    """Return what a part is called and what it is, None where that is not known."""
    if part.component is not None:
        try:
            component = find(part.component)
        except UnknownComponentError as error:
            own.at("component").fault(str(error))
            return "", None
        known.append(component.name)
        return component.name, component
    if part.pseudo is not None:
        known.append(part.pseudo.name)
        return part.pseudo.name, read_pseudo(part.pseudo, own.at("pseudo"))
    if part.series is not None:
        return f"series {part.series.name}", _series(part.series, own.at("series"))
    if part.sample is not None:
        if document.sample(part.sample) is None:
            own.at("sample").known(part.sample, [s.name for s in document.samples], "sample")
            return "", None
        return f"sample {part.sample}", part.sample
    if part.fluid is not None:
        return f"fluid {part.fluid}", part.fluid if _check_inner(part.fluid, fluid, document, own.at("fluid")) else None
    return "", None


def _amount(cell: Cell, here: Reader, rates: set[bool]) -> tuple[str, float | None]:
    """Return the basis of an amount's own unit ("" for a plain number) and its value in SI."""
    try:
        kind = amount_kind(cell)
    except QuantityError as error:
        here.fault(str(error))
        return "", None
    if kind is None:
        value = here.number(cell, "an amount")
        if value:
            rates.add(False)
        return "", value
    rates.add(kind[1].endswith("rate"))
    return kind[0], here.quantity(cell, kind[1])


def _check_inner(name: str, outer: Fluid, document: Document, here: Reader) -> bool:
    inner = document.fluid(name)
    if inner is None:
        return here.known(name, [f.name for f in document.every_fluid if f.name != outer.name], "fluid")
    if outer.name in inner_names(inner, document) | {name}:
        here.fault(f"'{name}' is made of '{outer.name}' itself; a fluid cannot hold itself")
        return False
    if _too_deep(inner, document):
        here.fault(f"fluids stand inside one another more than {DEEPEST} deep here; make '{name}' of its components")
        return False
    return True


DEEPEST = 30
"""Fluids that may stand inside one another."""


def _direct(fluid: Fluid) -> set[str]:
    """Return the names of the fluids a fluid is made of itself."""
    direct = {p.fluid for p in fluid.parts if p.fluid is not None}
    if fluid.recombination is not None:
        direct |= {fluid.recombination.liquid, fluid.recombination.gas}
    if fluid.detail is not None:
        direct.add(fluid.detail.fluid)
    return direct


def _too_deep(fluid: Fluid, document: Document) -> bool:
    known = {f.name: f for f in document.every_fluid}
    level = [fluid]
    for _ in range(DEEPEST):
        names = {name for f in level for name in _direct(f)}
        level = [known[name] for name in names if name in known]
        if not level:
            return False
    return True


def inner_names(fluid: Fluid, document: Document) -> set[str]:
    """Return the names of all fluids a fluid is made of, however deep."""
    known = {f.name: f for f in document.every_fluid}
    out: set[str] = set()
    waiting = [fluid]
    while waiting:
        one = waiting.pop()
        direct = _direct(one)
        if one.made_by is not None:
            study = document.study(one.made_by.study)
            direct |= set(names_of(study, FLUIDS)) - {fluid.name} if study is not None else set()
        for name in direct - out:
            out.add(name)
            if name in known:
                waiting.append(known[name])
    return out


def used_samples(fluid: Fluid, document: Document) -> list[str]:
    """Return the names of the samples a fluid is made of, however deep, in the document's order."""
    inside = [document.fluid(n) for n in inner_names(fluid, document)]
    used = {p.sample for f in (fluid, *inside) if f is not None for p in f.parts if p.sample is not None}
    return [s.name for s in document.samples if s.name in used]


def _made(fluid: Fluid, document: Document, reader: Reader) -> FluidReading:
    """Return a fluid that a question gives; what that is only its answer tells."""
    made, here = fluid.made_by, reader.at("made_by")
    assert made is not None
    study = document.study(made.study)
    if here.at("study").known(made.study, [s.name for s in document.studies], "study") and study is not None:
        gives = study_kinds()[study.kind].gives
        if gives is None:
            able = ", ".join(k for k, v in study_kinds().items() if v.gives is not None)
            here.at("study").fault(f"'{study.name}' is of kind {study.kind}, which gives no fluid; there is {able}")
        elif fluid.name in {n for p in (study, *reached(study, document).parts) for n in names_of(p, FLUIDS)}:
            here.at("study").fault(f"the fluid '{fluid.name}' cannot be made by a question that is about it")
    if fluid.parts or fluid.recombination is not None:
        reader.at("parts").fault("a fluid that a question gives has no parts of its own; leave parts or made_by out")
    if fluid.model != Model():
        reader.at("model").fault(
            "a fluid that a question gives has the model of that question's fluid; leave its own out, or keep the fluid as it is first"
        )
    if errors(reader.faults):
        return FluidReading(None, tuple(reader.faults))
    key = fluid.id or fluid.name
    return FluidReading(
        FluidInput(key, fluid.name, (), None, "common", ModelInput(), (made.study, made.stream)), tuple(reader.faults)
    )


def _recombination(fluid: Fluid, document: Document, here: Reader) -> RecombinationInput | None:
    made = fluid.recombination
    assert made is not None
    for key in ("liquid", "gas"):
        _check_inner(getattr(made, key), fluid, document, here.at(key))
    ratio = here.at("gas_oil_ratio").quantity(made.gas_oil_ratio, "gas_oil_ratio")
    if ratio is not None and ratio < 0.0:
        here.at("gas_oil_ratio").fault("a gas-oil ratio is zero or more")
    ratio = here.at("gas_oil_ratio").physical(ratio, -math.inf, 4.5e6, "a gas-oil ratio", "mol/m³")
    here.at("liquid_volume").known(made.liquid_volume, ("separator", "stock tank"), "place of the liquid's volume")
    T = P = None
    if made.temperature is not None or made.liquid_volume == "separator":
        T = here.at("temperature").quantity(made.temperature, "temperature")
        T = here.at("temperature").physical(T, 200.0, 600.0, "a separator temperature", "K")
    if made.pressure is not None:
        P = here.at("pressure").pressure(made.pressure)
        P = here.at("pressure").physical(P, 1e3, 1e8, "a separator pressure", "bar", 1e-5)
    return RecombinationInput(made.liquid, made.gas, ratio or 0.0, made.liquid_volume, T, P)


def _series(series: Series, here: Reader) -> SeriesInput | None:
    if not series.name.strip():
        here.at("name").fault("the name is empty; give it one")
    start = here.at("start").quantity(series.start, "temperature")
    end = here.at("end").quantity(series.end, "temperature")
    step = here.at("step").quantity(series.step, "temperature_difference")
    if start is not None and end is not None and end <= start:
        here.at("end").fault("a series ends above where it starts")
    elif start is not None and end is not None and not _fits_range(step, end - start):
        here.at("step").fault("the step makes between 1 and 100 pseudo-components of the range")
    watson = None
    if series.watson_k is not None:
        watson = here.at("watson_k").number(series.watson_k, "a Watson K")
        if watson is not None and not 8.0 <= watson <= 15.0:
            here.at("watson_k").fault(f"a Watson K of {watson:g} is outside 8 to 15")
    if start is None or end is None or step is None:
        return None
    return SeriesInput(series.name, start, end, step, watson)


def _fits_range(step: float | None, span: float) -> bool:
    return step is None or span / 100.0 <= step <= span


PSEUDO_KINDS = {
    "Tc": "temperature", "Pc": "pressure", "molar_mass": "molar_mass", "Vc": "molar_volume", "nbp": "temperature",
}  # fmt: skip
"""Kinds of quantity of a pseudo-component's constants."""


PSEUDO_BOUNDS: dict[str, tuple[float, float, str, str, float]] = {
    "Tc": (5.0, 2500.0, "a critical temperature", "K", 1.0), "Pc": (2e4, 5e8, "a critical pressure", "bar", 1e-5),
    "molar_mass": (1e-3, 3.0, "a molar mass", "g/mol", 1e3), "Vc": (1e-5, 2e-2, "a critical volume", "cm³/mol", 1e6),
    "nbp": (4.0, 1500.0, "a normal boiling point", "K", 1.0),
}  # fmt: skip
"""Least and most of a pseudo-component's constants (SI), what they are, and the unit they are told in."""


def read_pseudo(pseudo: Pseudo, here: Reader) -> Known:
    """Return what is known of a hand-made pseudo-component, SI."""
    if not pseudo.name.strip():
        here.at("name").fault("the name is empty; give it one")
    values = {key: here.at(key).given(getattr(pseudo, key), kind) for key, kind in PSEUDO_KINDS.items()}
    for key, (low, high, what, unit, scale) in PSEUDO_BOUNDS.items():
        values[key] = here.at(key).physical(values[key], low, high, what, unit, scale)
    omega = sg = None
    if pseudo.omega not in EMPTY:
        omega = here.at("omega").number(pseudo.omega, "an acentric factor")
        if omega is not None and not -1.0 < omega < 3.0:
            here.at("omega").fault(f"an acentric factor of {omega:g} is outside -1 to 3")
    if pseudo.specific_gravity not in EMPTY:
        sg = here.at("specific_gravity").specific_gravity(pseudo.specific_gravity)
        if sg is not None and not 0.3 <= sg <= 1.5:
            here.at("specific_gravity").fault(f"a specific gravity of {sg:.4g} is outside 0.3 to 1.5")
    enough = any(getattr(pseudo, k) not in EMPTY for k in ("nbp", "specific_gravity", "molar_mass"))
    if not enough and any(getattr(pseudo, k) in EMPTY for k in ("Tc", "Pc", "omega")):
        here.fault("give a normal boiling point, a specific gravity or a molar mass, or Tc, Pc and omega together")
    saft = None if pseudo.pc_saft is None else _saft(pseudo.pc_saft, here.at("pc_saft"))
    return Known(
        pc_saft=saft, name=pseudo.name, molar_mass=values["molar_mass"], Tc=values["Tc"], Pc=values["Pc"], omega=omega, Vc=values["Vc"],
        nbp=values["nbp"], specific_gravity=sg,
    )  # fmt: skip


SAFT_BOUNDS = {"m": (1.0, 200.0), "sigma_A": (1.5, 8.0), "epsilon_K": (5.0, 1500.0)}
"""Least and most of PC-SAFT parameters, in the units of the document."""


def _saft(given: SaftParameters, here: Reader) -> tuple[float, float, float] | None:
    """Return PC-SAFT parameters given by hand: all three, or a fault."""
    out = []
    for key, (low, high) in SAFT_BOUNDS.items():
        value = here.at(key).number(getattr(given, key), f"PC-SAFT's {key}")
        if value is not None and not low <= value <= high:
            here.at(key).fault(f"{key} = {value:g} is outside {low:g} to {high:g}")
        out.append(value)
    m, sigma, epsilon = out
    return None if m is None or sigma is None or epsilon is None else (m, sigma, epsilon)


NACL = 0.0584428
"""Molar mass of sodium chloride, kg/mol."""


def _model(fluid: Fluid, document: Document, known: list[str], here: Reader) -> ModelInput | None:
    model = fluid.model
    here.at("eos").known(model.eos, EQUATIONS, "equation")
    here.at("alpha").known(model.alpha, ALPHAS, "alpha function")
    here.at("kij").known(model.kij, ("library", "zero"), "source of interaction parameters")
    known_shift = here.at("volume_shift").known(model.volume_shift, SHIFTS, "volume shift")
    if known_shift and model.eos in EQUATIONS and not shift_fits(model.volume_shift, model.eos):
        text = f"the volume shift '{model.volume_shift}' was not made for {model.eos}; use density or none"
        here.at("volume_shift").fault(text)
    here.at("viscosity").known(model.viscosity, VISCOSITIES, "method of viscosity")
    rule = _rule(model.kij_rule, here.at("kij_rule"))
    here.at("reference", "state").known(model.reference.state, REFERENCES, "reference state")
    reference_T = here.at("reference", "temperature").given(model.reference.temperature, "temperature")
    reference_T = here.at("reference", "temperature").physical(
        reference_T, 50.0, 1000.0, "a reference temperature", "K"
    )
    # Names of cuts and of what is inside other fluids are known only once the fluid is made.
    open_ended = fluid.recombination is not None or any(
        p.sample is not None or p.fluid is not None or p.series is not None for p in fluid.parts
    )
    keys = {p.id for p in fluid.parts if p.id}
    pairs: list[tuple[str, str, float, float]] = []
    for i, (one, other, cell, *rest) in enumerate(model.kij_pairs):
        row = here.at("kij_pairs", i)
        names = []
        for k, name in enumerate((one, other)):
            names.append(canonical_name(name, known))
            inside = name in keys or (open_ended and _may_be_inside(name, fluid, document))
            if names[-1] not in known and not inside:
                row.at(k).fault(f"'{name}' is not in the fluid{did_you_mean(name, known)}")
        if names[0] == names[1]:
            row.fault(f"'{one}' is paired with itself")
        value, slope = _parameter(cell, rest, model.eos, row, 2)
        if value is not None:
            pairs.append((names[0], names[1], value, slope))
    aqueous: list[tuple[str, float, float]] = []
    for i, (name, cell, *rest) in enumerate(model.aqueous_pairs):
        row = here.at("aqueous_pairs", i)
        own = canonical_name(name, known)
        inside = own in keys or (open_ended and _may_be_inside(own, fluid, document))
        if own == WATER:
            row.at(0).fault("water has no parameter with itself; name what is dissolved in it")
        elif own not in known and not inside:
            row.at(0).fault(f"'{name}' is not in the fluid{did_you_mean(name, known)}")
        elif model.eos in EQUATIONS and family_of(model.eos) not in AQUEOUS_FAMILIES:
            row.fault(
                f"{model.eos} has one parameter a pair in all phases; leave this out, or choose PR78, PR76 or SRK"
            )
        value, slope = _parameter(cell, rest, model.eos, row, 1)
        if value is not None:
            aqueous.append((own, value, slope))
    return ModelInput(
        model.eos, model.alpha, model.kij, rule, tuple(pairs), model.volume_shift, model.viscosity,
        model.reference.state,
        T_REF if reference_T is None else reference_T, _salt(model, here.at("salinity")), read_tuning(model.tuned, model.eos, here.at("tuned")),
        _omegas(fluid, document, known, open_ended, here.at("omegas")), tuple(aqueous),
    )  # fmt: skip


def _parameter(cell: Cell, rest: Sequence[Cell], eos: str, row: Reader, place: int) -> tuple[float | None, float]:
    """Return an interaction parameter at 298.15 K and its slope, 1/K, from the cells of a row from ``place`` on."""
    value = row.at(place).number(cell, "an interaction parameter")
    if value is not None and not -1.0 < value < 1.0:
        row.at(place).fault(f"an interaction parameter of {value:g} is outside -1 to 1")
    slope = 0.0
    at = row.at(place + 1)
    if rest and rest[0] not in EMPTY:
        slope = at.number(rest[0], "a slope of an interaction parameter") or 0.0
        if abs(slope) > MOST_SLOPE:
            at.fault(f"a slope of {slope:g} per kelvin is outside -{MOST_SLOPE:g} to {MOST_SLOPE:g}")
    if value is not None and abs(value) < 1.0 and abs(value) + abs(slope) * SPAN >= 1.0:
        at.fault(f"with a slope of {slope:g} per kelvin the parameter leaves -1 to 1 within {SPAN:g} K of 25 °C")
    if slope and eos == SAFT:
        at.fault("interaction parameters of PC-SAFT have no slope; leave it out")
    return value, slope


OMEGA_BOUNDS = (("Ωa", 0.05, 2.0), ("Ωb", 0.01, 0.5))
"""What own constants of a cubic are called, their least and most."""


def _omegas(
    fluid: Fluid, document: Document, known: list[str], open_ended: bool, here: Reader
) -> tuple[tuple[str, tuple[float, float]], ...]:
    """Return the own constants of a cubic by component."""
    given = fluid.model.omegas
    eos = fluid.model.eos
    if given and (eos in ("ideal", SAFT, PURE_FLUID) or eos not in EQUATIONS):
        here.fault(f"constants Ωa and Ωb are of cubic equations; {eos} is none, so leave them out or choose another")
    out = []
    keys = {p.id for p in fluid.parts if p.id}
    for name, cells in given.items():
        row = here.at(name)
        own = canonical_name(name, known)
        if own not in known and own not in keys and not (open_ended and _may_be_inside(own, fluid, document)):
            row.fault(f"'{name}' is not in the fluid{did_you_mean(name, known)}")
        values = []
        for k, (what, low, high) in enumerate(OMEGA_BOUNDS):
            value = row.at(k).number(cells[k], what)
            if value is not None and not low <= value <= high:
                row.at(k).fault(f"{what} = {value:g} is outside {low:g} to {high:g}")
            values.append(value)
        if values[0] is not None and values[1] is not None:
            out.append((own, (values[0], values[1])))
    return tuple(out)


def _salt(model: Model, here: Reader) -> float:
    """Return the salt of the water in mol NaCl per kg of it, from a molality or a mass percentage of the brine."""
    cell = model.salinity
    if cell in EMPTY:
        return 0.0
    try:
        value, unit = split(cell) if isinstance(cell, str) else (float(cell or 0.0), "")
    except QuantityError as error:
        here.fault(str(error))
        return 0.0
    if unit in ("%", "wt%", "mass%"):
        share = min(value / 100.0, 0.99)
        value = share / (1.0 - share) / NACL
    elif unit not in ("", "mol/kg"):
        here.fault(
            f"'{cell}' is not a salinity; write mol NaCl per kg of water as 1.2 mol/kg, or percent by mass of the brine as 6.5 %"
        )
        return 0.0
    if not 0.0 <= value <= MOST_SALT:
        here.fault(f"a salinity of {value:.3g} mol/kg is outside 0 to {MOST_SALT:g} mol NaCl per kg of water")
        return 0.0
    if value > 0.0 and (model.eos not in ("PR78", "PR76") or model.kij != "library"):
        here.fault(
            "salt is known for PR78 and PR76 with the library's interaction parameters only; choose these or leave it out"
        )
    return value


def _rule(rule: PairRule, here: Reader) -> MethaneRule:
    """Return the rule for methane, the usual numbers where none are given."""
    given: dict[str, float] = {}
    for key, low, high in (("scale", 0.0, 1.0), ("exponent", 0.1, 20.0)):
        cell = getattr(rule, key)
        if cell not in EMPTY:
            value = here.at(key).number(cell, f"the rule's {key}")
            if value is not None and not low <= value <= high:
                here.at(key).fault(f"the rule's {key} of {value:g} is outside {low:g} to {high:g}")
            elif value is not None:
                given[key] = value
    return replace(RULE, **given)


def canonical_name(name: str, known: list[str]) -> str:
    """Return the databank's own name of a component, unless the fluid has one called so."""
    if name in known:
        return name
    try:
        return find(name).name
    except UnknownComponentError:
        return name


def _may_be_inside(name: str, fluid: Fluid, document: Document) -> bool:
    """Tell whether a key or a name can be that of a cut or of a component inside another part."""
    owners = [s.name for s in document.samples] + [f.name for f in document.fluids]
    owners += [p.series.name for p in fluid.parts if p.series is not None]
    keys = (
        [s.id for s in document.samples]
        + [f.id for f in document.fluids]
        + [p.id for f in document.fluids for p in f.parts]
    )
    if any(name.startswith(f"{o} ") for o in owners) or any(
        k and (name == k or name.startswith(f"{k}/")) for k in keys
    ):
        return True
    nested = fluid.recombination is not None or any(p.fluid is not None for p in fluid.parts)
    ends = any(p.sample is not None for p in fluid.parts)
    try:
        find(name)
    except UnknownComponentError:
        return nested
    return nested or ends
