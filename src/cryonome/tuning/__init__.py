"""Tuning: a few parameters of a fluid moved, within bounds, until it meets what was measured."""

from .fit import Fit, fit
from .parameters import ANY_SIGN, PROPERTIES, Base, Parameter, Tuned, heavy_ends, tuned
from .sensitivity import Proposal, alike, propose

__all__ = [
    "ANY_SIGN",
    "PROPERTIES",
    "Base",
    "Fit",
    "Parameter",
    "Proposal",
    "Tuned",
    "alike",
    "fit",
    "heavy_ends",
    "propose",
    "tuned",
]
