"""Published correlations for the properties of narrow petroleum fractions, as entries of one registry."""

from . import acentric, density, heat_capacity, kesler_lee, others, riazi_daubert, twu
from .registry import DEFAULTS, ORDER, REGISTRY, TEST_TEMPERATURES, TITLES, Correlation, Estimated, Fraction, estimate

__all__ = [
    "DEFAULTS",
    "ORDER",
    "REGISTRY",
    "TEST_TEMPERATURES",
    "TITLES",
    "Correlation",
    "Estimated",
    "Fraction",
    "estimate",
]

_ENTRIES = (riazi_daubert, kesler_lee, twu, others, acentric, heat_capacity, density)
"""The modules whose import fills the registry, in the order the choices are offered."""
