"""A stream in a pipe: its phases as gas and liquid, and which pipe carries it within limits."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.phases import Kind, Phases
from ..properties import evaluate
from .friction import erosional_velocity
from .medium import Medium
from .two_phase import GRADIENTS, SINGLE, Flowing, Gradient

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

KEYS = ("density", "viscosity", "molar_volume", "molar_mass", "surface_tension", "speed_of_sound")
WATER_TC, WATER_TENSION = 647.096, (0.2358, 1.256, -0.625)
"""Of water against its vapour: 0.2358 (1 - T/Tc)^1.256 (1 - 0.625 (1 - T/Tc)) N/m, IAPWS R1-76 (2014)."""


@dataclass(frozen=True)
class Content:
    """What flows at N states, a mole of it: volumes m3/mol, densities kg/m3, viscosities Pa s of gas and liquid (oil and
    water as one, by volume), surface tension N/m, pressure Pa, speed of sound of the whole m/s, and whether water is
    beside another liquid."""

    gas_volume: Array
    liquid_volume: Array
    gas_density: Array
    liquid_density: Array
    gas_viscosity: Array
    liquid_viscosity: Array
    tension: Array
    P: Array
    sound: Array
    two_liquids: Mask

    def flowing(self, flow: Array, diameter: Array, roughness: Array, sine: Array) -> Flowing:
        """Return it in a pipe at ``flow`` mol/s."""
        area = 0.25 * np.pi * diameter**2
        shape = np.broadcast_shapes(self.P.shape, np.shape(diameter), np.shape(sine))
        wide = (
            flow * self.liquid_volume / area, flow * self.gas_volume / area, self.liquid_density, self.gas_density,
            self.liquid_viscosity, self.gas_viscosity, self.tension, self.P, diameter, roughness / diameter, sine,
        )  # fmt: skip
        return Flowing(*(np.broadcast_to(np.asarray(v, float), shape) for v in wide))


def content(medium: Medium, phases: Phases) -> Content:
    """Return what flows of states (N,)."""
    values = evaluate(medium.substance, phases, KEYS)
    share = np.where(phases.kind != Kind.ABSENT, phases.fraction, 0.0)
    volume = share * np.nan_to_num(values.phase["molar_volume"])
    mass = share * np.nan_to_num(values.phase["molar_mass"])
    gas, water = phases.kind == Kind.VAPOUR, phases.kind == Kind.AQUEOUS
    liquid = (phases.kind == Kind.LIQUID) | water
    mu = np.nan_to_num(values.phase["viscosity"])

    def of(which: Mask, values: Array) -> Array:
        return np.asarray(np.where(which, values, 0.0).sum(axis=-1))

    def mean(top: Array, bottom: Array) -> Array:
        return np.divide(top, bottom, out=np.ones_like(top), where=bottom > 0.0)

    v_gas, v_liquid = of(gas, volume), of(liquid, volume)
    tension = values.whole["surface_tension"]
    s0, power, bend = WATER_TENSION
    x = np.clip(1.0 - phases.T / WATER_TC, 0.0, 1.0)
    watery = of(water, volume) > 0.5 * v_liquid
    tension = np.where(watery | ~np.isfinite(tension), s0 * x**power * (1.0 + bend * x), tension)
    return Content(
        v_gas, v_liquid, mean(of(gas, mass), v_gas), mean(of(liquid, mass), v_liquid), mean(of(gas, volume * mu), v_gas),
        mean(of(liquid, volume * mu), v_liquid), tension, phases.P, values.whole["speed_of_sound"],
        (of(water, volume) > 0.0) & (of(phases.kind == Kind.LIQUID, volume) > 0.0),
    )  # fmt: skip


@dataclass(frozen=True)
class Sized:
    """A stream in pipes of n diameters m: velocity m/s of the mixture, the fall of pressure, erosional velocity m/s,
    Reynolds number, ``momentum`` rho v^2 Pa, and where it ``chokes``: at the speed of sound, or where the expansion of
    the gas takes all of the fall."""

    diameter: Array
    velocity: Array
    gradient: Gradient
    erosional: Array
    reynolds: Array
    momentum: Array
    chokes: Mask


def sized(
    flowing: Content,
    flow: float,
    diameter: Array,
    roughness: float,
    sine: float,
    method: str,
    erosional_constant: float,
) -> Sized:
    """Return one state (1,) in pipes of diameters (n,)."""
    pipe = flowing.flowing(np.asarray(flow), diameter, np.asarray(roughness), np.asarray(sine))
    gradient = GRADIENTS[method](pipe)
    v = pipe.velocity
    sound = np.broadcast_to(flowing.sound, v.shape)
    chokes = (gradient.kinetic >= 1.0) | (np.isfinite(sound) & (v >= sound) & (pipe.gas > 0.0))
    return Sized(
        diameter,
        v,
        gradient,
        erosional_velocity(pipe.density, erosional_constant),
        pipe.reynolds,
        pipe.density * v**2,
        chokes,
    )


def passes(found: Sized, limits: Mapping[str, float]) -> dict[str, Array]:
    """Return each limit's use (n,) by its name: what is reached over what is allowed; a pipe passes where none is above
    one. ``limits`` are SI; that of erosion always holds."""
    use = {"erosional velocity": found.velocity / found.erosional}
    if "gradient" in limits:
        use["gradient"] = np.abs(found.gradient.total) / limits["gradient"]
    if "velocity" in limits:
        use["velocity"] = found.velocity / limits["velocity"]
    if "momentum" in limits:
        use["momentum"] = found.momentum / limits["momentum"]
    return {k: np.where(found.chokes, np.inf, np.nan_to_num(v, nan=np.inf)) for k, v in use.items()}


def is_two_phase(gradient: Gradient) -> Mask:
    """Tell where two phases flow."""
    return np.asarray(gradient.regime != SINGLE)
