"""Parameters of water's pairs in the aqueous phase, made so that what is known of dissolved gases and hydrocarbons
comes out.

ln phi of a solute at infinite dilution is linear in its parameter, so each temperature gives its own; a parabola in
Tr, or with a term that fades, goes through them. What is met: Henry's constants of the international guideline where
there is one; of propane, butanes and light olefins the solubility that Søreide and Whitson's correlation gives, moved
to the measured one at 25 °C; of heavier hydrocarbons what is measured beside their own liquid
(:mod:`.solubilities`)."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import ATM
from .alpha import Alpha, First, MathiasCopeman, Salted
from .alpha_library import alpha_library
from .aqueous import Aqueous
from .compiled import CompiledStates
from .cubic import CubicEos
from .cubic_forms import FORMS, CubicForm
from .interaction import is_hydrocarbon
from .solubilities import GASES, ROOM, WATER_MOLES, carbons, in_water, of_water

Array = NDArray[np.float64]

WATER = "water"
MOST_SALT = 6.0
"""mol NaCl per kg of water, near saturation; the measurements behind the salt terms go to 5."""

T = np.linspace(278.15, 473.15, 20)
"""K. Where parameters are made."""
LIGHT = 4.5
"""Carbon atoms up to which a hydrocarbon dissolves as a gas."""
FADING = -8.0
"""Rate in Tr at which the fourth term of a liquid's parameter fades."""
NEARLY_IDEAL = 0.97
"""Fugacity coefficient of propane and butanes at 25 °C and 1 atm, within 2 %."""

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
        liquid = np.array([i not in gases and carbons(components[i]) > LIGHT for i in places])
        dilute = _Dilute.of(components, places, water, form, alpha, liquid, smooth)
        # The correlation is one for the equation of Peng and Robinson.
        fresh = with_water(components, "PR", 0.0, None)
        reference = dilute
        if form.family != "PR" and not liquid.all():
            reference = _Dilute.of(components, places, water, FORMS["PR78"], fresh, liquid)
    for row, i in enumerate(places):
        part = components[i]
        solute = dilute.take(row)
        if i in gases:
            wanted = _henry(part.name, solute)
        elif liquid[row]:
            wanted = _beside_its_liquid(part, solute)
        else:
            wanted = _correlated(part, reference.take(row))
        k = solute.parameter(wanted) + _salt_effect(part, salt or 0.0)
        Tr = T / part.Tc
        terms = [np.ones(T.size), Tr, Tr**2, *([np.exp(FADING * Tr)] if liquid[row] else [])]
        # Weighed as the solubility is: what k is multiplied by in its logarithm.
        found = np.linalg.lstsq(np.stack(terms, axis=1) * solute.rise[:, None], k * solute.rise, rcond=None)[0]
        for place, term in enumerate(found.tolist()):
            out[place][i] = term
        out[4][i] = FADING if liquid[row] else 0.0
    return None if np.isnan(out[0]).all() else Aqueous(water, *out)


@dataclass(frozen=True)
class _Dilute:
    """Solutes at infinite dilution in water at the temperatures :data:`T` and pressures ``P``, its vapour pressure or
    of liquids that and their own: ln phi without an interaction parameter, how it rises with it, and that of the
    solute ``alone``, (..., nT)."""

    P: Array
    none: Array
    rise: Array
    alone: Array

    @staticmethod
    def of(
        components: Sequence[Component],
        places: Sequence[int],
        water: int,
        form: CubicForm,
        alpha: Alpha | None,
        liquid: NDArray[np.bool_],
        smooth: bool = False,
    ) -> _Dilute:
        """Return the solutes at ``places`` (m,), all in one evaluation; ``liquid`` (m,) tells which stand beside their
        own liquid."""
        own_P = np.array([_vapour_pressure(components[i], T) for i in places])
        P = water_pressure(T) + np.where(liquid[:, None], own_P, 0.0)
        pairs = np.repeat(np.array([(i, water) for i in places]), T.size, axis=0)
        Tc, Pc, omega = (np.array([getattr(c, k) for c in components])[pairs] for k in ("Tc", "Pc", "omega"))
        own = _unsalted(alpha)
        own = None if own is None else own.apply(lambda v: v[..., pairs])
        x = np.tile([0.0, 1.0], (len(pairs), 1))

        def states(k: float) -> CompiledStates:
            eos = CubicEos(form, Tc, Pc, omega, np.array([[0.0, k], [k, 0.0]]), own, smooth=smooth)
            return eos.prepare(np.tile(T, len(places)), P.ravel())

        none, one = (states(k).ln_phi(x, "liquid")[0][:, 0].reshape(P.shape) for k in (0.0, 1.0))
        return _Dilute(P, none, one - none, states(0.0).pure_ln_phi()[:, 0].reshape(P.shape))

    def take(self, row: int) -> _Dilute:
        """Return one solute."""
        return _Dilute(self.P[row], self.none[row], self.rise[row], self.alone[row])

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
    to 13, for the equation of Peng and Robinson, moved to a measured solubility of the gas at 25 °C."""
    omega = max(part.omega, 0.005)
    Tr = T / part.Tc
    k = 1.1120 - 1.7369 * omega**-0.1 + (1.1001 + 0.8360 * omega) * Tr + (-0.15742 - 1.0988 * omega) * Tr**2
    ln_phi = reference.none + k * reference.rise
    if part.kind == "pure" and part.name in GASES:
        x = GASES[part.name] * 1e-6 / part.molar_mass / WATER_MOLES
        # The gas at 1 atm, all but its fugacity coefficient there, over the mole fraction it dissolves to.
        at_room = math.log(ATM * NEARLY_IDEAL / x / float(water_pressure(np.array([ROOM]))[0]))
        ln_phi = ln_phi + at_room - float(np.interp(ROOM, T, ln_phi))
    return np.asarray(ln_phi)


def _beside_its_liquid(part: Component, dilute: _Dilute) -> Array:
    """Return ln phi at infinite dilution of a hydrocarbon that dissolves as measured beside its own liquid, which holds
    water."""
    return np.asarray(dilute.alone + np.log((1.0 - of_water(part, T)) / in_water(part, T)))


def _vapour_pressure(part: Component, T: Array) -> Array:
    """Return the vapour pressure at T (n,) K, Pa, by Lee and Kesler, AIChE J. 21, 510 (1975), eqs. 15 to 17; that at
    the critical temperature above it."""
    Tr = np.minimum(T / part.Tc, 1.0)
    simple = 5.92714 - 6.09648 / Tr - 1.28862 * np.log(Tr) + 0.169347 * Tr**6
    other = 15.2518 - 15.6875 / Tr - 13.4721 * np.log(Tr) + 0.43577 * Tr**6
    return np.asarray(part.Pc * np.exp(simple + part.omega * other))


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
