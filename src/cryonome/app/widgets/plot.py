"""Plots in the program's look, each able to give its picture and its data."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QMimeData, QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QGuiApplication, QImage, QPainter, QPainterPath, QPen
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import (
    QFileDialog,
    QGraphicsItem,
    QGraphicsPathItem,
    QGraphicsRectItem,
    QHBoxLayout,
    QLabel,
    QMenu,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ...telling.colours import legible
from .letters import point_size
from .plot_frame import plot_view
from .pointer import Pointer
from .theme import LIGHT, Theme

pg.setConfigOptions(antialias=True)

MouseClickEvent = Any
"""A click as pyqtgraph tells it; that package has no types."""

Table = tuple[str, list[str], list[Sequence[float]]]
"""Title of a data set, its column names, its columns."""


FAINT = 0.35
"""What is left of the colour of what is older than the input."""

DECADES = 30.0
"""Powers of ten that a logarithmic axis may show, up and down."""

VEIL = 8.0
"""Depth of the veil: before everything drawn, behind what moves with the pointer."""


LEFT = 0.15
"""Share of what is drawn that may lie outside of the view before it is fitted again."""


def _around(values: np.ndarray) -> tuple[float, float]:
    """Return a range with some room about values."""
    low, high = float(values.min()), float(values.max())
    room = 0.06 * (high - low) if high > low else max(0.1 * abs(high), 1e-9)
    return low - room, high + room


class Plot(QWidget):
    """A plot with its axis titles set as text: the vertical one above, the horizontal one below at the right."""

    x_title_clicked = Signal(QPoint)
    y_title_clicked = Signal(QPoint)
    saved = Signal(str)

    def __init__(self, name: str, parent: QWidget | None = None, clickable: bool = False) -> None:
        super().__init__(parent)
        self.name = name
        self.theme: Theme = LIGHT
        self.data: Callable[[], list[Table]] = list
        self._items: dict[str, tuple[str, pg.GraphicsObject]] = {}
        self._named: dict[str, set[str]] = {}
        self._layer = ""
        self._framed = True
        self._content: object = None
        self._whole: tuple[tuple[float, float], tuple[float, float]] | None = None
        self.view, self.item = plot_view()
        self.box = self.item.box
        self.box.setDefaultPadding(0.0)
        self._veil = QGraphicsRectItem()
        self._veil.setPen(QPen(Qt.PenStyle.NoPen))
        self._veil.setZValue(VEIL)
        self._veil.setVisible(False)
        self.box.addItem(self._veil, ignoreBounds=True)
        self.box.sigRangeChanged.connect(lambda *_: self._cover() if self._veil.isVisible() else None)
        self.box.sigRangeChanged.connect(self._keep_pictures)
        self.y_title, self.x_title = self._title(clickable), self._title(clickable)
        self.y_title.clicked.connect(
            lambda: self.y_title_clicked.emit(self.y_title.mapToGlobal(QPoint(0, self.y_title.height())))
        )
        self.x_title.clicked.connect(lambda: self.x_title_clicked.emit(self.x_title.mapToGlobal(QPoint(0, -4))))
        self.caption = QLabel("")
        self.caption.setTextFormat(Qt.TextFormat.PlainText)
        self.caption.setObjectName("mute")
        self.caption.setMinimumWidth(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        layout.addWidget(self.y_title, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self.view, 1)
        bottom = QHBoxLayout()
        bottom.setContentsMargins(40, 0, 0, 0)
        bottom.addWidget(self.caption)
        bottom.addStretch(1)
        bottom.addWidget(self.x_title)
        layout.addLayout(bottom)
        self.view.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.view.customContextMenuRequested.connect(lambda p: self.menu().exec(self.view.mapToGlobal(p)))
        self.reads_out = True
        self.pointer = Pointer(self)
        self.set_theme(LIGHT)

    def _title(self, clickable: bool) -> QToolButton:
        button = QToolButton()
        button.setObjectName("link" if clickable else "axistitle")
        button.setAccessibleName(f"Title of an axis of {self.name}")
        button.setAutoRaise(True)
        if not clickable:
            button.setStyleSheet(
                "QToolButton { background: transparent; border: none; font-weight: 600; padding: 2px 0; }"
            )
            button.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        else:
            button.setCursor(Qt.CursorShape.PointingHandCursor)
            button.setToolTip("Click to choose the unit")
        return button

    # -- what is drawn: items are kept by their key and get new data -----------------------------------------------

    def begin(self, layer: str = "") -> None:
        """Begin drawing a layer: items named before :meth:`end` are its own and stay, its others are hidden."""
        self._layer = layer
        self._named[layer] = set()

    def end(self) -> None:
        """End drawing the layer begun last."""
        named = self._named[self._layer]
        for key, (layer, item) in self._items.items():
            if layer == self._layer and item.isVisible() != (key in named):
                item.setVisible(key in named)
        self._layer = ""
        if self.pointer.marks:
            self.pointer.refresh()
        self._show_axes(any(item.isVisible() for _, item in self._items.values()))

    def framed(self) -> bool:
        """Tell whether anything is drawn."""
        return self._framed

    def named_lines(self) -> list[tuple[str, np.ndarray, np.ndarray]]:
        """Return the lines with a name that are seen: name and coordinates."""
        out = []
        for _, item in self._items.values():
            name = getattr(item, "said", "")
            if name and item.isVisible() and item.xData is not None:
                out.append((name, item.xData, item.yData))
        return out

    def wipe(self) -> None:
        """Show nothing: what was drawn belongs to another answer."""
        for _, item in self._items.values():
            item.setVisible(False)
        self._named = {layer: set() for layer in self._named}
        self._show_axes(False)

    def _show_axes(self, visible: bool) -> None:
        """Show the axes where there is something on them: a frame from 0 to 1 tells nothing."""
        if visible == self._framed:
            return
        self._framed = visible
        self.item.show_axes(visible)
        for title in (self.x_title, self.y_title):
            title.setVisible(visible)

    def _item(self, key: str, make: Callable[[], pg.GraphicsObject]) -> pg.GraphicsObject:
        self._named.setdefault(self._layer, set()).add(key)
        found = self._items.get(key)
        if found is not None:
            return found[1]
        item = make()
        self._items[key] = (self._layer, item)
        self.box.addItem(item, ignoreBounds=True)
        return item

    def line(self, key: str, x: object, y: object, look: QPen, cached: bool = False, name: str = "") -> None:
        """Draw a line; a ``cached`` one is kept as a picture, so that what moves over it repaints nothing of it. One
        with a ``name`` is read out under the pointer."""
        item = self._item(f"line {key}", lambda: pg.PlotCurveItem(skipFiniteCheck=True))
        item.said = name
        x, y = np.asarray(x, float), np.asarray(y, float)
        item.kept_as_picture = cached
        known = item.opts.get("pen")
        same = item.xData is not None and np.array_equal(item.xData, x) and np.array_equal(item.yData, y)
        if not same or known != look:
            item.setData(x, y, pen=look)
        self._keep_as_picture(item)

    def _keep_pictures(self, *_range: object) -> None:
        for _, item in self._items.values():
            self._keep_as_picture(item)

    def _keep_as_picture(self, item: pg.GraphicsObject) -> None:
        """Keep a cached line as a picture while all of it is in view: one that goes far beyond is kept in part, and
        such a part is drawn at the wrong place after the view has moved."""
        if not getattr(item, "kept_as_picture", False) or item.xData is None or not len(item.xData):
            return
        ranges = zip((item.xData, item.yData), self.box.viewRange(), strict=True)
        inside = all(low <= np.nanmin(v) and np.nanmax(v) <= high for v, (low, high) in ranges)
        modes = QGraphicsItem.CacheMode
        mode = modes.DeviceCoordinateCache if inside else modes.NoCache
        if item.cacheMode() != mode:
            item.setCacheMode(mode)

    def area(self, key: str, x: object, y: object, level: float, fill: QColor) -> None:
        """Fill what lies between a line and a level."""
        item = self._item(f"area {key}", lambda: pg.PlotCurveItem(skipFiniteCheck=True))
        item.setData(np.asarray(x, float), np.asarray(y, float), fillLevel=level, brush=fill, pen=None)

    def region(self, key: str, path: QPainterPath, fill: QColor) -> None:
        """Fill a path in the plot's coordinates."""
        item = self._item(f"region {key}", QGraphicsPathItem)
        item.setPen(QPen(Qt.PenStyle.NoPen))
        item.setZValue(-20.0)
        item.setBrush(fill)
        item.setPath(path)

    def dots(
        self, key: str, x: object, y: object, look: QPen, symbol: str = "o", size: float = 8.0, fill: str | QColor = ""
    ) -> None:
        """Draw points."""
        item = self._item(f"dots {key}", pg.ScatterPlotItem)
        brush = pg.mkBrush(fill or self.theme.surface)
        told = (np.asarray(x, float).tolist(), np.asarray(y, float).tolist(), look, symbol, size, brush.color().name())
        if getattr(item, "told", None) == told:
            return
        item.told = told
        item.setData(np.asarray(x, float), np.asarray(y, float), pen=look, symbol=symbol, size=size, brush=brush)

    def bars(self, key: str, brush: QColor | str, **data: object) -> None:
        """Draw bars; ``data`` as :class:`pyqtgraph.BarGraphItem` takes it."""
        item = self._item(f"bars {key}", lambda: pg.BarGraphItem(x0=[], x1=[], y0=[], y1=[]))
        cleared = dict.fromkeys(("x", "x0", "x1", "y", "y0", "y1", "width", "height"))
        item.setOpts(**{**cleared, **data}, brush=brush, pen=None)

    def level(self, key: str, value: float, look: QPen) -> None:
        """Draw a horizontal line across the plot."""
        item = self._item(f"level {key}", lambda: pg.InfiniteLine(angle=0))
        item.setValue(value)
        item.setPen(look)

    def upright(self, key: str, value: float, look: QPen) -> None:
        """Draw a vertical line across the plot."""
        item = self._item(f"upright {key}", lambda: pg.InfiniteLine(angle=90))
        item.setValue(value)
        item.setPen(look)

    def text(
        self, key: str, text: str, x: float, y: float, colour: str, anchor: tuple[float, float] = (0.5, 0.5),
        ground: bool = False, bold: bool = False, depth: float = 0.0,
    ) -> pg.TextItem:  # fmt: skip
        """Write a label at a point; on a ``ground`` that hides what is under it."""
        item = self._item(f"text {key}", lambda: pg.TextItem(""))
        # A line may be pale, its name is read.
        colour = legible(QColor(colour).name(), self.theme.surface, self.theme.ink)
        size = point_size(8.5)
        if getattr(item, "told", None) != (text, colour, bold, size):
            font = QFont(self.font())
            font.setPointSizeF(size)
            font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
            item.setFont(font)
            item.setText(text, color=colour)
            item.told = (text, colour, bold, size)
        item.setAnchor(anchor)
        item.fill = pg.mkBrush(self.theme.surface) if ground else pg.mkBrush(None)
        item.setPos(float(x), float(y))
        item.setZValue(depth)
        return item

    def set_faint(self, faint: bool) -> None:
        """Dim what is drawn, as older than the input: a veil before it, which is cheaper than painting every item
        anew."""
        if faint != self._veil.isVisible():
            self._cover()
            self._veil.setVisible(faint)

    def _cover(self) -> None:
        (x0, x1), (y0, y1) = self.box.viewRange()
        self._veil.setRect(QRectF(x0 - (x1 - x0), y0 - (y1 - y0), 3.0 * (x1 - x0), 3.0 * (y1 - y0)))

    def fit_x(self, low: float, high: float) -> None:
        """Show a range of x, unless it is shown already."""
        shown = self.box.viewRange()[0]
        if abs(shown[0] - low) + abs(shown[1] - high) > 1e-9 * (1.0 + abs(high - low)):
            self.box.setXRange(low, high, padding=0.0)

    def fit_y(self, low: float, high: float, padding: float = 0.0) -> None:
        """Show a range of y with some room beyond, unless it is shown already."""
        room = padding * (high - low)
        low, high = low - room, high + room
        shown = self.box.viewRange()[1]
        if high > low and abs(shown[0] - low) + abs(shown[1] - high) > 1e-9 * (1.0 + abs(high - low)):
            self.box.setYRange(low, high, padding=0.0)

    def fit_to(self, content: object, x: object, y: object) -> None:
        """Show all of some values where ``content`` is another than before, or where what is drawn left the view;
        else the reader's view stays."""
        xs, ys = (np.asarray(v, float) for v in (x, y))
        xs, ys = xs[np.isfinite(xs)], ys[np.isfinite(ys)]
        if not xs.size or not ys.size:
            return
        self._whole = (_around(xs), _around(ys))
        (x0, x1), (y0, y1) = self.box.viewRange()
        outside = (xs < x0) | (xs > x1)
        left = bool(outside.mean() > LEFT or ((ys < y0) | (ys > y1)).mean() > LEFT)
        if content != self._content or left:
            self._content = content
            self.show_all()

    def set_logarithmic(self, on: bool) -> None:
        """Draw the vertical axis by powers of ten, or plainly. A range meant for the other is left at once: ticks of
        a million decades would never be done."""
        self.item.getAxis("left").setLogMode(on)
        low, high = self.box.viewRange()[1]
        # No quantity spans more decades than these; neither may a wheel or a drag.
        self.box.setLimits(yMin=-DECADES if on else None, yMax=DECADES if on else None)
        if on and not (-DECADES <= low < high <= DECADES and high - low <= 15.0):
            self.fit_y(0.0, 3.0)

    def set_titles(self, x: str, y: str) -> None:
        """Name the axes."""
        self.x_title.setText(x)
        self.y_title.setText(y)

    def set_theme(self, theme: Theme) -> None:
        """Paint frame, grid and ticks in a theme."""
        self.theme = theme
        self.view.setBackground(theme.paper)
        self.box.setBackgroundColor(theme.surface)
        self.box.setBorder(pg.mkPen(theme.hair))
        veil = QColor(theme.surface)
        veil.setAlphaF(1.0 - FAINT)
        self._veil.setBrush(veil)
        font = QFont(self.font())
        font.setPointSizeF(point_size(8.0))
        for side in ("left", "bottom"):
            axis = self.item.getAxis(side)
            axis.setPen(pg.mkPen(theme.hair))
            axis.setTextPen(pg.mkPen(theme.mute))
            axis.setTickPen(pg.mkPen(theme.hair))
            axis.setStyle(
                tickLength=0, tickFont=font, autoExpandTextSpace=True, maxTickLevel=0, hideOverlappingLabels=False
            )
            axis.setGrid(110)
            axis.setTickDensity(1.5)
            axis.enableAutoSIPrefix(False)

    def menu(self) -> QMenu:
        """Return the context menu: picture, data, view."""
        menu = QMenu(self)
        menu.addAction("Save picture as PNG…", lambda: self.ask_save("png"))
        menu.addAction("Save picture as SVG…", lambda: self.ask_save("svg"))
        menu.addAction("Save data as CSV…", lambda: self.ask_save("csv"))
        menu.addAction("Copy data", self.copy_data)
        menu.addAction("Copy picture and data", self.copy_all)
        menu.addSeparator()
        self.pointer.add_to(menu)
        menu.addAction("Show everything", self.show_all)
        return menu

    def show_all(self) -> None:
        """Fit the view to what is drawn."""
        if self._whole is None:
            self.box.autoRange()
            return
        self.fit_x(*self._whole[0])
        self.fit_y(*self._whole[1])

    def ask_save(self, kind: str) -> None:
        """Ask for a file and save the picture or the data there."""
        suggestion = f"{self.name.replace(' ', '-').lower()}.{kind}"
        chosen, _ = QFileDialog.getSaveFileName(self, f"Save {self.name}", suggestion, f"*.{kind}")
        if chosen:
            path = Path(chosen)
            self.save(path if path.suffix else path.with_suffix(f".{kind}"))

    def save(self, path: Path) -> None:
        """Save as PNG, SVG or CSV by the ending; a failure is said, not raised."""
        try:
            if path.suffix.lower() == ".csv":
                path.write_text(self.csv_text(), encoding="utf-8")
            elif path.suffix.lower() == ".svg":
                self._render_svg(path)
            elif not self.picture().save(str(path)):
                raise OSError("the picture format is not known or the folder cannot be written")
            self.saved.emit(f"Saved {path.name}")
        except OSError as error:
            self.saved.emit(f"{path.name} could not be saved: {error}")

    def picture(self, scale: float = 2.0) -> QImage:
        """Return the plot as an image, ``scale`` pixels a point."""
        image = QImage(self.size() * scale, QImage.Format.Format_ARGB32)
        image.setDevicePixelRatio(scale)
        image.fill(QColor(self.theme.paper))
        painter = QPainter(image)
        self.render(painter, QPoint(0, 0))
        painter.end()
        return image

    def _render_svg(self, path: Path) -> None:
        generator = QSvgGenerator()
        generator.setFileName(str(path))
        generator.setSize(self.size())
        generator.setViewBox(QRectF(0, 0, self.width(), self.height()))
        generator.setTitle(self.name)
        painter = QPainter()
        if not painter.begin(generator):
            raise OSError("the folder cannot be written")
        painter.fillRect(self.rect(), QColor(self.theme.paper))
        self.render(painter, QPoint(0, 0))
        painter.end()

    def csv_text(self) -> str:
        """Return every data set side by side as comma-separated text with headers."""
        tables = self.data()
        stream = io.StringIO()
        writer = csv.writer(stream, lineterminator="\n")
        writer.writerow([f"{title}: {name}" for title, names, _ in tables for name in names])
        columns = [list(column) for _, _, columns in tables for column in columns]
        for i in range(max((len(c) for c in columns), default=0)):
            writer.writerow([f"{c[i]:.10g}" if i < len(c) and np.isfinite(c[i]) else "" for c in columns])
        return stream.getvalue()

    def copy_data(self) -> None:
        """Copy the data as tab-separated text."""
        QGuiApplication.clipboard().setText(self._tabbed())

    def _tabbed(self) -> str:
        return "\n".join("\t".join(r) for r in csv.reader(io.StringIO(self.csv_text())))

    def copy_all(self) -> None:
        """Copy the picture, and its numbers as text: a text takes the one, a spreadsheet the other."""
        both = QMimeData()
        both.setImageData(self.picture())
        both.setText(self._tabbed())
        QGuiApplication.clipboard().setMimeData(both)


def pen(colour: str | QColor, width: float = 1.5, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    """Return a plot pen."""
    made: QPen = pg.mkPen(QColor(colour), width=width, style=style)
    return made
