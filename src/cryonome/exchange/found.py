"""What was read of sheets: blocks with the meaning of each column, the things made of them, and notes of what was
assumed or left out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..document import Fluid, Sample
from ..document.field_types import Cell
from .brines import Brine

SAID, ASSUMED, CHOSEN, UNREAD = "said", "assumed", "chosen", "not read"
"""How sure the meaning of a column is: the sheet says it, it is assumed, the user chose it, or the column is not
read."""


DOUBTFUL = "two readings"
"""Stands in the note of a number that is not read since a comma or a point in it has two readings."""


@dataclass(frozen=True)
class Note:
    """Something about a cell: it was ``assumed`` to mean something, or it was not read at all."""

    place: str
    text: str
    assumed: bool = False

    def __post_init__(self) -> None:
        # A cell may hold several lines; a note is one.
        object.__setattr__(self, "text", " ".join(self.text.split()) if "\n" in self.text else self.text)

    def __str__(self) -> str:
        return f"{self.place}: {self.text}"


@dataclass(frozen=True)
class Choice:
    """What a column is to be taken for, in place of what was read; nothing where the reading stands."""

    meaning: str = ""
    unit: str = ""
    basis: str = ""


Choices = Mapping[tuple[str, int, int], Choice]
"""Choices by sheet, row and column of the column's first value."""


@dataclass(frozen=True)
class ColumnRead:
    """A column of a block: where its values begin, its header as it stands, what it was taken for, in which unit and
    on which basis, and how sure that is; ``sample`` names the values' sample where several stand side by side, and
    ``shown`` are its first cells."""

    key: tuple[str, int, int]
    header: str
    meaning: str
    unit: str = ""
    basis: str = ""
    sure: str = SAID
    sample: str = ""
    shown: tuple[str, ...] = ()
    across: bool = False


@dataclass
class Test:
    """A laboratory test as it was reported: kind, temperature, single values, and columns by key, in the order of the
    rows; units are written with each value. ``title`` is the line it stands under."""

    kind: str
    title: str = ""
    temperature: Cell = None
    singles: dict[str, Cell] = field(default_factory=dict)
    columns: dict[str, list[Cell]] = field(default_factory=dict)
    dew: bool = False
    gas: str = ""


@dataclass(frozen=True)
class Block:
    """A table of a sheet and what was made of it: samples, fluids or tests. ``rows`` are its cells along its axis,
    ``heads`` the headers of their columns and ``keys`` what choices about these are kept under."""

    sheet: str
    kind: str
    title: str
    place: str
    columns: tuple[ColumnRead, ...] = ()
    samples: tuple[Sample, ...] = ()
    fluids: tuple[Fluid, ...] = ()
    tests: tuple[Test, ...] = ()
    brines: tuple[Brine, ...] = ()
    notes: tuple[Note, ...] = ()
    key: tuple[str, int, int] = ("", 0, 0)
    heads: tuple[str, ...] = ()
    keys: tuple[tuple[str, int, int], ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()

    def column(self, place: int) -> ColumnRead | None:
        """Return what the column at a place of ``rows`` was taken for, None where nothing was said of it."""
        return next((c for c in self.columns if c.key == self.keys[place]), None)

    @property
    def holds(self) -> bool:
        """Tell whether anything was made of it."""
        return bool(self.samples or self.fluids or self.tests or self.brines)


@dataclass(frozen=True)
class Found:
    """What was read: the blocks in the order of the sheets, and what is to be said of the sheets themselves."""

    blocks: tuple[Block, ...] = ()
    told: tuple[Note, ...] = ()

    @property
    def samples(self) -> tuple[Sample, ...]:
        """Return the samples of all blocks."""
        return tuple(s for b in self.blocks for s in b.samples)

    @property
    def fluids(self) -> tuple[Fluid, ...]:
        """Return the fluids of all blocks."""
        return tuple(f for b in self.blocks for f in b.fluids)

    @property
    def tests(self) -> tuple[Test, ...]:
        """Return the laboratory tests of all blocks."""
        return tuple(t for b in self.blocks for t in b.tests)

    @property
    def brines(self) -> tuple[Brine, ...]:
        """Return the waters of all blocks."""
        return tuple(w for b in self.blocks for w in b.brines)

    @property
    def notes(self) -> tuple[Note, ...]:
        """Return all notes."""
        return (*self.told, *(n for b in self.blocks for n in b.notes))

    @property
    def holds(self) -> bool:
        """Tell whether anything was made of the sheets."""
        return any(b.holds for b in self.blocks)

    @property
    def sure(self) -> bool:
        """Tell whether everything can be taken as it is: one kind of thing, each column's meaning, unit and basis
        said, nothing in doubt."""
        doubtful = any(c.sure == ASSUMED for b in self.blocks for c in b.columns) or any(
            DOUBTFUL in n.text for n in self.notes
        )
        several = len({b.kind for b in self.blocks if b.holds}) > 1
        return self.holds and not doubtful and not several and not self.tests
