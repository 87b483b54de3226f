"""The acentric factor at which an equation of state boils a substance at a given temperature and pressure."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..constants import ATM
from .cubic import CubicForm

Array = NDArray[np.float64]

STEPS = 42
OMEGA_RANGE = (-0.8, 4.0)


def _real_roots(form: CubicForm, A: Array, B: Array) -> tuple[Array, Array]:
    """Return the smallest and largest real compressibility factor above B, by the trigonometric formula."""
    u, w = form.delta1 + form.delta2, form.delta1 * form.delta2
    c2 = u * B - B - 1.0
    c1 = w * B**2 - u * B**2 - u * B + A
    c0 = -(w * B**3 + w * B**2 + A * B)
    p, q = c1 - c2**2 / 3.0, 2.0 * c2**3 / 27.0 - c2 * c1 / 3.0 + c0
    disc = q**2 / 4.0 + p**3 / 27.0
    root = np.sqrt(np.maximum(disc, 0.0))
    one = np.cbrt(-q / 2.0 + root) + np.cbrt(-q / 2.0 - root)
    r = np.sqrt(np.maximum(-p, 1e-60) / 3.0)
    angle = np.arccos(np.clip(-q / (2.0 * r**3), -1.0, 1.0)) / 3.0
    high = np.where(disc > 0.0, one, 2.0 * r * np.cos(angle)) - c2 / 3.0
    low = np.where(disc > 0.0, one, 2.0 * r * np.cos(angle + 2.0 * np.pi / 3.0)) - c2 / 3.0
    # The liquid root loses digits to cancellation; Newton steps on the cubic restore them.
    for _ in range(3):
        slope = 3.0 * low**2 + 2.0 * c2 * low + c1
        step = (low**3 + c2 * low**2 + c1 * low + c0) / np.where(slope == 0.0, 1.0, slope)
        low = np.where(low - step > B, low - step, low)
    return low, high


def matched_omega(form: CubicForm, Tc: Array, Pc: Array, T: Array, P: float = ATM) -> Array:
    """Return the acentric factors (n,) at which pure fluids with Tc (n,) K and Pc (n,) Pa boil at T (n,) K and P Pa.

    Equal fugacities of liquid and vapour, by bisection on the attraction parameter; the alpha function is then
    inverted. nan where T is not below Tc, P not below Pc, or the omega would lie outside -0.8 to 4.
    """
    Tr, Pr = T / Tc, P / Pc
    B = form.omega_b * Pr / Tr
    scale = form.omega_a * Pr / Tr**2
    sqrt_low, sqrt_high = np.full_like(Tr, 0.2), np.full_like(Tr, 8.0)

    def ln_phi(Z: Array, A: Array) -> Array:
        Z = np.maximum(Z, B * (1.0 + 1e-12))
        attraction = A / (B * (form.delta1 - form.delta2)) * np.log((Z + form.delta1 * B) / (Z + form.delta2 * B))
        return np.asarray(Z - 1.0 - np.log(Z - B) - attraction)

    for _ in range(STEPS):
        middle = 0.5 * (sqrt_low + sqrt_high)
        A = scale * middle**2
        low, high = _real_roots(form, A, B)
        alone = np.abs(low - high) < 1e-9 * high
        liquid = np.where(alone, low < form.critical_volume_ratio * B, ln_phi(low, A) < ln_phi(high, A))
        sqrt_low, sqrt_high = np.where(liquid, sqrt_low, middle), np.where(liquid, middle, sqrt_high)
    wanted = (0.5 * (sqrt_low + sqrt_high) - 1.0) / (1.0 - np.sqrt(Tr))
    w_low, w_high = np.full_like(Tr, OMEGA_RANGE[0]), np.full_like(Tr, OMEGA_RANGE[1])
    for _ in range(STEPS):
        middle = 0.5 * (w_low + w_high)
        below = form.kappa(middle) < wanted
        w_low, w_high = np.where(below, middle, w_low), np.where(below, w_high, middle)
    omega = 0.5 * (w_low + w_high)
    inside = (Tr < 1.0) & (Pr < 1.0) & (omega > OMEGA_RANGE[0] + 1e-6) & (omega < OMEGA_RANGE[1] - 1e-6)
    return np.where(inside, omega, np.nan)
