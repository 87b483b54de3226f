"""What is shown beside a choice of correlations: their ranges in words, and what the usual ones would make of the cuts."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..characterization import CharacterizedSample
from ..characterization.correlations import Correlation, estimate
from .sentences import Units, listed


def limits_text(entry: Correlation, units: Units) -> str:
    """Return the range of validity as it is printed; empty where none is stated."""
    return listed(entry.limit_values(), units)


def usual_values(result: CharacterizedSample) -> dict[str, NDArray[np.float64]]:
    """Return what the default correlations make of the cuts, by property."""
    cuts = result.cuts
    nbp, sg = (np.array([getattr(c, k) for c in cuts]) for k in ("nbp", "specific_gravity"))
    return estimate(nbp, sg).values
