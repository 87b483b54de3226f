"""Points of a given vapour fraction, by mole or by volume, by Newton's method; equations and sources in
:mod:`cryonome.equilibrium.quality`.

Unknowns u = (ln K_1 .. ln K_nc, ln T, ln P), m = nc + 2 of them, one held. Work is rows of ``w`` (ROWS, m) and
matrices."""

from math import exp, log, tanh

from . import table as eos
from .linear import add_scaled, dot, factor, finite, solve_factored
from .marks import F1, F2, I1, entry, inner, matrix, unit

GAS = 8.31446261815324
TOLERANCE = 1e-11
ALIKE = 0.35
"""Distance of two compositions (half the sum of differences) below which the root tells the phases apart."""
LARGEST = 2.0
"""Largest change of ln(beta / (1 - beta)) in one step, where the fraction is solved for."""
T_60F, REACH = 288.7055555555555, 300.0
"""How a shift of volume bends with temperature: :func:`cryonome.eos.volume_shift.warming`."""

ROWS = 28
"""The last two belong together: a response takes six numbers."""
(
    X,
    Y,
    K,
    FX,
    FY,
    XT,
    XP,
    YT,
    YP,
    XY,
    RES,
    STEP,
    PIVOT,
    SLOPE,
    OWN,
    RISE,
    FALL,
    VX,
    VY,
    OLD_U,
    OLD_RISE,
    SX,
    SHIFT,
    SHIFT_T,
    LAST,
    PLACE,
) = range(26)


@unit
def quality_equations(
    table: I1, p: F1, st: F1, nc: int, z: F1, beta: float, u: F1, light: float, w: F2, D: F1, J: F2
) -> float:
    """Put the residuals of a point in row RES of ``w`` and their derivatives in J (m, m), its last row zero; return
    ln of the ratio of V/b, y to x.

    Both phases stand at their stable roots; where their compositions are alike (nearly pure fluids, isomers,
    azeotropes) the lighter takes the vapour root and the heavier the liquid root; ``light`` is positive where y is
    meant to be the lighter. Row SX ends with the sums of x and y and both Z."""
    x, y, ratio, res, two = w[X], w[Y], w[K], w[RES], w[PLACE]
    T, P = exp(u[nc]), exp(u[nc + 1])
    sx = sy = 0.0
    for i in range(nc):
        ratio[i] = exp(u[i])
        x[i] = z[i] / max(1.0 + beta * (ratio[i] - 1.0), 1e-300)
        y[i] = ratio[i] * x[i]
        sx += x[i]
        sy += y[i]
    apart = 0.0
    for i in range(nc):
        x[i] /= sx
        y[i] /= sy
        apart += abs(x[i] - y[i])
    root_x = root_y = 0
    if 0.5 * apart < ALIKE:
        root_x, root_y = (1, 2) if light > 0.0 else (2, 1)
    eos.prepare(table, p, st, nc, T, P)
    Zx = eos.derivatives(table, p, st, nc, x, root_x, w[FX], D, w[XT], w[XP])
    Zy = eos.derivatives(table, p, st, nc, y, root_y, w[FY], D[nc * nc :], w[YT], w[YP])
    Dx, Dy = matrix(D, nc, nc), matrix(D[nc * nc :], nc, nc)
    fx, fy, xT, xP, yT, yP, xy = w[FX], w[FY], w[XT], w[XP], w[YT], w[YP], w[XY]
    for i in range(nc):
        xy[i] = x[i] * sx * y[i] * sy / z[i] if z[i] > 0.0 else 0.0
    for i in range(nc):
        res[i] = u[i] + fy[i] - fx[i]
        row, a, b = J[i], Dy[i], Dx[i]
        up, down = (1.0 - beta) / sy, beta / sx
        for j in range(nc):
            row[j] = (a[j] * up + b[j] * down) * xy[j]
        row[i] += 1.0
        row[nc], row[nc + 1] = yT[i] - xT[i], yP[i] - xP[i]
        J[nc, i] = xy[i]
    res[nc] = sy - sx
    J[nc, nc] = J[nc, nc + 1] = 0.0
    for j in range(nc + 2):
        J[nc + 1, j] = 0.0
    eos.place(table, p, st, nc, x, Zx, two)
    packing = two[0]
    eos.place(table, p, st, nc, y, Zy, two)
    tail = w[SX]
    tail[0], tail[1] = sx, sy
    w[LAST, 0], w[LAST, 1] = Zx, Zy
    return log(packing / two[0])


