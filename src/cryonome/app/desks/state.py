"""The page *State*: one flash in full. Two conditions are held, the others are its results and are held instead by a click."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ...document import Study
from ...document.edits import add_study, study_path
from ...document.faults import PathParts
from ...document.field_types import RATE
from ...document.kinds import study_kinds
from ...document.reader import EMPTY
from ...eos.building import EQUATIONS
from ...studies.beginning import begun
from ...studies.conditions import CONDITIONS
from ...studies.kinds.flash import BY
from ...units import format_number, from_si, label
from ...wording.entry import entry_of, taken, taken_as
from ..fields import QuantityField, capital, chip_button, elided, section
from ..grid import GridView
from ..live import Live
from ..text_rows import TextRows
from ..theme import LIGHT, Theme
from .desk import Action, DeskEntry, register
from .model import NAMES
from .readout import phase_colour
from .reference_page import ReferencePage
from .state_tables import CONDITION_KEYS, SHARES, compared_table, composition_table, names_of, properties_table, title
from .study_desk import StudyDesk, heading_row

Answer = dict[str, Any]

PAGES = {
    "properties": "Properties",
    "composition": "Composition, K",
    "models": "By equation",
    "reference": "Compared",
}


class ShareBars(QWidget):
    """The shares of the phases by mole, mass and volume as three bars."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(3 * 22)
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
        left = 58.0
        for number, (key, name) in enumerate(SHARES.items()):
            y = 22.0 * number
            painter.setPen(QColor(self.theme.mute))
            where = QRectF(0.0, y, left, 18.0)
            painter.drawText(where, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, name.split(", ")[1])
            painter.setPen(Qt.PenStyle.NoPen)
            wide = self.width() - left
            if not self._phases:
                painter.setBrush(QColor(self.theme.sunk))
                painter.drawRect(QRectF(left, y, wide, 18.0))
            x = left
            for phase in reversed(self._phases):
                painter.setBrush(phase_colour(self.theme, phase["kind"]))
                painter.drawRect(QRectF(x, y, wide * phase[key], 18.0))
                if phase[key] * wide > 44.0:
                    painter.setPen(QColor(self.theme.surface))
                    text = f"{100 * phase[key]:.1f}"
                    painter.drawText(QRectF(x, y, wide * phase[key], 18.0), Qt.AlignmentFlag.AlignCenter, text)
                    painter.setPen(Qt.PenStyle.NoPen)
                x += wide * phase[key]


