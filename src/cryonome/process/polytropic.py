"""The path of a compression or an expansion of a real fluid, through whatever phases it meets.

Along it dh = v dP / eta in compressors and pumps, dh = eta v dP in expanders: the definition of the polytropic
efficiency (Huntington, 1985, J. Eng. Gas Turbines Power 107, 872, eq. 1 to 3, who integrates it by steps). Here the
steps are segments in ln P with a polynomial of degree eight in each (collocation at Chebyshev points), halved until
the outlet's enthalpy stands; a segment that passes a dew or bubble point is so made short."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..watch import UNWATCHED, Watch
from .medium import Medium, Stream, found

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

DEGREE = 8
"""Of the polynomial in a segment."""
SEGMENTS = (1, 2, 4, 8, 16, 32)
AGREED = 1e-9
"""Difference of the work by so many segments and by half as many, relative, at which it stands."""
ROUGH = 3e-6
"""The same for a path along which a temperature does not fix the state."""
GOOD = 1e-5
"""The same, at which it is still told as found."""
ROUNDS = 30
LONGEST = 0.15
"""Largest relative step of a temperature."""


@dataclass(frozen=True)
class Path:
    """A path's end: ``outlet``; ``head`` (N,) J/mol, the integral of v dP along it; ``work`` (N,) J/mol, what the
    fluid takes up, negative in an expansion; ``off`` (N,) the relative difference to half as many segments; ``found``
    (N,)."""

    outlet: Stream
    head: Array
    work: Array
    off: Array
    found: Mask
    slow: bool = False
    """Whether it was found by substitution, where a temperature does not fix the state."""


def follow(
    medium: Medium, inlet: Stream, P2: Array, multiplier: Array, watch: Watch = UNWATCHED, finest: int = SEGMENTS[-1]
) -> Path:
    """Return the path from ``inlet`` to P2 Pa (N,) with dh = ``multiplier`` v dP: 1/eta where work is put in, eta
    where it is taken out, by no more than ``finest`` segments. Raises Cancelled."""
    T: Array | None = None
    before: Array | None = None
    off = np.full(P2.shape, np.inf)
    old = np.zeros(0)
    for number, segments in enumerate(s for s in SEGMENTS if s <= finest):
        watch.check()
        x, A = _grid(segments)
        start = _estimate(inlet, P2, multiplier, x) if T is None else np.stack([np.interp(x, old, t) for t in T])
        states, T, head, good, slow = _collocated(medium, inlet, P2, multiplier, x, A, start)
        old = x
        if before is not None:
            with np.errstate(invalid="ignore", divide="ignore"):
                off = np.where(head == before, 0.0, np.abs(head / before - 1.0))
        before = head
        if number and bool((off < (ROUGH if slow else AGREED))[good].all()):
            break
    last = np.arange(P2.size) * x.size + x.size - 1
    outlet = Stream(inlet.flow, states.phases.take(last), {k: v[last] for k, v in states.whole.items()})
    return Path(outlet, head, outlet.h - inlet.h, off, good & (off < GOOD), slow)


def _estimate(inlet: Stream, P2: Array, multiplier: Array, x: Array) -> Array:
    """Return first temperatures (N, J): the slope at the inlet, dT/dP = v (m - 1 + alpha T)/cp, goes on as a power of
    the pressure in gases, straight in liquids."""
    cp, alpha, v, T = inlet.whole["heat_capacity_p"], inlet.whole["thermal_expansion"], inlet.v, inlet.T
    with np.errstate(invalid="ignore"):
        slope = np.where(np.isfinite(cp), v * (multiplier - 1.0 + alpha * T) / cp, 0.0)
    slope = np.nan_to_num(slope)
    ratio = (P2 / inlet.P)[:, None] ** x
    gas = T[:, None] * ratio ** (slope * inlet.P / T)[:, None]
    liquid = T[:, None] + slope[:, None] * inlet.P[:, None] * (ratio - 1.0)
    return np.clip(np.where((alpha * T > 0.5)[:, None], gas, liquid), 60.0, 1400.0)


def _collocated(
    medium: Medium, inlet: Stream, P2: Array, multiplier: Array, x: Array, A: Array, T: Array
) -> tuple[Stream, Array, Array, Mask, bool]:
    """Return the states at nodes ``x`` (J,) of ln P, their temperatures (N, J), the head (N,), what was found (N,)
    and whether it was by substitution, else by Newton's method on all temperatures at once, T (N, J) being estimates."""
    n, J = T.shape
    L = np.log(P2 / inlet.P)
    P = inlet.P[:, None] * np.exp(L[:, None] * x)
    P[:, -1] = P2
    z, flow = np.repeat(inlet.z, J, axis=0), np.repeat(inlet.flow, J)
    T = T.copy()
    T[:, 0] = inlet.T
    done = np.zeros(n, dtype=bool)
    for _ in range(ROUNDS):
        states = medium.at(T.ravel(), P.ravel(), z, flow)
        h, v, cp, alpha = (
            states.whole[k].reshape(n, J) for k in ("enthalpy", "molar_volume", "heat_capacity_p", "thermal_expansion")
        )
        scale = (multiplier * L)[:, None]
        r = h - inlet.h[:, None] - scale * ((v * P) @ A.T)
        J_all = -scale[..., None] * A[None] * (v * alpha * P)[:, None, :]
        J_all[:, np.arange(J), np.arange(J)] += cp
        sound = np.isfinite(r).all(axis=1) & np.isfinite(J_all).all(axis=(1, 2))
        if not sound.all():
            break
        step = np.zeros((n, J))
        step[:, 1:] = np.linalg.solve(J_all[:, 1:, 1:], -r[:, 1:, None])[..., 0]
        done = np.abs(step / T).max(axis=1) < 1e-12
        if done.all():
            break
        T = T + np.clip(step, -LONGEST * T, LONGEST * T)
    slow = not done.all()
    if slow:
        states, T = _by_enthalpies(medium, inlet, multiplier * L, P, A, T, z, flow)
        h, v = (states.whole[k].reshape(n, J) for k in ("enthalpy", "molar_volume"))
        r = h - inlet.h[:, None] - (multiplier * L)[:, None] * ((v * P) @ A.T)
        done = np.abs(r).max(axis=1) < 1e-6 * np.abs(inlet.T * 8.3)
    head = L * ((v * P) @ A.T)[:, -1]
    return states, T, head, done & found(states.phases).reshape(n, J).all(axis=1), slow


