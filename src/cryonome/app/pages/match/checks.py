"""Checks of lab reports on the page *Match*: their verdicts in a sentence, the rows they find fault with, and the
picture behind a verdict."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from functools import partial
from typing import Any

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from ....document.model import Measured
from ....telling.sentences import Units
from ....telling.table_blocks import of_key
from ...shell.live import Live
from ...widgets.fields import link, section
from ...widgets.plot import Plot, Table, pen
from ..shared.map_picture import Labels
from .picture import converted

SHOWN = 4
"""Checks that have a line, the worst first."""
MARKS = {"bad": "▲", "doubtful": "△", "good": "✓"}
COLUMNS = {
    "y_function": "relative_volume",
    "order": "",
    "two_phase_z": "Z_two_phase",
    "liberation_mass": "oil_density_kg_m3",
}
"""The column that a check's rows stand in, where it is about one."""
BadRows = dict[tuple[tuple[str, ...], str], tuple[int, ...]]
"""Rows of a test, by its name and a key, that a check finds fault with."""
Picture = Mapping[str, Any]
"""What is drawn of a check, as its answer says."""


def checks_of(live: Live, names: Iterable[str]) -> list[tuple[str, Mapping[str, Any]]]:
    """Return every check of the tests by name, the worst first, then those there is a picture of."""
    found = [(name, c) for name in names for c in (live.answer(name).value or {}).get("checks", [])]
    return sorted(found, key=lambda item: (list(MARKS).index(item[1]["verdict"]), "drawn" not in item[1]))


def picture_of(live: Live, test: str, title: str) -> Picture | None:
    """Return the picture behind a check of a test as it is now, None where it is gone."""
    return next((c["drawn"] for _, c in checks_of(live, [test]) if c.get("drawn", {}).get("title") == title), None)


def bad_rows(live: Live, tests: Sequence[Measured]) -> BadRows:
    """Return the rows that a check finds fault with, by test and key."""
    return {
        ((name,), COLUMNS[c["check"]] or "relative_volume"): tuple(c["rows"])
        for name, c in checks_of(live, [t.name for t in tests])
        if c["check"] in COLUMNS and c["rows"]
    }


class CheckLines(QWidget):
    """The checks as lines; ``picked`` tells the test and the title of the one whose picture is to be seen."""

    picked = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.title = section("Report checks")
        self.lines = [section("", "mute") for _ in range(SHOWN)]
        self.links: list[QPushButton] = [link("picture", partial(self._pick, k)) for k in range(SHOWN)]
        self._shown: list[tuple[str, Mapping[str, Any]]] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.title)
        for line, button in zip(self.lines, self.links):
            line.setWordWrap(True)
            row = QHBoxLayout()
            row.addWidget(line, 1)
            row.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
            column.addLayout(row)

    def show_checks(self, found: Sequence[tuple[str, Mapping[str, Any]]]) -> None:
        """Show checks with the names of their tests."""
        self._shown = list(found[:SHOWN])
        self.title.setVisible(bool(found))
        for k, (line, button) in enumerate(zip(self.lines, self.links)):
            there = k < len(self._shown)
            line.setVisible(there)
            button.setVisible(there and "drawn" in self._shown[k][1])
            if there:
                name, check = self._shown[k]
                line.setText(f"{MARKS[check['verdict']]}  {name}: {check['sentence']}")
                _named(line, "fault" if check["verdict"] == "bad" else "mute")

    def _pick(self, k: int) -> None:
        name, check = self._shown[k]
        self.picked.emit(name, check["drawn"]["title"])


def _named(line: QLabel, name: str) -> None:
    if line.objectName() != name:
        line.setObjectName(name)
        line.style().unpolish(line)
        line.style().polish(line)


def draw_check(plot: Plot, picture: Picture, units: Units) -> None:
    """Draw a check: its points, the bad ones as diamonds, those beside what is judged as crosses, and the line they
    are to lie on."""
    t = plot.theme
    x, y, line = _places(picture, units)
    marks, names = np.array(picture["marks"]), picture["names"]
    room = 0.08 * float(np.ptp(x))
    plot.fit_x(float(x.min()) - room, float(x.max()) + room)
    plot.fit_y(float(min(y.min(), line.min())), float(max(y.max(), line.max())), 0.12)
    plot.set_titles(_head(picture, units), "")
    order = np.argsort(x)
    plot.begin("panel")
    plot.line("check", x[order], line[order], pen(t.phase(0.0), 1.6))
    looks = {"good": (t.ink, "o", 8.0), "bad": (t.fault, "d", 10.0), "beside": (t.mute, "+", 9.0)}
    for mark, (colour, symbol, size) in looks.items():
        rows = marks == mark
        if rows.any():
            plot.dots(f"check {mark}", x[rows], y[rows], pen(colour, 1.5), symbol, size, t.surface)
    labels = Labels(plot)
    labels.avoid(x[order], line[order])
    for k, name in enumerate(names):
        labels.beside(f"check {k}", name, float(x[k]), float(y[k]), looks[str(marks[k])][0])
    plot.end()


def check_data(picture: Picture, units: Units) -> list[Table]:
    """Return what a picture of a check shows as a table."""
    x, y, line = _places(picture, units)
    return [
        (picture["title"], [_head(picture, units), picture["y_title"], "line"], [x.tolist(), y.tolist(), line.tolist()])
    ]


def _places(picture: Picture, units: Units) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    x = converted(picture["x"], picture["x_key"], units) if picture["x_key"] else np.array(picture["x"], float)
    return x, np.array(picture["y"], float), np.array(picture["line"], float)


def _head(picture: Picture, units: Units) -> str:
    if not picture["x_key"]:
        return str(picture["x_title"])
    name, unit = of_key(picture["x_key"], units.of_states()).head
    return f"{name[:1].upper()}{name[1:]}{', ' + unit if unit else ''}"
