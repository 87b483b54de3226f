"""A boiling-point curve: checking the points, closing the ends, drawing a monotone line through them."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..errors import DomainError
from .monotone import Monotone

Array = NDArray[np.float64]

T_LOW, T_HIGH = 173.15, 1273.15
"""Boiling points outside -100 to 1000 degC are taken for slips."""

LEAST_POINTS = 5
HIGHEST_END = 1250.0
"""K. An extrapolated final point is held there."""
END = 0.01
"""Distilled fraction at which the extrapolated line of the probability scale meets the ends of the curve."""


@dataclass(frozen=True)
class PointFault:
    """What is wrong with a point: its index, the column ("percent" or "value"), a sentence, a likely value."""

    index: int
    column: str
    message: str
    proposal: float | None = None


def _plain(value: float) -> str:
    return f"{value:g} K"


APART = 1e-6
"""Percent that two points lie apart at least: what is nearer is one point, and no slope can be told between them."""


def check_points(
    percent: Sequence[float], temperature: Sequence[float], show: Callable[[float], str] = _plain
) -> list[PointFault]:
    """Return the faults of a curve's points, percent distilled and temperature in K, in their entered order.

    ``show`` writes a temperature in the user's unit. Where two points contradict each other the one that fits its
    neighbours worse is blamed.
    """
    faults: list[PointFault] = []
    p, t = np.asarray(percent, float), np.asarray(temperature, float)
    usable = np.ones(p.size, dtype=bool)
    for i in range(p.size):
        if not 0.0 <= p[i] <= 100.0:
            faults.append(PointFault(i, "percent", f"{p[i]:g} % lies outside 0 to 100 %."))
            usable[i] = False
        elif not T_LOW <= t[i] <= T_HIGH:
            limits = f"{show(T_LOW)} to {show(T_HIGH)}"
            faults.append(
                PointFault(i, "value", f"{p[i]:g} %: {show(t[i])} lies outside {limits}, the range of boiling points.")
            )
            usable[i] = False
    order_faults = _order_faults(p, usable)
    faults += order_faults
    for fault in order_faults:
        usable[fault.index] = False
    while True:
        descent = _worst_descent(p, t, usable, show)
        if descent is None:
            break
        faults.append(descent)
        usable[descent.index] = False
    return sorted(faults, key=lambda f: f.index)


def _order_faults(p: Array, usable: NDArray[np.bool_]) -> list[PointFault]:
    """Blame the points whose percent does not rise above the one before."""
    out = []
    index = np.flatnonzero(usable)
    last = -1
    for place, i in enumerate(index):
        following = p[index[place + 1]] if place + 1 < index.size else np.inf
        before = p[index[last]] if last >= 0 else -np.inf
        if p[i] <= before + APART:
            out.append(
                PointFault(int(i), "percent", f"{p[i]:g} % does not rise above the {before:g} % of the row before.")
            )
        elif p[i] > following and last >= 0 and following > before + APART:
            # The jump up is the slip, not the row that follows in order.
            out.append(PointFault(int(i), "percent", f"{p[i]:g} % is above the {following:g} % of the row after."))
        else:
            last = place
    return out


def _worst_descent(p: Array, t: Array, usable: NDArray[np.bool_], show: Callable[[float], str]) -> PointFault | None:
    index = np.flatnonzero(usable)
    if index.size < 2:
        return None
    falls = np.flatnonzero(np.diff(t[index]) <= 0.0)
    if falls.size == 0:
        return None
    from scipy.special import ndtri

    suspects = sorted({int(k) for f in falls for k in (f, f + 1)})
    scale = ndtri(np.clip(p[index] / 100.0, 0.002, 0.998))

    def misfit(k: int) -> float:
        others = [
            m for m in range(index.size) if m != k and abs(m - k) <= 3 and not (abs(m - k) == 1 and m in suspects)
        ]
        degree = min(2, np.unique(np.round(scale[others], 9)).size - 1)
        if degree < 1:
            return 0.0
        line = np.polynomial.Polynomial.fit(scale[others], t[index[others]], degree)
        return float(abs(line(scale[k]) - t[index[k]]))

    worst = max(suspects, key=misfit)
    i = int(index[worst])
    partner = worst - 1 if worst > 0 and t[index[worst]] <= t[index[worst - 1]] else worst + 1
    j = int(index[partner])
    side = "below" if t[i] < t[j] else "above" if t[i] > t[j] else "not above"
    rest = np.delete(index, worst)
    proposal = None
    if rest.size >= 3:
        between = Monotone(p[rest], np.maximum.accumulate(t[rest]))
        proposal = _likely_slip(t[i], float(between(p[i])), show)
    # A temperature that equals its neighbour is as wrong as one that falls.
    message = f"{p[i]:g} %: {show(t[i])} is {side} the {show(t[j])} at {p[j]:g} %."
    return PointFault(i, "value", message, proposal)


def _likely_slip(entered: float, expected: float, show: Callable[[float], str]) -> float | None:
    """Return the temperature (K) nearest to the expected one that differs from the entered text in one digit."""
    text, wanted = plain_number(show(entered)), plain_number(show(expected))
    if text is None or wanted is None:
        return None
    digits = f"{text:g}"
    best: float | None = None
    for place, character in enumerate(digits):
        if not character.isdigit():
            continue
        for other in "0123456789":
            if other != character:
                trial = float(digits[:place] + other + digits[place + 1 :])
                if best is None or abs(trial - wanted) < abs(best - wanted):
                    best = trial
    if best is None or abs(best - wanted) > 0.06 * max(abs(wanted), 50.0):
        return None
    # Back to K by the line through two shown temperatures.
    a, b = plain_number(show(300.0)), plain_number(show(400.0))
    if a is None or b is None:
        return None
    return 300.0 + (best - a) * 100.0 / (b - a)


def plain_number(text: str) -> float | None:
    """Return the first number in a text as shown to people, None where there is none."""
    match = re.search(r"[-−]?\d+(?:\.\d+)?", text)
    return float(match.group().replace("−", "-")) if match else None


INTERPOLATIONS = {
    "monotone-cubic": "monotone cubic",
    "linear": "straight lines",
    "probability": "cubic on probability scale",
}
ENDS = {
    "probability": "straight on probability scale",
    "distribution": "distribution fit to all points",
    "linear": "straight lines",
    "given": "given end points",
}
"""The ways of drawing a curve between its points and of closing its ends, with what they are called."""


def _spread(x: Array) -> Array:
    """Return fractions on the probability scale, 0 and 1 standing at 1 and 99 %."""
    from scipy.special import ndtri

    return np.asarray(ndtri(END + (1.0 - 2.0 * END) * np.asarray(x, float)))


@dataclass(frozen=True)
class BoilingCurve:
    """A closed monotone boiling-point curve over the distilled fraction 0..1.

    ``fraction`` and ``temperature`` (n,) are the nodes, the added ends included; ``closed_low`` and
    ``closed_high`` tell which ends were extrapolated, ``held`` which of them ("low", "high") ran into a bound and
    were held there. ``interpolation`` is one of :data:`INTERPOLATIONS`.
    """

    fraction: Array
    temperature: Array
    closed_low: bool
    closed_high: bool
    interpolation: str = "monotone-cubic"
    held: tuple[str, ...] = ()

    @cached_property
    def _line(self) -> Callable[[Array], Array]:
        if self.interpolation == "linear":
            return lambda x: np.interp(x, self.fraction, self.temperature)
        if self.interpolation == "probability":
            line = Monotone(_spread(self.fraction), self.temperature)
            return lambda x: line(_spread(np.clip(x, 0.0, 1.0)))
        return Monotone(self.fraction, self.temperature)

    def at(self, fraction: Array) -> Array:
        """Return the boiling point (K) at distilled fractions of any shape."""
        return np.asarray(self._line(np.asarray(fraction, float)))

    def distilled(self, temperature: Array) -> Array:
        """Return the fraction (m,) distilled at temperatures (m,) K; 0 and 1 beyond the ends."""
        T = np.asarray(temperature, float)
        lo, hi = np.zeros_like(T), np.ones_like(T)
        line = self._line
        for _ in range(50):
            middle = 0.5 * (lo + hi)
            below = line(middle) < T
            lo, hi = np.where(below, middle, lo), np.where(below, hi, middle)
        inside = 0.5 * (lo + hi)
        return np.where(self.temperature[0] >= T, 0.0, np.where(self.temperature[-1] <= T, 1.0, inside))

    def mean(self, edges: Array) -> Array:
        """Return the mean boiling point (m,) between consecutive distilled fractions edges (m + 1,)."""
        if isinstance(self._line, Monotone):
            return np.asarray(np.diff(self._line.integral(edges)) / np.diff(edges))
        # Gauss-Legendre with five points in every interval.
        points, weights = np.polynomial.legendre.leggauss(5)
        half, middle = 0.5 * np.diff(edges), 0.5 * (edges[1:] + edges[:-1])
        return np.asarray(self._line(middle[:, None] + half[:, None] * points) @ weights / 2.0)


def close_curve(
    percent: Sequence[float],
    temperature: Sequence[float],
    interpolation: str = "monotone-cubic",
    ends: str = "probability",
    given: tuple[float | None, float | None] = (None, None),
) -> BoilingCurve:
    """Return the closed curve through valid points, percent rising and temperature (K) rising.

    Between the points a monotone cubic (Fritsch and Carlson, SIAM J. Numer. Anal. 17, 238, 1980), straight lines or
    a monotone cubic on the probability scale. A missing end is placed where the straight line through the two outer
    points on the probability scale reaches 1 or 99 % (distillation curves are nearly straight there; Riazi, ASTM
    MNL50, 2005, section 3.2.2.3), where the distribution of Riazi (Ind. Eng. Chem. Res. 28, 1731, 1989) fitted to
    all points and moved through the outer one does, where the straight line through the outer points reaches 0 or
    100 %, or at the ``given`` initial and final points K. Raises DomainError with fewer than five points or where a
    given end lies inside the points.
    """
    v, t = np.asarray(percent, float) / 100.0, np.asarray(temperature, float)
    if v.size < LEAST_POINTS:
        raise DomainError(f"a boiling-point curve needs at least {LEAST_POINTS} valid points; this one has {v.size}")
    low, high = bool(v[0] > 0.0), bool(v[-1] < 1.0)
    start, final = given
    held: list[str] = []
    x_low, x_high = min(END, 0.5 * v[0]), max(1.0 - END, 0.5 * (1.0 + v[-1]))
    if ends == "distribution":
        fitted = _distribution(v, t)
        end_low = t[0] + fitted(x_low) - fitted(v[0])
        end_high = t[-1] + fitted(x_high) - fitted(v[-1])
    elif ends == "linear":
        end_low = t[0] - v[0] * (t[1] - t[0]) / (v[1] - v[0])
        end_high = t[-1] + (1.0 - v[-1]) * (t[-1] - t[-2]) / (v[-1] - v[-2])
    else:
        end_low = _beyond(v[0], v[1], t[0], t[1], x_low)
        end_high = _beyond(v[-1], v[-2], t[-1], t[-2], x_high)
    if low:
        floor = max(T_LOW, t[0] - 150.0)
        if start is not None:
            if start >= t[0]:
                raise DomainError(f"the initial point of {start:.1f} K must lie below the first point's {t[0]:.1f} K")
            end_low, floor = start, start
        if end_low < floor:
            held.append("low")
        v, t = np.concatenate([[0.0], v]), np.concatenate([[min(max(end_low, floor), t[0] - 0.5)], t])
    if high:
        ceiling = max(min(HIGHEST_END, t[-1] + 500.0), t[-1] + 1.0)
        if final is not None:
            if final <= t[-1]:
                raise DomainError(f"the final point of {final:.1f} K must lie above the last point's {t[-1]:.1f} K")
            end_high = ceiling = final
        if end_high > ceiling:
            held.append("high")
        v, t = np.concatenate([v, [1.0]]), np.concatenate([t, [max(min(end_high, ceiling), t[-1] + 0.5)]])
    return BoilingCurve(v, t, low and start is None, high and final is None, interpolation, tuple(held))


def _beyond(v1: float, v2: float, t1: float, t2: float, end: float) -> float:
    from scipy.special import ndtri

    edge = 1e-4
    s1, s2, s = (float(ndtri(np.clip(x, edge, 1.0 - edge))) for x in (v1, v2, end))
    return t1 + (t2 - t1) * (s - s1) / (s2 - s1)


def _distribution(v: Array, t: Array) -> Callable[[float], float]:
    """Return (T - T0)/T0 = [A/B ln(1/(1 - x))]^(1/B) fitted to points; T0 by search, A and B by least squares."""
    inner = (v > 0.0) & (v < 1.0)
    s = np.log(-np.log1p(-v[inner]))
    starts = t[inner][0] - np.geomspace(0.5, min(200.0, 0.6 * t[inner][0]), 160)
    y = np.log((t[inner] - starts[:, None]) / starts[:, None])
    centred = s - s.mean()
    slope = (y * centred).sum(axis=1) / (centred**2).sum()
    level = y.mean(axis=1) - slope * s.mean()
    fitted = starts[:, None] * (1.0 + np.exp(level[:, None] + slope[:, None] * s))
    best = int(np.argmin(((fitted - t[inner]) ** 2).sum(axis=1)))

    def line(x: float) -> float:
        p = np.exp(level[best] + slope[best] * np.log(-np.log1p(-np.clip(x, 1e-6, 1.0 - 1e-6))))
        return float(starts[best] * (1.0 + p))

    return line
