"""Bands of curves: how far samples of a line lie from it, across it, at every one of its points.

A line that turns back has no one height over an abscissa; its samples are read where they cross the line's own
normals."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

FARTHEST = 0.5
"""How far from a point of the line, in parts of the picture, a sample is looked for on its normal."""
LEAST = 0.5
"""Share of the samples that must be there at a point for a band to be drawn."""


@dataclass(frozen=True)
class Band:
    """A line x, y (n,) and where its samples lie at a low and a high percent, (n,) each, nan where too few do;
    ``count`` (n,) of them."""

    x: Array
    y: Array
    low_x: Array
    low_y: Array
    high_x: Array
    high_y: Array
    count: NDArray[np.int64]


def band(line: tuple[Array, Array], samples: list[tuple[Array, Array]], percents: tuple[float, float]) -> Band:
    """Return the band of samples about a line of x and y (n,): over the abscissa where all share it, along it where they share the
    ordinate, else across the line."""
    x, y = line
    same = [(len(a) == len(x)) for a, _ in samples]
    if all(same) and samples:
        xs, ys = (np.array([s[k] for s in samples], float) for k in (0, 1))
        if np.array_equal(xs, np.broadcast_to(x, xs.shape)):
            return _straight(x, y, ys, percents, upright=True)
        if np.array_equal(ys, np.broadcast_to(y, ys.shape)):
            return _straight(x, y, xs, percents, upright=False)
    return _across(x, y, samples, percents)


def _percentiles(values: Array, percents: tuple[float, float]) -> tuple[Array, Array, NDArray[np.int64]]:
    """Return two percentiles of each column of values (m, n), nan where fewer than half are there."""
    count = np.isfinite(values).sum(axis=0)
    out = np.full((2, values.shape[1]), np.nan)
    there = np.flatnonzero((count >= LEAST * len(values)) & (count > 0))
    if there.size:
        out[:, there] = np.nanpercentile(values[:, there], percents, axis=0)
    return out[0], out[1], count


def _straight(x: Array, y: Array, values: Array, percents: tuple[float, float], upright: bool) -> Band:
    low, high, count = _percentiles(values, percents)
    return Band(x, y, x, low, x, high, count) if upright else Band(x, y, low, y, high, y, count)


def _across(x: Array, y: Array, samples: list[tuple[Array, Array]], percents: tuple[float, float]) -> Band:
    every_x, every_y = (np.concatenate([v, *[s[k] for s in samples]]) for k, v in ((0, x), (1, y)))
    size = np.array([_span(every_x), _span(every_y)])
    points = np.column_stack([x, y]) / size
    slope = np.gradient(points, axis=0)
    slope /= np.maximum(np.linalg.norm(slope, axis=1, keepdims=True), 1e-300)
    normal = np.column_stack([-slope[:, 1], slope[:, 0]])
    # "Low" is the side of lower ordinates, for the line as a whole.
    if np.nansum(normal[:, 1]) < 0.0:
        normal = -normal
    far = np.full((len(samples), x.size), np.nan)
    for k, (a, b) in enumerate(samples):
        if len(a) > 1:
            far[k] = _crossed(points, normal, slope, np.column_stack([a, b]) / size)
    low, high, count = _percentiles(far, percents)
    ends = [(points + normal * d[:, None]) * size for d in (low, high)]
    return Band(x, y, ends[0][:, 0], ends[0][:, 1], ends[1][:, 0], ends[1][:, 1], count)


def _span(values: Array) -> float:
    there = values[np.isfinite(values)]
    return float(np.ptp(there)) or 1.0 if there.size else 1.0


def _crossed(points: Array, normal: Array, slope: Array, other: Array) -> Array:
    """Return how far along each normal (n, 2) another line (m, 2) crosses it, the nearest where it does several times;
    nan where it does not. A line that ends just short of a normal counts as going straight on to it."""
    apart = other[None, :, :] - points[:, None, :]
    along, off = (np.einsum("nmk,nk->nm", apart, v) for v in (slope, normal))
    a0, a1, o0, o1 = along[:, :-1], along[:, 1:], off[:, :-1], off[:, 1:]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = a0 / (a0 - a1)
    # Beyond an end the first and last piece go on by their own length.
    low, high = np.zeros(share.shape[1]), np.ones(share.shape[1])
    low[0], high[-1] = -1.0, 2.0
    inside = (share >= low) & (share <= high)
    distance = np.where(inside, o0 + np.where(inside, share, 0.0) * (o1 - o0), np.inf)
    best = np.argmin(np.abs(distance), axis=1)
    found = distance[np.arange(len(points)), best]
    return np.where(np.abs(found) < FARTHEST, found, np.nan)
