"""The study ``expansion``: constant composition, a fixed amount whose pressure is brought down."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader
from ...document.kinds import StudyKind, register
from ...document.ranges import Range
from ...equilibrium.saturation import Saturation
from ...fluids.building import FluidModel
from ...labtests import LabFluid, expand
from ...remarks import pascal
from ...results.context import Answer, Context
from ...results.simulated_tests import (
    LabTest,
    SaturationAnswer,
    Simulated,
    Steps,
    StepsStudy,
    Tested,
    answer_steps,
    begin_steps,
    between,
    read_steps,
)
from ...telling.sentences import Units
from ...watch import Watch


class ExpansionStudy(StepsStudy):
    """Asks how a fluid expands at a ``temperature`` over ``pressures``, in any order."""

    kind: Literal["expansion"]


class ExpansionRow(TypedDict):
    """A step: volumes to that at saturation; ``Z`` of the whole; null where a value does not exist."""

    pressure_Pa: float
    relative_volume: float | None
    liquid_volume_fraction: float | None
    Z: float | None
    density_kg_m3: float | None
    viscosity_Pa_s: float | None
    Y: float | None


class ExpansionAnswer(Tested):
    """The steps in the order asked."""

    saturation: NotRequired[SaturationAnswer]
    rows: NotRequired[list[ExpansionRow]]


KEYS = ("relative_volume", "liquid_volume_fraction", "Z", "density_kg_m3", "viscosity_Pa_s", "Y")


def read(study: ExpansionStudy, document: Document, reader: Reader) -> Steps | None:
    """Return what is asked, in SI."""
    return read_steps(study, reader, falling=False)


def simulated(asked: Steps, fluid: LabFluid, model: FluidModel, near: Saturation | None, watch: Watch) -> Simulated:
    """Return the test of many sets of parameters."""
    e = expand(fluid, asked.T, np.array(asked.P), near, watch)
    rows = dict(zip(KEYS, (e.relative_volume, e.liquid_volume_fraction, e.Z, e.density, e.viscosity, e.Y)))
    return Simulated(rows, {"saturation.pressure_Pa": e.saturation.P}, {}, e.saturation, model.names)


TEST = LabTest(
    simulated,
    "pressure_Pa",
    lambda asked: asked.P,
    ("relative_volume", "liquid_volume_fraction", "density_kg_m3", "viscosity_Pa_s", "Z", "Y"),
    finer=between,
    saturated_at=lambda asked: asked.T,
)


def solve(asked: Steps, context: Context) -> Answer:
    """Return the steps in their order."""
    return answer_steps(TEST, asked, KEYS, context)


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    at = answer["saturation"]
    return f"{at['kind']} {units.text(pascal(at['pressure_Pa']))}, {len(answer['rows'])} steps"


def begin(fluid: str, at: tuple[float, float] | None) -> ExpansionStudy:
    """Return a new question about a fluid."""
    T = at[0] if at is not None else 373.15
    pressures = Range(begin="50 bar", end="500 bar", steps=18)
    return begin_steps(ExpansionStudy, "expansion", "Expansion", fluid, T, pressures)


def says(asked: Any, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: where it saturates, and how far a report is off."""
    at = answer["saturation"]
    told = f"{at['kind'].capitalize()} at {units.text(pascal(at['pressure_Pa']))}"
    last = answer["rows"][-1]
    told += f", {last['relative_volume']:.3g} times its volume at {units.text(pascal(last['pressure_Pa']))}"
    off = answer.get("average_deviation_percent")
    return told + (f"; {off:.1f} % off the report on average." if off is not None else ".")


register(
    StudyKind(
        name="expansion", title="Constant-composition expansion", meaning="volumes, liquid and densities of a fixed amount as its pressure falls",
        model=ExpansionStudy, answer=ExpansionAnswer, read=read, solve=solve, line=line, begin=begin, order=60, test=TEST,
        sentence="{fluid} expanded at {temperature}, {pressures}.",
        phrases=("constant composition expansion", "constant-composition expansion", "expansion", "cce", "expanded"),
        says=says,
    )
)  # fmt: skip
