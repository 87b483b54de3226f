"""What is kept of a sample's answer: the numbers read, and of the first samples the curves of its picture."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from ...errors import DomainError
from ...results.context import Answer
from ...results.evaluator import Project
from ...telling.banded import banded
from ...telling.panels import Panel
from ..value_reading import Read
from .reads import read_of

Array = NDArray[np.float64]

BANDS_OF = 1000
"""Samples whose curves make bands."""

Kept = tuple[list[Array | DomainError], list[Panel] | None]


def keeping(of: str, reads: Sequence[Read], kind: str) -> Callable[[int, Answer, Project], Kept]:
    """Return what keeps of a sample, by its place, the reads of its answer and, of a ``kind`` with a picture, its
    panels where it is one of the first."""

    def keep(place: int, answer: Answer, project: Project) -> Kept:
        values = [DomainError(str(v)) if isinstance(v, DomainError) else v for v in read_of(reads, answer, of, project)]
        return values, banded(kind, answer) if kind and place < BANDS_OF else None

    return keep
