"""Tables of what nothing was fitted to: azeotropes, Joule-Thomson coefficients, second virial coefficients, quadruple points of hydrates."""

from __future__ import annotations

import numpy as np

import hydrate_accuracy
from cryonome.components import find
from cryonome.constants import R
from cryonome.eos import Equation
from cryonome.eos.building import BONDS, Interaction, equation_of, family_of, volume_shift
from cryonome.eos.cpa_library import bonded_pairs
from cryonome.eos.interaction import library_pairs
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.fraction_states import fraction_states
from cryonome.properties import Substance, evaluate

FORMS = ("PR78", "SRK", "PC-SAFT")

AZEOTROPES = (
    ("carbon dioxide", "ethane", 263.15, 0.67, "Fredenslund and Mollerup (1974)"), ("hydrogen sulfide", "propane", 310.93, 0.83, "Kay and Rambosek (1953)"),
    ("benzene", "cyclohexane", 350.7, 0.54, "Horsley (1973)"),
)  # fmt: skip
"""Two components, K, mole fraction of the first, source."""
VIRIALS = (
    ("methane", 300.0, -42.2), ("nitrogen", 300.0, -4.5), ("carbon dioxide", 300.0, -122.0), ("ethane", 300.0, -182.0), ("propane", 300.0, -382.0),
    ("n-butane", 300.0, -722.0),
)  # fmt: skip
"""K and cm3/mol: Dymond and Smith, The Virial Coefficients of Pure Gases and Mixtures (1980)."""
COOLING = (
    ("methane", 300.0, 1e5, 0.437),
    ("nitrogen", 300.0, 1e5, 0.217),
    ("carbon dioxide", 300.0, 1e5, 1.08),
    ("methane", 300.0, 1e7, 0.313),
)
"""K, Pa and K/bar, from reference equations."""
QUADRUPLE = (("ethane", 3.39e6, 287.9), ("propane", 0.556e6, 278.8))
"""Pa and K of hydrate, water, gas and liquid: Sloan and Koh (2008), ch. 4: points of gases that the constants were not made from."""


def pairs_of(names: tuple[str, ...], form: str) -> Equation:
    """Return the equation of components with the library's parameters, slopes among them."""
    parts = [find(n) for n in names]
    found = library_pairs(parts, family_of(form))
    kij, slope, warming = found.kij, found.slope, None
    if form == BONDS:
        own = bonded_pairs(parts)
        there = ~np.isnan(own.kij)
        kij, slope, warming = np.where(there, own.kij, kij), np.where(there, 0.0, slope), own.warming
    water = 0.0 if "water" in names and form not in ("PC-SAFT", BONDS) else None
    return equation_of(form, parts, Interaction(kij, slope if slope.any() else None, water, (), warming))


def azeotropes() -> list[str]:
    """Return the table of azeotropes: where the bubble pressure has its top."""
    rows = [
        "| pair | K | measured, mole fraction of the first | PR78 | SRK | PC-SAFT |",
        "| --- | --- | --- | --- | --- | --- |",
    ]
    for one, other, T, measured, source in AZEOTROPES:
        cells = []
        for form in FORMS:
            eos = pairs_of((one, other), form)
            x = np.linspace(0.01, 0.99, 99)
            z = np.column_stack([x, 1.0 - x])
            beta = np.zeros(x.size)
            P = fraction_states(eos, z, beta, np.full(x.size, T), None).phases.P
            top = int(np.nanargmax(P))
            if top in (0, x.size - 1):
                cells.append("none")
                continue
            a, b, _ = np.polyfit(x[top - 1 : top + 2], P[top - 1 : top + 2], 2)
            cells.append(f"{-b / (2.0 * a):.3f}")
        rows.append(f"| {one}, {other} ({source}) | {T:g} | {measured:g} | {' | '.join(cells)} |")
    return rows


def gases() -> list[str]:
    """Return the table of second virial and Joule-Thomson coefficients."""
    rows = ["| gas | state | measured | PR78 | SRK | PC-SAFT |", "| --- | --- | --- | --- | --- | --- |"]
    for name, T, measured in VIRIALS:
        cells = []
        for form in FORMS:
            eos = equation_of(form, [find(name)], Interaction(np.zeros((1, 1))))
            P = 100.0
            Z = eos.prepare([T], [P]).response(np.ones((1, 1)), "vapour")
            cells.append(f"{1e6 * (Z.Z[0] - 1.0) * R * T / P:.1f}")
        values = f"{measured:g} cm³/mol | {' | '.join(cells)}".replace("-", "−")
        rows.append(f"| {name}, second virial | {T:g} K | {values} |")
    for name, T, P, measured in COOLING:
        cells = []
        for form in FORMS:
            c = (find(name),)
            eos = equation_of(form, c, Interaction(np.zeros((1, 1))))
            own = Substance(eos, c, volume_shift("density", form, c, eos))
            found = evaluate(own, flash_pt(eos, [T], [P], np.ones(1)), ("joule_thomson",)).phase["joule_thomson"][0, 0]
            cells.append(f"{1e5 * found:.3f}")
        rows.append(f"| {name}, Joule–Thomson | {T:g} K, {P / 1e5:g} bar | {measured:g} K/bar | {' | '.join(cells)} |")
    return rows


def quadruple_points() -> list[str]:
    """Return the table of temperatures at which hydrate, water, gas and liquid meet, at their pressure."""
    rows = ["| gas | MPa | measured, K | PR78 | SRK | PC-SAFT |", "| --- | --- | --- | --- | --- | --- |"]
    for name, P, T in QUADRUPLE:
        cells = []
        for form in FORMS:
            off = hydrate_accuracy.missed(hydrate_accuracy.chart_of({name: 1.0}, form), [(T, P / 1e6)])[0]
            cells.append(f"{T + off:.1f} ({off:+.1f} K)".replace("-", "−"))
        rows.append(f"| {name} | {P / 1e6:g} | {T:g} | {' | '.join(cells)} |")
    return rows
