"""The table of PC-SAFT: roots in the density, fugacities and what else solvers ask; sources in
:mod:`cryonome.eos.saft`.

Parameters ``p``: segment numbers, diameters sigma, energies, critical temperatures and volumes of the pure chains,
each of nc numbers; the pair energies E1 and E2 row by row. State ``st``: T, R T, P/(R T); diameters d with two
temperature derivatives; the isotherm of :func:`isotherm` (:data:`ISO` numbers) with its chain weights; work.

At a given composition and temperature the pressure is a function of the packing alone, cheap beside the whole energy:
there the roots are found."""

from math import exp, log, pi

import numpy as np

from .linear import dot
from .marks import F1, F2, Place, entry, flat, inner, matrix, square, tabled, unit, view
from .saft_energy import AVOGADRO, FIRST, ROWS, SECOND, K, compressibility, pair_sums, saft_energy

GAS = 8.31446261815324
HEAD = 8
M, SIGMA, EPSILON, CRITICAL_T, CRITICAL_V = range(5)
VECTORS = 5
ISO = 24
"""Numbers of an isotherm: zeta_0 to zeta_2 by packing, the mean segment number, the density by packing, the sum of
chain weights; from 8 on seven coefficients of the first, from 15 on of the second dispersion integral times their
energies."""

PACKINGS = np.concatenate((
    np.zeros(1), np.exp(np.linspace(log(1e-3), log(0.06), 8)), np.arange(0.07, 0.25, 0.01), np.arange(0.26, 0.661, 0.02),
))  # fmt: skip
"""Where the pressure is looked at for roots; the last is beyond any fluid."""
DENSE_START = 0.5
STEPS = 25

Parts = tuple[F1, F1, F1, F1, F1, F1, F2]


@inner
def size(nc: int) -> int:
    """Return the numbers of a state."""
    return HEAD + 3 * nc + ISO + (ROWS + 4) * nc + nc * nc


@inner
def chains(p: Place, nc: int) -> tuple[F1, F2, F2]:
    """Return segment numbers and pair energies."""
    q = view(p, VECTORS * nc + 2 * nc * nc)
    return q[:nc], matrix(q[VECTORS * nc :], nc, nc), matrix(q[VECTORS * nc + nc * nc :], nc, nc)


@inner
def parts(st: F1, nc: int) -> Parts:
    """Return a state's diameters with their derivatives, isotherm, chain weights, and work: vectors, a matrix of
    them."""
    a = HEAD + 3 * nc
    b = a + ISO + nc
    return (
        st[HEAD : HEAD + nc], st[HEAD + nc : HEAD + 2 * nc], st[HEAD + 2 * nc : a], st[a : a + ISO], st[a + ISO : b],
        st[b : b + 3 * nc], matrix(st[b + 3 * nc :], ROWS, nc),
    )  # fmt: skip


@inner
def prepared(q: F1, st: F1, nc: int, T: float) -> None:
    """Fill the diameters of a state at T."""
    for i in range(nc):
        sigma, epsilon = q[nc + i], q[2 * nc + i]
        fade, rate = 0.12 * exp(-3.0 * epsilon / T), 3.0 * epsilon / T**2
        st[HEAD + i] = sigma * (1.0 - fade)
        first = -sigma * fade * rate
        st[HEAD + nc + i], st[HEAD + 2 * nc + i] = first, first * (rate - 2.0 / T)
    st[0], st[1], st[2] = T, GAS * T, 0.0


@tabled
def saft_prepare(p: Place, st: Place, nc: int, T: float, P: float) -> int:
    """Fill the state at T and P; P zero: at T alone."""
    state = view(st, HEAD + 3 * nc)
    prepared(view(p, VECTORS * nc), state, nc, T)
    state[2] = P / (GAS * T)
    return 0


