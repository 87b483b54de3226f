"""Samples of nothing but the conditions of a flash, of which single values are read: a block is one batch of states."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ...document import Document
from ...errors import DomainError
from ...results.context import Context
from ...results.evaluator import Project
from ...watch import Watch
from ..state_batches import StateBatch, batch_of
from ..value_reading import Read
from .groups import Drawing
from .sampled import Kept

FARTHEST = 6.0
"""Standard deviations from a value within which every sample lies, for a look at whether all of them are conditions."""
TOGETHER = 1000


def conditions_of(of: str, reads: Sequence[Read], drawing: Drawing, document: Document) -> StateBatch | None:
    """Return a spread's samples as batches of states, None where something else is uncertain or read."""
    subject = document.study(of)
    if subject is None or any(r.tree is not None for r in reads) or any(len(g.cells) != 1 for g in drawing.groups):
        return None
    paths = [g.cells[0] for g in drawing.groups]
    scales = [g.scales[0] for g in drawing.groups]
    ends = []
    for g, scale in zip(drawing.groups, scales):
        low = max(g.centre[0] - FARTHEST * g.deviation[0], *(g.least or (-np.inf,)), -np.inf)
        ends.append([scale.number(low), scale.number(g.centre[0] + FARTHEST * g.deviation[0])])
    return batch_of(subject, paths, scales, ends, [r.key for r in reads], document)


def condition_samples(
    batch: StateBatch, drawing: Drawing, base: Project, watch: Watch
) -> Iterator[tuple[int, list[Kept | DomainError]]]:
    """Yield what is read of each block of samples, of one without a state why."""
    for first in range(0, drawing.count, TOGETHER):
        size = min(TOGETHER, drawing.count - first)
        z = drawing.scores(first, size)
        columns = [g.values(z[:, k : k + 1])[:, 0] for k, g in enumerate(drawing.groups)]
        points = np.column_stack(
            [[g.scales[0].number(v) for v in column.tolist()] for g, column in zip(drawing.groups, columns)]
        )
        part = watch.part(first / drawing.count, (first + size) / drawing.count)
        found, there = batch.read(points.tolist(), Context(base, part))
        rows: list[Kept | DomainError] = []
        for k in range(size):
            if there[k]:
                rows.append(([np.array(c[k]) for c in found], None))
            else:
                rows.append(DomainError("no state was found at the conditions of the sample"))
        yield first, rows
