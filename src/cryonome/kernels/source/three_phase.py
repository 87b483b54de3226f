"""Phases of one state beyond two; method and sources in :mod:`cryonome.equilibrium.multiphase`.

A state stands in places: shares ``beta`` (PLACES + 1,), compositions ``x`` and ln phi (PLACES + 1, nc). One place more than is looked for: a phase that joins
three may take the place of one of them. Work is rows of ``w`` (ROWS, nc), named where they are cut, and matrices behind them.
"""

from math import exp, sqrt

from . import table as eos
from .guesses import log_safe
from .linear import descent, dot, factor, normalise, solve_factored, total
from .marks import F1, F2, F3, I1, I2, entry, inner, matrix, unit
from .stability import HIGHEST, LOWEST, UNSTABLE, tested
from .stability import ROWS as TEST_ROWS
from .two_phase import ACCEPTED, LN_TRACES, NOTHING, TOLERANCE, TRACE, seeded

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
ALIKE = 1e-7
"""Largest difference of mole fractions up to which two phases are one."""

CONVERGED, NOT_CONVERGED, MORE_PHASES = 0, 1, 3

WIDE = PLACES + 1
ROWS = TEST_ROWS + 4 + PLACES + 19 * WIDE
"""Vectors of work: of a test; the tangent plane, the tested phase, a trial; known phases; nineteen of every place."""


@inner
def memory(nc: int) -> int:
    """Return the numbers of work that a state of up to three phases takes beside the equation's own."""
    return ROWS * nc + 2 * (PLACES * nc) ** 2 + WIDE * nc * nc + 64


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
def _q(beta: F1, d: F2, z: F1, p: int, nc: int) -> float:
    """Return Michelsen's convex function of the shares."""
    q = 0.0
    for k in range(p):
        q += beta[k]
    for i in range(nc):
        if z[i] > 0.0:
            E = 0.0
            for k in range(p):
                E += beta[k] * d[k, i]
            q -= z[i] * log_safe(E)
    return q


