"""Make ``solids/langmuir.csv``: the constants of gases in the cages of hydrates.

    .venv/bin/python scripts/hydrate_parameters.py

Those of Munck, Skjold-Jørgensen and Rasmussen (1988), table 3, are moved to measured three-phase points (``benchmarks/hydrate_points.py``), both cages of
a structure alike: C times exp(a + b (1000/T - 1000/280)). The single gases give a and b of the structure they form, the mixtures marked there as fitted a
of structure II for methane and ethane. In structure H gases have the constants of the small cage of the structure they form alone; those of large molecules are made from
points with methane, with one slope for all. Fugacities are those of PR78 with its library, the default of a fluid.
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
from cryonome.results import Evaluator  # noqa: E402
from cryonome.solids.formation import empty_over_water  # noqa: E402
from cryonome.solids.lattice import SIZES, STRUCTURES  # noqa: E402
from cryonome.solids.surroundings import Host  # noqa: E402
from hydrate_points import MIXTURES, PURE, STRUCTURE_H  # noqa: E402

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
THIRD = 2
"""Place of structure H."""
START = 1.0, 4500.0
"""A and B of a large molecule to begin with."""
Cages = dict[str, dict[int, tuple[tuple[float, float], ...]]]


def cages() -> Cages:
    """Return (A, B) of small, medium and large cage by name and structure, before they are moved."""
    none = (0.0, 0.0)
    out: Cages = {n: {0: (v[0], none, v[1]), 1: (v[2], none, v[3])} for n, v in MUNCK.items()}
    return out | {n: {THIRD: (none, none, START)} for n in STRUCTURE_H}


class Points:
    """Measured points of a gas, with the fugacities there and half a kelvin beside."""

    def __init__(self, gas: dict[str, float], points: list[tuple[float, float]]) -> None:
        T, P = np.array(points).T
        parts = (*(FluidPart(component=n, amount=a) for n, a in gas.items()), FluidPart(component="water", amount=1e-6))
        document = parse_document('{"format": "cryonome/1"}')
        model = Evaluator().at(document).fluid(Fluid(name="gas", parts=parts))
        self.gas = list(gas)
        places = np.array([model.names.index(n) for n in self.gas])
        host = Host(model.eos, model.z, model.names.index("water"), tuple(self.gas), places)
        self.seen = [(T + d, P * 1e6, host.around(T + d, P * 1e6)) for d in (-0.5, 0.0, 0.5)]

    def missed(self, structure: int, changes: Changes, own: Cages) -> Array:
        """Return the temperatures of a structure less the measured ones, K (N,)."""
        values = []
        for T, P, seen in self.seen:
            C = np.zeros((T.size, 3, len(self.gas)))
            for j, n in enumerate(self.gas):
                a, b = changes.get((n, structure), (0.0, 0.0))
                scale = np.exp(a + b * (1000.0 / T - 1000.0 / MIDDLE))
                for k, (A, B) in enumerate(own[n].get(structure, ())):
                    C[:, k, j] = A * 1e-3 / ATM / T * np.exp(B / T) * scale
            down = np.log1p(np.einsum("nkf,nf->nk", C, seen.f)) @ np.array(STRUCTURES[structure].cages)
            values.append(down - empty_over_water(T, P, structure, seen.ln_activity))
        return np.asarray(values[1] / (values[0] - values[2]))


def main() -> None:
    """Fit and write the table."""
    changes: Changes = {}
    table = cages()
    for name, (_, points) in PURE.items():
        _fit(
            name,
            1 if name in SECOND else 0,
            Points({name: 1.0}, points),
            np.ptp([p[0] for p in points]) > 3.0,
            changes,
            table,
        )
    sets = [Points(gas, points) for _, gas, points, fitted in MIXTURES if fitted]

    def mixed(q: Array) -> Array:
        own = {**changes, ("methane", 1): (q[0], 0.0), ("ethane", 1): (q[1], 0.0)}
        return np.concatenate([np.maximum(*(s.missed(k, own, table) for k in (0, 1))) for s in sets])

    found = least_squares(mixed, np.zeros(2))
    changes["methane", 1], changes["ethane", 1] = (float(found.x[0]), 0.0), (float(found.x[1]), 0.0)
    _say("mixtures fitted", found.fun)
    # What gases have in the small cage of the structure they form alone they have in two of H: it is the same dodecahedron.
    for name in MUNCK:
        own = 1 if name in SECOND else 0
        if table[name][own][0][0]:
            A, B = moved(table[name][own][0], changes.get((name, own), (0.0, 0.0)))
            table[name][THIRD] = (A, B), (A, B), (0.0, 0.0)
    _fit_large(changes, table)
    with TABLE.open("w", encoding="utf-8", newline="") as file:
        rows = csv.writer(file, lineterminator="\n")
        rows.writerow(["former", "structure", "cage", "A_mK_per_atm", "B_K"])
        for name, own in table.items():
            for structure, values in own.items():
                for size, (A, B) in zip(SIZES, values):
                    if A:
                        a, b = moved((A, B), changes.get((name, structure), (0.0, 0.0)))
                        rows.writerow([name, STRUCTURES[structure].name, size, f"{a:.6g}", f"{b:.6g}"])


def moved(cage: tuple[float, float], change: tuple[float, float]) -> tuple[float, float]:
    """Return the A and B of a cage with a change."""
    return float(cage[0] * np.exp(change[0] - 1000.0 * change[1] / MIDDLE)), cage[1] + 1000.0 * change[1]


def _fit(name: str, structure: int, data: Points, slope: bool, changes: Changes, table: Cages) -> None:
    """Move a former to its points, by the size of its constants and perhaps their slope."""

    def off(q: Array) -> Array:
        return data.missed(structure, {**changes, (name, structure): (q[0], q[1] if slope else 0.0)}, table)

    found = least_squares(off, np.zeros(2 if slope else 1))
    changes[name, structure] = float(found.x[0]), float(found.x[1]) if slope else 0.0
    _say(name, found.fun)


def _fit_large(changes: Changes, table: Cages) -> None:
    """Move the large molecules of structure H to their points: each has a size of its own, the few points give all of them one slope."""
    sets = {n: Points({"methane": 0.5, n: 0.5}, points) for n, (_, points) in STRUCTURE_H.items()}

    def own(q: Array) -> Changes:
        return {(n, THIRD): (a, q[-1]) for n, a in zip(sets, q)}

    def off(q: Array) -> list[Array]:
        return [data.missed(THIRD, own(q), table) for data in sets.values()]

    found = least_squares(lambda q: np.concatenate(off(q)), np.zeros(len(sets) + 1))
    changes |= {key: (float(a), float(b)) for key, (a, b) in own(found.x).items()}
    for name, missed in zip(sets, off(found.x)):
        _say(name, missed)


def _say(name: str, missed: Array) -> None:
    sys.stdout.write(f"{name}: {np.abs(missed).mean():.2f} K, {np.abs(missed).max():.2f} K" + "\n")


main()
