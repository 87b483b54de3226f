"""What stands beside the map: the state under the probe, the way to the limits, the pins."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ....equilibrium.phase_map import PhaseMap
from ....equilibrium.phases import Kind
from ....fluids.building import FluidModel
from ....fluids.states import Margins, States
from ....properties import PROPERTIES
from ....units import SETS, Numeral, QuantityError, fixed, format_number, from_si, label, parse
from ...shell.live import Live
from ...shell.results_table import Shown
from ...shell.session import PROBED
from ...widgets.fields import elided, repolish, section, tip
from ...widgets.grid import GridModel, GridView
from ...widgets.letters import sized
from ...widgets.theme import LIGHT, Theme

READ = PROBED
"""Properties under the probe, of the registry."""


@dataclass(frozen=True)
class PhaseShown:
    """One phase of the state under the probe: its place in the batch of one, its kind and its mole fraction."""

    place: int
    kind: str
    fraction: float


def phases_of(states: States | None) -> list[PhaseShown]:
    """Return the phases of a batch of one, the denser first."""
    if states is None:
        return []
    found = states.phases
    return [
        PhaseShown(p, Kind(int(found.kind[0, p])).name.lower(), float(found.fraction[0, p]))
        for p in reversed(range(found.kind.shape[-1]))
        if found.kind[0, p] != Kind.ABSENT
    ]


def phase_colour(theme: Theme, kind: str) -> QColor:
    """Return the colour of a phase of a kind."""
    return QColor(theme.water) if kind == "aqueous" else theme.phase(1.0 if kind == "vapour" else 0.0)


class FractionBar(QWidget):
    """The shares of the phases as one bar in their colours."""

    def __init__(self) -> None:
        super().__init__()
        sized(self, fixed_height=18)
        self.theme = LIGHT
        self._phases: list[PhaseShown] = []

    def show_phases(self, phases: list[PhaseShown], theme: Theme) -> None:
        """Show the phases of a state."""
        self._phases, self.theme = phases, theme
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        rect = QRectF(self.rect())
        if not self._phases:
            painter.setBrush(QColor(self.theme.sunk))
            painter.drawRoundedRect(rect, 4, 4)
            return
        x = 0.0
        for phase in self._phases:
            painter.setBrush(phase_colour(self.theme, phase.kind))
            width = rect.width() * phase.fraction
            painter.drawRect(QRectF(x, 0, width, rect.height()))
            x += width


class StateModel(GridModel):
    """Properties of the phases under the probe, a column a phase."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._rows: list[tuple[str, list[str], str]] = []
        self._kinds: list[str] = []

    def show(self, states: States | None) -> None:
        """Show a state."""
        units = dict(SETS[self._live.document.display.units])
        if units["density"] == "degAPI":
            units["density"] = "lb/ft**3"
        units["fraction"] = "%"
        phases = phases_of(states)
        kinds = [p.kind for p in phases]
        self._rows = []
        for key in READ:
            entry = PROPERTIES[key]
            values = [float(states.values.phase[key][0, p.place]) for p in phases] if states is not None else []
            if entry.kind:
                unit = units[entry.kind]
                digits = 4
                shown = [format_number(from_si(v, unit, entry.kind), digits) for v in values]
                self._rows.append((entry.name, shown, label(unit)))
            else:
                self._rows.append((entry.name, [f"{v:.4f}" for v in values], ""))
        if kinds == self._kinds:
            self.rewrite()
        else:
            self._kinds = kinds
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [("", ""), *((k, "") for k in self._kinds), ("unit", "")] if self._kinds else [("", "")]

    def rows(self) -> int:
        return len(self._rows) if self._kinds else 0

    def text(self, row: int, column: int) -> str:
        name, values, unit = self._rows[row]
        return name if column == 0 else unit if column == len(values) + 1 else values[column - 1]

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def muted(self, row: int, column: int) -> bool:
        return column in (0, len(self._kinds) + 1)


