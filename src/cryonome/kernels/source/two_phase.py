"""Two-phase flash of one state at given temperature and pressure; method and sources in
:mod:`cryonome.equilibrium.flash`.

Work: the rows of one matrix ``w`` (ROWS, nc), three matrices, and whole numbers for pivots. A split is told by its
numbers :data:`RESULT` long: the fraction of y, Z of x and of y, the residual, iterations, and whether it fell back to
one phase."""

from math import exp, sqrt

from . import table as eos
from .guesses import accelerate, exp_all, log_safe, wilson
from .linear import descent, normalise, total
from .marks import F1, F2, F3, I1, I2, entry, inner, matrix, unit
from .rachford_rice import SETTLED, fraction
from .stability import ROWS as TEST_ROWS
from .stability import tested

PROBE_STEPS = 3
SUBSTITUTIONS, NEAR_SUBSTITUTIONS = 16, 5
"""Substitutions before Newton's method takes over: for any state, and for one that begins near its answer."""
ROUGH = 1e-4
"""Tolerance of the vapour fraction while substitution is far from its end, relative to the distance to a pole."""
NEWTON_STEPS = 40
SHALLOW = -1e-12
"""A tangent plane distance above this is within the round-off of a flash."""
TOLERANCE = 1e-11
"""On the largest difference of ln fugacity between the phases."""
TRACE = 1e-10
"""Mole fraction below which a component of a phase is left out of the Newton step of the others."""
NOTHING = -500.0
"""ln of the mole fraction below which a component counts as absent from a phase."""
LN_TRACES = -20.72326583694641
"""ln of ten times TRACE."""
ACCEPTED = 1e-9
"""Largest difference of ln fugacity at which a split counts as solved."""

BETA, Z_X, Z_Y, RESIDUAL, ITERATIONS, COLLAPSED = range(6)
RESULT = 6

ROWS = TEST_ROWS + 20
"""Vectors of work: those of a stability test first."""


@inner
def gibbs_of(x: F1, ln_phi: F1, d: F1, nc: int) -> float:
    """Return sum x (ln x + ln phi - d)."""
    s = 0.0
    for i in range(nc):
        if x[i] > 0.0:
            s += x[i] * (log_safe(x[i]) + ln_phi[i] - d[i])
    return s


@inner
def _phases_of(z: F1, K: F1, c: F1, beta: float, nc: int, x: F1, y: F1) -> None:
    """Put the compositions of both phases in x and y, normalised; c is K - 1, in which a small K is lost."""
    for i in range(nc):
        x[i] = z[i] / (1.0 + beta * c[i])
        y[i] = K[i] * x[i]
    normalise(x, nc)
    normalise(y, nc)


@inner
def _probed(table: I1, p: F1, st: F1, nc: int, z: F1, d: F1, ln_k: F1, w: F2) -> tuple[bool, float]:
    """Take a few substitution steps; return whether they prove a split, by a pair of lower Gibbs energy than the
    feed, and the fraction."""
    x, y, fx, fy, c, K = w[0], w[1], w[2], w[3], w[4], w[5]
    beta, split = 0.5, False
    for step in range(PROBE_STEPS):
        exp_all(ln_k, 300.0, K, nc)
        for i in range(nc):
            c[i] = K[i] - 1.0
        beta, exists = fraction(c, z, nc, beta, ROUGH)
        beta = min(max(beta, 0.0), 1.0)
        _phases_of(z, K, c, beta, nc, x, y)
        eos.ln_phi(table, p, st, nc, x, 0, fx)
        eos.ln_phi(table, p, st, nc, y, 0, fy)
        if step == PROBE_STEPS - 1 and exists and 0.0 < beta < 1.0:
            split = (1.0 - beta) * gibbs_of(x, fx, d, nc) + beta * gibbs_of(y, fy, d, nc) < -1e-8
        for i in range(nc):
            ln_k[i] = fx[i] - fy[i]
    return split, beta


