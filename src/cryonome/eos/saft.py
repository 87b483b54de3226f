"""PC-SAFT for chains that do not associate, behind the protocol every solver knows.

Gross and Sadowski, Ind. Eng. Chem. Res. 40, 1244 (2001). A component is a chain of m segments of diameter sigma and
energy eps/k; unlike pairs by Lorentz and Berthelot with (1 - k_ij) on the energy, and a diameter d = sigma (1 - 0.12
exp(-3 eps/(k T))).

Its functions are compiled (``kernels/source/saft.py``, ``saft_energy.py``); pure critical points are
:mod:`saft_critical`."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .compiled import CompiledStates, packed_vectors
from .equation import Packed, Rows
from .saft_critical import critical_points
from .saft_energy import AVOGADRO
from .subsets import remembered

Array = NDArray[np.float64]


HEAD, VECTORS, ISOTHERM, ROWS = 8, 5, 24, 24
"""How parameters and states lie in memory, as ``kernels/source/saft.py`` tells."""


@dataclass(frozen=True)
class SaftEos:
    """PC-SAFT of a given mixture; an immutable value.

    ``m``, ``sigma`` m and ``epsilon`` K, (nc,) or (N, nc); ``kij`` (nc, nc) or (N, nc, nc). ``Tc`` K, ``Pc`` Pa and
    ``omega`` serve the solvers for first estimates."""

    m: Array
    sigma: Array
    epsilon: Array
    kij: Array
    Tc: Array
    Pc: Array
    omega: Array

    @property
    def nc(self) -> int:
        """Number of components."""
        return int(self.Tc.shape[-1])

    @property
    def batched(self) -> bool:
        """Whether the parameters carry a batch axis."""
        return max(v.ndim for v in (self.m, self.sigma, self.epsilon, self.Tc)) > 1 or self.kij.ndim > 2

    def _each(self, vector: Callable[[Array], Array], matrix: Callable[[Array], Array]) -> SaftEos:
        m, sigma, epsilon, Tc, Pc, omega = (
            vector(v) for v in (self.m, self.sigma, self.epsilon, self.Tc, self.Pc, self.omega)
        )
        return SaftEos(m, sigma, epsilon, matrix(self.kij), Tc, Pc, omega)

    def take(self, index: Rows) -> SaftEos:
        """Return the equation with batched parameters restricted to ``index``; shared parameters stay."""
        if not self.batched:
            return self

        def part(core: int) -> Callable[[Array], Array]:
            return lambda v: v[index] if v.ndim > core and v.shape[0] > 1 else v

        taken = self._each(part(1), part(2))
        if "packed" in self.__dict__:
            # A value kept, as cached_property keeps it: the critical points of the chains are not found anew.
            taken.__dict__["packed"] = self.packed.take(index)
        return taken

    def single(self, row: int) -> SaftEos:
        """Return the equation of one state, its parameters without a batch axis."""

        def part(core: int) -> Callable[[Array], Array]:
            return lambda v: v[row if v.shape[0] > 1 else 0] if v.ndim > core else v

        return self._each(part(1), part(2)) if self.batched else self

    @remembered
    def of(self, index: NDArray[np.intp]) -> SaftEos:
        """Return the equation of a subset of the components."""
        return self._each(lambda v: v[..., index], lambda k: k[..., index[:, None], index])

    def pure(self) -> SaftEos:
        """Return the components taken pure: one-component mixtures along a batch axis."""
        shape = np.broadcast_shapes(
            *(v.shape for v in (self.m, self.sigma, self.epsilon, self.Tc, self.Pc, self.omega))
        )
        return self._each(lambda v: np.broadcast_to(v, shape).reshape(-1)[:, None], lambda _k: np.zeros((1, 1)))

    @cached_property
    def _pairs(self) -> tuple[Array, Array]:
        """E1, m_i m_j (eps_ij/k) sigma_ij^3, and E2, m_i m_j (eps_ij/k)^2 sigma_ij^3, (..., nc, nc)."""
        size = 0.5 * (self.sigma[..., :, None] + self.sigma[..., None, :])
        depth = np.sqrt(self.epsilon[..., :, None] * self.epsilon[..., None, :]) * (1.0 - self.kij)
        one = self.m[..., :, None] * self.m[..., None, :] * depth * size**3
        return one, one * depth

    @cached_property
    def packed(self) -> Packed:
        """The equation as compiled solvers take it; the order is told in ``kernels/source/saft.py``."""
        nc = self.nc
        T, _, V = self._critical
        vectors = [(v, 1) for v in (self.m, self.sigma, self.epsilon, T, V)]
        state = HEAD + 3 * nc + ISOTHERM + (ROWS + 4) * nc + nc * nc
        return Packed.of(self, "saft", packed_vectors([*vectors, *((e, 2) for e in self._pairs)]), state)

    @cached_property
    def _critical(self) -> tuple[Array, Array, Array]:
        return critical_points(self.m, self.sigma, self.epsilon)

    def prepare(self, T: ArrayLike, P: ArrayLike) -> CompiledStates:
        """Return the equation at temperatures T (N,) K and pressures P (N,) Pa, both positive."""
        return CompiledStates.at(self.packed, T, P)

    def at_temperature(self, T: ArrayLike) -> CompiledStates:
        """Return the equation at temperatures T (N,) K, for any volume."""
        return CompiledStates.at(self.packed, T, 0.0)

    def least_volume(self, x: Array) -> Array:
        """Return the volume at a packing of 0.74 of the bare segments, m3/mol, of compositions x (..., nc)."""
        return np.asarray(np.pi / 6.0 * AVOGADRO / 0.74 * (x * self.m * self.sigma**3).sum(axis=-1))

    def pure_critical(self) -> tuple[Array, Array, Array]:
        """Return T K, P Pa and V m3/mol of the critical point of each component taken pure, (..., nc)."""
        return self._critical

    def unlikeness(self) -> Array:
        """Return the median magnitude of the interaction parameters of each component, (nc,)."""
        kij = np.abs(self.kij if self.kij.ndim == 2 else self.kij[0])
        return np.asarray(np.median(kij, axis=1))
