"""Make ``solids/inhibitors.csv``: activities of water with alcohols and glycols from published measurements.

    .venv/bin/python scripts/inhibitor_parameters.py

The coefficients are linear in ln(gamma), so one least-squares solution meets freezing points (to 0.3 K), limiting activity coefficients at 298.15 K (to 10 %)
and heats of mixing at 298.15 K (to 60 J/mol). Freezing points of the handbooks (CRC Handbook of Chemistry and Physics, *Concentrative properties of aqueous
solutions*; ASHRAE Handbook, *Physical properties of secondary coolants*; makers' tables for the higher glycols), quoted from memory; heats of mixing after Lama and Lu,
J. Chem. Eng. Data 10, 216 (1965), and Dohnal, Roux and Hynek, J. Solution Chem. 23, 889 (1994).
"""

from __future__ import annotations

import csv
import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from cryonome.components import find
from cryonome.constants import T_REF, R
from cryonome.solids.water import FUSION, ICE_POINT, MOLAR_MASS, water_over_ice

Array = NDArray[np.float64]
TABLE = Path(__file__).parent.parent / "src" / "cryonome" / "solids" / "inhibitors.csv"

FREEZING: dict[str, list[tuple[float, float]]] = {
    "methanol": [(5, 3.02), (10, 6.60), (16, 11.36), (20, 15.02), (24, 19.04), (28, 23.59), (32, 28.15), (36, 32.97), (40, 38.6),
                 (44, 44.5), (52, 58.1)],
    "ethanol": [(2.5, 1.0), (4.8, 2.0), (6.8, 3.0), (11.3, 5.0), (13.8, 6.1), (17.5, 8.7), (20.3, 10.6), (22.1, 12.2), (24.2, 14.0),
                (26.7, 16.0), (29.9, 18.9), (33.8, 23.6), (39.0, 28.7), (46.3, 33.9), (56.1, 41.0)],
    "ethylene glycol": [(5, 1.4), (10, 3.2), (15, 5.4), (20, 7.8), (25, 10.7), (30, 14.1), (35, 17.9), (40, 22.3), (45, 27.5), (50, 33.8),
                        (55, 41.1), (60, 48.3)],
    "diethylene glycol": [(10, 2.0), (20, 5.0), (30, 9.6), (40, 16.3), (50, 26.0)],
    "triethylene glycol": [(10, 1.4), (20, 3.9), (30, 7.8), (40, 13.8), (50, 22.8)],
}  # fmt: skip
"""Percent by mass and kelvin below the ice point."""
LIMITS = {
    "methanol": (1.65, 1.6), "ethanol": (3.75, 2.65), "ethylene glycol": (0.8, 0.9), "diethylene glycol": (0.5, 0.7),
    "triethylene glycol": (0.3, 0.6),
}  # fmt: skip
"""Activity coefficients at 298.15 K of the inhibitor in water and of water in it, each at infinite dilution."""
MIXING: dict[str, list[tuple[float, float]]] = {
    "methanol": [(0.1, -500), (0.2, -770), (0.3, -870), (0.5, -790), (0.7, -560), (0.9, -220)],
    "ethanol": [(0.05, -480), (0.1, -690), (0.2, -750), (0.3, -620), (0.5, -390), (0.7, -250), (0.9, -90)],
    "ethylene glycol": [(0.1, -380), (0.2, -600), (0.3, -680), (0.5, -620), (0.7, -420)],
}
"""Mole fraction of the inhibitor and J/mol."""
MOST = {"ethanol": 0.55, "diethylene glycol": 0.55, "triethylene glycol": 0.55}
ORDER = 3


def rows(x: Array) -> tuple[Array, Array]:
    """Return the coefficients of a_k in ln gamma of water and of the inhibitor at mole fractions x (N,) of it, (N, 3) each."""
    d = 1.0 - 2.0 * x
    g = np.stack([(1.0 - x) * x * d**k for k in range(ORDER)], axis=-1)
    slope = np.stack(
        [-d * d**k + 2.0 * (1.0 - x) * x * k * (d ** (k - 1) if k else 0.0) for k in range(ORDER)], axis=-1
    )
    return g + x[:, None] * slope, g - (1.0 - x)[:, None] * slope


def fitted(name: str) -> tuple[Array, Array]:
    """Return a and b, and how far the freezing points are missed, K."""
    w, lower = np.array(FREEZING[name]).T
    T = ICE_POINT - lower
    moles = 0.01 * w / find(name).molar_mass
    x = moles / (moles + (1.0 - 0.01 * w) / MOLAR_MASS)
    fall = FUSION / (R * T * T) * 0.3
    one = rows(x)[0]
    lines = [np.hstack([one, one * (1000.0 / T - 1000.0 / T_REF)[:, None]]) / fall[:, None]]
    values = [(-water_over_ice(T) - np.log1p(-x)) / fall]
    ends = np.array([0.0, 1.0])
    both = rows(ends)
    lines.append(np.hstack([np.stack([both[1][0], both[0][1]]), np.zeros((2, ORDER))]) / 0.1)
    values.append(np.log(LIMITS[name]) / 0.1)
    if name in MIXING:
        h = np.array(MIXING[name])
        shape = np.stack([(1.0 - h[:, 0]) * h[:, 0] * (1.0 - 2.0 * h[:, 0]) ** k for k in range(ORDER)], axis=-1)
        lines.append(np.hstack([np.zeros_like(shape), 1000.0 * R * shape]) / 60.0)
        values.append(h[:, 1] / 60.0)
    lines.append(0.1 * np.eye(2 * ORDER))
    values.append(np.zeros(2 * ORDER))
    p = np.linalg.lstsq(np.vstack(lines), np.concatenate(values), rcond=None)[0]
    return p, (lines[0] @ p - values[0]) * 0.3


def main() -> None:
    """Write the table."""
    with TABLE.open("w", encoding="utf-8", newline="") as file:
        table = csv.writer(file, lineterminator="\n")
        table.writerow(["name", "molar_mass_g_mol", "a0", "a1", "a2", "b0", "b1", "b2", "most_mass_fraction"])
        for name in FREEZING:
            p, missed = fitted(name)
            sys.stdout.write(f"{name}: {np.abs(missed).mean():.2f} K, {np.abs(missed).max():.2f} K" + "\n")
            table.writerow([name, f"{1000 * find(name).molar_mass:.3f}", *(f"{v:.4f}" for v in p), MOST.get(name, 0.6)])


main()
