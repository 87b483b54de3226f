"""The figure on random states: 20 000 of them over ten unlike mixtures, a quarter next to a critical point.

``./run bench states [SEED] [CHECKED]`` prints, per mixture, how many did not converge, the largest difference of
ln fugacity by an independent formulation, the mass balance, and how many of CHECKED states called single are found to
split by a brute-force search.
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import numpy as np

from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.phase_map import phase_map
from mixtures import NAMES, mixture
from reference import ln_phi, lowest_tangent_distance

EACH = 2000


def check(name: str, rng: np.random.Generator, checked: int) -> str:
    """Return one line about a mixture."""
    eos, z = mixture(name)
    whole = phase_map(eos, z)
    top, c = whole.cricondentherm, whole.critical_points[0]
    assert top is not None
    P_top = whole.cricondenbar.P if whole.cricondenbar else 3e7
    T = rng.uniform(0.45 * top.T, 1.1 * top.T, EACH)
    P = np.exp(rng.uniform(np.log(1e4), np.log(1.6 * P_top), EACH))
    k = EACH // 4
    spread = 10.0 ** rng.uniform(-5, -1.5, k)
    T[:k], P[:k] = c.T * (1 + spread * rng.normal(size=k)), c.P * np.abs(1 + spread * rng.normal(size=k))
    start = time.perf_counter()
    r = flash_pt(eos, T, P, z)
    took = time.perf_counter() - start
    balance = np.abs(z - np.einsum("ip,ipj->ij", r.fraction, r.composition)).max()
    fugacity = 0.0
    for i in rng.choice(np.flatnonzero(r.split), 60):
        one, other = (np.log(w) + ln_phi(eos, T[i], P[i], w)[0].real for w in r.composition[i])
        fugacity = max(fugacity, float(np.abs(one - other).max()))
    missed = sum(
        lowest_tangent_distance(eos, T[i], P[i], z, 2, int(i)) < -1e-9
        for i in rng.choice(np.flatnonzero(~r.split), checked)
    )
    return (
        f"{name:<22}{z.size:>4}{r.split.mean():>8.2f}{int((~r.converged).sum()):>8}{r.residual.max():>10.1e}"
        f"{fugacity:>10.1e}{balance:>10.1e}{missed:>6} of {checked:<4}{took:>7.2f} s"
    )


def main(seed: int = 5, checked: int = 12) -> None:
    """Print the table."""
    rng = np.random.default_rng(seed)
    head = ("mixture", "nc", "two", "failed", "residual", "checked", "balance", "missed", "time")
    sys.stdout.write("{:<22}{:>4}{:>8}{:>8}{:>10}{:>10}{:>10}{:>9}{:>12}\n".format(*head))
    for name in NAMES:
        sys.stdout.write(check(name, rng, checked) + "\n")
        sys.stdout.flush()


if __name__ == "__main__":
    main(*(int(a) for a in sys.argv[1:3]))
