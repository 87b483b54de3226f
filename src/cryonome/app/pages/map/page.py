"""The desk *map*: the phase envelope in pressure and temperature with a live probe."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import partial
from typing import Any

import numpy as np
import pyqtgraph as pg
from numpy.typing import ArrayLike
from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from ....document import Study
from ....document.edits import add_ghost, add_study, set_each, without
from ....document.faults import PathParts
from ....document.kinds import study_kinds
from ....document.references import is_about
from ....equilibrium.extremes import with_stable_extremes
from ....equilibrium.phase_map import PhaseMap
from ....equilibrium.phases import Kind
from ....equilibrium.region_cells import Boundary
from ....equilibrium.regions import Regions
from ....equilibrium.spinodal import Spinodal
from ....fluids.map_lines import curves
from ....remarks import kelvin, measure, pascal
from ....results.hydrates import HydrateLines
from ....telling.sentences import sentence
from ....units import SETS, QuantityError, format_number, from_si, label, parse
from ....wording.spoken import Blank, Said, Sentence
from ...shell.live import Live
from ...widgets.fields import elided, section, tip, unit_menu
from ...widgets.flow import FlowBox
from ...widgets.layer import LayerSquare
from ...widgets.plot import Plot, Table, pen
from ...widgets.sentence import SentenceView
from ...widgets.theme import Theme
from ..shared.desk import Action, Desk, DeskEntry, register
from ..shared.limit_picture import DrawnPath, draw_hydrates, draw_paths, label_hydrates, label_paths
from ..shared.map_picture import Frame, Picture, Pinned, fit, name_of
from .paths import PathHandles, paths_of
from .readout import Readout
from .spread_bands import draw_bands, map_bands
from .vapour import Kept, draw_vapour_pressures, kept_of, label_vapour_pressures

PROBE_INTERVAL = 12
"""ms between two requests while the pointer moves."""

SETTLE = 40
"""ms after the last change of the view before labels are placed anew."""

LAYERS = {
    "envelope": "Envelope",
    "quality_lines": "Quality",
    "by_volume": "by volume",
    "regions": "Regions",
    "metastable": "Metastable",
    "spinodal": "Spinodal",
    "hydrates": "Hydrates",
    "vapour_pressures": "Vapour pressures",
    "paths": "Paths",
    "spread": "Spread",
    "pins": "Kept",
    "logarithmic": "log P",
}
"""What can be switched on the map, by its key in the document's display."""

LOOKS = {
    "envelope": ("liquid", "line"), "quality_lines": ("half", "line"), "by_volume": ("half", "dash"), "regions": ("water", "area"),
    "metastable": ("half", "dot"), "spinodal": ("mute", "dot"), "hydrates": ("hydrate", "line"), "vapour_pressures": ("accent", "line"), "paths": ("ink", "line"),
    "spread": ("half", "area"), "pins": ("ink", "area"), "logarithmic": ("mute", "area"),
}  # fmt: skip
"""The colour of the theme and the stroke of each layer."""


TRACED = ("volumes", "lines", "map")
"""Results that take a while to trace."""

NARROW, WIDE = 348, 428
"""Widths of the readout in pixels, of fluids without and with water."""


