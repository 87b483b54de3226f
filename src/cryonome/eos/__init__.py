"""Equations of state: the protocol the solvers know, the cubic family, interaction parameters."""

from .cubic import CubicEos
from .cubic_forms import FORMS, CubicForm
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
