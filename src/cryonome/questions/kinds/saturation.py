"""The study ``saturation``: every bubble and dew point at a temperature or a pressure."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader
from ...document.conditions import read_conditions
from ...document.field_types import Pressure, Temperature
from ...document.kinds import StudyKind, register
from ...document.model import Measured
from ...equilibrium.fraction_flash import flash_fraction
from ...equilibrium.fraction_states import among_three
from ...equilibrium.phases import Phases
from ...equilibrium.saturation import Saturation
from ...fluids.building import FluidModel
from ...labtests import LabFluid
from ...remarks import Remark, Value, kelvin, pascal
from ...results.context import Answer, Context, NoAnswerError
from ...results.pair_states import upset_by_third
from ...results.simulated_tests import LabTest, Simulated, Tested
from ...telling.sentences import Units
from ...watch import Watch
from .flash import composition


class SaturationStudy(Measured):
    """Asks for every bubble and dew point at a temperature or a pressure."""

    kind: Literal["saturation"]
    temperature: Temperature = None
    pressure: Pressure = None


class SaturationPointAnswer(TypedDict):
    """A bubble or dew point and the composition of the phase that begins there."""

    kind: Literal["bubble", "dew"]
    temperature_K: float
    pressure_Pa: float
    incipient: dict[str, float]


class SaturationAnswer(Tested):
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


def simulated(asked: Asked, fluid: LabFluid, model: FluidModel, near: Saturation | None, watch: Watch) -> Simulated:
    """Return the points of many sets of parameters as laboratories see them: at a temperature the one at the highest
    pressure, at a pressure a bubble and a dew temperature."""
    if asked.temperature is not None:
        found = fluid.saturation(asked.temperature, near, watch)
        named = {"bubble": np.where(found.bubble, found.P, np.nan), "dew": np.where(found.bubble, np.nan, found.P)}
        singles = {f"points.{kind}.pressure_Pa": values for kind, values in named.items()}
        singles |= {f"points[{i}].pressure_Pa": found.P for i in (0, 1)}
        return Simulated(singles=singles, saturation=found, names=model.names)
    P = np.full(fluid.size, asked.pressure or 0.0)
    bubble, dew = (flash_fraction(fluid.eos, fluid.z, np.full(fluid.size, b), P=P, watch=watch).T for b in (0.0, 1.0))
    either = np.where(np.isfinite(bubble), bubble, dew)
    singles = {
        "points.bubble.temperature_K": bubble,
        "points.dew.temperature_K": dew,
        "points[0].temperature_K": either,
        "points[1].temperature_K": dew,
    }
    return Simulated(singles=singles, names=model.names)


TEST = LabTest(simulated, saturated_at=lambda asked: asked.temperature)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the points by rising pressure, each with its incipient phase."""
    fluid = context.fluid(asked.fluid)
    model = context.project.fluid(fluid)
    watch = context.watch.part(0.0, 0.8)
    whole = context.project.lines_for(fluid, asked.temperature, asked.pressure, watch)
    points = whole.crossings([0.0, 1.0], T=asked.temperature, P=asked.pressure)
    if whole.bare and not points:
        whole = context.project.map(fluid, (), watch)
        points = whole.crossings([0.0, 1.0], T=asked.temperature, P=asked.pressure)
    remarks = list(model.remarks)
    answers: list[Answer] = []
    upset = upset_by_third(model, points, context.watch.part(0.8, 0.85))
    for beta in (0.0, 1.0):
        own = [i for i, p in enumerate(points) if p.beta == beta]
        held = [i for i in own if not upset[i]]
        if not held and model.may_have_third:
            # The line of two phases has no point that holds; where a third may be there can be one.
            part = context.watch.part(0.85 + 0.07 * beta, 0.92 + 0.07 * beta)
            known = np.array([asked.pressure if asked.temperature is None else asked.temperature])
            at_T = asked.temperature is not None
            found = among_three(model.eos, model.z[None], np.array([beta]), known, at_T, part).phases
            if bool(found.converged[0]):
                answers.append(_corner(model, found, beta))
                continue
        for i in own:
            p = points[i]
            answers.append(_answer(model, beta, p.T, p.P, p.y if beta == 0.0 else p.x))
            if upset[i]:
                values: dict[str, Value] = {"fraction": beta, "T": kelvin(p.T, 2), "P": pascal(p.P)}
                remarks.append(Remark("warning", "saturation.metastable", "", values))
    if not answers:
        at: Value = kelvin(asked.temperature, 2) if asked.temperature is not None else pascal(asked.pressure or 0.0)
        raise NoAnswerError(Remark("warning", "saturation.none", "", {"at": at}), *whole.remarks)
    answers.sort(key=lambda a: a["pressure_Pa"] if asked.pressure is None else a["temperature_K"])
    return {"points": answers, "notes": [*remarks]}


def _corner(model: FluidModel, found: Phases, beta: float) -> Answer:
    """Return the point where vapour begins or ends, from the state (1,) a hair inside; the phase that begins is the
    smallest."""
    least = int(np.argmin(np.where(found.present[0], found.fraction[0], np.inf)))
    return _answer(model, beta, float(found.T[0]), float(found.P[0]), found.composition[0, least])


def _answer(model: FluidModel, beta: float, T: float, P: float, incipient: object) -> Answer:
    return {
        "kind": "bubble" if beta == 0.0 else "dew",
        "temperature_K": T,
        "pressure_Pa": P,
        "incipient": composition(model, incipient),
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


NOTHING = 10.0
"""Pa below which a second point is left out of the sentence."""


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: every point, and which way the other phase lies."""
    by_T = asked.temperature is not None
    boils = any(p["kind"] == "bubble" for p in answer["points"])
    dews = sorted((p for p in answer["points"] if p["kind"] == "dew"), key=lambda p: _along(p, by_T))
    told: list[str] = []
    for p in sorted(answer["points"], key=lambda p: -_along(p, by_T)):
        if told and p["pressure_Pa"] < NOTHING:
            continue
        at = units.text(pascal(p["pressure_Pa"]) if by_T else kelvin(p["temperature_K"]))
        if p["kind"] == "bubble":
            told.append(f"boils below {at}" if by_T else f"boils from {at}")
        elif len(dews) > 1 or not by_T:
            # Of two the upper one is met from above, in pressure as in temperature.
            told.append(f"condenses below {at}" if p is dews[-1] else f"condenses above {at}")
        else:
            told.append(f"condenses above {at}" if boils else f"dew point at {at}")
    text = ", ".join(told)
    return f"{text[0].upper()}{text[1:]}."


def _along(point: Answer, by_T: bool) -> float:
    return float(point["pressure_Pa" if by_T else "temperature_K"])


register(
    StudyKind(
        name="saturation", title="Saturation point", meaning="bubble and dew points at a temperature or a pressure",
        model=SaturationStudy, answer=SaturationAnswer, read=read, solve=solve, line=line, begin=begin, order=30, test=TEST,
        sentence="Where does {fluid} begin to boil or condense at {temperature|pressure}?",
        phrases=("dewpoint", "bubblepoint", "bubble-point", "dew-point", "saturated", "saturation point", "saturation", "bubble point", "dew point", "bubble", "dew", "begin to boil", "boils", "boil", "boiling", "condense", "condenses", "saturation pressure", "bubble pressure", "dew pressure", "bubble temperature", "dew temperature"),
        says=says,
    )
)  # fmt: skip
