"""The spreadsheet link: named ranges of a workbook become fluids and states, answers go to a sheet of their own."""

from .answering import FILL_ERRORS, Filled, fill

__all__ = ["FILL_ERRORS", "Filled", "fill"]
