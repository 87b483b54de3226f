"""The right side of the page *Match*: what can move what, the fit with its bounds, what the tuned fluid says
elsewhere, and its variants."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QHeaderView, QLabel, QPushButton, QVBoxLayout, QWidget

from ....document import errors
from ....document.edits import set_each, study_path
from ....document.faults import PathParts
from ....matching.fitting import Sensitivity
from ....questions.kinds.match import MatchParameter, MatchStudy
from ....tuning.fit import STOPPED
from ...shell.live import Live
from ...widgets.fields import capital, elided, link, section, tip
from ...widgets.grid import GridView
from ...widgets.letters import letter_scale, sized
from ...widgets.text_rows import TextRows
from .models import FitModel
from .parts import elsewhere_rows
from .reach import Reach, ReachRow
from .variants import Variants

RIGHT = 500
SHOWN_KINDS = 5
"""Kinds of data that have a column of bars."""
FIT, BESIDE = (54, 58, 110, 48, 48), (88, 88, 96)
"""Widths of the columns beside the first, in pixels, of the fit and of what it says elsewhere."""


class FitSide(QWidget):
    """The fit that ``match`` returns, and what is edited of it."""

    def __init__(self, live: Live, match: Callable[[], MatchStudy | None]) -> None:
        super().__init__()
        self._live, self.match = live, match
        self.told, self.notes, self.alike = section("", "fault"), section("", "mute"), section("", "mute")
        for text in (self.told, self.notes, self.alike):
            text.setWordWrap(True)
        self.fit = FitModel(self._store_bound)
        self.fit_grid, self.beside = GridView(self.fit), TextRows([])
        self.fit_grid.setAccessibleName("The fit")
        self.beside_grid = GridView(self.beside)
        self.beside_grid.setAccessibleName("What the tuned fluid says where nothing was measured")
        self.reach = Reach()
        self.reach.toggled.connect(self.toggle)
        self.propose = link("propose a set", self.propose_set)
        self.end_button = link("stop here", self._end)
        self.variants = Variants(live)
        self.steps = section("", "mute")
        self.elsewhere_title = section("What the tuned fluid says where nothing was measured")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addLayout(_titled("What can move what", self.propose))
        column.addWidget(self.reach)
        column.addWidget(self.alike)
        column.addSpacing(4)
        column.addLayout(_titled("The fit", self.steps, self.end_button))
        column.addWidget(self.told)
        column.addWidget(self.fit_grid)
        column.addWidget(self.notes)
        column.addWidget(self.elsewhere_title)
        column.addWidget(self.beside_grid, 1000)
        column.addWidget(self.variants)
        column.addStretch(1)
        sized(self, fixed_width=RIGHT)
        sized(self.beside_grid, least_height=52)
        self.beside_grid.set_row_height(22)

    def answer(self) -> dict[str, Any] | None:
        """Return the match's answer, the last good one."""
        match = self.match()
        value = None if match is None else self._live.answer(match.name).value
        return value if value and value.get("ok") else None

    def show_match(self, match: MatchStudy) -> None:
        """Show a match, its fit and what comes of it."""
        live = self._live
        shown, answer = live.answer(match.name), self.answer()
        wrong = errors(shown.faults)
        value = shown.value or {}
        told = wrong[0].message if wrong else shown.error or str(value.get("error", ""))
        self.told.setText(capital(told))
        self.told.setVisible(bool(told))
        sense = live.results["match reach"].value
        self._show_reach(match, answer, sense if isinstance(sense, Sensitivity) else None)
        parameters = answer["parameters"] if answer is not None else []
        self.fit.show(parameters)
        self.fit_grid.keep_lines(max(min(len(parameters), 4), 1))
        _set_widths(self.fit_grid, FIT)
        notes = [n for n in (answer or {}).get("notes", []) if not n.startswith(("Left out", "Proposed"))]
        self.notes.setText(elided(notes[0], 76) if notes else "")
        self.notes.setToolTip(tip("\n".join(notes)))
        self.notes.setVisible(bool(notes))
        rows = elsewhere_rows(answer or {}, live.units())
        self.beside.show(rows, titles=[("", ""), ("untuned", ""), ("tuned", ""), ("", "")])
        _set_widths(self.beside_grid, BESIDE)
        self.elsewhere_title.setVisible(bool(rows))
        self.beside_grid.setVisible(bool(rows))
        self.variants.show_answer(match.name, answer)

    def _show_reach(self, match: MatchStudy, answer: dict[str, Any] | None, found: Sensitivity | None) -> None:
        if found is None:
            return
        kinds = found.kinds[:SHOWN_KINDS]
        taken = self._taken(match, answer, found)
        rows = [
            ReachRow(label, label in taken, tuple(float(v) for v in reach[: len(kinds)]))
            for label, reach in zip(found.labels, found.reach)
        ]
        own = (answer or {}).get("sensitivities", {})
        rows += [
            ReachRow(n, True, tuple(float(own[n].get(k, 0.0)) for k in kinds))
            for n in taken
            if n not in found.labels and n in own
        ]
        self.reach.show_rows(kinds, rows)
        pairs = [
            (abs(float(found.alike[i, j])), found.labels[i], found.labels[j])
            for i in range(len(found.labels))
            for j in range(i)
            if (found.labels[i] in taken or found.labels[j] in taken) and abs(found.alike[i, j]) > 0.95
        ]
        share, one, other = max(pairs, default=(0.0, "", ""))
        words = f"{capital(one)[:-1]} and {other} are {share:.2f} alike: one is enough." if pairs else ""
        self.alike.setText(words)
        self.alike.setVisible(bool(words))

    def _taken(self, match: MatchStudy, answer: dict[str, Any] | None, found: Sensitivity | None) -> list[str]:
        """Return the labels of the parameters that are fitted."""
        if not match.parameters and found is not None:
            return [found.labels[k] for k in found.proposal.taken]
        if answer is not None and len(answer["parameters"]) == len(match.parameters):
            return [p["label"] for p in answer["parameters"]]
        return []

    def working(self) -> bool:
        """Tell whether the fit is on its way."""
        match = self.match()
        return match is not None and self._live.jobs.busy(f"answer:{match.name}")

    def show_steps(self, moving: int | None) -> None:
        """Show how far the fit is: the steps of one that is ``moving``, else how it ended."""
        working, answer = self.working(), self.answer()
        stopped = not working and answer is not None and answer["reason"] == STOPPED
        self.end_button.setText("go on" if stopped else "stop here")
        self.end_button.setVisible(stopped or (working and moving is not None))
        if working:
            self.steps.setText(f"step {moving} …" if moving else "working …")
        else:
            self.steps.setText("" if answer is None else f"{answer['steps']} steps · ended: {answer['reason']}")

    def _end(self, _on: bool = False) -> None:
        match = self.match()
        if match is None:
            return
        if self.working():
            self._live.end_fit(match.name)
        else:
            self._live.ask_again(match.name)

    def _set_match(self, text: str, values: dict[str, object], merge: str = "") -> None:
        match = self.match()
        if match is not None:
            here = study_path(self._live.document, match.name)
            cells: dict[PathParts, object] = {(*here, key): value for key, value in values.items()}
            self._live.store.edit(text, lambda d: set_each(d, cells), merge)

    def _explicit(self) -> list[MatchParameter]:
        """Return the parameters of the match as they would be written, those proposed among them."""
        match, answer = self.match(), self.answer()
        if match is None or match.parameters or answer is None:
            return list(match.parameters) if match is not None else []
        sense = self._live.results["match reach"].value
        if not isinstance(sense, Sensitivity):
            return []
        return [_parameter(sense, k) for k in sense.proposal.taken]

    def toggle(self, label: str) -> None:
        """Take a parameter into the fit, or out of it."""
        match, sense = self.match(), self._live.results["match reach"].value
        if match is None or not isinstance(sense, Sensitivity):
            return
        own, taken = self._explicit(), self._taken(match, self.answer(), sense)
        if label in taken:
            kept = [p for p, name in zip(own, taken) if name != label]
            if not kept:
                self.told.setText("One parameter stays in the fit; take another in before this one goes.")
                self.told.setVisible(True)
                return
            own = kept
        elif label in sense.labels:
            own.append(_parameter(sense, sense.labels.index(label)))
        self._set_match("Choose parameters", {"parameters": tuple(own)})

    def propose_set(self, _on: bool = False) -> None:
        """Leave the choice of parameters to the program."""
        self._set_match("Propose parameters", {"parameters": ()})

    def _store_bound(self, row: int, end: int, value: float) -> None:
        own, answer = self._explicit(), self.answer()
        if answer is None or row >= len(own):
            return
        between = list(answer["parameters"][row]["between"])
        between[end] = value
        own[row] = own[row].model_copy(update={"between": tuple(between)})
        self._set_match("Change a bound", {"parameters": tuple(own)})


def _set_widths(grid: GridView, widths: tuple[int, ...]) -> None:
    header = grid.horizontalHeader()
    if header.count() == 0:
        return
    header.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
    header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
    # Widths are those of the usual letters.
    scale = max(letter_scale(), 1.0)
    for column, width in enumerate(widths, 1):
        grid.setColumnWidth(column, round(scale * width))


def _titled(title: str, *parts: QLabel | QPushButton) -> QHBoxLayout:
    row = QHBoxLayout()
    row.addWidget(section(title))
    row.addStretch(1)
    for part in parts:
        row.addWidget(part)
    return row


def _parameter(found: Sensitivity, k: int) -> MatchParameter:
    w = found.wanted[k]
    names: str | tuple[str, ...] = "heavy" if w.components == ("heavy",) else w.components
    return MatchParameter(components=names, property=w.property, partners=w.partners, between=(w.low, w.high))
