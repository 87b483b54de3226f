"""How a table fits on a page: the widths of its columns, words wrapped, and what has no room beside below."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...reporting.html import left_columns
from ...reporting.parts import Table
from .type_setting import Face, wrapped

GAP = 9.0
"""Points between columns."""
LEAST = 64.0
"""Points a column of words may be pressed to."""


@dataclass(frozen=True)
class Laid:
    """A part of a table that fits: which columns, their widths, the lines of their heads, and whether of words."""

    columns: tuple[int, ...]
    widths: tuple[float, ...]
    heads: tuple[tuple[str, ...], ...]
    left: tuple[bool, ...]

    @property
    def width(self) -> float:
        """How wide it is, points."""
        return sum(self.widths) + GAP * (len(self.widths) - 1)

    @property
    def head_lines(self) -> int:
        """Lines that the heads take."""
        return max((len(h) for h in self.heads), default=0)

    def lines(self, row: Sequence[str], face: Face) -> list[list[str]]:
        """Return the lines of each cell of a row."""
        cells = [row[j] if j < len(row) else "" for j in self.columns]
        return [wrapped(c, face, w + 0.01) for c, w in zip(cells, self.widths)]


def fitted(table: Table, room: float, face: Face, head: Face) -> list[Laid]:
    """Return a table as parts that each fit into ``room`` points, the first column in each of them."""
    block = table.block
    left = left_columns(table)
    heads = [_head(*(block.columns[j] if j < len(block.columns) else ("", "")), head) for j in range(len(left))]
    natural = []
    for j in range(len(left)):
        cells = [face.width(row[j]) for row in block.rows if j < len(row)]
        natural.append(max([*cells, *(head.width(line) for line in heads[j])], default=0.0))
    widths = _pressed(natural, left, room)
    groups: list[list[int]] = [[]]
    for j, width in enumerate(widths):
        own = groups[-1]
        taken = sum(widths[k] + GAP for k in own)
        if own and own != [0] and taken + width > room:
            groups.append([0])
        groups[-1].append(j)
    return [
        Laid(tuple(g), tuple(min(widths[j], room) for j in g), tuple(tuple(heads[j]) for j in g), tuple(left[j] for j in g))
        for g in groups
        if g
    ]  # fmt: skip


def _pressed(natural: Sequence[float], left: Sequence[bool], room: float) -> list[float]:
    """Return widths of columns: as their cells want, those of words pressed where there is not that much room."""
    widths = list(natural)
    words = [j for j, own in enumerate(left) if own]
    for _ in range(40):
        over = sum(widths) + GAP * (len(widths) - 1) - room
        widest = max((j for j in words if widths[j] > LEAST), key=lambda j: widths[j], default=None)
        if over <= 0.0 or widest is None:
            break
        widths[widest] = max(LEAST, widths[widest] - max(over / 3.0, 8.0) if over > 8.0 else widths[widest] - over)
    return widths


def _head(name: str, unit: str, face: Face) -> list[str]:
    """Return the lines of a head: a name of several words is wrapped, its unit below."""
    longest = max((face.width(w) for w in name.split()), default=0.0)
    lines = wrapped(name, face, max(longest, 52.0)) if name else []
    return [*lines, unit] if unit else lines
