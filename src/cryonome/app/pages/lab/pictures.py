"""The pictures of the lab desk: the curve or composition, a property along it, and the yields."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout

from ....characterization import CharacterizedSample
from ....characterization.methods import CARBON, METHODS, SHOWN, TWO_PART
from ....document import Sample
from ....units import SETS, from_si, label
from ...shell.live import Live
from ...widgets.layer import STROKES, LayerSquare
from ...widgets.plot import Plot, Table, pen
from ...widgets.theme import LIGHT, Theme
from .carbon_model import CarbonModel
from .carbon_picture import composition, composition_table, draw_composition
from .curve_plots import (
    Property,
    draw_cuts,
    draw_line,
    draw_points,
    draw_property,
    draw_tail,
    entered_points,
    label_products,
    properties,
    property_tables,
    shown_temperatures,
)
from .method_bar import own_basis
from .sheet_model import BASIS_LABELS, SheetModel
from .yield_bars import YieldBars

METHOD_LOOKS = {
    "TBP": ("liquid", "line"),
    "D86": ("vapour", "dash"),
    "D1160": ("water", "dot"),
    "D2887": ("hydrate", "dash"),
    "EFV": ("accent", "dot"),
}
"""Colour of the theme and stroke of the curve by each method."""


def methods_shown(sample: Sample) -> tuple[str, ...]:
    """Return the methods that a sample's curve is drawn as besides its own."""
    chosen = sample.display.shown_as or ()
    return tuple(k for k in SHOWN if k in ((chosen,) if isinstance(chosen, str) else chosen))


