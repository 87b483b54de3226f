"""Roots of many functions at once between two ends: the small search that every sample of an assay asks for."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

ROUNDS = 80
CLOSE = 1e-14
"""Width of a bracket, relative, at which a root is taken for found."""


def bracketed(
    miss: Callable[[Array], Array], shape: tuple[int, ...], ends: tuple[float, float], close: float = CLOSE
) -> Array:
    """Return where a function of values (n,) vanishes between two ends, (n,); nan where it has one sign at both.

    Chandrupatla, Adv. Eng. Softw. 28, 145 (1997): inverse quadratic steps where they are safe, else halves. It is
    SciPy's ``find_root`` without what that costs a call."""
    a, b = np.full(shape, ends[1]), np.full(shape, ends[0])
    with np.errstate(invalid="ignore", divide="ignore"):
        fa, fb = miss(a), miss(b)
        there = np.sign(fa) * np.sign(fb) <= 0.0
        c, fc = a.copy(), fa.copy()
        t = np.full(shape, 0.5)
        best = np.where(np.abs(fa) < np.abs(fb), a, b)
        for _ in range(ROUNDS):
            x = a + t * (b - a)
            fx = miss(x)
            same = np.sign(fx) == np.sign(fa)
            c, fc = np.where(same, a, b), np.where(same, fa, fb)
            b, fb = np.where(same, b, a), np.where(same, fb, fa)
            a, fa = x, fx
            nearer = np.abs(fa) < np.abs(fb)
            best = np.where(nearer, a, b)
            width = close * np.abs(best) / np.maximum(np.abs(b - a), 1e-300)
            if ((width > 0.5) | (fa == 0.0) | (fb == 0.0) | ~there).all():
                break
            xi, phi = (a - b) / (c - b), (fa - fb) / (fc - fb)
            curved = (phi**2 < xi) & ((1.0 - phi) ** 2 < 1.0 - xi)
            step = fa / (fb - fa) * fc / (fb - fc) + (c - a) / (b - a) * fa / (fc - fa) * fb / (fc - fb)
            t = np.clip(
                np.where(curved & np.isfinite(step), step, 0.5), np.minimum(width, 0.5), np.maximum(1.0 - width, 0.5)
            )
    exact = np.where(fa == 0.0, a, np.where(fb == 0.0, b, best))
    return np.where(there, exact, np.nan)
