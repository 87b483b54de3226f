"""States of an equation that brings compiled functions: the one class behind which all of them are evaluated.

Shapes: N states, nc components.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..kernels import kernel, table
from .equation import Mask, Packed, PhaseDerivatives, PhaseResponse, Root, Rows

Array = NDArray[np.float64]

CODES: dict[Root, int] = {"stable": 0, "liquid": 1, "vapour": 2}
"""Roots as compiled functions know them."""

BLOCK, MATRICES = 400, 100
"""States from which on work is shared among processors: of vectors, of matrices."""


def packed_vectors(parts: list[tuple[Array, int]]) -> Array:
    """Return parameters side by side, (1 or N, size), of parts (..., axes) each with how many axes a state's own
    has."""
    batches = {v.shape[0] for v, core in parts if v.ndim > core} - {1}
    n = batches.pop() if batches else 1
    columns = []
    for v, core in parts:
        own = int(np.prod(v.shape[v.ndim - core :], dtype=int))
        columns.append(np.broadcast_to(v.reshape(-1, own), (n, own)))
    return np.ascontiguousarray(np.concatenate(columns, axis=1), dtype=float)


def _of(v: Array, n: int, nc: int) -> Array:
    """Return compositions (N, nc) as a kernel reads them; raises ValueError where they are of another number of
    components."""
    x = np.asarray(v, dtype=float)
    if x.shape[-1] != nc:
        raise ValueError(f"the composition has {x.shape[-1]} components, the equation of state {nc}")
    return np.ascontiguousarray(x if len(x) == n else np.broadcast_to(x, (n, x.shape[1])))


@dataclass(frozen=True)
class CompiledStates:
    """An equation at N temperatures ``T`` K and pressures ``P`` Pa (zero: at T alone, for any volume), ready for any
    composition."""

    packed: Packed
    T: Array
    P: Array

    @staticmethod
    def at(packed: Packed, T: ArrayLike, P: ArrayLike) -> CompiledStates:
        """Return the equation at T and P, broadcast together to one axis; raises ValueError for more."""
        T, P = np.broadcast_arrays(np.atleast_1d(np.asarray(T, float)), np.atleast_1d(np.asarray(P, float)))
        if T.ndim != 1:
            raise ValueError("an equation is prepared along one batch axis; flatten first")
        if len(packed.parameters) not in (1, T.size) and T.size == 1:
            T, P = (np.broadcast_to(v, len(packed.parameters)) for v in (T, P))
        return CompiledStates(packed, np.ascontiguousarray(T), np.ascontiguousarray(P))

    def take(self, index: Rows) -> CompiledStates:
        """Return the states chosen by ``index`` along the batch axis."""
        return CompiledStates(
            self.packed.take(index), np.ascontiguousarray(self.T[index]), np.ascontiguousarray(self.P[index])
        )

    def _run(self, name: str, *values: object, block: int = BLOCK) -> None:
        own = self.packed.of_states(self.T.size)
        kernel(name).over(self.T.size, own.memory, (table(own.family), own.parameters, self.T, *values), block=block)

    # -- at T and P ---------------------------------------------------------------------------------------------------

    def ln_phi(self, x: Array, root: Root = "stable") -> tuple[Array, Array]:
        """Return ln fugacity coefficients (N, nc) and Z (N,) of normalised compositions x (N, nc)."""
        x = _of(x, self.T.size, self.packed.nc)
        out, Z = np.empty(x.shape), np.empty(len(x))
        self._run("states_ln_phi", self.P, x, CODES[root], out, Z)
        return out, Z

    def pure_ln_phi(self) -> Array:
        """Return ln phi of each component taken pure, as a liquid where it has one, (N, nc)."""
        out = np.empty((self.T.size, self.packed.nc))
        self._run("states_pure_ln_phi", self.P, out)
        return out

    def derivatives(self, x: Array, root: Root = "stable") -> PhaseDerivatives:
        """Return ln phi with all its first derivatives of x (N, nc), normalised."""
        x = _of(x, self.T.size, self.packed.nc)
        n, nc = x.shape
        ln_phi, dn, dT, dP, Z = (
            np.empty((n, nc)),
            np.empty((n, nc * nc)),
            np.empty((n, nc)),
            np.empty((n, nc)),
            np.empty(n),
        )
        self._run("states_derivatives", self.P, x, CODES[root], ln_phi, dn, dT, dP, Z, block=MATRICES)
        return PhaseDerivatives(ln_phi, dn.reshape(n, nc, nc), dT, dP, Z)

    def response(self, x: Array, root: Root = "stable") -> PhaseResponse:
        """Return departures and the derivatives in T and V of x (N, nc), normalised."""
        return self._response(x, CODES[root], np.zeros(self.T.size))

    def response_at(self, x: Array, Z: Array) -> PhaseResponse:
        """Return the same at any root Z (N,), stable or not."""
        return self._response(x, 0, np.ascontiguousarray(Z, dtype=float))

    def _response(self, x: Array, root: int, given: Array) -> PhaseResponse:
        x = _of(x, self.T.size, self.packed.nc)
        out = np.empty((len(x), 6))
        self._run("states_response", self.P, x, root, given, out)
        return PhaseResponse(*(np.ascontiguousarray(out[:, k]) for k in range(6)))

    def roots(self, x: Array) -> tuple[Array, Array]:
        """Return Z of the densest and of the least dense root, each (N,); the same number where there is one."""
        x = _of(x, self.T.size, self.packed.nc)
        out = np.empty((len(x), 2))
        self._run("states_roots", self.P, x, out)
        return np.ascontiguousarray(out[:, 0]), np.ascontiguousarray(out[:, 1])

    def _place(self, x: Array, Z: Array) -> Array:
        x = _of(x, self.T.size, self.packed.nc)
        out = np.empty((len(x), 2))
        self._run("states_place", self.P, x, np.ascontiguousarray(np.broadcast_to(Z, len(x)), dtype=float), out)
        return out

    def packing(self, x: Array, Z: Array) -> Array:
        """Return how densely a phase is packed, (N,), relative to the critical point of its own one-fluid: 1 there."""
        return self._place(x, Z)[:, 0]

    def cold(self, x: Array) -> Mask:
        """Tell which compositions are below the critical temperature of their one-fluid, (N,)."""
        return np.asarray(self._place(x, np.ones(1))[:, 1] > 0.0)

    # -- at T and V: volumes are m3/mol -------------------------------------------------------------------------------

    def _pressure(self, V: Array, x: Array) -> Array:
        n = max(self.T.size, np.size(V))
        out = np.empty((n, 2))
        self._run(
            "volumes_pressure", np.ascontiguousarray(np.broadcast_to(V, n), dtype=float), _of(x, n, self.packed.nc), out
        )
        return out

    def pressure(self, V: Array, x: Array) -> Array:
        """Return the pressure, Pa (N,), at molar volumes V (N,) m3/mol."""
        return self._pressure(V, x)[:, 0]

    def pressure_slope(self, V: Array, x: Array) -> Array:
        """Return dP/dV at constant T, Pa mol/m3 (N,)."""
        return self._pressure(V, x)[:, 1]

    def hessian(self, V: Array, x: Array) -> Array:
        """Return d2F/dn_i dn_j at constant T and V, (N, nc, nc)."""
        x = _of(x, self.T.size, self.packed.nc)
        out = np.empty((*x.shape, x.shape[1]))
        self._run(
            "volumes_hessian", np.ascontiguousarray(np.broadcast_to(V, len(x)), dtype=float), x, out, block=MATRICES
        )
        return out

    def third(self, V: Array, x: Array, dn: Array) -> Array:
        """Return the third derivative of F along ``dn`` (N, nc), (N,)."""
        x = _of(x, self.T.size, self.packed.nc)
        out = np.empty(len(x))
        V = np.ascontiguousarray(np.broadcast_to(V, len(x)), dtype=float)
        self._run("volumes_third", V, x, _of(dn, len(x), self.packed.nc), out, block=MATRICES)
        return out
