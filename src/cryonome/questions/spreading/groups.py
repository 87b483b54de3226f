"""Groups of cells that are uncertain together, and their values in a sample. Values are in SI."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ...document.faults import PathParts
from ...document.field_types import Cell
from ...uncertainty.design import BLOCK, in_order, scores, uniform
from ..varying import Scale

Array = NDArray[np.float64]

FIRST = 20
"""Samples of a first look."""


@dataclass(frozen=True)
class Group:
    """Cells that are uncertain together: a number, or the points of a curve.

    ``name`` is what it is told by; ``centre``, ``deviation``, and the bounds ``least`` and ``most``, each of one
    number a cell, in SI; ``common`` the part of the variance that is one error of all cells (a laboratory's own);
    ``rising``: values keep their order; ``closed``: their sum stays; ``correlation`` of the cells' scores, as rows, ()
    for none; ``parts`` names the cells where each is a thing of its own, whose share is told by itself; ``source`` says where the deviations come from; ``kind`` what the cells measure."""

    name: str
    cells: tuple[PathParts, ...]
    scales: tuple[Scale, ...]
    centre: tuple[float, ...]
    deviation: tuple[float, ...]
    source: str
    kind: str = ""
    common: float = 0.0
    flat: bool = False
    rising: bool = False
    closed: bool = False
    least: tuple[float, ...] = ()
    most: tuple[float, ...] = ()
    correlation: tuple[tuple[float, ...], ...] = ()
    parts: tuple[str, ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        """What its shares are told by: its parts, or itself."""
        return tuple(f"{self.name}, {part}" for part in self.parts) or (self.name,)

    @property
    def size(self) -> int:
        """Scores of a sample that it takes."""
        return len(self.cells) + (1 if self.shared else 0)

    @property
    def shared(self) -> bool:
        """Whether its cells share an error."""
        return self.common > 0.0 and len(self.cells) > 1

    def values(self, z: Array) -> Array:
        """Return the values (n, cells) of samples with normal scores z (n, size)."""
        k = len(self.cells)
        centre, deviation = np.array(self.centre), np.array(self.deviation)
        own = z[:, :k]
        if self.flat:
            return np.asarray(centre + deviation * uniform(own))
        if self.shared:
            own = np.sqrt(1.0 - self.common) * own + np.sqrt(self.common) * z[:, k:]
        out = centre + deviation * own
        if self.least or self.most:
            out = self._bounded(own, centre, deviation)
        if self.rising:
            # The order of the curve as it was measured, whichever way it goes.
            out = in_order(out) if self.centre[-1] >= self.centre[0] else -in_order(-out)
        if self.closed:
            out = out * (centre.sum() / out.sum(axis=1, keepdims=True))
        return np.asarray(out)

    def _bounded(self, z: Array, centre: Array, deviation: Array) -> Array:
        """Return values of a normal law cut off at the bounds: the same share of what is left of it."""
        from scipy.special import ndtr, ndtri

        low = np.array(self.least) if self.least else np.full(centre.shape, -np.inf)
        high = np.array(self.most) if self.most else np.full(centre.shape, np.inf)
        with np.errstate(divide="ignore", invalid="ignore"):
            a, b = (ndtr((v - centre) / deviation) for v in (low, high))
        there = np.where(
            deviation > 0.0, centre + deviation * ndtri(np.clip(a + ndtr(z) * (b - a), 1e-15, 1.0 - 1e-15)), centre
        )
        return np.asarray(np.clip(there, low, high))

    def cell(self, place: int, value: float) -> Cell:
        """Return a value of a cell in SI as it stands in a document."""
        scale = self.scales[place]
        return scale.cell(scale.number(value))


@dataclass(frozen=True)
class Drawing:
    """How the ``groups`` of a question are drawn: ``count`` samples from a ``seed``."""

    groups: tuple[Group, ...]
    count: int
    seed: int

    @property
    def scores_each(self) -> int:
        """Scores of a sample."""
        return sum(g.size for g in self.groups)

    @property
    def correlation(self) -> Array | None:
        """Correlation of all scores, None where they are independent."""
        if not any(g.correlation for g in self.groups):
            return None
        out = np.eye(self.scores_each)
        at = 0
        for g in self.groups:
            if g.correlation:
                k = len(g.cells)
                out[at : at + k, at : at + k] = np.array(g.correlation)
            at += g.size
        return out

    def scores(self, first: int, number: int) -> Array:
        """Return the scores of samples ``first`` and following, (number, scores), which must lie in one block."""
        block, place = divmod(first, BLOCK)
        return self.block(block)[place : place + number]

    def block(self, block: int) -> Array:
        """Return the scores of a whole block (n, scores)."""
        return _block(self, block)

    def drivers(self, z: Array) -> Array:
        """Return what answers are regressed on, (n, scores): the scores, of a uniform input its values in standard
        deviations."""
        out = z.copy()
        at = 0
        for g in self.groups:
            if g.flat:
                out[:, at : at + g.size] = uniform(z[:, at : at + g.size])
            at += g.size
        return out

    def changes(self, z: Array) -> list[dict[PathParts, object]]:
        """Return the cells of samples with scores z (n, scores), each by its path."""
        out: list[dict[PathParts, object]] = [{} for _ in z]
        at = 0
        for g in self.groups:
            values = g.values(z[:, at : at + g.size])
            at += g.size
            for row, own in zip(out, values.tolist(), strict=True):
                row.update({path: g.cell(k, own[k]) for k, path in enumerate(g.cells)})
        return out

    @property
    def names(self) -> list[str]:
        """What shares are told by."""
        return [name for g in self.groups for name in g.names]

    def by_name(self, of_scores: Array) -> Array:
        """Return shares by score (scores,) gathered by what they are told by (names,)."""
        ends = np.cumsum([g.size for g in self.groups])[:-1]
        parts = zip(self.groups, np.split(of_scores, ends), strict=True)
        return np.concatenate([own if g.parts else [own.sum()] for g, own in parts])

    def fewer(self, count: int) -> Drawing:
        """Return the same with fewer samples."""
        return replace(self, count=min(count, self.count))


@lru_cache(2)
def _block(drawing: Drawing, block: int) -> Array:
    own = min(BLOCK, drawing.count - block * BLOCK)
    return scores(own, drawing.scores_each, drawing.seed, block, drawing.correlation)
