"""Two-phase flash at given temperature and pressure, batched over states.

Accelerated substitution brings most states near the answer; Newton's method on the Gibbs
energy (Michelsen, Fluid Phase Equilib. 9, 21, 1982; Michelsen and Mollerup 2007, ch. 10) finishes, and is
what converges near critical points. A stability test decides wherever substitution does not itself prove a
split. What runs for every state is compiled: ``kernels/source/two_phase.py``.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos import Equation, is_liquid
from ..errors import DomainError
from ..kernels import kernel, table
from ..watch import UNWATCHED, Watch
from .phases import Kind, Phases, Reason
from .stability import log_safe

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

ROWS = 38
"""Vectors of work of a state, as ``kernels/source/two_phase.py`` tells; four matrices and a few numbers come with
them."""

BLOCK = 24
"""States from which on work is shared among processors."""


def memory_of(state: int, nc: int) -> int:
    """Return the numbers of work that a flash takes, ``state`` those of the equation's own."""
    return state + ROWS * nc + 4 * nc * nc + 16


def check_state(T: Array, P: Array, z: Array, nc: int) -> None:
    """Raise DomainError where a temperature T (...) K, a pressure P (...) Pa or a composition z (..., nc) is not physical,
    ValueError where shapes do not go together."""
    if z.shape[-1] != nc:
        raise ValueError(f"the composition has {z.shape[-1]} components, the equation of state {nc}")
    if not (np.isfinite(T).all() and (T > 0.0).all()):
        raise DomainError("temperature must be above 0 K")
    if not (np.isfinite(P).all() and (P > 0.0).all()):
        raise DomainError("pressure must be above 0 Pa")
    if not (np.isfinite(z).all() and (z >= 0.0).all()) or (z.sum(axis=-1) <= 0.0).any():
        raise DomainError("mole numbers must be zero or more, with at least one above zero")


def flash_pt(eos: Equation, T: ArrayLike, P: ArrayLike, z: ArrayLike, watch: Watch = UNWATCHED) -> Phases:
    """Flash feeds at temperature and pressure.

    T (...) K, P (...) Pa, z (..., nc) mole numbers (normalised here), broadcast together; parameters of ``eos`` with
    a batch axis go with a single leading axis. Raises ValueError for unphysical input, Cancelled where ``watch`` says
    so. Returns the :class:`Phases` of the broadcast leading shape."""
    T, P, z = np.asarray(T, float), np.asarray(P, float), np.asarray(z, float)
    check_state(T, P, z, eos.nc)
    shape = np.broadcast_shapes(T.shape, P.shape, z.shape[:-1])
    n, nc = int(np.prod(shape, dtype=int)), eos.nc
    T1, P1, z1 = np.empty(n), np.empty(n), np.empty((n, nc))
    T1.reshape(shape)[...], P1.reshape(shape)[...] = T, P
    np.divide(z, z.sum(axis=-1, keepdims=True), out=z1.reshape(*shape, nc))
    if eos.nc == 1:
        return _pure(eos, T1, P1, z1).reshape(*shape)
    out = _empty(T1, P1, z1)
    own = eos.packed.of_states(n)
    given = (
        table(own.family), own.parameters, own.memory, own.guess, own.distinct, T1, P1, z1,
        out.kind, out.fraction, out.composition, out.Z, out.reason, out.residual, out.iterations,
    )  # fmt: skip
    kernel("flash_states").over(T1.size, memory_of(own.memory, eos.nc), given, watch, block=BLOCK)
    found = _coded(out)
    return found if shape == (n,) else found.reshape(*shape)


def _empty(T: Array, P: Array, z: Array) -> Phases:
    """Return states (N,) with two places to be filled by a kernel, which knows codes as whole numbers."""
    n, nc = z.shape
    whole = np.zeros((n, 2), np.int64)
    return Phases(
        T, P, z, whole, np.empty((n, 2)), np.empty((n, 2, nc)), np.empty((n, 2)), np.zeros((n, 2), np.int8),  # type: ignore[arg-type]
        np.zeros(n, np.int64), np.empty(n), np.zeros(n, np.int64),
    )  # fmt: skip


def _coded(found: Phases) -> Phases:
    return Phases(
        found.T, found.P, found.z, found.kind.astype(np.int8), found.fraction, found.composition, found.Z, found.root,
        found.reason.astype(np.int8), found.residual, found.iterations,
    )  # fmt: skip


def _pure(eos: Equation, T: Array, P: Array, z: Array) -> Phases:
    """Return states of one component: the phase of least Gibbs energy, off the line where there are two."""
    n = T.size
    state = eos.prepare(T, P)
    Z = state.ln_phi(z)[1]
    kind = np.full((n, 2), Kind.ABSENT, np.int8)
    kind[:, 0] = np.where(is_liquid(state, z, Z), Kind.LIQUID, Kind.VAPOUR)
    return Phases(
        T, P, z, kind, np.tile([1.0, 0.0], (n, 1)), np.stack([z, np.zeros_like(z)], axis=1),
        np.stack([Z, np.full(n, np.nan)], axis=1), np.zeros((n, 2), np.int8), np.zeros(n, np.int8), np.zeros(n),
        np.zeros(n, np.int64),
    )  # fmt: skip


def flash_near(eos: Equation, T: Array, P: Array, z: Array, near: Phases, ln_k: Array | None = None) -> Phases:
    """Return states (N,) with as many phases, one or two, as their neighbours ``near`` (N,) have, started from those,
    or from better ``ln_k`` (N, nc) where they are given.

    Much cheaper than a flash, and good for steps of a search: nothing tells that the phases are the stable ones. Two
    phases that have become one are returned as one; what has more than two, or does not come in, is not converged.
    """
    T, P = (np.ascontiguousarray(np.broadcast_to(v, near.shape), dtype=float) for v in (T, P))
    z = np.ascontiguousarray(np.broadcast_to(z, (*near.shape, eos.nc)), dtype=float)
    lost = ~(near.converged & (near.count < 3))
    if eos.nc == 1:
        out = _pure(eos, T, P, z)
        out.reason[lost] = Reason.NOT_CONVERGED
        return out
    out = _empty(T, P, z)
    out.reason[lost] = Reason.NOT_CONVERGED
    start = log_safe(near.light) - log_safe(near.heavy) if ln_k is None else ln_k.copy()
    own = eos.packed.of_states(T.size)
    given = (
        table(own.family), own.parameters, own.memory, T, P, z, np.ascontiguousarray(start),
        np.ascontiguousarray(near.fraction[:, 0]), (near.count == 2).astype(np.int64), out.kind, out.fraction, out.composition, out.Z,
        out.reason, out.residual, out.iterations,
    )  # fmt: skip
    kernel("flash_near_states").over(T.size, memory_of(own.memory, eos.nc), given, block=BLOCK)
    return _coded(out)


def seed_amount(eos: Equation, T: Array, P: Array, z: Array, d: Array, w: Array) -> Array:
    """Return amounts (N, nc) of a second phase of composition w that lower the Gibbs energy of the feed; ``d`` (N,
    nc) is ln z + ln phi(z).

    w has a negative tangent plane distance, so a small enough amount always does.
    """
    seed = np.empty(z.shape)
    own = eos.packed.of_states(len(z))
    given = (table(own.family), own.parameters, own.memory, *(np.ascontiguousarray(v) for v in (T, P, z, d, w)), seed)
    kernel("seed_amounts").over(T.size, own.memory + 2 * eos.nc, given, block=BLOCK)
    return seed
