"""The study ``boiling_curve``: where a glycol or an alcohol with water boils, over its strength."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.field_types import Cell, FluidRef, OfKind, OneOf
from ...document.kinds import StudyKind, register
from ...document.ranges import Range, read_values
from ...process.contact import boiling
from ...properties import ORGANICS
from ...remarks import kelvin, pascal
from ...results.common import Common
from ...results.context import Answer, Context
from ...results.hydrates import with_traces
from ...telling.sentences import Units

MOST = 12
"""Pressures of one question."""
SHARES = np.concatenate([np.linspace(0.0, 0.9, 19), [0.93, 0.95, 0.97, 0.98, 0.985, 0.99, 0.995, 0.999, 1.0]])
"""Mass fractions that are looked at."""


class BoilingCurveStudy(Study):
    """Asks where ``solvent`` and water boil at every one of ``pressures``, by the equation of a fluid."""

    kind: Literal["boiling_curve"]
    fluid: FluidRef
    solvent: Annotated[str, OneOf(tuple(ORGANICS))] = "triethylene glycol"
    pressures: Annotated[tuple[Cell, ...] | Range, OfKind("pressure")] = ()


class BoilingPoint(TypedDict):
    """A share by mass at a pressure, where it begins to boil and where it is all vapour."""

    pressure_Pa: float
    mass_percent: float
    bubble_temperature_K: float | None
    dew_temperature_K: float | None


class BoilingCurveAnswer(Common):
    """The curves, one pressure after another."""

    points: NotRequired[list[BoilingPoint]]


@dataclass(frozen=True)
class Asked:
    """The solvent and pressures Pa."""

    fluid: str
    solvent: str
    pressures: tuple[float, ...]


def read(study: BoilingCurveStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    if study.solvent not in ORGANICS:
        reader.at("solvent").fault(f"'{study.solvent}' is not known here; choose {', '.join(ORGANICS)}")
    P = read_values(study.pressures, reader.at("pressures"), "pressure", MOST)
    if study.pressures == ():
        reader.at("pressures").fault("pressures are wanted, one or more, as 1 atm")
    for i, p in enumerate(P or ()):
        if not 1e2 <= p <= 5e6:
            reader.at("pressures", i).fault(
                f"{p:.4g} Pa is outside 100 Pa to 5 MPa, where mixtures with water boil below 400 °C"
            )
    return None if reader.bad or P is None else Asked(study.fluid, study.solvent, P)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the curves."""
    model = with_traces(context.project, context.fluid(asked.fluid), ("water", asked.solvent))
    water, other = model.names.index("water"), model.names.index(asked.solvent)
    points = []
    for k, P in enumerate(asked.pressures):
        part = context.watch.part(k / len(asked.pressures), (k + 1) / len(asked.pressures))
        bubble, dew = boiling(model.eos, water, other, SHARES, P, model.molar_mass, part)
        points += [
            {
                "pressure_Pa": P,
                "mass_percent": round(100.0 * float(w), 6),
                "bubble_temperature_K": float(b) if np.isfinite(b) else None,
                "dew_temperature_K": float(d) if np.isfinite(d) else None,
            }
            for w, b, d in zip(SHARES, bubble, dew)
        ]
    return {"points": points, "notes": [*model.remarks]}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    half = min(answer["points"], key=lambda p: abs(p["mass_percent"] - 50.0))
    return f"half and half boils at {units.text(kelvin(half['bubble_temperature_K']))}"


def begin(fluid: str, at: tuple[float, float] | None) -> BoilingCurveStudy:
    """Return a new question about a fluid."""
    return BoilingCurveStudy(name=f"Glycol of {fluid} boiling", kind="boiling_curve", fluid=fluid, pressures=("1 atm",))


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: a few strengths and where they boil."""
    first = answer["points"][0]["pressure_Pa"]
    told = [
        f"{p['mass_percent']:g} wt% at {units.text(kelvin(p['bubble_temperature_K']))}"
        for p in answer["points"]
        if p["pressure_Pa"] == first
        and p["mass_percent"] in (50.0, 90.0, 99.0)
        and p["bubble_temperature_K"] is not None
    ]
    return f"At {units.text(pascal(first))} {', '.join(told)}."


register(
    StudyKind(
        name="boiling_curve", title="Boiling with water", meaning="where a glycol or an alcohol with water boils, over its strength",
        model=BoilingCurveStudy, answer=BoilingCurveAnswer, read=read, solve=solve, line=line, begin=begin, order=43,
        sentence="Where do {solvent} and water boil {pressures}, with the model of {fluid}?",
        phrases=("boiling with water", "and water boil", "boil", "boiling curve", "reboiler", "with the model of"),
        says=says,
    )
)  # fmt: skip
