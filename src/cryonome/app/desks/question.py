"""The page *Question*: a kept question of any kind, what it asks and its answer in full."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QHeaderView, QLabel, QVBoxLayout, QWidget

from ...document import Study
from ...document.faults import format_path
from ...document.kinds import study_kinds
from ...document.model import Part
from ...document.references import asks_another
from ...errors import DomainError
from ...exchange.table_files import write_answer
from ...studies.answers import tables
from ...studies.fluid_lumping import taken_over
from ...studies.sentences import Units
from ...studies.table_blocks import Block
from ...units import KINDS
from ...units.endings import kind_of_key, last_key
from ..fields import capital, elided, section
from ..grid import GridModel, GridView
from ..live import Live
from .asks_model import AsksModel, fit_asks
from .desk import Action, Desk, DeskEntry, register
from .rows_model import RowsModel, lists_of


def fill_width(grid: GridView) -> None:
    """Let the first column take the room that the others leave; a table that is wider than its grid scrolls."""
    header = grid.horizontalHeader()
    header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    if header.count() and header.length() < grid.viewport().width():
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)


class AnswerModel(GridModel):
    """An answer as its tables, one below the other in one grid, in the reader's units."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: list[list[str]] = []
        self._heads: frozenset[int] = frozenset()
        self._named: frozenset[int] = frozenset()
        self._width = 2
        self._study = ""
        self._paths: dict[tuple[int, int], str] = {}
        self.units = Units.of("metric")
        self.on_unit: Callable[[str, str], None] | None = None

    def show(self, blocks: list[Block], study: str = "", units: Units | None = None) -> None:
        """Show the tables of a question's answer, made in ``units``."""
        self.units = units or self.units
        self._study = study
        self._paths = {}
        rows: list[list[str]] = []
        heads: set[int] = set()
        named: set[int] = set()
        width = max((len(b.columns) for b in blocks), default=2)
        for block in blocks:
            if block.title:
                heads.add(len(rows))
                rows.append([block.title[0].upper() + block.title[1:]])
            if any(name for name, _ in block.columns):
                heads.add(len(rows))
                rows.append([f"{name}, {unit}" if unit else name for name, unit in block.columns])
                named.update(range(len(rows), len(rows) + len(block.rows)))
                self._remember(block, len(rows))
                rows += block.rows
            else:
                self._remember(block, len(rows))
                # Units stand in the last column of all.
                rows += [[*row[:-1], *[""] * (width - len(row)), row[-1]] for row in block.rows]
        same = len(rows) == len(self._rows) and width == self._width
        self._rows, self._heads, self._named, self._width = rows, frozenset(heads), frozenset(named), width
        if same:
            self.rewrite()
        else:
            self.reload()

    def _remember(self, block: Block, first: int) -> None:
        for i, paths in enumerate(block.paths):
            self._paths |= {(first + i, j): path for j, path in enumerate(paths) if path}

    def answer_path(self, row: int, column: int) -> tuple[str, str] | None:
        path = self._paths.get((row, column))
        return None if path is None or not self._study else (self._study, path)

    def titles(self) -> list[tuple[str, str]]:
        return [("answer", ""), *[("", "")] * (self._width - 1)]

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
        return column == 0

    def bold(self, row: int, column: int) -> bool:
        return row in self._heads

    def muted(self, row: int, column: int) -> bool:
        units = row not in self._heads and row not in self._named
        return units and column > 0 and column == len(self._rows[row]) - 1 > 1


LISTS = 2
"""Lists of parts that a question on this page may have."""


