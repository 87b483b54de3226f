"""Product ranges of a sample or of a blend of samples: amounts, bulk properties and the tests they would show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..components import Component, find
from ..components.oil_density import expanded_density
from ..constants import WATER_DENSITY_60F
from ..errors import DomainError
from .averages import mean_average_boiling_point, watson_factor
from .correlations import TEST_TEMPERATURES
from .curve import BoilingCurve
from .cuts import PRODUCTS, ProductRange
from .methods import CONVERSIONS, DEFAULT_CONVERSIONS, Context, from_tbp
from .product_tests import FARTHEST, TESTS, Distillate
from .viscosity import from_index

Array = NDArray[np.float64]

T_15C = 288.15
LEAST = 1e-9
"""Fraction of the whole by volume below which a product is taken for empty."""
NARROW = 0.02
"""K over which a single component is spread where it boils."""
BASES = ("volume", "mass", "mole")


@dataclass(frozen=True)
class Stock:
    """A kilogram of a sample in slices (n,) along its boiling curve: ``along`` (n + 1,) the fractions by volume at
    their edges, light ends in front; ``amounts`` (n,) m3 at 60 degF, kg and mol by basis; ``nbp`` K; blending
    ``index`` (n, 2) of the viscosities at the test temperatures; ``quantities`` by name, (n,) values with their basis
    and unit; ``light`` ends with their ``light_mass`` (k,) kg."""

    curve: BoilingCurve
    along: Array
    amounts: dict[str, Array]
    nbp: Array
    index: Array
    quantities: dict[str, tuple[Array, str, str]] = field(default_factory=dict)
    light: tuple[Component, ...] = ()
    light_mass: tuple[float, ...] = ()

    def below(self, T: Array) -> Array:
        """Return the fractions by volume that boil below T (...) K, light ends always."""
        return np.asarray(np.maximum(self.curve.distilled(T), self.along[0]))

    def between(self, amount: Array, limits: Array) -> Array:
        """Return what of an amount of the slices (n, ...) stands between limits (m + 1,) by volume, (m, ...)."""
        below = np.concatenate([np.zeros((1, *amount.shape[1:])), np.cumsum(amount, axis=0)])
        if amount.ndim == 1:
            return np.diff(np.interp(limits, self.along, below))
        return np.stack([np.diff(np.interp(limits, self.along, c)) for c in below.T], axis=-1)


@dataclass(frozen=True)
class Product:
    """A product range, K: its fractions of the whole by volume, mass and mole, and where it is not empty its density
    kg/m3 at 60 degF, molar mass kg/mol, mean average boiling point K, Watson factor, kinematic viscosities m2/s at
    the test temperatures, ``quantities`` by name with their unit, D86 temperatures K at 10, 50 and 90 %, results of
    :data:`TESTS` by key, those far outside their published range left out; ``beyond`` names every test whose range it
    lies outside of."""

    name: str
    start: float
    end: float
    fractions: dict[str, float]
    density: float = float("nan")
    molar_mass: float = float("nan")
    nbp: float = float("nan")
    watson_k: float = float("nan")
    viscosity: tuple[float, ...] = ()
    quantities: dict[str, tuple[float, str]] = field(default_factory=dict)
    d86: tuple[float, float, float] = (float("nan"),) * 3
    tests: dict[str, float] = field(default_factory=dict)
    beyond: tuple[str, ...] = ()


def products_of(
    stocks: Sequence[tuple[float, Stock]],
    pures: Sequence[tuple[float, Component]] = (),
    ranges: Sequence[ProductRange] = PRODUCTS,
) -> tuple[Product, ...]:
    """Return the products of a blend of stocks and single components, each with its mass, kg.

    Volumes at 60 degF, masses and moles add up; viscosities by the index of ASTM D7152 by mass, quantities on their
    own basis. Light ends of the stocks, and single components that boil no higher than n-pentane, stand in a line of
    their own before the others. Raises DomainError where there is nothing."""
    if sum(m for m, _ in (*stocks, *pures)) <= 0.0:
        raise DomainError("there is nothing to cut")
    last = find("n-pentane").nbp + 0.5
    light = [(m * own, c) for m, s in stocks for c, own in zip(s.light, s.light_mass)]
    front = light + [(m, c) for m, c in pures if c.nbp <= last]
    inside = [(m, c) for m, c in pures if c.nbp > last]
    singles = [*light, *pures]
    whole = {b: sum(m * s.amounts[b].sum() for m, s in stocks) + _total(singles, b) for b in BASES}
    boiling = [c.nbp for _, c in inside]
    begin = min([float(s.curve.at(np.array(s.along[0]))) for _, s in stocks] + boiling or [last])
    top = max([float(s.curve.temperature[-1]) for _, s in stocks] + boiling or [last])
    ends = [p.end if np.isfinite(p.end) else top for p in ranges]
    starts = [min(begin, ends[0]), *ends[:-1]]
    bounds = [-np.inf, *ends[:-1], np.inf]
    out = [_product("light ends", min(c.nbp for _, c in front), begin, [], front, whole)] if front else []
    for k, p in enumerate(ranges):
        low, high = bounds[k], bounds[k + 1]
        parts = [(m, s, _limits(s, low, high)) for m, s in stocks]
        own = [(m, c) for m, c in inside if low <= c.nbp < high]
        out.append(_product(p.name, starts[k], ends[k], parts, own, whole))
    return tuple(out)


def _total(singles: Sequence[tuple[float, Component]], basis: str) -> float:
    return sum(_amount(c, m, basis) for m, c in singles)


def _amount(component: Component, mass: float, basis: str) -> float:
    if basis == "mass":
        return mass
    moles = mass / component.molar_mass
    return moles if basis == "mole" else moles * component.standard_liquid_volume


def _limits(stock: Stock, low: float, high: float) -> Array:
    """Return the fractions by volume of a stock that boil below two temperatures, (2,)."""
    ends = [
        float(stock.along[0]) if low == -np.inf else float(stock.below(np.array(low))),
        1.0 if high == np.inf else float(stock.below(np.array(high))),
    ]
    return np.array([ends[0], max(ends)])


Parts = Sequence[tuple[float, Stock, Array]]


def _product(
    name: str,
    start: float,
    end: float,
    parts: Parts,
    singles: Sequence[tuple[float, Component]],
    whole: dict[str, float],
) -> Product:
    own = {
        b: sum(float(m * s.between(s.amounts[b], x)[0]) for m, s, x in parts)
        + sum(_amount(c, m, b) for m, c in singles)
        for b in BASES
    }
    fractions = {b: float(own[b] / whole[b]) for b in BASES}
    if fractions["volume"] < LEAST:
        return Product(name, start, end, {b: max(v, 0.0) for b, v in fractions.items()})
    density, molar_mass = own["mass"] / own["volume"], own["mass"] / own["mole"]
    sg = density / WATER_DENSITY_60F
    nbp = _mean_boiling(parts, singles)
    watson = watson_factor(nbp, sg)
    if not parts:
        return Product(name, start, end, fractions, density, molar_mass, nbp, watson)
    oil = sum(float(m * s.between(s.amounts["mass"], x)[0]) for m, s, x in parts)
    index = sum(m * s.between(s.index * s.amounts["mass"][:, None], x)[0] for m, s, x in parts)
    viscosity = tuple(float(v) for v in from_index(np.asarray(index) / oil)) if oil > 0.5 * own["mass"] else ()
    d86 = _d86(parts, singles, Context(sg, watson))
    distillate = Distillate(d86, nbp, sg, float(expanded_density(sg, T_15C)), watson)
    tests = {t.key: t.function(distillate) for t in TESTS if t.off(distillate) <= FARTHEST}
    return Product(
        name, start, end, fractions, density, molar_mass, nbp, watson, viscosity, _quantities(parts, singles), d86, tests,
        tuple(t.key for t in TESTS if t.off(distillate) > 0.0),
    )  # fmt: skip


def _mean_boiling(parts: Parts, singles: Sequence[tuple[float, Component]]) -> float:
    nbp, volume, mole = [], [], []
    for m, s, x in parts:
        low, high = np.maximum(s.along[:-1], x[0]), np.minimum(s.along[1:], x[1])
        share = np.maximum(high - low, 0.0) / np.diff(s.along)
        keep = share > 0.0
        nbp.append(s.nbp[keep])
        volume.append(m * (share * s.amounts["volume"])[keep])
        mole.append(m * (share * s.amounts["mole"])[keep])
    nbp.append(np.array([c.nbp for _, c in singles]))
    volume.append(np.array([_amount(c, m, "volume") for m, c in singles]))
    mole.append(np.array([_amount(c, m, "mole") for m, c in singles]))
    return mean_average_boiling_point(*(np.concatenate(v) for v in (nbp, volume, mole)))


def _quantities(parts: Parts, singles: Sequence[tuple[float, Component]]) -> dict[str, tuple[float, str]]:
    """Return the quantities that every stock in the product has, on their basis; single components are free of them."""
    there = [(m, s, x) for m, s, x in parts if float(s.between(s.amounts["mass"], x)[0]) > 0.0]
    out: dict[str, tuple[float, str]] = {}
    for name, (_, basis, unit) in (there[0][1].quantities if there else {}).items():
        others = [s.quantities.get(name) for _, s, _ in there]
        if any(o is None or o[1:] != (basis, unit) for o in others):
            continue
        held = sum(float(m * s.between(s.quantities[name][0] * s.amounts[basis], x)[0]) for m, s, x in there)
        amount = sum(float(m * s.between(s.amounts[basis], x)[0]) for m, s, x in there)
        out[name] = held / (amount + sum(_amount(c, m, basis) for m, c in singles)), unit
    return out


def _d86(parts: Parts, singles: Sequence[tuple[float, Component]], context: Context) -> tuple[float, float, float]:
    """Return what ASTM D86 would show of a product at 10, 50 and 90 %, K, from its true boiling points by the API
    conversion of 1994."""
    T = [s.curve.at(np.clip(s.along, x[0], x[1])) for _, s, x in parts if x[1] > x[0]]
    T += [np.array([c.nbp - NARROW, c.nbp + NARROW]) for _, c in singles]
    grid = np.unique(np.concatenate(T))
    if grid.size < 2:
        return (float("nan"),) * 3
    volume = np.zeros(grid.size)
    for m, s, x in parts:
        at = np.clip(s.below(grid), x[0], x[1])
        at[-1] = x[1] if grid[-1] >= s.curve.at(x[1]) - 1e-9 else at[-1]
        volume += m * np.interp(at, s.along, np.append(0.0, np.cumsum(s.amounts["volume"])))
    for m, c in singles:
        volume += _amount(c, m, "volume") * np.clip((grid - c.nbp) / (2.0 * NARROW) + 0.5, 0.0, 1.0)
    share = (volume - volume[0]) / (volume[-1] - volume[0])

    def tbp(x: Array) -> Array:
        return np.asarray(np.interp(x, share, grid))

    found = from_tbp(tbp, CONVERSIONS["D86"][DEFAULT_CONVERSIONS["D86"]], np.array([0.1, 0.5, 0.9]), context)
    return float(found[0]), float(found[1]), float(found[2])


__all__ = ["Product", "Stock", "TEST_TEMPERATURES", "products_of"]
