"""Equations of a subset of their components, remembered: what is prepared for one (compiled solvers' parameters, critical
points with bonds) is then prepared once."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from .equation import Equation, Mask

E = TypeVar("E", bound=Equation)
F = TypeVar("F", bound=Equation)


def remembered(of: Callable[[E, NDArray[np.intp]], F]) -> Callable[[E, NDArray[np.intp] | Mask], F]:
    """Return the method ``of`` of an equation for places or a mask of components, which gives the same object for the
    same components. With a batch axis it is made anew: such an equation serves one call, and may be large."""

    @functools.wraps(of)
    def found(eos: E, keep: NDArray[np.intp] | Mask) -> F:
        index = np.asarray(np.flatnonzero(keep) if keep.dtype == bool else keep, dtype=np.intp)
        if eos.batched:
            return of(eos, index)
        # Kept in the instance, as cached_property does.
        own: dict[tuple[str, bytes], F] = eos.__dict__.setdefault("_subsets", {})
        key = (of.__qualname__, index.tobytes())
        if key not in own:
            own[key] = of(eos, index)
        return own[key]

    return found
