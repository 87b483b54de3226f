"""The mean average boiling point of a whole sample, and the Watson factor that is defined by it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

GASSY = 0.2
"""Volume fraction of light ends above which the whole is a gas or a live oil, of whose liquid the Watson factor says
nothing."""


FAHRENHEIT = 459.67
"""0 degF in degrees Rankine."""


def mean_average_boiling_point(nbp: Array, volume: Array, mole: Array) -> float:
    """Return the mean average boiling point, K, of fractions of boiling points nbp (n,) K in amounts volume and mole
    (n,).

    The mean of the molal average and of the cubic average, the cube of the volume mean of the cube roots of boiling
    points in degF (below 0 degF the root is negative); Smith and Watson, Ind. Eng. Chem. 29, 1408 (1937); API
    Technical Data Book, procedure 2B1."""
    molal = float(mole @ nbp / mole.sum())
    cubic = float(volume @ np.cbrt(1.8 * nbp - FAHRENHEIT) / volume.sum()) ** 3
    return 0.5 * (molal + (cubic + FAHRENHEIT) / 1.8)


def watson_factor(nbp: float, specific_gravity: float) -> float:
    """Return the Watson factor, the cube root of the boiling point in degrees Rankine over the specific gravity;
    Watson and Nelson, Ind. Eng. Chem. 25, 880 (1933). nbp in K, of a whole its mean average boiling point."""
    return float(np.cbrt(1.8 * nbp) / specific_gravity)
