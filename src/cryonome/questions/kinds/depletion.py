"""The study ``depletion``: constant volume, gas drawn off step by step."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader
from ...document.kinds import StudyKind, register
from ...document.ranges import Range
from ...equilibrium.saturation import Saturation
from ...fluids.building import FluidModel
from ...labtests import LabFluid, deplete
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
    read_steps,
)
from ...telling.sentences import Units
from ...watch import Watch


class DepletionStudy(StepsStudy):
    """Asks for the depletion of a cell at a ``temperature`` over falling ``pressures``."""

    kind: Literal["depletion"]


class DepletionRow(TypedDict):
    """A step: liquid to the volume at saturation, cumulative moles of gas drawn per mole of fluid, and the gas drawn
    at this step; null where a value does not exist."""

    pressure_Pa: float
    liquid_volume_fraction: float | None
    produced_mole_fraction: float | None
    Z_gas: float | None
    Z_two_phase: float | None
    gas_gravity: float | None
    gas_viscosity_Pa_s: float | None
    gas: dict[str, float] | None


class DepletionAnswer(Tested):
    """The steps in their order."""

    saturation: NotRequired[SaturationAnswer]
    rows: NotRequired[list[DepletionRow]]


KEYS = ("liquid_volume_fraction", "produced_mole_fraction", "Z_gas", "Z_two_phase", "gas_gravity", "gas_viscosity_Pa_s")


def read(study: DepletionStudy, document: Document, reader: Reader) -> Steps | None:
    """Return what is asked, in SI."""
    return read_steps(study, reader, falling=True)


def simulated(asked: Steps, fluid: LabFluid, model: FluidModel, near: Saturation | None, watch: Watch) -> Simulated:
    """Return the test of many sets of parameters."""
    d = deplete(fluid, asked.T, np.array(asked.P), near, watch)
    values = (d.liquid_volume_fraction, d.produced, d.Z_gas, d.Z_two_phase, d.gas_gravity, d.gas_viscosity)
    singles = {"saturation.pressure_Pa": d.saturation.P}
    return Simulated(dict(zip(KEYS, values)), singles, {"gas": d.gas}, d.saturation, model.names)


TEST = LabTest(
    simulated,
    "pressure_Pa",
    lambda asked: asked.P,
    ("liquid_volume_fraction", "produced_mole_fraction", "Z_gas", "Z_two_phase", "gas_gravity"),
    saturated_at=lambda asked: asked.T,
)


def solve(asked: Steps, context: Context) -> Answer:
    """Return the steps in their order."""
    return answer_steps(TEST, asked, KEYS, context)


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    at = answer["saturation"]
    most = max((r["liquid_volume_fraction"] or 0.0 for r in answer["rows"]), default=0.0)
    return f"{at['kind']} {units.text(pascal(at['pressure_Pa']))}, liquid up to {100 * most:.1f} %"


def begin(fluid: str, at: tuple[float, float] | None) -> DepletionStudy:
    """Return a new question about a fluid."""
    T = at[0] if at is not None else 373.15
    pressures = Range(begin="50 bar", end="350 bar", steps=6)
    return begin_steps(DepletionStudy, "depletion", "Depletion", fluid, T, pressures)


def says(asked: Any, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: where it saturates, and the most liquid."""
    at = answer["saturation"]
    told = f"{at['kind'].capitalize()} at {units.text(pascal(at['pressure_Pa']))}"
    most = max((r["liquid_volume_fraction"] or 0.0 for r in answer["rows"]), default=0.0)
    told += f", liquid up to {100 * most:.1f} % of the cell"
    off = answer.get("average_deviation_percent")
    return told + (f"; {off:.1f} % off the report on average." if off is not None else ".")


register(
    StudyKind(
        name="depletion", title="Constant-volume depletion", meaning="liquid that drops out and gas drawn as a cell is brought down at its volume",
        model=DepletionStudy, answer=DepletionAnswer, read=read, solve=solve, line=line, begin=begin, order=62, test=TEST,
        sentence="{fluid} depleted at constant volume, at {temperature}, {pressures}.",
        phrases=("constant volume depletion", "constant-volume depletion", "depletion", "cvd", "depleted"),
        says=says,
    )
)  # fmt: skip