class MapDesk(Desk):
    """The P-T map and its readout."""

    shows = frozenset(
        {
            "selection",
            "map",
            "lines",
            "volumes",
            "regions",
            "spinodal",
            "hydrates",
            "ghost",
            "answer",
        }
    )
    # What follows the pointer is shown by itself (:meth:`_show_probe`): the picture has no part in it.

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self._fitted = ""
        self._drawn: object = None
        self._position: tuple[float, float] | None = None
        self._of_fluid = ""
        self._probe_look: Theme | None = None
        self.bar = SentenceView()
        self.bar.typed.connect(self._typed)
        self.found = section("", "answer")
        self.found.setWordWrap(True)
        self.status = section("", "mute")
        self.chips: dict[str, LayerSquare] = {}
        heading = QHBoxLayout()
        heading.addWidget(self.bar, 1)
        heading.addWidget(self.status, 0, Qt.AlignmentFlag.AlignTop)
        # Squares that find no room go on in a second line.
        box = FlowBox(gap=1)
        chips = box.flow
        for key, text in LAYERS.items():
            self.chips[key] = LayerSquare(text, *LOOKS[key], partial(self._switch, key))
            chips.addWidget(self.chips[key])

        self.plot = Plot("Phase map", clickable=True)
        self.plot.reads_out = False  # the probe tells what is under the pointer
        self.plots = [self.plot]
        self.plot.data = self._data
        self.plot.show_all = self.show_all  # type: ignore[method-assign]
        self.plot.x_title_clicked.connect(lambda p: self.choose_unit("temperature", p))
        self.plot.y_title_clicked.connect(lambda p: self.choose_unit("pressure", p))
        self.plot.view.setMouseTracking(True)
        self.plot.view.viewport().installEventFilter(self)
        self.plot.setMinimumWidth(240)
        self.readout = Readout(live)
        self.readout.units = self.units
        self.grids = [self.readout.composition_table, self.readout.table, self.readout.extremes]
        self.themed = [self.readout, *self.chips.values()]
        scroll = QScrollArea()
        scroll.setObjectName("bare")
        scroll.setWidget(self.readout)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setMinimumWidth(300)
        scroll.setMaximumWidth(NARROW)
        self._side = scroll
        self.readout.pin_asked.connect(self.pin_state)
        self.readout.pin_removed.connect(self.unpin)
        self.readout.probe_typed.connect(self.place_probe)
        self._cross_v = pg.InfiniteLine(angle=90)
        self._cross_h = pg.InfiniteLine(angle=0)
        self._marker = pg.ScatterPlotItem(size=13, symbol="o")
        for item in (self._cross_v, self._cross_h, self._marker):
            item.setZValue(10.0)
            self.plot.box.addItem(item, ignoreBounds=True)

        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(self.plot, 3)
        body.addWidget(scroll, 2)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(8)
        layout.addLayout(heading)
        layout.addWidget(self.found)
        layout.addWidget(box)
        layout.addLayout(body, 1)
        self.handles = PathHandles(live, self.plot, self._frame, self._path_studies)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PROBE_INTERVAL)
        self._timer.timeout.connect(self._follow)
        # Labels are placed anew once the view has come to rest.
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self._place_labels)
        self.plot.box.sigResized.connect(lambda *_: self._settle.start(SETTLE))
        self.plot.box.sigRangeChanged.connect(lambda *_: self._settle.start(SETTLE))
        live.jobs.busy_changed.connect(self._tell)
        live.jobs.progress.connect(lambda slot, share: self._tell(share) if slot in TRACED else None)
        live.on({"probe"}, self._show_probe)
        live.on({"margins"}, lambda: self.readout.show_margins(live.results["margins"]))

    # -- units and scale -----------------------------------------------------------------------------------------

    def units(self) -> tuple[str, str]:
        """Return the units of temperature and pressure on the map."""
        display = self._live.document.display
        units = SETS[display.units]
        return display.map.temperature or units["temperature"], display.map.pressure or units["pressure"]

    def _frame(self) -> Frame:
        return Frame(*self.units(), self._live.document.display.map.logarithmic)

    def choose_unit(self, kind: str, position: QPoint) -> None:
        """Offer the units of an axis."""
        current = self.units()[0 if kind == "temperature" else 1]
        unit_menu(self, kind, current, lambda u: self.change_display({(kind,): u}, "Choose a unit")).exec(position)

    def change_display(self, update: dict[PathParts, object], text: str) -> None:
        """Change how the map is drawn."""
        self._fitted = ""
        values = {("display", "map", *path): value for path, value in update.items()}
        self._live.store.edit(text, lambda d: set_each(d, values))

    def _say(self, name: str, whole: PhaseMap | None) -> None:
        """Show the map as a question and its answer."""
        document = self._live.document
        self.bar.setVisible(bool(name))
        names = {f.name: f.name for f in document.every_fluid}
        shares = ", ".join(f"{100 * q:.4g}" for q in document.display.map.quality)
        parts = (
            Said("Where is "),
            Blank(("fluid",), name, choices=names, closed=True),
            Said(" two phases, with lines of "),
            Blank(("quality",), shares, "%", "fraction"),
            Said(" vapour?"),
        )
        self.bar.show_sentence(Sentence(parts))
        units = self._live.units().of_states()
        told = "Choose or make a fluid first; the map is of one." if not name else ""
        if whole is not None:
            whole = with_stable_extremes(whole, self._regions())
            turns = dict(reversed(whole.others))
            top = whole.cricondenbar or turns.get("cricondenbar")
            hot = whole.cricondentherm or turns.get("cricondentherm")
            ends = [units.text(pascal(top.P))] if top is not None else []
            ends += [units.text(kelvin(hot.T))] if hot is not None else []
            critical = [f"{units.text(kelvin(c.T))}, {units.text(pascal(c.P))}" for c in whole.critical_points]
            told = f"Up to {' and '.join(ends)}" if ends else "No highest pressure or temperature was found"
            told += f"; critical at {' and '.join(critical)}." if critical else "."
        self.found.setText(told or " ")

    def _typed(self, blank: Blank, text: str, _merge: str) -> None:
        """Take another fluid, or other vapour fractions of the quality lines."""
        if blank.path == ("fluid",):
            if self._live.document.fluid(text) is not None:
                self._live.select_fluid(text)
            return
        try:
            found = [parse(t, "fraction", "%") for t in text.replace(";", ",").split(",") if t.strip()]
        except QuantityError as error:
            self.status.setText(str(error))
            return
        wrong = [v for v in found if not 0.0 < v < 1.0]
        if wrong:
            self.status.setText(
                f"{100 * wrong[0]:g} % is no line between bubble and dew line; give 0 to 100, both left out"
            )
            return
        self.change_display({("quality",): tuple(sorted(set(found)))}, "Choose quality lines")

    def _switch(self, key: str, on: bool) -> None:
        self.change_display({(key,): on}, LAYERS[key])

    def _toggle(self, key: str) -> None:
        shown = getattr(self._live.document.display.map, key)
        self.change_display({(key,): not shown}, LAYERS[key])

    # -- drawing -------------------------------------------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        super().set_theme(theme)
        self._show_probe()

    def _pinned(self) -> list[Pinned]:
        return [Pinned(name, T, P) for name, T, P in self._live.kept_places()]

    def refresh(self) -> None:
        """Draw what changed."""
        live, display = self._live, self._live.document.display.map
        fluid, whole = live.current_fluid(), live.envelope()
        name = fluid.name if fluid else ""
        if name != self._of_fluid:
            self._of_fluid, self._position = name, None
            self.readout.show_position(None)
            self._show_probe()
        self._tell()
        model = live.model()
        # Three phases need a column more; which fluid it is decides, so that nothing moves under the pointer.
        self._side.setMaximumWidth(WIDE if model is not None and model.water is not None else NARROW)
        faint = live.map.old
        ghosts = live.ghost_maps()
        pinned = self._pinned() if display.pins else []
        drawn = (
            id(whole),
            self.theme.name,
            self.units(),
            display,
            name,
            tuple(pinned),
            tuple(map(id, ghosts.values())),
            id(self._regions()),
            id(self._spinodal()),
            id(self._hydrates()),
            tuple(self._paths()),
            tuple(self._vapour_pressures()),
            tuple(map(id, self._spreads())),
            tuple(map(id, live.volume_lines())),
        )
        if self._drawn != drawn:
            self._drawn = drawn
            for key, chip in self.chips.items():
                chip.setChecked(getattr(display, key))
            self.chips["by_volume"].setVisible(display.quality_lines)
            self._say(name, whole)
            t_unit, p_unit = self.units()
            self.plot.set_titles(f"Temperature, {label(t_unit)}", f"Pressure, {label(p_unit)}")
            self.plot.set_logarithmic(display.logarithmic)
            self._picture().draw_lines(self.plot)
            self._draw_limits()
            # Labels follow in a turn of their own.
            self._settle.start(0)
            self._draw_probe()
            self.readout.show_kept()
            self.readout.show_extremes(with_stable_extremes(whole, self._regions()) if whole is not None else None)
        self.plot.set_faint(faint)
        beyond = self._three_phases()
        key = f"{name}|{self.units()}|{display.logarithmic}|{bool(beyond)}"
        if whole is not None and not faint and self._fitted != key:
            self._fitted = key
            fit(self.plot, self._frame(), whole, pinned, beyond)
            self._first_place(whole)

    def _picture(self) -> Picture:
        display, live = self._live.document.display.map, self._live
        return Picture(
            self._frame(),
            self.theme,
            live.envelope() if display.envelope else None,
            display.quality if display.quality_lines and not display.by_volume else (),
            list(live.ghost_maps().items()) if display.pins else (),
            self._pinned() if display.pins else (),
            self._regions(),
            self._spinodal(),
            live.volume_lines(),
            display.metastable,
            [place for path in self._paths() for place in zip(path.T, path.P)],
        )

    def _spinodal(self) -> Spinodal | None:
        """Return the spinodal of the fluid shown, where it is known and wanted."""
        shown = self._live.results["spinodal"]
        return shown.value if self._live.document.display.map.spinodal and not shown.old else None

    def _hydrates(self) -> HydrateLines | None:
        """Return the limits of hydrate of the fluid shown, where they are known and wanted."""
        shown = self._live.results["hydrates"]
        wanted = self._live.document.display.map.hydrates and not shown.old
        return shown.value if wanted and isinstance(shown.value, HydrateLines) else None

    def _path_studies(self) -> list[Study]:
        """Return the questions about operating paths of the fluid shown, where they are wanted."""
        name, document = self._live.fluid_name, self._live.document
        there = [s for s in document.studies if s.kind in ("path", "process", "line_profile") and is_about(s, name)]
        return there if document.display.map.paths else []

    def _paths(self) -> list[DrawnPath]:
        return paths_of(self._live, self._path_studies())

    def _vapour_pressures(self) -> list[Kept]:
        """Return what is asked of the vapour pressures of the fluid shown, where it is wanted."""
        live = self._live
        return kept_of(live, live.fluid_name) if live.document.display.map.vapour_pressures else []

    def _spreads(self) -> list[Mapping[str, Any]]:
        """Return the bands there are of lines of the fluid shown, where they are wanted."""
        live = self._live
        return map_bands(live, live.fluid_name) if live.document.display.map.spread else []

    def _draw_limits(self) -> None:
        self.plot.begin("limits")
        draw_bands(self.plot, self._frame(), self.theme, self._spreads())
        lines = self._hydrates()
        if lines is not None:
            draw_hydrates(self.plot, self._frame(), self.theme, lines)
        draw_vapour_pressures(self.plot, self._frame(), self.theme, self._vapour_pressures())
        draw_paths(self.plot, self._frame(), self.theme, self._paths())
        self.plot.end()

    def _three_phases(self) -> tuple[Boundary, ...]:
        """Return the boundaries of three phases, drawn or not."""
        known = self._live.results["regions"]
        return known.value.bounds if known.value is not None and not known.old else ()

    def _regions(self) -> Regions | None:
        """Return the regions of the fluid shown, where they are known and wanted."""
        shown = self._live.results["regions"]
        return shown.value if self._live.document.display.map.regions and not shown.old else None

    def _place_labels(self) -> None:
        """Place labels where there is room for them now."""
        labels = self._picture().draw_labels(self.plot)
        self.plot.begin("limit labels")
        label_paths(labels, self._frame(), self.theme, self._paths())
        label_vapour_pressures(labels, self._frame(), self.theme, self._vapour_pressures())
        lines = self._hydrates()
        if lines is not None:
            label_hydrates(labels, self._frame(), self.theme, lines)
        self.plot.end()

    def _tell(self, share: float | None = None) -> None:
        shown, whole = self._live.map, self._live.envelope()
        busy = any(self._live.jobs.busy(slot) for slot in TRACED)
        if busy:
            done = f", {100 * share:.0f} %" if share else ""
            self.status.setText(f"tracing{done} … Esc stops it")
        elif shown.error:
            self.status.setText(elided(f"last good result: {shown.error}" if whole is not None else shown.error, 60))
        elif whole is not None and whole.remarks:
            text = sentence(whole.remarks[0], self._live.units())
            self.status.setText(text if len(text) < 60 else "see the ledger")
        else:
            self.status.setText("")
        self.status.setToolTip(tip(shown.error))

    def show_all(self) -> None:
        """Show the whole envelope again."""
        whole = self._live.envelope()
        if whole is not None:
            fit(self.plot, self._frame(), whole, self._pinned(), self._three_phases())

    # -- the probe -----------------------------------------------------------------------------------------------

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.plot.view.viewport() and isinstance(event, QMouseEvent):
            if event.type() == QEvent.Type.MouseMove and not event.buttons():
                self._pointer(event.position())
            elif event.type() == QEvent.Type.MouseButtonDblClick:
                self._keep_place()
        return False

    def _pointer(self, position: QPointF) -> None:
        scene = self.plot.view.mapToScene(position.toPoint())
        if not self.plot.box.sceneBoundingRect().contains(scene):
            return
        point = self.plot.box.mapSceneToView(scene)
        T, P = self._frame().state(point.x(), point.y())
        if T > 1.0 and P > 1.0:
            self.point_at(T, P)

    def point_at(self, T: float, P: float) -> None:
        """Let the probe follow the pointer to T K, P Pa, as often as a picture is worth painting: a mouse tells of
        its way twice as often."""
        self._position = (T, P)
        if not self._timer.isActive():
            self._timer.start()

    def _follow(self) -> None:
        self._draw_probe()
        self.readout.show_position(self._position)
        self._ask()

    def place_probe(self, T: float, P: float) -> None:
        """Put the probe at T K, P Pa, and keep its place in the document."""
        self._move(T, P)
        self._keep_place()

    def _move(self, T: float, P: float) -> None:
        self._position = (T, P)
        self._draw_probe()
        self.readout.show_position(self._position)
        self._ask()

    def _keep_place(self) -> None:
        place = self._position
        if place is not None:
            edit = lambda d: set_each(d, {("display", "map", "probe"): place})  # noqa: E731
            self._live.store.edit("Place the probe", edit, "probe")

    def _ask(self) -> None:
        if self._position is not None:
            self._live.ask_probe(*self._position)

    def _first_place(self, whole: PhaseMap) -> None:
        """Put a probe that has no place yet where the document keeps it, at the last kept state, or inside the
        envelope."""
        if self._position is not None:
            return
        pinned, kept = self._pinned(), self._live.document.display.map.probe
        top = whole.cricondenbar or whole.cricondentherm
        if kept is not None:
            self._move(*kept)
        elif pinned:
            self._move(pinned[-1].T, pinned[-1].P)
        elif top is not None:
            self._move(top.T, 0.4 * top.P)

    def _draw_probe(self) -> None:
        t = self.theme
        items = (self._cross_v, self._cross_h, self._marker)
        for item in items:
            item.setVisible(self._position is not None)
        if self._position is None:
            return
        x, y = self._frame().xy(*self._position)
        if self._probe_look is not t:
            self._probe_look = t
            dashed = pen(t.accent, 1.0, Qt.PenStyle.DashLine)
            self._cross_v.setPen(dashed)
            self._cross_h.setPen(dashed)
            self._marker.setData([0.0], [0.0], pen=pen(t.accent, 1.8), brush=t.surface)
        # The marker is moved as a whole, which is much cheaper than giving it data.
        self._cross_v.setValue(float(x[0]))
        self._cross_h.setValue(float(y[0]))
        self._marker.setPos(float(x[0]), float(y[0]))

    def _show_probe(self) -> None:
        results = self._live.results
        self.readout.show_state(results["probe"])
        self.readout.show_margins(results["margins"])

    # -- what is kept --------------------------------------------------------------------------------------------

    def pin_state(self) -> None:
        """Keep the state under the probe as a question."""
        if self._position is None or not self._live.fluid_name:
            return
        T, P = self._position
        t_unit, p_unit = self.units()
        t_text = f"{from_si(T, t_unit, 'temperature'):.2f} {t_unit}"
        p_text = f"{from_si(P, p_unit, 'pressure'):.4g} {p_unit}"
        fluid = self._live.fluid_name
        study = study_kinds()["flash"].model(
            name=f"State at {format_number(from_si(T, t_unit, 'temperature'), 3)} {label(t_unit)}",
            kind="flash",
            fluid=fluid,
            temperature=t_text,
            pressure=p_text,
        )
        self._live.store.edit("Keep the state", lambda d: add_study(d, study))

    def keep_map(self) -> None:
        """Keep the map as a question: its envelope and quality lines."""
        fluid = self._live.fluid_name
        if fluid:
            display = self._live.document.display.map
            inner = display.quality if display.quality_lines else ()
            lines = (0, 1) if display.by_volume else tuple(sorted((0, 1, *inner)))
            study = study_kinds()["envelope"].model(
                name=f"Map of {fluid}",
                kind="envelope",
                fluid=fluid,
                vapour_fractions=lines,
                vapour_volume_fractions=inner if display.by_volume else (),
            )
            self._live.store.edit("Keep the map", lambda d: add_study(d, study))

    def pin_envelope(self) -> None:
        """Keep the present envelope as a ghost."""
        fluid = self._live.current_fluid()
        if fluid is not None and not self._live.fluid.error:
            name = f"{fluid.name}, {fluid.model.eos}"
            self._live.store.edit("Keep the envelope", lambda d: add_ghost(d, name, fluid))

    def unpin(self, name: str) -> None:
        """Remove a kept envelope."""
        self._live.store.edit("Remove a kept envelope", lambda d: without(d, "ghosts", name))

    def clear_ghosts(self) -> None:
        """Remove every kept envelope."""
        self._live.store.edit("Remove all kept envelopes", lambda d: set_each(d, {("ghosts",): ()}))

    def actions_offered(self) -> list[Action]:
        menu = "&Answers"
        return [
            Action(menu, "Keep the state under the probe", self.pin_state, "P"),
            Action(menu, "Keep the map as a question", self.keep_map, "M"),
            Action(menu, "Keep the envelope as a ghost", self.pin_envelope, "Shift+P"),
            Action(menu, "Remove all ghosts", self.clear_ghosts, "Ctrl+Shift+P"),
            Action(menu, "Quality lines", lambda: self._toggle("quality_lines"), "Ctrl+Shift+Q", True),
            Action(menu, "Quality lines by volume", lambda: self._toggle("by_volume"), "Ctrl+Shift+V"),
            Action(menu, "Logarithmic pressure", lambda: self._toggle("logarithmic"), "Ctrl+Shift+L"),
            Action(menu, "Hydrate limits", lambda: self._toggle("hydrates"), "Ctrl+Shift+Y"),
            Action(menu, "Vapour pressures and their limits", lambda: self._toggle("vapour_pressures"), "Ctrl+Shift+U"),
            Action(menu, "Operating paths", lambda: self._toggle("paths"), "Ctrl+Shift+J"),
            Action(menu, "Unit of temperature…", lambda: self.choose_unit("temperature", self._middle()), "Ctrl+T"),
            Action(menu, "Unit of pressure…", lambda: self.choose_unit("pressure", self._middle()), "Ctrl+Alt+Y"),
            Action(menu, "Show the whole map", self.plot.show_all, "Ctrl+0"),
        ]

    def _middle(self) -> QPoint:
        return self.plot.mapToGlobal(self.plot.rect().center())

    def _data(self) -> list[Table]:
        whole = self._live.envelope()
        if whole is None:
            return []
        t_unit, p_unit = self.units()
        names = [label(t_unit), label(p_unit)]

        def columns(T: ArrayLike, P: ArrayLike) -> list[Sequence[float]]:
            pairs = ((T, t_unit, "temperature"), (P, p_unit, "pressure"))
            return [[from_si(float(v), unit, kind) for v in np.atleast_1d(v_all)] for v_all, unit, kind in pairs]

        out: list[Table] = []
        for beta, T, P in curves(whole, [0.0, 1.0, *self._live.document.display.map.quality]):
            title = {0.0: "bubble", 1.0: "dew"}.get(beta, f"vapour fraction {beta:g}")
            out.append((title, names, columns(T, P)))
        for line in self._live.volume_lines():
            out.append((f"vapour by volume {line.share:g}", names, columns(line.states.T, line.states.P)))
        for point in whole.critical_points:
            out.append(("critical", names, columns(point.T, point.P)))
        found = self._regions()
        for b in found.bounds if found is not None else ():
            if b.gone in (Kind.VAPOUR, Kind.LIQUID):
                out.append(("bubble" if b.gone == Kind.VAPOUR else "dew", names, columns(b.T, b.P)))
        for fraction, states in found.quality if found is not None else ():
            out.append((f"vapour fraction {fraction:g}", names, columns(states.T, states.P)))
        whole = with_stable_extremes(whole, found)
        for title, extreme in (("cricondentherm", whole.cricondentherm), ("cricondenbar", whole.cricondenbar)):
            if extreme is not None:
                out.append((title, names, columns(extreme.T, extreme.P)))
        # The layers, as they are drawn.
        main = {name_of(beta) for beta in (0.0, 1.0, *self._live.document.display.map.quality)}
        for title, x, y in self.plot.named_lines():
            if title not in main and not title.endswith("vapour by volume"):
                value = 10.0**y if self._frame().logarithmic else y
                out.append((title, names, [x.tolist(), value.tolist()]))
        return out


