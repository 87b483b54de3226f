"""The shelf: the samples and fluids of the project, each with a small picture of itself."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import (
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRectF,
    QSize,
    QSizeF,
    Qt,
    Signal,
    SignalInstance,
)
from PySide6.QtGui import QColor, QFont, QPainter, QPolygonF
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ...characterization.methods import CARBON
from ...document import Fluid, Sample, Study
from ...document.kinds import study_kinds
from ...document.sample_points import boiling_points, carbon_rows
from ...fluids.map_lines import curves
from ...units import SETS, format_number, from_si, label, parse
from ..widgets.fields import section, tip
from ..widgets.letters import letter_scale, pixels, point_size, sized
from ..widgets.theme import LIGHT, Theme
from .live import Live
from .value_words import told

NAME, LINE = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1

Picture = list[tuple[float, float]]

HIGH = 48
"""Pixels that an entry is high."""
BOX = QSizeF(26.0, 24.0)
"""Room for the picture of an entry."""


class _Delegate(QStyledItemDelegate):
    """Paints an entry: picture, name, one line about it."""

    def __init__(self, entries: QListWidget) -> None:
        super().__init__(entries)
        self._entries = entries
        self.theme = LIGHT
        self.pictures: list[QPolygonF | None] = []

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(160, pixels(HIGH))

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        t = self.theme
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(option.rect).adjusted(6, 1, -6, -1)
        current = index.row() == self._entries.currentRow()
        if current:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.tint))
            painter.drawRoundedRect(rect, 5, 5)
        picture = self.pictures[index.row()] if index.row() < len(self.pictures) else None
        if picture is not None and picture.size() > 1:
            line = picture.translated(rect.left() + 8, rect.top() + 11)
            pen = painter.pen()
            pen.setStyle(Qt.PenStyle.SolidLine)
            pen.setColor(QColor(t.ink if current else t.mute))
            pen.setWidthF(1.5)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(line)
        font = QFont(option.font)
        font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        painter.setPen(QColor(t.ink))
        shift = 44 if picture is not None else 10
        left, room = rect.left() + shift, rect.width() - shift - 4
        name = painter.fontMetrics().elidedText(index.data(NAME), Qt.TextElideMode.ElideRight, int(room))
        k = letter_scale()
        painter.drawText(QRectF(left, rect.top() + 5 * k, room, 19 * k), Qt.AlignmentFlag.AlignVCenter, name)
        font.setWeight(QFont.Weight.Normal)
        font.setPointSizeF(point_size(8.5))
        painter.setFont(font)
        painter.setPen(QColor(t.mute))
        line_text = painter.fontMetrics().elidedText(index.data(LINE), Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(left, rect.top() + 24 * k, room, 17 * k), Qt.AlignmentFlag.AlignVCenter, line_text)
        painter.restore()


def _scaled(picture: Picture | None) -> QPolygonF | None:
    """Return a picture drawn to fill its room, once: it is painted far more often than it changes."""
    if not picture:
        return None
    points = np.asarray(picture)
    low, high = points.min(axis=0), points.max(axis=0)
    unit = (points - low) / np.maximum(high - low, 1e-12)
    return QPolygonF([QPointF(x * BOX.width(), (1.0 - y) * BOX.height()) for x, y in unit.tolist()])


class _Entries(QListWidget):
    """A list of entries with its painter."""

    def __init__(self) -> None:
        super().__init__()
        self.painter = _Delegate(self)
        self.shown: list[tuple[str, str, Picture | None]] = []
        self.setItemDelegate(self.painter)


class Shelf(QFrame):
    """Four lists: samples, fluids, the kept questions, and named values where there are any."""

    sample_chosen = Signal(str)
    fluid_chosen = Signal(str)
    study_chosen = Signal(str)
    add_sample = Signal()
    add_fluid = Signal()
    add_study = Signal()
    add_value = Signal()
    value_chosen = Signal(str)
    menu_asked = Signal(str, object)

    def __init__(self, live: Live) -> None:
        super().__init__()
        self.setObjectName("shelf")
        sized(self, least_width=150, most_width=208)
        self._live = live
        self._filling = False
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 12, 0, 8)
        layout.setSpacing(2)
        self.samples = self._list(layout, "SAMPLES", self.add_sample, "Samples")
        layout.addSpacing(12)
        self.fluids = self._list(layout, "FLUIDS", self.add_fluid, "Fluids")
        layout.addSpacing(12)
        self.studies = self._list(layout, "QUESTIONS", self.add_study, "Questions")
        self.values_room = QWidget()
        inner = QVBoxLayout(self.values_room)
        inner.setContentsMargins(0, 12, 0, 0)
        inner.setSpacing(2)
        self.values = self._list(inner, "VALUES", self.add_value, "Named values")
        self.values.itemClicked.connect(lambda item: self.value_chosen.emit(item.data(NAME)))
        layout.addWidget(self.values_room)
        layout.addStretch(1)
        self.studies.itemClicked.connect(lambda item: self.study_chosen.emit(item.data(NAME)))
        self.samples.itemClicked.connect(lambda item: self.sample_chosen.emit(item.data(NAME)))
        self.fluids.itemClicked.connect(lambda item: self.fluid_chosen.emit(item.data(NAME)))
        self.studies.currentRowChanged.connect(lambda r: self._chosen(self.studies, r, self.study_chosen))
        for group, entries in (("samples", self.samples), ("fluids", self.fluids), ("studies", self.studies)):
            entries.customContextMenuRequested.connect(
                lambda at, g=group, e=entries: self.menu_asked.emit(g, e.viewport().mapToGlobal(at))
            )
        self.samples.currentRowChanged.connect(lambda r: self._chosen(self.samples, r, self.sample_chosen))
        self.fluids.currentRowChanged.connect(lambda r: self._chosen(self.fluids, r, self.fluid_chosen))
        live.after(self, {"selection", "sample", "fluid", "map", "answer"}, self.refresh)

    def _list(self, layout: QVBoxLayout, title: str, add: SignalInstance, name: str) -> _Entries:
        row = QHBoxLayout()
        row.setContentsMargins(14, 0, 8, 0)
        heading = section(title, "shelfhead")
        plus = QToolButton()
        plus.setObjectName("plus")
        plus.setText("+")
        plus.setToolTip(f"Add to {name.lower()}")
        plus.setAccessibleName(f"Add to {name.lower()}")
        plus.clicked.connect(add)
        row.addWidget(heading)
        row.addStretch(1)
        row.addWidget(plus)
        layout.addLayout(row)
        entries = _Entries()
        entries.setAccessibleName(name)
        entries.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        entries.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        layout.addWidget(entries)
        return entries

    def _chosen(self, entries: QListWidget, row: int, signal: SignalInstance) -> None:
        if not self._filling and row >= 0:
            signal.emit(entries.item(row).data(NAME))

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        for entries in (self.samples, self.fluids, self.studies, self.values):
            entries.painter.theme = theme
            # The heights of the entries go with the letters.
            entries.doItemsLayout()

    def refresh(self) -> None:
        """Show the document's samples and fluids."""
        self._filling = True
        document = self._live.document
        self._fill(
            self.samples,
            [(s.name, self._sample_line(s), _sample_picture(s)) for s in document.samples],
            self._live.sample_name,
        )
        fluids = [(f.name, self._fluid_line(f), self._fluid_picture(f)) for f in document.fluids]
        self._fill(self.fluids, fluids, self._live.fluid_name)
        questions: list[tuple[str, str, Picture | None]]
        questions = [(s.name, self._study_line(s), None) for s in document.studies if not s.draft]
        self._fill(self.studies, questions, self._live.session.study_name)
        found = self._live.named_values() if document.values else {}
        self._fill(self.values, [(name, told(value), None) for name, value in found.items()], "")
        # Two are seen; the others scroll.
        sized(self.values, least_height=HIGH + 4, most_height=min(HIGH * self.values.count() + 4, 100))
        self.values_room.setVisible(bool(document.values))
        self._filling = False

    @staticmethod
    def _fill(entries: _Entries, wanted: list[tuple[str, str, Picture | None]], current: str) -> None:
        while entries.count() > len(wanted):
            entries.takeItem(entries.count() - 1)
        while entries.count() < len(wanted):
            entries.addItem(QListWidgetItem())
        known = entries.shown
        pictures = entries.painter.pictures
        entries.painter.pictures = [
            pictures[k] if k < len(known) and known[k][2] == picture else _scaled(picture)
            for k, (_, _, picture) in enumerate(wanted)
        ]
        for row, (name, line, _) in enumerate(wanted):
            if row >= len(known) or known[row] != wanted[row]:
                item = entries.item(row)
                item.setData(NAME, name)
                item.setData(LINE, line)
                item.setToolTip(tip(f"{name}\n{line}"))
        entries.shown = wanted
        row = next((k for k, w in enumerate(wanted) if w[0] == current), -1)
        if entries.currentRow() != row:
            entries.setCurrentRow(row)
        # As tall as its entries where there is room, else it scrolls.
        high = HIGH * len(wanted)
        sized(entries, least_height=min(high, HIGH) + 4, most_height=high + 4)

    def _sample_line(self, sample: Sample) -> str:
        unit = sample.display.density or SETS[self._live.document.display.units]["density"]
        try:
            density = parse(sample.bulk.density, "density")  # type: ignore[arg-type]
            return f"{sample.distillation.method} · {format_number(from_si(density, unit, 'density'), 3)} {label(unit)}"
        except ValueError:
            return sample.distillation.method

    def _fluid_line(self, fluid: Fluid) -> str:
        made = fluid.recombination
        if made is not None and not fluid.note:
            return f"{made.liquid} + {made.gas}"
        count = len(fluid.parts)
        if fluid.made_by is not None and not fluid.note:
            return (
                f"{fluid.made_by.stream} of {fluid.made_by.study}"
                if fluid.made_by.stream
                else f"given by {fluid.made_by.study}"
            )
        return fluid.note or f"{count} {'part' if count == 1 else 'parts'}, {fluid.model.eos}"

    def _study_line(self, study: Study) -> str:
        """Return the live one-line answer of a question."""
        shown, kind = self._live.answer(study.name), study_kinds()[study.kind]
        if shown.error:
            return shown.error
        if shown.value is None:
            return "working …"
        if not shown.value["ok"]:
            return str(shown.value["error"])
        return kind.line(shown.value, self._live.units())

    def _fluid_picture(self, fluid: Fluid) -> Picture | None:
        live = self._live
        whole = live.session.project.known_map(fluid)
        if whole is None or not whole.parts:
            turn = np.linspace(-0.35 * np.pi, 1.12 * np.pi, 40)
            return list(zip((np.cos(turn) - 0.25 * np.sin(turn)).tolist(), np.sin(turn).tolist()))
        out: Picture = []
        for beta in (1.0, 0.0):
            for _, T, P in curves(whole, [beta]):
                keep = T > 213.0 if T.max() > 300.0 else T > 0.0
                out += list(zip(T[keep].tolist(), P[keep].tolist()))
        return out


def _sample_picture(sample: Sample) -> Picture:
    if sample.distillation.method == CARBON:
        bars: Picture = []
        for group in carbon_rows(sample).groups:
            n = float(group.number)
            bars += [(n - 0.4, 0.0), (n - 0.4, group.percent), (n + 0.4, group.percent), (n + 0.4, 0.0)]
        return bars
    points = boiling_points(sample)
    return list(zip(points.percents, points.values))
