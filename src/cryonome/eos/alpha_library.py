"""The alpha functions fitted to published vapour pressures, read once from ``alpha.csv`` (made by
``scripts/alpha_parameters.py``).

Parameters belong to a family of equations: those of Peng and Robinson, or those of Redlich and Kwong with Soave's
alpha."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np

from ..components import Component
from .alpha import Alpha, First, MathiasCopeman, Twu

QUANTUM = frozenset({"hydrogen", "helium"})
"""Gases whose acentric factor says nothing about their attraction far above Tc: they take the fitted function
wherever it is not the equation's own that is asked."""


@dataclass(frozen=True)
class Entry:
    """Parameters of one substance: the ``function``'s name, its three ``parameters``, what they were fitted to."""

    name: str
    function: str
    parameters: tuple[float, float, float]
    source: str


@cache
def alpha_library(family: str) -> dict[str, Entry]:
    """Return the entries of a family ("PR" or "RK") by component name; empty for another."""
    text = files(__package__).joinpath("alpha.csv").read_text(encoding="utf-8")
    rows = csv.DictReader(text.splitlines())
    return {
        row["name"]: Entry(
            row["name"], row["function"], (float(row["p1"]), float(row["p2"]), float(row["p3"])), row["source"]
        )
        for row in rows
        if row["family"] == family
    }


def entry_of(component: Component, family: str, alpha: str) -> Entry | None:
    """Return the fitted function that a component takes in place of the equation's own: any it has of ``published``,
    hydrogen's and helium's of ``smooth``, none of ``own``."""
    if component.kind != "pure" or not (alpha == "published" or (alpha == "smooth" and component.name in QUANTUM)):
        return None
    return alpha_library(family).get(component.name)


def fitted_alpha(components: Sequence[Component], family: str, alpha: str) -> Alpha | None:
    """Return the fitted functions of those components (nc,) that take one (:func:`entry_of`), nan for the rest; None
    where none does."""
    found = [entry_of(c, family, alpha) for c in components]
    functions: list[Alpha] = []
    for kind in (MathiasCopeman, Twu):
        own = [e.parameters if e is not None and e.function == kind.__name__ else (np.nan,) * 3 for e in found]
        if not np.isnan(own).all():
            functions.append(kind(*np.array(own).T))
    if not functions:
        return None
    return functions[0] if len(functions) == 1 else First(tuple(functions))
