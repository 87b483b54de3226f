"""Every root of many functions of one variable at once: a grid, sign changes, near misses, brackets."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..watch import UNWATCHED, Watch
from .measured import ACCEPTED

Array = NDArray[np.float64]
Rows = NDArray[np.intp]

FINE = 12
"""Points on either side of a near miss that are looked at."""
LEVELS = 3
"""How often a near miss is looked at more closely."""


def every_root(
    off: Callable[[Array, Rows], Array], base: Array, n: int, watch: Watch = UNWATCHED
) -> tuple[Array, Rows]:
    """Return the roots (M,) of n functions along ``base`` (k,), rising, with the function each belongs to (M,), sorted.

    ``off(x, rows)`` gives the functions ``rows`` (m,) at x (m,), nan where they are not defined. Where one comes near
    zero and turns back between two points of the grid it is looked at more closely. Jumps through zero are not roots.
    """
    from scipy.optimize.elementwise import find_root

    k = base.size
    watch.at(0.05)
    values: Array = off(np.tile(base, n), np.repeat(np.arange(n), k)).reshape(n, k)
    watch.at(0.5)
    lows, highs, owner = _brackets(np.tile(base, (n, 1)), values)
    found = [(lows, highs, owner)]
    x: Array = np.tile(base, (n, 1))
    rows_of: Rows = np.arange(n)
    for _ in range(LEVELS):
        rows, places = _turns(values)
        if rows.size == 0:
            break
        left, right = x[rows, places - 1], x[rows, places + 1]
        rows_of = rows_of[rows]
        x = left[:, None] + (right - left)[:, None] * np.linspace(0.0, 1.0, 2 * FINE + 1)
        values = off(x.ravel(), np.repeat(rows_of, x.shape[1])).reshape(x.shape)
        low, high, which = _brackets(x, values)
        found.append((low, high, rows_of[which]))
    watch.at(0.6)
    lows, highs, owner = (np.concatenate(v) for v in zip(*found))
    if lows.size == 0:
        return np.empty(0), np.empty(0, dtype=np.intp)

    def at(v: Array, row: Rows) -> Array:
        return off(v, row.astype(np.intp))

    result = find_root(at, (lows, highs), args=(owner,), tolerances={"xatol": 1e-15, "xrtol": 1e-15})
    good = np.abs(result.f_x) < ACCEPTED
    roots, owner = result.x[good], owner[good]
    order = np.lexsort((roots, owner))
    roots, owner = roots[order], owner[order]
    fresh = np.ones(roots.size, dtype=bool)
    fresh[1:] = (np.diff(owner) > 0) | (np.diff(roots) > 1e-9 * np.abs(roots[1:]))
    return roots[fresh], owner[fresh]


def _brackets(x: Array, values: Array) -> tuple[Array, Array, Rows]:
    """Return where ``values`` over ``x`` (M, k) change sign: from, to and row."""
    with np.errstate(invalid="ignore"):
        rows, places = np.nonzero((values[:, 1:] * values[:, :-1] < 0.0) | (values[:, :-1] == 0.0))
    return x[rows, places], x[rows, places + 1], rows


def _turns(values: Array) -> tuple[Rows, Rows]:
    """Return row and place where a function comes near zero and turns back without reaching it."""
    size = np.abs(values)
    with np.errstate(invalid="ignore"):
        inner = (size[:, 1:-1] < size[:, :-2]) & (size[:, 1:-1] < size[:, 2:])
        inner &= (values[:, 1:-1] * values[:, :-2] > 0.0) & (values[:, 1:-1] * values[:, 2:] > 0.0)
    rows, places = np.nonzero(inner)
    return rows, places + 1


def first_of(roots: Array, owner: Rows, n: int) -> tuple[NDArray[np.bool_], Array, list[Array]]:
    """Return for n functions whether any root was found, the lowest (nan without one), and the others of each."""
    there, lowest = np.zeros(n, dtype=bool), np.full(n, np.nan)
    rest: list[Array] = [np.empty(0)] * n
    for row in np.unique(owner).tolist():
        own = roots[owner == row]
        there[row], lowest[row], rest[row] = True, own[0], own[1:]
    return there, lowest, rest
