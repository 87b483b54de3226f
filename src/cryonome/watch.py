"""Progress and cancelling of long computations: one small object that goes down into every loop."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass


class Cancelled(Exception):
    """The caller withdrew a request while it was computed."""


def _never() -> bool:
    return False


def _nowhere(_share: float) -> None:
    pass


@dataclass(frozen=True)
class Watch:
    """Who follows a computation: ``cancelled`` is asked, ``tell`` is told the share done, from ``start`` to ``end``."""

    cancelled: Callable[[], bool] = _never
    tell: Callable[[float], None] = _nowhere
    start: float = 0.0
    end: float = 1.0

    def check(self) -> None:
        """Raise :class:`Cancelled` where the request was withdrawn."""
        if self.cancelled():
            raise Cancelled

    def at(self, share: float) -> None:
        """Check, and tell the share (0 to 1) of this part that is done."""
        self.check()
        self.tell(self.start + share * (self.end - self.start))

    def silent(self) -> Watch:
        """Return the watch over a step of no length: it may cancel, and is told nothing."""
        return Watch(self.cancelled)

    def part(self, start: float, end: float) -> Watch:
        """Return the watch over a part of this one, as shares of it."""
        span = self.end - self.start
        return Watch(self.cancelled, self.tell, self.start + start * span, self.start + end * span)


UNWATCHED = Watch()
"""Nobody follows: never cancelled, nothing told."""


def _nothing() -> None:
    pass


class _Here(threading.local):
    """What is at work in this thread: ``hurry`` asks it not to give way any more, since another waits for what it
    computes."""

    hurry: Callable[[], None] = staticmethod(_nothing)


HERE = _Here()