class QuestionDesk(Desk):
    """A question and its answer side by side."""

    shows = frozenset({"selection", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.title, self.subtitle = section("", "title"), section("", "mute")
        self.told = QLabel("")
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        self.told.setWordWrap(True)
        self.notes = QLabel("")
        self.notes.setTextFormat(Qt.TextFormat.PlainText)
        self.notes.setObjectName("mute")
        self.notes.setWordWrap(True)
        self.asks, self.answer = AsksModel(live), AnswerModel()
        self.answer.on_unit = lambda key, unit: live.set_unit(live.current_study(), key, unit)
        self.asks_grid, self.answer_grid = GridView(self.asks), GridView(self.answer)
        self.asks_grid.setAccessibleName("What the question asks")
        self.answer_grid.setAccessibleName("The answer")
        self.grids = [self.answer_grid, self.asks_grid]
        heading = QHBoxLayout()
        heading.addWidget(self.title)
        heading.addSpacing(4)
        heading.addWidget(self.subtitle, 0, Qt.AlignmentFlag.AlignBottom)
        heading.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self.asks_grid, 1)
        self.rows = [RowsModel(live) for _ in range(LISTS)]
        self.row_heads = [section("") for _ in self.rows]
        self.row_grids = [GridView(m) for m in self.rows]
        self.grids += self.row_grids
        for head, grid in zip(self.row_heads, self.row_grids):
            left.addWidget(head)
            left.addWidget(grid, 1)
        left.addWidget(self.told)
        left.addWidget(self.notes, 1, Qt.AlignmentFlag.AlignTop)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addLayout(left, 2)
        body.addWidget(self.answer_grid, 3)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(10)
        layout.addLayout(heading)
        layout.addLayout(body, 1)

    def refresh(self) -> None:
        """Show the chosen question."""
        study = self._live.current_study()
        self.title.setText(elided(study.name) if study else "No question chosen")
        kind = study_kinds()[study.kind] if study else None
        hint = "keep one with P on the map, or with + beside Questions"
        self.subtitle.setText(kind.meaning if kind else hint)
        shown = self._live.answer(study.name) if study else None
        faults = {format_path(f.path[2:]): f.message for f in shown.faults if len(f.path) > 2} if shown else {}
        lists = lists_of(type(study))[:LISTS] if study is not None else ()
        self.asks.show(study, faults, tuple(name for name, _ in lists))
        self._show_lists(study, lists, faults)
        answer = shown.value if shown else None
        elsewhere = study is None or asks_another(study)
        units = self._live.units_of(study)
        told = tables(answer, units) if answer and answer["ok"] else []
        self.answer.show(told, "" if elsewhere or study is None else study.name, units)
        if study is None or shown is None:
            text = ""
        elif shown.error:
            text = capital(shown.error)
        elif shown.old or answer is None:
            text = "Working …"
        elif not answer["ok"]:
            text = capital(answer["error"])
        else:
            text = kind.line(answer, self._live.units()) if kind else ""
        self.told.setText(text)
        self.notes.setText("\n".join(answer["notes"]) if answer else "")
        fit_asks(self.asks_grid)
        fill_width(self.answer_grid)

    def _show_lists(self, study: Study | None, lists: Sequence[tuple[str, type[Part]]], faults: dict[str, str]) -> None:
        """Show the lists of a question, each a table with room for one more row."""
        for i, (model, head, grid) in enumerate(zip(self.rows, self.row_heads, self.row_grids)):
            there = i < len(lists)
            head.setVisible(there)
            grid.setVisible(there)
            name, part = lists[i] if there else ("", None)
            head.setText(capital(name.replace("_", " ")).rstrip("."))
            grid.setAccessibleName(name.replace("_", " "))
            model.show(study if there else None, name, part, faults)

    def _answer(self) -> tuple[Study, dict[str, Any]] | None:
        study = self._live.current_study()
        value = None if study is None else self._live.answer(study.name).value
        return (study, value) if study is not None and value and value.get("ok") else None

    def _tell(self, text: str) -> None:
        self.told.setText(text)
        self.told.setVisible(True)

    def export(self) -> None:
        """Choose a file and write the rows of the answer to it, as CSV or as a workbook by its ending."""
        found = self._answer()
        if found is None:
            self._tell("There is no answer yet that could be written.")
            return
        chosen, _ = QFileDialog.getSaveFileName(self, "Save as a table", f"{found[0].name}.xlsx", "*.xlsx *.csv")
        if not chosen:
            return
        path = Path(chosen)
        path = path if path.suffix else path.with_suffix(".xlsx")
        try:
            write_answer(path, found[1], self._live.units())
            self._tell(f"Saved {path.name}")
        except (DomainError, OSError) as error:
            self._tell(f"{path.name} could not be saved: {error}")

    def take_over(self) -> None:
        """Take the fluid of a lumping into the project, with its tests and a match of its own."""
        found = self._answer()
        if found is None or found[0].kind != "lumping":
            self._tell("Choose a question of the kind Fewer components first.")
            return
        self._live.store.edit("Take over the lumped fluid", lambda d: taken_over(d, found[1]))
        self._live.select_fluid(self._live.document.fluids[-1].name)
        self.host().show_desk("match")

    def actions_offered(self) -> list[Action]:
        return [
            Action("&Answers", "Save the rows of the answer as a table…", self.export, "Ctrl+Alt+Shift+W", True),
            Action("&Answers", "Take over the lumped fluid", self.take_over, "Ctrl+Alt+U"),
        ]


register(
    DeskEntry(
        key="question", title="Question", order=41, make=QuestionDesk, card="answers",
        mark=lambda live: "done" if live.current_study() is not None else "open",
        line=lambda live: live.session.study_name or "none chosen",
        claims=lambda path: "" if path[:1] == ("studies",) else None,
        help=(
            "A question is what you ask of a fluid or a sample; it is kept with the project and answered live.",
            "Keep a state from the map with P, the map itself with M, or choose + beside Questions on the shelf.",
            "What it asks stands at the left: type other values, with units; a faulty one says why.",
            "Its answer stands at the right in full, in your units; what you select copies into a sheet.",
            "`cryonome solve` on the saved document answers the same questions with the same numbers, in SI.",
            "The one-line answer on the shelf is in your units and follows every edit.",
            "Rename (F2) and remove a question with the shelf's menu; undo brings it back.",
            "A question whose fluid is removed stays and says so; undo brings the fluid back.",
            "Notes tell what was assumed, estimated or found metastable on the way.",
            "An answer that does not exist says so, and why.",
        ),
    )
)  # fmt: skip
