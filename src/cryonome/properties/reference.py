"""Where enthalpy and entropy are zero."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..components import Component, ideal_gas
from ..constants import P_REF, T_REF, R
from ..eos import Equation
from ..eos.volume_shift import Shifts
from ..equilibrium.pure import saturation_pressure
from .heating import formation_of_fraction

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Reference:
    """A reference ``state``: ``ideal gas`` (each pure, 298.15 K, 1 atm), ``elements`` (at 298.15 K, 1 atm), or
    ``saturated liquid`` (each pure, at ``temperature`` K; what has no liquid there counts as ideal gas at it and 1
    atm)."""

    state: str = "ideal gas"
    temperature: float = T_REF

    def datum(self, components: Sequence[Component], eos: Equation, cp: Array, shift: Shifts) -> tuple[Array, Array]:
        """Return enthalpy (nc,) J/mol and entropy (nc,) J/(mol K) of the pure ideal gases at 298.15 K and 1 atm."""
        nc = len(components)
        if self.state == "ideal gas":
            return np.zeros(nc), np.zeros(nc)
        if self.state == "elements":
            formed = [c.formation or formation_of_fraction(c) for c in components]
            enthalpy, gibbs = np.array(formed).T
            return enthalpy, (enthalpy - gibbs) / T_REF
        return self._saturated(eos, cp, shift)

    def _saturated(self, eos: Equation, cp: Array, shift: Shifts) -> tuple[Array, Array]:
        nc = eos.nc
        pure = eos.pure()
        T = np.full(nc, self.temperature)
        P = saturation_pressure(eos, T)
        there = np.isfinite(P)
        at = np.where(there, P, P_REF)
        found = pure.prepare(T, at).response(np.ones((nc, 1)), "liquid")
        ideal_h = ideal_gas.enthalpy(cp, T[0])
        ideal_s = ideal_gas.pure_entropy(cp, T[0]) - R * np.log(at / P_REF)
        own, rise = shift.at(T[:1])[0], shift.by_T(T[:1])[0]
        enthalpy = ideal_h + np.where(there, found.h_res * R * T - (own - T * rise) * at, 0.0)
        entropy = ideal_s + np.where(there, found.s_res * R + rise * at, 0.0)
        return -enthalpy, -entropy


IDEAL_GAS = Reference()
