"""Viscosity over pressure: of the fluid above saturation, below it of the oil whose gas is driven off as a viscometer is bled."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.saturation import Saturation
from ..watch import UNWATCHED, Watch
from .expansion import expand
from .fluid import LabFluid
from .liberation import liberate

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Thickness:
    """M sets at n pressures: ``viscosity`` Pa s and ``density`` kg/m3 (M, n) of what is measured; of a fluid with a dew point nan below it."""

    saturation: Saturation
    viscosity: Array
    density: Array


def thickness(
    fluid: LabFluid, T: float, P: Array, near: Saturation | None = None, watch: Watch = UNWATCHED
) -> Thickness:
    """Return the viscosities of ``fluid`` of M sets at T K over pressures P (n,) Pa, in any order. Raises Cancelled.

    The oil below its bubble point is that of a differential liberation by the pressures asked (Moses, J. Pet. Technol. 38, 715, 1986), so that it
    depends a little on how many there are.
    """
    whole = expand(fluid, T, P, near, watch.part(0.0, 0.4))
    above = whole.saturation.P[:, None] <= P
    mu, rho = np.where(above, whole.viscosity, np.nan), np.where(above, whole.density, np.nan)
    rows = np.flatnonzero(whole.saturation.found & whole.saturation.bubble)
    below = np.flatnonzero((~above[rows]).any(axis=0)) if rows.size else rows
    if below.size:
        falling = below[np.argsort(-P[below], kind="stable")]
        bled = liberate(fluid.take(rows), T, P[falling], whole.saturation.take(rows), watch.part(0.4, 1.0))
        place = np.ix_(rows, falling)
        mu[place] = np.where(above[place], mu[place], bled.oil_viscosity)
        rho[place] = np.where(above[place], rho[place], bled.oil_density)
    return Thickness(whole.saturation, mu, rho)
