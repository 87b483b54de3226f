"""The page *Separation*: a fluid through its separators, the best pressures, black-oil tables and fewer components."""

from __future__ import annotations

from ....fluids.fluid_lumping import taken_over
from ..shared.desk import Action, DeskEntry, register
from ..shared.panel_desk import PanelDesk


class SeparationDesk(PanelDesk):
    """Separator trains, their optimum, what follows for a reservoir simulator."""

    kinds = ("separators", "separator_optimum", "black_oil", "lumping")
    name = "Separation"

    def take_over(self) -> None:
        """Take the fluid of a lumping into the project, with its tests and a match of its own."""
        study, answer = self.study(), self.answer()
        if study is None or answer is None or study.kind != "lumping":
            self.told.setText("Ask for fewer components first: this takes over the lumped fluid.")
            self.told.setVisible(True)
            return
        self.keep()
        self._live.store.edit("Take over the lumped fluid", lambda d: taken_over(d, answer))
        self._live.select_fluid(self._live.document.fluids[-1].name)
        self.host().show_desk("match")

    @classmethod
    def actions_offered(cls) -> list[Action]:
        return [Action("&Answers", "Take over the lumped fluid", cls.take_over, "Ctrl+Alt+U", seen=True)]


register(
    DeskEntry(
        key="separation", title="Separation", order=53, make=SeparationDesk, mark=lambda _live: "done", card="answers",
        kinds=SeparationDesk.kinds, needs="fluid", line=lambda live: f"{sum(s.kind in SeparationDesk.kinds for s in live.kept())} kept",
        help=(
            "A fluid taken through its separators to the stock tank: type the stages as rows, the last is the tank.",
            "'Best separator pressures' finds those that give most oil, with the curve about each.",
            "'Black-oil tables' are for a reservoir simulator: both branches, checked for sense.",
            "'Fewer components' joins components and says what that costs on the tests and the envelope.",
            "Take over the lumped fluid puts it into the project as a fluid of its own.",
            "The feed is the saturated fluid at a temperature, or at a temperature and pressure that you type.",
            "The table has every stage; copy gives full precision.",
            "Ctrl+Enter keeps a draft on the shelf.",
            "A stream of a separator is a fluid for other questions once the question is kept.",
            "`cryonome solve` answers the kept question with the same numbers.",
        ),
    )
)  # fmt: skip
