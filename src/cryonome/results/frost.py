"""Solid carbon dioxide in a project's fluids: the line where it comes out, and what is to be said of states beyond
it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..document import Fluid
from ..equilibrium.phases import Phases
from ..fluids.building import FluidModel
from ..remarks import Remark, Value, kelvin, pascal
from ..solids.frost import COLDEST, HOTTEST, NAME, Frost
from ..watch import UNWATCHED, Watch
from .evaluator import Project

Array = NDArray[np.float64]

WIDE = (0.5e5, 30e6)
"""Pa, over which the line is drawn."""
POINTS = 32
LEAST = 1e-3
"""Mole fraction from which on carbon dioxide is looked at: of less, solid comes out colder than any plant of methane
goes."""


def frost_of(model: FluidModel) -> Frost | None:
    """Return a fluid as solid carbon dioxide sees it; None without enough of it, and of an ideal gas, which has no
    liquid."""
    if NAME not in model.names or not np.isfinite(model.eos.pure_critical()[0]).any():
        return None
    place = model.names.index(NAME)
    return Frost(model.eos, model.z, place) if float(model.z[place]) >= LEAST else None


def frost_line(project: Project, fluid: Fluid, P: Array | None = None, watch: Watch = UNWATCHED) -> tuple[Array, Array]:
    """Return pressures (n,) Pa and the temperatures below which solid comes out of a fluid, K, nan where it does not;
    nothing without carbon dioxide."""
    own = frost_of(project.fluid(fluid))
    if own is None:
        return np.zeros(0), np.zeros(0)
    if P is not None:
        return P, own.temperatures(P, watch)
    at = np.geomspace(*WIDE, POINTS)
    key = ("frost", project.fluid_key(fluid))
    return at, project.evaluator.cache.get(key, lambda: own.temperatures(at, watch))


def frost_remarks(model: FluidModel, phases: Phases) -> list[Remark]:
    """Return what is to be said of states of which solid carbon dioxide comes out: it is left out of them."""
    own = frost_of(model)
    if own is None:
        return []
    flat = phases.reshape(int(np.prod(phases.shape, dtype=int)))
    with np.errstate(invalid="ignore"):
        cold = np.flatnonzero(flat.converged & (flat.T < HOTTEST) & (flat.T > COLDEST))
    if cold.size == 0:
        return []
    with np.errstate(divide="ignore", invalid="ignore"):
        over = cold[own.excess(flat.take(cold)) > 0.0]
    if over.size == 0:
        return []
    if flat.T.size > 1:
        count: dict[str, Value] = {"count": int(over.size), "all": int(flat.T.size)}
        return [Remark("warning", "frost.states", "", {**count, "warm": kelvin(float(flat.T[over].max()))})]
    P = float(flat.P[0])
    T = float(own.temperatures(np.array([P]))[0])
    where: dict[str, Value] = {"P": pascal(P)}
    if not np.isfinite(T):
        return [Remark("warning", "frost.state", "", where)]
    return [Remark("warning", "frost.state_below", "", {**where, "T": kelvin(T)})]
