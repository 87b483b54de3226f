"""Properties of phases: a registry of entries, evaluated for many states at once."""

from .registry import PROPERTIES, Property, Substance, Values, evaluate

__all__ = ["PROPERTIES", "Property", "Substance", "Values", "evaluate"]
