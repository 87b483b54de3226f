"""The desk *fluid*: the parts and their amounts, the equation of state, and a picture of the composition."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import (
    QComboBox,
    QCompleter,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ....components import UnknownComponentError, find, search
from ....document import Fault, Fluid, FluidPart
from ....document.edits import add_fluid, fluid_path, free_name, set_at, update_fluid
from ....document.faults import PathParts
from ....document.migrate import with_ids
from ....document.model import Pseudo, Recombination, Series
from ....document.reader import cell_text, plain_cell
from ....exchange import read_text
from ....units import SETS as UNIT_SETS
from ....units import QuantityError, from_si, label, split
from ...shell.live import Live
from ...widgets.fields import capital, elided, section
from ...widgets.grid import GridModel, GridView
from ...widgets.letters import pixels, sized
from ...widgets.plot import Plot, Table
from ..shared.desk import Action, Desk, DeskEntry, register
from .made_form import MadeForm
from .part_form import PartForm, RecombinationForm

BASES = ("mole", "mass", "volume")


class PartsModel(GridModel):
    """The parts of the selected fluid with their amounts and what they make."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._parts: tuple[FluidPart, ...] = ()
        self._faults: dict[tuple[int, int], str] = {}

    def show(self, fluid: Fluid | None, faults: Sequence[Fault]) -> None:
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
            return cell_text(part.amount)
        shares = self._shares(part)
        return "" if shares is None else f"{100 * shares[column - 2]:.2f}"

    def _shares(self, part: FluidPart) -> tuple[float, float] | None:
        model = self._live.model()
        if model is None or self._live.fluid.old:
            return None
        if part.component is not None:
            try:
                name = find(part.component).name
            except UnknownComponentError:
                return None
        else:
            name = part.sample or (part.pseudo.name if part.pseudo else "") or (part.series.name if part.series else "")
        mine = np.array([name in o for o in model.origin])
        if part.fluid is not None or any(mine[i] and len(o) > 1 for i, o in enumerate(model.origin)):
            # What several parts share cannot be told apart once it is joined.
            return None
        mass = model.z * model.molar_mass
        return float(model.z[mine].sum()), float(mass[mine].sum() / mass.sum())

    def fault(self, row: int, column: int) -> str:
        return self._faults.get((row, column), "")

    def input_path(self, row: int, column: int) -> PathParts | None:
        fluid = self._live.current_fluid()
        if fluid is None or column != 1 or row >= len(self._parts):
            return None
        return (*fluid_path(self._live.document, fluid.name), "parts", row, "amount")

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
                parts[row] = set_at(parts[row], ("amount",), plain_cell(value))
            elif column == 0 and parts[row].component is not None:
                parts[row] = set_at(parts[row], ("component",), value.strip())
        self.keep(parts, text)

    def paste(self, row: int, column: int, block: list[list[str]]) -> None:
        """Take pasted names and amounts: known names are matched to parts, others added; a header row is left out."""
        block = [[c.strip() for c in line] for line in block if any(c.strip() for c in line)]
        if not block or max(len(line) for line in block) < 2 or column != 0:
            super().paste(row, column, block)
            return
        fluid = self._live.current_fluid()
        found = read_text("\n".join("\t".join(line) for line in block), fluid.name if fluid is not None else "")
        pasted = found.fluids[0] if len(found.fluids) == 1 and not found.samples else None
        parts = list(self._parts)
        places: dict[str, int] = {}
        for i, part in enumerate(parts):
            places.setdefault(_part_name(part), i)
        if pasted is not None and fluid is not None:
            if pasted.basis != fluid.basis and not parts:
                self._live.set_fluid("Paste a composition", {("basis",): pasted.basis, ("parts",): pasted.parts})
                return
            for part in pasted.parts:
                place = places.get(_part_name(part))
                if place is None:
                    parts.append(part)
                else:
                    parts[place] = set_at(parts[place], ("amount",), part.amount)
            self.keep(parts, "Paste a composition")
            return
        if not any(_number(c) for c in block[0][1:]):
            block = block[1:]
        for line in block:
            name = line[0]
            with contextlib.suppress(UnknownComponentError):  # kept as typed, and marked
                name = find(name).name
            amount = plain_cell(next((c for c in line[1:] if c), ""))
            place = places.get(name)
            if place is None:
                places[name] = len(parts)
                parts.append(FluidPart(component=name, amount=amount))
            else:
                parts[place] = set_at(parts[place], ("amount",), amount)
        self.keep(parts, "Paste a composition")

    def keep(self, parts: list[FluidPart], text: str) -> None:
        """Store the parts as one undoable step."""
        name = self._live.fluid_name
        stored = tuple(parts)
        self._live.store.edit(text, lambda d: with_ids(update_fluid(d, name, lambda f: set_at(f, ("parts",), stored))))


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


