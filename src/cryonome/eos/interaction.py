"""Binary interaction parameters: a small library and a rule for hydrocarbons.

Values for cubic equations with the classical mixing rule. Measured pairs: Knapp, Doering, Oellrich, Ploecker and
Prausnitz, *Vapor-Liquid Equilibria for Mixtures of Low Boiling Substances*, DECHEMA Chemistry Data Series VI (1982),
Peng-Robinson, as tabulated by Reid, Prausnitz and Poling (1987), table 4-1. Pairs of a non-hydrocarbon with heavier
hydrocarbons use one rounded value near the end of its series. Hydrocarbon pairs follow the volume rule of Chueh and
Prausnitz, AIChE J. 13, 1099 (1967), with the exponent fitted here to the measured methane pairs.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..components import Component

Array = NDArray[np.float64]

VOLUME_EXPONENT = 1.1
"""Gives 0.014, 0.032 and 0.050 for methane with n-butane, n-heptane and n-decane (measured 0.013, 0.035, 0.042)."""

_PAIRS: dict[tuple[str, str], float] = {
    ("carbon dioxide", "methane"): 0.0919,
    ("carbon dioxide", "ethane"): 0.1322,
    ("carbon dioxide", "propane"): 0.1241,
    ("carbon dioxide", "n-butane"): 0.1333,
    ("carbon dioxide", "isobutane"): 0.1200,
    ("carbon dioxide", "n-pentane"): 0.1222,
    ("carbon dioxide", "isopentane"): 0.1219,
    ("carbon dioxide", "n-hexane"): 0.1100,
    ("carbon dioxide", "n-heptane"): 0.1000,
    ("carbon dioxide", "n-decane"): 0.1141,
    ("carbon dioxide", "benzene"): 0.0774,
    ("carbon dioxide", "nitrogen"): -0.0170,
    ("carbon dioxide", "hydrogen sulfide"): 0.0974,
    ("carbon dioxide", "water"): 0.0952,
    ("carbon dioxide", "methanol"): 0.0220,
    ("nitrogen", "methane"): 0.0311,
    ("nitrogen", "ethane"): 0.0515,
    ("nitrogen", "propane"): 0.0852,
    ("nitrogen", "n-butane"): 0.0800,
    ("nitrogen", "isobutane"): 0.1033,
    ("nitrogen", "n-pentane"): 0.1000,
    ("nitrogen", "isopentane"): 0.0922,
    ("nitrogen", "n-hexane"): 0.1496,
    ("nitrogen", "n-heptane"): 0.1441,
    ("nitrogen", "benzene"): 0.1641,
    ("nitrogen", "hydrogen sulfide"): 0.1767,
    ("nitrogen", "oxygen"): -0.0119,
    ("nitrogen", "argon"): -0.0026,
    ("nitrogen", "carbon monoxide"): 0.0307,
    ("nitrogen", "ethylene"): 0.0856,
    ("hydrogen sulfide", "methane"): 0.0800,
    ("hydrogen sulfide", "ethane"): 0.0833,
    ("hydrogen sulfide", "propane"): 0.0878,
    ("hydrogen sulfide", "isobutane"): 0.0474,
    ("hydrogen sulfide", "n-pentane"): 0.0630,
    ("hydrogen sulfide", "n-decane"): 0.0333,
    ("hydrogen sulfide", "water"): 0.0400,
    ("carbon monoxide", "methane"): 0.0300,
    ("methanol", "water"): -0.0780,
    ("ethanol", "water"): -0.0893,
}

_WITH_HYDROCARBON = {
    "carbon dioxide": 0.115,
    "nitrogen": 0.110,
    "hydrogen sulfide": 0.050,
    "carbon monoxide": 0.040,
    "oxygen": 0.050,
    "argon": 0.030,
    "carbonyl sulfide": 0.050,
    "methyl mercaptan": 0.030,
    "sulfur dioxide": 0.110,
    "water": 0.500,
    "methanol": 0.050,
    "ethanol": 0.050,
    "ethylene glycol": 0.200,
    "diethylene glycol": 0.200,
    "triethylene glycol": 0.200,
}

_HYDROCARBONS = {"n-alkane", "isoalkane", "olefin", "naphthene", "aromatic", ""}


def _is_hydrocarbon(component: Component) -> bool:
    return component.family in _HYDROCARBONS


def library_kij(components: Sequence[Component]) -> Array:
    """Return the symmetric matrix (nc, nc) of the library for the given components, zero where it has no word.

    Pseudo-components and cuts count as hydrocarbons.
    """
    nc = len(components)
    Vc = np.array([c.Vc for c in components])
    root = np.cbrt(Vc)
    ratio = 2.0 * np.sqrt(np.outer(root, root)) / (root[:, None] + root)
    oil = np.array([_is_hydrocarbon(c) for c in components])
    kij = np.where(np.outer(oil, oil), 1.0 - ratio**VOLUME_EXPONENT, 0.0)
    for i, first in enumerate(components):
        if first.name in _WITH_HYDROCARBON and first.kind == "pure":
            kij[i, oil] = kij[oil, i] = _WITH_HYDROCARBON[first.name]
    place = {c.name: i for i, c in enumerate(components) if c.kind == "pure"}
    for (one, other), value in _PAIRS.items():
        if one in place and other in place:
            i, j = place[one], place[other]
            kij[i, j] = kij[j, i] = value
    np.fill_diagonal(kij, 0.0)
    return np.asarray(kij.reshape(nc, nc))
