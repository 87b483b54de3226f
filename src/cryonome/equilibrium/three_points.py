"""States of three phases in equilibrium of which one has a given share of the moles: on the boundary of the three-phase
region none, along a quality line of the whole the vapour's.

Newton's method with all three phases, analytic derivatives. Unknowns of a point, (2 nc + 4,): ln K of the first and of
the second phase against the third, the shares of the first and the second, ln T and ln P. Equations: equal fugacities
(2 nc), equal sums of mole fractions (2), the share that is given, and one unknown that is specified. Mole fractions
follow from the unknowns by the feed. Array shapes: N points, nc components."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation

Array = NDArray[np.float64]
Places = NDArray[np.intp]

TOLERANCE = 1e-9
LEAST = 1e-300
ROUNDS = 14


@dataclass(frozen=True)
class Points:
    """N points: unknowns ``u`` (N, 2 nc + 4), which ``converged`` (N,), in how many ``rounds`` (N,), and the direction
    of the line there, ``slope`` (N, 2 nc + 4), by the unknown specified."""

    u: Array
    converged: NDArray[np.bool_]
    rounds: Places
    slope: Array


def compositions(u: Array, z: Array) -> tuple[Array, Array]:
    """Return mole fractions (N, 3, nc), not normalised, and shares (N, 3) of the phases of points u."""
    nc = z.size
    K = np.exp(np.clip(u[:, : 2 * nc].reshape(-1, 2, nc), -600.0, 600.0))
    first, second = u[:, 2 * nc], u[:, 2 * nc + 1]
    D = 1.0 + first[:, None] * (K[:, 0] - 1.0) + second[:, None] * (K[:, 1] - 1.0)
    last = z / D
    return np.stack([K[:, 0] * last, K[:, 1] * last, last], axis=1), np.stack(
        [first, second, 1.0 - first - second], axis=1
    )


def unknowns(x: Array, share: Array, T: Array, P: Array) -> Array:
    """Return the unknowns (N, 2 nc + 4) of states of three phases x (N, 3, nc) with shares (N, 3) at T and P (N,)."""
    ln = np.log(np.maximum(x, LEAST))
    return np.concatenate(
        [ln[:, 0] - ln[:, 2], ln[:, 1] - ln[:, 2], share[:, :2], np.log(T)[:, None], np.log(P)[:, None]], axis=1
    )


def in_order(x: Array) -> tuple[int, int, int]:
    """Return the places of three phases x (3, nc), lightest first, as lines take them: the two ends and last the phase
    that is nearest to both, with which either may become one."""
    ln = np.log(np.maximum(x, 1e-30))
    apart = [[float(np.abs(ln[i] - ln[j]).max()) for j in range(3)] for i in range(3)]
    middle = int(np.argmin([max(row) for row in apart]))
    first, second = (k for k in range(3) if k != middle)
    return first, second, middle


def _system(eos: Equation, z: Array, u: Array, given: Places, value: Array) -> tuple[Array, Array]:
    """Return the equations but the specified one, (N, m - 1), and their derivatives (N, m - 1, m); ``given`` (N,) is the
    phase whose share has a ``value`` (N,)."""
    n, nc, m = len(u), z.size, u.shape[1]
    K = np.exp(np.clip(u[:, : 2 * nc].reshape(-1, 2, nc), -600.0, 600.0))
    x, share = compositions(u, z)
    D = z / np.maximum(x[:, 2], LEAST)
    T, P = np.exp(u[:, -2]), np.exp(u[:, -1])
    states = eos.prepare(T, P)
    found = [states.derivatives(x[:, k] / x[:, k].sum(axis=1, keepdims=True)) for k in range(3)]
    # Mole fractions by the unknowns: of ln K diagonal (component by component), of shares vectors.
    by = np.zeros((n, 3, 4, nc))
    for k in range(2):
        by[:, 2, k] = -x[:, 2] * share[:, k, None] * K[:, k] / D
        by[:, 2, 2 + k] = -x[:, 2] * (K[:, k] - 1.0) / D
    for j in range(2):
        by[:, j] = K[:, j, None] * by[:, 2]
        by[:, j, j] += x[:, j]
    F, J = np.zeros((n, m - 1)), np.zeros((n, m - 1, m))
    for j in range(2):
        rows = slice(j * nc, (j + 1) * nc)
        F[:, rows] = u[:, rows] + found[j].ln_phi - found[2].ln_phi
        for k in range(2):
            J[:, rows, k * nc : (k + 1) * nc] = (
                found[j].dln_phi_dn * by[:, j, k, None, :] - found[2].dln_phi_dn * by[:, 2, k, None, :]
            )
            J[:, rows, 2 * nc + k] = np.einsum("nij,nj->ni", found[j].dln_phi_dn, by[:, j, 2 + k]) - np.einsum(
                "nij,nj->ni", found[2].dln_phi_dn, by[:, 2, 2 + k]
            )
        J[:, np.arange(j * nc, (j + 1) * nc), np.arange(j * nc, (j + 1) * nc)] += 1.0
        J[:, rows, -2] = found[j].dln_phi_dlnT - found[2].dln_phi_dlnT
        J[:, rows, -1] = found[j].dln_phi_dlnP - found[2].dln_phi_dlnP
        F[:, 2 * nc + j] = (x[:, j] - x[:, 2]).sum(axis=1)
        for k in range(2):
            J[:, 2 * nc + j, k * nc : (k + 1) * nc] = by[:, j, k] - by[:, 2, k]
            J[:, 2 * nc + j, 2 * nc + k] = (by[:, j, 2 + k] - by[:, 2, 2 + k]).sum(axis=1)
    F[:, 2 * nc + 2] = share[np.arange(n), given] - value
    J[:, 2 * nc + 2, 2 * nc] = np.where(given == 0, 1.0, np.where(given == 2, -1.0, 0.0))
    J[:, 2 * nc + 2, 2 * nc + 1] = np.where(given == 1, 1.0, np.where(given == 2, -1.0, 0.0))
    return F, J


def _solved(A: Array, b: Array) -> Array:
    """Return solutions (N, m) of N systems, zeros where there is none."""
    out = np.zeros_like(b)
    good = np.isfinite(A).all(axis=(1, 2)) & np.isfinite(b).all(axis=1)
    for i in np.flatnonzero(good) if A.shape[0] < 2 else (None,):
        rows = np.flatnonzero(good) if i is None else np.array([i])
        try:
            out[rows] = np.linalg.solve(A[rows], b[rows][..., None])[..., 0]
        except np.linalg.LinAlgError:
            for r in rows:
                try:
                    out[r] = np.linalg.solve(A[r], b[r])
                except np.linalg.LinAlgError:
                    out[r] = 0.0
    return np.where(np.isfinite(out), out, 0.0)


def solve(
    eos: Equation,
    z: Array,
    u: Array,
    given: Places,
    value: Array,
    spec: Places,
    most: float = 0.5,
    rounds: int = ROUNDS,
) -> Points:
    """Return the points with the unknown ``spec`` (N,) of each as it stands in u (N, 2 nc + 4); a step changes no
    unknown by more than ``most``."""
    u, n, m = u.copy(), len(u), u.shape[1]
    rows = np.arange(n)
    fixed = np.zeros((n, m))
    fixed[rows, spec] = 1.0
    done, used = np.zeros(n, dtype=bool), np.zeros(n, dtype=np.intp)
    J = np.zeros((n, m - 1, m))
    for _ in range(rounds):
        F, J = _system(eos, z, u, given, value)
        # Where a component is all but absent its ln K is what its dilution makes of it.
        miss = np.abs(F).max(axis=1)
        done = miss < TOLERANCE
        if done.all():
            break
        A = np.concatenate([J, fixed[:, None]], axis=1)
        step = _solved(A, np.concatenate([-F, np.zeros((n, 1))], axis=1))
        size = np.abs(step).max(axis=1)
        step *= np.minimum(1.0, most / np.maximum(size, 1e-300))[:, None]
        u = np.where(done[:, None], u, u + step)
        used += ~done
    right = np.zeros((n, m))
    right[:, -1] = 1.0
    slope = _solved(np.concatenate([J, fixed[:, None]], axis=1), right)
    return Points(u, done & np.isfinite(u).all(axis=1), used, slope)
