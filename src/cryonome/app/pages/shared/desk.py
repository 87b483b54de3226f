"""What every desk shares, and the registry they enter themselves in.

A desk is a page of the window. Its file ends with ``register(DeskEntry(...))``; the window, the trail, the menus, the
ledger, the list of actions and the help read the registry, so that a new desk edits no list anywhere. A desk is
brought up to date when it is seen, not while it is hidden."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Any, Protocol, cast

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QWidget

from ....document import Fault, Study
from ....document.faults import PathParts
from ... import pages
from ...shell.live import Live
from ...shell.results_table import Declaration
from ...widgets.grid import GridView
from ...widgets.plot import Plot
from ...widgets.theme import LIGHT, Theme


class Host(Protocol):
    """What a desk may ask of the window it stands in."""

    def show_desk(self, key: str) -> None: ...

    def add_sample(self, wanted: str = ...) -> None: ...

    def paste(self) -> None: ...

    def import_samples(self) -> None: ...

    def import_paths(self, paths: list[Path]) -> None: ...

    def open_demo(self) -> None: ...

    def begin_asking(self, study: Study) -> None: ...


class Themed(Protocol):
    """Whatever is painted in a theme."""

    def set_theme(self, theme: Theme) -> None: ...


@dataclass(frozen=True)
class Action:
    """Something a user can do on a page: its place in the menus, its words, its shortcut and what is called with the
    page, which is made for it where it is not there yet. A ``separate`` one begins a group of its own. One that changes
    what is ``seen`` on the page opens it first."""

    menu: str
    text: str
    call: Callable[[Any], object]
    key: str = ""
    separate: bool = False
    seen: bool = False


@dataclass(frozen=True)
class Place:
    """Where an entry of the ledger leads: a desk, a page of it, and the fault whose cell is meant."""

    desk: str
    page: str = ""
    fault: Fault | None = None


class Desk(QWidget):
    """A page of the window. ``shows`` names the results it shows ("selection" for what is chosen).

    Subclasses implement :meth:`refresh`, and offer ``grids`` and ``plots`` (the main one first) and ``themed``,
    whatever else takes a theme."""

    shows: frozenset[str] = frozenset()

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._live = live
        self.theme: Theme = LIGHT
        self.grids: list[GridView] = []
        self.plots: list[Plot] = []
        self.themed: list[Themed] = []
        self._behind = True
        live.on(self.shows, self.update_desk)

    def host(self) -> Host:
        """Return the window the desk stands in."""
        return cast(Host, self.window())

    def refresh(self) -> None:
        """Show the present results."""
        raise NotImplementedError

    @classmethod
    def actions_offered(cls) -> list[Action]:
        """Return what this desk adds to the menus, whether it is made or not."""
        return []

    def show_page(self, page: str) -> None:
        """Open a page of this desk."""

    def select_cell(self, fault: Fault) -> None:
        """Select the cell a fault is of."""

    def take_files(self, paths: Sequence[Path]) -> bool:
        """Take dropped spreadsheets that are meant for this page; tell whether they were."""
        return False

    def take_paste(self, text: str) -> bool:
        """Take pasted text where the desk can make something of it as a whole; tell whether it did."""
        return False

    def place_probe(self, T: float, P: float) -> None:
        """Show the state at T K, P Pa, on a desk that shows states."""

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        parts: list[Themed] = [*self.grids, *self.plots, *self.themed]
        for part in parts:
            part.set_theme(theme)
        self.update_desk()

    def update_desk(self) -> None:
        """Refresh now where the desk is seen, else when it is opened."""
        if self.isVisible():
            self._behind = False
            self.refresh()
        else:
            self._behind = True

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._behind:
            self._behind = False
            self.refresh()


def _claims_nothing(_path: PathParts) -> str | None:
    return None


@dataclass(frozen=True)
class DeskEntry:
    """A desk: its ``key``, the ``card`` of the trail it is a page of (its own where left out), its ``title``, where it
    stands, and how it is made.

    ``mark`` ("done", "look", "open", "work") and ``line`` tell its state on the card. ``claims`` gives the page a
    path of the document or a remark's place belongs to, or None. ``needs`` is what must be chosen for it ("sample",
    "fluid" or nothing). A page that stands ``apart`` begins a group; one that is not ``there`` is not offered.
    ``kinds`` are the kinds of questions that open on it; ``declares`` the results that it alone shows (see
    :mod:`cryonome.app.shell.results_table`). ``help`` says in ten lines what it takes, does and assumes."""

    key: str
    title: str
    order: int
    make: type[Desk]
    mark: Callable[[Live], str]
    line: Callable[[Live], str]
    card: str = ""
    card_title: str = ""
    apart: bool = False
    there: Callable[[], bool] = lambda: True
    needs: str = ""
    kinds: tuple[str, ...] = ()
    claims: Callable[[PathParts], str | None] = _claims_nothing
    declares: tuple[Declaration, ...] = ()
    help: tuple[str, ...] = field(default=())


_DESKS: dict[str, DeskEntry] = {}


def register(entry: DeskEntry) -> None:
    """Enter a desk; its file does that where it is imported."""
    _DESKS[entry.key] = entry


@cache
def _discover() -> None:
    for found in pkgutil.iter_modules(pages.__path__):
        if found.name != "shared":
            importlib.import_module(f".{found.name}.page", pages.__name__)


def desk_entries() -> list[DeskEntry]:
    """Return every desk in the order of the trail."""
    _discover()
    return sorted(_DESKS.values(), key=lambda e: e.order)


def place_of(path: PathParts, fault: Fault | None = None) -> Place | None:
    """Return the desk and page that a path of the document, or a remark's place, belongs to."""
    # Pages further along the trail take fewer kinds of text and are asked first; Lab data takes what no other does.
    for entry in reversed(desk_entries()):
        page = entry.claims(path)
        if page is not None:
            return Place(entry.key, page, fault)
    return None
