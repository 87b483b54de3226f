"""Critical points of mixtures.

Heidemann and Khalil (AIChE J. 26, 769, 1980): at fixed T and V the quadratic form of the Helmholtz energy in the
mole numbers has a zero eigenvalue, and the cubic form along its eigenvector vanishes too. The quadratic form is
analytic, and so is the cubic form along its eigenvector; both come from the equation's Helmholtz energy.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from ..eos import Equation
from ..eos.equation import VolumeStates

Array = NDArray[np.float64]


@dataclass(frozen=True)
class CriticalPoint:
    """A mixture's critical point: T K, P Pa, molar volume m3/mol, residual of the two conditions."""

    T: float
    P: float
    V: float
    residual: float


def conditions(eos: Equation, z: Array, T: Array | float, V: Array | float) -> tuple[Array, Array]:
    """Return the smallest eigenvalue of the scaled quadratic form and the cubic form along its vector, each (N,), of
    the feed z (nc,) at T (N,) K and V (N,) m3/mol."""
    value, vector, cubic = forms(eos, z, np.atleast_1d(np.asarray(T, float)), np.atleast_1d(np.asarray(V, float)))
    # The sign of the vector is free, but the cubic form must be continuous for Newton's method.
    largest = vector[np.arange(value.size), np.argmax(np.abs(vector), axis=1)]
    return value, np.asarray(cubic * np.sign(largest))


def forms(eos: Equation, z: Array, T: Array, V: Array) -> tuple[Array, Array, Array]:
    """Return the smallest eigenvalue (N,), its vector (N, nc), of either sign, and the cubic form along it (N,)."""
    states = eos.at_temperature(T)
    x = np.broadcast_to(z, (T.size, z.size))
    values, vectors = np.linalg.eigh(_quadratic(states, V, x))
    dn = np.sqrt(z) * vectors[:, :, 0]
    return values[:, 0], vectors[:, :, 0], np.asarray(states.third(V, x, dn) - (dn**3 / z**2).sum(axis=-1))


def least_eigenvalue(eos: Equation, z: Array, T: Array, V: Array) -> Array:
    """Return the smallest eigenvalue alone, (N,): positive where the feed is locally stable."""
    x = np.broadcast_to(z, (T.size, z.size))
    return np.asarray(np.linalg.eigvalsh(_quadratic(eos.at_temperature(T), V, x))[:, 0])


def _quadratic(states: VolumeStates, V: Array, x: Array) -> Array:
    """Return the quadratic form scaled by the square roots of the amounts, (N, nc, nc)."""
    scale = np.sqrt(x)
    # The ideal gas adds 1/n_i on the diagonal, which scaling by sqrt(n_i) turns into the identity.
    return np.asarray(np.eye(x.shape[1]) + scale[:, :, None] * states.hessian(V, x) * scale[:, None, :])


def critical_point(eos: Equation, z: Array, T: float, P: float) -> CriticalPoint | None:
    """Return the critical point of z (nc,) nearest the estimate T K, P Pa, or None where Newton fails.

    Components absent from z are left out. Newton's method in (ln T, ln V) with a central-difference Jacobian of
    the two conditions, damped so that neither moves by more than a tenth.
    """
    present = z > 0.0
    if not present.all():
        eos, z = eos.of(present), z[present]
    z = z / z.sum()
    if z.size == 1:
        Tc, Pc, Vc = (float(v[0]) for v in eos.pure_critical())
        return CriticalPoint(Tc, Pc, Vc, 0.0) if np.isfinite(Tc) else None
    _, Z = eos.prepare([T], [P]).ln_phi(z[None])
    return critical_at(eos, z, T, float(Z[0]) * R * T / P)


def critical_at(eos: Equation, z: Array, T: float, V: float) -> CriticalPoint | None:
    """Return the critical point of z (nc,), all present and normalised, nearest T K and V m3/mol, or None where
    Newton fails."""
    least = float(eos.least_volume(z))
    point = np.log([T, V])
    residual = np.inf
    for _ in range(40):
        # The point and its neighbours for the differences, in one batch.
        around = point + 1e-5 * np.array([[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1]])
        found = np.array(conditions(eos, z, *np.exp(around.T)))
        value = found[:, 0]
        residual = float(np.abs(value).max())
        if residual < 1e-11:
            break
        jacobian = (found[:, 1::2] - found[:, 2::2]) / 2e-5
        try:
            step = -np.linalg.solve(jacobian, value)
        except np.linalg.LinAlgError:
            return None
        step *= min(1.0, 0.1 / max(float(np.abs(step).max()), 1e-300))
        point = point + step
        if not np.isfinite(point).all() or np.exp(point[1]) <= 1.001 * least:
            return None
        if np.abs(step).max() < 1e-13:
            break
    if residual > 1e-7:
        return None
    T, V = (float(v) for v in np.exp(point))
    P = float(eos.at_temperature([T]).pressure(np.array([V]), z[None])[0])
    return CriticalPoint(T, P, V, residual)
