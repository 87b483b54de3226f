"""Volumes of cubic plus association: its roots, and which of them is a liquid's or a vapour's, with the bonds there."""

from math import log

from .bonds import (
    bond_energy,
    bonded,
    bonds_matrix,
    by_density,
    free_acceptors,
    free_fractions,
    mixed_slope,
    one_donor,
)
from .cpa_state import (
    Bonds,
    bonds_of,
)
from .cubic import (
    attraction,
    both_roots,
)
from .marks import F1, inner

KAPPA = 0.475
STEPS, QUICK = 40, 12
DENSE = 1.25
"""Volume over covolume where the densest root is looked for first."""
THIN = 1.8
"""Volume over covolume above which a root is not taken for the densest without a look from the dense end."""
WEAK = 0.1
"""Share of the attraction below which bonds add no root to those of the cubic."""
GRID = 60
"""Packings looked at where neither end leads to a root."""


@inner
def sites_at(sites: F1, nd: int, na: int, gamma: float, warm: int) -> float:
    """Put the free fractions at a density in place and return h."""
    _, _, delta, _, _, m, X, E, order, _, _, w, _, _ = bonds_of(sites, nd, na)
    if nd == 1:
        X[0], _ = one_donor(gamma, sites, na, X[0] if warm > 0 else 0.0)
        free_acceptors(gamma, m, delta, 1, na, X)
    else:
        free_fractions(gamma, m, delta, nd, na, warm, X, E, order, w)
    return bonded(m, X, nd + na)


@inner
def steeper(bonds: Bonds, gamma: float) -> float:
    """Return dh/dgamma where the free fractions are known."""
    nd, na, delta, _, _, m, X, E, order, W, _, _, w, _ = bonds
    bonds_matrix(gamma, m, delta, nd, na, X, W, E, order)
    by_density(gamma, m, X, W, nd, na, E, order, w)
    return -2.0 * gamma * mixed_slope(gamma, m, X, w, nd + na)


@inner
def many_bonded(sites: F1, nd: int, na: int, gamma: float, warm: int) -> tuple[float, float]:
    """Return h and dh/dgamma at a density; free fractions are in place."""
    h = sites_at(sites, nd, na, gamma, warm)
    return h, steeper(bonds_of(sites, nd, na), gamma)


@inner
def pressure_at(
    q: F1, sites: F1, nd: int, na: int, A: float, b: float, Z: float, warm: int
) -> tuple[float, float, float]:
    """Return P/(R T), its slope in the volume, and what the bonds add to the attraction D there.

    A bond has two ends, so that h is twice what the donors have."""
    gamma = 1.0 / (Z - KAPPA * b)
    if nd == 1:
        x = one_donor(gamma, sites, na, sites[1 + na] if warm > 0 else 0.0)
        sites[1 + na] = x[0]
        h, wider = 2.0 * sites[0] * (1.0 - x[0]), -2.0 * sites[0] * x[1]
    else:
        h, wider = many_bonded(sites, nd, na, gamma, warm)
    p1, p2 = Z + q[0] * b, Z + q[1] * b
    free, both = 1.0 / (Z - b), 1.0 / (p1 * p2)
    slope = A * (p1 + p2) * both * both - free * free + 0.5 * gamma * gamma * (h + gamma * wider)
    return free - A * both - 0.5 * h * gamma, slope, 0.5 * h * gamma * p1 * p2


@inner
def quick_root(
    q: F1, sites: F1, nd: int, na: int, A: float, b: float, Z: float, first: int, other: float
) -> tuple[float, bool]:
    """Return a root from a first guess, and whether it was found; the densest, or the least dense beside the densest
    of ``other`` where that is given. What the bonds pull hardly depends on the volume as attraction does, so that the
    cubic with both has nearly the same roots; Newton's method does the rest, from step ``first`` on."""
    for k in range(QUICK):
        value, slope, more = pressure_at(q, sites, nd, na, A, b, Z, k)
        step = (1.0 - value) / slope
        if k >= first and slope < 0.0 and abs(step) < 0.1 * (Z - b):
            Z += step
            if abs(step) < 1e-8 * Z:
                return Z, True
            continue
        low, high = both_roots(q, A + more, b)
        if other > 0.0 and not low < high and high < 1.3 * other:
            return other, True
        Z = high if other > 0.0 else low
    return Z, False


@inner
def thin_end(q: F1, sites: F1, nd: int, na: int, A: float, b: float) -> tuple[float, bool]:
    """Return the least dense root and whether it was found: Newton's method in the density from the ideal gas on."""
    r, warm = min(1.0, 0.5 / b), 0
    for _ in range(STEPS):
        value, slope, _ = pressure_at(q, sites, nd, na, A, b, 1.0 / r, warm)
        warm = 1
        rise = -slope / (r * r)
        if not rise > 0.0:
            return 1.0 / r, False
        step = (1.0 - value) / rise
        if not 0.0 < r + step < 1.0 / b:
            return 1.0 / r, False
        r += step
        if abs(step) < 1e-10 * r:
            return 1.0 / r, True
    return 1.0 / r, False


