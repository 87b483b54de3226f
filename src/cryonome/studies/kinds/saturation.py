"""The study ``saturation``: every bubble and dew point at a temperature or a pressure."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.kinds import StudyKind, register
from ...document.model import Cell
from ...equilibrium.phase_map import METASTABLE
from ...equilibrium.stability import stability
from ...remarks import Remark, Value, kelvin, pascal
from ..conditions import read_conditions
from ..context import Answer, Common, Context, NoAnswerError
from ..sentences import Units
from .flash import composition


class SaturationStudy(Study):
    """Asks for every bubble and dew point at a temperature or a pressure."""

    kind: Literal["saturation"]
    fluid: str
    temperature: Cell = None
    pressure: Cell = None


class SaturationPointAnswer(TypedDict):
    """A bubble or dew point and the composition of the phase that begins there."""

    kind: Literal["bubble", "dew"]
    temperature_K: float
    pressure_Pa: float
    incipient: dict[str, float]


class SaturationAnswer(Common):
    """The points by rising pressure."""

    points: NotRequired[list[SaturationPointAnswer]]


@dataclass(frozen=True)
class Asked:
    """Temperature K or pressure Pa, the other None."""

    fluid: str
    temperature: float | None
    pressure: float | None


def read(study: SaturationStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T = None if study.temperature is None else reader.at("temperature").quantity(study.temperature, "temperature")
    P = None if study.pressure is None else reader.at("pressure").pressure(study.pressure)
    read_conditions(study, reader, ("temperature", "pressure"), 1, "one of temperature and pressure")
    return Asked(study.fluid, T, P)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the points by rising pressure, each with its incipient phase."""
    fluid = context.fluid(asked.fluid)
    model = context.project.fluid(fluid)
    whole = context.project.map(fluid, (), context.watch.part(0.0, 0.9))
    points = whole.crossings([0.0, 1.0], T=asked.temperature, P=asked.pressure)
    remarks = list(model.remarks)
    if not points:
        at: Value = kelvin(asked.temperature, 2) if asked.temperature is not None else pascal(asked.pressure or 0.0)
        raise NoAnswerError(Remark("warning", "saturation.none", "", {"at": at}), *whole.remarks)
    if model.z.size > 1:
        T, P = np.array([p.T for p in points]), np.array([p.P for p in points])
        feeds = np.tile(model.z, (len(points), 1))
        test = stability(model.eos, T, P, feeds, every_trial=True, watch=context.watch.part(0.9, 1.0))
        for point, tm in zip(points, test.tm):
            if tm < METASTABLE:
                values: dict[str, Value] = {"fraction": point.beta, "T": kelvin(point.T, 2), "P": pascal(point.P)}
                remarks.append(Remark("warning", "saturation.metastable", "", values))
    return {
        "points": [
            {
                "kind": "bubble" if p.beta == 0.0 else "dew",
                "temperature_K": p.T,
                "pressure_Pa": p.P,
                "incipient": composition(model, p.y if p.beta == 0.0 else p.x),
            }
            for p in points
        ],
        "notes": context.notes(*remarks),
    }


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words: the highest point."""
    top = max(answer["points"], key=lambda p: p["pressure_Pa"])
    return f"{top['kind']} {units.text(pascal(top['pressure_Pa']))}, {units.text(kelvin(top['temperature_K']))}"


def begin(fluid: str, at: tuple[float, float] | None) -> SaturationStudy:
    """Return a new question about a fluid, near a state where one is given."""
    T = at[0] if at is not None else 373.15
    return SaturationStudy(
        name="Saturation point", kind="saturation", fluid=fluid, temperature=f"{T - 273.15:.2f} degC"
    )


register(
    StudyKind(
        name="saturation", title="Saturation point", meaning="bubble and dew points at a temperature or a pressure",
        model=SaturationStudy, answer=SaturationAnswer, read=read, solve=solve, line=line, begin=begin, order=30,
    )
)  # fmt: skip
