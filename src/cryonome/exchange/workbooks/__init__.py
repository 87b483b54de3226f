"""Workbooks answered: named ranges become fluids and states, answers go to a sheet of their own or beside the
states."""

from .answering import FILL_ERRORS, Filled, fill

__all__ = ["FILL_ERRORS", "Filled", "fill"]
