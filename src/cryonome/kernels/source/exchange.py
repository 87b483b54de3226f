"""What the exchange between the phases of one state adds to the whole's answer; derivation in
:mod:`cryonome.equilibrium.response`."""

from math import sqrt

from . import table as eos
from .linear import cholesky, dot, factor, finite, solve_cholesky, solve_factored
from .marks import F1, F2, F3, I1, I2, entry, matrix, summing

PLACES = 4
"""Phases of a state at most."""


@summing
def per_mole(row: F1, factor: float, n: int) -> None:
    """Put (row - 1) ``factor`` in its place."""
    for j in range(n):
        row[j] = (row[j] - 1.0) * factor


@summing
def scaled_sum(out: F1, a: F1, share: float, b: F1, left: float, right: F1, n: int) -> None:
    """Put (a + share b) left right in ``out``."""
    for j in range(n):
        out[j] = (a[j] + share * b[j]) * left * right[j]


@entry
def exchange_states(
    lo: int,
    hi: int,
    work: F1,
    table: I1,
    p: F2,
    memory: int,
    T: F1,
    P: F1,
    share: F2,
    x: F3,
    root: I2,
    active: I2,
    out: F2,
) -> int:
    """Put what the exchange adds to Cp/R, (P/R) (dV/dT) and -(P^2/(R T)) (dV/dP) in ``out`` (N, 3); ``active`` (N, p)
    marks the phases that take part."""
    nc, places = x.shape[2], x.shape[1]
    st = work[:memory]
    square = nc * nc
    D = work[memory : memory + PLACES * square]
    first = memory + PLACES * square
    vectors = matrix(work[first:], 4 * PLACES + 4, PLACES * nc)
    rest = work[first + (4 * PLACES + 4) * PLACES * nc :]
    ln_phi = vectors[0]
    for n in range(lo, hi):
        out[n, 0] = out[n, 1] = out[n, 2] = 0.0
        largest, count = -1, 0
        for k in range(places):
            if active[n, k] != 0:
                count += 1
                if largest < 0 or share[n, k] > share[n, largest]:
                    largest = k
        if count < 2:
            continue
        q = p[n if p.shape[0] > 1 else 0]
        eos.prepare(table, q, st, nc, T[n], P[n])
        for k in range(places):
            if active[n, k] != 0:
                own = D[k * square :]
                eos.derivatives(
                    table, q, st, nc, x[n, k], root[n, k], ln_phi, own, vectors[1 + k], vectors[1 + PLACES + k]
                )
                by = matrix(own, nc, nc)
                beta = share[n, k]
                for i in range(nc):
                    per_mole(by[i], 1.0 / beta, nc)
                    if x[n, k, i] > 0.0:
                        by[i, i] += 1.0 / x[n, k, i] / beta
        m = (count - 1) * nc
        H, A = matrix(rest, m, m), matrix(rest[m * m :], m, m)
        scale, g, h = vectors[1 + 2 * PLACES], vectors[2 + 2 * PLACES], vectors[3 + 2 * PLACES]
        a, b, pivots = vectors[4 + 2 * PLACES], vectors[5 + 2 * PLACES], vectors[6 + 2 * PLACES]
        row = 0
        for k in range(places):
            if active[n, k] == 0 or k == largest:
                continue
            for i in range(nc):
                one, other = share[n, k] * x[n, k, i], share[n, largest] * x[n, largest, i]
                scale[row] = sqrt(one * other / (one + other)) if one > 0.0 and other > 0.0 else 0.0
                g[row] = scale[row] * (vectors[1 + k, i] - vectors[1 + largest, i])
                h[row] = scale[row] * (vectors[1 + PLACES + k, i] - vectors[1 + PLACES + largest, i])
                row += 1
        base = matrix(D[largest * square :], nc, nc)
        row = 0
        for k in range(places):
            if active[n, k] == 0 or k == largest:
                continue
            own = matrix(D[k * square :], nc, nc)
            for i in range(nc):
                column = 0
                for other in range(places):
                    if active[n, other] != 0 and other != largest:
                        same = 1.0 if other == k else 0.0
                        scaled_sum(H[row, column:], base[i], same, own[i], scale[row], scale[column:], nc)
                        column += nc
                if scale[row] == 0.0:
                    H[row, row] += 1.0
                row += 1
        for i in range(m):
            a[i], b[i] = g[i], h[i]
            for j in range(m):
                A[i, j] = H[i, j]
        if cholesky(A, m):
            solve_cholesky(A, a, m)
            solve_cholesky(A, b, m)
        else:
            for i in range(m):
                for j in range(m):
                    A[i, j] = H[i, j]
            if not factor(A, pivots, m):
                continue
            solve_factored(A, pivots, a, m)
            solve_factored(A, pivots, b, m)
        if finite(a, m) and finite(b, m):
            out[n, 0], out[n, 1], out[n, 2] = dot(g, a, m), -dot(h, a, m), dot(h, b, m)
    return 0
