"""Sheets on their way in: pasted, dropped or opened; taken at once where they are sure, else shown on the page of
what was read."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit, QStackedWidget

from ...document import Document, Sample
from ...document.edits import free_name
from ...document.references import about
from ...exchange import Block, Found
from ...exchange.taking import taken
from ...watch import UNWATCHED
from ..widgets.grid import GridView
from ..widgets.theme import Theme
from .jobs import Outcome
from .preview import PreviewPage, Read, read_sources, source_of_text
from .things import Things

PASTE = "paste"
LARGE_PASTE = 20_000
"""Characters of a pasted range from which on it is read behind."""


class Incoming(Things):
    """The part of the main window that takes what laboratories write."""

    stack: QStackedWidget
    current: str
    theme: Theme
    preview: PreviewPage

    def focus_grid(self) -> GridView | None:
        """Return the table the keyboard is in."""
        raise NotImplementedError

    def begin_incoming(self) -> None:
        """Make the page of what was read."""
        self.preview = PreviewPage(self.jobs)
        self.preview.taken.connect(self.take_blocks)
        self.preview.left.connect(self._leave_preview)
        self.stack.addWidget(self.preview)
        self._before = "lab"
        self.jobs.finished.connect(self._paste_arrived)
        self.store.changed.connect(self._invite)

    def _invite(self) -> None:
        """Show the invitation where nothing is left to show."""
        document = self.store.document
        if not document.samples and not document.fluids and self.current not in ("", "lab"):
            self.show_desk("lab")

    # -- ways in
    # -------------------------------------------------------------------------------------------------------------

    def paste(self) -> None:
        """Paste where the keyboard is; with nothing there to take it, what was copied from a sheet becomes what it
        is: a sample, a fluid, tests."""
        text = QGuiApplication.clipboard().text()
        widget = QApplication.focusWidget()
        grid = self.focus_grid()
        if isinstance(widget, QLineEdit):
            widget.paste()
        elif isinstance(grid, GridView):
            grid.paste()
        elif text.strip() and not self.take_own_paste(text):
            self.paste_text(text)

    def take_own_paste(self, text: str) -> bool:
        """Let the open page take a pasted text; tell whether it did."""
        raise NotImplementedError

    def paste_text(self, text: str) -> None:
        """Read a pasted range and take what it holds."""
        name = free_name(self.store.document, "Pasted sample")
        if len(text) > LARGE_PASTE:
            # A whole sheet takes a while to read: behind, with its progress below.
            self.ledger.say("Reading what was pasted …")
            self.jobs.submit(PASTE, (PASTE, text), lambda watch: read_sources([source_of_text(text, name)], {}, watch))
            return
        self.take_read(read_sources([source_of_text(text, name)], {}, UNWATCHED), "Paste")

    def _paste_arrived(self, outcome: Outcome) -> None:
        if outcome.slot == PASTE and outcome.value is not None and isinstance(outcome.key, tuple):
            self.take_read(outcome.value, "Paste")

    def import_samples(self) -> None:
        """Ask for spreadsheets and show what is in them."""
        names, _ = QFileDialog.getOpenFileNames(
            self, "Import lab sheets", "", "Spreadsheets (*.xlsx *.xlsm *.csv *.tsv *.txt);;All files (*)"
        )
        if names:
            self.import_paths([Path(n) for n in names])

    def import_paths(self, paths: Sequence[Path]) -> None:
        """Read spreadsheets and show what is in them, to be taken as one undoable step."""
        self._show_preview()
        self.preview.open_paths(list(paths))

    # -- what becomes of it
    # --------------------------------------------------------------------------------------------------

    def take_read(self, read: list[Read], text: str) -> None:
        """Take what was read where it is sure, else show it first."""
        found = Found(tuple(b for r in read for b in r.found.blocks), tuple(n for r in read for n in r.found.told))
        if found.sure:
            self._take(found, text)
        elif found.holds:
            self._show_preview()
            self.preview.open_read(read)
        else:
            self.nothing_found(found)

    def nothing_found(self, found: Found) -> None:
        """Say that what was pasted is no lab sheet."""
        first = next((n.text for n in found.notes), "")
        more = f" ({first})" if first and len(first) < 90 else ""
        self.ledger.say(f"No lab sheet: a table is wanted whose header names its columns with their units{more}")

    def _show_preview(self) -> None:
        if self.stack.currentWidget() is not self.preview:
            self._before = self.current
        self.stack.setCurrentWidget(self.preview)
        self.preview.set_theme(self.theme)
        self.preview.list.setFocus()

    def _leave_preview(self) -> None:
        self.show_desk(self._before)

    def take_blocks(self, blocks: list[Block]) -> None:
        """Take the blocks that were shown and left checked."""
        self._take(Found(tuple(blocks)), "Take a lab sheet")

    def _take(self, found: Found, text: str) -> None:
        before = self.store.document
        known = _names(before)
        own = self.live.fluid_name
        document, told = taken(before, found)
        if (found.tests or found.brines) and told and own and not (found.samples or found.fluids):
            # Tests without a fluid of their own are of the one that is shown.
            document, told = taken(before, found, own)
        self.store.edit(text, lambda _d: document)
        added = [n for n in _names(document) if n not in known]
        self._show_taken(document, added, found)
        assumed = [n for n in found.notes if n.assumed]
        left = [n for n in found.notes if not n.assumed]
        said = ", ".join(added[:3]) + (f" and {len(added) - 3} more" if len(added) > 3 else "")
        parts = [
            f"{said} added" if added else "",
            f"{len(found.tests)} lab tests" if found.tests else "",
            "the salts of a water" if found.brines else "",
        ]
        parts += (
            [f"assumed: {assumed[0].text}" + (f" and {len(assumed) - 1} more" if len(assumed) > 1 else "")]
            if assumed
            else []
        )
        parts += [f"{len(left)} place{' is' if len(left) == 1 else 's are'} not read"] if left else []
        self.ledger.say("; ".join([*filter(None, parts), *told, "undo takes it back"]))

    def _show_taken(self, document: Document, added: list[str], found: Found) -> None:
        """Choose what was added and open the page that answers: the map of a fluid, the sheet of a sample that lacks
        something."""
        if not added:
            self.show_desk("match" if found.tests else "hydrates" if found.brines else self.current or "lab")
            return
        asked = {about(s) for s in document.studies}
        name = next((n for n in added if n in asked), added[0])
        sample = document.sample(name)
        if sample is not None:
            self.live.select_sample(name)
            blocking = self.live.session.project.read_sample(sample).blocking
            self.show_desk("lab" if blocking else "map")
        else:
            self.live.select_fluid(name)
            self.show_desk("map")

    def add_samples(self, samples: list[Sample], text: str) -> None:
        """Add samples, their names made unique, as one undoable step."""
        if not samples:
            return
        block = Block("", "boiling curve", "", "", samples=tuple(samples))
        self._take(Found((block,)), text)


def _names(document: Document) -> list[str]:
    """Return the names of all fluids and samples of a document."""
    return [f.name for f in document.fluids] + [s.name for s in document.samples]
