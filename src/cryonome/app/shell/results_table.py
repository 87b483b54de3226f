"""The table of results on screen: what each depends on, its value, and whether it is older than its input. Knows no Qt.

A result is declared once, as a function from the session to requests: a key made of its inputs and how to compute it.
The table asks for what is new, keeps the last good value meanwhile, and drops what comes late. The Qt side
(:mod:`live`) only carries requests to threads and outcomes back."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from ...document import Fault
from ...errors import DomainError
from ...kernels import ready
from ...watch import UNWATCHED, Watch

Work = Callable[[Watch], Any]


@dataclass(frozen=True)
class Request:
    """What a result is wanted of: the ``key`` of its inputs and the ``work`` that computes it.

    ``at_once`` is computed where it is asked for (some 10 ms, once the solvers are compiled); everything else goes to
    a thread after ``pause`` ms. A result that cannot be computed carries an ``error`` in place of work, and the
    ``faults`` of its input. ``moving`` ones are shown even when a newer request about the same (the first part of the
    key) has been made meanwhile, as a pointer's reading is; those ``behind`` are computed one at a time."""

    key: object
    work: Work | None
    at_once: bool = False
    pause: int = 0
    error: str = ""
    faults: tuple[Fault, ...] = ()
    moving: bool = False
    behind: bool = False


@dataclass(frozen=True)
class Shown:
    """A result on screen: the value last computed, whether it is older than the input, and why."""

    value: Any = None
    old: bool = False
    error: str = ""
    faults: tuple[Fault, ...] = ()


NOTHING = Shown()

Declaration = Callable[[Any, "Results"], Iterable[tuple[str, Request]]]
"""A function that yields (name, request) of the results it declares, for a session and the table so far."""


@dataclass
class _Row:
    key: object = None
    shown: Shown = NOTHING


@dataclass
class Results:
    """Every result by its name, from the declarations in their order; one may read what stands before it."""

    declarations: tuple[Declaration, ...]
    _rows: dict[str, _Row] = field(default_factory=dict)

    def __getitem__(self, name: str) -> Shown:
        """Return a result as it is shown; nothing where it is not declared now."""
        row = self._rows.get(name)
        return row.shown if row is not None else NOTHING

    def family(self, prefix: str) -> Mapping[str, Shown]:
        """Return the results whose names begin with ``prefix:``, by the rest of their name."""
        return {n.partition(":")[2]: r.shown for n, r in self._rows.items() if n.startswith(f"{prefix}:")}

    def names(self) -> tuple[str, ...]:
        """Return the names of all results."""
        return tuple(self._rows)

    def key(self, name: str) -> object:
        """Return the key a result is wanted for."""
        row = self._rows.get(name)
        return row.key if row is not None else None

    def refresh(self, session: Any, only: tuple[Declaration, ...] = ()) -> tuple[set[str], dict[str, Request]]:
        """Bring every result in step with the session, or those of some declarations ``only``; return the names that
        changed and what is to be computed."""
        changed: set[str] = set()
        wanted: dict[str, Request] = {}
        present: set[str] = set()
        for declare in only or self.declarations:
            for name, request in declare(session, self):
                present.add(name)
                row = self._rows.setdefault(name, _Row())
                if row.key == request.key and request.key is not None:
                    if row.shown.faults != request.faults:
                        row.shown = replace(row.shown, faults=request.faults)
                        changed.add(name)
                    continue
                changed.add(name)
                row.key = request.key
                kept = row.shown.value
                if request.error or request.work is None:
                    row.shown = Shown(kept, kept is not None, request.error, request.faults)
                elif request.at_once and ready():
                    row.shown = _computed(request, kept)
                else:
                    row.shown = Shown(kept, True, "", request.faults)
                    wanted[name] = request
        for name in set() if only else set(self._rows) - present:
            changed.add(name)
            del self._rows[name]
        return changed, wanted

    def arrive(self, name: str, key: object, value: Any, error: str, moving: bool = False) -> bool:
        """Take an outcome; False where it is of another input than the one wanted now, and is dropped."""
        row = self._rows.get(name)
        if row is None:
            return False
        late = row.key != key
        if late and not (moving and _about(row.key) == _about(key)):
            return False
        if error:
            row.shown = Shown(row.shown.value, row.shown.value is not None, error, row.shown.faults)
        else:
            row.shown = Shown(value, late, "", row.shown.faults)
        return True

    def forget(self, *names: str) -> None:
        """Drop the values of results, as when another fluid is chosen: a stale one must never pass for the new
        one's."""
        for name in names:
            for known in [n for n in self._rows if n == name or n.startswith(f"{name}:")]:
                self._rows[known] = _Row()

    def forget_all(self) -> None:
        """Drop every value, as when another document is opened: what bears the same name there is another thing."""
        self._rows = {name: _Row() for name in self._rows}


def _about(key: object) -> object:
    """Return what a moving result is about: the first part of its key. A late one of another subject is never shown."""
    return key[0] if isinstance(key, tuple) and key else key


def _computed(request: Request, kept: Any) -> Shown:
    assert request.work is not None
    try:
        return Shown(request.work(UNWATCHED), False, "", request.faults)
    except DomainError as error:
        return Shown(kept, kept is not None, str(error), request.faults)
