"""The study ``process``: feeds through a chain of steps, with its streams, machines, exchangers, loops and balances."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any, Literal, NotRequired

from pydantic import Field
from typing_extensions import TypedDict

from ...document import Document, Fluid, FluidInput, Reader, Study
from ...document.kinds import Gives, StudyKind, register
from ...document.read_fluid import PartInput
from ...remarks import kelvin, measure, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...results.evaluator import Project
from ...telling.sentences import Units
from ..chains.answering import answer_of
from ..chains.computing import compute, mixture_of
from ..chains.model import Feed, Step
from ..chains.reading import AskedChain, read_chain
from ..giving import part_of, with_amounts
from .flash import RatesAnswer, WholeAnswer
from .path import MarginsAnswer


class ProcessStudy(Study):
    """Asks what becomes of ``feeds`` (by the name of their stream) on their way through ``steps``, in any order."""

    kind: Literal["process"]
    feeds: Mapping[str, Feed] = Field(default_factory=dict)
    steps: tuple[Step, ...] = ()


class FlashedAnswer(TypedDict):
    """What a stream gives, flashed once to 60 degF and 1 atm: gas as ideal gas, liquid and water as they are."""

    standard_gas_m3_s: float
    liquid_m3_s: float
    water_m3_s: float


class StreamAnswer(WholeAnswer, RatesAnswer):
    """A stream: a state, its rates, each phase with its own, and how far it is from the limits of its fluid. Standard
    liquid is the components' liquids summed; ``flashed`` is what is really there at standard conditions."""

    composition: NotRequired[dict[str, float]]
    flashed: NotRequired[FlashedAnswer]
    margins: NotRequired[MarginsAnswer]


class BalanceAnswer(TypedDict):
    """What does not close of mass and energy, relative to what flows, and the entropy that arises."""

    mass: float
    energy: float
    entropy_W_K: float


class CurveAnswer(TypedDict):
    """Temperatures of both streams of an exchanger over the duty."""

    duty_W: list[float]
    hot_K: list[float]
    cold_K: list[float]


class StepAnswer(TypedDict):
    """A step's numbers: of machines power on the fluid (negative where it is taken out), heads on the fluid and
    efficiencies; of heat the duty added; of exchangers the duty from hot to cold."""

    step: str
    power_W: NotRequired[float]
    shaft_power_W: NotRequired[float]
    isentropic_head_J_kg: NotRequired[float]
    polytropic_head_J_kg: NotRequired[float]
    isentropic_efficiency: NotRequired[float | None]
    polytropic_efficiency: NotRequired[float | None]
    isentropic_exponent: NotRequired[float | None]
    polytropic_exponent: NotRequired[float | None]
    inlet_actual_m3_s: NotRequired[float]
    ratio: NotRequired[float]
    outlet_temperature_K: NotRequired[float]
    cooling_W: NotRequired[float]
    stage_suction_K: NotRequired[list[float]]
    stage_pressure_Pa: NotRequired[list[float]]
    stage_discharge_K: NotRequired[list[float]]
    stage_power_W: NotRequired[list[float]]
    duty_W: NotRequired[float]
    temperature_change_K: NotRequired[float]
    pressure_drop_Pa: NotRequired[float]
    vapour_fraction: NotRequired[float]
    liquid_fraction: NotRequired[float]
    aqueous_fraction: NotRequired[float]
    lmtd_K: NotRequired[float | None]
    mean_difference_K: NotRequired[float | None]
    ua_W_K: NotRequired[float | None]
    least_approach_K: NotRequired[float]
    least_approach_share: NotRequired[float]
    hot_outlet_K: NotRequired[float]
    cold_outlet_K: NotRequired[float]
    curve: NotRequired[CurveAnswer]
    balance: BalanceAnswer


class RecycleAnswer(TypedDict):
    """How a loop was closed: rounds, what is left, and what was opened: the stream, or an exchanger's duty."""

    iterations: int
    residual: float
    opened: str


class ProcessAnswer(Common):
    """Streams and steps by name, what does not close of the whole, and the loops by the stream they were opened at."""

    streams: NotRequired[dict[str, StreamAnswer]]
    steps: NotRequired[dict[str, StepAnswer]]
    balance: NotRequired[BalanceAnswer]
    recycles: NotRequired[dict[str, RecycleAnswer]]


def read(study: ProcessStudy, document: Document, reader: Reader) -> AskedChain | None:
    """Return what is asked, in SI."""
    return read_chain(study.feeds, study.steps, reader)


def solve(asked: AskedChain, context: Context) -> Answer:
    """Return the chain."""
    watch = context.watch
    computed = compute([asked], replace(context, watch=watch.part(0.0, 0.6)))
    return answer_of(computed, computed.row[0], asked, replace(context, watch=watch.part(0.6, 1.0)))


def solve_many(asked: Sequence[AskedChain], context: Context) -> list[Answer | NoAnswerError]:
    """Return chains of one shape, done together; of one that could not be done, why."""
    computed = compute(asked, context)
    out: list[Answer | NoAnswerError] = []
    for one, failed, row in zip(asked, computed.failed, computed.row):
        out.append(failed if failed is not None else answer_of(computed, row, one, context))
    return out


