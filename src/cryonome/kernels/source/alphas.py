"""Alpha functions of cubic equations: sqrt(alpha) with two temperature derivatives, of one component at one reduced
temperature.

The published functions and their sources are told in :mod:`cryonome.eos.alpha`; a component has a code of one and up
to four constants."""

from math import exp, log, sqrt

from .marks import F1, F2, I2, entry, inner

POWER, SOAVE, SMOOTH, MATHIAS, TWU = 0, 1, 2, 3, 4

LEAST_ROOT = 1e-9
LEAST_POWER = 0.05


@inner
def alpha_root(kind: int, c1: float, c2: float, c3: float, c4: float, Tr: float) -> tuple[float, float, float]:
    """Return sqrt(alpha), T d sqrt(alpha)/dT and T2 d2 sqrt(alpha)/dT2."""
    if kind == POWER:
        if c1 == 0.0:
            return 1.0, 0.0, 0.0
        half = 0.5 * c1
        value = Tr**half
        return value, half * value, half * (half - 1.0) * value
    if kind == TWU:
        power, outer = c3 * c2, 0.5 * c3 * (c2 - 1.0)
        log_t = log(Tr)
        rise = exp(power * log_t)
        value = exp(outer * log_t + 0.5 * c1 * (1.0 - rise))
        inner = 0.5 * c1 * power * rise
        slope = outer - inner
        return value, slope * value, (slope * slope - outer - (power - 1.0) * inner) * value
    if kind == SMOOTH and Tr > 1.0:
        first, second = -0.5 * c1, 0.25 * c1
        # c d = -slope and curvature = slope (d - 1) + slope^2.
        d = 1.0 if first == 0.0 else max(1.0 + second / first - first, LEAST_POWER)
        power = Tr**d
        rise = first * power
        value = exp(-first / d * (1.0 - power))
        return value, rise * value, (rise * rise + (d - 1.0) * rise) * value
    root = sqrt(Tr)
    y = 1.0 - root
    if kind == MATHIAS:
        if Tr > 1.0:
            c2 = c3 = 0.0
        first, second = c1 + y * (2.0 * c2 + 3.0 * c3 * y), 2.0 * c2 + 6.0 * c3 * y
        value = 1.0 + y * (c1 + y * (c2 + y * c3))
        if value != value:
            return value, value, value
        side = -1.0 if value < 0.0 else 1.0
        slope, curvature = -0.5 * root * first, 0.25 * (root * first + Tr * second)
        more = c4 * Tr
        return max(abs(value), LEAST_ROOT) + more, side * slope + more, side * curvature
    value = 1.0 + c1 * y
    # The mixing rule takes the positive root of alpha also where the polynomial is below zero.
    slope = (0.5 if value < 0.0 else -0.5) * c1 * root
    return max(abs(value), LEAST_ROOT), slope, -0.5 * slope


@entry
def alpha_roots(lo: int, hi: int, work: F1, kind: I2, c: F2, Tr: F2, value: F2, slope: F2, curvature: F2) -> int:
    """Put the root of alpha with its derivatives of rows lo to hi in place; ``kind`` (M, nc) and ``c`` (M, 4 nc), M
    one or all, Tr (N, nc)."""
    nc = Tr.shape[1]
    for n in range(lo, hi):
        m = n if kind.shape[0] > 1 else 0
        for i in range(nc):
            value[n, i], slope[n, i], curvature[n, i] = alpha_root(
                kind[m, i], c[m, i], c[m, nc + i], c[m, 2 * nc + i], c[m, 3 * nc + i], Tr[n, i]
            )
    return 0
