"""What a tuning may change of a fluid, applied to many sets of values at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..eos.building import Interaction, equation_of, volume_shift, volume_slope
from ..eos.cubic import CubicEos
from ..eos.interaction import RULE
from ..errors import DomainError
from ..labtests import LabFluid

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Property:
    """What can be tuned: its ``title``, usual bounds, the ``prior`` width (one standard deviation), and whether the
    value is the thing itself and no factor."""

    title: str
    low: float
    high: float
    prior: float
    plain: bool = False


PROPERTIES: dict[str, Property] = {
    "Tc": Property("critical temperature", 0.85, 1.15, 0.03),
    "Pc": Property("critical pressure", 0.75, 1.25, 0.08),
    "omega": Property("acentric factor", 0.7, 1.3, 0.08),
    "a": Property("attraction", 0.8, 1.2, 0.05),
    "b": Property("covolume", 0.8, 1.2, 0.05),
    "shift": Property("volume shift", -3.0, 5.0, 0.5),
    "molar_mass": Property("molar mass", 0.8, 1.25, 0.07),
    "amount": Property("amount", 0.8, 1.25, 0.05),
    "kij": Property("interaction parameter", -0.1, 0.25, 0.02, plain=True),
    "kij_factor": Property("interaction parameters, all in proportion", 0.0, 3.0, 0.4),
    "kij_exponent": Property("exponent of the interaction rule", 0.2, 4.0, 0.4),
    "viscosity": Property("viscosity", 0.1, 10.0, 1.0),
}
"""Everything that can be tuned by its key in a document; factors on what the untuned fluid has, of ``kij`` the
value."""
ANY_SIGN = ("shift", "kij_factor")
"""Factors that may be zero or less."""

HEAVY_FROM = 0.0955
"""Molar mass, kg/mol, from which hydrocarbons count as heavy ends where a fluid has no cuts: that of heptanes."""


@dataclass(frozen=True)
class Parameter:
    """A property of the components at ``places``, of interaction parameters with those at ``partners``."""

    property: str
    places: tuple[int, ...]
    partners: tuple[int, ...] = ()


@dataclass(frozen=True)
class Base:
    """A fluid before it is tuned: ``components`` with mole fractions ``z`` (nc,), the names of equation, alpha
    function and kind of volume shift, the interaction parameters; the viscosity's method and the logarithms of
    factors on it by mass fraction, ``thicker`` and ``thicker_T`` (nc,), K."""

    components: tuple[Component, ...]
    z: Array
    equation: str
    alpha: str
    shift: str
    pairs: Interaction
    method: str
    thicker: Array
    thicker_T: Array
    exponent: float = RULE.exponent
    """Of the rule of interaction parameters by size (:mod:`cryonome.eos.interaction`)."""


@dataclass(frozen=True)
class Tuned:
    """What a single set of values makes of a fluid: components, mole fractions, interaction parameters, the factors
    on attraction and covolume and on volume shifts (nc,), and logarithms of factors on viscosity (nc,)."""

    components: tuple[Component, ...]
    z: Array
    pairs: Interaction
    a_factor: Array | None
    b_factor: Array | None
    shift_factor: Array
    thicker: Array


def heavy_ends(components: Sequence[Component]) -> tuple[int, ...]:
    """Return the places of the heavy ends: cuts and pseudo-components, and where there are none of such size
    hydrocarbons from heptanes on."""
    made = tuple(i for i, c in enumerate(components) if c.kind != "pure" and c.molar_mass >= 0.9 * HEAVY_FROM)
    if made:
        return made
    return tuple(
        i
        for i, c in enumerate(components)
        if c.molar_mass >= HEAVY_FROM and c.family not in ("inorganic", "water", "alcohol")
    )


@dataclass(frozen=True)
class _Arrays:
    """The numbers that a tuning changes, each (M, nc) or (M, nc, nc)."""

    Tc: Array
    Pc: Array
    omega: Array
    mass: Array
    z: Array
    kij: Array
    a: Array
    b: Array
    shift: Array
    thicker: Array


def _changed(base: Base, parameters: Sequence[Parameter], values: Array) -> _Arrays:
    """Return the numbers of M sets ``values`` (M, p)."""
    m = values.shape[0]

    def of(name: str) -> Array:
        return np.tile(np.array([getattr(c, name) for c in base.components], float), (m, 1))

    one = np.ones((m, base.z.size))
    Tc, Pc, omega, mass = (of(k) for k in ("Tc", "Pc", "omega", "molar_mass"))
    z, kij = np.tile(base.z, (m, 1)), np.tile(base.pairs.kij, (m, 1, 1))
    a, b, shift, thicker = one.copy(), one.copy(), one.copy(), np.zeros_like(one)
    factors = {"Tc": Tc, "Pc": Pc, "omega": omega, "a": a, "b": b, "shift": shift}
    for k, p in enumerate(parameters):
        places, value = list(p.places), values[:, k : k + 1]
        if p.property in factors:
            factors[p.property][:, places] *= value
        elif p.property == "molar_mass":
            # Amounts were weighed: the mass of the component stays.
            mass[:, places] *= value
            z[:, places] /= value
        elif p.property == "amount":
            z[:, places] *= value
        elif p.property == "viscosity":
            thicker[:, places] += np.log(value)
        elif p.property.startswith("kij"):
            for i, j in ((i, j) for i in places for j in p.partners if i != j):
                kij[:, i, j] = kij[:, j, i] = _pair(base, p.property, (i, j), kij[:, i, j], values[:, k])
        else:
            raise DomainError(f"'{p.property}' cannot be tuned; there is {', '.join(PROPERTIES)}")
    return _Arrays(Tc, Pc, omega, mass, z / z.sum(axis=1, keepdims=True), kij, a, b, shift, thicker)


def _pair(base: Base, name: str, pair: tuple[int, int], old: Array, value: Array) -> Array:
    """Return the interaction parameters (M,) of a pair from the ``old`` ones and values (M,).

    With another exponent of the rule k = A (1 - q^n), q = 2 sqrt(r1 r2)/(r1 + r2), r = Vc^(1/3), a pair is what its
    own A makes of it."""
    if name == "kij":
        return value
    if name == "kij_factor":
        return old * value
    one, other = (np.cbrt(base.components[i].Vc) for i in pair)
    q = 2.0 * np.sqrt(one * other) / (one + other)
    return (
        np.asarray(old * np.expm1(value * base.exponent * np.log(q)) / np.expm1(base.exponent * np.log(q)))
        if q < 1.0
        else old
    )


def _components(base: Base, changed: _Arrays, row: int) -> tuple[Component, ...]:
    return tuple(
        replace(c, Tc=float(t), Pc=float(p), omega=float(w), molar_mass=float(m))
        for c, t, p, w, m in zip(
            base.components, changed.Tc[row], changed.Pc[row], changed.omega[row], changed.mass[row]
        )
    )


def single(base: Base, parameters: Sequence[Parameter], values: Array) -> Tuned:
    """Return what one set of values (p,) makes of a fluid."""
    changed = _changed(base, parameters, values[None, :])
    names = {p.property for p in parameters}
    return Tuned(
        _components(base, changed, 0),
        changed.z[0],
        replace(base.pairs, kij=changed.kij[0]),
        changed.a[0] if "a" in names else None,
        changed.b[0] if "b" in names else None,
        changed.shift[0],
        changed.thicker[0],
    )


def tuned(base: Base, parameters: Sequence[Parameter], values: Array) -> LabFluid:
    """Return a fluid with M sets of values (M, p), ready for tests. Raises DomainError where the equation is no
    cubic."""
    changed = _changed(base, parameters, values)
    m = values.shape[0]
    eos = equation_of(base.equation, base.components, base.pairs, base.alpha)
    if not isinstance(eos, CubicEos):
        raise DomainError(f"only cubic equations are tuned; {base.equation} is none")
    names = {p.property for p in parameters}
    eos = replace(
        eos,
        Tc=changed.Tc,
        Pc=changed.Pc,
        omega=changed.omega,
        kij=_matrices(base, changed, names),
        a_factor=times(eos.a_factor, changed.a if "a" in names else None),
        b_factor=times(eos.b_factor, changed.b if "b" in names else None),
    )
    own, slope = _shifts(base, changed, eos, names)
    shift = own * changed.shift
    Vc = np.tile([c.Vc for c in base.components], (m, 1))
    return LabFluid(
        eos, changed.z, shift, changed.mass, changed.Tc, changed.Pc, Vc, base.method, base.thicker + changed.thicker,
        np.tile(base.thicker_T, (m, 1)), slope,
    )  # fmt: skip


def times(one: Array | None, other: Array | None) -> Array | None:
    """Return the product of two factors (M, nc), None where both are none."""
    return other if one is None else one if other is None else one * other


def _matrices(base: Base, changed: _Arrays, names: set[str]) -> Array:
    """Return interaction parameters with the axis of the sets only where they differ: one matrix for all is a faster
    product."""
    if not any(name.startswith("kij") for name in names):
        return base.pairs.kij
    return changed.kij[0] if changed.kij.shape[0] == 1 else changed.kij


def _shifts(base: Base, changed: _Arrays, eos: CubicEos, names: set[str]) -> tuple[Array, Array]:
    """Return the volume shifts (M, nc) m3/mol of the changed components, before their factor, and their slopes (M,
    nc) m3/(mol K)."""
    m = changed.z.shape[0]
    if not names & {"Tc", "Pc", "omega", "a", "b", "molar_mass"}:
        plain = equation_of(base.equation, base.components, base.pairs, base.alpha)
        own = volume_shift(base.shift, base.equation, base.components, plain)
        return np.tile(own, (m, 1)), np.tile(volume_slope(base.shift, base.components, plain, own), (m, 1))
    if base.shift == "density":
        # The components of all sets one after another are pure fluids as those of one are.
        flat = [c for row in range(m) for c in _components(base, changed, row)]
        own = volume_shift(base.shift, base.equation, flat, eos)
        return own.reshape(m, -1), volume_slope(base.shift, flat, eos, own).reshape(m, -1)
    rows = [
        volume_shift(base.shift, base.equation, _components(base, changed, row), eos.single(row)) for row in range(m)
    ]
    return np.array(rows), np.zeros((m, len(base.components)))