class StateDesk(StudyDesk):
    """Conditions at the left, the phases' shares below them, tables at the right."""

    shows = frozenset({"selection", "fluid", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.title, self.subtitle = section("State", "title"), section("", "mute")
        self.begin_button = QPushButton("Ask for a state of this fluid")
        self.begin_button.clicked.connect(self.begin_question)
        form = QGridLayout()
        form.setVerticalSpacing(4)
        form.setHorizontalSpacing(8)
        self.fields: dict[str, QuantityField] = {}
        self.holds: dict[str, QToolButton] = {}
        for row, (key, condition) in enumerate(CONDITIONS.items()):
            field = QuantityField(form, row, title(condition.title), condition.kind, partial(self._store, key))
            field.entry.setFixedWidth(94)
            field.input_path = partial(self._input_path, key)
            note = f"Hold the {condition.title} at this value, in place of the condition that was held longest"
            hold = chip_button("hold", lambda _on, k=key: self.hold(k), note)
            hold.setAccessibleName(f"Hold the {condition.title}")
            form.addWidget(hold, row, 4)
            self.fields[key], self.holds[key] = field, hold
        self.rate = QLineEdit()
        self.rate.setAccessibleName("Rate")
        self.rate.setPlaceholderText("rate, for example 12 MMscf/day")
        self.rate.editingFinished.connect(lambda: self._store("rate", self.rate.text()))
        self.rate_by = QComboBox()
        self.rate_by.setAccessibleName("Measure of a volume rate")
        self.rate_by.addItems(list(BY))
        self.rate_by.textActivated.connect(lambda text: self._store("rate_by", text))
        self.told = section("", "fault")
        self.told.setWordWrap(True)
        self.notes = section("", "mute")
        self.notes.setWordWrap(True)
        self.bars = ShareBars()
        self.shares = section("", "")
        self.search = QLineEdit()
        self.search.setAccessibleName("Search properties")
        self.search.setPlaceholderText("search a property, for example heat")
        self.search.setClearButtonEnabled(True)
        self.search.setMinimumWidth(150)
        self.search.textChanged.connect(lambda _t: self._show_table())
        self.table = TextRows([("property", "")])
        self.grid = GridView(self.table)
        self.grid.setAccessibleName("The state")
        self.reference = ReferencePage(self.edit_study)
        self.grids = [self.grid]
        self.themed = [self.reference]
        self.pages = {k: chip_button(words, lambda _on, k=k: self.show_page(k)) for k, words in PAGES.items()}
        self.page = "properties"
        self.chips = {
            n: chip_button(
                NAMES.get(n, n), lambda _on, n=n: self._compare(n), f"The same state by {n} too: {EQUATIONS[n]}"
            )
            for n in EQUATIONS
        }
        self._order: list[str] = []
        self._arrange(form)

    def _arrange(self, form: QGridLayout) -> None:
        heading = heading_row(self.title, self.subtitle)
        rates = QHBoxLayout()
        rates.addWidget(self.rate, 1)
        rates.addWidget(self.rate_by)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addLayout(form)
        left.addLayout(rates)
        left.addWidget(self.bars)
        left.addWidget(self.shares)
        left.addWidget(self.told)
        left.addWidget(self.notes)
        left.addStretch(1)
        side = QWidget()
        side.setLayout(left)
        left.setContentsMargins(0, 0, 0, 0)
        side.setFixedWidth(max(404, side.minimumSizeHint().width()))
        pages = QHBoxLayout()
        pages.setSpacing(6)
        for page in self.pages.values():
            pages.addWidget(page)
        pages.addStretch(1)
        pages.addWidget(self.search, 1)
        chips = QHBoxLayout()
        chips.setSpacing(6)
        for chip in self.chips.values():
            chips.addWidget(chip)
        chips.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addLayout(pages)
        right.addLayout(chips)
        right.addWidget(self.grid, 1)
        right.addWidget(self.reference, 1)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(side)
        body.addLayout(right, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(8)
        layout.addLayout(heading)
        layout.addWidget(self.begin_button, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addLayout(body, 1)

    def actions_offered(self) -> list[Action]:
        return [Action("&Answers", "Ask for a state", self.begin_question, "Ctrl+Alt+S", True)]

    # -- the question ----------------------------------------------------------------------------------------------

    def study(self) -> Study | None:
        """Return the flash about the chosen fluid: the chosen question, else the first."""
        return self._live.study_about("flash")

    def begin_question(self) -> None:
        """Ask for a state of the chosen fluid, where the probe stands."""
        fluid = self._live.current_fluid()
        if fluid is not None:
            new = begun(study_kinds()["flash"], fluid.name, self._live.session.probe, self._live.units())
            self._live.store.edit("Ask for a state", lambda d: add_study(d, new))
        self.host().show_desk("state")

    def _edit(self, values: dict[str, object], text: str) -> None:
        self.edit_study({(key,): value for key, value in values.items()}, text)

    def _input_path(self, key: str) -> PathParts | None:
        """Return where a condition stands in the document, None where it is not held."""
        study = self.study()
        if study is None or getattr(study, key) in EMPTY:
            return None
        return (*study_path(self._live.document, study.name), key)

    def held(self) -> list[str]:
        """Return the conditions held, the one held longest first."""
        study = self.study()
        now = [k for k in CONDITIONS if study is not None and getattr(study, k) not in EMPTY]
        self._order = [k for k in self._order if k in now] + [k for k in now if k not in self._order]
        return self._order

    def _store(self, key: str, text: str) -> None:
        study = self.study()
        if study is None:
            return
        # A field hands its number over with the unit it shows.
        cell: object = taken(text, "")
        if key == "rate":
            cell = taken_as(text, study.rate, RATE, self._live.units())  # type: ignore[attr-defined]
        elif key == "rate_by":
            cell = text
        if cell == getattr(study, key) or (cell in EMPTY and getattr(study, key) in EMPTY):
            return
        values: dict[str, object] = {key: cell}
        if key in CONDITIONS and cell not in EMPTY:
            values.update(self._let_go(key))
        self._edit(values, f"Change the {key.replace('_', ' ')}")

    def _let_go(self, key: str) -> dict[str, object]:
        """Return what is held no more when a further condition is: two fix a state."""
        others = [k for k in self.held() if k != key]
        gone = others[: max(len(others) - 1, 0)]
        self._order = [k for k in others if k not in gone] + [key]
        return dict.fromkeys(gone)

    def hold(self, key: str) -> None:
        """Hold a condition at the value the state has now."""
        answer = self.answer()
        value = None if answer is None else answer.get(CONDITION_KEYS[key])
        if value is None or key in self.held():
            self.refresh()
            return
        kind = CONDITIONS[key].kind
        unit = "" if kind == "fraction" else self._live.units().of_states().unit(kind)
        cell: object = f"{from_si(value, unit, kind):.10g} {unit}" if unit else value
        self._edit({key: cell, **self._let_go(key)}, f"Hold the {CONDITIONS[key].title}")

    def _compare(self, name: str) -> None:
        study = self.study()
        if study is None:
            return
        now = tuple(getattr(study, "equations", ()))
        kept = tuple(n for n in now if n != name) if name in now else (*now, name)
        self._edit({"equations": kept}, "Compare equations")

    def place_probe(self, T: float, P: float) -> None:
        """Hold the temperature and pressure of a place."""
        units = self._live.units()
        cells: dict[str, object] = dict.fromkeys(CONDITIONS)
        for key, value in (("temperature", T), ("pressure", P)):
            unit = units.unit(key)
            cells[key] = f"{from_si(value, unit, key):.8g} {unit}"
        self._edit(cells, "Move the state")

    def show_page(self, page: str) -> None:
        """Open a page of the tables."""
        self.page = page if page in PAGES else self.page
        self.refresh()

    # -- showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the state."""
        study, fluid = self.study(), self._live.current_fluid()
        self.title.setText(f"State of {elided(fluid.name, 34)}" if fluid else "No fluid chosen")
        self.subtitle.setText(elided(study.name, 30) if study else "")
        self.begin_button.setVisible(study is None and fluid is not None)
        for part in (
            self.rate,
            self.rate_by,
            self.bars,
            self.grid,
            self.search,
            *self.pages.values(),
            *self.chips.values(),
        ):
            part.setVisible(study is not None)
        for key, field in self.fields.items():
            field.set_visible(study is not None)
            self.holds[key].setVisible(study is not None)
        shown = None if study is None else self._live.answer(study.name)
        answer = self.answer()
        self._show_form(study, answer)
        faults = [] if shown is None else [f for f in shown.faults if f.severity == "error"]
        value = None if shown is None else shown.value
        told = (
            faults[0].message
            if faults
            else str((value or {}).get("error", "")) or ("" if shown is None else shown.error)
        )
        self.told.setText(capital(told))
        self.told.setVisible(bool(told))
        self.notes.setText("\n".join((answer or {}).get("notes", [])))
        self._show_shares(answer)
        self._show_table()

    def _show_form(self, study: Study | None, answer: Answer | None) -> None:
        held = self.held()
        units = self._live.units().of_states()
        path = None if study is None else study_path(self._live.document, study.name)
        faults = {} if study is None or path is None else {
            f.path[-1]: f.message for f in self._live.answer(study.name).faults
        }  # fmt: skip
        for key, field in self.fields.items():
            kind = CONDITIONS[key].kind
            unit = "%" if kind == "fraction" else units.unit(kind)
            found = None if answer is None else answer.get(CONDITION_KEYS[key])
            cell = None if study is None else getattr(study, key)
            field.show(cell, unit, None if key in held else found, "", faults.get(key, ""))
            self.holds[key].setChecked(key in held)
            self.holds[key].setText("held" if key in held else "hold")
            self.holds[key].setEnabled(key in held or found is not None)
        self.rate.setText("" if study is None else entry_of(study.rate, RATE, units).whole)  # type: ignore[attr-defined]
        self.rate_by.setCurrentText("actual" if study is None else study.rate_by)  # type: ignore[attr-defined]
        for name, chip in self.chips.items():
            chip.setChecked(study is not None and name in getattr(study, "equations", ()))
            fluid = self._live.current_fluid()
            chip.setEnabled(fluid is None or fluid.model.eos != name)

    def _show_shares(self, answer: Answer | None) -> None:
        phases = [] if answer is None else answer["phases"]
        self.bars.show_phases(phases, self.theme)
        text = (
            ", ".join(f"{n} {format_number(100 * p['fraction'], 4)}" for n, p in zip(names_of(answer), phases))
            if answer
            else ""
        )
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
            more = "\nflow " + ", ".join(told)
        self.shares.setText(f"{text} mol%{more}" if text else "")

    def _show_table(self) -> None:
        answer, units = self.answer(), self._live.units()
        fluid = self._live.current_fluid()
        compared = self.page == "reference" and self.study() is not None
        self.grid.setVisible(self.study() is not None and not compared)
        self.reference.setVisible(compared)
        self.reference.show_study(self.study(), answer, units)
        for key, chip in self.pages.items():
            chip.setChecked(key == self.page)
        self.search.setVisible(self.page == "properties" and self.study() is not None)
        for chip in self.chips.values():
            chip.setVisible(self.page == "models" and self.study() is not None)
        if answer is None or fluid is None:
            self.table.show([], titles=[("", "")])
            return
        if self.page == "composition":
            titles, rows = composition_table(answer)
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
    count = sum(s.kind == "flash" for s in live.document.studies)
    return f"{count} states" if count != 1 else "1 state"


register(
    DeskEntry(
        key="state", title="State", order=41, make=StateDesk, mark=lambda _live: "done", line=_line, card="answers",
        needs="fluid",
        help=(
            "One flash in full: two conditions are held, and every other is a result.",
            "Type a value in any unit to hold it; of three the one held longest is let go.",
            "Hold takes a result over as a condition, at the value it has now.",
            "Enthalpy, entropy and internal energy are taken by mole or by mass, as the unit says.",
            "Where several states meet both conditions, the note tells the others.",
            "The bars are the phases' shares by mole, mass and volume.",
            "A rate of any kind gives the flows of the whole and of every phase.",
            "Search finds properties by name or meaning; resting on a row tells what it is.",
            "By equation: the same conditions by other equations, all else of the fluid as it is.",
            "The state is a question of the project: it is kept, undone and solved like any other.",
        ),
    )
)  # fmt: skip
