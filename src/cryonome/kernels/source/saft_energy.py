"""The residual Helmholtz energy of PC-SAFT as a density, with its derivatives; formulae and source in
:mod:`cryonome.eos.saft_energy`.

phi(c, T) = A_res/(R T V) of component densities c: everything at given T and V is a derivative of it. Work is rows of
``w`` (:data:`ROWS`, nc)."""

from math import log, log1p, pi

import numpy as np

from .linear import add_scaled, dot
from .marks import F1, F2, inner, unit

AVOGADRO = 6.02214076e23
K = pi / 6.0 * AVOGADRO
SMALL = 0.02
"""Packing below which the hard-sphere term is summed as a series."""

FIRST = np.array([
    [0.9105631445, 0.6361281449, 2.6861347891, -26.547362491, 97.759208784, -159.59154087, 91.297774084],
    [-0.3084016918, 0.1860531159, -2.5030047259, 21.419793629, -65.255885330, 83.318680481, -33.746922930],
    [-0.0906148351, 0.4527842806, 0.5962700728, -1.7241829131, -4.1302112531, 13.776631870, -8.6728470368],
])  # fmt: skip
SECOND = np.array([
    [0.7240946941, 2.2382791861, -4.0025849485, -21.003576815, 26.855641363, 206.55133841, -355.60235612],
    [-0.5755498075, 0.6995095521, 3.8925673390, -17.215471648, 192.67226447, -161.82646165, -165.20769346],
    [0.0976883116, -0.2557574982, -9.1558561530, 20.642075974, -38.804430052, 93.626774077, -29.666905585],
])  # fmt: skip
"""Universal constants of the dispersion integrals: Gross and Sadowski (2001), table 1."""

ROWS = 24
"""Rows of work: 0 the densities, 1 gradient, 2 and 3 pair sums, 4 mean_i, 5 to 8 zeta_i, 9 to 15 of chains, 16 to 22
of the Hessian, 23 by temperature."""

Six = tuple[float, float, float, float, float, float]


@inner
def spheres(z: float) -> tuple[float, float, float]:
    """Return h(z) = 1/(z (1 - z)^2) + ln(1 - z)/z^2 with two derivatives; the series sum (k + 2 - 1/(k + 2)) z^k near
    zero."""
    if z < SMALL:
        value = first = second = 0.0
        for k in range(9, -1, -1):
            a = k + 2.0 - 1.0 / (k + 2.0)
            second = second * z + 2.0 * first
            first = first * z + value
            value = value * z + a
        return value, first, second
    u, ln = 1.0 / (1.0 - z), log1p(-z)
    value = u * u / z + ln / z**2
    first = 2.0 * u**3 / z - u * u / z**2 - u / z**2 - 2.0 * ln / z**3
    second = 6.0 * u**4 / z - 4.0 * u**3 / z**2 + 2.0 * u * u / z**3 - u * u / z**2 + 4.0 * u / z**3 + 6.0 * ln / z**4
    return value, first, second


@inner
def horner(c: F2, row: int, eta: float) -> tuple[float, float, float]:
    """Return a polynomial with two derivatives."""
    value = first = second = 0.0
    for k in range(6, -1, -1):
        second = second * eta + 2.0 * first
        first = first * eta + value
        value = value * eta + c[row, k]
    return value, first, second


@inner
def series(c: F2, eta: float, m: float) -> Six:
    """Return a dispersion integral with its derivatives: value, by eta, by m, by eta twice, by both, by m twice."""
    inverse = 1.0 / m
    p1, p2 = 1.0 - inverse, (1.0 - inverse) * (1.0 - 2.0 * inverse)
    p1m, p2m = inverse**2, 3.0 * inverse**2 - 4.0 * inverse**3
    p1mm, p2mm = -2.0 * inverse**3, -6.0 * inverse**3 + 12.0 * inverse**4
    f0, d0, s0 = horner(c, 0, eta)
    f1, d1, s1 = horner(c, 1, eta)
    f2, d2, s2 = horner(c, 2, eta)
    return (
        f0 + p1 * f1 + p2 * f2, d0 + p1 * d1 + p2 * d2, p1m * f1 + p2m * f2, s0 + p1 * s1 + p2 * s2, p1m * d1 + p2m * d2,
        p1mm * f1 + p2mm * f2,
    )  # fmt: skip


