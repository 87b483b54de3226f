"""Reference equations of pure fluids in the Helmholtz energy, behind the protocol every solver knows.

Span, *Multiparameter Equations of State* (2000), ch. 3, table 3.10: all properties from the residual energy f(delta,
tau) = A_res/(R T) and its derivatives. The terms of each fluid are :mod:`reference_fluids`."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..constants import R
from .equation import Mask, Packed, PhaseDerivatives, PhaseResponse, Root, Rows
from .reference_fluids import ReferenceFluid

Array = NDArray[np.float64]

DENSEST = 3.6
"""Density over critical beyond any fluid's in the range of its equation."""
GRID = np.concatenate([np.geomspace(1e-4, 0.05, 6), np.arange(0.1, 3.61, 0.05)])
"""Reduced densities the pressure is looked at for roots."""
CHUNK = 2000
"""States whose grids are looked at together."""
STEPS = 60


@dataclass(frozen=True)
class Energy:
    """f and its derivatives at N states, each (N,): ``d``, ``dd``, ``ddd`` by delta, ``t``, ``tt`` by tau, ``dt`` by
    both."""

    f: Array
    d: Array
    dd: Array
    ddd: Array
    t: Array
    tt: Array
    dt: Array


def energy(fluid: ReferenceFluid, delta: Array, tau: Array) -> Energy:
    """Return the residual energy at reduced densities and inverse temperatures (N,)."""
    D, U = delta[:, None], tau[:, None]
    b = fluid.bell
    d, t = np.concatenate([fluid.d, b[:, 1]]), np.concatenate([fluid.t, b[:, 2]])
    c = fluid.c
    # Every term is g(delta) h(tau); l are derivatives of ln g, m of ln h.
    power = np.where(c > 0.0, D**c, 0.0)
    e1, e2, e3 = (-c * power / D, -c * (c - 1.0) * power / D**2, -c * (c - 1.0) * (c - 2.0) * power / D**3)
    off, away = D - b[:, 6], U - b[:, 5]
    blank = np.zeros((delta.size, c.size))
    l1 = d / D + np.concatenate([e1, -2.0 * b[:, 3] * off], axis=1)
    l2 = -d / D**2 + np.concatenate([e2, np.broadcast_to(-2.0 * b[:, 3], off.shape)], axis=1)
    l3 = 2.0 * d / D**3 + np.concatenate([e3, np.zeros_like(off)], axis=1)
    m1 = t / U + np.concatenate([blank, -2.0 * b[:, 4] * away], axis=1)
    m2 = -t / U**2 + np.concatenate([blank, np.broadcast_to(-2.0 * b[:, 4], away.shape)], axis=1)
    n = np.concatenate([fluid.n, b[:, 0]])
    term = n * D**d * U**t * np.exp(np.concatenate([-power, -b[:, 3] * off**2 - b[:, 4] * away**2], axis=1))
    return Energy(
        *((term * w).sum(axis=1) for w in (1.0, l1, l2 + l1**2, l3 + 3.0 * l1 * l2 + l1**3, m1, m2 + m1**2, l1 * m1))
    )


def on_grid(fluid: ReferenceFluid, tau: Array) -> tuple[Array, Array]:
    """Return P/(R T), mol/m3, and its slope in the density, at inverse temperatures (N,) along :data:`GRID`, (N, G)
    each.

    Density and temperature stand apart in every term, so that isotherms are products of matrices.
    """
    b = fluid.bell
    D, d, n = GRID[:, None], np.concatenate([fluid.d, b[:, 1]]), np.concatenate([fluid.n, b[:, 0]])
    power = np.where(fluid.c > 0.0, D**fluid.c, 0.0)
    off = D - b[:, 6]
    slope = d + np.concatenate([-fluid.c * power, -2.0 * b[:, 3] * off * D], axis=1)
    bend = -d + np.concatenate([-fluid.c * (fluid.c - 1.0) * power, -2.0 * b[:, 3] * D**2 * np.ones_like(off)], axis=1)
    g = n * D**d * np.exp(np.concatenate([-power, -b[:, 3] * off**2], axis=1))
    U = tau[:, None]
    h = U ** np.concatenate([fluid.t, b[:, 2]])
    h[:, fluid.t.size :] *= np.exp(-b[:, 4] * (U - b[:, 5]) ** 2)
    first, second = h @ (g * slope).T, h @ (g * (bend + slope**2)).T
    return fluid.rho_c * GRID * (1.0 + first), 1.0 + 2.0 * first + second


