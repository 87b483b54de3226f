"""Parameters of water's pairs in the aqueous phase, made so that what is known of dissolved gases and hydrocarbons
comes out.

ln phi of a solute at infinite dilution is linear in its parameter, so each temperature gives its own; a parabola in
Tr goes through them. What is met: Henry's constants of the international guideline where there is one, else the
solubility that Søreide and Whitson's correlation gives, moved to the measured one at 25 °C of hydrocarbons that have
been measured."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from .alpha import Alpha, First, MathiasCopeman, Salted
from .alpha_library import alpha_library
from .aqueous import Aqueous
from .cubic import CubicEos
from .cubic_forms import FORMS, CubicForm
from .interaction import is_hydrocarbon

Array = NDArray[np.float64]

WATER = "water"
MOST_SALT = 6.0
"""mol NaCl per kg of water, near saturation; the measurements behind the salt terms go to 5."""

T = np.linspace(278.15, 473.15, 20)
"""K. Where parameters are made."""
ROOM = 298.15

GUIDELINE: dict[str, tuple[float, float, float]] = {
    "helium": (-3.52839, 7.12983, 4.47770),
    "argon": (-8.40954, 4.29587, 10.52779),
    "hydrogen": (-4.73284, 6.08954, 6.06066),
    "nitrogen": (-9.67578, 4.72162, 11.70585),
    "oxygen": (-9.44833, 4.43822, 11.42005),
    "carbon monoxide": (-10.52862, 5.13259, 12.01421),
    "carbon dioxide": (-8.55445, 4.01195, 9.52345),
    "hydrogen sulfide": (-4.51499, 5.23538, 4.42126),
    "methane": (-10.44708, 4.66491, 12.12986),
    "ethane": (-19.67563, 4.51222, 20.62567),
}
"""A, B and C of Henry's constants in water, IAPWS G7-04; Fernández-Prini, Alvarez and Harvey, J. Phys. Chem. Ref.
Data 32, 903 (2003), table 3."""

SOLUBILITY: dict[str, tuple[float, float]] = {
    "n-pentane": (38.5, 72.15), "n-hexane": (9.5, 86.18), "n-heptane": (2.93, 100.2), "n-octane": (0.66, 114.2),
    "cyclohexane": (55.0, 84.16), "methylcyclohexane": (14.0, 98.19), "benzene": (1780.0, 78.11), "toluene": (515.0, 92.14),
    "ethylbenzene": (152.0, 106.2), "o-xylene": (175.0, 106.2), "m-xylene": (146.0, 106.2), "p-xylene": (156.0, 106.2),
}  # fmt: skip
"""Solubility of the liquid in water at 25 °C, mg/l, and molar mass, g/mol; McAuliffe, J. Phys. Chem. 70, 1267 (1966),
xylenes and ethylbenzene Sutton and Calder, J. Chem. Eng. Data 20, 320 (1975)."""


def henry_constant(name: str, T: Array, saturation: Array) -> Array:
    """Return Henry's constant, Pa, of a gas of :data:`GUIDELINE` at T K, from water's vapour pressure there (Pa).

    ln(k/p) = A/Tr + B (1 - Tr)^0.355/Tr + C Tr^-0.41 exp(1 - Tr), Tr = T/647.096 K; Fernández-Prini, Alvarez and
    Harvey (2003), eq. 3."""
    A, B, C = GUIDELINE[name]
    Tr = T / 647.096
    return np.asarray(saturation * np.exp((A + B * (1.0 - Tr) ** 0.355) / Tr + C * Tr**-0.41 * np.exp(1.0 - Tr)))


def with_water(components: Sequence[Component], family: str, salt: float, given: Alpha | None) -> Alpha | None:
    """Return alpha functions with the one fitted to water's vapour pressure for water, salt in it."""
    water = [c.kind == "pure" and c.name == WATER for c in components]
    if not any(water):
        return given
    own = Salted(MathiasCopeman(*(np.where(water, v, np.nan) for v in alpha_library(family)[WATER].parameters)), salt)
    return own if given is None else First((own, given))


