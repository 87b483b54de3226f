"""Work off the interface thread: frozen requests, newest wins, results come back as signals."""

from __future__ import annotations

import contextlib
import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from ..studies import Cancelled

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Outcome:
    """What came of a request: its key and either a value or the sentence why there is none."""

    slot: str
    key: object
    value: Any = None
    error: str = ""


class _Bridge(QObject):
    done = Signal(object, int)


class _Task(QRunnable):
    def __init__(self, bridge: _Bridge, number: int, slot: str, key: object, work: Callable[[], Any]) -> None:
        super().__init__()
        self._bridge, self._number, self._slot, self._key, self._work = bridge, number, slot, key, work

    def run(self) -> None:
        try:
            outcome = Outcome(self._slot, self._key, self._work())
        except Cancelled:
            outcome = Outcome(self._slot, self._key, error="cancelled")
        except (ValueError, ArithmeticError) as error:
            outcome = Outcome(self._slot, self._key, error=str(error))
        except Exception as error:
            log.exception("a computation failed")
            outcome = Outcome(self._slot, self._key, error=f"the computation failed unexpectedly: {error}")
        with contextlib.suppress(RuntimeError):  # the window closed while this was computed
            self._bridge.done.emit(outcome, self._number)


class Jobs(QObject):
    """Runs at most one request a slot; a newer request cancels the older one and takes its place."""

    finished = Signal(object)
    busy_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(3)
        self._bridge = _Bridge(self)
        self._bridge.done.connect(self._arrived)
        self._number = 0
        self._running: dict[str, tuple[int, object, threading.Event]] = {}
        self._waiting: dict[str, tuple[object, Callable[[Callable[[], bool]], Any]]] = {}

    def submit(self, slot: str, key: object, work: Callable[[Callable[[], bool]], Any]) -> None:
        """Ask for ``work(cancelled)``; the outcome arrives through :attr:`finished` unless superseded.

        While a slot is at work the newest request waits, and those between are dropped.
        """
        current = self._running.get(slot)
        if current is not None:
            if current[1] == key and not current[2].is_set():
                self._waiting.pop(slot, None)
                return
            current[2].set()
            self._waiting[slot] = (key, work)
            return
        self._start(slot, key, work)

    def _start(self, slot: str, key: object, work: Callable[[Callable[[], bool]], Any]) -> None:
        self._number += 1
        stop = threading.Event()
        self._running[slot] = (self._number, key, stop)
        self._pool.start(_Task(self._bridge, self._number, slot, key, lambda: work(stop.is_set)))
        self.busy_changed.emit()

    def _arrived(self, outcome: Outcome, number: int) -> None:
        running = self._running.get(outcome.slot)
        if running is None or running[0] != number:
            return
        superseded = running[2].is_set()
        del self._running[outcome.slot]
        waiting = self._waiting.pop(outcome.slot, None)
        if waiting is not None:
            self._start(outcome.slot, *waiting)
        # A finished answer is shown even when a newer one is on its way: a probe must keep moving.
        if outcome.error != "cancelled" and (not superseded or outcome.slot == "probe"):
            self.finished.emit(outcome)
        self.busy_changed.emit()

    def busy(self, slot: str) -> bool:
        """Tell whether a slot is at work."""
        return slot in self._running

    def cancel(self, slot: str) -> None:
        """Withdraw what a slot is doing and what waits for it."""
        self._waiting.pop(slot, None)
        if slot in self._running:
            self._running[slot][2].set()

    def shut_down(self) -> None:
        """Cancel everything and wait for the threads to end."""
        for slot in list(self._running):
            self.cancel(slot)
        self._running.clear()
        self._pool.waitForDone(10000)
