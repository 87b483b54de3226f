"""What phases are called: one rule for one, two and three.

A phase is a liquid where its composition, taken as one fluid, is below the critical temperature that the equation
gives it and the phase is denser than critical (:func:`..eos.equation.is_liquid`). Of several phases that are none by
this rule the lightest is the vapour and the others are liquids; several liquids stay liquids. So a liquid of carbon
dioxide keeps its name beside oil or water, and a trace of a second phase changes no name."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .phases import Codes, Kind, Phases

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

RICH = 0.5
"""Mole fraction of water above which a phase is one of water."""


def named(packing: Array, cold: Mask, there: Mask) -> tuple[Codes, NDArray[np.intp]]:
    """Return the codes of :class:`Kind` (N, p) of phases by their packing and whether they are below the critical
    temperature of their one fluid (N, p), ``there`` (N, p) marking those present, and their order (N, p): vapours
    first, then the less densely packed."""
    liquid = cold & (packing > 1.0)
    lightest = np.argmin(np.where(there & ~liquid, packing, np.inf), axis=1)
    liquid |= np.arange(packing.shape[1]) != lightest[:, None]
    kind = np.where(there, np.where(liquid, Kind.LIQUID, Kind.VAPOUR), Kind.ABSENT).astype(np.int8)
    return kind, np.lexsort((packing, liquid, ~there), axis=1)


def with_aqueous(phases: Phases, water: int | None) -> Phases:
    """Return phases with the liquids that are mostly water named as such; ``water`` is its place among the
    components."""
    if water is None:
        return phases
    aqueous = (phases.kind == Kind.LIQUID) & (phases.composition[..., water] > RICH)
    return replace(phases, kind=np.where(aqueous, np.int8(Kind.AQUEOUS), phases.kind)) if aqueous.any() else phases
