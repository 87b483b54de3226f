"""Two-phase flash at given temperature and pressure, batched over states.

Accelerated substitution brings most states near the answer; Newton's method on the Gibbs
energy (Michelsen, Fluid Phase Equilib. 9, 21, 1982; Michelsen and Mollerup 2007, ch. 10) finishes, and is
what converges near critical points. A stability test decides wherever substitution does not itself prove a
split.
"""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos import Equation, PreparedStates, is_liquid
from ..eos.equation import Rows
from ..errors import DomainError
from ..watch import UNWATCHED, Watch
from .linear import accelerate, descent_step
from .naming import named
from .phases import Kind, Phases, Reason, two_places
from .rachford_rice import SETTLED, solve_fraction
from .stability import log_safe, stability
from .wilson import wilson_ln_k

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

CHUNK = 20_000
"""States solved together; what bounds the memory of a large batch."""

PROBE_STEPS = 3
SUBSTITUTIONS = (10, 15)
"""Substitutions in each of two rounds: of everything, and of what was not solved by then."""

NEAR_SUBSTITUTIONS = 5
"""The same of states that begin near their answer."""

BLOCK = 1000
"""States taken through substitution together: their working arrays stay in the processor's cache."""

NEWTON_BLOCK = 500
"""States taken through Newton's method together, whose matrices take nc times as much."""

FEW = 64
"""States up to which Newton's method comes after the first round: of so few its matrices cost no more than a substitution."""

ROUGH = 1e-4
"""Step of the fraction, relative to its way, that will do while substitution is far from its end."""
NEWTON_STEPS = 40
SHALLOW = -1e-12
"""A tangent plane distance above this is within the round-off of a flash."""

TOLERANCE = 1e-11
"""On the largest difference of ln fugacity between the phases."""

TRACE = 1e-10
"""Mole fraction below which a component of a phase has no say in where the others go."""

NOTHING = -500.0
"""ln of a mole fraction below which a phase holds nothing of a component for any purpose."""

ACCEPTED = 1e-9
"""Largest difference of ln fugacity at which a split counts as solved."""


@dataclass
class _Split:
    """Two phases of N states: the fraction of y, compositions, Z, the residual, iterations, and whether it fell back to one."""

    beta: Array
    x: Array
    y: Array
    Z_x: Array
    Z_y: Array
    residual: Array
    iterations: NDArray[np.int64]
    collapsed: Mask

    @classmethod
    def of_feed(cls, z: Array, Z: Array) -> _Split:
        """Return the record of states that are one phase, or not solved yet."""
        n = z.shape[0]
        return cls(
            np.zeros(n), z.copy(), z.copy(), Z.copy(), Z.copy(), np.zeros(n), np.zeros(n, np.int64), np.zeros(n, bool)
        )

    def take(self, rows: Rows) -> _Split:
        """Return the states ``rows``."""
        return _Split(*(getattr(self, f.name)[rows] for f in fields(self)))

    def put(self, rows: Rows, other: _Split) -> None:
        """Overwrite the states ``rows`` by those of ``other``; iterations add up."""
        for f in fields(self):
            if f.name == "iterations":
                self.iterations[rows] += other.iterations
            else:
                getattr(self, f.name)[rows] = getattr(other, f.name)

    def swap(self, rows: Mask) -> None:
        """Change the roles of the phases in the states ``rows``."""
        self.x[rows], self.y[rows] = self.y[rows], self.x[rows]
        self.Z_x[rows], self.Z_y[rows] = self.Z_y[rows], self.Z_x[rows]
        self.beta[rows] = 1.0 - self.beta[rows]

    @property
    def solved(self) -> Mask:
        """Which states hold two phases in equilibrium."""
        return ~self.collapsed & (self.residual <= ACCEPTED)


def check_state(T: Array, P: Array, z: Array, nc: int) -> None:
    """Raise ValueError where a temperature, a pressure or a composition is not physical."""
    if z.shape[-1] != nc:
        raise ValueError(f"the composition has {z.shape[-1]} components, the equation of state {nc}")
    if not (np.isfinite(T).all() and (T > 0.0).all()):
        raise DomainError("temperature must be above 0 K")
    if not (np.isfinite(P).all() and (P > 0.0).all()):
        raise DomainError("pressure must be above 0 Pa")
    if not (np.isfinite(z).all() and (z >= 0.0).all()) or (z.sum(axis=-1) <= 0.0).any():
        raise DomainError("mole numbers must be zero or more, with at least one above zero")


