"""What typed questions are read from and into: the pieces of a line, what was named in it, and what is not
understood."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ..document import Document, Study
from ..document.edits import set_at
from ..document.faults import PathParts
from ..document.kinds import StudyKind
from .own_voice import Heard
from .scan import Token
from .vocabulary import folded

LONGEST = 7
"""Words of the longest phrase."""

NO_DEFAULT = ("flash", "saturation", "roots")
"""Kinds whose conditions are all typed: there is no usual state."""

STEPS = ("steps", "step", "values", "points", "intervals")

SIZES = ("every", "by", "step")

ASKING = frozenset(
    ["sweep", "vary", "varies", "varied", "goal", "change", "changes", "makes", "becomes", "sure", "certain", "spread"]
)
"""Words of questions that ask another one, which is then named."""

RELATED: dict[str, tuple[str, ...]] = {
    "inhibitor_dose": ("hydrate", "flash", "water_content", "goal"), "water_content": ("hydrate", "flash", "saturation", "inhibitor_dose"),
    "hydrate": ("flash", "inhibitor_dose"), "table": ("flash", "viscosity"), "saturation": ("flash", "envelope"),
    "envelope": ("saturation", "flash"), "separator_optimum": ("separators", "flash"), "separators": ("flash",), "black_oil": ("separators", "flash"),
    "advice": ("flash", "roots"), "roots": ("flash", "advice", "isotherms"), "isotherms": ("flash",), "vapour_pressure": ("flash", "saturation"),
    "glycol_contact": ("saturation", "flash"), "liberation": ("flash",), "depletion": ("flash",), "expansion": ("flash",), "swelling": ("saturation", "flash"), "lumping": ("flash", "components"),
    "characterization": ("flash", "components"), "components": ("flash", "characterization"), "sweep": ("flash", "separators", "saturation"),
    "goal": ("flash", "sweep"), "path": ("hydrate", "flash"), "match": ("flash",), "viscosity": ("flash", "table"),
}  # fmt: skip
"""Kinds whose words may stand in a question of another kind without asking for it."""


@dataclass(frozen=True)
class Unclear:
    """A stretch of what was typed that is not understood, and why."""

    start: int
    end: int
    message: str


@dataclass(frozen=True)
class Understood:
    """The question that was typed, or what stands in its way."""

    study: Study | None
    unclear: tuple[Unclear, ...] = ()
    wanted: tuple[str, ...] = ()
    """Properties of a state that were asked for, as a table names them."""


class UnclearError(Exception):
    def __init__(self, *found: Unclear) -> None:
        super().__init__()
        self.found = found


@dataclass
class Piece:
    """A token with what became of it."""

    token: Token
    used: bool = False

    @property
    def word(self) -> str:
        return folded(self.token.text) if self.token.what == "word" else ""


@dataclass
class Typed:
    """A typed line: its text, the document it is about, its pieces, what was named by what it is (fluids, samples,
    studies), properties of states, and the sentence that it is where it is a kind's own."""

    text: str
    document: Document
    fluid: str = ""
    sample: str = ""
    pieces: list[Piece] = field(default_factory=list)
    names: dict[str, list[str]] = field(default_factory=dict)
    properties: list[str] = field(default_factory=list)
    found: list[tuple[int, str, str]] = field(default_factory=list)
    heard: Heard | None = None

    def property_in(self, words: str) -> str:
        """Return the property that words name, "density of the liquid", by its key; "" for none."""
        raise NotImplementedError

    def at_name(self, name: str, told: str) -> Unclear:
        """Return a complaint at the place of a name."""
        at = self.text.casefold().find(name.casefold())
        return Unclear(max(at, 0), max(at, 0) + len(name), told)


@dataclass
class Filling:
    """A question that is being filled with what was typed."""

    reader: Typed
    kind: StudyKind[Any, Any]
    study: Study
    filled_paths: set[PathParts] = field(default_factory=set)
    steps: list[tuple[int, int]] = field(default_factory=list)
    sizes: list[tuple[int, Token]] = field(default_factory=list)

    @property
    def pieces(self) -> list[Piece]:
        """What was typed."""
        return self.reader.pieces

    def _set(self, path: PathParts, value: object) -> None:
        self.study = set_at(self.study, path, value)
        self.filled_paths.add(path)

    def _fail(self, piece: Token, message: str) -> UnclearError:
        return UnclearError(Unclear(piece.start, piece.end, message))

    def _text(self, token: Token) -> str:
        return self.reader.text[token.start : token.end]
