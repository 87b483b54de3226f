"""The desk *lab data*: what was measured on the left, its picture on the right."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QLineEdit,
    QMessageBox,
    QSizePolicy,
    QStackedLayout,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ....characterization.methods import CARBON, SHOWN
from ....document import Fault, Sample
from ....document.edits import set_each
from ....document.faults import PathParts
from ....exchange import read_text
from ....units import SETS, format_number, from_si, label
from ...shell.live import Live
from ...widgets.fields import capital, elided, page_button, section, tip, unit_menu
from ...widgets.grid import GridView
from ...widgets.layer import LayerSquare
from ...widgets.letters import pixels, sized
from ..shared.desk import Action, Desk, DeskEntry, register
from .bulk_form import BulkForm
from .carbon_model import CarbonModel
from .invitation import Invitation
from .light_ends_panel import LightEndsPanel
from .method_bar import MethodBar
from .pictures import METHOD_LOOKS, LabPictures
from .reading_panel import ReadingPanel
from .sheet_model import SheetModel

PAGES = ("Sheet", "Light ends", "Reading")
SHEET, LIGHT_ENDS, READING = range(len(PAGES))
ON_SHEET = ("points", "amounts", "tail", "method", "basis", "pressure", "plus")
"""Parts of the measured curve whose faults are told below the sheet."""


class LabDesk(Desk):
    """Whole-sample numbers, the sheet of curves, light ends and reading; the plots of curve, property and yields."""

    shows = frozenset({"sample", "selection"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.title, self.subtitle = section("", "title"), section("", "mute")
        self.bulk = BulkForm(live)
        self.density, self.molar_mass, self.watson = self.bulk.density, self.bulk.molar_mass, self.bulk.watson
        self.bulk_fault = self.bulk.fault
        self.points = SheetModel(live)
        self.carbon = CarbonModel(live)
        self.grid = GridView(self.points)
        self.grid.setAccessibleName("Lab sheet")
        self.grid.unit_clicked.connect(self._choose_unit)
        self.grid.extra_actions = self._grid_actions()
        self.carbon_grid = GridView(self.carbon)
        self.carbon_grid.setAccessibleName("Carbon-number analysis")
        self.carbon_grid.unit_clicked.connect(self._choose_carbon_unit)
        self.carbon_grid.extra_actions = self.grid.extra_actions[:2]
        self.light_ends, self.reading = LightEndsPanel(live), ReadingPanel(live)
        self.curve_fault = section("", "fault")
        self.curve_fault.setWordWrap(True)
        self.curve_note = section("", "mute")
        self.curve_note.setWordWrap(True)
        self.mend = _link("")
        self.mend.linkActivated.connect(self._mend)
        self._proposal: tuple[int, int, str] | None = None
        sheet = QWidget()
        layout = QVBoxLayout(sheet)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(10)
        layout.addLayout(self._heading())
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(self._left(), 4)
        self.pictures = LabPictures(live, self.points, self.carbon, self.shown_as, self._store_display)
        self.curve, self.density_plot, self.bars = self.pictures.curve, self.pictures.density_plot, self.pictures.bars
        body.addLayout(self.pictures.layout(), 7)
        layout.addLayout(body, 1)
        self.title.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        ways: list[tuple[str, str, Callable[[], object]]] = [
            ("Paste", "Take the range on the clipboard", lambda: self.host().paste()),
            ("Import…", "Choose a workbook or a CSV file", lambda: self.host().import_samples()),
            ("Open the demo", "A whole project to look at", lambda: self.host().open_demo()),
        ]
        self.invitation = Invitation(ways)
        self.invitation.typed.connect(self.begin_typing)
        self.whole = QStackedLayout(self)
        self.whole.addWidget(self.invitation)
        self.whole.addWidget(sheet)
        self.grids = [self.grid, self.carbon_grid]
        self.plots = [self.curve, self.density_plot]
        self.themed = [self.light_ends, self.bars, self.invitation, *self.shown_as.values()]

    # -- making --------------------------------------------------------------------------------------------------

    def _heading(self) -> QHBoxLayout:
        self.shown_as = {
            key: LayerSquare(
                key, *METHOD_LOOKS[key], lambda _on: self._store_shown_as(), f"Draw what the sample would show by {key}"
            )
            for key in SHOWN
        }
        out = QHBoxLayout()
        out.addWidget(self.title)
        out.addSpacing(4)
        out.addWidget(self.subtitle, 0, Qt.AlignmentFlag.AlignBottom)
        out.addStretch(1)
        out.addWidget(section("as it would show by", "mute"))
        for square in self.shown_as.values():
            out.addWidget(square)
        return out

    def _left(self) -> QWidget:
        self.how = MethodBar(self._live)
        self.choose_method = self.how.choose_method
        self.pages = QStackedWidget()
        sheet = QStackedWidget()
        sheet.addWidget(self.grid)
        sheet.addWidget(self.carbon_grid)
        self.sheets = sheet
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(sheet, 1)
        column.addWidget(self.curve_fault)
        column.addWidget(self.mend)
        column.addWidget(self.curve_note)
        for part in (page, self.light_ends, self.reading):
            # A page gives way rather than make the window grow when the ledger opens.
            part.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)
            self.pages.addWidget(part)
        self.pages.setMinimumHeight(120)
        chips = QHBoxLayout()
        chips.setSpacing(6)
        self.chips = QButtonGroup(self)
        for i, name in enumerate(PAGES):
            own = page_button(name)
            own.setChecked(i == 0)
            self.chips.addButton(own, i)
            chips.addWidget(own)
        chips.addStretch(1)
        self.add_column = QToolButton()
        self.add_column.setObjectName("link")
        self.add_column.setText("+ column")
        self.add_column.setToolTip("Add viscosities at a temperature, or an amount such as sulphur")
        self.add_column.clicked.connect(self.ask_column)
        chips.addWidget(self.add_column)
        self.chips.idClicked.connect(lambda i: self.show_page(PAGES[i]))
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(6)
        left.addWidget(section("Whole sample"))
        left.addWidget(self.bulk)
        left.addSpacing(4)
        left.addWidget(section("Measured curve"))
        left.addWidget(self.how)
        left.addLayout(chips)
        left.addWidget(self.pages, 1)
        out = QWidget()
        out.setLayout(left)
        sized(out, least_width=320, most_width=400)
        return out

    def _grid_actions(self) -> list[QAction]:
        out = []
        for text, call in (
            ("Insert row", self.insert_row),
            ("Delete rows", self.delete_rows),
            ("Add a column…", self.ask_column),
            ("Remove the column", self.remove_column),
        ):
            action = QAction(text, self)
            action.triggered.connect(lambda _on=False, c=call: c())
            out.append(action)
        return out

    # -- edits ---------------------------------------------------------------------------------------------------

    def _store_display(self, key: str, unit: str) -> None:
        self.bulk.store_display(key, unit)

    def _store_shown_as(self) -> None:
        chosen = tuple(key for key, square in self.shown_as.items() if square.isChecked())
        self._live.set_sample("Draw a method", ("display", "shown_as"), chosen or None)

    def begin_typing(self, text: str) -> None:
        """Make an empty sample and take what is typed in its first cell."""
        self.host().add_sample()
        self.grid.setFocus()
        first = self.points.index(0, 0)
        self.grid.setCurrentIndex(first)
        self.grid.edit(first)
        editor = self.grid.findChild(QLineEdit)
        if editor is not None:
            editor.setText(text)

    def take_paste(self, text: str) -> bool:
        """Take pasted columns of the kind the sheet shows, keeping the others; tell whether it did. What is more than
        that, or of another kind, is left to the window."""
        sample = self._live.current_sample()
        if sample is None:
            return False
        block = [line.split("\t") for line in text.splitlines()]
        carbon = sample.distillation.method == CARBON
        found = read_text(text, sample.name)
        own = all((s.distillation.method == CARBON) == carbon for s in found.samples)
        if (found.holds and (found.fluids or found.tests or len(found.samples) != 1 or not own)) or not _may_be_columns(
            block
        ):
            return False
        view, model = self._sheet()
        replaced = model.replaced(block)
        if replaced and not self._may_replace(replaced, sample.name):
            return True
        if carbon and found.samples:
            # What was read knows names, bases and units that a grid does not.
            read = found.samples[0].distillation
            kept = {k: getattr(read, k) for k in ("amounts", "basis", "plus")}
            self._live.set_sample("Paste an analysis", ("distillation",), sample.distillation.model_copy(update=kept))
        else:
            model.paste(0, 0, block)
        view.setFocus()
        return True

    def _may_replace(self, what: str, name: str) -> bool:
        """Ask once before what stands in a sheet is replaced; undo brings it back all the same."""
        buttons = QMessageBox.StandardButton
        told = f"Replace {what} of {elided(name, 60)}?"
        return QMessageBox.question(self, "Paste", told, buttons.Yes | buttons.No) != buttons.No

    @classmethod
    def actions_offered(cls) -> list[Action]:
        menu = "&Sample"
        return [
            Action(menu, "Insert row", cls.insert_row, "Ctrl+I", True, seen=True),
            Action(menu, "Delete rows", cls.delete_rows, "Ctrl+Delete", seen=True),
            Action(menu, "Add a column…", cls.ask_column, "Ctrl+Alt+N", True, seen=True),
            Action(menu, "Remove the column", cls.remove_column, "Ctrl+Alt+Shift+N", seen=True),
        ]

    def show_page(self, page: str) -> None:
        """Open the sheet, the light ends or the reading."""
        index = PAGES.index(page) if page in PAGES else SHEET
        self.pages.setCurrentIndex(index)
        self.chips.button(index).setChecked(True)
        self._show_page()
        self.add_column.setVisible(index == SHEET and self.sheets.currentIndex() == 0)

    def _show_page(self) -> None:
        """Bring the page that is open up to date; the others wait until they are opened."""
        page = self.pages.currentIndex()
        if page == LIGHT_ENDS:
            self.light_ends.show_sample(self._live.current_sample())
        elif page == READING:
            self.reading.show_sample(self._live.current_sample())

    def select_cell(self, fault: Fault) -> None:
        """Select the cell a fault is of."""
        view, model = self._sheet()
        place = model.place(fault)
        if place is not None:
            view.setCurrentIndex(model.index(*place))
            view.scrollTo(model.index(*place))
            view.setFocus()

    def _choose_unit(self, column: int, position: QPoint) -> None:
        if 1 <= column <= len(self.points.columns):
            own = self.points.columns[column - 1]
            if own.kind in ("temperature", "density", "molar_mass"):
                unit_menu(self, own.kind, own.unit, lambda u: self._store_display(own.kind, u)).exec(position)

    def _choose_carbon_unit(self, column: int, position: QPoint) -> None:
        if column >= 2:
            kind = CarbonModel.KEYS[column]
            unit_menu(self, kind, "", lambda u: self._store_display(kind, u)).exec(position)

    def _sheet(self) -> tuple[GridView, SheetModel | CarbonModel]:
        return (self.grid, self.points) if self.sheets.currentIndex() == 0 else (self.carbon_grid, self.carbon)

    def insert_row(self) -> None:
        """Insert an empty row above the current one."""
        view, model = self._sheet()
        model.insert_row(max(view.currentIndex().row(), 0))

    def delete_rows(self) -> None:
        """Delete the selected rows."""
        view, model = self._sheet()
        model.delete_rows({i.row() for i in view.selectedIndexes()})

    def ask_column(self) -> None:
        """Ask what another column holds: a temperature makes it viscosities, a name an amount."""
        text, ok = QInputDialog.getText(
            self,
            "Add a column",
            "Viscosities at which temperature (40 degC), or an amount and its unit (sulphur, mass%)?",
        )
        if ok and text.strip():
            self.add_named_column(text)

    def add_named_column(self, text: str) -> None:
        """Add a column from what was typed: a temperature, or a name and a unit."""
        first, _, rest = text.partition(",")
        if any(c.isdigit() for c in first):
            self.points.add_viscosity(text.strip())
        else:
            self.points.add_quantity(first.strip(), rest.strip() or "mass%")

    def remove_column(self) -> None:
        """Remove the current column, or empty it where it is one of the fixed ones."""
        self.points.remove_column(self.grid.currentIndex().column())

    def _mend(self) -> None:
        if self._proposal:
            row, column, text = self._proposal
            self.points.store_cells({(row, column): text}, "Take the proposal")

    # -- showing -------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the selected sample."""
        sample = self._live.current_sample()
        shown = self._live.sample
        self.whole.setCurrentIndex(0 if sample is None else 1)
        if sample is None:
            return
        self.title.setText(elided(sample.name) if sample else "No sample")
        self.title.setToolTip(tip(sample.name) if sample else "")
        self.subtitle.setText(sample.note if sample else "add one with Sample ▸ Add sample")
        self.bulk.show_sample(sample)
        self.points.show(sample, shown.faults)
        self.carbon.show(sample, shown.faults)
        carbon = bool(sample and sample.distillation.method == CARBON)
        self.sheets.setCurrentIndex(1 if carbon else 0)
        self._size_columns()
        self.add_column.setVisible(self.pages.currentIndex() == SHEET and not carbon)
        self._show_page()
        self.how.show_sample(sample)
        self._show_chips()
        self._show_curve_faults()
        self.pictures.draw(sample, self.theme)

    def _size_columns(self) -> None:
        carbon = self.carbon_grid.horizontalHeader()
        carbon.setSectionResizeMode(0, carbon.ResizeMode.Fixed)
        carbon.resizeSection(0, pixels(128))
        header = self.grid.horizontalHeader()
        many = len(self.points.columns) > 4
        mode = header.ResizeMode.Interactive if many else header.ResizeMode.Stretch
        header.setSectionResizeMode(mode)
        header.setSectionResizeMode(0, header.ResizeMode.Fixed)
        header.resizeSection(0, pixels(60))
        if many:
            for column in range(1, header.count()):
                header.resizeSection(column, pixels(86))

    def _show_chips(self) -> None:
        """Mark the pages that hold a fault."""
        places: dict[int, bool] = {SHEET: False, LIGHT_ENDS: False, READING: False}
        for fault in self._live.sample.faults:
            part = fault.path[2] if len(fault.path) > 2 else ""
            if part == "light_ends":
                places[LIGHT_ENDS] = True
            elif part == "curves" or (part == "distillation" and not _is_reading(fault.path)):
                places[SHEET] = True
            elif part == "distillation":
                places[READING] = True
        for i, name in enumerate(PAGES):
            self.chips.button(i).setText(f"▲ {name}" if places[i] else name)

    def _show_curve_faults(self) -> None:
        self._proposal = None
        old = self._live.sample.old
        blank = is_blank(self._live.current_sample())
        faults = (
            []
            if blank
            else [
                f
                for f in self._live.sample.faults
                if len(f.path) > 2 and f.path[2] in ("distillation", "curves") and not _is_reading(f.path)
            ]
        )
        self.curve_fault.setVisible(bool(faults))
        self.mend.setVisible(False)
        note = ""
        if faults:
            first = faults[0]
            more = f" (and {len(faults) - 1} more)" if len(faults) > 1 else ""
            self.curve_fault.setText(capital(first.message) + more)
            place = self.points.place(first)
            if first.proposal and place is not None:
                self._proposal = (*place, first.proposal)
                self.mend.setText(f'<a href="mend" style="color:{self.theme.accent}">Take {first.proposal}</a>')
                self.mend.setVisible(True)
            if not old:
                one = len([f for f in faults if f.path[-1] != "points"]) == 1
                note = (
                    "Curve drawn without this point until it is mended."
                    if one
                    else "Curve drawn without these points until they are mended."
                )
        if old and self._live.characterized() is not None:
            note = "The plots show the last good result."
        if blank:
            note = "Paste or type percents and temperatures here; the cuts appear with the fifth point."
        elif self._live.sample.error and not faults:
            self.curve_fault.setText(capital(self._live.sample.error))
            self.curve_fault.setVisible(not any(f.message == self._live.sample.error for f in self._live.sample.faults))
        self.curve_note.setText(note)
        self.curve_note.setVisible(bool(note))


