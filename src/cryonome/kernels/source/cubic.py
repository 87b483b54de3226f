"""The table of the cubic equations of state, one family of two volume constants; formulae and sources in
:mod:`cryonome.eos.cubic`.

Parameters ``p``: the head, then Tc, critical attraction, covolume, code and four constants of alpha, five constants
of water's pairs, each of nc numbers, 1 - k_ij at 298.15 K row by row, and its slopes where there are any. State
``st``: T, R T and the unit of volume; s, t, u (sqrt(a/(R T)) with its temperature derivatives), B, and what water's
pairs add (three), each of nc numbers; four vectors for work; 1 - k_ij at T where it has slopes."""

from math import acos, copysign, cos, exp, log, log1p, sqrt

from .alphas import alpha_root
from .linear import add_scaled, dot, total
from .marks import F1, F2, Place, entry, inner, matrix, square, summing, tabled, view

GAS = 8.31446261815324
T_REFERENCE = 298.15

HEAD = 8
DELTA1, DELTA2, OMEGA_A, OMEGA_B, CRITICAL_RATIO, WATER, SLOPED = range(7)
TC, AC, COVOLUME, ALPHA, PAIRS = 0, 1, 2, 3, 8
"""Vectors of the parameters, in this order; ALPHA is five and PAIRS five."""
VECTORS = 13

S, T1, U2, B, G, G1, G2, XS, Y, W1, W2 = range(11)
"""Vectors of a state."""
STATE_VECTORS = 11


@inner
def part(st: F1, nc: int, which: int) -> F1:
    """Return a vector of the state."""
    return st[HEAD + which * nc : HEAD + (which + 1) * nc]


@inner
def states_of(p: Place, st: Place, nc: int) -> tuple[F1, F1, F2]:
    """Return parameters and state as vectors, and 1 - k_ij at T."""
    parameters = view(p, HEAD + VECTORS * nc + 2 * nc * nc)
    state = view(st, HEAD + STATE_VECTORS * nc + nc * nc)
    if parameters[SLOPED] > 0.0:
        return parameters, state, matrix(state[HEAD + STATE_VECTORS * nc :], nc, nc)
    first = HEAD + VECTORS * nc
    return parameters, state, matrix(parameters[first:], nc, nc)


@summing
def shifted(base: F1, slope: F1, by: float, out: F1, n: int) -> None:
    """Put ``base - by * slope`` in ``out``."""
    for k in range(n):
        out[k] = base[k] - by * slope[k]


@tabled
def cubic_prepare(p: Place, st: Place, nc: int, T: float, P: float) -> int:
    """Fill the state at T and P, volumes in units of R T/P; P zero: at T alone, volumes in m3/mol."""
    return cubic_state(
        view(p, HEAD + VECTORS * nc + 2 * nc * nc), view(st, HEAD + STATE_VECTORS * nc + nc * nc), nc, T, P
    )


