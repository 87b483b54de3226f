"""Alpha functions: how the attraction of a cubic equation depends on temperature.

Each gives sqrt(alpha) with two temperature derivatives, since a_i enters the mixing rule by its root. An alpha function is a
frozen value holding the parameters of every component; parameters may carry a batch axis, (nc,) or (N, nc).

A published name means the published function at every temperature. Soave's polynomial in sqrt(Tr) falls to zero at Tr = (1 + 1/kappa)^2 (methane
with Peng and Robinson's kappa: some 2400 K) and alpha, its square, rises again from there. :class:`Smooth` is for those who go near: up to Tc it is
Soave's, above it an exponential goes on, in the manner of Boston and Mathias, Proc. 2nd Int. Conf. on Phase Equilibria, Berlin (1980),

    sqrt(alpha) = exp(c (1 - Tr^d)),   Tr > 1

with c and d such that value, slope and curvature (theirs: value and slope) are continuous at Tr = 1, so that heat capacities
have no step there. It stays positive and falls where the slope at Tr = 1 is negative.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Change = Callable[[Array], Array]

LEAST_POWER = 0.05
"""Of the exponential above Tc; below it the curvature at Tc gives way."""


class Alpha(Protocol):
    """Attraction relative to the critical temperature, by component."""

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """Return sqrt(alpha), T d sqrt(alpha)/dT and T2 d2 sqrt(alpha)/dT2 at reduced temperatures Tr (..., nc)."""
        ...

    def apply(self, change: Change) -> Alpha:
        """Return the same function with every parameter array passed through ``change``."""
        ...


LEAST_ROOT = 1e-9
"""Of sqrt(alpha), which mixing rules divide by."""


@dataclass(frozen=True)
class Soave:
    """sqrt(alpha) = |1 + kappa (1 - sqrt(Tr))| at every temperature; Soave, Chem. Eng. Sci. 27, 1197 (1972), eq. 9."""

    kappa: Array

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """See :class:`Alpha`."""
        root = np.sqrt(Tr)
        value = 1.0 + self.kappa * (1.0 - root)
        # The mixing rule takes the positive root of alpha also where the polynomial is below zero.
        side = np.where(value < 0.0, 0.5, -0.5)
        slope = side * self.kappa * root
        return np.maximum(np.abs(value), LEAST_ROOT), slope, -0.5 * slope

    def apply(self, change: Change) -> Soave:
        """See :class:`Alpha`."""
        return Soave(change(self.kappa))


@dataclass(frozen=True)
class Smooth:
    """Soave's function up to Tc, above it the exponential that goes on from it."""

    kappa: Array

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """See :class:`Alpha`."""
        found = Soave(self.kappa).root(Tr)
        hot = np.nonzero(Tr > 1.0)
        if hot[0].size == 0:
            return found
        kappa = np.broadcast_to(self.kappa, Tr.shape)[hot]
        first, second = -0.5 * kappa, 0.25 * kappa
        # c d = -slope and curvature = slope (d - 1) + slope^2.
        with np.errstate(divide="ignore", invalid="ignore"):
            d = np.maximum(np.where(first == 0.0, 1.0, 1.0 + second / first - first), LEAST_POWER)
        power = Tr[hot] ** d
        rise = first * power
        value = np.exp(-first / d * (1.0 - power))
        for out, new in zip(found, (value, rise * value, (rise * rise + (d - 1.0) * rise) * value)):
            out[hot] = new
        return found

    def apply(self, change: Change) -> Smooth:
        """See :class:`Alpha`."""
        return Smooth(change(self.kappa))