@inner
def _volume(
    table: I1, p: F1, st: F1, nc: int, x: F1, Z: float, byP: F1, T: float, P: float, w: F2, out: F1, six: F1
) -> tuple[float, float, float]:
    """Return ln V of a phase after the shift and its derivatives in ln T and ln P; those in mole numbers come in
    ``out``."""
    shift, by_T = w[SHIFT], w[SHIFT_T]
    gas = GAS * T / P
    off = dot(x, shift, nc)
    V = Z * gas - off
    eos.response(table, p, st, nc, x, Z, six)
    for i in range(nc):
        out[i] = (gas * (1.0 + byP[i]) - shift[i]) / V - 1.0
    stretch = Z * gas / V
    return log(V), -stretch * six[4] / six[5] - T * dot(x, by_T, nc) / V, stretch / six[5]


@inner
def _eliminate(
    table: I1,
    p: F1,
    st: F1,
    nc: int,
    z: F1,
    beta: float,
    psi: float,
    goal: float,
    u: F1,
    constant: F1,
    slope: F1,
    w: F2,
    D: F1,
    J: F2,
) -> tuple[float, float]:
    """Take the fraction out of the equations of a point of given share by volume; return what the share misses by and
    its derivative by psi."""
    x, y, ratio, xy, own, rise, fall, res = w[X], w[Y], w[K], w[XY], w[OWN], w[RISE], w[FALL], w[RES]
    sx, sy, Zx, Zy = w[SX, 0], w[SX, 1], w[LAST, 0], w[LAST, 1]
    T, P = exp(u[nc]), exp(u[nc + 1])
    bend = tanh((T - T_60F) / REACH)
    for i in range(nc):
        w[SHIFT, i] = constant[i] + slope[i] * REACH * bend
        w[SHIFT_T, i] = slope[i] * (1.0 - bend**2)
    six = matrix(w[PLACE], 1, 6)[0]
    ln_x, xT, xP = _volume(table, p, st, nc, x, Zx, w[XP], T, P, w, w[VX], six)
    ln_y, yT, yP = _volume(table, p, st, nc, y, Zy, w[YP], T, P, w, w[VY], six)
    by_psi = beta * (1.0 - beta)
    miss, by = psi + ln_y - ln_x - goal, 1.0
    old_rise = w[OLD_RISE]
    for i in range(nc):
        a, b = w[VY, i] / sy, w[VX, i] / sx
        # dx/dlnK = -beta x y / z, dy/dlnK = (1 - beta) x y / z, dx/dbeta = -x (y - x) / z, dy/dbeta = K dx/dbeta.
        old_rise[i] = a * (1.0 - beta) * xy[i] + b * beta * xy[i]
        fall[i] = -x[i] * sx * (ratio[i] - 1.0) / (1.0 + beta * (ratio[i] - 1.0)) * by_psi
        rise[i] = ratio[i] * fall[i]
        by += a * rise[i] - b * fall[i]
    old_rise[nc], old_rise[nc + 1] = yT - xT, yP - xP
    Dx, Dy = matrix(D, nc, nc), matrix(D[nc * nc :], nc, nc)
    own[nc] = 0.0
    for i in range(nc):
        own[i] = dot(Dy[i], rise, nc) / sy - dot(Dx[i], fall, nc) / sx
        own[nc] += rise[i] - fall[i]
    for i in range(nc + 1):
        res[i] -= own[i] * miss / by
        add_scaled(J[i], -own[i] / by, old_rise, nc + 2)
    return miss, by


