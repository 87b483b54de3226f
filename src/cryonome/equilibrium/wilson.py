"""First estimates of equilibrium ratios."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def wilson_ln_k(Tc: Array, Pc: Array, omega: Array, T: Array, P: Array) -> Array:
    """Return ln K (N, nc) at T (N,) K and P (N,) Pa.

    Wilson, "A modified Redlich-Kwong equation of state", AIChE 65th national meeting (1969), paper 15C.
    A starting value only, never a result.
    """
    return np.asarray(np.log(Pc / P[:, None]) + 5.373 * (1.0 + omega) * (1.0 - Tc / T[:, None]))
