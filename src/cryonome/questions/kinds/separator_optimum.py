"""The study ``separator_optimum``: the stage pressures that give most stock-tank oil, with the curve about each."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...constants import ATM
from ...document import Document, Reader, Study
from ...document.field_types import Cell, FluidRef, OfKind, Pressure, Temperature, Temperatures
from ...document.kinds import StudyKind, register
from ...document.reader import EMPTY
from ...labtests.optimum import optimum
from ...remarks import Remark, measure, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...results.simulated_tests import dry, lab_fluid, left_out, read_test_temperature
from ...telling.sentences import Units
from ...units.endings import STANDARD_GAS as GAS

MOST = 4
"""Stages whose pressure can be free together."""
NEAR_END = 0.01


class SeparatorOptimumStudy(Study):
    """Asks for the pressures of separators at ``temperatures`` along the train that give most oil in a stock tank at
    ``tank_temperature`` and ``tank_pressure``, each ``between`` two pressures."""

    kind: Literal["separator_optimum"]
    fluid: FluidRef
    temperatures: Temperatures = ()
    between: Annotated[tuple[Cell, Cell], OfKind("pressure")] = ("2 bar", "100 bar")
    tank_temperature: Temperature = "60 degF"
    tank_pressure: Pressure = "1 atm"


class CurveAnswer(TypedDict):
    """Oil over the pressure of one stage, the others at their best: of the most there is, null where there is no
    oil."""

    stage: int
    pressure_Pa: list[float]
    relative_liquid: list[float | None]


class OptimumStage(TypedDict):
    """A separator at its best pressure."""

    temperature_K: float
    pressure_Pa: float
    gas_oil_ratio_m3_m3: float


class SeparatorOptimumAnswer(Common):
    """The train that gives most oil, and the curves."""

    stages: NotRequired[list[OptimumStage]]
    gas_oil_ratio_m3_m3: NotRequired[float]
    api: NotRequired[float]
    liquid_m3_mol: NotRequired[float]
    curves: NotRequired[list[CurveAnswer]]


@dataclass(frozen=True)
class Asked:
    """Temperatures K of the stages and the tank, the bounds and the tank's pressure, Pa."""

    fluid: str
    T: tuple[float, ...]
    low: float
    high: float
    tank: float


def read(study: SeparatorOptimumStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    here = reader.at("temperatures")
    if not study.temperatures:
        here.fault("no separator is given; list the temperature of each along the train, without the stock tank")
    if len(study.temperatures) > MOST:
        here.fault(f"{len(study.temperatures)} separators are too many; give at most {MOST}")
    T = [read_test_temperature(c, here.at(i)) for i, c in enumerate(study.temperatures)]
    last = read_test_temperature(
        study.tank_temperature if study.tank_temperature not in EMPTY else "60 degF", reader.at("tank_temperature")
    )
    low, high = (reader.at("between", i).pressure(c) for i, c in enumerate(study.between))
    tank = reader.at("tank_pressure").pressure(study.tank_pressure) if study.tank_pressure not in EMPTY else ATM
    if low is not None and high is not None and low >= high:
        reader.at("between").fault("the pressures leave no room; give the lower one first")
    if low is not None and tank is not None and low < tank:
        reader.at("between", 0).fault(
            "a separator below the stock tank's pressure gives it nothing; begin at it or above"
        )
    if reader.bad or None in (low, high, tank, last, *T):
        return None
    return Asked(
        study.fluid,
        tuple(float(t or 0.0) for t in (*T, last)),
        float(low or 0.0),
        float(high or 0.0),
        float(tank or 0.0),
    )


def solve(asked: Asked, context: Context) -> Answer:
    """Return the best train and its curves."""
    fluid = context.fluid(asked.fluid)
    model = dry(context.project.fluid(fluid))
    found = optimum(lab_fluid(model), np.array(asked.T), asked.tank, asked.low, asked.high, context.watch)
    most = float(found.train.tank_volume[0])
    if not np.isfinite(most):
        raise NoAnswerError(Remark("warning", "lab.no_tank_oil"))
    remarks = []
    for P in found.P.tolist():
        if min(abs(np.log(P / asked.low)), abs(np.log(P / asked.high))) < NEAR_END:
            remarks.append(Remark("warning", "optimum.at_end", "", {"P": pascal(P)}))
    stages = [
        {"temperature_K": t, "pressure_Pa": float(p), "gas_oil_ratio_m3_m3": float(g)}
        for t, p, g in zip(asked.T, [*found.P, asked.tank], found.train.gas[0])
    ]
    curves = [
        {
            "stage": j + 1,
            "pressure_Pa": P.tolist(),
            "relative_liquid": [float(v) / most if np.isfinite(v) else None for v in liquid],
        }
        for j, (P, liquid) in enumerate(zip(found.curve_P, found.curve_liquid))
    ]
    answer: Answer = {
        "stages": stages,
        "gas_oil_ratio_m3_m3": float(found.train.gas_oil_ratio[0]),
        "api": float(found.train.api[0]),
        "liquid_m3_mol": most,
        "curves": curves,
    }
    return {**answer, "notes": [*model.remarks, *remarks, *left_out(context, fluid)]}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    told = ", ".join(units.text(pascal(s["pressure_Pa"])) for s in answer["stages"][:-1])
    return f"most oil at {told}"


def begin(fluid: str, at: tuple[float, float] | None) -> SeparatorOptimumStudy:
    """Return a new question about a fluid."""
    return SeparatorOptimumStudy(
        name=f"Best separators of {fluid}", kind="separator_optimum", fluid=fluid, temperatures=("40 degC",)
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the pressures, and what comes of them."""
    best = " and ".join(units.text(pascal(s["pressure_Pa"])) for s in answer["stages"][:-1])
    gas = units.text(measure(answer["gas_oil_ratio_m3_m3"] / GAS, "gas_oil_ratio"))
    return f"Best at {best}: {gas}, {answer['api']:.1f} °API."


register(
    StudyKind(
        name="separator_optimum", title="Best separator pressures", meaning="the pressures of a train that give most stock-tank oil, with the curve about each",
        model=SeparatorOptimumStudy, answer=SeparatorOptimumAnswer, read=read, solve=solve, line=line, begin=begin, order=74,
        sentence="Which separator pressures between {between.0} and {between.1} give most oil of {fluid}, with separators at {temperatures} and the tank at {tank_temperature} and {tank_pressure}?",
        phrases=("best separator pressure", "best separator pressures", "separator optimum", "optimum separator", "optimum", "best separators"),
        says=says,
    )
)  # fmt: skip
