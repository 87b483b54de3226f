"""Lines of three phases of a feed: the boundaries of its three-phase region, where one phase is about to be gone, and
lines of one vapour fraction of the whole that run through it.

A boundary is followed from a point both ways by the tangent, every point solved with all three phases
(:mod:`.three_points`). Where the share of another phase comes to nothing too, only one phase is left: that point is
solved for, and the boundary goes on with the other phase at nothing. At a critical end point, where two phases become
one, the line is jumped over it: the two have changed roles beyond. Phases stand in the order lightest, heaviest, middle,
since the middle one is what either other becomes one with. Lines of one vapour fraction begin where a boundary has that fraction and end where the next phase is
gone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .phases import Kind
from .three_points import compositions, solve

Array = NDArray[np.float64]

BESIDE = 0.03
"""Distance, in ln P and eight times ln T, within which a point counts as on a line."""
MOST_POINTS, MOST_LINES = 260, 12
T_RANGE, P_RANGE = (70.0, 720.0), (5e3, 2e8)
"""K and Pa, within which lines are followed."""
ALIKE, JUMP = 0.02, 0.15
"""max |ln K| of two phases that have become one, and from which on the point where they do is jumped over."""
WEIGHTS = (12.0, 1.5, 4.0)
"""Of ln T, ln P and shares beside ln K's, in the choice of what is specified next."""
BOUNDS = (0.025, 0.2, 0.08)
"""Of a step in ln T, ln P and shares."""


@dataclass(frozen=True)
class ThreeLine:
    """A line: the ``kinds`` of its three phases, which of them has a fixed ``share`` (``given``), its points as unknowns
    u (n, 2 nc + 4), and why each end ended: "corner" where only one phase is left, "critical", "range", "closed", "stuck"."""

    kinds: tuple[Kind, Kind, Kind]
    given: int
    share: float
    u: Array
    ends: tuple[str, str]

    @property
    def T(self) -> Array:
        """Temperatures, K (n,)."""
        return np.exp(self.u[:, -2])

    @property
    def P(self) -> Array:
        """Pressures, Pa (n,)."""
        return np.exp(self.u[:, -1])

    @property
    def gone(self) -> Kind:
        """The phase that is gone on a boundary."""
        return self.kinds[self.given]


def _alike(u: Array, nc: int) -> float:
    """Return the least max |ln K| of any two of the three phases of a point."""
    a, b = u[:nc], u[nc : 2 * nc]
    return float(min(np.abs(a).max(), np.abs(b).max(), np.abs(a - b).max()))


def _spec(slope: Array, u: Array, nc: int) -> int:
    """Return the unknown that is specified next: the fastest."""
    weight = np.empty(u.size)
    weight[: 2 * nc] = 1.0 / (0.3 + np.abs(u[: 2 * nc]))
    weight[2 * nc : 2 * nc + 2] = WEIGHTS[2]
    weight[-2:] = WEIGHTS[:2]
    return int(np.argmax(np.abs(slope) * weight))


def _longest(slope: Array, u: Array, nc: int) -> float:
    """Return the longest step along a slope."""
    bound = np.empty(u.size)
    bound[: 2 * nc] = 0.5 + 0.3 * np.abs(u[: 2 * nc])
    bound[2 * nc : 2 * nc + 2] = BOUNDS[2]
    bound[-2:] = BOUNDS[:2]
    return float((bound / np.maximum(np.abs(slope), 1e-12)).min())


