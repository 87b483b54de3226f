"""The study ``separators``: a train of stages from the feed to the stock tank."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader
from ...document.field_types import Pressure, Temperature
from ...document.kinds import StudyKind, register
from ...document.model import Measured
from ...document.part import Part
from ...document.reader import EMPTY
from ...equilibrium.saturation import Saturation
from ...fluids.building import FluidModel
from ...labtests import LabFluid, separate
from ...remarks import Remark, Value, kelvin, measure, pascal
from ...results.context import Answer, Context, NoAnswerError
from ...results.simulated_tests import (
    MOST_PRESSURE,
    LabTest,
    SaturationAnswer,
    Simulated,
    Tested,
    left_out,
    read_test_temperature,
    rows_of,
    saturated,
    simulate,
)
from ...telling.sentences import Units
from ...units.endings import STANDARD_GAS as GAS
from ...watch import Watch
from ..giving import STREAMS

MOST = 20
SATURATED = "saturated"
"""Stands for the pressure of a feed that is at its saturation point."""


class Stage(Part):
    """A separator's temperature and pressure."""

    temperature: Temperature = None
    pressure: Pressure = None


class SeparatorsStudy(Measured):
    """Asks what a train of ``stages`` gives, the last the stock tank; the ``feed`` is at a temperature and a
    pressure, or ``saturated`` at a ``temperature``."""

    kind: Literal["separators"]
    stages: tuple[Stage, ...] = ()
    feed: Stage | Literal["saturated"] = "saturated"
    temperature: Temperature = None


class SeparatorsRow(TypedDict):
    """A stage: standard gas to stock-tank oil at 60 degF; null where there is no such phase."""

    temperature_K: float | None
    pressure_Pa: float | None
    gas_oil_ratio_m3_m3: float | None
    gas_gravity: float | None
    oil_density_kg_m3: float | None
    gas: dict[str, float] | None
    liquid: dict[str, float] | None


class SeparatorsAnswer(Tested):
    """The stages, and the whole train: volume of the feed to that of stock-tank oil, all gas to it, and the oil of a
    mole of feed."""

    saturation: NotRequired[SaturationAnswer]
    rows: NotRequired[list[SeparatorsRow]]
    oil_volume_factor: NotRequired[float]
    gas_oil_ratio_m3_m3: NotRequired[float]
    api: NotRequired[float]
    tank_density_kg_m3: NotRequired[float]
    liquid_m3_mol: NotRequired[float]


@dataclass(frozen=True)
class Asked:
    """Temperatures K and pressures Pa of the stages; the feed's, its pressure None at saturation."""

    fluid: str
    T: tuple[float, ...]
    P: tuple[float, ...]
    feed_T: float
    feed_P: float | None


KEYS = ("temperature_K", "pressure_Pa", "gas_oil_ratio_m3_m3", "gas_gravity", "oil_density_kg_m3")
SINGLES = ("oil_volume_factor", "gas_oil_ratio_m3_m3", "api", "tank_density_kg_m3", "liquid_m3_mol")


