"""Sobol indices of what is read, asked for by name: a design of their own, for independent inputs."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ...errors import DomainError
from ...results.context import Answer
from ...results.evaluator import Project
from ...uncertainty.shares import sobol
from ...watch import Watch
from ..value_reading import Read
from .groups import Drawing
from .reads import read_of
from .running import TOGETHER, Sampled

Array = NDArray[np.float64]

MOST_ANSWERS = 200_000


def sobol_told(
    count: int, of: str, reads: Sequence[Read], drawing: Drawing, base: tuple[Answer, Project], watch: Watch
) -> dict[str, Answer]:
    """Return first-order and total indices of every single number that is read, by its path, of scores added up over
    the cells of an input. Raises DomainError for inputs that are correlated, and for a design that is too large."""
    if drawing.correlation is not None:
        raise DomainError("Sobol indices are of independent inputs; leave the fit out, or ask for the shares alone")
    d = drawing.scores_each
    needed = count * (d + 2)
    if needed > MOST_ANSWERS:
        raise DomainError(
            f"Sobol indices of {d} scores by a design of {count} take {needed} answers; name fewer inputs, or ask for the shares alone"
        )
    answer, project = base
    there = read_of(reads, answer, of, project)
    single = [k for k, v in enumerate(there) if not isinstance(v, DomainError) and v.shape == ()]
    asked = Sampled(of, tuple(reads[k].key for k in single if reads[k].tree is None))
    done = [0]
    lost = [0]

    def values(x: Array) -> Array:
        """Return the reads (reads, m) at scores x (d, m)."""
        z = np.ascontiguousarray(x.reshape(d, -1).T)
        out = np.full((len(single), len(z)), np.nan)
        for at in range(0, len(z), TOGETHER):
            part = z[at : at + TOGETHER]
            watch.at(min(done[0] / needed, 1.0))
            found = asked.samples(drawing.changes(part), project, watch.silent())
            done[0] += len(part)
            for k, (one, own) in enumerate(found):
                if isinstance(one, DomainError):
                    lost[0] += 1
                    continue
                for row, value in enumerate(read_of([reads[i] for i in single], one, of, own)):
                    out[row, at + k] = np.nan if isinstance(value, DomainError) else float(value)
        # An index is of a whole design: what has no answer counts as what the others have on average.
        mean = np.nanmean(out, axis=1, keepdims=True) if out.size else out
        return np.asarray(np.where(np.isfinite(out), out, mean)).reshape(len(single), *x.shape[1:])

    first, total = sobol(count, d, values, drawing.seed)
    first, total = (v.reshape(len(single), d) for v in (first, total))
    names = drawing.names
    return {
        reads[k].key: {
            "first": dict(zip(names, drawing.by_name(first[row]).tolist())),
            "total": dict(zip(names, drawing.by_name(total[row]).tolist())),
        }
        for row, k in enumerate(single)
    }
