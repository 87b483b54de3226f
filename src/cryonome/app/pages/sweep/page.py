"""The page *Sweep*: an input of the project varied and what comes of it, and goals: the input that makes a result
what it is to be."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import (
    QHeaderView,
    QLineEdit,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ....document import Study
from ....document.edits import set_at
from ....document.references import asks_another
from ....questions.asking import goal_for, input_words, numbers_in, sweep_over, varied_condition
from ....questions.kinds.goal import Asked as AskedGoal
from ....questions.kinds.goal import GoalCurve, GoalStudy
from ....questions.kinds.sweep import Asked as AskedSweep
from ....questions.kinds.sweep import SweepStudy
from ....telling.table_blocks import sweep_block, varied_of
from ....wording.cells import answer_words
from ...shell.live import Live
from ...widgets.fields import link, page_button, section
from ...widgets.grid import GridView
from ...widgets.plot import Plot
from ...widgets.plot import Table as PlotTable
from ...widgets.text_rows import TextRows
from ..shared.desk import Action, DeskEntry, register
from ..shared.reference_page import ReferencePage
from ..shared.study_desk import StudyDesk, beside_column, row_of
from ..table.models import ChosenModel
from .pictures import draw_goal, draw_sweep
from .result_choice import ResultModel
from .results import LOOKED_AT, declared

MOST_PLOTS = 4
"""Results that are drawn one below the other, each with its own axis."""

VIEWS = {"plot": "Plot", "table": "Table", "results": "Results", "reference": "Compared"}


class SweepDesk(StudyDesk):
    """The question at the left, its plots or its table at the right."""

    kinds = ("sweep", "goal")
    files = "Workbook (*.xlsx);;CSV (*.csv)"
    shows = frozenset({"selection", "answer", "goal curve"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.bar.offered = {"read": self._result_words}
        self.read = ChosenModel()
        self.read_grid = GridView(self.read)
        self.read_grid.setAccessibleName("Results read")
        self.read_grid.setMinimumHeight(110)
        self.choose_button = link(
            "choose results", lambda: self.show_page("results"), "Search all numbers of the answer that is asked"
        )
        self.remove_button = link("remove", self._remove, "Read the chosen result no more")
        self.take_button = link(
            "take it into the project",
            self.take,
            "Write the value found into the input, as one step that can be undone",
        )
        self.notes = section("", "mute")
        self.notes.setWordWrap(True)
        self.view = "plot"
        self.views = {k: page_button(words, lambda _on, k=k: self.show_page(k)) for k, words in VIEWS.items()}
        self.search = QLineEdit()
        self.search.setAccessibleName("Search results")
        self.search.setPlaceholderText("search a result, for example density")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(lambda _t: self._show_results())
        self.plots = [Plot("Sweep" if i == 0 else f"Sweep {i + 1}") for i in range(MOST_PLOTS)]
        for plot in self.plots[1:]:
            plot.box.setXLink(self.plots[0].box)
        self.plots[0].data = self._data
        side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        for plot in self.plots:
            column.addWidget(plot, 1)
        self.table = TextRows([("", "")])
        self.grid = GridView(self.table)
        self.grid.setAccessibleName("The sweep as a table")
        self.grid.horizontalHeader().setSectionsMovable(True)
        self.results = ResultModel(self._toggle)
        self.results_grid = GridView(self.results)
        self.results_grid.setAccessibleName("Results to choose")
        self.results_grid.doubleClicked.connect(lambda index: self.results.toggle(index.row()))
        self.results_grid.clicked.connect(lambda i: self.results.toggle(i.row()) if i.column() == 0 else None)
        self.stack = QStackedWidget()
        self.reference = ReferencePage(self.edit_study)
        for part in (side, self.grid, self.results_grid, self.reference):
            self.stack.addWidget(part)
        self.grids = [self.grid, self.read_grid, self.results_grid]
        self.themed = [self.reference]
        self._arrange()

    def _arrange(self) -> None:
        self.side = QWidget()
        left = QVBoxLayout(self.side)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(6)
        left.addWidget(self.read_grid, 1)
        left.addLayout(row_of(self.choose_button, self.remove_button))
        left.addWidget(self.take_button, 0, Qt.AlignmentFlag.AlignLeft)
        left.addWidget(self.notes)
        left.addStretch(1)
        words = row_of(*self.views.values(), spacing=0)
        words.addWidget(self.search, 2)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addLayout(words)
        right.addWidget(self.stack, 1)
        self.lay_out(beside_column(self.side, right))

    # -- the question ------------------------------------------------------------------------------------------------

    def is_own(self, study: Study) -> bool:
        """Tell whether a question is about the chosen fluid, or is the chosen one itself."""
        return study is self._live.current_study() or super().is_own(study)

    def study(self) -> SweepStudy | GoalStudy | None:
        """Return the sweep or goal shown."""
        found = super().study()
        return found if isinstance(found, (SweepStudy, GoalStudy)) else None

    def nothing(self) -> str:
        return "Choose or make a fluid first: a sweep varies an input of it or of a question about it."

    def _result_words(self) -> dict[str, str]:
        study = self.study()
        answer = self._live.answer(study.of).value if study is not None else None
        return {path: answer_words(path) for path, _ in numbers_in(answer)} if answer else {}

    def _subject(self) -> Study | None:
        """Return the state a new question is asked of: the chosen one, else the first about the chosen fluid."""
        chosen = self._live.current_study()
        if chosen is not None and not asks_another(chosen):
            return chosen
        return self._live.study_about("flash")

    def begin_sweep(self) -> None:
        """Vary the first condition of the state chosen."""
        subject, document = self._subject(), self._live.document
        parts = varied_condition(subject, document) if subject is not None else None
        if subject is not None and parts is not None:
            self.host().begin_asking(sweep_over(parts, document, subject))

    def begin_goal(self) -> None:
        """Set a goal for the state chosen: half of it vapour, until something else is typed."""
        subject, document = self._subject(), self._live.document
        new = goal_for(subject, "vapour_fraction", 0.5, document) if subject is not None else None
        if new is not None:
            self.host().begin_asking(new)

    def _toggle(self, path: str) -> None:
        study = self.study()
        if isinstance(study, SweepStudy):
            kept = tuple(p for p in study.read if p != path) if path in study.read else (*study.read, path)
            self.edit_study({("read",): kept}, "Choose results")
        elif isinstance(study, GoalStudy):
            self.edit_study({("read",): path}, "Read another result")

    def _remove(self) -> None:
        row = self.read_grid.currentIndex().row()
        if 0 <= row < len(self.read.keys):
            self._toggle(self.read.keys[row])

    def take(self) -> None:
        """Write the value a goal found into the project, as one step that can be undone."""
        study, answer = self.study(), self.answer()
        asked = self._live.asked(study) if study is not None else None
        if isinstance(study, GoalStudy) and answer is not None and isinstance(asked, AskedGoal):
            scale, path = asked.input.scale, asked.input.path
            cell = scale.cell(float(f"{scale.number(answer['value']):.12g}"))
            words = input_words(path, self._live.document)
            self._live.store.edit(f"Take the {words}"[:60], lambda d: set_at(d, path, cell))

    # -- showing -----------------------------------------------------------------------------------------------------

    def show_page(self, page: str) -> None:
        """Open a view."""
        self.view = page if page in VIEWS else self.view
        self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._live.want(LOOKED_AT, "", "goal curve")

    def refresh(self) -> None:
        """Show the question."""
        self.show_head()
        study, live = self.study(), self._live
        goal = isinstance(study, GoalStudy)
        live.want(LOOKED_AT, study.name if goal and study is not None else "", "goal curve")
        self.side.setVisible(study is not None)
        self.stack.setVisible(study is not None)
        for key, word in self.views.items():
            word.setVisible(study is not None and not (goal and key == "table"))
        for part in (self.read_grid, self.choose_button, self.remove_button):
            part.setVisible(not goal)
        self.take_button.setVisible(goal and self.answer() is not None)
        if study is None:
            return
        if isinstance(study, SweepStudy):
            self.read.show(list(study.read))
        value = live.answer(study.name).value or {}
        self.notes.setText("\n".join(value.get("notes", [])))
        self._show_view()

    def _show_view(self) -> None:
        study = self.study()
        goal = isinstance(study, GoalStudy)
        view = "plot" if goal and self.view == "table" else self.view
        for key, chip in self.views.items():
            chip.setChecked(key == view)
        self.search.setVisible(view == "results")
        self.stack.setCurrentIndex(list(VIEWS).index(view))
        if view == "results":
            self._show_results()
        elif view == "reference":
            self.reference.show_study(study, self.answer(), self._live.units())
        elif view == "table":
            self._show_table()
        elif goal:
            self._draw_goal()
        else:
            self._draw_sweep()

    def _show_results(self) -> None:
        study = self.study()
        answer = self._live.answer(study.of).value if study is not None else None
        read = () if study is None else (study.read,) if isinstance(study, GoalStudy) else study.read
        self.results.show_answer(answer or {}, frozenset(read), self.search.text(), self._live.units().of_states())
        header = self.results_grid.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)

    def _show_table(self) -> None:
        answer = self.answer()
        if answer is None:
            self.table.show([], titles=[("", "")])
            return
        block = sweep_block(answer, self._live.units())
        self.table.show(block.rows, titles=block.columns)

    def _rows(self) -> tuple[np.ndarray, np.ndarray, str] | None:
        """Return the varied values (n, inputs) in the unit they are written in, what was read (n, results), and the
        unit of the first."""
        study, answer = self.study(), self.answer()
        asked = self._live.asked(study) if study is not None else None
        if answer is None or not isinstance(asked, AskedSweep):
            return None
        scales = [v.scale for v in asked.inputs]
        points = [varied_of(row) for row in answer["rows"]]
        if any(len(p) != len(scales) for p in points):
            return None
        x = np.array([[s.number(v) for s, v in zip(scales, p)] for p in points])
        read = np.array([[np.nan if v is None else v for v in row["read"]] for row in answer["rows"]], float)
        return x, read, scales[0].unit

    def _draw_sweep(self) -> None:
        found, answer = self._rows(), self.answer()
        count = 0 if found is None or answer is None else min(found[1].shape[1], MOST_PLOTS)
        for i, plot in enumerate(self.plots):
            plot.setVisible(i < max(count, 1))
        if found is not None and answer is not None:
            draw_sweep(self.plots[:count], self.theme, answer, found, self._live.units().of_states())

    def _draw_goal(self) -> None:
        study, plot, shown = self.study(), self.plots[0], self._live.results["goal curve"]
        for other in self.plots[1:]:
            other.setVisible(False)
        plot.setVisible(True)
        plot.set_faint(shown.old)
        asked = self._live.asked(study) if study is not None else None
        if isinstance(shown.value, GoalCurve) and isinstance(asked, AskedGoal):
            draw_goal(plot, self.theme, asked, shown.value, self.answer(), self._live.units().of_states())
        else:
            plot.begin("sweep")
            plot.end()

    def _data(self) -> list[PlotTable]:
        answer = self.answer()
        if answer is None or "rows" not in answer:
            found = self._live.results["goal curve"].value
            return (
                [("goal", ["input", "result"], [found.values.tolist(), found.read.tolist()])]
                if isinstance(found, GoalCurve)
                else []
            )
        block = sweep_block(answer, self._live.units())
        rows = self._rows()
        if rows is None:
            return []
        columns = [c.tolist() for c in rows[0].T] + [c.tolist() for c in rows[1].T]
        return [("sweep", [f"{n}, {u}" if u else n for n, u in block.columns][: len(columns)], columns)]

    @classmethod
    def actions_offered(cls) -> list[Action]:
        menu = "&Answers"
        return [
            Action(menu, "Vary the state chosen", cls.begin_sweep, "Ctrl+Alt+V", True),
            Action(menu, "Set a goal for the state chosen", cls.begin_goal, "Ctrl+Alt+Shift+E"),
            Action(menu, "Export the sweep…", cls.export, "Ctrl+Alt+Shift+X"),
        ]


def _line(live: Live) -> str:
    kinds = [s.kind for s in live.document.studies]
    return f"{kinds.count('sweep')} sweeps, {kinds.count('goal')} goals"


register(
    DeskEntry(
        declares=(declared,),
        key="sweep",
        title="Sweep",
        order=45,
        make=SweepDesk,
        mark=lambda _live: "done",
        line=_line,
        card="answers",
        kinds=("sweep", "goal"),
        help=(
            "A sweep varies one or two inputs of the project and reads results of a question with each value.",
            "Begin from the number itself: “Vary this” in the menu of any cell, “Read this” in that of any answer.",
            "Or type here what is varied; every number of the project is offered by its words.",
            "The number of values follows from the size of the steps and the other way round, before anything runs.",
            "Results are drawn one below the other, each with its own axis; a second input makes a family of curves.",
            "A cross at the foot is a value without an answer; the table says why.",
            "A goal finds the input that makes a result equal to a value: “Make this equal” in the menu of any answer.",
            "All solutions between the ends are told; without one the curve shows what can be reached.",
            "Take it into the project writes the value found into its cell, as one step that can be undone.",
            "Sweeps and goals are questions of the project: kept, undone, and solved by the command line alike.",
        ),
    )
)