@unit
def seeded(table: I1, p: F1, st: F1, nc: int, z: F1, d: F1, trial: F1, w: F2, seed: F1) -> int:
    """Put an amount of a second phase of composition ``trial`` that lowers the Gibbs energy of z in ``seed``; it has
    a negative tangent plane distance, so a small enough amount always does."""
    x, ln_phi = w[0], w[1]
    most = 1e300
    for i in range(nc):
        if trial[i] > 0.0:
            most = min(most, z[i] / trial[i])
    eos.ln_phi(table, p, st, nc, trial, 0, ln_phi)
    distance = gibbs_of(trial, ln_phi, d, nc)
    best, lowest = 1e-6 * most, 0.0
    for part in (0.9, 0.6, 0.3, 0.1, 0.03, 0.01, 1e-3, 1e-4):
        amount = part * most
        for i in range(nc):
            x[i] = z[i] - amount * trial[i]
        rest = normalise(x, nc)
        eos.ln_phi(table, p, st, nc, x, 0, ln_phi)
        value = amount * distance + rest * gibbs_of(x, ln_phi, d, nc)
        if value < lowest:
            best, lowest = amount, value
    for i in range(nc):
        seed[i] = best * trial[i]
    return 0


@inner
def _oriented(table: I1, p: F1, st: F1, nc: int, z: F1, seed: F1, w: F2, ln_k: F1) -> float:
    """Return the fraction of two phases, one of amount ``seed`` and the rest of z, the lighter as the vapour, and put
    ln K in place."""
    x, y, ln_phi, place = w[0], w[1], w[2], w[3]
    for i in range(nc):
        x[i], y[i] = z[i] - seed[i], seed[i]
    first, second = normalise(x, nc), normalise(y, nc)
    for i in range(nc):
        ln_k[i] = log_safe(y[i]) - log_safe(x[i])
    two = place[:2]
    Z = eos.ln_phi(table, p, st, nc, y, 0, ln_phi)
    eos.place(table, p, st, nc, y, Z, two)
    thin = two[0]
    Z = eos.ln_phi(table, p, st, nc, x, 0, ln_phi)
    eos.place(table, p, st, nc, x, Z, two)
    if thin < two[0]:
        return second / (first + second)
    for i in range(nc):
        ln_k[i] = -ln_k[i]
    return first / (first + second)


@unit
def solved_split(
    table: I1, p: F1, st: F1, nc: int, z: F1, d: F1, ln_k: F1, beta: float, few: int, w: F2, H: F2, A: F2, dn: F1, dm: F1, order: F1,
    x: F1, y: F1, out: F1,
) -> int:  # fmt: skip
    """Converge a state known to be split: accelerated substitution, then Newton's method. Compositions come in x and
    y, the rest in ``out``."""
    c, fx, fy, step, before_k, before_step, weight, extra = w[2], w[3], w[4], w[5], w[6], w[7], w[8], w[9]
    K = w[12]
    out[COLLAPSED], out[RESIDUAL], out[ITERATIONS] = 0.0, 1e300, 0.0
    smallest = 1e300
    for number in range(few):
        exp_all(ln_k, 300.0, K, nc)
        for i in range(nc):
            c[i] = K[i] - 1.0
        # Far from the answer the fraction need not be exact; what ends the iteration always is.
        rough = smallest > 1e-4
        beta, exists = fraction(c, z, nc, beta, ROUGH if rough else SETTLED)
        _phases_of(z, K, c, beta, nc, x, y)
        Zx = eos.ln_phi(table, p, st, nc, x, 0, fx)
        Zy = eos.ln_phi(table, p, st, nc, y, 0, fy)
        size = 0.0
        for i in range(nc):
            step[i] = fx[i] - fy[i] - ln_k[i] if z[i] > 0.0 else 0.0
            size += step[i] * step[i]
        # The sum of squares is never less than the largest square: a small norm means that every component agrees.
        size = sqrt(size)
        out[ITERATIONS] += 1.0
        if not exists and number > 2:
            out[COLLAPSED] = 1.0
            return 0
        if size < TOLERANCE and exists and 0.0 < beta < 1.0 and not rough:
            out[BETA], out[Z_X], out[Z_Y], out[RESIDUAL] = beta, Zx, Zy, size
            return 0
        smallest = size
        if number > 0:
            for i in range(nc):
                weight[i] = x[i] * y[i] / max(z[i], 1e-300)
            accelerate(ln_k, step, before_k, before_step, weight, nc, extra)
        for i in range(nc):
            before_k[i], before_step[i] = ln_k[i], step[i]
            ln_k[i] += step[i] + (extra[i] if number > 0 else 0.0)
    for i in range(nc):
        K[i] = exp(min(max(ln_k[i], -300.0), 300.0))
        c[i] = K[i] - 1.0
    beta, exists = fraction(c, z, nc, beta, SETTLED)
    # Descent needs amounts of both phases: a state whose fraction left 0 to 1 begins anew from its trial phase.
    if not (exists and 0.0 < beta < 1.0):
        out[COLLAPSED] = 1.0
        return 0
    liquid, vapour = w[10], w[11]
    for i in range(nc):
        liquid[i] = (1.0 - beta) * z[i] / (1.0 + beta * c[i])
        vapour[i] = z[i] - liquid[i] if liquid[i] < 0.5 * z[i] else beta / (1.0 - beta) * K[i] * liquid[i]
    return descended(table, p, st, nc, z, d, liquid, vapour, w, H, A, dn, dm, order, x, y, out)


