"""The study ``vapour_pressure``: true vapour pressure, and what the laboratory's tests would measure."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Annotated, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...constants import ATM
from ...document import Document, Fluid, FluidPart, Reader, Study
from ...document.conditions import Given
from ...document.field_types import (
    Cell,
    FluidRef,
    OfKind,
    Pressure,
    PressureDifference,
    Suggested,
    Temperature,
    Temperatures,
)
from ...document.kinds import StudyKind, answer_keys, register
from ...document.part import Part
from ...document.reader import EMPTY
from ...eos.stacked import stacked
from ...equilibrium.measured import Whole
from ...equilibrium.phases import Phases
from ...equilibrium.saturation import saturation
from ...errors import DomainError
from ...fluids.building import FluidModel
from ...properties import evaluate
from ...remarks import Remark, Value, Word, kelvin, pascal
from ...results.common import Common
from ...results.context import Answer, Context
from ...results.delumping import asked_of, holding
from ...results.evaluator import Project
from ...results.pair_states import state_at
from ...telling.sentences import Units
from ...uncertainty.precision import PRECISIONS
from ...vapour_pressure.laboratory import (
    COLD,
    DEAD,
    DVPE_RANGE,
    LIQUEFIED,
    LIVE,
    TEST_TEMPERATURE,
    Array,
    Relation,
    Specimen,
    dry_pressure,
    expanded,
    reid_pressure,
)
from ...watch import Watch
from ..rest_alone import rest_alone

ROOM = 293.15
"""K. A sample whose vapour pressure exceeds the atmosphere here is live."""
MOST = 200
"""Ratios or temperatures of one question."""
TYPICAL = 70e3
"""Pa, for which the precision of the tests is told where they were not simulated."""
TRACE = 1e-8
"""Moles of air per mole of sample that bring its components in and change nothing."""


CONTAINERS = ("live", "dead", "by rule")


class RelationStudy(Part):
    """An own relation of the Reid equivalent: ``factor`` times VPCR4 and ``offset``, a difference of pressures."""

    factor: Cell = None
    offset: PressureDifference = None


class VapourPressureStudy(Study):
    """Asks for the vapour pressures of a liquid at a ``temperature`` and at ``ratios`` of vapour to liquid volume;
    ``temperatures`` for a curve of the true one; ``air``: whether samples are saturated with air where a test does
    so; ``limit``: a pressure the true one is to stay under; ``container``: what the sample of the Reid equivalent is
    kept in, by rule live where it boils above the atmosphere at 20 degC; ``relation``: another than that
    container's."""

    kind: Literal["vapour_pressure"]
    fluid: FluidRef
    temperature: Temperature = "37.8 degC"
    ratios: Annotated[tuple[Cell, ...], OfKind("")] = (4,)
    temperatures: Temperatures = ()
    air: bool | str = True
    limit: Pressure = None
    container: Annotated[str, Suggested(CONTAINERS)] = "by rule"
    relation: RelationStudy = RelationStudy()


class ExpandedAnswer(TypedDict):
    """A pressure at a ratio of vapour to liquid volume, null where there is no such state."""

    ratio: float
    pressure_Pa: float | None


class CurveAnswer(TypedDict):
    """True vapour pressure at a temperature, null where there is none."""

    temperature_K: float
    TVP_Pa: float | None


class PrecisionAnswer(TypedDict):
    """How far two results of a test may lie apart, by one operator and by two laboratories, 95 of 100 times."""

    method: str
    repeatability_Pa: float
    reproducibility_Pa: float


class VapourPressureAnswer(Common):
    """True vapour pressure, Reid's of ASTM D323, the dry equivalent of D5191 (both at 37.8 degC), expansions of D6377
    at the temperature asked, and their Reid equivalent by the relation for the container of a ``live`` sample or a
    dead one; the dry equivalent is null outside the range of its test, ``LPG_gauge_Pa`` (ASTM D1267, gauge, at 37.8
    degC) up to that. All but the true one are of the sample without its water."""

    temperature_K: NotRequired[float]
    TVP_Pa: NotRequired[float]
    RVP_Pa: NotRequired[float | None]
    DVPE_Pa: NotRequired[float | None]
    LPG_gauge_Pa: NotRequired[float | None]
    VPCR: NotRequired[list[ExpandedAnswer]]
    RVPE_Pa: NotRequired[float | None]
    live: NotRequired[bool]
    curve: NotRequired[list[CurveAnswer]]
    limit_temperature_K: NotRequired[float | None]
    precision: NotRequired[list[PrecisionAnswer]]