def _line(live: Live) -> str:
    whole = live.envelope()
    if live.jobs.busy("map"):
        return "tracing the envelope …"
    if whole is None:
        return "nothing yet"
    worst = worst_margin(live)
    if worst is not None:
        return worst
    regions = live.results["regions"]
    top = with_stable_extremes(whole, None if regions.old else regions.value).cricondenbar
    unit = live.document.display.map.pressure or SETS[live.document.display.units]["pressure"]
    if top is None:
        return "open envelope"
    return f"envelope to {format_number(from_si(top.P, unit, 'pressure'), 3)} {label(unit)}"


def worst_margin(live: Live) -> str | None:
    """Return the least margin of all kept paths about the chosen fluid in a few words, None where there is none."""
    found = []
    for study in live.kept():
        answer = live.answer(study.name).value if study.kind == "path" and is_about(study, live.fluid_name) else None
        found += [m for m in (answer or {}).get("least", ()) if m["limit"] in ("hydrate", "ice")]
    if not found:
        return None
    least = min(found, key=lambda m: m["margin_K"])
    amount = live.units().text(measure(abs(least["margin_K"]), "temperature_difference", 1))
    return f"{amount} {'to' if least['margin_K'] >= 0 else 'inside'} {least['limit'].replace('_', ' ')}"