@inner
def isotherm(m: F1, d: F1, E1: F2, E2: F2, T: float, x: F1, nc: int, y: F1, iso: F1, weight: F1) -> None:
    """Put what the pressure depends on beside the packing in ``iso`` and ``weight``; y is for work."""
    z0 = z1 = z2 = z3 = mean = 0.0
    for i in range(nc):
        a = K * x[i] * m[i]
        z0 += a
        z1 += a * d[i]
        z2 += a * d[i] ** 2
        z3 += a * d[i] ** 3
        mean += x[i] * m[i]
    per = 1.0 / z3
    pair_sums(E1, x, 1.0 / T, nc, y)
    D1 = dot(x, y, nc) * per**2
    pair_sums(E2, x, 1.0 / T**2, nc, y)
    D2 = dot(x, y, nc) * per**2
    p1 = 1.0 - 1.0 / mean
    p2 = p1 * (1.0 - 2.0 / mean)
    iso[0], iso[1], iso[2], iso[3], iso[4] = z0 * per, z1 * per, z2 * per, mean, per
    for k in range(7):
        iso[8 + k] = (FIRST[0, k] + p1 * FIRST[1, k] + p2 * FIRST[2, k]) * (-2.0 * pi * AVOGADRO * D1)
        iso[15 + k] = (SECOND[0, k] + p1 * SECOND[1, k] + p2 * SECOND[2, k]) * (-pi * AVOGADRO * mean * D2)
    whole = 0.0
    for i in range(nc):
        weight[i] = x[i] * (m[i] - 1.0) * per
        whole += weight[i]
    iso[5] = whole


@inner
def pressure_at(iso: F1, weight: F1, d: F1, nc: int, eta: float) -> tuple[float, float]:
    """Return P/(R T), mol/m3, and its slope in the packing."""
    z0, z1, z2, mean, density = iso[0], iso[1], iso[2], iso[3], iso[4]
    u = 1.0 / (1.0 - eta)
    eu = eta * u
    # Hard spheres less the ideal part; zeta_k is its share of the packing here.
    part = z0 * eu + eu * u * (3.0 * z1 * z2 + z2**3 * (3.0 - eta) * eu)
    part1 = u * u * (z0 + 3.0 * z1 * z2 * (1.0 + 2.0 * eu))
    part1 += z2**3 * u**3 * ((6.0 - 3.0 * eta) * eta + 3.0 * (3.0 - eta) * eta * eu)
    # Chains: -sum w eta dL/d eta, t = d zeta_2 u.
    inside = inside1 = iso[5] * eta
    for i in range(nc):
        t = d[i] * z2 * eu
        a, b = 1.0 / (1.0 + t), 1.0 / (2.0 + t)
        inside += weight[i] * (a + b) * t
        inside1 += weight[i] * t * (a + b - t * (a * a + b * b)) * u
    # Dispersion: phi = eta^2 F, P = eta dphi/d eta - phi = eta^2 (F + eta F').
    f = f1 = f2 = g = g1 = g2 = 0.0
    for k in range(6, -1, -1):
        f2, f1, f = f2 * eta + 2.0 * f1, f1 * eta + f, f * eta + iso[8 + k]
        g2, g1, g = g2 * eta + 2.0 * g1, g1 * eta + g, g * eta + iso[15 + k]
    c, c1, _, c2, _, _ = compressibility(eta, mean)
    F, F1 = f + c * g, f1 + c1 * g + c * g1
    F2 = f2 + c2 * g + 2.0 * c1 * g1 + c * g2
    value = density * eta + part * eta / K - inside * eu + eta * eta * (F + eta * F1)
    slope = density + (part + part1 * eta) / K - (inside * u * u + inside1 * u)
    return value, slope + eta * (2.0 * F + eta * (4.0 * F1 + eta * F2))


@inner
def newton(iso: F1, weight: F1, d: F1, nc: int, target: float, eta: float) -> tuple[float, bool]:
    """Return where Newton's method from a packing ends, and whether it converged on a rising pressure all the way."""
    for _ in range(STEPS):
        value, slope = pressure_at(iso, weight, d, nc, eta)
        if not slope > 0.0:
            return eta, False
        new = eta - (value - target) / slope
        if not 0.0 < new <= 0.74:
            return eta, False
        if abs(new - eta) < 1e-9 * eta:
            return new, True
        eta = new
    return eta, False


