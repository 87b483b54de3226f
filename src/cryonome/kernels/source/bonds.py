"""Association: the sites of a mixture, the fractions of them that are free, and the energy with its derivatives; the
formulae and sources are in :mod:`cryonome.eos.cpa`.

Sites of one kind on one component count as one with a multiplicity; a donor bonds with acceptors alone, donors come
first. With m_s moles of a site and gamma = g/V the energy is Q(m, gamma, T), stationary in the free fractions X, so
that first derivatives hold X fixed (Michelsen and Hendriks, Fluid Phase Equilib. 180, 165, 2001)."""

from math import log, sqrt

from .linear import factor, solve_factored
from .marks import F1, F2, inner, unit

MOST_ROUNDS = 100


@inner
def first_guess(gamma: float, m: F1, delta: F2, nd: int, na: int, X: F1) -> None:
    """Put free fractions of donors as if all acceptors were alike and no more than they are."""
    for d in range(nd):
        c = 0.0
        for a in range(na):
            c += m[nd + a] * delta[d, a]
        X[d] = 2.0 / (1.0 + sqrt(1.0 + 4.0 * gamma * c))


@inner
def free_acceptors(gamma: float, m: F1, delta: F2, nd: int, na: int, X: F1) -> None:
    """Put the free fractions of acceptors that belong to those of donors."""
    for a in range(na):
        s = 0.0
        for d in range(nd):
            s += m[d] * X[d] * delta[d, a]
        X[nd + a] = 1.0 / (1.0 + gamma * s)


@inner
def one_donor(gamma: float, sites: F1, na: int, x: float) -> tuple[float, float]:
    """Return the free fraction of a mixture's only donor, from a first guess where that is positive, and its
    derivative by gamma; ``sites`` are moles, free fractions and strengths one after another. x (1 + S(x)) rises
    concavely, so that Newton's method comes from below without turning."""
    own, row = sites[0], 2 * (1 + na)
    if not x > 0.0:
        c = 0.0
        for a in range(na):
            c += sites[1 + a] * sites[row + a]
        x = 2.0 / (1.0 + sqrt(1.0 + 4.0 * gamma * c))
    S = bend = rise = 0.0
    for _ in range(MOST_ROUNDS):
        S = bend = rise = 0.0
        for a in range(na):
            strong = gamma * sites[row + a]
            free = 1.0 / (1.0 + own * x * strong)
            part = sites[1 + a] * strong * free
            S += part
            bend += part * own * strong * free
            rise += part * free
        step = (1.0 - x * (1.0 + S)) / (1.0 + S - x * bend)
        if x + step <= 0.0:
            step = -0.9 * x
        x += step
        if abs(step) < 1e-8 * x:
            break
    return x, -x * rise / (gamma * (1.0 + S - x * bend))


@inner
def donors_step(gamma: float, m: F1, delta: F2, nd: int, na: int, X: F1, E: F2, sums: F1) -> None:
    """Put the matrix of a step of donors in ``E`` and what their equations miss by in ``sums``; acceptors are
    eliminated.

    (1 + S)/X stands for 1/X^2, the same at the solution, which makes the matrix definite everywhere (Michelsen, Ind.
    Eng. Chem. Res. 45, 8449, 2006)."""
    for d in range(nd):
        S = 0.0
        for a in range(na):
            S += m[nd + a] * delta[d, a] * X[nd + a]
        S *= gamma
        sums[d] = 1.0 / X[d] - 1.0 - S
        for e in range(nd):
            s = 0.0
            for a in range(na):
                s += m[nd + a] * delta[d, a] * delta[e, a] * X[nd + a] * X[nd + a]
            E[d, e] = -gamma * gamma * s * m[e]
        E[d, d] += (1.0 + S) / X[d]


@unit
def free_fractions(
    gamma: float, m: F1, delta: F2, nd: int, na: int, warm: int, X: F1, E: F2, order: F1, sums: F1
) -> int:
    """Put the free fractions X of donors and acceptors of a mixture in place, from those there where ``warm``."""
    if warm == 0:
        first_guess(gamma, m, delta, nd, na, X)
    for _ in range(MOST_ROUNDS):
        free_acceptors(gamma, m, delta, nd, na, X)
        donors_step(gamma, m, delta, nd, na, X, E, sums)
        if not factor(E, order, nd):
            return 1
        solve_factored(E, order, sums, nd)
        worst = 0.0
        for d in range(nd):
            step = max(sums[d], -0.8 * X[d])
            worst = max(worst, abs(step) / X[d])
            X[d] = min(X[d] + step, 1.0)
        if worst < 1e-10:
            break
    free_acceptors(gamma, m, delta, nd, na, X)
    return 0