class LabPictures:
    """The plots of the chosen sample. ``store`` keeps a choice of display with the sample."""

    def __init__(
        self,
        live: Live,
        points: SheetModel,
        carbon: CarbonModel,
        shown_as: dict[str, LayerSquare],
        store: Callable[[str, str], None],
    ) -> None:
        self._live, self._points, self._carbon, self._shown_as, self._store = live, points, carbon, shown_as, store
        self.theme: Theme = LIGHT
        self.curve = Plot("Boiling curve")
        self.curve.data = self._curve_data
        self.density_plot = Plot("Property curve")
        self.density_plot.data = self._property_data
        self.density_plot.setMinimumHeight(96)
        self.bars = YieldBars(self._live)
        self.property_choice = QComboBox()
        self.property_choice.setAccessibleName("Property shown")
        self.property_choice.activated.connect(lambda _i: self.show_property(str(self.property_choice.currentData())))

    def layout(self) -> QVBoxLayout:
        """Return the layout of the pictures."""
        head = QHBoxLayout()
        head.addWidget(self.property_choice)
        head.addStretch(1)
        lower_left = QVBoxLayout()
        lower_left.setSpacing(2)
        lower_left.addLayout(head)
        lower_left.addWidget(self.density_plot, 1)
        lower = QHBoxLayout()
        lower.setSpacing(24)
        lower.addLayout(lower_left, 1)
        lower.addWidget(self.bars, 1)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(self.curve, 3)
        right.addLayout(lower, 2)
        return right

    @property
    def property_key(self) -> str:
        """The property curve that is shown, kept with the sample."""
        sample = self._live.current_sample()
        return (sample.display.property_shown if sample is not None else None) or "density"

    def show_property(self, key: str) -> None:
        """Draw another property."""
        self._store("property_shown", key)

    def _properties(self, sample: Sample, result: CharacterizedSample) -> list[Property]:
        """Return the property curves that can be drawn, made once of a sample and its cuts."""
        units = self._units(sample)
        key = (properties, sample, result, self._live.document.display)
        return self._live.evaluator.remembered(key, lambda: properties(sample, result, units))

    def draw(self, sample: Sample, theme: Theme) -> None:
        """Draw a sample."""
        self.theme = theme
        result = self._live.characterized()
        carbon = sample.distillation.method == CARBON
        self.curve.begin()
        caption = self._draw_carbon(sample, result) if carbon else self._draw_curve(sample, result)
        self.curve.end()
        self.curve.caption.setText("   ".join(caption))
        self._draw_property(sample, result)
        self.bars.refresh()

    def _draw_carbon(self, sample: Sample, result: CharacterizedSample | None) -> list[str]:
        basis = sample.distillation.basis or own_basis(CARBON)
        self.curve.set_titles("Carbon number (0: no hydrocarbon)", f"Composition, {BASIS_LABELS[basis]}")
        shown = composition(sample, result)
        draw_composition(self.curve, shown, self._live.sample.old, self.theme)
        return ["teal: measured", "plum: split", "frame: plus fraction"]

    def _draw_curve(self, sample: Sample, result: CharacterizedSample | None) -> list[str]:
        unit, t, curve = self._points.unit, self.theme, sample.distillation
        basis = curve.basis or own_basis(curve.method)
        plain = curve.method == "TBP" and basis == "volume"
        self.curve.set_logarithmic(False)
        self.curve.set_titles(
            f"Distilled, {BASIS_LABELS['volume'] if plain else BASIS_LABELS.get(basis, '%')}",
            f"{'Boiling point' if plain else curve.method}, {label(unit)}",
        )
        caption: list[str] = []
        good, bad = entered_points(sample)
        entered = shown_temperatures(np.array([v for _, v in (*good, *bad)]), unit)
        ends = [float(v) for v in entered]
        if result is not None:
            colour = t.mute if self._live.sample.old else t.ink
            ends += draw_cuts(self.curve, result, unit, t)
            if result.entered is not None and not plain:
                draw_line(self.curve, "entered", result.entered, unit, colour)
                draw_line(self.curve, "tbp", result.curve, unit, t.accent, 1.4)
                caption += ["ink: measured", "plum: TBP, vol%"]
            else:
                draw_line(self.curve, "entered", result.curve, unit, colour)
                caption += ["points: measured", "line: smoothed"]
            caption.append("steps: cuts")
            self._draw_shown_as(sample, result, unit, caption)
        draw_points(self.curve, sample, unit, t)
        if curve.method == TWO_PART:
            draw_tail(self.curve, sample, unit, t)
        self.curve.fit_x(0.0, 100.0)
        if ends:
            self.curve.fit_y(min(ends), max(ends), 0.03)
        if result is not None:
            label_products(self.curve, result, unit, t)
        return caption

    def _draw_shown_as(self, sample: Sample, result: CharacterizedSample, unit: str, caption: list[str]) -> None:
        chosen = methods_shown(sample)
        for key, square in self._shown_as.items():
            square.setChecked(key in chosen)
        for key in chosen:
            self._draw_as(key, result, unit, caption)

    def _draw_as(self, key: str, result: CharacterizedSample, unit: str, caption: list[str]) -> None:
        x = np.linspace(0.0, 1.0, 101)
        colour, stroke = METHOD_LOOKS[key]
        look = pen(getattr(self.theme, colour), 1.8, STROKES[stroke])
        T = result.shown_as(key, x)
        there = np.isfinite(T)
        T = np.where(there, shown_temperatures(np.where(there, T, 300.0), unit), np.nan)
        self.curve.line(f"as {key}", 100 * x, T, look, name=f"as {key}")
        at = ", 10 mmHg" if key == "D1160" else ""
        last = x[there].max(initial=0.0)
        end = "" if there[-1] else f", beyond the method above {100 * last:.0f} %"
        end += ", left out where it would fall" if (x[~there] < last).any() else ""
        caption.append(f"as by {key}{at}{end}")

    def _units(self, sample: Sample | None) -> dict[str, str]:
        units = dict(SETS[self._live.document.display.units])
        if sample:
            units.update({k: v for k, v in sample.display.model_dump().items() if v and k in units})
        units["temperature"] = self._points.unit
        return units

    def _draw_property(self, sample: Sample, result: CharacterizedSample | None) -> None:
        found = self._properties(sample, result) if result else []
        if [self.property_choice.itemData(i) for i in range(self.property_choice.count())] != [p.key for p in found]:
            self.property_choice.clear()
            for p in found:
                self.property_choice.addItem(p.title, p.key)
        for i, p in enumerate(found):
            self.property_choice.setItemText(i, p.title)
        chosen = next((p for p in found if p.key == self.property_key), found[0] if found else None)
        self.density_plot.begin()
        if chosen is None:
            self.density_plot.set_titles("", "")
        else:
            self.property_choice.setCurrentIndex(found.index(chosen))
            self.density_plot.set_titles("", f"{chosen.unit}{'' if chosen.measured else ', estimated'}")
            draw_property(self.density_plot, chosen, self.theme)
            self.density_plot.fit_x(0.0, 100.0)
        self.density_plot.end()

    # -- data ----------------------------------------------------------------------------------------------------

    def _curve_data(self) -> list[Table]:
        sample, result = self._live.current_sample(), self._live.characterized()
        unit = self._points.unit
        out: list[Table] = []
        x = np.linspace(0.0, 1.0, 201)
        if sample is not None and sample.distillation.method == CARBON:
            return composition_table(composition(sample, result), self._carbon.titles()[1][1])
        if sample is not None:
            good, _ = entered_points(sample)
            percent = self._points.titles()[0][1]
            values = [from_si(v, unit, "temperature") for _, v in good]
            out.append(("measured", [percent, label(unit)], [[p for p, _ in good], values]))
        if result is not None:
            y = [from_si(v, unit, "temperature") for v in result.curve.at(x)]
            out.append(("TBP", ["vol%", label(unit)], [(100 * x).tolist(), y]))
            for key in methods_shown(sample) if sample is not None else ():
                T = result.shown_as(key, x)
                there = np.isfinite(T)
                y = [from_si(float(v), unit, "temperature") for v in T[there]]
                out.append((key, [BASIS_LABELS[METHODS[key].basis], label(unit)], [(100 * x[there]).tolist(), y]))
        return out

    def _property_data(self) -> list[Table]:
        sample, result = self._live.current_sample(), self._live.characterized()
        found = self._properties(sample, result) if sample and result else []
        return [t for p in found if p.key == self.property_key for t in property_tables(p)]