@inner
def dense_end(iso: F1, weight: F1, d: F1, nc: int, target: float) -> tuple[float, bool]:
    """Return the densest root, from above."""
    start = DENSE_START
    if pressure_at(iso, weight, d, nc, start)[0] < target:
        # At low temperatures the pressure falls again at packings too high for a fluid: the search begins below them.
        start = 0.66
        for k in range(4):
            value, slope = pressure_at(iso, weight, d, nc, 0.54 + 0.04 * k)
            if value >= target and slope > 0.0:
                start = 0.54 + 0.04 * k
                break
    return newton(iso, weight, d, nc, target, start)


@inner
def refine(iso: F1, weight: F1, d: F1, nc: int, target: float, low: float, high: float) -> float:
    """Return the packing between two that bracket a rise through the target, by safeguarded Newton steps."""
    ideal = target / iso[4]
    eta = ideal if low < ideal < high else 0.5 * (low + high)
    for _ in range(100):
        value, slope = pressure_at(iso, weight, d, nc, eta)
        miss = value - target
        if miss < 0.0:
            low = eta
        else:
            high = eta
        new = eta - miss / slope if slope > 0.0 else -1.0
        if not low <= new <= high:
            new = 0.5 * (low + high)
        moved = abs(new - eta)
        eta, old = new, eta
        if moved < 1e-11 * max(old, 1e-300):
            break
    return eta


@inner
def among_packings(iso: F1, weight: F1, d: F1, nc: int, target: float) -> tuple[float, float]:
    """Return the densest and the thinnest root among the intervals of :data:`PACKINGS` where the pressure rises
    through the target."""
    # Where the pressure rises through the target nowhere, the densest packing looked at stands for the root.
    dense = thin = PACKINGS[-1]
    first = last = -1
    before = pressure_at(iso, weight, d, nc, PACKINGS[0])[0] - target
    for k in range(1, PACKINGS.size):
        now = pressure_at(iso, weight, d, nc, PACKINGS[k])[0] - target
        if before < 0.0 and now >= 0.0:
            last = k - 1
            if first < 0:
                first = k - 1
        before = now
    if first >= 0:
        dense = thin = refine(iso, weight, d, nc, target, PACKINGS[first], PACKINGS[first + 1])
        if last > first:
            dense = refine(iso, weight, d, nc, target, PACKINGS[last], PACKINGS[last + 1])
    return dense, thin


@unit
def saft_packings(
    m: F1, d: F1, E1: F2, E2: F2, T: float, x: F1, nc: int, target: float, root: int, y: F1, iso: F1, weight: F1
) -> float:
    """Put the densities of the densest and of the thinnest stable root in iso[6] and iso[7], with the isotherm of a
    composition, and return the first."""
    isotherm(m, d, E1, E2, T, x, nc, y, iso, weight)
    dense, thin = packings(iso, weight, d, nc, target, root)
    iso[6], iso[7] = dense * iso[4], thin * iso[4]
    return iso[6]


@inner
def packings(iso: F1, weight: F1, d: F1, nc: int, target: float, root: int) -> tuple[float, float]:
    """Return the packings of the densest and of the thinnest stable root.

    From the dense end Newton's method comes down monotonically to the densest root, from nothing it comes up to the
    thinnest; where it meets a falling pressure that root does not exist and the other serves for both. What ends
    neither way is looked for among fixed packings. With a ``root`` the other end is looked at only where that one
    fails."""
    thin_start = min(target / iso[4], DENSE_START)
    dense, thin, good, fine = 0.0, 0.0, False, False
    if root != 2:
        dense, good = dense_end(iso, weight, d, nc, target)
    if root != 1 or not good:
        thin, fine = newton(iso, weight, d, nc, target, thin_start)
    if root == 2 and not fine:
        dense, good = dense_end(iso, weight, d, nc, target)
    if not good and not fine:
        return among_packings(iso, weight, d, nc, target)
    if not good:
        dense = thin
    if not fine:
        thin = dense
    if thin > dense * (1.0 + 1e-9):
        return among_packings(iso, weight, d, nc, target)
    if abs(dense - thin) < 1e-8 * dense:
        dense = thin
    return dense, thin


@inner
def both(p: Place, state: F1, nc: int, x: F1, root: int) -> tuple[float, float]:
    """Return Z of the densest and of the least dense root."""
    m, E1, E2 = chains(p, nc)
    d, _, _, iso, weight, work, _ = parts(state, nc)
    saft_packings(m, d, E1, E2, state[0], x, nc, state[2], root, work[:nc], iso, weight)
    return state[2] / iso[6], state[2] / iso[7]


