"""Methane as the reference fluid of corresponding states: its density and its viscosity.

Density: the modified Benedict-Webb-Rubin equation of McCarty, Cryogenics 14, 276 (1974). Viscosity: Hanley, McCarty
and Haynes, Cryogenics 15, 413 (1975), with the second dense-fluid term of Pedersen and Fredenslund, Chem. Eng. Sci.
42, 182 (1987), below the melting temperature, where corresponding states of heavy oils lie. Both for 91 to 500 K and
2000 atm; the extrapolation to 50 K is that of the 1987 paper. Arrays (N,)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..constants import ATM

Array = NDArray[np.float64]

T_CRITICAL = 190.555
"""K."""
P_CRITICAL = 4.5988e6
"""Pa."""
RHO_CRITICAL = 10.15
"""mol/L."""
MOLAR_MASS = 16.043e-3
"""kg/mol."""

_R = 0.08205616
_GAMMA = 0.0096
_A = (
    -1.8439486666e-2, 1.0510162064, -16.057820303, 848.44027562, -42738.409106, 7.6565285254e-4, -0.48360724197, 85.195473835,
    -16607.434721, -3.7521074532e-5, 0.028616309259, -2.8685285973, 1.1906973942e-4, -8.5315715699e-3, 3.8365063841,
    2.4986828379e-5, 5.7974531455e-6, -7.1648329297e-3, 1.2577853784e-4, 22240.102466, -1480051.2328, 50.498054887, 1642837.5992,
    0.21325387196, 37.791273422, -1.1857016815e-5, -31.630780767, -4.1006782941e-6, 1.4870043284e-3, 3.1512261532e-9,
    -2.1670774745e-6, 2.4000551079e-5,
)  # fmt: skip
"""atm, mol/L and K."""

_GAS = (-2.090975e5, 2.647269e5, -1.472818e5, 4.716740e4, -9.491872e3, 1.219979e3, -9.627993e1, 4.274152, -8.141531e-2)
_DENSE = (-10.3506, 17.5716, -3019.39, 188.730, 0.0429036, 145.290, 6127.68)
_COLD = (-9.74602, 18.0834, -4126.66, 44.6055, 0.976544, 81.8134, 15649.9)
_MELTING = 91.0

LEAST_T = 40.0
"""K. Colder corresponding temperatures count as this."""
MOST_RHO = 33.0
"""mol/L. Beyond it the equation was never fitted."""


def _isotherm(T: Array) -> list[Array]:
    """Return the coefficients of rho^2 ... rho^9 and, with the exponential, of rho^3 ... rho^13, each (N,)."""
    a, i1, i2 = _A, 1.0 / T, 1.0 / T**2
    i3, i4 = i1 * i2, i2 * i2
    plain = [
        a[0] * T + a[1] * np.sqrt(T) + a[2] + a[3] * i1 + a[4] * i2,
        a[5] * T + a[6] + a[7] * i1 + a[8] * i2,
        a[9] * T + a[10] + a[11] * i1,
        np.full_like(T, a[12]),
        a[13] * i1 + a[14] * i2,
        a[15] * i1,
        a[16] * i1 + a[17] * i2,
        a[18] * i2,
    ]
    damped = [
        a[19] * i2 + a[20] * i3,
        a[21] * i2 + a[22] * i4,
        a[23] * i2 + a[24] * i3,
        a[25] * i2 + a[26] * i4,
        a[27] * i2 + a[28] * i3,
        a[29] * i2 + a[30] * i3 + a[31] * i4,
    ]
    return plain + damped


def _pressure(rho: Array, T: Array, c: list[Array]) -> tuple[Array, Array]:
    """Return P atm and dP/drho at rho (N,) mol/L."""
    plain, damped = c[:8], c[8:]
    square = rho * rho
    decay = np.exp(-_GAMMA * square)
    P, slope = _R * T, _R * T
    power = rho
    for n, k in enumerate(plain, 2):
        term = k * power
        P, slope = P + term, slope + n * term
        power = power * rho
    power = square * decay
    for n, k in zip(range(3, 15, 2), damped):
        term = k * power
        P, slope = P + term, slope + (n - 2.0 * _GAMMA * square) * term
        power = power * square
    return P * rho, slope


def density(T: Array, P: Array, liquid: NDArray[np.bool_]) -> Array:
    """Return the density (N,) mol/L at T K and P Pa: from the dense end where ``liquid`` and below Tc, else from the
    thin end.

    Newton's method in rho, safeguarded by the bracket between nothing and the densest state.
    """
    T = np.maximum(T, LEAST_T)
    target = P / ATM
    c = _isotherm(T)
    dense = (T < T_CRITICAL) & liquid
    low, high = np.zeros_like(T), np.full_like(T, MOST_RHO)
    # Below Tc the two branches are kept apart at the rectilinear diameter's side of the critical density.
    low = np.where(dense, RHO_CRITICAL, low)
    high = np.where((T < T_CRITICAL) & ~liquid, RHO_CRITICAL, high)
    rho = np.where(dense, 27.0, np.minimum(target / (_R * T), 0.9 * high))
    found = rho.copy()
    live = np.arange(rho.size)
    for _ in range(60):
        value, slope = _pressure(rho, T, c)
        miss = value - target
        low, high = np.where(miss < 0.0, rho, low), np.where(miss < 0.0, high, rho)
        with np.errstate(divide="ignore", invalid="ignore"):
            new = rho - miss / slope
        new = np.where((slope > 0.0) & (new >= low) & (new <= high), new, 0.5 * (low + high))
        found[live] = new
        # A state that is none has no density that could settle.
        going = np.abs(new - rho) >= 1e-11
        if not going.any():
            break
        rho = new
        if np.count_nonzero(going) < 0.7 * live.size:
            live = live[going]
            rho, T, target, low, high = (v[going] for v in (rho, T, target, low, high))
            c = [k[going] for k in c]
    return found


def vapour_pressure(T: Array) -> Array:
    """Return the vapour pressure, Pa, at T (N,) K, that at the critical temperature beyond it; Setzmann and Wagner,
    J. Phys. Chem. Ref. Data 20, 1061 (1991), eq. 3.2."""
    t = np.clip(T, LEAST_T, 190.564)
    x = 1.0 - t / 190.564
    return np.asarray(
        4.5992e6 * np.exp(190.564 / t * (-6.036219 * x + 1.409353 * x**1.5 - 0.4945199 * x**2 - 1.443048 * x**4.5))
    )


def viscosity(T: Array, rho: Array) -> Array:
    """Return the viscosity (N,) Pa s at T K and rho mol/L."""
    T = np.maximum(T, LEAST_T)
    root = np.cbrt(T)
    thin = sum(g * root ** (i - 3) for i, g in enumerate(_GAS))
    first = 1.696985927 - 0.133372346 * (1.4 - np.log(T / 168.0)) ** 2
    mass = rho * MOLAR_MASS
    part = (rho - RHO_CRITICAL) / RHO_CRITICAL

    def dense(j: tuple[float, ...]) -> Array:
        inner = mass**0.1 * (j[1] + j[2] / T**1.5) + part * np.sqrt(mass) * (j[4] + j[5] / T + j[6] / T**2)
        return np.asarray(np.exp(j[0] + j[3] / T) * np.expm1(inner))

    weight = 0.5 * (1.0 + np.tanh(T - _MELTING))
    return np.asarray(1e-7 * (thin + first * mass + weight * dense(_DENSE) + (1.0 - weight) * dense(_COLD)))
