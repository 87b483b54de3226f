"""Quantities of a whole state that a flash may hold besides temperature, pressure and vapour fraction.

The solvers know them by name and through one function that measures them; how an enthalpy is made is not theirs.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .multiphase import flash_all
from .phases import Phases

Array = NDArray[np.float64]

Whole = Callable[[Phases, Sequence[str]], Mapping[str, Array]]
"""Returns quantities of the whole by name, each of the phases' shape: those below, and the derivatives' of
:data:`RESPONSES`."""

MEASURED = ("enthalpy", "entropy", "density", "internal_energy", "vapour_volume_fraction")
RESPONSES = ("molar_volume", "heat_capacity_p", "thermal_expansion", "isothermal_compressibility")

T_RANGE = (50.0, 1500.0)
"""K. Where states are looked for at the most: ideal-gas heat capacities are known there."""
P_RANGE = (1e-2, 2e9)
"""Pa. The highest is that of a liquid packed as densely as an equation of state still describes."""

TOLERANCE = 1e-11
"""Relative deviation a measured quantity is driven to."""
ACCEPTED = 1e-8
"""Relative deviation at which a state counts as found."""


@dataclass(frozen=True)
class Fluids:
    """N feeds ``z`` (N, nc), normalised, by one ``eos`` (parameters perhaps with the batch axis), and how they are
    measured."""

    eos: Equation
    z: Array
    whole: Whole

    @property
    def coldest(self) -> Array:
        """Where the search for states begins, (N,) K."""
        return coldest(self.eos, self.z)

    def take(self, rows: NDArray[np.intp]) -> Fluids:
        """Return the feeds ``rows``."""
        return Fluids(self.eos.take(rows), self.z[rows], self.whole)

    def at(self, T: Array, P: Array, watch: Watch = UNWATCHED) -> Phases:
        """Return the equilibrium of every feed at its T K and P Pa (N,)."""
        return flash_all(self.eos, T, P, self.z, watch)


def coldest(eos: Equation, z: Array) -> Array:
    """Return the temperature below which no state of feeds z (N, nc) is looked for, (N,) K.

    A quarter of the mean critical temperature, where every real fluid is frozen long since, within 50 to 110 K.
    """
    Tc = np.nan_to_num(eos.pure_critical()[0])
    return np.asarray(np.clip(0.25 * (z * Tc).sum(axis=-1), T_RANGE[0], 110.0))


def deviation(key: str, found: Array, target: Array, T: Array) -> Array:
    """Return how far a quantity is from its target, relative to its own size, (N,); of a density the logarithm of the
    ratio."""
    with np.errstate(invalid="ignore", divide="ignore"):
        if key == "density":
            return np.asarray(np.log(found / target))
        return np.asarray((found - target) / size(key, T))


def size(key: str, T: Array) -> Array:
    """Return what a deviation of a quantity other than density is measured against, (N,)."""
    if key in ("enthalpy", "internal_energy"):
        return np.asarray(R * T)
    return np.full(T.shape, R if key == "entropy" else 1.0)


def slopes(key: str, w: Mapping[str, Array], T: Array, P: Array) -> tuple[Array, Array]:
    """Return the derivatives of a :func:`deviation` by ln T at constant P and by ln P at constant T, (N,).

    Michelsen and Mollerup (2007), ch. 14: dH = Cp dT + (V - T V') dP, dS = Cp/T dT - V' dP, dU = dH - d(PV), with V'
    = dV/dT."""
    V, cp, alpha, kappa = (w[k] for k in RESPONSES)
    if key == "enthalpy":
        return cp / R, V * P * (1.0 - alpha * T) / (R * T)
    if key == "entropy":
        return cp / R, -V * alpha * P / R
    if key == "internal_energy":
        return (cp - P * V * alpha) / R, P * V * (kappa * P - alpha * T) / (R * T)
    if key == "density":
        return -alpha * T, kappa * P
    raise KeyError(key)


def gather(n: int, parts: list[tuple[NDArray[np.intp], Phases]]) -> Phases:
    """Return N states from parts that each hold the states of their rows (m,). Raises ValueError unless each row stands in one part."""
    whole = Phases.join([p for _, p in parts])
    rows = np.concatenate([r for r, _ in parts])
    if rows.size != n:
        raise ValueError("every state stands in one part")
    return whole.take(np.argsort(rows, kind="stable"))
