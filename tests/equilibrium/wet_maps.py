"""Whether the lines of a map are where the number of phases changes: flashes on both sides of every line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cryonome.components import find
from cryonome.eos import Equation
from cryonome.eos.building import Interaction, equation_of, family_of
from cryonome.eos.cpa_library import bonded_pairs
from cryonome.eos.interaction import library_pairs
from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.phase_map import PhaseMap, phase_map
from cryonome.equilibrium.regions import Regions, regions

Array = NDArray[np.float64]

POOL = (
    "methane", "ethane", "propane", "n-butane", "n-pentane", "n-hexane", "n-heptane", "n-decane", "n-hexadecane", "benzene",
    "toluene", "cyclohexane", "carbon dioxide", "hydrogen sulfide", "nitrogen",
)  # fmt: skip
BESIDE = (0.004, 0.0007, 0.03)
"""Distances, in ln P and eight times ln T, at which both sides are looked at."""


def equation(names: list[str], eos: str) -> Equation:
    parts = [find(n) for n in names]
    pairs = library_pairs(parts, family_of(eos))
    kij, slope, warming = pairs.kij, pairs.slope, None
    if eos == "CPA":
        own = bonded_pairs(parts)
        there = ~np.isnan(own.kij)
        kij, slope, warming = np.where(there, own.kij, kij), np.where(there, 0.0, slope), own.warming
    salt = None if eos == "CPA" else 0.0
    return equation_of(eos, parts, Interaction(kij, slope if slope.any() else None, salt, (), warming))


@dataclass(frozen=True)
class Drawn:
    """A fluid with its map and regions."""

    eos: Equation
    z: Array
    whole: PhaseMap
    found: Regions

    def lines(self) -> list[tuple[str, Array, Array]]:
        """Return the lines on which the number of phases changes."""
        out = []
        for part, good in zip(self.whole.parts, self.whole.stable):
            for run in np.split(np.arange(len(good)), np.flatnonzero(np.diff(good)) + 1):
                if part.beta in (0.0, 1.0) and run.size > 1 and good[run[0]]:
                    out.append((f"map {part.beta:g}", part.T[run], part.P[run]))
        return out + [(f"without {b.gone.name}", b.T, b.P) for b in self.found.bounds]

    def wrong(self, points: int = 14) -> tuple[list[tuple[str, float, float]], int]:
        """Return the points of lines beside which the number of phases does not change, and how many were looked
        at."""
        bad, count = [], 0
        for name, T, P in self.lines():
            for k in np.unique(np.linspace(1, len(T) - 2, points).astype(int)) if len(T) > 2 else ():
                if not (200.0 < T[k] < 680.0 and 1e4 < P[k] < 1.5e8):
                    continue
                count += 1
                u = np.stack([8.0 * np.log(T[k - 1 : k + 2]), np.log(P[k - 1 : k + 2])], axis=1)
                steps = np.diff(u, axis=0)
                along = (steps / np.maximum(np.hypot(*steps.T), 1e-12)[:, None]).sum(axis=0)
                normal = np.array([-along[1], along[0]]) / np.hypot(*along)
                at = np.array([u[1] + s * d * normal for d in BESIDE for s in (1.0, -1.0)])
                there = flash_all(self.eos, np.exp(at[:, 0] / 8.0), np.exp(at[:, 1]), self.z).count.reshape(-1, 2)
                if (there[:, 0] == there[:, 1]).all():
                    bad.append((name, float(T[k]), float(P[k])))
        return bad, count


def drawn(names: list[str], z: Array, eos: str, fractions: tuple[float, ...] = ()) -> Drawn:
    own, z = equation(names, eos), np.asarray(z, dtype=float) / np.sum(z)
    whole = phase_map(own, z, (0.0, 1.0))
    water = names.index("water") if "water" in names else None
    return Drawn(own, z, whole, regions(own, z, water, whole=whole, fractions=fractions))


def random_fluid(rng: np.random.Generator) -> tuple[list[str], Array]:
    """Return a wet mixture, three quarters of them with methane, one in four with methanol."""
    names = [str(n) for n in rng.choice(POOL, rng.integers(2, 8), replace=False)]
    if rng.random() < 0.7 and "methane" not in names:
        names[0] = "methane"
    names += ["water", *(["methanol"] if rng.random() < 0.25 else [])]
    z = rng.dirichlet(np.full(len(names), 0.8)) + 0.003
    z[0] += 1.5 * (rng.random() < 0.5)
    return names, z
