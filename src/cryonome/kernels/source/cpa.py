"""The table of cubic plus association: the cubic's attraction and repulsion with the bonds of :mod:`.bonds`; formulae
and sources in :mod:`cryonome.eos.cpa`.

Parameters ``p``: those of the cubic (:mod:`.cubic`) with both matrices of interaction parameters; the number of
donors and of acceptors, that of warming pairs, a number free; for each component its critical volume and its
attraction over covolume there; of each site its owner and multiplicity; energies over R and volumes of bonds, donors
by acceptors; of each warming pair its components and two constants. State ``st``: that of the cubic; 1 - k_ij
multiplied by T and T^2 and derived once and twice; moles and free fractions of sites; strengths of bonds with two
temperature derivatives; work.

Volumes are in the cubic's unit, gamma = g/V = 1/(V - KAPPA B)."""

from math import exp, log

from .bonds import (
    bonded,
    bonds_matrix,
    by_density,
    by_heat,
    by_sites,
    heat_bend,
    mixed_slope,
    solve_step,
)
from .cpa_roots import KAPPA, energy, pressure_at, root_pair, selected, sites_at, steeper
from .cpa_state import Bonds, bonds_of, own_vectors, parameters_of, ready, sites_part, state_size, warm_matrices, warmed
from .cubic import (
    SLOPED,
    T1,
    U2,
    W1,
    W2,
    XS,
    B,
    S,
    Y,
    attraction,
    attraction_derivatives,
    cubic_state,
    cubic_third_of,
    outer,
    part,
    times,
)
from .linear import dot, total
from .marks import F1, F2, Place, inner, square, tabled, view


