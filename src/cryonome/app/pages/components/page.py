"""The page *Components* of a fluid: the card of every component, and what its sample consists of."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from ....document import Study
from ....document.kinds import study_kinds
from ....telling.table_blocks import Block, of_key
from ...shell.live import Live
from ..shared.desk import DeskEntry, register
from ..shared.panel_desk import PanelDesk

COLUMNS = {
    "mole_fraction": "mol", "mass_fraction": "mass", "molar_mass_g_mol": "M", "Tc_K": "Tc", "Pc_Pa": "Pc", "omega": "ω", "Vc_m3_mol": "Vc", "nbp_K": "boils at",
    "density_kg_m3": "density", "kappa": "κ", "parachor": "parachor", "vapour_pressure_Pa": "vapour pressure", "formula": "formula", "cas": "CAS",
}  # fmt: skip
"""What a card shows, in its order, with the head of its column."""


class ComponentsDesk(PanelDesk):
    """Constants of components, searched and sorted."""

    kinds = ("components", "characterization")
    name = "Components"

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.body.setSizes([360, 660])

    def extras(self, column: QVBoxLayout) -> None:
        """Add the search."""
        self.search = QLineEdit()
        self.search.setAccessibleName("Search components")
        self.search.setPlaceholderText("search a name, formula or CAS number")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(lambda _t: self.refresh())
        column.insertWidget(0, self.search)

    def refresh(self) -> None:
        super().refresh()
        study = self.study()
        self.search.setVisible(study is not None and study.kind == "components")

    def is_own(self, study: Study) -> bool:
        """Tell whether a question is about what is chosen, or about the databank alone."""
        if study.kind == "components" and not getattr(study, "fluid", ""):
            return study is self._live.current_study()
        return super().is_own(study)

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return a row a component, in the reader's units; those alone that were searched for."""
        study = self.study()
        if study is None or study.kind != "components":
            return super().blocks(answer)
        units = self._live.units_of(study).of_states()
        words = self.search.text().casefold().split()
        cards = [
            (i, c)
            for i, c in enumerate(answer["components"])
            if all(w in f"{c['name']} {c['formula']} {c['cas']}".casefold() for w in words)
        ]
        keys = [k for k in COLUMNS if any(c.get(k) not in (None, "") for _, c in cards)]
        heads, rows, paths = [("component", "")], [[c["name"]] for _, c in cards], [[""] for _ in cards]
        for key in keys:
            shown = of_key(key, units)
            share = key.endswith("_fraction")
            heads.append((COLUMNS[key], "%" if share else shown.head[1]))
            for (i, c), row, own in zip(cards, rows, paths):
                value = c.get(key)
                number = isinstance(value, (int, float))
                row.append(
                    f"{100 * value:.4g}" if share and number else shown.text(value) if number else str(value or "")
                )
                own.append(f"components[{i}].{key}" if number else "")
        return [Block("", heads, rows, paths)]


register(
    DeskEntry(
        key="components", title="Components", order=31, make=ComponentsDesk, mark=lambda live: "done" if live.fluid_name else "open", card="fluid",
        kinds=ComponentsDesk.kinds, needs="fluid", line=lambda _live: study_kinds()["components"].meaning,
        help=(
            "Every component of the fluid with its constants: databank, pseudo-components and cuts alike.",
            "Search finds a name, a formula or a CAS number.",
            "With a temperature in the sentence each component's vapour pressure there stands beside its constants, by the fluid's equation.",
            "κ is the constant of the alpha function of a cubic equation, from the acentric factor.",
            "Densities are at 60 °F; those of gases are apparent ones of the liquid.",
            "'characterization' asks what the fluid's sample consists of: its cuts with their curve.",
            "Right-click a number for its unit, to vary it, or to read it in a sweep.",
            "Copy gives the table with its headers in full precision.",
            "The databank alone is asked by typing, as: components methane, propane at 20 C (Ctrl+K).",
            "`cryonome solve` answers the kept question with the same numbers.",
        ),
    )
)  # fmt: skip
