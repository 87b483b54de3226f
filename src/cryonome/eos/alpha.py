"""Alpha functions: how the attraction of a cubic equation depends on temperature.

Each gives sqrt(alpha) with two temperature derivatives, since a_i enters the mixing rule by its root. An alpha
function is a frozen value holding the parameters of every component; parameters may carry a batch axis, (nc,) or (N,
nc).

A published name means the published function at every temperature. Soave's polynomial in sqrt(Tr) falls to zero at Tr
= (1 + 1/kappa)^2 (methane with Peng and Robinson's kappa: some 2400 K) and alpha, its square, rises again from there.
:class:`Smooth` is for those who go near: up to Tc it is Soave's, above it an exponential goes on, in the manner of
Boston and Mathias, Proc. 2nd Int. Conf. on Phase Equilibria, Berlin (1980),

    sqrt(alpha) = exp(c (1 - Tr^d)),   Tr > 1

with c and d such that value, slope and curvature (theirs: value and slope) are continuous at Tr = 1, so that heat
capacities have no step there. It stays positive and falls where the slope at Tr = 1 is negative."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..kernels import kernel

Array = NDArray[np.float64]
Change = Callable[[Array], Array]
Constants = tuple[NDArray[np.int64], Array, Array, Array, Array]

POWER, SOAVE, SMOOTH, MATHIAS, TWU = (np.array(code) for code in range(5))
"""Codes of the functions in ``kernels/source/alphas.py``, where they are computed."""

NONE = np.array(0.0)


class Alpha(ABC):
    """Attraction relative to the critical temperature, by component."""

    @abstractmethod
    def constants(self) -> Constants:
        """Return the code and the four constants of every component, each (..., nc) or of no axis."""

    @abstractmethod
    def apply(self, change: Change) -> Alpha:
        """Return the same function with every parameter array passed through ``change``."""

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """Return sqrt(alpha), T d sqrt(alpha)/dT and T2 d2 sqrt(alpha)/dT2 at reduced temperatures Tr (..., nc)."""
        code, *given, Tr = np.broadcast_arrays(*self.constants(), np.asarray(Tr, float))
        out = [np.empty((Tr.size, 1)) for _ in range(3)]
        values = np.ascontiguousarray(np.stack(given, axis=-1).reshape(-1, 4), dtype=float)
        codes = np.ascontiguousarray(code.reshape(-1, 1), dtype=np.int64)
        at = np.ascontiguousarray(Tr.reshape(-1, 1))
        kernel("alpha_roots").over(Tr.size, 0, (codes, values, at, *out), block=4096)
        value, slope, curvature = (v.reshape(Tr.shape) for v in out)
        return value, slope, curvature


@dataclass(frozen=True)
class Soave(Alpha):
    """sqrt(alpha) = |1 + kappa (1 - sqrt(Tr))| at every temperature; Soave, Chem. Eng. Sci. 27, 1197 (1972), eq. 9."""

    kappa: Array

    def constants(self) -> Constants:
        """See :class:`Alpha`."""
        return SOAVE, self.kappa, NONE, NONE, NONE

    def apply(self, change: Change) -> Soave:
        """See :class:`Alpha`."""
        return Soave(change(self.kappa))


@dataclass(frozen=True)
class Smooth(Alpha):
    """Soave's function up to Tc, above it the exponential that goes on from it."""

    kappa: Array

    def constants(self) -> Constants:
        """See :class:`Alpha`."""
        return SMOOTH, self.kappa, NONE, NONE, NONE

    def apply(self, change: Change) -> Smooth:
        """See :class:`Alpha`."""
        return Smooth(change(self.kappa))


@dataclass(frozen=True)
class MathiasCopeman(Alpha):
    """sqrt(alpha) = 1 + c1 y + c2 y2 + c3 y3, y = 1 - sqrt(Tr), up to Tc, above it 1 + c1 y, which has its slope there.

    Mathias and Copeman, Fluid Phase Equilib. 13, 91 (1983), eq. 12. nan where a component has none.
    """

    c1: Array
    c2: Array
    c3: Array

    def constants(self) -> Constants:
        """See :class:`Alpha`."""
        return MATHIAS, self.c1, self.c2, self.c3, NONE

    def apply(self, change: Change) -> MathiasCopeman:
        """See :class:`Alpha`."""
        return MathiasCopeman(change(self.c1), change(self.c2), change(self.c3))


@dataclass(frozen=True)
class Twu(Alpha):
    """alpha = Tr^(N (M - 1)) exp(L (1 - Tr^(N M))) at all temperatures; nan where a component has none.

    Twu, Bluck, Cunningham and Coon, Fluid Phase Equilib. 69, 33 (1991), eq. 11.
    """

    L: Array
    M: Array
    N: Array

    def constants(self) -> Constants:
        """See :class:`Alpha`."""
        return TWU, self.L, self.M, self.N, NONE

    def apply(self, change: Change) -> Twu:
        """See :class:`Alpha`."""
        return Twu(change(self.L), change(self.M), change(self.N))


@dataclass(frozen=True)
class Salted(Alpha):
    """The ``pure`` function of water, nan for other components, with ``salt`` mol NaCl per kg in it.

    Salt adds 0.4530 * 0.0103 salt^1.1 Tr to sqrt(alpha): the term of Søreide and Whitson, Fluid Phase Equilib. 77,
    217 (1992), eq. 9, made for the equation of Peng and Robinson from the vapour pressures of brines, 15 to 325 °C,
    up to 5 mol/kg."""

    pure: MathiasCopeman
    salt: float

    def constants(self) -> Constants:
        """See :class:`Alpha`."""
        return MATHIAS, self.pure.c1, self.pure.c2, self.pure.c3, np.array(0.4530 * 0.0103 * self.salt**1.1)

    def apply(self, change: Change) -> Salted:
        """See :class:`Alpha`."""
        return Salted(self.pure.apply(change), self.salt)


@dataclass(frozen=True)
class Power(Alpha):
    """alpha = Tr^exponent, the same for all components: 0 of van der Waals (1873), -1/2 of Redlich and Kwong (1949)."""

    exponent: float

    def constants(self) -> Constants:
        """See :class:`Alpha`."""
        return POWER, np.array(self.exponent), NONE, NONE, NONE

    def apply(self, change: Change) -> Power:
        """See :class:`Alpha`."""
        return self


@dataclass(frozen=True)
class First(Alpha):
    """The first of several alpha functions that has a component; those that have not give nan."""

    functions: tuple[Alpha, ...]

    def constants(self) -> Constants:
        """See :class:`Alpha`."""
        out = self.functions[-1].constants()
        for function in self.functions[-2::-1]:
            own = function.constants()
            has = ~np.isnan(own[1])
            code, first, second, third, fourth = (np.where(has, new, old) for new, old in zip(own, out))
            out = code, first, second, third, fourth
        return out

    def apply(self, change: Change) -> First:
        """See :class:`Alpha`."""
        return First(tuple(f.apply(change) for f in self.functions))
