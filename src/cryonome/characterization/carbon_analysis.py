"""A chromatographic analysis by carbon number, and the splitting of its plus fraction.

The mole distribution of a plus fraction follows a gamma distribution of molar mass (Whitson, SPE J. 23, 683, 1983) or
falls exponentially with carbon number (Pedersen, Thomassen and Fredenslund, Ind. Eng. Chem. Process Des. Dev. 24,
948, 1985). Densities follow Soreide's bent line (thesis, NTH Trondheim, 1989), a constant Watson factor (Whitson) or
the logarithm of the carbon number (Pedersen); all are made to return the measured molar mass and density of the plus
fraction. The bent line is the usual one: the others run above the density of water in the heaviest groups."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..bracketing import bracketed
from ..components import Component
from ..errors import DomainError
from .carbon_groups import CARBON_GROUPS

Array = NDArray[np.float64]

SPLITS = {"gamma": "gamma (Whitson 1983)", "exponential": "exponential (Pedersen 1985)"}
LUMPINGS = {
    "none": "not lumped",
    "equal-mass": "equal masses",
    "whitson": "Whitson's rule",
    "quadrature": "Gaussian quadrature",
}
DENSITIES = {
    "soreide": "Søreide's bent line (1989)",
    "watson": "constant Watson factor (Whitson 1983)",
    "logarithmic": "logarithm of the carbon number (Pedersen 1985)",
}
"""How the densities of the groups rise."""

LAST = 30
"""The last group a plus fraction is split to, where not chosen and where its molar mass is within reach."""


@dataclass(frozen=True)
class Group:
    """A single-carbon-number group: its number, percent, and molar mass kg/mol and specific gravity if measured."""

    number: int
    percent: float
    molar_mass: float | None = None
    specific_gravity: float | None = None


@dataclass(frozen=True)
class PlusFraction:
    """What is left above the groups: carbon number it starts at, percent, molar mass kg/mol, specific gravity."""

    number: int
    percent: float
    molar_mass: float
    specific_gravity: float


@dataclass(frozen=True)
class CarbonAnalysis:
    """The analysis: pure ``components`` with ``percent``, groups, plus fraction; all percents on ``basis``.

    ``split`` is one of :data:`SPLITS`, ``shape`` the alpha of the gamma distribution, ``density`` one of
    :data:`DENSITIES`, ``last`` the last group made of the plus fraction; ``lumping`` one of :data:`LUMPINGS` into
    ``lumps`` pseudo-components (chosen by the rule if None)."""

    components: tuple[Component, ...]
    percent: tuple[float, ...]
    groups: tuple[Group, ...]
    plus: PlusFraction | None
    basis: str = "mole"
    split: str = "gamma"
    shape: float = 1.0
    density: str = "soreide"
    last: int | None = None
    lumping: str = "none"
    lumps: int | None = None


@dataclass(frozen=True)
class Split:
    """Fractions made of a plus fraction: carbon numbers, mole fractions of it and molar masses kg/mol, (n,) each."""

    number: Array
    mole: Array
    molar_mass: Array


def lowest_mass(number: float) -> float:
    """Return the lowest molar mass, kg/mol, in a plus fraction that starts at a carbon number; Whitson (1983)."""
    return (14.0 * number - 6.0) * 1e-3


def split_gamma(plus: PlusFraction, shape: float, last: int) -> Split:
    """Split a plus fraction by the gamma distribution into groups up to ``last``, the rest of it in the last one.

    Raises ValueError where its molar mass is not above the lowest one possible.
    """
    from scipy.special import gammainc

    eta, beta = _gamma(plus, shape)
    number = np.arange(plus.number, max(last, plus.number) + 1, dtype=float)
    bounds = np.append([lowest_mass(n) for n in number], np.inf)
    bounds[0] = eta
    y = (bounds - eta) / beta
    cumulative, first = (np.array(gammainc(a, y), dtype=np.float64) for a in (shape, shape + 1.0))
    mole = np.diff(cumulative)
    keep = mole > 1e-12
    mass = eta + shape * beta * np.diff(first)[keep] / mole[keep]
    return Split(number[keep], mole[keep], mass)


def _gamma(plus: PlusFraction, shape: float) -> tuple[float, float]:
    eta = lowest_mass(plus.number)
    if plus.molar_mass <= eta * 1.005:
        raise DomainError(
            f"a C{plus.number}+ fraction has a molar mass above {eta * 1e3:.0f} g/mol; {plus.molar_mass * 1e3:.4g} g/mol "
            "is given"
        )
    return eta, (plus.molar_mass - eta) / shape


def quadrature(plus: PlusFraction, shape: float, count: int) -> Split:
    """Return the ``count`` fractions of Gaussian quadrature over the gamma distribution.

    Generalized Laguerre nodes (Whitson, Andersen and Soreide, in C7+ Fraction Characterization, 1989).
    """
    from scipy.special import roots_genlaguerre

    eta, beta = _gamma(plus, shape)
    nodes, weights = (np.array(v, dtype=np.float64) for v in roots_genlaguerre(count, shape - 1.0))
    # The last of many nodes weigh nothing: 1e-12 of a fraction is no component.
    kept = weights > 1e-12 * weights.sum()
    nodes, weights = nodes[kept], weights[kept]
    mole = np.asarray(weights / weights.sum(), float)
    mass = np.asarray(eta + beta * nodes, float)
    number = np.clip((mass * 1e3 + 6.0) / 14.0, plus.number, None)
    return Split(np.floor(number), mole, mass)


def gravities(rule: str, split: Split, plus: PlusFraction, before: float) -> Array:
    """Return specific gravities (n,) of a split by one of :data:`DENSITIES` that add up to the plus fraction's by
    volume.

    ``before`` is the specific gravity of the group before it. Raises DomainError where none join.
    """
    from scipy.optimize import brentq

    if rule == "watson":
        return watson_gravity(split.mole, split.molar_mass, plus)
    weight = split.mole * split.molar_mass
    if rule == "soreide":
        start, rise = 0.2855, np.maximum(1e3 * split.molar_mass - 66.0, 1.0) ** 0.13
        low, high = 0.02, 1.0
    else:
        start, rise = before, np.log(np.maximum(split.number, plus.number) / (plus.number - 1.0))
        low, high = -0.9 * before / rise[-1], 2.0

    def volume(slope: float) -> float:
        return float((weight / (start + slope * rise)).sum() - weight.sum() / plus.specific_gravity)

    if volume(low) * volume(high) > 0.0:
        raise DomainError(
            f"no density distribution joins the {before:.3f} before C{plus.number}+ to its {plus.specific_gravity:.3f}"
        )
    return np.asarray(start + brentq(volume, low, high, xtol=1e-14) * rise)


def watson_gravity(mole: Array, mass: Array, plus: PlusFraction) -> Array:
    """Return specific gravities (n,) of one Watson factor that add up to the plus fraction's by volume.

    SG = 6.0108 M^0.17947 K^-1.18241 (Whitson 1983, eq. 20), M in g/mol.
    """
    shape = (mass * 1e3) ** 0.17947
    total = (mole * mass).sum()
    return np.asarray(shape * (mole * mass / shape).sum() / total * plus.specific_gravity)


def last_within_reach(plus: PlusFraction) -> int:
    """Return the last group an exponential split needs: the usual one, or where equal amounts of the groups would
    still be a sixth heavier than the fraction."""
    wanted = 1e3 * plus.molar_mass * 7.0 / 6.0
    return max(LAST, int(np.ceil((wanted + 4.0) / 7.0)) - plus.number)


def split_exponential(plus: PlusFraction, last: int) -> Split:
    """Split a plus fraction by ln z = A + B n, M = 14 n - 4 g/mol. Raises DomainError where its molar mass is out of
    reach."""
    from scipy.optimize import brentq

    number = np.arange(plus.number, max(last, plus.number + 1) + 1, dtype=float)
    mass = (14.0 * number - 4.0) * 1e-3

    def mole(slope: float) -> Array:
        weight = np.exp(slope * (number - number[0]) - max(slope, 0.0) * (number[-1] - number[0]))
        return np.asarray(weight / weight.sum())

    def miss(slope: float) -> float:
        return float(mole(slope) @ mass) - plus.molar_mass

    if miss(-6.0) > 0.0 or miss(0.0) < 0.0:
        raise DomainError(
            f"an exponential split of C{plus.number}+ to C{last} reaches molar masses of {mass[0] * 1e3:.0f} to "
            f"{mass.mean() * 1e3:.0f} g/mol; {plus.molar_mass * 1e3:.4g} g/mol is given"
        )
    fractions = mole(brentq(miss, -6.0, 0.0, xtol=1e-14))
    return Split(number, fractions, mass)


def group_properties(group: Group) -> tuple[float, float, float]:
    """Return boiling point K, specific gravity and molar mass kg/mol of a group: measured, else of its table.

    Beyond C45 the table is continued by its last slope in ln n.
    """
    logs = np.log(CARBON_GROUPS.number)

    def read(values: Array) -> float:
        slope = (values[-1] - values[-5]) / (logs[-1] - logs[-5])
        beyond = max(float(np.log(group.number)) - logs[-1], 0.0)
        return float(np.interp(np.log(group.number), logs, values) + slope * beyond)

    return (
        read(CARBON_GROUPS.nbp),
        group.specific_gravity if group.specific_gravity is not None else read(CARBON_GROUPS.specific_gravity),
        group.molar_mass if group.molar_mass is not None else read(CARBON_GROUPS.molar_mass),
    )


def boiling_points(mass: Array, sg: Array, molar_mass: Callable[[Array, Array], Array]) -> Array:
    """Return the boiling points (n,) K between 150 and 1300 K at which a correlation gives molar masses (n,) kg/mol; one
    of these ends where it gives none."""
    low, high = 150.0, 1300.0
    found = bracketed(lambda nbp: molar_mass(nbp, sg) - mass, mass.shape, (low, high))
    least = molar_mass(np.full(mass.shape, low), sg)
    return np.where(np.isfinite(found), found, np.where(least > mass, low, high))
