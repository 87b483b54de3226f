"""A fluid on the bench: its lab tests with what was measured, simulated for many sets of parameters, as residuals for
the fit."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..components import UnknownComponentError, find
from ..document import Fluid, Study
from ..document.checks import StudyReading
from ..document.faults import errors
from ..document.kinds import study_kinds
from ..equilibrium.saturation import Saturation
from ..errors import DomainError
from ..fluids.building import FluidModel
from ..fluids.tuned import base_of
from ..labtests import LabFluid
from ..remarks import Remark, Value
from ..results.context import NoAnswerError
from ..results.evaluator import Project
from ..results.simulated_tests import LabTest, Simulated, telling, uncertainty
from ..tuning import PROPERTIES, Base, Parameter, heavy_ends, tuned
from ..watch import UNWATCHED

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Wanted:
    """A parameter as asked: a ``property`` of ``components`` by name or id ("heavy" for all heavy ends), of
    interaction parameters ``partners``; its bounds, start (None for the untuned value) and prior width (None for
    none)."""

    property: str
    components: tuple[str, ...]
    partners: tuple[str, ...]
    low: float
    high: float
    start: float | None = None
    prior: float | None = None


@dataclass(frozen=True)
class Ask:
    """A match as it is asked: the names of the fluid and its tests, the parameters (none: to be proposed), the tests
    held out, weights by test."""

    name: str
    fluid: str
    tests: tuple[str, ...]
    parameters: tuple[Wanted, ...]
    held_out: tuple[str, ...]
    weights: tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class Datum:
    """Measured values of one key of a test: ``rows`` (n,) of the answer, or None for a single value, ``values`` (n,)
    and their standard deviations (n,)."""

    key: str
    rows: NDArray[np.intp] | None
    values: Array
    sigma: Array


@dataclass(frozen=True)
class Test:
    """A test on the bench: its name and kind, what is asked, the base of its fluid, what of the ``measured`` values
    the untuned model gives (``data``), and how much it counts."""

    __test__ = False

    name: str
    kind: str
    how: LabTest
    ready: Any
    model: FluidModel
    base: Base
    data: tuple[Datum, ...]
    weight: float
    held: bool
    measured: tuple[Datum, ...] = ()

    @property
    def size(self) -> int:
        """Number of measured values."""
        return sum(d.values.size for d in self.data)

    @property
    def temperature(self) -> float | None:
        """Temperature K of its saturation point, None where it needs none."""
        return self.how.saturated_at(self.ready)


class Bench:
    """Tests of one fluid, simulated for many sets of parameters; what was found last is where the next search
    begins."""

    def __init__(self, tests: Sequence[Test], wanted: Sequence[Wanted]) -> None:
        self.tests = tuple(tests)
        self.wanted = tuple(wanted)
        self.fitted = [t for t in self.tests if not t.held]
        self._near: dict[tuple[int, float], Saturation] = {}
        self._latest: dict[str, Simulated] = {}

    # -- parameters ------------------------------------------------------------------------------------------------

    def parameters(self, base: Base) -> tuple[Parameter, ...]:
        """Return the parameters as places among the components of a base. Raises NoAnswerError for a name that is not
        there."""
        return tuple(Parameter(w.property, places(base, w.components), places(base, w.partners)) for w in self.wanted)

    def starts(self) -> Array:
        """Return the values (p,) the fit begins at: those of the untuned fluid, the mean of interaction parameters."""
        base = self.tests[0].base
        out = []
        for w, p in zip(self.wanted, self.parameters(base)):
            own = 1.0
            if PROPERTIES[w.property].plain:
                pairs = [base.pairs.kij[i, j] for i in p.places for j in p.partners if i != j]
                own = float(np.mean(pairs)) if pairs else 0.0
            out.append(own if w.start is None else w.start)
        return np.array(out)

    # -- simulation ------------------------------------------------------------------------------------------------

    def simulated(
        self, values: Array | None, tests: Sequence[Test] | None = None, keep: bool = False
    ) -> dict[str, Simulated]:
        """Return tests by name for sets ``values`` (M, p), the untuned fluid where none are given; ``keep`` the
        points of the first as those to begin from."""
        fluids: dict[int, LabFluid] = {}
        points: dict[tuple[int, float], Saturation] = {}
        out = {}
        for test in self.tests if tests is None else tests:
            key = id(test.base)
            if key not in fluids:
                parameters = self.parameters(test.base) if values is not None else ()
                fluids[key] = tuned(test.base, parameters, np.zeros((1, 0)) if values is None else values)
            fluid, T = fluids[key], test.temperature
            near = None
            if T is not None:
                if (key, T) not in points:
                    points[key, T] = fluid.saturation(T, self._started(key, T, fluid.size))
                    if keep or (key, T) not in self._near:
                        self._near[key, T] = points[key, T].take(np.zeros(1, np.intp))
                near = points[key, T]
            with np.errstate(all="ignore"):
                out[test.name] = test.how.simulate(test.ready, fluid, test.model, near, UNWATCHED)
        if keep and values is not None:
            self._latest = out
        return out

    def finer(self, values: Array | None) -> dict[str, tuple[Any, Simulated]]:
        """Return what is asked with places between, and what one set ``values`` (p,) or the untuned fluid gives
        there, of the tests that have such."""
        own = [replace(t, ready=t.how.finer(t.ready)) for t in self.tests if t.how.finer is not None]
        found = self.simulated(None if values is None else values[None, :], own) if own else {}
        return {t.name: (t.ready, found[t.name]) for t in own}

    def completed(self, values: Array) -> dict[str, Simulated]:
        """Return all tests of one set ``values`` (p,) whose fitted tests were simulated last."""
        own = self._latest
        return own | self.simulated(values[None, :], [t for t in self.tests if t.name not in own])

    def _started(self, key: int, T: float, size: int) -> Saturation | None:
        kept = self._near.get((key, T))
        return None if kept is None else kept.take(np.zeros(size, np.intp))

    def residuals(self, values: Array | None, tests: Sequence[Test] | None = None, keep: bool = False) -> Array:
        """Return what the model gives less what was measured, in standard deviations divided by the root of the
        weight, (M, n)."""
        tests = self.fitted if tests is None else tests
        found = self.simulated(values, tests, keep)
        m = 1 if values is None else values.shape[0]
        parts = []
        for test in tests:
            for datum in test.data:
                got = ours(found[test.name], datum)
                if got is None:
                    got = np.full((m, datum.values.size), np.nan)
                parts.append((got - datum.values) / datum.sigma * np.sqrt(test.weight))
        return np.concatenate(parts, axis=1) if parts else np.zeros((m, 0))


def ours(found: Simulated, datum: Datum) -> Array | None:
    """Return what was simulated beside a datum, (M, n); None where the test has no such value."""
    values = found.values(datum.key, datum.rows is not None)
    if values is None or datum.rows is None:
        return values
    # What was measured beyond the rows that are asked has no partner.
    out = np.full((values.shape[0], datum.rows.size), np.nan)
    there = datum.rows < values.shape[1]
    out[:, there] = values[:, datum.rows[there]]
    return out


def places(base: Base, names: Sequence[str]) -> tuple[int, ...]:
    """Return the places of components by name or id, "heavy" for the heavy ends, "all" for all. Raises NoAnswerError
    for one that is not there."""
    out: list[int] = []
    known = {c.name: i for i, c in enumerate(base.components)} | {c.identity: i for i, c in enumerate(base.components)}
    for name in names:
        if name == "heavy":
            out += heavy_ends(base.components)
        elif name == "all":
            out += range(len(base.components))
        elif name in known:
            out.append(known[name])
        else:
            try:
                out.append(known[find(name).name])
            except (UnknownComponentError, KeyError):
                there = tuple(c.name for c in base.components)
                raise NoAnswerError(
                    Remark("warning", "match.unknown_component", "", {"name": name, "names": there[:12]})
                ) from None
    return tuple(dict.fromkeys(out))


def bench(
    fluid: Fluid,
    studies: Sequence[tuple[Study, StudyReading]],
    wanted: Sequence[Wanted],
    project: Project,
    weights: Mapping[str, float],
    held: Sequence[str],
    remarks: list[Remark],
) -> Bench:
    """Return the tests of a fluid with what was measured, the fluid without its tuning. Raises DomainError where
    there is nothing to fit."""
    plain = fluid.model_copy(update={"model": fluid.model.model_copy(update={"tuned": None})})
    reading = project.input_of(plain)
    if reading is None:
        raise DomainError(f"{fluid.name}: {errors(project.read_fluid(plain).faults)[0].message}")
    if not studies:
        raise NoAnswerError(Remark("warning", "match.nothing_measured"))
    tests, bases = [], {}  # type: tuple[list[Test], dict[tuple[str, ...], tuple[FluidModel, Base]]]
    for study, found in studies:
        how = study_kinds()[study.kind].test
        model, ready = how.prepare(found.asked, project, plain)
        known = tuple(c.identity for c in model.components)
        if known not in bases:
            base = base_of(reading.model, model.components, model.z, model.pairs)
            match = model.substance.match
            if match is not None:
                a, b = match.line
                base = replace(base, thicker=a * match.share, thicker_T=b * match.share)
            bases[known] = model, base
        model, base = bases[known]
        data = tuple(d for given in found.measured.values() if (d := datum_of(given)) is not None)
        tests.append(
            Test(
                study.name, study.kind, how, ready, model, base, data, weights.get(study.name, 1.0), study.name in held
            )
        )
    bench = Bench(tests, wanted)
    first = bench.simulated(None)
    kept = []
    for test in tests:
        usable = []
        for d in test.data:
            got = ours(first[test.name], d)
            if got is None:
                remarks.append(Remark("warning", "match.no_such_key", "", {"key": d.key, "test": test.name}))
                continue
            there = np.isfinite(got[0])
            if not there.all():
                values: dict[str, Value] = {"key": d.key, "test": test.name, "count": int((~there).sum())}
                remarks.append(Remark("warning", "match.no_partner", "", values))
            if there.any():
                rows = None if d.rows is None else d.rows[there]
                usable.append(Datum(d.key, rows, d.values[there], d.sigma[there]))
        kept.append(replace(test, data=tuple(usable), measured=test.data))
    bench.tests = tuple(kept)
    bench.fitted = [t for t in kept if not t.held and t.size]
    return bench


def set_up(asked: Ask, project: Project, wanted: Sequence[Wanted], remarks: list[Remark]) -> Bench:
    """Return the bench of a match with parameters. Raises DomainError."""
    document = project.document
    fluid = document.fluid(asked.fluid)
    if fluid is None:
        raise DomainError(f"unknown fluid '{asked.fluid}'")
    studies = [s for s in document.studies if s.name in asked.tests]
    pairs = [(s, project.read_study(s)) for s in studies]
    return bench(fluid, pairs, wanted, project, dict(asked.weights), asked.held_out, remarks)


def datum_of(given: Any) -> Datum | None:
    """Return the measured values of one key that are there."""
    rows = np.array([i for i, v in enumerate(given.values) if v is not None], dtype=np.intp)
    if rows.size == 0:
        return None
    values = np.array([given.values[i] for i in rows], float)
    sigma = np.array([uncertainty(given, v) for v in values])
    return Datum(given.key, rows if given.rows else None, values, sigma)


def deviations(found: Mapping[str, Simulated], tests: Sequence[Test]) -> dict[str, float | None]:
    """Return the average absolute deviation in percent by test, of the first set; None for a test without a value."""
    out: dict[str, float | None] = {}
    for test in tests:
        off: list[float] = []
        for d in test.data:
            got = ours(found[test.name], d)
            if got is not None:
                off += [
                    100.0 * abs(o / v - 1.0)
                    for o, v in zip(got[0].tolist(), d.values.tolist())
                    if telling(d.key, v) and np.isfinite(o)
                ]
        out[test.name] = sum(off) / len(off) if off else None
    return out
