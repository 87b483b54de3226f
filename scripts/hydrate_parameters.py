"""Make ``solids/langmuir.csv``: the constants of gases in the cages of hydrates.

    .venv/bin/python scripts/hydrate_parameters.py

Those of Munck, Skjold-Jørgensen and Rasmussen (1988), table 3, are moved to measured three-phase points (``benchmarks/hydrate_points.py``), both cages of
a structure alike: C times exp(a + b (1000/T - 1000/280)). The single gases give a and b of the structure they form, the mixtures marked there as fitted a
of structure II for methane and ethane. Fugacities are those of PR78 with its library, the default of a fluid.
"""

from __future__ import annotations

import csv
import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "benchmarks"))

from cryonome.constants import ATM  # noqa: E402
from cryonome.document import Fluid, FluidPart, parse_document  # noqa: E402
from cryonome.solids.formation import empty_over_water  # noqa: E402
from cryonome.solids.lattice import STRUCTURES  # noqa: E402
from cryonome.solids.surroundings import Host  # noqa: E402
from cryonome.studies import Evaluator  # noqa: E402
from hydrate_points import MIXTURES, PURE  # noqa: E402

Array = NDArray[np.float64]
Changes = dict[tuple[str, int], tuple[float, float]]
TABLE = ROOT / "src" / "cryonome" / "solids" / "langmuir.csv"
MIDDLE = 280.0

MUNCK: dict[str, tuple[tuple[float, float], ...]] = {
    "methane": ((0.7228, 3187.0), (23.35, 2653.0), (0.2207, 3453.0), (100.0, 1916.0)),
    "ethane": ((0.0, 0.0), (3.039, 3861.0), (0.0, 0.0), (240.0, 2967.0)),
    "propane": ((0.0, 0.0), (0.0, 0.0), (0.0, 0.0), (5.455, 4638.0)),
    "isobutane": ((0.0, 0.0), (0.0, 0.0), (0.0, 0.0), (189.3, 3800.0)),
    "n-butane": ((0.0, 0.0), (0.0, 0.0), (0.0, 0.0), (30.51, 3699.0)),
    "nitrogen": ((1.617, 2905.0), (6.078, 2431.0), (0.1742, 3082.0), (18.00, 1728.0)),
    "carbon dioxide": ((0.2474, 3410.0), (42.46, 2813.0), (0.0845, 3615.0), (851.0, 2025.0)),
    "hydrogen sulfide": ((0.0250, 4568.0), (16.34, 3737.0), (0.0298, 4878.0), (87.20, 2633.0)),
}
"""A in 1e-3 K/atm and B in K: small and large cage of structure I, then of II."""
SECOND = ("propane", "isobutane", "nitrogen")
"""Gases that alone form structure II."""


class Points:
    """Measured points of a gas, with the fugacities there and half a kelvin beside."""

    def __init__(self, gas: dict[str, float], points: list[tuple[float, float]]) -> None:
        T, P = np.array(points).T
        parts = (*(FluidPart(component=n, amount=a) for n, a in gas.items()), FluidPart(component="water", amount=1e-6))
        document = parse_document('{"format": "cryonome/1"}')
        model = Evaluator().at(document).fluid(Fluid(name="gas", parts=parts))
        self.gas = [n for n in gas if n in MUNCK]
        places = np.array([model.names.index(n) for n in self.gas])
        host = Host(model.eos, model.z, model.names.index("water"), tuple(self.gas), places)
        self.seen = [(T + d, P * 1e6, host.around(T + d, P * 1e6)) for d in (-0.5, 0.0, 0.5)]

    def missed(self, structure: int, changes: Changes) -> Array:
        """Return the temperatures of a structure less the measured ones, K (N,)."""
        values = []
        for T, P, seen in self.seen:
            C = np.zeros((T.size, 2, len(self.gas)))
            for j, n in enumerate(self.gas):
                a, b = changes.get((n, structure), (0.0, 0.0))
                scale = np.exp(a + b * (1000.0 / T - 1000.0 / MIDDLE))
                for k in range(2):
                    A, B = MUNCK[n][2 * structure + k]
                    C[:, k, j] = A * 1e-3 / ATM / T * np.exp(B / T) * scale
            down = np.log1p(np.einsum("nkf,nf->nk", C, seen.f)) @ np.array(STRUCTURES[structure].cages)
            values.append(down - empty_over_water(T, P, structure, seen.ln_activity))
        return np.asarray(values[1] / (values[0] - values[2]))


def main() -> None:
    """Fit and write the table."""
    changes: Changes = {}
    for name, (_, points) in PURE.items():
        structure = 1 if name in SECOND else 0
        data = Points({name: 1.0}, points)

        def own(q: Array, name: str = name, structure: int = structure, data: Points = data) -> Array:
            return data.missed(structure, {(name, structure): (q[0], q[1])})

        two = np.ptp([p[0] for p in points]) > 3.0
        found = least_squares(own if two else lambda q, own=own: own(np.append(q, 0.0)), np.zeros(2 if two else 1))
        changes[name, structure] = float(found.x[0]), float(found.x[1]) if two else 0.0
        sys.stdout.write(f"{name}: {np.abs(found.fun).mean():.2f} K, {np.abs(found.fun).max():.2f} K" + "\n")
    sets = [Points(gas, points) for _, gas, points, fitted in MIXTURES if fitted]

    def mixed(q: Array) -> Array:
        own = {**changes, ("methane", 1): (q[0], 0.0), ("ethane", 1): (q[1], 0.0)}
        return np.concatenate([np.maximum(*(s.missed(k, own) for k in (0, 1))) for s in sets])

    found = least_squares(mixed, np.zeros(2))
    changes["methane", 1], changes["ethane", 1] = (float(found.x[0]), 0.0), (float(found.x[1]), 0.0)
    sys.stdout.write(f"mixtures fitted: {np.abs(found.fun).mean():.2f} K, {np.abs(found.fun).max():.2f} K" + "\n")
    with TABLE.open("w", encoding="utf-8", newline="") as file:
        table = csv.writer(file, lineterminator="\n")
        table.writerow(["former", "structure", "cage", "A_mK_per_atm", "B_K"])
        for name, values in MUNCK.items():
            for place, (A, B) in enumerate(values):
                if A:
                    a, b = changes.get((name, place // 2), (0.0, 0.0))
                    scaled = A * np.exp(a - 1000.0 * b / MIDDLE)
                    where = STRUCTURES[place // 2].name, ("small", "large")[place % 2]
                    table.writerow([name, *where, f"{scaled:.6g}", f"{B + 1000.0 * b:.6g}"])


main()
