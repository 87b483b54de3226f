"""What the pages of limits share: the question at the left, its picture over its answer at the right."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QTimer
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ...document import Study, errors
from ...document.faults import format_path
from ...document.kinds import study_kinds
from ...document.references import is_about
from ...studies.answers import tables
from ...studies.beginning import begun
from ...studies.hydrates import HydrateLines
from ...studies.table_blocks import Block
from ..fields import capital, chip_button, elided, section
from ..grid import GridView
from ..live import Live
from ..plot import Plot
from .asks_model import AsksModel, fit_asks
from .map_picture import Frame
from .question import AnswerModel, fill_width
from .study_desk import SIDE, StudyDesk, heading_row, page_of, row_of

SETTLE = 40
"""ms after the last change of a view before labels are placed anew."""


class LimitDesk(StudyDesk):
    """A page on questions of ``kinds``; subclasses draw them."""

    kinds: tuple[str, ...] = ()
    name = ""
    pictures = 1
    skipped = ""
    """Part of the question that has a table of its own."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.title, self.subtitle = section(self.name, "title"), section("", "mute")
        self.told, self.found, self.notes = section("", "fault"), section("", "title2"), section("", "mute")
        for label in (self.told, self.found, self.notes):
            label.setWordWrap(True)
        self.asks, self.shown = AsksModel(live), AnswerModel()
        self.shown.on_unit = lambda key, unit: live.set_unit(self.study(), key, unit)
        self.asks_grid, self.answer_grid = GridView(self.asks), GridView(self.shown)
        self.asks_grid.setAccessibleName("What the question asks")
        self.answer_grid.setAccessibleName("The answer")
        self.plots = [Plot(self.name) for _ in range(self.pictures)]
        self.grids = [self.answer_grid, self.asks_grid]
        self.begin_buttons = {
            k: chip_button(f"Ask: {study_kinds()[k].title.lower()}", lambda _=False, kind=k: self.begin(kind))
            for k in self.kinds
        }
        self._arrange()

    def extras(self, column: QVBoxLayout) -> None:
        """Add what a page has of its own below the question."""

    def _arrange(self) -> None:
        self.side = QWidget()
        left = QVBoxLayout(self.side)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(8)
        left.addWidget(self.found)
        left.addWidget(self.told)
        left.addWidget(self.asks_grid, 1)
        self.extras(left)
        left.addWidget(self.notes)
        self.side.setFixedWidth(SIDE)
        self.right = QWidget()
        column = QVBoxLayout(self.right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        plots = QHBoxLayout()
        plots.setSpacing(16)
        for plot in self.plots:
            plots.addWidget(plot, 1)
        column.addLayout(plots, 3)
        column.addWidget(self.answer_grid, 2)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(self.side)
        body.addWidget(self.right, 1)
        page_of(self, heading_row(self.title, self.subtitle), row_of(*self.begin_buttons.values()), body)

    def study(self) -> Study | None:
        """Return the question about the chosen fluid: the one that is chosen, else the first."""
        chosen = self._live.current_study()
        if chosen is not None and chosen.kind in self.kinds and is_about(chosen, self._live.fluid_name):
            return chosen
        asking = [s for s in self._live.document.studies if s.kind in self.kinds]
        return next((s for s in asking if is_about(s, self._live.fluid_name)), None)

    def begin(self, kind: str) -> None:
        """Ask a new question about the chosen fluid."""
        if self._live.fluid_name:
            self.host().begin_asking(
                begun(study_kinds()[kind], self._live.fluid_name, self._live.session.probe, self._live.units())
            )

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
        study, live = self.study(), self._live
        for part in (self.side, self.right):
            part.setVisible(study is not None)
        self.subtitle.setText(elided(study.name, 60) if study is not None else "nothing is asked yet")
        if study is None:
            self._wipe()
            return
        shown = live.answer(study.name)
        wrong = errors(shown.faults)
        faults = {format_path(f.path[2:]): f.message for f in shown.faults if len(f.path) > 2}
        self.asks.show(study, faults, (self.skipped,) if self.skipped else ())
        value = shown.value or {}
        told = wrong[0].message if wrong else shown.error or str(value.get("error", ""))
        self.told.setText(capital(told))
        self.told.setVisible(bool(told))
        answer = self.answer()
        self.notes.setText("working …" if shown.old and not told else "\n".join(value.get("notes", [])[-3:]))
        self.found.setText(self.sentence(study, answer) if answer is not None and not told else "")
        self.found.setVisible(bool(self.found.text()))
        self.shown.show(self.blocks(answer) if answer is not None else [], study.name, live.units_of(study))
        fit_asks(self.asks_grid)
        fill_width(self.answer_grid)
        for plot in self.plots:
            plot.set_faint(shown.old)
        if told or answer is None:
            # What was drawn is of another question or of no answer: nothing of it may stay.
            self._wipe()
        else:
            self.draw(study, answer)

    def _wipe(self) -> None:
        for plot in self.plots:
            plot.wipe()

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return the answer as it stands in the grid."""
        return tables(self.listed(answer), self._live.units_of(self.study()))

    def listed(self, answer: dict[str, Any]) -> dict[str, Any]:
        """Return what of an answer stands in the grid."""
        return answer

    def sentence(self, study: Study, answer: dict[str, Any]) -> str:
        """Return what the answer tells to do, in a sentence."""
        return ""

    def draw(self, study: Study, answer: dict[str, Any] | None) -> None:
        """Draw the answer."""
        raise NotImplementedError


class FanDesk(LimitDesk):
    """A page with the hydrate limits of its question by dose: asks for them while it is seen, and labels once the view has come to rest."""

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
        self._live.want_hydrates("")

    def refresh(self) -> None:
        study = self.study()
        self._live.want_hydrates(study.name if study is not None else "")
        super().refresh()
        self._settle.start(0)

    def draw_labels(self) -> None:
        """Place labels where there is room for them now."""
        raise NotImplementedError
