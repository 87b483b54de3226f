"""The study ``liberation``: differential, all gas driven off an oil at each pressure."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader
from ...document.kinds import StudyKind, register
from ...equilibrium.saturation import Saturation
from ...fluids.building import FluidModel
from ...labtests import LabFluid, liberate
from ...remarks import Remark, kelvin, pascal
from ...results.context import Answer, Context, NoAnswerError
from ...results.simulated_tests import (
    LabTest,
    SaturationAnswer,
    Simulated,
    Steps,
    StepsStudy,
    Tested,
    begin_steps,
    left_out,
    read_steps,
    rows_of,
    saturated,
    simulate,
)
from ...telling.sentences import Units
from ...watch import Watch


class LiberationStudy(StepsStudy):
    """Asks for the liberation of gas from an oil at a ``temperature`` over falling ``pressures``, the last the
    atmosphere's; the residue is then brought to 60 degF."""

    kind: Literal["liberation"]


class LiberationRow(TypedDict):
    """A step: volumes to that of the residue at 60 degF, the gas of the step; null where a value does not exist."""

    pressure_Pa: float
    oil_volume_factor: float | None
    solution_gas_m3_m3: float | None
    total_volume_factor: float | None
    gas_Z: float | None
    gas_gravity: float | None
    gas_volume_factor: float | None
    gas_viscosity_Pa_s: float | None
    oil_density_kg_m3: float | None
    oil_viscosity_Pa_s: float | None


class LiberationAnswer(Tested):
    """The steps in their order, what the oil has at saturation, and the residue at 60 degF."""

    saturation: NotRequired[SaturationAnswer]
    rows: NotRequired[list[LiberationRow]]
    saturated_oil_volume_factor: NotRequired[float]
    saturated_solution_gas_m3_m3: NotRequired[float]
    residual_density_kg_m3: NotRequired[float]


KEYS = (
    "oil_volume_factor", "solution_gas_m3_m3", "total_volume_factor", "gas_Z", "gas_gravity", "gas_volume_factor", "gas_viscosity_Pa_s",
    "oil_density_kg_m3", "oil_viscosity_Pa_s",
)  # fmt: skip
SINGLES = ("saturated_oil_volume_factor", "saturated_solution_gas_m3_m3", "residual_density_kg_m3")


def read(study: LiberationStudy, document: Document, reader: Reader) -> Steps | None:
    """Return what is asked, in SI."""
    return read_steps(study, reader, falling=True)


def simulated(asked: Steps, fluid: LabFluid, model: FluidModel, near: Saturation | None, watch: Watch) -> Simulated:
    """Return the test of many sets of parameters."""
    f = liberate(fluid, asked.T, np.array(asked.P), near, watch)
    values = (
        f.oil_volume_factor, f.solution_gas, f.total_volume_factor, f.gas_Z, f.gas_gravity, f.gas_volume_factor, f.gas_viscosity,
        f.oil_density, f.oil_viscosity,
    )  # fmt: skip
    singles = dict(zip(SINGLES, (f.saturated_factor, f.saturated_gas, f.residual_density)))
    singles["saturation.pressure_Pa"] = f.saturation.P
    return Simulated(dict(zip(KEYS, values)), singles, {}, f.saturation, model.names)


TEST = LabTest(
    simulated,
    "pressure_Pa",
    lambda asked: asked.P,
    ("oil_volume_factor", "solution_gas_m3_m3", "oil_density_kg_m3", "oil_viscosity_Pa_s", "gas_Z", "gas_gravity"),
    saturated_at=lambda asked: asked.T,
)


def solve(asked: Steps, context: Context) -> Answer:
    """Return the steps in their order."""
    model, found = simulate(TEST, asked, context)
    assert found.saturation is not None
    at = saturated(found.saturation, asked.T)
    if at["kind"] == "dew":
        values = {"T": kelvin(asked.T), "P": pascal(at["pressure_Pa"])}
        raise NoAnswerError(Remark("warning", "lab.no_oil", "", values))
    if not np.isfinite(found.singles["residual_density_kg_m3"][0]):
        raise NoAnswerError(Remark("warning", "lab.all_gone", "", {"T": kelvin(asked.T), "P": pascal(asked.P[-1])}))
    answer: Answer = {"saturation": at, "rows": rows_of(found, "pressure_Pa", asked.P, KEYS)}
    answer |= {key: float(found.singles[key][0]) for key in SINGLES}
    remarks = list(left_out(context, context.fluid(asked.fluid)))
    if abs(asked.P[-1] / 101325.0 - 1.0) > 0.1:
        remarks.append(Remark("warning", "lab.last_pressure", "", {"P": pascal(asked.P[-1])}))
    return {**answer, "notes": [*model.remarks, *remarks]}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    at = answer["saturation"]
    return f"bubble {units.text(pascal(at['pressure_Pa']))}, factor {answer['saturated_oil_volume_factor']:.3f} there"


def begin(fluid: str, at: tuple[float, float] | None) -> LiberationStudy:
    """Return a new question about a fluid."""
    T = at[0] if at is not None else 363.15
    pressures = ("250 bar", "200 bar", "150 bar", "100 bar", "70 bar", "40 bar", "20 bar", "10 bar", "1 atm")
    return begin_steps(LiberationStudy, "liberation", "Liberation", fluid, T, pressures)


def says(asked: Any, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: where it saturates, and its volume factor."""
    at = answer["saturation"]
    told = f"{at['kind'].capitalize()} at {units.text(pascal(at['pressure_Pa']))}"
    told += f", factor {answer['saturated_oil_volume_factor']:.3f}"
    off = answer.get("average_deviation_percent")
    return told + (f"; {off:.1f} % off the report on average." if off is not None else ".")


register(
    StudyKind(
        name="liberation", title="Differential liberation", meaning="volume factor, gas in solution, densities and viscosity of an oil as its gas is driven off",
        model=LiberationStudy, answer=LiberationAnswer, read=read, solve=solve, line=line, begin=begin, order=64, test=TEST,
        sentence="{fluid} freed of its gas step by step, at {temperature}, {pressures}.",
        phrases=("differential liberation", "differential vaporization", "liberation", "dl test", "liberated"),
        says=says,
    )
)  # fmt: skip
