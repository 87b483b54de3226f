"""Phase stability by the tangent plane distance, batched over states.

Michelsen, "The isothermal flash problem. Part I. Stability", Fluid Phase Equilib. 9, 1 (1982). Each trial
composition is followed downhill on the modified distance

    tm(W) = 1 + sum_i W_i (ln W_i + ln phi_i(W) - d_i - 1),   d_i = ln z_i + ln phi_i(z)

first by successive substitution, accelerated, then by Newton steps in alpha_i = 2 sqrt(W_i). Any
point with tm < 0 proves that the feed splits.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation, PreparedStates
from ..eos.equation import Rows
from ..watch import UNWATCHED, Watch
from .linear import accelerate, damped_step, descent_step
from .wilson import wilson_ln_k

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

SUBSTITUTIONS = 20
NEWTON_STEPS = 40
DAMPED = 10
"""Newton steps that go downhill by damping; what needs more may sit at a saddle, which eigenvalues lead away from."""
LN_W = (-690.0, 300.0)
"""Bounds of a trial's ln mole numbers; far out of them lies nothing but overflow."""

FEW = 8
"""States up to this number whose trials are all followed at once."""

SLOW = 0.7
"""Ratio of successive steps above which a trial nears its end slowly."""

SHRINKING = 0.5**2
"""Ratio of the squares of successive steps below which, twice in turn, a trial is coming in."""

FAR = 50.0
"""Distance, over the square of a step that is coming in, beyond which the rest of the way cannot lead below zero."""

PURE, LEAST = 5, 2
"""Nearly pure trials of a state: at most and in any case."""

WORTH = -2.0
"""ln of the activity of a component, on the pure liquid, from which on a trial of it is worth a try."""

ROUGH_PURE = 1e-7
"""ln of an activity above which a pure phase is proof: far above the round-off of an equation's roots."""

FAVOUR = 2.0
"""What is unlike the others counts as nearer to being a phase of its own by this much of ln activity."""

UNSTABLE = -1e-13
"""Below this modified distance a feed is unstable; the round-off of the sum is a few 1e-16."""


@dataclass(frozen=True)
class StabilityResult:
    """What a stability test found, for N states.

    ``unstable`` (N,); ``tm`` (N,) the lowest modified distance met; ``W`` (N, nc) the composition there
    (mole numbers, not normalised); ``converged`` (N,) false where a trial neither proved instability nor
    reached a stationary point; ``iterations`` (N,).
    """

    unstable: Mask
    tm: Array
    W: Array
    converged: Mask
    iterations: NDArray[np.int64]


def log_safe(z: Array) -> Array:
    """Return ln z with a floor for absent components, so that their share stays negligible."""
    return np.asarray(np.log(np.maximum(z, 1e-300)))


def _distance(W: Array, gradient: Array) -> Array:
    return np.asarray(1.0 + np.vecdot(W, gradient - 1.0))


@dataclass(frozen=True)
class KnownPhase:
    """A phase that is in equilibrium with the feed already, of N states: ``x`` (N, nc) and ``Z`` (N,), nan where there is none."""

    x: Array
    Z: Array

    def take(self, rows: Rows) -> KnownPhase:
        """Return that of the states ``rows``."""
        return KnownPhase(self.x[rows], self.Z[rows])

    def near(self, W: Array, Z: Array) -> Mask:
        """Tell which trials W (N, nc) of compressibility factor Z (N,) have all but come to it, (N,)."""
        off = W - self.x
        return np.asarray((np.vecdot(off, off) < ARRIVED**2) & (np.abs(Z - self.Z) < 0.01 * self.Z))


ARRIVED = 1e-3
"""Distance in mole fractions at which a trial has come to a phase that is known."""

BLOCK = 1000
"""Trials followed together by substitution: their working arrays stay in the processor's cache."""

NEWTON_BLOCK = 500
"""Trials followed together by Newton's method, whose matrices take nc times as much."""


@dataclass
class _Ends:
    """Where M trials ended: tm (M,), W (M, nc), whether that is an end (M,), and iterations (M,)."""

    tm: Array
    W: Array
    done: Mask
    steps: NDArray[np.int64]


