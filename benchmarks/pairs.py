"""Random states of thirty unlike mixtures, there and back again by every pair of conditions.

``./run bench pairs [STATES] [SEED] [MIXTURES]`` flashes random temperatures and pressures, then finds the same states by each other
pair. It prints, per mixture, how many did not converge or went nowhere, the largest deviation of a held condition, difference of
ln fugacity and mass balance, and how many states came back elsewhere than they began, though another state met both conditions.
"""

from __future__ import annotations

import sys
import time
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from cryonome.components import find
from cryonome.eos.building import SAFT, Interaction, equation_of, family_of, volume_shift
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.measured import coldest, deviation
from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.pair_flash import CONDITIONS, flash_pair
from cryonome.equilibrium.phases import Kind, Phases, Reason
from cryonome.properties import Substance, evaluate

MEASURED = ("enthalpy", "entropy", "density", "internal_energy", "vapour_volume_fraction")
SHARES = {"vapour_fraction", "vapour_volume_fraction"}

FEEDS: dict[str, dict[str, float]] = {
    "lean gas": {"methane": 90, "ethane": 5, "propane": 2, "nitrogen": 2, "carbon dioxide": 1},
    "rich gas": {"methane": 70, "ethane": 12, "propane": 8, "n-butane": 5, "n-hexane": 5},
    "condensate": {"methane": 68, "ethane": 9, "propane": 6, "n-butane": 5, "n-heptane": 6, "n-decane": 4, "n-hexadecane": 2},
    "volatile oil": {"methane": 50, "ethane": 10, "propane": 8, "n-hexane": 12, "n-decane": 12, "n-eicosane": 8},
    "flood": {"carbon dioxide": 70, "methane": 8, "n-butane": 7, "n-decane": 10, "n-eicosane": 5},
    "sour gas": {"hydrogen sulfide": 30, "carbon dioxide": 10, "methane": 45, "ethane": 8, "n-pentane": 7},
    "acid gas": {"hydrogen sulfide": 55, "carbon dioxide": 42, "methane": 3},
    "nitrogen gas": {"nitrogen": 25, "methane": 60, "ethane": 15},
    "hydrogen": {"hydrogen": 40, "methane": 25, "propane": 15, "n-hexane": 20},
    "wide binary": {"methane": 60, "n-decane": 40},
    "close binary": {"ethane": 50, "n-butane": 50},
    "aromatic": {"methane": 30, "benzene": 20, "toluene": 20, "cyclohexane": 15, "n-hexane": 15},
    "wet gas": {"methane": 80, "ethane": 8, "propane": 4, "carbon dioxide": 3, "water": 5},
    "wet oil": {"methane": 40, "n-butane": 15, "n-hexane": 15, "n-decane": 10, "water": 20},
    "propane": {"propane": 1},
}  # fmt: skip
SLOW = {"rich gas", "wide binary", "flood"}
"""Those asked by PC-SAFT in place of SRK; it takes ten times as long."""

Array = NDArray[np.float64]


class Mixture:
    """A feed by one equation, and how its states are measured."""

    def __init__(self, feed: str, eos: str) -> None:
        self.name = f"{feed}, {eos}"
        components = tuple(find(n) for n in FEEDS[feed])
        z = np.array(list(FEEDS[feed].values()), float)
        self.z, self.slow = z / z.sum(), eos == SAFT
        self.eos = equation_of(eos, components, Interaction(library_kij(components, family_of(eos))), "published")
        self.substance = Substance(self.eos, components, volume_shift("density", eos, components, self.eos))

    def whole(self, phases: Phases, keys: tuple[str, ...]) -> dict[str, Array]:
        """Return quantities of the whole."""
        return dict(evaluate(self.substance, phases, keys).whole)

    def conditions(self, phases: Phases) -> dict[str, Array]:
        """Return every condition of states."""
        own = {"temperature": phases.T, "pressure": phases.P, "vapour_fraction": phases.vapour_fraction}
        return {**own, **self.whole(phases, MEASURED)}


def mixtures() -> list[Mixture]:
    """Return the thirty."""
    return [Mixture(feed, eos) for feed in FEEDS for eos in ("PR78", SAFT if feed in SLOW else "SRK")]


