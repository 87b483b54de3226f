"""Several phases of one state descending on the Gibbs energy; method and sources in
:mod:`cryonome.equilibrium.multiphase`.

A state stands in places: shares ``beta`` (PLACES + 1,), compositions ``x`` and ln phi (PLACES + 1, nc). One place
more than is looked for: a phase that joins three may take the place of one of them. Work is rows of ``w`` (ROWS, nc),
named where they are cut, and matrices behind them."""

from math import exp, sqrt

from . import table as eos
from .guesses import log_safe
from .linear import descent, total
from .marks import F1, F2, I1, inner, matrix, unit
from .stability import ROWS as TEST_ROWS
from .two_phase import LN_TRACES, NOTHING, TOLERANCE, TRACE

PLACES = 3
NEWTON_STEPS = 40
PATIENCE = 3
"""Newton steps in turn that lower nothing however short, after which a state is given up."""

WIDE = PLACES + 1
ROWS = TEST_ROWS + 4 + PLACES + 19 * WIDE
"""Vectors of work: of a test; the tangent plane, the tested phase, a trial; known phases; nineteen of every place."""


@inner
def places(w: F2, which: int, nc: int) -> F2:
    """Return the which-th vectors of every place."""
    return matrix(w[TEST_ROWS + 4 + PLACES + which * WIDE], WIDE, nc)


(
    X,
    LN_PHI,
    BEGIN,
    STEP,
    OLD,
    OLDER,
    AMOUNTS,
    BEST,
    MOVES,
    TRIAL_X,
    TRIAL_F,
    NEW,
    G,
    WANTED,
    SCALE,
    GRADIENT,
    SOLUTION,
    VALUES,
    OFF,
) = range(19)


@inner
def _filled(amounts: F2, there: F1, p: int, nc: int, x: F2) -> None:
    """Put compositions in x, of phases that are not there that of the largest."""
    largest, most = 0, -1.0
    for k in range(p):
        whole = total(amounts[k], nc)
        if whole > most:
            largest, most = k, whole
    for k in range(p):
        own = k if there[k] > 0.0 else largest
        whole = total(amounts[own], nc)
        for i in range(nc):
            x[k, i] = amounts[own, i] / whole if whole > 0.0 else 0.0


@inner
def energy(x: F2, beta: F1, ln_phi: F2, p: int, nc: int) -> float:
    """Return the Gibbs energy over R T of phases, less that of the pure ideal gases."""
    out = 0.0
    for k in range(p):
        if beta[k] > 0.0:
            for i in range(nc):
                if x[k, i] > 0.0:
                    out += beta[k] * x[k, i] * (log_safe(x[k, i]) + ln_phi[k, i])
    return out


@inner
def _gibbs(amounts: F2, x: F2, ln_phi: F2, there: F1, p: int, nc: int) -> float:
    out = 0.0
    for k in range(p):
        if there[k] > 0.0:
            for i in range(nc):
                if amounts[k, i] > 0.0:
                    out += amounts[k, i] * (log_safe(x[k, i]) + ln_phi[k, i])
    return out


@inner
def _most(amounts: F2, i: int, p: int) -> int:
    """Return the phase that has most of a component."""
    best = 0
    for k in range(1, p):
        if amounts[k, i] > amounts[best, i]:
            best = k
    return best


@inner
def _ends(x: F2, amounts: F2, there: F1, z: F1, ln_phi: F2, p: int, nc: int, g: F2, wanted: F2) -> float:
    """Put how far each component is from equal fugacity in ``g``, by phase away from its richest, and what that would
    be in ``wanted``; return the largest."""
    size = 0.0
    for i in range(nc):
        most = _most(amounts, i, p)
        top = log_safe(x[most, i]) + ln_phi[most, i]
        a = 0
        for k in range(p):
            if k == most:
                continue
            wanted[a, i] = top - ln_phi[k, i]
            free = there[k] > 0.0 and z[i] > 0.0
            scant = free and x[k, i] < TRACE
            g[a, i] = log_safe(x[k, i]) + ln_phi[k, i] - top if free and not (scant and wanted[a, i] < NOTHING) else 0.0
            size = max(size, abs(g[a, i]))
            if g[a, i] != g[a, i]:
                size = 1e300
            a += 1
    return size


