"""Where the lines of an envelope start: points of given vapour fraction at low pressure, found without a line to
follow."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .flash import flash_pt
from .quality import correct
from .wilson import wilson_point

Array = NDArray[np.float64]

P_MIN = 5.0e3
P_MAX = 2.0e8
STARTS = (P_MIN, 5.0e4, 3.0e5, 1.0e6, 3.0e6)
OWN_DEW = 50.0
"""K. How far below the dew point found a component's own is looked for, by an estimate that errs by less."""
BUBBLE_TEMPERATURES = (300.0, 230.0)
"""K. Where a second end of an envelope is tried first."""


def start_points(
    eos: Equation, z: Array, beta: Array, pressures: tuple[float, ...], watch: Watch = UNWATCHED
) -> tuple[Array, NDArray[np.bool_]]:
    """Return unknowns (N, nc + 2) at one of the ``pressures`` (Pa), the first that works, and which converged (N,).

    Wilson's ratios give T by the phase-fraction equation, then the full equations are solved; where that fails at every
    pressure, flashes at the first one bracket the fraction.
    """
    n, nc = z.shape
    watch = watch.silent()
    found, ok = np.full((n, nc + 2), np.nan), np.zeros(n, dtype=bool)

    def settle(rows: NDArray[np.intp], u: Array, most: int) -> None:
        spec = np.full(rows.size, nc + 1)
        points = correct(eos, z[rows], beta[rows], u, spec, max_iterations=most, largest_step=1.0, watch=watch)
        good = points.converged & (points.volume > 0.5)
        found[rows[good]], ok[rows[good]] = points.u[good], True

    inner = np.flatnonzero((beta > 0.0) & (beta < 1.0))
    if inner.size and (z == z[0]).all():
        guess, near = _among_flashes(eos, z[0], beta[inner], pressures[0], watch)
        if near.any():
            settle(inner[near], guess[near], 12)
    for P in pressures:
        waiting = np.flatnonzero(~ok)
        if waiting.size:
            settle(waiting, wilson_point(eos, z[waiting], beta[waiting], np.full(waiting.size, P), False), 40)
    for P in (pressures[-1], pressures[0]):
        waiting = np.flatnonzero(~ok)
        guesses = _start_by_flashes(eos, z[waiting], beta[waiting], P, watch) if waiting.size else {}
        if guesses:
            settle(waiting[list(guesses)], np.array(list(guesses.values())), 40)
    return found, ok


def dew_starts(eos: Equation, z: Array, pressures: tuple[float, ...], watch: Watch = UNWATCHED) -> list[Array]:
    """Return unknowns (nc + 2,) of dew points of z (nc,) at low pressure, the hottest first: there may be one for
    each liquid.

    Wilson's ratios start from one ideal liquid of all components. What does not mix with the others (water, methanol)
    has a dew point of its own, hotter than the one found so: its liquid is started as the pure component by Raoult's
    law."""
    found, ok = start_points(eos, z[None], np.ones(1), pressures, watch)
    starts = [found[0]] if ok[0] else []
    P = pressures[0]
    if starts and abs(np.exp(starts[0][-1]) / P - 1.0) > 0.1:
        return starts  # it lies at another pressure: its temperature tells nothing here
    settled = float(np.exp(starts[0][-2])) if starts else 0.0
    _, T, ln_k = _lone_liquids(eos, z, P, settled)
    alone = settled + 0.5 < T
    if alone.any():
        n = int(alone.sum())
        guess = np.column_stack([ln_k[alone], np.log(T[alone]), np.full(n, np.log(P))])
        feeds, spec = np.broadcast_to(z, (n, z.size)), np.full(n, z.size + 1)
        points = correct(eos, feeds, np.ones(n), guess, spec, max_iterations=40, largest_step=1.0, watch=watch)
        for u, good in zip(points.u, points.converged & (points.volume > 0.5)):
            if good and all(abs(u[-2] - other[-2]) > 1e-3 for other in starts):
                starts.append(u)
    return sorted(starts, key=lambda u: -float(u[-2]))


def _lone_liquids(eos: Equation, z: Array, P: float, settled: float) -> tuple[NDArray[np.intp], Array, Array]:
    """Return for the components that may condense alone from the vapour z (nc,) near or above the temperature
    ``settled`` K their index (n,), the temperature K where each does, nan where it does not, and ln(z/x) there (n,
    nc).

    A pure liquid i condenses where z_i phi_i of the vapour is phi_i of the liquid; the others dissolve in it by the
    same rule."""
    from scipy.optimize.elementwise import find_root

    nc = z.size
    with np.errstate(divide="ignore"):
        raoult = eos.Tc / (1.0 - np.log(z * P / eos.Pc) / (5.373 * (1.0 + eos.omega)))
    rows = np.flatnonzero((z > 0.0) & (raoult > max(settled, float(raoult.max())) - OWN_DEW))
    pure = np.eye(nc)[rows]

    def fugacities(T: Array, k: NDArray[np.intp]) -> tuple[Array, Array]:
        state = eos.prepare(T, np.full(T.size, P))
        return state.ln_phi(np.broadcast_to(z, (T.size, nc)), "vapour")[0], state.ln_phi(pure[k], "liquid")[0]

    def condenses(ln_T: Array, row: NDArray[np.number]) -> Array:
        k = row.astype(np.intp)
        vapour, liquid = fugacities(np.exp(ln_T), k)
        own = np.arange(k.size), rows[k]
        return np.asarray(np.log(z[rows[k]]) + vapour[own] - liquid[own])

    start = np.log(raoult[rows])
    found = find_root(condenses, (start - 0.35, start + 0.35), args=(np.arange(rows.size),))
    ok = found.success
    T = np.where(ok, np.exp(np.where(ok, found.x, 0.0)), np.nan)
    ln_k = np.zeros((rows.size, nc))
    if ok.any():
        vapour, liquid = fugacities(T[ok], np.flatnonzero(ok))
        ln_k[ok] = np.clip(liquid - vapour, -200.0, 200.0)
    return rows, T, ln_k