@inner
def cubic_state(q: F1, state: F1, nc: int, T: float, P: float) -> int:
    """Fill the state."""
    unit = P / (GAS * T) if P > 0.0 else 1.0
    state[0], state[1], state[2] = T, GAS * T, unit
    scale = unit / (GAS * T)
    s, t, u, b = part(state, nc, S), part(state, nc, T1), part(state, nc, U2), part(state, nc, B)
    # Each a view of its own, indexed from zero: the compiler then leaves out the check for a negative index.
    Tc, attraction_, covolume, kind = part(q, nc, TC), part(q, nc, AC), part(q, nc, COVOLUME), part(q, nc, ALPHA)
    c1, c2, c3, c4 = part(q, nc, ALPHA + 1), part(q, nc, ALPHA + 2), part(q, nc, ALPHA + 3), part(q, nc, ALPHA + 4)
    for i in range(nc):
        value, slope, curvature = alpha_root(int(kind[i]), c1[i], c2[i], c3[i], c4[i], T / Tc[i])
        root = sqrt(attraction_[i] * scale)
        s[i], t[i], u[i] = root * value, root * slope, root * curvature
        b[i] = covolume[i] * unit
    first = HEAD + VECTORS * nc
    warmer = T - T_REFERENCE
    sloped = q[SLOPED] > 0.0
    if sloped:
        shifted(q[first : first + nc * nc], q[first + nc * nc :], warmer, state[HEAD + STATE_VECTORS * nc :], nc * nc)
    w = int(q[WATER])
    if w >= 0:
        g, g1, g2 = part(state, nc, G), part(state, nc, G1), part(state, nc, G2)
        sw, tw, uw = s[w], t[w], u[w]
        at = HEAD + PAIRS * nc
        for i in range(nc):
            c0 = q[at + i]
            if c0 != c0:
                g[i] = g1[i] = g2[i] = 0.0
                continue
            c1, c2, c3, c4 = q[at + nc + i], q[at + 2 * nc + i], q[at + 3 * nc + i], q[at + 4 * nc + i]
            Tr = T / q[HEAD + i]
            rise, bend = c3 * exp(c4 * Tr), c4 * Tr
            own = 1.0 - q[first + w * nc + i]
            own_rise = q[first + nc * nc + w * nc + i] if sloped else 0.0
            d = c0 + (c1 + c2 * Tr) * Tr + rise - own - own_rise * warmer
            d1 = (c1 + 2.0 * c2 * Tr) * Tr + bend * rise - own_rise * T
            d2 = 2.0 * c2 * Tr * Tr + bend * bend * rise
            mixed = t[i] * sw + s[i] * tw
            g[i] = s[i] * sw * d
            g1[i] = s[i] * sw * d1 + mixed * d
            g2[i] = s[i] * sw * d2 + 2.0 * mixed * d1 + (u[i] * sw + 2.0 * t[i] * tw + s[i] * uw) * d
    return 0


@summing
def times(K: F2, v: F1, out: F1, nc: int) -> None:
    """Put v @ K into ``out``, four rows at a time."""
    for j in range(nc):
        out[j] = 0.0
    fours = nc - nc % 4
    for i in range(0, fours, 4):
        a, b, c, d = v[i], v[i + 1], v[i + 2], v[i + 3]
        one, two, three, four = K[i], K[i + 1], K[i + 2], K[i + 3]
        for j in range(nc):
            out[j] += a * one[j] + b * two[j] + c * three[j] + d * four[j]
    for i in range(fours, nc):
        add_scaled(out, v[i], K[i], nc)


@inner
def slopes_times(q: F1, T: float, v: F1, out: F1, nc: int) -> None:
    """Put v @ (-T dk_ij/dT) into ``out``."""
    first = HEAD + VECTORS * nc + nc * nc
    for j in range(nc):
        out[j] = 0.0
    for i in range(nc):
        add_scaled(out, -T * v[i], q[first + i * nc : first + (i + 1) * nc], nc)


@inner
def water_weight(X: float) -> tuple[float, float, float, float]:
    """Return h = n_w w, its derivatives in n_w and in n, and q = d2h/dn_w2, at one mole with X of water."""
    w, dw = X * X * (2.0 - X), X * (4.0 - 3.0 * X)
    return X * w, w + X * dw, -X * X * dw, 12.0 * X * (1.0 - X)


@inner
def mixture(q: F1, st: F1, K: F2, nc: int, x: F1) -> tuple[float, float]:
    """Return attraction D and covolume B of a composition; put (dD/dn_i)/(2 s) into row Y of the state, x s into XS."""
    s, xs, y = part(st, nc, S), part(st, nc, XS), part(st, nc, Y)
    for i in range(nc):
        xs[i] = x[i] * s[i]
    times(K, xs, y, nc)
    w = int(q[WATER])
    if w >= 0:
        g = part(st, nc, G)
        h, by_water, by_all, _ = water_weight(x[w])
        Gx = dot(x, g, nc)
        for i in range(nc):
            slope = by_all + (by_water if i == w else 0.0)
            y[i] -= (slope * Gx + h * g[i]) / s[i]
    return dot(xs, y, nc), dot(x, part(st, nc, B), nc)


