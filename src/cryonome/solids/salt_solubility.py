"""How much sodium chloride dissolves in water with methanol or ethylene glycol.

Grams in 100 g of solvent at 25 °C over the mass fraction of the organic in it; between the points by straight lines of
the logarithm, within some 5 %. Pure water 35.96 (CRC Handbook); with ethylene glycol Kraus, Raridon and Baldwin, J. Am.
Chem. Soc. 86, 2571 (1964); with methanol Pinho and Macedo, Fluid Phase Equilib. 116, 209 (1996). From 0 to 60 °C it
changes by a few percent alone, which is left out."""

from __future__ import annotations

import numpy as np

TABLE: dict[str, tuple[tuple[float, ...], tuple[float, ...]]] = {
    "ethylene glycol": (
        (0.0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0),
        (35.96, 32.0, 28.3, 24.9, 21.7, 18.8, 16.0, 13.5, 11.1, 8.9, 7.15),
    ),
    "methanol": ((0.0, 0.2, 0.4, 0.6, 0.8, 1.0), (35.96, 26.0, 16.6, 8.9, 4.2, 1.40)),
}


def most_salt(name: str, share: float) -> float | None:
    """Return the largest mass fraction of sodium chloride in a solution whose solvent holds a mass ``share`` of an
    organic by name; None where nothing was measured."""
    if name not in TABLE:
        return None
    at, grams = TABLE[name]
    held = float(np.exp(np.interp(share, at, np.log(grams)))) / 100.0
    return held / (1.0 + held)