class CompositionModel(GridModel):
    """The composition of the feed and the phases under the probe."""

    def __init__(self) -> None:
        super().__init__()
        self._model: FluidModel | None = None
        self._states: States | None = None
        self._phases: list[PhaseShown] = []

    def show(self, states: States | None, model: FluidModel | None) -> None:
        """Show a state of a fluid."""
        model = states.model if states is not None else model
        phases = phases_of(states)
        same = model is self._model and [p.kind for p in phases] == [p.kind for p in self._phases]
        self._model, self._phases, self._states = model, phases, states
        if same and self.rows():
            self.rewrite()
        else:
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [("component", ""), ("fluid", "mol%"), *((p.kind, "mol%") for p in self._phases)]

    def rows(self) -> int:
        return len(self._model.z) if self._model is not None else 0

    def text(self, row: int, column: int) -> str:
        if self._model is None:
            return ""
        if column == 0:
            # A cut is told without its sample here, which stands in the tooltip.
            name = self._model.names[row]
            origin = self._model.origin[row][0] if self._model.components[row].kind == "cut" else ""
            return name.removeprefix(f"{origin} ") if origin else name
        if column == 1 or self._states is None:
            x = self._model.z[row]
        else:
            x = self._states.phases.composition[0, self._phases[column - 2].place, row]
        return fixed(100 * x, 3) if x > 1e-5 or x == 0.0 else Numeral(f"{100 * x:.1e}".replace("-", "−"), 100 * x)

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def tip(self, row: int, column: int) -> str:
        return self._model.names[row] if self._model is not None and column == 0 else ""


class ExtremesModel(GridModel):
    """Critical points, cricondentherm and cricondenbar of an envelope, to copy."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: list[tuple[str, float, float]] = []
        self._units = ("degC", "bar")

    def show(self, whole: PhaseMap | None, units: tuple[str, str]) -> None:
        """Show an envelope's."""
        rows = [("critical", c.T, c.P) for c in whole.critical_points] if whole is not None else []
        extremes = (
            (("cricondentherm", whole.cricondentherm), ("cricondenbar", whole.cricondenbar))
            if whole is not None
            else ()
        )
        self._rows = [*rows, *((name, e.T, e.P) for name, e in extremes if e is not None)]
        self._units = units
        self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [("", ""), ("T", label(self._units[0])), ("P", label(self._units[1]))]

    def rows(self) -> int:
        return len(self._rows)

    def text(self, row: int, column: int) -> str:
        if column == 0:
            return self._rows[row][0]
        kind = ("temperature", "pressure")[column - 1]
        return format_number(from_si(float(self._rows[row][column]), self._units[column - 1], kind), 5)

    def left_aligned(self, column: int) -> bool:
        return column == 0


