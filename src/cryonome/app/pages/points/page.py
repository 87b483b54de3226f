"""The page *Points*: where a fluid boils or condenses, on its envelope."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QWidget

from ....document import Study
from ....equilibrium.phase_map import PhaseMap
from ....telling.answers import tables
from ....telling.table_blocks import Block, of_key
from ....units import label
from ...shell.live import Live
from ...widgets.plot import Table, pen
from ..shared.desk import DeskEntry, register
from ..shared.map_picture import Picture
from ..shared.sheet_desk import SETTLE, SheetDesk


class PointsDesk(SheetDesk):
    """Saturation points and envelopes."""

    kinds = ("saturation", "envelope")
    name = "Points"
    shows = frozenset({"selection", "answer", "map"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.plots[0].data = self._data
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self.draw_labels)
        self.plots[0].box.sigRangeChanged.connect(lambda *_: self._settle.start(SETTLE))

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return the points beside each other, and below them what begins at each."""
        units = self._live.units_of(self.study()).of_states()
        points = answer.get("points")
        if points is None:
            return tables(answer, units)
        T, P = of_key("temperature_K", units), of_key("pressure_Pa", units)
        first = Block(
            "",
            [("point", ""), T.head, P.head],
            [[p["kind"], T.text(p["temperature_K"]), P.text(p["pressure_Pa"])] for p in points],
            [["", f"points[{i}].temperature_K", f"points[{i}].pressure_Pa"] for i in range(len(points))],
        )
        names = list(points[0]["incipient"])
        rows = [[n, *(f"{100 * p['incipient'].get(n, 0.0):.4g}" for p in points)] for n in names]
        paths = [["", *(f"points[{i}].incipient.{n}" for i in range(len(points)))] for n in names]
        heads = [
            ("the phase that begins", ""),
            *((f"{'vapour' if p['kind'] == 'bubble' else 'liquid'}", "mol%") for p in points),
        ]
        return [first, Block("", heads, rows, paths)]

    def _picture(self) -> Picture:
        live, study = self._live, self.study()
        whole = live.envelope() if study is not None else None
        points = (self.answer() or {}).get("points", ()) if study is not None else ()
        places = [(p["temperature_K"], p["pressure_Pa"]) for p in points]
        return Picture(self.frame(), self.theme, whole if isinstance(whole, PhaseMap) else None, places=places)

    def draw(self, study: Study, answer: dict[str, Any] | None) -> None:
        """Draw the envelope, what was asked as a line across it, and the points on it."""
        plot, frame, t = self.plots[0], self.frame(), self.theme
        if answer is None:
            return
        plot.set_titles(f"Temperature, {label(frame.temperature)}", f"Pressure, {label(frame.pressure)}")
        plot.set_logarithmic(frame.logarithmic)
        self._picture().draw_lines(plot)
        xs, ys = [np.array([])], [np.array([])]
        plot.begin("asked")
        for i, line in enumerate(answer.get("lines", ())):
            x, y = frame.xy(np.array(line["temperature_K"]), np.array(line["pressure_Pa"]))
            share = float(line["vapour_fraction"])
            plot.line(
                f"asked {i}",
                x,
                y,
                pen(t.phase(share), 2.4 if share in (0.0, 1.0) else 1.2),
                name=f"{100 * share:g} % vapour",
            )
            xs.append(x)
            ys.append(y)
        asked = self._live.asked(study)
        points = answer.get("points", ())
        for i, p in enumerate(points):
            x, y = frame.xy(p["temperature_K"], p["pressure_Pa"])
            plot.dots(f"point {i}", x, y, pen(t.ink, 1.8), "o", 10.0, t.surface)
            xs.append(x)
            ys.append(y)
        dashed = pen(t.accent, 1.2, Qt.PenStyle.DashLine)
        if points and getattr(asked, "temperature", None) is not None:
            plot.upright("asked", float(frame.xy(asked.temperature, 1e5)[0][0]), dashed)
        elif points and getattr(asked, "pressure", None) is not None:
            plot.level("asked", float(frame.xy(300.0, asked.pressure)[1][0]), dashed)
        plot.end()
        for _, _, x, y in self._picture().lines():
            xs.append(x)
            ys.append(y)
        plot.fit_to((study.name, self._live.fluid_name, frame), np.concatenate(xs), np.append(np.concatenate(ys), 0.0))
        self._settle.start(0)

    def draw_labels(self) -> None:
        """Name the lines, and the points by where they are."""
        plot, frame = self.plots[0], self.frame()
        labels = self._picture().draw_labels(plot)
        answer = self.answer() or {}
        plot.begin("points")
        for i, p in enumerate(answer.get("points", ())):
            x, y = frame.xy(p["temperature_K"], p["pressure_Pa"])
            text = f"{p['kind']}\n{frame.where(p['temperature_K'], p['pressure_Pa'])}"
            labels.beside(f"name {i}", text, float(x[0]), float(y[0]), self.theme.ink, True)
        plot.end()

    def _data(self) -> list[Table]:
        frame = self.frame()
        heads = [label(frame.temperature), label(frame.pressure)]
        out: list[Table] = []
        for _, beta, x, y in self._picture().lines():
            out.append(
                (f"{100 * beta:g} % vapour", heads, [x.tolist(), (10.0**y if frame.logarithmic else y).tolist()])
            )
        return out


register(
    DeskEntry(
        key="points", title="Points", order=43, make=PointsDesk, mark=lambda _live: "done", card="answers", kinds=PointsDesk.kinds,
        needs="fluid", line=lambda live: f"{sum(s.kind in PointsDesk.kinds for s in live.kept())} kept",
        help=(
            "Where the fluid begins to boil or condense at a temperature or at a pressure: type either in the sentence.",
            "Every bubble and dew point there stands in the table, with the composition of the phase that begins.",
            "The envelope behind it is that of the map; the dashed line is what was asked.",
            "Ask for an envelope to have its lines as a table of points, with the shares of vapour you name.",
            "Right-click a blank to let it become another quantity or take another unit.",
            "Up and Down step a number, a drag sideways as well; Enter goes to the next blank.",
            "A draft is answered at once; Ctrl+Enter keeps it on the shelf.",
            "A point that another phase upsets is said to be metastable.",
            "Copy gives the table with its headers in full precision; save writes CSV or a workbook.",
            "`cryonome solve` answers the kept question with the same numbers.",
        ),
    )
)  # fmt: skip
