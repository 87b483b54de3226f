"""What correlations of water, brine, alcohols and glycols make of a phase rich in them, beside the equation of state.

The solvents of such a phase are looked at alone, by the equation and by the correlations; the phase takes the
difference of both for its share of solvents. For water that is the Gibbs energy of the industrial formulation less that
of the equation, so that volume, enthalpy, entropy and heat capacity stay derivatives of one function; enthalpy and
entropy are the equation's own at 25 °C and 1 atm. Salt and the other solvents change the volume, and by it enthalpy and
entropy under pressure. Equilibria are the equation's.

The correction begins at half of solvents and is whole at 80 mol%; it fades out from 590 to 620 K, where water is
no simple liquid any more. Array shapes: M phases, nc components, ns solvents with water first."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ...constants import ATM
from ...equilibrium.phases import Kind, Phases
from . import brine, organics, water_transport
from .region1 import MOLAR_MASS, LiquidWater, liquid_water
from .solvents import CORRELATIONS, Heats, Places, Solvents, Volumes, by_equation

if TYPE_CHECKING:
    from ..substance import Substance

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

RICH = (0.5, 0.8)
"""Mole fractions of solvents between which a phase goes over to their correlations."""
HOT = (590.0, 620.0)
"""K, between which they fade out."""


def passage(value: Array, ends: tuple[float, float]) -> Array:
    """Return 0 below and 1 above two ends, smoothly between, (...)."""
    s = np.clip((value - ends[0]) / (ends[1] - ends[0]), 0.0, 1.0)
    return np.asarray(s * s * (3.0 - 2.0 * s))


@dataclass(frozen=True)
class AqueousPhases:
    """The phases that correlations hold for: their ``state`` and ``place`` (M,), how far (``weight``, M), what share of
    moles is ``solvent`` (M,), and the solvents alone, ``x`` (M, ns); ``molality`` mol NaCl per kg of water."""

    substance: Substance
    solvents: Solvents
    state: NDArray[np.intp]
    place: NDArray[np.intp]
    weight: Array
    solvent: Array
    x: Array
    T: Array
    P: Array
    molality: float

    @staticmethod
    def among(substance: Substance, phases: Phases, present: Mask) -> AqueousPhases | None:
        """Return those of some phases (N, p), None where there are none or the equation's own is asked."""
        solvents = substance.solvents if substance.aqueous == CORRELATIONS else None
        if solvents is None:
            return None
        state, place = np.nonzero(present & (phases.kind != Kind.VAPOUR))
        all_of = phases.composition[state, place][:, solvents.places]
        share = all_of.sum(axis=1)
        weight = passage(share, RICH) * passage(all_of[:, 0] / np.maximum(share, 1e-300), (0.0, 0.05))
        weight = weight * (1.0 - passage(phases.T[state], HOT))
        rows = np.flatnonzero(weight > 0.0)
        if rows.size == 0:
            return None
        state, place = state[rows], place[rows]
        x = all_of[rows] / share[rows, None]
        return AqueousPhases(
            substance,
            solvents,
            state,
            place,
            weight[rows],
            share[rows],
            x,
            phases.T[state],
            phases.P[state],
            substance.salt,
        )

    @cached_property
    def water(self) -> LiquidWater:
        """Fresh water at the phases' states."""
        return liquid_water(self.T, self.P)

    @cached_property
    def salt_mass(self) -> Array:
        """Mass of salt, kg per mole of the phase's molecules (M,)."""
        return np.asarray(self.x[:, 0] * self.solvent * MOLAR_MASS * self.molality * brine.NACL)

    def _by_correlations(self) -> tuple[Volumes, Volumes]:
        """Return the volumes of the solvents, and of their water alone, fresh, by mole of solvents."""
        fresh = Volumes(self.water.V, self.water.V_T, self.water.V_P)
        salty = fresh
        if self.molality > 0.0:
            share = float(brine.mass_share(self.molality))
            own = 1.0 / self.water.density
            more, by_T, by_P = brine.denser(self.T, self.P, share)
            rho, mass = self.water.density + more, MOLAR_MASS / (1.0 - share)
            rho_T = -self.water.V_T / self.water.V / own + by_T
            rho_P = -self.water.V_P / self.water.V / own + by_P
            salty = Volumes(mass / rho, -mass / rho**2 * rho_T, -mass / rho**2 * rho_P)
        out = salty.times(self.x[:, 0])
        for k, name in enumerate(self.solvents.others, start=1):
            mass = float(self.substance.molar_mass[self.solvents.places[k]])
            out = out + Volumes(*organics.volume(name, mass, self.T, self.P)).times(self.x[:, k])
        zero = np.zeros_like(self.T)
        out = out + Volumes(organics.excess_volume(self.solvents.others, self.x), zero, zero)
        return out, fresh.times(self.x[:, 0])

    @cached_property
    def _equation(self) -> tuple[Volumes, Volumes, Heats]:
        """By the equation: volumes of the solvents, of their water alone, and the heats of water."""
        own, places = self.substance, self.solvents.places
        one = np.ones((self.T.size, 1))

        def of(places: Places, x: Array) -> tuple[Volumes, Heats]:
            return by_equation(own.eos.of(places).take(self.state), own.shifts, own.cp, places, x, self.T, self.P)

        alone, heats = of(places[:1], one)
        whole = of(places, self.x)[0] if places.size > 1 else alone
        return whole, alone.times(self.x[:, 0]), heats

    @cached_property
    def volumes(self) -> Volumes:
        """What the phase's volume and its derivatives change by, by mole of the phase."""
        return (self._by_correlations()[0] - self._equation[0]).times(self.weight * self.solvent)

    @cached_property
    def heats(self) -> tuple[Array, Array, Array]:
        """What enthalpy J/mol, entropy and heat capacity J/(mol K) change by, by mole of the phase (M,)."""
        own = self._equation[2]
        H0, S0 = self.substance.water_datum
        w, share = self.x[:, 0], self.weight * self.solvent
        dH, dS, dCp = w * (self.water.H - own.H - H0), w * (self.water.S - own.S - S0), w * (self.water.Cp - own.Cp)
        if self.solvents.others or self.molality > 0.0:
            # What is not fresh water, from 1 atm on: the integrals over the pressure by its middle.
            middle, push = 0.5 * (self.P + ATM), self.P - ATM
            cold, rest, hot = (replace(self, T=self.T + d, P=middle).not_water for d in (-1.0, 0.0, 1.0))
            dH, dS = dH + (rest.V - self.T * rest.V_T) * push, dS - rest.V_T * push
            dCp = dCp - self.T * 0.5 * (hot.V_T - cold.V_T) * push
        return share * dH, share * dS, share * dCp

    @property
    def not_water(self) -> Volumes:
        """What salt and other solvents change of the volume, by mole of solvents."""
        known, fresh = self._by_correlations()
        return (known - fresh) - (self._equation[0] - self._equation[1])

    @cached_property
    def mass_fractions(self) -> Array:
        """Mass fractions of the solvents among themselves, (M, ns)."""
        mass = self.x * self.substance.molar_mass[self.solvents.places]
        return np.asarray(mass / mass.sum(axis=1, keepdims=True))

    @cached_property
    def viscosity(self) -> Array:
        """Viscosity of the solvents, Pa s (M,)."""
        water = water_transport.viscosity(self.T, self.water.density) * brine.thicker(self.T, self.molality)
        return organics.mixed_viscosity(self.solvents.others, self.mass_fractions, self.T, water)

    @cached_property
    def conductivity(self) -> Array:
        """Thermal conductivity of the solvents, W/(m K) (M,)."""
        water = water_transport.conductivity(self.T, self.water.density)
        return organics.mixed_conductivity(self.solvents.others, self.mass_fractions, self.T, water)
