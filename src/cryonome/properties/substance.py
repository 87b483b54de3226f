"""What properties need of a mixture beside its phases: the equation, and the constants of the components as arrays."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..eos import Equation
from ..eos.volume_shift import Shifts
from .aqueous.solvents import CORRELATIONS, Solvents, water_datum
from .heating import heats_at
from .reference import IDEAL_GAS, Reference

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ViscosityMatch:
    """What brings a liquid's viscosity to what was measured: exp(w (a + b/T)), w the mass fraction of the components
    with a ``share`` (nc,) of 1. ``fit`` finds a and b, when a viscosity is first asked for."""

    share: Array
    fit: Callable[[], tuple[float, float]]

    @cached_property
    def line(self) -> tuple[float, float]:
        """a, and b in K."""
        return self.fit()


@dataclass(frozen=True)
class Substance:
    """A mixture's equation with its ``components`` (nc,).

    ``shift`` (nc,) m3/mol is what the equation's partial volumes are too large by at 60 degF, ``slope`` (nc,) m3/(mol
    K) what that changes by (:mod:`eos.volume_shift`); ``reference`` tells where enthalpy and entropy are zero;
    ``viscosity`` names the method; ``match`` brings it to measured ones; ``thicker`` (nc,) are logarithms of factors
    on it, which act by mass fraction. ``aqueous`` names how aqueous liquids are found (:data:`AQUEOUS`), ``salt`` is
    in mol NaCl per kg of their water."""

    eos: Equation
    components: Sequence[Component]
    shift: Array
    reference: Reference = field(default=IDEAL_GAS)
    viscosity: str = "fitted-states"
    match: ViscosityMatch | None = None
    thicker: Array | float = 0.0
    slope: Array | None = None
    aqueous: str = CORRELATIONS
    salt: float = 0.0

    @cached_property
    def solvents(self) -> Solvents | None:
        """The solvents of aqueous liquids among the components, None without water."""
        return Solvents.of(self.components)

    @cached_property
    def water_datum(self) -> tuple[float, float]:
        """What enthalpy J/mol and entropy J/(mol K) of liquid water differ by at 25 degC and 1 atm from the
        equation's, which are kept there."""
        water = self.solvents
        return (0.0, 0.0) if water is None else water_datum(self.eos, self.shifts, self.cp, int(water.places[0]))

    @cached_property
    def shifts(self) -> Shifts:
        """The shifts at any temperature."""
        return Shifts(self.shift, np.zeros_like(self.shift) if self.slope is None else self.slope)

    def _gather(self, name: str) -> Array:
        return np.array([getattr(c, name) for c in self.components], dtype=float)

    @cached_property
    def molar_mass(self) -> Array:
        """Molar masses (nc,) kg/mol."""
        return self._gather("molar_mass")

    @cached_property
    def cp(self) -> Array:
        """Rigid part and oscillators of the ideal-gas heat capacity (nc, 1 + k), J/(mol K)."""
        return np.array([c.cp for c in self.components])

    @cached_property
    def Tc(self) -> Array:
        """Critical temperatures (nc,) K."""
        return self._gather("Tc")

    @cached_property
    def Pc(self) -> Array:
        """Critical pressures (nc,) Pa."""
        return self._gather("Pc")

    @cached_property
    def Vc(self) -> Array:
        """Critical volumes (nc,) m3/mol."""
        return self._gather("Vc")

    @cached_property
    def omega(self) -> Array:
        """Acentric factors (nc,)."""
        return self._gather("omega")

    @cached_property
    def liquid_volume(self) -> Array:
        """Volumes as a liquid at 60 degF (nc,) m3/mol; apparent ones of gases."""
        return self._gather("standard_liquid_volume")

    @cached_property
    def parachor(self) -> Array:
        """Parachors (nc,), (mN/m)^(1/4) cm3/mol; of those unknown by the line of Firoozabadi et al. (1988)."""
        line = [-11.4 + 3.23 * m - 0.0022 * m * m for m in 1e3 * self.molar_mass]
        return np.array([c.parachor if c.parachor is not None else p for c, p in zip(self.components, line)])

    def heats(self, T: float) -> tuple[Array, Array]:
        """Return gross and net heats of combustion (nc,) J/mol of the gases burnt at T K."""
        return heats_at(self.components, self.cp, T)

    @cached_property
    def datum(self) -> tuple[Array, Array]:
        """Enthalpies (nc,) J/mol and entropies (nc,) J/(mol K) of the pure ideal gases at 298.15 K and 1 atm."""
        return self.reference.datum(self.components, self.eos, self.cp, self.shifts)
