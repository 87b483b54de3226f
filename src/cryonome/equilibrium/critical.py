"""Critical points of mixtures.

Heidemann and Khalil (AIChE J. 26, 769, 1980): at fixed T and V the quadratic form of the Helmholtz energy in the
mole numbers has a zero eigenvalue, and the cubic form along its eigenvector vanishes too. The quadratic form is
analytic; the cubic form is the third coefficient of an exact power series along the direction.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from ..eos.cubic import CubicEos

Array = NDArray[np.float64]


@dataclass(frozen=True)
class CriticalPoint:
    """A mixture's critical point: T K, P Pa, molar volume m3/mol, residual of the two conditions."""

    T: float
    P: float
    V: float
    residual: float


def _forms(eos: CubicEos, z: Array, T: float, V: float) -> tuple[float, float]:
    """Return the smallest eigenvalue of the scaled quadratic form and the cubic form along its vector."""
    form = eos.form
    d1, d2 = form.delta1, form.delta2
    alpha, _ = eos.sqrt_alpha(np.array([T]))
    root_a = np.sqrt(eos.a_critical) * alpha / np.sqrt(R * T)
    a_ij = root_a[:, None] * (1.0 - eos.kij) * root_a
    b = eos.b
    B, D = float(z @ b), float(z @ a_ij @ z)
    Di = 2.0 * a_ij @ z
    # Derivatives of F = -n ln(1 - B/V) - D f, f = ln((V + d1 B)/(V + d2 B))/(B (d1 - d2)).
    f = np.log((V + d1 * B) / (V + d2 * B)) / (B * (d1 - d2))
    p1, p2 = V + d1 * B, V + d2 * B
    f_v = -1.0 / (p1 * p2)
    f_vv = (p1 + p2) / (p1 * p2) ** 2
    f_B = -(f + V * f_v) / B
    f_BB = -(2.0 * f_B - V * (2.0 * f_v + V * f_vv) / B) / B
    h = 1.0 / (V - B)
    q = h - f_B * Di + 0.5 * (h * h - D * f_BB) * b
    F_ij = b[:, None] * q + q[:, None] * b - 2.0 * f * a_ij
    scale = np.sqrt(z)
    values, vectors = np.linalg.eigh(np.eye(z.size) + scale[:, None] * F_ij * scale)
    u = vectors[:, 0]
    # The sign of the vector is free, but the cubic form must be continuous for Newton's method.
    u = u * np.sign(u[np.argmax(np.abs(u))])
    return float(values[0]), _cubic_form(form.delta1, form.delta2, z, scale * u, b, a_ij, V)


def _cubic_form(d1: float, d2: float, z: Array, dn: Array, b: Array, a_ij: Array, V: float) -> float:
    """Return the third derivative of A/(R T) along dn, the ideal-gas part included."""
    n = np.array([1.0, dn.sum(), 0.0, 0.0])
    B0, B1 = float(z @ b), float(dn @ b)
    D = np.array([z @ a_ij @ z, 2.0 * (z @ a_ij @ dn), dn @ a_ij @ dn, 0.0])

    def log_linear(c0: float, c1: float) -> Array:
        r = c1 / c0
        return np.array([np.log(c0), r, -r * r / 2.0, r**3 / 3.0])

    def product(x: Array, y: Array) -> Array:
        return np.convolve(x, y)[:4]

    repulsive = product(n, log_linear(V - B0, -B1) - np.array([np.log(V), 0.0, 0.0, 0.0]))
    ratio = -B1 / B0
    inverse = np.array([1.0, ratio, ratio**2, ratio**3]) / (B0 * (d1 - d2))
    logs = log_linear(V + d1 * B0, d1 * B1) - log_linear(V + d2 * B0, d2 * B1)
    attractive = product(D, product(logs, inverse))
    return float(6.0 * (-repulsive - attractive)[3] - np.sum(dn**3 / z**2))


def critical_point(eos: CubicEos, z: Array, T: float, P: float) -> CriticalPoint | None:
    """Return the critical point of z (nc,) nearest the estimate T K, P Pa, or None where Newton fails.

    Components absent from z are left out. Newton's method in (ln T, ln V) with a central-difference Jacobian of
    the two conditions, damped so that neither moves by more than a tenth.
    """
    present = z > 0.0
    if not present.all():
        eos = CubicEos(
            eos.form, eos.Tc[present], eos.Pc[present], eos.omega[present], eos.kij[np.ix_(present, present)]
        )
        z = z[present]
    z = z / z.sum()
    if z.size == 1:
        V = eos.form.critical_volume_ratio * float(eos.b[0])
        return CriticalPoint(float(eos.Tc[0]), float(eos.Pc[0]), V, 0.0)
    _, Z = eos.prepare([T], [P]).ln_phi(z[None])
    b = float(z @ eos.b)
    point = np.log([T, float(Z[0]) * R * T / P])
    residual = np.inf
    for _ in range(40):
        value = np.array(_forms(eos, z, *np.exp(point)))
        residual = float(np.abs(value).max())
        if residual < 1e-11:
            break
        jacobian = np.empty((2, 2))
        for k in range(2):
            h = np.zeros(2)
            h[k] = 1e-5
            up, down = _forms(eos, z, *np.exp(point + h)), _forms(eos, z, *np.exp(point - h))
            jacobian[:, k] = (np.array(up) - np.array(down)) / 2e-5
        try:
            step = -np.linalg.solve(jacobian, value)
        except np.linalg.LinAlgError:
            return None
        step *= min(1.0, 0.1 / max(float(np.abs(step).max()), 1e-300))
        point = point + step
        if not np.isfinite(point).all() or np.exp(point[1]) <= 1.001 * b:
            return None
        if np.abs(step).max() < 1e-13:
            break
    if residual > 1e-7:
        return None
    T, V = (float(v) for v in np.exp(point))
    alpha, _ = eos.sqrt_alpha(np.array([T]))
    root = z * np.sqrt(eos.a_critical) * alpha
    a = float(root @ (1.0 - eos.kij) @ root)
    P = R * T / (V - b) - a / ((V + eos.form.delta1 * b) * (V + eos.form.delta2 * b))
    return CriticalPoint(T, float(P), V, residual)
