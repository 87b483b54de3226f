"""The tables of the page *Match*: the fit with its bounds, and the report of a test as it was measured."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from ....document.field_types import Cell
from ....document.model import Measured
from ....document.reader import plain_cell, united_cell
from ....matching.match_view import TITLES
from ....telling.sentences import Units
from ....telling.table_blocks import Shown, of_key
from ....units import fixed, format_number, label
from ...widgets.fields import shown_text
from ...widgets.grid import GridModel


class FitModel(GridModel):
    """A row a parameter: what it was, what it is, where it likely lies, and its bounds, which can be typed."""

    def __init__(self, store: Callable[[int, int, float], None]) -> None:
        super().__init__()
        self._store = store
        self._rows: list[Mapping[str, Any]] = []

    def show(self, parameters: list[Mapping[str, Any]]) -> None:
        """Show the parameters of an answer."""
        same = len(parameters) == len(self._rows)
        self._rows = parameters
        if same:
            self.rewrite()
        else:
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [
            ("parameter", ""),
            ("was", ""),
            ("is", ""),
            ("likely between", ""),
            ("from", ""),
            ("to", ""),
        ]

    def rows(self) -> int:
        return len(self._rows)

    def text(self, row: int, column: int) -> str:
        p = self._rows[row]
        if column == 0:
            return str(p["label"])
        if column in (1, 2):
            return _number(p["start"] if column == 1 else p["value"])
        if column == 3:
            low, high = p["interval"]
            return "nothing tells" if low is None or high is None else f"{_number(low)} – {_number(high)}"
        return f"{p['between'][column - 4]:.4g}".replace("-", "−")

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def muted(self, row: int, column: int) -> bool:
        return column == 1

    def bold(self, row: int, column: int) -> bool:
        return column == 2

    def editable(self, row: int, column: int) -> bool:
        return column >= 4

    def fault(self, row: int, column: int) -> str:
        if not self._rows[row]["at_bound"] or column < 4:
            return ""
        value, bound = self._rows[row]["value"], self._rows[row]["between"][column - 4]
        other = self._rows[row]["between"][5 - column]
        return (
            "the fit ended at this bound: the data pull it further" if abs(value - bound) < abs(value - other) else ""
        )

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        for (row, column), value in cells.items():
            cell = plain_cell(value)
            if column >= 4 and isinstance(cell, (int, float)) and row < len(self._rows):
                self._store(row, column - 4, float(cell))


def _number(value: float) -> str:
    return fixed(value, 3) if abs(value) < 10 else format_number(value, 4)


class ReportModel(GridModel):
    """The report of a test: its places at the left, a column for each measured key; cells are typed or pasted, in any
    unit."""

    def __init__(self, store: Callable[[dict[str, Any], str], None]) -> None:
        super().__init__()
        self._store = store
        self._study: Measured | None = None
        self._along = ""
        self._units: Units | None = None
        self._keys: list[str] = []
        self._faults: dict[tuple[str, int], str] = {}

    def show(
        self,
        study: Measured | None,
        along: str,
        keys: tuple[str, ...],
        units: Units,
        faults: Mapping[tuple[str, int], str],
    ) -> None:
        """Show a test with columns for the keys measured of its rows, and those that usually are."""
        measured = study.measured if study is not None else {}
        rows = [k for k, v in measured.items() if isinstance(v, tuple)]
        self._study, self._along, self._units = study, along, units
        self._faults = dict(faults)
        self._keys = [*rows, *(k for k in keys if k not in rows)]
        self.reload()

    def places(self) -> tuple[str, tuple[Cell, ...]]:
        """Return the key of the study that holds the places, and them."""
        for key in ("pressures", "gas_moles"):
            cells = getattr(self._study, key, None)
            if isinstance(cells, tuple):
                return key, cells
        return "", ()

    def _shown(self, column: int) -> Shown:
        assert self._units is not None
        return of_key(self._along if column == 0 else self._keys[column - 1], self._units.of_states())

    def titles(self) -> list[tuple[str, str]]:
        if self._study is None or self._units is None:
            return []
        out = []
        for column in range(len(self._keys) + 1):
            shown = self._shown(column)
            key = self._along if column == 0 else self._keys[column - 1]
            out.append((TITLES.get(key, shown.name), label(shown.unit) if shown.unit else ""))
        return out

    def rows(self) -> int:
        if self._study is None:
            return 0
        stages = getattr(self._study, "stages", None)
        return len(stages) if stages is not None else len(self.places()[1]) + 1

    def _cell(self, row: int, column: int) -> Cell:
        if column == 0:
            stages = getattr(self._study, "stages", None)
            if stages is not None:
                found: Cell = stages[row].pressure
                return found
            cells = self.places()[1]
            return cells[row] if row < len(cells) else None
        values = self._study.measured.get(self._keys[column - 1], ()) if self._study is not None else ()
        return values[row] if isinstance(values, tuple) and row < len(values) else None

    def text(self, row: int, column: int) -> str:
        cell, shown = self._cell(row, column), self._shown(column)
        if isinstance(cell, str) and not shown.kind and "%" in cell:
            return cell
        return shown_text(cell, shown.unit, shown.kind) if cell is not None else ""

    def edit_text(self, row: int, column: int) -> str:
        cell = self._cell(row, column)
        return "" if cell is None else str(cell)

    def editable(self, row: int, column: int) -> bool:
        return column > 0 or bool(self.places()[0])

    def fault(self, row: int, column: int) -> str:
        return self._faults.get((self._along if column == 0 else self._keys[column - 1], row), "")

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        study = self._study
        if study is None:
            return
        name, places = self.places()
        rows = list(places)
        count = max([len(rows), *(r + 1 for r, _ in cells)]) if name else self.rows()
        measured = {
            k: [*(v if isinstance(v, tuple) else ()), *[None] * count][:count]
            for k, v in study.measured.items()
            if isinstance(v, tuple)
        }
        rows += [None] * (count - len(rows))
        for (row, column), value in cells.items():
            if column > len(self._keys) or row >= count:
                continue
            cell = united_cell(value, self._shown(column).unit) if self._shown(column).unit else plain_cell(value)
            if column == 0:
                rows[row] = cell
            else:
                measured.setdefault(self._keys[column - 1], [None] * count)[row] = cell
        kept = [
            i
            for i in range(count)
            if not name or rows[i] is not None or any(v[i] is not None for v in measured.values())
        ]
        changed: dict[str, Any] = {}
        if name:
            changed[name] = tuple(rows[i] for i in kept)
        singles = {k: v for k, v in study.measured.items() if not isinstance(v, tuple)}
        columns = {k: tuple(v[i] for i in kept) for k, v in measured.items() if any(c is not None for c in v)}
        changed["measured"] = {**singles, **columns}
        self._store(changed, text)