@inner
def attraction(q: F1, V: float, b: float) -> float:
    """Return f(V, B)."""
    d1, d2 = q[DELTA1], q[DELTA2]
    if d1 == d2:
        return 1.0 / (V + d1 * b)
    return log1p((d1 - d2) * b / (V + d2 * b)) / (b * (d1 - d2))


@inner
def attraction_derivatives(q: F1, V: float, b: float) -> tuple[float, float, float, float, float, float]:
    """Return f, f_V, f_B, f_VV, f_BV and f_BB."""
    p1, p2 = V + q[DELTA1] * b, V + q[DELTA2] * b
    f = attraction(q, V, b)
    f_v = -1.0 / (p1 * p2)
    f_vv = (p1 + p2) * f_v * f_v
    # Euler's theorem: each derivative in B from those in V. Without a covolume f does not depend on B.
    size = b if q[OMEGA_B] > 0.0 else 1.0
    f_b = -(f + V * f_v) / size
    f_bv = -(2.0 * f_v + V * f_vv) / size
    return f, f_v, f_b, f_vv, f_bv, -(2.0 * f_b + V * f_bv) / size


@inner
def polished(z: float, c2: float, c1: float, c0: float) -> float:
    """Return a root after two Newton steps; damped where the slope vanishes, as at a double root."""
    damping = 1e-16 * c1 * c1 + 1e-300
    for _ in range(2):
        slope = (3.0 * z + 2.0 * c2) * z + c1
        value = ((z + c2) * z + c1) * z + c0
        z -= value * slope / (slope * slope + damping)
    return z


@inner
def extreme_roots(c2: float, c1: float, c0: float, lower: float) -> tuple[float, float]:
    """Return the smallest root above ``lower`` and the largest of z3 + c2 z2 + c1 z + c0.

    Closed form (Cardano; Viete for three real roots), then two Newton steps each, because the closed form loses
    digits when the roots differ by orders of magnitude."""
    third = c2 / 3.0
    q = third * (2.0 * third * third - c1) + c0
    p3 = (c1 - c2 * third) / 3.0
    disc = 0.25 * q * q + p3 * p3 * p3
    if disc < 0.0:
        half = sqrt(-p3)
        angle = acos(min(1.0, max(-1.0, 0.5 * q / (p3 * half)))) / 3.0
        low = polished(2.0 * half * cos(angle + 2.0943951023931953) - third, c2, c1, c0)
        high = polished(2.0 * half * cos(angle) - third, c2, c1, c0)
        return (low if low > lower else high), high
    # One real root; the sign keeps both cube roots from cancelling.
    big = -0.5 * q - copysign(sqrt(abs(disc)), q)
    big = copysign(abs(big) ** (1.0 / 3.0), big)
    high = polished(big - p3 / (big + copysign(1e-150, big)) - third, c2, c1, c0)
    return high, high


@inner
def both_roots(q: F1, A: float, b: float) -> tuple[float, float]:
    """Return the smallest physical and the largest root Z of the cubic at T and P."""
    u, w = q[DELTA1] + q[DELTA2], q[DELTA1] * q[DELTA2]
    square_b = w * b * b
    return extreme_roots((u - 1.0) * b - 1.0, A + square_b - u * b - u * b * b, -b * (A + w * b + square_b), b)


@inner
def gibbs(q: F1, Z: float, A: float, b: float) -> float:
    """Return the residual Gibbs energy over R T at T and P."""
    if not b < Z:
        return 1e300
    return -log(Z - b) - A * attraction(q, Z, b) + Z - 1.0


