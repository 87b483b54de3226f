"""First estimates of equilibrium ratios."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..eos.cubic import CubicEos

Array = NDArray[np.float64]


def wilson_ln_k(Tc: Array, Pc: Array, omega: Array, T: Array, P: Array) -> Array:
    """Return ln K (N, nc) at T (N,) K and P (N,) Pa.

    Wilson, "A modified Redlich-Kwong equation of state", AIChE 65th national meeting (1969), paper 15C.
    A starting value only, never a result.
    """
    return np.asarray(np.log(Pc / P[:, None]) + 5.373 * (1.0 + omega) * (1.0 - Tc / T[:, None]))


def wilson_point(eos: CubicEos, z: Array, beta: Array, known: Array, at_T: bool) -> Array:
    """Return unknowns ln K, ln T, ln P (N, nc + 2) with Wilson's ratios satisfying the phase-fraction equation.

    ``known`` (N,) is the temperature K, or the pressure Pa where not ``at_T``; the other is found by bisection.
    """
    n, nc = z.shape
    lo, hi = (np.full(n, 1e-6), np.full(n, 5e7)) if at_T else (np.full(n, 30.0), np.full(n, 2500.0))
    inner = np.clip(beta, 1e-9, 1.0 - 1e-9)[:, None]

    def ln_k(trial: Array) -> Array:
        T, P = (known, trial) if at_T else (trial, known)
        return np.clip(wilson_ln_k(eos.Tc, eos.Pc, eos.omega, T, P), -200.0, 200.0)

    for _ in range(60):
        trial = np.sqrt(lo * hi)
        c = np.expm1(ln_k(trial))
        too_light = (z * c / (1.0 + inner * c)).sum(axis=-1) > 0.0
        raise_it = too_light if at_T else ~too_light
        lo, hi = np.where(raise_it, trial, lo), np.where(raise_it, hi, trial)
    trial = np.sqrt(lo * hi)
    u = np.empty((n, nc + 2))
    u[:, :nc] = ln_k(trial)
    u[:, nc], u[:, nc + 1] = np.log(known if at_T else trial), np.log(trial if at_T else known)
    return u