def flash_pt(eos: Equation, T: ArrayLike, P: ArrayLike, z: ArrayLike, watch: Watch = UNWATCHED) -> Phases:
    """Flash feeds at temperature and pressure.

    T (...) K, P (...) Pa, z (..., nc) mole numbers (normalised here), broadcast together; parameters of ``eos`` with a batch
    axis go with a single leading axis. Raises ValueError for unphysical input, Cancelled where ``watch`` says so. Returns the
    :class:`Phases` of the broadcast leading shape.
    """
    T, P, z = np.asarray(T, float), np.asarray(P, float), np.asarray(z, float)
    check_state(T, P, z, eos.nc)
    shape = np.broadcast_shapes(T.shape, P.shape, z.shape[:-1])
    T1 = np.broadcast_to(T, shape).reshape(-1)
    P1 = np.broadcast_to(P, shape).reshape(-1)
    z1 = np.broadcast_to(z / z.sum(axis=-1, keepdims=True), (*shape, eos.nc)).reshape(-1, eos.nc)
    starts = range(0, max(T1.size, 1), CHUNK)
    parts = []
    # Trials may overflow on the way; what comes of them is judged, not trusted.
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        for i in starts:
            rows = slice(i, i + CHUNK)
            here = watch.part(i / max(T1.size, 1), min((i + CHUNK) / max(T1.size, 1), 1.0))
            parts.append(_flash_chunk(eos.take(rows), T1[rows], P1[rows], np.ascontiguousarray(z1[rows]), here))
    return Phases.join(parts).reshape(*shape)


def _flash_chunk(eos: Equation, T: Array, P: Array, z: Array, watch: Watch) -> Phases:
    n = T.size
    state = eos.prepare(T, P)
    ln_phi_z, Z_feed = state.ln_phi(z)
    d = log_safe(z) + ln_phi_z
    found = _Split.of_feed(z, Z_feed)

    ln_k = wilson_ln_k(eos.Tc, eos.Pc, eos.omega, T, P)
    split, beta = np.zeros(n, dtype=bool), np.zeros(n)
    for i in range(0, n, BLOCK):
        block = slice(i, i + BLOCK)
        split[block], ln_k[block], beta[block] = _probe(state.take(block), z[block], d[block], ln_k[block])
    found.iterations += PROBE_STEPS
    watch.at(0.1)

    converged = np.ones(n, dtype=bool)
    unsure = np.flatnonzero(~split)
    if unsure.size:
        test = stability(
            eos.take(unsure), T[unsure], P[unsure], z[unsure], state.take(unsure), watch=watch.part(0.1, 0.6)
        )
        found.iterations[unsure] += test.iterations
        converged[unsure] = test.converged
        rows = unsure[test.unstable]
        split[rows] = True
        # Some of the trial phase beside what is left of the feed: a pair that is known to lower the Gibbs energy.
        W = test.W[test.unstable]
        seed = seed_amount(state.take(rows), z[rows], d[rows], W / W.sum(axis=-1, keepdims=True))
        beta[rows], ln_k[rows] = _orient(state.take(rows), z[rows] - seed, seed)

    rows = np.flatnonzero(split)
    if rows.size:
        out = _solve_split(state.take(rows), z[rows], d[rows], ln_k[rows], beta[rows], watch.part(0.6, 0.9))
        good = out.solved
        found.put(rows[good], out.take(good))
        found.iterations[rows[~good]] += out.iterations[~good]
        failed = rows[~good]
        if failed.size:
            # Start again from the deepest trial of a full stability test.
            test = stability(eos.take(failed), T[failed], P[failed], z[failed], state.take(failed), every_trial=True)
            found.iterations[failed] += test.iterations
            again = failed[test.unstable]
            split[failed[~test.unstable]] = False
            converged[failed[~test.unstable]] = test.converged[~test.unstable]
            W = test.W[test.unstable]
            seed = seed_amount(state.take(again), z[again], d[again], W / W.sum(axis=-1, keepdims=True))
            out = _newton(state.take(again), z[again], d[again], z[again] - seed, seed, watch)
            good = out.solved
            found.put(again[good], out.take(good))
            lost = again[~good]
            # A split so shallow that the phases merge within round-off is one phase for every purpose.
            shallow = test.tm[test.unstable][~good] > SHALLOW
            split[lost] = False
            found.residual[lost] = np.where(shallow, 0.0, np.inf)
            converged[lost] = shallow

    return _as_phases(state, T, P, z, split, found, np.where(converged, Reason.CONVERGED, Reason.NOT_CONVERGED))


