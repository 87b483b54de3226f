"""Tables as they stand on a sheet, and the rows that belong to none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from .rows import Row


@dataclass
class Raw:
    """A table as it stands: its axis column and ``kind`` (``names``, ``points``, ``spans``, ``ions``, ``numbers``),
    header texts from top to bottom by column, the rows of its body and its sides; ``across`` tells that rows and
    columns are exchanged."""

    kind: str
    axis: int
    columns: list[int]
    heads: dict[int, list[str]]
    groups: dict[int, str]
    body: list[Row]
    sides: list[Row] = field(default_factory=list)
    across: bool = False
    top: int = 0
    bottom: int = 0
    left: int = 0

    def head(self, column: int) -> str:
        """Return the header of a column as one text."""
        return " ".join(h for h in self.heads.get(column, []) if h)

    def place(self, row: int, column: int) -> tuple[int, int]:
        """Return row and column on the sheet."""
        return (column + self.top, row + self.left) if self.across else (row, column)


@dataclass
class Layout:
    """The tables of a sheet and the rows that belong to none."""

    tables: list[Raw] = field(default_factory=list)
    lines: list[Row] = field(default_factory=list)


def cell_at(row: Sequence[str], column: int) -> str:
    """Return a cell of a row, nothing beyond its end."""
    return row[column] if 0 <= column < len(row) else ""
