"""The project's files: opened, saved, recovered, imported and exported, each failure told and nothing lost."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QMainWindow, QMessageBox

from ...demo import demo_document
from ...document import Document, DocumentError, Kept, opened
from ...errors import DomainError
from ...exchange.fluid_sheets import write_fluid
from ...exchange.writing import write_samples
from ...results.opening import with_identities
from ...results.sample_tables import cut_tables
from ..widgets.fields import elided
from .jobs import Jobs
from .ledger import Ledger
from .live import Live
from .store import FileChangedError, Store


class ProjectFiles(QMainWindow):
    """The part of the main window that has to do with files."""

    store: Store
    jobs: Jobs
    live: Live
    ledger: Ledger

    def show_desk(self, key: str) -> None:
        """Open a desk."""
        raise NotImplementedError

    def tell(self, what: str, why: str) -> None:
        """Tell a failure in a message box."""
        box = QMessageBox(QMessageBox.Icon.Warning, "Cryonome", what, QMessageBox.StandardButton.Ok, self)
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setInformativeText(why)
        box.exec()

    def ask_to_keep(self) -> bool:
        """Ask what to do with unsaved edits; False where the user wants to stay."""
        if not self.store.dirty:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self, "Unsaved changes", "Save the changes first?", buttons.Save | buttons.Discard | buttons.Cancel
        )
        if answer == buttons.Save:
            return self.save()
        return bool(answer == buttons.Discard)

    def new(self) -> None:
        """Begin an empty project."""
        if self.ask_to_keep():
            self.store.close()
            self.store.replace(Document(), None)
            self.show_desk("lab")

    def open_dialog(self) -> None:
        """Ask for a document and open it."""
        if self.ask_to_keep():
            name, _ = QFileDialog.getOpenFileName(self, "Open", "", "Cryonome documents (*.cryo);;All files (*)")
            if name:
                self.open_path(Path(name))

    def open_path(self, path: Path) -> bool:
        """Open a document; a failure is told and leaves what is open as it is."""
        try:
            document, changed = opened(path)
        except DocumentError as error:
            self.tell(f"{path.name} cannot be opened.", str(error.faults[0]))
            return self._offer(self.store.autosave.left(path), f"Edits of {path.name} were kept aside.")
        except OSError as error:
            self.tell(f"{path.name} cannot be read.", error.strerror or str(error))
            return self._offer(self.store.autosave.left(path), f"Edits of {path.name} were kept aside.")
        self.store.close()
        self.store.replace(with_identities(document), path)
        if self.store.autosave.open_elsewhere():
            self.tell(
                f"{path.name} is open in another window too.",
                "Both keep their own edits; the one saved later asks before it overwrites the other's.",
            )
        self._offer(self.store.autosave.left(path), "The program ended before the last edits were saved.")
        self.show_desk("map" if self.live.fluid_name else "lab")
        if changed:
            self.ledger.say(changed)
        return True

    def open_demo(self) -> None:
        """Open the demo project; it is saved elsewhere, never over itself."""
        if self.ask_to_keep():
            self.store.close()
            self.store.replace(demo_document(), None)
            self.show_desk("map")

    def offer_recovery(self) -> None:
        """Offer what was kept of edits that were never saved, whatever became of their files."""
        self._offer(self.store.autosave.left(), "The program ended before the last edits were saved.")

    def _offer(self, kept: list[Kept], why: str) -> bool:
        """Offer kept edits one after another, the newest first, until one is taken; return whether one was."""
        buttons = QMessageBox.StandardButton
        for one in kept:
            name = one.source.name if one.source is not None else "a project without a file"
            when = datetime.fromtimestamp(one.when).strftime("%d %B, %H:%M")
            holds = (
                ", ".join([s.name for s in one.document.samples[:2]] + [f.name for f in one.document.fluids[:2]])
                or "nothing yet"
            )
            box = QMessageBox(QMessageBox.Icon.Question, "Unsaved edits found", why, parent=self)
            box.setTextFormat(Qt.TextFormat.PlainText)
            box.setInformativeText(f"Of {elided(name, 60)}, {when}: {elided(holds, 120)}. Continue with them?")
            box.setStandardButtons(buttons.Yes | buttons.Discard | buttons.Cancel)
            box.button(buttons.Yes).setText("Continue with them")
            box.button(buttons.Cancel).setText("Ask again later")
            answer = box.exec()
            if answer == buttons.Yes:
                there = one.source is not None and one.source.exists()
                self.store.replace(with_identities(one.document), one.source if there else None, recovered=True)
                one.discard()
                return True
            if answer == buttons.Discard:
                one.discard()
        return False

    def save(self) -> bool:
        """Save, asking for a file where there is none."""
        return self._save_to(self.store.path) if self.store.path else self.save_as()

    def save_as(self) -> bool:
        """Ask for a file and save there."""
        name, _ = QFileDialog.getSaveFileName(self, "Save as", "project.cryo", "Cryonome documents (*.cryo)")
        if not name:
            return False
        path = Path(name)
        return self._save_to(path if path.suffix else path.with_suffix(".cryo"))

    def _save_to(self, path: Path | None, over: bool = False) -> bool:
        try:
            self.store.save(path, over)
        except FileChangedError as error:
            buttons = QMessageBox.StandardButton
            box = QMessageBox(QMessageBox.Icon.Question, "The file was changed", f"{error}.", parent=self)
            box.setTextFormat(Qt.TextFormat.PlainText)
            box.setInformativeText("Overwrite what it wrote there?")
            box.setStandardButtons(buttons.Yes | buttons.No)
            if box.exec() == buttons.Yes:
                return self._save_to(path, over=True)
            self.ledger.say("Not saved; save it under another name")
            return False
        except OSError as error:
            self.tell("The document was not saved.", error.strerror or str(error))
            return False
        self.ledger.say("Saved")
        return True

    def export_samples(self) -> None:
        """Ask for a file and write all samples and their cuts there."""
        if not self.store.document.samples:
            self.ledger.say("There is no sample to export")
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Export samples", "samples.xlsx", "Workbook (*.xlsx);;Comma-separated (*.csv)"
        )
        if name:
            self.export_path(Path(name))

    def export_fluid(self) -> None:
        """Ask for a file and write the chosen fluid there as plain tables."""
        fluid = self.store.document.fluid(self.live.fluid_name)
        if fluid is None:
            self.ledger.say("Choose a fluid first")
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Export the fluid", "fluid.xlsx", "Workbook (*.xlsx);;Comma-separated (*.csv)"
        )
        if name:
            path = Path(name) if Path(name).suffix else Path(name).with_suffix(".xlsx")
            try:
                write_fluid(path, fluid, self.live.evaluator.at(self.store.document).fluid(fluid))
            except OSError as error:
                self.tell(f"{path.name} was not written.", error.strerror or str(error))
            except DomainError as error:
                self.tell(f"{path.name} was not written.", f"{fluid.name}: {error}.")
            else:
                self.ledger.say(f"{fluid.name} written to {path.name}; importing it gives the same fluid")

    def export_path(self, path: Path) -> None:
        """Write all samples, and in a workbook the cuts of those that have any."""
        path = path if path.suffix else path.with_suffix(".xlsx")
        document = self.store.document
        try:
            write_samples(path, document.samples, cut_tables(document, self.live.evaluator))
        except OSError as error:
            self.tell(f"{path.name} was not written.", error.strerror or str(error))
        else:
            self.ledger.say(f"{len(document.samples)} samples written to {path.name}")
