"""The tables of water, alcohols and glycols of docs/accuracy.md: CPA, PR78 and SRK against published measurements.

.venv/bin/python benchmarks/aqueous_accuracy.py
"""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

import hydrate_points
import published
import unseen

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "scripts"))

import association_parameters as fitted  # noqa: E402

from cryonome.components import find  # noqa: E402
from cryonome.constants import ATM  # noqa: E402
from cryonome.eos.solubilities import in_water, of_water  # noqa: E402
from cryonome.equilibrium.multiphase import flash_all  # noqa: E402

Array = NDArray[np.float64]
FORMS = ("CPA", "PR78", "SRK")
HYDROCARBONS = ("n-pentane", "n-hexane", "n-octane", "n-decane", "cyclohexane", "benzene", "toluene", "ethylbenzene")
T = np.array([298.15, 323.15, 373.15, 423.15, 473.15])
DEEP = ((100.0, 0.9503), (160.0, 4.7472))
"""°F, with the vapour pressure of water there, psia (steam tables)."""
DEEP_PSIA = (1000.0, 5000.0, 7500.0, 10000.0)
AZEOTROPES = (
    *((pair, x, K) for pair, points in fitted.BOILS.items() for x, K in points if "water" not in pair),
    (("ethanol", "water"), 0.894, 351.3),
)


def signed(percent: float) -> str:
    """Return a deviation in percent in a few letters."""
    return f"{percent:+.0f} %".replace("-", "−") if abs(percent) < 1000.0 else f"{percent / 100.0 + 1.0:.0f} times"


def share(x: float) -> str:
    """Return a mole fraction to three digits."""
    return f"{x:.3g}"


def average(off: list[float]) -> str:
    """Return average and worst of deviations in percent."""
    there = np.abs(np.array(off)[np.isfinite(off)])
    return f"**{there.mean():.1f}, {there.max():.0f}**" if there.size else "–"


def head(*first: str) -> list[str]:
    """Return the head of a table, the equations last."""
    cells = (*first, *FORMS)
    return [f"| {' | '.join(cells)} |", "| " + " | ".join("---" for _ in cells) + " |"]


def two_liquids(one: str, other: str, form: str, at: Array) -> tuple[Array, Array]:
    """Return mole fractions of ``one`` in the liquid rich in ``other`` and of ``other`` in that rich in ``one``, nan
    where there are not two."""
    eos = unseen.pairs_of((one, other), form)
    P = fitted.boiling([find(one), find(other)], at)
    found = flash_all(eos, at, P, np.array([0.5, 0.5]))
    x = found.composition[:, :2]
    rich, rows = x[:, :, 0].argmax(axis=1), np.arange(at.size)
    poor, of_other = x[rows, 1 - rich, 0], x[rows, rich, 1]
    return np.where(found.split, poor, np.nan), np.where(found.split, of_other, np.nan)


def mutual() -> list[str]:
    """Return the tables of hydrocarbons and water in each other."""
    out = []
    for which, title in ((0, "hydrocarbon in water"), (1, "water in hydrocarbon")):
        rows = head(title, "published at 25, 50, 100, 150, 200 °C")
        every: dict[str, list[float]] = {f: [] for f in FORMS}
        for name in HYDROCARBONS:
            part, cells = find(name), []
            known = in_water(part, T) if which == 0 else np.where(T < 374.0, of_water(part, T), np.nan)
            for form in FORMS:
                got = two_liquids(name, "water", form, T)
                off = 100.0 * (got[which] / known - 1.0)
                every[form] += off.tolist()
                cells.append(", ".join(signed(v) if np.isfinite(v) else "–" for v in off))
            told = ", ".join(share(v) if np.isfinite(v) else "–" for v in known)
            rows.append(f"| {name} | {told} | {' | '.join(cells)} |")
        rows.append(f"| **average, worst, %** | | {' | '.join(average(every[f]) for f in FORMS)} |")
        out += [*rows, ""]
    return out[:-1]


