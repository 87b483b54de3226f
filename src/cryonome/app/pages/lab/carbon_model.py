"""The grid of a carbon-number analysis."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ....characterization.methods import CARBON, METHODS
from ....document import Fault, Sample
from ....document.reader import cell_text, plain_cell, united_cell
from ....exchange.columns import column_meaning, column_unit
from ....exchange.entries import is_header
from ....units import SETS, label
from ...shell.live import Live
from ...widgets.fields import shown_text
from ...widgets.grid import GridModel
from .sheet_model import BASIS_LABELS, SPARE, is_empty


class CarbonModel(GridModel):
    """Rows of a carbon-number analysis: component or group, percent, and molar mass and density where measured."""

    KEYS = ("name", "amount", "molar_mass", "density")

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._rows: list[list[Any]] = []
        self._faults: dict[tuple[int, int], Fault] = {}
        self._units = {"molar_mass": "g/mol", "density": "kg/m**3"}
        self._basis = "mass"
        self._name = ""

    def show(self, sample: Sample | None, faults: Sequence[Fault]) -> None:
        """Show a sample's analysis and the faults at its rows."""
        before = len(self._rows)
        self._rows = [[*r, None, None, None, None][:4] for r in sample.distillation.amounts] if sample else []
        self._name = sample.name if sample else ""
        own = SETS[self._live.document.display.units]
        if sample is not None:
            self._basis = sample.distillation.basis or METHODS[CARBON].basis
            self._units = {k: getattr(sample.display, k) or own[k] for k in ("molar_mass", "density")}
        self._faults = {}
        for fault in faults:
            if len(fault.path) == 6 and fault.path[2:4] == ("distillation", "amounts"):
                self._faults.setdefault((int(fault.path[4]), int(fault.path[5])), fault)
        if before == len(self._rows):
            self.rewrite()
        else:
            self.reload()

    def place(self, fault: Fault) -> tuple[int, int] | None:
        """Return row and column of the cell a fault is of, None where it is of none."""
        return next((place for place, own in self._faults.items() if own == fault), None)

    def titles(self) -> list[tuple[str, str]]:
        return [
            ("group", ""),
            ("amount", BASIS_LABELS[self._basis]),
            ("molar mass", label(self._units["molar_mass"])),
            ("density", label(self._units["density"])),
        ]

    def rows(self) -> int:
        return len(self._rows) + SPARE

    def text(self, row: int, column: int) -> str:
        cell = self._rows[row][column] if row < len(self._rows) else None
        if column < 2:
            return cell_text(cell)
        key = self.KEYS[column]
        return shown_text(cell, self._units[key], key)

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def fault(self, row: int, column: int) -> str:
        fault = self._faults.get((row, column))
        return fault.message if fault else ""

    def editable(self, row: int, column: int) -> bool:
        return bool(self._live.sample_name)

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        rows = [list(r) for r in self._rows]
        for (row, column), value in cells.items():
            while row >= len(rows):
                rows.append([None] * 4)
            if column < 4:
                rows[row][column] = self._stored(column, value)
        self._keep(rows, text)

    def _stored(self, column: int, value: str, unit: str | None = None) -> float | str | None:
        if column == 0:
            return value.strip() or None
        return plain_cell(value) if column == 1 else united_cell(value, unit or self._units[self.KEYS[column]])

    def paste(self, row: int, column: int, block: list[list[str]]) -> None:
        """Take a block; a header row tells columns and units; a wide block at the top is a new analysis."""
        header = block[0] if block and is_header(block[0]) and len(block[0]) > 1 else None
        block = [line for line in (block[1:] if header else block) if any(c.strip() for c in line)]
        if not block:
            return
        width = max(len(line) for line in block)
        whole = width >= 2 and row == 0 and column == 0 and len(block) >= 5
        targets: list[int] = [column + j for j in range(width)]
        units: dict[int, str] = {}
        for j, cell in enumerate(header or ()):
            what = column_meaning(cell)
            if what in self.KEYS:
                targets[j] = self.KEYS.index(what)
            elif what == "percent":
                targets[j] = 1
            unit = column_unit(cell)
            if unit:
                units[j] = unit
        rows = [] if whole else [list(r) for r in self._rows]
        for i, line in enumerate(block):
            while row + i >= len(rows):
                rows.append([None] * 4)
            for j, value in enumerate(line):
                if j < len(targets) and targets[j] < 4:
                    rows[row + i][targets[j]] = self._stored(targets[j], value, units.get(j))
        self._keep(rows, "Paste an analysis" if whole else "Paste")

    def replaced(self, block: list[list[str]]) -> str:
        """Return in words what a pasted block would replace."""
        wide = max((len(line) for line in block), default=0) >= 2 and len(block) >= 5
        return f"the {len(self._rows)} rows" if wide and any(not is_empty(c) for r in self._rows for c in r) else ""

    def _keep(self, rows: list[list[Any]], text: str) -> None:
        while rows and all(is_empty(c) for c in rows[-1]):
            rows.pop()
        amounts = tuple(_short(r) for r in rows)
        self._live.set_sample(text, ("distillation", "amounts"), amounts, name=self._name)

    def insert_row(self, row: int) -> None:
        """Insert an empty row."""
        rows = [list(r) for r in self._rows]
        rows.insert(row, [None] * 4)
        self._keep(rows, "Insert a row")

    def delete_rows(self, chosen: set[int]) -> None:
        """Delete rows."""
        self._keep([list(r) for i, r in enumerate(self._rows) if i not in chosen], "Delete rows")


def _short(row: list[Any]) -> tuple[Any, ...]:
    """Return a row without empty cells at its end, a name and an amount at least."""
    row = list(row)
    while len(row) > 2 and is_empty(row[-1]):
        row.pop()
    return tuple(row)
