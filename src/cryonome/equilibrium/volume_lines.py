"""Lines of constant vapour fraction by volume, traced like those by mole.

To the unknowns of a point comes the mole fraction beta that makes the share by volume what it shall be,

    ln (beta / (1 - beta)) + ln (V_y / V_x) - ln (s / (1 - s)) = 0,

V_y and V_x the molar volumes of vapour and liquid after the volume shift. It is eliminated from Newton's matrix, so
that the tracer sees the unknowns it knows. At low pressure the vapour is so much larger that every such line begins
beside the bubble line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from ..eos import Equation
from ..eos.volume_shift import Shifts
from ..watch import UNWATCHED, Watch
from .critical import CriticalPoint
from .envelope import BURST, COUNT, CRITICAL_POINT, Walkers
from .flash import flash_pt
from .line_states import two_phases
from .phases import Kind, Phases
from .quality import compositions, correct

Array = NDArray[np.float64]
Rows = NDArray[np.intp]

ALONG = 40
"""Temperatures a share is looked for at, and again between two of them."""

STARTS = (3e5, 2e4, 2e6, 8e6)
"""Pa. Where a line is begun, the first that has a state of the share."""


@dataclass(frozen=True)
class VolumeLine:
    """A line of one ``share`` of the vapour by volume: the states (n,) along it, in order."""

    share: float
    states: Phases


def volume_lines(
    eos: Equation,
    z: Array,
    shares: Sequence[float],
    shift: Shifts,
    critical: Sequence[CriticalPoint] = (),
    watch: Watch = UNWATCHED,
) -> list[VolumeLine]:
    """Return the lines of the inner volume ``shares`` of vapour of a feed z (nc,), all traced in one batch up to
    critical points.

    ``shift`` is taken off volumes; ``critical`` are the feed's critical points, where lines
    end. A share that no state was found for has no line. Raises Cancelled.
    """
    z = np.asarray(z, float) / np.sum(z)
    wanted = sorted({float(s) for s in shares if 0.0 < s < 1.0})
    if not wanted or z.size == 1:
        return []
    begins = _starts(eos, z, np.array(wanted), shift, watch.part(0.0, 0.3))
    each = np.repeat(np.array([share for share, _, _ in begins]), 2)
    beta = np.repeat(np.array([b for _, b, _ in begins]), 2)
    walkers = Walkers(eos, z, beta, np.ones(beta.size, dtype=bool), each, shift)
    for k, (_, _, u) in enumerate(begins):
        walkers.start(2 * k, u)
        walkers.turn(2 * k, 2 * k + 1)
    while True:
        live = [i for i in range(beta.size) if not walkers.reason(i)]
        if not live:
            break
        watch.at(min(0.95, 0.3 + int(walkers.whole[:, COUNT].max()) / 200.0))
        walkers.walk(live, BURST)
    return [
        VolumeLine(share, _states(eos, z, share, walkers, 2 * k + 1, 2 * k, critical))
        for k, (share, _, _) in enumerate(begins)
    ]


def _starts(eos: Equation, z: Array, shares: Array, shift: Shifts, watch: Watch) -> list[tuple[float, float, Array]]:
    """Return share, mole fraction and unknowns (nc + 2,) of one state on each line that has any at low pressure.

    Flashes over temperature, then others between the two that a share lies between, bring Newton's method near.
    """
    out: dict[int, tuple[float, float, Array]] = {}
    for pressure in STARTS:
        rows = np.array([i for i in range(shares.size) if i not in out], dtype=np.intp)
        if rows.size == 0:
            break
        lo, hi = np.full(rows.size, max(60.0, 0.4 * eos.Tc.min())), np.full(rows.size, 1.2 * eos.Tc.max())
        for _ in range(3):
            T = np.geomspace(lo, hi, ALONG, axis=-1)
            found = flash_pt(eos, T, pressure, z, watch)
            share = _share(found, shift)
            below = ~(share > shares[rows, None])
            # From the hot end on: in the cold another liquid may be taken for a vapour.
            first = np.where(below.any(axis=-1), np.minimum(ALONG - np.argmax(below[:, ::-1], axis=-1), ALONG - 1), 1)
            k = np.arange(rows.size)
            lo, hi = T[k, first - 1], T[k, first]
        for i in range(rows.size):
            at = (i, int(first[i]))
            if not (found.split[at] and found.converged[at] and found.kind[at][0] == Kind.VAPOUR):
                continue
            with np.errstate(divide="ignore", invalid="ignore"):
                ln_k = np.where(z > 0.0, np.log(found.light[at] / found.heavy[at]), 0.0)
            u = np.concatenate([ln_k, np.log([T[at], pressure])])
            wanted = shares[rows[i] : rows[i] + 1]
            held = np.array([z.size + 1])
            point = correct(eos, z, found.fraction[at][:1], u[None], held, 30, 0.5, share=wanted, shift=shift)
            if point.converged[0] and point.volume[0] > 0.3:
                out[int(rows[i])] = (float(wanted[0]), float(point.beta[0]), point.u[0])
    return [out[row] for row in sorted(out)]


def _share(found: Phases, shift: Shifts) -> Array:
    """Return the share of the vapour by volume of two-phase states (...)."""
    gas, own = R * found.T / found.P, shift.at(found.T)
    volumes = [
        f * (Z * gas - np.vecdot(x, own))
        for f, Z, x in (
            (found.fraction[..., 0], found.Z[..., 0], found.light),
            (found.fraction[..., 1], found.Z[..., 1], found.heavy),
        )
    ]
    alone = np.where(found.kind[..., 0] == Kind.VAPOUR, 1.0, 0.0)
    with np.errstate(invalid="ignore"):
        return np.where(found.split, volumes[0] / (volumes[0] + volumes[1]), alone)


def _both(walkers: Walkers, down: int, up: int) -> tuple[Array, Array]:
    """Return the points (n, nc + 2) and mole fractions (n,) of two walkers that left one start in opposite
    directions, up to a critical point each."""
    u, beta = [], []
    for i, order in ((down, slice(None, 0, -1)), (up, slice(None))):
        keep = np.flatnonzero(walkers.sides[i, : walkers.count(i)] > 0.0)[order]
        u.append(walkers.points[i, keep])
        beta.append(walkers.fractions[i, keep])
    return np.concatenate(u), np.concatenate(beta)


def _states(
    eos: Equation, z: Array, share: float, walkers: Walkers, down: int, up: int, critical: Sequence[CriticalPoint]
) -> Phases:
    """Return the states along a line, from the end of ``down`` to that of ``up``, joined to the critical points it
    ends at."""
    u, beta = _both(walkers, down, up)
    for i, end in ((down, 0), (up, -1)):
        points = [np.log([c.T, c.P]) for c in critical] if walkers.reason(i) == CRITICAL_POINT else []
        near = [p for p in points if (np.abs(u[end, -2:] - p) < (0.05, 0.2)).all()]
        if near:
            point = np.concatenate([np.zeros(z.size), min(near, key=lambda p: float(np.abs(u[end, -2:] - p).sum()))])
            place = 0 if end == 0 else len(u)
            u, beta = np.insert(u, place, point, axis=0), np.insert(beta, place, share)
    x, y = compositions(u, np.tile(z, (len(u), 1)), beta)
    x, y = (v / v.sum(axis=-1, keepdims=True) for v in (x, y))
    return two_phases(eos, z, np.exp(u[:, -2]), np.exp(u[:, -1]), beta, x, y)
