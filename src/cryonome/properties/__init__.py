"""Properties of phases: a registry of entries, evaluated for many states at once."""

from . import flow, thermal
from .aqueous.organics import ORGANICS
from .aqueous.solvents import AQUEOUS, CORRELATIONS, EQUATION
from .reference import IDEAL_GAS, Reference
from .registry import PROPERTIES, Property, Values, evaluate
from .substance import Substance, ViscosityMatch
from .transport import VISCOSITIES

__all__ = [
    "AQUEOUS",
    "CORRELATIONS",
    "EQUATION",
    "IDEAL_GAS",
    "ORGANICS",
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
