"""The desk *Match*: lab tests with data and model overlaid, what can move what, the fit, and the variants it leaves."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from ....document import Study
from ....document.edits import set_each, study_path
from ....document.faults import PathParts
from ....document.kinds import study_kinds
from ....document.model import Fluid, Measured, measured_of, tests_of
from ....exchange import Found, read_text
from ....exchange.taking import with_tests
from ....matching.match_view import MatchView, Moving, Panel
from ....questions.kinds.match import MatchStudy
from ...shell.live import Live
from ...widgets.fields import capital, elided, link, page_button, section
from ...widgets.grid import GridView
from ...widgets.plot import Plot, Table
from ..shared.desk import Action, Desk, DeskEntry, register
from ..shared.study_desk import heading_row
from .checks import BadRows, CheckLines, Picture, bad_rows, check_data, checks_of, draw_check, picture_of
from .fit import FitSide
from .models import ReportModel
from .picture import draw_panel, panel_data, titled, told
from .results import LOOKED_AT, declared
from .row import PictureRow

KINDS = ("match", "expansion", "depletion", "liberation", "separators", "swelling", "viscosity")
GLIDE, GLIDES = 60, 5
"""ms between two pictures of a curve on its way from one step of a fit to the next, and their number."""


class MatchDesk(Desk):
    """Lab tests of the chosen fluid, and the match asked of them."""

    shows = frozenset({"selection", "fluid", "answer", "match reach", "match view"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.title, self.subtitle = section("Match", "title"), section("", "mute")
        self.large_title, self.large_told = section("", "title2"), section("", "accent")
        self.large = Plot("Lab test")
        self.large.data = self._data
        self.row = PictureRow(live, lambda: bad_rows(live, self.tests()))
        self.row.chosen.connect(self._enlarge)
        self.row.saved.connect(self.large.saved)
        self.report = ReportModel(self._store_report)
        self.report_grid = GridView(self.report)
        self.report_grid.setAccessibleName("The report of the test")
        self.side = FitSide(live, self.match)
        self.side.variants.laid_over.connect(lambda: self.host().show_desk("map"))
        self.begin_button = link("Match the lab tests of this fluid", self.begin)
        self.paste_hint = section(
            "Paste a lab report here: tables with their units in the header, a line above each that names the test and its temperature.",
            "mute",
        )
        self.paste_hint.setWordWrap(True)
        self.open_button = link("Open a lab report…", self.ask_report)
        self.pictures_chip = page_button("pictures", lambda _on=False: self._turn(False))
        self.report_chip = page_button("report", lambda _on=False: self._turn(True))
        self.checks = CheckLines()
        self.checks.picked.connect(self._see_check)
        self._check: tuple[str, str] | None = None
        self.plots, self.grids, self.themed = (
            [self.large],
            [self.report_grid, self.side.fit_grid, self.side.beside_grid],
            [self.side.reach],
        )
        self._chosen: tuple[str, tuple[str, ...]] = ("", ())
        self._moving: Moving | None = None
        self._as_report = False
        self._way: tuple[Panel | None, Panel | None, int] = (None, None, 0)
        self._glide = QTimer(self)
        self._glide.setInterval(GLIDE)
        self._glide.timeout.connect(self._step_on)
        self._view: MatchView | None = None
        self.large.y_title.setVisible(False)
        self._arrange()
        live.fit_moved.connect(self._fit_moved)
        live.jobs.busy_changed.connect(self._busy)

    def _arrange(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self.large_title)
        head.addStretch(1)
        head.addWidget(self.large_told)
        self.left = QWidget()
        left = QVBoxLayout(self.left)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(6)
        left.addLayout(head)
        left.addWidget(self.large, 3)
        left.addWidget(self.report_grid, 3)
        left.addWidget(self.row)
        left.addWidget(self.checks)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(self.left, 1)
        body.addWidget(self.side)
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
        own = measured_of(self._live.document, self._live.fluid_name)
        return [s for s in own if s.measured or (s is chosen and s.kind in KINDS)]

    def _names(self, match: MatchStudy) -> tuple[str, ...]:
        return tests_of(self._live.document, match)

    def _looked_at(self) -> Study | None:
        match = self.match()
        if match is not None:
            return match
        chosen, tests = self._live.current_study(), self.tests()
        return chosen if isinstance(chosen, Measured) and chosen in tests else tests[0] if tests else None

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
        live.want(LOOKED_AT, shown_study.name if shown_study is not None else "", "match reach", "match view")
        tests = self.tests()
        self.left.setVisible(shown_study is not None)
        self.side.setVisible(match is not None)
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
            self._busy()
            self.side.show_match(match)

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
            self.large_told.setText(told(panel))
            draw_panel(self.large, panel, units, bad.get((panel.tests, panel.key), ()))
        others = [p for p in view.panels if p is not panel or check is not None]
        self.row.show_panels(others, self.theme, draw=not moving)
        self.plots = [self.large, *(small.plot for small in self.row.small)]

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

    # -- the fit on its way --------------------------------------------------------------------------------------------

    def _fit_moved(self, name: str, moving: object) -> None:
        match = self.match()
        if match is None or match.name != name or not isinstance(moving, Moving) or not self.side.working():
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
        self.row.draw_again(self.row.small[step::GLIDES])
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

    def _busy(self) -> None:
        if not self.side.working() and self._moving is not None:
            self._moving = None
            self.update_desk()
        self.side.show_steps(self._moving.steps if self._moving is not None else None)

    # -- edits -----------------------------------------------------------------------------------------------------

    def begin(self, _on: bool = False) -> None:
        """Ask for a match of every test of the fluid that carries measured values."""
        self.host().begin_asking(study_kinds()["match"].begin(self._live.fluid_name, None))

    def _store_report(self, values: dict[str, Any], text: str) -> None:
        test = self.reported()
        if test is not None:
            here = study_path(self._live.document, test.name)
            cells: dict[PathParts, object] = {(*here, key): value for key, value in values.items()}
            self._live.store.edit(text, lambda d: set_each(d, cells))

    def take_paste(self, text: str) -> bool:
        """Make tests of a pasted report of the chosen fluid, and a match of them; a report with a composition of its
        own is left to the window."""
        fluid = self._live.fluid_name
        found = read_text(text, "Pasted report")
        if not fluid or not found.tests or found.samples or found.fluids:
            return False
        self._take(found, "Paste a lab report")
        return True

    def _take(self, found: Found, text: str, fluid: str = "") -> None:
        document = with_tests(self._live.document, fluid or self._live.fluid_name, found.tests)
        self._live.store.edit(text, lambda _d: document)
        self.update_desk()
        notes = sorted(found.notes, key=lambda n: n.assumed)
        if notes:
            more = f", and {len(notes) - 1} more" if len(notes) > 1 else ""
            self.large.saved.emit(capital(f"{'assumed' if notes[0].assumed else 'not read'}: {notes[0].text}{more}"))

    def ask_report(self, _on: bool = False) -> None:
        """Ask for files with lab reports and show what is in them."""
        chosen, _ = QFileDialog.getOpenFileNames(
            self, "Open a lab report", "", "Spreadsheets (*.xlsx *.xlsm *.csv *.tsv *.txt)"
        )
        if chosen:
            self.host().import_paths([Path(c) for c in chosen])

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
        self.row.set_theme(theme)

    def _data(self) -> list[Table]:
        panel = self.panel()
        check = self._seen_check()
        if check is not None:
            return check_data(check, self._live.units())
        return [] if panel is None else panel_data(panel, self._live.units())

    @classmethod
    def actions_offered(cls) -> list[Action]:
        return [
            Action("F&luid", "Match the lab tests of this fluid", cls.begin, "Ctrl+Alt+Shift+M", True),
            Action("F&luid", "Open a lab report…", cls.ask_report, "Ctrl+Alt+Shift+R", True),
            Action(
                "F&luid", "Keep the tuning of the match", lambda page: page.side.variants.keep_tuning(), "Ctrl+Alt+K"
            ),
        ]


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
        tests = [s for s in measured_of(live.document, live.fluid_name) if s.measured]
        return f"{len(tests)} lab tests" if tests else "no lab tests"
    value = live.answer(own[0].name).value
    if not value or not value.get("ok"):
        return f"{len(tests_of(live.document, own[0]))} lab tests"
    return study_kinds()["match"].line(value, live.units())


def _claims(path: PathParts) -> str | None:
    return "" if path[:1] == ("tuned",) or "tuned" in path else None


register(
    DeskEntry(
        declares=(declared,),
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
            "A kept tuning is a variant: its word turns it on, untuned turns it off, a right click drops it; all of it can be undone.",
            "Tunings hang on ids of components; when what is below them changes, the ledger says that the tuning is of another fluid.",
        ),
    )
)  # fmt: skip
