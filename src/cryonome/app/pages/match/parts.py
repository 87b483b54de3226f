"""Parts of the page *Match*: links, small pictures, and the rows of what a tuning says elsewhere."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from ....matching.elsewhere import COLD_LINE, REID
from ....matching.match_view import Panel
from ....remarks import kelvin, measure, pascal
from ....telling.sentences import Units
from ...widgets.fields import section
from ...widgets.letters import sized
from ...widgets.plot import Plot

SMALL, GAP = 204, 14
"""Pixels of a small picture, and between two."""
ELSEWHERE = {
    "cricondentherm_K": "Cricondentherm",
    "cricondenbar_Pa": "Cricondenbar",
    "critical_temperature_K": "Critical temperature",
    "vapour_pressure_Pa": "Vapour pressure at {T}",
    "hydrate_temperature_K": "Hydrate at {P}",
}


class Small(QWidget):
    """A small picture under its title; a click on the title makes it the large one."""

    def __init__(self, call: Any) -> None:
        super().__init__()
        self.title = QToolButton()
        self.title.setObjectName("link")
        self.title.setCursor(Qt.CursorShape.PointingHandCursor)
        self.title.clicked.connect(lambda: call(self.panel))
        self.told = section("", "accent")
        self.plot = Plot("Lab test")
        for part in (self.plot.x_title, self.plot.y_title, self.plot.caption):
            part.setVisible(False)
        self.panel: Panel | None = None
        head = QHBoxLayout()
        head.setContentsMargins(0, 0, 0, 0)
        head.addWidget(self.title)
        head.addStretch(1)
        head.addWidget(self.told)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(self.plot, 1)
        sized(self, fixed_width=SMALL)


def _title(key: str, units: Units) -> str:
    """Return what a row tells, in the reader's units."""
    return ELSEWHERE.get(key, key).format(T=units.text(kelvin(REID)), P=units.text(pascal(COLD_LINE)))


def elsewhere_rows(answer: Mapping[str, Any], units: Units) -> list[list[str]]:
    """Return what nothing was measured of, and the deviations by kind of data, before and after."""
    units = units.of_states()
    rows = []
    for item in answer.get("elsewhere", []):
        key, pair = item["key"], (item["before"], item["after"])
        make = kelvin if key.endswith("_K") else pascal
        words = ["none" if v is None else units.text(make(v)) for v in pair]
        off = ""
        if None not in pair:
            change = pair[1] - pair[0]
            told = units.text(measure(change, "temperature_difference", 1))
            off = (
                f"{'+' if change > 0.0 else ''}{told}"
                if key.endswith("_K")
                else f"{100 * (pair[1] / pair[0] - 1):+.1f} %"
            )
        rows.append([_title(key, units), *words, off.replace("-", "−")])
    by_kind = answer.get("by_kind", {})
    for kind, d in by_kind.items():
        before, after = (("–" if d[k] is None else f"{d[k]:.2f} %") for k in ("before", "after"))
        rows.append(
            [
                f"Deviation, {kind} ({d['points']})",
                before,
                after,
                "" if d["worst_after"] is None else f"worst {d['worst_after']:.1f} %",
            ]
        )
    return rows
