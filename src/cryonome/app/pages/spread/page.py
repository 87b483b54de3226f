"""The page *Spread*: how sure the answer of another question is, and which input makes it so."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PySide6.QtWidgets import QHeaderView, QSizePolicy, QVBoxLayout, QWidget

from ....document import Study
from ....document.references import asks_another
from ....questions.kinds.spread import SpreadStudy
from ....questions.kinds.spread import begin as spread_of
from ....telling.answers import tables
from ....telling.panels import Panel
from ....telling.spread_words import UNCERTAIN
from ....telling.table_blocks import Block
from ...shell.live import Live
from ...widgets.letters import pixels
from ..shared.desk import Action, DeskEntry, register
from ..shared.panel_desk import PanelDesk

NAMES, NUMBERS = 208, 76
"""Widths of the columns of the answer, pixels: what is read, and its numbers."""


class SpreadDesk(PanelDesk):
    """Questions of how sure others are: distributions and bands beside their tables."""

    name = "Spread"
    kinds = ("spread",)
    shows = frozenset({"selection", "answer"})
    pictures = 2
    across = True

    def below(self, column: QVBoxLayout) -> None:
        """Stand what is uncertain and what is limited below the pictures, where there is room for their columns."""
        self._below = column

    def _arrange(self) -> None:
        super()._arrange()
        for head, grid in zip(self.row_heads, self.row_grids):
            self._below.addWidget(head)
            self._below.addWidget(grid)
            grid.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Maximum)
        self.body.setSizes([500, 560])

    def _show_lists(self, study: Study, faults: dict[str, str]) -> None:
        super()._show_lists(study, faults)
        for model, grid in zip(self.rows, self.row_grids):
            # No higher than their rows: the pictures have the rest.
            grid.setFixedHeight(grid.rowHeight(0) * model.rows() + grid.horizontalHeader().height() + 6)

    def refresh(self) -> None:
        super().refresh()
        header = self.answer_grid.horizontalHeader()
        for column in range(header.count()):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Interactive)
            self.answer_grid.setColumnWidth(column, pixels(NAMES if column == 0 else NUMBERS))

    def panels(self, study: Study, answer: dict[str, Any]) -> list[Panel]:
        """Return the picture with bands and the distribution of the first number."""
        return super().panels(study, answer)[: self.pictures]

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return what is read first, and where its spread comes from; where deviations come from stands in the notes."""
        found = tables(answer, self._live.units_of(self.study()))
        return [
            replace(b, columns=b.columns[:2], rows=[r[:2] for r in b.rows]) if b.title == UNCERTAIN else b
            for b in found
        ]

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.answer_grid.setAccessibleName("What the samples say")

    def is_own(self, study: Study) -> bool:
        """Tell whether a question is about the chosen fluid, or is the chosen one itself."""
        return study is self._live.current_study() or super().is_own(study)

    def nothing(self) -> str:
        return "Choose a question first, or make a fluid: how sure an answer is, is asked of a question."

    def begin(self) -> None:
        """Ask how sure the chosen question is."""
        chosen = self._live.current_study()
        if chosen is None or asks_another(chosen):
            self.show_draft("spread")
            return
        there = [s for s in self._live.kept() if isinstance(s, SpreadStudy) and s.of == chosen.name]
        if there:
            self._live.select_study(there[0].name)
        else:
            self.host().begin_asking(spread_of(chosen.name, None))

    @classmethod
    def actions_offered(cls) -> list[Action]:
        return [Action("&Answers", "How sure is the chosen question?", cls.begin, "Ctrl+Alt+H", True)]


def _line(live: Live) -> str:
    count = sum(s.kind == "spread" for s in live.document.studies)
    return f"{count} asked" if count else "how sure is an answer"


register(
    DeskEntry(
        key="spread",
        title="Spread",
        order=46,
        make=SpreadDesk,
        mark=lambda _live: "done",
        line=_line,
        card="answers",
        kinds=("spread",),
        help=(
            "A laboratory states its repeatability, a model its deviations: here they are carried to the answer.",
            "Choose any question and ask how sure it is (Ctrl+Alt+H): it is answered for many samples of its inputs.",
            "Where no input is named, the test methods of the samples tell: D86, D2887, D1160, D4052, D445, chromatography.",
            "Name inputs of your own below: a cell, a sample, a correlation, a composition or a match.",
            "The same seed gives the same samples, so that two variants differ by what was changed alone.",
            "The table tells where the spread comes from: each input's part of the variance.",
            "A limit gets the chance that it is broken; a goal on a percentile finds the dose that keeps it.",
            "Bands lie on the question's own page, and on the map where its layer Spread is on.",
            "The first picture is of twenty samples; the rest follows behind, and Esc stops it.",
            "A sample without an answer is left out and told, with the reason.",
        ),
    )
)
