"""Pages on questions whose picture follows from the declaration of their kind: panels of curves, one below the
other."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from ....document import Study
from ....telling.panels import Panel, panels_of
from ...shell.live import Live
from .panel_picture import draw_panel, name_panel
from .sheet_desk import SETTLE, SheetDesk
from .spreads import with_bands

MOST_PANELS = 3


class PanelDesk(SheetDesk):
    """A page that draws the panels of its question's kind; where there are none the table has the room."""

    pictures = MOST_PANELS
    shows = frozenset({"selection", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        self._drawn: list[Panel] = []
        super().__init__(live, parent)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self.draw_labels)
        for plot in self.plots:
            plot.box.sigRangeChanged.connect(lambda *_: self._settle.start(SETTLE))
            plot.box.sigResized.connect(lambda *_: self._settle.start(SETTLE))

    def panels(self, study: Study, answer: dict[str, Any]) -> list[Panel]:
        """Return what is drawn of an answer."""
        return panels_of(study.kind, answer)[:MOST_PANELS]

    def draw(self, study: Study, answer: dict[str, Any] | None) -> None:
        """Draw the panels, each on a plot of its own."""
        units = self._live.units_of(study).of_states()
        self._drawn = with_bands(self._live, study, self.panels(study, answer)) if answer is not None else []
        self.left.setVisible(bool(self._drawn))
        for i, plot in enumerate(self.plots):
            plot.setVisible(i < len(self._drawn))
            if i < len(self._drawn):
                draw_panel(plot, self._drawn[i], units, self.theme)
        self._settle.start(0)

    def _wipe(self) -> None:
        super()._wipe()
        self._drawn = []

    def draw_labels(self) -> None:
        """Name the lines where there is room now."""
        study = self.study()
        for plot, panel in zip(self.plots, self._drawn):
            name_panel(plot, panel, self._live.units_of(study).of_states(), self.theme)
