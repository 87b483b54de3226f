"""Whether a hydrate is stable at a state: its water against the water beside it, as a liquid that inhibitors act on,
or as ice."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from .activity import Doses, ln_activity
from .lattice import STRUCTURES, lowering
from .surroundings import Host, Surroundings
from .water import water_over_ice

Array = NDArray[np.float64]
Places = NDArray[np.intp]

COLDEST, HOTTEST = 233.15, 325.0
"""K, between which the lattice's constants hold."""
NEAR = 1e-6
"""K; a temperature that is the coldest or hottest but for its unit's round-off is that."""
LOWEST, HIGHEST = 5e3, 100e6
"""Pa, between which pressures at given temperatures are looked for."""


def stability(host: Host, T: Array, P: Array, structure: int, dose: Array, seen: Surroundings | None = None) -> Array:
    """Return by how much the hydrate's water is lower than the water beside it, in R T, (N,): positive where the
    hydrate is stable.

    ``dose`` (N,) is ln of the activity that inhibitors give to water. Water is a liquid or ice, whichever is lower;
    nan where the fluid's state was not found."""
    seen = host.around(T, P) if seen is None else seen
    return lowering(structure, T, seen.f, host.names) - empty_over_water(T, P, structure, seen.ln_activity + dose)


def empty_over_water(T: Array, P: Array, structure: int, ln_a: Array) -> Array:
    """Return (mu_empty - mu_water)/(R T) of water at activities ``ln_a`` (N,), as ice where it would freeze."""
    own = STRUCTURES[structure]
    frozen = -water_over_ice(T, P)
    ice = (frozen < 0.0) & (frozen < ln_a)
    return np.where(ice, own.above_ice(T, P), own.above_water(T, P) - ln_a)


def given(T: Array, dose: Doses) -> Array:
    """Return ln of the activity that a dose gives to water at T (N,) K."""
    return ln_activity(T, dose) if dose else np.zeros(T.size)


def most_stable(host: Host, T: float, P: float, doses: Sequence[Doses]) -> tuple[Array, Places]:
    """Return the :func:`stability` of the structure that is most stable at one state with each of ``doses``, (d,),
    and its place; nan where the state was not found."""
    t, p = np.array([T]), np.array([P])
    seen = host.around(t, p)
    each = np.array(
        [[float(stability(host, t, p, s, given(t, dose), seen)[0]) for dose in doses] for s in range(len(STRUCTURES))]
    )
    return np.asarray(each.max(axis=0)), np.asarray(each.argmax(axis=0))


def known_at(T: Array | float) -> NDArray[np.bool_]:
    """Tell at which temperatures T (...) K the lattice's constants hold."""
    return np.asarray((np.asarray(T) >= COLDEST - NEAR) & (np.asarray(T) <= HOTTEST + NEAR))
