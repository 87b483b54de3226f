"""Derived results, computed once per content of their inputs.

Each result names its inputs; its key is their content, so an edit recomputes what depends on it and nothing else, and
undoing an edit finds the old result again. No result enters the document. Safe to use from several threads.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import TypeVar, cast

from ..characterization import CharacterizedSample, characterize
from ..document.checks import inner_names
from ..document.model import Document, Fluid, Model, Sample
from ..document.sample_checks import CARBON
from ..equilibrium.phase_map import PhaseMap, phase_map, with_fractions
from .blending import Sources
from .inputs import FluidModel, build_fluid
from .lumping import LumpingEffect, lumping_effect
from .sample_inputs import lab_sample

T = TypeVar("T")


class Cancelled(Exception):
    """The caller withdrew a request while it was computed."""


class Cache:
    """A bounded store of results by key, the least recently used dropped first."""

    def __init__(self, size: int = 128) -> None:
        self._size = size
        self._lock = threading.Lock()
        self._items: OrderedDict[object, object] = OrderedDict()
        self.computed = 0

    def get(self, key: object, compute: Callable[[], T]) -> T:
        """Return the result of ``key``, computing it where it is not there."""
        with self._lock:
            if key in self._items:
                self._items.move_to_end(key)
                return cast(T, self._items[key])
        value = compute()
        with self._lock:
            self.computed += 1
            self._items[key] = value
            while len(self._items) > self._size:
                self._items.popitem(last=False)
        return value

    def peek(self, key: object) -> object | None:
        """Return the result of ``key`` if it is there, without computing."""
        with self._lock:
            return self._items.get(key)


def _sample_key(sample: Sample) -> str:
    return sample.model_dump_json(exclude={"note", "display"})


class Evaluator:
    """Computes and remembers the results of documents."""

    def __init__(self) -> None:
        self.cache = Cache()

    def sample(self, sample: Sample) -> CharacterizedSample:
        """Return the characterized sample. Raises ValueError where it cannot be."""
        return self.cache.get(("sample", _sample_key(sample)), lambda: characterize(lab_sample(sample)))

    def lumping(
        self, sample: Sample, T: float, model: Model, cancelled: Callable[[], bool] = lambda: False
    ) -> LumpingEffect | None:
        """Return what lumping does to a sample's saturation pressure at T K, None where nothing is lumped."""

        def compute() -> LumpingEffect | None:
            effect = lumping_effect(self.sample(sample), T, model, cancelled)
            if cancelled():
                raise Cancelled
            return effect

        return self.cache.get(("lumping", _sample_key(sample), T, model.model_dump_json()), compute)

    def fluid_key(self, fluid: Fluid, document: Document) -> tuple[str, ...]:
        """Return the content a fluid depends on: itself and its samples."""
        inside = [f for f in document.fluids if f.name in inner_names(fluid, document)]
        used = {p.sample for f in (fluid, *inside) for p in f.parts if p.sample is not None}
        samples = [_sample_key(s) for s in document.samples if s.name in used]
        fluids = [f.model_dump_json(exclude={"note", "model"}) for f in inside]
        return ("fluid", fluid.model_dump_json(exclude={"note"}), *fluids, *samples)

    def fluid(self, fluid: Fluid, document: Document) -> FluidModel:
        """Return the fluid ready to compute. Raises ValueError where it cannot be."""

        def compute() -> FluidModel:
            return build_fluid(fluid, self.sources(document))

        return self.cache.get(self.fluid_key(fluid, document), compute)

    def sources(self, document: Document) -> Sources:
        """Return where the samples and fluids of a document are found."""

        def sample(name: str, boundaries: tuple[float, ...] | None) -> CharacterizedSample:
            found = document.sample(name)
            if found is None:
                raise ValueError(f"unknown sample '{name}'")
            if boundaries is None or found.distillation.method == CARBON:
                return self.sample(found)

            def recut() -> CharacterizedSample:
                lab = lab_sample(found)
                choice = replace(lab.cuts, boundaries=boundaries, names=())
                return characterize(replace(lab, cuts=choice))

            return self.cache.get(("sample", _sample_key(found), boundaries), recut)

        def fluid(name: str) -> Fluid:
            found = document.fluid(name)
            if found is None:
                raise ValueError(f"unknown fluid '{name}'")
            return found

        return Sources(sample, fluid)

    def map_key(self, fluid: Fluid, document: Document, fractions: Sequence[float]) -> object:
        """Return the key of an envelope."""
        inner = tuple(sorted({f for f in fractions if 0.0 < f < 1.0}))
        return ("map", inner, self.fluid_key(fluid, document))

    def map(
        self,
        fluid: Fluid,
        document: Document,
        fractions: Sequence[float] = (),
        cancelled: Callable[[], bool] = lambda: False,
    ) -> PhaseMap:
        """Return the envelope with lines of the inner ``fractions``. Raises Cancelled, ValueError."""
        key = self.map_key(fluid, document, fractions)

        def compute() -> PhaseMap:
            model = self.fluid(fluid, document)
            if any(0.0 < f < 1.0 for f in fractions):
                # The inner lines are added to the bare envelope, which is wanted on its own more often.
                result = with_fractions(self.map(fluid, document, (), cancelled), fractions, cancelled)
            else:
                result = phase_map(model.eos, model.z, (), cancelled)
            if cancelled():
                raise Cancelled
            return result

        return self.cache.get(key, compute)
