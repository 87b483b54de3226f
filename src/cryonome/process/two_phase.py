"""Two phases in a pipe: homogeneous flow, and the correlation of Beggs and Brill.

Beggs and Brill, J. Petrol. Technol. 25, 607 (1973), with the corrections of holdup and friction of Payne, Palmer, Brill
and Beggs, J. Petrol. Technol. 31, 1198 (1979). Made with air and water in pipes of 1 and 1 1/2 in at any inclination."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .friction import friction_factor

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

G = 9.80665
"""m/s2."""
LEAST_LIQUID = 0.01
"""Share of liquid at the inlet of volume below which the correlation has no measurements to stand on; its map changes
its rules there."""
REGIMES = ("single phase", "segregated", "transition", "intermittent", "distributed", "homogeneous")
SINGLE, SEGREGATED, TRANSITION, INTERMITTENT, DISTRIBUTED, HOMOGENEOUS = range(6)
METHODS = ("homogeneous", "beggs-brill")

HOLDUP = {
    SEGREGATED: (0.98, 0.4846, 0.0868),
    INTERMITTENT: (0.845, 0.5351, 0.0173),
    DISTRIBUTED: (1.065, 0.5824, 0.0609),
}
"""a, b, c of the holdup of a level pipe, a lambda^b / Fr^c."""
UPHILL = {SEGREGATED: (0.011, -3.768, 3.539, -1.614), INTERMITTENT: (2.96, 0.305, -0.4473, 0.0978)}
DOWNHILL = (4.70, -0.3692, 0.1244, -0.5056)
"""d, e, f, g of the correction for inclination, (1 - lambda) ln(d lambda^e NLv^f Fr^g)."""
PAYNE_UP, PAYNE_DOWN = 0.924, 0.685


@dataclass(frozen=True)
class Flowing:
    """Two phases in a pipe, every field of one shape: superficial velocities m/s of ``liquid`` and ``gas``, densities
    kg/m3, viscosities Pa s, surface tension N/m, pressure Pa, inside diameter m, relative roughness, and the sine of
    the inclination, upwards."""

    liquid: Array
    gas: Array
    liquid_density: Array
    gas_density: Array
    liquid_viscosity: Array
    gas_viscosity: Array
    tension: Array
    P: Array
    diameter: Array
    roughness: Array
    sine: Array

    @property
    def velocity(self) -> Array:
        """Velocity of the mixture, m/s."""
        return self.liquid + self.gas

    @property
    def share(self) -> Array:
        """Liquid share of what flows, by volume."""
        return np.asarray(
            np.divide(self.liquid, self.velocity, out=np.zeros_like(self.velocity), where=self.velocity > 0.0)
        )

    @property
    def density(self) -> Array:
        """Density without slip, kg/m3."""
        return self.share * self.liquid_density + (1.0 - self.share) * self.gas_density

    @property
    def viscosity(self) -> Array:
        """Viscosity without slip, by volume, Pa s."""
        return self.share * self.liquid_viscosity + (1.0 - self.share) * self.gas_viscosity

    @property
    def reynolds(self) -> Array:
        """Reynolds number without slip."""
        return self.density * self.velocity * self.diameter / self.viscosity


@dataclass(frozen=True)
class Gradient:
    """The fall of pressure along a pipe, Pa/m: by ``friction`` and by ``weight``, which are divided by 1 - ``kinetic``;
    ``factor`` Darcy's friction factor, liquid ``holdup`` (nan where withheld) and code of the ``regime``."""

    friction: Array
    weight: Array
    kinetic: Array
    factor: Array
    holdup: Array
    regime: NDArray[np.int8]

    @property
    def total(self) -> Array:
        """All of it, nan where the flow chokes."""
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.asarray(
                np.where(self.kinetic < 1.0, (self.friction + self.weight) / (1.0 - self.kinetic), np.nan)
            )


def homogeneous(flow: Flowing) -> Gradient:
    """Return the fall of pressure of phases that move as one; of a single phase it is Darcy's."""
    f = friction_factor(flow.reynolds, flow.roughness)
    rho, v = flow.density, flow.velocity
    both = (flow.liquid > 0.0) & (flow.gas > 0.0)
    regime = np.where(both, HOMOGENEOUS, SINGLE).astype(np.int8)
    # Gas expands as it goes: its acceleration takes rho v vg / P of the whole fall.
    return Gradient(
        f * rho * v**2 / (2.0 * flow.diameter), rho * G * flow.sine, rho * v * flow.gas / flow.P, f, flow.share, regime
    )


