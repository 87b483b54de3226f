"""Tracing the lines of constant vapour fraction through temperature and pressure.

A predictor-corrector continuation in ln K, ln T and ln P after Michelsen (Fluid Phase Equilib. 4, 1, 1980): the
unknown that changes fastest is specified, the next point is predicted from the tangent and the curvature, and
the step follows the number of corrections. All lines asked for advance together, one batched correction a step.

The line of fraction 1 is started as the dew line at low pressure. Passing the critical point turns the incipient
liquid into an incipient vapour, so that what follows is the bubble line; the crossing is stepped over, since the
equations are singular there, and the critical point itself is solved for in :mod:`critical`. The bubble line is started
at low pressure at the same time: where the two meet they are one line, found in half the steps.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..eos.volume_shift import Shifts
from ..kernels import kernel, table
from ..watch import UNWATCHED, Watch
from .line_starts import STARTS, bubble_start, start_points
from .quality import correct, memory_of

Array = NDArray[np.float64]

MAX_POINTS = 500
USUAL_POINTS = 150
"""Points of a usual line, to tell the progress by."""

STUCK = "stuck"
MET = "met the other end"
NOT_NEEDED = "not needed"
LOW_PRESSURE = "low pressure"
LOW_TEMPERATURE = "low temperature"
PRESSURE_LIMIT = "pressure limit"
CRITICAL_POINT = "critical point"
NO_START = "no start"
CROSSING = 0.06
"""max |ln K| at which the step is set to jump across the critical point."""


@dataclass(frozen=True)
class Line:
    """One traced line. ``beta`` the vapour fraction; ``u`` (n, nc + 2) the points, ``volume`` (n,) their ratio of
    V/b, y to x, in logarithm; ``side`` (n,) 1, or -1 after an odd number of critical points; ``reason`` why it
    ended."""

    beta: float
    u: Array
    volume: Array
    side: Array
    reason: str

    @property
    def T(self) -> Array:
        """Temperatures, K."""
        return np.asarray(np.exp(self.u[:, -2]))

    @property
    def P(self) -> Array:
        """Pressures, Pa."""
        return np.asarray(np.exp(self.u[:, -1]))


ENDS = (
    "", STUCK, CRITICAL_POINT, PRESSURE_LIMIT, LOW_PRESSURE, LOW_TEMPERATURE, "number of points", "the line has no direction",
)  # fmt: skip
"""Why a walk ends, in the order of ``kernels/source/lines.py``."""

COUNT, SPEC, TRIES, REASON, CREEPING, STOPS = range(6)
"""What is told of a walker in whole numbers, as there."""


class Walkers:
    """The moving ends of N lines of one feed, with the points behind them, in arrays that a kernel walks on.

    ``share`` (N,) are the fractions by volume, after ``shift``, where lines are of those.
    """

    def __init__(
        self,
        eos: Equation,
        z: Array,
        beta: Array,
        stops: NDArray[np.bool_],
        share: Array | None = None,
        shift: Shifts | None = None,
    ) -> None:
        n, m = beta.size, z.size + 2
        self.eos, self.z = eos, np.ascontiguousarray(z, dtype=float)
        self.beta = np.array(beta, dtype=float)
        self.share, self.shift = share, shift
        self.whole = np.zeros((n, 6), np.int64)
        self.whole[:, STOPS] = stops
        self.step = np.full(n, 0.1)
        self.points, self.slopes = np.empty((n, MAX_POINTS, m)), np.zeros((n, 2, m))
        self.fractions, self.volumes, self.sides = (np.empty((n, MAX_POINTS)) for _ in range(3))
        self.given = [""] * n

    def reason(self, i: int) -> str:
        """Return why a line ended, empty while it goes on."""
        return self.given[i] or ENDS[self.whole[i, REASON]]

    def end(self, i: int, reason: str) -> None:
        """End a line."""
        self.given[i] = reason

    def count(self, i: int) -> int:
        """Return how many points a line has."""
        return int(self.whole[i, COUNT])

    def start(self, i: int, u: Array) -> None:
        """Take u (nc + 2,) for the first point of a line and set out towards higher pressure."""
        last = u.size - 1
        share = None if self.share is None else self.share[i : i + 1]
        points = correct(
            self.eos, self.z, self.beta[i : i + 1], u[None], np.array([last]), 2, 1.0, share=share, shift=self.shift
        )
        slope, volume = points.slope[0], float(points.volume[0])
        spec = int(fastest(slope[None], u[None], points.volume)[0])
        self.points[i, 0], self.fractions[i, 0], self.volumes[i, 0], self.sides[i, 0] = u, self.beta[i], volume, 1.0
        self.slopes[i, 1] = slope / slope[spec]
        self.whole[i, COUNT], self.whole[i, SPEC] = 1, spec
        self.step[i] = 0.3 if slope[spec] >= 0.0 else -0.3

    def turn(self, i: int, other: int) -> None:
        """Let the walker ``other`` leave from where the walker i begins, the other way."""
        for name in ("beta", "whole", "step", "points", "slopes", "fractions", "volumes", "sides"):
            values = getattr(self, name)
            stops = self.whole[other, STOPS]
            values[other] = values[i]
            self.whole[other, STOPS] = stops
        self.step[other] = -self.step[i]
        self.given[other] = self.given[i]

    def walk(self, rows: list[int], steps: int) -> None:
        """Take up to ``steps`` steps with the walkers ``rows``."""
        own, n, nc = self.eos.packed, self.beta.size, self.z.size
        goal = np.full(n, np.nan) if self.share is None else np.log(self.share / (1.0 - self.share))
        shift = Shifts.fixed(np.zeros(nc)) if self.shift is None else self.shift
        given = (
            table(own.family), np.ascontiguousarray(own.parameters[0]), own.memory, self.z, goal,
            np.ascontiguousarray(shift.constant, dtype=float), np.ascontiguousarray(shift.slope, dtype=float),
            np.array(rows, dtype=np.int64), self.whole, self.step, self.beta, self.points, self.fractions, self.volumes, self.sides,
            self.slopes, steps,
        )  # fmt: skip
        kernel("walk_lines").over(len(rows), memory_of(own.memory, nc) + 3 * (nc + 2), given, block=1)

    def line(self, i: int, back: int | None = None) -> Line:
        """Return what a walker traced, preceded by what one that left in the other direction did."""
        parts = [slice(0, self.count(i))]
        u, volume, side = (v[i, parts[0]] for v in (self.points, self.volumes, self.sides))
        if back is not None:
            behind = slice(self.count(back) - 1, 0, -1)
            u = np.concatenate([self.points[back, behind], u])
            volume = np.concatenate([self.volumes[back, behind], volume])
            side = np.concatenate([self.sides[back, behind], side])
        return Line(float(self.beta[i]), u.copy(), volume.copy(), side.copy(), self.reason(i))


BURST = 6
"""Steps that lines take in turn, before it is looked at whether two have met."""


def trace(
    eos: Equation,
    z: Array,
    betas: Array,
    stop_at_critical: NDArray[np.bool_],
    watch: Watch = UNWATCHED,
    starts: tuple[float, ...] = STARTS,
    dews: Sequence[Array] = (),
) -> list[Line]:
    """Trace one line per entry of ``betas`` (M,), all of the feed z (nc,), from low pressure on.

    ``stop_at_critical`` (M,) ends a line there instead of following it to the other side. Returns the lines in order;
    one that could not be started has no points. ``starts`` are the pressures (Pa) to try a start at, in order.
    ``dews`` are starts (nc + 2,) of the first lines, dew lines, which the bubble line follows: where that and a dew
    line meet, the dew line is returned as one line from end to end and the bubble line without points. ``watch`` is
    asked once a step. Raises Cancelled."""
    m, nc = betas.size, z.size
    feeds = np.broadcast_to(z, (m, nc))
    ends = len(dews)
    own = np.arange(m) > ends if ends else np.ones(m, dtype=bool)
    begins, found = np.full((m, nc + 2), np.nan), np.zeros(m, dtype=bool)
    begins[own], found[own] = start_points(eos, feeds[own], betas[own], starts, watch)
    if ends:
        begins[:ends], found[:ends] = np.array(dews), True
        begins[ends], found[ends] = bubble_start(eos, z)
    # Started further up, what lies below belongs to the line as well.
    up = [i for i in range(m) if found[i] and np.exp(begins[i, -1]) > 1.5 * starts[0]]
    backward = {i: m + k for k, i in enumerate(up)}
    walkers = Walkers(
        eos, z, np.concatenate([betas, betas[up]]), np.concatenate([stop_at_critical, np.ones(len(up), dtype=bool)])
    )
    for i in range(m):
        if found[i]:
            walkers.start(i, begins[i])
        else:
            walkers.end(i, NO_START)
    for i, k in backward.items():
        walkers.turn(i, k)
    met: tuple[int, int, int] | None = None
    while True:
        live = [i for i in range(m + len(up)) if not walkers.reason(i)]
        if not live:
            break
        watch.at(min(0.95, int(walkers.whole[:, COUNT].max()) / USUAL_POINTS))
        before = walkers.whole[:, COUNT].copy()
        walkers.walk(live, BURST)
        for k in range(ends):
            if walkers.given[ends]:
                break
            kept = _meeting(walkers, k, ends, before) if walkers.reason(k) != NO_START else None
            if kept is not None:
                met = (k, *kept)
                walkers.end(k, MET)
                walkers.end(ends, MET)
            elif walkers.reason(k) in (LOW_PRESSURE, LOW_TEMPERATURE) and walkers.sides[k, walkers.count(k) - 1] < 0.0:
                walkers.end(ends, NOT_NEEDED)
    lines = [walkers.line(i, backward.get(i)) for i in range(m)]
    if met is not None:
        k, first, second = met
        behind = [walkers.count(backward[i]) - 1 if i in backward else 0 for i in (k, ends)]
        lines[k] = _joined(lines[k], lines[ends], first + behind[0], second + behind[1])
    if ends and walkers.reason(ends) in (MET, NOT_NEEDED):
        lines[ends] = Line(float(betas[ends]), np.empty((0, nc + 2)), np.empty(0), np.empty(0), walkers.reason(ends))
    return lines


def _meeting(walkers: Walkers, dew: int, bubble: int, seen: NDArray[np.int64]) -> tuple[int, int] | None:
    """Return how many points of each line are kept where the two have met head on by a point that is new since
    ``seen`` (N,), else nothing.

    They have met where a point of one lies beside a stretch of the other, within a share of a usual step, and both have
    the same phase packed more loosely.
    """
    counts = walkers.count(dew), walkers.count(bubble)
    if min(counts) < 2:
        return None
    kept = np.zeros(2, np.int64)
    a, b = ((walkers.points[i], walkers.count(i), int(seen[i]), walkers.volumes[i]) for i in (dew, bubble))
    return (int(kept[0]), int(kept[1])) if kernel("lines_meet")(*a, *b, kept) else None


def _joined(dew: Line, bubble: Line, first: int, second: int) -> Line:
    """Return a dew line and the bubble line it met as one line, of the ``first`` and ``second`` number of their
    points."""
    sign = np.ones(dew.u.shape[1])
    sign[:-2] = -1.0
    back = slice(second - 1, None, -1)
    return Line(
        dew.beta,
        np.concatenate([dew.u[:first], sign * bubble.u[back]]),
        np.concatenate([dew.volume[:first], -bubble.volume[back]]),
        np.concatenate([dew.side[:first], -bubble.side[back]]),
        LOW_PRESSURE,
    )


def fastest(slope: Array, u: Array, volume: Array) -> NDArray[np.int64]:
    """Return which unknown of N points to specify, (N,): the one that changes fastest by its ``slope`` (N, nc + 2),
    each weighed by the range it runs through.

    Far from the critical point T and P describe the line best; near it only the K values do.
    """
    out = np.empty(len(u), np.int64)
    given = (*(np.ascontiguousarray(v, dtype=float) for v in (slope, u, volume)), out)
    kernel("fastest_unknowns").over(len(u), 0, given, block=256)
    return out


def split_at_critical(line: Line) -> list[Line]:
    """Return the parts of a dew-started line between critical points, alternately of beta and 1 - beta.

    The K values of the parts after an odd number of crossings are those of the other phase.
    """
    if len(line.u) < 2:
        return [line]
    cuts = [0, *(np.flatnonzero(np.diff(line.side)) + 1).tolist(), len(line.u)]
    return [
        replace(
            line,
            beta=line.beta if line.side[i] > 0.0 else 1.0 - line.beta,
            u=line.u[i:j],
            volume=line.volume[i:j],
            side=line.side[i:j],
        )
        for i, j in pairwise(cuts)
    ]