@unit
def shares(ln_phi: F2, z: F1, p: int, nc: int, beta: F1, d: F2, out: F2, s: F1) -> int:
    """Find the shares that minimise Q, and put z_i/(phi_ik E_i), the compositions of phases that are there, in ``out``; d and ``s`` (64 numbers) for work.

    Michelsen, Comput. Chem. Eng. 18, 545 (1994).
    """
    for i in range(nc):
        top = -ln_phi[0, i]
        for k in range(1, p):
            top = max(top, -ln_phi[k, i])
        for k in range(p):
            # A factor common to all phases of a component cancels but in the sums.
            d[k, i] = exp(-ln_phi[k, i] - top)
    H, A = matrix(s, p, p), matrix(s[16:], p, p)
    g, step, active, trial, pivots = s[32:36], s[36:40], s[40:44], s[44:48], s[48:52]
    for k in range(p):
        beta[k] = max(beta[k], 0.0)
        active[k] = 1.0 if beta[k] > 0.0 else 0.0
    for _ in range(SHARE_STEPS):
        for k in range(p):
            g[k] = 1.0
            for j in range(p):
                H[k, j] = 0.0
        for i in range(nc):
            E = 0.0
            for k in range(p):
                E += beta[k] * d[k, i]
            E = max(E, 1e-300)
            for k in range(p):
                r = d[k, i] / E
                g[k] -= z[i] * r
                for j in range(k + 1):
                    H[k, j] += z[i] * r * d[j, i] / E
        trace = 0.0
        for k in range(p):
            for j in range(k):
                H[j, k] = H[k, j]
        for k in range(p):
            for j in range(p):
                A[k, j] = H[k, j] if active[k] > 0.0 and active[j] > 0.0 else 0.0
            if active[k] == 0.0:
                A[k, k] = 1.0
            trace += A[k, k]
        for k in range(p):
            A[k, k] += 1e-14 * trace
            step[k] = -g[k] if active[k] > 0.0 else 0.0
        if factor(A, pivots, p):
            solve_factored(A, pivots, step, p)
        full = 1.0
        for k in range(p):
            if step[k] < 0.0:
                full = min(full, -beta[k] / step[k])
        old = _q(beta, d, z, p, nc)
        for k in range(p):
            trial[k] = beta[k] + full * step[k]
        for _halving in range(12):
            if not _q(trial, d, z, p, nc) > old + 1e-14 * (1.0 + abs(old)):
                break
            full *= 0.5
            for k in range(p):
                trial[k] = beta[k] + full * step[k]
        settled, moved = True, 0.0
        for k in range(p):
            moved = max(moved, abs(full * step[k]))
            room = -beta[k] / step[k] if step[k] < 0.0 else 1e300
            # A share that reached zero is held there, until its gradient asks for it again.
            if active[k] > 0.0 and room <= full * (1.0 + 1e-12):
                active[k], trial[k], settled = 0.0, 0.0, False
            beta[k] = max(trial[k], 0.0)
        if settled and moved < 1e-14:
            wake, lowest = -1, -1e-12
            for k in range(p):
                if active[k] == 0.0 and g[k] < lowest:
                    wake, lowest = k, g[k]
            if wake < 0:
                break
            active[wake], beta[wake] = 1.0, 1e-10
    for i in range(nc):
        E = 0.0
        for k in range(p):
            E += beta[k] * d[k, i]
        for k in range(p):
            out[k, i] = z[i] * d[k, i] / max(E, 1e-300)
    return 0


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
    """Return the Gibbs energy over R T of phases, but for what the pure components bring."""
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
    """Put how far each component is from equal fugacity in ``g``, by phase away from its richest, and what that would be in ``wanted``; return the largest."""
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

    Of each component the phase that has most of it is what is left over, so that no amount is the small difference of two large ones. What a phase holds but
    traces of has no say in where the others go: it follows by substitution.
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
        # The shares may be a little off the compositions: every component is there in full.
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
        # Traces come at once to what equal fugacity wants, short of becoming more than that.
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
        # A phase that all but vanished has left: the others settle without it.
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


@unit
def extrapolate(step: F2, old: F2, older: F2, p: int, nc: int, ln_phi: F2) -> int:
    """Add the extra step of the general dominant eigenvalue method with two eigenvalues to ``ln_phi``; none where it would be wild.

    Crowe and Nishio, AIChE J. 21, 528 (1975).
    """
    b01 = b02 = b11 = b12 = b22 = 0.0
    for k in range(p):
        b01 += dot(step[k], old[k], nc)
        b02 += dot(step[k], older[k], nc)
        b11 += dot(old[k], old[k], nc)
        b12 += dot(old[k], older[k], nc)
        b22 += dot(older[k], older[k], nc)
    det = b11 * b22 - b12 * b12
    mu1, mu2 = (b02 * b12 - b01 * b22) / det, (b01 * b12 - b02 * b11) / det
    whole = 1.0 + mu1 + mu2
    ratio = b01 / b11
    two = det > 1e-8 * b11 * b22 and abs(whole) > 1e-3
    if not two and not 0.0 < ratio < 0.99:
        return 0
    most = 0.0
    for k in range(p):
        for i in range(nc):
            extra = (step[k, i] - mu2 * old[k, i]) / whole - step[k, i] if two else ratio / (1.0 - ratio) * step[k, i]
            if extra != extra:
                return 0
            most = max(most, abs(extra))
    # A jump far beyond the latest step is more likely noise than insight.
    limit = min(1.0, 4.0 / most) if most > 0.0 else 0.0
    for k in range(p):
        for i in range(nc):
            extra = (step[k, i] - mu2 * old[k, i]) / whole - step[k, i] if two else ratio / (1.0 - ratio) * step[k, i]
            ln_phi[k, i] += limit * extra
    return 1