@inner
def selected(q: F1, A: float, b: float, root: int) -> float:
    """Return Z of the wanted root; the stable one is that of lower Gibbs energy."""
    low, high = both_roots(q, A, b)
    if root == 1:
        return low
    if root == 2 or not low < high:
        return high
    return low if gibbs(q, low, A, b) < gibbs(q, high, A, b) else high


@tabled
def cubic_select(p: Place, st: Place, nc: int, x: Place, root: int) -> float:
    """Return Z of the wanted root."""
    q, state, K = states_of(p, st, nc)
    A, b = mixture(q, state, K, nc, view(x, nc))
    return selected(q, A, b, root)


@tabled
def cubic_roots(p: Place, st: Place, nc: int, x: Place, out: Place) -> int:
    """Put Z of the densest and of the least dense root in place."""
    q, state, K = states_of(p, st, nc)
    A, b = mixture(q, state, K, nc, view(x, nc))
    both = view(out, 2)
    both[0], both[1] = both_roots(q, A, b)
    return 0


@tabled
def cubic_place(p: Place, st: Place, nc: int, x: Place, Z: float, out: Place) -> int:
    """Put in place what tells a liquid from a vapour: b/V over its value at the critical point, and whether a/(b R T) is
    above its value there."""
    q, state, K = states_of(p, st, nc)
    A, b = mixture(q, state, K, nc, view(x, nc))
    both = view(out, 2)
    both[0] = b / Z * q[CRITICAL_RATIO] if q[OMEGA_B] > 0.0 else 0.0
    both[1] = 1.0 if q[OMEGA_A] > 0.0 and A * q[OMEGA_B] > b * q[OMEGA_A] else 0.0
    return 0


@tabled
def cubic_ln_phi(p: Place, st: Place, nc: int, x: Place, root: int, out: Place) -> float:
    """Put ln fugacity coefficients in place and return Z; Michelsen and Mollerup (2007), ch. 2 eq. 13 with ch. 3 eq.
    6."""
    q, state, K = states_of(p, st, nc)
    ln_phi = view(out, nc)
    A, b = mixture(q, state, K, nc, view(x, nc))
    Z = selected(q, A, b, root)
    f = attraction(q, Z, b)
    f_v = -1.0 / ((Z + q[DELTA1] * b) * (Z + q[DELTA2] * b))
    size = b if q[OMEGA_B] > 0.0 else 1.0
    F_B = 1.0 / (Z - b) + A * (f + Z * f_v) / size
    s, y, covolume = part(state, nc, S), part(state, nc, Y), part(state, nc, B)
    most = log(Z - b)
    for i in range(nc):
        ln_phi[i] = F_B * covolume[i] - 2.0 * f * s[i] * y[i] - most
    return Z


@tabled
def cubic_pure_ln_phi(p: Place, st: Place, nc: int, out: Place) -> int:
    """Put ln phi of each component taken pure, as a liquid where it has one, in place."""
    q, state, _ = states_of(p, st, nc)
    ln_phi, s, covolume = view(out, nc), part(state, nc, S), part(state, nc, B)
    for i in range(nc):
        A = s[i] * s[i]
        ln_phi[i] = gibbs(q, both_roots(q, A, covolume[i])[0], A, covolume[i])
    return 0


@summing
def outer(
    row: F1, a: float, b: F1, c: float, d: F1, e: float, f: F1, g: float, h: F1, k: F1, more: float, n: int
) -> None:
    """Fill a row of ``out`` with a b + c d + e f + g h k + more, number by number."""
    for j in range(n):
        row[j] = more + a * b[j] + c * d[j] + e * f[j] + g * h[j] * k[j]


