"""The phase-fraction equation of Rachford and Rice, safeguarded; sources in
:mod:`cryonome.equilibrium.rachford_rice`."""

from .marks import F1, F2, I1, entry, inner, summing

ITERATIONS = 60
SETTLED = 1e-9
"""Step, relative to the way to the nearer pole, whose square is round-off: one more evaluation would change nothing."""


@summing
def sums(c: F1, z: F1, b: float, n: int) -> tuple[float, float]:
    """Return sum z r and sum z r^2, r = c/(1 + b c)."""
    f = slope = 0.0
    for i in range(n):
        r = c[i] / (1.0 + b * c[i])
        zr = z[i] * r
        f += zr
        slope += zr * r
    return f, slope


@inner
def fraction(c: F1, z: F1, n: int, start: float, settled: float) -> tuple[float, bool]:
    """Return the vapour fraction and whether it exists, c = K - 1; without one it is 0 where every K is below one, 1
    where every K is above."""
    low = high = c[0]
    for i in range(1, n):
        low, high = min(low, c[i]), max(high, c[i])
    if not (high > 0.0 and low < 0.0):
        return (0.0 if high <= 0.0 else 1.0), False
    low_pole, high_pole = -1.0 / high, -1.0 / low
    lo, hi, b = low_pole, high_pole, start
    if not lo < b < hi:
        b = min(max(0.5, lo + 0.1 * (hi - lo)), hi - 0.1 * (hi - lo))
    # Newton's method on h = (beta - lo)(hi - beta) f, which is nearly linear where f has its poles (Leibovici and
    # Neoschil, Fluid Phase
    # Equilib. 74, 303, 1992), inside a bracket that f's sign keeps closing.
    for _ in range(ITERATIONS):
        f, slope = sums(c, z, b, n)
        if f > 0.0:
            lo = b
        elif f < 0.0:
            hi = b
        else:
            return b, True
        left, right = b - low_pole, high_pole - b
        bend = left * right
        bent = slope - f * (right - left) / bend if bend != 0.0 else 0.0
        step = f / bent if bent != 0.0 else 1e300
        if abs(step) <= settled * min(left, right):
            return b + step, True
        new = b + step
        b = new if lo < new < hi else 0.5 * (lo + hi)
        if not hi - lo > 1e-15 * (1.0 + abs(b)):
            return b, True
    return b, True


@entry
def fractions(lo: int, hi: int, work: F1, K: F2, z: F2, start: F1, settled: float, beta: F1, exists: I1) -> int:
    """Put fractions (N,) and whether they exist in place, of K and z (N, nc)."""
    nc = K.shape[1]
    for n in range(lo, hi):
        c = work[:nc]
        for i in range(nc):
            c[i] = K[n, i] - 1.0
        beta[n], there = fraction(c, z[n], nc, start[n], settled)
        exists[n] = 1 if there else 0
    return 0
