"""The probe of the map: a cross that follows the pointer, with the state under it read out."""

from __future__ import annotations

from collections.abc import Callable

import pyqtgraph as pg
from PySide6.QtCore import QEvent, QObject, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent

from ....document.edits import add_study, set_each
from ....document.kinds import study_kinds
from ....equilibrium.phase_map import PhaseMap
from ....units import format_number, from_si, label
from ...shell.live import Live
from ...widgets.plot import Plot, pen
from ...widgets.theme import Theme
from ..shared.map_picture import Frame, Pinned
from .readout import Readout

PROBE_INTERVAL = 12
"""ms between two requests while the pointer moves."""


class Probe(QObject):
    """The cross and its place, T K and P Pa; it asks for the state there, which the readout shows."""

    def __init__(self, live: Live, plot: Plot, readout: Readout, frame: Callable[[], Frame], parent: QObject) -> None:
        super().__init__(parent)
        self._live, self._plot, self._readout, self._frame = live, plot, readout, frame
        self.position: tuple[float, float] | None = None
        self.theme: Theme | None = None
        self._look: Theme | None = None
        self._upright, self._level = pg.InfiniteLine(angle=90), pg.InfiniteLine(angle=0)
        self._marker = pg.ScatterPlotItem(size=13, symbol="o")
        for item in (self._upright, self._level, self._marker):
            item.setZValue(10.0)
            plot.box.addItem(item, ignoreBounds=True)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PROBE_INTERVAL)
        self._timer.timeout.connect(self._follow)
        plot.view.setMouseTracking(True)
        plot.view.viewport().installEventFilter(self)
        live.on({"probe"}, self.show)
        live.on({"margins"}, lambda: readout.show_margins(live.results["margins"]))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._plot.view.viewport() and isinstance(event, QMouseEvent):
            if event.type() == QEvent.Type.MouseMove and not event.buttons():
                self._pointer(event.position())
            elif event.type() == QEvent.Type.MouseButtonDblClick:
                self._keep_place()
        return False

    def _pointer(self, position: QPointF) -> None:
        scene = self._plot.view.mapToScene(position.toPoint())
        if not self._plot.box.sceneBoundingRect().contains(scene):
            return
        point = self._plot.box.mapSceneToView(scene)
        T, P = self._frame().state(point.x(), point.y())
        if T > 1.0 and P > 1.0:
            self.point_at(T, P)

    def point_at(self, T: float, P: float) -> None:
        """Let the probe follow the pointer to T K, P Pa, as often as a picture is worth painting: a mouse tells of
        its way twice as often."""
        self.position = (T, P)
        if not self._timer.isActive():
            self._timer.start()

    def _follow(self) -> None:
        self.draw()
        self._readout.show_position(self.position)
        self._ask()

    def place(self, T: float, P: float) -> None:
        """Put the probe at T K, P Pa, and keep its place in the document."""
        self._move(T, P)
        self._keep_place()

    def _move(self, T: float, P: float) -> None:
        self.position = (T, P)
        self.draw()
        self._readout.show_position(self.position)
        self._ask()

    def _keep_place(self) -> None:
        place = self.position
        if place is not None:
            edit = lambda d: set_each(d, {("display", "map", "probe"): place})  # noqa: E731
            self._live.store.edit("Place the probe", edit, "probe")

    def _ask(self) -> None:
        if self.position is not None:
            self._live.ask_probe(*self.position)

    def first_place(self, whole: PhaseMap, pinned: list[Pinned]) -> None:
        """Put a probe that has no place yet where the document keeps it, at the last kept state, or inside the
        envelope."""
        if self.position is not None:
            return
        kept = self._live.document.display.map.probe
        top = whole.cricondenbar or whole.cricondentherm
        if kept is not None:
            self._move(*kept)
        elif pinned:
            self._move(pinned[-1].T, pinned[-1].P)
        elif top is not None:
            self._move(top.T, 0.4 * top.P)

    def draw(self) -> None:
        """Move the cross where the probe is."""
        t = self.theme
        items = (self._upright, self._level, self._marker)
        for item in items:
            item.setVisible(self.position is not None)
        if self.position is None or t is None:
            return
        x, y = self._frame().xy(*self.position)
        if self._look is not t:
            self._look = t
            dashed = pen(t.accent, 1.0, Qt.PenStyle.DashLine)
            self._upright.setPen(dashed)
            self._level.setPen(dashed)
            self._marker.setData([0.0], [0.0], pen=pen(t.accent, 1.8), brush=t.surface)
        # The marker is moved as a whole, which is much cheaper than giving it data.
        self._upright.setValue(float(x[0]))
        self._level.setValue(float(y[0]))
        self._marker.setPos(float(x[0]), float(y[0]))

    def forget(self) -> None:
        """Have no place: of another fluid."""
        self.position = None
        self._readout.show_position(None)
        self.show()

    def show(self) -> None:
        """Show the state under the probe."""
        results = self._live.results
        self._readout.show_state(results["probe"])
        self._readout.show_margins(results["margins"])

    def keep_state(self) -> None:
        """Keep the state under the probe as a question."""
        if self.position is None or not self._live.fluid_name:
            return
        T, P = self.position
        t_unit, p_unit = self._frame().temperature, self._frame().pressure
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
