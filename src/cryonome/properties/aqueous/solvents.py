"""Which components are solvents of an aqueous liquid, and what the equation of state makes of them alone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...components import Component, ideal_gas
from ...constants import ATM, T_REF, R
from ...eos import Equation
from ...eos.volume_shift import Shifts
from .organics import ORGANICS
from .region1 import liquid_water

Array = NDArray[np.float64]
Places = NDArray[np.intp]

WATER = "water"

CORRELATIONS, EQUATION = "correlations", "equation"
AQUEOUS = {
    CORRELATIONS: "water by IAPWS-IF97 and the IAPWS viscosity and conductivity; brine Batzle and Wang (1992), Mao and Duan (2009); "
    "alcohols and glycols with water from handbook tables",
    EQUATION: "the equation of state and the methods of other liquids",
}
"""How properties of aqueous liquids are found, with the sources."""


@dataclass(frozen=True)
class Solvents:
    """The solvents among the components: their ``places`` (ns,), water first, and the names of the others."""

    places: Places
    others: tuple[str, ...]

    @staticmethod
    def of(components: Sequence[Component]) -> Solvents | None:
        """Return those of components (nc,), None without water."""
        names = [c.name if c.kind == "pure" else "" for c in components]
        if WATER not in names:
            return None
        others = tuple(n for n in names if n in ORGANICS)
        return Solvents(np.array([names.index(WATER), *(names.index(n) for n in others)], dtype=np.intp), others)


@dataclass(frozen=True)
class Volumes:
    """Molar volumes m3/mol with their derivatives by T and P, (M,)."""

    V: Array
    V_T: Array
    V_P: Array

    def __sub__(self, other: Volumes) -> Volumes:
        return Volumes(self.V - other.V, self.V_T - other.V_T, self.V_P - other.V_P)

    def __add__(self, other: Volumes) -> Volumes:
        return Volumes(self.V + other.V, self.V_T + other.V_T, self.V_P + other.V_P)

    def times(self, factor: Array) -> Volumes:
        """Return them multiplied by (M,)."""
        return Volumes(self.V * factor, self.V_T * factor, self.V_P * factor)


@dataclass(frozen=True)
class Heats:
    """Enthalpy J/mol, entropy and heat capacity J/(mol K) of a liquid, (M,)."""

    H: Array
    S: Array
    Cp: Array


def by_equation(
    eos: Equation, shifts: Shifts, cp: Array, places: Places, x: Array, T: Array, P: Array
) -> tuple[Volumes, Heats]:
    """Return volumes and heats of a liquid of components ``places`` with mole fractions x (M, n) at T K and P Pa (M,)
    by an ``eos`` of these alone, shifted; ``cp`` (nc, 1 + k) of all components' ideal gases."""
    r = eos.prepare(T, P).response(x, "liquid")
    shift, rise, bend = (np.vecdot(x, f(T)[:, places]) for f in (shifts.at, shifts.by_T, shifts.by_TT))
    own, cp = r.Z * R * T / P, cp[places]
    found = Volumes(own - shift, -r.p_T / r.p_V * r.Z * R / P - rise, own / (P * r.p_V))
    H = np.vecdot(x, ideal_gas.enthalpy(cp, T)) + R * T * r.h_res - (shift - T * rise) * P
    S = ideal_gas.entropy(cp, T, P, x) + R * r.s_res + rise * P
    return found, Heats(H, S, np.vecdot(x, ideal_gas.heat_capacity(cp, T)) + R * r.cp_res + T * bend * P)


def water_datum(eos: Equation, shifts: Shifts, cp: Array, water: int) -> tuple[float, float]:
    """Return enthalpy J/mol and entropy J/(mol K) of liquid water by the industrial formulation less those by the
    equation of a mixture with ``water`` at a place, at 25 °C and 1 atm."""
    T, P, place = np.array([T_REF]), np.array([ATM]), np.array([water], dtype=np.intp)
    single = eos.single(0) if eos.batched else eos
    _, heats = by_equation(single.of(place), shifts, cp, place, np.ones((1, 1)), T, P)
    known = liquid_water(T, P)
    return float(known.H[0] - heats.H[0]), float(known.S[0] - heats.S[0])
