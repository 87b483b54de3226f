"""Several fluids as one list of components, so that streams of any of them may meet: each fluid by its own mole
fractions of that list."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..document import FluidInput
from ..document.read_fluid import PartInput
from ..remarks import Remark
from .blending import Content, Sources, collect
from .building import FluidModel, build_fluid

Array = NDArray[np.float64]


def joined(fluids: Sequence[FluidInput], sources: Sources) -> tuple[FluidModel, list[Array]]:
    """Return a model of all components of some fluids, by the model of the first, and the mole fractions (nc,) of
    each among them. Cuts of samples keep their own boundaries. Raises DomainError where one cannot be made."""
    parts = tuple(PartInput(f.name, f.name, False, "mole", 1.0) for f in fluids)
    whole = replace(fluids[0], parts=parts, recombination=None, grid="own", made_by=None)
    model = build_fluid(whole, sources)
    all_of = collect(whole, sources, [])
    told: list[Remark] = []
    return model, [_placed(collect(replace(whole, parts=(p,)), sources, told), all_of) for p in parts]


def _placed(own: Content, among: Content) -> Array:
    """Return the mole fractions of what a fluid holds among all components."""
    z = np.zeros(len(among.components))
    for component, moles in zip(own.components, own.moles):
        alike = [
            i
            for i, c in enumerate(among.components)
            if (c.kind, c.identity) == (component.kind, component.identity)
            and (c.kind == "pure" or replace(c, name=component.name) == component)
        ]
        z[alike[0]] += moles
    return np.asarray(z / z.sum())