def _as_phases(
    state: PreparedStates, T: Array, P: Array, z: Array, split: Mask, found: _Split, reason: NDArray[np.integer]
) -> Phases:
    """Return solved states with their phases named, the lighter first."""
    n = T.size
    kind_x = np.where(is_liquid(state, found.x, found.Z_x), Kind.LIQUID, Kind.VAPOUR).astype(np.int8)
    kind_y = np.full(n, Kind.VAPOUR, dtype=np.int8)
    rows = np.flatnonzero(split)
    if rows.size:
        part = state.take(rows)
        both = ((found.y[rows], found.Z_y[rows]), (found.x[rows], found.Z_x[rows]))
        packing = np.stack([part.packing(w, Z) for w, Z in both], axis=1)
        kind, order = named(packing, np.stack([part.cold(w) for w, _ in both], axis=1), np.ones((rows.size, 2), bool))
        turned = np.zeros(n, dtype=bool)
        turned[rows] = order[:, 0] == 1
        found.swap(turned)
        kind_y[rows], kind_x[rows] = np.take_along_axis(kind, order, axis=1).T
    stable = np.zeros(n, dtype=np.int8)
    return two_places(
        T, P, z, split, found.beta, found.x, found.y, found.Z_x, found.Z_y, kind_x, kind_y, stable, stable,
        reason.astype(np.int8), found.residual, found.iterations,
    )  # fmt: skip


def flash_near(eos: Equation, T: Array, P: Array, z: Array, near: Phases, ln_k: Array | None = None) -> Phases:
    """Return states (N,) with as many phases, one or two, as their neighbours ``near`` (N,) have, started from those, or from better ``ln_k``
    (N, nc) where they are given.

    Much cheaper than a flash, and good for steps of a search: nothing tells that the phases are the stable ones. Two phases that
    have become one are returned as one; what has more than two, or does not come in, is not converged.
    """
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        state = eos.prepare(T, P)
        ln_phi, Z = state.ln_phi(z)
        found = _Split.of_feed(z, Z)
        reason = np.where(near.converged & (near.count < 3), Reason.CONVERGED, Reason.NOT_CONVERGED)
        split = near.count == 2
        rows = np.flatnonzero(split)
        if rows.size:
            d = log_safe(z[rows]) + ln_phi[rows]
            start = log_safe(near.light[rows]) - log_safe(near.heavy[rows]) if ln_k is None else ln_k[rows]
            part = state.take(rows)
            out = _solve_split(part, z[rows], d, start, near.fraction[rows, 0], UNWATCHED, NEAR_SUBSTITUTIONS)
            good = out.solved
            found.put(rows[good], out.take(good))
            split[rows[~good]] = False
            reason[rows[~good & ~out.collapsed]] = Reason.NOT_CONVERGED
        return _as_phases(state, T, P, z, split, found, reason)


def seed_amount(state: PreparedStates, z: Array, d: Array, w: Array) -> Array:
    """Return amounts (N, nc) of a second phase of composition w that lower the Gibbs energy of the feed.

    w has a negative tangent plane distance, so a small enough amount always does.
    """
    with np.errstate(divide="ignore"):
        most = np.where(w > 0.0, z / w, np.inf).min(axis=-1)
    ln_w, _ = state.ln_phi(w)
    distance = np.vecdot(w, log_safe(w) + ln_w - d)
    best, best_gibbs = 1e-6 * most, np.zeros(z.shape[0])
    for part in (0.9, 0.6, 0.3, 0.1, 0.03, 0.01, 1e-3, 1e-4):
        amount = part * most
        rest = z - amount[:, None] * w
        total = rest.sum(axis=-1)
        x = rest / total[:, None]
        ln_x, _ = state.ln_phi(x)
        gibbs = amount * distance + total * np.vecdot(x, log_safe(x) + ln_x - d)
        lower = gibbs < best_gibbs
        best, best_gibbs = np.where(lower, amount, best), np.where(lower, gibbs, best_gibbs)
    return np.asarray(best[:, None] * w)


