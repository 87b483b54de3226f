"""Published correlations for the properties of narrow petroleum fractions, as entries of one registry.

An entry knows its property, source, formula in words, range and function; everything that lists, selects or
documents correlations reads the registry. Functions take :class:`Fraction` arrays and return SI values.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ...remarks import Measure, Value, Word

Array = NDArray[np.float64]

ORDER = ("molar_mass", "Tc", "Pc", "omega", "Vc", "cp", "liquid_density", "viscosity", "parachor")
"""The order of evaluation: an entry may use what stands before it."""


@dataclass(frozen=True)
class Fraction:
    """What is known of n narrow fractions, (n,) each: ``nbp`` K, ``sg`` 60/60 degF, and results so far by name;
    ``form`` is the equation of state a boiling point is matched with."""

    nbp: Array
    sg: Array
    known: dict[str, Array] = field(default_factory=dict)
    form: str = "PR78"

    @property
    def watson_k(self) -> Array:
        """Watson factor (n,)."""
        return np.asarray(np.cbrt(1.8 * self.nbp) / self.sg)


LIMIT_KINDS = {"nbp": "temperature", "sg": "", "watson_k": "", "molar_mass": "molar_mass"}
"""Kinds of unit of the quantities that ranges of validity are given in."""


@dataclass(frozen=True)
class Correlation:
    """One published correlation; ``limits`` gives the range of a quantity of :class:`Fraction` by name."""

    key: str
    property: str
    title: str
    source: str
    formula: str
    limits: dict[str, tuple[float, float]]
    function: Callable[[Fraction], Array]

    def limit_values(self) -> tuple[Value, ...]:
        """Return the range of validity as data: the quantity's word, from and to; empty where none is stated."""
        out: list[Value] = []
        for name, (low, high) in self.limits.items():
            kind = LIMIT_KINDS[name]
            ends: tuple[Value, Value] = (Measure(low, kind, 0), Measure(high, kind, 0)) if kind else (low, high)
            out.append((Word(f"limit.{name}"), *ends))
        return tuple(out)

    def outside(self, fraction: Fraction) -> NDArray[np.bool_]:
        """Tell which fractions (n,) lie outside the range of validity."""
        out = np.zeros(fraction.nbp.shape, dtype=bool)
        for name, (low, high) in self.limits.items():
            value = fraction.known[name] if name in fraction.known else getattr(fraction, name)
            out |= (value < low) | (value > high)
        return out


TITLES = {
    "density": "Density along the curve",
    "molar_mass": "Molar mass",
    "Tc": "Critical temperature",
    "Pc": "Critical pressure",
    "omega": "Acentric factor",
    "Vc": "Critical volume",
    "cp": "Ideal-gas heat capacity",
    "liquid_density": "Liquid density at 100 and 210 °F",
    "viscosity": "Kinematic viscosity at 100 and 210 °F",
    "parachor": "Parachor",
}
"""What the properties are called in sentences, in the order of evaluation."""

TEST_TEMPERATURES = np.array([(100.0 + 459.67) / 1.8, (210.0 + 459.67) / 1.8])
"""K. The two temperatures viscosities and liquid densities of fractions are estimated at."""

HIGHEST_TBR = 0.985
"""Highest Tb/Tc an estimate may have; the heaviest known substances stay below 0.95."""

REGISTRY: dict[str, dict[str, Correlation]] = {name: {} for name in TITLES}
DEFAULTS: dict[str, str] = {
    "density": "constant-watson",
    "molar_mass": "twu-1984",
    "Tc": "twu-1984",
    "Pc": "twu-1984",
    "Vc": "twu-1984",
    "omega": "boiling-point",
    "cp": "kesler-lee",
    "liquid_density": "spencer-danner",
    "viscosity": "twu-1985",
    "parachor": "firoozabadi",
}


def entry(
    key: str, prop: str, title: str, source: str, formula: str, limits: dict[str, tuple[float, float]]
) -> Callable[[Callable[[Fraction], Array]], Callable[[Fraction], Array]]:
    """Enter the decorated function in the registry."""

    def register(function: Callable[[Fraction], Array]) -> Callable[[Fraction], Array]:
        REGISTRY[prop][key] = Correlation(key, prop, title, source, formula, limits, function)
        return function

    return register


@dataclass(frozen=True)
class Estimated:
    """Properties of n fractions by name (SI; ``cp`` (n, k)), and which lie outside a correlation's range."""

    values: dict[str, Array]
    used: dict[str, Correlation]
    outside: dict[str, NDArray[np.bool_]]


def estimate(
    nbp: Array,
    sg: Array,
    choice: dict[str, str] | None = None,
    given: dict[str, Array] | None = None,
    form: str = "PR78",
    factors: dict[str, float] | None = None,
) -> Estimated:
    """Return all properties of narrow fractions of boiling points nbp (n,) K and specific gravities sg (n,).

    ``choice`` names the correlation by property where not the default; ``given`` holds values that are known and
    not to be estimated; ``factors`` multiply what correlations give.
    """
    picked = {**DEFAULTS, **(choice or {})}
    known: dict[str, Array] = dict(given or {})
    used, outside = {}, {}
    for name in ORDER:
        if name in known:
            continue
        fraction = Fraction(nbp, sg, known, form)
        chosen = REGISTRY[name][picked[name]]
        value = chosen.function(fraction) * (factors or {}).get(name, 1.0)
        if name == "Tc":
            # Far outside the range of every correlation a fraction may seem to boil above its critical point.
            value = np.maximum(value, nbp / HIGHEST_TBR)
        known = {**known, name: value}
        used[name] = chosen
        outside[name] = chosen.outside(fraction)
    return Estimated(known, used, outside)