@unit
def descended(
    table: I1, p: F1, st: F1, nc: int, z: F1, d: F1, liquid: F1, vapour: F1, w: F2, H: F2, A: F2, dn: F1, dm: F1, order: F1,
    x: F1, y: F1, out: F1,
) -> int:  # fmt: skip
    """Minimise the Gibbs energy in the vapour's mole numbers from amounts ``liquid`` and ``vapour``, which are rows
    10 and 11 of ``w``.

    The variables are scaled by sqrt(x_i y_i / z_i), which makes the Hessian times V L the identity for ideal phases
    (Michelsen and Mollerup 2007, ch. 10). Absent components get a zero scale and stay absent. Both phases' amounts
    are kept, since the difference from z would cost a trace component its digits."""
    fx, fy, g, scale, gradient, step, dT, dP = w[2], w[3], w[4], w[5], w[6], w[7], w[8], w[9]
    new_l, new_v, goal, best_l, best_v, trace, values, off = w[12], w[13], w[14], w[15], w[16], w[17], w[18], w[19]
    X, Y = matrix(dn, nc, nc), matrix(dm, nc, nc)
    shift, least, best_zx, best_zy = 0.0, 1e300, 1.0, 1.0
    for i in range(nc):
        best_l[i], best_v[i] = liquid[i], vapour[i]
    for _ in range(NEWTON_STEPS):
        L, V = total(liquid, nc), total(vapour, nc)
        apart = 0.0
        for i in range(nc):
            x[i], y[i] = liquid[i] / L, vapour[i] / V
            apart = max(apart, abs(x[i] - y[i]))
        Zx = eos.derivatives(table, p, st, nc, x, 0, fx, dn, dT, dP)
        Zy = eos.derivatives(table, p, st, nc, y, 0, fy, dm, dT, dP)
        size = gibbs = 0.0
        for i in range(nc):
            ln_fx, ln_fy = log_safe(x[i]) + fx[i], log_safe(y[i]) + fy[i]
            # Of a component that one phase holds only in traces, equal fugacity gives the amount directly; where even
            # that is negligible, it has no residual.
            trace[i] = 1.0 if z[i] > 0.0 and min(x[i], y[i]) < TRACE else 0.0
            goal[i] = ln_fy - fx[i] if x[i] < y[i] else ln_fx - fy[i]
            asked = z[i] > 0.0 and not (trace[i] > 0.0 and goal[i] < NOTHING)
            g[i] = ln_fy - ln_fx if asked else 0.0
            size = max(size, abs(g[i]))
            if not abs(g[i]) < 1e300:
                size = 1e300
            if y[i] > 0.0:
                gibbs += V * y[i] * (ln_fy - d[i])
            if x[i] > 0.0:
                gibbs += L * x[i] * (ln_fx - d[i])
        out[ITERATIONS] += 1.0
        if size < least:
            least, best_zx, best_zy = size, Zx, Zy
            for i in range(nc):
                best_l[i], best_v[i] = liquid[i], vapour[i]
        if apart < 1e-9 or min(V, L) < 1e-14:
            out[COLLAPSED] = 1.0
            break
        if size < TOLERANCE:
            break
        size = 0.0
        for i in range(nc):
            if trace[i] > 0.0:
                g[i] = 0.0
            size = max(size, abs(g[i]))
            scale[i] = sqrt(x[i] * y[i] / z[i]) if z[i] > 0.0 and trace[i] == 0.0 else 0.0
            gradient[i] = V * L * scale[i] * g[i]
        for i in range(nc):
            for j in range(nc):
                H[i, j] = (L * (Y[i, j] - 1.0) + V * (X[i, j] - 1.0)) * scale[i] * scale[j]
            H[i, i] += 1.0 + shift
        descent(H, gradient, nc, A, order, values, off, step)
        # Keep every amount of both phases positive.
        room = 1e300
        for i in range(nc):
            step[i] *= scale[i]
            if step[i] > 0.0:
                room = min(room, liquid[i] / step[i])
            elif step[i] < 0.0:
                room = min(room, -vapour[i] / step[i])
        factor = min(1.0, 0.9 * room)
        start = factor
        for halving in range(11):
            for i in range(nc):
                new_l[i], new_v[i] = liquid[i] - factor * step[i], vapour[i] + factor * step[i]
            Ln, Vn = total(new_l, nc), total(new_v, nc)
            for i in range(nc):
                x[i], y[i] = new_l[i] / Ln, new_v[i] / Vn
            if halving == 10:
                break
            eos.ln_phi(table, p, st, nc, x, 0, fx)
            eos.ln_phi(table, p, st, nc, y, 0, fy)
            value = Vn * gibbs_of(y, fy, d, nc) + Ln * gibbs_of(x, fx, d, nc)
            if not value > gibbs + 1e-15 * (1.0 + abs(gibbs)):
                break
            # Close to the answer the Gibbs energy no longer tells: the gradient does.
            new_size = 0.0
            for i in range(nc):
                if z[i] > 0.0 and trace[i] == 0.0:
                    new_size = max(new_size, abs(log_safe(y[i]) + fy[i] - log_safe(x[i]) - fx[i]))
            if new_size < 0.7 * size:
                break
            factor *= 0.35
        shift = max(3.0 * shift, 0.05) if factor < 0.3 * start else 0.2 * shift
        for i in range(nc):
            moved = 0.0
            if trace[i] > 0.0:
                little = liquid[i] / L < vapour[i] / V
                amount = exp(min(goal[i], LN_TRACES)) * (L if little else V)
                moved = amount - new_l[i] if little else new_v[i] - amount
            liquid[i], vapour[i] = max(new_l[i] + moved, 0.0), max(new_v[i] - moved, 0.0)
    L, V = total(best_l, nc), total(best_v, nc)
    for i in range(nc):
        x[i], y[i] = best_l[i] / L, best_v[i] / V
    out[BETA], out[Z_X], out[Z_Y], out[RESIDUAL] = V / (L + V), best_zx, best_zy, least
    return 0


