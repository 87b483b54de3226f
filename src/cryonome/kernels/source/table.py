"""The table of functions that an equation of state brings: all that compiled solvers know of it.

Every function gets ``p`` the equation's parameters, ``st`` its state (filled by ``prepare``), and the number of
components; compositions are normalised. An equation with another table needs no change in a solver; :data:`ORDER` is
the order of its functions."""

from .marks import F1, I1, calling, inner

ORDER = (
    "prepare",
    "ln_phi",
    "derivatives",
    "pure_ln_phi",
    "response",
    "place",
    "roots",
    "pressure",
    "hessian",
    "third",
    "select",
)
"""What the places of a table hold. ``prepare(p, st, nc, T, P)``, P zero for any volume at T alone; ``ln_phi(p, st,
nc, x, root, out) -> Z``; ``derivatives(p, st, nc, x, root, ln_phi, dn, dT, dP) -> Z``; ``pure_ln_phi(p, st, nc,
out)``; ``response(p, st, nc, x, Z, out)`` (six numbers) at a root; ``place(p, st, nc, x, Z, out)`` packing and
whether cold; ``roots(p, st, nc, x, out)``; ``pressure(p, st, nc, V, x, out)`` and its slope; ``hessian(p, st, nc, V,
x, out)``; ``third(p, st, nc, V, x, dn)``; ``select(p, st, nc, x, root) -> Z``. Roots are coded 0 stable, 1 liquid, 2
vapour."""

STABLE, LIQUID, VAPOUR = 0, 1, 2

_prepare = calling("i", "ppiff")
_ln_phi = calling("f", "ppipip")
_derivatives = calling("f", "ppipipppp")
_pure = calling("i", "ppip")
_response = calling("i", "ppipfp")
_roots = calling("i", "ppipp")
_pressure = calling("i", "ppifpp")
_third = calling("f", "ppifpp")
_select = calling("f", "ppipi")


@inner
def prepare(table: I1, p: F1, st: F1, nc: int, T: float, P: float) -> None:
    _prepare(table[0], p, st, nc, T, P)


@inner
def ln_phi(table: I1, p: F1, st: F1, nc: int, x: F1, root: int, out: F1) -> float:
    return _ln_phi(table[1], p, st, nc, x, root, out)


@inner
def derivatives(table: I1, p: F1, st: F1, nc: int, x: F1, root: int, out: F1, dn: F1, dT: F1, dP: F1) -> float:
    return _derivatives(table[2], p, st, nc, x, root, out, dn, dT, dP)


@inner
def pure_ln_phi(table: I1, p: F1, st: F1, nc: int, out: F1) -> None:
    _pure(table[3], p, st, nc, out)


@inner
def response(table: I1, p: F1, st: F1, nc: int, x: F1, Z: float, out: F1) -> None:
    _response(table[4], p, st, nc, x, Z, out)


@inner
def place(table: I1, p: F1, st: F1, nc: int, x: F1, Z: float, out: F1) -> None:
    _response(table[5], p, st, nc, x, Z, out)


@inner
def roots(table: I1, p: F1, st: F1, nc: int, x: F1, out: F1) -> None:
    _roots(table[6], p, st, nc, x, out)


@inner
def pressure(table: I1, p: F1, st: F1, nc: int, V: float, x: F1, out: F1) -> None:
    _pressure(table[7], p, st, nc, V, x, out)


@inner
def hessian(table: I1, p: F1, st: F1, nc: int, V: float, x: F1, out: F1) -> None:
    _pressure(table[8], p, st, nc, V, x, out)


@inner
def third(table: I1, p: F1, st: F1, nc: int, V: float, x: F1, dn: F1) -> float:
    return _third(table[9], p, st, nc, V, x, dn)


@inner
def select(table: I1, p: F1, st: F1, nc: int, x: F1, root: int) -> float:
    return _select(table[10], p, st, nc, x, root)
