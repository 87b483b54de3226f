"""The page on which a report is chosen by ticking, seen as it will be, and saved or printed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ...document import Document
from ...document import edits as change
from ...document.files import write_atomic
from ...reporting.content import report_of
from ...reporting.html import page as html_page
from ...reporting.parts import Content
from ...results.evaluator import Evaluator
from ...watch import Watch
from ..shell.jobs import Jobs, Outcome
from ..shell.store import Store
from ..widgets.fields import section
from ..widgets.theme import LIGHT, Theme
from .pages import PAPERS, Pages, laid_out
from .pdf import paint_on, write_pdf
from .sheets_view import SheetsView

SLOT, SAVING = "report", "report file"

SECTIONS = {
    "contents": "Contents", "pictures": "Pictures", "tables": "Tables", "assumptions": "Assumptions",
    "sources": "Sources and versions",
}  # fmt: skip
GROUPS = {"samples": "Lab data", "fluids": "Fluids", "questions": "Questions"}
FIELDS = {"samples": "without_samples", "fluids": "without_fluids", "questions": "without_studies"}

Ticked = Qt.CheckState
ROLE = Qt.ItemDataRole.UserRole
ANY = Qt.MatchFlag.MatchWildcard | Qt.MatchFlag.MatchRecursive


@dataclass(frozen=True)
class Ready:
    """A report and its pages."""

    content: Content
    pages: Pages


def ready(document: Document, evaluator: Evaluator, watch: Watch) -> Ready:
    """Return the report of a document on pages. Raises Cancelled."""
    content = report_of(document, evaluator, watch.part(0.0, 0.85))
    watch.at(0.85)
    return Ready(content, laid_out(content))


class ReportPage(QWidget):
    """What a report holds at the left, its pages at the right."""

    left = Signal()
    said = Signal(str)

    def __init__(self, store: Store, jobs: Jobs, evaluator: Callable[[], Evaluator]) -> None:
        super().__init__()
        self.setObjectName("page")
        self.theme: Theme = LIGHT
        self._store, self._jobs, self._evaluator = store, jobs, evaluator
        self._key: object = None
        self._filling = False
        self.ready: Ready | None = None
        self.heading, self.told = section("Report", "title"), section("", "mute")
        for text in (self.heading, self.told):
            text.setTextFormat(Qt.TextFormat.PlainText)
        self.leave = _action("leave  Esc", "quiet", self.left.emit)
        self.save_pdf = _action("save as PDF  Enter", "link", lambda: self.ask_save("pdf"))
        self.save_html = _action("save as HTML", "link", lambda: self.ask_save("html"))
        self.print_ = _action("print…", "link", self.ask_print)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setMaximumHeight(6)
        self.bar.setTextVisible(False)
        self.title, self.by = _entry("Title", self._set_text("title")), _entry("Prepared by", self._set_text("by"))
        self.paper = QComboBox()
        self.paper.addItems(list(PAPERS))
        self.paper.setAccessibleName("Paper")
        self.paper.activated.connect(lambda _k: self._set("paper", self.paper.currentText()))
        self.tree = QTreeWidget()
        self.tree.setHeaderHidden(True)
        self.tree.setFrameShape(QTreeWidget.Shape.NoFrame)
        self.tree.setAccessibleName("What the report holds")
        self.tree.itemChanged.connect(self._ticked)
        self.tree.itemActivated.connect(self._show_item)
        self.tree.currentItemChanged.connect(lambda item, _old: self._show_item(item) if item is not None else None)
        self.view = SheetsView()
        self._lay_out()
        enter = QShortcut(QKeySequence(Qt.Key.Key_Return), self)
        enter.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        enter.activated.connect(self._enter)
        jobs.finished.connect(self._arrived)
        jobs.progress.connect(self._progressed)
        store.changed.connect(self._changed)

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.addWidget(self.heading)
        top.addStretch(1)
        for button in (self.save_pdf, self.save_html, self.print_, self.leave):
            top.addWidget(button)
        form = QFormLayout()
        form.addRow("Title", self.title)
        form.addRow("Prepared by", self.by)
        form.addRow("Paper", self.paper)
        side = QVBoxLayout()
        side.addLayout(form)
        side.addWidget(self.tree, 1)
        left = QWidget()
        left.setLayout(side)
        left.setFixedWidth(300)
        side.setContentsMargins(0, 0, 0, 0)
        body = QHBoxLayout()
        body.addWidget(left)
        body.addSpacing(16)
        body.addWidget(self.view, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 16, 24, 12)
        layout.addLayout(top)
        layout.addWidget(self.told)
        layout.addWidget(self.bar)
        layout.addLayout(body, 1)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme; the pages stay as they will be printed."""
        self.theme = theme
        self.view.set_theme(theme)

    # -- what it holds

    def begin(self) -> None:
        """Show the report of the document as it is now."""
        self._fill()
        self._compute()

    def _changed(self) -> None:
        if self.isVisible():
            self._fill()
            self._compute()

    def _fill(self) -> None:
        document = self._store.document
        own = document.report
        self._filling = True
        for entry, text in ((self.title, own.title), (self.by, own.by)):
            if not entry.hasFocus() or entry.text() != text:
                entry.setText(text)
        self.title.setPlaceholderText(document.title or "Report")
        self.paper.setCurrentText(own.paper)
        rows = self._rows(document)
        items = self.tree.findItems("*", ANY)
        if [i.data(0, ROLE) for i in items] != [what for _, what, _ in rows]:
            self._plant(rows)
            items = self.tree.findItems("*", ANY)
        # Items stay while one of them signals its tick; only what they show is written again.
        for item, (_, _, on) in zip(items, rows):
            item.setCheckState(0, Ticked.Checked if on else Ticked.Unchecked)
        self._filling = False

    def _rows(self, document: Document) -> list[tuple[str, tuple[str, str], bool]]:
        """Return what can be ticked, in its order: words, the field and name in the document, whether it is on."""
        own = document.report
        out = [(words, ("without", key), key not in own.without) for key, words in SECTIONS.items()]
        out.append(("Long tables whole", ("whole_tables", ""), own.whole_tables))
        names = {
            "samples": [s.name for s in document.samples],
            "fluids": [f.name for f in document.fluids],
            "questions": [s.name for s in document.studies if not s.draft],
        }
        for key, words in GROUPS.items():
            if names[key]:
                out.append((words, ("without", key), key not in own.without))
                gone = getattr(own, FIELDS[key])
                out += [(name, (FIELDS[key], name), name not in gone) for name in names[key]]
        return out

    def _plant(self, rows: list[tuple[str, tuple[str, str], bool]]) -> None:
        self.tree.clear()
        group = root = self.tree.invisibleRootItem()
        for words, what, on in rows:
            inner = what[0] in FIELDS.values()
            item = QTreeWidgetItem(group if inner else root, [words])
            item.setData(0, ROLE, what)
            item.setCheckState(0, Ticked.Checked if on else Ticked.Unchecked)
            if not inner:
                group = item
        self.tree.expandAll()

    def _ticked(self, item: QTreeWidgetItem) -> None:
        if self._filling:
            return
        field, name = item.data(0, ROLE)
        on = item.checkState(0) == Ticked.Checked
        if field == "whole_tables":
            self._set(field, on)
            return
        now = tuple(n for n in getattr(self._store.document.report, field) if n != name)
        self._set(field, now if on else (*now, name))

    def _set(self, field: str, value: object) -> None:
        if getattr(self._store.document.report, field) != value:
            self._store.edit("Choose what the report holds", lambda d: change.set_at(d, ("report", field), value))

    def _set_text(self, field: str) -> Callable[[str], None]:
        return lambda text: self._set(field, text)

    def _show_item(self, item: QTreeWidgetItem) -> None:
        """Scroll to what an entry is about."""
        if self.ready is None or self._filling:
            return
        place = next((p for t, _, p in self.ready.pages.places if t == item.text(0)), None)
        if place is not None:
            self.view.show_page(place)

    # -- the report

    def _compute(self) -> None:
        document, evaluator = self._store.document, self._evaluator()
        self._key = object()
        self.told.setText("The report is being made …")
        self.bar.setVisible(True)
        self._jobs.submit(SLOT, self._key, lambda watch: ready(document, evaluator, watch))

    def _progressed(self, slot: str, share: float) -> None:
        if slot == SLOT:
            self.bar.setValue(round(100.0 * share))

    def _arrived(self, outcome: Outcome) -> None:
        if outcome.slot == SAVING:
            self.said.emit(str(outcome.value or outcome.error))
        if outcome.slot != SLOT or outcome.key is not self._key:
            return
        self.bar.setVisible(False)
        self.bar.setValue(0)
        if not isinstance(outcome.value, Ready):
            self.told.setText(outcome.error)
            return
        self.ready = outcome.value
        content = self.ready.content
        failed = sum(not a["ok"] for a in content.answers.values())
        words = f"{len(self.ready.pages.sheets)} pages."
        words += (
            f" {failed} question{' has' if failed == 1 else 's have'} no answer; the report says why." if failed else ""
        )
        self.told.setText(words)
        self.view.show_pages(self.ready.pages)

    def stop(self) -> None:
        """Give up what is being made."""
        self._key = None
        self._jobs.cancel(SLOT)

    # -- what leaves

    def _enter(self) -> None:
        """Take what is typed, where something is; else save the report."""
        typed = QApplication.focusWidget()
        if typed in (self.title, self.by):
            self.tree.setFocus()
        else:
            self.ask_save("pdf")

    def _not_made(self) -> bool:
        """Tell, and say, that there is no report of the document as it is now."""
        if self.ready is not None and not self._jobs.busy(SLOT):
            return False
        self.said.emit("The report is not made yet")
        return True

    def ask_save(self, kind: str) -> None:
        """Ask for a file and save the report there."""
        if self._not_made():
            return
        words = {"pdf": "PDF (*.pdf)", "html": "Page (*.html)"}[kind]
        name, _ = QFileDialog.getSaveFileName(self, "Save the report", f"report.{kind}", words)
        if name:
            path = Path(name)
            self.save(path if path.suffix else path.with_suffix(f".{kind}"))

    def save(self, path: Path) -> None:
        """Save the report as PDF or, by its ending, as a page of HTML, off the interface thread; what came of it is
        said."""
        made = self.ready
        if made is None:
            return

        def write(_watch: Watch) -> str:
            try:
                if path.suffix.lower() in (".html", ".htm"):
                    write_atomic(path, html_page(made.content))
                else:
                    write_pdf(made.content, path, made.pages)
            except OSError as error:
                return f"{path.name} was not written: {(error.strerror or str(error)).lower()}"
            return f"The report is {path.name}"

        self.said.emit(f"Writing {path.name} …")
        self._jobs.submit(SAVING, (SAVING, path), write)

    def ask_print(self) -> None:
        """Ask for a printer and print the report."""
        if self._not_made():
            return
        assert self.ready is not None
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setDocName(self.ready.content.title)
        printer.setFullPage(True)
        if QPrintDialog(printer, self).exec() != QPrintDialog.DialogCode.Accepted:
            return
        try:
            paint_on(printer, self.ready.pages, self.ready.content.paper)
        except OSError as error:
            self.said.emit(f"Not printed: {error}")


def _action(text: str, look: str, call: Callable[[], object]) -> QPushButton:
    button = QPushButton(text)
    button.setObjectName(look)
    # A click passes an argument, which the function does not take.
    button.clicked.connect(lambda _checked=False: call())
    return button


def _entry(name: str, commit: Callable[[str], None]) -> QLineEdit:
    entry = QLineEdit()
    entry.setAccessibleName(name)
    entry.editingFinished.connect(lambda: commit(entry.text().strip()))
    return entry
