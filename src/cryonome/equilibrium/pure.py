"""Saturation of a pure fluid from an equation of state, batched."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..constants import R
from ..eos.cubic import CubicEos

Array = NDArray[np.float64]


def spinodal_pressures(eos: CubicEos, T: Array) -> tuple[Array, Array]:
    """Return the lowest and highest pressure (..., nc) between which the isotherm T (..., 1) has three volumes.

    Bisection on dP/dV = 0 on either side of the critical volume; T must be below every critical temperature.
    """
    form = eos.form
    b = eos.b
    alpha, _ = eos.sqrt_alpha(T)
    a = eos.a_critical * alpha**2
    shape = np.broadcast_shapes(T.shape, b.shape)

    def slope(v: Array) -> Array:
        q = (v + form.delta1 * b) * (v + form.delta2 * b)
        return np.asarray(-R * T / (v - b) ** 2 + a * (2.0 * v + (form.delta1 + form.delta2) * b) / q**2)

    def pressure(v: Array) -> Array:
        return np.asarray(R * T / (v - b) - a / ((v + form.delta1 * b) * (v + form.delta2 * b)))

    middle = np.broadcast_to(form.critical_volume_ratio * b, shape)
    ends = []
    for outer in (1.0 + 1e-9, 1e7):
        inside, outside = middle.copy(), np.broadcast_to(outer * b, shape).copy()
        for _ in range(80):
            v = np.sqrt(inside * outside)
            rising = slope(v) > 0.0
            inside, outside = np.where(rising, v, inside), np.where(rising, outside, v)
        ends.append(pressure(np.sqrt(inside * outside)))
    return ends[0], ends[1]


def saturation_pressure(eos: CubicEos, T: ArrayLike) -> Array:
    """Return the saturation pressure (..., nc), Pa, of every component taken pure, at T (..., 1) K.

    Equal fugacity of liquid and vapour by Newton steps in ln P inside the spinodal pressures; nan at or above
    the critical temperature of the component.
    """
    T = np.asarray(T, float)
    T, Tc = np.broadcast_arrays(T, eos.Tc)
    shape = T.shape
    flat = np.ravel(T), np.ravel(Tc)
    below = flat[0] < flat[1]
    out = np.full(flat[0].size, np.nan)
    if below.any():

        def column(v: Array) -> Array:
            return np.ravel(np.broadcast_to(v, shape))[below][:, None]

        n = int(below.sum())
        single = CubicEos(eos.form, column(eos.Tc), column(eos.Pc), column(eos.omega), np.zeros((1, 1)))
        out[below] = _maxwell(single, flat[0][below][:, None], np.ones((n, 1)))
    return out.reshape(shape)


def _maxwell(eos: CubicEos, T: Array, one: Array) -> Array:
    low, high = spinodal_pressures(eos, T)
    top = np.log(high[:, 0])
    bottom = np.where(low[:, 0] > 0.0, np.log(np.maximum(low[:, 0], 1e-300)), top - 120.0)
    wilson = np.log(eos.Pc[:, 0]) + 5.373 * (1.0 + eos.omega[:, 0]) * (1.0 - eos.Tc[:, 0] / T[:, 0])
    ln_p = np.where((wilson > bottom) & (wilson < top), wilson, 0.5 * (bottom + top))
    ln_p = np.maximum(ln_p, top - 100.0)
    for _ in range(100):
        state = eos.prepare(T[:, 0], np.exp(ln_p))
        f_l, z_l = state.ln_phi(one, "liquid")
        f_v, z_v = state.ln_phi(one, "vapour")
        f = (f_l - f_v)[:, 0]
        # f falls with ln P; its zero is the saturation point.
        bottom, top = np.where(f > 0.0, ln_p, bottom), np.where(f > 0.0, top, ln_p)
        with np.errstate(divide="ignore", invalid="ignore"):
            new = ln_p - f / (z_l - z_v)
        new = np.where((new > bottom) & (new < top), new, 0.5 * (bottom + top))
        moved = np.abs(new - ln_p).max()
        ln_p = new
        if moved < 1e-14:
            break
    return np.asarray(np.exp(ln_p))


def boiling_temperature(eos: CubicEos, P: ArrayLike) -> Array:
    """Return the saturation temperature (..., nc), K, of every component taken pure, at P (..., 1) Pa.

    Bisection then secant on ln P against 1/T; nan at or above the critical pressure.
    """
    P = np.asarray(P, float)
    lo = np.broadcast_to(0.2 * eos.Tc, np.broadcast_shapes(P.shape, eos.Tc.shape)).copy()
    hi = np.broadcast_to(eos.Tc * (1.0 - 1e-7), lo.shape).copy()
    target = np.log(P)
    x0, x1 = 1.0 / hi, 1.0 / lo
    y0 = np.log(saturation_pressure(eos, hi)) - target
    y1 = np.log(saturation_pressure(eos, lo)) - target
    for _ in range(60):
        # Regula falsi with the Illinois weight: ln P is nearly linear in 1/T.
        with np.errstate(invalid="ignore", divide="ignore"):
            x = (x0 * y1 - x1 * y0) / (y1 - y0)
        x = np.where(y1 == y0, x1, x)
        y = np.log(saturation_pressure(eos, 1.0 / x)) - target
        same = y * y1 > 0.0
        x0, y0 = np.where(same, x0, x1), np.where(same, 0.5 * y0, y1)
        x1, y1 = x, y
        if np.nanmax(np.abs(y), initial=0.0) < 1e-13:
            break
    return np.asarray(np.where(eos.Pc > P, 1.0 / x1, np.nan))
