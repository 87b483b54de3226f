"""The page *Vapour pressure*: the true one over temperature and expansions over the ratio, with the tests and their
precision marked."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QWidget

from ....document import Study
from ....telling.answers import tables
from ....telling.smoothing import smoothed
from ....telling.table_blocks import Block
from ....units import from_si, label
from ....vapour_pressure.laboratory import TEST_TEMPERATURE
from ...shell.live import Live
from ...widgets.plot import Plot, Table, pen
from ..shared.desk import DeskEntry, register
from ..shared.map_picture import Labels
from ..shared.sheet_desk import SheetDesk
from ..table.views import spread


class VapourPressureDesk(SheetDesk):
    """Vapour pressures of a liquid."""

    kinds = ("vapour_pressure",)
    name = "Vapour pressure"
    pictures = 2
    shows = frozenset({"selection", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.plots[0].data = self._data

    def listed(self, answer: dict[str, Any]) -> dict[str, Any]:
        """Return the answer without the curve, which is drawn."""
        return {k: v for k, v in answer.items() if k != "curve"}

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return what was asked first, then the ratios."""
        return tables(self.listed(answer), self._live.units_of(self.study()))

    def draw(self, study: Study, answer: dict[str, Any] | None) -> None:
        """Draw both curves."""
        if answer is None:
            for plot in self.plots:
                plot.begin("curves")
                plot.end()
            return
        self._over_temperature(self.plots[0], study, answer)
        self._over_ratio(self.plots[1], answer)

    def _units(self) -> tuple[str, str]:
        units = self._live.units()
        return units.unit("temperature"), units.unit("pressure")

    def _over_temperature(self, plot: Plot, study: Study, answer: dict[str, Any]) -> None:
        (t_unit, p_unit), t = self._units(), self.theme
        curve = [c for c in answer.get("curve", []) if c["TVP_Pa"] is not None]
        T = np.array([c["temperature_K"] for c in curve] or [answer["temperature_K"]])
        P = np.array([c["TVP_Pa"] for c in curve] or [answer["TVP_Pa"]])
        order = np.argsort(T)
        x = np.asarray(from_si(T[order], t_unit, "temperature"))  # type: ignore[arg-type]
        y = np.asarray(from_si(P[order], p_unit, "pressure"))  # type: ignore[arg-type]
        at = from_si(answer["temperature_K"], t_unit, "temperature"), from_si(answer["TVP_Pa"], p_unit, "pressure")
        plot.set_titles(f"Temperature, {label(t_unit)}", f"True vapour pressure, {label(p_unit)}")
        asked = self._live.asked(study)
        level = None if asked is None or asked.limit is None else from_si(asked.limit, p_unit, "pressure")
        plot.fit_x(*spread(np.append(x, at[0])))
        plot.fit_y(*spread(np.append(y, [at[1], level if level is not None else at[1]])), padding=0.1)
        plot.begin("curves")
        plot.line("true", *smoothed(x, y), pen(t.phase(0.0), 2.0), name="true vapour pressure")
        plot.dots("test", [at[0]], [at[1]], pen(t.ink, 1.6), "o", 9.0, t.surface)
        if level is not None:
            plot.level("limit", level, pen(t.fault, 1.4, Qt.PenStyle.DashLine))
        if level is not None and answer.get("limit_temperature_K") is not None:
            hold = from_si(answer["limit_temperature_K"], t_unit, "temperature")
            plot.dots("hold", [hold], [level], pen(t.fault, 1.6), "d", 10.0, t.surface)
        plot.end()
        plot.begin("names")
        labels = Labels(plot)
        labels.avoid(*smoothed(x, y))
        labels.beside("test", f"asked\n{at[1]:.4g} {label(p_unit)}", *at, t.ink)
        plot.end()

    def _over_ratio(self, plot: Plot, answer: dict[str, Any]) -> None:
        (_, p_unit), t = self._units(), self.theme
        found = sorted((v["ratio"], v["pressure_Pa"]) for v in answer["VPCR"] if v["pressure_Pa"] is not None)
        x = np.array([0.0, *(r for r, _ in found)])
        SI = np.array([answer["TVP_Pa"], *(p for _, p in found)])
        y = np.asarray(from_si(SI, p_unit, "pressure"))  # type: ignore[arg-type]
        plot.set_titles("Ratio of vapour to liquid volume", f"Pressure, {label(p_unit)}")
        tests = []
        if abs(answer["temperature_K"] - TEST_TEMPERATURE) < 0.2:
            four = next((p for r, p in found if abs(r - 4.0) < 1e-9), None)
            tests = [("VPCR4", four, "D6377", 4.0), ("RVP", answer["RVP_Pa"], "D323", 4.0)]
        told = [(n, p, m, r) for n, p, m, r in tests if p is not None]
        widths = {p["method"]: p["reproducibility_Pa"] for p in answer["precision"]}
        highest = [from_si(p + widths[m], p_unit, "pressure") for _, p, m, _ in told]
        lowest = [from_si(p - widths[m], p_unit, "pressure") for _, p, m, _ in told]
        plot.fit_x(*spread(x))
        plot.fit_y(*spread(np.array([*y, *highest, *lowest])), padding=0.1)
        plot.begin("curves")
        plot.line("ratio", x, y, pen(t.phase(0.5), 2.0), name="VPCRx")
        width = 0.012 * max(float(np.ptp(x)), 1.0)
        for k, (name, p, method, ratio) in enumerate(told):
            own = next(v for v in answer["precision"] if v["method"] == method)
            centre = ratio + (0.0, 3.0 * width)[k]
            for i, half in enumerate((own["reproducibility_Pa"], own["repeatability_Pa"])):
                ends = [from_si(p - half, p_unit, "pressure"), from_si(p + half, p_unit, "pressure")]
                shade = QColor(t.accent)
                shade.setAlpha((60, 120)[i])
                plot.bars(f"{name} {i}", shade, x0=[centre - width], x1=[centre + width], y0=[ends[0]], y1=[ends[1]])
            plot.dots(name, [centre], [from_si(p, p_unit, "pressure")], pen(t.ink, 1.6), "o", 8.0, t.surface)
        plot.end()
        plot.begin("names")
        labels = Labels(plot)
        labels.avoid(x, y)
        for k, (name, p, _, ratio) in enumerate(told):
            labels.beside(name, name, ratio + (0.0, 3.0 * width)[k], float(from_si(p, p_unit, "pressure")), t.ink)
        plot.end()
        plot.setToolTip(
            "Dark bar: one operator again; light bar: another laboratory (95 of 100 times)." if told else ""
        )

    def _data(self) -> list[Table]:
        answer = self.answer()
        if answer is None:
            return []
        (t_unit, p_unit) = self._units()
        curve = [c for c in answer.get("curve", []) if c["TVP_Pa"] is not None]
        x = [from_si(c["temperature_K"], t_unit, "temperature") for c in curve]
        return [
            ("true", [label(t_unit), label(p_unit)], [x, [from_si(c["TVP_Pa"], p_unit, "pressure") for c in curve]])
        ]