@inner
def _named(table: I1, p: F1, st: F1, nc: int, x: F1, y: F1, split: bool, out: F1, two: F1) -> tuple[int, int]:
    """Return what the phases are (0 vapour, 1 liquid) by the rule of :mod:`cryonome.equilibrium.naming`, first y's,
    the lighter, then x's; they change roles where x is the lighter."""
    eos.place(table, p, st, nc, x, out[Z_X], two)
    dense_x, liquid_x = two[0], two[1] > 0.0 and two[0] > 1.0
    if not split:
        return 0, 1 if liquid_x else 0
    eos.place(table, p, st, nc, y, out[Z_Y], two)
    dense_y, liquid_y = two[0], two[1] > 0.0 and two[0] > 1.0
    if not liquid_x and not liquid_y:
        liquid_x, liquid_y = dense_x >= dense_y, dense_y > dense_x
    if (liquid_y and not liquid_x) or (liquid_x == liquid_y and dense_x < dense_y):
        for i in range(nc):
            x[i], y[i] = y[i], x[i]
        out[Z_X], out[Z_Y] = out[Z_Y], out[Z_X]
        out[BETA] = 1.0 - out[BETA]
        liquid_x, liquid_y = liquid_y, liquid_x
    return (1 if liquid_y else 0), (1 if liquid_x else 0)


@inner
def _as_one(z: F1, Z: float, nc: int, x: F1, y: F1, out: F1) -> None:
    """Make a state one phase, the feed."""
    for i in range(nc):
        x[i] = y[i] = z[i]
    out[BETA], out[Z_X], out[Z_Y], out[RESIDUAL] = 0.0, Z, Z, 0.0


