"""The main window: shelf, trail, desks and ledger around one store."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, QSettings, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMenu,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ...demo import collection, demo_document
from ...document import Document, Study
from ...document import edits as change
from ...document.faults import PathParts
from ...document.field_types import STUDIES
from ...document.kinds import study_kinds
from ...document.references import about, is_about
from ...errors import DomainError
from ...questions.asking import asked_about, goal_for, sweep_over, sweep_reading
from ...questions.beginning import begun
from ...questions.changed import keeping
from ...questions.kinds.sweep import SweepStudy
from ...questions.value_reading import value_name
from ...results.answer_paths import number_at
from ...results.opening import with_identities
from ...telling.table_blocks import of_key
from ..pages.shared.desk import Action, Desk, Place, Themed, desk_entries
from ..pages.shared.study_desk import StudyDesk
from ..widgets.fields import elided
from ..widgets.grid import GridView
from ..widgets.letters import LETTERS, POINTS, STEP, base_font, in_steps
from ..widgets.theme import DARK, LIGHT, Theme, apply_theme
from .about import About
from .ask_line import AskLine
from .jobs import Jobs
from .ledger import Entry, Ledger
from .lessons import LessonsPanel
from .live import Live
from .made_pages import MadePages
from .menus import all_actions, build_menus
from .outgoing import Outgoing
from .palette import HelpPage, Palette
from .preparing import Preparing
from .room import Room
from .shelf import Shelf
from .store import Store
from .things import page_of
from .trail import Trail
from .watching import WatchedBooks
from .welcome import Welcome
from .what_changed import WhatChanged

DOCUMENTS = (".cryo", ".json")


class MainWindow(Outgoing):
    """The program's window; ``closed`` ends the program."""

    closed = Signal()

    def __init__(self, document: Document | None = None, path: Path | None = None) -> None:
        super().__init__()
        self.store = Store(with_identities(document) if document is not None else None, path, self)
        self.jobs = Jobs(self)
        self.live = Live(self.store, self.jobs, self)
        self.store.saved = lambda document: keeping(document, self.live.evaluator.at(document))
        self.live.declare(d for e in desk_entries() for d in e.declares)
        self.theme: Theme = LIGHT
        self.settings = QSettings()
        self.setAcceptDrops(True)

        self.shelf = Shelf(self.live)
        self.trail = Trail(self.live)
        self.ledger = Ledger(self.live)
        self.desks = MadePages(self._make_page)
        self._rooms: dict[Desk, Room] = {}
        self._ahead = QTimer(self)
        self.current = ""
        self.stack = QStackedWidget()
        self.welcome, self.lessons = Welcome(), LessonsPanel()
        self.welcome.chosen.connect(self._begin)
        self.lessons.left.connect(self.lessons.hide)
        self.lessons.hide()
        self.stack.addWidget(self.welcome)
        self.stack.setMinimumSize(320, 200)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.shelf)
        middle.addWidget(self.stack, 1)
        middle.addWidget(self.lessons)
        layout = QVBoxLayout()
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.trail)
        layout.addLayout(middle, 1)
        layout.addWidget(self.ledger)
        centre = QWidget()
        centre.setLayout(layout)
        self.setCentralWidget(centre)
        self.file_label = QLabel("")
        self.file_label.setObjectName("mute")
        self.file_label.setTextFormat(Qt.TextFormat.PlainText)
        self.file_label.setContentsMargins(0, 8, 16, 4)
        build_menus(self)
        self.menuBar().setCornerWidget(self.file_label)

        self.trail.chosen.connect(self.show_desk)
        self.ledger.place_chosen.connect(self._show_entry)
        self.ledger.units_chosen.connect(self.set_units)
        self.shelf.sample_chosen.connect(self._choose_sample)
        self.shelf.fluid_chosen.connect(self._choose_fluid)
        self.shelf.study_chosen.connect(self.open_study)
        self.shelf.add_sample.connect(self.add_sample)
        self.shelf.add_fluid.connect(self.add_fluid)
        self.shelf.add_study.connect(self._ask_kind)
        self.shelf.add_value.connect(lambda: self.show_desk("values"))
        self.shelf.value_chosen.connect(lambda _name: self.show_desk("values"))
        self.shelf.menu_asked.connect(self._shelf_menu)
        self.store.file_changed.connect(self._show_file)
        self.store.changed.connect(self._show_file)
        self.store.message.connect(self.ledger.say)
        self.preparing = Preparing(self)
        self.preparing.said.connect(self.ledger.say)
        self.books = WatchedBooks(self.jobs, lambda: self.store.document, self)
        self.books.said.connect(self.ledger.say)
        self.begin_incoming()
        self.begin_outgoing()
        self.live.refresh()
        self.show_desk("map" if self.live.fluid_name else "lab")
        self.stack.setFocus()
        self._show_file()
        self.resize(1280, 760)

    # -- pages ---------------------------------------------------------------------------------------------------

    def _make_page(self, key: str) -> Desk:
        """Return a page, made and put into its place."""
        desk = next(e for e in desk_entries() if e.key == key).make(self.live)
        # Where a page has less room than it needs it scrolls; the window never grows for it.
        room = self._rooms[desk] = Room(desk)
        self.stack.addWidget(room)
        for plot in desk.plots:
            plot.saved.connect(self.ledger.say)
        for grid in desk.grids:
            grid.copied.connect(self.ledger.say)
            grid.vary_asked.connect(self.vary_input)
            grid.read_asked.connect(self.read_result)
            grid.goal_asked.connect(self.make_equal)
        desk.set_theme(self.theme)
        return desk

    def make_pages_ahead(self, then: Callable[[], object] = lambda: None) -> None:
        """Make the pages that nobody has opened yet while there is nothing else to do, so that none is waited for, and
        call ``then``."""
        self.desks.make_ahead(self._ahead, then)

    def on_page(self, key: str, offered: Action) -> None:
        """Do what a page offers. What it changes there is never changed unseen."""
        if offered.seen and self.current != key:
            self.show_desk(key)
        offered.call(self.desks[key])

    # -- showing -------------------------------------------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        """Paint everything in a theme and remember it."""
        self.theme = theme
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, self, theme)
        parts: list[Themed] = [self.shelf, self.trail, self.ledger, *self.desks.made()]
        for part in parts:
            part.set_theme(theme)
        self.preview.set_theme(theme)
        self.report.set_theme(theme)
        self.lessons.set_theme(theme)
        self.settings.setValue("theme", theme.name)

    def set_letters(self, times: float) -> None:
        """Show letters so many times as large as usual, and all that goes with them, and remember it."""
        times = in_steps(times)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.setFont(base_font(POINTS * times))
        self.settings.setValue(LETTERS, times)
        self.set_theme(self.theme)

    def larger_letters(self, steps: int) -> None:
        """Show letters so many steps larger, or smaller below zero."""
        self.set_letters(QApplication.font().pointSizeF() / POINTS + steps * STEP)

    def toggle_theme(self) -> None:
        """Change between light and dark."""
        self.set_theme(DARK if self.theme is LIGHT else LIGHT)

    def show_desk(self, key: str) -> None:
        """Open a desk."""
        self.current = key
        self.stack.setCurrentWidget(self._rooms[self.desks[key]])
        self.trail.set_current(key)
        self.trail.refresh()

    def show_place(self, place: Place) -> None:
        """Open the desk and the page of a place, and select the cell it is about."""
        self.show_desk(place.desk)
        desk = self.desks[place.desk]
        desk.show_page(place.page)
        if place.fault is not None:
            desk.select_cell(place.fault)

    def _show_entry(self, entry: Entry) -> None:
        fault = entry.place.fault if entry.place is not None else None
        if fault is not None and fault.path[:1] == ("studies",) and len(fault.path) > 1:
            self.open_study(self.live.document.studies[int(fault.path[1])].name)
        elif entry.place is not None:
            self.show_place(entry.place)

    def _needs(self) -> str:
        return next(e.needs for e in desk_entries() if e.key == self.current)

    def _choose_sample(self, name: str) -> None:
        self.live.select_sample(name)
        if self._needs() != "sample":
            self.show_desk("lab")

    def _choose_fluid(self, name: str) -> None:
        self.live.select_fluid(name)
        if self._needs() != "fluid":
            self.show_desk("map")

    def open_study(self, name: str) -> None:
        """Open a kept question: on the map where it has a place there, else on its own page."""
        self.live.select_study(name)
        study = self.live.document.study(name)
        if study is None:
            return
        places = {n: (T, P) for n, T, P in self.live.kept_places()}
        if self.current == "map" and (name in places or study.kind == "envelope"):
            if name in places:
                self.desks["map"].place_probe(*places[name])
        else:
            self.show_desk(page_of(study))

    def begin_asking(self, study: Study) -> None:
        """Add a question, choose it, and open its page."""
        asked = self.live.document.study(about(study, STUDIES))
        if asked is not None and asked.draft:
            self.live.keep(asked.name)
        before = {s.name for s in self.live.document.studies}
        self.store.edit("Ask a question", lambda d: change.add_study(d, study))
        made = next((s for s in self.live.document.studies if s.name not in before), None)
        if made is not None:
            self.live.select_study(made.name)
            self.show_desk(page_of(made))

    def vary_input(self, path: PathParts) -> None:
        """Begin a sweep over an input of the document, about its present value."""
        document = self.live.document
        asked = asked_about(path, document, self.live.session.study_name)
        if asked is None:
            self.ledger.say("Nothing is asked of this yet: keep a state or another question first, then vary the input")
            return
        self.begin_asking(sweep_over(path, document, asked, self.live.answer(asked.name).value))

    def read_result(self, study_name: str, path: str) -> None:
        """Read a value of an answer in the sweep chosen, where it asks the same question, else in a new one."""
        document = self.live.document
        chosen, study = self.live.current_study(), document.study(study_name)
        if isinstance(chosen, SweepStudy) and chosen.of == study_name:
            self._read_too(chosen, path)
            return
        latest = [s for s in document.studies if isinstance(s, SweepStudy) and s.of == study_name]
        if latest:
            self._read_too(latest[-1], path)
            return
        new = sweep_reading(study, path, document) if study is not None else None
        if new is None:
            self.ledger.say("This answer has no input that could be varied")
        else:
            self.begin_asking(new)

    def _read_too(self, sweep: SweepStudy, path: str) -> None:
        if path not in sweep.read:
            here = change.study_path(self.live.document, sweep.name)
            self.store.edit("Read a result", lambda d: change.set_at(d, (*here, "read"), (*sweep.read, path)))
        self.live.select_study(sweep.name)
        self.show_desk("sweep")

    def make_equal(self, study_name: str, path: str) -> None:
        """Begin a goal for a value of an answer, at its present value until another is typed."""
        document = self.live.document
        study, answer = document.study(study_name), self.live.answer(study_name).value
        if study is None or not answer:
            return
        if value_name(path):
            named = self.live.named_values()[value_name(path)]
            target = f"{named['value']:.6g} {named['unit']}".strip() if named["ok"] else 0.0
            new = goal_for(study, path, target, document)
            if new is not None:
                self.begin_asking(new)
            return
        try:
            value = number_at(answer, path)
        except DomainError as error:
            self.ledger.say(str(error))
            return
        shown = of_key(path, self.live.units().of_states())
        target = f"{shown.plain(value):.6g} {shown.unit}" if shown.unit else value
        new = goal_for(study, path, target, document)
        if new is not None:
            self.begin_asking(new)
            self.desks["sweep"].setFocus()

    def _show_file(self) -> None:
        name = self.store.path.name if self.store.path else "not saved yet"
        name = elided(name, 40)
        self.file_label.setText(f"{name}  ·  {'edited' if self.store.dirty else 'saved' if self.store.path else 'new'}")
        self.file_label.adjustSize()
        self.setWindowTitle(f"{'*' if self.store.dirty else ''}{name} – Cryonome")

    # -- files ---------------------------------------------------------------------------------------------------

    def add_from_collection(self, name: str) -> None:
        """Add a sample of the collection."""
        self.add_samples([s for s in collection().samples if s.name == name], f"Add {name}")

    def save_plot(self, kind: str) -> None:
        """Save the picture or data of the open desk's plot."""
        plots = self.desks[self.current].plots
        if plots:
            plots[0].ask_save(kind)
        else:
            self.ledger.say("This desk has no plot")

    def copy_plot(self) -> None:
        """Copy the picture of the open desk's plot, and its numbers as text."""
        plots = self.desks[self.current].plots
        if plots:
            plots[0].copy_all()
            self.ledger.say("Plot copied: as a picture, and as numbers for a spreadsheet")
        else:
            self.ledger.say("This desk has no plot")

    def copy_table(self) -> None:
        """Copy the whole main table of the open desk."""
        shown = [g for g in self.desks[self.current].grids if g.isVisible()]
        if shown:
            shown[0].copy_all()
            self.ledger.say("Table copied")

    def take_own_paste(self, text: str) -> bool:
        """Let the open page take a pasted text; tell whether it did."""
        return self.stack.currentWidget() not in (self.preview, self.report, self.welcome) and self.desks[
            self.current
        ].take_paste(text)

    def watch_book(self) -> None:
        """Choose a workbook whose named ranges are answered whenever it is saved."""
        chosen, _ = QFileDialog.getOpenFileName(self, "Watch a workbook", "", "Workbooks (*.xlsx *.xlsm *.csv)")
        if chosen:
            self.books.add(Path(chosen))

    def watch_none(self) -> None:
        """Watch no workbook any more."""
        count = len(self.books.paths())
        self.books.drop_all()
        self.ledger.say(
            f"{count} workbook{'' if count == 1 else 's'} no longer watched" if count else "No workbook was watched"
        )

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls() or event.mimeData().hasText():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
        documents = [p for p in paths if p.suffix.lower() in DOCUMENTS]
        if documents and self.ask_to_keep():
            self.open_path(documents[0])
        elif paths and not documents:
            here = self.desks.get(self.current)
            if here is None or not here.take_files(paths):
                self.import_paths(paths)
        elif not paths and event.mimeData().hasText():
            self.paste_text(event.mimeData().text())
        event.acceptProposedAction()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.ask_to_keep():
            event.ignore()
            return
        self.store.close()
        self.preparing.end()
        self.jobs.shut_down()
        event.accept()
        self.closed.emit()

    # -- samples and fluids --------------------------------------------------------------------------------------

    # -- questions -----------------------------------------------------------------------------------------------

    def add_study(self, kind_name: str) -> None:
        """Ask a question of a kind about what is chosen, beginning where the probe stands."""
        kind = study_kinds()[kind_name]
        about = {"sample": self.live.sample_name, "study": self._state_asked()}
        subject = about.get(kind.subject, self.live.fluid_name)
        if not subject:
            what = "question about a state" if kind.subject == "study" else kind.subject
            self.ledger.say(f"Choose a {what} first: the question is about one")
            return
        self.show_draft(begun(kind, subject, self.live.session.probe, self.live.units()))

    def _state_asked(self) -> str:
        """Return the name of the question about a state that is chosen, else of the first about the chosen fluid, ""
        of none."""
        states = [s for s in self.live.document.studies if s.kind == "flash"]
        chosen = [s.name for s in states if s.name == self.live.session.study_name]
        own = [s.name for s in states if is_about(s, self.live.fluid_name)]
        return next(iter([*chosen, *own]), "")

    def _ask_kind(self) -> None:
        menu = QMenu(self)
        for kind in study_kinds().values():
            action = menu.addAction(kind.title, partial(self.add_study, kind.name))
            action.setToolTip(kind.meaning)
        menu.setToolTipsVisible(True)
        menu.exec(self.cursor().pos())

    def _shelf_menu(self, group: str, at: QPoint) -> None:
        """Offer what can be done with an entry of the shelf."""
        menu = QMenu(self)
        calls = {
            "samples": (self.rename_sample, self.duplicate_sample, self.remove_sample),
            "fluids": (self.rename_fluid, self.duplicate_fluid, self.remove_fluid),
            "studies": (self.rename_study, None, self.remove_study),
        }[group]
        for text, call in zip(("Rename…", "Duplicate", "Remove"), calls):
            if call is not None:
                menu.addAction(text, call)
        menu.exec(at)

    def set_units(self, units: str) -> None:
        """Choose the starting set of units."""
        self.store.edit("Choose units", lambda d: change.set_at(d, ("display", "units"), units))

    def ask_by_typing(self) -> None:
        """Ask a question by typing it."""
        line = AskLine(self.live, self.theme, self)
        if line.exec() and line.study is not None:
            self.show_draft(line.study)

    def show_draft(self, study: Study) -> None:
        """Show a question as the draft of its kind, on its page."""
        page = page_of(study)
        desk = self.desks[page]
        if not isinstance(desk, StudyDesk):
            self.begin_asking(study)
            return
        self.live.begin_draft(study)
        self.show_desk(page)
        desk.show_draft(study.kind)

    def keep_question(self) -> None:
        """Put the draft of the open page on the shelf."""
        desk = self.desks[self.current]
        if isinstance(desk, StudyDesk):
            desk.keep()

    def find_action(self) -> None:
        """List every action, filtered as one types, and do the one chosen."""
        palette = Palette(all_actions(self), self)
        if palette.exec() and palette.chosen is not None:
            palette.chosen.trigger()

    def show_help(self) -> None:
        """Say what the open desk takes, does and assumes."""
        HelpPage(next(e for e in desk_entries() if e.key == self.current), self).exec()

    def focus_grid(self) -> GridView | None:
        """Return the table that has the keyboard, for the edit menu."""
        widget = QApplication.focusWidget()
        while widget is not None and not isinstance(widget, GridView):
            widget = widget.parentWidget()
        return widget

    def about(self) -> None:
        """Tell what this is, of which versions, and where its log is."""
        About(self).exec()

    def show_changes(self) -> None:
        """Tell which answers differ from those that another version kept in the document."""
        WhatChanged(self.live, self).exec()

    def show_lessons(self) -> None:
        """Open the lessons beside the page, or close them."""
        self.lessons.setVisible(not self.lessons.isVisible())
        if self.lessons.isVisible():
            self.lessons.choice.setFocus()

    def escape(self) -> None:
        """Leave the page that stands before the others, or the lessons; else stop what is being computed."""
        shown = self.stack.currentWidget()
        if shown is self.preview:
            self.preview.reject()
        elif shown is self.report:
            self.report.left.emit()
        elif shown is self.welcome:
            self.show_desk(self.current)
        elif self.lessons.isAncestorOf(QApplication.focusWidget() or self):
            self.lessons.hide()
        elif self.jobs.stop():
            self.ledger.say("Stopped; it begins again with the next edit")

    def show_welcome(self) -> None:
        """Show the ways to begin."""
        self.stack.setCurrentWidget(self.welcome)
        self.welcome.buttons["lessons"].setFocus()

    def _begin(self, way: str) -> None:
        """Begin as was chosen on the page of welcome."""
        self.settings.setValue("welcomed", True)
        if way == "empty":
            self.new()
        elif way == "open":
            self.open_dialog()
        elif self.store.path is None and self.store.document == demo_document():
            self.show_desk("map")
        else:
            self.open_demo()
        if way == "lessons" and not self.lessons.isVisible():
            self.show_lessons()


def screen_fits(window: QWidget) -> None:
    """Keep the window, its frame included, within the free area of its screen."""
    room = window.screen().availableGeometry()
    frame = window.frameGeometry().size() - window.size()
    window.resize(window.size().boundedTo(room.size() - frame))
    outside = window.frameGeometry()
    if not room.contains(outside):
        x = max(room.left(), min(outside.left(), room.right() - outside.width() + 1))
        y = max(room.top(), min(outside.top(), room.bottom() - outside.height() + 1))
        window.move(x, y)