class FluidDesk(Desk):
    """Parts on the left; model and composition on the right."""

    shows = frozenset({"fluid", "selection"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
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
        self._own_names: list[str] = []
        completer = QCompleter(self._names, self)
        # Formulas, aliases and CAS numbers are found too, which the shown names do not hold.
        completer.setCompletionMode(QCompleter.CompletionMode.UnfilteredPopupCompletion)
        self.entry.setCompleter(completer)
        self.entry.textEdited.connect(self._suggest)
        self.amount = QLineEdit()
        self.amount.setPlaceholderText("amount")
        self.amount.setAccessibleName("Amount of what is added")
        sized(self.amount, fixed_width=84)
        self.amount.setAlignment(Qt.AlignmentFlag.AlignRight)
        add = self.add = QPushButton("Add")
        add.clicked.connect(self.add_part)
        self.entry.returnPressed.connect(self.amount.setFocus)
        self.amount.returnPressed.connect(self.add_part)
        self.fault = section("", "fault")
        self.fault.setWordWrap(True)

        self.basis = QComboBox()
        self.basis.addItems(BASES)
        self.basis.textActivated.connect(lambda t: self._change({"basis": t}, "Change the basis"))
        self.grids = [self.grid]
        self.plot = Plot("Composition")
        self.plots = [self.plot]
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
        self.made = MadeForm(live)
        self.form = PartForm(live)
        # Hidden from the start: a page not yet seen counts with its full height.
        self.recombination.hide()
        self.made.hide()
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
        menu.addAction("A new fluid, recombined of a liquid and a gas", self.recombine)
        menu.addAction("Back to parts", self.back_to_parts)
        more.setMenu(menu)
        above = QHBoxLayout()
        above.addWidget(self.parts_head)
        above.addStretch(1)
        above.addWidget(more)
        left.addLayout(above)
        left.addWidget(self.recombination, 1)
        left.addWidget(self.made, 1)
        left.addWidget(self.grid, 1)
        adding = QHBoxLayout()
        adding.addWidget(self.entry, 1)
        adding.addWidget(self.amount)
        adding.addWidget(add)
        left.addLayout(adding)
        left.addWidget(self.fault)
        left.addWidget(self.form)
        caption = section("Amounts by", "mute")
        caption.setBuddy(self.basis)
        sized(self.basis, fixed_width=132)
        form = QHBoxLayout()
        form.addWidget(caption)
        form.addWidget(self.basis)
        form.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(section("Composition"))
        right.addLayout(form)
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

    @classmethod
    def actions_offered(cls) -> list[Action]:
        menu = "F&luid"
        return [
            Action(menu, "Add a component", cls.start_adding, "Ctrl+Ins", True),
            Action(menu, "Add a pseudo-component", cls.add_pseudo, "Ctrl+Alt+A"),
            Action(menu, "Add a series over a boiling range", cls.add_series, "Ctrl+Alt+E"),
            Action(menu, "Remove selected parts", cls.remove_parts, "Ctrl+Shift+K", seen=True),
            Action(menu, "New fluid: recombine a liquid and a gas", cls.recombine, "Ctrl+Alt+R", True),
            Action(menu, "Back to parts", cls.back_to_parts, "Ctrl+Alt+B", seen=True),
        ]

    def _suggest(self, text: str) -> None:
        """Offer what the typed text names: samples and fluids, then components by name, alias, formula or CAS
        number."""
        own = [n for n in self._own_names if text.casefold() in n.casefold()]
        self._names.setStringList(own + [c.name for c in search(text)])

    def start_adding(self) -> None:
        """Put the keyboard in the entry of components."""
        self.host().show_desk("fluid")
        self.entry.setFocus()

    def take_paste(self, text: str) -> bool:
        """Take a pasted composition into the chosen fluid where it has the same basis and components; else it is left
        to the window, which makes a fluid of it."""
        fluid = self._live.current_fluid()
        found = read_text(text, fluid.name if fluid is not None else "")
        if fluid is None or len(found.fluids) != 1 or found.samples or found.tests or not found.fluids[0].parts:
            return False
        pasted = found.fluids[0]
        if fluid.parts and (
            pasted.basis != fluid.basis
            or not {_part_name(p) for p in pasted.parts} & {_part_name(p) for p in fluid.parts}
        ):
            return False
        self.parts.paste(0, 0, [line.split("\t") for line in text.splitlines()])
        return True

    # -- edits ---------------------------------------------------------------------------------------------------

    def _change(self, update: dict[str, object], text: str) -> None:
        self._live.set_fluid(text, {(k,): v for k, v in update.items()})

    def add_part(self) -> None:
        """Add what the entry names: a sample of the document, else a databank component."""
        text, fluid = self.entry.text().strip(), self._live.current_fluid()
        if not text or fluid is None:
            return
        amount = plain_cell(self.amount.text())
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
        """Make a new fluid of a separator's liquid and gas; the one shown stays as it is."""
        document, fluid = self._live.document, self._live.current_fluid()
        if len(document.fluids) < 2:
            self._say("recombining takes two fluids, the liquid and the gas; add them first")
            return
        names = [f.name for f in document.fluids]
        liquid = fluid.name if fluid is not None else names[0]
        gas = next(n for n in names if n != liquid)
        made = Recombination(
            liquid=liquid, gas=gas, gas_oil_ratio="100 sm3/m**3", temperature="40 degC", pressure="20 bar"
        )
        name = free_name(document, f"{liquid} with {gas}")
        self._live.store.edit(
            "Recombine a liquid and a gas", lambda d: add_fluid(d, Fluid(name=name, recombination=made))
        )
        self._live.select_fluid(name)

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
        self.fault.setText(capital(text))
        self.fault.setVisible(True)

    def remove_parts(self) -> None:
        """Remove the selected parts."""
        fluid = self._live.current_fluid()
        rows = {i.row() for i in self.grid.selectedIndexes()}
        if fluid is not None and rows:
            self.parts.keep([p for i, p in enumerate(fluid.parts) if i not in rows], "Remove parts")

    # -- showing -------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the selected fluid."""
        fluid, shown = self._live.current_fluid(), self._live.fluid
        self.setEnabled(fluid is not None)
        name = fluid.name if fluid else "No fluid yet"
        self.title.setText(elided(name))
        told = "made of the chosen sample, or of components: Fluid ▸ Add a fluid (Ctrl+Shift+F)"
        self.subtitle.setText(fluid.note if fluid else told)
        document = self._live.document
        own = [s.name for s in document.samples] + [
            f.name for f in document.fluids if fluid is None or f.name != fluid.name
        ]
        self._own_names = own
        self._suggest(self.entry.text())
        self.recombination.show_fluid(fluid)
        self.made.show_fluid(fluid)
        recombined, made = bool(fluid and fluid.recombination), bool(fluid and fluid.made_by)
        for widget in (self.grid, self.entry, self.amount, self.add):
            widget.setVisible(not recombined and not made)
        self.parts_head.setText("Recombined from" if recombined else "Given by a question" if made else "Parts")
        self._show_form()
        self.parts.show(fluid, shown.faults)
        header = self.grid.horizontalHeader()
        header.setSectionResizeMode(0, header.ResizeMode.Stretch)
        for column in (1, 2, 3):
            header.setSectionResizeMode(column, header.ResizeMode.Fixed)
            header.resizeSection(column, pixels(84))
        others = [f for f in shown.faults if "model" not in f.path]
        text = others[0].message if others else shown.error if not shown.faults else ""
        self.fault.setVisible(bool(text))
        if text:
            self._say(text)
        if fluid is not None:
            self.basis.setCurrentText(fluid.basis)
        self._draw()

    def _draw(self) -> None:
        model, t = self._live.model(), self.theme
        unit = UNIT_SETS[self._live.document.display.units]["temperature"]
        self.plot.set_titles(f"Boiling point, {label(unit)}", "Share of the fluid, mol%")
        self.plot.begin()
        if model is not None:
            nbp = np.array([from_si(c.nbp, unit, "temperature") for c in model.components])
            pure = np.array([c.kind == "pure" for c in model.components])
            width = 0.006 * max(float(np.ptp(nbp)), 100.0)
            for key, mask, colour in (("pure", pure, t.liquid), ("cuts", ~pure, t.accent)):
                if mask.any():
                    self.plot.bars(key, colour, x=nbp[mask], height=100 * model.z[mask], width=width)
            room = 0.04 * max(float(np.ptp(nbp)), 100.0)
            self.plot.fit_x(float(nbp.min()) - room, float(nbp.max()) + room)
            self.plot.fit_y(0.0, 108 * float(model.z.max()))
            for k, i in enumerate(np.argsort(model.z)[::-1][:4]):
                if pure[i]:
                    name = model.components[i].name
                    self.plot.text(f"name {k}", name, nbp[i] + width, 100 * model.z[i], t.mute, (0.0, 0.5))
        self.plot.end()
        old = "   (last good result)" if self._live.fluid.old else ""
        self.plot.caption.setText(f"teal: pure components   plum: cuts{old}")

    def _data(self) -> list[Table]:
        model = self._live.model()
        if model is None:
            return []
        return [
            ("composition", ["boiling point K", "mol%"], [[c.nbp for c in model.components], (100 * model.z).tolist()])
        ]


def _line(live: Live) -> str:
    fluid, model = live.current_fluid(), live.model()
    if fluid is None:
        return "no fluid yet"
    count = 0 if model is None else len(model.components)
    told = f"{count} component{'s' if count != 1 else ''}" if count else "nothing in it yet"
    return f"of {elided(fluid.made_by.study, 24)}: {told}" if fluid.made_by is not None else told


def _mark(live: Live) -> str:
    if live.current_fluid() is None:
        return "open"
    faults = [f for f in live.fluid.faults if "model" not in f.path]
    return "look" if faults or (live.fluid.error and not live.fluid.faults) else "done"


register(
    DeskEntry(
        key="fluid", title="Parts", order=30, make=FluidDesk, card="fluid", card_title="Fluid", mark=_mark, line=_line, needs="fluid",
        claims=lambda path: "" if path[:1] in (("fluids",), ("fluid",)) else None,
        help=(
            "A fluid is made of samples, components of the databank, pseudo-components and other fluids, by amount.",
            "Amounts count by mole, mass or liquid volume at 60 °F, or by their own unit: 850 bbl/day, 12 MMscf/day, 3 t.",
            "Type a name to add a part; paste a list of names and amounts; rows are matched by name.",
            "A sample brings its light ends and cuts. Cuts of several samples share one grid of boiling ranges.",
            "A pseudo-component needs a boiling point, a density or a molar mass; what is missing is estimated and told.",
            "A fluid may be what a question gives: a match, fewer components, a phase of a state, a stream of separators. It follows the answer until it is kept.",
            "Recombining makes a new fluid of a separator's liquid and gas at a gas-oil ratio; its two fluids stay.",
        ),
    )
)  # fmt: skip
