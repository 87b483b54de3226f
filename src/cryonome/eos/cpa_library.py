"""What cubic plus association knows of components and pairs.

``cpa.csv`` holds the published constants of water, alcohols and glycols: attraction a0, covolume b, Soave's c1, and
of the bonds their number, energy and beta. What is not there does not bond with its like and takes the constants of
Soave's equation from its critical point and acentric factor, so that a fluid without any of them has that equation.

``cpa_pairs.csv`` (made by ``scripts/association_parameters.py``) holds pairs of those with each other and with what
dissolves in them: an interaction parameter at 298.15 K with its two constants of warming, how many places the other
takes bonds at, and their beta. A row is for a component, or for a family of hydrocarbons at a molar mass, between
which values are interpolated; cuts, branched alkanes and families without a row follow normal alkanes."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import R
from .cpa import Association
from .interaction import is_hydrocarbon

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Bonding:
    """Published constants of one component: sites that give and that take, a0 Pa m6/mol2, b m3/mol, c1, and of its
    bonds the energy over R, K, and beta."""

    donors: float
    acceptors: float
    a0: float
    b: float
    c1: float
    energy: float
    beta: float
    source: str


@dataclass(frozen=True)
class PairBonds:
    """A pair: k at 298.15 K, its warming c1 1/K and c2 1/K2, how many places the other takes bonds at, their beta,
    and where they are from."""

    k: float
    c1: float
    c2: float
    takes: float
    beta: float
    source: str


@cache
def published() -> dict[str, Bonding]:
    """Return the published constants by component name."""
    rows = csv.DictReader(files(__package__).joinpath("cpa.csv").read_text(encoding="utf-8").splitlines())
    return {
        r["name"]: Bonding(
            float(r["donors"]), float(r["acceptors"]), float(r["a0_Pa_m6_mol2"]), float(r["b_m3_mol"]), float(r["c1"]),
            float(r["energy_J_mol"]) / R, float(r["beta"]), r["source"],
        )
        for r in rows
    }  # fmt: skip


def bonding(component: Component) -> Bonding | None:
    """Return the published constants of a component, None where it does not bond with its like."""
    return published().get(component.name) if component.kind == "pure" else None


@cache
def rows() -> dict[tuple[str, str], list[tuple[float, PairBonds]]]:
    """Return the rows by pair, of a family several by molar mass, g/mol."""
    text = files(__package__).joinpath("cpa_pairs.csv").read_text(encoding="utf-8")
    out: dict[tuple[str, str], list[tuple[float, PairBonds]]] = {}
    for r in csv.DictReader(text.splitlines()):
        k, c1, c2, takes, beta = (float(r[key] or 0.0) for key in ("k", "c1", "c2", "takes", "beta"))
        pair = PairBonds(k, c1, c2, takes, beta, r["source"])
        out.setdefault((r["donor"], r["other"]), []).append((float(r["molar_mass"] or 0.0), pair))
    return out


LIKE = {"": "n-alkane", "isoalkane": "n-alkane"}
"""Families that follow another."""


def pair_bonds(donor: Component, other: Component) -> PairBonds | None:
    """Return what is known of a component that bonds with another, None where that is nothing."""
    known = rows()
    if other.kind == "pure":
        for pair in ((donor.name, other.name), (other.name, donor.name)):
            if pair in known:
                return known[pair][0][1]
    if not is_hydrocarbon(other):
        return None
    family = LIKE.get(other.family, other.family)
    sized = known.get((donor.name, family))
    if sized is None and family != "aromatic":
        sized = known.get((donor.name, "n-alkane"))
    if sized is None:
        return None
    mass = [m for m, _ in sized]

    def at(key: str) -> float:
        return float(np.interp(1e3 * other.molar_mass, mass, [getattr(p, key) for _, p in sized]))

    return PairBonds(at("k"), at("c1"), at("c2"), sized[0][1].takes, at("beta"), sized[0][1].source)


@dataclass(frozen=True)
class BondedPairs:
    """Parameters of the pairs with a component that bonds: k (nc, nc) at 298.15 K, nan where nothing is known or
    there is no such pair, warming (nc, nc, 2), and the pairs nothing is known of."""

    kij: Array
    warming: Array
    missing: tuple[tuple[int, int], ...]


def bonded_pairs(components: Sequence[Component]) -> BondedPairs:
    """Return the library's parameters of components (nc,) with those among them that bond."""
    nc = len(components)
    kij, warming, missing = np.full((nc, nc), np.nan), np.zeros((nc, nc, 2)), []
    bonds = [bonding(c) is not None for c in components]
    for i in range(nc):
        for j in range(i + 1, nc):
            if not (bonds[i] or bonds[j]):
                continue
            one, other = (i, j) if bonds[i] else (j, i)
            found = pair_bonds(components[one], components[other])
            if found is None:
                missing.append((i, j))
                kij[i, j] = kij[j, i] = 0.0
            else:
                kij[i, j] = kij[j, i] = found.k
                warming[i, j] = warming[j, i] = found.c1, found.c2
    return BondedPairs(kij, warming, tuple(missing))


def association(components: Sequence[Component], covolume: Array) -> Association:
    """Return the bonds of components (nc,) with covolumes b (nc,) m3/mol.

    Unlike ones that bond with their like: mean energy, geometric mean of beta (CR-1); what only takes: half the
    donor's energy and a beta of its own."""
    own = [bonding(c) for c in components]
    donors = [i for i, b in enumerate(own) if b is not None]
    others = {
        i: {d: p for d in donors if (p := pair_bonds(components[d], c)) is not None and p.takes > 0.0 and p.beta > 0.0}
        for i, c in enumerate(components)
        if own[i] is None
    }
    acceptors = donors + [i for i, pairs in others.items() if pairs]
    energy, volume = np.zeros((len(donors), len(acceptors))), np.zeros((len(donors), len(acceptors)))
    takes = np.zeros(len(acceptors))
    for a, j in enumerate(acceptors):
        like = own[j]
        takes[a] = like.acceptors if like is not None else max(p.takes for p in others[j].values())
        for d, i in enumerate(donors):
            one = own[i]
            assert one is not None
            mean = 0.5 * (covolume[i] + covolume[j])
            if like is not None:
                energy[d, a] = 0.5 * (one.energy + like.energy)
                volume[d, a] = mean * np.sqrt(one.beta * like.beta)
            elif i in others[j]:
                energy[d, a], volume[d, a] = 0.5 * one.energy, mean * others[j][i].beta
    gives = np.array([b.donors for b in own if b is not None])
    return Association(
        np.array(donors, dtype=np.intp), np.array(acceptors, dtype=np.intp), gives, takes, energy, volume
    )
