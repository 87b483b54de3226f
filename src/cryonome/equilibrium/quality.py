"""The equations of a point with a given vapour fraction, and their Newton corrector, batched.

Unknowns u = (ln K_1 .. ln K_nc, ln T, ln P); equations

    ln K_i + ln phi_i(y) - ln phi_i(x) = 0,   sum_i (y_i - x_i) = 0,   one unknown specified,

with x_i = z_i / (1 - beta + beta K_i) and y_i = K_i x_i. Michelsen, Fluid Phase Equilib. 4, 1 (1980), extended to any
fraction beta. Bubble and dew points are beta = 0 and 1. Newton's method runs compiled, point by point:
``kernels/source/quality.py``. Shapes: N points, nc components."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..eos.volume_shift import Shifts
from ..kernels import kernel, table
from ..watch import UNWATCHED, Watch

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

TRIVIAL = 1e-5
"""Largest |ln K| below which two phases count as one."""

ROWS = 28
"""Vectors of work of a point, as ``kernels/source/quality.py`` tells; four matrices come with them."""


def memory_of(state: int, nc: int) -> int:
    """Return the numbers of work that a point takes, ``state`` those of the equation's own."""
    m = nc + 2
    return state + ROWS * m + 2 * m * m + 2 * nc * nc + 4


BLOCK = 12
"""Points from which on work is shared among processors."""


@dataclass(frozen=True)
class QualityPoints:
    """N points: vapour fraction ``beta`` (N,) and unknowns ``u`` (N, nc + 2), nan where a point left the plausible
    range; ``slope`` (N, nc + 2) is du/dS, how all unknowns follow the one that was held; ``converged`` (N,),
    ``iterations`` (N,) and ``residual`` (N,); ``volume`` (N,) is the logarithm of the ratio of V/b, y to x, whose
    sign tells which phase is packed more loosely."""

    beta: Array
    u: Array
    slope: Array
    converged: Mask
    iterations: NDArray[np.int64]
    residual: Array
    volume: Array


def compositions(u: Array, z: Array, beta: Array) -> tuple[Array, Array]:
    """Return x and y (N, nc) of the two phases, not normalised."""
    K = np.exp(u[:, :-2])
    x = z / np.maximum(1.0 + beta[:, None] * (K - 1.0), 1e-300)
    return x, K * x


def correct(
    eos: Equation,
    z: Array,
    beta: Array,
    u: Array,
    spec: NDArray[np.intp],
    max_iterations: int = 15,
    largest_step: float = 1.0,
    light: Array | None = None,
    watch: Watch = UNWATCHED,
    share: Array | None = None,
    shift: Shifts | None = None,
) -> QualityPoints:
    """Solve for the unknowns of feeds z (N, nc), or one (nc,), with unknown number ``spec`` (N,) held at its value in
    ``u`` (N, nc + 2).

    ``beta`` (N,) are the mole fractions of vapour; where a ``share`` (N,) is given that is the fraction by volume,
    after a ``shift``, and ``beta`` is solved for beside. A point that leaves the plausible range, or does not settle
    in ``max_iterations``, is returned unconverged. ``light`` (N,) is positive where y is the lighter phase, as it is
    where none is given. The trivial solution (all K one) is left to the caller, who knows whether the line may pass
    it. Raises Cancelled where ``watch`` says so."""
    u = np.array(u, dtype=float)
    n, m = u.shape
    nc = m - 2
    feeds = np.ascontiguousarray(np.atleast_2d(z), dtype=float)
    own = eos.packed.of_states(n)
    found = np.array(np.broadcast_to(beta, n), dtype=float)
    goal = np.full(n, np.nan) if share is None else np.log(share / (1.0 - share))
    shifts = Shifts.fixed(np.zeros(nc)) if shift is None else shift
    lean = np.ones(n) if light is None else np.ascontiguousarray(light, dtype=float)
    converged, iterations, residual = np.zeros(n, np.int64), np.zeros(n, np.int64), np.full(n, np.inf)
    volume, slope = np.zeros(n), np.zeros((n, m))
    given = (
        table(own.family), own.parameters, own.memory, feeds, found, np.ascontiguousarray(goal),
        np.ascontiguousarray(shifts.constant, dtype=float), np.ascontiguousarray(shifts.slope, dtype=float), u,
        np.ascontiguousarray(spec, dtype=np.int64), lean, int(max_iterations), float(largest_step), converged, iterations, residual,
        volume, slope,
    )  # fmt: skip
    memory = memory_of(own.memory, nc)
    kernel("quality_points").over(n, memory, given, watch.silent(), block=BLOCK)
    return QualityPoints(found, u, slope, converged > 0, iterations, residual, volume)