@inner
def aqueous_hessian(q: F1, st: F1, nc: int, x: F1, factor: float, out: F2) -> None:
    """Add ``factor`` times the second derivatives in mole numbers of what water's pairs add to the attraction."""
    w = int(q[WATER])
    g = part(st, nc, G)
    X = x[w]
    _, by_water, by_all, bend = water_weight(X)
    Gx = dot(x, g, nc)
    for i in range(nc):
        slope_i = by_all + (by_water if i == w else 0.0)
        v_i = (1.0 if i == w else 0.0) - X
        for j in range(nc):
            slope_j = by_all + (by_water if j == w else 0.0)
            v_j = (1.0 if j == w else 0.0) - X
            out[i, j] -= factor * 2.0 * (bend * Gx * v_i * v_j + slope_i * g[j] + slope_j * g[i])


@tabled
def cubic_derivatives(
    p: Place, st: Place, nc: int, x: Place, root: int, ln_phi: Place, dn: Place, dT: Place, dP: Place
) -> float:
    """Put ln phi with all its first derivatives in place and return Z."""
    q, state, K = states_of(p, st, nc)
    z, out, by_n, by_T, by_P = view(x, nc), view(ln_phi, nc), square(dn, nc), view(dT, nc), view(dP, nc)
    A, b = mixture(q, state, K, nc, z)
    Z = selected(q, A, b, root)
    f, f_v, f_B, f_vv, f_Bv, f_BB = attraction_derivatives(q, Z, b)
    s, t, y, covolume = part(state, nc, S), part(state, nc, T1), part(state, nc, Y), part(state, nc, B)
    h = 1.0 / (Z - b)
    F_B = h - A * f_B
    most = log(Z - b)
    # Pressure derivatives at P/(RT) = 1: p_i over mole numbers, p_v over volume.
    p_v = A * f_vv - h * h
    first, per_b = 1.0 / Z + b * h / Z, h * h + A * f_Bv
    bend = 0.5 * (h * h - A * f_BB)
    slope = part(state, nc, W1)
    for i in range(nc):
        D = 2.0 * s[i] * y[i]
        out[i] = F_B * covolume[i] - f * D - most
        slope[i] = first + per_b * covolume[i] + f_v * D
    across = part(state, nc, W2)
    for i in range(nc):
        across[i] = h - f_B * 2.0 * s[i] * y[i] + bend * covolume[i]
    for i in range(nc):
        outer(
            by_n[i], covolume[i], across, across[i], covolume, slope[i] / p_v, slope, -2.0 * f * s[i], K[i], s, 1.0, nc
        )
    water = int(q[WATER])
    if water >= 0:
        aqueous_hessian(q, state, nc, z, -f, by_n)
    # Temperature: only a/(R T) varies at constant V and n.
    xs, mixed, bent = part(state, nc, XS), part(state, nc, W2), by_P
    sloped = q[SLOPED] > 0.0
    TD = -A
    extra = 0.0
    for i in range(nc):
        by_T[i] = -2.0 * s[i] * y[i]
    plain = y
    if water >= 0:
        g1 = part(state, nc, G1)
        hw, by_water, by_all, _ = water_weight(z[water])
        Gx = dot(z, g1, nc)
        extra = -2.0 * hw * Gx
        for i in range(nc):
            by_T[i] -= 2.0 * ((by_all + (by_water if i == water else 0.0)) * Gx + hw * g1[i])
        times(K, xs, y, nc)
    if sloped:
        slopes_times(q, state[0], xs, bent, nc)
        extra += dot(xs, bent, nc)
        for i in range(nc):
            by_T[i] += 2.0 * s[i] * bent[i]
    for i in range(nc):
        xs[i] = z[i] * t[i]
    TD += 2.0 * dot(xs, plain, nc) + extra
    times(K, xs, mixed, nc)
    lift = 1.0 + f_v * TD
    for i in range(nc):
        by_T[i] += 2.0 * (t[i] * plain[i] + s[i] * mixed[i])
        vbar = -slope[i] / p_v
        by_T[i] = -(f_B * TD) * covolume[i] - f * by_T[i] + 1.0 - vbar * lift
        by_P[i] = vbar - 1.0
    return Z


