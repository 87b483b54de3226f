"""Characterization: boiling curves, cuts, correlations, pseudo-components."""

from .curve import BoilingCurve, PointFault, check_points, close_curve
from .pseudo import Known, complete
from .sample import CharacterizedSample, LabSample, Remark, characterize

__all__ = [
    "BoilingCurve",
    "CharacterizedSample",
    "Known",
    "LabSample",
    "PointFault",
    "Remark",
    "characterize",
    "check_points",
    "close_curve",
    "complete",
]