@inner
def _settled(table: I1, q: F1, st: F1, nc: int, d: F1, W: F1, x: F1, ln_phi: F1, best: F1) -> None:
    """Bring a trial nearer to where it leads; the test ends as soon as it has proved what it looks for.

    Substitution may run away from a strongly non-ideal trial: of all on its way the one of the lowest distance counts, normalised, in W.
    """
    lowest = 1e300
    for i in range(nc):
        best[i] = W[i]
    for _ in range(SETTLING):
        whole = total(W, nc)
        for i in range(nc):
            x[i] = W[i] / whole
        eos.ln_phi(table, q, st, nc, x, 0, ln_phi)
        tm = 1.0
        for i in range(nc):
            tm += W[i] * (log_safe(W[i]) + ln_phi[i] - d[i] - 1.0)
        if tm < lowest:
            lowest = tm
            for i in range(nc):
                best[i] = W[i]
        moved = 0.0
        for i in range(nc):
            new = exp(min(max(d[i] - ln_phi[i], LOWEST), HIGHEST))
            moved = max(moved, abs(new - W[i]))
            W[i] = new
        if moved < 1e-6:
            break
    for i in range(nc):
        W[i] = best[i]
    normalise(W, nc)


@unit
def joined(
    table: I1, q: F1, st: F1, nc: int, p: int, z: F1, d: F1, W: F1, w: F2, H: F1, A: F1, D: F1, s: F1, beta: F1, Z: F1
) -> float:
    """Solve for p phases, the last beginning at W beside those in the places before; return the residual, with iterations in s[63].

    A phase that would join is taken out of the one that has most of it, in the amount that lowers the Gibbs energy most: all share one tangent plane. They settle
    by substitution; where that does not end, or loses a phase, a descent decides.
    """
    x, ln_phi, begin = places(w, X, nc), places(w, LN_PHI, nc), places(w, BEGIN, nc)
    step, old, older, new = places(w, STEP, nc), places(w, OLD, nc), places(w, OLDER, nc), places(w, NEW, nc)
    d_shares = places(w, TRIAL_F, nc)
    source, most = 0, -1.0
    for k in range(p - 1):
        room = 1e300
        for i in range(nc):
            if W[i] > 0.0:
                room = min(room, x[k, i] / W[i])
        if beta[k] * room > most:
            source, most = k, beta[k] * room
    seed, free = w[2], p - 1
    seeded(table, q, st, nc, x[source], d, W, w, seed)
    taken = total(seed, nc)
    for i in range(nc):
        x[source, i] -= seed[i]
        x[free, i] = seed[i]
    normalise(x[source], nc)
    normalise(x[free], nc)
    beta[free] = beta[source] * taken
    beta[source] -= beta[free]
    for k in range(p):
        Z[k] = eos.ln_phi(table, q, st, nc, x[k], 0, ln_phi[k])
        s[56 + k] = beta[k]
        for i in range(nc):
            begin[k, i] = x[k, i]
    residual, count = 1e300, 0.0
    kept = 0
    for number in range(SUBSTITUTIONS):
        shares(ln_phi, z, p, nc, beta, d_shares, x, s)
        size, settled = 0.0, True
        for k in range(p):
            normalise(x[k], nc)
            Z[k] = eos.ln_phi(table, q, st, nc, x[k], 0, new[k])
            reach = 0.0
            for i in range(nc):
                step[k, i] = new[k, i] - ln_phi[k, i]
                if z[i] > 0.0:
                    reach = max(reach, abs(step[k, i]))
                if step[k, i] != step[k, i]:
                    reach = 1e300
                ln_phi[k, i] = new[k, i]
            # A phase that is not there must have settled as well before it is known to stay out.
            if beta[k] > 0.0:
                size = max(size, reach)
            elif reach >= OUTSIDE:
                settled = False
        count += 1.0
        if size < TOLERANCE and settled:
            residual = size
            break
        if number % 5 == 4 and kept >= 2:
            extrapolate(step, old, older, p, nc, ln_phi)
        kept += 1
        for k in range(p):
            for i in range(nc):
                older[k, i] = old[k, i]
                old[k, i] = step[k, i]
    if residual >= 1e300:
        residual = descended_all(table, q, st, nc, p, z, w, H, A, D, s, x, beta, ln_phi, Z)
    # Where substitution lost a phase, descending from where it joined shows whether it was right to; and where neither settled.
    lost = not residual <= ACCEPTED
    for k in range(p):
        lost = lost or beta[k] <= 0.0
    if lost:
        before = energy(x, beta, ln_phi, p, nc)
        other_beta, other_Z = s[52:56], s[60:64]
        for k in range(p):
            other_beta[k] = s[56 + k]
        other_f = places(w, STEP, nc)
        size = descended_all(table, q, st, nc, p, z, w, H, A, D, s, begin, other_beta, other_f, other_Z)
        lower = energy(begin, other_beta, other_f, p, nc) < before - 1e-13
        if size <= ACCEPTED and (lower or not residual <= ACCEPTED):
            residual = size
            for k in range(p):
                beta[k], Z[k] = other_beta[k], other_Z[k]
                for i in range(nc):
                    x[k, i], ln_phi[k, i] = begin[k, i], other_f[k, i]
    s[63] = count
    return residual


