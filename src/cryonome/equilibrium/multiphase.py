"""Equilibria of up to three phases at given temperature and pressure, batched over states.

A two-phase result is tested for stability; where a further phase lowers the Gibbs energy, it joins. The phases' shares follow from
the convex function of Michelsen, Comput. Chem. Eng. 18, 545 (1994),

    Q = sum_k beta_k - sum_i z_i ln E_i,   E_i = sum_k beta_k/phi_ik,   beta_k >= 0

whose minimum also tells which phase is not there; compositions follow by substitution with extrapolation, and Newton steps on the
Gibbs energy (Michelsen and Mollerup 2007, ch. 11) finish what comes in slowly. A phase that is not there is dropped, and what is
left is tested again.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos import Equation, PreparedStates
from ..watch import UNWATCHED, Watch
from .flash import ACCEPTED, NOTHING, TOLERANCE, TRACE, flash_pt, seed_amount
from .linear import descent_step, extrapolate
from .naming import named
from .phases import Phases, Reason
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
PATIENCE = 3
"""Newton steps in turn that lower nothing however short, after which a state is given up."""
SHARE_STEPS = 50
OUTSIDE = 1e-5
"""Step of ln phi below which the composition of a phase that is not there counts as settled."""
SETTLING = 40
"""Substitutions that bring a trial to where it leads."""
BALANCE = 1e-9
"""Largest error of shares and of the balance of a component."""
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
    """Return two-phase states (N,) with the third phase of those that have one, and another pair where that is the stable one.

    Nothing that fails its last test is given out as found: of each state the phases' own stability, shares, balance and volumes are tested.
    """
    if eos.nc == 1:
        return _gate(two.widened(PLACES))
    # One place more than is looked for: a phase that joins three may take the place of one of them.
    out = two.widened(PLACES + 1)
    # A state that did not come in as two phases begins again as one, which its own test then splits.
    rows = np.flatnonzero(out.split | ~out.converged)
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        for number in range(ROUNDS):
            if rows.size == 0:
                break
            here = watch.part(number / ROUNDS, (number + 1) / ROUNDS)
            now, part = out.take(rows), eos.take(rows)
            state = part.prepare(now.T, now.P)
            x, d, known = _tangent(state, now)
            # Of all trials the deepest: one that has only just left another phase leads on too slowly.
            test = stability(part, now.T, now.P, x, True, here.part(0.0, 0.5), FURTHER, known, d)
            further = test.tm < FURTHER
            join = np.flatnonzero(further & (now.count <= PLACES))
            # What did not come in as two phases, and is known to be stable as one, is one.
            _say(out, rows[~further & ~now.converged & test.converged], Reason.CONVERGED)
            rows, now, part = rows[join], now.take(join), part.take(join)
            if rows.size == 0:
                break
            W = _settled(part, now.T, now.P, d[join], test.W[join])
            for count in range(1, PLACES + 1):
                # Phases come before empty places: of these one is taken.
                same = np.flatnonzero(now.count == count)
                if same.size:
                    begin = now.take(same).narrowed(count + 1)
                    found = _solve(part.take(same), begin, W[same], d[join][same], here.part(0.5, 1.0))
                    _put(out, rows[same], found.widened(PLACES + 1))
            solved = out.take(rows)
            # A fourth phase is beyond what is looked for: the state is not the answer, and says so.
            _say(out, rows[solved.count > PLACES], Reason.MORE_PHASES)
            # Whatever lost a phase, or found a further one, is tested anew.
            rows = rows[solved.converged & (solved.count <= PLACES)]
        _say(out, rows, Reason.NOT_CONVERGED)
    return _gate(out.narrowed(PLACES))


def _say(out: Phases, rows: Rows, reason: Reason) -> None:
    out.reason[rows] = reason


def _tangent(state: PreparedStates, now: Phases) -> tuple[Array, Array, list[KnownPhase]]:
    """Return the largest phase of N states (N, nc), ln of the fugacities over P that all their phases share (N, nc), each from the phase that has most of
    the component, and the other phases.

    In a phase that holds next to nothing of a component its fugacity could not be told.
    """
    n, p = now.kind.shape
    d, most = np.zeros(now.z.shape), np.full(now.z.shape, -1.0)
    for k in range(p):
        rows = np.flatnonzero(now.present[:, k])
        if rows.size == 0:
            break
        x = np.ascontiguousarray(now.composition[rows, k])
        richer = x > most[rows]
        ln_f = log_safe(x) + (state if rows.size == n else state.take(rows)).ln_phi(x)[0]
        d[rows], most[rows] = np.where(richer, ln_f, d[rows]), np.where(richer, x, most[rows])
    largest = np.argmax(now.fraction, axis=-1)
    test = np.where(now.z > 0.0, np.maximum(now.composition[np.arange(n), largest], 1e-300), 0.0)
    return np.ascontiguousarray(test), d, _others(now, largest)


def _gate(found: Phases) -> Phases:
    """Return states (N,) of which none passes for found that has no phases, shares or compositions that do not add up to the feed, or no volume."""
    there = found.present
    whole = np.where(there, found.fraction, 0.0)
    held = np.einsum("np,npi->ni", whole, np.where(there[..., None], found.composition, 0.0))
    with np.errstate(invalid="ignore"):
        good = there.any(axis=-1) & (np.abs(whole.sum(axis=-1) - 1.0) < BALANCE) & (whole >= 0.0).all(axis=-1)
        good &= (np.abs(held - found.z) < BALANCE).all(axis=-1) & np.where(there, found.Z > 0.0, True).all(axis=-1)
    bad = found.converged & ~good
    if not bad.any():
        return found
    return replace(found, reason=np.where(bad, Reason.NOT_CONVERGED, found.reason).astype(np.int8))


def _others(now: Phases, largest: Rows) -> list[KnownPhase]:
    """Return the phases of N states beside their largest, place by place."""
    away = np.arange(now.kind.shape[1]) == largest[:, None]
    Z = np.where(away | ~now.present, np.nan, now.Z)
    return [KnownPhase(now.composition[:, k], Z[:, k]) for k in range(Z.shape[1]) if np.isfinite(Z[:, k]).any()]


def _settled(eos: Equation, T: Array, P: Array, d: Array, W: Array) -> Array:
    """Return trial compositions (N, nc) nearer to where they lead; the test ends as soon as it has proved what it looks for.

    Substitution may run away from a strongly non-ideal trial: of all on its way the one of the lowest distance counts.
    """
    state = eos.prepare(T, P)
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
    """N states evaluated for p phases at once."""

    def __init__(self, prepared: PreparedStates, places: int) -> None:
        self.prepared, self.places = prepared, places

    @staticmethod
    def of(eos: Equation, T: Array, P: Array, places: int) -> _States:
        """Return the states at T and P (N,)."""
        each = np.repeat(np.arange(T.size), places)
        return _States(eos.take(each).prepare(T[each], P[each]), places)

    def take(self, rows: Rows) -> _States:
        """Return the states ``rows``."""
        each = (rows[:, None] * self.places + np.arange(self.places)).ravel()
        return _States(self.prepared.take(each), self.places)

    def ln_phi(self, x: Array) -> tuple[Array, Array]:
        """Return ln phi (N, p, nc) and Z (N, p) of x (N, p, nc)."""
        ln_phi, Z = self.prepared.ln_phi(np.ascontiguousarray(x.reshape(-1, x.shape[-1])))
        return ln_phi.reshape(x.shape), Z.reshape(x.shape[:2])


def _normal(x: Array) -> Array:
    total = x.sum(axis=-1, keepdims=True)
    return np.asarray(x / np.where(total > 0.0, total, 1.0))


def _solve(eos: Equation, now: Phases, W: Array, d: Array, watch: Watch) -> Phases:
    """Return the states (N,) of ``now`` with a further phase beginning at W (N, nc); ``d`` (N, nc) is their tangent plane."""
    n = W.shape[0]
    z = now.z
    each = np.arange(n)
    free = np.argmin(now.fraction, axis=-1)
    # Taken out of the phase that has most of it, in the amount that lowers the Gibbs energy most: all share one tangent plane.
    most = np.where(W[:, None, :] > 0.0, now.composition / np.maximum(W[:, None, :], 1e-300), np.inf).min(axis=-1)
    source = np.argmax(now.fraction * most, axis=-1)
    x0 = now.composition[each, source]
    seed = seed_amount(eos, now.T, now.P, x0, d, W)
    x, beta = now.composition.copy(), now.fraction.copy()
    x[each, free], x[each, source] = _normal(seed), _normal(x0 - seed)
    beta[each, free] = beta[each, source] * seed.sum(axis=-1)
    beta[each, source] -= beta[each, free]
    states = _States.of(eos, now.T, now.P, now.kind.shape[1])
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
    """Minimise the Gibbs energy in amounts; return the phases and the residual (N,).

    Of each component the phase that has most of it is what is left over, so that no amount is the small difference of two large ones. What a phase holds but
    traces of has no say in where the others go: it follows by substitution.
    """
    n, p, nc = start.x.shape
    all_there = start.beta > 1e-13
    all_amounts = np.where(all_there[:, :, None], start.beta[:, :, None] * start.x, 0.0)
    # The shares may be a little off the compositions: every component is there in full.
    total = all_amounts.sum(axis=1)
    all_amounts *= (z / np.where(total > 0.0, total, 1.0))[:, None, :]
    best, best_there, least = all_amounts.copy(), all_there.copy(), np.full(n, np.inf)
    live = np.arange(n)
    amounts, there, present, here = all_amounts, all_there, z > 0.0, states
    shift, stuck = np.zeros(n), np.zeros(n, dtype=np.int64)
    m = (p - 1) * nc
    index, eye, phase = np.arange(m), np.arange(nc), np.arange(p)
    for _ in range(NEWTON_STEPS):
        watch.check()
        x = _filled(amounts, there)
        found = here.prepared.derivatives(np.ascontiguousarray(x.reshape(-1, nc)))
        ln_phi, dn = found.ln_phi.reshape(x.shape), found.dln_phi_dn.reshape(*x.shape, nc)
        ends = _Ends.of(x, amounts, there, present, ln_phi)
        better = ends.size < least[live]
        rows = live[better]
        best[rows], best_there[rows], least[rows] = amounts[better], there[better], ends.size[better]
        going = (ends.size >= TOLERANCE) & (stuck < PATIENCE)
        if not going.any():
            break
        if not going.all():
            live, here = live[going], here.take(np.flatnonzero(going))
            amounts, x, ln_phi, dn = amounts[going], x[going], ln_phi[going], dn[going]
            there, present = there[going], present[going]
            shift, stuck, ends = shift[going], stuck[going], ends.take(going)
        k = live.size
        g = np.where(ends.scant, 0.0, ends.g)
        scale = np.sqrt(ends.held * ends.most_held / np.maximum(ends.held + ends.most_held, 1e-300))
        scale = np.where(ends.free & ~ends.scant, scale, 0.0)
        whole = np.maximum(amounts.sum(axis=-1), 1e-300)
        dn = (dn - 1.0) / whole[:, :, None, None]
        dn[:, :, eye, eye] += np.where(amounts > 0.0, 1.0 / np.maximum(amounts, 1e-300), 0.0)
        dn[~there] = 0.0
        away, most = ends.away, ends.most
        sign = (away[:, None] == phase[:, None, None]).astype(float) - (most[:, None, None, :] == phase[:, None, None])
        sign *= scale[:, None]
        H = np.zeros((k, p - 1, nc, p - 1, nc))
        for j in range(p):
            H += sign[:, j, :, :, None, None] * dn[:, j][:, None, :, None, :] * sign[:, j][:, None, None, :, :]
        H = H.reshape(k, m, m)
        H[:, index, index] += np.where(scale.reshape(k, m) > 0.0, shift[:, None], 1.0)
        step = descent_step(H, (scale * g).reshape(k, m)).reshape(k, p - 1, nc) * scale
        moves, settled = ends.spread(step), ends.spread(ends.traces(amounts))
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            room = np.where(moves < 0.0, amounts / -moves, np.inf).min(axis=(1, 2))
        factor = np.minimum(1.0, 0.9 * room)
        begin = factor.copy()
        size, old = np.abs(g).max(axis=(1, 2)), _gibbs(amounts, log_safe(x) + ln_phi, there)
        for _halving in range(10):
            new = amounts + factor[:, None, None] * moves
            xn = _filled(new, there)
            fn = log_safe(xn) + here.ln_phi(xn)[0]
            gn = np.take_along_axis(fn, away, axis=1) - np.take_along_axis(fn, most[:, None, :], axis=1)
            new_size = np.abs(np.where(ends.free & ~ends.scant, gn, 0.0)).max(axis=(1, 2))
            worse = (_gibbs(new, fn, there) > old + 1e-15 * (1.0 + np.abs(old))) & ~(new_size < 0.7 * size)
            if not worse.any():
                break
            factor[worse] *= 0.35
        stuck = np.where(worse | ~np.isfinite(new_size), stuck + 1, 0)
        shift = np.where(factor < 0.3 * begin, np.maximum(3.0 * shift, 0.05), 0.2 * shift)
        amounts = np.maximum(amounts + factor[:, None, None] * moves + settled, 0.0)
        # A phase that all but vanished has left: the others settle without it.
        gone = there & (amounts.sum(axis=-1) < 1e-12)
        if gone.any():
            lost = np.where(gone[:, :, None], amounts, 0.0)
            amounts -= lost
            keep = np.argmax(amounts, axis=1)[:, None, :]
            held = np.take_along_axis(amounts, keep, axis=1) + lost.sum(axis=1, keepdims=True)
            np.put_along_axis(amounts, keep, held, axis=1)
            there = there & ~gone
            least[live[gone.any(axis=1)]] = np.inf
    x = _filled(best, best_there)
    ln_phi, Z = states.ln_phi(x)
    return _Trial(x, np.where(best_there, best.sum(axis=-1), 0.0), ln_phi, Z), least


@dataclass
class _Ends:
    """How far N states of p phases are from equal fugacities: by component the place of the phase that has ``most`` (N, nc) and of those ``away`` from it
    (N, p - 1, nc), what these and it hold, whether they are ``free`` to change, hold but traces (``scant``), the differences ``g`` of ln f, what equal
    fugacity ``wanted``, and the largest difference ``size`` (N,)."""

    most: Rows
    away: Rows
    held: Array
    most_held: Array
    free: Mask
    scant: Mask
    g: Array
    wanted: Array
    size: Array

    @staticmethod
    def of(x: Array, amounts: Array, there: Mask, present: Mask, ln_phi: Array) -> _Ends:
        phase = np.arange(x.shape[1])
        most = np.argmax(amounts, axis=1)
        order = np.argsort(np.where(phase[:, None] == most[:, None, :], -1, phase[:, None]), axis=1, kind="stable")
        away, ln_f = order[:, 1:], log_safe(x) + ln_phi
        own, held, far = (np.take_along_axis(v, away, axis=1) for v in (ln_f, amounts, x))
        top, most_held = (np.take_along_axis(v, most[:, None, :], axis=1) for v in (ln_f, amounts))
        free = np.take_along_axis(np.broadcast_to(there[:, :, None], x.shape), away, axis=1) & present[:, None, :]
        wanted = top - np.take_along_axis(ln_phi, away, axis=1)
        scant = free & (far < TRACE)
        g = np.where(free & ~(scant & (wanted < NOTHING)), own - top, 0.0)
        return _Ends(most, away, held, most_held, free, scant, g, wanted, np.abs(g).max(axis=(1, 2)))

    def take(self, rows: Mask) -> _Ends:
        """Return those of the states ``rows``."""
        return _Ends(*(getattr(self, f.name)[rows] for f in fields(self)))

    def spread(self, step: Array) -> Array:
        """Return changes (N, p, nc) of all amounts from those of the phases away from the richest (N, p - 1, nc)."""
        n, _, nc = step.shape
        out = np.zeros((n, step.shape[1] + 1, nc))
        np.put_along_axis(out, self.away, step, axis=1)
        np.put_along_axis(out, self.most[:, None, :], -step.sum(axis=1, keepdims=True), axis=1)
        return out

    def traces(self, amounts: Array) -> Array:
        """Return the changes (N, p - 1, nc) that bring traces at once to what equal fugacity wants, short of becoming more than that."""
        whole = np.take_along_axis(np.broadcast_to(amounts.sum(axis=-1)[:, :, None], amounts.shape), self.away, axis=1)
        goal = np.exp(np.minimum(self.wanted, np.log(10.0 * TRACE))) * whole
        return np.where(self.scant, goal - self.held, 0.0)


def _filled(amounts: Array, there: Mask) -> Array:
    """Return compositions (N, p, nc), of phases that are not there those of the largest."""
    whole = amounts.sum(axis=-1)
    largest = amounts[np.arange(len(whole)), np.argmax(whole, axis=-1)]
    return _normal(np.where(there[:, :, None], amounts, largest[:, None, :]))


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
    pick = np.arange(n)[:, None]
    flat = np.ascontiguousarray(trial.x.reshape(-1, nc))
    packing = states.prepared.packing(flat, trial.Z.reshape(-1)).reshape(n, p)
    kind, order = named(packing, states.prepared.cold(flat).reshape(n, p), there)
    beta, x, Z = (v[pick, order] for v in (beta, trial.x, trial.Z))
    kind, there = kind[pick, order], there[pick, order]
    good = np.isfinite(residual) & (residual <= ACCEPTED)
    return Phases(
        now.T, now.P, now.z, kind, np.where(there, beta, 0.0), np.where(there[:, :, None], x, 0.0), np.where(there, Z, np.nan),
        np.zeros((n, p), dtype=np.int8), np.where(good, Reason.CONVERGED, Reason.NOT_CONVERGED).astype(np.int8), residual,
        iterations,
    )  # fmt: skip
