"""The study ``hydrate``: where gas hydrates form, with and without inhibitors."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal, NotRequired

import numpy as np
from numpy.typing import NDArray
from pydantic import Field
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.field_types import Cell, FluidRef, OfKind, OneOf, Shares
from ...document.kinds import StudyKind, register
from ...document.ranges import Range, read_values
from ...eos.stacked import stacked
from ...errors import DomainError
from ...remarks import Remark, Value, kelvin, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...results.evaluator import Project
from ...results.hydrates import Dose, Icy, Wet, as_arrays, icy, read_doses, told, wet
from ...solids.activity import Doses
from ...solids.branches import Crossings, every_temperature, pressures
from ...solids.formation import ice_temperatures
from ...solids.lattice import SIZES, STRUCTURES, hydration_number, occupancy
from ...solids.moved_limits import Sought, moved_limits
from ...solids.potentials import COLDEST, HIGHEST, HOTTEST, given, stability
from ...solids.quadruple import quadruple_points
from ...telling.sentences import Units
from ...watch import Watch
from ..rest_alone import rest_alone

Array = NDArray[np.float64]

Mask = NDArray[np.bool_]

MOST = 400
"""Temperatures or pressures of one question."""
TOLD = 3
"""Temperatures whose branches are told one by one."""


class HydrateStudy(Study):
    """Asks where hydrates form: pressures at ``temperatures``, or temperatures at ``pressures``, each a list or a
    range; ``inhibitors`` by mass of the aqueous liquid; ``water``: free, or only what the fluid has."""

    kind: Literal["hydrate"]
    fluid: FluidRef
    temperatures: Annotated[tuple[Cell, ...] | Range, OfKind("temperature")] = ()
    pressures: Annotated[tuple[Cell, ...] | Range, OfKind("pressure")] = ()
    inhibitors: Shares = Field(default_factory=dict)
    water: Annotated[str, OneOf(("free", "as given"))] = "free"


class CagesAnswer(TypedDict):
    """Share of the cages of a size that each molecule fills; structure H alone has medium ones."""

    small: dict[str, float]
    medium: NotRequired[dict[str, float]]
    large: dict[str, float]


class HydratePointAnswer(TypedDict):
    """Where a structure begins or ends to be stable; ``stable`` where no other is. At a temperature there may be
    several pressures, at a pressure several temperatures: the hydrate is on the side ``hydrate_side`` of this one,
    ``above`` or ``below`` in pressure, ``colder`` or ``warmer``."""

    structure: str
    temperature_K: float
    pressure_Pa: float
    stable: bool
    hydration_number: float
    occupancy: CagesAnswer
    vapour_water_mole_fraction: float | None
    hydrate_side: str


class QuadrupleAnswer(TypedDict):
    """Where four phases meet: ice, water, hydrate and fluid (``ice``), or water, hydrate and two fluids (``two
    fluids``)."""

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
    brief: bool = False
    """Whether nothing but the limits themselves is wanted."""


BRIEF = re.compile(r"points\[(\*|\d+)\]\.(temperature_K|pressure_Pa)")


def narrowed(asked: Asked, paths: Sequence[str]) -> Asked:
    """Return what is asked where only these paths of the answer are read."""
    return replace(asked, brief=bool(paths) and all(BRIEF.fullmatch(path) for path in paths))


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
    return {**found, "notes": [*remarks]}


def _solved(asked: Asked, context: Context) -> tuple[Answer, list[Remark]]:
    """Return the answer without its notes, and the remarks. Raises NoAnswerError."""
    project = context.project
    own = icy(project, context.fluid(asked.fluid), asked.free, context.watch.part(0.0, 0.2))
    dose = own.dose(asked.dose)
    mass = as_arrays(dose)
    values = np.array(asked.temperatures or asked.pressures)
    by_T = bool(asked.temperatures)
    find = pressures if by_T else every_temperature
    found = find(own.host, values, [mass], context.watch.part(0.2, 0.8))
    if not found.row.size:
        raise NoAnswerError(_none(asked, dose))
    T, P = (values[found.row], found.value) if by_T else (found.value, values[found.row])
    first = _alone(own, found.structure, T, P, mass)
    # The lowest pressure and the warmest temperature first, and before them what has formed first.
    order = np.lexsort((found.value if by_T else -found.value, ~first, found.row))
    side = np.where(found.above, "above", "below") if by_T else np.where(found.above, "warmer", "colder")
    if asked.brief:
        return {"points": _plain(found.structure[order], T[order], P[order], first[order], side[order])}, []
    points = _points(own, found.structure[order], T[order], P[order], first[order], side[order])
    none = np.ones(values.size, dtype=bool)
    none[found.row] = False
    branches = _branches(values, found, first) if by_T else []
    remarks = [*own.model.remarks, *own.remarks, *_remarks(asked, own, none, values), *branches]
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


def _alone(own: Icy, structure: NDArray[np.intp], T: Array, P: Array, mass: Doses) -> Mask:
    """Tell at which limits (n,) of structures no other structure is stable."""
    seen = own.host.around(T, P)
    dose = given(T, mass)
    out = np.ones(T.size, dtype=bool)
    for s in range(len(STRUCTURES)):
        out &= (structure == s) | ~(stability(own.host, T, P, s, dose, seen) > 0.0)
    return np.asarray(out)


def _branches(T: Array, found: Crossings, first: Mask) -> list[Remark]:
    """Return what is to be said where hydrates leave again, or form anew, at a higher pressure."""
    several = [k for k in range(T.size) if ((found.row == k) & first).sum() > 1]
    out = []
    for k in several[:TOLD]:
        rows = np.flatnonzero((found.row == k) & first)
        rows = rows[np.argsort(found.value[rows])]
        # A hydrate may be stable from the lowest pressure on.
        begin = [float(found.value[r]) for r in rows if found.above[r]]
        end = [float(found.value[r]) for r in rows if not found.above[r]]
        values: dict[str, Value] = {"T": kelvin(float(T[k])), "first": pascal(begin[0] if begin else end[0])}
        if not begin or not end:
            continue
        values |= {"last": pascal(end[0])}
        again = [p for p in begin if p > end[0]]
        if again:
            out.append(Remark("estimate", "hydrate.again", values={**values, "again": pascal(again[0])}))
        else:
            out.append(Remark("estimate", "hydrate.leaves", values=values))
    if len(several) > TOLD:
        out.append(Remark("estimate", "hydrate.more_branches", values={"count": len(several) - TOLD}))
    return out


def _points(
    own: Icy, structure: NDArray[np.intp], T: Array, P: Array, first: Mask, side: NDArray[np.str_]
) -> list[Answer]:
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
            "structure": STRUCTURES[s].name,
            "temperature_K": float(T[i]),
            "pressure_Pa": float(P[i]),
            "stable": bool(first[i]),
            "hydration_number": float(number[i]),
            "occupancy": {
                size: dict(zip(host.names, filled[i, k].tolist()))
                for k, size in enumerate(SIZES)
                if STRUCTURES[s].cages[k]
            },
            "vapour_water_mole_fraction": float(seen.vapour_water[i]),
            "hydrate_side": str(side[i]),
        }
        for i, s in enumerate(structure)
    ]


def _plain(structure: NDArray[np.intp], T: Array, P: Array, first: Mask, side: NDArray[np.str_]) -> list[Answer]:
    """Return points (n,) with nothing but where they are."""
    return [
        {
            "structure": STRUCTURES[s].name,
            "temperature_K": float(T[i]),
            "pressure_Pa": float(P[i]),
            "stable": bool(first[i]),
            "hydrate_side": str(side[i]),
        }
        for i, s in enumerate(structure)
    ]


def solve_together(
    items: Sequence[tuple[Asked, Project]], base: tuple[Asked, Project], watch: Watch
) -> list[Answer | DomainError]:
    """Return the limits of samples of one fluid: moved from those of the fluid as it stands, all in one batch, where
    nothing else is wanted."""
    found = _moved_together(items, base, watch.part(0.0, 0.8))
    return rest_alone(items, found, solve, watch.part(0.8, 1.0))


def _moved_together(
    items: Sequence[tuple[Asked, Project]], own_base: tuple[Asked, Project], watch: Watch
) -> dict[int, Answer]:
    """Return the answers of the samples whose limits could be moved, by their place."""
    study, project_of_base = own_base
    if not study.brief:
        return {}
    by_T = bool(study.temperatures)
    base = solve(study, Context(project_of_base, watch.part(0.0, 0.1)))["points"]
    held_key, found_key = ("temperature_K", "pressure_Pa") if by_T else ("pressure_Pa", "temperature_K")
    held = list(study.temperatures or study.pressures)
    rows = [held.index(p[held_key]) for p in base if p[held_key] in held]
    if len(rows) != len(base):
        return {}
    names = [s.name for s in STRUCTURES]
    own: list[tuple[int, Asked, Wet]] = []
    for i, (one, project) in enumerate(items):
        try:
            there = wet(project, Context(project, watch).fluid(one.fluid), one.free)
        except DomainError:
            continue
        same = not own or (there.host.names == own[0][2].host.names and there.model.z.size == own[0][2].model.z.size)
        doses = {n for n, _ in there.dose(one.dose)}
        if same and there.host.names and (not own or doses == {n for n, _ in own[0][2].dose(own[0][1].dose)}):
            own.append((i, one, there))
    eos = stacked([w.host.eos for _, _, w in own])
    if eos is None:
        return {}
    n, m = len(base), len(own)
    host = replace(own[0][2].host, eos=eos, z=np.array([w.host.z for _, _, w in own]))
    each = np.repeat(np.arange(m), n)
    doses_of = [dict(w.dose(one.dose)) for _, one, w in own]
    values = [list(one.temperatures or one.pressures) for _, one, _ in own]
    sought = Sought(
        np.array([v[row] for v in values for row in rows]),
        np.tile(np.array([names.index(p["structure"]) for p in base], dtype=np.intp), m),
        {name: np.array([d[name] for d in doses_of])[each] for name in doses_of[0]},
        np.tile(np.array([p[found_key] for p in base]), m),
        by_T,
    )
    x, alone = moved_limits(host.take(each), sought, watch.part(0.1, 1.0))
    out: dict[int, Answer] = {}
    for k, (i, _, _) in enumerate(own):
        mine = slice(k * n, (k + 1) * n)
        if not np.isfinite(x[mine]).all():
            continue
        points = [
            {
                "structure": p["structure"],
                held_key: values[k][row],
                found_key: float(v),
                "stable": bool(a),
                "hydrate_side": p["hydrate_side"],
            }
            for p, row, v, a in zip(base, rows, x[mine], alone[mine])
        ]
        # As in every answer: what has formed first stands first.
        places = sorted(
            range(n), key=lambda j: (rows[j], not points[j]["stable"], points[j][found_key] * (1 if by_T else -1))
        )
        out[i] = {"points": [points[j] for j in places], "notes": []}
    return out


def _remarks(asked: Asked, own: Icy, none: Mask, values: Array) -> list[Remark]:
    out = []
    if asked.free:
        out.append(Remark("estimate", "hydrate.free"))
    if own.brine and own.dose(asked.dose) != asked.dose:
        out.append(Remark("estimate", "hydrate.brine", values={"dose": told(own.brine)}))
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


def lowest(points: list[Answer]) -> list[Answer]:
    """Return the points where hydrates form first: of several at a temperature the lowest, of several at a pressure
    the warmest."""
    out: dict[float, Answer] = {}
    for p in points:
        if p["stable"] and p["hydrate_side"] in ("above", "colder"):
            out.setdefault(p["temperature_K" if p["hydrate_side"] == "above" else "pressure_Pa"], p)
    return list(out.values()) or points[:1]


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    first = lowest(answer["points"])
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


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: what to hold."""
    first = lowest(answer["points"])
    worst = max(first, key=lambda p: p["pressure_Pa"])
    T, P = kelvin(worst["temperature_K"]), pascal(worst["pressure_Pa"])
    if asked.pressures:
        return f"At {units.given(P)} stay above {units.text(T)}."
    return f"At {units.given(T)} stay below {units.text(P)}."


register(
    StudyKind(
        name="hydrate", title="Hydrates", meaning="where gas hydrates form, with and without inhibitors in the water",
        model=HydrateStudy, answer=HydrateAnswer, read=read, solve=solve, line=line, begin=begin, order=40, narrowed=narrowed, together=solve_together,
        sentence="Where do hydrates of {fluid} form {pressures|temperatures}[, with <inhibitors| and |{.value} {.key}>], in {water}?",
        phrases=("hydrates", "hydrate", "hydrate limit", "hydrate curve", "hydrate line", "hydrate formation", "hydrate temperature", "hydrate pressure"),
        says=says,
    )
)  # fmt: skip
