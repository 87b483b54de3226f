"""Swelling: gas is added to a fluid, and the pressure that dissolves it and the volume there are read."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.saturation import Saturation
from ..watch import UNWATCHED, Watch
from .fluid import LabFluid

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Swelling:
    """M sets at n amounts of gas, each (M, n): ``pressure`` Pa at which the mixture begins to part, ``bubble``
    whether at a bubble, ``factor`` its volume there to that of the fluid alone at its own saturation."""

    pressure: Array
    bubble: NDArray[np.bool_]
    factor: Array
    saturation: Saturation


def swell(
    fluid: LabFluid, gas: Array, T: float, added: Array, near: Saturation | None = None, watch: Watch = UNWATCHED
) -> Swelling:
    """Add gas (nc,), mole fractions, to ``fluid`` of M sets, ``added`` (n,) moles per mole of it, at T K. Raises
    Cancelled."""
    m, n = fluid.size, added.size
    more = np.append(added, 0.0)
    each = fluid.repeated(n + 1)
    share = np.tile(more, m)[:, None]
    z = (each.z + share * gas) / (1.0 + share)
    mixed = LabFluid(**{**each.__dict__, "z": z})
    found = mixed.saturation(T, near, watch)
    molar = mixed.one_phase(np.full(z.shape[0], T), found.P)
    volume = (molar * (1.0 + share[:, 0])).reshape(m, n + 1)
    return Swelling(
        found.P.reshape(m, n + 1)[:, :n], found.bubble.reshape(m, n + 1)[:, :n], volume[:, :n] / volume[:, n:], found
    )
