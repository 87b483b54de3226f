"""The tables of the documentation: correlations against pure hydrocarbons, characterization against known mixtures."""

from __future__ import annotations

from pathlib import Path

import numpy as np

import synthetic
from cryonome.characterization.correlations import DEFAULTS, REGISTRY, TITLES, Fraction
from cryonome.components import Component, all_components, ideal_gas
from cryonome.results.correlation_choices import limits_text
from cryonome.telling import Units

DOCS = Path(__file__).parents[1] / "docs"
FAMILIES = {"n-alkane": "n-alkanes", "naphthene": "naphthenes", "aromatic": "aromatics"}
COMPARED = ("molar_mass", "Tc", "Pc", "omega", "Vc", "cp")


def carbons(component: Component) -> int:
    """Return the number of carbon atoms of a hydrocarbon formula."""
    return int(component.formula[1:].split("H")[0] or 1)


def pure(family: str) -> list[Component]:
    """Return the C6 to C30 hydrocarbons of a family."""
    return [c for c in all_components() if c.family == family and 6 <= carbons(c) <= 30]


def deviations(prop: str, key: str, components: list[Component]) -> np.ndarray:
    """Return percents off (n,) of a correlation that sees the components as narrow fractions."""
    nbp, sg = (np.array([getattr(c, k) for c in components]) for k in ("nbp", "specific_gravity"))
    known = {k: np.array([getattr(c, k) for c in components]) for k in ("molar_mass", "Tc", "Pc", "omega")}
    found = REGISTRY[prop][key].function(Fraction(nbp, sg, known))
    if prop == "cp":
        T = np.array([300.0, 600.0])
        mine = ideal_gas.heat_capacity(found, T).T
        own = ideal_gas.heat_capacity(np.array([c.cp for c in components]), T).T
        return (100.0 * (mine / own - 1.0)).ravel()
    return np.asarray(100.0 * (found / np.array([getattr(c, prop) for c in components]) - 1.0))


def correlations_page() -> str:
    """Return docs/correlations.md."""
    groups = {name: pure(family) for family, name in FAMILIES.items()}
    counts = ", ".join(f"{len(g)} {n} (C{min(map(carbons, g))} to C{max(map(carbons, g))})" for n, g in groups.items())
    lines = [
        "# Correlations against pure hydrocarbons",
        "",
        f"Every correlation is given boiling point and specific gravity of {counts} as if they were narrow fractions, and",
        "what it is built on (critical constants for omega, molar mass for Vc) from the databank. Deviations in percent: mean",
        "absolute (largest absolute). Heat capacities at 300 and 600 K. Written by `python benchmarks/tables.py`.",
        "",
    ]
    for prop in COMPARED:
        lines += [
            f"## {TITLES[prop]}",
            "",
            "| key | " + " | ".join(groups) + " | range |",
            "| --- |" + " ---: |" * len(groups) + " --- |",
        ]
        for key, entry in REGISTRY[prop].items():
            cells = []
            for components in groups.values():
                off = np.abs(deviations(prop, key, components))
                cells.append(f"{off.mean():.1f} ({off.max():.1f})")
            name = f"`{key}`" + (" (default)" if DEFAULTS[prop] == key else "")
            lines.append(
                f"| {name} | " + " | ".join(cells) + f" | {limits_text(entry, Units.of('metric')) or 'none stated'} |"
            )
        lines.append("")
    lines += ["## All entries", "", "| property | key | source | formula |", "| --- | --- | --- | --- |"]
    for prop, entries in REGISTRY.items():
        for key, entry in entries.items():
            lines.append(f"| {TITLES[prop]} | `{key}` | {entry.source} | {entry.formula.replace('|', '/')} |")
    return "\n".join(lines) + "\n"


def synthetic_page(count: int = 24) -> str:
    """Return docs/synthetic-truth.md."""
    lines = [
        "# Known mixtures found again",
        "",
        f"{count} made-up mixtures of 15 to 25 databank components, propane to triacontane, are given the curves a perfect laboratory",
        "would measure (points at the middle of every component's share; light ends C3 to C5 by volume). They are characterized from those alone",
        "and compared with the exact mixture through PR78 with the library's interaction parameters: bubble pressures at 50 and 150 °C, vapour",
        "fractions at five states (120 °C 2 bar, 150 °C 3 bar, 200 °C 5 bar, 250 °C 8 bar, 300 °C 6 bar), density and molar mass.",
        "Mean absolute deviation (largest). Written by `python benchmarks/tables.py`.",
        "",
    ]
    for curves in (True, False):
        what = "With density and molar-mass curves" if curves else "From the TBP curve and whole-sample values alone"
        lines += [
            f"## {what}", "",
            "| Tc and Pc + omega | bubble 50 °C, % | bubble 150 °C, % | vapour fraction, points of % | density, % | molar mass, % |",
            "| --- | ---: | ---: | ---: | ---: | ---: |",
        ]  # fmt: skip
        rows = synthetic.study(count, curves)
        score = {n: np.abs(r[:, :2]).mean() + np.abs(r[:, 2:7]).mean() for n, r in rows.items()}
        for name in sorted(rows, key=lambda n: score[n]):
            d = np.abs(rows[name])
            cells = [f"{d[:, k].mean():.2f} ({d[:, k].max():.2f})" for k in (0, 1)]
            cells.append(f"{d[:, 2:7].mean():.2f} ({d[:, 2:7].max():.2f})")
            cells += [f"< {max(10.0 ** np.ceil(np.log10(d[:, k].max() + 1e-12)), 1e-9):.0e}" for k in (7, 8)]
            mark = " (default)" if name == f"{DEFAULTS['Tc']} + {DEFAULTS['omega']}" else ""
            lines.append(f"| `{name}`{mark} | " + " | ".join(cells) + " |")
        lines.append("")
    lines += [
        "The default set is the best where density and molar mass were measured along the curve, which is where the correlations alone are at work.",
        "From a TBP curve alone the missing density curve (one Watson K for paraffins and aromatics alike) costs more than the choice of critical",
        "constants; sets that come out ahead there do so by errors that cancel.",
        "",
    ]
    return "\n".join(lines)


if __name__ == "__main__":
    (DOCS / "correlations.md").write_text(correlations_page(), encoding="utf-8")
    (DOCS / "synthetic-truth.md").write_text(synthetic_page(), encoding="utf-8")
