"""Fit the coupling of heavy molecules in ``properties/transport.py`` (:data:`COUPLING`) to viscosities of liquid n-alkanes.

    .venv/bin/python scripts/viscosity_coupling.py

It prints the four constants, and how far each measured value is from what they make of it.
"""

from __future__ import annotations

import sys

import numpy as np
from scipy.optimize import least_squares

from cryonome.components import find
from cryonome.properties import transport

ALKANES = [
    ("n-pentane", 298.15, 0.1, 0.224), ("n-hexane", 298.15, 0.1, 0.296), ("n-hexane", 323.15, 0.1, 0.237), ("n-heptane", 298.15, 0.1, 0.390),
    ("n-octane", 298.15, 0.1, 0.508), ("n-octane", 348.15, 0.1, 0.294), ("n-decane", 298.15, 0.1, 0.845), ("n-decane", 323.15, 0.1, 0.608),
    ("n-decane", 373.15, 0.1, 0.359), ("n-dodecane", 298.15, 0.1, 1.374), ("n-dodecane", 323.15, 0.1, 0.930), ("n-dodecane", 373.15, 0.1, 0.506),
    ("n-tetradecane", 298.15, 0.1, 2.08), ("n-tetradecane", 323.15, 0.1, 1.35), ("n-tetradecane", 373.15, 0.1, 0.678),
    ("n-hexadecane", 298.15, 0.1, 3.06), ("n-hexadecane", 323.15, 0.1, 1.865), ("n-hexadecane", 373.15, 0.1, 0.873),
    ("n-octadecane", 323.15, 0.1, 2.45), ("n-octadecane", 373.15, 0.1, 1.11), ("n-eicosane", 323.15, 0.1, 3.1), ("n-eicosane", 373.15, 0.1, 1.39),
    ("n-hexane", 298.15, 100.0, 0.665), ("n-octane", 298.15, 100.0, 1.24), ("n-decane", 303.15, 100.0, 2.03), ("n-decane", 303.15, 50.0, 1.32),
    ("n-hexadecane", 323.15, 50.0, 3.4),
]  # fmt: skip
"""K, MPa and mPa s. At 0.1 MPa API Research Project 44 (1953); under pressure Dymond, Young and Isdale, Int. J. Thermophys. 1, 345 (1980), and Oliveira and
Wakeham, Int. J. Thermophys. 13, 773 (1992). As recalled from these tables, to three digits."""


class Pure:
    """The constants of one component, as viscosities ask for them."""

    def __init__(self, name: str) -> None:
        one = find(name)
        self.molar_mass, self.Tc, self.Pc, self.Vc = (np.array([v]) for v in (one.molar_mass, one.Tc, one.Pc, one.Vc))


def off(coupling: np.ndarray) -> np.ndarray:
    """Return ln of the viscosities that a coupling gives over those measured."""
    out = []
    for name, T, P, measured in ALKANES:
        part = Pure(name)
        one = transport.Mixture.of(part, np.ones((1, 1)))
        own = one.by_pressure(
            np.array([T]), np.array([1e6 * P]), np.ones(1, bool), lambda r, m=one.mixed: transport.coupled(coupling, r, m)
        )  # fmt: skip
        out.append(np.log(1e3 * own[0] / measured))
    return np.array(out)


if __name__ == "__main__":
    start = np.array(transport.COUPLING)
    found = least_squares(off, start, x_scale=np.abs(start)).x
    sys.stdout.write(f"COUPLING = {tuple(float(f'{v:.6g}') for v in found)}\n")
    for (name, T, P, _), value in zip(ALKANES, 100.0 * np.expm1(off(found))):
        sys.stdout.write(f"{name}, {T:g} K, {P:g} MPa: {value:+.1f} %\n")
