"""The study ``hydrate``: where gas hydrates form, with and without inhibitors."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, NotRequired

import numpy as np
from numpy.typing import NDArray
from pydantic import Field
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.kinds import StudyKind, register
from ...document.model import Cell
from ...remarks import Remark, Value, kelvin, pascal
from ...solids.formation import COLDEST, HIGHEST, HOTTEST, Wanted, ice_temperatures, pressures, temperatures
from ...solids.lattice import SIZES, STRUCTURES, hydration_number, occupancy
from ...solids.quadruple import quadruple_points
from ..context import Answer, Common, Context, NoAnswerError
from ..hydrates import Dose, Icy, as_arrays, icy, read_doses, told
from ..ranges import Range, read_values
from ..sentences import Units

Array = NDArray[np.float64]

MOST = 400
"""Temperatures or pressures of one question."""


class HydrateStudy(Study):
    """Asks where hydrates form: pressures at ``temperatures``, or temperatures at ``pressures``, each a list or a range; ``inhibitors``
    by mass of the aqueous liquid; ``water``: free, or only what the fluid has."""

    kind: Literal["hydrate"]
    fluid: str
    temperatures: tuple[Cell, ...] | Range = ()
    pressures: tuple[Cell, ...] | Range = ()
    inhibitors: Mapping[str, Cell] = Field(default_factory=dict)
    water: Literal["free", "as given"] = "free"


class CagesAnswer(TypedDict):
    """Share of the cages of a size that each molecule fills; structure H alone has medium ones."""

    small: dict[str, float]
    medium: NotRequired[dict[str, float]]
    large: dict[str, float]


class HydratePointAnswer(TypedDict):
    """Where a structure begins to be stable; ``stable`` where it is the one that forms first."""

    structure: str
    temperature_K: float
    pressure_Pa: float
    stable: bool
    hydration_number: float
    occupancy: CagesAnswer
    vapour_water_mole_fraction: float | None


class QuadrupleAnswer(TypedDict):
    """Where four phases meet: ice, water, hydrate and fluid (``ice``), or water, hydrate and two fluids (``two fluids``)."""

    kind: str
    temperature_K: float
    pressure_Pa: float


class IceAnswer(TypedDict):
    """Where the water freezes at a pressure asked."""

    temperature_K: float | None
    pressure_Pa: float


class HydrateAnswer(Common):
    """Every structure's limit, what meets it, and where the water freezes (at pressures asked)."""

    points: NotRequired[list[HydratePointAnswer]]
    quadruple_points: NotRequired[list[QuadrupleAnswer]]
    ice: NotRequired[list[IceAnswer]]


@dataclass(frozen=True)
class Asked:
    """Temperatures K or pressures Pa, the doses, and whether water is free."""

    fluid: str
    temperatures: tuple[float, ...]
    pressures: tuple[float, ...]
    dose: Dose
    free: bool


