"""The page *Hydrates*: limits of each structure fanned by dose, what to hold, and the dose as a handle to drag."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QSlider, QVBoxLayout, QWidget

from ....document import Study
from ....remarks import kelvin
from ....results.hydrates import own_name
from ....solids.inhibitors import INHIBITORS, most
from ....units import label
from ...shell.live import Live
from ...widgets.fields import section
from ...widgets.plot import Table, pen
from ..shared.desk import DeskEntry, register
from ..shared.hydrate_fan import declared
from ..shared.limit_picture import draw_hydrates, label_hydrates, short, short_names
from ..shared.map_picture import Labels
from ..shared.sheet_desk import FanDesk

STEPS = 10
"""Of the handle, in one percent by mass."""


class HydratesDesk(FanDesk):
    """Hydrate limits and doses."""

    kinds = ("hydrate", "inhibitor_dose", "water_content")
    name = "Hydrates"
    shows = frozenset({"selection", "answer", "hydrate fan"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.plots[0].data = self._data

    def extras(self, column: QVBoxLayout) -> None:
        """Add the handle of the dose."""
        self.handle_box = QWidget()
        layout = QVBoxLayout(self.handle_box)
        layout.setContentsMargins(0, 0, 0, 0)
        row = QHBoxLayout()
        self.dosed = section("", "mute")
        self.dose_words = section("", "mute")
        self.handle = QSlider(Qt.Orientation.Horizontal)
        self.handle.setAccessibleName("Dose, percent by mass of the aqueous liquid")
        self.handle.valueChanged.connect(self._dragged)
        row.addWidget(self.handle, 1)
        layout.addWidget(self.dose_words)
        layout.addLayout(row)
        layout.addWidget(self.dosed)
        column.addWidget(self.handle_box)

    def _inhibitor(self, study: Study) -> str:
        """Return the inhibitor that the handle doses: the first alcohol or glycol that is there, else methanol."""
        asked = self._live.asked(study)
        dose = getattr(asked, "dose", ())
        return next((n for n, _ in dose if n in INHIBITORS), "methanol")

    def _dragged(self, value: int) -> None:
        study = self.study()
        if study is None or study.kind != "hydrate":
            return
        name, dose = self._inhibitor(study), dict(getattr(study, "inhibitors", {}))
        if getattr(self._live.asked(study), "dose", None) is None:
            return
        key = next((k for k in dose if own_name(k) == name), name)
        dose.pop(key, None)
        if value:
            dose[key] = f"{value / STEPS:g} wt%"
        self.edit_study({("inhibitors",): dose}, "Drag the dose", f"dose of {study.name}")

    def refresh(self) -> None:
        super().refresh()
        study = self.study()
        self.handle_box.setVisible(study is not None and study.kind == "hydrate")
        if study is not None and study.kind == "hydrate":
            name = self._inhibitor(study)
            share = dict(getattr(self._live.asked(study), "dose", ())).get(name, 0.0)
            self.handle.blockSignals(True)
            self.handle.setRange(0, round(100 * STEPS * most(name)))
            if not self.handle.isSliderDown():
                self.handle.setValue(round(100 * STEPS * share))
            self.handle.blockSignals(False)
            self.dose_words.setText(f"{name[:1].upper()}{name[1:]} in the water")
            self.dosed.setText(f"{100 * share:.1f} wt%")

    def sentence(self, study: Study, answer: dict[str, Any]) -> str:
        """Return what to hold, and what it would be without the dose."""
        told = super().sentence(study, answer)
        lines, asked = self.lines(), self._live.asked(study)
        if study.kind != "hydrate" or lines is None or not getattr(asked, "dose", ()) or not asked.pressures:
            return told
        highest = max(asked.pressures)
        free = lines.first[0]
        good = np.isfinite(free)
        if not good.any() or not lines.P[good].min() <= highest <= lines.P[good].max():
            return told
        T = float(np.interp(np.log(highest), np.log(lines.P[good]), free[good]))
        return f"{told} Without {short_names(asked.dose)} it would be {self._live.units().text(kelvin(T))}."

    def draw(self, study: Study, answer: dict[str, Any] | None) -> None:
        """Draw limits by dose, and what was asked as points on them."""
        plot, frame, lines = self.plots[0], self.frame(), self.lines()
        plot.set_titles(f"Temperature, {label(frame.temperature)}", f"Pressure, {label(frame.pressure)}")
        plot.set_logarithmic(True)
        frame = type(frame)(frame.temperature, frame.pressure, True)
        if lines is None:
            plot.wipe()  # what is asked has no place without its limits
            return
        plot.begin("lines")
        draw_hydrates(plot, frame, self.theme, lines, self.main(study, lines))
        T = lines.first[np.isfinite(lines.first)]
        if T.size:
            x0, y0 = frame.xy(T.min() - 4.0, float(lines.P[0]))
            x1, y1 = frame.xy(T.max() + 8.0, float(lines.P[-1]))
            plot.fit_x(float(x0[0]), float(x1[0]))
            plot.fit_y(float(y0[0]), float(y1[0]))
        for i, (t, p) in enumerate(self._points(study, answer)):
            plot.dots(f"asked {i}", *frame.xy(t, p), pen(self.theme.ink, 1.6), "o", 8.0, self.theme.surface)
        plot.end()

    def _points(self, study: Study, answer: dict[str, Any] | None) -> list[tuple[float, float]]:
        if answer is None:
            return []
        if "points" in answer:
            return [(p["temperature_K"], p["pressure_Pa"]) for p in answer["points"] if p["stable"]]
        if "rows" in answer:
            return [(r["temperature_K"], r["pressure_Pa"]) for r in answer["rows"]]
        asked = self._live.asked(study)
        return [(asked.T, asked.P)] if asked is not None else []

    def draw_labels(self) -> None:
        lines, plot = self.lines(), self.plots[0]
        frame = self.frame()
        plot.begin("labels")
        if lines is not None:
            labels, frame = Labels(plot), type(frame)(frame.temperature, frame.pressure, True)
            study = self.study()
            for T, P in self._points(study, self.answer()) if study is not None else []:
                x, y = frame.xy(T, P)
                labels.reserve(float(x[0]), float(y[0]))
            label_hydrates(labels, frame, self.theme, lines)
        plot.end()

    def _data(self) -> list[Table]:
        lines = self.lines()
        if lines is None:
            return []
        frame = type(self.frame())(self.frame().temperature, self.frame().pressure, False)
        names = [label(frame.temperature), label(frame.pressure)]
        out: list[Table] = []
        for d, dose in enumerate(lines.doses):
            good = np.isfinite(lines.first[d])
            x, y = frame.xy(lines.first[d, good], lines.P[good])
            out.append((short(dose) or "hydrate", names, [x.tolist(), y.tolist()]))
        return out


def _line(live: Live) -> str:
    asked = sum(s.kind in HydratesDesk.kinds for s in live.kept())
    return f"{asked} question{'s' if asked != 1 else ''}"


register(
    DeskEntry(
        declares=(declared,),
        key="hydrates", title="Hydrates", order=47, apart=True, make=HydratesDesk, mark=lambda _live: "done", line=_line, card="answers", needs="fluid",
        kinds=HydratesDesk.kinds,
        help=(
            "Left of the violet line hydrates form: the shaded side is where a line plugs.",
            "The strong lines are those without inhibitor and with the dose asked; dashes are other doses, dots the structure that forms later.",
            "Drag the handle of the dose: line, sentence and table follow; it is one step that can be undone.",
            "Inhibitors are typed as methanol 20 wt%, NaCl 3 wt%: percent by mass of the aqueous liquid, all of it together 100.",
            "Alcohols, glycols and chlorides are known, each up to where its activities were measured; beyond that it says so.",
            "Ask for an inhibitor dose at a temperature and pressure with a margin: the least that keeps hydrates away.",
            "With a water rate and a fluid rate the dose is split between water, vapour and condensate.",
            "Free water is assumed unless the water is as given: then hydrates form of what the fluid has.",
            "The blue line is ice: below it the water itself freezes. Water content tells how much a gas holds before any of them forms.",
            "The same limits are a layer of the map.",
        ),
    )
)  # fmt: skip
