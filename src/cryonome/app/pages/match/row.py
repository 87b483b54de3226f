"""The row of small pictures of a match: drawn as they come into sight, a click on a title makes one the large one."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QWidget

from ....matching.match_view import Panel
from ...shell.live import Live
from ...widgets.fields import elided
from ...widgets.letters import sized
from ...widgets.theme import Theme
from .checks import BadRows
from .parts import GAP, SMALL, Small
from .picture import draw_panel, told

HEIGHT = 168


class PictureRow(QScrollArea):
    """Small pictures in a row; ``bad`` returns the rows that checks find fault with. ``chosen`` tells which was
    clicked, ``saved`` what one saved."""

    chosen = Signal(object)
    saved = Signal(str)

    def __init__(self, live: Live, bad: Callable[[], BadRows]) -> None:
        super().__init__()
        self._live, self._bad = live, bad
        self.small: list[Small] = []
        self._undrawn: set[Small] = set()
        inner = QWidget()
        self._row = QHBoxLayout(inner)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(GAP)
        self._row.addStretch(1)
        self.setObjectName("bare")
        self.setWidgetResizable(True)
        self.setWidget(inner)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        sized(self, fixed_height=HEIGHT)
        self.horizontalScrollBar().valueChanged.connect(lambda _value: self._draw_seen())

    def show_panels(self, panels: Sequence[Panel], theme: Theme, draw: bool = True) -> None:
        """Show a picture for each panel; where they are not to be drawn now :meth:`draw_again` does it."""
        while len(self.small) < len(panels):
            made = Small(self.chosen.emit)
            made.plot.set_theme(theme)
            made.plot.saved.connect(self.saved)
            self.small.append(made)
            self._row.insertWidget(self._row.count() - 1, made)
        self._undrawn = set()
        for small, panel in zip(self.small, [*panels, *[None] * (len(self.small) - len(panels))]):
            small.setVisible(panel is not None)
            small.panel = panel
            if panel is not None and draw:
                self._undrawn.add(small)
        self._draw_seen()

    def draw_again(self, which: Iterable[Small]) -> None:
        """Draw some of the pictures anew, those in sight at once."""
        self._undrawn |= {s for s in which if s.panel is not None}
        self._draw_seen()

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        for small in self.small:
            small.plot.set_theme(theme)

    def _draw_seen(self) -> None:
        """Draw what is in sight and not drawn yet: a condensate has a row of thirty."""
        left = self.horizontalScrollBar().value()
        right, bad = left + max(self.viewport().width(), SMALL), self._bad() if self._undrawn else {}
        for k, small in enumerate(self.small):
            if small in self._undrawn and left < (k + 1) * (SMALL + GAP) and k * (SMALL + GAP) < right:
                self._undrawn.discard(small)
                self._draw(small, bad)

    def _draw(self, small: Small, bad: BadRows) -> None:
        panel = small.panel
        if panel is not None:
            small.title.setText(elided(panel.name.partition(",")[0], 22))
            small.title.setToolTip(f"{panel.name}: click to enlarge")
            small.told.setText(told(panel, short=True))
            draw_panel(small.plot, panel, self._live.units(), bad.get((panel.tests, panel.key), ()), titles=False)
