"""The desk *lab data*: what was measured on the left, its picture on the right."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from ...characterization import CharacterizedSample
from ...constants import WATER_DENSITY_60F
from ...document import Sample
from ...document.edits import update_sample
from ...document.sample_points import curve_points
from ...units import SETS, format_number, from_si, label
from ..fields import QuantityField, elided, section, unit_menu
from ..grid import GridView
from ..live import Live
from ..plot import Plot, Table, pen
from ..theme import Theme
from .desk import Desk
from .points_model import PointsModel
from .yields import YieldBars


class LabDesk(Desk):
    """Whole-sample numbers, the curve's grid, and the plots of curve, density and yields."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        self.title, self.subtitle = section("", "title"), section("", "mute")

        form = QGridLayout()
        form.setHorizontalSpacing(8)
        form.setVerticalSpacing(4)
        form.setColumnStretch(3, 1)
        form.setColumnMinimumWidth(0, 128)
        self.density = QuantityField(form, 0, "Density", "density", lambda t: self._store_bulk("density", t))
        self.molar_mass = QuantityField(
            form, 1, "Molar mass", "molar_mass", lambda t: self._store_bulk("molar_mass", t)
        )
        self.watson = QuantityField(form, 2, "Watson K", "", lambda t: self._store_bulk("watson_k", t))
        self.density.on_unit = lambda u: self._store_display("density", u)
        self.molar_mass.on_unit = lambda u: self._store_display("molar_mass", u)
        self.bulk_fault = section("", "fault")
        self.bulk_fault.setWordWrap(True)

        self.points = PointsModel(live)
        self.grid = GridView(self.points)
        self.grid.setAccessibleName("Boiling curve")
        self.grid.unit_clicked.connect(self._choose_unit)
        insert = QAction("Insert row", self)
        insert.triggered.connect(self.insert_row)
        delete = QAction("Delete rows", self)
        delete.triggered.connect(self.delete_rows)
        self.grid.extra_actions = [insert, delete]
        self.method = section("TBP, by volume, at 1 atm", "mute")
        self.curve_fault = section("", "fault")
        self.curve_fault.setWordWrap(True)
        self.curve_note = section("", "mute")
        self.curve_note.setWordWrap(True)
        self.mend = _link("")
        self.mend.linkActivated.connect(self._mend)
        self._proposal: tuple[int, int, str] | None = None

        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(section("Whole sample"))
        left.addLayout(form)
        left.addWidget(self.bulk_fault)
        head = QHBoxLayout()
        head.addWidget(section("Boiling curve"))
        head.addStretch(1)
        head.addWidget(self.method)
        left.addSpacing(6)
        left.addLayout(head)
        left.addWidget(self.grid, 1)
        left.addWidget(self.curve_fault)
        left.addWidget(self.mend)
        left.addWidget(self.curve_note)
        column = QWidget()
        column.setLayout(left)
        column.setFixedWidth(336)
        left.setContentsMargins(0, 0, 0, 0)

        self.curve = Plot("Boiling curve")
        self.curve.data = self._curve_data
        self.density_plot = Plot("Density")
        self.density_plot.data = self._density_data
        self.bars = YieldBars(live)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.curve, 3)
        lower = QHBoxLayout()
        lower.setSpacing(24)
        lower.addWidget(self.density_plot, 1)
        lower.addWidget(self.bars, 1)
        right.addLayout(lower, 1)
        self.density_plot.setMinimumHeight(96)

        heading = QHBoxLayout()
        heading.addWidget(self.title)
        heading.addSpacing(4)
        heading.addWidget(self.subtitle, 0, Qt.AlignmentFlag.AlignBottom)
        heading.addStretch(1)
        body = QHBoxLayout()
        body.setSpacing(28)
        body.addWidget(column)
        body.addLayout(right, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(10)
        layout.addLayout(heading)
        layout.addLayout(body, 1)
        self.title.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        live.sample_changed.connect(self.update_desk)

    # -- edits ---------------------------------------------------------------------------------------------------

    def _store_bulk(self, key: str, text: str) -> None:
        value: float | str | None = text or None
        name = self._live.sample_name

        def change(sample: Sample) -> Sample:
            return sample.model_copy(update={"bulk": sample.bulk.model_copy(update={key: value})})

        self._live.store.edit(f"Change the {key.replace('_', ' ')}", lambda d: update_sample(d, name, change))

    def _store_display(self, key: str, unit: str) -> None:
        name = self._live.sample_name

        def change(sample: Sample) -> Sample:
            return sample.model_copy(update={"display": sample.display.model_copy(update={key: unit})})

        self._live.store.edit("Choose a unit", lambda d: update_sample(d, name, change))

    def _choose_unit(self, column: int, position: QPoint) -> None:
        if column == 1:
            unit_menu(self, "temperature", self.points.unit, lambda u: self._store_display("temperature", u)).exec(
                position
            )

    def insert_row(self) -> None:
        """Insert an empty row above the current one."""
        self.points.insert_row(max(self.grid.currentIndex().row(), 0))

    def delete_rows(self) -> None:
        """Delete the selected rows."""
        self.points.delete_rows({i.row() for i in self.grid.selectedIndexes()})

    def _mend(self) -> None:
        if self._proposal:
            row, column, text = self._proposal
            self.points.store_cells({(row, column): text}, "Take the proposal")

    # -- showing -------------------------------------------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        for part in (self.grid, self.curve, self.density_plot, self.bars):
            part.set_theme(theme)
        self.update_desk()

    def refresh(self) -> None:
        """Show the selected sample."""
        sample = self._live.current_sample()
        shown = self._live.sample
        self.setEnabled(sample is not None)
        self.title.setText(elided(sample.name) if sample else "No sample")
        self.title.setToolTip(sample.name if sample else "")
        self.subtitle.setText(sample.note if sample else "add one with Sample ▸ Add sample")
        self._show_bulk(sample)
        self.points.show(sample, shown.faults)
        point_faults = [f for f in shown.faults if "points" in f.path]
        rest = [f for f in shown.faults if "points" not in f.path]
        self.bulk_fault.setText(rest[0].message[:1].upper() + rest[0].message[1:] + "." if rest else "")
        self.bulk_fault.setVisible(bool(rest))
        self._show_curve_faults(point_faults, shown.old)
        self._draw(sample)

    def _show_bulk(self, sample: Sample | None) -> None:
        bulk = sample.bulk if sample else None
        result = self._live.characterized()
        units = {**SETS[self._live.document.display.units]}
        if sample:
            chosen = sample.display.model_dump()
            units.update({k: v for k, v in chosen.items() if v})
        faults = {f.path[-1]: f.message for f in self._live.sample.faults if "bulk" in f.path}
        fresh = result if result is not None and not self._live.sample.old else None
        fields = (
            (self.density, "density", fresh.density if fresh else None, "estimated"),
            (self.molar_mass, "molar_mass", fresh.molar_mass if fresh else None, "estimated"),
            (self.watson, "watson_k", fresh.watson_k if fresh else None, "from both"),
        )
        for field, key, estimate, remark in fields:
            unit = units.get(key, "")
            cell = getattr(bulk, key) if bulk else None
            field.show(cell, unit, estimate, remark if estimate is not None else "", faults.get(key, ""))

    def _show_curve_faults(self, faults: list, old: bool) -> None:
        self._proposal = None
        self.curve_fault.setVisible(bool(faults))
        self.mend.setVisible(False)
        note = ""
        if faults:
            first = faults[0]
            more = f" (and {len(faults) - 1} more)" if len(faults) > 1 else ""
            text = first.message[:1].upper() + first.message[1:]
            self.curve_fault.setText(text + more)
            if first.proposal and isinstance(first.path[-1], int):
                self._proposal = (int(first.path[-2]), int(first.path[-1]), first.proposal)
                self.mend.setText(f'<a href="mend" style="color:{self.theme.accent}">Take {first.proposal}</a>')
                self.mend.setVisible(True)
            if not old:
                one = len([f for f in faults if f.path[-1] != "points"]) == 1
                note = (
                    "Curve drawn without this point until it is mended."
                    if one
                    else "Curve drawn without these points until they are mended."
                )
        if old and self._live.characterized() is not None:
            note = "The plots show the last good result."
        self.curve_note.setText(note)
        self.curve_note.setVisible(bool(note))

    def _draw(self, sample: Sample | None) -> None:
        result = self._live.characterized()
        unit = self.points.unit
        t = self.theme
        self.curve.item.clear()
        self.curve.set_titles("Distilled, vol%", f"Boiling point, {label(unit)}")
        if result is not None:
            draw_cuts(self.curve, result, unit, t)
            draw_curve(self.curve, result, unit, t, self._live.sample.old)
        if sample is not None:
            good, bad = _entered(sample)
            for points, colour in ((good, t.ink), (bad, t.fault)):
                if points:
                    x, y = zip(*points)
                    self.curve.item.plot(
                        x, [from_si(v, unit, "temperature") for v in y], pen=None, symbol="o" if colour == t.ink else "d",
                        symbolSize=8 if colour == t.ink else 11, symbolBrush=t.surface, symbolPen=pen(colour, 1.6),
                    )  # fmt: skip
        self.curve.box.autoRange(padding=0.03)
        self.curve.box.setXRange(0, 100, padding=0.0)
        if result is not None:
            label_products(self.curve, result, unit, t)
        self.curve.caption.setText("points: measured   line: smoothed   steps: cuts" if result else "")
        self._draw_density(sample, result)
        self.bars.refresh()

    def _density_unit(self, sample: Sample | None) -> str:
        return (sample.display.density if sample else None) or SETS[self._live.document.display.units]["density"]

    def _draw_density(self, sample: Sample | None, result: CharacterizedSample | None) -> None:
        t = self.theme
        unit = self._density_unit(sample)
        self.density_plot.item.clear()
        self.density_plot.set_titles("", f"Density, {label(unit)}, estimated")
        if result is None:
            return
        percent, value = _density_steps(result, unit)
        self.density_plot.item.plot(percent, value, pen=pen(t.mute, 1.6, Qt.PenStyle.DashLine))
        self.density_plot.box.autoRange(padding=0.06)
        self.density_plot.box.setXRange(0, 100, padding=0.0)

    # -- data ----------------------------------------------------------------------------------------------------

    def _curve_data(self) -> list[Table]:
        sample, result = self._live.current_sample(), self._live.characterized()
        unit = self.points.unit
        out: list[Table] = []
        if sample is not None:
            good, _ = _entered(sample)
            out.append(
                (
                    "measured",
                    ["vol%", label(unit)],
                    [[p for p, _ in good], [from_si(v, unit, "temperature") for _, v in good]],
                )
            )
        if result is not None:
            x = np.linspace(0.0, 1.0, 201)
            y = [from_si(v, unit, "temperature") for v in result.curve.at(x)]
            out.append(("smoothed", ["vol%", label(unit)], [(100 * x).tolist(), y]))
        return out

    def _density_data(self) -> list[Table]:
        result = self._live.characterized()
        unit = self._density_unit(self._live.current_sample())
        if result is None:
            return []
        percent, value = _density_steps(result, unit)
        return [("density", ["vol%", label(unit)], [percent, value])]


def _density_steps(result: CharacterizedSample, unit: str) -> tuple[list[float], list[float]]:
    middle = 50.0 * (result.edges[1:] + result.edges[:-1])
    values = [from_si(c.specific_gravity * WATER_DENSITY_60F, unit, "density") for c in result.cuts]
    return middle.tolist(), values


def _entered(sample: Sample) -> tuple[list[tuple[float, float]], list[tuple[float, float]]]:
    """Return the good and the faulty points that can be drawn, percent and K."""
    rows, percents, temperatures, faults = curve_points(sample)
    good = list(zip(percents, temperatures))
    bad = []
    for row in {f.path[-2] for f in faults if isinstance(f.path[-1], int)} - set(rows):
        cells = sample.distillation.points[row] if isinstance(row, int) else (None, None)
        lonely = sample.model_copy(update={"distillation": sample.distillation.model_copy(update={"points": (cells,)})})
        _, p, t, _ = curve_points(lonely)
        bad += list(zip(p, t))
    return good, bad


def draw_curve(plot: Plot, result: CharacterizedSample, unit: str, t: Theme, old: bool) -> None:
    """Draw the smoothed curve, its continued ends dashed; muted where the result is old."""
    x = np.linspace(0.0, 1.0, 401)
    y = np.array([from_si(v, unit, "temperature") for v in result.curve.at(x)])
    first = result.curve.fraction[1] if result.curve.closed_low else 0.0
    last = result.curve.fraction[-2] if result.curve.closed_high else 1.0
    colour = t.mute if old else t.ink
    inner = (x >= first - 1e-9) & (x <= last + 1e-9)
    plot.item.plot(100 * x[inner], y[inner], pen=pen(colour, 2.0))
    for outer in (x <= first, x >= last):
        if outer.sum() > 1:
            plot.item.plot(100 * x[outer], y[outer], pen=pen(colour, 1.6, Qt.PenStyle.DashLine))


def draw_cuts(plot: Plot, result: CharacterizedSample, unit: str, t: Theme) -> None:
    """Draw the cuts as alternating steps up to their mean boiling point."""
    floor = from_si(float(result.edge_temperatures[0]), unit, "temperature")
    bottom = floor - 0.08 * (from_si(float(result.edge_temperatures[-1]), unit, "temperature") - floor)
    tops = np.array([from_si(c.nbp, unit, "temperature") for c in result.cuts])
    edges = 100 * result.edges
    for offset, alpha in ((0, 58), (1, 30)):
        colour = pg.mkColor(t.accent)
        colour.setAlpha(alpha)
        pick = slice(offset, None, 2)
        bars = pg.BarGraphItem(
            x0=edges[:-1][pick],
            x1=edges[1:][pick],
            y0=np.full(tops[pick].shape, bottom),
            y1=tops[pick],
            pen=None,
            brush=colour,
        )
        plot.item.addItem(bars, ignoreBounds=True)


def label_products(plot: Plot, result: CharacterizedSample, unit: str, t: Theme) -> None:
    """Draw the product limits as lines and name the ranges at the left edge."""
    for product in result.yields:
        low, high = (from_si(v, unit, "temperature") for v in (product.start, product.end))
        if product is not result.yields[-1]:
            plot.item.addItem(pg.InfiniteLine(high, angle=0, pen=pen(t.hair, 1.0)), ignoreBounds=True)
        if product.volume > 0.0:
            ground = pg.mkColor(t.surface)
            ground.setAlpha(150)
            text = pg.TextItem(product.name, color=t.mute, anchor=(0, 0.5), fill=ground)
            text.setPos(1.0, 0.5 * (low + high))
            text.setZValue(-5)
            plot.item.addItem(text, ignoreBounds=True)


def _link(text: str) -> QLabel:
    out = QLabel(text)
    out.setTextInteractionFlags(
        Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
    )
    return out


def summary(live: Live) -> str:
    """Return the one line the trail's card shows."""
    sample = live.current_sample()
    if sample is None:
        return "no sample"
    result = live.characterized()
    count = len([p for p in sample.distillation.points if p != (None, None)])
    text = f"{sample.distillation.method}, {count} points"
    if result is not None:
        unit = sample.display.density or SETS[live.document.display.units]["density"]
        text += f", {format_number(from_si(result.density, unit, 'density'), 3)} {label(unit)}"
    return text
