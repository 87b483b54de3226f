"""Reading the model of a fluid: its equation, parameters and references in SI, and every fault at its cell."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..components import UnknownComponentError, find
from ..constants import T_REF
from ..eos.aqueous_library import MOST_SALT, WATER
from ..eos.building import ALPHAS, AQUEOUS_FAMILIES, BONDS, EQUATIONS, PURE_FLUID, SAFT, family_of, shift_fits
from ..eos.interaction import RULE, MethaneRule
from ..eos.volume_shift import SHIFTS
from ..properties import AQUEOUS, CORRELATIONS, VISCOSITIES
from ..units import QuantityError, split
from .faults import did_you_mean
from .field_types import Cell
from .model import Document, Fluid, Model, PairRule
from .read_tuning import TuningInput, read_tuning
from .reader import EMPTY, Reader

REFERENCES = ("ideal gas", "elements", "saturated liquid")
"""Where enthalpy and entropy may be zero."""

SPAN = 200.0
"""K from 25 degC within which a sloping interaction parameter must stay between -1 and 1."""

MOST_SLOPE = 0.01
"""1/K, the steepest an interaction parameter may change with temperature."""


@dataclass(frozen=True)
class ModelInput:
    """The equation and its parameters: ``pairs`` of component keys or names with a value at 298.15 K and a slope,
    1/K; ``omegas`` own constants Omega_a and Omega_b by component key or name; ``reference`` one of
    :data:`REFERENCES`, at ``reference_T`` K where it is a saturated liquid; ``salt`` mol NaCl per kg of the water;
    ``aqueous`` own pairs in phases of water, ``aqueous_by`` how properties of aqueous liquids are found; ``shifts`` own
    volume shifts by component key or name, m3/mol with a slope, m3/(mol K)."""

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
    aqueous_by: str = CORRELATIONS
    shifts: tuple[tuple[str, float, float], ...] = ()


MOST_SHIFT = 1e-2
"""m3/mol, the largest volume shift of a component that is taken for one."""

NACL = 0.0584428
"""Molar mass of sodium chloride, kg/mol."""


def read_model(fluid: Fluid, document: Document, known: list[str], here: Reader) -> ModelInput | None:
    """Return the model of a fluid whose ``known`` components are those that can be told by name already; what is
    wrong goes to ``here``."""
    model = fluid.model
    here.at("eos").known(model.eos, EQUATIONS, "equation")
    here.at("alpha").known(model.alpha, ALPHAS, "alpha function")
    here.at("kij").known(model.kij, ("library", "zero"), "source of interaction parameters")
    known_shift = here.at("volume_shift").known(model.volume_shift, SHIFTS, "volume shift")
    if known_shift and model.eos in EQUATIONS and not shift_fits(model.volume_shift, model.eos):
        text = f"the volume shift '{model.volume_shift}' was not made for {model.eos}; use density or none"
        here.at("volume_shift").fault(text)
    here.at("viscosity").known(model.viscosity, VISCOSITIES, "method of viscosity")
    here.at("aqueous").known(model.aqueous, AQUEOUS, "way to find properties of aqueous liquids")
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
            _once(
                row, f"{one} with {other}", {frozenset(p[:2]): p[2:] for p in pairs}, frozenset(names), (value, slope)
            )
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
        elif model.eos in EQUATIONS and (model.eos == BONDS or family_of(model.eos) not in AQUEOUS_FAMILIES):
            row.fault(
                f"{model.eos} has one parameter a pair in all phases; leave this out, or choose PR78, PR76 or SRK"
            )
        value, slope = _parameter(cell, rest, model.eos, row, 1)
        if value is not None:
            _once(row, name, {p[0]: p[1:] for p in aqueous}, own, (value, slope))
            aqueous.append((own, value, slope))
    shifts: list[tuple[str, float, float]] = []
    for i, (name, cell, *rest) in enumerate(model.shifts):
        row = here.at("shifts", i)
        own = canonical_name(name, known)
        if own not in known and own not in keys and not (open_ended and _may_be_inside(own, fluid, document)):
            row.at(0).fault(f"'{name}' is not in the fluid{did_you_mean(name, known)}")
        shift = row.at(1).given(cell, "molar_volume")
        if shift is not None and not abs(shift) <= MOST_SHIFT:
            row.at(1).fault(f"a volume shift of {shift:g} m3/mol is beyond {MOST_SHIFT:g}")
        change = row.at(2).number(rest[0], "a slope of a volume shift") if rest and rest[0] not in EMPTY else 0.0
        if shift is not None and change is not None:
            _once(row, name, {p[0]: p[1:] for p in shifts}, own, (shift, change))
            shifts.append((own, shift, change))
    return ModelInput(
        model.eos, model.alpha, model.kij, rule, tuple(pairs), model.volume_shift, model.viscosity,
        model.reference.state,
        T_REF if reference_T is None else reference_T, _salt(model, here.at("salinity")), read_tuning(model.tuned, model.eos, here.at("tuned")),
        _omegas(fluid, document, known, open_ended, here.at("omegas")), tuple(aqueous), model.aqueous, tuple(shifts),
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


def _once(row: Reader, words: str, before: Mapping[Any, tuple[float, ...]], key: Any, value: tuple[float, ...]) -> None:
    """Say where a parameter stands twice with different values: which of them holds nobody could tell."""
    if before.get(key, value) != value:
        row.fault(f"{words}: this stands twice, as {before[key][0]:g} and as {value[0]:g}; keep one of them")


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
