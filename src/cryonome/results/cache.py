"""What was computed, remembered by the content of its inputs: one computation of a key at a time, the least recently
used dropped first."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import TypeVar, cast

from ..watch import HERE, UNWATCHED, Watch

T = TypeVar("T")

TURN = 0.05
"""Seconds after which who waits for another's computation looks whether it is still wanted."""


class _Underway:
    """A computation that is being made: by which thread, when it ended, and how to ask it not to give way."""

    def __init__(self) -> None:
        self.thread = threading.get_ident()
        self.ended = threading.Event()
        self.hurry = HERE.hurry


class Cache:
    """A bounded store of results by key. Safe for threads."""

    def __init__(self, size: int = 128) -> None:
        self._size = size
        self._lock = threading.Lock()
        self._items: OrderedDict[object, object] = OrderedDict()
        self._underway: dict[object, _Underway] = {}
        self.computed = 0

    def get(self, key: Hashable, compute: Callable[[], T], watch: Watch = UNWATCHED) -> T:
        """Return the result of ``key``, computing it where it is not there; where another thread is at it, wait for
        that. Raises Cancelled while it waits."""
        while True:
            with self._lock:
                if key in self._items:
                    self._items.move_to_end(key)
                    return cast(T, self._items[key])
                other = self._underway.get(key)
                if other is None or other.thread == threading.get_ident():
                    mine = _Underway()
                    self._underway[key] = mine
                    break
            other.hurry()
            while not other.ended.wait(TURN):
                watch.check()
        try:
            value = compute()
            self.computed += 1
            self.put(key, value)
            return value
        finally:
            with self._lock:
                if self._underway.get(key) is mine:
                    del self._underway[key]
            mine.ended.set()

    def put(self, key: Hashable, value: object) -> None:
        """Keep a result, the newest of its key."""
        with self._lock:
            self._items[key] = value
            self._items.move_to_end(key)
            while len(self._items) > self._size:
                self._items.popitem(last=False)

    def peek(self, key: Hashable) -> object | None:
        """Return the result of ``key`` if it is there, without computing."""
        with self._lock:
            return self._items.get(key)

    def forget(self, key: Hashable) -> None:
        """Forget one result."""
        with self._lock:
            self._items.pop(key, None)

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._items.clear()