@inner
def compressibility(eta: float, m: float) -> Six:
    """Return C1 (eq. A.11) with its derivatives in the order of :func:`series`."""
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
    w1, w2 = w * log1, w * (log1 * log1 + 2.0 * (u * u + v * v))
    b, b1, b2 = poly * w, poly1 * w + poly * w1, poly2 * w + 2.0 * poly1 * w1 + poly * w2
    q = 1.0 + m * a + (1.0 - m) * b
    q1, qm = m * a1 + (1.0 - m) * b1, a - b
    q2, q1m = m * a2 + (1.0 - m) * b2, a1 - b1
    c = 1.0 / q
    return (
        c, -q1 * c * c, -qm * c * c, (2.0 * q1 * q1 * c - q2) * c * c, (2.0 * q1 * qm * c - q1m) * c * c, 2.0 * qm * qm * c**3
    )  # fmt: skip


@inner
def product(f: Six, g: Six) -> Six:
    """Return the product of two functions with its derivatives in the order of :func:`series`."""
    return (
        f[0] * g[0], f[1] * g[0] + f[0] * g[1], f[2] * g[0] + f[0] * g[2], f[3] * g[0] + 2.0 * f[1] * g[1] + f[0] * g[3],
        f[4] * g[0] + f[1] * g[2] + f[2] * g[1] + f[0] * g[4], f[5] * g[0] + 2.0 * f[2] * g[2] + f[0] * g[5],
    )  # fmt: skip


@inner
def scaled(f: Six, factor: float) -> Six:
    """Return a function with its derivatives times a factor."""
    return f[0] * factor, f[1] * factor, f[2] * factor, f[3] * factor, f[4] * factor, f[5] * factor


@inner
def pair_sums(E: F2, c: F1, factor: float, nc: int, out: F1) -> None:
    """Put ``factor`` sum_j c_j e_ij in ``out``."""
    for i in range(nc):
        out[i] = factor * dot(E[i], c, nc)


