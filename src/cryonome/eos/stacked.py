"""Equations of many fluids of as many components, side by side along the batch axis: samples of one fluid."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .compiled import CompiledStates
from .equation import Equation, Mask, Packed, Rows

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Stacked:
    """Equations of one family, one for each state: ``packed`` holds their parameters, ``each`` the equations
    themselves, ``rows`` (N,) which of them a state is of."""

    packed: Packed
    each: tuple[Equation, ...]
    rows: NDArray[np.intp]

    @property
    def Tc(self) -> Array:
        """Critical temperatures (N, nc), K."""
        return np.ascontiguousarray(self.packed.guess[:, self.nc : 2 * self.nc])

    @property
    def Pc(self) -> Array:
        """Critical pressures (N, nc), Pa."""
        return np.exp(self.packed.guess[:, : self.nc])

    @property
    def omega(self) -> Array:
        """Acentric factors (N, nc)."""
        return np.ascontiguousarray(self.packed.guess[:, 2 * self.nc :])

    @property
    def nc(self) -> int:
        """Number of components."""
        return self.packed.nc

    @property
    def batched(self) -> bool:
        """Whether the parameters carry a batch axis: always."""
        return True

    def take(self, index: Rows) -> Stacked:
        """Return the equations of the states ``index``."""
        packed = self.packed
        parameters, guess = (np.ascontiguousarray(v[index]) for v in (packed.parameters, packed.guess))
        return Stacked(
            Packed(packed.family, parameters, packed.memory, packed.nc, guess, packed.distinct),
            self.each,
            self.rows[index],
        )

    def single(self, row: int) -> Equation:
        """Return the equation of one state."""
        return self.each[int(self.rows[row])]

    def of(self, keep: NDArray[np.intp] | Mask) -> Stacked:
        """Return the equations of a subset of the components."""
        found = stacked([e.of(keep) for e in self.each])
        assert found is not None
        return found.take(self.rows)

    def pure(self) -> Stacked:
        """Return the components of every state taken pure, one after another."""
        raise NotImplementedError("pure components are asked of each equation by itself")

    def prepare(self, T: ArrayLike, P: ArrayLike) -> CompiledStates:
        """Return the equations at temperatures T (N,) K and pressures P (N,) Pa, both positive."""
        return CompiledStates.at(self.packed, T, P)

    def at_temperature(self, T: ArrayLike) -> CompiledStates:
        """Return the equations at temperatures T (N,) K, for any volume."""
        return CompiledStates.at(self.packed, T, 0.0)

    def least_volume(self, x: Array) -> Array:
        """Return the volume below which there is no state, m3/mol, of compositions x (N, nc)."""
        each = np.array([e.least_volume(np.eye(self.nc)) for e in self.each])
        return np.asarray(np.vecdot(x, each[self.rows]))

    def pure_critical(self) -> tuple[Array, Array, Array]:
        """Return T K, P Pa and V m3/mol of the critical point of each component taken pure, (N, nc)."""
        each = [e.pure_critical() for e in self.each]
        T, P, V = (np.array([one[k] for one in each])[self.rows] for k in range(3))
        return T, P, V

    def unlikeness(self) -> Array:
        """Return how strongly each component's interactions depart from the mixing rule's own, (nc,), of the first."""
        return self.each[0].unlikeness()


def stacked(equations: Sequence[Equation]) -> Stacked | None:
    """Return equations of one fluid each side by side, None where they are not of one family and as many components
    and cannot be."""
    try:
        packed = [e.packed for e in equations]
    except NotImplementedError:
        return None
    first = packed[0] if packed else None
    if first is None or any(
        (p.family, p.nc, p.memory, p.parameters.shape[1])
        != (first.family, first.nc, first.memory, first.parameters.shape[1])
        or len(p.parameters) != 1
        for p in packed
    ):
        return None
    parameters = np.concatenate([p.parameters for p in packed])
    guess = np.concatenate([p.guess for p in packed])
    distinct = np.unique(np.concatenate([p.distinct for p in packed]))[:5]
    whole = Packed(first.family, parameters, first.memory, first.nc, guess, distinct.astype(np.int64))
    return Stacked(whole, tuple(equations), np.arange(len(packed)))