@tabled
def cubic_response(p: Place, st: Place, nc: int, x: Place, Z: float, out: Place) -> int:
    """Put Z, h_res, s_res, cv_res, p_T and p_V at a root Z in place; Michelsen and Mollerup (2007), ch. 2 eqs. 16 to
    23."""
    q, state, K = states_of(p, st, nc)
    z, found = view(x, nc), view(out, 6)
    A, b = mixture(q, state, K, nc, z)
    p1, p2 = Z + q[DELTA1] * b, Z + q[DELTA2] * b
    f, f_v = attraction(q, Z, b), -1.0 / (p1 * p2)
    h = 1.0 / (Z - b)
    t, u, y, xs = part(state, nc, T1), part(state, nc, U2), part(state, nc, Y), part(state, nc, XS)
    xt, mixed = part(state, nc, W1), part(state, nc, W2)
    water = int(q[WATER])
    if water >= 0:
        times(K, xs, y, nc)
    for i in range(nc):
        xt[i] = z[i] * t[i]
    TQ = 2.0 * dot(xt, y, nc)
    times(K, xt, mixed, nc)
    T2Q = 2.0 * dot(xt, mixed, nc)
    for i in range(nc):
        T2Q += 2.0 * z[i] * u[i] * y[i]
    if q[SLOPED] > 0.0:
        slopes_times(q, state[0], xs, mixed, nc)
        TQ += dot(xs, mixed, nc)
        T2Q += 4.0 * dot(xt, mixed, nc)
    if water >= 0:
        hw = water_weight(z[water])[0]
        TQ -= 2.0 * hw * dot(z, part(state, nc, G1), nc)
        T2Q -= 2.0 * hw * dot(z, part(state, nc, G2), nc)
    TD, T2D = TQ - A, T2Q - 2.0 * TQ + 2.0 * A
    F = log(Z * h) - A * f
    found[0] = Z
    found[1] = f * TD + Z - 1.0
    found[2] = f * TD - F + log(Z)
    found[3] = f * (2.0 * TD + T2D)
    found[4] = 1.0 + f_v * TD
    found[5] = Z * (A * (p1 + p2) * f_v * f_v - h * h)
    return 0


@tabled
def cubic_pressure(p: Place, st: Place, nc: int, V: float, x: Place, out: Place) -> int:
    """Put the pressure, Pa, and dP/dV at T and V in place."""
    q, state, K = states_of(p, st, nc)
    D, b = mixture(q, state, K, nc, view(x, nc))
    p1, p2 = V + q[DELTA1] * b, V + q[DELTA2] * b
    both = view(out, 2)
    both[0] = state[1] * (1.0 / (V - b) - D / (p1 * p2))
    both[1] = state[1] * (D * (p1 + p2) / (p1 * p2) ** 2 - 1.0 / (V - b) ** 2)
    return 0


@tabled
def cubic_hessian(p: Place, st: Place, nc: int, V: float, x: Place, out: Place) -> int:
    """Put d2F/dn_i dn_j at constant T and V in place; Michelsen and Mollerup (2007), ch. 3 table 3."""
    q, state, K = states_of(p, st, nc)
    z, H = view(x, nc), square(out, nc)
    D, b = mixture(q, state, K, nc, z)
    f, _, f_B, _, _, f_BB = attraction_derivatives(q, V, b)
    s, y, covolume = part(state, nc, S), part(state, nc, Y), part(state, nc, B)
    h = 1.0 / (V - b)
    bend = 0.5 * (h * h - D * f_BB)
    across = part(state, nc, W2)
    for i in range(nc):
        across[i] = h - 2.0 * f_B * s[i] * y[i] + bend * covolume[i]
    for i in range(nc):
        outer(H[i], covolume[i], across, across[i], covolume, 0.0, s, -2.0 * f * s[i], K[i], s, 0.0, nc)
    if q[WATER] >= 0.0:
        aqueous_hessian(q, state, nc, z, -f, H)
    return 0