@inner
def _arranged(table: I1, q: F1, st: F1, nc: int, p: int, x: F2, beta: F1, Z: F1, spare: F1, s: F1, kind: I1) -> int:
    """Put phases in order, the lighter first, those that are one joined, and name them in ``kind``; return how many there are."""
    for k in range(p):
        for j in range(k):
            if beta[k] > 0.0 and beta[j] > 0.0 and abs(Z[k] / Z[j] - 1.0) < 1e-5:
                apart = 0.0
                for i in range(nc):
                    apart = max(apart, abs(x[k, i] - x[j, i]))
                if apart < ALIKE:
                    beta[j] += beta[k]
                    beta[k] = 0.0
    whole = 0.0
    for k in range(p):
        whole += beta[k]
    packing, liquid = s[:4], s[4:8]
    two = s[8:10]
    lightest = -1
    for k in range(p):
        beta[k] /= whole
        eos.place(table, q, st, nc, x[k], Z[k], two)
        packing[k], liquid[k] = two[0], 1.0 if two[1] > 0.0 and two[0] > 1.0 else 0.0
        if beta[k] > 0.0 and liquid[k] == 0.0 and (lightest < 0 or packing[k] < packing[lightest]):
            lightest = k
    count = 0
    for k in range(p):
        if k != lightest:
            liquid[k] = 1.0
        if beta[k] > 0.0:
            count += 1
    # By insertion: vapours first, then the less densely packed; what is not there last.
    for k in range(1, p):
        j = k
        while j > 0 and _after(beta, liquid, packing, j - 1, j):
            beta[j], beta[j - 1] = beta[j - 1], beta[j]
            Z[j], Z[j - 1] = Z[j - 1], Z[j]
            packing[j], packing[j - 1] = packing[j - 1], packing[j]
            liquid[j], liquid[j - 1] = liquid[j - 1], liquid[j]
            for i in range(nc):
                spare[i] = x[j, i]
                x[j, i] = x[j - 1, i]
                x[j - 1, i] = spare[i]
            j -= 1
    for k in range(p):
        kind[k] = int(liquid[k]) if k < count else -1
    return count


@inner
def _after(beta: F1, liquid: F1, packing: F1, a: int, b: int) -> bool:
    """Tell whether the phase a comes after b."""
    if (beta[a] > 0.0) != (beta[b] > 0.0):
        return beta[b] > 0.0
    if liquid[a] != liquid[b]:
        return liquid[a] > liquid[b]
    return packing[a] > packing[b]


