"""The grids of the page *Table*: the values, the properties chosen, and those there are to choose."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor

from ....fluids.property_choice import Choice, described
from ....questions.tabulate import PropertyTable
from ....telling.sentences import Units
from ....units import format_number, from_si, label
from ...widgets.grid import GridModel
from ...widgets.heat import GROUND, heat
from ...widgets.theme import Theme
from .views import Scaled, axis_of, property_of

Array = NDArray[np.float64]


class ValuesModel(GridModel):
    """A property over two axes, or every property over one."""

    def __init__(self) -> None:
        super().__init__()
        self._first: Scaled | None = None
        self._across: Scaled | None = None
        self._columns: list[Scaled] = []
        self._shares: Array = np.empty((0, 0))
        self._missing: list[str] = []
        self.heated = True

    def show(self, table: PropertyTable | None, key: str, units: Units) -> None:
        """Show a table: of two axes the property ``key``."""
        shape = (self.rows(), len(self.titles()))
        if table is None or key not in table.values:
            self._first, self._columns = None, []
        else:
            self._first = axis_of(table, 0, units)
            if len(table.axes) > 1:
                self._across = axis_of(table, 1, units)
                whole = property_of(table, key, units)
                self._columns = [Scaled(whole.name, whole.unit, whole.values[:, j]) for j in range(table.axes[1].size)]
                self._shares = _shares(whole.values)
                self._missing = [table.told[key]] * table.axes[1].size
            else:
                self._across = None
                self._columns = [property_of(table, k, units) for k in table.values]
                self._shares = np.stack([_shares(c.values) for c in self._columns], axis=1)
                self._missing = [table.told[k] for k in table.values]
        if shape == (self.rows(), len(self.titles())):
            self.rewrite()
            self.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, max(len(self.titles()) - 1, 0))
        else:
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        if self._first is None:
            return []
        first = (self._first.name, self._first.unit)
        if self._across is None:
            return [first, *((c.name, c.unit) for c in self._columns)]
        return [first, *((self._across.text(float(v)), self._across.unit) for v in self._across.values)]

    def rows(self) -> int:
        return 0 if self._first is None else self._first.values.size

    def text(self, row: int, column: int) -> str:
        if self._first is None:
            return ""
        if column == 0:
            return self._first.text(float(self._first.values[row]))
        value = float(self._columns[column - 1].values[row])
        return format_number(value, 5) if np.isfinite(value) else ""

    def bold(self, row: int, column: int) -> bool:
        return column == 0

    def ground(self, row: int, column: int, theme: Theme) -> QColor | None:
        if column == 0 or not self.heated:
            return None
        share = float(self._shares[row, column - 1])
        return heat(theme, share, GROUND) if np.isfinite(share) else QColor(theme.sunk)

    def tip(self, row: int, column: int) -> str:
        if column == 0 or self.text(row, column):
            return ""
        return f"nothing here: {self._missing[column - 1] or 'this state was not found'}"


def _shares(values: Array) -> Array:
    """Return where values lie between the least and the largest, nan where there is none."""
    if not np.isfinite(values).any():
        return np.full(values.shape, np.nan)
    low, high = float(np.nanmin(values)), float(np.nanmax(values))
    return (values - low) / (high - low) if high > low else np.where(np.isfinite(values), 0.0, np.nan)


class ChosenModel(GridModel):
    """The properties of a table: name and what it is of."""

    def __init__(self) -> None:
        super().__init__()
        self.keys: list[str] = []

    def show(self, keys: list[str]) -> None:
        """Show keys of properties."""
        if keys != self.keys:
            self.keys = keys
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [("property", ""), ("of", "")]

    def rows(self) -> int:
        return len(self.keys)

    def text(self, row: int, column: int) -> str:
        return described(self.keys[row])[column]

    def tip(self, row: int, column: int) -> str:
        return described(self.keys[row])[2]

    def left_aligned(self, column: int) -> bool:
        return True

    def muted(self, row: int, column: int) -> bool:
        return column == 1


class ChoiceModel(GridModel):
    """Every property there is, with its meaning and its value at one state; a tick where it is in the table."""

    def __init__(self, toggled: Callable[[str], None]) -> None:
        super().__init__()
        self._all: list[Choice] = []
        self._shown: list[Choice] = []
        self._chosen: frozenset[str] = frozenset()
        self._units: Units | None = None
        self._toggled = toggled

    def show(self, choices: list[Choice], chosen: frozenset[str], wanted: str, units: Units) -> None:
        """Show the properties found by the words ``wanted``."""
        words = wanted.lower().split()
        found = [c for c in choices if c.found_by(words)]
        same = [c.key for c in found] == [c.key for c in self._shown]
        self._all, self._shown, self._chosen, self._units = choices, found, chosen, units
        if same:
            self.rewrite()
        else:
            self.reload()

    def key(self, row: int) -> str:
        """Return the key of a row."""
        return self._shown[row].key

    def toggle(self, row: int) -> None:
        """Take the property of a row into the table, or out of it."""
        if row < len(self._shown):
            self._toggled(self._shown[row].key)

    def titles(self) -> list[tuple[str, str]]:
        return [("", ""), ("property", ""), ("of", ""), ("now", ""), ("unit", ""), ("meaning", "")]

    def rows(self) -> int:
        return len(self._shown)

    def text(self, row: int, column: int) -> str:
        c = self._shown[row]
        unit = self._units.unit(c.kind) if self._units is not None and c.kind else ""
        if column == 0:
            return "✓" if c.key in self._chosen else ""
        if column == 3:
            if c.value is None:
                return ""
            return format_number(from_si(c.value * c.factor, unit, c.kind) if unit else c.value, 5)
        return ("", c.name, c.of, "", label(unit) if unit else "", c.meaning)[column]

    def tip(self, row: int, column: int) -> str:
        return f"{self._shown[row].key}: {self._shown[row].meaning}"

    def bold(self, row: int, column: int) -> bool:
        return column in (0, 1) and self._shown[row].key in self._chosen

    def left_aligned(self, column: int) -> bool:
        return column in (1, 2, 4, 5)

    def muted(self, row: int, column: int) -> bool:
        return column in (4, 5)
