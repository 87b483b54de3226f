"""How cost grows with components, states and phases: ``./run bench scaling`` measures and writes ``docs/performance.md`` with its picture.

Fluids are made up: paraffins in falling amounts, with gas ahead and, where a third phase is wanted, water.
"""

from __future__ import annotations

import os
import platform
import subprocess
import sys
import time
from functools import partial
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np

from cryonome.characterization import Known, complete
from cryonome.components import find
from cryonome.eos.building import SAFT, Interaction, equation_of
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.phase_map import phase_map
from run import best

DOCS = Path(__file__).parents[1] / "docs"
COMPONENTS = (5, 10, 20, 40, 60, 100)
STATES = (1, 10, 100, 1000, 10_000, 100_000, 1_000_000)
GAS = ("nitrogen", "methane", "ethane", "propane")


def fluid(count: int, name: str = "PR78", water: bool = False):
    """Return an equation of ``count`` components and its feed (count,)."""
    gases = [*GAS, *(("water",) if water else ())][: max(count - 1, 1)]
    boil = np.linspace(310.0, 850.0, count - len(gases))
    cuts = [
        complete(Known(f"cut {k}", nbp=t, specific_gravity=0.62 + 0.00055 * (t - 250.0))) for k, t in enumerate(boil)
    ]
    parts = [*(find(g) for g in gases), *cuts]
    amounts = np.array(
        [0.02, 0.45, 0.08, 0.06, *((0.1,) if water else ())][: len(gases)]
        + list(0.4 * np.exp(-np.linspace(0, 3, len(cuts))))
    )
    return equation_of(name, parts, Interaction(library_kij(parts, name))), amounts / amounts.sum()


def states(n: int) -> tuple[np.ndarray, np.ndarray]:
    """Return temperatures and pressures of n states over the two-phase region and beside it."""
    rng = np.random.default_rng(1)
    return rng.uniform(250.0, 700.0, n), 10.0 ** rng.uniform(4.7, 7.5, n)


def by_components() -> list[tuple[int, float, float, float, float]]:
    """Return rows of components with us a state of flashes (cubic, PC-SAFT, three phases) and ms of an envelope."""
    rows = []
    for count in COMPONENTS:
        eos, z = fluid(count)
        T, P = states(2000 if count < 60 else 600)
        own = 1e6 * best(partial(flash_pt, eos, T, P, z), 3) / T.size
        trace = 1e3 * best(partial(phase_map, eos, z), 2)
        chain, x = fluid(count, SAFT)
        some = slice(0, 400 if count < 60 else 100)
        other = 1e6 * best(partial(flash_pt, chain, T[some], P[some], x), 2) / T[some].size
        wet, y = fluid(count, water=True)
        three = 1e6 * best(partial(flash_all, wet, T, P, y), 2) / T.size
        rows.append((count, own, three, other, trace))
    return rows


def by_states() -> list[tuple[int, float]]:
    """Return rows of states with us a state, of ten components."""
    eos, z = fluid(10)
    rows = []
    for n in STATES:
        T, P = states(n)
        rows.append((n, 1e6 * best(partial(flash_pt, eos, T, P, z), 3 if n < 100_000 else 1) / n))
    return rows


def memory() -> float:
    """Return the most memory, MB, that a process flashing a million states of ten components takes."""
    code = (
        "import resource, sys; sys.path.insert(0, sys.argv[1])\n"
        "import scaling\n"
        "eos, z = scaling.fluid(10)\n"
        "T, P = scaling.states(1_000_000)\n"
        "scaling.flash_pt(eos, T, P, z)\n"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(Path(__file__).parent)], capture_output=True, text=True, check=True
    )
    return float(done.stdout.split()[-1]) / 1024.0


