"""The study ``line_profile``: how a stream arrives through a pipe of legs, in steady flow, with the margins to every
limit on the way."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal, NotRequired

import numpy as np
from numpy.typing import NDArray
from pydantic import Field
from typing_extensions import TypedDict

from ...document import Document, Fluid, Reader, Study
from ...document.field_types import (
    Diameter,
    Elevation,
    FluidRef,
    HeatTransfer,
    Length,
    OneOf,
    Pressure,
    Rate,
    Shares,
    Suggested,
    Temperature,
)
from ...document.kinds import StudyKind, register
from ...document.part import Part
from ...document.rates import read_rate
from ...document.reader import EMPTY
from ...errors import DomainError
from ...fluids.standard import STANDARD_GAS
from ...process import Medium
from ...process.line_profile import Leg, PressureLostError, Profile, march
from ...process.pipe_sizes import SCHEDULES, pipe_sizes, size_named
from ...process.two_phase import HOMOGENEOUS, LEAST_LIQUID, METHODS, REGIMES, SINGLE
from ...remarks import Measure, Remark, Value, kelvin, measure, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...results.hydrates import Dose, read_doses
from ...results.paths import LIMITS, margins_at
from ...telling.sentences import Units
from .line_size import read_rough
from .path import LeastAnswer, MarginsAnswer

Array = NDArray[np.float64]

MOST_LEGS = 60
INLET = "Inlet"
NEAR = 1000.0
"""m, below which a distance is told in metres or feet."""


class PipeLeg(Part):
    """A straight piece of pipe: its name, that of its end, its length along the pipe, the rise of its end above its
    beginning, the temperature around it, and the overall heat transfer on its inside."""

    name: str = ""
    length: Length = None
    rise: Elevation = 0
    ambient: Temperature = None
    overall_heat_transfer: HeatTransfer = None


class LineEnd(Part):
    """The state at an end of a line."""

    temperature: Temperature = None
    pressure: Pressure = None


class LineProfileStudy(Study):
    """Asks for pressure, temperature, holdup and margins along ``legs``, from the ``inlet`` on, or back from the
    pressure of the ``outlet``."""

    kind: Literal["line_profile"]
    fluid: FluidRef
    rate: Rate = None
    rate_by: Annotated[str, Suggested(("actual", "standard liquid", "standard gas"))] = "actual"
    inlet: LineEnd = LineEnd()
    outlet: LineEnd = LineEnd()
    inside_diameter: Diameter = None
    nominal: str = ""
    schedule: Annotated[str, OneOf(SCHEDULES)] = "40"
    roughness: Diameter = "0.0018 in"
    method: Annotated[str, OneOf(METHODS)] = "beggs-brill"
    legs: tuple[PipeLeg, ...] = ()
    inhibitors: Shares = Field(default_factory=dict)


class PointAnswer(TypedDict):
    """A point of the line; holdup is null where it is withheld or one phase flows."""

    distance_m: float
    elevation_m: float
    temperature_K: float
    pressure_Pa: float
    velocity_m_s: float
    holdup: float | None
    regime: str
    vapour_fraction: float
    margins: MarginsAnswer


class LineStationAnswer(TypedDict):
    """An end of a leg, as the station of an operating path, with its margins."""

    name: str
    distance_m: float
    temperature_K: float
    pressure_Pa: float
    margins: MarginsAnswer


class PassedAnswer(TypedDict):
    """Where the line enters a limit: so far along it, and so far before the station that follows."""

    limit: str
    distance_m: float
    before_m: float
    station: str


class LineProfileAnswer(Common):
    """Points from the inlet on, the ends of the legs as stations, the least margin to every limit, the worst first, and
    where limits are entered."""

    points: NotRequired[list[PointAnswer]]
    stations: NotRequired[list[LineStationAnswer]]
    least: NotRequired[list[LeastAnswer]]
    enters: NotRequired[list[PassedAnswer]]
    inside_diameter_m: NotRequired[float]
    heat_lost_W: NotRequired[float]


@dataclass(frozen=True)
class Asked:
    """What flows through which pipe, in SI; one of the pressures is None."""

    fluid: str
    rate: tuple[str, float]
    T: float
    inlet_P: float | None
    outlet_P: float | None
    diameter: float
    roughness: float
    method: str
    legs: tuple[Leg, ...]
    dose: Dose


def read(study: LineProfileStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    if study.rate in EMPTY:
        reader.at("rate").fault("a line needs its rate, for example 12 kg/s, 12 MMscf/day or 850 bbl/day")
    rate = read_rate(study.rate, study.rate_by, reader)
    here = reader.at("inlet", "temperature")
    T = here.physical(here.quantity(study.inlet.temperature, "temperature"), 150.0, 700.0, "a temperature", "K")
    pressures: dict[str, float | None] = {}
    for side, end in (("inlet", study.inlet), ("outlet", study.outlet)):
        at = reader.at(side, "pressure")
        cell = end.pressure
        pressures[side] = None if cell in EMPTY else at.physical(at.pressure(cell), 1e4, 1e8, "a pressure", "bar", 1e-5)
    if (study.inlet.pressure in EMPTY) == (study.outlet.pressure in EMPTY):
        reader.at("inlet", "pressure").fault(
            "give the pressure of the inlet or of the outlet, not "
            + ("both" if study.inlet.pressure not in EMPTY else "neither")
        )
    if study.outlet.temperature not in EMPTY:
        reader.at("outlet", "temperature").fault(
            "the temperature of the outlet is what follows; give that of the inlet"
        )
    diameter = _diameter(study, reader)
    rough = read_rough(study.roughness, reader.at("roughness"))
    reader.at("method").known(study.method, METHODS, "method")
    legs = _legs(study, reader.at("legs"))
    dose = read_doses(study.inhibitors, reader.at("inhibitors"))
    if reader.bad or rate is None or T is None or diameter is None or rough is None:
        return None
    return Asked(
        study.fluid, rate, T, pressures["inlet"], pressures["outlet"], diameter, rough, study.method, legs, dose
    )


def _diameter(study: LineProfileStudy, reader: Reader) -> float | None:
    if study.inside_diameter not in EMPTY and study.nominal:
        reader.at("nominal").fault("give an inside diameter or a nominal size; both are given")
        return None
    if study.inside_diameter not in EMPTY:
        here = reader.at("inside_diameter")
        return here.physical(here.quantity(study.inside_diameter, "diameter"), 1e-3, 5.0, "an inside diameter", "m")
    if not study.nominal:
        reader.at("inside_diameter").fault("a pipe needs its inside diameter, or a nominal size and a schedule")
        return None
    size = size_named(study.nominal)
    if size is None:
        reader.at("nominal").known(study.nominal, [s.nominal for s in pipe_sizes()], "nominal size")
        return None
    if not reader.at("schedule").known(study.schedule, SCHEDULES, "schedule"):
        return None
    inside = size.inside(study.schedule)
    if inside is None:
        reader.at("schedule").fault(
            f"there is no {size.nominal} in pipe of schedule {study.schedule}; there is {', '.join(size.walls)}"
        )
    return inside


def _legs(study: LineProfileStudy, here: Reader) -> tuple[Leg, ...]:
    if not study.legs:
        here.fault("a line has no leg yet; give each a length, a rise, the temperature around it and a heat transfer")
    if len(study.legs) > MOST_LEGS:
        here.fault(f"{len(study.legs)} legs are too many; give at most {MOST_LEGS}")
    out = []
    for i, leg in enumerate(study.legs):
        own = here.at(i)
        length = own.at("length").quantity(leg.length, "length")
        rise = own.at("rise").given(leg.rise, "elevation") or 0.0
        ambient = own.at("ambient").quantity(leg.ambient, "temperature")
        ambient = own.at("ambient").physical(ambient, 150.0, 400.0, "a temperature around a pipe", "K")
        heat = own.at("overall_heat_transfer").quantity(leg.overall_heat_transfer, "heat_transfer")
        if length is not None and length <= 0.0:
            own.at("length").fault("a length is above zero")
        elif length is not None and abs(rise) > length:
            own.at("rise").fault(f"a leg of {length:g} m cannot rise or fall by {abs(rise):g} m")
        if heat is not None and heat < 0.0:
            own.at("overall_heat_transfer").fault("a heat transfer is not below zero")
        if None not in (length, ambient, heat):
            out.append(Leg(leg.name or f"end of leg {i + 1}", length, rise, ambient, heat))  # type: ignore[arg-type]
    return tuple(out)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the line."""
    fluid = context.fluid(asked.fluid)
    model = context.project.fluid(fluid)
    medium = Medium(model.eos, model.substance, model.water)
    remarks: list[Remark] = [*model.remarks, Remark("estimate", "line.steady")]
    flow = _moles(asked, medium, model.z)
    watch = context.watch
    try:
        found = march(
            medium, model.z, flow, asked.legs, asked.diameter, asked.roughness, asked.method, asked.T, asked.inlet_P, asked.outlet_P,
            watch.part(0.0, 0.6),
        )  # fmt: skip
    except PressureLostError as lost:
        values: dict[str, Value] = {"at": far(lost.distance), "leg": _leg_at(asked, lost.distance)}
        raise NoAnswerError(
            Remark("warning", "line.choked" if lost.chokes else "line.no_pressure", "", values)
        ) from None
    except NoAnswerError:
        raise
    except DomainError as error:
        raise NoAnswerError(Remark("warning", "line.not_found", "", {"why": str(error)})) from None
    return {**_told(asked, fluid, found, context, remarks), "notes": remarks}


