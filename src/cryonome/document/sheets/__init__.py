"""Lab sheets as spreadsheets: ``cells`` reads files to rows of text within bounds, ``headers`` tells what a column holds,
``reading`` makes samples of rows and lists what it did not understand, ``writing`` is the way back."""

from .cells import ExchangeError
from .reading import Found, Note, read_file, read_samples, samples_of, samples_of_text
from .writing import rows_of, write_samples

__all__ = [
    "ExchangeError", "Found", "Note", "read_file", "read_samples", "rows_of", "samples_of", "samples_of_text", "write_samples",
]  # fmt: skip
