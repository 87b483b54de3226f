"""PC-SAFT for chains that do not associate, behind the protocol every solver knows.

Gross and Sadowski, Ind. Eng. Chem. Res. 40, 1244 (2001). A component is a chain of m segments of diameter sigma and energy
eps/k; unlike pairs by Lorentz and Berthelot with (1 - k_ij) on the energy, and a diameter d = sigma (1 - 0.12 exp(-3 eps/(k T))).

The energy is :mod:`saft_energy`, the roots in the density :mod:`saft_roots`, pure critical points :mod:`saft_critical`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..constants import R
from .equation import Mask, PhaseDerivatives, PhaseResponse, Root, Rows
from .saft_critical import critical_points
from .saft_energy import AVOGADRO, Energy, Segments, energy
from .saft_roots import packings

Array = NDArray[np.float64]


@dataclass(frozen=True)
class SaftStates:
    """PC-SAFT at N temperatures and, where prepared with them, pressures: ``target`` is P/(R T), mol/m3 (nan at T alone)."""

    eos: SaftEos
    at: Segments
    target: Array

    def take(self, index: Rows) -> SaftStates:
        """Return the states chosen by ``index`` along the batch axis."""
        return SaftStates(self.eos.take(index), self.at.take(index), self.target[index])

    # -- at T and P ---------------------------------------------------------------------------------------------------

    def pure_ln_phi(self) -> Array:
        """Return ln phi of each component taken pure, as a liquid where it has one, (N, nc)."""
        n, nc = self.at.d.shape
        pure = self.eos.pure() if self.eos.batched else self.eos.pure().take(np.tile(np.arange(nc), n))
        state = pure._states(np.repeat(self.at.T, nc), np.repeat(self.target, nc))
        return state.ln_phi(np.ones((n * nc, 1)), "liquid")[0].reshape(n, nc)

    def roots(self, x: Array) -> tuple[Array, Array]:
        """Return Z of the densest and of the least dense root, each (N,); the same number where there is one."""
        dense, thin, s = packings(self.at, x, self.target, "stable")
        return self.target / (dense * s.density), self.target / (thin * s.density)

    def _select(self, x: Array, root: Root) -> Array:
        """Return Z of the wanted root (N,)."""
        if root != "stable":
            dense, thin, s = packings(self.at, x, self.target, root)
            return np.asarray(self.target / ((dense if root == "liquid" else thin) * s.density))
        low, high = self.roots(x)
        several = np.flatnonzero(low != high)
        if several.size == 0:
            return high
        part, xs = self.take(several), x[several]
        gibbs = []
        for Z in (low[several], high[several]):
            c = xs * (part.target / Z)[:, None]
            phi = energy(part.at, c, False).value
            gibbs.append(phi * Z / part.target - np.log(Z) + Z)
        Z = high.copy()
        Z[several] = np.where(gibbs[0] < gibbs[1], low[several], high[several])
        return Z

    def _energy(self, x: Array, root: Root, second: bool) -> tuple[Array, Array, Energy]:
        """Return Z, density (N,) mol/m3 and the energy there."""
        Z = self._select(x, root)
        rho = self.target / Z
        return Z, rho, energy(self.at, x * rho[:, None], second)

    def ln_phi(self, x: Array, root: Root = "stable") -> tuple[Array, Array]:
        """Return ln fugacity coefficients (N, nc) and Z (N,) of normalised compositions x (N, nc)."""
        Z, _, e = self._energy(x, root, False)
        return e.by_c - np.log(Z)[:, None], Z

    def derivatives(self, x: Array, root: Root = "stable") -> PhaseDerivatives:
        """Return ln phi with all its first derivatives; Michelsen and Mollerup (2007), ch. 2 eqs. 13 to 22."""
        Z, rho, e = self._energy(x, root, True)
        T = self.at.T
        # At one mole in all: F_ij, and the pressure over R T by mole numbers, volume and temperature.
        Fij = rho[:, None, None] * e.by_cc
        p_i = rho[:, None] * (1.0 + np.einsum("nij,nj->ni", e.by_cc, x * rho[:, None]))
        p_v = -rho * (p_i * x).sum(axis=-1)
        p_T = self.target / T + ((x * e.by_cT).sum(axis=-1) * rho - e.by_T)
        vbar = -p_i / p_v[:, None]
        dn = Fij + 1.0 + p_i[:, :, None] * p_i[:, None, :] / p_v[:, None, None]
        dlnT = T[:, None] * (e.by_cT - vbar * p_T[:, None]) + 1.0
        return PhaseDerivatives(e.by_c - np.log(Z)[:, None], dn, dlnT, vbar * self.target[:, None] - 1.0, Z)

    def response(self, x: Array, root: Root = "stable") -> PhaseResponse:
        """Return departures and the derivatives heat capacities and the speed of sound need."""
        Z, rho, e = self._energy(x, root, True)
        T, c = self.at.T, x * rho[:, None]
        F, F_T, F_TT = e.value / rho, e.by_T / rho, e.by_TT / rho
        p_T = self.target / T + ((c * e.by_cT).sum(axis=-1) - e.by_T)
        curvature = np.einsum("ni,nij,nj->n", c, e.by_cc, c)
        return PhaseResponse(
            Z=Z,
            h_res=-T * F_T + Z - 1.0,
            s_res=-T * F_T - F + np.log(Z),
            cv_res=-T * (T * F_TT + 2.0 * F_T),
            p_T=T * p_T / self.target,
            p_V=-(rho + curvature) / self.target,
        )

    def packing(self, x: Array, Z: Array) -> Array:
        """Return the density relative to that of the critical points of the components, (N,): 1 there for a pure one."""
        return np.asarray((x * self.eos.pure_critical()[2]).sum(axis=-1) * self.target / Z)

    def cold(self, x: Array) -> Mask:
        """Tell which compositions are below the mean critical temperature of their components by critical volume, (N,)."""
        heat, _, size = self.eos.pure_critical()
        weight = x * size
        return np.asarray((weight * heat).sum(axis=-1) > self.at.T * weight.sum(axis=-1))

    # -- at T and V ---------------------------------------------------------------------------------------------------

    def pressure(self, V: Array, x: Array) -> Array:
        """Return the pressure, Pa (N,), at molar volumes V (N,) m3/mol."""
        c = x / V[:, None]
        e = energy(self.at, c, False)
        return np.asarray(R * self.at.T * (c.sum(axis=-1) + (c * e.by_c).sum(axis=-1) - e.value))

    def pressure_slope(self, V: Array, x: Array) -> Array:
        """Return dP/dV at constant T, Pa mol/m3 (N,)."""
        c = x / V[:, None]
        curvature = np.einsum("ni,nij,nj->n", c, energy(self.at, c).by_cc, c)
        return np.asarray(-R * self.at.T * (c.sum(axis=-1) + curvature) / V)

    def hessian(self, V: Array, x: Array) -> Array:
        """Return d2F/dn_i dn_j at constant T and V, (N, nc, nc)."""
        return np.asarray(energy(self.at, x / V[:, None]).by_cc / V[:, None, None])

    def third(self, V: Array, x: Array, dn: Array) -> Array:
        """Return the third derivative of F along ``dn`` (N, nc), (N,): the slope of the second by a symmetric difference,
        extrapolated once, good to some ten digits."""

        def second(s: float) -> Array:
            at = np.maximum(x + s * dn, 1e-300)
            return np.asarray(np.einsum("ni,nij,nj->n", dn, self.hessian(V, at), dn))

        h = 1e-3
        coarse, fine = ((second(s) - second(-s)) / (2.0 * s) for s in (h, 0.5 * h))
        return np.asarray((4.0 * fine - coarse) / 3.0)


@dataclass(frozen=True)
class SaftEos:
    """PC-SAFT of a given mixture; an immutable value.

    ``m``, ``sigma`` m and ``epsilon`` K, (nc,) or (N, nc); ``kij`` (nc, nc) or (N, nc, nc). ``Tc`` K, ``Pc`` Pa and ``omega`` serve
    the solvers for first estimates.
    """

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

        return self._each(part(1), part(2))

    def single(self, row: int) -> SaftEos:
        """Return the equation of one state, its parameters without a batch axis."""

        def part(core: int) -> Callable[[Array], Array]:
            return lambda v: v[row if v.shape[0] > 1 else 0] if v.ndim > core else v

        return self._each(part(1), part(2)) if self.batched else self

    def of(self, keep: NDArray[np.intp] | Mask) -> SaftEos:
        """Return the equation of a subset of the components."""
        index = np.flatnonzero(keep) if keep.dtype == bool else keep
        return self._each(lambda v: v[..., index], lambda k: k[..., index[:, None], index])

    def pure(self) -> SaftEos:
        """Return the components taken pure: one-component mixtures along a batch axis."""
        shape = np.broadcast_shapes(
            *(v.shape for v in (self.m, self.sigma, self.epsilon, self.Tc, self.Pc, self.omega))
        )
        return self._each(lambda v: np.broadcast_to(v, shape).reshape(-1)[:, None], lambda _k: np.zeros((1, 1)))

    @cached_property
    def _pairs(self) -> tuple[Array, Array]:
        """E1 and E2 of :class:`Segments`."""
        size = 0.5 * (self.sigma[..., :, None] + self.sigma[..., None, :])
        depth = np.sqrt(self.epsilon[..., :, None] * self.epsilon[..., None, :]) * (1.0 - self.kij)
        one = self.m[..., :, None] * self.m[..., None, :] * depth * size**3
        return one, one * depth

    @cached_property
    def _critical(self) -> tuple[Array, Array, Array]:
        return critical_points(self.m, self.sigma, self.epsilon)

    def _states(self, T: Array, target: Array) -> SaftStates:
        if T.ndim != 1:
            raise ValueError("an equation is prepared along one batch axis; flatten first")
        Tcol = T[:, None]
        fade = 0.12 * np.exp(-3.0 * self.epsilon / Tcol)
        rate = 3.0 * self.epsilon / Tcol**2
        d = self.sigma * (1.0 - fade)
        d1 = -self.sigma * fade * rate
        d2 = d1 * (rate - 2.0 / Tcol)
        shape = d.shape
        m = self.m if self.m.ndim == 1 else np.broadcast_to(self.m, shape)
        return SaftStates(self, Segments(m, d, d1, d2, T, *self._pairs), target)

    def prepare(self, T: ArrayLike, P: ArrayLike) -> SaftStates:
        """Return the equation at temperatures T (N,) K and pressures P (N,) Pa, both positive."""
        T, P = np.broadcast_arrays(np.atleast_1d(np.asarray(T, float)), np.atleast_1d(np.asarray(P, float)))
        return self._states(T, P / (R * T))

    def at_temperature(self, T: ArrayLike) -> SaftStates:
        """Return the equation at temperatures T (N,) K, for any volume."""
        T = np.atleast_1d(np.asarray(T, float))
        return self._states(T, np.full(T.shape, np.nan))

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
