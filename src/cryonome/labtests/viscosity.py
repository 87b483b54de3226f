"""Viscosity over pressure: of the fluid above saturation, below it of the oil whose gas is driven off as a viscometer
is bled."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.saturation import Saturation
from ..watch import UNWATCHED, Watch
from .fluid import LabFluid
from .liberation import liberate

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Thickness:
    """M sets at n pressures: ``viscosity`` Pa s and ``density`` kg/m3 (M, n) of what is measured; of a fluid with a
    dew point nan below it; one without a saturation point is a single phase throughout."""

    saturation: Saturation
    viscosity: Array
    density: Array


def thickness(
    fluid: LabFluid, T: float, P: Array, near: Saturation | None = None, watch: Watch = UNWATCHED
) -> Thickness:
    """Return the viscosities of ``fluid`` of M sets at T K over pressures P (n,) Pa, in any order. Raises Cancelled.

    The oil below its bubble point is that of a differential liberation by the pressures asked (Moses, J. Pet.
    Technol. 38, 715, 1986), so that it depends a little on how many there are."""
    m, n = fluid.size, P.size
    start = fluid.saturation(T, near, watch.part(0.0, 0.4))
    # What never parts is one phase at every pressure.
    above = ~(start.P[:, None] > P) & ~start.endless[:, None]
    flat, weight = np.full(m * n, np.nan), np.full(m * n, np.nan)
    one = np.flatnonzero(above)
    if one.size:
        each = fluid.repeated(n).take(one)
        at, pressure = np.full(one.size, T), np.broadcast_to(P, (m, n)).reshape(-1)[one]
        V = each.one_phase(at, pressure)
        flat[one] = each.viscosity(at, pressure, each.z, V, np.repeat(start.bubble, n)[one])
        weight[one] = each.mass(each.z) / V
    mu, rho = flat.reshape(m, n), weight.reshape(m, n)
    rows = np.flatnonzero(start.found & start.bubble)
    below = np.flatnonzero((~above[rows]).any(axis=0)) if rows.size else rows
    if below.size:
        falling = below[np.argsort(-P[below], kind="stable")]
        bled = liberate(fluid.take(rows), T, P[falling], start.take(rows), watch.part(0.4, 1.0))
        place = np.ix_(rows, falling)
        mu[place] = np.where(above[place], mu[place], bled.oil_viscosity)
        rho[place] = np.where(above[place], rho[place], bled.oil_density)
    return Thickness(start, mu, rho)