def _is_reading(path: PathParts) -> bool:
    return len(path) > 3 and path[2] == "distillation" and path[3] not in ON_SHEET


def _link(text: str) -> QLabel:
    out = QLabel(text)
    out.setTextInteractionFlags(
        Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
    )
    return out


def is_blank(sample: Sample | None) -> bool:
    """Tell whether nothing was measured in a sample yet, at most a percent typed: it then asks, and has no faults."""
    if sample is None:
        return True
    if any(value not in (None, "") for _, value in sample.distillation.points):
        return False  # the usual case, told without comparing everything
    empty = Sample(name=sample.name, id=sample.id, note=sample.note, display=sample.display)
    curve = sample.distillation
    begun: dict[PathParts, object] = {
        ("distillation", "method"): curve.method,
        ("distillation", "points"): curve.points,
    }
    return sample == set_each(empty, begun)


def _line(live: Live) -> str:
    sample = live.current_sample()
    if sample is None:
        return "paste, drop or type a lab sheet"
    result = live.characterized()
    curve = sample.distillation
    if is_blank(sample):
        return "an empty sheet"
    if curve.method == CARBON:
        count = len(curve.amounts)
        text = f"carbon number, {count} {'row' if count == 1 else 'rows'}"
    else:
        count = len([p for p in curve.points if p != (None, None)]) + len(curve.tail.points if curve.tail else ())
        text = f"{curve.method}, {count} {'point' if count == 1 else 'points'}"
    if result is not None:
        unit = sample.display.density or SETS[live.document.display.units]["density"]
        text += f", {format_number(from_si(result.density, unit, 'density'), 3)} {label(unit)}"
    return text


