"""First estimates and small steps that several solvers share."""

from math import log

from .linear import dot
from .marks import F1, bits_of, float_of, fused, inner

FARTHEST = 3.0
"""Largest change that :func:`accelerate` adds: an extrapolation far beyond the latest steps is more likely noise."""

DOWNHILL = 2.0
"""What is added to a step that is longer than the one before, in its lengths."""


@inner
def log_safe(v: float) -> float:
    """Return ln v with a floor for absent components, so that their share stays negligible."""
    return log(max(v, 1e-300))


@inner
def wilson(guess: F1, nc: int, T: float, P: float, out: F1) -> None:
    """Put ln K by Wilson, "A modified Redlich-Kwong equation of state", AIChE 65th national meeting (1969), paper
    15C, in ``out``; ``guess`` is ln Pc, Tc and omega side by side."""
    ln_p = log(P)
    for i in range(nc):
        out[i] = guess[i] - ln_p + 5.373 * (1.0 + guess[2 * nc + i]) * (1.0 - guess[nc + i] / T)


ROUNDING = 6755399441055744.0
"""1.5 times 2^52: adding it rounds a float to a whole number, which then stands in its lowest bits."""
LOG2_E = 1.4426950408889634
LN2_HIGH, LN2_LOW = 0.6931471805598903, 5.497923018708371e-14


@fused
def exp_all(v: F1, top: float, out: F1, n: int) -> None:
    """Put e^v in ``out``, v held below ``top``, to the last bit but one: without a call, so that the processor takes
    several at a time.

    v = k ln 2 + r with |r| below 0.35, ln 2 in two parts (Cody and Waite, *Software Manual for the Elementary
    Functions*, 1980, ch. 6), and the series of e^r to r^13. Below -708 it is zero."""
    for i in range(n):
        x = min(v[i], top)
        held = max(x, -708.0)
        shifted = held * LOG2_E + ROUNDING
        k = shifted - ROUNDING
        r = (held - k * LN2_HIGH) - k * LN2_LOW
        p = 1.0 / 6227020800.0
        p = p * r + 1.0 / 479001600.0
        p = p * r + 1.0 / 39916800.0
        p = p * r + 1.0 / 3628800.0
        p = p * r + 1.0 / 362880.0
        p = p * r + 1.0 / 40320.0
        p = p * r + 1.0 / 5040.0
        p = p * r + 1.0 / 720.0
        p = p * r + 1.0 / 120.0
        p = p * r + 1.0 / 24.0
        p = p * r + 1.0 / 6.0
        p = p * r + 0.5
        p = p * r + 1.0
        p = p * r + 1.0
        scale = float_of((bits_of(shifted) + 1023) << 52)
        out[i] = p * scale if x >= -708.0 else 0.0


@inner
def accelerate(x: F1, step: F1, x_before: F1, step_before: F1, weight: F1, n: int, out: F1) -> None:
    """Put the extra step of a fixed-point iteration in ``out``, whose point and step were ``before``.

    Anderson, J. ACM 12, 547 (1965), with one point of memory: where the two steps combined cancel best in the norm of
    ``weight``. One point does better here than two or three, whose combinations are spoilt by curvature."""
    top = bottom = along = 0.0
    for i in range(n):
        df = step[i] - step_before[i]
        wdf = weight[i] * df
        top += wdf * step[i]
        bottom += wdf * df
        along += weight[i] * step[i] * step_before[i]
    share = top / bottom
    size = 0.0
    # Steps that grow lead away from a ridge; to extrapolate them would lead back to it.
    growing = share >= 0.0 and along > 0.0
    for i in range(n):
        out[i] = DOWNHILL * step[i] if growing else (x[i] - x_before[i] + step[i] - step_before[i]) * -share
    size = dot(out, out, n) ** 0.5
    limit = min(1.0, FARTHEST / size)
    if not limit >= 0.0:
        limit = 0.0
    for i in range(n):
        out[i] = limit * out[i] if limit > 0.0 else 0.0
