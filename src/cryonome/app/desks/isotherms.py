"""The page *Isotherms*: pressure against volume by several equations, with saturation, spinodal, critical and measured points."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from ...document import Study
from ...document.edits import add_study, set_at, study_path
from ...document.field_types import Cell
from ...document.kinds import study_kinds
from ...document.references import is_about
from ...eos.building import ENTRIES, EQUATIONS
from ...remarks import kelvin
from ...studies.beginning import begun
from ...studies.kinds.roots import roots_answer
from ...units import SETS, QuantityError, format_number, from_si, label, to_si
from ...wording.entry import entry_of, taken
from ..fields import capital, chip_button, elided, section
from ..grid import GridView
from ..live import Live
from ..plot import Plot, Table, pen
from ..text_rows import TextRows
from ..theme import Theme
from .desk import Action, Desk, DeskEntry, register
from .measured_paste import measured_of
from .model import NAMES

Array = NDArray[np.float64]
Answer = dict[str, Any]

AXES = {"volume": "molar volume, cm³/mol", "linear": "molar volume, plain axis", "density": "density, mol/L"}
"""What the horizontal axis may be."""
TOP = 1.7
"""How far above the highest critical pressure the picture reaches."""


def colours(theme: Theme) -> dict[str, str]:
    """Return the colour of every equation."""
    palette = (theme.accent, theme.liquid, theme.vapour, theme.good, theme.fault, theme.half, theme.mute)
    return {name: palette[entry.colour % len(palette)] for name, entry in ENTRIES.items()}


class IsothermsDesk(Desk):
    """Choices above, the picture at the left, deviations and the roots under the last click at the right."""

    shows = frozenset({"fluid", "selection", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.title = section("Isotherms", "title")
        self.temperatures = QLineEdit()
        self.temperatures.setAccessibleName("Temperatures")
        self.temperatures.setPlaceholderText("temperatures, for example 0 degC, 31 degC, 60 degC")
        self.temperatures.editingFinished.connect(self._store_temperatures)
        self.axis = QComboBox()
        self.axis.setAccessibleName("Horizontal axis")
        for key, words in AXES.items():
            self.axis.addItem(words, key)
        self.axis.activated.connect(lambda _i: self.refresh())
        self.chips = {
            n: chip_button(NAMES.get(n, n), lambda _on, n=n: self._toggle(n), EQUATIONS[n]) for n in EQUATIONS
        }
        self.begin_button = QPushButton("Draw the isotherms of this fluid")
        self.begin_button.clicked.connect(self.begin_question)
        self.fault = section("", "fault")
        self.fault.setWordWrap(True)
        self.plot = Plot("Isotherms")
        self.plot.data = self._data
        self.plot.view.scene().sigMouseClicked.connect(self._clicked)
        self.plots = [self.plot]
        self.deviations_model = TextRows(
            [("deviation, %", "average, worst"), ("pressure", ""), ("liquid", ""), ("vapour", "")]
        )
        self.critical_model = TextRows([("critical point", ""), ("T", ""), ("P", ""), ("V", "")])
        self.roots_model = TextRows(
            [("root", ""), ("Z", ""), ("volume", ""), ("fugacity", ""), ("h − h ideal", ""), ("", "")]
        )
        self.deviations, self.critical, self.roots = (
            GridView(m) for m in (self.deviations_model, self.critical_model, self.roots_model)
        )
        for grid, name, height in (
            (self.critical, "Critical points", 6), (self.deviations, "Deviations", 5), (self.roots, "Roots", 4),
        ):  # fmt: skip
            grid.setAccessibleName(name)
            grid.setMaximumHeight(36 + height * 24 + 3)
        self.grids = [self.deviations, self.critical, self.roots]
        self.root_head, self.root_note = section("Roots"), section("Click a point of the picture", "mute")
        self.root_note.setWordWrap(True)
        self._place: tuple[float, float] | None = None
        top = QHBoxLayout()
        top.setSpacing(8)
        top.addWidget(self.title)
        top.addSpacing(8)
        top.addWidget(self.temperatures, 1)
        top.addWidget(self.axis)
        chips = QHBoxLayout()
        chips.setSpacing(6)
        for chip in self.chips.values():
            chips.addWidget(chip)
        chips.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(section("What each equation predicts"))
        right.addWidget(self.critical)
        right.addWidget(section("Against measured saturation"))
        right.addWidget(self.deviations)
        right.addWidget(self.root_head)
        right.addWidget(self.root_note)
        right.addWidget(self.roots)
        right.addStretch(1)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(self.plot, 3)
        body.addLayout(right, 2)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(8)
        layout.addLayout(top)
        layout.addLayout(chips)
        layout.addWidget(self.begin_button, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self.fault)
        layout.addLayout(body, 1)

    def actions_offered(self) -> list[Action]:
        return [Action("&Answers", "Draw isotherms", self.begin_question, "Ctrl+Alt+I", True)]

    # -- the question ----------------------------------------------------------------------------------------------

    def study(self) -> Study | None:
        """Return the question of isotherms about the chosen fluid: the chosen one, else the first."""
        return self._live.study_about("isotherms")

    def begin_question(self) -> None:
        """Ask for isotherms of the chosen fluid where none are kept, and show them."""
        fluid = self._live.current_fluid()
        if fluid is not None and self.study() is None:
            model = self._live.model()
            at = None if model is None else (float(model.z @ [c.Tc for c in model.components]) * 0.95, 1e6)
            new = begun(study_kinds()["isotherms"], fluid.name, at, self._live.units())
            self._live.store.edit("Draw isotherms", lambda d: add_study(d, new))
        self.host().show_desk("isotherms")

    def _edit(self, key: str, value: object) -> None:
        study = self.study()
        if study is not None:
            path = (*study_path(self._live.document, study.name), key)
            self._live.store.edit(f"Change the {key}", lambda d: set_at(d, path, value))

    def _store_temperatures(self) -> None:
        study = self.study()
        cells = self._typed_temperatures(getattr(study, "temperatures", ()))
        if study is not None and cells != getattr(study, "temperatures", ()):
            self._edit("temperatures", cells)

    def _typed_temperatures(self, now: Sequence[Cell]) -> tuple[Cell, ...]:
        """Return the temperatures typed; bare numbers have the unit of those that stand there, else the reader's."""
        units = self._live.units()
        unit = next((u for c in now if (u := entry_of(c, "temperature", units).unit)), units.unit("temperature"))
        typed = self.temperatures.text().replace(";", ",").split(",")
        return tuple(taken(t, unit) for t in typed if t.strip())

    def _toggle(self, name: str) -> None:
        study, fluid = self.study(), self._live.current_fluid()
        if study is None or fluid is None:
            return
        now = list(getattr(study, "equations", ())) or [fluid.model.eos]
        kept = [n for n in now if n != name] if name in now else [*now, name]
        self._edit("equations", tuple(kept))

    def take_paste(self, text: str) -> bool:
        """Take measured saturation from the clipboard for the question shown."""
        study, model = self.study(), self._live.model()
        if study is None or model is None:
            return False
        try:
            points = measured_of(text, float(model.z @ model.molar_mass))
        except QuantityError as error:
            self.fault.setVisible(True)
            self.fault.setText(capital(str(error)))
            return True
        self._edit("measured", points)
        return True

    # -- showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the isotherms of the chosen fluid."""
        study, fluid = self.study(), self._live.current_fluid()
        self.title.setText(f"Isotherms of {elided(fluid.name, 30)}" if fluid else "Isotherms")
        self.begin_button.setVisible(study is None and fluid is not None)
        for part in (self.temperatures, self.axis, *self.chips.values()):
            part.setVisible(study is not None)
        answer = self._answer()
        shown = None if study is None else self._live.answer(study.name)
        told = "" if shown is None else shown.error or (shown.faults[0].message if shown.faults else "")
        self.fault.setVisible(bool(told))
        self.fault.setText(capital(told) if told else "")
        if study is not None and fluid is not None:
            cells = getattr(study, "temperatures", ())
            if not self.temperatures.hasFocus():
                self.temperatures.setText(
                    ", ".join(entry_of(c, "temperature", self._live.units()).whole for c in cells)
                )
            chosen = set(getattr(study, "equations", ())) or {fluid.model.eos}
            for name, chip in self.chips.items():
                chip.setChecked(name in chosen)
                chip.setStyleSheet(
                    f"QToolButton {{ border: 1px solid {self.theme.hair}; border-radius: 11px; padding: 2px 10px; "
                    f"color: {self.theme.mute}; }} QToolButton:checked {{ color: {self.theme.surface}; "
                    f"background: {colours(self.theme)[name]}; }}"
                )
        self._draw(answer)
        self._tables(answer)
        self._show_roots()

    def _answer(self) -> Answer | None:
        study = self.study()
        shown = None if study is None else self._live.answer(study.name)
        value = None if shown is None else shown.value
        return value if value and value.get("ok") else None

    def _x(self, volume: Array) -> Array:
        key = str(self.axis.currentData())
        if key == "density":
            return np.asarray(1e-3 / volume)
        return np.asarray(np.log10(1e6 * volume) if key == "volume" else 1e6 * volume)

    def _unit(self) -> str:
        return SETS[self._live.document.display.units]["pressure"]

    def _y(self, pressure: Array) -> Array:
        return np.asarray(from_si(1.0, self._unit(), "pressure") * pressure)

    def _draw(self, answer: Answer | None) -> None:
        t, plot = self.theme, self.plot
        key = str(self.axis.currentData())
        plot.item.getAxis("bottom").setLogMode(key == "volume")
        plot.set_titles(AXES[key].split(",")[0].capitalize() + AXES[key][AXES[key].index(",") :].replace(", plain axis", ", cm³/mol"),
                        f"Pressure, {label(self._unit())}")  # fmt: skip
        plot.begin()
        if answer is not None:
            self._draw_equations(answer)
            self._draw_measured(answer)
            self._fit(answer)
        plot.end()
        plot.caption.setText("bar, dash: saturation   dots: spinodal   +: critical   ring: measured")
        study = self.study()
        plot.set_faint(bool(study and self._live.answer(study.name).old))
        plot.theme = t

    def _draw_equations(self, answer: Answer) -> None:
        looks = colours(self.theme)
        for e in answer["equations"]:
            name, colour = e["equation"], looks[e["equation"]]
            for k, curve in enumerate(e["isotherms"]):
                V, P = np.array(curve["molar_volume_m3_mol"]), np.array(curve["pressure_Pa"])
                self.plot.line(f"{name} {k}", self._x(V), self._y(P), pen(colour, 1.4))
                s = curve["saturation"]
                if s is not None:
                    ends = np.array([s["liquid_m3_mol"], s["vapour_m3_mol"]])
                    if name == answer["equations"][0]["equation"]:
                        self._shade(f"{name} {k}", V, P, ends, s["pressure_Pa"], colour)
                    self.plot.line(
                        f"tie {name} {k}", self._x(ends), self._y(np.full(2, s["pressure_Pa"])), pen(colour, 2.2)
                    )
            dome = e.get("saturation_line")
            if dome is not None:
                V = np.array(dome["liquid_m3_mol"] + dome["vapour_m3_mol"][::-1], dtype=float)
                P = np.array(dome["pressure_Pa"] + dome["pressure_Pa"][::-1], dtype=float)
                there = np.isfinite(V) & np.isfinite(P)
                look = pen(colour, 1.0, Qt.PenStyle.DashLine)
                self.plot.line(f"dome {name}", self._x(V[there]), self._y(P[there]), look)
                inner = e["spinodal"]
                look = pen(colour, 1.0, Qt.PenStyle.DotLine)
                volume, pressure = np.array(inner["molar_volume_m3_mol"]), np.array(inner["pressure_Pa"])
                self.plot.line(f"spinodal {name}", self._x(volume), self._y(pressure), look)
            for side in ("bubble_lines", "dew_lines"):
                for k, locus in enumerate(e.get(side, ())):
                    volume, pressure = np.array(locus["molar_volume_m3_mol"]), np.array(locus["pressure_Pa"])
                    look = pen(colour, 1.0, Qt.PenStyle.DashLine)
                    self.plot.line(f"{side} {name} {k}", self._x(volume), self._y(pressure), look)
            c = e["critical"]
            if c is not None:
                at = self._x(np.array([c["molar_volume_m3_mol"]])), self._y(np.array([c["pressure_Pa"]]))
                self.plot.dots(f"critical {name}", *at, pen(colour, 1.6), "+", 10)

    def _shade(self, key: str, V: Array, P: Array, ends: Array, level: float, colour: str) -> None:
        """Fill the areas between an isotherm's loop and its saturation pressure: equal in plain volume."""
        inside = (ends[0] <= V) & (ends[1] >= V)
        fill = QColor(colour)
        fill.setAlphaF(0.14)
        self.plot.area(key, self._x(V[inside]), self._y(P[inside]), float(self._y(np.array(level))), fill)

    def _draw_measured(self, answer: Answer) -> None:
        measured = answer.get("measured")
        if measured is None:
            return
        P = np.array(measured["pressure_Pa"], dtype=float)
        for side in ("liquid", "vapour"):
            V = np.array(measured[f"{side}_m3_mol"], dtype=float)
            there = np.isfinite(V) & np.isfinite(P)
            self.plot.dots(f"measured {side}", self._x(V[there]), self._y(P[there]), pen(self.theme.ink, 1.2), "o", 6)
        c = answer.get("measured_critical")
        if c is not None:
            at = self._x(np.array([c["molar_volume_m3_mol"]])), self._y(np.array([c["pressure_Pa"]]))
            self.plot.dots("measured critical", *at, pen(self.theme.ink, 1.8), "x", 9)

    def _fit(self, answer: Answer) -> None:
        critical = [e["critical"] for e in answer["equations"] if e["critical"] is not None]
        curves = [np.array(c["molar_volume_m3_mol"]) for e in answer["equations"] for c in e["isotherms"]]
        if critical:
            Pc, Vc = max(c["pressure_Pa"] for c in critical), max(c["molar_volume_m3_mol"] for c in critical)
        else:
            Pc, Vc = 5e6, float(np.median(np.concatenate(curves)))
        low = min(float(v.min()) for v in curves)
        key = str(self.axis.currentData())
        ends = (low, 40.0 * Vc) if key == "volume" else (low, 8.0 * Vc)
        x = sorted(self._x(np.array(ends)).tolist())
        self.plot.fit_x(x[0], x[1])
        self.plot.fit_y(0.0, float(self._y(np.array(TOP * Pc))))

    def _tables(self, answer: Answer | None) -> None:
        rows, off = [], []
        for e in answer["equations"] if answer is not None else []:
            name, c = NAMES.get(e["equation"], e["equation"]), e["critical"]
            values = ["none"] * 3 if c is None else self._critical_texts(c)
            rows.append([name, *values])
            d = e.get("deviations_percent")
            if d:
                told = [
                    f"{_percent(d[k]['average'])}, {_percent(d[k]['worst'])}" if k in d else ""
                    for k in ("pressure", "liquid", "vapour")
                ]
                off.append([name, *told])
        c = (answer or {}).get("measured_critical")
        if c is not None:
            rows.append(["measured", *self._critical_texts(c)])
        titles = [("critical point", ""), *self._heads(("T", "temperature"), ("P", "pressure"), ("V", "molar_volume"))]
        self.critical_model.show(rows, {len(rows) - 1} if c is not None else set(), titles)
        self.deviations_model.show(off)
        for grid, widths in (
            (self.critical, (130, 84, 84, 84)),
            (self.deviations, (130, 84, 84, 84)),
            (self.roots, (36, 62, 70, 64, 78, 62)),
        ):
            header = grid.horizontalHeader()
            for column, width in enumerate(widths):
                header.setSectionResizeMode(column, header.ResizeMode.Fixed)
                header.resizeSection(column, width)
            header.setSectionResizeMode(0, header.ResizeMode.Stretch)

    def _heads(self, *columns: tuple[str, str]) -> list[tuple[str, str]]:
        """Return titles with the reader's unit of each kind."""
        units = self._live.units()
        return [(title, label(units.unit(kind))) for title, kind in columns]

    def _told(self, value: float, kind: str, digits: int = 4) -> str:
        """Return an SI value in the reader's unit."""
        return format_number(from_si(value, self._live.units().unit(kind), kind), digits)

    def _critical_texts(self, point: Mapping[str, float]) -> list[str]:
        return [
            self._told(point["temperature_K"], "temperature", 5),
            self._told(point["pressure_Pa"], "pressure"),
            self._told(point["molar_volume_m3_mol"], "molar_volume"),
        ]

    # -- roots -----------------------------------------------------------------------------------------------------

    def _clicked(self, event: Any) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.look_at(self.plot.box.mapSceneToView(event.scenePos()))

    def look_at(self, point: QPointF) -> None:
        """Show the roots at a point of the picture: at its pressure, on the isotherm that passes nearest to it."""
        answer = self._answer()
        if answer is None or not answer["equations"]:
            return
        pressure = to_si(point.y(), self._unit(), "pressure")
        best: tuple[float, float] | None = None
        (x0, x1), (y0, y1) = self.plot.box.viewRange()
        for curve in answer["equations"][0]["isotherms"]:
            x, y = self._x(np.array(curve["molar_volume_m3_mol"])), self._y(np.array(curve["pressure_Pa"]))
            distance = float(np.min(((x - point.x()) / (x1 - x0)) ** 2 + ((y - point.y()) / (y1 - y0)) ** 2))
            if best is None or distance < best[0]:
                best = distance, curve["temperature_K"]
        if best is not None and pressure > 0.0:
            self._place = best[1], pressure
            self._show_roots()

    def _show_roots(self) -> None:
        model, fluid = self._live.model(), self._live.current_fluid()
        if self._place is None or model is None or fluid is None or self.study() is None:
            self.roots_model.show([])
            return
        T, P = self._place
        answer = roots_answer(model, T, P)
        rows, bold = [], set()
        for i, r in enumerate(answer["roots"]):
            imaginary = r["Z_imaginary"]
            z = f"{r['Z_real']:.4f}" + (f" {'+' if imaginary > 0 else '−'} {abs(imaginary):.4f} i" if imaginary else "")
            if "stable" in r:
                rows.append([
                    f"{i + 1}", z, self._told(r["molar_volume_m3_mol"], "molar_volume"), self._told(r["fugacity_Pa"], "pressure"),
                    self._told(r["enthalpy_departure_J_mol"], "enthalpy"), "stable" if r["stable"] else "",
                ])  # fmt: skip
                if r["stable"]:
                    bold.add(i)
            else:
                rows.append([f"{i + 1}", z, "", "", "", "complex" if imaginary else "too dense"])
        own = self._heads(("volume", "molar_volume"), ("fugacity", "pressure"), ("h − h ideal", "enthalpy"))
        self.roots_model.show(rows, bold, [("root", ""), ("Z", ""), *own, ("", "")])
        units = SETS[self._live.document.display.units]
        where = (
            f"{format_number(from_si(T, units['temperature'], 'temperature'), 4)} {label(units['temperature'])}, "
            + (f"{format_number(from_si(P, units['pressure'], 'pressure'), 4)} {label(units['pressure'])}")
        )
        told = f"By {NAMES.get(fluid.model.eos, fluid.model.eos)} at {where}. "
        if "coefficients" in answer:
            c = [format_number(v, 4) for v in answer["coefficients"]]
            told += f"A {answer['A']:.4f}, B {answer['B']:.4f}; Z³ + ({c[1]}) Z² + ({c[2]}) Z + ({c[3]}) = 0. "
        self.root_note.setText(told + "The stable root has the least fugacity.")

    def _data(self) -> list[Table]:
        answer = self._answer()
        out: list[Table] = []
        for e in answer["equations"] if answer is not None else []:
            for curve in e["isotherms"]:
                name = f"{e['equation']}, {self._live.units().text(kelvin(curve['temperature_K'], 2))}"
                out.append(
                    (name, ["molar volume m3/mol", "pressure Pa"], [curve["molar_volume_m3_mol"], curve["pressure_Pa"]])
                )
        return out