def picture(series: dict[str, tuple[list[float], list[float]]], across: str, up: str) -> str:
    """Return lines over logarithmic axes as SVG."""
    wide, high, left, low = 620, 360, 64, 44
    xs = np.log10([x for values, _ in series.values() for x in values])
    ys = np.log10([y for _, values in series.values() for y in values])
    x0, x1, y0, y1 = xs.min(), xs.max(), np.floor(ys.min()), np.ceil(ys.max())
    colours = ("#0f5e63", "#b5742a", "#4a6a9a", "#6b4a8a")

    def at(x: float, y: float) -> tuple[float, float]:
        return left + (np.log10(x) - x0) / (x1 - x0) * (wide - left - 130), high - low - (np.log10(y) - y0) / (
            y1 - y0
        ) * (high - low - 16)

    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}" font-family="sans-serif" font-size="12">',
        f'<rect width="{wide}" height="{high}" fill="#ffffff"/>',
    ]
    for decade in range(int(y0), int(y1) + 1):
        y = at(10**x0, 10.0**decade)[1]
        out.append(
            f'<path d="M{left} {y:.1f}H{wide - 130}" stroke="#dddddd"/><text x="{left - 6}" y="{y + 4:.1f}" text-anchor="end">{10.0**decade:g}</text>'
        )
    for x in sorted({x for values, _ in series.values() for x in values}):
        out.append(f'<text x="{at(x, 10**y0)[0]:.1f}" y="{high - low + 18}" text-anchor="middle">{x:g}</text>')
    out.append(f'<text x="{(left + wide - 130) / 2:.0f}" y="{high - 6}" text-anchor="middle">{across}</text>')
    out.append(f'<text transform="translate(14 {(high - low) / 2:.0f}) rotate(-90)" text-anchor="middle">{up}</text>')
    for colour, (name, (a, b)) in zip(colours, series.items()):
        points = [at(x, y) for x, y in zip(a, b)]
        out.append(
            f'<polyline fill="none" stroke="{colour}" stroke-width="2" points="{" ".join(f"{x:.1f},{y:.1f}" for x, y in points)}"/>'
        )
        out.append(f'<text x="{points[-1][0] + 8:.1f}" y="{points[-1][1] + 4:.1f}" fill="{colour}">{name}</text>')
    return "\n".join([*out, "</svg>"]) + "\n"


def main() -> None:
    """Measure, and write the page and its picture."""
    start = time.perf_counter()
    growing, many, most = by_components(), by_states(), memory()
    counts = [float(row[0]) for row in growing]
    drawn = {
        "two phases": (counts, [row[1] for row in growing]),
        "three phases": (counts, [row[2] for row in growing]),
        "PC-SAFT": (counts, [row[3] for row in growing]),
    }
    (DOCS / "performance.svg").write_text(picture(drawn, "components", "µs a state"), encoding="utf-8")
    exponent = np.polyfit(np.log(counts), np.log([row[1] for row in growing]), 1)[0]
    lines = [
        "| components | flash, µs a state | up to three phases, µs | PC-SAFT, µs | envelope, ms |", "| --- | --- | --- | --- | --- |",
        *(f"| {c} | {a:.1f} | {b:.0f} | {s:.0f} | {e:.0f} |" for c, a, b, s, e in growing),
    ]  # fmt: skip
    told = [
        "| states in one call, ten components | µs a state |", "| --- | --- |", *(f"| {n:,} | {t:.1f} |".replace(",", " ") for n, t in many),
    ]  # fmt: skip
    page = (DOCS / "performance.md").read_text(encoding="utf-8")
    head = page[: page.index("<!-- measured -->")]
    body = (
        f"<!-- measured -->\n\nMeasured on {os.cpu_count()} processors ({platform.machine()}), best of a few; `./run bench scaling` makes this part anew.\n\n"
        + "\n".join(lines)
        + f"\n\n![Cost of a state over the number of components](performance.svg)\n\nThe cost of a flash grows with the number of components to the power of {exponent:.1f}.\n\n"
        + "\n".join(told)
        + f"\n\nA million states of ten components take {most:.0f} MB at most, the program with them: results are kept, work is a block's.\n"
    )
    (DOCS / "performance.md").write_text(head + body, encoding="utf-8")
    sys.stdout.write(body + f"\n{time.perf_counter() - start:.0f} s\n")


if __name__ == "__main__":
    main()