@dataclass(frozen=True)
class MathiasCopeman:
    """sqrt(alpha) = 1 + c1 y + c2 y2 + c3 y3, y = 1 - sqrt(Tr), up to Tc, above it 1 + c1 y, which has its slope there.

    Mathias and Copeman, Fluid Phase Equilib. 13, 91 (1983), eq. 12. nan where a component has none.
    """

    c1: Array
    c2: Array
    c3: Array

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """See :class:`Alpha`."""
        c1 = self.c1
        cold = Tr <= 1.0
        c2, c3 = np.where(cold, self.c2, 0.0 * self.c2), np.where(cold, self.c3, 0.0 * self.c3)
        root = np.sqrt(Tr)
        y = 1.0 - root
        first, second = c1 + y * (2.0 * c2 + 3.0 * c3 * y), 2.0 * c2 + 6.0 * c3 * y
        value = 1.0 + y * (c1 + y * (c2 + y * c3))
        side = np.where(value < 0.0, -1.0, 1.0)
        slope, curvature = -0.5 * root * first, 0.25 * (root * first + Tr * second)
        return np.maximum(np.abs(value), LEAST_ROOT), side * slope, side * curvature

    def apply(self, change: Change) -> MathiasCopeman:
        """See :class:`Alpha`."""
        return MathiasCopeman(change(self.c1), change(self.c2), change(self.c3))


@dataclass(frozen=True)
class Twu:
    """alpha = Tr^(N (M - 1)) exp(L (1 - Tr^(N M))) at all temperatures; nan where a component has none.

    Twu, Bluck, Cunningham and Coon, Fluid Phase Equilib. 69, 33 (1991), eq. 11.
    """

    L: Array
    M: Array
    N: Array

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """See :class:`Alpha`."""
        power, outer = self.N * self.M, 0.5 * self.N * (self.M - 1.0)
        rise = Tr**power
        value = Tr**outer * np.exp(0.5 * self.L * (1.0 - rise))
        inner = 0.5 * self.L * power * rise
        slope = outer - inner
        return value, slope * value, (slope * slope - outer - (power - 1.0) * inner) * value

    def apply(self, change: Change) -> Twu:
        """See :class:`Alpha`."""
        return Twu(change(self.L), change(self.M), change(self.N))


@dataclass(frozen=True)
class Salted:
    """The ``pure`` function of water, nan for other components, with ``salt`` mol NaCl per kg in it.

    Salt adds 0.4530 * 0.0103 salt^1.1 Tr to sqrt(alpha): the term of Søreide and Whitson, Fluid Phase Equilib. 77, 217 (1992), eq. 9,
    made for the equation of Peng and Robinson from the vapour pressures of brines, 15 to 325 °C, up to 5 mol/kg.
    """

    pure: MathiasCopeman
    salt: float

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """See :class:`Alpha`."""
        value, slope, curvature = self.pure.root(Tr)
        more = 0.4530 * 0.0103 * self.salt**1.1 * Tr
        return value + more, slope + more, curvature

    def apply(self, change: Change) -> Salted:
        """See :class:`Alpha`."""
        return Salted(self.pure.apply(change), self.salt)


@dataclass(frozen=True)
class Power:
    """alpha = Tr^exponent, the same for all components: 0 of van der Waals (1873), -1/2 of Redlich and Kwong (1949)."""

    exponent: float

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """See :class:`Alpha`."""
        half = 0.5 * self.exponent
        value = Tr**half
        return value, half * value, half * (half - 1.0) * value

    def apply(self, change: Change) -> Power:
        """See :class:`Alpha`."""
        return self


@dataclass(frozen=True)
class First:
    """The first of several alpha functions that has a component; those that have not give nan."""

    functions: tuple[Alpha, ...]

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """See :class:`Alpha`."""
        value, slope, curvature = self.functions[-1].root(Tr)
        for function in self.functions[-2::-1]:
            own = function.root(Tr)
            has = ~np.isnan(own[0])
            value, slope, curvature = (np.where(has, new, old) for new, old in zip(own, (value, slope, curvature)))
        return value, slope, curvature

    def apply(self, change: Change) -> First:
        """See :class:`Alpha`."""
        return First(tuple(f.apply(change) for f in self.functions))
