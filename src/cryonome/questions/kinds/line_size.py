"""The study ``line_size``: which nominal pipe carries a stream within limits of gradient, velocity, erosion and momentum."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader
from ...document.conditions import CHOICE, CONDITIONS, Conditioned, Given, read_condition, read_conditions
from ...document.field_types import (
    Diameter,
    FluidRef,
    Gradient,
    Length,
    Momentum,
    OneOf,
    Plain,
    Rate,
    Suggested,
    Velocity,
)
from ...document.kinds import StudyKind, register
from ...document.part import Part
from ...document.rates import read_rate
from ...document.reader import EMPTY
from ...fluids.standard import rates
from ...process import Medium
from ...process.pipe_flow import Sized, content, is_two_phase, passes, sized
from ...process.pipe_sizes import SCHEDULES, pipe_sizes
from ...process.two_phase import LEAST_LIQUID, METHODS, REGIMES
from ...remarks import Remark, measure
from ...results.common import Common
from ...results.context import Answer, Context
from ...results.pair_states import state_at
from ...telling.sentences import Units

TENTH = 0.1
"""Share of the pressure from which on the state changes too much along a line to be sized by its inlet."""


class Limits(Part):
    """What a pipe must stay below: a ``gradient``, a ``velocity``, the erosional velocity of a constant C in ft/s and
    lb/ft3, and ``momentum``, density times velocity squared."""

    gradient: Gradient = None
    velocity: Velocity = None
    erosional_constant: Plain = 100
    momentum: Momentum = None


class LineSizeStudy(Conditioned):
    """Asks which pipes of a ``schedule`` carry a stream at two conditions and a ``rate`` within ``limits``."""

    kind: Literal["line_size"]
    fluid: FluidRef
    rate: Rate = None
    rate_by: Annotated[str, Suggested(("actual", "standard liquid", "standard gas"))] = "actual"
    schedule: Annotated[str, OneOf(SCHEDULES)] = "40"
    limits: Limits = Limits()
    roughness: Diameter = "0.0018 in"
    inclination: Plain = 0
    length: Length = None
    method: Annotated[str, OneOf(METHODS)] = "beggs-brill"


class SizeAnswer(TypedDict):
    """A pipe: what flows in it, whether it passes, and the limits that it fails; null where it chokes."""

    nominal: str
    inside_diameter_m: float
    velocity_m_s: float
    gradient_Pa_m: float | None
    friction_gradient_Pa_m: float | None
    erosional_velocity_m_s: float
    momentum_Pa: float
    reynolds: float
    friction_factor: float | None
    holdup: float | None
    regime: str | None
    drop_Pa: NotRequired[float | None]
    chokes: bool
    passes: bool
    fails: list[str]


class InletAnswer(TypedDict):
    """The state the line is sized at."""

    temperature_K: float
    pressure_Pa: float


class LineSizeAnswer(Common):
    """The pipes, the smallest first; the ``least`` that passes, and which limit the next smaller one fails farthest."""

    sizes: NotRequired[list[SizeAnswer]]
    least: NotRequired[str | None]
    governing: NotRequired[str | None]
    limits: NotRequired[dict[str, float]]
    mass_kg_s: NotRequired[float]
    phases: NotRequired[list[str]]
    inlet: NotRequired[InletAnswer]


@dataclass(frozen=True)
class Asked:
    """What flows, and the pipe: limits by name in SI with the erosional constant, roughness and length m, the sine of
    the inclination."""

    fluid: str
    given: Mapping[str, Given]
    rate: tuple[str, float]
    schedule: str
    limits: tuple[tuple[str, float], ...]
    constant: float
    roughness: float
    sine: float
    length: float | None
    method: str


def read_rough(cell: Any, here: Reader) -> float | None:
    """Return a roughness m."""
    return here.physical(here.quantity(cell, "diameter"), 0.0, 0.01, "a roughness", "mm", 1e3)


def read(study: LineSizeStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    read_conditions(study, reader, CONDITIONS, 2, CHOICE)
    values = {k: read_condition(k, getattr(study, k), reader.at(k)) for k in CONDITIONS}
    if study.rate in EMPTY:
        reader.at("rate").fault("a line is sized for a rate, for example 12 kg/s, 12 MMscf/day or 850 bbl/day")
    rate = read_rate(study.rate, study.rate_by, reader)
    reader.at("schedule").known(study.schedule, SCHEDULES, "schedule")
    reader.at("method").known(study.method, METHODS, "method")
    limits: list[tuple[str, float]] = []
    for key, kind in (("gradient", "pressure_gradient"), ("velocity", "velocity"), ("momentum", "momentum")):
        here = reader.at("limits", key)
        value = here.given(getattr(study.limits, key), kind)
        if value is not None and value <= 0.0:
            here.fault(f"a limit of {key} is above zero")
        elif value is not None:
            limits.append((key, value))
    constant = reader.at("limits", "erosional_constant").between(
        study.limits.erosional_constant, 1.0, 1000.0, "an erosional constant, C in ft/s and lb/ft3,"
    )
    rough = read_rough(study.roughness, reader.at("roughness"))
    angle = reader.at("inclination").between(study.inclination, -90.0, 90.0, "an inclination in degrees")
    length = reader.at("length").given(study.length, "length")
    if length is not None and length <= 0.0:
        reader.at("length").fault("a length is above zero")
    if reader.bad or rate is None or constant is None or rough is None or angle is None:
        return None
    given = {k: v for k, v in values.items() if v is not None}
    return Asked(
        study.fluid,
        given,
        rate,
        study.schedule,
        tuple(limits),
        constant,
        rough,
        float(np.sin(np.radians(angle))),
        length,
        study.method,
    )


def solve(asked: Asked, context: Context) -> Answer:
    """Return every size of the schedule."""
    fluid = context.fluid(asked.fluid)
    model = context.project.fluid(fluid)
    remarks: list[Remark] = list(model.remarks)
    phases = state_at(fluid, asked.given, context, remarks)
    medium = Medium(model.eos, model.substance, model.water)
    stream = medium.of_phases(phases)
    held = content(medium, stream.phases)
    flow = rates(model, model.z, float(stream.v[0]), asked.rate[1], asked.rate[0])
    pipes = [(s.nominal, d) for s in pipe_sizes() if (d := s.inside(asked.schedule)) is not None]
    found = sized(
        held, flow.mole, np.array([d for _, d in pipes]), asked.roughness, asked.sine, asked.method, asked.constant
    )
    use = passes(found, dict(asked.limits))
    P = float(phases.P[0])
    rows = [_size(name, found, use, i, asked) for i, (name, _) in enumerate(pipes)]
    least = next((i for i, r in enumerate(rows) if r["passes"]), None)
    remarks += _remarks(asked, held, found, rows, least, P)
    answer: Answer = {
        "sizes": rows,
        "least": None if least is None else rows[least]["nominal"],
        "governing": _governing(use, least),
        "limits": {_ENDED[k]: v for k, v in asked.limits},
        "mass_kg_s": flow.mass,
        "phases": [k for k, v in (("vapour", held.gas_volume[0]), ("liquid", held.liquid_volume[0])) if v > 0.0],
        "inlet": {"temperature_K": float(phases.T[0]), "pressure_Pa": P},
    }
    return {**answer, "notes": remarks}


_ENDED = {"gradient": "gradient_Pa_m", "velocity": "velocity_m_s", "momentum": "momentum_Pa"}


def _number(value: float, choked: bool = False) -> float | None:
    return float(value) if np.isfinite(value) and not choked else None


def _size(name: str, found: Sized, use: Mapping[str, Any], i: int, asked: Asked) -> Answer:
    g, choked = found.gradient, bool(found.chokes[i])
    both = bool(is_two_phase(g)[i])
    scale = 1.0 / (1.0 - g.kinetic[i]) if g.kinetic[i] < 1.0 else np.nan
    fails = sorted((k for k, v in use.items() if v[i] > 1.0 + 1e-12), key=lambda k: -float(use[k][i]))
    out: Answer = {
        "nominal": name, "inside_diameter_m": float(found.diameter[i]), "velocity_m_s": float(found.velocity[i]),
        "gradient_Pa_m": _number(g.total[i], choked), "friction_gradient_Pa_m": _number(g.friction[i] * scale, choked),
        "erosional_velocity_m_s": float(found.erosional[i]), "momentum_Pa": float(found.momentum[i]),
        "reynolds": float(found.reynolds[i]), "friction_factor": _number(g.factor[i], choked),
        "holdup": _number(g.holdup[i], choked) if both else None, "regime": None if choked else REGIMES[int(g.regime[i])],
        "chokes": choked, "passes": not fails, "fails": ["chokes"] if choked else fails,
    }  # fmt: skip
    if asked.length is not None:
        drop = g.total[i] * asked.length
        out["drop_Pa"] = _number(drop, choked)
    return out


def _governing(use: Mapping[str, Any], least: int | None) -> str | None:
    """Return the limit that the size below the least fails farthest; of none that passes that of the largest."""
    count = len(next(iter(use.values())))
    below = count - 1 if least is None else least - 1
    if below < 0:
        return None
    worst = max(use, key=lambda k: float(np.nan_to_num(use[k][below], posinf=1e300)))
    choked = not np.isfinite(use[worst][below])
    return "choking" if choked else worst


def _remarks(asked: Asked, held: Any, found: Sized, rows: list[Answer], least: int | None, P: float) -> list[Remark]:
    out = []
    both = held.gas_volume[0] > 0.0 and held.liquid_volume[0] > 0.0
    if both:
        share = float(held.liquid_volume[0] / (held.liquid_volume[0] + held.gas_volume[0]))
        out.append(Remark("warning", "line.two_phases", values={"share": 100.0 * share, "method": asked.method}))
        if asked.method == "beggs-brill" and share < LEAST_LIQUID:
            out.append(
                Remark(
                    "extrapolation",
                    "line.little_liquid",
                    values={"share": 100.0 * share, "least": 100.0 * LEAST_LIQUID},
                )
            )
        if held.two_liquids[0]:
            out.append(Remark("estimate", "line.two_liquids"))
    choked = [r["nominal"] for r in rows if r["chokes"]]
    if choked:
        out.append(Remark("warning", "line.chokes", values={"size": choked[-1]}))
    fast = [r["nominal"] for r in rows if not r["chokes"] and "erosional velocity" in r["fails"]]
    if fast:
        out.append(Remark("warning", "line.erosional", values={"size": fast[-1], "constant": asked.constant}))
    if least is not None and asked.length is not None:
        drop = rows[least]["drop_Pa"]
        if drop is not None and abs(drop) > TENTH * P:
            values = {
                "size": rows[least]["nominal"],
                "drop": measure(drop, "pressure_difference"),
                "share": 100.0 * abs(drop) / P,
            }
            out.append(Remark("warning", "line.long", values=values))
    return out


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    if answer["least"] is None:
        return "no size passes"
    return f"{answer['least']} in, {answer['governing']} governs" if answer["governing"] else f"{answer['least']} in"


def begin(fluid: str, at: tuple[float, float] | None) -> LineSizeStudy:
    """Return a new question about a fluid."""
    T, P = at or (303.15, 40e5)
    return LineSizeStudy(
        name=f"Line size of {fluid}", kind="line_size", fluid=fluid, temperature=f"{T - 273.15:.4g} degC", pressure=f"{P / 1e5:.4g} bar",
        rate="12 kg/s", limits=Limits(gradient="1.1 kPa/m", velocity="20 m/s"),
    )  # fmt: skip


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the least size, what governs, and what it comes to there."""
    rows = answer["sizes"]
    if answer["least"] is None:
        return f"No size of schedule {asked.schedule} passes; in the largest {answer['governing']} fails still."
    i = next(i for i, r in enumerate(rows) if r["nominal"] == answer["least"])
    row = rows[i]
    fall = (
        "" if row["gradient_Pa_m"] is None else f" and {units.text(measure(row['gradient_Pa_m'], 'pressure_gradient'))}"
    )
    told = f"{answer['least']} in: {units.text(measure(row['velocity_m_s'], 'velocity'))}{fall}"
    if i == 0:
        return f"{told}; the smallest there is."
    smaller = rows[i - 1]["nominal"]
    why = "chokes" if answer["governing"] == "choking" else f"fails by the {answer['governing']}"
    return f"{told}; {smaller} in {why}."


_AT = "{temperature|pressure|vapour_fraction|vapour_volume_fraction|enthalpy|entropy|density|internal_energy}"

register(
    StudyKind(
        name="line_size", title="Line size", meaning="which nominal pipe carries a stream within limits", model=LineSizeStudy,
        answer=LineSizeAnswer, read=read, solve=solve, line=line, begin=begin, order=62,
        sentence=(
            f"Which pipe of schedule {{schedule}} carries {{rate}} of {{fluid}} at {_AT} and {_AT} below {{limits.gradient}}[, {{limits.velocity}}][, {{limits.momentum}}] "
            "and C {limits.erosional_constant}[, over {length}][, rising at {inclination} degrees][?, of roughness {roughness}, by {method}, its rate {rate_by}]?"
        ),
        phrases=("line size", "pipe size", "which pipe", "pipe"),
        clues={"limits.gradient": ("below", "gradient"), "limits.velocity": ("velocity",), "length": ("over", "long"), "rate": ("carries", "rate", "flow", "flowing")},
        says=says,
    )
)  # fmt: skip
