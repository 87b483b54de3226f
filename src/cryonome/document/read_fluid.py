"""Reading a fluid once: its parts, amounts and model in SI, and every fault at its cell, in one pass."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..characterization import Known
from ..components import Component, UnknownComponentError, find
from ..units import QuantityError, fits, split
from .faults import Fault, PathParts, errors
from .field_types import FLUIDS, Cell
from .inner_fluids import DEEPEST, inner_names, too_deep
from .kinds import study_kinds
from .model import Document, Fluid, FluidPart, Model, Pseudo, SaftParameters, Series
from .read_model import ModelInput, read_model
from .reader import EMPTY, Reader
from .references import names_of, reached

AMOUNTS = {
    "mole": ("amount", "molar_rate"),
    "mass": ("mass", "mass_rate"),
    "volume": ("volume", "volume_rate"),
}
"""Kinds of an amount with a unit by basis: in all, or a rate."""

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
    model = read_model(fluid, document, known, reader.at("model"))
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
    if too_deep(inner, document):
        here.fault(f"fluids stand inside one another more than {DEEPEST} deep here; make '{name}' of its components")
        return False
    return True


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
    "Tc": "temperature",
    "Pc": "pressure",
    "molar_mass": "molar_mass",
    "Vc": "molar_volume",
    "nbp": "temperature",
}
"""Kinds of quantity of a pseudo-component's constants."""


PSEUDO_BOUNDS: dict[str, tuple[float, float, str, str, float]] = {
    "Tc": (5.0, 2500.0, "a critical temperature", "K", 1.0),
    "Pc": (2e4, 5e8, "a critical pressure", "bar", 1e-5),
    "molar_mass": (1e-3, 3.0, "a molar mass", "g/mol", 1e3),
    "Vc": (1e-5, 2e-2, "a critical volume", "cm³/mol", 1e6),
    "nbp": (4.0, 1500.0, "a normal boiling point", "K", 1.0),
}
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
