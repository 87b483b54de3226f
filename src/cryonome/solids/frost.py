"""Solid carbon dioxide: where it comes out of a fluid, which no equation of state of fluids knows.

The solid is pure. Its fugacity is that of the pure fluid where both are in equilibrium, by the fluid's own equation,
at the pressure that was measured there: on the sublimation line below the triple point, on the melting line above it
(Span and Wagner, J. Phys. Chem. Ref. Data 25, 1509, 1996, eqs. 3.12 and 3.10), brought to another pressure by the
volume of the solid. Valid from 120 to 250 K, to 100 MPa."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from ..eos import Equation
from ..eos.equation import Root
from ..equilibrium.multiphase import flash_all
from ..equilibrium.phases import Phases
from ..watch import UNWATCHED, Watch
from .surroundings import fugacities

Array = NDArray[np.float64]

NAME = "carbon dioxide"
TRIPLE_T, TRIPLE_P = 216.592, 0.51795e6
"""K and Pa of the triple point; Span and Wagner (1996), table 2."""
SUBLIMATION = (-14.740846, 2.4327015, -5.3061778)
MELTING = (1955.5390, 2055.4593)
COLDEST, HOTTEST = 120.0, 250.0
"""K, between which solid is looked for: that of the pure melts at 250 K under some 190 MPa."""
SCANNED = 40
"""Temperatures that each pressure is looked at first."""
TOLERANCE = 1e-6


def coexistence(T: Array) -> Array:
    """Return the pressure at which solid and pure fluid are in equilibrium, Pa (...), at T (...) K: of sublimation, above the
    triple point of melting."""
    cold = np.minimum(np.asarray(T, dtype=float), TRIPLE_T)
    r = 1.0 - cold / TRIPLE_T
    a1, a2, a3 = SUBLIMATION
    sublimed = TRIPLE_P * np.exp(TRIPLE_T / cold * (a1 * r + a2 * r**1.9 + a3 * r**2.9))
    over = np.maximum(np.asarray(T) / TRIPLE_T - 1.0, 0.0)
    return np.where(over > 0.0, TRIPLE_P * (1.0 + over * (MELTING[0] + MELTING[1] * over)), sublimed)


def solid_volume(T: Array) -> Array:
    """Return the molar volume of the solid, m3/mol: straight from 27.997e-6 at 150 K (Jäger and Span, J. Chem. Eng.
    Data 57, 590, 2012) to 29.10e-6 at the triple point (1512 kg/m3)."""
    return np.asarray(27.997e-6 + (29.10e-6 - 27.997e-6) * (np.asarray(T) - 150.0) / (TRIPLE_T - 150.0))


def ln_solid_fugacity(pure: Equation, T: Array, P: Array) -> Array:
    """Return ln of the fugacity of the solid, Pa, (N,) at T K and P Pa; ``pure`` is the equation of carbon dioxide
    alone."""
    T, P = np.asarray(T, dtype=float), np.asarray(P, dtype=float)
    beside = coexistence(T)
    cold = T <= TRIPLE_T
    ln_phi = np.empty(T.size)
    roots: tuple[tuple[NDArray[np.bool_], Root], ...] = ((cold, "vapour"), (~cold, "liquid"))
    for there, root in roots:
        rows = np.flatnonzero(there)
        if rows.size:
            state = pure.prepare(T[rows], beside[rows])
            ln_phi[rows] = state.ln_phi(np.ones((rows.size, 1)), root)[0][:, 0]
    return np.asarray(ln_phi + np.log(beside) + solid_volume(T) * (P - beside) / (R * T))


@dataclass(frozen=True)
class Frost:
    """A fluid that solid carbon dioxide may come out of: its equation, mole fractions z (nc,) and the ``place`` of
    carbon dioxide."""

    eos: Equation
    z: Array
    place: int

    @property
    def pure(self) -> Equation:
        """The equation of carbon dioxide alone."""
        return self.eos.of(np.array([self.place]))

    def excess(self, phases: Phases) -> Array:
        """Return by how much carbon dioxide in the fluid (N,) is above the solid, ln of the ratio of fugacities:
        positive where solid comes out; nan where the state was not found."""
        f = fugacities(self.eos, phases)[:, self.place]
        return np.asarray(np.log(f) - ln_solid_fugacity(self.pure, phases.T, phases.P))

    def at(self, T: Array, P: Array, watch: Watch = UNWATCHED) -> Array:
        """Return the :meth:`excess` at T (N,) K and P (N,) Pa."""
        with np.errstate(divide="ignore", invalid="ignore"):
            return self.excess(flash_all(self.eos, T, P, self.z, watch))

    def temperatures(self, P: Array, watch: Watch = UNWATCHED) -> Array:
        """Return the warmest temperature at which solid comes out of the fluid that is cooled at P (n,) Pa, K; nan
        where none does between COLDEST and HOTTEST. Raises Cancelled."""
        from scipy.optimize.elementwise import find_root

        P = np.asarray(P, dtype=float)
        T = np.linspace(HOTTEST, COLDEST, SCANNED)
        values = self.at(np.tile(T, P.size), np.repeat(P, SCANNED), watch.part(0.0, 0.7)).reshape(P.size, SCANNED)
        values = np.where(np.isfinite(values), values, -np.inf)
        over = (values[:, 1:] > 0.0) & (values[:, :-1] <= 0.0) & np.isfinite(values[:, :-1])
        out = np.full(P.size, np.nan)
        rows = np.flatnonzero(over.any(axis=1))
        if rows.size == 0:
            return out
        first = np.argmax(over[rows], axis=1)

        def off(t: Array, index: Array) -> Array:
            watch.check()
            return self.at(t, P[index.astype(np.intp)])

        root = find_root(
            off, (T[first + 1], T[first]), args=(rows.astype(float),), tolerances={"xatol": TOLERANCE}, maxiter=60
        )
        out[rows] = np.where(root.success, root.x, np.nan)
        return out
