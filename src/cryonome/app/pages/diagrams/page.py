"""The page *Diagrams*: the envelope, quality lines, isotherms and isobars over volume, density, enthalpy or entropy."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QObject, QPointF
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ....fluids.diagrams import DIAGRAMS, VARIABLES, Diagram
from ....fluids.states import States
from ....units import from_si, label, to_si
from ...shell.live import Live
from ...widgets.fields import elided, page_button, section
from ...widgets.grid import GridView
from ...widgets.letters import sized
from ...widgets.plot import DECADES, Plot, Table, pen
from ..map.readout import FractionBar, StateModel, phases_of
from ..shared.desk import Desk, DeskEntry, register
from ..shared.map_picture import name_of
from .results import LOOKED_AT, declared

Array = NDArray[np.float64]

LOGARITHMIC = frozenset({"pressure", "molar_volume"})
"""Variables drawn by their logarithm: they span decades."""
TITLES = {
    "molar_volume": "Molar volume",
    "temperature": "Temperature",
    "pressure": "Pressure",
    "density": "Density",
    "enthalpy": "Enthalpy",
    "entropy": "Entropy",
}


class DiagramDesk(Desk):
    """Which diagram above, the picture at the left, the state under the probe at the right."""

    shows = frozenset({"selection", "diagram", "place", "probe", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.title, self.status = section("Diagrams", "title"), section("", "mute")
        self.kind = "P–H"
        self.chips = {name: page_button(name, lambda _on, n=name: self.choose(n)) for name in DIAGRAMS}
        self.plot = Plot("Phase diagram")
        self.plot.data = self._data
        self.plot.view.setMouseTracking(True)
        self.plot.view.viewport().installEventFilter(self)
        self.plots = [self.plot]
        self.place, self.bar, self.shares, self.note = (
            section(""),
            FractionBar(),
            section("", "mute"),
            section("", "fault"),
        )
        self.note.setWordWrap(True)
        self.state = StateModel(live)
        self.grid = GridView(self.state)
        self.grid.setAccessibleName("State under the probe")
        self.grids = [self.grid]
        self._fitted: object = None
        heading = QHBoxLayout()
        heading.setSpacing(6)
        heading.addWidget(self.title)
        heading.addSpacing(16)
        for chip in self.chips.values():
            heading.addWidget(chip)
        heading.addStretch(1)
        heading.addWidget(self.status)
        right = QVBoxLayout()
        right.setSpacing(6)
        for part in (section("Under the probe"), self.place, self.bar, self.shares, self.grid, self.note):
            right.addWidget(part)
        side = QWidget()
        side.setLayout(right)
        right.setContentsMargins(0, 0, 0, 0)
        sized(side, fixed_width=380)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(self.plot, 1)
        body.addWidget(side)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(8)
        layout.addLayout(heading)
        layout.addLayout(body, 1)

    def choose(self, kind: str) -> None:
        """Show another diagram."""
        self.kind = kind if kind in DIAGRAMS else self.kind
        self.refresh()

    def show_page(self, page: str) -> None:
        self.choose(page)

    # -- coordinates -----------------------------------------------------------------------------------------------

    def _unit(self, key: str) -> str:
        return self._live.units().of_states().unit(VARIABLES[key])

    def _coordinates(self, key: str, values: Array) -> Array:
        shown = np.asarray(from_si(values, self._unit(key), VARIABLES[key]))  # type: ignore[arg-type]
        if key in LOGARITHMIC:
            with np.errstate(invalid="ignore", divide="ignore"):
                return np.asarray(np.log10(shown))
        return shown

    def _xy(self, values: Mapping[str, Array]) -> tuple[Array, Array]:
        x, y = DIAGRAMS[self.kind]
        return self._coordinates(x, np.asarray(values[x])), self._coordinates(y, np.asarray(values[y]))

    def look_at(self, point: QPointF) -> None:
        """Ask for the state at a place of the picture."""
        at = {}
        for key, value in zip(DIAGRAMS[self.kind], (point.x(), point.y())):
            shown = 10.0**value if key in LOGARITHMIC else value
            at[key] = to_si(shown, self._unit(key), VARIABLES[key])
        self._live.ask_place(at)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.plot.view.viewport() and isinstance(event, QMouseEvent):
            moved = event.type() == QEvent.Type.MouseMove and not event.buttons()
            if moved or event.type() == QEvent.Type.MouseButtonDblClick:
                scene = self.plot.view.mapToScene(event.position().toPoint())
                if self.plot.box.sceneBoundingRect().contains(scene):
                    self.look_at(self.plot.box.mapSceneToView(scene))
        return False

    # -- showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the diagram of the chosen fluid."""
        fluid = self._live.current_fluid()
        self.title.setText(elided(fluid.name, 24) if fluid else "No fluid")
        self._live.want(LOOKED_AT, "yes")
        for name, chip in self.chips.items():
            chip.setChecked(name == self.kind)
        shown = self._live.results["diagram"]
        found = shown.value if isinstance(shown.value, Diagram) else None
        self.status.setText("tracing …" if shown.old or (found is None and not shown.error) else shown.error)
        x, y = DIAGRAMS[self.kind]
        self.plot.set_titles(*(f"{TITLES[k]}, {label(self._unit(k))}" for k in (x, y)))
        self._set_scales(x in LOGARITHMIC, y in LOGARITHMIC)
        self._draw(found)
        self.plot.set_faint(bool(found is not None and shown.old))
        self._show_probe(found)

    def _set_scales(self, x: bool, y: bool) -> None:
        """Draw an axis by powers of ten; a range meant for the other kind is left at once."""
        self.plot.set_logarithmic(y)
        self.plot.item.getAxis("bottom").setLogMode(x)
        low, high = self.plot.box.viewRange()[0]
        self.plot.box.setLimits(xMin=-DECADES if x else None, xMax=DECADES if x else None)
        if x and not (-DECADES <= low < high <= DECADES and high - low <= 15.0):
            self.plot.fit_x(0.0, 3.0)

    def _draw(self, found: Diagram | None) -> None:
        t = self.theme
        y_key = DIAGRAMS[self.kind][1]
        self.plot.begin("lines")
        if found is not None:
            # Isolines of what is not an axis.
            of = "temperature" if y_key == "pressure" else "pressure"
            for i, iso in enumerate(found.isolines):
                if iso.of != of:
                    continue
                x, y = self._xy(iso.states)
                self.plot.line(f"iso {i}", x, y, pen(t.hair, 1.2))
            for i, (beta, values) in enumerate(found.lines):
                x, y = self._xy(values)
                wide = 2.4 if beta in (0.0, 1.0) else 1.1
                self.plot.line(f"line {i}", x, y, pen(t.phase(beta), wide), name=name_of(beta))
            for i, values in enumerate(found.water):
                x, y = self._xy(values)
                self.plot.line(f"water {i}", x, y, pen(t.water, 2.0), name="water")
            if found.critical:
                x, y = self._xy(found.critical)
                self.plot.dots("critical", x, y, pen(t.ink, 1.4), "d", 12.0, t.surface)
            for i, (name, values) in enumerate(self._kept(found)):
                x, y = self._xy(values)
                self.plot.dots(f"pin {i} {name}", x, y, pen(t.ink, 1.6), "o", 9)
        self.plot.end()
        self._fit(found)
        self._name(found)

    def _kept(self, found: Diagram) -> list[tuple[str, Mapping[str, Array]]]:
        """Return the kept states of the fluid with their values."""
        out: list[tuple[str, Mapping[str, Array]]] = []
        for name, T, P in self._live.kept_places():
            a = self._live.answer(name).value or {}
            if "enthalpy_J_mol" in a and "molar_volume_m3_mol" in a:
                values = {
                    "temperature": T,
                    "pressure": P,
                    "molar_volume": a["molar_volume_m3_mol"],
                    "density": a["density_kg_m3"],
                    "enthalpy": a["enthalpy_J_mol"],
                    "entropy": a["entropy_J_mol_K"],
                }
                out.append((name, {k: np.array([v]) for k, v in values.items()}))
        return out

    def _fit(self, found: Diagram | None) -> None:
        key = (id(found), self.kind, self._live.document.display.units)
        if found is None or self._fitted == key or not found.lines:
            return
        self._fitted = key
        for axis, fit in zip(DIAGRAMS[self.kind], (self.plot.fit_x, self.plot.fit_y)):
            ends = []
            for beta, values in found.lines:
                if beta in (0.0, 1.0):
                    # Far down a line nobody looks; its volumes there would fill the picture.
                    seen = np.asarray(values["pressure"]) > 2e4
                    at = self._coordinates(axis, np.asarray(values[axis])[seen])
                    ends += [at[np.isfinite(at)]]
            at = np.concatenate(ends) if ends else np.empty(0)
            if at.size:
                low, high = float(at.min()), float(at.max())
                fit(low - 0.08 * (high - low), high + 0.12 * (high - low))

    def _name(self, found: Diagram | None) -> None:
        """Label the isolines at the edge of the picture."""
        t = self.theme
        of = "temperature" if DIAGRAMS[self.kind][1] == "pressure" else "pressure"
        (x0, x1), (y0, y1) = self.plot.box.viewRange()
        self.plot.begin("labels")
        taken: list[tuple[float, float]] = []
        for i, iso in enumerate(found.isolines if found is not None else ()):
            if iso.of != of:
                continue
            x, y = self._xy(iso.states)
            seen = np.flatnonzero((x > x0) & (x < x1) & (y > y0) & (y < y1))
            if seen.size < 4:
                continue
            at = seen[-2]
            spot = (float((x[at] - x0) / (x1 - x0)), float((y[at] - y0) / (y1 - y0)))
            if any(abs(spot[0] - a) < 0.07 and abs(spot[1] - b) < 0.04 for a, b in taken):
                continue
            taken.append(spot)
            unit = self._live.units().unit(of)
            text = f"{from_si(iso.value, unit, of):.3g} {label(unit)}"
            self.plot.text(f"iso {i}", text, float(x[at]), float(y[at]), t.mute, (0.5, 0.5), ground=True, depth=5.0)
        self.plot.end()

    def _show_probe(self, found: Diagram | None) -> None:
        place = self._live.results["place"]
        # One component that boils has many states at one temperature and pressure: the place itself is shown.
        there = isinstance(place.value, States) and bool(self._live.session.place)
        states: States | None = place.value if there else self._live.results["probe"].value
        phases = phases_of(states)
        self.bar.show_phases(phases, self.theme)
        self.state.show(states)
        self.shares.setText(
            ", ".join(f"{p.kind} {100 * p.fraction:.1f} mol%" for p in phases) or "move the pointer over the picture"
        )
        units = self._live.units()
        self.plot.begin("probe")
        if states is not None and bool(states.phases.converged[0]):
            T, P = float(states.phases.T[0]), float(states.phases.P[0])
            told = [
                f"{from_si(v, units.unit(k), k):.5g} {label(units.unit(k))}"
                for k, v in (("temperature", T), ("pressure", P))
            ]
            self.place.setText(", ".join(told))
            whole = states.values.whole
            values = {
                "temperature": states.phases.T,
                "pressure": states.phases.P,
                "density": whole["density"],
                "enthalpy": whole["enthalpy"],
                "entropy": whole["entropy"],
                "molar_volume": whole["molar_mass"] / whole["density"],
            }
            x, y = self._xy(values)
            self.plot.dots("probe", x, y, pen(self.theme.accent, 1.8), "o", 13.0, self.theme.surface)
        self.plot.end()
        missing = place.value is False and not place.old
        self.note.setText("There is no state of this fluid at that place." if missing else "")

    def _data(self) -> list[Table]:
        shown = self._live.results["diagram"].value
        if not isinstance(shown, Diagram):
            return []
        x, y = DIAGRAMS[self.kind]
        heads = [f"{TITLES[k]}, {label(self._unit(k))}" for k in (x, y)]

        def columns(values: Mapping[str, Array]) -> list[Sequence[float]]:
            return [
                np.asarray(from_si(np.asarray(values[k]), self._unit(k), VARIABLES[k])).tolist()  # type: ignore[arg-type]
                for k in (x, y)
            ]

        tables = [(f"vapour fraction {beta:g}", heads, columns(values)) for beta, values in shown.lines]
        tables += [("water", heads, columns(values)) for values in shown.water]
        tables += [(f"{i.of} {i.value:.6g}", heads, columns(i.states)) for i in shown.isolines]
        return tables


register(
    DeskEntry(
        declares=(declared,),
        key="diagrams",
        title="Diagrams",
        order=41,
        make=DiagramDesk,
        mark=lambda _live: "done",
        line=lambda _live: "P–H, T–S and more",
        card="answers",
        needs="fluid",
        help=(
            "The envelope and its quality lines over volume, density, enthalpy or entropy of the whole.",
            "Pressure diagrams have isotherms, temperature diagrams isobars, labelled where there is room.",
            "Move the pointer to read the state there: the two variables of the diagram fix it.",
            "Where they are met by several states, that of the lowest pressure or temperature is read.",
            "Kept states and critical points are marked; the probe stands on the map too.",
            "Enthalpy and entropy count from the reference state of the model.",
            "Right-click saves the picture or copies its data.",
        ),
    )
)
