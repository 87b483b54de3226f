"""The grid of the numbers of an answer, to choose what a sweep reads."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ....fluids.property_choice import described
from ....questions.asking import numbers_in
from ....results.answer_paths import key_words
from ....telling.sentences import Units
from ....telling.table_blocks import of_key
from ...widgets.grid import GridModel


class ResultModel(GridModel):
    """Every number of an answer by its words, its value now and its unit; a tick where it is read."""

    def __init__(self, toggled: Callable[[str], None]) -> None:
        super().__init__()
        self._toggled = toggled
        self._found: list[tuple[str, float]] = []
        self._chosen: frozenset[str] = frozenset()
        self._units: Units | None = None

    def show_answer(self, answer: dict[str, Any], chosen: frozenset[str], wanted: str, units: Units) -> None:
        """Show the numbers of an answer found by the words ``wanted``."""
        words = wanted.lower().split()
        found = [(p, v) for p, v in numbers_in(answer) if all(w in f"{p} {key_words(p)}".lower() for w in words)]
        same = [p for p, _ in found] == [p for p, _ in self._found]
        self._found, self._chosen, self._units = found, chosen, units
        if same:
            self.rewrite()
        else:
            self.reload()

    def toggle(self, row: int) -> None:
        """Read the result of a row, or read it no more."""
        if row < len(self._found):
            self._toggled(self._found[row][0])

    def titles(self) -> list[tuple[str, str]]:
        return [("", ""), ("result", ""), ("now", ""), ("unit", "")]

    def rows(self) -> int:
        return len(self._found)

    def text(self, row: int, column: int) -> str:
        path, value = self._found[row]
        if self._units is None:
            return ""
        shown = of_key(path, self._units)
        return ("✓" if path in self._chosen else "", key_words(path), shown.text(value), shown.head[1])[column]

    def tip(self, row: int, column: int) -> str:
        path = self._found[row][0]
        return f"{path}: {described(path)[2]}".rstrip(": ")

    def bold(self, row: int, column: int) -> bool:
        return column < 2 and self._found[row][0] in self._chosen

    def left_aligned(self, column: int) -> bool:
        return column in (1, 3)

    def muted(self, row: int, column: int) -> bool:
        return column == 3
