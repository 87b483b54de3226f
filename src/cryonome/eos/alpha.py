"""Alpha functions: how the attraction of a cubic equation depends on temperature.

Each gives sqrt(alpha) with two temperature derivatives, since a_i enters the mixing rule by its root. An alpha function is a
frozen value holding the parameters of every component; parameters may carry a batch axis, (nc,) or (N, nc).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Alpha(Protocol):
    """Attraction relative to the critical temperature, by component."""

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """Return sqrt(alpha), T d sqrt(alpha)/dT and T2 d2 sqrt(alpha)/dT2 at reduced temperatures Tr (..., nc)."""
        ...

    def apply(self, change: Callable[[Array], Array]) -> Alpha:
        """Return the same function with every parameter array passed through ``change``."""
        ...


@dataclass(frozen=True)
class Soave:
    """sqrt(alpha) = 1 + kappa (1 - sqrt(Tr)); Soave, Chem. Eng. Sci. 27, 1197 (1972), eq. 9.

    Above the temperature where it would turn negative the magnitude is used, so that a_i stays the square of a real number.
    """

    kappa: Array

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """See :class:`Alpha`."""
        root = np.sqrt(Tr)
        value = 1.0 + self.kappa * (1.0 - root)
        slope = -0.5 * self.kappa * root
        sign = np.where(value < 0.0, -1.0, 1.0)
        slope *= sign
        return value * sign, slope, -0.5 * slope

    def apply(self, change: Callable[[Array], Array]) -> Soave:
        """See :class:`Alpha`."""
        return Soave(change(self.kappa))


@dataclass(frozen=True)
class Power:
    """alpha = Tr^exponent, the same for all components: 0 of van der Waals (1873), -1/2 of Redlich and Kwong (1949)."""

    exponent: float

    def root(self, Tr: Array) -> tuple[Array, Array, Array]:
        """See :class:`Alpha`."""
        half = 0.5 * self.exponent
        value = Tr**half
        return value, half * value, half * (half - 1.0) * value

    def apply(self, change: Callable[[Array], Array]) -> Power:
        """See :class:`Alpha`."""
        return self
