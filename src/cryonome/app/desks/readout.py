"""What stands beside the map: the state under the probe, the way to the limits, the pins."""

from __future__ import annotations

from collections.abc import Callable

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

from ...studies.inputs import FluidModel
from ...studies.states import State
from ...units import SETS, QuantityError, format_number, from_si, label, parse
from ..fields import elided, repolish, section
from ..grid import GridModel, GridView
from ..live import Live, pin_position
from ..theme import LIGHT, Theme

NAMES = {"vapour": "vapour", "liquid": "liquid", "aqueous": "aqueous"}


class FractionBar(QWidget):
    """The shares of the phases as one bar in their colours."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(18)
        self.theme = LIGHT
        self._state: State | None = None

    def show_state(self, state: State | None, theme: Theme) -> None:
        """Show a state."""
        self._state, self.theme = state, theme
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        rect = QRectF(self.rect())
        if self._state is None:
            painter.setBrush(QColor(self.theme.sunk))
            painter.drawRoundedRect(rect, 4, 4)
            return
        x = 0.0
        for phase in reversed(self._state.phases):
            painter.setBrush(self.theme.phase(1.0 if phase.kind == "vapour" else 0.0))
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

    def show(self, state: State | None) -> None:
        """Show a state."""
        units = SETS[self._live.document.display.units]
        phases = list(reversed(state.phases)) if state else []
        kinds = [p.kind for p in phases]
        density = units["density"] if units["density"] != "degAPI" else "lb/ft**3"
        h, s, m = units["enthalpy"], units["entropy"], units["molar_mass"]
        self._rows = [
            ("Mass share", [f"{100 * p.mass_fraction:.2f}" for p in phases], "%"),
            (
                "Density",
                [format_number(from_si(float(p.properties.density[0]), density, "density"), 4) for p in phases],
                label(density),
            ),
            (
                "Molar mass",
                [format_number(from_si(float(p.properties.molar_mass[0]), m, "molar_mass"), 4) for p in phases],
                label(m),
            ),
            ("Z", [f"{float(p.properties.Z[0]):.4f}" for p in phases], ""),
            (
                "Enthalpy",
                [format_number(from_si(float(p.properties.enthalpy[0]), h, "enthalpy"), 4) for p in phases],
                label(h),
            ),
            (
                "Entropy",
                [format_number(from_si(float(p.properties.entropy[0]), s, "entropy"), 4) for p in phases],
                label(s),
            ),
        ]
        if kinds == self._kinds:
            self.rewrite()
        else:
            self._kinds = kinds
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [("", ""), *((NAMES[k], "") for k in self._kinds), ("unit", "")] if self._kinds else [("", "")]

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
        self._phases: list = []

    def show(self, state: State | None, model: FluidModel | None) -> None:
        """Show a state of a fluid."""
        phases = list(reversed(state.phases)) if state else []
        same = model is self._model and [p.kind for p in phases] == [p.kind for p in self._phases]
        self._model, self._phases = model, phases
        if same and self.rows():
            self.rewrite()
        else:
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [("component", ""), ("fluid", "mol%"), *((NAMES[p.kind], "mol%") for p in self._phases)]

    def rows(self) -> int:
        fits = self._model is not None and all(len(p.composition) == len(self._model.z) for p in self._phases)
        return len(self._model.z) if self._model is not None and fits else 0

    def text(self, row: int, column: int) -> str:
        if self._model is None:
            return ""
        if column == 0:
            name = self._model.names[row]
            # A cut is told by its range here; the sample stands in the tooltip.
            return " ".join(name.rsplit(" ", 4)[1:]) if self._model.components[row].kind == "cut" else name
        x = self._model.z[row] if column == 1 else self._phases[column - 2].composition[row]
        return f"{100 * x:.3f}" if x > 1e-5 or x == 0.0 else f"{100 * x:.1e}".replace("-", "−")

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def tip(self, row: int, column: int) -> str:
        return self._model.names[row] if self._model is not None and column == 0 else ""


class Readout(QWidget):
    """The column at the right of the map."""

    pin_asked = Signal()
    pin_removed = Signal(str)
    pin_chosen = Signal(str)
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
        self.pin = QPushButton("pin  P")
        self.pin.setObjectName("link")
        self.pin.clicked.connect(self.pin_asked)
        self.bar = FractionBar()
        self.low, self.high = QLabel(""), QLabel("")
        self.note = section("", "fault")
        self.note.setWordWrap(True)
        self.state = StateModel(live)
        self.table = GridView(self.state)
        self.table.setFixedHeight(24 + 6 * 24 + 3)
        self.composition = CompositionModel()
        self.composition_table = GridView(self.composition)
        self.composition_table.verticalHeader().setDefaultSectionSize(20)
        self.composition_table.setMinimumHeight(116)
        self.table.setAccessibleName("Phases under the probe")
        self.composition_table.setAccessibleName("Composition under the probe")
        self.margins: dict[str, QLabel] = {}
        margins = QGridLayout()
        margins.setVerticalSpacing(3)
        rows = (
            ("bubble at T", "to the bubble line, at this T"),
            ("dew at T", "to the dew line, at this T"),
            ("bubble at P", "to the bubble line, at this P"),
            ("dew at P", "to the dew line, at this P"),
        )
        for row, (key, text) in enumerate(rows):
            self.margins[key] = section("–")
            self.margins[key].setStyleSheet("font-size: 12px;")
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
        layout.addSpacing(4)
        layout.addWidget(section("Pins"))
        layout.addLayout(self.pins)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.table.set_theme(theme)
        self.composition_table.set_theme(theme)

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
                entry.setToolTip(str(error))
        if len(values) == 2 and (self._position is None or _differs(values, self._position)):
            self.temperature.clearFocus()
            self.pressure.clearFocus()
            self.probe_typed.emit(*values)

    def show_state(self, state: State | None, error: str) -> None:
        """Show the state under the probe."""
        model = self._live.fluid.value
        self.bar.show_state(state, self.theme)
        phases = list(reversed(state.phases)) if state else []
        texts = [f"{p.kind} {100 * p.fraction:.2f} mol%" for p in phases]
        self.low.setText(texts[0] if texts else "move the pointer over the map")
        self.high.setText(texts[1] if len(texts) > 1 else "")
        for place, phase in zip((self.low, self.high), phases):
            colour = self.theme.phase(1.0 if phase.kind == "vapour" else 0.0).name()
            place.setStyleSheet(f"color: {colour}; font-weight: 600;")
        if not phases:
            self.low.setStyleSheet(f"color: {self.theme.mute};")
        note = error
        if state is not None and not state.converged:
            note = "This state did not converge; do not use it."
        elif state is not None and state.third_phase:
            note = "A third phase would form here; shown is the best state of two."
        self.note.setText(note)
        self.note.setVisible(bool(note))
        self.state.show(state)
        self._columns(self.table, len(phases))
        self.composition.show(state, model if isinstance(model, FluidModel) else None)
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

    def show_margins(self, margins: dict[str, tuple[float, float] | None] | None) -> None:
        """Show the distances to the lines."""
        t_unit, p_unit = self.units()
        for key, place in self.margins.items():
            pair = margins.get(key) if margins else None
            place.setText("–")
            if pair is not None:
                step, start = pair
                unit, kind = (p_unit, "pressure") if key.endswith("T") else (t_unit, "temperature")
                value = from_si(start + step, unit, kind) - from_si(start, unit, kind)
                shown = {"degC": "K", "degF": "°F", "barg": "bar", "psig": "psi", "psia": "psi"}.get(unit, label(unit))
                sign = "+" if value >= 0.0 else ""
                place.setText(f"{sign}{format_number(value, 3)} {shown}")

    def show_pins(self) -> None:
        """List the pins of the selected fluid."""
        while self.pins.count():
            widget = self.pins.takeAt(0).widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        t_unit, p_unit = self.units()
        pins = [p for p in self._live.document.pins if p.fluid == self._live.fluid_name or p.frozen_fluid is not None]
        for row, pin in enumerate(pins[:5]):
            position = pin_position(pin)
            name = QPushButton(elided(pin.name, 18))
            name.setToolTip(pin.name)
            name.setObjectName("link")
            name.setStyleSheet(f"QPushButton {{ color: {self.theme.ink}; text-align: left; }}")
            name.clicked.connect(lambda _c=False, n=pin.name: self.pin_chosen.emit(n))
            if position is None:
                what = "envelope, dotted ghost"
            else:
                t, p = from_si(position[0], t_unit, "temperature"), from_si(position[1], p_unit, "pressure")
                what = f"{format_number(t, 3)} {label(t_unit)}, {format_number(p, 3)} {label(p_unit)}"
            remove = QToolButton()
            remove.setText("×")
            remove.setObjectName("plus")
            remove.setToolTip("Remove this pin")
            remove.clicked.connect(lambda _c=False, n=pin.name: self.pin_removed.emit(n))
            self.pins.addWidget(name, row, 0, Qt.AlignmentFlag.AlignLeft)
            self.pins.addWidget(section(what, "mute"), row, 1, Qt.AlignmentFlag.AlignRight)
            self.pins.addWidget(remove, row, 2)
        if not pins:
            self.pins.addWidget(section("none yet: P keeps the state, Shift+P the envelope", "mute"), 0, 0)
        elif len(pins) > 5:
            self.pins.addWidget(section(f"and {len(pins) - 5} more on the map", "mute"), 5, 0)


def _reading(name: str) -> QLineEdit:
    entry = QLineEdit()
    entry.setObjectName("reading")
    entry.setAccessibleName(name)
    entry.setToolTip("Type a value in any unit to place the probe")
    return entry


def _differs(values: list[float], position: tuple[float, float]) -> bool:
    return any(abs(a - b) > 5e-4 * abs(b) for a, b in zip(values, position))
