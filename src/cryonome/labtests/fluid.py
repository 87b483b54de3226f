"""What a laboratory test is made of: a fluid, or many sets of its parameters, and its phases with their volumes."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..constants import AIR_MOLAR_MASS, ATM, T_60F, WATER_DENSITY_60F, R
from ..eos import Equation
from ..eos.equation import Rows
from ..eos.volume_shift import warming
from ..equilibrium.flash import flash_near, flash_pt
from ..equilibrium.phases import Kind, Phases
from ..equilibrium.saturation import Saturation, saturation
from ..equilibrium.stability import log_safe
from ..properties import transport
from ..watch import UNWATCHED, Watch

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

STANDARD_GAS = R * T_60F / ATM
"""Volume of a mole of ideal gas at 60 degF and 1 atm, m3/mol."""


@dataclass(frozen=True)
class LabFluid:
    """M sets of parameters of a fluid of nc components, each array with the leading axis M.

    ``z`` mole fractions; ``shift`` m3/mol that the equation's partial volumes are too large by at 60 degF, ``slope``
    m3/(mol K) its slope; ``molar_mass`` kg/mol; ``Tc`` K, ``Pc`` Pa and ``Vc`` m3/mol for viscosities of the
    ``method``; ``thicker`` and ``thicker_T`` (K) the a and b of a factor exp(w a + w b/T) on them, w mass fractions.
    ``eos`` holds parameters with the leading axis M, or none."""

    eos: Equation
    z: Array
    shift: Array
    molar_mass: Array
    Tc: Array
    Pc: Array
    Vc: Array
    method: str
    thicker: Array
    thicker_T: Array
    slope: Array

    @property
    def size(self) -> int:
        """Number of sets."""
        return int(self.z.shape[0])

    def take(self, rows: Rows) -> LabFluid:
        """Return the sets ``rows``."""
        arrays = ("z", "shift", "molar_mass", "Tc", "Pc", "Vc", "thicker", "thicker_T", "slope")
        return replace(self, eos=self.eos.take(rows), **{name: getattr(self, name)[rows] for name in arrays})

    def shift_at(self, T: Array | float) -> Array:
        """Return the shifts of each set, (M, nc) m3/mol, at T (M,) K or one for all."""
        return np.asarray(self.shift + self.slope * warming(np.broadcast_to(T, self.size))[0][:, None])

    def repeated(self, n: int) -> LabFluid:
        """Return every set ``n`` times in a row: the states of a test of n pressures."""
        return self.take(np.repeat(np.arange(self.size), n))

    def saturation(self, T: float, near: Saturation | None = None, watch: Watch = UNWATCHED) -> Saturation:
        """Return the highest saturation pressure of each set at T K."""
        return saturation(self.eos, np.full(self.size, T), self.z, near, watch)

    def parted(self, T: Array, P: Array, z: Array | None = None, near: Parted | None = None) -> Parted:
        """Return the phases of each set at T (M,) K and P (M,) Pa, of the fluid's own composition or z (M, nc).

        ``near`` are phases of much the same states to begin from.
        """
        z = self.z if z is None else z
        with np.errstate(invalid="ignore"):
            sane = np.isfinite(P) & (P > 0.0) & np.isfinite(z).all(axis=-1) & (z.min(axis=-1) >= 0.0)
        # What has no state takes part with a harmless one and is nan after.
        pressure, feed = np.where(sane, P, ATM), np.where(sane[:, None], z, self.z)
        if near is None:
            found = flash_pt(self.eos, T, pressure, feed)
        else:
            feed = feed / feed.sum(axis=-1, keepdims=True)
            found = flash_near(self.eos, T, pressure, feed, near.phases, near.ahead(pressure))
            again = np.flatnonzero(~(found.converged & found.split))
            if again.size:
                found = found.with_rows(again, flash_pt(self.eos.take(again), T[again], pressure[again], feed[again]))
        split, x, y = found.split, found.heavy, found.light
        light = found.light_fraction
        volumes = found.Z * (R * found.T / found.P)[:, None]
        own = self.shift_at(T)
        y_volume = volumes[:, 0] - np.vecdot(y, own)
        x_volume = np.where(split, volumes[:, 1], volumes[:, 0]) - np.vecdot(x, own)
        bad = ~(found.converged & sane)
        for v in (light, x_volume, y_volume):
            v[bad] = np.nan
        before = None if near is None else near.ratios
        return Parted(
            T, P, split & ~bad, found.kind[:, 0] == Kind.VAPOUR, light, x, y, x_volume, y_volume, found, before
        )

    def one_phase(self, T: Array, P: Array) -> Array:
        """Return the molar volumes (M,) m3/mol of the fluid as a single phase, where it is known to be one."""
        sane = np.isfinite(P)
        Z = self.eos.prepare(T, np.where(sane, P, ATM)).ln_phi(self.z)[1]
        return np.where(sane, Z * R * T / P - np.vecdot(self.z, self.shift_at(T)), np.nan)

    def liquid_volume(self, x: Array, T: float = T_60F, P: float = ATM) -> Array:
        """Return the molar volumes (M,) m3/mol of compositions x (M, nc) as liquids, at 60 degF and 1 atm where no
        other state is named."""
        n = x.shape[0]
        state = self.eos.prepare(np.full(n, T), np.full(n, P))
        with np.errstate(invalid="ignore"):
            Z = state.ln_phi(x, "liquid")[1]
        return np.asarray(Z * R * T / P - np.vecdot(x, self.shift_at(T)))

    def mass(self, x: Array) -> Array:
        """Return molar masses (M,) kg/mol of compositions x (M, nc)."""
        return np.asarray(np.vecdot(x, self.molar_mass))

    def gravity(self, y: Array) -> Array:
        """Return gas gravities (M,) of compositions y (M, nc): molar mass to that of air."""
        return self.mass(y) / AIR_MOLAR_MASS

    def viscosity(self, T: Array, P: Array, x: Array, volume: Array, liquid: Mask) -> Array:
        """Return viscosities (M,) Pa s of phases x (M, nc) of molar volumes (M,) m3/mol."""
        good = np.isfinite(volume) & np.isfinite(x).all(axis=-1) & (volume > 0.0)
        out = np.full(T.shape, np.nan)
        part = self if good.all() else self.take(good)
        T, P, x, volume, liquid = T[good], P[good], x[good], volume[good], liquid[good]
        own = transport.viscosity(self.method, part, T, P, x, volume, liquid)
        w = x * part.molar_mass
        w = w / w.sum(axis=-1, keepdims=True)
        out[good] = own * np.exp(np.vecdot(w, part.thicker) + np.vecdot(w, part.thicker_T) / T)
        return out


FAR = 3.0
"""Steps of the last one's size, in ln P, up to which equilibrium ratios are continued."""


