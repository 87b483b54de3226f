"""Where a boiling curve is cut, and how product ranges add up."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .curve import BoilingCurve

Array = NDArray[np.float64]

REGIONS: tuple[tuple[float, float], ...] = ((423.15, 15.0), (623.15, 20.0), (823.15, 30.0), (np.inf, 60.0))
"""(up to K, width K): narrow cuts where the light products are told apart, wider above, round numbers in degC."""

ZERO_F = 459.67 / 1.8
"""0 degF, K."""

IN_FAHRENHEIT: tuple[tuple[float, float], ...] = (
    (300.0 / 1.8 + ZERO_F, 25.0 / 1.8),
    (1000.0 / 1.8 + ZERO_F, 50.0 / 1.8),
    (np.inf, 100.0 / 1.8),
)
"""The same for samples in degF, round numbers there."""

START = 273.15
"""K, from which widths are counted: 0 degC."""
SMALLEST = 0.002
"""Cuts of less than this fraction of the sample are joined to a neighbour."""


@dataclass(frozen=True)
class ProductRange:
    """A product and the boiling point (K) it ends at; it begins where the one before ends."""

    name: str
    end: float


PRODUCTS: tuple[ProductRange, ...] = (
    ProductRange("naphtha", 453.15),
    ProductRange("kerosene", 513.15),
    ProductRange("diesel", 623.15),
    ProductRange("gas oil", 823.15),
    ProductRange("residue", np.inf),
)


def automatic_boundaries(
    low: float, high: float, regions: Sequence[tuple[float, float]] = REGIONS, start: float = START
) -> Array:
    """Return the boundaries (K) strictly between ``low`` and ``high`` for widths by temperature region, counted from
    ``start``."""
    out: list[float] = []
    edge = start
    # Below the start the first width is continued downwards.
    while edge - regions[0][1] > low:
        edge -= regions[0][1]
    for end, width in regions:
        while edge < min(end, high) - 1e-6:
            if edge > low:
                out.append(edge)
            edge += width
        edge = max(edge - width, edge if edge <= end + 1e-6 else end)
        if edge < end <= high:
            edge = end
    return np.array(sorted({round(b, 6) for b in out if low < b < high}))


def cut_edges(curve: BoilingCurve, boundaries: Array, start: float = 0.0, smallest: float = SMALLEST) -> Array:
    """Return the distilled fractions (m + 1,) of the edges of m cuts from ``start`` to 1.

    Boundaries (K) outside the curve are dropped; so are those that would leave a cut below ``smallest``.
    """
    low, high = float(curve.at(np.array(start))), float(curve.temperature[-1])
    inside = np.sort(boundaries[(boundaries > low) & (boundaries < high)])
    edges = [start]
    for v in curve.distilled(inside):
        if v - edges[-1] >= smallest:
            edges.append(float(v))
    if len(edges) > 1 and 1.0 - edges[-1] < smallest:
        edges.pop()
    return np.array([*edges, 1.0])


@dataclass(frozen=True)
class Yield:
    """What a product range holds: its fractions of the sample by volume and mass."""

    name: str
    start: float
    end: float
    volume: float
    mass: float


def yields(
    curve: BoilingCurve,
    volume: Array,
    mass: Array,
    products: Sequence[ProductRange] = PRODUCTS,
    lightest: float | None = None,
) -> list[Yield]:
    """Return the yield of each product above the light ends.

    ``volume`` and ``mass`` (n + 1,) are the fractions of the whole sample below the same edges; what stands before
    the first edge are the light ends, which get a line of their own that begins at the boiling point of their
    ``lightest``, K. The yields sum to one by volume and by mass."""
    ends = np.array([p.end for p in products])
    finite = np.where(np.isfinite(ends), ends, curve.temperature[-1])
    limits = np.concatenate([[volume[0]], np.maximum(curve.distilled(finite), volume[0])])
    limits[-1] = 1.0
    masses = np.interp(limits, volume, mass)
    begin = float(curve.at(np.array(volume[0])))
    starts = [min(begin, float(finite[0])), *finite[:-1].tolist()]
    out = [
        Yield(p.name, starts[i], float(finite[i]), float(limits[i + 1] - limits[i]), float(masses[i + 1] - masses[i]))
        for i, p in enumerate(products)
    ]
    if volume[0] > 0.0:
        out.insert(
            0,
            Yield(
                "light ends",
                float(curve.temperature[0]) if lightest is None else lightest,
                begin,
                float(volume[0]),
                float(mass[0]),
            ),
        )
    return out
