"""Watched workbooks: each is answered when it is saved, and the ledger tells how it went."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from ...document import Document
from ...document.files import Signature, signature
from ...exchange.workbooks import FILL_ERRORS, Filled, fill
from ...watch import Watch
from .jobs import Jobs, Outcome

SETTLE = 700
"""ms after a change before a workbook is read: other programs write it in several steps."""
TRIES = 4
"""Times a workbook is read that is not whole yet."""


@dataclass(frozen=True)
class _Done:
    """What came of a workbook, or the sentence why nothing did."""

    path: Path
    filled: Filled | None = None
    error: str = ""


class WatchedBooks(QObject):
    """Workbooks that are answered whenever they are saved, until they are let go or the window closes."""

    said = Signal(str)

    def __init__(self, jobs: Jobs, document: Callable[[], Document], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._jobs, self._document = jobs, document
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._changed)
        self._timers: dict[Path, QTimer] = {}
        self._left: dict[Path, int] = {}
        self._own: dict[Path, Signature | None] = {}
        jobs.finished.connect(self._arrived)

    def paths(self) -> list[Path]:
        """Return the workbooks watched."""
        return list(self._timers)

    def add(self, path: Path) -> None:
        """Watch a workbook from now on, and answer it at once."""
        path = path.resolve()
        if path not in self._timers:
            timer = QTimer(self)
            timer.setSingleShot(True)
            timer.timeout.connect(lambda: self._due(path))
            self._timers[path] = timer
            self._watcher.addPath(str(path))
        self._left[path] = TRIES
        self._answer(path)

    def drop_all(self) -> None:
        """Watch no workbook any more."""
        for path, timer in self._timers.items():
            timer.stop()
            self._watcher.removePath(str(path))
        self._timers.clear()

    def _changed(self, name: str) -> None:
        path = Path(name)
        if path in self._timers and signature(path) != self._own.get(path):
            self._left[path] = TRIES
            self._timers[path].start(SETTLE)
        # A program that saves by renaming leaves another file under the name.
        if path.exists() and str(path) not in self._watcher.files():
            self._watcher.addPath(str(path))

    def _due(self, path: Path) -> None:
        # The change may be our own results, noticed before the work that wrote them has reported.
        if signature(path) != self._own.get(path):
            self._answer(path)

    def _answer(self, path: Path) -> None:
        document = self._document()
        units = document.display.units

        def work(watch: Watch) -> _Done:
            try:
                return _Done(path, fill(path, document, units, watch))
            except OSError as error:
                return _Done(
                    path, error=f"{path.name} cannot be read or written: {(error.strerror or str(error)).lower()}"
                )
            except FILL_ERRORS as error:
                return _Done(path, error=str(error))

        self._jobs.submit(f"fill:{path}", (path, signature(path)), work, behind=True)

    def _arrived(self, outcome: Outcome) -> None:
        done = outcome.value
        if not isinstance(done, _Done) or done.path not in self._timers:
            return
        if str(done.path) not in self._watcher.files() and done.path.exists():
            self._watcher.addPath(str(done.path))
        if done.filled is not None:
            self._own[done.path] = done.filled.signature
            self._changed(str(done.path))  # it may have been saved again meanwhile
            more = f"; {done.filled.told[0]}" if done.filled.told else ""
            self.said.emit(f"{done.path.name}: {done.filled}{more}")
        elif "being written" in done.error and self._left[done.path] > 0:
            self._left[done.path] -= 1
            self._timers[done.path].start(SETTLE)
        else:
            self.said.emit(f"{done.path.name} is not answered: {done.error}")