def beggs_brill(flow: Flowing) -> Gradient:
    """Return the fall of pressure by Beggs and Brill with Payne's corrections; where there is one phase, or less liquid
    than :data:`LEAST_LIQUID`, as homogeneous, without a holdup in the latter."""
    plain = homogeneous(flow)
    lam = flow.share
    both = (flow.liquid > 0.0) & (flow.gas > 0.0)
    here = both & (lam >= LEAST_LIQUID)
    if not here.any():
        return _withheld(plain, both & ~here)
    safe = np.where(here, lam, 0.5)
    fr = np.maximum(flow.velocity**2 / (G * flow.diameter), 1e-12)
    regime = regime_of(safe, fr)
    holdup = _holdup(flow, safe, fr, regime)
    slip = holdup * flow.liquid_density + (1.0 - holdup) * flow.gas_density
    f = friction_factor(flow.reynolds, flow.roughness)
    factor = f * np.exp(_excess(safe / holdup**2))
    friction = factor * flow.density * flow.velocity**2 / (2.0 * flow.diameter)
    kinetic = slip * flow.velocity * flow.gas / flow.P
    own = Gradient(friction, slip * G * flow.sine, kinetic, factor, holdup, regime)
    friction, weight, kinetic, factor, held = (
        np.where(here, getattr(own, k), getattr(plain, k))
        for k in ("friction", "weight", "kinetic", "factor", "holdup")
    )
    regime = np.where(here, own.regime, plain.regime).astype(np.int8)
    return _withheld(Gradient(friction, weight, kinetic, factor, held, regime), both & ~here)


def _withheld(g: Gradient, where: Mask) -> Gradient:
    """Return a fall of pressure without the holdup ``where`` no measurement stands behind it."""
    return replace(g, holdup=np.where(where, np.nan, g.holdup))


def regime_of(lam: Array, fr: Array) -> NDArray[np.int8]:
    """Return the regime by the liquid share and the Froude number (their eqs. for L1 to L4)."""
    L1, L2 = 316.0 * lam**0.302, 0.0009252 * lam**-2.4684
    L3, L4 = 0.10 * lam**-1.4516, 0.5 * lam**-6.738
    out = np.full(lam.shape, DISTRIBUTED, dtype=np.int8)
    between = ((lam < 0.4) & (fr <= L1)) | ((lam >= 0.4) & (fr <= L4))
    out = np.where((lam >= 0.01) & between & (fr > L3), INTERMITTENT, out)
    out = np.where((lam >= 0.01) & (fr >= L2) & (fr <= L3), TRANSITION, out)
    return np.where(((lam < 0.01) & (fr < L1)) | ((lam >= 0.01) & (fr < L2)), SEGREGATED, out).astype(np.int8)


def _holdup(flow: Flowing, lam: Array, fr: Array, regime: NDArray[np.int8]) -> Array:
    """Return the liquid holdup at the pipe's inclination."""
    number = flow.liquid * (flow.liquid_density / (G * np.maximum(flow.tension, 1e-6))) ** 0.25
    number = np.maximum(number, 1e-12)
    angle = 1.8 * np.arcsin(np.clip(flow.sine, -1.0, 1.0))
    tilt = np.sin(angle) - np.sin(angle) ** 3 / 3.0

    def of(kind: int) -> Array:
        a, b, c = HOLDUP[kind]
        level = np.maximum(a * lam**b / fr**c, lam)
        d, e, f, g = UPHILL.get(kind, (1.0, 0.0, 0.0, 0.0))
        up = (1.0 - lam) * np.log(d * lam**e * number**f * fr**g) if kind in UPHILL else np.zeros_like(lam)
        d, e, f, g = DOWNHILL
        down = (1.0 - lam) * np.log(d * lam**e * number**f * fr**g)
        C = np.maximum(np.where(flow.sine >= 0.0, up, down), 0.0)
        return np.asarray(level * (1.0 + C * tilt))

    L2, L3 = 0.0009252 * lam**-2.4684, 0.10 * lam**-1.4516
    share = np.clip((L3 - fr) / (L3 - L2), 0.0, 1.0)
    kinds = {k: of(k) for k in (SEGREGATED, INTERMITTENT, DISTRIBUTED)}
    out = np.where(
        regime == SEGREGATED,
        kinds[SEGREGATED],
        np.where(regime == INTERMITTENT, kinds[INTERMITTENT], kinds[DISTRIBUTED]),
    )
    out = np.where(regime == TRANSITION, share * kinds[SEGREGATED] + (1.0 - share) * kinds[INTERMITTENT], out)
    factor = np.where(flow.sine > 0.0, PAYNE_UP, np.where(flow.sine < 0.0, PAYNE_DOWN, 1.0))
    out = out * factor
    # Liquid that climbs is never faster than the gas.
    least = np.where(flow.sine >= 0.0, lam, 1e-6)
    return np.asarray(np.clip(out, least, 1.0))


def _excess(y: Array) -> Array:
    """Return the exponent S of the friction of two phases over that of the mixture, y = lambda/HL^2."""
    ln = np.log(y)
    with np.errstate(divide="ignore", invalid="ignore"):
        far = ln / (-0.0523 + 3.182 * ln - 0.8725 * ln**2 + 0.01853 * ln**4)
        near = np.log(2.2 * y - 1.2)
    S = np.where((y > 1.0) & (y < 1.2), near, far)
    return np.asarray(np.nan_to_num(np.where(np.abs(ln) < 1e-12, 0.0, S)))


GRADIENTS = {"homogeneous": homogeneous, "beggs-brill": beggs_brill}
"""Methods by their name."""


def names_of(regime: NDArray[np.int8]) -> Sequence[str]:
    """Return regimes (n,) in words."""
    return [REGIMES[int(r)] for r in regime.ravel()]
