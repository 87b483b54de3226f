"""The desk *cuts*: the curve with its cut steps and movable boundaries beside the table of components."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ...characterization import CharacterizedSample
from ...constants import WATER_DENSITY_60F
from ...document import Sample
from ...document.edits import update_sample
from ...document.sample_points import temperature_unit
from ...units import SETS, format_number, from_si, label
from ..fields import elided, section, unit_menu
from ..grid import GridModel, GridView
from ..live import Live
from ..plot import Plot, Table, pen
from ..theme import Theme
from .desk import Desk
from .lab import draw_curve, draw_cuts, label_products

Value = Callable[[CharacterizedSample, int], float]


class CutsModel(GridModel):
    """The components of the selected sample."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self.units: dict[str, str] = {}
        self._columns: list[tuple[str, str, Callable[[CharacterizedSample, int], str]]] = []

    def show(self, units: dict[str, str]) -> None:
        """Show the present result in the given units by kind."""
        self.units = units
        t, p, d, m = units["temperature"], units["pressure"], units["density"], units["molar_mass"]

        def quantity(kind: str, unit: str, value: Value, digits: int = 4) -> Callable[[CharacterizedSample, int], str]:
            return lambda r, i: format_number(from_si(value(r, i), unit, kind), digits)

        self._columns = [
            ("cut", f"{label(t)}", lambda r, i: _range(r, i, t)),
            ("boils at", label(t), quantity("temperature", t, lambda r, i: r.components[i].nbp)),
            (
                "density",
                label(d),
                quantity("density", d, lambda r, i: r.components[i].specific_gravity * WATER_DENSITY_60F),
            ),
            ("molar mass", label(m), quantity("molar_mass", m, lambda r, i: r.components[i].molar_mass)),
            ("Tc", label(t), quantity("temperature", t, lambda r, i: r.components[i].Tc)),
            ("Pc", label(p), quantity("pressure", p, lambda r, i: r.components[i].Pc, 3)),
            ("omega", "–", lambda r, i: f"{r.components[i].omega:.3f}"),
            ("volume", "%", lambda r, i: f"{100 * r.volume_fraction[i]:.2f}"),
            ("mass", "%", lambda r, i: f"{100 * r.mass_fraction[i]:.2f}"),
            ("moles", "%", lambda r, i: f"{100 * r.mole_fraction[i]:.2f}"),
        ]
        self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [(title, unit) for title, unit, _ in self._columns]

    def rows(self) -> int:
        result = self._live.characterized()
        return len(result.components) if result else 0

    def text(self, row: int, column: int) -> str:
        result = self._live.characterized()
        return self._columns[column][2](result, row) if result else ""

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def muted(self, row: int, column: int) -> bool:
        return 2 <= column <= 6

    def tip(self, row: int, column: int) -> str:
        result = self._live.characterized()
        return "\n".join(result.components[row].estimates) if result and 2 <= column <= 6 else ""


