"""Results of documents that differ a little from one: samples of its inputs, whose lines are moved from its own."""

from __future__ import annotations

from ..equilibrium.phase_map import PhaseMap
from ..fluids.building import FluidModel
from .evaluator import Evaluator, Project


class Alongside(Evaluator):
    """An evaluator that takes the lines of a ``base`` as a start for all of its own, and none of its own for the next:
    what it gives hangs on the document alone, not on what was asked before."""

    def __init__(self, base: Project) -> None:
        super().__init__()
        self.base = base

    def last_map(self, model: FluidModel, inner: tuple[float, ...] = ()) -> PhaseMap | None:
        """Return the envelope of the base's fluid of the same components."""
        return self.base.evaluator.last_map(model, inner)

    def keep_map(self, model: FluidModel, inner: tuple[float, ...], whole: PhaseMap) -> None:
        """Keep nothing."""
