"""Two-phase flash at given temperature and pressure, batched over states.

Successive substitution with extrapolation brings most states near the answer; Newton's method on the Gibbs
energy (Michelsen, Fluid Phase Equilib. 9, 21, 1982; Michelsen and Mollerup 2007, ch. 10) finishes, and is
what converges near critical points. A stability test decides wherever substitution does not itself prove a
split.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos.cubic import CubicEos, CubicState
from .linear import descent_step, extrapolate
from .rachford_rice import solve_fraction
from .stability import log_safe, stability
from .wilson import wilson_ln_k

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

_Split = tuple[Array, Array, Array, Array, Array, Array, NDArray[np.int64], Mask]
"""Fraction, x, y, Z_x, Z_y, residual, iterations and whether it collapsed to one phase, of N states."""

CHUNK = 5000
"""States solved together; small enough for the working arrays to stay in the processor's cache."""

PROBE_STEPS = 3
SUBSTITUTIONS = 25
NEWTON_STEPS = 40
SHALLOW = -1e-12
"""A tangent plane distance above this is within the round-off of a flash."""

TOLERANCE = 1e-11
"""On the largest difference of ln fugacity between the phases."""


@dataclass(frozen=True)
class FlashResult:
    """The equilibrium of N states (any leading shape).

    ``vapour_fraction`` (...) moles of the lighter phase per mole of feed, 0 or 1 for a single phase;
    ``two_phase`` (...); ``x`` heavier and ``y`` lighter phase (..., nc), both equal to the feed for a single
    phase; ``Z_x``, ``Z_y`` (...); ``liquid_x``, ``liquid_y`` (...) which of the two is a liquid; ``converged``
    (...); ``residual`` (...) largest difference of ln fugacity; ``iterations`` (...).
    """

    T: Array
    P: Array
    vapour_fraction: Array
    two_phase: Mask
    x: Array
    y: Array
    Z_x: Array
    Z_y: Array
    liquid_x: Mask
    liquid_y: Mask
    converged: Mask
    residual: Array
    iterations: NDArray[np.int64]


def check_state(T: Array, P: Array, z: Array, nc: int) -> None:
    """Raise ValueError where a temperature, a pressure or a composition is not physical."""
    if z.shape[-1] != nc:
        raise ValueError(f"the composition has {z.shape[-1]} components, the equation of state {nc}")
    if not (np.isfinite(T).all() and (T > 0.0).all()):
        raise ValueError("temperature must be above 0 K")
    if not (np.isfinite(P).all() and (P > 0.0).all()):
        raise ValueError("pressure must be above 0 Pa")
    if not (np.isfinite(z).all() and (z >= 0.0).all()) or (z.sum(axis=-1) <= 0.0).any():
        raise ValueError("mole numbers must be zero or more, with at least one above zero")


def flash_pt(eos: CubicEos, T: ArrayLike, P: ArrayLike, z: ArrayLike) -> FlashResult:
    """Flash feeds at temperature and pressure.

    T (...) K, P (...) Pa, z (..., nc) mole numbers (normalised here), broadcast together. Raises ValueError
    for unphysical input. Returns a :class:`FlashResult` of the broadcast leading shape.
    """
    T, P, z = np.asarray(T, float), np.asarray(P, float), np.asarray(z, float)
    check_state(T, P, z, eos.nc)
    shape = np.broadcast_shapes(T.shape, P.shape, z.shape[:-1])
    T1 = np.broadcast_to(T, shape).reshape(-1)
    P1 = np.broadcast_to(P, shape).reshape(-1)
    z1 = np.broadcast_to(z / z.sum(axis=-1, keepdims=True), (*shape, eos.nc)).reshape(-1, eos.nc)
    # Trials may overflow on the way; what comes of them is judged, not trusted.
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        parts = [
            _flash_chunk(
                eos.take(slice(i, i + CHUNK)),
                T1[i : i + CHUNK],
                P1[i : i + CHUNK],
                np.ascontiguousarray(z1[i : i + CHUNK]),
            )
            for i in range(0, max(T1.size, 1), CHUNK)
        ]

    def join(name: str) -> NDArray:  # type: ignore[type-arg]
        values = [getattr(part, name) for part in parts]
        joined = values[0] if len(values) == 1 else np.concatenate(values)
        return joined.reshape(shape + joined.shape[1:])

    return FlashResult(**{name: join(name) for name in FlashResult.__dataclass_fields__})


