"""The page *Steps*: a chain typed as rows and drawn as a line, the numbers of the chosen step, all streams, and their
way on the map."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QHeaderView, QMenu, QVBoxLayout, QWidget

from ....document import Fluid, Study
from ....document.edits import add_fluid, free_name
from ....document.faults import Fault, format_path
from ....document.model import MadeBy
from ....equilibrium.phase_map import PhaseMap
from ....process import KINDS
from ....questions.kinds.process import ProcessStudy
from ....telling.step_tables import STREAMS, USUAL, stage_block, step_block, stream_block
from ....telling.table_blocks import Block
from ....units import format_number, label
from ...shell.live import Live
from ...widgets.fields import link, section
from ...widgets.grid import GridView
from ...widgets.letters import pixels
from ..map.paths import chain_path
from ..shared.answer_model import AnswerModel, fill_width
from ..shared.columns import Columns
from ..shared.desk import Action, DeskEntry, register
from ..shared.limit_picture import DrawnPath, draw_hydrates, draw_paths, label_hydrates, label_paths
from ..shared.map_picture import Labels, Picture
from ..shared.sheet_desk import FanDesk
from ..shared.study_desk import row_of, side_by_side
from .curves import draw_duty
from .model import DOES, IS, StepsModel
from .strip import ChainStrip, laid_out

ASKED_ON = (
    ("Map", "map"),
    ("Vapour pressure", "vapour"),
    ("Hydrates", "hydrates"),
    ("State", "state"),
    ("Line size", "sizes"),
)
"""Pages a stream is usually asked on."""
WIDTHS = (78, 92, 108, 180, 140)
"""Pixels of the columns of the rows; what a step does has the rest."""


class StepsDesk(FanDesk):
    """A chain of steps."""

    kinds = ("process",)
    name = "Steps"
    skipped = "steps"
    pictures = 2
    shows = frozenset({"selection", "answer", "first answer", "map", "hydrate fan"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        self.steps = StepsModel(live)
        self.steps_grid = GridView(self.steps)
        self.steps_grid.setAccessibleName("Steps")
        self.strip = ChainStrip()
        self.numbers = AnswerModel()
        self.numbers_grid = GridView(self.numbers)
        self.numbers_grid.setAccessibleName("Numbers of the chosen step")
        self.chosen = ""
        super().__init__(live, parent)
        self.numbers.on_unit = lambda key, unit: live.set_unit(self.study(), key, unit)
        Columns(self.numbers_grid, self.numbers)
        self.grids += [self.steps_grid, self.numbers_grid]
        self.themed.append(self.strip)
        self.strip.chosen.connect(self.choose)
        self.steps_grid.selectionModel().currentChanged.connect(lambda *_: self._row_chosen())
        self.answer_grid.selectionModel().currentChanged.connect(lambda *_: self._stream_chosen())
        self._fitted: object = None
        self._begun = False
        self._map_wanted = False

    def _arrange(self) -> None:
        """Lay the page out: the line above; rows and streams to the left; numbers and map to the right."""
        self.side, self.left = QWidget(), QWidget()
        left = QVBoxLayout(self.left)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(4)
        head = row_of(section("Steps"))
        head.addWidget(link("+ step", self._offer_steps, "Add a step below the chosen row"))
        head.addWidget(link("up", partial(self._move, -1), "Move the chosen step up (Alt+Up)"))
        head.addWidget(link("down", partial(self._move, 1), "Move the chosen step down (Alt+Down)"))
        head.addWidget(link("remove", self._remove, "Take the chosen rows out"))
        left.addLayout(head)
        left.addWidget(self.steps_grid, 9)
        streams = row_of(section("Streams"))
        streams.addWidget(link("columns", self._choose_columns, "Choose, sort and move the columns"))
        streams.addWidget(link("copy", self._copy, "Copy the whole table with its headers, in full precision"))
        streams.addWidget(link("save", self.export, "Write the answer as CSV or as a workbook"))
        left.addLayout(streams)
        left.addWidget(self.answer_grid, 6)
        side = QVBoxLayout(self.side)
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(4)
        self.numbers_head = section("")
        numbers = row_of(self.numbers_head)
        self.as_fluid = link(
            "ask of it ▾", self._offer_questions, "Ask a question of this stream as a fluid that follows the chain"
        )
        numbers.addWidget(self.as_fluid)
        side.addLayout(numbers)
        side.addWidget(self.numbers_grid, 5)
        self.map_head = section("On the map")
        self.turn_link = link("the duty", self._turn_picture, "Show the duty curves of the exchanger, or the map")
        told = row_of(self.map_head)
        self.notes_link = link("notes", self._turn_notes, "Show or hide what was assumed and what is to be said")
        told.addWidget(self.turn_link)
        told.addWidget(self.notes_link)
        side.addLayout(told)
        side.addWidget(self.plots[1], 6)
        side.addWidget(self.plots[0], 6)
        self.notes_area = self.scrolled_notes(34)
        self.notes_area.setMaximumHeight(110)
        self.notes_area.setVisible(False)
        side.addWidget(self.notes_area, 1)
        self.body = side_by_side(self.left, self.side, (12, 8), (610, 400))
        self.lay_out(self.strip, self.body)

    def _turn_picture(self) -> None:
        """Show an exchanger's duty or the map."""
        self._map_wanted = not self._map_wanted
        self._show_chosen()

    def _turn_notes(self) -> None:
        self.notes_area.setVisible(not self.notes_area.isVisible())

    # -- what is chosen ----------------------------------------------------------------------------------------------

    def choose(self, name: str) -> None:
        """Choose a step, a feed or a stream by its name: its row and its numbers."""
        if name == self.chosen:
            return
        self.chosen = name
        row = self.steps.row_of(name)
        if row is not None and self.steps_grid.currentIndex().row() != row:
            self.steps_grid.setCurrentIndex(self.steps.index(row, DOES))
        self._show_chosen()

    def _row_chosen(self) -> None:
        name = self.steps.name_of(self.steps_grid.currentIndex().row())
        if name:
            self.choose(name)

    def _stream_chosen(self) -> None:
        row = self.answer_grid.currentIndex().row()
        if 0 <= row < self.shown.rows():
            self.choose(self.shown.text(row, 0))

    def _show_chosen(self) -> None:
        """Show the numbers of what is chosen, and of an exchanger its curves."""
        study, answer = self.study(), self.answer()
        if not isinstance(study, ProcessStudy):
            return
        steps = {s.name for s in study.steps}
        if self.chosen not in steps and self.chosen not in (answer or {}).get("streams", {}) and study.steps:
            self.chosen = study.steps[0].name
        bad = frozenset(self.steps.name_of(r) for r in range(self.steps.rows() - 1) if self._faulty(r))
        self.strip.show_chain(laid_out(list(study.feeds), study.steps), self.chosen, bad)
        units = self._live.units_of(study)
        step = (answer or {}).get("steps", {}).get(self.chosen)
        blocks: list[Block] = []
        if step is not None:
            self.numbers_head.setText(f"{self.chosen}, {step['step']}")
            blocks = [
                b
                for b in (step_block(self.chosen, step, units), stage_block(self.chosen, step, units))
                if b is not None
            ]
        elif answer is not None and self.chosen in answer["streams"]:
            self.numbers_head.setText(self.chosen)
            blocks = [_turned(stream_block(answer, units), self.chosen)]
        else:
            self.numbers_head.setText(self.chosen)
        self.as_fluid.setVisible(answer is not None and self.chosen in answer["streams"])
        self.numbers.show(blocks, study.name, units)
        self.numbers_grid.horizontalHeader().setVisible(False)
        fill_width(self.numbers_grid)
        high = sum(self.numbers_grid.rowHeight(r) for r in range(self.numbers.rows())) + 6
        self.numbers_grid.setMaximumHeight(max(high, 40))
        self.numbers_grid.setMinimumHeight(min(high, pixels(210)))
        curve = (step or {}).get("curve")
        duty = curve is not None and not self._map_wanted
        self.turn_link.setVisible(curve is not None)
        self.turn_link.setText("the map" if duty else "the duty")
        self.map_head.setText("Duty" if duty else "On the map")
        self.plots[1].setVisible(duty)
        self.plots[0].setVisible(not duty)
        if curve is not None:
            draw_duty(self.plots[1], curve, units.of_states(), self.theme)

    def _faulty(self, row: int) -> bool:
        return any(self.steps.fault(row, c) for c in range(5))

    def select_cell(self, fault: Fault) -> None:
        """Select the row a fault is of."""
        if fault.path[2:3] == ("steps",) and len(fault.path) > 3:
            row = len(self.steps.feeds) + int(fault.path[3])
            self.steps_grid.setCurrentIndex(self.steps.index(row, DOES))

    # -- edits -------------------------------------------------------------------------------------------------------

    def focus_rows(self, key: str) -> None:
        self.steps_grid.setFocus()

    def _offer_questions(self) -> None:
        """Offer the pages that a stream may be asked on."""
        menu = QMenu(self)
        for title, page in ASKED_ON:
            menu.addAction(title, partial(self.ask_of_stream, page))
        menu.exec(self.as_fluid.mapToGlobal(QPoint(0, self.as_fluid.height())))

    def ask_of_stream(self, page: str) -> None:
        """Open a page on the chosen stream, as a fluid that follows the chain; a draft is kept for that."""
        self.keep()
        study, live = self.study(), self._live
        if study is None:
            return
        stream, document = self.chosen, live.document
        known = next((f for f in document.fluids if f.made_by == MadeBy(study=study.name, stream=stream)), None)
        name = known.name if known is not None else free_name(document, stream)
        if known is None:
            made = Fluid(name=name, made_by=MadeBy(study=study.name, stream=stream))
            live.store.edit(f"{stream} as a fluid"[:60], lambda d: add_fluid(d, made))
        live.select_fluid(name)
        self.host().show_desk(page)

    def _row(self) -> int:
        row = self.steps_grid.currentIndex().row()
        return row if row >= 0 else self.steps.rows() - 2

    def _offer_steps(self) -> None:
        """Offer every kind of step with what it takes and gives."""
        menu = QMenu(self)
        menu.setToolTipsVisible(True)
        for kind in KINDS.values():
            action = menu.addAction(f"{kind.name}:  {kind.takes} → {kind.gives}", partial(self._add, kind.name))
            action.setToolTip(kind.meaning)
        menu.addSeparator()
        menu.addAction("feed:  a fluid from outside", self._add_feed)
        menu.exec(self.steps_grid.mapToGlobal(QPoint(60, 0)))

    def _add(self, kind: str) -> None:
        row = self._row()
        self.steps.insert(row, kind)
        self.steps_grid.setCurrentIndex(self.steps.index(min(row + 1, self.steps.rows() - 2), DOES))
        self.steps_grid.setFocus()

    def _add_feed(self) -> None:
        self.steps.store_cells({(self.steps.rows() - 1, IS): "feed"}, "Add a feed")

    def _move(self, by: int) -> None:
        row = self.steps.move(self._row(), by)
        self.steps_grid.setCurrentIndex(self.steps.index(row, DOES))

    def _remove(self) -> None:
        rows = sorted({i.row() for i in self.steps_grid.selectedIndexes()} or {self._row()})
        self.steps.remove([r for r in rows if r < self.steps.rows() - 1])

    @classmethod
    def actions_offered(cls) -> list[Action]:
        return [
            Action("&Answers", "Move the step up", lambda page: page._move(-1), "Alt+Up", separate=True, seen=True),
            Action("&Answers", "Move the step down", lambda page: page._move(1), "Alt+Down", seen=True),
        ]

    # -- shown -------------------------------------------------------------------------------------------------------

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return the streams; steps have a table of their own."""
        block = stream_block(answer, self._live.units_of(self.study()))
        if not self._begun:
            self._begun = True
            self.columns.hidden |= {title for title, _ in STREAMS if title not in USUAL}
        return [block]

    def refresh(self) -> None:
        study = self.study()
        shown = self._live.answer(study.name) if study is not None else None
        faults = {format_path(f.path[2:]): f.message for f in shown.faults if len(f.path) > 2} if shown else {}
        self.steps.show(study if isinstance(study, ProcessStudy) else None, faults)
        super().refresh()
        header = self.steps_grid.horizontalHeader()
        if header.count() == len(WIDTHS) and header.sectionSize(0) != pixels(WIDTHS[0]):
            header.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
            for column, width in enumerate(WIDTHS):
                header.resizeSection(column, pixels(width))
            header.setSectionResizeMode(DOES, QHeaderView.ResizeMode.Stretch)
        high = 26 + sum(self.steps_grid.rowHeight(r) for r in range(self.steps.rows()))
        self.steps_grid.setMaximumHeight(high + 14)
        self._show_chosen()
        self.columns.apply()

    def _path(self, study: Study) -> DrawnPath | None:
        return chain_path(self._live, study)

    def draw(self, study: Study, answer: dict[str, Any] | None) -> None:
        """Draw envelope, limits and the way of the streams."""
        plot, frame = self.plots[0], self.frame()
        plot.set_titles(f"Temperature, {label(frame.temperature)}", f"Pressure, {label(frame.pressure)}")
        plot.set_logarithmic(frame.logarithmic)
        live = self._live
        whole = live.envelope()
        Picture(frame, self.theme, whole if isinstance(whole, PhaseMap) else None).draw_lines(plot)
        plot.begin("limits")
        lines, path = self.lines(), self._path(study)
        if lines is not None:
            draw_hydrates(plot, frame, self.theme, lines)
        if path is not None:
            draw_paths(plot, frame, self.theme, [path])
        plot.end()
        key = (study.name, frame, path.T if path is not None else ())
        if path is not None and self._fitted != key:
            self._fitted = key
            T, P = path.T, path.P
            x0, y0 = frame.xy(min(T) - 15.0, max(min(P) * 0.3, 1e4))
            x1, y1 = frame.xy(max(T) + 30.0, max(P) * 1.25)
            plot.fit_x(float(x0[0]), float(x1[0]))
            plot.fit_y(float(y0[0]) if frame.logarithmic else 0.0, float(y1[0]))

    def draw_labels(self) -> None:
        study, plot, frame = self.study(), self.plots[0], self.frame()
        plot.begin("labels")
        path = self._path(study) if study is not None else None
        if path is not None:
            labels = Labels(plot)
            label_paths(labels, frame, self.theme, [path])
            lines = self.lines()
            if lines is not None:
                label_hydrates(labels, frame, self.theme, lines)
        plot.end()


def _turned(block: Block, name: str) -> Block:
    """Return the row of a stream as a table of its own, a line a column."""
    row = next(i for i, r in enumerate(block.rows) if r[0] == name)
    rows, paths = [], []
    for (title, unit), text, path in zip(block.columns[1:], block.rows[row][1:], block.paths[row][1:]):
        if text:
            rows.append([title[:1].upper() + title[1:], text, unit])
            paths.append(["", path, ""])
    return Block("", [("", ""), ("", ""), ("", "")], rows, paths)


def _line(live: Live) -> str:
    count = sum(s.kind == "process" for s in live.kept())
    return f"{format_number(float(count), 3)} chain{'s' if count != 1 else ''}"


register(
    DeskEntry(
        key="steps", title="Steps", order=50, apart=True, make=StepsDesk, mark=lambda _live: "done", card="answers", kinds=StepsDesk.kinds,
        needs="fluid", line=_line,
        help=(
            "A chain is typed as rows: a step, what it is, the stream it takes, what it does, and the stream it gives. The line above is drawn from them.",
            "What a step does is said in words: to 31 bar, 75 % · to 40 °C, loses 0.3 bar · 5 K at the least · 3 stages, 40 °C between.",
            "Rows stand in any order; the program finds theirs. A loop is opened where that is cheapest and closed, with its rounds told below.",
            "Choose a step in the line or in the rows, and its numbers stand to the right; click a unit there to change it.",
            "Streams: phases by their letters, V vapour, L liquid, A aqueous; margins are kelvin above each limit of the stream's own fluid, with free water assumed.",
            "Standard liquid is the components' liquids at 60 °F summed; the flashed columns are what is there after one flash.",
            "A number's menu offers to vary it, to read it in a sweep, and to make it equal to something.",
            "Every stream is a fluid for other questions: make a fluid of this question's answer.",
            "Duties are magnitudes: a heater adds, a cooler removes. Power is that at the shaft.",
            "`cryonome solve` answers the kept chain with the same numbers.",
        ),
    )
)  # fmt: skip
