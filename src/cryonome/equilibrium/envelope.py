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

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .line_starts import P_MAX, P_MIN, STARTS, bubble_start, start_points
from .linear import hermite
from .quality import QualityPoints, correct, tangent

Array = NDArray[np.float64]

T_MIN = 60.0
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
    """One traced line. ``beta`` the vapour fraction; ``u`` (n, nc + 2) the points, ``volume`` (n,) their ratio
    of V/b, y to x, in logarithm; ``side`` (n,) 1, or -1 after an odd number of critical points; ``reason`` why it ended."""

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


Corrector = Callable[[Array, Array, NDArray[np.intp], int, float, Array | None], QualityPoints]
"""Solves for points of fractions (N,) near unknowns (N, nc + 2), one of them specified: what :func:`correct` does for one feed."""


@dataclass
class Walker:
    """The moving end of one line, with the points behind it: ``beta`` is the fraction of the last, ``fractions`` those of all."""

    beta: float
    points: list[Array] = field(default_factory=list)
    fractions: list[float] = field(default_factory=list)
    volumes: list[float] = field(default_factory=list)
    sides: list[float] = field(default_factory=list)
    slopes: list[Array] = field(default_factory=list)
    step: float = 0.1
    spec: int = 0
    tries: int = 0
    reason: str = ""
    creeping: int = 0


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

    ``stop_at_critical`` (M,) ends a line there instead of following it to the other side. Returns the lines in
    order; one that could not be started has no points. ``starts`` are the pressures (Pa) to try a start at, in order.
    ``dews`` are starts (nc + 2,) of the first lines, dew lines, which the bubble line follows: where that and a dew line meet,
    the dew line is returned as one line from end to end and the bubble line without points. ``watch`` is asked once a step.
    Raises Cancelled.
    """
    m, nc = betas.size, z.size
    walkers = [Walker(float(b)) for b in betas]
    corrector = of_feed(eos, z)
    backward: dict[int, Walker] = {}
    feeds = np.broadcast_to(z, (m, nc))
    ends = len(dews)
    own = np.arange(m) > ends if ends else np.ones(m, dtype=bool)
    begins, found = np.full((m, nc + 2), np.nan), np.zeros(m, dtype=bool)
    begins[own], found[own] = start_points(eos, feeds[own], betas[own], starts, watch)
    if ends:
        begins[:ends], found[:ends] = np.array(dews), True
        begins[ends], found[ends] = bubble_start(eos, z)
    for i, (u, ok) in enumerate(zip(begins, found)):
        if not ok:
            walkers[i].reason = NO_START
            continue
        walkers[i].points.append(u)
        first_direction(corrector, walkers[i])
        if np.exp(u[-1]) > 1.5 * starts[0]:
            # Started further up: what lies below belongs to the line as well.
            backward[i] = turned(walkers[i])
    moving = [(w, bool(stop)) for w, stop in zip(walkers, stop_at_critical)]
    moving += [(w, True) for w in backward.values()]
    meeting: tuple[int, int, int] | None = None
    bubble = walkers[ends] if ends else None
    while True:
        live = [(w, stop) for w, stop in moving if not w.reason]
        if not live:
            break
        watch.at(min(0.95, max(len(w.points) for w, _ in moving) / USUAL_POINTS))
        advance(corrector, [w for w, _ in live], [stop for _, stop in live])
        for k, dew in enumerate(walkers[:ends]):
            if bubble is None or bubble.reason:
                break
            met = _meeting(dew, bubble) if dew.reason != NO_START else None
            if met is not None:
                meeting = (k, *met)
                dew.reason = bubble.reason = MET
            elif dew.reason in (LOW_PRESSURE, LOW_TEMPERATURE) and dew.sides[-1] < 0.0:
                bubble.reason = NOT_NEEDED
    lines = [_line(w, backward.get(i), nc) for i, w in enumerate(walkers)]
    if meeting is not None:
        k, first, second = meeting
        behind = [len(backward[i].points) - 1 if i in backward else 0 for i in (k, ends)]
        lines[k] = _joined(lines[k], lines[ends], first + behind[0], second + behind[1])
    if bubble is not None and bubble.reason in (MET, NOT_NEEDED):
        lines[ends] = Line(bubble.beta, np.empty((0, nc + 2)), np.empty(0), np.empty(0), bubble.reason)
    return lines


def _meeting(dew: Walker, bubble: Walker) -> tuple[int, int] | None:
    """Return how many points of each line are kept where the two have met head on, else nothing.

    They have met where the last point of one lies beside a stretch of the other, within a share of a usual step, and both have
    the same phase packed more loosely. The unknowns of a dew line are ln(z / incipient), those of a bubble line the negative.
    """
    if len(dew.points) < 2 or len(bubble.points) < 2:
        return None
    sign = np.ones(dew.points[0].size)
    sign[:-2] = -1.0
    ahead, other = np.array(dew.points), sign * np.array(bubble.points)
    loose, loose_too = np.array(dew.volumes), -np.array(bubble.volumes)
    place = _beside(ahead[-1], ahead[-1] - ahead[-2], other, loose[-1] * loose_too > 0.0)
    if place is not None:
        return len(ahead), place + 1
    place = _beside(other[-1], other[-1] - other[-2], ahead, loose_too[-1] * loose > 0.0)
    return None if place is None else (place + 1, len(other))


def _beside(tip: Array, way: Array, line: Array, alike: NDArray[np.bool_]) -> int | None:
    """Return the first point of the stretch of a ``line`` (n, nc + 2) that a ``tip`` travelling a ``way`` lies beside, where
    the line comes the other way and its points are ``alike`` (n,)."""
    scale = 1.0 / (0.5 + 0.3 * np.abs(tip))
    scale[-2:] = 40.0, 4.0
    # What lies far off in T or P is not looked at further.
    near = np.abs((line[:-1, -2:] - tip[-2:]) * scale[-2:]).max(axis=1) < 3.0
    near &= alike[1:] & alike[:-1]
    for k in np.flatnonzero(near):
        step = (line[k + 1] - line[k]) * scale
        length = float(step @ step)
        along = float((tip - line[k]) * scale @ step) / length if length > 0.0 else -1.0
        if 0.0 <= along <= 1.0:
            off = np.abs((tip - line[k]) * scale - along * step).max()
            if off < 0.15 * np.abs(step).max() + 1e-6 and float((way * scale) @ step) < 0.0:
                return int(k)
    return None


def _joined(dew: Line, bubble: Line, first: int, second: int) -> Line:
    """Return a dew line and the bubble line it met as one line, of the ``first`` and ``second`` number of their points."""
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


def turned(walker: Walker) -> Walker:
    """Return a walker that leaves from the same start in the other direction."""
    other = replace(walker, step=-walker.step)
    for name in ("points", "fractions", "volumes", "sides", "slopes"):
        setattr(other, name, list(getattr(walker, name)))
    return other


def _line(walker: Walker, back: Walker | None, nc: int) -> Line:
    """Return what a walker traced, preceded by what one that left in the other direction did."""
    points, volumes, sides = walker.points, walker.volumes, walker.sides
    if back is not None:
        points = [*back.points[:0:-1], *points]
        volumes, sides = [*back.volumes[:0:-1], *volumes], [*back.sides[:0:-1], *sides]
    u = np.array(points) if points else np.empty((0, nc + 2))
    return Line(walker.beta, u, np.array(volumes), np.array(sides), walker.reason)


def of_feed(eos: Equation, z: Array) -> Corrector:
    """Return the corrector of lines of known mole fractions of one feed z (nc,)."""

    def solve(
        beta: Array, u: Array, spec: NDArray[np.intp], most: int, step: float, light: Array | None
    ) -> QualityPoints:
        return correct(eos, np.broadcast_to(z, (len(u), z.size)), beta, u, spec, most, step, light)

    return solve


def first_direction(corrector: Corrector, walker: Walker) -> None:
    """Take the start of a line for its first point and set out towards higher pressure."""
    last = walker.points[0].size - 1
    points = corrector(np.array([walker.beta]), walker.points[0][None], np.array([last]), 2, 1.0, None)
    slope = tangent(points.jacobian, np.array([last]))[0]
    walker.fractions.append(walker.beta)
    walker.volumes.append(float(points.volume[0]))
    walker.sides.append(1.0)
    walker.spec = fastest(slope, walker.points[0], walker.volumes[0])
    walker.slopes.append(slope / slope[walker.spec])
    walker.step = 0.3 * np.sign(slope[walker.spec]) if walker.spec != last else 0.3
    if slope[walker.spec] < 0.0:
        walker.step = -abs(walker.step)


def _near_critical(ln_k: Array, volume: float, factor: float) -> bool:
    """Tell whether both compositions and volumes of the phases come together; isomers have alike compositions only."""
    return bool(np.abs(ln_k).max() < factor * CROSSING and abs(volume) < 4.0 * factor * CROSSING)


def fastest(slope: Array, u: Array, volume: float) -> int:
    """Return the unknown to specify next: the fastest, each weighed by the range it runs through.

    Far from the critical point T and P describe the line best; near it only the K values do.
    """
    if _near_critical(u[:-2], volume, 4.0):
        return int(np.argmax(np.abs(u[:-2])))
    weight = np.empty(slope.size)
    weight[:-2] = 1.0 / (0.3 + np.abs(u[:-2]))
    weight[-2], weight[-1] = 12.0, 1.5
    return int(np.argmax(np.abs(slope) * weight))


def _predict(walker: Walker) -> Array:
    """Return the next point by a cubic through the last two points and tangents, or along the tangent."""
    u1, s1 = walker.points[-1], walker.slopes[-1]
    guess = u1 + walker.step * s1
    if len(walker.points) > 1:
        u0 = walker.points[-2]
        h = u1[walker.spec] - u0[walker.spec]
        scale = walker.slopes[-2][walker.spec]
        if abs(h) > 1e-10 and abs(scale) > 1e-8 and abs(walker.step) < 4.0 * abs(h):
            s0 = walker.slopes[-2] / scale
            t = 1.0 + walker.step / h
            cubic = hermite(t, u0, u1, h * s0, h * s1)[0]
            if np.abs(cubic - guess).max() < 0.5 * np.abs(walker.step * s1).max() + 0.05:
                guess = cubic
    return np.asarray(guess)


def _limit_step(walker: Walker, nc: int) -> None:
    """Keep the step within what a smooth plot and a safe prediction allow, and jump the critical point."""
    slope = walker.slopes[-1]
    bound = 0.5 + 0.3 * np.abs(walker.points[-1])
    bound[-2], bound[-1] = 0.025, 0.25
    with np.errstate(divide="ignore"):
        most = (bound / np.abs(slope)).min()
    walker.step = float(np.sign(walker.step) * min(abs(walker.step), most))
    ln_k = walker.points[-1][:nc]
    spec = walker.spec
    if spec < nc:
        here, ahead = ln_k[spec], ln_k[spec] + walker.step
        if _near_critical(ln_k, walker.volumes[-1], 3.0) and abs(ahead) < abs(here):
            # Land clear of the singular point, on the other side if this step comes near it.
            if (abs(here) < 1.2 * CROSSING and abs(walker.volumes[-1]) < 0.35) or here * ahead < 0.0:
                walker.step = -here - np.sign(here) * min(0.6 * CROSSING, 0.8 * abs(here))
            elif abs(ahead) < CROSSING:
                walker.step = float(np.sign(here) * CROSSING - here) if abs(here) > 1.2 * CROSSING else walker.step


def advance(corrector: Corrector, walkers: list[Walker], stops: list[bool]) -> None:
    """Take one step on every line, in one batch; a line whose entry in ``stops`` is true ends at a critical point."""
    nc = walkers[0].points[0].size - 2
    for walker in walkers:
        _limit_step(walker, nc)
    guess = np.array([_predict(w) for w in walkers])
    for row, walker in enumerate(walkers):
        guess[row, walker.spec] = walker.points[-1][walker.spec] + walker.step
    spec = np.array([w.spec for w in walkers], dtype=np.intp)
    beta = np.array([w.beta for w in walkers])
    light = np.array([w.volumes[-1] * (-1.0 if _jumps(w, g) else 1.0) for w, g in zip(walkers, guess)])
    points = corrector(beta, guess, spec, 7, 0.5, light)
    slopes = tangent(points.jacobian, spec)
    for row, walker in enumerate(walkers):
        _accept(
            walker,
            points.u[row],
            float(points.volume[row]),
            slopes[row],
            bool(points.converged[row]),
            int(points.iterations[row]),
            guess[row],
            nc,
            stops[row],
            float(points.beta[row]),
        )


def _accept(
    walker: Walker,
    u: Array,
    volume: float,
    slope: Array,
    converged: bool,
    iterations: int,
    guess: Array,
    nc: int,
    stop: bool,
    beta: float,
) -> None:
    """Take a corrected point into its line and choose the next step, or shorten the step and try again."""
    last = walker.points[-1]
    moved = np.abs(u - guess).max() if converged else np.inf
    trivial = converged and np.abs(u[:nc]).max() < 1e-4 and abs(volume) < 1e-3
    jumped = converged and (abs(u[-2] - last[-2]) > 0.08 or abs(u[-1] - last[-1]) > 0.8)
    if not converged or trivial or moved > 1.0 or jumped:
        walker.tries += 1
        near = _near_critical(last[:nc], walker.volumes[-1], 3.0)
        # In the neighbourhood of the critical point a longer jump is the way out, elsewhere a shorter step.
        if near and walker.tries % 2 == 1 and walker.spec < nc:
            walker.step *= 1.5
        else:
            walker.step *= 0.4
        if walker.tries > 12:
            walker.reason = STUCK
        return
    crossed = _crossed(last, walker.volumes[-1], u, volume)
    walker.creeping = walker.creeping + 1 if np.abs(u - last).max() < 1e-4 else 0
    if walker.creeping > 4:
        walker.reason = STUCK
        return
    walker.points.append(u)
    walker.beta = beta
    walker.fractions.append(beta)
    walker.volumes.append(volume)
    walker.sides.append(-walker.sides[-1] if crossed else walker.sides[-1])
    direction = np.sign(walker.step)
    old = walker.spec
    new = fastest(slope, u, volume)
    # The step continues in the sense of travel, expressed in the new unknown.
    travel = direction * slope
    grow = {1: 2.0, 2: 2.0, 3: 1.5, 4: 1.1}.get(iterations, 0.6)
    base = abs(walker.step) * grow
    if slope[new] == 0.0:
        walker.reason = "the line has no direction"
        return
    walker.slopes.append(slope / slope[new])
    walker.step = float(np.sign(travel[new]) * base * abs(slope[new]) / max(abs(slope[old]), 1e-300))
    walker.spec = new
    walker.tries = 0
    T, P = np.exp(u[-2]), np.exp(u[-1])
    if crossed and stop:
        walker.reason = CRITICAL_POINT
    elif P > P_MAX:
        walker.reason = PRESSURE_LIMIT
    elif 0.98 * P_MIN > P and len(walker.points) > 4:
        walker.reason = LOW_PRESSURE
    elif T < T_MIN:
        walker.reason = LOW_TEMPERATURE
    elif len(walker.points) >= MAX_POINTS:
        walker.reason = "number of points"


def _crossed(u0: Array, volume0: float, u1: Array, volume1: float) -> bool:
    """Tell whether a critical point lies between two points: the phases change roles in volume and composition.

    At an azeotrope only the K values change sides; far up the pressure axis only the volumes may. A component whose K value is
    nearly one has no side, so the K values are taken together.
    """
    return bool(u0[:-2] @ u1[:-2] < 0.0 and volume0 * volume1 < 0.0)


def _jumps(walker: Walker, guess: Array) -> bool:
    """Tell whether a step is meant to land beyond the critical point."""
    last, spec = walker.points[-1], walker.spec
    near = _near_critical(last[:-2], walker.volumes[-1], 3.0)
    return bool(near and spec < last.size - 2 and last[spec] * guess[spec] < 0.0)


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
