"""The page *Which equation*: the equations of state against what the fluid needs, as a plain table."""

from __future__ import annotations

from typing import Any

from ....telling.table_blocks import Block
from ..shared.desk import DeskEntry, register
from ..shared.panel_desk import PanelDesk


class AdviceDesk(PanelDesk):
    """Advice on equations of state."""

    kinds = ("advice",)
    name = "Which equation"

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return a row an equation: the verdict, why, and where it was published."""
        rows = []
        for r in answer["ranked"]:
            reasons = list(r["reasons"]) or [""]
            rows.append([r["eos"], r["verdict"], reasons[0], r.get("source", "")])
            rows += [["", "", reason, ""] for reason in reasons[1:]]
        return [Block("", [("equation", ""), ("verdict", ""), ("why", ""), ("published", "")], rows)]


register(
    DeskEntry(
        key="advice", title="Which equation", order=54, make=AdviceDesk, mark=lambda _live: "done", card="answers", kinds=AdviceDesk.kinds,
        needs="fluid", line=lambda _live: "equations against the fluid",
        help=(
            "The equations of state this program has, the best first for the fluid and the conditions in the sentence.",
            "Each verdict has its reasons: what the equation was made for, and what of this fluid it does not know.",
            "'fits', 'with care' and 'unfit' are judged from published ranges, not computed.",
            "Type other temperatures and pressures to judge it there.",
            "The equation itself is chosen on the page Model.",
            "Compare equations on one state with 'beside' on the page State.",
            "Isotherms of a pure fluid show an equation against measurements.",
            "Ctrl+Enter keeps a draft on the shelf.",
            "Copy gives the table with its headers.",
            "`cryonome solve` answers the kept question alike.",
        ),
    )
)  # fmt: skip