def _flash_chunk(eos: CubicEos, T: Array, P: Array, z: Array) -> FlashResult:
    n = T.size
    state = eos.prepare(T, P)
    ln_phi_z, Z_feed = state.ln_phi(z)
    d = log_safe(z) + ln_phi_z
    iterations = np.zeros(n, dtype=np.int64)

    ln_k = wilson_ln_k(eos.Tc, eos.Pc, eos.omega, T, P)
    split, ln_k, beta = _probe(state, z, d, ln_k)
    iterations += PROBE_STEPS

    converged = np.ones(n, dtype=bool)
    unsure = np.flatnonzero(~split)
    if unsure.size:
        sub = eos.take(unsure)
        test = stability(sub, T[unsure], P[unsure], z[unsure], state.take(unsure))
        iterations[unsure] += test.iterations
        converged[unsure] = test.converged
        found = unsure[test.unstable]
        split[found] = True
        # Some of the trial phase beside what is left of the feed: a pair that is known to lower the Gibbs energy.
        W = test.W[test.unstable]
        seed = _seed_amount(state.take(found), z[found], d[found], W / W.sum(axis=-1, keepdims=True))
        beta[found], ln_k[found] = _orient(state.take(found), z[found] - seed, seed)

    x, y = z.copy(), z.copy()
    Z_x, Z_y = Z_feed.copy(), Z_feed.copy()
    residual = np.zeros(n)
    rows = np.flatnonzero(split)
    if rows.size:
        failed = _store_split(state, z, d, ln_k, beta, rows, x, y, Z_x, Z_y, residual, iterations)
        if failed.size:
            # Start again from the deepest trial of a full stability test.
            test = stability(eos.take(failed), T[failed], P[failed], z[failed], state.take(failed), every_trial=True)
            iterations[failed] += test.iterations
            again = failed[test.unstable]
            split[failed[~test.unstable]] = False
            converged[failed[~test.unstable]] = test.converged[~test.unstable]
            W = test.W[test.unstable]
            seed = _seed_amount(state.take(again), z[again], d[again], W / W.sum(axis=-1, keepdims=True))
            out = _newton(state.take(again), z[again], d[again], z[again] - seed, seed)
            lost = _store(out, again, x, y, Z_x, Z_y, beta, residual, iterations)
            # A split so shallow that the phases merge within round-off is one phase for every purpose.
            shallow = test.tm[np.searchsorted(failed, lost)] > SHALLOW
            split[lost] = False
            x[lost], y[lost], Z_x[lost], Z_y[lost] = z[lost], z[lost], Z_feed[lost], Z_feed[lost]
            residual[lost] = np.where(shallow, 0.0, np.inf)
            converged[lost] = shallow

    swap = split & _lighter_is_x(state, x, y, Z_x, Z_y)
    if swap.any():
        x[swap], y[swap] = y[swap], x[swap]
        Z_x[swap], Z_y[swap] = Z_y[swap], Z_x[swap]
        beta[swap] = 1.0 - beta[swap]
    liquid_x = eos.is_liquid_like(T, P, x, Z_x)
    liquid_y = liquid_x.copy()
    if split.any():
        # With two phases the lighter is a vapour unless it is clearly as dense as a liquid.
        A, B, _ = state.mixture(y)
        dense = (eos.form.omega_a / eos.form.omega_b < A / B) & (Z_y / B < 0.48 * eos.form.critical_volume_ratio)
        liquid_y = np.where(split, dense, liquid_y)
        liquid_x = np.where(split, True, liquid_x)
    beta = np.where(split, beta, np.where(liquid_x, 0.0, 1.0))
    return FlashResult(T, P, beta, split, x, y, Z_x, Z_y, liquid_x, liquid_y, converged, residual, iterations)


def _store_split(
    state: CubicState,
    z: Array,
    d: Array,
    ln_k: Array,
    beta: Array,
    rows: NDArray[np.intp],
    x: Array,
    y: Array,
    Z_x: Array,
    Z_y: Array,
    residual: Array,
    iterations: NDArray[np.int64],
) -> NDArray[np.intp]:
    """Solve the split states ``rows`` into the given arrays; return the rows that failed."""
    if rows.size == 0:
        return rows
    out = _solve_split(state.take(rows), z[rows], d[rows], ln_k[rows], beta[rows])
    return _store(out, rows, x, y, Z_x, Z_y, beta, residual, iterations)


def _store(
    out: _Split,
    rows: NDArray[np.intp],
    x: Array,
    y: Array,
    Z_x: Array,
    Z_y: Array,
    beta: Array,
    residual: Array,
    iterations: NDArray[np.int64],
) -> NDArray[np.intp]:
    """Store what converged of ``out`` at ``rows`` of the given arrays; return the rows that did not."""
    b, xs, ys, zx, zy, res, used, collapsed = out
    iterations[rows] += used
    bad = collapsed | (res > 1e-9)
    good, keep = rows[~bad], ~bad
    x[good], y[good], Z_x[good], Z_y[good] = xs[keep], ys[keep], zx[keep], zy[keep]
    beta[good], residual[good] = b[keep], res[keep]
    return rows[bad]


