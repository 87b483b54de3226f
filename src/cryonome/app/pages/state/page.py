"""The page *State*: one flash in full, its phases as bars and over carbon number, its tables."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from ....document.conditions import CONDITIONS
from ....document.faults import PathParts
from ....document.field_types import Cell
from ....units import format_number, from_si, label
from ...shell.live import Live
from ...widgets.fields import page_button, section
from ...widgets.grid import GridView
from ...widgets.letters import letter_scale, sized
from ...widgets.plot import Plot
from ...widgets.text_rows import TextRows
from ...widgets.theme import LIGHT, Theme
from ..map.readout import phase_colour
from ..shared.desk import Action, DeskEntry, register
from ..shared.phases_picture import draw_phases
from ..shared.reference_page import ReferencePage
from ..shared.study_desk import StudyDesk, side_by_side
from .tables import CONDITION_KEYS, SHARES, compared_table, composition_table, fugacity_table, properties_table

Answer = dict[str, Any]

PAGES = {
    "properties": "Properties",
    "composition": "Composition",
    "fugacity": "Fugacity",
    "models": "Equations",
    "reference": "Compared",
}

BY_WORDS = {"mole": "mol%", "mass": "wt%", "volume": "vol% of liquids"}
"""What a composition may be by, as it is offered."""


class ShareBars(QWidget):
    """The shares of the phases by mole, mass and volume as three bars."""

    def __init__(self) -> None:
        super().__init__()
        sized(self, fixed_height=3 * 22)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.theme: Theme = LIGHT
        self._phases: list[Answer] = []

    def show_phases(self, phases: list[Answer], theme: Theme) -> None:
        """Show the phases of an answer."""
        self._phases, self.theme = phases, theme
        self.update()
        told = [", ".join(f"{p['kind']} {100 * p[k]:.2f} %" for p in phases) for k in SHARES]
        self.setToolTip("\n".join(f"{n}: {t}" for n, t in zip(SHARES.values(), told)) if phases else "")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        k = letter_scale()
        left = 58.0 * k
        for number, (key, name) in enumerate(SHARES.items()):
            y = 22.0 * k * number
            painter.setPen(QColor(self.theme.mute))
            where = QRectF(0.0, y, left, 18.0 * k)
            painter.drawText(where, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, name.split(", ")[1])
            painter.setPen(Qt.PenStyle.NoPen)
            wide = self.width() - left
            if not self._phases:
                painter.setBrush(QColor(self.theme.sunk))
                painter.drawRect(QRectF(left, y, wide, 18.0 * k))
            x = left
            for phase in reversed(self._phases):
                painter.setBrush(phase_colour(self.theme, phase["kind"]))
                painter.drawRect(QRectF(x, y, wide * phase[key], 18.0 * k))
                if phase[key] * wide > 44.0 * k:
                    painter.setPen(QColor(self.theme.surface))
                    text = f"{100 * phase[key]:.1f}"
                    painter.drawText(QRectF(x, y, wide * phase[key], 18.0 * k), Qt.AlignmentFlag.AlignCenter, text)
                    painter.setPen(Qt.PenStyle.NoPen)
                x += wide * phase[key]


class StateDesk(StudyDesk):
    """The sentence of a flash; its phases as bars and over carbon number at the left, tables at the right."""

    kinds = ("flash",)
    shows = frozenset({"selection", "fluid", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.bars = ShareBars()
        self.flows = section("", "mute")
        self.flows.setWordWrap(True)
        self.notes = section("", "mute")
        self.notes.setWordWrap(True)
        self.plot = Plot("Composition of the phases")
        self.plots = [self.plot]
        self.search = QLineEdit()
        self.search.setAccessibleName("Search properties")
        self.search.setPlaceholderText("search a property")
        self.search.setClearButtonEnabled(True)
        self.search.setMinimumWidth(90)
        self.search.textChanged.connect(lambda _t: self._show_table())
        self.table = TextRows([("property", "")])
        self.grid = GridView(self.table)
        self.grid.setAccessibleName("The state")
        self.reference = ReferencePage(self.edit_study)
        self.grids = [self.grid]
        self.themed = [self.reference]
        self.pages = {k: page_button(words, lambda _on, k=k: self.show_page(k)) for k, words in PAGES.items()}
        self.page = "properties"
        self.by = QComboBox()
        self.by.setAccessibleName("Composition by")
        for key, words in BY_WORDS.items():
            self.by.addItem(words, key)
        self.by.activated.connect(lambda _i: self.refresh())
        self._order: list[str] = []
        self._arrange()

    def _arrange(self) -> None:
        side = QWidget()
        left = QVBoxLayout(side)
        left.setSpacing(6)
        left.addWidget(self.bars)
        left.addWidget(self.flows)
        left.addWidget(self.plot, 1)
        left.addWidget(self.notes)
        left.setContentsMargins(0, 0, 0, 0)
        right_side = QWidget()
        pages = QHBoxLayout()
        pages.setSpacing(0)
        for page in self.pages.values():
            pages.addWidget(page)
        pages.addStretch(1)
        finding = QHBoxLayout()
        finding.addWidget(self.by)
        finding.addWidget(self.search, 1)
        right = QVBoxLayout(right_side)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(8)
        right.addLayout(pages)
        right.addLayout(finding)
        right.addWidget(self.grid, 1)
        right.addWidget(self.reference, 1)
        self.body = side_by_side(side, right_side, (2, 3), (400, 620))
        self.lay_out(self.body)

    @classmethod
    def actions_offered(cls) -> list[Action]:
        return [Action("&Answers", "Ask for a state", cls.begin_question, "Ctrl+Alt+S", True)]

    # -- the question ----------------------------------------------------------------------------------------------

    def begin_question(self) -> None:
        """Show a draft of a state of the chosen fluid."""
        self.host().show_desk("state")
        self.ask_another()

    def known(self, answer: Answer) -> dict[str, Cell]:
        """Return the conditions that the state has, for a blank that becomes one of them."""
        units = self._live.units().of_states()
        out: dict[str, Cell] = {}
        for key, condition in CONDITIONS.items():
            value = answer.get(CONDITION_KEYS[key])
            if value is not None:
                unit = "" if condition.kind == "fraction" else units.unit(condition.kind)
                out[key] = f"{from_si(value, unit, condition.kind):.6g} {unit}" if unit else value
        if answer.get("molar_volume_m3_mol") is not None:
            unit = units.unit("molar_volume")
            out["molar_volume"] = f"{from_si(answer['molar_volume_m3_mol'], unit, 'molar_volume'):.6g} {unit}"
        return out

    def place_probe(self, T: float, P: float) -> None:
        """Hold the temperature and pressure of a place."""
        units = self._live.units()
        cells: dict[PathParts, object] = {(k,): None for k in CONDITIONS}
        for key, value in (("temperature", T), ("pressure", P)):
            unit = units.unit(key)
            cells[(key,)] = f"{from_si(value, unit, key):.8g} {unit}"
        self.edit_study(cells, "Move the state")

    def show_page(self, page: str) -> None:
        """Open a page of the tables."""
        self.page = page if page in PAGES else self.page
        self.refresh()

    # -- showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the state."""
        study = self.show_head()
        self.body.setVisible(study is not None)
        if study is None:
            return
        answer = self.answer()
        self.notes.setText("\n".join((answer or {}).get("notes", [])))
        self._show_shares(answer)
        self._show_table()
        self.plot.set_faint(self._live.answer(study.name).old)
        by = str(self.by.currentData())
        if answer is None or not self.told.isHidden():
            self.plot.wipe()
        else:
            draw_phases(self.plot, answer, self._live.model(), by, self.theme)

    def _show_shares(self, answer: Answer | None) -> None:
        self.bars.show_phases([] if answer is None else answer["phases"], self.theme)
        rates = (answer or {}).get("rates")
        more = ""
        if rates:
            units = self._live.units()
            told = [
                f"{format_number(from_si(rates[k], units.unit(kind), kind), 5)} {label(units.unit(kind))}"
                for k, kind in (
                    ("mole_mol_s", "molar_rate"),
                    ("mass_kg_s", "mass_rate"),
                    ("actual_m3_s", "actual_rate"),
                )
            ]
            more = "flow " + ", ".join(told)
        self.flows.setText(more)
        self.flows.setVisible(bool(more))

    def _show_table(self) -> None:
        answer, units = self.answer(), self._live.units()
        fluid = self._live.current_fluid()
        compared = self.page == "reference" and self.study() is not None
        self.grid.setVisible(self.study() is not None and not compared)
        self.reference.setVisible(compared)
        self.reference.show_study(self.study(), answer, units)
        for key, word in self.pages.items():
            word.setChecked(key == self.page)
        self.search.setVisible(self.page == "properties")
        self.by.setVisible(self.page == "composition")
        if answer is None or fluid is None:
            self.table.show([], titles=[("", "")])
            return
        if self.page == "composition":
            titles, rows = composition_table(answer, self._live.model(), str(self.by.currentData()))
        elif self.page == "fugacity":
            titles, rows = fugacity_table(answer, units)
        elif self.page == "models":
            titles, rows = compared_table(answer, fluid.model.eos, units)
        else:
            found, study = properties_table(answer, units, self.search.text()), self.study()
            titles, rows = found.titles, found.rows
            self.table.explain(found.tips)
            self.table.read_from(study.name if study is not None else "", found.paths)
        if self.page != "properties":
            self.table.explain([])
            self.table.read_from("", [])
        self.table.show(rows, titles=titles)
        header = self.grid.horizontalHeader()
        for column in range(header.count()):
            wide = (column == 0) != (self.page == "models")
            mode = header.ResizeMode.Stretch if wide else header.ResizeMode.ResizeToContents
            header.setSectionResizeMode(column, mode)


def _line(live: Live) -> str:
    count = sum(s.kind == "flash" for s in live.kept())
    return f"{count} states" if count != 1 else "1 state"


register(
    DeskEntry(
        key="state", title="State", order=42, apart=True, make=StateDesk, mark=lambda _live: "done", line=_line, card="answers",
        needs="fluid", kinds=StateDesk.kinds,
        help=(
            "One flash in full: the sentence holds two conditions, and every other is a result.",
            "Right-click a condition to let it become another: enthalpy, entropy, density, a share of vapour, at the value it has now.",
            "Enthalpy, entropy and internal energy are taken by mole or by mass, as the unit says.",
            "Where several states meet both conditions, the note tells the others.",
            "The bars are the phases' shares by mole, mass and volume; below them stands what each consists of, by carbon number.",
            "A rate of any kind gives the flows of the whole and of every phase.",
            "Search finds properties by name or meaning; resting on a row tells what it is.",
            "Composition: the whole and the phases side by side, by mole, mass or volume, with K-values.",
            "'beside' names other equations: the same conditions by each, all else of the fluid as it is.",
            "The state is a question of the project once it is kept: undone and solved like any other.",
        ),
    )
)  # fmt: skip
