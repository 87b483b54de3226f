"""Equations of state: the cubic family and its interaction parameters."""

from .cubic import FORMS, CubicEos, CubicForm, CubicState, PhaseDerivatives

__all__ = ["FORMS", "CubicEos", "CubicForm", "CubicState", "PhaseDerivatives"]
