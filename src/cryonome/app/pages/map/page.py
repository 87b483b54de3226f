"""The desk *map*: the phase envelope in pressure and temperature with a live probe."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from ....document.edits import add_ghost, add_study, set_each, without
from ....document.faults import PathParts
from ....document.kinds import study_kinds
from ....equilibrium.extremes import with_stable_extremes
from ....equilibrium.phase_map import PhaseMap
from ....language import said
from ....remarks import kelvin, pascal
from ....telling.sentences import sentence
from ....units import SETS, QuantityError, label, parse
from ....wording.spoken import Blank, Said, Sentence
from ...shell.live import Live
from ...widgets.fields import elided, section, tip, unit_menu
from ...widgets.flow import FlowBox
from ...widgets.layer import LayerSquare
from ...widgets.letters import sized
from ...widgets.plot import Plot
from ...widgets.sentence import SentenceView
from ...widgets.theme import Theme
from ..shared.desk import Action, Desk, DeskEntry, register
from ..shared.map_picture import Frame, Picture, fit
from .card import line, mark
from .data import map_data
from .layers import LAYERS, LOOKS, Layers
from .paths import PathHandles
from .probe import Probe
from .readout import Readout

SETTLE = 40
"""ms after the last change of the view before labels are placed anew."""

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
        self._of_fluid = ""
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
        self.plot.data = lambda: map_data(live, self.layers, self.plot, self._frame())
        self.plot.show_all = self.show_all  # type: ignore[method-assign]
        self.plot.x_title_clicked.connect(lambda p: self.choose_unit("temperature", p))
        self.plot.y_title_clicked.connect(lambda p: self.choose_unit("pressure", p))
        self.plot.setMinimumWidth(240)
        self.readout = Readout(live)
        self.layers = Layers(live)
        self.probe = Probe(live, self.plot, self.readout, self._frame, self)
        self.readout.units = self.units
        self.grids = [self.readout.composition_table, self.readout.table, self.readout.extremes]
        self.themed = [self.readout, *self.chips.values()]
        scroll = QScrollArea()
        scroll.setObjectName("bare")
        scroll.setWidget(self.readout)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        sized(scroll, least_width=300, most_width=NARROW)
        self._side = scroll
        self.readout.pin_asked.connect(self.probe.keep_state)
        self.readout.pin_removed.connect(self.unpin)
        self.readout.probe_typed.connect(self.probe.place)

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
        self.handles = PathHandles(live, self.plot, self._frame, self.layers.path_studies)
        # Labels are placed anew once the view has come to rest.
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self._place_labels)
        self.plot.box.sigResized.connect(lambda *_: self._settle.start(SETTLE))
        self.plot.box.sigRangeChanged.connect(lambda *_: self._settle.start(SETTLE))
        live.jobs.busy_changed.connect(self._tell)
        live.jobs.progress.connect(lambda slot, share: self._tell(share) if slot in TRACED else None)

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
            Said(said("Where is ")),
            Blank(("fluid",), name, choices=names, closed=True),
            Said(said(" two phases, with lines of ")),
            Blank(("quality",), shares, "%", "fraction"),
            Said(said(" vapour?")),
        )
        self.bar.show_sentence(Sentence(parts))
        units = self._live.units().of_states()
        told = "Choose or make a fluid first; the map is of one." if not name else ""
        if whole is not None:
            whole = with_stable_extremes(whole, self.layers.regions())
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
        self.probe.theme = theme
        self.probe.show()

    def refresh(self) -> None:
        """Draw what changed."""
        live, display = self._live, self._live.document.display.map
        fluid, whole = live.current_fluid(), live.envelope()
        name = fluid.name if fluid else ""
        if name != self._of_fluid:
            self._of_fluid = name
            self.probe.forget()
        self._tell()
        model = live.model()
        # Three phases need a column more; which fluid it is decides, so that nothing moves under the pointer.
        wet = model is not None and model.water is not None
        sized(self._side, least_width=300, most_width=WIDE if wet else NARROW)
        faint = live.map.old
        pinned = self.layers.pinned() if display.pins else []
        drawn = (id(whole), self.theme.name, self.units(), display, name, self.layers.key())
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
            self.layers.draw(self.plot, self._frame(), self.theme)
            # Labels follow in a turn of their own.
            self._settle.start(0)
            self.probe.draw()
            self.readout.show_kept()
            self.readout.show_extremes(
                with_stable_extremes(whole, self.layers.regions()) if whole is not None else None
            )
        self.plot.set_faint(faint)
        beyond = self.layers.three_phases()
        key = f"{name}|{self.units()}|{display.logarithmic}|{bool(beyond)}"
        if whole is not None and not faint and self._fitted != key:
            self._fitted = key
            fit(self.plot, self._frame(), whole, pinned, beyond)
            self.probe.first_place(whole, pinned)

    def _picture(self) -> Picture:
        display, live = self._live.document.display.map, self._live
        return Picture(
            self._frame(),
            self.theme,
            live.envelope() if display.envelope else None,
            display.quality if display.quality_lines and not display.by_volume else (),
            list(live.ghost_maps().items()) if display.pins else (),
            self.layers.pinned() if display.pins else (),
            self.layers.regions(),
            self.layers.spinodal(),
            live.volume_lines(),
            display.metastable,
            [place for path in self.layers.paths() for place in zip(path.T, path.P)],
        )

    def _place_labels(self) -> None:
        """Place labels where there is room for them now."""
        self.layers.label(self.plot, self._picture().draw_labels(self.plot), self._frame(), self.theme)

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
            fit(self.plot, self._frame(), whole, self.layers.pinned(), self.layers.three_phases())

    def place_probe(self, T: float, P: float) -> None:
        """Put the probe at T K, P Pa, and keep its place in the document."""
        self.probe.place(T, P)

    # -- what is kept --------------------------------------------------------------------------------------------

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

    @classmethod
    def actions_offered(cls) -> list[Action]:
        menu = "&Answers"
        return [
            Action(menu, "Keep the state under the probe", lambda page: page.probe.keep_state(), "P"),
            Action(menu, "Keep the map as a question", cls.keep_map, "M"),
            Action(menu, "Keep the envelope as a ghost", cls.pin_envelope, "Shift+P"),
            Action(menu, "Remove all ghosts", cls.clear_ghosts, "Ctrl+Shift+P"),
            Action(menu, "Quality lines", lambda page: page._toggle("quality_lines"), "Ctrl+Shift+Q", True),
            Action(menu, "Quality lines by volume", lambda page: page._toggle("by_volume"), "Ctrl+Shift+V"),
            Action(menu, "Logarithmic pressure", lambda page: page._toggle("logarithmic"), "Ctrl+Shift+L"),
            Action(menu, "Hydrate limits", lambda page: page._toggle("hydrates"), "Ctrl+Shift+Y"),
            Action(
                menu, "Vapour pressures and their limits", lambda page: page._toggle("vapour_pressures"), "Ctrl+Shift+U"
            ),
            Action(menu, "Operating paths", lambda page: page._toggle("paths"), "Ctrl+Shift+J"),
            Action(
                menu, "Unit of temperature…", lambda page: page.choose_unit("temperature", page._middle()), "Ctrl+T"
            ),
            Action(menu, "Unit of pressure…", lambda page: page.choose_unit("pressure", page._middle()), "Ctrl+Alt+Y"),
            Action(menu, "Show the whole map", lambda page: page.plot.show_all(), "Ctrl+0"),
        ]

    def _middle(self) -> QPoint:
        return self.plot.mapToGlobal(self.plot.rect().center())


register(
    DeskEntry(
        key="map", title="Map", order=40, make=MapDesk, mark=mark, line=line, card="answers", card_title="Answers",
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
