"""Phase stability by the tangent plane distance, of one state; method and sources in
:mod:`cryonome.equilibrium.stability`.

The work of a test is the rows of one matrix ``W`` (ROWS, nc) and three matrices ``H``, ``A`` and ``dn``.
"""

from math import exp, log, sqrt

from . import table as eos
from .guesses import accelerate, exp_all, log_safe, wilson
from .linear import damped, descent, dot, solve_symmetric, total
from .marks import F1, F2, F3, I1, entry, inner, matrix, unit

SUBSTITUTIONS, NEWTON_STEPS = 20, 40
DAMPED = 10
"""Newton steps that go downhill by damping; what needs more may sit at a saddle, which eigenvalues lead away from."""
LOWEST, HIGHEST = -690.0, 300.0
"""Bounds of the ln of a trial's mole numbers, which keep exp from overflow."""
SLOW = 0.7
"""Ratio of successive steps above which a trial nears its end slowly."""
SHRINKING = 0.25
"""Ratio of the squares of successive steps below which, twice in turn, a trial is coming in."""
FAR = 50.0
"""Distance, over the square of a step that is coming in, beyond which the rest of the way cannot lead below zero."""
PURE, LEAST = 5, 2
"""Nearly pure trials of a state: at most and in any case."""
WORTH = -2.0
"""ln of the activity of a component, relative to its pure liquid, above which a nearly pure trial of it is made."""
ROUGH_PURE = 1e-7
"""ln of an activity above which a pure phase is proof: far above the round-off of an equation's roots."""
FAVOUR = 2.0
"""Added to ln activity of a component that is unlike the others, since it forms a phase of its own more easily."""
UNSTABLE = -1e-13
"""Below this modified distance a feed is unstable; the round-off of the sum is a few 1e-16."""
ARRIVED = 1e-3
"""Distance in mole fractions at which a trial has come to a phase that is known."""

NEAR = 1e-3
"""Distance in mole fractions within which Newton's steps have come back to the feed."""
SOFT_STEPS, REACHES = 12, 12
"""Rounds of inverse iteration; lengths along the softest direction, from 0.02 on, each half as long again."""

ROWS = 18
"""Vectors of work; the first ten belong to the descent of one trial, the others to the test."""


@inner
def held(v: float) -> float:
    """Return a logarithm of a trial's mole number within its bounds."""
    return min(max(v, LOWEST), HIGHEST)


@inner
def _came(W: F1, Z: float, known: F2, known_Z: F1, nc: int) -> bool:
    """Tell whether a trial has all but come to a phase that is known; of those that are none Z is nan."""
    for k in range(known.shape[0]):
        if known_Z[k] > 0.0 and abs(Z - known_Z[k]) < 0.01 * known_Z[k]:
            off = 0.0
            for i in range(nc):
                off += (W[i] - known[k, i]) ** 2
            if off < ARRIVED * ARRIVED:
                return True
    return False