def _moles(asked: Asked, medium: Medium, z: Array) -> float:
    """Return the rate mol/s; one by actual volume is that at the inlet, whose pressure must then be given."""
    measure_, value = asked.rate
    if measure_ == "actual":
        if asked.inlet_P is None:
            raise NoAnswerError(Remark("warning", "line.actual_rate"))
        stream = medium.at(np.array([asked.T]), np.array([asked.inlet_P]), z[None], np.ones(1))
        return float(value / stream.v[0])
    per_mole = {
        "mole": 1.0,
        "mass": float(medium.mass(z)),
        "gas": STANDARD_GAS,
        "liquid": float(z @ medium.substance.liquid_volume),
    }
    return float(value / per_mole[measure_])


def _leg_at(asked: Asked, distance: float) -> str:
    end = 0.0
    for leg in asked.legs:
        end += leg.length
        if distance <= end * (1.0 + 1e-12):
            return leg.name
    return asked.legs[-1].name


def _number(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _told(asked: Asked, fluid: Fluid, found: Profile, context: Context, remarks: list[Remark]) -> Answer:
    T, P = found.stream.T, found.stream.P
    margins, told = margins_at(
        context.project, fluid, T, P, asked.dose, context.watch.part(0.6, 1.0), (float(P.min()), float(P.max()))
    )
    remarks += list(told)
    g = found.gradient
    vapour = found.stream.phases.vapour_fraction
    points = [
        {
            "distance_m": float(found.distance[i]), "elevation_m": float(found.elevation[i]), "temperature_K": float(T[i]),
            "pressure_Pa": float(P[i]), "velocity_m_s": float(found.velocity[i]),
            "holdup": None if g.regime[i] == SINGLE else _number(g.holdup[i]), "regime": REGIMES[int(g.regime[i])],
            "vapour_fraction": float(vapour[i]),
            "margins": {
                "hydrate_margin_K": _number(margins["hydrate"][i]), "ice_margin_K": _number(margins["ice"][i]),
                "frost_margin_K": _number(margins["frost"][i]), "dew_margin_K": _number(margins["dew"][i]),
                "water_margin_K": _number(margins["water"][i]),
                "bubble_margin_Pa": _number(margins["bubble"][i]),
            },
        }
        for i in range(T.size)
    ]  # fmt: skip
    ends = np.cumsum([0.0, *(leg.length for leg in asked.legs)])
    names = [INLET, *(leg.name for leg in asked.legs)]
    at = [int(np.argmin(np.abs(found.distance - e))) for e in ends]
    stations = [
        {
            "name": n, "distance_m": float(found.distance[i]), "temperature_K": float(T[i]), "pressure_Pa": float(P[i]),
            "margins": points[i]["margins"],
        }
        for n, i in zip(names, at)
    ]  # fmt: skip
    enters = _enters(found, margins, ends, names)
    remarks += _remarks(asked, found, enters)
    return {
        "points": points, "stations": stations, "least": _least(found, margins, ends, names), "enters": enters,
        "inside_diameter_m": asked.diameter, "heat_lost_W": found.heat,
    }  # fmt: skip


def _enters(found: Profile, margins: dict[str, Array], ends: Array, names: list[str]) -> list[PassedAnswer]:
    """Return where a margin to a hazard falls through zero on the way."""
    out: list[PassedAnswer] = []
    x = found.distance
    for limit in LIMITS:
        m = margins[limit.key]
        if not limit.hazard:
            continue
        for k in np.flatnonzero((m[:-1] >= 0.0) & (m[1:] < 0.0)).tolist():
            there = float(x[k] + (x[k + 1] - x[k]) * m[k] / (m[k] - m[k + 1]))
            station = int(np.searchsorted(ends, there, side="left"))
            out.append(
                {
                    "limit": limit.key,
                    "distance_m": there,
                    "before_m": float(ends[station] - there),
                    "station": names[station],
                }
            )
    return out


def _least(found: Profile, margins: dict[str, Array], ends: Array, names: list[str]) -> list[LeastAnswer]:
    """Return the least margin to every limit, hazards before the others, the worst first."""
    there = [(m, int(np.nanargmin(margins[m.key]))) for m in LIMITS if np.isfinite(margins[m.key]).any()]
    there.sort(key=lambda f: (not f[0].hazard, margins[f[0].key][f[1]] / f[0].scale))
    out: list[LeastAnswer] = []
    for limit, place in there:
        x = float(found.distance[place])
        leg = int(np.clip(np.searchsorted(ends, x, side="right") - 1, 0, len(names) - 2))
        one: LeastAnswer = {
            "limit": limit.key, "from_station": names[leg], "to_station": names[leg + 1],
            "share": float((x - ends[leg]) / (ends[leg + 1] - ends[leg])), "temperature_K": float(found.stream.T[place]),
            "pressure_Pa": float(found.stream.P[place]),
        }  # fmt: skip
        one["margin_K" if limit.measure == "temperature" else "margin_Pa"] = float(margins[limit.key][place])
        out.append(one)
    return out


def _remarks(asked: Asked, found: Profile, enters: list[PassedAnswer]) -> list[Remark]:
    out = []
    both = found.gradient.regime != SINGLE
    withheld = both & ~np.isfinite(found.gradient.holdup)
    if withheld.any():
        pipe = found.content
        share = pipe.liquid_volume / (pipe.liquid_volume + pipe.gas_volume)
        values: dict[str, Value] = {"share": 100.0 * float(share[withheld].max()), "least": 100.0 * LEAST_LIQUID}
        out.append(Remark("extrapolation", "line.little_liquid", "", values))
    if found.content.two_liquids.any():
        out.append(Remark("estimate", "line.two_liquids"))
    if both.any() and asked.method == "beggs-brill" and (found.gradient.regime[both] != HOMOGENEOUS).any():
        out.append(Remark("estimate", "line.beggs_brill"))
    titles = {m.key: m.title for m in LIMITS}
    for one in enters:
        values = {
            "limit": titles[one["limit"]],
            "before": far(one["before_m"]),
            "station": one["station"],
        }
        out.append(Remark("warning", "line.enters", "", values))
    return out


def far(distance: float) -> Measure:
    """Return a distance along a line as it is told: short ones in the unit of elevations."""
    return measure(distance, "length") if distance >= NEAR else measure(distance, "elevation", 0)


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    end = answer["points"][-1]
    told = f"{units.text(kelvin(end['temperature_K'], 0))}, {units.text(pascal(end['pressure_Pa']))}"
    worst = next((m for m in answer["least"] if m["limit"] == "hydrate"), None)
    if worst is not None and worst["margin_K"] < 0.0:
        return f"{told}; {units.text(measure(-worst['margin_K'], 'temperature_difference', 1))} inside hydrate"
    return told


def begin(fluid: str, at: tuple[float, float] | None) -> LineProfileStudy:
    """Return a new question about a fluid."""
    T, P = at or (323.15, 120e5)
    legs = (
        PipeLeg(name="Riser base", length="8 km", rise="0 m", ambient="5 degC", overall_heat_transfer="5 W/m**2/K"),
        PipeLeg(name="Arrival", length="200 m", rise="150 m", ambient="8 degC", overall_heat_transfer="10 W/m**2/K"),
    )
    inlet = LineEnd(temperature=f"{max(T, 300.0) - 273.15:.4g} degC", pressure=f"{P / 1e5:.4g} bar")
    return LineProfileStudy(
        name=f"Profile of {fluid}",
        kind="line_profile",
        fluid=fluid,
        rate="12 kg/s",
        inlet=inlet,
        nominal="8",
        legs=legs,
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: how it arrives, and where it enters a limit."""
    first, last = answer["points"][0], answer["points"][-1]
    told = f"{units.text(kelvin(last['temperature_K']))}, {units.text(pascal(last['pressure_Pa']))}"
    if asked.inlet_P is None:
        told = f"{units.text(pascal(first['pressure_Pa']))} at the inlet; arrives at {told}"
    titles = {m.key: m.title for m in LIMITS}
    if answer["enters"]:
        one: Any = answer["enters"][0]
        return f"{told}; {units.text(far(one['before_m']))} before {one['station']} it enters {titles[one['limit']]}."
    worst = next((m for m in answer["least"] if "margin_K" in m), None)
    if worst is None:
        return f"{told}."
    amount = units.text(measure(abs(worst["margin_K"]), "temperature_difference", 1))
    return f"{told}; {amount} {'to spare to' if worst['margin_K'] >= 0 else 'inside'} the {titles[worst['limit']]} limit at the least."


register(
    StudyKind(
        name="line_profile", title="Line profile", meaning="how a stream arrives through a pipe, with the margins on the way",
        model=LineProfileStudy, answer=LineProfileAnswer, read=read, solve=solve, line=line, begin=begin, order=43,
        sentence=(
            "How does {rate} of {fluid} arrive, leaving at {inlet.temperature}[, {inlet.pressure}][, to end at {outlet.pressure}], through {legs#legs} "
            "of[ {nominal} in pipe, schedule {schedule}][ inside diameter {inside_diameter}][, dosed with <inhibitors| and |{.value} {.key}>][?, of roughness {roughness}, by {method}, its rate {rate_by}]?"
        ),
        phrases=("line profile", "profile", "pipeline", "flowline"),
        says=says,
    )
)  # fmt: skip
