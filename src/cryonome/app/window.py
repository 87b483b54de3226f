"""The main window: shelf, trail, desks and ledger around one store."""

from __future__ import annotations

from pathlib import Path

from pydantic import ValidationError
from PySide6.QtCore import QSettings
from PySide6.QtGui import QCloseEvent, QGuiApplication
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMainWindow,
    QMessageBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ..demo import collection, demo_document
from ..document import Document, DocumentError, Fluid, FluidPart, Sample
from ..document import edits as change
from ..document.exchange import ExchangeError, read_samples, write_samples
from ..document.model import Bulk, Distillation
from ..studies.tables import cut_tables
from .desks import cuts, fluid, lab
from .desks import map as map_desk
from .desks.cuts import CutsDesk
from .desks.fluid import FluidDesk
from .desks.lab import LabDesk
from .desks.map import MapDesk
from .fields import elided
from .jobs import Jobs
from .ledger import Entry, Ledger
from .live import Live
from .menus import build_menus
from .shelf import Shelf
from .store import Store
from .theme import DARK, LIGHT, Theme, apply_theme
from .trail import CardState, Trail

TITLES = ["Lab data", "Cuts", "Fluid", "Map"]


class MainWindow(QMainWindow):
    """The program's window."""

    def __init__(self, document: Document | None = None, path: Path | None = None) -> None:
        super().__init__()
        self.store = Store(document, path, self)
        self.jobs = Jobs(self)
        self.live = Live(self.store, self.jobs, self)
        self.theme: Theme = LIGHT
        self.settings = QSettings()

        self.shelf = Shelf(self.live)
        self.trail = Trail(TITLES)
        self.ledger = Ledger(self.live)
        self.lab, self.cuts = LabDesk(self.live), CutsDesk(self.live)
        self.fluid, self.map = FluidDesk(self.live), MapDesk(self.live)
        self.desks = QStackedWidget()
        for desk in (self.lab, self.cuts, self.fluid, self.map):
            self.desks.addWidget(desk)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.shelf)
        middle.addWidget(self.desks, 1)
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
        self.file_label.setContentsMargins(0, 8, 16, 4)
        build_menus(self)
        self.menuBar().setCornerWidget(self.file_label)

        self.trail.chosen.connect(self.show_desk)
        self.ledger.place_chosen.connect(self.show_place)
        self.shelf.sample_chosen.connect(self._choose_sample)
        self.shelf.fluid_chosen.connect(self._choose_fluid)
        self.shelf.add_sample.connect(self.add_sample)
        self.shelf.add_fluid.connect(self.add_fluid)
        self.store.file_changed.connect(self._show_file)
        self.store.changed.connect(self._show_file)
        self.store.message.connect(self.ledger.say)
        for plot in (self.lab.curve, self.lab.density_plot, self.cuts.plot, self.fluid.plot, self.map.plot):
            plot.saved.connect(self.ledger.say)
        for grid in (self.lab.grid, self.cuts.grid, self.cuts.yields, self.fluid.grid, self.map.readout.table):
            grid.copied.connect(self.ledger.say)
        for signal in (
            self.live.sample_changed,
            self.live.fluid_changed,
            self.live.map_changed,
            self.live.selection_changed,
        ):
            signal.connect(self._show_trail)
        self.jobs.busy_changed.connect(self._show_trail)
        self.live.refresh()
        self.show_desk(3 if self.live.fluid_name else 0)
        self.desks.setFocus()
        self._show_file()
        self.resize(1280, 800)

    # -- showing -------------------------------------------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        """Paint everything in a theme and remember it."""
        self.theme = theme
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, theme)
        for part in (self.shelf, self.trail, self.ledger, self.lab, self.cuts, self.fluid, self.map):
            part.set_theme(theme)
        self.settings.setValue("theme", theme.name)

    def toggle_theme(self) -> None:
        """Change between light and dark."""
        self.set_theme(DARK if self.theme is LIGHT else LIGHT)

    def show_desk(self, index: int) -> None:
        """Open a desk."""
        self.desks.setCurrentIndex(index)
        self.trail.set_current(index)
        self._show_trail()

    def show_place(self, entry: Entry) -> None:
        """Open the desk and the page an entry of the ledger acts at, and select the cell it is about."""
        self.show_desk(entry.desk)
        if entry.desk == 0:
            self.lab.show_page(entry.page)
            if entry.cell is not None:
                self.lab.select_cell(entry.cell)
        elif entry.desk == 1:
            self.cuts.show_page(entry.page)

    def _choose_sample(self, name: str) -> None:
        self.live.select_sample(name)
        if self.desks.currentIndex() > 1:
            self.show_desk(0)

    def _choose_fluid(self, name: str) -> None:
        self.live.select_fluid(name)
        if self.desks.currentIndex() < 2:
            self.show_desk(3)

    def _show_trail(self) -> None:
        live = self.live
        lines = [lab.summary(live), cuts.summary(live), fluid.summary(live), map_desk.summary(live)]
        sample_mark = "open" if live.current_sample() is None else "look" if live.sample.faults else "done"
        cut_mark = "open" if live.characterized() is None else "look" if live.sample.old else "done"
        fluid_mark = (
            "open" if live.current_fluid() is None else "look" if live.fluid.faults or live.fluid.error else "done"
        )
        if self.jobs.busy("map"):
            map_mark = "work"
        elif live.map.value is None:
            map_mark = "open"
        else:
            map_mark = "look" if live.map.old or live.map.error else "done"
        for card, mark, line in zip(self.trail.cards, (sample_mark, cut_mark, fluid_mark, map_mark), lines):
            card.show_state(CardState(mark, line))

    def _show_file(self) -> None:
        name = self.store.path.name if self.store.path else "not saved yet"
        name = elided(name, 40)
        self.file_label.setText(f"{name}  ·  {'edited' if self.store.dirty else 'saved' if self.store.path else 'new'}")
        self.file_label.adjustSize()
        self.setWindowTitle(f"{'*' if self.store.dirty else ''}{name} – Cryonome")

    # -- files ---------------------------------------------------------------------------------------------------

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
            self.show_desk(0)

    def open_dialog(self) -> None:
        """Ask for a document and open it."""
        if self.ask_to_keep():
            name, _ = QFileDialog.getOpenFileName(self, "Open", "", "Cryonome documents (*.cryo);;All files (*)")
            if name:
                self.open_path(Path(name))

    def open_path(self, path: Path) -> bool:
        """Open a document; a failure is told and leaves what is open as it is."""
        from ..document import load

        try:
            document = load(path)
        except DocumentError as error:
            self.tell(f"{path.name} cannot be opened.", str(error.faults[0]))
            return False
        except OSError as error:
            self.tell(f"{path.name} cannot be read.", error.strerror or str(error))
            return False
        self.store.close()
        self.store.replace(document, path)
        self.offer_recovery()
        self.show_desk(3 if self.live.fluid_name else 0)
        return True

    def open_demo(self) -> None:
        """Open the demo project; it is saved elsewhere, never over itself."""
        if self.ask_to_keep():
            self.store.close()
            self.store.replace(demo_document(), None)
            self.show_desk(3)

    def offer_recovery(self) -> None:
        """Offer what was kept of edits that were never saved."""
        kept = self.store.autosave.recover()
        if kept is None:
            self.store.autosave.discard()
            return
        buttons = QMessageBox.StandardButton
        question = "The program ended before the last edits were saved. Continue with them?"
        if QMessageBox.question(self, "Unsaved edits found", question, buttons.Yes | buttons.No) == buttons.Yes:
            self.store.replace(kept, self.store.path, recovered=True)
        else:
            self.store.autosave.discard()

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

    def _save_to(self, path: Path | None) -> bool:
        try:
            self.store.save(path)
        except OSError as error:
            self.tell("The document was not saved.", error.strerror or str(error))
            return False
        self.ledger.say("Saved")
        return True

    def import_samples(self) -> None:
        """Ask for a spreadsheet and add the samples in it."""
        names, _ = QFileDialog.getOpenFileNames(
            self, "Import samples", "", "Spreadsheets (*.xlsx *.xlsm *.csv *.tsv *.txt);;All files (*)"
        )
        if names:
            self.import_paths([Path(n) for n in names])

    def import_paths(self, paths: list[Path]) -> int:
        """Add the samples of spreadsheets as one undoable step; a file without any is told."""
        found: list[Sample] = []
        for path in paths:
            try:
                found += read_samples(path)
            except (ExchangeError, ValidationError) as error:
                self.tell(f"{path.name} could not be imported.", str(error))
            except OSError as error:
                self.tell(f"{path.name} cannot be read.", error.strerror or str(error))
        self.add_samples(found, "Import samples")
        return len(found)

    def add_samples(self, samples: list[Sample], text: str) -> None:
        """Add samples, their names made unique, as one undoable step."""
        if not samples:
            return
        first = change.free_name(self.store.document, samples[0].name)

        def add(document: Document) -> Document:
            for sample in samples:
                name = change.free_name(document, sample.name)
                document = change.add_sample(document, sample.model_copy(update={"name": name}))
            return document

        self.store.edit(text, add)
        self.live.select_sample(first)
        self.show_desk(0)
        self.ledger.say(f"{len(samples)} sample{'s' if len(samples) > 1 else ''} added")

    def add_from_collection(self, name: str) -> None:
        """Add a sample of the collection."""
        self.add_samples([s for s in collection().samples if s.name == name], f"Add {name}")

    def export_samples(self) -> None:
        """Ask for a file and write all samples and their cuts there."""
        name, _ = QFileDialog.getSaveFileName(
            self, "Export samples", "samples.xlsx", "Workbook (*.xlsx);;Comma-separated (*.csv)"
        )
        if name:
            self.export_path(Path(name))

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

    def save_plot(self, kind: str) -> None:
        """Save the picture or data of the open desk's plot."""
        plot = (self.lab.curve, self.cuts.plot, self.fluid.plot, self.map.plot)[self.desks.currentIndex()]
        plot.ask_save(kind)

    def copy_table(self) -> None:
        """Copy the whole main table of the open desk."""
        grids = (self.lab.grid, self.cuts.grid, self.fluid.grid, self.map.readout.composition_table)
        grids[self.desks.currentIndex()].copy_all()
        self.ledger.say("Table copied")

    def tell(self, what: str, why: str) -> None:
        """Tell a failure in a message box."""
        box = QMessageBox(QMessageBox.Icon.Warning, "Cryonome", what, QMessageBox.StandardButton.Ok, self)
        box.setInformativeText(why)
        box.exec()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.ask_to_keep():
            event.ignore()
            return
        self.store.close()
        self.jobs.shut_down()
        event.accept()

    # -- samples and fluids --------------------------------------------------------------------------------------

    def add_sample(self) -> None:
        """Add an empty sample."""
        name = change.free_name(self.store.document, "New sample")
        self.store.edit(
            "Add a sample", lambda d: change.add_sample(d, Sample(name=name, bulk=Bulk(), distillation=Distillation()))
        )
        self.live.select_sample(name)
        self.show_desk(0)

    def add_fluid(self) -> None:
        """Add a fluid made of the selected sample, or an empty one."""
        sample = self.live.current_sample()
        parts = (FluidPart(sample=sample.name, amount=100),) if sample else ()
        wanted = f"{sample.name} fluid" if sample else "New fluid"
        name = change.free_name(self.store.document, wanted)
        self.store.edit("Add a fluid", lambda d: change.add_fluid(d, Fluid(name=name, parts=parts)))
        self.live.select_fluid(name)
        self.show_desk(2)

    def duplicate_sample(self) -> None:
        """Copy the selected sample."""
        sample = self.live.current_sample()
        if sample is not None:
            name = change.free_name(self.store.document, f"{sample.name}, copy")
            self.store.edit(
                "Duplicate the sample", lambda d: change.add_sample(d, sample.model_copy(update={"name": name}))
            )
            self.live.select_sample(name)

    def duplicate_fluid(self) -> None:
        """Copy the selected fluid."""
        chosen = self.live.current_fluid()
        if chosen is not None:
            name = change.free_name(self.store.document, f"{chosen.name}, copy")
            self.store.edit(
                "Duplicate the fluid", lambda d: change.add_fluid(d, chosen.model_copy(update={"name": name}))
            )
            self.live.select_fluid(name)

    def rename_sample(self) -> None:
        """Ask for another name of the selected sample."""
        old = self.live.sample_name
        new = self._ask_name("Rename the sample", old) if old else None
        if new:
            self.live.sample_name = new
            self.store.edit("Rename the sample", lambda d: change.rename_sample(d, old, new))

    def rename_fluid(self) -> None:
        """Ask for another name of the selected fluid."""
        old = self.live.fluid_name
        new = self._ask_name("Rename the fluid", old) if old else None
        if new:
            self.live.fluid_name = new
            self.store.edit("Rename the fluid", lambda d: change.rename_fluid(d, old, new))

    def _ask_name(self, title: str, old: str) -> str | None:
        new, ok = QInputDialog.getText(self, title, "Name", text=old)
        new = new.strip()
        if not ok or not new or new == old:
            return None
        document = self.store.document
        if document.sample(new) or document.fluid(new):
            self.tell(f"The name '{new}' is taken.", "Samples and fluids have different names; choose another.")
            return None
        return new

    def remove_sample(self) -> None:
        """Remove the selected sample and what is made of it; undo brings it back."""
        name = self.live.sample_name
        if name:
            self.store.edit("Remove the sample", lambda d: change.remove_sample(d, name))
            self.ledger.say(f"{name} removed; undo brings it back")

    def remove_fluid(self) -> None:
        """Remove the selected fluid; undo brings it back."""
        name = self.live.fluid_name
        if name:
            self.store.edit("Remove the fluid", lambda d: change.remove_fluid(d, name))
            self.ledger.say(f"{name} removed; undo brings it back")

    def set_units(self, units: str) -> None:
        """Choose the starting set of units."""
        self.store.edit(
            "Choose units",
            lambda d: d.model_copy(update={"display": d.display.model_copy(update={"units": units})}),
        )
        self._show_probe_units()

    def _show_probe_units(self) -> None:
        self.map.readout.show_state(self.live.probe, "")

    def start_adding_component(self) -> None:
        """Open the fluid desk with the keyboard in its entry."""
        self.show_desk(2)
        self.fluid.entry.setFocus()

    def focus_grid(self) -> QWidget | None:
        """Return the table that has the keyboard, for the edit menu."""
        from .grid import GridView

        widget = QApplication.focusWidget()
        while widget is not None and not isinstance(widget, GridView):
            widget = widget.parentWidget()
        return widget

    def about(self) -> None:
        """Tell what this is."""
        from .. import __version__

        text = f"<b>Cryonome {__version__}</b><br>Petroleum fluids, from lab data to answers.<br>Apache License 2.0"
        QMessageBox.about(self, "About Cryonome", text)


def screen_fits(window: QWidget) -> None:
    """Keep the window on a screen smaller than itself."""
    screen = QGuiApplication.primaryScreen()
    if screen is not None:
        room = screen.availableGeometry().size()
        window.resize(window.size().boundedTo(room))