def read_stages(stages: Sequence[Stage], here: Reader) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Return temperatures K and pressures Pa of a train."""
    if not stages:
        here.fault("the train has no stage yet; give each a temperature and a pressure, the stock tank last")
    if len(stages) > MOST:
        here.fault(f"{len(stages)} stages are too many; give at most {MOST}")
    T: list[float] = []
    P: list[float] = []
    for i, stage in enumerate(stages):
        t = read_test_temperature(stage.temperature, here.at(i, "temperature"))
        p = here.at(i, "pressure").pressure(stage.pressure)
        p = here.at(i, "pressure").physical(p, 1.0, MOST_PRESSURE, "a pressure", "bar", 1e-5)
        if p is not None and P and p > P[-1]:
            here.at(i, "pressure").fault(
                f"{p / 1e5:.6g} bar follows {P[-1] / 1e5:.6g} bar; the pressure must not rise along the train"
            )
        if t is not None and p is not None:
            T.append(t)
            P.append(p)
    return tuple(T), tuple(P)


def read(study: SeparatorsStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T, P = read_stages(study.stages, reader.at("stages"))
    feed = study.feed
    feed_P: float | None = None
    if isinstance(feed, Stage):
        cell, where = feed.temperature, reader.at("feed", "temperature")
        if feed.pressure != SATURATED:
            feed_P = reader.at("feed", "pressure").pressure(feed.pressure)
        if study.temperature not in EMPTY and cell in EMPTY:
            cell, where = study.temperature, reader.at("temperature")
    else:
        cell, where = study.temperature, reader.at("temperature")
    feed_T = read_test_temperature(cell, where)
    if reader.bad or feed_T is None:
        return None
    return Asked(study.fluid, T, P, feed_T, feed_P)


def simulated(asked: Asked, fluid: LabFluid, model: FluidModel, near: Saturation | None, watch: Watch) -> Simulated:
    """Return the test of many sets of parameters."""
    m, n = fluid.size, len(asked.T)
    start = fluid.saturation(asked.feed_T, near, watch.part(0.0, 0.4)) if asked.feed_P is None else None
    P = np.full(m, asked.feed_P) if start is None else start.P
    volume = fluid.parted(np.full(m, asked.feed_T), P).volume
    s = separate(fluid, np.array(asked.T), np.array(asked.P), watch=watch.part(0.4, 1.0))
    wide = (np.broadcast_to(np.array(v), (m, n)) for v in (asked.T, asked.P))
    rows = dict(zip(KEYS, (*wide, s.gas, s.gas_gravity, s.oil_density)))
    singles = dict(zip(SINGLES, (volume / s.tank_volume, s.gas_oil_ratio, s.api, s.tank_density, s.tank_volume)))
    if start is not None:
        singles["saturation.pressure_Pa"] = start.P
    y = np.where(s.vapour[..., None] > 0.0, s.y, np.nan)
    x = np.where(np.isnan(s.liquid)[..., None], np.nan, s.x)
    return Simulated(rows, singles, {"gas": y, "liquid": x}, start, model.names)


TEST = LabTest(
    simulated,
    "pressure_Pa",
    lambda asked: asked.P,
    ("gas_oil_ratio_m3_m3", "gas_gravity", "oil_density_kg_m3"),
    saturated_at=lambda asked: asked.feed_T if asked.feed_P is None else None,
)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the stages in their order."""
    model, found = simulate(TEST, asked, context)
    answer: Answer = {}
    if found.saturation is not None:
        answer["saturation"] = saturated(found.saturation, asked.feed_T)
    if not np.isfinite(found.singles["api"][0]):
        stage = int(np.argmax(~np.isfinite(found.rows["oil_density_kg_m3"][0])))
        values: dict[str, Value] = {"stage": stage + 1, "T": kelvin(asked.T[stage]), "P": pascal(asked.P[stage])}
        raise NoAnswerError(Remark("warning", "lab.no_liquid", "", values))
    answer["rows"] = rows_of(found, "", asked.P, KEYS)
    answer |= {key: float(found.singles[key][0]) for key in SINGLES}
    remarks = list(left_out(context, context.fluid(asked.fluid)))
    if abs(asked.P[-1] / 101325.0 - 1.0) > 0.1:
        remarks.append(Remark("warning", "lab.no_tank", "", {"P": pascal(asked.P[-1])}))
    return {**answer, "notes": [*model.remarks, *remarks]}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    gas = units.text(measure(answer["gas_oil_ratio_m3_m3"] / GAS, "gas_oil_ratio"))
    return f"{gas}, factor {answer['oil_volume_factor']:.3f}, {answer['api']:.1f} °API"


def begin(fluid: str, at: tuple[float, float] | None) -> SeparatorsStudy:
    """Return a new question about a fluid."""
    stages = (Stage(temperature="40 degC", pressure="30 bar"), Stage(temperature="60 degF", pressure="1 atm"))
    return SeparatorsStudy(
        name=f"Separators of {fluid}", kind="separators", fluid=fluid, stages=stages, temperature="90 degC"
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: gas, oil and volume factor."""
    gas = units.text(measure(answer["gas_oil_ratio_m3_m3"] / GAS, "gas_oil_ratio"))
    return f"{gas}, {answer['api']:.1f} °API; factor {answer['oil_volume_factor']:.3f}."


register(
    StudyKind(
        name="separators", title="Separator train", meaning="gas, oil and volume factor of a fluid taken through separators to the stock tank",
        model=SeparatorsStudy, answer=SeparatorsAnswer, read=read, solve=solve, line=line, begin=begin, gives=STREAMS, order=66, test=TEST,
        sentence="{fluid} through {stages#separators}, fed {feed}[ at {temperature}].",
        phrases=("separator train", "separators", "separator test", "separator"),
        says=says,
    )
)  # fmt: skip