def _follow(
    state: PreparedStates,
    z: Array,
    d: Array,
    origin: NDArray[np.intp],
    ln_w: Array,
    known: list[KnownPhase],
    watch: Watch,
) -> _Ends:
    """Follow M trials ``ln_w`` (M, nc) downhill, each of the state number ``origin`` (M,) of ``state``, z and d (N, nc).

    The descent ends early where tm falls clearly below zero. A trial that returns to the feed counts as
    converged with tm = 0. So does one that comes to a ``known`` phase.
    """
    m = origin.size
    W = np.exp(np.clip(ln_w, *LN_W))
    ends = _Ends(np.zeros(m), W, np.zeros(m, dtype=bool), np.zeros(m, dtype=np.int64))
    for i in range(0, m, BLOCK):
        at = origin[i : i + BLOCK]
        _substitute(state.take(at), z[at], d[at], ln_w[i : i + BLOCK], [end.take(at) for end in known], ends, i, watch)
    left = np.flatnonzero(~ends.done)
    for i in range(0, left.size, NEWTON_BLOCK):
        rows = left[i : i + NEWTON_BLOCK]
        at = origin[rows]
        tm, W, ok, extra = _newton(state.take(at), z[at], d[at], ends.W[rows], watch)
        ends.tm[rows], ends.W[rows], ends.done[rows] = tm, W, ok
        ends.steps[rows] += extra
    return ends


def _substitute(
    state: PreparedStates,
    z: Array,
    d: Array,
    ln_w: Array,
    known: list[KnownPhase],
    ends: _Ends,
    first: int,
    watch: Watch,
) -> None:
    """Follow a block of trials, rows ``first`` on of ``ends``, by accelerated substitution; what ends is entered there."""
    live = np.arange(first, first + len(ln_w))
    ln_w = np.clip(ln_w, *LN_W)
    present = None if (z > 0.0).all() else z > 0.0
    last: tuple[Array, Array] | None = None
    before: Array | None = None
    shrank = np.zeros(len(ln_w), dtype=bool)
    for _ in range(SUBSTITUTIONS):
        watch.check()
        W = np.exp(ln_w)
        ln_phi, Z = state.ln_phi(W / W.sum(axis=-1, keepdims=True))
        new = np.clip(d - ln_phi, *LN_W)
        step = new - ln_w
        if present is not None:
            step *= present
        tm = 1.0 - np.vecdot(W, step + 1.0)
        diff = W - z
        ends.steps[live] += 1
        # Along a path to the trivial solution tm tends to half of beta (Michelsen 1982, eq. 33).
        beta = -np.vecdot(diff, step)
        # A slow return is the mark of a nearby critical point, where another minimum may hide: Newton decides.
        pace = np.vecdot(step, step)
        trivial = (tm > 0.0) & (tm < 1e-3) & (np.abs(2.0 * tm - beta) < 0.2 * np.abs(beta))
        trivial &= pace < SLOW * SLOW * (pace if before is None else before)
        if trivial.any():
            trivial &= np.abs(diff).max(axis=-1) < 0.02
        # Where the steps keep shrinking, and what they can still gain is far less than the distance, that stays positive.
        shrinking = np.zeros(live.size, dtype=bool) if before is None else pace < SHRINKING * before
        settled = shrinking & shrank & (tm > FAR * np.vecdot(W * step, step))
        for end in known:
            settled |= end.near(W, Z)
        # A tiny negative distance next to the feed may be the round-off of the trivial solution.
        stop = (tm < -1e-4) | trivial | settled | (pace < 1e-20)
        if stop.any():
            rows = live[stop]
            ends.done[rows] = True
            ends.tm[rows] = np.where(trivial[stop], 0.0, tm[stop])
            ends.W[rows] = W[stop]
            keep = ~stop
            if not keep.any():
                return
            live, new, step, pace, shrinking = live[keep], new[keep], step[keep], pace[keep], shrinking[keep]
            state, d, z = state.take(keep), d[keep], z[keep]
            present = None if present is None else present[keep]
            ln_w, W = ln_w[keep], W[keep]
            last = None if last is None else (last[0][keep], last[1][keep])
            known = [end.take(keep) for end in known]
        if last is not None:
            new = np.clip(new + accelerate(ln_w, step, last, W), *LN_W)
        last, ln_w = (ln_w, step), new
        before, shrank = pace, shrinking
    ends.W[live] = np.exp(ln_w)