def _percent(value: float) -> str:
    return f"{value:.2f}" if value < 10.0 else f"{value:.1f}" if value < 100.0 else f"{value:.0f}"


def _line(live: Live) -> str:
    count = sum(s.kind == "isotherms" and is_about(s, live.fluid_name) for s in live.document.studies)
    return f"{count} kept" if count else "none drawn"


register(
    DeskEntry(
        key="isotherms", title="Isotherms", order=45, make=IsothermsDesk, card="answers", needs="fluid", mark=lambda _live: "done",
        line=_line,
        help=(
            "Isotherms show pressure against volume as an equation of state gives it, loop and all.",
            "They are a question of the project: temperatures with units, equations chosen by their chips.",
            "The bar of an isotherm is saturation: between its ends the areas above and below the loop are equal.",
            "Dashes are the saturation line, dots the spinodal, where a phase loses its stability; + is the equation's critical point.",
            "Rings are measured saturation: built in for five fluids, or your own: paste columns of temperature, pressure, liquid, vapour.",
            "The tables compare critical points and saturation, average and worst deviation in percent.",
            "Click a point to see every root of the fluid's own equation there, and which is stable.",
            "Volumes are the equations' own, without a shift.",
            "The horizontal axis is volume by powers of ten, plain volume, or density.",
            "Everything is in the answer of the question too, and in `cryonome solve`.",
        ),
    )
)  # fmt: skip
