"""Where an alcohol or glycol goes beside the water: its share of the vapour and of the condensate.

Its fugacity is that of the aqueous liquid, f = x gamma phi_pure P with the activity coefficient of
:mod:`cryonome.solids.activity`; in the others it is dilute, y = f/(phi P), with phi there by the fluid's own
equation."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..equilibrium.flash import flash_pt
from ..equilibrium.phases import ROOTS, Kind
from .activity import Doses, ln_gamma, mole_fractions

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Share:
    """A phase beside the water at one state: whether it is a ``vapour``, moles of it per mole of the dry fluid, and
    the mole fraction of the inhibitor in it."""

    vapour: bool
    moles: float
    fraction: float


def shares(eos: Equation, z: Array, water: int, place: int, name: str, dose: Doses, T: float, P: float) -> list[Share]:
    """Return the phases beside the aqueous liquid at T K and P Pa, with the inhibitor ``name`` that stands at
    ``place`` of the equation.

    ``z`` (nc,) counts the fluid with water and inhibitor, which are left out of the flash and follow from the
    ``dose``. Empty where the state was not found."""
    states = np.array([T]), np.array([P])
    own = eos.of(np.array([place])).prepare(*states).ln_phi(np.ones((1, 1)), "liquid")[0][0, 0]
    x = float(np.atleast_1d(mole_fractions(dose)[1][name])[0])
    gamma = float(np.atleast_1d(ln_gamma(states[0], dose)[1][name])[0])
    ln_f = np.log(x) + gamma + own
    rest = np.flatnonzero(~np.isin(np.arange(z.size), (water, place)))
    dry = flash_pt(eos.of(rest), *states, z[rest] / z[rest].sum())
    out = []
    for k in np.flatnonzero(dry.present[0] & dry.converged[0]):
        y = np.zeros((1, z.size))
        y[0, rest] = dry.composition[0, k]
        ln_phi = eos.prepare(*states).ln_phi(y, ROOTS[int(dry.root[0, k])])[0][0, place]
        out.append(Share(bool(dry.kind[0, k] == Kind.VAPOUR), float(dry.fraction[0, k]), float(np.exp(ln_f - ln_phi))))
    return out
