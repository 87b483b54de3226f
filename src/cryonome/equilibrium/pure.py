"""Saturation of pure fluids from any equation of state, batched."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos import Equation
from .wilson import wilson_ln_k

Array = NDArray[np.float64]

SETTLED = 1e-14
"""Difference of ln fugacity that is round-off."""
APART = 1e-3
"""Difference of the compressibility factors of two roots that are well apart."""


def _rows(eos: Equation, *values: Array) -> tuple[Equation, tuple[int, ...], list[Array]]:
    """Return one-component equations, a row for every value (..., nc) broadcast with the components, and the values
    flat."""
    shape = np.broadcast_shapes(*(v.shape for v in values), eos.Tc.shape)
    index = np.broadcast_to(np.arange(eos.Tc.size).reshape(eos.Tc.shape), shape).reshape(-1)
    flat = [np.broadcast_to(v, shape).reshape(-1).astype(float) for v in values]
    return eos.pure().take(index), shape, flat


def spinodal(eos: Equation, T: Array) -> tuple[Array, Array, Array, Array]:
    """Return the lowest and highest pressure (N,) Pa between which the isotherms T (N,) of one-component mixtures
    have three volumes, and the volumes (N,) m3/mol there.

    dP/dV vanishes on either side of the critical volume; T must be below the critical temperature. An equation whose
    isotherms wind more than once says itself where the outermost turns are."""
    from scipy.optimize.elementwise import find_root

    if hasattr(eos, "spinodal"):
        own: tuple[Array, Array, Array, Array] = eos.spinodal(T)
        return own
    one = np.ones((T.size, 1))
    inside = np.log(eos.pure_critical()[2][:, 0]) + np.zeros(T.size)
    least = np.log(eos.least_volume(one)) + np.zeros(T.size)
    rows = np.arange(T.size)

    def slope(ln_v: Array, k: Array) -> Array:
        row = k.astype(np.intp)
        states = eos.take(row).at_temperature(T[row])
        return np.asarray(states.pressure_slope(np.exp(ln_v), one[row]) * np.exp(2.0 * ln_v) / T[row])

    ends, volumes = [], []
    for outside in (least + 1e-9, inside + 16.0):
        found = find_root(slope, (inside, outside), args=(rows,), tolerances={"xrtol": 1e-15, "xatol": 1e-15})
        volumes.append(np.exp(found.x))
        ends.append(eos.at_temperature(T).pressure(volumes[-1], one))
    return ends[0], ends[1], volumes[0], volumes[1]


def saturation_pressure(eos: Equation, T: ArrayLike) -> Array:
    """Return the saturation pressure (..., nc), Pa, of every component taken pure, at T (..., 1) K.

    Parameters with a batch axis (N, nc) broadcast with T like any array. Equal fugacity of liquid and vapour by
    Newton steps in ln P inside the spinodal pressures; nan at or above the critical temperature of the component."""
    single, shape, (flat,) = _rows(eos, np.asarray(T, float))
    out = np.full(flat.size, np.nan)
    below = np.flatnonzero(flat < single.pure_critical()[0][:, 0])
    if below.size:
        out[below] = _equal_fugacity(single.take(below), flat[below])
    return out.reshape(shape)


def _equal_fugacity(eos: Equation, T: Array) -> Array:
    one = np.ones((T.size, 1))
    low, high = spinodal(eos, T)[:2]
    top = np.log(high)
    bottom = np.where(low > 0.0, np.log(np.maximum(low, 1e-300)), top - 120.0)
    wilson = wilson_ln_k(eos.Tc, eos.Pc, eos.omega, T, np.ones(T.size))[:, 0]
    ln_p = np.where((wilson > bottom) & (wilson < top), wilson, 0.5 * (bottom + top))
    ln_p = np.maximum(ln_p, top - 100.0)
    for _ in range(100):
        state = eos.prepare(T, np.exp(ln_p))
        f_l, z_l = state.ln_phi(one, "liquid")
        f_v, z_v = state.ln_phi(one, "vapour")
        f = (f_l - f_v)[:, 0]
        # f falls with ln P; its zero is the saturation point.
        bottom, top = np.where(f > 0.0, ln_p, bottom), np.where(f > 0.0, top, ln_p)
        with np.errstate(divide="ignore", invalid="ignore"):
            new = ln_p - f / (z_l - z_v)
        new = np.where((new > bottom) & (new < top), new, 0.5 * (bottom + top))
        # At the zero a step within round-off would leave the bracket, and start the bisection anew.
        new = np.where((z_l < z_v) & (np.abs(f) < SETTLED), ln_p, new)
        moved = np.abs(new - ln_p).max()
        ln_p = new
        if moved < 1e-14:
            break
    return np.asarray(np.exp(ln_p))


def boiling_temperature(eos: Equation, P: ArrayLike) -> Array:
    """Return the saturation temperature (..., nc), K, of every component taken pure, at P (..., 1) Pa.

    Secants in 1/T, in which ln P is nearly linear, on the fugacities of both roots at P; where a root is missing on the
    way, a root search on the saturation pressure. nan at or above the critical pressure.
    """
    from scipy.optimize.elementwise import find_root

    single, shape, (flat,) = _rows(eos, np.asarray(P, float))
    Tc, Pc = (v[:, 0] + np.zeros(flat.size) for v in single.pure_critical()[:2])
    out = np.full(flat.size, np.nan)
    below = np.flatnonzero(Pc > flat)
    if below.size == 0:
        return out.reshape(shape)
    out[below] = _by_secants(single.take(below), Tc[below], Pc[below], flat[below])
    below = below[np.isnan(out[below])]
    if below.size == 0:
        return out.reshape(shape)

    def excess(inverse: Array, k: Array, target: Array) -> Array:
        return np.log(_equal_fugacity(single.take(k.astype(np.intp)), 1.0 / inverse)) - target

    ends = 1.0 / (Tc[below] * (1.0 - 1e-7)), 1.0 / (0.2 * Tc[below])
    found = find_root(excess, ends, args=(below, np.log(flat[below])), tolerances={"fatol": 1e-13, "xrtol": 1e-15})
    out[below] = np.where(found.success, 1.0 / found.x, np.nan)
    return out.reshape(shape)


def _by_secants(eos: Equation, Tc: Array, Pc: Array, P: Array) -> Array:
    """Return boiling temperatures (N,) K by secants from Wilson's estimate, nan where they do not come in."""
    one = np.ones((P.size, 1))
    omega = eos.omega[:, 0] + np.zeros(P.size)
    x = np.maximum(1.0 - np.log(P / Pc) / (5.373 * (1.0 + omega)), 1.0 + 1e-6) / Tc

    def off(x: Array) -> Array:
        state = eos.prepare(1.0 / x, P)
        f_l, z_l = state.ln_phi(one, "liquid")
        f_v, z_v = state.ln_phi(one, "vapour")
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.asarray(np.where(z_v > z_l + APART, (f_l - f_v)[:, 0] / (z_v - z_l), np.nan))

    before, last = x * (1.0 + 1e-4), off(x * (1.0 + 1e-4))
    now = off(x)
    for _ in range(12):
        with np.errstate(divide="ignore", invalid="ignore"):
            move = -now * (x - before) / (now - last)
        still = np.abs(now) < SETTLED
        before, last = x, now
        x = np.where(still, x, x + np.clip(move, -0.2 * x, 0.2 * x))
        if (still | np.isnan(now)).all() or (np.abs(x - before) <= 2e-16 * x).all():
            break
        now = off(x)
    return np.asarray(np.where(np.abs(now) < 1e-12, 1.0 / x, np.nan))
