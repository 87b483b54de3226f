"""The page *Isotherms*: pressure against volume by several equations, with saturation, spinodal, critical and
measured points."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt, QTimer
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QComboBox, QScrollArea, QVBoxLayout, QWidget

from ....document.faults import PathParts
from ....document.references import is_about
from ....eos.building import ENTRIES
from ....remarks import kelvin
from ....units import SETS, QuantityError, format_number, from_si, label, to_si
from ...shell.live import Live
from ...widgets.fields import capital, section
from ...widgets.grid import GridView
from ...widgets.letters import pixels
from ...widgets.plot import Plot, Table, pen
from ...widgets.text_rows import TextRows
from ...widgets.theme import Theme
from ..model.page import NAMES
from ..shared.desk import Action, DeskEntry, register
from ..shared.map_picture import Labels
from ..shared.study_desk import StudyDesk, side_by_side
from .measured_paste import measured_of

Array = NDArray[np.float64]
Answer = dict[str, Any]

AXES = {"volume": "molar volume, cm³/mol", "linear": "molar volume, plain axis", "density": "density, mol/L"}
"""What the horizontal axis may be."""
SETTLE = 60
"""ms after the last change of the view."""
TOP = 1.7
"""How far above the highest critical pressure the picture reaches."""


def colours(theme: Theme) -> dict[str, str]:
    """Return the colour of every equation."""
    palette = (
        theme.accent,
        theme.liquid,
        theme.vapour,
        theme.good,
        theme.fault,
        theme.half,
        theme.mute,
        theme.water,
        theme.hydrate,
    )
    return {name: palette[entry.colour % len(palette)] for name, entry in ENTRIES.items()}


def shade(colour: str, place: int, count: int, theme: Theme) -> QColor:
    """Return the colour of one of several isotherms of an equation: the coldest its own, hotter ones nearer to the
    ground."""
    own, ground = QColor(colour), QColor(theme.surface)
    w = 0.55 * place / max(count - 1, 1)
    return QColor(
        *(
            round((1 - w) * a + w * b)
            for a, b in ((own.red(), ground.red()), (own.green(), ground.green()), (own.blue(), ground.blue()))
        )
    )


class IsothermsDesk(StudyDesk):
    """The sentence above, the picture at the left; at the right what each equation predicts, or the roots that were
    asked for."""

    kinds = ("isotherms", "roots")
    shows = frozenset({"fluid", "selection", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.axis = QComboBox()
        self.axis.setAccessibleName("Horizontal axis")
        for key, words in AXES.items():
            self.axis.addItem(words, key)
        self.axis.activated.connect(lambda _i: self.refresh())
        self.plot = Plot("Isotherms")
        self.plot.data = self._data
        self.plot.view.scene().sigMouseClicked.connect(self._clicked)
        self.plots = [self.plot]
        # Names are placed anew once the view has come to rest.
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self._name_lines)
        self.plot.box.sigResized.connect(lambda *_: self._settle.start(SETTLE))
        self.plot.box.sigRangeChanged.connect(lambda *_: self._settle.start(SETTLE))
        self.deviations_model = TextRows(
            [("deviation, %", "average, worst"), ("pressure", ""), ("liquid", ""), ("vapour", "")]
        )
        self.critical_model = TextRows([("critical point", ""), ("T", ""), ("P", ""), ("V", "")])
        self.roots_model = TextRows(
            [("root", ""), ("Z", ""), ("volume", ""), ("fugacity", ""), ("h − h ideal", ""), ("", "")]
        )
        self.saturation_model = TextRows([("saturation", ""), ("", ""), ("", ""), ("", ""), ("", "")])
        self.deviations, self.critical, self.roots, self.saturation = (
            GridView(m) for m in (self.deviations_model, self.critical_model, self.roots_model, self.saturation_model)
        )
        for grid, name, height in (
            (self.critical, "Critical points", 6),
            (self.deviations, "Deviations", 9),
            (self.roots, "Roots", 4),
            (self.saturation, "Saturation of each isotherm", 9),
        ):
            grid.setAccessibleName(name)
            grid.keep_lines(height, "most_height")
        self.grids = [self.saturation, self.deviations, self.critical, self.roots]
        self.heads = {
            "saturation": section("Saturation of each isotherm"),
            "critical": section("Critical points"),
            "deviations": section("Against measured saturation"),
            "roots": section("Roots"),
        }
        self.root_note = section("Click a point of the picture, or ask for roots", "mute")
        self.root_note.setWordWrap(True)
        self._place: tuple[float, float] | None = None
        side = QWidget()
        right = QVBoxLayout(side)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(6)
        for key, grid in (
            ("saturation", self.saturation),
            ("critical", self.critical),
            ("deviations", self.deviations),
            ("roots", self.roots),
        ):
            right.addWidget(self.heads[key])
            if key == "roots":
                right.addWidget(self.root_note)
            right.addWidget(grid)
        right.addStretch(1)
        area = QScrollArea()
        area.setObjectName("bare")
        area.setWidgetResizable(True)
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        area.setWidget(side)
        picture = QWidget()
        left = QVBoxLayout(picture)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(4)
        left.addWidget(self.plot, 1)
        left.addWidget(self.axis, 0, Qt.AlignmentFlag.AlignLeft)
        self.body = side_by_side(picture, area, (3, 2), (600, 430))
        self.lay_out(self.body)

    @classmethod
    def actions_offered(cls) -> list[Action]:
        return [Action("&Answers", "Draw isotherms", cls.begin_question, "Ctrl+Alt+I", True)]

    # -- the question ----------------------------------------------------------------------------------------------

    def begin_question(self) -> None:
        """Show the isotherms of the chosen fluid, a draft where none are kept."""
        self.host().show_desk("isotherms")

    def take_paste(self, text: str) -> bool:
        """Take measured saturation from the clipboard for the question shown."""
        study, model = self.study(), self._live.model()
        if study is None or model is None or study.kind != "isotherms":
            return False
        try:
            points = measured_of(text, float(model.z @ model.molar_mass))
        except QuantityError as error:
            self.told.setVisible(True)
            self.told.setText(capital(str(error)))
            return True
        self.edit_study({("measured",): points}, "Paste measured saturation")
        return True

    # -- showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the isotherms of the chosen fluid."""
        study = self.show_head()
        self.body.setVisible(study is not None)
        if study is None:
            return
        answer = self.answer()
        roots = study.kind == "roots"
        for key, grid in (
            ("saturation", self.saturation),
            ("critical", self.critical),
            ("deviations", self.deviations),
        ):
            self.heads[key].setVisible(not roots)
            grid.setVisible(not roots)
        self.root_note.setVisible(True)
        self._draw(answer)
        if not roots:
            self._tables(answer)
        self._show_roots()

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
        plot.set_titles(
            AXES[key].split(",")[0].capitalize()
            + AXES[key][AXES[key].index(",") :].replace(", plain axis", ", cm³/mol"),
            f"Pressure, {label(self._unit())}",
        )
        plot.begin()
        if answer is not None and "equations" in answer:
            self._draw_equations(answer)
            self._draw_measured(answer)
            self._fit(answer)
            plot.caption.setText("bar, dash: saturation   dots: spinodal   +: critical   ring: measured")
        elif answer is not None:
            self._draw_roots(answer)
            plot.caption.setText("rings: roots   filled: the stable one")
        plot.end()
        self._settle.start(0)
        study = self.study()
        plot.set_faint(bool(study and self._live.answer(study.name).old))
        plot.theme = t

    def _name_lines(self) -> None:
        """Name every temperature on the isotherm of the first equation, and the equations by their colours in the
        corner."""
        answer = self.answer() or {}
        equations = answer.get("equations", ())
        labels, looks = Labels(self.plot), colours(self.theme)
        self.plot.begin("names")
        (left, right), (low, high) = self.plot.box.viewRange()
        for i, e in enumerate(equations if len(equations) > 1 else ()):
            name, x, y = e["equation"], right - 0.03 * (right - left), high - (0.04 + 0.06 * i) * (high - low)
            self.plot.text(f"equation {name}", NAMES.get(name, name), x, y, looks[name], (1.0, 0.5), bold=True)
        for k, curve in enumerate(equations[0]["isotherms"] if equations else ()):
            V, P = np.array(curve["molar_volume_m3_mol"]), np.array(curve["pressure_Pa"])
            # From the top of the picture down, where the isotherms are farthest apart.
            order = np.argsort(V)
            colour = shade(looks[equations[0]["equation"]], k, len(equations[0]["isotherms"]), self.theme).name()
            at = self._live.units().text(kelvin(curve["temperature_K"]))
            labels.on_line(f"name {k}", at, self._x(V[order]), self._y(P[order]), colour, 0.06)
        self.plot.end()

    def _draw_equations(self, answer: Answer) -> None:
        looks = colours(self.theme)
        for e in answer["equations"]:
            name, colour = e["equation"], looks[e["equation"]]
            for k, curve in enumerate(e["isotherms"]):
                V, P = np.array(curve["molar_volume_m3_mol"]), np.array(curve["pressure_Pa"])
                at = self._live.units().text(kelvin(curve["temperature_K"]))
                self.plot.line(
                    f"{name} {k}",
                    self._x(V),
                    self._y(P),
                    pen(shade(colour, k, len(e["isotherms"]), self.theme), 1.6),
                    name=f"{NAMES.get(name, name)}, {at}",
                )
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
            for k, curve in enumerate(e["isotherms"]):
                if curve.get("at_measured") and name == answer["equations"][0]["equation"]:
                    self._draw_measured_pressure(k, curve["at_measured"], curve["molar_volume_m3_mol"])
                for m, point in enumerate(curve.get("marks", ())):
                    where = self._x(np.array([point["molar_volume_m3_mol"]])), self._y(np.array([point["pressure_Pa"]]))
                    self.plot.dots(
                        f"mark {name} {k} {m}",
                        *where,
                        pen(colour, 1.6),
                        "o" if point["kind"] == "bubble" else "d",
                        8.0,
                        self.theme.surface,
                    )
            c = e["critical"]
            if c is not None:
                mark = self._x(np.array([c["molar_volume_m3_mol"]])), self._y(np.array([c["pressure_Pa"]]))
                self.plot.dots(f"critical {name}", *mark, pen(colour, 1.6), "+", 10)

    def _draw_measured_pressure(self, k: int, roots: Mapping[str, float | None], volumes: Sequence[float]) -> None:
        """Draw the measured saturation pressure of an isotherm as a line, with the roots of the first equation on
        it."""
        found = [v for key in ("liquid_m3_mol", "vapour_m3_mol") if (v := roots[key]) is not None]
        level = np.full(2, roots["pressure_Pa"] or 0.0)
        ends = np.array([min(volumes), max(found)]) if found else np.array([min(volumes), max(volumes)])
        self.plot.line(
            f"measured P {k}",
            self._x(ends),
            self._y(level),
            pen(self.theme.ink, 1.0, Qt.PenStyle.DashLine),
            name="measured saturation pressure",
        )
        if found:
            at = np.array(found)
            self.plot.dots(
                f"measured P {k}",
                self._x(at),
                self._y(np.full(at.size, level[0])),
                pen(self.theme.ink, 1.4),
                "s",
                7.0,
                self.theme.surface,
            )

    def _draw_roots(self, answer: Answer) -> None:
        """Draw the isotherm that the roots are on, the pressure asked, and the roots."""
        t, plot = self.theme, self.plot
        curve = answer.get("isotherm") or {"molar_volume_m3_mol": [], "pressure_Pa": []}
        V, P = np.array(curve["molar_volume_m3_mol"]), np.array(curve["pressure_Pa"])
        plot.line("roots isotherm", self._x(V), self._y(P), pen(t.accent, 1.8), name="isotherm")
        level = float(self._y(np.array([answer["pressure_Pa"]]))[0])
        plot.level("asked", level, pen(t.mute, 1.2, Qt.PenStyle.DashLine))
        real = [r for r in answer["roots"] if "stable" in r]
        for i, r in enumerate(real):
            x = self._x(np.array([r["molar_volume_m3_mol"]]))
            plot.dots(f"root {i}", x, [level], pen(t.ink, 1.8), "o", 11.0, t.ink if r["stable"] else t.surface)
        if not V.size or not real:
            return
        volumes = np.array([r["molar_volume_m3_mol"] for r in real])
        ends = sorted(self._x(np.array([0.75 * volumes.min(), 2.2 * volumes.max()])).tolist())
        plot.fit_x(ends[0], ends[1])
        plot.fit_y(min(0.0, -0.4 * level), 2.2 * level)

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
        self._saturations(answer)
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
                header.resizeSection(column, pixels(width))
            header.setSectionResizeMode(0, header.ResizeMode.Stretch)

    def _saturations(self, answer: Answer | None) -> None:
        """Show the saturation of each isotherm by each equation, with both volumes."""
        rows = []
        for e in answer["equations"] if answer is not None else []:
            for curve in e["isotherms"]:
                s = curve["saturation"]
                T = self._told(curve["temperature_K"], "temperature")
                name = NAMES.get(e["equation"], e["equation"])
                if s is None:
                    there = curve.get("at_measured")
                    rows.append([name, T, *(self._at_measured(there) if there else ["", "above Tc", ""])])
                else:
                    rows.append(
                        [
                            name,
                            T,
                            self._told(s["pressure_Pa"], "pressure"),
                            self._told(s["liquid_m3_mol"], "molar_volume"),
                            self._told(s["vapour_m3_mol"], "molar_volume"),
                        ]
                    )
        own = self._heads(
            ("T", "temperature"), ("P", "pressure"), ("liquid", "molar_volume"), ("vapour", "molar_volume")
        )
        self.saturation_model.show(rows, set(), [("equation", ""), *own])
        there = bool(rows)
        self.heads["saturation"].setVisible(there)
        self.saturation.setVisible(there)
        self.heads["deviations"].setVisible(self.deviations_model.rows() > 0)

    def _at_measured(self, roots: Mapping[str, float | None]) -> list[str]:
        """Return the measured pressure and the roots at it."""
        told = ["no liquid root here", "no vapour root"]
        for i, key in enumerate(("liquid_m3_mol", "vapour_m3_mol")):
            value = roots[key]
            if value is not None:
                told[i] = self._told(value, "molar_volume")
        return [self._told(roots["pressure_Pa"] or 0.0, "pressure"), *told]

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
        """Ask for the roots at a point of the picture: at its pressure, on the isotherm that passes nearest to it."""
        answer, study = self.answer(), self.study()
        if answer is None or study is None or not answer.get("equations"):
            return
        pressure = to_si(point.y(), self._unit(), "pressure")
        best: tuple[float, float, str] | None = None
        (x0, x1), (y0, y1) = self.plot.box.viewRange()
        for e in answer["equations"]:
            for curve in e["isotherms"]:
                x, y = self._x(np.array(curve["molar_volume_m3_mol"])), self._y(np.array(curve["pressure_Pa"]))
                distance = float(np.min(((x - point.x()) / (x1 - x0)) ** 2 + ((y - point.y()) / (y1 - y0)) ** 2))
                if best is None or distance < best[0]:
                    best = distance, curve["temperature_K"], e["equation"]
        if best is not None and pressure > 0.0:
            self.ask_roots(best[1], pressure, best[2])

    def ask_roots(self, T: float, P: float, equation: str) -> None:
        """Show a draft of the roots at T K and P Pa by an equation."""
        units = self._live.units()
        self.turn_to("roots")
        study = self.study()
        if study is None or study.kind != "roots":
            return
        cells: dict[PathParts, object] = {("equation",): equation, ("molar_volume",): None}
        for key, value in (("temperature", T), ("pressure", P)):
            unit = units.unit(key)
            cells[(key,)] = f"{from_si(value, unit, key):.5g} {unit}"
        self.edit_study(cells, "Ask for roots")

    def _show_roots(self) -> None:
        answer, study = self.answer(), self.study()
        there = answer is not None and study is not None and study.kind == "roots"
        self.heads["roots"].setVisible(there)
        self.roots.setVisible(there)
        if not there or answer is None:
            self.root_note.setText("Click a point of the picture for every root there.")
            self.roots_model.show([])
            return
        rows, bold = [], set()
        for i, r in enumerate(answer["roots"]):
            imaginary = r["Z_imaginary"]
            z = f"{r['Z_real']:.4f}" + (f" {'+' if imaginary > 0 else '−'} {abs(imaginary):.4f} i" if imaginary else "")
            if "stable" in r:
                rows.append(
                    [
                        f"{i + 1}",
                        z,
                        self._told(r["molar_volume_m3_mol"], "molar_volume"),
                        self._told(r["fugacity_Pa"], "pressure"),
                        self._told(r["enthalpy_departure_J_mol"], "enthalpy"),
                        "stable" if r["stable"] else "",
                    ]
                )
                if r["stable"]:
                    bold.add(i)
            else:
                rows.append([f"{i + 1}", z, "", "", "", "complex" if imaginary else "too dense"])
        own = self._heads(("volume", "molar_volume"), ("fugacity", "pressure"), ("h − h ideal", "enthalpy"))
        self.roots_model.show(rows, bold, [("root", ""), ("Z", ""), *own, ("", "")])
        told = ""
        if "coefficients" in answer:
            c = [format_number(v, 4) for v in answer["coefficients"]]
            told = f"A {answer['A']:.4f}, B {answer['B']:.4f}; Z³ + ({c[1]}) Z² + ({c[2]}) Z + ({c[3]}) = 0. "
        self.root_note.setText(told + "The stable root has the least fugacity.")

    def _data(self) -> list[Table]:
        answer = self.answer()
        out: list[Table] = []
        for e in answer.get("equations", ()) if answer is not None else []:
            for curve in e["isotherms"]:
                name = f"{e['equation']}, {self._live.units().text(kelvin(curve['temperature_K'], 2))}"
                out.append(
                    (name, ["molar volume m3/mol", "pressure Pa"], [curve["molar_volume_m3_mol"], curve["pressure_Pa"]])
                )
        return out


def _percent(value: float) -> str:
    return f"{value:.2f}" if value < 10.0 else f"{value:.1f}" if value < 100.0 else f"{value:.0f}"


def _line(live: Live) -> str:
    count = sum(s.kind == "isotherms" and is_about(s, live.fluid_name) for s in live.kept())
    return f"{count} kept" if count else "none drawn"


register(
    DeskEntry(
        key="isotherms", title="Isotherms", order=46, make=IsothermsDesk, card="answers", needs="fluid", kinds=IsothermsDesk.kinds, mark=lambda _live: "done",
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
