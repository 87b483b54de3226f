"""Carbon dioxide by its reference equation: what the program's densities are held against.

Span and Wagner, J. Phys. Chem. Ref. Data 25, 1509 (1996), eq. 6.5 with table 31: the residual Helmholtz energy over R T as a
function of delta = rho/rho_c and tau = Tc/T. Uncertainty in density 0.03 to 0.05 % up to 30 MPa.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

Array = NDArray[np.float64]

TC, RHO_C, R_MASS = 304.1282, 467.6, 188.9241
"""K, kg/m3, J/(kg K)."""

N = (
    0.38856823203161, 2.9385475942740, -5.5867188534934, -0.76753199592477, 0.31729005580416, 0.54803315897767,
    0.12279411220335, 2.1658961543220, 1.5841735109724, -0.23132705405503, 0.058116916431436, -0.55369137205382,
    0.48946615909422, -0.024275739843501, 0.062494790501678, -0.12175860225246, -0.37055685270086, -0.016775879700426,
    -0.11960736637987, -0.045619362508778, 0.035612789270346, -0.0074427727132052, -0.0017395704902432,
    -0.021810121289527, 0.024332166559236, -0.037440133423463, 0.14338715756878, -0.13491969083286, -0.023151225053480,
    0.012363125492901, 0.0021058321972940, -0.00033958519026368, 0.0055993651771592, -0.00030335118055646,
)  # fmt: skip
D = (1, 1, 1, 1, 2, 2, 3, 1, 2, 4, 5, 5, 5, 6, 6, 6, 1, 1, 4, 4, 4, 7, 8, 2, 3, 3, 5, 5, 6, 7, 8, 10, 4, 8)
T = (
    0,
    0.75,
    1,
    2,
    0.75,
    2,
    0.75,
    1.5,
    1.5,
    2.5,
    0,
    1.5,
    2,
    0,
    1,
    2,
    3,
    6,
    3,
    6,
    8,
    6,
    0,
    7,
    12,
    16,
    22,
    24,
    16,
    24,
    8,
    2,
    28,
    14,
)
C = (0,) * 7 + (1,) * 9 + (2,) * 7 + (3,) * 3 + (4,) * 6 + (5, 6)
BELLS = (
    (-213.65488688320, 2, 1, 25, 325, 1.16), (26641.569149272, 2, 0, 25, 300, 1.19), (-24027.212204557, 2, 1, 25, 300, 1.19),
    (-283.41603423999, 3, 3, 15, 275, 1.25), (212.47284400179, 3, 3, 20, 275, 1.22),
)  # fmt: skip
"""n, d, t, alpha, beta, gamma; epsilon is 1."""
CUSPS = (
    (-0.66642276540751, 0.875, 0.3, 10.0),
    (0.72608632349897, 0.925, 0.3, 10.0),
    (0.055068668612842, 0.875, 1.0, 12.5),
)
"""n, b, B, C; a is 3.5 (3.0 in the last), A 0.7, D 275, beta 0.3."""


def residual(delta: complex, tau: float) -> complex:
    """Return the residual Helmholtz energy over R T; ``delta`` may be complex."""
    out = 0.0
    for n, d, t, c in zip(N, D, T, C, strict=True):
        out += n * delta**d * tau**t * (np.exp(-(delta**c)) if c else 1.0)
    for n, d, t, a, b, g in BELLS:
        out += n * delta**d * tau**t * np.exp(-a * (delta - 1.0) ** 2 - b * (tau - g) ** 2)
    for k, (n, b, big, c) in enumerate(CUSPS):
        square = (delta - 1.0) ** 2
        theta = (1.0 - tau) + 0.7 * square ** (1.0 / 0.6)
        distance = theta**2 + big * square ** (3.0 if k == 2 else 3.5)
        out += n * distance**b * delta * np.exp(-c * square - 275.0 * (tau - 1.0) ** 2)
    return out


def pressure(rho: float, temperature: float) -> float:
    """Return the pressure, Pa, at rho kg/m3 and K; the derivative in density by complex step."""
    delta, step = rho / RHO_C, 1e-20
    slope = np.imag(residual(delta + 1j * step, TC / temperature)) / step
    return float(rho * R_MASS * temperature * (1.0 + delta * slope))


def density(temperature: float, P: float, near: float) -> float:
    """Return the density, kg/m3, on the side of an estimate ``near``: the root nearest to it."""
    grid = near * np.exp(np.linspace(-0.35, 0.35, 71))
    values = np.array([pressure(g, temperature) - P for g in grid])
    places = np.flatnonzero(values[1:] * values[:-1] <= 0.0)
    if places.size == 0:
        raise ValueError(f"no density near {near:g} kg/m3 at {temperature:g} K and {P:g} Pa")
    i = int(places[np.argmin(np.abs(grid[places] - near))])
    return float(brentq(lambda g: pressure(g, temperature) - P, grid[i], grid[i + 1], xtol=1e-10))
