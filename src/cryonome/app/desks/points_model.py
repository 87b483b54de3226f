"""The grid of a boiling-point curve: percents and temperatures in any unit."""

from __future__ import annotations

from PySide6.QtCore import Qt

from ...document import Fault, Sample
from ...document.edits import clean_points, update_sample
from ...document.sample_points import temperature_unit
from ...units import QuantityError, label, normal_unit, split
from ..fields import shown_text
from ..grid import GridModel
from ..live import Live

SPARE = 1
"""Empty rows kept below the last point, to type into."""


class PointsModel(GridModel):
    """Rows of the selected sample's curve, with an empty row below."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._points: tuple = ()
        self._faults: dict[tuple[int, int], Fault] = {}
        self.unit = "degC"

    def show(self, sample: Sample | None, faults: list[Fault]) -> None:
        """Show a sample's points and the faults at them."""
        points = sample.distillation.points if sample else ()
        same_size = len(points) == len(self._points)
        self._points = points
        self.unit = temperature_unit(sample) if sample else "degC"
        self._faults = {}
        for fault in faults:
            if "points" in fault.path and len(fault.path) >= 2 and fault.path[-1] != "points":
                row, column = fault.path[-2], fault.path[-1]
                if isinstance(row, int) and isinstance(column, int):
                    self._faults[row, column] = fault
        if same_size:
            self.rewrite()
            self.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, 1)
        else:
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [("distilled", "vol%"), ("boiling point", label(self.unit))]

    def rows(self) -> int:
        return len(self._points) + SPARE

    def text(self, row: int, column: int) -> str:
        if row >= len(self._points):
            return ""
        cell = self._points[row][column]
        if column == 0:
            return "" if cell is None else f"{cell:g}" if isinstance(cell, (int, float)) else str(cell)
        return shown_text(cell, self.unit, "temperature")

    def fault(self, row: int, column: int) -> str:
        fault = self._faults.get((row, column))
        return fault.message if fault else ""

    def editable(self, row: int, column: int) -> bool:
        return bool(self._live.sample_name)

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        rows = [list(p) for p in self._points]
        for (row, column), value in cells.items():
            while row >= len(rows):
                rows.append([None, None])
            if column < 2:
                rows[row][column] = self._stored(column, value)
        self._keep(rows, text)

    def _stored(self, column: int, value: str, unit: str | None = None) -> float | str | None:
        value = value.strip()
        if not value:
            return None
        try:
            number, own_unit = split(value)
        except QuantityError:
            return value
        if column == 0:
            return number if own_unit in ("", "%") else value
        return f"{number:.10g} {unit or self.unit}" if not own_unit else value

    def paste(self, row: int, column: int, block: list[list[str]]) -> None:
        """Take a block; a header row is recognised, its unit read, and a two-column block at the top is a new curve."""
        unit = None
        header = block and not any(_is_number(c) for c in block[0])
        if header:
            unit = _header_unit(block[0])
            block = block[1:]
        block = [line for line in block if any(c.strip() for c in line)]
        if not block:
            return
        width = max(len(line) for line in block)
        whole = width >= 2 and row == 0 and len(block) >= 5
        start = 0 if width >= 2 else column
        rows: list[list] = [] if whole else [list(p) for p in self._points]
        for i, line in enumerate(block):
            while row + i >= len(rows):
                rows.append([None, None])
            for j, value in enumerate(line[:2]):
                if start + j < 2:
                    rows[row + i][start + j] = self._stored(start + j, value, unit)
        self._keep(rows, "Paste a curve" if whole else "Paste")

    def _keep(self, rows: list[list], text: str) -> None:
        points = clean_points([(r[0], r[1]) for r in rows])
        name = self._live.sample_name

        def change(sample: Sample) -> Sample:
            curve = sample.distillation.model_copy(update={"points": points})
            return sample.model_copy(update={"distillation": curve})

        self._live.store.edit(text, lambda d: update_sample(d, name, change))

    def insert_row(self, row: int) -> None:
        """Insert an empty row."""
        rows = [list(p) for p in self._points]
        rows.insert(row, [None, None])
        self._keep([*rows, ["", ""]] if row >= len(self._points) else rows, "Insert a row")

    def delete_rows(self, chosen: set[int]) -> None:
        """Delete rows."""
        self._keep([list(p) for i, p in enumerate(self._points) if i not in chosen], "Delete rows")


def _is_number(text: str) -> bool:
    try:
        split(text)
    except QuantityError:
        return False
    return True


def _header_unit(cells: list[str]) -> str | None:
    """Return the temperature unit named in a header row, if one is."""
    for cell in cells:
        inside = cell.replace("[", "(").replace("]", ")").split("(")
        for piece in (inside[-1].rstrip(") "), *cell.replace(",", " ").split()):
            unit = normal_unit(piece.strip("()[] "))
            if unit in ("degC", "degF", "K", "degR"):
                return unit
    return None
