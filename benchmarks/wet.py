"""Wet fluids: what CPA costs beside SRK, and whether the lines of forty random maps are where the number of phases
changes: ``./run bench wet [SEED]``."""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import sys
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "equilibrium"))

from wet_maps import drawn, equation, random_fluid

from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.multiphase import flash_all
from run import best, say

MAPS = 40
NAMES = [
    "nitrogen", "carbon dioxide", "methane", "ethane", "propane", "n-butane", "n-pentane", "n-hexane", "n-heptane", "n-decane", "toluene", "water",
]  # fmt: skip


def costs() -> None:
    """Time flashes of a wet mixture of twelve by both equations."""
    z = np.array([1.0, 2.0, 60.0, 8.0, 5.0, 3.0, 2.0, 2.0, 4.0, 4.0, 2.0, 7.0]) / 100.0
    T, P = (v.ravel() for v in np.meshgrid(np.linspace(260.0, 420.0, 40), np.geomspace(2e5, 3e7, 40)))
    for title, flash in (("two phases", flash_pt), ("up to three phases", flash_all)):
        both = (equation(NAMES, form) for form in ("SRK", "CPA"))
        times = [best(lambda eos=eos, flash=flash: flash(eos, T, P, z), 4) for eos in both]
        say(f"1600 flashes of {title}, SRK", f"{1e3 * times[0]:.0f} ms")
        say("  the same by CPA", f"{times[1] / times[0]:.2f} times", "goal 3")


def maps(seed: int) -> None:
    """Draw maps and look at both sides of every line."""
    rng, points, wrong, took = np.random.default_rng(seed), 0, [], []
    for k in range(MAPS):
        names, z = random_fluid(rng)
        start = time.perf_counter()
        own = drawn(names, z, ("CPA", "PR78", "SRK")[k % 3])
        took.append(time.perf_counter() - start)
        bad, count = own.wrong()
        points += count
        wrong += [(names, *b) for b in bad]
    say(f"{MAPS} wet maps, each", f"{np.median(took):.1f} s, at most {max(took):.1f}")
    say("  points beside which nothing changes", f"{len(wrong)} of {points}", "goal 0")
    for names, line, T, P in wrong:
        say(f"    {line}, {', '.join(names)}"[:70], f"{T:.2f} K, {P / 1e5:.2f} bar")


if __name__ == "__main__":
    costs()
    maps(int(sys.argv[1]) if len(sys.argv) > 1 else 1)