@inner
def energy_at(p: Place, state: F1, nc: int, x: F1, rho: float, second: int, by_cc: F2) -> tuple[float, float, float]:
    """Return phi with its derivatives by T at a density; the gradient is in row 1 of the state's work, by c and T in
    its last vector."""
    m, E1, E2 = chains(p, nc)
    d, d1, d2, _, _, work, w = parts(state, nc)
    for i in range(nc):
        w[0, i] = x[i] * rho
    by_T = state[3:5]
    phi = saft_energy(m, d, d1, d2, E1, E2, state[0], nc, w, second, by_cc, work[2 * nc : 3 * nc], by_T)
    return phi, by_T[0], by_T[1]


@inner
def selected(p: Place, state: F1, nc: int, x: F1, root: int) -> float:
    """Return Z of the wanted root; the stable one is that of lower Gibbs energy."""
    low, high = both(p, state, nc, x, root)
    if root == 1:
        return low
    if root == 2 or low == high:
        return high
    none = matrix(state, 0, 0)
    cold = energy_at(p, state, nc, x, state[2] / low, 0, none)[0] * low / state[2] - log(low) + low
    hot = energy_at(p, state, nc, x, state[2] / high, 0, none)[0] * high / state[2] - log(high) + high
    return low if cold < hot else high


@tabled
def saft_select(p: Place, st: Place, nc: int, x: Place, root: int) -> float:
    """Return Z of the wanted root."""
    return selected(p, view(st, size(nc)), nc, view(x, nc), root)


@tabled
def saft_roots(p: Place, st: Place, nc: int, x: Place, out: Place) -> int:
    """Put Z of the densest and of the least dense root in place."""
    two = view(out, 2)
    two[0], two[1] = both(p, view(st, size(nc)), nc, view(x, nc), 0)
    return 0


@tabled
def saft_place(p: Place, st: Place, nc: int, x: Place, Z: float, out: Place) -> int:
    """Put the density relative to that of the components' critical points, and whether below their mean critical
    temperature by critical volume, in place."""
    q, state, z, two = view(p, VECTORS * nc), view(st, HEAD), view(x, nc), view(out, 2)
    volume = heat = 0.0
    for i in range(nc):
        volume += z[i] * q[CRITICAL_V * nc + i]
        heat += z[i] * q[CRITICAL_V * nc + i] * q[CRITICAL_T * nc + i]
    two[0] = volume * state[2] / Z
    two[1] = 1.0 if heat > state[0] * volume else 0.0
    return 0


@tabled
def saft_ln_phi(p: Place, st: Place, nc: int, x: Place, root: int, out: Place) -> float:
    """Put ln fugacity coefficients in place and return Z."""
    state, z, ln_phi = view(st, size(nc)), view(x, nc), view(out, nc)
    Z = selected(p, state, nc, z, root)
    energy_at(p, state, nc, z, state[2] / Z, 0, matrix(state, 0, 0))
    by_c = parts(state, nc)[6][1]
    most = log(Z)
    for i in range(nc):
        ln_phi[i] = by_c[i] - most
    return Z


@tabled
def saft_pure_ln_phi(p: Place, st: Place, nc: int, out: Place) -> int:
    """Put ln phi of each component taken pure, as a liquid where it has one, in place."""
    state, ln_phi = view(st, size(nc)), view(out, nc)
    q = view(p, VECTORS * nc + 2 * nc * nc)
    d, d1, d2, iso, weight, work, w = parts(state, nc)
    one = flat(work, 1)
    one[0] = 1.0
    rows = matrix(w[0], ROWS, 1)
    target = state[2]
    for i in range(nc):
        at = VECTORS * nc + i * nc + i
        E1, E2 = matrix(q[at:], 1, 1), matrix(q[at + nc * nc :], 1, 1)
        m, own = q[i : i + 1], d[i : i + 1]
        rho = saft_packings(m, own, E1, E2, state[0], one, 1, target, 1, work[1:2], iso, weight)
        rows[0, 0] = rho
        saft_energy(m, own, d1[i : i + 1], d2[i : i + 1], E1, E2, state[0], 1, rows, 0, E1, work[1:2], state[3:5])
        ln_phi[i] = rows[1, 0] - log(target / rho)
    return 0


