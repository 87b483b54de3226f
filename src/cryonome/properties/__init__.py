"""Properties of phases: a registry of entries, evaluated for many states at once."""

from . import flow, thermal
from .reference import IDEAL_GAS, Reference
from .registry import PROPERTIES, Property, Values, evaluate
from .substance import Substance, ViscosityMatch
from .transport import VISCOSITIES

__all__ = [
    "IDEAL_GAS",
    "PROPERTIES",
    "VISCOSITIES",
    "Property",
    "Reference",
    "Substance",
    "Values",
    "ViscosityMatch",
    "evaluate",
    "flow",
    "thermal",
]
