"""Plots in the program's look, each able to give its picture and its data."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QGuiApplication, QImage, QPainter
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QMenu, QToolButton, QVBoxLayout, QWidget

from .theme import LIGHT, Theme

pg.setConfigOptions(antialias=True)

Table = tuple[str, list[str], list[Sequence[float]]]
"""Title of a data set, its column names, its columns."""


class PlainLogAxis(pg.AxisItem):
    """An axis that writes plain numbers at 1, 2 and 5 of each decade when logarithmic."""

    def logTickStrings(self, values, scale, spacing):  # Qt-style name: it overrides
        out = []
        for value in 10.0 ** np.asarray(values, float):
            lead = value / 10.0 ** np.floor(np.log10(value) + 1e-9)
            out.append(f"{value:.6g}" if min(abs(lead - k) for k in (1.0, 2.0, 5.0)) < 1e-6 else "")
        return out


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
        self._own: list[pg.GraphicsObject] = []
        self.view = pg.PlotWidget(background=None, axisItems={"left": PlainLogAxis("left")})
        self.item = self.view.getPlotItem()
        self.item.hideButtons()
        self.item.setMenuEnabled(False)
        self.item.showGrid(x=True, y=True, alpha=0.0)
        self.box = self.item.getViewBox()
        self.box.setDefaultPadding(0.0)
        self.y_title, self.x_title = self._title(clickable), self._title(clickable)
        self.y_title.clicked.connect(
            lambda: self.y_title_clicked.emit(self.y_title.mapToGlobal(QPoint(0, self.y_title.height())))
        )
        self.x_title.clicked.connect(lambda: self.x_title_clicked.emit(self.x_title.mapToGlobal(QPoint(0, -4))))
        self.caption = QLabel("")
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
        self.set_theme(LIGHT)

    def _title(self, clickable: bool) -> QToolButton:
        button = QToolButton()
        button.setObjectName("link" if clickable else "axistitle")
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

    def add(self, item: pg.GraphicsObject) -> None:
        """Add an item that :meth:`wipe` removes; it does not take part in automatic ranges."""
        self.box.addItem(item, ignoreBounds=True)
        self._own.append(item)

    def wipe(self) -> None:
        """Remove what :meth:`add` put there."""
        for item in self._own:
            self.box.removeItem(item)
        self._own.clear()

    def set_faint(self, faint: bool) -> None:
        """Dim what :meth:`add` put there, as older than the input."""
        for item in self._own:
            item.setOpacity(0.35 if faint else 1.0)

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
        font = QFont(self.font())
        font.setPointSizeF(8.0)
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
        menu.addSeparator()
        menu.addAction("Show everything", self.show_all)
        return menu

    def show_all(self) -> None:
        """Fit the view to what is drawn."""
        self.box.autoRange()

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
        rows = list(csv.reader(io.StringIO(self.csv_text())))
        QGuiApplication.clipboard().setText("\n".join("\t".join(r) for r in rows))


def pen(colour: str | QColor, width: float = 1.5, style: Qt.PenStyle = Qt.PenStyle.SolidLine):
    """Return a plot pen."""
    return pg.mkPen(QColor(colour), width=width, style=style)