@unit
def follow(
    table: I1, p: F1, st: F1, nc: int, z: F1, d: F1, ln_w: F1, known: F2, known_Z: F1, w: F2, H: F2, A: F2, dn: F1, order: F1, W: F1,
    told: F1,
) -> float:  # fmt: skip
    """Follow a trial ``ln_w`` downhill; return where tm ended, with whether that is an end (2 where it came back to the
    feed slowly) and the steps in ``told``, and the mole numbers there in ``W``.

    The descent ends early where tm falls clearly below zero. A trial that returns to the feed counts as an end with
    tm = 0, and so does one that comes to a known phase."""
    x, ln_phi, step, new, before_w, before_step, extra = w[0], w[1], w[2], w[3], w[4], w[5], w[6]
    for i in range(nc):
        ln_w[i] = held(ln_w[i])
    before, shrank, steps = -1.0, False, 0
    for number in range(SUBSTITUTIONS):
        exp_all(ln_w, HIGHEST, W, nc)
        whole = total(W, nc)
        for i in range(nc):
            x[i] = W[i] / whole
        Z = eos.ln_phi(table, p, st, nc, x, 0, ln_phi)
        steps += 1
        tm, beta, pace, reach = 1.0, 0.0, 0.0, 0.0
        for i in range(nc):
            new[i] = held(d[i] - ln_phi[i])
            step[i] = new[i] - ln_w[i] if z[i] > 0.0 else 0.0
            tm -= W[i] * (step[i] + 1.0)
            diff = W[i] - z[i]
            beta -= diff * step[i]
            pace += step[i] * step[i]
            reach = max(reach, abs(diff))
        # Along a path to the trivial solution tm tends to half of beta (Michelsen 1982, eq. 33). A slow return means
        # a critical point nearby, where another minimum may hide: Newton's method decides.
        trivial = 0.0 < tm < 1e-3 and abs(2.0 * tm - beta) < 0.2 * abs(beta) and reach < 0.02
        trivial = trivial and pace < SLOW * SLOW * (pace if before < 0.0 else before)
        # Where the steps keep shrinking, and what they can still gain is far less than the distance, that stays
        # positive.
        shrinking = before >= 0.0 and pace < SHRINKING * before
        settled = False
        if shrinking and shrank:
            gain = 0.0
            for i in range(nc):
                gain += W[i] * step[i] * step[i]
            settled = tm > FAR * gain
        if not settled:
            settled = _came(W, Z, known, known_Z, nc)
        # A tiny negative distance next to the feed may be the round-off of the trivial solution.
        if tm < -1e-4 or trivial or settled or pace < 1e-20:
            told[0], told[1] = 1.0, steps
            return 0.0 if trivial else tm
        if number > 0:
            accelerate(ln_w, step, before_w, before_step, W, nc, extra)
            for i in range(nc):
                new[i] = held(new[i] + extra[i])
        for i in range(nc):
            before_w[i], before_step[i], ln_w[i] = ln_w[i], step[i], new[i]
        before, shrank = pace, shrinking
    exp_all(ln_w, HIGHEST, W, nc)
    tm, done, more = _newton(table, p, st, nc, z, d, w, H, A, dn, order, W)
    away = 0.0
    for i in range(nc):
        away = max(away, abs(W[i] - z[i]))
    told[0], told[1] = (2.0 if done and away < NEAR else 1.0 if done else 0.0), steps + more
    return tm


@inner
def _softest(table: I1, p: F1, st: F1, nc: int, z: F1, w: F2, H: F2, A: F2, dn: F1, order: F1, v: F1) -> None:
    """Put the direction in alpha in which the feed z resists least into ``v``, of length one: the eigenvector of the
    least eigenvalue of the Hessian of tm there, by inverse iteration."""
    D = matrix(dn, nc, nc)
    eos.derivatives(table, p, st, nc, z, 0, w[1], dn, w[6], w[7])
    for i in range(nc):
        for j in range(nc):
            H[i, j] = sqrt(z[i]) * D[i, j] * sqrt(z[j])
        H[i, i] += 1.0
        # Half of the components gain, half lose; what of it lies along the feed itself is taken out below.
        v[i] = (1.0 if 2 * i < nc else -1.0) * sqrt(z[i])
    for _ in range(SOFT_STEPS):
        along = 0.0
        for i in range(nc):
            along += v[i] * sqrt(z[i])
        for i in range(nc):
            v[i] -= along * sqrt(z[i])
        solve_symmetric(H, v, nc, A, order, w[2])
        size = sqrt(dot(w[2], w[2], nc))
        if not 0.0 < size < 1e300:
            return
        for i in range(nc):
            v[i] = w[2, i] / size


