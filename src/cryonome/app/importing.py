"""Spreadsheets on their way in: read off the interface thread, and shown before they are taken."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from pydantic import ValidationError
from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QLabel,
    QListWidget,
    QProgressBar,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ..characterization.methods import CARBON
from ..document import Sample
from ..document.sheets import ExchangeError, Found, read_file
from ..watch import Watch
from .fields import section
from .jobs import Jobs, Outcome

SLOT = "import"
NOTHING = Found()


@dataclass(frozen=True)
class Read:
    """What came of a file: what was found in it, or the sentence why nothing was."""

    path: Path
    found: Found = NOTHING
    error: str = ""


def read_files(paths: list[Path], watch: Watch) -> list[Read]:
    """Return what is in each file. Raises Cancelled."""
    out = []
    for k, path in enumerate(paths):
        part = watch.part(k / len(paths), (k + 1) / len(paths))
        try:
            out.append(Read(path, read_file(path, part)))
        except (ExchangeError, ValidationError) as error:
            out.append(Read(path, error=str(error)))
        except OSError as error:
            out.append(Read(path, error=f"{path.name} cannot be read: {(error.strerror or str(error)).lower()}"))
    return out


def described(sample: Sample) -> str:
    """Return in a few words what a sample holds."""
    curve = sample.distillation
    if curve.method == CARBON:
        parts = [f"carbon number, {len(curve.amounts)} rows"]
    else:
        count = len(curve.points) + (len(curve.tail.points) if curve.tail else 0)
        basis = f" by {curve.basis}" if curve.basis else ""
        parts = [f"{curve.method}{basis}, {count} point{'' if count == 1 else 's'}"]
    bulk = sample.bulk
    parts += [
        f"{name} {value}" for name, value in (("density", bulk.density), ("molar mass", bulk.molar_mass)) if value
    ]
    if sample.light_ends.amounts:
        parts.append(f"{len(sample.light_ends.amounts)} light ends")
    own = sample.curves
    curves = sum(map(bool, (own.density, own.molar_mass))) + len(own.viscosity) + len(own.quantities)
    if curves:
        parts.append(f"{curves} other curve{'' if curves == 1 else 's'}")
    return ", ".join(parts)


class ImportPage(QDialog):
    """What was read of spreadsheets: the samples, to be taken or not, and what was assumed or not understood."""

    def __init__(self, paths: list[Path], jobs: Jobs, take: Callable[[list[Sample]], None], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Import samples")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, False)
        self._jobs, self._take = jobs, take
        self._samples: list[Sample] = []
        names = ", ".join(p.name for p in paths[:3]) + (f" and {len(paths) - 3} more" if len(paths) > 3 else "")
        self.heading = section(f"Reading {names} …", "title")
        self.heading.setTextFormat(Qt.TextFormat.PlainText)
        self.heading.setWordWrap(True)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.list = QTreeWidget()
        self.list.setAccessibleName("Samples found")
        self.list.setHeaderLabels(["sample", "holds"])
        self.list.setRootIsDecorated(False)
        self.notes_heading = QLabel("")
        self.notes = QListWidget()
        self.notes.setAccessibleName("Assumed or not read")
        self.notes.setWordWrap(True)
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        self.ok = self.buttons.button(QDialogButtonBox.StandardButton.Ok)
        self.ok.setEnabled(False)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 14, 16, 14)
        for part in (self.heading, self.bar, self.list, self.notes_heading, self.notes, self.buttons):
            layout.addWidget(part)
        for part in (self.list, self.notes_heading, self.notes):
            part.setVisible(False)
        self.resize(min(680, parent.width() - 80), min(460, parent.height() - 120))
        jobs.progress.connect(self._progressed)
        jobs.finished.connect(self._finished)
        jobs.submit(SLOT, object(), lambda watch: read_files(paths, watch))

    def _progressed(self, slot: str, share: float) -> None:
        if slot == SLOT:
            self.bar.setValue(round(100.0 * share))

    def _finished(self, outcome: Outcome) -> None:
        if outcome.slot == SLOT and self.isVisible():
            self.show_read(outcome.value if outcome.value is not None else [Read(Path(), error=outcome.error)])

    def show_read(self, read: list[Read]) -> None:
        """Show what was read."""
        self.bar.setVisible(False)
        self._samples = [sample for one in read for sample in one.found.samples]
        for sample in self._samples:
            item = QTreeWidgetItem([sample.name, described(sample)])
            item.setCheckState(0, Qt.CheckState.Checked)
            self.list.addTopLevelItem(item)
        self.list.resizeColumnToContents(0)
        self.list.setColumnWidth(0, min(self.list.columnWidth(0), 260))
        self.list.setVisible(bool(self._samples))
        lines = [one.error for one in read if one.error]
        for one in read:
            for note in one.found.notes:
                place = note.place.removeprefix(f"{one.path.stem}, ")
                place = f"{one.path.name}, {place}" if len(read) > 1 else place
                lines.append(f"{place}: {note.text}{' (assumed)' if note.assumed else ''}")
        self.notes.addItems(lines)
        for part in (self.notes, self.notes_heading):
            part.setVisible(bool(lines))
        self.notes_heading.setText("What was assumed or not read, by its cell" if self._samples else "")
        count = len(self._samples)
        self.heading.setText(f"{count} sample{'' if count == 1 else 's'} found" if count else "No sample was found")
        self.ok.setText("Take the checked ones" if count > 1 else "Take it" if count else "OK")
        self.ok.setEnabled(bool(count))
        if count:
            self.ok.setFocus()

    def chosen(self) -> list[Sample]:
        """Return the samples that are checked."""
        items = [self.list.topLevelItem(k) for k in range(len(self._samples))]
        return [s for s, i in zip(self._samples, items) if i is not None and i.checkState(0) == Qt.CheckState.Checked]

    def accept(self) -> None:
        """Take the samples."""
        samples = self.chosen()
        super().accept()
        self._take(samples)

    def reject(self) -> None:
        """Leave everything as it was, and stop reading."""
        self._jobs.cancel(SLOT)
        super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        self._jobs.cancel(SLOT)
        super().closeEvent(event)