@inner
def cubic_third_of(
    q: F1, V: float, B0: float, B1: float, moles: float, D0: float, D1: float, D2: float, D3: float
) -> float:
    """Return the third derivative of F along ``dn`` from the power series of covolume and attraction."""
    f, f_v, f_B, f_vv, f_Bv, f_BB = attraction_derivatives(q, V, B0)
    p1, p2 = V + q[DELTA1] * B0, V + q[DELTA2] * B0
    f_vvv = 2.0 * f_v * f_v + 2.0 * (p1 + p2) ** 2 * f_v**3
    size = B0 if q[OMEGA_B] > 0.0 else 1.0
    f_Bvv = -(3.0 * f_vv + V * f_vvv) / size
    f_BBv = -(3.0 * f_Bv + V * f_Bvv) / size
    f_BBB = -(3.0 * f_BB + V * f_BBv) / size
    r = B1 / (V - B0)
    repulsive = r**3 / 3.0 + moles * r * r / 2.0
    attractive = D0 * f_BBB * B1**3 / 6.0 + D1 * f_BB * B1 * B1 / 2.0 + D2 * f_B * B1 + D3 * f
    return 6.0 * (repulsive - attractive)


@tabled
def cubic_third(p: Place, st: Place, nc: int, V: float, x: Place, dn: Place) -> float:
    """Return the third derivative of F along ``dn``: six times the cubic term of its power series."""
    q, state, K = states_of(p, st, nc)
    z, step = view(x, nc), view(dn, nc)
    D0, B0 = mixture(q, state, K, nc, z)
    s, y, covolume = part(state, nc, S), part(state, nc, Y), part(state, nc, B)
    ds, mixed = part(state, nc, W1), part(state, nc, W2)
    for i in range(nc):
        ds[i] = step[i] * s[i]
    D1 = 2.0 * dot(ds, y, nc)
    times(K, ds, mixed, nc)
    D2, D3, B1, moles = dot(ds, mixed, nc), 0.0, dot(step, covolume, nc), total(step, nc)
    w = int(q[WATER])
    if w >= 0:
        g = part(state, nc, G)
        X = z[w]
        _, by_water, by_all, bend = water_weight(X)
        e = step[w] - X * moles
        h1 = by_all * moles + by_water * step[w]
        h2, h3 = 0.5 * bend * e * e, ((12.0 - 24.0 * X) * e**3 - 3.0 * bend * moles * e * e) / 6.0
        Gx, Gd = dot(z, g, nc), dot(step, g, nc)
        D2 -= 2.0 * (h2 * Gx + h1 * Gd)
        D3 = -2.0 * (h3 * Gx + h2 * Gd)
    return cubic_third_of(q, V, B0, B1, moles, D0, D1, D2, D3)


@entry
def cubic_root_pairs(lo: int, hi: int, work: F1, constants: F1, A: F1, b: F1, out: F2) -> int:
    """Put the smallest physical and the largest root of A and B, and the Gibbs energy of both, (N, 4) in place;
    ``constants`` is a head."""
    for n in range(lo, hi):
        low, high = both_roots(constants, A[n], b[n])
        out[n, 0], out[n, 1] = low, high
        out[n, 2], out[n, 3] = gibbs(constants, low, A[n], b[n]), gibbs(constants, high, A[n], b[n])
    return 0


@entry
def cubic_polynomial_roots(lo: int, hi: int, work: F1, coefficients: F2, lower: F1, out: F2) -> int:
    """Put the extreme roots of z3 + c2 z2 + c1 z + c0, ``coefficients`` (N, 3) from c2 on, (N, 2) in place."""
    for n in range(lo, hi):
        out[n, 0], out[n, 1] = extreme_roots(coefficients[n, 0], coefficients[n, 1], coefficients[n, 2], lower[n])
    return 0
