"""What a report is made of: headings, sentences, tables and pictures in their order, as data. Pages of HTML and of
paper are made of the same."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from ..telling.table_blocks import Block
from .figure import Figure

Look = Literal["", "mute", "strong", "fault"]


@dataclass(frozen=True)
class Heading:
    """A title of a section, ``level`` 1 or of one inside it, 2 and 3; the first two stand in the contents."""

    text: str
    level: int = 1


@dataclass(frozen=True)
class Sentence:
    """A paragraph; how it ``look``\\ s tells what it is: the answer is strong, a note mute, a fault a fault."""

    text: str
    look: Look = ""


@dataclass(frozen=True)
class Points:
    """Short sentences, one below the other."""

    texts: tuple[str, ...]


@dataclass(frozen=True)
class Picture:
    """A picture with the words below it."""

    figure: Figure
    caption: str


@dataclass(frozen=True)
class Table:
    """A table with its title; of ``hidden`` rows it is told that they are left out."""

    block: Block
    hidden: int = 0


Part = Heading | Sentence | Points | Picture | Table


@dataclass(frozen=True)
class Content:
    """A whole report: the title page's ``title``, what stands below it, ``facts`` by name, and the parts."""

    title: str
    below: str
    facts: tuple[tuple[str, str], ...]
    parts: tuple[Part, ...]
    contents: bool = True
    paper: str = "A4"
    answers: dict[str, dict[str, Any]] = field(default_factory=dict)

    @property
    def headings(self) -> list[Heading]:
        """The headings that the contents list."""
        return [p for p in self.parts if isinstance(p, Heading) and p.level < 3]
