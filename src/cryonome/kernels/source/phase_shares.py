"""The shares of several phases of one state whose fugacity coefficients are given;
:mod:`cryonome.equilibrium.multiphase` tells what they minimise."""

from math import exp

from .guesses import log_safe
from .linear import factor, solve_factored
from .marks import F1, F2, inner, matrix, unit

SHARE_STEPS = 50


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
    """Find the shares that minimise Q, and put z_i/(phi_ik E_i), the compositions of phases that are there, in
    ``out``; d and ``s`` (64 numbers) for work.

    Michelsen, Comput. Chem. Eng. 18, 545 (1994).
    """
    for i in range(nc):
        top = -ln_phi[0, i]
        for k in range(1, p):
            top = max(top, -ln_phi[k, i])
        for k in range(p):
            # A factor common to all phases of a component cancels everywhere except in the sums E_i.
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
