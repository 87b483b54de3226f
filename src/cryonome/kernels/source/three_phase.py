"""Phases of one state beyond two; method and sources in :mod:`cryonome.equilibrium.multiphase`, work as
:mod:`.many_phases` tells."""

from math import exp

from . import table as eos
from .guesses import log_safe
from .linear import dot, normalise, total
from .many_phases import (
    BEGIN,
    LN_PHI,
    NEW,
    OLD,
    OLDER,
    PLACES,
    ROWS,
    STEP,
    TRIAL_F,
    WIDE,
    X,
    descended_all,
    energy,
    places,
)
from .marks import F1, F2, F3, I1, I2, entry, inner, matrix, unit
from .phase_shares import shares
from .stability import HIGHEST, LOWEST, UNSTABLE, tested
from .stability import ROWS as TEST_ROWS
from .two_phase import ACCEPTED, TOLERANCE, seeded

FURTHER = -1e-9
"""Distance below which a phase of a converged split is itself unstable; residuals of a split are a hundred times
smaller."""
ROUNDS = 5
SUBSTITUTIONS = 60
OUTSIDE = 1e-5
"""Step of ln phi below which the composition of a phase that is not there counts as settled."""
SETTLING = 40
"""Substitutions that bring a trial to where it leads."""
ALIKE = 1e-7
"""Largest difference of mole fractions up to which two phases are one."""

CONVERGED, NOT_CONVERGED, MORE_PHASES = 0, 1, 3


@unit
def extrapolate(step: F2, old: F2, older: F2, p: int, nc: int, ln_phi: F2) -> int:
    """Add the extra step of the general dominant eigenvalue method with two eigenvalues to ``ln_phi``; none where it
    would be wild.

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
    # An extrapolation far beyond the latest step is more likely noise: it is left out.
    limit = min(1.0, 4.0 / most) if most > 0.0 else 0.0
    for k in range(p):
        for i in range(nc):
            extra = (step[k, i] - mu2 * old[k, i]) / whole - step[k, i] if two else ratio / (1.0 - ratio) * step[k, i]
            ln_phi[k, i] += limit * extra
    return 1


@inner
def _settled(table: I1, q: F1, st: F1, nc: int, d: F1, W: F1, x: F1, ln_phi: F1, best: F1) -> None:
    """Bring a trial nearer to where it leads; the test ends as soon as it has proved what it looks for.

    Substitution may run away from a strongly non-ideal trial: of all on its way the one of the lowest distance
    counts, normalised, in W."""
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
    """Solve for p phases, the last beginning at W beside those in the places before; return the residual, with
    iterations in s[63].

    A phase that would join is taken out of the one that has most of it, in the amount that lowers the Gibbs energy
    most: all share one tangent plane. They settle by substitution; where that does not end, or loses a phase, a
    descent decides."""
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
            # An absent phase must have settled too before it is certain that it stays absent.
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
    # Where substitution lost a phase, or did not settle, descent of the Gibbs energy from where the phase joined
    # decides.
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
    """Put phases in order, the lighter first, those that are one joined, and name them in ``kind``; return how many
    there are."""
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
    # Sorting by insertion: vapours first, then by density; absent phases last.
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
    """Give two-phase states their third phase where they have one, and another pair where that is the stable one:
    ``kind``, ``share`` and ``Z`` (N, 4), ``phases`` (N, 4, nc) come with two places filled and are changed."""
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
            # The tangent plane: each component's fugacity, taken from the phase that has most of it.
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
            # Take the deepest of all trials: one that has only just left another phase would converge too slowly.
            tm = tested(
                table, q, st, nc, own, distinct, T[n], P[n], tangent, d, 1, FURTHER, known, known_Z, w, matrix(H, nc, nc),
                matrix(A, nc, nc), D[: nc * nc], w[17], W, told,
            )  # fmt: skip
            if not tm < FURTHER:
                # Two phases did not converge, and the feed is proved stable: it is one phase.
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
                # Four phases are one more than this solver settles: the state is marked as having more.
                last = MORE_PHASES
                break
        reason[n] = last
    return 0
