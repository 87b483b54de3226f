"""A gas over a glycol or an alcohol with water: what each takes of the other at equilibrium.

The liquid is given by its strength, so that there is much more of it than of what the gas brings: its water and glycol
stand in a fixed ratio, and what dissolves of the gas follows from equal fugacities by substitution, as do the water and
the glycol in the gas. Everything is by the fluid's own equation. Array shapes: N states, nc components."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos import Equation
from ..equilibrium.flash import flash_pt
from ..equilibrium.phases import Kind
from ..watch import UNWATCHED, Watch

Array = NDArray[np.float64]

ROUNDS = 200
SETTLED = 1e-10


@dataclass(frozen=True)
class Contact:
    """At N states the compositions of ``gas`` and ``liquid`` (N, nc), nan where there is no gas or nothing was
    found."""

    gas: Array
    liquid: Array


def contact(
    eos: Equation, z: Array, water: int, glycol: int, strength: ArrayLike, T: ArrayLike, P: ArrayLike,
    molar_mass: Array, watch: Watch = UNWATCHED,
) -> Contact:  # fmt: skip
    """Return a fluid z (nc,), whose own water and glycol are not counted, in equilibrium with much liquid of which
    ``strength`` (N,) is the mass of glycol by that of glycol and water, at T K and P Pa (N,). Raises Cancelled."""
    strength, T, P = (np.atleast_1d(np.asarray(v, dtype=float)) for v in np.broadcast_arrays(strength, T, P))
    n, nc = T.size, z.size
    moles = strength / molar_mass[glycol], (1.0 - strength) / molar_mass[water]
    ratio = moles[1] / (moles[0] + moles[1])
    rest = np.flatnonzero(~np.isin(np.arange(nc), (water, glycol)))
    dry = flash_pt(eos.of(rest), T, P, z[rest] / z[rest].sum(), watch.part(0.0, 0.3))
    there = dry.converged & (dry.kind[:, 0] == Kind.VAPOUR)
    gas, liquid = np.full((n, nc), np.nan), np.full((n, nc), np.nan)
    rows = np.flatnonzero(there)
    if rows.size == 0:
        return Contact(gas, liquid)
    own, r = dry.composition[rows, 0], ratio[rows]
    states = eos.prepare(T[rows], P[rows])
    y, x = np.zeros((rows.size, nc)), np.zeros((rows.size, nc))
    y[:, rest] = own
    x[:, water], x[:, glycol] = r, 1.0 - r
    for round_ in range(ROUNDS):
        watch.at(0.3 + 0.7 * round_ / ROUNDS)
        up, down = states.ln_phi(y, "vapour")[0], states.ln_phi(x, "liquid")[0]
        K = np.exp(np.clip(up - down, -300.0, 300.0))
        taken = np.minimum(y[:, rest] * K[:, rest], 0.9)
        held = np.minimum(taken.sum(axis=1), 0.9)
        new = np.zeros_like(x)
        new[:, rest] = taken * (held / np.maximum(taken.sum(axis=1), 1e-300))[:, None]
        new[:, water], new[:, glycol] = r * (1.0 - held), (1.0 - r) * (1.0 - held)
        moved = np.abs(new - x).max()
        x = new
        y[:, water], y[:, glycol] = (np.minimum(x[:, k] / K[:, k], 0.45) for k in (water, glycol))
        y[:, rest] = own * (1.0 - y[:, water] - y[:, glycol])[:, None]
        if moved < SETTLED:
            break
    gas[rows], liquid[rows] = y, x
    return Contact(gas, liquid)


def boiling(
    eos: Equation, water: int, glycol: int, strength: Array, P: float, molar_mass: Array, watch: Watch = UNWATCHED
) -> tuple[Array, Array]:
    """Return at what temperatures, K (N,), glycol and water of mass fractions ``strength`` (N,) begin to boil and are all
    vapour, at P Pa; nan where that was not found. Raises Cancelled."""
    pair = eos.of(np.array([water, glycol]))
    moles = np.stack([(1.0 - strength) / molar_mass[water], strength / molar_mass[glycol]], axis=1)
    z = np.maximum(moles / moles.sum(axis=1, keepdims=True), 1e-12)
    out = []
    for part, vapour in ((watch.part(0.0, 0.5), 0.0), (watch.part(0.5, 1.0), 1.0)):
        out.append(_boils(pair, z, P, vapour, part))
    return out[0], out[1]


def _boils(pair: Equation, z: Array, P: float, vapour: float, watch: Watch) -> Array:
    """Return bubble or dew temperatures (N,), K, by halving between temperatures where the pressure is too low and too
    high."""
    low, high = np.full(len(z), 220.0), np.full(len(z), 700.0)
    for k in range(48):
        watch.at(k / 48)
        T = 0.5 * (low + high)
        found = flash_pt(pair, T, np.full(T.size, P), z)
        whole = found.light_fraction
        above = whole > 0.0 if vapour == 0.0 else (whole >= 1.0 - 1e-12) & ~found.split
        low, high = np.where(above, low, T), np.where(above, T, high)
    return np.where(high - low < 1e-6, 0.5 * (low + high), np.nan)