@dataclass(frozen=True)
class HelmholtzStates:
    """A pure fluid at N temperatures and, where prepared with them, pressures: ``target`` is P/(R T), mol/m3 (nan at
    T alone)."""

    eos: HelmholtzEos
    T: Array
    target: Array
    found: tuple[Array, Array, Array] | None = None
    """Z of the densest, the least dense and the stable root (N,), once they were looked for: they hang on no
    composition."""

    def take(self, index: Rows) -> HelmholtzStates:
        """Return the states chosen by ``index`` along the batch axis."""
        known = self.__dict__.get("_roots", self.found)
        found = None if known is None else tuple(Z[index] for Z in known)
        return HelmholtzStates(self.eos.take(index), self.T[index], self.target[index], found)

    @cached_property
    def _tau(self) -> Array:
        return np.asarray(self.eos.fluid.Tc / self.T)

    def _at(self, rho: Array) -> tuple[Array, Energy]:
        delta = rho / self.eos.fluid.rho_c
        return delta, energy(self.eos.fluid, delta, self._tau)

    # -- at T and P ---------------------------------------------------------------------------------------------------

    @cached_property
    def _roots(self) -> tuple[Array, Array, Array]:
        if self.found is not None:
            return self.found
        dense, thin = np.empty_like(self.T), np.empty_like(self.T)
        for begin in range(0, self.T.size, CHUNK):
            rows = slice(begin, begin + CHUNK)
            dense[rows], thin[rows] = HelmholtzStates(self.eos, self.T[rows], self.target[rows])._densities()
        low, high = self.target / dense, self.target / thin
        stable = high.copy()
        two = np.flatnonzero(low != high)
        if two.size:
            part = HelmholtzStates(self.eos, self.T[two], self.target[two])
            gibbs = [part._at(part.target / Z)[1].f + Z - 1.0 - np.log(Z) for Z in (low[two], high[two])]
            stable[two] = np.where(gibbs[0] < gibbs[1], low[two], high[two])
        return low, high, stable

    def roots(self, x: Array) -> tuple[Array, Array]:
        """Return Z of the densest and of the least dense root, each (N,); the same number where there is one."""
        return self._roots[:2]

    def _densities(self) -> tuple[Array, Array]:
        """Return the densest and the least dense root, mol/m3 (N,): the outermost steps of a grid in which the
        pressure rises through the target."""
        fluid, n = self.eos.fluid, self.T.size
        pressure, slope = on_grid(fluid, self._tau)
        below = np.concatenate([np.ones((n, 1), bool), pressure < self.target[:, None]], axis=1)
        rising = below[:, :-1] & ~below[:, 1:]
        # Between the outermost turns an isotherm may wind: what it passes there is no state.
        falls = np.asarray(slope <= 0.0)
        place, turns = np.arange(GRID.size), falls.any(axis=1, keepdims=True)
        begin, end = np.argmax(falls, axis=1)[:, None], GRID.size - 1 - np.argmax(falls[:, ::-1], axis=1)[:, None]
        rising &= ~turns | (place <= begin) | (place > end)
        # Beyond the last step there is no state of the equation's range: it stands for the densest.
        none = ~rising.any(axis=1)
        first, last = np.argmax(rising, axis=1), rising.shape[1] - 1 - np.argmax(rising[:, ::-1], axis=1)
        edges = np.concatenate([[0.0], GRID])
        dense = self._refined(edges[last] * fluid.rho_c, edges[last + 1] * fluid.rho_c)
        thin = dense.copy()
        two = np.flatnonzero(first != last)
        if two.size:
            part = HelmholtzStates(self.eos, self.T[two], self.target[two])
            thin[two] = part._refined(edges[first[two]] * fluid.rho_c, edges[first[two] + 1] * fluid.rho_c)
        beyond = DENSEST * fluid.rho_c
        return np.where(none, beyond, dense), np.where(none, beyond, thin)

    def _refined(self, low: Array, high: Array) -> Array:
        """Return the densities (N,) within brackets, by Newton's method that the bracket guards."""
        out = 0.5 * (low + high)
        live, state, rho = np.arange(out.size), self, out.copy()
        for _ in range(STEPS):
            delta, e = state._at(rho)
            miss = rho * (1.0 + delta * e.d) - state.target
            slope = 1.0 + 2.0 * delta * e.d + delta**2 * e.dd
            low, high = np.where(miss < 0.0, rho, low), np.where(miss < 0.0, high, rho)
            with np.errstate(divide="ignore", invalid="ignore"):
                new = rho - miss / slope
            new = np.where((slope > 0.0) & (new > low) & (new < high), new, 0.5 * (low + high))
            out[live] = new
            go = np.flatnonzero(np.abs(new - rho) > 1e-13 * rho)
            if go.size == 0:
                break
            live, rho, low, high = live[go], new[go], low[go], high[go]
            state = HelmholtzStates(self.eos, state.T[go], state.target[go])
        return out

    def _select(self, x: Array, root: Root) -> Array:
        """Return Z of the wanted root (N,)."""
        return self._roots[("liquid", "vapour", "stable").index(root)]

    def ln_phi(self, x: Array, root: Root = "stable") -> tuple[Array, Array]:
        """Return ln fugacity coefficients (N, 1) and Z (N,)."""
        Z = self._select(x, root)
        return (self._at(self.target / Z)[1].f + Z - 1.0 - np.log(Z))[:, None], Z

    def pure_ln_phi(self) -> Array:
        """Return ln phi as a liquid where there is one, (N, 1)."""
        return self.ln_phi(np.ones((self.T.size, 1)), "liquid")[0]

    def derivatives(self, x: Array, root: Root = "stable") -> PhaseDerivatives:
        """Return ln phi with all its first derivatives."""
        found = self.response(x, root)
        ln_phi = self._at(self.target / found.Z)[1].f + found.Z - 1.0 - np.log(found.Z)
        return PhaseDerivatives(
            ln_phi[:, None], np.zeros((self.T.size, 1, 1)), -found.h_res[:, None], found.Z[:, None] - 1.0, found.Z
        )

    def response(self, x: Array, root: Root = "stable") -> PhaseResponse:
        """Return departures and the derivatives heat capacities and the speed of sound need."""
        Z = self._select(x, root)
        delta, e = self._at(self.target / Z)
        tau = self._tau
        return PhaseResponse(
            Z=Z,
            h_res=tau * e.t + Z - 1.0,
            s_res=tau * e.t - e.f + np.log(Z),
            cv_res=-(tau**2) * e.tt,
            p_T=(1.0 + delta * e.d - delta * tau * e.dt) / Z,
            p_V=-(1.0 + 2.0 * delta * e.d + delta**2 * e.dd) / Z,
        )

    def packing(self, x: Array, Z: Array) -> Array:
        """Return the density over the critical one, (N,)."""
        return np.asarray(self.target / Z / self.eos.fluid.rho_c)

    def cold(self, x: Array) -> Mask:
        """Tell which states are below the critical temperature, (N,)."""
        return np.asarray(self.eos.fluid.Tc > self.T)

    # -- at T and V ---------------------------------------------------------------------------------------------------

    def pressure(self, V: Array, x: Array) -> Array:
        """Return the pressure, Pa (N,), at molar volumes V (N,) m3/mol."""
        delta, e = self._at(1.0 / V)
        return np.asarray(R * self.T / V * (1.0 + delta * e.d))

    def pressure_slope(self, V: Array, x: Array) -> Array:
        """Return dP/dV at constant T, Pa mol/m3 (N,)."""
        delta, e = self._at(1.0 / V)
        return np.asarray(-R * self.T / V**2 * (1.0 + 2.0 * delta * e.d + delta**2 * e.dd))

    def hessian(self, V: Array, x: Array) -> Array:
        """Return d2F/dn2 at constant T and V, (N, 1, 1)."""
        delta, e = self._at(1.0 / V)
        return np.asarray(2.0 * delta * e.d + delta**2 * e.dd)[:, None, None]

    def third(self, V: Array, x: Array, dn: Array) -> Array:
        """Return the third derivative of F along ``dn`` (N, 1), (N,)."""
        delta, e = self._at(1.0 / V)
        return np.asarray((3.0 * delta**2 * e.dd + delta**3 * e.ddd) * dn[:, 0] ** 3)