def _mark(live: Live) -> str:
    sample = live.current_sample()
    if sample is None or is_blank(sample):
        return "open"
    return "look" if live.sample.faults else "done"


def _claims(path: PathParts) -> str | None:
    """Return the page of a fault of the sample, or of a remark about it (by its place)."""
    if path[:1] == ("samples",) and len(path) > 2:
        part = path[2]
        if part == "light_ends":
            return "Light ends"
        return (
            "Reading" if _is_reading(path) else "Sheet" if part not in ("cuts", "correlations", "conversions") else None
        )
    if path[:1] == ("sample",):
        return {"light_ends": "Light ends", "curve": "Reading", "carbon": "Reading"}.get(str(path[1]), "Sheet")
    return None


register(
    DeskEntry(
        key="lab", title="Lab data", order=10, make=LabDesk, mark=_mark, line=_line, needs="sample", claims=_claims,
        help=(
            "Lab data takes what a laboratory measured: a boiling curve by any method, or a carbon-number analysis.",
            "Paste a spreadsheet range with its header, drop a workbook on the window, or type; any unit in any cell.",
            "Property curves (density, molar mass, viscosity, sulphur, …) stand beside on percents of their own.",
            "Whole-sample numbers are optional; muted ones are estimated. A unit typed in a field becomes the field's.",
            "A faulty cell is marked with its reason and often a likely value; the curve goes on without the point.",
            "Light ends: measured amounts, or estimated from the front of the curve.",
            "Reading: how the curve becomes a TBP at 1 atm, how its ends are closed, and what is trusted where numbers clash.",
            "Of a carbon-number analysis the plus fraction is split and may be lumped there.",
            "Beside it, as: draws what the sample would show by another method.",
            "Everything estimated, corrected or extrapolated is listed in the ledger, which leads back to its place.",
        ),
    )
)  # fmt: skip


def _may_be_columns(block: list[list[str]]) -> bool:
    """Tell whether pasted cells can be rows of a sheet: numbers, and no sentences alone."""
    return (
        sum(any(any(c.isdigit() for c in cell) for cell in line) for line in block) >= 1
        and max(map(len, block), default=0) >= 2
    )
