"""The page of questions that have no page of their own: sentence, picture and table as their kind declares them."""

from __future__ import annotations

from functools import cache

from PySide6.QtWidgets import QWidget

from ....document.kinds import study_kinds
from ...shell.live import Live
from ..shared.desk import DeskEntry, desk_entries, register
from ..shared.panel_desk import PanelDesk


@cache
def unclaimed(kinds: tuple[str, ...]) -> tuple[str, ...]:
    """Return the kinds that no page names."""
    claimed = {k for e in desk_entries() for k in e.kinds}
    return tuple(k for k in kinds if k not in claimed)


class OtherDesk(PanelDesk):
    """Questions of every other kind."""

    name = "Other questions"

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        self.kinds = unclaimed(tuple(study_kinds()))
        super().__init__(live, parent)


register(
    DeskEntry(
        key="other", title="Other", order=55, make=OtherDesk, mark=lambda _live: "done", card="answers", line=lambda _live: "other questions",
        there=lambda: bool(unclaimed(tuple(study_kinds()))), claims=lambda path: "" if path[:1] == ("studies",) else None,
        help=(
            "Questions of kinds that have no page of their own.",
            "The sentence is made of the cells of the question; type in any of them.",
            "Lists of parts are rows below it.",
            "The answer stands in full in the table, in your units.",
            "Ctrl+Enter keeps a draft on the shelf.",
            "`cryonome solve` answers the kept question with the same numbers.",
        ),
    )
)  # fmt: skip