def aqueous_pairs(
    components: Sequence[Component],
    form: CubicForm,
    alpha: Alpha | None,
    salt: float | None = 0.0,
    own: Sequence[tuple[int, float, float]] = (),
    smooth: bool = False,
) -> Aqueous | None:
    """Return the aqueous parameters of components (nc,) for a cubic ``form`` with its ``alpha``, water of ``salt``
    mol NaCl per kg, None where only the user's ``own`` count: places, values at 298.15 K and slopes 1/K. None without
    water or a solute of it."""
    water = next((i for i, c in enumerate(components) if c.kind == "pure" and c.name == WATER), None)
    if water is None:
        return None
    out = [np.full(len(components), np.nan), *(np.zeros(len(components)) for _ in range(4))]
    given = {place: (value, slope) for place, value, slope in own if place != water}
    for i, (value, slope) in given.items():
        out[0][i], out[1][i] = value - slope * ROOM, slope * components[i].Tc
    gases = {i for i, c in enumerate(components) if c.kind == "pure" and c.name in GUIDELINE}
    places = [
        i
        for i, c in enumerate(components)
        if i != water and salt is not None and i not in given and (i in gases or is_hydrocarbon(c))
    ]
    if places:
        dilute = _Dilute.of(components, places, water, form, alpha, smooth)
        # The correlation is one for the equation of Peng and Robinson.
        fresh = with_water(components, "PR", 0.0, None)
        reference = dilute if form.family == "PR" else _Dilute.of(components, places, water, FORMS["PR78"], fresh)
    for row, i in enumerate(places):
        part = components[i]
        solute = dilute.take(row)
        wanted = _henry(part.name, solute) if i in gases else _correlated(part, reference.take(row))
        k = solute.parameter(wanted) + _salt_effect(part, salt or 0.0)
        for place, term in enumerate(np.polynomial.polynomial.polyfit(T / part.Tc, k, 2).tolist()):
            out[place][i] = term
    return None if np.isnan(out[0]).all() else Aqueous(water, *out)


@dataclass(frozen=True)
class _Dilute:
    """Solutes at infinite dilution in water at its vapour pressure ``P``, at the temperatures :data:`T`: ln phi
    without an interaction parameter, and how it rises with it, (..., nT)."""

    P: Array
    none: Array
    rise: Array

    @staticmethod
    def of(
        components: Sequence[Component],
        places: Sequence[int],
        water: int,
        form: CubicForm,
        alpha: Alpha | None,
        smooth: bool = False,
    ) -> _Dilute:
        """Return the solutes at ``places`` (m,), all in one evaluation."""
        P, n = water_pressure(T), len(places)
        pairs = np.repeat(np.array([(i, water) for i in places]), T.size, axis=0)
        Tc, Pc, omega = (np.array([getattr(c, k) for c in components])[pairs] for k in ("Tc", "Pc", "omega"))
        own = _unsalted(alpha)
        own = None if own is None else own.apply(lambda v: v[..., pairs])
        x = np.tile([0.0, 1.0], (len(pairs), 1))

        def ln_phi(k: float) -> Array:
            eos = CubicEos(form, Tc, Pc, omega, np.array([[0.0, k], [k, 0.0]]), own, smooth=smooth)
            return eos.prepare(np.tile(T, n), np.tile(P, n)).ln_phi(x, "liquid")[0][:, 0].reshape(n, T.size)

        none = ln_phi(0.0)
        return _Dilute(P, none, ln_phi(1.0) - none)

    def take(self, row: int) -> _Dilute:
        """Return one solute."""
        return _Dilute(self.P, self.none[row], self.rise[row])

    def parameter(self, ln_phi: Array) -> Array:
        """Return the parameter that gives a fugacity coefficient."""
        return np.asarray((ln_phi - self.none) / self.rise)


def _unsalted(alpha: Alpha | None) -> Alpha | None:
    """Return alpha functions with fresh water."""
    if isinstance(alpha, Salted):
        return alpha.pure
    return (
        First(tuple(f.pure if isinstance(f, Salted) else f for f in alpha.functions))
        if isinstance(alpha, First)
        else alpha
    )


