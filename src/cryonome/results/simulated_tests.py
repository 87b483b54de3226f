"""Lab tests as questions: one simulation serves the answer (one set of parameters) and the fit (many), and measured
values stand beside it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, NotRequired, TypeVar

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from ..document import Fluid, Reader
from ..document.field_types import Cell, OfKind, Temperature
from ..document.model import Measured
from ..document.ranges import Range, read_values
from ..document.read_measured import MeasuredValues
from ..equilibrium.saturation import HIGHEST, Saturation
from ..fluids.building import FluidModel
from ..labtests import LabFluid
from ..remarks import Remark, kelvin, pascal
from ..watch import Watch
from .common import Common
from .context import Answer, Context, NoAnswerError
from .evaluator import Project

Array = NDArray[np.float64]

MOST = 300
"""Pressures, stages or amounts of one test."""
MOST_PRESSURE = 3e8
FINE = 48
"""Pressures of a smooth line."""


@dataclass(frozen=True)
class Simulated:
    """A test of M sets of parameters: ``rows`` by key (M, n), ``compositions`` by key (M, n, nc), single numbers by
    path (M,); ``saturation`` of the fluid, None where the test has none; ``rows_of`` the name of the list the rows
    stand in, "" for none."""

    rows: Mapping[str, Array] = field(default_factory=dict)
    singles: Mapping[str, Array] = field(default_factory=dict)
    compositions: Mapping[str, Array] = field(default_factory=dict)
    saturation: Saturation | None = None
    names: tuple[str, ...] = ()

    def values(self, key: str, rows: bool) -> Array | None:
        """Return what was simulated under a key: (M, n) of rows, (M, 1) of a single number; None where there is no
        such."""
        if not rows:
            found = self.singles.get(key)
            return None if found is None else found[:, None]
        if key in self.rows:
            return self.rows[key]
        phase, _, name = key.partition(".")
        if phase in self.compositions and name in self.names:
            return np.asarray(self.compositions[phase][:, :, self.names.index(name)])
        return None


Simulate = Callable[[Any, LabFluid, FluidModel, Saturation | None, Watch], Simulated]


@dataclass(frozen=True)
class LabTest:
    """How a kind of test is simulated: ``prepare`` gives the fluid it is of (swelling has the gas's components too)
    and what is asked of it, ``simulate`` the result from that, a fluid of M sets, its model and points near its
    saturation; ``along`` the key its rows are drawn over, "" for none, and ``places`` the values of it; ``finer``
    what is asked with places between for a smooth picture, None where its steps follow from one another; ``drawn``
    the keys of the rows that have a picture, the most telling first; ``saturated_at`` the temperature K whose
    saturation point the simulation takes from points near, None for none."""

    simulate: Simulate
    along: str = ""
    places: Callable[[Any], Sequence[float]] = lambda asked: ()
    drawn: tuple[str, ...] = ()
    finer: Callable[[Any], Any] | None = None
    saturated_at: Callable[[Any], float | None] = lambda asked: None
    prepare: Callable[[Any, Project, Fluid], tuple[FluidModel, Any]] = lambda asked, project, fluid: (
        dry(project.fluid(fluid)),
        asked,
    )


def dry(model: FluidModel) -> FluidModel:
    """Return a fluid without its water, as laboratories test it; a fluid of water alone stays."""
    if model.water is None or model.z.size == 1:
        return model
    keep = np.flatnonzero(np.arange(model.z.size) != model.water)
    components = tuple(model.components[i] for i in keep)
    eos = model.eos.of(keep)
    match = model.substance.match
    substance = replace(
        model.substance,
        eos=eos,
        components=components,
        shift=model.substance.shift[keep],
        slope=model.substance.shifts.slope[keep],
        match=None if match is None else replace(match, share=match.share[keep]),
    )
    pairs = replace(
        model.pairs,
        kij=model.pairs.kij[np.ix_(keep, keep)],
        slope=None if model.pairs.slope is None else model.pairs.slope[np.ix_(keep, keep)],
        salt=None,
        aqueous=(),
        warming=None if model.pairs.warming is None else model.pairs.warming[np.ix_(keep, keep)],
    )
    z = model.z[keep] / model.z[keep].sum()
    return FluidModel(
        model.name, components, z, eos, substance, pairs, model.remarks, tuple(model.origin[i] for i in keep)
    )


def lab_fluid(model: FluidModel) -> LabFluid:
    """Return a fluid as one set of parameters."""
    s = model.substance
    nc = model.z.size
    thicker = thicker_T = np.zeros(nc)
    if s.match is not None:
        a, b = s.match.line
        thicker, thicker_T = a * s.match.share, b * s.match.share
    each = (model.z, s.shift, s.molar_mass, s.Tc, s.Pc, s.Vc, thicker + s.thicker, thicker_T, s.shifts.slope)
    z, shift, mass, Tc, Pc, Vc, a1, b1, slope = (np.asarray(v, float)[None, :] for v in each)
    return LabFluid(model.eos, z, shift, mass, Tc, Pc, Vc, s.viscosity, a1, b1, slope)


class StepsStudy(Measured):
    """A test of a fluid at a ``temperature`` over ``pressures``."""

    temperature: Temperature = None
    pressures: Annotated[tuple[Cell, ...] | Range, OfKind("pressure")] = ()


S = TypeVar("S", bound=StepsStudy)


def begin_steps(model: type[S], kind: str, title: str, fluid: str, T: float, pressures: tuple[Cell, ...] | Range) -> S:
    """Return a new test of steps of a fluid at T K."""
    return model(
        name=f"{title} of {fluid}", kind=kind, fluid=fluid, temperature=f"{T - 273.15:.5g} degC", pressures=pressures
    )


@dataclass(frozen=True)
class Steps:
    """What a test of steps asks: temperature K and pressures Pa."""

    fluid: str
    T: float
    P: tuple[float, ...]


def read_steps(study: StepsStudy, reader: Reader, falling: bool) -> Steps | None:
    """Return what a test of steps asks, in SI; where one step follows from another the pressures must fall."""
    T = read_test_temperature(study.temperature, reader.at("temperature"))
    P = read_pressures(study.pressures, reader.at("pressures"), falling)
    return None if T is None or P is None else Steps(study.fluid, T, P)


def between(asked: Steps) -> Steps:
    """Return a test of steps that are independent of each other with pressures between, for a picture."""
    fine = np.linspace(min(asked.P), max(asked.P), FINE)
    return replace(asked, P=tuple(sorted({*asked.P, *fine.tolist()}, reverse=True)))


def answer_steps(test: LabTest, asked: Steps, keys: Sequence[str], context: Context, lone: bool = False) -> Answer:
    """Return saturation, rows and notes of a test of steps; ``lone`` where it can be made of what never parts. Raises
    NoAnswerError without a saturation point else."""
    model, found = simulate(test, asked, context)
    at = found.saturation
    assert at is not None
    answer: Answer = {"rows": rows_of(found, "pressure_Pa", asked.P, keys)}
    if not lone or at.found[0] or at.endless[0]:
        answer = {"saturation": saturated(at, asked.T), **answer}
    return {**answer, "notes": [*model.remarks, *left_out(context, context.fluid(asked.fluid))]}


class SaturationAnswer(TypedDict):
    """Where the fluid begins to part at the temperature of the test."""

    kind: str
    pressure_Pa: float


class ComparisonAnswer(TypedDict):
    """A measured value beside the model's, in the unit of the key: ``row`` of the answer, null for a single value;
    ``uncertainty`` one standard deviation."""

    key: str
    row: int | None
    ours: float | None
    theirs: float
    deviation_percent: float | None
    uncertainty: float


class DrawnAnswer(TypedDict):
    """What a check is seen by: points that are to lie on a line, their ``marks`` (good, bad, or beside what is
    judged) and names; ``x_key`` is the key that tells what x is, else ``x_title``."""

    title: str
    x_key: str
    x_title: str
    y_title: str
    x: list[float]
    y: list[float]
    line: list[float]
    marks: list[str]
    names: list[str]


class CheckAnswer(TypedDict):
    """What a check of the report found: ``verdict`` good, doubtful or bad; ``rows`` those it is about; ``drawn``
    where there is a picture of it."""

    check: str
    verdict: str
    sentence: str
    rows: list[int]
    drawn: NotRequired[DrawnAnswer]


class Tested(Common):
    """What the answer of a test that carries measured values has beside its own."""

    measured: NotRequired[list[ComparisonAnswer]]
    average_deviation_percent: NotRequired[float]
    checks: NotRequired[list[CheckAnswer]]


def read_pressures(given: tuple[Cell, ...] | Range, here: Reader, falling: bool) -> tuple[float, ...] | None:
    """Return the pressures of a test, Pa; where the steps of it follow each other they must fall."""
    found = read_values(given, here, "pressure", MOST)
    if found is None:
        return None
    if not found:
        here.fault("the test has no pressure yet; list those of the report")
        return None
    if isinstance(given, Range) and falling and found[0] < found[-1]:
        found = found[::-1]
    for i, P in enumerate(found):
        at = here if isinstance(given, Range) else here.at(i)
        at.physical(P, 1.0, MOST_PRESSURE, "a pressure", "bar", 1e-5)
        if falling and i and found[i - 1] <= P:
            at.fault(
                f"{P / 1e5:.6g} bar follows {found[i - 1] / 1e5:.6g} bar; the pressures of this test must fall from step to step"
            )
    return found


def read_test_temperature(cell: Cell, here: Reader) -> float | None:
    """Return the temperature of a test, K."""
    return here.physical(here.quantity(cell, "temperature"), 150.0, 800.0, "a temperature of a test", "K")


def saturated(found: Saturation, T: float) -> SaturationAnswer:
    """Return the saturation point of one set. Raises NoAnswerError where there is none."""
    if not bool(found.found[0]):
        code = "lab.endless" if bool(found.endless[0]) else "lab.no_saturation"
        raise NoAnswerError(Remark("warning", code, "", {"T": kelvin(T), "P": pascal(HIGHEST)}))
    return {"kind": "bubble" if bool(found.bubble[0]) else "dew", "pressure_Pa": float(found.P[0])}


def simulate(test: LabTest, asked: Any, context: Context) -> tuple[FluidModel, Simulated]:
    """Return the fluid of a test and what it gives."""
    model, ready = test.prepare(asked, context.project, context.fluid(asked.fluid))
    with np.errstate(invalid="ignore", divide="ignore"):
        return model, test.simulate(ready, lab_fluid(model), model, None, context.watch)


def rows_of(found: Simulated, along: str, places: Sequence[float], keys: Sequence[str]) -> list[Answer]:
    """Return the rows of one set with null where there is no value."""
    out = []
    for i, place in enumerate(places):
        row: Answer = {along: place} if along else {}
        for key in keys:
            value = float(found.rows[key][0, i])
            row[key] = value if np.isfinite(value) else None
        for key, table in found.compositions.items():
            x = table[0, i]
            row[key] = {n: float(v) for n, v in zip(found.names, x)} if np.isfinite(x).all() else None
        out.append(row)
    return out


def left_out(context: Context, fluid: Fluid) -> list[Remark]:
    """Say that a test is of the fluid without its water."""
    model = context.project.fluid(fluid)
    return [] if model.water is None or model.z.size == 1 else [Remark("correction", "lab.without_water")]


DEFAULTS: tuple[tuple[str, float, float], ...] = (
    ("pressure_Pa", 0.01, 0.0), ("relative_volume", 0.005, 0.0), ("liquid_volume_fraction", 0.03, 0.005),
    ("produced_mole_fraction", 0.01, 0.003), ("Z", 0.01, 0.0), ("Y", 0.03, 0.0), ("gas.", 0.03, 0.0005), ("liquid.", 0.03, 0.0005),
    ("oil_volume_factor", 0.01, 0.0), ("total_volume_factor", 0.01, 0.0), ("solution_gas_m3_m3", 0.02, 0.5), ("gas_oil_ratio_m3_m3", 0.02, 0.5), ("gas_Z", 0.01, 0.0),
    ("gas_gravity", 0.02, 0.0), ("gas_volume_factor", 0.02, 0.0), ("density_kg_m3", 0.005, 0.0), ("viscosity_Pa_s", 0.08, 0.0), ("api", 0.0, 0.4), ("swelling_factor", 0.005, 0.0),
    ("temperature_K", 0.0, 1.0),
)  # fmt: skip
"""Relative and absolute uncertainty by what a key begins or ends with: what routine reports keep, the larger of the
two."""


def uncertainty(measured: MeasuredValues, value: float) -> float:
    """Return one standard deviation of a measured value in the unit of its key: the one given, else by its kind."""
    if measured.absolute is not None:
        return measured.absolute
    if measured.relative is not None:
        return max(measured.relative * abs(value), 1e-12)
    key = measured.key.rsplit(".", 1)[-1]
    for name, relative, absolute in DEFAULTS:
        if key.endswith(name) or measured.key.startswith(name):
            return max(relative * abs(value), absolute, 1e-12)
    return max(0.02 * abs(value), 1e-12)


LEAST_SHARE = 1e-3
"""Mole fraction below which a percentage of a composition tells nothing but rounding."""


def telling(key: str, value: float) -> bool:
    """Tell whether a deviation in percent of a measured value says something."""
    return abs(value) >= (LEAST_SHARE if key.startswith(("gas.", "liquid.")) else 1e-300)
