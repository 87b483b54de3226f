"""Phase stability by the tangent plane distance, batched over states.

Michelsen, "The isothermal flash problem. Part I. Stability", Fluid Phase Equilib. 9, 1 (1982). Each trial
composition is followed downhill on the modified distance

    tm(W) = 1 + sum_i W_i (ln W_i + ln phi_i(W) - d_i - 1),   d_i = ln z_i + ln phi_i(z)

first by successive substitution, accelerated, then by Newton steps in alpha_i = 2 sqrt(W_i). Any
point with tm < 0 proves that the feed splits. What runs for every state is compiled: ``kernels/source/stability.py``.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..kernels import kernel, table
from ..watch import UNWATCHED, Watch

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

UNSTABLE = -1e-13
"""Below this modified distance a feed is unstable; the round-off of the sum is a few 1e-16."""


@dataclass(frozen=True)
class StabilityResult:
    """What a stability test found, for N states.

    ``unstable`` (N,); ``tm`` (N,) the lowest modified distance met; ``W`` (N, nc) the composition there
    (mole numbers, not normalised); ``converged`` (N,) false where a trial neither proved instability nor
    reached a stationary point; ``iterations`` (N,).
    """

    unstable: Mask
    tm: Array
    W: Array
    converged: Mask
    iterations: NDArray[np.int64]


def log_safe(z: Array) -> Array:
    """Return ln z (..., nc) with a floor for absent components, so that their share stays negligible."""
    return np.asarray(np.log(np.maximum(z, 1e-300)))


@dataclass(frozen=True)
class KnownPhase:
    """A phase that is in equilibrium with the feed already, of N states: ``x`` (N, nc) and ``Z`` (N,), nan where
    there is none."""

    x: Array
    Z: Array


ROWS = 18
"""Vectors of work of a test, as ``kernels/source/stability.py`` tells; three matrices and a few numbers come with
them."""

BLOCK = 24
"""States from which on work is shared among processors."""


def stability(
    eos: Equation,
    T: Array,
    P: Array,
    z: Array,
    every_trial: bool = False,
    watch: Watch = UNWATCHED,
    below: float = UNSTABLE,
    known: Sequence[KnownPhase] = (),
    d: Array | None = None,
) -> StabilityResult:
    """Test N feeds z (N, nc) at T (N,) K and P (N,) Pa; see :class:`StabilityResult`. ``d`` (N, nc) is ln z + ln
    phi(z) where that is known better than from z.

    After the two trials of Wilson come nearly pure phases of the components that are nearest to being one of their
    own, and of those unlike the others; the liquid without what is unlike; and the ideal gas. They find second
    liquids, water and what comes out in the cold. States found unstable by Wilson's trials, to a distance ``below``,
    skip the following ones, unless ``every_trial``; then the lowest distance of all is kept. A phase of a split needs
    a lower one than a feed: trials come back to the other phase. A trial that comes to a ``known`` phase ends there.
    Raises Cancelled where ``watch`` says so."""
    n, nc = z.shape
    if nc == 1:
        return StabilityResult(np.zeros(n, bool), np.zeros(n), z.copy(), np.ones(n, bool), np.zeros(n, np.int64))
    tm, W, ended, steps = np.zeros(n), np.empty((n, nc)), np.zeros(n, np.int64), np.zeros(n, np.int64)
    others = np.zeros((n, len(known), nc))
    others_Z = np.full((n, len(known)), np.nan)
    for k, one in enumerate(known):
        others[:, k], others_Z[:, k] = one.x, one.Z
    own = eos.packed.of_states(n)
    given = (
        table(own.family), own.parameters, own.memory, own.guess, own.distinct,
        *(np.ascontiguousarray(v, dtype=float) for v in (T, P, z)),
        np.empty((n, nc)) if d is None else np.array(d, dtype=float), int(d is not None), int(every_trial), below, others, others_Z,
        tm, W, ended, steps,
    )  # fmt: skip
    kernel("test_stability").over(n, own.memory + ROWS * nc + 3 * nc * nc + 8, given, watch, block=BLOCK)
    unstable = tm < UNSTABLE
    return StabilityResult(unstable, tm, W, (ended > 0) | unstable, steps)
