"""Property curves against the distilled amount: judged, drawn between their points, continued beyond them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..remarks import Remark, Value, Word
from .curve import PointFault, plain_number
from .monotone import Monotone

Array = NDArray[np.float64]

BOUNDS = {"density": (400.0, 1300.0), "molar_mass": (0.03, 3.0), "viscosity": (1e-8, 10.0)}
"""Physical bounds of the values: kg/m3, kg/mol, m2/s."""

RISING = ("molar_mass", "viscosity")
"""Properties that must not fall along the curve."""


@dataclass(frozen=True)
class PropertyPoints:
    """Values (n,) in SI of a narrow fraction at the percents (n,) distilled, on the basis of the boiling curve."""

    percent: tuple[float, ...]
    value: tuple[float, ...]

    def __bool__(self) -> bool:
        return bool(self.percent)


def check_values(
    name: str, percent: Sequence[float], value: Sequence[float], show: Callable[[float], str]
) -> list[PointFault]:
    """Return the faults of a property curve's points in their entered order; ``show`` writes a value."""
    faults: list[PointFault] = []
    last = -np.inf
    previous: tuple[float, float] | None = None
    bounds = BOUNDS.get(name)
    for i, (p, v) in enumerate(zip(percent, value)):
        if not 0.0 <= p <= 100.0:
            faults.append(PointFault(i, "percent", f"{p:g} % lies outside 0 to 100 %."))
            continue
        if p <= last:
            text = f"{p:g} % does not rise above the {last:g} % of the row before."
            faults.append(PointFault(i, "percent", text))
            continue
        if bounds is not None and not bounds[0] <= v <= bounds[1]:
            ends = sorted((show(b) for b in bounds), key=lambda s: plain_number(s) or 0.0)
            text = f"{p:g} %: {show(v)} lies outside {ends[0]} to {ends[1]}, what a petroleum fraction can have."
            faults.append(PointFault(i, "value", text))
            continue
        if name not in BOUNDS and v < 0.0:
            faults.append(PointFault(i, "value", f"{p:g} %: {show(v)} is below zero; an amount is zero or more."))
            continue
        if name in RISING and previous is not None and v < previous[1]:
            text = f"{p:g} %: {show(v)} falls below the {show(previous[1])} at {previous[0]:g} %."
            faults.append(PointFault(i, "value", text))
            continue
        last, previous = p, (p, v)
    return faults


def through(points: PropertyPoints, x: Array, base: Callable[[Array], Array]) -> Array:
    """Return values (n,) at fractions x (n,) along a curve: the points over an estimate ``base``.

    The ratio of the points to the estimate is drawn as a monotone cubic and held beyond the outer points, so that a
    curve is continued in the shape of the estimate.
    """
    at = np.asarray(points.percent) / 100.0
    ratio = np.asarray(points.value) / base(at)
    return np.asarray(base(x) * _held(at, ratio, x))


def shifted(points: PropertyPoints, x: Array, base: Callable[[Array], Array]) -> Array:
    """Return values (n,) like :func:`through`, the difference to the estimate held beyond the outer points."""
    at = np.asarray(points.percent) / 100.0
    return np.asarray(base(x) + _held(at, np.asarray(points.value) - base(at), x))


def _held(at: Array, value: Array, x: Array) -> Array:
    if at.size == 1:
        return np.full(np.shape(x), value[0])
    return Monotone(at, value)(np.clip(x, at[0], at[-1]))


def continued(points: PropertyPoints, x: Array) -> Array:
    """Return an additive quantity (n,) at fractions x: monotone cubic, straight beyond the points.

    The straight lines through the outer two points are held between zero and twice the outer value.
    """
    at, value = np.asarray(points.percent) / 100.0, np.asarray(points.value)
    inside = _held(at, value, x)
    if at.size == 1:
        return inside
    low = value[0] + (x - at[0]) * (value[1] - value[0]) / (at[1] - at[0])
    high = value[-1] + (x - at[-1]) * (value[-1] - value[-2]) / (at[-1] - at[-2])
    low, high = np.clip(low, 0.0, 2.0 * value[0]), np.clip(high, 0.0, 2.0 * value[-1])
    return np.asarray(np.where(x < at[0], low, np.where(x > at[-1], high, inside)))


def beyond(points: PropertyPoints, place: str, code: str, values: dict[str, Value]) -> list[Remark]:
    """Return the remark ``code`` about where a curve is continued; none where its points reach both ends."""
    low, high = points.percent[0], points.percent[-1]
    sides = "both" if low > 0.5 and high < 99.5 else "below" if low > 0.5 else "above" if high < 99.5 else ""
    if not sides:
        return []
    told: dict[str, Value] = {**values, "low": low, "high": high, "sides": Word(f"beyond.{sides}")}
    return [Remark("extrapolation", code, place, told)]