@inner
def _along(table: I1, p: F1, st: F1, nc: int, z: F1, d: F1, v: F1, sign: float, w: F2, ln_w: F1) -> None:
    """Put into ``ln_w`` the trial along ``v`` from the feed at which tm over the square of the length is least."""
    x, ln_phi, W = w[0], w[1], w[2]
    least, length, chosen = 1e300, 0.02, 0.02
    for _ in range(REACHES):
        for i in range(nc):
            W[i] = (sqrt(z[i]) + 0.5 * sign * length * v[i]) ** 2
        whole = total(W, nc)
        for i in range(nc):
            x[i] = W[i] / whole
        eos.ln_phi(table, p, st, nc, x, 0, ln_phi)
        tm = 1.0
        for i in range(nc):
            tm += W[i] * (log_safe(W[i]) + ln_phi[i] - d[i] - 1.0)
        if tm / (length * length) < least:
            least, chosen = tm / (length * length), length
        length *= 1.5
    for i in range(nc):
        ln_w[i] = log_safe((sqrt(z[i]) + 0.5 * sign * chosen * v[i]) ** 2) if z[i] > 0.0 else LOWEST


@inner
def _newton(
    table: I1, p: F1, st: F1, nc: int, z: F1, d: F1, w: F2, H: F2, A: F2, dn: F1, order: F1, W: F1
) -> tuple[float, bool, int]:
    """Minimise tm by Newton steps in alpha = 2 sqrt(W) with a line search."""
    x, ln_phi, step, g, gradient, alpha, dT, dP = w[0], w[1], w[2], w[3], w[4], w[5], w[6], w[7]
    D = matrix(dn, nc, nc)
    shift, tm, steps = 0.0, 0.0, 0
    for number in range(NEWTON_STEPS):
        whole = total(W, nc)
        for i in range(nc):
            x[i] = W[i] / whole
        eos.derivatives(table, p, st, nc, x, 0, ln_phi, dn, dT, dP)
        steps += 1
        tm, size, reach = 1.0, 0.0, 0.0
        for i in range(nc):
            g[i] = log_safe(W[i]) + ln_phi[i] - d[i]
            tm += W[i] * (g[i] - 1.0)
            alpha[i] = sqrt(W[i])
            gradient[i] = alpha[i] * g[i]
            size = max(size, abs(gradient[i]))
            reach = max(reach, abs(W[i] - z[i]))
        # At the feed itself the distance is zero: nothing was found in this basin.
        if size < 1e-10 or tm < -1e-4 or (reach < 1e-7 and size < 1e-7):
            return tm, True, steps
        for i in range(nc):
            for j in range(nc):
                H[i, j] = alpha[i] * D[i, j] * alpha[j] / whole
            H[i, i] += 1.0 + 0.5 * max(g[i], -1.0) + shift
        if number < DAMPED:
            damped(H, gradient, nc, A, order, step)
        else:
            descent(H, gradient, nc, A, order, dT, dP, step)
        most = 0.0
        for i in range(nc):
            most = max(most, abs(step[i]))
        cut = min(1.0, 0.5 / max(most, 1e-30))
        scale = 1.0
        for _ in range(9):
            for i in range(nc):
                W[i] = 0.25 * (2.0 * alpha[i] + scale * cut * step[i]) ** 2
            if scale < 0.4**7.5:
                break
            whole = total(W, nc)
            for i in range(nc):
                x[i] = W[i] / whole
            eos.ln_phi(table, p, st, nc, x, 0, ln_phi)
            value = 1.0
            for i in range(nc):
                value += W[i] * (log_safe(W[i]) + ln_phi[i] - d[i] - 1.0)
            if not value > tm + 1e-14:
                break
            scale *= 0.4
        # A step that had to be shortened shows that the quadratic model is poor: lean towards steepest descent.
        shift = max(2.0 * shift, 0.1) if scale < 0.3 else 0.3 * shift
    return tm, False, steps


