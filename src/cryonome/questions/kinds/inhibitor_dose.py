"""The study ``inhibitor_dose``: the least of an inhibitor that keeps hydrates away, and where it goes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal, NotRequired

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ...document import Document, Fluid, Reader, Study
from ...document.field_types import Cell, Difference, FluidRef, OfKind, Pressure, Rate, Shares, Suggested, Temperature
from ...document.kinds import StudyKind, register
from ...document.reader import EMPTY
from ...remarks import Remark, Value, kelvin, measure, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...results.hydrates import Dose, as_arrays, dilute, icy, inhibitor_named, least_share, read_doses, told, with_share
from ...solids.formation import Wanted, ice_temperatures, temperatures
from ...solids.inhibitors import INHIBITORS, SALTS, most
from ...solids.lattice import STRUCTURES
from ...solids.losses import shares
from ...solids.potentials import COLDEST, HOTTEST, known_at
from ...telling.sentences import Units
from ...units import fits, split
from ...units.errors import QuantityError
from ..injection import Lean, diluted, injected, read_lean

Array = NDArray[np.float64]

WATER_DENSITY = 999.0
"""kg/m3 at 60 degF, of a water rate by volume."""
WATER_MASS = 18.01528e-3
PUT_BACK = 0.005
"""K; how near the limit with the dose must come to the temperature asked."""


class InhibitorDoseStudy(Study):
    """Asks for the least ``inhibitor`` in the aqueous liquid that keeps hydrates away at ``temperature`` and
    ``pressure`` with a ``margin`` of temperature, beside ``inhibitors`` that are there already; with a ``water_rate``
    also the rates, and with a ``fluid_rate`` of the dry fluid what goes with vapour and condensate. With a
    ``lean_strength`` the dose is what is injected: inhibitor by mass with water and its own ``lean_salts``, into water
    that brings its ``water_salts``, both in percent by mass before they meet."""

    kind: Literal["inhibitor_dose"]
    fluid: FluidRef
    temperature: Temperature = None
    pressure: Pressure = None
    inhibitor: Annotated[str, Suggested(tuple(INHIBITORS))] = "methanol"
    margin: Difference = None
    inhibitors: Shares = Field(default_factory=dict)
    water_rate: Rate = None
    fluid_rate: Rate = None
    lean_strength: Annotated[Cell, OfKind("share")] = None
    lean_salts: Shares = Field(default_factory=dict)
    water_salts: Shares = Field(default_factory=dict)


class InhibitorDoseAnswer(Common):
    """Mass percent of the aqueous liquid, 0 where none is needed; where hydrates begin without and with it at the
    pressure; where the dosed water freezes; its mole fractions in vapour and condensate; rates of the inhibitor, null
    where the fluid's rate is not known. As injected: by mass of water the lean inhibitor by mass and as a volume at 60
    degF, what it becomes in the water, salt left aside, the salts of the dosed liquid, and how much sodium chloride
    that can hold, null where it was not measured."""

    aqueous_mass_percent: NotRequired[float]
    structure: NotRequired[str]
    hydrate_temperature_K: NotRequired[float | None]
    inhibited_temperature_K: NotRequired[float | None]
    ice_temperature_K: NotRequired[float | None]
    vapour_mole_fraction: NotRequired[float | None]
    condensate_mole_fraction: NotRequired[float | None]
    in_water_kg_s: NotRequired[float]
    lost_to_vapour_kg_s: NotRequired[float | None]
    lost_to_condensate_kg_s: NotRequired[float | None]
    total_kg_s: NotRequired[float | None]
    lean_kg_kg: NotRequired[float]
    lean_m3_kg: NotRequired[float]
    lean_kg_s: NotRequired[float]
    lean_m3_s: NotRequired[float]
    rich_mass_percent: NotRequired[float]
    salts_mass_percent: NotRequired[dict[str, float]]
    most_salt_mass_percent: NotRequired[float | None]
    salt_drops_out: NotRequired[bool | None]


@dataclass(frozen=True)
class Asked:
    """State K and Pa, the inhibitor, margin K, what is there already; kg/s of water and mol/s or kg/s of the fluid,
    None where not given."""

    fluid: str
    T: float
    P: float
    inhibitor: str
    margin: float
    beside: Dose
    water: float | None
    flow: tuple[str, float] | None
    lean: Lean | None = None


def read(study: InhibitorDoseStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T = reader.at("temperature").quantity(study.temperature, "temperature")
    P = reader.at("pressure").pressure(study.pressure)
    margin = reader.at("margin").given(study.margin, "temperature_difference") or 0.0
    if margin < 0.0:
        reader.at("margin").fault("a margin below zero would let hydrates form; give 0 or more")
    name = inhibitor_named(study.inhibitor, reader.at("inhibitor"))
    beside = read_doses(study.inhibitors, reader.at("inhibitors"))
    if name is not None and any(n == name for n, _ in beside):
        reader.at("inhibitors").fault(f"{name} is what is asked for; leave it out of what is there already")
    water = _rate(study.water_rate, reader.at("water_rate"), ("mass_rate", "volume_rate", "molar_rate"))
    flow = _rate(study.fluid_rate, reader.at("fluid_rate"), ("molar_rate", "mass_rate"))
    lean = read_lean(study, name, reader)
    if reader.bad or T is None or P is None or name is None:
        return None
    by = {"mass_rate": 1.0, "volume_rate": WATER_DENSITY, "molar_rate": WATER_MASS}
    return Asked(
        study.fluid, T, P, name, margin, beside, None if water is None else water[1] * by[water[0]], flow, lean
    )


def _rate(cell: Cell, here: Reader, kinds: tuple[str, ...]) -> tuple[str, float] | None:
    """Return the kind and value of a rate in SI; a bare number is of the first kind."""
    if cell in EMPTY:
        return None
    unit = ""
    if isinstance(cell, str):
        try:
            unit = split(cell)[1]
        except QuantityError as error:
            here.fault(str(error))
            return None
    kind = next((k for k in kinds if unit and fits(unit, k)), kinds[0])
    value = here.quantity(cell, kind)
    if value is not None and value < 0.0:
        here.fault(f"'{cell}' is below zero; give a rate above 0")
    return None if value is None else (kind, value)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the dose. Raises NoAnswerError where the model does not hold so far."""
    key = ("inhibitor dose", context.project.fluid_key(context.fluid(asked.fluid)), asked)
    found, remarks = context.project.evaluator.cache.get(key, lambda: _solved(asked, context))
    return {**found, "notes": [*remarks]}


