"""The desk *lab data*: what was measured on the left, its picture on the right."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QSizePolicy,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ...characterization import CharacterizedSample
from ...characterization.methods import METHODS, SHOWN
from ...document import Fault, Sample
from ...document.sample_checks import CARBON, TWO_PART
from ...units import SETS, format_number, from_si, label
from ..fields import elided, section, unit_menu
from ..grid import GridView
from ..live import Live
from ..plot import Plot, Table, pen
from ..theme import Theme
from .bulk_form import BulkForm
from .carbon_model import CarbonModel
from .curve_plots import (
    draw_cuts,
    draw_line,
    draw_points,
    draw_property,
    draw_tail,
    entered_points,
    label_products,
    properties,
    property_tables,
)
from .desk import Desk
from .light_ends_panel import LightEndsPanel
from .method_bar import MethodBar, own_basis
from .reading_panel import ReadingPanel
from .sheet_model import BASIS_LABELS, SheetModel
from .yields import YieldBars

SHEET, LIGHT_ENDS, READING = range(3)
PAGES = ("Sheet", "Light ends", "Reading")
ON_SHEET = ("points", "amounts", "tail", "method", "basis", "pressure")
"""Parts of the measured curve whose faults are told below the sheet."""


class LabDesk(Desk):
    """Whole-sample numbers, the sheet of curves, light ends and reading; the plots of curve, property and yields."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
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
        self.property_key = "density"
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(10)
        layout.addLayout(self._heading())
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(self._left())
        body.addLayout(self._right(), 1)
        layout.addLayout(body, 1)
        self.title.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        live.sample_changed.connect(self.update_desk)

    # -- making --------------------------------------------------------------------------------------------------

    def _heading(self) -> QHBoxLayout:
        self.shown_as = QComboBox()
        self.shown_as.setAccessibleName("Show as")
        self.shown_as.addItem("nothing else", "")
        for key in SHOWN:
            self.shown_as.addItem(key, key)
        self.shown_as.setToolTip("Draw what the sample would show by another method")
        self.shown_as.activated.connect(lambda _i: self._store_shown_as())
        out = QHBoxLayout()
        out.addWidget(self.title)
        out.addSpacing(4)
        out.addWidget(self.subtitle, 0, Qt.AlignmentFlag.AlignBottom)
        out.addStretch(1)
        out.addWidget(section("beside it, as", "mute"))
        out.addWidget(self.shown_as)
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
            chip = QToolButton()
            chip.setObjectName("chip")
            chip.setText(name)
            chip.setCheckable(True)
            chip.setChecked(i == 0)
            self.chips.addButton(chip, i)
            chips.addWidget(chip)
        chips.addStretch(1)
        self.add_column = QToolButton()
        self.add_column.setObjectName("link")
        self.add_column.setText("+ column")
        self.add_column.setToolTip("Add viscosities at a temperature, or an amount such as sulphur")
        self.add_column.clicked.connect(self.ask_column)
        chips.addWidget(self.add_column)
        self.chips.idClicked.connect(self.show_page)
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
        out.setFixedWidth(364)
        return out

    def _right(self) -> QVBoxLayout:
        self.curve = Plot("Boiling curve")
        self.curve.data = self._curve_data
        self.density_plot = Plot("Property curve")
        self.density_plot.data = self._property_data
        self.density_plot.setMinimumHeight(96)
        self.bars = YieldBars(self._live)
        self.property_choice = QComboBox()
        self.property_choice.setAccessibleName("Property shown")
        self.property_choice.activated.connect(lambda _i: self.show_property(str(self.property_choice.currentData())))
        head = QHBoxLayout()
        head.addWidget(self.property_choice)
        head.addStretch(1)
        lower_left = QVBoxLayout()
        lower_left.setSpacing(2)
        lower_left.addLayout(head)
        lower_left.addWidget(self.density_plot, 1)
        lower = QHBoxLayout()
        lower.setSpacing(24)
        lower.addLayout(lower_left, 1)
        lower.addWidget(self.bars, 1)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(self.curve, 3)
        right.addLayout(lower, 2)
        return right

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
        self._store_display("shown_as", str(self.shown_as.currentData()) or "")

    def show_property(self, key: str) -> None:
        """Draw another property."""
        self.property_key = key
        self.refresh()

    def show_page(self, index: int) -> None:
        """Open the sheet, the light ends or the reading."""
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

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        for part in (self.grid, self.carbon_grid, self.light_ends, self.curve, self.density_plot, self.bars):
            part.set_theme(theme)
        self.update_desk()

    def refresh(self) -> None:
        """Show the selected sample."""
        sample = self._live.current_sample()
        shown = self._live.sample
        self.setEnabled(sample is not None)
        self.title.setText(elided(sample.name) if sample else "No sample")
        self.title.setToolTip(sample.name if sample else "")
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
        self._draw(sample)

    def _size_columns(self) -> None:
        carbon = self.carbon_grid.horizontalHeader()
        carbon.setSectionResizeMode(0, carbon.ResizeMode.Fixed)
        carbon.resizeSection(0, 128)
        header = self.grid.horizontalHeader()
        many = len(self.points.columns) > 4
        mode = header.ResizeMode.Interactive if many else header.ResizeMode.Stretch
        header.setSectionResizeMode(mode)
        header.setSectionResizeMode(0, header.ResizeMode.Fixed)
        header.resizeSection(0, 60)
        if many:
            for column in range(1, header.count()):
                header.resizeSection(column, 86)

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
        faults = [
            f for f in self._live.sample.faults
            if len(f.path) > 2 and f.path[2] in ("distillation", "curves") and not _is_reading(f.path)
        ]  # fmt: skip
        self.curve_fault.setVisible(bool(faults))
        self.mend.setVisible(False)
        note = ""
        if faults:
            first = faults[0]
            more = f" (and {len(faults) - 1} more)" if len(faults) > 1 else ""
            text = first.message[:1].upper() + first.message[1:]
            self.curve_fault.setText(text + more)
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
        if self._live.sample.error and not faults:
            self.curve_fault.setText(self._live.sample.error[:1].upper() + self._live.sample.error[1:] + ".")
            self.curve_fault.setVisible(not any(f.message == self._live.sample.error for f in self._live.sample.faults))
        self.curve_note.setText(note)
        self.curve_note.setVisible(bool(note))

    def _draw(self, sample: Sample | None) -> None:
        result = self._live.characterized()
        unit = self.points.unit
        t = self.theme
        self.curve.item.clear()
        curve = sample.distillation if sample else None
        basis = (curve.basis or own_basis(curve.method)) if curve else "volume"
        plain = curve is None or curve.method == CARBON or (curve.method == "TBP" and basis == "volume")
        self.curve.set_titles(
            f"Distilled, {BASIS_LABELS['volume'] if plain else BASIS_LABELS.get(basis, '%')}",
            f"{'Boiling point' if plain or curve is None else curve.method}, {label(unit)}",
        )
        caption = []
        if result is not None:
            colour = t.mute if self._live.sample.old else t.ink
            draw_cuts(self.curve, result, unit, t)
            if result.entered is not None and not plain:
                draw_line(self.curve, result.entered, unit, colour)
                draw_line(self.curve, result.curve, unit, t.accent, 1.4)
                caption += ["ink: measured", "plum: TBP, vol%"]
            else:
                draw_line(self.curve, result.curve, unit, colour)
                carbon = curve is not None and curve.method == CARBON
                caption += ["line: boiling points of the groups"] if carbon else ["points: measured", "line: smoothed"]
            caption.append("steps: cuts")
            self._draw_shown_as(sample, result, unit, caption)
        if sample is not None:
            draw_points(self.curve, sample, unit, t)
            if curve is not None and curve.method == TWO_PART:
                draw_tail(self.curve, sample, unit, t)
        self.curve.box.autoRange(padding=0.03)
        self.curve.box.setXRange(0, 100, padding=0.0)
        if result is not None:
            label_products(self.curve, result, unit, t)
        self.curve.caption.setText("   ".join(caption))
        self._draw_property(sample, result)
        self.bars.refresh()

    def _draw_shown_as(self, sample: Sample | None, result: CharacterizedSample, unit: str, caption: list[str]) -> None:
        key = (sample.display.shown_as if sample else None) or ""
        place = self.shown_as.findData(key)
        self.shown_as.setCurrentIndex(max(place, 0))
        if key not in SHOWN:
            return
        x = np.linspace(0.0, 1.0, 101)
        T = result.shown_as(key, x)
        y = [from_si(float(v), unit, "temperature") for v in T]
        self.curve.item.plot(100 * x, y, pen=pen(self.theme.vapour, 1.8, Qt.PenStyle.DashDotLine))
        at = ", 10 mmHg" if key == "D1160" else ""
        caption.append(f"dash-dot: {key}{at}")

    def _units(self, sample: Sample | None) -> dict[str, str]:
        units = dict(SETS[self._live.document.display.units])
        if sample:
            units.update({k: v for k, v in sample.display.model_dump().items() if v and k in units})
        units["temperature"] = self.points.unit
        return units

    def _draw_property(self, sample: Sample | None, result: CharacterizedSample | None) -> None:
        self.density_plot.item.clear()
        found = properties(sample, result, self._units(sample)) if sample and result else []
        if [self.property_choice.itemData(i) for i in range(self.property_choice.count())] != [p.key for p in found]:
            self.property_choice.clear()
            for p in found:
                self.property_choice.addItem(p.title, p.key)
        for i, p in enumerate(found):
            self.property_choice.setItemText(i, p.title)
        chosen = next((p for p in found if p.key == self.property_key), found[0] if found else None)
        if chosen is None:
            self.density_plot.set_titles("", "")
            return
        self.property_choice.setCurrentIndex(found.index(chosen))
        self.density_plot.set_titles("", f"{chosen.unit}{'' if chosen.measured else ', estimated'}")
        draw_property(self.density_plot, chosen, self.theme)
        self.density_plot.box.autoRange(padding=0.06)
        self.density_plot.box.setXRange(0, 100, padding=0.0)

    # -- data ----------------------------------------------------------------------------------------------------

    def _curve_data(self) -> list[Table]:
        sample, result = self._live.current_sample(), self._live.characterized()
        unit = self.points.unit
        out: list[Table] = []
        x = np.linspace(0.0, 1.0, 201)
        if sample is not None:
            good, _ = entered_points(sample)
            percent = self.points.titles()[0][1]
            values = [from_si(v, unit, "temperature") for _, v in good]
            out.append(("measured", [percent, label(unit)], [[p for p, _ in good], values]))
        if result is not None:
            y = [from_si(v, unit, "temperature") for v in result.curve.at(x)]
            out.append(("TBP", ["vol%", label(unit)], [(100 * x).tolist(), y]))
            key = (sample.display.shown_as if sample else None) or ""
            if key in SHOWN:
                y = [from_si(float(v), unit, "temperature") for v in result.shown_as(key, x)]
                out.append((key, [BASIS_LABELS[METHODS[key].basis], label(unit)], [(100 * x).tolist(), y]))
        return out

    def _property_data(self) -> list[Table]:
        sample, result = self._live.current_sample(), self._live.characterized()
        found = properties(sample, result, self._units(sample)) if sample and result else []
        return [t for p in found if p.key == self.property_key for t in property_tables(p)]


def _is_reading(path: tuple) -> bool:
    return len(path) > 3 and path[2] == "distillation" and path[3] not in ON_SHEET


def _link(text: str) -> QLabel:
    out = QLabel(text)
    out.setTextInteractionFlags(
        Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
    )
    return out


def summary(live: Live) -> str:
    """Return the one line the trail's card shows."""
    sample = live.current_sample()
    if sample is None:
        return "no sample"
    result = live.characterized()
    curve = sample.distillation
    if curve.method == CARBON:
        text = f"carbon number, {len(curve.amounts)} rows"
    else:
        count = len([p for p in curve.points if p != (None, None)]) + len(curve.tail.points if curve.tail else ())
        text = f"{curve.method}, {count} points"
    if result is not None:
        unit = sample.display.density or SETS[live.document.display.units]["density"]
        text += f", {format_number(from_si(result.density, unit, 'density'), 3)} {label(unit)}"
    return text