@unit
def tested(
    table: I1, p: F1, st: F1, nc: int, guess: F1, distinct: I1, T: float, P: float, z: F1, d: F1, every: int, below: float,
    known: F2, known_Z: F1, w: F2, H: F2, A: F2, dn: F1, order: F1, best: F1, told: F1,
) -> float:  # fmt: skip
    """Return the lowest modified distance met; whether every trial came to an end, and the steps, are in ``told``,
    the mole numbers there in ``best``.

    Wilson's two trials prove most; where one of them goes below ``below`` the others are left out, unless ``every``.
    """
    ratios, ln_w, W, activity = w[10], w[11], w[12], w[13]
    lowest, ended, steps, slow = 0.0, True, 0.0, False
    for i in range(nc):
        best[i] = z[i]
    wilson(guess, nc, T, P, ratios)
    for side in range(2):
        for i in range(nc):
            ln_w[i] = log_safe(z[i]) + (ratios[i] if side == 0 else -ratios[i])
        tm = follow(table, p, st, nc, z, d, ln_w, known, known_Z, w, H, A, dn, order, W, told)
        lowest, ended = _deeper(tm, told[0] > 0.0, lowest, ended, W, best, nc)
        slow = slow or told[0] > 1.5
        steps += told[1]
    if lowest < below and every == 0:
        told[0], told[1] = (1.0 if ended else 0.0), steps
        return lowest
    # Trials of nearly pure components, those with the highest activity first, whichever equation of state is asked.
    eos.pure_ln_phi(table, p, st, nc, activity)
    most, over = 0, -1e300
    for i in range(nc):
        activity[i] = d[i] - activity[i] if z[i] > 0.0 else -1e300
        if activity[i] > over:
            most, over = i, activity[i]
    # An activity above that of the pure component proves the feed unstable, wherever a trial would end.
    over = min(over, HIGHEST)
    if over > ROUGH_PURE and 1.0 - exp(over) < lowest:
        lowest = 1.0 - exp(over)
        for i in range(nc):
            best[i] = exp(over) if i == most else 0.0
    for k in range(distinct.size):
        activity[distinct[k]] += FAVOUR
    unlike = -1
    for k in range(distinct.size):
        if unlike < 0 or activity[distinct[k]] > activity[unlike]:
            unlike = distinct[k]
    near = w[14]
    for i in range(nc):
        near[i] = activity[i]
    for rank in range(min(PURE, nc)):
        at = 0
        for i in range(1, nc):
            if near[i] > near[at]:
                at = i
        if not (near[at] > WORTH if rank >= LEAST else near[at] > -1e299):
            break
        near[at] = -1e301
        _nearly(z, at, 0.02, nc, ln_w)
        tm = follow(table, p, st, nc, z, d, ln_w, known, known_Z, w, H, A, dn, order, W, told)
        lowest, ended = _deeper(tm, told[0] > 0.0, lowest, ended, W, best, nc)
        slow = slow or told[0] > 1.5
        steps += told[1]
    if 0 < distinct.size < nc:
        # A component unlike the others may form a phase that holds more of its kind.
        if activity[unlike] > FAVOUR - 1.0:
            _nearly(z, unlike, 0.1, nc, ln_w)
            tm = follow(table, p, st, nc, z, d, ln_w, known, known_Z, w, H, A, dn, order, W, told)
            lowest, ended = _deeper(tm, told[0] > 0.0, lowest, ended, W, best, nc)
            slow = slow or told[0] > 1.5
            steps += told[1]
        # Water boils higher than the oil it is with, and has its share of Wilson's liquid: the oil alone leads to the
        # liquid without it.
        hottest = 0
        for i in range(1, nc):
            if guess[nc + i] > guess[nc + hottest]:
                hottest = i
        outside = False
        for k in range(distinct.size):
            outside = outside or distinct[k] == hottest
        if outside:
            for i in range(nc):
                ln_w[i] = log_safe(z[i]) - ratios[i]
            for k in range(distinct.size):
                ln_w[distinct[k]] = LOWEST
            tm = follow(table, p, st, nc, z, d, ln_w, known, known_Z, w, H, A, dn, order, W, told)
            lowest, ended = _deeper(tm, told[0] > 0.0, lowest, ended, W, best, nc)
            slow = slow or told[0] > 1.5
            steps += told[1]
    # The ideal gas in equilibrium with the feed: the natural vapour where Wilson's ratios are far off.
    for i in range(nc):
        ln_w[i] = min(max(d[i], LOWEST), 5.0)
    tm = follow(table, p, st, nc, z, d, ln_w, known, known_Z, w, H, A, dn, order, W, told)
    lowest, ended = _deeper(tm, told[0] > 0.0, lowest, ended, W, best, nc)
    slow = slow or told[0] > 1.5
    steps += told[1]
    if slow and lowest >= UNSTABLE:
        # Close to a critical point a shallow minimum lies beside the feed, and trials from afar may pass it.
        v = w[15]
        _softest(table, p, st, nc, z, w, H, A, dn, order, v)
        for side in range(2):
            _along(table, p, st, nc, z, d, v, 1.0 if side == 0 else -1.0, w, ln_w)
            tm = follow(table, p, st, nc, z, d, ln_w, known, known_Z, w, H, A, dn, order, W, told)
            lowest, ended = _deeper(tm, told[0] > 0.0, lowest, ended, W, best, nc)
            steps += told[1]
    told[0], told[1] = (1.0 if ended else 0.0), steps
    return lowest


