"""Properties of phases: ideal-gas part, density, enthalpy, entropy."""

from .phase import PhaseProperties, phase_properties

__all__ = ["PhaseProperties", "phase_properties"]
