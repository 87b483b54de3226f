"""Equilibria of up to three phases at given temperature and pressure, batched over states.

A two-phase result is tested for stability; where a further phase lowers the Gibbs energy, it joins. The phases' shares follow from
the convex function of Michelsen, Comput. Chem. Eng. 18, 545 (1994),

    Q = sum_k beta_k - sum_i z_i ln E_i,   E_i = sum_k beta_k/phi_ik,   beta_k >= 0

whose minimum also tells which phase is not there; compositions follow by substitution with extrapolation, and Newton steps on the
Gibbs energy (Michelsen and Mollerup 2007, ch. 11) finish what comes in slowly. A phase that is not there is dropped, and what is
left is tested again.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .flash import ACCEPTED, DENSE, TOLERANCE, flash_pt, seed_amount
from .linear import descent_step, extrapolate
from .phases import Kind, Phases, Reason
from .stability import LN_W, KnownPhase, log_safe, stability

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Rows = NDArray[np.intp]

PLACES = 3
FURTHER = -1e-9
"""Distance below which a phase of a converged split is itself unstable; residuals of a split are a hundred times smaller."""
ROUNDS = 5
SUBSTITUTIONS = 60
NEWTON_STEPS = 40
SHARE_STEPS = 50
OUTSIDE = 1e-5
"""Step of ln phi below which the composition of a phase that is not there counts as settled."""
SETTLING = 40
"""Substitutions that bring a trial to where it leads."""
ALIKE = 1e-7
"""Largest difference of mole fractions up to which two phases are one."""


def flash_all(eos: Equation, T: ArrayLike, P: ArrayLike, z: ArrayLike, watch: Watch = UNWATCHED) -> Phases:
    """Flash feeds at temperature and pressure into as many phases as there are, up to three.

    Arguments and errors as of :func:`cryonome.equilibrium.flash.flash_pt`; returns :class:`Phases` with three places.
    """
    two = flash_pt(eos, T, P, z, watch.part(0.0, 0.4))
    n = int(np.prod(two.shape, dtype=int))
    return with_third(eos, two.reshape(n), watch.part(0.4, 1.0)).reshape(*two.shape)


def with_third(eos: Equation, two: Phases, watch: Watch = UNWATCHED) -> Phases:
    """Return two-phase states (N,) with the third phase of those that have one, and another pair where that is the stable one."""
    out = two.widened(PLACES)
    if eos.nc == 1:
        return out
    # A state that did not come in as two phases begins again as one, which its own test then splits.
    rows = np.flatnonzero(out.split | ~out.converged)
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        for number in range(ROUNDS):
            if rows.size == 0:
                break
            here = watch.part(number / ROUNDS, (number + 1) / ROUNDS)
            now = out.take(rows)
            largest = np.argmax(now.fraction, axis=-1)
            x = np.ascontiguousarray(now.composition[np.arange(rows.size), largest])
            part = eos.take(rows)
            # Of all trials the deepest: one that has only just left another phase leads on too slowly.
            known = _others(now, largest)
            test = stability(part, now.T, now.P, x, None, True, here.part(0.0, 0.5), FURTHER, known)
            further = test.tm < FURTHER
            full = further & (now.count == PLACES)
            # A fourth phase is beyond what is looked for: the state is not the answer, and says so.
            _put(out, rows[full], replace(now.take(full), reason=np.full(int(full.sum()), Reason.MORE_PHASES, np.int8)))
            join = np.flatnonzero(further & ~full)
            if join.size == 0:
                break
            W = _settled(part.take(join), now.T[join], now.P[join], x[join], test.W[join])
            solved = _solve(part.take(join), now.take(join), W, here.part(0.5, 1.0))
            _put(out, rows[join], solved)
            # What lost a phase, or found its third one, is tested anew.
            rows = rows[join][solved.converged & solved.split]
    return out


def _others(now: Phases, largest: Rows) -> list[KnownPhase]:
    """Return the phases of N states beside their largest, place by place."""
    away = np.arange(now.kind.shape[1]) == largest[:, None]
    Z = np.where(away | ~now.present, np.nan, now.Z)
    return [KnownPhase(now.composition[:, k], Z[:, k]) for k in range(Z.shape[1]) if np.isfinite(Z[:, k]).any()]


def _settled(eos: Equation, T: Array, P: Array, x: Array, W: Array) -> Array:
    """Return trial compositions (N, nc) nearer to where they lead; the test ends as soon as it has proved what it looks for.

    Substitution may run away from a strongly non-ideal trial: of all on its way the one of the lowest distance counts.
    """
    state = eos.prepare(T, P)
    d = log_safe(x) + state.ln_phi(x)[0]
    best, lowest = W, np.full(len(W), np.inf)
    for _ in range(SETTLING):
        ln_phi = state.ln_phi(W / W.sum(axis=-1, keepdims=True))[0]
        tm = 1.0 + np.einsum("ij,ij->i", W, log_safe(W) + ln_phi - d - 1.0)
        lower = tm < lowest
        best, lowest = np.where(lower[:, None], W, best), np.where(lower, tm, lowest)
        new = np.exp(np.clip(d - ln_phi, *LN_W))
        moved = np.abs(new - W).max()
        W = new
        if moved < 1e-6:
            break
    return np.asarray(best / best.sum(axis=-1, keepdims=True))


def _put(out: Phases, rows: Rows, part: Phases) -> None:
    for name in ("kind", "fraction", "composition", "Z", "root", "reason", "residual"):
        getattr(out, name)[rows] = getattr(part, name)
    out.iterations[rows] += part.iterations


@dataclass
class _Trial:
    """Phases of N states on the way: ``x`` (N, p, nc), shares ``beta`` (N, p), ``ln_phi`` (N, p, nc), ``Z`` (N, p)."""

    x: Array
    beta: Array
    ln_phi: Array
    Z: Array

    def put(self, rows: Rows, other: _Trial) -> None:
        """Overwrite the states ``rows``."""
        for name in ("x", "beta", "ln_phi", "Z"):
            getattr(self, name)[rows] = getattr(other, name)

    def take(self, rows: Rows | Mask) -> _Trial:
        """Return the states ``rows``."""
        return _Trial(self.x[rows], self.beta[rows], self.ln_phi[rows], self.Z[rows])


class _States:
    """N states evaluated for several phases at once."""

    def __init__(self, eos: Equation, T: Array, P: Array) -> None:
        self.eos, self.T, self.P = eos, T, P
        each = np.repeat(np.arange(T.size), PLACES)
        self.prepared = eos.take(each).prepare(T[each], P[each])

    def take(self, rows: Rows) -> _States:
        """Return the states ``rows``."""
        return _States(self.eos.take(rows), self.T[rows], self.P[rows])

    def ln_phi(self, x: Array) -> tuple[Array, Array]:
        """Return ln phi (N, p, nc) and Z (N, p) of x (N, p, nc)."""
        ln_phi, Z = self.prepared.ln_phi(np.ascontiguousarray(x.reshape(-1, x.shape[-1])))
        return ln_phi.reshape(x.shape), Z.reshape(x.shape[:2])


def _normal(x: Array) -> Array:
    total = x.sum(axis=-1, keepdims=True)
    return np.asarray(x / np.where(total > 0.0, total, 1.0))


def _solve(eos: Equation, now: Phases, W: Array, watch: Watch) -> Phases:
    """Return the states (N,) of ``now`` with a further phase beginning at W (N, nc)."""
    n = W.shape[0]
    z = now.z
    each = np.arange(n)
    free = np.argmin(now.fraction, axis=-1)
    # Taken out of the phase that has most of it, in the amount that lowers the Gibbs energy most: all share one tangent plane.
    most = np.where(W[:, None, :] > 0.0, now.composition / np.maximum(W[:, None, :], 1e-300), np.inf).min(axis=-1)
    source = np.argmax(now.fraction * most, axis=-1)
    prepared = eos.prepare(now.T, now.P)
    x0 = now.composition[each, source]
    seed = seed_amount(prepared, x0, log_safe(x0) + prepared.ln_phi(x0)[0], W)
    x, beta = now.composition.copy(), now.fraction.copy()
    x[each, free], x[each, source] = _normal(seed), _normal(x0 - seed)
    beta[each, free] = beta[each, source] * seed.sum(axis=-1)
    beta[each, source] -= beta[each, free]
    states = _States(eos, now.T, now.P)
    ln_phi, Z = states.ln_phi(x)
    trial = _Trial(x, beta, ln_phi, Z)
    begin = trial.take(each)
    residual = np.full(n, np.inf)
    iterations = np.zeros(n, dtype=np.int64)
    live = np.arange(n)
    history: list[Array] = []
    part, going, zl = states, trial, z
    for number in range(SUBSTITUTIONS):
        if number % 5 == 0:
            watch.at(0.8 * number / SUBSTITUTIONS)
        going.beta, amounts = _shares(going.ln_phi, zl, going.beta)
        xs = amounts
        going.x = _normal(xs)
        new, going.Z = part.ln_phi(going.x)
        step = new - going.ln_phi
        each = np.abs(np.where((zl > 0.0)[:, None, :], step, 0.0)).max(axis=2)
        active = going.beta > 0.0
        size = np.where(active, each, 0.0).max(axis=1)
        # A phase that is not there must have settled as well before it is known to stay out.
        settled = (active | (each < OUTSIDE)).all(axis=1)
        iterations[live] += 1
        going.ln_phi = new
        done = (size < TOLERANCE) & settled
        if done.any():
            rows = live[done]
            trial.put(rows, going.take(done))
            residual[rows] = size[done]
            keep = np.flatnonzero(~done)
            if keep.size == 0:
                live = live[:0]
                break
            live, going, zl, step = live[keep], going.take(keep), zl[keep], step[keep]
            part = part.take(keep)
            history = [h[keep] for h in history]
        flat = step.reshape(live.size, -1)
        if number % 5 == 4:
            going.ln_phi = going.ln_phi + extrapolate(flat, history).reshape(step.shape)
        history = [flat, *history[:1]]
    if live.size:
        trial.put(live, going)
        finished, size = _newton(part, zl, going, watch)
        trial.put(live, finished)
        residual[live] = size
    # Where substitution lost a phase, descending from where it joined shows whether it was right to; and where neither settled.
    lost = np.flatnonzero((trial.beta <= 0.0).any(axis=-1) | ~(residual <= ACCEPTED))
    if lost.size:
        again, size = _newton(states.take(lost), z[lost], begin.take(lost), watch)
        lower = _energy(again) < _energy(trial.take(lost)) - 1e-13
        better = (size <= ACCEPTED) & (lower | ~(residual[lost] <= ACCEPTED))
        trial.put(lost[better], again.take(better))
        residual[lost[better]] = size[better]
    return _arranged(states, now, trial, residual, iterations)


def _shares(ln_phi: Array, z: Array, beta: Array) -> tuple[Array, Array]:
    """Return the shares (N, p) that minimise Q, and z_i/(phi_ik E_i) (N, p, nc), the compositions of the phases that are there."""
    top = np.max(-ln_phi, axis=1, keepdims=True)
    d = np.exp(-ln_phi - top)  # a factor common to all phases of a component cancels but in the sums
    n, p, _ = d.shape
    beta = np.maximum(beta, 0.0)
    active = beta > 0.0
    eye = np.eye(p, dtype=bool)
    live = np.arange(n)
    for _ in range(SHARE_STEPS):
        b, a, dd, zz = beta[live], active[live], d[live], z[live]
        E = np.einsum("nk,nki->ni", b, dd)
        ratio = dd / np.maximum(E, 1e-300)[:, None, :]
        g = 1.0 - np.einsum("ni,nki->nk", zz, ratio)
        H = np.einsum("ni,nki,nli->nkl", zz, ratio, ratio)
        free = a[:, :, None] & a[:, None, :]
        H = np.where(free, H, 0.0) + np.where(eye & ~a[:, :, None], 1.0, 0.0)
        H += eye * 1e-14 * np.trace(H, axis1=1, axis2=2)[:, None, None]
        step = np.linalg.solve(H, np.where(a, -g, 0.0)[..., None])[..., 0]
        room = np.where(step < 0.0, -b / np.where(step < 0.0, step, -1.0), np.inf)
        most = room.min(axis=1)
        full = np.minimum(1.0, most)
        trial = b + full[:, None] * step
        old = _q(b, dd, zz)
        for _ in range(12):
            worse = _q(trial, dd, zz) > old + 1e-14 * (1.0 + np.abs(old))
            if not worse.any():
                break
            full = np.where(worse, 0.5 * full, full)
            trial = b + full[:, None] * step
        out = (room <= full[:, None] * (1.0 + 1e-12)) & a
        # A share that reached zero is held there, until its gradient asks for it again.
        trial = np.where(out, 0.0, np.maximum(trial, 0.0))
        active[live] = a & ~out
        beta[live] = trial
        settled = (np.abs(full[:, None] * step).max(axis=1) < 1e-14) & ~out.any(axis=1)
        wanted = np.where(~active[live] & (g < -1e-12), g, 0.0)
        wake = settled & (wanted.min(axis=1) < 0.0)
        place = np.argmin(wanted, axis=1)
        rows = live[wake]
        active[rows, place[wake]] = True
        beta[rows, place[wake]] = 1e-10
        live = live[~settled | wake]
        if live.size == 0:
            break
    E = np.einsum("nk,nki->ni", beta, d)
    return beta, z[:, None, :] * d / np.maximum(E, 1e-300)[:, None, :]


def _q(beta: Array, d: Array, z: Array) -> Array:
    E = np.einsum("nk,nki->ni", beta, d)
    return np.asarray(beta.sum(axis=1) - np.einsum("ni,ni->n", z, log_safe(E)))


def _newton(states: _States, z: Array, start: _Trial, watch: Watch) -> tuple[_Trial, Array]:
    """Minimise the Gibbs energy in the amounts of all phases but the largest; return the phases and the residual (N,)."""
    n, p, nc = start.x.shape
    base = np.argmax(start.beta, axis=1)
    order = np.argsort(np.where(np.arange(p) == base[:, None], -1, np.arange(p)), axis=1, kind="stable")
    back = np.argsort(order, axis=1)
    pick = np.arange(n)[:, None]
    beta = start.beta[pick, order]
    there = beta > 1e-13
    amounts = np.where(there[:, :, None], beta[:, :, None] * start.x[pick, order], 0.0)
    amounts[:, 0] = z - amounts[:, 1:].sum(axis=1)
    bad = (amounts[:, 0] < 0.0).any(axis=1)
    # Where the largest phase came out negative the shares were not those of the compositions.
    amounts[bad] = np.where(there[bad][:, :, None], beta[bad][:, :, None] * start.x[pick, order][bad], 0.0)
    amounts[:, 0] = np.maximum(amounts[:, 0], 0.0)
    present = z > 0.0
    size = np.full(n, np.inf)
    m = (p - 1) * nc
    shift = np.zeros(n)
    index = np.arange(m)
    x = _normal(amounts)
    for _ in range(NEWTON_STEPS):
        watch.check()
        total = np.maximum(amounts.sum(axis=-1), 1e-300)
        x = _normal(np.where(there[:, :, None], amounts, amounts[:, :1]))
        found = states.prepared.derivatives(np.ascontiguousarray(x.reshape(-1, nc)))
        ln_f = log_safe(x) + found.ln_phi.reshape(n, p, nc)
        g = np.where(there[:, 1:, None] & present[:, None, :], ln_f[:, 1:] - ln_f[:, :1], 0.0)
        size = np.abs(g).max(axis=(1, 2))
        if (size < TOLERANCE).all():
            break
        dn = (found.dln_phi_dn.reshape(n, p, nc, nc) - 1.0) / total[:, :, None, None]
        eye = np.arange(nc)
        dn[:, :, eye, eye] += np.where(amounts > 0.0, 1.0 / np.maximum(amounts, 1e-300), 0.0)
        scale = np.sqrt(amounts[:, 1:] * amounts[:, :1] / np.maximum(amounts[:, 1:] + amounts[:, :1], 1e-300))
        scale = np.where(there[:, 1:, None] & present[:, None, :], scale, 0.0).reshape(n, m)
        H = np.empty((n, m, m))
        for k in range(p - 1):
            for j in range(p - 1):
                block = dn[:, 0] + dn[:, k + 1] if j == k else dn[:, 0]
                H[:, k * nc : (k + 1) * nc, j * nc : (j + 1) * nc] = block
        H *= scale[:, :, None] * scale[:, None, :]
        H[:, index, index] += np.where(scale > 0.0, 0.0, 1.0) + shift[:, None]
        step = (descent_step(H, scale * g.reshape(n, m)) * scale).reshape(n, p - 1, nc)
        lowering = -step.sum(axis=1)
        moves = np.concatenate([lowering[:, None, :], step], axis=1)
        room = np.where(moves < 0.0, amounts / np.maximum(-moves, 1e-300), np.inf).min(axis=(1, 2))
        factor = np.minimum(1.0, 0.9 * room)
        begin = factor.copy()
        old = _gibbs(amounts, ln_f, there)
        for _halving in range(10):
            new = amounts + factor[:, None, None] * moves
            xn = _normal(np.where(there[:, :, None], new, new[:, :1]))
            fn = log_safe(xn) + states.ln_phi(xn)[0]
            gn = np.where(there[:, 1:, None] & present[:, None, :], fn[:, 1:] - fn[:, :1], 0.0)
            worse = (_gibbs(new, fn, there) > old + 1e-15 * (1.0 + np.abs(old))) & ~(
                np.abs(gn).max(axis=(1, 2)) < 0.7 * size
            )
            if not worse.any():
                break
            factor[worse] *= 0.35
        shift = np.where(factor < 0.3 * begin, np.maximum(3.0 * shift, 0.05), 0.2 * shift)
        amounts = np.where((size < TOLERANCE)[:, None, None], amounts, amounts + factor[:, None, None] * moves)
        # A phase that all but vanished has left: the others settle without it.
        gone = there & (amounts.sum(axis=-1) < 1e-12)
        gone[:, 0] = False
        if gone.any():
            amounts[:, 0] += np.where(gone[:, :, None], amounts, 0.0).sum(axis=1)
            amounts = np.where(gone[:, :, None], 0.0, amounts)
            there &= ~gone
    beta = amounts.sum(axis=-1)
    ln_phi, Z = states.ln_phi(x)
    beta = np.where(there, beta, 0.0)
    return _Trial(x[pick, back], beta[pick, back], ln_phi[pick, back], Z[pick, back]), size


def _energy(trial: _Trial) -> Array:
    """Return the Gibbs energy over R T of phases, but for what the pure components bring, (N,)."""
    ln_f = log_safe(trial.x) + trial.ln_phi
    return np.asarray((trial.beta[:, :, None] * trial.x * ln_f).sum(axis=(1, 2)))


def _gibbs(amounts: Array, ln_f: Array, there: Mask) -> Array:
    return np.asarray(np.where(there[:, :, None], amounts * ln_f, 0.0).sum(axis=(1, 2)))


def _arranged(states: _States, now: Phases, trial: _Trial, residual: Array, iterations: NDArray[np.int64]) -> Phases:
    """Return solved phases as states, the lighter first, phases that are one or not there left out."""
    n, p, nc = trial.x.shape
    beta = trial.beta.copy()
    for k in range(p):
        for j in range(k):
            same = (beta[:, k] > 0.0) & (beta[:, j] > 0.0)
            same &= (np.abs(trial.x[:, k] - trial.x[:, j]).max(axis=-1) < ALIKE) & (
                np.abs(trial.Z[:, k] / trial.Z[:, j] - 1.0) < 1e-5
            )
            beta[:, j] = np.where(same, beta[:, j] + beta[:, k], beta[:, j])
            beta[:, k] = np.where(same, 0.0, beta[:, k])
    beta /= beta.sum(axis=-1, keepdims=True)
    there = beta > 0.0
    flat = np.ascontiguousarray(trial.x.reshape(-1, nc))
    packing = states.prepared.packing(flat, trial.Z.reshape(-1)).reshape(n, p)
    cold = states.prepared.cold(flat).reshape(n, p)
    order = np.argsort(np.where(there, packing, np.inf), axis=1, kind="stable")
    pick = np.arange(n)[:, None]
    beta, packing, x, Z = (v[pick, order] for v in (beta, packing, trial.x, trial.Z))
    there, cold = there[pick, order], cold[pick, order]
    single = there.sum(axis=1) == 1
    dense = np.where(single, 1.0, DENSE)
    kind = np.full((n, p), Kind.LIQUID, dtype=np.int8)
    kind[:, 0] = np.where(cold[:, 0] & (packing[:, 0] > dense), Kind.LIQUID, Kind.VAPOUR)
    kind = np.where(there, kind, Kind.ABSENT).astype(np.int8)
    good = np.isfinite(residual) & (residual <= ACCEPTED)
    return Phases(
        now.T, now.P, now.z, kind, np.where(there, beta, 0.0), np.where(there[:, :, None], x, 0.0), np.where(there, Z, np.nan),
        np.zeros((n, p), dtype=np.int8), np.where(good, Reason.CONVERGED, Reason.NOT_CONVERGED).astype(np.int8), residual,
        iterations,
    )  # fmt: skip