def gases() -> list[str]:
    """Return the table of gases in water and of water in gases, the latter to 10 000 psia."""
    rows = head("mixture", "state", "published")
    every: dict[str, dict[str, list[float]]] = {w: {f: [] for f in FORMS} for w in ("gas in water", "water in gas")}
    deep = []
    for fahrenheit, vapour_pressure in DEEP:
        for psia in DEEP_PSIA:
            y = (
                hydrate_points.bukacek(fahrenheit, psia, vapour_pressure)
                * hydrate_points.POUND_PER_MILLION
                / 18.01528e-3
            )
            deep.append(
                ("methane", (fahrenheit + 459.67) / 1.8, psia * 6894.757, "water in gas", y, "Bukacek (1955), to 5 %")
            )
    for name, K, P, which, known, source in (*published.WATER, *deep):
        cells = []
        if name in HYDROCARBONS:
            continue
        for form in FORMS:
            eos = unseen.pairs_of((name, "water"), form)
            x = flash_all(eos, np.array([K]), np.array([P]), np.array([0.5, 0.5])).composition[0]
            wet = int(np.argmax(x[:2, 1]))
            value = float(x[wet, 0] if which == "gas in water" else x[1 - wet, 1])
            off = 100.0 * (value / known - 1.0)
            every[which][form].append(off)
            cells.append(f"{share(value)} ({signed(off)})")
        rows.append(
            f"| {name}, {which} ({source}) | {K:.1f} K, {P / 1e6:.1f} MPa | {share(known)} | {' | '.join(cells)} |"
        )
    for which, found in every.items():
        rows.append(f"| **{which}: average, worst, %** | | | {' | '.join(average(found[f]) for f in FORMS)} |")
    return rows


def polar() -> list[str]:
    """Return the table of methanol and glycols beside hydrocarbons at 25 °C."""
    rows = head("pair", "published: second in first, first in second")
    room = np.array([298.15])
    every: dict[str, list[float]] = {f: [] for f in FORMS}
    wanted = [(("methanol", other), x, y) for other, (x, y) in fitted.METHANOL_LIQUIDS.items()]
    wanted += [(pair, x, np.nan) for pair, (x, _) in fitted.SPARING.items()]
    for (one, other), x, y in wanted:
        cells = []
        for form in FORMS:
            of_second, of_first = two_liquids(other, one, form, room)
            pieces = []
            for got, known in ((of_second[0], x), (of_first[0], y)):
                if np.isfinite(known):
                    off = 100.0 * (got / known - 1.0)
                    every[form].append(off)
                    pieces.append(f"{share(got)} ({signed(off)})" if np.isfinite(got) else "one liquid")
            cells.append(", ".join(dict.fromkeys(pieces)))
        told = ", ".join(share(v) for v in (x, y) if np.isfinite(v))
        rows.append(f"| {one}, {other} | {told} | {' | '.join(cells)} |")
    rows.append(f"| **average, worst of what parts, %** | | {' | '.join(average(every[f]) for f in FORMS)} |")
    return rows


def azeotropes() -> list[str]:
    """Return the table of azeotropes at 1 atm: composition and boiling pressure at the measured temperature."""
    rows = head("pair", "published: mole fraction of the first, K at 1 atm")
    for (one, other), x, K in AZEOTROPES:
        cells = []
        for form in FORMS:
            eos = unseen.pairs_of((one, other), form)
            grid = np.linspace(0.01, 0.99, 99)
            P = np.array([fitted.bubble_pressure(eos, 1.0 - float(v), K) for v in grid])
            top = int(np.nanargmax(P))
            if top in (0, grid.size - 1):
                cells.append("none")
                continue
            a, b, _ = np.polyfit(grid[top - 1 : top + 2], P[top - 1 : top + 2], 2)
            cells.append(f"{-b / (2.0 * a):.3f} at {P[top] / ATM:.3f} atm")
        rows.append(f"| {one}, {other} | {x:g}, {K:g} K | {' | '.join(cells)} |")
    return rows


def section() -> list[str]:
    """Return the section as lines."""
    return [
        "## Water, alcohols and glycols", "",
        "Mole fractions. Hydrocarbons and water in each other along the lines of Tsonopoulos and Wilson (1983), Heidman, Tsonopoulos, Brady and Wilson (1985) and, by McAuliffe's (1966) solubilities at 25 °C, their families; water in hydrocarbons "
        "after Hibbard and Schalla (1952), to 100 °C, to some 15 %. *Fitted*: hydrocarbons in water by all three, water in them by PR78 and SRK (one parameter a family), in aromatics by CPA; *never seen*: water in other hydrocarbons by CPA. Deviations stand in the order of the temperatures; – where nothing is published.",
        "", *mutual(), "",
        "Gases in water were fitted at low pressure, carbon dioxide and hydrogen sulfide by CPA at mole fractions of 0.012 and 0.02; water in gas, and all under pressure, is *never seen*.", "", *gases(), "",
        "Methanol and glycols beside hydrocarbons at 25 °C; sources stand in `scripts/association_parameters.py`. *Fitted* by CPA, with one number a pair for both liquids of methanol, and methanol with hydrocarbons by PR78 and SRK.", "", *polar(), "",
        "Azeotropes at 1 atm (Horsley 1973): where, and under what pressure, each equation has its own at the measured temperature. *Fitted* by CPA to the temperature at the measured composition. What CPA lacks of ethanol and water is ethanol's vapour pressure, 1.9 % high with its published constants.", "", *azeotropes(),
    ]  # fmt: skip


if __name__ == "__main__":
    sys.stdout.write("\n".join(section()) + "\n")
