"""Two-stream exchangers: duty curves, approaches, and the mean difference of temperatures over all of the duty.

Both streams are flashed at points of the duty, at pressures that fall evenly with it; points stand also where either
stream begins or ends to boil or condense. The mean difference is Q / sum(Q_i / LMTD_i) over the zones between them,
the weighted mean of Kern, *Process Heat Transfer* (1950), ch. 12; the logarithmic mean of the ends alone stands beside
it. UA is the duty over that mean."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import elementwise

from .medium import Medium, Stream
from .steps import Doing, Each, Outcome, Step, StepKind, nothing, per_mole, register

Array = NDArray[np.float64]

ZONES = 32
"""Even parts of the duty; points of phase change come between."""
ENDS = ("hot_temperature", "cold_temperature", "duty", "least_approach", "ua")


@dataclass(frozen=True)
class Curve:
    """Duty given over (N, n) W, from the hot outlet on (counter) or from the inlets (co), with the temperatures of
    both streams there, K; ``shares`` (N, n) of the duty, and how much of either stream is ``vapour`` (2, N, n)."""

    duty: Array
    hot: Array
    cold: Array
    shares: Array
    vapour: Array
    even: Array | None = None
    """Temperatures (2, N, m) K at even parts of the duty, to begin the next curve with."""

    @property
    def approach(self) -> Array:
        """Hot less cold (N, n) K."""
        return self.hot - self.cold


@dataclass(frozen=True)
class Pair:
    """The streams of an exchanger with their drops of pressure (N,) Pa, and how they run."""

    medium: Medium
    hot: Stream
    cold: Stream
    hot_drop: Array
    cold_drop: Array
    counter: bool

    def take(self, rows: NDArray[np.intp]) -> Pair:
        """Return the variants ``rows``."""
        return Pair(
            self.medium,
            _rows(self.hot, rows),
            _rows(self.cold, rows),
            self.hot_drop[rows],
            self.cold_drop[rows],
            self.counter,
        )

    def outlets(self, Q: Array) -> tuple[Stream, Stream]:
        """Return hot and cold outlet after a duty Q (N,) W."""
        return self.outlet("hot", Q), self.outlet("cold", Q)

    def outlet(self, side: str, Q: Array) -> Stream:
        """Return the outlet of a side after a duty Q (N,) W."""
        stream, drop = (self.hot, self.hot_drop) if side == "hot" else (self.cold, self.cold_drop)
        added = per_mole(Q, stream.flow) * (-1.0 if side == "hot" else 1.0)
        near = _after(stream, added)
        return self.medium.with_enthalpy(stream.P - drop, stream.h + added, stream.z, stream.flow, near)

    def curve(self, Q: Array, shares: Array, near: Array | None = None) -> Curve:
        """Return temperatures at ``shares`` (N, n) of a duty Q (N,); ``near`` (2, N, n) estimates of hot and cold."""
        # From the hot outlet on, the hot stream has given what is left to give.
        left = (1.0 - shares) if self.counter else shares
        sides = [self._side(self.hot, self.hot_drop, -Q, left), self._side(self.cold, self.cold_drop, Q, shares)]
        P, h, z, flow, start = (np.concatenate(v) for v in zip(*sides))
        found = self.medium.with_enthalpy(P, h, z, flow, start if near is None else near.ravel())
        T = found.T.reshape(2, *shares.shape)
        vapour = found.phases.vapour_fraction.reshape(2, *shares.shape)
        return Curve(Q[:, None] * shares, T[0], T[1], shares, vapour)

    def _side(self, stream: Stream, drop: Array, Q: Array, share: Array) -> tuple[Array, ...]:
        m = share.shape[1]
        P = (stream.P[:, None] - drop[:, None] * share).ravel()
        per = per_mole(Q, stream.flow)[:, None] * share
        start = _after(_columns(stream), per)
        h = (stream.h[:, None] + per).ravel()
        return P, h, np.repeat(stream.z, m, axis=0), np.repeat(stream.flow, m), start.ravel()

    def most(self) -> Array:
        """Return the duty (N,) W after which one stream would leave at the other's inlet temperature."""
        hot = self.medium.at(self.cold.T, self.hot.P - self.hot_drop, self.hot.z, self.hot.flow)
        cold = self.medium.at(self.hot.T, self.cold.P - self.cold_drop, self.cold.z, self.cold.flow)
        return np.asarray(np.minimum((self.hot.h - hot.h) * self.hot.flow, (cold.h - self.cold.h) * self.cold.flow))

    def changes(self, curve: Curve) -> Array:
        """Return shares (N, k) of the duty where a stream begins or ends to boil or condense; nan where it does not.

        Between two points of which one holds vapour and liquid and the other does not, by the enthalpy of the bubble
        or dew point at the pressure there; what does not lie between them is left to the even zones."""
        Q, found = curve.duty[:, -1], []
        sides = (self.hot, self.hot_drop, -1.0), (self.cold, self.cold_drop, 1.0)
        for (stream, drop, sign), vapour in zip(sides, curve.vapour):
            turned = self.counter and sign < 0.0
            for beta in (0.0, 1.0):
                inner = np.abs(vapour - beta) > 1e-12
                row, at = np.nonzero(inner[:, :-1] != inner[:, 1:])
                own = np.full(curve.duty.shape, np.nan)
                if row.size:
                    low, high = curve.shares[row, at], curve.shares[row, at + 1]
                    gone = 0.5 * (low + high)
                    gone = 1.0 - gone if turned else gone
                    for _ in range(2):
                        there = self.medium.boiling(
                            stream.P[row] - drop[row] * gone, beta, stream.z[row], stream.flow[row]
                        )
                        with np.errstate(invalid="ignore", divide="ignore"):
                            gone = (there.h - stream.h[row]) * stream.flow[row] / (sign * Q[row])
                        gone = np.where(np.isfinite(gone), np.clip(gone, 0.0, 1.0), 0.5)
                    place = 1.0 - gone if turned else gone
                    good = there.phases.converged & (place > low) & (place < high)
                    own[row[good], at[good]] = place[good]
                found.append(own)
        every = np.sort(np.concatenate(found, axis=1), axis=1)
        return every[:, : int(np.isfinite(every).sum(axis=1).max(initial=0))]


