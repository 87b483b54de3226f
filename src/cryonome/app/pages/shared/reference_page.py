"""The page of values from elsewhere: pasted, matched by names and headings, and held against ours."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QHBoxLayout, QHeaderView, QPushButton, QVBoxLayout, QWidget

from ....document import Reader, Study
from ....document.faults import PathParts
from ....document.field_types import Cell
from ....errors import DomainError
from ....exchange.pasted import read_pasted
from ....questions.varying import scale_of_cells
from ....results.references import STATE
from ....telling.sentences import Units
from ....telling.table_blocks import reference_block
from ...widgets.fields import capital, section
from ...widgets.grid import GridView
from ...widgets.text_rows import TextRows
from ...widgets.theme import Theme

Store = Callable[[dict[PathParts, object], str], None]


class ReferencePage(QWidget):
    """Buttons to paste and to drop values from elsewhere, and the table of both with their deviations."""

    def __init__(self, store: Store) -> None:
        super().__init__()
        self._store = store
        self._study: Study | None = None
        self._answer: dict[str, Any] | None = None
        self.paste_button, self.drop_button = QPushButton("Paste values from elsewhere"), QPushButton("Drop them")
        self.paste_button.clicked.connect(lambda: self.paste(QGuiApplication.clipboard().text()))
        self.drop_button.clicked.connect(lambda: self._store({("reference",): {}}, "Drop values from elsewhere"))
        self.told = section("", "mute")
        self.told.setWordWrap(True)
        self.rows = TextRows([("value", "")])
        self.grid = GridView(self.rows)
        self.grid.setAccessibleName("Values from elsewhere beside ours")
        buttons = QHBoxLayout()
        buttons.addWidget(self.paste_button)
        buttons.addWidget(self.drop_button)
        buttons.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(buttons)
        layout.addWidget(self.told)
        layout.addWidget(self.grid, 1)
        self._hint = (
            "Copy names and values, or a grid whose first row names its columns with their units, and paste them here: they are matched by "
            "name, kept with the project, and told with every deviation."
        )

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.grid.set_theme(theme)

    def paste(self, text: str) -> None:
        """Take pasted values as references of the question shown, as one step that can be undone."""
        if self._answer is None or self._study is None:
            self.told.setText("There is no answer yet that values could stand beside.")
            return
        try:
            found = read_pasted(text, self._answer)
        except DomainError as error:
            self.told.setText(capital(str(error)))
            return
        references = dict(found.references)
        if self._study.kind == "flash":
            # They belong to the state that they stand beside now.
            references = {**{k: self._answer[k] for k in STATE if k in self._answer}, **references}
        cells: dict[PathParts, object] = {("reference",): references}
        vary = getattr(self._study, "vary", None)
        if found.values and vary is not None and not isinstance(vary, tuple):
            now = [r["vary"] for r in self._answer["rows"]]
            if len(now) != len(found.values) or _differ(found.values, now):
                fresh = vary.model_copy(
                    update={"values": found.values, "begin": None, "end": None, "steps": None, "step": None}
                )
                cells[("vary",)] = fresh
                found.told.append("the sweep takes the pasted values of its input")
        self._store(cells, "Paste values from elsewhere")
        self.told.setText(capital("; ".join(found.told)) if found.told else "")

    def show_study(self, study: Study | None, answer: dict[str, Any] | None, units: Units) -> None:
        """Show a question's references beside its answer."""
        if study is not self._study and (study is None or self._study is None or study.name != self._study.name):
            self.told.setText(self._hint)
        self._study, self._answer = study, answer
        there = answer is not None and bool(answer.get("reference"))
        self.drop_button.setEnabled(study is not None and bool(study.reference))
        if answer is None or not there:
            self.rows.show([], titles=[("value", "")])
            return
        block = reference_block(answer, units)
        bold = frozenset(i for i, row in enumerate(block.rows) if row[-1] == "worst")
        self.rows.show(block.rows, bold, block.columns)
        self.rows.dim(frozenset(i for i, r in enumerate(answer["reference"]) if r.get("other_state")))
        header = self.grid.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)


def _differ(values: Sequence[Cell], now: Sequence[float]) -> bool:
    """Tell whether cells are other values than those of a sweep now, SI."""
    found = scale_of_cells(values, Reader())
    if found is None:
        return True
    scale, numbers = found
    return any(abs(scale.si(n) - v) > 1e-9 * max(abs(v), 1.0) for n, v in zip(numbers, now))
