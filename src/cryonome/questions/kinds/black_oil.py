"""The study ``black_oil``: tables of volumes, gas in oil and oil in gas, with undersaturated branches, as simulators
take them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, NotRequired

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.field_types import Cell, FluidRef, OfKind, Pressures, Temperature
from ...document.kinds import StudyKind, register
from ...document.ranges import Range
from ...labtests.black_oil import BlackOil, black_oil, refusals
from ...remarks import Remark, Value, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...results.simulated_tests import (
    SaturationAnswer,
    dry,
    lab_fluid,
    left_out,
    read_pressures,
    read_test_temperature,
    saturated,
)
from ...telling.sentences import Units
from .separators import Stage, read_stages

Array = NDArray[np.float64]

BRANCHES = (1.1, 1.25, 1.5, 2.0)
"""Pressures of branches, of the saturation pressure, where none are asked."""


VOLATILE = 350.0
"""Gas in solution, m3/m3, above which the gas of an oil carries oil that a liberation leaves out."""


class BlackOilStudy(Study):
    """Asks for black-oil tables at a ``temperature`` over falling ``pressures``, corrected to a train of ``stages``
    where there is one; ``undersaturated`` are the pressures of the branches."""

    kind: Literal["black_oil"]
    fluid: FluidRef
    temperature: Temperature = None
    pressures: Annotated[tuple[Cell, ...] | Range, OfKind("pressure")] = ()
    stages: tuple[Stage, ...] = ()
    undersaturated: Pressures = ()


class BlackOilRow(TypedDict):
    """Oil and gas at a pressure; null where there is no such phase."""

    pressure_Pa: float
    solution_gas_m3_m3: float | None
    oil_volume_factor: float | None
    oil_viscosity_Pa_s: float | None
    oil_gas_volume_ratio: float | None
    gas_volume_factor: float | None
    gas_viscosity_Pa_s: float | None


class BranchAnswer(TypedDict):
    """The saturated oil (of a condensate the gas) of a row, compressed: its saturation pressure, and beside each
    pressure the volume factor and viscosity."""

    saturation_pressure_Pa: float
    pressure_Pa: list[float]
    volume_factor: list[float]
    viscosity_Pa_s: list[float]


class LeanGasAnswer(TypedDict):
    """The gas of a saturated row at its pressure with part of the oil it could carry, and with none."""

    pressure_Pa: float
    oil_gas_volume_ratio: list[float]
    gas_volume_factor: list[float]
    gas_viscosity_Pa_s: list[float]


class BlackOilAnswer(Common):
    """The tables, and what a simulator would refuse of them: ``rows`` from saturation on, ``above`` it the same of the
    phase that is there and of the other with the composition it forms with."""

    saturation: NotRequired[SaturationAnswer]
    rows: NotRequired[list[BlackOilRow]]
    above: NotRequired[list[BlackOilRow]]
    branches: NotRequired[list[BranchAnswer]]
    branch_of: NotRequired[Literal["oil", "gas"]]
    lean_gas: NotRequired[list[LeanGasAnswer]]
    tank_density_kg_m3: NotRequired[float]
    gas_gravity: NotRequired[float]
    sound: NotRequired[bool]


@dataclass(frozen=True)
class Asked:
    """Temperature K, falling pressures Pa, temperatures K and pressures Pa of the stages, pressures Pa of the
    branches."""

    fluid: str
    T: float
    P: tuple[float, ...]
    stage_T: tuple[float, ...]
    stage_P: tuple[float, ...]
    branches: tuple[float, ...]


KEYS = (
    "solution_gas_m3_m3",
    "oil_volume_factor",
    "oil_viscosity_Pa_s",
    "oil_gas_volume_ratio",
    "gas_volume_factor",
    "gas_viscosity_Pa_s",
)


def read(study: BlackOilStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T = read_test_temperature(study.temperature, reader.at("temperature"))
    P = read_pressures(study.pressures, reader.at("pressures"), falling=True)
    train = read_stages(study.stages, reader.at("stages")) if study.stages else ((), ())
    up = (
        read_pressures(study.undersaturated, reader.at("undersaturated"), falling=False) if study.undersaturated else ()
    )
    if T is None or P is None or up is None or reader.bad:
        return None
    return Asked(study.fluid, T, P, *train, tuple(sorted(up)))


def solve(asked: Asked, context: Context) -> Answer:
    """Return the tables."""
    fluid = context.fluid(asked.fluid)
    model = dry(context.project.fluid(fluid))
    own = lab_fluid(model)
    start = own.saturation(asked.T, watch=context.watch.part(0.0, 0.1))
    at = saturated(start, asked.T)
    stages = (np.array(asked.stage_T), np.array(asked.stage_P)) if asked.stage_T else None
    up = np.array(asked.branches or [f * at["pressure_Pa"] for f in BRANCHES])
    table = black_oil(own, asked.T, np.array(asked.P), stages, up, context.watch.part(0.1, 1.0))
    if table.P.size - table.above < 2:
        raise NoAnswerError(Remark("warning", "lab.none_below", "", {"P": pascal(at["pressure_Pa"])}))
    if table.oil and not (np.isfinite(table.tank_density) and np.isfinite(table.Bo).all()):
        # With stages there may be oil in the tank, but none is left of the liberation that is corrected to it.
        raise NoAnswerError(
            Remark("warning", "lab.no_residue" if np.isfinite(table.tank_density) else "lab.no_tank_oil")
        )
    refused = refusals(table)
    remarks = [
        Remark("warning", f"black_oil.{code}", "", {"P": pascal(table.P[row])}) for code, row in dict(refused).items()
    ]
    remarks.append(
        Remark(
            "estimate",
            "black_oil.corrected" if stages is not None else "black_oil.plain" if table.oil else "black_oil.single",
        )
    )
    if stages is not None:
        # A stage above a row's own pressure is none for it.
        above = float(stages[1].max())
        less = table.P[above * (1.0 - 1e-9) > table.P]
        if less.size:
            values: dict[str, Value] = {"P": pascal(float(less.max())), "stage": pascal(above), "count": int(less.size)}
            remarks.append(Remark("warning", "black_oil.stages", "", values))
    no_gas = table.P[table.above :][~np.isfinite(table.Rv[table.above :])]
    if no_gas.size:
        told: dict[str, Value] = {"count": int(no_gas.size), "P": pascal(float(no_gas[0]))}
        remarks.append(Remark("warning", "black_oil.no_gas", "", told))
    if table.above:
        remarks.append(Remark("estimate", "black_oil.above", "", {"other": "gas" if table.oil else "oil"}))
    if table.oil and table.Rs[0] > VOLATILE:
        remarks.append(Remark("warning", "black_oil.volatile"))
    rows = _rows(table)
    answer: Answer = {
        "saturation": at,
        "rows": rows[table.above :],
        "above": rows[: table.above],
        "branches": _branches(table),
        "branch_of": "oil" if table.oil else "gas",
        "lean_gas": _lean(table),
        "tank_density_kg_m3": table.tank_density,
        "gas_gravity": table.gas_gravity,
        "sound": not refused,
    }
    answer = {k: v for k, v in answer.items() if not isinstance(v, float) or np.isfinite(v)}
    return {**answer, "notes": [*model.remarks, *remarks, *left_out(context, fluid)]}


def _rows(table: BlackOil) -> list[Answer]:
    columns = (table.Rs, table.Bo, table.mu_o, table.Rv, table.Bg, table.mu_g)
    out = []
    for i, P in enumerate(table.P.tolist()):
        values = [float(c[i]) if np.isfinite(c[i]) else None for c in columns]
        out.append({"pressure_Pa": P, **dict(zip(KEYS, values))})
    return out


def _branches(table: BlackOil) -> list[Answer]:
    out = []
    for i, P in enumerate(table.P[table.above :].tolist()):
        good = np.isfinite(table.branch_B[i])
        if good.any():
            columns = (
                table.branch_P[i, good].tolist(),
                table.branch_B[i, good].tolist(),
                table.branch_mu[i, good].tolist(),
            )
            out.append(
                {"saturation_pressure_Pa": P, **dict(zip(("pressure_Pa", "volume_factor", "viscosity_Pa_s"), columns))}
            )
    return out


def _lean(table: BlackOil) -> list[Answer]:
    keys = ("oil_gas_volume_ratio", "gas_volume_factor", "gas_viscosity_Pa_s")
    columns = (table.lean_Rv, table.lean_B, table.lean_mu)
    good = [bool(np.isfinite(row).all()) for row in np.concatenate(columns, axis=1)]
    return [
        {"pressure_Pa": P, **{key: own[i].tolist() for key, own in zip(keys, columns)}}
        for i, P in enumerate(table.P[table.above :].tolist())
        if good[i]
    ]


def _first(answer: Answer) -> str:
    """Return what stands at saturation, in words."""
    first = answer["rows"][0]
    if answer["branch_of"] == "oil":
        return f"factor {first['oil_volume_factor']:.3f}"
    if first["oil_gas_volume_ratio"] is None:
        return "no gas at standard conditions"
    return f"oil in gas {1e6 * first['oil_gas_volume_ratio']:.4g} cm³/m³"


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    return f"{len(answer['rows'])} rows, {_first(answer)}{'' if answer['sound'] else ', not sound'}"


def begin(fluid: str, at: tuple[float, float] | None) -> BlackOilStudy:
    """Return a new question about a fluid."""
    T = at[0] if at is not None else 363.15
    return BlackOilStudy(
        name=f"Black-oil tables of {fluid}",
        kind="black_oil",
        fluid=fluid,
        temperature=f"{T - 273.15:.5g} degC",
        pressures=Range(begin="20 bar", end="300 bar", steps=14),
        stages=(Stage(temperature="40 degC", pressure="30 bar"), Stage(temperature="60 degF", pressure="1 atm")),
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: what stands at saturation."""
    at = answer["saturation"]
    return f"{at['kind'].capitalize()} at {units.text(pascal(at['pressure_Pa']))}: {_first(answer)}" + (
        "." if answer["sound"] else "; the table is not sound."
    )


register(
    StudyKind(
        name="black_oil", title="Black-oil tables", meaning="volume factors, gas in oil, oil in gas and viscosities over pressure, with undersaturated branches",
        model=BlackOilStudy, answer=BlackOilAnswer, read=read, solve=solve, line=line, begin=begin, order=72,
        sentence="Black-oil tables of {fluid} at {temperature}, {pressures}, through {stages#separators}[, undersaturated from {undersaturated}].",
        phrases=("black oil", "black-oil", "black oil tables", "black-oil tables"),
        says=says,
    )
)  # fmt: skip
