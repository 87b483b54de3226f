"""The desk *map*: the phase envelope in pressure and temperature with a live probe."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer
from PySide6.QtWidgets import QGraphicsItem, QHBoxLayout, QScrollArea, QToolButton, QVBoxLayout, QWidget

from ...document import Pin
from ...document.edits import add_pin, remove_pin
from ...document.model import Display, MapDisplay
from ...equilibrium.phase_map import PhaseMap
from ...studies.envelope import curves, metastable, smooth
from ...units import SETS, format_number, from_si, label, to_si
from ..fields import elided, section, unit_menu
from ..live import QUALITY, Live, pin_position
from ..plot import Plot, Table, pen
from ..theme import Theme
from .desk import Desk
from .readout import Readout

PROBE_INTERVAL = 25
"""ms between two requests while the pointer moves."""


class MapDesk(Desk):
    """The P-T map and its readout."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        self._fitted = ""
        self._drawn: object = None
        self._position: tuple[float, float] | None = None
        self.title, self.subtitle = section("", "title"), section("P–T map", "mute")
        self.status = section("", "mute")
        self.chips: dict[str, QToolButton] = {}
        heading = QHBoxLayout()
        heading.addWidget(self.title)
        heading.addSpacing(4)
        heading.addWidget(self.subtitle, 0, Qt.AlignmentFlag.AlignBottom)
        heading.addSpacing(24)
        for key, text in (
            ("envelope", "Envelope"),
            ("quality", "Quality lines"),
            ("pins", "Pins"),
            ("log", "Logarithmic"),
        ):
            chip = QToolButton()
            chip.setObjectName("chip")
            chip.setText(text)
            chip.setCheckable(True)
            chip.setChecked(key != "log")
            self.chips[key] = chip
            heading.addWidget(chip)
        heading.addStretch(1)
        heading.addWidget(self.status)
        self.chips["envelope"].toggled.connect(lambda _on: self.draw())
        self.chips["pins"].toggled.connect(lambda _on: self.draw())
        self.chips["quality"].clicked.connect(lambda on: self.change_display({"quality_lines": on}, "Quality lines"))
        self.chips["log"].clicked.connect(lambda on: self.change_display({"logarithmic": on}, "Pressure scale"))

        self.plot = Plot("Phase map", clickable=True)
        self.plot.data = self._data
        self.plot.show_all = self.show_all  # type: ignore[method-assign]
        self.plot.x_title_clicked.connect(lambda p: self.choose_unit("temperature", p))
        self.plot.y_title_clicked.connect(lambda p: self.choose_unit("pressure", p))
        self.plot.view.setMouseTracking(True)
        self.plot.view.viewport().installEventFilter(self)
        self.readout = Readout(live)
        self.readout.units = self.units
        scroll = QScrollArea()
        scroll.setObjectName("bare")
        scroll.setWidget(self.readout)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFixedWidth(348)
        self.readout.pin_asked.connect(self.pin_state)
        self.readout.pin_removed.connect(self.unpin)
        self.readout.pin_chosen.connect(self.go_to_pin)
        self.readout.probe_typed.connect(self.place_probe)
        self._cross_v = pg.InfiniteLine(angle=90)
        self._cross_h = pg.InfiniteLine(angle=0)
        self._marker = pg.ScatterPlotItem(size=13, symbol="o")

        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(self.plot, 1)
        body.addWidget(scroll)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(8)
        layout.addLayout(heading)
        layout.addLayout(body, 1)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PROBE_INTERVAL)
        self._timer.timeout.connect(self._ask)
        # Drawn in a turn of its own, so that arriving results and painting do not hold the interface in one piece.
        self._redraw = QTimer(self)
        self._redraw.setSingleShot(True)
        self._redraw.setInterval(0)
        self._redraw.timeout.connect(self.update_desk)
        live.map_changed.connect(self._redraw.start)
        live.pins_changed.connect(self._redraw.start)
        live.jobs.busy_changed.connect(self._tell)
        live.selection_changed.connect(self._selection)
        live.probe_changed.connect(self._show_probe)
        live.margins_changed.connect(lambda: self.readout.show_margins(live.margins))

    # -- units and scale -----------------------------------------------------------------------------------------

    def units(self) -> tuple[str, str]:
        """Return the units of temperature and pressure on the map."""
        display = self._live.document.display
        chosen = display.map
        units = SETS[display.units]
        return chosen.temperature or units["temperature"], chosen.pressure or units["pressure"]

    def choose_unit(self, kind: str, position: QPoint) -> None:
        """Offer the units of an axis."""
        current = self.units()[0 if kind == "temperature" else 1]
        unit_menu(self, kind, current, lambda u: self.change_display({kind: u}, "Choose a unit")).exec(position)

    def change_display(self, update: dict[str, object], text: str) -> None:
        """Change how the map is drawn."""

        def change(display: Display) -> Display:
            shown: MapDisplay = display.map.model_copy(update=update)
            return display.model_copy(update={"map": shown})

        self._fitted = ""
        self._live.store.edit(text, lambda d: d.model_copy(update={"display": change(d.display)}))
        self.update_desk()

    def _log(self) -> bool:
        return self._live.document.display.map.logarithmic

    def _xy(self, T: np.ndarray | float, P: np.ndarray | float) -> tuple[np.ndarray, np.ndarray]:
        """Return plot coordinates of T K and P Pa."""
        t_unit, p_unit = self.units()
        # These conversions are linear, so one call serves the whole line.
        x = from_si(np.atleast_1d(T), t_unit, "temperature")  # type: ignore[arg-type]
        y = from_si(np.atleast_1d(P), p_unit, "pressure")  # type: ignore[arg-type]
        return np.asarray(x), np.log10(np.maximum(y, 1e-12)) if self._log() else np.asarray(y)

    def _state(self, x: float, y: float) -> tuple[float, float]:
        """Return T K and P Pa at plot coordinates."""
        t_unit, p_unit = self.units()
        value = 10.0**y if self._log() else y
        return to_si(x, t_unit, "temperature"), to_si(value, p_unit, "pressure")

    # -- drawing -------------------------------------------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.plot.set_theme(theme)
        self.readout.set_theme(theme)
        self.update_desk()
        self._show_probe()

    def _selection(self) -> None:
        self._position = None
        self.readout.show_position(None)
        self.readout.show_margins(None)
        self._show_probe()
        self.update_desk()

    def refresh(self) -> None:
        """Draw everything anew."""
        self.draw()

    def draw(self) -> None:
        """Draw everything anew."""
        fluid, shown = self._live.current_fluid(), self._live.map
        display = self._live.document.display.map
        whole = shown.value
        chips = tuple(c.isChecked() for c in self.chips.values())
        drawn = (
            id(whole),
            id(self.theme),
            self.units(),
            chips,
            display,
            fluid and fluid.name,
            self._live.document.pins,
        )
        ghosts = tuple(map(id, self._live.pin_maps.values()))
        self._tell()
        if self._drawn == (drawn, ghosts):
            self.plot.set_faint(shown.old)
            return
        self.chips["quality"].setChecked(display.quality_lines)
        self.chips["log"].setChecked(display.logarithmic)
        name = fluid.name if fluid else "No fluid"
        self.title.setText(elided(name, 40))
        self.title.setToolTip(name)
        t_unit, p_unit = self.units()
        self.plot.set_titles(f"Temperature, {label(t_unit)}", f"Pressure, {label(p_unit)}")
        self.plot.item.setLogMode(y=False)
        self.plot.item.getAxis("left").setLogMode(self._log())
        self.plot.wipe()
        if isinstance(whole, PhaseMap) and self.chips["envelope"].isChecked():
            self._draw_map(whole)
        if self.chips["pins"].isChecked():
            self._draw_pins()
        self.plot.set_faint(shown.old)
        self._draw_probe()
        self.readout.show_pins()
        self._drawn = ((*drawn[:3], tuple(c.isChecked() for c in self.chips.values()), *drawn[4:]), ghosts)
        key = f"{name}|{t_unit}|{p_unit}|{self._log()}"
        if isinstance(whole, PhaseMap) and not shown.old and self._fitted != key:
            self._fitted = key
            self._fit(whole)
            self._first_place(whole)

    def _tell(self) -> None:
        shown = self._live.map
        if self._live.jobs.busy("map"):
            self.status.setText("tracing the envelope …")
        elif shown.error:
            self.status.setText(f"last good result: {shown.error}" if shown.value is not None else shown.error)
        elif isinstance(shown.value, PhaseMap) and shown.value.remarks:
            self.status.setText(shown.value.remarks[0] if len(shown.value.remarks[0]) < 60 else "see the ledger")
        else:
            self.status.setText("")
        self.status.setToolTip(shown.error)

    def _draw_map(self, whole: PhaseMap) -> None:
        t = self.theme
        lines = curves(whole, [0.0, 1.0, *(QUALITY if self.chips["quality"].isChecked() else ())])
        lines = [(beta, *smooth(T, P)) for beta, T, P in lines]
        for beta, T, P in lines:
            x, y = self._xy(T, P)
            edge = beta in (0.0, 1.0)
            colour = t.phase(beta)
            width = 2.6 if edge else 1.2
            self._line(x, y, pen(colour, width))
            if not edge:
                self._name_line(f"{100 * beta:.0f} %", x, y, colour.name(), 0.42)
        if whole.z.size > 1:
            for beta, text in ((0.0, "bubble"), (1.0, "dew")):
                longest = max((c for c in lines if c[0] == beta), key=lambda c: len(c[1]), default=None)
                if longest is not None:
                    self._name_line(
                        text,
                        *self._xy(longest[1], longest[2]),
                        t.phase(beta).name(),
                        0.6 if beta == 0.0 else 0.45,
                        True,
                    )
        for beta, T, P in metastable(whole):
            # Paint over with the ground, then dot: the line is not what would be seen there.
            x, y = self._xy(T, P)
            self._line(x, y, pen(t.surface, 4.0))
            self._line(x, y, pen(t.phase(beta), 1.6, Qt.PenStyle.DotLine))
        for c in whole.critical_points:
            self._mark(c.T, c.P, "d", "critical", t.ink, 12)
        if whole.z.size > 1:
            for point, text in (
                (whole.cricondenbar, "highest pressure"),
                (whole.cricondentherm, "highest temperature"),
            ):
                if point is not None:
                    self._mark(point.T, point.P, "+", text, t.mute, 9)

    def _line(self, x: np.ndarray, y: np.ndarray, look: object) -> None:
        """Draw a line, kept as a picture: the moving probe then repaints nothing of it."""
        curve = pg.PlotCurveItem(x, y, pen=look, skipFiniteCheck=True)
        curve.setCacheMode(QGraphicsItem.CacheMode.DeviceCoordinateCache)
        self.plot.add(curve)

    def _mark(self, T: float, P: float, symbol: str, text: str, colour: str, size: int) -> None:
        x, y = self._xy(T, P)
        brush = self.theme.surface if symbol == "d" else colour
        self.plot.add(pg.ScatterPlotItem(x, y, symbol=symbol, size=size, brush=brush, pen=pen(colour, 1.4)))
        t_unit, p_unit = self.units()
        where = f"{format_number(from_si(T, t_unit, 'temperature'), 4)} {label(t_unit)}, {format_number(from_si(P, p_unit, 'pressure'), 4)} {label(p_unit)}"
        anchor = {
            "critical": (-0.05, 0.6),
            "highest pressure": (1.02, 1.3) if self._beside_critical(T) else (-0.02, 1.3),
            "highest temperature": (1.05, 0.5),
        }[text]
        names = {"highest pressure": "cricondenbar", "highest temperature": "cricondentherm"}
        gap = "\n" if text == "critical" else " "
        item = pg.TextItem(f"{names.get(text, text)}{gap}{where}", color=colour, anchor=anchor)
        item.setPos(x[0], y[0])
        self.plot.add(item)

    def _beside_critical(self, T: float) -> bool:
        """Tell whether a label at the right of T would run into that of a critical point."""
        whole = self._live.map.value
        return any(0.0 <= c.T - T < 0.12 * c.T for c in whole.critical_points)

    def _name_line(
        self, text: str, x: np.ndarray, y: np.ndarray, colour: str, place: float, bold: bool = False
    ) -> None:
        if len(x) < 3:
            return
        span = max(float(np.ptp(x)), 1e-9), max(float(np.ptp(y)), 1e-9)
        along = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(x) / span[0], np.diff(y) / span[1]))])
        i = int(np.searchsorted(along, place * along[-1]))
        weight = "600" if bold else "500"
        item = pg.TextItem(
            html=f'<span style="color:{colour};font-weight:{weight};font-size:8.5pt">{text}</span>', anchor=(0.5, 0.5)
        )
        item.fill = pg.mkBrush(self.theme.surface)
        item.setPos(x[i], y[i])
        self.plot.add(item)

    def _draw_pins(self) -> None:
        t = self.theme
        for pin in self._live.document.pins:
            ghost = self._live.pin_maps.get(pin.name)
            position = pin_position(pin)
            if ghost is not None:
                for _, T, P in curves(ghost, [0.0, 1.0]):
                    self._line(*self._xy(*smooth(T, P)), pen(t.mute, 1.4, Qt.PenStyle.DotLine))
            elif position is not None and pin.fluid == self._live.fluid_name:
                x, y = self._xy(*position)
                self.plot.add(pg.ScatterPlotItem(x, y, symbol="o", size=9, brush=t.surface, pen=pen(t.ink, 1.6)))
                text = pg.TextItem(elided(pin.name, 24), color=t.ink, anchor=(-0.12, 0.5))
                text.setPos(x[0], y[0])
                self.plot.add(text)

    def show_all(self) -> None:
        """Show the whole envelope again."""
        if isinstance(self._live.map.value, PhaseMap):
            self._fit(self._live.map.value)

    def _fit(self, whole: PhaseMap) -> None:
        """Show the envelope where engineers look: from -60 degC, and from zero pressure."""
        parts = [p for p in whole.parts if p.beta in (0.0, 1.0) and len(p.u)]
        if not parts:
            return
        T = np.concatenate([p.T for p in parts])
        P = np.concatenate([p.P for p in parts])
        points = [
            q for q in (pin_position(p) for p in self._live.document.pins if p.fluid == self._live.fluid_name) if q
        ]
        tops = [P.max(), *(p for _, p in points)]
        cold = T.min() if T.max() < 300.0 else max(T.min(), 213.15)
        if not (cold <= T).any():
            cold = T.min()
        left, bottom = self._xy(cold, 1e5 if self._log() else 1e-9)
        right, top = self._xy(T.max() + 0.13 * (T.max() - cold), max(tops) * (1.3 if self._log() else 1.1))
        if not self._log():
            bottom = np.array([0.0])
        self.plot.box.setXRange(float(left[0]), float(right[0]), padding=0.0)
        self.plot.box.setYRange(float(bottom[0]), float(top[0]), padding=0.0)

    # -- the probe -----------------------------------------------------------------------------------------------

    def eventFilter(self, watched, event) -> bool:
        if watched is self.plot.view.viewport() and event.type() == QEvent.Type.MouseMove and not event.buttons():
            self._pointer(event.position())
        return False

    def _pointer(self, position: QPointF) -> None:
        scene = self.plot.view.mapToScene(position.toPoint())
        if not self.plot.box.sceneBoundingRect().contains(scene):
            return
        point = self.plot.box.mapSceneToView(scene)
        T, P = self._state(point.x(), point.y())
        if T > 1.0 and P > 1.0:
            self._position = (T, P)
            self._draw_probe()
            self.readout.show_position(self._position)
            if not self._timer.isActive():
                self._timer.start()

    def place_probe(self, T: float, P: float) -> None:
        """Put the probe at T K, P Pa."""
        self._position = (T, P)
        self._draw_probe()
        self.readout.show_position(self._position)
        self._ask()

    def _ask(self) -> None:
        if self._position is not None:
            self._live.ask_probe(*self._position)

    def _first_place(self, whole: PhaseMap) -> None:
        """Put a probe that has no place yet at the first pinned state, or inside the envelope."""
        if self._position is not None:
            return
        pinned = [pin_position(p) for p in self._live.document.pins if p.fluid == self._live.fluid_name]
        places = [p for p in pinned if p is not None]
        top = whole.cricondenbar or whole.cricondentherm
        if places:
            self.place_probe(*places[-1])
        elif top is not None:
            self.place_probe(top.T, 0.4 * top.P)

    def _draw_probe(self) -> None:
        t = self.theme
        items = (self._cross_v, self._cross_h, self._marker)
        if self._position is None:
            for item in items:
                item.setVisible(False)
            return
        x, y = self._xy(*self._position)
        dashed = pen(t.accent, 1.0, Qt.PenStyle.DashLine)
        self._cross_v.setPen(dashed)
        self._cross_h.setPen(dashed)
        self._cross_v.setValue(float(x[0]))
        self._cross_h.setValue(float(y[0]))
        self._marker.setData(x, y, pen=pen(t.accent, 1.8), brush=t.surface)
        for item in items:
            item.setVisible(True)
            if item.scene() is None:
                self.plot.box.addItem(item, ignoreBounds=True)

    def _show_probe(self) -> None:
        self.readout.show_state(self._live.probe, self._live.probe_error if self._live.probe is None else "")

    # -- pins ----------------------------------------------------------------------------------------------------

    def pin_state(self) -> None:
        """Keep the state under the probe."""
        if self._position is None or not self._live.fluid_name:
            return
        T, P = self._position
        t_unit, p_unit = self.units()
        t_text = f"{from_si(T, t_unit, 'temperature'):.2f} {t_unit}"
        p_text = f"{from_si(P, p_unit, 'pressure'):.4g} {p_unit}"
        pin = Pin(name="state", fluid=self._live.fluid_name, temperature=t_text, pressure=p_text)
        self._live.store.edit("Pin the state", lambda d: add_pin(d, pin))

    def pin_envelope(self) -> None:
        """Keep the present envelope as a ghost."""
        fluid = self._live.current_fluid()
        if fluid is None or self._live.fluid.error:
            return
        used = {p.sample for p in fluid.parts if p.sample}
        samples = tuple(s for s in self._live.document.samples if s.name in used)
        pin = Pin(name=f"{fluid.name}, {fluid.model.eos}", fluid=fluid.name, frozen_fluid=fluid, frozen_samples=samples)
        self._live.store.edit("Pin the envelope", lambda d: add_pin(d, pin))

    def unpin(self, name: str) -> None:
        """Remove a pin."""
        self._live.store.edit("Remove a pin", lambda d: remove_pin(d, name))

    def clear_pins(self) -> None:
        """Remove every pin of the selected fluid."""
        fluid = self._live.fluid_name
        self._live.store.edit(
            "Remove all pins", lambda d: d.model_copy(update={"pins": tuple(p for p in d.pins if p.fluid != fluid)})
        )

    def go_to_pin(self, name: str) -> None:
        """Put the probe where a state was pinned."""
        for pin in self._live.document.pins:
            position = pin_position(pin)
            if pin.name == name and position is not None:
                self.place_probe(*position)

    def _data(self) -> list[Table]:
        whole = self._live.map.value
        if not isinstance(whole, PhaseMap):
            return []
        t_unit, p_unit = self.units()
        names = [label(t_unit), label(p_unit)]
        out: list[Table] = []
        for beta, T, P in curves(whole, [0.0, 1.0, *QUALITY]):
            title = {0.0: "bubble", 1.0: "dew"}.get(beta, f"vapour fraction {beta:g}")
            x = [from_si(float(v), t_unit, "temperature") for v in T]
            out.append((title, names, [x, [from_si(float(v), p_unit, "pressure") for v in P]]))
        for title, points in (
            ("critical", whole.critical_points),
            ("cricondentherm", [whole.cricondentherm] if whole.cricondentherm else []),
            ("cricondenbar", [whole.cricondenbar] if whole.cricondenbar else []),
        ):
            if points:
                x = [from_si(p.T, t_unit, "temperature") for p in points]
                out.append((title, names, [x, [from_si(p.P, p_unit, "pressure") for p in points]]))
        return out


def summary(live: Live) -> str:
    """Return the one line the trail's card shows."""
    whole = live.map.value
    if live.jobs.busy("map"):
        return "tracing the envelope …"
    if isinstance(whole, PhaseMap):
        top = whole.cricondenbar
        units = SETS[live.document.display.units]
        unit = live.document.display.map.pressure or units["pressure"]
        return (
            f"envelope to {format_number(from_si(top.P, unit, 'pressure'), 3)} {label(unit)}"
            if top
            else "open envelope"
        )
    return "nothing yet"