def _rows(stream: Stream, rows: NDArray[np.intp]) -> Stream:
    return Stream(stream.flow[rows], stream.phases.take(rows), {k: v[rows] for k, v in stream.whole.items()})


@dataclass(frozen=True)
class _columns:
    """A stream's temperature and heat capacity as columns."""

    stream: Stream

    @property
    def T(self) -> Array:
        return self.stream.T[:, None]

    @property
    def whole(self) -> dict[str, Array]:
        return {k: v[:, None] for k, v in self.stream.whole.items()}


def _after(stream: Stream | _columns, added: Array) -> Array:
    """Return the temperature after heat is ``added`` J/mol, by the heat capacity at the inlet."""
    cp = stream.whole["heat_capacity_p"]
    with np.errstate(invalid="ignore"):
        moved = np.where(np.isfinite(cp) & (cp > 0.0), added / np.where(cp > 0.0, cp, 1.0), 0.0)
    return np.asarray(np.clip(stream.T + moved, 0.6 * stream.T, 1.6 * stream.T))


def log_mean(a: Array, b: Array) -> Array:
    """Return the logarithmic mean (...) of differences a and b (...), K; the arithmetic one where they are alike, nan where one is
    not above zero."""
    good = (a > 0.0) & (b > 0.0)
    a, b = np.where(good, a, 1.0), np.where(good, b, 1.0)
    x = np.log(a / b)
    near = np.abs(x) < 1e-3
    # (a - b)/ln(a/b) = b (e^x - 1)/x; near x = 0 by its series.
    ratio = np.where(near, 1.0 + x * (0.5 + x * (1.0 / 6.0 + x / 24.0)), np.expm1(x) / np.where(near, 1.0, x))
    return np.asarray(np.where(good, b * ratio, np.nan))