def water_pressure(T: Array) -> Array:
    """Return the vapour pressure of water, Pa; Wagner and Pruß, J. Phys. Chem. Ref. Data 31, 387 (2002), eq. 2.5."""
    v = 1.0 - T / 647.096
    terms = (
        (-7.85951783, 1.0),
        (1.84408259, 1.5),
        (-11.7866497, 3.0),
        (22.6807411, 3.5),
        (-15.9618719, 4.0),
        (1.80122502, 7.5),
    )
    return np.asarray(22.064e6 * np.exp(647.096 / T * sum(a * v**n for a, n in terms)))


def _henry(name: str, dilute: _Dilute) -> Array:
    """Return ln phi at infinite dilution of a gas with a Henry's constant."""
    return np.asarray(np.log(henry_constant(name, T, dilute.P) / dilute.P))


def _correlated(part: Component, reference: _Dilute) -> Array:
    """Return ln phi at infinite dilution of a hydrocarbon by the correlation of Søreide and Whitson (1992), eqs. 11
    to 13, for the equation of Peng and Robinson, moved to a measured solubility at 25 °C."""
    omega = max(part.omega, 0.005)
    Tr = T / part.Tc
    k = 1.1120 - 1.7369 * omega**-0.1 + (1.1001 + 0.8360 * omega) * Tr + (-0.15742 - 1.0988 * omega) * Tr**2
    ln_phi = reference.none + k * reference.rise
    if part.kind == "pure" and part.name in SOLUBILITY:
        milligrams, mass = SOLUBILITY[part.name]
        x = milligrams / mass * 1e-3 / 55.35
        own = _vapour_pressure(part)
        # The liquid's fugacity, all but its vapour pressure, over the mole fraction it dissolves to.
        at_room = math.log(own / x / float(water_pressure(np.array([ROOM]))[0]))
        ln_phi = ln_phi + at_room - float(np.interp(ROOM, T, ln_phi))
    return np.asarray(ln_phi)


def _vapour_pressure(part: Component) -> float:
    """Return the vapour pressure at 25 °C, Pa, by Lee and Kesler, AIChE J. 21, 510 (1975), eqs. 15 to 17."""
    Tr = ROOM / part.Tc
    simple = 5.92714 - 6.09648 / Tr - 1.28862 * math.log(Tr) + 0.169347 * Tr**6
    other = 15.2518 - 15.6875 / Tr - 13.4721 * math.log(Tr) + 0.43577 * Tr**6
    return float(part.Pc * math.exp(simple + part.omega * other))


def _salt_effect(part: Component, salt: float) -> Array:
    """Return what salt adds to the parameter at :data:`T`; Søreide and Whitson (1992), eqs. 11 to 15."""
    Tr = T / part.Tc
    if salt == 0.0:
        return np.zeros_like(Tr)
    if part.kind == "pure" and part.name in _GASES:
        return _GASES[part.name](salt, Tr) - _GASES[part.name](0.0, Tr)
    if not is_hydrocarbon(part):
        return np.zeros_like(Tr)
    omega = max(part.omega, 0.005)
    a0, a1, a2 = 1.1120 - 1.7369 * omega**-0.1, 1.1001 + 0.8360 * omega, -0.15742 - 1.0988 * omega
    return np.asarray(salt * (0.017407 * a0 + 0.033516 * a1 * Tr + 0.011478 * a2 * Tr**2))


_GASES: dict[str, Callable[[float, Array], Array]] = {
    "nitrogen": lambda s, Tr: -1.70235 * (1.0 + 0.025587 * s**0.75) + 0.44338 * (1.0 + 0.08126 * s**0.75) * Tr,
    "carbon dioxide": lambda s, Tr: (
        -0.31092 * (1.0 + 0.15587 * s**0.7505)
        + 0.23580 * (1.0 + 0.17837 * s**0.979) * Tr
        - 21.2566 * np.exp(-6.7222 * Tr - s)
    ),
}
