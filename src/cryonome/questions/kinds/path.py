"""The study ``path``: the stations of a line, with the state at each and the margins to every limit."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal, NotRequired

import numpy as np
from pydantic import Field
from typing_extensions import TypedDict

from ...document import Document, Fluid, Reader, Study
from ...document.field_types import STUDIES, FluidRef, Names, Pressure, Shares, Temperature
from ...document.kinds import StudyKind, register
from ...document.part import Part
from ...document.references import about
from ...equilibrium.phases import Kind
from ...errors import DomainError
from ...remarks import Remark, measure, pascal
from ...results.common import Common
from ...results.context import Answer, Context
from ...results.hydrates import Dose, read_doses, told
from ...results.paths import LIMITS, Limit, Margins, PathStates, along, follow, margins_at
from ...solids.potentials import HIGHEST
from ...telling.sentences import Units

MOST = 60
"""Stations of a path."""
MOST_TEMPERATURE = 1500.0


class Station(Part):
    """A named place of a path with its temperature and pressure."""

    name: str
    temperature: Temperature = None
    pressure: Pressure = None


class PathStudy(Study):
    """Asks for the state at each of the ``stations`` of a line, and how far it is from every limit there and on the
    way; ``inhibitors`` by mass of the aqueous liquid. Its stations may be those of a profile (``from_profile``)."""

    kind: Literal["path"]
    fluid: FluidRef
    stations: tuple[Station, ...] = ()
    inhibitors: Shares = Field(default_factory=dict)
    from_profile: Annotated[str, Names(STUDIES, needed=False)] = ""


class MarginsAnswer(TypedDict):
    """Margins at a place, null where the limit does not exist: kelvin above the temperatures of hydrate, ice, solid
    carbon dioxide, and dew of hydrocarbons and of water at its pressure, Pa above the bubble pressure at its temperature. Negative where the limit
    is passed."""

    hydrate_margin_K: float | None
    ice_margin_K: float | None
    frost_margin_K: float | None
    dew_margin_K: float | None
    water_margin_K: float | None
    bubble_margin_Pa: float | None


class StationAnswer(TypedDict):
    """A station: its phases, the liquid share by volume, and its margins."""

    name: str
    temperature_K: float
    pressure_Pa: float
    phases: list[str]
    vapour_fraction: float | None
    liquid_volume_fraction: float | None
    density_kg_m3: float | None
    margins: MarginsAnswer


class LeastAnswer(TypedDict):
    """Where a margin is least along the path: on the leg from one station to another, at a share of it."""

    limit: str
    from_station: str
    to_station: str
    share: float
    temperature_K: float
    pressure_Pa: float
    margin_K: NotRequired[float]
    margin_Pa: NotRequired[float]


class PathAnswer(Common):
    """The stations in their order, and the least margin to every limit, the worst first."""

    stations: NotRequired[list[StationAnswer]]
    least: NotRequired[list[LeastAnswer]]


@dataclass(frozen=True)
class Asked:
    """Names, temperatures K and pressures Pa of the stations, and the dose; nothing of the stations where they are
    those of a ``profile``."""

    fluid: str
    names: tuple[str, ...]
    T: tuple[float, ...]
    P: tuple[float, ...]
    dose: Dose
    profile: str = ""
    hazards: bool = False
    """Whether nothing but the margins to hazards is wanted."""


BRIEF = re.compile(r"(least\.(hydrate|ice|frost)\.margin_K|stations\[\*\]\.margins\.(hydrate|ice|frost)_margin_K)")


def narrowed(asked: Asked, paths: Sequence[str]) -> Asked:
    """Return what is asked where only these paths of the answer are read."""
    return replace(asked, hazards=bool(paths) and all(BRIEF.fullmatch(path) for path in paths))


def read(study: PathStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    here = reader.at("stations")
    if study.from_profile:
        return _of_profile(study, document, reader)
    if not study.stations:
        here.fault("a path has no station yet; give each a name, a temperature and a pressure")
    if len(study.stations) > MOST:
        here.fault(f"{len(study.stations)} stations are too many; give at most {MOST}")
    T, P = [], []
    for i, station in enumerate(study.stations):
        own = here.at(i)
        if station.name in [s.name for s in study.stations[:i]]:
            own.at("name").fault(f"there are two stations named '{station.name}'; give each its own name")
        t = own.at("temperature").quantity(station.temperature, "temperature")
        t = own.at("temperature").physical(t, 50.0, MOST_TEMPERATURE, "a temperature", "K")
        p = own.at("pressure").pressure(station.pressure)
        p = own.at("pressure").physical(p, 1.0, 5.0 * HIGHEST, "a pressure", "bar", 1e-5)
        if t is not None and p is not None:
            T.append(t)
            P.append(p)
    dose = read_doses(study.inhibitors, reader.at("inhibitors"))
    if reader.bad:
        return None
    return Asked(study.fluid, tuple(s.name for s in study.stations), tuple(T), tuple(P), dose)


def _of_profile(study: PathStudy, document: Document, reader: Reader) -> Asked | None:
    """Return a path along the stations of a profile."""
    here = reader.at("from_profile")
    if study.stations:
        here.fault("the stations are typed and those of a profile are asked for; leave one of them out")
    profiles = [s.name for s in document.studies if s.kind == "line_profile"]
    if here.known(study.from_profile, profiles, "line profile"):
        other = document.study(study.from_profile)
        if other is not None and about(other) != study.fluid:
            here.fault(f"'{other.name}' is the profile of {about(other)}, and this is the path of {study.fluid}")
    dose = read_doses(study.inhibitors, reader.at("inhibitors"))
    return None if reader.bad else Asked(study.fluid, (), (), (), dose, study.from_profile)


def _with_stations(asked: Asked, context: Context) -> Asked:
    """Return a path with the stations of its profile. Raises DomainError where that has no answer."""
    profile = context.project.document.study(asked.profile)
    answer = context.project.answer(profile) if profile is not None else {}
    if not answer.get("ok"):
        raise DomainError(f"the stations are those of '{asked.profile}', which has no answer")
    found = answer["stations"]
    T, P = (tuple(float(s[k]) for s in found) for k in ("temperature_K", "pressure_Pa"))
    return replace(asked, names=tuple(s["name"] for s in found), T=T, P=P)


def solve(asked: Asked, context: Context) -> Answer:
    """Return states and margins along the path."""
    if asked.profile:
        asked = _with_stations(asked, context)
    fluid = context.fluid(asked.fluid)
    if asked.hazards:
        return _hazards(asked, fluid, context)
    key = ("path", context.project.fluid_key(fluid), asked.T, asked.P, asked.dose)
    found = context.project.evaluator.cache.get(
        key, lambda: follow(context.project, fluid, asked.T, asked.P, asked.dose, context.watch)
    )
    remarks = [*context.project.fluid(fluid).remarks, *_remarks(asked, found)]
    return {
        "stations": [_station(asked, found, i) for i in range(len(asked.names))],
        "least": [_least(asked, found, limit, place) for limit, place in found.worst()],
        "notes": [*remarks],
    }


def _hazards(asked: Asked, fluid: Fluid, context: Context) -> Answer:
    """Return the margins to hazards alone: nothing else of the fluid is computed."""
    T, P, station = along(asked.T, asked.P)
    margins, _ = margins_at(context.project, fluid, T, P, asked.dose, context.watch, asked.P, hazards_alone=True)
    found = Margins(T, P, station, margins)
    keys = [m.key for m in LIMITS if m.hazard]
    stations = [
        {"name": name, "margins": {f"{k}_margin_K": _number(margins[k][place]) for k in keys}}
        for name, place in zip(asked.names, station.tolist())
    ]
    return {
        "stations": stations,
        "least": [_least(asked, found, limit, place) for limit, place in found.worst()],
        "notes": [],
    }


def _remarks(asked: Asked, found: PathStates) -> list[Remark]:
    out = list(found.remarks)
    if asked.dose:
        out.append(Remark("estimate", "path.dose", values={"dose": told(asked.dose)}))
    missing = [m.title for m in LIMITS if m.key != "frost" and not np.isfinite(found.margins[m.key]).any()]
    if missing:
        out.append(Remark("warning", "path.no_limit", values={"limits": ", ".join(missing)}))
    for limit, place in found.worst():
        value = found.margins[limit.key][place]
        if value < 0.0 and limit.hazard:
            k, share = found.leg(place)
            where = (
                Remark("warning", "path.passed_at", values={"limit": limit.title, "at": asked.names[k + round(share)]})
                if share in (0.0, 1.0)
                else Remark(
                    "warning",
                    "path.passed_between",
                    values={"limit": limit.title, "from": asked.names[k], "to": asked.names[k + 1]},
                )
            )
            deep = measure(-float(value), "temperature_difference", 1)
            out.append(Remark(where.kind, where.code, values={**where.values, "by": deep}))
    lost = [n for n, ok in zip(asked.names, found.states.phases.converged) if not ok]
    if lost:
        out.append(Remark("warning", "path.no_state", values={"names": ", ".join(lost)}))
    return out


def _number(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _station(asked: Asked, found: PathStates, i: int) -> StationAnswer:
    place, phases, values = int(found.station[i]), found.states.phases, found.states.values
    there = bool(phases.converged[i])
    kinds = [Kind(k).name.lower() for k in phases.kind[i] if k != Kind.ABSENT] if there else []
    vapour = float(values.whole["vapour_volume_fraction"][i]) if there else np.nan
    margins = {k: _number(v[place]) for k, v in found.margins.items()}
    return {
        "name": asked.names[i], "temperature_K": asked.T[i], "pressure_Pa": asked.P[i], "phases": kinds,
        "vapour_fraction": _number(phases.vapour_fraction[i]) if there else None, "liquid_volume_fraction": _number(1.0 - vapour),
        "density_kg_m3": _number(values.whole["density"][i]) if there else None,
        "margins": {
            "hydrate_margin_K": margins["hydrate"], "ice_margin_K": margins["ice"], "frost_margin_K": margins["frost"],
            "dew_margin_K": margins["dew"], "water_margin_K": margins["water"], "bubble_margin_Pa": margins["bubble"],
        },
    }  # fmt: skip


def _least(asked: Asked, found: Margins, limit: Limit, place: int) -> LeastAnswer:
    k, share = found.leg(place)
    value = float(found.margins[limit.key][place])
    out: LeastAnswer = {
        "limit": limit.key,
        "from_station": asked.names[k],
        "to_station": asked.names[min(k + 1, len(asked.names) - 1)],
        "share": share,
        "temperature_K": float(found.T[place]),
        "pressure_Pa": float(found.P[place]),
    }
    if limit.measure == "temperature":
        out["margin_K"] = value
    else:
        out["margin_Pa"] = value
    return out


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    if not answer["least"]:
        return f"{len(answer['stations'])} stations, no limit near"
    worst = answer["least"][0]
    value = (
        units.text(measure(worst["margin_K"], "temperature_difference", 1))
        if "margin_K" in worst
        else units.text(pascal(worst["margin_Pa"]))
    )
    return f"{value} to the {next(m.title for m in LIMITS if m.key == worst['limit'])}"


def begin(fluid: str, at: tuple[float, float] | None) -> PathStudy:
    """Return a new question about a fluid."""
    T, P = at or (330.0, 120e5)
    stations = (
        Station(name="Wellhead", temperature=f"{T - 273.15:.4g} degC", pressure=f"{P / 1e5:.4g} bar"),
        Station(name="Arrival", temperature=f"{T - 293.15:.4g} degC", pressure=f"{P / 2e5:.4g} bar"),
    )
    return PathStudy(name=f"Path of {fluid}", kind="path", fluid=fluid, stations=stations)


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the least margin and where."""
    if not answer["least"]:
        return "No limit lies near this path."
    worst = answer["least"][0]
    title = next(m.title for m in LIMITS if m.key == worst["limit"])
    start, end, share = worst["from_station"], worst["to_station"], worst["share"]
    where = (
        f"at {start}" if share == 0.0 or start == end else f"at {end}" if share == 1.0 else f"between {start} and {end}"
    )
    if "margin_K" not in worst:
        value = worst["margin_Pa"]
        return f"{units.text(pascal(abs(value)))} {'above' if value >= 0 else 'below'} the {title} {where}."
    value = worst["margin_K"]
    amount = units.text(measure(abs(value), "temperature_difference", 1))
    return f"{amount} {'to spare to' if value >= 0 else 'inside'} the {title} limit, {where}."


register(
    StudyKind(
        name="path", title="Operating path", meaning="the stations of a line with the state at each and the margins to every limit",
        model=PathStudy, answer=PathAnswer, read=read, solve=solve, line=line, begin=begin, order=42, narrowed=narrowed,
        sentence="How close does {fluid} come to its limits along {stations#stations}[?, or those of {from_profile}][, dosed with <inhibitors| and |{.value} {.key}>]?",
        phrases=("operating path", "path", "stations", "margins"),
        says=says,
    )
)  # fmt: skip
