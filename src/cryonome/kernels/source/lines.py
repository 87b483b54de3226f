"""The tracer's walk along a line of constant vapour fraction; the method is told in
:mod:`cryonome.equilibrium.envelope`.

A walker is the moving end of one line, in arrays of which it has a row: whole numbers ``whole`` (:data:`WHOLE`:
points so far, the unknown specified next, tries, why it ended, how long it creeps, whether it ends at a critical
point), ``step``, the last fraction ``beta``, its points with their fractions, volumes and sides, and the last two
slopes."""

from math import exp, log

from .guesses import exp_all, wilson
from .marks import F1, F2, F3, I1, I2, entry, inner, matrix
from .quality import ROWS, solve_point

COUNT, SPEC, TRIES, REASON, CREEPING, STOPS = range(6)
WHOLE = 6

MOVING, STUCK, CRITICAL, PRESSURE, LOW_PRESSURE, LOW_TEMPERATURE, POINTS, NO_DIRECTION = range(8)
"""Why a line ended."""

CROSSING = 0.06
"""max |ln K| at which the step is set to jump across the critical point."""
T_MIN, P_MIN, P_MAX = 60.0, 5.0e3, 2.0e8


@inner
def _most(u: F1, nc: int) -> float:
    """Return the largest |ln K|."""
    most = 0.0
    for i in range(nc):
        most = max(most, abs(u[i]))
    return most


@inner
def near_critical(u: F1, nc: int, volume: float, by: float) -> bool:
    """Tell whether compositions and volumes of the phases both come together. Isomers alone have nearly the same
    compositions in phases whose volumes differ."""
    return _most(u, nc) < by * CROSSING and abs(volume) < 4.0 * by * CROSSING


@inner
def fastest(slope: F1, u: F1, nc: int, volume: float) -> int:
    """Return the unknown to specify next: the fastest, each weighed by the range it runs through. Far from the
    critical point T and P describe the line best; near it only the K values do."""
    best, most = 0, -1.0
    if near_critical(u, nc, volume, 4.0):
        for i in range(nc):
            if abs(u[i]) > most:
                best, most = i, abs(u[i])
        return best
    for i in range(nc + 2):
        weight = 1.0 / (0.3 + abs(u[i])) if i < nc else (12.0 if i == nc else 1.5)
        if abs(slope[i]) * weight > most:
            best, most = i, abs(slope[i]) * weight
    return best


@entry
def fastest_unknowns(lo: int, hi: int, work: F1, slope: F2, u: F2, volume: F1, out: I1) -> int:
    """Put the unknown to specify of every point in ``out``."""
    for n in range(lo, hi):
        out[n] = fastest(slope[n], u[n], u.shape[1] - 2, volume[n])
    return 0


@inner
def _limited(step: float, slope: F1, u: F1, nc: int, volume: float, spec: int) -> float:
    """Return the step kept within what a smooth plot and a safe prediction allow, and set to jump the critical
    point."""
    most = 1e300
    for i in range(nc + 2):
        bound = 0.5 + 0.3 * abs(u[i]) if i < nc else (0.025 if i == nc else 0.25)
        if slope[i] != 0.0:
            most = min(most, bound / abs(slope[i]))
    sign = 1.0 if step >= 0.0 else -1.0
    step = sign * min(abs(step), most)
    if spec < nc:
        here, ahead = u[spec], u[spec] + step
        if near_critical(u, nc, volume, 3.0) and abs(ahead) < abs(here):
            side = 1.0 if here >= 0.0 else -1.0
            # The equations are singular at the critical point itself: a step that comes near it goes to the other side.
            if (abs(here) < 1.2 * CROSSING and abs(volume) < 0.35) or here * ahead < 0.0:
                step = -here - side * min(0.6 * CROSSING, 0.8 * abs(here))
            elif abs(ahead) < CROSSING and abs(here) > 1.2 * CROSSING:
                step = side * CROSSING - here
    return step


