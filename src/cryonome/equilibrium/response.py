"""How an equilibrium of several phases answers to temperature and pressure as a whole, batched over states.

With the amounts of the phases other than the largest as variables n_k, equal fugacity g(n, T, P) = 0 gives dn/dT = -H^-1 g_T and
dn/dP = -H^-1 g_P, where H is the Hessian of G/(R T). Since the partial enthalpies of two phases differ by -R T^2 g_T and the
partial volumes by R T g_P,

    (dH/dT)_P = sum n Cp + R T^2 g_T' H^-1 g_T,   (dV/dT)_P = sum n dV/dT - R T g_P' H^-1 g_T,
    (dV/dP)_T = sum n dV/dP - R T g_P' H^-1 g_P,

what Michelsen and Mollerup, *Thermodynamic Models* (2007), ch. 14, obtain by differentiating the equilibrium equations.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from .linear import solve_columns
from .phases import ROOTS, Phases

Array = NDArray[np.float64]

BLOCK = 500
"""States taken at a time: their matrices stay in the processor's cache."""

LEAST = 1e-14
"""Fraction below which a phase has no part in the whole's answer."""


@dataclass(frozen=True)
class Exchange:
    """What the exchange between the phases of N states adds to the sums over the phases, each (N,), dimensionless: ``cp`` to Cp/R;
    ``expansion`` to (P/R) (dV/dT); ``compression`` to -(P^2/(R T)) (dV/dP). Zero for a single phase; infinite for a pure
    fluid of two."""

    cp: Array
    expansion: Array
    compression: Array


def exchange(eos: Equation, phases: Phases) -> Exchange:
    """Return what the exchange between phases adds for states of one leading axis."""
    n, places = phases.kind.shape
    nc = phases.z.shape[-1]
    out = np.zeros((3, n))
    active = phases.present & (phases.fraction > LEAST) & phases.converged[:, None]
    count = active.sum(axis=-1)
    if nc == 1:
        out[:, count > 1] = np.inf
        return Exchange(*out)
    for others in range(1, places):
        rows = np.flatnonzero(count == others + 1)
        for i in range(0, rows.size, BLOCK):
            some = rows[i : i + BLOCK]
            out[:, some] = _sums(eos, phases, some, active, others)
    return Exchange(*out)


def _sums(
    eos: Equation, phases: Phases, rows: NDArray[np.intp], active: NDArray[np.bool_], others: int
) -> tuple[Array, Array, Array]:
    """Return the three sums of :class:`Exchange` of the states ``rows``, which have ``others`` phases beside their largest."""
    nc = phases.z.shape[-1]
    order = np.argsort(np.where(active[rows], -phases.fraction[rows], 1.0), axis=-1, kind="stable")
    amount0, matrix0, *reference = _phase(eos, phases, rows, order[:, 0])
    m = rows.size
    H = np.zeros((m, others * nc, others * nc))
    g = np.zeros((m, others * nc, 2))
    scales = []
    for k in range(others):
        amount, matrix, by_T, by_P = _phase(eos, phases, rows, order[:, k + 1])
        with np.errstate(divide="ignore", invalid="ignore"):
            scale = np.where(amount0 > 0.0, np.sqrt(amount * amount0 / (amount + amount0)), 0.0)
        scale = np.nan_to_num(scale)
        scales.append(scale)
        block = slice(k * nc, (k + 1) * nc)
        H[:, block, block] = matrix
        g[:, block, 0] = scale * (by_T - reference[0])
        g[:, block, 1] = scale * (by_P - reference[1])
    whole = np.concatenate(scales, axis=-1)
    for k in range(others):
        for j in range(others):
            H[:, k * nc : (k + 1) * nc, j * nc : (j + 1) * nc] += matrix0
    H *= whole[:, :, None] * whole[:, None, :]
    index = np.arange(others * nc)
    H[:, index, index] += np.where(whole > 0.0, 0.0, 1.0)
    answer = solve_columns(H, g)
    both = np.einsum("nij,nik->njk", g, answer)
    return both[:, 0, 0], -both[:, 1, 0], both[:, 1, 1]


def _phase(eos: Equation, phases: Phases, rows: NDArray[np.intp], place: NDArray[np.intp]) -> tuple[Array, ...]:
    """Return amounts (N, nc) of the phases at ``place``, the derivative of ln f in them (N, nc, nc), and that of ln f in ln T and in
    ln P (N, nc)."""
    x, beta = phases.composition[rows, place], phases.fraction[rows, place]
    root = phases.root[rows, place]
    matrix = np.empty((rows.size, x.shape[1], x.shape[1]))
    by_T, by_P = np.empty_like(x), np.empty_like(x)
    for code in np.unique(root):
        pick = np.flatnonzero(root == code)
        state = eos.take(rows[pick]).prepare(phases.T[rows[pick]], phases.P[rows[pick]])
        found = state.derivatives(x[pick], ROOTS[int(code)])
        matrix[pick], by_T[pick], by_P[pick] = found.dln_phi_dn, found.dln_phi_dlnT, found.dln_phi_dlnP
    index = np.arange(x.shape[1])
    matrix -= 1.0
    with np.errstate(divide="ignore"):
        matrix[:, index, index] += np.where(x > 0.0, 1.0 / x, 0.0)
    matrix /= beta[:, None, None]
    return beta[:, None] * x, matrix, by_T, by_P
