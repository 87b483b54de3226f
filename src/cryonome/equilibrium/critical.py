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

Array = NDArray[np.float64]


@dataclass(frozen=True)
class CriticalPoint:
    """A mixture's critical point: T K, P Pa, molar volume m3/mol, residual of the two conditions."""

    T: float
    P: float
    V: float
    residual: float


def conditions(eos: Equation, z: Array, T: float, V: float) -> tuple[float, float]:
    """Return the smallest eigenvalue of the scaled quadratic form and the cubic form along its vector, at T K, V m3/mol."""
    states = eos.at_temperature([T])
    volume, x = np.array([V]), z[None]
    scale = np.sqrt(z)
    # The ideal gas adds 1/n_i on the diagonal, which scaling by sqrt(n_i) turns into the identity.
    values, vectors = np.linalg.eigh(np.eye(z.size) + scale[:, None] * states.hessian(volume, x)[0] * scale)
    u = vectors[:, 0]
    # The sign of the vector is free, but the cubic form must be continuous for Newton's method.
    dn = scale * u * np.sign(u[np.argmax(np.abs(u))])
    return float(values[0]), float(states.third(volume, x, dn[None])[0] - np.sum(dn**3 / z**2))


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
    least = float(eos.least_volume(z))
    point = np.log([T, float(Z[0]) * R * T / P])
    residual = np.inf
    for _ in range(40):
        value = np.array(conditions(eos, z, *np.exp(point)))
        residual = float(np.abs(value).max())
        if residual < 1e-11:
            break
        jacobian = np.empty((2, 2))
        for k in range(2):
            h = np.zeros(2)
            h[k] = 1e-5
            up, down = conditions(eos, z, *np.exp(point + h)), conditions(eos, z, *np.exp(point - h))
            jacobian[:, k] = (np.array(up) - np.array(down)) / 2e-5
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
