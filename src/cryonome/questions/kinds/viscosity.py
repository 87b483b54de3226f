"""The study ``viscosity``: measured over pressure, above and below saturation."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader
from ...document.kinds import StudyKind, register
from ...equilibrium.saturation import Saturation
from ...fluids.building import FluidModel
from ...labtests import LabFluid, thickness
from ...remarks import Measure, pascal
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
    read_steps,
)
from ...telling.sentences import Units
from ...watch import Watch


class ViscosityStudy(StepsStudy):
    """Asks for the viscosity of a fluid at a ``temperature`` over ``pressures``, in any order: below its bubble point
    of the oil that is left where the gas is driven off at each of them."""

    kind: Literal["viscosity"]


class ViscosityRow(TypedDict):
    """A pressure; null where there is no single phase to measure."""

    pressure_Pa: float
    viscosity_Pa_s: float | None
    density_kg_m3: float | None


class ViscosityAnswer(Tested):
    """The viscosities in the order asked, and the saturation point of a fluid that has one."""

    saturation: NotRequired[SaturationAnswer]
    rows: NotRequired[list[ViscosityRow]]


KEYS = ("viscosity_Pa_s", "density_kg_m3")


def read(study: ViscosityStudy, document: Document, reader: Reader) -> Steps | None:
    """Return what is asked, in SI."""
    return read_steps(study, reader, falling=False)


def simulated(asked: Steps, fluid: LabFluid, model: FluidModel, near: Saturation | None, watch: Watch) -> Simulated:
    """Return the test of many sets of parameters."""
    found = thickness(fluid, asked.T, np.array(asked.P), near, watch)
    rows = dict(zip(KEYS, (found.viscosity, found.density)))
    return Simulated(rows, {"saturation.pressure_Pa": found.saturation.P}, {}, found.saturation, model.names)


TEST = LabTest(simulated, "pressure_Pa", lambda asked: asked.P, KEYS, saturated_at=lambda asked: asked.T)


def solve(asked: Steps, context: Context) -> Answer:
    """Return the viscosities in the order asked. Raises NoAnswerError where the fluid is two phases at every
    pressure."""
    return answer_steps(TEST, asked, KEYS, context, lone=True)


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    known = [r["viscosity_Pa_s"] for r in answer["rows"] if r["viscosity_Pa_s"] is not None]
    if not known:
        return "no single phase at any of the pressures"
    low, high = (units.text(Measure(v, "dynamic_viscosity")) for v in (min(known), max(known)))
    at = answer.get("saturation")
    return f"{low} to {high}" + (f", saturated at {units.text(pascal(at['pressure_Pa']))}" if at is not None else "")


def begin(fluid: str, at: tuple[float, float] | None) -> ViscosityStudy:
    """Return a new question about a fluid."""
    T = at[0] if at is not None else 363.15
    pressures = ("350 bar", "300 bar", "250 bar", "200 bar", "150 bar", "100 bar", "50 bar", "20 bar", "1 atm")
    return begin_steps(ViscosityStudy, "viscosity", "Viscosity", fluid, T, pressures)


def says(asked: Any, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: its span."""
    told = line(answer, units)
    return f"{told[0].upper()}{told[1:]}."


register(
    StudyKind(
        name="viscosity", title="Viscosity over pressure", meaning="viscosity of a fluid as its pressure falls, and of its oil below the bubble point",
        model=ViscosityStudy, answer=ViscosityAnswer, read=read, solve=solve, line=line, begin=begin, order=66, test=TEST,
        sentence="Viscosity of {fluid} at {temperature}, {pressures}.",
        phrases=("viscosity test", "viscosity over pressure", "viscosity curve"),
        says=says,
    )
)  # fmt: skip