def read(study: HydrateStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T = read_values(study.temperatures, reader.at("temperatures"), "temperature", MOST)
    P = read_values(study.pressures, reader.at("pressures"), "pressure", MOST)
    for i, v in enumerate(T or ()):
        if not 0.0 < v < 1000.0:
            reader.at("temperatures", i).fault(f"{v:g} K is no temperature that water could freeze at")
    dose = read_doses(study.inhibitors, reader.at("inhibitors"))
    if reader.bad or T is None or P is None:
        return None
    if bool(T) == bool(P):
        reader.at("temperatures").fault(
            "give either temperatures, for the pressures at which hydrates form, or pressures, for the temperatures"
        )
        return None
    return Asked(study.fluid, T, P, dose, study.water == "free")


def solve(asked: Asked, context: Context) -> Answer:
    """Return the limits of both structures."""
    project = context.project
    key = ("hydrate", project.fluid_key(context.fluid(asked.fluid)), asked)
    found, remarks = project.evaluator.cache.get(key, lambda: _solved(asked, context))
    return {**found, "notes": context.notes(*remarks)}


def _solved(asked: Asked, context: Context) -> tuple[Answer, list[Remark]]:
    """Return the answer without its notes, and the remarks. Raises NoAnswerError."""
    project = context.project
    own = icy(project, context.fluid(asked.fluid), asked.free, context.watch.part(0.0, 0.2))
    dose = own.dose(asked.dose)
    mass = as_arrays(dose)
    values = np.array(asked.temperatures or asked.pressures)
    wanted = Wanted.grid(values)
    find = pressures if asked.temperatures else temperatures
    found = find(own.chart, wanted, [mass], context.watch.part(0.2, 0.8)).reshape(len(STRUCTURES), -1)
    if asked.temperatures:
        T, P = np.broadcast_to(values, found.shape), found
        first = np.fmin.reduce(P, axis=0) == P
    else:
        T, P = found, np.broadcast_to(values, found.shape)
        first = np.fmax.reduce(T, axis=0) == T
    remarks = [*own.model.remarks, *own.remarks, *_remarks(asked, own, found, values)]
    if not np.isfinite(found).any():
        raise NoAnswerError(_none(asked, dose))
    # The structure that forms first stands first.
    order = [
        (int(s), k)
        for k in range(values.size)
        for s in np.argsort(~first[:, k], kind="stable")
        if np.isfinite(found[s, k])
    ]
    s, k = (np.array(v, dtype=np.intp) for v in zip(*order))
    points = _points(own, s, T[s, k], P[s, k], first[s, k])
    meeting = quadruple_points(own.chart, mass, context.watch.part(0.8, 1.0)) if asked.free else []
    ice = ice_temperatures(own.chart, values, mass) if asked.pressures else np.empty(0)
    return {
        "points": points,
        "quadruple_points": [{"kind": q.kind, "temperature_K": q.T, "pressure_Pa": q.P} for q in meeting],
        **(
            {
                "ice": [
                    {"temperature_K": float(t) if np.isfinite(t) else None, "pressure_Pa": float(p)}
                    for t, p in zip(ice, values)
                ]
            }
            if asked.pressures
            else {}
        ),
    }, remarks


def _points(own: Icy, structure: NDArray[np.intp], T: Array, P: Array, first: NDArray[np.bool_]) -> list[Answer]:
    """Return points (n,) as they are answered."""
    host = own.host
    seen = host.around(T, P)
    filled = np.zeros((T.size, len(SIZES), len(host.names)))
    number = np.zeros(T.size)
    for s in range(len(STRUCTURES)):
        rows = np.flatnonzero(structure == s)
        filled[rows] = occupancy(s, T[rows], seen.f[rows], host.names)
        number[rows] = hydration_number(s, filled[rows])
    return [
        {
            "structure": STRUCTURES[s].name, "temperature_K": float(T[i]), "pressure_Pa": float(P[i]), "stable": bool(first[i]),
            "hydration_number": float(number[i]),
            "occupancy": {
                size: dict(zip(host.names, filled[i, k].tolist())) for k, size in enumerate(SIZES) if STRUCTURES[s].cages[k]
            },
            "vapour_water_mole_fraction": float(seen.vapour_water[i]),
        }
        for i, s in enumerate(structure)
    ]  # fmt: skip


def _remarks(asked: Asked, own: Icy, found: Array, values: Array) -> list[Remark]:
    out = []
    if asked.free:
        out.append(Remark("estimate", "hydrate.free"))
    if own.brine and not any(n in ("NaCl", "KCl", "CaCl2") for n, _ in asked.dose):
        out.append(Remark("estimate", "hydrate.brine", values={"dose": told(own.brine)}))
    none = ~np.isfinite(found).any(axis=0)
    if none.any() and not none.all():
        kind = kelvin if asked.temperatures else pascal
        out.append(
            Remark(
                "warning",
                "hydrate.some",
                values={"count": int(none.sum()), "first": kind(values[none][0]), "last": kind(values[none][-1])},
            )
        )
    if not asked.free:
        out.append(Remark("estimate", "hydrate.own_water"))
    return out


def _none(asked: Asked, dose: Dose) -> Remark:
    limits: dict[str, Value] = {
        "cold": kelvin(COLDEST),
        "hot": kelvin(HOTTEST),
        "most": pascal(HIGHEST),
        "dose": told(dose),
    }
    return Remark("warning", "hydrate.none_inhibited" if dose else "hydrate.none", values=limits)


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    first = [p for p in answer["points"] if p["stable"]]
    low, high = first[0], first[-1]
    at = f"{units.text(kelvin(low['temperature_K']))} at {units.text(pascal(low['pressure_Pa']))}"
    return (
        f"structure {low['structure']}, {at}"
        if len(first) == 1
        else f"{at} to {units.text(kelvin(high['temperature_K']))} at {units.text(pascal(high['pressure_Pa']))}"
    )


def begin(fluid: str, at: tuple[float, float] | None) -> HydrateStudy:
    """Return a new question about a fluid."""
    over = Range(begin="10 bar", end="200 bar", steps=12, scale="logarithmic")
    return HydrateStudy(name=f"Hydrates of {fluid}", kind="hydrate", fluid=fluid, pressures=over)


register(
    StudyKind(
        name="hydrate", title="Hydrates", meaning="where gas hydrates form, with and without inhibitors in the water",
        model=HydrateStudy, answer=HydrateAnswer, read=read, solve=solve, line=line, begin=begin, order=40,
    )
)  # fmt: skip