@inner
def _predicted(count: int, points: F2, slopes: F2, step: float, spec: int, m: int, guess: F1) -> None:
    """Put the next point in ``guess``: by a cubic through the last two points and tangents, or along the tangent."""
    u1, s1 = points[count - 1], slopes[1]
    reach = 0.0
    for i in range(m):
        guess[i] = u1[i] + step * s1[i]
        reach = max(reach, abs(step * s1[i]))
    if count > 1:
        u0, s0 = points[count - 2], slopes[0]
        h, scale = u1[spec] - u0[spec], s0[spec]
        if abs(h) > 1e-10 and abs(scale) > 1e-8 and abs(step) < 4.0 * abs(h):
            t = 1.0 + step / h
            r = 1.0 - t
            off = 0.0
            for turn in range(2):
                for i in range(m):
                    value = (1.0 + 2.0 * t) * r * r * u0[i] + t * r * r * h * s0[i] / scale
                    value += t * t * (1.0 + 2.0 * r) * u1[i] - t * t * r * h * s1[i]
                    if turn == 0:
                        off = max(off, abs(value - guess[i]))
                        if value != value:
                            off = 1e300
                    else:
                        guess[i] = value
                if off >= 0.5 * reach + 0.05:
                    break
    guess[spec] = u1[spec] + step


@inner
def _sign(v: float) -> float:
    return 1.0 if v > 0.0 else (-1.0 if v < 0.0 else 0.0)


@entry
def walk_lines(
    lo: int, hi: int, work: F1, table: I1, p: F1, memory: int, z: F1, goal: F1, constant: F1, bend: F1, rows: I1, whole: I2, step: F1,
    beta: F1, points: F3, fractions: F2, volumes: F2, sides: F2, slopes: F3, steps: int,
) -> int:  # fmt: skip
    """Take up to ``steps`` steps with the walkers ``rows``, until each has ended."""
    nc = z.size
    m = nc + 2
    st = work[:memory]
    w = matrix(work[memory:], ROWS, m)
    first = memory + ROWS * m
    J, A = matrix(work[first:], m, m), matrix(work[first + m * m :], m, m)
    out = work[first + 2 * m * m : first + 2 * m * m + 4]
    D = work[first + 2 * m * m + 4 :]
    rest = first + 2 * m * m + 4 + 2 * nc * nc
    guess, u, slope = work[rest : rest + m], work[rest + m : rest + 2 * m], work[rest + 2 * m : rest + 3 * m]
    for at in range(lo, hi):
        n = rows[at]
        told = whole[n]
        for _ in range(steps):
            if told[REASON] != MOVING:
                break
            count, spec = told[COUNT], told[SPEC]
            last, volume = points[n, count - 1], volumes[n, count - 1]
            step[n] = _limited(step[n], slopes[n, 1], last, nc, volume, spec)
            _predicted(count, points[n], slopes[n], step[n], spec, m, guess)
            near = near_critical(last, nc, volume, 3.0)
            jumps = near and spec < nc and last[spec] * guess[spec] < 0.0
            for j in range(m):
                u[j] = guess[j]
            out[0] = beta[n]
            light = -volume if jumps else volume
            good = solve_point(
                table, p, st, nc, z, goal[n], constant, bend, u, spec, light, 7, 0.5, w, D, J, A, slope, out
            )
            new_volume = out[3]
            moved = 0.0
            if good != 0:
                for j in range(m):
                    moved = max(moved, abs(u[j] - guess[j]))
            wrong = good == 0 or moved > 1.0 or (_most(u, nc) < 1e-4 and abs(new_volume) < 1e-3)
            if wrong or abs(u[nc] - last[nc]) > 0.08 or abs(u[nc + 1] - last[nc + 1]) > 0.8:
                told[TRIES] += 1
                # A step that failed is made longer near the critical point, to jump it, and shorter elsewhere.
                step[n] *= 1.5 if near and told[TRIES] % 2 == 1 and spec < nc else 0.4
                if told[TRIES] > 12:
                    told[REASON] = STUCK
                continue
            # A critical point was passed where the phases change roles both in volume and in composition: at an
            # azeotrope only the K values do, at very high pressures perhaps only the volumes. The K values are judged
            # together, since one that is nearly one may lie on either side.
            along = change = 0.0
            for j in range(m):
                change = max(change, abs(u[j] - last[j]))
                if j < nc:
                    along += last[j] * u[j]
            crossed = along < 0.0 and volume * new_volume < 0.0
            told[CREEPING] = told[CREEPING] + 1 if change < 1e-4 else 0
            if told[CREEPING] > 4:
                told[REASON] = STUCK
                break
            beta[n] = out[0]
            fractions[n, count], volumes[n, count] = out[0], new_volume
            sides[n, count] = -sides[n, count - 1] if crossed else sides[n, count - 1]
            new = fastest(slope, u, nc, new_volume)
            if slope[new] == 0.0:
                told[REASON] = NO_DIRECTION
                break
            # The step goes on in the direction of travel, now as a change of the new specified unknown.
            done = int(out[1])
            grow = 2.0 if done <= 2 else (1.5 if done == 3 else (1.1 if done == 4 else 0.6))
            base = abs(step[n]) * grow * abs(slope[new]) / max(abs(slope[spec]), 1e-300)
            step[n] = _sign(_sign(step[n]) * slope[new]) * base
            for j in range(m):
                points[n, count, j] = u[j]
                slopes[n, 0, j] = slopes[n, 1, j]
                slopes[n, 1, j] = slope[j] / slope[new]
            told[SPEC], told[TRIES], told[COUNT] = new, 0, count + 1
            T, P = exp(u[nc]), exp(u[nc + 1])
            if crossed and told[STOPS] != 0:
                told[REASON] = CRITICAL
            elif P > P_MAX:
                told[REASON] = PRESSURE
            elif P < 0.98 * P_MIN and count + 1 > 4:
                told[REASON] = LOW_PRESSURE
            elif T < T_MIN:
                told[REASON] = LOW_TEMPERATURE
            elif count + 1 >= points.shape[1]:
                told[REASON] = POINTS
    return 0


