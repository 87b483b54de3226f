"""How an equilibrium of several phases answers to temperature and pressure as a whole, batched over states.

With the amounts of the phases other than the largest as variables n_k, equal fugacity g(n, T, P) = 0 gives dn/dT =
-H^-1 g_T and dn/dP = -H^-1 g_P, where H is the Hessian of G/(R T). Since the partial enthalpies of two phases differ
by -R T^2 g_T and the partial volumes by R T g_P,

    (dH/dT)_P = sum n Cp + R T^2 g_T' H^-1 g_T,   (dV/dT)_P = sum n dV/dT - R T g_P' H^-1 g_T,
    (dV/dP)_T = sum n dV/dP - R T g_P' H^-1 g_P,

what Michelsen and Mollerup, *Thermodynamic Models* (2007), ch. 14, obtain by differentiating the equilibrium equations.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..kernels import kernel, table
from .phases import Phases

Array = NDArray[np.float64]

PLACES = 4
"""Phases of a state at most, as ``kernels/source/exchange.py`` has it."""

BLOCK = 48
"""States from which on work is shared among processors."""

LEAST = 1e-14
"""Fraction below which a phase has no part in the whole's answer."""


@dataclass(frozen=True)
class Exchange:
    """What the exchange between the phases of N states adds to the sums over the phases, each (N,), dimensionless:
    ``cp`` to Cp/R; ``expansion`` to (P/R) (dV/dT); ``compression`` to -(P^2/(R T)) (dV/dP). Zero for a single phase;
    infinite for a pure fluid of two."""

    cp: Array
    expansion: Array
    compression: Array


def exchange(eos: Equation, phases: Phases) -> Exchange:
    """Return what the exchange between phases adds for states of one leading axis."""
    n, places = phases.kind.shape
    nc = phases.z.shape[-1]
    active = phases.present & (phases.fraction > LEAST) & phases.converged[:, None]
    if nc == 1:
        out = np.where(active.sum(axis=-1) > 1, np.inf, np.zeros((3, n)))
        return Exchange(*out)
    own, added = eos.packed.of_states(n), np.empty((n, 3))
    T, P, share, x = (
        np.ascontiguousarray(v, dtype=float) for v in (phases.T, phases.P, phases.fraction, phases.composition)
    )
    given = (
        table(own.family), own.parameters, own.memory, T, P, share, x, phases.root.astype(np.int64), active.astype(np.int64), added,
    )  # fmt: skip
    memory = (
        own.memory + places * nc * nc + (4 * PLACES + 4) * PLACES * nc + 2 * ((places - 1) * nc) ** 2 + PLACES * nc * nc
    )
    kernel("exchange_states").over(n, memory, given, block=BLOCK)
    return Exchange(*added.T)