def _newton(
    state: PreparedStates, z: Array, d: Array, W: Array, watch: Watch
) -> tuple[Array, Array, Mask, NDArray[np.int64]]:
    """Minimise tm by Newton steps in alpha = 2 sqrt(W) with a line search; return tm (N,), W (N, nc), whether done, iterations."""
    n, nc = z.shape
    out_tm, out_w = np.zeros(n), W.copy()
    done = np.zeros(n, dtype=bool)
    steps = np.zeros(n, dtype=np.int64)
    live = np.arange(n)
    eye = np.arange(nc)
    shift = np.zeros(n)
    for number in range(NEWTON_STEPS):
        watch.check()
        total = W.sum(axis=-1)
        phase = state.derivatives(W / total[:, None])
        g = log_safe(W) + phase.ln_phi - d
        tm = _distance(W, g)
        root_w = np.sqrt(W)
        gradient = root_w * g
        size = np.abs(gradient).max(axis=-1)
        steps[live] += 1
        stop = (size < 1e-10) | (tm < -1e-4)
        # At the feed itself the distance is zero: nothing was found in this basin.
        stop |= (np.abs(W - z).max(axis=-1) < 1e-7) & (size < 1e-7)
        if stop.any():
            rows = live[stop]
            done[rows], out_tm[rows], out_w[rows] = True, tm[stop], W[stop]
            keep = ~stop
            if not keep.any():
                return out_tm, out_w, done, steps
            live, W, d, z, shift = live[keep], W[keep], d[keep], z[keep], shift[keep]
            state, tm, g, root_w, gradient = state.take(keep), tm[keep], g[keep], root_w[keep], gradient[keep]
            total = total[keep]
            dn = phase.dln_phi_dn[keep]
        else:
            dn = phase.dln_phi_dn
        hessian = root_w[:, :, None] * dn * root_w[:, None, :] / total[:, None, None]
        hessian[:, eye, eye] += 1.0 + 0.5 * np.maximum(g, -1.0) + shift[:, None]
        step = (damped_step if number < DAMPED else descent_step)(hessian, gradient)
        reach = np.abs(step).max(axis=-1)
        step *= np.minimum(1.0, 0.5 / np.maximum(reach, 1e-30))[:, None]
        alpha = 2.0 * root_w
        scale = np.ones(live.size)
        W = 0.25 * (alpha + step) ** 2
        for _ in range(8):
            ln_phi, _ = state.ln_phi(W / W.sum(axis=-1)[:, None])
            worse = _distance(W, log_safe(W) + ln_phi - d) > tm + 1e-14
            if not worse.any():
                break
            scale[worse] *= 0.4
            W = 0.25 * (alpha + scale[:, None] * step) ** 2
        # A step that had to be cut says the model is off: lean towards steepest descent next time.
        shift = np.where(scale < 0.3, np.maximum(2.0 * shift, 0.1), 0.3 * shift)
    out_w[live] = W
    out_tm[live] = tm
    return out_tm, out_w, done, steps


def wilson_trials(eos: Equation, z: Array, T: Array, P: Array) -> list[Array]:
    """Return ln W of the vapour and the liquid by Wilson's ratios, each (N, nc)."""
    ln_z = log_safe(z)
    ln_k = wilson_ln_k(eos.Tc, eos.Pc, eos.omega, T, P)
    return [ln_z + ln_k, ln_z - ln_k]


def further_trials(eos: Equation, activity: Array, z: Array, T: Array, P: Array, d: Array) -> list[tuple[Array, Mask]]:
    """Return ln W (N, nc) of further trial phases, each with the states (N,) that it is worth a try for; ``activity`` (N, nc) is ln of the components'
    activities on the pure liquids.

    Nearly pure phases of the components that are nearest to being one of their own, whatever the equation makes of them, and of those unlike the others; the
    liquid without what is unlike; and the ideal gas. They find second liquids, water and what comes out in the cold.
    """
    n, nc = z.shape
    everywhere = np.ones(n, dtype=bool)
    distinct = _distinct_species(eos)
    near = activity.copy()
    near[:, distinct] += FAVOUR
    order = np.argsort(-near, axis=1)[:, : min(PURE, nc)]
    each = np.arange(n)
    trials: list[tuple[Array, Mask]] = []

    def nearly(index: NDArray[np.intp], rest: float) -> Array:
        pure = np.full(z.shape, np.log(rest / max(nc - 1, 1)))
        pure[each, index] = np.log(1.0 - rest)
        return np.where(z > 0.0, pure, -690.0)

    for rank in range(order.shape[1]):
        index = order[:, rank]
        worth = (near[each, index] > WORTH) if rank >= LEAST else np.isfinite(near[each, index])
        trials.append((nearly(index, 0.02), worth))
    if distinct and len(distinct) < nc:
        # What is unlike the others may be a phase that holds more of them.
        unlike = np.array(distinct)[np.argmax(near[:, distinct], axis=1)]
        trials.append((nearly(unlike, 0.1), near[each, unlike] > FAVOUR - 1.0))
        # Water boils higher than the oil it is with, and has its share of Wilson's liquid: the oil alone leads to the liquid without it.
        Tc = eos.Tc if eos.Tc.ndim == 1 else eos.Tc[0]
        if int(np.argmax(Tc)) in distinct:
            oil = log_safe(z) - wilson_ln_k(eos.Tc, eos.Pc, eos.omega, T, P)
            oil[:, distinct] = LN_W[0]
            trials.append((oil, everywhere))
    # The ideal gas in equilibrium with the feed: the natural vapour where Wilson's ratios are far off.
    trials.append((np.clip(d, -690.0, 5.0), everywhere))
    return trials


