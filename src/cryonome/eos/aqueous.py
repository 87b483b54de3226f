"""Water beside hydrocarbons in a cubic equation: interaction parameters that follow the water of the phase.

One parameter cannot give both the gas dissolved in water and the water in the gas. Søreide and Whitson, Fluid Phase
Equilib. 77, 217 (1992), give two sets, one for the aqueous phase that depends on temperature and salt, one for all
others. Here a pair of water and a solute goes from the one to the other with the water of the phase,

    k_iw(x) = k_iw + w(x_w) (k_iw,aq(T) - k_iw),   w = x_w^2 (2 - x_w)

inside the mixing rule, whose attraction stays a function of the mole numbers of degree two; fugacities come from it
by differentiation, so that phases of any composition stand on one Gibbs energy. At infinite dilution, in water or of
water, the one or the other set is met. The slope of w at pure water, 1, keeps dissolved gases near Henry's law: with
a constant parameter, carbon dioxide in water would raise its own solubility by 14 % at 1.5 mol%. Amounts of the
solutes enter linearly, so splitting a solute into two alike changes nothing (the fault of composition-dependent rules
that Michelsen and Kistenmacher, Fluid Phase Equilib. 58, 229 (1990), describe)."""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Aqueous:
    """Parameters of water's pairs in an aqueous phase: ``water`` the place of water, k = c0 + c1 Tr + c2 Tr^2 + c3
    exp(c4 Tr) with the solute's Tr; ``c0`` to ``c4`` (nc,), c0 nan where the pair is the same in all phases."""

    water: int
    c0: Array
    c1: Array
    c2: Array
    c3: Array
    c4: Array

    def of(self, index: NDArray[np.intp]) -> Aqueous | None:
        """Return the parameters of the components ``index``; None without water or a solute of it."""
        at = np.flatnonzero(index == self.water)
        if at.size == 0:
            return None
        out = Aqueous(int(at[0]), *(getattr(self, f.name)[index] for f in fields(self)[1:]))
        return None if np.isnan(out.c0).all() else out

    def value(self, Tr: Array) -> tuple[Array, Array, Array]:
        """Return k, T dk/dT and T2 d2k/dT2 at the solutes' reduced temperatures (N, nc)."""
        rise = self.c3 * np.exp(self.c4 * Tr)
        bend = self.c4 * Tr
        k = self.c0 + (self.c1 + self.c2 * Tr) * Tr + rise
        slope = (self.c1 + 2.0 * self.c2 * Tr) * Tr + bend * rise
        return k, slope, 2.0 * self.c2 * Tr * Tr + bend * bend * rise
