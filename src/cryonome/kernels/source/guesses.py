"""First estimates and small steps that several solvers share."""

from math import exp, log

from .linear import dot
from .marks import F1, inner

FARTHEST = 3.0
"""Largest change that :func:`accelerate` adds: what lies far beyond the latest steps is more likely noise than insight."""

DOWNHILL = 2.0
"""What is added to a step that is longer than the one before, in its lengths."""


@inner
def log_safe(v: float) -> float:
    """Return ln v with a floor for absent components, so that their share stays negligible."""
    return log(max(v, 1e-300))


@inner
def wilson(guess: F1, nc: int, T: float, P: float, out: F1) -> None:
    """Put ln K by Wilson, "A modified Redlich-Kwong equation of state", AIChE 65th national meeting (1969), paper 15C, in ``out``; ``guess`` is ln Pc,
    Tc and omega side by side."""
    ln_p = log(P)
    for i in range(nc):
        out[i] = guess[i] - ln_p + 5.373 * (1.0 + guess[2 * nc + i]) * (1.0 - guess[nc + i] / T)


@inner
def bounded_exp(v: float, top: float) -> float:
    """Return e^v, v held below ``top``."""
    return exp(min(v, top))


@inner
def accelerate(x: F1, step: F1, x_before: F1, step_before: F1, weight: F1, n: int, out: F1) -> None:
    """Put the extra step of a fixed-point iteration in ``out``, whose point and step were ``before``.

    Anderson, J. ACM 12, 547 (1965), with one point of memory: where the two steps combined cancel best in the norm of ``weight``. One point does better
    here than two or three, whose combinations are spoilt by curvature.
    """
    top = bottom = along = 0.0
    for i in range(n):
        df = step[i] - step_before[i]
        wdf = weight[i] * df
        top += wdf * step[i]
        bottom += wdf * df
        along += weight[i] * step[i] * step_before[i]
    share = top / bottom
    size = 0.0
    # Steps that grow go down from a ridge: their combination would lead back to it.
    growing = share >= 0.0 and along > 0.0
    for i in range(n):
        out[i] = DOWNHILL * step[i] if growing else (x[i] - x_before[i] + step[i] - step_before[i]) * -share
    size = dot(out, out, n) ** 0.5
    limit = min(1.0, FARTHEST / size)
    if not limit >= 0.0:
        limit = 0.0
    for i in range(n):
        out[i] = limit * out[i] if limit > 0.0 else 0.0