def _seed_amount(state: CubicState, z: Array, d: Array, w: Array) -> Array:
    """Return amounts (N, nc) of a second phase of composition w that lower the Gibbs energy of the feed.

    w has a negative tangent plane distance, so a small enough amount always does.
    """
    with np.errstate(divide="ignore"):
        most = np.where(w > 0.0, z / w, np.inf).min(axis=-1)
    ln_w, _ = state.ln_phi(w)
    distance = np.einsum("ij,ij->i", w, log_safe(w) + ln_w - d)
    best, best_gibbs = 1e-6 * most, np.zeros(z.shape[0])
    for part in (0.9, 0.6, 0.3, 0.1, 0.03, 0.01, 1e-3, 1e-4):
        amount = part * most
        rest = z - amount[:, None] * w
        total = rest.sum(axis=-1)
        x = rest / total[:, None]
        ln_x, _ = state.ln_phi(x)
        gibbs = amount * distance + total * np.einsum("ij,ij->i", x, log_safe(x) + ln_x - d)
        lower = gibbs < best_gibbs
        best, best_gibbs = np.where(lower, amount, best), np.where(lower, gibbs, best_gibbs)
    return np.asarray(best[:, None] * w)


def _lighter_is_x(state: CubicState, x: Array, y: Array, Z_x: Array, Z_y: Array) -> Mask:
    """Tell where the phase called x has the larger volume per unit of covolume, (N,)."""
    B_x = np.einsum("ij,ij->i", x, state.B)
    B_y = np.einsum("ij,ij->i", y, state.B)
    return np.asarray(Z_x / B_x > Z_y / B_y)


def _orient(state: CubicState, first: Array, second: Array) -> tuple[Array, Array]:
    """Return the fraction (N,) and ln K (N, nc) of two phases of given amounts (N, nc), the lighter as the vapour."""
    n1, n2 = first.sum(axis=-1), second.sum(axis=-1)
    x, y = first / n1[:, None], second / n2[:, None]
    ratio = log_safe(y) - log_safe(x)
    light = _lighter_is_x(state, y, x, state.ln_phi(y)[1], state.ln_phi(x)[1])
    return np.where(light, n2, n1) / (n1 + n2), np.where(light[:, None], ratio, -ratio)


def _probe(state: CubicState, z: Array, d: Array, ln_k: Array) -> tuple[Mask, Array, Array]:
    """Take a few substitution steps and tell which states they prove to be split, (N,).

    Proof is a phase pair of lower Gibbs energy than the feed. Returns also ln K (N, nc) and the fraction (N,).
    """
    beta: Array | None = None
    split = np.zeros(z.shape[0], dtype=bool)
    for step in range(PROBE_STEPS):
        K = np.exp(np.clip(ln_k, -300.0, 300.0))
        beta, exists = solve_fraction(K, z, beta)
        beta = np.clip(beta, 0.0, 1.0)
        x = z / (1.0 + beta[:, None] * (K - 1.0))
        y = K * x
        x /= x.sum(axis=-1, keepdims=True)
        y /= y.sum(axis=-1, keepdims=True)
        ln_x, _ = state.ln_phi(x)
        ln_y, _ = state.ln_phi(y)
        if step == PROBE_STEPS - 1:
            gibbs = (1.0 - beta) * np.einsum("ij,ij->i", x, log_safe(x) + ln_x - d)
            gibbs += beta * np.einsum("ij,ij->i", y, log_safe(y) + ln_y - d)
            split = (gibbs < -1e-8) & exists & (beta > 0.0) & (beta < 1.0)
        ln_k = ln_x - ln_y
    assert beta is not None
    return split, ln_k, beta


