"""The page *Lab tests*: what a laboratory would measure of the fluid, drawn over pressure with what it did measure."""

from __future__ import annotations

from ..shared.desk import DeskEntry, register
from ..shared.panel_desk import PanelDesk


class LabTestsDesk(PanelDesk):
    """Simulated laboratory tests."""

    kinds = ("expansion", "depletion", "liberation", "viscosity", "swelling")
    name = "Lab tests"


register(
    DeskEntry(
        key="tests", title="Lab tests", order=52, apart=True, make=LabTestsDesk, mark=lambda _live: "done", card="answers", kinds=LabTestsDesk.kinds,
        needs="fluid", line=lambda live: f"{sum(s.kind in LabTestsDesk.kinds for s in live.kept())} kept",
        help=(
            "A test of the laboratory, simulated: expansion, depletion, liberation, viscosity, swelling by gas.",
            "The sentence says at which temperature and over which pressures; a range and a list are both possible.",
            "Squares are measured values, where the question carries some; lines are the model's.",
            "The dashed line is the saturation pressure that the model finds.",
            "Other tests stand behind 'or ask'.",
            "Paste a report on the page Match to bring measured values in.",
            "The table has every row of the test; copy gives full precision.",
            "Ctrl+Enter keeps a draft on the shelf.",
            "Parameters are tuned to tests on the page Match.",
            "`cryonome solve` answers the kept question with the same numbers.",
        ),
    )
)  # fmt: skip