def mean_difference(curve: Curve) -> Array:
    """Return Q / sum(Q_i / LMTD_i) over the zones of a curve (N,) K, nan where it crosses."""
    part = np.diff(curve.duty, axis=1)
    mean = log_mean(curve.approach[:, :-1], curve.approach[:, 1:])
    with np.errstate(divide="ignore", invalid="ignore"):
        total = np.where(part > 0.0, part / mean, 0.0).sum(axis=1)
        return np.asarray(np.where(total > 0.0, curve.duty[:, -1] / total, curve.approach[:, 0]))


def full_curve(pair: Pair, Q: Array, near: Curve | None = None) -> Curve:
    """Return the curve of a duty Q (N,) with points where phases change; ``near`` is one of a duty beside it."""
    start = near.even if near is not None else None
    even = pair.curve(Q, np.tile(np.linspace(0.0, 1.0, ZONES + 1), (Q.size, 1)), start)
    T = np.stack([even.hot, even.cold])
    extra = pair.changes(even)
    if not extra.shape[1]:
        return replace(even, even=T)
    # A point that is not there is put on the first, where a zone of nothing adds nothing.
    extra = np.where(np.isfinite(extra), extra, 0.0)
    between = [[np.interp(x, s, t) for x, s, t in zip(extra, even.shares, side)] for side in T]
    more = pair.curve(Q, extra, np.array(between))
    order = np.argsort(np.concatenate([even.shares, more.shares], axis=1), axis=1, kind="stable")

    def joined(a: Array, b: Array) -> Array:
        return np.take_along_axis(np.concatenate([a, b], axis=-1), order if a.ndim == 2 else order[None], axis=-1)

    duty, hot, cold, shares, vapour = (
        joined(getattr(even, k), getattr(more, k)) for k in ("duty", "hot", "cold", "shares", "vapour")
    )
    return Curve(duty, hot, cold, shares, vapour, T)


def _misses(key: str, target: Array, curve: Curve) -> Array:
    """Return how far a duty is from what is asked of it (N,): the least approach in kelvin, or UA0/UA - 1, both
    falling with the duty."""
    least = curve.approach.min(axis=1)
    if key == "least_approach":
        return np.asarray(least - target)
    mean = mean_difference(curve)
    # Beyond a crossing there is no UA: the deeper the crossing, the further off.
    ua = target * mean / np.maximum(curve.duty[:, -1], 1e-300) - 1.0
    return np.asarray(np.where(np.isfinite(mean), ua, -1.0 + np.minimum(least, 0.0)))


def _wanted(step: Step, pair: Pair) -> tuple[str, Array]:
    key = "least_approach" if "least_approach" in step.numbers else "ua"
    return key, step.number(key) * np.ones_like(pair.hot.T)


def duty_of(step: Step, pair: Pair, doing: Doing) -> Array:
    """Return the duty (N,) W with which an exchanger has its least approach, or its UA."""
    key, target = _wanted(step, pair)
    apart = pair.hot.T - pair.cold.T
    need = target if key == "least_approach" else np.zeros_like(target)
    doing.refuse(
        apart <= need, "process.exchanger_inlets", step=step.name, hot=Each(pair.hot.T, "temperature", 1),
        cold=Each(pair.cold.T, "temperature", 1), least=Each(need, "temperature_difference", 1),
    )  # fmt: skip
    Q = np.zeros_like(target)
    rows = np.flatnonzero((apart > need) & (pair.hot.flow > 0.0) & (pair.cold.flow > 0.0) & (target > 0.0))
    if rows.size:
        Q[rows] = _solved(key, target[rows], pair.take(rows), doing)
    return Q


