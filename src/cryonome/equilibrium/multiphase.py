"""Equilibria of up to three phases at given temperature and pressure, batched over states.

A two-phase result is tested for stability; where a further phase lowers the Gibbs energy, it joins. The phases'
shares follow from the convex function of Michelsen, Comput. Chem. Eng. 18, 545 (1994),

    Q = sum_k beta_k - sum_i z_i ln E_i,   E_i = sum_k beta_k/phi_ik,   beta_k >= 0

whose minimum also tells which phase is not there; compositions follow by substitution with extrapolation, and Newton
steps on the Gibbs energy (Michelsen and Mollerup 2007, ch. 11) finish what comes in slowly. A phase that is not there
is dropped, and what is left is tested again. What runs for every state is compiled:
``kernels/source/three_phase.py``."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos import Equation
from ..kernels import kernel, table
from ..watch import UNWATCHED, Watch
from .flash import flash_pt
from .phases import Phases, Reason

Array = NDArray[np.float64]

PLACES = 3
BALANCE = 1e-9
"""Largest error of shares and of the balance of a component."""

ROWS = 18 + 4 + PLACES + 19 * (PLACES + 1)
"""Vectors of work of a state, as ``kernels/source/three_phase.py`` tells; matrices and a few numbers come with them."""

BLOCK = 16
"""States from which on work is shared among processors."""


def flash_all(eos: Equation, T: ArrayLike, P: ArrayLike, z: ArrayLike, watch: Watch = UNWATCHED) -> Phases:
    """Flash feeds z (..., nc) at T (...) K and P (...) Pa into as many phases as there are, up to three.

    Arguments and errors as of :func:`cryonome.equilibrium.flash.flash_pt`; returns :class:`Phases` with three places.
    """
    two = flash_pt(eos, T, P, z, watch.part(0.0, 0.4))
    n = int(np.prod(two.shape, dtype=int))
    return with_third(eos, two.reshape(n), watch.part(0.4, 1.0)).reshape(*two.shape)


def with_third(eos: Equation, two: Phases, watch: Watch = UNWATCHED) -> Phases:
    """Return two-phase states (N,) with the third phase of those that have one, and another pair where that is the
    stable one.

    Nothing that fails its last test is given out as found: of each state the phases' own stability, shares, balance
    and volumes are tested."""
    if eos.nc == 1:
        return _gate(two.widened(PLACES))
    # One place more than is looked for: a phase that joins three may take the place of one of them.
    out = two.widened(PLACES + 1)
    # A state that did not come in as two phases begins again as one, which its own test then splits.
    rows = np.flatnonzero(out.split | ~out.converged)
    if rows.size:
        now, part = out.take(rows), eos.take(rows)
        own, nc = part.packed.of_states(rows.size), eos.nc
        kind, reason = now.kind.astype(np.int64), now.reason.astype(np.int64)
        share, phases, Z = (np.ascontiguousarray(v) for v in (now.fraction, now.composition, now.Z))
        residual, iterations = now.residual.copy(), now.iterations.copy()
        given = (
            table(own.family), own.parameters, own.memory, own.guess, own.distinct,
            *(np.ascontiguousarray(v, dtype=float) for v in (now.T, now.P, now.z)), kind, share, phases, Z, reason, residual, iterations,
        )  # fmt: skip
        size = own.memory + ROWS * nc + 2 * (PLACES * nc) ** 2 + (PLACES + 1) * nc * nc + 128
        kernel("add_phases").over(rows.size, size, given, watch, block=BLOCK)
        solved = replace(
            now, kind=kind.astype(np.int8), fraction=share, composition=phases, Z=Z, reason=reason.astype(np.int8),
            residual=residual, iterations=iterations, root=np.zeros(kind.shape, np.int8),
        )  # fmt: skip
        out = solved if rows.size == two.T.size else out.with_rows(rows, solved)
    return _gate(out.narrowed(PLACES))


def _gate(found: Phases) -> Phases:
    """Return states (N,) of which none passes for found that has no phases, shares or compositions that do not add up
    to the feed, or no volume."""
    there = found.present
    whole = np.where(there, found.fraction, 0.0)
    held = np.einsum("np,npi->ni", whole, np.where(there[..., None], found.composition, 0.0))
    with np.errstate(invalid="ignore"):
        good = there.any(axis=-1) & (np.abs(whole.sum(axis=-1) - 1.0) < BALANCE) & (whole >= 0.0).all(axis=-1)
        good &= (np.abs(held - found.z) < BALANCE).all(axis=-1) & np.where(there, found.Z > 0.0, True).all(axis=-1)
    bad = found.converged & ~good
    if not bad.any():
        return found
    return replace(found, reason=np.where(bad, Reason.NOT_CONVERGED, found.reason).astype(np.int8))