def _line(live: Live) -> str:
    asked = sum(s.kind == "vapour_pressure" for s in live.kept())
    return f"{asked} question{'s' if asked != 1 else ''}"


register(
    DeskEntry(
        key="vapour", title="Vapour pressure", order=49, make=VapourPressureDesk, mark=lambda _live: "done", line=_line, card="answers",
        kinds=VapourPressureDesk.kinds, needs="fluid",
        help=(
            "The left picture is the true vapour pressure over temperature, the bubble pressure; the ring is the temperature asked.",
            "Give a limit and the highest temperature that stays under it is marked on its dashed line.",
            "The right picture is the pressure over the ratio of vapour to liquid volume; at none it is the true vapour pressure.",
            "VPCR is what ASTM D6377 measures, RVP the bomb of D323, simulated step by step; the relation of D6377 gives the Reid equivalent.",
            "Bars are the precision of the tests: dark for one operator again, light for another laboratory.",
            "The Reid pressure is of a sample saturated with air, which can be switched off.",
            "A live sample boils at room temperature under the atmosphere; its container is another, and so is its relation.",
            "Water adds to the true vapour pressure and is poured off before a test.",
            "The blend that just meets a pressure is a goal: in the menu of the number, Make this equal.",
            "The same question is answered by the command line with the same numbers.",
        ),
    )
)  # fmt: skip
