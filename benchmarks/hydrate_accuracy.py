"""Hydrates against published three-phase points: the tables of docs/accuracy.md."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.optimize.elementwise import find_root

import hydrate_points
from cryonome.document import Fluid, FluidPart, parse_document
from cryonome.document.model import Model
from cryonome.results import Evaluator
from cryonome.results.hydrates import dilute
from cryonome.solids.activity import ln_activity
from cryonome.solids.formation import Chart, Wanted, temperatures
from cryonome.solids.lattice import formers
from cryonome.solids.losses import shares
from cryonome.solids.surroundings import Host
from cryonome.solids.water import water_over_ice
from cryonome.solids.water_content import water_content

Array = NDArray[np.float64]
EXAMPLE_GAS = {"methane": 88.0, "ethane": 7.0, "propane": 3.5, "n-butane": 1.5}
EXAMPLE_OIL = {
    "n-hexane": 1.0,
    "methylcyclohexane": 1.0,
    "toluene": 1.0,
    "n-octane": 2.0,
    "n-decane": 2.0,
    "n-dodecane": 1.5,
}
EQUATIONS = ("PR78", "SRK", "CPA", "PC-SAFT")


def chart_of(gas: dict[str, float], equation: str = "PR78") -> Chart:
    """Return the chart of a gas by moles, with the library's interaction parameters."""
    parts = (*(FluidPart(component=n, amount=a) for n, a in gas.items()), FluidPart(component="water", amount=1e-6))
    fluid = Fluid(name="gas", model=Model(eos=equation), parts=parts)
    model = Evaluator().at(parse_document('{"format": "cryonome/1"}')).fluid(fluid)
    there = tuple(n for n in model.names if n in formers())
    places = np.array([model.names.index(n) for n in there])
    return Chart.of(Host(model.eos, model.z, model.names.index("water"), there, places))


def missed(chart: Chart, points: list[tuple[float, float]], dose: dict[str, float] | None = None) -> Array:
    """Return the temperatures of the structure that forms first less the measured ones, K (n,); ``dose`` in percent by mass."""
    T, P = np.array(points).T
    mass = {n: np.array([0.01 * w]) for n, w in (dose or {}).items()}
    found = temperatures(chart, Wanted.grid(P * 1e6), [mass]).reshape(-1, T.size)
    return np.asarray(np.fmax.reduce(found, axis=0) - T)


def freezing(salt: str) -> Array:
    """Return the freezing points of salt water less the measured ones, K (n,)."""
    mass, lower = np.array(hydrate_points.FREEZING[salt]).T

    def over(T: Array, w: Array) -> Array:
        """Return by how much the water is above ice."""
        return ln_activity(T, {salt: w}) + water_over_ice(T, 101325.0)

    found = find_root(over, (np.full(mass.size, 233.15), np.full(mass.size, 273.65)), args=(0.01 * mass,))
    return np.asarray(found.x - (273.15 - lower))


def told(deviations: Array) -> str:
    """Return average and worst."""
    return f"{np.abs(deviations).mean():.2f}, {np.abs(deviations).max():.2f}"


def tables() -> list[str]:
    """Return the section as lines."""
    rows = [
        "## Hydrates",
        "",
        "Temperatures of gas, water and hydrate against published points, average and worst deviation in kelvin. The Langmuir constants were moved to the"
        " single gases, those of methane and ethane in structure II to the mixtures marked, and those of large molecules in structure H (one slope for all) to their points, with the fugacities of PR78; the other equations show what"
        " theirs make of it. Points are quoted from memory of the tables named, not checked against a printed copy.",
        "",
        f"| gas | points | {' | '.join(EQUATIONS)} |",
        "| --- |" + " --- |" * (len(EQUATIONS) + 1),
    ]
    every: dict[str, list[float]] = {e: [] for e in EQUATIONS}
    for name, (source, points) in hydrate_points.PURE.items():
        found = [missed(chart_of({name: 1.0}, e), points) for e in EQUATIONS]
        for e, f in zip(EQUATIONS, found):
            every[e].append(float(np.abs(f).mean()))
        rows.append(f"| {name} ({source}) | {len(points)} | {' | '.join(told(f) for f in found)} |")
    rows.append(f"| **all gases** | | {' | '.join(f'**{np.mean(every[e]):.2f}**' for e in EQUATIONS)} |")
    mixed: dict[str, list[float]] = {e: [] for e in EQUATIONS}
    for source, gas, points, fitted in hydrate_points.MIXTURES:
        found = [missed(chart_of(gas, e), points) for e in EQUATIONS]
        for e, f in zip(EQUATIONS, found):
            mixed[e].append(float(np.abs(f).mean()))
        name = ", ".join(f"{n} {a:g}" for n, a in gas.items())
        rows.append(
            f"| {name}{', fitted' if fitted else ''} ({source}) | {len(points)} | {' | '.join(told(f) for f in found)} |"
        )
    structure_h: list[str] = []
    large: dict[str, list[float]] = {e: [] for e in EQUATIONS}
    for name, (source, points) in hydrate_points.STRUCTURE_H.items():
        found = [missed(chart_of({"methane": 0.5, name: 0.5}, e), points) for e in EQUATIONS]
        for e, f in zip(EQUATIONS, found):
            large[e].append(float(np.abs(f).mean()))
        structure_h.append(
            f"| methane, {name}, structure H, fitted ({source}) | {len(points)} | {' | '.join(told(f) for f in found)} |"
        )
    rows.append(f"| **all mixtures** | | {' | '.join(f'**{np.mean(mixed[e]):.2f}**' for e in EQUATIONS)} |")
    rows += structure_h
    rows.append(f"| **all structure H** | | {' | '.join(f'**{np.mean(large[e]):.2f}**' for e in EQUATIONS)} |")
    charts = [chart_of({"methane": 1.0}, e) for e in EQUATIONS]
    dosed: dict[str, list[float]] = {e: [] for e in EQUATIONS}
    for source, dose, points in hydrate_points.INHIBITED:
        found = [missed(c, points, dose) for c in charts]
        for e, f in zip(EQUATIONS, found):
            dosed[e].append(float(np.abs(f).mean()))
        name = " and ".join(f"{w:g} wt% {n}" for n, w in dose.items())
        rows.append(f"| methane, {name} ({source}) | {len(points)} | {' | '.join(told(f) for f in found)} |")
    rows.append(f"| **all inhibited** | | {' | '.join(f'**{np.mean(dosed[e]):.2f}**' for e in EQUATIONS)} |")
    rows += [
        "",
        "Freezing points of salt water (CRC Handbook), which no parameter was fitted to:",
        "",
        "| salt | points | kelvin |",
        "| --- | --- | --- |",
    ]
    rows += [f"| {s} | {len(p)} | {told(freezing(s))} |" for s, p in hydrate_points.FREEZING.items()]
    return [*rows, "", *losses()]


