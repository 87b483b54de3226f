"""The study ``water_content``: how much water a gas or an oil holds before water, ice or hydrate forms."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, NotRequired

import numpy as np
from pydantic import Field
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.field_types import Cell, FluidRef, OfKind, Shares
from ...document.kinds import StudyKind, register
from ...document.ranges import Range, read_values
from ...remarks import Remark, kelvin, measure, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...results.hydrates import Dose, as_arrays, read_doses, wet
from ...solids.potentials import COLDEST
from ...solids.water import MOLAR_MASS
from ...solids.water_content import FORMS, water_content
from ...telling.sentences import Units

MOST_T = 473.15
"""K, up to which water in gas is known; hydrates and ice are looked for as far as they are known."""
MOST = 400
"""Temperatures or pressures of one question."""


class WaterContentStudy(Study):
    """Asks how much water the fluid holds at every one of ``temperatures`` and ``pressures`` (lists or ranges) beside
    the water that would form, with ``inhibitors`` in it by mass; the fluid's own water is not counted."""

    kind: Literal["water_content"]
    fluid: FluidRef
    temperatures: Annotated[tuple[Cell, ...] | Range, OfKind("temperature")] = ()
    pressures: Annotated[tuple[Cell, ...] | Range, OfKind("pressure")] = ()
    inhibitors: Shares = Field(default_factory=dict)


class WaterRowAnswer(TypedDict):
    """What the fluid holds at a state: ``beside`` is what would form there, ``water``, ``ice`` or hydrate of
    structure ``I``, ``II``, ``H``; null without vapour or liquid. ``over_liquid_water`` is beside liquid water,
    supercooled where another is stable."""

    temperature_K: float
    pressure_Pa: float
    beside: str
    vapour_water_kg_mol: float | None
    over_liquid_water_kg_mol: float | None
    vapour_water_mole_fraction: float | None
    liquid_water_mole_fraction: float | None


class WaterContentAnswer(Common):
    """The water held at every temperature and pressure; of vapour by mole of dry gas, which is its volume at 60 degF
    and 1 atm."""

    rows: NotRequired[list[WaterRowAnswer]]


@dataclass(frozen=True)
class Asked:
    """Temperatures K, pressures Pa, and the dose of the water."""

    fluid: str
    temperatures: tuple[float, ...]
    pressures: tuple[float, ...]
    dose: Dose


def read(study: WaterContentStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T = read_values(study.temperatures, reader.at("temperatures"), "temperature", MOST)
    P = read_values(study.pressures, reader.at("pressures"), "pressure", MOST)
    for i, v in enumerate(T or ()):
        if not COLDEST <= v <= MOST_T:
            reader.at("temperatures", i).fault(
                f"{v:.5g} K is outside {COLDEST:g} to {MOST_T:g} K, where water beside the fluid is known"
            )
    dose = read_doses(study.inhibitors, reader.at("inhibitors"))
    for key in ("temperatures", "pressures"):
        if getattr(study, key) == ():
            reader.at(key).fault(f"{key} are wanted, one or more")
    if reader.bad or T is None or P is None:
        return None
    if len(T) * len(P) > MOST:
        reader.at("temperatures").fault(
            f"{len(T)} temperatures at {len(P)} pressures are too many; ask at most {MOST} states"
        )
        return None
    return Asked(study.fluid, T, P, dose)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the water held at every state. Raises NoAnswerError where none was found."""
    fluid = context.fluid(asked.fluid)
    own = wet(context.project, fluid)
    host = own.host
    if not np.delete(host.z, host.water).any():
        raise NoAnswerError(Remark("warning", "hydrate.water_alone"))
    T, P = (v.ravel() for v in np.meshgrid(asked.temperatures, asked.pressures, indexing="ij"))
    held = water_content(host, T, P, as_arrays(own.dose(asked.dose)), context.watch)
    there = np.isfinite(held.vapour) | np.isfinite(held.liquid)
    if not there.any():
        raise NoAnswerError(Remark("warning", "hydrate.no_state"))

    def told(values: np.ndarray, i: int, factor: float = 1.0) -> float | None:
        return float(factor * values[i]) if np.isfinite(values[i]) else None

    def dry(values: np.ndarray) -> np.ndarray:
        return values / (1.0 - values)

    rows = [
        {
            "temperature_K": float(T[i]),
            "pressure_Pa": float(P[i]),
            "beside": FORMS[held.beside[i]],
            "vapour_water_kg_mol": told(dry(held.vapour), i, MOLAR_MASS),
            "over_liquid_water_kg_mol": told(dry(held.vapour_over_water), i, MOLAR_MASS),
            "vapour_water_mole_fraction": told(held.vapour, i),
            "liquid_water_mole_fraction": told(held.liquid, i),
        }
        for i in range(T.size)
        if there[i]
    ]
    missing = (
        [Remark("warning", "hydrate.some_states", values={"count": int((~there).sum())})] if not there.all() else []
    )
    return {"rows": rows, "notes": [*own.model.remarks, *own.remarks, *missing]}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    first = answer["rows"][0]
    at = f"{units.text(kelvin(first['temperature_K']))} and {units.text(pascal(first['pressure_Pa']))}"
    share = first["vapour_water_mole_fraction"] or first["liquid_water_mole_fraction"]
    return f"{1e6 * share:.3g} ppm by mole at {at}, beside {first['beside']}"


def begin(fluid: str, at: tuple[float, float] | None) -> WaterContentStudy:
    """Return a new question about a fluid."""
    return WaterContentStudy(
        name=f"Water held by {fluid}",
        kind="water_content",
        fluid=fluid,
        temperatures=Range(begin="-10 degC", end="30 degC", steps=8),
        pressures=("50 bar", "100 bar"),
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: where it holds the least, and what drops out beyond."""
    rows = answer["rows"]
    driest = min(rows, key=lambda r: r["vapour_water_mole_fraction"] or r["liquid_water_mole_fraction"] or 1.0)
    drops = {"water": "water drops out", "ice": "ice forms"}.get(driest["beside"], f"hydrate {driest['beside']} forms")
    held = (
        f"{1e6 * (driest['liquid_water_mole_fraction'] or 0.0):.3g} ppm by mole"
        if driest["vapour_water_kg_mol"] is None
        else units.text(measure(driest["vapour_water_kg_mol"], "water_content", 1))
    )
    at = (
        f" at {units.text(kelvin(driest['temperature_K']))} and {units.text(pascal(driest['pressure_Pa']))}"
        if len(rows) > 1
        else ""
    )
    return f"{held}{at}, then {drops}."


register(
    StudyKind(
        name="water_content", title="Water content", meaning="how much water the fluid holds before water, ice or hydrate forms",
        model=WaterContentStudy, answer=WaterContentAnswer, read=read, solve=solve, line=line, begin=begin, order=41,
        sentence="How much water does {fluid} hold {temperatures} and {pressures}[, beside water with <inhibitors| and |{.value} {.key}>]?",
        phrases=("water content", "how much water", "water held", "hold", "holds", "dryness"),
        says=says,
    )
)  # fmt: skip