def follow(
    eos: Equation, z: Array, start: Array, given: int, share: float, sign: float, watch: Watch = UNWATCHED
) -> tuple[list[Array], str, int]:
    """Return the points from ``start`` (2 nc + 4,) on, one way by ``sign``, why they end, and at a corner which other
    phase is gone there. A boundary goes on beyond a critical end point, a line of one fraction ends there. Raises
    Cancelled."""
    nc, m = z.size, start.size
    other = [k for k in range(3) if k != given]
    which, fixed = np.array([given]), np.array([share])
    points = [start]
    first = solve(eos, z, start[None], which, fixed, np.array([m - 2]), rounds=4)
    slope = first.slope[0] if np.isfinite(first.slope).all() else np.zeros(m)
    spec = _spec(slope, start, nc)
    if slope[spec] == 0.0:
        return points, "stuck", -1
    direction = slope / np.abs(slope[spec]) * sign
    step, tries = 0.5 * _longest(direction, start, nc), 0
    for _ in range(4 * MOST_POINTS):
        watch.check()
        here = points[-1]
        beyond = _over(eos, z, here, direction, given, share) if _alike(here, nc) < JUMP and share == 0.0 else None
        if beyond is not None:
            points.append(beyond[0])
            direction, step, tries = beyond[1], 0.5 * _longest(beyond[1], beyond[0], nc), 0
            continue
        step = min(step, _longest(direction, here, nc))
        guess = here + step * direction
        spec = int(np.argmax(np.abs(direction) * _weights(here, nc)))
        found = solve(eos, z, guess[None], which, fixed, np.array([spec]), most=0.4, rounds=8)
        new = found.u[0]
        moved = np.abs(new - guess)
        good = bool(found.converged[0]) and moved[: 2 * nc].max() < 1.0 and moved[-2] < 0.02 and moved[-1] < 0.3
        good = good and _alike(new, nc) > 0.3 * ALIKE
        if not good:
            tries += 1
            step *= 0.35
            if tries > 12 or step * np.abs(direction).max() < 1e-7:
                return points, "critical" if _alike(here, nc) < 12.0 * ALIKE else "stuck", -1
            continue
        tries = 0
        if share != 0.0 and any(here[o] @ new[o] < 0.0 for o in (slice(0, nc), slice(nc, 2 * nc))):
            return points, "critical", -1
        shares = compositions(new[None], z)[1][0]
        out = [k for k in other if shares[k] < 0.0]
        if out:
            corner = _corner(eos, z, here, new, given, share, min(out, key=lambda k: shares[k]))
            if corner is not None:
                return [*points, corner], "corner", min(out, key=lambda k: shares[k])
            return points, "stuck", -1
        slope = found.slope[0]
        spec = _spec(slope, new, nc)
        direction = slope / max(abs(slope[spec]), 1e-300) * (1.0 if (new - here) @ slope > 0.0 else -1.0)
        if abs((new - here) @ slope) == 0.0:
            return points, "stuck", -1
        points.append(new)
        if _alike(new, nc) < ALIKE:
            return points, "critical", -1
        T, P = np.exp(new[-2:])
        if not (T_RANGE[0] < T < T_RANGE[1] and P_RANGE[0] < P < P_RANGE[1]):
            return points, "range", -1
        if (
            len(points) > 8
            and np.abs((new - start)[-2:] * [8.0, 1.0]).max()
            < 0.5 * np.abs((points[1] - start)[-2:] * [8.0, 1.0]).max()
        ):
            return [*points, start], "closed", -1
        if len(points) > MOST_POINTS:
            return points, "range", -1
        step *= 1.6 if found.rounds[0] <= 3 else 1.0 if found.rounds[0] <= 5 else 0.6
    return points, "stuck", -1


def _over(
    eos: Equation, z: Array, here: Array, direction: Array, given: int, share: float
) -> tuple[Array, Array] | None:
    """Return the point on the other side of a critical end point that lies ahead, and the direction there; None where
    none lies ahead or the jump fails."""
    nc = z.size
    for pair in range(2):
        own = slice(pair * nc, (pair + 1) * nc)
        spec = pair * nc + int(np.argmax(np.abs(here[own])))
        value, rate = here[spec], direction[spec]
        if abs(value) > JUMP or value * rate >= 0.0:
            continue
        for reach in (1.8, 1.5, 2.2):
            guess = here - reach * value / rate * direction
            guess[own] = np.where(np.abs(here[own]) > 0.0, here[own] * (1.0 - reach), 0.0)
            found = solve(
                eos, z, guess[None], np.array([given]), np.array([share]), np.array([spec]), most=0.2, rounds=12
            )
            new = found.u[0]
            shares = compositions(new[None], z)[1][0]
            if (
                found.converged[0]
                and np.abs((new - here)[-2:]).max() < 0.1
                and (shares > -1e-9).all()
                and np.abs(new[own]).max() < 3.0 * JUMP
            ):
                ahead = _spec(found.slope[0], new, nc)
                unit = found.slope[0] / max(abs(found.slope[0][ahead]), 1e-300)
                return new, unit * (
                    1.0 if (new - here) @ found.slope[0] * np.sign(found.slope[0][ahead] / unit[ahead]) > 0.0 else -1.0
                )
    return None


def _weights(u: Array, nc: int) -> Array:
    weight = np.empty(u.size)
    weight[: 2 * nc] = 1.0 / (0.3 + np.abs(u[: 2 * nc]))
    weight[2 * nc : 2 * nc + 2] = WEIGHTS[2]
    weight[-2:] = WEIGHTS[:2]
    return weight


