"""Water beside hydrocarbons in a cubic equation: interaction parameters that follow the water of the phase.

One parameter cannot give both the gas dissolved in water and the water in the gas. Søreide and Whitson, Fluid Phase Equilib. 77,
217 (1992), give two sets, one for the aqueous phase that depends on temperature and salt, one for all others. Here a pair of water
and a solute goes from the one to the other with the water of the phase,

    k_iw(x) = k_iw + w(x_w) (k_iw,aq(T) - k_iw),   w = x_w^2 (2 - x_w)

inside the mixing rule, whose attraction stays a function of the mole numbers of degree two; fugacities come from it by
differentiation, so that phases of any composition stand on one Gibbs energy. At infinite dilution, in water or of water, the one or
the other set is met. The slope of w at pure water, 1, keeps dissolved gases near Henry's law: with a constant parameter, carbon
dioxide in water would raise its own solubility by 14 % at 1.5 mol%. Amounts of the solutes enter linearly, so splitting a solute into two alike changes nothing (the
fault of composition-dependent rules that Michelsen and Kistenmacher, Fluid Phase Equilib. 58, 229 (1990), describe).
"""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from ..constants import T_REF

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Aqueous:
    """Parameters of water's pairs in an aqueous phase: ``water`` the place of water, k = c0 + c1 Tr + c2 Tr^2 + c3 exp(c4 Tr) with
    the solute's Tr; ``c0`` to ``c4`` (nc,), c0 nan where the pair is the same in all phases."""

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

    def gap(self, T: Array, Tc: Array, kij: Array, slope: Array | None) -> tuple[Array, Array, Array]:
        """Return k_aq - k of every component with water at T (N, 1), zero where there is no other, and T and T2 times its
        derivatives, (N, nc); ``kij`` and ``slope`` (..., nc, nc) those of the other phases at 298.15 K."""
        own = kij[..., self.water, :]
        rise = np.zeros_like(own) if slope is None else slope[..., self.water, :]
        k, k1, k2 = self.value(T / Tc)
        has = ~np.isnan(self.c0)
        first = np.where(has, k - own - rise * (T - T_REF), 0.0)
        return first, np.where(has, k1 - rise * T, 0.0), np.where(has, k2, 0.0)


@dataclass(frozen=True)
class AqueousStates:
    """The gap between the two sets at N states: ``g`` (N, nc) is sqrt(a_i a_w) (k_aq - k) in the units of the attraction,
    ``t`` and ``u`` T and T2 times its derivatives."""

    water: int
    g: Array
    t: Array
    u: Array

    def take(self, index: NDArray[np.intp] | NDArray[np.bool_] | slice) -> AqueousStates:
        """Return the states chosen along the batch axis."""
        return AqueousStates(self.water, self.g[index], self.t[index], self.u[index])

    def _weight(self, x: Array) -> tuple[Array, Array, Array, Array]:
        """Return h = n_w w, its derivatives in n_w and in n, and q = d2h/dn_w2, each (N,), at one mole of x (N, nc)."""
        X = x[:, self.water]
        w, dw = X * X * (2.0 - X), X * (4.0 - 3.0 * X)
        return X * w, w + X * dw, -X * X * dw, 12.0 * X * (1.0 - X)

    def _slopes(self, x: Array) -> tuple[Array, Array]:
        """Return h (N,) and dh/dn_i (N, nc)."""
        h, by_water, by_all, _ = self._weight(x)
        slope = np.repeat(by_all[:, None], x.shape[1], axis=1)
        slope[:, self.water] += by_water
        return h, slope

    def value(self, x: Array, of: Array) -> tuple[Array, Array]:
        """Return E (N,) and dE/dn_i (N, nc) of the attraction's part E = -2 h sum n_i g_i, ``of`` g or one of its derivatives."""
        h, slope = self._slopes(x)
        G = np.einsum("ij,ij->i", x, of)
        return -2.0 * h * G, -2.0 * (slope * G[:, None] + h[:, None] * of)

    def hessian(self, x: Array) -> Array:
        """Return d2E/dn_i dn_j, (N, nc, nc)."""
        _, slope = self._slopes(x)
        q = self._weight(x)[3]
        v = np.repeat(-x[:, self.water][:, None], x.shape[1], axis=1)
        v[:, self.water] += 1.0
        G = np.einsum("ij,ij->i", x, self.g)
        cross = slope[:, :, None] * self.g[:, None, :]
        return np.asarray(
            -2.0 * ((q * G)[:, None, None] * v[:, :, None] * v[:, None, :] + cross + cross.swapaxes(1, 2))
        )

    def series(self, x: Array, dn: Array) -> tuple[Array, Array]:
        """Return the second and third coefficients of E's power series along ``dn`` (N, nc), (N,) each."""
        X = x[:, self.water]
        _, slope = self._slopes(x)
        q = self._weight(x)[3]
        total = dn.sum(axis=-1)
        e = dn[:, self.water] - X * total
        h1 = np.einsum("ij,ij->i", slope, dn)
        h2, h3 = 0.5 * q * e * e, ((12.0 - 24.0 * X) * e**3 - 3.0 * q * total * e * e) / 6.0
        G, G1 = np.einsum("ij,ij->i", x, self.g), np.einsum("ij,ij->i", dn, self.g)
        return -2.0 * (h2 * G + h1 * G1), -2.0 * (h3 * G + h2 * G1)


def aqueous_states(pairs: Aqueous, gap: tuple[Array, Array, Array], s: Array, t: Array, u: Array) -> AqueousStates:
    """Return the gap in units of the attraction, from sqrt(a) and its derivatives s, t, u (N, nc)."""
    w = pairs.water
    sw, tw, uw = s[:, w : w + 1], t[:, w : w + 1], u[:, w : w + 1]
    d, d1, d2 = gap
    mixed = t * sw + s * tw
    return AqueousStates(
        w, s * sw * d, s * sw * d1 + mixed * d, s * sw * d2 + 2.0 * mixed * d1 + (u * sw + 2.0 * t * tw + s * uw) * d
    )
