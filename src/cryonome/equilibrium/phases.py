"""The phases of many states: the one object that holds an equilibrium.

The probe, tables, sweeps, lab tests and the command line all read it; none computes state by state. A state has up to
as many phases as there are places (two on a traced line, three of a flash; every reader takes the number from the
shape), the lighter first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from enum import IntEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..eos.equation import Root, Rows

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Codes = NDArray[np.int8]


class Kind(IntEnum):
    """What a phase is; ``ABSENT`` marks a place without one."""

    ABSENT = -1
    VAPOUR = 0
    LIQUID = 1
    AQUEOUS = 2


class Reason(IntEnum):
    """How the search for a state ended."""

    CONVERGED = 0
    NOT_CONVERGED = 1
    NO_SUCH_STATE = 2
    MORE_PHASES = 3


ROOTS: tuple[Root, ...] = ("stable", "liquid", "vapour")
"""Names of the codes in :attr:`Phases.root`."""


@dataclass(frozen=True)
class Phases:
    """The equilibrium of states of any leading shape (...), with p places for phases and nc components.

    ``T`` K and ``P`` Pa (...), nan where no state was found; ``z`` (..., nc) the feed, normalised; ``kind`` (..., p)
    codes of :class:`Kind`; ``fraction`` (..., p) moles of the phase per mole of feed, 0 where absent; ``composition``
    (..., p, nc) and ``Z`` (..., p), meaningless where absent; ``root`` (..., p) codes of :data:`ROOTS`, which root in
    the volume the phase has (named only where two are stable); ``reason`` (...) codes of :class:`Reason`;
    ``residual`` (...) the largest difference of ln fugacity between two phases; ``iterations`` (...)."""

    T: Array
    P: Array
    z: Array
    kind: Codes
    fraction: Array
    composition: Array
    Z: Array
    root: Codes
    reason: Codes
    residual: Array
    iterations: NDArray[np.int64]

    @property
    def shape(self) -> tuple[int, ...]:
        """Leading shape of the states."""
        return self.T.shape

    @property
    def converged(self) -> Mask:
        """Which states were found (...)."""
        return np.asarray(self.reason == Reason.CONVERGED)

    @property
    def present(self) -> Mask:
        """Which places hold a phase (..., p)."""
        return np.asarray(self.kind != Kind.ABSENT)

    @property
    def count(self) -> NDArray[np.int64]:
        """Number of phases (...)."""
        return np.asarray(self.present.sum(axis=-1))

    @property
    def split(self) -> Mask:
        """Which states have more than one phase (...)."""
        return np.asarray(self.count > 1)

    @property
    def vapour_fraction(self) -> Array:
        """Moles of vapour per mole of feed (...)."""
        return np.asarray(np.where(self.kind == Kind.VAPOUR, self.fraction, 0.0).sum(axis=-1))

    @property
    def light_fraction(self) -> Array:
        """Moles of the lightest phase per mole of feed where there are several; of a single phase 1 for a vapour,
        else 0."""
        return np.where(self.split, self.fraction[..., 0], (self.kind[..., 0] == Kind.VAPOUR).astype(float))

    @property
    def light(self) -> Array:
        """Composition of the lightest phase (..., nc)."""
        return self.composition[..., 0, :]

    @property
    def heavy(self) -> Array:
        """Composition of the second phase (..., nc); the feed's where there is one phase."""
        return np.where(self.split[..., None], self.composition[..., 1, :], self.composition[..., 0, :])

    def take(self, index: Rows) -> Phases:
        """Return the states chosen along the first axis."""
        return Phases(*(getattr(self, f.name)[index] for f in fields(self)))

    def with_rows(self, rows: Rows, other: Phases) -> Phases:
        """Return the states with those of ``rows`` along the first axis replaced by ``other``."""
        out = {}
        for f in fields(self):
            values = getattr(self, f.name).copy()
            values[rows] = getattr(other, f.name)
            out[f.name] = values
        return Phases(**out)

    def reshape(self, *shape: int) -> Phases:
        """Return the states in another leading shape."""
        lead = len(self.shape)
        return Phases(*(v.reshape(shape + v.shape[lead:]) for v in (getattr(self, f.name) for f in fields(self))))

    @staticmethod
    def join(parts: Sequence[Phases]) -> Phases:
        """Return states of one leading axis one after another."""
        if len(parts) == 1:
            return parts[0]
        places = max(p.kind.shape[-1] for p in parts)
        wide = [p.widened(places) for p in parts]
        return Phases(*(np.concatenate([getattr(p, f.name) for p in wide]) for f in fields(Phases)))

    def widened(self, places: int) -> Phases:
        """Return states of one leading axis with empty places added up to ``places``."""
        more = places - self.kind.shape[-1]

        def wide(v: NDArray[Any], fill: float) -> NDArray[Any]:
            return np.pad(v, [(0, 0), (0, more)] + [(0, 0)] * (v.ndim - 2), constant_values=fill)

        if more <= 0:
            return self
        return replace(
            self,
            kind=wide(self.kind, Kind.ABSENT),
            fraction=wide(self.fraction, 0.0),
            composition=wide(self.composition, 0.0),
            Z=wide(self.Z, np.nan),
            root=wide(self.root, 0),
        )

    def among(self, present: Mask) -> Phases:
        """Return states of the ``present`` (nc,) components as states of all, the others absent."""
        if present.all():
            return self

        def wide(x: Array) -> Array:
            out = np.zeros((*x.shape[:-1], present.size))
            out[..., present] = x
            return out

        return replace(self, z=wide(self.z), composition=wide(self.composition))

    def narrowed(self, places: int) -> Phases:
        """Return states of one leading axis with but their first ``places`` places; phases come before empty places."""
        if self.kind.shape[-1] <= places:
            return self
        return replace(
            self,
            kind=self.kind[:, :places],
            fraction=self.fraction[:, :places],
            composition=self.composition[:, :places],
            Z=self.Z[:, :places],
            root=self.root[:, :places],
        )


def two_places(
    T: Array, P: Array, z: Array, split: Mask, beta: Array, x: Array, y: Array, Z_x: Array, Z_y: Array,
    kind_x: Codes, kind_y: Codes, root_x: Codes, root_y: Codes, reason: Codes, residual: Array,
    iterations: NDArray[np.int64],
) -> Phases:  # fmt: skip
    """Return N states of a heavier phase x and, where ``split``, a lighter phase y with fraction ``beta`` (N,)."""
    first = split[:, None]
    return Phases(
        T=T,
        P=P,
        z=z,
        kind=np.stack([np.where(split, kind_y, kind_x), np.where(split, kind_x, Kind.ABSENT)], axis=-1).astype(np.int8),
        fraction=np.stack([np.where(split, beta, 1.0), np.where(split, 1.0 - beta, 0.0)], axis=-1),
        composition=_normalised(np.stack([np.where(first, y, x), np.where(first, x, 0.0)], axis=-2)),
        Z=np.stack([np.where(split, Z_y, Z_x), np.where(split, Z_x, np.nan)], axis=-1),
        root=np.stack([np.where(split, root_y, root_x), root_x], axis=-1).astype(np.int8),
        reason=reason,
        residual=residual,
        iterations=iterations,
    )


def _normalised(x: Array) -> Array:
    """Return compositions (..., nc) that add up to one; a phase of a billionth is a difference of amounts, and absent
    ones stay empty."""
    total = x.sum(axis=-1, keepdims=True)
    return x / np.where(total > 0.0, total, 1.0)