@dataclass(frozen=True)
class Asked:
    """The fluid, temperatures K, ratios, whether samples are saturated with air, whether the sample is ``live`` (None
    by rule), and an own relation."""

    fluid: str
    temperature: float
    ratios: tuple[float, ...]
    temperatures: tuple[float, ...]
    air: bool
    limit: float | None = None
    live: bool | None = None
    relation: Relation | None = None
    only: frozenset[str] = frozenset()
    """Keys of the answer that are wanted, all where none is named."""

    def wants(self, key: str) -> bool:
        """Tell whether a key of the answer is wanted."""
        return not self.only or key in self.only


def narrowed(asked: Asked, paths: Sequence[str]) -> Asked:
    """Return what is asked where only these paths of the answer are read: a goal asks many times for one number."""
    keys = frozenset(re.split(r"[.\[]", path)[0] for path in paths)
    return replace(asked, only=keys) if keys <= answer_keys(VapourPressureAnswer) else asked


def read(study: VapourPressureStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    here = reader.at("temperature")
    T = TEST_TEMPERATURE if study.temperature in EMPTY else here.quantity(study.temperature, "temperature")
    ratios: list[float] = []
    for i, cell in enumerate(study.ratios):
        ratio = reader.at("ratios", i).number(cell, "a ratio of vapour to liquid volume")
        if ratio is not None and not 0.0 < ratio <= 100.0:
            reader.at("ratios", i).fault(
                f"{ratio:g} is no ratio of vapour to liquid volume that is tested; write one above 0, up to 100"
            )
        elif ratio is not None:
            ratios.append(ratio)
    curve = [reader.at("temperatures", i).quantity(cell, "temperature") for i, cell in enumerate(study.temperatures)]
    for key in ("ratios", "temperatures"):
        if len(getattr(study, key)) > MOST:
            reader.at(key).fault(f"{len(getattr(study, key))} values are too many; give at most {MOST}")
    if not isinstance(study.air, bool):
        reader.at("air").fault(
            f"'{study.air}' is neither yes nor no; write true where samples are saturated with air, else false"
        )
    limit = None if study.limit in EMPTY else reader.at("limit").pressure(study.limit)
    reader.at("container").known(study.container, CONTAINERS, "container")
    live = {"live": True, "dead": False}.get(study.container)
    relation = _relation(study.relation, LIVE if live else DEAD, reader.at("relation"))
    if reader.bad or T is None:
        return None
    return Asked(
        study.fluid, T, tuple(ratios), tuple(t for t in curve if t is not None), study.air is True, limit, live, relation
    )  # fmt: skip


def _relation(asked: RelationStudy, usual: Relation, reader: Reader) -> Relation | None:
    """Return an own relation, None where none is given; without a factor its offset is of VPCR4 itself."""
    if asked.factor in EMPTY and asked.offset in EMPTY:
        return None
    here = reader.at("factor")
    factor = 1.0 if asked.factor in EMPTY else here.number(asked.factor, "a factor on VPCR4")
    offset = 0.0 if asked.offset in EMPTY else reader.at("offset").quantity(asked.offset, "pressure_difference")
    if factor is not None and not 0.0 < factor <= 2.0:
        here.fault(
            f"{factor:g} is no factor between VPCR4 and a Reid equivalent; write one above 0, up to 2, for example {usual.factor:g}"
        )
    return None if factor is None or offset is None else Relation(factor, offset)


def solve(asked: Asked, context: Context) -> Answer:
    """Return every vapour pressure; what a test cannot be made of is null and says why."""
    fluid, said = asked_of(context.project, context.fluid(asked.fluid))
    own = context.project.fluid(fluid)
    key = ("vapour pressure", context.project.fluid_key(fluid), asked)
    numbers = context.project.evaluator.cache.get(key, lambda: _numbers(asked, fluid, own, context))
    if asked.only:
        return {**numbers, "notes": []}
    wet = not np.array_equal(_sample(own), own.z)
    return {**numbers, "notes": [*[*said, *own.remarks], *_told(asked, numbers, wet)]}


def _numbers(asked: Asked, fluid: Fluid, own: FluidModel, context: Context) -> Answer:
    watch = context.watch
    out: Answer = {"temperature_K": asked.temperature}
    if asked.wants("TVP_Pa") or asked.wants("curve"):
        TVP = _true_pressures(fluid, own, [asked.temperature, *asked.temperatures], context)
        if TVP[0] is None:
            # Where it has none, the state itself says why.
            TVP[0] = _true(fluid, asked.temperature, context)
        out["TVP_Pa"] = TVP[0]
        if asked.temperatures:
            out["curve"] = [{"temperature_K": t, "TVP_Pa": p} for t, p in zip(asked.temperatures, TVP[1:])]
    if asked.limit is not None and asked.wants("limit_temperature_K"):
        out["limit_temperature_K"] = _held_under(fluid, asked.limit, context)
    # Ratios at the temperature asked, and the one of the Reid equivalent at its own, in one batch each.
    plain = partial(expanded, own.eos, _sample(own), _measure(own))
    if asked.wants("VPCR"):
        found = plain(asked.temperature, np.array(asked.ratios), watch.part(0.1, 0.3)) if asked.ratios else np.empty(0)
        pairs = zip(asked.ratios, found, strict=True)
        out["VPCR"] = [{"ratio": r, "pressure_Pa": float(p) if np.isfinite(p) else None} for r, p in pairs]
    of_tests = ("RVPE_Pa", "live", "LPG_gauge_Pa", "RVP_Pa", "DVPE_Pa")
    if not any(asked.wants(key) for key in of_tests):
        return out
    specimen = _specimen(fluid, context)
    if asked.wants("RVPE_Pa") or asked.wants("live") or asked.wants("LPG_gauge_Pa"):
        out["live"] = asked.live
        if asked.live is None:
            room = specimen.bubble_pressure(specimen.z, ROOM, watch.part(0.3, 0.35))
            out["live"] = room is None or room > ATM
        four, half = plain(TEST_TEMPERATURE, np.array([4.0, LIQUEFIED]), watch.part(0.35, 0.4))
        relation = asked.relation or (LIVE if out["live"] else DEAD)
        out["RVPE_Pa"] = relation(float(four)) if np.isfinite(four) else None
        out["LPG_gauge_Pa"] = float(half) - ATM if half > DVPE_RANGE[1] else None
    if asked.wants("RVP_Pa"):
        out["RVP_Pa"] = reid_pressure(specimen, asked.air, watch.part(0.4, 0.7))
    if asked.wants("DVPE_Pa"):
        dry = dry_pressure(specimen, asked.air, watch.part(0.7, 0.9))
        out["DVPE_Pa"] = dry if dry is not None and DVPE_RANGE[0] <= dry <= DVPE_RANGE[1] else None
    out["precision"] = [_precision("D323", out.get("RVP_Pa")), _precision("D6377", None)]
    return out


def _precision(method: str, value: float | None) -> Answer:
    """Return what a test states of its precision at a pressure it gives, Pa."""
    r, R = PRECISIONS[method].of(np.array([TYPICAL if value is None else value]))
    return {"method": method, "repeatability_Pa": float(r[0]), "reproducibility_Pa": float(R[0])}


def _told(asked: Asked, numbers: Answer, wet: bool) -> list[Remark]:
    """Return what was assumed."""

    def note(code: str, **values: Value) -> Remark:
        return Remark("estimate", f"volatility.{code}", values=values)

    out = [note("wet")] if wet else []
    if numbers["RVP_Pa"] is None:
        out.append(note("no_liquid"))
    else:
        air = "air.saturated" if asked.air else "air.none"
        out.append(note("reid", air=Word(air), T=kelvin(TEST_TEMPERATURE), cold=kelvin(COLD)))
        if numbers["DVPE_Pa"] is None:
            out.append(note("dry_range", low=pascal(DVPE_RANGE[0]), high=pascal(DVPE_RANGE[1])))
    if numbers["LPG_gauge_Pa"] is not None:
        out.append(note("liquefied", T=kelvin(TEST_TEMPERATURE), ratio=LIQUEFIED))
    if numbers["live"]:
        code = "live" if asked.live is None else "live_said"
        out.append(note(code, P=pascal(ATM), T=kelvin(ROOM, 0)))
    if numbers["RVPE_Pa"] is not None:
        own = asked.relation
        relation = own or (LIVE if numbers["live"] else DEAD)
        kept = "live" if numbers["live"] else "dead"
        how = f"relation.{kept if own is None else 'own'}"
        by = "rule" if asked.live is None else "said"
        out.append(
            note(
                "equivalent",
                relation=Word(how),
                container=Word(f"container.{kept}_{by}"),
                slope=relation.factor,
                more=pascal(relation.offset),
                T=kelvin(ROOM, 0),
            )
        )
    return out


def _true(fluid: Fluid, T: float, context: Context) -> float:
    """Return the true vapour pressure at T K, Pa. Raises NoAnswerError."""
    given = {"temperature": Given(T), "vapour_fraction": Given(0.0)}
    return float(state_at(fluid, given, context, []).P[0])


HELD = 1e-5
"""Relative difference from a limit at which its pressure counts as met."""


def _held_under(fluid: Fluid, P: float, context: Context) -> float | None:
    """Return the temperature up to which the true vapour pressure stays under P Pa, K; None where there is none.

    It is put back: the pressure there is P, and a kelvin colder it is less. With hydrogen or nitrogen dissolved it
    may rise again in the cold."""
    try:
        given = {"pressure": Given(P), "vapour_fraction": Given(0.0)}
        T = float(state_at(fluid, given, context, []).T[0])
    except DomainError:
        return None
    there, colder = (_true_or_none(fluid, t, context) for t in (T, T - 1.0))
    good = there is not None and abs(there / P - 1.0) < HELD and (colder is None or colder < P)
    return T if good else None


def _true_pressures(fluid: Fluid, own: FluidModel, T: Sequence[float], context: Context) -> list[float | None]:
    """Return the true vapour pressures at T K, Pa, None where there is none: in one batch what boils into two phases,
    else state by state."""
    at = np.array(T)
    if own.may_have_third:
        return [_true_or_none(fluid, t, context) for t in T]
    found = saturation(own.eos, at, np.tile(own.z, (at.size, 1)), None, context.watch.part(0.0, 0.1))
    good = found.found & found.bubble
    return [float(p) if yes else _true_or_none(fluid, t, context) for t, p, yes in zip(T, found.P, good, strict=True)]


def _true_or_none(fluid: Fluid, T: float, context: Context) -> float | None:
    try:
        return _true(fluid, T, context)
    except DomainError:
        return None


def _specimen(fluid: Fluid, context: Context) -> Specimen:
    """Return the fluid with the components of air among its own."""
    parts = (
        FluidPart(fluid=fluid.name, amount=1.0),
        FluidPart(component="nitrogen", amount=0.79 * TRACE),
        FluidPart(component="oxygen", amount=0.21 * TRACE),
    )
    project = holding(context.project, fluid)
    model = project.fluid(Fluid(name=f"{fluid.name} with air", parts=parts, model=fluid.model))
    names = list(model.names)
    air = names.index("nitrogen"), names.index("oxygen")
    return Specimen(model.eos, _sample(model), *air, model.molar_mass, _measure(model))


def _sample(model: FluidModel) -> Array:
    """Return the mole fractions that the laboratory tests, (nc,): free water is parted from a sample, and a bomb's
    own is not simulated."""
    if model.water is None:
        return model.z
    rest = np.where(np.arange(model.z.size) == model.water, 0.0, model.z)
    return rest / rest.sum() if rest.sum() > 10.0 * TRACE else model.z


def _measure(model: FluidModel) -> Whole:
    def whole(phases: Phases, keys: Sequence[str]) -> Mapping[str, Array]:
        return evaluate(model.substance, phases, keys).whole

    return whole


TRUE_ALONE = frozenset(("TVP_Pa", "curve", "temperature_K"))
"""Keys of the answer that follow from bubble points alone."""


def solve_together(
    items: Sequence[tuple[Asked, Project]], base: tuple[Asked, Project], watch: Watch
) -> list[Answer | DomainError]:
    """Return the answers of samples of one fluid: true vapour pressures, where nothing else is wanted, as one batch of
    bubble points."""
    found = _true_together(items, base[0], watch.part(0.0, 0.7))
    return rest_alone(items, found, solve, watch.part(0.7, 1.0))


def _true_together(items: Sequence[tuple[Asked, Project]], asked: Asked, watch: Watch) -> dict[int, Answer]:
    """Return the answers of the samples whose true vapour pressures are those of bubble points, by their place."""
    if not asked.only or not asked.only <= TRUE_ALONE:
        return {}
    models: list[FluidModel] = []
    places: list[int] = []
    for i, (one, project) in enumerate(items):
        try:
            fluid, _ = asked_of(project, Context(project, watch).fluid(one.fluid))
            model = project.fluid(fluid)
        except DomainError:
            continue
        if not model.may_have_third and (not models or model.z.size == models[0].z.size):
            models.append(model)
            places.append(i)
    eos = stacked([m.eos for m in models])
    if eos is None:
        return {}
    T = np.array([asked.temperature, *asked.temperatures])
    each = np.repeat(np.arange(len(models)), T.size)
    z = np.array([m.z for m in models])
    point = saturation(eos.take(each), np.tile(T, len(models)), z[each], None, watch)
    good = (point.found & point.bubble).reshape(len(models), -1)
    P = point.P.reshape(len(models), -1)
    out: dict[int, Answer] = {}
    for row, i in enumerate(places):
        if good[row].all() and items[i][0] == asked:
            pairs = zip(asked.temperatures, P[row, 1:].tolist())
            out[i] = {
                "temperature_K": asked.temperature,
                "TVP_Pa": float(P[row, 0]),
                "curve": [{"temperature_K": t, "TVP_Pa": p} for t, p in pairs],
                "notes": [],
            }
    return out


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    reid = f", Reid {units.text(pascal(answer['RVP_Pa']))}" if answer["RVP_Pa"] is not None else ""
    return f"true {units.text(pascal(answer['TVP_Pa']))}{reid}"


def begin(fluid: str, at: tuple[float, float] | None) -> VapourPressureStudy:
    """Return a new question about a fluid."""
    return VapourPressureStudy(
        name=f"Vapour pressure of {fluid}",
        kind="vapour_pressure",
        fluid=fluid,
        ratios=(0.1, 0.5, 1, 2, 4, 8, 15),
        temperatures=tuple(f"{t} degC" for t in range(0, 65, 5)),
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the true and Reid's, and up to where the limit is kept."""
    text = f"True {units.text(pascal(answer['TVP_Pa']))}"
    if answer["RVP_Pa"] is not None:
        text += f", Reid {units.text(pascal(answer['RVP_Pa']))}"
    if asked.limit is not None and answer.get("limit_temperature_K") is not None:
        text += f"; keeps under {units.given(pascal(asked.limit))} up to {units.text(kelvin(answer['limit_temperature_K']))}"
    return f"{text}."


register(
    StudyKind(
        name="vapour_pressure", title="Vapour pressure", meaning="true vapour pressure, and what Reid's and other tests would measure",
        model=VapourPressureStudy, answer=VapourPressureAnswer, read=read, solve=solve, line=line, begin=begin, order=35, narrowed=narrowed, together=solve_together,
        sentence="How volatile is {fluid} at {temperature}[, at vapour to liquid ratios of {ratios}][, and at {temperatures}][, kept under {limit}][?, the sample {air}][?, in {container}][?, Reid's equivalent being {relation.factor} times VPCR4 and {relation.offset}]?",
        phrases=('vapour pressure', 'vapor pressure', 'reid vapour pressure', 'reid vapor pressure', 'true vapour pressure', 'true vapor pressure', 'rvp', 'tvp', 'vpcr', 'vpcr4', 'dvpe', 'volatile', 'volatility', 'reid'),
        clues={"limit": ("under", "below", "limit", "kept under", "stay under"), "ratios": ("ratio", "ratios", "v/l")},
        says=says,
    )
)  # fmt: skip
