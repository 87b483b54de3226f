"""Everything that comes in or goes out as a table: lab sheets and reports read, samples and answers written."""

from .cells import ExchangeError
from .found import Block, Choice, Choices, ColumnRead, Found, Note, Test
from .reading import read_file, read_rows, read_text

__all__ = [
    "Block",
    "Choice",
    "Choices",
    "ColumnRead",
    "ExchangeError",
    "Found",
    "Note",
    "Test",
    "read_file",
    "read_rows",
    "read_text",
]
