"""Traced lines made fine enough to be drawn: points between, each solved for, and the last steps into a critical point.

The tracer steps as far as Newton's method reaches. Between its points a spline wavers, and near a critical point,
where the phases become one, it stops. Points in the middle of every wide step are predicted by a spline through the
line and solved for in one batch, and kept where the prediction was off; towards a critical point the unknowns are
smooth functions of the ln K that is largest, known at the line's last points and, as zero, at the critical point."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .critical import CriticalPoint
from .envelope import Line
from .quality import correct

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

WIDE = 0.03
"""Steps of a line, in 4 ln T and ln P together, that get a point between."""
CLOSE = 5e-5
"""Error of a predicted ln T, and a fifth of that of ln P, that no drawing shows."""
NEAR = (0.12, 0.6)
"""Differences in ln T and ln P from a critical point within which a line ends there."""
SPREAD = 3.5
"""Largest ln K of a line's end from which it is led into a critical point."""
TOWARDS = np.array([0.8, 0.6, 0.42, 0.28, 0.17, 0.09])
"""Parts of that ln K at which points are set on the way."""
KNOWN = 4
"""Points of the line that the way is predicted from."""


def refined(
    eos: Equation, z: Array, parts: Sequence[Line], critical: Sequence[CriticalPoint], watch: Watch = UNWATCHED
) -> list[tuple[Line, Array]]:
    """Return ``parts`` of the lines of z (nc,) with further points, and of each point (n,) its place among the traced
    ones, a half for one between."""
    # A prediction may be no state; what comes of it is judged.
    with np.errstate(all="ignore"):
        found = [_led(eos, z, part, np.arange(len(part.u), dtype=float), critical) for part in parts]
        watch.check()
        added = _between(eos, z, [part for part, _ in found])
    return [_merged(part, places, *new) for (part, places), new in zip(found, added)]


def _merged(part: Line, places: Array, u: Array, volume: Array, at: NDArray[np.intp]) -> tuple[Line, Array]:
    """Return a line with points ``u`` after those of the indices ``at``."""
    if len(u) == 0:
        return part, places
    line = replace(
        part,
        u=np.insert(part.u, at + 1, u, axis=0),
        volume=np.insert(part.volume, at + 1, volume),
        side=np.insert(part.side, at + 1, part.side[at]),
    )
    return line, np.insert(places, at + 1, 0.5 * (places[at] + places[at + 1]))


def _along(u: Array) -> Array:
    return np.concatenate([[0.0], np.cumsum(np.hypot(4.0 * np.diff(u[:, -2]), np.diff(u[:, -1])))])


def _between(eos: Equation, z: Array, parts: Sequence[Line]) -> list[tuple[Array, Array, NDArray[np.intp]]]:
    """Return of each line solved points in the middle of its wide steps, those that a spline had not told already,
    and the indices they follow."""
    from scipy.interpolate import CubicSpline

    guesses, specs, betas, lights, owners, places = [], [], [], [], [], []
    for number, part in enumerate(parts):
        if len(part.u) < 4:
            continue
        s = _along(part.u)
        steps = np.diff(s)
        rows = np.flatnonzero(steps > WIDE)
        if rows.size == 0 or (steps <= 0.0).any():
            continue
        guess = CubicSpline(s, part.u)(0.5 * (s[rows] + s[rows + 1]))
        change = np.abs(part.u[rows + 1] - part.u[rows]) / (0.3 + np.abs(part.u[rows]))
        change[:, -2] *= 12.0
        small = np.abs(part.u[rows, :-2]).max(axis=1) < 1.0
        # Next to a critical point only the K values are monotone.
        change[small, -2:] = 0.0
        guesses.append(guess)
        specs.append(np.argmax(change, axis=1))
        turned = part.side[0] < 0.0
        betas.append(np.full(rows.size, 1.0 - part.beta if turned else part.beta))
        lights.append(part.volume[rows])
        owners.append(np.full(rows.size, number))
        places.append(rows)
    empty = (np.zeros((0, z.size + 2)), np.zeros(0), np.zeros(0, np.intp))
    if not guesses:
        return [empty] * len(parts)
    guess, spec, beta, light, owner, place = (
        np.concatenate(v) for v in (guesses, specs, betas, lights, owners, places)
    )
    feeds = np.broadcast_to(z, (len(guess), z.size))
    points = correct(eos, feeds, beta, guess, spec, max_iterations=8, largest_step=0.5, light=light)
    off = np.abs(points.u - guess)
    good = points.converged & (off[:, -2] < 0.02) & (off[:, -1] < 0.1) & (np.sign(points.volume) == np.sign(light))
    good &= (off[:, -2] > CLOSE) | (off[:, -1] > 5.0 * CLOSE)
    out = []
    for number in range(len(parts)):
        own = good & (owner == number)
        out.append((points.u[own], points.volume[own], place[own]))
    return out


def _led(eos: Equation, z: Array, part: Line, places: Array, critical: Sequence[CriticalPoint]) -> tuple[Line, Array]:
    """Return a line with points on its way into the critical point it ends at, at either end."""
    from scipy.interpolate import BarycentricInterpolator

    for end in (-1, 0):
        u = part.u if end == -1 else part.u[::-1]
        if len(u) < KNOWN + 1:
            continue
        last = u[-1]
        column = int(np.argmax(np.abs(last[:-2])))
        size = abs(last[column])
        target = next((c for c in critical if _near(last, c)), None)
        known = u[-KNOWN:, column]
        if target is None or not 0.05 < size < SPREAD or (np.diff(np.abs(known)) >= 0.0).any():
            continue
        tip = np.concatenate([np.zeros(z.size), np.log([target.T, target.P])])
        at = last[column] * TOWARDS
        # SciPy takes the points in a random order, seeded here: the same fluid has the same line to the last bit.
        way = BarycentricInterpolator(np.append(known, 0.0), np.vstack([u[-KNOWN:], tip]), rng=0)(at)
        way[:, column] = at
        turned = part.side[end] < 0.0
        beta = np.full(at.size, 1.0 - part.beta if turned else part.beta)
        light = part.volume[end] * TOWARDS
        points = correct(
            eos, np.broadcast_to(z, (at.size, z.size)), beta, way, np.full(at.size, column), max_iterations=12, largest_step=0.3, light=light
        )  # fmt: skip
        off = np.abs(points.u - way)
        good = points.converged & (off[:, -2] < 0.02) & (off[:, -1] < 0.06)
        rows = np.flatnonzero(good)
        if end == 0:
            rows = rows[::-1]
        new, volume, side = points.u[rows], points.volume[rows], np.full(rows.size, part.side[end])
        if end == -1:
            part = replace(
                part, u=np.vstack([part.u, new]), volume=np.append(part.volume, volume), side=np.append(part.side, side)
            )
            places = np.append(places, np.full(rows.size, places[-1]))
        else:
            part = replace(
                part, u=np.vstack([new, part.u]), volume=np.append(volume, part.volume), side=np.append(side, part.side)
            )
            places = np.append(np.full(rows.size, places[0]), places)
    return part, places


def _near(u: Array, point: CriticalPoint) -> bool:
    off = np.abs(u[-2:] - np.log([point.T, point.P]))
    return bool(off[0] < NEAR[0] and off[1] < NEAR[1])
