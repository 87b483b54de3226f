"""The phases of a state by what they consist of: bars over carbon number, a colour a phase."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtGui import QColor

from ....components import Component
from ....fluids.building import FluidModel
from ...widgets.plot import Plot, Table
from ...widgets.theme import Theme
from ..lab.carbon_picture import carbon_number
from ..map.readout import phase_colour
from ..state.tables import names_of, shares_by

PER_CARBON = 0.01402
"""kg/mol of one carbon number of a homologous series, which tells that of a cut by its molar mass."""


def number_of(component: Component) -> int:
    """Return the carbon number a component stands at: that of its formula, of a cut that of its molar mass."""
    own = carbon_number(component)
    if own or component.formula:
        return own
    return max(round((component.molar_mass - 0.002) / PER_CARBON), 1)


def draw_phases(plot: Plot, answer: dict[str, Any], model: FluidModel | None, by: str, theme: Theme) -> None:
    """Draw the composition of each phase over carbon number; what is no hydrocarbon stands at 0."""
    phases, names = answer["phases"], names_of(answer)
    components = list(phases[0]["composition"])
    if model is None or len(model.components) != len(components):
        plot.wipe()
        return
    numbers = np.array([number_of(c) for c in model.components])
    there = np.unique(numbers)
    unit = {"mole": "mol%", "mass": "wt%", "volume": "vol%"}[by]
    plot.set_titles("Carbon number (0: no hydrocarbon)", f"Composition, {unit}")
    wide = 0.84 / len(phases)
    tables: list[Table] = []
    highest = 0.0
    plot.begin("phases")
    for k, phase in enumerate(phases):
        x = np.array([phase["composition"][c] for c in components])
        share = 100.0 * np.nan_to_num(shares_by(x, model, by, len(components)))
        height = np.array([share[numbers == n].sum() for n in there])
        colour = QColor(phase_colour(theme, phase["kind"]))
        left = there - 0.42 + k * wide
        plot.bars(f"phase {k}", colour, x0=left, x1=left + wide, y0=np.zeros(len(there)), y1=height)
        highest = max(highest, float(height.max()))
        tables.append((names[k], ["carbon number", unit], [there.astype(float).tolist(), height.tolist()]))
    plot.end()
    plot.fit_x(float(there[0]) - 0.8, float(there[-1]) + 0.8)
    plot.fit_y(0.0, 1.06 * highest)
    plot.data = lambda: tables