def _orient(state: PreparedStates, first: Array, second: Array) -> tuple[Array, Array]:
    """Return the fraction (N,) and ln K (N, nc) of two phases of given amounts (N, nc), the lighter as the vapour."""
    n1, n2 = first.sum(axis=-1), second.sum(axis=-1)
    x, y = first / n1[:, None], second / n2[:, None]
    ratio = log_safe(y) - log_safe(x)
    light = state.packing(y, state.ln_phi(y)[1]) < state.packing(x, state.ln_phi(x)[1])
    return np.where(light, n2, n1) / (n1 + n2), np.where(light[:, None], ratio, -ratio)


def _probe(state: PreparedStates, z: Array, d: Array, ln_k: Array) -> tuple[Mask, Array, Array]:
    """Take a few substitution steps and tell which states they prove to be split, (N,).

    Proof is a phase pair of lower Gibbs energy than the feed. Returns also ln K (N, nc) and the fraction (N,).
    """
    beta: Array | None = None
    split = np.zeros(z.shape[0], dtype=bool)
    for step in range(PROBE_STEPS):
        K = np.exp(np.minimum(ln_k, 300.0))
        beta, exists = solve_fraction(K, z, beta, ROUGH)
        beta = np.clip(beta, 0.0, 1.0)
        x = z / (1.0 + beta[:, None] * (K - 1.0))
        y = K * x
        x /= x.sum(axis=-1, keepdims=True)
        y /= y.sum(axis=-1, keepdims=True)
        ln_x, _ = state.ln_phi(x)
        ln_y, _ = state.ln_phi(y)
        if step == PROBE_STEPS - 1:
            gibbs = (1.0 - beta) * np.vecdot(x, log_safe(x) + ln_x - d)
            gibbs += beta * np.vecdot(y, log_safe(y) + ln_y - d)
            split = (gibbs < -1e-8) & exists & (beta > 0.0) & (beta < 1.0)
        ln_k = ln_x - ln_y
    assert beta is not None
    return split, ln_k, beta


def _solve_split(
    state: PreparedStates, z: Array, d: Array, ln_k: Array, beta: Array, watch: Watch, few: int = SUBSTITUTIONS[0]
) -> _Split:
    """Converge states known to be split: accelerated substitution, then Newton's method for what is left, of few states after ``few`` of the former.

    Substitution goes block by block; what is slow is gathered from all blocks and goes on together.
    """
    n = z.shape[0]
    out = _Split.of_feed(z, np.ones(n))
    out.residual[:] = np.inf
    ln_k, beta = ln_k.copy(), beta.copy()
    left = np.arange(n)
    for number, steps in enumerate((few,) if n <= FEW else SUBSTITUTIONS):
        slow = []
        for i in range(0, left.size, BLOCK):
            rows = left[i : i + BLOCK]
            slow.append(rows[_substitute(state.take(rows), z[rows], d[rows], ln_k, beta, rows, steps, out)])
            watch.at(0.35 * (number + min(1.0, (i + BLOCK) / left.size)))
        left = np.concatenate(slow) if slow else left[:0]
        if left.size == 0:
            return out

    K = np.exp(np.clip(ln_k[left], -300.0, 300.0))
    beta, exists = solve_fraction(K, z[left], beta[left])
    # A fraction outside the unit interval is no start for a descent: those begin anew from their trial phase.
    start = exists & (beta > 0.0) & (beta < 1.0)
    out.collapsed[left] = ~start
    left, K, beta = left[start], K[start], beta[start]
    feed = z[left]
    liquid = (1.0 - beta)[:, None] * feed / (1.0 + beta[:, None] * (K - 1.0))
    vapour = np.where(liquid < 0.5 * feed, feed - liquid, (beta / (1.0 - beta))[:, None] * K * liquid)
    for i in range(0, left.size, NEWTON_BLOCK):
        part = slice(i, i + NEWTON_BLOCK)
        rows = left[part]
        out.put(rows, _newton(state.take(rows), z[rows], d[rows], liquid[part], vapour[part], watch.part(0.7, 1.0)))
    return out


