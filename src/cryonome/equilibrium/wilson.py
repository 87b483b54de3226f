"""First estimates of equilibrium ratios and of saturation points."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.optimize.elementwise import find_root

from ..eos import Equation

Array = NDArray[np.float64]

LN_P_RANGE = (np.log(1e-6), np.log(5e7))
LN_T_RANGE = (np.log(30.0), np.log(3000.0))


def wilson_ln_k(Tc: Array, Pc: Array, omega: Array, T: Array, P: Array) -> Array:
    """Return ln K (N, nc) at T (N,) K and P (N,) Pa.

    Wilson, "A modified Redlich-Kwong equation of state", AIChE 65th national meeting (1969), paper 15C.
    A starting value only, never a result.
    """
    return np.asarray(np.log(Pc / P[:, None]) + 5.373 * (1.0 + omega) * (1.0 - Tc / T[:, None]))


def wilson_point(eos: Equation, z: Array, beta: Array, known: Array, at_T: bool) -> Array:
    """Return unknowns ln K, ln T, ln P (N, nc + 2) with Wilson's ratios satisfying the phase-fraction equation.

    ``known`` (N,) is the temperature K, or the pressure Pa where not ``at_T``; the other is sought, and taken at the end of
    its range where it lies beyond.
    """
    n, nc = z.shape
    inner = np.clip(beta, 1e-9, 1.0 - 1e-9)[:, None]

    def ln_k(ln_other: Array, k: NDArray[np.intp]) -> Array:
        T, P = (known[k], np.exp(ln_other)) if at_T else (np.exp(ln_other), known[k])
        part = eos.take(k)
        return np.clip(wilson_ln_k(part.Tc, part.Pc, part.omega, T, P), -200.0, 200.0)

    def too_light(ln_other: Array, row: NDArray[np.number]) -> Array:
        k = row.astype(np.intp)
        c = np.expm1(ln_k(ln_other, k))
        return np.asarray((z[k] * c / (1.0 + inner[k] * c)).sum(axis=-1))

    rows = np.arange(n)
    low, high = LN_P_RANGE if at_T else LN_T_RANGE
    low, high = np.full(n, low), np.full(n, high)
    found = find_root(too_light, (low, high), args=(rows,), tolerances={"xatol": 1e-10, "fatol": 1e-10})
    # Without a change of sign the fraction is never reached: the end nearer to it is the best start there is.
    light_at_high = too_light(high, rows) > 0.0
    ln_other = np.where(found.success, found.x, np.where(light_at_high == at_T, high, low))
    u = np.empty((n, nc + 2))
    u[:, :nc] = ln_k(ln_other, rows)
    u[:, nc] = np.log(known) if at_T else ln_other
    u[:, nc + 1] = ln_other if at_T else np.log(known)
    return u
