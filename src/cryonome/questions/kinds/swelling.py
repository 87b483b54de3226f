"""The study ``swelling``: gas added to a fluid, its saturation pressure and volume."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Fluid, FluidPart, Reader
from ...document.field_types import Cell, FluidRef, OfKind, Temperature
from ...document.inner_fluids import used_samples
from ...document.kinds import StudyKind, register
from ...document.model import Measured
from ...equilibrium.saturation import Saturation
from ...fluids.building import FluidModel
from ...labtests import LabFluid, swell
from ...remarks import Remark, pascal
from ...results.context import Answer, Context
from ...results.evaluator import Project
from ...results.simulated_tests import (
    MOST,
    LabTest,
    SaturationAnswer,
    Simulated,
    Tested,
    dry,
    left_out,
    read_test_temperature,
    rows_of,
    saturated,
    simulate,
)
from ...telling.sentences import Units
from ...watch import Watch

TRACE = 1e-9
"""Moles of gas by which its components come into the fluid; they are taken out again."""


class SwellingStudy(Measured):
    """Asks what ``gas``, a fluid, does to a fluid at a ``temperature``: ``gas_moles`` per mole of it."""

    kind: Literal["swelling"]
    gas: FluidRef
    temperature: Temperature = None
    gas_moles: Annotated[tuple[Cell, ...], OfKind("")] = ()


class SwellingRow(TypedDict):
    """An amount of gas: where the mixture begins to part, and its volume there to that of the fluid alone at its own
    saturation; null where there is none."""

    gas_moles: float
    saturation_pressure_Pa: float | None
    kind: str | None
    swelling_factor: float | None


class SwellingAnswer(Tested):
    """The amounts in the order asked."""

    saturation: NotRequired[SaturationAnswer]
    rows: NotRequired[list[SwellingRow]]


@dataclass(frozen=True)
class Asked:
    """Temperature K and moles of gas per mole of fluid."""

    fluid: str
    gas: str
    T: float
    moles: tuple[float, ...]


KEYS = ("saturation_pressure_Pa", "swelling_factor")


def read(study: SwellingStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    reader.at("gas").known(study.gas, [f.name for f in document.every_fluid], "fluid")
    T = read_test_temperature(study.temperature, reader.at("temperature"))
    here = reader.at("gas_moles")
    if not study.gas_moles:
        here.fault("no amount of gas is given; list moles of gas per mole of fluid, for example 0, 0.1, 0.2")
    if len(study.gas_moles) > MOST:
        here.fault(f"{len(study.gas_moles)} amounts are too many; give at most {MOST}")
    moles = [here.at(i).between(cell, 0.0, 100.0, "an amount of gas") for i, cell in enumerate(study.gas_moles)]
    if reader.bad or T is None:
        return None
    return Asked(study.fluid, study.gas, T, tuple(float(v) for v in moles if v is not None))


@dataclass(frozen=True)
class WithGas:
    """What is asked, with the gas as mole fractions of the components of both."""

    asked: Asked
    y: tuple[float, ...]


def prepare(asked: Asked, project: Project, fluid: Fluid) -> tuple[FluidModel, WithGas]:
    """Return the fluid with the components of the gas among its own, and the gas in them."""
    gas = project.document.fluid(asked.gas)
    assert gas is not None
    if asked.gas == fluid.name:
        own = dry(project.fluid(fluid))
        return own, WithGas(asked, tuple(own.z.tolist()))
    # Cuts that shared a grid still do; else those of the fluid stay as they are beside the gas's.
    grid = fluid.grid if len(used_samples(fluid, project.document)) > 1 else "own"
    parts = (FluidPart(fluid=fluid.name, amount=1.0), FluidPart(fluid=asked.gas, amount=TRACE))
    model = dry(project.fluid(Fluid(name=f"{fluid.name} with {asked.gas}", parts=parts, grid=grid, model=fluid.model)))
    own = dry(project.fluid(gas))
    by = dict(zip((c.identity for c in own.components), own.z.tolist()))
    y = np.array([by.get(c.identity, 0.0) for c in model.components])
    return model, WithGas(asked, tuple((y / y.sum()).tolist()))


def simulated(ready: WithGas, fluid: LabFluid, model: FluidModel, near: Saturation | None, watch: Watch) -> Simulated:
    """Return the test of many sets of parameters."""
    s = swell(fluid, np.array(ready.y), ready.asked.T, np.array(ready.asked.moles), near, watch)
    alone = s.saturation.P.reshape(fluid.size, -1)[:, -1]
    kinds = np.where(np.isnan(s.pressure), np.nan, s.bubble)
    rows = {"saturation_pressure_Pa": s.pressure, "swelling_factor": s.factor, "bubble": kinds}
    return Simulated(rows, {"saturation.pressure_Pa": alone}, {}, s.saturation, model.names)


TEST = LabTest(
    simulated,
    "gas_moles",
    lambda asked: asked.moles,
    ("saturation_pressure_Pa", "swelling_factor"),
    prepare=prepare,
)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the amounts in the order asked."""
    model, found = simulate(TEST, asked, context)
    assert found.saturation is not None
    alone = found.saturation.take(slice(-1, None))
    rows = rows_of(found, "gas_moles", asked.moles, KEYS)
    for row, bubble in zip(rows, found.rows["bubble"][0]):
        row["kind"] = None if np.isnan(bubble) else "bubble" if bubble else "dew"
    answer: Answer = {"saturation": saturated(alone, asked.T), "rows": rows}
    remarks = [Remark("warning", "lab.not_dissolved")] if any(r["kind"] is None for r in rows) else []
    return {**answer, "notes": [*model.remarks, *remarks, *left_out(context, context.fluid(asked.fluid))]}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    last = answer["rows"][-1]
    if last["swelling_factor"] is None:
        return f"{len(answer['rows'])} amounts"
    return f"{units.text(pascal(last['saturation_pressure_Pa']))}, {last['swelling_factor']:.3f} times the volume at {last['gas_moles']:g} mol/mol"


def begin(fluid: str, at: tuple[float, float] | None) -> SwellingStudy:
    """Return a new question about a fluid."""
    T = at[0] if at is not None else 363.15
    return SwellingStudy(
        name=f"Swelling of {fluid}",
        kind="swelling",
        fluid=fluid,
        gas=fluid,
        temperature=f"{T - 273.15:.5g} degC",
        gas_moles=(0, 0.1, 0.2, 0.4),
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: what the last amount makes of it."""
    told = line(answer, units)
    return f"{told[0].upper()}{told[1:]}."


register(
    StudyKind(
        name="swelling", title="Swelling by gas", meaning="saturation pressure and volume of a fluid as gas is added to it",
        model=SwellingStudy, answer=SwellingAnswer, read=read, solve=solve, line=line, begin=begin, order=68, test=TEST,
        sentence="{fluid} swollen by {gas} at {temperature}, with {gas_moles} moles of it per mole.",
        phrases=("swell", "swells", "swelling", "swelling test", "swollen"),
        clues={"gas_moles": ("moles", "mol/mol")},
        says=says,
    )
)  # fmt: skip
