"""Where hydrates begin and end to be stable along a line of states: every branch, scanned over the whole range.

At a temperature a structure need not be stable from one pressure on: where the fluid condenses the limit T(P) turns
back, and a liquid that is compressed may leave the hydrate again. At a pressure it is stable below one temperature as
long as the water is a liquid, since the heat of its dissociation is larger than that of any evaporation; beside ice
it may leave again in the cold. So the fluid is evaluated over the whole range; what structures and doses say of it
costs nothing more. Where the stability turns without passing zero, or has a peak between two points as the fluid
condenses, it is looked at more and more closely."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..watch import UNWATCHED, Watch
from .activity import Doses
from .lattice import STRUCTURES
from .potentials import COLDEST, HIGHEST, HOTTEST, LOWEST, given, known_at, stability
from .surroundings import Host

Array = NDArray[np.float64]
Places = NDArray[np.intp]

SCANNED_P, SCANNED_T = 56, 36
"""Pressures or temperatures looked at first."""
CLOSER, CLOSER_ROUNDS = 6, 12
"""Parts that a stretch which may hide a passage is divided into, and how many times at the most."""
HOPE = 3.0
"""A turning point whose distance from zero is more than this times what it differs from its neighbours by hides no
passage."""
TOLERANCE = 1e-9
"""Of ln P; of T as much times 100 K."""


@dataclass(frozen=True)
class Crossings:
    """Where structures begin or end to be stable, (M,) each: ``row`` of the temperature or pressure asked,
    ``structure``, ``dose``, what was looked for (``value``, Pa or K), and whether the hydrate is stable ``above`` it;
    by row, dose, structure and rising value."""

    row: Places
    structure: Places
    dose: Places
    value: Array
    above: NDArray[np.bool_]


@dataclass(frozen=True)
class _Lines:
    """Lines of states: at ``held`` (n,) temperatures or pressures, the other one running."""

    host: Host
    runs: Literal["T", "P"]
    held: Array
    doses: Sequence[Doses]

    def states(self, x: Array, rows: Places) -> tuple[Array, Array]:
        """Return T and P at x, ln P or T, on the lines ``rows``."""
        return (self.held[rows], np.exp(x)) if self.runs == "P" else (x, self.held[rows])

    def at(self, x: Array, watch: Watch) -> Array:
        """Return the stability of each structure and dose at x (n, k), (structures, doses, n, k); nan where x is."""
        flat = x.ravel()
        there = np.flatnonzero(np.isfinite(flat))
        t, p = self.states(flat[there], there // x.shape[1])
        out = np.full((len(STRUCTURES), len(self.doses), flat.size), np.nan)
        seen = self.host.around(t, p, watch)
        for d, mass in enumerate(self.doses):
            dose = given(t, mass)
            for s in range(len(STRUCTURES)):
                out[s, d, there] = stability(self.host, t, p, s, dose, seen)
        return out.reshape(*out.shape[:2], *x.shape)


def pressures(host: Host, T: Array, doses: Sequence[Doses], watch: Watch = UNWATCHED) -> Crossings:
    """Return every pressure from LOWEST to HIGHEST at which a structure begins or ends to be stable at temperatures T
    (n,) K with each of ``doses``.

    Nothing at temperatures that the lattice's constants do not hold for. Raises Cancelled.
    """
    T = np.asarray(T, dtype=float)
    asked = np.flatnonzero(known_at(T))
    return _scanned(
        _Lines(host, "P", T[asked], doses), asked, np.linspace(np.log(LOWEST), np.log(HIGHEST), SCANNED_P), 1.0, watch
    )


def every_temperature(host: Host, P: Array, doses: Sequence[Doses], watch: Watch = UNWATCHED) -> Crossings:
    """Return every temperature from COLDEST to HOTTEST at which a structure begins or ends to be stable at pressures
    P (n,) Pa with each of ``doses``. Raises Cancelled."""
    P = np.asarray(P, dtype=float)
    return _scanned(
        _Lines(host, "T", P, doses), np.arange(P.size), np.linspace(COLDEST, HOTTEST, SCANNED_T), 100.0, watch
    )


def _scanned(lines: _Lines, asked: Places, base: Array, scale: float, watch: Watch) -> Crossings:
    x = np.broadcast_to(base, (asked.size, base.size))
    values = lines.at(x, watch.part(0.0, 0.6))
    for number in range(CLOSER_ROUNDS):
        more = _between(x, values)
        if more is None:
            break
        part = watch.part(0.6 + 0.02 * number, 0.62 + 0.02 * number)
        x = np.concatenate([x, more], axis=1)
        values = np.concatenate([values, lines.at(more, part)], axis=-1)
        order = np.argsort(x, axis=1, kind="stable")
        x = np.take_along_axis(x, order, axis=1)
        values = np.take_along_axis(values, order[None, None], axis=-1)
    return _refined(lines, asked, x, values, scale, watch.part(0.85, 1.0))


def _between(x: Array, values: Array) -> Array | None:
    """Return places (n, k) in the stretches that may hide a passage through zero, nan where there are fewer; None
    where none does."""
    open_ = (_turns(values) | _peaks(x, values)).any(axis=(0, 1))
    # A stretch of a hair's width holds nothing worth telling.
    open_ &= np.diff(x, axis=-1) > 1e-12 * np.abs(x[..., 1:])
    if not open_.any():
        return None
    row, place = np.nonzero(open_)
    count = open_.sum(axis=1)
    slot = np.concatenate([np.arange(c) for c in count])
    out = np.full((len(x), int(count.max()), CLOSER - 1), np.nan)
    a, b = x[row, place], x[row, place + 1]
    out[row, slot] = a[:, None] + np.arange(1, CLOSER) / CLOSER * (b - a)[:, None]
    return out.reshape(len(x), -1)


def _turns(values: Array) -> NDArray[np.bool_]:
    """Tell the stretches beside points where values (..., m) turn on their own side of zero, (..., m - 1)."""
    left, middle, right = values[..., :-2], values[..., 1:-1], values[..., 2:]
    with np.errstate(invalid="ignore"):
        top = (middle <= 0.0) & (middle > left) & (middle >= right)
        bottom = (middle > 0.0) & (middle < left) & (middle <= right)
        near = np.abs(middle) < HOPE * np.maximum(np.abs(middle - left), np.abs(middle - right))
    out = np.zeros((*values.shape[:-1], values.shape[-1] - 1), dtype=bool)
    out[..., :-1] |= (top | bottom) & near
    out[..., 1:] |= (top | bottom) & near
    return out


def _peaks(x: Array, values: Array) -> NDArray[np.bool_]:
    """Tell the stretches in which the lines through the stretches at both sides meet beyond zero, (..., m - 1): where
    a phase appears, values have a peak that no point shows."""
    slope = np.diff(values, axis=-1) / np.diff(x, axis=-1)
    before, after = slope[..., :-2], slope[..., 2:]
    first, last = values[..., 1:-2], values[..., 2:-1]
    width = (x[..., 2:-1] - x[..., 1:-2])[None, None]
    with np.errstate(invalid="ignore", divide="ignore"):
        at = (last - after * width - first) / (before - after)
        peak = first + before * at
        hidden = (first * last > 0.0) & (peak * first < 0.0) & (at > 0.0) & (at < width)
    out = np.zeros((*values.shape[:-1], values.shape[-1] - 1), dtype=bool)
    out[..., 1:-1] = hidden
    return out


def _refined(lines: _Lines, asked: Places, x: Array, values: Array, scale: float, watch: Watch) -> Crossings:
    """Return where the stabilities pass zero between neighbours."""
    from scipy.optimize.elementwise import find_root

    found: list[tuple[int, int, int, float, float, bool]] = []
    for s, d, n in np.ndindex(*values.shape[:3]):
        good = np.flatnonzero(np.isfinite(values[s, d, n]))
        stable = values[s, d, n, good] > 0.0
        found += [
            (n, d, s, float(x[n, good[i]]), float(x[n, good[i + 1]]), bool(stable[i + 1]))
            for i in np.flatnonzero(stable[1:] != stable[:-1]).tolist()
        ]
    found.sort()
    row, dose, structure = np.array([f[:3] for f in found], dtype=np.intp).reshape(-1, 3).T
    low, high = (np.array([f[k] for f in found], dtype=float) for k in (3, 4))
    above = np.array([f[5] for f in found], dtype=bool)
    if not found:
        return Crossings(row, structure, dose, low, above)

    def off(v: Array, index: Array) -> Array:
        watch.check()
        at = index.astype(np.intp)
        t, p = lines.states(v, row[at])
        seen = lines.host.around(t, p)
        out = np.full(at.size, np.nan)
        for s in range(len(STRUCTURES)):
            for d, mass in enumerate(lines.doses):
                here = np.flatnonzero((structure[at] == s) & (dose[at] == d))
                if here.size:
                    out[here] = stability(lines.host, t[here], p[here], s, given(t[here], mass), seen.take(here))
        return out

    index = np.arange(low.size, dtype=float)
    root = find_root(off, (low, high), args=(index,), tolerances={"xatol": TOLERANCE * scale}, maxiter=60)
    good = np.flatnonzero(root.success & np.isfinite(root.x))
    value = (np.exp(root.x) if lines.runs == "P" else root.x)[good]
    return Crossings(asked[row][good], structure[good], dose[good], value, above[good])
