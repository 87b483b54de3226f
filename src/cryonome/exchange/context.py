"""What a reader of one table knows beside its cells: the lines around it, the style of the sheet, the choices of the
user, and where to leave notes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from .cells import column_name
from .entries import Entry, Style, entry_of
from .fact import Fact, cell_of
from .found import ASSUMED, CHOSEN, SAID, UNREAD, Choice, Choices, ColumnRead, Note
from .raw import Raw, cell_at
from .rows import Row


@dataclass
class Context:
    """A table and what surrounds it; ``facts`` are what the lines above and below say, the nearest last."""

    sheet: str
    style: Style
    table: Raw
    facts: list[Fact]
    titles: list[str]
    choices: Choices
    name: str = ""
    notes: list[Note] = field(default_factory=list)
    columns: list[ColumnRead] = field(default_factory=list)
    used: set[Fact] = field(default_factory=set)
    total: str = ""
    lines_above: list[Row] = field(default_factory=list)
    """The rows of :attr:`titles`."""
    unit_column: int | None = None
    """The column that holds the unit of each row."""
    footnotes: dict[str, str] = field(default_factory=dict)
    """Texts of footnotes by their mark."""

    def entry(self, row: Row, column: int) -> Entry:
        """Return what stands in a cell."""
        return entry_of(cell_at(row[1], column), self.style)

    def place(self, row: int, column: int) -> str:
        """Return the name of a cell of the sheet."""
        r, c = self.table.place(row, column)
        return f"{self.sheet}, {column_name(c)}{r + 1}"

    def note(self, row: int, column: int, text: str, assumed: bool = False) -> None:
        """Note something about a cell of the table."""
        self.notes.append(Note(self.place(row, column), text, assumed))

    def note_fact(self, fact: Fact, text: str, assumed: bool = False) -> None:
        """Note something about a line."""
        self.notes.append(Note(f"{self.sheet}, {column_name(fact.column)}{fact.row + 1}", text, assumed))

    def last(self, what: str, of_plus: bool = False) -> Fact | None:
        """Return the nearest fact of a kind, None where no line says it; it counts as used."""
        for fact in reversed(self.facts):
            if fact.what == what and fact.of_plus == of_plus:
                self.used.add(fact)
                return fact
        return None

    def near(self, what: str, of_plus: bool, column: int, columns: list[int]) -> Fact | None:
        """Return the fact of a kind that stands under a column, or between it and the next of ``columns``; with one
        column in all the nearest fact wherever it stands."""
        if len(columns) <= 1:
            return self.last(what, of_plus)
        after = min((c for c in columns if c > column), default=10**9)
        found = [f for f in self.facts if f.what == what and f.of_plus == of_plus]
        own = [f for f in found if column <= f.column < after]
        if own:
            self.used.add(own[-1])
            return own[-1]
        return None

    def all(self, what: str, of_plus: bool = False) -> list[Fact]:
        """Return the facts of a kind, in their order; they count as used."""
        found = [f for f in self.facts if f.what == what and f.of_plus == of_plus]
        self.used |= set(found)
        return found

    def key(self, column: int) -> tuple[str, int, int]:
        """Return what a column's choices are kept under: its sheet and the place of its first value."""
        row, c = self.table.place(self.table.body[0][0], column)
        return (self.sheet, row, c)

    def choice(self, column: int) -> Choice:
        """Return what the user chose for a column."""
        return self.choices.get(self.key(column), Choice())

    def read(
        self, column: int, meaning: str, unit: str = "", basis: str = "", assumed: bool = False, sample: str = ""
    ) -> None:
        """List what a column was taken for."""
        shown = [cell_at(cells, column) for _, cells in self.table.body[:3]]
        sure = (
            CHOSEN if self.choice(column) != Choice() else UNREAD if meaning == UNREAD else ASSUMED if assumed else SAID
        )
        self.columns.append(
            ColumnRead(
                self.key(column), self.table.head(column), meaning, unit, basis, sure, sample, tuple(s for s in shown if s), self.table.across
            )
        )  # fmt: skip

    def head_row(self) -> int:
        """Return the row in which the header of the table stands."""
        first = self.table.body[0][0]
        return min(max(self.table.top, 0), first) if not self.table.across else 0

    def doubt(self, row: Row, column: int) -> bool:
        """Note a number that has two readings; tell whether it has."""
        one = self.entry(row, column)
        if one.kind != "doubt":
            return False
        digits = one.text.split()[0]
        self.note(
            row[0],
            column,
            f"'{one.text}' has two readings and nothing on the sheet tells which; it is not read. Write {digits.replace(',', '')} or {digits.replace(',', '.')}",
        )
        return True


def quantity(one: Entry, unit: str) -> str | float:
    """Return a number as a document keeps it: with the unit of its cell or its column."""
    return cell_of(one.value, unit) if unit else one.value


def joined(texts: Iterable[str]) -> str:
    """Return words after each other with commas and an "and"."""
    parts = list(texts)
    return parts[0] if len(parts) == 1 else f"{', '.join(parts[:-1])} and {parts[-1]}" if parts else ""
