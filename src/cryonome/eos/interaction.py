"""Binary interaction parameters of cubic equations: a library of pairs, gases with heavy ends by size, and a rule for
methane with heavier hydrocarbons.

The library is ``kij.csv``: pairs by name, or a component with a family of hydrocarbons, for the equations of Peng and
Robinson, for those of Redlich and Kwong and for PC-SAFT, each with its source. A pair comes before a family, a family
before all hydrocarbons. Nitrogen, carbon dioxide and hydrogen sulfide with paraffins and cuts that have no pair of
their own follow ``kij_heavy.csv`` by molar mass. Methane with a hydrocarbon that has no word there follows

    k = A (1 - (2 sqrt(r1 r2)/(r1 + r2))^n),   r = Vc^(1/3)

the form of Chueh and Prausnitz, AIChE J. 13, 1099 (1967), with A and n chosen in ``docs/interaction.md``. Other pairs
of hydrocarbons are nearly ideal by themselves and take zero: the same rule between all of them makes paraffins of
different length repel each other, which measured activities do not show."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray

from ..components import Component

Array = NDArray[np.float64]


@dataclass(frozen=True)
class MethaneRule:
    """The rule for methane with heavier hydrocarbons: its ``scale`` A and ``exponent`` n."""

    scale: float = 0.16
    exponent: float = 6.0


RULE = MethaneRule()

HYDROCARBON = "hydrocarbon"
_FAMILIES = frozenset({"n-alkane", "isoalkane", "olefin", "naphthene", "aromatic", ""})


@dataclass(frozen=True)
class PairEntry:
    """A parameter at 298.15 K, its ``slope`` in 1/K, and where it is from."""

    value: float
    slope: float
    source: str


@cache
def library(family: str, fitted_alpha: bool = False) -> dict[tuple[str, str], PairEntry]:
    """Return the entries by pair, for a family of equations: "PR", "PC-SAFT", else that of Redlich and Kwong.

    A pair without a value of its own for PC-SAFT takes the one for Peng and Robinson. Those of hydrogen and helium go
    with their alpha function: with ``fitted_alpha`` the fitted one."""
    text = files(__package__).joinpath("kij.csv").read_text(encoding="utf-8")
    column = {"PR": "PR", "PC-SAFT": "SAFT"}.get(family, "RK")
    out: dict[tuple[str, str], PairEntry] = {}
    for row in csv.DictReader(text.splitlines()):
        told = (row.get(f"{column}_fitted") if fitted_alpha else "") or row[column]
        if column == "SAFT":
            told = told or row["PR_fitted"] or row["PR"]
        if told:
            entry = PairEntry(float(told), float(row.get(f"{column}_slope") or 0.0), row["source"])
            out[row["one"], row["other"]] = out[row["other"], row["one"]] = entry
    return out


@cache
def _by_size(family: str) -> dict[str, tuple[Array, Array, Array]]:
    """Return molar masses (n,) kg/mol, parameters at 298.15 K and slopes 1/K (n,) of the gases that follow the size
    of a hydrocarbon."""
    text = files(__package__).joinpath("kij_heavy.csv").read_text(encoding="utf-8")
    rows = list(csv.DictReader(text.splitlines()))
    out = {}
    for gas in dict.fromkeys(r["gas"] for r in rows):
        own = [r for r in rows if r["gas"] == gas]
        mass, value, slope = (np.array([float(r[k]) for r in own]) for k in ("molar_mass", family, f"{family}_slope"))
        out[gas] = 1e-3 * mass, value, slope
    return out


SIZED = frozenset({"n-alkane", "isoalkane", "olefin", ""})
"""Families of hydrocarbons whose pairs with the gases of ``kij_heavy.csv`` follow their size; a cut has none."""
SIZED_FROM = 0.075
"""kg/mol. Molar mass from which hydrocarbons count as heavy there."""


def _sized(one: Component, other: Component, family: str) -> tuple[float, float] | None:
    """Return parameter and slope of a gas with a heavy hydrocarbon, None where the pair is no such."""
    if family not in ("PR", "RK"):
        return None
    gas, oil = (one, other) if one.name in _by_size(family) else (other, one)
    table = _by_size(family).get(gas.name)
    if table is None or gas.kind != "pure" or oil.family not in SIZED or oil.molar_mass < SIZED_FROM:
        return None
    mass, value, slope = table
    return float(np.interp(oil.molar_mass, mass, value)), float(np.interp(oil.molar_mass, mass, slope))


@dataclass(frozen=True)
class LibraryPairs:
    """Parameters (nc, nc) of the library at 298.15 K, their slopes (nc, nc) 1/K, and the pairs it has no word on
    though zero is not to be expected, by place."""

    kij: Array
    slope: Array
    missing: tuple[tuple[int, int], ...]


def is_hydrocarbon(component: Component) -> bool:
    """Tell whether a component is a hydrocarbon; pseudo-components and cuts count as such."""
    return component.family in _FAMILIES


def library_pairs(
    components: Sequence[Component], family: str = "PR", rule: MethaneRule = RULE, alpha: str = "own"
) -> LibraryPairs:
    """Return the library's parameters for components (nc,) and an equation of a ``family`` with its ``alpha``
    function."""
    nc = len(components)
    known = library(family, alpha != "own")
    names = [_names(c) for c in components]
    oil = np.array([is_hydrocarbon(c) for c in components])
    radius = np.cbrt([c.Vc for c in components])
    kij, slope = np.zeros((nc, nc)), np.zeros((nc, nc))
    missing = []
    for i in range(nc):
        if oil[i] and components[i].family == "":
            # Cuts among themselves are many and have no entries.
            others = [j for j in range(i + 1, nc) if not (oil[j] and components[j].family == "")]
        else:
            others = list(range(i + 1, nc))
        for j in others:
            pair, found = next(((p, known[p]) for p in _ranked(names[i], names[j]) if p in known), ((), None))
            sized = _sized(components[i], components[j], family) if found is None or HYDROCARBON in pair else None
            if sized is not None:
                kij[i, j], slope[i, j] = sized
            elif found is not None:
                kij[i, j], slope[i, j] = found.value, found.slope
            elif oil[i] and oil[j]:
                if "methane" in (names[i][0], names[j][0]):
                    ratio = 2.0 * np.sqrt(radius[i] * radius[j]) / (radius[i] + radius[j])
                    kij[i, j] = rule.scale * (1.0 - ratio**rule.exponent)
            else:
                missing.append((i, j))
    return LibraryPairs(kij + kij.T, slope + slope.T, tuple(missing))


def _names(component: Component) -> tuple[str, ...]:
    """Return what a component goes by in the library, the most telling first."""
    own = (component.name,) if component.kind == "pure" else ()
    kin = (component.family or "cut", HYDROCARBON) if is_hydrocarbon(component) else ()
    return own + kin


def _ranked(one: tuple[str, ...], other: tuple[str, ...]) -> list[tuple[str, str]]:
    ways = [(i + j, a, b) for i, a in enumerate(one) for j, b in enumerate(other)]
    return [(a, b) for _, a, b in sorted(ways, key=lambda w: w[0])]


def library_kij(components: Sequence[Component], family: str = "PR", rule: MethaneRule = RULE) -> Array:
    """Return the symmetric matrix (nc, nc) of the library at 298.15 K alone."""
    return library_pairs(components, family, rule).kij
