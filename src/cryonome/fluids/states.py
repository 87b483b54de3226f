"""Full states of a fluid: phases and every property of them, for one or ten thousand temperatures and pressures at
once."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..equilibrium.multiphase import flash_all
from ..equilibrium.naming import with_aqueous
from ..equilibrium.phase_map import PhaseMap
from ..equilibrium.phases import Phases
from ..properties import Values, evaluate
from ..watch import UNWATCHED, Watch
from .building import FluidModel

Array = NDArray[np.float64]


@dataclass(frozen=True)
class States:
    """Phases of a fluid at states of any leading shape, with their properties."""

    model: FluidModel
    phases: Phases
    values: Values


def full_states(
    model: FluidModel, T: ArrayLike, P: ArrayLike, keys: Iterable[str] = (), watch: Watch = UNWATCHED
) -> States:
    """Return the equilibrium at T (...) K and P (...) Pa with the properties ``keys``, all where none are named."""
    phases = with_aqueous(flash_all(model.eos, T, P, model.z, watch), model.water)
    return States(model, phases, evaluate(model.substance, phases, keys))


def with_properties(model: FluidModel, phases: Phases, keys: Iterable[str] = ()) -> States:
    """Return phases found otherwise with the properties ``keys``, all where none are named."""
    phases = with_aqueous(phases, model.water)
    return States(model, phases, evaluate(model.substance, phases, keys))


@dataclass(frozen=True)
class Margins:
    """How far a state is from the bubble and dew lines: the nearest point of each at its temperature (Pa) and at its
    pressure (K), None where there is none."""

    T: float
    P: float
    bubble_P: float | None
    dew_P: float | None
    bubble_T: float | None
    dew_T: float | None


def margins(whole: PhaseMap, T: float, P: float) -> Margins:
    """Return the nearest saturation points of a fluid's envelope to T K, P Pa."""

    def nearest(beta: float, at_T: bool) -> float | None:
        points = whole.crossings([beta], **({"T": T} if at_T else {"P": P}))
        found = [p.P if at_T else p.T for p in points]
        return min(found, key=lambda v: abs(v - (P if at_T else T))) if found else None

    return Margins(T, P, nearest(0.0, True), nearest(1.0, True), nearest(0.0, False), nearest(1.0, False))