@unit
def flashed(
    table: I1, p: F1, st: F1, nc: int, guess: F1, distinct: I1, T: float, P: float, z: F1, w: F2, H: F2, A: F2, dn: F1, dm: F1,
    order: F1, nothing: F2, nothing_Z: F1, x: F1, y: F1, out: F1,
) -> int:  # fmt: skip
    """Return 1 where a state is split, plus 2 where it was solved; phases in x and y, the rest in ``out``."""
    d, ln_k, best, seed = w[30], w[31], w[32], w[33]
    Z = eos.ln_phi(table, p, st, nc, z, 0, d)
    for i in range(nc):
        d[i] += log_safe(z[i])
    wilson(guess, nc, T, P, ln_k)
    split, beta = _probed(table, p, st, nc, z, d, ln_k, w)
    spent = float(PROBE_STEPS)
    if not split:
        tm = tested(
            table, p, st, nc, guess, distinct, T, P, z, d, 0, -1e-13, nothing, nothing_Z, w, H, A, dn, order, best, out
        )
        ended = out[0] > 0.0
        spent += out[1]
        if not tm < -1e-13:
            _as_one(z, Z, nc, x, y, out)
            out[ITERATIONS] = spent
            return 2 if ended else 0
        # Start from a little of the trial phase and the rest of the feed: this pair is known to lower the Gibbs energy.
        normalise(best, nc)
        seeded(table, p, st, nc, z, d, best, w, seed)
        beta = _oriented(table, p, st, nc, z, seed, w, ln_k)
    solved_split(table, p, st, nc, z, d, ln_k, beta, SUBSTITUTIONS, w, H, A, dn, dm, order, x, y, out)
    spent += out[ITERATIONS]
    if out[COLLAPSED] == 0.0 and out[RESIDUAL] <= ACCEPTED:
        out[ITERATIONS] = spent
        return 3
    # Start again from the deepest trial of a full stability test.
    tm = tested(
        table, p, st, nc, guess, distinct, T, P, z, d, 1, -1e-13, nothing, nothing_Z, w, H, A, dn, order, best, out
    )
    ended = out[0] > 0.0
    spent += out[1]
    if not tm < -1e-13:
        _as_one(z, Z, nc, x, y, out)
        out[ITERATIONS] = spent
        return 2 if ended else 0
    normalise(best, nc)
    seeded(table, p, st, nc, z, d, best, w, seed)
    out[COLLAPSED], out[ITERATIONS] = 0.0, 0.0
    liquid, vapour = w[10], w[11]
    for i in range(nc):
        liquid[i], vapour[i] = z[i] - seed[i], seed[i]
    descended(table, p, st, nc, z, d, liquid, vapour, w, H, A, dn, dm, order, x, y, out)
    out[ITERATIONS] += spent
    if out[COLLAPSED] == 0.0 and out[RESIDUAL] <= ACCEPTED:
        return 3
    # A split so shallow that the phases merge within round-off is one phase for every purpose.
    spent = out[ITERATIONS]
    _as_one(z, Z, nc, x, y, out)
    out[ITERATIONS] = spent
    if not tm > SHALLOW:
        out[RESIDUAL] = 1e300
        return 0
    return 2


@inner
def _entered(
    table: I1,
    p: F1,
    st: F1,
    nc: int,
    split: bool,
    x: F1,
    y: F1,
    out: F1,
    two: F1,
    kind: I1,
    share: F1,
    phases: F2,
    Z: F1,
) -> None:
    """Put a state's phases in place, the lighter first."""
    first, second = _named(table, p, st, nc, x, y, split, out, two)
    if split:
        normalise(x, nc)
        normalise(y, nc)
        kind[0], kind[1], share[0], share[1], Z[0], Z[1] = first, second, out[BETA], 1.0 - out[BETA], out[Z_Y], out[Z_X]
        for i in range(nc):
            phases[0, i], phases[1, i] = y[i], x[i]
    else:
        kind[0], kind[1], share[0], share[1], Z[0], Z[1] = second, -1, 1.0, 0.0, out[Z_X], float("nan")
        for i in range(nc):
            phases[0, i], phases[1, i] = x[i], 0.0