def _substitute(
    state: PreparedStates,
    z: Array,
    d: Array,
    all_ln_k: Array,
    all_beta: Array,
    rows: NDArray[np.intp],
    steps: int,
    out: _Split,
) -> Mask:
    """Take up to ``steps`` substitutions of the states ``rows``; enter what is solved in ``out``, the rest in ln K and the
    fractions, and return which is the rest (of ``rows``)."""
    left = np.ones(rows.size, dtype=bool)
    live = np.arange(rows.size)
    ln_k, beta = all_ln_k[rows], all_beta[rows]
    present = None if (z > 0.0).all() else z > 0.0
    last: tuple[Array, Array] | None = None
    smallest = np.inf
    for iteration in range(steps):
        K = np.exp(np.minimum(ln_k, 300.0))
        # Far from the answer the fraction need not be exact; what ends the iteration always is.
        rough = smallest > 1e-4
        beta, exists = solve_fraction(K, z, beta, ROUGH if rough else SETTLED)
        x = z / (1.0 + beta[:, None] * (K - 1.0))
        y = K * x
        sx, sy = x.sum(axis=-1, keepdims=True), y.sum(axis=-1, keepdims=True)
        ln_x, zx = state.ln_phi(x / sx)
        ln_y, zy = state.ln_phi(y / sy)
        step = ln_x - ln_y - ln_k
        if present is not None:
            step *= present
        # The norm bounds the largest component.
        size = np.sqrt(np.vecdot(step, step))
        out.iterations[rows[live]] += 1
        stop = (size < TOLERANCE) & exists & (beta > 0.0) & (beta < 1.0)
        lost = ~exists & (iteration > 2)
        smallest = 1.0
        stop &= ~lost & (not rough)
        if stop.any() or lost.any():
            none = np.zeros(int(stop.sum()), dtype=np.int64)
            done = _Split(beta[stop], x[stop], y[stop], zx[stop], zy[stop], size[stop], none, none > 0)
            out.put(rows[live[stop]], done)
            out.collapsed[rows[live[lost]]] = True
            keep = ~(stop | lost)
            left[live[~keep]] = False
            if not keep.any():
                return left
            live, z, ln_k, step, beta, size = live[keep], z[keep], ln_k[keep], step[keep], beta[keep], size[keep]
            state = state.take(keep)
            present = None if present is None else present[keep]
            last = None if last is None else (last[0][keep], last[1][keep])
            x, y = x[keep], y[keep]
        smallest = float(size.min())
        new = ln_k + step
        if last is not None:
            new += accelerate(ln_k, step, last, x * y / np.maximum(z, 1e-300))
        last, ln_k = (ln_k, step), new
    all_ln_k[rows[live]], all_beta[rows[live]] = ln_k, beta
    return left


