"""The page *Line size*: every size of a schedule with what flows in it, which pass, and what governs."""

from __future__ import annotations

from typing import Any

from ....telling.pipe_tables import size_block
from ....telling.table_blocks import Block
from ...shell.live import Live
from ..shared.desk import DeskEntry, register
from ..shared.panel_desk import PanelDesk


class LineSizeDesk(PanelDesk):
    """Pipes of a schedule within limits."""

    kinds = ("line_size",)
    name = "Line size"

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return the sizes, a row each."""
        return [size_block(answer, self._live.units_of(self.study()))]


def _line(live: Live) -> str:
    count = sum(s.kind == "line_size" for s in live.kept())
    return f"{count} line{'s' if count != 1 else ''}"


register(
    DeskEntry(
        key="sizes", title="Line size", order=51, make=LineSizeDesk, mark=lambda _live: "done", card="answers", kinds=LineSizeDesk.kinds,
        needs="fluid", line=_line,
        help=(
            "Which pipe carries a stream: nominal sizes of ASME B36.10 from 1/2 to 48 in, by schedule 5 to 160, STD, XS or XXS.",
            "Limits are typed in the sentence: a gradient, a velocity, C of the erosional velocity C/√ρ (API RP 14E, 100), and ρv².",
            "The answer is the least size that passes, and what the next smaller one fails by.",
            "One phase flows by Darcy and Colebrook; two by Beggs and Brill (1973) with Payne's corrections, or as homogeneous.",
            "A size that chokes has no gradient; it is told.",
            "With a length the fall of pressure stands beside; above a tenth of the pressure a line profile is the better question.",
            "The dashed lines of the picture are the limits, the upright one the least size that passes.",
            "Roughness, length and inclination stand in the clauses that are grey until touched.",
            "Ctrl+Enter keeps a draft on the shelf.",
            "`cryonome solve` answers the kept question with the same numbers.",
        ),
    )
)  # fmt: skip