def bubble_start(eos: Equation, z: Array) -> tuple[Array, bool]:
    """Return unknowns (nc + 2,) of a bubble point of z (nc,) that is quickly found, and whether one was: at a
    temperature where live oils have one, or at a pressure where dead ones do."""
    nc = z.size
    known = np.array([*BUBBLE_TEMPERATURES, P_MIN, 1e5])
    at_T = np.arange(known.size) < len(BUBBLE_TEMPERATURES)
    feeds, beta = np.broadcast_to(z, (known.size, nc)), np.zeros(known.size)
    guess = np.where(
        at_T[:, None], wilson_point(eos, feeds, beta, known, True), wilson_point(eos, feeds, beta, known, False)
    )
    spec = np.where(at_T, nc, nc + 1)
    points = correct(eos, feeds, beta, guess, spec, max_iterations=22, largest_step=1.0)
    P = np.exp(points.u[:, -1])
    good = np.flatnonzero(points.converged & (points.volume > 0.5) & (P >= P_MIN) & (P < P_MAX))
    return (points.u[good[0]], True) if good.size else (np.full(nc + 2, np.nan), False)


def _among_flashes(eos: Equation, z: Array, beta: Array, P: float, watch: Watch) -> tuple[Array, NDArray[np.bool_]]:
    """Return unknowns (M, nc + 2) near the fractions ``beta`` (M,) of one feed z (nc,) at pressure P, and where there
    are any, from one batch of flashes over temperature: two neighbours between which a fraction lies are
    interpolated."""
    ends = np.array([0.0, 1.0])
    reach = np.exp(wilson_point(eos, np.stack([z, z]), ends, np.full(2, P), False)[:, -2])
    T = np.geomspace(0.8 * reach.min(), 1.1 * reach.max(), ALONG)
    flash = flash_pt(eos, T, np.full(ALONG, P), z, Watch(watch.cancelled))
    usable = flash.split & flash.converged & (flash.Z[:, 0] > 0.2)
    with np.errstate(divide="ignore", invalid="ignore"):
        ln_k = np.where((z > 0.0) & usable[:, None], np.log(flash.light / flash.heavy), 0.0)
    u = np.column_stack([ln_k, np.log(T), np.full(ALONG, np.log(P))])
    fraction = flash.light_fraction
    out, near = np.full((beta.size, z.size + 2), np.nan), np.zeros(beta.size, dtype=bool)
    for row, wanted in enumerate(beta):
        below = (fraction[:-1] <= wanted) & (fraction[1:] > wanted) & usable[:-1] & usable[1:]
        if below.any():
            i = int(np.argmax(below))
            part = (wanted - fraction[i]) / (fraction[i + 1] - fraction[i])
            out[row], near[row] = (1.0 - part) * u[i] + part * u[i + 1], True
    return out, near


ALONG = 40
"""Temperatures at which a feed is flashed to find where its quality lines begin."""


def _start_by_flashes(eos: Equation, z: Array, beta: Array, P: float, watch: Watch) -> dict[int, Array]:
    """Return by row the unknowns (nc + 2,) near the fractions ``beta`` (N,) of feeds z (N, nc) at pressure P, from
    rounds of flashes over temperature that close in on each fraction; all rows of a round are one batch."""
    n, count = beta.size, 16
    lo, hi = np.full(n, 40.0), np.full(n, 1800.0)
    best: dict[int, Array] = {}
    closest = np.full(n, np.inf)
    for _ in range(6):
        T = np.geomspace(lo, hi, count, axis=-1)
        flash = flash_pt(eos, T, P, z[:, None, :], watch)
        fraction = np.where(flash.converged, flash.light_fraction, np.nan)
        usable = flash.split & flash.converged & (flash.Z[..., 0] > 0.2)
        distance = np.where(usable, np.abs(fraction - beta[:, None]), np.inf)
        for row in range(n):
            i = int(np.argmin(distance[row]))
            if distance[row, i] < closest[row]:
                closest[row] = distance[row, i]
                with np.errstate(divide="ignore", invalid="ignore"):
                    ln_k = np.where(z[row] > 0.0, np.log(flash.light[row, i] / flash.heavy[row, i]), 0.0)
                best[row] = np.concatenate([ln_k, [np.log(T[row, i]), np.log(P)]])
            vapour = (fraction[row] > beta[row]) | (~flash.split[row] & (fraction[row] > 0.5))
            first = int(np.argmax(vapour)) if vapour.any() else count - 1
            lo[row], hi[row] = T[row, max(first - 1, 0)], T[row, min(first, count - 1)]
        # A fraction this near is a good enough start for Newton's method.
        if (closest < 0.02 * np.minimum(beta, 1.0 - beta) + 1e-6).all():
            break
    return best