@inner
def _beside(tip: F1, before: F1, loose: float, sign: float, line: F2, count: int, volumes: F1, nc: int) -> int:
    """Return the first point of the stretch of a line that a tip lies beside, where the line comes the other way and
    its points have the same phase packed more loosely; -1 without one. The line's ln K times ``sign`` are comparable
    with the tip's, and so its volumes."""
    m = nc + 2
    for k in range(count - 1):
        if not (loose * sign * volumes[k] > 0.0 and loose * sign * volumes[k + 1] > 0.0):
            continue
        # A point far off in T or P needs no closer comparison.
        if max(40.0 * abs(line[k, nc] - tip[nc]), 4.0 * abs(line[k, nc + 1] - tip[nc + 1])) >= 3.0:
            continue
        length = along = against = 0.0
        for j in range(m):
            scale = 1.0 / (0.5 + 0.3 * abs(tip[j])) if j < nc else (40.0 if j == nc else 4.0)
            own = sign if j < nc else 1.0
            step = (line[k + 1, j] - line[k, j]) * own * scale
            length += step * step
            along += (tip[j] - own * line[k, j]) * scale * step
            against += (tip[j] - before[j]) * scale * step
        if not length > 0.0 or against >= 0.0:
            continue
        along /= length
        if not 0.0 <= along <= 1.0:
            continue
        off = most = 0.0
        for j in range(m):
            scale = 1.0 / (0.5 + 0.3 * abs(tip[j])) if j < nc else (40.0 if j == nc else 4.0)
            own = sign if j < nc else 1.0
            step = (line[k + 1, j] - line[k, j]) * own * scale
            off = max(off, abs((tip[j] - own * line[k, j]) * scale - along * step))
            most = max(most, abs(step))
        if off < 0.15 * most + 1e-6:
            return k
    return -1


