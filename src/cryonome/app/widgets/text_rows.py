"""A table of texts that are made elsewhere: words in the first column, numbers in the others."""

from __future__ import annotations

from collections.abc import Set

from .grid import GridModel

Titles = list[tuple[str, str]]


class TextRows(GridModel):
    """Rows of texts under fixed or changing titles."""

    def __init__(self, titles: Titles) -> None:
        super().__init__()
        self._titles: Titles = titles
        self._rows: list[list[str]] = []
        self._bold: Set[int] = frozenset()
        self._tips: list[str] = []
        self._dim: Set[int] = frozenset()
        self._study = ""
        self._paths: list[list[str]] = []

    def show(self, rows: list[list[str]], bold: Set[int] = frozenset(), titles: Titles | None = None) -> None:
        """Show rows; those in ``bold`` stand out; ``titles`` replace the present ones."""
        same = len(rows) == len(self._rows) and titles in (None, self._titles)
        self._rows, self._bold, self._titles = rows, bold, titles or self._titles
        if same:
            self.rewrite()
        else:
            self.reload()

    def dim(self, rows: Set[int]) -> None:
        """Show rows grey."""
        self._dim = rows
        self.rewrite()

    def muted(self, row: int, column: int) -> bool:
        return row in self._dim

    def explain(self, tips: list[str]) -> None:
        """Give every row an explanation."""
        self._tips = tips

    def read_from(self, study: str, paths: list[list[str]]) -> None:
        """Say where the numbers of every row stand in a question's answer, "" for what is none."""
        self._study, self._paths = study, paths

    def answer_path(self, row: int, column: int) -> tuple[str, str] | None:
        path = self._paths[row][column] if row < len(self._paths) and column < len(self._paths[row]) else ""
        return (self._study, path) if path else None

    def tip(self, row: int, column: int) -> str:
        return self._tips[row] if row < len(self._tips) else ""

    def titles(self) -> Titles:
        return self._titles

    def rows(self) -> int:
        return len(self._rows)

    def text(self, row: int, column: int) -> str:
        return self._rows[row][column]

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def bold(self, row: int, column: int) -> bool:
        return row in self._bold
