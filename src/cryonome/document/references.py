"""Numbers from elsewhere that an answer is held against, read with their units."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..units import QuantityError
from ..units.endings import parse_as
from .model import Cell
from .reader import EMPTY, Reader


def read_references(given: Mapping[str, Cell | Sequence[Cell]], reader: Reader) -> dict[str, float]:
    """Return the values by their path in the answer, in the unit of the key there; a list stands for the items of one.

    Empty cells are left out; what is no quantity of the kind is noted at its place.
    """
    found: dict[str, float] = {}
    for path, cells in given.items():
        several = isinstance(cells, (list, tuple))
        for i, cell in enumerate(cells if isinstance(cells, (list, tuple)) else (cells,)):
            if cell in EMPTY or cell is None:
                continue
            try:
                found[f"{path}[{i}]" if several else path] = parse_as(path, cell)
            except QuantityError as error:
                (reader.at(path, i) if several else reader.at(path)).fault(str(error))
    return found