def _mark(live: Live) -> str:
    if live.jobs.busy("map"):
        return "work"
    if live.map.value is None:
        return "open"
    return "look" if live.map.old or live.map.error else "done"


register(
    DeskEntry(
        key="map", title="Map", order=40, make=MapDesk, mark=_mark, line=_line, card="answers", card_title="Answers",
        needs="fluid", claims=lambda path: "" if path[:1] == ("map",) else None,
        help=(
            "The map shows where the chosen fluid is a liquid, a vapour or both, over temperature and pressure.",
            "Bubble and dew line are traced through the critical point; quality lines have a constant share of vapour by mole or volume.",
            "Move the pointer to read the full state under it; type a temperature and a pressure in any unit to go there.",
            "Double-click keeps the probe's place; P keeps the state as a question, M the map, Shift+P the envelope as a ghost.",
            "Vapour pressures: tests asked about the fluid, the temperature that keeps a limit, and the blend that a goal on them finds.",
            "To the limits: how far the state is from bubble and dew line, along its pressure and along its temperature.",
            "A dotted line is metastable: another phase, of up to three, has formed before it is reached.",
            "Click an axis title to choose its unit; the wheel zooms, dragging moves, Ctrl+0 shows everything again.",
            "While an edit is computed the old lines stay, dimmed; Esc stops the tracing.",
            "Critical points are solved for, not read off the lines; the extremes are the true turning points.",
        ),
    )
)  # fmt: skip
