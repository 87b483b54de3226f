"""The feed of a workbook as it was read: amounts with their sum, and the fractions that are computed with."""

from __future__ import annotations

import numpy as np

from ...fluids.building import FluidModel
from .ranges import NamedRange
from .writing import Cells


def feed_cells(given: NamedRange, amounts: list[float], basis: str, model: FluidModel) -> Cells:
    """Return the block of a feed: a row a component with its amount as written and its mole and mass percent, below
    them the sums."""
    mass = model.z * model.molar_mass
    shares = 100.0 * model.z, 100.0 * mass / mass.sum()
    cells: Cells = [[f"feed: {model.name}", given.place(0, 0)], ["component", f"amount by {basis}", "mol%", "mass%"]]
    # A component that is written twice is one of the fluid.
    same = len(amounts) == len(model.names)
    for i, name in enumerate(model.names):
        cells.append([name, amounts[i] if same else "", float(shares[0][i]), float(shares[1][i])])
    cells.append(["sum", float(np.sum(amounts)), float(shares[0].sum()), float(shares[1].sum())])
    return cells