@unit
def descended_all(
    table: I1,
    q: F1,
    st: F1,
    nc: int,
    p: int,
    z: F1,
    w: F2,
    H: F1,
    A: F1,
    D: F1,
    s: F1,
    x: F2,
    beta: F1,
    ln_phi: F2,
    Z: F1,
) -> float:
    """Minimise the Gibbs energy in amounts from x and ``beta``, which become what was found; return the residual.

    Of each component the phase that has most of it is what is left over, so that no amount is the small difference of
    two large ones. What a phase holds but traces of has no say in where the others go: it follows by substitution.
    """
    amounts, best, moves = places(w, AMOUNTS, nc), places(w, BEST, nc), places(w, MOVES, nc)
    tx, tf, new = places(w, TRIAL_X, nc), places(w, TRIAL_F, nc), places(w, NEW, nc)
    g, wanted, scale = places(w, G, nc), places(w, WANTED, nc), places(w, SCALE, nc)
    gradient, solution = w[TEST_ROWS + 4 + PLACES + GRADIENT * WIDE], w[TEST_ROWS + 4 + PLACES + SOLUTION * WIDE]
    m = (p - 1) * nc
    flat_gradient, step = matrix(gradient, 1, m)[0], matrix(solution, 1, m)[0]
    values = matrix(w[TEST_ROWS + 4 + PLACES + VALUES * WIDE], 1, m)[0]
    off = matrix(w[TEST_ROWS + 4 + PLACES + OFF * WIDE], 1, m)[0]
    pivots = matrix(w[TEST_ROWS + 4 + PLACES + OLDER * WIDE], 1, m)[0]
    HH, AA = matrix(H, m, m), matrix(A, m, m)
    there, best_there, whole = s[:4], s[4:8], s[8:12]
    for k in range(p):
        there[k] = 1.0 if beta[k] > 1e-13 else 0.0
        best_there[k] = there[k]
        for i in range(nc):
            amounts[k, i] = beta[k] * x[k, i] if there[k] > 0.0 else 0.0
    for i in range(nc):
        # Shares and compositions may disagree a little: amounts are scaled so that each component adds up to the feed.
        have = 0.0
        for k in range(p):
            have += amounts[k, i]
        for k in range(p):
            amounts[k, i] *= z[i] / have if have > 0.0 else z[i]
            best[k, i] = amounts[k, i]
    least, shift, stuck = 1e300, 0.0, 0
    dT, dP = w[0], w[1]
    for _ in range(NEWTON_STEPS):
        _filled(amounts, there, p, nc, x)
        for k in range(p):
            whole[k] = max(total(amounts[k], nc), 1e-300)
            if there[k] > 0.0:
                Z[k] = eos.derivatives(table, q, st, nc, x[k], 0, ln_phi[k], D[k * nc * nc :], dT, dP)
        size = _ends(x, amounts, there, z, ln_phi, p, nc, g, wanted)
        if size < least:
            least = size
            for k in range(p):
                best_there[k] = there[k]
                for i in range(nc):
                    best[k, i] = amounts[k, i]
        if size < TOLERANCE or stuck >= PATIENCE or size >= 1e300:
            break
        size = 0.0
        for i in range(nc):
            most = _most(amounts, i, p)
            a = 0
            for k in range(p):
                if k == most:
                    continue
                free = there[k] > 0.0 and z[i] > 0.0
                scant = free and x[k, i] < TRACE
                if scant:
                    g[a, i] = 0.0
                held = amounts[k, i] + amounts[most, i]
                scale[a, i] = sqrt(amounts[k, i] * amounts[most, i] / max(held, 1e-300)) if free and not scant else 0.0
                size = max(size, abs(g[a, i]))
                flat_gradient[a * nc + i] = scale[a, i] * g[a, i]
                a += 1
        for k in range(p):
            if there[k] > 0.0:
                own = matrix(D[k * nc * nc :], nc, nc)
                for i in range(nc):
                    for j in range(nc):
                        own[i, j] = (own[i, j] - 1.0) / whole[k]
                    if amounts[k, i] > 0.0:
                        own[i, i] += 1.0 / max(amounts[k, i], 1e-300)
        for a in range(p - 1):
            for i in range(nc):
                most_i = _most(amounts, i, p)
                away_i = a if a < most_i else a + 1
                row = HH[a * nc + i]
                for b in range(p - 1):
                    for j in range(nc):
                        both = scale[a, i] * scale[b, j]
                        value = 0.0
                        if both != 0.0:
                            most_j = _most(amounts, j, p)
                            away_j = b if b < most_j else b + 1
                            if away_i == away_j and there[away_i] > 0.0:
                                value += D[(away_i * nc + i) * nc + j]
                            if away_i == most_j and there[away_i] > 0.0:
                                value -= D[(away_i * nc + i) * nc + j]
                            if most_i == away_j and there[most_i] > 0.0:
                                value -= D[(most_i * nc + i) * nc + j]
                            if most_i == most_j and there[most_i] > 0.0:
                                value += D[(most_i * nc + i) * nc + j]
                        row[b * nc + j] = value * both
                row[a * nc + i] += shift if scale[a, i] > 0.0 else 1.0
        descent(HH, flat_gradient, m, AA, pivots, values, off, step)
        for k in range(p):
            for i in range(nc):
                moves[k, i] = 0.0
        for i in range(nc):
            most = _most(amounts, i, p)
            for a in range(p - 1):
                k = a if a < most else a + 1
                change = step[a * nc + i] * scale[a, i]
                moves[k, i] += change
                moves[most, i] -= change
        room = 1e300
        for k in range(p):
            for i in range(nc):
                if moves[k, i] < 0.0:
                    room = min(room, amounts[k, i] / -moves[k, i])
        share = min(1.0, 0.9 * room)
        begin, old = share, _gibbs(amounts, x, ln_phi, there, p, nc)
        worse, new_size = True, 0.0
        for _halving in range(10):
            for k in range(p):
                for i in range(nc):
                    new[k, i] = amounts[k, i] + share * moves[k, i]
            _filled(new, there, p, nc, tx)
            for k in range(p):
                if there[k] > 0.0:
                    eos.ln_phi(table, q, st, nc, tx[k], 0, tf[k])
            new_size = 0.0
            for i in range(nc):
                most = _most(amounts, i, p)
                for a in range(p - 1):
                    k = a if a < most else a + 1
                    if there[k] > 0.0 and z[i] > 0.0 and not x[k, i] < TRACE:
                        miss = log_safe(tx[k, i]) + tf[k, i] - log_safe(tx[most, i]) - tf[most, i]
                        new_size = max(new_size, abs(miss)) if miss == miss else 1e300
            value = _gibbs(new, tx, tf, there, p, nc)
            worse = value > old + 1e-15 * (1.0 + abs(old)) and not new_size < 0.7 * size
            if not worse:
                break
            share *= 0.35
        stuck = stuck + 1 if worse or not new_size < 1e300 else 0
        shift = max(3.0 * shift, 0.05) if share < 0.3 * begin else 0.2 * shift
        # A trace takes the amount that equal fugacity gives, as long as it stays a trace.
        for k in range(p):
            for i in range(nc):
                new[k, i] = amounts[k, i] + share * moves[k, i]
        for i in range(nc):
            most = _most(amounts, i, p)
            for a in range(p - 1):
                k = a if a < most else a + 1
                if there[k] > 0.0 and z[i] > 0.0 and x[k, i] < TRACE:
                    change = exp(min(wanted[a, i], LN_TRACES)) * total(amounts[k], nc) - amounts[k, i]
                    new[k, i] += change
                    new[most, i] -= change
        for k in range(p):
            for i in range(nc):
                amounts[k, i] = max(new[k, i], 0.0)
        # A phase whose amount is all but zero is taken out, and the others go on without it.
        for k in range(p):
            if there[k] > 0.0 and total(amounts[k], nc) < 1e-12:
                for i in range(nc):
                    lost = amounts[k, i]
                    amounts[k, i] = 0.0
                    amounts[_most(amounts, i, p), i] += lost
                there[k] = 0.0
                least = 1e300
    _filled(best, best_there, p, nc, x)
    for k in range(p):
        beta[k] = total(best[k], nc) if best_there[k] > 0.0 else 0.0
        Z[k] = eos.ln_phi(table, q, st, nc, x[k], 0, ln_phi[k])
    return least
