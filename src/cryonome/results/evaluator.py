"""Derived results, computed once per content of their inputs.

Each result names its inputs; its key is their content, so an edit recomputes what depends on it and nothing else, and
undoing an edit finds the old result again. No result enters the document. Safe to use from several threads.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, ClassVar, TypeVar

from pydantic import BaseModel

from ..characterization import CharacterizedSample, characterize
from ..characterization.methods import CARBON
from ..document import (
    Document,
    Fault,
    Fluid,
    FluidInput,
    FluidReading,
    Sample,
    SampleReading,
    Study,
    read_fluid,
    read_sample,
)
from ..document.checks import Remembered, StudyReading, read_study, unique_names
from ..document.drafts import draft_faults
from ..document.faults import PathParts, errors
from ..document.inner_fluids import inner_names, used_samples
from ..document.kinds import study_kinds
from ..document.narrowing import narrowed, outline
from ..document.read_model import ModelInput
from ..document.references import GROUPS, Reached, about, reached
from ..equilibrium.phase_map import PhaseMap, phase_map, with_fractions
from ..equilibrium.regions import Regions, regions
from ..equilibrium.retrace import lines_near, retraced, with_moved_fractions
from ..equilibrium.spinodal import Spinodal, spinodal
from ..equilibrium.volume_lines import VolumeLine, volume_lines
from ..errors import DomainError
from ..fluids.blending import Sources
from ..fluids.building import FluidModel, build_fluid
from ..fluids.sample_lumping import LumpingEffect, lumping_effect
from ..watch import UNWATCHED, Watch
from .cache import Cache
from .fit_control import FitControl

T = TypeVar("T")


class Evaluator:
    """Computes and remembers the results of documents. ``answering`` is what answers a question of a project; the
    package of questions gives it."""

    answering: ClassVar[Callable[[Study, Project], dict[str, Any]] | None] = None

    def __init__(self) -> None:
        self.cache = Cache()
        self._identities = Remembered(READINGS)
        self.readings = Cache(READINGS)
        self._traced = Cache(FOLLOWED)
        self.answers = Cache(ANSWERS)
        self.fits = FitControl()

    def at(self, document: Document) -> Project:
        """Return a document with its results."""
        return Project(document, self)

    def last_map(self, model: FluidModel, inner: tuple[float, ...] = ()) -> PhaseMap | None:
        """Return the envelope last traced of a fluid of these very components, with lines of ``inner`` where there
        are any, to trace a changed one from."""
        kept = self._traced.peek((_family(model), inner))
        return kept if isinstance(kept, PhaseMap) else None

    def keep_map(self, model: FluidModel, inner: tuple[float, ...], whole: PhaseMap) -> None:
        """Keep an envelope to trace the next one from."""
        self._traced.put((_family(model), inner), whole)

    def remembered(self, key: tuple[object, ...], compute: Callable[[], T]) -> T:
        """Return what was computed for these very objects, computing it where they are new."""
        return self._identities.get(key, compute)


LINES = -1.0
"""Begins what stands in place of inner fractions where stretches of lines are kept to move others from."""

READINGS = 2048
"""Parts of documents whose reading is kept."""

ANSWERS = 400
"""Answers of questions that are kept by their content."""

FOLLOWED = 12
"""Fluids whose last envelope is kept to trace the next from."""


def _family(model: FluidModel) -> object:
    """Return what fluids share whose envelopes may lie close to each other."""
    return model.name, type(model.eos), tuple(c.identity for c in model.components)


@dataclass(frozen=True)
class Given:
    """A fluid that a question gives: the question, its answer, and the fluid as it is read."""

    study: Study
    answer: dict[str, Any]
    input: FluidInput


@dataclass(frozen=True)
class Project:
    """A document and the results of its parts, each computed where it is asked for."""

    document: Document
    evaluator: Evaluator

    # -- samples ---------------------------------------------------------------------------------------------------

    def content(self, part: Sample | Fluid | Study) -> str:
        """Return what a part says as text, without what changes no result: notes, how it is shown, variants that are
        kept beside it."""
        return self.evaluator.remembered(
            (Project.content, part), lambda: part.model_dump_json(exclude=_shown_alone(part))
        )

    def reached(self, part: BaseModel) -> Reached:
        """Return what a part depends on."""
        document = self.document
        key = (reached, part, document.samples, document.fluids, document.studies, document.values)
        return self.evaluator.remembered(key, lambda: reached(part, document))

    def narrowed(self, part: BaseModel, names: bool = True) -> Document:
        """Return the document as a part may know it: what it depends on, and of all else its place, and its name
        where ``names``. What is computed from that cannot depend on anything that the part does not declare."""
        document = self.document
        key = (Project.narrowed, names, part, document.samples, document.fluids, document.studies, document.values)
        return self.evaluator.remembered(key, lambda: narrowed(document, part, self.reached(part), names))

    def _around(self) -> object:
        """Return the names, identities and kinds of everything there is, which refusals tell and references are
        looked up in."""
        document = self.document
        key = (Project._around, document.samples, document.fluids, document.studies, document.values)
        return self.evaluator.remembered(key, lambda: outline(document))

    def read_sample(self, sample: Sample) -> SampleReading:
        """Return what a sample says, read once; paths of faults begin at the sample."""
        text = self.evaluator.remembered((read_sample, sample), lambda: sample.model_dump_json(exclude={"note"}))
        return self.evaluator.readings.get((read_sample, text), lambda: read_sample(sample))

    def read(self, part: Sample | Fluid | Study) -> tuple[Fault, ...]:
        """Return what is wrong with a part; paths begin at it."""
        if isinstance(part, Sample):
            return self.read_sample(part).faults
        return self.read_fluid(part).faults if isinstance(part, Fluid) else self.read_study(part).faults

    def faults(self) -> list[Fault]:
        """Return every fault of the document that forbids something, in its order."""
        document = self.document
        found = [*unique_names(document), *draft_faults(document)]
        for group in GROUPS:
            for i, part in enumerate(getattr(document, group)):
                found += placed(self.read(part), (group, i))
        return errors(found)

    def read_study(self, study: Study) -> StudyReading:
        """Return what a question asks, read once; paths of faults begin at the question."""
        key = (read_study, self.content(study), self._contents(study), self._around())
        return self.evaluator.readings.get(key, lambda: read_study(study, self.narrowed(study)))

    def _contents(self, part: Fluid | Study) -> tuple[str, ...]:
        """Return the contents of everything that a part depends on."""
        return tuple(self.content(p) for p in self.reached(part).parts)

    def sample_key(self, sample: Sample) -> tuple[str, str]:
        """Return the content a sample's result depends on."""
        return ("sample", self.content(sample))

    def characterized(self, sample: Sample, boundaries: tuple[float, ...] | None = None) -> CharacterizedSample:
        """Return a sample cut and characterized, at ``boundaries`` (K) in place of its own. Raises DomainError."""
        reading = self.read_sample(sample)
        lab = reading.lab
        if lab is None:
            raise DomainError(f"{sample.name}: {reading.blocking[0].message}")
        if boundaries is None or lab.method == CARBON:
            return self.evaluator.cache.get(self.sample_key(sample), lambda: characterize(lab))
        choice = replace(lab.cuts, boundaries=boundaries, names=(), ids=tuple(f"{b:.2f}" for b in boundaries))
        return self.evaluator.cache.get(
            (*self.sample_key(sample), boundaries), lambda: characterize(replace(lab, cuts=choice))
        )

    def lumping(self, sample: Sample, T: float, watch: Watch = UNWATCHED) -> LumpingEffect | None:
        """Return what lumping does to a sample's saturation pressure at T K, None where nothing is lumped."""
        model = ModelInput()
        return self.evaluator.cache.get(
            ("lumping", self.sample_key(sample), T), lambda: lumping_effect(self.characterized(sample), T, model, watch)
        )

    # -- fluids ----------------------------------------------------------------------------------------------------

    def read_fluid(self, fluid: Fluid) -> FluidReading:
        """Return what a fluid says, read once; paths of faults begin at the fluid."""
        key = (read_fluid, self.content(fluid), self._contents(fluid), self._around())
        return self.evaluator.readings.get(key, lambda: read_fluid(fluid, self.document))

    def fluid_key(self, fluid: Fluid) -> tuple[object, ...]:
        """Return the content a fluid depends on: itself and all that it is made of."""
        return ("fluid", self.content(fluid), *self._contents(fluid))

    def first_fault_inside(self, fluid: Fluid) -> str:
        """Return the first thing wrong with what a fluid is made of, or nothing."""
        for name in sorted(inner_names(fluid, self.document)):
            inner = self.document.fluid(name)
            found = errors(self.read_fluid(inner).faults) if inner is not None else []
            if found:
                return f"{name}: {found[0].message}"
        for name in used_samples(fluid, self.document):
            sample = self.document.sample(name)
            blocking = self.read_sample(sample).blocking if sample is not None else []
            if blocking:
                return f"{name}: {blocking[0].message}"
        return ""

    def fluid(self, fluid: Fluid) -> FluidModel:
        """Return the fluid ready to compute. Raises DomainError where it cannot be."""
        reading = self.read_fluid(fluid)
        wanted = reading.fluid
        if wanted is None:
            raise DomainError(f"{fluid.name}: {errors(reading.faults)[0].message}")
        inside = self.first_fault_inside(fluid)
        if inside:
            raise DomainError(inside)
        return self.evaluator.cache.get(
            self.fluid_key(fluid), lambda: build_fluid(self._given(fluid, wanted), self.sources())
        )

    def input_of(self, fluid: Fluid) -> FluidInput | None:
        """Return a fluid as it is read, of one that a question gives what its answer says; None where a fault forbids
        it. Raises DomainError where the question has no answer."""
        wanted = self.read_fluid(fluid).fluid
        return None if wanted is None else self._given(fluid, wanted)

    def _given(self, fluid: Fluid, wanted: FluidInput) -> FluidInput:
        if wanted.made_by is None:
            return wanted
        name, stream = wanted.made_by
        return replace(self.giver(name, stream).input, key=wanted.key, name=fluid.name)

    def giver(self, name: str, stream: str) -> Given:
        """Return what a question gives as a fluid. Raises DomainError where it has no answer or no such stream."""
        study = self.document.study(name)
        gives = study_kinds()[study.kind].gives if study is not None else None
        if study is None or gives is None:
            raise DomainError(f"unknown study '{name}'")
        wrong = errors(self.read_study(study).faults)
        answer = self.answer(study) if not wrong else {}
        if wrong or not answer.get("ok"):
            raise DomainError(f"the fluid is what '{name}' gives, which has no answer")
        streams = gives.streams(answer)
        if stream not in streams:
            told = (
                f"; there is {', '.join(s for s in streams if s)}"
                if any(streams)
                else "; it gives one fluid, leave the stream out"
            )
            raise DomainError(f"'{name}' gives no '{stream}'{told}")
        return Given(study, answer, gives.fluid(study, answer, stream, self))

    def answer(self, study: Study) -> dict[str, Any]:
        """Return the answer of a question of the document, as data."""
        if Evaluator.answering is None:
            raise RuntimeError("nothing answers questions; import cryonome.questions first")
        return Evaluator.answering(study, self)

    def sources(self) -> Sources:
        """Return where samples and fluids of the document are found."""

        def sample(name: str, boundaries: tuple[float, ...] | None) -> CharacterizedSample:
            found = self.document.sample(name)
            if found is None:
                raise DomainError(f"unknown sample '{name}'")
            return self.characterized(found, boundaries)

        def fluid(name: str) -> FluidInput:
            found = self.document.fluid(name)
            made = self.input_of(found) if found is not None else None
            if made is None:
                raise DomainError(f"the fluid '{name}' cannot be made")
            return made

        return Sources(sample, fluid)

    def content_of(self, study: Study) -> object:
        """Return the content that a question's answer depends on, beside the question: that of everything it
        reaches."""
        found = self.reached(study)
        own = about(study)
        parts = []
        for part in found.parts:
            if study.from_untuned and isinstance(part, Fluid) and part.name == own:
                # A match whose tuning was taken over is not computed again for that.
                part = self.evaluator.remembered((untuned, part), partial(untuned, part))
            parts.append(self.content(part))
        return tuple(parts), found.missing

    # -- envelopes -------------------------------------------------------------------------------------------------

    def map_key(self, fluid: Fluid, fractions: Sequence[float]) -> object:
        """Return the key of an envelope."""
        return ("map", _inner(fractions), self.fluid_key(fluid))

    def known_map(self, fluid: Fluid, fractions: Sequence[float] = ()) -> PhaseMap | None:
        """Return an envelope if it was computed before."""
        kept = self.evaluator.cache.peek(self.map_key(fluid, fractions))
        return kept if isinstance(kept, PhaseMap) else None

    def map(self, fluid: Fluid, fractions: Sequence[float] = (), watch: Watch = UNWATCHED) -> PhaseMap:
        """Return the envelope with lines of the inner ``fractions``. Raises Cancelled, DomainError."""

        def compute() -> PhaseMap:
            model = self.fluid(fluid)
            bare, inner = self.known_map(fluid), _inner(fractions)
            if bare is None:
                bare = self._moved_map(model, watch)
            if bare is None:
                whole = phase_map(model.eos, model.z, fractions, watch)
            elif not inner:
                whole = bare
            else:
                old = self.evaluator.last_map(model, inner)
                moved = with_moved_fractions(bare, old, inner, watch) if old is not None else None
                whole = moved or with_fractions(bare, fractions, watch)
            self.evaluator.keep_map(model, inner, whole)
            return whole

        return self.evaluator.cache.get(self.map_key(fluid, fractions), compute)

    def lines_for(self, fluid: Fluid, T: float | None, P: float | None, watch: Watch = UNWATCHED) -> PhaseMap:
        """Return a map whose bubble and dew lines may be crossed at T K or at P Pa: the envelope where it is there,
        else lines moved from those of the fluid as it was, which is quicker, else the envelope. Raises Cancelled,
        DomainError."""
        known = self.known_map(fluid)
        if known is not None:
            return known
        model = self.fluid(fluid)
        at = (LINES, T or 0.0, P or 0.0)
        old = self.evaluator.last_map(model, at) or self.evaluator.last_map(model)
        # Near a critical point all of the map is wanted.
        near = old is None or any(
            abs((T or 0.0) / c.T - 1.0) < 0.05 or abs((P or 0.0) / c.P - 1.0) < 0.15 for c in old.critical_points
        )
        found = None if near or old is None else lines_near(model.eos, model.z, old, T, P, watch)
        if found is None:
            return self.map(fluid, (), watch)
        self.evaluator.keep_map(model, at, found)
        return found

    def _moved_map(self, model: FluidModel, watch: Watch) -> PhaseMap | None:
        """Return the envelope moved from that of the fluid as it was before, where that leads to it."""
        old = self.evaluator.last_map(model)
        return retraced(model.eos, model.z, old, watch) if old is not None else None

    def regions(self, fluid: Fluid, watch: Watch = UNWATCHED, fractions: Sequence[float] = ()) -> Regions | None:
        """Return the boundaries of the regions with an aqueous phase and with three phases, and the lines of the inner
        ``fractions`` through the latter; None where neither is to be expected.

        Raises Cancelled, DomainError.
        """
        model = self.fluid(fluid)
        water = model.water
        if water is None and not self._second_liquid(fluid, model, watch.part(0.0, 0.4)):
            return None
        inner = _inner(fractions)

        def compute() -> Regions:
            whole = self.map(fluid, (), watch.part(0.4, 0.6))
            return regions(model.eos, model.z, water, watch.part(0.6, 1.0), whole, inner)

        return self.evaluator.cache.get(("regions", inner, self.fluid_key(fluid)), compute)

    def spinodal(self, fluid: Fluid, watch: Watch = UNWATCHED) -> Spinodal:
        """Return where a fluid becomes unstable to the smallest fluctuation. Raises Cancelled, DomainError."""
        model = self.fluid(fluid)
        return self.evaluator.cache.get(
            ("spinodal", self.fluid_key(fluid)), lambda: spinodal(model.eos, model.z, watch)
        )

    def volume_lines(self, fluid: Fluid, shares: Sequence[float], watch: Watch = UNWATCHED) -> tuple[VolumeLine, ...]:
        """Return the lines of the inner ``shares`` of vapour by volume. Raises Cancelled, DomainError."""
        inner = _inner(shares)
        if not inner:
            return ()

        def compute() -> tuple[VolumeLine, ...]:
            whole, model = self.map(fluid, (), watch.part(0.0, 0.4)), self.fluid(fluid)
            shift, rest = model.substance.shifts, watch.part(0.4, 1.0)
            return tuple(volume_lines(model.eos, model.z, inner, shift, whole.critical_points, rest))

        return self.evaluator.cache.get(("volume lines", inner, self.fluid_key(fluid)), compute)

    def _second_liquid(self, fluid: Fluid, model: FluidModel, watch: Watch) -> bool:
        """Tell whether a second liquid may form: components unlike the others are many, and the two-phase lines are
        upset."""
        if not model.may_have_third:
            return False
        return not all(good.all() for good in self.map(fluid, (), watch).stable)


def untuned(fluid: Fluid) -> Fluid:
    """Return a fluid without its tuning."""
    return fluid.model_copy(update={"model": fluid.model.model_copy(update={"tuned": None})})


def _shown_alone(part: Sample | Fluid | Study) -> set[str]:
    """Return the fields of a part that change no result."""
    if isinstance(part, Sample):
        return {"note", "display"}
    return {"note", "variants"} if isinstance(part, Fluid) else {"draft"}


def _inner(fractions: Sequence[float]) -> tuple[float, ...]:
    return tuple(sorted({f for f in fractions if 0.0 < f < 1.0}))


def placed(faults: Sequence[Fault], path: PathParts) -> list[Fault]:
    """Return faults whose paths begin at a part with their paths in the document."""
    return [replace(f, path=(*path, *f.path)) for f in faults]