def off(key: str, found: Array, wanted: Array, T: Array) -> Array:
    """Return how far a held condition is from its value."""
    if key in ("temperature", "pressure"):
        return np.abs(found / wanted - 1.0)
    return np.abs(found - wanted) if key in SHARES else np.abs(deviation(key, found, wanted, T))


def check(m: Mixture, count: int, rng: np.random.Generator) -> str:
    """Return one line about a mixture."""
    pure = m.z.size == 1
    pairs = list(combinations(CONDITIONS, 2))[1:]
    each = max(count // (len(pairs) + 1), 4)
    low = max(float(coldest(m.eos, m.z[None])[0]) + 20.0, 150.0)
    T, P = rng.uniform(low, 620.0, 3 * each), 10.0 ** rng.uniform(4.3, 7.6, 3 * each)
    start = time.perf_counter()
    begin = flash_all(m.eos, T, P, m.z)
    if pure:
        inside = {
            "temperature": rng.uniform(low, 0.99 * float(m.eos.Tc[0]), 3 * each),
            "vapour_fraction": rng.uniform(0.01, 0.99, 3 * each),
        }
        begin = flash_pair(m.eos, m.z, inside, m.whole).phases
    failed = int((begin.reason == Reason.NOT_CONVERGED).sum())
    fourth = int((begin.reason == Reason.MORE_PHASES).sum())
    tried, held, elsewhere, fugacity, balance = T.size, 0.0, 0, float(begin.residual[begin.converged].max()), 0.0
    values, worst = m.conditions(begin), ""
    vapour = begin.converged & (begin.kind[:, 0] == Kind.VAPOUR) & begin.split
    for pair in pairs:
        shares = bool(set(pair) & SHARES)
        pool = np.flatnonzero(vapour if shares or pure else begin.converged)
        if set(pair) == SHARES or pool.size == 0 or (pure and set(pair) <= {"temperature", "pressure"}):
            continue
        rows = rng.choice(pool, min(each, pool.size), replace=False)
        found = flash_pair(m.eos, m.z, {k: values[k][rows] for k in pair}, m.whole)
        good = found.phases.converged
        tried, failed = tried + rows.size, failed + int((~good).sum())
        if not good.all() and not worst:
            i = rows[np.flatnonzero(~good)[0]]
            worst = f"{pair} at {begin.T[i]:.4f} K, {begin.P[i]:.6g} Pa"
        again = m.conditions(found.phases)
        for key in pair:
            held = max(held, float(off(key, again[key], values[key][rows], found.phases.T)[good].max(initial=0.0)))
        fugacity = max(fugacity, float(found.phases.residual[good].max(initial=0.0)))
        mass = np.einsum("ip,ipj->ij", found.phases.fraction, found.phases.composition) - m.z
        balance = max(balance, float(np.abs(mass[good]).max(initial=0.0)))
        for k, row in enumerate(rows.tolist()):
            every = [(found.phases.T[k], found.phases.P[k]), *found.others[k]]
            if good[k] and min(max(abs(t / begin.T[row] - 1), abs(p / begin.P[row] - 1)) for t, p in every) > 1e-7:
                elsewhere += 1
    took = time.perf_counter() - start
    return f"{m.name:<24}{tried:>8}{failed:>8}{fourth:>7}{held:>10.1e}{fugacity:>10.1e}{balance:>10.1e}{elsewhere:>10}{took:>9.1f} s  {worst}"


def main(states: int = 200_000, seed: int = 11, most: int = 30) -> None:
    """Print the table."""
    rng = np.random.default_rng(seed)
    head = ("mixture", "states", "failed", "fourth", "held", "residual", "balance", "elsewhere", "time")
    sys.stdout.write("{:<24}{:>8}{:>8}{:>7}{:>10}{:>10}{:>10}{:>10}{:>11}\n".format(*head))
    for mixture in mixtures()[:most]:
        count = states // 30 // (8 if mixture.slow else 1)
        sys.stdout.write(check(mixture, count, rng) + "\n")
        sys.stdout.flush()


if __name__ == "__main__":
    main(*(int(a) for a in sys.argv[1:4]))