class Readout(QWidget):
    """The column at the right of the map."""

    pin_asked = Signal()
    pin_removed = Signal(str)
    probe_typed = Signal(float, float)

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self.theme = LIGHT
        self.units: Callable[[], tuple[str, str]] = lambda: ("degC", "bar")
        self._position: tuple[float, float] | None = None
        self.temperature, self.pressure = _reading("Probe temperature"), _reading("Probe pressure")
        self.temperature.editingFinished.connect(self._typed)
        self.pressure.editingFinished.connect(self._typed)
        self.pin = QPushButton("keep  P")
        self.pin.setObjectName("link")
        self.pin.clicked.connect(self.pin_asked)
        self.bar = FractionBar()
        self.low, self.middle, self.high = section("", ""), section("", ""), section("", "")
        self.note = section("", "fault")
        self.note.setWordWrap(True)
        self.state = StateModel(live)
        self.table = GridView(self.state)
        self.table.keep_lines(len(READ))
        self.composition = CompositionModel()
        self.composition_table = GridView(self.composition)
        self.composition_table.set_row_height(20)
        self.table.setAccessibleName("Phases under the probe")
        self.composition_table.setAccessibleName("Composition under the probe")
        self.composition_table.keep_lines(5, "least_height")
        self.extreme_points = ExtremesModel()
        self.extremes = GridView(self.extreme_points)
        self.extremes.setAccessibleName("Critical points and extremes")
        self.extremes.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.margins: dict[str, QLabel] = {}
        margins = QGridLayout()
        margins.setVerticalSpacing(3)
        rows = (
            ("bubble_P", "to the bubble line, at this temperature"),
            ("dew_P", "to the dew line, at this temperature"),
            ("bubble_T", "to the bubble line, at this pressure"),
            ("dew_T", "to the dew line, at this pressure"),
        )
        for row, (key, text) in enumerate(rows):
            self.margins[key] = section("–", "small")
            margins.addWidget(section(text, "mute"), row, 0)
            margins.addWidget(self.margins[key], row, 1, Qt.AlignmentFlag.AlignRight)
        self.pins = QGridLayout()
        self.pins.setVerticalSpacing(2)
        self.pins.setColumnStretch(0, 1)

        head = QHBoxLayout()
        head.addWidget(section("Under the probe"))
        head.addStretch(1)
        head.addWidget(self.pin)
        reading = QHBoxLayout()
        reading.setSpacing(8)
        reading.addWidget(self.temperature, 1)
        reading.addWidget(self.pressure, 1)
        shares = QHBoxLayout()
        shares.addWidget(self.low)
        shares.addStretch(1)
        shares.addWidget(self.middle)
        shares.addStretch(1)
        shares.addWidget(self.high)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 12, 0)
        layout.setSpacing(5)
        layout.addLayout(head)
        layout.addLayout(reading)
        layout.addWidget(self.bar)
        layout.addLayout(shares)
        layout.addWidget(self.note)
        layout.addWidget(self.table)
        layout.addWidget(self.composition_table, 1)
        layout.addSpacing(4)
        layout.addWidget(section("To the limits"))
        layout.addLayout(margins)
        layout.addWidget(self.extremes)
        layout.addSpacing(4)
        self.pins_head = section("Kept envelopes")
        layout.addWidget(self.pins_head)
        layout.addLayout(self.pins)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.table.set_theme(theme)
        self.composition_table.set_theme(theme)
        self.extremes.set_theme(theme)

    def show_position(self, position: tuple[float, float] | None) -> None:
        """Show where the probe is, T K and P Pa."""
        self._position = position
        t_unit, p_unit = self.units()
        for entry, value, unit, kind in (
            (self.temperature, position[0] if position else None, t_unit, "temperature"),
            (self.pressure, position[1] if position else None, p_unit, "pressure"),
        ):
            if not entry.hasFocus():
                text = "" if value is None else f"{format_number(from_si(value, unit, kind), 4)} {label(unit)}"
                entry.setText(text)
                entry.setPlaceholderText(f"– {label(unit)}")
                repolish(entry, "fault", False)

    def _typed(self) -> None:
        t_unit, p_unit = self.units()
        values = []
        for entry, unit, kind in ((self.temperature, t_unit, "temperature"), (self.pressure, p_unit, "pressure")):
            try:
                value = parse(entry.text(), kind, unit)
                if value <= 0.0:
                    raise QuantityError("a pressure must be above zero")
                values.append(value)
                repolish(entry, "fault", False)
            except QuantityError as error:
                repolish(entry, "fault", bool(entry.text()))
                entry.setToolTip(tip(str(error)))
        if len(values) == 2 and (self._position is None or _differs(values, self._position)):
            self.temperature.clearFocus()
            self.pressure.clearFocus()
            self.probe_typed.emit(*values)

    def show_state(self, probe: Shown) -> None:
        """Show the state under the probe."""
        states: States | None = probe.value
        model = self._live.model()
        phases = phases_of(states)
        self.bar.show_phases(phases, self.theme)
        digits = 1 if len(phases) > 2 else 2
        unit = "%" if len(phases) > 2 else "mol%"
        texts = [f"{p.kind} {100 * p.fraction:.{digits}f} {unit}" for p in phases]
        self.low.setText(texts[0] if texts else "move the pointer over the map")
        self.middle.setText(texts[1] if len(texts) > 2 else "")
        self.high.setText(texts[-1] if len(texts) > 1 else "")
        shown = (self.low, self.middle, self.high) if len(phases) > 2 else (self.low, self.high)
        for place, phase in zip(shown, phases):
            place.setStyleSheet(f"color: {phase_colour(self.theme, phase.kind).name()}; font-weight: 600;")
        if not phases:
            self.low.setStyleSheet(f"color: {self.theme.mute};")
        note = probe.error
        if states is not None and not bool(states.phases.converged[0]):
            note = "This state did not converge; do not use it."
        self.note.setText(note)
        self.note.setVisible(bool(note))
        self.state.show(states)
        self._columns(self.table, len(phases))
        self.composition.show(states, model)
        self._columns(self.composition_table, 0)

    @staticmethod
    def _columns(table: GridView, phases: int) -> None:
        header = table.horizontalHeader()
        if header.count():
            header.setSectionResizeMode(0, header.ResizeMode.Stretch)
        for column in range(1, header.count()):
            header.setSectionResizeMode(column, header.ResizeMode.Fixed)
            unit = phases and column == header.count() - 1
            sample = "J/(mol·K)" if unit else "−000.0" if phases else "64.017"
            header.resizeSection(column, table.fontMetrics().horizontalAdvance(sample) + 26)

    def show_margins(self, shown: Shown) -> None:
        """Show the distances to the lines."""
        found: Margins | None = shown.value if not shown.old else None
        t_unit, p_unit = self.units()
        for key, place in self.margins.items():
            along_T = key.endswith("_P")
            unit, kind = (p_unit, "pressure") if along_T else (t_unit, "temperature")
            line = getattr(found, key) if found is not None else None
            if found is None or line is None:
                place.setText("–")
                continue
            value = from_si(line, unit, kind) - from_si(found.P if along_T else found.T, unit, kind)
            sign = "+" if value >= 0.0 else ""
            place.setText(f"{sign}{format_number(value, 3)} {DIFFERENCES.get(unit, label(unit))}")

    def show_extremes(self, whole: PhaseMap | None) -> None:
        """Show the critical points and extremes of the envelope."""
        self.extreme_points.show(whole, self.units())
        self.extremes.setVisible(bool(self.extreme_points.rows()))
        self.extremes.keep_lines(self.extreme_points.rows())

    def show_kept(self) -> None:
        """List the kept envelopes; kept states stand on the shelf, as questions."""
        while self.pins.count():
            item = self.pins.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        kept = [(g.name, "dotted on the map") for g in self._live.document.ghosts]
        self.pins_head.setVisible(bool(kept))
        for row, (name, what) in enumerate(kept[:5]):
            button = section(elided(name, 28), "")
            button.setToolTip(tip(name))
            remove = QToolButton()
            remove.setText("×")
            remove.setObjectName("plus")
            remove.setToolTip("Remove this; undo brings it back")
            remove.clicked.connect(lambda _c=False, n=name: self.pin_removed.emit(n))
            self.pins.addWidget(button, row, 0, Qt.AlignmentFlag.AlignLeft)
            self.pins.addWidget(section(what, "mute"), row, 1, Qt.AlignmentFlag.AlignRight)
            self.pins.addWidget(remove, row, 2)
        if len(kept) > 5:
            self.pins.addWidget(section(f"and {len(kept) - 5} more on the map", "mute"), 5, 0)


DIFFERENCES = {"degC": "K", "degF": "°F", "barg": "bar", "psig": "psi", "psia": "psi"}
"""How a difference is written where the unit has an offset."""


def _reading(name: str) -> QLineEdit:
    entry = QLineEdit()
    entry.setObjectName("reading")
    entry.setAccessibleName(name)
    entry.setToolTip("Type a value in any unit to place the probe")
    return entry


def _differs(values: list[float], position: tuple[float, float]) -> bool:
    return any(abs(a - b) > 5e-4 * abs(b) for a, b in zip(values, position))
