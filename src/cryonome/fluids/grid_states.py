"""States of one fluid at many pairs of conditions, solved in one batch."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.pair_flash import flash_pair
from ..equilibrium.phases import Phases
from ..properties import evaluate
from ..watch import UNWATCHED, Watch
from .building import FluidModel
from .states import States, with_properties

Array = NDArray[np.float64]


def states_at(model: FluidModel, values: Mapping[str, Array], keys: Iterable[str], watch: Watch = UNWATCHED) -> States:
    """Return the states (N,) at two conditions by key, each (N,) in SI and by mole, with the properties ``keys``.

    Raises Cancelled. What is not found says why in its phases.
    """

    def whole(phases: Phases, names: Sequence[str]) -> Mapping[str, Array]:
        return evaluate(model.substance, phases, names).whole

    found = flash_pair(model.eos, model.z, values, whole, watch)
    # An empty list of keys would mean all of them.
    return with_properties(model, found.phases, tuple(dict.fromkeys(keys)) or ("molar_mass",))