def _solved(asked: Asked, context: Context) -> tuple[Answer, list[Remark]]:
    """Return the answer without its notes, and the remarks."""
    project, fluid = context.project, context.fluid(asked.fluid)
    own = icy(project, fluid, True, context.watch.part(0.0, 0.3))
    beside = own.dose(asked.beside)
    T, P = asked.T - asked.margin, np.array([asked.P])
    place: dict[str, Value] = {"T": kelvin(T), "P": pascal(asked.P)}
    salts = diluted(own, asked.lean, asked.inhibitor, asked.beside, T, asked.P)
    if salts is not None:
        asked = replace(asked, beside=salts)
        beside = own.dose(asked.beside)
    share, structure = least_share(own, asked.inhibitor, asked.beside, T, asked.P)
    if share is None:
        limit: dict[str, Value] = {"name": asked.inhibitor, "most": f"{100 * most(asked.inhibitor):g}"}
        raise NoAnswerError(Remark("warning", "inhibitor.too_little", values={**place, **limit}))
    if np.isnan(share):
        raise NoAnswerError(Remark("warning", "inhibitor.no_state", values=place))
    if share and not known_at(T):
        known: dict[str, Value] = {"cold": kelvin(COLDEST), "hot": kelvin(HOTTEST)}
        raise NoAnswerError(Remark("warning", "inhibitor.range", values={**place, **known}))
    dose = own.dose(with_share(asked.beside, asked.inhibitor, share))
    limits = temperatures(
        own.chart, Wanted.grid(P, 2), [as_arrays(beside), as_arrays(dose)], context.watch.part(0.3, 0.8)
    ).reshape(len(STRUCTURES), 2)
    plain, inhibited = (float(v) if np.isfinite(v) else None for v in np.fmax.reduce(limits, axis=0))
    # The dose is put back: where hydrates begin with it is what was asked, or there is no answer.
    if share and (inhibited is None or abs(inhibited - T) > PUT_BACK):
        raise NoAnswerError(Remark("warning", "inhibitor.refused", values=place))
    ice = float(ice_temperatures(own.chart, P, as_arrays(dose))[0])
    remarks = [*own.model.remarks, *own.remarks]
    if own.brine and own.dose(asked.beside) != asked.beside:
        remarks.append(Remark("estimate", "inhibitor.brine", values={"brine": told(own.brine), "dosed": told(dose)}))
    if share and any(n in SALTS for n, _ in asked.beside):
        remarks.append(Remark("estimate", "inhibitor.typed", values={"dose": told(asked.beside)}))
    if not share:
        remarks.append(Remark("estimate", "inhibitor.not_needed", values={"P": pascal(asked.P)}))
    if asked.T - asked.margin < ice:
        remarks.append(Remark("warning", "inhibitor.ice", values={"T": kelvin(ice)}))
    goes, more = _goes(asked, fluid, dose, share, context) if share and asked.inhibitor not in SALTS else ({}, [])
    return {
        "aqueous_mass_percent": 100.0 * share,
        "structure": STRUCTURES[structure].name,
        "hydrate_temperature_K": plain,
        "inhibited_temperature_K": inhibited,
        "ice_temperature_K": ice if np.isfinite(ice) else None,
        **goes,
        **_only_water(asked, dose, share, goes),
        **injected(asked, dose, share, goes),
    }, [*remarks, *more]


