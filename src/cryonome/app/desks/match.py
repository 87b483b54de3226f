"""The desk *Match*: lab tests with data and model overlaid, what can move what, the fit, and the variants it leaves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ...document import Study, errors
from ...document.edits import set_each, study_path
from ...document.faults import PathParts
from ...document.kinds import study_kinds
from ...document.model import Fluid, Measured, tests_of
from ...document.sheets import ExchangeError
from ...studies.fitting import Sensitivity
from ...studies.kinds.match import MatchParameter, MatchStudy
from ...studies.match_view import MatchView, Moving, Panel
from ...studies.report_sheet import ReportBlock, report_in, report_of, with_report
from ...tuning.fit import STOPPED
from ..fields import capital, chip_button, elided, section, tip
from ..grid import GridView
from ..live import Live
from ..plot import Plot, Table
from ..text_rows import TextRows
from ..theme import base_font
from .desk import Action, Desk, DeskEntry, register
from .match_checks import BadRows, CheckLines, Picture, bad_rows, check_data, checks_of, draw_check, picture_of
from .match_models import FitModel, ReportModel
from .match_parts import GAP, SMALL, Small, elsewhere_rows, link
from .match_picture import draw_panel, panel_data, titled
from .match_variants import Variants
from .reach import Reach, ReachRow
from .study_desk import heading_row

KINDS = ("match", "expansion", "depletion", "liberation", "separators", "swelling", "viscosity")
RIGHT = 500
SHOWN_KINDS = 5
"""Kinds of data that have a column of bars."""
GLIDE, GLIDES = 60, 5
"""ms between two pictures of a curve on its way from one step of a fit to the next, and their number."""


class MatchDesk(Desk):
    """Lab tests of the chosen fluid, and the match asked of them."""

    shows = frozenset({"selection", "fluid", "answer", "match reach", "match view"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.title, self.subtitle = section("Match", "title"), section("", "mute")
        self.told, self.notes, self.alike = section("", "fault"), section("", "mute"), section("", "mute")
        self.large_title, self.large_told = section("", "title2"), section("", "accent")
        for text in (self.told, self.notes, self.alike):
            text.setWordWrap(True)
        self.large = Plot("Lab test")
        self.large.data = self._data
        self.small: list[Small] = []
        self._undrawn: set[Small] = set()
        self.report = ReportModel(self._store_report)
        self.report_grid = GridView(self.report)
        self.report_grid.setAccessibleName("The report of the test")
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
        self.variants.laid_over.connect(lambda: self.host().show_desk("map"))
        self.begin_button = chip_button("Match the lab tests of this fluid", self.begin)
        self.paste_hint = section(
            "Paste a lab report here: tables with their units in the header, a line above each that names the test and its temperature.",
            "mute",
        )
        self.paste_hint.setWordWrap(True)
        self.open_button = chip_button("Open a lab report…", self.ask_report)
        self.pictures_chip = chip_button("pictures", lambda: self._turn(False))
        self.report_chip = chip_button("report", lambda: self._turn(True))
        self.checks = CheckLines()
        self.checks.picked.connect(self._see_check)
        self._check: tuple[str, str] | None = None
        self.plots, self.grids, self.themed = (
            [self.large],
            [self.report_grid, self.fit_grid, self.beside_grid],
            [self.reach],
        )
        self._chosen: tuple[str, tuple[str, ...]] = ("", ())
        self._moving: Moving | None = None
        self._as_report = False
        self._way: tuple[Panel | None, Panel | None, int] = (None, None, 0)
        self._glide = QTimer(self)
        self._glide.setInterval(GLIDE)
        self._glide.timeout.connect(self._step_on)
        self._view: MatchView | None = None
        self._widths: dict[GridView, tuple[int, ...]] = {}
        self.large.y_title.setVisible(False)
        self._arrange()
        live.fit_moved.connect(self._fit_moved)
        live.jobs.busy_changed.connect(self._busy)

    def _arrange(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self.large_title)
        head.addStretch(1)
        head.addWidget(self.large_told)
        inner = QWidget()
        self.row = QHBoxLayout(inner)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(GAP)
        self.row.addStretch(1)
        self.row_area = QScrollArea()
        self.row_area.setObjectName("bare")
        self.row_area.setWidgetResizable(True)
        self.row_area.setWidget(inner)
        self.row_area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.row_area.setFixedHeight(168)
        self.row_area.horizontalScrollBar().valueChanged.connect(lambda _value: self._draw_seen())
        self.left = QWidget()
        left = QVBoxLayout(self.left)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(6)
        left.addLayout(head)
        left.addWidget(self.large, 3)
        left.addWidget(self.report_grid, 3)
        left.addWidget(self.row_area)
        left.addWidget(self.checks)
        self.right = QWidget()
        right = QVBoxLayout(self.right)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(5)
        right.addLayout(_titled("What can move what", self.propose))
        right.addWidget(self.reach)
        right.addWidget(self.alike)
        right.addSpacing(4)
        self.steps = section("", "mute")
        right.addLayout(_titled("The fit", self.steps, self.end_button))
        right.addWidget(self.told)
        right.addWidget(self.fit_grid)
        right.addWidget(self.notes)
        self.elsewhere_title = section("What the tuned fluid says where nothing was measured")
        right.addWidget(self.elsewhere_title)
        right.addWidget(self.beside_grid, 1000)
        right.addWidget(self.variants)
        right.addStretch(1)
        self.right.setFixedWidth(RIGHT)
        self.beside_grid.setMinimumHeight(76)
        self.beside_grid.verticalHeader().setDefaultSectionSize(22)
        for grid, widths in ((self.fit_grid, (48, 52, 104, 42, 42)), (self.beside_grid, (88, 88, 96))):
            self._widths[grid] = widths
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(self.left, 1)
        body.addWidget(self.right)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 10)
        layout.setSpacing(8)
        top = heading_row(self.title, self.subtitle)
        top.addWidget(self.pictures_chip)
        top.addWidget(self.report_chip)
        layout.addLayout(top)
        layout.addWidget(self.paste_hint)
        starts = QHBoxLayout()
        starts.addWidget(self.begin_button)
        starts.addWidget(self.open_button)
        starts.addStretch(1)
        layout.addLayout(starts)
        layout.addLayout(body, 1)
        layout.addStretch(0)

    # -- what is looked at -------------------------------------------------------------------------------------------

    def match(self) -> MatchStudy | None:
        """Return the match this page works on: the one chosen, one of the test chosen, else the first of the fluid."""
        chosen, document = self._live.current_study(), self._live.document
        found = [s for s in document.studies if isinstance(s, MatchStudy) and s.fluid == self._live.fluid_name]
        if isinstance(chosen, MatchStudy) and chosen in found:
            return chosen
        if chosen is not None and study_kinds()[chosen.kind].test is not None:
            return next((s for s in found if chosen.name in tests_of(document, s)), None)
        return found[0] if found else None

    def tests(self) -> list[Measured]:
        """Return the tests of the chosen fluid that carry measured values, and the one that is chosen."""
        chosen = self._live.current_study()
        own = [
            s
            for s in self._live.document.studies
            if isinstance(s, Measured) and getattr(s, "fluid", "") == self._live.fluid_name
        ]
        return [s for s in own if s.measured or (s is chosen and s.kind in KINDS)]

    def _names(self, match: MatchStudy) -> tuple[str, ...]:
        return tests_of(self._live.document, match)

    def _looked_at(self) -> Study | None:
        match = self.match()
        if match is not None:
            return match
        chosen, tests = self._live.current_study(), self.tests()
        return chosen if isinstance(chosen, Measured) and chosen in tests else tests[0] if tests else None

    def answer(self) -> dict[str, Any] | None:
        """Return the match's answer, the last good one."""
        match = self.match()
        value = None if match is None else self._live.answer(match.name).value
        return value if value and value.get("ok") else None

    def fluid(self) -> Fluid | None:
        """Return the chosen fluid."""
        return self._live.current_fluid()

    def panel(self) -> Panel | None:
        """Return the picture that is large."""
        view = self._view
        if view is None or not view.panels:
            return None
        chosen = self._live.current_study()
        exact = [p for p in view.panels if (p.key, p.tests) == self._chosen]
        if exact:
            return exact[0]
        if chosen is not None:
            own = [p for p in view.panels if p.tests == (chosen.name,)]
            if own:
                return own[0]
        return next((p for p in view.panels if p.x_key == "pressure_Pa"), view.panels[0])

    # -- showing -----------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the tests, the fit and its variants."""
        live, match = self._live, self.match()
        shown_study = self._looked_at()
        live.want_match(shown_study.name if shown_study is not None else "")
        tests = self.tests()
        self.left.setVisible(shown_study is not None)
        self.right.setVisible(match is not None)
        self.paste_hint.setVisible(match is None)
        self.begin_button.setVisible(match is None and any(t.measured for t in tests))
        self.open_button.setVisible(match is None)
        if shown_study is None:
            self.subtitle.setText("no lab test of this fluid yet")
            return
        found = live.results["match view"]
        view = found.value if isinstance(found.value, MatchView) else None
        self._view = self._moving.view if self._moving is not None else view
        points = self._view.points if self._view is not None else 0
        held = len(match.held_out) if match is not None else 0
        words = f"{points} points in {len(self._names(match)) if match is not None else len(tests)} tests"
        self.title.setText(elided(live.fluid_name, 40))
        self.subtitle.setText(f"{words}{f', {held} held out' if held else ''}")
        self.large.set_faint(found.old and self._moving is None)
        self._show_pictures()
        self._show_checks()
        self._show_report()
        if match is not None:
            self._show_fit(match)

    def _show_pictures(self, moving: bool = False) -> None:
        view, units = self._view, self._live.units()
        panel = self.panel()
        if view is None or panel is None:
            self.large_title.setText(
                "working …" if self._live.results["match view"].old else capital(self._live.results["match view"].error)
            )
            return
        bad = self._bad_rows()
        check = self._seen_check()
        if check is not None and self._check is not None:
            over = "" if check["y_title"] in check["title"] else f": {check['y_title']}"
            self.large_title.setText(elided(f"{check['title']}{over}, {self._check[0]}", 60))
            self.large_told.setText("")
            draw_check(self.large, check, units)
        else:
            self.large_title.setText(elided(titled(panel, units), 52))
            self.large_told.setText(_told(panel))
            draw_panel(self.large, panel, units, bad.get((panel.tests, panel.key), ()))
        others = [p for p in view.panels if p is not panel or check is not None]
        while len(self.small) < len(others):
            made = Small(self._enlarge)
            made.plot.set_theme(self.theme)
            made.plot.saved.connect(self.large.saved)
            self.small.append(made)
            self.row.insertWidget(self.row.count() - 1, made)
        self._undrawn = set()
        for small, other in zip(self.small, [*others, *[None] * (len(self.small) - len(others))]):
            small.setVisible(other is not None)
            small.panel = other
            if other is not None and not moving:
                self._undrawn.add(small)
        self.plots = [self.large, *(s.plot for s in self.small)]
        self._draw_seen()

    def _draw_seen(self) -> None:
        """Draw the small pictures that have come into sight and are not drawn yet: a condensate has a row of thirty."""
        left = self.row_area.horizontalScrollBar().value()
        right, bad = left + max(self.row_area.viewport().width(), SMALL), self._bad_rows() if self._undrawn else {}
        for k, small in enumerate(self.small):
            if small in self._undrawn and left < (k + 1) * (SMALL + GAP) and k * (SMALL + GAP) < right:
                self._undrawn.discard(small)
                self._draw_small(small, bad)

    def _draw_small(self, small: Small, bad: BadRows) -> None:
        panel = small.panel
        if panel is not None:
            small.title.setText(elided(panel.name.partition(",")[0], 22))
            small.title.setToolTip(f"{panel.name}: click to enlarge")
            small.told.setText(_told(panel, short=True))
            draw_panel(small.plot, panel, self._live.units(), bad.get((panel.tests, panel.key), ()), titles=False)

    def _bad_rows(self) -> BadRows:
        return bad_rows(self._live, self.tests())

    def _show_checks(self) -> None:
        match = self.match()
        names = self._names(match) if match is not None else [t.name for t in self.tests()]
        self.checks.show_checks(checks_of(self._live, names))

    def _see_check(self, test: str, title: str) -> None:
        """Show the picture behind a check as the large one, until another is chosen."""
        self._check = (test, title)
        self._turn(False)
        self.refresh()

    def _seen_check(self) -> Picture | None:
        """Return the picture of the check that is looked at, None where it is none of the fluid any more."""
        if self._check is None or self._check[0] not in [t.name for t in self.tests()]:
            self._check = None
            return None
        return picture_of(self._live, *self._check)

    def _show_report(self) -> None:
        self.pictures_chip.setChecked(not self._as_report)
        self.report_chip.setChecked(self._as_report)
        self.report_grid.setVisible(self._as_report)
        self.large.setVisible(not self._as_report)
        test = self.reported()
        if not self._as_report or test is None:
            return
        how = study_kinds()[test.kind].test
        faults: dict[tuple[str, int], str] = {}
        for fault in self._live.answer(test.name).faults:
            path = fault.path[2:]
            if path[:1] == ("measured",) and len(path) > 2:
                faults[str(path[1]), int(path[2])] = fault.message
            elif len(path) == 2 and isinstance(path[1], int):
                faults[how.along, path[1]] = fault.message
        bad = self._bad_rows()
        for (tests, key), rows in bad.items():
            if tests == (test.name,):
                faults |= {
                    (key, r): "a check of the report finds fault with this value"
                    for r in rows
                    if (key, r) not in faults
                }
        self.report.show(test, how.along, how.drawn, self._live.units(), faults)

    def reported(self) -> Measured | None:
        """Return the test whose report is shown: that of the large picture."""
        panel, chosen = self.panel(), self._live.current_study()
        match, tests = self.match(), self.tests()
        own = next(iter(self._names(match)), "") if match is not None else ""
        own = chosen.name if isinstance(chosen, Measured) and chosen in tests else own
        found = self._live.document.study(panel.tests[0] if panel is not None and panel.tests else own)
        return found if isinstance(found, Measured) else None

    def _show_fit(self, match: MatchStudy) -> None:
        live = self._live
        shown, answer = live.answer(match.name), self.answer()
        wrong = errors(shown.faults)
        value = shown.value or {}
        told = wrong[0].message if wrong else shown.error or str(value.get("error", ""))
        self.told.setText(capital(told))
        self.told.setVisible(bool(told))
        self._busy()
        sense = live.results["match reach"].value
        self._show_reach(match, answer, sense if isinstance(sense, Sensitivity) else None)
        parameters = answer["parameters"] if answer is not None else []
        self.fit.show(parameters)
        self.fit_grid.setFixedHeight(
            30 + self.fit_grid.verticalHeader().defaultSectionSize() * max(min(len(parameters), 4), 1) + 2
        )
        _set_widths(self.fit_grid, self._widths[self.fit_grid])
        notes = [n for n in (answer or {}).get("notes", []) if not n.startswith(("Left out", "Proposed"))]
        self.notes.setText(elided(notes[0], 160) if notes else "")
        self.notes.setToolTip(tip("\n".join(notes)))
        self.notes.setVisible(bool(notes))
        rows = elsewhere_rows(answer or {}, live.units())
        self.beside.show(rows, titles=[("", ""), ("untuned", ""), ("tuned", ""), ("", "")])
        _set_widths(self.beside_grid, self._widths[self.beside_grid])
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
            for i in range(len(found.labels)) for j in range(i)
            if (found.labels[i] in taken or found.labels[j] in taken) and abs(found.alike[i, j]) > 0.95
        ]  # fmt: skip
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

    # -- the fit on its way --------------------------------------------------------------------------------------------

    def _fit_moved(self, name: str, moving: object) -> None:
        match = self.match()
        if match is None or match.name != name or not isinstance(moving, Moving) or not self._working():
            return
        before = self.panel() if self._moving is not None else None
        self._moving = moving
        if self.isVisible():
            self._view = moving.view
            self._show_pictures(moving=True)
            self._busy()
            self._way = (before, self.panel(), 0)
            self._glide.start()

    def _step_on(self) -> None:
        """Draw the large curve on its way from the last step of the fit to this one, so that the eye can follow."""
        old, new, step = self._way
        if step >= GLIDES or new is None:
            self._glide.stop()
            return
        bad = self._bad_rows()
        # The small ones take turns, so that the interface is never held for all of them.
        self._undrawn |= {s for s in self.small[step::GLIDES] if s.panel is not None}
        self._draw_seen()
        if (
            old is not None
            and self._check is None
            and new is self.panel()
            and old.after is not None
            and new.after is not None
            and old.after.shape == new.after.shape
        ):
            share = (step + 1) / GLIDES
            between = replace(new, after=(1.0 - share) * old.after + share * new.after)
            draw_panel(self.large, between, self._live.units(), bad.get((new.tests, new.key), ()))
        self._way = (old, new, step + 1)

    def _working(self) -> bool:
        match = self.match()
        return match is not None and self._live.jobs.busy(f"answer:{match.name}")

    def _busy(self) -> None:
        working = self._working()
        if not working and self._moving is not None:
            self._moving = None
            self.update_desk()
        answer = self.answer()
        stopped = not working and answer is not None and answer["reason"] == STOPPED
        self.end_button.setText("go on" if stopped else "stop here")
        self.end_button.setVisible(stopped or (working and self._moving is not None))
        steps = self._moving.steps if self._moving is not None else 0
        if working:
            self.steps.setText(f"step {steps} …" if steps else "working …")
        else:
            self.steps.setText("" if answer is None else f"{answer['steps']} steps · ended: {answer['reason']}")

    def _end(self, _on: bool = False) -> None:
        match = self.match()
        if match is None:
            return
        if self._working():
            self._live.end_fit(match.name)
        else:
            self._live.ask_again(match.name)

    # -- edits -----------------------------------------------------------------------------------------------------

    def begin(self, _on: bool = False) -> None:
        """Ask for a match of every test of the fluid that carries measured values."""
        self.host().begin_asking(study_kinds()["match"].begin(self._live.fluid_name, None))

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

    def _store_report(self, values: dict[str, Any], text: str) -> None:
        test = self.reported()
        if test is not None:
            here = study_path(self._live.document, test.name)
            cells: dict[PathParts, object] = {(*here, key): value for key, value in values.items()}
            self._live.store.edit(text, lambda d: set_each(d, cells))

    def take_paste(self, text: str) -> bool:
        """Make tests of a pasted report, and a match of them."""
        fluid = self._live.fluid_name
        found, told = report_of(text)
        if not fluid or not found:
            if told:
                self.told.setText(told)
                self.told.setVisible(True)
            return False
        self._take(found, told, "Paste a lab report")
        return True

    def _take(self, found: list[ReportBlock], told: str, text: str) -> None:
        document = with_report(self._live.document, self._live.fluid_name, found)
        self._live.store.edit(text, lambda _d: document)
        self.update_desk()
        if told:
            self.large.saved.emit(capital(told))

    def take_files(self, paths: Sequence[Path]) -> bool:
        """Take the first of the spreadsheets dropped as a lab report."""
        return bool(self._live.fluid_name) and self.open_report(paths[0])

    def ask_report(self, _on: bool = False) -> None:
        """Ask for a file and take the lab report in it."""
        chosen, _ = QFileDialog.getOpenFileName(
            self, "Open a lab report", "", "Spreadsheets (*.xlsx *.xlsm *.csv *.tsv *.txt)"
        )
        if chosen:
            self.open_report(Path(chosen))

    def open_report(self, path: Path) -> bool:
        """Make tests of the report in a workbook or CSV file, and a match of them; tell whether there were any."""
        try:
            found, told = report_in(path)
        except (ExchangeError, OSError) as error:
            found, told = [], str(error)
        if not self._live.fluid_name:
            found, told = [], "choose the fluid that the report is of first"
        if found:
            self._take(found, told, "Open a lab report")
            return True
        no_test = f"no lab test that is known here stands in {path.name}: tables with their units, a line above each that names the test"
        self.large.saved.emit(capital(told or no_test))
        return False

    # -- small things ----------------------------------------------------------------------------------------------

    def _enlarge(self, panel: Panel | None) -> None:
        if panel is not None:
            self._chosen, self._check = (panel.key, panel.tests), None
            self.refresh()

    def _turn(self, report: bool) -> None:
        self._as_report = report
        self._show_report()

    def show_page(self, page: str) -> None:
        """Show the report or the pictures."""
        self._turn(page == "report")

    def set_theme(self, theme: Any) -> None:
        super().set_theme(theme)
        for small in self.small:
            small.plot.set_theme(theme)

    def _data(self) -> list[Table]:
        panel = self.panel()
        check = self._seen_check()
        if check is not None:
            return check_data(check, self._live.units())
        return [] if panel is None else panel_data(panel, self._live.units())

    def actions_offered(self) -> list[Action]:
        return [
            Action("F&luid", "Match the lab tests of this fluid", self.begin, "Ctrl+Alt+Shift+M", True),
            Action("F&luid", "Open a lab report…", self.ask_report, "Ctrl+Alt+R", True),
            Action("F&luid", "Keep the tuning of the match", self.variants.keep_tuning, "Ctrl+Alt+K"),
        ]


