"""An equation evaluated at many states: every entry takes rows ``lo`` to ``hi``, parameters ``p`` (1 or N, ...), T
and P (N,)."""

from . import table as eos
from .marks import F1, F2, F3, I1, entry, flat, inner


@inner
def row_of(p: F2, n: int) -> F1:
    """Return the parameters of state n: its own, or those of all."""
    return p[n if p.shape[0] > 1 else 0]


@entry
def states_ln_phi(lo: int, hi: int, st: F1, table: I1, p: F2, T: F1, P: F1, x: F2, root: int, out: F2, Z: F1) -> int:
    """Put ln phi (N, nc) and Z (N,) in place."""
    nc = x.shape[1]
    for n in range(lo, hi):
        q = row_of(p, n)
        eos.prepare(table, q, st, nc, T[n], P[n])
        Z[n] = eos.ln_phi(table, q, st, nc, x[n], root, out[n])
    return 0


@entry
def states_pure_ln_phi(lo: int, hi: int, st: F1, table: I1, p: F2, T: F1, P: F1, out: F2) -> int:
    """Put ln phi of each component taken pure in place."""
    nc = out.shape[1]
    for n in range(lo, hi):
        q = row_of(p, n)
        eos.prepare(table, q, st, nc, T[n], P[n])
        eos.pure_ln_phi(table, q, st, nc, out[n])
    return 0


@entry
def states_derivatives(
    lo: int, hi: int, st: F1, table: I1, p: F2, T: F1, P: F1, x: F2, root: int, ln_phi: F2, dn: F2, dT: F2, dP: F2, Z: F1
) -> int:  # fmt: skip
    """Put ln phi with its derivatives in place, dn (N, nc nc)."""
    nc = x.shape[1]
    for n in range(lo, hi):
        q = row_of(p, n)
        eos.prepare(table, q, st, nc, T[n], P[n])
        Z[n] = eos.derivatives(table, q, st, nc, x[n], root, ln_phi[n], dn[n], dT[n], dP[n])
    return 0


@entry
def states_response(
    lo: int, hi: int, st: F1, table: I1, p: F2, T: F1, P: F1, x: F2, root: int, given: F1, out: F2
) -> int:
    """Put the response (N, 6) in place: at the wanted root, or at the ``given`` ones where they are positive."""
    nc = x.shape[1]
    for n in range(lo, hi):
        q = row_of(p, n)
        eos.prepare(table, q, st, nc, T[n], P[n])
        Z = given[n] if given[n] > 0.0 else eos.select(table, q, st, nc, x[n], root)
        eos.response(table, q, st, nc, x[n], Z, out[n])
    return 0


@entry
def states_roots(lo: int, hi: int, st: F1, table: I1, p: F2, T: F1, P: F1, x: F2, out: F2) -> int:
    """Put Z of the densest and of the least dense root (N, 2) in place."""
    nc = x.shape[1]
    for n in range(lo, hi):
        q = row_of(p, n)
        eos.prepare(table, q, st, nc, T[n], P[n])
        eos.roots(table, q, st, nc, x[n], out[n])
    return 0


@entry
def states_place(lo: int, hi: int, st: F1, table: I1, p: F2, T: F1, P: F1, x: F2, Z: F1, out: F2) -> int:
    """Put packing and whether cold (N, 2) in place."""
    nc = x.shape[1]
    for n in range(lo, hi):
        q = row_of(p, n)
        eos.prepare(table, q, st, nc, T[n], P[n])
        eos.place(table, q, st, nc, x[n], Z[n], out[n])
    return 0


@entry
def volumes_pressure(lo: int, hi: int, st: F1, table: I1, p: F2, T: F1, V: F1, x: F2, out: F2) -> int:
    """Put the pressure and its slope (N, 2) at T and V in place."""
    nc = x.shape[1]
    for n in range(lo, hi):
        q = row_of(p, n)
        eos.prepare(table, q, st, nc, T[n], 0.0)
        eos.pressure(table, q, st, nc, V[n], x[n], out[n])
    return 0


@entry
def volumes_hessian(lo: int, hi: int, st: F1, table: I1, p: F2, T: F1, V: F1, x: F2, out: F3) -> int:
    """Put d2F/dn_i dn_j (N, nc, nc) at T and V in place."""
    nc = x.shape[1]
    for n in range(lo, hi):
        q = row_of(p, n)
        eos.prepare(table, q, st, nc, T[n], 0.0)
        eos.hessian(table, q, st, nc, V[n], x[n], flat(out[n], nc * nc))
    return 0


@entry
def volumes_third(lo: int, hi: int, st: F1, table: I1, p: F2, T: F1, V: F1, x: F2, dn: F2, out: F1) -> int:
    """Put the third derivative of F along ``dn`` (N, nc) at T and V in place."""
    nc = x.shape[1]
    for n in range(lo, hi):
        q = row_of(p, n)
        eos.prepare(table, q, st, nc, T[n], 0.0)
        out[n] = eos.third(table, q, st, nc, V[n], x[n], dn[n])
    return 0
