"""Binary interaction parameters of cubic equations: a library of pairs, and a rule for methane with heavier hydrocarbons.

The library is ``kij.csv``: pairs by name, or a component with a family of hydrocarbons, for the equations of Peng and
Robinson, for those of Redlich and Kwong and for PC-SAFT, each with its source. A pair comes before a family, a family before all
hydrocarbons. Methane with a hydrocarbon that has no word there follows

    k = A (1 - (2 sqrt(r1 r2)/(r1 + r2))^n),   r = Vc^(1/3)

the form of Chueh and Prausnitz, AIChE J. 13, 1099 (1967), with A and n chosen in ``docs/interaction.md``. Other pairs of
hydrocarbons are nearly ideal by themselves and take zero: the same rule between all of them makes paraffins of different
length repel each other, which measured activities do not show.
"""

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


@cache
def library(family: str) -> dict[tuple[str, str], tuple[float, str]]:
    """Return value and source by pair, for a family of equations: "PR", "PC-SAFT", else that of Redlich and Kwong.

    A pair without a value of its own for PC-SAFT takes the one for Peng and Robinson.
    """
    text = files(__package__).joinpath("kij.csv").read_text(encoding="utf-8")
    column = {"PR": "PR", "PC-SAFT": "SAFT"}.get(family, "RK")
    out: dict[tuple[str, str], tuple[float, str]] = {}
    for row in csv.DictReader(text.splitlines()):
        told = row[column] or (row["PR"] if column == "SAFT" else "")
        if told:
            out[row["one"], row["other"]] = out[row["other"], row["one"]] = float(told), row["source"]
    return out


@dataclass(frozen=True)
class LibraryPairs:
    """Parameters (nc, nc) of the library, and the pairs it has no word on though zero is not to be expected, by place."""

    kij: Array
    missing: tuple[tuple[int, int], ...]


def is_hydrocarbon(component: Component) -> bool:
    """Tell whether a component is a hydrocarbon; pseudo-components and cuts count as such."""
    return component.family in _FAMILIES


def library_pairs(components: Sequence[Component], family: str = "PR", rule: MethaneRule = RULE) -> LibraryPairs:
    """Return the library's parameters for components (nc,) and an equation of a ``family``."""
    nc = len(components)
    known = library(family)
    names = [_names(c) for c in components]
    oil = np.array([is_hydrocarbon(c) for c in components])
    radius = np.cbrt([c.Vc for c in components])
    kij = np.zeros((nc, nc))
    missing = []
    for i in range(nc):
        if oil[i] and components[i].family == "":
            # Cuts among themselves are many and have no entries.
            others = [j for j in range(i + 1, nc) if not (oil[j] and components[j].family == "")]
        else:
            others = list(range(i + 1, nc))
        for j in others:
            found = next((known[a, b] for a, b in _ranked(names[i], names[j]) if (a, b) in known), None)
            if found is not None:
                kij[i, j] = found[0]
            elif oil[i] and oil[j]:
                if "methane" in (names[i][0], names[j][0]):
                    ratio = 2.0 * np.sqrt(radius[i] * radius[j]) / (radius[i] + radius[j])
                    kij[i, j] = rule.scale * (1.0 - ratio**rule.exponent)
            else:
                missing.append((i, j))
    return LibraryPairs(kij + kij.T, tuple(missing))


def _names(component: Component) -> tuple[str, ...]:
    """Return what a component goes by in the library, the most telling first."""
    own = (component.name,) if component.kind == "pure" else ()
    kin = (component.family or "cut", HYDROCARBON) if is_hydrocarbon(component) else ()
    return own + kin


def _ranked(one: tuple[str, ...], other: tuple[str, ...]) -> list[tuple[str, str]]:
    ways = [(i + j, a, b) for i, a in enumerate(one) for j, b in enumerate(other)]
    return [(a, b) for _, a, b in sorted(ways, key=lambda w: w[0])]


def library_kij(components: Sequence[Component], family: str = "PR", rule: MethaneRule = RULE) -> Array:
    """Return the symmetric matrix (nc, nc) of the library alone."""
    return library_pairs(components, family, rule).kij
