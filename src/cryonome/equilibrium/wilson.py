"""First estimates of equilibrium ratios and of saturation points."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..kernels import kernel

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

    ``known`` (N,) is the temperature K, or the pressure Pa where not ``at_T``; the other is sought, and taken at the
    end of its range where it lies beyond."""
    n, nc = z.shape
    u = np.empty((n, nc + 2))
    low, high = LN_P_RANGE if at_T else LN_T_RANGE
    given = (
        eos.packed.guess,
        *(np.ascontiguousarray(v, dtype=float) for v in (z, np.broadcast_to(beta, n), np.broadcast_to(known, n))),
        int(at_T),
        float(low),
        float(high),
        u,
    )
    kernel("wilson_points").over(n, 2 * nc, given, block=16)
    return u