@inner
def hessian_in(state: F1, nc: int) -> F2:
    """Return the state's matrix of work."""
    return matrix(state[HEAD + 3 * nc + ISO + (ROWS + 4) * nc :], nc, nc)


@tabled
def saft_derivatives(
    p: Place, st: Place, nc: int, x: Place, root: int, ln_phi: Place, dn: Place, dT: Place, dP: Place
) -> float:
    """Put ln phi with all its first derivatives in place and return Z; Michelsen and Mollerup (2007), ch. 2 eqs. 13
    to 22."""
    state, z, out, by_n, by_T, by_P = (
        view(st, size(nc)),
        view(x, nc),
        view(ln_phi, nc),
        square(dn, nc),
        view(dT, nc),
        view(dP, nc),
    )
    Z = selected(p, state, nc, z, root)
    T, target = state[0], state[2]
    rho = target / Z
    H = hessian_in(state, nc)
    _, phi_T, _ = energy_at(p, state, nc, z, rho, 1, H)
    _, _, _, _, _, work, w = parts(state, nc)
    by_cT, p_i = work[2 * nc : 3 * nc], work[nc : 2 * nc]
    most, p_v, p_T = log(Z), 0.0, 0.0
    for i in range(nc):
        out[i] = w[1, i] - most
        # The pressure over R T by mole numbers and temperature, at one mole in all.
        p_i[i] = rho * (1.0 + rho * dot(H[i], z, nc))
        p_v -= rho * p_i[i] * z[i]
        p_T += z[i] * by_cT[i] * rho
    p_T += target / T - phi_T
    for i in range(nc):
        vbar = -p_i[i] / p_v
        by_T[i] = T * (by_cT[i] - vbar * p_T) + 1.0
        by_P[i] = vbar * target - 1.0
        for j in range(nc):
            by_n[i, j] = rho * H[i, j] + 1.0 + p_i[i] * p_i[j] / p_v
    return Z


@tabled
def saft_response(p: Place, st: Place, nc: int, x: Place, Z: float, out: Place) -> int:
    """Put Z, h_res, s_res, cv_res, p_T and p_V at a root Z in place."""
    state, z, found = view(st, size(nc)), view(x, nc), view(out, 6)
    T, target = state[0], state[2]
    rho = target / Z
    H = hessian_in(state, nc)
    phi, phi_T, phi_TT = energy_at(p, state, nc, z, rho, 1, H)
    by_cT = parts(state, nc)[5][2 * nc : 3 * nc]
    F, F_T, F_TT = phi / rho, phi_T / rho, phi_TT / rho
    p_T, curvature = target / T - phi_T, 0.0
    for i in range(nc):
        p_T += rho * z[i] * by_cT[i]
        curvature += rho * rho * z[i] * dot(H[i], z, nc)
    found[0] = Z
    found[1] = -T * F_T + Z - 1.0
    found[2] = -T * F_T - F + log(Z)
    found[3] = -T * (T * F_TT + 2.0 * F_T)
    found[4] = T * p_T / target
    found[5] = -(rho + curvature) / target
    return 0


@tabled
def saft_pressure(p: Place, st: Place, nc: int, V: float, x: Place, out: Place) -> int:
    """Put the pressure, Pa, and dP/dV at T and V in place."""
    state, z, two = view(st, size(nc)), view(x, nc), view(out, 2)
    rho = 1.0 / V
    H = hessian_in(state, nc)
    phi, _, _ = energy_at(p, state, nc, z, rho, 1, H)
    w = parts(state, nc)[6]
    whole, curvature = rho - phi, rho
    for i in range(nc):
        whole += rho * z[i] * w[1, i]
        curvature += rho * rho * z[i] * dot(H[i], z, nc)
    two[0] = state[1] * whole
    two[1] = -state[1] * curvature / V
    return 0


@tabled
def saft_hessian(p: Place, st: Place, nc: int, V: float, x: Place, out: Place) -> int:
    """Put d2F/dn_i dn_j at constant T and V in place."""
    state, H = view(st, size(nc)), square(out, nc)
    energy_at(p, state, nc, view(x, nc), 1.0 / V, 1, H)
    for i in range(nc):
        for j in range(nc):
            H[i, j] /= V
    return 0


