"""An answer as its tables in one grid."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QHeaderView

from ....telling.sentences import Units
from ....telling.table_blocks import Block
from ....units import KINDS, exact
from ....units.endings import kind_of_key, last_key
from ...widgets.grid import GridModel, GridView, Index


def fill_width(grid: GridView) -> None:
    """Let the first column take the room that the others leave; a table that is wider than its grid scrolls."""
    header = grid.horizontalHeader()
    header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    if header.count() and header.length() < grid.viewport().width():
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
    model = grid.model()
    if isinstance(model, AnswerModel):
        _spread_sentences(grid, model)


def _spread_sentences(grid: GridView, model: AnswerModel) -> None:
    """Let each sentence have all columns, in as many lines as it needs."""
    grid.clearSpans()
    width = min(grid.viewport().width(), grid.horizontalHeader().length()) - 12
    usual = grid.verticalHeader().defaultSectionSize()
    for row in range(model.rows()):
        high = usual
        if row in model.sentences:
            grid.setSpan(row, 0, 1, model.columnCount())
            room = grid.fontMetrics().boundingRect(0, 0, max(width, 80), 10_000, int(Qt.TextFlag.TextWordWrap), model.text(row, 0))  # fmt: skip
            high = max(usual, room.height() + 8)
        if grid.rowHeight(row) != high:
            grid.setRowHeight(row, high)


SENTENCE = 48
"""Letters above which a text has a row of its own below what it is about, across all columns."""
LONG = 8
"""Letters above which a text without digits is words, not a name in a column of numbers."""


class AnswerModel(GridModel):
    """An answer as its tables, one below the other in one grid, in the reader's units."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: list[list[str]] = []
        self._heads: frozenset[int] = frozenset()
        self._named: frozenset[int] = frozenset()
        self._width = 2
        self._worded: frozenset[int] = frozenset()
        self.sentences: frozenset[int] = frozenset()
        """Rows that are one text across all columns."""
        self._shown: list[tuple[str, str]] = []
        self._study = ""
        self._paths: dict[tuple[int, int], str] = {}
        self.units = Units.of("metric")
        self.on_unit: Callable[[str, str], None] | None = None
        self.sorted_by: tuple[int, bool] | None = None
        self._given: tuple[list[Block], str, Units] = ([], "", self.units)

    def sort_by(self, wanted: tuple[int, bool] | None) -> None:
        """Sort the first table by a column, the largest first where told so; by none as the answer has it."""
        self.sorted_by = wanted
        self.show(*self._given)

    def _sorted(self, block: Block) -> Block:
        """Return a table in the order that was chosen: numbers by their size, before words."""
        if self.sorted_by is None or self.sorted_by[0] >= len(block.columns):
            return block
        column, descending = self.sorted_by

        def key(i: int) -> tuple[bool, float, str]:
            text = block.rows[i][column] if column < len(block.rows[i]) else ""
            try:
                value = float(exact(text).replace("−", "-"))
            except ValueError:
                return True, 0.0, text.casefold()
            return False, -value if descending else value, ""

        order = sorted(range(len(block.rows)), key=key)
        paths = [block.paths[i] for i in order] if block.paths else []
        return Block(block.title, block.columns, [block.rows[i] for i in order], paths)

    def unit_of_column(self, column: int) -> tuple[str, str] | None:
        """Return the kind of quantity of a column and the unit chosen for it, None where it has none of its own."""
        path = next((p for (_, c), p in sorted(self._paths.items()) if c == column), None)
        if (
            path is None
            or self.on_unit is None
            or not self._shown
            or column >= len(self._shown)
            or not self._shown[column][1]
        ):
            return None
        kind, _ = kind_of_key(path)
        return (kind, self.units.by_key.get(last_key(path), "")) if kind in KINDS else None

    def set_unit_of_column(self, column: int, unit: str) -> None:
        """Show a column in another unit, "" for the usual one."""
        path = next((p for (_, c), p in sorted(self._paths.items()) if c == column), None)
        if path is not None and self.on_unit is not None:
            self.on_unit(last_key(path), unit)

    def show(self, blocks: list[Block], study: str = "", units: Units | None = None) -> None:
        """Show the tables of a question's answer, made in ``units``."""
        self.units = units or self.units
        if study != self._study:
            self.sorted_by = None
        self._given = blocks, study, self.units
        if blocks:
            blocks = [self._sorted(blocks[0]), *blocks[1:]]
        self._study = study
        self._paths = {}
        rows: list[list[str]] = []
        heads: set[int] = set()
        named: set[int] = set()
        width = max((len(b.columns) for b in blocks), default=2)
        # The first table's heads are those of the grid, so that they stay in sight.
        first = blocks[0] if blocks and any(n for n, _ in blocks[0].columns) else None
        shown = [*first.columns, *[("", "")] * (width - len(first.columns))] if first is not None else []
        if shown != self._shown:
            self._shown = shown
            self._rows = []
        for block in blocks:
            if block.title and not (block is first and len(blocks) == 1):
                heads.add(len(rows))
                rows.append([block.title[0].upper() + block.title[1:]])
            if block is first:
                named.update(range(len(rows), len(rows) + len(block.rows)))
                self._remember(block, len(rows))
                rows += block.rows
            elif any(name for name, _ in block.columns):
                heads.add(len(rows))
                rows.append([f"{name}, {unit}" if unit else name for name, unit in block.columns])
                named.update(range(len(rows), len(rows) + len(block.rows)))
                self._remember(block, len(rows))
                rows += block.rows
            else:
                self._remember(block, len(rows))
                # Units stand in the last column of all.
                rows += [[*row[:-1], *[""] * (width - len(row)), row[-1]] for row in block.rows]
        rows = self._unfolded(rows, heads, named)
        self._worded = _worded(rows, heads | self.sentences, width)
        same = len(rows) == len(self._rows) and width == self._width
        self._rows, self._heads, self._named, self._width = rows, frozenset(heads), frozenset(named), width
        if same:
            self.rewrite()
        else:
            self.reload()

    def _unfolded(self, rows: list[list[str]], heads: set[int], named: set[int]) -> list[list[str]]:
        """Return the rows with each sentence on a row of its own below them, and keep what is known by the row."""
        out: list[list[str]] = []
        places: list[int] = []
        sentences: set[int] = set()
        for row in rows:
            places.append(len(out))
            out.append(["" if len(text) > SENTENCE else text for text in row])
            for text in row:
                if len(text) > SENTENCE:
                    sentences.add(len(out))
                    out.append([text])
        for known in (heads, named):
            moved = {places[i] for i in known}
            known.clear()
            known |= moved
        self._paths = {(places[i], j): path for (i, j), path in self._paths.items()}
        self.sentences = frozenset(sentences)
        return out

    def data(self, index: Index, role: int = 0) -> object:
        if role == Qt.ItemDataRole.SizeHintRole and index.isValid() and index.row() in self.sentences:
            # It takes the width there is, and makes no column wider.
            return QSize(0, 0)
        return super().data(index, role)

    def _remember(self, block: Block, first: int) -> None:
        for i, paths in enumerate(block.paths):
            self._paths |= {(first + i, j): path for j, path in enumerate(paths) if path}

    def answer_path(self, row: int, column: int) -> tuple[str, str] | None:
        path = self._paths.get((row, column))
        return None if path is None or not self._study else (self._study, path)

    def titles(self) -> list[tuple[str, str]]:
        return self._shown or [("", "")] * self._width

    def _path_in(self, row: int, column: int) -> str | None:
        """Return the path of a cell's number; a unit is that of the numbers in its row."""
        own = self._paths.get((row, column))
        if own is not None or not self.unit_cell(row, column):
            return own
        return next((p for (r, _), p in self._paths.items() if r == row), None)

    def unit_cell(self, row: int, column: int) -> bool:
        last = row < len(self._rows) and column == len(self._rows[row]) - 1 > 1
        return last and row not in self._heads and row not in self._named and bool(self._rows[row][column])

    def unit_of(self, row: int, column: int) -> tuple[list[str], str] | None:
        path = self._path_in(row, column)
        kind, _ = kind_of_key(path) if path is not None else ("", 1.0)
        if path is None or kind not in KINDS or self.on_unit is None:
            return None
        return ["", *KINDS[kind].units], self.units.of_states().of_value(path, kind)

    def set_unit(self, row: int, column: int, unit: str) -> None:
        path = self._path_in(row, column)
        if path is not None and self.on_unit is not None:
            self.on_unit(last_key(path), unit)

    def rows(self) -> int:
        return len(self._rows)

    def text(self, row: int, column: int) -> str:
        cells = self._rows[row]
        return cells[column] if column < len(cells) else ""

    def left_aligned(self, column: int) -> bool:
        return column == 0 or column in self._worded

    def bold(self, row: int, column: int) -> bool:
        return row in self._heads

    def muted(self, row: int, column: int) -> bool:
        units = row not in self._heads and row not in self._named
        return units and column > 0 and column == len(self._rows[row]) - 1 > 1


def _worded(rows: list[list[str]], heads: set[int], width: int) -> frozenset[int]:
    """Return the columns that hold words rather than numbers."""
    out = set()
    for column in range(width):
        cells = [r[column] for i, r in enumerate(rows) if i not in heads and column < len(r) and r[column]]
        words = sum(len(c) > LONG and not any(ch.isdigit() for ch in c[:2]) for c in cells)
        if cells and words > len(cells) / 2:
            out.add(column)
    return frozenset(out)
