"""Flashes of which only conditions are varied, and only single values read: all of them are one batch of states."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..document import Document, Reader, Study
from ..document.conditions import CONDITIONS, Conditioned, Given, read_condition
from ..document.faults import PathParts
from ..document.reader import EMPTY
from ..document.references import about
from ..fluids.columns import Column, column_of, values_of
from ..fluids.grid_states import states_at
from ..results.context import Context
from .varying import Scale

Array = NDArray[np.float64]


@dataclass(frozen=True)
class StateBatch:
    """The fluid, the conditions varied and how their values are written, the ones held, and the columns to read."""

    fluid: str
    keys: tuple[str, ...]
    scales: tuple[Scale, ...]
    held: Mapping[str, Given]
    columns: tuple[Column, ...]

    def read(self, points: Sequence[Sequence[float]], context: Context) -> tuple[list[Array], NDArray[np.bool_]]:
        """Return every column at points of the varied conditions, each (N,), nan where it does not exist, and which
        states were found (N,)."""
        model = context.project.fluid(context.fluid(self.fluid))
        mass = float(model.z @ model.molar_mass)
        values: dict[str, Array] = {}
        for place, (key, scale) in enumerate(zip(self.keys, self.scales)):
            given = [read_condition(key, scale.cell(point[place]), Reader()) for point in points]
            values[key] = np.array([np.nan if g is None else g.by_mole(mass) for g in given])
        values |= {k: np.full(len(points), g.by_mole(mass)) for k, g in self.held.items()}
        states = states_at(model, values, [c.needs for c in self.columns if c.needs], context.watch)
        return [values_of(c, states)[0] for c in self.columns], states.phases.converged


def batch_of(
    subject: Study,
    paths: Sequence[PathParts],
    scales: Sequence[Scale],
    ends: Sequence[Sequence[float]],
    read: Sequence[str],
    document: Document,
) -> StateBatch | None:
    """Return the varying of a study's inputs as one batch, None where it is not: something else is varied or read, or
    a value between ``ends``, the outermost of each, is no such condition."""
    if subject.kind != "flash" or not isinstance(subject, Conditioned):
        return None
    at = document.studies.index(subject)
    if any(p[:2] != ("studies", at) or len(p) != 3 or p[2] not in CONDITIONS for p in paths):
        return None
    columns = [column_of(path) for path in read]
    if any(isinstance(c, str) for c in columns):
        return None
    keys = tuple(str(p[2]) for p in paths)
    quiet = Reader()
    for key, scale, values in zip(keys, scales, ends):
        for value in values:
            read_condition(key, scale.cell(value), quiet)
    others = {k: getattr(subject, k) for k in CONDITIONS if k not in keys and getattr(subject, k) not in EMPTY}
    held = {k: read_condition(k, cell, quiet) for k, cell in others.items()}
    # A fraction at T or P has its solutions told by the flash itself, one by one.
    if quiet.bad or len({*keys, *held}) != 2 or "vapour_fraction" in {*keys, *held}:
        return None
    given = {k: g for k, g in held.items() if g is not None}
    return StateBatch(about(subject), keys, tuple(scales), given, tuple(c for c in columns if isinstance(c, Column)))