@tabled
def cpa_prepare(p: Place, st: Place, nc: int, T: float, P: float) -> int:
    """Fill the state at T and P, volumes in units of R T/P; P zero: at T alone, volumes in m3/mol."""
    q, own, nd, na = parameters_of(p, nc)
    state = view(st, state_size(nc, nd, na))
    cubic_state(q, state, nc, T, P)
    if q[SLOPED] > 0.0:
        pairs = 2 * nc + 2 * (nd + na) + 2 * nd * na
        warmed(q, own[pairs:], (own.size - pairs) // 4, state, nc, T)
    bonds = bonds_of(sites_part(state, nc), nd, na)
    delta, rise, bend = bonds[2], bonds[3], bonds[4]
    pairs, unit = 2 * nc + 2 * (nd + na), state[2]
    for d in range(nd):
        for a in range(na):
            at = pairs + d * na + a
            e, volume = own[at] / T, own[at + nd * na] * unit
            much = exp(e)
            delta[d, a] = volume * (much - 1.0)
            rise[d, a] = -volume * e * much
            bend[d, a] = volume * e * (e + 2.0) * much
    return 0


@tabled
def cpa_select(p: Place, st: Place, nc: int, x: Place, root: int) -> float:
    """Return Z of the wanted root."""
    _, _, nd, na = parameters_of(p, nc)
    q, state, _, A, b, donors = ready(p, st, nc, view(x, nc))
    return selected(q, sites_part(state, nc), nd, na, A, b, donors, root)


@tabled
def cpa_roots(p: Place, st: Place, nc: int, x: Place, out: Place) -> int:
    """Put Z of the densest and of the least dense root in place."""
    _, _, nd, na = parameters_of(p, nc)
    q, state, _, A, b, donors = ready(p, st, nc, view(x, nc))
    both = view(out, 2)
    both[0], both[1] = root_pair(q, sites_part(state, nc), nd, na, A, b, donors, -1)
    return 0


@tabled
def cpa_place(p: Place, st: Place, nc: int, x: Place, Z: float, out: Place) -> int:
    """Put the density relative to the components' critical points, and whether attraction and bonds over the covolume
    are above those there, in place."""
    _, own, nd, na = parameters_of(p, nc)
    z, both = view(x, nc), view(out, 2)
    q, state, _, A, b, donors = ready(p, st, nc, z)
    if donors > 0.0:
        h = sites_at(sites_part(state, nc), nd, na, 1.0 / (Z - KAPPA * b), 0)
        A += 0.5 * h / (Z - KAPPA * b) * (Z + q[0] * b) * (Z + q[1] * b)
    volume = strength = 0.0
    covolume = part(state, nc, B)
    for i in range(nc):
        volume += z[i] * own[i]
        strength += z[i] * covolume[i] * own[nc + i]
    both[0] = volume * state[2] / Z
    both[1] = 1.0 if strength < A else 0.0
    return 0


@inner
def fugacities(
    q: F1, own: F1, state: F1, nd: int, na: int, nc: int, A: float, b: float, Z: float, warm: int, out: F1
) -> None:
    """Put ln phi at a root in place, the free fractions with it; Michelsen and Hendriks (2001), eqs. 20 to 25."""
    sites = sites_part(state, nc)
    X = sites[nd + na :]
    gamma = 1.0 / (Z - KAPPA * b)
    h = sites_at(sites, nd, na, gamma, warm)
    f = attraction(q, Z, b)
    f_v = -1.0 / ((Z + q[0] * b) * (Z + q[1] * b))
    per_b = 1.0 / (Z - b) + A * (f + Z * f_v) / b - 0.5 * h * KAPPA * gamma
    s, y, covolume = part(state, nc, S), part(state, nc, Y), part(state, nc, B)
    most = log(Z - b)
    for i in range(nc):
        out[i] = per_b * covolume[i] - 2.0 * f * s[i] * y[i] - most
    for k in range(nd + na):
        out[int(own[2 * nc + k])] += own[2 * nc + nd + na + k] * log(X[k])


@tabled
def cpa_ln_phi(p: Place, st: Place, nc: int, x: Place, root: int, out: Place) -> float:
    """Put ln fugacity coefficients in place and return Z."""
    _, own, nd, na = parameters_of(p, nc)
    q, state, _, A, b, donors = ready(p, st, nc, view(x, nc))
    Z = selected(q, sites_part(state, nc), nd, na, A, b, donors, root)
    fugacities(q, own, state, nd, na, nc, A, b, Z, 1 if donors > 0.0 else 0, view(out, nc))
    return Z


@tabled
def cpa_pure_ln_phi(p: Place, st: Place, nc: int, out: Place) -> int:
    """Put ln phi of each component taken pure, as a liquid where it has one, in place."""
    q, own, nd, na = parameters_of(p, nc)
    state, ln_phi = view(st, state_size(nc, nd, na)), view(out, nc)
    sites = sites_part(state, nc)
    m = sites
    s, covolume = part(state, nc, S), part(state, nc, B)
    for i in range(nc):
        for k in range(nd + na):
            m[k] = own[2 * nc + nd + na + k] if int(own[2 * nc + k]) == i else 0.0
        A, b = s[i] * s[i], covolume[i]
        Z = root_pair(q, sites, nd, na, A, b, total(m, nd), 1)[0]
        ln_phi[i] = energy(q, sites, nd, na, A, b, Z, 0) + Z - 1.0 - log(Z)
    return 0


@inner
def bond_slopes(bonds: Bonds, own: F1, nc: int, gamma: float, h: float, lean: F1) -> tuple[float, float]:
    """Put the derivatives of the sites' ln X by moles into U and those by gamma, gathered by components, into
    ``lean``; return dQ/dgamma and d2Q/dgamma2."""
    nd, na, delta, _, _, m, X, E, order, W, U, _, w, _ = bonds
    ns = nd + na
    bonds_matrix(gamma, m, delta, nd, na, X, W, E, order)
    by_sites(m, X, W, nd, na, E, order, U)
    by_density(gamma, m, X, W, nd, na, E, order, w)
    for i in range(nc):
        lean[i] = 0.0
    for k in range(ns):
        lean[int(own[2 * nc + k])] += own[2 * nc + ns + k] * w[k]
    return -0.5 * h / gamma, 0.5 * h / gamma**2 + mixed_slope(gamma, m, X, w, ns)


@inner
def add_bonds(bonds: Bonds, own: F1, nc: int, out: F2) -> None:
    """Add the second derivatives of the bonds in mole numbers at constant gamma."""
    ns, U = bonds[0] + bonds[1], bonds[10]
    for k in range(ns):
        row, much = out[int(own[2 * nc + k])], own[2 * nc + ns + k]
        for other in range(ns):
            row[int(own[2 * nc + other])] += much * own[2 * nc + ns + other] * U[k, other]


@inner
def bend_of(gamma: float, once: float, twice: float) -> float:
    """Return d2Q/dV2 from the derivatives of Q in gamma."""
    return twice * gamma**4 + 2.0 * once * gamma**3


@inner
def half_hessian(
    q: F1, state: F1, nc: int, D: float, f: float, f_B: float, f_BB: float, free: float, bend: float, lean: F1, out: F1
) -> None:
    """Put what stands beside the covolume in the Hessian: F_ij = b_i v_j + v_i b_j - 2 f s_i K_ij s_j and the bonds
    at constant gamma; ``bend`` is the bonds' KAPPA^2 d2Q/dV2, ``lean`` KAPPA gamma^2 times theirs by gamma."""
    s, y, covolume = part(state, nc, S), part(state, nc, Y), part(state, nc, B)
    own = 0.5 * (free * free - D * f_BB + bend)
    for i in range(nc):
        out[i] = free - f_B * 2.0 * s[i] * y[i] + own * covolume[i] + lean[i]


@tabled
def cpa_derivatives(
    p: Place, st: Place, nc: int, x: Place, root: int, ln_phi: Place, dn: Place, dT: Place, dP: Place
) -> float:
    """Put ln phi with all its first derivatives in place and return Z."""
    _, own, nd, na = parameters_of(p, nc)
    z, out, by_n, by_T, by_P = view(x, nc), view(ln_phi, nc), square(dn, nc), view(dT, nc), view(dP, nc)
    q, state, K, A, b, donors = ready(p, st, nc, z)
    sites = sites_part(state, nc)
    bonds = bonds_of(sites, nd, na)
    Z = selected(q, sites, nd, na, A, b, donors, root)
    fugacities(q, own, state, nd, na, nc, A, b, Z, 1 if donors > 0.0 else 0, out)
    gamma = 1.0 / (Z - KAPPA * b)
    m, X, rise, heat = bonds[5], bonds[6], bonds[3], bonds[13]
    h = bonded(m, X, nd + na)
    lean, warmer = own_vectors(state, nc, nd, na)
    f, f_v, f_B, f_vv, f_Bv, f_BB = attraction_derivatives(q, Z, b)
    s, t, y, covolume = part(state, nc, S), part(state, nc, T1), part(state, nc, Y), part(state, nc, B)
    free = 1.0 / (Z - b)
    across, slope = part(state, nc, W2), part(state, nc, W1)
    once, twice = bond_slopes(bonds, own, nc, gamma, h, lean)
    curved = bend_of(gamma, once, twice)
    # Pressure derivatives at P/(RT) = 1: p_i over mole numbers, p_v over volume.
    p_v = A * f_vv - free * free - curved
    per_b = free * free + A * f_Bv + KAPPA * curved
    for i in range(nc):
        slope[i] = free + per_b * covolume[i] + f_v * 2.0 * s[i] * y[i] + gamma * gamma * lean[i]
        lean[i] *= KAPPA * gamma * gamma
    half_hessian(q, state, nc, A, f, f_B, f_BB, free, KAPPA * KAPPA * curved, lean, across)
    for i in range(nc):
        outer(
            by_n[i], covolume[i], across, across[i], covolume, slope[i] / p_v, slope, -2.0 * f * s[i], K[i], s, 1.0, nc
        )
    add_bonds(bonds, own, nc, by_n)
    # Temperature at constant V and n: a/(R T), and the strengths of the bonds.
    by_heat(gamma, m, X, rise, bonds[9], nd, na, bonds[7], bonds[8], heat)
    mixed_T = mixed_slope(gamma, m, X, heat, nd + na)
    for i in range(nc):
        warmer[i] = KAPPA * covolume[i] * gamma * gamma * mixed_T
    for k in range(nd + na):
        warmer[int(own[2 * nc + k])] += own[2 * nc + nd + na + k] * heat[k]
    xs, mixed, bent = part(state, nc, XS), part(state, nc, W2), by_P
    TD = -A
    for i in range(nc):
        by_T[i] = -2.0 * s[i] * y[i]
    if q[SLOPED] > 0.0:
        times(warm_matrices(state, nc)[1], xs, bent, nc)
        TD += dot(xs, bent, nc)
        for i in range(nc):
            by_T[i] += 2.0 * s[i] * bent[i]
    for i in range(nc):
        xs[i] = z[i] * t[i]
    TD += 2.0 * dot(xs, y, nc)
    times(K, xs, mixed, nc)
    lift = 1.0 + f_v * TD + gamma * gamma * mixed_T
    for i in range(nc):
        by_T[i] += 2.0 * (t[i] * y[i] + s[i] * mixed[i])
        vbar = -slope[i] / p_v
        by_T[i] = -(f_B * TD) * covolume[i] - f * by_T[i] + warmer[i] + 1.0 - vbar * lift
        by_P[i] = vbar - 1.0
    return Z


@tabled
def cpa_response(p: Place, st: Place, nc: int, x: Place, Z: float, out: Place) -> int:
    """Put Z, h_res, s_res, cv_res, p_T and p_V at a root Z in place; Michelsen and Mollerup (2007), ch. 2 eqs. 16 to
    23."""
    _, _, nd, na = parameters_of(p, nc)
    z, found = view(x, nc), view(out, 6)
    q, state, K, A, b, _ = ready(p, st, nc, z)
    sites = sites_part(state, nc)
    bonds = bonds_of(sites, nd, na)
    p1, p2 = Z + q[0] * b, Z + q[1] * b
    f, f_v = attraction(q, Z, b), -1.0 / (p1 * p2)
    free = 1.0 / (Z - b)
    t, u, y, xs = part(state, nc, T1), part(state, nc, U2), part(state, nc, Y), part(state, nc, XS)
    xt, mixed = part(state, nc, W1), part(state, nc, W2)
    for i in range(nc):
        xt[i] = z[i] * t[i]
    TQ = 2.0 * dot(xt, y, nc)
    times(K, xt, mixed, nc)
    T2Q = 2.0 * dot(xt, mixed, nc)
    for i in range(nc):
        T2Q += 2.0 * z[i] * u[i] * y[i]
    if q[SLOPED] > 0.0:
        times(warm_matrices(state, nc)[1], xs, mixed, nc)
        TQ += dot(xs, mixed, nc)
        T2Q += 4.0 * dot(xt, mixed, nc)
        times(warm_matrices(state, nc)[2], xs, mixed, nc)
        T2Q += dot(xs, mixed, nc)
    TD, T2D = TQ - A, T2Q - 2.0 * TQ + 2.0 * A
    gamma = 1.0 / (Z - KAPPA * b)
    F = energy(q, sites, nd, na, A, b, Z, 0)
    m, X, rise, bends, heat = bonds[5], bonds[6], bonds[3], bonds[4], bonds[13]
    h = bonded(m, X, nd + na)
    wider = steeper(bonds, gamma)
    Q_T = by_heat(gamma, m, X, rise, bonds[9], nd, na, bonds[7], bonds[8], heat)
    Q_TT = heat_bend(gamma, m, X, rise, bends, nd, na, heat)
    mixed_T = mixed_slope(gamma, m, X, heat, nd + na)
    found[0] = Z
    found[1] = f * TD - Q_T + Z - 1.0
    found[2] = f * TD - Q_T - F + log(Z)
    found[3] = f * (2.0 * TD + T2D) - 2.0 * Q_T - Q_TT
    found[4] = 1.0 + f_v * TD + gamma * gamma * mixed_T
    found[5] = Z * (A * (p1 + p2) * f_v * f_v - free * free + 0.5 * gamma * gamma * (h + gamma * wider))
    return 0


@tabled
def cpa_pressure(p: Place, st: Place, nc: int, V: float, x: Place, out: Place) -> int:
    """Put the pressure, Pa, and dP/dV at T and V in place."""
    _, _, nd, na = parameters_of(p, nc)
    q, state, _, A, b, _ = ready(p, st, nc, view(x, nc))
    both = view(out, 2)
    value, slope, _ = pressure_at(q, sites_part(state, nc), nd, na, A, b, V, 0)
    both[0], both[1] = state[1] * value, state[1] * slope
    return 0


@tabled
def cpa_hessian(p: Place, st: Place, nc: int, V: float, x: Place, out: Place) -> int:
    """Put d2F/dn_i dn_j at constant T and V in place."""
    _, own, nd, na = parameters_of(p, nc)
    z, H = view(x, nc), square(out, nc)
    q, state, K, D, b, _ = ready(p, st, nc, z)
    sites = sites_part(state, nc)
    bonds = bonds_of(sites, nd, na)
    f, _, f_B, _, _, f_BB = attraction_derivatives(q, V, b)
    gamma = 1.0 / (V - KAPPA * b)
    h = sites_at(sites, nd, na, gamma, 0)
    lean, _ = own_vectors(state, nc, nd, na)
    once, twice = bond_slopes(bonds, own, nc, gamma, h, lean)
    for i in range(nc):
        lean[i] *= KAPPA * gamma * gamma
    s, covolume, across = part(state, nc, S), part(state, nc, B), part(state, nc, W2)
    half_hessian(
        q, state, nc, D, f, f_B, f_BB, 1.0 / (V - b), KAPPA * KAPPA * bend_of(gamma, once, twice), lean, across
    )
    for i in range(nc):
        outer(H[i], covolume[i], across, across[i], covolume, 0.0, s, -2.0 * f * s[i], K[i], s, 0.0, nc)
    add_bonds(bonds, own, nc, H)
    return 0


@inner
def bond_third(bonds: Bonds, own: F1, nc: int, gamma: float, b1: float, step: F1) -> float:
    """Return the third derivative of the bonds' energy along mole numbers ``step`` at constant T and V, the covolume
    moving by ``b1``: the second of F' = sum m' ln X - h (ln gamma)'/2."""
    nd, na, delta, _, _, m, X, E, order, W, U, u, v, _ = bonds
    ns = nd + na
    bonds_matrix(gamma, m, delta, nd, na, X, W, E, order)
    move = U[0]
    for k in range(ns):
        move[k] = own[2 * nc + ns + k] * step[int(own[2 * nc + k])]
    # ln gamma rises by r, r^2, 2 r^3; gamma itself by r, 2 r^2.
    r = KAPPA * b1 * gamma
    for first in range(2):
        for k in range(ns):
            v[k] = 0.0
        for d in range(nd):
            for a in range(na):
                e = nd + a
                if first == 0:
                    v[d] -= W[d, a] * (move[e] + r * m[e])
                    v[e] -= W[d, a] * (move[d] + r * m[d])
                else:
                    v[d] -= W[d, a] * (2.0 * move[e] * (u[e] + r) + m[e] * (u[e] * u[e] + 2.0 * r * u[e] + 2.0 * r * r))
                    v[e] -= W[d, a] * (2.0 * move[d] * (u[d] + r) + m[d] * (u[d] * u[d] + 2.0 * r * u[d] + 2.0 * r * r))
        if first == 1:
            for k in range(ns):
                v[k] += u[k] * u[k]
        solve_step(m, X, W, nd, na, E, order, v)
        if first == 0:
            for k in range(ns):
                u[k] = v[k]
    # u is (ln X)', v is (ln X)''.
    h = h1 = h2 = out = 0.0
    for k in range(ns):
        x1, x2 = X[k] * u[k], X[k] * (v[k] + u[k] * u[k])
        h += m[k] * (1.0 - X[k])
        h1 += move[k] * (1.0 - X[k]) - m[k] * x1
        h2 -= 2.0 * move[k] * x1 + m[k] * x2
        out += move[k] * v[k]
    return out - 0.5 * (h2 * r + 2.0 * h1 * r * r + 2.0 * h * r**3)


@tabled
def cpa_third(p: Place, st: Place, nc: int, V: float, x: Place, dn: Place) -> float:
    """Return the third derivative of F along ``dn``."""
    _, own, nd, na = parameters_of(p, nc)
    z, step = view(x, nc), view(dn, nc)
    q, state, K, D0, B0, _ = ready(p, st, nc, z)
    sites = sites_part(state, nc)
    bonds = bonds_of(sites, nd, na)
    s, y, covolume = part(state, nc, S), part(state, nc, Y), part(state, nc, B)
    ds, mixed = part(state, nc, W1), part(state, nc, W2)
    for i in range(nc):
        ds[i] = step[i] * s[i]
    D1 = 2.0 * dot(ds, y, nc)
    times(K, ds, mixed, nc)
    D2, B1, moles = dot(ds, mixed, nc), dot(step, covolume, nc), total(step, nc)
    gamma = 1.0 / (V - KAPPA * B0)
    sites_at(sites, nd, na, gamma, 0)
    return cubic_third_of(q, V, B0, B1, moles, D0, D1, D2, 0.0) + bond_third(bonds, own, nc, gamma, B1, step)