def _set_widths(grid: GridView, widths: tuple[int, ...]) -> None:
    header = grid.horizontalHeader()
    if header.count() == 0:
        return
    header.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
    header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
    # Widths are those of the usual letters.
    scale = max(grid.font().pointSizeF() / base_font().pointSizeF(), 1.0)
    for column, width in enumerate(widths, 1):
        grid.setColumnWidth(column, round(scale * width))


def _titled(title: str, *parts: QLabel | QToolButton) -> QHBoxLayout:
    row = QHBoxLayout()
    row.addWidget(section(title))
    row.addStretch(1)
    for part in parts:
        row.addWidget(part)
    return row


def _told(panel: Panel, short: bool = False) -> str:
    before, after = panel.deviation(panel.before), panel.deviation(panel.after)
    words = []
    if before is not None and not (short and after is not None):
        words.append(f"before {before:.1f} %" if after is not None else f"{before:.1f} % off")
    if after is not None:
        words.append(f"{'' if short else 'after '}{after:.1f} %")
    if panel.held and not short:
        words.append("held out")
    return "   ".join(words)


def _parameter(found: Sensitivity, k: int) -> MatchParameter:
    w = found.wanted[k]
    names: str | tuple[str, ...] = "heavy" if w.components == ("heavy",) else w.components
    return MatchParameter(components=names, property=w.property, partners=w.partners, between=(w.low, w.high))