@inner
def bonded(m: F1, X: F1, ns: int) -> float:
    """Return h, the moles of bonded sites."""
    h = 0.0
    for s in range(ns):
        h += m[s] * (1.0 - X[s])
    return h


@inner
def bond_energy(m: F1, X: F1, ns: int) -> float:
    """Return the association's A_res/(R T)."""
    Q = 0.0
    for s in range(ns):
        if m[s] > 0.0:
            Q += m[s] * (log(X[s]) + 0.5 * (1.0 - X[s]))
    return Q


@inner
def solve_step(m: F1, X: F1, W: F2, nd: int, na: int, E: F2, order: F1, u: F1) -> None:
    """Solve (1 + W m) u = r for both kinds of sites, r in ``u``, with the donors' matrix E as factored."""
    for d in range(nd):
        s = u[d]
        for a in range(na):
            s -= W[d, a] * m[nd + a] * u[nd + a]
        u[d] = s
    if nd == 1:
        u[0] /= E[0, 0]
    else:
        solve_factored(E, order, u, nd)
    for a in range(na):
        s = u[nd + a]
        for d in range(nd):
            s -= W[d, a] * m[d] * u[d]
        u[nd + a] = s


@inner
def bonds_matrix(gamma: float, m: F1, delta: F2, nd: int, na: int, X: F1, W: F2, E: F2, order: F1) -> None:
    """Put W = gamma X_s delta X_t of donors and acceptors, and 1 - W m W' m of the donors factored in E."""
    for d in range(nd):
        for a in range(na):
            W[d, a] = gamma * X[d] * delta[d, a] * X[nd + a]
    for d in range(nd):
        for e in range(nd):
            s = 0.0
            for a in range(na):
                s += W[d, a] * m[nd + a] * W[e, a]
            E[d, e] = -s * m[e]
        E[d, d] += 1.0
    if nd > 1:
        factor(E, order, nd)


@inner
def by_sites(m: F1, X: F1, W: F2, nd: int, na: int, E: F2, order: F1, U: F2) -> None:
    """Put d ln X_s/dm_t in column t of the rows of ``U``; it is symmetric, so that rows serve as well."""
    ns = nd + na
    for t in range(ns):
        u = U[t]
        for s in range(ns):
            u[s] = 0.0
        if t < nd:
            for a in range(na):
                u[nd + a] = -W[t, a]
        else:
            for d in range(nd):
                u[d] = -W[d, t - nd]
        solve_step(m, X, W, nd, na, E, order, u)


@inner
def by_density(gamma: float, m: F1, X: F1, W: F2, nd: int, na: int, E: F2, order: F1, u: F1) -> None:
    """Put d ln X/d gamma in ``u``."""
    for s in range(nd + na):
        u[s] = -(1.0 - X[s]) / gamma
    solve_step(m, X, W, nd, na, E, order, u)


@inner
def by_heat(gamma: float, m: F1, X: F1, rise: F2, W: F2, nd: int, na: int, E: F2, order: F1, u: F1) -> float:
    """Put T d ln X/dT in ``u`` and return T dQ/dT; ``rise`` is T d delta/dT."""
    pairs = 0.0
    for s in range(nd + na):
        u[s] = 0.0
    for d in range(nd):
        for a in range(na):
            w = gamma * X[d] * rise[d, a] * X[nd + a]
            u[d] -= w * m[nd + a]
            u[nd + a] -= w * m[d]
            pairs += w * m[d] * m[nd + a]
    solve_step(m, X, W, nd, na, E, order, u)
    return -pairs


@inner
def heat_bend(gamma: float, m: F1, X: F1, rise: F2, bend: F2, nd: int, na: int, u: F1) -> float:
    """Return T2 d2Q/dT2 from what :func:`by_heat` found; ``bend`` is T2 d2 delta/dT2."""
    s = 0.0
    for d in range(nd):
        for a in range(na):
            s += m[d] * m[nd + a] * X[d] * X[nd + a] * (bend[d, a] + rise[d, a] * (u[d] + u[nd + a]))
    return -gamma * s


@inner
def mixed_slope(gamma: float, m: F1, X: F1, u: F1, ns: int) -> float:
    """Return dQ/dgamma's derivative in what ``u`` holds the derivative of ln X by, gamma itself held."""
    s = 0.0
    for k in range(ns):
        s += m[k] * X[k] * u[k]
    return 0.5 * s / gamma