def _newton(state: PreparedStates, z: Array, d: Array, liquid: Array, vapour: Array, watch: Watch) -> _Split:
    """Minimise the Gibbs energy in the vapour's mole numbers.

    The variables are scaled by sqrt(x_i y_i / z_i), which makes the Hessian times V L the identity for ideal
    phases (Michelsen and Mollerup 2007, ch. 10). Absent components get a zero scale and stay absent. Both
    phases' amounts are carried, since a difference would cost a trace component its digits.
    """
    n, nc = z.shape
    present = z > 0.0
    eye = np.arange(nc)
    shift = np.zeros(n)
    live = np.arange(n)
    best_l, best_v = liquid.copy(), vapour.copy()
    best_zx, best_zy = np.ones(n), np.ones(n)
    residual, collapsed = np.full(n, np.inf), np.zeros(n, dtype=bool)
    iterations = np.zeros(n, dtype=np.int64)

    for _ in range(NEWTON_STEPS):
        watch.check()
        L, V = liquid.sum(axis=-1), vapour.sum(axis=-1)
        x, y = liquid / L[:, None], vapour / V[:, None]
        px, py = state.derivatives(x), state.derivatives(y)
        ln_fx, ln_fy = log_safe(x) + px.ln_phi, log_safe(y) + py.ln_phi
        # Where one phase holds but traces of a component, equal fugacity tells how much at once; where that is nothing, nothing is asked.
        traces = present & (np.minimum(x, y) < TRACE)
        goal = np.where(x < y, ln_fy - px.ln_phi, ln_fx - py.ln_phi)
        g = np.where(present & ~(traces & (goal < NOTHING)), ln_fy - ln_fx, 0.0)
        size = np.abs(g).max(axis=-1)
        iterations[live] += 1
        better = size < residual[live]
        rows = live[better]
        best_l[rows], best_v[rows] = liquid[better], vapour[better]
        best_zx[rows], best_zy[rows], residual[rows] = px.Z[better], py.Z[better], size[better]
        gone = (np.abs(x - y).max(axis=-1) < 1e-9) | (np.minimum(V, L) < 1e-14)
        collapsed[live[gone]] = True
        keep = ~(gone | (size < TOLERANCE))
        if not keep.any():
            break
        gibbs = V * np.vecdot(y, ln_fy - d) + L * np.vecdot(x, ln_fx - d)
        dny, dnx = py.dln_phi_dn, px.dln_phi_dn
        if not keep.all():
            live, z, d, shift, present = live[keep], z[keep], d[keep], shift[keep], present[keep]
            liquid, vapour, x, y, L, V = liquid[keep], vapour[keep], x[keep], y[keep], L[keep], V[keep]
            g, gibbs, size, dny, dnx, state = g[keep], gibbs[keep], size[keep], dny[keep], dnx[keep], state.take(keep)
            traces, goal = traces[keep], goal[keep]
        g = np.where(traces, 0.0, g)
        size = np.abs(g).max(axis=-1)
        with np.errstate(divide="ignore", invalid="ignore"):
            scale = np.where(present & ~traces, np.sqrt(x * y / z), 0.0)
        hessian = (L[:, None, None] * (dny - 1.0) + V[:, None, None] * (dnx - 1.0)) * scale[:, :, None]
        hessian *= scale[:, None, :]
        hessian[:, eye, eye] += 1.0 + shift[:, None]
        gradient = (V * L)[:, None] * scale * g
        step = descent_step(hessian, gradient) * scale
        # Keep every amount of both phases positive.
        with np.errstate(divide="ignore", invalid="ignore"):
            room = np.where(step > 0.0, liquid / step, np.where(step < 0.0, -vapour / step, np.inf))
        factor = np.minimum(1.0, 0.9 * room.min(axis=-1))
        start = factor.copy()
        for _halving in range(10):
            new_l, new_v = liquid - factor[:, None] * step, vapour + factor[:, None] * step
            Ln, Vn = new_l.sum(axis=-1), new_v.sum(axis=-1)
            xn, yn = new_l / Ln[:, None], new_v / Vn[:, None]
            fx, fy = log_safe(xn) + state.ln_phi(xn)[0], log_safe(yn) + state.ln_phi(yn)[0]
            value = Vn * np.vecdot(yn, fy - d) + Ln * np.vecdot(xn, fx - d)
            # Close to the answer the Gibbs energy no longer tells: the gradient does.
            new_size = np.abs(np.where(present & ~traces, fy - fx, 0.0)).max(axis=-1)
            worse = (value > gibbs + 1e-15 * (1.0 + np.abs(gibbs))) & ~(new_size < 0.7 * size)
            if not worse.any():
                break
            factor[worse] *= 0.35
        shift = np.where(factor < 0.3 * start, np.maximum(3.0 * shift, 0.05), 0.2 * shift)
        amount = np.where(
            traces, np.exp(np.minimum(goal, np.log(10.0 * TRACE))) * np.where(x < y, L[:, None], V[:, None]), 0.0
        )
        moved = np.where(traces, amount - np.where(x < y, new_l, new_v), 0.0) * np.where(x < y, 1.0, -1.0)
        liquid, vapour = np.maximum(new_l + moved, 0.0), np.maximum(new_v - moved, 0.0)

    L, V = best_l.sum(axis=-1), best_v.sum(axis=-1)
    x, y = best_l / L[:, None], best_v / V[:, None]
    return _Split(V / (L + V), x, y, best_zx, best_zy, residual, iterations, collapsed)