@inner
def _nearly(z: F1, at: int, rest: float, nc: int, ln_w: F1) -> None:
    """Put a nearly pure trial of a component in ``ln_w``."""
    others = log(rest / max(nc - 1, 1))
    for i in range(nc):
        ln_w[i] = others if z[i] > 0.0 else LOWEST
    if z[at] > 0.0:
        ln_w[at] = log(1.0 - rest)


@inner
def _deeper(tm: float, done: bool, lowest: float, ended: bool, W: F1, best: F1, nc: int) -> tuple[float, bool]:
    """Keep a trial's end where it is the lowest so far; return the lowest distance and whether every trial came to an
    end."""
    if not abs(tm) < 1e300:
        tm = 1e300
    if tm < lowest:
        lowest = tm
        for i in range(nc):
            best[i] = W[i]
    return lowest, ended and (done or tm < UNSTABLE)


@entry
def test_stability(
    lo: int, hi: int, work: F1, table: I1, p: F2, memory: int, guess: F2, distinct: I1, T: F1, P: F1, z: F2, d: F2, given: int,
    every: int, below: float, known: F3, known_Z: F2, tm: F1, W: F2, ended: I1, steps: I1,
) -> int:  # fmt: skip
    """Test states z (N, nc), ln of whose fugacities over P is ``d`` where ``given``, else put there; known phases (N,
    k, nc)."""
    nc = z.shape[1]
    st = work[:memory]
    w = matrix(work[memory:], ROWS, nc)
    first = memory + ROWS * nc
    H, A = matrix(work[first:], nc, nc), matrix(work[first + nc * nc :], nc, nc)
    dn, told = work[first + 2 * nc * nc :], work[first + 3 * nc * nc :]
    for n in range(lo, hi):
        q = p[n if p.shape[0] > 1 else 0]
        eos.prepare(table, q, st, nc, T[n], P[n])
        if given == 0:
            eos.ln_phi(table, q, st, nc, z[n], 0, d[n])
            for i in range(nc):
                d[n, i] += log_safe(z[n, i])
        own = guess[n if guess.shape[0] > 1 else 0]
        tm[n] = tested(
            table, q, st, nc, own, distinct, T[n], P[n], z[n], d[n], every, below, known[n], known_Z[n], w, H, A, dn,
            w[17], W[n], told,
        )  # fmt: skip
        steps[n] = int(told[1])
        ended[n] = 1 if told[0] > 0.0 or tm[n] < UNSTABLE else 0
    return 0