def _solve_split(state: CubicState, z: Array, d: Array, ln_k: Array, beta: Array) -> _Split:
    """Converge states known to be split.

    Returns the fraction, x, y, Z_x, Z_y, residual, iterations and whether it fell back to one phase.
    """
    n = z.shape[0]
    o_beta, o_x, o_y = beta.copy(), z.copy(), z.copy()
    o_zx, o_zy = np.ones(n), np.ones(n)
    residual, collapsed = np.full(n, np.inf), np.zeros(n, dtype=bool)
    iterations = np.zeros(n, dtype=np.int64)
    live = np.arange(n)
    history: list[Array] = []

    def store(rows: NDArray[np.intp], mask: Mask, b: Array, x: Array, y: Array, zx: Array, zy: Array, r: Array) -> None:
        o_beta[rows], o_x[rows], o_y[rows] = b[mask], x[mask], y[mask]
        o_zx[rows], o_zy[rows], residual[rows] = zx[mask], zy[mask], r[mask]

    for iteration in range(SUBSTITUTIONS):
        K = np.exp(np.clip(ln_k, -300.0, 300.0))
        beta, exists = solve_fraction(K, z, beta)
        x = z / (1.0 + beta[:, None] * (K - 1.0))
        y = K * x
        sx, sy = x.sum(axis=-1, keepdims=True), y.sum(axis=-1, keepdims=True)
        ln_x, zx = state.ln_phi(x / sx)
        ln_y, zy = state.ln_phi(y / sy)
        step = ln_x - ln_y - ln_k
        size = np.abs(step).max(axis=-1, where=z > 0.0, initial=0.0)
        iterations[live] += 1
        inside = exists & (beta > 0.0) & (beta < 1.0)
        stop = (size < TOLERANCE) & inside
        lost = ~exists & (iteration > 2)
        if stop.any() or lost.any():
            store(live[stop], stop, beta, x, y, zx, zy, size)
            collapsed[live[lost]] = True
            keep = ~(stop | lost)
            if not keep.any():
                return o_beta, o_x, o_y, o_zx, o_zy, residual, iterations, collapsed
            live, z, d, ln_k, step, beta = live[keep], z[keep], d[keep], ln_k[keep], step[keep], beta[keep]
            state, size = state.take(keep), size[keep]
            history = [old[keep] for old in history]
        ln_k = ln_k + step
        if iteration % 5 == 4:
            ln_k = ln_k + extrapolate(step, history)
        history = [step, *history[:1]]

    K = np.exp(np.clip(ln_k, -300.0, 300.0))
    beta, exists = solve_fraction(K, z, beta)
    # A fraction outside the unit interval is no start for a descent: those begin anew from their trial phase.
    start = exists & (beta > 0.0) & (beta < 1.0)
    collapsed[live] = ~start
    live, z, d, K, beta, state = live[start], z[start], d[start], K[start], beta[start], state.take(start)
    if live.size == 0:
        return o_beta, o_x, o_y, o_zx, o_zy, residual, iterations, collapsed
    liquid = (1.0 - beta)[:, None] * z / (1.0 + beta[:, None] * (K - 1.0))
    vapour = np.where(liquid < 0.5 * z, z - liquid, (beta / (1.0 - beta))[:, None] * K * liquid)
    out = _newton(state, z, d, liquid, vapour)
    o_beta[live], o_x[live], o_y[live], o_zx[live], o_zy[live], residual[live], used, collapsed[live] = out
    iterations[live] += used
    return o_beta, o_x, o_y, o_zx, o_zy, residual, iterations, collapsed


def _newton(state: CubicState, z: Array, d: Array, liquid: Array, vapour: Array) -> _Split:
    """Minimise the Gibbs energy in the vapour's mole numbers; same returns as _solve_split.

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
        L, V = liquid.sum(axis=-1), vapour.sum(axis=-1)
        x, y = liquid / L[:, None], vapour / V[:, None]
        px, py = state.derivatives(x), state.derivatives(y)
        ln_fx, ln_fy = log_safe(x) + px.ln_phi, log_safe(y) + py.ln_phi
        g = np.where(present, ln_fy - ln_fx, 0.0)
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
        gibbs = V * np.einsum("ij,ij->i", y, ln_fy - d) + L * np.einsum("ij,ij->i", x, ln_fx - d)
        dny, dnx = py.dln_phi_dn, px.dln_phi_dn
        if not keep.all():
            live, z, d, shift, present = live[keep], z[keep], d[keep], shift[keep], present[keep]
            liquid, vapour, x, y, L, V = liquid[keep], vapour[keep], x[keep], y[keep], L[keep], V[keep]
            g, gibbs, size, dny, dnx, state = g[keep], gibbs[keep], size[keep], dny[keep], dnx[keep], state.take(keep)
        with np.errstate(divide="ignore", invalid="ignore"):
            scale = np.where(present, np.sqrt(x * y / z), 0.0)
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
            value = Vn * np.einsum("ij,ij->i", yn, fy - d) + Ln * np.einsum("ij,ij->i", xn, fx - d)
            # Close to the answer the Gibbs energy no longer tells: the gradient does.
            new_size = np.abs(np.where(present, fy - fx, 0.0)).max(axis=-1)
            worse = (value > gibbs + 1e-15 * (1.0 + np.abs(gibbs))) & ~(new_size < 0.7 * size)
            if not worse.any():
                break
            factor[worse] *= 0.35
        shift = np.where(factor < 0.3 * start, np.maximum(3.0 * shift, 0.05), 0.2 * shift)
        liquid, vapour = new_l, new_v

    L, V = best_l.sum(axis=-1), best_v.sum(axis=-1)
    return V / (L + V), best_l / L[:, None], best_v / V[:, None], best_zx, best_zy, residual, iterations, collapsed
