"""Ideal-gas heat capacities."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...components import find
from ...components.ideal_gas import THETA, fitted
from ...constants import R
from .registry import Fraction, entry

Array = NDArray[np.float64]

FITTED_AT = np.linspace(255.0, 922.0, 12)
"""K. The correlation holds between its ends; beyond them the oscillators of an alkane of the same mass lead."""
RIGID = 4.0
LEAST_OMEGA = 1e-3


@entry(
    "kesler-lee",
    "cp",
    "Kesler–Lee 1976",
    "Kesler and Lee, Hydrocarbon Processing 55(3), 153 (1976); Riazi, ASTM MNL50 (2005), eq. 6.72",
    "M [A0 + A1 T + A2 T² − C (B0 + B1 T + B2 T²)], coefficients in Watson K and omega",
    {"watson_k": (10.0, 12.8)},
)
def _cp_kesler_lee(f: Fraction) -> Array:
    """Return the oscillators (n, 1 + k) of :mod:`components.ideal_gas`, J/(mol K), fitted from 255 to 922 K."""
    k, w = f.watson_k, f.known["omega"]
    mass = f.known["molar_mass"] * 1e3
    # Of nothing that is measured is omega zero; the term is left out there, which the ranges tell.
    near = np.abs(w) > LEAST_OMEGA
    inside = (k > 10.0) & (k < 12.8) & near
    c = np.where(inside, ((12.8 - k) * (10.0 - k) / (10.0 * np.where(near, w, 1.0))) ** 2, 0.0)
    a0 = -1.41779 + 0.11828 * k
    a1 = -(6.99724 - 8.69326 * k + 0.27715 * k**2) * 1e-4
    a2 = np.full_like(k, -2.2582e-6)
    b0, b1, b2 = 1.09223 - 2.48245 * w, -(3.434 - 7.14 * w) * 1e-3, -(7.2661 - 9.2561 * w) * 1e-7
    powers = FITTED_AT ** np.arange(3)[:, None]
    values = mass[:, None] * np.stack([a0 - c * b0, a1 - c * b1, a2 - c * b2], axis=-1) @ powers / R
    alkane = find("n-decane")
    prior = np.array(alkane.cp[1:]) / R / (1e3 * alkane.molar_mass)
    out = np.full((k.size, THETA.size + 1), RIGID)
    for row, cp, m in zip(out, np.maximum(values, RIGID + 0.1), mass):
        row[1:] = fitted(RIGID, FITTED_AT, cp, m * prior)
    return out * R