@unit
def saft_energy(
    m: F1, d: F1, d1: F1, d2: F1, E1: F2, E2: F2, T: float, nc: int, w: F2, second: int, by_cc: F2, by_cT: F1, by_T: F1
) -> float:
    """Return phi of densities in row 0 of ``w``; its derivative by T and, where ``second``, by T twice is in
    ``by_T``, the gradient in row 1, second derivatives in ``by_cc`` and ``by_cT``."""
    c, by_c, y1, y2, mean_i = w[0], w[1], w[2], w[3], w[4]
    zi0, zi1, zi2, zi3 = w[5], w[6], w[7], w[8]
    L, L2, L3, Ld, weight = w[9], w[10], w[11], w[12], w[13]
    z0 = z1 = z2 = z3 = whole = segments = 0.0
    for i in range(nc):
        a = K * m[i]
        zi0[i], zi1[i], zi2[i], zi3[i] = a, a * d[i], a * d[i] ** 2, a * d[i] ** 3
        z0 += zi0[i] * c[i]
        z1 += zi1[i] * c[i]
        z2 += zi2[i] * c[i]
        z3 += zi3[i] * c[i]
        whole += c[i]
        segments += c[i] * m[i]
    mean = segments / whole
    pair_sums(E1, c, 1.0 / T, nc, y1)
    pair_sums(E2, c, 1.0 / T**2, nc, y2)
    D1, D2 = dot(y1, c, nc), dot(y2, c, nc)
    u, ln = 1.0 / (1.0 - z3), log1p(-z3)
    h, h1, h2 = spheres(z3)
    f = scaled(series(FIRST, z3, mean), -2.0 * pi * AVOGADRO)
    unit: Six = (mean, 0.0, 1.0, 0.0, 0.0, 0.0)
    g = scaled(product(unit, product(compressibility(z3, mean), series(SECOND, z3, mean))), -pi * AVOGADRO)
    # hard spheres
    cube = z2**3
    phi = (3.0 * z1 * z2 * u + cube * h - z0 * ln) / K
    p0, p1 = -ln / K, 3.0 * z2 * u / K
    p2 = (3.0 * z1 * u + 3.0 * z2**2 * h) / K
    p3 = (3.0 * z1 * z2 * u * u + cube * h1 + z0 * u) / K
    # chains: ln g = ln u + ln(1 + t) + ln(1 + t/2), t = d zeta_2 u
    x2 = x3 = xd = 0.0
    lnu = log(u)
    td = z2 * u
    for i in range(nc):
        mean_i[i] = (m[i] - mean) / whole
        t = d[i] * td
        v = -c[i] * (m[i] - 1.0)
        weight[i] = v
        Lt = 1.0 / (1.0 + t) + 1.0 / (2.0 + t)
        L[i] = lnu + log((1.0 + t) * (1.0 + 0.5 * t))
        L2[i], L3[i], Ld[i] = Lt * d[i] * u, Lt * t * u + u, Lt * td
        phi += v * L[i]
        x2 += v * L2[i]
        x3 += v * L3[i]
        xd += v * d1[i] * Ld[i]
    phi += f[0] * D1 + g[0] * D2
    q2, q3 = p2 + x2, p3 + x3 + f[1] * D1 + g[1] * D2
    qm = f[2] * D1 + g[2] * D2
    zT1 = zT2 = zT3 = 0.0
    for i in range(nc):
        by_c[i] = p0 * zi0[i] + p1 * zi1[i] + q2 * zi2[i] + q3 * zi3[i]
        by_c[i] += qm * mean_i[i] + 2.0 * (f[0] * y1[i] + g[0] * y2[i]) - (m[i] - 1.0) * L[i]
        a = K * c[i] * m[i] * d1[i]
        zT1 += a
        zT2 += 2.0 * a * d[i]
        zT3 += 3.0 * a * d[i] ** 2
    D1T, D2T = -D1 / T, -2.0 * D2 / T
    by_T[0] = p1 * zT1 + q2 * zT2 + q3 * zT3 + xd + f[0] * D1T + g[0] * D2T
    if second == 0:
        return phi
    # second derivatives in the sums zeta_0..3, mean, D1, D2
    p22, p23 = 6.0 * z2 * h / K, (3.0 * z1 * u * u + 3.0 * z2**2 * h1) / K
    p33 = (6.0 * z1 * z2 * u**3 + cube * h2 + z0 * u * u) / K
    x22 = x23 = x33 = x2d = x3d = xdd = zTT1 = zTT2 = zTT3 = 0.0
    for i in range(nc):
        t, v = d[i] * td, weight[i]
        a, b = 1.0 / (1.0 + t), 1.0 / (2.0 + t)
        Lt, Ltt = a + b, -a * a - b * b
        t2, t3 = d[i] * u, t * u
        x22 += v * Ltt * t2 * t2
        x23 += v * (Ltt * t2 * t3 + Lt * d[i] * u * u)
        x33 += v * (Ltt * t3 * t3 + Lt * 2.0 * t * u * u + u * u)
        x2d += v * d1[i] * (Ltt * t2 * td + Lt * u)
        x3d += v * d1[i] * (Ltt * t3 * td + Lt * td * u)
        xdd += v * (Ltt * td * td * d1[i] ** 2 + Lt * td * d2[i])
        a = K * c[i] * m[i]
        zTT1 += a * d2[i]
        zTT2 += a * (2.0 * d1[i] ** 2 + 2.0 * d[i] * d2[i])
        zTT3 += a * (6.0 * d[i] * d1[i] ** 2 + 3.0 * d[i] ** 2 * d2[i])
    H03, H12, H13 = u / K, 3.0 * u / K, 3.0 * z2 * u * u / K
    H22, H23 = p22 + x22, p23 + x23
    H33 = p33 + x33 + f[3] * D1 + g[3] * D2
    H34, H44 = f[4] * D1 + g[4] * D2, f[5] * D1 + g[5] * D2
    s = qm / whole
    by_TT = f[0] * 2.0 * D1 / T**2 + g[0] * 6.0 * D2 / T**2 + 2.0 * (x2d * zT2 + x3d * zT3) + xdd
    by_TT += p1 * zTT1 + q2 * zTT2 + q3 * zTT3
    # rows of H times the vectors of the sums, and times their temperature derivatives
    r0, r1, r2, r3, r4, r5, r6 = w[16], w[17], w[18], w[19], w[20], w[21], w[22]
    for i in range(nc):
        a1, a2 = 2.0 * y1[i], 2.0 * y2[i]
        r0[i] = H03 * zi3[i]
        r1[i] = H12 * zi2[i] + H13 * zi3[i]
        r2[i] = H12 * zi1[i] + H22 * zi2[i] + H23 * zi3[i]
        r3[i] = H03 * zi0[i] + H13 * zi1[i] + H23 * zi2[i] + H33 * zi3[i] + H34 * mean_i[i] + f[1] * a1 + g[1] * a2
        r4[i] = H34 * zi3[i] + H44 * mean_i[i] + f[2] * a1 + g[2] * a2
        r5[i] = f[1] * zi3[i] + f[2] * mean_i[i]
        r6[i] = g[1] * zi3[i] + g[2] * mean_i[i]
        a = K * m[i] * d1[i]
        by_cT[i] = r1[i] * zT1 + r2[i] * zT2 + r3[i] * zT3 + r5[i] * D1T + r6[i] * D2T
        by_cT[i] += p1 * a + q2 * 2.0 * a * d[i] + q3 * 3.0 * a * d[i] ** 2
        by_cT[i] -= 2.0 * f[0] / T * y1[i] + 4.0 * g[0] / T * y2[i]
        by_cT[i] -= (m[i] - 1.0) * (L2[i] * zT2 + L3[i] * zT3 + Ld[i] * d1[i])
        by_cT[i] += x2d * zi2[i] + x3d * zi3[i]
    for i in range(nc):
        row = by_cc[i]
        for j in range(nc):
            row[j] = -s * (mean_i[i] + mean_i[j])
        chain = -(m[i] - 1.0)
        add_scaled(row, zi0[i], r0, nc)
        add_scaled(row, zi1[i], r1, nc)
        add_scaled(row, zi2[i], r2, nc)
        add_scaled(row, zi3[i], r3, nc)
        add_scaled(row, mean_i[i], r4, nc)
        add_scaled(row, 2.0 * y1[i], r5, nc)
        add_scaled(row, 2.0 * y2[i], r6, nc)
        add_scaled(row, 2.0 * f[0] / T, E1[i], nc)
        add_scaled(row, 2.0 * g[0] / T**2, E2[i], nc)
        add_scaled(row, chain * L2[i], zi2, nc)
        add_scaled(row, chain * L3[i], zi3, nc)
        for j in range(nc):
            row[j] -= (m[j] - 1.0) * (L2[j] * zi2[i] + L3[j] * zi3[i])
    by_TT += zT1 * (2.0 * (H12 * zT2 + H13 * zT3)) + H22 * zT2 * zT2 + 2.0 * H23 * zT2 * zT3 + H33 * zT3 * zT3
    by_TT += 2.0 * zT3 * (f[1] * D1T + g[1] * D2T)
    by_T[1] = by_TT
    return phi