@unit
def solve_point(
    table: I1, p: F1, st: F1, nc: int, z: F1, goal: float, constant: F1, slope: F1, at: F1, held: int, light: float, most: int,
    largest: float, w: F2, D: F1, J: F2, A: F2, tangent: F1, out: F1,
) -> int:  # fmt: skip
    """Solve for a point with unknown number ``held`` kept; return whether it was found. ``at`` becomes the unknowns,
    nan where it left the plausible range, ``tangent`` how they follow the held one; ``out`` comes with the mole
    fraction first and gets it, the iterations, the residual and the volume."""
    m = nc + 2
    res, step, pivots, after = w[RES], w[STEP], w[PIVOT], w[SLOPE]
    by_volume = goal == goal
    psi = log(out[0] / (1.0 - out[0])) if by_volume else 0.0
    miss, by, size = 0.0, 1.0, 1e300
    for j in range(m):
        w[OLD_U, j], w[OLD_RISE, j], tangent[j] = at[j], 0.0, 0.0
    out[1], out[2], out[3] = 0.0, float("inf"), 0.0
    for _ in range(most):
        if by_volume:
            # The unknown that was eliminated follows from the step just made of the others.
            change = miss
            for j in range(m):
                change += (at[j] - w[OLD_U, j]) * w[OLD_RISE, j]
                w[OLD_U, j] = at[j]
            change = -change / by
            if change == change:
                psi += min(max(change, -LARGEST), LARGEST)
            out[0] = 1.0 / (1.0 + exp(-psi))
        out[3] = quality_equations(table, p, st, nc, z, out[0], at, light, w, D, J)
        if by_volume:
            miss, by = _eliminate(table, p, st, nc, z, out[0], psi, goal, at, constant, slope, w, D, J)
        size = 0.0
        for j in range(nc + 1):
            size = max(size, abs(res[j]))
            if res[j] != res[j]:
                size = 1e300
            step[j] = -res[j]
        step[m - 1] = 0.0
        out[1] += 1.0
        out[2] = size if size < 1e300 else float("inf")
        for i in range(m):
            for j in range(m):
                A[i, j] = J[i, j]
        A[m - 1, held] = 1.0
        sane = factor(A, pivots, m)
        if sane:
            for j in range(m):
                after[j] = 1.0 if j == m - 1 else 0.0
            solve_factored(A, pivots, step, m)
            solve_factored(A, pivots, after, m)
            sane = finite(step, m)
        if sane:
            reach = furthest = 0.0
            for j in range(m):
                tangent[j] = after[j]
                reach = max(reach, abs(step[j]))
            cut = min(1.0, largest / max(reach, 1e-300))
            for j in range(m):
                at[j] += cut * step[j]
                if j < nc:
                    furthest = max(furthest, abs(at[j]))
            sane = abs(at[nc] - 5.7) < 4.0 and -30.0 < at[nc + 1] < 25.0 and furthest < 500.0 and size < 1e300
            if sane and size < 1e-9 and cut * reach < 1e-9 and abs(miss) < 1e-9:
                return 1
        if not sane:
            for j in range(m):
                at[j] = float("nan")
            return 0
    # A residual at round-off counts as converged even if the last step was not yet confirmed by another.
    return 1 if size < TOLERANCE else 0


@entry
def quality_points(
    lo: int, hi: int, work: F1, table: I1, p: F2, memory: int, z: F2, beta: F1, goal: F1, constant: F1, slope: F1, u: F2, spec: I1,
    light: F1, most: int, largest: float, converged: I1, iterations: I1, residual: F1, volume: F1, tangent: F2,
) -> int:  # fmt: skip
    """Solve for points with unknown number ``spec`` (N,) held at its value in u (N, nc + 2), which becomes what was
    found, nan where a point left the plausible range; z is (1 or N, nc). Where ``goal`` (N,) is a number it is
    ln(s/(1 - s)) of the share s by volume, after shifts, and ``beta`` (N,) is solved for beside.

    ``tangent`` (N, nc + 2) is how all unknowns follow the held one.
    """
    nc = z.shape[1]
    m = nc + 2
    st = work[:memory]
    w = matrix(work[memory:], ROWS, m)
    first = memory + ROWS * m
    J, A = matrix(work[first:], m, m), matrix(work[first + m * m :], m, m)
    D, out = work[first + 2 * m * m + 4 :], work[first + 2 * m * m : first + 2 * m * m + 4]
    for n in range(lo, hi):
        q, feed = p[n if p.shape[0] > 1 else 0], z[n if z.shape[0] > 1 else 0]
        out[0] = beta[n]
        converged[n] = solve_point(
            table,
            q,
            st,
            nc,
            feed,
            goal[n],
            constant,
            slope,
            u[n],
            spec[n],
            light[n],
            most,
            largest,
            w,
            D,
            J,
            A,
            tangent[n],
            out,
        )
        beta[n], iterations[n], residual[n], volume[n] = out[0], int(out[1]), out[2], out[3]
    return 0