def narrowed(asked: AskedChain, paths: Sequence[str]) -> AskedChain:
    """Return what is asked where only some paths are read: margins only where one is."""
    return asked if not paths or any("margin" in p for p in paths) else replace(asked, margins=False)


def without_margins(asked: AskedChain) -> AskedChain:
    """Return the chain without the margins of its streams, which take longer than all else."""
    return replace(asked, margins=False)


def streams_of(answer: Answer) -> list[str]:
    """Return the streams that hold anything."""
    return [name for name, stream in answer.get("streams", {}).items() if stream["phases"]]


def _input(study: ProcessStudy, answer: Answer, stream: str, project: Project) -> FluidInput:
    x = dict(answer["streams"][stream]["composition"])
    if len({f.fluid for f in study.feeds.values()}) == 1:
        return with_amounts(study, x, project)
    mixture = mixture_of(_asked(study, project), project)
    source = project.input_of(mixture.source)
    assert source is not None
    model = mixture.model
    parts = tuple(
        PartInput(c.identity, c, False, "mole", float(x[name]))
        for c, name in zip(model.components, model.names)
        if x.get(name, 0.0) > 0.0
    )
    return replace(source, parts=parts, recombination=None, grid="own", made_by=None)


def _part(study: ProcessStudy, answer: Answer, stream: str, project: Project) -> Fluid:
    mixture = mixture_of(_asked(study, project), project)
    return part_of(mixture.source, mixture.model, answer["streams"][stream]["composition"], f"given by {study.name}")


def _asked(study: ProcessStudy, project: Project) -> AskedChain:
    found = project.read_study(study).asked
    assert isinstance(found, AskedChain)
    return found


STREAMS = Gives(streams_of, _input, _part)


def _machines(answer: Answer) -> float:
    return sum(float(s["shaft_power_W"]) for s in answer["steps"].values() if "shaft_power_W" in s)


def _coldest(answer: Answer) -> tuple[str, Mapping[str, Any]]:
    name = min(answer["streams"], key=lambda n: float(answer["streams"][n]["temperature_K"]))
    return name, answer["streams"][name]


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    power = _machines(answer)
    cold = units.text(kelvin(_coldest(answer)[1]["temperature_K"], 0))
    told = [units.text(measure(abs(power), "power"))] if power else [f"{len(answer['steps'])} steps"]
    return f"{told[0]}{' won' if power < 0 else ''}, down to {cold}"


def begin(fluid: str, at: tuple[float, float] | None) -> ProcessStudy:
    """Return a new question about a fluid."""
    T, P = at or (303.15, 20e5)
    feed = Feed(fluid=fluid, temperature=f"{T - 273.15:.4g} degC", pressure=f"{P / 1e5:.4g} bar", rate="5 MMscf/day")
    steps = (
        Step(name="K-1", step="compressor", takes="feed", gives="hot", ratio=3, efficiency=0.75),
        Step(name="Cooler", step="cooler", takes="hot", gives="cooled", temperature="40 degC", pressure_drop="0.3 bar"),
        Step(name="Drum", step="separator", takes="cooled", gives={"vapour": "gas", "liquid": "liquid"}),
    )
    return ProcessStudy(name=f"Steps of {fluid}", kind="process", feeds={"feed": feed}, steps=steps)


def says(asked: AskedChain, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: power, the highest pressure, the coldest stream and what drops out."""
    streams, steps = answer["streams"], answer["steps"]
    parts = []
    power = _machines(answer)
    if any("shaft_power_W" in s for s in steps.values()):
        highest = max(s["pressure_Pa"] for s in streams.values())
        told = units.text(measure(abs(power), "power"))
        parts.append(f"{told} {'won' if power < 0 else 'at the shafts, up to ' + units.text(pascal(highest))}")
    name, cold = _coldest(answer)
    parts.append(f"coldest {units.text(kelvin(cold['temperature_K']))} in {name}")
    # The answer may be of the chain as it was: what it has no stream for is not there yet.
    drawn = [
        g
        for s in asked.steps
        if s.kind == "separator"
        for g, held in zip(s.gives, s.outlets)
        if held == "liquid" and g in streams
    ]
    liquid = sum(streams[g]["standard_liquid_m3_s"] for g in drawn)
    if drawn:
        parts.append(
            f"{units.text(measure(liquid, 'volume_rate'))} of liquid drops out"
            if liquid > 0.0
            else "no liquid drops out"
        )
    text = "; ".join(parts)
    return f"{text[:1].upper()}{text[1:]}."


CONDITION = "temperature|pressure|vapour_fraction|vapour_volume_fraction|enthalpy|entropy|density|internal_energy"
_AT = "{" + "|".join(f".{k}" for k in CONDITION.split("|")) + "}"

register(
    StudyKind(
        name="process", title="Chain of steps", meaning="what becomes of streams on their way through a plant's steps", model=ProcessStudy,
        answer=ProcessAnswer, read=read, solve=solve, line=line, begin=begin, gives=STREAMS, narrowed=narrowed, order=60,
        sentence=f"What becomes of <feeds| and |{{.fluid}} at {_AT} and {_AT}, {{.rate}}> on its way through {{steps#steps}}?",
        phrases=("chain", "chain of steps", "process", "on its way"),
        says=says, many=solve_many, sooner=without_margins,
    )
)  # fmt: skip