def _solved(key: str, target: Array, pair: Pair, doing: Doing) -> Array:
    """Return the duty (N,) where nothing is missed: first read off one curve over all that could be exchanged, then
    brought in by secants, and where these fail by Chandrupatla's method on the curves themselves."""
    most = pair.most()
    table = pair.curve(most, np.tile(np.linspace(0.0, 1.0, ZONES + 1), (most.size, 1)))
    rows = np.arange(most.size, dtype=float)
    even = np.linspace(0.0, 1.0, ZONES + 1)

    def read_off(Q: Array, at: Array) -> Array:
        i = at.astype(np.intp)
        given = Q[:, None] * even
        # The curve of all is told from the cold inlet on; the hot stream's part of it begins at its inlet.
        back = most[i][:, None] - (Q[:, None] - given) if pair.counter else given
        hot = np.stack([np.interp(b, table.duty[k], table.hot[k]) for b, k in zip(back, i)])
        cold = np.stack([np.interp(g, table.duty[k], table.cold[k]) for g, k in zip(given, i)])
        return _misses(key, target[i], Curve(given, hot, cold, given, np.zeros((2, *given.shape))))

    def exact(Q: Array, at: Array) -> Array:
        doing.watch.check()
        i = at.astype(np.intp)
        return _misses(key, target[i], full_curve(pair.take(i), Q))

    start = elementwise.find_root(read_off, (1e-9 * most, most), args=(rows,), maxiter=60)
    Q = np.where(start.success & np.isfinite(start.x), start.x, 0.9 * most)
    Q, done = _secants(key, target, pair, Q, 8)
    left = np.flatnonzero(~done | (most * (1.0 + 1e-9) < Q))
    if left.size:
        found = elementwise.find_root(
            exact, (1e-9 * most[left], most[left]), args=(rows[left],),
            tolerances={"xatol": 0.0, "xrtol": 1e-13, "fatol": 1e-10, "frtol": 0.0}, maxiter=60,
        )  # fmt: skip
        Q[left] = np.where(found.success, found.x, most[left])
    return Q


def _secants(key: str, target: Array, pair: Pair, Q: Array, rounds: int) -> tuple[Array, NDArray[np.bool_]]:
    """Return duties (N,) after some secant steps, the first through a point beside Q, and whether nothing is missed
    any more."""
    curve = full_curve(pair, Q)
    now = _misses(key, target, curve)
    if (np.abs(now) < 1e-9).all():
        return Q, np.ones(Q.shape, dtype=bool)
    before = Q * (1.0 - 1e-4)
    f_before = _misses(key, target, full_curve(pair, before, curve))
    for number in range(rounds):
        with np.errstate(divide="ignore", invalid="ignore"):
            move = -now / ((now - f_before) / (Q - before))
        still = (np.abs(now) < 1e-9) | ~np.isfinite(move)
        before, f_before = Q, now
        Q = Q + np.where(still, 0.0, np.clip(move, -0.3 * Q, 0.3 * Q))
        if still.all() or number == rounds - 1:
            break
        curve = full_curve(pair, Q, curve)
        now = _misses(key, target, curve)
    return Q, np.abs(now) < 1e-9


def duty_towards(step: Step, pair: Pair, Q: Array, doing: Doing) -> Array:
    """Return a duty nearer to what is asked than Q (N,) by one secant step, for loops that come back to it."""
    if not (Q > 0.0).all():
        return duty_of(step, pair, doing)
    moved = _secants(*_wanted(step, pair), pair, Q, 1)[0]
    return moved if np.isfinite(moved).all() else duty_of(step, pair, doing)