@dataclass(frozen=True)
class HelmholtzEos:
    """The reference equation of a pure fluid; an immutable value. ``Tc`` K, ``Pc`` Pa and ``omega`` (1,) serve the
    solvers for first estimates."""

    fluid: ReferenceFluid
    Tc: Array
    Pc: Array
    omega: Array

    nc = 1

    @property
    def batched(self) -> bool:
        """Whether the estimates carry a batch axis; the equation itself has none."""
        return self.Tc.ndim > 1

    @property
    def packed(self) -> Packed:
        """Not there: solvers take one component another way."""
        raise NotImplementedError("a reference equation is of one pure fluid, which no compiled solver takes")

    def take(self, index: Rows) -> HelmholtzEos:
        """Return the equation with batched estimates restricted to ``index``."""
        if not self.batched or self.Tc.shape[0] == 1:
            return self
        return replace(self, Tc=self.Tc[index], Pc=self.Pc[index], omega=self.omega[index])

    def single(self, row: int) -> HelmholtzEos:
        """Return the equation of one state, its estimates without a batch axis."""
        return (
            replace(self, **{k: getattr(self, k).reshape(-1)[:1] for k in ("Tc", "Pc", "omega")})
            if self.batched
            else self
        )

    def of(self, keep: NDArray[np.intp] | Mask) -> HelmholtzEos:
        """Return the equation itself: there is one component."""
        return self

    def pure(self) -> HelmholtzEos:
        """Return the component as a one-component mixture along a batch axis."""
        return replace(self, **{k: getattr(self, k).reshape(-1, 1) for k in ("Tc", "Pc", "omega")})

    def prepare(self, T: ArrayLike, P: ArrayLike) -> HelmholtzStates:
        """Return the equation at temperatures T (N,) K and pressures P (N,) Pa, both positive."""
        T, P = np.broadcast_arrays(np.atleast_1d(np.asarray(T, float)), np.atleast_1d(np.asarray(P, float)))
        return HelmholtzStates(self, T, P / (R * T))

    def at_temperature(self, T: ArrayLike) -> HelmholtzStates:
        """Return the equation at temperatures T (N,) K, for any volume."""
        T = np.atleast_1d(np.asarray(T, float))
        return HelmholtzStates(self, T, np.full(T.shape, np.nan))

    def least_volume(self, x: Array) -> Array:
        """Return the volume below which there is no state, m3/mol, of compositions x (..., 1)."""
        return np.full(np.shape(x)[:-1], 1.0 / (DENSEST * self.fluid.rho_c))

    def pure_critical(self) -> tuple[Array, Array, Array]:
        """Return T K, P Pa and V m3/mol of the critical point, (..., 1)."""
        T, V = np.array([self.fluid.Tc]), np.array([1.0 / self.fluid.rho_c])
        P = self.at_temperature(T).pressure(V, np.ones((1, 1)))
        wide = [np.broadcast_to(v, self.Tc.shape) for v in (T, P, V)]
        return wide[0], wide[1], wide[2]

    def spinodal(self, T: Array) -> tuple[Array, Array, Array, Array]:
        """Return the lowest pressure of the liquid and the highest of the vapour, Pa, and the volumes there, m3/mol,
        (N,) each, at T (N,) K below the critical: between them such an isotherm may wind several times."""
        rho_c, rows = self.fluid.rho_c, np.arange(T.size)
        falls = on_grid(self.fluid, self.fluid.Tc / T)[1] <= 0.0
        last = GRID.size - 1 - np.argmax(falls[:, ::-1], axis=1)
        ends = []
        for inside, outside in ((last, last + 1), (np.argmax(falls, axis=1), np.argmax(falls, axis=1) - 1)):
            # Close to the critical temperature no point of the grid may lie between: then the critical density does.
            there = falls[rows, inside]
            low = np.where(there, GRID[inside], 1.0) * rho_c
            high = (
                np.where(there, GRID[np.clip(outside, 0, GRID.size - 1)], np.where(outside > inside, 1.1, 0.9)) * rho_c
            )
            states, one = self.at_temperature(T), np.ones((T.size, 1))
            for _ in range(60):
                middle = 0.5 * (low + high)
                stable = states.pressure_slope(1.0 / middle, one) < 0.0
                low, high = np.where(stable, low, middle), np.where(stable, middle, high)
            ends.append((states.pressure(1.0 / high, one), 1.0 / high))
        (liquid, dense), (vapour, thin) = ends
        return liquid, vapour, dense, thin

    def unlikeness(self) -> Array:
        """Return zero, (1,)."""
        return np.zeros(1)
