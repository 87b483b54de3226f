"""Pressure and temperature along a pipe in steady flow, from its inlet on, or back from the pressure it arrives at.

Momentum: dP/dx = -(friction + weight)/(1 - kinetic) (:mod:`.two_phase`). Energy: d(h + v^2/2)/dx = -g dz/dx - U pi D (T -
Ta)/m, so that expansion cools and friction does not warm beyond it. All points are solved together: each round
evaluates every state in one batch and goes along the pipe with what was found, its trapezoids implicit, until neither
pressure nor enthalpy moves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import DomainError
from ..watch import UNWATCHED, Watch
from .medium import Medium, Stream
from .pipe_flow import Content, content
from .two_phase import GRADIENTS, G, Gradient

Array = NDArray[np.float64]

POINTS = 200
"""Points of a line, shared by its legs by length."""
FEWEST = 6
"""Points of a leg at the least."""
ROUNDS = 60
SETTLED = 1e-8
LEAST_PRESSURE = 1e4
"""Pa, below which a line counts as having run out of pressure."""


@dataclass(frozen=True)
class Leg:
    """A straight piece of pipe: its length m along the pipe, the rise m of its end above its beginning, the temperature
    around it K, and the overall heat transfer W/(m2 K) on its inside."""

    name: str
    length: float
    rise: float
    ambient: float
    heat_transfer: float


@dataclass(frozen=True)
class Profile:
    """A line at n points: ``distance`` m along it, ``elevation`` m, the ``leg`` each lies on, the states with their
    ``content`` and ``gradient``, velocity m/s of the mixture, heat lost W in all, rounds and what they still moved."""

    distance: Array
    elevation: Array
    leg: NDArray[np.intp]
    stream: Stream
    content: Content
    gradient: Gradient
    velocity: Array
    heat: float
    rounds: int
    residual: float


class PressureLostError(DomainError):
    """A line whose pressure runs out, or that chokes, at ``distance`` m."""

    def __init__(self, distance: float, chokes: bool) -> None:
        super().__init__("pressure lost")
        self.distance, self.chokes = distance, chokes


def _points(legs: Sequence[Leg]) -> tuple[Array, Array, NDArray[np.intp]]:
    """Return distances, elevations (n,) and the leg that ends at each point; the first is of the first leg."""
    total = sum(leg.length for leg in legs)
    x, z, owner = [np.zeros(1)], [np.zeros(1)], [np.zeros(1, dtype=np.intp)]
    at = high = 0.0
    for i, leg in enumerate(legs):
        count = max(round(POINTS * leg.length / total), FEWEST)
        share = np.linspace(0.0, 1.0, count + 1)[1:]
        x.append(at + share * leg.length)
        z.append(high + share * leg.rise)
        owner.append(np.full(count, i, dtype=np.intp))
        at, high = at + leg.length, high + leg.rise
    return np.concatenate(x), np.concatenate(z), np.concatenate(owner)


def march(
    medium: Medium, z: Array, flow: float, legs: Sequence[Leg], diameter: float, roughness: float, method: str,
    inlet_T: float, inlet_P: float | None, outlet_P: float | None = None, watch: Watch = UNWATCHED,
) -> Profile:  # fmt: skip
    """Return the line of a stream of z (nc,) at ``flow`` mol/s from ``inlet_T`` K, at an inlet pressure or an outlet
    pressure Pa. Raises PressureLostError where the pressure runs out, DomainError where no line is found, Cancelled."""
    x, height, leg = _points(legs)
    n, mass = x.size, float(medium.mass(z))
    rate = flow * mass
    dx = np.diff(x)
    sine = np.array([np.clip(legs[i].rise / legs[i].length, -1.0, 1.0) for i in leg[1:]])
    around = np.array([legs[i].ambient for i in leg[1:]])
    loss = np.array([legs[i].heat_transfer for i in leg[1:]]) * np.pi * diameter / rate * mass
    feeds = np.tile(z, (n, 1))
    T = np.full(n, inlet_T)
    P = np.full(n, inlet_P if inlet_P is not None else float(outlet_P or 0.0))
    h = None
    moved, rounds = np.inf, 0
    area = 0.25 * np.pi * diameter**2
    for rounds in range(1, ROUNDS + 1):
        watch.at(min(0.95, rounds / 12.0))
        stream = medium.at(T, P, feeds, np.full(n, flow), watch.silent())
        if not stream.phases.converged.all():
            raise DomainError("a state along the line was not found")
        held = content(medium, stream.phases)
        # Two gradients at a point between legs: that of the leg before it and that of the leg after it.
        before = _gradient(held, flow, diameter, roughness, np.concatenate([sine[:1], sine]), method)
        after = _gradient(held, flow, diameter, roughness, np.concatenate([sine, sine[-1:]]), method)
        w = stream.whole
        v2 = 0.5 * (flow * stream.v / area) ** 2 * mass
        new_P = _pressures(x, dx, P, held, before, after, inlet_P, outlet_P)
        new_h = _enthalpies(dx, stream.h, T, P, new_P, w, v2, np.diff(height) * G * mass, loss, around, h is None)
        cp, v, alpha = w["heat_capacity_p"], w["molar_volume"], w["thermal_expansion"]
        new_T = T + (new_h - stream.h - v * (1.0 - alpha * T) * (new_P - P)) / cp
        if not np.isfinite(new_T).all():
            found = medium.with_enthalpy(new_P, new_h, feeds, np.full(n, flow), T)
            new_T = found.T
        new_T = np.clip(new_T, 0.7 * T, 1.4 * T)
        moved = max(float(np.abs(new_P / P - 1.0).max()), float(np.abs(new_T / T - 1.0).max()))
        T, P, h = np.clip(new_T, 55.0, 1400.0), new_P, new_h
        if moved < SETTLED:
            break
    if moved > 1e-5:
        raise DomainError("the line did not come to rest: its pressure falls too fast for its length")
    stream = medium.at(T, P, feeds, np.full(n, flow), watch.silent())
    held = content(medium, stream.phases)
    gradient = _gradient(held, flow, diameter, roughness, np.concatenate([sine[:1], sine]), method)
    velocity = flow * stream.v / area
    _not_choked(x, velocity, held, gradient)
    T_mid = 0.5 * (T[1:] + T[:-1])
    heat = float((loss * (T_mid - around) * dx).sum() * flow)
    return Profile(x, height, leg, stream, held, gradient, velocity, heat, rounds, moved)


def _gradient(held: Content, flow: float, diameter: float, roughness: float, sine: Array, method: str) -> Gradient:
    pipe = held.flowing(np.asarray(flow), np.asarray(diameter), np.asarray(roughness), sine)
    return GRADIENTS[method](pipe)


def _not_choked(x: Array, velocity: Array, held: Content, gradient: Gradient) -> None:
    bad = (gradient.kinetic >= 1.0) | (np.isfinite(held.sound) & (velocity >= held.sound) & (held.gas_volume > 0.0))
    if bad.any():
        raise PressureLostError(float(x[int(np.argmax(bad))]), True)


def _pressures(
    x: Array,
    dx: Array,
    P: Array,
    held: Content,
    before: Gradient,
    after: Gradient,
    inlet_P: float | None,
    outlet_P: float | None,
) -> Array:
    """Return pressures (n,) by trapezoids of the gradient, whose parts follow the pressure as the volume of the gas
    does: friction with it, weight against it. Raises PressureLostError where it runs out."""
    n = x.size
    total_v = held.gas_volume + held.liquid_volume
    # d ln v / d ln P of a mixture of which the gas alone gives way.
    soft = held.gas_volume / total_v

    def at(g: Gradient, k: int, p: float) -> float:
        grown = (P[k] / p) ** soft[k]
        kinetic = g.kinetic[k] * grown * P[k] / p
        return float((g.friction[k] * grown + g.weight[k] / grown) / max(1.0 - kinetic, 1e-2))

    out = np.empty(n)
    forward = outlet_P is None
    start = inlet_P if forward else outlet_P
    assert start is not None
    order = range(1, n) if forward else range(n - 2, -1, -1)
    out[0 if forward else n - 1] = start
    for k in order:
        j = k - 1 if forward else k + 1
        low, high = min(j, k), max(j, k)
        p = out[j]
        for _ in range(12):
            g = 0.5 * (at(after, low, out[j] if low == j else p) + at(before, high, out[j] if high == j else p))
            new = out[j] - g * dx[low] if forward else out[j] + g * dx[low]
            if new < LEAST_PRESSURE:
                new = 0.5 * (p + LEAST_PRESSURE)
            if abs(new - p) < 1e-12 * p:
                break
            p = new
        if p < 1.001 * LEAST_PRESSURE or (forward and p < 0.3 * out[j]):
            raise PressureLostError(float(x[k]), False)
        out[k] = p
    return out


def _enthalpies(
    dx: Array, h: Array, T: Array, P: Array, new_P: Array, w: dict[str, Array], kinetic: Array, lift: Array, loss: Array,
    around: Array, first: bool,
) -> Array:  # fmt: skip
    """Return enthalpies (n,) J/mol by implicit trapezoids of the heat that is lost, temperatures following enthalpy and
    pressure as at the states before."""
    n = h.size
    cp, v, alpha = w["heat_capacity_p"], w["molar_volume"], w["thermal_expansion"]
    by_P = v * (1.0 - alpha * T)
    slope = np.where(np.isfinite(cp) & (cp > 0.0), 1.0 / np.where(cp > 0.0, cp, 1.0), 0.0)
    # T = base + slope h of the new states.
    base = T - slope * (h + by_P * (new_P - P))
    out = np.empty(n)
    out[0] = h[0] + by_P[0] * (new_P[0] - P[0])
    moving = np.zeros(n) if first else kinetic
    for k in range(1, n):
        i, a = k - 1, 0.5 * loss[k - 1] * dx[k - 1]
        right = out[i] + moving[i] - moving[k] - lift[i] - a * (base[i] + slope[i] * out[i] + base[k] - 2.0 * around[i])
        out[k] = right / (1.0 + a * slope[k])
    return out