def _by_enthalpies(
    medium: Medium, inlet: Stream, scale: Array, P: Array, A: Array, T: Array, z: Array, flow: Array
) -> tuple[Stream, Array]:
    """Return the states at the nodes by substitution on the enthalpies, which hold where a temperature does not fix
    the state, and where Newton's method was thrown off by a change of phases."""
    n, J = P.shape
    base = np.repeat(inlet.h, J)
    v = np.repeat(inlet.v[:, None], J, axis=1) * (inlet.P[:, None] / P) ** np.where(
        (inlet.whole["thermal_expansion"] * inlet.T > 0.5)[:, None], 0.8, 0.0
    )
    h = base.copy()
    for _ in range(60):
        want = base + (scale[:, None] * ((v * P) @ A.T)).ravel()
        states = medium.with_enthalpy(P.ravel(), want, z, flow)
        v = np.where(np.isfinite(states.v), states.v, v.ravel()).reshape(n, J)
        moved = np.nanmax(np.abs(want - h) / (8.3 * np.repeat(inlet.T, J)))
        h = want
        if moved < 1e-9:
            break
    return states, states.T.reshape(n, J)


@lru_cache
def _grid(segments: int) -> tuple[Array, Array]:
    """Return nodes (J,) from 0 to 1 and the matrix (J, J) that integrates from 0 to each of them what is a polynomial
    in every segment."""
    t = 0.5 * (1.0 - np.cos(np.pi * np.arange(DEGREE + 1) / DEGREE))
    # Integrals of Lagrange's polynomials through the nodes, by Legendre's quadrature, exact for this degree.
    g, w = np.polynomial.legendre.leggauss(DEGREE)
    own = np.zeros((DEGREE + 1, DEGREE + 1))
    for k in range(DEGREE + 1):
        others = np.delete(t, k)
        for j in range(DEGREE + 1):
            at = 0.5 * t[j] * (g + 1.0)
            own[j, k] = 0.5 * t[j] * w @ np.prod((at[:, None] - others) / (t[k] - others), axis=1)
    J = segments * DEGREE + 1
    x, A = np.empty(J), np.zeros((J, J))
    for s in range(segments):
        at = slice(s * DEGREE, s * DEGREE + DEGREE + 1)
        x[at] = (s + t) / segments
        rows = np.arange(s * DEGREE + 1, s * DEGREE + DEGREE + 1)
        A[rows] = A[s * DEGREE]
        A[rows[:, None], np.arange(at.start, at.stop)] += own[1:] / segments
    return x, A
