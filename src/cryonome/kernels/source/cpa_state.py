"""The state of cubic plus association: where its parts stand, as :mod:`.cpa` tells, and what is made ready of them for a
composition."""

from math import tanh

from .cubic import (
    HEAD,
    SLOPED,
    STATE_VECTORS,
    T_REFERENCE,
    VECTORS,
    mixture,
)
from .linear import total
from .marks import F1, F2, Place, inner, matrix, view

REACH = 300.0
"""K over which a warming pair bends to a constant."""
SITES = 4
"""Numbers before the sites."""
Bonds = tuple[int, int, F2, F2, F2, F1, F1, F2, F1, F2, F2, F1, F1, F1]


@inner
def parameters_of(p: Place, nc: int) -> tuple[F1, F1, int, int]:
    """Return the cubic's parameters, those of the association, and how many donors and acceptors there are."""
    first = HEAD + VECTORS * nc + 2 * nc * nc
    q = view(p, first + SITES)
    nd, na = int(q[first]), int(q[first + 1])
    whole = view(p, first + SITES + 2 * nc + 2 * (nd + na) + 2 * nd * na + 4 * int(q[first + 2]))
    return whole[:first], whole[first + SITES :], nd, na


@inner
def warmed(q: F1, own: F1, many: int, state: F1, nc: int, T: float) -> None:
    """Put 1 - k_ij at T with T d/dT and T2 d2/dT2 of it in the state, where any depends on temperature; a warming
    pair rises by c1 tau + c2 tau^2, tau = REACH tanh((T - 298.15 K)/REACH)."""
    K, K1, K2 = warm_matrices(state, nc)
    slope = matrix(q[HEAD + VECTORS * nc + nc * nc :], nc, nc)
    for i in range(nc):
        for j in range(nc):
            K1[i, j], K2[i, j] = -T * slope[i, j], 0.0
    bend = tanh((T - T_REFERENCE) / REACH)
    tau, one, two = REACH * bend, T * (1.0 - bend * bend), -2.0 * T * T * bend * (1.0 - bend * bend) / REACH
    for k in range(many):
        i, j, c1, c2 = int(own[4 * k]), int(own[4 * k + 1]), own[4 * k + 2], own[4 * k + 3]
        first, second = (c1 + 2.0 * c2 * tau) * one, (c1 + 2.0 * c2 * tau) * two + 2.0 * c2 * one * one
        K[i, j] -= (c1 + c2 * tau) * tau
        K1[i, j] -= first
        K2[i, j] -= second
        K[j, i], K1[j, i], K2[j, i] = K[i, j], K1[i, j], K2[i, j]


@inner
def warm_matrices(state: F1, nc: int) -> tuple[F2, F2, F2]:
    """Return 1 - k_ij at T with its two derivatives."""
    at = HEAD + STATE_VECTORS * nc
    return (
        matrix(state[at:], nc, nc),
        matrix(state[at + nc * nc :], nc, nc),
        matrix(state[at + 2 * nc * nc :], nc, nc),
    )


@inner
def state_size(nc: int, nd: int, na: int) -> int:
    """Return the numbers of a state."""
    ns = nd + na
    return HEAD + STATE_VECTORS * nc + 3 * nc * nc + 5 * ns + 4 * nd * na + nd * nd + nd + ns * ns + 2 * nc


@inner
def sites_part(st: F1, nc: int) -> F1:
    """Return the association's part of a state: moles and free fractions of sites, strengths of bonds, and what
    :func:`bonds_of` finds after them."""
    return st[HEAD + STATE_VECTORS * nc + 3 * nc * nc :]


@inner
def bonds_of(sites: F1, nd: int, na: int) -> Bonds:
    """Return the association's part of a state in pieces: donors, acceptors, strengths with two derivatives, moles,
    free fractions, donors' matrix with its order, W, U, and three vectors of sites."""
    ns, pairs = nd + na, nd * na
    at = 2 * ns + 4 * pairs
    vectors = at + nd * nd + nd
    return (
        nd, na, matrix(sites[2 * ns :], nd, na), matrix(sites[2 * ns + pairs :], nd, na),
        matrix(sites[2 * ns + 2 * pairs :], nd, na), sites[:ns], sites[ns : 2 * ns],
        matrix(sites[at:], nd, nd), sites[at + nd * nd : vectors], matrix(sites[2 * ns + 3 * pairs :], nd, na),
        matrix(sites[vectors + 3 * ns :], ns, ns),
        sites[vectors : vectors + ns], sites[vectors + ns : vectors + 2 * ns], sites[vectors + 2 * ns : vectors + 3 * ns],
    )  # fmt: skip


@inner
def own_vectors(st: F1, nc: int, nd: int, na: int) -> tuple[F1, F1]:
    """Return two vectors of components for work."""
    at = state_size(nc, nd, na) - 2 * nc
    return st[at : at + nc], st[at + nc : at + 2 * nc]


Ready = tuple[F1, F1, F2, float, float, float]


@inner
def ready(p: Place, st: Place, nc: int, x: F1) -> Ready:
    """Return parameters, state and 1 - k_ij with D, B and the moles of donors of a composition, whose sites' moles
    are in the state."""
    q, own, nd, na = parameters_of(p, nc)
    state = view(st, state_size(nc, nd, na))
    first = HEAD + VECTORS * nc
    K = matrix(q[first:], nc, nc)
    if q[SLOPED] > 0.0:
        K = matrix(state[HEAD + STATE_VECTORS * nc :], nc, nc)
    A, b = mixture(q, state, K, nc, x)
    m = sites_part(state, nc)
    for s in range(nd + na):
        m[s] = own[2 * nc + nd + na + s] * x[int(own[2 * nc + s])]
    return q, state, K, A, b, total(m, nd)