@entry
def lines_meet(
    first: F2, first_count: int, first_seen: int, first_volumes: F1, second: F2, second_count: int, second_seen: int, second_volumes: F1,
    kept: I1,
) -> int:  # fmt: skip
    """Return whether two lines that trace towards each other, a dew and a bubble line, have met head on by a point
    that is new on one of them (from ``seen`` on), with how many points of each are kept in ``kept``. The unknowns of
    a dew line are ln(z / incipient), those of a bubble line the negative."""
    nc = first.shape[1] - 2
    for t in range(max(first_seen, 1), first_count):
        place = _beside(first[t], first[t - 1], first_volumes[t], -1.0, second, second_count, second_volumes, nc)
        if place >= 0:
            kept[0], kept[1] = t + 1, place + 1
            return 1
    for t in range(max(second_seen, 1), second_count):
        place = _beside(second[t], second[t - 1], second_volumes[t], -1.0, first, first_count, first_volumes, nc)
        if place >= 0:
            kept[0], kept[1] = place + 1, t + 1
            return 1
    return 0


HALVINGS = 60


@inner
def _too_light(guess: F1, nc: int, z: F1, beta: float, T: float, P: float, ln_k: F1, K: F1) -> float:
    """Return the phase-fraction equation with Wilson's ratios, which come in ``ln_k``."""
    wilson(guess, nc, T, P, ln_k)
    for i in range(nc):
        ln_k[i] = min(max(ln_k[i], -200.0), 200.0)
    exp_all(ln_k, 200.0, K, nc)
    out = 0.0
    for i in range(nc):
        c = K[i] - 1.0
        out += z[i] * c / (1.0 + beta * c)
    return out


@entry
def wilson_points(
    lo: int, hi: int, work: F1, guess: F2, z: F2, beta: F1, known: F1, at_T: int, low: float, high: float, u: F2
) -> int:
    """Put unknowns with Wilson's ratios that satisfy the phase-fraction equation in u (N, nc + 2); ``known`` (N,) is
    T, or P, and ln of the other is looked for from ``low`` to ``high``, taken at the end of its range where it lies
    beyond."""
    nc = z.shape[1]
    ln_k, K = work[:nc], work[nc : 2 * nc]
    for n in range(lo, hi):
        own, feed = guess[n if guess.shape[0] > 1 else 0], z[n if z.shape[0] > 1 else 0]
        fraction = min(max(beta[n], 1e-9), 1.0 - 1e-9)
        a, b = low, high
        ends = 0.0
        for turn in range(HALVINGS):
            # First both ends, then halves.
            other = a if turn == 0 else (b if turn == 1 else 0.5 * (a + b))
            T, P = (known[n], exp(other)) if at_T != 0 else (exp(other), known[n])
            value = _too_light(own, nc, feed, fraction, T, P, ln_k, K)
            if turn == 0:
                ends = value
            elif turn == 1:
                if ends * value > 0.0 or value != value:
                    # Without a change of sign this fraction is not reached between the ends: start from the nearer one.
                    if (value > 0.0) != (at_T != 0):
                        b = a
                    else:
                        a = b
            elif (value > 0.0) == (ends > 0.0):
                a = other
            else:
                b = other
        other = 0.5 * (a + b)
        T, P = (known[n], exp(other)) if at_T != 0 else (exp(other), known[n])
        _too_light(own, nc, feed, fraction, T, P, ln_k, K)
        for i in range(nc):
            u[n, i] = ln_k[i]
        u[n, nc], u[n, nc + 1] = (log(known[n]), other) if at_T != 0 else (other, log(known[n]))
    return 0
