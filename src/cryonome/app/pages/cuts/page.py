"""The desk *cuts*: the curve with its cut steps and movable boundaries beside the tables of what they make."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ....characterization import CharacterizedSample
from ....characterization.correlations import REGISTRY
from ....document import Sample
from ....document.edits import set_at, set_each, with_boundaries
from ....document.faults import PathParts
from ....document.reader import plain_cell
from ....document.sample_points import temperature_unit
from ....results.correlation_choices import choice_values
from ....telling import sentence
from ....units import SETS, QuantityError, from_si, label, parse
from ...shell.live import Live
from ...shell.results_table import Request, Results
from ...shell.session import REST, Session
from ...widgets.fields import capital, elided, page_button, section, tip, unit_menu
from ...widgets.grid import GridView
from ...widgets.letters import pixels, sized
from ...widgets.plot import MouseClickEvent, Plot, Table, pen
from ..lab.curve_plots import draw_cuts, draw_line, label_products
from ..shared.desk import Action, Desk, DeskEntry, register
from .correlations_panel import CorrelationsPanel
from .models import CutsModel, RegionsModel, YieldsModel, store_cuts

PAGES = ("Cuts", "Widths", "Correlations")
WAYS = {
    "regions": "widths by region",
    "temperature": "so many equal widths",
    "volume": "so many equal volumes",
    "mass": "so many equal masses",
    "mole": "so many equal moles",
    "boundaries": "own boundaries",
}


NUMBER = 46
"""Pixels that a number of four figures wants."""


class CutsDesk(Desk):
    """Draggable boundaries on the curve; the tables of cuts, yields, widths and correlations."""

    shows = frozenset({"sample", "selection", "correlation choices"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self._lines: list[pg.InfiniteLine] = []
        self._dragging = self._placing = False
        self._drag = 0
        self.title, self.subtitle = section("", "title"), section("", "mute")
        self.plot = Plot("Cuts")
        self.plot.data = self._data
        self.plot.view.scene().sigMouseClicked.connect(self._clicked)
        self.automatic = QPushButton("Automatic widths")
        self.automatic.clicked.connect(self.make_automatic)
        self.old = section("", "fault")
        self.model = CutsModel(live)
        self.grid = GridView(self.model)
        self.grid.setAccessibleName("Cuts")
        self.grid.unit_clicked.connect(self._choose_unit)
        self.yields_model = YieldsModel(live)
        self.yields = GridView(self.yields_model)
        self.yields.setAccessibleName("Yields")
        self.yields.keep_lines(7)
        self.regions_model = RegionsModel(live)
        self.regions = GridView(self.regions_model)
        self.regions.setAccessibleName("Widths by region")
        self.correlations = CorrelationsPanel(live)
        self.grid.selectionModel().selectionChanged.connect(lambda *_: self._mark_selected())
        self._add_actions()

        heading = QHBoxLayout()
        heading.addWidget(self.title)
        heading.addSpacing(4)
        heading.addWidget(self.subtitle, 0, Qt.AlignmentFlag.AlignBottom)
        heading.addStretch(1)
        heading.addWidget(self.old)
        heading.addWidget(self.automatic)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addLayout(self._left(), 31)
        body.addLayout(self._right(), 69)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(10)
        layout.addLayout(heading)
        layout.addLayout(body, 1)
        self.grids, self.plots = [self.grid, self.yields, self.regions], [self.plot]
        live.on({"lumping"}, self._show_lumping)

    def _left(self) -> QVBoxLayout:
        self.way = QComboBox()
        self.way.setAccessibleName("How the curve is cut")
        for key, text in WAYS.items():
            self.way.addItem(text, key)
        self.way.activated.connect(lambda _i: self.choose_way(str(self.way.currentData())))
        self.count = QLineEdit()
        self.count.setAccessibleName("Number of cuts")
        sized(self.count, fixed_width=56)
        self.count.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.count.editingFinished.connect(self._store_count)
        self.way_label = section("Cut into", "mute")
        how = QHBoxLayout()
        self.way_label.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        how.addWidget(self.way_label)
        how.addWidget(self.way)
        how.addWidget(self.count)
        how.addStretch(1)
        self.hint = section("Drag a boundary to move it, double-click to add one, Shift-click to remove one.", "mute")
        self.hint.setWordWrap(True)
        self.lumping = section("", "mute")
        self.lumping.setWordWrap(True)
        self.lumping_at = QLineEdit()
        self.lumping_at.setAccessibleName("Temperature the lumping is judged at")
        sized(self.lumping_at, fixed_width=84)
        self.lumping_at.editingFinished.connect(self._ask_lumping)
        self.lumping_label = section("Lumping judged at", "mute")
        judged = QHBoxLayout()
        judged.addWidget(self.lumping_label)
        judged.addWidget(self.lumping_at)
        judged.addStretch(1)
        left = QVBoxLayout()
        left.addLayout(how)
        left.addWidget(self.plot, 1)
        left.addWidget(self.hint)
        left.addLayout(judged)
        left.addWidget(self.lumping)
        return left

    def _right(self) -> QVBoxLayout:
        self.chips = QButtonGroup(self)
        chips = QHBoxLayout()
        chips.setSpacing(6)
        for i, name in enumerate(PAGES):
            own = page_button(name)
            own.setChecked(i == 0)
            self.chips.addButton(own, i)
            chips.addWidget(own)
        chips.addStretch(1)
        self.chips.idClicked.connect(lambda i: self.show_page(PAGES[i]))
        tables = QWidget()
        column = QVBoxLayout(tables)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.grid, 1)
        column.addSpacing(6)
        column.addWidget(section("Yields"))
        column.addWidget(self.yields)
        widths = QWidget()
        column = QVBoxLayout(widths)
        column.setContentsMargins(0, 0, 0, 0)
        sized(self.regions, most_width=320)
        column.addWidget(self.regions, 1)
        self.in_fahrenheit = QCheckBox("boundaries and names in °F")
        self.in_fahrenheit.setToolTip("Round numbers of °F, and cuts called by them")
        self.in_fahrenheit.clicked.connect(lambda on: self._store_unit("degF" if on else "degC"))
        column.addWidget(self.in_fahrenheit)
        text = (
            "Cuts are as wide as their region says, on round temperatures; cuts below 0.2 % are joined to a neighbour."
        )
        note = section(text, "mute")
        note.setWordWrap(True)
        column.addWidget(note)
        self.pages = QStackedWidget()
        for page in (tables, widths, self.correlations):
            self.pages.addWidget(page)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addLayout(chips)
        right.addWidget(self.pages, 1)
        return right

    def _add_actions(self) -> None:
        def action(text: str, call: Callable[[], object]) -> QAction:
            out = QAction(text, self)
            out.triggered.connect(lambda _on=False: call())
            return out

        self.grid.extra_actions = [
            action("Merge the selected cuts", self.merge_selected),
            action("Split the selected cuts", self.split_selected),
            action("Rename the cut", lambda: self.grid.edit(self.grid.currentIndex().siblingAtColumn(0))),
        ]
        self.yields.extra_actions = [
            action(
                "Remove products", lambda: self.yields_model.remove({i.row() for i in self.yields.selectedIndexes()})
            ),
            action("The usual products", self.yields_model.usual),
        ]

    def show_page(self, page: str) -> None:
        """Open the cuts, the widths or the correlations."""
        index = PAGES.index(page) if page in PAGES else 0
        self.pages.setCurrentIndex(index)
        self.chips.button(index).setChecked(True)
        self.update_desk()

    @classmethod
    def actions_offered(cls) -> list[Action]:
        menu = "&Sample"
        return [
            Action(menu, "Merge selected cuts", cls.merge_selected, "Ctrl+M", True, seen=True),
            Action(menu, "Split selected cuts", cls.split_selected, "Ctrl+Shift+M", seen=True),
            Action(menu, "Automatic cut widths", cls.make_automatic, "Ctrl+Shift+A", seen=True),
        ]

    def _units(self) -> dict[str, str]:
        sample = self._live.current_sample()
        units = dict(SETS[self._live.document.display.units])
        if sample:
            units.update({k: v for k, v in sample.display.model_dump().items() if v})
            units["temperature"] = temperature_unit(sample)
        return units

    def refresh(self) -> None:
        """Show the selected sample."""
        sample, result = self._live.current_sample(), self._live.characterized()
        self.setEnabled(sample is not None)
        self.title.setText(elided(sample.name) if sample else "No sample")
        self.subtitle.setText(self._about(sample, result))
        self.automatic.setVisible(self._way(sample) != "regions" and not (result and result.labels))
        self.old.setText("the last good result; the sample has a fault" if self._live.sample.old and result else "")
        units = self._units()
        faults = self._live.sample.faults
        self.model.show(units)
        self.yields_model.show(units["temperature"], faults)
        self.regions_model.show(units["temperature"], faults)
        self.correlations.show_sample(sample, result)
        open_page = self.isVisible() and self.pages.currentIndex() == PAGES.index("Correlations")
        self._live.want(LOOKED_AT, sample.name if sample is not None and open_page else "", "correlation choices")
        told = self._live.results["correlation choices"]
        self.correlations.show_choices(told.value or {}, self._live.units())
        self.in_fahrenheit.setChecked(bool(sample and sample.cuts.unit == "degF"))
        self._show_way(sample, result)
        self._show_lumping()
        self._size_columns()
        if not self._dragging:
            self._draw(result, units["temperature"])

    @staticmethod
    def _way(sample: Sample | None) -> str:
        if sample is None:
            return "regions"
        if sample.cuts.boundaries is not None:
            return "boundaries"
        return "regions" if sample.cuts.number in (None, "") else sample.cuts.equal

    def _about(self, sample: Sample | None, result: CharacterizedSample | None) -> str:
        if result is None:
            return "no cuts yet"
        ends = f"{result.light} light ends, " if result.light else ""
        if result.labels:
            lumped = f", lumped from {len(result.unlumped.cuts)}" if result.unlumped else ""
            return f"{ends}{len(result.cuts)} carbon groups{lumped}"
        return f"{ends}{len(result.cuts)} cuts, {WAYS[self._way(sample)].replace('so many ', '')}"

    def _show_way(self, sample: Sample | None, result: CharacterizedSample | None) -> None:
        carbon = bool(result and result.labels)
        way = self._way(sample)
        self.way.setCurrentIndex(max(self.way.findData(way), 0))
        numbered = way not in ("regions", "boundaries")
        for part in (self.way, self.way_label):
            part.setVisible(not carbon)
        self.count.setVisible(numbered and not carbon)
        if sample is not None and numbered and not self.count.hasFocus():
            number = sample.cuts.number
            self.count.setText(f"{number:g}" if isinstance(number, (int, float)) else str(number))
        fault = next((f.message for f in self._live.sample.faults if tuple(f.path[2:]) == ("cuts", "number")), "")
        self.count.setToolTip(tip(fault or "between 1 and 200"))
        self.hint.setVisible(not carbon)

    def _show_lumping(self) -> None:
        result, effect = self._live.characterized(), self._live.results["lumping"].value
        lumped = result is not None and result.unlumped is not None and not self._live.sample.old
        for part in (self.lumping, self.lumping_at, self.lumping_label):
            part.setVisible(lumped)
        if not lumped:
            return
        unit = self._units()["temperature"]
        if not self.lumping_at.hasFocus():
            shown = from_si(self._live.session.lumping_temperature, unit, "temperature")
            self.lumping_at.setText(f"{shown:.6g} {label(unit)}")
        told = sentence(effect.remark(), self._live.units()) if effect else "Comparing saturation pressures …"
        self.lumping.setText(told)

    def _ask_lumping(self) -> None:
        unit = self._units()["temperature"]
        try:
            T = parse(self.lumping_at.text(), "temperature", unit)
        except QuantityError as error:
            self.lumping.setText(capital(str(error)))
            return
        if abs(T - self._live.session.lumping_temperature) > 1e-3:
            self._live.ask_lumping(T)

    def _size_columns(self) -> None:
        header = self.grid.horizontalHeader()
        # The others share what is left, and are scrolled to where that is less than a number wants.
        fixed = {0: 90, 1: 55, 3: 68, 4: 55, 5: 45, 6: 54}
        header.setMinimumSectionSize(NUMBER)
        for column in range(header.count()):
            mode = header.ResizeMode.Fixed if column in fixed else header.ResizeMode.Stretch
            header.setSectionResizeMode(column, mode)
            if column in fixed:
                header.resizeSection(column, pixels(fixed[column]))

    def _draw(self, result: CharacterizedSample | None, unit: str) -> None:
        t = self.theme
        self.plot.set_titles("Distilled, vol%", f"Boiling point, {label(unit)}")
        self.plot.begin()
        if result is not None:
            low, high = draw_cuts(self.plot, result, unit, t)
            draw_line(self.plot, "tbp", result.curve, unit, t.mute if self._live.sample.old else t.ink)
            self.plot.fit_x(0.0, 100.0)
            self.plot.fit_y(low, high, 0.03)
            label_products(self.plot, result, unit, t)
        self.plot.end()
        self._place_boundaries(result)
        self._mark_selected()

    def _place_boundaries(self, result: CharacterizedSample | None) -> None:
        """Set as many movable lines as there are boundaries; those there are get new places."""
        edges = np.empty(0) if result is None else 100 * result.edges
        count = max(edges.size - 2, 0)
        while len(self._lines) > count:
            self.plot.box.removeItem(self._lines.pop())
        while len(self._lines) < count:
            line = pg.InfiniteLine(0.0, angle=90, movable=True)
            line.setCursor(Qt.CursorShape.SplitHCursor)
            index = len(self._lines) + 1
            line.sigPositionChanged.connect(lambda moved, k=index: self._moved(moved, k))
            line.sigPositionChangeFinished.connect(self._dropped)
            line.addMarker("v", position=0.0, size=7)
            self.plot.box.addItem(line, ignoreBounds=True)
            self._lines.append(line)
        self._placing = True
        for k, line in enumerate(self._lines, 1):
            line.setMovable(not (result and result.labels))
            line.setBounds((float(edges[k - 1]) + 0.3, float(edges[k + 1]) - 0.3))
            line.setValue(float(edges[k]))
            line.setHoverPen(pen(self.theme.accent, 2.5))
        self._placing = False

    def _mark_selected(self) -> None:
        """Strengthen the boundaries of the selected rows."""
        result = self._live.characterized()
        rows = {i.row() - (result.light if result else 0) for i in self.grid.selectedIndexes()}
        for k, line in enumerate(self._lines):
            strong = bool({k, k + 1} & rows)
            colour = pg.mkColor(self.theme.accent)
            colour.setAlpha(255 if strong else 110)
            line.setPen(pen(colour, 2.0 if strong else 1.0))

    # -- edits ---------------------------------------------------------------------------------------------------

    def _moved(self, line: pg.InfiniteLine, index: int) -> None:
        result = self._live.characterized()
        if self._placing or result is None or len(result.edges) - 1 <= index:
            return
        if not self._dragging:
            # Each drag is an undo step of its own.
            self._dragging, self._drag = True, self._drag + 1
        pairs = self._boundaries(result)
        T = float(result.curve.at(np.array([line.value() / 100.0]))[0])
        pairs[index - 1] = (pairs[index - 1][0], T)
        self._store(pairs, "Move a boundary", f"boundary {self._drag}")

    def _dropped(self) -> None:
        self._dragging = False
        self.refresh()

    @staticmethod
    def _boundaries(result: CharacterizedSample) -> list[tuple[str, float]]:
        """Return identity and temperature (K) of the inner boundaries: each is what the cut above it is known by."""
        keys = [c.key.rpartition("/")[2] for c in result.cuts[1:]]
        return list(zip(keys, result.edge_temperatures[1:-1].tolist()))

    def _new_id(self, taken: list[tuple[str, float]]) -> str:
        ids = {key for key, _ in taken}
        return next(f"n{k}" for k in range(1, 10_000) if f"n{k}" not in ids)

    def _clicked(self, event: MouseClickEvent) -> None:
        result = self._live.characterized()
        if result is None or event.button() != Qt.MouseButton.LeftButton:
            return
        x = self.plot.box.mapSceneToView(event.scenePos()).x()
        pairs = self._boundaries(result)
        if event.double() and 0.0 < x < 100.0:
            self.add_boundary(x / 100.0)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier and pairs:
            nearest = int(np.argmin(np.abs(100 * result.edges[1:-1] - x)))
            if abs(100 * result.edges[1:-1][nearest] - x) < 2.0:
                del pairs[nearest]
                self._store(pairs, "Remove a boundary")

    def add_boundary(self, fraction: float) -> None:
        """Add a boundary at a distilled fraction."""
        result = self._live.characterized()
        if result is not None:
            pairs = self._boundaries(result)
            pairs.append((self._new_id(pairs), float(result.curve.at(np.array([fraction]))[0])))
            self._store(pairs, "Add a boundary")

    def _selected_cuts(self) -> list[int]:
        result = self._live.characterized()
        light = result.light if result is not None else 0
        return sorted({i.row() - light for i in self.grid.selectedIndexes() if i.row() >= light})

    def merge_selected(self) -> None:
        """Join the selected cuts into one."""
        result, rows = self._live.characterized(), self._selected_cuts()
        if result is not None and len(rows) > 1:
            pairs = [p for k, p in enumerate(self._boundaries(result)) if not rows[0] <= k < rows[-1]]
            self._store(pairs, "Merge cuts")

    def split_selected(self) -> None:
        """Split every selected cut at the middle of its boiling range."""
        result, rows = self._live.characterized(), self._selected_cuts()
        if result is None or not rows:
            return
        pairs = self._boundaries(result)
        for k in rows:
            pairs.append((self._new_id(pairs), float(result.edge_temperatures[k : k + 2].mean())))
        self._store(pairs, "Split cuts")

    def _store(self, pairs: list[tuple[str, float]], text: str, merge: str = "") -> None:
        result = self._live.characterized()
        if result is None or result.labels:
            return
        unit = self._units()["temperature"]
        ordered = sorted(pairs, key=lambda p: p[1])
        cells = [(key, f"{from_si(T, unit, 'temperature'):.6g} {unit}") for key, T in ordered]
        store_cuts(self._live, text, lambda c: with_boundaries(c, cells), merge)

    def _cut_by(self, text: str, **update: object) -> None:
        """Cut in another way than by own boundaries."""
        values: dict[PathParts, object] = {("boundaries",): None, ("ids",): ()}
        store_cuts(self._live, text, lambda c: set_each(c, values | {(k,): v for k, v in update.items()}))

    def make_automatic(self) -> None:
        """Go back to automatic widths."""
        self._cut_by("Automatic widths", number=None)

    def choose_way(self, way: str) -> None:
        """Cut the curve in another way, beginning with as many cuts as there are."""
        result = self._live.characterized()
        if way == "regions":
            self.make_automatic()
        elif way == "boundaries":
            if result is not None:
                self._store(self._boundaries(result), "Own boundaries")
        else:
            sample = self._live.current_sample()
            present = sample.cuts.number if sample else None
            number = present if present not in (None, "") else len(result.cuts) if result else 20
            self._cut_by("Cut in another way", number=number, equal=way, regions=None)

    def _store_unit(self, unit: str) -> None:
        store_cuts(self._live, "Unit of cuts", lambda c: set_at(c, ("unit",), unit))

    def _store_count(self) -> None:
        number = plain_cell(self.count.text())
        if number is not None:
            store_cuts(self._live, "Number of cuts", lambda c: set_at(c, ("number",), number))

    def _choose_unit(self, column: int, position: QPoint) -> None:
        kind = {0: "temperature", 1: "temperature", 2: "density", 3: "molar_mass", 4: "temperature"}.get(column)
        if kind is not None:
            choose = lambda u: self._live.set_sample("Choose a unit", ("display", kind), u)  # noqa: E731
            unit_menu(self, kind, self._units()[kind], choose).exec(position)

    def _data(self) -> list[Table]:
        result = self._live.characterized()
        if result is None:
            return []
        unit = self._units()["temperature"]
        edges = (100 * result.edges).tolist()
        temperatures = [from_si(float(v), unit, "temperature") for v in result.edge_temperatures]
        return [("boundaries", ["vol%", label(unit)], [edges, temperatures])]


def _line(live: Live) -> str:
    result = live.characterized()
    if result is None:
        return "no cuts yet"
    ends = f" + {result.light} light ends" if result.light else ""
    return f"{len(result.cuts)} {'groups' if result.labels else 'cuts'}{ends}"


def _mark(live: Live) -> str:
    return "open" if live.characterized() is None else "look" if live.sample.old else "done"


def _claims(path: PathParts) -> str | None:
    """Return the page of a fault of the cuts, or of a remark about them (by its place and kind)."""
    if path[:1] == ("samples",) and len(path) > 2 and path[2] in ("cuts", "correlations", "conversions"):
        regions = len(path) > 3 and path[3] in ("regions", "number")
        return "Correlations" if path[2] == "correlations" else "Widths" if regions else "Cuts"
    if path[:1] == ("sample",):
        place, kind = path[1], path[2]
        if place == "cuts":
            return "Cuts"
        if place == "correlations" or (place in REGISTRY and kind in ("estimate", "extrapolation")):
            return "Correlations"
    return None


LOOKED_AT = "choices of correlations"


def _choices(session: Session, results: Results) -> Iterator[tuple[str, Request]]:
    """What every choice of a correlation gives for the whole sample, while somebody looks at them."""
    sample = session.document.sample(session.wants(LOOKED_AT))
    lab = session.project.read_sample(sample).lab if sample is not None else None
    if sample is None or lab is None:
        return
    key = ("correlation choices", session.project.sample_key(sample))
    yield "correlation choices", Request(key, lambda watch: choice_values(lab, watch), pause=REST, behind=True)


register(
    DeskEntry(
        key="cuts", title="Cuts", order=20, make=CutsDesk, card="cuts", card_title="Cuts", mark=_mark, line=_line, needs="sample", claims=_claims,
        declares=(_choices,),
        help=(
            "Cuts are the pseudo-components a sample is made of; each boils within a range of the curve.",
            "They are as wide as their region says, so many of equal amount, or end at boundaries of your own.",
            "Drag a boundary, double-click to add one, Shift-click to remove one: the table follows. Each is one undo step.",
            "Select rows to merge or split cuts; double-click a name to give a cut another one.",
            "Molar mass and density follow what was measured; muted values are estimated by the correlations chosen.",
            "Correlations: each property's with formula, source and range, and what another choice changes.",
            "Yields count by product range; edit names and end temperatures, and type below the last to add one.",
            "Groups of a carbon-number analysis are cuts too; they are lumped on the desk Lab data, page Reading.",
            "Lumping is judged by what it does to the saturation pressure at a temperature of your choice.",
            "Interaction parameters hang on what a cut is, not on its name: they stay when a boundary moves.",
        ),
    )
)  # fmt: skip
