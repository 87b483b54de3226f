"""What pages that work on a question of the project share: the question, its answer, edits of it, and files of it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QVBoxLayout

from ...document import Study
from ...document.edits import set_each, study_path
from ...document.faults import PathParts
from ...errors import DomainError
from ...exchange.table_files import write_answer
from .desk import Desk

SIDE = 348
"""Pixels of the column in which a question is typed."""


class StudyDesk(Desk):
    """A page on a question: subclasses tell which, and have its words of what is wrong in ``told``."""

    told: QLabel
    files = ""
    """The files an answer is written to, as a file dialog lists them."""

    def study(self) -> Study | None:
        """Return the question this page works on."""
        raise NotImplementedError

    def answer(self) -> dict[str, Any] | None:
        """Return the question's answer, the last good one; None where there is none."""
        study = self.study()
        value = None if study is None else self._live.answer(study.name).value
        return value if value and value.get("ok") else None

    def edit_study(self, cells: dict[PathParts, object], text: str, merge: str = "") -> None:
        """Set cells of the question, by their paths within it, as one step that can be undone; steps of the same ``merge`` are one."""
        study = self.study()
        if study is not None:
            here = study_path(self._live.document, study.name)
            values = {(*here, *path): value for path, value in cells.items()}
            self._live.store.edit(text, lambda d: set_each(d, values), merge)

    def export(self) -> None:
        """Choose a file and write the answer to it, by its ending."""
        study, answer = self.study(), self.answer()
        if study is None or answer is None:
            self.told.setText("There is no answer yet that could be written.")
            self.told.setVisible(True)
            return
        chosen, _ = QFileDialog.getSaveFileName(self, "Export", f"{study.name}.xlsx", self.files)
        if not chosen:
            return
        path = Path(chosen)
        path = path if path.suffix else path.with_suffix(".xlsx")
        try:
            write_answer(path, answer, self._live.units())
            self.plots[0].saved.emit(f"Saved {path.name}")
        except (DomainError, OSError) as error:
            self.plots[0].saved.emit(f"{path.name} could not be saved: {error}")


def heading_row(title: QLabel, subtitle: QLabel) -> QHBoxLayout:
    """Return the row at the top of a page; what stands to its right follows."""
    row = QHBoxLayout()
    row.addWidget(title)
    row.addSpacing(4)
    row.addWidget(subtitle, 0, Qt.AlignmentFlag.AlignBottom)
    row.addStretch(1)
    return row


def page_of(desk: Desk, *rows: QHBoxLayout) -> None:
    """Lay out a page of rows, one below the other; the last has the room that is left."""
    layout = QVBoxLayout(desk)
    layout.setContentsMargins(20, 10, 20, 12)
    layout.setSpacing(8)
    for i, row in enumerate(rows):
        layout.addLayout(row, int(i == len(rows) - 1))


def row_of(*parts: Any, spacing: int = 6) -> QHBoxLayout:
    """Return widgets in a row, to the left."""
    row = QHBoxLayout()
    row.setSpacing(spacing)
    for part in parts:
        row.addWidget(part)
    row.addStretch(1)
    return row