@tabled
def saft_third(p: Place, st: Place, nc: int, V: float, x: Place, dn: Place) -> float:
    """Return the third derivative of F along ``dn``: the slope of the second by a symmetric difference, extrapolated
    once, good to some ten digits."""
    state, z, step = view(st, size(nc)), view(x, nc), view(dn, nc)
    H = hessian_in(state, nc)
    at = parts(state, nc)[5][:nc]
    found = 0.0
    for half in range(2):
        h = 1e-3 if half == 0 else 0.5e-3
        slope = 0.0
        for side in range(2):
            sign = 1.0 if side == 0 else -1.0
            for i in range(nc):
                at[i] = max(z[i] + sign * h * step[i], 1e-300)
            energy_at(p, state, nc, at, 1.0 / V, 1, H)
            for i in range(nc):
                slope += sign * step[i] * dot(H[i], step, nc) / V
        slope /= 2.0 * h
        found += 4.0 * slope / 3.0 if half == 1 else -slope / 3.0
    return found


@entry
def saft_energies(lo: int, hi: int, st: F1, p: F2, T: F1, c: F2, phi: F2, by_c: F2, by_cc: F2, by_cT: F2) -> int:
    """Put phi with its two derivatives by T (N, 3), gradients and second derivatives (by_cc is (N, nc nc)) of
    densities c (N, nc) in place."""
    nc = c.shape[1]
    for n in range(lo, hi):
        q = p[n if p.shape[0] > 1 else 0]
        prepared(q, st, nc, T[n])
        m, E1, E2 = q[:nc], matrix(q[VECTORS * nc :], nc, nc), matrix(q[VECTORS * nc + nc * nc :], nc, nc)
        d, d1, d2, _, _, _, w = parts(st, nc)
        for i in range(nc):
            w[0, i] = c[n, i]
        H = matrix(by_cc[n], nc, nc)
        phi[n, 0] = saft_energy(m, d, d1, d2, E1, E2, T[n], nc, w, 1, H, by_cT[n], phi[n, 1:])
        for i in range(nc):
            by_c[n, i] = w[1, i]
    return 0


@entry
def saft_everywhere(lo: int, hi: int, st: F1, p: F2, T: F1, P: F1, x: F2, out: F2) -> int:
    """Put Z of the densest and of the thinnest root, looked for among fixed packings alone, (N, 2) in place."""
    nc = x.shape[1]
    for n in range(lo, hi):
        q = p[n if p.shape[0] > 1 else 0]
        prepared(q, st, nc, T[n])
        m, E1, E2 = q[:nc], matrix(q[VECTORS * nc :], nc, nc), matrix(q[VECTORS * nc + nc * nc :], nc, nc)
        d, _, _, iso, weight, work, _ = parts(st, nc)
        isotherm(m, d, E1, E2, T[n], x[n], nc, work[:nc], iso, weight)
        target = P[n] / (GAS * T[n])
        dense, thin = among_packings(iso, weight, d, nc, target)
        out[n, 0], out[n, 1] = target / (dense * iso[4]), target / (thin * iso[4])
    return 0


@entry
def chain_pressures(lo: int, hi: int, work: F1, m: F1, T: F1, eta: F1, out: F2) -> int:
    """Put P/(R T), its slope in the packing and the density by packing (N, 3) of pure chains of unit segments (sigma
    = 1, eps/k = 1) in place."""
    iso, one, own, d = work[:ISO], work[ISO : ISO + 1], work[ISO + 1 : ISO + 2], work[ISO + 2 : ISO + 3]
    weight, y, E = work[ISO + 4 : ISO + 5], work[ISO + 5 : ISO + 6], matrix(work[ISO + 6 :], 1, 1)
    for n in range(lo, hi):
        one[0], own[0], d[0], E[0, 0] = 1.0, m[n], 1.0 - 0.12 * exp(-3.0 / T[n]), m[n] * m[n]
        isotherm(own, d, E, E, T[n], one, 1, y, iso, weight)
        out[n, 0], out[n, 1] = pressure_at(iso, weight, d, 1, eta[n])
        out[n, 2] = iso[4]
    return 0