def _distinct_species(eos: Equation) -> list[int]:
    """Return the components with a large interaction parameter to many others (CO2, H2S, water, ...)."""
    if eos.nc < 3:
        return list(range(eos.nc))
    return [int(i) for i in np.flatnonzero(eos.unlikeness() > 0.06)][:5]


def stability(
    eos: Equation,
    T: Array,
    P: Array,
    z: Array,
    state: PreparedStates | None = None,
    every_trial: bool = False,
    watch: Watch = UNWATCHED,
    below: float = UNSTABLE,
    known: Sequence[KnownPhase] = (),
    d: Array | None = None,
) -> StabilityResult:
    """Test N feeds z (N, nc) at T (N,) K and P (N,) Pa; see :class:`StabilityResult`. ``d`` (N, nc) is ln z + ln phi(z) where that is known better
    than from z.

    States found unstable by one trial, to a distance ``below``, skip the following ones, unless ``every_trial``; then the lowest
    distance of all is kept. A phase of a split needs a lower one than a feed: trials come back to the other phase.
    """
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        return _all_trials(eos, T, P, z, state, every_trial, watch, below, list(known), d)


def _all_trials(
    eos: Equation,
    T: Array,
    P: Array,
    z: Array,
    state: PreparedStates | None,
    every_trial: bool,
    watch: Watch,
    below: float,
    known: list[KnownPhase],
    d: Array | None,
) -> StabilityResult:
    n = z.shape[0]
    state = eos.prepare(T, P) if state is None else state
    d = log_safe(z) + state.ln_phi(z)[0] if d is None else d
    best_tm, best_w = np.zeros(n), z.copy()
    converged = np.ones(n, dtype=bool)
    steps = np.zeros(n, dtype=np.int64)
    live = np.arange(n)
    # The first two prove most; the others go together, since a call costs the same for few as for many. So do all of a few states.
    together = every_trial or n <= FEW
    stages = (("wilson", "further"),) if together else (("wilson",), ("further",))
    for number, stage in enumerate(stages):
        watch.at(number / len(stages))
        if live.size == 0:
            break
        every = live.size == n
        part, now = (eos, state) if every else (eos.take(live), state.take(live))
        Tl, Pl, zl, dl = (T, P, z, d) if every else (T[live], P[live], z[live], d[live])
        group: list[tuple[Array, Mask]] = []
        if "wilson" in stage:
            group += [(w, np.ones(live.size, dtype=bool)) for w in wilson_trials(part, zl, Tl, Pl)]
        if "further" in stage:
            activity = np.where(zl > 0.0, dl - now.pure_ln_phi(), -np.inf)
            group += further_trials(part, activity, zl, Tl, Pl, dl)
            # What is more active than pure is a phase of its own, whatever trials near it lead to.
            most = np.argmax(activity, axis=1)
            over = np.clip(activity[np.arange(live.size), most], None, LN_W[1])
            proved = over > ROUGH_PURE
            tm_pure = np.where(proved, 1.0 - np.exp(over), 0.0)
            lower = proved & (tm_pure < best_tm[live])
            best_tm[live[lower]] = tm_pure[lower]
            best_w[live[lower]] = np.where(
                np.arange(z.shape[1]) == most[lower, None], np.exp(over[lower])[:, None], 0.0
            )
        rows = [live[worth] for _, worth in group]
        ends = _follow(
            state, z, d, np.concatenate(rows), np.concatenate([w[worth] for w, worth in group]), known, watch
        )  # fmt: skip
        tm = np.where(np.isfinite(ends.tm), ends.tm, np.inf)
        first = 0
        for mine in rows:
            here = slice(first, first + mine.size)
            first += mine.size
            steps[mine] += ends.steps[here]
            lower = tm[here] < best_tm[mine]
            best_tm[mine[lower]], best_w[mine[lower]] = tm[here][lower], ends.W[here][lower]
            converged[mine] &= ends.done[here] | (tm[here] < UNSTABLE)
        live = live[best_tm[live] >= below]
    watch.at(1.0)
    unstable = best_tm < UNSTABLE
    return StabilityResult(unstable, best_tm, best_w, converged | unstable, steps)
