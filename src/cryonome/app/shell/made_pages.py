"""The pages of the window by their keys, each made when it is first asked for: a window is there sooner, and who never
opens a page never waits for it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from PySide6.QtCore import QTimer

from ..pages.shared.desk import Desk, desk_entries

BETWEEN = 30
"""Milliseconds between two pages that are made ahead, so that what is typed meanwhile is not held up."""


class MadePages(Mapping[str, Desk]):
    """Every page by its key; ``make`` makes one."""

    def __init__(self, make: Callable[[str], Desk]) -> None:
        self._make = make
        self._made: dict[str, Desk] = {}
        self._keys = [e.key for e in desk_entries()]

    def __getitem__(self, key: str) -> Desk:
        if key not in self._made:
            if key not in self._keys:
                raise KeyError(key)
            self._made[key] = self._make(key)
        return self._made[key]

    def __contains__(self, key: object) -> bool:
        return key in self._keys

    def __iter__(self) -> Iterator[str]:
        return iter(self._keys)

    def __len__(self) -> int:
        return len(self._keys)

    def made(self) -> list[Desk]:
        """Return the pages that have been asked for."""
        return list(self._made.values())

    def make_ahead(self, owner: QTimer, then: Callable[[], object]) -> None:
        """Make the others one by one while nothing else is to be done, by a timer that lives as long as the window;
        ``then`` is called when all are there."""

        def one() -> None:
            key = next((k for k in self._keys if k not in self._made), None)
            if key is None:
                owner.stop()
                then()
            else:
                self[key]

        owner.timeout.connect(one)
        owner.start(BETWEEN)
