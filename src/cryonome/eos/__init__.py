"""Equations of state: the protocol the solvers know, the cubic family, interaction parameters."""

from .cubic import FORMS, CubicEos, CubicForm
from .equation import Equation, PhaseDerivatives, PhaseResponse, PreparedStates, Root, VolumeStates, is_liquid

__all__ = [
    "FORMS",
    "CubicEos",
    "CubicForm",
    "Equation",
    "PhaseDerivatives",
    "PhaseResponse",
    "PreparedStates",
    "Root",
    "VolumeStates",
    "is_liquid",
]
