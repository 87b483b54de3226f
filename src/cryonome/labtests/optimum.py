"""The pressures of a train of separators that give most stock-tank oil."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..watch import UNWATCHED, Watch
from .fluid import LabFluid
from .separation import Separation, separate

Array = NDArray[np.float64]

FIRST = 13
"""Pressures of each free stage that are tried at first, all with all; more stages take fewer."""
ROUNDS = 7
SHRINK = 0.45
CURVE = 41
AGAIN = 4
"""Times that a best train is held against its own curves."""


@dataclass(frozen=True)
class Optimum:
    """The best pressures (s,) Pa of the free stages with the train they give, and for each stage a curve: pressures
    (s, k) Pa and the liquid (s, k), m3 of stock-tank oil per mole of feed, with the other stages at their best."""

    P: Array
    train: Separation
    curve_P: Array
    curve_liquid: Array


def optimum(fluid: LabFluid, T: Array, tank: float, low: float, high: float, watch: Watch = UNWATCHED) -> Optimum:
    """Return the best pressures of all stages but the last, at T (s + 1,) K, between ``low`` and ``high`` Pa and
    falling along the train; the last is at ``tank`` Pa.

    A grid of the logarithms of all free pressures, refined about its best point; every round is one batch. Raises
    Cancelled."""
    s = T.size - 1
    each = {1: 3 * FIRST, 2: FIRST}.get(s, 7)
    centre, half = np.full(s, 0.5 * (np.log(low) + np.log(high))), np.full(s, 0.5 * np.log(high / low))
    best: tuple[float, Array] = (-np.inf, centre)
    for turn in range(ROUNDS):
        watch.at(0.85 * turn / ROUNDS)
        axes = [np.clip(np.linspace(c - h, c + h, each), np.log(low), np.log(high)) for c, h in zip(centre, half)]
        grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, s)
        falling = (np.diff(grid, axis=1) <= 1e-12).all(axis=1)
        grid = grid[falling]
        liquid = _liquid(fluid, T, np.exp(grid), tank)
        k = int(np.nanargmax(liquid)) if np.isfinite(liquid).any() else 0
        if np.isfinite(liquid[k]) and liquid[k] >= best[0]:
            best = float(liquid[k]), grid[k]
        centre, half = best[1], SHRINK * half
    P, most = np.exp(best[1]), best[0]
    for turn in range(AGAIN):
        curve_P, curve = _curves(fluid, T, P, tank, low, high)
        watch.at(0.85 + 0.15 * (turn + 1) / AGAIN)
        # The best is put back: where its own curves know better, it moves there.
        value = np.nan_to_num(curve, nan=-np.inf)
        j, k = divmod(int(np.argmax(value)), CURVE)
        if not value[j, k] > most * (1.0 + 1e-7):
            break
        P, most = P.copy(), float(value[j, k])
        P[j] = curve_P[j, k]
    return Optimum(P, separate(fluid, T, np.append(P, tank)), curve_P, curve)


def _curves(fluid: LabFluid, T: Array, P: Array, tank: float, low: float, high: float) -> tuple[Array, Array]:
    """Return pressures and liquid (s, CURVE) along each stage, the others as they are."""
    s = P.size
    curve_P, curve = np.full((s, CURVE), np.nan), np.full((s, CURVE), np.nan)
    for j in range(s):
        above, below = P[j - 1] if j else high, P[j + 1] if j + 1 < s else low
        curve_P[j] = np.geomspace(below, above, CURVE)
        tried = np.tile(P, (CURVE, 1))
        tried[:, j] = curve_P[j]
        curve[j] = _liquid(fluid, T, tried, tank)
    return curve_P, curve


def _liquid(fluid: LabFluid, T: Array, P: Array, tank: float) -> Array:
    """Return stock-tank oil (m,) m3 per mole of feed for free pressures P (m, s) Pa; nan without any."""
    m = P.shape[0]
    whole = np.column_stack([P, np.full(m, tank)])
    return separate(fluid.take(np.zeros(m, np.intp)), np.tile(T, (m, 1)), whole).tank_volume
