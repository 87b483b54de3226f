"""Columns of an answer's table: hidden, shown, moved, sorted, and their unit changed, from the header."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QMenu

from ....units import KINDS, label
from ...widgets.grid import GridView
from .answer_model import AnswerModel


class Columns:
    """What the header of a grid offers. What is hidden is kept by the head of the column, so that it stays hidden in
    the next answer of the kind."""

    def __init__(self, grid: GridView, model: AnswerModel) -> None:
        self._grid, self._model = grid, model
        self.hidden: set[str] = set()
        header = grid.horizontalHeader()
        header.setSectionsMovable(True)
        header.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        header.customContextMenuRequested.connect(self._asked)
        grid.unit_clicked.connect(self._clicked)
        model.modelReset.connect(self.apply)

    def _asked(self, at: QPoint) -> None:
        header = self._grid.horizontalHeader()
        self.menu(header.logicalIndexAt(at)).exec(header.mapToGlobal(at))

    def _clicked(self, column: int, at: QPoint) -> None:
        """A click on a header offers the units of its column; where it has none it sorts."""
        menu = self.units_menu(column)
        if menu is not None:
            menu.exec(at)
        else:
            self.sort(column)

    def menu(self, column: int) -> QMenu:
        """Return what can be done with a column."""
        menu = QMenu(self._grid)
        if column >= 0:
            menu.addAction("Sort, smallest first", partial(self.sort, column, False))
            menu.addAction("Sort, largest first", partial(self.sort, column, True))
            if self._model.sorted_by is not None:
                menu.addAction("In the answer's order", partial(self.sort, None))
            units = self.units_menu(column)
            if units is not None:
                units.setTitle("Unit")
                menu.addMenu(units)
            menu.addSeparator()
            menu.addAction("Hide this column", partial(self.hide, column))
        shown = menu.addMenu("Columns")
        for i, (title, unit) in enumerate(self._model.titles()):
            if title:
                action = shown.addAction(f"{title}, {unit}" if unit else title)
                action.setCheckable(True)
                action.setChecked(title not in self.hidden)
                # A partial would be called without the tick.
                action.triggered.connect(lambda on, column=i: self._turn(column, on))
        return menu

    def units_menu(self, column: int) -> QMenu | None:
        """Return the units a column may be shown in, None where it has none."""
        found = self._model.unit_of_column(column)
        if found is None:
            return None
        menu = QMenu(self._grid)
        kind, now = found
        for unit in ("", *KINDS[kind].units):
            action = menu.addAction(label(unit) if unit else "as usual")
            action.setCheckable(True)
            action.setChecked(unit == now)
            action.triggered.connect(partial(self._set_unit, column, unit))
        return menu

    def _set_unit(self, column: int, unit: str, _on: bool = True) -> None:
        self._model.set_unit_of_column(column, unit)

    def _turn(self, column: int, on: bool) -> None:
        if on:
            self.hidden.discard(self._model.titles()[column][0])
            self.apply()
        else:
            self.hide(column)

    def hide(self, column: int) -> None:
        """Hide a column, unless it is the last one seen."""
        if len(self.seen()) > 1:
            self.hidden.add(self._model.titles()[column][0])
            self.apply()

    def seen(self) -> list[int]:
        """Return the columns that are seen, in the order they stand in."""
        header = self._grid.horizontalHeader()
        order = [header.logicalIndex(i) for i in range(header.count())]
        return [c for c in order if not self._grid.isColumnHidden(c)]

    def sort(self, column: int | None, descending: bool | None = None) -> None:
        """Sort the rows by a column: a second time the other way round; by none as the answer has them."""
        now = self._model.sorted_by
        if column is not None and descending is None:
            descending = now is not None and now[0] == column and not now[1]
        self._model.sort_by(None if column is None else (column, bool(descending)))

    def apply(self) -> None:
        """Hide what is to be hidden in the table that is shown now."""
        for i, (title, _) in enumerate(self._model.titles()):
            self._grid.setColumnHidden(i, bool(title) and title in self.hidden)