def _goes(asked: Asked, fluid: Fluid, dose: Dose, share: float, context: Context) -> tuple[Answer, list[Remark]]:
    """Return where the inhibitor goes, at the temperature asked."""
    model = dilute(context.project, fluid, asked.inhibitor)
    water, place = model.names.index("water"), model.names.index(asked.inhibitor)
    there = shares(model.eos, model.z, water, place, asked.inhibitor, as_arrays(dose), asked.T, asked.P)
    by = {s.vapour: s for s in there}
    out: Answer = {
        "vapour_mole_fraction": by[True].fraction if True in by else None,
        "condensate_mole_fraction": by[False].fraction if False in by else None,
    }
    if asked.water is None:
        return out, []
    flow, remarks = _flow(asked, fluid, context), []
    mass = float(model.molar_mass[place])
    rates: dict[bool, float | None] = {
        k: None if flow is None else flow * by[k].moles * by[k].fraction * mass if k in by else 0.0
        for k in (True, False)
    }
    if flow is None:
        remarks.append(Remark("warning", "inhibitor.no_rate"))
    return {**out, "lost_to_vapour_kg_s": rates[True], "lost_to_condensate_kg_s": rates[False]}, remarks


def _flow(asked: Asked, fluid: Fluid, context: Context) -> float | None:
    """Return mol/s of the dry fluid: as given, or as goes with the water where the fluid has it; None where nothing
    tells."""
    model = context.project.fluid(fluid)
    rest = model.z.copy()
    held = 0.0 if model.water is None else float(rest[model.water])
    if model.water is not None:
        rest[model.water] = 0.0
    if asked.flow is not None:
        kind, value = asked.flow
        return value if kind == "molar_rate" else value / float(rest @ model.molar_mass / rest.sum())
    return asked.water / WATER_MASS * (1.0 - held) / held if held > 1e-3 and asked.water is not None else None


def _only_water(asked: Asked, dose: Dose, share: float, goes: Answer) -> Answer:
    """Return the rates in the water and in all, with a rate of water."""
    if asked.water is None:
        return {}
    aqueous = asked.water * share / (1.0 - sum(w for _, w in dose))
    parts = [aqueous, goes.get("lost_to_vapour_kg_s", 0.0), goes.get("lost_to_condensate_kg_s", 0.0)]
    return {"in_water_kg_s": aqueous, "total_kg_s": None if any(p is None for p in parts) else sum(parts)}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    share = answer["aqueous_mass_percent"]
    return f"{share:.1f} wt% in the water" if share else "none needed"


def begin(fluid: str, at: tuple[float, float] | None) -> InhibitorDoseStudy:
    """Return a new question about a fluid."""
    T, P = at or (277.15, 80e5)
    return InhibitorDoseStudy(
        name=f"Inhibitor for {fluid}",
        kind="inhibitor_dose",
        fluid=fluid,
        temperature=f"{T - 273.15:.6g} degC",
        pressure=f"{P / 1e5:.6g} bar",
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the share, and as rates what of it is lost."""
    share = answer["aqueous_mass_percent"]
    if not share:
        return f"None: hydrates form only below {units.text(kelvin(answer['hydrate_temperature_K']))}."
    text = f"{share:.1f} wt% in the water"
    if answer.get("total_kg_s") is not None:
        total = units.text(measure(answer["total_kg_s"], "mass_rate"))
        lost = answer.get("lost_to_vapour_kg_s") or 0.0
        text += f": {total}" + (f", {units.text(measure(lost, 'mass_rate'))} of it lost to the gas" if lost else "")
    if answer.get("lean_kg_kg") is not None:
        lean = answer.get("lean_m3_s")
        told = (
            units.text(measure(lean, "volume_rate"))
            if lean is not None
            else f"{answer['lean_kg_kg']:.3g} kg for each kg of water"
        )
        salt = "; salt drops out" if answer.get("salt_drops_out") else ""
        text += f"; lean: {told}, rich {answer['rich_mass_percent']:.1f} wt%{salt}"
    return f"{text}."


register(
    StudyKind(
        name="inhibitor_dose", title="Inhibitor dose", meaning="the least of an inhibitor that keeps hydrates away, and where it goes",
        model=InhibitorDoseStudy, answer=InhibitorDoseAnswer, read=read, solve=solve, line=line, begin=begin, order=41,
        sentence="How much {inhibitor} keeps {fluid} clear of hydrate at {temperature} and {pressure}[ with {margin} to spare][, for {water_rate} of water][? beside {fluid_rate} of fluid][?, injected at {lean_strength}][? with <lean_salts| and |{.value} {.key}> in it][?, into water that brings <water_salts| and |{.value} {.key}>][?, where the water already holds <inhibitors| and |{.value} {.key}>]?",
        phrases=("keep", "clear of hydrates", "dosage", "inhibition", "inhibitor dose", "dose", "how much methanol", "how much inhibitor", "how much", "keeps", "clear of hydrate", "inhibitor"),
        clues={"margin": ("clear", "to spare", "margin", "spare", "subcooling"), "water_rate": ("of water", "water"), "fluid_rate": ("of fluid", "of gas", "fluid rate"), "lean_strength": ("injected at", "lean", "strength")},
        says=says,
    )
)  # fmt: skip