@entry
def add_phases(
    lo: int, hi: int, work: F1, table: I1, p: F2, memory_: int, guess: F2, distinct: I1, T: F1, P: F1, z: F2, kind: I2, share: F2,
    phases: F3, Z: F2, reason: I1, residual: F1, iterations: I1,
) -> int:  # fmt: skip
    """Give two-phase states their third phase where they have one, and another pair where that is the stable one: ``kind``, ``share`` and ``Z`` (N, 4), ``phases``
    (N, 4, nc) come with two places filled and are changed."""
    nc = z.shape[1]
    st, s = work[:memory_], work[memory_ : memory_ + 64]
    w = matrix(work[memory_ + 64 :], ROWS, nc)
    first = memory_ + 64 + ROWS * nc
    large = (PLACES * nc) ** 2
    H, A, D = work[first : first + large], work[first + large : first + 2 * large], work[first + 2 * large :]
    d, tangent, W, told = w[TEST_ROWS], w[TEST_ROWS + 1], w[TEST_ROWS + 2], work[first + 2 * large + WIDE * nc * nc :]
    known, known_Z = matrix(w[TEST_ROWS + 4], PLACES, nc), told[8 : 8 + PLACES]
    x, beta, own_Z = places(w, X, nc), told[16:20], told[24:28]
    for n in range(lo, hi):
        if kind[n, 1] < 0 and reason[n] == CONVERGED:
            continue
        q, own = p[n if p.shape[0] > 1 else 0], guess[n if guess.shape[0] > 1 else 0]
        eos.prepare(table, q, st, nc, T[n], P[n])
        last = NOT_CONVERGED
        for _ in range(ROUNDS):
            count, largest = 0, 0
            for k in range(WIDE):
                if kind[n, k] >= 0:
                    count += 1
                if share[n, k] > share[n, largest]:
                    largest = k
            # What all phases share, each component's fugacity taken from the phase that has most of it.
            for i in range(nc):
                d[i], tangent[i] = 0.0, -1.0
            others = 0
            for k in range(count):
                eos.ln_phi(table, q, st, nc, phases[n, k], 0, w[0])
                for i in range(nc):
                    if phases[n, k, i] > tangent[i]:
                        tangent[i], d[i] = phases[n, k, i], log_safe(phases[n, k, i]) + w[0, i]
                if k != largest:
                    known_Z[others] = Z[n, k]
                    for i in range(nc):
                        known[others, i] = phases[n, k, i]
                    others += 1
            for k in range(others, PLACES):
                known_Z[k] = float("nan")
            for i in range(nc):
                tangent[i] = max(phases[n, largest, i], 1e-300) if z[n, i] > 0.0 else 0.0
            # Of all trials the deepest: one that has only just left another phase leads on too slowly.
            tm = tested(
                table, q, st, nc, own, distinct, T[n], P[n], tangent, d, 1, FURTHER, known, known_Z, w, matrix(H, nc, nc),
                matrix(A, nc, nc), D[: nc * nc], w[17], W, told,
            )  # fmt: skip
            if not tm < FURTHER:
                # What did not come in as two phases, and is known to be stable as one, is one.
                last = CONVERGED if told[0] > 0.0 or tm < UNSTABLE else reason[n]
                break
            if count > PLACES:
                last = reason[n]
                break
            _settled(table, q, st, nc, d, W, w[0], w[1], w[3])
            for k in range(count):
                beta[k], own_Z[k] = share[n, k], Z[n, k]
                for i in range(nc):
                    x[k, i] = phases[n, k, i]
            found = joined(table, q, st, nc, count + 1, z[n], d, W, w, H, A, D, s, beta, own_Z)
            iterations[n] += int(s[63])
            residual[n] = found if found < 1e299 else float("inf")
            reason[n] = CONVERGED if found <= ACCEPTED else NOT_CONVERGED
            there = _arranged(table, q, st, nc, count + 1, x, beta, own_Z, w[0], s, kind[n])
            for k in range(WIDE):
                held = k < there
                if k > count:
                    kind[n, k] = -1
                share[n, k], Z[n, k] = (beta[k], own_Z[k]) if held else (0.0, float("nan"))
                for i in range(nc):
                    phases[n, k, i] = x[k, i] if held else 0.0
            last = NOT_CONVERGED
            if reason[n] == NOT_CONVERGED:
                break
            if there > PLACES:
                # A fourth phase is beyond what is looked for: the state is not the answer, and says so.
                last = MORE_PHASES
                break
        reason[n] = last
    return 0
