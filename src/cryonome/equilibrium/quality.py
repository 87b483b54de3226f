"""The equations of a point with a given vapour fraction, and their Newton corrector, batched.

Unknowns u = (ln K_1 .. ln K_nc, ln T, ln P); equations

    ln K_i + ln phi_i(y) - ln phi_i(x) = 0,   sum_i (y_i - x_i) = 0,   one unknown specified,

with x_i = z_i / (1 - beta + beta K_i) and y_i = K_i x_i. Michelsen, Fluid Phase Equilib. 4, 1 (1980), extended
to any fraction beta. Bubble and dew points are beta = 0 and 1. Shapes: N points, nc components.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation, PhaseDerivatives, PreparedStates, Root
from ..watch import UNWATCHED, Watch
from .linear import solve_each

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

TOLERANCE = 1e-11
TRIVIAL = 1e-5
"""Largest |ln K| below which two phases count as one."""


@dataclass(frozen=True)
class QualityPoints:
    """N points: vapour fraction ``beta`` (N,) and unknowns ``u`` (N, nc + 2), Newton matrix ``jacobian``
    (N, nc + 2, nc + 2) with the last row empty for the specification, ``converged`` (N,), ``iterations`` (N,) and ``residual``
    (N,); ``volume`` (N,) is the logarithm of the ratio of V/b, y to x, whose sign tells which phase is packed more loosely."""

    beta: Array
    u: Array
    jacobian: Array
    converged: Mask
    iterations: NDArray[np.int64]
    residual: Array
    volume: Array


def compositions(u: Array, z: Array, beta: Array) -> tuple[Array, Array]:
    """Return x and y (N, nc) of the two phases, not normalised."""
    K = np.exp(u[:, :-2])
    x = z / np.maximum(1.0 + beta[:, None] * (K - 1.0), 1e-300)
    return x, K * x


FEW = 16
"""States up to this number whose two phases are evaluated in one call: there a call costs more than its numbers."""

ALIKE = 0.35
"""Distance of two compositions (half the sum of differences) below which the root tells the phases apart."""


def _phase_roots(state: PreparedStates, x: Array, y: Array, light: Array) -> tuple[PhaseDerivatives, PhaseDerivatives]:
    """Return both phases, each at its stable root.

    Where the compositions are alike, as with nearly pure fluids, isomers and azeotropes, the stable root would be the
    same for both; there the lighter phase takes the vapour root and the heavier the liquid root.
    """
    n = len(x)
    both = np.concatenate([x, y])
    alike = 0.5 * np.abs(x - y).sum(axis=-1) < ALIKE
    if n > FEW and not alike.any():
        return state.derivatives(x), state.derivatives(y)
    up = light > 0.0
    lighter = np.concatenate([~up, up])
    close = np.concatenate([alike, alike])
    groups: tuple[tuple[Mask, Root], ...] = (
        (~close, "stable"),
        (close & ~lighter, "liquid"),
        (close & lighter, "vapour"),
    )
    rows = [(np.flatnonzero(mask), root) for mask, root in groups]
    parts = [(k, state.take(k % n).derivatives(both[k], root)) for k, root in rows if k.size]
    found = parts[0][1] if len(parts) == 1 else PhaseDerivatives.merged(parts)
    return found.take(slice(n)), found.take(slice(n, None))


@dataclass(frozen=True)
class Evaluated:
    """The equilibrium equations at N points: ``res`` (N, nc + 1) and ``jac`` (N, nc + 2, nc + 2), its last row zero; the
    phases' compositions ``x``, ``y`` (N, nc), not normalised, with their sums; what the equation of state says of them;
    ``xy`` (N, nc), x y / z; ``volume`` (N,) as in :class:`QualityPoints`."""

    res: Array
    jac: Array
    state: PreparedStates
    x: Array
    y: Array
    sx: Array
    sy: Array
    px: PhaseDerivatives
    py: PhaseDerivatives
    xy: Array
    volume: Array


def evaluate(eos: Equation, z: Array, beta: Array, u: Array, light: Array) -> Evaluated:
    """Return the equations of N points; ``light`` (N,) is positive where y is meant to be the lighter phase."""
    n, nc = z.shape
    T, P = np.exp(u[:, -2]), np.exp(u[:, -1])
    x, y = compositions(u, z, beta)
    sx, sy = x.sum(axis=-1), y.sum(axis=-1)
    state = eos.prepare(T, P)
    px, py = _phase_roots(state, x / sx[:, None], y / sy[:, None], light)
    res = np.empty((n, nc + 1))
    res[:, :nc] = u[:, :nc] + py.ln_phi - px.ln_phi
    res[:, nc] = sy - sx
    with np.errstate(divide="ignore", invalid="ignore"):
        xy = np.where(z > 0.0, x * y / z, 0.0)
    dx, dy = -beta[:, None] * xy, (1.0 - beta)[:, None] * xy
    jac = np.zeros((n, nc + 2, nc + 2))
    jac[:, :nc, :nc] = py.dln_phi_dn * (dy / sy[:, None])[:, None, :] - px.dln_phi_dn * (dx / sx[:, None])[:, None, :]
    index = np.arange(nc)
    jac[:, index, index] += 1.0
    jac[:, :nc, nc] = py.dln_phi_dlnT - px.dln_phi_dlnT
    jac[:, :nc, nc + 1] = py.dln_phi_dlnP - px.dln_phi_dlnP
    jac[:, nc, :nc] = dy - dx
    packing_x, packing_y = state.packing(x / sx[:, None], px.Z), state.packing(y / sy[:, None], py.Z)
    with np.errstate(divide="ignore", invalid="ignore"):
        volume = np.log(packing_x / packing_y)
    return Evaluated(res, jac, state, x, y, sx, sy, px, py, xy, volume)


class System(Protocol):
    """The equations of N points."""

    @property
    def beta(self) -> Array:
        """Vapour fractions (N,) by mole, known or found with the rest."""
        ...

    def residuals(self, rows: NDArray[np.intp], u: Array, light: Array) -> tuple[Array, Array, Array]:
        """Return residuals (M, nc + 1), Newton matrix (M, nc + 2, nc + 2), its last row zero, and ``volume`` (M,) of
        :class:`QualityPoints` for the points ``rows`` at their unknowns u (M, nc + 2)."""
        ...

    def settled(self, rows: NDArray[np.intp]) -> Mask:
        """Tell for which points ``rows`` (M,) what is solved for beside the unknowns is found, (M,)."""
        ...


@dataclass
class ByMole:
    """Points of feeds z (N, nc) at known mole fractions ``beta`` (N,) of vapour."""

    eos: Equation
    z: Array
    beta: Array

    def residuals(self, rows: NDArray[np.intp], u: Array, light: Array) -> tuple[Array, Array, Array]:
        """Return the residuals of the points ``rows``."""
        found = evaluate(self.eos.take(rows), self.z[rows], self.beta[rows], u, light)
        return found.res, found.jac, found.volume

    def settled(self, rows: NDArray[np.intp]) -> Mask:
        """Nothing is solved for beside the unknowns."""
        return np.ones(rows.size, dtype=bool)


def correct(
    eos: Equation,
    z: Array,
    beta: Array,
    u: Array,
    spec: NDArray[np.intp],
    max_iterations: int = 15,
    largest_step: float = 1.0,
    light: Array | None = None,
    watch: Watch = UNWATCHED,
) -> QualityPoints:
    """Solve for points of mole fractions ``beta`` (N,) of vapour by :func:`solve_system`."""
    return solve_system(ByMole(eos, z, beta), u, spec, max_iterations, largest_step, light, watch)


def solve_system(
    system: System,
    u: Array,
    spec: NDArray[np.intp],
    max_iterations: int = 15,
    largest_step: float = 1.0,
    light: Array | None = None,
    watch: Watch = UNWATCHED,
) -> QualityPoints:
    """Solve for the unknowns with unknown number ``spec`` (N,) held at its value in ``u`` (N, nc + 2).

    A point that leaves the plausible range, or does not settle in ``max_iterations``, is returned unconverged.
    ``light`` (N,) is positive where y is the lighter phase, as it is where none is given. The trivial solution (all K
    one) is left to the caller, who knows whether the line may pass it.
    """
    u = np.array(u)
    n, m = u.shape
    jacobian = np.zeros((n, m, m))
    converged = np.zeros(n, dtype=bool)
    iterations = np.zeros(n, dtype=np.int64)
    residual, volume = np.full(n, np.inf), np.zeros(n)
    light = np.ones(n) if light is None else light
    live = np.arange(n)
    for _ in range(max_iterations):
        watch.check()
        res, jac, ratio = system.residuals(live, u[live], light[live])
        jacobian[live], volume[live] = jac, ratio
        size = np.abs(res).max(axis=-1)
        residual[live] = size
        iterations[live] += 1
        full = jac.copy()
        full[np.arange(live.size), m - 1, spec[live]] = 1.0
        step = -solve_each(full, np.concatenate([res, np.zeros((live.size, 1))], axis=1))
        reach = np.abs(step).max(axis=-1)
        step *= np.minimum(1.0, largest_step / np.maximum(reach, 1e-300))[:, None]
        done = (size < 1e-9) & (reach < 1e-9) & system.settled(live)
        with np.errstate(over="ignore"):
            u[live] += step
        sane = np.isfinite(u[live]).all(axis=-1) & (np.abs(u[live, -2] - 5.7) < 4.0) & (u[live, -1] < 25.0)
        sane &= (u[live, -1] > -30.0) & (np.abs(u[live, :-2]).max(axis=-1) < 500.0) & np.isfinite(size)
        converged[live[done & sane]] = True
        u[live[~sane]] = np.nan
        live = live[~done & sane]
        if live.size == 0:
            break
    # Newton that reached round-off without the last confirmation is just as converged.
    converged |= np.isfinite(u).all(axis=-1) & (residual < TOLERANCE)
    return QualityPoints(system.beta, u, jacobian, converged, iterations, residual, volume)


def tangent(jacobian: Array, spec: NDArray[np.intp]) -> Array:
    """Return du/dS (N, nc + 2), the sensitivity of all unknowns to the specified one."""
    n, m, _ = jacobian.shape
    full = jacobian.copy()
    full[:, m - 1, :] = 0.0
    full[np.arange(n), m - 1, spec] = 1.0
    rhs = np.zeros((n, m))
    rhs[:, -1] = 1.0
    return solve_each(full, rhs)