@inner
def bracketed(q: F1, sites: F1, nd: int, na: int, A: float, b: float, low: float, high: float) -> float:
    """Return the root between two packings where the pressure rises through P, by safeguarded Newton steps."""
    y = 0.5 * (low + high)
    for _ in range(100):
        Z = b / y
        value, slope, _ = pressure_at(q, sites, nd, na, A, b, Z, 0)
        if value < 1.0:
            low = y
        else:
            high = y
        rise = -slope * Z / y
        new = y + (1.0 - value) / rise if rise > 0.0 else -1.0
        if not low < new < high:
            new = 0.5 * (low + high)
        moved = abs(new - y)
        y = new
        if moved < 1e-12 * y:
            break
    return b / y


@inner
def dense_end(q: F1, sites: F1, nd: int, na: int, A: float, b: float) -> tuple[float, bool]:
    """Return the densest root and whether it was found: Newton's method in (V - b)(P - 1), from V = b on, where it
    is convex; what it leaps over lies between the last two volumes."""
    Z, last, warm = b * (1.0 + 1e-6), b, 0
    for k in range(STEPS):
        value, slope, _ = pressure_at(q, sites, nd, na, A, b, Z, warm)
        warm = 1
        free = Z - b
        miss, fall = free * (value - 1.0), value - 1.0 + free * slope
        if value < 1.0 and k > 0 and not abs(miss) < -1e-9 * Z * fall:
            return bracketed(q, sites, nd, na, A, b, b / Z, b / last), True
        if not fall < 0.0:
            return Z, False
        step, last = -miss / fall, Z
        Z = max(Z + step, b + 0.1 * free)
        if abs(step) < 1e-10 * Z and k > 0:
            return Z, slope < 0.0
    return Z, False


@inner
def among_packings(q: F1, sites: F1, nd: int, na: int, A: float, b: float) -> tuple[float, float]:
    """Return the densest and the least dense root among packings b/V that are looked at one after another."""
    before, dense, thin, found = min(1e-6, 0.5 * b), b, b, False
    low = before
    for k in range(GRID):
        y = (k + 1.0) / GRID * 0.9999
        if y <= low:
            continue
        value = pressure_at(q, sites, nd, na, A, b, b / y, 0)[0]
        if value >= 1.0 and before >= 0.0:
            dense = bracketed(q, sites, nd, na, A, b, low, y)
            if not found:
                thin, found = dense, True
        before = 1.0 if value < 1.0 else -1.0
        low = y
    if not found:
        dense = thin = bracketed(q, sites, nd, na, A, b, low, 1.0 - 1e-12)
    return dense, thin


@inner
def root_pair(q: F1, sites: F1, nd: int, na: int, A: float, b: float, donors: float, root: int) -> tuple[float, float]:
    """Return Z of the densest and of the least dense root, coded -1; with a ``root`` wanted the other end is looked at
    only where that one fails, and for the stable one no vapour that is far from stable."""
    low, high = both_roots(q, A, b)
    if donors <= 0.0:
        return low, high
    # The largest attraction by bonds, that of all donors bonded, relative to the cubic's own.
    weak = donors * (DENSE + q[0]) * (DENSE + q[1]) / (DENSE - KAPPA) * b < WEAK * A
    if weak and not low < high:
        Z, good = quick_root(q, sites, nd, na, A, b, low, 0, 0.0)
        if good:
            return Z, Z
    dense = thin = 0.0
    good = fine = False
    if root != 2:
        dense, good = quick_root(q, sites, nd, na, A, b, low if weak else DENSE * b, 0 if weak else 1, 0.0)
        if not good or (not weak and dense > THIN * b):
            # Close to where the liquid ends, the cubic with its bonds held fixed may have no liquid root any more.
            Z, found = dense_end(q, sites, nd, na, A, b)
            if found:
                dense, good = Z, True
        if good and root == 1:
            return dense, dense
    if root != 1 or not good:
        if good:
            thin, fine = quick_root(q, sites, nd, na, A, b, high, 0, dense if root == 0 else 1e-300)
        if not fine:
            thin, fine = thin_end(q, sites, nd, na, A, b)
    if root == 2 and not fine:
        dense, good = dense_end(q, sites, nd, na, A, b)
    if not good and not fine:
        return among_packings(q, sites, nd, na, A, b)
    if not good:
        dense = thin
    if not fine:
        thin = dense
    if thin < dense * (1.0 - 1e-6):
        return among_packings(q, sites, nd, na, A, b)
    if thin - dense < 1e-6 * dense:
        thin = dense
    return dense, thin


@inner
def energy(q: F1, sites: F1, nd: int, na: int, A: float, b: float, Z: float, warm: int) -> float:
    """Return A_res/(R T) at a volume, and put the free fractions there in place."""
    sites_at(sites, nd, na, 1.0 / (Z - KAPPA * b), warm)
    ns = nd + na
    return -log(1.0 - b / Z) - A * attraction(q, Z, b) + bond_energy(sites, sites[ns:], ns)


@inner
def selected(q: F1, sites: F1, nd: int, na: int, A: float, b: float, donors: float, root: int) -> float:
    """Return Z of the wanted root; the stable one is that of lower Gibbs energy."""
    low, high = root_pair(q, sites, nd, na, A, b, donors, root)
    if root == 1:
        return low
    if root == 2 or not low < high:
        return high
    dense = energy(q, sites, nd, na, A, b, low, 0) + low - log(low)
    thin = energy(q, sites, nd, na, A, b, high, 0) + high - log(high)
    return low if dense < thin else high