@entry
def flash_states(
    lo: int, hi: int, work: F1, table: I1, p: F2, memory: int, guess: F2, distinct: I1, T: F1, P: F1, z: F2,
    kind: I2, share: F2, phases: F3, Z: F2, reason: I1, residual: F1, iterations: I1,
) -> int:  # fmt: skip
    """Flash states z (N, nc) into up to two phases; ``kind``, ``share`` and ``Z`` (N, 2), ``phases`` (N, 2, nc)."""
    nc = z.shape[1]
    st = work[:memory]
    w = matrix(work[memory:], ROWS, nc)
    first = memory + ROWS * nc
    square = nc * nc
    H, A = matrix(work[first:], nc, nc), matrix(work[first + square :], nc, nc)
    dn, dm, out = work[first + 2 * square :], work[first + 3 * square :], work[first + 4 * square :]
    nothing, nothing_Z = matrix(work, 0, nc), work[:0]
    x, y = w[36], w[37]
    for n in range(lo, hi):
        q, own = p[n if p.shape[0] > 1 else 0], guess[n if guess.shape[0] > 1 else 0]
        eos.prepare(table, q, st, nc, T[n], P[n])
        code = flashed(
            table, q, st, nc, own, distinct, T[n], P[n], z[n], w, H, A, dn, dm, w[29], nothing, nothing_Z, x, y, out
        )
        reason[n] = 0 if code >= 2 else 1
        residual[n] = out[RESIDUAL] if out[RESIDUAL] < 1e299 else float("inf")
        iterations[n] = int(out[ITERATIONS])
        _entered(
            table, q, st, nc, code % 2 == 1, x, y, out, out[RESULT : RESULT + 2], kind[n], share[n], phases[n], Z[n]
        )
    return 0


@entry
def flash_near_states(
    lo: int, hi: int, work: F1, table: I1, p: F2, memory: int, T: F1, P: F1, z: F2, ln_k: F2, start: F1, two: I1,
    kind: I2, share: F2, phases: F3, Z: F2, reason: I1, residual: F1, iterations: I1,
) -> int:  # fmt: skip
    """Solve states with as many phases as their neighbours have, two where ``two``, from ``ln_k`` (N, nc) and the
    fraction ``start`` (N,); ``reason`` comes with what is known to be lost already."""
    nc = z.shape[1]
    st = work[:memory]
    w = matrix(work[memory:], ROWS, nc)
    first = memory + ROWS * nc
    square = nc * nc
    H, A = matrix(work[first:], nc, nc), matrix(work[first + square :], nc, nc)
    dn, dm, out = work[first + 2 * square :], work[first + 3 * square :], work[first + 4 * square :]
    d, x, y = w[30], w[36], w[37]
    for n in range(lo, hi):
        q = p[n if p.shape[0] > 1 else 0]
        eos.prepare(table, q, st, nc, T[n], P[n])
        feed = eos.ln_phi(table, q, st, nc, z[n], 0, d)
        for i in range(nc):
            d[i] += log_safe(z[n, i])
        split = False
        if two[n] != 0:
            solved_split(
                table, q, st, nc, z[n], d, ln_k[n], start[n], NEAR_SUBSTITUTIONS, w, H, A, dn, dm, w[29], x, y, out
            )
            split = out[COLLAPSED] == 0.0 and out[RESIDUAL] <= ACCEPTED
            if not split and out[COLLAPSED] == 0.0:
                reason[n] = 1
        spent = out[ITERATIONS] if two[n] != 0 else 0.0
        if not split:
            _as_one(z[n], feed, nc, x, y, out)
        residual[n], iterations[n] = out[RESIDUAL], int(spent)
        _entered(table, q, st, nc, split, x, y, out, out[RESULT : RESULT + 2], kind[n], share[n], phases[n], Z[n])
    return 0


@entry
def seed_amounts(
    lo: int, hi: int, work: F1, table: I1, p: F2, memory: int, T: F1, P: F1, z: F2, d: F2, trial: F2, seed: F2
) -> int:
    """Put amounts of second phases ``trial`` (N, nc) that lower the Gibbs energy of z (N, nc) in ``seed`` (N, nc)."""
    nc = z.shape[1]
    st = work[:memory]
    w = matrix(work[memory:], 2, nc)
    for n in range(lo, hi):
        q = p[n if p.shape[0] > 1 else 0]
        eos.prepare(table, q, st, nc, T[n], P[n])
        seeded(table, q, st, nc, z[n], d[n], trial[n], w, seed[n])
    return 0
