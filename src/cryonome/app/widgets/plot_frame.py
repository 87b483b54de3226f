"""What a plot is drawn in: a view box with an axis at its left and one below.

pyqtgraph's own frame of a plot brings four axes and menus with a hundred controls, which take longer to make than all
else of a page; a window has some fifty plots."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyqtgraph as pg
from PySide6.QtWidgets import QGraphicsGridLayout, QGraphicsItem, QSizePolicy

PLACES = {"left": (0, 0), "bottom": (1, 1)}


class PlainLogAxis(pg.AxisItem):  # type: ignore[misc]  # has no types
    """An axis that writes plain numbers at 1, 2 and 5 of each decade when logarithmic."""

    def logTickStrings(self, values: Sequence[float], scale: float, spacing: float) -> list[str]:  # it overrides
        out = []
        for value in 10.0 ** np.asarray(values, float):
            lead = value / 10.0 ** np.floor(np.log10(value) + 1e-9)
            out.append(f"{value:.6g}" if min(abs(lead - k) for k in (1.0, 2.0, 5.0)) < 1e-6 else "")
        return out

    def _updateLabel(self) -> None:  # it overrides
        # The titles of a plot are words of the window: no label is laid out at each change of a range or a pen.
        self._adjustSize()
        self.picture = None
        self.update()


class PlotFrame(pg.GraphicsWidget):  # type: ignore[misc]  # has no types
    """A view box, ``box``, and its two axes."""

    def __init__(self) -> None:
        super().__init__()
        expanding = QSizePolicy.Policy.Expanding
        self.setSizePolicy(expanding, expanding)
        grid = QGraphicsGridLayout()
        grid.setContentsMargins(1, 1, 1, 1)
        grid.setSpacing(0)
        self.setLayout(grid)
        self.box = pg.ViewBox(parent=self, enableMenu=False)
        grid.addItem(self.box, 0, 1)
        self._axes: dict[str, PlainLogAxis] = {}
        for side, (row, column) in PLACES.items():
            axis = PlainLogAxis(side, parent=self)
            axis.linkToView(self.box)
            # In front of the ground of the box, behind what is drawn in it.
            axis.setZValue(0.5)
            axis.setFlag(QGraphicsItem.GraphicsItemFlag.ItemNegativeZStacksBehindParent)
            grid.addItem(axis, row, column)
            self._axes[side] = axis
        grid.setRowStretchFactor(0, 100)
        grid.setColumnStretchFactor(1, 100)

    def getAxis(self, side: str) -> PlainLogAxis:
        """Return the axis at ``left`` or ``bottom``."""
        return self._axes[side]

    def show_axes(self, visible: bool) -> None:
        """Show or hide both axes; hidden they take no room."""
        for axis in self._axes.values():
            axis.show() if visible else axis.hide()


def plot_view() -> tuple[pg.GraphicsView, PlotFrame]:
    """Return a view that holds a frame alone."""
    view = pg.GraphicsView(background=None)
    expanding = QSizePolicy.Policy.Expanding
    view.setSizePolicy(expanding, expanding)
    view.enableMouse(False)
    frame = PlotFrame()
    view.setCentralItem(frame)
    return view, frame
