"""The residual Helmholtz energy of PC-SAFT as a density: phi(c, T) = A_res/(R T V), mol/m3, with its derivatives.

Gross and Sadowski, Ind. Eng. Chem. Res. 40, 1244 (2001), eqs. A.3 to A.20, for chains that do not associate. Written over the
component densities c_i = n_i/V, everything at given T and V is a derivative of phi,

    dF/dn_i = phi_i,   d2F/dn_i dn_j = phi_ij/V,   P/(R T) = sum c + sum c phi_c - phi,

since F = V phi(n/V). phi depends on the c_i through few sums: the zeta_k, the mean segment number and the two energies, and
through the contact value of each chain, which depends on its own diameter, zeta_2 and zeta_3. Directions are the nc densities
and the temperature. Shapes: N states, nc components; units mol, m3, K.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

Rows = NDArray[np.intp] | NDArray[np.bool_] | slice

AVOGADRO = 6.02214076e23

A0 = (0.9105631445, 0.6361281449, 2.6861347891, -26.547362491, 97.759208784, -159.59154087, 91.297774084)
A1 = (-0.3084016918, 0.1860531159, -2.5030047259, 21.419793629, -65.255885330, 83.318680481, -33.746922930)
A2 = (-0.0906148351, 0.4527842806, 0.5962700728, -1.7241829131, -4.1302112531, 13.776631870, -8.6728470368)
B0 = (0.7240946941, 2.2382791861, -4.0025849485, -21.003576815, 26.855641363, 206.55133841, -355.60235612)
B1 = (-0.5755498075, 0.6995095521, 3.8925673390, -17.215471648, 192.67226447, -161.82646165, -165.20769346)
B2 = (0.0976883116, -0.2557574982, -9.1558561530, 20.642075974, -38.804430052, 93.626774077, -29.666905585)
"""Universal constants of the dispersion integrals, table 1 of the paper."""

K = np.pi / 6.0 * AVOGADRO
"""zeta_k = K sum c m d^k."""
SMALL = 0.02
"""Packing below which the hard-sphere term is summed as a series."""


def _h(z: Array) -> tuple[Array, Array, Array]:
    """Return h(z) = 1/(z (1 - z)^2) + ln(1 - z)/z^2 with two derivatives; the series sum (k + 2 - 1/(k + 2)) z^k near zero."""
    low = z < SMALL
    safe = np.where(low, 0.5, z)
    u, log = 1.0 / (1.0 - safe), np.log1p(-safe)
    value = u * u / safe + log / safe**2
    first = 2.0 * u**3 / safe - u * u / safe**2 - u / safe**2 - 2.0 * log / safe**3
    second = (
        6.0 * u**4 / safe
        - 4.0 * u**3 / safe**2
        + 2.0 * u * u / safe**3
        - u * u / safe**2
        + 4.0 * u / safe**3
        + 6.0 * log / safe**4
    )
    if low.any():
        k = np.arange(10.0)
        factor = k + 2.0 - 1.0 / (k + 2.0)
        powers = np.where(low, z, 0.0)[..., None] ** k
        value = np.where(low, powers @ factor, value)
        first = np.where(low, powers[..., :-1] @ (factor * k)[1:], first)
        second = np.where(low, powers[..., :-2] @ (factor * k * (k - 1.0))[2:], second)
    return value, first, second


def _series(constants: tuple[tuple[float, ...], ...], eta: Array, m: Array) -> tuple[Array, ...]:
    """Return a dispersion integral at packing eta and mean segment number m with its derivatives: value, by eta, by m, by eta
    twice, by both, by m twice."""
    inverse = 1.0 / m
    p1, p2 = 1.0 - inverse, (1.0 - inverse) * (1.0 - 2.0 * inverse)
    p1m, p2m = inverse**2, 3.0 * inverse**2 - 4.0 * inverse**3
    p1mm, p2mm = -2.0 * inverse**3, -6.0 * inverse**3 + 12.0 * inverse**4
    polys = []
    for c in constants:
        value = first = second = np.zeros_like(eta)
        for a in reversed(c):
            second = second * eta + 2.0 * first
            first = first * eta + value
            value = value * eta + a
        polys.append((value, first, second))
    (f0, d0, s0), (f1, d1, s1), (f2, d2, s2) = polys
    return (
        f0 + p1 * f1 + p2 * f2, d0 + p1 * d1 + p2 * d2, p1m * f1 + p2m * f2, s0 + p1 * s1 + p2 * s2, p1m * d1 + p2m * d2,
        p1mm * f1 + p2mm * f2,
    )  # fmt: skip


def compressibility(eta: Array, m: Array) -> tuple[Array, ...]:
    """Return C1 (eq. A.11) with its derivatives in the order of :func:`_series`."""
    u, v = 1.0 / (1.0 - eta), 1.0 / (2.0 - eta)
    top = eta * (8.0 - 2.0 * eta)
    a = top * u**4
    a1 = (8.0 - 4.0 * eta) * u**4 + 4.0 * top * u**5
    a2 = -4.0 * u**4 + 8.0 * (8.0 - 4.0 * eta) * u**5 + 20.0 * top * u**6
    poly = eta * (20.0 + eta * (-27.0 + eta * (12.0 - 2.0 * eta)))
    poly1 = 20.0 + eta * (-54.0 + eta * (36.0 - 8.0 * eta))
    poly2 = -54.0 + eta * (72.0 - 24.0 * eta)
    w = (u * v) ** 2
    log1 = 2.0 * (u + v)
    w1 = w * log1
    w2 = w * (log1 * log1 + 2.0 * (u * u + v * v))
    b, b1, b2 = poly * w, poly1 * w + poly * w1, poly2 * w + 2.0 * poly1 * w1 + poly * w2
    q = 1.0 + m * a + (1.0 - m) * b
    q1, qm = m * a1 + (1.0 - m) * b1, a - b
    q2, q1m = m * a2 + (1.0 - m) * b2, a1 - b1
    c = 1.0 / q
    return (
        c, -q1 * c * c, -qm * c * c, (2.0 * q1 * q1 * c - q2) * c * c, (2.0 * q1 * qm * c - q1m) * c * c, 2.0 * qm * qm * c**3
    )  # fmt: skip


def _times(f: tuple[Array, ...], g: tuple[Array, ...]) -> tuple[Array, ...]:
    """Return the product of two functions with its derivatives in the order of :func:`_series`."""
    return (
        f[0] * g[0], f[1] * g[0] + f[0] * g[1], f[2] * g[0] + f[0] * g[2], f[3] * g[0] + 2.0 * f[1] * g[1] + f[0] * g[3],
        f[4] * g[0] + f[1] * g[2] + f[2] * g[1] + f[0] * g[4], f[5] * g[0] + 2.0 * f[2] * g[2] + f[0] * g[5],
    )  # fmt: skip


def integrals(eta: Array, m: Array) -> tuple[tuple[Array, ...], tuple[Array, ...]]:
    """Return -2 pi N_A I1 and -pi N_A m C1 I2 with their derivatives in the order of :func:`_series`."""
    one, zero = np.ones_like(m), np.zeros_like(m)
    first = tuple(-2.0 * np.pi * AVOGADRO * v for v in _series((A0, A1, A2), eta, m))
    inner = _times(compressibility(eta, m), _series((B0, B1, B2), eta, m))
    second = tuple(-np.pi * AVOGADRO * v for v in _times((m, zero, one, zero, zero, zero), inner))
    return first, second


@dataclass(frozen=True)
class Energy:
    """phi (N,), its gradient in the densities (N, nc) and by T (N,), and, where asked for, the second derivatives."""

    value: Array
    by_c: Array
    by_T: Array
    by_cc: Array
    by_cT: Array
    by_TT: Array


@dataclass(frozen=True)
class Segments:
    """The chains at N temperatures: segment numbers m (nc,) or (N, nc); diameters d (N, nc) m with two temperature
    derivatives; T (N,) K; ``E1`` m_i m_j (eps_ij/k) sigma_ij^3 and ``E2`` m_i m_j (eps_ij/k)^2 sigma_ij^3, (nc, nc) or (N, nc, nc)."""

    m: Array
    d: Array
    d1: Array
    d2: Array
    T: Array
    E1: Array
    E2: Array

    def take(self, index: Rows) -> Segments:
        """Return the states chosen along the batch axis."""
        m = self.m[index] if self.m.ndim > 1 else self.m
        E1, E2 = (e[index] if e.ndim > 2 else e for e in (self.E1, self.E2))
        return Segments(m, self.d[index], self.d1[index], self.d2[index], self.T[index], E1, E2)

    def pairs(self, c: Array) -> tuple[Array, Array]:
        """Return sum_j c_j e_ij of both energies at T, (N, nc)."""
        first, second = (c @ e if e.ndim == 2 else np.einsum("nij,nj->ni", e, c) for e in (self.E1, self.E2))
        T = self.T[:, None]
        return np.asarray(first / T), np.asarray(second / T**2)


def energy(at: Segments, c: Array, second: bool = True) -> Energy:
    """Return phi of densities c (N, nc) mol/m3 and its derivatives, second ones only where wanted."""
    m, d = at.m, at.d
    empty = np.zeros(0)
    cm = c * m
    zi = K * np.stack([m * d**k for k in range(4)], axis=-2)  # (N, 4, nc)
    z = np.einsum("nki,ni->nk", zi, c)
    total = c.sum(axis=-1)
    mean = cm.sum(axis=-1) / total
    ones = np.ones_like(c)
    mean_i = (m - mean[:, None]) / total[:, None]
    y1, y2 = at.pairs(c)
    D1, D2 = np.einsum("ni,ni->n", y1, c), np.einsum("ni,ni->n", y2, c)
    z0, z1, z2, z3 = z.T
    u, log = 1.0 / (1.0 - z3), np.log1p(-z3)
    h, h1, h2 = _h(z3)
    f, g = integrals(z3, mean)
    # hard spheres
    cube = z2**3
    phi = (3.0 * z1 * z2 * u + cube * h - z0 * log) / K
    p0, p1 = -log / K, 3.0 * z2 * u / K
    p2 = (3.0 * z1 * u + 3.0 * z2**2 * h) / K
    p3 = (3.0 * z1 * z2 * u * u + cube * h1 + z0 * u) / K
    # chains: ln g = ln u + ln(1 + t) + ln(1 + t/2), t = d zeta_2 u
    t = d * (z2 * u)[:, None]
    w = -c * (m - 1.0)
    a, b = 1.0 / (1.0 + t), 1.0 / (2.0 + t)
    L = np.log(u)[:, None] + np.log1p(t) + np.log1p(0.5 * t)
    Lt, Ltt = a + b, -a * a - b * b
    U = u[:, None]
    t2, t3, td = d * U, t * U, (z2 * u)[:, None] * ones
    L2, L3, Ld = Lt * t2, Lt * t3 + U, Lt * td
    phi = phi + np.einsum("ni,ni->n", w, L) + f[0] * D1 + g[0] * D2
    x2, x3 = np.einsum("ni,ni->n", w, L2), np.einsum("ni,ni->n", w, L3)
    # gradient
    q2, q3 = p2 + x2, p3 + x3 + f[1] * D1 + g[1] * D2
    qm = f[2] * D1 + g[2] * D2
    by_c = np.einsum("nk,nki->ni", np.stack([p0, p1, q2, q3], axis=-1), zi)
    by_c += qm[:, None] * mean_i + 2.0 * (f[0][:, None] * y1 + g[0][:, None] * y2) - (m - 1.0) * L
    rise = [k * d ** max(k - 1, 0) * at.d1 if k else np.zeros_like(d) for k in range(4)]
    zT = K * np.stack([np.einsum("ni,ni->n", cm, r) for r in rise], axis=-1)
    T = at.T
    D1T, D2T = -D1 / T, -2.0 * D2 / T
    wd = w * at.d1
    by_T = p1 * zT[:, 1] + q2 * zT[:, 2] + q3 * zT[:, 3] + np.einsum("ni,ni->n", wd, Ld) + f[0] * D1T + g[0] * D2T
    if not second:
        return Energy(phi, by_c, by_T, empty, empty, empty)
    # second derivatives in the sums
    p22, p23 = 6.0 * z2 * h / K, (3.0 * z1 * u * u + 3.0 * z2**2 * h1) / K
    p33 = (6.0 * z1 * z2 * u**3 + cube * h2 + z0 * u * u) / K
    t23, t33 = d * U * U, 2.0 * t * U * U
    L22, L23, L33 = Ltt * t2 * t2, Ltt * t2 * t3 + Lt * t23, Ltt * t3 * t3 + Lt * t33 + U * U
    L2d, L3d, Ldd = Ltt * t2 * td + Lt * U, Ltt * t3 * td + Lt * (z2 * u * u)[:, None], Ltt * td * td
    x22, x23, x33 = (np.einsum("ni,ni->n", w, v) for v in (L22, L23, L33))
    n = z3.size
    H = np.zeros((n, 7, 7))  # zeta_0..3, mean, D1, D2
    for i, j, v in (
        (0, 3, u / K), (1, 2, 3.0 * u / K), (1, 3, 3.0 * z2 * u * u / K), (2, 2, p22 + x22), (2, 3, p23 + x23),
        (3, 3, p33 + x33 + f[3] * D1 + g[3] * D2), (3, 4, f[4] * D1 + g[4] * D2), (3, 5, f[1]), (3, 6, g[1]),
        (4, 4, f[5] * D1 + g[5] * D2), (4, 5, f[2]), (4, 6, g[2]),
    ):  # fmt: skip
        H[:, i, j] = v
        H[:, j, i] = v
    Y = np.concatenate([zi, mean_i[:, None], 2.0 * y1[:, None], 2.0 * y2[:, None]], axis=1)  # (N, 7, nc)
    HY = H @ Y
    by_cc = np.swapaxes(Y, 1, 2) @ HY
    # of the mean itself: -(mean_i + mean_j)/total
    s = (qm / total)[:, None]
    by_cc -= s[:, :, None] * (mean_i[:, :, None] + mean_i[:, None, :])
    by_cc += (2.0 * f[0] / T)[:, None, None] * at.E1 + (2.0 * g[0] / T**2)[:, None, None] * at.E2
    own = -(m - 1.0)[..., None] * (L2[..., None] * zi[:, None, 2] + L3[..., None] * zi[:, None, 3])
    by_cc += own + np.swapaxes(own, 1, 2)
    # by temperature
    YT = np.concatenate([zT, np.zeros((n, 1)), D1T[:, None], D2T[:, None]], axis=1)
    by_cT = np.einsum("nki,nk->ni", HY, YT)
    ziT = K * np.stack([m * r for r in rise], axis=-2)
    by_cT += np.einsum("nk,nki->ni", np.stack([p0, p1, q2, q3], axis=-1), ziT)
    by_cT -= (2.0 * f[0] / T)[:, None] * y1 + (4.0 * g[0] / T)[:, None] * y2
    by_cT -= (m - 1.0) * (L2 * zT[:, 2:3] + L3 * zT[:, 3:4] + Ld * at.d1)
    x2d, x3d = np.einsum("ni,ni->n", wd, L2d), np.einsum("ni,ni->n", wd, L3d)
    by_cT += x2d[:, None] * zi[:, 2] + x3d[:, None] * zi[:, 3]
    bend = [
        k * ((k - 1) * d ** max(k - 2, 0) * at.d1**2 + d ** (k - 1) * at.d2) if k else np.zeros_like(d)
        for k in range(4)
    ]
    zTT = K * np.stack([np.einsum("ni,ni->n", cm, r) for r in bend], axis=-1)
    D1TT, D2TT = 2.0 * D1 / T**2, 6.0 * D2 / T**2
    by_TT = np.einsum("ni,nij,nj->n", YT, H, YT) + p1 * zTT[:, 1] + q2 * zTT[:, 2] + q3 * zTT[:, 3]
    by_TT += f[0] * D1TT + g[0] * D2TT + 2.0 * (x2d * zT[:, 2] + x3d * zT[:, 3])
    by_TT += np.einsum("ni,ni->n", w, Ldd * at.d1**2 + Ld * at.d2)
    return Energy(phi, by_c, by_T, by_cc, by_cT, by_TT)
