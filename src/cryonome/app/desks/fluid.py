"""The desk *fluid*: the parts and their amounts, the equation of state, and a picture of the composition."""

from __future__ import annotations

import contextlib

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import (
    QComboBox,
    QCompleter,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ...components import UnknownComponentError, all_components, find
from ...document import Fault, Fluid, FluidPart
from ...document.edits import update_fluid
from ...document.model import Pseudo, Recombination, Series
from ...eos import FORMS
from ...studies.inputs import FluidModel
from ...units import SETS as UNIT_SETS
from ...units import QuantityError, from_si, label, split
from ..fields import elided, section
from ..grid import GridModel, GridView
from ..live import Live
from ..plot import Plot, Table
from ..theme import Theme
from .desk import Desk
from .part_form import PartForm, RecombinationForm

BASES = ("mole", "mass", "volume")


class PartsModel(GridModel):
    """The parts of the selected fluid with their amounts and what they make."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._parts: tuple[FluidPart, ...] = ()
        self._faults: dict[tuple[int, int], str] = {}

    def show(self, fluid: Fluid | None, faults: list[Fault]) -> None:
        """Show a fluid."""
        parts = fluid.parts if fluid else ()
        same = len(parts) == len(self._parts)
        self._parts = parts
        self._faults = {}
        for fault in faults:
            if len(fault.path) >= 4 and fault.path[2] == "parts" and isinstance(fault.path[3], int):
                column = 1 if fault.path[-1] == "amount" else 0
                self._faults[fault.path[3], column] = fault.message
        if same:
            self.rewrite()
        else:
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        fluid = self._live.current_fluid()
        return [("part", ""), ("amount", f"by {fluid.basis}" if fluid else ""), ("moles", "%"), ("mass", "%")]

    def rows(self) -> int:
        return len(self._parts)

    def text(self, row: int, column: int) -> str:
        part = self._parts[row]
        if column == 0:
            for value, kind in ((part.sample, "sample"), (part.fluid, "fluid")):
                if value is not None:
                    return f"{value} ({kind})"
            if part.series is not None:
                return f"{part.series.name} (series)"
            return (
                part.component if part.component is not None else f"{part.pseudo.name if part.pseudo else ''} (pseudo)"
            )
        if column == 1:
            return (
                ""
                if part.amount is None
                else f"{part.amount:g}"
                if isinstance(part.amount, (int, float))
                else part.amount
            )
        shares = self._shares(part)
        return "" if shares is None else f"{100 * shares[column - 2]:.2f}"

    def _shares(self, part: FluidPart) -> tuple[float, float] | None:
        model = self._live.fluid.value
        if not isinstance(model, FluidModel) or self._live.fluid.old:
            return None
        if part.component is not None:
            try:
                name = find(part.component).name
            except UnknownComponentError:
                return None
        else:
            name = part.sample or (part.pseudo.name if part.pseudo else "") or (part.series.name if part.series else "")
        mine = np.array([name in o.split(" + ") for o in model.origin])
        if part.fluid is not None or any(mine[i] and " + " in o for i, o in enumerate(model.origin)):
            # What several parts share cannot be told apart once it is joined.
            return None
        mass = model.z * model.molar_mass
        return float(model.z[mine].sum()), float(mass[mine].sum() / mass.sum())

    def fault(self, row: int, column: int) -> str:
        return self._faults.get((row, column), "")

    def editable(self, row: int, column: int) -> bool:
        return column == 1 or (column == 0 and self._parts[row].component is not None)

    def edit_text(self, row: int, column: int) -> str:
        return (self._parts[row].component or "") if column == 0 else self.text(row, column)

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def muted(self, row: int, column: int) -> bool:
        return column >= 2

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        parts = list(self._parts)
        for (row, column), value in cells.items():
            while row >= len(parts):
                parts.append(FluidPart(component="", amount=None))
            if column == 1:
                parts[row] = parts[row].model_copy(update={"amount": _amount(value)})
            elif column == 0 and parts[row].component is not None:
                parts[row] = parts[row].model_copy(update={"component": value.strip()})
        self.keep(parts, text)

    def paste(self, row: int, column: int, block: list[list[str]]) -> None:
        """Take pasted names and amounts: known names are matched to parts, others added; a header row is left out."""
        block = [[c.strip() for c in line] for line in block if any(c.strip() for c in line)]
        if not block or max(len(line) for line in block) < 2 or column != 0:
            super().paste(row, column, block)
            return
        if not any(_number(c) for c in block[0][1:]):
            block = block[1:]
        parts = list(self._parts)
        for line in block:
            name = line[0]
            with contextlib.suppress(UnknownComponentError):  # kept as typed, and marked
                name = find(name).name
            amount = _amount(next((c for c in line[1:] if c), ""))
            place = next((i for i, p in enumerate(parts) if _part_name(p) == name), None)
            if place is None:
                parts.append(FluidPart(component=name, amount=amount))
            else:
                parts[place] = parts[place].model_copy(update={"amount": amount})
        self.keep(parts, "Paste a composition")

    def keep(self, parts: list[FluidPart], text: str) -> None:
        """Store the parts as one undoable step."""
        name = self._live.fluid_name
        self._live.store.edit(
            text, lambda d: update_fluid(d, name, lambda f: f.model_copy(update={"parts": tuple(parts)}))
        )


def _part_name(part: FluidPart) -> str:
    if part.component is not None:
        try:
            return find(part.component).name
        except UnknownComponentError:
            return part.component
    inner = part.pseudo or part.series
    return part.sample or part.fluid or (inner.name if inner else "")


def _number(text: str) -> bool:
    try:
        split(text)
    except QuantityError:
        return False
    return True


def _amount(text: str) -> float | str | None:
    text = text.strip()
    if not text:
        return None
    try:
        number, unit = split(text)
    except QuantityError:
        return text
    return number if unit in ("", "%") else text


class FluidDesk(Desk):
    """Parts on the left; model and composition on the right."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        self.title, self.subtitle = section("", "title"), section("", "mute")
        self.parts = PartsModel(live)
        self.grid = GridView(self.parts)
        self.grid.setAccessibleName("Parts")
        remove = QAction("Remove parts", self)
        remove.triggered.connect(self.remove_parts)
        self.grid.extra_actions = [remove]
        self.entry = QLineEdit()
        self.entry.setPlaceholderText("Add a component, a sample or a fluid")
        self.entry.setAccessibleName("Add a component")
        self._names = QStringListModel(self)
        completer = QCompleter(self._names, self)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.entry.setCompleter(completer)
        self.amount = QLineEdit()
        self.amount.setPlaceholderText("amount")
        self.amount.setFixedWidth(84)
        self.amount.setAlignment(Qt.AlignmentFlag.AlignRight)
        add = self.add = QPushButton("Add")
        add.clicked.connect(self.add_part)
        self.entry.returnPressed.connect(self.amount.setFocus)
        self.amount.returnPressed.connect(self.add_part)
        self.fault = section("", "fault")
        self.fault.setWordWrap(True)

        self.basis, self.equation, self.kij = QComboBox(), QComboBox(), QComboBox()
        self.basis.addItems(BASES)
        for name, member in FORMS.items():
            self.equation.addItem(name)
            self.equation.setItemData(self.equation.count() - 1, member.source, Qt.ItemDataRole.ToolTipRole)
        self.kij.addItem("library", "library")
        self.kij.addItem("all zero", "zero")
        self.basis.textActivated.connect(lambda t: self._change({"basis": t}, "Change the basis"))
        self.equation.textActivated.connect(lambda t: self._change_model({"eos": t}, "Choose the equation"))
        self.kij.activated.connect(
            lambda _i: self._change_model({"kij": self.kij.currentData()}, "Choose interaction parameters")
        )
        self.source = section("", "mute")
        self.source.setWordWrap(True)
        self.pairs = QLineEdit()
        self.pairs.setAccessibleName("Own interaction parameters")
        self.pairs.setPlaceholderText("methane, n-decane, 0.04; …")
        self.pairs.editingFinished.connect(self._store_pairs)
        self.pair_fault = section("", "fault")
        self.pair_fault.setWordWrap(True)

        self.plot = Plot("Composition")
        self.plot.data = self._data
        self.plot.set_titles("Boiling point", "Share of the fluid, mol%")

        heading = QHBoxLayout()
        heading.addWidget(self.title)
        heading.addSpacing(4)
        heading.addWidget(self.subtitle, 0, Qt.AlignmentFlag.AlignBottom)
        heading.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(6)
        self.parts_head = section("Parts")
        self.recombination = RecombinationForm(live)
        self.form = PartForm(live)
        # Hidden from the start: a page not yet seen counts with its full height.
        self.recombination.hide()
        self.form.hide()
        self.grid.selectionModel().currentChanged.connect(lambda *_: self._show_form())
        more = QToolButton()
        more.setObjectName("link")
        more.setText("+ more")
        more.setToolTip("Add a pseudo-component or a series, or recombine two fluids")
        more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(more)
        menu.addAction("A pseudo-component", self.add_pseudo)
        menu.addAction("A series over a boiling range", self.add_series)
        menu.addSeparator()
        menu.addAction("Recombine a liquid and a gas", self.recombine)
        menu.addAction("Back to parts", self.back_to_parts)
        more.setMenu(menu)
        above = QHBoxLayout()
        above.addWidget(self.parts_head)
        above.addStretch(1)
        above.addWidget(more)
        left.addLayout(above)
        left.addWidget(self.recombination, 1)
        left.addWidget(self.grid, 1)
        adding = QHBoxLayout()
        adding.addWidget(self.entry, 1)
        adding.addWidget(self.amount)
        adding.addWidget(add)
        left.addLayout(adding)
        left.addWidget(self.fault)
        left.addWidget(self.form)
        form = QGridLayout()
        form.setHorizontalSpacing(12)
        form.setVerticalSpacing(6)
        rows = (("Amounts by", self.basis), ("Equation of state", self.equation), ("Interaction parameters", self.kij))
        for row, (name, widget) in enumerate(rows):
            caption = section(name, "mute")
            caption.setBuddy(widget)
            widget.setFixedWidth(132)
            form.addWidget(caption, row, 0)
            form.addWidget(widget, row, 1)
        form.addWidget(self.source, 1, 2)
        form.addWidget(section("Own pairs", "mute"), 3, 0)
        form.addWidget(self.pairs, 3, 1, 1, 2)
        form.addWidget(self.pair_fault, 4, 1, 1, 2)
        form.setColumnStretch(2, 1)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(section("Model"))
        right.addLayout(form)
        right.addSpacing(8)
        right.addWidget(self.plot, 1)
        body = QHBoxLayout()
        body.setSpacing(28)
        body.addLayout(left, 1)
        body.addLayout(right, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(10)
        layout.addLayout(heading)
        layout.addLayout(body, 1)
        live.fluid_changed.connect(self.update_desk)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.grid.set_theme(theme)
        self.plot.set_theme(theme)
        self.update_desk()

    # -- edits ---------------------------------------------------------------------------------------------------

    def _change(self, update: dict[str, object], text: str) -> None:
        name = self._live.fluid_name
        self._live.store.edit(text, lambda d: update_fluid(d, name, lambda f: f.model_copy(update=update)))

    def _change_model(self, update: dict[str, object], text: str) -> None:
        fluid = self._live.current_fluid()
        if fluid is not None:
            self._change({"model": fluid.model.model_copy(update=update)}, text)

    def add_part(self) -> None:
        """Add what the entry names: a sample of the document, else a databank component."""
        text, fluid = self.entry.text().strip(), self._live.current_fluid()
        if not text or fluid is None:
            return
        amount = _amount(self.amount.text())
        if self._live.document.sample(text) is not None:
            part = FluidPart(sample=text, amount=amount)
        elif self._live.document.fluid(text) is not None and text != fluid.name:
            part = FluidPart(fluid=text, amount=amount)
        else:
            try:
                part = FluidPart(component=find(text).name, amount=amount)
            except UnknownComponentError as error:
                self._say(str(error))
                return
        if any(_part_name(p) == _part_name(part) for p in fluid.parts):
            self._say(f"{_part_name(part)} is in the fluid already; change its amount there")
            return
        self.parts.keep([*fluid.parts, part], f"Add {_part_name(part)}")
        self.entry.clear()
        self.amount.clear()
        self.entry.setFocus()

    def _add(self, part: FluidPart) -> None:
        fluid = self._live.current_fluid()
        if fluid is not None and fluid.recombination is None:
            self.parts.keep([*fluid.parts, part], f"Add {_part_name(part)}")
            self.grid.setCurrentIndex(self.parts.index(len(fluid.parts), 0))

    def _free(self, wanted: str) -> str:
        fluid = self._live.current_fluid()
        taken = {_part_name(p) for p in fluid.parts} if fluid else set()
        return next(n for n in (wanted, *(f"{wanted} {k}" for k in range(2, 1000))) if n not in taken)

    def add_pseudo(self) -> None:
        """Add a pseudo-component; whatever is known of it goes in the form below."""
        self._add(FluidPart(pseudo=Pseudo(name=self._free("Pseudo"), nbp="150 degC"), amount=1))

    def add_series(self) -> None:
        """Add pseudo-components at equal steps over a boiling range."""
        series = Series(name=self._free("Series"), start="350 degC", end="720 degC", step="35 K")
        self._add(FluidPart(series=series, amount=1))

    def recombine(self) -> None:
        """Make the fluid of a separator's liquid and gas; undo brings its parts back."""
        fluid = self._live.current_fluid()
        others = [f.name for f in self._live.document.fluids if fluid is None or f.name != fluid.name]
        if fluid is None or fluid.recombination is not None:
            return
        if len(others) < 2:
            self._say("recombining takes two other fluids, the liquid and the gas; add them first")
            return
        made = Recombination(
            liquid=others[0], gas=others[1], gas_oil_ratio="100 sm3/m**3", temperature="40 degC", pressure="20 bar"
        )
        self._change({"recombination": made, "parts": ()}, "Recombine a liquid and a gas")

    def back_to_parts(self) -> None:
        """Make a recombined fluid one of its two fluids as parts again."""
        fluid = self._live.current_fluid()
        if fluid is not None and fluid.recombination is not None:
            made = fluid.recombination
            parts = (FluidPart(fluid=made.liquid, amount=50), FluidPart(fluid=made.gas, amount=50))
            self._change({"recombination": None, "parts": parts}, "Back to parts")

    def _show_form(self) -> None:
        fluid = self._live.current_fluid()
        self.form.show_part(self.grid.currentIndex().row() if fluid and not fluid.recombination else -1)

    def _say(self, text: str) -> None:
        self.fault.setText(text[:1].upper() + text[1:] + ("" if text.endswith("?") else "."))
        self.fault.setVisible(True)

    def remove_parts(self) -> None:
        """Remove the selected parts."""
        fluid = self._live.current_fluid()
        rows = {i.row() for i in self.grid.selectedIndexes()}
        if fluid is not None and rows:
            self.parts.keep([p for i, p in enumerate(fluid.parts) if i not in rows], "Remove parts")

    def _store_pairs(self) -> None:
        pairs: list[tuple[str, str, float | str]] = []
        for piece in self.pairs.text().split(";"):
            # A name may hold a comma (2,2-dimethylbutane): names and value are parted by comma and space.
            cells = [c.strip() for c in piece.strip().split(", ")]
            if cells == [""]:
                continue
            cells += [""] * (3 - len(cells))
            value = _amount(cells[2])
            pairs.append((cells[0], cells[1], "" if value is None else value))
        fluid = self._live.current_fluid()
        if fluid is not None and self.pairs.text().strip() != _pairs_text(fluid):
            self._change_model({"kij_pairs": tuple(pairs)}, "Change own pairs")

    # -- showing -------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the selected fluid."""
        fluid, shown = self._live.current_fluid(), self._live.fluid
        self.setEnabled(fluid is not None)
        name = fluid.name if fluid else "No fluid"
        self.title.setText(elided(name))
        self.subtitle.setText(fluid.note if fluid else "add one with Fluid ▸ Add fluid")
        document = self._live.document
        own = [s.name for s in document.samples] + [
            f.name for f in document.fluids if fluid is None or f.name != fluid.name
        ]
        self._names.setStringList(own + [c.name for c in all_components()])
        self.recombination.show_fluid(fluid)
        recombined = bool(fluid and fluid.recombination)
        for widget in (self.grid, self.entry, self.amount, self.add):
            widget.setVisible(not recombined)
        self.parts_head.setText("Recombined from" if recombined else "Parts")
        self._show_form()
        self.parts.show(fluid, shown.faults)
        header = self.grid.horizontalHeader()
        header.setSectionResizeMode(0, header.ResizeMode.Stretch)
        for column in (1, 2, 3):
            header.setSectionResizeMode(column, header.ResizeMode.Fixed)
            header.resizeSection(column, 84)
        pair_faults = [f for f in shown.faults if "kij_pairs" in f.path]
        others = [f for f in shown.faults if "kij_pairs" not in f.path]
        text = others[0].message if others else shown.error if not pair_faults else ""
        self.fault.setVisible(bool(text))
        if text:
            self._say(text)
        self.pair_fault.setVisible(bool(pair_faults))
        self.pair_fault.setText(pair_faults[0].message if pair_faults else "")
        if fluid is not None:
            self.basis.setCurrentText(fluid.basis)
            self.equation.setCurrentText(fluid.model.eos)
            self.kij.setCurrentIndex(0 if fluid.model.kij == "library" else 1)
            self.source.setText(FORMS[fluid.model.eos].source if fluid.model.eos in FORMS else "")
            if not self.pairs.hasFocus():
                self.pairs.setText(_pairs_text(fluid))
        self._draw()

    def _draw(self) -> None:
        model, t = self._live.fluid.value, self.theme
        unit = UNIT_SETS[self._live.document.display.units]["temperature"]
        self.plot.item.clear()
        self.plot.set_titles(f"Boiling point, {label(unit)}", "Share of the fluid, mol%")
        if not isinstance(model, FluidModel):
            return
        nbp = np.array([from_si(c.nbp, unit, "temperature") for c in model.components])
        pure = np.array([c.kind == "pure" for c in model.components])
        width = 0.006 * max(float(np.ptp(nbp)), 100.0)
        for mask, colour in ((pure, t.liquid), (~pure, t.accent)):
            if mask.any():
                bars = pg.BarGraphItem(x=nbp[mask], height=100 * model.z[mask], width=width, brush=colour, pen=None)
                self.plot.item.addItem(bars)
        self.plot.box.autoRange(padding=0.05)
        self.plot.box.setYRange(0, 108 * float(model.z.max()), padding=0.0)
        for i in np.argsort(model.z)[::-1][:4]:
            if pure[i]:
                text = pg.TextItem(model.components[i].name, color=t.mute, anchor=(0.0, 0.5))
                text.setPos(nbp[i] + width, 100 * model.z[i])
                self.plot.item.addItem(text, ignoreBounds=True)
        old = "   (last good result)" if self._live.fluid.old else ""
        self.plot.caption.setText(f"teal: pure components   plum: cuts{old}")

    def _data(self) -> list[Table]:
        model = self._live.fluid.value
        if not isinstance(model, FluidModel):
            return []
        return [
            ("composition", ["boiling point K", "mol%"], [[c.nbp for c in model.components], (100 * model.z).tolist()])
        ]


def _pairs_text(fluid: Fluid) -> str:
    return "; ".join(
        f"{a}, {b}, {k:g}" if isinstance(k, (int, float)) else f"{a}, {b}, {k or ''}"
        for a, b, k in fluid.model.kij_pairs
    )


def summary(live: Live) -> str:
    """Return the one line the trail's card shows."""
    fluid, model = live.current_fluid(), live.fluid.value
    if fluid is None:
        return "no fluid"
    count = f"{len(model.components)} components" if isinstance(model, FluidModel) else "empty"
    return f"{fluid.model.eos}, {count}"
