"""Characterization: boiling curves, cuts, correlations, pseudo-components."""

from .curve import BoilingCurve, PointFault, check_points, close_curve
from .lab_sample import LabSample
from .pseudo import Known, complete
from .result import CharacterizedSample
from .sample import characterize

__all__ = [
    "BoilingCurve",
    "CharacterizedSample",
    "Known",
    "LabSample",
    "PointFault",
    "characterize",
    "check_points",
    "close_curve",
    "complete",
]
