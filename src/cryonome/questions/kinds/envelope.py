"""The study ``envelope``: lines of constant vapour fraction, critical points and extremes."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.field_types import Cell, FluidRef, OfKind
from ...document.kinds import StudyKind, answer_keys, register
from ...eos.stacked import stacked
from ...equilibrium.extremes import with_stable_extremes
from ...equilibrium.line_points import SaturationPoint
from ...equilibrium.moved_lines import moved_maps
from ...equilibrium.phase_map import PhaseMap
from ...equilibrium.phases import Kind, Phases
from ...equilibrium.regions import Lines, Regions
from ...equilibrium.volume_lines import VolumeLine
from ...errors import DomainError
from ...fluids.building import FluidModel
from ...fluids.map_lines import line_phases, metastable, runs_of
from ...properties import PROPERTIES, evaluate
from ...remarks import Remark, kelvin, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...results.evaluator import Project
from ...results.frost import frost_line
from ...telling.sentences import Units
from ...watch import Watch
from ..rest_alone import rest_alone


class EnvelopeStudy(Study):
    """Asks for the phase envelope and lines of constant vapour fraction."""

    kind: Literal["envelope"]
    fluid: FluidRef
    vapour_fractions: Annotated[tuple[Cell, ...], OfKind("fraction")] = (0, 1)
    vapour_volume_fractions: Annotated[tuple[Cell, ...], OfKind("fraction")] = ()


class PointAnswer(TypedDict):
    """A point of the map."""

    temperature_K: float
    pressure_Pa: float


class LineAnswer(TypedDict):
    """A line of one vapour fraction, its points in the order they were traced, with properties of the whole there."""

    vapour_fraction: float
    temperature_K: list[float]
    pressure_Pa: list[float]
    molar_volume_m3_mol: list[float]
    density_kg_m3: list[float]
    enthalpy_J_mol: list[float]
    entropy_J_mol_K: list[float]


class VolumeLineAnswer(TypedDict):
    """A line of one vapour share by volume, with the vapour fractions by mole along it."""

    vapour_volume_fraction: float
    vapour_fraction: list[float]
    temperature_K: list[float]
    pressure_Pa: list[float]
    molar_volume_m3_mol: list[float]
    density_kg_m3: list[float]
    enthalpy_J_mol: list[float]
    entropy_J_mol_K: list[float]


class BoundaryAnswer(TypedDict):
    """The boundary of a region, in order along it; of three phases which of them is ``gone`` there (vapour, liquid,
    aqueous)."""

    temperature_K: list[float]
    pressure_Pa: list[float]
    gone: NotRequired[str]


class MetastableAnswer(TypedDict):
    """A stretch of a traced line where another phase has formed before."""

    vapour_fraction: float
    temperature_K: list[float]
    pressure_Pa: list[float]


class SpinodalAnswer(TypedDict):
    """Where the feed becomes unstable to the smallest fluctuation, by rising molar volume; pressures below zero are
    of a liquid under tension."""

    temperature_K: list[float]
    pressure_Pa: list[float]
    molar_volume_m3_mol: list[float]


class ExtremeAnswer(TypedDict):
    """Where a line turns as well: ``kind`` is cricondentherm (a highest temperature) or cricondenbar (a highest
    pressure)."""

    kind: str
    temperature_K: float
    pressure_Pa: float


class EnvelopeAnswer(Common):
    """The lines asked for, as far as no further phase upsets them, through the three-phase region with all three; what
    is upset is ``metastable``. Critical points and extremes and the spinodal; ``water_dew`` bounds where there is an
    aqueous phase, ``three_phase`` where there are three, with the ``corners`` where but one is left, critical end
    points, and points from which on a fourth would form."""

    lines: NotRequired[list[LineAnswer]]
    volume_lines: NotRequired[list[VolumeLineAnswer]]
    critical_points: NotRequired[list[PointAnswer]]
    cricondentherm: NotRequired[PointAnswer | None]
    cricondenbar: NotRequired[PointAnswer | None]
    frost: NotRequired[BoundaryAnswer]
    other_extremes: NotRequired[list[ExtremeAnswer]]
    spinodal: NotRequired[SpinodalAnswer]
    water_dew: NotRequired[list[BoundaryAnswer]]
    three_phase: NotRequired[list[BoundaryAnswer]]
    metastable: NotRequired[list[MetastableAnswer]]
    corners: NotRequired[list[PointAnswer]]
    critical_end_points: NotRequired[list[PointAnswer]]
    fourth_phase: NotRequired[list[PointAnswer]]


@dataclass(frozen=True)
class Asked:
    """The vapour fractions wanted, by mole and by volume; nothing and all of it are the same by both."""

    fluid: str
    fractions: tuple[float, ...]
    shares: tuple[float, ...] = ()
    only: frozenset[str] = frozenset()
    """Keys of the answer that are wanted, all where none is named."""
    along: bool = True
    """Whether properties are wanted along the lines."""

    def wants(self, *keys: str) -> bool:
        """Tell whether any of some keys of the answer is wanted."""
        return not self.only or not self.only.isdisjoint(keys)


def narrowed(asked: Asked, paths: Sequence[str]) -> Asked:
    """Return what is asked where only these paths of the answer are read."""
    keys = frozenset(re.split(r"[.\[]", path)[0] for path in paths)
    if not keys <= answer_keys(EnvelopeAnswer):
        return asked
    return replace(asked, only=keys, along=any(PROPERTIES[k].answer_key in path for k in ALONG for path in paths))


def read(study: EnvelopeStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    here = reader.at("vapour_fractions")
    if not study.vapour_fractions:
        here.fault("the list is empty; give at least one vapour fraction")
    found = [here.at(i).fraction(cell) for i, cell in enumerate(study.vapour_fractions)]
    shares: list[float] = []
    at = reader.at("vapour_volume_fractions")
    for i, cell in enumerate(study.vapour_volume_fractions):
        share = at.at(i).fraction(cell)
        if share is not None and not 0.0 < share < 1.0:
            at.at(i).fault("a share by volume lies between 0 and 1; bubble and dew line stand in vapour_fractions")
        elif share is not None:
            shares.append(share)
    return Asked(study.fluid, tuple(f for f in found if f is not None), tuple(shares))


def solve(asked: Asked, context: Context) -> Answer:
    """Return the asked lines with critical points, cricondentherm and cricondenbar."""
    fluid = context.fluid(asked.fluid)
    project, watch = context.project, context.watch
    whole = project.map(fluid, asked.fractions, watch.part(0.0, 0.5))
    model = project.fluid(fluid)
    along = ALONG if asked.along else ()
    remarks: list[Remark] = []
    out: Answer = {}
    found = project.regions(fluid, watch.part(0.5, 1.0), asked.fractions) if asked.wants(*FROM_REGIONS) else None
    if asked.wants("lines"):
        lines = [line_answer(model, f, phases, along) for f in asked.fractions for phases in line_phases(whole, f)]
        if found is not None:
            every = [(f, p) for f, p in found.quality if any(abs(f - v) < 1e-12 for v in asked.fractions)]
            every += [(0.0, b.states) for b in found.bounds if b.gone == Kind.VAPOUR and 0.0 in asked.fractions]
            lines += [line_answer(model, f, p, along) for f, p in every]
        if not lines and found is None:
            raise NoAnswerError(Remark("warning", "envelope.none"), *whole.remarks)
        out["lines"] = lines
    if asked.shares and asked.wants("volume_lines"):
        by_volume = project.volume_lines(fluid, asked.shares, watch)
        missing = [s for s in asked.shares if all(abs(s - line.share) > 1e-12 for line in by_volume)]
        remarks += [Remark("warning", "envelope.no_volume_line", "map", {"fraction": s}) for s in missing]
        out["volume_lines"] = [volume_line_answer(model, v, along) for v in by_volume]
    bounds, said = _bounds(found, model)
    remarks += said
    whole = with_stable_extremes(whole, found)
    upset = [
        {"vapour_fraction": f, "temperature_K": T.tolist(), "pressure_Pa": P.tolist()}
        for f, T, P in metastable(whole)
        if any(abs(f - v) < 1e-12 for v in asked.fractions)
    ]
    out |= {
        "critical_points": [{"temperature_K": c.T, "pressure_Pa": c.P} for c in whole.critical_points],
        "cricondentherm": _extreme(whole.cricondentherm),
        "cricondenbar": _extreme(whole.cricondenbar),
        "other_extremes": [{"kind": k, "temperature_K": p.T, "pressure_Pa": p.P} for k, p in whole.others],
    }
    if asked.wants("frost"):
        frost_P, frost_T = frost_line(project, fluid, watch=watch)
        there = np.isfinite(frost_T)
        if there.any():
            out["frost"] = {"temperature_K": frost_T[there].tolist(), "pressure_Pa": frost_P[there].tolist()}
    if asked.wants("spinodal"):
        limit = project.spinodal(fluid, watch)
        out["spinodal"] = {
            "temperature_K": limit.T.tolist(),
            "pressure_Pa": limit.P.tolist(),
            "molar_volume_m3_mol": limit.V.tolist(),
        }
    out |= bounds | ({"metastable": upset} if upset else {})
    return {**out, "notes": [*model.remarks, *whole.remarks, *remarks]}


FROM_REGIONS = (
    "lines", "critical_points", "cricondentherm", "cricondenbar", "other_extremes", "water_dew", "three_phase", "metastable", "corners",
    "critical_end_points", "fourth_phase",
)  # fmt: skip
"""Keys of the answer that three phases, where there are any, have a say in."""
MOVED = frozenset(("lines", "cricondentherm", "cricondenbar"))
"""Keys that lines moved from those of the fluid as it stands give by themselves."""


def _bounds(found: Regions | None, model: FluidModel) -> tuple[Answer, list[Remark]]:
    """Return the boundaries of regions as they are answered, and what is said of them."""
    if found is None:
        return {}, []
    named = [{**b, "gone": GONE[own.gone]} for b, own in zip(_boundary(found.three), found.bounds)]
    out: Answer = {
        "three_phase": [*named, *_boundary(found.three[len(named) :])],
        "corners": _points(found.corners),
        "critical_end_points": _points(found.ends),
        "fourth_phase": _points(found.fourth),
    } | ({} if model.water is None else {"water_dew": _boundary(found.aqueous)})
    if not found.fourth:
        return out, []
    T, P = found.fourth[0]
    return out, [Remark("warning", "map.fourth", "map", {"T": kelvin(T), "P": pascal(P)})]


def solve_together(
    items: Sequence[tuple[Asked, Project]], base: tuple[Asked, Project], watch: Watch
) -> list[Answer | DomainError]:
    """Return the envelopes of samples of one fluid: their lines are moved from those of the fluid as it stands, all in
    one batch, where nothing else is wanted and no third phase is about."""
    brief = base[0].only and base[0].only <= MOVED and not base[0].along
    moved = _moved_together(items, base, watch.part(0.0, 0.7)) if brief else {}
    found = {i: _of_moved(items[i][0], whole) for i, whole in moved.items()}
    return rest_alone(items, found, solve, watch.part(0.7, 1.0))


def _moved_together(
    items: Sequence[tuple[Asked, Project]], of_base: tuple[Asked, Project], watch: Watch
) -> dict[int, PhaseMap]:
    """Return the maps of those samples whose lines could be moved, by their place."""
    asked, project_of_base = of_base
    own = Context(project_of_base, watch).fluid(asked.fluid)
    base = project_of_base.map(own, (), watch.part(0.0, 0.1))
    old = project_of_base.map(own, asked.fractions, watch.part(0.1, 0.2))
    model = project_of_base.fluid(own)
    wanted = [c for c, key in ((-2, "cricondentherm"), (-1, "cricondenbar")) if key in asked.only]
    plain = model.water is None and not (model.may_have_third and not all(g.all() for g in base.stable))
    if not plain or old.others:
        return {}
    found, places = [], []
    for i, (one, project) in enumerate(items):
        fluid = project.document.fluid(one.fluid)
        try:
            there = None if fluid is None else project.fluid(fluid)
        except DomainError:
            continue
        if one.fractions != asked.fractions:
            continue
        if there is not None and there.z.size == model.z.size and not ((there.z > 0.0) != (model.z > 0.0)).any():
            found.append(there)
            places.append(i)
    eos = stacked([m.eos for m in found])
    if eos is None:
        return {}
    maps = moved_maps(eos, np.array([m.z for m in found]), old, asked.fractions, wanted, watch.part(0.2, 1.0))
    return {i: m for i, m in zip(places, maps) if m is not None}


def _of_moved(asked: Asked, whole: PhaseMap) -> Answer:
    """Return the answer of a moved map: its lines and its turns."""
    lines = [
        {"vapour_fraction": part.beta, "temperature_K": part.T[run].tolist(), "pressure_Pa": part.P[run].tolist()}
        for f in asked.fractions
        for part, good in zip(whole.parts, whole.stable, strict=True)
        if abs(part.beta - f) < 1e-12
        for run in runs_of(good)
    ]
    return {
        "lines": lines,
        "cricondentherm": _extreme(whole.cricondentherm),
        "cricondenbar": _extreme(whole.cricondenbar),
        "notes": [],
    }


ALONG = ("molar_volume", "density", "enthalpy", "entropy")
"""Properties of the whole that stand beside a line."""


def line_answer(model: FluidModel, fraction: float, phases: Phases, along: Sequence[str] = ALONG) -> Answer:
    """Return a line of states as lists in SI."""
    return {"vapour_fraction": fraction, **_along(model, phases, along)}


def volume_line_answer(model: FluidModel, line: VolumeLine, along: Sequence[str] = ALONG) -> Answer:
    """Return a line of one share by volume as lists in SI."""
    fractions = line.states.light_fraction.tolist()
    return {
        "vapour_volume_fraction": line.share,
        "vapour_fraction": fractions,
        **_along(model, line.states, along),
    }


def _along(model: FluidModel, phases: Phases, along: Sequence[str]) -> Answer:
    values = evaluate(model.substance, phases, along).whole if along else {}
    return {
        "temperature_K": phases.T.tolist(),
        "pressure_Pa": phases.P.tolist(),
        **{PROPERTIES[k].answer_key: values[k].tolist() for k in along},
    }


GONE = {Kind.VAPOUR: "vapour", Kind.LIQUID: "liquid", Kind.AQUEOUS: "aqueous"}


def _points(points: Sequence[tuple[float, float]]) -> list[dict[str, float]]:
    return [{"temperature_K": T, "pressure_Pa": P} for T, P in points]


def _boundary(lines: Lines) -> list[dict[str, list[float]]]:
    return [{"temperature_K": T.tolist(), "pressure_Pa": P.tolist()} for T, P in lines]


def _extreme(point: SaturationPoint | None) -> dict[str, float] | None:
    return None if point is None else {"temperature_K": point.T, "pressure_Pa": point.P}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    top, hot = answer["cricondenbar"], answer["cricondentherm"]
    pieces = [f"to {units.text(pascal(top['pressure_Pa']))}"] if top else []
    pieces += [f"to {units.text(kelvin(hot['temperature_K'], 0))}"] if hot else []
    return ", ".join(pieces) or f"{len(answer['lines'])} lines"


def begin(fluid: str, at: tuple[float, float] | None) -> EnvelopeStudy:
    """Return a new question about a fluid, near a state where one is given."""
    return EnvelopeStudy(name=f"Map of {fluid}", kind="envelope", fluid=fluid)


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence; where a line of water goes on beyond them, with the turns of the others."""
    turns = {e["kind"]: e for e in reversed(answer["other_extremes"])}
    top, hot = (answer[k] or turns.get(k) for k in ("cricondenbar", "cricondentherm"))
    found = [f"{units.text(pascal(top['pressure_Pa']))}"] if top else []
    found += [f"{units.text(kelvin(hot['temperature_K']))}"] if hot else []
    told = f"Up to {' and '.join(found)}" if found else "No highest pressure or temperature was found"
    points = [
        f"{units.text(kelvin(c['temperature_K']))}, {units.text(pascal(c['pressure_Pa']))}"
        for c in answer["critical_points"]
    ]
    return told + (f"; critical at {' and '.join(points)}." if points else "; no critical point.")


register(
    StudyKind(
        name="envelope", title="Phase envelope", meaning="bubble and dew line, quality lines, critical point and extremes",
        model=EnvelopeStudy, answer=EnvelopeAnswer, read=read, solve=solve, line=line, begin=begin, order=10, narrowed=narrowed, together=solve_together,
        sentence="Where is {fluid} two phases[, with lines of {vapour_fractions} vapour by mole][? and of {vapour_volume_fractions} by volume]?",
        phrases=("p-t diagram", "pt diagram", "p-t envelope", "critical temperature and pressure", "phase envelope", "envelope", "phase map", "phase diagram", "critical point", "cricondentherm", "cricondenbar", "two phases", "two-phase region"),
        clues={"vapour_fractions": ("lines", "quality", "vapour", "vapor"), "vapour_volume_fractions": ("by volume",)},
        says=says,
    )
)  # fmt: skip
