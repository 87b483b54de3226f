"""States of two phases whose compositions are known, as on a traced line, as :class:`Phases`."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from .phases import ROOTS, Kind, Phases, Reason, two_places

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]


def two_phases(
    eos: Equation, z: Array, T: Array, P: Array, beta: Array, x: Array, y: Array,
    found: Mask | None = None, residual: Array | None = None, iterations: NDArray[np.int64] | None = None,
) -> Phases:  # fmt: skip
    """Return N states of a liquid x and a vapour y (N, nc), normalised, of fraction ``beta`` (N,), of feeds z (nc,)
    or (N, nc).

    Where ``found`` (N,) is false there is no phase and no temperature.
    """
    n = beta.size
    found = np.ones(n, dtype=bool) if found is None else found
    Z_x, Z_y = np.full(n, np.nan), np.full(n, np.nan)
    # Phases of one composition differ by the root alone, so both roots are named.
    alike = found & (np.abs(x - y).max(axis=-1, initial=0.0) < 1e-6)
    for rows, root_x, root_y in ((np.flatnonzero(found & ~alike), 0, 0), (np.flatnonzero(alike), 1, 2)):
        if rows.size:
            states = eos.take(rows).prepare(T[rows], P[rows])
            Z_x[rows] = states.ln_phi(x[rows], ROOTS[root_x])[1]
            Z_y[rows] = states.ln_phi(y[rows], ROOTS[root_y])[1]
    liquid, vapour, none = (np.full(n, k, dtype=np.int8) for k in (Kind.LIQUID, Kind.VAPOUR, Kind.ABSENT))
    reason = np.where(found, Reason.CONVERGED, Reason.NO_SUCH_STATE).astype(np.int8)
    return two_places(
        T, P, np.broadcast_to(z, (n, x.shape[-1])), found, beta, x, y, Z_x, Z_y, np.where(found, liquid, none),
        np.where(found, vapour, none), np.where(alike, 1, 0).astype(np.int8), np.where(alike, 2, 0).astype(np.int8),
        reason, np.zeros(n) if residual is None else residual,
        np.zeros(n, dtype=np.int64) if iterations is None else iterations,
    )  # fmt: skip