@dataclass(frozen=True)
class Parted:
    """Two phases, or one, of N states: ``split`` (N,); ``vapour`` (N,) whether a single one is a vapour; ``light``
    (N,) mole fraction of the lighter phase; ``x``, ``y`` (N, nc) and molar volumes ``x_volume``, ``y_volume`` (N,)
    m3/mol of the heavier and the lighter, both those of the single phase where there is one. nan where no state was
    found. ``phases`` are the same as they were solved for, ``before`` the :attr:`ratios` of those they were begun
    from, None without."""

    T: Array
    P: Array
    split: Mask
    vapour: Mask
    light: Array
    x: Array
    y: Array
    x_volume: Array
    y_volume: Array
    phases: Phases
    before: tuple[Array, Array] | None = None

    @property
    def ratios(self) -> tuple[Array, Array]:
        """ln P (N,) and ln K (N, nc), 0 of a lone phase."""
        return np.log(self.P), log_safe(self.phases.light) - log_safe(self.phases.heavy)

    def ahead(self, P: Array) -> Array:
        """Return ln K (N, nc) at P (N,) Pa, continued along ln P from the states before through these."""
        lnP, ln_k = self.ratios
        if self.before is None:
            return ln_k
        with np.errstate(all="ignore"):
            share = (np.log(P) - lnP) / (lnP - self.before[0])
        good = (share > 0.0) & (share < FAR) & self.split & self.before[1].any(axis=-1)
        ahead = ln_k + np.where(good, share, 0.0)[:, None] * np.where(good[:, None], ln_k - self.before[1], 0.0)
        return np.asarray(ahead)

    @property
    def volume(self) -> Array:
        """Molar volume of the whole, (N,) m3/mol."""
        return np.asarray(self.light * self.y_volume + (1.0 - self.light) * self.x_volume)

    @property
    def liquid_volume(self) -> Array:
        """Volume of the liquid per mole of the whole, (N,) m3/mol: nothing of a lone vapour."""
        return np.asarray((1.0 - self.light) * self.x_volume)


def api(density: Array) -> Array:
    """Return degrees API (...) of densities (...) at 60 degF, kg/m3."""
    return np.asarray(141.5 * WATER_DENSITY_60F / density - 131.5)