def side_duty(side: str, step: Step, stream: Stream, doing: Doing) -> tuple[Stream, Array]:
    """Return the outlet of the side whose outlet temperature is given, and the duty (N,) W."""
    drop = step.number(f"{side}_pressure_drop")
    P = stream.P - drop
    T = step.number(f"{side}_temperature") * np.ones_like(P)
    out = doing.sound(step, doing.medium.at(T, P, stream.z, stream.flow, doing.watch), stream)
    sign = -1.0 if side == "hot" else 1.0
    Q = sign * (out.h - stream.h) * stream.flow
    code = f"process.exchanger_{side}_wrong"
    doing.refuse(
        -1e-9 * 8.3 * stream.T * stream.flow > Q,
        code,
        step=step.name,
        T=Each(T, "temperature", 1),
        inlet=Each(stream.T, "temperature", 1),
    )
    return out, Q


def pair_of(step: Step, hot: Stream, cold: Stream, doing: Doing) -> Pair:
    """Return the streams of an exchanger's step. Raises StepFault for drops that leave no pressure."""
    drops = {}
    for side, stream in (("hot", hot), ("cold", cold)):
        drop = step.number(f"{side}_pressure_drop") * np.ones_like(stream.P)
        doing.refuse(
            drop >= stream.P,
            "process.drop",
            step=step.name,
            drop=Each(drop, "pressure_difference"),
            P=Each(stream.P, "pressure"),
        )
        drops[side] = np.minimum(drop, 0.5 * stream.P)
    return Pair(
        doing.medium, hot, cold, drops["hot"], drops["cold"], step.words.get("arrangement", "counter") == "counter"
    )


def report(step: Step, pair: Pair, Q: Array, doing: Doing) -> Outcome:
    """Return what is told of an exchanger of duty Q (N,) W, its outlets the streams. Raises StepFault where
    temperatures cross."""
    curve = full_curve(pair, Q)
    at = np.argmin(curve.approach, axis=1)
    row = np.arange(Q.size)
    least = curve.approach[row, at]
    flowing = (pair.hot.flow > 0.0) & (pair.cold.flow > 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        place = np.where(Q > 0.0, curve.duty[row, at] / Q, 0.0)
    doing.refuse(
        flowing & (least <= 0.0), "process.crossing", step=step.name, by=Each(-least, "temperature_difference", 1),
        share=Each(100.0 * place, ""), hot=Each(curve.hot[row, at], "temperature", 1), cold=Each(curve.cold[row, at], "temperature", 1),
    )  # fmt: skip
    mean = mean_difference(curve)
    hot, cold = pair.outlets(Q)
    with np.errstate(divide="ignore", invalid="ignore"):
        ua = np.where(mean > 0.0, Q / mean, np.nan)
    numbers = {
        "duty_W": Q, "lmtd_K": log_mean(curve.approach[:, 0], curve.approach[:, -1]), "mean_difference_K": mean, "ua_W_K": ua,
        "least_approach_K": least, "least_approach_share": place, "hot_outlet_K": hot.T, "cold_outlet_K": cold.T,
    }  # fmt: skip
    series = {"curve.duty_W": curve.duty, "curve.hot_K": curve.hot, "curve.cold_K": curve.cold}
    return Outcome(
        (doing.sound(step, hot, pair.hot), doing.sound(step, cold, pair.cold)),
        nothing(hot),
        nothing(hot),
        numbers,
        series,
    )


def run(step: Step, inlets: Sequence[Stream], doing: Doing) -> Outcome:
    """Do an exchanger's step as a whole; takes are hot and cold."""
    pair = pair_of(step, inlets[0], inlets[1], doing)
    for side, stream in (("hot", pair.hot), ("cold", pair.cold)):
        if f"{side}_temperature" in step.numbers:
            return report(step, pair, side_duty(side, step, stream, doing)[1], doing)
    if "duty" in step.numbers:
        return report(step, pair, np.abs(step.number("duty")) * np.ones_like(pair.hot.T), doing)
    return report(step, pair, duty_of(step, pair, doing), doing)


register(
    StepKind(
        "exchanger", "passes heat from a hot stream to a cold one", run, ENDS, ("hot_pressure_drop", "cold_pressure_drop"),
        {"arrangement": ("counter", "co")}, takes="a hot and a cold stream", gives="both, cooled and heated",
    )
)  # fmt: skip
