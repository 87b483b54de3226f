"""A page on a question as a sheet: its sentence, its answer as one, and picture and table side by side."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from ....document import Study
from ....document.faults import format_path
from ....results.hydrates import HydrateLines
from ....telling.answers import tables
from ....telling.table_blocks import Block
from ...shell.live import Live
from ...widgets.fields import capital, link, section
from ...widgets.grid import GridView
from ...widgets.letters import sized
from ...widgets.plot import Plot
from .answer_model import AnswerModel, fill_width
from .columns import Columns
from .hydrate_fan import LOOKED_AT
from .map_picture import Frame
from .rows_model import RowsModel, lists_of
from .study_desk import StudyDesk, row_of, side_by_side

SETTLE = 40
"""ms after the last change of a view before labels are placed anew."""

LISTS = 2
"""Lists of parts that a question may have below its sentence."""


class SheetDesk(StudyDesk):
    """A page on questions of ``kinds``; subclasses draw them."""

    name = ""
    pictures = 1
    across = False
    """Whether the pictures stand side by side."""
    skipped = ""
    """A list of the question that has a table of its own."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.notes = section("", "mute")
        self.notes.setWordWrap(True)
        self.shown = AnswerModel()
        self.shown.on_unit = lambda key, unit: live.set_unit(self.study(), key, unit)
        self.answer_grid = GridView(self.shown)
        self.answer_grid.setAccessibleName("The answer")
        self.columns = Columns(self.answer_grid, self.shown)
        self.plots = [Plot(self.name if i == 0 else f"{self.name} {i + 1}") for i in range(self.pictures)]
        self.rows = [RowsModel(live) for _ in range(LISTS)]
        self.row_heads = [section("") for _ in self.rows]
        self.row_grids = [GridView(m) for m in self.rows]
        self.grids = [self.answer_grid, *self.row_grids]
        self.bar.rows_asked.connect(self._show_rows)
        self._arrange()

    notes_head: QLabel | None = None
    """What stands above the notes, on pages where they are always seen."""

    def extras(self, column: QVBoxLayout) -> None:
        """Add what a page has of its own between table and notes."""

    def below(self, column: QVBoxLayout) -> None:
        """Add what a page has of its own below its pictures."""

    def _arrange(self) -> None:
        self.left = QWidget()
        left = QVBoxLayout(self.left)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(8)
        plots = QHBoxLayout() if self.across else QVBoxLayout()
        plots.setSpacing(8)
        for plot in self.plots:
            plots.addWidget(plot, 1)
        left.addLayout(plots, 1)
        self.below(left)
        self.side = QWidget()
        side = QVBoxLayout(self.side)
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(6)
        for head, grid in zip(self.row_heads, self.row_grids):
            side.addWidget(head)
            side.addWidget(grid, 2)
        self.table_head = section("")
        actions = row_of(self.table_head)
        actions.addWidget(link("columns", self._choose_columns, "Choose, sort and move the columns"))
        actions.addWidget(link("copy", self._copy, "Copy the whole table with its headers, in full precision"))
        actions.addWidget(link("save", self.export, "Write the answer as CSV or as a workbook"))
        side.addLayout(actions)
        side.addWidget(self.answer_grid, 5)
        self.extras(side)
        self.notes_head = section("Assumed")
        side.addWidget(self.notes_head)
        side.addWidget(self.scrolled_notes(40), 1)
        self.body = side_by_side(self.left, self.side, (3, 2), (620, 400))
        self.lay_out(self.body)

    def scrolled_notes(self, least: int) -> QScrollArea:
        """Return the notes in an area that scrolls, of so many pixels at the least."""
        area = QScrollArea()
        area.setObjectName("bare")
        area.setWidgetResizable(True)
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        self.notes.setAlignment(Qt.AlignmentFlag.AlignTop)
        area.setWidget(self.notes)
        area.setMinimumHeight(least)
        return area

    def _choose_columns(self) -> None:
        menu = self.columns.menu(-1)
        menu.exec(self.answer_grid.mapToGlobal(self.answer_grid.rect().topLeft()))

    def _copy(self) -> None:
        self.answer_grid.copy_all()
        self.answer_grid.copied.emit("Table copied")

    def _show_rows(self, key: str) -> None:
        """Go to the rows of a list of the question."""
        for model, grid in zip(self.rows, self.row_grids):
            if model.key == key and grid.isVisible():
                grid.setFocus()
                return
        self.focus_rows(key)

    def focus_rows(self, key: str) -> None:
        """Go to a list that has a table of its own."""

    def frame(self) -> Frame:
        """Return the axes of pictures in temperature and pressure: those of the map."""
        units = self._live.units()
        display = self._live.document.display.map
        return Frame(
            display.temperature or units.unit("temperature"),
            display.pressure or units.unit("pressure"),
            display.logarithmic,
        )

    def refresh(self) -> None:
        """Show the question."""
        study = self.show_head()
        live = self._live
        self.body.setVisible(study is not None)
        if study is None:
            self._wipe()
            return
        shown = live.answer(study.name)
        faults = {format_path(f.path[2:]): f.message for f in shown.faults if len(f.path) > 2}
        self._show_lists(study, faults)
        value = shown.value or {}
        answer = self.answer()
        notes = "\n".join(value.get("notes", []))
        self.notes.setText(notes)
        if self.notes_head is not None:
            self.notes_head.setVisible(bool(notes))
        self.shown.show(self.blocks(answer) if answer is not None else [], study.name, live.units_of(study))
        self.answer_grid.horizontalHeader().setVisible(any(name for name, _ in self.shown.titles()))
        fill_width(self.answer_grid)
        self._fit_table()
        for plot in self.plots:
            plot.set_faint(shown.old)
        told = not self.told.isHidden()
        if told or answer is None:
            # What was drawn is of another question or of no answer: nothing of it may stay.
            self._wipe()
        else:
            self.draw(study, answer)

    def _fit_table(self) -> None:
        """Give the table no more height than its rows need."""
        rows = self.shown.rows()
        high = sum(self.answer_grid.rowHeight(r) for r in range(min(rows, 60)))
        self.answer_grid.setMaximumHeight(high + self.answer_grid.horizontalHeader().height() + 16 if rows else 40)

    def _show_lists(self, study: Study, faults: dict[str, str]) -> None:
        """Show the lists of a question, each a table with room for one more row."""
        lists = [(n, p) for n, p in lists_of(type(study)) if n != self.skipped][:LISTS]
        for i, (model, head, grid) in enumerate(zip(self.rows, self.row_heads, self.row_grids)):
            there = i < len(lists)
            head.setVisible(there)
            grid.setVisible(there)
            name, part = lists[i] if there else ("", None)
            head.setText(capital(name.replace("_", " ")).rstrip("."))
            grid.setAccessibleName(name.replace("_", " "))
            model.show(study if there else None, name, part, faults)
            if there:
                sized(grid, most_height=32 * (model.rows() + 1) + 12)

    def _wipe(self) -> None:
        for plot in self.plots:
            plot.wipe()

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return the answer as it stands in the grid."""
        found = tables(self.listed(answer), self._live.units_of(self.study()))
        # Tables that have a row for each thing come first, since they are what is read.
        return sorted(found, key=lambda b: not any(name for name, _ in b.columns))

    def listed(self, answer: dict[str, Any]) -> dict[str, Any]:
        """Return what of an answer stands in the grid."""
        return answer

    def draw(self, study: Study, answer: dict[str, Any] | None) -> None:
        """Draw the answer."""
        raise NotImplementedError


class FanDesk(SheetDesk):
    """A page with the hydrate limits of its question by dose: asks for them while it is seen, and labels once the
    view has come to rest."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self.draw_labels)
        self.plots[0].box.sigRangeChanged.connect(lambda *_: self._settle.start(SETTLE))

    def lines(self) -> HydrateLines | None:
        """Return the limits of the question, None until they are there."""
        value = self._live.results["hydrate fan"].value
        return value if isinstance(value, HydrateLines) else None

    def main(self, study: Study, lines: HydrateLines) -> int:
        """Return the place of the dose asked among the lines', 0 where none is."""
        return int(len(lines.doses) > 1 and bool(getattr(self._live.asked(study), "dose", ())))

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._live.want(LOOKED_AT, "", "hydrate fan")

    def refresh(self) -> None:
        self._look()
        study = self.study()
        self._live.want(LOOKED_AT, study.name if study is not None else "", "hydrate fan")
        super().refresh()
        self._settle.start(0)

    def draw_labels(self) -> None:
        """Place labels where there is room for them now."""
        raise NotImplementedError