def _own(live: Live) -> list[MatchStudy]:
    return [s for s in live.document.studies if isinstance(s, MatchStudy) and s.fluid == live.fluid_name]


def _mark(live: Live) -> str:
    own = _own(live)
    if not own:
        return "open"
    shown = live.answer(own[0].name)
    if shown.error or any(f.severity == "error" for f in shown.faults) or (shown.value and not shown.value.get("ok")):
        return "look"
    return "work" if shown.old or shown.value is None else "done"


def _line(live: Live) -> str:
    own = _own(live)
    if not own:
        tests = [
            s
            for s in live.document.studies
            if isinstance(s, Measured) and s.measured and getattr(s, "fluid", "") == live.fluid_name
        ]
        return f"{len(tests)} lab tests" if tests else "no lab tests"
    value = live.answer(own[0].name).value
    if not value or not value.get("ok"):
        return f"{len(tests_of(live.document, own[0]))} lab tests"
    return study_kinds()["match"].line(value, live.units())


def _claims(path: PathParts) -> str | None:
    return "" if path[:1] == ("tuned",) or "tuned" in path else None


register(
    DeskEntry(
        key="match", title="Match", order=38, make=MatchDesk, mark=_mark, line=_line, needs="fluid", kinds=KINDS, claims=_claims,
        help=(
            "Paste a lab report, whole, or open or drop its workbook: tables with their units, a line above each that names the test and its temperature.",
            "Dots are what was measured with one standard deviation; dashed is the untuned model, full the tuned one. Squares are held out.",
            "A click on the name of a small picture makes it the large one; Report shows its numbers, to type and paste.",
            "Checks of the report come before any tuning: a value they find fault with is a red diamond.",
            "What can move what: a bar a kind of data, longer the more a parameter moves it over its usual width. A click takes it in or out.",
            "The fit runs by itself after every change; its curves move as it goes, and it may be stopped at the best so far.",
            "Likely between is the range of 95 %, from how the residuals scatter; at a bound the cell is marked.",
            "Before a tuning is kept, look at what it says where nothing was measured: envelope, vapour pressure, hydrate.",
            "A kept tuning is a variant: its chip turns it on, untuned turns it off, a right click drops it; all of it can be undone.",
            "Tunings hang on ids of components; when what is below them changes, the ledger says that the tuning is of another fluid.",
        ),
    )
)  # fmt: skip