class YieldsModel(GridModel):
    """The yields by product range."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self.unit = "degC"

    def show(self, unit: str) -> None:
        """Show the present yields with temperatures in a unit."""
        self.unit = unit
        self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [("product", ""), ("from", label(self.unit)), ("to", label(self.unit)), ("volume", "%"), ("mass", "%")]

    def rows(self) -> int:
        result = self._live.characterized()
        return len(result.yields) if result else 0

    def text(self, row: int, column: int) -> str:
        result = self._live.characterized()
        if result is None:
            return ""
        y = result.yields[row]
        if column == 0:
            return y.name
        if column in (1, 2):
            return format_number(from_si((y.start, y.end)[column - 1], self.unit, "temperature"), 4)
        return f"{100 * (y.volume, y.mass)[column - 3]:.2f}"

    def left_aligned(self, column: int) -> bool:
        return column == 0


def _range(result: CharacterizedSample, i: int, unit: str) -> str:
    i -= result.light
    if i < 0:
        return result.components[i + result.light].name
    if result.labels:
        return result.labels[i]
    low, high = (from_si(float(result.edge_temperatures[k]), unit, "temperature") for k in (i, i + 1))
    return f"{low:.0f} – {high:.0f}".replace("-", "−")


class CutsDesk(Desk):
    """Draggable boundaries on the curve, the table of cuts and the yields."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        self._lines: list[pg.InfiniteLine] = []
        self._dragging = False
        self.title, self.subtitle = section("", "title"), section("", "mute")
        self.plot = Plot("Cuts")
        self.plot.data = self._data
        self.plot.view.scene().sigMouseClicked.connect(self._clicked)
        self.automatic = QPushButton("Automatic widths")
        self.automatic.clicked.connect(self.make_automatic)
        self.hint = section("Drag a boundary to move it, double-click to add one, Shift-click to remove one.", "mute")
        self.hint.setWordWrap(True)
        self.model = CutsModel(live)
        self.grid = GridView(self.model)
        self.grid.setAccessibleName("Cuts")
        self.grid.unit_clicked.connect(self._choose_unit)
        self.yields_model = YieldsModel(live)
        self.yields = GridView(self.yields_model)
        self.yields.setAccessibleName("Yields")
        self.yields.setFixedHeight(36 + 5 * 24 + 3)
        self.grid.selectionModel().selectionChanged.connect(lambda *_: self._mark_selected())
        self.old = section("", "fault")

        heading = QHBoxLayout()
        heading.addWidget(self.title)
        heading.addSpacing(4)
        heading.addWidget(self.subtitle, 0, Qt.AlignmentFlag.AlignBottom)
        heading.addStretch(1)
        heading.addWidget(self.old)
        heading.addWidget(self.automatic)
        left = QVBoxLayout()
        left.addWidget(self.plot, 1)
        left.addWidget(self.hint)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(section("Cuts"))
        right.addWidget(self.grid, 1)
        right.addSpacing(6)
        right.addWidget(section("Yields"))
        right.addWidget(self.yields)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addLayout(left, 36)
        body.addLayout(right, 64)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(10)
        layout.addLayout(heading)
        layout.addLayout(body, 1)
        live.sample_changed.connect(self.update_desk)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        for part in (self.plot, self.grid, self.yields):
            part.set_theme(theme)
        self.update_desk()

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
        own = bool(sample and sample.cuts.boundaries is not None)
        count = len(result.components) if result else 0
        self.subtitle.setText(
            f"{count} cuts, {'own boundaries' if own else 'automatic widths'}" if result else "no cuts yet"
        )
        self.automatic.setVisible(own)
        self.old.setText("the last good result; the sample has a fault" if self._live.sample.old and result else "")
        units = self._units()
        self.model.show(units)
        self.yields_model.show(units["temperature"])
        self._size_columns()
        if not self._dragging:
            self._draw(result, units["temperature"])

    def _size_columns(self) -> None:
        header = self.grid.horizontalHeader()
        fixed = {0: 92, 3: 78}
        for column in range(header.count()):
            mode = header.ResizeMode.Fixed if column in fixed else header.ResizeMode.Stretch
            header.setSectionResizeMode(column, mode)
            if column in fixed:
                header.resizeSection(column, fixed[column])

    def _draw(self, result: CharacterizedSample | None, unit: str) -> None:
        t = self.theme
        self.plot.item.clear()
        self._lines = []
        self.plot.set_titles("Distilled, vol%", f"Boiling point, {label(unit)}")
        if result is None:
            return
        draw_cuts(self.plot, result, unit, t)
        draw_curve(self.plot, result, unit, t, self._live.sample.old)
        hover = pen(t.accent, 2.5)
        faint = pg.mkColor(t.accent)
        faint.setAlpha(110)
        for i, edge in enumerate(result.edges[1:-1], 1):
            line = pg.InfiniteLine(100 * edge, angle=90, movable=True, pen=pen(faint, 1.0), hoverPen=hover)
            line.setCursor(Qt.CursorShape.SplitHCursor)
            limits = 100 * result.edges[[i - 1, i + 1]] + (0.3, -0.3)
            line.setBounds(tuple(limits))
            line.sigPositionChanged.connect(lambda moved, k=i: self._moved(moved, k))
            line.sigPositionChangeFinished.connect(self._dropped)
            line.addMarker("v", position=0.0, size=7)
            self.plot.item.addItem(line, ignoreBounds=True)
            self._lines.append(line)
        self.plot.box.autoRange(padding=0.03)
        self.plot.box.setXRange(0, 100, padding=0.0)
        label_products(self.plot, result, unit, t)
        self._mark_selected()

    def _mark_selected(self) -> None:
        """Strengthen the boundaries of the selected rows."""
        rows = {i.row() for i in self.grid.selectedIndexes()}
        for k, line in enumerate(self._lines):
            strong = bool({k, k + 1} & rows)
            colour = pg.mkColor(self.theme.accent)
            colour.setAlpha(255 if strong else 110)
            line.setPen(pen(colour, 2.0 if strong else 1.0))

    # -- edits ---------------------------------------------------------------------------------------------------

    def _moved(self, line: pg.InfiniteLine, index: int) -> None:
        result = self._live.characterized()
        if result is None or len(result.edges) - 1 <= index:
            return
        self._dragging = True
        boundaries = result.edge_temperatures[1:-1].copy()
        boundaries[index - 1] = float(result.curve.at(np.array([line.value() / 100.0]))[0])
        self._store(boundaries.tolist(), "Move a boundary", f"boundary {self._live.sample_name} {index}")

    def _dropped(self) -> None:
        self._dragging = False
        self.refresh()

    def _clicked(self, event) -> None:
        result = self._live.characterized()
        if result is None or event.button() != Qt.MouseButton.LeftButton:
            return
        x = self.plot.box.mapSceneToView(event.scenePos()).x()
        boundaries = result.edge_temperatures[1:-1].tolist()
        if event.double() and 0.0 < x < 100.0:
            self.add_boundary(x / 100.0)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier and boundaries:
            nearest = int(np.argmin(np.abs(100 * result.edges[1:-1] - x)))
            if abs(100 * result.edges[1:-1][nearest] - x) < 2.0:
                del boundaries[nearest]
                self._store(boundaries, "Remove a boundary")

    def add_boundary(self, fraction: float) -> None:
        """Add a boundary at a distilled fraction."""
        result = self._live.characterized()
        if result is not None:
            boundaries = result.edge_temperatures[1:-1].tolist()
            boundaries.append(float(result.curve.at(np.array([fraction]))[0]))
            self._store(sorted(boundaries), "Add a boundary")

    def merge_selected(self) -> None:
        """Join the selected cuts into one."""
        result = self._live.characterized()
        rows = sorted({i.row() for i in self.grid.selectedIndexes()})
        if result is not None and len(rows) > 1:
            keep = [t for k, t in enumerate(result.edge_temperatures[1:-1].tolist()) if not rows[0] <= k < rows[-1]]
            self._store(keep, "Merge cuts")

    def _store(self, boundaries: list[float], text: str, merge: str = "") -> None:
        unit = self._units()["temperature"]
        cells = tuple(f"{from_si(b, unit, 'temperature'):.6g} {unit}" for b in boundaries)
        name = self._live.sample_name

        def change(sample: Sample) -> Sample:
            cuts = sample.cuts.model_copy(update={"boundaries": cells, "regions": None})
            return sample.model_copy(update={"cuts": cuts})

        self._live.store.edit(text, lambda d: update_sample(d, name, change), merge)

    def make_automatic(self) -> None:
        """Go back to automatic widths."""
        name = self._live.sample_name

        def change(sample: Sample) -> Sample:
            return sample.model_copy(update={"cuts": sample.cuts.model_copy(update={"boundaries": None})})

        self._live.store.edit("Automatic widths", lambda d: update_sample(d, name, change))

    def _choose_unit(self, column: int, position: QPoint) -> None:
        kind = {0: "temperature", 1: "temperature", 2: "density", 3: "molar_mass", 4: "temperature"}.get(column)
        name = self._live.sample_name
        if kind is None:
            return

        def choose(unit: str) -> None:
            def change(sample: Sample) -> Sample:
                return sample.model_copy(update={"display": sample.display.model_copy(update={kind: unit})})

            self._live.store.edit("Choose a unit", lambda d: update_sample(d, name, change))

        unit_menu(self, kind, self._units()[kind], choose).exec(position)

    def _data(self) -> list[Table]:
        result = self._live.characterized()
        if result is None:
            return []
        unit = self._units()["temperature"]
        edges = (100 * result.edges).tolist()
        temperatures = [from_si(float(v), unit, "temperature") for v in result.edge_temperatures]
        return [("boundaries", ["vol%", label(unit)], [edges, temperatures])]


def summary(live: Live) -> str:
    """Return the one line the trail's card shows."""
    result = live.characterized()
    return f"{len(result.components)} cuts" if result else "no cuts yet"