def losses() -> list[str]:
    """Return the table of water held by gas and of methanol that is lost, as lines."""
    rows = [
        "Water held by gas, and methanol lost to gas and condensate (a gas and a condensate made up like those of the example); nothing was fitted to them, charts are read to"
        " some 5 %. No published contents over hydrate were at hand: they meet those over water at the limit, and lie under them as the limit's own fugacities say.",
        "",
        "| state | published | PR78 | |",
        "| --- | --- | --- | --- |",
    ]

    def row(state: str, published: float, ours: float, unit: str) -> None:
        rows.append(
            f"| {state} | {published:.4g} {unit} | {ours:.4g} {unit} | {100.0 * (ours / published - 1.0):+.0f} % |"
        )

    nitrogen = chart_of({"nitrogen": 1.0}).host
    T = np.array([263.15, 253.15, 243.15])
    held = water_content(nitrogen, T, np.full(3, 101325.0), {}).vapour * 101325.0
    for t, p, y in zip(T, 1.004 * hydrate_points.ice_pressure(T), held):
        row(f"air over ice, {t - 273.15:g} °C, 1 atm (Murphy and Koop 2005, Buck 1981)", p, y, "Pa")
    gas = chart_of(EXAMPLE_GAS).host
    pound = hydrate_points.POUND_PER_MILLION
    for state, t, p, published in hydrate_points.WATER_HELD:
        y = water_content(gas, np.array([t]), np.array([p]), {}).vapour_over_water[0]
        row(f"gas over water, {state} (GPSA)", published / pound, y * 18.01528e-3 / pound, "lb/MMscf")
    for fahrenheit, psia, vapour_pressure in hydrate_points.BUKACEK:
        there = np.array([(fahrenheit + 459.67) / 1.8]), np.array([psia * 6894.757])
        y = water_content(gas, *there, {}).vapour_over_water[0]
        published = hydrate_points.bukacek(fahrenheit, psia, vapour_pressure)
        row(
            f"gas over water, {fahrenheit:g} °F, {psia:g} psia (Bukacek 1955)",
            published,
            y * 18.01528e-3 / pound,
            "lb/MMscf",
        )
    t, p, percent, by_gas, in_oil = hydrate_points.METHANOL_LOST
    fluid = Fluid(
        name="F", parts=tuple(FluidPart(component=n, amount=a) for n, a in {**EXAMPLE_GAS, **EXAMPLE_OIL}.items())
    )
    project = Evaluator().at(parse_document('{"format": "cryonome/1"}').model_copy(update={"fluids": (fluid,)}))
    model = dilute(project, fluid, "methanol")
    places = model.names.index("water"), model.names.index("methanol")
    there = shares(model.eos, model.z, *places, "methanol", {"methanol": np.array([0.01 * percent])}, t, p)
    lost = {s.vapour: s.fraction for s in there}
    row(
        "methanol in gas for each wt% in water, 40 °F, 900 psia (GPSA)",
        by_gas / pound,
        lost[True] * 32.042e-3 / percent / pound,
        "lb/MMscf",
    )
    row("methanol in condensate, 27.5 wt% in water, 40 °F (GPSA)", in_oil, 100.0 * lost[False], "mol%")
    return rows


if __name__ == "__main__":
    import sys

    sys.stdout.write("\n".join(tables()) + "\n")
