"""Work off the interface thread: frozen requests, newest wins, results come back as signals."""

from __future__ import annotations

import contextlib
import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from ...errors import DomainError
from ...watch import HERE, Cancelled, Watch

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Outcome:
    """What came of a request: its key and either a value or the sentence why there is none."""

    slot: str
    key: object
    value: Any = None
    error: str = ""
    moving: bool = False


class _Bridge(QObject):
    done = Signal(object, int)
    progress = Signal(str, float)


class _Task(QRunnable):
    def __init__(
        self, bridge: _Bridge, number: int, request: _Wanted, stop: threading.Event, road: threading.Event
    ) -> None:
        super().__init__()
        self._bridge, self._number, self._request, self._stop, self._road = bridge, number, request, stop, road
        self._told = 0.0
        self._waited_for = False

    def _tell(self, share: float) -> None:
        # One signal for each hundredth of the work is smooth enough, and cheap.
        if share - self._told >= 0.01:
            self._told = share
            with contextlib.suppress(RuntimeError):  # the window closed while this was computed
                self._bridge.progress.emit(self._request.slot, share)

    def _hurry(self) -> None:
        """Give way no more: another waits for what is computed here."""
        self._waited_for = True

    def _stopped(self) -> bool:
        """Tell whether the request was withdrawn; one behind gives way here while the road is taken."""
        while self._request.behind and not self._waited_for and not self._stop.is_set() and not self._road.wait(0.1):
            pass
        return self._stop.is_set()

    def run(self) -> None:
        wanted = self._request
        outcome = Outcome(wanted.slot, wanted.key, moving=wanted.moving)
        HERE.hurry = self._hurry
        try:
            watch = Watch(self._stopped, self._tell)
            watch.check()
            outcome = replace(outcome, value=wanted.work(watch))
        except Cancelled:
            outcome = replace(outcome, error="cancelled")
        except DomainError as error:
            outcome = replace(outcome, error=str(error))
        except Exception as error:
            log.exception("a computation failed: %s", wanted.slot)
            outcome = replace(outcome, error=f"the computation failed unexpectedly ({type(error).__name__}: {error})")
        with contextlib.suppress(RuntimeError):  # the window closed while this was computed
            self._bridge.done.emit(outcome, self._number)


@dataclass(frozen=True)
class _Wanted:
    slot: str
    key: object
    work: Callable[[Watch], Any]
    moving: bool
    behind: bool


class Jobs(QObject):
    """Runs at most one request a slot; a newer request cancels the older one and takes its place."""

    # ``busy_changed`` does not tell of what follows the pointer, which begins and ends all the time.
    finished = Signal(object)
    busy_changed = Signal()
    progress = Signal(str, float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(3)
        # What nobody looks at yet is computed one after another, and only while nothing else is: threads share one
        # interpreter, so that it would slow down what is waited for.
        self._behind = QThreadPool(self)
        self._behind.setMaxThreadCount(1)
        self._bridge = _Bridge(self)
        self._bridge.done.connect(self._arrived)
        self._bridge.progress.connect(self._progressed)
        self._road = threading.Event()
        self._road.set()
        self._number = 0
        self._running: dict[str, tuple[int, _Wanted, threading.Event]] = {}
        self._waiting: dict[str, _Wanted] = {}

    def submit(
        self, slot: str, key: object, work: Callable[[Watch], Any], moving: bool = False, behind: bool = False
    ) -> None:
        """Ask for ``work(watch)``; the outcome arrives through :attr:`finished` unless superseded.

        While a slot is at work the newest request waits, and those between are dropped. A ``moving`` one is shown even
        when it has been superseded: a pointer's reading must keep moving. One ``behind`` waits for all others.
        """
        wanted = _Wanted(slot, key, work, moving, behind)
        current = self._running.get(slot)
        if current is not None:
            if current[1].key == key and not current[2].is_set():
                self._waiting.pop(slot, None)
                return
            if not moving:
                current[2].set()
            self._waiting[slot] = wanted
            return
        self._start(wanted)

    def _start(self, wanted: _Wanted) -> None:
        self._number += 1
        stop = threading.Event()
        self._running[wanted.slot] = (self._number, wanted, stop)
        pool = self._behind if wanted.behind else self._pool
        self._clear_road()
        pool.start(_Task(self._bridge, self._number, wanted, stop, self._road))
        if not wanted.moving:
            self.busy_changed.emit()

    def _clear_road(self) -> None:
        if any(not wanted.behind for _, wanted, _ in self._running.values()):
            self._road.clear()
        else:
            self._road.set()

    def _progressed(self, slot: str, share: float) -> None:
        if slot in self._running:
            self.progress.emit(slot, share)

    def _arrived(self, outcome: Outcome, number: int) -> None:
        running = self._running.get(outcome.slot)
        if running is None or running[0] != number:
            return
        superseded = running[2].is_set()
        del self._running[outcome.slot]
        self._clear_road()
        waiting = self._waiting.pop(outcome.slot, None)
        if waiting is not None:
            self._start(waiting)
        if outcome.error != "cancelled" and not superseded:
            self.finished.emit(outcome)
        if not outcome.moving:
            self.busy_changed.emit()

    def any_busy(self) -> bool:
        """Tell whether any slot is at work."""
        return bool(self._running)

    def busy(self, slot: str) -> bool:
        """Tell whether a slot is at work."""
        return slot in self._running

    def cancel(self, slot: str) -> None:
        """Withdraw what a slot is doing and what waits for it."""
        self._waiting.pop(slot, None)
        if slot in self._running:
            self._running[slot][2].set()

    def stop(self) -> bool:
        """Withdraw everything that is being done or waits; tell whether there was anything."""
        found = list({**self._running, **self._waiting})
        for slot in found:
            self.cancel(slot)
        return bool(found)

    def shut_down(self) -> None:
        """Cancel everything and wait for the threads to end."""
        for slot in list(self._running):
            self.cancel(slot)
        self._running.clear()
        self._road.set()
        for pool in (self._pool, self._behind):
            pool.clear()
            pool.waitForDone(10000)