def _corner(eos: Equation, z: Array, here: Array, beyond: Array, given: int, share: float, gone: int) -> Array | None:
    """Return the point between two of a line where the share of a further phase is nothing."""
    nc = z.size
    ends = compositions(np.stack([here, beyond]), z)[1][:, gone]
    low, high, a, b = here, beyond, float(ends[0]), float(ends[1])
    which, fixed = np.array([given]), np.array([share])
    best = None
    for _ in range(12):
        t = a / (a - b) if a != b else 0.5
        guess = low + t * (high - low)
        spec = int(np.argmax(np.abs(high - low) * _weights(low, nc)))
        found = solve(eos, z, guess[None], which, fixed, np.array([spec]), rounds=8)
        if not found.converged[0]:
            return best
        u = found.u[0]
        now = float(compositions(u[None], z)[1][0, gone])
        best = u
        if abs(now) < 1e-11:
            break
        if now > 0.0:
            low, a = u, now
        else:
            high, b = u, now
    return best


def boundary(
    eos: Equation, z: Array, start: Array, kinds: tuple[Kind, Kind, Kind], given: int, watch: Watch = UNWATCHED
) -> list[ThreeLine]:
    """Return the boundaries of the three-phase region that hang together with a point ``start`` (2 nc + 4,) of one, each
    from end to end; at corners the next one begins. Raises Cancelled."""
    out: list[ThreeLine] = []
    waiting: list[tuple[Array, int, int]] = [(start, given, -1)]
    while waiting and len(out) < MOST_LINES:
        at, phase, grows = waiting.pop()
        if _known(out, at, phase):
            continue
        if grows >= 0:
            # From a corner there is one way: along which the phase that was gone before comes back.
            forth, end, gone = follow(eos, z, at, phase, 0.0, _inward(eos, z, at, phase, 0.0, grows), watch)
            back, begin, other = [at], "corner", -1
        else:
            forth, end, gone = follow(eos, z, at, phase, 0.0, 1.0, watch)
            back, begin, other = ([at], end, -1) if end == "closed" else follow(eos, z, at, phase, 0.0, -1.0, watch)
        u = np.array([*back[::-1], *forth[1:]])
        out.append(ThreeLine(kinds, phase, 0.0, u, (begin, end)))
        waiting += [(point, then, phase) for point, then in ((u[-1], gone), (u[0], other)) if then >= 0]
    return [line for line in out if len(line.u) > 1]


def _known(lines: Sequence[ThreeLine], at: Array, phase: int) -> bool:
    """Tell whether a corner is the end of a boundary that was followed already."""
    return any(
        line.given == phase and min(np.abs((line.u[k] - at)[-2:]).max() for k in (0, -1)) < 1e-6 for line in lines
    )


def of_fraction(
    eos: Equation, z: Array, seeds: Sequence[tuple[Array, tuple[Kind, Kind, Kind]]], fraction: float,
    watch: Watch = UNWATCHED,
) -> list[ThreeLine]:  # fmt: skip
    """Return the lines of z (nc,) of a vapour ``fraction`` of the whole, between 0 and 1, that three-phase states ``seeds`` near
    them lead to: each as unknowns with its kinds. Raises Cancelled."""
    out: list[ThreeLine] = []
    for seed, kinds in seeds:
        vapour = kinds.index(Kind.VAPOUR)
        if _passed(out, seed):
            continue
        found = solve(eos, z, seed[None], np.array([vapour]), np.array([fraction]), np.array([seed.size - 1]))
        start = found.u[0]
        if not found.converged[0] or (compositions(start[None], z)[1] < 0.0).any() or _passed(out, start):
            continue
        forth, end, _ = follow(eos, z, start, vapour, fraction, 1.0, watch)
        back, begin, _ = follow(eos, z, start, vapour, fraction, -1.0, watch)
        u = np.array([*back[::-1], *forth[1:]])
        if len(u) > 1:
            out.append(ThreeLine(kinds, vapour, fraction, u, (begin, end)))
    return out


def _passed(lines: Sequence[ThreeLine], at: Array) -> bool:
    """Tell whether a point lies beside a line already followed."""
    for line in lines:
        x, y = 8.0 * (line.u[:, -2] - at[-2]), line.u[:, -1] - at[-1]
        dx, dy = np.diff(x), np.diff(y)
        t = np.clip(-(x[:-1] * dx + y[:-1] * dy) / np.maximum(dx * dx + dy * dy, 1e-300), 0.0, 1.0)
        if np.hypot(x[:-1] + t * dx, y[:-1] + t * dy).min() < BESIDE:
            return True
    return False


def _inward(eos: Equation, z: Array, start: Array, vapour: int, fraction: float, gone: int) -> float:
    """Return the sign of the way along which the phase that is gone on the boundary comes back."""
    nc, m = z.size, start.size
    found = solve(eos, z, start[None], np.array([vapour]), np.array([fraction]), np.array([m - 2]), rounds=3)
    slope = found.slope[0]
    spec = _spec(slope, start, nc)
    unit = slope / abs(slope[spec])
    ahead = compositions((start + 1e-4 * unit)[None], z)[1][0, gone]
    return 1.0 if ahead > compositions(start[None], z)[1][0, gone] else -1.0
